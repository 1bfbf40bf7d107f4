"""What warms the case, by hand: masses, powers of modes, and what each mode is felt as at the end of its stretch."""

from __future__ import annotations

import math
import unittest
from typing import Any

import numpy as np

from ember_core import Design
from ember_core.catalogue import built_in
from ember_core.enclosure.fit import check_fit
from ember_core.findings.battery import pack
from ember_core.findings.charge import heat
from ember_core.findings.draw.parts import _efficient
from ember_core.findings.runtime import awake
from ember_core.measures.bench import TrialBench
from ember_core.runtime.run import run
from ember_core.solved.gadget import SolvedGadget
from ember_core.solved.nodes import find_nodes
from ember_core.solved.warmth import Warmth, contents_g, find_warmth

from .gadgets import LINEAR, cell, design, part, seen, state, use

STRAIGHT = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}
BRIEF = {"goal_h": 100, "coldest_c": 25, "usual_c": 25, "hottest_c": 25}


def warmth(gadget: Design) -> Warmth:
    return find_warmth(TrialBench(gadget, built_in()).usual, 0, check_fit(gadget))


def _lag(warm: Warmth, mode: int) -> float:
    """How long what burns in a mode takes to give its heat to the air [s], by power."""
    watts = warm.node_w[:, mode]
    return float(sum(n.settles_s * w for n, w in zip(warm.nodes, watts, strict=True)) / watts.sum())


class Masses(unittest.TestCase):
    def test_cells_parts_stages_and_the_charger_but_nothing_that_is_plugged_in(self) -> None:
        parts = [
            part("chip", state("sleep", 1e-3), state("active", 0.1), mass_g=3, quantity=4),
            part("stick", state("on", 1e-3), mass_g=500, plugged_by_user=True),
        ]
        charger = {"name": "C", "program_constant_v": 1000, "program_ohm": 5000, "rth_ja_c_per_w": 40, "mass_g": 7}
        gadget = design(
            parts=parts,
            battery={"cell": cell(mass_g=11), "series": 1, "parallel": 2},
            supply={"stages": [LINEAR | {"mass_g": 5}], "rails": [{"id": "main", "name": "Main", "feed": "reg"}]},
            charger=charger,
        )
        self.assertAlmostEqual(contents_g(gadget), 2 * 11 + 4 * 3 + 5 + 7)
        row = design(battery={"cell": cell(mass_g=11), "series": 3, "parallel": 1})
        self.assertAlmostEqual(contents_g(row), 33)


