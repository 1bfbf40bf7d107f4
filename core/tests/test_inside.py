"""Inside is inside, and through a wall is through it: by hand in cases of each shape, on both sides of each limit, and 300 placements at random against
an oracle of formulas."""

from __future__ import annotations

import math
import random
import unittest
from typing import Any

import numpy as np
import trimesh
from manifold3d import Manifold

from ember_core import Design, DocumentError
from ember_core.catalogue import built_in
from ember_core.design.patches import apply
from ember_core.enclosure.fit import check_fit, contact_status
from ember_core.enclosure.pieces import pieces
from ember_core.enclosure.placing import place_all
from ember_core.enclosure.solids import Solid, turned_by, voids_of, way_out
from ember_core.enclosure.zones import blocked_zones
from ember_core.imports.mesh import read_mesh
from ember_core.numeric import Array
from ember_core.studies.judging import Judged

from .gadgets import seen
from .test_case_shape import block, box_of, from_file, gadget, stl

CUBE = np.array([[x, y, z] for x in (0.0, 1.0) for y in (0.0, 1.0) for z in (0.0, 1.0)])


def codes(made: Design) -> set[str]:
    return {f.code for f in Judged.of(made, built_in()).found if f.severity in ("stop", "fix")}


def closes(made: Design) -> bool:
    fit = check_fit(made)
    return fit.settled({i for i, b in enumerate(fit.placed) if b.pointer.startswith("/parts")})


def verdict(made: Design) -> str:
    return next(v.status for v in Judged.of(made, built_in()).verdicts if v.key == "fit")


class Through(unittest.TestCase):
    def test_beside_the_case_is_not_through_its_wall(self) -> None:
        """A wall of 2 mm: what begins beyond its inner face is outside, at that face it is not."""
        for x, out in ((-50.0, True), (-2.01, True), (-1.99, False), (0.0, False)):
            made = gadget(block((x, 15, 6), through="left"))
            with self.subTest(x):
                self.assertEqual("outside-the-case" in codes(made), out)
                self.assertEqual(closes(made), not out)
                if out:
                    self.assertEqual(verdict(made), "fail")
                    remedy = seen(made, "outside-the-case")[0].remedy
                    assert remedy
                    self.assertTrue(closes(apply(made, remedy)))

    def test_at_a_round_wall_it_is_the_wall_there(self) -> None:
        """A tube of 60 mm, 2 mm thick: 21.8 mm off its middle the inner face is at 30 - sqrt(28² - 21.8²) = 12.4 mm, not at 2 mm."""
        round_case = {"outer_mm": [60, 60, 20], "corner_mm": 30}
        at = 30 - math.sqrt(28**2 - 21.8**2)
        for x, short in ((at + 0.95, False), (at + 1.05, True)):
            made = gadget(block((x, 48, 8), (8, 4, 4), through="left"), **round_case)
            with self.subTest(x):
                self.assertEqual("short-of-its-wall" in codes(made), short)

    def test_a_leaning_wall(self) -> None:
        """At 30 degrees, 4 mm up, the outer face is at 4 tan 30 and the inner one 2 / cos 30 behind it."""
        inner = 6 * math.tan(math.radians(30)) + 2 / math.cos(math.radians(30))
        for x, short in ((inner - 0.9, False), (inner + 2.3, True)):
            made = gadget(block((x, 15, 4), through="left"), outer_mm=[90, 70, 20], taper_deg=30)
            self.assertEqual("short-of-its-wall" in codes(made), short, x)

    def test_of_a_case_from_a_file(self) -> None:
        case = from_file(box_of() - Manifold.cube((4, 5, 5)).translate((-1, 14.5, 5.5)))
        for x, code in ((0.0, None), (3.2, "short-of-its-wall"), (-30.0, "outside-the-case")):
            made = gadget(block((x, 15, 6), through="left"), **case)
            with self.subTest(x):
                found = codes(made) & {"short-of-its-wall", "outside-the-case"}
                self.assertEqual(found, {code} if code else set())

    def test_the_far_sides_of_a_case_from_a_file(self) -> None:
        """A case of 60 mm with a wall of 2 mm: at its right a body of 4 mm that begins at 58 mm or less comes from inside."""
        case = from_file(box_of() - Manifold.cube((4, 5, 5)).translate((57, 14.5, 5.5)))
        for x, code in ((56.0, None), (52.8, "short-of-its-wall"), (80.0, "outside-the-case")):
            found = codes(gadget(block((x, 15, 6), through="right"), **case)) & {
                "short-of-its-wall",
                "outside-the-case",
            }
            self.assertEqual(found, {code} if code else set(), x)


