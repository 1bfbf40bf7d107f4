"""Traps T19 to T21, T25 to T29 and the restart loop: each found where it is and not where it is not."""

from __future__ import annotations

import random
import unittest
from typing import Any

from ember_core import Design, DocumentError, evaluate
from ember_core.catalogue import built_in
from ember_core.findings.runtime.awake import _break_even_s
from ember_core.measures.bench import TrialBench

from .gadgets import LINEAR, cell, design, document, part, state, use
from .test_findings import Traps

SHORT_GOAL = {"goal_h": 1, "coldest_c": 25, "usual_c": 25, "hottest_c": 25}
BOOST = {
    "type": "switching", "id": "reg", "name": "Buck 3.3 V", "input": "battery", "topology": "buck", "output_v": 3.3,
    "points": [{"current_a": 0.01, "efficiency": 0.85, "input_v": 5}], "quiescent_a": 1e-5, "limit_a": 1,
    "undervoltage_lockout_v": 3.4,
}  # fmt: skip
FIVE_VOLT = {"stages": [BOOST], "rails": [{"id": "main", "name": "Main", "feed": "reg"}]}


def bank(**more: Any) -> dict[str, Any]:
    own = {"auto_shutoff_a": 0.05, "off_after_s": 30} | more
    return cell(capacity_ah=5.0, measured_ah=None, name="Power bank", form="box", cutoff_v=4.5, bank=own)


def waking(every_s: float, awake_s: float, active_a: float = 0.1, sleep_a: float = 2e-5, **more: Any) -> dict[str, Any]:
    chip = part("chip", state("sleep", sleep_a), state("active", active_a), kind="controller", name="Chip")
    wakes = [{"name": "Report", "mode": "awake", "every_s": every_s, "awake_s": awake_s} | more.pop("wake", {})]
    return {"parts": [chip], "day": {"rest": "asleep", "wakes": wakes}} | more


def used(amps: float = 0.1, sleep_a: float = 2e-5, **session: Any) -> dict[str, Any]:
    chip = part("chip", state("sleep", sleep_a), state("active", amps), kind="controller", name="Chip")
    one = {"name": "Use", "mode": "awake", "seconds": 1800, "per_day": 1} | session
    return {"parts": [chip], "day": {"rest": "asleep", "sessions": [one]}}


class PowerBanks(Traps):
    def test_t19_capacity_is_printed_at_the_cells_voltage(self) -> None:
        gadget = design(battery={"cell": bank(), "wiring_ohm": 0}, supply=FIVE_VOLT)
        self.has(gadget, "printed-capacity", "5 Ah", "3.7 V", "5 V", "3.15 Ah")
        self.lacks(design(supply=FIVE_VOLT), "printed-capacity")

    def test_t19_it_switches_off_while_the_gadget_sleeps(self) -> None:
        gadget = design(battery={"cell": bank(), "wiring_ohm": 0}, supply=FIVE_VOLT)
        finding = self.has(gadget, "switches-off", "50 mA", "30 s", "Asleep")
        self.assertEqual(finding.severity, "stop")
        after = self.settles(gadget, finding)
        self.assertAlmostEqual(evaluate(gadget).runtime.total.value or 0, 30 / 3600)  # dead after half a minute
        self.assertGreater(evaluate(after).runtime.total.value or 0, 24)

    def test_t19_a_bank_that_stays_on_or_a_gadget_that_draws_enough(self) -> None:
        always = design(battery={"cell": bank(auto_shutoff_a=0), "wiring_ohm": 0}, supply=FIVE_VOLT)
        self.lacks(always, "switches-off")
        hungry = design(battery={"cell": bank(), "wiring_ohm": 0}, supply=FIVE_VOLT, **used(sleep_a=0.09))
        self.lacks(hungry, "switches-off")
        faint = waking(10, 2, active_a=0.01)
        self.has(design(battery={"cell": bank(), "wiring_ohm": 0}, supply=FIVE_VOLT, **faint), "switches-off")
        often = waking(10, 2, active_a=0.2)
        self.lacks(design(battery={"cell": bank(), "wiring_ohm": 0}, supply=FIVE_VOLT, **often), "switches-off")

    def test_t19_a_bank_plugged_in_beside_the_battery(self) -> None:
        def gadget(auto_shutoff_a: float) -> Design:
            source = {"id": "port", "name": "Bank at the port", "kind": "power-bank", "auto_shutoff_a": auto_shutoff_a}
            modes = document()["modes"]
            modes[1]["plugged"] = ["port"]
            rails = [{"id": "main", "name": "Main", "feed": "reg"}]
            supply = {"sources": [source], "stages": [LINEAR | {"input": "port"}], "rails": rails}
            return design(supply=supply, modes=modes)

        self.has(gadget(0.3), "source-switches-off", "Bank at the port", "300 mA")
        self.lacks(gadget(0.05), "source-switches-off")

    def test_usable_charge_is_what_comes_out_of_it(self) -> None:
        gadget = design(battery={"cell": bank(idle_a=0), "wiring_ohm": 0}, supply=FIVE_VOLT, **used(sleep_a=0.09))
        steps = evaluate(gadget).battery.steps
        expected = 5.0 * (1 - 3.7 * 0.85 / 5.0)
        self.assertAlmostEqual(steps[1].charge.value or 0, expected)


