"""The best of all supplies, told: a row for each with what differs from the present one, where the present one stands, and why a cell is not among them."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Annotated

import numpy as np
from pydantic import Field

from ..battery.chemistry import CHEMISTRIES
from ..design import Design
from ..design.problems import DocumentError, Problem
from ..figures import Figure, figure, record
from ..measures.bench import TrialBench
from ..numeric import Array
from ..quantities import show
from ..reports.fit import totals_report
from ..schools import SchoolAnswer, placed_in_case, school_of, told
from ..words import called, say
from .others import Gadget, gadgets, with_parts
from .places import AIMS, Added, Aim
from .search import ROUNDING, SAME, Archive, Candidate, Going, Searched, TooMany, out_of, same_of, search
from .space import NONE, REFILLS, ChargerWay, PackWay, Refill, Space, space_of, taken_over


@record
class ChoiceRow:
    """A supply that no other beats. `options` are what stands in each place of the search, "" for nothing; `stages` only those that are not there now."""

    refill: Refill
    cell: str
    series: int
    parallel: int
    pack: str
    charger: str
    setting: str
    options: list[str]
    parts: Annotated[
        list[str],
        Field(
            description="what stands in the place of each part that has others beside it; empty: the parts as they are"
        ),
    ]
    stages: list[str]
    now: bool
    runtime: Figure
    cost: Annotated[float, Field(description="of the whole gadget, in the brief's currency")]
    mass_g: Annotated[float, Field(description="of the whole gadget [g]")]
    room_cm3: Annotated[float, Field(description="of the boxes of pack, charger and stages [cm3]")]
    hours: Annotated[float | None, Field(description="capacity over the charge current [h]; null: not charged inside")]


@record
class LeftOut:
    name: str
    reason: str


@record
class ChoiceAnswer:
    """The front of runtime when coldest against all of `aims`, each way of refilling by itself; what is within a hundredth counts as the same."""

    aims: list[Aim]
    rows: list[ChoiceRow]
    present: ChoiceRow
    mine: Annotated[str, Field(description="why the present supply is not among them, or that it is")]
    note: Annotated[
        str, Field(description="that nothing stays within the limits, or that there is too much to look at; else empty")
    ]
    places: list[str]
    combinations: int
    solved: int
    left_out: Annotated[list[LeftOut], Field(description="the cells that are in no row, and why")]


@dataclass(frozen=True)
class _Searched:
    """A gadget with what was found for it; `base` as `_base` gives it."""

    gadget: Gadget
    space: Space
    base: Array
    found: Searched


@dataclass(frozen=True)
class _Whole:
    """A supply in a gadget, with what the whole costs, weighs and needs, (aims,)."""

    of: _Searched
    supply: Candidate

    @property
    def whole(self) -> Array:
        return self.supply.statics + self.of.base


def answer_choice(
    bench: TrialBench,
    aims: Sequence[Aim] = ("cost",),
    most: Mapping[Aim, float] | None = None,
    going: Going = lambda _: None,
    *,
    parts: bool = False,
) -> ChoiceAnswer:
    """The supplies of which no other lasts longer with no more of any of `aims`, of those within `most`: cost and mass of the whole gadget, room [cm3] of what
    the supply takes, hours of charge; where none is given, what the brief allows. `going` is told how far it is, 0 to 1, and may raise what ends it.
    `parts`: with each of the parts that are kept beside the gadget's own, too."""
    brief = bench.design.brief
    if most is None:
        asked: dict[Aim, float | None] = {"cost": brief.cost_max, "mass": brief.mass_max_g, "hours": brief.charge_max_h}
        most = {a: v for a, v in asked.items() if v is not None}
    limits = np.array([most.get(a, np.inf) for a in AIMS])
    every = gadgets(bench) if parts else [Gadget(bench, ())]
    searched, notes = list[_Searched](), list[str]()
    for gadget in every:
        space = space_of(gadget.bench, aims)
        searched.append(
            _Searched(gadget, space, _base(gadget.bench, space), Searched([], [], space.combinations, 0, {}))
        )
    if not bench.design.parts:
        notes.append(say("choice.no-parts"))
    else:
        searched, notes = _all_searched(searched, limits, going)
        if not any(s.found.front for s in searched) and np.any(np.isfinite(limits)):
            searched, notes = _all_searched(searched, np.full(len(AIMS), np.inf), going)
            notes.insert(0, say("choice.nothing"))
        if not notes and not any(s.found.front for s in searched):
            notes.append(say("choice.nothing-at-all"))
    front = sorted(_not_beaten(searched), key=lambda w: -w.supply.seconds)
    first = searched[0]
    present = _present(bench, first.space)
    on = {w.supply.pack.battery.cell.name for w in front}
    reasons = {n: why for n, why in (first.found.why | first.space.left_out).items() if n not in on} if front else {}
    return ChoiceAnswer(
        aims=list(dict.fromkeys(aims)),
        rows=[_row(bench, w) for w in front],
        present=present,
        mine=_mine(bench, front, present, aims, limits) if front else "",
        note=" ".join(dict.fromkeys(notes)),
        places=[p.name for p in first.space.places],
        combinations=sum(s.space.combinations for s in searched),
        solved=sum(s.found.solved for s in searched),
        left_out=[LeftOut(name=n, reason=r) for n, r in sorted(reasons.items())],
    )


