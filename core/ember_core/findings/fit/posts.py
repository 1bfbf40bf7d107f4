"""Traps of the posts: they float, stand outside, in one another, or end where no screw reaches."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations

import numpy as np

from ...case_shape import cavity_planes, material, outer_planes
from ...design import Enclosure, Fastening
from ...design.patches import remove, replace
from ...enclosure.bodies import OF_THE_CASE, TOUCH_MM, Placed
from ...enclosure.joints import snap_of, snap_wants_mm
from ...enclosure.passage import wall_on
from ...enclosure.solids import SIDES, distance_mm
from ...enclosure.vents import vent_slots
from ...figures import Remedy
from ...making import HEAD_MM, making_of
from ...measures.bench import TrialBench
from ...words import say
from ..found import Found

JOINED_MM = 0.05  # so near what is drawn to touch does
REACH_MM = 0.5  # so far from the lid a post's end still meets what is screwed down


def posts_apart(bench: TrialBench) -> Iterator[Found]:
    """A post, snap or rib that nothing joins to the case, or that reaches out of it."""
    case = bench.design.enclosure
    held = _held(bench)
    if not held:
        return
    for fastening, body in held:
        without = Remedy(label=say("way.without", body=body.name), patch=[remove(body.pointer)])
        out, apart = _to_the_walls(body, case)
        if out > JOINED_MM:
            yield Found(
                code="post-outside",
                severity="fix",
                step="fit",
                where=body.pointer,
                facts={"body": body.name},
                ways=lambda without=without: [without],  # type: ignore[misc]
            )
            continue
        if apart > JOINED_MM:
            yield Found(
                code="post-floats",
                severity="fix",
                step="fit",
                where=body.pointer,
                facts={"apart": (apart, "mm"), "body": body.name},
                ways=lambda fastening=fastening, body=body, without=without: [
                    _from_the_floor(bench, fastening, body),
                    without,
                ],  # type: ignore[misc]
            )
        elif (short := _short_of_the_lid(bench, fastening, body)) > REACH_MM:
            yield Found(
                code="post-out-of-reach",
                severity="fix",
                step="fit",
                where=body.pointer,
                facts={"short": (short, "mm"), "body": body.name},
                ways=lambda fastening=fastening, body=body, without=without: [
                    _from_the_floor(bench, fastening, body),
                    without,
                ],  # type: ignore[misc]
            )


def posts_in_one_another(bench: TrialBench) -> Iterator[Found]:
    """Two posts, or a post and a snap or rib, that take the same room."""
    for (one, first), (other, second) in combinations(_held(bench), 2):
        if "cradle" in (one.kind, other.kind) or np.any((first.low >= second.high) | (second.low >= first.high)):
            continue
        gap, _ = distance_mm(first.solid, second.solid)
        if gap < -TOUCH_MM:
            yield Found(
                code="posts-overlap",
                severity="fix",
                step="fit",
                where=second.pointer,
                facts={"overlap": (-gap, "mm"), "first": first.name, "second": second.name},
                ways=lambda second=second: [
                    Remedy(label=say("way.without", body=second.name), patch=[remove(second.pointer)])
                ],  # type: ignore[misc]
            )


def heads_through_the_lid(bench: TrialBench) -> Iterator[Found]:
    """A countersink that leaves too little of the lid under the head."""
    case = bench.design.enclosure
    lid, least = case.walls[5], making_of(case).least_wall
    for fastening, body in _held(bench):
        if not fastening.sunk or fastening.thread is None or case.shape is not None:
            continue
        _, deep = HEAD_MM[fastening.thread]
        if lid - deep >= least - TOUCH_MM:
            continue
        yield Found(
            code="head-through-lid",
            severity="fix" if lid <= deep else "watch",
            step="fit",
            where=body.pointer,
            facts={
                "head": (deep, "mm"),
                "lid": (lid, "mm"),
                "least": (least, "mm"),
                "body": body.name,
                "thread": fastening.thread,
            },
            ways=lambda body=body: [
                Remedy(label=say("way.a-head-that-lies-on-the-lid"), patch=[replace(f"{body.pointer}/sunk", False)])
            ],  # type: ignore[misc]
        )


def snaps_not_made(bench: TrialBench) -> Iterator[Found]:
    """A snap that cannot be drawn where it is."""
    case = bench.design.enclosure
    if case.shape is not None:
        return
    for fastening, body in _held(bench):
        if fastening.kind != "snap" or snap_of(case, body) is not None:
            continue
        needed = snap_wants_mm(case)
        thin = min(case.walls[:4]) < needed
        yield Found(
            code="snap-not-made",
            severity="watch",
            step="fit",
            where=body.pointer,
            facts={"needed": (needed, "mm"), "wall": (min(case.walls[:4]), "mm"), "body": body.name, "thin": thin},
            ways=lambda body=body: [Remedy(label=say("way.without", body=body.name), patch=[remove(body.pointer)])],  # type: ignore[misc]
        )


def vents_not_made(bench: TrialBench) -> Iterator[Found]:
    """Vents that have no room in the walls."""
    case = bench.design.enclosure
    if case.vents is None or vent_slots(case) is not None:
        return
    yield Found(
        code="vents-not-made",
        severity="watch",
        step="fit",
        where="/enclosure/vents",
        facts={"area": (case.vents.area_mm2, "mm²"), "height": (case.vents.height_mm, "mm")},
    )


def _to_the_walls(body: Placed, case: Enclosure) -> tuple[float, float]:
    """(how far a post reaches out of the case, how far it is from the nearest wall) [mm]; of a case from a file the first is not known."""
    if case.shape is not None:
        return 0.0, float(body.solid.whole.min_gap(material(case), float(max(case.outer_mm))))
    outside, inside = outer_planes(case), cavity_planes(case)
    points = body.solid.corners
    out = float(((points @ outside.normals.T).max(axis=0) - outside.offsets).max())
    apart = float((inside.offsets - (points @ inside.normals.T).max(axis=0)).min(initial=np.inf))
    return out, apart


def _held(bench: TrialBench) -> list[tuple[Fastening, Placed]]:
    by_pointer = {p.pointer: p for p in bench.fit.placed if p.board == OF_THE_CASE}
    fastenings = enumerate(bench.design.enclosure.fastenings)
    return [
        (f, by_pointer[f"/enclosure/fastenings/{i}"])
        for i, f in fastenings
        if f"/enclosure/fastenings/{i}" in by_pointer
    ]


def _lid_mm(bench: TrialBench, body: Placed) -> float:
    """Where the lid's inner face is over a post [mm]; NaN where there is none."""
    middle = (body.low[:2] + body.high[:2]) / 2
    return float(wall_on(bench.design.enclosure, SIDES.index("top"), middle[None])[0][0])


def _short_of_the_lid(bench: TrialBench, fastening: Fastening, body: Placed) -> float:
    """How far before the lid a post for a screw through it ends [mm]; 0 for what holds something else."""
    if fastening.thread is None or fastening.carries is not None or bench.design.enclosure.shape is not None:
        return 0.0
    short = _lid_mm(bench, body) - float(body.high[2])
    return short if np.isfinite(short) else 0.0


def _from_the_floor(bench: TrialBench, fastening: Fastening, body: Placed) -> Remedy | None:
    """The same post from the floor to the lid."""
    lid, floor = _lid_mm(bench, body), bench.design.enclosure.walls[4]
    if fastening.thread is None or fastening.carries is not None or not np.isfinite(lid) or any(body.body.turn_deg):
        return None
    x, y, _ = body.body.size_mm
    at = body.body.position_mm or (0.0, 0.0, 0.0)
    made = body.body.model_copy(update={"size_mm": (x, y, round(lid - floor, 3)), "position_mm": (at[0], at[1], floor)})
    return Remedy(
        label=say("way.make-reach-from-the-floor-to-the-lid", body=body.name),
        patch=[replace(f"{body.pointer}/body", made)],
    )
