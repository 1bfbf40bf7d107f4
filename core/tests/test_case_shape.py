"""Cases that are more than a box: leaning sides, rounded edges and domes by hand, cases from a file against the box that they were made of."""

from __future__ import annotations

import math
import unittest
from typing import Any

import numpy as np
import trimesh
from manifold3d import Manifold
from pydantic import ValidationError

from ember_core import Design, DocumentError, evaluate
from ember_core.case_shape import cavity_solid, centre_of, is_plain, material, material_mm3, outer_solid, room_mm3
from ember_core.catalogue import built_in
from ember_core.design import Body, Enclosure, Surface
from ember_core.enclosure.case_files import case_file
from ember_core.enclosure.fit import check_fit, contact_status
from ember_core.enclosure.passage import wall_on
from ember_core.enclosure.pieces import CHORD_MM, Piece, opening_corners, pieces, too_thin
from ember_core.enclosure.placing import place_all
from ember_core.imports.mesh import read_mesh
from ember_core.measures.bench import TrialBench
from ember_core.studies import answer_holding, answer_section, answer_shell
from ember_core.thermal.shell import shell_centre_mm, shell_mass_g
from ember_core.thickness import thin_spots

from .gadgets import cell, design, part, seen, state, use

CASE = {"outer_mm": [60, 40, 20], "wall_mm": 2, "clearance_mm": 0.3, "gap_mm": 0.5, "process": "filament"}


def gadget(*bodies: dict[str, Any], **case: Any) -> Design:
    parts = [part(f"p{i}", state("on", 1e-3), name=f"Part {i}", body=b) for i, b in enumerate(bodies)]
    if not parts:
        parts = [part("p0", state("on", 1e-3), name="Part 0")]
    modes = [{"id": "on", "name": "On", "uses": [use(p["id"], "on") for p in parts]}]
    return design(
        parts=parts, modes=modes, day={"rest": "on"}, battery={"cell": cell(form="cylinder")}, enclosure=CASE | case
    )


def block(at: tuple[float, float, float], size: tuple[float, float, float] = (4, 4, 4), **more: Any) -> dict[str, Any]:
    return {"size_mm": list(size), "position_mm": list(at)} | more


def to_side(made: Design, side: str, body: int = 0) -> float:
    return next(c.gap_mm for c in check_fit(made).contacts if c.side == side and c.first == body)


def tightest(made: Design, body: int = 0) -> float:
    return min(c.gap_mm for c in check_fit(made).contacts if c.side and c.first == body)


def faces_of(solid: Manifold) -> tuple[Any, Any]:
    mesh = solid.to_mesh()
    return mesh.vert_properties[:, :3], mesh.tri_verts


def off_surface(mesh: trimesh.Trimesh, point: Any) -> float:
    """How far a point is from a surface."""
    nearest = trimesh.triangles.closest_point(mesh.triangles, np.broadcast_to(point, (len(mesh.triangles), 3)))
    return float(np.min(np.linalg.norm(nearest - point, axis=1)))


def stl(solid: Manifold) -> bytes:
    mesh = solid.to_mesh()
    made = trimesh.Trimesh(mesh.vert_properties[:, :3], mesh.tri_verts, process=False)
    found = made.export(file_type="stl")
    assert isinstance(found, bytes)
    return found


def from_file(solid: Manifold, **case: Any) -> dict[str, Any]:
    """What the document has of a case from a file."""
    read = read_mesh(stl(solid), "case.stl", as_case=True)
    assert read.surface is not None
    assert read.case is not None
    shape = {
        "name": read.name,
        "surface": read.surface.model_dump(mode="json"),
        "volume_mm3": read.volume_mm3,
        "thin": [t.model_dump(mode="json") for t in read.case.thin],
    }
    sides = ("left", "right", "front", "back", "bottom", "top")
    walls = dict(zip(sides, read.case.walls_mm, strict=True))
    return {"shape": shape, "outer_mm": read.size_mm, "walls_mm": walls, "wall_mm": walls["left"]} | case


