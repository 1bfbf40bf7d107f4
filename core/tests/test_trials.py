"""What may be offered: a changed design that breaks nothing; what gets worse is said."""

from __future__ import annotations

import unittest
from typing import Any

from ember_core import Design
from ember_core.catalogue import built_in
from ember_core.design.patches import add, replace
from ember_core.figures import PatchOperation, Remedy, Severity
from ember_core.findings import Found
from ember_core.studies.judging import Judged
from ember_core.studies.trials import _told, hold, subject, tried, ways_out

from .gadgets import LINEAR, cell, design, part, plain, state, use

MAIN = [{"id": "main", "name": "Main", "feed": "reg"}]
BRIEF = {"goal_h": 100, "coldest_c": 25, "usual_c": 25, "hottest_c": 25}


def judged(**more: Any) -> Judged:
    return Judged.of(design(**more), built_in())


def remedy(*patch: PatchOperation) -> Remedy:
    return Remedy(label="Try it", patch=list(patch))


def _standing(before: Judged, severity: Severity) -> Found:
    """A finding that stands before and is gone with any change."""
    made_up = Found(f"made-up-{severity}", severity, "brief", "/brief", "Made up", "It is so.")
    before.found.append(made_up)
    return made_up


class Holding(unittest.TestCase):
    def test_what_is_no_design_is_not_offered(self) -> None:
        self.assertIsNone(hold(judged(), remedy(replace("/battery/series", 99))))
        self.assertIsNone(hold(judged(), remedy(replace("/nowhere/at/all", 1))))

    def test_what_breaks_a_mode_is_not_offered(self) -> None:
        self.assertIsNone(hold(judged(), remedy(replace("/supply/stages/0/limit_a", 0.09))))
        self.assertIsNotNone(hold(judged(), remedy(replace("/supply/stages/0/limit_a", 0.11))))

    def test_a_mode_that_may_fail_is_not_broken_either(self) -> None:
        modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep")]},
                 {"id": "awake", "name": "Awake", "essential": False, "uses": [use("chip", "active")]}]  # fmt: skip
        self.assertIsNone(hold(judged(modes=modes), remedy(replace("/supply/stages/0/limit_a", 0.09))))

    def test_a_finding_that_asks_for_a_longer_runtime_is_told_unless_the_runtime_is_longer(self) -> None:
        """Waking every 5 s is no harm where the same change makes up for it, and harm where it does not."""
        wake = add("/day/wakes/-", {"name": "Look", "mode": "awake", "every_s": 5, "awake_s": 1})
        before = judged(day={"rest": "asleep", "wakes": []})
        worse = tried(before, remedy(wake))
        assert worse
        self.assertLess(worse.after.bench.runtime_s, before.bench.runtime_s)
        told = {f.title for f in worse.after.found if f.lengthens}
        self.assertTrue(told)
        self.assertTrue(all(any(t in w for w in [*worse.bars, *worse.worse]) for t in told))
        larger = tried(
            before, remedy(wake, replace("/battery/cell/measured_ah", 100), replace("/battery/cell/capacity_ah", 100))
        )
        assert larger
        self.assertGreater(larger.after.bench.runtime_s, before.bench.runtime_s)
        self.assertFalse([w for w in [*larger.bars, *larger.worse] if any(t in w for t in told)])

    def test_what_adds_a_collision_is_not_offered(self) -> None:
        body = {"size_mm": [10, 10, 3], "position_mm": [10, 10, 5]}
        chips = [
            part("a", state("on", 1e-3), body=body),
            part("b", state("on", 1e-3), body=body | {"position_mm": [30, 10, 5]}),
        ]
        modes = [{"id": "asleep", "name": "Asleep", "uses": [use("a", "on"), use("b", "on")]}]
        before = judged(parts=chips, modes=modes, day={"rest": "asleep"})
        self.assertIsNone(hold(before, remedy(replace("/parts/1/body/position_mm", [15, 10, 5]))))
        close = hold(before, remedy(replace("/parts/1/body/position_mm", [20.2, 10, 5])))
        assert close
        self.assertTrue(any("too close" in w for w in close.worse))
        self.assertIn("But: ", close.remedy.outcome)

    def test_what_takes_longer_than_the_brief_wants_is_not_offered_unless_it_ends_a_danger(self) -> None:
        charger = {"name": "C", "program_constant_v": 1000, "program_ohm": 1100, "port_limit_a": 2, "rth_ja_c_per_w": 2}
        before = judged(charger=charger, brief=BRIEF | {"charge_max_h": 1.6})
        slower = remedy(replace("/charger/program_ohm", 3000))
        self.assertIsNone(hold(before, slower))
        self.assertIsNone(hold(before, slower, settles=_standing(before, "fix")))
        said = hold(before, slower, settles=_standing(before, "stop"))
        assert said
        self.assertIn("The charge takes too long.", said.worse)

    def test_a_new_stop_is_never_offered(self) -> None:
        chip = part("chip", state("sleep", 1e-3), state("active", 0.1), supply_absolute_max_v=3.6)
        before = judged(parts=[chip])
        straight = remedy(replace("/supply/rails/0/feed", "battery"))
        self.assertIsNone(hold(before, straight, settles=_standing(before, "stop")))

    def test_the_figures_that_change_are_said_and_are_those_of_the_changed_design(self) -> None:
        before = judged()
        held = hold(
            before, remedy(replace("/parts/0/states/0/draw/current_a", {"typical": 5e-4, "min": 5e-4, "max": 5e-4}))
        )
        assert held and held.remedy.runtime
        self.assertEqual(held.remedy.runtime.value, held.after.bench.runtime_s / 3600)
        self.assertIn("The runtime is then", held.remedy.outcome)
        same = hold(before, remedy(replace("/name", "Another name")))
        assert same
        self.assertIn("The runtime stays", same.remedy.outcome)
        self.assertEqual(same.worse, [])

    def test_a_verdict_that_gets_worse_is_said(self) -> None:
        before = judged(brief=BRIEF | {"mass_max_g": 130})
        heavy = hold(before, remedy(replace("/battery/cell/mass_g", 120)))
        assert heavy
        self.assertIn("Mass: over the brief.", heavy.worse)

    def test_what_only_wants_a_longer_runtime_is_no_harm_beside_one(self) -> None:
        """Without the bridge a regulator takes a larger share of what is left; that is no harm done."""
        parts = [
            part("chip", state("sleep", 9e-5), state("active", 0.05), kind="controller"),
            part("bridge", state("on", 0.004), parasitic=True),
        ]
        modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep"), use("bridge", "on")]},
                 {"id": "awake", "name": "Awake", "uses": [use("chip", "active"), use("bridge", "on")]}]  # fmt: skip
        before = judged(parts=parts, modes=modes, supply={"stages": [LINEAR | {"quiescent_a": 5e-5}], "rails": MAIN})
        found = next(f for f in before.found if f.code == "parasitic")
        way = ways_out(before, found)
        assert way
        self.assertNotIn("But:", way.outcome)


