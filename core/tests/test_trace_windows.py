"""What is done with a recording by hand: a window measured, stretches named, phases of a burst, the recording as the load of the runtime."""

from __future__ import annotations

import math
import unittest

import numpy as np

from ember_core import DocumentError
from ember_core.bringup import bring_up
from ember_core.catalogue import built_in
from ember_core.measures.bench import TrialBench
from ember_core.traces import Assigned, Recording, Stretch, judge_trace, overlaid, reduced, replay, simulated, unpacked
from ember_core.traces.replay import LEVELS, as_load, levels

from .gadgets import asleep, design, part, state, use
from .test_wiring import DEMOS, bench


def bench_of(**more: object) -> TrialBench:
    return TrialBench(design(**more), built_in())


STEPS = Recording(np.arange(100) * 0.1, np.where(np.arange(100) < 50, 0.001, 0.003))


class Windows(unittest.TestCase):
    def test_a_window_by_hand(self) -> None:
        found = reduced(STEPS).between(4.0, 6.0, 3.7)  # 1 s of 1 mA, 1 s of 3 mA
        self.assertAlmostEqual(found.seconds, 2.0)
        self.assertAlmostEqual(found.charge_ah * 3600, 0.004)
        self.assertAlmostEqual(found.energy_wh * 3600, 0.004 * 3.7)
        self.assertAlmostEqual(found.mean_a, 0.002)
        self.assertAlmostEqual(found.rms_a, math.sqrt(5e-6))
        self.assertEqual((found.least_a, found.most_a), (0.001, 0.003))

    def test_buckets_keep_charge_and_root_mean_square(self) -> None:
        draw = np.random.default_rng(1)
        whole = Recording(np.arange(40_000) * 1e-3, draw.exponential(0.01, 40_000))
        found = unpacked(reduced(whole, 400).packed()).between(0, 40, 3.0)
        self.assertAlmostEqual(found.rms_a, float(np.sqrt(np.mean(whole.current_a**2))), delta=1e-7)
        self.assertAlmostEqual(found.mean_a, float(whole.current_a.mean()), delta=1e-9)

    def test_half_a_bucket_counts_half(self) -> None:
        found = reduced(STEPS).between(0.0, 0.05, 1.0)
        self.assertAlmostEqual(found.charge_ah * 3600, 0.001 * 0.05)

    def test_nothing_lies_beyond_the_end(self) -> None:
        for window in ((10.1, 20.0), (3.0, 3.0)):
            with self.assertRaises(DocumentError):
                reduced(STEPS).between(*window, 1.0)


class ByHand(unittest.TestCase):
    OWN = bench_of()
    FOUND = (Stretch(0, 0, 50), Stretch(1, 50, 100))

    def said(self, *assigned: Assigned) -> list[tuple[int | None, int, int]]:
        return [(s.mode, s.first, s.last) for s in overlaid(STEPS, list(self.FOUND), list(assigned), self.OWN.design)]

    def test_a_border_moves(self) -> None:
        self.assertEqual(self.said(Assigned(begin_s=5, end_s=6, mode="asleep")), [(0, 0, 60), (1, 60, 100)])

    def test_a_piece_in_the_middle_is_another_mode(self) -> None:
        self.assertEqual(
            self.said(Assigned(begin_s=2, end_s=3, mode="awake")), [(0, 0, 20), (1, 20, 30), (0, 30, 50), (1, 50, 100)]
        )
        self.assertEqual(
            self.said(Assigned(begin_s=2, end_s=3, mode=None)), [(0, 0, 20), (None, 20, 30), (0, 30, 50), (1, 50, 100)]
        )

    def test_the_later_word_counts_and_all_of_it_is_one(self) -> None:
        first, second = Assigned(begin_s=0, end_s=20, mode="awake"), Assigned(begin_s=0, end_s=20, mode="asleep")
        self.assertEqual(self.said(first, second), [(0, 0, 100)])
        self.assertEqual(self.said(second, first), [(1, 0, 100)])

    def test_what_names_no_mode_or_no_time_counts_for_nothing(self) -> None:
        same = [(0, 0, 50), (1, 50, 100)]
        self.assertEqual(self.said(Assigned(begin_s=0, end_s=9, mode="gone")), same)
        self.assertEqual(self.said(Assigned(begin_s=3, end_s=3, mode="awake")), same)
        self.assertEqual(self.said(Assigned(begin_s=30, end_s=40, mode="asleep")), same)

    def test_its_figures_follow(self) -> None:
        told = judge_trace(STEPS, self.OWN, [Assigned(begin_s=0, end_s=10, mode="awake")])
        self.assertEqual([(m.mode, m.times) for m in told.modes], [(1, 1)])
        self.assertAlmostEqual(told.modes[0].mean_a, 0.002)


