"""What the gadget asks for: each mode cut into operating points, each operating point's load on each rail, the day's shares.

An *operating point* is a stretch of a mode in which no part changes its state. Duties and bursts of a mode start
together at phase 0, so its first operating point has every part busy: the pessimistic case for the voltage, while
the mean draw hardly depends on it.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from ..design import CurrentDraw, Design, LedDraw, Part, PowerDraw, Range, ResistorDraw, State
from ..design.phases import phase_ends, phases
from ..numeric import Array

Level = Literal["min", "typical", "max"]
LEAST_PART_V = 0.05  # below it a part that takes a power takes no more current
ALL = slice(None)
LEVELS: tuple[Level, ...] = ("min", "typical", "max")


@dataclass(frozen=True)
class OperatingPoint:
    """A share of a mode's time with one state per part (by index into design.parts); None: draws nothing."""

    mode: int
    share: float
    states: tuple[State | None, ...]
    seconds: float | None


@dataclass(frozen=True)
class Leds:
    """The LEDs with one forward voltage on one rail: their resistors' conductance in each operating point [S], (operating points,)."""

    rail: int
    forward_v: float
    conductance_s: Array


@dataclass(frozen=True)
class RailLoads:
    """Loads on the rails, arrays of shape (operating points, rails), and the LEDs on them.

    `mode` is the mode of each operating point, shape (operating points,).
    """

    mode: np.ndarray
    current_a: Array
    power_w: Array
    conductance_s: Array
    leds: tuple[Leds, ...]

    def with_more(self, current_a: Array) -> RailLoads:
        """The same with more current on the rails [A], (operating points, rails)."""
        return replace(self, current_a=self.current_a + current_a)

    def rows(self, chosen: slice | list[int] | np.ndarray) -> RailLoads:
        """The loads of some of the operating points; named one by one, in any order and as often as they are."""
        return RailLoads(
            self.mode[chosen], self.current_a[chosen], self.power_w[chosen], self.conductance_s[chosen],
            tuple(Leds(x.rail, x.forward_v, x.conductance_s[chosen]) for x in self.leds),
        )  # fmt: skip


def mode_operating_points(design: Design, index: int) -> list[OperatingPoint]:
    """The operating points of one mode, in order of phase; their shares add up to 1.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> points = mode_operating_points(design, 0)
    >>> round(sum(point.share for point in points), 9)
    1.0
    """
    mode, parts, position = design.modes[index], design.parts, design.index.parts
    lines = [(position[u.part], phases(u, parts[position[u.part]])) for u in mode.uses]
    edges = phase_ends(line for _, line in lines)
    periods = {u.period_s for u in mode.uses if u.burst}
    period = periods.pop() if len(periods) == 1 else None
    operating_points, start = [], 0.0
    for end in edges:
        states: list[State | None] = [None] * len(parts)
        middle = (start + end) / 2
        for i, line in lines:
            alone = len(line) == 1
            states[i] = line[0][1] if alone else next(x for stop, x in line if middle < stop or stop >= 1.0)
        seconds = (end - start) * period if period else None
        operating_points.append(OperatingPoint(index, end - start, tuple(states), seconds))
        start = end
    return operating_points


def all_operating_points(design: Design) -> list[OperatingPoint]:
    """The operating points of all modes, in their order.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> [(point.mode, point.share) for point in all_operating_points(design)]
    [(0, 1.0), (1, 1.0)]
    """
    return [m for i in range(len(design.modes)) for m in mode_operating_points(design, i)]


def draw_range(state: State) -> tuple[Range, str]:
    """The state's range and its unit: A, W or Ω.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> draw_range(design.parts[0].states[0])[1]
    'A'
    """
    draw = state.draw
    if isinstance(draw, CurrentDraw):
        return draw.current_a, "A"
    if isinstance(draw, PowerDraw):
        return draw.power_w, "W"
    return draw.resistance_ohm, "Ω"


def state_level(state: State, level: Level) -> float:
    """The state's figure (A, W or ohm) for the least, typical or most *draw*; most draw is least resistance.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> state = design.parts[0].states[0]
    >>> state_level(state, "min") <= state_level(state, "typical") <= state_level(state, "max")
    True
    """
    span, unit = draw_range(state)
    if level == "typical":
        return span.typical
    low, high = span.bounds(state.provenance)
    return low if (level == "min") == (unit != "Ω") else high


