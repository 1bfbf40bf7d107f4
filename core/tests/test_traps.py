"""Traps T4 to T8 and T12 to T16, and those of stages: each on a design that has it and on one that has not."""

from __future__ import annotations

from typing import Any

from ember_core import Design, build_design, evaluate
from ember_core.catalogue import Catalogue, built_in
from ember_core.design import Origin

from .gadgets import LINEAR, Seen, cell, design, part, seen, state, use
from .test_findings import Traps
from .test_stages import BOOST, USB

MAIN = [{"id": "main", "name": "Main", "feed": "reg"}]


def two_modes(asleep: list[dict[str, Any]], awake: list[dict[str, Any]], **more: Any) -> list[dict[str, Any]]:
    """Asleep and awake; `more` goes to the sleeping mode."""
    return [{"id": "asleep", "name": "Asleep", "uses": asleep, **more}, {"id": "awake", "name": "Awake", "uses": awake}]


def with_second(second: dict[str, Any], calm: str, busy: str, **more: Any) -> Design:
    """A chip that sleeps at 20 µA, and another part beside it."""
    chip = part("chip", state("sleep", 2e-5), state("active", 0.05), name="Chip", kind="controller", supply_min_v=3.0)
    key = second["id"]
    modes = two_modes([use("chip", "sleep"), use(key, calm)], [use("chip", "active"), use(key, busy)])
    return design(**({"parts": [chip, second], "modes": modes} | more))


class Sleep(Traps):
    def test_t4_a_part_that_stays_on(self) -> None:
        def player(switchable: bool) -> Design:
            return with_second(part("player", state("standby", 0.004), state("on", 0.05), name="Player", switchable=switchable), "standby", "on")  # fmt: skip

        gadget = player(False)
        finding = self.has(gadget, "always-on", "Player", "4 mA of the 4.02 mA")
        after = self.settles(gadget, finding)
        switch = after.supply.stages[-1]
        self.assertEqual(after.modes[0].off_stages, [switch.id])
        self.assertLess(evaluate(after).draw.modes[0].battery_current.value or 1, 3e-5)
        self.lacks(player(True), "always-on")

    def test_t8_a_sleep_that_cannot_be_ended(self) -> None:
        def controller(by: list[str], pins: int) -> Design:
            chip = part(
                "chip", state("off", 1e-6), state("sleep", 2e-4), state("active", 0.1), name="Chip", kind="controller",
                wakes=[{"state": "off", "by": ["pin"], "pins": 1}, {"state": "sleep", "by": ["pin", "timer"], "pins": 8}],
            )  # fmt: skip
            modes = two_modes([use("chip", "off")], [use("chip", "active")], woken_by=by, wake_pins=pins)
            return design(parts=[chip], modes=modes)

        gadget = controller(["timer"], 3)
        finding = self.has(gadget, "cannot-wake", "a timer and 3 pins (it has 1)", "off")
        self.assertEqual(self.settles(gadget, finding).modes[0].uses[0].state, "sleep")
        self.lacks(controller([], 1), "cannot-wake")
        hopeless = self.has(controller(["radio"], 0), "cannot-wake", "the radio")
        self.assertIsNone(hopeless.remedy)

    def test_t8_wakes_by_interval_need_a_timer(self) -> None:
        chip = part("chip", state("off", 1e-6), state("active", 0.1), kind="controller", wakes=[{"state": "off", "by": ["pin"], "pins": 1}])  # fmt: skip
        modes = two_modes([use("chip", "off")], [use("chip", "active")])
        wake = {"name": "Reading", "mode": "awake", "every_s": 600, "awake_s": 1}
        self.has(design(parts=[chip], modes=modes, day={"rest": "asleep", "wakes": [wake]}), "cannot-wake", "a timer")
        self.lacks(design(parts=[chip], modes=modes, day={"rest": "asleep"}), "cannot-wake")

    def test_t8_pull_resistors_draw(self) -> None:
        def pulls(ohm: float) -> Design:
            draw = {"behaviour": "resistor", "resistance_ohm": {"typical": ohm, "max": 1.1 * ohm}}
            held = part("pulls", {"name": "held", "draw": draw, "provenance": "datasheet"}, name="Pulls")
            return with_second(held, "held", "held")

        gadget = pulls(4700)
        self.settles(gadget, self.has(gadget, "pull-resistors", "4.7 kΩ", "702 µA", "1 MΩ"))
        self.lacks(pulls(4.7e6), "pull-resistors")

    def off_mode(self, drain: float, shelf_h: float | None = None) -> Design:
        gadget = design().model_dump(mode="json")
        gadget["parts"][0]["states"].append(state("off", drain))
        gadget["modes"].append({"id": "off", "name": "Off", "uses": [use("chip", "off")], "switched_off": True})
        gadget["brief"]["shelf_h"] = shelf_h
        return build_design(gadget)

    def test_t14_a_soft_switch_drains(self) -> None:
        gadget = self.off_mode(1e-3)
        finding = self.has(gadget, "soft-switch", "1 mA", "empty after 4", "hard switch it keeps")
        self.assertEqual(finding.severity, "watch")
        after = self.settles(gadget, finding)
        self.assertEqual(after.supply.stages[0].input, after.supply.stages[-1].id)
        self.assertEqual(evaluate(after).supply.switch.drain.value, 0.0)
        self.lacks(self.off_mode(1e-7), "soft-switch")

    def test_t14_is_a_fault_where_the_brief_wants_a_longer_shelf_life(self) -> None:
        self.assertEqual(self.has(self.off_mode(1e-4, 24 * 365), "soft-switch", "wanted are 365 days").severity, "fix")
        self.lacks(self.off_mode(1e-6, 24 * 30), "soft-switch")


