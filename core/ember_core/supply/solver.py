"""The supply tree solved for every operating point at every state of charge at once.

Terminal voltage and currents follow together: I = P / V loads have two roots, of which the upper one is
stable. Starting from the open-circuit voltage and repeating V <- OCV - I(V) R approaches that root from
above; every third step extrapolates (Aitken's delta-squared), and once the steps are small the currents that the stages look
back at are extrapolated with it. Where there is no root the voltage runs away downwards, with steps that hardly shrink or grow, which
are followed further; at a quarter of the open-circuit voltage the source has collapsed, which is reported and not an error. Nothing
waits for the currents there, which may have no limit: they are those that are asked for at that voltage.

Work goes in blocks of operating points that fit the processor's cache, and what does not depend on the state of charge
(everything behind a converter that regulates in the whole block) keeps a length of 1 along that axis.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..battery.pack import Pack
from ..load.operating_points import RailLoads
from ..numeric import Array, at_least
from .converters import BODY_DIODE_V, LEAST_INPUT_V, ConverterModel, passes_when_off
from .solution import Rows, Solution, empty_table
from .tree import BATTERY_NODE, Tree

COLLAPSE_SHARE = 0.25  # of the open-circuit voltage: no stable working point is that far down
AT_FLOOR = 1 + 1e-9
TOLERANCE = 1e-10  # V and A
NEAR = 1e-4  # V and A: from there on the sweeps shrink steadily
SETTLED = 1e-5  # V: more than this after the last sweep and there is no working point
ROUGH = 3e-3  # V: a rough solution may end at such a step, if those that follow would be smaller than SETTLED
LEAST_OHM, LEAST_A = 1e-6, 1e-12
MOST_SWEEPS = 90
STEADY = 0.99  # of a step: where the next one is larger nothing is extrapolated but a slide
REACH = 0.05  # of the open-circuit voltage: no further along a slide at a time
FAR = 1e30
BLOCK = 24576  # working points per block


def solve(
    tree: Tree,
    loads: RailLoads,
    pack: Pack,
    *,
    lowered_v: Array | None = None,
    rough: bool = False,
    near: tuple[Solution, Array] | None = None,
) -> Solution:
    """All working points of all operating points at all states of charge of the pack.

    `lowered_v`, (operating points, states of charge) or what spreads to it, is taken off the open-circuit voltage [V]. The sweeps
    end at steps of `TOLERANCE`; of a rough solution at steps of `ROUGH` which shrink so fast that what is left is below `SETTLED`: its
    currents are off by less than a part in a thousand. They begin `near` the working points of the same loads on the same pack with another
    voltage taken off, where those are given: the same are found in fewer sweeps.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.runtime.run import run
    >>> state = run(design)
    >>> found = solve(state.tree, state.loads, state.pack)
    >>> found.source_a.shape == found.terminal_v.shape
    True
    """
    operating_points = loads.current_a.shape[0]
    rows = max(1, BLOCK // pack.charge.size)
    blocks = []
    for start in range(0, max(operating_points, 1), rows):
        chosen = slice(start, min(start + rows, operating_points))
        block = _Block(tree, loads.rows(chosen) if rows < operating_points else loads, pack)
        if lowered_v is not None:
            own = np.broadcast_to(lowered_v, (operating_points, pack.charge.size))[chosen]
            block.open_circuit_v -= own
            if block.open_circuit_v.min(initial=np.inf) < LEAST_INPUT_V:
                np.maximum(block.open_circuit_v, LEAST_INPUT_V, out=block.open_circuit_v)
            if near is not None:
                block.begin_at(near[0].operating_points(chosen), own - near[1][chosen])
        blocks.append(block.solved(rough=rough))
    return blocks[0] if len(blocks) == 1 else Solution.joined(blocks)


class _Block:
    """Some of the operating points while they are being solved. Arrays are (rows, charges), (rows, 1) or ()."""

    def __init__(self, tree: Tree, loads: RailLoads, pack: Pack) -> None:
        self.tree, self.loads, self.pack = tree, loads, pack
        modes = loads.mode
        self.shape = (modes.size, pack.charge.size)
        self.open_circuit_v = empty_table(self.shape)
        self.open_circuit_v[:] = pack.open_circuit_v
        column = (slice(None), None)
        self.powered = [tree.powered[n, modes][column] for n in range(tree.nodes)]
        self.always = [bool(x.all()) for x in self.powered]
        self.off = [tree.off[s, modes][column] if tree.off[s, modes].any() else None for s in range(len(tree.stages))]
        self.dead = [
            None if all(self.always[n] for n in tree.inputs[s]) else ~np.any([self.powered[n] for n in tree.inputs[s]], axis=0)
            for s in range(len(tree.stages))
        ]  # fmt: skip
        self.fixed_a = self._on_rails(loads.current_a)
        self.power_w = self._on_rails(loads.power_w)
        self.conductance_s = self._on_rails(loads.conductance_s)
        self.leds = [self._leds(r) for r in range(len(tree.rail_feeds))]
        self.first = first_choice(tree, pack, modes)
        self.start_v = self.open_circuit_v
        self.node_v: list[Array] = [np.zeros(())] * tree.nodes
        self.input_v: list[Array] = [np.zeros(())] * len(tree.stages)
        self.input_a: list[Array] = [np.zeros(())] * len(tree.stages)
        self.rail_v: list[Array] = [np.zeros(())] * len(tree.rail_feeds)
        self.output_a: list[Array] = [np.zeros((modes.size, 1)) for _ in tree.stages]
        self.rail_a: list[Array] = [np.zeros(())] * len(tree.rail_feeds)

    def begin_at(self, found: Solution, more_v: Array) -> None:
        """Begins at the working points that were found with so much less taken off the voltage. From there the sweeps go down to the upper
        root, or up to it where less is taken off now; what sank has no root where more is taken off."""
        ocv, none = self.open_circuit_v, found.collapsed
        floor = COLLAPSE_SHARE * ocv
        sank = (more_v >= 0) & (found.terminal_v <= COLLAPSE_SHARE * (ocv + more_v) * AT_FLOOR)
        self.start_v = np.clip(np.where(none, np.where(sank, floor, ocv), found.terminal_v), floor, ocv)
        some = bool(none.any())
        for rows, tables in (
            (self.input_a, found.stage_input_a),
            (self.output_a, found.stage_output_a),
            (self.rail_a, found.rail_a),
        ):
            rows[:] = [np.where(none, 0.0, tables[k]) if some else tables.narrow(k) for k in range(len(rows))]

    def _on_rails(self, table: Array) -> list[Array | None]:
        """Each rail's loads as a column, nothing where the rail has no power; None where there are none at all."""
        if not table.any():
            return [None] * len(self.tree.rail_feeds)
        return [self._with_power(table[:, rail, None], rail) for rail in range(len(self.tree.rail_feeds))]

    def _with_power(self, column: Array, rail: int) -> Array | None:
        feed = self.tree.rail_feeds[rail]
        own = column if self.always[feed] else column * self.powered[feed]
        return own if own.any() else None

    def _leds(self, rail: int) -> list[tuple[float, Array]]:
        """(forward voltage, conductance of the LEDs with it as a column) on one rail."""
        columns = (
            (x.forward_v, self._with_power(x.conductance_s[:, None], rail)) for x in self.loads.leds if x.rail == rail
        )
        return [(forward_v, column) for forward_v, column in columns if column is not None]

    def _rail_current(self, rail: int, volts: Array) -> Array:
        """Current into one rail at its voltage."""
        fixed, power, conductance = self.fixed_a[rail], self.power_w[rail], self.conductance_s[rail]
        parts = [] if fixed is None else [fixed]
        if power is not None:
            parts.append(power / at_least(volts, LEAST_INPUT_V))
        if conductance is not None:
            parts.append(conductance * volts)
        for forward_v, conductance_s in self.leds[rail]:
            parts.append(at_least(volts - forward_v, 0.0) * conductance_s)
        return _sum(parts)

    def _voltages(self) -> None:
        """Downwards: every stage's input and output voltage, with the output currents of the sweep before."""
        tree = self.tree
        for s, (stage, converter_model) in enumerate(zip(tree.stages, tree.converter_models, strict=True)):
            volts = self._input_voltage(s)
            out = converter_model.output_voltage(volts, self.output_a[s])
            off = self.off[s]
            if off is not None:
                out = np.where(off, np.maximum(volts - BODY_DIODE_V, 0.0) if passes_when_off(stage) else 0.0, out)
            dead = self.dead[s]
            if dead is not None:
                out = np.where(dead, 0.0, out)
            self.input_v[s], self.node_v[tree.first_stage + s] = volts, out

    def _input_voltage(self, s: int) -> Array:
        inputs = self.tree.inputs[s]
        volts = self.node_v[inputs[0]]
        if len(inputs) > 1:
            volts = np.where(self.first[s], volts, self.node_v[inputs[1]])
        return _behind(volts, self.tree.input_ohm[s], self.input_a[s])

    def _currents(self) -> list[Array]:
        """Upwards: every current. Returns those of the battery and the sources."""
        tree = self.tree
        asked: list[list[Array]] = [[] for _ in range(tree.nodes)]
        for r, feed in enumerate(tree.rail_feeds):
            self.rail_v[r] = _behind(self.node_v[feed], tree.rail_ohm[r], self.rail_a[r])
            self.rail_a[r] = self._rail_current(r, self.rail_v[r])
            asked[feed].append(self.rail_a[r])
        for s in range(len(tree.stages) - 1, -1, -1):
            out = _sum(asked[tree.first_stage + s])
            self.output_a[s] = out
            taken = self._taken(s, tree.converter_models[s], out)
            self.input_a[s] = taken
            inputs = tree.inputs[s]
            if len(inputs) == 1:
                asked[inputs[0]].append(taken)
            else:
                first = self.first[s]
                asked[inputs[0]].append(np.where(first, taken, 0.0))
                asked[inputs[1]].append(np.where(first, 0.0, taken))
        return [_sum(x) for x in asked[: tree.first_stage]]

    def _taken(self, s: int, converter_model: ConverterModel, out: Array) -> Array:
        stage = self.tree.stages[s]
        taken = converter_model.input_current(self.input_v[s], self.node_v[self.tree.first_stage + s], out)
        off, dead = self.off[s], self.dead[s]
        if off is not None:
            taken = np.where(off, stage.shutdown_a + (out if passes_when_off(stage) else 0.0), taken)
        return taken if dead is None else np.where(dead, 0.0, taken)

    def _looked_back_at(self) -> list[Array]:
        return [row[k] for row, k in self._looking_back()]

    def _looking_back(self) -> Iterator[tuple[list[Array], int]]:
        """Which currents the next sweep's voltages depend on: outputs of stages that give way, and what goes through wires."""
        tree = self.tree
        for row, back in (
            (self.output_a, tree.feeds_back),
            (self.input_a, tree.input_ohm),
            (self.rail_a, tree.rail_ohm),
        ):
            yield from ((row, k) for k, looks in enumerate(back) if looks)

    def _jump(self, history: list[list[Array]]) -> Array:
        """Goes where the last three sweeps lead: sets the currents that are looked back at and returns the battery's voltage."""
        volts, *currents = (_jumped(*x) for x in zip(*history, strict=True))
        for (row, k), amps in zip(list(self._looking_back()), currents, strict=True):
            row[k] = amps
        return volts

    def _left(self, asked: Array, floor: Array) -> Array:
        """What the battery's resistance leaves of its open-circuit voltage, no less than where it has collapsed."""
        following = np.multiply(asked, self.pack.resistance_ohm, out=empty_table(self.shape))
        np.subtract(self.open_circuit_v, following, out=following)
        if self.pack.transfer_v > 0:
            following += self.pack.transfer_spared_v(asked)
        return np.maximum(following, floor, out=following)

    def _asked_at(self, volts: Array, collapsed: np.ndarray) -> list[Array]:
        """What is asked of the battery and the sources at the voltage to which the battery has collapsed, before anything behind it gives way."""
        for row, k in self._looking_back():
            row[k] = np.where(collapsed, 0.0, row[k])
        self.node_v[BATTERY_NODE] = volts
        self._voltages()
        return self._currents()

    def _given(self, asked: Array, collapsed: np.ndarray, across_v: Array) -> Array:
        """Where the battery has collapsed nothing holds what is asked for: all currents are lowered together to what a battery shorted by its load gives. Returns the
        share that this is of what is asked of the battery."""
        most = across_v / np.maximum(self.pack.resistance_ohm, LEAST_OHM)
        share = np.where(collapsed, np.clip(most / np.maximum(asked, LEAST_A), 0.0, 1.0), 1.0)
        for rows in (self.input_a, self.output_a, self.rail_a):
            rows[:] = [amps * share for amps in rows]
        return share

    def solved(self, *, rough: bool) -> Solution:
        """The working points; what does not depend on the state of charge is one column that is read as many."""
        tree, ocv = self.tree, self.open_circuit_v
        floor = COLLAPSE_SHARE * ocv
        least = floor * AT_FLOOR
        volts = self.start_v
        history: list[list[Array]] = []  # of sweeps: the battery's voltage, and the currents that are looked back at
        since = 0
        step: Array = np.zeros(self.shape)
        nominal = [np.where(self.powered[1 + i], x.voltage_v, 0.0) for i, x in enumerate(tree.sources)]
        others = list(nominal)
        asked: list[Array] = []
        before = 0.0
        for _sweep in range(MOST_SWEEPS):
            self.node_v[BATTERY_NODE] = volts
            self.node_v[1 : tree.first_stage] = others
            self._voltages()
            looked_back_at = self._looked_back_at()
            asked = self._currents()
            following = self._left(asked[BATTERY_NODE], floor)
            step = following - volts
            moved = _largest(step)
            for i, source in enumerate(tree.sources):
                fresh = np.maximum(nominal[i] - asked[1 + i] * source.resistance_ohm, COLLAPSE_SHARE * nominal[i])
                moved = max(moved, _largest(fresh - others[i]))
                others[i] = fresh
            volts = following
            state = [volts, *self._looked_back_at()]
            calm = moved < NEAR
            if calm:
                holds = volts > least
                steps = ((a - b) * holds for a, b in zip(state[1:], looked_back_at, strict=True))
                moved = max(moved, *map(_largest, steps), 0.0)
            if moved < TOLERANCE or (rough and moved < ROUGH and moved * moved < SETTLED * before):
                break
            before = moved
            history.append(state)
            since += 1
            if calm and len(history) >= 3:
                volts = np.clip(self._jump(history[-3:]), floor, ocv)
                history, since = [], 0
            elif since == 3:
                if moved > SETTLED:
                    volts = np.clip(_extrapolated(*(x[0] for x in history[-3:])), floor, ocv)
                    history = []
                since = 0
        collapsed = (volts <= least) | (np.abs(step) > (ROUGH if rough else SETTLED))
        given: Array = np.ones(())
        if collapsed.any():
            asked = self._asked_at(volts, collapsed)
            given = self._given(asked[BATTERY_NODE], collapsed, ocv - floor)
            asked = [amps * given for amps in asked]
        return Solution(
            terminal_v=np.broadcast_to(volts, self.shape),
            source_a=np.broadcast_to(asked[BATTERY_NODE], self.shape),
            other_v=Rows(others, self.shape),
            other_a=Rows(asked[1:], self.shape),
            stage_input_v=Rows(self.input_v, self.shape),
            stage_output_v=Rows(self.node_v[tree.first_stage :], self.shape),
            stage_input_a=Rows(self.input_a, self.shape),
            stage_output_a=Rows(self.output_a, self.shape),
            rail_v=Rows(self.rail_v, self.shape),
            rail_a=Rows(self.rail_a, self.shape),
            collapsed=collapsed,
            given=np.broadcast_to(given, self.shape),
        )


