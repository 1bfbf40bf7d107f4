"""The solved tree against closed forms."""

from __future__ import annotations

import unittest

import numpy as np

from ember_core import Design
from ember_core.runtime.run import run
from ember_core.supply.solution import Rows, Solution
from ember_core.supply.solver import solve

from .gadgets import LINEAR, asleep, cell, design, part, seen, state, use
from .randoms import random_design

SWITCH = {"type": "pass", "id": "sw", "name": "Switch", "input": "battery", "resistance_ohm": 0.1, "limit_a": 2}
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
        gadget = design(
            parts=[part("chip", state("on", 0.05)), part("led", state("on", 0.08), rail="five")],
            modes=asleep(use("chip", "on"), use("led", "on")),
            supply={
                "stages": [LINEAR | {"input": "boost"}, boost, SWITCH],
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


class Collapse(unittest.TestCase):
    def test_a_constant_power_has_a_working_point_where_the_closed_form_has_one(self) -> None:
        there = none = 0
        for watts in np.geomspace(4.0, 21.0, 150):
            gadget = one_load({"behaviour": "power", "power_w": {"typical": float(watts)}})
            solution = run(gadget)
            e, r = solution.pack.open_circuit_v, solution.pack.resistance_ohm
            least = e * e / (4 * r * watts)
            sure = np.abs(least - 1) > 1e-5
            collapsed = solution.typical.collapsed[0]
            np.testing.assert_array_equal(collapsed[sure], (least < 1)[sure])
            holds = sure & (least > 1)
            expected = (e + np.sqrt(np.maximum(e * e - 4 * r * watts, 0.0))) / 2
            np.testing.assert_allclose(solution.typical.terminal_v[0][holds], expected[holds], rtol=1e-6)
            there, none = there + int(holds.sum()), none + int(collapsed.sum())
        self.assertGreater(min(there, none), 1000)

    def test_what_has_collapsed_gives_what_a_short_circuit_takes(self) -> None:
        solution = run(one_load({"behaviour": "power", "power_w": {"typical": 100.0}}))
        e, r = solution.pack.open_circuit_v, solution.pack.resistance_ohm
        self.assertTrue(solution.typical.collapsed.all())
        np.testing.assert_allclose(solution.typical.terminal_v[0], e / 4, rtol=1e-9)
        np.testing.assert_allclose(solution.typical.source_a[0], 0.75 * e / r, rtol=1e-9)

    def test_nothing_behind_what_has_collapsed_gives_way(self) -> None:
        watts = {"behaviour": "power", "power_w": {"typical": 100.0}}
        s = run(
            one_load(watts, supply={"stages": [SWITCH], "rails": [{"id": "main", "name": "Main", "feed": "sw"}]})
        ).typical
        self.assertTrue(s.collapsed.all())
        np.testing.assert_array_equal(s.stage_output_v[0], s.terminal_v)


class NearStart(unittest.TestCase):
    def test_the_same_is_found_from_near_as_from_the_open_circuit_voltage(self) -> None:
        choose = np.random.default_rng(5)
        fell = rose = gone = back = 0
        watts = {"behaviour": "power", "power_w": {"typical": 0.1}}
        switched = {"stages": [SWITCH], "rails": [{"id": "main", "name": "Main", "feed": "sw"}]}
        heavy = [
            one_load(watts | {"power_w": {"typical": w}}, supply=supply)
            for w in (3.0, 6.0, 9.0, 12.0) for supply in (STRAIGHT, switched)
        ]  # fmt: skip
        for gadget in [*heavy, *map(random_design, range(16))]:
            state = run(gadget)
            loads, pack = state.all_loads, state.pack
            shape = (loads.mode.size, pack.charge.size)
            lowered = [choose.uniform(0, 0.7) * pack.open_circuit_v * choose.uniform(0, 1, shape) for _ in range(3)]
            before = solve(state.tree, loads, pack, lowered_v=lowered[0])
            for k in (1, 2):
                found = solve(state.tree, loads, pack, lowered_v=lowered[k], near=(before, lowered[k - 1]))
                expected = solve(state.tree, loads, pack, lowered_v=lowered[k])
                self.same(found, expected)
                fell += int((expected.terminal_v < before.terminal_v)[~expected.collapsed].sum())
                rose += int((expected.terminal_v > before.terminal_v)[~before.collapsed].sum())
                gone += int(expected.collapsed.sum())
                back += int((before.collapsed & ~expected.collapsed).sum())
                before = found
        self.assertGreater(min(fell, rose, gone, back), 200)

    def same(self, found: Solution, expected: Solution) -> None:
        np.testing.assert_array_equal(found.collapsed, expected.collapsed)
        for name in ("terminal_v", "source_a", "stage_output_v", "stage_input_a", "rail_a"):
            a, b = (getattr(x, name) for x in (found, expected))
            a, b = (x.whole if isinstance(x, Rows) else x for x in (a, b))
            np.testing.assert_allclose(a, b, rtol=1e-6, atol=1e-8, err_msg=name)


class Dropout(unittest.TestCase):
    def test_a_buck_at_full_duty_drops_by_the_current_that_it_is_said_to_give(self) -> None:
        buck = {
            "type": "switching", "id": "reg", "name": "Buck", "input": "battery", "topology": "buck", "output_v": 3.3, "quiescent_a": 1e-5,
            "limit_a": 0.5, "dropout_v": 0.5, "undervoltage_lockout_v": 2, "points": [{"current_a": 0.1, "efficiency": 0.9, "input_v": 3.7}],
        }  # fmt: skip
        load = {"draw": {"behaviour": "power", "power_w": {"typical": 1.5}}, "name": "on", "provenance": "datasheet"}
        gadget = design(
            parts=[part("load", load)], modes=asleep(use("load", "on")), day={"rest": "asleep"},
            supply={"stages": [buck], "rails": [{"id": "main", "name": "Main", "feed": "reg"}]},
            battery={"cell": cell(resistance_ohm=0), "wiring_ohm": 0},
        )  # fmt: skip
        s = run(gadget).typical
        low = (s.stage_output_v[0][0] < 3.3) & ~s.collapsed[0]
        self.assertGreater(int(low.sum()), 3)
        dropped = s.stage_input_v[0][0] - s.stage_output_v[0][0]
        np.testing.assert_allclose(dropped[low], s.stage_output_a[0][0][low] * 1.0, rtol=1e-9)
        np.testing.assert_allclose((s.rail_v[0][0] * s.rail_a[0][0])[low], 1.5, rtol=1e-9)


class LowerPoint(unittest.TestCase):
    def test_a_point_below_the_drop_out_is_reached_however_steep_the_slide_to_it(self) -> None:
        """A buck draws the more the lower its input is, until it drops out; from there on what its load draws. Judged by looking for the
        first voltage from the top at which what the battery leaves is no less, in steps of 0.2 mV."""
        below = above = 0
        for ohm in np.linspace(2.0, 9.0, 36):
            buck = {
                "type": "switching", "id": "reg", "name": "Buck", "input": "battery", "topology": "buck", "output_v": 3.3, "quiescent_a": 1e-5,
                "limit_a": 2, "dropout_v": 1e-6, "undervoltage_lockout_v": 2, "points": [{"current_a": 0.1, "efficiency": 0.95, "input_v": 7}],
            }  # fmt: skip
            gadget = design(
                parts=[part("load", state("on", 0.55))], modes=asleep(use("load", "on")), day={"rest": "asleep"},
                supply={"stages": [buck], "rails": [{"id": "main", "name": "Main", "feed": "reg"}]},
                battery={"cell": cell(resistance_ohm=float(ohm) / 2), "series": 2, "wiring_ohm": 0},
            )  # fmt: skip
            found = run(gadget)
            model, pack, s = found.tree.converter_models[0], found.pack, found.typical
            for k in range(0, pack.charge.size, 6):
                top, r = float(pack.open_circuit_v[k]), float(pack.resistance_ohm[k])
                volts = np.arange(top, 0.25 * top, -2e-4)
                out = np.minimum(volts, 3.3)
                left = top - r * model.input_current(volts, out, np.full(volts.shape, 0.55))
                holds = np.flatnonzero(left >= volts)
                if s.collapsed[0, k]:
                    self.assertEqual(holds.size, 0, (ohm, k))
                    continue
                self.assertAlmostEqual(float(s.terminal_v[0, k]), float(volts[holds[0]]), delta=2e-3)
                dropped = s.terminal_v[0, k] < 3.3
                below, above = below + int(dropped), above + int(not dropped)
        self.assertGreater(min(below, above), 60)


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
