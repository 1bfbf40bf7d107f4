"""Turned and round bodies, walls of their own and rounded corners, each by hand; and against the cuboids that they are at right angles."""

import math
import unittest
from typing import Any
from unittest.mock import patch

import numpy as np
from pydantic import ValidationError

from ember_core import evaluate
from ember_core.design import Body, Design, Enclosure
from ember_core.enclosure.bodies import Contact
from ember_core.enclosure.fit import Fit, check_fit, contact_status
from ember_core.enclosure.solids import Solid, corners, distance_mm, looks_to, turned_by
from ember_core.summary import fit_summary
from ember_core.thermal.shell import shell_mass_g

from . import gadgets
from .gadgets import plain


def body(size: tuple[float, float, float], at: tuple[float, float, float] = (0, 0, 0), **more: Any) -> Body:
    return Body.model_validate({"size_mm": size, "position_mm": at} | more)


def gap(first: Body, second: Body) -> tuple[float, int]:
    return distance_mm(Solid(corners(first)), Solid(corners(second)))


def gadget(case: dict[str, Any], *bodies: Body) -> Design:
    """A gadget of which only the case and the first parts' bodies count."""
    parts = [gadgets.part(f"p{i}", gadgets.state("on", 1e-3), name=f"Part {i}") for i in range(len(bodies))]
    modes = [{"id": "asleep", "name": "Asleep", "uses": [gadgets.use(p["id"], "on") for p in parts]}]
    enclosure = {"outer_mm": (40, 30, 20), "wall_mm": 2, "clearance_mm": 0.3, "gap_mm": 0.5} | case
    design = gadgets.design(parts=parts, modes=modes, day={"rest": "asleep"}, enclosure=enclosure)
    placed = [p.model_copy(update={"body": b}) for p, b in zip(design.parts, bodies, strict=True)]
    return design.model_copy(update={"parts": placed})


def to_corner(fit: Fit) -> Contact:
    return min((c for c in fit.contacts if c.corner), key=lambda c: c.gap_mm)


class Turning(unittest.TestCase):
    def test_a_quarter_turn_is_the_cuboid_with_its_sides_exchanged(self) -> None:
        points = corners(body((10, 4, 2), (5, 5, 5), turn_deg=(0, 0, 90)))
        np.testing.assert_allclose(points.min(axis=0), (8, 2, 5), atol=1e-12)
        np.testing.assert_allclose(points.max(axis=0), (12, 12, 7), atol=1e-12)

    def test_about_x_then_y_then_z(self) -> None:
        np.testing.assert_allclose(turned_by((90, 0, 0)) @ (0, 1, 0), (0, 0, 1), atol=1e-12)
        np.testing.assert_allclose(turned_by((0, 90, 0)) @ (0, 0, 1), (1, 0, 0), atol=1e-12)
        np.testing.assert_allclose(turned_by((90, 0, 90)) @ (0, 1, 0), (0, 0, 1), atol=1e-12)

    def test_about_y_in_both_directions(self) -> None:
        np.testing.assert_allclose(turned_by((0, 90, 0)) @ (1, 0, 0), (0, 0, -1), atol=1e-12)
        np.testing.assert_allclose(turned_by((0, -30, 0)) @ (1, 0, 0), (math.sqrt(3) / 2, 0, 0.5), atol=1e-12)

    def test_the_side_of_the_case_that_a_side_looks_to(self) -> None:
        """By hand: a quarter about z takes right to back, back to left; about x back to top; about y top to right."""
        for turn, sides in (
            ((0, 0, 0), {"left": "left", "right": "right", "front": "front", "bottom": "bottom", "top": "top"}),
            ((0, 0, 90), {"right": "back", "back": "left", "left": "front", "top": "top"}),
            ((90, 0, 0), {"back": "top", "top": "front", "left": "left"}),
            ((0, 90, 0), {"top": "right", "right": "bottom", "front": "front"}),
            ((0, 0, 25), {"right": "right", "front": "front"}),
            ((0, 0, 26), {"right": None, "top": "top"}),
        ):
            turned = body((5, 6, 7), turn_deg=turn)
            for own, seen in sides.items():
                self.assertEqual(looks_to(turned, own), seen)  # type: ignore[arg-type]

    def test_a_pouch_that_swells_grows_at_its_far_side_before_it_is_turned(self) -> None:
        points = corners(body((10, 4, 2), turn_deg=(0, 90, 0)), np.array([0, 0, 1.0]))
        np.testing.assert_allclose(np.ptp(points, axis=0), (3, 4, 10), atol=1e-12)


