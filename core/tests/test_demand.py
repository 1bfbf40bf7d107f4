"""Moments and the day's shares."""

from __future__ import annotations

import unittest

from ember_core.load.day import mode_shares
from ember_core.load.operating_points import all_operating_points, part_current, state_level

from .gadgets import asleep, design, part, state, use


class Moments(unittest.TestCase):
    def test_shares_of_a_mode_add_up_and_duties_start_together(self) -> None:
        gadget = design(
            parts=[part("a", state("on", 0.1)), part("b", state("low", 0.01), state("high", 0.2))],
            modes=asleep(use("a", "on", duty=0.3), use("b", "high", duty=0.1, rest="low")),
            day={"rest": "asleep"},
        )
        operating_points = all_operating_points(gadget)
        self.assertAlmostEqual(sum(m.share for m in operating_points), 1.0)
        first = operating_points[0]
        self.assertEqual([s.name if s else None for s in first.states], ["on", "high"])
        self.assertAlmostEqual(first.share, 0.1)
        self.assertIsNone(operating_points[-1].states[0])

    def test_burst_phases_take_their_seconds_of_the_period(self) -> None:
        burst = [{"state": "boot", "seconds": 2}, {"state": "send", "seconds": 3}]
        radio = part("radio", state("off", 0), state("boot", 0.05), state("send", 0.2))
        gadget = design(
            parts=[radio], modes=asleep(use("radio", "send", burst=burst, period_s=20, rest="off")),
            day={"rest": "asleep"},
        )  # fmt: skip
        operating_points = all_operating_points(gadget)
        self.assertEqual([(m.states[0].name, round(m.seconds or 0, 9)) for m in operating_points if m.states[0]],
                         [("boot", 2), ("send", 3), ("off", 15)])  # fmt: skip


class DayShares(unittest.TestCase):
    def test_sessions_first_then_wakes_in_what_is_left(self) -> None:
        gadget = design(
            day={
                "rest": "asleep",
                "sessions": [{"name": "Use", "mode": "awake", "seconds": 21600, "per_day": 1}],
                "wakes": [{"name": "Wake", "mode": "awake", "every_s": 100, "awake_s": 10}],
            }
        )
        shares = mode_shares(gadget.day, gadget.modes)
        self.assertAlmostEqual(float(shares.sum()), 1.0)
        self.assertAlmostEqual(float(shares[1]), 0.25 + 0.75 * 0.1)


class Levels(unittest.TestCase):
    def test_most_draw_of_a_resistor_is_its_least_resistance(self) -> None:
        gadget = design(
            parts=[
                part("pull", {"name": "low", "draw": {"behaviour": "resistor", "resistance_ohm":
                     {"typical": 1000, "min": 900, "max": 1200}}, "provenance": "datasheet"})
            ],
            modes=asleep(use("pull", "low")), day={"rest": "asleep"},
        )  # fmt: skip
        pull = gadget.parts[0].states[0]
        self.assertEqual(state_level(pull, "max"), 900)
        self.assertGreater(float(part_current(pull, 3.3, "max")), float(part_current(pull, 3.3, "min")))

    def test_missing_bounds_come_from_the_provenance(self) -> None:
        gadget = design()
        measured = gadget.parts[0].states[1].model_copy(update={"provenance": "measured"})
        measured.draw.current_a.min = measured.draw.current_a.max = None  # type: ignore[union-attr]
        guess = measured.model_copy(update={"provenance": "guess"})
        self.assertLess(state_level(measured, "max"), state_level(guess, "max"))
