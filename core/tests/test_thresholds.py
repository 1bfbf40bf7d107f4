"""Each finding on both sides of what it begins at: a design just below, a design just above."""

from __future__ import annotations

import unittest
from collections.abc import Callable
from typing import Any

from ember_core import Design, build_design
from ember_core.findings.battery import bank, pack
from ember_core.findings.draw import parts, sleep
from ember_core.findings.runtime import awake
from ember_core.measures.awake import SHORT_EVENT_S

from .gadgets import LINEAR, cell, design, part, seen, state, use

MAIN = [{"id": "main", "name": "Main", "feed": "reg"}]
STRAIGHT = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}
BRIEF = {"goal_h": 100, "coldest_c": 25, "usual_c": 25, "hottest_c": 25}


def beside(second: dict[str, Any], calm: str, busy: str, *, chip_a: float = 9e-5, **more: Any) -> Design:
    """A chip that takes `chip_a` asleep and 50 mA awake for half an hour a day, and another part beside it."""
    chip = part("chip", state("sleep", chip_a), state("active", 0.05), kind="controller")
    modes = [
        {"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep"), use(second["id"], calm)]},
        {"id": "awake", "name": "Awake", "uses": [use("chip", "active"), use(second["id"], busy)]},
    ]
    return design(**({"parts": [chip, second], "modes": modes} | more))


class Edges(unittest.TestCase):
    def edge(
        self, code: str, make: Callable[[float], Design], at: float, *, above: bool = True, by: float = 0.01
    ) -> None:
        """The finding is there on one side of a figure and not on the other."""
        for factor, there in ((1 - by, not above), (1 + by, above)):
            found = [f.sentence for f in seen(make(at * factor), code)]
            self.assertEqual(bool(found), there, f"{code} at {at * factor:g}: {found}")

    def severity(self, code: str, gadget: Design) -> str:
        return seen(gadget, code)[0].severity


