"""A plane through the case: outlines, walls and gaps measured in it."""

from __future__ import annotations

import numpy as np

from ..design import Design, Enclosure
from ..enclosure.bodies import OF_THE_CASE, Placed, placed_bodies
from ..enclosure.fit import needed_between
from ..enclosure.section import Cut, area, crosses, cut, nearest
from ..enclosure.solids import SIDES
from ..figures import Status, record
from ..making import making_of
from ..words import say

MOST_GAPS = 60
MOST_PAIRS = 150  # the nearest, that are looked at
TOUCHING_MM2 = 1e-4
FAR_MM = 30.0  # gaps wider than that nobody asks for


@record
class SectionBody:
    """What is cut of a body: the outline of each of its pieces, [[u, v], ...] [mm]."""

    where: str
    name: str
    outlines: list[list[list[float]]]


@record
class SectionMeasure:
    """A wall, or the gap between two things, measured in the plane between two points [mm]. `needed_mm` is what it should be at
    least."""

    kind: str
    name: str
    begin: list[float]
    end: list[float]
    length_mm: float
    needed_mm: float
    status: Status


@record
class SectionAnswer:
    """The case cut across `axis` ("x", "y" or "z") at `at_mm`; u and v are the other two axes in their order. `shell` are the outlines of the
    walls, what is inside an odd number of them is wall."""

    axis: str
    at_mm: float
    most_mm: float
    shell: list[list[list[float]]]
    bodies: list[SectionBody]
    measures: list[SectionMeasure]


def answer_section(design: Design, axis: str, at_mm: float) -> SectionAnswer:
    """The section, the tightest gaps first, the walls after them. `at_mm` beyond the case is taken at its end."""
    k = "xyz".index(axis)
    most = float(design.enclosure.outer_mm[k])
    at = float(np.clip(at_mm, 0.0, most))
    placed = placed_bodies(design)
    found = cut(placed, design.enclosure, k, at)
    gaps = [*_gaps(design, placed, found), *_to_walls(placed, found, design.enclosure)]
    gaps = [g for g in gaps if g.length_mm <= FAR_MM]
    gaps.sort(key=lambda g: (g.length_mm - g.needed_mm, g.name))
    return SectionAnswer(
        axis=axis,
        at_mm=at,
        most_mm=most,
        shell=[outline.tolist() for outline in found.shell],
        bodies=[
            SectionBody(where=placed[i].pointer, name=placed[i].name, outlines=[o.tolist() for o in outlines])
            for i, outlines in found.bodies.items()
        ],
        measures=[*gaps[:MOST_GAPS], *_walls(design, found, k)],
    )


def _measure(
    kind: str, name: str, begin: np.ndarray, end: np.ndarray, needed: float, *, overlap: bool = False
) -> SectionMeasure:
    length = 0.0 if overlap else float(np.linalg.norm(end - begin))
    status: Status = "fail" if overlap else "watch" if length < needed - 1e-6 else "pass"
    return SectionMeasure(
        kind=kind, name=name, begin=begin.tolist(), end=end.tolist(), length_mm=length, needed_mm=needed, status=status
    )


def _gaps(design: Design, placed: list[Placed], found: Cut) -> list[SectionMeasure]:
    """Each pair that nothing stands between once, where it is nearest; what belongs together needs nothing between and is left out."""
    pieces = [(i, outline) for i, outlines in found.bodies.items() for outline in outlines]
    low, high = (np.array([end(o, axis=0) for _, o in pieces]).reshape(-1, 2) for end in (np.min, np.max))
    needed = needed_between(placed, design.enclosure)
    rows: dict[tuple[int, int], SectionMeasure] = {}
    for i, j in _near(low, high):
        (first, one), (second, other) = pieces[i], pieces[j]
        a, b = placed[first], placed[second]
        if first == second or a.board == b.board != "":
            continue
        line = np.stack(nearest(one, other))
        beside = np.all((low < line.max(axis=0)) & (high > line.min(axis=0)), axis=1)
        between = (k for k in np.flatnonzero(beside) if pieces[k][0] not in (first, second))
        if any(crosses(line, pieces[k][1]) for k in between):
            continue
        row = _measure(
            "gap",
            f"{a.name} to {b.name}",
            line[0],
            line[1],
            needed(first, second),
            overlap=crosses(one, other),
        )
        if (first, second) not in rows or row.length_mm < rows[first, second].length_mm:
            rows[first, second] = row
    return list(rows.values())


