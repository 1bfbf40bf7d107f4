"""Every kind of stage, switched stages and sources beside the battery, against closed forms."""

from __future__ import annotations

import unittest
from typing import Any

import numpy as np

from ember_core import Design, build_design
from ember_core.battery.pack import charge_grid, pack_at
from ember_core.load.operating_points import all_operating_points, load_table
from ember_core.runtime.run import Run, run
from ember_core.supply import solver
from ember_core.supply.solution import Rows
from ember_core.supply.solver import solve
from ember_core.supply.tree import build_tree

from .gadgets import LINEAR, cell, design, part, state, use
from .large import large_design, sampled_values, solve_plainly

STIFF = {"cell": cell(resistance_ohm=0), "wiring_ohm": 0}
BOOST: dict[str, Any] = {
    "type": "switching", "id": "boost", "name": "Boost", "input": "battery", "topology": "boost", "output_v": 5.0,
    "quiescent_a": 1e-5, "shutdown_a": 2e-6, "limit_a": 1, "undervoltage_lockout_v": 2, "load_disconnect": False,
    "points": [{"current_a": 0.1, "efficiency": 0.9, "input_v": 3.7}],
}  # fmt: skip
USB = {"id": "usb", "name": "USB", "kind": "usb", "voltage_v": 5.0, "resistance_ohm": 0.2, "limit_a": 0.5}


def one(*stages: dict[str, Any], amps: float = 0.02, battery: dict[str, Any] = STIFF, **more: Any) -> Design:
    """A load of a constant current behind some stages; two modes, both with the load on."""
    tree = {"stages": list(stages), "rails": [{"id": "main", "name": "Main", "feed": stages[-1]["id"]}]}
    base = {
        "parts": [part("load", state("on", amps))],
        "modes": [{"id": m, "name": m.title(), "uses": [use("load", "on")]} for m in ("asleep", "awake")],
        "supply": tree,
        "battery": battery,
    }
    return design(**(base | more))


def at_half(result: Run, values: np.ndarray, moment: int = 0) -> float:
    return float(values[moment, int(np.argmin(np.abs(result.pack.charge - 0.5)))])


class Kinds(unittest.TestCase):
    def solved(self, *stages: dict[str, Any], amps: float = 0.02) -> tuple[float, float, float]:
        """(battery voltage, rail voltage, battery current) at half charge."""
        result = run(one(*stages, amps=amps))
        s = result.typical
        return at_half(result, s.terminal_v), at_half(result, s.rail_v[0]), at_half(result, s.source_a)

    def test_diode_drops_and_passes_the_current(self) -> None:
        diode = {
            "type": "diode",
            "id": "d",
            "name": "D",
            "input": "battery",
            "forward_v": 0.3,
            "resistance_ohm": 2.0,
            "limit_a": 1,
        }
        volts, rail, amps = self.solved(diode)
        self.assertAlmostEqual(rail, volts - 0.3 - 2.0 * 0.02, places=9)
        self.assertAlmostEqual(amps, 0.02, places=12)

    def test_charge_pump_doubles_behind_its_resistance(self) -> None:
        pump = {"type": "charge-pump", "id": "p", "name": "P", "input": "battery", "ratio": 2, "resistance_ohm": 20,
                "quiescent_a": 1e-4, "limit_a": 0.1}  # fmt: skip
        volts, rail, amps = self.solved(pump)
        self.assertAlmostEqual(rail, 2 * volts - 20 * 0.02, places=9)
        self.assertAlmostEqual(amps, 2 * 0.02 + 1e-4, places=12)
        _, regulated, _ = self.solved(pump | {"output_v": 5.0})
        self.assertEqual(regulated, 5.0)

    def test_shunt_takes_its_current_with_or_without_load(self) -> None:
        shunt = {
            "type": "shunt-regulator",
            "id": "z",
            "name": "Z",
            "input": "battery",
            "output_v": 2.0,
            "resistance_ohm": 50,
            "limit_a": 1,
        }
        volts, rail, amps = self.solved(shunt, amps=0.01)
        self.assertEqual(rail, 2.0)
        self.assertAlmostEqual(amps, (volts - 2.0) / 50, places=12)
        volts, rail, amps = self.solved(shunt, amps=0.05)  # more than the resistor passes: it no longer clamps
        self.assertAlmostEqual(rail, volts - 50 * 0.05, places=9)
        self.assertAlmostEqual(amps, 0.05, places=9)

    def test_inverting_converter_conserves_energy(self) -> None:
        stage = BOOST | {
            "id": "n",
            "topology": "inverting",
            "points": [{"current_a": 0.05, "efficiency": 0.8, "input_v": 3.7}],
        }
        volts, rail, amps = self.solved(stage, amps=0.05)
        self.assertEqual(rail, 5.0)
        self.assertAlmostEqual(rail * 0.05 / (volts * amps), 0.8, delta=0.01)

    def test_two_inputs_take_from_the_higher(self) -> None:
        both = {
            "type": "power-or",
            "id": "e",
            "name": "E",
            "input": "usb",
            "other": "battery",
            "forward_v": 0.3,
            "limit_a": 1,
        }
        document = one(both | {"input": "battery"}).model_dump(mode="json")
        document["supply"]["sources"] = [USB]
        document["supply"]["stages"][0]["input"] = "usb"
        document["modes"][1]["plugged"] = ["usb"]
        result = run(build_design(document))
        s = result.typical
        self.assertAlmostEqual(at_half(result, s.rail_v[0], 0), at_half(result, s.terminal_v, 0) - 0.3, places=9)
        self.assertAlmostEqual(at_half(result, s.source_a, 0), 0.02, places=12)
        self.assertAlmostEqual(at_half(result, s.other_a[0], 0), 0.0, places=12)
        self.assertAlmostEqual(at_half(result, s.rail_v[0], 1), 5.0 - 0.2 * 0.02 - 0.3, places=9)
        self.assertAlmostEqual(at_half(result, s.source_a, 1), 0.0, places=12)
        self.assertAlmostEqual(at_half(result, s.other_a[0], 1), 0.02, places=12)
        self.assertEqual(at_half(result, result.marginal_input[0], 0), 1.0)
        self.assertEqual(at_half(result, result.marginal_input[0], 1), 0.0)


