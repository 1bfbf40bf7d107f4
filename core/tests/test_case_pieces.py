"""The case as solids: volumes by hand, closed surfaces, openings, posts with holes, and files that read back."""

from __future__ import annotations

import io
import json
import math
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from typing import Any

import numpy as np
import trimesh
from manifold3d import Manifold, Mesh

from ember_core import Design, DocumentError, build_design, read_design
from ember_core.case_shape import material_mm3
from ember_core.enclosure.bodies import placed_bodies
from ember_core.enclosure.case_files import CaseFormat, case_file
from ember_core.enclosure.fittings import made_mm3
from ember_core.enclosure.joints import groove_of, rim_of, snap_of, split_mm
from ember_core.enclosure.pieces import Piece, on_the_bed, pieces
from ember_core.enclosure.step_file import directions, flat_faces
from ember_core.enclosure.vents import vent_slots
from ember_core.imports.mesh import read_mesh
from ember_core.making import CLEARS_MM, HOLES_MM, making_of

from .gadgets import cell, design, part, seen, state, use
from .test_case_export import random_case

CASE = {"outer_mm": [60, 40, 20], "wall_mm": 2, "clearance_mm": 0.3, "joint": "flat"}
DEMO = Path(__file__).parents[2] / "demo"


def gadget(*bodies: dict[str, Any], **case: Any) -> Design:
    parts = [part(f"p{i}", state("on", 1e-3), body=b) for i, b in enumerate(bodies)] or [part("p0", state("on", 1e-3))]
    modes = [{"id": "on", "name": "On", "uses": [use(p["id"], "on") for p in parts]}]
    return design(
        parts=parts, modes=modes, day={"rest": "on"}, battery={"cell": cell(form="cylinder")}, enclosure=CASE | case
    )


def post(kind: str, thread: str = "M3", wide: float = 8.0) -> dict[str, Any]:
    body = {"size_mm": [wide, wide, 16], "shape": "cylinder", "position_mm": [10, 10, 2]}
    return {"id": "one", "name": "Post", "kind": kind, "thread": thread, "body": body}


def mesh(piece: Piece) -> trimesh.Trimesh:
    return trimesh.Trimesh(piece.vertices, piece.faces, process=False)


def bore(diameter: float, height: float, corners: int = 48) -> float:
    """Volume of a prism of so many corners on a circle."""
    return corners / 2 * (diameter / 2) ** 2 * math.sin(2 * math.pi / corners) * height


class Volumes(unittest.TestCase):
    EMPTY = 60 * 40 * 20 - 56 * 36 * 16

    def test_an_empty_box_by_hand(self) -> None:
        lower, upper = pieces(gadget(split_mm=12))
        self.assertAlmostEqual(lower.volume_mm3, 60 * 40 * 12 - 56 * 36 * 10)
        self.assertAlmostEqual(upper.volume_mm3, 60 * 40 * 8 - 56 * 36 * 6)

    def test_it_comes_apart_where_the_document_says_or_below_its_top(self) -> None:
        for given, at in ((None, 18.0), (12.0, 12.0), (20.0, 18.0), (19.0, 18.0)):
            made = gadget(split_mm=given)
            self.assertEqual(split_mm(made.enclosure), at)
            self.assertAlmostEqual(float(pieces(made)[0].vertices[:, 2].max()), at, delta=2e-3)

    def test_rounded_edges_take_off_what_they_should(self) -> None:
        whole = sum(p.volume_mm3 for p in pieces(gadget(corner_mm=10)))
        off = (4 - math.pi) * (10**2 * 20 - 8**2 * 16)
        self.assertAlmostEqual(whole, self.EMPTY - off, delta=0.03 * off)

    def test_an_opening_is_the_body_and_its_clearance_through_the_wall(self) -> None:
        through = {"size_mm": [10, 8, 4], "position_mm": [0, 10, 6], "through": "left"}
        whole = sum(p.volume_mm3 for p in pieces(gadget(through, split_mm=12)))
        self.assertAlmostEqual(whole, self.EMPTY - 2 * 8.6 * 4.6, places=3)
        lid = {"size_mm": [12, 12, 5], "position_mm": [20, 10, 15], "through": "top", "shape": "cylinder", "along": "z"}
        whole = sum(p.volume_mm3 for p in pieces(gadget(lid, split_mm=12)))
        self.assertAlmostEqual(whole, self.EMPTY - 2 * math.pi * 6.3**2, delta=0.5)

    def test_a_post_adds_itself_and_its_hole_takes_off(self) -> None:
        for kind in ("screw", "insert", "nut"):
            made = gadget(fastenings=[post(kind)], split_mm=12)
            lower, upper = pieces(made)
            more = making_of(made.enclosure).hole
            thinner = making_of(made.enclosure).post  # it comes out thicker
            body = bore((8.0 - thinner) / math.cos(math.pi / 72), 1.0, 72)
            clear = bore(CLEARS_MM["M3"] + more, 1.0)
            self.assertAlmostEqual(upper.volume_mm3, 60 * 40 * 8 - 56 * 36 * 6 + 6 * body - 8 * clear, places=2)
            empty = 60 * 40 * 12 - 56 * 36 * 10 + 10 * body
            if kind == "nut":
                pocket = bore(6.5 + more, 2.6, 6)
                self.assertAlmostEqual(lower.volume_mm3, empty - (12 - 2.6) * clear - pocket, places=2)
            else:
                deep = 6.0 if kind == "insert" else 10.0
                self.assertAlmostEqual(
                    lower.volume_mm3, empty - deep * bore(HOLES_MM[kind]["M3"] + more, 1.0), places=2
                )

    def test_without_an_inside_there_is_nothing(self) -> None:
        self.assertEqual(pieces(gadget(outer_mm=[60, 40, 4])), [])
        with self.assertRaises(DocumentError) as caught:
            case_file(gadget(outer_mm=[60, 40, 4]), "stl")
        self.assertEqual(caught.exception.problems[0].path, "/enclosure/outer_mm")


