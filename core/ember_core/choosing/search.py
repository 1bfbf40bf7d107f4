"""The supplies that no other beats, found without working out each: what is proven to win nowhere is left out, what may win is solved.

A design is beaten by another that is refilled the same way where it lasts no longer when coldest and has no more of what counts. Stages and packs are left
out by bounds; within a pack its other supplies are told by how much of its bound a steady current leaves, with `UNSURE` as doubt (docs/MODELS.md).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from functools import cached_property, partial

import numpy as np

from ..battery.chemistry import CHEMISTRIES
from ..battery.pack import GRID_POINTS, Pack, pack_at
from ..design import Battery
from ..design.problems import DocumentError
from ..design.references import build_design
from ..measures.bench import TrialBench
from ..numeric import Array
from ..reports.fit import totals_report
from ..runtime.ends import shelf_s
from ..runtime.run import EARLY, Run, run, with_battery
from ..supply.tree import build_tree
from ..words import say
from .branches import Chosen, Filled, Floors, IdealSource, floors_of, not_beaten, the_rest, together, ways_of
from .places import AIMS, Added, filled, groups_of
from .space import REFILLS, ChargerWay, PackWay, Space

SAME = 0.01  # of the runtime, and of what the whole gadget costs, weighs and needs: less than that is no difference
SAME_H = 0.1
ROUNDING = 1e-9
UNSURE = 0.02  # by how much more than it is told one of a pack's supplies may last
MOST_TRIED = 3  # supplies of a pack until one works
WAYS_SHARE = 0.25  # of the search, about, that filling the places takes
MOST_WAYS = 3000  # ways to fill places that hang on one another, in all
MOST_FILLINGS = 4000  # of the whole supply, after what no pack could want is gone
MOST_VALUES = 30_000_000  # currents that are kept of ways or of fillings: a quarter of a gigabyte


Going = Callable[[float], None]  # is told how far the search is, 0 to 1; may raise what ends it


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


@dataclass(frozen=True)
class Searched:
    """`front` are the designs that no other beats; `combinations` were looked at, `solved` of them worked out. `why` says of a cell that is
    in none of them why, by its name."""

    front: list[Candidate]
    fillings: list[Filled]
    combinations: int
    solved: int
    why: dict[str, str]


@dataclass(frozen=True)
class Able:
    """The supplies of a pack that may be, the smallest first and of those the one that may last longest: the numbers of their filling and of their charger, what
    counts of them, (supplies, aims), the longest that they could last [s]."""

    filling: np.ndarray
    charger: np.ndarray
    statics: Array
    longest: Array

    def ordered(self, same: Array) -> Able:
        size = (self.statics / np.maximum(same, 1e-9)).sum(axis=1)
        order = np.lexsort((-self.longest, size))
        return Able(self.filling[order], self.charger[order], self.statics[order], self.longest[order])


@dataclass(frozen=True)
class Search:
    """`most`: what cost, mass [g], room [cm3] and hours of charge may be of what is chosen, (aims,)."""

    bench: TrialBench
    space: Space
    most: Array
    going: Going

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
        return same_of(self.bench)

    @cached_property
    def tops(self) -> list[float]:
        return sorted({self.top_v(p, c) for p in self.space.packs for c in p.chargers})

    @cached_property
    def fillings(self) -> list[Filled]:
        """The ways to fill the supply that no other beats."""
        space, source = self.space, self.source
        groups = groups_of(space.bare, space.places)
        counts = [math.prod(len(space.places[p].options) for p in g) for g in groups]
        kept = MOST_VALUES // (2 * len(source.points) * source.volts.size)
        self._allow(sum(counts), min(MOST_WAYS, kept), groups[int(np.argmax(counts))] if groups else [])
        rest = the_rest(space, groups, source, self.tops)
        ways, same = list[list[Filled]](), Added(*self.same[:3].tolist())
        for k, group in enumerate(groups):
            going = partial(self.going, WAYS_SHARE * k / len(groups))
            ways.append(not_beaten(ways_of(space, group, source, self.tops, going), source, rest.fails_v, same, going))
        self._allow(math.prod(len(w) for w in ways), min(MOST_FILLINGS, kept), range(len(space.places)))
        return together(ways, rest)

    def _allow(self, count: int, most: int, places: Iterable[int]) -> None:
        if count > most:
            raise TooMany(count, [self.space.places[p].name for p in places])

    @cached_property
    def _runs(self) -> dict[tuple[int, int], Run | None]:
        return {}

    @cached_property
    def _trees(self) -> dict[Chosen, Run | None]:
        return {}

    @cached_property
    def _bare(self) -> Run:
        """The gadget as the search takes it."""
        bare = self.space.bare
        return self.bench.usual if bare.supply == self.bench.design.supply else run(bare)

    def _gadget(self, chosen: Chosen) -> Run | None:
        """The gadget with its places filled, not yet solved on a battery; None where it is no design."""
        if chosen not in self._trees:
            try:
                design = build_design(filled(self.space.bare, self.space.places, chosen).model_dump(mode="json"))
                self._trees[chosen] = replace(self._bare, design=design, tree=build_tree(design))
            except DocumentError:
                self._trees[chosen] = None
        return self._trees[chosen]

    def run(self, number: int, filling: int) -> Run | None:
        """A pack with the supply filled, by their numbers, at the coldest temperature; None where it is no design."""
        key = (number, filling)
        if key not in self._runs:
            gadget = self._gadget(self.fillings[filling].chosen)
            self._runs[key] = None if gadget is None else self._solved(gadget, self.space.packs[number].battery)
        return self._runs[key]

    def _solved(self, gadget: Run, battery: Battery) -> Run:
        """On a battery at the coldest temperature; what does not work at all is not looked at closely."""
        coldest = self.bench.design.brief.coldest_c
        found = with_battery(gadget, battery, coldest, GRID_POINTS)
        return found if found.ending[1] <= EARLY or out_of(found) else with_battery(gadget, battery, coldest)

    @cached_property
    def _worst_a(self) -> Array:
        """The battery's current in the worst operating points with each filling, (fillings, points, volts)."""
        return np.array([f.amps[len(self.source.points) :] for f in self.fillings])

    def as_hard(self, filling: int) -> np.ndarray:
        """The fillings that take at least as much as one at every voltage in the worst moments, and give way no later, (fillings,): where that does not work, none
        of them does."""
        more = np.all(self._worst_a >= self._worst_a[filling], axis=(1, 2))
        fails = np.array([f.fails_v for f in self.fillings])
        return np.asarray(more & np.all(fails >= fails[filling], axis=1))

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
        if number not in self._longest:
            found = np.minimum(self.floors.longest_s(self.batteries[number]), self.keeps_s[number])
            self._longest[number] = found
        return self._longest[number]

    @cached_property
    def _longest(self) -> dict[int, Array]:
        return {}

    def able(self, number: int) -> Able | str:
        """The supplies of a pack that its voltage allows and that are within the limits; or why there are none."""
        pack, bound, tables = (
            self.space.packs[number],
            self.longest_s(number),
            list[tuple[np.ndarray, np.ndarray, Array]](),
        )
        for c, charger in enumerate(pack.chargers):
            fits = (bound > 0) & (self.stands >= self.top_v(pack, charger)) & (self.regulates <= pack.half_v)
            filling, adds = np.flatnonzero(fits), pack.adds + charger.adds
            whole = self.own[filling] + np.array([adds.cost, adds.mass_g, adds.room_cm3, charger.hours])
            tables.append((filling, np.full(filling.size, c), whole))
        filling, charger_of, whole = (np.concatenate(t) for t in zip(*tables, strict=True))
        within = np.all(whole <= self.most * (1 + ROUNDING), axis=1)
        if not within.any():
            return say("choice.beyond" if filling.size else "choice.no-supply")
        counts = np.array([aim in self.space.aims for aim in AIMS])
        found = Able(filling[within], charger_of[within], whole[within] * counts, bound[filling[within]])
        return found.ordered(self.same)

    def steady_share(self, number: int, fillings: np.ndarray) -> float:
        """How much of its bound at first sight a supply of a pack comes to about under a steady current, by the one of some fillings that it is highest
        of; 0 where none works."""
        pack, bound = self.batteries[number], self.longest_s(number)
        steady = replace(pack, resistance_ohm=pack.steady_ohm)
        for k in fillings[np.argsort(-bound[fillings], kind="stable")].tolist()[:MOST_TRIED]:
            near = self.floors.closer_s(k, steady)
            if near > 0:
                mean_a = pack.capacity_ah * 3600 / near
                left = max(1 - float(pack.unavailable_ah(np.asarray(mean_a))) / pack.capacity_ah, 0.0)
                if left > 0:
                    return min(near * left, self.keeps_s[number]) / float(bound[k])
            # a peak is shorter than what a steady current brings about
            state = self.run(number, k)
            if state is not None and not out_of(state):
                return float(state.seconds / bound[k])
        return 0.0


