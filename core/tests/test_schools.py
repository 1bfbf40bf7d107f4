"""Six supplies side by side: what is promised of each is what its design shows, nothing but the supply changes, and who is to blame where one can't work."""

from __future__ import annotations

import ast
import inspect
import json
import unittest
from dataclasses import replace
from functools import cache
from importlib import import_module
from pathlib import Path
from typing import Any
from unittest.mock import patch

from ember_core import Design, build_design, evaluate, read_design
from ember_core.catalogue import built_in
from ember_core.findings import CHECKS, CHECKS_BUT_OF_FIT
from ember_core.measures.bench import TrialBench
from ember_core.runtime.uncertainty import LEAST_SAMPLES, sample_runtime
from ember_core.schools import SCHOOLS, SchoolAnswer, answer_schools, school_of
from ember_core.schools.answer import OF_A_SUPPLY, SURE, _best, _judged, _Try, _yearly
from ember_core.schools.packs import PackChoice, belongs, over_mm, packs_of
from ember_core.schools.supplied import on_pack

from .gadgets import cell, design, part, state, use
from .randoms import random_design, sweep

DEMO = Path(__file__).resolve().parents[2] / "demo"
DEMOS = {
    "rosin-minder": "cells",
    "tarn-light": "cells",
    "rosin-minder-rechargeable": "pouch",
    "dusk-ear": "pouch",
    "snow-stake": "swap",
}

AAA = [PackChoice(c, 1) for c in built_in().cells if c.name.startswith("AAA alkaline")]


def demo(name: str) -> Design:
    return read_design((DEMO / f"{name}.json").read_bytes())


@cache
def answers(name: str) -> dict[str, SchoolAnswer]:
    return {a.key: a for a in answer_schools(TrialBench(demo(name), built_in()))}


def asked(gadget: Design) -> dict[str, SchoolAnswer]:
    return {a.key: a for a in answer_schools(TrialBench(gadget, built_in()))}


def sleeper(
    sleep_a: float, awake_a: float, *, per_day: float = 96, seconds: float = 2, goal_h: float = 1000, **more: Any
) -> Design:
    """One part that sleeps and wakes, straight on its battery."""
    chip = part("chip", state("sleep", sleep_a), state("on", awake_a), name="Chip", supply_min_v=1.8, **more)
    return design(
        parts=[chip],
        modes=[{"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep")]}, {"id": "awake", "name": "Awake", "uses": [use("chip", "on")]}],
        day={"rest": "asleep", "sessions": [{"name": "Use", "mode": "awake", "seconds": seconds, "per_day": per_day}]},
        supply={"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]},
        battery={"cell": cell(), "wiring_ohm": 0},
        enclosure={"outer_mm": [120, 160, 60]},
        brief={"goal_h": goal_h, "coldest_c": 20, "usual_c": 20, "hottest_c": 30},
    )  # fmt: skip