class Joints(unittest.TestCase):
    """A filament print slides with 0.2 mm: of a wall of 2 mm the rim has (2 - 0.2) / 2 = 0.9 mm, 2 mm deep, and its recess 0.2 mm more each way."""

    def ring(self, inner: float, outer: float) -> float:
        """The area between two rectangles around the inside of 56 x 36 mm, so much larger on each side."""
        return (56 + 2 * outer) * (36 + 2 * outer) - (56 + 2 * inner) * (36 + 2 * inner)

    def test_the_rim_by_hand(self) -> None:
        flat = [p.volume_mm3 for p in pieces(gadget(split_mm=12))]
        lower, upper = pieces(gadget(split_mm=12, joint="rim"))
        self.assertAlmostEqual(upper.volume_mm3, flat[1] + 2 * self.ring(0, 0.9), places=2)
        self.assertAlmostEqual(lower.volume_mm3, flat[0] - 2.2 * self.ring(0, 1.1), places=2)
        self.assertAlmostEqual(float(upper.vertices[:, 2].min()), 10.0)
        together = hull_free(lower) ^ hull_free(upper)
        self.assertLess(float(together.volume()), 1e-6)
        self.assertAlmostEqual(float(hull_free(lower).min_gap(hull_free(upper).translate((0, 0, 1e-3)), 1.0)), 1e-3, places=4)  # fmt: skip

    def test_a_wall_just_wide_enough_for_a_rim(self) -> None:
        """Two halves of 0.8 mm and 0.2 mm between want 1.8 mm."""
        for wall, there in ((1.801, True), (1.799, False)):
            case = gadget(wall_mm=wall, joint="rim").enclosure
            self.assertEqual(rim_of(case) is not None, there)
            found = seen(gadget(wall_mm=wall, joint="rim", split_mm=12), "loose-lid")
            self.assertEqual(not found, there)
        self.assertIsNone(rim_of(gadget(joint="flat").enclosure))

    def test_the_groove_of_a_cord(self) -> None:
        """A cord of 1.2 mm in a groove of 0.9 mm, 1.5 mm wide: a wall wants 1.5 + 2 x 0.8 = 3.1 mm."""
        seal = {"cord_mm": 1.2, "groove_mm": 0.9}
        for wall, there in ((3.101, True), (3.099, False)):
            made = gadget(wall_mm=wall, seal=seal, split_mm=12)
            self.assertEqual(groove_of(made.enclosure) is not None, there)
            self.assertEqual(not seen(made, "no-groove"), there)
            thin_floor = gadget(wall_mm=wall, walls_mm={"bottom": 1.0}, seal=seal, split_mm=12)
            told = seen(thin_floor, "no-groove")  # it runs in the sides: the floor has nothing to do with it
            self.assertEqual([x.found.figures["wall"][0] for x in told], [] if there else [wall])
            flat = pieces(gadget(wall_mm=wall, split_mm=12))[0].volume_mm3
            x, y, off = 60 - 2 * wall, 40 - 2 * wall, (wall - 1.5) / 2
            ring = (x + 2 * off + 3) * (y + 2 * off + 3) - (x + 2 * off) * (y + 2 * off)
            self.assertAlmostEqual(pieces(made)[0].volume_mm3, flat - (0.9 * ring if there else 0), places=2)


