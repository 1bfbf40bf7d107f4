"""The room before a body that must stay free, and what reaches into it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..case_shape import cavity_planes, is_plain
from ..design import Enclosure, Side
from ..numeric import Array
from .bodies import TOUCH_MM, Placed
from .hollow import walls_of
from .solids import SIDES, TOUCHING_MM3, Solid, distance_mm, hull, looks_to, zone_corners

MOST_MEASURED = 300


@dataclass(frozen=True)
class Blocked:
    """A zone of a placed body that is not free: `other` is the body in it, or -1 where `side` of the case is. It reaches `depth_mm` into
    the zone along `axis`."""

    index: int
    zone: int
    other: int
    side: Side | None
    depth_mm: float
    axis: int


def blocked_zones(placed: list[Placed], enclosure: Enclosure) -> list[Blocked]:
    """Every zone that something reaches into, with what it is. A zone at the side that its body goes through is outside the case.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.enclosure.bodies import placed_bodies
    >>> blocked_zones(placed_bodies(design), design.enclosure)
    []
    """
    if not any(body.body.zones for body in placed):
        return []
    lows, highs = np.stack([p.low for p in placed]), np.stack([p.high for p in placed])
    found: list[Blocked] = []
    for i, body in enumerate(placed):
        for k, zone, offset in ((k, z, o) for k, z in enumerate(body.body.zones) for o in body.copies):
            room = zone_corners(body.body, zone) + offset
            low, high = room.min(axis=0), room.max(axis=0)
            reach = np.minimum(high, highs) - np.maximum(low, lows)
            for j in np.flatnonzero(reach.min(axis=1) > TOUCH_MM).tolist():
                other = placed[j]
                if j == i or (other.board == body.board != ""):
                    continue
                depth, axis = float(reach[j].min()), int(np.argmin(reach[j]))
                if len(found) < MOST_MEASURED and not (other.straight and not any(body.body.turn_deg)):
                    reached = (
                        p
                        for p in other.pieces
                        if np.all((p.corners.max(axis=0) > low) & (p.corners.min(axis=0) < high))
                    )
                    gap, axis = min((distance_mm(Solid(room), piece) for piece in reached), default=(0.0, axis))
                    depth = -gap
                if depth > TOUCH_MM:
                    found.append(Blocked(i, k, j, None, depth, axis))
            if body.through is None or looks_to(body.body, zone.side) != body.through:
                in_it = _box_in if is_plain(enclosure) else _faces_in if enclosure.shape is None else _surface_in
                found += in_it(i, k, room, body, enclosure)
    return found


def _box_in(i: int, k: int, room: Array, body: Placed, enclosure: Enclosure) -> list[Blocked]:
    """The walls of a box that reach into a zone."""
    low, high = room.min(axis=0), room.max(axis=0)
    found = []
    for s, (side, wall) in enumerate(zip(SIDES, enclosure.walls, strict=True)):
        axis = s // 2
        depth = float(wall - low[axis] if s % 2 == 0 else high[axis] - (enclosure.outer_mm[axis] - wall))
        if depth > TOUCH_MM and side != body.through:
            found.append(Blocked(i, k, -1, side, depth, axis))
    return found


def _faces_in(i: int, k: int, room: Array, body: Placed, enclosure: Enclosure) -> list[Blocked]:
    """The same of a case whose sides lean, are rounded or domed: the inner faces of each side together."""
    planes = cavity_planes(enclosure)
    depth = (room @ planes.normals.T).max(axis=0) - planes.offsets
    found = []
    for s, side in enumerate(SIDES):
        worst = float(depth[planes.sides == s].max(initial=-np.inf))
        if worst > TOUCH_MM and side != body.through:
            found.append(Blocked(i, k, -1, side, worst, s // 2))
    return found


def _surface_in(i: int, k: int, room: Array, body: Placed, enclosure: Enclosure) -> list[Blocked]:
    """The same of a case from a file: whatever of it is in the zone, a partition too; named by the side that is nearest."""
    both = walls_of(enclosure).whole ^ hull(room)
    if both.volume() <= TOUCHING_MM3:
        return []
    box = np.array(both.bounding_box()).reshape(2, 3)
    spaces = np.column_stack([box[0], np.asarray(enclosure.outer_mm) - box[1]]).ravel()
    s = int(np.argmin(spaces))
    if SIDES[s] == body.through:
        return []
    return [Blocked(i, k, -1, SIDES[s], float(np.ptp(box, axis=0)[s // 2]), s // 2)]
