"""Which battery, charger and converters a recipe's gadget gets: of each school the first pack with which it works and lasts long enough."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..battery.chemistry import CHEMISTRIES, full_v
from ..battery.pack import pack_is_round, pack_size_mm, resting_v
from ..catalogue import Catalogue
from ..design import Battery, Body, Charger, Design, Protection, Supply
from ..design.patches import apply_patch
from ..design.references import BATTERY
from ..findings import CHECKS_BUT_OF_FIT
from ..findings.supply.stages import modes_that_fail
from ..load.day import mode_shares
from ..load.operating_points import Level, all_operating_points, lasting_peaks_a, part_current
from ..measures.bench import TrialBench
from ..measures.edits import placed
from ..measures.selection import Regulator, feed_rail, making, rail_window_v, starts_v
from ..numeric import Array
from ..schools.supplied import gently_charged, whole
from ..supply.converters import converter_model
from ..supply.nominal import nominal_rail_v
from ..supply.tree import build_tree
from .recipe import Pack, Recipe, School

BAD = ("stop", "fix")
MOST_WAYS = 2  # converters for a rail that are looked at
CHARGES = np.linspace(0.05, 1.0, 20)  # states of charge that converters are held against each other at
COLLAPSED = 0.1  # of its voltage at rest: a battery that gives so little serves nothing
LEAST_A = 1e-12
CLEARLY_SHORT = 0.4  # of the energy that the time wanted takes
CHARGED = 0.3  # of the capacity an hour: full in some four hours
COOL_A = 0.25  # through a linear charger: about half a watt


@dataclass(frozen=True)
class Try:
    """A gadget with a supply, of a school."""

    school: School
    bench: TrialBench

    @property
    def lasts_h(self) -> float:
        """At typical figures."""
        return self.bench.usual.seconds / 3600

    @cached_property
    def bad(self) -> bool:
        """Whether anything speaks against it, which has no case yet; what most often does is asked first."""
        checks = (modes_that_fail, *(c for c in CHECKS_BUT_OF_FIT if c is not modes_that_fail))
        found = (f for check in checks for f in check(self.bench))
        return any(f.severity in BAD and f.step not in ("fit", "runtime") for f in found)

    def good(self, wanted_h: float) -> bool:
        return self.lasts_h >= wanted_h and not self.bad


def nearest(tried: list[Try], wanted_h: float) -> Try:
    """Of those that nothing speaks against the first that lasts long enough, else the longest; else of all.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> only = Try("pouch", bench)
    >>> nearest([only], 1e6) is only
    True
    """
    ordered = sorted(tried, key=lambda t: (False, 0.0) if t.lasts_h >= wanted_h else (True, -t.lasts_h))
    return next((t for t in ordered if not t.bad), ordered[0])


def best_of(plain: Design, recipe: Recipe, school: School, wanted_h: float, catalogue: Catalogue) -> list[Try]:
    """Of a school the first pack that works and lasts long enough, rather straight than through something; else what comes nearest; none
    where the catalogue has none of its packs. What one pack takes tells which others are clearly too small."""
    tried: list[Try] = []
    watts, least = 0.0, _least_w(plain)
    packs = [p for p in recipe.packs[school] if p.cell in catalogue.by_key]
    for pack in packs:
        energy = _energy_wh(pack, catalogue)
        if energy < wanted_h * max(CLEARLY_SHORT * watts, least) and pack is not packs[-1]:
            continue
        longest = 0.0
        for design in _supplied(plain, school, pack, catalogue, switch=recipe.switch):
            one = Try(school, TrialBench(design, catalogue))
            if one.good(wanted_h):
                return [one]
            tried.append(one)
            longest = max(longest, one.lasts_h)
        watts = energy / longest if longest > 0 else watts
    return [nearest(tried, wanted_h)] if tried else []


def _least_w(design: Design) -> float:
    """What the parts take on average even where every rail has the least voltage that they work at [W]."""
    lowest = [rail_window_v(design, r)[0] for r in range(len(design.supply.rails))]
    shares, drawn = _drawn_a(design, lowest, "typical")
    return float(shares @ drawn @ lowest)


def _drawn_a(design: Design, rail_v: list[float], level: Level) -> tuple[Array, Array]:
    """Each operating point's share of the time, none of one that is switched off, and what each rail gives in it at its voltage [A], shape (operating points, rails)."""
    points = all_operating_points(design)
    rails = {r.id: k for k, r in enumerate(design.supply.rails)}
    amps = np.zeros((len(points), len(rails)))
    for p, part in enumerate(design.parts):
        k = rails[part.rail]
        amps[:, k] += [part_current(x.states[p], rail_v[k], level) * part.quantity for x in points]
    on = [0.0 if design.modes[x.mode].switched_off else x.share for x in points]
    return mode_shares(design.day, design.modes)[[x.mode for x in points]] * on, amps


def _energy_wh(pack: Pack, catalogue: Catalogue) -> float:
    cell = catalogue.by_key[pack.cell].cell
    return 0.0 if cell is None else cell.capacity_ah * resting_v(cell, 0.5) * pack.series