class Ways(unittest.TestCase):
    def finding(self, before: Judged, *ways: Remedy, lengthens: bool = False) -> Found:
        own = next(f for f in before.found if f.code == "float-voltage")
        return Found(own.code, own.severity, own.step, own.where, own.facts, lambda: ways, lengthens)

    def overcharged(self) -> Judged:
        charger = {
            "name": "C",
            "program_constant_v": 1000,
            "program_ohm": 4000,
            "float_v_per_cell": 4.4,
            "rth_ja_c_per_w": 2,
        }
        return judged(charger=charger, brief=BRIEF | {"mass_max_g": 130}, battery={"cell": cell(), "wiring_ohm": 0})

    def test_only_what_settles_it_is_offered(self) -> None:
        before = self.overcharged()
        useless = remedy(replace("/name", "Another"))
        self.assertIsNone(ways_out(before, self.finding(before, useless)))
        right = remedy(replace("/charger/float_v_per_cell", 4.2))
        self.assertEqual(ways_out(before, self.finding(before, useless, right)).patch, right.patch)  # type: ignore[union-attr]

    def test_a_clean_way_goes_before_one_that_makes_something_worse(self) -> None:
        before = self.overcharged()
        heavy = remedy(replace("/charger/float_v_per_cell", 4.2), replace("/battery/cell/mass_g", 120))
        clean = remedy(replace("/charger/float_v_per_cell", 4.2))
        self.assertEqual(ways_out(before, self.finding(before, heavy, clean)).patch, clean.patch)  # type: ignore[union-attr]
        said = ways_out(before, self.finding(before, heavy))
        assert said
        self.assertIn("Mass: over the brief", said.outcome)

    def test_what_promises_a_longer_runtime_has_to_bring_it(self) -> None:
        before = self.overcharged()
        shorter = remedy(
            replace("/charger/float_v_per_cell", 4.2),
            replace("/parts/0/states/0/draw/current_a", {"typical": 2e-3, "min": None, "max": None}),
        )
        self.assertIsNone(ways_out(before, self.finding(before, shorter, lengthens=True)))


class Subjects(unittest.TestCase):
    def test_a_thing_keeps_its_name_when_others_come_before_it(self) -> None:
        gadget: Design = design()
        self.assertEqual(subject(gadget, "/parts/0"), "parts/chip")
        self.assertEqual(subject(gadget, "/supply/stages/0/limit_a"), "supply/stages/reg/limit_a")
        self.assertEqual(subject(gadget, "/modes/1"), "modes/awake")
        self.assertEqual(subject(gadget, "/day/sessions/0/seconds"), "day/sessions/use/seconds")
        self.assertEqual(subject(gadget, "/battery/cell"), "/battery/cell")
        self.assertEqual(subject(gadget, "/parts/7"), "parts/7")

    def test_an_added_part_is_no_new_trouble_of_the_others(self) -> None:
        before = judged(brief=BRIEF | {"goal_h": 1e5})
        more = part("second", state("sleep", 1e-9), state("active", 1e-9))
        held = hold(
            before,
            remedy(
                add("/parts/0", more),
                add("/modes/0/uses/-", use("second", "sleep")),
                add("/modes/1/uses/-", use("second", "sleep")),
            ),
        )
        assert held
        self.assertEqual([w for w in held.worse if "Capacity" in w], [])
        self.assertNotIn("But", plain(held.remedy.outcome))


class Told(unittest.TestCase):
    def test_each_kind_is_told_and_many_of_one_are_counted(self) -> None:
        def found(code: str, count: int) -> list[Found]:
            facts = [
                {"label": f"{code} {i}", "part": f"{code} {i}", "rail": f"Rail {i}", "mode": "m"} for i in range(count)
            ]
            return [Found(code, "fix", "fit", "/x", f) for f in facts]

        one, other = "no-way-through", "no-source"
        three = [f"Nothing lets the wire of {one} {i} out." for i in range(3)]
        self.assertEqual(_told(found(one, 3)), three)
        self.assertEqual(_told(found(one, 4)), [*three[:2], "2 more like that."])
        two = [f"Rail {i} has no source while m." for i in range(2)]
        self.assertEqual(_told([*found(one, 3), *found(other, 5)]), [*three, *two, "3 more like that."])