class SwitchedOff(unittest.TestCase):
    def off_asleep(self, stage: dict[str, Any]) -> Run:
        gadget = one(stage).model_dump(mode="json")
        gadget["modes"][0]["off_stages"] = [stage["id"]]
        return run(build_design(gadget))

    def test_a_stage_that_is_off_cuts_its_parts_and_takes_its_shutdown_current(self) -> None:
        result = self.off_asleep(LINEAR | {"shutdown_a": 3e-7})
        self.assertAlmostEqual(at_half(result, result.typical.source_a, 0), 3e-7, places=15)
        self.assertEqual(at_half(result, result.typical.rail_v[0], 0), 0.0)
        self.assertAlmostEqual(at_half(result, result.typical.source_a, 1), 0.02, places=12)
        self.assertEqual(result.parts_a(80)[0, 0], 0.0)
        self.assertEqual(result.failures[0].reason, "empty")

    def test_a_boost_without_disconnect_passes_its_input_less_a_diode(self) -> None:
        result = self.off_asleep(BOOST)
        volts = at_half(result, result.typical.terminal_v, 0)
        self.assertAlmostEqual(at_half(result, result.typical.rail_v[0], 0), volts - 0.4, places=9)
        self.assertAlmostEqual(at_half(result, result.typical.source_a, 0), 0.02 + 2e-6, places=12)
        cut = self.off_asleep(BOOST | {"load_disconnect": True})
        self.assertAlmostEqual(at_half(cut, cut.typical.source_a, 0), 2e-6, places=15)

    def test_an_unplugged_source_feeds_nothing(self) -> None:
        document = one(LINEAR).model_dump(mode="json")
        document["supply"]["sources"] = [USB]
        document["supply"]["stages"][0]["input"] = "usb"
        result = run(build_design(document))
        self.assertEqual(float(result.typical.source_a.max()), 0.0)
        self.assertEqual(float(result.typical.other_a.whole.max()), 0.0)
        self.assertEqual(float(result.typical.rail_v.whole.max()), 0.0)

    def test_a_stage_that_is_switched_has_to_start_again(self) -> None:
        fussy = BOOST | {"load_disconnect": True, "undervoltage_lockout_v": 2.0, "start_up_v": 3.6}
        gadget = one(fussy).model_dump(mode="json")
        always = run(build_design(gadget))
        self.assertEqual(always.failures[1].reason, "empty")
        gadget["modes"][0]["off_stages"] = ["boost"]
        switched = run(build_design(gadget))
        self.assertEqual(switched.failures[1].reason, "start")
        self.assertGreater(switched.failures[1].charge, 0.1)


class Blocks(unittest.TestCase):
    def test_small_blocks_give_the_same_as_one_large_one(self) -> None:
        gadget, size = large_design(12, 5), solver.BLOCK
        whole = run(gadget)
        try:
            solver.BLOCK = 200  # about one operating point each
            cut = run(gadget)
        finally:
            solver.BLOCK = size
        for name in ("terminal_v", "source_a", "stage_input_a", "stage_output_v", "rail_a"):
            np.testing.assert_allclose(getattr(cut.worst, name), getattr(whole.worst, name), atol=1e-9)

    def test_a_table_reads_alike_row_by_row_and_whole(self) -> None:
        column, full = np.array([[1.0], [2.0]]), np.arange(6.0).reshape(2, 3)
        rows = Rows([column, np.array(7.0), full], (2, 3))
        np.testing.assert_array_equal(rows[0], [[1, 1, 1], [2, 2, 2]])
        np.testing.assert_array_equal(rows[np.int64(1)], np.full((2, 3), 7.0))
        np.testing.assert_array_equal(rows[:, 1, 2], [2, 7, 5])
        np.testing.assert_array_equal(np.array(rows), [rows[k] for k in range(3)])
        last = rows.operating_points(slice(1, None))
        np.testing.assert_array_equal(last.whole, rows.whole[:, 1:])
        np.testing.assert_array_equal(Rows.joined([rows, last]).whole, np.concatenate([rows.whole, last.whole], axis=1))


class AgainstPlainLoops(unittest.TestCase):
    def test_sixty_parts_agree_to_a_billionth(self) -> None:
        gadget = large_design()
        operating_points, values = all_operating_points(gadget), sampled_values(gadget, 3)
        pack = pack_at(gadget.battery, 25.0, charge_grid(9))
        fast = solve(build_tree(gadget), load_table(gadget, operating_points).loads(values), pack)
        plain = np.array(solve_plainly(gadget, operating_points, values, pack))
        np.testing.assert_allclose(fast.terminal_v.reshape(plain.shape), plain, rtol=0, atol=1e-9)
