"""Bodies from files: sizes by hand, what is wrong is said or refused, and a process of its own ends what takes too much."""

from __future__ import annotations

import io
import json
import struct
import subprocess
import sys
import unittest
import zipfile
from pathlib import Path
from typing import Any

import numpy as np
import trimesh

from ember_core.design.problems import DocumentError
from ember_core.imports.mesh import MOST_HULL, MeshBody, read_mesh

from .step import wedge

CORE = Path(__file__).resolve().parents[1]


def stl(mesh: Any) -> bytes:
    found: bytes = mesh.export(file_type="stl")
    return found


def box(*size: float) -> Any:
    return trimesh.creation.box(size)


def problem(raw: bytes, name: str = "thing.stl", unit: Any = None) -> str:
    try:
        read_mesh(raw, name, unit)
    except DocumentError as error:
        return error.problems[0].message
    raise AssertionError("read without a problem")


class Reading(unittest.TestCase):
    def size(self, body: MeshBody, *expected: float) -> None:
        for a, b in zip(body.size_mm, expected, strict=True):
            self.assertAlmostEqual(a, b, places=4)

    def test_a_box_in_every_format(self) -> None:
        mesh = box(10, 20, 30)
        mesh.apply_translation((100, 0, -7))
        for name in ("a.stl", "a.obj", "a.3mf"):
            raw = mesh.export(file_type=name[2:])
            body = read_mesh(raw.encode() if isinstance(raw, str) else raw, name)
            self.size(body, 10, 20, 30)
            self.assertAlmostEqual(body.volume_mm3, 6000, places=2)
            self.assertEqual((len(body.hull_mm), body.notes, body.doubtful), (8, [], False))
            self.assertEqual(np.asarray(body.hull_mm).min(), 0)

    def test_a_step_file_has_its_own_unit(self) -> None:
        """A wedge of 20 x 10 x 6 mm, half a cuboid; and one of 0.02 x 0.01 x 0.006 m."""
        for raw in (wedge(20, 10, 6), wedge(0.02, 0.01, 0.006, unit="")):
            body = read_mesh(raw, "wedge.STEP")
            self.size(body, 20, 10, 6)
            self.assertAlmostEqual(body.volume_mm3, 600, delta=1)
            self.assertEqual((body.doubtful, len(body.hull_mm)), (False, 6))

    def test_units_are_asked_for_where_a_size_is_unusual(self) -> None:
        inches = stl(box(1, 2, 0.5))
        self.assertTrue(read_mesh(inches, "a.stl").doubtful)
        body = read_mesh(inches, "a.stl", "in")
        self.size(body, 25.4, 50.8, 12.7)
        self.assertFalse(body.doubtful)
        for side, doubtful in ((2.9, True), (3.1, False), (499, False), (501, True)):
            self.assertEqual(read_mesh(stl(box(side, 1, 1)), "a.stl").doubtful, doubtful)

    def test_a_hollow_thing_is_judged_by_its_hull(self) -> None:
        ring = trimesh.creation.annulus(5, 10, 4)
        body = read_mesh(stl(ring), "ring.stl")
        self.assertAlmostEqual(body.volume_mm3, np.pi * 75 * 4, delta=15)
        self.assertEqual(body.notes, [])

    def test_a_hull_of_many_corners_is_simplified_outwards(self) -> None:
        ball = trimesh.creation.icosphere(subdivisions=5, radius=10)
        body = read_mesh(stl(ball), "ball.stl")
        self.assertLessEqual(len(body.hull_mm), MOST_HULL)
        self.assertIn("simplified by up to", body.notes[0])
        hull = trimesh.convex.convex_hull(np.asarray(body.hull_mm))
        out = np.max(
            (ball.vertices + 10) @ hull.face_normals.T - np.einsum("ij,ij->i", hull.face_normals, hull.triangles[:, 0])
        )
        self.assertLess(out, 0.02)  # but for the box that it keeps to
        self.assertLess(hull.volume / ball.volume, 1.02)


class Mended(unittest.TestCase):
    def test_inside_out_is_turned_and_said(self) -> None:
        mesh = box(10, 10, 10)
        mesh.invert()
        body = read_mesh(stl(mesh), "a.stl")
        self.assertEqual(body.notes, ["its surface was inside out, and is turned"])
        self.assertAlmostEqual(body.volume_mm3, 1000, places=2)

    def test_open_is_said(self) -> None:
        mesh = box(10, 10, 10)
        mesh.update_faces(np.arange(len(mesh.faces)) > 1)
        body = read_mesh(stl(mesh), "a.stl")
        self.assertIn("not closed", body.notes[-1])
        self.assertAlmostEqual(body.volume_mm3, 1000, places=2)

    def test_through_itself_is_no_trouble(self) -> None:
        both = trimesh.util.concatenate([box(10, 10, 10), box(20, 4, 4)])
        self.assertEqual(read_mesh(stl(both), "a.stl").size_mm, [20, 10, 10])


