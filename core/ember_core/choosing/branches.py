"""What each way to fill the places of the supply takes at each battery voltage, and which of them no pack could want.

A way is held against another at an ideal source: if at every voltage at which the other still works it takes no more current in any operating
point, gives way no earlier in any mode, stands what the other stands, costs, weighs and needs no more, then no pack makes the other better
(docs/MODELS.md, "The best of all supplies").
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import astuple, dataclass
from functools import cached_property
from itertools import product

import numpy as np

from ..battery import chemistry
from ..battery.pack import Pack
from ..battery.relaxation import first_order
from ..design import Design, PassStage
from ..design.problems import DocumentError
from ..design.references import build_design
from ..load.day import Year
from ..load.operating_points import all_operating_points, lasting_peaks_a, load_table, state_levels
from ..numeric import Array
from ..runtime.limits import breaks, conditions
from ..supply.nominal import nominal_input_v, nominal_rail_v
from ..supply.solver import solve
from ..supply.tree import Tree, build_tree
from .places import Added, Aim, below, filled
from .space import Space

LEAST_V = 0.6
POINTS = 160  # voltages at which ways are held against each other


Chosen = tuple[tuple[int, int], ...]


@dataclass(frozen=True)
class Filled:
    """Places of the supply filled, at an ideal source.

    `amps` is the battery's current in the typical and then in the worst operating points over falling voltage, (2 points, volts); `fails_v` the
    highest voltage at which each mode no longer holds for a reason within what they feed, (modes,), 0 where it always holds; `stands_v` what the
    battery may have at most, `regulates_v` what it must have at half charge.
    """

    chosen: Chosen
    adds: Added
    amps: Array
    fails_v: Array
    stands_v: float
    regulates_v: float

    def beside(self, other: Filled, base: Array) -> Filled:
        """Both, where `base` is drawn without either of them, (2 points, volts)."""
        return Filled(
            self.chosen + other.chosen, self.adds + other.adds, self.amps + (other.amps - base),
            np.maximum(self.fails_v, other.fails_v), min(self.stands_v, other.stands_v), max(self.regulates_v, other.regulates_v),
        )  # fmt: skip


class IdealSource:
    """The gadget on a source without resistance, over a range of voltages."""

    def __init__(self, bare: Design, aims: frozenset[Aim], top_v: float) -> None:
        self.aims = aims
        self.volts = np.geomspace(max(top_v, 2 * LEAST_V), LEAST_V, POINTS)
        self.points = all_operating_points(bare)
        self.modes = np.array([p.mode for p in self.points], dtype=int)
        table, peaks = load_table(bare, self.points), lasting_peaks_a(bare, self.points)
        both = table.loads(np.array([state_levels(bare, x) for x in ("typical", "max")]))
        self.loads = both.with_more(np.concatenate([np.zeros_like(peaks), peaks]))
        year = Year(bare.day, bare.modes)
        self.weights = np.array([year.shares[p.mode] * p.share for p in self.points])
        essential = np.array([m.essential for m in bare.modes])
        self.used = essential & (year.shares > 0)
        self.idle = ~essential & (year.shares > 0)
        self.needed = np.where(self.used, 1, np.where(self.idle, 0, -1))[self.modes]  # of each operating point
        nothing = np.zeros(POINTS)
        self.pack = Pack(
            charge=np.linspace(1.0, 0.0, POINTS), open_circuit_v=self.volts, resistance_ohm=nothing, polarization_ohm=nothing,
            unavailable_h=0.0, unavailable_rise=0.0, relaxation=first_order(1.0), surface=False, transfer_ohm=nothing, transfer_v=0.0,
            shares=(), capacity_ah=1.0, printed_ah=1.0, self_discharge_a=0.0, cutoff_v=0.0, discharge_max_a=np.inf,
        )  # fmt: skip

    def runs_above_v(self, fails_v: Array) -> float:
        """The terminal voltage below which nothing is looked at: while the gadget runs, each mode that has to work has what it needs; a mode
        that need not may have less."""
        return 0.0 if np.any(self.idle) else float(fails_v[self.used].min(initial=np.inf)) if self.used.any() else 0.0

    def between(self, low_v: float, top_v: float) -> slice:
        """The voltages between two, and the next one beyond each."""
        first = int(np.count_nonzero(self.volts > top_v))
        last = int(np.count_nonzero(self.volts >= low_v))
        return slice(max(first - 1, 0), last + 1)

    def solved(self, design: Design, within: set[str]) -> tuple[Array, Array, Tree]:
        """(currents (2 points, volts), the voltage at which each mode gives way for a reason within some ids, the tree)."""
        tree = build_tree(design)
        found, count = solve(tree, self.loads, self.pack), len(self.points)
        worst = found.operating_points(slice(count, None))
        fails = np.zeros(len(design.modes))
        for condition in conditions(design, tree, self.pack, self.points, worst, np.zeros((count, POINTS))):
            if condition.subject not in within:
                continue
            for row, at, _ in zip(*(x.tolist() for x in breaks(condition, self.pack.charge)), strict=True):
                mode = int(self.modes[condition.rows[row]])
                fails[mode] = max(fails[mode], float(np.interp(at, self.pack.charge[::-1], self.volts[::-1])))
        return np.asarray(found.source_a), fails, tree


def stands_v(design: Design, tree: Tree, tops: Iterable[float], within: set[str]) -> float:
    """The highest of some battery voltages that every stage and every part of some ids stands; 0 where that is none."""
    parts = [(p, design.index.rails[p.rail]) for p in design.parts if p.id in within]
    for top in sorted(tops, reverse=True):
        rails, inputs = nominal_rail_v(tree, top), nominal_input_v(tree, top)
        stands = all(p.supply_absolute_max_v is None or rails[r] <= p.supply_absolute_max_v for p, r in parts)
        if stands and all(
            s.id not in within or s.input_max_v is None or v <= s.input_max_v
            for s, v in zip(tree.stages, inputs, strict=True)
        ):
            return top
    return 0.0


def ways_of(
    space: Space, group: list[int], source: IdealSource, tops: list[float], going: Callable[[], None]
) -> list[Filled]:
    """Each way to fill the places of a group, on a source without resistance; what is no design is left out. `going` is called before each."""
    found = []
    for options in product(*(range(len(space.places[p].options)) for p in group)):
        going()
        chosen = tuple(zip(group, options, strict=True))
        try:
            design = smooth(build_design(filled(space.bare, space.places, chosen).model_dump(mode="json")))
        except DocumentError:
            continue
        within = _within(space, design, group)
        amps, fails, tree = source.solved(design, within)
        adds = sum((space.places[p].options[o].adds for p, o in chosen), Added())
        needs_v = max(space.places[p].options[o].regulates_v for p, o in chosen)
        stands = min(stands_v(design, tree, tops, within), *(space.places[p].options[o].stands_v for p, o in chosen))
        found.append(Filled(chosen, adds, amps, fails, stands, needs_v))
    return found


def _within(space: Space, design: Design, group: list[int]) -> set[str]:
    """What the places of a group feed in a design, also what one that is gone had fed: stages and parts by their ids."""
    nodes = {space.places[p].node for p in group}
    return below(design, nodes) | below(space.bare, nodes)


def the_rest(space: Space, groups: list[list[int]], source: IdealSource, tops: list[float]) -> Filled:
    """The gadget as it stands, with the limits of what no place feeds."""
    design = smooth(space.bare)
    within = set().union(*(_within(space, design, g) for g in groups))
    outside = {x.id for x in (*design.parts, *design.supply.stages, *design.supply.sources)} - within
    amps, fails, tree = source.solved(design, outside)
    return Filled((), Added(), amps, fails, stands_v(design, tree, tops, outside), 0.0)


def smooth(design: Design) -> Design:
    """With nothing lost in switches, fuses and protection."""
    stages = [
        s.model_copy(update={"resistance_ohm": 0.0}) if isinstance(s, PassStage) else s for s in design.supply.stages
    ]
    return design.model_copy(update={"supply": design.supply.model_copy(update={"stages": stages})})


def not_beaten(
    ways: list[Filled], source: IdealSource, least_v: Array, same: Added, going: Callable[[], None]
) -> list[Filled]:
    """Those that no other beats; what is within `NO_MORE` of its current and within `same` of the rest is the same. `least_v`: below which modes
    give way anyway, (modes,)."""
    able = [w for w in ways if w.stands_v > 0]
    able.sort(key=lambda w: (sum(astuple(w.adds.only(source.aims))), float(w.amps.sum())))
    kept: list[Filled] = []
    for way in able:
        going()
        if not any(_beats(k, way, source, least_v, same) for k in kept):
            kept.append(way)
    return kept


def _beats(one: Filled, other: Filled, source: IdealSource, least_v: Array, same: Added) -> bool:
    a, b = one.adds.only(source.aims), other.adds.only(source.aims) + same
    if (
        one.stands_v < other.stands_v
        or one.regulates_v > other.regulates_v
        or a.cost > b.cost
        or a.mass_g > b.mass_g
        or a.room_cm3 > b.room_cm3
    ):
        return False
    ends = np.maximum(other.fails_v, least_v)
    if np.any(one.fails_v > ends):
        return False
    counts = source.between(source.runs_above_v(ends), other.stands_v)
    ours, theirs, points = one.amps[:, counts], other.amps[:, counts], source.weights.size
    if np.any(ours[points:] > theirs[points:] * (1 + NO_MORE) + TINY_A):  # at the worst moment of each
        return False
    more = source.weights @ np.maximum(ours[:points] - theirs[:points], 0.0)
    return bool(np.all(more <= NO_MORE * (source.weights @ theirs[:points]) + TINY_A))


NO_MORE = 0.005  # of the current
TINY_A = 1e-12


@dataclass(frozen=True)
class Floors:
    """What ways to fill the supply take at least at each voltage or below it: in each typical and then each worst operating point over rising voltage,
    down to what its mode needs, (ways, 2 points, volts). `fails_v`: where each point's mode gives way, (ways, points); `needed` 1 where it has
    to work, 0 where it need not, -1 where it never comes, (points,)."""

    volts: Array
    amps: Array
    weights: Array
    fails_v: Array
    needed: np.ndarray

    @cached_property
    def mean_a(self) -> Array:
        """The day's mean, (ways, volts)."""
        return np.asarray(np.einsum("p,wpv->wv", self.weights, self.amps[:, : self.weights.size]))

    @cached_property
    def _ends_at_v(self) -> Array:
        return np.asarray(np.where(self.needed == 1, self.fails_v, 0.0).max(axis=1, initial=0.0))

    def longest_s(self, pack: Pack) -> Array:
        """The longest that each could last on a pack [s], (ways,): at its open-circuit voltage all the way, as its terminals never have more."""
        top, volts = pack.open_circuit_v * OVER, self.volts
        k = np.clip(np.searchsorted(volts, top) - 1, 0, volts.size - 2)
        part = np.clip((top - volts[k]) / (volts[k + 1] - volts[k]), 0.0, 1.0)
        chord = np.zeros((volts.size, top.size))
        chord[k, np.arange(top.size)] = 1 - part
        chord[k + 1, np.arange(top.size)] = part
        amps = self.mean_a @ chord * UNDER
        return _whole_s(pack, amps, top >= np.maximum(self._ends_at_v, pack.cutoff_v)[:, None])

    def begins(self, ways: np.ndarray, pack: Pack) -> np.ndarray:
        """Whether some of them could run at all on a full pack, (ways,): with the least that its resistance takes off every mode that has to work has
        what it needs, and no peak is above what the cells are made for; also none of a mode that need not work and does."""
        worst, fails, needed = self.amps[ways, self.weights.size :], self.fails_v[ways], self.needed
        volts, amps = self._full(worst, np.maximum(fails, pack.cutoff_v), pack, float(pack.resistance_ohm[0]))
        low_v, _ = self._full(worst, np.maximum(fails, pack.cutoff_v), pack, float(pack.steady_ohm[0]))
        holds = volts >= np.maximum(fails, pack.cutoff_v)
        surely = low_v >= np.maximum(fails, pack.cutoff_v) * SURELY
        too_much = amps > pack.discharge_max_a
        return np.asarray(np.all(np.where(needed == 1, holds & ~too_much, (needed < 0) | ~(surely & too_much)), axis=1))

    def _full(self, worst: Array, ends_v: Array, pack: Pack, ohm: float) -> tuple[Array, Array]:
        """(terminal voltage, current) of a full pack in the worst operating points, each of shape (ways, points), with what is drawn at least; what falls
        below its end has failed, and is followed no further."""
        top, floor = float(pack.open_circuit_v[0]) * OVER, ends_v - 0.1
        volts = np.full(worst.shape[:2], top)
        amps = _chords(self.volts, worst, volts)
        for _ in range(MOST_ROUNDS):
            lower = top - ohm * amps
            if pack.transfer_v > 0:
                lower = lower + chemistry.spared_v(pack.transfer_ohm[0] * amps, pack.transfer_v)
            lower = np.maximum(lower, floor)
            moved, volts = float(np.max(volts - lower, initial=0.0)), lower
            amps = _chords(self.volts, worst, volts)
            if moved < NEAR_V:
                break
        return volts, amps

    def closer_s(self, way: int, pack: Pack) -> float:
        """The longest that one could last on a pack [s], with the least that its resistance takes off: what is drawn at a voltage that the
        terminals do not reach is drawn at least."""
        top, count = pack.open_circuit_v * OVER, self.weights.size
        volts: Array = np.broadcast_to(top, (self.amps.shape[1], top.size))
        amps = _chords(self.volts, self.amps[way], volts)
        for _ in range(ROUNDS):
            volts = top - pack.resistance_ohm * amps
            if pack.transfer_v > 0:
                volts = volts + pack.transfer_spared_v(amps)
            amps = _chords(self.volts, self.amps[way], volts)
        fails = np.maximum(self.fails_v[way], pack.cutoff_v)[:, None]
        holds = np.all((volts[count:] >= fails) | (self.needed[:, None] < 1), axis=0)
        return float(_whole_s(pack, self.weights @ amps[:count], holds))


