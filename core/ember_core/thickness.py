"""How thick a solid is, measured by rays (manifold3d)."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from .design import ThinSpot

if TYPE_CHECKING:
    from manifold3d import Manifold

SURFACE_RAYS = 20_000
FIRST_STEP, SECOND_STEP = 0.7548776662466927, 0.5698402909980532  # fill a square evenly (powers of the plastic number)
RAY_STARTS_MM = 1e-3
THICK_MM = 8.0  # thicker than that nobody asks
AGAINST = 0.5  # cosine: out through a face that lies more or less against the one it went in through
SPOT_APART_MM, MOST_SPOTS, MOST_LOOKED = 4.0, 40, 6000


def thin_spots(solid: Manifold, rays: int = SURFACE_RAYS, below_mm: float = THICK_MM) -> tuple[list[ThinSpot], float]:
    """(the thinnest spots below `below_mm`, no two nearer to each other than `SPOT_APART_MM`, how far apart was looked [mm]). Thick is what a straight way from
    a point of the surface goes until it comes out again, where it comes out against what it went in through.

    >>> from manifold3d import Manifold
    >>> spots, apart_mm = thin_spots(Manifold.cube((40, 30, 1.2)))
    >>> round(spots[0].thickness_mm, 2)
    1.2
    """
    mesh = solid.to_mesh()
    corners = np.asarray(mesh.vert_properties, dtype=float)[:, :3][np.asarray(mesh.tri_verts)]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(normals, axis=1) / 2
    normals /= np.maximum(2 * area, 1e-12)[:, None]
    whole = float(area.sum())
    ends = np.cumsum(area)
    face = np.minimum(np.searchsorted(ends, (np.arange(rays) + 0.5) / rays * whole), len(area) - 1)
    a, b = (np.arange(rays) * FIRST_STEP) % 1.0, (np.arange(rays) * SECOND_STEP) % 1.0
    root = np.sqrt(a)
    share = np.stack([1 - root, root * (1 - b), root * b], axis=1)
    points = np.einsum("ij,ijk->ik", share, corners[face])
    into = -normals[face]
    begin, end = points + RAY_STARTS_MM * into, points + below_mm * into
    met = [(hits[0], k) for k, ray in enumerate(zip(begin, end, strict=True)) if (hits := solid.ray_cast(*ray))]
    of = np.array([k for _, k in met], dtype=int)
    out = np.array([(*hit.position, *hit.normal) for hit, _ in met]).reshape(-1, 6)
    against = np.einsum("ij,ij->i", out[:, 3:], into[of]) > AGAINST
    thick = np.full(rays, np.inf)
    thick[of[against]] = np.linalg.norm(out[against, :3] - points[of[against]], axis=1)
    kept: list[int] = []
    for k in np.argsort(thick, kind="stable")[:MOST_LOOKED].tolist():
        if not thick[k] < below_mm or len(kept) >= MOST_SPOTS:
            break
        if (np.linalg.norm(points[kept] - points[k], axis=1) >= SPOT_APART_MM).all():
            kept.append(k)
    spots = [
        ThinSpot(at_mm=(*(float(f"{v:.5g}") for v in points[k]),), thickness_mm=float(f"{thick[k]:.4g}")) for k in kept
    ]
    return spots, float(np.sqrt(whole / rays))
