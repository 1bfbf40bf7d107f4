"""How long the battery lasts: the integral of Q dz / I(z) from full to the first failing operating point.

The demand repeats within a day and the battery empties slowly, so the mean current at each state of charge
is enough, and the cost does not depend on how often the gadget wakes. An event-by-event simulation of the
same design, kept with the tests, agrees within 0.5 %.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from ..battery.chemistries import CHEMISTRIES
from ..battery.pack import FINE_POINTS, GRID_POINTS, Pack, pack_at
from ..design import Battery, Design
from ..load.day import Year
from ..load.operating_points import (
    LoadTable,
    OperatingPoint,
    PartDraws,
    RailLoads,
    all_operating_points,
    lasting_peaks_a,
    load_table,
    part_draws,
    state_levels,
)
from ..numeric import Array
from ..supply.attribution import Attribution, attribute
from ..supply.solution import Solution
from ..supply.solver import solve
from ..supply.tree import Tree, build_tree
from .ends import SECONDS_PER_YEAR, BankOff, BankWatch, shelf_s
from .limits import Failure, first_failures
from .powers import Powers


@dataclass(frozen=True)
class Run:
    """One design solved at one temperature. Arrays over states of charge have the pack's shape (N,)."""

    design: Design
    temperature_c: float
    pack: Pack
    tree: Tree
    operating_points: list[OperatingPoint]
    year: Year
    shares: Array
    load_table: LoadTable
    peaks_a: Array
    loads: RailLoads
    all_loads: RailLoads
    typical: Solution
    worst: Solution

    @cached_property
    def point_weights(self) -> Array:
        """Share of the average day in each operating point, shape (operating points,)."""
        return np.array([self.shares[m.mode] * m.share for m in self.operating_points])

    @cached_property
    def rail_of(self) -> list[int]:
        """The position of each part's rail."""
        return [self.design.index.rails[p.rail] for p in self.design.parts]

    @cached_property
    def rail_powered(self) -> np.ndarray:
        """(rails, operating points): the rail has a voltage."""
        return np.asarray(self.tree.rail_powered[:, self.loads.mode])

    @cached_property
    def attribution(self) -> Attribution:
        """Whose the battery's current is, in every operating point at every state of charge."""
        return attribute(self.tree, self.loads, self.typical, self.pack)

    @property
    def marginal_input(self) -> Array:
        """What one ampere on a rail is charged with at the battery, shape (rails, operating points, N)."""
        return self.attribution.rail

    @cached_property
    def _draws(self) -> PartDraws:
        return part_draws(self.design, self.operating_points)

    @cached_property
    def _parts_a(self) -> dict[int, Array]:
        return {}

    def parts_a(self, k: int) -> Array:
        """Current of all copies of each part in each operating point at the k-th state of charge [A], (parts, operating points); nothing
        without power."""
        if k not in self._parts_a:
            volts = self.typical.rail_v[self.rail_of, :, k]
            asked = self._draws.current(volts) * self.rail_powered[self.rail_of]
            self._parts_a[k] = asked * self.typical.given[:, k]
        return self._parts_a[k]

    @cached_property
    def in_mode(self) -> Array:
        """Share of each operating point in each mode, shape (modes, operating points); rows add up to 1."""
        modes = np.arange(len(self.design.modes))[:, None]
        return np.asarray(np.array([m.share for m in self.operating_points]) * (self.loads.mode == modes))

    def powers(self, k: int) -> Powers:
        """Where each watt goes at the k-th state of charge."""
        s = self.typical
        return Powers(
            stage_in=s.stage_input_v[:, :, k] * s.stage_input_a[:, :, k],
            stage_out=s.stage_output_v[:, :, k] * s.stage_output_a[:, :, k],
            rail_w=s.rail_v[:, :, k] * s.rail_a[:, :, k],
            part_w=s.rail_v[self.rail_of, :, k] * self.parts_a(k),
            cell_w=(self.pack.open_circuit_v[k] - s.terminal_v[:, k]) * s.source_a[:, k],
            battery_w=s.terminal_v[:, k] * s.source_a[:, k],
            other_w=s.other_v[:, :, k] * s.other_a[:, :, k],
        )

    @cached_property
    def half(self) -> Powers:
        """Where each watt goes at half charge, where single figures are read off."""
        return self.powers(self.middle)

    @cached_property
    def stage_peak_loss_w(self) -> Array:
        """The most that each stage loses in each operating point at any state of charge [W], (stages, points)."""
        s = self.typical
        losses = [
            np.max(s.stage_input_v[k] * s.stage_input_a[k] - s.stage_output_v[k] * s.stage_output_a[k], axis=-1)
            for k in range(len(self.tree.stages))
        ]
        return np.array(losses).reshape(len(losses), len(self.operating_points))

    def stage_power_w(self, stage: int) -> tuple[float, float]:
        """(mean power into a stage of the tree, mean power out of it) over the day at half charge [W]."""
        weights = self.point_weights
        return float(weights @ self.half.stage_in[stage]), float(weights @ self.half.stage_out[stage])

    @cached_property
    def mode_current_a(self) -> Array:
        """Mean battery current of each mode, shape (modes, N)."""
        return np.asarray(self.in_mode @ self.typical.source_a)

    @cached_property
    def mean_current_a(self) -> Array:
        """Mean battery current over the day, without self-discharge, shape (N,)."""
        return np.asarray(self.shares @ self.mode_current_a)

    @cached_property
    def filtered_current_a(self) -> Array:
        """What the relaxation of the cell has come to feel at the end of each mode's longest stretch [A], (modes, N)."""
        mean = self.mean_current_a
        felt = filtered_current(self.mode_current_a, mean, relaxed_share(self.year, self.pack))
        return felt - mean * _rested(self.pack, mean)

    @cached_property
    def point_filtered_a(self) -> Array:
        """The same at the end of each operating point, which within its mode is followed as far as its length goes [A], (operating
        points, N)."""
        modes = self.loads.mode
        within = self.pack.relaxation.settled(_lengths(self.operating_points))[:, None]
        return np.asarray(
            self.filtered_current_a[modes] + within * (self.typical.source_a - self.mode_current_a[modes])
        )

    @cached_property
    def failures(self) -> list[Failure]:
        return first_failures(
            self.design, self.tree, self.pack, self.operating_points, self.worst, self.point_filtered_a
        )

    def of(self, design: Design) -> Run:
        """The same for a design that differs in nothing that is solved here: its case, its bodies, its words."""
        if design is self.design:
            return self
        found = replace(self, design=design)
        vars(found).update({key: value for key, value in vars(self).items() if key not in vars(found)})
        return found

    def if_days_were(self, shares: Array) -> Run:
        """The same with other shares of the day in the modes, shape (modes,), and the working points as they are."""
        found = replace(self, shares=shares)
        vars(found)["mode_current_a"] = self.mode_current_a
        if (
            self.pack.unavailable_h <= 0
        ):  # else what stays inside the cell depends on the day, and with it where a mode fails
            vars(found)["failures"] = self.failures
        return found

    @cached_property
    def works(self) -> np.ndarray:
        """Where on the grid each operating point still works, its worst moment included, (operating points, N): what is drawn further
        down is never drawn."""
        stops = np.maximum([x.charge for x in self.failures], self.ending[1])[self.loads.mode]
        return np.asarray((self.pack.charge >= stops[:, None]) & ~self.worst.collapsed)

    @cached_property
    def peak_a(self) -> tuple[float, int]:
        """(most battery current in any used mode while it still works [A], index of its operating point)."""
        most = np.max(self.worst.source_a, axis=1, where=self.works, initial=0.0)
        where = int(np.argmax(most)) if most.size else 0
        return (float(most[where]), where) if most.size else (0.0, 0)

    @cached_property
    def ending(self) -> tuple[int, float]:
        """(index of the mode that ends the run, state of charge then); (-1, 0) when all hold until empty."""
        mode, charge = -1, 0.0
        for i, failure in enumerate(self.failures):
            matters = self.design.modes[i].essential and self.shares[i] > 0
            if matters and failure.reason != "empty" and failure.charge > charge:
                mode, charge = i, failure.charge
        return mode, charge

    @cached_property
    def cell_a(self) -> Array:
        """The current of one cell in each operating point at half charge [A], shape (operating points,)."""
        return np.asarray(self.typical.source_a[:, self.middle] / self.design.battery.parallel)

    @cached_property
    def hard_in_the_cold(self) -> bool:
        """Below freezing a cell that nobody measured there is asked for so much that how makes differ counts for more than the model."""
        rate = float(np.max(np.where(self.point_weights > 0, self.typical.source_a[:, self.middle], 0.0), initial=0.0))
        return self.temperature_c < FREEZING_C and rate > HARD_C_RATE * self.pack.printed_ah and self.cold_unknown

    @cached_property
    def cold_unknown(self) -> bool:
        """Nobody measured the cell in the cold, or hardly in such a cold."""
        curve = self.design.battery.cell.curve
        return curve is None or curve.cold is None or self.temperature_c < curve.cold.temperature_c - MEASURED_NEAR_C

    @cached_property
    def beyond_measured(self) -> float:
        """How many times the largest current that its cell was measured at the day asks of it; 0 where that is not known."""
        curve = self.design.battery.cell.curve
        if curve is None or not curve.measured_a:
            return 0.0
        return float(np.max(np.where(self.point_weights > 0, self.cell_a, 0.0), initial=0.0)) / max(curve.measured_a)

    @cached_property
    def elapsed_s(self) -> Array:
        """Time since full at each state of charge of the grid [s], shape (N,)."""
        rate = self.mean_current_a + self.pack.self_discharge_a
        return _elapsed(self.pack, rate)

    @cached_property
    def charge_seconds(self) -> float:
        """What the charge lasts for [s]: until the first essential mode fails."""
        return float(np.interp(-self.ending[1], -self.pack.charge, self.elapsed_s))

    @cached_property
    def shelf_seconds(self) -> float:
        """What the cell itself lasts for [s], whatever is drawn."""
        return shelf_s(self.design.battery)

    @cached_property
    def bank_off(self) -> BankOff | None:
        """The power bank switches itself off before its charge is gone."""
        k = self.middle
        watch = BankWatch(
            self.design, self.year, self.shares, self.mode_current_a[:, k], self.typical.source_a[:, k], self.loads.mode
        )
        found = watch.off()
        return found if found is not None and found.seconds < self.charge_seconds else None

    @property
    def lasting_s(self) -> float:
        """What the run ends at, whatever charge is left [s]: the age of the cell, a bank that switches itself off."""
        return min(self.shelf_seconds, self.bank_off.seconds if self.bank_off else np.inf)

    @cached_property
    def seconds(self) -> float:
        """Runtime [s]: until the first essential mode fails, the power bank switches itself off, or the cell is old."""
        return min(self.charge_seconds, self.lasting_s)

    @cached_property
    def middle(self) -> int:
        """Index of half charge on the grid, where single figures are read off; of the middle of what is used where the run ends
        before that."""
        end = self.ending[1]
        return int(np.argmin(np.abs(self.pack.charge - (0.5 if end <= 0.5 else (1 + end) / 2))))

    @cached_property
    def nonstop_s(self) -> list[float]:
        """Runtime [s] if the gadget stayed in one mode, until that mode fails or the cell is old; for each mode."""
        pack, own = self.pack, self.mode_current_a
        ends = [x.charge for x in self.failures]
        if pack.unavailable_h:
            spare = pack.charge * pack.capacity_ah - pack.unavailable_ah(own * (1 - _rested(pack, own)))
            rising = pack.charge[::-1]
            ends = [max(e, float(np.interp(0.0, row[::-1], rising))) for e, row in zip(ends, spare, strict=True)]
        elapsed, falling = _elapsed(pack, own + pack.self_discharge_a), -pack.charge
        found = (float(np.interp(-e, falling, row)) for e, row in zip(ends, elapsed, strict=True))
        return [min(x, self.shelf_seconds) for x in found]

    def at(self, charge: float, values: Array) -> float:
        """A value on the grid at one state of charge, by linear interpolation."""
        return float(np.interp(-charge, -self.pack.charge, values))


