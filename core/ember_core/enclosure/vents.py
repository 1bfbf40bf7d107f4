"""The vents of the document as slots: low ones and high ones, in two walls that face each other."""

from __future__ import annotations

import math

import numpy as np

from ..design import Enclosure
from ..making import making_of
from ..numeric import Array
from .passage import wall_on

SLOT_MM = 2.0  # wide: nothing larger than that falls in, and a print bridges it; a rule of thumb
LONG_MM = (8.0, 12.0, 18.0, 5.0)  # how long slots are, tried in this order
BEYOND_MM = 1.0
INSIDE_MM = 0.3
CORNERS = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)], dtype=float)


def vent_slots(case: Enclosure) -> list[Array] | None:
    """The slots, each the corners of a box through its wall [mm], (8, 3): half of the low and half of the high area in either of two walls. None where that has no
    room; no slots where the case has no vents, or is from a file.

    >>> from ember_core.design import Enclosure, Vents
    >>> slots = vent_slots(Enclosure(outer_mm=(60, 90, 24), vents=Vents(area_mm2=100, height_mm=10)))
    >>> {slot.shape for slot in slots}
    {(8, 3)}
    """
    if case.vents is None or case.shape is not None:
        return []
    up = 2 if case.vents.height_mm <= case.inner_mm[2] else int(np.argmax(case.outer_mm))
    pairs = sorted((a for a in range(3) if a != up), key=lambda a: (a == 2, case.outer_mm[a]))
    return next((made for axis in pairs for long in LONG_MM if (made := _slots(case, up, axis, long))), None)


def _slots(case: Enclosure, up: int, axis: int, long_mm: float) -> list[Array]:
    """Slots so long along the way up, in the two walls across an axis; none where they have no room."""
    assert case.vents is not None
    along = 3 - up - axis
    strut = making_of(case).strut
    count = math.ceil(case.vents.area_mm2 / 2 / (SLOT_MM * long_mm) - 1e-9)
    wide = count * SLOT_MM + (count - 1) * strut
    low, inner = np.asarray(case.walls)[0::2], np.asarray(case.inner_mm)
    leans = math.tan(math.radians(case.taper_deg)) * case.outer_mm[2]
    spare = strut + case.corner_mm + case.edge_mm + leans
    free_up = inner[up] - 2 * strut - case.edge_mm - (case.dome_mm if up == 2 else 0.0) - case.vents.height_mm - long_mm
    if wide > inner[along] - 2 * spare or free_up < 0:
        return []
    first = low[up] + strut + case.edge_mm / 2 + free_up / 2
    start = low[along] + (inner[along] - wide) / 2
    found = []
    for side in (2 * axis, 2 * axis + 1):
        for begin in (first, first + case.vents.height_mm):
            for k in range(count):
                size, at = np.zeros(3), np.zeros(3)
                size[up], size[along] = long_mm, SLOT_MM
                at[up], at[along] = begin, start + k * (SLOT_MM + strut)
                middle = (at + size / 2)[[a for a in range(3) if a != axis]]
                face = float(wall_on(case, side, middle[None])[0][0])
                if not np.isfinite(face):
                    return []
                far = side % 2 == 1
                ends = (face - INSIDE_MM, case.outer_mm[axis] + BEYOND_MM) if far else (-BEYOND_MM, -face + INSIDE_MM)
                at[axis], size[axis] = ends[0], ends[1] - ends[0]
                found.append(at + CORNERS * size)
    return found
