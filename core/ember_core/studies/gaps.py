"""How far one body is from what surrounds it, as it is moved: along each axis, and where it is too near."""

from __future__ import annotations

import numpy as np

from ..design import Design
from ..enclosure.bodies import TOUCH_MM
from ..enclosure.fit import Fit, check_fit, contact_status, met_by
from ..enclosure.solids import SIDES
from ..figures import Status, record
from ..words import say


@record
class Ruler:
    """From a body's side to what is next in that direction, `begin` to `end`, and what it needs to that [mm]. Both count as the boxes
    around them."""

    side: str
    neighbour: str
    gap_mm: float
    needed_mm: float
    begin: list[float]
    end: list[float]


@record
class Tight:
    """Where a body is nearer to something than it needs; negative: it reaches into it [mm]."""

    neighbour: str
    gap_mm: float
    needed_mm: float
    status: Status


@record
class GapsAnswer:
    """`status` is the worst of all its gaps; `sentence` says it."""

    rulers: list[Ruler]
    tight: list[Tight]
    status: Status
    sentence: str


def answer_gaps(design: Design, where: str) -> GapsAnswer | None:
    """The gaps around the body that the pointer `where` leads to; None where it has no place."""
    fit = check_fit(design)
    index = next((i for i, body in enumerate(fit.placed) if body.pointer == where), None)
    if index is None:
        return None
    own = [c for c in fit.contacts if index in (c.first, c.second)]
    found = sorted((c for c in own if contact_status(c) != "pass"), key=lambda c: c.margin_mm)
    tight = [
        Tight(
            neighbour=met_by(fit, c, c.second if c.first == index else c.first),
            gap_mm=c.gap_mm,
            needed_mm=c.needed_mm,
            status=contact_status(c),
        )
        for c in found
    ]
    status: Status = "fail" if any(t.status == "fail" for t in tight) else "watch" if tight else "pass"
    sentence = _said(fit.placed[index].name, tight)
    return GapsAnswer(rulers=_rulers(design, fit, index), tight=tight, status=status, sentence=sentence)


def _said(name: str, tight: list[Tight]) -> str:
    if not tight:
        return say("gaps-of.free", name=name)
    worst = tight[0]
    if worst.status == "fail":
        return say("gaps-of.into", name=name, depth=(-worst.gap_mm, "mm"), neighbour=worst.neighbour)
    gap, needed = (worst.gap_mm, "mm"), (worst.needed_mm, "mm")
    return say("gaps-of.tight", name=name, gap=gap, neighbour=worst.neighbour, needed=needed)


def _rulers(design: Design, fit: Fit, index: int) -> list[Ruler]:
    case, body = design.enclosure, fit.placed[index]
    others = [b for i, b in enumerate(fit.placed) if i != index]
    rulers = []
    for s, side in enumerate(SIDES):
        axis, far = s // 2, s % 2 == 1
        if side == body.open_side:
            continue
        across = [i for i in range(3) if i != axis]
        wall = case.walls[s]
        end = float(case.outer_mm[axis] - wall) if far else float(wall)
        begin, neighbour = float(body.high[axis] if far else body.low[axis]), f"the {side} wall"
        needed = body.needs_mm(case, side)
        middle = (body.low + body.high) / 2
        for other in others:
            if any(other.high[i] <= body.low[i] or other.low[i] >= body.high[i] for i in across):
                continue
            face = float(other.low[axis] if far else other.high[axis])
            nearer = begin - TOUCH_MM <= face < end if far else end < face <= begin + TOUCH_MM
            if nearer:
                end, neighbour, needed = face, other.name, case.gap_mm
                low, high = np.maximum(other.low, body.low), np.minimum(other.high, body.high)
                middle = np.where(np.arange(3) == axis, middle, (low + high) / 2)
        points = [middle.copy(), middle.copy()]
        points[0][axis], points[1][axis] = begin, end
        gap = end - begin if far else begin - end
        ends = (points[0].tolist(), points[1].tolist())
        rulers.append(Ruler(side=side, neighbour=neighbour, gap_mm=gap, needed_mm=needed, begin=ends[0], end=ends[1]))
    return rulers
