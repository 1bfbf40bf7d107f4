"""The walls of a case from a file, measured by rays (manifold3d): the usual one on each side, and where it is thinnest."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from ..design import ThinSpot
from ..figures import record
from ..numeric import Array
from ..thickness import thin_spots

if TYPE_CHECKING:
    from manifold3d import Manifold

SIDE_RAYS = 15  # along each direction of a side
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