def _near(low: np.ndarray, high: np.ndarray) -> list[tuple[int, int]]:
    """The pairs whose boxes are nearest to each other, at most so many and so far apart."""
    first, second = np.triu_indices(len(low), 1)
    apart = np.maximum(np.maximum(low[second] - high[first], low[first] - high[second]), 0.0)
    far = np.linalg.norm(apart, axis=1)
    nearest_first = np.argsort(far, kind="stable")[:MOST_PAIRS]
    return [(int(first[k]), int(second[k])) for k in nearest_first if far[k] <= FAR_MM]


def _to_walls(placed: list[Placed], found: Cut, case: Enclosure) -> list[SectionMeasure]:
    """Each body's nearest place on the wall; pieces of the case stand at it, and what goes through it has none."""
    if not found.inside:
        return []
    rows = []
    for i, outlines in found.bodies.items():
        body = placed[i]
        if body.board == OF_THE_CASE or body.open_side is not None:
            continue
        begin, end = min(
            (nearest(o, ring) for o in outlines for ring in found.inside),
            key=lambda line: float(np.hypot(*(line[1] - line[0]))),
        )
        out = _into_walls(outlines, found.shell)
        needed = min(body.needs_mm(case), body.needs_mm(case, body.through))
        rows.append(_measure("gap", say("section.to-the-wall", name=body.name), begin, end, needed, overlap=out))
    return rows


def _walls(design: Design, found: Cut, axis: int) -> list[SectionMeasure]:
    """The four walls that are cut, each in the middle of the inside; needed is what the process makes as a rule."""
    if not found.inside:
        return []
    needed = making_of(design.enclosure).wall
    inner = np.concatenate(found.inside)
    middle = (inner.min(axis=0) + inner.max(axis=0)) / 2
    rows = []
    for place, k in enumerate(k for k in range(3) if k != axis):
        crossed = _crossed(found.shell, place, float(middle[1 - place]))
        if len(crossed) < 4:
            continue
        for far in (0, 1):
            begin, end = middle.copy(), middle.copy()
            end[place], begin[place] = (crossed[-1], crossed[-2]) if far else (crossed[0], crossed[1])
            rows.append(_measure("wall", f"{SIDES[2 * k + far]} wall", begin, end, needed))
    return rows


def _crossed(outlines: list[np.ndarray], place: int, at: float) -> list[float]:
    """Where a straight line along one of the two axes crosses outlines, in order."""
    found: list[float] = []
    for outline in outlines:
        other = np.roll(outline, -1, axis=0)
        a, b = outline[:, 1 - place], other[:, 1 - place]
        there = (a <= at) != (b <= at)
        part = (at - a[there]) / (b[there] - a[there])
        found += (outline[there, place] + part * (other[there, place] - outline[there, place])).tolist()
    return sorted(found)


def _into_walls(outlines: list[np.ndarray], shell: list[np.ndarray]) -> bool:
    """Whether something reaches into the walls or out of the case."""
    from manifold3d import CrossSection, FillRule

    walls = CrossSection(shell, FillRule.EvenOdd)
    whole = CrossSection([o for o in shell if area(o) > 0], FillRule.NonZero)
    cut_out = CrossSection(outlines, FillRule.NonZero)
    return bool((cut_out ^ walls).area() > TOUCHING_MM2 or (cut_out - whole).area() > TOUCHING_MM2)
