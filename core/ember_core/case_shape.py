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

ARC = 9  # corners of a quarter of a rounded edge
RINGS = 7  # heights along a rounded edge
DOME = 9  # and along a dome
TOUCH_MM = 1e-6
SAME_WAY = 1e-4  # cosines of faces that are one


@dataclass(frozen=True)
class Planes:
    """The faces of a convex solid: outward `normals`, (faces, 3), and how far from the origin along them [mm], (faces,)."""

    normals: Array
    offsets: Array


def is_plain(case: Enclosure) -> bool:
    """Whether it is a box with upright edges, rounded or not."""
    return case.shape is None and not (case.edge_mm or case.taper_deg or case.dome_mm)


def outer_solid(case: Enclosure) -> Manifold:
    """All that is inside its outer faces. Not of a case from a file."""
    return _hulls(_figures(case))[0]


def cavity_solid(case: Enclosure) -> Manifold:
    """Its inside; an empty solid where the walls take all of it. Not of a case from a file."""
    return _hulls(_figures(case))[1]


def cavity_planes(case: Enclosure) -> Planes:
    """The inner faces of a case that is not from a file."""
    return _planes(_figures(case))


def material(case: Enclosure) -> Manifold:
    """The solid that its walls are."""
    if case.shape is None:
        return _walls(_figures(case))
    made = solid_of(case.shape.surface)
    assert made is not None, "checked with the document"
    return made


def corners_of(solid: Manifold) -> Array:
    """The corners of a solid [mm], (n, 3)."""
    return np.asarray(solid.to_mesh().vert_properties, dtype=float)[:, :3]


def centre_of(solid: Manifold) -> Array:
    """The middle of a solid of one density [mm], (3,): of the tetrahedra between its faces and the origin, each by its volume."""
    mesh = solid.to_mesh()
    corners = np.asarray(mesh.vert_properties, dtype=float)[:, :3][np.asarray(mesh.tri_verts)]
    volume = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])) / 6
    if abs(float(volume.sum())) < TOUCH_MM:
        return np.zeros(3)
    return np.asarray((volume[:, None] * corners.sum(axis=1) / 4).sum(axis=0) / volume.sum())


def room_mm3(case: Enclosure) -> float:
    """How much there is inside [mm3]; of a case from a file what its hull holds besides its material, openings and dents with it."""
    if case.shape is not None:
        return float(material(case).hull().volume()) - case.shape.volume_mm3
    if not is_plain(case):
        return float(cavity_solid(case).volume())
    x, y, z = case.inner_mm
    return x * y * z - (4 - np.pi) * case.inner_corner_mm**2 * z


def material_mm3(case: Enclosure) -> float:
    """How much its walls are [mm3]."""
    if case.shape is not None:
        return case.shape.volume_mm3
    if not is_plain(case):
        return float(material(case).volume())
    x, y, z = case.outer_mm
    return (x * y - (4 - np.pi) * case.corner_mm**2) * z - max(room_mm3(case), 0.0)


def rounded_box(low: Array, high: Array, radius: float, axis: int, at: float) -> Array:
    """A box with rounded upright edges, cut; no rows where the plane misses it."""
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
    turns = np.linspace(0, np.pi / 2, ARC)
    arc = radius * np.stack([np.cos(turns), np.sin(turns)], axis=1)
    middles = [(b[0], b[1], 1, 1), (a[0], b[1], -1, 1), (a[0], a[1], -1, -1), (b[0], a[1], 1, -1)]
    rows = []
    for x, y, sx, sy in middles:
        part = np.array([x - sx * radius, y - sy * radius]) + arc * (sx, sy)
        rows.append(part if sx == sy else part[::-1])
    return np.concatenate(rows)


Figures = tuple[tuple[float, ...], tuple[float, ...], float, float, float, float, float]


def _figures(case: Enclosure) -> Figures:
    """What its solid follows from, to keep it by."""
    return case.outer_mm, case.walls, case.corner_mm, case.inner_corner_mm, case.edge_mm, case.taper_deg, case.dome_mm


@lru_cache(maxsize=64)
def _hulls(figures: Figures) -> tuple[Manifold, Manifold]:
    from manifold3d import Manifold

    outer, walls, corner, inner_corner, edge, taper, dome = figures
    leans = float(np.tan(np.radians(taper)))
    low, high = np.asarray(walls)[0::2], np.asarray(outer) - np.asarray(walls)[1::2]
    whole = _rings(np.zeros(3), np.asarray(outer, dtype=float), corner, edge, leans, dome)
    inner_edge = max(edge - max(walls), 0.0)
    inside = _rings(low, high, inner_corner, inner_edge, leans, dome) if np.all(high - low > TOUCH_MM) else None
    return Manifold.hull_points(whole), Manifold() if inside is None else Manifold.hull_points(inside)


@lru_cache(maxsize=64)
def _walls(figures: Figures) -> Manifold:
    outer, cavity = _hulls(figures)
    return outer - cavity


for _kept in (_hulls, _walls):  # solids that are left at the end are complained about
    atexit.register(_kept.cache_clear)


@lru_cache(maxsize=64)
def _planes(figures: Figures) -> Planes:
    mesh = _hulls(figures)[1].to_mesh()
    corners = np.asarray(mesh.vert_properties, dtype=float)[:, :3][np.asarray(mesh.tri_verts)]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    length = np.linalg.norm(normals, axis=1)
    normals = normals[length > 0] / length[length > 0, None]
    offsets = np.einsum("ij,ij->i", normals, corners[length > 0, 0])
    _, first = np.unique(np.round(np.column_stack([normals, offsets]) / SAME_WAY), axis=0, return_index=True)
    return Planes(normals[first], offsets[first])


def _rings(low: Array, high: Array, corner: float, edge: float, leans: float, dome: float) -> Array:
    """The corners of its outlines at many heights, (n, 3): narrower by `leans` for each millimetre upwards, at the rounded edges, and over the dome."""
    shoulder = high[2] - dome
    turn = np.linspace(0, np.pi / 2, RINGS)
    into, along = edge * (1 - np.sin(turn)), edge * (1 - np.cos(turn))  # narrower by, and how far from the face
    heights = [*(low[2] + along), *([shoulder] if dome else high[2] - along[::-1])]
    insets = [*into, *([0.0] if dome else into[::-1])]
    points = []
    for z, inset in zip(heights, insets, strict=True):
        ring = _ring(low, high, corner, inset + leans * z)
        points.append(np.column_stack([ring, np.full(len(ring), z)]))
    if dome:
        last = points[-1][:, :2]
        middle = (last.min(axis=0) + last.max(axis=0)) / 2
        for part in np.linspace(1, 0, DOME)[1:]:
            ring = middle + (last - middle) * part
            points.append(np.column_stack([ring, np.full(len(ring), shoulder + dome * (1 - part**2))]))
    return np.concatenate(points)


def _ring(low: Array, high: Array, corner: float, inset: float) -> Array:
    a, b = low + inset, high - inset
    a[2], b[2] = 0.0, 1.0
    found = rounded_box(a, b, max(corner - inset, 0.0), 2, 0.0)
    return found if len(found) else np.repeat(((low + high) / 2)[None, :2], 4, axis=0)