def _elapsed(pack: Pack, rate_a: Array) -> Array:
    """Cumulated trapezoid of Q dz / I along the falling charge, shape (..., N)."""
    slowness = pack.capacity_ah * 3600 / np.maximum(rate_a, 1e-15)
    elapsed = np.zeros_like(slowness)
    np.cumsum(-np.diff(pack.charge) * (slowness[..., 1:] + slowness[..., :-1]) / 2, axis=-1, out=elapsed[..., 1:])
    return elapsed


def run(design: Design, temperature_c: float | None = None, points: int | None = None) -> Run:
    """Solves a design at a temperature [degC] (the brief's usual one by default), over so many states of charge or as many as its end needs.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> round(run(design).seconds / 3600)
    107
    """
    temperature = design.brief.usual_c if temperature_c is None else temperature_c
    tree = build_tree(design)
    operating_points = all_operating_points(design)
    table = load_table(design, operating_points)
    peaks = lasting_peaks_a(design, operating_points)
    both = table.loads(np.array([state_levels(design, x) for x in ("typical", "max")]))
    both = both.with_more(np.concatenate([np.zeros_like(peaks), peaks]))
    year = Year(design.day, design.modes)
    shares = year.shares

    def over(points: int) -> Run:
        pack = pack_at(design.battery, temperature, points=points)
        typical, worst = _settled(tree, both, pack, operating_points, shares, relaxed_share(year, pack))
        return _left_alone(Run(
            design=design,
            temperature_c=temperature,
            pack=pack,
            tree=tree,
            operating_points=operating_points,
            year=year,
            shares=shares,
            load_table=table,
            peaks_a=peaks,
            loads=both.rows(slice(len(operating_points))),
            all_loads=both,
            typical=typical,
            worst=worst,
        ))  # fmt: skip

    return _as_close_as_needed(over) if points is None else over(points)


