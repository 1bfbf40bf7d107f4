"""What openings, posts, vents, letters and the joint add to the material of a case's walls or take off it, without making its solids: prisms as long as the wall or the
post is there. `pieces` makes the same truly, hundredfold slower; both agree within some percent of the case."""

from __future__ import annotations

import math

import numpy as np

from ..case_shape import material_mm3
from ..design import Enclosure, Fastening
from ..making import CLEARS_MM, HEAD_MM, HOLES_MM, NUT_MM, making_of
from ..numeric import Array
from .bodies import Placed
from .joints import RIDGE_HIGH_MM, RIDGE_MM, TONGUE_MM, groove_of, rim_of, snap_of, split_mm
from .labels import label_area_mm2
from .pieces import INSERT_DEPTH_MM, POSTS, opening_corners
from .solids import SIDES
from .vents import SLOT_MM, vent_slots


def made_mm3(case: Enclosure, placed: list[Placed]) -> float:
    """How much the case is, with all that is made on it [mm3]; of a case from a file that of the file.

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> round(made_mm3(case, []) / 1000, 1)
    33.1
    """
    walls = material_mm3(case)
    if case.shape is not None or min(case.inner_mm) <= 0:
        return walls
    held = [(case.fastenings[int(b.pointer.rsplit("/", 1)[1])], b) for b in placed if b.of_the_case]
    return max(walls + fittings_mm3(case, placed, held), 0.0)


def fittings_mm3(case: Enclosure, placed: list[Placed], held: list[tuple[Fastening, Placed]]) -> float:
    """What is made on the walls, less what is cut out of them [mm3].

    >>> from ember_core.design import Enclosure, Vents
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> vented = case.model_copy(update={"vents": Vents(area_mm2=100, height_mm=40)})
    >>> fittings_mm3(vented, [], []) < fittings_mm3(case, [], [])
    True
    """
    added = sum(_post_mm3(case, f, b) if f.kind in POSTS else _rib_mm3(case, f, b) for f, b in held)
    openings = sum(
        _across_mm2(points, SIDES.index(b.through) // 2) * case.walls[SIDES.index(b.through)]
        for b in placed
        if b.through is not None
        for points in opening_corners(b, case)
    )
    vents = sum(_slot_mm3(case, slot) for slot in vent_slots(case) or [])
    letters = sum(label_area_mm2(x) * x.depth_mm * (1 if x.raised else -1) for x in case.labels)
    return added + letters - openings - vents - _joint_mm3(case)


def _across_mm2(points: Array, axis: int) -> float:
    """The area of a convex body's outline, seen along an axis."""
    from manifold3d import CrossSection

    return float(CrossSection.hull_points(np.delete(points, axis, axis=1)).area())


def _slot_mm3(case: Enclosure, slot: Array) -> float:
    """A slot reaches beyond its wall on either side; it is as long and wide as it is in the wall."""
    size = np.ptp(slot, axis=0)
    axis = next(a for a in range(3) if min(slot[:, a].min(), case.outer_mm[a] - slot[:, a].max()) < 0)
    side = 2 * axis + int(slot[:, axis].min() > case.outer_mm[axis] / 2)
    return float(np.delete(size, axis).max()) * SLOT_MM * case.walls[side]


def _joint_mm3(case: Enclosure) -> float:
    """What the gap of the rim, or the groove of the cord, takes all around."""
    x, y, _ = case.inner_mm
    around = 2 * (x + y) - (8 - 2 * math.pi) * case.inner_corner_mm
    rim, groove = rim_of(case), groove_of(case)
    if rim is not None:
        return around * ((rim.thick_mm + rim.gap_mm) * (rim.deep_mm + rim.gap_mm) - rim.thick_mm * rim.deep_mm)
    return around * groove.thick_mm * groove.deep_mm if groove is not None else 0.0


def _post_mm3(case: Enclosure, post: Fastening, body: Placed) -> float:
    """A post less its holes, and less those that go on through the lid or the bottom."""
    assert post.thread is not None
    making, high = making_of(case), float(np.ptp([body.low[2], body.high[2]]))
    sides = np.ptp(body.solid.corners[:, :2], axis=0)
    thinner = float(np.prod(1 - making.post / np.maximum(sides, making.post)))

    def bore(wide: float, long: float) -> float:
        return math.pi / 4 * (wide + making.hole) ** 2 * max(long, 0.0)

    solid = _across_mm2(body.solid.corners, 2) * thinner * high
    clears, top, bottom = CLEARS_MM[post.thread], case.walls[5], case.walls[4]
    if post.kind == "nut":
        pocket, deep = NUT_MM[post.thread]
        nut = bore(pocket, deep) * 3 * math.sqrt(3) / (2 * math.pi) - bore(clears, deep)
        return solid - bore(clears, high + bottom + (0.0 if post.carries else top)) - nut
    cut = HOLES_MM[post.kind][post.thread]
    if post.carries:
        return solid - bore(cut, min(INSERT_DEPTH_MM, high) if post.kind == "insert" else high)
    split = min(split_mm(case), float(body.high[2]))
    below = split - max(split - INSERT_DEPTH_MM, bottom) if post.kind == "insert" else split - bottom
    solid -= bore(cut, below) + bore(clears, float(body.high[2]) - split + top)
    if post.sunk:
        head, deep = HEAD_MM[post.thread]
        solid -= (bore(head, deep) - bore(clears, deep)) / 2  # a cone, nearly
    return solid


def _rib_mm3(case: Enclosure, held: Fastening, body: Placed) -> float:
    """A rib as it is; a snap's tongue and ridge less the recess in the wall."""
    size = body.high - body.low
    if held.kind == "cradle":
        return _across_mm2(body.solid.corners, 2) * float(size[2])
    if snap_of(case, body) is None:
        return 0.0
    ridge = RIDGE_MM * RIDGE_HIGH_MM
    return float(size[:2].max()) * (TONGUE_MM * (split_mm(case) - float(body.low[2])) + ridge - 2 * ridge)
