"""The best of all supplies: held against every supply of reduced catalogues solved one by one, what is promised against the design that is taken over."""

from __future__ import annotations

import random
import unittest
from dataclasses import dataclass
from functools import cache
from itertools import product
from pathlib import Path

import numpy as np

from ember_core import Design, DocumentError, evaluate, read_design
from ember_core.catalogue import Catalogue, built_in
from ember_core.choosing import AIMS, Aim, ChoiceRow, answer_choice, choice_shown, chosen_design
from ember_core.choosing.places import Added, Option, Place, groups_of
from ember_core.choosing.search import MOST_WAYS, SAME, Candidate, Search, TooMany, search
from ember_core.choosing.space import NONE, Space, space_of, taken_over
from ember_core.design import Cell, LinearStage, SwitchingStage
from ember_core.measures.bench import TrialBench
from ember_core.solved.gadget import SolvedGadget

from .gadgets import cell, design, part, state, use
from .randoms import random_design, sweep

DEMO = Path(__file__).resolve().parents[2] / "demo"
DEMOS = ("dusk-ear", "rosin-minder", "rosin-minder-rechargeable", "snow-stake", "tarn-light")
FREE = np.full(len(AIMS), np.inf)


def demo(name: str) -> Design:
    return read_design((DEMO / f"{name}.json").read_bytes())


def reduced(seed: int, *, cells: int = 5, stages: int = 5, chargers: int = 2) -> Catalogue:
    """Some cells, stages and chargers of the catalogue, and everything that is neither."""
    whole, draw = built_in(), random.Random(seed)

    def some(count: int, wanted: list[object]) -> set[int]:
        return {id(x) for x in draw.sample(wanted, min(count, len(wanted)))}

    kept = some(cells, list(whole.cells)) | some(
        stages, [s for s in whole.stages if isinstance(s, LinearStage | SwitchingStage)]
    )
    kept |= some(chargers, [e.charger for e in whole.entries if e.charger is not None])
    entries = [
        e for e in whole.entries
        if not any((e.cell, e.stage, e.charger)) or id(e.cell) in kept or id(e.stage) in kept or id(e.charger) in kept
    ]  # fmt: skip
    return Catalogue(entries)


@dataclass(frozen=True)
class One:
    """A supply that was taken over and solved as a gadget of its own."""

    refill: str
    seconds: float
    statics: np.ndarray


def all_of(bench: TrialBench, space: Space) -> list[One]:
    """Every supply of a space that works, each as a design of its own, by what `out_of` asks for, written anew."""
    found = []
    for pack in space.packs:
        for charger in pack.chargers:
            for options in product(*(range(len(p.options)) for p in space.places)):
                if any(p.options[o].regulates_v > pack.half_v for p, o in zip(space.places, options, strict=True)):
                    continue
                try:
                    made = taken_over(bench, pack, charger, space.places, list(enumerate(options)))
                except DocumentError:
                    continue
                gadget = SolvedGadget(made)
                state = gadget.coldest
                broken = any(
                    f.charge >= 1 and m.essential and s > 0
                    for f, m, s in zip(state.failures, made.modes, state.shares, strict=True)
                )
                overvoltage = any(
                    p.supply_absolute_max_v is not None and v > p.supply_absolute_max_v
                    for p, v in zip(made.parts, gadget.highest_rail_v[state.rail_of], strict=True)
                ) or any(
                    s.input_max_v is not None and v > s.input_max_v
                    for s, v in zip(state.tree.stages, gadget.highest_input_v, strict=True)
                )
                if broken or overvoltage or state.bank_off or state.peak_a[0] > state.pack.discharge_max_a:
                    continue
                adds = (
                    pack.adds
                    + charger.adds
                    + sum((p.options[o].adds for p, o in zip(space.places, options, strict=True)), Added())
                )
                statics = np.array([adds.cost, adds.mass_g, adds.room_cm3, charger.hours])
                found.append(One(pack.refill, state.seconds, statics * [a in space.aims for a in AIMS]))
    return found


def beaten(one: One, front: list[Candidate], same: np.ndarray, within: float) -> bool:
    return any(
        c.pack.refill == one.refill
        and c.seconds >= one.seconds * (1 - within)
        and np.all(c.statics <= one.statics + 2 * same + 1e-9)
        for c in front
    )