class Draw(Edges):
    def test_capacity_against_current(self) -> None:
        """1 Ah at 10 mA is 100 h: the goal is five times that."""
        chip = part("chip", state("on", 0.01))
        modes = [{"id": "on", "name": "On", "uses": [use("chip", "on")]}]

        def gadget(goal: float | None) -> Design:
            return design(parts=[chip], modes=modes, day={"rest": "on"}, brief=BRIEF | {"goal_h": goal})

        self.edge("capacity-against-current", gadget, 100 / parts.SHORT_OF_GOAL)
        self.assertFalse(seen(gadget(None), "capacity-against-current"))

    def test_a_parasitic_load_from_a_tenth_of_the_sleep_on(self) -> None:
        def gadget(amps: float) -> Design:
            return beside(part("bridge", state("on", amps), parasitic=True, kind="interface"), "on", "on")

        self.edge("parasitic", gadget, 1e-5)

    def test_an_indicator_from_a_twentieth_on(self) -> None:
        def gadget(amps: float) -> Design:
            return beside(part("led", state("lit", amps), kind="led"), "lit", "lit", chip_a=9.5e-5)

        self.edge("indicator-led", gadget, 5e-6)

    def test_a_low_efficacy_led_by_its_light_and_its_share(self) -> None:
        def by_light(mcd: float) -> Design:
            return beside(part("light", state("lit", 0.01), kind="light", mcd_per_ma=mcd), "lit", "lit")

        self.edge("low-efficacy-led", by_light, parts.LOW_EFFICACY_MCD_PER_MA, above=False)

        def by_share(amps: float) -> Design:
            chip_mean = 9e-5 * 47 / 48 + 0.05 / 48
            return beside(
                part("light", state("lit", amps * chip_mean / 0.95), kind="light", mcd_per_ma=5), "lit", "lit"
            )

        self.edge("low-efficacy-led", by_share, 0.05)

    def test_a_display_from_a_quarter_of_the_day_on(self) -> None:
        def gadget(amps: float) -> Design:
            chip_mean = 9e-5 * 47 / 48 + 0.05 / 48
            share = part(
                "screen", state("off", 0), state("dim", 1e-5), state("on", amps * chip_mean * 48 / 0.75), kind="display"
            )
            return beside(share, "off", "on")

        self.edge("display", gadget, parts.DISPLAY_SHARE)

    def test_a_board_by_its_sleep_current(self) -> None:
        def gadget(amps: float) -> Design:
            board = part("board", state("deep sleep", amps), state("active", 0.1), kind="controller")
            modes = [{"id": "asleep", "name": "Asleep", "uses": [use("board", "deep sleep")]},
                     {"id": "awake", "name": "Awake", "uses": [use("board", "active")]}]  # fmt: skip
            return design(parts=[board], modes=modes)

        self.edge("board", gadget, parts.BOARD_SLEEPS_A[0])
        self.assertTrue(seen(gadget(parts.BOARD_SLEEPS_A[1] * 0.999), "board"))
        self.assertFalse(seen(gadget(parts.BOARD_SLEEPS_A[1] * 1.001), "board"))  # that is no bridge any more

    def test_a_board_however_its_draw_is_put(self) -> None:
        """3 mA at 3.3 V are 9.9 mW and 1.1 kΩ: the same finding, and the same as its calmest state beside another one in another way."""
        puts = (
            {"behaviour": "current", "current_a": {"typical": 3e-3}},
            {"behaviour": "power", "power_w": {"typical": 9.9e-3}},
            {"behaviour": "resistor", "resistance_ohm": {"typical": 1100}},
        )
        for calm in puts:
            for other in (state("active", 0.1), {"name": "active", "draw": {"behaviour": "power", "power_w": {"typical": 0.33}}}):  # fmt: skip
                board = part("board", {"name": "deep sleep", "draw": calm, "provenance": "datasheet"}, other, kind="controller")  # fmt: skip
                modes = [{"id": "asleep", "name": "Asleep", "uses": [use("board", "deep sleep")]},
                         {"id": "awake", "name": "Awake", "uses": [use("board", other["name"])]}]  # fmt: skip
                found = seen(design(parts=[board], modes=modes), "board")
                self.assertEqual(len(found), 1, (calm, other))
                self.assertIn("3 mA", found[0].sentence)