def _as_close_as_needed(over: Callable[[int], Run]) -> Run:
    """A run over so many states of charge as its end needs: where it comes early, a little of the charge is much of the runtime."""
    found = over(GRID_POINTS)
    return found if is_close(found) else over(FINE_POINTS)


def is_close(state: Run) -> bool:
    """Whether a run over few states of charge is as close as it is ever looked at: its end comes late enough.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> is_close(run(design, points=GRID_POINTS))
    True
    """
    return state.ending[1] <= EARLY


def _left_alone(state: Run) -> Run:
    """With what the cell loses by itself on average over such a run: the self-discharge, which of some kinds falls with the years, and
    what an unplugged charger takes."""
    state, more = _flattened(state), unplugged_a(state.design)
    if not more:
        return state
    return replace(state, pack=replace(state.pack, self_discharge_a=state.pack.self_discharge_a + more))


def unplugged_a(design: Design) -> float:
    """What the charger takes from the battery while nothing is plugged in [A].

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> unplugged_a(design.model_copy(update={"charger": None}))
    0.0
    """
    return design.charger.unplugged_a if design.charger else 0.0


def _flattened(state: Run) -> Run:
    power = CHEMISTRIES[state.design.battery.cell.chemistry].flattens
    if not power or state.design.battery.cell.bank is not None:
        return state
    first = state.pack.self_discharge_a
    for _ in range(FLATTENING_ROUNDS):
        years = min(state.charge_seconds, state.shelf_seconds) / SECONDS_PER_YEAR
        state = replace(state, pack=replace(state.pack, self_discharge_a=first * max(years, 1.0) ** -power))
    return state