class AgainstAll(unittest.TestCase):
    """No supply of a reduced catalogue is better than all of the front, by more than what counts as the same, met at most three times over."""

    def hold(self, gadget: Design, catalogue: Catalogue, aims: list[Aim]) -> int:
        bench = TrialBench(gadget, catalogue)
        space = space_of(bench, aims)
        every = all_of(bench, space)
        found = search(bench, space, FREE, lambda _: None)
        same = Search(bench, space, FREE, lambda _: None).same
        missed = [o for o in every if not beaten(o, found.front, same, 3 * SAME)]
        self.assertEqual(missed, [])
        for c in found.front:  # each is one of all, and none beats another
            self.assertTrue(
                any(abs(o.seconds / c.seconds - 1) < 1e-6 and np.allclose(o.statics, c.statics) for o in every),
                c.pack.name,
            )
        for a, b in product(found.front, repeat=2):
            strictly = a.seconds > b.seconds * (1 + 1e-9) and np.all(a.statics <= b.statics)
            self.assertFalse(a is not b and a.pack.refill == b.pack.refill and strictly)
        return len(every)

    def test_the_demos(self) -> None:
        for number, name in enumerate(DEMOS):
            for k in sweep(1, len(AIMS)):
                aim = AIMS[(number + k) % len(AIMS)]
                with self.subTest(name, aim=aim):
                    self.hold(demo(name), reduced(number, cells=3), [aim])

    def test_two_aims_at_once(self) -> None:
        self.assertGreater(self.hold(demo("tarn-light"), reduced(3), ["cost", "mass"]), 5)

    def test_random_gadgets_and_catalogues(self) -> None:
        looked_at = 0
        for seed in sweep(5, 100):
            with self.subTest(seed=seed):
                looked_at += self.hold(random_design(seed), reduced(seed, cells=4, stages=3, chargers=2), ["cost"])
        self.assertGreater(looked_at, 30)


@cache
def answered(name: str, aim: Aim):  # type: ignore[no-untyped-def]
    return answer_choice(TrialBench(demo(name), built_in()), [aim])