class Distances(unittest.TestCase):
    def test_a_square_on_its_edge(self) -> None:
        """A 10 mm square turned by 45 degrees reaches 5 sqrt 2 from its middle."""
        turned = body((10, 10, 10), turn_deg=(0, 0, 45))
        apart, axis = gap(turned, body((10, 10, 10), (15, 0, 0)))
        self.assertAlmostEqual(apart, 10 - 5 * math.sqrt(2), places=9)
        self.assertEqual(axis, 0)

    def test_two_cylinders_side_by_side(self) -> None:
        lying = {"shape": "cylinder", "along": "y"}
        apart, _ = gap(body((18, 65, 18), **lying), body((18, 65, 18), (19, 0, 0), **lying))
        self.assertAlmostEqual(apart, 1.0, delta=2 * 9 * 0.001)

    def test_a_cylinder_leaves_room_in_the_corner_of_its_box(self) -> None:
        """A small cube in the corner that the box around a cylinder of radius 9 leaves free: 9 sqrt 2 - 9 less its diagonal."""
        apart, _ = gap(body((18, 65, 18), shape="cylinder", along="y"), body((1, 1, 1)))
        self.assertAlmostEqual(apart, 9 * math.sqrt(2) - 9 - math.sqrt(2), delta=0.01)

    def test_how_far_one_reaches_into_the_other(self) -> None:
        turned = body((10, 10, 10), turn_deg=(0, 0, 45))
        apart, axis = gap(turned, body((10, 10, 10), (11, 0, 0)))
        self.assertAlmostEqual(apart, -(5 + 5 * math.sqrt(2) - 11), places=9)
        self.assertEqual(axis, 0)

    def test_of_more_pairs_than_are_measured_the_nearest_are(self) -> None:
        """Forty turned cubes in a row: without a limit all neighbours are measured, with one of ten the others count as their boxes."""
        cubes = [body((4, 4, 4), (5 + 7.5 * i, 5, 5), turn_deg=(0, 0, 45)) for i in range(40)]
        design = gadget({"outer_mm": (320, 30, 20)}, *cubes)
        side = 4 * math.sqrt(2)

        def gaps() -> list[float]:
            return [round(c.gap_mm, 6) for c in check_fit(design).contacts if c.second == c.first + 1]

        self.assertEqual(gaps(), [round(7.5 - side, 6)] * 39)
        with (
            patch("ember_core.enclosure.fit.MOST_MEASURED", 10),
            patch("ember_core.enclosure.fit.distance_mm") as measured,
        ):
            measured.return_value = (9.0, 0)
            self.assertEqual(sorted(gaps()), [round(7.5 - side, 6)] * 29 + [9.0] * 10)

    def test_solids_along_the_axes_are_as_far_apart_as_cuboids_are(self) -> None:
        random = np.random.default_rng(4)
        for _ in range(40):
            a, b = (body(tuple(random.uniform(2, 8, 3)), tuple(random.uniform(0, 14, 3))) for _ in range(2))
            contact = next(c for c in check_fit(gadget({}, a, b)).contacts if c.second == 1)
            apart, _ = gap(a, b)
            if contact.gap_mm > 0:
                self.assertAlmostEqual(apart, contact.gap_mm, places=6)
            else:
                self.assertLessEqual(apart, 0)


