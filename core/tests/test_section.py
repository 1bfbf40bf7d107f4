"""The case cut by a plane: outlines by hand, gaps as they are measured, what is not there."""

from __future__ import annotations

import math
import unittest
from typing import Any

import numpy as np

from ember_core import Design
from ember_core.enclosure.fit import check_fit, contact_status
from ember_core.enclosure.section import crosses, nearest
from ember_core.numeric import Array
from ember_core.studies import SectionAnswer, answer_section

from .gadgets import cell, design, part, state, use

CASE = {"outer_mm": [60, 40, 20], "wall_mm": 2, "gap_mm": 0.5, "clearance_mm": 0.3}


def gadget(*bodies: dict[str, Any], **case: Any) -> Design:
    parts = [part(f"p{i}", state("on", 1e-3), body=b) for i, b in enumerate(bodies)] or [part("p0", state("on", 1e-3))]
    modes = [{"id": "on", "name": "On", "uses": [use(p["id"], "on") for p in parts]}]
    return design(
        parts=parts, modes=modes, day={"rest": "on"}, battery={"cell": cell(form="cylinder")}, enclosure=CASE | case
    )


def box(at: tuple[float, float, float], size: tuple[float, float, float], **more: Any) -> dict[str, Any]:
    return {"position_mm": list(at), "size_mm": list(size)} | more


def area(outline: list[list[float]]) -> float:
    x, y = np.array(outline).T
    return abs(float(np.sum(x * np.roll(y, -1) - y * np.roll(x, -1)))) / 2


def named(answer: SectionAnswer, name: str) -> float:
    return next(m.length_mm for m in answer.measures if m.name == name)


class Outlines(unittest.TestCase):
    def test_of_the_case_in_each_direction(self) -> None:
        for axis, outer, inner in (("z", 60 * 40, 56 * 36), ("x", 40 * 20, 36 * 16), ("y", 60 * 20, 56 * 16)):
            found = answer_section(gadget(), axis, 10)
            self.assertAlmostEqual(area(found.shell[0]), outer)
            self.assertAlmostEqual(area(found.shell[1]), inner)

    def test_walls_of_their_own(self) -> None:
        found = answer_section(gadget(walls_mm={"left": 5, "top": 1}), "y", 20)
        self.assertEqual([named(found, f"{s} wall") for s in ("left", "right", "bottom", "top")], [5, 2, 2, 1])

    def test_a_wall_is_watched_below_what_its_making_makes_as_a_rule(self) -> None:
        for wall, status in ((1.2, "pass"), (1.19, "watch")):
            found = answer_section(gadget(wall_mm=wall), "z", 10)
            self.assertEqual({m.status for m in found.measures if m.kind == "wall"}, {status})

    def test_inside_a_wall_there_is_no_inside_and_beyond_the_case_its_end(self) -> None:
        for at, inside in ((1.9, False), (2.0, True), (18.0, True), (18.1, False), (500.0, False)):
            found = answer_section(gadget(), "z", at)
            self.assertEqual(len(found.shell) > 1, inside, at)
            self.assertLessEqual(found.at_mm, 20)
        self.assertFalse([m for m in answer_section(gadget(), "z", 1).measures if m.kind == "wall"])

    def test_rounded_edges(self) -> None:
        found = answer_section(gadget(corner_mm=10), "z", 10)
        self.assertAlmostEqual(area(found.shell[0]), 60 * 40 - (4 - math.pi) * 100, delta=2.5)
        across = answer_section(gadget(corner_mm=10), "x", 4)  # six into the rounding: eight of its ten are left
        self.assertAlmostEqual(area(across.shell[0]), (40 - 2 * 2) * 20)
        self.assertAlmostEqual(area(answer_section(gadget(corner_mm=10), "x", 10).shell[0]), 40 * 20)

    def test_of_a_cuboid_a_cylinder_and_one_that_is_turned(self) -> None:
        turned = box((30, 15, 5), (10, 10, 10), turn_deg=[0, 0, 45])
        round_one = box((10, 10, 5), (12, 12, 10), shape="cylinder", along="z")
        found = answer_section(gadget(box((5, 5, 5), (4, 3, 10)), round_one, turned), "z", 10)
        areas = {b.where: area(b.outlines[0]) for b in found.bodies}
        self.assertAlmostEqual(areas["/parts/0"], 12)
        self.assertAlmostEqual(areas["/parts/1"], math.pi * 36, delta=0.2)
        self.assertAlmostEqual(areas["/parts/2"], 100, places=6)
        lying = box((10, 10, 5), (12, 12, 10), shape="cylinder", along="z", turn_deg=[90, 0, 0])
        half = answer_section(gadget(lying), "z", 10)
        self.assertAlmostEqual(area(half.bodies[0].outlines[0]), 12 * 10, delta=0.1)

    def test_what_the_plane_misses_is_not_cut(self) -> None:
        low = box((5, 5, 3), (4, 3, 4))
        for at, cut in ((2.99, False), (3.01, True), (6.99, True), (7.01, False)):
            self.assertEqual(bool(answer_section(gadget(low), "z", at).bodies), cut, at)


