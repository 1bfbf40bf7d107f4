"""What can be chosen: the packs with their chargers, and for each place of the supply what may stand there."""

from __future__ import annotations

import math
from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np

from ..battery.chemistry import CHEMISTRIES, full_v
from ..battery.pack import resting_v
from ..charging.charge import gentle_current
from ..design import (
    Battery,
    Body,
    Cell,
    Charger,
    Design,
    LinearStage,
    Part,
    PassStage,
    Protection,
    Stage,
    SwitchingStage,
)
from ..design.basics import fresh_id
from ..design.patches import apply_patch
from ..design.references import BATTERY, build_design
from ..measures.asleep import cut_off
from ..measures.bench import TrialBench
from ..measures.edits import behind_load_switch, new_cells, pack_patch, placed, set_current
from ..measures.measure import find_use
from ..measures.selection import (
    LEAST_V,
    MOST_V,
    SAME_VOLTAGE,
    Regulator,
    in_place,
    least_input_v,
    rail_window_v,
    same_figures,
)
from ..schools.packs import MOST_IN_SERIES, ODD, PackChoice, over_mm
from ..schools.supplied import with_charger
from ..supply.tree import feeds_of
from ..words import say

Refill = Literal["thrown", "swapped", "charged", "bank"]
REFILLS: tuple[Refill, ...] = get_args(Refill)
Aim = Literal["cost", "mass", "room", "hours"]
AIMS: tuple[Aim, ...] = get_args(Aim)
MOST_IN_PARALLEL = 3
WORTH, MOST_SWITCHED = 0.02, 3  # of the runtime: what a load switch has to bring; parts that may get one
FLOAT_DIFFERS = 0.005  # of the full voltage of a cell


@dataclass(frozen=True)
class Added:
    """What something adds to the gadget: cost, mass [g] and the room of its box [cm3]."""

    cost: float = 0.0
    mass_g: float = 0.0
    room_cm3: float = 0.0

    @staticmethod
    def of(thing: Stage | Charger) -> Added:
        return Added(thing.cost, thing.mass_g, room_cm3(thing.body))

    def only(self, aims: Collection[Aim]) -> Added:
        """With what does not count left out."""
        return Added(
            *(
                getattr(self, f) if a in aims else 0.0
                for f, a in zip(("cost", "mass_g", "room_cm3"), AIMS, strict=False)
            )
        )

    def __add__(self, other: Added) -> Added:
        return Added(self.cost + other.cost, self.mass_g + other.mass_g, self.room_cm3 + other.room_cm3)


def room_cm3(body: Body | None) -> float:
    """The box around a body [cm3].

    >>> from ember_core.design import Body
    >>> room_cm3(Body(size_mm=(20, 10, 5))), room_cm3(None)
    (1.0, 0.0)
    """
    return 0.0 if body is None else math.prod(body.size_mm) / 1000


@dataclass(frozen=True)
class Option:
    """One way to fill a place: `name` says it, `apply` puts it in; "" where nothing is there. `regulates_v`: what a new regulator needs at its
    input at its peak [V]; it has to have that at half charge. `stands_v`: what it may have at its own input [V]."""

    name: str
    adds: Added
    apply: Callable[[Design], Design]
    regulates_v: float = 0.0
    stands_v: float = math.inf


@dataclass(frozen=True)
class Place:
    """A place of the supply with what may stand there, the present way first. `node` is the stage or the rail that it is about. Switches, fuses and
    protection that are there stay as they are."""

    name: str
    node: str
    options: list[Option]


@dataclass(frozen=True)
class ChargerWay:
    """A charger as it is set for a pack, or none. `hours` is the capacity over its current."""

    charger: Charger | None
    adds: Added
    hours: float

    @property
    def unplugged_a(self) -> float:
        return self.charger.unplugged_a if self.charger else 0.0

    @property
    def plugged_v(self) -> float:
        return self.charger.gadget_v if self.charger else 0.0


@dataclass(frozen=True)
class PackWay:
    """A pack with the ways in which it may be refilled."""

    battery: Battery
    refill: Refill
    adds: Added
    top_v: float
    chargers: list[ChargerWay]

    @property
    def half_v(self) -> float:
        """Its voltage at half charge, without load [V]."""
        return self.battery.series * resting_v(self.battery.cell, 0.5)

    @property
    def name(self) -> str:
        many = self.battery.series * self.battery.parallel
        return self.battery.cell.name if many == 1 else f"{many} × {self.battery.cell.name}"