class Promises(unittest.TestCase):
    def test_the_six_stand_in_their_order_and_one_of_them_is_now(self) -> None:
        for name, present in DEMOS.items():
            found = answers(name)
            self.assertEqual(list(found), list(SCHOOLS))
            self.assertEqual([k for k, a in found.items() if a.now], [present], name)
            self.assertEqual(school_of(demo(name), built_in()), present)
            self.assertEqual(found[present].design, demo(name))

    def test_what_is_said_is_what_the_variant_shows(self) -> None:
        shown = 0
        for name in DEMOS:
            for key, answer in answers(name).items():
                if answer.design is None:
                    continue
                kept = build_design(json.loads(answer.design.model_dump_json()))
                result = evaluate(kept)
                assert answer.runtime is not None
                self.assertEqual(answer.runtime.value, result.runtime.total.value, (name, key))
                self.assertEqual(answer.runtime.low, result.runtime.total.low)
                self.assertEqual(
                    [(v.key, v.status, v.word) for v in answer.verdicts],
                    [(v.key, v.status, v.word) for v in result.verdicts],
                )
                bad = [f for f in result.findings if f.severity in ("stop", "fix") and f.step in OF_A_SUPPLY]
                goal = kept.brief.goal_h
                lasts = goal is None or (answer.runtime.value or 0) >= goal
                self.assertEqual(answer.works, not bad and lasts, (name, key))
                wrong = [f for f in result.findings if f.severity in ("stop", "fix")]
                sure = answer.works and not wrong and (goal is None or (answer.runtime.low or 0) >= goal)
                self.assertEqual(answer.blame == "", sure, (name, key))
                self.assertTrue(answer.status != "pass" or sure)
                self.assertTrue(
                    not wrong or any(f.title in answer.blame for f in wrong) or answer.blame.startswith("It lasts"),
                    (name, key),
                )
                shown += 1
        self.assertGreater(shown, 15)

    def test_a_pass_is_a_pass(self) -> None:
        for name in DEMOS:
            for answer in answers(name).values():
                if answer.status == "pass":
                    assert answer.closes is not None
                    self.assertEqual((answer.closes.status, answer.blame, answer.works), ("pass", "", True))
                if answer.design is None:
                    self.assertEqual((answer.status, answer.works), ("fail", False))
                    self.assertTrue(answer.blame)

    def test_parts_modes_day_and_brief_are_as_they_were(self) -> None:
        for name in DEMOS:
            before = demo(name)
            for answer in answers(name).values():
                after = answer.design
                if after is None:
                    continue
                self.assertEqual(
                    [p.model_copy(update={"body": None}) for p in after.parts],
                    [p.model_copy(update={"body": None}) for p in before.parts],
                )
                self.assertEqual(
                    [m.model_copy(update={"off_stages": []}) for m in after.modes],
                    [m.model_copy(update={"off_stages": []}) for m in before.modes],
                )
                self.assertEqual(
                    (after.day, after.brief, after.enclosure, after.name),
                    (before.day, before.brief, before.enclosure, before.name),
                )
                self.assertEqual(
                    [(r.id, r.name) for r in after.supply.rails], [(r.id, r.name) for r in before.supply.rails]
                )
                self.assertTrue(
                    {s.id for s in before.supply.stages} <= {s.id for s in after.supply.stages}, (name, answer.key)
                )

    def test_each_is_of_its_school(self) -> None:
        for name in DEMOS:
            for key, answer in answers(name).items():
                if answer.design is None or answer.now:
                    continue
                self.assertTrue(belongs(answer.design.battery.cell, key), (name, key))
                self.assertEqual(answer.design.charger is not None, key in ("pouch", "module", "board"), (name, key))
                if key != "board":  # a bare charger on a board has no name of its own
                    self.assertEqual(school_of(answer.design, built_in()), key)

    def test_at_random_nothing_breaks(self) -> None:
        for seed in sweep(2, 50):
            gadget = random_design(4400 + seed)
            for answer in asked(gadget).values():
                self.assertTrue(answer.design is not None or answer.blame)
                if answer.design is not None:
                    build_design(json.loads(answer.design.model_dump_json()))