class InTheCase(unittest.TestCase):
    def walls(self, fit: Fit) -> dict[str, float]:
        return {str(c.side): c.gap_mm for c in fit.contacts if c.side and not c.corner}

    def test_each_wall_may_have_a_thickness_of_its_own(self) -> None:
        fit = check_fit(gadget({"walls_mm": {"left": 1, "top": 3.5}}, body((10, 10, 10), (5, 5, 5))))
        found = self.walls(fit)
        self.assertEqual(found["left"], 4)
        self.assertEqual(found["right"], 40 - 15 - 2)
        self.assertEqual(found["top"], 20 - 15 - 3.5)
        self.assertEqual(tuple(fit.cavity_mm), (37, 26, 14.5))

    def test_a_turned_body_reaches_its_walls_with_its_corners(self) -> None:
        found = self.walls(check_fit(gadget({}, body((10, 10, 10), (5, 10, 5), turn_deg=(0, 0, 45)))))
        self.assertAlmostEqual(found["left"], 10 - 5 * math.sqrt(2) - 2, places=9)
        self.assertAlmostEqual(found["bottom"], 3, places=9)

    def test_a_cuboid_in_a_rounded_corner(self) -> None:
        """Inside radius 6 about (8, 8): the cuboid's edge at (3, 3) is 5 sqrt 2 from there."""
        fit = check_fit(gadget({"corner_mm": 8}, body((10, 10, 10), (3, 3, 5))))
        found = to_corner(fit)
        self.assertEqual((found.side, found.corner), ("left", "front"))
        self.assertAlmostEqual(found.gap_mm, 6 - 5 * math.sqrt(2), places=9)
        self.assertEqual(contact_status(found), "fail")
        self.assertEqual(self.walls(fit)["left"], 1)

    def test_both_sides_of_what_a_corner_needs(self) -> None:
        at = 8 - (6 - 0.3) / math.sqrt(2)  # 0.3 mm from the arc
        for more, status in ((1e-3, "pass"), (-1e-3, "watch")):
            fit = check_fit(gadget({"corner_mm": 8}, body((10, 10, 10), (at + more, at + more, 5))))
            self.assertEqual(contact_status(to_corner(fit)), status)

    def test_a_cylinder_in_a_round_case_has_the_same_gap_all_around(self) -> None:
        case = {"outer_mm": (30, 30, 20), "corner_mm": 15}
        fit = check_fit(gadget(case, body((20, 20, 10), (5, 5, 5), shape="cylinder")))
        for contact in (c for c in fit.contacts if c.corner):
            self.assertAlmostEqual(contact.gap_mm, 13 - 10, delta=0.02)

    def test_what_goes_through_a_side_may_cross_its_corners(self) -> None:
        fit = check_fit(gadget({"corner_mm": 8}, body((10, 10, 10), (0, 3, 5), through="left")))
        self.assertFalse([c for c in fit.contacts if c.corner])

    def test_room_taken_counts_round_things_as_round(self) -> None:
        straight = check_fit(gadget({}, body((10, 10, 10), (5, 5, 5)))).filled_share
        rounded = check_fit(gadget({}, body((10, 10, 10), (5, 5, 5), shape="cylinder"))).filled_share
        room = 36 * 26 * 16
        self.assertAlmostEqual((straight - rounded) * room, 1000 * (1 - math.pi / 4), places=6)


