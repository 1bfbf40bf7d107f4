"""What ends a run besides its charge: the age of the cell, a power bank's patience."""

from __future__ import annotations

import unittest
from typing import Any

import numpy as np

from ember_core import Design, evaluate
from ember_core.catalogue import built_in
from ember_core.load.day import Year
from ember_core.measures.bench import TrialBench
from ember_core.runtime.ends import SECONDS_PER_YEAR, BankWatch, shelf_s
from ember_core.runtime.run import run
from ember_core.studies import answer_outlook, answer_range

from .gadgets import cell, design, part, state, use

STRAIGHT = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}


class Age(unittest.TestCase):
    def gadget(self, amps: float, **battery: Any) -> Design:
        thionyl = cell(chemistry="lithium-thionyl", capacity_ah=10.0, cutoff_v=2.0, resistance_ohm=1)
        modes = [{"id": "on", "name": "On", "uses": [use("chip", "on")]}]
        return design(parts=[part("chip", state("on", amps))], modes=modes, day={"rest": "on"}, supply=STRAIGHT,
                      battery={"cell": thionyl, "wiring_ohm": 0} | battery)  # fmt: skip

    def test_a_cell_has_its_kinds_years_less_those_behind_it_and_never_less_than_one(self) -> None:
        for age, left in ((0, 15), (4, 11), (14, 1), (14.5, 1), (30, 1)):
            self.assertAlmostEqual(shelf_s(self.gadget(1e-6, age_years=age).battery) / SECONDS_PER_YEAR, left)

    def test_the_age_ends_the_run_in_every_answer(self) -> None:
        gadget = self.gadget(1e-5)
        found, years = run(gadget), 15 * 8766
        self.assertGreater(found.charge_seconds, found.shelf_seconds)
        self.assertEqual(found.seconds, found.shelf_seconds)
        self.assertEqual(found.nonstop_s[0], found.shelf_seconds)
        result = evaluate(gadget)
        self.assertAlmostEqual(result.runtime.total.value or 0, years, delta=1e-3 * years)
        self.assertAlmostEqual(result.runtime.coldest.value or 0, years, delta=1e-3 * years)
        self.assertAlmostEqual(result.runtime.timeline.time_h[-1], years, delta=1e-3 * years)
        self.assertTrue(all(m.time_h <= years * (1 + 1e-9) for m in result.runtime.timeline.modes))
        self.assertAlmostEqual(result.day.average.lasts.value or 0, years, delta=1e-3 * years)
        bench = TrialBench(gadget, built_in())
        spread, outlook = answer_range(bench), answer_outlook(bench)
        assert spread is not None and outlook is not None
        self.assertAlmostEqual(spread.high.value or 0, 1.4 * years, delta=0.05 * years)
        self.assertTrue(all(p.hours <= years * 1.01 for p in outlook.temperature))
        short = run(self.gadget(1e-3))
        self.assertEqual(short.seconds, short.charge_seconds)


class PowerBanks(unittest.TestCase):
    def gadget(self, sleep_a: float = 1e-3, active_a: float = 0.2, *, day: dict[str, Any] | None = None, uses: Any = None,
               parallel: int = 1, **bank: Any) -> Design:  # fmt: skip
        power = {
            "cell_v": 3.7,
            "output_v": 5,
            "efficiency": 0.85,
            "idle_a": 0,
            "auto_shutoff_a": 0.06,
            "off_after_s": 30,
        } | bank
        chip = part("chip", state("sleep", sleep_a), state("active", active_a), kind="controller")
        battery = {
            "cell": cell(capacity_ah=5, cutoff_v=4.5, bank=power, measured_ah=None),
            "wiring_ohm": 0,
            "parallel": parallel,
        }
        modes = [{"id": "asleep", "name": "Asleep", "uses": uses or [use("chip", "sleep")]},
                 {"id": "awake", "name": "Awake", "uses": [use("chip", "active")]}]  # fmt: skip
        return design(parts=[chip], modes=modes, supply=STRAIGHT, battery=battery, day=day or {"rest": "asleep"})

    def test_it_dies_when_it_first_rests_for_too_long(self) -> None:
        found = run(self.gadget())
        assert found.bank_off is not None
        self.assertEqual((found.bank_off.mode, found.bank_off.seconds), (0, 30))
        self.assertEqual(found.seconds, 30)
        self.assertAlmostEqual(found.bank_off.asked_a, 1e-3)

    def test_a_mode_that_comes_twice_a_day_is_waited_for(self) -> None:
        day = {"rest": "asleep", "sessions": [{"name": "Quiet", "mode": "awake", "seconds": 60, "per_day": 2}]}
        found = run(self.gadget(0.1, 0.01, day=day))
        assert found.bank_off is not None
        self.assertEqual(found.bank_off.mode, 1)
        self.assertAlmostEqual(found.bank_off.seconds, 43200 + 30)

    def test_a_mode_shorter_than_its_patience_does_no_harm(self) -> None:
        for seconds, off in ((29, False), (31, True)):
            day = {"rest": "asleep", "sessions": [{"name": "Quiet", "mode": "awake", "seconds": seconds, "per_day": 2}]}
            self.assertEqual(run(self.gadget(0.1, 0.01, day=day)).bank_off is not None, off)

    def test_pulses_keep_it_on_if_they_come_often_and_strongly_enough(self) -> None:
        def pulsed(period: float, active: float) -> bool:
            uses = [use("chip", "active", burst=[{"state": "active", "seconds": 0.5}], period_s=period, rest="sleep")]
            return run(self.gadget(1e-3, active, uses=uses)).bank_off is None

        self.assertTrue(pulsed(29, 0.07))
        self.assertFalse(pulsed(31, 0.07))
        self.assertFalse(pulsed(29, 0.05))

    def test_two_banks_side_by_side_want_twice_as_much(self) -> None:
        self.assertIsNone(run(self.gadget(0.07)).bank_off)
        self.assertIsNotNone(run(self.gadget(0.07, parallel=2)).bank_off)
        self.assertIsNone(run(self.gadget(0.13, parallel=2)).bank_off)

    def test_one_that_is_empty_before_it_gives_up_is_just_empty(self) -> None:
        self.assertIsNone(run(self.gadget(off_after_s=86400 * 300)).bank_off)