class Measures(unittest.TestCase):
    def test_gaps_are_those_of_the_fit(self) -> None:
        """Of boxes beside each other the plane shows what the check says."""
        made = gadget(box((5, 5, 3), (10, 10, 10)), box((18.5, 5, 3), (10, 10, 10)), box((40, 25, 3), (10, 10, 10)))
        found = answer_section(made, "z", 8)
        fit = check_fit(made)
        by_pair = {(c.first, c.second): c.gap_mm for c in fit.contacts if c.side is None}
        self.assertAlmostEqual(named(found, "p0 to p1"), by_pair[0, 1])
        self.assertAlmostEqual(named(found, "p1 to p2"), by_pair[1, 2])
        self.assertAlmostEqual(named(found, "p0 to the wall"), 3)
        self.assertEqual(found.measures[0].name, "p0 to the wall")

    def test_status_on_both_sides_of_what_is_needed(self) -> None:
        for gap, status in ((0.5, "pass"), (0.49, "watch"), (-0.2, "fail")):
            made = gadget(box((5, 5, 3), (10, 10, 10)), box((15 + gap, 5, 3), (10, 10, 10)))
            one = next(m for m in answer_section(made, "z", 8).measures if m.name == "p0 to p1")
            self.assertEqual(one.status, status, gap)
            contact = next(c for c in check_fit(made).contacts if c.side is None)
            self.assertEqual(contact_status(contact), status)
            self.assertAlmostEqual(one.length_mm, max(gap, 0.0))
        for left, status in ((2.3, "pass"), (2.29, "watch"), (1.5, "fail")):
            one = next(
                m
                for m in answer_section(gadget(box((left, 5, 3), (10, 10, 10))), "z", 8).measures
                if m.name == "p0 to the wall"
            )
            self.assertEqual(one.status, status, left)

    def test_what_stands_between_is_what_is_measured_to(self) -> None:
        made = gadget(box((5, 5, 3), (5, 10, 10)), box((14, 5, 3), (2, 10, 10)), box((20, 5, 3), (5, 10, 10)))
        names = {m.name for m in answer_section(made, "z", 8).measures if m.kind == "gap"}
        self.assertLessEqual({"p0 to p1", "p1 to p2"}, names)
        self.assertNotIn("p0 to p2", names)

    def test_a_film_is_what_is_needed(self) -> None:
        made = gadget(
            box((5, 5, 3), (10, 10, 10)),
            box((15.2, 5, 3), (10, 10, 10)),
            films=[{"first": "p1", "second": "p0", "thickness_mm": 0.2}],
        )
        self.assertEqual(next(m for m in answer_section(made, "z", 8).measures if m.name == "p0 to p1").status, "pass")

    def test_what_goes_through_a_wall_or_belongs_together_is_not_measured(self) -> None:
        made = gadget(
            box((0, 5, 3), (10, 10, 10), through="left"),
            box((20, 5, 3), (10, 10, 10)),
            box((31, 5, 3), (10, 10, 10), on="p1"),
        )
        names = {m.name for m in answer_section(made, "z", 8).measures}
        self.assertNotIn("p0 to the wall", names)
        self.assertNotIn("p1 to p2", names)
        self.assertIn("p0 to p1", names)

    def test_thirty_millimetres_are_told_and_more_are_not(self) -> None:
        for gap, told in ((30.0, True), (30.1, False)):
            made = gadget(box((4, 5, 3), (10, 10, 10)), box((14 + gap, 5, 3), (10, 10, 10)))
            self.assertEqual("p0 to p1" in {m.name for m in answer_section(made, "z", 8).measures}, told)


class Plane(unittest.TestCase):
    def square(self, x: float, y: float, side: float = 1.0) -> Array:
        return np.array([[x, y], [x + side, y], [x + side, y + side], [x, y + side]])

    def test_nearest_of_edges_and_corners(self) -> None:
        a, b = nearest(self.square(0, 0), self.square(3, 0.5))
        self.assertAlmostEqual(float(np.linalg.norm(b - a)), 2)
        a, b = nearest(self.square(0, 0), self.square(4, 5))
        np.testing.assert_allclose([a, b], [[1, 1], [4, 5]])
        diamond = np.array([[3.0, 0.5], [4, 1.5], [5, 0.5], [4, -0.5]])
        a, b = nearest(self.square(0, 0), diamond)
        np.testing.assert_allclose([a, b], [[1, 0.5], [3, 0.5]])

    def test_touching_is_not_crossing(self) -> None:
        self.assertFalse(crosses(self.square(0, 0), self.square(1, 0)))
        self.assertTrue(crosses(self.square(0, 0), self.square(0.9, 0)))
        self.assertTrue(crosses(self.square(0, 0, 4), self.square(1, 1)))
        self.assertFalse(crosses(self.square(0, 0), self.square(0.9, 1.2)))


if __name__ == "__main__":
    unittest.main()
