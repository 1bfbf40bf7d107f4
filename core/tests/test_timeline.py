"""The event-by-event simulation: against the quadrature, and against closed forms of diffusion."""

from __future__ import annotations

import unittest
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from ember_core import read_design
from ember_core.battery.pack import FINE_POINTS, GRID_POINTS
from ember_core.design import Design
from ember_core.load.events import Events, Scheduler
from ember_core.runtime.run import EARLY, Run, _as_close_as_needed, rerun, run, with_battery
from ember_core.runtime.simulation import Simulation, one_day, run_down

from .gadgets import asleep, cell, design, part, state, use
from .randoms import random_design

DEMO = Path(__file__).resolve().parents[2] / "demo"
BARE = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}


class AgainstTheQuadrature(unittest.TestCase):
    def check(self, gadget: Design, pause_s: float = 0.0) -> None:
        """`pause_s`: how long what fails may not happen at all; the end waits for it."""
        state = run(gadget)
        simulated, _ = run_down(state)
        self.assertLess(abs(state.charge_seconds - simulated), 0.005 * simulated + pause_s)

    def test_snow_stake(self) -> None:
        self.check(read_design((DEMO / "snow-stake.json").read_bytes()), pause_s=5 * 3600)  # half a night

    def test_rosin_minder_for_years(self) -> None:
        self.check(read_design((DEMO / "rosin-minder.json").read_bytes()))

    def test_rosin_minder_rechargeable(self) -> None:
        self.check(read_design((DEMO / "rosin-minder-rechargeable.json").read_bytes()))

    def test_a_wake_every_five_seconds_for_two_years(self) -> None:
        gadget = design(
            parts=[part("chip", state("sleep", 2e-6), state("active", 8e-3))],
            battery={"cell": cell(capacity_ah=1.6), "wiring_ohm": 0},
            day={"rest": "asleep", "wakes": [{"name": "Look", "mode": "awake", "every_s": 5, "awake_s": 0.02}]},
        )
        self.assertGreater(run(gadget).seconds, 1.9 * 365 * 86400)
        self.check(gadget)

    def test_dusk_ear_day_by_day_until_it_is_nearly_empty(self) -> None:
        """Its end falls into a session of one evening; after whole days the two can be compared."""
        state = run(read_design((DEMO / "dusk-ear.json").read_bytes()))
        scheduler, simulation = Scheduler(state.design, state.operating_points), Simulation(state)
        days = int(state.charge_seconds // 86400)
        self.assertGreaterEqual(days, 5)
        for number in range(days):
            simulation.advance(scheduler.day(number))
        then = state.at(simulation.battery.charge, state.elapsed_s)
        self.assertAlmostEqual(then / simulation.elapsed_s, 1.0, delta=0.005)
        self.assertIsNone(simulation.ended_by)

    def test_sessions_by_the_clock_and_weekdays_come_to_the_mean_of_the_weeks(self) -> None:
        sessions = [
            {
                "name": "Morning",
                "mode": "awake",
                "seconds": 1200,
                "per_day": 2,
                "at_h": [7, 23.9],
                "days": [0, 1, 2, 3, 4],
            },
            {"name": "Alarms", "mode": "awake", "seconds": 60, "per_day": 4, "why": "random"},
        ]
        parts = [part("chip", state("sleep", 0.1e-3), state("active", 10e-3))]
        state_ = run(design(parts=parts, day={"rest": "asleep", "sessions": sessions}))
        simulated, _ = run_down(state_)
        self.assertGreater(simulated, 80 * 86400)
        self.assertAlmostEqual(state_.seconds / simulated, 1.0, delta=0.02)


class Days(unittest.TestCase):
    def events(self, **day: Any) -> tuple[Design, Events]:
        gadget = design(day={"rest": "asleep", **day})
        state_ = run(gadget)
        return gadget, Scheduler(gadget, state_.operating_points).day(0)

    def test_a_day_has_24_hours_whatever_is_in_it(self) -> None:
        wakes = [
            {"name": "Often", "mode": "awake", "every_s": 7, "awake_s": 0.5},
            {"name": "At night", "mode": "awake", "every_s": 60, "awake_s": 2, "from_h": 22, "to_h": 6},
        ]
        sessions = [
            {"name": "Noon", "mode": "awake", "seconds": 3600, "per_day": 1, "at_h": [12]},
            {"name": "Some time", "mode": "awake", "seconds": 600, "per_day": 5},
        ]
        _, events = self.events(wakes=wakes, sessions=sessions)
        self.assertAlmostEqual(float(events.seconds.sum()), 86400, places=3)
        self.assertTrue(np.all(events.seconds >= 0))

    def test_a_session_by_the_clock_comes_at_its_time(self) -> None:
        sessions = [{"name": "Noon", "mode": "awake", "seconds": 3600, "per_day": 1, "at_h": [12]}]
        _, events = self.events(sessions=sessions)
        starts = np.cumsum(events.seconds) - events.seconds
        awake = [float(s) for s, m in zip(starts, events.moment, strict=True) if m == 1]
        self.assertEqual(awake[0], 12 * 3600)

    def test_shares_of_the_events_are_those_of_the_day(self) -> None:
        wakes = [{"name": "At night", "mode": "awake", "every_s": 60, "awake_s": 2, "from_h": 22, "to_h": 6}]
        gadget, events = self.events(wakes=wakes)
        awake = float(events.seconds[events.moment == 1].sum()) / 86400
        self.assertAlmostEqual(awake, float(run(gadget).shares[1]), delta=1e-4)

    def test_more_events_than_can_be_told_apart_keep_their_share(self) -> None:
        wakes = [{"name": f"W{i}", "mode": "awake", "every_s": 0.9, "awake_s": 0.02} for i in range(4)]
        sessions = [{"name": "Very often", "mode": "awake", "seconds": 0.1, "per_day": 86400}]
        gadget, events = self.events(wakes=wakes, sessions=sessions)
        awake = float(events.seconds[events.moment == 1].sum()) / 86400
        self.assertAlmostEqual(awake, float(run(gadget).shares[1]), delta=2e-3)
        self.assertLess(events.moment.size, 600_000)

    def test_the_voltage_of_a_day_dips_in_the_session(self) -> None:
        sessions = [{"name": "Noon", "mode": "awake", "seconds": 3600, "per_day": 1, "at_h": [12]}]
        state_ = run(design(day={"rest": "asleep", "sessions": sessions}))
        pieces = one_day(state_, 0.8)
        volts = np.concatenate([p.voltage_v for p in pieces])
        operating_points = np.concatenate([p.moment for p in pieces])
        last = int(np.flatnonzero(operating_points == 1)[-1])
        self.assertLess(volts[last], volts[last + 1] - 0.005)


class Grid(unittest.TestCase):
    """A run over few states of charge, or over more where its end comes early: against 1,281 of them."""

    def test_what_ends_near_empty_and_what_ends_early(self) -> None:
        off: dict[bool, list[float]] = {True: [], False: []}
        for made in (
            *(read_design(f.read_bytes()) for f in sorted(DEMO.glob("*.json"))),
            *(random_design(k) for k in range(80)),
        ):
            for celsius in {made.brief.usual_c, made.brief.coldest_c}:
                state_ = run(made, celsius)
                many = with_battery(state_, made.battery, celsius, 1281)
                early = state_.ending[1] > EARLY
                self.assertEqual(state_.pack.charge.size >= FINE_POINTS, early)
                self.assertIn(0.5, state_.pack.charge)
                if many.seconds > 0:
                    off[early].append(abs(state_.seconds / many.seconds - 1))
        self.assertGreater(min(len(x) for x in off.values()), 3)
        self.assertLess(max(off[False]), 0.001)
        self.assertLess(max(off[True]), 0.005)

    def test_on_both_sides_of_the_limit(self) -> None:
        state_ = run(design())

        def ending(at: float) -> list[int]:
            asked: list[int] = []

            def over(points: int) -> Run:
                asked.append(points)
                found = replace(state_)
                vars(found)["ending"] = (0, at)
                return found

            _as_close_as_needed(over)
            return asked

        self.assertEqual(ending(EARLY), [GRID_POINTS])
        self.assertEqual(ending(EARLY + 1e-9), [GRID_POINTS, FINE_POINTS])

    def test_a_day_that_ends_earlier_is_looked_at_more_closely(self) -> None:
        """A mode that needs most of the battery's voltage, used or not: the same as solved anew."""
        modes = [
            {"id": "asleep", "name": "Asleep", "uses": [use("chip", "on")]},
            {"id": "busy", "name": "Busy", "uses": [use("chip", "busy")]},
        ]
        made = design(
            parts=[part("chip", state("on", 0.001), state("busy", 1.0))], modes=modes, supply=BARE, day={"rest": "asleep"},
            battery={"cell": cell(capacity_ah=1.0, resistance_ohm=0.6, discharge_max_a=5), "wiring_ohm": 0},
        )  # fmt: skip
        used = {"rest": "asleep", "sessions": [{"name": "Use", "mode": "busy", "seconds": 60, "per_day": 2}]}
        other = design(
            parts=[part("chip", state("on", 0.001), state("busy", 1.0))], modes=modes, supply=BARE, day=used,
            battery={"cell": cell(capacity_ah=1.0, resistance_ohm=0.6, discharge_max_a=5), "wiring_ohm": 0},
        )  # fmt: skip
        before, after = run(made), run(other)
        self.assertLess(before.ending[1], EARLY)
        self.assertGreater(after.ending[1], EARLY)
        self.assertEqual(rerun(before, other).seconds, after.seconds)
        self.assertEqual(rerun(after, made).seconds, before.seconds)


class Diffusing(unittest.TestCase):
    def coin(self, amps: float, **more: Any) -> Design:
        return design(
            parts=[part("chip", state("on", amps), state("busy", 20 * amps))],
            modes=more.pop("modes", asleep(use("chip", "on"))),
            supply=BARE,
            battery={
                "cell": cell(chemistry="lithium-coin", capacity_ah=0.2, resistance_ohm=0, cutoff_v=1.5),
                "wiring_ohm": 0,
            },
            day=more.pop("day", {"rest": "asleep"}),
        )

    def test_at_a_steady_current_what_stays_inside_is_in_proportion_to_it(self) -> None:
        state_ = run(self.coin(0.002))
        pack = state_.pack
        expected = (pack.capacity_ah - pack.unavailable_h * 0.002) / (0.002 + pack.self_discharge_a)
        self.assertAlmostEqual(state_.seconds / 3600 / expected, 1.0, delta=0.002)
        self.assertEqual(state_.failures[0].reason, "kinetics")

    def test_the_simulation_follows_the_series(self) -> None:
        """From rest at a steady current, and again at rest."""
        state_ = run(self.coin(0.002))
        simulation, relaxation = Simulation(state_), state_.pack.relaxation
        h = state_.pack.unavailable_h * 3600
        simulation.advance(Events(np.zeros(100, dtype=int), np.full(100, h / 500)))
        felt = float(relaxation.weight @ simulation.battery.filters_a)
        self.assertAlmostEqual(felt, 0.002 * float(relaxation.settled(h / 5)), delta=2e-5)

    def test_a_session_that_is_short_against_the_recovery_leaves_less_behind(self) -> None:
        modes = [
            {"id": "asleep", "name": "Asleep", "uses": [use("chip", "on")]},
            {"id": "busy", "name": "Busy", "uses": [use("chip", "busy")]},
        ]

        def at(seconds: float, per_day: float) -> float:
            day = {
                "rest": "asleep",
                "sessions": [{"name": "Use", "mode": "busy", "seconds": seconds, "per_day": per_day}],
            }
            return run(self.coin(1e-4, modes=modes, day=day)).ending[1]

        self.assertLess(at(60, 60), at(3600, 1))

    def test_other_days_move_what_stays_inside_and_nothing_else(self) -> None:
        """Of a coin the charge at which a mode fails depends on the mean of the day; of a cell whose voltage says it all it does not."""
        modes = [
            {"id": "asleep", "name": "Asleep", "uses": [use("chip", "on")]},
            {"id": "busy", "name": "Busy", "uses": [use("chip", "busy")]},
        ]
        day = {"rest": "asleep", "sessions": [{"name": "Use", "mode": "busy", "seconds": 3600, "per_day": 1}]}
        coin = self.coin(5e-4, modes=modes, day=day)
        plain = coin.model_copy(update={"battery": design().battery})
        for made, moves in ((coin, True), (plain, False)):
            with self.subTest(moves=moves):
                state_ = run(made)
                other = state_.if_days_were(np.array([0.5, 0.5]))
                fresh = replace(state_, shares=np.array([0.5, 0.5]))
                self.assertEqual(other.failures, fresh.failures)
                self.assertEqual(other.failures != state_.failures, moves)
                self.assertAlmostEqual(other.seconds, fresh.seconds)
                self.assertLess(other.seconds, 0.5 * state_.seconds)

    def test_sessions_end_where_diffusion_says(self) -> None:
        modes = [
            {"id": "asleep", "name": "Asleep", "uses": [use("chip", "on")]},
            {"id": "busy", "name": "Busy", "uses": [use("chip", "busy")]},
        ]
        day = {"rest": "asleep", "sessions": [{"name": "Use", "mode": "busy", "seconds": 1800, "per_day": 4}]}
        state_ = run(self.coin(5e-4, modes=modes, day=day))
        mode, charge = state_.ending
        self.assertEqual((state_.design.modes[mode].id, state_.failures[mode].reason), ("busy", "kinetics"))
        scheduler, simulation = Scheduler(state_.design, state_.operating_points), Simulation(state_)
        for number in range(100):
            simulation.advance(scheduler.day(number))
        self.assertIsNotNone(simulation.ended_by)
        self.assertAlmostEqual(simulation.battery.charge, charge, delta=0.05)


if __name__ == "__main__":
    unittest.main()