class FromAFile(unittest.TestCase):
    def test_in_the_notch_of_an_l(self) -> None:
        whole = box_of((90, 60, 24)) - Manifold.cube((50, 40, 30)).translate((45, 30, -1))
        whole = whole + (
            Manifold.cube((2, 32, 24)).translate((43, 28, 0)) + Manifold.cube((47, 2, 24)).translate((43, 28, 0))
        )
        case = from_file(whole)
        for at, out in (((10, 40, 8), False), ((70, 10, 8), False), ((65, 42, 8), True)):
            made = gadget(block(at, (6, 6, 6)), **case)
            self.assertEqual(closes(made), not out, at)
            self.assertEqual("outside-the-case" in codes(made), out, at)

    def test_in_the_corner_beside_a_tube(self) -> None:
        tube = Manifold.cylinder(30, 40, 40, 96) - Manifold.cylinder(26, 38, 38, 96).translate((0, 0, 2))
        case = from_file(tube.translate((40, 40, 0)))
        for at, out in (((38, 38, 10), False), ((1, 1, 10), True)):
            self.assertEqual(closes(gadget(block(at), **case)), not out, at)

    def test_out_of_an_opening(self) -> None:
        case = from_file(box_of() - Manifold.cube((20, 20, 4)).translate((20, 10, 17)))
        for z, out in ((10.0, False), (19.0, True)):
            self.assertEqual(closes(gadget(block((28, 18, z)), **case)), not out, z)

    def test_a_tray_is_open(self) -> None:
        tray = box_of((60, 40, 20)) - Manifold.cube((70, 50, 3)).translate((-5, -5, 18))
        self.assertIn("open-case", codes(gadget(block((28, 18, 8)), **from_file(tray))))
        self.assertNotEqual(verdict(gadget(block((28, 18, 8)), **from_file(tray))), "pass")
        self.assertNotIn("open-case", codes(gadget(block((28, 18, 8)), **from_file(box_of()))))

    def test_a_block_has_no_inside(self) -> None:
        self.assertFalse(closes(gadget(block((28, 18, 8)), **from_file(Manifold.cube((60, 40, 20))))))


class ClosedIn(unittest.TestCase):
    def test_a_hollow_that_nothing_leads_into(self) -> None:
        shell = Manifold.cube((20, 20, 12)) - Manifold.cube((16, 16, 8)).translate((2, 2, 2))
        for solid, shut in ((shell, True), (shell - Manifold.cube((4, 4, 4)).translate((-1, 8, 4)), False)):
            self.assertEqual(len(voids_of(Solid(np.zeros((1, 3)), solid))), int(shut))
            body = from_file(solid)
            mesh = {"shape": "mesh", "surface": body["shape"]["surface"], "hull_mm": (CUBE * (20, 20, 12)).tolist()}
            made = gadget(block((20, 10, 4), (20, 20, 12), **mesh), block((28, 18, 8)))
            self.assertEqual("closed-in" in codes(made), shut)
            self.assertEqual(closes(made), not shut)