def part_current(state: State | None, rail_v: float, level: Level = "typical") -> float:
    """Current of one copy of a part in a state at a rail voltage [A].

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> state = design.parts[0].states[0]
    >>> part_current(None, 3.3), part_current(state, 3.3) > 0
    (0.0, True)
    """
    if state is None:
        return 0.0
    value, draw = state_level(state, level), state.draw
    if isinstance(draw, CurrentDraw):
        return value
    if isinstance(draw, PowerDraw):
        return value / max(rail_v, LEAST_PART_V)
    if isinstance(draw, ResistorDraw):
        return rail_v / value
    return max(0.0, (rail_v - draw.forward_v) / value)


@dataclass(frozen=True)
class PartDraws:
    """What all copies of each part draw in each operating point, term by term, arrays of shape (parts, operating points): a current, a power, a
    resistance, and an LED's forward voltage and resistance (infinite where there is none)."""

    quantity: Array
    current_a: Array
    power_w: Array
    resistance_ohm: Array
    forward_v: Array
    led_ohm: Array

    def current(self, rail_v: Array) -> Array:
        """Currents at the voltages of their rails, (parts, operating points) [A]."""
        each = self.current_a + self.power_w / np.maximum(rail_v, LEAST_PART_V) + rail_v / self.resistance_ohm
        return np.asarray((each + np.maximum(rail_v - self.forward_v, 0.0) / self.led_ohm) * self.quantity)


def part_draws(design: Design, operating_points: list[OperatingPoint], level: Level = "typical") -> PartDraws:
    """What each part draws in each operating point at a level of its ranges, by what its draw behaves as.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> points = all_operating_points(design)
    >>> part_draws(design, points).current_a.shape == (len(design.parts), len(points))
    True
    """
    shape = (len(design.parts), len(operating_points))
    current, power, forward = np.zeros(shape), np.zeros(shape), np.zeros(shape)
    resistance, led = np.full(shape, np.inf), np.full(shape, np.inf)
    for p in range(len(design.parts)):
        rows: dict[str, list[int]] = {}
        states = {}
        for m, moment in enumerate(operating_points):
            state = moment.states[p]
            if state is not None:
                states[state.name] = state
                rows.setdefault(state.name, []).append(m)
        for name, where in rows.items():
            value, draw = state_level(states[name], level), states[name].draw
            if isinstance(draw, CurrentDraw):
                current[p, where] = value
            elif isinstance(draw, PowerDraw):
                power[p, where] = value
            elif isinstance(draw, ResistorDraw):
                resistance[p, where] = value
            else:
                forward[p, where], led[p, where] = draw.forward_v, value
    quantity = np.array([float(p.quantity) for p in design.parts]).reshape(-1, 1)
    return PartDraws(quantity, current, power, resistance, forward, led)


LASTS_S = 0.01  # from there on a protection circuit, a fuse and a cell take notice of a peak; a rule of thumb
CARRIED_V = 0.1  # by which a rail's capacitor may fall while it carries a peak by itself


def peak_comes(part: Part, state: State | None) -> bool:
    """Whether a part's peak comes in a state. Without a state of its own it comes in any but the calmest: a chip that sleeps does not
    send. What is plugged in by the user surges in any state.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> peak_comes(design.parts[0], None)
    False
    """
    if part.peak is None or state is None:
        return False
    if part.peak.state is not None:
        return state.name == part.peak.state
    calm = part.states[0].name if len(part.states) > 1 and not part.plugged_by_user else None
    return state.name != calm


def lasting_peaks_a(design: Design, operating_points: list[OperatingPoint]) -> Array:
    """What peaks add to each rail in the worst moment of each operating point [A], (operating points, rails): of those that last and that no
    capacitor on their rail carries, the largest on each rail, as two seldom meet.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> points = all_operating_points(design)
    >>> lasting_peaks_a(design, points).shape
    (2, 1)
    """
    found = np.zeros((len(operating_points), len(design.supply.rails)))
    for p, part in enumerate(design.parts):
        peak = part.peak
        if peak is None or peak.seconds < LASTS_S:
            continue
        r = design.index.rails[part.rail]
        amps, bulk = peak.current_a * part.quantity, design.supply.rails[r].capacitor
        if bulk is not None and amps * (peak.seconds / bulk.farad + bulk.esr_ohm) <= CARRIED_V:
            continue
        for k, moment in enumerate(operating_points):
            if peak_comes(part, moment.states[p]):
                found[k, r] = max(found[k, r], amps)
    return found


