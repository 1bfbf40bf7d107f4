"""Each trap: a design that has it and one that has not, the numbers in its sentence, and what its remedy does."""

from __future__ import annotations

import unittest
from typing import Any

from ember_core import Design, build_design, evaluate
from ember_core.battery.pack import MEASURED_RESISTANCE
from ember_core.design.patches import apply
from ember_core.runtime.run import run
from ember_core.runtime.uncertainty import Uncertain, _others

from .gadgets import LINEAR, Seen, asleep, cell, design, part, plain, seen, state, use

STRAIGHT = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}
CHARGER = {"name": "Charger", "program_constant_v": 1200, "program_ohm": 1200, "port_limit_a": 1.0}


def found(gadget: Design, code: str) -> list[Seen]:
    return seen(gadget, code)


class Traps(unittest.TestCase):
    def has(self, gadget: Design, code: str, *words: str) -> Seen:
        hits = found(gadget, code)
        self.assertTrue(hits, f"{code} was not found")
        for word in words:
            self.assertIn(word, plain(hits[0].sentence))
        return hits[0]

    def lacks(self, gadget: Design, code: str) -> None:
        self.assertEqual(found(gadget, code), [])

    def apply(self, gadget: Design, finding: Seen) -> Design:
        remedy = finding.remedy
        self.assertIsNotNone(remedy)
        assert remedy
        return apply(gadget, remedy)

    def settles(self, gadget: Design, finding: Seen) -> Design:
        after = self.apply(gadget, finding)
        self.assertFalse([f for f in found(after, finding.code) if f.where == finding.where])
        return after


class Draw(Traps):
    def test_t1_capacity_and_current_far_from_the_goal(self) -> None:
        brief = {"goal_h": 24 * 60, "coldest_c": 25, "usual_c": 25, "hottest_c": 25}
        chip = part("chip", state("sleep", 0.045), state("active", 0.1), name="Chip")
        self.has(design(brief=brief, parts=[chip]), "capacity-against-current", "1 Ah", "60 days", "mAh")
        self.lacks(design(), "capacity-against-current")

    def module_gadget(self, parasitic: bool, kind: str = "interface") -> Design:
        parts = [
            part("chip", state("sleep", 2e-5), state("active", 0.05)),
            part("bridge", state("on", 0.004), parasitic=parasitic, kind=kind, name="Bridge"),
        ]
        modes = [
            {"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep"), use("bridge", "on")]},
            {"id": "awake", "name": "Awake", "uses": [use("chip", "active"), use("bridge", "on")]},
        ]
        return design(parts=parts, modes=modes)

    def test_t2_a_parasitic_load_decides_the_sleep(self) -> None:
        gadget = self.module_gadget(True)
        finding = self.has(gadget, "parasitic", "4 mA of the 4.02 mA")
        after = self.settles(gadget, finding)
        self.assertGreater(evaluate(after).runtime.total.value or 0, 2 * (evaluate(gadget).runtime.total.value or 0))
        self.lacks(self.module_gadget(False), "parasitic")

    def test_t3_lamp_burns_asleep(self) -> None:
        gadget = self.module_gadget(True, "led")
        self.settles(gadget, self.has(gadget, "indicator-led", "Lift its resistor"))
        self.lacks(self.module_gadget(True), "indicator-led")