class OnABoard(unittest.TestCase):
    def board(self, at: tuple[float, float, float], second: tuple[float, float, float] = (40, 20, 7.6)) -> Design:
        plate = block((10, 10, 6), (40, 20, 1.6))
        return gadget(plate, block(at, on="p0"), block(second, on="p0"))

    def test_it_touches_its_board(self) -> None:
        for z, code in ((7.6, None), (8.09, None), (8.11, "off-its-board"), (7.5, "collision")):
            found = codes(self.board((20, 20, z))) & {"off-its-board", "collision"}
            self.assertEqual(found, {code} if code else set(), z)
        remedy = seen(self.board((20, 20, 12)), "off-its-board")[0].remedy
        assert remedy
        self.assertEqual(codes(apply(self.board((20, 20, 12)), remedy)) & {"off-its-board", "collision"}, set())

    def test_two_on_one_board_meet_each_other(self) -> None:
        for x, code in ((36.0, set()), (37.0, {"collision"})):
            self.assertEqual(codes(self.board((x, 20, 7.6))) & {"collision"}, code, x)


class Posts(unittest.TestCase):
    def case(self, *bodies: dict[str, Any], kind: str = "screw") -> Design:
        held = [
            {"id": f"f{i}", "name": f"Post {i}", "kind": kind, "thread": "M2", "body": {"size_mm": [6, 6, 16], "shape": "cylinder", "along": "z"} | b}
            for i, b in enumerate(bodies)
        ]  # fmt: skip
        return gadget(block((28, 18, 8)), fastenings=held)

    def told(self, *bodies: dict[str, Any]) -> set[str]:
        return {c for c in codes(self.case(*bodies)) if c.startswith("post")}

    def test_where_they_stand(self) -> None:
        good = {"position_mm": [4, 4, 2]}
        for body, code in (
            (good, set()),
            ({"position_mm": [4, 4, 2], "size_mm": [6, 6, 15.6]}, set()),
            ({"position_mm": [4, 4, 2], "size_mm": [6, 6, 15.4]}, {"post-out-of-reach"}),
            ({"position_mm": [8, 8, 2.04], "size_mm": [6, 6, 15.96]}, set()),
            ({"position_mm": [8, 8, 4], "size_mm": [6, 6, 10]}, {"post-floats"}),
            ({"position_mm": [-3, 4, 2]}, {"post-outside"}),
            ({"position_mm": [4, 4, 2], "size_mm": [6, 6, 30]}, {"post-outside"}),
        ):
            with self.subTest(body):
                self.assertEqual(self.told(body), code)

    def test_ribs_may_cross(self) -> None:
        ribs = [{"id": f"r{i}", "name": f"Rib {i}", "kind": "cradle", "body": {"size_mm": s, "position_mm": [10, 10, 2]}} for i, s in enumerate(([20, 2, 4], [2, 20, 4]))]  # fmt: skip
        self.assertNotIn("posts-overlap", codes(gadget(block((40, 18, 8)), fastenings=ribs)))

    def test_in_one_another(self) -> None:
        for x, code in ((10.1, set()), (9.9, {"posts-overlap"})):
            self.assertEqual(self.told({"position_mm": [4, 4, 2]}, {"position_mm": [x, 4, 2]}), code)

    def test_the_ways_out(self) -> None:
        for body in (
            {"position_mm": [8, 8, 4], "size_mm": [6, 6, 10]},
            {"position_mm": [4, 4, 2], "size_mm": [6, 6, 12]},
        ):
            made = self.case(body)
            code = next(iter(self.told(body)))
            remedy = seen(made, code)[0].remedy
            assert remedy
            self.assertEqual({c for c in codes(apply(made, remedy)) if c.startswith("post")}, set())