class Boards(Traps):
    def board(self, key: str) -> Design:
        entry = built_in().by_key[key].part
        assert entry
        board = entry.model_copy(update={"id": "board"}).model_dump(mode="json")
        rails = [{"id": "main", "name": "Main", "feed": "boost"}]
        return design(
            parts=[board], modes=two_modes([use("board", "deep sleep")], [use("board", "active")]),
            supply={"stages": [BOOST], "rails": rails},
        )  # fmt: skip

    def test_t2_a_board_that_cannot_sleep_deeply(self) -> None:
        gadget = self.board("part-board-radio-bridge")
        finding = self.has(gadget, "board", "In deep sleep it still takes", "barer board")
        after = self.settles(gadget, finding)
        self.assertGreater(evaluate(after).runtime.total.value or 0, 2 * (evaluate(gadget).runtime.total.value or 0))
        self.lacks(self.board("part-board-radio-frugal"), "board")


class LightAndDisplays(Traps):
    def test_t5_low_efficacy_leds(self) -> None:
        def lamp(mcd_per_ma: float | None) -> Design:
            return with_second(part("light", state("lit", 0.02), name="Light", kind="light", mcd_per_ma=mcd_per_ma), "lit", "lit")  # fmt: skip

        gadget = lamp(3.0)
        after = self.settles(gadget, self.has(gadget, "low-efficacy-led", "3 mcd per mA", "20 mA", "1 mA"))
        self.assertAlmostEqual(after.parts[1].states[0].draw.current_a.typical, 0.02 * 3 / 60)  # type: ignore[union-attr]
        self.lacks(lamp(60.0), "low-efficacy-led")
        self.lacks(lamp(None), "low-efficacy-led")

    def test_t6_the_display_is_the_largest_lever(self) -> None:
        screen = part("screen", state("off", 1e-6), state("dim", 0.02), state("on", 0.2), name="Screen", kind="display")
        gadget = with_second(screen, "off", "on")
        finding = self.has(gadget, "display", "calmer state")
        self.assertGreater(evaluate(self.apply(gadget, finding)).runtime.total.value or 0, 1.3 * (evaluate(gadget).runtime.total.value or 0))  # fmt: skip
        small = part("screen", state("off", 1e-6), state("dim", 1e-4), state("on", 1e-3), name="Screen", kind="display")
        self.lacks(with_second(small, "off", "on"), "display")


