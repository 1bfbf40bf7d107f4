"""What cells of the catalogue give at larger currents and in the cold, against what such cells usually give."""

from __future__ import annotations

import unittest
from itertools import pairwise
from pathlib import Path

from validation.typical import COLD, TABLE, given_ah, steady

from ember_core import evaluate, read_design
from ember_core.battery.pack import pack_at, steady_charge_ah
from ember_core.calculators.cell import CellTask, cell_from_datasheet
from ember_core.catalogue import built_in
from ember_core.design import Battery
from ember_core.runtime.run import run
from ember_core.runtime.simulation import run_down

from .gadgets import asleep, cell, design, part, state, use

DEMO = Path(__file__).resolve().parents[2] / "demo"
BARE = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}
WARM = {"goal_h": 100, "coldest_c": 20, "usual_c": 20, "hottest_c": 25}


class Typical(unittest.TestCase):
    def test_every_row_of_the_tables_holds(self) -> None:
        for row in [*TABLE, *COLD]:
            with self.subTest(row.key, current_a=row.current_a, temperature_c=row.temperature_c):
                self.assertTrue(row.holds, row.predicted)

    def test_no_cell_gives_more_at_a_larger_current_or_in_the_cold(self) -> None:
        for entry in built_in().entries:
            cell = entry.cell
            if cell is None or cell.bank is not None:
                continue
            with self.subTest(entry.key):
                # for longer than that it discharges itself
                hours = (0.5, 0.2, 0.05) if cell.chemistry == "super-capacitor" else (50, 20, 5)
                rates = [cell.capacity_ah / h for h in hours]
                given = [given_ah(entry.key, amps, cell.cutoff_v) for amps in rates]
                for more, less in pairwise(given):
                    self.assertLessEqual(less, more * (1 + 2e-3))
                self.assertLessEqual(given_ah(entry.key, rates[1], cell.cutoff_v, -20), given[1])

    def test_the_story_of_the_small_cells(self) -> None:
        """Tarn Light: two coin cells at 30 mA give two to three hours, not the sixteen of a division; at 4 mA over forty."""
        gadget = read_design((DEMO / "tarn-light.json").read_bytes())
        total = evaluate(gadget).runtime.total
        assert total.value and total.low and total.high
        self.assertTrue(2 < total.value < 3, total.value)
        self.assertTrue(1 < total.low < 1.5 and 3.5 < total.high < 5, (total.low, total.high))
        state_ = run(gadget)
        bright, dim = (next(i for i, m in enumerate(gadget.modes) if m.id == name) for name in ("bright", "dim"))
        self.assertGreater(gadget.battery.cell.capacity_ah * 2 / state_.mode_current_a[bright, state_.middle], 15)
        dimmed = read_design((DEMO / "tarn-light.json").read_bytes())
        dimmed.day.rest = "dim"
        dimmed.modes[bright].essential, dimmed.modes[dim].essential = False, True
        self.assertTrue(40 < run(dimmed).seconds / 3600 < 100)
        self.assertAlmostEqual(run_down(state_)[0] / state_.charge_seconds, 1.0, delta=0.005)

    def test_the_self_discharge_of_nickel_metal_hydride_flattens(self) -> None:
        """1 µA from a cell of 2 Ah: the first year takes 15 %, five years some 34 %."""

        def own(amps: float, chemistry: str = "cell-nickel-aa") -> float:
            state_ = run(steady(chemistry, amps, 1.0, 20.0))
            return state_.pack.self_discharge_a * 24 * 365.25 / state_.pack.printed_ah

        self.assertAlmostEqual(own(0.01), 0.15, delta=0.001)  # over within a month: as in the first year
        self.assertAlmostEqual(own(1e-6), 0.15 * 5**-0.5, delta=0.002)  # it is old after five years
        state_ = run(steady("cell-nickel-aa", 4e-5, 1.0, 20.0))
        years = state_.charge_seconds / (365.25 * 86400)
        self.assertTrue(2 < years < 5, years)
        self.assertAlmostEqual(own(4e-5), 0.15 * years**-0.5, delta=0.002)
        self.assertAlmostEqual(own(1e-6, "cell-disulfide-aa"), 0.0048, delta=0.0002)  # that of others does not

    def test_a_higher_cut_off_costs_more_at_a_larger_current(self) -> None:
        """The surface of the electrode is emptier than the cell: it sags before it ends."""

        def lost(amps: float) -> float:
            return 1 - given_ah("cell-coin-2032", amps, 2.6) / given_ah("cell-coin-2032", amps, 2.0)

        self.assertLess(lost(0.0002), 0.1)
        self.assertGreater(lost(0.01), 0.3)

    def test_extremes_have_an_answer(self) -> None:
        for capacity in (5e-4, 500.0):
            for celsius in (-60.0, 60.0):
                gadget = steady("cell-coin-2032", capacity / 100, 2.0, celsius)
                cell = gadget.battery.cell.model_copy(update={"capacity_ah": capacity})
                gadget = gadget.model_copy(update={"battery": gadget.battery.model_copy(update={"cell": cell})})
                self.assertTrue(0 <= run(gadget).charge_seconds < 200 * 3600)


