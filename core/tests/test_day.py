"""The day's shares by the clock, the week and the year; the average and the worst day."""

from __future__ import annotations

import unittest
from typing import Any

import numpy as np
from scipy.stats import poisson

from ember_core import Design, evaluate
from ember_core.load.day import SLOTS, Year, _most_on, covered, day_kinds, longest_s, mode_shares

from .gadgets import design, part, state


def gadget(**day: Any) -> Design:
    chip = part("chip", state("sleep", 1e-3), state("active", 0.1))
    return design(parts=[chip], day={"rest": "asleep", **day})


def session(**more: Any) -> dict[str, Any]:
    return {"name": "Use", "mode": "awake", "seconds": 3600, "per_day": 1} | more


class Shares(unittest.TestCase):
    def awake(self, **day: Any) -> float:
        made = gadget(**day)
        shares = mode_shares(made.day, made.modes)
        self.assertAlmostEqual(float(shares.sum()), 1.0, places=12)
        return float(shares[1])

    def test_by_the_clock_or_at_any_time_the_share_is_the_same(self) -> None:
        self.assertAlmostEqual(self.awake(sessions=[session()]), 1 / 24)
        self.assertAlmostEqual(self.awake(sessions=[session(at_h=[23.5])]), 1 / 24)

    def test_weekdays_and_months_count_by_their_days(self) -> None:
        self.assertAlmostEqual(self.awake(sessions=[session(days=[5, 6])]), 2 / 7 / 24)
        self.assertAlmostEqual(self.awake(sessions=[session(months=[6, 7, 8])]), 92 / 365.25 / 24)

    def test_booting_and_the_timeout_are_part_of_a_session(self) -> None:
        more = session(before={"mode": "awake", "seconds": 600}, after={"mode": "awake", "seconds": 1200})
        self.assertAlmostEqual(self.awake(sessions=[more]), 1.5 / 24)

    def test_a_window_halves_a_wake(self) -> None:
        wake = {"name": "W", "mode": "awake", "every_s": 60, "awake_s": 6}
        self.assertAlmostEqual(self.awake(wakes=[wake]), 0.1)
        self.assertAlmostEqual(self.awake(wakes=[wake | {"from_h": 18, "to_h": 6}]), 0.05)

    def test_wakes_wait_while_a_session_by_the_clock_covers_their_window(self) -> None:
        wake = {"name": "W", "mode": "awake", "every_s": 60, "awake_s": 6, "from_h": 12, "to_h": 13}
        self.assertAlmostEqual(self.awake(sessions=[session(at_h=[12])], wakes=[wake]), 1 / 24)

    def test_how_often_wakes_come(self) -> None:
        wake = {"name": "W", "mode": "awake", "every_s": 60, "awake_s": 6}
        often = [wake, wake | {"name": "By day", "from_h": 6, "to_h": 18}, wake | {"name": "Sundays", "days": [6]}]
        made = gadget(sessions=[session(seconds=12 * 3600)], wakes=often)
        np.testing.assert_allclose(Year(made.day, made.modes).wakes_a_day, [720, 360, 720 / 7])

    def test_covered_goes_round_midnight(self) -> None:
        half = covered(23, 25)
        self.assertAlmostEqual(float(half.sum()), SLOTS / 12)
        self.assertEqual((half[0], half[1], half[2], half[-1]), (1, 1, 0, 1))

    def test_longest_stretch_is_endless_for_the_rest_mode(self) -> None:
        made = gadget(sessions=[session(), session(name="Short", seconds=60)])
        np.testing.assert_array_equal(longest_s(made.day, made.modes)[0], [np.inf, 3600])


class Kinds(unittest.TestCase):
    def test_days_that_are_alike_are_one_kind(self) -> None:
        made = gadget(sessions=[session(days=[5, 6]), session(name="Summer", months=[7])])
        kinds = day_kinds(made.day, made.modes)
        self.assertEqual(len(kinds), 4)
        self.assertAlmostEqual(sum(k.weight for k in kinds), 1.0)
        self.assertIn("Sat, Sun in Jul", [k.name for k in kinds])

    def test_a_bad_day_has_as_many_chance_events_as_one_day_in_twenty_exceeds(self) -> None:
        made = gadget(sessions=[session(seconds=60, per_day=4, why="random")])
        bad = day_kinds(made.day, made.modes, bad=True)[0]
        self.assertAlmostEqual(float(bad.slots.mean(axis=0)[1]), float(poisson.ppf(0.95, 4)) * 60 / 86400)

    def test_the_report_names_the_worst_day_and_what_it_takes(self) -> None:
        report = evaluate(gadget(sessions=[session(days=[5]), session(name="Short", seconds=60)])).day
        self.assertIn("Sat", report.worst.name)
        self.assertGreater(report.worst.mean.value or 0, 3 * (report.average.mean.value or 1))
        self.assertLess(report.worst.lasts.value or 0, report.average.lasts.value or 0)
        self.assertEqual(len(report.slots_a), SLOTS)
        self.assertAlmostEqual(float(np.mean(report.slots_a)), report.average.mean.value or 0, places=9)
        self.assertIn("Every day is the same", evaluate(gadget()).day.sentence)


if __name__ == "__main__":
    unittest.main()


class Chance(unittest.TestCase):
    def test_a_bad_day_by_the_distribution(self) -> None:
        """Held against a library from one event in ten thousand days to a hundred thousand a day."""
        for mean in 10 ** np.random.default_rng(5).uniform(-4, 5, 400):
            self.assertEqual(_most_on(0.95, float(mean)), float(poisson.ppf(0.95, mean)), mean)
        self.assertEqual(_most_on(0.95, 1.0), 3.0)  # P(3 or fewer) = 0.981, P(2 or fewer) = 0.920
