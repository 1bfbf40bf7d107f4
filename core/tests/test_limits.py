"""Where a mode fails, worked by hand: rate, sources, converters' inputs and starts, lights that go dark."""

from __future__ import annotations

import unittest
from typing import Any

import numpy as np

from ember_core import Design
from ember_core.runtime.limits import HOLDS, Failure, dark_below_v
from ember_core.runtime.run import run

from .gadgets import LINEAR, cell, design, part, state, use
from .test_stages import BOOST, USB

STRAIGHT = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}
ONE = [{"id": "on", "name": "On", "uses": [use("chip", "on")]}]


def steady(
    amps: float,
    curve: dict[str, Any] | None = None,
    supply: dict[str, Any] | None = None,
    most: float | None = None,
    **more: Any,
) -> Design:
    """One part at a steady current on a cell with a straight curve from 4 V full to 3 V empty."""
    line = {"soc": [0, 1], "open_circuit_v": [3.0, 4.0], "resistance_ohm": [0.0, 0.0]} | (curve or {})
    battery = {"cell": cell(curve=line, measured_ah=None, cutoff_v=2.5, discharge_max_a=20), "wiring_ohm": 0}
    chip = part("chip", state("on", amps, max=most), **more.pop("chip", {}))
    return design(
        **(
            {"parts": [chip], "modes": ONE, "day": {"rest": "on"}, "supply": supply or STRAIGHT, "battery": battery}
            | more
        )
    )


def failure(gadget: Design, mode: int = 0) -> Failure:
    return run(gadget).failures[mode]


class ByHand(unittest.TestCase):
    def test_what_is_unavailable_at_a_rate_ends_it(self) -> None:
        """h I = 0.2 h × 1 A of 1 Ah: a fifth stays inside, felt in full by the end of a long discharge."""
        for amps in (0.5, 1.0):
            found = failure(steady(amps, {"unavailable_h": 0.2}))
            self.assertEqual(found.reason, "kinetics")
            self.assertAlmostEqual(found.charge, 0.2 * amps, delta=0.004)
        self.assertEqual(failure(steady(1.0)), HOLDS)

    def test_a_cut_off_is_met_where_the_curve_says(self) -> None:
        """V = 3 + z − I R: with 0.2 Ω and 1 A, 3.3 V are left at z = 0.5."""
        resisting = {"resistance_ohm": [0.2, 0.2]}
        gadget = steady(1.0, resisting).model_copy(deep=True)
        battery = gadget.battery.model_copy(update={"cell": gadget.battery.cell.model_copy(update={"cutoff_v": 3.3})})
        found = failure(gadget.model_copy(update={"battery": battery}))
        self.assertEqual((found.reason, found.limit, found.unit), ("cutoff", 3.3, "V"))
        self.assertAlmostEqual(found.charge, 0.5, places=4)

    def test_a_parts_least_supply_counts_with_its_max_current(self) -> None:
        """The worst operating point: 1 A max through 0.2 Ω leaves 3.4 V at z = 0.6; at 0.5 A typical it would be z = 0.5."""
        found = failure(steady(0.5, {"resistance_ohm": [0.2, 0.2]}, most=1.0, chip={"supply_min_v": 3.4}))
        self.assertEqual((found.reason, found.subject), ("supply", "chip"))
        self.assertAlmostEqual(found.charge, 0.6, places=4)

    def test_at_once_it_names_the_value(self) -> None:
        found = failure(steady(0.01, chip={"supply_min_v": 4.5}))
        self.assertEqual(found.charge, 1.0)
        self.assertAlmostEqual(found.value, 4.0)
        self.assertEqual(found.limit, 4.5)

    def test_the_neediest_part_of_a_rail_decides(self) -> None:
        parts = [part(k, state("on", 0.001), supply_min_v=v) for k, v in (("a", 3.2), ("b", 3.6), ("c", 3.4))]
        modes = [{"id": "on", "name": "On", "uses": [use(k, "on") for k in "abc"]}]
        found = failure(steady(0.001, parts=parts, modes=modes))
        self.assertEqual(found.subject, "b")
        self.assertAlmostEqual(found.charge, 0.6, places=4)

    def test_a_converters_least_input(self) -> None:
        supply = {
            "stages": [BOOST | {"undervoltage_lockout_v": 3.5, "quiescent_a": 0}],
            "rails": [{"id": "main", "name": "Main", "feed": "boost"}],
        }
        found = failure(steady(0.001, supply=supply))
        self.assertEqual((found.reason, found.subject), ("input", "boost"))
        self.assertAlmostEqual(found.charge, 0.5, places=3)

    def test_an_input_current_limit(self) -> None:
        """5 V × 0.1 A at 90 % on 4 V take 0.139 A: above 0.13 at once, above 0.15 further down."""
        points = [{"current_a": a, "efficiency": 0.9, "input_v": 3.7} for a in (0.05, 0.1, 0.2)]
        for limit, at_once in ((0.13, True), (0.15, False)):
            stage = BOOST | {"quiescent_a": 0, "points": points, "input_limit_a": limit, "undervoltage_lockout_v": 1.0}
            found = failure(
                steady(0.1, supply={"stages": [stage], "rails": [{"id": "main", "name": "Main", "feed": "boost"}]})
            )
            self.assertEqual((found.reason, found.charge >= 1), ("limit", at_once))
        volts = 0.5 / 0.9 / 0.15
        self.assertAlmostEqual(found.charge, volts - 3, delta=0.01)

    def test_a_source_beside_the_battery_has_its_limit(self) -> None:
        for limit, holds in ((0.09, False), (0.11, True)):
            modes = [{"id": "on", "name": "On", "uses": [use("chip", "on")], "plugged": ["usb"]}]
            supply = {"sources": [USB | {"limit_a": limit}], "stages": [LINEAR | {"input": "usb"}],
                      "rails": [{"id": "main", "name": "Main", "feed": "reg"}]}  # fmt: skip
            found = failure(steady(0.1, supply=supply, modes=modes))
            self.assertEqual(found is HOLDS, holds)
            if not holds:
                self.assertEqual((found.reason, found.subject, found.limit), ("limit", "usb", limit))

    def test_a_collapse_is_none_of_the_limits(self) -> None:
        """5 W through 2 Ω from 4 V: more than V² ÷ 4R = 2 W, so there is no working point."""
        heater = {"name": "on", "draw": {"behaviour": "power", "power_w": {"typical": 5, "min": 5, "max": 5}}}
        gadget = steady(0.1, {"resistance_ohm": [2.0, 2.0]}, parts=[part("chip", heater)])
        self.assertEqual((failure(gadget).reason, failure(gadget).charge), ("collapse", 1.0))


