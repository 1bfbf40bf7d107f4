"""What swapping cells takes: sets a year, cost, waste, a charge outside, by hand."""

from __future__ import annotations

import unittest
from typing import Any

from ember_core import evaluate
from ember_core.figures import Figure
from ember_core.reports.swap import SwapReport

from .gadgets import cell, design


def swap(charger: Any = None, series: int = 1, **more: Any) -> SwapReport | None:
    own = cell(
        **(
            {
                "chemistry": "alkaline",
                "form": "cylinder",
                "size_mm": [14.5, 50.5, 14.5],
                "mass_g": 23,
                "cost": 0.6,
                "cutoff_v": 0.9,
            }
            | more
        )
    )
    battery = {"cell": own, "series": series, "wiring_ohm": 0}
    return evaluate(
        design(
            battery=battery,
            charger=charger,
            supply={"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]},
        )
    ).swap


def value(shown: Figure | None) -> float:
    assert shown is not None
    assert shown.value is not None
    return shown.value


class Swap(unittest.TestCase):
    def test_primary_cells_by_hand(self) -> None:
        found = swap(series=3)
        assert found is not None
        hours = found.sets.working.inputs[0].value or 0.0
        sets = 8766 / hours
        self.assertAlmostEqual(value(found.sets), sets)
        self.assertAlmostEqual(value(found.cost), sets * 3 * 0.6)
        self.assertAlmostEqual(value(found.mass), sets * 3 * 23)
        self.assertIsNone(found.outside)
        self.assertIn("The 3 × Test cell are swapped when empty and never charged", found.sentence)
        self.assertNotIn("taped", found.sentence)
        # the longer it lasts, the fewer sets
        assert found.sets.low is not None
        assert found.sets.high is not None
        self.assertTrue(found.sets.low < sets < found.sets.high)

    def test_one_lithium_cell_is_taped(self) -> None:
        found = swap(chemistry="lithium-manganese", cutoff_v=2.0)
        assert found is not None
        self.assertIn("The Test cell is swapped", found.sentence)
        self.assertIn("contacts taped over", found.sentence)

    def test_rechargeable_ones_are_charged_outside_and_cost_nothing_a_year(self) -> None:
        found = swap(chemistry="nickel-metal-hydride", series=3)
        assert found is not None
        self.assertEqual((found.cost, found.mass), (None, None))
        self.assertAlmostEqual(value(found.outside), 2.4)
        self.assertIn("charged in a charger for such cells, each by itself", found.sentence)

    def test_a_gadget_with_a_charger_swaps_nothing(self) -> None:
        charger = {
            "name": "C",
            "program_constant_v": 1000,
            "program_ohm": 4000,
            "float_v_per_cell": 4.2,
            "rth_ja_c_per_w": 2,
        }
        self.assertIsNone(swap(charger, chemistry="lithium-ion", form="pouch", size_mm=[34, 50, 5]))
        self.assertIsNone(
            evaluate(
                design(parts=[], modes=[{"id": "asleep", "name": "Asleep", "uses": []}], day={"rest": "asleep"})
            ).swap
        )

    def test_what_costs_nothing_has_no_cost(self) -> None:
        found = swap(cost=0)
        assert found is not None
        self.assertIsNone(found.cost)
