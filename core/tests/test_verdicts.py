"""The verdict band: when each answer passes, is to be watched, fails or is unknown, and in which words."""

from __future__ import annotations

import unittest
from typing import Any

import numpy as np

from ember_core import Design, evaluate
from ember_core.figures import Figure, Verdict
from ember_core.reports.verdicts import UNUSED_PASS, UNUSED_WATCH
from ember_core.runtime.run import run

from .gadgets import LINEAR, cell, design, part, plain, seen, state, use

# a battery and a supply that have their places, so that only what a test is about is missing
OTHERS: dict[str, Any] = {
    "battery": {
        "cell": cell(form="cylinder"),
        "wiring_ohm": 0,
        "body": {"size_mm": [18, 18, 5], "position_mm": [35, 60, 5]},
    },
    "supply": {
        "stages": [LINEAR | {"body": {"size_mm": [3, 3, 1], "position_mm": [45, 30, 5]}}],
        "rails": [{"id": "main", "name": "Main", "feed": "reg"}],
    },
}
BRIEF = {"goal_h": 100, "coldest_c": 25, "usual_c": 25, "hottest_c": 25}


def verdict(key: str, **more: Any) -> Verdict:
    return next(v for v in evaluate(design(**more)).verdicts if v.key == key)


class Runtime(unittest.TestCase):
    def status(self, goal: float) -> str:
        chip = part("chip", state("sleep", 1e-3, 0.8e-3, 1.3e-3), state("active", 0.1, 0.08, 0.13))
        return verdict("runtime", parts=[chip], brief=BRIEF | {"goal_h": goal}).status

    def test_no_goal_is_no_pass(self) -> None:
        without = verdict("runtime", brief=BRIEF | {"goal_h": None})
        self.assertEqual((without.status, without.word), ("unknown", "no goal set"))
        self.assertNotIn("Goal", without.sentence)

    def test_depends_on_where_the_goal_lies_in_the_range(self) -> None:
        chip = part("chip", state("sleep", 1e-3, 0.8e-3, 1.3e-3), state("active", 0.1, 0.08, 0.13))
        total = verdict("runtime", parts=[chip]).figure
        assert total.value and total.low and total.high
        self.assertTrue(total.low < total.value < total.high)
        self.assertEqual(self.status(total.low * 0.99), "pass")
        self.assertEqual(self.status((total.low + total.value) / 2), "watch")
        self.assertEqual(self.status((total.high + total.value) / 2), "watch")
        self.assertEqual(self.status(total.high * 1.01), "fail")


class Goals(unittest.TestCase):
    def test_both_sides_of_the_goal_of_a_mode(self) -> None:
        """1 Ah at 0.1 A straight on the cell lasts T by itself: a goal of just less than T is watched, of just more to be fixed, of four fifths of it met;
        on one, two and three cells in series, and the runtime is no pass meanwhile."""
        for series in (1, 2, 3):

            def gadget(goal: float | None, series: int = series) -> Design:
                modes = [
                    {"id": "rest", "name": "Resting", "uses": [use("p", "off")]},
                    {"id": "play", "name": "Playing", "uses": [use("p", "on")], "goal_h": goal},
                ]
                return design(
                    parts=[part("p", state("off", 1e-6), state("on", 0.1), rail="raw")],
                    modes=modes,
                    day={"rest": "rest", "sessions": [{"name": "Play", "mode": "play", "seconds": 600, "per_day": 1}]},
                    supply={"rails": [{"id": "raw", "name": "Raw", "feed": "battery"}]},
                    battery={"cell": cell(), "series": series},
                    brief={"goal_h": 24},
                )

            lasts = run(gadget(None)).nonstop_s[1] / 3600
            for goal, severity in (
                (None, None),
                (0.799 * lasts, None),
                (0.801 * lasts, "watch"),
                (0.999 * lasts, "watch"),
                (1.001 * lasts, "fix"),
            ):
                found = seen(gadget(goal), "mode-goal")
                self.assertEqual(found[0].severity if found else None, severity, goal)
                verdict = next(v for v in evaluate(gadget(goal)).verdicts if v.key == "runtime")
                self.assertEqual(verdict.status == "pass", severity != "fix", (goal, verdict.word))


