"""What lies behind its wall and is seen through a window, and how things sit between walls: by hand, on both sides of each limit."""

from __future__ import annotations

import unittest
from typing import Any

import numpy as np
from pydantic import ValidationError

from ember_core import Design
from ember_core.design import Body
from ember_core.design.patches import apply
from ember_core.enclosure.fit import check_fit, contact_status
from ember_core.enclosure.pieces import opening_corners, pieces
from ember_core.enclosure.placing import place_all
from ember_core.enclosure.solids import window_corners
from ember_core.making import MAKING, clearance_mm
from ember_core.studies.section import answer_section

from .gadgets import cell, design, part, seen, state, use

CASE = {"outer_mm": [60, 40, 20], "wall_mm": 2, "clearance_mm": 0.3, "gap_mm": 0.5, "process": "filament"}
WINDOW = {"at_mm": [3, 4], "size_mm": [20, 12], "film_mm": 0}


def gadget(body: dict[str, Any], **case: Any) -> Design:
    shown = part("display", state("on", 1e-3), name="Display", body=body)
    modes = [{"id": "on", "name": "On", "uses": [use("display", "on")]}]
    return design(
        parts=[shown], modes=modes, day={"rest": "on"}, battery={"cell": cell(form="cylinder")}, enclosure=CASE | case
    )


def display(z: float = 14.0, window: dict[str, Any] | None = None, **more: Any) -> dict[str, Any]:
    """26 x 20 x 4 mm under the lid, whose inner face is at 18 mm."""
    return {
        "size_mm": [26, 20, 4], "position_mm": [10, 8, z], "through": "top", "window": WINDOW | (window or {}),
    } | more  # fmt: skip


class Windows(unittest.TestCase):
    def test_it_lies_at_the_wall_and_not_in_it(self) -> None:
        for z, status in ((14.0, ""), (13.6, ""), (14.01, "fail")):
            found = [c for c in check_fit(gadget(display(z))).contacts if c.side == "top"]
            self.assertEqual([contact_status(c) for c in found], [status] if status else [], z)

    def test_a_film_wants_its_room(self) -> None:
        for z, status in ((13.5, ""), (13.51, "watch")):
            found = [c for c in check_fit(gadget(display(z, {"film_mm": 0.5}))).contacts if c.side == "top"]
            self.assertEqual([contact_status(c) for c in found], [status] if status else [], z)

    def test_too_far_behind_its_wall_it_is_moved_to_it(self) -> None:
        self.assertEqual(seen(gadget(display(13.0)), "short-of-its-wall"), [])
        made = gadget(display(12.9, {"film_mm": 0.5}))
        remedy = seen(made, "short-of-its-wall")[0].remedy
        assert remedy is not None
        after = apply(made, remedy)
        body = after.parts[0].body
        assert body is not None
        assert body.position_mm is not None
        self.assertAlmostEqual(body.position_mm[2], 13.5)
        self.assertEqual(seen(after, "short-of-its-wall"), [])

    def test_the_opening_is_the_window(self) -> None:
        """20 x 12 mm through a lid of 2 mm, and no more."""
        made = gadget(display())
        holes = opening_corners(check_fit(made).placed[0], made.enclosure)
        np.testing.assert_allclose(holes[0].min(axis=0), (13, 12, 18))
        np.testing.assert_allclose(holes[0].max(axis=0), (33, 24, 18))
        closed = gadget({"size_mm": [1, 1, 1], "position_mm": None})
        taken = sum(p.volume_mm3 for p in pieces(closed)) - sum(p.volume_mm3 for p in pieces(made))
        self.assertAlmostEqual(taken, 20 * 12 * 2, places=3)

    def test_turned_it_looks_out_of_another_side(self) -> None:
        """A quarter about x: what looked up looks to the front."""
        body = Body.model_validate(display(through="front", turn_deg=[90, 0, 0]))
        points = window_corners(body)
        self.assertLess(float(np.ptp(points[:, 1])), 1e-9)
        np.testing.assert_allclose(sorted(np.ptp(points, axis=0)), (0, 12, 20), atol=1e-9)
        self.assertEqual(len(window_corners(Body.model_validate(display(turn_deg=[30, 30, 0])))), 0)

    def test_the_wall_covers_its_edge_on_both_sides_of_a_millimetre(self) -> None:
        for at, severity in ((1.0, ""), (0.99, "watch"), (0.0, "watch"), (-0.01, "fix")):
            made = gadget(display(window={"at_mm": [at, 4]}))
            found = seen(made, "bezel")
            self.assertEqual([f.severity for f in found], [severity] if severity else [], at)
            for one in found:
                assert one.remedy is not None
                self.assertEqual(seen(apply(made, one.remedy), "bezel"), [])
        # at each of its four edges by itself: the side is 26 x 20 mm, the window 20 x 12 mm
        for bare, covered in (([0.99, 4], [1, 4]), ([5.01, 4], [5, 4]), ([3, 0.99], [3, 1]), ([3, 7.01], [3, 7])):
            self.assertEqual([f.severity for f in seen(gadget(display(window={"at_mm": bare})), "bezel")], ["watch"])
            self.assertEqual(seen(gadget(display(window={"at_mm": covered})), "bezel"), [])

    def test_a_window_belongs_to_a_side(self) -> None:
        with self.assertRaises(ValidationError):
            Body.model_validate(display(through=None))

    def test_placed_at_once_it_lies_behind_its_wall(self) -> None:
        for side, at in (("top", 20 - 2 - 0.5 - 4), ("bottom", 2.5)):
            made = gadget(display(window={"film_mm": 0.5}, position_mm=None, through=side))
            body = place_all(made).bodies["/parts/0"]
            assert body.position_mm is not None
            self.assertAlmostEqual(body.position_mm[2], at)

    def test_cut_it_is_measured_to_its_wall(self) -> None:
        answer = answer_section(gadget(display(13.5)), "x", 20.0)
        gap = next(m for m in answer.measures if m.name == "Display to the wall")
        self.assertAlmostEqual(gap.length_mm, 0.5)
        self.assertEqual(gap.status, "pass")