class WhatIsPromised(unittest.TestCase):
    def test_what_is_taken_over_is_what_was_said(self) -> None:
        for name in DEMOS[1:]:
            bench, answer = TrialBench(demo(name), built_in()), answered(name, "cost")
            for row in random.Random(1).sample(answer.rows, 3):
                with self.subTest(name, pack=row.pack):
                    taken = chosen_design(
                        bench, row.cell, row.series, row.parallel, row.charger, row.options, row.parts
                    )
                    assert taken.design is not None and taken.mass is not None and taken.cost is not None
                    self.assertAlmostEqual(
                        SolvedGadget(taken.design).coldest.seconds / 3600 / (row.runtime.value or 1), 1, places=9
                    )
                    self.assertEqual(
                        (taken.design.battery.cell.name, taken.design.battery.series), (row.cell, row.series)
                    )
                    whole = evaluate(taken.design).totals
                    self.assertAlmostEqual(
                        row.cost, whole.cost.value or 0, delta=0.51
                    )  # a resistor more or less on the bill
                    self.assertAlmostEqual(row.mass_g, whole.mass.value or 0, delta=0.6)
                    self.assertEqual([s.name for s in taken.design.parts], [p.name for p in bench.design.parts])

    def test_the_present_one_is_beaten_or_among_them(self) -> None:
        answer = answered("tarn-light", "cost")
        self.assertIn("lasts", answer.mine)
        better = [
            r
            for r in answer.rows
            if r.refill == "thrown"
            and r.cost <= answer.present.cost
            and (r.runtime.value or 0) > (answer.present.runtime.value or 0)
        ]
        self.assertTrue(better)

    def test_every_cell_is_in_a_row_or_has_its_reason(self) -> None:
        for name in DEMOS[1:]:
            answer = answered(name, "cost")
            told = {r.cell for r in answer.rows} | {c.name for c in answer.left_out}
            space = space_of(TrialBench(demo(name), built_in()), ["cost"])
            self.assertLessEqual({p.battery.cell.name for p in space.packs}, told)
            self.assertEqual({r.cell for r in answer.rows} & {c.name for c in answer.left_out}, set())
            self.assertTrue(all(c.reason for c in answer.left_out))

    def test_what_is_best_against_two_is_the_best_of_each_and_what_none_beats_in_both(self) -> None:
        for name in ("rosin-minder", "tarn-light"):
            bench = TrialBench(demo(name), built_in())
            both = answer_choice(bench, ["cost", "mass", "cost"], {"cost": 1e6})
            self.assertEqual(both.aims, ["cost", "mass"])

            def beats(a: ChoiceRow, b: ChoiceRow) -> bool:
                lasts, was = a.runtime.value or 0.0, b.runtime.value or 0.0
                return (
                    a.refill == b.refill and a.cost <= b.cost and a.mass_g <= b.mass_g and lasts > was * (1 + 2 * SAME)
                )

            for row in both.rows:
                self.assertFalse(any(beats(other, row) for other in both.rows if other is not row))
            for aim in ("cost", "mass"):
                one = answer_choice(bench, [aim], {"cost": 1e6})  # type: ignore[list-item]
                self.assertGreater(len(both.rows), len(one.rows))
                for row in one.rows:  # as long for as little is among both, but for what counts as the same
                    value, whole = (row.cost, both.present.cost) if aim == "cost" else (row.mass_g, both.present.mass_g)
                    long = [
                        r for r in both.rows
                        if r.refill == row.refill and (r.cost if aim == "cost" else r.mass_g) <= value + 1.1 * SAME * whole
                    ]  # fmt: skip
                    best = max((r.runtime.value or 0 for r in long), default=0.0)
                    self.assertGreaterEqual(best, (row.runtime.value or 0) * (1 - 2.5 * SAME), row.pack)
            reasons = {c.name: c.reason for c in both.left_out}
            for row in one.rows:  # what works in one number is beaten, not out
                if row.cell in reasons:
                    self.assertIn("all that counts", reasons[row.cell])

    def test_limits_are_kept_and_said_where_nothing_is_within(self) -> None:
        bench = TrialBench(demo("tarn-light"), built_in())
        free = answer_choice(bench, ["mass"], {"cost": 1e6})
        most = sorted(r.cost for r in free.rows)[len(free.rows) // 2]
        kept = answer_choice(bench, ["mass"], {"cost": most})
        self.assertTrue(kept.rows)
        self.assertLessEqual(max(r.cost for r in kept.rows), most + 1e-9)
        self.assertGreater(max(r.cost for r in free.rows), most)
        none = answer_choice(bench, ["mass"], {"cost": 0.01})
        self.assertIn("limits", none.note)
        self.assertTrue(none.rows)

    def test_the_limits_of_the_brief_count_where_none_are_given(self) -> None:
        gadget = demo("rosin-minder-rechargeable")
        slow = [
            r.hours for r in answer_choice(TrialBench(gadget, built_in()), ["cost"], {"hours": 1000}).rows if r.hours
        ]
        brief = gadget.brief.model_copy(update={"charge_max_h": 2.0})
        rows = answer_choice(TrialBench(gadget.model_copy(update={"brief": brief}), built_in()), ["cost"]).rows
        self.assertGreater(max(slow), 2)
        self.assertTrue(all(r.hours is None or r.hours <= 2 for r in rows))

    def test_as_text(self) -> None:
        text = choice_shown(answered("rosin-minder", "cost"))
        self.assertEqual(len(text.splitlines()), len(answered("rosin-minder", "cost").rows) + 1)


class ByHand(unittest.TestCase):
    """A part of 1 mA on a rail of its own: what lasts longest for the price is told by capacity over current."""

    def gadget(self, **more: object) -> Design:
        chip = part("chip", state("on", 1e-3), name="Chip", supply_min_v=2.0, supply_absolute_max_v=3.6)
        return design(
            parts=[chip],
            modes=[{"id": "on", "name": "On", "uses": [use("chip", "on")]}],
            day={"rest": "on", "sessions": []},
            supply={"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]},
            battery={"cell": cell(), "wiring_ohm": 0},
            enclosure={"outer_mm": [120, 160, 60]},
            brief={"coldest_c": 20, "usual_c": 20, "hottest_c": 30},
            **more,
        )  # fmt: skip

    def cells(self) -> Catalogue:
        kept = [
            e
            for e in built_in().entries
            if e.cell is not None
            and e.cell.name in ("AA alkaline (LR6)", "AAA alkaline (LR03)", "Cylinder CR123A, lithium 3 V")
        ]
        self.assertEqual(len(kept), 3)
        return Catalogue(kept)

    def test_two_of_each_and_nothing_that_the_part_does_not_stand(self) -> None:
        found = answer_choice(TrialBench(self.gadget(), self.cells()), ["cost"]).rows
        packs = {(r.cell, r.series) for r in found}
        self.assertIn(("AA alkaline (LR6)", 2), packs)
        self.assertTrue(
            all(series == 2 for name, series in packs if name.startswith("A")), packs
        )  # three are 4.8 V when fresh, one is too low
        self.assertTrue(all(series == 1 for name, series in packs if name.startswith("Cyl")), packs)
        for row in found:
            ah = next(e.cell.capacity_ah for e in self.cells().entries if e.cell and e.cell.name == row.cell)
            self.assertLess(abs((row.runtime.value or 0) / (ah * row.parallel / 1e-3) - 1), 0.45)

    def test_without_parts_it_says_so(self) -> None:
        empty = self.gadget().model_copy(update={"parts": []})
        empty = empty.model_copy(update={"modes": [m.model_copy(update={"uses": []}) for m in empty.modes]})
        answer = answer_choice(TrialBench(empty, built_in()), ["cost"])
        self.assertEqual((answer.rows, answer.left_out), ([], []))
        self.assertIn("put in a part", answer.note)

    def test_a_row_that_is_gone_is_refused(self) -> None:
        bench = TrialBench(self.gadget(), self.cells())
        for wrong in (
            ("No such cell", 1, 1, "", [""]),
            ("AA alkaline (LR6)", 2, 1, "", ["No such stage"]),
            ("AA alkaline (LR6)", 2, 1, "A charger", []),
        ):
            with self.assertRaises(DocumentError):
                chosen_design(bench, *wrong)  # type: ignore[arg-type]


class Spaces(unittest.TestCase):
    def test_places_that_hang_on_one_another_go_together(self) -> None:
        gadget = demo("snow-stake")
        places = space_of(TrialBench(gadget, built_in())).places
        self.assertEqual(groups_of(gadget, places), [[i] for i in range(len(places))])
        under = gadget.supply.stages[1].model_copy(update={"input": "boost"})
        chained = gadget.model_copy(
            update={
                "supply": gadget.supply.model_copy(
                    update={"stages": [gadget.supply.stages[0], gadget.supply.stages[2], under]}
                )
            }
        )
        own = [Place("Regulator", under.id, []), Place("Boost", "boost", [])]
        self.assertEqual(groups_of(chained, own), [[0, 1]])

    def test_too_many_ways_are_said(self) -> None:
        bench = TrialBench(demo("snow-stake"), built_in())
        space = space_of(bench)
        many = [Option("x", Added(), lambda d: d)] * (MOST_WAYS + 1)
        crowded = Space(space.bare, space.aims, space.packs[:1], [Place("Boost", "boost", many)], {})
        with self.assertRaises(TooMany) as caught:
            search(bench, crowded, FREE, lambda _: None)
        self.assertEqual((caught.exception.count, caught.exception.places), (MOST_WAYS + 1, ["Boost"]))

    def test_lithium_in_series_wants_a_charger_that_balances(self) -> None:
        for pack in space_of(TrialBench(demo("dusk-ear"), built_in())).packs:
            if pack.battery.series > 1 and pack.battery.cell.chemistry.startswith("lithium"):
                self.assertTrue(
                    all(c is NONE or (c.charger is not None and c.charger.balances) for c in pack.chargers), pack.name
                )

    def test_no_charger_gives_more_than_the_cells_take(self) -> None:
        looked_at = 0
        for pack in space_of(TrialBench(demo("dusk-ear"), built_in()), every_charger=True).packs:
            most: Cell = pack.battery.cell
            for way in pack.chargers:
                if way.charger is not None and most.charge_max_a is not None:
                    looked_at += 1
                    self.assertLessEqual(
                        way.charger.set_a, most.charge_max_a * pack.battery.parallel * (1 + 1e-6), pack.name
                    )
        self.assertGreater(looked_at, 200)


if __name__ == "__main__":
    unittest.main()
