"""The runtime as an estimate: its median and range from many samples of what is uncertain, and which of it matters.

Propagation of distributions (JCGM 101:2008): every uncertain figure is drawn from its distribution and goes through the
same solver. The samples are a Latin hypercube (M. McKay, R. Beckman, W. Conover, Technometrics 21 (1979) 239) whose columns
are made uncorrelated (R. Iman, W. Conover, Commun. Stat. B 11 (1982) 311). Each input has a column of its own by its name,
so that a change of the design moves the runtime and not the samples. A Sobol sequence of 128 points in hundreds of
dimensions was tried: one pair of columns in a hundred is correlated by more than 0.6.
"""

from __future__ import annotations

import zlib
from collections.abc import Container
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from statistics import NormalDist

import numpy as np

from ..battery.calibration import TRUSTED
from ..battery.chemistries import CHEMISTRIES
from ..battery.chemistry import low_temperature_factor
from ..battery.pack import MEASURED_RESISTANCE, RESISTANCE, Pack, capacity_tolerance, charge_grid, on_grid
from ..design import SwitchingStage
from ..load.operating_points import RailLoads, draw_range, state_levels
from ..numeric import Array, percentiles
from ..supply.solver import solve
from .deciles import deciles
from .in_the_cold import cold_span, coldness, held_more, left_by, resistance_by_cold, uneven_in_the_cold
from .limits import ending_charges
from .run import EARLY, Run
from .spans import Span, draw_span, drawn_values, factor

AT_EVERY_EDIT, ON_DEMAND = 256, 1024
LEAST_SAMPLES = 128
RATES = np.array([0.3, 0.5, 0.7, 1.0, 1.4, 2.0, 3.0])  # factors on the unavailable charge that voltages are made for
MOST_VALUES = 4_000_000  # samples times states
# The states of charge that samples are looked at on; what they miss is made up for by the typical design on the same grid.
NEAR_EMPTY = 0.15  # where the typical gadget ends below that, the others end close to it
# from so many times its end to so many times and a little more, with so many points between
FEW, MORE = (0.5, 1.3, 0.03, 3), (0.4, 1.8, 0.05, 9)
# of one that ends early: points all over, from 0.2 to 20 % below full, and around its end by so much of what is used until then
ALL_OVER, BELOW_FULL, AROUND = 34, 1 - np.geomspace(0.002, 0.2, 10), np.linspace(0.7, 1.3, 5)
BINS = 16
MOST_OWNERS = 16  # what comes after them causes nothing

# 10th to 50th to 90th percentile as a factor; rules of thumb where no source is named
MOST_WIDER = 4.0  # times the trusted current, from where on the range is no wider
SELF_DISCHARGE = 1.6  # between makes
# how long cells keep, between makes and places; looked at where the charge lasts nearly as long
SHELF, NEAR_SHELF = 1.4, 0.4
RATE, RATE_UNTOLD = 1.4, 2.5  # of the charge that does not come up; of lithium-ion cells whose electrodes nobody told
# of the capacity in an hour; above, cells of one kind and size give very differently (docs/VALIDATION.md)
GENTLE_C = 0.5
COLD_RESISTANCE = 1.6  # times the spread between makes, where a cell is asked for much below freezing
WIDE_COLD = 0.4  # as cold as 15 degC and below, samples lie far apart
AGEING = 2.0  # between makes (Schmalstieg et al. 2014)
FULL_AT_LEAST = 0.96  # one charge in ten ends before that
STAGE_LOSS = 1.25  # board, inductor and temperature against the datasheet's curve
QUIESCENT = 1.5  # typical to most in datasheets


@dataclass(frozen=True)
class Uncertain:
    """One input. `kind` is draw (of a part's state), efficiency or quiescent (of a stage), or something of the cell or of
    the use; `subject` the part's or stage's id."""

    kind: str
    subject: str = ""
    state: str = ""


@dataclass(frozen=True)
class Owner:
    """An input, its first-order index (0..1), and the 10th and 90th percentile [s] if it were known exactly."""

    input: Uncertain
    share: float
    known_low_s: float
    known_high_s: float


