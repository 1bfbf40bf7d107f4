"""What cells of the catalogue give at larger currents: the typical figures that the two wells were chosen by."""

from __future__ import annotations

import unittest

from ember_core.calculators.cell import CellTask, cell_from_datasheet
from ember_core.catalogue import built_in
from ember_core.runtime.run import run

from .gadgets import asleep, design, part, state, use

BARE = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}
WARM = {"goal_h": 100, "coldest_c": 20, "usual_c": 20, "hottest_c": 25}


def given_ah(name: str, amps: float, cutoff_v: float, temperature_c: float = 20) -> float:
    """Charge that a catalogue cell, as good as printed, gives at a steady current down to a cut-off [A h]."""
    found = next(c for c in built_in().cells if c.name.startswith(name))
    cell = found.model_copy(update={"measured_ah": found.capacity_ah, "cutoff_v": cutoff_v, "discharge_max_a": 100})
    gadget = design(
        parts=[part("load", state("on", amps))], modes=asleep(use("load", "on")), supply=BARE, day={"rest": "asleep"},
        battery={"cell": cell.model_dump(mode="json"), "wiring_ohm": 0}, brief=WARM,
    )  # fmt: skip
    return amps * run(gadget, temperature_c).seconds / 3600


class Rates(unittest.TestCase):
    def test_an_aa_alkaline_cell_gives_half_to_two_thirds_at_half_an_ampere(self) -> None:
        gentle, strong = given_ah("AA alkaline", 0.025, 0.8), given_ah("AA alkaline", 0.5, 0.8)
        self.assertAlmostEqual(gentle, 2.4, delta=0.15)
        self.assertTrue(0.45 < strong / gentle < 0.67)

    def test_a_coin_cell_gives_half_at_twenty_milliamperes(self) -> None:
        self.assertAlmostEqual(given_ah("Coin CR2032", 0.001, 2.0), 0.215, delta=0.01)
        self.assertAlmostEqual(given_ah("Coin CR2032", 0.01, 2.0), 0.15, delta=0.015)
        self.assertLess(given_ah("Coin CR2032", 0.02, 2.0), 0.52 * 0.22)

    def test_iron_disulfide_hardly_minds(self) -> None:
        self.assertGreater(given_ah("AA lithium", 1.0, 0.8), 0.9 * given_ah("AA lithium", 0.025, 0.8))

    def test_a_bobbin_cell_of_thionyl_chloride_minds_much(self) -> None:
        gentle = given_ah("Cylinder 14505, thionyl", 0.001, 2.0)
        self.assertLess(given_ah("Cylinder 14505, thionyl", 0.1, 2.0), 0.5 * gentle)

    def test_a_larger_cell_of_a_kind_gives_more_and_a_cold_one_less(self) -> None:
        self.assertGreater(given_ah("D alkaline", 0.5, 0.8), 4 * given_ah("AA alkaline", 0.5, 0.8))
        self.assertLess(given_ah("AA alkaline", 0.25, 0.8, -10), 0.5 * given_ah("AA alkaline", 0.25, 0.8))


class Datasheets(unittest.TestCase):
    def task(self, **more: object) -> CellTask:
        base = {"name": "Own", "chemistry": "lithium-ion", "form": "pouch", "capacity_ah": 1.2, "size_mm": [34, 50, 6]}
        return CellTask.model_validate(base | more)

    def test_what_is_missing_comes_from_cells_of_its_kind(self) -> None:
        made = cell_from_datasheet(self.task(resistance_ohm=0.07), built_in())
        self.assertEqual({f.label for f in made.assumed}, {"Cut-off", "Most discharge current", "Mass"})
        self.assertEqual(made.cell.resistance_ohm, 0.07)
        self.assertTrue(15 < made.cell.mass_g < 40)
        self.assertIn("A second capacity", made.sentence)

    def test_two_capacities_are_both_given_back(self) -> None:
        made = cell_from_datasheet(self.task(capacity_at_a=0.24, second_ah=1.1, second_at_a=1.2), built_in())
        cell = made.cell.model_dump(mode="json")
        for amps, expected in ((0.24, 1.2), (1.2, 1.1)):
            gadget = design(
                parts=[part("load", state("on", amps))], modes=asleep(use("load", "on")), supply=BARE, brief=WARM,
                battery={"cell": cell, "wiring_ohm": 0}, day={"rest": "asleep"},
            )  # fmt: skip
            self.assertAlmostEqual(amps * run(gadget, 25).seconds / 3600, expected, delta=0.02 * expected)
        self.assertIn("gives both capacities back", made.sentence)

    def test_figures_that_do_not_go_together_are_said(self) -> None:
        made = cell_from_datasheet(
            self.task(capacity_at_a=0.24, second_ah=1.18, second_at_a=3.6, resistance_ohm=0.3), built_in()
        )
        self.assertIn("does not go with it", made.sentence)
        with self.assertRaisesRegex(ValueError, "above the one at the smaller"):
            self.task(second_ah=1.3, second_at_a=1.2)
        with self.assertRaisesRegex(ValueError, "needs its current"):
            self.task(second_ah=1.0)


if __name__ == "__main__":
    unittest.main()