class Weakest(unittest.TestCase):
    def gadget(self, least_v: float, ohm: float = 0.1) -> Verdict:
        chip = part("chip", state("sleep", 1e-3), state("active", 0.1), supply_min_v=least_v)
        return verdict("weakest", parts=[chip], battery={"cell": cell(resistance_ohm=ohm)})

    def test_holds_gives_up_early_or_does_not_work(self) -> None:
        self.assertEqual((self.gadget(2.5).status, self.gadget(2.5).word), ("pass", "late enough"))
        self.assertEqual(
            (self.gadget(3.29, ohm=1.0).status, self.gadget(3.29, ohm=1.0).word), ("watch", "gives up early")
        )
        never = self.gadget(3.5)
        self.assertEqual((never.status, never.word), ("fail", "does not work"))
        self.assertIn("gets 3.3 V and needs 3.5 V", plain(never.sentence))

    def test_both_limits_of_what_may_be_left(self) -> None:
        """Straight from the battery a chip stops where the voltage under load falls below what it needs."""

        def gadget(left: float | None) -> Verdict:
            supply = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}
            state_ = run(design(supply=supply, battery=OTHERS["battery"]))
            volts = None if left is None else float(np.interp(left, state_.pack.charge[::-1], state_.worst.rail_v[0].min(axis=0)[::-1]))  # fmt: skip
            chip = part("chip", state("sleep", 1e-3), state("active", 0.1), supply_min_v=volts)
            return verdict("weakest", parts=[chip], supply=supply, battery=OTHERS["battery"])

        for left, status in ((UNUSED_PASS - 0.01, "pass"), (UNUSED_PASS + 0.01, "watch"), (UNUSED_WATCH - 0.01, "watch"), (UNUSED_WATCH + 0.01, "fail")):  # fmt: skip
            found = gadget(left)
            self.assertAlmostEqual(found.figure.value or 0, left * 100, delta=0.2)
            self.assertEqual(found.status, status, left)
        self.assertEqual((UNUSED_PASS, UNUSED_WATCH), (0.10, 0.35))

    def test_a_mode_that_is_not_essential_only_asks_to_be_watched(self) -> None:
        loud = part("amp", state("quiet", 1e-3), state("loud", 0.9))
        modes = [
            {"id": "asleep", "name": "Asleep", "uses": [use("amp", "quiet")]},
            {"id": "awake", "name": "Loud", "essential": False, "uses": [use("amp", "loud")]},
        ]
        weak = {"stages": [LINEAR | {"limit_a": 0.5}], "rails": [{"id": "main", "name": "Main", "feed": "reg"}]}
        self.assertEqual(verdict("weakest", parts=[loud], modes=modes, supply=weak).status, "watch")