@dataclass(frozen=True)
class Samples:
    """Runtimes of all samples [s], shape (samples,), and the standard normal positions of the inputs behind them, shape
    (samples, inputs). `draws` are what of them is drawn by parts."""

    seconds: Array
    inputs: list[Uncertain]
    normal: Array
    loads: RailLoads
    draws: list[_Drawn]

    def percentile(self, percent: float) -> float:
        return float(np.percentile(self.seconds, percent))

    @cached_property
    def _deciles(self) -> tuple[float, float, float]:
        return deciles(self.seconds, self.normal)

    @property
    def low(self) -> float:
        """10th percentile [s]."""
        return self._deciles[0]

    @property
    def median(self) -> float:
        return self._deciles[1]

    @property
    def high(self) -> float:
        """90th percentile [s]."""
        return self._deciles[2]

    @cached_property
    def owners(self) -> list[Owner]:
        """The inputs in order of what they explain of the range."""
        return _owners(self.inputs, self.normal, self.seconds)


def sample_runtime(state: Run, wanted: int = AT_EVERY_EDIT, like: Samples | None = None) -> Samples:
    """So many runtimes (a power of two) of a design with its uncertain inputs drawn anew each time. `like` are samples of
    the same gadget at another temperature: what is the same is taken over.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.runtime.run import run
    >>> samples = sample_runtime(run(design))
    >>> samples.low < samples.median < samples.high
    True
    """
    used = np.flatnonzero(state.point_weights > 0)
    draws = _draws(state, used) if like is None else like.draws
    others = _others(state)
    while wanted > LEAST_SAMPLES and sum(len(p.states) for p in state.design.parts) * wanted > MOST_VALUES:
        wanted //= 2
    inputs = [*others, *(x.input for x in draws)]
    if like is not None and like.inputs == inputs and like.seconds.size == wanted:
        normal, loads = like.normal, like.loads
    else:
        normal = _positions(tuple(inputs), wanted)
        values = np.tile(np.array(state_levels(state.design, "typical")), (wanted, 1))
        if draws:
            values[:, [x.column for x in draws]] = drawn_values([x.span for x in draws], normal[:, len(others) :])
        loads = state.load_table.loads(values, used)
    factors = dict(zip(others, drawn_values(list(others.values()), normal[:, : len(others)]).T, strict=True))
    charges = _charges(state.ending[1])
    if uneven_in_the_cold(state) and coldness(state.temperature_c) > WIDE_COLD and state.ending[1] <= NEAR_EMPTY:
        charges = np.union1d(charges, _charges(NEAR_EMPTY * 1.01))[
            ::-1
        ]  # makes that mind the cold end far earlier than the typical one
    seconds, ends = _runtimes(state, used, loads, factors, charges)
    if state.ending[1] <= EARLY < np.median(ends):  # it was looked for in the wrong place
        seconds, _ = _runtimes(state, used, loads, factors, _charges(float(np.median(ends))))
    return Samples(seconds, inputs, normal, loads, draws)


def _runtimes(
    state: Run, used: np.ndarray, loads: RailLoads, factors: dict[Uncertain, Array], charges: Array
) -> tuple[Array, Array]:
    """(runtimes [s], states of charge at their ends) of all samples on a grid of states of charge, each of shape (samples,)."""
    pack = on_grid(state.pack, state.design.battery, state.temperature_c, charges)
    coarse = _Coarse(state, replace(pack, transfer_v=0.0), used)
    seconds, ends, typical_s = coarse.seconds(loads, factors)
    missed = state.charge_seconds / typical_s if typical_s > 0 else 1.0
    kept = state.shelf_seconds * factors.get(Uncertain("shelf"), 1.0)  # the cell itself, whatever charge is left
    return np.minimum(seconds * missed, np.minimum(kept, state.bank_off.seconds if state.bank_off else np.inf)), ends