def _chords(rising: Array, table: Array, volts: Array) -> Array:
    """What is drawn at least at some voltages or below them, by the chord between the two next ones; `table` is (..., volts), `volts` (..., N) or (...)."""
    flat, at = table.reshape(-1, rising.size), volts.reshape(table[..., 0].size, -1)
    step = np.log(rising[-1] / rising[0]) / (rising.size - 1)
    place = np.log(np.maximum(at, rising[0]) / rising[0]) / step
    k = np.clip(place.astype(int), 0, rising.size - 2)
    part = np.clip((at - rising[k]) / (rising[k + 1] - rising[k]), 0.0, 1.0)
    rows = np.arange(len(flat))[:, None]
    low = flat[rows, k]
    return np.asarray(((low + part * (flat[rows, k + 1] - low)) * UNDER).reshape(volts.shape))


MOST_ROUNDS, NEAR_V = 60, 1e-4
SURELY = 1.03  # times what a mode needs: with more it works
OVER = 1.002  # what a cell that recovers may have over its curve
UNDER = 0.998  # a chord lies over a curve by less
ROUNDS = 3


def _whole_s(pack: Pack, amps: Array, holds: np.ndarray) -> Array:
    """How long a whole charge lasts at a current over the state of charge, where it holds [s]; shapes (..., N)."""
    slow = np.where(holds, pack.capacity_ah * 3600 / np.maximum(amps + pack.self_discharge_a, 1e-15), 0.0)
    return np.asarray(np.maximum(slow[..., 1:], slow[..., :-1]) @ -np.diff(pack.charge))


def floors_of(ways: list[Filled], source: IdealSource) -> Floors:
    rising = source.volts[::-1]
    fails = np.array([w.fails_v[source.modes] for w in ways]).reshape(len(ways), source.modes.size)
    amps = np.array([w.amps[:, ::-1] for w in ways])
    # while it runs, a mode that has to work has what it needs, in its worst moment and so in its typical ones; another one works in its worst moment or is not asked
    from_v = np.concatenate([np.where(source.needed == 1, fails, 0.0), fails], axis=1)
    amps[np.append(rising[1:], np.inf) < from_v[:, :, None]] = np.inf
    least = np.minimum.accumulate(amps, axis=2)
    least[~np.isfinite(least)] = 0.0
    return Floors(rising, least, source.weights, fails, source.needed)


def together(branches: list[list[Filled]], rest: Filled) -> list[Filled]:
    """Every choice of one way from each branch."""
    found = [rest]
    for ways in branches:
        found = [f.beside(w, rest.amps) for f in found for w in ways]
    return found