class Countersinks(unittest.TestCase):
    def test_a_cone_of_the_head_s_size(self) -> None:
        """M3: 5.5 mm wide at the face and 1.65 mm deep, down to the screw's way of 3.4 mm, both 0.2 mm wider."""
        flush, sunk = (
            pieces(gadget(fastenings=[post("screw") | {"sunk": x}], split_mm=12, wall_mm=3))[1].volume_mm3
            for x in (False, True)
        )
        a, b = (CLEARS_MM["M3"] + 0.2) / 2, (5.5 + 0.2) / 2
        cone = math.pi * 1.65 / 3 * (a * a + a * b + b * b) - math.pi * a * a * 1.65
        self.assertAlmostEqual(flush - sunk, cone, delta=0.02 * cone)

    def test_the_lid_under_the_head(self) -> None:
        for lid, severity in ((2.46, []), (2.44, ["watch"]), (1.66, ["watch"]), (1.64, ["fix"])):
            made = gadget(fastenings=[post("screw") | {"sunk": True}], wall_mm=3, walls_mm={"top": lid})
            self.assertEqual([f.severity for f in seen(made, "head-through-lid")], severity, lid)


class Vents(unittest.TestCase):
    def test_as_much_low_and_high_as_the_document_says(self) -> None:
        """64 mm2 low and high: two slots of 2 x 8 mm in each of two walls of 2 mm, at either height."""
        whole = sum(p.volume_mm3 for p in pieces(gadget(outer_mm=[60, 40, 40], split_mm=34)))
        vented = gadget(outer_mm=[60, 40, 40], split_mm=34, vents={"area_mm2": 64, "height_mm": 18})
        self.assertAlmostEqual(whole - sum(p.volume_mm3 for p in pieces(vented)), 2 * 64 * 2, places=2)
        self.assertEqual(seen(vented, "vents-not-made"), [])
        slots = vent_slots(vented.enclosure)
        assert slots is not None
        heights = sorted({round(float(s[:, 2].min()), 3) for s in slots})
        self.assertAlmostEqual(heights[1] - heights[0], 18)

    def places(self, **case: Any) -> list[list[list[float]]]:
        """From where to where each slot goes along both axes of its wall, and along the third."""
        slots = vent_slots(gadget(**case).enclosure)
        assert slots is not None
        return [np.round([s.min(axis=0), s.max(axis=0)], 3).T.tolist() for s in slots]

    def test_where_they_are(self) -> None:
        """Two slots of 2 mm and a strut of 2 mm between, 6 mm wide, in the middle of the longer side; 20 mm inside less two struts, 3 mm and a slot of 8 mm leave 5 mm,
        half of them below. They reach 0.3 mm into the room and 1 mm out."""
        vents = {"area_mm2": 64, "height_mm": 3}
        front, back = [-1, 2.3], [37.7, 41]
        self.assertEqual(
            self.places(outer_mm=[60, 40, 24], vents=vents),
            [[x, y, z] for y in (front, back) for z in ([6.5, 14.5], [9.5, 17.5]) for x in ([27, 29], [31, 33])],
        )
        left, right = [-1, 2.3], [37.7, 41]
        self.assertEqual(
            self.places(outer_mm=[40, 60, 24], vents=vents),
            [[x, y, z] for x in (left, right) for z in ([6.5, 14.5], [9.5, 17.5]) for y in ([27, 29], [31, 33])],
        )
        uneven = self.places(outer_mm=[60, 40, 24], walls_mm={"left": 3, "bottom": 4}, vents=vents)
        self.assertEqual(uneven[0], [[27.5, 29.5], front, [7.5, 15.5]])
        domed = self.places(outer_mm=[60, 40, 30], dome_mm=4, vents=vents)  # a dome takes its height off: 7 mm are left
        self.assertEqual(domed[0][2], [7.5, 15.5])
        edged = self.places(outer_mm=[60, 40, 30], edge_mm=4, vents=vents)  # rounded edges take 4 mm off: 7 mm are left
        self.assertEqual(edged[0][2], [9.5, 17.5])

    def test_what_has_no_room_is_said(self) -> None:
        """Inside 16 mm high: struts of 2 mm below and above, slots of 5 mm at least, and 7 mm between."""
        for high, room in ((6.9, True), (7.1, False)):
            made = gadget(vents={"area_mm2": 20, "height_mm": high})
            self.assertEqual(vent_slots(made.enclosure) is not None, room, high)
            self.assertEqual(not seen(made, "vents-not-made"), room)


