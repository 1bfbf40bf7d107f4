"""The exact set of supplies that no other beats: bounded where that is proven to lose none, solved where it is not.

A design is beaten by another that is refilled the same way where it lasts no longer when coldest, and costs, weighs, needs no less room and no fewer
hours of charge. What is left out unsolved is beaten by one that was solved even if it lasted as long as it at most could.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from ..battery.chemistry import CHEMISTRIES
from ..battery.pack import Pack, pack_at
from ..design.problems import DocumentError
from ..design.references import build_design
from ..measures.bench import TrialBench
from ..numeric import Array
from ..reports.fit import totals_report
from ..runtime.ends import shelf_s
from ..runtime.run import Run, with_battery
from ..supply.tree import build_tree
from ..words import say
from .branches import Chosen, Filled, Floors, IdealSource, floors_of, not_beaten, the_rest, together, ways_of
from .space import AIMS, NONE, REFILLS, Added, ChargerWay, PackWay, Space, filled, groups_of

SAME = 0.01  # of the runtime, and of what the whole gadget costs, weighs and needs: less than that is no difference
SAME_H = 0.1
UNSURE = (
    0.02  # by how much more one of a pack's supplies may come to of its bound than the one that was worked out first
)
MOST_TRIED = 3  # supplies of a pack until one works
MOST_OF_A_GROUP = 3000  # ways to fill places that hang on one another
MOST_FILLINGS = 4000  # of the whole supply, after what no pack could want is gone


class TooMany(Exception):
    """More ways to fill places that hang together than can be looked at: how many, and where."""

    def __init__(self, count: int, places: list[str]) -> None:
        super().__init__(count, places)
        self.count, self.places = count, places


@dataclass(frozen=True)
class Candidate:
    """A supply that was solved: runtime at the coldest temperature and typical figures [s]; `statics` are its cost, mass [g], room [cm3] and hours of
    charge at the set current, 0 where that is no aim."""

    pack: PackWay
    charger: ChargerWay
    number: int
    filling: int
    seconds: float
    statics: Array

    @property
    def key(self) -> tuple[int, int]:
        return self.number, self.filling


@dataclass(frozen=True)
class Searched:
    """`front` are the designs that no other beats; `combinations` were looked at, `solved` of them worked out. `why` says of a pack that is
    on no front design why, by its name."""

    front: list[Candidate]
    fillings: list[Filled]
    combinations: int
    solved: int
    why: dict[str, str]


@dataclass(frozen=True)
class Search:
    """`most`: what cost, mass [g], room [cm3] and hours of charge may be of what is chosen, (aims,)."""

    bench: TrialBench
    space: Space
    most: Array

    @cached_property
    def source(self) -> IdealSource:
        return IdealSource(
            self.space.bare,
            self.space.aims,
            max((self.top_v(p, c) for p in self.space.packs for c in p.chargers), default=1.0),
        )

    @staticmethod
    def top_v(pack: PackWay, charger: ChargerWay) -> float:
        return round(max(pack.top_v, charger.plugged_v), 3)

    @cached_property
    def same(self) -> Array:
        """What in each of the aims is too little to count, (aims,): a hundredth of the gadget as it stands, and some minutes of charge."""
        totals, (x, y, z) = totals_report(self.bench), self.bench.design.enclosure.outer_mm
        whole = (totals.cost.value or 0.0, totals.mass.value or 0.0, x * y * z / 1000)
        return np.array([*(SAME * v for v in whole), SAME_H])

    @cached_property
    def tops(self) -> list[float]:
        return sorted({self.top_v(p, c) for p in self.space.packs for c in p.chargers})

    @cached_property
    def fillings(self) -> list[Filled]:
        """The ways to fill the supply that no other beats."""
        space, source = self.space, self.source
        groups = groups_of(space.bare, space.places)
        for group in groups:
            self._allow(math.prod(len(space.places[p].options) for p in group), MOST_OF_A_GROUP, group)
        rest = the_rest(space, groups, source, self.tops)
        ways = [
            not_beaten(ways_of(space, g, source, self.tops), source, rest.fails_v, Added(*self.same[:3].tolist()))
            for g in groups
        ]
        self._allow(math.prod(len(w) for w in ways), MOST_FILLINGS, range(len(space.places)))
        return together(ways, rest)

    def _allow(self, count: int, most: int, places: Iterable[int]) -> None:
        if count > most:
            raise TooMany(count, [self.space.places[p].name for p in places])

    @cached_property
    def _template(self) -> Run:
        return self.bench.usual

    @cached_property
    def _runs(self) -> dict[tuple[int, Chosen], Run | None]:
        return {}

    @cached_property
    def _trees(self) -> dict[Chosen, Run | None]:
        return {}

    def _gadget(self, chosen: Chosen) -> Run | None:
        """The gadget with its places filled, not yet solved on a battery; None where it is no design."""
        if chosen not in self._trees:
            try:
                design = build_design(filled(self.space.bare, self.space.places, chosen).model_dump(mode="json"))
                self._trees[chosen] = replace(self._template, design=design, tree=build_tree(design))
            except DocumentError:
                self._trees[chosen] = None
        return self._trees[chosen]

    def run(self, number: int, chosen: Chosen, charger: ChargerWay) -> Run | None:
        """A pack (by its number) with the supply filled, at the coldest temperature; None where it is no design."""
        key = (number, chosen)
        if key not in self._runs:
            gadget, battery = self._gadget(chosen), self.space.packs[number].battery
            self._runs[key] = (
                None if gadget is None else with_battery(gadget, battery, self.bench.design.brief.coldest_c)
            )
        state = self._runs[key]
        if state is None or not charger.unplugged_a:
            return state
        return replace(
            state, pack=replace(state.pack, self_discharge_a=state.pack.self_discharge_a + charger.unplugged_a)
        )

    @cached_property
    def floors(self) -> Floors:
        return floors_of(self.fillings, self.source)

    @cached_property
    def batteries(self) -> list[Pack]:
        """Each pack at the coldest; what it loses by itself is left out where that falls with the years."""
        found = []
        for way in self.space.packs:
            pack = pack_at(way.battery, self.bench.design.brief.coldest_c)
            flattens = CHEMISTRIES[way.battery.cell.chemistry].flattens
            found.append(replace(pack, self_discharge_a=0.0) if flattens else pack)
        return found

    @cached_property
    def keeps_s(self) -> list[float]:
        return [shelf_s(p.battery) for p in self.space.packs]

    @cached_property
    def stands(self) -> Array:
        """What each filling stands at the battery [V], (fillings,)."""
        return np.array([f.stands_v for f in self.fillings])

    @cached_property
    def regulates(self) -> Array:
        """What each filling needs at half charge [V], (fillings,)."""
        return np.array([f.regulates_v for f in self.fillings])

    @cached_property
    def own(self) -> Array:
        """What each filling costs, weighs and needs, (fillings, aims)."""
        adds = [(f.adds.cost, f.adds.mass_g, f.adds.room_cm3, 0.0) for f in self.fillings]
        return np.array(adds).reshape(-1, len(AIMS))

    def size(self, row: Candidate) -> float:
        """How much of what counts a supply has, in all."""
        return float((row.statics / np.maximum(self.same, 1e-9)).sum())

    @property
    def order(self) -> list[int]:
        """The packs by their numbers, the smallest first."""
        counts = np.array([aim in self.space.aims for aim in AIMS[:3]])
        adds = (
            np.array([(p.adds.cost, p.adds.mass_g, p.adds.room_cm3) for p in self.space.packs]).reshape(-1, 3) * counts
        )
        return list(np.argsort((adds / np.maximum(self.same[:3], 1e-9)).sum(axis=1), kind="stable").tolist())

    @property
    def solved(self) -> int:
        return len(self._runs)

    def longest_s(self, number: int) -> Array:
        """The longest that a pack could last with each filling, at first sight [s], (fillings,)."""
        return np.minimum(self.floors.longest_s(self.batteries[number]), self.keeps_s[number])

    def share(self, number: int, bound: Array) -> float:
        """How much of its bound at first sight a supply of a pack comes to about, by the one that it is highest of; 0 where none works."""
        pack = self.batteries[number]
        steady = replace(pack, resistance_ohm=pack.steady_ohm)
        for k in np.argsort(-bound, kind="stable").tolist()[:MOST_TRIED]:
            if bound[k] <= 0:
                break
            near = self.floors.closer_s(k, steady)
            if near > 0:
                mean_a = pack.capacity_ah * 3600 / near
                left = max(1 - float(pack.unavailable_ah(np.asarray(mean_a))) / pack.capacity_ah, 0.0)
                if left > 0:
                    return min(near * left, self.keeps_s[number]) / float(bound[k])
            state = self.run(
                number, self.fillings[k].chosen, NONE
            )  # a peak is shorter than what a steady current brings about
            if state is not None and not out_of(state):
                return float(state.seconds / bound[k])
        return 0.0


def out_of(state: Run) -> str:
    """What keeps a solved supply out; "" where nothing does."""
    if state.bank_off is not None:
        return say("choice.switches-off", mode=state.design.modes[state.bank_off.mode].name)
    for mode, failure, share in zip(state.design.modes, state.failures, state.shares, strict=True):
        if failure.charge >= 1 and mode.essential and share > 0:
            return say("choice.no-mode", mode=mode.name)
    peak = state.peak_a[0]
    if peak > state.pack.discharge_max_a:
        return say("choice.peak", peak=(peak, "A"), most=(state.pack.discharge_max_a, "A"))
    return ""


class _Archive:
    """What no other beats so far, of one way of refilling."""

    def __init__(self, same: Array) -> None:
        self.same = same
        self.statics = np.empty((0, len(AIMS)))
        self.seconds = np.empty(0)
        self.rows: list[Candidate] = []

    def beaten_by(self, statics: Array, seconds: float) -> Candidate | None:
        """One that beats it."""
        found = np.flatnonzero(
            (self.seconds >= seconds * (1 - SAME)) & np.all(self.statics <= statics + self.same, axis=1)
        )
        return self.rows[int(found[0])] if found.size else None

    def take(self, row: Candidate) -> None:
        kept = ~((self.seconds <= row.seconds) & np.all(self.statics >= row.statics, axis=1))
        self.rows = [r for r, keep in zip(self.rows, kept, strict=True) if keep] + [row]
        self.statics = np.vstack([self.statics[kept], row.statics])
        self.seconds = np.append(self.seconds[kept], row.seconds)


def search(bench: TrialBench, space: Space, most: Array | None = None) -> Searched:
    """The supplies that no other beats, of those within what `most` allows (see `Search`). Raises TooMany."""
    task, why = Search(bench, space, np.full(len(AIMS), np.inf) if most is None else most), dict[str, str]()
    told = {refill: _Archive(task.same) for refill in REFILLS}
    for number in task.order:
        pack = space.packs[number]
        rows, reason = _of_pack(task, number, told[pack.refill])
        if reason:
            why.setdefault(pack.name, reason)
        for row in rows:
            by = told[pack.refill].beaten_by(row.statics, row.seconds * (1 + UNSURE))
            if by is None:
                told[pack.refill].take(row)
            else:
                why.setdefault(pack.name, _beaten(by))
    front = list[Candidate]()
    for archive in told.values():
        exact = _Archive(task.same)
        for told_row in sorted(archive.rows, key=task.size):
            state = task.run(told_row.number, task.fillings[told_row.filling].chosen, told_row.charger)
            out = say("choice.no-supply") if state is None else out_of(state)
            by = None if state is None or out else exact.beaten_by(told_row.statics, state.seconds)
            if state is None or out or by is not None:
                why.setdefault(told_row.pack.name, out if by is None else _beaten(by))
            else:
                exact.take(replace(told_row, seconds=state.seconds))
        front += exact.rows
    on = {row.pack.name for row in front}
    for pack in space.packs:
        why.setdefault(pack.name, say("choice.weak"))
    return Searched(
        front,
        task.fillings,
        space.combinations,
        task.solved,
        {name: text for name, text in why.items() if name not in on},
    )


def _of_pack(task: Search, number: int, archive: _Archive) -> tuple[list[Candidate], str]:
    """The supplies of one pack that none of its own nor of the others beats so far, by what they are told to last; and why there are none."""
    space, pack, fillings = task.space, task.space.packs[number], task.fillings
    bound = task.longest_s(number)
    statics, which, beyond = [], [], False
    counts = np.array([aim in space.aims for aim in AIMS])
    for c, charger in enumerate(pack.chargers):
        able = np.flatnonzero(
            (bound > 0) & (task.stands >= task.top_v(pack, charger)) & (task.regulates <= pack.half_v)
        )
        adds = pack.adds + charger.adds
        whole = task.own[able] + np.array([adds.cost, adds.mass_g, adds.room_cm3, charger.hours])
        within = np.all(whole <= task.most, axis=1)
        beyond |= bool(np.any(~within))
        statics.append(whole[within] * counts)
        which.append(np.column_stack([able, np.full(able.size, c)])[within])
    table, number_of = np.concatenate(statics), np.concatenate(which)
    if not len(table):
        return [], say("choice.beyond" if beyond else "choice.no-supply")
    longest = bound[number_of[:, 0]]
    by = archive.beaten_by(table.min(axis=0), float(longest.max()))
    if by is not None:
        return [], _beaten(by)
    order = np.lexsort((-longest, (table / np.maximum(task.same, 1e-9) * counts).sum(axis=1)))
    table, number_of, longest = table[order], number_of[order], longest[order]
    alive = np.ones(len(table), dtype=bool)
    left = np.unique(number_of[alive, 0])
    begins = left[task.floors.begins(left, task.batteries[number])]
    alive &= np.isin(number_of[:, 0], begins)
    share = task.share(number, np.where(np.isin(np.arange(len(fillings)), begins), bound, 0.0)) if begins.size else 0.0
    if share <= 0:
        return [], say("choice.weak")
    seconds, rows = longest * share, []
    for i in range(len(table)):
        if not alive[i]:
            continue
        charger = pack.chargers[int(number_of[i, 1])]
        lasts = float(1 / (1 / seconds[i] + charger.unplugged_a / (task.batteries[number].capacity_ah * 3600)))
        rows.append(Candidate(pack, charger, number, int(number_of[i, 0]), lasts, table[i]))
        alive &= ~((seconds * (1 + UNSURE - SAME) <= lasts) & np.all(table + task.same >= table[i], axis=1))
        alive[i] = False
    return rows, ""


def _beaten(by: Candidate) -> str:
    return say("choice.beaten", by=by.pack.name, lasts=(by.seconds / 3600, "h"))
