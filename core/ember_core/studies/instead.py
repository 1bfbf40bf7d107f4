"""Another part in a part's place: what is kept beside it and what the catalogue has of its kind, each put in, supplied, and judged whole."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Annotated

import numpy as np
from pydantic import Field

from ..catalogue.search import search
from ..design import Body, Design, Origin, Part, Phase, Use
from ..design.basics import fresh_id
from ..design.patches import add, apply_patch, remove, replace
from ..design.problems import DocumentError
from ..enclosure.placing import moved_free
from ..figures import Figure, PatchOperation, Remedy, figure, record
from ..imports.parts_list import busy_state, resting_state
from ..load.operating_points import part_current
from ..measures.bench import TrialBench
from ..measures.edits import left_over, placed, remove_stages
from ..measures.selection import cut_by, making, raw_feed
from ..supply.nominal import nominal_rail_v
from ..words import called, say
from .judging import Judged
from .rail import window
from .trials import Held, marks_of, tried

MOST_JUDGED = 12  # the rest by its name
WORK = 1200  # parts times those that are judged, within the time of an answer
MOST_BESIDE = 4
WHOLE = "the gadget with it in the other's place, evaluated whole"


@record
class InsteadRow:
    """A part in the place of another. `beside`: it is kept there already. `saved` is the runtime that it brings."""

    name: str
    beside: bool
    now: bool
    fits: bool
    reasons: list[str]
    marks: Annotated[list[str], Field(description="what it asks for or does, in a few words each")]
    runtime: Figure
    mass: Figure
    cost: Figure
    supplied: Annotated[str, Field(description="by which rail, and what of the supply goes or comes with it")]
    remedy: Remedy
    keep: Annotated[
        Remedy | None, Field(description="keeps it beside the part; null: it is there, or there is no more room for it")
    ]


@record
class InsteadAnswer:
    rows: list[InsteadRow]
    more: Annotated[int, Field(description="others of its kind that were not tried: more of the name tells which")]


def answer_instead(bench: TrialBench, p: int, text: str = "") -> InsteadAnswer:
    """What may stand in for a part: those kept beside it, then those of the catalogue of its kind (that match `text`), the longest runtime first."""
    part, before = bench.design.parts[p], Judged(bench)
    others, more = _others(bench, part, text)
    rows = [row for other, beside in others if (row := _row(before, p, other, beside=beside)) is not None]
    rows.sort(key=lambda r: (not r.beside, not r.fits, -(r.runtime.value or 0.0), r.name))
    return InsteadAnswer(rows=[_present(bench, p), *rows], more=more)


def _others(bench: TrialBench, part: Part, text: str) -> tuple[list[tuple[Part, bool]], int]:
    """(parts to try, whether each is kept beside; how many are left out)."""
    kept = [(x, True) for x in part.alternatives]
    known = {part.name, *(x.name for x in part.alternatives)}
    entries = [e for e in bench.catalogue.entries if e.part and e.part.kind == part.kind and e.part.name not in known]
    own = _words(part)
    alike = sorted(entries, key=lambda e: -len(own & _words(e.part)) if e.part else 0)
    found = search(entries, text) if text.strip() else alike
    most = int(np.clip(WORK // len(bench.design.parts), 2, MOST_JUDGED))
    taken = [
        (e.part.model_copy(update={"origin": Origin(key=e.key, edition=e.edition)}), False)
        for e in found[: max(most - len(kept), 0)]
        if e.part
    ]
    return kept + taken, max(len(found) - len(taken), 0)


def _words(part: Part) -> set[str]:
    """What a part's name says of its kind: small displays before large ones, a display before a clock."""
    return {w for w in re.findall(r"[a-z]{3,}", part.name.lower()) if w not in ("with", "and", "the", "for")}


