"""What openings leave of a wall: by hand, on both sides of what holds, with ways out that are applied."""

from __future__ import annotations

import math
import unittest
from typing import Any

import numpy as np

from ember_core import Design
from ember_core.design.patches import apply
from ember_core.enclosure.fit import check_fit, contact_status
from ember_core.findings.fit.webs import _between, _between_boxes, _Hole

from .gadgets import cell, design, part, plain, seen, state, use

CASE = {"outer_mm": [60, 40, 20], "wall_mm": 2, "clearance_mm": 0.3, "gap_mm": 0.5, "process": "filament"}


def gadget(*bodies: dict[str, Any], **case: Any) -> Design:
    parts = [part(f"p{i}", state("on", 1e-3), body=b) for i, b in enumerate(bodies)]
    modes = [{"id": "on", "name": "On", "uses": [use(p["id"], "on") for p in parts]}]
    return design(
        parts=parts, modes=modes, day={"rest": "on"}, battery={"cell": cell(form="cylinder")}, enclosure=CASE | case
    )


def through(side: str, at: tuple[float, float, float], size: tuple[float, float, float], **more: Any) -> dict[str, Any]:
    return {"position_mm": list(at), "size_mm": list(size), "through": side} | more


class Boxes(unittest.TestCase):
    def test_between_boxes_it_is_as_between_their_outlines(self) -> None:
        random = np.random.default_rng(9)
        corners = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)], dtype=float)
        overlapping = 0
        for _ in range(60):
            low, size = random.uniform(0, 20, (2, 3)), random.uniform(2, 8, (2, 3))
            points = low[:, None] + corners * size[:, None]
            one, other = (
                _Hole(None, p.min(axis=0).tolist(), p.max(axis=0).tolist(), p)  # type: ignore[arg-type]
                for p in points
            )
            boxes = _between_boxes(one, other, (0, 1))
            np.testing.assert_allclose(boxes, _between(one.points, other.points, 2), atol=1e-6)
            overlapping += boxes == [0.0, 0.0]
        self.assertIn(overlapping, range(5, 55))


class Webs(unittest.TestCase):
    def two(self, apart: float, **case: Any) -> Design:
        """Two openings in the lid, their bodies so far apart."""
        return gadget(through("top", (10, 10, 14), (8, 8, 6)), through("top", (18 + apart, 12, 14), (8, 8, 6)), **case)

    def test_between_two_openings_on_both_sides_of_what_holds(self) -> None:
        """Each opening is 0.3 mm wider all around: 2.6 mm between the bodies leave the 2 mm of a strut, 1.4 mm the 0.8 mm of a wall at all."""
        for apart, severity in ((2.6, ""), (2.59, "watch"), (1.4, "watch"), (1.39, "fix"), (0.6, "")):
            with self.subTest(apart=apart):
                self.assertEqual(
                    [f.severity for f in seen(self.two(apart), "thin-web")], [severity] if severity else []
                )

    def test_it_is_told_with_its_figure_and_settled_by_the_least_move(self) -> None:
        made = self.two(2.0)
        found = seen(made, "thin-web")[0]
        self.assertIn("only 1.4 mm of the top wall are left", plain(found.sentence))
        remedy = found.remedy
        assert remedy
        self.assertIn("0.6 mm along x", plain(remedy.label))
        after = apply(made, remedy)
        self.assertFalse(seen(after, "thin-web"))
        self.assertTrue(all(contact_status(c) == "pass" for c in check_fit(after).contacts))

    def test_what_ones_machine_holds_counts(self) -> None:
        mine = {"name": "M", "free_mm": 0.3, "sliding_mm": 0.2, "press_mm": 0.1, "least_mm": 0.2, "wall_mm": 1.2, "least_wall_mm": 0.8,
                "strut_mm": 1.0, "least_hole_mm": 2, "hole_mm": 0.2, "post_mm": 0.1, "shrinks": 0.003}  # fmt: skip
        self.assertFalse(seen(self.two(1.6, making=mine), "thin-web"))
        self.assertTrue(seen(self.two(1.59, making=mine), "thin-web"))

    def test_round_openings_and_corners_by_their_outlines(self) -> None:
        """Two circles of 8.6 mm whose middles are 10 mm apart along both axes: 5.54 mm are left, of the boxes around them 2 mm."""
        circle = {"shape": "cylinder", "along": "z"}
        made = gadget(
            through("top", (10, 10, 14), (8, 8, 6), **circle), through("top", (17, 17, 14), (8, 8, 6), **circle)
        )
        self.assertEqual(len(seen(made, "thin-web")), 1)  # 9.9 - 8.6
        self.assertFalse(
            seen(
                gadget(
                    through("top", (10, 10, 14), (8, 8, 6), **circle), through("top", (20, 20, 14), (8, 8, 6), **circle)
                ),
                "thin-web",
            )
        )

    def test_from_corner_to_corner_the_least_move_along_one_axis_settles_it(self) -> None:
        """1 mm apart along both axes leave 1.41 mm, and the way out is no longer than it has to be."""
        for dx, dy in ((1.6, 1.6), (1.0, 2.1), (2.1, 1.0)):
            with self.subTest(dx=dx, dy=dy):
                made = gadget(
                    through("top", (10, 10, 14), (8, 8, 6)), through("top", (18 + dx, 18 + dy, 14), (8, 8, 6))
                )
                found = seen(made, "thin-web")
                self.assertEqual(len(found), 1)
                web = math.hypot(dx - 0.6, dy - 0.6)
                web, _ = found[0].found.figures["web"]
                self.assertAlmostEqual(web, math.hypot(dx - 0.6, dy - 0.6), places=9)
                ways = [w for w in (found[0].found.ways or list)() if w]
                self.assertEqual(len(ways), 2)
                for way in ways:
                    after = apply(made, way)
                    self.assertFalse(seen(after, "thin-web"))
                    places = [[b.low for b in check_fit(x).placed] for x in (made, after)]
                    self.assertLess(max(float(np.abs(p - q).max()) for p, q in zip(*places, strict=True)), 1.5)

    def test_openings_of_different_sides_do_not_meet(self) -> None:
        self.assertFalse(
            seen(gadget(through("top", (10, 10, 14), (8, 8, 6)), through("bottom", (19, 10, 0), (8, 8, 6))), "thin-web")
        )

    def test_beside_the_cases_edge(self) -> None:
        """1.2 mm of wall as a rule: an opening whose body begins 1.5 mm from the outer face leaves just that."""
        for at, severity in ((1.5, ""), (1.49, "watch"), (1.1, "watch"), (1.09, "fix")):
            with self.subTest(at=at):
                made = gadget(through("top", (at, 10, 14), (8, 8, 6)))
                self.assertEqual([f.severity for f in seen(made, "thin-web")], [severity] if severity else [])
        for at in (1.0, 0.2):
            made = gadget(
                through("top", (at, 10, 14), (8, 8, 6), position_mm=[at, 10, 14]), clearance_mm=0.1, corner_mm=0
            )
            ways = seen(made, "thin-web")[0].found.ways
            assert ways is not None
            for way in (w for w in ways() if w):
                self.assertFalse(seen(apply(made, way), "thin-web"))
        far = gadget(through("left", (0, 30.6, 8), (6, 8, 4)))  # to the back face 1.1 mm are left
        found = seen(far, "thin-web")
        self.assertIn("the edge only 1.1 mm of the left wall", plain(found[0].sentence))


if __name__ == "__main__":
    unittest.main()