class Sleep(Edges):
    def test_a_part_that_stays_on_from_a_twentieth_on(self) -> None:
        def gadget(amps: float) -> Design:
            return beside(part("gauge", state("on", amps), switchable=False), "on", "on", chip_a=9.5e-5)

        self.edge("always-on", gadget, 5e-6)

    def test_a_stage_that_draws_at_rest_from_a_tenth_on(self) -> None:
        def gadget(amps: float) -> Design:
            return beside(
                part("x", state("on", 1e-9)),
                "on",
                "on",
                supply={"stages": [LINEAR | {"quiescent_a": amps}], "rails": MAIN},
            )

        self.edge("stage-at-rest", gadget, 9e-5 * sleep.OWN_SHARE / (1 - sleep.OWN_SHARE))

    def test_a_boost_module_at_rest_has_a_way_out(self) -> None:
        module = {
            "type": "switching", "id": "boost", "name": "Boost module", "input": "battery", "topology": "boost", "output_v": 5.0,
            "quiescent_a": 5e-4, "limit_a": 1, "undervoltage_lockout_v": 2.5, "enable": False,
            "points": [{"current_a": a, "efficiency": e, "input_v": 3.7} for a, e in ((0.001, 0.7), (0.1, 0.9), (0.5, 0.87))],
        }  # fmt: skip
        gadget = beside(
            part("x", state("on", 1e-6)),
            "on",
            "on",
            supply={"stages": [module], "rails": [{"id": "main", "name": "Main", "feed": "boost"}]},
        )
        finding = seen(gadget, "stage-at-rest")[0]
        self.assertIn("Boost module takes 5", finding.sentence)
        assert finding.remedy and finding.remedy.runtime
        self.assertGreater(finding.remedy.runtime.value or 0, 150)

    def test_pull_resistors_by_their_share_and_their_size(self) -> None:
        def pulls(share: float) -> Design:
            ohm = 3.3 / (share * 9.5e-5 / (1 - share))
            held = {
                "name": "held",
                "draw": {"behaviour": "resistor", "resistance_ohm": {"typical": ohm, "min": ohm, "max": ohm}},
            }
            return beside(part("pulls", held), "held", "held", chip_a=9.5e-5)

        self.edge("pull-resistors", pulls, sleep.PULL_SHARE)

        def weak(ohm: float) -> Design:
            held = {
                "name": "held",
                "draw": {"behaviour": "resistor", "resistance_ohm": {"typical": ohm, "min": ohm, "max": ohm}},
            }
            return beside(part("pulls", held), "held", "held", chip_a=1e-6)

        self.edge("pull-resistors", weak, sleep.WEAK_PULL_OHM, above=False)

    def test_what_is_read_by_its_resistance_is_not_changed(self) -> None:
        held = {"name": "held", "draw": {"behaviour": "resistor", "resistance_ohm": {"typical": 1e4}}}
        for analogue in (False, True):
            found = seen(beside(part("ladder", held, analogue=analogue), "held", "held"), "pull-resistors")[0]
            self.assertEqual(found.remedy is None, analogue)

    def test_a_soft_switch_by_half_of_what_a_hard_one_keeps(self) -> None:
        """1 Ah of lithium-ion, self-discharge i: off at i it is empty in half the time."""
        own = 0.02 * 2**0.5 * 3600 / (30.4375 * 86400)

        def gadget(drain: float) -> Design:
            document = design().model_dump(mode="json")
            document["parts"][0]["states"].append(state("off", drain))
            document["modes"].append({"id": "off", "name": "Off", "uses": [use("chip", "off")], "switched_off": True})
            return build_design(document)

        self.assertFalse(seen(gadget(own * 0.3), "soft-switch"))
        self.assertTrue(seen(gadget(own * 30), "soft-switch"))

    def test_a_divider_from_a_twentieth_on(self) -> None:
        def gadget(share: float) -> Design:
            ohm = 3.3 / (share * 9.5e-5 / (1 - share))
            on = {
                "name": "on",
                "draw": {"behaviour": "resistor", "resistance_ohm": {"typical": ohm, "min": ohm, "max": ohm}},
            }
            return beside(
                part("divider", on, divider={"upper_ohm": ohm / 2, "lower_ohm": ohm / 2, "reader": "chip"}),
                "on",
                "on",
                chip_a=9.5e-5,
            )

        self.edge("divider-drain", gadget, sleep.STAYS_ON_SHARE)

    def test_waking_by_pins(self) -> None:
        def gadget(pins: int, wanted: int, timer: bool = True, state_name: str = "off") -> Design:
            by = ["pin", "timer"] if timer else ["pin"]
            chip = part("chip", state("off", 1e-6), state("sleep", 2e-4), state("active", 0.1), kind="controller",
                        wakes=[{"state": "off", "by": by, "pins": pins}])  # fmt: skip
            modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", state_name)], "wake_pins": wanted},
                     {"id": "awake", "name": "Awake", "uses": [use("chip", "active")]}]  # fmt: skip
            return design(parts=[chip], modes=modes)

        self.assertFalse(seen(gadget(2, 2), "cannot-wake"))
        tight = seen(gadget(1, 2), "cannot-wake")[0]
        self.assertIn("2 pins (it has 1)", tight.sentence)
        assert tight.remedy
        self.assertEqual(
            tight.remedy.label, "Join the switches of 2 pins on 1"
        )  # and no state that costs 200 times as much
        self.assertFalse(seen(gadget(1, 2, state_name="active"), "cannot-wake"))  # it runs: nothing has to wake it
        self.assertTrue(seen(gadget(1, 2, state_name="sleep"), "cannot-wake"))