def _figures(bench: TrialBench, hours: Figure, part: Part) -> dict[str, Figure]:
    currency = bench.design.brief.currency
    count: list[tuple[str, float | None, str]] = [(called("of-them"), float(part.quantity), "")]
    return {
        "runtime": hours,
        "mass": figure(
            "parts-mass", part.mass_g * part.quantity, "g", [*count, (called("each"), part.mass_g, "g")], WHOLE
        ),
        "cost": figure(
            "parts-cost", part.cost * part.quantity, currency, [*count, (called("each"), part.cost, currency)], WHOLE
        ),
    }


def _present(bench: TrialBench, p: int) -> InsteadRow:
    part, total = bench.design.parts[p], bench.runtime_s / 3600
    hours = figure("runtime-with-it", total, "h", [(called("now"), total, "h")], WHOLE)
    return InsteadRow(
        name=part.name, beside=False, now=True, fits=True, reasons=[], marks=[], supplied="", keep=None,
        remedy=Remedy(label=part.name, patch=[]), **_figures(bench, hours, part),
    )  # fmt: skip


def _row(before: Judged, p: int, other: Part, *, beside: bool) -> InsteadRow | None:
    bench = before.bench
    part = bench.design.parts[p]
    patch, supplied = in_its_place(bench, p, other)
    held = tried(before, Remedy(label=say("instead.way", part=other.name, instead=part.name), patch=patch))
    if held is None:
        return None
    now, then = bench.runtime_s / 3600, held.after.bench.runtime_s / 3600
    hours = figure("runtime-with-it", then, "h", [(called("now"), now, "h"), (called("then"), then, "h")], WHOLE)
    room = not beside and len(part.alternatives) < MOST_BESIDE
    keep = [*part.alternatives, _beside(other, part.id)]
    return InsteadRow(
        name=other.name,
        beside=beside,
        now=False,
        fits=not held.bars,
        reasons=[b.rstrip(".") for b in held.bars],
        marks=marks_of([(_short(b, other), b) for b in held.bars]) or _marks(held, supplied),
        supplied=supplied,
        remedy=held.remedy,
        keep=Remedy(label=say("instead.keep", part=other.name), patch=[replace(f"/parts/{p}/alternatives", keep)])
        if room
        else None,
        **_figures(bench, hours, other.model_copy(update={"quantity": part.quantity})),
    )


def _short(bar: str, other: Part) -> str:
    text = bar.rstrip(".").replace(other.name, "it")
    return text[:1].lower() + text[1:]


def _marks(held: Held, supplied: str) -> list[str]:
    return [m for m in (supplied, *held.marks) if m][:3]


def _beside(part: Part, name: str) -> Part:
    """A part as it is kept beside another: by that one's id, with none beside it in turn."""
    return part.model_copy(update={"id": name, "alternatives": []})


def in_its_place(bench: TrialBench, p: int, other: Part) -> tuple[list[PatchOperation], str]:
    """(the edit that puts a part in another's place, what it does to the supply in words). Its states stand in for the former's: by their names, else the
    calmest for the calmest and the busiest for the busiest; it lies where the former did, or nearby; that one is kept beside it."""
    design = bench.design
    old = design.parts[p]
    rail, before, after, supplied = _supplied(bench, p, other)
    kept = [x for x in old.alternatives if x.name != other.name]
    new = other.model_copy(
        update={
            "id": old.id, "rail": rail, "quantity": old.quantity, "outside": old.outside, "way": old.way, "grid": old.grid,
            "body": _body(old.body, other.body), "alternatives": [_beside(old, old.id), *kept][:MOST_BESIDE],
        }
    )  # fmt: skip
    patch = [*before, replace(f"/parts/{p}", new), *_uses(design, old, new), *after]
    try:
        changed = apply_patch(design, patch)
    except DocumentError:
        return patch, supplied
    free = moved_free(changed, f"/parts/{p}")
    if free is not None and free != new.body:
        patch.append(replace(f"/parts/{p}/body", free))
    return patch, supplied


def _body(old: Body | None, new: Body | None) -> Body | None:
    if old is None or new is None:
        return new
    window = new.window or old.window if old.through else None
    return new.model_copy(
        update={"position_mm": old.position_mm, "through": old.through, "on": old.on, "window": window}
    )