class Supply(Traps):
    def test_t9_cell_straight_onto_a_33_volt_part(self) -> None:
        weak = part("chip", state("sleep", 1e-3), state("active", 0.1), supply_absolute_max_v=3.6, name="Chip")
        gadget = design(parts=[weak], supply=STRAIGHT)
        finding = self.has(gadget, "overvoltage", "4.2 V", "3.6 V", "Chip")
        self.assertEqual(finding.severity, "stop")
        after = self.settles(gadget, finding)
        self.assertEqual(len(after.supply.stages), 1)
        self.lacks(design(parts=[weak]), "overvoltage")
        strong = part("chip", state("sleep", 1e-3), state("active", 0.1), supply_absolute_max_v=5.5)
        self.lacks(design(parts=[strong], supply=STRAIGHT), "overvoltage")

    def test_t10_dropout_strands_charge(self) -> None:
        chip = part("chip", state("sleep", 1e-3), state("active", 0.2), supply_min_v=3.2)
        poor = LINEAR | {"dropout_v": 0.4, "dropout_at_a": 0.2}
        rails = [{"id": "main", "name": "Main", "feed": "reg"}]
        gadget = design(parts=[chip], supply={"stages": [poor], "rails": rails})
        finding = self.has(gadget, "dropout", "charge unused")
        self.assertEqual(finding.severity, "fix")
        after = self.settles_runtime(gadget, finding)
        self.assertNotEqual(after.supply.stages[0].name, "Regulator")
        low = LINEAR | {"output_v": 2.5}
        easy = part("chip", state("sleep", 1e-3), state("active", 0.2), supply_min_v=2.0)
        self.lacks(design(parts=[easy], supply={"stages": [low], "rails": rails}), "dropout")

    def settles_runtime(self, gadget: Design, finding: Seen) -> Design:
        """This remedy need not end every dropout; it must lengthen the run."""
        assert finding.remedy
        after = apply(gadget, finding.remedy)
        self.assertGreater(evaluate(after).runtime.total.value or 0, 1.01 * (evaluate(gadget).runtime.total.value or 0))
        return after

    def test_t11_converted_twice(self) -> None:
        boost = {
            "type": "switching", "id": "boost", "name": "Boost", "input": "battery", "topology": "boost",
            "output_v": 5.0, "quiescent_a": 4e-4, "limit_a": 1, "undervoltage_lockout_v": 2.5,
            "points": [{"current_a": 0.1, "efficiency": 0.88, "input_v": 3.7}],
        }  # fmt: skip
        rails = [{"id": "main", "name": "Main", "feed": "reg"}]
        twice = design(supply={"stages": [boost, LINEAR | {"input": "boost"}], "rails": rails})
        finding = self.has(
            twice, "converted-twice", "5 V", "3.3 V", "54 %"
        )  # about 0.85 of 0.66, and what both take at rest
        after = self.settles(twice, finding)
        self.assertEqual([(s.id, s.input) for s in after.supply.stages], [("reg", "battery")])
        self.lacks(design(), "converted-twice")
        five = [{"id": "main", "name": "Main", "feed": "boost"}]
        self.lacks(design(supply={"stages": [boost], "rails": five}), "converted-twice")

    def boarded(self, output_v: float, own: dict[str, object], **more: object) -> Design:
        """A board with a regulator of its own behind a boost."""
        boost = {
            "type": "switching", "id": "boost", "name": "Boost", "input": "battery", "topology": "boost",
            "output_v": output_v, "quiescent_a": 4e-4, "limit_a": 1, "undervoltage_lockout_v": 2.5,
            "points": [{"current_a": 0.1, "efficiency": 0.88, "input_v": 3.7}],
        }  # fmt: skip
        board = part(
            "chip",
            state("sleep", 1e-4),
            state("active", 0.03),
            regulator=own,
            supply_min_v=2.9,
            supply_recommended_max_v=6.0,
            **more,
        )
        return design(
            parts=[board], supply={"stages": [boost], "rails": [{"id": "main", "name": "Main", "feed": "boost"}]}
        )

    def test_t11_a_board_that_converts_once_more_itself(self) -> None:
        own = {"kind": "linear", "output_v": 3.3}
        twice = self.boarded(5.0, own)
        finding = self.has(twice, "converted-twice", "5 V", "3.3 V", "the regulator of")
        after = self.settles(twice, finding)
        self.assertEqual(after.supply.rails[0].feed, "battery")
        self.assertEqual(after.supply.stages, [])
        for above, told in ((1.06, True), (1.04, False)):
            codes = [f.code for f in evaluate(self.boarded(5.0, own | {"output_v": 5.0 / above})).findings]
            self.assertEqual("converted-twice" in codes, told, above)

    def test_t11_where_it_cannot_do_without_the_boost_a_lower_one_is_offered(self) -> None:
        tight = {"kind": "linear", "output_v": 3.3}
        gadget = self.boarded(5.0, tight)
        gadget = gadget.model_copy(update={"parts": [gadget.parts[0].model_copy(update={"supply_min_v": 4.3})]})
        finding = self.has(gadget, "converted-twice")
        assert finding.remedy is not None
        after = apply(gadget, finding.remedy)
        self.assertAlmostEqual(after.supply.stages[0].output_v, 4.5)  # type: ignore[union-attr]
        longer = [evaluate(x).runtime.total.value or 0.0 for x in (gadget, after)]
        self.assertGreater(longer[1], longer[0] * 1.05)

    def test_t11_sees_through_a_switch_between_the_two(self) -> None:
        boost = {
            "type": "switching", "id": "boost", "name": "Boost", "input": "battery", "topology": "boost",
            "output_v": 5.0, "quiescent_a": 4e-4, "limit_a": 1, "undervoltage_lockout_v": 2.5,
            "points": [{"current_a": 0.1, "efficiency": 0.88, "input_v": 3.7}],
        }  # fmt: skip
        switch = {"type": "pass", "id": "sw", "name": "Switch", "input": "boost", "resistance_ohm": 0.1, "limit_a": 2}
        stages = [boost, switch, LINEAR | {"input": "sw"}]
        rails = [{"id": "main", "name": "Main", "feed": "reg"}]
        gadget = design(supply={"stages": stages, "rails": rails})
        after = self.settles(gadget, self.has(gadget, "converted-twice"))
        # the way out leads past the boost and not past the switch
        self.assertEqual([s.id for s in after.supply.stages], ["sw", "reg"])
        self.assertEqual((after.supply.stages[0].input, after.supply.stages[1].input), ("battery", "sw"))

    def test_t11_a_boost_that_others_need_stays(self) -> None:
        own = {"kind": "linear", "output_v": 3.3}
        whole = self.boarded(5.0, own).model_dump(mode="json")
        whole["supply"]["rails"].append({"id": "five", "name": "Five", "feed": "boost"})
        whole["parts"].append(part("lamp", state("on", 0.001), rail="five"))
        gadget = build_design(whole)
        finding = self.has(gadget, "converted-twice")
        assert finding.remedy is not None
        after = apply(gadget, finding.remedy)
        self.assertEqual([(r.id, r.feed) for r in after.supply.rails], [("main", "battery"), ("five", "boost")])

    def test_a_mode_that_never_works_stops_the_design(self) -> None:
        weak = LINEAR | {"limit_a": 0.05}
        gadget = design(supply={"stages": [weak], "rails": [{"id": "main", "name": "Main", "feed": "reg"}]})
        self.assertEqual(self.has(gadget, "mode-fails-at-once", "100 mA", "50 mA").severity, "stop")
        self.lacks(design(), "mode-fails-at-once")


