"""The case's own solid where it is more than a box with rounded upright edges: edges rounded all around, sides that lean, a domed top; or
a closed surface from a file.

The first three are convex outside and inside: hulls of outlines at many heights. What is between is material.
"""

from __future__ import annotations

import atexit
from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

from .design import Enclosure
from .design.surfaces import solid_of
from .numeric import Array

if TYPE_CHECKING:
    from manifold3d import Manifold

CHORD_MM = 0.02  # no chord of a rounded edge is farther from it, here, in what is checked and in the files
MOST_ARC = 64  # corners of a quarter of the largest ones
DOME = 9  # heights along a dome
TOUCH_MM = 1e-6
SLIVER_MM2 = 1e-9  # faces of less have no normal to speak of
LOOKS = 1e-2  # of a face's normal: from there on it looks to a side


@dataclass(frozen=True)
class Planes:
    """The faces of a convex solid: outward `normals`, (faces, 3), and how far from the origin along them [mm], (faces,); a point inside it,
    where that is known."""

    normals: Array
    offsets: Array
    middle: Array | None = None

    @property
    def sides(self) -> np.ndarray:
        """The side that each face looks to most, by its position in the order left, right, front, back, bottom, top, (faces,)."""
        axis = np.argmax(np.abs(self.normals), axis=1)
        return np.asarray(2 * axis + (self.normals[np.arange(len(axis)), axis] > 0))


def is_plain(case: Enclosure) -> bool:
    """Whether it is a box with upright edges; where they are rounded, its upright walls are all as thick.

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> is_plain(case), is_plain(case.model_copy(update={"taper_deg": 2.0}))
    (True, False)
    """
    even = not case.corner_mm or len(set(case.walls[:4])) == 1
    return case.shape is None and not (case.edge_mm or case.taper_deg or case.dome_mm) and even


def outer_solid(case: Enclosure) -> Manifold:
    """All that is inside its outer faces. Not of a case from a file.

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> round(outer_solid(case).volume() / 1000, 1)
    129.6
    """
    return _hulls(_figures(case))[0]


def cavity_solid(case: Enclosure) -> Manifold:
    """Its inside; an empty solid where the walls take all of it. Not of a case from a file.

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> round(cavity_solid(case).volume() / 1000, 1)
    96.3
    """
    return _hulls(_figures(case))[1]


def cavity_planes(case: Enclosure) -> Planes:
    """The inner faces of a case that is not from a file.

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> len(cavity_planes(case).offsets)
    6
    """
    return _planes(_figures(case))


def outer_planes(case: Enclosure) -> Planes:
    """The outer faces of a case that is not from a file.

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> len(outer_planes(case).offsets)
    6
    """
    return _outer_planes(_figures(case))


def cavity_grown(case: Enclosure, by_mm: float) -> Manifold:
    """Its inside with so much of the walls around it. Not of a case from a file.

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> cavity_grown(case, 1.0).volume() > cavity_grown(case, 0.0).volume()
    True
    """
    from manifold3d import Manifold

    planes = cavity_planes(case)
    if not len(planes.normals):
        return Manifold()
    return Manifold.hull_points(_corners(Planes(planes.normals, planes.offsets + by_mm, planes.middle)))


def material(case: Enclosure) -> Manifold:
    """The solid that its walls are.

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> round(material(case).volume() / 1000, 1)
    33.3
    """
    if case.shape is None:
        return _walls(_figures(case))
    made = solid_of(case.shape.surface)
    assert made is not None, "checked with the document"
    return made


def corners_of(solid: Manifold) -> Array:
    """The corners of a solid [mm], (n, 3).

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> corners_of(outer_solid(case)).max(axis=0).round(1).tolist()
    [60.0, 90.0, 24.0]
    """
    return np.asarray(solid.to_mesh().vert_properties, dtype=float)[:, :3]


def centre_of(solid: Manifold) -> Array:
    """The middle of a solid of one density [mm], (3,): of the tetrahedra between its faces and the origin, each by its volume.

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> centre_of(outer_solid(case)).round(1).tolist()
    [30.0, 45.0, 12.0]
    """
    mesh = solid.to_mesh()
    corners = np.asarray(mesh.vert_properties, dtype=float)[:, :3][np.asarray(mesh.tri_verts)]
    volume = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])) / 6
    if abs(float(volume.sum())) < TOUCH_MM:
        return np.zeros(3)
    return np.asarray((volume[:, None] * corners.sum(axis=1) / 4).sum(axis=0) / volume.sum())


