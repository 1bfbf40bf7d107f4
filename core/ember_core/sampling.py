"""The runtime's range from many samples of what is uncertain, and which of it matters.

Every uncertain figure is drawn from a distribution with its least and most as 10th and 90th percentile and its typical
value as median (two half log-normal ones), at the points of a scrambled Sobol sequence (I. M. Sobol, USSR Comput. Math.
Math. Phys. 7 (1967) 86; scipy.stats.qmc), and goes through the same solver. The share of the spread that one input owns
is its first-order index, Var(E[ln t | input]) / Var(ln t), read off the samples themselves in bins of the input
(E. Plischke, Reliab. Eng. Syst. Saf. 95 (2010) 354).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtri
from scipy.stats import qmc

from .chemistry import Array
from .demand import draw_range, sampled_loads, state_levels
from .failures import first_failing_charges
from .pack import OUTER_DECILE, Pack, capacity_tolerance, charge_grid, pack_at
from .runtime import Run
from .spread import SELF_DISCHARGE_FACTOR
from .supply import solve

POWER, LEAST_POWER = 10, 7  # 2 ** POWER samples; fewer for very large designs
MOST_VALUES = 4_000_000  # samples times states
CHARGES = 13  # states of charge; what they miss is made up for by the typical design on the same grid
BINS = 16
RESISTANCE_FACTOR = 1.4  # between makes, 10th to 50th percentile


@dataclass(frozen=True)
class Uncertain:
    """One input: a part's state (by position and name), or what `kind` says of the cell. Percentiles as factors on the
    typical value, or as values where that is 0."""

    kind: str
    part: int = -1
    state: str = ""


@dataclass(frozen=True)
class Owner:
    """An input, its share of the spread (0..1), and the 10th and 90th percentile [s] if it were known exactly."""

    input: Uncertain
    share: float
    known_low_s: float
    known_high_s: float


@dataclass(frozen=True)
class Samples:
    """Runtimes of all samples [s], shape (samples,), and the inputs in order of their share."""

    seconds: Array
    owners: list[Owner]

    def percentile(self, percent: float) -> float:
        return float(np.percentile(self.seconds, percent))


def sample_runtime(state: Run, seed: int = 0, power: int = POWER) -> Samples:
    """2 ** power runtimes of a design with its uncertain inputs drawn anew each time."""
    used = np.flatnonzero(state.moment_weights > 0)
    inputs, columns = _inputs(state, used)
    states = sum(len(p.states) for p in state.design.parts)
    while power > LEAST_POWER and states << power > MOST_VALUES:
        power -= 1
    normal = ndtri(qmc.Sobol(len(inputs), scramble=True, seed=seed).random_base2(power))
    values = np.tile(np.array(state_levels(state.design, "typical")), (normal.shape[0], 1))
    for i, (column, (least, typical, most)) in enumerate(columns):
        values[:, column] = drawn(normal[:, i], least, typical, most)
    low, high = capacity_tolerance(state.design.battery.cell)
    capacity = drawn(normal[:, -3], 1 + low, 1.0, 1 + high)
    resistance = drawn(normal[:, -2], 1 / RESISTANCE_FACTOR, 1.0, RESISTANCE_FACTOR)
    own = drawn(normal[:, -1], 1 / SELF_DISCHARGE_FACTOR, 1.0, SELF_DISCHARGE_FACTOR)
    pack = pack_at(state.design.battery, state.temperature_c, charge_grid(CHARGES))
    coarse = _Coarse(state, pack, used)
    missed = state.seconds / coarse.typical_s if coarse.typical_s > 0 else 1.0
    seconds = coarse.seconds(values, capacity, resistance, own) * missed
    return Samples(seconds, _owners(inputs, normal, seconds))


def drawn(normal: Array, least: float, typical: float, most: float) -> Array:
    """Values at standard normal positions, with `least`, `typical`, `most` as 10th, 50th and 90th percentile."""
    if typical <= 0 or least <= 0:
        steps: Array = np.where(normal < 0, typical - least, most - typical)
        return np.maximum(typical + steps / OUTER_DECILE * normal, 0.0)
    below, above = math.log(typical / least), math.log(most / typical)
    side: Array = np.where(normal < 0, below, above)
    return np.asarray(typical * np.exp(side / OUTER_DECILE * normal))


def _inputs(state: Run, used: np.ndarray) -> tuple[list[Uncertain], list[tuple[int, tuple[float, float, float]]]]:
    """What is drawn: the states that occur in a day, then capacity, resistance and self-discharge of the cell; for the
    states also their column and (least, typical, most)."""
    occurring = {(p, s.name) for m in used for p, s in enumerate(state.moments[m].states) if s is not None}
    found: list[Uncertain] = []
    columns: list[tuple[int, tuple[float, float, float]]] = []
    column = 0
    for p, part in enumerate(state.design.parts):
        for own in part.states:
            span, _ = draw_range(own)
            least, most = span.bounds(own.provenance)
            if (p, own.name) in occurring and most > least:
                found.append(Uncertain("draw", p, own.name))
                columns.append((column, (least, span.typical, most)))
            column += 1
    return [*found, Uncertain("capacity"), Uncertain("resistance"), Uncertain("self-discharge")], columns


class _Coarse:
    """The moments that a day has, on a coarse grid of states of charge, for any number of samples."""

    def __init__(self, state: Run, pack: Pack, used: np.ndarray) -> None:
        self.state, self.pack, self.used = state, pack, used
        self.moments = [state.moments[m] for m in used]
        self.weights = state.moment_weights[used]
        rising = state.pack.charge[::-1]

        def coarse(table: Array) -> Array:
            return np.stack([np.interp(pack.charge, rising, row[::-1]) for row in table])

        self.sustained = coarse(state.sustained_a)
        modes = [m.mode for m in self.moments]
        self.slow_v = pack.slow_ohm * self.sustained[modes]
        self.fast_v = pack.resistance_ohm * coarse(state.typical.source_a[used])
        self.essential = np.array([m.essential for m in state.design.modes]) & (state.shares > 0)
        rate = coarse(state.typical.source_a[used]).T @ self.weights + pack.self_discharge_a
        self.typical_s = float(self._until(rate[None, :], np.array([state.ending[1]]))[0])

    def seconds(self, values: Array, capacity: Array, resistance: Array, own: Array) -> Array:
        """Runtimes [s], shape (samples,); `values` (samples, states), the others factors of shape (samples,)."""
        samples, count, pack, state = values.shape[0], len(self.moments), self.pack, self.state
        lowered = self.slow_v[None] + (resistance - 1)[:, None, None] * self.fast_v[None]
        solution = solve(
            state.tree, sampled_loads(state.design, self.moments, values), pack,
            lowered_v=lowered.reshape(samples * count, -1),
        )  # fmt: skip
        amps = np.tensordot(self.weights, solution.source_a.reshape(samples, count, -1), (0, 1))
        fails = first_failing_charges(state.design, state.tree, pack, self.moments, solution, self.sustained, samples)
        ends = np.max(fails[:, self.essential], axis=1, initial=0.0)
        return capacity * self._until(amps + pack.self_discharge_a * own[:, None], ends)

    def _until(self, rate_a: Array, ends: Array) -> Array:
        """Time from full to a state of charge [s] at rates (samples, N), shape (samples,)."""
        z = self.pack.charge
        slow = self.pack.capacity_ah * 3600 / np.maximum(rate_a, 1e-15)
        steps = -np.diff(z) * (slow[:, 1:] + slow[:, :-1]) / 2
        elapsed = np.concatenate([np.zeros((rate_a.shape[0], 1)), np.cumsum(steps, axis=1)], axis=1)
        k = np.asarray(np.clip(np.searchsorted(-z, -ends), 1, z.size - 1))
        part = (z[k - 1] - ends) / (z[k - 1] - z[k])
        rows = np.arange(rate_a.shape[0])
        return np.asarray(elapsed[rows, k - 1] + part * (elapsed[rows, k] - elapsed[rows, k - 1]))


def _owners(inputs: list[Uncertain], normal: Array, seconds: Array) -> list[Owner]:
    logs = np.log(np.maximum(seconds, 1e-9))
    spread = float(logs.var())
    size = logs.size // BINS
    found = []
    for k, one in enumerate(inputs):
        order = np.argsort(normal[:, k])
        means = logs[order].reshape(BINS, size).mean(axis=1)
        noise = spread / size  # what the bins' means would scatter by if the input did nothing
        share = max(float(means.var()) - noise, 0.0) / (spread - noise) if spread > 1e-12 else 0.0
        rest = logs[order] - np.repeat(means, size) + float(np.median(logs))
        low, high = np.exp(np.percentile(rest, [10, 90]))
        found.append(Owner(one, min(share, 1.0), float(low), float(high)))
    return sorted(found, key=lambda o: -o.share)
