"""What holds the case: places that are free, findings on both sides of their limits with ways out that are applied, films between things."""

from __future__ import annotations

import unittest
from typing import Any

import numpy as np

from ember_core import Design, DocumentError, build_design, evaluate
from ember_core.catalogue import built_in
from ember_core.design import FasteningKind, Thread
from ember_core.design.patches import apply, apply_patch
from ember_core.enclosure.fit import check_fit, contact_status
from ember_core.enclosure.holding import posts, snaps
from ember_core.enclosure.placing import place_all
from ember_core.making import POST_MM, SNAPS_MM
from ember_core.measures.bench import TrialBench
from ember_core.studies import answer_holding

from .gadgets import cell, design, document, part, seen, state, use

CASE = {"outer_mm": [70, 50, 24], "wall_mm": 2, "gap_mm": 0.5}


def gadget(*parts: dict[str, Any], case: dict[str, Any] | None = None, **more: Any) -> Design:
    """Parts in a case, with a small round cell in its middle that is nowhere in the way."""
    given = parts or (block("chip", (30, 20, 4)),)
    battery = {
        "cell": cell(form="cylinder", size_mm=[10, 10, 10]),
        "wiring_ohm": 0,
        "body": {"size_mm": [10, 10, 10], "position_mm": [32, 28, 8]},
    }
    return design(
        **{"parts": list(given), "modes": [{"id": "on", "name": "On", "uses": [use(p["id"], "on") for p in given]}], "day": {"rest": "on"},
           "battery": battery, "enclosure": CASE | (case or {})} | more
    )  # fmt: skip


def block(key: str, at: tuple[float, float, float], size: tuple[float, float, float] = (6, 6, 3)) -> dict[str, Any]:
    return part(key, state("on", 1e-3), body={"size_mm": list(size), "position_mm": list(at)})


def post(
    at: tuple[float, float], wide: float = 5.0, kind: str = "screw", thread: str | None = "M2", **more: Any
) -> dict[str, Any]:
    body = {"size_mm": [wide, wide, 20], "shape": "cylinder", "position_mm": [*at, 2]} | more
    return {
        "id": f"p{at[0]:g}-{at[1]:g}".replace(".", "-"),
        "name": "Post",
        "kind": kind,
        "thread": thread,
        "body": body,
    }


def with_all(made: Design, offer: Any) -> Design:
    return apply_patch(made, offer.patch)