class Supply(Edges):
    def rails(self, **more: Any) -> dict[str, Any]:
        return {"stages": [LINEAR | more], "rails": MAIN}

    def test_overvoltage_and_above_range(self) -> None:
        def absolute(volts: float) -> Design:
            return design(
                parts=[part("chip", state("sleep", 1e-3), state("active", 0.1), supply_absolute_max_v=volts)],
                supply=STRAIGHT,
            )

        def recommended(volts: float) -> Design:
            chip = part(
                "chip",
                state("sleep", 1e-3),
                state("active", 0.1),
                supply_recommended_max_v=volts,
                supply_absolute_max_v=6,
            )
            return design(parts=[chip], supply=STRAIGHT)

        self.edge("overvoltage", absolute, 4.2, above=False)
        self.edge("above-range", recommended, 4.2, above=False)

    def test_an_overload_is_no_mode_that_fails(self) -> None:
        def through(rating: float, kind: str = "pass") -> Design:
            more = {"forward_v": 0.2} if kind == "diode" else {"role": "fuse"}
            stage = {
                "type": kind,
                "id": "s",
                "name": "S",
                "input": "battery",
                "resistance_ohm": 0.01,
                "limit_a": rating,
            } | more
            return design(supply={"stages": [stage, LINEAR | {"input": "s"}], "rails": MAIN})

        for kind in ("pass", "diode"):
            self.edge("overload", lambda a, k=kind: through(a, k), 0.1, above=False)  # type: ignore[misc]
            self.assertFalse(seen(through(0.05, kind), "mode-fails-at-once"))
        self.assertEqual(self.severity("overload", through(0.05)), "fix")

    def test_a_limit_that_a_converter_or_a_protection_circuit_has_stays_one(self) -> None:
        def converter(limit: float) -> Design:
            return design(supply=self.rails(limit_a=limit))

        def protection(limit: float) -> Design:
            stage = {
                "type": "pass",
                "id": "s",
                "name": "S",
                "input": "battery",
                "resistance_ohm": 0.01,
                "limit_a": limit,
                "role": "protection",
            }
            return design(supply={"stages": [stage, LINEAR | {"input": "s"}], "rails": MAIN})

        for make in (converter, protection):
            self.edge("mode-fails-at-once", make, 0.1, above=False)
            self.assertFalse(seen(make(0.09), "overload"))

    def test_nothing_is_said_of_stages_without_power(self) -> None:
        """A regulator with 4 V output behind a hard switch that is off at rest: it drops out only in use."""
        switch = {"type": "pass", "id": "sw", "name": "Switch", "input": "battery", "resistance_ohm": 0, "limit_a": 2}
        boost = {"type": "switching", "id": "b", "name": "Boost", "input": "sw", "topology": "boost", "output_v": 5, "quiescent_a": 1e-5, "limit_a": 1,
                 "undervoltage_lockout_v": 1.0, "start_up_v": 2.5, "points": [{"current_a": 0.1, "efficiency": 0.9, "input_v": 3.7}]}  # fmt: skip
        low = LINEAR | {"id": "low", "input": "sw", "output_v": 2.0}
        chip = part("chip", state("sleep", 1e-3), state("active", 0.05), rail="low")
        lamp = part("led", state("off", 1e-6), state("on", 0.05), rail="five")
        modes = [{"id": "off", "name": "Off", "uses": [use("chip", "sleep"), use("led", "off")], "switched_off": True, "off_stages": ["sw"]},
                 {"id": "on", "name": "On", "uses": [use("chip", "active"), use("led", "on")]}]  # fmt: skip
        rails = [{"id": "low", "name": "Low", "feed": "low"}, {"id": "five", "name": "Five", "feed": "b"}]
        gadget = design(parts=[chip, lamp], modes=modes, supply={"stages": [switch, low, boost], "rails": rails},
                        day={"rest": "off", "sessions": [{"name": "Use", "mode": "on", "seconds": 3600, "per_day": 1}]})  # fmt: skip
        for code in ("dropout", "will-not-start", "mode-fails-at-once", "mode-fails-early", "no-disconnect"):
            self.assertFalse(seen(gadget, code), code)

    def test_what_is_switched_has_to_start_on_what_there_is_then(self) -> None:
        """Behind a switch that is off at rest a boost starts anew each time: its start-up voltage ends the run."""

        def gadget(start: float) -> Design:
            switch = {
                "type": "pass",
                "id": "sw",
                "name": "Switch",
                "input": "battery",
                "resistance_ohm": 0,
                "limit_a": 2,
            }
            boost = {"type": "switching", "id": "b", "name": "Boost", "input": "sw", "topology": "boost", "output_v": 5, "quiescent_a": 1e-5, "limit_a": 1,
                     "undervoltage_lockout_v": 1.0, "start_up_v": start, "points": [{"current_a": 0.1, "efficiency": 0.9, "input_v": 3.7}]}  # fmt: skip
            modes = [{"id": "off", "name": "Off", "uses": [use("chip", "sleep")], "off_stages": ["sw"]},
                     {"id": "on", "name": "On", "uses": [use("chip", "active")]}]  # fmt: skip
            day = {"rest": "off", "sessions": [{"name": "Use", "mode": "on", "seconds": 3600, "per_day": 1}]}
            return design(
                modes=modes,
                day=day,
                supply={"stages": [switch, boost], "rails": [{"id": "main", "name": "Main", "feed": "b"}]},
            )

        self.assertFalse(seen(gadget(2.9), "mode-fails-early"))
        self.assertTrue(seen(gadget(3.75), "mode-fails-early"))

    def test_a_light_is_dark_at_a_tenth_of_its_current(self) -> None:
        """3 V of forward voltage on a cell that falls from 4.2 V: dark below 3.12 V, so the run does not go on for ever."""
        lit = {
            "name": "lit",
            "draw": {
                "behaviour": "led",
                "forward_v": 3.0,
                "resistance_ohm": {"typical": 100, "min": 100, "max": 100},
            },
        }

        def gadget(kind: str) -> Design:
            modes = [{"id": "lit", "name": "Lit", "uses": [use("light", "lit")]}]
            battery = {"cell": cell(cutoff_v=2.5, resistance_ohm=0), "wiring_ohm": 0}
            return design(
                parts=[part("light", lit, kind=kind)],
                modes=modes,
                day={"rest": "lit"},
                supply=STRAIGHT,
                battery=battery,
            )

        from ember_core.runtime.run import run

        failure = run(gadget("light")).failures[0]
        self.assertEqual((failure.reason, failure.subject), ("supply", "light"))
        self.assertAlmostEqual(failure.limit, 3.12, places=6)
        self.assertEqual(run(gadget("other")).failures[0].reason, "empty")