def box_of(outer: tuple[float, float, float] = (60, 40, 20), wall: float = 2.0) -> Manifold:
    inner = tuple(v - 2 * wall for v in outer)
    return Manifold.cube(outer) - Manifold.cube(inner).translate((wall, wall, wall))


class ByHand(unittest.TestCase):
    def test_a_leaning_side(self) -> None:
        """Sides that lean by 10 degrees, 2 mm thick along their normal: at 10 mm the left one's inner face is at 2 mm / cos 10 + 10 mm tan 10, and the way to
        it is shorter by cos 10."""
        leans = math.tan(math.radians(10))
        made = gadget(block((8, 15, 6)), taper_deg=10)
        expected = (8 - 10 * leans) * math.cos(math.radians(10)) - 2
        self.assertAlmostEqual(to_side(made, "left"), expected, places=3)
        self.assertAlmostEqual(to_side(made, "bottom"), 4.0, places=3)
        self.assertAlmostEqual(to_side(made, "top"), 8.0, places=3)

    def test_both_sides_of_what_is_needed_at_a_leaning_side(self) -> None:
        leans = math.tan(math.radians(10))
        face = 10 * leans + 2 / math.cos(math.radians(10))
        needed = face + 0.3 / math.cos(math.radians(10))
        for x, status in ((needed + 0.002, "pass"), (needed - 0.002, "watch"), (face - 0.01, "fail")):
            contact = next(c for c in check_fit(gadget(block((x, 15, 6)), taper_deg=10)).contacts if c.side == "left")
            self.assertEqual(contact_status(contact), status, x)

    def test_an_edge_rounded_inside(self) -> None:
        """Edges of 6 mm outside are 4 mm inside: a corner 1 mm from both faces is 4 mm - 3 mm sqrt 2 = -0.24 mm from the round."""
        made = gadget(block((3, 15, 3)), edge_mm=6)
        self.assertAlmostEqual(tightest(made), 4 - 3 * math.sqrt(2), delta=0.06)
        self.assertAlmostEqual(tightest(gadget(block((3.6, 15, 3.6)), edge_mm=6)), 4 - 2.4 * math.sqrt(2), delta=0.06)
        self.assertEqual(tightest(gadget(block((3, 15, 3)))), 1.0)

    def test_a_dome_holds_more_in_its_middle(self) -> None:
        """16 mm high at the sides, 20 mm in the middle: a block of 15 mm fits in the middle of it and not at its side."""
        tall = (4, 4, 15.2)
        self.assertGreater(tightest(gadget(block((28, 18, 2.4), tall), dome_mm=4)), 0.3)
        self.assertLess(tightest(gadget(block((3, 18, 2.4), tall), dome_mm=4)), 0)

    def test_volumes(self) -> None:
        """A dome over a rectangle whose outlines shrink with the root of what is left of its height holds half of the block around it; leaning sides make
        a frustum."""
        domed = Enclosure.model_validate(CASE | {"dome_mm": 4})
        self.assertAlmostEqual(float(outer_solid(domed).volume()) / (60 * 40 * (16 + 2)), 1, delta=0.005)
        leaning = Enclosure.model_validate(CASE | {"taper_deg": 10})
        less = 20 * math.tan(math.radians(10))
        top, bottom = (60 - 2 * less) * (40 - 2 * less), 60 * 40
        middle = (60 - less) * (40 - less)
        self.assertAlmostEqual(
            float(outer_solid(leaning).volume()) / (20 / 6 * (top + 4 * middle + bottom)), 1, places=4
        )
        self.assertAlmostEqual(
            material_mm3(leaning), float(outer_solid(leaning).volume()) - room_mm3(leaning), places=1
        )
        self.assertAlmostEqual(shell_mass_g(domed) / (material_mm3(domed) / 1000 * 1.27), 1, places=6)

    def test_hardly_rounded_it_is_the_box(self) -> None:
        random = np.random.default_rng(5)
        plain, hardly = Enclosure.model_validate(CASE), Enclosure.model_validate(CASE | {"edge_mm": 1e-4})
        self.assertTrue(is_plain(plain))
        self.assertFalse(is_plain(hardly))
        self.assertAlmostEqual(room_mm3(plain) / room_mm3(hardly), 1, places=5)
        self.assertAlmostEqual(material_mm3(plain) / material_mm3(hardly), 1, places=4)
        for _ in range(20):
            at = random.uniform(0, 1, 3) * (52, 32, 12)
            body = block((at[0], at[1], at[2]), turn_deg=random.uniform(0, 90, 3).tolist())
            for corner in (0, 8):
                one, other = (tightest(gadget(body, corner_mm=corner, **more)) for more in ({}, {"edge_mm": 1e-4}))
                self.assertAlmostEqual(one, other, delta=0.05 if corner else 2e-3)

    def test_the_inside_never_leaves_the_outside(self) -> None:
        random = np.random.default_rng(3)
        looked = 0
        for _ in range(200):
            outer = random.uniform(10, 120, 3)
            some = [
                v * float(random.integers(2))
                for v in (random.uniform(0, 0.5), random.uniform(0, 0.5), random.uniform(0, 30), random.uniform(0, 0.5))
            ]
            figures = {
                "corner_mm": some[0] * min(outer[:2]),
                "edge_mm": some[1] * min(outer),
                "taper_deg": some[2],
                "dome_mm": some[3] * outer[2],
            }
            try:
                case = Enclosure.model_validate(
                    {"outer_mm": outer.tolist(), "wall_mm": random.uniform(0.8, 4)} | figures
                )
            except ValidationError:
                continue
            looked += 1
            self.assertLess(float((cavity_solid(case) - outer_solid(case)).volume()), 1e-3, case)
        self.assertGreater(looked, 100)

    def test_no_wall_is_thinner_than_it_says_and_each_is_as_thick_somewhere(self) -> None:
        """Leaning, rounded, domed, with uneven walls: from points all over the inner faces to the outer ones, measured by another library, it is the
        least of the walls at least; and along the middle of a flat side just its own."""
        random = np.random.default_rng(11)
        for shape in ({"corner_mm": 12}, {"edge_mm": 9}, {"taper_deg": 20}, {"dome_mm": 9}, {"corner_mm": 20, "edge_mm": 6, "taper_deg": 8}, {"corner_mm": 8, "dome_mm": 6}):  # fmt: skip
            for walls in ({}, {"left": 1.0, "back": 5.0, "bottom": 3.0}, {"top": 0.8, "right": 6.0}):
                case = Enclosure.model_validate({"outer_mm": [70, 50, 30], "wall_mm": 2, "walls_mm": walls, **shape})
                room, whole = (trimesh.Trimesh(*faces_of(solid)) for solid in (cavity_solid(case), outer_solid(case)))
                points, _ = trimesh.sample.sample_surface(room, 80, seed=int(random.integers(1000)))
                depth = np.array([off_surface(whole, p) for p in points])
                with self.subTest(f"{shape} {walls}"):
                    self.assertGreater(float(depth.min()), min(case.walls) - 0.001)
                    self.assertLess(float(depth.min()), min(case.walls) + 0.1)
        case = Enclosure.model_validate(
            {"outer_mm": [70, 50, 30], "wall_mm": 2, "walls_mm": {"left": 1.0, "back": 5.0}, "corner_mm": 12}
        )
        for side, wall in enumerate(case.walls):
            inner, outer = wall_on(case, side, np.delete(np.array([[35.0, 25.0, 15.0]]), side // 2, axis=1))
            self.assertAlmostEqual(float(outer[0] - inner[0]), wall, places=6)

    def test_an_inside_that_does_not_hold_the_middle(self) -> None:
        """A bottom of 14 of 20 mm: what is left is 4 mm high, between leaning walls."""
        case = Enclosure.model_validate(CASE | {"walls_mm": {"bottom": 14}, "taper_deg": 1})
        lean = math.tan(math.radians(1))
        wall = 2 / math.cos(math.radians(1))
        mean = (60 - 2 * wall - 2 * 16 * lean) * (40 - 2 * wall - 2 * 16 * lean)
        self.assertAlmostEqual(float(cavity_solid(case).volume()) / (4 * mean), 1, places=3)

    def test_a_round_case_is_as_wide_as_it_says(self) -> None:
        """Circles of chords that are 0.02 mm off at most: the area of one of 80 mm is 0.1 % short at most."""
        for wide in (10.0, 80.0, 300.0):
            case = Enclosure.model_validate({"outer_mm": [wide, wide, 30], "corner_mm": wide / 2, "edge_mm": 1e-4})
            box = outer_solid(case).bounding_box()
            np.testing.assert_allclose(np.subtract(box[3:], box[:3]), (wide, wide, 30), atol=0.01)
            area = float(outer_solid(case).volume()) / 30
            self.assertLess(math.sqrt(area / math.pi) - wide / 2, 0)
            self.assertGreater(math.sqrt(area / math.pi) - wide / 2, -0.02)

    def test_the_middle_of_its_mass(self) -> None:
        np.testing.assert_allclose(centre_of(Manifold.cube((2, 4, 6)).translate((1, 1, 1))), (2, 3, 4), atol=1e-6)
        leaning = Enclosure.model_validate(CASE | {"taper_deg": 10})
        self.assertLess(float(shell_centre_mm(leaning)[2]), 10)
        np.testing.assert_allclose(shell_centre_mm(leaning)[:2], (30, 20), atol=1e-3)

    def test_cut_the_walls_are_where_they_lean(self) -> None:
        answer = answer_section(gadget(block((20, 15, 6)), taper_deg=10), "z", 9.0)
        walls = {m.name: m.length_mm for m in answer.measures if m.kind == "wall"}
        self.assertEqual(
            {name: round(v, 3) for name, v in walls.items()},
            dict.fromkeys(walls, round(2 / math.cos(math.radians(10)), 3)),
        )
        leans = 9 * math.tan(math.radians(10))
        wide = [max(p[0] for p in outline) - min(p[0] for p in outline) for outline in answer.shell]
        self.assertAlmostEqual(max(wide), 60 - 2 * leans, places=3)
        gap = next(m for m in answer.measures if m.name == "Part 0 to the wall")
        self.assertAlmostEqual(
            gap.length_mm, min(15 - leans, 40 - 19 - leans) - 2 / math.cos(math.radians(10)), places=3
        )

    def test_its_pieces_are_closed_and_all_of_it(self) -> None:
        made = gadget(block((20, 15, 6)), dome_mm=4, taper_deg=5, edge_mm=3, corner_mm=4, joint="flat")
        both = pieces(made)
        self.assertEqual([p.name for p in both], ["lower piece", "upper piece"])
        self.assertAlmostEqual(sum(p.volume_mm3 for p in both) / float(material(made.enclosure).volume()), 1, places=4)
        for piece in both:
            self.assertTrue(trimesh.Trimesh(piece.vertices, piece.faces, process=False).is_watertight)
        shell = answer_shell(made)
        assert shell.lower is not None
        assert shell.upper is not None
        self.assertLess(max(p[2] for p in shell.lower.corners), min(p[2] for p in shell.upper.corners) + 1e-6)
        box = answer_shell(gadget(joint="flat"))
        assert box.lower is not None
        self.assertEqual(len(box.lower.corners), 16)

    def test_what_is_placed_at_once_lies_inside(self) -> None:
        bodies = [{"size_mm": [12, 10, 5], "position_mm": None} for _ in range(4)]
        for more in (
            {"taper_deg": 12},
            {"edge_mm": 7},
            {"dome_mm": 6},
            {"taper_deg": 5, "edge_mm": 4, "dome_mm": 4, "corner_mm": 6},
        ):
            made = gadget(*bodies, **more)
            found = place_all(made)
            placed = [
                p.model_copy(update={"body": found.bodies.get(f"/parts/{i}", p.body)}) for i, p in enumerate(made.parts)
            ]
            fit = check_fit(made.model_copy(update={"parts": placed}))
            self.assertEqual(len(fit.placed), 4, more)
            self.assertTrue(all(contact_status(c) == "pass" for c in fit.contacts), more)

    def test_what_can_not_be_is_refused(self) -> None:
        for more, words in (
            ({"edge_mm": 10.1}, "edges can't be rounder"), ({"dome_mm": 10.1}, "dome can't be higher"),
            ({"taper_deg": 44, "outer_mm": [60, 38, 20]}, "sides meet below"), ({"taper_deg": 46}, "45"),
        ):  # fmt: skip
            with self.assertRaises(ValidationError) as caught:
                Enclosure.model_validate(CASE | more)
            self.assertIn(words, str(caught.exception))
        for more in ({"edge_mm": 10}, {"dome_mm": 10}, {"taper_deg": 44}, {"wall_mm": 15, "edge_mm": 5}):
            evaluate(gadget(block((20, 15, 6)), **more))


class FromAFile(unittest.TestCase):
    def test_against_the_box_that_it_was_made_of(self) -> None:
        random = np.random.default_rng(11)
        own = from_file(box_of())
        for _ in range(12):
            at = random.uniform(0, 1, 3) * (10, 10, 8) + (0.5, 0.5, 0.5)
            body = block((at[0], at[1], at[2]))
            one, other = tightest(gadget(body)), tightest(gadget(body, **own))
            if one > -2:  # deeper, the body has gone through the wall
                self.assertAlmostEqual(one, other, delta=2e-3)

    def test_beside_the_case_is_no_place(self) -> None:
        """A block that has left the case altogether touches nothing, and is not inside."""
        fit = check_fit(gadget(block((70, 15, 6)), **from_file(box_of())))
        self.assertEqual(contact_status(fit.contacts[0]), "fail")
        self.assertAlmostEqual(fit.contacts[0].gap_mm, 60 - 74)

    def test_a_rib_counts_where_it_is(self) -> None:
        """A rib of 3 x 20 x 6 mm on the floor: beside it a block is 1 mm away, over it 0.4 mm."""
        rib = Manifold.cube((3, 20, 6)).translate((20, 10, 1))
        own = from_file(box_of() + rib)
        self.assertAlmostEqual(tightest(gadget(block((24, 15, 3.5)), **own)), 1.0, places=3)
        self.assertAlmostEqual(tightest(gadget(block((19, 15, 7.4)), **own)), 0.4, places=3)
        self.assertAlmostEqual(tightest(gadget(block((22, 15, 3.5)), **own)), -1.0, places=3)

    def test_an_opening_that_is_not_there_is_found(self) -> None:
        """A jack through the left wall: with an opening of 0.3 mm around it, and without."""
        jack = block((0, 15, 6), (8, 9, 3), through="left")
        hole = Manifold.cube((4, 9.6, 3.6)).translate((-1, 14.7, 5.7))
        self.assertAlmostEqual(tightest(gadget(jack, **from_file(box_of() - hole))), 0.3, places=3)
        self.assertAlmostEqual(tightest(gadget(jack, **from_file(box_of()))), -2.0, places=3)

    def test_its_walls_and_its_thin_spots_are_measured(self) -> None:
        """Walls of 2 mm, the floor 3 mm; a pocket from outside leaves 0.7 mm around 30, 20 in the lid."""
        solid = Manifold.cube((60, 40, 20)) - Manifold.cube((56, 36, 15)).translate((2, 2, 3))
        solid -= Manifold.cylinder(5, 4, 4, 60).translate((30, 20, 18.7))
        read = read_mesh(stl(solid), "case.stl", as_case=True)
        assert read.case is not None
        np.testing.assert_allclose(read.case.walls_mm, (2, 2, 2, 2, 3, 2), atol=1e-3)
        spot = read.case.thin[0]
        self.assertAlmostEqual(spot.thickness_mm, 0.7, places=3)
        self.assertLess(math.hypot(spot.at_mm[0] - 30, spot.at_mm[1] - 20), 4.01)
        self.assertTrue(
            all(t.thickness_mm > 1.9 for t in read.case.thin if math.hypot(t.at_mm[0] - 30, t.at_mm[1] - 20) > 5)
        )
        self.assertLess(read.case.spacing_mm, 1.5)

    def test_spots_below_a_thickness_are_those_of_all_that_are_thinner(self) -> None:
        """A wedge from 1 to 3 mm: looked at no further than so much, the same spots are found, and none that is thicker."""
        wedge = Manifold.hull_points([(x, y, z) for x, top in ((0, 1), (60, 3)) for y in (0, 20) for z in (0, top)])
        whole = thin_spots(wedge)[0]
        self.assertGreater(len(whole), 20)
        for below_mm in (1.0, 1.05, 1.5, 2.0):
            found = thin_spots(wedge, below_mm=below_mm)[0]
            self.assertEqual(found, [s for s in whole if s.thickness_mm < below_mm])
            self.assertEqual(bool(found), below_mm > 1.0)

    def test_a_plate_is_too_thin_where_it_is_so_by_more_than_a_round_face_is_off(self) -> None:
        mesh = Manifold.cube((40, 30, 1.2)).to_mesh64()
        plate = Piece("plate", np.asarray(mesh.vert_properties)[:, :3], np.asarray(mesh.tri_verts), 1440.0, False, 0.0)
        self.assertEqual(too_thin([plate], 1.2 + CHORD_MM - 0.001), [])
        spots = too_thin([plate], 1.2 + CHORD_MM + 0.001)
        self.assertEqual([s.thickness_mm for s in spots], [1.2] * 5)

    def test_thin_spots_on_both_sides_of_what_holds(self) -> None:
        own = from_file(box_of())
        for thickness, severity in ((1.2, ""), (1.19, "watch"), (0.8, "watch"), (0.79, "fix")):
            own["shape"]["thin"] = [{"at_mm": [1, 2, 3], "thickness_mm": thickness}]
            found = seen(gadget(**own), "thin-spot")
            self.assertEqual([f.severity for f in found], [severity] if severity else [], thickness)
            shown = evaluate(gadget(**own)).fit.thin
            told = {"": [], "watch": [("watch", thickness)], "fix": [("fail", thickness)]}[severity]
            self.assertEqual([(t.status, t.thickness_mm) for t in shown], told)
        sanded = seen(gadget(**own, finish="sanded"), "thin-spot")
        self.assertEqual(sanded[0].severity, "fix")
        self.assertIn("1.0 × 2.0 × 3.0", sanded[0].sentence)

    def test_what_it_weighs_and_holds(self) -> None:
        own = gadget(**from_file(box_of()))
        self.assertAlmostEqual(shell_mass_g(own.enclosure) / shell_mass_g(gadget().enclosure), 1, places=4)
        self.assertAlmostEqual(room_mm3(own.enclosure) / room_mm3(gadget().enclosure), 1, places=4)

    def test_its_holders_and_its_pieces_are_in_the_file(self) -> None:
        own = gadget(block((20, 15, 6)), **from_file(box_of()))
        self.assertEqual(answer_holding(TrialBench(own, built_in())), [])
        self.assertEqual(seen(own, "nothing-holds"), [])
        self.assertEqual(pieces(own), [])
        with self.assertRaises(DocumentError):
            case_file(own, "stl")
        shell = answer_shell(own)
        assert shell.lower is not None
        self.assertIsNone(shell.upper)
        split = answer_shell(gadget(**from_file(box_of(), split_mm=12)))
        assert split.lower is not None
        assert split.upper is not None
        self.assertEqual({round(p[2], 3) for p in split.lower.corners if p[2] > 11}, {12.0})
        self.assertEqual(min(round(p[2], 3) for p in split.upper.corners), 12.0)

    def test_a_size_of_its_own_is_refused_in_words(self) -> None:
        own = from_file(box_of())
        for more, words in (
            ({"outer_mm": [61, 40, 20]}, "its file"),
            ({"corner_mm": 3}, "edges are those of its file"),
        ):
            with self.assertRaises(DocumentError) as caught:
                gadget(**(own | more))
            self.assertIn(words, caught.exception.problems[0].message)

    def test_a_surface_that_is_none_is_refused_at_its_place(self) -> None:
        own = from_file(box_of())
        own["shape"]["surface"]["faces"].pop()
        with self.assertRaises(DocumentError) as caught:
            gadget(**own)
        self.assertEqual(caught.exception.problems[0].path, "/enclosure/shape/surface")
        inside_out = from_file(box_of())
        inside_out["shape"]["surface"]["faces"] = [f[::-1] for f in inside_out["shape"]["surface"]["faces"]]
        with self.assertRaises(DocumentError):
            gadget(**inside_out)
        with self.assertRaises(ValidationError):
            Surface.model_validate({"corners_mm": [[0, 0, 0]] * 4, "faces": [[0, 1, 4]] * 4})

    def test_an_open_case_and_one_too_fine_are_refused(self) -> None:
        mesh = box_of().to_mesh()
        opened = trimesh.Trimesh(mesh.vert_properties[:, :3], mesh.tri_verts[2:], process=False).export(file_type="stl")
        assert isinstance(opened, bytes)
        with self.assertRaises(DocumentError) as caught:
            read_mesh(opened, "case.stl", as_case=True)
        self.assertIn("not closed", caught.exception.problems[0].message)
        drilled = box_of((300, 300, 20))
        holes = [
            Manifold.cylinder(30, 1.5, 1.5, 24).translate((4 + 6 * i, 4 + 6 * j, -2))
            for i in range(17)
            for j in range(17)
        ]
        with self.assertRaises(DocumentError) as caught:
            read_mesh(stl(drilled - Manifold.compose(holes)), "case.stl", as_case=True)
        self.assertIn("too fine", caught.exception.problems[0].message)

    def test_a_fine_case_is_simplified_and_still_itself(self) -> None:
        """A hollow ball of 60 mm with 57,000 corners: within what is said of its size, its wall and its volume."""
        ball = (Manifold.sphere(30, 440) - Manifold.sphere(28, 400)).translate((41, 52, 63))
        own = from_file(ball)
        self.assertLessEqual(len(own["shape"]["surface"]["corners_mm"]), 4000)
        np.testing.assert_allclose(own["outer_mm"], 60, atol=0.4)
        made = gadget(block((28, 28, 2.6)), **own)
        self.assertAlmostEqual(shell_mass_g(made.enclosure) / (float(ball.volume()) / 1000 * 1.27), 1, places=3)
        far = math.hypot(2, 2, 27.4)  # its lowest corners from the middle
        self.assertAlmostEqual(tightest(made), 28 - far, delta=0.3)

    def test_small_holes_are_closed_and_a_missing_side_is_not(self) -> None:
        fine = Manifold.sphere(10, 64).to_mesh()
        small = trimesh.Trimesh(fine.vert_properties[:, :3], fine.tri_verts[1:], process=False).export(file_type="stl")
        assert isinstance(small, bytes)
        read = read_mesh(small, "ball.stl")
        self.assertIn("small holes in its surface are closed", read.notes)
        self.assertIsNotNone(read.surface)
        cube = Manifold.cube((10, 10, 10)).to_mesh()
        open_box = trimesh.Trimesh(cube.vert_properties[:, :3], cube.tri_verts[2:], process=False).export(
            file_type="stl"
        )
        assert isinstance(open_box, bytes)
        self.assertIsNone(read_mesh(open_box, "box.stl").surface)


class BodiesWithASurface(unittest.TestCase):
    def notched(self, **more: Any) -> dict[str, Any]:
        """30 x 20 x 10 mm with a notch of 20 x 20 x 6 mm cut from above."""
        solid = Manifold.cube((30, 20, 10)) - Manifold.cube((20, 22, 7)).translate((5, -1, 4))
        read = read_mesh(stl(solid), "holder.stl")
        assert read.surface is not None
        return {
            "shape": "mesh", "size_mm": read.size_mm, "hull_mm": read.hull_mm, "file": read.name,
            "surface": read.surface.model_dump(mode="json"), "position_mm": [10, 10, 3],
        } | more  # fmt: skip

    def between(self, one: dict[str, Any], other: dict[str, Any]) -> float:
        fit = check_fit(gadget(one, other))
        return next(c.gap_mm for c in fit.contacts if {c.first, c.second} == {0, 1})

    def test_what_lies_in_its_notch_does_not_collide(self) -> None:
        """The notch goes from 15 to 35 mm along x and from 7 mm upwards."""
        inside = block((20, 15, 7.8), (8, 8, 5))
        self.assertAlmostEqual(self.between(self.notched(), inside), 0.8, places=3)
        self.assertLess(self.between(self.notched(surface=None), inside), 0)
        self.assertAlmostEqual(self.between(self.notched(), block((26, 15, 8.5), (8, 8, 3))), 1.0, places=3)
        self.assertAlmostEqual(self.between(self.notched(), block((28, 15, 8.5), (8, 8, 3))), -1.0, places=3)

    def test_turned_with_it(self) -> None:
        """On its head, the notch opens downwards: from 3 mm up to 9 mm."""
        over = self.notched(turn_deg=[180, 0, 0])
        self.assertAlmostEqual(self.between(over, block((20, 15, 3.2), (8, 8, 5))), 0.8, places=3)
        low = check_fit(gadget(over)).placed[0].low
        np.testing.assert_allclose(low, (10, 10, 3), atol=1e-4)

    def test_farther_than_is_searched_the_boxes_tell(self) -> None:
        self.assertAlmostEqual(self.between(self.notched(), block((44.5, 15, 4))), 4.5, places=3)
        self.assertAlmostEqual(self.between(self.notched(), block((20, 15, 12.5), (8, 8, 3))), 2.0, places=3)

    def test_dense_surfaces_beside_each_other_are_bearable(self) -> None:
        """Ten balls of 2 mm with 1,400 corners each, 0.3 mm apart."""
        read = read_mesh(stl(Manifold.sphere(1, 72)), "ball.stl")
        assert read.surface is not None
        one = {
            "shape": "mesh",
            "size_mm": read.size_mm,
            "hull_mm": read.hull_mm,
            "surface": read.surface.model_dump(mode="json"),
        }
        made = gadget(*(one | {"position_mm": [10 + 2.3 * (i % 4), 10 + 2.3 * (i // 4), 5]} for i in range(10)))
        fit = check_fit(made)  # half a minute if all triangles were searched
        gap = next(c.gap_mm for c in fit.contacts if (c.first, c.second) == (0, 1))
        self.assertAlmostEqual(gap, 0.3, places=3)

    def test_cut_it_shows_its_notch(self) -> None:
        answer = answer_section(gadget(self.notched()), "z", 10.0)
        self.assertEqual(sorted(len(b.outlines) for b in answer.bodies), [2])

    def test_only_what_reaches_into_the_wall_is_left_open(self) -> None:
        """Two posts of 6 mm on a plate, through the front: two round openings 0.3 mm wider, not one for the plate."""
        solid = Manifold.cube((30, 12, 2))
        for x in (6, 24):
            solid += Manifold.cylinder(6, 3, 3, 48).translate((x, 6, 2))
        read = read_mesh(stl(solid), "eyes.stl")
        assert read.surface is not None
        eyes = {
            "shape": "mesh", "size_mm": read.size_mm, "hull_mm": read.hull_mm, "surface": read.surface.model_dump(mode="json"),
            "position_mm": [15, -2, 8], "turn_deg": [90, 0, 0], "through": "front",
        }  # fmt: skip
        made = gadget(eyes)
        holes = opening_corners(check_fit(made).placed[0], made.enclosure)
        self.assertEqual(len(holes), 2)
        for hole in holes:
            np.testing.assert_allclose(np.ptp(hole, axis=0)[[0, 2]], (6.6, 6.6), atol=1e-3)

    def test_its_surface_lies_in_its_box(self) -> None:
        with self.assertRaises(ValidationError):
            Body.model_validate(self.notched(size_mm=[29, 20, 10]))

    def test_it_takes_its_own_volume(self) -> None:
        made, hull = (check_fit(gadget(self.notched(**more))).filled_share or 0 for more in ({}, {"surface": None}))
        self.assertAlmostEqual(made / hull, (30 * 20 * 10 - 20 * 20 * 6) / (30 * 20 * 10), places=4)
