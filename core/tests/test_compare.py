"""Designs beside each other: rows that differ where they do, findings gained and lost, and terms of the runtime that add up to the last digit."""

from __future__ import annotations

import unittest
from pathlib import Path

from ember_core import Design, DocumentError, build_design, evaluate, read_design
from ember_core.catalogue import built_in
from ember_core.design.merging import differences, taken_over
from ember_core.documents.compare import _shapley, compare, why
from ember_core.measures.bench import TrialBench

from .randoms import random_design, sweep

DEMO = Path(__file__).resolve().parents[2] / "demo"


def demo(name: str) -> Design:
    return read_design((DEMO / f"{name}.json").read_bytes())


def hours(design: Design) -> float:
    return TrialBench(design, built_in()).runtime_s / 3600


class Compared(unittest.TestCase):
    def test_a_design_beside_itself_differs_in_nothing(self) -> None:
        ear = demo("dusk-ear")
        told = compare([("One", ear), ("Two", ear)], built_in())
        self.assertEqual((told.rows, told.more), ([], 0))
        self.assertEqual([(d.gained, d.lost, d.terms) for d in told.designs], [([], [], [])] * 2)
        self.assertTrue(all(v.status[0] == v.status[1] and v.figures[0] == v.figures[1] for v in told.verdicts))

    def test_three_of_them(self) -> None:
        first, other = demo("tarn-light"), demo("tarn-light-aaa")
        raw = first.model_dump(mode="json")
        raw["brief"]["goal_h"] = 3.0
        third = build_design(raw)
        told = compare([("Coin", first), ("AAA", other), ("Less", third)], built_in())
        rows = {r.place: r for r in told.rows}
        self.assertEqual(
            rows["Battery › cell › name"].values,
            [first.battery.cell.name, other.battery.cell.name, first.battery.cell.name],
        )
        self.assertEqual(rows["Battery › cell › name"].differs, [False, True, False])
        goal = next(r for p, r in rows.items() if p.startswith("Brief › goal"))
        self.assertEqual(goal.differs, [False, False, True])
        results = [evaluate(d) for d in (first, other, third)]
        for verdict, rows_of in zip(told.verdicts, zip(*(r.verdicts for r in results), strict=True), strict=True):
            self.assertEqual(
                [(f, s, w) for f, s, w in zip(verdict.figures, verdict.status, verdict.words, strict=True)],
                [(v.figure, v.status, v.word) for v in rows_of],
            )
        for k in (1, 2):
            known, own = ({f.title for f in r.findings} for r in (results[0], results[k]))
            self.assertEqual({f.title for f in told.designs[k].gained}, own - known)
            self.assertEqual({f.title for f in told.designs[k].lost}, known - own)

    def test_what_only_moved_in_its_list_is_neither_gained_nor_lost(self) -> None:
        ear = demo("dusk-ear")
        raw = ear.model_dump(mode="json")
        raw["parts"] = [*raw["parts"][1:], raw["parts"][0]]
        told = compare([("One", ear), ("Two", build_design(raw))], built_in())
        self.assertEqual((told.designs[1].gained, told.designs[1].lost), ([], []))