class Battery(Edges):
    def test_peak_current_at_the_cells_limit(self) -> None:
        def gadget(limit: float) -> Design:
            return design(supply=STRAIGHT, battery={"cell": cell(discharge_max_a=limit), "wiring_ohm": 0})

        self.edge("peak-current", gadget, 0.1, above=False)

    def test_a_charge_that_outlasts_the_cell(self) -> None:
        """A thionyl cell of 10 Ah keeps 15 years: 60 µA and its self-discharge take 15.0 years."""

        def gadget(amps: float) -> Design:
            thionyl = cell(chemistry="lithium-thionyl", capacity_ah=10.0, cutoff_v=2.0, resistance_ohm=1)
            modes = [{"id": "on", "name": "On", "uses": [use("chip", "on")]}]
            return design(
                parts=[part("chip", state("on", amps))],
                modes=modes,
                day={"rest": "on"},
                supply=STRAIGHT,
                battery={"cell": thionyl, "wiring_ohm": 0},
            )

        self.assertTrue(seen(gadget(4e-5), "shelf-life"))
        self.assertFalse(seen(gadget(8e-5), "shelf-life"))

    def test_a_film_by_rest_and_peak(self) -> None:
        def gadget(rest: float, peak: float) -> Design:
            thionyl = cell(chemistry="lithium-thionyl", capacity_ah=2.0, cutoff_v=2.0, resistance_ohm=1)
            chip = part("chip", state("sleep", rest), state("active", peak))
            return design(parts=[chip], supply=STRAIGHT, battery={"cell": thionyl, "wiring_ohm": 0},
                          day={"rest": "asleep", "wakes": [{"name": "W", "mode": "awake", "every_s": 600, "awake_s": 0.1}]})  # fmt: skip

        self.edge("start-up-dip", lambda a: gadget(a, 0.02), pack.FILM_BELOW_A, above=False)
        self.edge("start-up-dip", lambda a: gadget(1e-6, a), pack.FILM_PEAK_A)

    def test_little_of_the_rated_capacity(self) -> None:
        def gadget(age: float) -> Design:
            modes = [{"id": "on", "name": "On", "uses": [use("chip", "on")]}]
            return design(
                parts=[part("chip", state("on", 0.05))],
                modes=modes,
                day={"rest": "on"},
                battery={"cell": cell(), "wiring_ohm": 0, "cycles": age},
            )

        lost_per_cycle = 0.0004
        self.edge("capacity-lost", gadget, (1 - bank.LITTLE_LEFT) / lost_per_cycle, by=0.05)


