"""Small pieces by hand: extrapolation, crossings, a clamp, resistances, and what a regulator put in must stand."""

from __future__ import annotations

import unittest
from typing import Any

import numpy as np

from ember_core import Design
from ember_core.battery.pack import pack_at
from ember_core.calculators.cell import fit_cell
from ember_core.calculators.led import LedTask, design_lamp
from ember_core.catalogue import built_in
from ember_core.design import Cell
from ember_core.design.patches import apply
from ember_core.design.problems import DocumentError
from ember_core.findings.supply.stages import _own_rail
from ember_core.measures.bench import TrialBench
from ember_core.measures.selection import ABOVE, HEADROOM, before_rail, rail_window_v
from ember_core.runtime.limits import Condition, breaks
from ember_core.runtime.run import run
from ember_core.supply.converters import ShuntModel
from ember_core.supply.solver import _extrapolated, _jumped

from .gadgets import cell, design, part, seen, state, use

STRAIGHT = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}


class Extrapolation(unittest.TestCase):
    def test_a_geometric_series_goes_to_its_limit_at_once(self) -> None:
        for limit, step, ratio in ((3.3, 0.4, 0.5), (1.0, -0.2, 0.9)):
            v0, v1, v2 = (np.array([limit + step * ratio**k]) for k in range(3))
            self.assertAlmostEqual(float(_extrapolated(v0, v1, v2)[0]), limit, places=9)

    def test_what_does_not_shrink_steadily_is_left(self) -> None:
        for steps in ((1.0, 2.0, 3.1), (1.0, 2.0, 1.5), (1.0, 1.0, 1.0), (0.0, 1.0, 1.991)):
            v0, v1, v2 = (np.array([v]) for v in steps)
            self.assertEqual(float(_extrapolated(v0, v1, v2)[0]), steps[2])

    def test_a_slide_is_followed_by_a_twentieth_of_the_voltage_at_most(self) -> None:
        for steps, found in (
            ((3.0, 2.999, 2.998011), 2.998011 - 0.000989 * 0.989 / 0.011),  # still shrinks
            ((3.0, 2.999, 2.998009), 2.998009 - 0.000991 * 99),  # hardly
            ((3.0, 2.999, 2.997), 2.997 - 0.15),  # grows: 99 of its steps would be 0.198 V
            ((3.0, 2.9, 2.7), 2.7 - 0.15),
        ):
            v0, v1, v2 = (np.array([v]) for v in steps)
            self.assertAlmostEqual(float(_extrapolated(v0, v1, v2)[0]), found, places=9)

    def test_small_steps_may_go_to_and_fro(self) -> None:
        for limit, step, ratio in ((3.3, 4e-5, 0.5), (3.3, -4e-5, -0.5), (0.01, 1e-5, -0.02), (3.3, 4e-5, 0.96)):
            v0, v1, v2 = (np.array([limit + step * ratio**k]) for k in range(3))
            self.assertAlmostEqual(float(_jumped(v0, v1, v2)[0]), limit, places=12)
        for steps in ((1.0, 2.0, 3.0), (1.0, 2.0, 1.0), (1.0, 1.0, 1.0), (0.0, 1.0, 1.991)):
            v0, v1, v2 = (np.array([v]) for v in steps)
            self.assertEqual(float(_jumped(v0, v1, v2)[0]), steps[2])