FLATTENING_ROUNDS = 4
EARLY = 0.25  # of the charge: a gadget that ends above that is looked at closely where it ends
FREEZING_C, HARD_C_RATE = 0.0, 0.5  # colder and harder than both, the model is rough
MEASURED_NEAR_C = 5.0  # by so much colder a measurement in the cold still holds; a rule of thumb
SLOW_MATTERS_V = 5e-4
MOST_ROUNDS = 8
STEEPEST = 100.0  # how many times as far as it was moved a voltage may swing back


def _settled(
    tree: Tree, loads: RailLoads, pack: Pack, operating_points: list[OperatingPoint], shares: Array, relaxed: Array
) -> tuple[Solution, Solution]:
    """The typical and the worst solution (the first and the second half of the loads), their voltage lowered by what the cell still
    feels of the current before."""
    count = len(operating_points)
    solution = solve(tree, loads, pack)
    if pack.surface or np.any(pack.polarization_ohm > 0):
        lowered = np.zeros((2 * count, pack.charge.size))
        before: tuple[Array, Array] | None = None  # what was tried last, and what came of it
        for _ in range(MOST_ROUNDS):
            felt = _felt(pack, solution.source_a, operating_points, shares, relaxed)
            came = pack.lowered_v(felt, solution.source_a)
            if float(np.max(np.abs(came - lowered), initial=0.0)) < SLOW_MATTERS_V:
                break
            before, lowered = (lowered, came), _meeting(before, lowered, came)
            solution = solve(tree, loads, pack, lowered_v=lowered, near=(solution, before[0]))
    return solution.operating_points(slice(count)), solution.operating_points(slice(count, None))