class Zones(unittest.TestCase):
    """The room before a body meets the wall as it is there."""

    def free(self, depth: float, at: tuple[float, float, float], **case: Any) -> bool:
        zone = {"side": "left", "kind": "wires", "depth_mm": depth}
        return "zone-blocked" not in codes(gadget(block(at, zones=[zone]), **case))

    def test_a_leaning_wall(self) -> None:
        """At 20 degrees the inner face is 10 mm up, where the zone's top is, at 10 tan 20 + 2 / cos 20 = 5.77 mm; the body begins at 20 mm."""
        wall = 10 * math.tan(math.radians(20)) + 2 / math.cos(math.radians(20))
        for off, good in ((0.01, True), (-0.01, False)):
            self.assertEqual(self.free(20 - wall - off, (20, 15, 6), taper_deg=20, outer_mm=[90, 60, 20]), good)

    def test_the_far_walls_of_a_box(self) -> None:
        """Inside to 58 and 38 mm: a zone from a body's far side on, up to there and a hundredth farther."""
        for side, at, room in (
            ("right", (40, 15, 6), 58 - 44),
            ("back", (20, 25, 6), 38 - 29),
            ("top", (20, 15, 9), 18 - 13),
        ):
            for depth, good in ((room - 0.01, True), (room + 0.01, False)):
                made = gadget(block(at, zones=[{"side": side, "kind": "wires", "depth_mm": depth}]))
                self.assertEqual("zone-blocked" not in codes(made), good, side)
                told = blocked_zones(check_fit(made).placed, made.enclosure)
                self.assertEqual(
                    [(b.other, b.side, round(b.depth_mm, 6)) for b in told], [] if good else [(-1, side, 0.01)]
                )

    def test_a_body_is_moved_from_the_wall_by_what_its_zone_lacks_and_a_hundredth(self) -> None:
        for side, at, lacks, to in (
            ("left", (12, 15, 6), 3, (15.01, 15, 6)),
            ("right", (40, 15, 6), 3, (36.99, 15, 6)),
            ("front", (20, 12, 6), 3, (20, 15.01, 6)),
            ("back", (20, 25, 6), 3, (20, 21.99, 6)),
        ):
            room = {"left": 12 - 2, "right": 58 - 44, "front": 12 - 2, "back": 38 - 29}[side]
            made = gadget(block(at, zones=[{"side": side, "kind": "wires", "depth_mm": room + lacks}]))
            found = next(f for f in Judged.of(made, built_in()).found if f.code == "zone-blocked")
            assert found.ways
            (way,) = (w for w in found.ways() if w)
            np.testing.assert_allclose(way.patch[0].value, to, atol=1e-9)

    def test_what_is_turned_reaches_as_far_as_it_does_and_not_as_the_box_around_it(self) -> None:
        """A cube of 6 mm turned by 45 degrees is 8.49 mm wide in its middle, and its box reaches over a corner that it leaves free: a zone of 5 mm
        to the right of the first body ends at 19 mm, and 1.2 mm beside the edge."""
        for turned, dy, blocked in (
            (0.0, 0.0, True),
            (45.0, 0.0, True),
            (45.0, 6.2, False),
            (0.0, 6.2, False),
            (0.0, 4.0, True),
        ):
            first = block((10, 15, 6), zones=[{"side": "right", "kind": "wires", "depth_mm": 5}])
            other = block((17.0, 14 + dy, 6), size=(6, 6, 6), turn_deg=[0, 0, turned])
            told = blocked_zones(check_fit(gadget(first, other)).placed, gadget().enclosure)
            self.assertEqual([b.other for b in told], [1] if blocked else [], (turned, dy))
        # corner to corner: the box around the turned one overlaps the zone by a millimetre each way, the body itself does not
        first = block((10, 15, 6), zones=[{"side": "right", "kind": "wires", "depth_mm": 5}])
        turned_one = block((18.0, 19.2, 6), size=(6, 6, 6), turn_deg=[0, 0, 45])
        placed = check_fit(gadget(first, turned_one)).placed
        self.assertTrue(placed[1].low[0] < 19 and placed[1].low[1] < 19)
        self.assertEqual(blocked_zones(placed, gadget().enclosure), [])

    def test_how_far_a_partition_reaches_in(self) -> None:
        """Lengthwise at y 20 to 21.5 mm: a zone of 5 mm from 17 mm on backwards has all of it in it, 1.5 mm deep."""
        case = from_file(box_of() + Manifold.cube((57, 1.5, 17)).translate((1.5, 20, 1.5)))
        made = gadget(block((28, 13, 6), zones=[{"side": "back", "kind": "wires", "depth_mm": 5}]), **case)
        self.assertEqual(len(blocked_zones(check_fit(made).placed, made.enclosure)), 1)

    def test_a_partition_of_a_case_from_a_file(self) -> None:
        """A partition from 20 to 21.5 mm across the inside, and a zone from 30 mm towards it."""
        whole = box_of((60, 40, 20)) + Manifold.cube((1.5, 37, 17)).translate((20, 1.5, 1.5))
        case = from_file(whole)
        for depth, good in ((8.4, True), (8.7, False)):
            self.assertEqual(self.free(depth, (30, 15, 6), **case), good)

    def test_a_rib_is_no_wall(self) -> None:
        own = from_file(box_of() + Manifold.cube((3, 20, 6)).translate((20, 10, 1)))
        sentences = [
            f.sentence
            for f in Judged.of(gadget(block((23.1, 15, 4)), **own), built_in()).found
            if f.code == "tight-gap"
        ]
        self.assertTrue(any("a rib or another wall of the case" in x for x in sentences), sentences)
        beside = [
            f.sentence
            for f in Judged.of(gadget(block((30, 15, 2.1)), **own), built_in()).found
            if f.code == "tight-gap"
        ]
        self.assertTrue(any("the bottom wall" in x for x in beside), beside)