class UsedCells(Traps):
    def test_t20_a_used_cell_that_nobody_measured(self) -> None:
        used_cell = cell(condition="salvaged", measured_ah=None)
        gadget = design(battery={"cell": used_cell, "wiring_ohm": 0})
        self.has(gadget, "not-measured", "700 mAh", "1 Ah", "Discharge it once")
        measured = design(battery={"cell": used_cell | {"measured_ah": 0.82, "measured_ohm": 0.2}, "wiring_ohm": 0})
        self.lacks(measured, "not-measured")
        self.assertAlmostEqual((measured.battery.cell.measured_ah or 0), 0.82)
        ranges = [evaluate(g).runtime.total for g in (gadget, measured)]
        widths = [((r.high or 0) - (r.low or 0)) / (r.value or 1) for r in ranges]
        self.assertGreater(widths[0], 2 * widths[1])

    def test_t20_mixed_cells(self) -> None:
        gadget = design(battery={"cell": cell(), "series": 2, "mixed": True, "wiring_ohm": 0})
        self.settles(gadget, self.has(gadget, "mixed-cells", "2 cells"))
        self.lacks(design(battery={"cell": cell(), "series": 2, "wiring_ohm": 0}), "mixed-cells")

    def test_t21_much_of_the_capacity_is_lost_to_age(self) -> None:
        old = {"cell": cell(), "wiring_ohm": 0, "age_years": 6, "cycles": 900}
        self.has(design(battery=old), "capacity-lost", "1 Ah", "lost to age")
        self.lacks(design(), "capacity-lost")

    def test_each_loss_stands_by_itself(self) -> None:
        battery = {"cell": cell(measured_ah=None), "series": 2, "wiring_ohm": 0, "age_years": 3, "cycles": 200}
        gadget = design(battery=battery, brief={"goal_h": 10, "coldest_c": 0, "usual_c": 0, "hottest_c": 25})
        labels = [s.label for s in evaluate(gadget).battery.steps if s.lost]
        self.assertEqual(labels[:4], ["Less than rated, as is usual", "Lost to age", "Lost to the weakest cell in series",
                                      "Lost to the temperature"])  # fmt: skip


