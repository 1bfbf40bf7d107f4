"""Small figures by hand that larger tests pass over."""

from __future__ import annotations

import unittest
from dataclasses import replace

from ember_core.battery.ageing import fade
from ember_core.design.problems import _number_amiss
from ember_core.load.day import _most_on
from ember_core.load.events import Scheduler
from ember_core.runtime.run import run
from ember_core.runtime.simulation import Simulation

from .gadgets import asleep, cell, design, part, state, use


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