class Odd(unittest.TestCase):
    """What nobody means is an answer all the same: something is said, and no file has holes."""

    def solids(self, made: Design) -> list[Any]:
        found = pieces(made)
        for piece in found:
            mesh = trimesh.Trimesh(piece.vertices, piece.faces, process=False)
            self.assertTrue(mesh.is_watertight)
            self.assertTrue(np.isfinite(piece.vertices).all())
        return found

    def test_walls_thicker_than_the_case(self) -> None:
        made = gadget(block((10, 10, 2)), outer_mm=[40, 30, 8], wall_mm=5)
        self.assertIn("no-inside", codes(made))
        self.assertEqual(self.solids(made), [])
        for more in ({"taper_deg": 10}, {"dome_mm": 3}, {"edge_mm": 3}):
            self.assertEqual(self.solids(gadget(block((10, 10, 2)), outer_mm=[40, 30, 8], wall_mm=5, **more)), [])

    def test_radii_and_leans_that_cannot_be(self) -> None:
        for wrong in ({"corner_mm": 21}, {"edge_mm": 11}, {"dome_mm": 11}, {"taper_deg": 45, "outer_mm": [60, 30, 20]}):
            with self.assertRaises(DocumentError):
                gadget(block((10, 10, 2)), **wrong)

    def test_posts_at_the_split_and_an_opening_that_takes_a_corner(self) -> None:
        post = {"id": "f", "name": "Post", "kind": "screw", "thread": "M2", "body": {"size_mm": [6, 6, 16], "shape": "cylinder", "along": "z", "position_mm": [4, 4, 2]}}  # fmt: skip
        corner = block((0, 0, 6), (12, 12, 8), through="left")
        for split in (2.0, 2.1, 9.0, 17.9, 18.0):
            self.solids(gadget(corner, fastenings=[post], split_mm=split))
            self.solids(gadget(corner, fastenings=[post], split_mm=split, corner_mm=8, taper_deg=4))

    def test_bodies_of_a_twentieth_of_a_millimetre(self) -> None:
        self.assertTrue(closes(gadget(block((20, 15, 6), (0.05, 0.05, 0.05)))))
        self.assertTrue(closes(gadget(block((20, 15, 6), (0.05, 0.05, 0.05)), **from_file(box_of()))))
        self.assertFalse(closes(gadget(block((20, 15, 1), (0.05, 0.05, 0.05)), **from_file(box_of()))))

    def test_absurd_sizes_are_an_answer_or_a_sentence(self) -> None:
        """From a thousandth of a millimetre to two metres, radii as small and as large as they may be, bodies anywhere: nothing breaks."""
        choose, looked = random.Random(1), 0
        sizes = (1e-3, 0.01, 0.5, 3.0, 20.0, 60.0, 300.0, 2000.0)
        while looked < 25:
            outer = [choose.choice(sizes) for _ in range(3)]
            least = min(outer)
            case = {
                "outer_mm": outer, "wall_mm": choose.choice((0.01, 0.5, 2, 50)), "corner_mm": choose.choice((0, 1e-6, least / 3, min(outer[:2]) / 2)),
                "edge_mm": choose.choice((0, 1e-6, least / 2)), "taper_deg": choose.choice((0, 1e-4, 5, 44)), "dome_mm": choose.choice((0, 1e-6, outer[2] / 2)),
            }  # fmt: skip
            body = block((choose.choice((-2000, 0, 2.5, 2000)), choose.choice((-1, 2.5)), choose.choice((0, 2.5))), tuple(choose.choice(sizes) for _ in range(3)), turn_deg=[choose.choice((0, 1e-3, 45)) for _ in range(3)])  # type: ignore[arg-type]  # fmt: skip
            try:
                made = gadget(
                    body, body | {"position_mm": [0, 0, 0], "through": choose.choice(("left", "top"))}, **case
                )
            except DocumentError:
                continue
            looked += 1
            with self.subTest(case):
                codes(made)
                place_all(made, anew=True)
                pieces(made)

    def test_a_case_in_a_case(self) -> None:
        """One box in the hollow of another one: what is between them is inside as well."""
        whole = box_of((80, 60, 40)) + box_of((30, 20, 15)).translate((20, 20, 10))
        case = from_file(whole)
        for at, good in (((60, 20, 10), True), ((33, 28, 16), True), ((19, 25, 15), False), ((-5, 20, 10), False)):
            self.assertEqual(closes(gadget(block(at), **case)), good, at)