class Battery(Traps):
    COIN: dict[str, Any] = {
        "name": "Coin", "chemistry": "lithium-coin", "form": "coin", "capacity_ah": 0.235, "resistance_ohm": 16,
        "cutoff_v": 2.0, "discharge_max_a": 0.02, "size_mm": [20, 20, 3.2],
    }  # fmt: skip

    def coin_gadget(self, amps: float) -> Design:
        parts = [part("radio", state("sleep", 2e-6), state("send", amps), name="Radio")]
        modes = [
            {"id": "asleep", "name": "Asleep", "uses": [use("radio", "sleep")]},
            {"id": "awake", "name": "Sending", "uses": [use("radio", "send")]},
        ]
        day = {"rest": "asleep", "wakes": [{"name": "Send", "mode": "awake", "every_s": 600, "awake_s": 0.2}]}
        body = {"size_mm": [20, 20, 3.2], "position_mm": [5, 5, 5]}
        return design(
            parts=parts, modes=modes, day=day, supply=STRAIGHT, battery={"cell": cell(**self.COIN), "body": body}
        )

    def test_t18_small_cell_big_current(self) -> None:
        gadget = self.coin_gadget(0.045)
        over = self.has(gadget, "peak-current", "45 mA", "20 mA")
        self.has(self.coin_gadget(0.08), "small-cell", "235 mAh")
        after = self.settles(gadget, over)
        self.assertGreater(after.battery.cell.discharge_max_a, 0.045)
        for code in ("peak-current", "small-cell"):
            self.lacks(self.coin_gadget(0.005), code)

    def test_t18_a_cell_that_does_not_bring_it_up_for_so_long(self) -> None:
        """A coin cell under two hours at 30 mA: its resistance would let it, what diffuses does not."""

        def gadget(amps: float) -> Design:
            day = {"rest": "asleep", "sessions": [{"name": "Use", "mode": "awake", "seconds": 7200, "per_day": 2}]}
            stiff = cell(**self.COIN | {"resistance_ohm": 1.0, "discharge_max_a": 0.05})
            parts = [part("chip", state("sleep", 2e-6), state("send", amps), name="Chip")]
            modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep")]},
                     {"id": "awake", "name": "Sending", "uses": [use("chip", "send")]}]  # fmt: skip
            return design(parts=parts, modes=modes, day=day, supply=STRAIGHT, battery={"cell": stiff, "wiring_ohm": 0})

        self.has(gadget(0.03), "small-cell", "not available at that rate")
        self.lacks(gadget(0.003), "small-cell")

    def test_a_cell_used_beyond_what_was_measured(self) -> None:
        """1.5 times the largest measured current is the limit, cell by cell, for one, two and three in series."""

        def gadget(
            per_cell: float, series: int = 1, parallel: int = 1, measured: tuple[float, ...] = (0.05, 0.2)
        ) -> Design:
            line = {"soc": [0, 1], "open_circuit_v": [3.4, 4.0], "resistance_ohm": [0, 0], "measured_a": list(measured)}
            battery = {
                "cell": cell(curve=line, measured_ah=None),
                "series": series,
                "parallel": parallel,
                "wiring_ohm": 0,
            }
            parts = [part("load", state("on", per_cell * parallel))]
            return design(
                parts=parts, modes=asleep(use("load", "on")), day={"rest": "asleep"}, supply=STRAIGHT, battery=battery
            )

        for series in (1, 2, 3):
            self.lacks(gadget(0.299, series), "beyond-measured")
            self.has(
                gadget(0.301, series),
                "beyond-measured",
                "301 mA from each cell",
                "up to 200 mA",
                "Measure a discharge at 301 mA",
            )
        self.lacks(gadget(0.299, parallel=2), "beyond-measured")
        self.has(gadget(0.301, parallel=2), "beyond-measured", "301 mA")
        self.lacks(gadget(5.0, measured=()), "beyond-measured")  # nobody said at what it was measured

        def widest(per_cell: float) -> float:
            return _others(run(gadget(per_cell)))[Uncertain("resistance")].max

        self.assertEqual(widest(0.29), MEASURED_RESISTANCE)
        self.assertAlmostEqual(widest(0.6), MEASURED_RESISTANCE * 2**0.5)

    def test_a_sleeper_that_outlives_its_charge(self) -> None:
        """Lithium-ion of 1 Ah loses 0.01 a month at 20 °C: 13.7 µA, for one, two and three in series."""

        def gadget(amps: float, series: int = 1, chemistry: str = "lithium-ion", celsius: float = 20) -> Design:
            brief = {"coldest_c": 0, "usual_c": celsius, "hottest_c": 40}
            own = cell(
                chemistry=chemistry,
                form="cylinder",
                size_mm=[14.5, 50.5, 14.5],
                cutoff_v=3.0 if chemistry == "lithium-ion" else 0.9,
            )
            return design(
                parts=[part("chip", state("sleep", amps))], modes=asleep(use("chip", "sleep")), day={"rest": "asleep"}, brief=brief,
                supply=STRAIGHT, battery={"cell": own, "series": series, "wiring_ohm": 0},
            )  # fmt: skip

        own = 1.0 * 0.01 / (30.4375 * 24)
        self.assertAlmostEqual(own, 13.7e-6, delta=1e-7)
        for series in (1, 2, 3):
            self.lacks(gadget(1.01 * own, series), "self-discharge")
            self.has(gadget(0.99 * own, series), "self-discharge", "loses by itself 13.7 µA")
        after = self.settles(gadget(0.99 * own, 1), self.has(gadget(0.99 * own, 1), "self-discharge"))
        self.assertGreater(run(after).seconds, 1.05 * run(gadget(0.99 * own, 1)).seconds)
        self.has(gadget(1.5 * own, celsius=30), "self-discharge")  # it doubles every 10 °C
        self.has(gadget(2e-6, chemistry="nickel-metal-hydride"), "self-discharge")
        self.lacks(gadget(1e-7, chemistry="lithium-iron-disulfide"), "self-discharge")  # that is old first

    def test_a_lithium_cell_kept_full_in_the_warm(self) -> None:
        def gadget(celsius: float, float_v: float = 4.2, chemistry: str = "lithium-ion") -> Design:
            brief = {"coldest_c": 0, "usual_c": celsius, "hottest_c": 60}
            charger = {"name": "C", "program_ohm": 4000, "float_v_per_cell": float_v}
            battery = {"cell": cell(chemistry=chemistry, cutoff_v=2.5), "wiring_ohm": 0}
            return design(brief=brief, charger=charger, battery=battery)

        # (7.543 * 4.2 - 23.75) 1e6 exp(-6976 / T) 365.25^0.75 = 0.1 at 35.33 degC
        self.lacks(gadget(35.2), "kept-full")
        self.has(gadget(35.5), "kept-full", "35.5 °C", "4.2 V", "half full about")
        self.lacks(gadget(35.5, 4.1), "kept-full")
        self.lacks(gadget(45, 3.6, "lithium-iron-phosphate"), "kept-full")
        self.lacks(design(brief={"coldest_c": 0, "usual_c": 45, "hottest_c": 60}), "kept-full")

    def test_t17_a_bench_supply_would_hide_the_sag(self) -> None:
        def gadget(ohm: float) -> Design:
            parts = [part("amp", state("quiet", 1e-3), state("loud", 1.0))]
            modes = [
                {"id": "asleep", "name": "Asleep", "uses": [use("amp", "quiet")]},
                {"id": "awake", "name": "Loud", "uses": [use("amp", "loud")]},
            ]
            return design(parts=parts, modes=modes, supply=STRAIGHT, battery={"cell": cell(resistance_ohm=ohm)})

        finding = self.has(gadget(0.5), "bench-supply", "bench supply", "Ω")
        self.assertEqual(finding.severity, "watch")
        self.lacks(gadget(0.02), "bench-supply")

    def test_shelf_life_is_said_where_the_sum_outlives_the_cell(self) -> None:
        self.has(self.coin_gadget(0.0001), "shelf-life", "10 years")
        self.lacks(design(), "shelf-life")


