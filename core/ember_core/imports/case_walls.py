"""The walls of a case from a file, measured by rays (manifold3d): the usual one on each side, and where it is thinnest."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from ..design import ThinSpot
from ..figures import record
from ..numeric import Array

if TYPE_CHECKING:
    from manifold3d import Manifold

SIDE_RAYS = 15  # along each direction of a side
SURFACE_RAYS = 20_000
FIRST_STEP, SECOND_STEP = 0.7548776662466927, 0.5698402909980532  # fill a square evenly (powers of the plastic number)
RAY_STARTS_MM = 1e-3
THICK_MM = 8.0  # thicker than that nobody asks
AGAINST = 0.5  # cosine: out through a face that lies more or less against the one it went in through
SPOT_APART_MM, MOST_SPOTS, MOST_LOOKED = 4.0, 40, 6000
USUAL_WALL_MM, LEAST_WALL_MM, MOST_WALL_MM = 2.0, 0.01, 50.0  # of a side that is open; what a document takes


@record
class CaseReading:
    """What was measured on a case: its usual wall on each side (left, right, front, back, bottom, top) [mm], and its thinnest spots, the thinnest
    first. `spacing_mm` is how far apart it was looked at."""

    walls_mm: list[float]
    thin: list[ThinSpot]
    spacing_mm: float


def measured_case(solid: Manifold, size_mm: Array) -> CaseReading:
    """Its walls: rays straight in from every side, and from many points of its surface straight through to the next."""
    spots, spacing = thin_spots(solid)
    return CaseReading(
        walls_mm=[float(f"{w:.4g}") for w in usual_walls(solid, size_mm)],
        thin=spots,
        spacing_mm=float(f"{spacing:.3g}"),
    )


def usual_walls(solid: Manifold, size_mm: Array) -> list[float]:
    """The wall in the middle of what a side's rays meet first, left to top [mm]: openings and ribs are the few."""
    found = []
    for s in range(6):
        axis, far = s // 2, s % 2
        u, v = (k for k in range(3) if k != axis)
        walls = []
        for a in np.linspace(0.1, 0.9, SIDE_RAYS):
            for b in np.linspace(0.1, 0.9, SIDE_RAYS):
                begin, end = np.zeros(3), np.zeros(3)
                begin[u] = end[u] = a * size_mm[u]
                begin[v] = end[v] = b * size_mm[v]
                begin[axis], end[axis] = (size_mm[axis] + 1, -1.0) if far else (-1.0, size_mm[axis] + 1)
                hits = solid.ray_cast(tuple(begin), tuple(end))
                if len(hits) >= 2:
                    walls.append(abs(float(hits[1].position[axis]) - float(hits[0].position[axis])))
        found.append(min(max(float(np.median(walls)) if walls else USUAL_WALL_MM, LEAST_WALL_MM), MOST_WALL_MM))
    return found


def thin_spots(solid: Manifold) -> tuple[list[ThinSpot], float]:
    """(the thinnest spots, no two nearer to each other than `SPOT_APART_MM`, how far apart was looked [mm]). Thick is what a straight way from a point of the
    surface goes until it comes out again, where it comes out against what it went in through."""
    mesh = solid.to_mesh()
    corners = np.asarray(mesh.vert_properties, dtype=float)[:, :3][np.asarray(mesh.tri_verts)]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(normals, axis=1) / 2
    normals /= np.maximum(2 * area, 1e-12)[:, None]
    whole = float(area.sum())
    ends = np.cumsum(area)
    face = np.minimum(np.searchsorted(ends, (np.arange(SURFACE_RAYS) + 0.5) / SURFACE_RAYS * whole), len(area) - 1)
    a, b = (np.arange(SURFACE_RAYS) * FIRST_STEP) % 1.0, (np.arange(SURFACE_RAYS) * SECOND_STEP) % 1.0
    root = np.sqrt(a)
    share = np.stack([1 - root, root * (1 - b), root * b], axis=1)
    points = np.einsum("ij,ijk->ik", share, corners[face])
    into = -normals[face]
    thick = np.full(SURFACE_RAYS, np.inf)
    for k in range(SURFACE_RAYS):
        begin = points[k] + RAY_STARTS_MM * into[k]
        hits = solid.ray_cast(tuple(begin), tuple(points[k] + THICK_MM * into[k]))
        if hits and float(np.dot(hits[0].normal, into[k])) > AGAINST:
            thick[k] = float(np.linalg.norm(np.asarray(hits[0].position) - points[k]))
    kept: list[int] = []
    for k in np.argsort(thick, kind="stable")[:MOST_LOOKED].tolist():
        if not np.isfinite(thick[k]) or len(kept) >= MOST_SPOTS:
            break
        if all(np.linalg.norm(points[k] - points[j]) >= SPOT_APART_MM for j in kept):
            kept.append(k)
    spots = [
        ThinSpot(at_mm=(*(float(f"{v:.5g}") for v in points[k]),), thickness_mm=float(f"{thick[k]:.4g}")) for k in kept
    ]
    return spots, float(np.sqrt(whole / SURFACE_RAYS))
