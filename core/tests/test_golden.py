"""The same designs give the same evaluations as they did; see golden.py."""

from __future__ import annotations

import re
import unittest

from ember_core import VERSION, build_design

from . import golden


class Golden(unittest.TestCase):
    def test_the_demos_give_what_they_gave(self) -> None:
        before = golden.read()["demos"]
        after = golden.demos()
        self.assertEqual(list(before), list(after))
        self.assertEqual(golden.moved(before, after)[:20], [])

    def test_random_gadgets_give_what_they_gave(self) -> None:
        kept = golden.read()
        self.assertEqual(len(kept["designs"]), golden.RANDOM_DESIGNS)
        moved = []
        for i, (document, before) in enumerate(zip(kept["designs"], kept["digests"], strict=True)):
            after = golden.digests(build_design(document))
            self.assertEqual(list(before), list(after))
            for section, (figures, words) in after.items():
                if before[section][1] != words or abs(before[section][0] - figures) >= golden.TOLERANCE:
                    moved.append(f"design {i}: {section}")
        self.assertEqual(moved[:20], [], f"{len(moved)} sections moved")

    def test_the_version_is_that_of_the_figures_and_of_the_changelog(self) -> None:
        self.assertEqual(golden.read()["version"], VERSION)
        changes = (golden.DEMOS.parent / "CHANGELOG.md").read_text("utf-8")
        self.assertEqual(re.findall(r"^## Core (\S+)", changes, re.MULTILINE)[0], VERSION)

    def test_what_moved_is_told_by_figure(self) -> None:
        lines = ["/dusk-ear/runtime/total/value: 1.0 -> 2.0", "/snow-stake/runtime/total/value: 3.0 -> 4.0", "/x/modes/3/peak: 1 -> 2"]  # fmt: skip
        self.assertEqual(
            golden.by_figure(lines), ["- modes/peak: 1 × (1 -> 2)", "- runtime/total/value: 2 × (1.0 -> 2.0)"]
        )

    def test_a_sum_notices_a_figure_that_moved_by_a_billionth(self) -> None:
        evaluation = {"a": {"value": 0.125, "label": "A"}, "b": [1e-6, None]}
        moved = {"a": {"value": 0.125, "label": "A"}, "b": [1e-6 * (1 + 4e-9), None]}
        figures, words = golden.digest(evaluation)
        self.assertGreater(abs(golden.digest(moved)[0] - figures), golden.TOLERANCE)
        renamed = {"a": {"value": 0.125, "label": "B"}, "b": [1e-6, None]}
        self.assertEqual(golden.digest(renamed)[0], figures)
        self.assertNotEqual(golden.digest(renamed)[1], words)
        self.assertEqual(len(golden.moved(evaluation, moved)), 1)
