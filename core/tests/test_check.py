"""A cell checked on a load, by hand; its history."""

from __future__ import annotations

import unittest
from typing import Any

from pydantic import ValidationError

from ember_core import DocumentError, evaluate
from ember_core.battery.ageing import fade
from ember_core.battery.chemistry import highest_v
from ember_core.calculators.check import AGED, GOOD, MORE, MOST_V, WORN, CheckTask, cell_history, check_cell
from ember_core.design import Cell

from .gadgets import cell, design, plain

OWN = Cell.model_validate(cell(capacity_ah=2.0, resistance_ohm=0.05))


def task(**more: Any) -> CheckTask:
    return CheckTask(cell=more.pop("cell", OWN), **more)


class Checks(unittest.TestCase):
    def test_by_hand(self) -> None:
        found = check_cell(task(load_a=0.4, lasted_s=4.5 * 3600, rest_v=4.12, loaded_v=4.08))
        assert found.held is not None and found.share is not None and found.resistance is not None
        self.assertEqual((found.capacity_ah, found.resistance_ohm), (1.8, 0.1))  # 0.4 A for 4.5 h; 40 mV over 0.4 A
        self.assertEqual((found.held.value, found.share.value), (1.8, 90.0))
        # 10 ohm: 3.6 V as it has under the load is 0.36 A for 5 h; the step is of 4 V over 10 ohm
        through = check_cell(task(load_ohm=10, mean_v=3.6, lasted_s=5 * 3600, rest_v=4.1, loaded_v=4.0))
        self.assertEqual((through.capacity_ah, through.resistance_ohm), (1.8, 0.25))
        usual = check_cell(task(load_ohm=10, lasted_s=3600)).capacity_ah or 0  # at half its charge some 3.7 V
        self.assertTrue(0.36 < usual < 0.385, usual)

    def test_what_it_means_at_both_sides(self) -> None:
        for share, word in ((MORE + 0.01, "more than was in it"), (MORE - 0.01, "as good as new"), (GOOD + 0.001, "as good as new"),
                            (GOOD - 0.001, "has been used"), (WORN + 0.001, "has been used"), (WORN - 0.001, "worn out")):  # fmt: skip
            found = check_cell(task(load_a=0.4, lasted_s=share * 2.0 / 0.4 * 3600))
            self.assertIn(word, " ".join(found.sentences), share)
            self.assertEqual(found.capacity_ah is None, share > MORE)  # what is doubted goes nowhere
        for ohm, aged in ((AGED * 0.05 - 0.001, False), (AGED * 0.05 + 0.001, True)):
            found = check_cell(task(load_a=1.0, rest_v=4.0, loaded_v=4.0 - ohm))
            self.assertEqual("has aged" in " ".join(found.sentences), aged, ohm)
            self.assertIsNone(found.held)
        for amps, hard in ((0.99, False), (1.01, True)):
            found = check_cell(task(load_a=amps, lasted_s=3600))
            self.assertEqual("stays inside" in " ".join(found.sentences), hard)

    def test_a_pack_is_no_cell_for_each_kind(self) -> None:
        kinds = {"lithium-ion": 4.2, "lithium-iron-phosphate": 3.6, "nickel-metal-hydride": 1.45, "alkaline": 1.6, "lithium-coin": 3.2,
                 "lithium-iron-disulfide": 1.8, "lithium-thionyl": 3.67, "lead-acid": 2.15, "zinc-air": 1.4, "silver-oxide": 1.6}  # fmt: skip
        for chemistry, top in kinds.items():  # fresh or full, from their data sheets
            one = Cell.model_validate(cell(chemistry=chemistry, cutoff_v=0.9))
            task(cell=one, load_a=0.1, rest_v=top, loaded_v=0.9 * top)
            for cells in (2, 3):
                with self.assertRaisesRegex(ValidationError, "by itself"):
                    task(cell=one, load_a=0.1, rest_v=cells * top, loaded_v=0.9 * cells * top)
        limit = MOST_V * highest_v(OWN)
        task(load_a=0.1, rest_v=limit - 0.001, loaded_v=3.5)
        with self.assertRaises(ValidationError):
            task(load_a=0.1, rest_v=limit + 0.001, loaded_v=3.5)

    def test_what_says_too_little_or_cannot_be_is_refused(self) -> None:
        for wrong in (
            {"load_a": 1.0}, {"load_a": 1.0, "load_ohm": 3.0, "lasted_s": 60}, {"lasted_s": 60}, {"load_a": 1.0, "rest_v": 4.0},
            {"load_a": 1.0, "rest_v": 4.0, "loaded_v": 4.0}, {"load_a": float("nan"), "lasted_s": 60}, {"load_a": -1, "lasted_s": 60},
            {"load_a": 1e9, "lasted_s": 60}, {"load_ohm": 0, "lasted_s": 60}, {"load_a": 1, "lasted_s": 0},
        ):  # fmt: skip
            with self.assertRaises(ValidationError, msg=str(wrong)):
                task(**wrong)


def checked(*rows: tuple[str, float | None, float | None]) -> Cell:
    checks = [{"date": d, "capacity_ah": q, "resistance_ohm": r} for d, q, r in rows]
    return Cell.model_validate(cell(capacity_ah=2.0) | {"checks": checks})


class History(unittest.TestCase):
    def test_a_straight_line_by_hand(self) -> None:
        """96 % and, 730.5 days later, 84 %: 6 % a year."""
        found = cell_history(checked(("2026-06-01", 1.68, None), ("2024-06-01", 1.92, 0.08)))
        assert found is not None and found.fade is not None and found.latest is not None
        self.assertAlmostEqual(found.fade.value or 0, 12 / (730 / 365.25), places=9)
        self.assertAlmostEqual(found.latest.value or 0, 84)
        self.assertIn("it loses 6 % a year", plain(found.sentence))
        usual = 1 - fade("lithium-ion", 1.0, 0.0)[0]  # lying at 25 °C
        self.assertTrue(0.02 < usual < 0.08)
        self.assertIn(f"about {usual * 100:.2g} %", plain(found.sentence))

    def test_from_when_on_a_trend_is_told(self) -> None:
        for last, told in (("2026-01-30", False), ("2026-01-31", True)):
            found = cell_history(checked(("2026-01-01", 1.9, None), (last, 1.89, None)))
            assert found is not None
            self.assertEqual((found.fade is not None, bool(found.sentence)), (told, told), last)
        better = cell_history(checked(("2026-01-01", 1.9, None), ("2026-07-01", 1.92, None)))
        assert better is not None
        self.assertIn("no loss", better.sentence)
        only_ohm = cell_history(checked(("2026-01-01", None, 0.1)))
        assert only_ohm is not None
        self.assertEqual((only_ohm.latest, only_ohm.fade), (None, None))
        self.assertIsNone(cell_history(checked()))

    def test_it_is_in_the_evaluation_and_wrong_days_are_told(self) -> None:
        own = checked(("2026-01-01", 1.9, None)).model_dump(mode="json")
        report = evaluate(design(battery={"cell": own, "wiring_ohm": 0})).battery
        assert report.history is not None and report.history.latest is not None
        self.assertAlmostEqual(report.history.latest.value or 0, 95)
        for day in ("2026-02-30", "yesterday", ""):
            wrong = own | {"checks": [{"date": day}]}
            with self.assertRaises(DocumentError):
                design(battery={"cell": wrong, "wiring_ohm": 0})


if __name__ == "__main__":
    unittest.main()