def _behind(volts: Array, ohm: float, amps: Array) -> Array:
    """What is left behind a wire, with the current of the sweep before; where the wire takes nearly all there is no working point behind it."""
    return np.maximum(volts - ohm * amps, COLLAPSE_SHARE * volts) if ohm else volts


def _sum(parts: list[Array]) -> Array:
    """The sum of arrays of shapes that go together; a single 0 of none. Only what it made itself is added to in place."""
    if len(parts) < 2:
        return parts[0] if parts else np.zeros(())
    total = parts[0] + parts[1]
    for more in parts[2:]:
        if total.size >= more.size:
            total += more
        else:
            total = total + more
    return total


def _largest(steps: Array) -> float:
    """The largest step, up or down; 0 where there are none."""
    return max(float(steps.max()), -float(steps.min()), 0.0) if steps.size else 0.0


def _extrapolated(v0: Array, v1: Array, v2: Array) -> Array:
    """Aitken's delta-squared where the steps shrink steadily. Where they hardly shrink, or grow, on the way down, further down by `REACH`
    at most: what draws a constant power has no root there, and one that a regulator has where it drops out is reached from below. Elsewhere
    the last value."""
    first, second = v1 - v0, v2 - v1
    ratio = second / np.where(first == 0, 1.0, first)
    shrinks = np.clip(ratio, 0.0, STEADY)
    further = second * shrinks / (1 - shrinks)
    slides = (ratio >= STEADY) & (second < 0)
    return np.asarray(v2 + np.where(ratio < STEADY, further, np.where(slides, np.maximum(further, -REACH * v0), 0.0)))