def _supplied(plain: Design, school: School, pack: Pack, catalogue: Catalogue, *, switch: bool) -> Iterator[Design]:
    """The gadget on a pack: its rails straight on it where its parts stand that, or through the converters that serve longest."""
    entry = catalogue.by_key.get(pack.cell)
    if entry is None or entry.cell is None:
        return
    cell = entry.cell
    count = pack.series
    usual = CHEMISTRIES[cell.chemistry]
    guard = None
    if usual.protection_v is not None and cell.bank is None:
        guard = Protection(cut_v_per_cell=usual.protection_v)
    size = pack_size_mm(cell, count)
    shape: dict[str, object] = {"shape": "cylinder", "along": "xyz"[_odd(size)]} if pack_is_round(cell, count) else {}
    battery = Battery(cell=cell, series=count, protection=guard, body=Body.model_validate({"size_mm": size, **shape}))
    stages, feed = [], BATTERY
    if switch:
        slide = catalogue.by_key["stage-switch-slide"].stage
        assert slide is not None
        stages, feed = [slide.model_copy(update={"id": "switch", "input": BATTERY})], "switch"
    modes = [m.model_copy(update={"off_stages": ["switch"]}) if switch and m.switched_off else m for m in plain.modes]
    rails = [r.model_copy(update={"feed": feed}) for r in plain.supply.rails]
    charger = _charger(battery, catalogue) if school == "pouch" else None
    base = plain.model_copy(update={
        "battery": battery, "charger": charger, "modes": modes, "supply": Supply(stages=stages, rails=rails),
    })  # fmt: skip
    if charger is not None:
        base = gently_charged(TrialBench(whole(base), catalogue), CHARGED).design
    yield from _fed(base, catalogue, 0)


def _odd(size: tuple[float, float, float]) -> int:
    middle = sorted(size)[1]
    return max(range(3), key=lambda i: abs(size[i] - middle))


def _fed(design: Design, catalogue: Catalogue, rail: int) -> Iterator[Design]:
    """Each rail in each of the ways that its parts stand, one rail after the other."""
    if rail == len(design.supply.rails):
        yield whole(design)
        return
    volts = _full_v(design)
    top = float(nominal_rail_v(build_tree(design), volts)[rail])
    parts = [p for p in design.parts if p.rail == design.supply.rails[rail].id]
    least, _ = rail_window_v(design, rail)
    if least <= top and all(p.supply_absolute_max_v is None or top <= p.supply_absolute_max_v for p in parts):
        yield from _fed(design, catalogue, rail + 1)
    for stage in _converters(design, catalogue, rail, top)[:MOST_WAYS]:
        added = placed(design, stage, design.supply.rails[rail].feed)
        yield from _fed(apply_patch(design, feed_rail(rail, added)), catalogue, rail + 1)


def _full_v(design: Design) -> float:
    """What is where the battery is, at most [V]: cells fresh or full without load, or what the charger passes on."""
    cell, charger = design.battery.cell, design.charger
    fresh = max(resting_v(cell, 1.0), CHEMISTRIES[cell.chemistry].fresh_v or 0.0) * design.battery.series
    return max(fresh, charger.gadget_v) if charger is not None else fresh


def _converters(design: Design, catalogue: Catalogue, rail: int, top_v: float) -> list[Regulator]:
    """What could make a rail's voltage, those first on which the rail alone would run longest."""
    low_v, high_v = rail_window_v(design, rail)
    cell, series = design.battery.cell, design.battery.series
    volts = np.array([resting_v(cell, z) for z in CHARGES]) * series
    ohm = cell.resistance_ohm * series / design.battery.parallel
    points = all_operating_points(design)

    def drawn(output_v: float, level: Level) -> tuple[Array, Array]:
        shares, amps = _drawn_a(design, [output_v] * len(design.supply.rails), level)
        return shares, amps[:, rail]

    def lasts(stage: Regulator) -> float:
        shares, amps = drawn(stage.output_v, "typical")
        model, output_v = converter_model(stage), np.array(stage.output_v)
        sagged = volts - ohm * model.input_current(volts, output_v, amps[:, None])
        sagged = np.maximum(sagged, COLLAPSED * volts)
        taken = shares @ model.input_current(sagged, output_v, amps[:, None])
        made = model.output_voltage(sagged, amps[:, None])
        works = np.all((made >= low_v) & (made <= high_v) & (sagged >= starts_v(stage)), axis=0)
        return float(np.sum(works / np.maximum(taken, LEAST_A)))

    peaks = lasting_peaks_a(design, points)[:, rail]
    most = max(float((drawn(v, "max")[1] + peaks).max(initial=0.0)) for v in (low_v, top_v))
    found = making(catalogue, (low_v, high_v), most, top_v)
    return sorted(found, key=lambda s: (-lasts(s), s.name))


def _charger(battery: Battery, catalogue: Catalogue) -> Charger | None:
    """The smallest board that charges it within some hours; a linear one up to what keeps a small case cool, above that a switching one."""
    keys = ("charger-small-100", "charger-board-500", "charger-switching-1")
    wanted = battery.cell.capacity_ah * CHARGED
    rows = [c for k in keys if k in catalogue.by_key and (c := catalogue.by_key[k].charger) is not None]
    full = full_v(battery.cell)
    rows = [c for c in rows if full is not None and abs(c.float_v_per_cell - full) < 0.02]
    able = [
        c
        for c in rows
        if c.topology == "switching" or min(c.program_constant_v / (c.program_min_ohm or 1e9), COOL_A) >= wanted
    ]
    return able[0] if able else rows[-1] if rows else None