def _charges(end: float) -> Array:
    """The states of charge to look at samples on: few, and close to where the typical gadget ends, as the current between is smooth and the end is what
    has to be seen. Where that is early, all over, and denser the nearer to full, as there a little of the charge is much of the runtime."""
    if end > EARLY:
        points = np.concatenate([charge_grid(ALL_OVER), BELOW_FULL, 1 - (1 - end) * AROUND])
        return np.unique(np.clip(points, 0.0, 1.0))[::-1]
    least, most, more, count = FEW if end <= NEAR_EMPTY else MORE
    high = most * end + more
    return np.unique([1.0, (1 + high) / 2, *np.linspace(high, least * end, count), 0.0])[::-1]


@dataclass(frozen=True)
class _Drawn:
    input: Uncertain
    column: int
    span: Span


def _draws(state: Run, used: np.ndarray) -> list[_Drawn]:
    """The states that occur in a day and are not known exactly, with their column among all states."""
    occurring = {(p, s.name) for m in used for p, s in enumerate(state.operating_points[m].states) if s is not None}
    found: list[_Drawn] = []
    column = 0
    for p, part in enumerate(state.design.parts):
        for own in part.states:
            if (p, own.name) in occurring:
                span = draw_span(draw_range(own)[0], own.provenance)
                if span.max > span.min:
                    found.append(_Drawn(Uncertain("draw", part.id, own.name), column, span))
            column += 1
    return found


def _others(state: Run) -> dict[Uncertain, Span]:
    """What is uncertain of the cell, the stages and the use, each as a factor on its typical figure."""
    design, battery = state.design, state.design.battery
    low, high = capacity_tolerance(battery.cell)
    measured = battery.cell.curve is not None or battery.cell.measured_ohm is not None
    found = {
        Uncertain("capacity"): Span(1 + low, 1.0, 1 + high),
        Uncertain("resistance"): factor(_measured(state))
        if measured
        else Span(1 / RESISTANCE, 1.0, RESISTANCE * _asked_hard(state)),
        Uncertain("self-discharge"): factor(SELF_DISCHARGE),
    }
    if state.pack.unavailable_h > 0:  # of lithium-ion cells nobody tells how thick their electrodes are
        untold = battery.cell.chemistry == "lithium-ion" and battery.cell.curve is None
        found[Uncertain("rate")] = factor(RATE_UNTOLD if untold else RATE)
    if low_temperature_factor(battery.cell.chemistry, state.temperature_c) < 1:
        found[Uncertain("cold")] = cold_span(state)
    if state.charge_seconds > NEAR_SHELF * state.shelf_seconds:
        found[Uncertain("shelf")] = factor(SHELF)
    if any(s.key == "age" for s in state.pack.shares):
        found[Uncertain("ageing")] = factor(AGEING)
    if CHEMISTRIES[battery.cell.chemistry].rechargeable and battery.cell.bank is None:
        found[Uncertain("start")] = Span(FULL_AT_LEAST, 1.0, 1.0)
    if design.day.sessions and design.brief.use_factor > 1:
        found[Uncertain("use")] = factor(design.brief.use_factor)
    for stage in state.tree.stages:
        if isinstance(stage, SwitchingStage):
            found[Uncertain("efficiency", stage.id)] = factor(STAGE_LOSS)
        if getattr(stage, "quiescent_a", 0.0) > 0:
            found[Uncertain("quiescent", stage.id)] = factor(QUIESCENT)
    return found


def _measured(state: Run) -> float:
    """The factor on a measured resistance: wider where the cell is used beyond the currents that it was measured at."""
    beyond = state.beyond_measured
    return MEASURED_RESISTANCE * (min(beyond / TRUSTED, MOST_WIDER) ** 0.5 if beyond > TRUSTED else 1.0)


def _asked_hard(state: Run) -> float:
    """Factor on how far a typical resistance may be exceeded: with more than half the capacity in an hour it grows with what is asked."""
    asked = float(np.max(np.where(state.point_weights > 0, state.typical.source_a[:, state.middle], 0.0), initial=0.0))
    hard = 1.0 + max(asked / state.pack.printed_ah - GENTLE_C, 0.0)
    return max(hard, COLD_RESISTANCE) if state.hard_in_the_cold and not uneven_in_the_cold(state) else hard