def room_mm3(case: Enclosure) -> float:
    """How much there is inside [mm3]; of a case from a file what its hull holds besides its material, openings and dents with it.

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> round(room_mm3(case) / 1000, 1)
    96.3
    """
    if case.shape is not None:
        return float(material(case).hull().volume()) - case.shape.volume_mm3
    if not is_plain(case):
        return float(cavity_solid(case).volume())
    x, y, z = case.inner_mm
    return x * y * z - (4 - np.pi) * case.inner_corner_mm**2 * z


def material_mm3(case: Enclosure) -> float:
    """How much its walls are [mm3].

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> round(material_mm3(case) / 1000, 1)
    33.3
    """
    if case.shape is not None:
        return case.shape.volume_mm3
    if not is_plain(case):
        return float(material(case).volume())
    x, y, z = case.outer_mm
    return (x * y - (4 - np.pi) * case.corner_mm**2) * z - max(room_mm3(case), 0.0)


def rounded_box(low: Array, high: Array, radius: float, axis: int, at: float) -> Array:
    """A box with rounded upright edges, cut; no rows where the plane misses it.

    >>> low, high = np.zeros(3), np.array([60.0, 90.0, 24.0])
    >>> outline = rounded_box(low, high, 3.0, 2, 12.0)
    >>> outline.min(axis=0).tolist(), outline.max(axis=0).tolist()
    ([0.0, 0.0], [60.0, 90.0])
    """
    if np.any(high - low <= TOUCH_MM) or not low[axis] <= at <= high[axis]:
        return np.zeros((0, 2))
    u, v = (k for k in range(3) if k != axis)
    a, b = np.array([low[u], low[v]]), np.array([high[u], high[v]])
    if axis < 2:  # along the upright edges: near a rounded one the box is less deep
        into = min(at - low[axis], high[axis] - at)
        inset = radius - np.sqrt(max(radius**2 - max(radius - into, 0.0) ** 2, 0.0))
        a[0], b[0] = a[0] + inset, b[0] - inset
        radius = 0.0
    if radius <= 0:
        return np.array([[a[0], a[1]], [b[0], a[1]], [b[0], b[1]], [a[0], b[1]]])
    turns = np.linspace(0, np.pi / 2, arc_corners(radius))
    arc = radius * np.stack([np.cos(turns), np.sin(turns)], axis=1)
    middles = [(b[0], b[1], 1, 1), (a[0], b[1], -1, 1), (a[0], a[1], -1, -1), (b[0], a[1], 1, -1)]
    rows = []
    for x, y, sx, sy in middles:
        part = np.array([x - sx * radius, y - sy * radius]) + arc * (sx, sy)
        rows.append(part if sx == sy else part[::-1])
    return np.concatenate(rows)


Figures = tuple[tuple[float, ...], tuple[float, ...], float, float, float, float]


def _figures(case: Enclosure) -> Figures:
    """What its solid follows from, to keep it by."""
    return case.outer_mm, case.walls, case.corner_mm, case.edge_mm, case.taper_deg, case.dome_mm


@lru_cache(maxsize=64)
def _hulls(figures: Figures) -> tuple[Manifold, Manifold]:
    """(all that is inside its outer faces, its inside)."""
    from manifold3d import Manifold

    points, planes = _outside(figures)
    room = _room(figures, planes)
    inside = _corners(room) if room is not None else np.zeros((0, 3))
    return _made(Manifold.hull_points(points)), _made(Manifold.hull_points(inside) if len(inside) else Manifold())


@lru_cache(maxsize=64)
def _walls(figures: Figures) -> Manifold:
    outer, cavity = _hulls(figures)
    return _made(outer - cavity)


def _made(solid: Manifold) -> Manifold:
    """A solid that is worked out, and not only asked for: what is made of it then does not depend on who asked first."""
    solid.num_tri()
    return solid


@lru_cache(maxsize=64)
def _planes(figures: Figures) -> Planes:
    planes = _room(figures, _outside(figures)[1])
    return Planes(np.zeros((0, 3)), np.zeros(0)) if planes is None else planes


@lru_cache(maxsize=64)
def _outer_planes(figures: Figures) -> Planes:
    return _outside(figures)[1]


