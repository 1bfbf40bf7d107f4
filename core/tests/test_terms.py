"""The field's words: explained in a few sentences each, once, and every label that is said to name one is there."""

from __future__ import annotations

import re
import unittest
from collections import Counter
from pathlib import Path
from typing import get_args

from ember_core.figures import Step
from ember_core.terms import terms

WEB = Path(__file__).resolve().parents[2] / "web" / "src"
# what stopped makers who had not met it before
MET = (
    "quiescent", "dropout", "rail", "stage", "P10 to P90", "C-rate", "cut-off", "essential", "cycle", "clearance", "RθJA", "float voltage",
    "program constant", "power-or|higher source wins", "share of the mode", "burst", "used more or less", "comes apart", "duty|share of the mode",
)  # fmt: skip


class Terms(unittest.TestCase):
    def test_each_is_explained_once_in_two_or_three_sentences(self) -> None:
        found = terms()
        self.assertGreaterEqual(len(found), 80)
        self.assertEqual(len({t.name for t in found}), len(found))
        for term in found:
            with self.subTest(term.key):
                self.assertIn(term.step, get_args(Step))
                sentences = re.findall(r"[.!?](?=\s|$)", term.text)
                self.assertTrue(2 <= len(sentences) <= 5, term.text)
                self.assertTrue(80 < len(term.text) < 420, len(term.text))
                self.assertTrue(term.text[0].isupper() and term.text.endswith("."))

    def test_each_label_is_in_the_interface_and_names_one_term(self) -> None:
        labels = [label for t in terms() for label in t.labels]
        self.assertGreater(len(labels), 40)
        self.assertEqual([k for k, n in Counter(labels).items() if n > 1], [])
        source = "\n".join(f.read_text() for e in ("*.tsx", "*.ts") for f in WEB.rglob(e))
        self.assertEqual([label for label in labels if f'"{label}"' not in source], [])

    def test_the_words_of_pictures_are_terms(self) -> None:
        keys, named = {t.key for t in terms()}, list[str]()
        for file in sorted(WEB.rglob("*.tsx")):
            for words in re.findall(r"words=\{\[([^\]]*)\]", file.read_text()):
                named += re.findall(r'"([^"]+)"', words)
        self.assertGreater(len(named), 25)
        self.assertEqual(set(named) - keys, set())

    def test_what_stopped_makers_is_explained(self) -> None:
        names = "\n".join(t.name for t in terms())
        for word in MET:
            with self.subTest(word):
                self.assertRegex(names, f"(?i){word}")

    def test_drawings_stay_on_their_sheet_and_are_told_in_words_too(self) -> None:
        drawn = [t for t in terms() if t.drawing]
        self.assertGreaterEqual(len(drawn), 10)
        for term in drawn:
            assert term.drawing is not None
            self.assertTrue(term.drawing.lines and term.drawing.words, term.key)
            for line in term.drawing.lines:
                points = [tuple(map(float, p.split(","))) for p in line.points.split()]
                self.assertGreaterEqual(len(points), 2)
                self.assertTrue(all(0 <= x <= 200 and 0 <= y <= 80 for x, y in points), term.key)
            for word in term.drawing.words:
                self.assertTrue(
                    word.x >= 0 and word.x + 4.9 * len(word.text) <= 204 and 8 <= word.y <= 80, (term.key, word.text)
                )
            self.assertEqual(len({w.text for w in term.drawing.words}), len(term.drawing.words))
