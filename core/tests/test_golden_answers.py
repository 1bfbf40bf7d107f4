"""What was answered is answered still; see golden_answers.py."""

from __future__ import annotations

import unittest

from . import golden_answers


class Answers(unittest.TestCase):
    """A test for each group, so that one that is quick is run for itself."""

    def same(self, group: str) -> None:
        kept = golden_answers.read()[group]
        self.assertGreater(len(kept), 0)
        self.assertEqual(golden_answers.moved(group, kept), [])

    def test_nothing_is_left_out(self) -> None:
        here = {name.removeprefix("test_of_").replace("_", " ") for name in dir(self) if name.startswith("test_of_")}
        self.assertEqual(here, set(golden_answers.read()))
        self.assertEqual({group for group, _, _ in golden_answers.subjects()}, here)


def _test(group: str):  # type: ignore[no-untyped-def]
    return lambda self: self.same(group)


for _group in ("charge", "heat", "range", "outlook", "table", "holding", "place", "rail", "day", "section", "gaps", "cells", "savings", "remedies",
               "odd gadgets", "odd cases", "search", "lists", "summary", "calculators", "merging", "quantities", "tables",
               "wiring", "bring-up", "plan", "traces", "run-down", "report", "intervals", "compare", "recipes", "schools", "choices"):  # fmt: skip
    setattr(Answers, f"test_of_{_group.replace(' ', '_')}", _test(_group))


if __name__ == "__main__":
    unittest.main()