def same_of(bench: TrialBench) -> Array:
    """What in each of the aims is too little to count, (aims,): a hundredth of the gadget as it stands, and some minutes of charge.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> [round(float(x), 2) for x in same_of(bench)]
    [0.19, 0.56, 0.65, 0.1]
    """
    totals, (x, y, z) = totals_report(bench), bench.design.enclosure.outer_mm
    whole = (totals.cost.value or 0.0, totals.mass.value or 0.0, x * y * z / 1000)
    return np.array([*(SAME * v for v in whole), SAME_H])


class _PackRows:
    """The supplies of one pack that none of its own beats, by what they are known or told to last."""

    def __init__(self, task: Search, number: int) -> None:
        self.task, self.number, self.pack = task, number, task.space.packs[number]
        able = task.able(number)
        self.why = able if isinstance(able, str) else say("choice.weak")
        self.least = None if isinstance(able, str) else (able.statics.min(axis=0), float(able.longest.max()))
        self._fails = np.zeros(len(task.fillings), dtype=bool)
        self._works: dict[int, Run] = {}
        self._begins: np.ndarray | None = None
        self._rows: list[Candidate] | None = None

    @property
    def rows(self) -> list[Candidate]:
        """The smallest first."""
        if self._rows is None:
            able = self.task.able(self.number)
            self._rows = [] if isinstance(able, str) else self._not_beaten(able)
        return self._rows

    def _begun(self, able: Able) -> np.ndarray:
        """The fillings of the able that could run at all, worked out once: a pack is always able of the same."""
        if self._begins is None:
            left = np.unique(able.filling)
            self._begins = np.asarray(left[self.task.floors.begins(left, self.task.batteries[self.number])])
        return self._begins

    @cached_property
    def _steady_share(self) -> float:
        assert self._begins is not None
        return self.task.steady_share(self.number, self._begins) if self._begins.size else 0.0

    def _share(self, bound: Array) -> float:
        """How much of its bound a supply comes to: what those come to that were worked out."""
        return max((s.seconds / float(bound[f]) for f, s in self._works.items()), default=self._steady_share)

    def _not_beaten(self, able: Able) -> list[Candidate]:
        alive = np.isin(able.filling, self._begun(able)) & ~self._fails[able.filling]
        bound = self.task.longest_s(self.number)
        told = bound * self._share(bound)
        known = np.isin(able.filling, list(self._works))
        for filling, state in self._works.items():
            told[filling] = state.seconds
        alive &= told[able.filling] > 0
        unplugged = np.array([c.unplugged_a for c in self.pack.chargers])[able.charger]
        takes = unplugged / (self.task.batteries[self.number].capacity_ah * 3600)
        seconds = 1 / (1 / np.where(alive, told[able.filling], 1) + takes)
        at_most, rows = seconds * np.where(known, 1, 1 + UNSURE), list[Candidate]()
        for i in range(seconds.size):
            if alive[i]:
                charger = self.pack.chargers[int(able.charger[i])]
                row = Candidate(
                    self.pack, charger, self.number, int(able.filling[i]), float(seconds[i]), able.statics[i]
                )
                rows.append(row)
                more = np.all(able.statics + self.task.same >= row.statics, axis=1)
                alive &= ~(more & (at_most * (1 - SAME) <= row.seconds))
        return rows

    def at_most_s(self, row: Candidate) -> float:
        """How long one may last [s]."""
        return row.seconds if self.knows(row) else row.seconds * (1 + UNSURE)

    @property
    def known(self) -> bool:
        """Whether any of them was worked out and works."""
        return bool(self._works)

    def knows(self, row: Candidate) -> bool:
        return row.filling in self._works

    def exact(self, row: Candidate) -> Candidate:
        """One that was worked out, with its runtime to the last digit."""
        return replace(row, seconds=unplugged(self._works[row.filling], row.charger).seconds)

    def work_out(self, row: Candidate) -> None:
        """Works one out, unless that is done, or is known to fail."""
        if self.knows(row) or self._fails[row.filling]:
            return
        state, self._rows = self.task.run(self.number, row.filling), None
        out = say("choice.no-supply") if state is None else out_of(state)
        if state is not None and not out:
            self._works[row.filling] = state
            return
        self.why = out
        self._fails[row.filling] = True
        if state is not None and state.bank_off is None:
            self._fails |= self.task.as_hard(row.filling)


