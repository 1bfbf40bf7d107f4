"""What faces what inside the case: how much of one body looks at another one, or at a wall, across how much air.

Bodies count as the boxes around them. What stands between two bodies covers them from each other.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..design import Enclosure
from ..numeric import Array
from .bodies import Placed

MOST_GAP_MM = 80.0  # farther apart two bodies of a gadget hardly see each other
MOST_PAIRS = 400  # those that exchange most; of a gadget of a thousand parts the others do not matter
LEAST_GAP_MM = 0.3  # of air between what touches: nothing is flat; a rule of thumb


@dataclass(frozen=True)
class Facings:
    """Pairs of placed bodies: their positions, the area [mm2] and the gap [mm] between, each of shape (pairs,); and what each body shows
    to the walls: areas and gaps of shape (bodies, 6), sides in the order of `Enclosure.walls`."""

    first: np.ndarray
    second: np.ndarray
    area_mm2: Array
    gap_mm: Array
    wall_area_mm2: Array
    wall_gap_mm: Array


def facings(placed: list[Placed], enclosure: Enclosure) -> Facings:
    """Everything that looks at something near it. No bodies: arrays without rows.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.enclosure.bodies import placed_bodies
    >>> placed = placed_bodies(design)
    >>> found = facings(placed, design.enclosure)
    >>> found.wall_area_mm2.shape == (len(placed), 6)
    True
    """
    low = np.array([p.low for p in placed]).reshape(-1, 3)
    high = np.array([p.high for p in placed]).reshape(-1, 3)
    first, second = np.triu_indices(len(placed), 1)
    axis, area, gap = _across(low[first], high[first], low[second], high[second])
    near = np.flatnonzero((area > 0) & (gap <= MOST_GAP_MM))
    if near.size > MOST_PAIRS:
        near = np.sort(near[np.argsort(-area[near] / np.maximum(gap[near], LEAST_GAP_MM), kind="stable")[:MOST_PAIRS]])
    first, second, axis, area, gap = first[near], second[near], axis[near], area[near], gap[near]
    area = area * (1 - _covered(low, high, first, second, axis, area))
    walls, outer = np.asarray(enclosure.walls), np.asarray(enclosure.outer_mm, dtype=float)
    wall_area, wall_gap = np.zeros((len(placed), 6)), np.full((len(placed), 6), np.inf)
    size = high - low
    both = np.maximum(np.minimum(high[:, None], high) - np.maximum(low[:, None], low), 0.0)  # (bodies, bodies, 3)
    for k in range(3):
        u, v = (k + 1) % 3, (k + 2) % 3
        mine, shared = size[:, u] * size[:, v], both[:, :, u] * both[:, :, v]
        # (bodies, bodies): the second is between the first and the lower wall
        below = high[:, k] <= low[:, None, k]
        for side, space, between in (
            (2 * k, low[:, k], below),
            (2 * k + 1, outer[k] - high[:, k], below.T),
        ):
            hidden = np.where(between, shared, 0.0).sum(axis=1) / np.maximum(mine, 1e-9)
            wall_gap[:, side] = space - walls[side]
            wall_area[:, side] = mine * (1 - np.minimum(hidden, 1.0))
    return Facings(first, second, area, np.maximum(gap, LEAST_GAP_MM), wall_area, np.maximum(wall_gap, LEAST_GAP_MM))


def _across(low: Array, high: Array, other_low: Array, other_high: Array) -> tuple[np.ndarray, Array, Array]:
    """(axis along which two boxes face each other, the area in which they do, the gap) of many pairs, each of shape (pairs,)."""
    apart = np.maximum(other_low - high, low - other_high)
    axis = np.argmax(apart, axis=1) if len(apart) else np.zeros(0, int)
    both = np.maximum(np.minimum(high, other_high) - np.maximum(low, other_low), 0.0)
    rows = np.arange(len(apart))
    area = both[rows, (axis + 1) % 3] * both[rows, (axis + 2) % 3]
    return axis, area, apart[rows, axis]


def _covered(low: Array, high: Array, first: np.ndarray, second: np.ndarray, axis: np.ndarray, area: Array) -> Array:
    """Share of what two bodies show each other that others hide, (pairs,)."""
    if not first.size:
        return np.zeros(0)
    rows = np.arange(first.size)
    from_mm, to_mm = np.maximum(low[first], low[second]), np.minimum(high[first], high[second])
    a, b = from_mm[rows, axis], to_mm[rows, axis]
    from_mm[rows, axis], to_mm[rows, axis] = np.minimum(a, b), np.maximum(a, b)
    shared = np.minimum(to_mm[:, None], high) - np.maximum(from_mm[:, None], low)  # (pairs, bodies, 3)
    shared[rows, first], shared[rows, second] = -1.0, -1.0
    between = np.all(shared > 0, axis=2)
    hides = shared[rows, :, (axis + 1) % 3] * shared[rows, :, (axis + 2) % 3]
    return np.asarray(np.minimum(np.where(between, hides, 0.0).sum(axis=1) / area, 1.0))