@dataclass(frozen=True)
class Space:
    """`bare` is the gadget without its charger, and what may go behind a switch on a rail of its own, everything else as it stands. `left_out` says by
    name why a cell is in no pack."""

    bare: Design
    aims: frozenset[Aim]
    packs: list[PackWay]
    places: list[Place]
    left_out: dict[str, str]

    @property
    def combinations(self) -> int:
        ways = math.prod(len(p.options) for p in self.places)
        return ways * sum(len(p.chargers) for p in self.packs)


def space_of(bench: TrialBench, aims: Collection[Aim] = AIMS, *, every_charger: bool = False) -> Space:
    """`aims`: what counts beside the runtime. Of the chargers of a pack those that no other beats in that, or every one."""
    design = bench.design
    packs, left_out = _packs(bench, None if every_charger else frozenset(aims))
    asleep = switchable(bench)
    bare = apart(design.model_copy(update={"charger": None}), [p for p, _ in asleep])
    switches = [_behind(bench, p, switch) for p, switch in asleep]
    return Space(
        build_design(bare.model_dump(mode="json")), frozenset(aims), packs, [*_places(bench), *switches], left_out
    )


# packs and chargers


def _packs(bench: TrialBench, aims: frozenset[Aim] | None) -> tuple[list[PackWay], dict[str, str]]:
    design, catalogue = bench.design, bench.catalogue
    room = design.brief.outer_max_mm or design.enclosure.outer_mm
    cells = {c.name: c for c in catalogue.cells if c.chemistry not in ODD}
    cells[design.battery.cell.name] = design.battery.cell
    chargers = [e.charger for e in catalogue.entries if e.charger is not None]
    if design.charger is not None:
        chargers = [design.charger, *(c for c in chargers if c.name != design.charger.name)]
    found = list[PackWay]()
    left_out = {c.name: say("choice.odd") for c in catalogue.cells if c.name not in cells}
    for cell in cells.values():
        bank = cell.bank is not None
        if over_mm(PackChoice(cell, 1), room) > 0:
            left_out[cell.name] = say("choice.too-large", over=(over_mm(PackChoice(cell, 1), room), "mm"))
            continue
        ways = [
            _pack(design, chargers, cell, s, p, aims)
            for s in range(1, 2 if bank else MOST_IN_SERIES + 1)
            for p in range(1, 2 if bank else MOST_IN_PARALLEL + 1)
            if over_mm(PackChoice(cell, s * p), room) <= 0
        ]
        found += [w for way in ways if way is not None for w in (way, swapped(way)) if w is not None]
        if not any(ways):
            left_out[cell.name] = say("choice.no-charger")
    return found, left_out


def _pack(
    design: Design, chargers: list[Charger], cell: Cell, series: int, parallel: int, aims: frozenset[Aim] | None
) -> PackWay | None:
    data, count = CHEMISTRIES[cell.chemistry], series * parallel
    battery = pack_battery(design, cell, series, parallel)
    own = PackChoice(cell, count)
    adds = Added(cell.cost * count, cell.mass_g * count, math.prod(own.size_mm) / 1000)
    fresh = (data.fresh_v or 0.0) if cell.bank is None else 0.0
    top = series * max(resting_v(cell, 1.0), fresh)
    if cell.bank is not None:
        return PackWay(battery, "bank", adds, top, [NONE])
    if not data.rechargeable:
        return PackWay(battery, "thrown", adds, top, [NONE])
    inside = list(_set_for(battery, chargers))
    if inside:
        return PackWay(battery, "charged", adds, top, inside if aims is None else _frugal(inside, aims))
    return PackWay(battery, "swapped", adds, top, [NONE]) if cell.form == "cylinder" else None


def swapped(way: PackWay) -> PackWay | None:
    """The same pack of cylinders taken out to be charged, where it may be charged inside too."""
    if way.refill != "charged" or way.battery.cell.form != "cylinder":
        return None
    return PackWay(way.battery, "swapped", way.adds, way.top_v, [NONE])


