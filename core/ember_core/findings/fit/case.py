"""Traps of the case itself: walls that don't come out, things that don't reach their side, room that must stay free and is not, a radio behind
metal."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator

import numpy as np

from ...design import Body, Design, Part, Seal, Side, Walls, Zone
from ...design.patches import apply_patch, replace
from ...design.problems import DocumentError
from ...enclosure.bodies import AXES, TOUCH_MM, Placed
from ...enclosure.fit import check_fit
from ...enclosure.joints import groove_wants_mm, thickest_cord_mm
from ...enclosure.solids import SIDES, looks_to, zone_corners
from ...enclosure.zones import Blocked, blocked_zones
from ...figures import PatchOperation, Remedy
from ...making import making_of, thin_spots, wall_left_mm
from ...measures.bench import TrialBench
from ...thermal.materials import shielded
from ...words import Said, say
from ..found import Found

BEZEL_MM = 1.0  # of wall over the edge of what is behind a window; a rule of thumb
SPARE_MM = 0.01
SQUEEZE, GOOD_SQUEEZE = (
    (0.15, 0.30),
    0.22,
)  # of a round cord at rest, as is usual for seals that do not move; a rule of thumb
CORD_MM, THIN_CORD_MM = 2.0, 1.0
MOST_BLOCKED = 12  # that are told at once
ROUNDING = 1e-9
MUST = ("plug", "card", "removal", "wires")  # else it does not go together


def no_inside(bench: TrialBench) -> Iterator[Found]:
    """The walls take all the room."""
    case = bench.design.enclosure
    if bench.fit.filled_share is not None:
        return
    x, y, z = case.outer_mm
    yield Found(
        code="no-inside",
        severity="fix",
        step="fit",
        where="/enclosure/outer_mm",
        facts={"x": (x, "mm"), "y": (y, "mm"), "z": (z, "mm")},
    )


def thin_walls(bench: TrialBench) -> Iterator[Found]:
    """A wall thinner than what the process makes well, once its faces are worked."""
    case = bench.design.enclosure
    if case.process == "ready-made":  # it came out as it is
        return
    making = making_of(case)
    left = {side: wall_left_mm(wall, case) for side, wall in zip(SIDES, case.walls, strict=True)}
    thin = [side for side, wall in left.items() if wall < making.wall - TOUCH_MM]
    if not thin:
        return
    worst = min(left.values())
    yield Found(
        code="thin-wall",
        severity="fix" if worst < making.least_wall - TOUCH_MM else "watch",
        step="fit",
        where="/enclosure/walls_mm" if case.walls_mm else "/enclosure/wall_mm",
        facts={
            "wall": (worst, "mm"),
            "wall_usual": (making.wall, "mm"),
            "wall_least": (making.least_wall, "mm"),
            "all": len(thin) == len(SIDES),
            "sides": thin,
            "finish": case.finish if worst < min(case.walls) - TOUCH_MM else None,
            "process": case.process,
        },
        ways=lambda: [_thicker(bench.design, thin, making.wall + case.walls[0] - left["left"])],
    )


def thin_in_its_file(bench: TrialBench) -> Iterator[Found]:
    """Spots of a case from a file that are thinner than what the process makes well, once its faces are worked."""
    case = bench.design.enclosure
    if case.shape is None:
        return
    making, thin = making_of(case), thin_spots(case)
    if not thin:
        return
    worst = thin[0][0]
    places = "; ".join(" × ".join(f"{v:.1f}" for v in spot.at_mm) for _, spot in thin[:3])
    yield Found(
        code="thin-spot",
        severity="fix" if worst < making.least_wall - TOUCH_MM else "watch",
        step="fit",
        where="/enclosure/shape",
        facts={
            "thickness": (worst, "mm"),
            "usual": (making.wall, "mm"),
            "shape": case.shape.name,
            "thin_count": len(thin),
            "process": case.process,
            "places": places,
        },
    )


def _thicker(design: Design, thin: list[Side], wall_mm: float) -> Remedy:
    """Thicker walls around the same inside: the case grows, and what is in it moves along."""
    case = design.enclosure
    walls = [max(w, wall_mm) if side in thin else w for side, w in zip(SIDES, case.walls, strict=True)]
    grown = [b - a for a, b in zip(case.walls, walls, strict=True)]
    patch: list[PatchOperation] = []
    if case.walls_mm is None and len(thin) == len(SIDES):
        patch.append(replace("/enclosure/wall_mm", round(wall_mm, 3)))
    else:
        own = {side: round(w, 3) for side, w in zip(SIDES, walls, strict=True) if abs(w - case.wall_mm) > TOUCH_MM}
        patch.append(replace("/enclosure/walls_mm", Walls(**own)))
    outer = [round(case.outer_mm[i] + grown[2 * i] + grown[2 * i + 1], 3) for i in range(3)]
    patch.append(replace("/enclosure/outer_mm", outer))
    if case.split_mm is not None:
        patch.append(replace("/enclosure/split_mm", round(case.split_mm + grown[4], 3)))
    for body in check_fit(design).placed:
        at = list(body.body.position_mm or (0.0, 0.0, 0.0))
        for axis in range(3):
            at[axis] += grown[2 * axis]
        if body.open_side:  # it keeps to its outer face
            s = SIDES.index(body.through)
            at[s // 2] += grown[s] if s % 2 else -grown[s]
        patch.append(replace(f"{body.pointer}/body/position_mm", [round(v, 3) for v in at]))
    return Remedy(label=say("way.walls-of-around-the-same-inside", wall=(wall_mm, "mm")), patch=patch)


def moved(design: Design, body: Placed, by: np.ndarray, label: str) -> Remedy | None:
    """A body moved, if all its gaps and all that must stay free are right then; what sits on it moves along."""
    shifted = [b for b in check_fit(design).placed if b.pointer == body.pointer or b.body.on == body.board != ""]
    patch = []
    for one in shifted:
        at = np.asarray(one.body.position_mm or (0.0, 0.0, 0.0)) + by
        patch.append(replace(f"{one.pointer}/body/position_mm", [round(float(v), 3) for v in at]))
    try:
        after = apply_patch(design, patch)
    except DocumentError:
        return None
    fit, pointers = check_fit(after), {b.pointer for b in shifted}
    own = {i for i, b in enumerate(fit.placed) if b.pointer in pointers}
    good = fit.settled(own)
    free = not any(own & {b.index, b.other} for b in blocked_zones(fit.placed, after.enclosure))
    return Remedy(label=label, patch=patch) if good and free else None


def bezel(bench: TrialBench) -> Iterator[Found]:
    """A window that leaves too little of its wall over the edge of what is behind it, or is larger than that."""
    for body in bench.fit.placed:
        window = body.body.window
        side = next((s for s in SIDES if looks_to(body.body, s) == body.through), None) if window else None
        if window is None or side is None:
            continue
        wide = [v for k, v in enumerate(body.body.size_mm) if k != SIDES.index(side) // 2]
        left = [window.at_mm[k] for k in (0, 1)] + [wide[k] - window.at_mm[k] - window.size_mm[k] for k in (0, 1)]
        cover = min(left)
        if cover >= BEZEL_MM - TOUCH_MM:
            continue
        yield Found(
            code="bezel",
            severity="fix" if cover < -TOUCH_MM else "watch",
            step="fit",
            where=f"{body.pointer}/body/window",
            facts={
                "cover": (abs(cover), "mm"),
                "wanted": (BEZEL_MM, "mm"),
                "body": body.name,
                "through": body.through,
                "beyond": cover < -TOUCH_MM,
            },
            ways=lambda body=body, wide=wide: [_narrower_window(body, wide)],  # type: ignore[misc]
        )


def _narrower_window(body: Placed, wide: list[float]) -> Remedy | None:
    """The same window, cut to what leaves enough on each side; none where nothing is left."""
    window = body.body.window
    assert window is not None
    low = [max(at, BEZEL_MM) for at in window.at_mm]
    high = [min(at + size, side - BEZEL_MM) for at, size, side in zip(window.at_mm, window.size_mm, wide, strict=True)]
    size = [round(b - a, 3) for a, b in zip(low, high, strict=True)]
    if min(size) <= 0:
        return None
    made = window.model_copy(update={"at_mm": (low[0], low[1]), "size_mm": (size[0], size[1])})
    label = say("way.a-window-of-mm", size=(size[0], ""), size_2=(size[1], ""))
    return Remedy(label=label, patch=[replace(f"{body.pointer}/body/window", made)])


def blocked(bench: TrialBench) -> Iterator[Found]:
    """Something stands in the room that must stay free before a body."""
    fit, case = bench.fit, bench.design.enclosure
    for one in blocked_zones(fit.placed, case)[:MOST_BLOCKED]:
        body, zone = fit.placed[one.index], fit.placed[one.index].body.zones[one.zone]
        other = Said("place.wall", {"side": one.side}) if one.side else fit.placed[one.other].name
        yield Found(
            code="zone-blocked",
            severity="fix" if zone.kind in MUST else "watch",
            step="fit",
            where=body.pointer,
            facts={
                "reaches_in": (one.depth_mm, "mm"),
                "depth": (zone.depth_mm, "mm"),
                "other": other,
                "body": body.name,
                "side": looks_to(body.body, zone.side) or zone.side,
                "kind": zone.kind,
                "axis": AXES[one.axis],
            },
            ways=lambda one=one, zone=zone: [_freed(bench, one, zone)],  # type: ignore[misc]
        )


def _freed(bench: TrialBench, one: Blocked, zone: Zone) -> Remedy | None:
    """The shortest move of one of both that settles all its gaps and leaves the room free; for a wall, of the body alone."""
    fit = bench.fit
    body = fit.placed[one.index]
    if one.side is not None:
        s = SIDES.index(one.side)
        by = np.zeros(3)
        by[s // 2] = (one.depth_mm + SPARE_MM) * (1 if s % 2 == 0 else -1)
        return moved(
            bench.design,
            body,
            by,
            say("way.move-by-along", body=body.name, size=(one.depth_mm, "mm"), axis=AXES[s // 2]),
        )
    other = fit.placed[one.other]
    tries = []
    for mover in (other, body):
        for axis in range(3):
            for sign in (1, -1):
                by = np.zeros(3)
                by[axis] = sign * _way_out_mm(body, zone, other, axis, sign if mover is other else -sign)
                tries.append((abs(float(by[axis])), mover, by, axis))
    for size, mover, by, axis in sorted(tries, key=lambda t: t[0]):
        if mover.through is None or axis != SIDES.index(mover.through) // 2:
            found = moved(
                bench.design, mover, by, say("way.move-by-along", body=mover.name, size=(size, "mm"), axis=AXES[axis])
            )
            if found is not None:
                return found
    return None


def _way_out_mm(body: Placed, zone: Zone, other: Placed, axis: int, sign: int) -> float:
    """How far the other one would have to go along an axis to leave the room, by the boxes around both."""
    room = zone_corners(body.body, zone)[:, axis]
    apart = room.max() - other.low[axis] if sign > 0 else other.high[axis] - room.min()
    return float(apart) + SPARE_MM


def radio_shielded(bench: TrialBench) -> Iterator[Found]:
    """A radio in a case of metal is not heard."""
    design = bench.design
    if not shielded(design.enclosure):
        return
    inside = [p.name for p in design.parts if _sends(p) and not p.outside and not _outside(p.body)]
    opening = largest_opening_mm(design)
    if not inside or opening >= HALF_WAVE_MM:
        return
    if opening >= HALF_WAVE_MM / 2:
        yield Found(
            code="radio-shielded",
            words="radio-hardly-gets-out",
            severity="watch",
            step="fit",
            where="/enclosure/radio_window_mm",
            facts={
                "opening": (opening, "mm"),
                "half_wave": (HALF_WAVE_MM, "mm"),
                "inside": inside,
                "plastic": design.enclosure.plastic,
            },
        )
        return
    yield Found(
        code="radio-shielded",
        severity="fix",
        step="fit",
        where="/enclosure/plastic",
        facts={"inside": inside, "plastic": design.enclosure.plastic},
        ways=lambda: [
            Remedy(label=say("way.a-lid-of-abs"), patch=[replace("/enclosure/lid", "ABS")]),
            *(
                Remedy(label=say("way.a-case-of", p=p), patch=[replace("/enclosure/plastic", p)])
                for p in ("ABS", "polycarbonate")
            ),
        ],
    )


HALF_WAVE_MM = 62.0  # at 2.4 GHz
SENDS = re.compile(r"\b(radio|send|transmit)", re.IGNORECASE)


def largest_opening_mm(design: Design) -> float:
    """The longest opening in the case that plastic or glass closes: a window for a radio, or over a display [mm]; 0 where there is none."""
    windows = [p.body.window.size_mm for p in design.parts if p.body is not None and p.body.window is not None]
    own = design.enclosure.radio_window_mm
    return max((max(w) for w in [*windows, *([own] if own else [])]), default=0.0)


def _sends(part: Part) -> bool:
    """A radio, or a controller that has one."""
    return (
        part.kind == "radio"
        or _has_antenna(part.body)
        or (part.kind == "controller" and any(SENDS.search(s.name) for s in part.states))
    )


def wide_gap(bench: TrialBench) -> Iterator[Found]:
    """The gap of the lid lets in what the brief keeps out."""
    brief, case = bench.design.brief, bench.design.enclosure
    if case.lid_gap_mm is None or case.seal is not None or brief.exposure == "dry":
        return
    most = 0.0 if brief.exposure == "sealed" else SPLASHED_GAP_MM
    if case.lid_gap_mm <= most + TOUCH_MM:
        return
    yield Found(
        code="wide-gap",
        severity="fix" if brief.exposure == "sealed" else "watch",
        step="fit",
        where="/enclosure/lid_gap_mm",
        facts={"gap": (case.lid_gap_mm, "mm"), "most": (most, "mm"), "exposure": brief.exposure},
        ways=lambda: [_cord(bench.design)],
    )


SPLASHED_GAP_MM = 0.3  # water that splashes hangs in a narrower one; a rule of thumb


def _has_antenna(body: Body | None) -> bool:
    return body is not None and any(z.kind == "antenna" for z in body.zones)


def _outside(body: Body | None) -> bool:
    return body is not None and body.through is not None


def seal_squeeze(bench: TrialBench) -> Iterator[Found]:
    """A cord in its groove is pressed too little to seal, or so much that it is crushed or the case does not close."""
    seal = bench.design.enclosure.seal
    if seal is None:
        return
    squeeze = 1 - seal.groove_mm / seal.cord_mm
    least, most = SQUEEZE
    if least - ROUNDING <= squeeze <= most + ROUNDING:
        return
    yield Found(
        code="seal-squeeze",
        severity="fix" if squeeze < least else "watch",
        step="fit",
        where="/enclosure/seal/groove_mm",
        facts={
            "cord": (seal.cord_mm, "mm"),
            "groove": (seal.groove_mm, "mm"),
            "little": squeeze < least,
            "pressed": squeeze > 0,
            "squeeze": (squeeze * 100, "%"),
            "least": (least * 100, "%"),
            "most": (most * 100, "%"),
        },
        ways=lambda: [_groove(seal.cord_mm * (1 - GOOD_SQUEEZE))],
    )


def _cord(design: Design) -> Remedy:
    """The thickest cord that has room in the walls, in its groove; in a case from a file, which is not drawn here, the usual one. Where none has, a thin
    one in thicker side walls around the same inside."""
    case = design.enclosure
    cord = CORD_MM if case.shape is not None else thickest_cord_mm(case)
    thin = THIN_CORD_MM if cord is None else cord
    sealed = replace("/enclosure/seal", Seal(cord_mm=thin, groove_mm=round(thin * (1 - GOOD_SQUEEZE), 2)))
    if cord is not None:
        return Remedy(label=say("way.a-cord-of-in-a-groove", cord=(cord, "mm")), patch=[sealed])
    wall = math.ceil(groove_wants_mm(case, thin) * 10 - TOUCH_MM) / 10
    thicker = _thicker(design, ["left", "right", "front", "back"], wall)
    return Remedy(
        label=say("way.a-cord-of-in-side-walls-of", thin=(thin, "mm"), wall=(wall, "mm")),
        patch=[*thicker.patch, sealed],
    )


def _groove(depth_mm: float) -> Remedy:
    depth = round(depth_mm, 2)
    return Remedy(
        label=say("way.a-groove-of", depth=(depth, "mm")), patch=[replace("/enclosure/seal/groove_mm", depth)]
    )


def unsealed(bench: TrialBench) -> Iterator[Found]:
    """The brief wants it sealed, and nothing seals the case's two halves."""
    design = bench.design
    if design.brief.exposure != "sealed" or design.enclosure.seal is not None:
        return
    yield Found(code="no-seal", severity="watch", step="fit", where="/brief/exposure", ways=lambda: [_cord(design)])
