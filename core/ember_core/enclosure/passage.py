"""Where the wall is that a body goes through: on lines along the way out, at the body itself, as walls may lean, be round or domed.

Lengths along the way out are counted outwards. Of a case from a file the lines run around the body, as the file may have its opening already.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..case_shape import Planes, cavity_planes, is_plain, material, outer_planes
from ..design import Enclosure
from ..numeric import Array
from .bodies import Placed
from .solids import SIDES, Solid

ACROSS = np.array([(u, v) for u in (0.5, 0.05, 0.95) for v in (0.5, 0.05, 0.95)])  # of what shows; its middle first
AROUND_MM = 1.5  # beside a body, beyond the opening that a file has for it
LEVEL = 1e-9  # of a normal: a face along the lines
PIECES_ALIKE_MM = 0.01


@dataclass(frozen=True)
class Passage:
    """How a body stands in the wall that it goes through [mm]: `short` of its inner face, where it comes nearest (negative: into it); `behind`
    its outer face, in its middle; `outside`: how far it begins beyond the inner face altogether (negative: it begins inside)."""

    short_mm: float
    behind_mm: float
    outside_mm: float


def passage(body: Placed, case: Enclosure) -> Passage | None:
    """None where it goes through no side, or where no wall of that side is on its way.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> part = design.parts[0]
    >>> through = part.model_copy(update={"body": part.body.model_copy(update={"through": "left"})})
    >>> shown = design.model_copy(update={"parts": [through, *design.parts[1:]]})
    >>> from ember_core.enclosure.bodies import placed_bodies
    >>> passage(placed_bodies(design)[0], design.enclosure), passage(placed_bodies(shown)[0], design.enclosure) is None
    (None, False)
    """
    if body.through is None:
        return None
    side = SIDES.index(body.through)
    axis, far = side // 2, side % 2 == 1
    outwards = 1.0 if far else -1.0
    if is_plain(case) and _flat_there(case, axis, np.delete(np.stack([body.low, body.high]), axis, axis=1)):
        face, outside = _flat(case, side)
        last, first = (body.high[axis], body.low[axis]) if far else (-body.low[axis], -body.high[axis])
        return Passage(face - float(last), outside - float(last), float(first) - face)
    pieces = body.pieces or (body.solid,)
    ends = [float((p.corners[:, axis] * outwards).max()) for p in pieces]
    end, begin = max(ends), float(min((p.corners[:, axis] * outwards).min() for p in pieces))
    shows = np.concatenate([p.corners for p, e in zip(pieces, ends, strict=True) if e >= end - PIECES_ALIKE_MM])
    inner, outer = wall_on(case, side, _lines(shows, axis, around=case.shape is not None))
    there = np.isfinite(inner) & np.isfinite(outer)
    if not there.any():
        return None
    behind = outer[0] if there[0] else float(outer[there].min())
    return Passage(float(inner[there].min()) - end, float(behind) - end, begin - float(inner[there].max()))


def wall_on(case: Enclosure, side: int, lines: Array) -> tuple[Array, Array]:
    """(the inner, the outer face of a side's wall) on lines across the other two axes, (n, 2), counted outwards [mm]; NaN where a line meets none.

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> inner, outer = wall_on(case, 0, np.array([[45.0, 12.0]]))
    >>> inner.tolist(), outer.tolist()
    ([-2.0], [0.0])
    """
    axis, far = side // 2, side % 2 == 1
    if case.shape is not None:
        return _by_rays(case, axis, lines, far=far)
    if is_plain(case) and _flat_there(case, axis, lines):
        inner, outer = _flat(case, side)
        return np.full(len(lines), inner), np.full(len(lines), outer)
    return _end_of(cavity_planes(case), axis, lines, far=far), _end_of(outer_planes(case), axis, lines, far=far)


def _flat(case: Enclosure, side: int) -> tuple[float, float]:
    """The inner and the outer face of a box's wall, counted outwards."""
    size, wall = case.outer_mm[side // 2], case.walls[side]
    return (size - wall, size) if side % 2 else (-wall, 0.0)


def _flat_there(case: Enclosure, axis: int, lines: Array) -> bool:
    """Whether lines across a box meet its flat walls, between the rounded edges."""
    radius, ends = case.corner_mm, np.delete(np.asarray(case.outer_mm), axis)
    margin = np.array([radius, 0.0]) if axis < 2 else np.full(2, radius)  # upright edges bound the sides along x and y
    return bool(np.all(lines >= margin) and np.all(lines <= ends - margin))


def _lines(points: Array, axis: int, *, around: bool) -> Array:
    """Where lines along an axis go through what shows, or beside it, (n, 2)."""
    flat = np.delete(points, axis, axis=1)
    low, high = flat.min(axis=0), flat.max(axis=0)
    if not around:
        return np.asarray(low + ACROSS * (high - low))
    middle, half = (low + high) / 2, (high - low) / 2 + AROUND_MM
    return np.asarray(middle + (ACROSS[1:] - 0.5) / 0.45 * half)


def _end_of(planes: Planes, axis: int, lines: Array, *, far: bool) -> Array:
    """Where lines along an axis leave a convex solid, outwards; NaN where they miss it."""
    if not len(planes.normals):
        return np.full(len(lines), np.nan)
    along = planes.normals[:, axis]
    left = planes.offsets - lines @ np.delete(planes.normals, axis, axis=1).T  # (lines, faces)
    with np.errstate(divide="ignore", invalid="ignore"):
        at = left / along
    high = np.where(along > LEVEL, at, np.inf).min(axis=1)
    low = np.where(along < -LEVEL, at, -np.inf).max(axis=1)
    beside = np.where(np.abs(along) <= LEVEL, left, np.inf).min(axis=1) < -LEVEL
    found = high if far else -low
    return np.where(beside | (low > high), np.nan, found)


def _by_rays(case: Enclosure, axis: int, lines: Array, *, far: bool) -> tuple[Array, Array]:
    """The same of a case from a file: the first wall that a line from outside meets, if that is on its half."""
    walls = Solid(np.zeros((1, 3)), material(case)).whole
    size = case.outer_mm[axis]
    across = [k for k in range(3) if k != axis]
    inner, outer = np.full(len(lines), np.nan), np.full(len(lines), np.nan)
    for i, line in enumerate(lines):
        start, end = np.zeros(3), np.zeros(3)
        start[across] = end[across] = line
        start[axis], end[axis] = (size + 1.0, -1.0) if far else (-1.0, size + 1.0)
        hits = sorted(float(h.distance) for h in walls.ray_cast(tuple(start), tuple(end)))
        way = size + 2.0
        if len(hits) > 1 and hits[0] * way - 1.0 < size / 2:
            depth = np.array(hits[:2]) * way - 1.0  # from the outer box inwards
            outer[i], inner[i] = (size - depth) if far else -depth
    return inner, outer
