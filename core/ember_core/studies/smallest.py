"""The smallest case of its kind that holds everything: found by arranging all anew in ever smaller ones."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Annotated

from pydantic import Field

from ..design import Design, Enclosure, Size
from ..design.patches import apply_patch, replace
from ..design.problems import DocumentError
from ..enclosure.bodies import things
from ..enclosure.fit import contact_status, met_by
from ..enclosure.placing import has_room, place_all
from ..figures import PatchOperation, Remedy, record
from ..measures.bench import TrialBench
from ..words import say
from .judging import Judged
from .placing import QUICK_TRIES, warm_w
from .trials import Held, tried

STEP_MM = 1.0
LEAST_MM = 8.0
LARGER = (1.0, 1.15, 1.35, 1.6, 2.0, 3.0)  # times each side, until everything has room
LARGER_AGAIN = (
    0.0,
    0.15,
    0.35,
    0.65,
    1.0,
)  # of the way back, until nothing that has to be stopped or fixed comes with it
ORDERS = ((0, 1, 2), (2, 1, 0))  # in which the sides are made smaller
MOST_BODIES = 40
TRIES = 12
WORTH = 0.97  # of the room that the case takes now: less than that is no smaller case
NAMED = 2


@record
class SmallestCase:
    """`outer_mm` is null where none is found, or the one that is there is as small as it gets. `remedy` takes it over with everything in its place."""

    sentence: str
    outer_mm: Size | None
    share: Annotated[float | None, Field(description="of the room that the case takes now")]
    remedy: Remedy | None
    worse: Annotated[list[str], Field(description="what gets worse by it")]


def answer_smallest(bench: TrialBench) -> SmallestCase:
    """A box with the walls, the clearances and what is made on it as they are; whole millimetres, as the quick arrangement finds them, not the proven least."""
    design = bench.design
    if design.enclosure.shape is not None:
        return _none(say("smallest.from-a-file"))
    bodies = [t for t in things(design) if t.body is not None and not t.of_the_case]
    if not bodies or len(bodies) > MOST_BODIES:
        return _none(say("smallest.nothing" if not bodies else "smallest.too-many", most=MOST_BODIES))
    start = next((o for o in _larger(design) if _goes_in(design, o)), None)
    if start is None:
        return _none(say("smallest.not-found"))
    least = min((_shrunk(design, start, order) for order in ORDERS), key=math.prod)
    sizeless = {t.pointer: t.name for t in things(design) if t.body is None}
    loose = [name for pointer, name in bench.fit.unplaced if pointer not in sizeless]
    closes = not loose and all(contact_status(c) != "fail" for c in bench.fit.contacts)
    now, before, against = design.enclosure.outer_mm, Judged(_unlettered(bench)), ""
    for share in LARGER_AGAIN:
        outer = _between(least, start, share)
        taken = math.prod(outer) / math.prod(now)
        if closes and taken > WORTH:
            break
        patch = _arranged(bench, outer)
        held = _held(before, outer, patch)
        if held is not None and not held.bars:
            whole = _held(Judged(bench), outer, patch)  # with its letters, that may want another place
            assert whole is not None
            sentence = say(
                "smallest.found",
                size=_size(outer),
                now=_size(now),
                share=(abs(taken - 1), "share"),
                larger=taken > 1,
                same=closes,
                way=_in_the_way(bench, loose),
                sizeless=list(sizeless.values()),
            )
            worse = list(dict.fromkeys([*whole.bars, *whole.worse]))
            return SmallestCase(sentence=sentence, outer_mm=outer, share=taken, remedy=whole.remedy, worse=worse)
        if held is not None and not against:
            against = say("smallest.against", size=_size(outer), bar=held.bars[0])
    return _none(f"{say('smallest.as-it-is' if closes else 'smallest.not-found')} {against}".strip())


def _unlettered(bench: TrialBench) -> TrialBench:
    return bench.of(apply_patch(bench.design, [replace("/enclosure/labels", [])]))


def _arranged(bench: TrialBench, outer: Size) -> list[PatchOperation] | None:
    """The gadget in a case of that size, all of it arranged anew; None where something is left out."""
    patch = _patch(bench.design, outer)
    try:
        placed = place_all(apply_patch(bench.design, patch), anew=True, tries=TRIES, warm_w=warm_w(bench))
    except DocumentError:
        return None
    return None if placed.left else [*patch, *(replace(f"{p}/body", body) for p, body in placed.bodies.items())]


def _held(before: Judged, outer: Size, patch: list[PatchOperation] | None) -> Held | None:
    return None if patch is None else tried(before, Remedy(label=say("smallest.way", size=_size(outer)), patch=patch))


def _between(least: Size, start: Size, share: float) -> Size:
    x, y, z = (math.ceil(a + share * (b - a)) for a, b in zip(least, start, strict=True))
    return x, y, z


def _none(sentence: str) -> SmallestCase:
    return SmallestCase(sentence=sentence, outer_mm=None, share=None, remedy=None, worse=[])


def _size(outer: Size) -> str:
    x, y, z = outer
    return say("smallest.size", x=(x, "mm"), y=(y, "mm"), z=(z, "mm"))


def _in_the_way(bench: TrialBench, loose: list[str]) -> list[str]:
    """What does not go in: without a place, or into something else, the first by name."""
    fit, names = bench.fit, list(loose)
    for c in fit.contacts:
        if contact_status(c) == "fail" and c.first >= 0:
            names.append(fit.placed[c.first].name)
            if c.second >= 0:
                names.append(met_by(fit, c, c.second))
    return list(dict.fromkeys(names))[:NAMED]


def _larger(design: Design) -> Iterator[Size]:
    x, y, z = design.enclosure.outer_mm
    for times in LARGER:
        yield math.ceil(x * times), math.ceil(y * times), math.ceil(z * times)


def _shrunk(design: Design, start: Size, order: tuple[int, ...]) -> Size:
    """Each side as short as there is room, one after the other, to a whole millimetre."""
    outer = list(start)
    for axis in order:
        low, high = LEAST_MM, outer[axis]
        while high - low > STEP_MM:
            middle = round((low + high) / 2)
            outer[axis] = float(middle)
            if _goes_in(design, (outer[0], outer[1], outer[2])):
                high = float(middle)
            else:
                low = float(middle)
        outer[axis] = high
    return outer[0], outer[1], outer[2]


def _goes_in(design: Design, outer: Size) -> bool:
    """Whether everything finds its place in a case of that size outside [mm]."""
    try:
        return has_room(apply_patch(design, _patch(design, outer)), QUICK_TRIES)
    except DocumentError:
        return False


def _patch(design: Design, outer: Size) -> list[PatchOperation]:
    """The case in another size: what is made on its far half moves with its far walls, what stands from its bottom to its top is as much shorter or longer."""
    case = design.enclosure
    patch = [replace("/enclosure/outer_mm", list(outer))]
    more = [b - a for a, b in zip(case.outer_mm, outer, strict=True)]
    if case.split_mm is not None and case.split_mm > case.outer_mm[2] / 2:
        patch.append(replace("/enclosure/split_mm", round(max(case.split_mm + more[2], 1.0), 2)))
    for i, fastening in enumerate(case.fastenings):
        body = fastening.body
        at, size = [*(body.position_mm or (0.0, 0.0, 0.0))], [*body.size_mm]
        for axis in range(3):
            if axis == 2 and size[2] > _inside(case) / 2:
                size[2] = round(max(size[2] + more[2], 0.5), 2)
            elif at[axis] + size[axis] / 2 > case.outer_mm[axis] / 2:
                at[axis] = round(at[axis] + more[axis], 2)
        moved = body.model_copy(update={"position_mm": (at[0], at[1], at[2]), "size_mm": (size[0], size[1], size[2])})
        if moved != body:
            patch.append(replace(f"/enclosure/fastenings/{i}/body", moved))
    return patch


def _inside(case: Enclosure) -> float:
    return case.inner_mm[2]