class Tries(unittest.TestCase):
    """What decides between packs that were tried."""

    def test_within_a_goal_and_four_tenths_more_the_median_counts_beyond_the_run_itself(self) -> None:
        bench = TrialBench(demo("tarn-light"), built_in())
        hours = bench.coldest.seconds / 3600
        median = sample_runtime(bench.coldest, LEAST_SAMPLES).median / 3600
        self.assertNotAlmostEqual(hours, median, places=3)
        for times, told in ((0.9, median), (SURE - 1e-6, median), (SURE + 1e-6, hours), (9.0, hours)):
            made = _judged(AAA[0], bench, hours / times)
            self.assertEqual(made.hours, told)
            self.assertEqual(made.short, told < hours / times)

    def test_a_run_of_that_much_more_reaches_the_goal_by_its_median(self) -> None:
        """At random: of 86 gadgets that run for more than a minute the least median was 0.84 of the run."""
        looked = 0
        for seed in sweep(8, 120):
            coldest = TrialBench(random_design(9100 + seed), built_in()).coldest
            if coldest.seconds > 60:
                looked += 1
                self.assertGreater(sample_runtime(coldest, LEAST_SAMPLES).median * SURE, coldest.seconds, seed)
        self.assertGreater(looked, 2)

    def test_what_does_not_run_is_the_last_choice_also_without_a_goal(self) -> None:
        """0.4 A through 20 ohm are 8 V: nothing runs on 3.7 V. At 0.4 mA they are 8 mV."""
        weak = {"cell": cell(resistance_ohm=20.0), "wiring_ohm": 0}
        dead, alive = (
            _judged(AAA[0], TrialBench(design(parts=[part("chip", state("sleep", a), state("active", a))], battery=weak), built_in()), 0.0)
            for a in (0.4, 4e-4)
        )  # fmt: skip
        self.assertEqual((dead.hours, dead.bad, dead.short, dead.works), (0.0, True, True, False))
        self.assertEqual((alive.short, alive.hours > 0), (False, True))
        self.assertLess(alive.rank, dead.rank)

    def test_of_packs_that_work_the_lightest_pack_counts_and_not_the_lightest_cell(self) -> None:
        """Three cells of 8 g are more than one of 15 g, two are not quite as much as one of 17 g."""
        bench = TrialBench(demo("tarn-light"), built_in())

        def one(grams: float, series: int, **more: Any) -> _Try:
            pack = replace(AAA[0], cell=AAA[0].cell.model_copy(update={"mass_g": grams}), series=series)
            return replace(_Try(pack, bench, bad=False, hours=10.0, short=False), **more)

        self.assertLess(one(15, 1).rank, one(8, 3).rank)
        self.assertLess(one(8, 2).rank, one(17, 1).rank)
        self.assertLess(one(99, 1).rank, one(1, 1, bad=True).rank)
        self.assertLess(one(1, 1, bad=True).rank, one(1, 1, short=True).rank)
        self.assertLess(one(9, 1, short=True, hours=9.0).rank, one(1, 1, short=True, hours=8.0).rank)

    def test_no_pack_heavier_than_one_that_works_is_tried(self) -> None:
        tried: list[tuple[bool, float]] = []

        def seen(pack: PackChoice, bench: TrialBench, goal_h: float) -> _Try:
            made = _judged(pack, bench, goal_h)
            tried.append((made.works, pack.mass_g))
            return made

        total = 0
        for name in ("rosin-minder", "tarn-light-aaa", "dusk-ear"):
            bench = TrialBench(demo(name), built_in())
            for key in SCHOOLS:
                tried.clear()
                with patch("ember_core.schools.answer._judged", seen):
                    _best(bench, key)
                for position, (_, grams) in enumerate(tried):
                    before = [g for works, g in tried[:position] if works]
                    self.assertTrue(all(grams < g for g in before), (name, key, tried))
                    total += len(before)
        self.assertGreater(total, 0)

    def test_what_fails_on_a_small_pack_and_works_on_a_larger_one_works(self) -> None:
        """What is told to work was judged whole: nothing of supply, battery or charge says stop or fix, and it reaches its goal."""
        for seed, ah in ((0, 0.1), (12, 0.1)):
            bench = TrialBench(random_design(4400 + seed), built_in())
            with patch("ember_core.schools.answer.MOST_LARGER", 0):
                small = next(a for a in answer_schools(bench) if a.key == "pouch")
            large = next(a for a in answer_schools(bench) if a.key == "pouch")
            self.assertEqual((small.works, large.works), (False, True))
            assert small.design is not None and large.design is not None
            self.assertLess(small.design.battery.cell.capacity_ah, ah)
            self.assertGreaterEqual(large.design.battery.cell.capacity_ah, 2 * small.design.battery.cell.capacity_ah)
            result = evaluate(large.design)
            self.assertEqual(
                [f.code for f in result.findings if f.severity in ("stop", "fix") and f.step in OF_A_SUPPLY], []
            )
            self.assertGreaterEqual(result.runtime.total.value or 0, large.design.brief.goal_h or 0)


class Findings(unittest.TestCase):
    def test_what_is_left_out_of_a_try_says_nothing_of_the_supply(self) -> None:
        """What the checks that no school is held against yield is of the fit, as their code says of each."""
        left_out = {check.__module__ for check in CHECKS if check not in CHECKS_BUT_OF_FIT}
        steps = [
            ast.unparse(given.value)
            for module in left_out
            for call in ast.walk(ast.parse(inspect.getsource(import_module(module))))
            if isinstance(call, ast.Call) and ast.unparse(call.func) == "Found"
            for given in call.keywords
            if given.arg == "step"
        ]
        self.assertGreater(len(steps), 35)
        self.assertEqual(set(steps), {"'fit'"})