class Charging(Traps):
    def test_t22_one_ampere_into_a_small_cell(self) -> None:
        small = {"cell": cell(capacity_ah=0.5, charge_max_a=0.5)}
        gadget = design(battery=small, charger=CHARGER)
        finding = self.has(gadget, "charge-current", "1 A", "2 C", "500 mAh", "5.1 kΩ")
        self.assertEqual(finding.severity, "stop")
        after = self.settles(gadget, finding)
        assert after.charger
        self.assertLessEqual(1200 / after.charger.program_ohm, 0.25)
        self.lacks(design(battery=small, charger=CHARGER | {"program_ohm": 5100}), "charge-current")

    def test_t22_is_only_watched_between_half_and_one_c_without_a_datasheet(self) -> None:
        gadget = design(battery={"cell": cell(capacity_ah=1.5)}, charger=CHARGER)
        self.assertEqual(self.has(gadget, "charge-current").severity, "watch")

    def test_t23_a_hungry_gadget_never_fills(self) -> None:
        chip = part("chip", state("sleep", 0.03), state("active", 0.1))
        charger = CHARGER | {"program_ohm": 4800}
        gadget = design(parts=[chip], charger=charger)
        self.settles(gadget, self.has(gadget, "never-full", "30 mA", "25 mA"))
        self.lacks(design(charger=charger), "never-full")

    def test_t24_primary_cells_and_frost(self) -> None:
        primary = {"cell": cell(chemistry="alkaline", form="cylinder")}
        gadget = design(battery=primary, charger=CHARGER)
        self.settles(gadget, self.has(gadget, "primary-cell"))
        frost = {"goal_h": 100, "coldest_c": -10, "usual_c": 5, "hottest_c": 25}
        outside = frost | {"charged": "anywhere"}
        self.has(design(brief=outside, charger=CHARGER | {"program_ohm": 4800}), "charge-temperature", "−10 °C")
        self.lacks(design(brief=frost, charger=CHARGER | {"program_ohm": 4800}), "charge-temperature")
        self.lacks(design(charger=CHARGER | {"program_ohm": 4800}), "charge-temperature")