def unplugged(state: Run, charger: ChargerWay) -> Run:
    """With what a charger takes while nothing is plugged in."""
    takes = state.pack.self_discharge_a + charger.unplugged_a
    return replace(state, pack=replace(state.pack, self_discharge_a=takes)) if charger.unplugged_a else state


def out_of(state: Run) -> str:
    """What keeps a solved supply out; "" where nothing does.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.runtime.run import run
    >>> out_of(run(design))
    ''
    """
    if state.bank_off is not None:
        return say("choice.switches-off", mode=state.design.modes[state.bank_off.mode].name)
    for mode, failure, share in zip(state.design.modes, state.failures, state.shares, strict=True):
        if failure.charge >= 1 and mode.essential and share > 0:
            return say("choice.no-mode", mode=mode.name)
    peak = state.peak_a[0]
    if peak > state.pack.discharge_max_a:
        return say("choice.peak", peak=(peak, "A"), most=(state.pack.discharge_max_a, "A"))
    return ""


class Archive:
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


def search(bench: TrialBench, space: Space, most: Array, going: Going) -> Searched:
    """The supplies that no other beats, of those within what `most` allows (see `Search`). Raises TooMany.

    What is told to be among them is solved; then all is told again with what is known now, until nothing on the front is only told.
    """
    task = Search(bench, space, most, going)
    packs, all_told = list[_PackRows](), 0
    for number in task.order:
        going(WAYS_SHARE)
        packs.append(_PackRows(task, number))
    while True:
        why, works, archives = dict[str, str](), set[str](), {refill: Archive(task.same) for refill in REFILLS}
        for pack in packs:
            name, (reason, beaten) = pack.pack.battery.cell.name, _into(archives[pack.pack.refill], pack, task)
            if beaten and name not in works:  # what would do in one number is not out for what it can't in another
                why[name] = reason
                works.add(name)
            why.setdefault(name, reason)
        front = [row for archive in archives.values() for row in archive.rows]
        told = _only_told(packs, front)
        if not told:
            break
        all_told = max(all_told, len(told))
        for k, (pack, row) in enumerate(told):
            # each round leaves fewer
            going(WAYS_SHARE + (1 - WAYS_SHARE) * (1 - (len(told) - k) / (all_told + 1)))
            pack.work_out(row)
    by_number = {pack.number: pack for pack in packs}
    front = [by_number[row.number].exact(row) for row in front]
    on = {row.pack.battery.cell.name for row in front}
    why = {name: text for name, text in why.items() if name not in on}
    return Searched(front, task.fillings, space.combinations, task.solved, why)