class Crossing(unittest.TestCase):
    CHARGE = np.array([1.0, 0.5, 0.0])

    def broken(self, *values: float, sign: int = 1, limit: float = 3.0) -> tuple[float, int]:
        condition = Condition("cutoff", "", np.array([0]), np.array([values]), limit, sign, "V")
        rows, at, first = breaks(condition, self.CHARGE)
        self.assertLessEqual(rows.tolist(), [0])
        return (float(at[0]), int(first[0])) if rows.size else (0.0, -1)

    def test_linear_between_two_points(self) -> None:
        self.assertAlmostEqual(self.broken(4.0, 3.25, 2.75)[0], 0.25)
        self.assertEqual(self.broken(4.0, 3.25, 2.75)[1], 2)
        self.assertAlmostEqual(self.broken(3.2, 2.6, 2.5)[0], 1 - 0.5 / 3)

    def test_at_once_and_never(self) -> None:
        self.assertEqual(self.broken(2.9, 2.8, 2.0), (1.0, 0))
        self.assertEqual(self.broken(3.2, 3.1, 3.0), (0.0, -1))

    def test_only_the_rows_that_break_are_told(self) -> None:
        """One row holds, one breaks at 0.25, one at once; a single column breaks at once or never."""
        rows = np.array([4, 5, 6])
        values = np.array([[4.0, 3.5, 3.1], [4.0, 3.25, 2.75], [2.0, 2.0, 2.0]])
        for value, charges in ((values, [0.25, 1.0]), (values[:, 2:], [1.0, 1.0])):
            broken, at, _ = breaks(Condition("cutoff", "", rows, value, 3.0, 1, "V"), self.CHARGE)
            np.testing.assert_array_equal(broken, [1, 2])
            np.testing.assert_allclose(at, charges)

    def test_what_must_not_be_exceeded(self) -> None:
        self.assertAlmostEqual(self.broken(2.0, 2.5, 3.5, sign=-1)[0], 0.25)

    def test_kept_just_above_and_lost_just_below_the_cutoff(self) -> None:
        for limit, lost in ((2.999999, False), (3.000001, True)):
            self.assertEqual(self.broken(3.2, 3.1, 3.0, limit=limit)[1] >= 0, lost)


class Clamp(unittest.TestCase):
    LAW = ShuntModel(output_v=3.0, resistance_ohm=100.0)

    def test_in_regulation_a_load_costs_nothing_more_and_below_it_its_own_current(self) -> None:
        input_v, load = np.array([5.0, 5.0, 5.0]), np.array([0.0, 0.01, 0.03])
        output = self.LAW.output_voltage(input_v, load)
        np.testing.assert_allclose(output, [3.0, 3.0, 2.0])
        np.testing.assert_allclose(self.LAW.input_current(input_v, output, load), [0.02, 0.02, 0.03])
        np.testing.assert_allclose(self.LAW.marginal_current(input_v, output, load), [0.0, 0.0, 1.0])


class Resistance(unittest.TestCase):
    def test_a_steady_current_sees_both_parts(self) -> None:
        gadget = design(battery={"cell": cell(), "wiring_ohm": 0})
        pack = pack_at(gadget.battery, 25.0)
        np.testing.assert_allclose(pack.steady_ohm, pack.resistance_ohm + pack.polarization_ohm)
        self.assertGreaterEqual(float(np.min(pack.steady_ohm - pack.resistance_ohm)), 0.0)


class Lamp(unittest.TestCase):
    def task(self, **more: Any) -> LedTask:
        return LedTask.model_validate({"rail_v": 5, "forward_v": 2, "mcd_per_ma": 20, "wanted_mcd": 100, "current_max_a": 0.02} | more)  # fmt: skip

    def test_a_given_resistor_is_lit_for_a_part_of_the_time_and_never_more_than_all(self) -> None:
        """100 mcd of 20 mcd/mA are 5 mA: 3 V over 300 ohm are 10 mA, half the time; over 1 kohm 3 mA, always."""
        half, always = (design_lamp(self.task(resistor_ohm=ohm)) for ohm in (300, 1000))
        self.assertAlmostEqual(half.duty.value or 0, 50)
        self.assertAlmostEqual(half.mean.value or 0, 0.005)
        self.assertEqual(always.duty.value, 100)
        self.assertAlmostEqual(always.intensity.value or 0, 60.0)
        self.assertIn("a smaller resistor is needed", always.sentence)

    def test_without_a_resistor_it_is_lit_steadily(self) -> None:
        found = design_lamp(self.task())
        self.assertEqual(found.duty.value, 100)
        self.assertAlmostEqual(found.current.value or 0, 3 / 620)  # 600 ohm, and the next of E24


class Discharges(unittest.TestCase):
    def test_one_to_three(self) -> None:
        for count in (0, 4):
            with self.subTest(count=count), self.assertRaisesRegex(DocumentError, "one to three are used"):
                fit_cell(Cell.model_validate(cell()), [None] * count)  # type: ignore[list-item]