def _all_searched(searched: list[_Searched], limits: Array, going: Going) -> tuple[list[_Searched], list[str]]:
    """(each gadget searched within the limits of the whole, what there was too much of)."""
    done, notes, count = list[_Searched](), list[str](), len(searched)
    for k, own in enumerate(searched):
        try:
            found = search(own.gadget.bench, own.space, limits - own.base, lambda x, k=k: going((k + x) / count))  # type: ignore[misc]
            done.append(replace(own, found=found))
        except TooMany as error:
            notes.append(say("choice.too-many", count=(error.count, ""), places=", ".join(error.places)))
            done.append(own)
    return done, notes


def _not_beaten(searched: list[_Searched]) -> list[_Whole]:
    """Of all gadgets the supplies that no other beats."""
    every = [_Whole(own, c) for own in searched for c in own.found.front]
    if len(searched) == 1:
        return every
    counts = np.array([aim in searched[0].space.aims for aim in AIMS])
    same = same_of(searched[0].gadget.bench)
    archives, of = {refill: Archive(same) for refill in REFILLS}, dict[int, _Whole]()
    for row in sorted(every, key=lambda w: float((w.whole * counts / np.maximum(same, 1e-9)).sum())):
        one = replace(row.supply, statics=row.whole * counts)
        archive = archives[one.pack.refill]
        if archive.beaten_by(one.statics, one.seconds) is None:
            archive.take(one)
            of[id(one)] = row
    return [of[id(one)] for archive in archives.values() for one in archive.rows]


def _base(bench: TrialBench, space: Space) -> Array:
    """What the gadget costs [currency] and weighs [g] without all that the search chooses; its room and hours are only what is chosen."""
    design, totals = bench.design, totals_report(bench)
    pack, charger = _own_adds(design), design.charger
    chosen = pack + (Added.of(charger) if charger else Added())
    for place in space.places:
        chosen += place.options[0].adds
    return np.array([(totals.cost.value or 0.0) - chosen.cost, (totals.mass.value or 0.0) - chosen.mass_g, 0.0, 0.0])


def _own_adds(design: Design) -> Added:
    battery, body = design.battery, design.battery.body
    count = battery.series * battery.parallel
    room = 0.0 if body is None else float(np.prod(body.size_mm)) / 1000
    return Added(battery.cell.cost * count, battery.cell.mass_g * count, room)


def _row(bench: TrialBench, row: _Whole) -> ChoiceRow:
    own, c = row.of, row.supply
    chosen = own.found.fillings[c.filling].chosen
    options = [o for _, o in sorted(chosen)]
    adds = c.pack.adds + c.charger.adds
    for p, o in chosen:
        adds += own.space.places[p].options[o].adds
    told_of = _told(bench, own.space, c.pack, c.charger, options, c.seconds, adds, own.base)
    if not any(own.gadget.parts):
        return told_of
    beside = [p.name for p in bench.design.parts if p.alternatives]
    changed = [_change(old, new) for old, new in zip(beside, own.gadget.parts, strict=True) if new]
    return replace(told_of, parts=list(own.gadget.parts), stages=[*changed, *told_of.stages], now=False)


def _present(bench: TrialBench, space: Space) -> ChoiceRow:
    design, state = bench.design, bench.coldest
    battery, charger = design.battery, design.charger
    refill: Refill = (
        "bank"
        if battery.cell.bank
        else "charged"
        if charger
        else "swapped"
        if CHEMISTRIES[battery.cell.chemistry].rechargeable
        else "thrown"
    )
    pack = PackWay(battery, refill, _own_adds(design), 0.0, [])
    way = (
        NONE
        if charger is None
        else ChargerWay(charger, Added.of(charger), battery.cell.capacity_ah * battery.parallel / charger.set_a)
    )
    adds = pack.adds + way.adds
    for place in space.places:
        adds += place.options[0].adds
    return _told(bench, space, pack, way, [0] * len(space.places), state.seconds, adds, _base(bench, space))