class Peaks(Traps):
    def radio(self, peak: float, limit: float = 1.0, plugged: bool = False, used: bool = True, **more: Any) -> Design:
        gear = part(
            "radio", state("sleep", 1e-6), state("send", 0.02), name="Radio", supply_min_v=2.8, plugged_by_user=plugged,
            peak={"current_a": peak, "seconds": 0.002},
        )  # fmt: skip
        gadget = with_second(
            gear, "sleep", "send", supply={"stages": [LINEAR | {"limit_a": limit}], "rails": MAIN}, **more
        )
        if used:
            return gadget
        document = gadget.model_dump(mode="json")
        for mode in document["modes"]:
            mode["uses"] = mode["uses"][:1]
        return build_design(document)

    def test_t16_a_peak_beyond_the_regulator(self) -> None:
        gadget = self.radio(0.6, 0.3)
        finding = self.has(gadget, "peak-sags", "600 mA for 2 ms", "more than it gives", "6.8 mF at the part carry it")
        after = self.settles(gadget, finding)
        self.assertGreater(after.supply.rails[0].capacitor.farad, 1e-4)  # type: ignore[union-attr]
        self.assertTrue(all(p.holds for p in evaluate(after).supply.peaks))
        self.lacks(self.radio(0.01), "peak-sags")

    def test_t16_a_peak_comes_only_in_its_state(self) -> None:
        gadget = self.radio(0.6, 0.3).model_dump(mode="json")
        gadget["parts"][1]["peak"]["state"] = "send"
        self.has(build_design(gadget), "peak-sags", "while awake")
        gadget["parts"][1]["states"].append(state("listen", 0.02))
        gadget["modes"][1]["uses"][1]["state"] = "listen"
        self.lacks(build_design(gadget), "peak-sags")

    def test_t16_a_peak_that_sags_the_cell(self) -> None:
        weak = {"cell": cell(resistance_ohm=0.6), "wiring_ohm": 0.1}
        sagging = self.radio(0.4, battery=weak)
        self.settles(sagging, self.has(sagging, "peak-sags", "Main falls from 3.3 V to", "3 V are needed"))
        self.lacks(self.radio(0.4), "peak-sags")

    def test_t16_a_speaker_that_pulls_down_the_chip_on_another_rail(self) -> None:
        amp = part("amp", state("quiet", 1e-3), state("loud", 0.1), rail="raw", name="Amplifier", supply_min_v=2.5,
                   peak={"current_a": 0.8, "seconds": 0.02})  # fmt: skip
        rails = [*MAIN, {"id": "raw", "name": "Raw", "feed": "battery"}]

        def gadget(ohm: float) -> Design:
            battery = {"cell": cell(resistance_ohm=ohm, discharge_max_a=3), "wiring_ohm": 0}
            return with_second(amp, "quiet", "loud", supply={"stages": [LINEAR], "rails": rails}, battery=battery)

        finding = self.has(gadget(0.55), "peak-sags", "Amplifier takes 800 mA", "Main falls from", "3 V are needed")
        after = self.settles(gadget(0.55), finding)
        self.assertIsNotNone(after.supply.rails[1].capacitor)
        self.lacks(gadget(0.2), "peak-sags")

    def test_t7_what_the_user_plugs_in(self) -> None:
        gadget = self.radio(0.6, 0.3, plugged=True)
        self.settles(gadget, self.has(gadget, "surge", "Plugged in at 20 % charge", "600 mA"))
        self.lacks(self.radio(0.01, plugged=True), "surge")
        self.has(self.radio(0.01, plugged=True, used=False), "not-counted", "no mode uses it")
        self.lacks(self.radio(0.01, plugged=True), "not-counted")