class FromFiles(unittest.TestCase):
    def test_what_a_surface_may_be_off_is_kept_free_besides(self) -> None:
        """0.3 mm to the wall and 0.5 mm to each other, and 0.2 mm more of a body whose file was simplified by that."""
        mesh = {"shape": "mesh", "hull_mm": (CUBE * 4).tolist(), "off_mm": 0.2}
        for x, good in ((2.51, True), (2.49, False)):
            self.assertEqual(closes(gadget(block((x, 15, 6), **mesh))), good)
        for x, good in ((14.71, True), (14.69, False)):
            self.assertEqual(closes(gadget(block((10, 15, 6), **mesh), block((x, 15, 6)))), good)
        for x, good in ((14.91, True), (14.89, False)):
            self.assertEqual(closes(gadget(block((10, 15, 6), **mesh), block((x, 15, 6), **mesh))), good)

    def test_a_case_of_an_unusual_size_is_asked_about(self) -> None:
        for wide, doubtful in ((19.9, True), (20.1, False), (499.0, False), (501.0, True)):
            read = read_mesh(stl(box_of((wide, wide / 2, wide / 3), wide / 30)), "case.stl", as_case=True)
            self.assertEqual(read.doubtful, doubtful, wide)
        self.assertFalse(read_mesh(stl(box_of((19.9, 10, 7), 1)), "body.stl").doubtful)

    def test_a_decimal_comma_is_said(self) -> None:
        for name, text in (
            ("a.stl", b"solid a\nfacet normal 0 0 1\nouter loop\nvertex 0,5 1 2\n"),
            ("a.obj", b"v 0,5 1 2\nv 1,0 1 2\n"),
        ):
            with self.assertRaises(DocumentError) as caught:
                read_mesh(text, name)
            self.assertIn("decimal comma", caught.exception.problems[0].message)

    def test_a_simplified_surface_says_how_far_it_may_be_off(self) -> None:
        fine = Manifold.sphere(10, 200)
        read = read_mesh(stl(fine), "ball.stl")
        self.assertGreater(read.off_mm, 0)
        self.assertTrue(any("farther from everything" in n for n in read.notes))
        assert read.surface is not None
        corners = np.asarray(read.surface.corners_mm) - 10
        self.assertLess(10 - float(np.linalg.norm(corners, axis=1).min()), read.off_mm + 0.01)
        self.assertEqual(read_mesh(stl(Manifold.cube((5, 5, 5))), "cube.stl").off_mm, 0.0)