def _told(
    bench: TrialBench, space: Space, pack: PackWay, charger: ChargerWay, options: list[int], seconds: float, adds: Added, base: Array
) -> ChoiceRow:  # fmt: skip
    battery, own = pack.battery, charger.charger
    names = [place.options[o].name for place, o in zip(space.places, options, strict=True)]
    is_now = battery == bench.design.battery and own == bench.design.charger and not any(options)
    return ChoiceRow(
        refill=pack.refill,
        cell=battery.cell.name,
        series=battery.series,
        parallel=battery.parallel,
        pack=pack.name,
        charger=own.name if own else "",
        setting="" if own is None else say("choice.setting", amps=(own.set_a, "A")),
        options=names,
        parts=[],
        stages=[_change(p.name, n) for p, n, o in zip(space.places, names, options, strict=True) if o],
        now=is_now,
        runtime=figure(
            "cell-at-the-coldest", seconds / 3600, "h", [(called("coldest"), bench.design.brief.coldest_c, "°C")], say("choice.source")
        ),
        cost=float(base[0]) + adds.cost,
        mass_g=float(base[1]) + adds.mass_g,
        room_cm3=adds.room_cm3,
        hours=charger.hours if own else None,
    )  # fmt: skip


def _change(place: str, option: str) -> str:
    return say("choice.in-place", place=place, option=option)


def _mine(bench: TrialBench, front: list[_Whole], present: ChoiceRow, aims: Sequence[Aim], most: Array) -> str:
    """Where the present supply stands beside those that are refilled alike."""
    state, values = bench.coldest, (present.cost, present.mass_g, present.room_cm3, present.hours or 0.0)
    if why := out_of(state):
        return say("choice.mine-not-working", why=why)
    units = (bench.design.brief.currency, "g", "cm³", "h")
    beyond = [show(v, u) for v, u, limit in zip(values, units, most, strict=True) if v > limit * (1 + ROUNDING)]
    if beyond:
        return say("choice.mine-beyond", what=", ".join(beyond))
    counts = [AIMS.index(aim) for aim in aims]
    alike = [
        w.supply
        for w in front
        if w.supply.pack.refill == present.refill and all(w.whole[k] <= values[k] * (1 + ROUNDING) for k in counts)
    ]
    best = max(alike, key=lambda c: c.seconds, default=None)
    if best is None or best.seconds <= state.seconds * (1 + SAME):
        return say("choice.mine-on-it")
    return say(
        "choice.mine-beaten",
        by=best.pack.name,
        lasts=(best.seconds / 3600, "h"),
        mine=(state.seconds / 3600, "h"),
        aim=aims[0] if len(set(aims)) == 1 else "other",
    )


def chosen_design(
    bench: TrialBench,
    cell: str,
    series: int,
    parallel: int,
    charger: str,
    options: Collection[str],
    parts: Sequence[str] = (),
) -> SchoolAnswer:
    """A row of the front as a design of its own, everything that is new put into the case as far as it goes in, and judged whole. Raises DocumentError
    where there is no such choice."""
    gadget = with_parts(bench, parts) if parts else Gadget(bench, ())
    if gadget is None:
        raise DocumentError([Problem(path="", message=say("choice.gone"))])
    own = gadget.bench
    space = space_of(own, every_charger=True)
    packs = [
        p
        for p in space.packs
        if (p.battery.cell.name, p.battery.series, p.battery.parallel) == (cell, series, parallel)
    ]
    found = [(p, c) for p in packs for c in p.chargers if (c.charger.name if c.charger else "") == charger]
    places = [[o.name for o in place.options] for place in space.places]
    if (
        not found
        or len(options) != len(places)
        or any(o not in names for o, names in zip(options, places, strict=True))
    ):
        raise DocumentError([Problem(path="", message=say("choice.gone"))])
    pack, way = found[0]
    chosen = [(p, names.index(o)) for p, (o, names) in enumerate(zip(options, places, strict=True))]
    design = placed_in_case(taken_over(own, pack, way, space.places, chosen), bench.catalogue)
    return told(school_of(design, bench.catalogue), design, bench, now=False)


def choice_shown(answer: ChoiceAnswer) -> str:
    """The front as lines of text, the longest runtime first."""
    lines = [answer.note] if answer.note else []
    for row in answer.rows:
        figures = f"{show(row.runtime.value, 'h'):>11}  {row.cost:8.2f}  {show(row.mass_g, 'g'):>8}  {show(row.room_cm3, 'cm³'):>9}"
        lines.append(f"{figures}  {'; '.join([row.pack, *([row.charger] if row.charger else []), *row.stages])}")
    return "\n".join([*lines, *([answer.mine] if answer.mine else [])])
