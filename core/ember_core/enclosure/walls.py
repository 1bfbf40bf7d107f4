"""The gap of each body to the walls and rounded corners of its case, and what of it lies outside where no wall stops it."""

from __future__ import annotations

import atexit
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..case_shape import cavity_planes, is_plain
from ..design import Enclosure, Side
from .bodies import TOUCH_MM, Contact, Placed
from .hollow import Hollow, points_in, walls_of
from .passage import Passage
from .solids import SEARCHED_MM, SIDES, TOUCHING_MM3, Kept, surface_gap_mm

RIB_MM = 0.3  # so much nearer than the usual wall of a side it is something else
LEVEL = 1e-9  # of a normal: a face along an axis
SINGLE = 3  # digits after the point of a millimetre that a file's corners are good for


def to_case(placed: list[Placed], enclosure: Enclosure) -> list[Contact]:
    """The gaps to the walls of any case. To the wall that it lies behind, with its window, a body has none unless it is too near.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.enclosure.bodies import placed_bodies
    >>> placed = placed_bodies(design)
    >>> {contact.first for contact in to_case(placed, design.enclosure)} <= set(range(len(placed)))
    True
    """
    measured = _to_box if is_plain(enclosure) else _to_faces if enclosure.shape is None else _to_surface
    found = measured(placed, enclosure)
    return [c for c in found if c.margin_mm < -TOUCH_MM or not placed[c.first].lies_behind(c.side)]


@dataclass(frozen=True)
class Beyond:
    """A body that lies outside, by its position: by how much [mm], and the side that it was to go through; None where it was to go through none."""

    index: int
    beyond_mm: float
    side: Side | None


def beyond(placed: list[Placed], case: Enclosure, passages: dict[int, Passage], hollow: Hollow | None) -> list[Beyond]:
    """What no wall tells: a body that begins beyond the wall that it goes through; in a case from a file also what lies beside it, in a notch of it or
    in front of an opening.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.enclosure.bodies import placed_bodies
    >>> beyond(placed_bodies(design), design.enclosure, {}, None)
    []
    """
    found = []
    for i, body in enumerate(placed):
        way, side = passages.get(i), body.open_side
        if side is not None and way is not None and way.outside_mm > TOUCH_MM:
            found.append(Beyond(i, way.outside_mm, side))
        elif hollow is not None and not body.of_the_case:
            points = np.concatenate([points_in(piece, hollow.step_mm) for piece in body.pieces])
            if side is not None:
                axis, outwards = SIDES.index(side) // 2, 1.0 if SIDES.index(side) % 2 else -1.0
                inner = np.inf if way is None else way.short_mm + float((points[:, axis] * outwards).max())
                points = points[points[:, axis] * outwards <= inner]
            far = hollow.beyond_mm(points)
            if far > 0:
                found.append(Beyond(i, far, side))
    return found


def _to_box(placed: list[Placed], enclosure: Enclosure) -> list[Contact]:
    return _walls(placed, enclosure) + _rounded(placed, enclosure)


