"""Heat of the closed case by how long it lasts: verdicts and findings."""

from __future__ import annotations

import unittest
from typing import Any

from ember_core import Design, build_design, evaluate
from ember_core.catalogue import built_in
from ember_core.design import Enclosure
from ember_core.design.patches import apply
from ember_core.measures.bench import TrialBench
from ember_core.thermal.shell import shell_of

from .gadgets import cell, design, part, plain, seen, state, use

CASE = Enclosure(outer_mm=(60, 90, 24), wall_mm=2, plastic="PETG")


class Verdicts(unittest.TestCase):
    CHARGER = {"name": "C", "program_constant_v": 1000, "program_ohm": 4000, "port_limit_a": 1.0, "rth_ja_c_per_w": 20}
    BRIEF = {"goal_h": 100, "coldest_c": 5, "usual_c": 20, "hottest_c": 30}

    def gadget(self, **more: Any) -> Design:
        return design(**({"brief": self.BRIEF, "enclosure": CASE.model_dump()} | more))

    def heat(self, **more: Any) -> tuple[str, float]:
        verdict = next(v for v in evaluate(self.gadget(**more)).verdicts if v.key == "heat")
        return verdict.status, verdict.figure.value or 0

    def running(self, watts: float, seconds: float, per_day: float = 1, **more: Any) -> Design:
        """So many watts while awake, straight from the battery; next to nothing asleep."""
        heater = {"name": "on", "draw": {"behaviour": "power", "power_w": {"typical": watts}}, "provenance": "measured"}
        parts = [part("heater", state("off", 1e-6), heater, **more)]
        modes = [{"id": "asleep", "name": "Asleep", "uses": [use("heater", "off")]},
                 {"id": "awake", "name": "Awake", "uses": [use("heater", "on")]}]  # fmt: skip
        supply = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}
        day = {"rest": "asleep", "sessions": [{"name": "Use", "mode": "awake", "seconds": seconds, "per_day": per_day}]}
        return self.gadget(
            parts=parts,
            modes=modes,
            supply=supply,
            day=day,
            battery={"cell": cell(capacity_ah=20, discharge_max_a=20), "wiring_ohm": 0},
        )

    def inside(self, gadget: Design) -> float:
        return TrialBench(gadget, built_in()).warmth.running_c

    def test_charging_warms_the_case(self) -> None:
        cool = evaluate(self.gadget())
        warm = evaluate(self.gadget(charger=self.CHARGER | {"program_ohm": 2000}))
        self.assertEqual(next(v for v in cool.verdicts if v.key == "heat").status, "pass")
        assert warm.heat.charging is not None and cool.heat.running.value and warm.heat.charging.value
        self.assertGreater(warm.heat.charging.value, cool.heat.running.value + 1)

    def test_a_large_charge_current_in_a_small_case_is_too_warm_and_a_larger_resistor_cures_it(self) -> None:
        more: dict[str, Any] = {
            "charger": self.CHARGER | {"program_ohm": 1000},
            "battery": {"cell": cell(capacity_ah=2)},
        }
        status, inside = self.heat(**more)
        self.assertEqual(status, "fail")
        self.assertGreater(inside, 45)
        finding = seen(self.gadget(**more), "charging-too-warm")[0]
        self.assertIn("45 °C", finding.sentence)
        assert finding.remedy
        after = apply(self.gadget(**more), finding.remedy)
        self.assertFalse(seen(after, "charging-too-warm"))
        self.assertNotEqual(next(v for v in evaluate(after).verdicts if v.key == "heat").status, "fail")

    def test_a_buzz_of_two_seconds_warms_nothing_an_hour_does(self) -> None:
        self.assertLess(self.inside(self.running(5, 2)), 31)
        self.assertGreater(self.inside(self.running(5, 3600)), 70)
        self.assertAlmostEqual(
            self.inside(self.running(5, 86400)), 30 + float(shell_of(CASE, 30.0, 60.0, 5.0).rise_k(5 * 1.04)), delta=3
        )

    def test_what_burns_outside_does_not_warm_the_case(self) -> None:
        self.assertLess(self.inside(self.running(5, 3600, plugged_by_user=True)), 35)

    def test_running_and_charging_add_up(self) -> None:
        lit = part("light", state("lit", 0.1))
        modes = [{"id": "lit", "name": "Lit", "uses": [use("light", "lit")]}]
        base = {"parts": [lit], "modes": modes, "day": {"rest": "lit"}}
        charger = self.CHARGER | {"power_path": True, "port_limit_a": 2}
        alone = TrialBench(self.gadget(**base), built_in()).warmth
        both = TrialBench(self.gadget(**base, charger=charger), built_in()).warmth
        assert both.hot_charge is not None and both.charging_c is not None
        self.assertGreater(both.charging_w, both.hot_charge.heat_w + 0.9 * float(alone.mode_w[0]))

    def test_forty_five_degrees_are_for_charging_only(self) -> None:
        warm = {"goal_h": 100, "coldest_c": 5, "usual_c": 20, "hottest_c": 50}
        self.assertNotEqual(self.heat(brief=warm)[0], "fail")
        self.assertFalse(seen(self.gadget(brief=warm, charger=self.CHARGER), "charging-too-warm"))
        outside = self.gadget(brief=warm | {"charged": "anywhere"}, charger=self.CHARGER)
        self.assertTrue(seen(outside, "charging-too-warm"))

    def test_a_plastic_is_limited_by_its_softening_and_watched_within_the_margin(self) -> None:
        def plastic(name: str, hottest: float) -> tuple[str, str]:
            brief = {"goal_h": 100, "coldest_c": 5, "usual_c": 20, "hottest_c": hottest}
            case = CASE.model_copy(update={"plastic": name}).model_dump()
            verdict = next(v for v in evaluate(self.gadget(brief=brief, enclosure=case)).verdicts if v.key == "heat")
            return verdict.status, verdict.sentence

        self.assertEqual(plastic("PLA", 58.1)[0], "fail")
        self.assertEqual(plastic("PLA", 52)[0], "watch")
        self.assertEqual(plastic("PLA", 42)[0], "pass")
        self.assertIn("softens at 58 °C", plain(plastic("PLA", 50)[1]))
        self.assertIn("of margin", plastic("PLA", 50)[1])
        self.assertEqual(plastic("polycarbonate", 48)[0], "pass")

    def test_a_mode_that_is_too_warm_names_its_cause(self) -> None:
        hot = self.running(4, 7200)
        finding = seen(hot, "too-warm")[0]
        self.assertIn("heater", finding.sentence)
        self.assertIn("Awake burns 4.1", finding.sentence)
        self.assertIn("and Test cell stands 60 °C", finding.sentence)  # the case, of PETG, 75 °C
        self.assertFalse(seen(self.running(0.5, 7200), "too-warm"))

    def test_a_softer_plastic_is_replaced_by_one_that_stands_it(self) -> None:
        case = CASE.model_copy(update={"plastic": "PLA"}).model_dump()
        gadget = self.running(2.3, 86400)
        document = gadget.model_dump(mode="json") | {"enclosure": case}
        soft = build_design(document)
        finding = seen(soft, "too-warm")
        self.assertTrue(finding, self.inside(soft))
        self.assertIn("and PLA softens at 58 °C", finding[0].sentence)
        assert finding[0].found.ways is not None
        offered = [r for r in finding[0].found.ways() if r and r.label.startswith("Make the case of")]
        self.assertIn(apply(soft, offered[0]).enclosure.plastic, ("PETG", "nylon", "ABS"))
        self.assertFalse(seen(apply(soft, offered[0]), "too-warm"))
        remedy = finding[0].remedy
        assert remedy
        self.assertFalse(seen(apply(soft, remedy), "too-warm"))
