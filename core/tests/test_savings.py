"""Measures: found where they are, gains that hold when pulled, alone and stacked."""

from __future__ import annotations

import dataclasses
import unittest
from pathlib import Path
from typing import Any
from unittest.mock import patch

from ember_core import Design, DocumentError, build_design, evaluate, read_design
from ember_core.catalogue import built_in
from ember_core.design.patches import apply
from ember_core.measures.asleep import rail_off
from ember_core.measures.bench import TrialBench
from ember_core.studies import Saving, answer_savings, stack_savings
from ember_core.studies.judging import Judged
from ember_core.studies.rail import converters
from ember_core.studies.savings import powering
from ember_core.studies.savings.powering import WORTH

from .gadgets import LINEAR, design, part, plain, state, use
from .randoms import random_design

DEMO = sorted((Path(__file__).resolve().parents[2] / "demo").glob("*.json"))


def savings(gadget: Design) -> list[Saving]:
    return answer_savings(TrialBench(gadget, built_in()))


class Worth(unittest.TestCase):
    def test_another_converter_from_two_percent_on(self) -> None:
        own = TrialBench(design(), built_in())
        rows = converters(own, 0)
        now = next((r, s) for r, s in rows if r.now)
        best, stage = next((r, s) for r, s in rows if not r.now)
        for gain, offered in ((WORTH - 0.001, False), (WORTH + 0.001, True)):
            hours = gain * (now[0].runtime.value or 0)
            better = dataclasses.replace(best, fits=True, runtime=dataclasses.replace(best.runtime, value=hours))
            with patch.object(powering, "converters", return_value=[now, (better, stage)]):
                found = [m.code for m in powering.other_converters(own)]
            self.assertEqual("other-converter" in found, offered, gain)


def codes(gadget: Design) -> set[str]:
    return {s.code for s in savings(gadget)}


def lamp(**more: Any) -> dict[str, Any]:
    lit = {"name": "lit", "draw": {"behaviour": "led", "forward_v": 1.9, "resistance_ohm": {"typical": 1000}}}
    return part("led", lit, kind="led", name="Lamp", **more)


