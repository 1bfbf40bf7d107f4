"""Runtime against the interval, held against the closed form of a gadget whose battery sees a constant voltage."""

from __future__ import annotations

import unittest

import numpy as np

from ember_core.catalogue import built_in
from ember_core.measures.bench import TrialBench
from ember_core.studies.intervals import answer_intervals, knee_s

from .gadgets import design, part, state, use


def waking(every_s: float, awake_a: float = 50e-3, asleep_a: float = 20e-6, awake_s: float = 2.0) -> TrialBench:
    chip = part("chip", state("sleep", asleep_a), state("active", awake_a))
    modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep")]}, {"id": "awake", "name": "Awake", "uses": [use("chip", "active")]}]  # fmt: skip
    wakes = [{"id": "w", "name": "Reading", "mode": "awake", "every_s": every_s, "awake_s": awake_s}]
    return TrialBench(design(parts=[chip], modes=modes, day={"rest": "asleep", "wakes": wakes}), built_in())


class Knee(unittest.TestCase):
    def test_that_of_a_charge_a_wake_over_a_sleep_current(self) -> None:
        """Life is as 1 / (I + q / T), so twice T brings a tenth where q / 2T = 0.1 (I + q / 2T): T = 4.5 q / I."""
        for charge, sleep in ((0.1, 20e-6), (0.01, 1e-4), (1.0, 1e-5)):
            right = 4.5 * charge / sleep
            every = right * 2.0 ** np.arange(-6, 6)
            found = knee_s(list(every), list(1 / (sleep + charge / every)))
            with self.subTest(charge=charge):
                self.assertAlmostEqual((found or 0) / right, 1, delta=0.06)

    def test_there_is_none_where_it_hardly_matters_or_always_does(self) -> None:
        every = [60.0, 120.0, 240.0, 480.0]
        self.assertIsNone(knee_s(every, [100.0, 101.0, 101.5, 101.7]))
        self.assertIsNone(knee_s(every, [100.0, 190.0, 350.0, 600.0]))

    def test_the_gadget_has_it_where_its_currents_say(self) -> None:
        """With what the cell loses by itself and its circuit draws: 1 %/month of 1 Ah is 14 µA."""
        bench = waking(900)
        (curve,) = answer_intervals(bench)
        asleep = bench.usual.mode_current_a[0, bench.middle] + bench.usual.pack.self_discharge_a
        awake = bench.usual.mode_current_a[1, bench.middle] - bench.usual.mode_current_a[0, bench.middle]
        self.assertAlmostEqual((curve.knee_s or 0) / (4.5 * 2 * awake / asleep), 1, delta=0.25)
        self.assertEqual([p.every_s for p in curve.points], sorted(p.every_s for p in curve.points))
        now = next(p for p in curve.points if p.every_s == 900)
        self.assertAlmostEqual(now.hours / (bench.runtime_s / 3600), 1, delta=0.005)

    def test_each_point_is_what_the_changed_design_lasts(self) -> None:
        (curve,) = answer_intervals(waking(900))
        for point in curve.points[::3]:
            with self.subTest(point.every_s):
                self.assertAlmostEqual(point.hours / (waking(point.every_s).runtime_s / 3600), 1, delta=0.005)

    def test_what_is_said(self) -> None:
        said = [answer_intervals(waking(every))[0].sentence for every in (60, 900, 86400)]
        self.assertIn("Longer ones help up to about", said[0])
        self.assertIn("less than a tenth: something else takes the charge", said[2])
        hungry = answer_intervals(waking(900, asleep_a=20e-3))[0]
        self.assertIsNone(hungry.knee_s)
        self.assertIn("less than a tenth: something else", hungry.sentence)

    def test_no_interval_is_shorter_than_what_happens_in_it(self) -> None:
        (curve,) = answer_intervals(waking(60, awake_s=30))
        self.assertGreaterEqual(curve.points[0].every_s, 37.5)

    def test_a_gadget_without_wakes_has_none(self) -> None:
        self.assertEqual(answer_intervals(TrialBench(design(), built_in())), [])


if __name__ == "__main__":
    unittest.main()