class Why(unittest.TestCase):
    def adds_up(self, first: Design, other: Design) -> int:
        terms = why(first, other, built_in())
        total = sum(t.hours.value or 0.0 for t in terms)
        self.assertAlmostEqual(
            total, hours(other) - hours(first) if terms else 0.0, delta=1e-9 * max(hours(other), hours(first), 1.0)
        )
        return len(terms)

    def test_terms_add_up_on_demos_and_at_random(self) -> None:
        several = 0
        for one, two in (
            ("tarn-light", "tarn-light-aaa"),
            ("rosin-minder", "rosin-minder-rechargeable"),
            ("rosin-minder", "tarn-light"),
        ):
            several += self.adds_up(demo(one), demo(two)) > 1
        for seed in sweep(4, 200):
            several += self.adds_up(random_design(900 + seed), random_design(1900 + seed)) > 1
        self.assertGreater(several, 2)

    def test_a_runtime_that_is_known_changes_no_term(self) -> None:
        """A comparison takes those of both from their evaluations; by themselves the terms come to the same, to the last digit."""
        terms = 0
        for seed in sweep(4, 40):
            one, two = random_design(300 + seed), random_design(1300 + seed)
            told = compare([("one", one), ("two", two)], built_in()).designs[1].terms
            alone = why(one, two, built_in())
            self.assertEqual([(t.area, t.hours.value) for t in told], [(t.area, t.hours.value) for t in alone])
            terms += len(told)
        self.assertGreater(terms, 0)

    def test_what_did_not_change_has_no_term(self) -> None:
        ear = demo("dusk-ear")
        raw = ear.model_dump(mode="json")
        raw["name"], raw["enclosure"]["corner_mm"] = "Otherwise", 1.0
        self.assertEqual(why(ear, build_design(raw), built_in()), [])
        raw["battery"]["cell"]["capacity_ah"] *= 2
        terms = why(ear, build_design(raw), built_in())
        self.assertEqual([t.area for t in terms], ["its battery"])
        self.assertGreater(terms[0].hours.value or 0, 0)

    def test_two_changes_share_what_they_bring_together(self) -> None:
        """Twice the capacity and half the day's use: alone 2 and about 2 times, together about 4. Of the 3 that are gained each brings
        (1 + 2) / 2 = 1.5, whichever comes first."""
        worth = {frozenset(): 1.0, frozenset({0}): 2.0, frozenset({1}): 2.0, frozenset({0, 1}): 4.0}
        self.assertEqual([_shapley(worth, k, 2) for k in (0, 1)], [1.5, 1.5])
        uneven = {frozenset(): 10.0, frozenset({0}): 14.0, frozenset({1}): 11.0, frozenset({0, 1}): 17.0}
        self.assertEqual([_shapley(uneven, k, 2) for k in (0, 1)], [5.0, 2.0])

    def test_what_cannot_be_exchanged_alone_goes_together(self) -> None:
        terms = why(demo("rosin-minder"), demo("rosin-minder-rechargeable"), built_in())
        self.assertIn("parts and modes and its supply", [t.area for t in terms])


if __name__ == "__main__":
    unittest.main()


class TakenOver(unittest.TestCase):
    """A difference that is taken over is gone, and no other place has changed."""

    def sweep_pair(self, one: Design, other: Design) -> tuple[int, int]:
        """(places that could be taken over alone, places that could not)."""
        before = {d.place: d for d in differences(one, other)}
        taken, refused = 0, 0
        for place, told in before.items():
            try:
                after = taken_over(one, other, place)
            except DocumentError:
                refused += 1
                continue
            taken += 1
            changed = differences(one, after)
            self.assertEqual({d.place for d in changed}, {place})
            self.assertNotIn(place, {d.place for d in differences(after, other)})
            self.assertEqual({(d.mine, d.theirs) for d in changed}, {(told.mine, told.theirs)})
        return taken, refused

    def test_every_difference_of_the_demos(self) -> None:
        for a, b in (("tarn-light", "tarn-light-aaa"), ("rosin-minder", "rosin-minder-rechargeable")):
            for one, other in ((a, b), (b, a)):
                taken, refused = self.sweep_pair(demo(one), demo(other))
                self.assertGreater(taken, 2 * refused, f"{one} from {other}")

    def test_random_edits(self) -> None:
        for seed in sweep(40, 200):
            one = random_design(seed)
            raw = one.model_dump(mode="json")
            raw["brief"]["goal_h"] = 12.5
            raw["parts"][0]["name"] = "Another name"
            raw["parts"][0]["mass_g"] = 3.25
            raw["modes"].reverse()
            taken, _ = self.sweep_pair(one, build_design(raw))
            self.assertGreaterEqual(taken, 3)

    def test_all_of_a_battery_at_once(self) -> None:
        one, other = demo("tarn-light"), demo("tarn-light-aaa")
        after = taken_over(one, other, "Battery")
        self.assertEqual(after.battery, other.battery)
        self.assertEqual(after.model_copy(update={"battery": one.battery}), one)
        self.assertEqual(taken_over(one, other, "Battery › cell").battery.cell, other.battery.cell)

    def test_what_does_not_differ_is_refused(self) -> None:
        one, other = demo("tarn-light"), demo("tarn-light-aaa")
        for place in ("nowhere", ""):
            with self.assertRaises(DocumentError):
                taken_over(one, other, place)
        with self.assertRaises(DocumentError):
            taken_over(one, one, differences(one, other)[0].place)