class Enclosure(Traps):
    def test_t30_less_clearance_than_the_process_holds(self) -> None:
        gadget = design(enclosure={"outer_mm": [60, 90, 24], "clearance_mm": 0.05})
        self.settles(gadget, self.has(gadget, "clearance", "0.1 mm", "filament", "0.2 mm"))
        self.lacks(design(enclosure={"outer_mm": [60, 90, 24], "clearance_mm": 0.12, "process": "resin"}), "clearance")

    def test_t31_no_room_to_swell(self) -> None:
        body = {"size_mm": [30, 40, 6], "position_mm": [5, 5, 5]}
        gadget = design(battery={"cell": cell(), "body": body, "swelling": 0})
        self.settles(gadget, self.has(gadget, "swelling", "0.6 mm"))
        self.lacks(design(battery={"cell": cell(), "body": body}), "swelling")
        self.lacks(design(battery={"cell": cell(form="cylinder"), "body": body, "swelling": 0}), "swelling")

    def test_t31_a_body_where_the_pouch_will_swell(self) -> None:
        def stacked(height: float) -> Design:
            chip = part("chip", state("sleep", 1e-3), state("active", 0.1),
                        body={"size_mm": [10, 10, 3], "position_mm": [8, 8, height]})  # fmt: skip
            body = {"size_mm": [30, 40, 6], "position_mm": [5, 5, 5]}
            return design(parts=[chip], battery={"cell": cell(), "body": body})

        gadget = stacked(11.55)
        finding = self.has(gadget, "swelling-room", "0.6 mm")
        self.settles(gadget, finding)
        self.lacks(stacked(12.2), "swelling-room")

    def test_collision_and_a_remedy_that_settles_it(self) -> None:
        def two(x: float) -> Design:
            chips = [
                part("a", state("on", 1e-3), body={"size_mm": [10, 10, 3], "position_mm": [10, 10, 5]}),
                part("b", state("on", 1e-3), body={"size_mm": [10, 10, 3], "position_mm": [x, 10, 5]}),
            ]
            modes = [{"id": "asleep", "name": "Asleep", "uses": [use("a", "on"), use("b", "on")]}]
            return design(parts=chips, modes=modes, day={"rest": "asleep"})

        self.settles(two(17), self.has(two(17), "collision", "3 mm", "along x"))
        self.has(two(20.2), "tight-gap", "0.2 mm", "0.5 mm")
        self.lacks(two(21), "collision")

    def test_case_beyond_the_brief(self) -> None:
        brief = {"goal_h": 100, "coldest_c": 25, "usual_c": 25, "hottest_c": 25, "outer_max_mm": [58, 90, 24]}
        self.has(design(brief=brief), "case-too-large", "2 mm along its middle side")
        self.lacks(design(), "case-too-large")
