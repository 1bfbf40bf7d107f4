"""An independent simulation: event after event, scalar arithmetic, its own solver. Slow, and only for tests.

It shares the cells' open-circuit and resistance curves with the core (they are data) and nothing else.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

from ember_core import Design
from ember_core.battery.chemistry import CHEMISTRIES, low_temperature_factor, open_circuit_voltage, resistance_factor
from ember_core.supply.converters import fit_switching

from .switching import switching_loss_w

WEAKEST = {1: 0.0, 2: 1 / math.sqrt(math.pi), 3: 1.5 / math.sqrt(math.pi)}  # expected shortfall of the weakest of n


@dataclass
class OperatingPoint:
    seconds: float
    states: dict[str, str]
    mode: str


def timeline_of_mode(design: Design, mode_id: str, seconds: float) -> list[OperatingPoint]:
    """A stretch of a mode cut at every change of any part's state. Duties repeat every burst period, or every 10 s."""
    mode = next(m for m in design.modes if m.id == mode_id)
    period = next((u.period_s for u in mode.uses if u.burst and u.period_s), 10.0)
    period = min(period, seconds)
    edges = {0.0, period}
    for use in mode.uses:
        if use.burst:
            at = 0.0
            for phase in use.burst:
                at += phase.seconds / use.period_s * period
                edges.add(min(at, period))
        elif use.duty < 1:
            edges.add(use.duty * period)
    cuts = sorted(edges)
    one: list[OperatingPoint] = []
    for start, end in pairwise(cuts):
        middle = (start + end) / 2 / period
        states = {}
        for use in mode.uses:
            name = use.rest
            if use.burst:
                at = 0.0
                for phase in use.burst:
                    at += phase.seconds / use.period_s
                    if middle < at:
                        name = phase.state
                        break
            elif middle < use.duty:
                name = use.state
            if name is not None:
                states[use.part] = name
        one.append(OperatingPoint(end - start, states, mode_id))
    whole = seconds / period
    if len(one) == 1:
        return [OperatingPoint(seconds, one[0].states, mode_id)]
    repeated = [OperatingPoint(m.seconds, m.states, mode_id) for _ in range(int(whole)) for m in one]
    left = whole - int(whole)
    return repeated + [OperatingPoint(m.seconds * left, m.states, mode_id) for m in one if left > 1e-9]