def pack_battery(design: Design, cell: Cell, series: int, parallel: int) -> Battery:
    """Such cells in the place of the present ones, guarded where they need it."""
    present = design.battery
    if cell == present.cell and (series, parallel) == (present.series, present.parallel):
        return present
    battery = new_cells(present, cell, series, parallel)
    usual = CHEMISTRIES[cell.chemistry].protection_v
    guard = None if cell.bank is not None or usual is None else battery.protection or Protection(cut_v_per_cell=usual)
    return battery.model_copy(update={"protection": guard, "body": None})


NONE = ChargerWay(None, Added(), 0.0)


def _set_for(battery: Battery, chargers: Iterable[Charger]) -> Iterable[ChargerWay]:
    """The chargers that fill such a pack with no more than it takes, each set as is gentle to it."""
    cell, full, gentle = battery.cell, full_v(battery.cell), gentle_current(battery)
    nickel = cell.chemistry == "nickel-metal-hydride"
    most = math.inf if cell.charge_max_a is None else cell.charge_max_a * battery.parallel
    for charger in chargers:
        if charger.cells_in_series != battery.series or (battery.series > 1 and not nickel and not charger.balances):
            continue
        if nickel == (charger.method == "cc-cv"):
            continue
        if not nickel and (full is None or abs(charger.float_v_per_cell / full - 1) > FLOAT_DIFFERS):
            continue
        calm = _calm(charger, gentle)
        if calm.set_a <= most * (1 + 1e-9):
            yield ChargerWay(calm, Added.of(calm), cell.capacity_ah * battery.parallel / calm.set_a)


def _calm(charger: Charger, gentle_a: float) -> Charger:
    """A charger set to no more than is gentle to the cells, as far as it can be."""
    way = set_current(charger, gentle_a) if charger.set_a > gentle_a * (1 + 1e-9) else None
    if way is None:
        return charger
    key = way.patch[0].path.rsplit("/", 1)[1]
    return charger.model_copy(update={key: way.patch[0].value})


def _frugal(ways: list[ChargerWay], aims: frozenset[Aim]) -> list[ChargerWay]:
    """Those that no other equals in everything that counts: cost, mass, room, hours, what it takes unplugged, what it puts on the gadget."""
    keys = [
        (a.cost, a.mass_g, a.room_cm3, w.hours if "hours" in aims else 0.0, w.unplugged_a, w.plugged_v)
        for w in ways
        for a in (w.adds.only(aims),)
    ]
    kept = list[int]()
    for i, key in enumerate(keys):
        beaten = any(
            all(a <= b for a, b in zip(keys[j], key, strict=True)) and (keys[j] != key or j < i)
            for j in range(len(keys))
            if j != i
        )
        if not beaten:
            kept.append(i)
    return [ways[i] for i in kept]


# places of the supply


def _places(bench: TrialBench) -> list[Place]:
    design = bench.design
    found = []
    for position, stage in enumerate(design.supply.stages):
        options = list(_options(bench, position, stage))
        if len(options) > 1:
            found.append(Place(stage.name, stage.id, options))
    for index, rail in enumerate(design.supply.rails):
        options = list(_before(bench, index))
        if len(options) > 1:
            found.append(Place(rail.name, rail.id, options))
    return found


def _options(bench: TrialBench, position: int, old: Stage) -> Iterable[Option]:
    if not isinstance(old, LinearStage | SwitchingStage):
        return
    worst, index = bench.usual.worst, bench.usual.tree.stage_index[old.id]
    peak = float(np.max(worst.stage_output_a[index], where=~worst.collapsed, initial=0.0))
    straight = raw(bench.design, old.input)
    yield Option(old.name, Added.of(old), lambda d: d, least_input_v(old, peak) if straight else 0.0)
    for s in bench.catalogue.stages:
        if isinstance(s, LinearStage | SwitchingStage) and _may_replace(old, s, peak) and not same_figures(s, old):
            yield Option(s.name, Added.of(s), _replacing(old.id, s), least_input_v(s, peak) if straight else 0.0)
    if straight:
        yield Option(say("choice.straight"), Added(), _removing(old.id))


def _may_replace(old: Regulator, new: Regulator, peak_a: float) -> bool:
    turned = [isinstance(s, SwitchingStage) and s.topology == "inverting" for s in (old, new)]
    return turned[0] == turned[1] and abs(new.output_v / old.output_v - 1) <= SAME_VOLTAGE and new.limit_a >= peak_a


def _replacing(key: str, new: Stage) -> Callable[[Design], Design]:
    def applied(design: Design) -> Design:
        stages = [in_place(s, new) if s.id == key else s for s in design.supply.stages]
        return design.model_copy(update={"supply": design.supply.model_copy(update={"stages": stages})})

    return applied