class Demos(unittest.TestCase):
    def test_what_can_be_built_or_programmed_comes_first_the_largest_gain_at_the_top(self) -> None:
        for path in DEMO:
            with self.subTest(path.name):
                found = savings(read_design(path.read_bytes()))
                for habits in (False, True):
                    hours = [s.runtime.value or 0 for s in found if (s.kind == "habit") == habits]
                    self.assertEqual(hours, sorted(hours, reverse=True))
                kinds = [s.kind == "habit" for s in found]
                self.assertEqual(kinds, sorted(kinds))

    def test_a_gadget_that_outlasts_its_cell_has_nothing_to_gain(self) -> None:
        gadget = read_design(next(p for p in DEMO if p.name == "rosin-minder.json").read_bytes())
        self.assertEqual(savings(gadget), [])

    def test_a_cheaper_converter_is_cheaper_and_nearly_as_good(self) -> None:
        """Beside the best: at most seven tenths of its price, at least 97 % of its runtime; both applied and evaluated again."""
        told = 0
        for gadget in [read_design(path.read_bytes()) for path in DEMO] + [
            random_design(seed) for seed in range(10, 25)
        ]:
            found = {s.key: s for s in savings(gadget)}
            for key, cheap in found.items():
                best = found.get(key.replace("cheaper-", "other-"))
                if cheap.code != "cheaper-converter" or best is None:
                    continue
                told += 1
                stage = key.split(":", 1)[1]
                costs, hours = [], []
                for saving in (cheap, best):
                    after = apply(gadget, saving.remedy)
                    changed = after.stage(stage)
                    assert changed is not None
                    costs.append(changed.cost)
                    hours.append(evaluate(after).runtime.total.value or 0)
                    self.assertAlmostEqual(hours[-1] / (saving.runtime.value or 1), 1, places=9)
                self.assertLessEqual(costs[0], 0.7 * costs[1])
                self.assertGreaterEqual(hours[0], 0.969 * hours[1])
        self.assertGreater(told, 0)

    def test_what_has_to_be_built_is_worth_two_percent(self) -> None:
        """An LED beside 1 mA: 19 µA of it are not worth a soldering iron, 22 µA are; a habit is told from two in a thousand on."""
        for share, told in ((0.019, False), (0.022, True)):
            chip = part("chip", state("on", 1e-3), rail="raw")
            light = part("led", state("lit", share * 1e-3), kind="led", name="Lamp", rail="raw")
            gadget = design(
                parts=[chip, light],
                modes=[{"id": "on", "name": "On", "uses": [use("chip", "on"), use("led", "lit")]}],
                day={"rest": "on"},
                supply={"rails": [{"id": "raw", "name": "Raw", "feed": "battery"}]},
            )
            self.assertEqual(any(s.code == "no-led" for s in savings(gadget)), told, share)
        for path in DEMO:
            for one in savings(read_design(path.read_bytes())):
                now = (one.runtime.value or 0) - (one.gained.value or 0)
                self.assertGreater((one.gained.value or 0) / now, 0.02 if one.kind == "build" else 0.002)

    def test_a_larger_cell_of_the_same_footprint(self) -> None:
        """It is no wider, holds more and gives what it promises once it is taken over."""
        seen = 0
        for name in ("rosin-minder-rechargeable.json", "snow-stake.json"):
            gadget = read_design(next(p for p in DEMO if p.name == name).read_bytes())
            for one in savings(gadget):
                if one.code == "larger-cell":
                    after = apply(gadget, one.remedy)
                    for mine, old in zip(
                        sorted(after.battery.cell.size_mm)[1:], sorted(gadget.battery.cell.size_mm)[1:], strict=True
                    ):
                        self.assertLessEqual(mine, old + 1.0)
                    self.assertGreater(after.battery.cell.capacity_ah, 1.1 * gadget.battery.cell.capacity_ah)
                    self.assertEqual(evaluate(after).runtime.total.value, one.runtime.value)
                    seen += 1
        self.assertEqual(seen, 2)

    def test_stacked_is_judged_not_added_up(self) -> None:
        for path in DEMO:
            with self.subTest(path.name):
                gadget = read_design(path.read_bytes())
                bench = TrialBench(gadget, built_in())
                found = answer_savings(bench)
                if not found:
                    continue
                stack = stack_savings(bench, [s.key for s in found])
                after = evaluate(apply(gadget, stack.remedy)).runtime.total.value
                self.assertEqual(after, stack.runtime.value)
                self.assertEqual([s.key for s in stack.steps], [s.key for s in found])
                reached = [s.runtime.value for s in stack.steps if s.runtime]
                self.assertEqual(after, reached[-1])
                self.assertEqual(found[0].runtime.value, reached[0])
                for k in (2, len(found) - 1):  # what is above a measure does not depend on what is below it
                    part = stack_savings(bench, [s.key for s in found[:k]])
                    self.assertEqual(part.steps, stack.steps[:k])
                self.assertEqual(len(stack.keys) + len(stack.left_out), len(found))