@lru_cache(maxsize=4096)
def _column(key: str, count: int) -> Array:
    """One input's standard normal positions: a point in each of `count` equally likely strata, in an order of its own."""
    random = np.random.default_rng(zlib.crc32(key.encode()))
    normal = NormalDist()
    column = np.array([normal.inv_cdf(p) for p in (random.permutation(count) + random.random(count)) / count])
    column.flags.writeable = False
    return column


@lru_cache(maxsize=32)
def _positions(inputs: tuple[Uncertain, ...], count: int) -> Array:
    """The inputs' positions, shape (count, inputs), each column uncorrelated with those before it."""
    raw = np.stack([_column(f"{x.kind}/{x.subject}/{x.state}", count) for x in inputs], axis=1)
    if len(inputs) > count // 2:
        return raw
    free, triangle = np.linalg.qr(raw - raw.mean(axis=0))
    free = free * np.sign(np.diag(triangle))
    ranks = np.argsort(np.argsort(free, axis=0), axis=0)
    return np.take_along_axis(np.sort(raw, axis=0), ranks, axis=0)


class _Coarse:
    """The operating points that a day has, on a coarse grid of states of charge, for any number of samples."""

    def __init__(self, state: Run, pack: Pack, used: np.ndarray) -> None:
        self.state, self.pack, self.used = state, pack, used
        self.operating_points = [state.operating_points[m] for m in used]
        self.weights = state.point_weights[used]
        fine = state.pack.charge
        after = np.clip(np.searchsorted(-fine, -pack.charge), 1, fine.size - 1)
        part = (fine[after - 1] - pack.charge) / (fine[after - 1] - fine[after])

        def coarse(table: Array) -> Array:
            return np.asarray(table[..., after - 1] * (1 - part) + table[..., after] * part)

        self.filtered_current = coarse(state.point_filtered_a[used])
        self.typical_a = coarse(_held(state.typical.source_a[used], state.typical.collapsed[used]))
        rates = RATES if state.pack.surface else RATES[:1]
        filtered, present = state.point_filtered_a[used], state.typical.source_a[used]
        spared = (
            coarse(state.pack.transfer_spared_v(present)) if state.pack.transfer_v > 0 else 0.0
        )  # as in the typical gadget
        self.slow_v = np.stack([coarse(state.pack.lowered_v(filtered, present, rate)) - spared for rate in rates])
        self.fast_v = pack.resistance_ohm * self.typical_a
        self.coarse = coarse

    def seconds(self, loads: RailLoads, factors: dict[Uncertain, Array]) -> tuple[Array, Array, float]:
        """(runtimes [s], states of charge at their ends, the typical gadget's runtime on this grid [s]), shape (samples,); `loads` of the
        operating points of all samples, `factors` of shape (samples,) by input."""
        count, pack, state = len(self.operating_points), self.pack, self.state
        samples = loads.mode.size // count
        one = np.ones(samples)

        def of(kind: str) -> Array:
            return factors.get(Uncertain(kind), one)

        resistance = of("resistance") * resistance_by_cold(self.state, of("cold"))
        lowered = self._slow_v(of("rate")) + (resistance - 1)[:, None, None] * self.fast_v[None]
        lowered = lowered.reshape(samples * count, -1)
        solution = solve(state.tree, loads, pack, lowered_v=lowered, rough=True)
        weights = self.weights + (of("use") - 1)[:, None] * self._by_use()
        weights = np.maximum(weights, 0.0)
        weights /= weights.sum(axis=1, keepdims=True)
        source_a = _held(solution.source_a, solution.collapsed)
        amps = np.einsum("sm,smz->sz", weights, source_a.reshape(samples, count, -1))
        for one_input, own in _stage_currents(state, self.used, factors).items():
            amps += (factors[one_input] - 1)[:, None] * self.coarse(own.T @ self.weights)
        ends = ending_charges(
            state.design, state.tree, pack, self.operating_points, solution, self.filtered_current, of("rate")
        )
        ends = np.maximum(ends, self._ended_by_peaks(loads, lowered, of("rate")))
        capacity = (
            of("capacity")
            * of("start")
            * left_by(self.state, "temperature", of("cold"))
            * held_more(self.state, of("cold"))
            * left_by(self.state, "age", of("ageing"))
        )
        rate = np.maximum(amps, 0.0) + pack.self_discharge_a * of("self-discharge")[:, None]
        typical = self.typical_a.T @ self.weights + pack.self_discharge_a
        until = self._until(np.vstack([typical, rate]), np.concatenate([[state.ending[1]], ends]))
        return capacity * until[1:], ends, float(until[0])

    def _ended_by_peaks(self, loads: RailLoads, lowered_v: Array, rate: Array) -> Array:
        """States of charge at which the peaks that last end each sample, (samples,): of the operating points that have one; 0 where none does."""
        peaks, modes = self.state.peaks_a[self.used], self.state.design.modes
        essential = np.array([modes[m.mode].essential for m in self.operating_points], dtype=bool)  # others end nothing
        there = np.flatnonzero(peaks.any(axis=1) & essential)
        if not there.size:
            return np.zeros_like(rate)
        rows = (np.arange(rate.size)[:, None] * len(self.operating_points) + there).ravel()
        more = loads.rows(rows).with_more(np.tile(peaks[there], (rate.size, 1)))
        solution = solve(self.state.tree, more, self.pack, lowered_v=lowered_v[rows], rough=True)
        return ending_charges(
            self.state.design, self.state.tree, self.pack, [self.operating_points[k] for k in there], solution,
            self.filtered_current[there], rate,
        )  # fmt: skip

    def _slow_v(self, rate: Array) -> Array:
        """What relaxation takes off the voltage in each sample [V], linear between `RATES`; (samples or 1, operating points, N)."""
        if self.slow_v.shape[0] == 1:
            return self.slow_v
        k = np.clip(np.searchsorted(RATES, rate), 1, RATES.size - 1)
        part = np.clip((rate - RATES[k - 1]) / (RATES[k] - RATES[k - 1]), 0.0, 1.0)[:, None, None]
        return np.asarray(self.slow_v[k - 1] * (1 - part) + self.slow_v[k] * part)

    def _by_use(self) -> Array:
        """What of each operating point's weight belongs to sessions, and is missing at rest for it: adds up to 0, (operating points,)."""
        by_mode = self.state.year.by_use
        return np.array([by_mode[m.mode] * m.share for m in self.operating_points])

    def _until(self, rate_a: Array, ends: Array) -> Array:
        """Time from full to a state of charge [s] at rates (samples, N), shape (samples,)."""
        z = self.pack.charge
        slow = self.pack.capacity_ah * 3600 / np.maximum(rate_a, 1e-15)
        steps = -np.diff(z) * (slow[:, 1:] + slow[:, :-1]) / 2
        elapsed = np.concatenate([np.zeros((rate_a.shape[0], 1)), np.cumsum(steps, axis=1)], axis=1)
        k = np.asarray(np.clip(np.searchsorted(-z, -ends), 1, z.size - 1))
        part = (z[k - 1] - ends) / (z[k - 1] - z[k])
        rows = np.arange(rate_a.shape[0])
        # the last piece with the rate at its end, as that may fall to nothing by the next point of the grid
        last = rate_a[rows, k - 1] + part * (rate_a[rows, k] - rate_a[rows, k - 1])
        slow_end = self.pack.capacity_ah * 3600 / np.maximum(last, 1e-15)
        return np.asarray(elapsed[rows, k - 1] + (z[k - 1] - ends) * (slow[rows, k - 1] + slow_end) / 2)