def _removing(key: str) -> Callable[[Design], Design]:
    def applied(design: Design) -> Design:
        gone = next(s for s in design.supply.stages if s.id == key)
        stages = [
            s.model_copy(update={f: gone.input for f in ("input", "other") if getattr(s, f, None) == key})
            for s in design.supply.stages
            if s.id != key
        ]
        rails = [r.model_copy(update={"feed": gone.input}) if r.feed == key else r for r in design.supply.rails]
        modes = [m.model_copy(update={"off_stages": [s for s in m.off_stages if s != key]}) for m in design.modes]
        supply = design.supply.model_copy(update={"stages": stages, "rails": rails})
        return design.model_copy(update={"supply": supply, "modes": modes})

    return applied


def _before(bench: TrialBench, index: int) -> Iterable[Option]:
    """What may stand before a rail that hangs straight on the battery: nothing, or what makes a voltage that all its parts are made for."""
    design = bench.design
    rail = design.supply.rails[index]
    low, high = rail_window_v(bench.design, index)
    if not raw(design, rail.feed) or low <= LEAST_V or high >= MOST_V:
        return
    yield Option("", Added(), lambda d: d)
    worst = bench.usual.worst
    peak = float(np.max(worst.rail_a[index], where=~worst.collapsed, initial=0.0))
    peak = max(peak, sum(bench.most_a(p) for p, part in enumerate(design.parts) if part.rail == rail.id))
    for s in bench.catalogue.stages:
        turned = isinstance(s, SwitchingStage) and s.topology == "inverting"
        if (
            isinstance(s, LinearStage | SwitchingStage)
            and not turned
            and low <= s.output_v <= high
            and s.limit_a >= peak
        ):
            yield Option(s.name, Added.of(s), _inserting(rail.id, s), least_input_v(s, peak))


def _inserting(key: str, new: Stage) -> Callable[[Design], Design]:
    def applied(design: Design) -> Design:
        rail = next(r for r in design.supply.rails if r.id == key)
        stage = placed(design, new, rail.feed)
        rails = [r.model_copy(update={"feed": stage.id}) if r.id == key else r for r in design.supply.rails]
        supply = design.supply.model_copy(update={"stages": [*design.supply.stages, stage], "rails": rails})
        return design.model_copy(update={"supply": supply})

    return applied


def switchable(bench: TrialBench) -> list[tuple[int, PassStage]]:
    """The parts that are worth a load switch while the gadget rests, by their positions, with the switch of each: those that it makes last longest."""
    if not bench.sleeps:
        return []
    worth = list[tuple[float, int, PassStage]]()
    for p, part in enumerate(bench.design.parts):
        switch, measure = bench.load_switch(p), cut_off(bench, p)
        if switch is None or measure is None or not _may_sleep(bench, p):
            continue
        feed = bench.design.supply.rails[bench.design.index.rails[part.rail]].feed
        if (switch.input_max_v or math.inf) < bench.highest_v(feed) and not raw(bench.design, feed):
            continue
        patch = measure.change(bench.design)
        gain = 0.0 if patch is None else bench.after(patch).seconds / max(bench.usual.seconds, 1e-9) - 1
        if gain >= WORTH:
            worth.append((gain, p, switch))
    return [(p, switch) for _, p, switch in sorted(worth, key=lambda x: (-x[0], x[1]))[:MOST_SWITCHED]]


def _may_sleep(bench: TrialBench, p: int) -> bool:
    """Whether a part is there while the gadget rests and need not be: what wakes it and what only shows that it is on is not cut off."""
    part = bench.design.parts[p]
    used = find_use(bench.design, bench.design.day.rest, part.id) is not None
    return used and part.kind not in ("controller", "led") and part.divider is None


def _own_rail(design: Design, part: Part) -> str:
    return fresh_id(f"{part.id}-rail"[:50], {r.id for r in design.supply.rails})