def _uses(design: Design, old: Part, new: Part) -> Iterator[PatchOperation]:
    """The modes with the new part's states."""
    states = matching_states(old, new)
    for m, mode in enumerate(design.modes):
        for u, use in enumerate(mode.uses):
            if use.part == old.id:
                yield replace(f"/modes/{m}/uses/{u}", _use(use, states))


def _use(use: Use, states: dict[str, str]) -> Use:
    return use.model_copy(
        update={
            "state": states[use.state],
            "rest": None if use.rest is None else states[use.rest],
            "burst": [Phase(state=states[x.state], seconds=x.seconds) for x in use.burst],
        }
    )


def matching_states(old: Part, new: Part) -> dict[str, str]:
    """Which state of a part stands in for each of another's: of the same name; the resting one, the one at work; else the one at the same place between them."""
    named = {s.name.lower(): s.name for s in new.states}
    rising = sorted(new.states, key=lambda s: part_current(s, 3.3))
    order = sorted(old.states, key=lambda s: part_current(s, 3.3))
    found = {}
    for k, state in enumerate(order):
        if state.name.lower() in named:
            found[state.name] = named[state.name.lower()]
        elif state.name == resting_state(old):
            found[state.name] = resting_state(new)
        elif state.name == busy_state(old):
            found[state.name] = busy_state(new)
        else:
            share = k / max(len(order) - 1, 1)
            found[state.name] = rising[round(share * (len(rising) - 1))].name
    return found


def _supplied(bench: TrialBench, p: int, other: Part) -> tuple[str, list[PatchOperation], list[PatchOperation], str]:
    """(its rail, what is done to the supply before it is there and after, in words): the former's rail where that suits, else another one behind the same switches, else a
    new one; a rail that nothing hangs on any more goes with what made it."""
    design = bench.design
    old = design.parts[p]
    low, high = window([other])
    here = design.index.rails[old.rail]
    usual = nominal_rail_v(bench.usual.tree, bench.usual.pack.open_circuit_v[bench.middle])
    suits = [r for r in range(len(design.supply.rails)) if low <= usual[r] and float(bench.highest_rail_v[r]) <= high]
    if here in suits or (not suits and other.supply_min_v is None):
        return old.rail, [], [], ""
    path = cut_by(bench, design.supply.rails[here].feed)
    same = [r for r in suits if cut_by(bench, design.supply.rails[r].feed) == path]
    gone, names = _emptied(design, p)
    if same:
        rail = design.supply.rails[same[0]]
        said = say("instead.on-rail", rail=rail.name, gone=names)
        return rail.id, [], gone, said
    feed = raw_feed(bench, design.supply.rails[here].feed)
    peak = max((part_current(s, low or 3.3, "max") for s in other.states), default=0.0)
    peak = max(peak, other.peak.current_a if other.peak else 0.0) * old.quantity
    stages = sorted(
        making(bench.catalogue, (low, high), peak, bench.highest_v(feed)), key=lambda s: (s.quiescent_a, s.cost)
    )
    if not stages:
        return old.rail, [], [], ""
    stage = placed(design, stages[0], feed)
    rail_id = fresh_id(f"{old.id}-rail"[:50], {r.id for r in design.supply.rails})
    new = [
        add("/supply/stages/-", stage),
        add("/supply/rails/-", {"id": rail_id, "name": say("instead.rail", part=other.name)[:120], "feed": stage.id}),
    ]
    return rail_id, new, gone, say("instead.new-rail", stage=stage.name, gone=names)


def _emptied(design: Design, p: int) -> tuple[list[PatchOperation], list[str]]:
    """(what takes the rail of a part away that nothing else hangs on, the names of the stages that go with it)."""
    rail = design.supply.rails[design.index.rails[design.parts[p].rail]]
    if any(x.rail == rail.id for i, x in enumerate(design.parts) if i != p):
        return [], []
    stages = left_over(design, rail.feed, {rail.id})
    named = [s.name for s in design.supply.stages if s.id in stages]
    return [remove(f"/supply/rails/{design.index.rails[rail.id]}"), *remove_stages(design, stages)], named