class Bank(unittest.TestCase):
    """A bank of 5 mA at least that waits 30 s; three modes, currents at the bank by hand."""

    def off(self, mode_a: list[float], point_a: list[float], **day: Any) -> tuple[int, float] | None:
        bank = cell(
            capacity_ah=5.0,
            measured_ah=None,
            form="box",
            cutoff_v=4.5,
            bank={"auto_shutoff_a": 0.005, "off_after_s": 30},
        )
        rest, look, work = ({"id": m, "name": m, "uses": [use("chip", "sleep")]} for m in ("rest", "look", "work"))
        bursts = {"burst": [{"state": "active", "seconds": 1}], "rest": "sleep", "period_s": day.pop("period_s", 20)}
        work["uses"] = [use("chip", "active") | bursts]
        five = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}
        made = design(
            battery={"cell": bank, "wiring_ohm": 0}, supply=five, modes=[rest, look, work], day={"rest": "rest"} | day
        )
        year = Year(made.day, made.modes)
        found = BankWatch(
            made, year, np.array([1.0, 1.0, 1.0]), np.array(mode_a), np.array(point_a), np.array([0, 1, 2, 2])
        ).off()
        return (found.mode, found.seconds) if found else None

    WAKES = {"wakes": [{"name": "look", "mode": "look", "every_s": 3600, "awake_s": 60}]}
    WORK = {"sessions": [{"name": "work", "mode": "work", "seconds": 600, "per_day": 2}]}
    ENOUGH = [0.006, 0.006, 0.006]

    def test_a_mode_that_only_wakes_have_is_waited_for(self) -> None:
        """24 a day: the first comes after an hour, and 30 s later the bank is off."""
        self.assertEqual(self.off([0.006, 0.004, 0.006], [0.006, 0.004, 0.006, 0.006], **self.WAKES), (1, 3630.0))
        short = {"wakes": [self.WAKES["wakes"][0] | {"awake_s": 30}]}
        self.assertIsNone(self.off([0.006, 0.004, 0.006], [0.006, 0.004, 0.006, 0.006], **short))

    def test_pulses_that_come_often_enough_keep_it_on(self) -> None:
        points = [0.006, 0.006, 0.02, 0.001]  # a bank sees the pulse of 20 mA, not the mean
        self.assertIsNone(self.off(self.ENOUGH, points, period_s=30, **self.WORK))
        self.assertEqual(self.off(self.ENOUGH, points, period_s=31, **self.WORK), (2, 43230.0))
        self.assertEqual(self.off(self.ENOUGH, [0.006, 0.006, 0.0049, 0.001], period_s=20, **self.WORK), (2, 43230.0))
        self.assertIsNone(self.off(self.ENOUGH, [0.006, 0.006, 0.005, 0.005], period_s=31, **self.WORK))

    def test_resting_ends_with_the_next_wake_that_takes_enough(self) -> None:
        often = {"wakes": [self.WAKES["wakes"][0] | {"every_s": 30, "awake_s": 1}]}
        self.assertIsNone(self.off([0.001, 0.005, 0.006], [0.001, 0.005, 0.006, 0.006], **often))
        self.assertEqual(self.off([0.001, 0.0049, 0.006], [0.001, 0.0049, 0.006, 0.006], **often), (0, 30.0))
        seldom = {"wakes": [self.WAKES["wakes"][0] | {"every_s": 31, "awake_s": 1}]}
        self.assertEqual(self.off([0.001, 0.005, 0.006], [0.001, 0.005, 0.006, 0.006], **seldom), (0, 30.0))