def _held(source_a: Array, collapsed: np.ndarray) -> Array:
    """The source's currents, where it has collapsed those of the state of charge before: the run ends there, and the current between two states of
    charge is taken from both. Shapes (rows, N)."""
    if not collapsed.any():
        return source_a
    holds = np.maximum.accumulate(np.where(collapsed, 0, np.arange(source_a.shape[1])), axis=1)
    return np.take_along_axis(source_a, holds, axis=1)


def _stage_currents(state: Run, used: np.ndarray, wanted: Container[Uncertain]) -> dict[Uncertain, Array]:
    """What the losses and the quiescent current of each stage take from the battery [A] that are among the inputs wanted, in the operating points
    used, shape (used, N): to first order in a factor on them."""
    typical, own = state.typical, state.attribution
    found: dict[Uncertain, Array] = {}
    for s, stage in enumerate(state.tree.stages):
        quiescent, efficiency = Uncertain("quiescent", stage.id), Uncertain("efficiency", stage.id)
        if quiescent not in wanted and efficiency not in wanted:
            continue
        into, input_a = own.into[s][used], typical.stage_input_a[s][used]
        off = state.tree.off[s, state.loads.mode[used]][:, None]
        idle = np.where(off | (input_a <= 0), 0.0, getattr(stage, "quiescent_a", 0.0))
        if quiescent in wanted:
            found[quiescent] = idle * into
        if efficiency in wanted:
            volts = np.maximum(typical.stage_input_v[s][used], 1e-3)
            out = typical.stage_output_v[s][used] * typical.stage_output_a[s][used] / volts
            found[efficiency] = np.maximum(np.where(off, 0.0, input_a - out - idle), 0.0) * into
    return found