def _outside(figures: Figures) -> tuple[Array, Planes]:
    """(the corners of its outer solid, their hull's faces)."""
    from manifold3d import Manifold  # as qhull gives up on very flat ones

    outer, _, corner, edge, taper, dome = figures
    points = _rings(np.asarray(outer, dtype=float), corner, edge, float(np.tan(np.radians(taper))), dome)
    mesh = Manifold.hull_points(points).to_mesh64()
    corners = np.asarray(mesh.vert_properties, dtype=float)[:, :3][np.asarray(mesh.tri_verts)]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    twice = np.linalg.norm(normals, axis=1)
    flat = twice > SLIVER_MM2
    normals = normals[flat] / twice[flat, None]
    offsets = np.einsum("ij,ij->i", normals, corners[flat, 0])
    found = np.unique(np.round(np.column_stack([normals, offsets]), 9), axis=0)
    return points, Planes(found[:, :3], found[:, 3])


def _room(figures: Figures, outside: Planes) -> Planes | None:
    """The faces of its inside: each outer face moved inwards along its normal by its wall; where a rounded edge lies between two walls, by the
    thinner one. So no wall is thinner anywhere than its figure. None where the walls take all of it."""
    outer, walls, _, _, taper, dome = figures
    normals = outside.normals
    flat = np.linalg.norm(normals[:, :2], axis=1)
    upwards = normals[:, 2] - np.tan(np.radians(taper)) * flat  # what looks up more than the side does there
    faces = np.column_stack([-normals[:, 0], normals[:, 0], -normals[:, 1], normals[:, 1], -upwards, upwards]) > LOOKS
    own = np.where(faces, np.asarray(walls), np.inf).min(axis=1)
    if dome:  # all of a dome is the top
        own = np.where(faces[:, 5], walls[5], own)
    offsets = outside.offsets - own
    middle = np.asarray(outer) / 2
    if np.any(normals @ middle > offsets - TOUCH_MM):
        from scipy.optimize import linprog  # the middle of the largest ball in it

        found = linprog(
            [0, 0, 0, -1],
            np.column_stack([normals, np.ones(len(normals))]),
            offsets,
            bounds=[(None, None)] * 3 + [(0, None)],
        )
        if not found.success or found.x[3] <= TOUCH_MM:
            return None
        middle = found.x[:3]
    return Planes(normals, offsets, middle)


def _corners(planes: Planes) -> Array:
    """The corners of a convex solid from its faces, (n, 3)."""
    from scipy.spatial import HalfspaceIntersection, QhullError

    try:
        found = HalfspaceIntersection(np.column_stack([planes.normals, -planes.offsets]), planes.middle).intersections
    except QhullError:  # so flat that there is nothing inside
        return np.zeros((0, 3))
    return np.asarray(found[np.isfinite(found).all(axis=1)])


for _kept in (_hulls, _walls):  # solids that are left at the end are complained about
    atexit.register(_kept.cache_clear)


def arc_corners(radius: float, turn: float = np.pi / 2) -> int:
    """How many points a part of a circle needs so that no chord is farther from it than `CHORD_MM`.

    >>> arc_corners(5.0, 1.5708)
    10
    """
    if radius <= CHORD_MM:
        return 2
    return int(np.clip(np.ceil(turn / (2 * np.arccos(1 - CHORD_MM / radius))), 3, MOST_ARC)) + 1


def _rings(size: Array, corner: float, edge: float, leans: float, dome: float) -> Array:
    """The corners of its outlines at many heights, (n, 3): narrower by `leans` for each millimetre upwards, at the rounded edges, and over the dome."""
    shoulder = size[2] - dome
    turn = np.linspace(0, np.pi / 2, arc_corners(edge) if edge else 1)
    into, along = edge * (1 - np.sin(turn)), edge * (1 - np.cos(turn))  # narrower by, and how far from the face
    heights = [*along, *([shoulder] if dome else size[2] - along[::-1])]
    insets = [*into, *([0.0] if dome else into[::-1])]
    points = []
    for z, inset in zip(heights, insets, strict=True):
        ring = _ring(size, corner, inset + leans * z)
        points.append(np.column_stack([ring, np.full(len(ring), z)]))
    if dome:
        last = points[-1][:, :2]
        middle = (last.min(axis=0) + last.max(axis=0)) / 2
        for part in np.linspace(1, 0, DOME)[1:]:
            ring = middle + (last - middle) * part
            points.append(np.column_stack([ring, np.full(len(ring), shoulder + dome * (1 - part**2))]))
    return np.concatenate(points)


def _ring(size: Array, corner: float, inset: float) -> Array:
    low, high = np.array([inset, inset, 0.0]), np.array([size[0] - inset, size[1] - inset, 1.0])
    found = rounded_box(low, high, max(corner - inset, 0.0), 2, 0.0)
    return found if len(found) else np.repeat((size / 2)[None, :2], 4, axis=0)
