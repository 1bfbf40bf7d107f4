"""Whose the battery's current is: shares of a whole that add up to it, on every kind of stage and on random gadgets."""

from __future__ import annotations

import unittest
from pathlib import Path
from typing import Any

import numpy as np

from ember_core import Design, evaluate, read_design
from ember_core.runtime.run import run

from .gadgets import LINEAR, asleep, design, part, state, use
from .large import large_design
from .randoms import random_design
from .test_stages import BOOST, USB

DEMO = sorted((Path(__file__).resolve().parents[2] / "demo").glob("*.json"))
MAIN = [{"id": "main", "name": "Main", "feed": "reg"}]


class Whole(unittest.TestCase):
    def adds_up(self, gadget: Design) -> None:
        state_ = run(gadget)
        whose = state_.attribution
        rails = np.einsum("rmz,rmz->mz", whose.rail, state_.typical.rail_a.whole)
        np.testing.assert_allclose(rails + whose.stage.sum(axis=0), state_.typical.source_a, rtol=1e-9, atol=1e-12)
        self.assertGreaterEqual(float(whose.stage.min(initial=0.0)), -1e-11)
        draw = evaluate(gadget).draw
        if (draw.mean.value or 0) > 0:
            self.assertAlmostEqual(sum(p.share for p in draw.parts) + sum(o.share for o in draw.others), 1.0, places=6)
            self.assertAlmostEqual(sum(m.charge_share for m in draw.modes), 1.0, places=9)

    def test_the_demos_and_a_large_design(self) -> None:
        for gadget in [*(read_design(p.read_bytes()) for p in DEMO), large_design(20, 3)]:
            self.adds_up(gadget)

    def test_random_gadgets(self) -> None:
        for seed in range(60):
            with self.subTest(seed):
                self.adds_up(random_design(seed))

    def test_every_kind_of_stage(self) -> None:
        stages: list[dict[str, Any]] = [
            LINEAR | {"quiescent_a": 1e-3, "ground_share": 0.02},
            BOOST | {"id": "reg"},
            {"type": "pass", "id": "reg", "name": "S", "input": "battery", "resistance_ohm": 0.2, "limit_a": 1, "leakage_a": 1e-4},
            {"type": "diode", "id": "reg", "name": "D", "input": "battery", "forward_v": 0.3, "limit_a": 1, "quiescent_a": 1e-5},
            {"type": "charge-pump", "id": "reg", "name": "P", "input": "battery", "ratio": 2, "resistance_ohm": 5, "quiescent_a": 1e-4, "limit_a": 1},
            {"type": "shunt-regulator", "id": "reg", "name": "Z", "input": "battery", "output_v": 3.3, "resistance_ohm": 100, "limit_a": 1},
        ]  # fmt: skip
        for stage in stages:
            with self.subTest(stage["type"]):
                self.adds_up(design(parts=[part("chip", state("on", 0.004))], modes=asleep(use("chip", "on")), day={"rest": "asleep"},
                                    supply={"stages": [stage], "rails": MAIN}))  # fmt: skip

    def test_a_regulators_quiescent_current_is_its_own_and_a_chips_current_the_chips(self) -> None:
        gadget = design(parts=[part("chip", state("on", 0.003))], modes=asleep(use("chip", "on")), day={"rest": "asleep"},
                        supply={"stages": [LINEAR | {"quiescent_a": 0.001}], "rails": MAIN})  # fmt: skip
        draw = evaluate(gadget).draw
        self.assertAlmostEqual(draw.parts[0].share, 0.75)
        self.assertEqual([(o.kind, o.id) for o in draw.others], [("stage", "reg")])
        self.assertAlmostEqual(draw.others[0].share, 0.25)
        self.assertAlmostEqual(draw.others[0].current.value or 0, 0.001)

    def test_what_leaks_in_a_capacitor_is_its_own(self) -> None:
        rails = [{"id": "main", "name": "Main", "feed": "reg", "capacitor": {"farad": 1e-3, "leakage_a": 0.001}}]
        gadget = design(parts=[part("chip", state("on", 0.003))], modes=asleep(use("chip", "on")), day={"rest": "asleep"},
                        supply={"stages": [LINEAR], "rails": rails})  # fmt: skip
        other = evaluate(gadget).draw.others[0]
        self.assertEqual((other.kind, other.id), ("capacitor", "main"))
        self.assertAlmostEqual(other.share, 0.25)

    def test_what_another_source_feeds_costs_the_battery_nothing(self) -> None:
        modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "on")], "plugged": ["usb"]}]
        gadget = design(parts=[part("chip", state("on", 0.003))], modes=modes, day={"rest": "asleep"},
                        supply={"sources": [USB], "stages": [LINEAR | {"input": "usb"}], "rails": MAIN})  # fmt: skip
        state_ = run(gadget)
        self.assertEqual(float(state_.attribution.rail.max()), 0.0)
        self.assertEqual(float(state_.attribution.stage.max()), 0.0)


class Energy(unittest.TestCase):
    def test_what_goes_in_comes_out(self) -> None:
        """Battery and sources give what is lost in the cell and the stages, taken by the parts, and leaks."""
        gadgets = [read_design(path.read_bytes()) for path in DEMO] + [
            random_design(seed) for seed in range(1000, 1030)
        ]
        for gadget in gadgets:
            state = run(gadget)
            half, k = state.half, state.middle
            leaks = sum(
                (rail.capacitor.leakage_a if rail.capacitor else 0.0)
                * state.typical.rail_v[r, :, k]
                * state.rail_powered[r]
                for r, rail in enumerate(gadget.supply.rails)
            )
            spent = half.cell_w + half.stage_loss.sum(axis=0) + half.part_w.sum(axis=0) + leaks
            whole = ~state.typical.collapsed[:, k]
            np.testing.assert_allclose(half.given_w[whole], spent[whole], rtol=1e-6, atol=1e-9)
            np.testing.assert_allclose(
                state.stage_peak_loss_w,
                np.max([state.powers(i).stage_loss for i in range(state.pack.charge.size)], axis=0),
            )