class Charge(unittest.TestCase):
    CHARGER: dict[str, Any] = {"name": "C", "program_constant_v": 1000, "program_ohm": 2000, "protects": True}

    def test_the_range_comes_from_the_capacity_the_current_and_the_resistance(self) -> None:
        """What the resistance does to it is told by gadgets whose cell has 1.4 times as much, or as little."""

        def hours(ohm: float) -> Figure:
            return verdict(
                "charge", charger=self.CHARGER, battery={"cell": cell(resistance_ohm=ohm), "wiring_ohm": 0}
            ).figure

        time = hours(0.1)
        assert time.value and time.low and time.high
        sooner, later = (abs((hours(0.1 * f).value or 0) / time.value - 1) for f in (1 / 1.4, 1.4))
        self.assertGreater(later, 0.02)
        self.assertAlmostEqual(1 - time.low / time.value, (0.03**2 + 0.10**2 + sooner**2) ** 0.5, places=4)
        self.assertAlmostEqual(time.high / time.value - 1, (0.03**2 + 0.10**2 + later**2) ** 0.5, places=4)
        self.assertIn("added as squares", time.working.note)

    def test_a_charge_that_may_never_end_has_no_latest_end(self) -> None:
        """With so much resistance the current has fallen to its end before the pack is seven tenths full: at 1.4 times the least such figure, as it is at 0.9 times."""

        def found(ohm: float) -> Figure:
            return verdict(
                "charge", charger=self.CHARGER, battery={"cell": cell(resistance_ohm=ohm), "wiring_ohm": 0}
            ).figure

        ends = [ohm for ohm in np.arange(0.5, 12, 0.25) if found(float(ohm)).value is not None]
        self.assertLess(max(ends), 11)
        for share, known in ((0.6, True), (0.9, False)):
            time = found(share * float(max(ends)))
            self.assertIsNotNone(time.value)
            self.assertEqual(time.high is not None, known, share)
            self.assertEqual("never gets full" not in time.working.note, known)

    def test_in_time_too_slow_or_not_here(self) -> None:
        quick = verdict("charge", charger=self.CHARGER, brief=BRIEF | {"charge_max_h": 4})
        self.assertEqual((quick.status, quick.word), ("pass", "in time"))
        slow = verdict("charge", charger=self.CHARGER | {"program_ohm": 10000}, brief=BRIEF | {"charge_max_h": 4})
        self.assertEqual((slow.status, slow.word), ("fail", "takes too long"))
        self.assertEqual(verdict("charge").word, "charged outside")
        primary = {"cell": cell(chemistry="alkaline", form="cylinder")}
        self.assertEqual(verdict("charge", battery=primary).word, "swap the cells")


class Limits(unittest.TestCase):
    def test_mass_and_cost_against_the_brief(self) -> None:
        known: dict[str, Any] = {
            "parts": [part("chip", state("sleep", 1e-3), state("active", 0.1), mass_g=2)],
            "supply": {"stages": [LINEAR | {"mass_g": 0.2}], "rails": [{"id": "main", "name": "Main", "feed": "reg"}]},
        }
        mass = verdict("mass", **known).figure.value or 0
        for limit, status in ((mass * 2, "pass"), (mass * 1.05, "watch"), (mass * 0.9, "fail")):
            self.assertEqual(verdict("mass", brief=BRIEF | {"mass_max_g": limit}, **known).status, status)
        unweighed = verdict("mass", brief=BRIEF | {"mass_max_g": mass * 2})
        self.assertEqual((unweighed.status, unweighed.word), ("watch", "2 without a mass"))
        self.assertIn("chip, Regulator", unweighed.sentence)
        for key in ("mass", "cost"):
            self.assertEqual((verdict(key).status, verdict(key).word), ("unknown", "no limit set"))
        dear = part("chip", state("sleep", 1e-3), state("active", 0.1), cost=30, quantity=2)
        self.assertEqual(verdict("cost", parts=[dear], brief=BRIEF | {"cost_max": 50}).word, "over the brief")
        self.assertEqual(verdict("cost", parts=[dear]).figure.value, 60)

    def test_fit_is_unknown_without_places_and_watched_with_some(self) -> None:
        self.assertEqual(verdict("fit").status, "unknown")

        def bodies(second: list[float] | None) -> list[dict[str, Any]]:
            first = {"size_mm": [5, 5, 3], "position_mm": [10, 10, 5]}
            other = {"size_mm": [5, 5, 3], "position_mm": second}
            return [
                part("a", state("on", 1e-3), body=first),
                part("b", state("on", 1e-3), body=other),
            ]

        modes = [{"id": "asleep", "name": "Asleep", "uses": [use("a", "on"), use("b", "on")]}]
        for place, word in ((None, "1 without a place"), ([15.2, 10, 5], "tight"), ([12, 10, 5], "does not close"),
                            ([20, 10, 5], "closes")):  # fmt: skip
            with self.subTest(word):
                self.assertEqual(
                    verdict("fit", parts=bodies(place), modes=modes, day={"rest": "asleep"}, **OTHERS).word, word
                )