class Offers(unittest.TestCase):
    def test_four_posts_in_the_corners_of_an_empty_case_from_floor_to_lid(self) -> None:
        found = posts(gadget(), "screw", "M2")
        self.assertEqual(len(found), 4)
        at = sorted((f.body.position_mm[0], f.body.position_mm[1]) for f in found if f.body.position_mm)
        self.assertEqual(at, [(2, 2), (2, 43), (63, 2), (63, 43)])
        self.assertEqual({f.body.size_mm for f in found}, {(5.0, 5.0, 20.0)})
        self.assertEqual(len({f.id for f in found}), 4)

    def test_what_is_offered_goes_in_and_collides_with_nothing(self) -> None:
        crowded = gadget(block("a", (2.5, 2.5, 3), (12, 12, 8)), block("b", (40, 30, 3), (20, 15, 4)))
        offered = answer_holding(TrialBench(crowded, built_in()))
        self.assertGreater(len(offered), 5)
        for offer in offered:
            with self.subTest(offer.label):
                after = with_all(crowded, offer)
                self.assertTrue(after.enclosure.fastenings)
                self.assertTrue(all(contact_status(c) == "pass" for c in check_fit(after).contacts))
                self.assertFalse(
                    {"nothing-holds", "post-thin", "sharp-near-pouch"} & {f.code for f in evaluate(after).findings}
                )

    def test_in_a_round_case_posts_stay_inside_the_round(self) -> None:
        found = posts(gadget(case={"corner_mm": 15}), "screw", "M2")
        self.assertEqual(len(found), 4)
        radius = 15 - 2
        for f in found:
            assert f.body.position_mm
            middle = np.array(f.body.position_mm[:2]) + 2.5 - 2
            beyond = np.maximum(np.maximum(radius - middle, middle - (np.array([66, 46]) - radius)), 0)
            if beyond.min() > 0:
                self.assertLessEqual(float(np.linalg.norm(beyond)), radius - 2.5 + 1e-6)

    def test_two_opposite_corners_are_enough_and_two_beside_each_other_are_not(self) -> None:
        def full(*corners: tuple[float, float]) -> Design:
            return gadget(
                *(block(f"b{i}", (x, y, 2.4), (30, 20, 18)) for i, (x, y) in enumerate(corners)),
                battery={"cell": cell(form="cylinder")},
            )

        left_front, right_back, right_front = (2.4, 2.4), (37.5, 27.5), (37.5, 2.4)
        self.assertEqual(len(posts(full(left_front, right_back), "screw", "M2")), 2)
        self.assertEqual(posts(full(right_front, right_back), "screw", "M2"), [])

    def test_no_room_no_offer(self) -> None:
        self.assertEqual(
            posts(gadget(case={"outer_mm": [13, 13, 24]}, battery={"cell": cell(form="cylinder")}), "screw", "M2"), []
        )
        self.assertEqual(snaps(gadget(case={"outer_mm": [70, 50, 7.9]})), [])
        self.assertEqual(len(snaps(gadget(case={"outer_mm": [70, 50, 8.0]}))), 2)
        self.assertEqual(posts(gadget(case={"outer_mm": [4, 50, 24]}), "screw", "M2"), [])

    def test_a_snap_sits_at_two_walls_below_where_it_comes_apart(self) -> None:
        found = snaps(gadget(case={"split_mm": 15}))
        self.assertEqual([f.body.position_mm for f in found], [(30.0, 2.0, 7.0), (30.0, 45.5, 7.0)])
        self.assertEqual({f.body.size_mm for f in found}, {SNAPS_MM[0]})

    def test_a_snap_stands_on_a_thick_floor_whatever_the_lid(self) -> None:
        """Eight high, where it comes apart at 9 mm: from 1 mm on, and the floor is 3 mm thick."""
        for top in (1.5, 5.0):
            found = snaps(gadget(case={"split_mm": 9, "walls_mm": {"bottom": 3, "top": top}}))
            self.assertEqual([f.body.position_mm[2] for f in found if f.body.position_mm], [3.0, 3.0])

    def test_where_the_usual_snap_is_in_the_way_small_ones_are_offered(self) -> None:
        rows = [block("f", (2.4, 4.4, 2.4), (65.2, 41.2, 19))]
        found = snaps(gadget(*rows, battery={"cell": cell(form="cylinder")}))
        self.assertEqual({f.body.size_mm for f in found}, {SNAPS_MM[1]})

    def test_every_usual_post_is_thicker_than_its_least(self) -> None:
        for sizes in POST_MM.values():
            self.assertTrue(all(usual > least for usual, least in sizes.values()))
            self.assertEqual([u for u, _ in sizes.values()], sorted(u for u, _ in sizes.values()))