class Powers(unittest.TestCase):
    def lamp(self, hours: float, per_day: float = 1, watts_a: float = 0.5) -> Design:
        chip = part("chip", state("sleep", 1e-3), state("active", watts_a))
        day = {"rest": "asleep", "sessions": [{"name": "Use", "mode": "awake", "seconds": hours * 3600, "per_day": per_day}]}  # fmt: skip
        return design(parts=[chip], supply=STRAIGHT, day=day, battery={"cell": cell(), "wiring_ohm": 0})

    def test_a_mode_burns_what_its_cell_gives(self) -> None:
        bench = TrialBench(self.lamp(1), built_in())
        volts = float(bench.usual.pack.open_circuit_v[bench.middle])
        np.testing.assert_allclose(warmth(self.lamp(1)).mode_w, [volts * 1e-3, volts * 0.5], rtol=1e-6)

    def test_what_is_felt_at_the_end_of_a_stretch(self) -> None:
        """One period is a day: T(end) = others + (own - others) (1 - e^(-on/tau)) / (1 - e^(-day/tau)), for each of the two stages."""
        gadget = self.lamp(1)
        found = warmth(gadget)
        own, others = float(found.mode_w[1]), float(found.mode_w[0])
        tau, lag = found.time_constant_s, _lag(found, 1)
        ends = [(1 - math.exp(-3600 / x)) / (1 - math.exp(-86400 / x)) for x in (tau, lag)]
        by_hand = others + (own - others) * (tau * ends[0] - lag * ends[1]) / (tau - lag)
        self.assertAlmostEqual(float(found.felt_w[1]), by_hand, places=6)
        self.assertEqual(found.hottest_mode, 1)
        self.assertGreater(own, by_hand)

    def test_twice_a_day_leaves_the_case_warmer_at_the_start(self) -> None:
        once, twice = warmth(self.lamp(1, 1)), warmth(self.lamp(1, 8))
        self.assertGreater(twice.felt_w[1], once.felt_w[1])

    def test_a_mode_that_no_day_has_is_felt_as_nothing(self) -> None:
        chip = part("chip", state("sleep", 1e-3), state("active", 0.5), state("test", 2.0))
        modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep")]},
                 {"id": "awake", "name": "Awake", "uses": [use("chip", "active")]},
                 {"id": "never", "name": "Never", "uses": [use("chip", "test")]}]  # fmt: skip
        found = warmth(design(parts=[chip], modes=modes, supply=STRAIGHT, battery={"cell": cell(), "wiring_ohm": 0}))
        self.assertEqual(float(found.felt_w[2]), 0.0)
        self.assertGreater(float(found.mode_w[2]), 3.0)

    def test_what_always_runs_is_felt_whole(self) -> None:
        gadget = design(supply=STRAIGHT, day={"rest": "asleep"}, battery={"cell": cell(), "wiring_ohm": 0})
        found = warmth(gadget)
        self.assertAlmostEqual(float(found.felt_w[0]), float(found.mode_w[0]), places=9)

    def test_the_cause_is_what_burns_most_in_that_mode(self) -> None:
        """At rest the small one burns more; in the warm mode the large one does."""
        parts = [part("small", state("on", 0.2), state("off", 1e-6)), part("large", state("off", 1e-6), state("on", 0.8))]  # fmt: skip
        modes = [{"id": "asleep", "name": "Asleep", "uses": [use("small", "on"), use("large", "off")]},
                 {"id": "awake", "name": "Awake", "uses": [use("small", "off"), use("large", "on")]}]  # fmt: skip
        gadget = design(
            parts=parts, modes=modes, supply=STRAIGHT, battery={"cell": cell(capacity_ah=4), "wiring_ohm": 0}
        )
        bench = TrialBench(gadget, built_in())
        self.assertEqual([heat._hottest(bench, m)[0] for m in (0, 1)], ["small", "large"])
        volts = float(bench.usual.typical.terminal_v[1, bench.middle])
        self.assertAlmostEqual(heat._hottest(bench, 1)[1], 0.8 * volts, places=6)


class Words(unittest.TestCase):
    def test_stranded_charge_is_what_is_left(self) -> None:
        chip = part("chip", state("sleep", 1e-5), state("active", 0.3))
        gadget = design(
            parts=[chip],
            supply=STRAIGHT,
            battery={"cell": cell(capacity_ah=0.2, resistance_ohm=2.4, discharge_max_a=1), "wiring_ohm": 0},
        )
        bench = TrialBench(gadget, built_in())
        _, charge = bench.usual.ending
        self.assertGreater(charge, pack.STRANDED)
        got = bench.usual.pack.capacity_ah * (1 - charge) * 1000
        sentence = seen(gadget, "small-cell")[0].sentence
        self.assertIn(f"{got:.3g}", sentence)

    def test_an_efficient_led_scales_current_down_and_resistors_up(self) -> None:
        led = part("light", state("lit", 0.02), kind="light", mcd_per_ma=15)
        resistor = {"name": "held", "draw": {"behaviour": "resistor", "resistance_ohm": {"typical": 100}}}
        power = {"name": "bright", "draw": {"behaviour": "power", "power_w": {"typical": 0.1}}}
        lamp = {
            "name": "plain",
            "draw": {"behaviour": "led", "forward_v": 2.0, "resistance_ohm": {"typical": 100}},
        }
        led["states"] += [resistor, power, lamp]
        chip = part("chip", state("on", 1e-3))
        modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "on"), use("light", "lit")]}]
        gadget = design(parts=[chip, led], modes=modes, day={"rest": "asleep"})
        patch = {op.path: op.value for op in _efficient(TrialBench(gadget, built_in()), 1, 0.25).patch}  # type: ignore[union-attr]
        draws: list[Any] = [patch[f"/parts/1/states/{k}/draw"] for k in range(4)]
        self.assertEqual(draws[0]["current_a"]["typical"], 0.005)
        self.assertEqual(draws[1]["resistance_ohm"]["typical"], 400)
        self.assertEqual(draws[2]["power_w"]["typical"], 0.025)
        self.assertEqual(draws[3]["resistance_ohm"]["typical"], 400)

    def test_only_what_is_used_in_that_mode_keeps_something(self) -> None:
        """A logger that runs in another mode loses nothing in this one."""
        chip = part("chip", state("sleep", 1e-4), state("active", 0.05), kind="controller")
        store = part("card", state("idle", 1e-5), state("write", 0.02), kind="storage")

        def gadget(in_use: bool) -> Design:
            busy = [use("chip", "active"), *([use("card", "write")] if in_use else [])]
            modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep"), use("card", "idle")]},
                     {"id": "awake", "name": "Awake", "uses": busy}]  # fmt: skip
            return design(parts=[chip, store], modes=modes)

        self.assertTrue(seen(gadget(True), "unsaved"))
        self.assertFalse(seen(gadget(False), "unsaved"))

    def test_a_state_s_price_at_the_battery(self) -> None:
        """Straight from the battery a state costs what it draws, times how many there are."""
        chip = part("chip", state("sleep", 1e-3), state("active", 0.1), quantity=3)
        bench = TrialBench(design(parts=[chip], supply=STRAIGHT, battery={"cell": cell(), "wiring_ohm": 0}), built_in())
        self.assertAlmostEqual(awake._state_battery_a(bench, 0, 0, "active"), 0.3, places=4)


