"""Small figures by hand that larger tests pass over."""

from __future__ import annotations

import unittest
from dataclasses import replace

from ember_core.battery.ageing import fade
from ember_core.bringup import Read, judge_reading
from ember_core.catalogue import built_in
from ember_core.design.problems import _number_amiss
from ember_core.load.day import _most_on
from ember_core.load.events import Scheduler, month_of
from ember_core.measures.bench import TrialBench
from ember_core.quantities.preferred import E6, E24
from ember_core.recipes.recipe import RECIPES
from ember_core.runtime.run import run
from ember_core.runtime.simulation import Simulation
from ember_core.studies.outlook import RUNS_A_YEAR, answer_outlook

from .gadgets import asleep, cell, design, part, plain, state, use

STRAIGHT = {"rails": [{"id": "main", "name": "Main", "feed": "battery"}]}


class Hand(unittest.TestCase):
    def test_primary_cells_lose_their_self_discharge_in_the_drawer(self) -> None:
        """Alkaline: 0.17 % a month at 20 degC, and twice that ten degrees warmer."""
        self.assertAlmostEqual(fade("alkaline", 5, 0, 20.0)[0], 1 - 5 * 12 * 0.0017, places=6)
        self.assertAlmostEqual(fade("alkaline", 5, 0, 30.0)[0], 1 - 2 * 5 * 12 * 0.0017, places=6)

    def test_words_for_a_number_that_is_too_small(self) -> None:
        self.assertEqual(_number_amiss("greater_than_equal", {"ge": 1e-6}, 0), "must be above 0")
        self.assertEqual(_number_amiss("greater_than_equal", {"ge": 1.0}, 0.5), "must be 1 or more")
        self.assertEqual(_number_amiss("greater_than_equal", {"ge": 0}, -1), "must be 0 or more")
        self.assertEqual(_number_amiss("greater_than", {"gt": 2}, 1), "must be above 2")

    def test_the_count_that_chance_does_not_exceed(self) -> None:
        """Poisson with a mean of 1: 0.368, 0.736, 0.920, 0.981, 0.996."""
        for share, count in ((0.3, 0), (0.5, 1), (0.9, 2), (0.95, 3), (0.99, 4)):
            self.assertEqual(_most_on(share, 1.0), count)

    def test_days_that_are_alike(self) -> None:
        """Every day at a whole number of planned times: all days are one; a weekday, half a time or chance, and they are not."""

        def alike(**session: object) -> bool:
            sessions = [{"name": "Use", "mode": "use", "seconds": 60, "per_day": 2, "why": "planned"} | session]
            modes = [{"id": m, "name": m, "uses": [use("p", "on")]} for m in ("rest", "use")]
            gadget = design(
                parts=[part("p", state("on", 0.01))], modes=modes, day={"rest": "rest", "sessions": sessions}
            )
            return Scheduler(gadget, run(gadget).operating_points, 0).alike

        self.assertTrue(alike())
        self.assertFalse(alike(days=[0, 1]))
        self.assertFalse(alike(months=[6]))
        self.assertFalse(alike(per_day=0.5))
        self.assertFalse(alike(why="random"))

    def test_the_current_between_two_states_of_charge(self) -> None:
        """A constant power: the current lies between those of the grid's neighbours, by how near it is to each."""
        draw = {"name": "on", "draw": {"behaviour": "power", "power_w": {"typical": 0.5}}, "provenance": "measured"}
        gadget = design(parts=[part("p", draw, rail="raw")], modes=asleep(use("p", "on")), day={"rest": "asleep"},
                        supply={"rails": [{"id": "raw", "name": "Raw", "feed": "battery"}]}, battery={"cell": cell()})  # fmt: skip
        found = run(gadget)
        simulated = Simulation(found)
        grid, table = found.pack.charge, found.typical.source_a[0]
        for k, part_of in ((5, 0.25), (20, 0.9)):
            simulated.battery = replace(simulated.battery, charge=float(grid[k] + part_of * (grid[k + 1] - grid[k])))
            wanted = float(table[k] * (1 - part_of) + table[k + 1] * part_of)
            self.assertAlmostEqual(float(simulated._currents()[0]), wanted, places=12)