def _only_told(packs: list[_PackRows], front: list[Candidate]) -> list[tuple[_PackRows, Candidate]]:
    """What of the front was not worked out, of a pack of which nothing is known yet one supply."""
    found = []
    for pack in packs:
        told = [row for row in front if row.number == pack.number and not pack.knows(row)]
        found += [(pack, row) for row in (told if pack.known else told[:1])]
    return found


def _into(archive: Archive, pack: _PackRows, task: Search) -> tuple[str, bool]:
    """Puts the supplies of a pack into the archive that none there beats by what they are known or told to last; tells why the last one is not in it, and whether
    that is another one that beats it."""
    if pack.least is None:
        return pack.why, False
    by = archive.beaten_by(*pack.least)
    if by is not None:
        return _beaten(task, by), True
    reason, beaten = pack.why, False
    for row in pack.rows:
        by = archive.beaten_by(row.statics, pack.at_most_s(row))
        if by is None:
            archive.take(row)
        else:
            reason, beaten = _beaten(task, by), True
    return reason, beaten


def _beaten(task: Search, by: Candidate) -> str:
    aims = task.space.aims
    return say(
        "choice.beaten",
        by=by.pack.name,
        lasts=(by.seconds / 3600, "h"),
        aim=next(iter(aims)) if len(aims) == 1 else "all",
    )
