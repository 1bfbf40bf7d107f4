"""The battery event by event: what the day does to its charge and voltage, wake by wake.

Charge is what the events take. The relaxation of the cell follows by its own equations, one for each of its filters: what it
feels of the current keeps charge away and lowers the voltage (`battery/relaxation.py`). Within a stretch in which the charge
changes by less than `STEP` the currents are those at its start.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import inf

import numpy as np

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
        self.state, self.charge, self.elapsed_s = state, charge, 0.0
        self.ended_by: int | None = None
        pack = state.pack
        self.whole_as, self.step = pack.capacity_ah * 3600, STEP
        # what each filter feels [A]
        begun = charge < 1 or not pack.surface  # a measured curve is that of a steady discharge
        self.filters_a = np.full(pack.relaxation.time_s.size, state.at(charge, state.mean_current_a) if begun else 0.0)
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
            own = pack.self_discharge_a
            taken = np.cumsum((amps[moment[position:]] + own) * seconds[position:]) / self.whole_as
            count = max(1, int(np.searchsorted(taken, self.step)))
            chosen = slice(position, position + count)
            now, lengths = moment[chosen], seconds[chosen]
            if count == 1 and taken[0] > self.step:  # a long event: only the part that changes the charge by a step
                part = self.step / float(taken[0])
                now, lengths = now.copy(), lengths * part
                count, taken = 0, taken * part
            after = self.charge - taken[: max(count, 1)]
            felt, filters = self._filtered(amps[now], lengths)
            empty = after * pack.capacity_ah < pack.unavailable_ah(felt)
            fails = (after < self.fails_at[now]) | self._too_low(now, after, felt)
            lost = (self.essential[now] & (fails | empty)) | (after <= 0)
            starts = self.elapsed_s + np.cumsum(lengths) - lengths
            if lost.any() and count == 0 and self.step == STEP:
                self.step = STEP / FINE
                continue
            if count == 0:
                seconds = seconds.copy()
                seconds[position] -= lengths[0]
            if lost.any():
                last = int(np.argmax(lost))
                self.ended_by = int(now[last])
                now, lengths, after, felt, starts = (x[: last + 1] for x in (now, lengths, after, felt, starts))
                filters = filters[:, : last + 1]
            if keep:
                kept.append(self._piece(starts, lengths, now, amps, after, felt))
            self.charge, self.filters_a = float(after[-1]), filters[:, -1].copy()
            self.elapsed_s = float(starts[-1] + (0.0 if self.ended_by is not None else lengths[-1]))
            position += count
        return kept

    def _currents(self) -> Array:
        """The battery current of every operating point at the present charge [A]."""
        charge = self.state.pack.charge
        k = int(np.clip(np.searchsorted(-charge, -self.charge), 1, charge.size - 1))
        part = (charge[k - 1] - self.charge) / (charge[k - 1] - charge[k])
        table = self.state.typical.source_a
        return np.asarray(table[:, k - 1] * (1 - part) + table[:, k] * part)

    def _too_low(self, now: np.ndarray, after: Array, felt: Array) -> np.ndarray:
        """Which events end below the terminal voltage at which they fail, with the most that they may draw then."""
        watched: np.ndarray = np.isfinite(self.fails_v[now])
        if not watched.any():
            return watched
        state, pack, points = self.state, self.state.pack, now[watched]
        charge, rising = after[watched], self.state.pack.charge[::-1]
        worst = np.array([np.interp(z, rising, state.worst.source_a[p, ::-1]) for p, z in _ends(points, charge)])
        amps = worst[np.searchsorted(np.unique(points), points)]
        ocv, ohm, slow = (
            np.interp(charge, rising, x[::-1])
            for x in (pack.open_circuit_v, pack.resistance_ohm, pack.polarization_ohm)
        )
        surface = charge - pack.unavailable_ah(felt[watched]) / pack.capacity_ah
        if pack.surface:
            ocv = np.interp(surface, rising, pack.open_circuit_v[::-1])
            ohm = np.interp(surface, rising, pack.resistance_ohm[::-1])
        low = np.zeros(now.size, dtype=bool)
        low[watched] = ocv - ohm * amps - slow * felt[watched] < self.fails_v[points]
        return low

    def _filtered(self, amps: Array, seconds: Array) -> tuple[Array, Array]:
        """(what the relaxation has come to feel after each event [A], the same of each filter, shape (filters, events))."""
        relaxation = self.state.pack.relaxation
        filters = followed(amps, seconds, self.filters_a, relaxation.time_s)
        return relaxation.weight @ filters, filters

    def _piece(self, starts: Array, lengths: Array, now: np.ndarray, amps: Array, after: Array, felt: Array) -> Piece:
        pack = self.state.pack
        current = amps[now]
        rising = pack.charge[::-1]
        surface = after - pack.unavailable_ah(felt) / pack.capacity_ah if pack.surface else after
        ocv, ohm = (np.interp(surface, rising, x[::-1]) for x in (pack.open_circuit_v, pack.resistance_ohm))
        slow = np.interp(after, rising, pack.polarization_ohm[::-1])
        return Piece(starts, lengths, now, current, ocv - current * ohm - felt * slow, after)


def _ends(points: np.ndarray, charge: Array) -> list[tuple[int, float]]:
    """Each operating point with the last state of charge at which it happens: within a step that is one for all."""
    return [(int(p), float(charge[points == p][-1])) for p in np.unique(points)]


def followed(amps: Array, seconds: Array, start_a: Array, time_s: Array) -> Array:
    """What filters feel after each event [A]: x <- a + (x - a) exp(-t / tau); shape (filters, events) for arrays of shape
    (events,) and (filters,). Rows of events go side by side, each from 0; then what came before each row is added."""
    count = amps.size
    length = max(1, int(np.ceil(np.sqrt(count))))
    rows = -(-count // length)
    padded = np.zeros((2, rows * length))
    padded[0, :count], padded[1, :count] = seconds, amps
    spent, current = padded.reshape(2, rows, length)
    kept = np.exp(-spent[None] / time_s[:, None, None])
    found = current * (1 - kept)
    for k in range(1, length):
        found[:, :, k] += found[:, :, k - 1] * kept[:, :, k]
    kept = np.cumprod(kept, axis=2)
    before = np.empty((time_s.size, rows))
    x = start_a
    for row in range(rows):
        before[:, row] = x
        x = found[:, row, -1] + kept[:, row, -1] * x
    found += kept * before[:, :, None]
    return np.asarray(found.reshape(time_s.size, -1)[:, :count])


def run_down(state: Run, seed: int = 0, *, most_days: int = 366 * 40) -> tuple[float, int | None]:
    """(time from full at midnight until the first essential mode does not hold [s], the operating point that did not)."""
    scheduler, simulation = Scheduler(state.design, state.operating_points, seed), Simulation(state)
    for number in range(most_days):
        simulation.advance(scheduler.day(number))
        if simulation.ended_by is not None:
            break
    return simulation.elapsed_s, simulation.ended_by


def one_day(state: Run, charge: float, number: int = 0, seed: int = 0) -> list[Piece]:
    """The events of one day that begins at a state of charge."""
    return Simulation(state, charge).advance(
        Scheduler(state.design, state.operating_points, seed).day(number), keep=True
    )
