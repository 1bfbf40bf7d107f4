"""Traps of what is inside: what lies outside all the same, what does not come through its wall, what cannot be put where it is drawn."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from ...design import Body
from ...design.patches import replace
from ...enclosure.bodies import Placed
from ...enclosure.fit import gap_mm
from ...enclosure.placing import moved_free
from ...enclosure.solids import SIDES, looks_to
from ...figures import Remedy
from ...measures.bench import TrialBench
from ...words import say
from ..found import Found
from .case import moved

SHORT_MM = 1.0  # a thing that shows or plugs through a side may end so much before its wall; a rule of thumb
PLUG_REACH_MM = 1.5  # a plug's body may stand so much before its socket; a rule of thumb
OFF_MM = 0.5  # so much apart a thing still sits on its board: solder, a film, what the drawing rounds
SPARE_MM = 0.01


def outside(bench: TrialBench) -> Iterator[Found]:
    """What lies outside, or partly, where no wall is in its way."""
    for one in bench.fit.beyond:
        body = bench.fit.placed[one.index]
        yield Found(
            code="outside-the-case",
            severity="fix",
            step="fit",
            where=body.pointer,
            facts={
                "beyond": (one.beyond_mm if math.isfinite(one.beyond_mm) else None, "mm"),
                "body": body.name,
                "side": one.side,
            },
            ways=lambda body=body: [_to_its_side(bench, body) if body.through else _free_place(bench, body)],  # type: ignore[misc]
        )


def _free_place(bench: TrialBench, body: Placed) -> Remedy | None:
    found: Body | None = moved_free(bench.design, body.pointer)
    if found is None or found == body.body:
        return None
    return Remedy(
        label=say("way.move-to-the-nearest-free-place", body=body.name), patch=[replace(f"{body.pointer}/body", found)]
    )


def closed_in(bench: TrialBench) -> Iterator[Found]:
    """What lies in a hollow that nothing leads into."""
    for first, holder in bench.fit.closed_in:
        body, around = bench.fit.placed[first], bench.fit.placed[holder]
        yield Found(
            code="closed-in",
            severity="fix",
            step="fit",
            where=body.pointer,
            facts={"body": body.name, "around": around.name},
            ways=lambda body=body: [_free_place(bench, body)],  # type: ignore[misc]
        )


def open_case(bench: TrialBench) -> Iterator[Found]:
    """A case from a file that a whole side is missing of."""
    side, shape = bench.fit.open_side, bench.design.enclosure.shape
    if side is None or shape is None:
        return
    yield Found(
        code="open-case",
        severity="fix",
        step="fit",
        where="/enclosure/shape",
        facts={"shape": shape.name, "side": side},
    )


def off_its_board(bench: TrialBench) -> Iterator[Found]:
    """What is said to sit on something, and hangs in the air beside it."""
    by_key = {body.key: body for body in bench.fit.placed if body.key}
    for body in bench.fit.placed:
        under = by_key.get(body.body.on or "")
        apart = gap_mm(body, under)[0] if under is not None and under is not body else 0.0
        if under is None or apart <= OFF_MM:
            continue
        yield Found(
            code="off-its-board",
            severity="fix",
            step="fit",
            where=f"{body.pointer}/body/on",
            facts={"apart": (apart, "mm"), "body": body.name, "under": under.name},
            ways=lambda body=body, under=under: [
                _onto(bench, body, under),
                Remedy(
                    label=say("way.it-does-not-sit-on", under=under.name),
                    patch=[replace(f"{body.pointer}/body/on", None)],
                ),
            ],  # type: ignore[misc]
        )


def _onto(bench: TrialBench, body: Placed, under: Placed) -> Remedy | None:
    """Moved straight onto it, from the side that it is on."""
    away = np.maximum(body.low - under.high, 0.0) - np.maximum(under.low - body.high, 0.0)
    if np.count_nonzero(away) != 1:
        return None
    return moved(bench.design, body, -away, say("way.move-onto", body=body.name, under=under.name))


def short_of_its_wall(bench: TrialBench) -> Iterator[Found]:
    """What shows or plugs through a side ends before its wall, as that is there; a plug does not reach its socket."""
    for i, way in bench.fit.passages.items():
        body = bench.fit.placed[i]
        plugged = any(z.kind == "plug" and looks_to(body.body, z.side) == body.through for z in body.body.zones)
        if way.short_mm > SHORT_MM:
            yield Found(
                code="short-of-its-wall",
                severity="fix",
                step="fit",
                where=body.pointer,
                facts={"gap": (way.short_mm, "mm"), "body": body.name, "through": body.through},
                ways=lambda body=body: [_to_its_side(bench, body)],  # type: ignore[misc]
            )
        elif plugged and way.behind_mm > PLUG_REACH_MM:
            yield Found(
                code="plug-out-of-reach",
                severity="fix",
                step="fit",
                where=body.pointer,
                facts={
                    "behind": (way.behind_mm, "mm"),
                    "reach": (PLUG_REACH_MM, "mm"),
                    "body": body.name,
                    "through": body.through,
                },
                ways=lambda body=body: [_to_its_side(bench, body)],  # type: ignore[misc]
            )


def _to_its_side(bench: TrialBench, body: Placed) -> Remedy | None:
    """Moved to the outer face of its side, as that is there, or behind its window, where nothing is in its way."""
    way = next((w for i, w in bench.fit.passages.items() if bench.fit.placed[i] is body), None)
    if way is None:
        return None
    s = SIDES.index(body.through or "left")
    by = np.zeros(3)
    out = way.short_mm - body.body.window.film_mm if body.body.window else way.behind_mm
    by[s // 2] = out * (1 if s % 2 else -1)
    return moved(bench.design, body, by, say("way.move-to-the", body=body.name, side=body.through))
