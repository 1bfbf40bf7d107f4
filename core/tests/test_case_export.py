"""Random cases, written to each kind of file and read by another library than wrote it: closed, one solid a piece, as large as told."""

from __future__ import annotations

import io
import random
import unittest
from typing import Any

import cascadio
import numpy as np
import trimesh
from pydantic import ValidationError

from ember_core import Design, DocumentError
from ember_core.design import Enclosure
from ember_core.enclosure.case_files import CaseFormat, case_file
from ember_core.enclosure.pieces import on_the_bed, pieces

from .gadgets import cell, design, part, state, use
from .randoms import sweep

KINDS: tuple[CaseFormat, ...] = ("stl", "3mf", "obj", "step")
SIDES = ("left", "right", "front", "back", "bottom", "top")


def random_case(seed: int) -> Design:
    """Any shape, uneven walls, openings, posts, a cord, split anywhere."""
    choose = random.Random(seed)
    while True:
        try:
            return _drawn(choose)
        except (ValidationError, DocumentError):
            continue


def _drawn(choose: random.Random) -> Design:
    outer = [choose.uniform(25, 120), choose.uniform(25, 120), choose.uniform(14, 60)]
    case: dict[str, Any] = {"outer_mm": outer, "wall_mm": choose.uniform(1.2, 3.5), "plastic": "PETG"}
    if choose.random() < 0.5:
        case["walls_mm"] = {side: choose.uniform(1.2, 4) for side in SIDES if choose.random() < 0.5}
    if choose.random() < 0.5:
        case["corner_mm"] = choose.choice((0.2, 0.5, 1.0)) * min(outer[:2]) / 2 * choose.uniform(0.2, 1)
    if choose.random() < 0.3:
        case["corner_mm"] = min(outer[:2]) / 2
    if choose.random() < 0.4:
        case["edge_mm"] = choose.uniform(0.5, 6)
    if choose.random() < 0.4:
        case["taper_deg"] = choose.uniform(1, 25)
    if choose.random() < 0.4:
        case["dome_mm"] = choose.uniform(1, outer[2] / 2)
    if choose.random() < 0.6:
        case["split_mm"] = choose.uniform(0.3, 0.9) * outer[2]
    if choose.random() < 0.3:
        case["seal"] = {"cord_mm": 1.0, "groove_mm": 0.75}
    if choose.random() < 0.2:
        case["joint"] = "flat"
    if choose.random() < 0.3:
        letters = {
            "text": "Ab8",
            "side": choose.choice(SIDES),
            "height_mm": choose.uniform(3, 8),
            "raised": choose.random() < 0.5,
        }
        case["labels"] = [letters | {"depth_mm": choose.uniform(0.2, 1.0)}]
    room = Enclosure.model_validate(case)
    low, inner = np.asarray(room.walls)[0::2], np.asarray(room.inner_mm)
    bodies = []
    for side in choose.sample(SIDES, choose.randint(0, 3)):
        axis, far = SIDES.index(side) // 2, SIDES.index(side) % 2
        size = [min(choose.uniform(3, 10), v * 0.3) for v in inner]
        at = [float(a + choose.uniform(0.3, 0.7) * (v - s)) for a, v, s in zip(low, inner, size, strict=True)]
        size[axis] += room.walls[SIDES.index(side)] + room.edge_mm + room.dome_mm
        at[axis] = outer[axis] - size[axis] if far else 0.0
        bodies.append({"size_mm": size, "position_mm": at, "through": side, "shape": choose.choice(("cuboid", "cuboid", "cylinder"))})  # fmt: skip
        if bodies[-1]["shape"] == "cylinder":
            bodies[-1]["along"] = "xyz"[axis]
            across = [k for k in range(3) if k != axis]
            size[across[0]] = size[across[1]] = min(size[across[0]], size[across[1]])
    posts = []
    for n in range(choose.randint(0, 3)):
        at = [float(low[k] + inner[k] * (0.2 + 0.25 * n)) for k in (0, 1)]
        body = {
            "size_mm": [6, 6, float(inner[2])],
            "shape": "cylinder",
            "along": "z",
            "position_mm": [*at, float(low[2])],
        }
        kind = choose.choice(("screw", "insert", "nut"))
        posts.append({"id": f"post-{n}", "name": f"Post {n}", "kind": kind, "thread": "M2", "body": body})
    case["fastenings"] = posts
    parts = [part(f"p{i}", state("on", 1e-3), body=b) for i, b in enumerate(bodies)] or [part("p0", state("on", 1e-3))]
    modes = [{"id": "on", "name": "On", "uses": [use(p["id"], "on") for p in parts]}]
    made = design(parts=parts, modes=modes, day={"rest": "on"}, battery={"cell": cell(form="cylinder")}, enclosure=case)
    if not pieces(made):
        raise DocumentError([])
    return made


def read(data: bytes, kind: CaseFormat) -> trimesh.Trimesh:
    if kind == "step":
        glb = cascadio.to_glb_bytes(data, tol_linear=0.005, tol_angular=0.1)
        found = trimesh.load(io.BytesIO(glb), file_type="glb", force="mesh")
        found.apply_scale(1000)
    else:
        found = trimesh.load(io.BytesIO(data), file_type=kind, force="mesh")
    assert isinstance(found, trimesh.Trimesh)
    found.merge_vertices(digits_vertex=5)
    return found


class Export(unittest.TestCase):
    def test_random_cases(self) -> None:
        written = 0
        for seed in sweep(10, 200):
            made = random_case(seed)
            whole = on_the_bed(pieces(made))
            volume = sum(p.volume_mm3 for p in whole)
            bounds = np.concatenate([p.vertices for p in whole])
            for kind in KINDS:
                data = case_file(made, kind)
                with self.subTest(f"{seed} {kind}"):
                    self.assertFalse(kind in ("obj", "step") and b"nan" in data)
                    found = read(data, kind)
                    self.assertTrue(np.isfinite(found.vertices).all())
                    np.testing.assert_allclose(np.ptp(found.vertices, axis=0), np.ptp(bounds, axis=0), atol=0.01)
                    self.assertAlmostEqual(found.volume / volume, 1, delta=1e-3)
                    self.assertEqual(found.body_count, len(whole))
                    self.assertTrue(found.is_watertight)
                    written += 1
        self.assertGreater(written, 35)


if __name__ == "__main__":
    unittest.main()