class Snaps(unittest.TestCase):
    def made(self, **case: Any) -> Design:
        body = {"size_mm": [10, 2.5, 8], "position_mm": [25, 2, case.get("split_mm", 18) - 8]}
        return gadget(fastenings=[{"id": "s", "name": "Snap", "kind": "snap", "body": body}], **case)

    def test_closed_nothing_is_in_the_way_and_pulled_it_holds(self) -> None:
        for case in ({}, {"joint": "rim", "split_mm": 12}, {"joint": "rim"}):
            lower, upper = (hull_free(p) for p in pieces(self.made(**case)))
            self.assertLess(float((lower ^ upper).volume()), 1e-3, case)
            self.assertGreater(float((lower ^ upper.translate((0, 0, 1.0))).volume()), 0.3, case)
            without = [hull_free(p) for p in pieces(gadget(**case))]
            self.assertLess(float((without[0] ^ without[1].translate((0, 0, 1.0))).volume()), 1e-3)
            self.assertEqual([len(x.decompose()) for x in (lower, upper)], [1, 1], case)
            self.assertGreater(float(upper.volume()), float(without[1].volume()) + 60)

    def test_at_each_wall(self) -> None:
        """As much is added to the lid and taken off the wall at each of the four, by their own thickness."""
        found = []
        for size, at in (
            ([2.5, 10, 8], [2, 12, 10]),
            ([2.5, 10, 8], [55.5, 12, 10]),
            ([10, 2.5, 8], [20, 2, 10]),
            ([10, 2.5, 8], [20, 35.5, 10]),
        ):
            held = [{"id": "s", "name": "Snap", "kind": "snap", "body": {"size_mm": size, "position_mm": at}}]
            found.append([p.volume_mm3 for p in pieces(gadget(fastenings=held))])
        for lower, upper in found[1:]:
            self.assertAlmostEqual(lower, found[0][0], places=2)
            self.assertAlmostEqual(upper, found[0][1], places=2)
        self.assertLess(found[0][0], pieces(gadget())[0].volume_mm3 - 1)

    def test_a_wall_just_thick_enough_for_its_recess(self) -> None:
        """Its ridge stands out 0.6 mm, with 0.2 mm between, and 0.8 mm of wall are left: 1.6 mm."""
        for wall, there in ((1.601, True), (1.599, False)):
            body = {"size_mm": [10, 2.5, 8], "position_mm": [25, wall, 18 - 8]}
            held = [{"id": "s", "name": "Snap", "kind": "snap", "body": body}]
            design_ = gadget(fastenings=held, wall_mm=wall)
            snap = next(b for b in placed_bodies(design_) if b.pointer.startswith("/enclosure"))
            self.assertEqual(snap_of(design_.enclosure, snap) is not None, there)

    def test_one_that_touches_no_wall_or_hangs_from_nothing(self) -> None:
        for body, case in (({"position_mm": [25, 2.2, 10]}, {}), ({"position_mm": [25, 2, 4]}, {"split_mm": 12.0})):
            held = [{"id": "s", "name": "Snap", "kind": "snap", "body": {"size_mm": [10, 2.5, 8]} | body}]
            design_ = gadget(fastenings=held, **case)
            snap = next(b for b in placed_bodies(design_) if b.pointer.startswith("/enclosure"))
            self.assertIsNone(snap_of(design_.enclosure, snap))