def _felt(pack: Pack, source_a: Array, operating_points: list[OperatingPoint], shares: Array, relaxed: Array) -> Array:
    """What the relaxation feels in each typical operating point and then in each worst one [A], shape (2 points, N): of the typical
    mean what each mode's longest stretch leaves, and within a mode each operating point as far as its length goes."""
    count = len(operating_points)
    modes = np.array([m.mode for m in operating_points], dtype=int)
    part = np.array([m.share for m in operating_points])[:, None]
    within = pack.relaxation.settled(_lengths(operating_points))[:, None]
    halves: list[Array] = []
    mean = np.zeros(pack.charge.size)
    for half, amps in enumerate((source_a[:count], source_a[count:])):
        mode_a = np.zeros((shares.size, pack.charge.size))
        np.add.at(mode_a, modes, part * amps)
        if half == 0:
            mean = shares @ mode_a
        elif pack.surface:  # the worst moment is one moment: what went before it was typical
            return np.concatenate([halves[0], halves[0]])
        felt = filtered_current(mode_a, mean, relaxed) - mean * _rested(pack, mean)
        halves.append(felt[modes] + within * (amps - mode_a[modes]))
    return np.concatenate(halves)


def _meeting(before: tuple[Array, Array] | None, tried: Array, came: Array) -> Array:
    """Where what is tried and what comes of it meet: by the secant through the last two tries, element by element, as a current
    that follows the voltage may swing more than the voltage did."""
    if before is None:
        return came
    step = tried - before[0]
    slope = np.clip((came - before[1]) / np.where(step == 0, 1.0, step), -STEEPEST, 0.5)
    return np.asarray(np.where(step == 0, came, tried + (came - tried) / (1 - slope)))


def _lengths(operating_points: list[OperatingPoint]) -> Array:
    """How long each operating point lasts at a time [s]; 0 for a duty, which has no length of its own."""
    return np.array([m.seconds or 0.0 for m in operating_points])


