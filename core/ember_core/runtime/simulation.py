"""The battery event by event: what the day does to its charge and voltage, wake by wake.

Charge is what the events take. The relaxation of the cell follows by its own equations: two wells (J. F. Manwell and
J. G. McGowan, Solar Energy 50 (1993) 399; M. R. Jongerden and B. R. Haverkort, IET Software 3 (2009) 445), of which
only one can be drawn from, and a voltage that approaches current times polarization resistance. Both with the time constant
`relaxation_s`. Within a stretch in which the charge changes by less than `STEP` the currents are those at its start.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import inf

import numpy as np

from ..load.events import Events, Scheduler
from ..numeric import Array
from .run import Run

STEP = 0.002  # of the charge
LONGEST_POWER = 20.0  # of e, within one piece of the recurrence


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
        self.whole_as = pack.capacity_ah * 3600
        self.tau_s = pack.relaxation_s
        # what the relaxation feels [A]: one equation for the wells and for the slow voltage
        measured = state.design.battery.cell.curve is not None  # its curve is that of a steady discharge
        self.filtered_a = state.at(charge, state.mean_current_a) if measured or charge < 1 else 0.0
        essential = [m.essential for m in state.design.modes]
        electric = np.array([
            f.charge if e and f.reason not in ("empty", "kinetics") else -inf
            for f, e in zip(state.failures, essential, strict=True)
        ])  # fmt: skip
        modes = np.array([m.mode for m in state.operating_points])
        self.fails_at = electric[modes]
        self.essential = np.array(essential)[modes]

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
            count = max(1, int(np.searchsorted(taken, STEP)))
            chosen = slice(position, position + count)
            now, lengths = moment[chosen], seconds[chosen]
            if count == 1 and taken[0] > STEP:  # a long event: only the part that changes the charge by a step
                part = STEP / float(taken[0])
                now, lengths = now.copy(), lengths * part
                seconds = seconds.copy()
                seconds[position] *= 1 - part
                count, taken = 0, taken * part
            after = self.charge - taken[: max(count, 1)]
            felt = self._filtered(amps[now], lengths)
            empty = after * pack.capacity_ah < pack.unavailable_h * felt
            lost = (self.essential[now] & ((after < self.fails_at[now]) | empty)) | (after <= 0)
            starts = self.elapsed_s + np.cumsum(lengths) - lengths
            if lost.any():
                last = int(np.argmax(lost))
                self.ended_by = int(now[last])
                now, lengths, after, felt, starts = (x[: last + 1] for x in (now, lengths, after, felt, starts))
            if keep:
                kept.append(self._piece(starts, lengths, now, amps, after, felt))
            self.charge, self.filtered_a = float(after[-1]), float(felt[-1])
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

    def _filtered(self, amps: Array, seconds: Array) -> Array:
        """What the relaxation has come to feel after each event [A]: x <- a + (x - a) exp(-t / tau)."""
        found = np.empty_like(amps)
        start, x = 0, self.filtered_a
        since = np.cumsum(seconds) / self.tau_s
        while start < amps.size:
            base = since[start] - seconds[start] / self.tau_s
            stop = max(int(np.searchsorted(since, base + LONGEST_POWER)), start + 1)
            piece = slice(start, stop)
            if stop == start + 1:
                fade = np.exp(-seconds[start] / self.tau_s)
                found[start] = amps[start] + (x - amps[start]) * fade
            else:
                ends = since[piece] - base
                begins = ends - seconds[piece] / self.tau_s
                pushed = np.cumsum(amps[piece] * (np.exp(ends) - np.exp(begins)))
                found[piece] = np.exp(-ends) * (x + pushed)
            x = float(found[stop - 1])
            start = stop
        return found

    def _piece(self, starts: Array, lengths: Array, now: np.ndarray, amps: Array, after: Array, felt: Array) -> Piece:
        pack = self.state.pack
        current = amps[now]
        rising = pack.charge[::-1]
        ocv, fast, slow = (
            np.interp(after, rising, x[::-1]) for x in (pack.open_circuit_v, pack.resistance_ohm, pack.polarization_ohm)
        )
        return Piece(starts, lengths, now, current, ocv - current * fast - felt * slow, after)


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