class Awake(Traps):
    def test_t25_seconds_awake(self) -> None:
        gadget = design(**waking(600, 5))
        finding = self.has(gadget, "seconds-awake", "5 s", "100 mA", "10 min")
        after = self.apply(gadget, finding)
        self.assertGreater(evaluate(after).runtime.total.value or 0, 1.5 * (evaluate(gadget).runtime.total.value or 0))
        self.lacks(design(**waking(600, 0.2)), "seconds-awake")
        self.lacks(design(**waking(600, 5, active_a=0.01)), "seconds-awake")

    def test_t26_an_interval_that_misses_the_goal(self) -> None:
        brief = SHORT_GOAL | {"goal_h": 24 * 30}
        gadget = design(brief=brief, **waking(60, 2))
        finding = self.has(gadget, "interval", "1 min", "10 min")
        self.settles(gadget, finding)
        self.lacks(design(brief=brief, **waking(1800, 2)), "interval")
        self.lacks(design(brief=SHORT_GOAL, **waking(60, 2)), "interval")

    def test_t27_booting_against_sleeping(self) -> None:
        boots = {"before": {"mode": "awake", "seconds": 40}}
        gadget = design(**used(seconds=60, per_day=12, **boots))
        finding = self.has(gadget, "boot-or-sleep", "40 s", "sleeping is cheaper")
        self.settles(gadget, finding)
        quick = design(**used(seconds=60, per_day=12, before={"mode": "awake", "seconds": 1}))
        self.lacks(quick, "boot-or-sleep")

    def test_t27_break_even_is_the_boot_s_charge_over_the_sleeping_current(self) -> None:
        boots = {"before": {"mode": "awake", "seconds": 40}}
        rare = design(**used(sleep_a=0.001, seconds=60, per_day=4, **boots))
        finding = self.has(rare, "boot-or-sleep", "could wait 1.11 h")  # 40 s · 100 mA ÷ 1 mA
        self.assertIsNone(finding.remedy)

    def test_t27_a_state_that_nothing_wakes_it_from_is_no_sleep(self) -> None:
        chip = part("chip", state("deep", 1e-6), state("sleep", 1e-3), state("active", 0.1), kind="controller")
        woken = chip | {"wakes": [{"state": "sleep", "by": ["timer"]}]}
        for own, amps in ((chip, 1e-6), (woken, 1e-3)):  # where nothing is said of waking, any state will do
            found = _break_even_s(TrialBench(design(parts=[own]), built_in()), 4.0)
            assert found is not None
            self.assertAlmostEqual(found[0] / (4.0 / amps), 1, places=6)

    def test_t28_accidental_presses(self) -> None:
        gadget = design(**used(seconds=60, per_day=20, why="accident"))
        finding = self.has(gadget, "accidental-wakes", "20 times a day", "1 min")
        after = self.apply(gadget, finding)
        self.assertGreater(evaluate(after).runtime.total.value or 0, 1.5 * (evaluate(gadget).runtime.total.value or 0))
        self.lacks(design(**used(seconds=60, per_day=20, why="random")), "accidental-wakes")
        self.lacks(design(**used(sleep_a=0.01, seconds=1, per_day=1, why="accident")), "accidental-wakes")

    def test_t29_what_is_lost_when_it_dies(self) -> None:
        chips = [part("chip", state("sleep", 1e-3), state("active", 0.1), kind="controller"),
                 part("card", state("idle", 1e-4), state("writing", 0.02), kind="storage")]  # fmt: skip
        modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep"), use("card", "idle")]},
                 {"id": "awake", "name": "Awake", "uses": [use("chip", "active"), use("card", "writing")]}]  # fmt: skip
        gadget = design(parts=chips, modes=modes)
        self.settles(gadget, self.has(gadget, "unsaved", "30 min"))
        self.lacks(design(), "unsaved")

    def test_restart_loop_after_a_brown_out(self) -> None:
        chip = part(
            "chip", state("sleep", 1e-4), state("active", 0.3), kind="controller", supply_min_v=3.0, name="Chip"
        )
        weak = cell(chemistry="lithium-coin", form="coin", resistance_ohm=0.8, capacity_ah=1.0, cutoff_v=2.0)
        straight = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}
        wakes = [{"name": "Send", "mode": "awake", "every_s": 3600, "awake_s": 0.2}]
        gadget = design(parts=[part("chip", state("sleep", 1e-4), state("active", 0.1), kind="controller", supply_min_v=2.6,
                                    name="Chip")], battery={"cell": weak, "wiring_ohm": 0}, supply=straight,
                        day={"rest": "asleep", "wakes": wakes})  # fmt: skip
        self.has(gadget, "restart-loop", "Awake", "resets")
        stiff = design(parts=[chip | {"supply_min_v": 1.8}], battery={"cell": weak | {"resistance_ohm": 0.0}, "wiring_ohm": 0},
                       supply=straight, day={"rest": "asleep", "wakes": wakes})  # fmt: skip
        self.lacks(stiff, "restart-loop")