class Levers(unittest.TestCase):
    def waking(self, **more: Any) -> Design:
        chip = part("chip", state("sleep", 1e-4), state("doze", 1e-3), state("active", 0.1), kind="controller")
        modes = [
            {"id": "asleep", "name": "Asleep", "uses": [use("chip", "doze")]},
            {"id": "awake", "name": "Awake", "uses": [use("chip", "active")]},
        ]
        wakes = [{"name": "Wake", "mode": "awake", "every_s": 600, "awake_s": 4}]
        return design(**{"parts": [chip], "modes": modes, "day": {"rest": "asleep", "wakes": wakes}} | more)

    def test_a_gadget_that_wakes(self) -> None:
        self.assertLessEqual({"lower-sleep", "shorter-awake", "longer-interval"}, codes(self.waking()))

    def test_two_of_a_part_sleep_deeper_together(self) -> None:
        """Each takes 0.1 mA in its sleep and 1 mA in its doze."""
        two = self.waking()
        parts = [two.parts[0].model_copy(update={"quantity": 2})]
        (saving,) = [
            s
            for s in answer_savings(TrialBench(two.model_copy(update={"parts": parts}), built_in()))
            if s.code == "lower-sleep"
        ]
        self.assertIn("200 µA", plain(saving.sentence))
        self.assertIn("2 mA", plain(saving.sentence))

    def test_a_lamp_can_be_dark_dimmer_or_gone_but_only_once(self) -> None:
        parts = [part("chip", state("sleep", 1e-4), state("active", 0.05), kind="controller"), lamp()]
        modes = [
            {"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep"), use("led", "lit")]},
            {"id": "awake", "name": "Awake", "uses": [use("chip", "active"), use("led", "lit")]},
        ]
        gadget = design(parts=parts, modes=modes)
        found = savings(gadget)
        self.assertLessEqual({"dark-in-sleep", "dim", "no-led"}, {s.code for s in found})
        stack = stack_savings(TrialBench(gadget, built_in()), [s.key for s in found])
        stacked = [s.key.split(":")[0] for s in stack.steps if s.runtime is not None]
        self.assertEqual(len({"dark-in-sleep", "no-led"} & set(stacked)), 1)

    def test_a_divider_can_be_gated_or_raised(self) -> None:
        resting = {"name": "connected", "draw": {"behaviour": "resistor", "resistance_ohm": {"typical": 2e4}}}
        parts = [part("chip", state("sleep", 1e-5), state("active", 0.05), kind="controller"),
                 part("divider", resting, divider={"upper_ohm": 1e4, "lower_ohm": 1e4, "reader": "chip"})]  # fmt: skip
        modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep"), use("divider", "connected")]},
                 {"id": "awake", "name": "Awake", "uses": [use("chip", "active"), use("divider", "connected")]}]  # fmt: skip
        self.assertLessEqual({"gate-divider", "raise-divider"}, codes(design(parts=parts, modes=modes)))

    def test_sending_every_fifth_reading_still_reads_every_time(self) -> None:
        parts = [part("chip", state("sleep", 1e-5), state("active", 0.005), kind="controller"),
                 part("radio", state("off", 1e-7), state("send", 0.2), kind="radio")]  # fmt: skip
        modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep"), use("radio", "off")]},
                 {"id": "awake", "name": "Awake", "uses": [use("chip", "active"), use("radio", "send")]}]  # fmt: skip
        gadget = self.waking(parts=parts, modes=modes)
        batch = next(s for s in savings(gadget) if s.code == "batch")
        after = apply(gadget, batch.remedy)
        self.assertAlmostEqual(sum(1 / w.every_s for w in after.day.wakes), 1 / 600, places=9)
        self.assertGreater(batch.runtime.value or 0, 3 * (evaluate(gadget).runtime.total.value or 0))
        quiet = next(m for m in after.modes if m.id == "awake-kept")
        self.assertEqual([u.state for u in quiet.uses], ["active", "off"])

    def test_timeouts_accidents_and_lengths_of_sessions(self) -> None:
        sessions = [
            {"name": "Use", "mode": "awake", "seconds": 300, "per_day": 4, "after": {"mode": "awake", "seconds": 600}},
            {"name": "In the bag", "mode": "awake", "seconds": 30, "per_day": 30, "why": "accident"},
        ]
        found = codes(design(day={"rest": "asleep", "sessions": sessions}))
        self.assertLessEqual({"shorter-timeout", "lock", "shorter-awake"}, found)
        for seconds, kind, cost in ((60, "firmware", "missing"), (61, "habit", "half as long")):
            made = design(day={"rest": "asleep", "sessions": [sessions[0] | {"seconds": seconds}]})
            shorter = next(s for s in savings(made) if s.code == "shorter-awake")
            self.assertEqual((shorter.kind, cost in shorter.side_effect), (kind, True))
        self.assertNotIn("lock", codes(design(day={"rest": "asleep", "sessions": sessions[:1]})))

    def test_two_events_of_one_name_have_a_measure_each(self) -> None:
        wakes = [{"name": "Wake", "mode": "awake", "every_s": 600, "awake_s": seconds} for seconds in (4, 8)]
        gadget = self.waking(day={"rest": "asleep", "wakes": wakes})
        self.assertEqual([w.id for w in gadget.day.wakes], ["wake", "wake-2"])
        found = {s.key: s for s in savings(gadget) if s.code == "shorter-awake"}
        self.assertEqual(
            [w.awake_s for w in apply(gadget, found["shorter-awake:wake:wake-2"].remedy).day.wakes], [4, 4]
        )

    def test_a_way_out_of_a_finding_is_the_saving_of_the_same_name(self) -> None:
        """Where both offer the same thing, the same edit comes of both."""
        parts = [part("chip", state("sleep", 1e-5), state("active", 0.05), kind="controller"), lamp(),
                 part("radio", state("off", 1e-6), state("idle", 1e-3), kind="radio", switchable=False),
                 part("panel", state("dark", 0), state("low", 0.02), state("full", 0.4), kind="display")]  # fmt: skip
        modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep"), use("led", "lit"), use("radio", "idle")]},
                 {"id": "awake", "name": "Awake", "uses": [use("chip", "active"), use("panel", "full")]}]  # fmt: skip
        day = {
            "rest": "asleep",
            "sessions": [{"name": "In the bag", "mode": "awake", "seconds": 30, "per_day": 5, "why": "accident"}],
            "wakes": [{"name": "Look", "mode": "awake", "every_s": 600, "awake_s": 4}],
        }
        gadget = design(parts=parts, modes=modes, day=day)
        judged, gained = Judged.of(gadget, built_in()), {(s.code, s.title): s for s in savings(gadget)}
        pairs = {"accidental-wakes": "lock", "always-on": "cut-in-sleep", "seconds-awake": "shorter-awake", "display": "dim",
                 "indicator-led": "dark-in-sleep"}  # fmt: skip
        for code, saving in pairs.items():
            with self.subTest(code):
                found = next(f for f in judged.found if f.code == code)
                assert found.ways is not None
                way = next(iter(found.ways()))
                assert way is not None
                self.assertEqual(apply(gadget, way), apply(gadget, gained[saving, way.label].remedy))

    def test_lights_dim_and_take_turns(self) -> None:
        parts = [part("chip", state("sleep", 1e-5), state("active", 0.01), kind="controller"),
                 part("bars", state("off", 0), state("low", 0.02), state("full", 0.1), kind="light", quantity=2)]  # fmt: skip
        modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep"), use("bars", "off")]},
                 {"id": "awake", "name": "Awake", "uses": [use("chip", "active"), use("bars", "full")]}]  # fmt: skip
        self.assertLessEqual({"dim", "alternate"}, codes(design(parts=parts, modes=modes)))

    def test_another_converter_or_none(self) -> None:
        thirsty = LINEAR | {"quiescent_a": 5e-3}
        parts = [
            part(
                "chip",
                state("sleep", 1e-5),
                state("active", 0.01),
                kind="controller",
                supply_absolute_max_v=5.5,
                supply_min_v=2,
            )
        ]
        gadget = design(
            parts=parts, supply={"stages": [thirsty], "rails": [{"id": "main", "name": "Main", "feed": "reg"}]}
        )
        self.assertLessEqual({"other-converter", "no-converter"}, codes(gadget))

    def test_no_converter_that_cannot_reach_the_voltage(self) -> None:
        gadget = read_design(next(p for p in DEMO if p.name == "snow-stake.json").read_bytes())
        titles = " ".join(s.title for s in savings(gadget) if s.code == "other-converter")
        self.assertNotIn("Linear regulator 5 V", titles)

    def with_a_stage(self, **more: Any) -> Design:
        """A sensor behind a boost of its own that is not asked for anything while the gadget sleeps."""
        boost = {"type": "switching", "id": "boost", "name": "Boost", "topology": "boost", "input": "battery", "output_v": 5.0,
                 "quiescent_a": 1e-3, "limit_a": 0.5, "enable": True, "load_disconnect": True, "undervoltage_lockout_v": 2,
                 "points": [{"current_a": 0.1, "efficiency": 0.9, "input_v": 3.7}]} | more  # fmt: skip
        rails = [{"id": "main", "name": "Main", "feed": "battery"}, {"id": "five", "name": "Five", "feed": "boost"}]
        parts = [part("chip", state("sleep", 1e-5), state("active", 0.05), kind="controller"),
                 part("sensor", state("idle", 1e-6), state("on", 0.02), rail="five")]  # fmt: skip
        modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep"), use("sensor", "idle")]},
                 {"id": "awake", "name": "Awake", "uses": [use("chip", "active"), use("sensor", "on")]}]  # fmt: skip
        return design(parts=parts, modes=modes, supply={"stages": [boost], "rails": rails})

    def test_a_stage_is_off_while_all_that_hangs_on_it_is_idle(self) -> None:
        gadget = self.with_a_stage()
        saving = next(s for s in savings(gadget) if s.code == "rail-off")
        found = next(f for f in Judged.of(gadget, built_in()).found if f.code == "stage-at-rest")
        assert found.ways is not None
        ways = [w for w in found.ways() if w is not None and w.label == saving.title]
        after = apply(gadget, saving.remedy)
        self.assertEqual([apply(gadget, w) for w in ways], [after])
        self.assertEqual(after.modes[0].off_stages, ["boost"])
        self.assertEqual([u.part for u in after.modes[0].uses], ["chip"])
        self.assertEqual(after.modes[1], gadget.modes[1])
        self.assertGreater(saving.gained.value or 0, 0)
        self.assertFalse([s for s in savings(after) if s.code == "rail-off"])

    def test_two_idle_parts_leave_the_mode_together(self) -> None:
        document = self.with_a_stage().model_dump(mode="json")
        document["parts"].append(document["parts"][1] | {"id": "second", "name": "Second"})
        for mode, state_name in zip(document["modes"], ("idle", "on"), strict=True):
            mode["uses"].insert(0, mode["uses"][1] | {"part": "second", "state": state_name})
        gadget = build_design(document)
        measure = rail_off(TrialBench(gadget, built_in()), 0)
        remedy = measure.remedy(gadget) if measure else None
        assert remedy
        self.assertEqual([u.part for u in apply(gadget, remedy).modes[0].uses], ["chip"])

    def test_a_stage_stays_on_without_an_enable_input_or_with_the_controller_behind_it(self) -> None:
        self.assertNotIn("rail-off", codes(self.with_a_stage(enable=False)))
        behind = self.with_a_stage().model_dump(mode="json")
        behind["parts"][0]["rail"] = "five"
        behind["parts"][1]["rail"] = "main"
        self.assertNotIn("rail-off", codes(build_design(behind)))

    def test_what_a_stage_lets_through_when_off_is_still_there(self) -> None:
        gadget = self.with_a_stage(load_disconnect=False)
        measure = rail_off(TrialBench(gadget, built_in()), 0)
        remedy = measure.remedy(gadget) if measure else None
        assert remedy
        after = apply(gadget, remedy)
        self.assertEqual([u.part for u in after.modes[0].uses], ["chip", "sensor"])

    def test_an_unknown_lever_is_refused_by_name(self) -> None:
        with self.assertRaises(DocumentError) as caught:
            stack_savings(TrialBench(design(), built_in()), ["made-up:1"])
        self.assertIn("made-up:1", caught.exception.problems[0].message)

    def test_nothing_drawn_nothing_saved(self) -> None:
        empty = design(parts=[], modes=[{"id": "asleep", "name": "Asleep", "uses": []}], day={"rest": "asleep"})
        self.assertEqual(savings(empty), [])


if __name__ == "__main__":
    unittest.main()