class Findings(unittest.TestCase):
    def test_a_case_that_nothing_holds(self) -> None:
        open_case = gadget()
        found = seen(open_case, "nothing-holds")
        remedy = found[0].remedy
        assert remedy
        after = apply(open_case, remedy)
        self.assertFalse(seen(after, "nothing-holds"))
        self.assertEqual(len(after.enclosure.fastenings), 4)
        self.assertFalse(seen(gadget(case={"process": "ready-made"}), "nothing-holds"))
        rib = post((10, 10), kind="cradle", thread=None)
        self.assertTrue(seen(gadget(case={"fastenings": [rib]}), "nothing-holds"))

    def test_a_post_is_thin_below_its_least(self) -> None:
        for kind, thread in (("screw", "M2"), ("insert", "M3"), ("nut", "M2.5")):
            usual, least = POST_MM[kind][thread]  # type: ignore[index]
            for wide, told in ((least - 0.05, True), (least, False)):
                with self.subTest(kind=kind, wide=wide):
                    made = gadget(case={"fastenings": [post((10, 10), wide, kind, thread)]})
                    found = seen(made, "post-thin")
                    self.assertEqual(bool(found), told)
                    if told:
                        remedy = found[0].remedy
                        assert remedy
                        after = apply(made, remedy)
                        self.assertFalse(seen(after, "post-thin"))
                        self.assertEqual(after.enclosure.fastenings[0].body.size_mm[0], usual)
                        middle = np.array(after.enclosure.fastenings[0].body.position_mm)[:2] + usual / 2
                        np.testing.assert_allclose(middle, 10 + wide / 2, atol=0.011)

    def pouch(self, x: float, series: int = 1, kind: str = "screw", form: str = "pouch") -> Design:
        """A post at x beside a pouch that reaches from 30 to 50, swelling upwards."""
        size = [20, 20, 4.0 * series]
        battery = {"cell": cell(form=form, size_mm=[20, 20, 4]), "series": series, "wiring_ohm": 0, "swelling": 0.1,
                   "body": {"size_mm": size, "position_mm": [30, 10, 3]}}  # fmt: skip
        held = post((x, 15), 5.0, kind, None if kind == "cradle" else "M2")
        return gadget(block("chip", (4, 40, 4)), case={"fastenings": [held]}, battery=battery)

    def test_metal_stays_two_millimetres_off_a_pouch(self) -> None:
        for series in (1, 2, 3):
            for gap, told in ((1.95, True), (2.0, False), (-1.0, True)):
                with self.subTest(series=series, gap=gap):
                    made = self.pouch(25 - gap, series)
                    found = seen(made, "sharp-near-pouch")
                    self.assertEqual(bool(found), told)
                    if told and gap > 0:
                        remedy = found[0].remedy
                        assert remedy
                        self.assertFalse(seen(apply(made, remedy), "sharp-near-pouch"))

    def test_a_post_that_is_moved_stays_in_its_corner(self) -> None:
        for x, y, corner in ((29.0, 11.0, (0, 0)), (46.0, 11.0, (1, 0)), (29.0, 26.0, (0, 1)), (46.0, 26.0, (1, 1))):
            held = post((x, y))
            battery = {
                "cell": cell(form="pouch", size_mm=[20, 20, 4]),
                "wiring_ohm": 0,
                "body": {"size_mm": [20, 20, 4], "position_mm": [30, 10, 3]},
            }
            made = gadget(block("chip", (4, 40, 4)), case={"fastenings": [held]}, battery=battery)
            ways = seen(made, "sharp-near-pouch")[0].found.ways
            assert ways is not None
            way = next(iter(ways()))
            assert way
            at = apply(made, way).enclosure.fastenings[0].body.position_mm
            assert at
            self.assertEqual((int(at[0] > 35), int(at[1] > 25)), corner)

    def test_a_round_cell_has_a_can_and_a_rib_no_edge(self) -> None:
        self.assertFalse(seen(self.pouch(24, kind="cradle"), "sharp-near-pouch"))
        self.assertFalse(seen(self.pouch(24, form="cylinder"), "sharp-near-pouch"))

    def test_a_post_in_a_part_collides_and_at_a_wall_does_not(self) -> None:
        made = gadget(block("chip", (12, 12, 4)), case={"fastenings": [post((10, 10)), post((2, 2)), post((4, 4))]})
        found = seen(made, "collision")
        self.assertEqual(len(found), 1)
        self.assertIn("chip", found[0].found.title)
        self.assertFalse(seen(made, "tight-gap"))

    def test_placing_everything_anew_leaves_the_posts_where_they_are(self) -> None:
        made = gadget(block("chip", (12, 12, 4)), case={"fastenings": [post((10, 10))]})
        found = place_all(made, anew=True)
        self.assertNotIn("/enclosure/fastenings/0", found.bodies)
        after = apply_patch(made, [*(_replace(k, v) for k, v in found.bodies.items())])
        self.assertFalse(seen(after, "collision"))


def _replace(where: str, body: Any) -> Any:
    from ember_core.design.patches import replace

    return replace(f"{where}/body", body)


