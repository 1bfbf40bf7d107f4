"""Findings as data: the figures that a sentence tells stand beside it."""

from __future__ import annotations

import json
import re
import unittest
from pathlib import Path

from ember_core import evaluate, read_design
from ember_core.figures import Finding, as_json
from ember_core.quantities import show

from .randoms import random_design

DEMOS = sorted((Path(__file__).resolve().parents[2] / "demo").glob("*.json"))
# said with other words than figures of their own: counts, editions, gaps, and where a mode no longer holds
WITHOUT = {
    "newer-figures",
    "mode-fails-early",
    "mode-fails-at-once",
    "tight-gap",
    "collision",
    "swelling-room",
    "mixed-cells",
}


class Facts(unittest.TestCase):
    def findings(self) -> list[tuple[Finding, list[str]]]:
        """Findings with the names of the cell and the parts, which have figures in them that are nobody's fact."""
        designs = [read_design(file.read_bytes()) for file in DEMOS] + [random_design(seed) for seed in range(40)]
        return [
            (finding, [d.battery.cell.name, *(p.name for p in d.parts), *([d.charger.name] if d.charger else [])])
            for d in designs
            for finding in evaluate(d).findings
        ]

    def test_a_sentence_says_its_facts_and_no_figure_without_one(self) -> None:
        found = self.findings()
        self.assertGreater(len({f.code for f, _ in found}), 15)
        for finding, names in found:
            with self.subTest(finding.key):
                said = finding.sentence
                for name in names:
                    said = said.replace(name, "")
                for fact in finding.facts:
                    self.assertIn(show(fact.value, fact.unit), said)
                self.assertEqual(len({fact.name for fact in finding.facts}), len(finding.facts))
                if not finding.facts and finding.code not in WITHOUT:
                    self.assertIsNone(re.search(r"\d (?:[mµnk]?[AVWΩ]|mAh|Ah|h|%|°C|mm|s|min|days)\b", said), said)

    def test_they_are_in_the_json(self) -> None:
        found = json.loads(as_json(evaluate(read_design(next(d for d in DEMOS if d.stem == "dusk-ear").read_bytes()))))[
            "findings"
        ]
        fact = next(f for f in found if f["code"] == "charge-current")["facts"][0]
        self.assertEqual(set(fact), {"name", "value", "unit"})
        self.assertEqual((fact["name"], fact["unit"]), ("charge_current", "A"))
