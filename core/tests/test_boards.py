"""Boards with what stands on them and hangs below: gaps block by block, posts under their holes, what can be left off; by hand, on both sides."""

from __future__ import annotations

import unittest
from typing import Any

import numpy as np
from pydantic import ValidationError

from ember_core import Design, DocumentError, build_design
from ember_core.catalogue import built_in
from ember_core.design import Body
from ember_core.design.patches import apply, apply_patch
from ember_core.enclosure.bodies import volume_mm3
from ember_core.enclosure.fit import check_fit, contact_status, nearest_pieces
from ember_core.enclosure.holding import largest_thread, level_holes
from ember_core.enclosure.pieces import opening_corners, pieces
from ember_core.enclosure.placing import place_all
from ember_core.enclosure.solids import corners, hole_ends
from ember_core.measures.bench import TrialBench
from ember_core.studies import answer_holding
from ember_core.studies.section import answer_section

from .gadgets import cell, design, part, seen, state, use

CASE = {"outer_mm": [60, 40, 24], "wall_mm": 2, "clearance_mm": 0.3, "gap_mm": 0.5, "process": "filament"}
BOARD = {"name": "Board", "at_mm": [0, 0, 2], "size_mm": [30, 20, 1.6]}
JACK = {"name": "Jack", "at_mm": [0, 6, 3.6], "size_mm": [7, 9, 3.4]}
PINS = {"name": "Pins", "at_mm": [20, 2, 3.6], "size_mm": [8, 2.5, 8.4], "spare": True}
HOLES = [{"at_mm": [x, y], "diameter_mm": 2.2} for x in (3, 27) for y in (3, 17)]


def board(at: tuple[float, float, float] = (4, 8, 6), *blocks: dict[str, Any], **more: Any) -> dict[str, Any]:
    """30 x 20 mm, 12 mm high with its pins; the board itself 2 mm above the bottom of its box."""
    return {
        "shape": "board", "size_mm": [30, 20, 12], "position_mm": list(at), "blocks": [BOARD, *(blocks or (JACK, PINS))],
    } | more  # fmt: skip


def plain_block(at: tuple[float, float, float], size: tuple[float, float, float]) -> dict[str, Any]:
    return {"size_mm": list(size), "position_mm": list(at)}


def gadget(*bodies: dict[str, Any], **case: Any) -> Design:
    parts = [part(f"p{i}", state("on", 1e-3), name=f"Part {i}", body=b) for i, b in enumerate(bodies)]
    modes = [{"id": "on", "name": "On", "uses": [use(p["id"], "on") for p in parts]}]
    return design(
        parts=parts, modes=modes, day={"rest": "on"}, battery={"cell": cell(form="cylinder")}, enclosure=CASE | case
    )


def raw(made: Design) -> Any:
    return made.model_dump(mode="json")


def way_out(made: Design, code: str) -> Design:
    """The design with the remedy of its first finding of that code."""
    remedy = seen(made, code)[0].remedy
    assert remedy is not None, code
    return apply(made, remedy)


def pair(made: Design) -> tuple[float, int]:
    fit = check_fit(made)
    found = next(c for c in fit.contacts if {c.first, c.second} == {0, 1})
    return found.gap_mm, found.axis