class Phases(unittest.TestCase):
    def test_a_burst_by_hand(self) -> None:
        """Half a second of 50 mA, two of 10 mA, the rest of ten seconds 1 mA: recorded with the first twice as long."""
        chip = part("chip", state("off", 1e-3), state("works", 10e-3), state("sends", 50e-3))
        burst = [{"state": "sends", "seconds": 0.5}, {"state": "works", "seconds": 2.0}]
        own = bench_of(
            parts=[chip],
            modes=asleep(use("chip", "sends", rest="off", burst=burst, period_s=10.0)),
            day={"rest": "asleep"},
            supply={"rails": [{"id": "main", "name": "Main", "feed": "battery"}]},
        )
        time = np.arange(3000) * 0.01
        phase = time % 10.0
        amps = np.where(phase < 0.995, 55e-3, np.where(phase < 2.995, 9e-3, 1e-3))
        told = judge_trace(Recording(time, amps), own, [Assigned(begin_s=0, end_s=30, mode="asleep")])
        rows = told.modes[0].phases
        self.assertEqual([r.name for r in rows], ["chip: sends", "chip: works", "chip: off"])
        for row, expected_s, seconds, mean in zip(
            rows, (0.5, 2.0, 7.5), (1.0, 2.0, 7.0), (55e-3, 9e-3, 1e-3), strict=True
        ):
            self.assertAlmostEqual(row.expected_s or 0, expected_s, places=6)
            self.assertAlmostEqual(row.seconds or 0, seconds, places=2)
            self.assertAlmostEqual(row.mean_a or 0, mean, places=6)

    def test_a_mode_without_phases_has_none_and_what_never_comes_is_not_seen(self) -> None:
        self.assertEqual([m.phases for m in judge_trace(STEPS, bench_of()).modes if m.mode is not None][:1], [[]])
        chip = part("chip", state("off", 1e-3), state("sends", 50e-3))
        own = bench_of(
            parts=[chip],
            modes=asleep(use("chip", "sends", rest="off", burst=[{"state": "sends", "seconds": 0.5}], period_s=10.0)),
            day={"rest": "asleep"},
        )
        told = judge_trace(
            Recording(STEPS.time_s, np.full(100, 1e-3)), own, [Assigned(begin_s=0, end_s=10, mode="asleep")]
        )
        self.assertIsNone(told.modes[0].phases[0].mean_a)