class Simulation:
    """Empties the battery of a design event by event; typical figures, worst operating points judged by their most."""

    def __init__(self, design: Design, most_steps: int = 400_000) -> None:
        self.design, self.most_steps = design, most_steps
        battery, self.cell = design.battery, design.battery.cell
        self.temperature = design.brief.usual_c
        data = CHEMISTRIES[self.cell.chemistry]
        low, high = data.tolerance
        usual = 1.0 if self.cell.measured_ah or self.cell.curve else 1 + (low + high) / 2
        weakest = 1 - (high - low) / 2 / 1.2816 * WEAKEST[battery.series] / math.sqrt(battery.parallel)
        self.capacity_as = (
            battery.parallel
            * self.cell.capacity_ah
            * 3600
            * low_temperature_factor(self.cell.chemistry, self.temperature)
            * usual
            * weakest
        )
        self.own_a = (
            2 ** (self.temperature / 10 - 2)
            * data.self_discharge_per_month
            * battery.parallel
            * self.cell.capacity_ah
            * 3600
            / (30.4375 * 86400)
        )
        if battery.protection is not None:
            self.own_a += battery.protection.own_a
        self.stages = {s.id: s for s in design.supply.stages}
        self.parts = {p.id: p for p in design.parts}
        self.modes = {m.id: m for m in design.modes}

    def source(self, charge: float) -> tuple[float, float]:
        b = self.design.battery
        volts = b.series * float(open_circuit_voltage(self.cell.chemistry, charge))
        growth = float(resistance_factor(self.cell.chemistry, charge, self.temperature))
        return volts, self.cell.resistance_ohm * growth * b.series / b.parallel + b.wiring_ohm

    def part_a(self, key: str, name: str, volts: float, most: bool) -> float:
        part = self.parts[key]
        state = next(s for s in part.states if s.name == name)
        draw = state.draw
        span = getattr(draw, {"current": "current_a", "power": "power_w"}.get(draw.behaviour, "resistance_ohm"))
        low, high = span.bounds(state.provenance)
        if draw.behaviour == "current":
            one = high if most else span.typical
        elif draw.behaviour == "power":
            one = (high if most else span.typical) / max(volts, 0.05)
        elif draw.behaviour == "resistor":
            one = volts / (low if most else span.typical)
        else:
            one = max(0.0, volts - draw.forward_v) / (low if most else span.typical)
        return one * part.quantity

    def output_v(self, stage: Any, mode: Any, source: float, other: float, load: float) -> float:
        if stage.id in mode.off_stages:
            return source - 0.4 if stage.type == "switching" and not stage.load_disconnect else 0.0
        if stage.type == "power-or":
            return max(source, other) - stage.forward_v - stage.resistance_ohm * load
        if stage.type == "linear":
            return min(stage.output_v, source - stage.dropout_v / stage.dropout_at_a * load)
        if stage.type == "pass":
            return source - stage.resistance_ohm * load
        dropped = source - load * (0.2 if stage.dropout_v is None else stage.dropout_v) / stage.limit_a
        limits = {"buck": max(min(stage.output_v, dropped), 0.0), "boost": max(stage.output_v, source)}
        return limits.get(stage.topology, stage.output_v)

    def input_a(self, stage: Any, mode: Any, source: float, volts: float, load: float) -> float:
        if stage.id in mode.off_stages:
            return stage.shutdown_a + (load if stage.type == "switching" and not stage.load_disconnect else 0.0)
        if source <= 0:
            return 0.0
        if stage.type == "power-or":
            return load + stage.quiescent_a
        if stage.type == "linear":
            return load * (1 + stage.ground_share) + stage.quiescent_a
        if stage.type == "pass":
            return load + stage.leakage_a
        fit = fit_switching(stage.points, stage.output_v, stage.quiescent_a, stage.topology)
        return (volts * load + switching_loss_w(fit, max(source, 0.05), load)) / max(source, 0.05)

    def solve(self, charge: float, moment: OperatingPoint, most: bool) -> tuple[float, float, dict[str, float]]:
        """(terminal voltage, battery current, rail voltages) by plain substitution until nothing moves."""
        ocv, ohm = self.source(charge)
        volts, amps = ocv, 0.0
        mode = self.modes[moment.mode]
        others = {s.id: s.voltage_v if s.id in mode.plugged else 0.0 for s in self.design.supply.sources}
        out: dict[str, float] = dict.fromkeys(self.stages, 0.0)
        rails: dict[str, float] = {}
        for _ in range(500):
            node = {"battery": volts} | others

            def voltage(key: str, node: dict[str, float] = node, out: dict[str, float] = out) -> float:
                if key in node:
                    return node[key]
                stage = self.stages[key]
                source = voltage(stage.input)
                value = self.output_v(
                    stage, mode, source, voltage(stage.other) if stage.type == "power-or" else 0.0, out[key]
                )
                node[key] = max(value, 0.0)
                return node[key]

            demand = {"battery": 0.0} | dict.fromkeys(others, 0.0) | dict.fromkeys(self.stages, 0.0)
            for rail in self.design.supply.rails:
                rails[rail.id] = voltage(rail.feed)
                for key, name in moment.states.items():
                    if self.parts[key].rail == rail.id and rails[rail.id] > 0:
                        demand[rail.feed] += self.part_a(key, name, rails[rail.id], most)
            done: set[str] = set()

            def settle(key: str, demand: dict[str, float] = demand, done: set[str] = done) -> None:
                if key in done:
                    return
                for other in self.stages.values():
                    if key in (other.input, getattr(other, "other", None)):
                        settle(other.id)
                done.add(key)
                stage = self.stages[key]
                source, load, feed = voltage(stage.input), demand[key], stage.input
                if stage.type == "power-or" and voltage(stage.other) > source:
                    feed = stage.other
                demand[feed] += self.input_a(stage, mode, source if feed == stage.input else 1.0, voltage(key), load)

            for key in self.stages:
                settle(key)
            amps = demand["battery"]
            following = max(ocv - amps * ohm, 0.2 * ocv)
            for other in self.design.supply.sources:
                if other.id in mode.plugged:
                    others[other.id] = other.voltage_v - other.resistance_ohm * demand[other.id]
            moved = abs(following - volts) + sum(abs(demand[k] - out[k]) for k in self.stages)
            volts, out = following, {k: demand[k] for k in self.stages}
            if moved < 1e-10:
                break
        return volts, amps, rails

    def holds(self, charge: float, moment: OperatingPoint) -> bool:
        volts, _, rails = self.solve(charge, moment, most=True)
        if volts < self.cell.cutoff_v * self.design.battery.series:
            return False
        for key in moment.states:
            part = self.parts[key]
            if part.supply_min_v is not None and 0 < rails[part.rail] < part.supply_min_v:
                return False
        return True

    def events(self) -> list[OperatingPoint]:
        """One day in 24 equal slots, so that it does not matter at which hour the battery was full."""
        day = self.design.day
        events: list[OperatingPoint] = []
        for _ in range(24):
            busy: list[OperatingPoint] = []
            for session in day.sessions:
                busy += timeline_of_mode(
                    self.design, session.mode, session.seconds * session.per_day * (len(session.days) or 7) / 7 / 24
                )
            left = 3600 - sum(m.seconds for m in busy)
            asleep = left
            for wake in day.wakes:
                hours = 24 if wake.from_h is None else (wake.to_h - wake.from_h) % 24
                awake = wake.awake_s * left / wake.every_s * hours / 24
                events += timeline_of_mode(self.design, wake.mode, awake)
                asleep -= awake
            events += busy + timeline_of_mode(self.design, day.rest, asleep)
        return events

    def run_seconds(self) -> float:
        """Time from full until the first operating point that does not hold, currents refreshed every 0.2 % of charge."""
        day = self.events()
        essential = {m.id for m in self.design.modes if m.essential}
        watched = [
            m
            for x in self.design.modes
            if x.id in essential and self._occurs(x.id)
            for m in timeline_of_mode(self.design, x.id, 10.0)
        ]
        currents: dict[str, float] = {}
        charge, elapsed, refreshed = 1.0, 0.0, 2.0
        used = self.capacity_as
        while True:
            for moment in day:
                if refreshed - charge > 0.002 or not currents:
                    currents, refreshed = {}, charge
                    if any(not self.holds(charge, m) for m in watched):
                        return elapsed
                key = moment.mode + repr(sorted(moment.states.items()))
                if key not in currents:
                    currents[key] = self.solve(charge, moment, most=False)[1]
                charge -= (currents[key] + self.own_a) * moment.seconds / used
                elapsed += moment.seconds
                if charge <= 0:
                    return elapsed

    def _occurs(self, mode: str) -> bool:
        day = self.design.day
        return mode in (day.rest, *(x.mode for x in day.sessions), *(x.mode for x in day.wakes))