class Gaps(unittest.TestCase):
    def test_a_low_part_reaches_under_a_tall_one(self) -> None:
        """Above the bare half of the board, which ends at 6 + 3.6 = 9.6 mm: 10 mm leave 0.4 mm, though the pins reach to 18 mm."""
        gap, axis = pair(gadget(board(), plain_block((13, 10, 10), (10, 10, 3))))
        self.assertAlmostEqual(gap, 0.4)
        self.assertEqual(axis, 2)

    def test_beside_the_pins_and_into_them(self) -> None:
        """The pins stand from 24 mm along x: a block that ends at 23.4 mm is 0.6 mm beside them, one that ends at 25 mm 1 mm in them."""
        self.assertAlmostEqual(pair(gadget(board(), plain_block((14, 9, 14), (9.4, 10, 3))))[0], 0.6)
        self.assertAlmostEqual(pair(gadget(board(), plain_block((14, 9, 14), (11, 10, 3))))[0], -1.0)

    def test_boards_into_each_others_free_corners(self) -> None:
        """A board upside down over another one, its pins over the bare half: the jack of each is what is nearest."""
        other = board((4, 8, 18), blocks=[BOARD | {"at_mm": [0, 0, 0]}], size_mm=[30, 20, 1.6])
        self.assertAlmostEqual(pair(gadget(board(), other))[0], 0.0)
        without = board((4, 8, 6), JACK)
        self.assertAlmostEqual(pair(gadget(without, other))[0], 18 - 13)

    def test_turned_it_is_the_same(self) -> None:
        """A quarter about z and a half about x, each against the boxes by hand."""
        turned = board(turn_deg=[0, 0, 90])
        low, high = (end(corners(Body.model_validate(turned)), axis=0) for end in (np.min, np.max))
        np.testing.assert_allclose(low, (9, 3, 8), atol=1e-9)
        np.testing.assert_allclose(high, (29, 33, 18), atol=1e-9)
        straight = pair(gadget(board(turn_deg=[0, 0, 360]), plain_block((14, 9, 14), (9.4, 10, 3))))[0]
        self.assertAlmostEqual(straight, 0.6, places=3)
        over = pair(gadget(board(turn_deg=[180, 0, 0]), plain_block((8, 10, 14.9), (10, 10, 3))))[0]
        self.assertAlmostEqual(over, 14.9 - (6 + 12 - 2 - 0), places=3) if over < 0 else self.assertAlmostEqual(
            over, 0.0
        )

    def test_to_the_walls_by_the_block_that_is_nearest(self) -> None:
        fit = check_fit(gadget(board((2.3, 8, 6))))
        self.assertAlmostEqual(next(c for c in fit.contacts if c.side == "left").gap_mm, 0.3)
        self.assertAlmostEqual(next(c for c in fit.contacts if c.side == "top").gap_mm, 24 - 2 - 18)

    def test_what_it_takes_of_the_room_is_its_blocks(self) -> None:
        self.assertAlmostEqual(volume_mm3(Body.model_validate(board())), 30 * 20 * 1.6 + 7 * 9 * 3.4 + 8 * 2.5 * 8.4)

    def test_a_pouch_swells_block_by_block(self) -> None:
        """A pouch that is drawn as a board with blocks is no smaller for it."""
        made = raw(gadget(board((4, 8, 6))))
        made["battery"]["cell"] |= {"form": "pouch", "size_mm": [30, 20, 12]}
        made["battery"]["swelling"] = 0.1
        made["battery"]["body"] = board((4, 8, 6))
        made["parts"][0]["body"] = None
        placed = check_fit(build_design(made)).placed[0]
        self.assertAlmostEqual(float(placed.high[2]), 18 + 1.2)

    def test_cut_it_shows_each_block(self) -> None:
        """Across z at 11 mm: the jack and the pins, not the board; 4 mm of x between the jack and the pins of it is no gap."""
        answer = answer_section(gadget(board(), plain_block((13, 20, 10), (8, 4, 3))), "z", 11.0)
        shown = {b.name: b.outlines for b in answer.bodies}
        self.assertEqual(len(shown["Part 0"]), 2)
        self.assertEqual([m.name for m in answer.measures if m.name.startswith("Part 0 to Part")], ["Part 0 to Part 1"])

    def test_what_is_not_measured_any_more_counts_as_nearer_than_it_is(self) -> None:
        """Turned boards: with fewer measured pairs the gap is never larger."""
        other = board((6, 10, 18.5), blocks=[BOARD | {"at_mm": [0, 0, 0]}], size_mm=[30, 20, 1.6], turn_deg=[0, 0, 20])
        placed = check_fit(gadget(board(turn_deg=[3, 0, 10]), other)).placed
        whole = nearest_pieces(placed[0], placed[1])[0]
        fewer = [nearest_pieces(placed[0], placed[1], most)[0] for most in (0, 1, 2, 3)]
        self.assertTrue(all(gap <= whole + 1e-9 for gap in fewer))

    def test_a_hundred_boards_of_forty_blocks_are_bearable(self) -> None:
        blocks = [BOARD] + [
            {"name": f"B{i}", "at_mm": [i % 8 * 3.5, i // 8 * 4, 3.6], "size_mm": [2, 2, 2]} for i in range(39)
        ]
        many = [board((i % 10 * 3.0, i // 10 * 2.0, 6.0), *blocks[1:], turn_deg=[0, 0, i]) for i in range(100)]
        fit = check_fit(gadget(*many))
        self.assertEqual(len(fit.placed), 100)


class Documents(unittest.TestCase):
    def refused(self, **more: Any) -> str:
        try:
            Body.model_validate(board() | more)
        except ValidationError as error:
            return str(error)
        return ""

    def test_blocks_stay_in_the_box(self) -> None:
        self.assertEqual(self.refused(), "")
        self.assertIn("at least", self.refused(blocks=[]))
        self.assertEqual(self.refused(blocks=[BOARD | {"at_mm": [0, 0, 10.4]}]), "")
        self.assertIn("along z", self.refused(blocks=[BOARD | {"at_mm": [0, 0, 10.41]}]))
        self.assertIn("along x", self.refused(blocks=[BOARD | {"at_mm": [-0.01, 0, 2]}]))

    def test_holes_stay_in_the_board(self) -> None:
        self.assertEqual(self.refused(holes=[{"at_mm": [1.1, 18.9], "diameter_mm": 2.2}]), "")
        self.assertIn("leaves the board", self.refused(holes=[{"at_mm": [1.0, 10], "diameter_mm": 2.2}]))
        self.assertIn("leaves the board", self.refused(holes=[{"at_mm": [10, 19.1], "diameter_mm": 2.2}]))

    def test_a_post_carries_what_is_there(self) -> None:
        made = raw(gadget(board()))
        held = {"id": "a", "name": "Post", "kind": "snap", "body": plain_block((2, 2, 2), (3, 3, 3))}
        made["enclosure"]["fastenings"] = [held | {"carries": "p0"}]
        build_design(made)
        made["enclosure"]["fastenings"] = [held | {"carries": "p1"}]
        with self.assertRaises(DocumentError) as caught:
            build_design(made)
        self.assertEqual(caught.exception.problems[0].path, "/enclosure/fastenings/0/carries")


class Openings(unittest.TestCase):
    def test_only_the_jack_goes_through_the_wall(self) -> None:
        """The jack stands 2 mm over the board's edge, in the left wall: an opening of 9 x 3.4 mm and 0.3 mm around, not of the whole board."""
        jack = JACK | {"at_mm": [0, 6, 3.6]}
        slab = BOARD | {"at_mm": [2, 0, 2], "size_mm": [28, 20, 1.6]}
        made = gadget({**board((0, 8, 6)), "blocks": [slab, jack], "through": "left"})
        holes = opening_corners(check_fit(made).placed[0], made.enclosure)
        self.assertEqual(len(holes), 1)
        np.testing.assert_allclose(np.ptp(holes[0], axis=0)[1:], (9.6, 4.0), atol=1e-9)
        whole, closed = (sum(p.volume_mm3 for p in pieces(d)) for d in (made, gadget()))
        self.assertAlmostEqual(closed - whole, 2 * 9.6 * 4.0, places=3)

    def test_two_jacks_are_two_openings(self) -> None:
        slab = BOARD | {"at_mm": [2, 0, 2], "size_mm": [28, 20, 1.6]}
        jacks = [JACK | {"name": n, "at_mm": [0, y, 3.6], "size_mm": [7, 5, 3]} for n, y in (("One", 2), ("Two", 12))]
        made = gadget({**board((0, 8, 6)), "blocks": [slab, *jacks], "through": "left"})
        self.assertEqual(len(opening_corners(check_fit(made).placed[0], made.enclosure)), 2)


class Posts(unittest.TestCase):
    def loose(self, **more: Any) -> Design:
        return gadget(board((10, 10, 6), JACK | {"at_mm": [8, 6, 3.6]}, holes=HOLES, **more))

    def test_the_largest_screw_that_goes_through(self) -> None:
        for diameter, thread in ((2.19, None), (2.2, "M2"), (2.69, "M2"), (2.7, "M2.5"), (3.2, "M3"), (4.3, "M4")):
            self.assertEqual(largest_thread(diameter), thread, diameter)

    def test_holes_where_they_are(self) -> None:
        """Upside down they end at the other face of the board; tilted they are no holes for posts."""
        np.testing.assert_allclose(level_holes(check_fit(self.loose()).placed[0])[0], (13, 13, 8))
        over = check_fit(self.loose(turn_deg=[180, 0, 0])).placed[0]
        np.testing.assert_allclose(sorted(level_holes(over)[:, 2]), [18 - 2 - 1.6] * 4)
        self.assertEqual(len(level_holes(check_fit(self.loose(turn_deg=[10, 0, 0])).placed[0])), 0)
        self.assertEqual(hole_ends(Body.model_validate(plain_block((0, 0, 0), (1, 1, 1)))).shape, (0, 2, 3))

    def test_the_way_out_of_a_loose_board_holds_it(self) -> None:
        made = self.loose()
        self.assertEqual([f.severity for f in seen(made, "loose-board")], ["note"])
        after = way_out(made, "loose-board")
        self.assertEqual(seen(after, "loose-board"), [])
        self.assertEqual(seen(after, "post-off-hole"), [])
        held = after.enclosure.fastenings
        self.assertEqual([(f.kind, f.thread, f.carries) for f in held], [("screw", "M2", "p0")] * 4)
        self.assertEqual(
            {f.body.size_mm for f in held}, {(5.0, 5.0, 6.0)}
        )  # from the floor at 2 mm to the board at 8 mm
        fit = check_fit(after)
        self.assertTrue(all(contact_status(c) == "pass" for c in fit.contacts))
        self.assertFalse([c for c in fit.contacts if c.side is None and c.gap_mm <= 0])  # lying on a post is no gap

    def test_under_the_lid_they_hang_from_it(self) -> None:
        """The board's upper face at 17 mm is 5 mm below the lid at 22 mm, its lower one 13.4 mm above the floor."""
        made = gadget(board((10, 10, 13.4), JACK | {"at_mm": [8, 6, 3.6]}, holes=HOLES))
        after = way_out(made, "loose-board")
        self.assertEqual(
            {(f.body.position_mm[2], f.body.size_mm[2]) for f in after.enclosure.fastenings if f.body.position_mm},
            {(17.0, 5.0)},
        )
        self.assertEqual(seen(after, "post-off-hole"), [])
        self.assertTrue(all(contact_status(c) == "pass" for c in check_fit(after).contacts))
        split = after.model_copy(update={"enclosure": after.enclosure.model_copy(update={"split_mm": 12.0})})
        open_case = made.model_copy(update={"enclosure": made.enclosure.model_copy(update={"split_mm": 12.0})})
        before, held = ({p.name: p.volume_mm3 for p in pieces(d)} for d in (open_case, split))
        post, bore = (
            np.pi / 4 * d**2 * 5 for d in (5.0 - 0.1, 1.6 + 0.2)
        )  # drawn thinner, and wider, by what the making makes of them
        self.assertAlmostEqual((held["upper piece"] - before["upper piece"]) / (4 * (post - bore)), 1, delta=0.01)
        self.assertAlmostEqual(held["lower piece"], before["lower piece"], places=6)

    def test_too_low_or_in_the_way_there_is_none(self) -> None:
        """A post of 1.5 mm still holds; lower, they come from the lid; a block below is in the way of one, and three are left."""
        low = gadget(board((10, 10, 1.5), JACK, holes=HOLES))
        self.assertEqual(
            {f.body.position_mm[2] for f in way_out(low, "loose-board").enclosure.fastenings if f.body.position_mm},
            {2.0},
        )
        lower = gadget(board((10, 10, 1.49), JACK, holes=HOLES))
        hung = way_out(lower, "loose-board").enclosure.fastenings  # three from the lid; the jack is in the way of one
        self.assertEqual([f.body.position_mm[2] for f in hung if f.body.position_mm], [1.49 + 3.6] * 3)
        below = {"name": "Coil", "at_mm": [0, 0, 0], "size_mm": [8, 8, 2]}
        free_above = gadget(board((10, 10, 6), JACK | {"at_mm": [8, 6, 3.6]}, below, holes=HOLES))
        hung = way_out(free_above, "loose-board").enclosure.fastenings
        self.assertEqual([f.body.position_mm[2] for f in hung if f.body.position_mm], [9.6] * 4)
        neither = gadget(board((10, 10, 6), JACK, below, holes=HOLES))
        stand = way_out(neither, "loose-board").enclosure.fastenings  # three both ways: the shorter ones
        self.assertEqual([f.body.position_mm[2] for f in stand if f.body.position_mm], [2.0] * 3)

    def test_moved_off_its_posts_it_is_said_and_put_right(self) -> None:
        made = self.loose()
        held = way_out(made, "loose-board")

        def at(x: float, z: float = 6) -> Design:
            moved = raw(held)
            moved["parts"][0]["body"]["position_mm"] = [x, 10, z]
            return build_design(moved)

        self.assertEqual(seen(at(10.3), "post-off-hole"), [])
        found = seen(at(10.31), "post-off-hole")
        self.assertEqual(len(found), 4)
        again = way_out(at(10.31), "post-off-hole")
        self.assertEqual(seen(again, "post-off-hole"), [])
        self.assertEqual(len(again.enclosure.fastenings), 4)
        self.assertEqual(seen(at(10, 6.3), "post-off-hole"), [])
        self.assertEqual(len(seen(at(10, 6.31), "post-off-hole")), 4)

    def test_a_screw_that_does_not_go_through(self) -> None:
        made = self.loose()
        held = raw(way_out(made, "loose-board"))
        held["enclosure"]["fastenings"][0]["thread"] = "M2.5"
        found = seen(build_design(held), "post-off-hole")
        self.assertEqual(len(found), 1)
        self.assertIn("does not go through", found[0].sentence)

    def test_offers_name_the_board_and_are_what_they_say(self) -> None:
        made = self.loose()
        offers = [o for o in answer_holding(TrialBench(made, built_in())) if "Part 0" in o.label]
        self.assertEqual([o.kind for o in offers], ["screw", "insert"])
        for offer in offers:
            after = apply_patch(made, offer.patch)
            self.assertTrue(all(contact_status(c) == "pass" for c in check_fit(after).contacts), offer.label)

    def test_in_the_file_they_end_below_the_board(self) -> None:
        """Four posts of 6 mm with a bore of 1.6 mm and what it comes out smaller by; the lid has no hole for them."""
        made = self.loose()
        after = way_out(made, "loose-board")
        before, held = ({p.name: p.volume_mm3 for p in pieces(d)} for d in (made, after))
        self.assertGreater(held["lower piece"] - before["lower piece"], 4 * 6 * 8)
        self.assertLess(held["lower piece"] - before["lower piece"], 4 * 6 * np.pi / 4 * 25)
        self.assertAlmostEqual(held["upper piece"], before["upper piece"], places=6)


class Stacking(unittest.TestCase):
    def two(self, apart: float, **case: Any) -> Design:
        """A board whose bare lower side looks at the bare upper side of another one."""
        lower = {
            "shape": "board",
            "size_mm": [30, 20, 1.6],
            "position_mm": [4, 8, 6],
            "blocks": [BOARD | {"at_mm": [0, 0, 0]}],
        }
        return gadget(lower, lower | {"position_mm": [4, 8, 7.6 + apart]}, **case)

    def test_back_to_back_on_both_sides_of_a_millimetre(self) -> None:
        self.assertEqual([f.severity for f in seen(self.two(0.99), "back-to-back")], ["watch"])
        self.assertEqual(seen(self.two(1.0), "back-to-back"), [])
        edge = gadget(board((4, 8, 6), JACK), board((34.6, 8, 6), JACK, size_mm=[30, 20, 12]), outer_mm=[80, 40, 24])
        self.assertEqual(seen(edge, "back-to-back"), [])

    def test_a_film_between_settles_it(self) -> None:
        made = self.two(0.6)
        after = way_out(made, "back-to-back")
        self.assertEqual(seen(after, "back-to-back"), [])
        self.assertEqual(after.enclosure.films[0].thickness_mm, 0.2)
        self.assertEqual(way_out(self.two(0.1), "back-to-back").enclosure.films[0].thickness_mm, 0.1)

    def test_pins_that_decide_the_height(self) -> None:
        """The pins reach to 18 mm, the jack to 13 mm: 5 mm without them; with something else at 17.5 mm half a millimetre, at 17.51 mm nothing."""
        found = seen(gadget(board()), "spare-blocks")
        self.assertEqual(round(found[0].found.figures["saves"][0], 6), 5.0)
        made = gadget(board())
        after = check_fit(way_out(made, "spare-blocks"))
        self.assertAlmostEqual(max(float(p.high[2]) for p in after.placed), 13.0)
        self.assertEqual(len(seen(gadget(board(), plain_block((40, 8, 6), (5, 5, 11.5))), "spare-blocks")), 1)
        self.assertEqual(seen(gadget(board(), plain_block((40, 8, 6), (5, 5, 11.51))), "spare-blocks"), [])

    def test_what_is_not_spare_stays(self) -> None:
        self.assertEqual(seen(gadget(board((4, 8, 6), JACK, PINS | {"spare": False})), "spare-blocks"), [])

    def test_pins_in_the_way_can_be_left_off(self) -> None:
        made = gadget(board(), plain_block((23, 9, 14), (20, 10, 3)))
        found = next(f for f in seen(made, "collision"))
        way = next(r for r in found.found.ways() if r and r.label.startswith("Leave off Pins"))  # type: ignore[misc]
        after = apply(made, way)
        self.assertEqual(seen(after, "collision"), [])
        self.assertEqual([b.name for b in after.parts[0].body.blocks], ["Board", "Jack"])  # type: ignore[union-attr]


class Placing(unittest.TestCase):
    def test_boards_are_placed_by_the_box_around_them(self) -> None:
        made = raw(gadget(board((4, 8, 6)), board((4, 8, 6)), outer_mm=[60, 60, 40]))
        for p in made["parts"]:
            p["body"]["position_mm"] = None
        free = build_design(made)
        placed = place_all(free)
        done = free.model_copy(
            update={
                "parts": [p.model_copy(update={"body": placed.bodies[f"/parts/{i}"]}) for i, p in enumerate(free.parts)]
            }
        )
        self.assertTrue(all(contact_status(c) == "pass" for c in check_fit(done).contacts))