class Replays(unittest.TestCase):
    def test_levels_keep_time_and_charge(self) -> None:
        draw = np.random.default_rng(2)
        for amps in (draw.lognormal(-6, 2, 5000), np.full(50, 2e-3), np.where(np.arange(9000) == 5, 0.4, 1e-6)):
            own = Recording(np.arange(amps.size) * 0.01, amps)
            shares, means = levels(own)
            self.assertLessEqual(shares.size, LEVELS)
            self.assertAlmostEqual(float(shares.sum()), 1.0)
            self.assertAlmostEqual(float(shares @ means) / (float(own.charge_as[-1]) / own.seconds), 1.0)

    def test_a_steady_current_lasts_its_hours(self) -> None:
        """One ampere-hour, straight from the battery, at 10 mA: the same as a design that draws 10 mA."""
        chip = part("chip", state("on", 10e-3))
        plain = {"rails": [{"id": "main", "name": "Main", "feed": "battery"}]}
        own = bench_of(parts=[chip], modes=asleep(use("chip", "on")), day={"rest": "asleep"}, supply=plain)
        told = replay(Recording(np.arange(100) * 0.1, np.full(100, 10e-3)), own)
        assert told.runtime is not None and told.runtime.value is not None
        self.assertAlmostEqual(told.runtime.value / (own.runtime_s / 3600), 1.0, delta=0.02)

    def test_what_draws_twice_as_much_lasts_half_as_long(self) -> None:
        own = bench_of()
        hours = [replay(Recording(np.arange(100) * 0.1, np.full(100, a)), own).runtime for a in (5e-3, 10e-3)]
        assert hours[0] and hours[1] and hours[0].value and hours[1].value
        self.assertAlmostEqual(hours[0].value / hours[1].value, 2.0, delta=0.05)

    def test_demos_that_do_what_their_design_says_last_as_long(self) -> None:
        """A recording in which every mode has the share of time that it has in the day, through the design's own supply."""
        for name in DEMOS:
            own = bench(name)
            state = own.usual
            there = np.flatnonzero((state.point_weights > 0) & (state.typical.source_a[:, own.middle] > 0))
            lasts = state.point_weights[there] / state.point_weights[there].sum()
            amps = state.typical.source_a[there, own.middle]
            counts = np.maximum(np.round(lasts * 400_000), 1).astype(int)
            flat = np.repeat(amps, counts)
            told = replay(Recording(np.arange(flat.size) * 0.01, flat), own)
            assert told.runtime is not None and told.runtime.value is not None
            typical = as_load(Recording(np.arange(flat.size) * 0.01, flat), own)
            hours = TrialBench(typical, built_in()).usual.seconds / 3600
            with self.subTest(name):
                self.assertAlmostEqual(hours / (state.seconds / 3600), 1.0, delta=0.12)

    def test_nothing_drawn_says_nothing(self) -> None:
        told = replay(Recording(np.arange(100) * 0.1, np.zeros(100)), bench_of())
        self.assertIsNone(told.runtime)
        self.assertIn("says nothing", told.sentence)

    def test_every_demo_recorded_by_its_own_model(self) -> None:
        for name in DEMOS:
            own = bench(name)
            recording, _ = simulated(own, 120.0, 500.0, 3)
            with self.subTest(name):
                self.assertIsNotNone(replay(recording, own).runtime)


