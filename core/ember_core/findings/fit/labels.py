"""Traps of the letters on the case: through the wall, off their side, too fine, across an opening or where the case comes apart."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ...design import CaseLabel
from ...design.patches import remove, replace
from ...enclosure.bodies import TOUCH_MM
from ...enclosure.joints import split_mm
from ...enclosure.labels import STROKE, label_box, missing_letters
from ...enclosure.pieces import opening_corners
from ...enclosure.solids import SIDES
from ...figures import Remedy, Severity
from ...making import making_of
from ...measures.bench import TrialBench
from ...numeric import Array
from ...words import Fact, say
from ..found import Found

EDGE_MM = 1.0  # letters stay so far off the edge of their side


def labels(bench: TrialBench) -> Iterator[Found]:
    """What is wrong with each line of letters, and what would do."""
    for i, label in enumerate(bench.design.enclosure.labels):
        pointer = f"/enclosure/labels/{i}"
        yield from _deep(bench, label, pointer)
        yield from _fine(bench, label, pointer)
        yield from _where(bench, label, pointer)
        if missing := missing_letters(label.text):
            yield _found(
                "label-letters", "fix", pointer, label, {"missing": " ".join(missing)}, [],
            )  # fmt: skip


def _found(
    code: str, severity: Severity, where: str, label: CaseLabel, facts: dict[str, Fact], ways: list[Remedy]
) -> Found:  # fmt: skip
    return Found(
        code=code, severity=severity, step="fit", where=where, facts={"letters": label.text, "side": label.side, **facts},
        ways=lambda: [*ways, Remedy(label=say("way.without-the-letters"), patch=[remove(where)])],
    )  # fmt: skip


def _deep(bench: TrialBench, label: CaseLabel, pointer: str) -> Iterator[Found]:
    """Engraved so deep that the wall behind is too thin."""
    if label.raised:
        return
    case = bench.design.enclosure
    making, wall = making_of(case), case.walls[SIDES.index(label.side)]
    left = wall - label.depth_mm
    if left >= making.wall - TOUCH_MM:
        return
    ways = [Remedy(label=say("way.raised-instead"), patch=[replace(f"{pointer}/raised", value=True)])]
    if (less := round(wall - making.wall, 3)) >= 0.2:
        ways.insert(
            0, Remedy(label=say("way.only-deep", less=(less, "mm")), patch=[replace(f"{pointer}/depth_mm", value=less)])
        )
    yield _found(
        "label-deep", "fix" if left < making.least_wall - TOUCH_MM else "watch", pointer, label,
        {"left": (left if left > 0 else None, "mm"), "wanted": (making.wall, "mm"), "wall": (wall, "mm"), "depth": (label.depth_mm, "mm"),
         "process": case.process},
        ways,
    )  # fmt: skip


def _fine(bench: TrialBench, label: CaseLabel, pointer: str) -> Iterator[Found]:
    """Strokes that the process does not draw."""
    case = bench.design.enclosure
    stroke, least = STROKE * label.height_mm, making_of(case).least_wall
    if stroke >= least - TOUCH_MM:
        return
    high = round(least / STROKE, 2)
    yield _found(
        "label-fine", "watch", pointer, label, {"stroke": (stroke, "mm"), "wanted": (least, "mm"), "process": case.process},
        [Remedy(label=say("way.letters-of", high=(high, 'mm')), patch=[replace(f"{pointer}/height_mm", value=high)])],
    )  # fmt: skip


def _where(bench: TrialBench, label: CaseLabel, pointer: str) -> Iterator[Found]:
    """Off its side, across an opening of it, or across where the case comes apart."""
    case = bench.design.enclosure
    low, high = label_box(label, case)
    axis = SIDES.index(label.side) // 2
    others = [k for k in range(3) if k != axis]
    size = np.asarray(case.outer_mm)[others]
    room = np.array([_edge(bench, k) for k in others])
    over = float(max((room - low).max(), (high - (size - room)).max()))
    if over > TOUCH_MM:
        share = float(((size - 2 * room) / np.maximum(high - low, 1e-9)).min())
        ways = []
        if np.all(high - low <= size - 2 * room):
            ways.append(
                Remedy(label=say("way.in-the-middle-of-its-side"), patch=[replace(f"{pointer}/at_mm", value=None)])
            )
        elif (smaller := int(label.height_mm * share * 10) / 10) >= 1:
            smaller_patch = [replace(f"{pointer}/height_mm", value=smaller), replace(f"{pointer}/at_mm", value=None)]
            ways.append(Remedy(label=say("way.letters-of-in-the-middle", smaller=(smaller, "mm")), patch=smaller_patch))
        yield _found(
            "label-off-its-side", "fix", pointer, label,
            {"over": (over, "mm"), "wide": (float((high - low)[0]), "mm"), "high": (float((high - low)[1]), "mm")},
            ways,
        )  # fmt: skip
    for body in bench.fit.placed:
        if body.through == label.side and any(
            _overlap(np.delete(points, axis, axis=1), low, high) for points in opening_corners(body, case)
        ):
            yield _found(
                "label-over-opening", "fix", pointer, label, {"body": body.name}, [],
            )  # fmt: skip
            break
    if axis < 2 and low[1] < split_mm(case) < high[1]:
        yield _found(
            "label-over-joint", "watch", pointer, label, {"height": (split_mm(case), "mm")}, [],
        )  # fmt: skip


def _edge(bench: TrialBench, axis: int) -> float:
    """So far from its ends a side is no longer flat along an axis [mm]."""
    case = bench.design.enclosure
    return EDGE_MM + (case.corner_mm if axis < 2 else case.edge_mm)


def _overlap(points: Array, low: Array, high: Array) -> bool:
    return bool(np.all(points.min(axis=0) < high - TOUCH_MM) and np.all(points.max(axis=0) > low + TOUCH_MM))
