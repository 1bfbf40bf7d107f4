"""Traps of what holds the case: nothing does, a post is too thin, metal can reach the pouch."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ...design import Fastening, Seal
from ...design.patches import add, replace
from ...enclosure.bodies import Placed
from ...enclosure.holding import POSTS_LEAST, SHARP, nearest_place, posts, snaps
from ...enclosure.joints import groove_of, groove_wants_mm, rim_of, thickest_cord_mm
from ...enclosure.placing import taken_boxes
from ...enclosure.solids import distance_mm
from ...figures import Remedy
from ...making import FROM_A_POUCH_MM, POST_MM, clearance_mm, making_of
from ...measures.bench import TrialBench
from ...thermal.materials import MATERIALS
from ...words import say
from ..found import Found


def nothing_holds(bench: TrialBench) -> Iterator[Found]:
    """A case of two pieces that nothing keeps together."""
    design = bench.design
    case = design.enclosure
    if case.process == "ready-made" or case.shape is not None or not bench.fit.placed or bench.fit.filled_share is None:
        return
    if any(f.kind != "cradle" and f.carries is None for f in case.fastenings):
        return

    def ways() -> Iterator[Remedy]:
        for label, made in (("Screws M2 into posts", posts(design, "screw", "M2")), ("Snaps", snaps(design))):
            if made:
                yield Remedy(
                    label=say("way.so-many", label=label, made_count=len(made)),
                    patch=[add("/enclosure/fastenings/-", f) for f in made],
                )

    yield Found(code="nothing-holds", severity="note", step="fit", where="/enclosure/fastenings", ways=ways)


def loose_lid(bench: TrialBench) -> Iterator[Found]:
    """Walls too thin for the rim that keeps the upper piece in its place, and no screws that do."""
    case = bench.design.enclosure
    if (
        case.joint != "rim"
        or case.seal is not None
        or case.shape is not None
        or case.process == "ready-made"
        or bench.fit.filled_share is None
    ):
        return
    screwed = sum(f.thread is not None and f.carries is None for f in case.fastenings)
    if rim_of(case) is not None or screwed >= POSTS_LEAST:
        return
    making, gap = making_of(case), clearance_mm(case, "sliding")
    needed, wall = 2 * making.least_wall + gap, min(case.walls[:4])
    if wall >= needed:
        return
    yield Found(
        code="loose-lid",
        severity="watch",
        step="fit",
        where="/enclosure/joint",
        facts={"wall": (wall, "mm"), "needed": (needed, "mm")},
        ways=lambda: [Remedy(label=say("way.they-meet-flat-as-planned"), patch=[replace("/enclosure/joint", "flat")])],
    )


def no_groove(bench: TrialBench) -> Iterator[Found]:
    """A cord whose groove has no room in the walls."""
    case = bench.design.enclosure
    if (
        case.seal is None
        or case.shape is not None
        or case.process == "ready-made"
        or bench.fit.filled_share is None
        or groove_of(case) is not None
    ):
        return
    cord = case.seal.cord_mm
    needed, wall = groove_wants_mm(case, cord), min(case.walls[:4])
    if wall >= needed:
        return
    share, thinner = case.seal.groove_mm / case.seal.cord_mm, thickest_cord_mm(case)

    def ways() -> list[Remedy]:
        if thinner is None or thinner >= cord:
            return []
        seal = Seal(cord_mm=thinner, groove_mm=round(thinner * share, 3))
        return [Remedy(label=say("way.a-cord-of", thinner=(thinner, "mm")), patch=[replace("/enclosure/seal", seal)])]

    yield Found(
        code="no-groove",
        severity="fix",
        step="fit",
        where="/enclosure/seal/cord_mm",
        facts={"cord": (cord, "mm"), "wall": (wall, "mm"), "needed": (needed, "mm")},
        ways=ways,
    )


def gives_way(bench: TrialBench) -> Iterator[Found]:
    """Threads, inserts and snaps in something that bends."""
    case = bench.design.enclosure
    held = [(i, f) for i, f in enumerate(case.fastenings) if f.kind != "cradle"]
    if not MATERIALS[case.plastic].flexible or not held:
        return
    rigid = ("PETG", "ABS")
    yield Found(
        code="gives-way",
        severity="watch",
        step="fit",
        where=f"/enclosure/fastenings/{held[0][0]}",
        facts={"plastic": case.plastic, "held": held[0][1].name, "more": len(held) - 1 or None},
        ways=lambda: [Remedy(label=say("way.a-case-of", p=p), patch=[replace("/enclosure/plastic", p)]) for p in rigid],
    )


def thin_posts(bench: TrialBench) -> Iterator[Found]:
    """A post around a screw, an insert or a nut whose wall splits."""
    for i, held in enumerate(bench.design.enclosure.fastenings):
        if held.thread is None:
            continue
        usual, least = POST_MM[held.kind][held.thread]
        wide = min(held.body.size_mm[:2])
        if wide >= least:
            continue
        yield Found(
            code="post-thin",
            severity="watch",
            step="fit",
            where=f"/enclosure/fastenings/{i}",
            facts={
                "wide": (wide, "mm"),
                "least": (least, "mm"),
                "held": held.name,
                "thread": held.thread,
                "usual": (usual, "mm"),
            },
            ways=lambda i=i, held=held, usual=usual: [_as_wide(i, held, usual)],  # type: ignore[misc]
        )


def _as_wide(i: int, held: Fastening, usual: float) -> Remedy:
    """The usual width, about the same middle."""
    x, y, z = held.body.size_mm
    at = np.asarray(held.body.position_mm) + np.array([(x - usual) / 2, (y - usual) / 2, 0.0])
    body = held.body.model_copy(
        update={"size_mm": (usual, usual, z), "position_mm": tuple(round(float(v), 2) for v in at)}
    )
    return Remedy(
        label=say("way.make-it-wide", usual=(usual, "mm")), patch=[replace(f"/enclosure/fastenings/{i}/body", body)]
    )


def sharp_near_pouch(bench: TrialBench) -> Iterator[Found]:
    """A screw, an insert or a nut so near a pouch cell that it can reach it, once it has swollen or slipped."""
    battery = bench.design.battery
    cell = next((p for p in bench.fit.placed if p.pointer == "/battery"), None)
    if battery.cell.form != "pouch" or cell is None:
        return
    for i, held in enumerate(bench.design.enclosure.fastenings):
        if held.kind not in SHARP:
            continue
        post = next(p for p in bench.fit.placed if p.pointer == f"/enclosure/fastenings/{i}")
        gap = _gap(post, cell)
        if gap >= FROM_A_POUCH_MM - 1e-6:
            continue
        yield Found(
            code="sharp-near-pouch",
            severity="fix",
            step="fit",
            where=f"/enclosure/fastenings/{i}",
            facts={
                "gap": (abs(gap), "mm"),
                "wanted": (FROM_A_POUCH_MM, "mm"),
                "held": held.name,
                "inside": gap < 0,
                "cell": battery.cell.name,
            },
            ways=lambda i=i, held=held: [_elsewhere(bench, i, held)],  # type: ignore[misc]
        )


def _gap(post: Placed, cell: Placed) -> float:
    return min(distance_mm(post.solid, piece)[0] for piece in cell.pieces)


def _elsewhere(bench: TrialBench, i: int, held: Fastening) -> Remedy | None:
    """The nearest corner's nearest free place, off the pouch."""
    design = bench.design
    pointer = f"/enclosure/fastenings/{i}"
    outer = np.asarray(design.enclosure.outer_mm)
    x, y, _ = held.body.size_mm
    at = np.asarray(held.body.position_mm)
    corner = tuple(int(at[k] + held.body.size_mm[k] / 2 > outer[k] / 2) for k in (0, 1))
    place = nearest_place(design, (x, y), corner, taken_boxes(design, pointer))  # type: ignore[arg-type]
    if place is None:
        return None
    moved = held.body.model_copy(update={"position_mm": (*place, float(at[2]))})
    return Remedy(
        label=say("way.move-to-mm", held=held.name, place=(place[0], ""), place_2=(place[1], "")),
        patch=[replace(f"{pointer}/body", moved)],
    )
