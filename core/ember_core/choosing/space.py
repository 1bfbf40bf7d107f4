"""What can be chosen: the packs with their chargers, the places of the supply, and all of it put into the gadget."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable
from dataclasses import dataclass
from typing import Literal, get_args

from ..battery.chemistry import CHEMISTRIES, full_v
from ..battery.pack import resting_v
from ..charging.charge import gentle_current
from ..design import (
    Battery,
    Cell,
    Charger,
    Design,
    Protection,
)
from ..design.patches import apply_patch
from ..design.references import build_design
from ..measures.bench import TrialBench
from ..measures.edits import new_cells, pack_patch, set_current
from ..schools.packs import MOST_IN_SERIES, ODD, PackChoice, over_mm
from ..schools.supplied import with_charger
from ..words import say
from .places import AIMS, Added, Aim, Place, filled, supply_places
from .sleeping import apart, behind_switch, switchable

Refill = Literal["thrown", "swapped", "charged", "bank"]
REFILLS: tuple[Refill, ...] = get_args(Refill)
MOST_IN_PARALLEL = 3
FLOAT_DIFFERS = 0.005  # of the full voltage of a cell


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
    switches = [behind_switch(bench, p, switch) for p, switch in asleep]
    return Space(
        build_design(bare.model_dump(mode="json")), frozenset(aims), packs, [*supply_places(bench), *switches], left_out
    )


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