class Lights(unittest.TestCase):
    def light(self, kind: str, behaviour: str = "led") -> tuple[Any, Any]:
        draw = (
            {"behaviour": "led", "forward_v": 3.0, "resistance_ohm": {"typical": 10}}
            if behaviour == "led"
            else state("x", 0.01)["draw"]
        )
        made = steady(0.01, parts=[part("chip", {"name": "on", "draw": draw}, kind=kind)])
        return made.parts[0], made.parts[0].states[0]

    def test_a_tenth_of_the_current_by_hand(self) -> None:
        self.assertAlmostEqual(dark_below_v(*self.light("light"), 4.0), 3.1)
        self.assertEqual(dark_below_v(*self.light("light"), 3.0), 0.0)
        self.assertEqual(dark_below_v(*self.light("led"), 4.0), 0.0)
        self.assertEqual(dark_below_v(*self.light("light", "current"), 4.0), 0.0)

    def test_samples_fail_where_their_own_figures_do(self) -> None:
        """A part between 0.25 and 1 A through 0.4 Ω that needs 3.4 V: it fails between z = 0.5 and 0.8."""
        from ember_core.runtime.uncertainty import ON_DEMAND, sample_runtime

        base = run(steady(0.5, {"resistance_ohm": [0.4, 0.4]}, most=1.0, chip={"supply_min_v": 3.4}))
        self.assertAlmostEqual(base.failures[0].charge, 0.8, places=3)
        seconds = sample_runtime(base, ON_DEMAND).seconds
        self.assertGreater(float(np.max(seconds)), 1.5 * float(np.min(seconds)))