if __name__ == "__main__":
    unittest.main()


class MoreByHand(unittest.TestCase):
    def test_months_of_days(self) -> None:
        """Days from the first of January; a year has 365.25, and February 28.25."""
        for day, month in ((0, 1), (30, 1), (31, 2), (59, 2), (60, 3), (334, 11), (335, 12), (364, 12), (365, 12), (366, 1), (731, 1), (762, 2)):  # fmt: skip
            self.assertEqual(month_of(day), month, day)

    def test_preferred_values_are_evenly_far_apart(self) -> None:
        """IEC 60063: each within 5 % of a power of ten's root (E24's 2.7 to 4.7 are a little off by tradition)."""
        for series, most in ((E6, 0.05), (E24, 0.06)):
            for k, value in enumerate(series):
                self.assertAlmostEqual(value / 10 ** (k / len(series)), 1.0, delta=most, msg=str(value))
        self.assertEqual(E6, E24[::4])

    def test_recipes_have_their_keys(self) -> None:
        keys = [r.key for r in RECIPES]
        self.assertEqual(len(keys), len(set(keys)))
        self.assertIn("sleeper", keys)
        self.assertTrue(all(k.isalpha() or "-" in k for k in keys), keys)

    def test_an_led_below_its_voltage_is_dark(self) -> None:
        lamp = {"id": "lamp", "name": "Lamp", "kind": "led", "rail": "main", "states": [
            {"name": "lit", "draw": {"behaviour": "led", "forward_v": 5.0, "resistance_ohm": {"typical": 100}}, "provenance": "datasheet"}
        ]}  # fmt: skip
        chip = part("chip", state("on", 1e-3))
        own = TrialBench(
            design(
                parts=[chip, lamp],
                modes=asleep(use("chip", "on"), use("lamp", "lit")),
                day={"rest": "asleep"},
                supply=STRAIGHT,
            ),
            built_in(),
        )
        self.assertAlmostEqual(float(own.part_battery_a[1, 0]), 0.0, places=9)
        self.assertAlmostEqual(float(own.usual.mode_current_a[0, own.middle]), 1e-3, places=9)

    def test_what_runs_for_minutes_is_charged_once_an_hour_at_most(self) -> None:
        strong = cell(capacity_ah=1.0, measured_ah=1.0, discharge_max_a=20.0, resistance_ohm=0.001)
        own = TrialBench(
            design(parts=[part("heater", state("on", 4.0))], modes=asleep(use("heater", "on")), day={"rest": "asleep"}, supply=STRAIGHT,
                   battery={"cell": strong, "wiring_ohm": 0}),
            built_in(),
        )  # fmt: skip
        self.assertLess(own.usual.seconds, 3600)
        told = answer_outlook(own)
        assert told is not None
        self.assertAlmostEqual(told.age[1].full_charges, RUNS_A_YEAR)

    def test_three_of_a_part_explain_three_times_as_much(self) -> None:
        lamps = part("lamp", state("dark", 1e-6), state("lit", 2e-3), quantity=3, name="Lamp")
        chip = part("chip", state("sleep", 1e-3), state("active", 40e-3))
        own = TrialBench(
            design(
                parts=[chip, lamps],
                modes=asleep(use("chip", "sleep"), use("lamp", "dark")),
                day={"rest": "asleep"},
                supply=STRAIGHT,
            ),
            built_in(),
        )
        told = judge_reading(own, Read("mode-asleep", 7e-3))
        self.assertIn("Lamp is in “lit”", plain(told.causes[0].text))
        self.assertAlmostEqual(told.causes[0].figure or 0, 1e-3 + 3 * 2e-3, delta=1e-6)