class Feeds(Traps):
    def boosted(self, disconnects: bool) -> Design:
        rails = [*MAIN, {"id": "five", "name": "Five", "feed": "boost"}]
        gadget = with_second(
            part("amp", state("quiet", 0.003), state("loud", 0.1), rail="five", name="Amplifier"), "quiet", "loud",
            supply={"stages": [LINEAR, BOOST | {"load_disconnect": disconnects}], "rails": rails},
        ).model_dump(mode="json")  # fmt: skip
        gadget["modes"][0]["off_stages"] = ["boost"]
        return build_design(gadget)

    def test_t12_a_boost_that_does_not_cut_its_output(self) -> None:
        gadget = self.boosted(False)
        finding = self.has(gadget, "no-disconnect", "Amplifier still gets 3.36 V", "draws 3 mA")
        self.assertEqual(finding.severity, "fix")
        self.settles(gadget, finding)
        self.lacks(self.boosted(True), "no-disconnect")

    def host(self, plugged: bool) -> Design:
        rails = [*MAIN, {"id": "five", "name": "Host port", "feed": "usb"}]
        gadget = with_second(
            part("stick", state("idle", 0.03), state("writing", 0.1), rail="five", name="Stick"), "idle", "writing",
            supply={"sources": [USB], "stages": [LINEAR], "rails": rails},
        ).model_dump(mode="json")  # fmt: skip
        for mode in gadget["modes"]:
            mode["plugged"] = ["usb"] if plugged else []
        return build_design(gadget)

    def test_t13_a_rail_without_its_source(self) -> None:
        gadget = self.host(False)
        finding = self.has(gadget, "no-source", "Host port hangs on USB", "Stick gets nothing", "only Main")
        after = self.settles(gadget, finding)
        self.assertEqual(after.supply.stages[-1].output_v, 5.0)  # type: ignore[union-attr]
        self.lacks(self.host(True), "no-source")
        sources = {s.source: s.rails for s in evaluate(gadget).supply.sources}
        self.assertEqual(sources, {"battery": ["main"], "usb": ["five"]})

    def divided(self, upper: float, lower: float, gated: bool = False, reader_off: bool = False) -> Design:
        draw = {"behaviour": "resistor", "resistance_ohm": {"typical": upper + lower}}
        divider = part(
            "divider", {"name": "connected", "draw": draw, "provenance": "datasheet"}, rail="raw", name="Divider",
            divider={"upper_ohm": upper, "lower_ohm": lower, "gated": gated, "reader": "chip"},
        )  # fmt: skip
        rails = [*MAIN, {"id": "raw", "name": "Raw", "feed": "battery"}]
        gadget = with_second(
            divider, "connected", "connected", supply={"stages": [LINEAR], "rails": rails}
        ).model_dump(mode="json")  # fmt: skip
        gadget["modes"][0]["off_stages"] = ["reg"] if reader_off else []
        return build_design(gadget)

    def test_t15_a_divider_that_drains(self) -> None:
        gadget = self.divided(1e4, 1e4)
        after = self.settles(gadget, self.has(gadget, "divider-drain", "20 kΩ", "188 µA of the 208 µA"))
        self.assertEqual([u.part for u in after.modes[0].uses], ["chip"])
        self.lacks(self.divided(1e7, 1e7), "divider-drain")

    def test_t15_a_divider_that_feeds_a_chip_without_power(self) -> None:
        gadget = self.divided(1e4, 1e4, reader_off=True)
        self.settles(gadget, self.has(gadget, "unpowered-pin", "Chip has no power", "320 µA"))
        self.lacks(self.divided(1e4, 1e4), "unpowered-pin")
        self.lacks(self.divided(1e7, 1e7, reader_off=True), "unpowered-pin")

    def test_t15_a_divider_that_lifts_its_pin_too_high(self) -> None:
        gadget = self.divided(1e4, 1e7)
        finding = self.has(gadget, "pin-too-high", "4.2 V", "3.3 V")
        self.assertEqual(finding.severity, "stop")
        self.settles(gadget, finding)
        self.lacks(self.divided(1e6, 1e6), "pin-too-high")


