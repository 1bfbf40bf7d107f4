"""Traps of the enclosure: clearance, swelling, what does not fit and by how much."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ...design import Design, Film
from ...design.patches import add, apply_patch, remove, replace
from ...design.problems import DocumentError
from ...enclosure.bodies import AXES, TOUCH_MM, Contact, fits_within, swelling_mm
from ...enclosure.fit import check_fit, contact_names, contact_status, nearest_pieces
from ...enclosure.solids import SIDES
from ...figures import PatchOperation, Remedy
from ...making import clearance_mm, least_clearance_mm
from ...measures.bench import TrialBench
from ...words import Said, say
from ..found import Found

MOST_GAPS = 12
ENOUGH_SWELLING = 0.1
SPARE_MM = 0.01
CORNER_MOVES = (1.0, 1.5, 2.0, 3.0, 5.0)  # times what is missing


def process_clearance(bench: TrialBench) -> Iterator[Found]:
    """Less clearance than the process can make."""
    case = bench.design.enclosure
    usual, least = clearance_mm(case.model_copy(update={"clearance_mm": None})), least_clearance_mm(case)
    if case.clearance_mm is None or case.clearance_mm >= least - TOUCH_MM:
        return
    yield Found(
        code="clearance",
        severity="fix",
        step="fit",
        where="/enclosure/clearance_mm",
        facts={
            "clearance": (case.clearance_mm, "mm"),
            "clearance_min": (least, "mm"),
            "clearance_usual": (usual, "mm"),
            "process": case.process,
            "coated": case.finish == "coated",
        },
        ways=lambda: [
            Remedy(label=say("way.plan-a-side", usual=(usual, "mm")), patch=[replace("/enclosure/clearance_mm", usual)])
        ],
    )


def pouch_swelling(bench: TrialBench) -> Iterator[Found]:
    """No room for a pouch cell to swell."""
    battery = bench.design.battery
    if battery.cell.form != "pouch" or battery.swelling >= ENOUGH_SWELLING - 1e-9:
        return
    thickness = battery.body.size_mm[swelling_mm(bench.design)[1]] if battery.body else min(battery.cell.size_mm)
    wanted = thickness * ENOUGH_SWELLING
    yield Found(
        code="swelling",
        severity="fix",
        step="fit",
        where="/battery/swelling",
        facts={
            "thickness": (thickness, "mm"),
            "swelling": (battery.swelling * thickness, "mm"),
            "wanted": (wanted, "mm"),
            "cell": battery.cell.name,
        },
        ways=lambda: [
            Remedy(
                label=say("way.keep-free", wanted=(wanted, "mm")), patch=[replace("/battery/swelling", ENOUGH_SWELLING)]
            )
        ],
    )


def gaps(bench: TrialBench) -> Iterator[Found]:
    """Collisions and gaps that are too small, the worst first."""
    fit = bench.fit
    tight = sorted((c for c in fit.contacts if contact_status(c) != "pass"), key=lambda c: c.margin_mm)
    for contact in tight[:MOST_GAPS]:
        first, second = contact_names(fit, contact)
        body = fit.placed[contact.first]
        other = fit.placed[contact.second] if not contact.side else None
        swollen = next((b for b in (body, other) if b is not None and b.swelling_mm), None)
        swells_mm = None
        if (
            swollen
            and contact.axis == swollen.swelling_axis
            and contact.gap_mm + swollen.swelling_mm >= contact.needed_mm
        ):
            swells_mm = swollen.swelling_mm
        collides = contact.gap_mm < 0
        yield Found(
            code="swelling-room" if swells_mm else "collision" if collides else "tight-gap",
            words="gaps",
            severity="fix" if collides else "watch",
            step="fit",
            where=body.pointer,
            facts={
                "first": first,
                "second": second,
                "collides": collides,
                "overlap": (-contact.gap_mm, "mm"),
                "axis": None if contact.corner else AXES[contact.axis],
                "gap": (contact.gap_mm, "mm"),
                "needed": (contact.needed_mm, "mm"),
                "swollen": (swells_mm, "mm"),
            },
            ways=lambda contact=contact: [_make_room(bench, contact), _film(bench, contact), _left_off(bench, contact)],  # type: ignore[misc]
        )


def copies_of_a_part(bench: TrialBench) -> Iterator[Found]:
    """Several copies of a part that lie in one another, or of which some find no room inside."""
    case = bench.design.enclosure
    inner_low, inner_high = np.asarray(case.walls)[0::2], np.asarray(case.outer_mm) - np.asarray(case.walls)[1::2]
    for body in bench.fit.placed:
        count = len(body.copies)
        if count < 2:
            continue
        part = bench.design.part(body.key)
        size = np.ptp(body.pieces[0].corners, axis=0) if len(body.pieces) == count else np.asarray(body.body.size_mm)
        grid = part.grid
        pitches = (
            []
            if grid is None
            else [
                (grid.pitch_mm, grid.along, min(grid.columns, count)),
                (grid.row_pitch_mm, grid.across, -(-count // grid.columns)),
            ]
        )
        for pitch, axis, many in pitches:
            needed = float(size["xyz".index(axis)])
            if pitch is not None and many > 1 and pitch < needed - TOUCH_MM:
                yield Found(
                    code="copies-overlap",
                    severity="fix",
                    step="fit",
                    where=body.pointer,
                    facts={
                        "pitch": (pitch, "mm"),
                        "needed": (needed, "mm"),
                        "count": count,
                        "body": body.name,
                        "axis": axis,
                    },
                    ways=lambda body=body, axis=axis, needed=needed: [_wider_pitch(bench, body.pointer, axis, needed)],  # type: ignore[misc]
                )
        each = len(body.pieces) // count
        outside = 0
        for k in range(count):
            points = np.concatenate([p.corners for p in body.pieces[k * each : (k + 1) * each]])
            beyond = np.column_stack([inner_low - points.min(axis=0), points.max(axis=0) - inner_high]).ravel()
            own = [side != body.open_side for side in SIDES]
            outside += bool(np.max(beyond[own]) > TOUCH_MM)
        if outside:
            yield Found(
                code="copies-outside",
                severity="fix",
                step="fit",
                where=body.pointer,
                facts={
                    "outside": (outside, ""),
                    "copies": (count, ""),
                    "body": body.name,
                },
            )


def _wider_pitch(bench: TrialBench, pointer: str, axis: str, needed_mm: float) -> Remedy:
    grid = bench.design.parts[int(pointer.split("/")[2])].grid
    assert grid is not None
    key = "pitch_mm" if grid.along == axis else "row_pitch_mm"
    pitch = round(needed_mm + bench.design.enclosure.gap_mm, 2)
    return Remedy(label=say("way.one-every", pitch=(pitch, "mm")), patch=[replace(f"{pointer}/grid/{key}", pitch)])


def no_way_through(bench: TrialBench) -> Iterator[Found]:
    """What hangs outside needs its way through the wall: a gland, a connector."""
    for p, part in enumerate(bench.design.parts):
        if not part.outside or part.way is not None:
            continue
        yield Found(code="no-way-through", severity="watch", step="fit", where=f"/parts/{p}", facts={"part": part.name})


FILMS_MM = (0.5, 0.3, 0.2, 0.1, 0.05)


def _film(bench: TrialBench, contact: Contact) -> Remedy | None:
    """The thickest usual film that goes between two things which are nearer than they should be."""
    fit = bench.fit
    if contact.side is not None:
        return None
    first, second = fit.placed[contact.first], fit.placed[contact.second]
    thickness = next((t for t in FILMS_MM if t <= contact.gap_mm + 1e-9 and t < contact.needed_mm), None)
    if thickness is None or not first.key or not second.key:
        return None
    film = Film(first=first.key, second=second.key, thickness_mm=thickness)
    label = say("way.a-film-of-mm-between-and", thickness=(thickness, ""), first=first.name, second=second.name)
    return Remedy(label=label, patch=[add("/enclosure/films/-", film)])


def _left_off(bench: TrialBench, contact: Contact) -> Remedy | None:
    """Without the pins or the jack that alone come too near."""
    if contact.side is not None:
        return None
    first, second = bench.fit.placed[contact.first], bench.fit.placed[contact.second]
    _, _, i, j = nearest_pieces(first, second)
    for body, k in ((first, i), (second, j)):
        if body.body.shape == "board" and k and body.body.blocks[k].spare:
            label = say("way.leave-off-of", blocks=body.body.blocks[k].name, body=body.name)
            return Remedy(label=label, patch=[remove(f"{body.pointer}/body/blocks/{k}")])
    return None


def _make_room(bench: TrialBench, contact: Contact) -> Remedy | None:
    """The shortest move of one body that settles its own gaps, else a larger case where the brief allows."""
    fit, design = bench.fit, bench.design
    moves: list[tuple[float, int, int, float]] = []
    for index in (contact.first, contact.second):
        if index < 0:
            continue
        body = fit.placed[index]
        for axis in range(3):
            if body.through is not None and axis == ("left", "front", "bottom").index(_low_side(body.through)):
                continue  # it belongs at its wall
            for distance in _useful_distances(bench, contact, index, axis):
                moves.append((abs(distance), index, axis, distance))
    for size, index, axis, distance in sorted(moves):
        body = fit.placed[index]
        target = [round(float(v), 3) for v in body.low]
        target[axis] = round(target[axis] + distance, 3)
        patch = [replace(f"{body.pointer}/body/position_mm", target)]
        if _settled(design, patch, body.pointer):
            label = say("way.move-by-along", body=body.name, size=(size, "mm"), axis=AXES[axis])
            return Remedy(label=label, patch=patch)
    return _less_round(design, contact) if contact.corner else _larger_case(design, contact)


def _less_round(design: Design, contact: Contact) -> Remedy | None:
    """The roundest edges, to half a millimetre, with which a body in a corner has what it needs."""
    first = int(np.ceil(design.enclosure.corner_mm * 2)) - 1
    for radius in (k / 2 for k in range(first, -1, -1)):
        patch = [replace("/enclosure/corner_mm", radius)]
        after = check_fit(apply_patch(design, patch))
        own = [c for c in after.contacts if c.corner and c.first == contact.first]
        if all(contact_status(c) == "pass" for c in own):
            return Remedy(label=say("way.round-the-upright-edges-by", radius=(radius, "mm")), patch=patch)
    return None


def _low_side(side: str) -> str:
    return {"right": "left", "back": "front", "top": "bottom"}.get(side, side)


def _useful_distances(bench: TrialBench, contact: Contact, index: int, axis: int) -> list[float]:
    fit = bench.fit
    body = fit.placed[index]
    if contact.side and contact.corner:  # away from either of both sides, far enough along an arc or along a line
        sides = (contact.side, contact.corner)
        if axis > 1:
            return []
        sign = 1.0 if sides[axis] in ("left", "front") else -1.0
        return [sign * (-contact.margin_mm * times + SPARE_MM) for times in CORNER_MOVES]
    if contact.side:
        if axis != contact.axis:
            return []
        sign = 1.0 if contact.side in ("left", "front", "bottom") else -1.0
        return [sign * (-contact.margin_mm + SPARE_MM)]
    other = fit.placed[contact.second if index == contact.first else contact.first]
    up = float(other.high[axis] + contact.needed_mm - body.low[axis]) + SPARE_MM
    down = float(other.low[axis] - contact.needed_mm - body.high[axis]) - SPARE_MM
    return [up, down]


def _settled(design: Design, patch: list[PatchOperation], pointer: str) -> bool:
    try:
        after = check_fit(apply_patch(design, patch))
    except DocumentError:
        return False
    return after.settled({i for i, b in enumerate(after.placed) if b.pointer == pointer})


def _larger_case(design: Design, contact: Contact) -> Remedy | None:
    if contact.side is None:
        return None
    axis = contact.axis
    outer = list(design.enclosure.outer_mm)
    outer[axis] = round(float(np.ceil((outer[axis] - contact.margin_mm) * 2) / 2), 3)
    limit = design.brief.outer_max_mm
    if limit is not None and outer[axis] > limit[axis]:
        return None
    if contact.side in ("left", "front", "bottom"):
        return None
    patch = [replace("/enclosure/outer_mm", outer)]
    grown = outer[axis] - design.enclosure.outer_mm[axis]
    for body in check_fit(design).placed:
        if body.through == ("right", "back", "top")[axis]:
            target = [round(float(v), 3) for v in body.low]
            target[axis] = round(target[axis] + grown, 3)
            patch.append(replace(f"{body.pointer}/body/position_mm", target))
    return Remedy(label=say("way.make-the-case-larger-along", grown=(grown, "mm"), axis=AXES[axis]), patch=patch)


def outer_size(bench: TrialBench) -> Iterator[Found]:
    """The case is larger than the brief allows, however it is turned."""
    limit, outer = bench.design.brief.outer_max_mm, bench.design.enclosure.outermost_mm
    if limit is None or fits_within(outer, limit):
        return
    turned = zip(
        sorted(outer, reverse=True), sorted(limit, reverse=True), ("longest", "middle", "shortest"), strict=True
    )
    over = {side: o - m for o, m, side in turned if o > m + TOUCH_MM}
    beyond = [Said(f"along-its-side.{side}", {side: (excess, "mm")}) for side, excess in over.items()]
    extra, _ = swelling_mm(bench.design)
    yield Found(
        code="case-too-large",
        severity="fix",
        step="fit",
        where="/enclosure/outer_mm",
        facts={
            "beyond": beyond,
            "swelling": (extra or None, "mm"),
        },
    )


def openings(bench: TrialBench) -> Iterator[Found]:
    """A gadget that gets wet has openings in its case."""
    exposure = bench.design.brief.exposure
    through = [b.name for b in bench.fit.placed if b.through is not None]
    if exposure == "dry" or not through:
        return
    yield Found(
        code="openings",
        severity="watch",
        step="fit",
        where="/brief/exposure",
        facts={
            "through_count": len(through),
            "through": through,
            "exposure": exposure,
            "more": len(through) - 3 if len(through) > 3 else None,
        },
    )