def _rested(pack: Pack, mean_a: Array) -> Array:
    """How much of a full cell's rest is left at each state of charge under a mean current, 0..1, shape (N,). A measured
    curve has that in it already."""
    if not pack.surface:
        return np.zeros_like(mean_a)
    return pack.relaxation.left(_elapsed(pack, mean_a + pack.self_discharge_a))


def filtered_current(mode_a: Array, mean_a: Array, relaxed: Array) -> Array:
    """The current that the relaxation of a cell has come to feel at the end of each mode's longest stretch [A].

    Each stretch starts from the day's mean and approaches the mode's own current. Shapes (modes, N), (N,), (modes,).

    >>> import numpy as np
    >>> filtered_current(np.array([[1.0]]), np.array([0.1]), np.array([0.5])).tolist()
    [[0.55]]
    """
    return np.asarray(mean_a + (mode_a - mean_a) * relaxed[:, None])


def relaxed_share(year: Year, pack: Pack) -> Array:
    """How far each mode's longest stretch brings the relaxation to the mode's own current, 0..1, shape (modes,).

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> state = run(design)
    >>> bool((relaxed_share(state.year, state.pack) <= 1).all())
    True
    """
    return pack.relaxation.periodic(*year.longest_s)


def with_battery(before: Run, battery: Battery, temperature_c: float, points: int | None = None) -> Run:
    """The same gadget on another battery, over so many states of charge or as many as its end needs: only the battery's part is worked out anew.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> before = run(design)
    >>> with_battery(before, design.battery, 0.0).seconds < before.seconds
    True
    """
    same = battery is before.design.battery
    design = before.design if same else before.design.model_copy(update={"battery": battery})

    def over(points: int) -> Run:
        pack = pack_at(battery, temperature_c, points=points)
        relaxed = relaxed_share(before.year, pack)
        typical, worst = _settled(before.tree, before.all_loads, pack, before.operating_points, before.shares, relaxed)
        return _left_alone(
            replace(before, design=design, temperature_c=temperature_c, pack=pack, typical=typical, worst=worst)
        )

    return _as_close_as_needed(over) if points is None else over(points)


def without_peaks(before: Run) -> Run:
    """The same gadget as if no peak that lasts ever came.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> before = run(design)
    >>> without_peaks(before).seconds >= before.seconds
    True
    """
    if not np.any(before.peaks_a):
        return before
    nothing = np.zeros_like(before.peaks_a)
    loads = before.all_loads.with_more(-np.concatenate([nothing, before.peaks_a]))
    return with_battery(replace(before, all_loads=loads, peaks_a=nothing), before.design.battery, before.temperature_c)


def rerun(before: Run, design: Design, points: int | None = None) -> Run:
    """`run` for a changed design at the same temperature; what the change does not touch is taken over.

    The day decides only how the operating points are weighted, so a change of the day alone needs no new solution.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> before = run(design)
    >>> rerun(before, design).seconds == before.seconds
    True
    """
    old = before.design
    if design.parts != old.parts or design.modes != old.modes or design.supply != old.supply:
        return run(design, before.temperature_c, points)
    if design.battery != old.battery or unplugged_a(design) != unplugged_a(old):
        return run(design, before.temperature_c, points)
    year = Year(design.day, design.modes)
    changed = replace(before, design=design, year=year, shares=year.shares)
    pack = before.pack
    lowered = pack.surface or np.any(pack.polarization_ohm > 0)  # by what the day's mean takes off the voltage
    flattens = CHEMISTRIES[design.battery.cell.chemistry].flattens > 0  # with how long it lasts
    if lowered or flattens or (changed.ending[1] > EARLY) != (before.ending[1] > EARLY):
        return with_battery(changed, design.battery, before.temperature_c, points)
    return changed
