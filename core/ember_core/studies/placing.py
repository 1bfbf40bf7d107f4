"""Everything placed at once: an edit that puts each body where there is room."""

from __future__ import annotations

from bisect import bisect_left

from ..design import Design
from ..design.patches import apply_patch, remove, replace
from ..design.problems import DocumentError
from ..enclosure.bodies import AXES, things
from ..enclosure.placing import has_room, place_all
from ..figures import PatchOperation, record
from ..measures.bench import TrialBench
from ..words import say


@record
class PlaceAnswer:
    """The edit, and what it leaves out: bodies without room, things without a size."""

    patch: list[PatchOperation]
    left: list[str]
    unknown: list[str]
    sentence: str


LARGER_MM = (1.0, 2.0, 3.0, 4.0, 6.0, 8.0, 10.0, 15.0, 20.0, 30.0)
MOST_TRIED = 25  # bodies up to which it is looked for what would do


def _would_do(design: Design) -> str:
    """The least that makes room for all: so much more along one axis, or a board without its pins; empty where nothing of that is enough."""
    if sum(t.body is not None for t in things(design)) > MOST_TRIED or design.enclosure.shape is not None:
        return ""
    ways: list[tuple[float, str]] = []
    for axis in range(3):

        def roomy(more: float, axis: int = axis) -> bool:
            outer = [v + (more if k == axis else 0.0) for k, v in enumerate(design.enclosure.outer_mm)]
            return _has_room(design, [replace("/enclosure/outer_mm", outer)])

        k = bisect_left(LARGER_MM, True, key=roomy)
        if k < len(LARGER_MM):
            ways.append((LARGER_MM[k], say("would-do.larger", more=(LARGER_MM[k], "mm"), axis=AXES[axis])))
    if ways:
        return min(ways)[1]
    for p, part in enumerate(design.parts):
        for k, block in enumerate(part.body.blocks if part.body else []):
            if block.spare and k and _has_room(design, [remove(f"/parts/{p}/body/blocks/{k}")]):
                return say("would-do.bare", block=block.name, part=part.name)
    return ""


def _has_room(design: Design, patch: list[PatchOperation]) -> bool:
    try:
        return has_room(apply_patch(design, patch), QUICK_TRIES)
    except DocumentError:
        return False


QUICK_TRIES = 4
WARM_W = 0.1  # of what burns less it does not matter where it is


def warm_w(bench: TrialBench) -> dict[str, float]:
    """What burns in any mode, or in the charger while it charges, at most [W]."""
    if not bench.design.parts:
        return {}
    burnt = {n.pointer: float(w.max(initial=0.0)) for n, w in zip(bench.warmth.nodes, bench.warmth.node_w, strict=True)}
    if bench.design.charger is not None:
        burnt["/charger"] = max(burnt.get("/charger", 0.0), bench.warmth.charging_w)
    return {pointer: watts for pointer, watts in burnt.items() if watts >= WARM_W}


def answer_place(bench: TrialBench, anew: bool = False) -> PlaceAnswer:
    """Places what has no place yet, or everything `anew`."""
    found = place_all(bench.design, anew=anew, warm_w=warm_w(bench))
    patch = [replace(f"{pointer}/body", body) for pointer, body in found.bodies.items()]
    said = [say("placed.placed", count=len(patch)) if patch else say("placed.nothing")]
    if found.left:
        said.append(say("placed.no-room", names=found.left, do=_would_do(bench.design)))
    if found.unknown:
        said.append(say("placed.no-size", names=found.unknown))
    return PlaceAnswer(patch=patch, left=found.left, unknown=found.unknown, sentence=" ".join(said))