class Awake(Edges):
    def waking(
        self, every_s: float, awake_s: float, amps: float = 0.1, goal: float | None = 1e5, sleep_a: float = 1e-5
    ) -> Design:
        chip = part("chip", state("sleep", sleep_a), state("active", amps), kind="controller")
        wakes = [{"name": "Report", "mode": "awake", "every_s": every_s, "awake_s": awake_s}]
        return design(parts=[chip], day={"rest": "asleep", "wakes": wakes}, brief=BRIEF | {"goal_h": goal})

    def test_seconds_awake_by_length_current_and_share(self) -> None:
        self.edge("seconds-awake", lambda s: self.waking(300, s), awake.AWAKE_S)
        self.edge("seconds-awake", lambda a: self.waking(300, 4, a), awake.AWAKE_A)

        def share(wanted: float) -> Design:
            spent = 0.1 * 4 / 3600
            return self.waking(3600, 4, sleep_a=spent * (1 - wanted) / wanted)

        self.edge("seconds-awake", share, awake.AWAKE_SHARE, by=0.02)

    def test_seconds_awake_in_short_events_too(self) -> None:
        def event(seconds: float) -> Design:
            chip = part("chip", state("sleep", 1e-6), state("active", 0.1), kind="controller")
            sessions = [{"name": "Press", "mode": "awake", "seconds": seconds, "per_day": 40, "why": "random"}]
            return design(parts=[chip], day={"rest": "asleep", "sessions": sessions})

        self.edge("seconds-awake", event, awake.AWAKE_S)
        self.edge("seconds-awake", event, SHORT_EVENT_S, above=False)

    def test_intervals_by_length_and_only_where_a_goal_is_missed(self) -> None:
        self.edge("interval", lambda s: self.waking(s, 2), awake.OFTEN_S, above=False)
        self.assertFalse(seen(self.waking(60, 2, goal=1), "interval"))
        self.assertFalse(seen(self.waking(60, 2, goal=None), "interval"))

    def test_accidents_by_their_share(self) -> None:
        def bag(share: float) -> Design:
            chip = part("chip", state("sleep", 1e-3), state("active", 0.1), kind="controller")
            seconds = share / (1 - share) * 1e-3 * 86400 / (0.1 - 1e-3 * share / (1 - share)) / 10
            sessions = [{"name": "Bag", "mode": "awake", "seconds": seconds, "per_day": 10, "why": "accident"}]
            return design(parts=[chip], day={"rest": "asleep", "sessions": sessions})

        self.edge("accidental-wakes", bag, awake.ACCIDENT_SHARE, by=0.02)

    def test_booting_by_its_length(self) -> None:
        def boots(seconds: float) -> Design:
            sessions = [
                {
                    "name": "Use",
                    "mode": "awake",
                    "seconds": 10,
                    "per_day": 20,
                    "before": {"mode": "awake", "seconds": seconds},
                }
            ]
            chip = part("chip", state("sleep", 1e-5), state("active", 0.1), kind="controller")
            return design(parts=[chip], day={"rest": "asleep", "sessions": sessions})

        self.edge("boot-or-sleep", boots, awake.BOOT_S)

    def test_what_is_lost_by_the_length_of_a_session(self) -> None:
        def recording(seconds: float, saved: float | None = None) -> Design:
            parts = [part("chip", state("sleep", 1e-4), state("active", 0.1), kind="controller", supply_min_v=3.2),
                     part("card", state("off", 0), state("write", 0.01), kind="storage")]  # fmt: skip
            modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep"), use("card", "off")]},
                     {"id": "awake", "name": "Awake", "uses": [use("chip", "active"), use("card", "write")]}]  # fmt: skip
            day = {
                "rest": "asleep",
                "saved_every_s": saved,
                "sessions": [{"name": "Walk", "mode": "awake", "seconds": seconds, "per_day": 1}],
            }
            return design(parts=parts, modes=modes, day=day)

        self.edge("unsaved", recording, awake.UNSAVED_S)
        self.assertFalse(seen(recording(1000, 60), "unsaved"))


