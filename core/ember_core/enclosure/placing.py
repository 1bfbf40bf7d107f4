"""A first arrangement of everything in the case, without collisions: quick, and not the smallest that there is.

The largest body first, each into the lowest, then the hindmost, then the leftmost corner that is free: corners are those of the cavity and
those that placed bodies leave (extreme points, T. Crainic and others, *INFORMS J. Comput.* 20 (2008) 368). Bodies may be turned in quarters;
one that shows or plugs through a side stays at that side and keeps the way it lies.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import permutations, product

import numpy as np

from ..design import Body, Design, Side, Size
from ..numeric import Array
from .fit import SIDES, Thing, clearance_mm, swelling_mm, things

ROUNDED = 0.1  # mm: positions that one can type
MOST_AT_ONCE = 100  # bodies, the largest first; a second is enough for them
FEW = 14  # placed bodies, up to which all crossings of their sides are tried
MASKS = [np.array(m) for m in product((False, True), repeat=3) if any(m)]
AT_ONCE = 4000  # corners tried together
EVERY_MM = 2.0  # along a side that a body goes through


@dataclass(frozen=True)
class Arrangement:
    """`bodies` by pointer, those that were moved or placed anew; `left` are the names of what found no room, `unknown` of what has no size."""

    bodies: dict[str, Body]
    left: list[str]
    unknown: list[str]


@dataclass(frozen=True)
class _Solid:
    """What has to go in: its size as it may lie, with its swelling [mm]."""

    thing: Thing
    sizes: list[tuple[Size, Size]]  # (as it is written down, with its swelling)
    through: Side | None


def place_all(design: Design, *, anew: bool = False) -> Arrangement:
    """Places what has no place yet beside what has one; or, `anew` or where that leaves something out, everything."""
    if not anew:
        kept = _arranged(design, keep=True)
        if not kept.left:
            return kept
        fresh = _arranged(design, keep=False)
        return fresh if len(fresh.left) < len(kept.left) else kept
    return _arranged(design, keep=False)


def _arranged(design: Design, *, keep: bool) -> Arrangement:
    outer = np.asarray(design.enclosure.outer_mm, dtype=float)
    edge = design.enclosure.wall_mm + clearance_mm(design.enclosure)
    gap = design.enclosure.gap_mm
    solids, unknown, lows, highs = [], [], [], []
    for thing in things(design):
        body = thing.body
        if body is None:
            unknown.append(thing.name)
        elif keep and body.position_mm is not None:
            low = np.asarray(body.position_mm, dtype=float)
            lows.append(low)
            highs.append(low + _swollen(design, thing, body.size_mm))
        else:
            solids.append(_Solid(thing, _ways_to_lie(design, thing, body), body.through))
    solids.sort(key=lambda s: (s.through is None, -float(np.prod(s.sizes[0][1]))))
    bodies, left = {}, [solid.thing.name for solid in solids[MOST_AT_ONCE:]]
    for solid in solids[:MOST_AT_ONCE]:
        place = _corner(solid, lows, highs, outer, edge, gap)
        if place is None:
            left.append(solid.thing.name)
            continue
        low, (size, swollen) = place
        lows.append(low)
        highs.append(low + np.asarray(swollen))
        assert solid.thing.body is not None
        x, y, z = (round(float(v), 2) for v in low)
        bodies[solid.thing.pointer] = solid.thing.body.model_copy(update={"position_mm": (x, y, z), "size_mm": size})
    return Arrangement(bodies, left, unknown)


def _ways_to_lie(design: Design, thing: Thing, body: Body) -> list[tuple[Size, Size]]:
    """As it lies first, then turned; what goes through a side is not turned."""
    own = body.size_mm
    turned = [own] if body.through else [own, *(p for p in dict.fromkeys(permutations(own)) if p != own)]
    found: list[tuple[Size, Size]] = []
    for x, y, z in turned:
        size = (x, y, z)
        a, b, c = (float(v) for v in _swollen(design, thing, size))
        found.append((size, (a, b, c)))
    return found


def _swollen(design: Design, thing: Thing, size: Size) -> Array:
    """The size with the room that a pouch swells into, along its thinnest side."""
    full = np.asarray(size, dtype=float)
    if thing.pointer == "/battery":
        extra, _ = swelling_mm(design)
        if extra > 0:
            full[int(np.argmin(full))] += extra
    return full


def _corner(
    solid: _Solid, lows: list[Array], highs: list[Array], outer: Array, edge: float, gap: float
) -> tuple[Array, tuple[Size, Size]] | None:
    """The best free corner for a body, in the first way of lying that has one."""
    taken_low = np.array(lows).reshape(-1, 3)
    taken_high = np.array(highs).reshape(-1, 3)
    for way in solid.sizes:
        size = np.asarray(way[1], dtype=float)
        points = _points(solid.through, size, taken_low, taken_high, outer, edge, gap)
        for start in range(0, len(points), AT_ONCE):
            some = points[start : start + AT_ONCE]
            free = _free(some, size, solid.through, (taken_low, taken_high), outer, edge, gap)
            if free.any():
                return some[int(np.argmax(free))], way
    return None


def _free(
    low: Array, size: Array, through: Side | None, taken: tuple[Array, Array], outer: Array, edge: float, gap: float
) -> Array:
    """Which corners leave a body inside the cavity and apart from all placed ones, shape (corners,)."""
    high = low + size
    free = np.ones(len(low), dtype=bool)
    for s, side in enumerate(SIDES):
        axis = s // 2
        if side != through:
            free &= (low[:, axis] >= edge - 1e-9) if s % 2 == 0 else (high[:, axis] <= outer[axis] - edge + 1e-9)
    taken_low, taken_high = taken
    apart = np.maximum(taken_low[None] - high[:, None], low[:, None] - taken_high[None])
    distance = np.linalg.norm(np.maximum(apart, 0.0), axis=2)
    clear = (apart.max(axis=2) >= -1e-9) & (distance >= gap - 1e-9)
    return np.asarray(free & clear.all(axis=1))


def _points(
    through: Side | None, size: Array, taken_low: Array, taken_high: Array, outer: Array, edge: float, gap: float
) -> Array:
    """Corners to try, the lowest first, shape (points, 3): each coordinate at the cavity's edge or just behind a placed body; along the side that a body goes
    through in small steps too."""
    axes = []
    for axis in range(3):
        behind = np.ceil((taken_high[:, axis] + gap) / ROUNDED - 1e-6) * ROUNDED
        axes.append(np.unique(np.concatenate([[np.ceil(edge / ROUNDED - 1e-6) * ROUNDED], behind])))
    if through is not None:
        s = SIDES.index(through)
        axes[s // 2] = np.array([0.0 if s % 2 == 0 else outer[s // 2] - size[s // 2]])
        for axis in range(3):
            if axis != s // 2:
                steps = np.arange(edge, max(outer[axis] - edge - size[axis], edge) + 1e-9, EVERY_MM)
                axes[axis] = np.unique(np.concatenate([axes[axis], np.round(steps, 1)]))
    if through is None and len(taken_high) > FEW:  # the corners of each by itself, as all crossings would be too many
        start = np.array([a[0] for a in axes])
        behind = np.ceil((taken_high + gap) / ROUNDED - 1e-6) * ROUNDED
        points = np.concatenate(
            [start[None], *(np.where(mask, behind, low) for mask in MASKS for low in (taken_low, start))]
        )
    else:
        x, y, z = np.meshgrid(*axes, indexing="ij")
        points = np.stack([x.ravel(), y.ravel(), z.ravel()], axis=1)
    return points[np.lexsort((points[:, 0], points[:, 1], points[:, 2]))]
