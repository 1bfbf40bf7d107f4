"""Where the case comes apart: both sides of it, the rim that keeps the upper piece in place, the groove for a seal's cord, and snaps."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from ..case_shape import cavity_grown
from ..design import Enclosure
from ..making import clearance_mm, making_of
from ..numeric import Array
from .bodies import TOUCH_MM, Placed
from .solids import hull

if TYPE_CHECKING:
    from manifold3d import Manifold

BEYOND_MM = 1.0  # rooms reach so much beyond the case
JOINED_MM = 0.05  # so near what is drawn to touch does
RIM_MM, LEAST_RIM_MM = 2.0, 0.8  # how deep the rim goes into the lower piece, usually and at least; a rule of thumb
CORDS_MM = (2.0, 1.5, 1.0, 0.8, 0.6)
GROOVE_WIDER = 1.25  # a groove than its cord, which has to go somewhere when it is pressed; as usual for round cords
OFF_MM = 1e-3  # where it comes apart just under its lid: two faces in one plane are none
# a snap's tongue, how far its ridge stands out and how high that is [mm], usual for short ones that are printed; rules of thumb
TONGUE_MM, RIDGE_MM, RIDGE_HIGH_MM = 1.2, 0.6, 1.5
ROOT_MM = 0.4  # how far a snap's tongue reaches into what carries it


def split_mm(case: Enclosure) -> float:
    """How high above the bottom it comes apart [mm]: where the document says, or else below its top wall.

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> round(split_mm(case), 1)
    22.0
    """
    below_top = case.outer_mm[2] - case.walls[5] - case.dome_mm
    return below_top if case.split_mm is None else min(case.split_mm, below_top)


def parted(case: Enclosure) -> tuple[Manifold, Manifold]:
    """(the room of the lower piece, that of the upper one): both sides of where it comes apart, with the rim of the upper piece that goes down into a
    recess of the lower one, or with the groove for the cord.

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> [type(half).__name__ for half in parted(case)]
    ['Manifold', 'Manifold']
    """
    split, (x, y, z) = split_mm(case), case.outer_mm
    out = BEYOND_MM + max((label.depth_mm for label in case.labels if label.raised), default=0.0)
    under_lid = abs(split - (z - case.walls[5] - case.dome_mm)) < JOINED_MM
    off = OFF_MM if under_lid else 0.0
    below = _slab(x, y, -out, split - off, out)
    above = _slab(x, y, split + off, z + out, out)
    rim = rim_of(case)
    if rim is not None:
        room = cavity_grown(case, -JOINED_MM)  # a little into the room, so that no face lies in another one
        tongue = (cavity_grown(case, rim.thick_mm) - room) ^ _slab(x, y, split - rim.deep_mm, split + out)
        recess = (cavity_grown(case, rim.thick_mm + rim.gap_mm) - room) ^ _slab(
            x, y, split - rim.deep_mm - rim.gap_mm, split + out
        )
        return below - recess, above + tongue
    groove = groove_of(case)
    if groove is not None:
        middle = min(case.walls[:4]) / 2
        ring = cavity_grown(case, middle + groove.thick_mm / 2) - cavity_grown(case, middle - groove.thick_mm / 2)
        below = below - (ring ^ _slab(x, y, split - groove.deep_mm, split + out))
    return below, above


def _slab(x: float, y: float, low: float, high: float, out: float = BEYOND_MM) -> Manifold:
    from manifold3d import Manifold

    return Manifold.cube((x + 2 * out, y + 2 * out, high - low)).translate((-out, -out, low))


@dataclass(frozen=True)
class Ring:
    """All around where the case comes apart [mm]: so `thick`, so `deep`, and the `gap` between both pieces there."""

    thick_mm: float
    deep_mm: float
    gap_mm: float


def rim_of(case: Enclosure) -> Ring | None:
    """The rim of the upper piece that keeps it in place: half of the thinnest side wall less what it needs to slide. None where a wall is too thin for both halves, the
    lower piece too low, or the document wants none or has a cord there.

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> rim_of(case) is not None
    True
    """
    if case.joint != "rim" or case.seal is not None or case.process == "ready-made" or case.shape is not None:
        return None
    making, gap = making_of(case), clearance_mm(case, "sliding")
    thick = (min(case.walls[:4]) - gap) / 2
    deep = min(RIM_MM, (split_mm(case) - case.walls[4]) / 2)
    if thick < making.least_wall - TOUCH_MM or deep < LEAST_RIM_MM:
        return None
    return Ring(thick, deep, gap)


def groove_of(case: Enclosure) -> Ring | None:
    """The groove for the cord of a seal in the lower piece; None where it has none, or no wall wide enough for it.

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> groove_of(case)
    """
    if case.seal is None or case.shape is not None:
        return None
    wide = case.seal.cord_mm * GROOVE_WIDER
    if (
        min(case.walls[:4]) < groove_wants_mm(case, case.seal.cord_mm) - TOUCH_MM
        or split_mm(case) - case.seal.groove_mm < case.walls[4]
    ):
        return None
    return Ring(wide, case.seal.groove_mm, 0.0)


def groove_wants_mm(case: Enclosure, cord_mm: float) -> float:
    """The wall that a cord's groove wants: itself, and the least wall on either side [mm].

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> round(groove_wants_mm(case, 1.5), 2)
    3.48
    """
    return cord_mm * GROOVE_WIDER + 2 * making_of(case).least_wall


def thickest_cord_mm(case: Enclosure) -> float | None:
    """The thickest usual cord whose groove has room in the side walls [mm]; None where none has.

    >>> from ember_core.design import Enclosure
    >>> [thickest_cord_mm(Enclosure(outer_mm=(60, 90, 24), wall_mm=w)) for w in (2.0, 4.0)]
    [None, 1.5]
    """
    return next((cord for cord in CORDS_MM if groove_wants_mm(case, cord) <= min(case.walls[:4]) + TOUCH_MM), None)


@dataclass(frozen=True)
class Snap:
    """What a snap adds to the upper piece, and what it takes off the lower one."""

    tongue: Manifold
    recess: Manifold


def snap_wants_mm(case: Enclosure) -> float:
    """The wall that a snap's recess wants [mm].

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> round(snap_wants_mm(case), 2)
    1.6
    """
    return RIDGE_MM + clearance_mm(case, "sliding") + making_of(case).least_wall


def snap_of(case: Enclosure, body: Placed) -> Snap | None:
    """A tongue that hangs from the lid, or from the rim, beside the wall that the snap's body touches; its ridge springs into a recess of that wall. None where it touches none, nothing
    carries it, or the wall is too thin for the recess.

    >>> from ember_core.enclosure.bodies import placed_bodies
    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.design.patches import add, apply_patch
    >>> body = {"size_mm": (10, 2.5, 8), "position_mm": (25, design.enclosure.walls[2], design.enclosure.outer_mm[2] - design.enclosure.walls[5] - 8)}
    >>> held = apply_patch(design, [add("/enclosure/fastenings/-", {"id": "snap", "name": "Snap", "kind": "snap", "body": body})])
    >>> snap = next(b for b in placed_bodies(held) if b.pointer.startswith("/enclosure/fastenings"))
    >>> snap_of(held.enclosure, snap) is not None
    True
    """
    gap = clearance_mm(case, "sliding")
    inner_low, inner_high = np.asarray(case.walls)[0::2], np.asarray(case.outer_mm) - np.asarray(case.walls)[1::2]
    beside = [(abs(float(body.low[a] - inner_low[a])), 2 * a) for a in (0, 1)] + [
        (abs(float(body.high[a] - inner_high[a])), 2 * a + 1) for a in (0, 1)
    ]
    off, side = min(beside)
    axis, outwards = side // 2, 1.0 if side % 2 else -1.0
    face = float(inner_high[axis] if side % 2 else inner_low[axis])
    top, rim = split_mm(case), rim_of(case)
    under_lid = top >= case.outer_mm[2] - case.walls[5] - case.dome_mm - JOINED_MM
    if off > JOINED_MM or not (under_lid or rim) or case.walls[side] < snap_wants_mm(case) - TOUCH_MM:
        return None
    low, high = body.low.copy(), body.high.copy()

    def reaching(start: float, end: float, bottom: float, up: float) -> Array:
        """Corners of a box from so far inside the wall's face to so far, (8, 3)."""
        a, b = low.copy(), high.copy()
        ends = sorted((face - outwards * start, face - outwards * end))
        a[axis], b[axis], a[2], b[2] = ends[0], ends[1], bottom, up
        corners = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)], dtype=float)
        return np.asarray(a + corners * (b - a))

    bottom = float(low[2])
    carried = hull(reaching(gap, gap + TONGUE_MM, bottom, top + (ROOT_MM if under_lid else 0.0)))
    if not under_lid and rim is not None:  # joined to the rim, as high as that is
        carried = carried + hull(reaching(-min(ROOT_MM, rim.thick_mm / 2), gap + TONGUE_MM, top - rim.deep_mm, top))
    ridge = hull(
        np.concatenate(
            [
                reaching(gap, gap + TONGUE_MM / 2, bottom, bottom + 2 * RIDGE_HIGH_MM),
                reaching(-RIDGE_MM, gap, bottom + RIDGE_HIGH_MM * 0.9, bottom + RIDGE_HIGH_MM * 1.1),
            ]
        )
    )
    free = reaching(-RIDGE_MM - gap, JOINED_MM, bottom - gap, bottom + 2 * RIDGE_HIGH_MM + gap)
    return Snap(carried + ridge, hull(free))