def state_levels(design: Design, level: Level) -> list[float]:
    """The figures of all states of all parts in order, at one level of their ranges [A, W or ohm].

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> all(least <= most for least, most in zip(state_levels(design, "min"), state_levels(design, "max")))
    True
    """
    return [state_level(s, level) for p in design.parts for s in p.states]


@dataclass(frozen=True)
class _Spread:
    """What some states, by their columns among all, add to each operating point's load on each rail per A, W or S: (columns, operating points, rails)."""

    columns: list[int]
    copies: Array

    def total(self, values: Array, used: np.ndarray | slice) -> Array:
        """The loads of many samples, (samples, operating points used x rails), from the states' figures in A, W or S, (samples, columns)."""
        count, points, wide = (chosen := self.copies[:, used]).shape
        return np.asarray(values @ chosen.reshape(count, points * wide))


@dataclass(frozen=True)
class LoadTable:
    """How the figures of all parts' states add up to the loads of the operating points. `leaks_a` are the rails' capacitors, (rails,); `leds` are
    (rail, forward voltage, what they add)."""

    mode: np.ndarray
    leaks_a: Array
    current: _Spread
    power: _Spread
    resistor: _Spread
    leds: list[tuple[int, float, _Spread]]

    def loads(self, values: Array, used: np.ndarray | slice = ALL) -> RailLoads:
        """The loads of every operating point, or of those used, for many samples of the states' figures at once.

        `values` has the shape (samples, states), the states of all parts in order, in A, W or ohm each. The result's
        operating points are those of the first sample, then those of the second, and so on.
        """
        samples, mode = values.shape[0], self.mode[used]
        flat = (samples * mode.size, self.leaks_a.size)
        leaks = np.tile(self.leaks_a, mode.size)

        def ohm(spread: _Spread) -> Array:
            return spread.total(1 / values[:, spread.columns], used)

        return RailLoads(
            mode=np.tile(mode, samples),
            current_a=(self.current.total(values[:, self.current.columns], used) + leaks).reshape(flat),
            power_w=self.power.total(values[:, self.power.columns], used).reshape(flat),
            conductance_s=ohm(self.resistor).reshape(flat),
            leds=tuple(Leds(rail, forward_v, ohm(x).ravel()) for rail, forward_v, x in self.leds),
        )


def load_table(design: Design, operating_points: list[OperatingPoint]) -> LoadTable:
    """What each state adds where, for `LoadTable.loads`.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> points = all_operating_points(design)
    >>> import numpy as np
    >>> table = load_table(design, points)
    >>> table.loads(np.array([state_levels(design, "typical")])).current_a.shape == (len(points), len(design.supply.rails))
    True
    """
    rails = design.index.rails
    columns = {(p, s.name): k for k, (p, s) in enumerate((p, s) for p, x in enumerate(design.parts) for s in x.states)}
    entries: dict[type, list[tuple[int, int, int, int]]] = {CurrentDraw: [], PowerDraw: [], ResistorDraw: []}
    leds: dict[tuple[int, float], list[tuple[int, int, int, int]]] = {}
    for m, moment in enumerate(operating_points):
        for p, (part, state) in enumerate(zip(design.parts, moment.states, strict=True)):
            if state is None:
                continue
            k, r, draw = columns[p, state.name], rails[part.rail], state.draw
            if isinstance(draw, LedDraw):
                leds.setdefault((r, draw.forward_v), []).append((k, m, 0, part.quantity))
            else:
                entries[type(draw)].append((k, m, r, part.quantity))

    def spread(rows: list[tuple[int, int, int, int]], wide: int) -> _Spread:
        used = sorted({k for k, _, _, _ in rows})
        position = {k: i for i, k in enumerate(used)}
        table = np.zeros((len(used), len(operating_points), wide))
        for k, m, r, copies in rows:
            table[position[k], m, r] += copies
        return _Spread(used, table)

    return LoadTable(
        mode=np.array([m.mode for m in operating_points], dtype=int),
        leaks_a=np.array([r.capacitor.leakage_a if r.capacitor else 0.0 for r in design.supply.rails]),
        current=spread(entries[CurrentDraw], len(rails)),
        power=spread(entries[PowerDraw], len(rails)),
        resistor=spread(entries[ResistorDraw], len(rails)),
        leds=[(rail, forward_v, spread(rows, 1)) for (rail, forward_v), rows in leds.items()],
    )