class PutIn(unittest.TestCase):
    def straight(self, **more: Any) -> Design:
        return design(parts=[part("chip", state("sleep", 1e-3), state("active", 0.1), **more)], supply=STRAIGHT)

    def test_a_regulator_stays_a_twentieth_below_the_absolute_maximum_and_within_the_range(self) -> None:
        def made(gadget: Design) -> list[float]:
            ways = list(before_rail(TrialBench(gadget, built_in()), 0))
            return [apply(gadget, way).supply.stages[0].output_v for way in ways]  # type: ignore[union-attr]

        for ceiling in (3.6, 3.3 / HEADROOM + 0.001, 3.3 / HEADROOM - 0.001):
            gadget = self.straight(supply_absolute_max_v=ceiling)
            self.assertAlmostEqual(rail_window_v(gadget, 0)[1], HEADROOM * ceiling)
            outputs = made(gadget)
            self.assertTrue(outputs)
            self.assertLessEqual(max(outputs), HEADROOM * ceiling)
        self.assertLessEqual(max(made(self.straight(supply_absolute_max_v=5, supply_recommended_max_v=3.0))), 3.0)
        needy = self.straight(supply_absolute_max_v=4.0, supply_min_v=3.2)
        self.assertAlmostEqual(rail_window_v(needy, 0)[0], ABOVE * 3.2)
        self.assertGreater(min(made(needy)), 3.2)

    def test_a_rail_of_its_own_lies_between_what_the_part_needs_and_stands(self) -> None:
        chip = part("chip", state("sleep", 1e-4), state("active", 0.02))
        strip = part("strip", state("off", 1e-6), state("on", 0.05), supply_min_v=4.6, supply_absolute_max_v=5.5)
        modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep"), use("strip", "off")]},
                 {"id": "awake", "name": "Awake", "uses": [use("chip", "active"), use("strip", "on")]}]  # fmt: skip
        gadget = design(parts=[chip, strip], modes=modes, supply=STRAIGHT)
        ways = list(_own_rail(TrialBench(gadget, built_in()), "strip"))
        self.assertTrue(ways)
        for way in ways:
            after = apply(gadget, way)
            volts = run(after).typical.rail_v[1]
            self.assertGreater(float(volts.min()), 4.6)
            self.assertLess(float(volts.max()), HEADROOM * 5.5)
            self.assertEqual([p.rail for p in after.parts], ["main", after.supply.rails[1].id])
        self.assertFalse(list(_own_rail(TrialBench(gadget, built_in()), "chip")))  # nothing is asked of its voltage


class Unpowered(unittest.TestCase):
    def gadget(self, in_use: bool) -> Design:
        """A divider at the battery, read by a chip that a switch cuts off at rest."""
        on = {"name": "on", "draw": {"behaviour": "resistor", "resistance_ohm": {"typical": 2e4}}}
        divider = part("divider", on, rail="raw", divider={"upper_ohm": 1e4, "lower_ohm": 1e4, "reader": "chip"})
        chip = part("chip", state("active", 0.05), kind="controller")
        clock = part("clock", state("on", 1e-6), rail="raw")
        switch = {"type": "pass", "id": "sw", "name": "Switch", "input": "battery", "role": "switch", "resistance_ohm": 0.1,
                  "limit_a": 1, "enable": True}  # fmt: skip
        rails = [{"id": "main", "name": "Main", "feed": "sw"}, {"id": "raw", "name": "Raw", "feed": "battery"}]
        rest = [use("clock", "on"), *([use("divider", "on")] if in_use else [])]
        modes = [{"id": "asleep", "name": "Asleep", "uses": rest, "off_stages": ["sw"]},
                 {"id": "awake", "name": "Awake", "uses": [use("chip", "active"), use("clock", "on"), use("divider", "on")]}]  # fmt: skip
        return design(parts=[divider, chip, clock], modes=modes, supply={"stages": [switch], "rails": rails})

    def test_only_where_the_divider_is_powered_and_in_use(self) -> None:
        self.assertTrue(seen(self.gadget(True), "unpowered-pin"))
        self.assertFalse(seen(self.gadget(False), "unpowered-pin"))