def hull_free(piece: Piece) -> Manifold:
    return Manifold(Mesh(piece.vertices.astype(np.float32), piece.faces.astype(np.uint32)))


class Solids(unittest.TestCase):
    def test_the_demos_are_closed_and_in_one_piece_each(self) -> None:
        for path in sorted(DEMO.glob("*.json")):
            for piece in pieces(read_design(path.read_bytes())):
                with self.subTest(path.name, piece=piece.name):
                    found = mesh(piece)
                    self.assertTrue(found.is_watertight)
                    self.assertEqual(found.body_count, 1)
                    self.assertAlmostEqual(found.volume, piece.volume_mm3, delta=1e-3 * piece.volume_mm3)

    def test_on_the_bed_they_lie_beside_each_other_each_on_its_closed_side(self) -> None:
        made = pieces(gadget(split_mm=12))
        laid = on_the_bed(made)
        for before, piece in zip(made, laid, strict=True):
            np.testing.assert_allclose(piece.vertices[:, 1:].min(axis=0), 0, atol=1e-9)
            self.assertAlmostEqual(mesh(piece).volume, before.volume_mm3, places=3)
            at_floor = mesh(piece).section([0, 0, 1], [0, 0, 0.5])
            assert at_floor is not None
            self.assertEqual(len(at_floor.discrete), 1)  # a closed floor, no ring of walls
        self.assertGreaterEqual(laid[1].vertices[:, 0].min(), laid[0].vertices[:, 0].max() + 10 - 1e-9)