class Films(unittest.TestCase):
    def two(self, gap: float, film: float | None = None) -> Design:
        """Two parts that lie on each other."""
        films = [] if film is None else [{"first": "a", "second": "b", "thickness_mm": film}]
        return gadget(block("a", (20, 8, 4)), block("b", (20, 8, 7 + gap)), case={"films": films})

    def test_a_film_lets_two_lie_on_each_other_at_its_thickness(self) -> None:
        self.assertTrue(seen(self.two(0.2), "tight-gap"))
        self.assertFalse(seen(self.two(0.2, 0.2), "tight-gap"))
        self.assertTrue(seen(self.two(0.19, 0.2), "tight-gap"))
        self.assertFalse(seen(self.two(0.5), "tight-gap"))

    def test_a_film_is_offered_where_it_goes_between_and_settles_it(self) -> None:
        for gap, film in ((0.3, "0.3"), (0.29, "0.2"), (0.05, "0.05"), (0.04, None)):
            with self.subTest(gap=gap):
                made = self.two(gap)
                ways = seen(made, "tight-gap")[0].found.ways
                assert ways is not None
                offered = [w for w in ways() if w and w.label.startswith("A film")]
                self.assertEqual(
                    [w.label.replace("\u00a0", " ") for w in offered],
                    [] if film is None else [f"A film of {film} mm between a and b"],
                )
                for way in offered:
                    self.assertFalse(seen(apply(made, way), "tight-gap"))

    def test_none_to_a_wall(self) -> None:
        made = gadget(block("a", (2.1, 8, 4)))
        ways = seen(made, "tight-gap")[0].found.ways
        assert ways is not None
        self.assertFalse([w for w in ways() if w and w.label.startswith("A film")])


class Documents(unittest.TestCase):
    def problem(self, case: dict[str, Any]) -> dict[str, str]:
        with self.assertRaises(DocumentError) as caught:
            build_design(document(enclosure=CASE | case))
        return {p.path: p.message for p in caught.exception.problems}

    def test_what_is_refused(self) -> None:
        nowhere = post((10, 10))
        nowhere["body"] = nowhere["body"] | {"position_mm": None}
        zone = {"kind": "air", "side": "top", "depth_mm": 2}
        for case, where in (
            ({"fastenings": [nowhere]}, "/enclosure/fastenings/0"),
            ({"fastenings": [post((10, 10), through="top")]}, "/enclosure/fastenings/0"),
            ({"fastenings": [post((10, 10), on="chip")]}, "/enclosure/fastenings/0"),
            ({"fastenings": [post((10, 10), zones=[zone])]}, "/enclosure/fastenings/0"),
            ({"fastenings": [post((10, 10), thread=None)]}, "/enclosure/fastenings/0"),
            ({"fastenings": [post((10, 10), kind="snap")]}, "/enclosure/fastenings/0"),
            ({"fastenings": [post((10, 10)), post((10, 10))]}, "/enclosure/fastenings/1/id"),
            ({"films": [{"first": "chip", "second": "ghost", "thickness_mm": 0.1}]}, "/enclosure/films/0/second"),
            ({"films": [{"first": "chip", "second": "chip", "thickness_mm": 0.1}]}, "/enclosure/films/0/second"),
            ({"films": [{"first": "chip", "second": "battery", "thickness_mm": 0.1}, {"first": "battery", "second": "chip", "thickness_mm": 0.2}]},
             "/enclosure/films/1"),
            ({"films": [{"first": "chip", "second": "battery", "thickness_mm": 0}]}, "/enclosure/films/0/thickness_mm"),
            ({"films": [{"first": "chip", "second": "charger", "thickness_mm": 0.1}]}, "/enclosure/films/0/second"),
        ):  # fmt: skip
            with self.subTest(where=where):
                self.assertIn(where, self.problem(case))

    def test_kinds_and_threads_all_load(self) -> None:
        kinds: tuple[FasteningKind, ...] = ("screw", "insert", "nut")
        threads: tuple[Thread, ...] = ("M2", "M2.5", "M3", "M4")
        for kind in kinds:
            for thread in threads:
                made = gadget(case={"fastenings": [post((10, 10), POST_MM[kind][thread][0], kind, thread)]})
                self.assertFalse(seen(made, "post-thin"), (kind, thread))


if __name__ == "__main__":
    unittest.main()


class GivesWay(unittest.TestCase):
    def test_threads_and_snaps_in_what_bends(self) -> None:
        for held, told in (([post((2, 2))], True), ([], False), ([post((2, 2), kind="cradle", thread=None)], False)):
            for plastic in ("TPU", "PETG"):
                made = gadget(case={"fastenings": held, "plastic": plastic})
                self.assertEqual(bool(seen(made, "gives-way")), told and plastic == "TPU", (plastic, held))

    def test_the_way_out_is_a_stiffer_one(self) -> None:
        made = gadget(case={"fastenings": [post((2, 2))], "plastic": "TPU"})
        remedy = seen(made, "gives-way")[0].remedy
        assert remedy
        self.assertEqual(seen(apply(made, remedy), "gives-way"), [])