class ByHand(unittest.TestCase):
    def test_years_of_microamperes_want_cells_and_no_bank(self) -> None:
        """3 µA and 2 mA for 2 s 96 times a day: 3 + 2000 * 192 / 86400 = 7.4 µA. Three years are 196 mAh; a bank goes off below its least load."""
        found = asked(sleeper(3e-6, 2e-3, goal_h=3 * 8766))
        self.assertTrue(found["cells"].works, found["cells"].blame)
        self.assertGreaterEqual(found["cells"].runtime.value or 0, 3 * 8766)  # type: ignore[union-attr]
        self.assertFalse(found["bank"].works)
        self.assertIn("switches itself off", found["bank"].blame)
        assert found["cells"].design is not None
        self.assertGreater(found["cells"].design.battery.cell.capacity_ah, 0.196)

    def test_a_heavy_day_wants_what_is_charged(self) -> None:
        """300 mA for three hours a day is 0.9 Ah: a week of it, 6.3 Ah at about 3.7 V, are 23 Wh, of one lithium cell no less than 6.3 Ah."""
        found = asked(sleeper(10e-6, 0.3, per_day=3, seconds=3600, goal_h=168))
        pouch = found["pouch"]
        self.assertTrue(pouch.works, pouch.blame)
        assert pouch.design is not None
        assert pouch.design.charger is not None
        self.assertGreaterEqual(pouch.design.battery.cell.capacity_ah, 6.3)

    def test_a_part_of_three_volts_is_not_put_straight_on_a_lithium_cell(self) -> None:
        for stands, straight in ((6.0, True), (3.6, False)):
            found = asked(sleeper(1e-6, 5e-3, goal_h=500, supply_absolute_max_v=stands))
            pouch = found["pouch"].design
            assert pouch is not None
            self.assertEqual(pouch.supply.rails[0].feed == "battery", straight, stands)

    def test_a_board_input_is_one_that_takes_a_whole_lithium_cell(self) -> None:
        for least, most, able in ((1.8, 5.5, True), (1.8, 4.2, False), (3.6, 5.5, False)):
            gadget = sleeper(1e-6, 5e-3, goal_h=500, supply_absolute_max_v=most, kind="controller")
            raw = gadget.model_dump(mode="json")
            raw["parts"][0]["supply_min_v"] = least
            board = asked(build_design(raw))["board"]
            self.assertEqual(board.design is not None, able, (least, most, board.blame))
            if not able:
                self.assertIn("No controller has an input for a lithium cell", board.blame)

    def test_by_how_much_nothing_goes_in(self) -> None:
        """A bank of 24 x 95 x 24 mm wants 29 x 100 x 29 mm of a case."""
        for long, out in ((100.0, False), (99.0, True)):
            raw = sleeper(0.08, 0.1, goal_h=10).model_dump(mode="json")
            raw["enclosure"]["outer_mm"] = [29.5, long, 29.5]
            bank = asked(build_design(raw))["bank"]
            self.assertEqual("1 mm too large" in bank.blame.replace("\u00a0", " "), out, bank.blame)

    def test_too_large_is_measured_as_it_lies_best(self) -> None:
        pack = next(p for p in packs_of(built_in(), "cells") if p.cell.name.startswith("D ") or "LR20" in p.cell.name)
        a, b, c = sorted(pack.size_mm)
        self.assertAlmostEqual(over_mm(pack, (c + 5, a + 5, b + 5)), 0)
        self.assertAlmostEqual(over_mm(pack, (c + 3, a + 5, b + 5)), 2)

    def test_cells_wear_out_by_their_charges_or_by_their_age(self) -> None:
        """Charged 1,000 times a year at 500 that it stands are two sets; once in three years a cell is old after eight. Both meet at 62.5 a year."""
        raw = sleeper(1e-5, 0.01).model_dump(mode="json")
        raw["battery"]["cell"] |= {"chemistry": "lithium-ion", "form": "pouch", "cost": 6.0}
        worn = build_design(raw)
        result = evaluate(worn)
        for hours, sets in ((8.766, 2.0), (3 * 8766.0, 1 / 8), (8766 / 62.0, 1 / 8), (8766 / 63.0, 63 / 500)):
            total = replace(result.runtime.total, value=hours)
            yearly = _yearly(worn, replace(result, runtime=replace(result.runtime, total=total)))
            assert yearly is not None
            self.assertAlmostEqual(yearly.value or 0, 6.0 * sets, places=6)

    def test_a_bank_that_switches_itself_off_wears_by_nothing_and_one_that_stays_on_does(self) -> None:
        """It is dead after half a minute with its charge left: a million of those a year would not be a million charges."""
        for amps, costs in ((1e-5, False), (0.5, True)):
            gadget = on_pack(sleeper(amps, amps), next(p for p in packs_of(built_in(), "bank") if p.cell.bank))
            result = evaluate(gadget)
            off = any(f.code == "switches-off" for f in result.findings)
            self.assertEqual((off, _yearly(gadget, result) is not None), (not costs, costs))

    def test_lithium_cells_get_a_guard_and_others_none(self) -> None:
        gadget = sleeper(1e-6, 1e-3)
        for school, guarded in (("pouch", True), ("cells", False), ("bank", False)):
            pack = packs_of(built_in(), school)[-1]  # type: ignore[arg-type]
            self.assertEqual(on_pack(gadget, pack).battery.protection is not None, guarded, pack.cell.name)


if __name__ == "__main__":
    unittest.main()