def _to_faces(placed: list[Placed], enclosure: Enclosure) -> list[Contact]:
    """The gaps to the inner faces of a case that is convex inside: each side's faces together, as far as their planes are off."""
    planes = cavity_planes(enclosure)
    sides = planes.sides
    found = []
    for i, body in enumerate(placed):
        if body.of_the_case:
            continue
        off = planes.offsets - (body.solid.corners @ planes.normals.T).max(axis=0)
        if (
            body.open_side is not None
        ):  # its opening is drawn straight out: what lies beyond the wall is no matter there
            axis, outwards = SIDES.index(body.open_side) // 2, 1.0 if SIDES.index(body.open_side) % 2 else -1.0
            begins = body.solid.corners.copy()
            begins[:, axis] = body.low[axis] if outwards > 0 else body.high[axis]
            leaning = planes.normals[:, axis] * outwards > LEVEL
            off[leaning] = planes.offsets[leaning] - (begins @ planes.normals[leaning].T).max(axis=0)
        for s, side in enumerate(SIDES):
            if side != body.open_side and np.any(sides == s):
                found.append(
                    Contact(i, -1, side, None, float(off[sides == s].min()), body.needs_mm(enclosure, side), s // 2)
                )
    return found


def _to_surface(placed: list[Placed], enclosure: Enclosure) -> list[Contact]:
    """The gap of each body to a case from a file, on its surface; the side is the one whose usual wall is nearest. Beyond `SEARCHED_MM` it is that of the usual
    walls, or that much."""
    assert enclosure.shape is not None
    walls = walls_of(enclosure)
    outer, usual = np.asarray(enclosure.outer_mm, dtype=float), np.asarray(enclosure.walls)
    found = []
    for i, body in enumerate(placed):
        if body.of_the_case:
            continue
        spaces = np.column_stack([body.low, outer - body.high]).ravel()
        own = np.array([side != body.open_side for side in SIDES])
        nearest = int(np.argmin(np.where(own, spaces - usual, np.inf)))
        gap, axis, met = min((_into(walls.kept, piece.kept) for piece in body.pieces), key=lambda found: found[0])
        beside = float((spaces - usual)[nearest])
        within = gap < beside - RIB_MM
        if met is not None:  # the wall, or what else of it, that the body reaches into
            off = np.column_stack([met, outer - np.asarray(met)]).ravel()
            nearest = int(np.argmin(off))
            within = float((off - usual)[nearest]) > RIB_MM
        if gap >= SEARCHED_MM or (gap < -TOUCH_MM and gap < beside < 0):  # far from any wall, or in two of them at once
            gap, axis, within = max(gap, beside), nearest // 2, False
        out = float(spaces[own].min())
        if out < min(gap, -TOUCH_MM):  # beside the case altogether
            gap, axis = out, int(np.argmin(np.where(own, spaces, np.inf))) // 2
        found.append(
            Contact(
                i,
                -1,
                SIDES[nearest],
                None,
                round(gap, SINGLE),
                body.needs_mm(enclosure, SIDES[nearest]),
                axis,
                within,
            )
        )
    return found


@lru_cache(maxsize=512)
def _into(case: Kept, body: Kept) -> tuple[float, int, tuple[float, ...] | None]:
    """(gap, axis, the middle of what both share) of a piece to the walls, as `distance_mm` has it but for what is farther than is searched."""
    walls, piece = case.solid, body.solid
    both = walls.whole ^ piece.whole
    if both.volume() > TOUCHING_MM3:
        box = both.bounding_box()
        reach = np.array(box[3:]) - np.array(box[:3])
        middle = (np.array(box[3:]) + np.array(box[:3])) / 2
        return -float(reach.min()), int(np.argmin(reach)), tuple(float(v) for v in middle)
    return surface_gap_mm(walls, piece), 2, None


atexit.register(_into.cache_clear)  # solids that are left at the end are complained about


def _walls(placed: list[Placed], enclosure: Enclosure) -> list[Contact]:
    found: list[Contact] = []
    if not placed:
        return found
    outer, walls = np.asarray(enclosure.outer_mm, dtype=float), np.asarray(enclosure.walls).reshape(3, 2)
    low, high = np.stack([p.low for p in placed]), np.stack([p.high for p in placed])
    spaces = (np.stack([low, outer - high], axis=2) - walls).reshape(-1, 6).tolist()
    for i, (body, gaps) in enumerate(zip(placed, spaces, strict=True)):
        if body.of_the_case:
            continue
        needed, behind = body.needs_mm(enclosure), body.through if body.body.window is not None else None
        for s, (side, gap) in enumerate(zip(SIDES, gaps, strict=True)):
            if side != body.open_side:
                needs = body.needs_mm(enclosure, side) if side == behind else needed
                found.append(Contact(i, -1, side, None, gap, needs, s // 2))
    return found


def _rounded(placed: list[Placed], enclosure: Enclosure) -> list[Contact]:
    """The gaps to the rounded corners, of the bodies that reach into them."""
    radius = enclosure.inner_corner_mm
    if radius <= 0:
        return []
    left, right, front, back, _, _ = enclosure.walls
    width, depth, _ = enclosure.outer_mm
    found = []
    for across, x in (("left", left + radius), ("right", width - right - radius)):
        for along, y in (("front", front + radius), ("back", depth - back - radius)):
            for i, body in enumerate(placed):
                if body.open_side in (across, along) or body.of_the_case:
                    continue
                beside = body.low[0] >= x if across == "left" else body.high[0] <= x
                if beside or (body.low[1] >= y if along == "front" else body.high[1] <= y):
                    continue
                off = (body.solid.corners[:, :2] - (x, y)) * (
                    -1 if across == "left" else 1,
                    -1 if along == "front" else 1,
                )
                far = np.linalg.norm(off[(off > 0).all(axis=1)], axis=1)
                if far.size:
                    gap = radius - float(far.max())
                    found.append(Contact(i, -1, across, along, gap, body.needs_mm(enclosure), 0))  # type: ignore[arg-type]
    return found