def _jumped(v0: Array, v1: Array, v2: Array) -> Array:
    """The same for steps that are small already, and may go to and fro: what grows or stands still is left."""
    first, second = v1 - v0, v2 - v1
    stays = np.abs(second) >= STEADY * np.abs(first)
    first -= second
    first += stays * FAR  # faster than choosing: nothing is left of what is divided by it
    second *= second
    second /= first
    second += v2
    return second


def first_choice(tree: Tree, pack: Pack, modes: np.ndarray) -> list[np.ndarray]:
    """For every stage: where its first input is the higher one without load, (rows, charges); () with one input.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.runtime.run import run
    >>> state = run(design)
    >>> [bool(x.all()) for x in first_choice(state.tree, state.pack, state.loads.mode)]
    [True, True]
    """
    found: list[np.ndarray] = [np.array(True)] * len(tree.stages)
    if all(len(i) == 1 for i in tree.inputs):
        return found
    volts: list[Array] = [np.broadcast_to(pack.open_circuit_v, (modes.size, pack.charge.size))]
    volts += [np.where(tree.powered[1 + i, modes][:, None], x.voltage_v, 0.0) for i, x in enumerate(tree.sources)]
    for s, (stage, converter_model) in enumerate(zip(tree.stages, tree.converter_models, strict=True)):
        above = [volts[i] for i in tree.inputs[s]]
        if len(above) == 2:
            found[s] = np.broadcast_to(above[0] >= above[1], (modes.size, pack.charge.size))
        into = np.maximum(above[0], above[1]) if len(above) == 2 else above[0]
        out = np.where(into > 0, converter_model.output_voltage(into, np.zeros(())), 0.0)
        off = tree.off[s, modes][:, None]
        volts.append(np.where(off, np.maximum(into - BODY_DIODE_V, 0.0) if passes_when_off(stage) else 0.0, out))
    return found