def apart(design: Design, parts: list[int]) -> Design:
    """Some parts on rails of their own that hang where the ones did that they were on: the same gadget.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.runtime.run import run
    >>> from ember_core.design.references import build_design
    >>> other = build_design(apart(design, [0]).model_dump(mode="json"))
    >>> len(other.supply.rails) - len(design.supply.rails)
    1
    >>> abs(run(other).seconds / run(design).seconds - 1) < 1e-9
    True
    """
    for p in parts:
        part = design.parts[p]
        rail = next(r for r in design.supply.rails if r.id == part.rail)
        own = rail.model_copy(update={"id": _own_rail(design, part), "name": f"{part.name}, switched"[:120]})
        supply = design.supply.model_copy(update={"rails": [*design.supply.rails, own]})
        now = [x.model_copy(update={"rail": own.id}) if x.id == part.id else x for x in design.parts]
        design = design.model_copy(update={"supply": supply, "parts": now})
    return design


def _behind(bench: TrialBench, p: int, switch: PassStage) -> Place:
    """A part as it is, or behind a load switch that is off while the gadget rests."""
    design, part = bench.design, bench.design.parts[p]
    own = _own_rail(design, part)
    feed = design.supply.rails[design.index.rails[part.rail]].feed

    def applied(at: Design) -> Design:
        if all(r.id != own for r in at.supply.rails):
            return apply_patch(build_design(at.model_dump(mode="json")), behind_load_switch(at, p, switch))
        rail = next(r for r in at.supply.rails if r.id == own)
        stage = placed(at, switch, rail.feed)
        rails = [r.model_copy(update={"feed": stage.id}) if r.id == own else r for r in at.supply.rails]
        modes = [
            m.model_copy(update={"off_stages": [*m.off_stages, stage.id]})
            if m.id == at.day.rest or m.switched_off
            else m
            for m in at.modes
        ]
        supply = at.supply.model_copy(update={"stages": [*at.supply.stages, stage], "rails": rails})
        return at.model_copy(update={"supply": supply, "modes": modes})

    stands = (switch.input_max_v or math.inf) if raw(design, feed) else math.inf
    there = Option(switch.name, Added.of(switch), applied, stands_v=stands)
    return Place(part.name, own, [Option("", Added(), lambda d: d), there])


def raw(design: Design, feed: str) -> bool:
    """Whether what hangs there has the battery's own voltage.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> raw(design, "battery"), raw(design, design.supply.rails[0].feed)
    (True, False)
    """
    while (stage := design.stage(feed)) is not None:
        if not isinstance(stage, PassStage):
            return False
        feed = stage.input
    return feed == BATTERY


def groups_of(design: Design, places: list[Place]) -> list[list[int]]:
    """The places in groups: those that hang on one another together, each of the others alone."""
    group = list(range(len(places)))
    for i, place in enumerate(places):
        under = below(design, {place.node})
        for j, other in enumerate(places):
            if other.node in under:
                group = [group[i] if g == group[j] else g for g in group]
    return [[i for i, g in enumerate(group) if g == key] for key in dict.fromkeys(group)]


def below(design: Design, nodes: set[str]) -> set[str]:
    """What stages and rails feed, themselves included: stages and parts by their ids.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> rail = next(r for r in design.supply.rails if not raw(design, r.feed))
    >>> rail.feed in below(design, {rail.id}), all(p.id in below(design, {rail.id}) for p in design.parts if p.rail == rail.id)
    (True, True)
    """
    rails = {r.id: r.feed for r in design.supply.rails}
    seen = {n for n in nodes if n not in rails} | {rails[n] for n in nodes if n in rails and not raw(design, rails[n])}
    while True:
        more = {s.id for s in design.supply.stages if set(feeds_of(s)) & seen}
        if more <= seen:
            break
        seen |= more
    on = {r for r, feed in rails.items() if feed in seen} | (nodes & set(rails))
    return seen | {p.id for p in design.parts if p.rail in on}


def filled(design: Design, places: list[Place], chosen: Iterable[tuple[int, int]]) -> Design:
    """A design with the chosen options in their places; not yet checked as a document."""
    for place, option in chosen:
        design = places[place].options[option].apply(design)
    return design


def taken_over(
    bench: TrialBench, pack: PackWay, charger: ChargerWay, places: list[Place], chosen: Iterable[tuple[int, int]]
) -> Design:
    """The gadget with all of it as a document of its own: the pack with its room, the charger where the old one was."""
    made = filled(bench.design, places, chosen)
    made = build_design(made.model_dump(mode="json"))
    if pack.battery is not bench.design.battery:
        made = apply_patch(made, pack_patch(made, pack.battery))
    old = bench.design.charger
    return made if charger.charger == old else with_charger(made, charger.charger)