class Depth(unittest.TestCase):
    def test_the_shortest_way_out(self) -> None:
        """Two balls of 10 mm, 19.8 mm apart: 0.2 mm. A cube of 4 mm turned by 45 degrees in the middle of one of 20 mm: straight up, 10 + 2 mm; at its edge
        along the diagonal. Two cylinders side by side."""
        turn, height = np.meshgrid(np.linspace(0, 2 * np.pi, 48, endpoint=False), np.linspace(-1, 1, 25))
        flat = np.sqrt(1 - height**2)
        ball = 10 * np.stack([flat * np.cos(turn), flat * np.sin(turn), height], axis=-1).reshape(-1, 3)
        off = np.array([1.0, 1.0, 1.0]) / math.sqrt(3) * 19.8
        depth, way = way_out(Solid(ball), Solid(ball + off))
        self.assertAlmostEqual(depth, 0.2, delta=0.1)
        self.assertLess(float(way @ off), -0.99 * 19.8)
        small = (CUBE - 0.5) * 4 @ turned_by((0, 0, 45)).T
        self.assertAlmostEqual(way_out(Solid(small + np.array([10, 10, 10])), Solid(CUBE * 20))[0], 12, places=6)
        self.assertAlmostEqual(
            way_out(Solid(small + np.array([19, 10, 10])), Solid(CUBE * 20))[0], 1 + 2 * math.sqrt(2), places=6
        )

    def test_moved_so_far_they_touch_and_no_other_way_is_shorter(self) -> None:
        draw = np.random.default_rng(4)
        looked = 0
        for _ in range(60):
            one = Solid((CUBE - 0.5) * draw.uniform(3, 20, 3) @ turned_by(tuple(draw.uniform(0, 90, 3))).T)
            other = Solid(
                (CUBE - 0.5) * draw.uniform(3, 20, 3) @ turned_by(tuple(draw.uniform(0, 90, 3))).T
                + draw.uniform(-6, 6, 3)
            )
            if float((one.whole ^ other.whole).volume()) < 0.1:
                continue
            looked += 1
            depth, way = way_out(one, other)
            apart = one.whole.translate(tuple(way * (depth + 1e-3)))
            self.assertLess(float((apart ^ other.whole).volume()), 1e-4)
            for _ in range(40):
                some = draw.normal(size=3)
                some /= np.linalg.norm(some)
                moved = one.whole.translate(tuple(some * (depth - 0.05)))
                self.assertGreater(float((moved ^ other.whole).volume()), 0)
        self.assertGreater(looked, 30)