class KindsOfDays(unittest.TestCase):
    def gadget(self, *sessions: dict[str, Any]) -> SolvedGadget:
        parts = [part("heater", state("on", 0.3)), part("chip", state("sleep", 0.0))]
        modes = [{"id": "rest", "name": "Rest", "uses": [use("chip", "sleep")]},
                 {"id": "hot", "name": "Hot", "uses": [use("heater", "on")]}]  # fmt: skip
        given = [{"name": "Hot", "mode": "hot", "per_day": 1} | s for s in sessions]
        return SolvedGadget(design(parts=parts, modes=modes, day={"rest": "rest", "sessions": given}))

    def test_a_mode_is_as_warm_as_on_its_own_days(self) -> None:
        """Two hours on each Saturday: on that day a twelfth of the time, over the year an 84th."""
        daily, weekly = self.gadget({"seconds": 7200}), self.gadget({"seconds": 7200, "days": [5]})
        warm = weekly.warmth
        self.assertGreater(float(warm.mode_w[1]), 0.5)
        self.assertAlmostEqual(float(warm.felt_w[1]), float(daily.warmth.felt_w[1]), places=9)
        self.assertEqual((daily.warmest_days(1), weekly.warmest_days(1)), ("", "Sat"))
        tau, lag = warm.time_constant_s, _lag(warm, 1)
        ends = [math.expm1(-7200 / x) / math.expm1(-86400 / x) for x in (tau, lag)]
        reached = (tau * ends[0] - lag * ends[1]) / (tau - lag)
        by_hand = float(warm.mode_w[0]) + float(warm.mode_w[1] - warm.mode_w[0]) * reached
        self.assertAlmostEqual(float(warm.felt_w[1]), by_hand, places=6)

    def test_of_two_days_the_warmer_one_counts(self) -> None:
        gadget = self.gadget({"seconds": 60, "days": [0]}, {"seconds": 7200, "days": [6]})
        self.assertEqual(gadget.warmest_days(1), "Sun")
        alone = self.gadget({"seconds": 7200, "days": [6]})
        self.assertAlmostEqual(float(gadget.warmth.felt_w[1]), float(alone.warmth.felt_w[1]), places=9)


class OnBoards(unittest.TestCase):
    def test_a_chip_has_the_board_that_it_is_on(self) -> None:
        """By its area: the same of 10 × 40 mm and of 40 × 10 mm, more of 10 × 20 mm."""

        def k_per_w(x: float, y: float) -> float:
            states = state("sleep", 1e-6), state("active", 1e-3)
            board = part("board", *states, kind="other", body={"size_mm": [x, y, 1.6]})
            chip = part("chip", *states, body={"size_mm": [3, 3, 0.8], "on": "board"})
            return next(n.k_per_w for n in find_nodes(run(design(parts=[board, chip]))) if n.pointer == "/parts/1")

        self.assertAlmostEqual(k_per_w(10, 40), k_per_w(40, 10), places=9)
        self.assertGreater(k_per_w(10, 20), 1.05 * k_per_w(10, 40))
