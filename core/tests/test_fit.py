"""Gaps between bodies and to the walls."""

from __future__ import annotations

import unittest

from ember_core import Design
from ember_core.enclosure.fit import check_fit, contact_status

from .gadgets import cell, design, part, state, use


def boxed(*bodies: tuple[tuple[float, ...], tuple[float, ...] | None], **enclosure: object) -> Design:
    parts = [
        part(f"p{i}", state("on", 0.001), body={"size_mm": size, "position_mm": place})
        for i, (size, place) in enumerate(bodies)
    ]
    uses = [use(p["id"], "on") for p in parts]
    modes = [{"id": "asleep", "name": "Asleep", "uses": uses}]
    case = {"outer_mm": [50, 50, 20], "wall_mm": 2, "gap_mm": 0.5, "clearance_mm": 0.3} | enclosure
    return design(parts=parts, modes=modes, day={"rest": "asleep"}, enclosure=case)


class Gaps(unittest.TestCase):
    def test_gap_along_one_axis_and_across_a_corner(self) -> None:
        fit = check_fit(boxed(((10, 10, 5), (5, 5, 5)), ((10, 10, 5), (18, 5, 5)), ((5, 5, 5), (18, 19, 5))))
        pairs = {(c.first, c.second): c.gap_mm for c in fit.contacts if c.side is None}
        self.assertAlmostEqual(pairs[0, 1], 3.0)
        self.assertAlmostEqual(pairs[1, 2], 4.0)
        self.assertAlmostEqual(pairs[0, 2], 5.0)  # 3 along x and 4 along y

    def test_overlap_is_the_least_way_out(self) -> None:
        fit = check_fit(boxed(((10, 10, 5), (5, 5, 5)), ((10, 10, 5), (13, 6, 5))))
        contact = next(c for c in fit.contacts if c.side is None)
        self.assertAlmostEqual(contact.gap_mm, -2.0)
        self.assertEqual((contact.axis, contact_status(contact)), (0, "fail"))

    def test_a_body_in_the_wall_fails_by_how_far_it_reaches_in(self) -> None:
        fit = check_fit(boxed(((10, 10, 5), (1.5, 10, 5))))
        left = next(c for c in fit.contacts if c.side == "left")
        self.assertAlmostEqual(left.gap_mm, -0.5)
        self.assertAlmostEqual(left.margin_mm, -0.8)

    def test_a_port_through_a_wall_needs_no_clearance_there(self) -> None:
        gadget = boxed(((10, 10, 5), (0, 10, 5)))
        assert gadget.parts[0].body
        gadget.parts[0].body.through = "left"
        self.assertTrue(all(contact_status(c) == "pass" for c in check_fit(gadget).contacts))

    def test_exact_clearance_passes(self) -> None:
        fit = check_fit(boxed(((10, 10, 5), (2.3, 10, 5)), ((10, 10, 5), (12.8, 10, 5))))
        self.assertTrue(all(contact_status(c) == "pass" for c in fit.contacts))

    def test_unplaced_bodies_are_named(self) -> None:
        fit = check_fit(boxed(((10, 10, 5), None)))
        self.assertEqual([name for _, name in fit.unplaced], ["p0", "Regulator", "Test cell"])

    def test_a_pouch_counts_with_its_swelling_a_cylinder_without(self) -> None:
        def top_gap(form: str) -> float:
            body = {"size_mm": [30, 40, 6], "position_mm": [5, 5, 5]}
            gadget = design(battery={"cell": cell(form=form), "body": body})
            return next(c.gap_mm for c in check_fit(gadget).contacts if c.side == "top")

        self.assertAlmostEqual(top_gap("cylinder") - top_gap("pouch"), 0.6)