class Refused(unittest.TestCase):
    def test_in_words(self) -> None:
        flat = trimesh.Trimesh([[0, 0, 0], [10, 0, 0], [0, 10, 0]], [[0, 1, 2]])
        nan = stl(box(1, 1, 1))
        nan = nan[:96] + struct.pack("<f", float("nan")) + nan[100:]
        for raw, name, said in (
            (b"", "a.stl", "the file is empty"),
            (stl(box(1, 1, 1)), "a.gcode", "is none of the files that are read"),
            (b"solid nothing\nendsolid nothing\n", "a.stl", ""),
            (b"\x00" * 200, "a.stl", ""),
            (b"hello", "a.3mf", "it is no 3MF"),
            (b"hello", "a.step", "does not begin with ISO-10303-21"),
            (b"ISO-10303-21;\nnonsense", "a.step", ""),
            (b"\xff\xfe not an object", "a.obj", ""),
            (stl(flat), "a.stl", "or flat"),
            (stl(box(3000, 1, 1)), "a.stl", "no body of a gadget"),
            (nan, "a.stl", "no numbers"),
        ):
            with self.subTest(name=name, said=said):
                self.assertIn(said, problem(raw, name))
        self.assertIn("none of the units", problem(stl(box(1, 1, 1)), unit="furlong"))

    def archive(self, text: bytes) -> bytes:
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("3D/3dmodel.model", text)
        return out.getvalue()

    def test_archives_that_unpack_without_end_and_entities(self) -> None:
        self.assertIn("unpacked it has more than 256 MB", problem(self.archive(b"0" * 257_000_000), "a.3mf"))
        bomb = b'<?xml version="1.0"?><!DOCTYPE m [<!ENTITY a "ha"><!ENTITY b "&a;&a;&a;">]><model>&b;</model>'
        self.assertIn("entities of its own", problem(self.archive(bomb), "a.3mf"))
        self.assertTrue(problem(self.archive(b"<model></model>"), "a.3mf"))

    def test_entities_are_found_anywhere_and_in_any_encoding(self) -> None:
        for text in ('<!DOCTYPE m [<!ENTITY a "ha">]><model>&a;</model>', "<!doctype m><model/>", f"<!--{' ' * 100_000}--><!DOCTYPE m><model/>"):  # fmt: skip
            for encoding in ("utf-8", "utf-16", "utf-16-le", "utf-16-be", "utf-32"):
                with self.subTest(text[:30], encoding=encoding):
                    self.assertIn("entities of its own", problem(self.archive(text.encode(encoding)), "a.3mf"))
        for raw in (b'<?xml version="1.0" encoding="utf-7"?><model/>', "<!DOCTYPE m><model/>".encode("cp037")):
            with self.subTest(raw[:20]):
                self.assertIn("another encoding", problem(self.archive(raw), "a.3mf"))


class Process(unittest.TestCase):
    def run_it(self, raw: bytes, *arguments: str) -> dict[str, Any]:
        command = [sys.executable, "-m", "ember_core.imports.mesh_process", "body", *arguments]
        done = subprocess.run(command, input=raw, capture_output=True, cwd=CORE, check=True, timeout=60)
        found: dict[str, Any] = json.loads(done.stdout)
        return found

    def test_a_body_or_a_problem_comes_out(self) -> None:
        self.assertEqual(self.run_it(stl(box(1, 2, 3)), "a.stl", "cm")["body"]["size_mm"], [10, 20, 30])
        self.assertEqual(self.run_it(b"", "a.stl"), {"problem": "the file is empty"})

    def test_a_large_mesh_is_read_and_a_larger_one_refused_within_the_limits(self) -> None:
        """330,000 triangles, all corners on its hull; and 1.27 million, 64 MB."""
        ball = trimesh.creation.icosphere(subdivisions=7, radius=20)
        self.assertEqual(self.run_it(stl(ball), "a.stl")["body"]["triangles"], len(ball.faces))
        many = np.zeros(1_270_000, dtype=np.dtype([("normal", "<f4", 3), ("corners", "<f4", 9), ("attribute", "<u2")]))
        many["corners"] = np.random.default_rng(1).random((many.size, 9)) * 20
        raw = b"\0" * 80 + struct.pack("<I", many.size) + many.tobytes()
        self.assertIn("1,270,000 triangles; at most 500,000", self.run_it(raw, "a.stl")["problem"])


if __name__ == "__main__":
    unittest.main()
