"""Where each mode's worst operating point first no longer holds as the battery empties, and why."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..battery.pack import Pack
from ..design import Design, LedDraw, Part, State, SwitchingStage
from ..load.operating_points import OperatingPoint
from ..numeric import Array
from ..supply.converters import least_input_v, limits_current
from ..supply.solution import Solution
from ..supply.tree import Tree


@dataclass(frozen=True)
class Failure:
    """Where a mode's worst operating point first no longer holds as the battery empties.

    `charge` is the state of charge then: 1 means at once, 0 means that it holds until empty.
    `reason` is one of cutoff, collapse, kinetics, input, start, limit, supply, empty; `subject` is the stage's, source's or part's id.
    `value` and `limit` are the figure and its limit just where it fails, in `unit`.
    """

    charge: float
    reason: str
    subject: str
    value: float
    limit: float
    unit: str
    moment: int


ONE = np.ones(1)
NONE = np.zeros(0, dtype=int)
DARK = 0.1  # of the current on a full battery: a light as dim as that is dark; a rule of thumb
HOLDS = Failure(0.0, "empty", "", 0.0, 0.0, "", -1)


@dataclass(frozen=True)
class Condition:
    """value must stay >= limit (sign +1) or <= limit (sign -1) in some of the operating points; `rows` are their positions.

    `value` has the shape (rows, states of charge), or (rows, 1) where it does not depend on that.
    """

    reason: str
    subject: str
    rows: np.ndarray
    value: Array
    limit: float
    sign: int
    unit: str


def first_failures(
    design: Design,
    tree: Tree,
    pack: Pack,
    operating_points: list[OperatingPoint],
    worst: Solution,
    filtered_current_a: Array,
) -> list[Failure]:
    """One failure per mode: the condition that breaks at the highest state of charge.

    `filtered_current_a` is what the relaxation of the cell feels in each operating point, shape (operating points, N): what it
    cannot bring up stays inside.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.runtime.run import run
    >>> state = run(design)
    >>> points = state.operating_points
    >>> found = first_failures(design, state.tree, state.pack, points, state.worst, state.point_filtered_a)
    >>> len(found) == len(design.modes), all(0 <= x.charge <= 1 for x in found)
    (True, True)
    """
    found = [HOLDS] * len(design.modes)
    for condition in conditions(design, tree, pack, operating_points, worst, filtered_current_a):
        for r, charge, k in zip(*(x.tolist() for x in breaks(condition, pack.charge)), strict=True):
            row = int(condition.rows[r])
            mode = operating_points[row].mode
            if found[mode] is not HOLDS and charge <= found[mode].charge:
                continue
            collapsed = condition.reason == "cutoff" and bool(worst.collapsed[row, k])
            value = float(condition.value[r, 0]) if k == 0 else condition.limit
            found[mode] = Failure(
                charge, "collapse" if collapsed else condition.reason, condition.subject, value, condition.limit,
                condition.unit, row,
            )  # fmt: skip
    return found


def ending_charges(
    design: Design,
    tree: Tree,
    pack: Pack,
    operating_points: list[OperatingPoint],
    solution: Solution,
    filtered_current_a: Array,
    rate: Array,
) -> Array:
    """State of charge at which the first essential mode fails, for many samples: shape (samples,); 0 where all hold.

    `solution` has the operating points of the first sample, then those of the second, and so on. `rate` is each sample's factor on
    the charge that the cell cannot bring up, shape (samples,).

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.runtime.run import run
    >>> state = run(design)
    >>> points, one = state.operating_points, np.ones(1)
    >>> ends = ending_charges(design, state.tree, state.pack, points, state.worst, state.point_filtered_a, one)
    >>> bool(abs(ends[0] - state.ending[1]) < 1e-9)
    True
    """
    essential = np.array([design.modes[m.mode].essential for m in operating_points], dtype=bool)
    found = np.zeros(rate.size * len(operating_points))
    for condition in conditions(design, tree, pack, operating_points, solution, filtered_current_a, rate):
        rows, at, _ = breaks(condition, pack.charge)
        broken = condition.rows[rows]
        found[broken] = np.maximum(found[broken], at)
    return np.asarray(np.max(found.reshape(rate.size, -1), axis=1, where=essential, initial=0.0))


def breaks(condition: Condition, charge: Array) -> tuple[np.ndarray, Array, np.ndarray]:
    """(positions among the rows that do not hold, state of charge, grid point) where a condition first breaks, by linear interpolation.

    >>> falls = Condition("cutoff", "", np.array([0]), np.array([[4.0, 3.5, 2.5]]), 3.0, 1, "V")
    >>> rows, charge, first = breaks(falls, np.array([1.0, 0.5, 0.0]))
    >>> charge.tolist(), first.tolist()
    ([0.25], [2])
    """
    value, limit, sign = condition.value, condition.limit, condition.sign
    if not value.size or (value.min() - limit >= 0 if sign > 0 else value.max() - limit <= 0):
        return NONE, ONE[:0], NONE
    margins = value - limit
    if sign < 0:
        np.negative(margins, out=margins)
    broken = margins < -1e-9
    rows = np.flatnonzero(broken.any(axis=1))
    first = broken.argmax(axis=1)[rows]
    above = np.maximum(first - 1, 0)
    high, low = margins[rows, above], margins[rows, first]
    # at the first point of the grid above and first are the same
    part = np.divide(high, high - low, out=np.zeros_like(high), where=high != low)
    return rows, charge[above] + part * (charge[first] - charge[above]), first


def conditions(
    design: Design, tree: Tree, pack: Pack, operating_points: list[OperatingPoint], worst: Solution, filtered_current_a: Array,
    rate: Array = ONE,
) -> list[Condition]:  # fmt: skip
    """What has to hold in every mode; as many copies of the operating points as `rate` has values are looked at together.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.runtime.run import run
    >>> state = run(design)
    >>> points = state.operating_points
    >>> found = conditions(design, state.tree, state.pack, points, state.worst, state.point_filtered_a)
    >>> found[0].reason, found[0].unit, round(found[0].limit, 2)
    ('cutoff', 'V', 3.0)
    """
    copies = rate.size
    modes = np.array([m.mode for m in operating_points], dtype=int)
    start = np.arange(copies)[:, None] * modes.size

    def all_copies(rows: np.ndarray) -> np.ndarray:
        return np.asarray((start + rows).ravel())

    every = all_copies(np.arange(modes.size))
    volts = np.where(worst.collapsed, 0.0, worst.terminal_v) if worst.collapsed.any() else worst.terminal_v
    found = [Condition("cutoff", "", every, volts, pack.cutoff_v, 1, "V")]

    if pack.unavailable_h > 0:
        stays = rate[:, None, None] * pack.unavailable_ah(filtered_current_a)
        spare = pack.charge * pack.capacity_ah - stays
        found.append(Condition("kinetics", "", every, spare.reshape(copies * modes.size, -1), 0.0, 1, "Ah"))

    def add(reason: str, subject: str, rows: np.ndarray, values: Array, limit: float, sign: int, unit: str) -> None:
        if rows.size == modes.size:
            found.append(Condition(reason, subject, every, values, limit, sign, unit))
        elif rows.size:
            chosen = all_copies(rows)
            found.append(Condition(reason, subject, chosen, values[chosen], limit, sign, unit))

    working, entered = tree.working, modes_of_the_day(design)
    for s, stage in enumerate(tree.stages):
        on = np.flatnonzero(working[s, modes])
        floor = least_input_v(stage)
        if floor:
            add("input", stage.id, on, worst.stage_input_v.narrow(s), floor, 1, "V")
        if limits_current(stage):
            add("limit", stage.id, on, worst.stage_output_a.narrow(s), stage.limit_a, -1, "A")
        if not isinstance(stage, SwitchingStage):
            continue
        if stage.input_limit_a is not None:
            add("limit", stage.id, on, worst.stage_input_a.narrow(s), stage.input_limit_a, -1, "A")
        if (
            stage.start_up_v is not None and not working[s, entered].all()
        ):  # it has to start again on what there is then
            add("start", stage.id, on, worst.stage_input_v.narrow(s), stage.start_up_v, 1, "V")
    for i, source in enumerate(tree.sources):
        there = np.flatnonzero(tree.powered[1 + i, modes])
        add("limit", source.id, there, worst.other_a.narrow(i), source.limit_a, -1, "A")
    full_v = [worst.rail_v.narrow(r)[: len(operating_points), 0].tolist() for r in range(len(tree.rail_feeds))]
    for r, least_v, part, rows in _neediest(design, tree, operating_points, full_v):
        add("supply", part.id, np.array(rows), worst.rail_v.narrow(r), least_v, 1, "V")
    return found


def modes_of_the_day(design: Design) -> list[int]:
    """The positions of the modes that a day brings, or that the user switches to.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> modes_of_the_day(design)
    [0, 1]
    """
    day = design.day
    stretches = [s for session in day.sessions for s in session.stretches] + [
        s for wake in day.wakes for s in wake.stretches
    ]
    named = {day.rest} | {s.mode for s in stretches}
    return [m for m, mode in enumerate(design.modes) if mode.id in named or mode.switched_off]


def dark_below_v(part: Part, state: State, full_v: float) -> float:
    """Supply below which a light with its resistor gives a tenth of what it gives at `full_v` [V]; 0 for others.

    >>> from ember_core.design import Part
    >>> drawn = {"behaviour": "led", "forward_v": 2.0, "resistance_ohm": {"typical": 100.0}}
    >>> state = {"name": "on", "draw": drawn, "provenance": "datasheet"}
    >>> light = Part.model_validate({"id": "l", "name": "Light", "kind": "light", "rail": "main", "states": [state]})
    >>> dark_below_v(light, light.states[0], 4.0)
    2.2
    """
    if part.kind != "light" or not isinstance(state.draw, LedDraw) or full_v <= state.draw.forward_v:
        return 0.0
    return state.draw.forward_v + DARK * (full_v - state.draw.forward_v)


def _neediest(
    design: Design, tree: Tree, operating_points: list[OperatingPoint], full_v: list[list[float]]
) -> list[tuple[int, float, Part, list[int]]]:
    """For every rail (rail, least supply, part, operating points) of the parts that need most there: one part per operating point is enough.

    `full_v` is each rail's voltage on a full battery in each operating point, shape (rails, operating points).
    """
    rail_of, nothing = design.index.rails, (0.0, 0)
    powered = tree.rail_powered.tolist()
    needs = [
        (i, rail_of[p.rail], p.supply_min_v or 0.0, p if p.kind == "light" else None)
        for i, p in enumerate(design.parts)
        if p.supply_min_v is not None or p.kind == "light"
    ]
    rows: dict[tuple[int, float], list[int]] = {}
    for k, moment in enumerate(operating_points):
        strictest: dict[int, tuple[float, int]] = {}
        for i, r, least_v, light in needs:
            state = moment.states[i]
            if state is None or not powered[r][moment.mode]:
                continue
            volts = least_v if light is None else max(least_v, dark_below_v(light, state, full_v[r][k]))
            if volts > strictest.get(r, nothing)[0]:
                strictest[r] = (volts, i)
        for volts, i in strictest.values():
            rows.setdefault((i, volts), []).append(k)
    return [(rail_of[design.parts[i].rail], volts, design.parts[i], found) for (i, volts), found in rows.items()]