class Stages(Traps):
    def test_t9_above_the_range_but_below_the_maximum(self) -> None:
        straight = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}

        def chip(high: float) -> Design:
            return design(parts=[part("chip", state("sleep", 1e-3), state("active", 0.1), name="Chip", supply_recommended_max_v=high, supply_absolute_max_v=6)], supply=straight)  # fmt: skip

        self.has(chip(3.6), "above-range", "at most 3.6 V", "up to 4.2 V")
        self.lacks(chip(5.5), "above-range")

    def test_t10_a_buck_runs_out_of_headroom_too(self) -> None:
        buck = BOOST | {"id": "reg", "name": "Buck", "topology": "buck", "output_v": 3.5, "points": [{"current_a": 0.1, "efficiency": 0.9, "input_v": 3.7}]}  # fmt: skip
        chip = part("chip", state("sleep", 1e-3), state("active", 0.1), supply_min_v=3.49)
        gadget = design(parts=[chip], supply={"stages": [buck], "rails": MAIN})
        self.has(gadget, "dropout", "Buck needs 3.5 V", "charge unused")
        self.lacks(design(supply={"stages": [buck | {"output_v": 1.8}], "rails": MAIN}), "dropout")

    def test_a_part_that_needs_more_than_its_rail_gets_one_of_its_own(self) -> None:
        board = part(
            "board",
            state("idle", 0.01),
            state("busy", 0.05),
            name="Board",
            supply_min_v=4.75,
            supply_absolute_max_v=5.5,
        )
        gadget = with_second(board, "idle", "busy")
        finding = self.has(gadget, "mode-fails-at-once", "Board gets 3.3 V and needs 4.75 V")
        after = self.apply(gadget, finding)
        self.assertEqual([f.code for f in evaluate(after).findings if f.severity == "stop"], [])
        self.assertEqual(after.supply.stages[-1].output_v, 5.0)  # type: ignore[union-attr]

    def test_a_stage_that_gets_too_hot(self) -> None:
        def linear(theta: float) -> Design:
            chip = part("chip", state("sleep", 1e-3), state("active", 0.8))
            return design(parts=[chip], supply={"stages": [LINEAR | {"rth_ja_c_per_w": theta, "output_v": 1.8}], "rails": MAIN})  # fmt: skip

        self.has(linear(90), "stage-too-hot", "125 °C are its limit")
        self.lacks(linear(5), "stage-too-hot")

    def test_a_converter_that_runs_lower_than_it_starts(self) -> None:
        def boost(start: float) -> Design:
            rails = [{"id": "main", "name": "Main", "feed": "boost"}]
            return design(supply={"stages": [BOOST | {"start_up_v": start}], "rails": rails})

        self.has(boost(3.7), "will-not-start", "3.7 V", "stays dark")
        self.lacks(boost(2.5), "will-not-start")


class NewerFigures(Traps):
    def placed(self, edition: int, state_name: str = "stop") -> Design:
        entry = built_in().by_key["part-ctl-single"].part
        assert entry
        chip = entry.model_copy(update={"id": "chip", "origin": Origin(key="part-ctl-single", edition=edition)}).model_dump(mode="json")  # fmt: skip
        for item in chip["states"]:
            item["name"] = state_name if item["name"] == "stop" else item["name"]
        chip["wakes"] = []
        modes = two_modes([use("chip", state_name)], [use("chip", "active")])
        return design(parts=[chip], modes=modes)

    def at_edition(self, edition: int) -> Catalogue:
        newer = [e.model_copy(update={"edition": edition}) for e in built_in().entries]
        return Catalogue(newer)

    def hits(self, gadget: Design, edition: int) -> list[Seen]:
        return seen(gadget, "newer-figures", self.at_edition(edition))

    def test_a_part_keeps_its_figures_and_is_told_of_newer_ones(self) -> None:
        self.assertEqual(self.hits(self.placed(3), 3), [])
        (finding,) = self.hits(self.placed(2), 3)
        self.assertIn("edition 2", finding.sentence)
        after = self.apply(self.placed(2), finding)
        self.assertEqual((after.parts[0].id, after.parts[0].origin.edition), ("chip", 3))  # type: ignore[union-attr]
        self.assertEqual(self.hits(after, 3), [])

    def test_new_figures_without_a_state_in_use_are_not_offered(self) -> None:
        (finding,) = self.hits(self.placed(1, "napping"), 2)
        self.assertIsNone(finding.remedy)
        self.assertIn("no longer all the states", finding.sentence)