class Fits(unittest.TestCase):
    def test_what_each_needs(self) -> None:
        made = gadget(display()).enclosure
        usual = MAKING["filament"]
        self.assertEqual(
            [clearance_mm(made, f) for f in ("free", "sliding", "press")], [0.3, usual.sliding, usual.press]
        )
        coated = made.model_copy(update={"finish": "coated"})
        self.assertAlmostEqual(clearance_mm(coated, "sliding"), usual.sliding + 0.1)
        self.assertEqual(clearance_mm(coated, "free"), 0.3)  # the design's own

    def test_on_both_sides_at_a_wall_and_in_a_rounded_corner(self) -> None:
        for fits, needed in (("free", 0.3), ("sliding", 0.2), ("press", 0.1)):
            for more, status in ((0.001, "pass"), (-0.001, "watch")):
                body = {"size_mm": [5, 5, 5], "position_mm": [2 + needed + more, 15, 6], "fits": fits}
                contact = next(c for c in check_fit(gadget(body)).contacts if c.side == "left")
                self.assertEqual((contact_status(contact), contact.needed_mm), (status, needed))
                leaning = next(c for c in check_fit(gadget(body, edge_mm=1e-4)).contacts if c.side == "left")
                self.assertEqual(leaning.needed_mm, needed)

    def test_its_opening_is_as_wide(self) -> None:
        for fits, around in (("free", 0.3), ("sliding", 0.2), ("press", 0.1)):
            made = gadget({"size_mm": [8, 9, 3], "position_mm": [0, 15, 6], "through": "left", "fits": fits})
            hole = opening_corners(check_fit(made).placed[0], made.enclosure)[0]
            self.assertAlmostEqual(float(np.ptp(hole[:, 1])), 9 + 2 * around)
