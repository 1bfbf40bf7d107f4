"""Two versions of a document: disjoint edits are all kept, edits of one place are told in words and units."""

from __future__ import annotations

import random
import unittest
from typing import Any

from ember_core import Design, DocumentError, build_design, read_design
from ember_core.design.merging import Merged, _Merge, _told, _value, differences, merge

from .test_runtime import DEMO


class Merging(unittest.TestCase):
    def setUp(self) -> None:
        self.base = read_design((DEMO / "dusk-ear.json").read_bytes())

    def version(self, change: Any) -> Design:
        document = self.base.model_dump(mode="json")
        change(document)
        return build_design(document)

    def merged(self, mine: Any, theirs: Any) -> Merged:
        return merge(self.base, self.version(mine), self.version(theirs))

    def both(self, mine: Any, theirs: Any) -> Design:
        def change(document: Any) -> None:
            theirs(document)
            mine(document)

        return self.version(change)

    def test_edits_of_different_places_are_all_kept(self) -> None:
        def mine(d: Any) -> None:
            d["battery"]["cell"]["capacity_ah"] = 0.6

        def theirs(d: Any) -> None:
            d["battery"]["cell"]["resistance_ohm"] = 0.2
            d["parts"][0]["mass_g"] = 9.5

        found = self.merged(mine, theirs)
        self.assertEqual(found.conflicts, [])
        self.assertTrue(found.kept)
        self.assertEqual(found.mine_first, self.both(mine, theirs))
        self.assertEqual(found.theirs_first, found.mine_first)
        self.assertEqual({b.theirs for b in found.brought}, {"200\u00a0mΩ", "9.5\u00a0g"})

    def test_items_are_the_same_by_their_id_not_by_their_position(self) -> None:
        def mine(d: Any) -> None:
            d["decisions"] = []
            d["modes"].append(d["modes"][1] | {"id": "mine", "name": "Mine"})
            d["parts"][2]["quantity"] = 3

        def theirs(d: Any) -> None:
            d["modes"].insert(1, d["modes"][1] | {"id": "theirs", "name": "Theirs"})
            d["parts"].reverse()

        found = self.merged(mine, theirs)
        self.assertEqual(found.conflicts, [])
        ids = [m.id for m in found.mine_first.modes]
        base = [m.id for m in self.base.modes]
        self.assertEqual(ids, [base[0], "theirs", *base[1:], "mine"])
        self.assertEqual([p.id for p in found.mine_first.parts], [p.id for p in reversed(self.base.parts)])
        part = next(p for p in found.mine_first.parts if p.id == self.base.parts[2].id)
        self.assertEqual(part.quantity, 3)

    def test_an_order_that_one_has_changed_takes_in_what_the_other_added(self) -> None:
        def moved(d: Any) -> None:
            d["parts"].reverse()

        def added(d: Any) -> None:
            d["parts"].insert(1, d["parts"][0] | {"id": "second", "name": "Second", "divider": None})

        base = [p.id for p in self.base.parts]
        for found in (self.merged(moved, added), self.merged(added, moved)):
            ids = [p.id for p in found.mine_first.parts]
            self.assertEqual([i for i in ids if i != "second"], base[::-1])
            self.assertEqual(ids[ids.index("second") - 1], base[0])  # after the one that it came after
            self.assertEqual(found.conflicts, [])

    def test_one_place_changed_twice_is_told_and_the_rest_is_kept_either_way(self) -> None:
        def mine(d: Any) -> None:
            d["battery"]["cell"]["capacity_ah"] = 0.6
            d["brief"]["goal_h"] = 48

        def theirs(d: Any) -> None:
            d["battery"]["cell"]["capacity_ah"] = 0.7
            d["name"] = "Dawn Ear"

        found = self.merged(mine, theirs)
        (conflict,) = found.conflicts
        self.assertEqual(conflict.place, "Battery › cell › capacity")
        self.assertEqual((conflict.mine, conflict.theirs), ("600\u00a0mAh", "700\u00a0mAh"))
        for design, capacity in ((found.mine_first, 0.6), (found.theirs_first, 0.7)):
            self.assertEqual(
                (design.battery.cell.capacity_ah, design.name, design.brief.goal_h), (capacity, "Dawn Ear", 48)
            )

    def test_what_one_deletes_and_the_other_changes_is_told(self) -> None:
        last = len(self.base.day.sessions) - 1

        def mine(d: Any) -> None:
            del d["day"]["sessions"][last]

        def theirs(d: Any) -> None:
            d["day"]["sessions"][last]["per_day"] = 9

        found = self.merged(mine, theirs)
        (conflict,) = found.conflicts
        self.assertEqual(conflict.mine, "–")
        self.assertIn(self.base.day.sessions[last].name, conflict.place)
        self.assertEqual(len(found.mine_first.day.sessions), last)
        self.assertEqual(found.theirs_first.day.sessions[last].per_day, 9)

    def test_what_together_makes_no_document_leaves_both_whole(self) -> None:
        spare = self.base.parts[2].id

        def mine(d: Any) -> None:
            d["parts"] = [p for p in d["parts"] if p["id"] != spare]
            for mode in d["modes"]:
                mode["uses"] = [u for u in mode["uses"] if u["part"] != spare]

        def theirs(d: Any) -> None:
            d["modes"].append(d["modes"][-2] | {"id": "new", "name": "New"})
            if not any(u["part"] == spare for u in d["modes"][-1]["uses"]):
                state = next(p for p in d["parts"] if p["id"] == spare)["states"][0]["name"]
                d["modes"][-1]["uses"] = [*d["modes"][-1]["uses"], {"part": spare, "state": state}]

        found = self.merged(mine, theirs)
        self.assertFalse(found.kept)
        self.assertEqual((found.mine_first, found.theirs_first), (self.version(mine), self.version(theirs)))
        self.assertTrue(found.conflicts)

    def test_differences_have_words_and_units(self) -> None:
        def theirs(d: Any) -> None:
            d["enclosure"]["outer_mm"] = [70, 100, 30]
            d["parts"][0]["switchable"] = not d["parts"][0]["switchable"]

        told = {d.place: d.theirs for d in differences(self.base, self.version(theirs))}
        self.assertEqual(told["Enclosure › outer"], "70\u00a0mm × 100\u00a0mm × 30\u00a0mm")
        self.assertIn(told[f"Parts › {self.base.parts[0].name} › switchable"], ("yes", "no"))

    def test_words_for_every_kind_of_value(self) -> None:
        told = {(): "–", True: "yes", False: "no", "long" * 30: "long" * 19 + "l...", 0.5: "500\u00a0mA", (1.0, 2.0): "1\u00a0A × 2\u00a0A",
                ("a", "b"): "a, b", tuple("abcdefgh"): "a, b, c, d, e, f ..."}  # fmt: skip
        for value, words in told.items():
            self.assertEqual(_value(list(value) if isinstance(value, tuple) else value, "A"), words)
        self.assertEqual(_value({"name": "Ear", "part": "x"}, ""), "Ear")
        self.assertEqual(_value({"part": "x"}, ""), "x")
        self.assertEqual(_value({}, ""), "set")
        self.assertEqual(_value([1.0] * 9, "").count("×"), 5)
        whole = _told([], 1, 2)
        self.assertEqual((whole.place, whole.mine), ("the whole", "1"))
        self.assertEqual(_told(["outer_mm", "0"], 1, 2).mine, "1\u00a0mm")  # the unit of the list that it is in

    def test_phases_without_names_go_by_their_position(self) -> None:
        base = [{"seconds": 1.0}, {"seconds": 2.0}]
        mine, theirs = [{"seconds": 1.5}, {"seconds": 2.0}], [{"seconds": 1.0}, {"seconds": 3.0}]
        met: list[Any] = []
        together = _Merge({}, met).value((base, mine, theirs), [], prefer_mine=True)
        self.assertEqual((together, met), ([{"seconds": 1.5}, {"seconds": 3.0}], []))
        _Merge({}, met).value((base, mine, [{"seconds": 9.0}, {"seconds": 2.0}]), ["burst"], prefer_mine=True)
        self.assertEqual(met, [(["burst", "1", "seconds"], 1.5, 9.0)])

    def test_random_disjoint_edits_commute(self) -> None:
        choose = random.Random(5)
        for _ in range(60):
            numbers = list(_numbers(self.base.model_dump(mode="json"), ()))
            places = choose.sample(numbers, 6)

            def changed(some: list[tuple[Any, ...]], factor: float) -> Any:
                def change(d: Any) -> None:
                    for *way, last in some:
                        holder = d
                        for step in way:
                            holder = holder[step]
                        holder[last] = float(f"{holder[last] * factor:.6g}")

                return change

            mine, theirs = changed(places[:3], 1.0001), changed(places[3:], 0.9999)
            try:
                wanted, found = self.both(mine, theirs), self.merged(mine, theirs)
            except (ValueError, DocumentError):
                continue  # a figure that has to be whole, or at its bound
            self.assertEqual((found.conflicts, found.mine_first, found.theirs_first), ([], wanted, wanted))


def _numbers(value: Any, place: tuple[Any, ...]) -> Any:
    """Places of figures that stand by themselves; a list of bare figures is one place."""
    for key in value if isinstance(value, dict) else range(len(value)):
        if isinstance(value[key], float) and isinstance(value, dict):
            yield (*place, key)
        elif isinstance(value[key], dict | list):
            yield from _numbers(value[key], (*place, key))