class Files(unittest.TestCase):
    def test_each_kind_reads_back_with_its_size_and_volume(self) -> None:
        made = gadget({"size_mm": [10, 8, 4], "position_mm": [0, 10, 6], "through": "left"}, fastenings=[post("screw")])
        volume = sum(p.volume_mm3 for p in pieces(made))
        kinds: tuple[CaseFormat, ...] = ("stl", "3mf", "obj")
        for kind in kinds:
            with self.subTest(kind):
                found = trimesh.load(io.BytesIO(case_file(made, kind)), file_type=kind, force="mesh")
                assert isinstance(found, trimesh.Trimesh)
                np.testing.assert_allclose(found.bounds, [[0, 0, 0], [130, 40, 18]], atol=1e-3)
                self.assertAlmostEqual(found.volume, volume, delta=1e-3 * volume)

    def test_a_step_file_has_flat_faces_with_their_holes_and_reads_back(self) -> None:
        """The lid of an open box: 5 faces outside, one ring at its rim, 5 inside; with an opening in its top two loops there on either side, and four more faces."""
        plain = {p.name: flat_faces(p.vertices, p.faces) for p in pieces(gadget(split_mm=12))}
        self.assertEqual(sorted(len(loops) for loops in plain["upper piece"]), [1] * 10 + [2])
        lid = {"size_mm": [8, 9, 6], "position_mm": [20, 15, 14], "through": "top"}
        opened = {p.name: flat_faces(p.vertices, p.faces) for p in pieces(gadget(lid, split_mm=12))}
        self.assertEqual(sorted(len(loops) for loops in opened["upper piece"]), [1] * 12 + [2] * 3)
        lids = next(p for p in pieces(gadget(lid, split_mm=12)) if p.name == "upper piece")
        for outer, *holes in (loops for loops in opened["upper piece"] if len(loops) > 1):  # the outer one first
            own, hole = (np.prod(np.sort(np.ptp(lids.vertices[x], axis=0))[1:]) for x in (outer, holes[0]))
            self.assertGreater(own, hole)
        for name, faces in plain.items():
            piece = next(p for p in pieces(gadget(split_mm=12)) if p.name == name)
            middle = (piece.vertices.min(axis=0) + piece.vertices.max(axis=0)) / 2
            outside = [loops[0] for loops in faces if len(loops) == 1]
            for loop in outside:
                points = piece.vertices[loop]
                edge = np.max(np.abs(points.mean(axis=0) - middle) * 2 / np.ptp(piece.vertices, axis=0))
                if edge > 0.999:  # an outer face: its normal looks away from the middle
                    self.assertGreater(float(directions(points)[0] @ (points.mean(axis=0) - middle)), 0)
        for made in (gadget(lid, split_mm=12), read_design((DEMO / "dusk-ear.json").read_bytes())):
            read = read_mesh(case_file(made, "step"), "case.step")
            self.assertIsNotNone(read.surface)
            self.assertAlmostEqual(read.volume_mm3 / sum(p.volume_mm3 for p in pieces(made)), 1, places=4)

    def test_two_hundred_openings_are_the_most(self) -> None:
        def through(count: int) -> Design:
            bodies = [
                {"size_mm": [0.5, 0.5, 4], "position_mm": [3 + i % 50, 3 + i // 50, 17], "through": "top"}
                for i in range(count)
            ]
            return gadget(*bodies)

        self.assertGreater(len(case_file(through(200), "stl")), 1000)
        with self.assertRaises(DocumentError) as caught:
            case_file(through(201), "stl")
        self.assertIn("200 openings", caught.exception.problems[0].message)

    def test_from_the_command_line(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            out = Path(folder) / "case.3mf"
            command = [sys.executable, "-m", "ember_core", str(DEMO / "dusk-ear.json"), "--fit", "--case"]
            done = subprocess.run([*command, str(out)], capture_output=True, text=True, check=False)
            self.assertEqual(done.returncode, 0, done.stderr)
            self.assertGreater(out.stat().st_size, 1000)
            wrong = subprocess.run(
                [*command, str(Path(folder) / "case.igs")], capture_output=True, text=True, check=False
            )
            self.assertEqual(wrong.returncode, 2)
            self.assertIn(".stl, .3mf, .obj or .step", wrong.stderr)
            nowhere = subprocess.run(
                [*command, str(Path(folder) / "none" / "case.stl")], capture_output=True, text=True, check=False
            )
            self.assertEqual(nowhere.returncode, 2)
            self.assertIn("No such file", nowhere.stderr)


class Material(unittest.TestCase):
    """The material that is told without making a solid against the solids that are printed."""

    def told_to_made(self, design: Design) -> float:
        made = sum(p.volume_mm3 for p in pieces(design))
        return made_mm3(design.enclosure, placed_bodies(design)) / made

    def test_that_of_the_demos_is_what_is_printed(self) -> None:
        for file in sorted(DEMO.glob("*.json")):
            with self.subTest(file.stem):
                self.assertAlmostEqual(self.told_to_made(build_design(json.loads(file.read_text()))), 1, delta=0.003)

    def test_that_of_vents_snaps_countersinks_and_letters(self) -> None:
        """What the random cases have none of, each alone in a case of its own: within half a percent, and without it far off."""
        snap = {
            "id": "s",
            "name": "Snap",
            "kind": "snap",
            "body": {"size_mm": [10, 2.5, 8], "position_mm": [25, 2, 26]},
        }
        sunk = {"id": "p", "name": "Post", "kind": "screw", "thread": "M4", "sunk": True,
                "body": {"size_mm": [9, 9, 36], "shape": "cylinder", "along": "z", "position_mm": [20, 15, 2]}}  # fmt: skip
        tall = {"outer_mm": [60, 40, 40], "split_mm": 34}
        for name, case in {
            "vents": {"vents": {"area_mm2": 128, "height_mm": 10}},
            "snap": {"joint": "rim", "fastenings": [snap]},
            "sunk": {"fastenings": [sunk]},
            "engraved": {"labels": [{"text": "EMBER", "height_mm": 8, "depth_mm": 1.0}]},
            "raised": {"labels": [{"text": "EMBER", "height_mm": 8, "depth_mm": 2.0, "raised": True}]},
            "cord": {"seal": {"cord_mm": 1.0, "groove_mm": 0.75}, "wall_mm": 4},
        }.items():
            with self.subTest(name):
                made = gadget(**tall, **case)  # type: ignore[arg-type]
                self.assertAlmostEqual(self.told_to_made(made), 1, delta=0.005)
                self.assertGreater(
                    abs(made_mm3(made.enclosure, placed_bodies(made)) / material_mm3(made.enclosure) - 1), 0.001
                )

    def test_that_of_any_case_within_three_percent(self) -> None:
        """Openings, posts, cords, letters, leaning and domed ones; half of them within a thousandth."""
        off = np.array([abs(self.told_to_made(random_case(seed)) - 1) for seed in range(30)])
        self.assertLess(off.max(), 0.03)
        self.assertLess(np.median(off), 0.001)


if __name__ == "__main__":
    unittest.main()