class Bank(Edges):
    def test_a_bank_by_its_least_current_and_its_patience(self) -> None:
        def on_a_bank(
            sleep_a: float = 1e-3, every_s: float = 600.0, after_s: float = 30.0, auto_shutoff_a: float = 0.06
        ) -> Design:
            power = {
                "cell_v": 3.7,
                "output_v": 5,
                "efficiency": 0.85,
                "idle_a": 0,
                "auto_shutoff_a": auto_shutoff_a,
                "off_after_s": after_s,
            }
            chip = part("chip", state("sleep", sleep_a), state("active", 0.2), kind="controller")
            battery = {"cell": cell(capacity_ah=5, cutoff_v=4.5, bank=power, measured_ah=None), "wiring_ohm": 0}
            wakes = [{"name": "W", "mode": "awake", "every_s": every_s, "awake_s": 2}]
            return design(parts=[chip], supply=STRAIGHT, battery=battery, day={"rest": "asleep", "wakes": wakes})

        self.edge("switches-off", lambda a: on_a_bank(sleep_a=a), 0.06, above=False)
        self.edge("switches-off", lambda s: on_a_bank(every_s=s), 30)
        self.assertFalse(seen(on_a_bank(auto_shutoff_a=0), "switches-off"))


class Fit(Edges):
    def test_clearance_by_process(self) -> None:
        for process, least in (("filament", 0.2), ("resin", 0.1), ("ready-made", 0.3)):
            self.edge(
                "clearance",
                lambda mm, p=process: design(enclosure={"outer_mm": [60, 90, 24], "process": p, "clearance_mm": mm}),
                least,
                above=False,
            )  # type: ignore[misc]

    def test_swelling(self) -> None:
        def pouch(share: float) -> Design:
            return design(
                battery={"cell": cell(), "swelling": share, "body": {"size_mm": [34, 50, 5], "position_mm": [5, 5, 5]}}
            )

        self.edge("swelling", pouch, 0.1, above=False)

    def test_a_case_is_turned_before_it_is_too_large(self) -> None:
        def gadget(longest: float) -> Design:
            return design(brief=BRIEF | {"outer_max_mm": [longest, 24, 60]})  # the case is 60 × 90 × 24

        self.edge("case-too-large", gadget, 90, above=False)

    def test_openings_where_it_gets_wet(self) -> None:
        body = {"size_mm": [10, 10, 3], "position_mm": [10, 10, 21], "through": "top"}
        for exposure, there in (("dry", False), ("splashed", True), ("sealed", True)):
            chip = part("chip", state("sleep", 1e-3), state("active", 0.1), body=body)
            self.assertEqual(bool(seen(design(parts=[chip], brief=BRIEF | {"exposure": exposure}), "openings")), there)
        inside = part("chip", state("sleep", 1e-3), state("active", 0.1), body=body | {"through": None})
        self.assertFalse(seen(design(parts=[inside], brief=BRIEF | {"exposure": "sealed"}), "openings"))