class ThingsThatCannotBe(unittest.TestCase):
    def refuses(self, words: str, **day: Any) -> None:
        with self.assertRaises(DocumentError) as caught:
            design(day={"rest": "asleep", **day})
        self.assertIn(words, str([p.message for p in caught.exception.problems]))

    def session(self, **more: Any) -> dict[str, Any]:
        return {"name": "Use", "mode": "awake", "seconds": 3600, "per_day": 1} | more

    def test_more_than_a_day_even_if_only_on_one_weekday(self) -> None:
        long = [self.session(seconds=13 * 3600), self.session(seconds=12 * 3600, days=[6])]
        self.refuses("above 24 h", sessions=long)
        self.assertTrue(design(day={"rest": "asleep", "sessions": [long[0] | {"days": [5]}, long[1]]}))

    def test_more_than_a_day_is_found_on_whichever_day_of_the_year_it_is(self) -> None:
        """Held against every weekday in every month, one by one."""
        choose = random.Random(11)
        refused = 0
        for _ in range(300):
            some = [
                self.session(
                    name=f"Use {i}", seconds=choose.choice((5, 9, 13)) * 3600, days=choose.sample(range(7), choose.randrange(4)),
                    months=choose.sample(range(1, 13), choose.randrange(5)),
                )
                for i in range(3)
            ]  # fmt: skip
            most = max(
                sum(s["seconds"] for s in some if (not s["days"] or d in s["days"]) and (not s["months"] or m in s["months"]))
                for d in range(7) for m in range(1, 13)
            )  # fmt: skip
            if most > 86400:
                refused += 1
                self.refuses("above 24 h", sessions=some)
            else:
                self.assertTrue(design(day={"rest": "asleep", "sessions": some}))
        self.assertTrue(50 < refused < 250, refused)

    def test_starting_times_that_disagree_with_the_number(self) -> None:
        self.refuses("2 starting times", sessions=[self.session(at_h=[7, 19])])
        self.refuses("no starting times", sessions=[self.session(at_h=[7], why="random")])

    def test_two_sessions_at_the_same_time(self) -> None:
        both = [self.session(at_h=[23.5]), self.session(name="Late", at_h=[0.25])]
        self.refuses("at 00:15 it overlaps Use at 23:30", sessions=both)
        apart = [both[0] | {"days": [0]}, both[1] | {"days": [2]}]
        self.assertTrue(design(day={"rest": "asleep", "sessions": apart}))

    def test_a_window_with_one_end_and_a_boot_longer_than_the_interval(self) -> None:
        wake = {"name": "W", "mode": "awake", "every_s": 60, "awake_s": 1}
        self.refuses("both its hours", wakes=[wake | {"from_h": 6}])
        self.refuses("longer than the 60 s", wakes=[wake | {"before": {"mode": "awake", "seconds": 70}}])
        self.refuses("nothing is 'gone'", wakes=[wake | {"before": {"mode": "gone", "seconds": 1}}])


if __name__ == "__main__":
    unittest.main()