def room_left(points: Array, case: dict[str, Any]) -> Array:
    """How far points are from the walls of a box with rounded upright edges that are as thick all around, or with leaning sides, by formulas; negative in
    the walls and outside."""
    outer, wall, corner, taper = (
        case["outer_mm"],
        case["wall_mm"],
        case.get("corner_mm", 0.0),
        case.get("taper_deg", 0.0),
    )
    x, y, z = points.T
    lean = math.radians(taper)
    if corner:
        radius = max(corner - wall, 0.0)
        half = np.array(outer[:2]) / 2 - wall
        off = np.abs(points[:, :2] - np.array(outer[:2]) / 2) - (half - radius)
        flat = radius - np.linalg.norm(np.maximum(off, 0), axis=1) - np.minimum(off.max(axis=1), 0)
    else:
        sides = [x, outer[0] - x, y, outer[1] - y]
        flat = np.min([s * math.cos(lean) - z * math.sin(lean) - wall for s in sides], axis=0)
    return np.min([flat, z - wall, outer[2] - wall - z], axis=0)


class Oracle(unittest.TestCase):
    def test_random_placements(self) -> None:
        """Boxes at any place and turned, inside, half outside, through a side: what is said against the distance of points all over them."""
        choose = random.Random(8)
        met = {True: 0, False: 0}
        grid = np.stack(np.meshgrid(*[np.linspace(0, 1, 9)] * 3, indexing="ij"), axis=-1).reshape(-1, 3)
        grid = grid[np.any((grid == 0) | (grid == 1), axis=1)]
        for seed in range(300):
            case: dict[str, Any] = {"outer_mm": [60.0, 50.0, 24.0], "wall_mm": choose.choice((1.5, 2.0, 3.0))}
            case |= choose.choice(({}, {"corner_mm": choose.uniform(4, 25)}, {"taper_deg": choose.uniform(2, 20)}))
            size = np.array([choose.uniform(2, 25), choose.uniform(2, 20), choose.uniform(2, 14)])
            turn = [0.0, 0.0, 0.0] if choose.random() < 0.4 else [choose.uniform(0, 90) for _ in range(3)]
            at = np.array(
                [choose.uniform(-0.2, 1.0) * (v - s * 0.5) for v, s in zip(case["outer_mm"], size, strict=True)]
            )
            points = at + size / 2 + (grid - 0.5) * size @ turned_by((turn[0], turn[1], turn[2])).T
            least = float(room_left(points, case).min()) - 0.3
            if abs(least) < 0.05:
                continue
            made = gadget(block((at[0], at[1], at[2]), tuple(size), turn_deg=turn), **case)
            with self.subTest(f"{seed} {case} {at} {size} {turn}"):
                self.assertEqual(closes(made), least > 0)
            met[least > 0] += 1
        self.assertGreater(min(met.values()), 30)

    def test_through_a_side_at_random(self) -> None:
        """Boxes along the axes through the left of a box: it closes where the rest of it has its room, and it begins inside."""
        choose = random.Random(9)
        met = {True: 0, False: 0}
        for _ in range(100):
            size = [choose.uniform(3, 30), choose.uniform(3, 20), choose.uniform(3, 10)]
            at = [choose.uniform(-40, 45), choose.uniform(-5, 40), choose.uniform(-3, 16)]
            rest = (
                min(60 - 2 - at[0] - size[0], at[1] - 2, 40 - 2 - at[1] - size[1], at[2] - 2, 20 - 2 - at[2] - size[2])
                - 0.3
            )
            begins = at[0] + size[0] - 2
            if min(abs(rest), abs(begins)) < 0.01:
                continue
            good = rest > 0 and begins > 0
            made = gadget(block((at[0], at[1], at[2]), (size[0], size[1], size[2]), through="left"))
            self.assertEqual(closes(made), good, (at, size))
            met[good] += 1
        self.assertGreater(min(met.values()), 10)


class Status(unittest.TestCase):
    def test_contacts_alone_do_not_make_it_close(self) -> None:
        made = gadget(block((-50, 15, 6), through="left"))
        self.assertTrue(all(contact_status(c) == "pass" for c in check_fit(made).contacts))
        self.assertFalse(closes(made))


if __name__ == "__main__":
    unittest.main()
