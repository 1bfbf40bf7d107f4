"""Traps of openings: what is left of a wall between two of them, or beside one at the case's edge."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np

from ...enclosure.bodies import TOUCH_MM, Placed
from ...enclosure.pieces import opening_corners
from ...enclosure.section import crosses, nearest
from ...enclosure.solids import SIDES, outline
from ...figures import Remedy, Severity
from ...making import making_of
from ...measures.bench import TrialBench
from ...numeric import Array
from ...words import say
from ..found import Found
from .case import SPARE_MM, moved

MOST_TOLD = 12


def thin_webs(bench: TrialBench) -> Iterator[Found]:
    """Thin webs of wall, the thinnest first; openings that run into each other leave none."""
    found = sorted((w for side in SIDES for w in _webs(bench, side)), key=lambda w: w[0])
    case = bench.design.enclosure
    making = making_of(case)
    for web, side, body, other, along in found[:MOST_TOLD]:
        wanted = making.strut if other else making.wall
        severity: Severity = "fix" if web < making.least_wall - TOUCH_MM else "watch"
        yield Found(
            code="thin-web",
            severity=severity,
            step="fit",
            where=body.pointer,
            facts={
                "web": (web, "mm"),
                "wanted": (wanted, "mm"),
                "side": side,
                "body": body.name,
                "other": other.name if other else None,
                "process": case.process,
            },
            ways=lambda body=body, other=other, along=along, web=web, wanted=wanted: _apart(  # type: ignore[misc]
                bench, body, other, along, wanted - web
            ),
        )


Web = tuple[float, str, Placed, Placed | None, Array]


class _Hole(NamedTuple):
    """An opening in a wall: whose it is, the corners of the box around it, and its own, (n, 3) [mm]."""

    body: Placed
    low: list[float]
    high: list[float]
    points: Array


def _webs(bench: TrialBench, side: str) -> Iterator[Web]:
    """(what is left [mm], side, the body of an opening, that of the other one, the way from the first to what is next, (3,))."""
    case = bench.design.enclosure
    axis, making = SIDES.index(side) // 2, making_of(case)
    u, v = (k for k in range(3) if k != axis)
    holes = [
        _Hole(body, points.min(axis=0).tolist(), points.max(axis=0).tolist(), points)
        for body in bench.fit.placed
        if body.through == side
        for points in opening_corners(body, case)
    ]
    for i, hole in enumerate(holes):
        for k in (u, v):
            for web, sign in ((hole.low[k], -1.0), (case.outer_mm[k] - hole.high[k], 1.0)):
                if 0 < web < making.wall - TOUCH_MM:
                    yield web, side, hole.body, None, sign * np.eye(3)[k]
        for other in holes[i + 1 :]:
            boxes = _between_boxes(hole, other, (u, v))
            if other.body is hole.body or max(map(abs, boxes)) >= making.strut:
                continue
            both_boxes = hole.body.straight and other.body.straight
            between = np.array(boxes) if both_boxes else _between(hole.points, other.points, axis)
            web = math.hypot(*between)
            if TOUCH_MM < web < making.strut - TOUCH_MM:
                way = np.zeros(3)
                way[[u, v]] = between / web
                yield web, side, hole.body, other.body, way


def _between_boxes(one: _Hole, other: _Hole, axes: tuple[int, int]) -> list[float]:
    """The shortest way from the box around one opening to that around another along two axes [mm]; none where they overlap."""
    return [max(other.low[k] - one.high[k], 0.0) - max(one.low[k] - other.high[k], 0.0) for k in axes]


def _between(one: Array, other: Array, axis: int) -> Array:
    """The shortest way from one opening to another in the plane of their wall [mm], (2,); none where they overlap."""
    hole, next_hole = outline(one, axis), outline(other, axis)
    if crosses(hole, next_hole):
        return np.zeros(2)
    begin, end = nearest(hole, next_hole)
    return np.asarray(end - begin)


def _apart(
    bench: TrialBench, body: Placed, other: Placed | None, along: Array, missing: float
) -> Iterator[Remedy | None]:
    """Either of both moved away along an axis of the wall, as far as is missing."""
    axis = int(np.argmax(np.abs(along)))
    step = np.zeros(3)
    step[axis] = np.sign(along[axis]) * (missing / max(abs(float(along[axis])), 0.5) + SPARE_MM)
    for one, by in ((body, -step), *(((other, step),) if other else ())):
        yield moved(
            bench.design,
            one,
            by,
            say("way.move-by-along", body=one.name, size=(abs(float(by[axis])), "mm"), axis="xyz"[axis]),
        )
