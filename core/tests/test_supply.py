"""The solved tree against closed forms."""

from __future__ import annotations

import unittest

import numpy as np

from ember_core import Design
from ember_core.runtime.run import run

from .gadgets import LINEAR, asleep, cell, design, part, seen, state, use

STRAIGHT = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}


def one_load(draw: dict[str, object], **more: object) -> object:
    loaded = {"name": "on", "draw": draw, "provenance": "datasheet"}
    return design(
        parts=[part("load", loaded)], modes=asleep(use("load", "on")), day={"rest": "asleep"},
        **({"supply": STRAIGHT, "battery": {"cell": cell(resistance_ohm=0.2), "wiring_ohm": 0}} | more),
    )  # fmt: skip


class Loads(unittest.TestCase):
    def test_constant_power_takes_the_stable_root(self) -> None:
        solution = run(one_load({"behaviour": "power", "power_w": {"typical": 2.0}}))
        e, r = solution.pack.open_circuit_v, solution.pack.resistance_ohm
        expected = (e + np.sqrt(e * e - 4 * r * 2.0)) / 2
        np.testing.assert_allclose(solution.typical.terminal_v[0], expected, rtol=1e-9)

    def test_resistor_is_a_divider_with_the_battery(self) -> None:
        solution = run(one_load({"behaviour": "resistor", "resistance_ohm": {"typical": 10.0}}))
        e, r = solution.pack.open_circuit_v, solution.pack.resistance_ohm
        np.testing.assert_allclose(solution.typical.terminal_v[0], e * 10 / (10 + r), rtol=1e-9)

    def test_lamp_draws_nothing_below_its_forward_voltage(self) -> None:
        high = {"behaviour": "led", "forward_v": 5.0, "resistance_ohm": {"typical": 100.0}}
        low = {"behaviour": "led", "forward_v": 2.0, "resistance_ohm": {"typical": 100.0}}
        self.assertEqual(float(run(one_load(high)).typical.source_a.max()), 0.0)
        lit = run(one_load(low))
        expected = (lit.typical.terminal_v[0] - 2.0) / 100
        np.testing.assert_allclose(lit.typical.source_a[0], expected, rtol=1e-9)

    def test_quantity_multiplies_the_draw(self) -> None:
        def amps(count: int) -> float:
            chip = part("chip", state("on", 0.01), quantity=count)
            gadget = design(parts=[chip], modes=asleep(use("chip", "on")), day={"rest": "asleep"})
            return float(run(gadget).typical.source_a[0, 0])

        self.assertAlmostEqual(amps(3), 3 * amps(1), places=12)


class Trees(unittest.TestCase):
    def test_energy_is_conserved_through_nested_stages(self) -> None:
        boost = {
            "type": "switching", "id": "boost", "name": "Boost", "input": "sw", "topology": "boost", "output_v": 5.0,
            "quiescent_a": 1e-5, "limit_a": 1, "undervoltage_lockout_v": 2,
            "points": [{"current_a": 0.1, "efficiency": 0.9, "input_v": 3.7}],
        }  # fmt: skip
        switch = {
            "type": "pass",
            "id": "sw",
            "name": "Switch",
            "input": "battery",
            "resistance_ohm": 0.1,
            "limit_a": 2,
        }
        gadget = design(
            parts=[part("chip", state("on", 0.05)), part("led", state("on", 0.08), rail="five")],
            modes=asleep(use("chip", "on"), use("led", "on")),
            supply={
                "stages": [LINEAR | {"input": "boost"}, boost, switch],
                "rails": [{"id": "main", "name": "3.3", "feed": "reg"}, {"id": "five", "name": "5", "feed": "boost"}],
            },
            day={"rest": "asleep"},
        )
        result = run(gadget)
        s = result.typical
        into = s.stage_input_v.whole * s.stage_input_a.whole
        losses = (into - s.stage_output_v.whole * s.stage_output_a.whole).sum(axis=0)
        loads = (s.rail_v.whole * s.rail_a.whole).sum(axis=0)
        np.testing.assert_allclose(s.terminal_v * s.source_a, loads + losses, rtol=1e-8)
        self.assertEqual([x.id for x in result.tree.stages], ["sw", "boost", "reg"])

    def test_gain_tells_what_one_more_ampere_costs(self) -> None:
        def amps(load: float) -> tuple[float, float]:
            gadget = design(
                parts=[part("chip", state("on", load))], modes=asleep(use("chip", "on")), day={"rest": "asleep"},
                battery={"cell": cell(resistance_ohm=0), "wiring_ohm": 0},
            )  # fmt: skip
            result = run(gadget)
            return float(result.typical.source_a[0, 0]), float(result.marginal_input[0, 0, 0])

        base, gain = amps(0.1)
        self.assertAlmostEqual(gain, (amps(0.1001)[0] - base) / 1e-4, places=6)


class FeedsNothing(unittest.TestCase):
    def gadget(self, *feeds: tuple[str, str], rail: str) -> Design:
        stages = [LINEAR | {"id": key, "name": key, "input": feed} for key, feed in feeds]
        return design(supply={"stages": stages, "rails": [{"id": "main", "name": "Main", "feed": rail}]})

    def test_what_no_rail_hangs_on_is_told_and_can_be_left_out(self) -> None:
        found = seen(self.gadget(("used", "battery"), ("spare", "battery"), rail="used"), "feeds-nothing")
        self.assertEqual([f.where for f in found], ["/supply/stages/1"])
        remedy = found[0].remedy
        assert remedy is not None
        self.assertEqual(remedy.label, "Without spare")

    def test_what_stands_on_the_way_is_not(self) -> None:
        self.assertEqual(
            seen(self.gadget(("first", "battery"), ("second", "first"), rail="second"), "feeds-nothing"), []
        )

    def test_a_branch_that_ends_nowhere_is_told_from_its_end(self) -> None:
        found = seen(
            self.gadget(("used", "battery"), ("first", "battery"), ("second", "first"), rail="used"), "feeds-nothing"
        )
        self.assertEqual(
            [(f.where, f.found.ways is not None) for f in found],
            [("/supply/stages/1", False), ("/supply/stages/2", True)],
        )