class ThickElectrodes(unittest.TestCase):
    """A lithium-ion cell built for energy loses 0.04 h of charge per ampere, and as much again at 1 C."""

    def given(self, built_for: str, rate: float, chemistry: str = "lithium-ion") -> float:
        own = cell(capacity_ah=5.0, built_for=built_for, chemistry=chemistry, resistance_ohm=1e-4, cutoff_v=2.5)
        pack = pack_at(Battery.model_validate({"cell": own, "wiring_ohm": 0}), 25.0)
        return steady_charge_ah(pack, 5.0 * rate) / pack.capacity_ah

    def test_by_hand_at_three_rates(self) -> None:
        for rate in (0.1, 0.5, 1.0):
            self.assertAlmostEqual(self.given("energy", rate), 1 - 0.04 * rate - 0.04 * rate**2, delta=0.0005)
            self.assertAlmostEqual(self.given("power", rate), 1.0, delta=0.002)

    def test_other_chemistries_are_left_alone(self) -> None:
        self.assertEqual(
            self.given("energy", 1.0, "lithium-iron-phosphate"), self.given("power", 1.0, "lithium-iron-phosphate")
        )

    def test_within_8_percent_of_two_published_sets_of_one_such_cell_up_to_1_c(self) -> None:
        """Durations of the Doyle-Fuller-Newman model with two sets for a cell of 5 A h (docs/VALIDATION.md)."""
        for rate, first_s, second_s in (
            (0.05, 73293, 70350),
            (0.2, 18227, 17309),
            (0.5, 7222, 6780),
            (1.0, 3556, 3094),
        ):
            own = cell(capacity_ah=5.0, built_for="energy", resistance_ohm=0.022, cutoff_v=2.5)
            pack = pack_at(Battery.model_validate({"cell": own, "wiring_ohm": 0}), 25.0)
            seconds = steady_charge_ah(pack, 5.0 * rate) / (5.0 * rate) * 3600
            for published in (first_s, second_s):
                with self.subTest(f"{rate} C, {published} s"):
                    self.assertLess(abs(seconds / published - 1), 0.08)


class AgainstTheSimulation(unittest.TestCase):
    """The quadrature, which knows a day by its shares, against every event with the cell's own memory."""

    def test_steady_currents(self) -> None:
        for key, amps, cutoff, celsius in (
            ("cell-aa-alkaline", 0.5, 0.9, 21), ("cell-coin-2032", 0.01, 2.0, 21), ("cell-aa-alkaline", 0.1, 0.9, -20),
            ("cell-cyl-18650", 0.5, 3.0, -20), ("cell-disulfide-aa", 1.0, 0.9, 0),
        ):  # fmt: skip
            with self.subTest(key, celsius=celsius):
                state_ = run(steady(key, amps, cutoff, celsius))
                self.assertAlmostEqual(run_down(state_)[0] / state_.charge_seconds, 1.0, delta=0.005)

    def test_two_coin_cells_at_thirty_milliamperes(self) -> None:
        state_ = run(steady("cell-coin-2032", 0.03, 1.8, 20.0, parallel=2))
        self.assertAlmostEqual(run_down(state_)[0] / state_.charge_seconds, 1.0, delta=0.005)

    def test_a_gadget_that_wakes_every_five_seconds(self) -> None:
        """A coin cell, 2 µA asleep and 3 mA for 14 ms every five seconds: over two years."""
        cell = built_in().by_key["cell-coin-2032"].cell
        assert cell is not None
        for awake_s, years in ((0.014, 2.0),):
            gadget = design(
                parts=[part("chip", state("sleep", 2e-6), state("awake", 3e-3))],
                modes=[*asleep(use("chip", "sleep")), {"id": "awake", "name": "Awake", "uses": [use("chip", "awake")]}], supply=BARE, brief=WARM,
                day={"rest": "asleep", "wakes": [{"name": "W", "mode": "awake", "every_s": 5, "awake_s": awake_s}]},
                battery={"cell": cell.model_dump(mode="json"), "wiring_ohm": 0},
            )  # fmt: skip
            state_ = run(gadget)
            with self.subTest(awake_s):
                self.assertGreater(state_.charge_seconds, years * 365 * 86400)
                self.assertAlmostEqual(run_down(state_)[0] / state_.charge_seconds, 1.0, delta=0.005)


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
