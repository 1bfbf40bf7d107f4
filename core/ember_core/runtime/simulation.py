"""The battery event by event: what the day does to its charge and voltage, wake by wake (`battery/state.py`). Within a stretch in
which the charge changes by less than `STEP` the currents are those at its start.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import inf

import numpy as np

from ..battery.state import after, settled_at, terminal_v
from ..load.events import Events, Scheduler
from ..numeric import Array
from .run import Run

STEP = 0.002  # of the charge
FINE = 16  # times finer, once a long event would end the run


@dataclass(frozen=True)
class Piece:
    """Some events as they happened; arrays of shape (events,): start [s], length [s], operating point, battery current [A],
    terminal voltage at the end [V], state of charge at the end."""

    start_s: Array
    seconds: Array
    moment: np.ndarray
    current_a: Array
    voltage_v: Array
    charge: Array


class Simulation:
    """A battery under its day. `advance` takes events one batch after the other until a mode fails."""

    def __init__(self, state: Run, charge: float = 1.0) -> None:
        self.state, self.elapsed_s = state, 0.0
        self.ended_by: int | None = None
        pack = state.pack
        self.step = STEP
        begun = charge < 1 or not pack.surface  # a measured curve is that of a steady discharge
        self.battery = settled_at(pack, charge, state.at(charge, state.mean_current_a) if begun else 0.0)
        essential = [m.essential for m in state.design.modes]
        self.essential = np.array(essential)[[m.mode for m in state.operating_points]]
        # the terminal voltage below which an operating point fails, and the state of charge where that is all that counts
        self.fails_v, self.fails_at = (
            np.full(len(state.operating_points), -inf),
            np.full(len(state.operating_points), -inf),
        )
        for failure, matters in zip(state.failures, essential, strict=True):
            if not matters or failure.reason in ("empty", "kinetics"):
                continue
            rows = [
                i for i, m in enumerate(state.operating_points) if m.mode == state.operating_points[failure.moment].mode
            ]
            if pack.surface and failure.charge < 1:
                self.fails_v[failure.moment] = state.at(failure.charge, state.worst.terminal_v[failure.moment])
            else:
                self.fails_at[rows] = failure.charge

    def advance(self, events: Events, *, keep: bool = False) -> list[Piece]:
        """Lets events happen. Returns them if they are to be kept; stops at the first that does not hold."""
        pack = self.state.pack
        moment, seconds = events.moment, events.seconds
        kept: list[Piece] = []
        position = 0
        while position < moment.size and self.ended_by is None:
            amps = self._currents()
            chosen = slice(position, position + self._together(amps[moment[position:]], seconds[position:]))
            now, lengths = moment[chosen], seconds[chosen]
            count = now.size
            if count == 1 and (whole := self._share(amps[now], lengths)) > self.step:
                # a long event: only the part that changes the charge by a step
                count, lengths = 0, lengths * (self.step / whole)
            then = after(pack, self.battery, amps[now], lengths)
            empty = then.charge * pack.capacity_ah < pack.unavailable_ah(then.felt_a)
            fails = (then.charge < self.fails_at[now]) | self._too_low(now, then.charge, then.felt_a)
            lost = (self.essential[now] & (fails | empty)) | (then.charge <= 0)
            if lost.any() and count == 0 and self.step == STEP:
                self.step = STEP / FINE
                continue
            if count == 0:
                seconds = seconds.copy()
                seconds[position] -= lengths[0]
            last = int(np.argmax(lost)) if lost.any() else now.size - 1
            if lost.any():
                self.ended_by = int(now[last])
            happened = slice(last + 1)
            starts = self.elapsed_s + np.cumsum(lengths) - lengths
            if keep:
                volts = terminal_v(pack, then.charge, then.felt_a, amps[now])
                columns = (starts, lengths, now, amps[now], volts, then.charge)
                kept.append(Piece(*(x[happened] for x in columns)))
            self.battery = then.state(last)
            self.elapsed_s = float(starts[last] + (0.0 if self.ended_by is not None else lengths[last]))
            position += count
        return kept

    def _share(self, amps: Array, seconds: Array) -> float:
        """How much of the charge some events take."""
        pack = self.state.pack
        return float(np.sum((amps + pack.self_discharge_a) * seconds)) / (pack.capacity_ah * 3600)

    def _together(self, amps: Array, seconds: Array) -> int:
        """How many of the next events change the charge by less than a step; one at least."""
        pack = self.state.pack
        taken = np.cumsum((amps + pack.self_discharge_a) * seconds)
        return max(1, int(np.searchsorted(taken, self.step * pack.capacity_ah * 3600)))

    def _currents(self) -> Array:
        """The battery current of every operating point at the present charge [A]."""
        charge = self.state.pack.charge
        k = int(np.clip(np.searchsorted(-charge, -self.battery.charge), 1, charge.size - 1))
        part = (charge[k - 1] - self.battery.charge) / (charge[k - 1] - charge[k])
        table = self.state.typical.source_a
        return np.asarray(table[:, k - 1] * (1 - part) + table[:, k] * part)

    def _too_low(self, now: np.ndarray, charge: Array, felt: Array) -> np.ndarray:
        """Which events end below the terminal voltage at which they fail, with the most that they may draw then."""
        watched: np.ndarray = np.isfinite(self.fails_v[now])
        if not watched.any():
            return watched
        state, pack, points = self.state, self.state.pack, now[watched]
        charge, rising = charge[watched], self.state.pack.charge[::-1]
        worst = np.array([np.interp(z, rising, state.worst.source_a[p, ::-1]) for p, z in _ends(points, charge)])
        amps = worst[np.searchsorted(np.unique(points), points)]
        low = np.zeros(now.size, dtype=bool)
        low[watched] = terminal_v(pack, charge, felt[watched], amps) < self.fails_v[points]
        return low


def _ends(points: np.ndarray, charge: Array) -> list[tuple[int, float]]:
    """Each operating point with the last state of charge at which it happens: within a step that is one for all."""
    return [(int(p), float(charge[points == p][-1])) for p in np.unique(points)]


def run_down(state: Run, seed: int = 0, *, most_days: int = 366 * 40) -> tuple[float, int | None]:
    """(time from full at midnight until the first essential mode does not hold [s], the operating point that did not).

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.runtime.run import run
    >>> state = run(design)
    >>> seconds, ended_by = run_down(state, 1)
    >>> 0.8 < seconds / state.seconds < 1.2
    True
    """
    scheduler, simulation = Scheduler(state.design, state.operating_points, seed), Simulation(state)
    for number in range(most_days):
        simulation.advance(scheduler.day(number))
        if simulation.ended_by is not None:
            break
    return simulation.elapsed_s, simulation.ended_by


def one_day(state: Run, charge: float, number: int = 0, seed: int = 0) -> list[Piece]:
    """The events of one day that begins at a state of charge.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.runtime.run import run
    >>> state = run(design)
    >>> pieces = one_day(state, 1.0)
    >>> round(sum(float(piece.seconds.sum()) for piece in pieces) / 3600, 6)
    24.0
    """
    return Simulation(state, charge).advance(
        Scheduler(state.design, state.operating_points, seed).day(number), keep=True
    )