class Notes(unittest.TestCase):
    OWN = bench_of(supply={"rails": [{"id": "main", "name": "Main", "feed": "battery"}]})

    def gaps(self, jumps: int, other: int) -> str:
        """What is said of a recording with so many gaps where the current jumps and so many where it does not."""
        time, amps = list[float](), list[float]()
        at = 0.0
        for k in range(jumps + other + 1):
            time += [at + 0.01 * i for i in range(40)]
            at = time[-1] + 1.0
            amps += [1e-3 if k > jumps or k % 2 == 0 else 20e-3] * 40
        return " ".join(judge_trace(Recording(np.array(time), np.array(amps)), self.OWN).notes)

    def test_gaps_at_jumps_are_a_meter_that_changes_its_range(self) -> None:
        self.assertIn("changing its range and missed the beginnings", self.gaps(6, 1))
        self.assertIn("or lost samples", self.gaps(4, 4))
        self.assertIn("or lost samples", self.gaps(1, 0))

    def test_a_voltage_below_the_end_is_the_meter_s_burden(self) -> None:
        chip = part("chip", state("sleep", 1e-3), state("active", 100e-3), supply_min_v=3.2)
        own = bench_of(parts=[chip], supply={"rails": [{"id": "main", "name": "Main", "feed": "battery"}]})
        end_v = 3.2
        for least, told in ((end_v - 0.03, True), (end_v + 0.03, False)):
            volts = np.full(100, 3.9)
            volts[60] = least
            small = unpacked(reduced(Recording(STEPS.time_s, STEPS.current_a, volts), 10).packed())
            notes = " ".join(judge_trace(small.recording, own).notes)
            self.assertEqual("burden" in notes, told, notes)

    def test_what_was_found_in_all_samples_is_told_of_the_small_one(self) -> None:
        amps = np.minimum(np.random.default_rng(3).exponential(0.01, 8000), 0.02)
        whole = Recording(np.arange(8000) * 1e-3, amps, dropped=3, turned=True)
        small = unpacked(reduced(whole, 100).packed()).recording
        self.assertEqual(judge_trace(small, self.OWN).notes, judge_trace(whole, self.OWN).notes)
        self.assertEqual(len(judge_trace(small, self.OWN).notes), 3)

    def regular(self, every: dict[str, float], seconds: float = 600.0, jitter: float = 0.0) -> str:
        """What is said of a gadget that wakes to two modes at these intervals; the design says 20 and 30 s."""
        chip = part("chip", state("sleep", 1e-5), state("one", 10e-3), state("two", 50e-3))
        own = bench_of(
            parts=[chip],
            modes=[{"id": m, "name": m, "uses": [use("chip", s)]} for m, s in (("asleep", "sleep"), ("first", "one"), ("second", "two"))],
            day={"rest": "asleep", "wakes": [{"name": "first", "mode": "first", "every_s": 20, "awake_s": 1}, {"name": "second", "mode": "second", "every_s": 30, "awake_s": 1}]},
            supply={"rails": [{"id": "main", "name": "Main", "feed": "battery"}]},
        )  # fmt: skip
        time = np.arange(0, seconds, 0.02)
        amps = np.full(time.size, 1e-5)
        chance = np.random.default_rng(1)
        for mode, level in (("first", 10e-3), ("second", 50e-3)):
            for begin in np.arange(5.0 if mode == "first" else 12.0, seconds - 2, every[mode]):
                at = begin + jitter * every[mode] * chance.uniform(-1, 1)
                amps[(time >= at) & (time < at + 1)] = level
        return " ".join(judge_trace(Recording(time, amps), own).notes)

    def test_a_clock_that_is_off_by_more_than_a_hundredth(self) -> None:
        right = {"first": 20.0, "second": 30.0}
        self.assertNotIn("clock", self.regular(right))
        for share, said in ((0.008, False), (0.013, True), (-0.013, True)):
            notes = self.regular({m: s * (1 + share) for m, s in right.items()}, 900.0)
            self.assertEqual("Compare one of them with a watch" in notes, said, (share, notes))
            self.assertEqual("sooner" in notes, share < -0.01)

    def test_one_interval_that_is_off_is_that_wake_s(self) -> None:
        notes = self.regular({"first": 22.0, "second": 30.0})
        self.assertIn("“first” comes every 22", notes)
        self.assertNotIn("Compare one of them", notes)
        self.assertNotIn("comes every", self.regular({"first": 25.5, "second": 30.0}))  # another interval altogether
        self.assertNotIn("comes every", self.regular({"first": 22.0, "second": 30.0}, jitter=0.1))
        self.assertNotIn("comes every", self.regular({"first": 22.0, "second": 30.0}, 88.0))  # too few to tell

    def test_an_offset_is_what_all_modes_have_too_much(self) -> None:
        own = bench("dusk-ear")
        sheet = {s.key: s for s in bring_up(own).steps}
        amps = own.usual.mode_current_a[:, own.middle]
        modes = [own.rest, *(m for m in range(len(amps)) if m != own.rest and own.usual.shares[m] > 0)][:4]

        def off_by(off: float, those: list[int], only: int | None = None) -> str:
            level = np.repeat([amps[m] + (off if only in (None, m) else 0.0) for m in those], 500)
            time = 0.02 * np.arange(level.size)
            assigned = [
                Assigned(begin_s=10.0 * i, end_s=10.0 * (i + 1), mode=own.design.modes[m].id)
                for i, m in enumerate(those)
            ]
            return " ".join(judge_trace(Recording(time, level), own, assigned).notes)

        def said(off: float, only: int | None = None) -> bool:
            return "Every mode reads" in off_by(off, modes, only)

        low, high = (
            np.array([getattr(sheet[f"mode-{own.design.modes[m].id}"], x) for m in modes]) for x in ("low", "high")
        )
        room = np.sort(high - amps[modes])
        self.assertTrue(said(room[1] * 1.02))  # two modes are outside
        self.assertFalse(said(room[1] * 0.98))
        self.assertFalse(said(room[1] * 1.02, only=own.rest))
        below = np.sort(amps[modes] - low)
        self.assertTrue(said(-below[1] * 1.02), "too little")
        self.assertFalse(said(-below[1] * 0.98))
        told = off_by(-below[1] * 1.02, modes)
        self.assertIn("too little", told)
        self.assertNotIn("draws always", told)
        for count, there in ((2, False), (3, True)):  # two modes do not tell an offset from what one of them draws
            self.assertEqual("Every mode reads" in off_by(room[1] * 1.5, modes[:count]), there, count)