class FromAFile(unittest.TestCase):
    def wedge(self, at: tuple[float, float, float], **more: Any) -> Body:
        hull = [(0, 0, 0), (10, 0, 0), (10, 10, 0), (0, 10, 0), (0, 0, 10), (0, 10, 10)]
        return body((10, 10, 10), at, shape="mesh", hull_mm=hull, **more)

    def test_its_hull_is_judged_and_not_its_box(self) -> None:
        """A wedge cut from edge to edge of a cube: a cube above its slope is as far from it as its own edge from the diagonal."""
        apart, _ = gap(self.wedge((0, 0, 0)), body((4, 10, 4), (7, 0, 7)))
        self.assertAlmostEqual(apart, (14 - 10) / math.sqrt(2), places=6)

    def test_it_takes_half_of_its_box(self) -> None:
        fit = check_fit(gadget({}, self.wedge((5, 5, 5))))
        self.assertAlmostEqual(fit.filled_share * 36 * 26 * 16, 500, places=3)

    def test_a_hull_lies_in_its_box_and_has_four_corners(self) -> None:
        for hull, said in (
            ([(0, 0, 0), (1, 0, 0), (0, 1, 0)], "four corners"),
            ([(0, 0, 0), (1, 0, 0), (0, 1, 0), (0, 0, 10.1)], "lies in the box"),
        ):
            with self.assertRaises(ValidationError) as caught:
                body((10, 10, 10), shape="mesh", hull_mm=hull)
            self.assertIn(said, str(caught.exception))


class AsText(unittest.TestCase):
    def test_gaps_the_tightest_first_what_has_no_place_and_the_findings(self) -> None:
        free = body((3, 3, 3)).model_copy(update={"position_mm": None})
        design = gadget({"corner_mm": 8}, body((10, 10, 10), (3, 3, 5)), body((5, 5, 5), (20, 10, 5)), free)
        lines = [plain(x) for x in fit_summary(evaluate(design)).splitlines()]
        rows = [x for x in lines if x.startswith("  [")]
        self.assertTrue(lines[0].startswith("Inside 36 × 26 × 16 mm,"), lines[0])
        self.assertEqual(rows[0][:16], "  [FAIL ] Part 0")
        self.assertIn("-1.1 mm to the left front corner, needs 0.3 mm", rows[0].replace("−", "-"))
        self.assertIn("  [  ?  ] Part 2", [x[:16] for x in rows])
        self.assertIn("  FIX    Part 0 and the left front corner collide  [collision]", lines)


class TheCase(unittest.TestCase):
    def test_its_mass_by_hand(self) -> None:
        """Outer 40 x 30 x 20 with corners of 8, inside 36 x 26 x 16 with corners of 6, PETG at 1.27 g/cm3."""
        case = Enclosure.model_validate({"outer_mm": (40, 30, 20), "wall_mm": 2, "corner_mm": 8, "plastic": "PETG"})
        outer = (1200 - (4 - math.pi) * 64) * 20
        inner = (936 - (4 - math.pi) * 36) * 16
        self.assertAlmostEqual(shell_mass_g(case), (outer - inner) / 1000 * 1.27, places=9)

    def test_walls_let_heat_through_side_by_side(self) -> None:
        case = Enclosure.model_validate({"outer_mm": (10, 10, 10), "wall_mm": 1, "walls_mm": {"top": 2}})
        self.assertAlmostEqual(case.mean_wall_mm, 6 / (5 / 1 + 1 / 2))
        self.assertAlmostEqual(Enclosure(outer_mm=(10, 20, 30), wall_mm=1.7).mean_wall_mm, 1.7)

    def test_bad_shapes_are_refused_in_words(self) -> None:
        for case, said in (
            ({"corner_mm": 15.1}, "can't be rounder than half its smaller side, 15 mm"),
            ({"split_mm": 0}, "greater than 0"),
            ({"walls_mm": {"top": 0}}, "greater than or equal to 0.01"),
        ):
            with self.subTest(case), self.assertRaises(ValidationError) as caught:
                Enclosure.model_validate({"outer_mm": (40, 30, 20)} | case)
            self.assertIn(said, str(caught.exception))
        Enclosure.model_validate({"outer_mm": (40, 30, 20), "corner_mm": 15, "split_mm": 19.9})

    def test_a_cylinder_is_round(self) -> None:
        body((10, 30, 10), shape="cylinder", along="y")
        with self.assertRaises(ValidationError) as caught:
            body((10, 30, 10), shape="cylinder", along="z")
        self.assertIn("as wide as it is deep, not 10 by 30 mm", str(caught.exception))


if __name__ == "__main__":
    unittest.main()