def _owners(inputs: list[Uncertain], normal: Array, seconds: Array) -> list[Owner]:
    """The inputs that cause most of the range, with their first-order indices, Var(E[ln t | input]) / Var(ln t). With many
    samples from the means in bins of the input (E. Plischke, Reliab. Eng. Syst. Saf. 95 (2010) 354); with few from the
    regression on it, which sees only what rises or falls steadily."""
    logs = np.log(np.maximum(seconds, 1e-9))
    certain = float(logs.var()) <= 1e-12
    explain = _binned if logs.size >= 4 * LEAST_SAMPLES else _fitted
    parts, shares = explain(normal, logs)
    first = np.argsort(-shares, kind="stable")[:MOST_OWNERS]
    chosen = parts[:, first]
    left = logs[:, None] - chosen + percentiles(chosen, [50])[0]
    low, high = (np.exp(x) for x in percentiles(left, [10, 90]))
    return [
        Owner(inputs[k], 0.0 if certain else min(float(shares[k]), 1.0), float(low[i]), float(high[i]))
        for i, k in enumerate(first)
    ]


def _fitted(normal: Array, logs: Array) -> tuple[Array, Array]:
    """(what a straight line through the logarithms explains, shape (samples, inputs), its share of the variance)."""
    centred = normal - normal.mean(axis=0)
    squares = np.einsum("si,si->i", centred, centred)
    slope = (logs - logs.mean()) @ centred / squares
    shares = slope * slope * (squares / logs.size) / max(float(logs.var()), 1e-30)
    return slope * centred, np.maximum(shares - 1 / logs.size, 0.0)


def _binned(normal: Array, logs: Array) -> tuple[Array, Array]:
    """(the mean of each sample's bin, shape (samples, inputs), what the bins' means vary by as a share of the variance)."""
    size, spread = logs.size // BINS, float(logs.var())
    order = np.argsort(normal, axis=0)
    means = logs[order].reshape(BINS, size, -1).mean(axis=1)
    noise = spread / size  # what the bins' means would scatter by if the input did nothing
    explained = np.empty_like(normal)
    np.put_along_axis(explained, order, np.repeat(means, size, axis=0) - float(logs.mean()), axis=0)
    if spread <= noise:
        return explained, np.zeros(normal.shape[1])
    return explained, np.maximum(means.var(axis=0) - noise, 0.0) / (spread - noise)
