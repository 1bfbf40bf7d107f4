"""Sentences: shapes that none may have, over the demos and random gadgets, with ways out and measures for some of them."""

from __future__ import annotations

import json
import unittest

from ember_core import build_design

from .golden import DEMOS
from .randoms import random_design, sweep
from .said import said_of, wrong_with


class Sentences(unittest.TestCase):
    def hold(self, told: list[tuple[str, str]], which: str) -> None:
        self.assertGreater(len(told), 50, which)
        wrong = [(kind, found, text) for kind, text in told if (found := wrong_with(kind, text))]
        self.assertEqual(wrong, [], which)

    def test_what_is_said_of_the_demos(self) -> None:
        for file in sorted(DEMOS.glob("*.json")):
            with self.subTest(file.stem):
                self.hold(list(said_of(build_design(json.loads(file.read_text())), studies=True)), file.stem)

    def test_what_is_said_of_random_gadgets(self) -> None:
        for seed in sweep(16, 2000):
            with self.subTest(seed):
                self.hold(list(said_of(random_design(seed), studies=seed % 10 == 0)), str(seed))

    def test_what_is_no_sentence_is_noticed(self) -> None:
        for text, wrong in (
            ("The runtime is then 11.5 h instead of 11.5 h.", "the same instead of the same"),
            ("It gets 5 V and needs 5 V.", "gets as much as it needs"),
            ("That is about > 99 % of it.", "about beyond"),
            ("It takes 1 times as much.", "once as much"),
            ("With 0 A left it stops.", "nothing left"),
            ("It ends in 3 V to 3 V.", "no range"),
            ("It is is wrong.", "a word twice"),
            ("It stops ; there.", "spaces"),
            ("It takes 0.123456789 A.", "a figure as Python writes it"),
            ("It takes nan A.", "nothing to tell"),
            ("It has no end", "no end"),
            ("it begins small.", "begins small"),
        ):
            with self.subTest(text):
                self.assertIn(wrong, wrong_with("sentence", text))
        for text in ("It takes 1.1 times as much.", "It gets 5 V and needs 5.5 V.", "11.5 h instead of 11.4 h.", "From 3 V to 3.3 V."):  # fmt: skip
            with self.subTest(text):
                self.assertEqual(wrong_with("sentence", text), [])


if __name__ == "__main__":
    unittest.main()
