"""The supply tree solved for every moment at every state of charge at once.

Terminal voltage and currents follow together: I = P / V loads have two roots, of which the upper one is
stable. Starting from the open-circuit voltage and repeating V <- OCV - I(V) R approaches that root from
above; where there is none the voltage runs away downwards and the source has collapsed, which is reported
and not an error.
"""

from __future__ import annotations

from dataclasses import dataclass, fields

import numpy as np

from .chemistry import Array
from .converters import LEAST_INPUT_V, input_current, marginal_current, output_voltage
from .demand import RailLoads
from .design import Design, Stage
from .pack import Pack
from .references import BATTERY

COLLAPSE_SHARE = 0.25  # of the open-circuit voltage: no stable working point is that far down
TOLERANCE_V = 1e-10
MOST_SWEEPS = 200


@dataclass(frozen=True)
class Tree:
    """Stages ordered from the source to the rails, with the index of each one's input (-1: the battery)."""

    stages: tuple[Stage, ...]
    inputs: tuple[int, ...]
    rail_feeds: tuple[int, ...]


@dataclass(frozen=True)
class Solution:
    """Working points; every array has the shape (moments, states of charge), or that after a leading stage/rail axis.

    terminal_v and source_a at the battery, stage_* per stage of the tree, rail_* per rail. `collapsed` marks
    points without a stable working point.
    """

    terminal_v: Array
    source_a: Array
    stage_input_v: Array
    stage_output_v: Array
    stage_input_a: Array
    stage_output_a: Array
    rail_v: Array
    rail_a: Array
    collapsed: np.ndarray

    def moments(self, chosen: slice) -> Solution:
        """The working points of some of the moments."""
        return Solution(**{f.name: getattr(self, f.name)[..., chosen, :] for f in fields(self)})


def build_tree(design: Design) -> Tree:
    """Orders the stages so that each comes after its input."""
    waiting = list(design.supply.stages)
    order: list[Stage] = []
    while waiting:
        placed = {BATTERY, *(s.id for s in order)}
        ready = [s for s in waiting if s.input in placed]
        assert ready, "the supply has a cycle; references.py refuses those"
        order += ready
        waiting = [s for s in waiting if s not in ready]
    index = {s.id: i for i, s in enumerate(order)} | {BATTERY: -1}
    return Tree(tuple(order), tuple(index[s.input] for s in order), tuple(index[r.feed] for r in design.supply.rails))


def rail_currents(loads: RailLoads, rail: int, volts: Array) -> Array:
    """Current into one rail [A] at its voltage, shape (moments, states of charge)."""
    current = (
        loads.current_a[:, rail, None]
        + loads.power_w[:, rail, None] / np.maximum(volts, LEAST_INPUT_V)
        + loads.conductance_s[:, rail, None] * volts
    )
    here = loads.lamp_rail == rail
    if here.any():
        moment = loads.lamp_moment[here]
        above = np.maximum(0.0, volts[moment] - loads.lamp_forward_v[here, None])
        np.add.at(current, moment, above * loads.lamp_conductance_s[here, None])
    return np.asarray(current)


def solve(tree: Tree, loads: RailLoads, pack: Pack) -> Solution:
    """All working points of all moments at all states of charge of the pack."""
    moments = loads.current_a.shape[0]
    shape = (moments, pack.charge.size)
    count, rails = len(tree.stages), len(tree.rail_feeds)
    ocv = np.broadcast_to(pack.open_circuit_v, shape)
    floor = COLLAPSE_SHARE * ocv
    step = np.zeros(shape)
    source_v, source_a = ocv.copy(), np.zeros(shape)
    v_in, v_out = np.zeros((count, *shape)), np.zeros((count, *shape))
    i_in, i_out = np.zeros((count, *shape)), np.zeros((count, *shape))
    rail_v, rail_a = np.zeros((rails, *shape)), np.zeros((rails, *shape))
    for _ in range(MOST_SWEEPS):
        for s, stage in enumerate(tree.stages):
            v_in[s] = source_v if tree.inputs[s] < 0 else v_out[tree.inputs[s]]
            v_out[s] = output_voltage(stage, v_in[s], i_out[s])
        previous = i_out.copy()
        i_out[:] = 0
        source_a = np.zeros(shape)
        for r, feed in enumerate(tree.rail_feeds):
            rail_v[r] = source_v if feed < 0 else v_out[feed]
            rail_a[r] = rail_currents(loads, r, rail_v[r])
            if feed < 0:
                source_a += rail_a[r]
            else:
                i_out[feed] += rail_a[r]
        for s in range(count - 1, -1, -1):
            i_in[s] = input_current(tree.stages[s], v_in[s], v_out[s], i_out[s])
            if tree.inputs[s] < 0:
                source_a += i_in[s]
            else:
                i_out[tree.inputs[s]] += i_in[s]
        following = np.maximum(pack.open_circuit_v - source_a * pack.resistance_ohm, floor)
        step = np.abs(following - source_v)
        inner = float(np.max(np.abs(i_out - previous), initial=0.0))
        source_v = following
        if float(np.max(step, initial=0.0)) < TOLERANCE_V and inner < TOLERANCE_V:
            break
    collapsed = (source_v <= floor * (1 + 1e-9)) | (step > 1e-5)
    return Solution(source_v, source_a, v_in, v_out, i_in, i_out, rail_v, rail_a, collapsed)


def rail_gains(tree: Tree, solution: Solution) -> Array:
    """d I_battery / d I_rail at every working point, shape (rails, moments, states of charge)."""
    shape = solution.terminal_v.shape
    stage_gain = np.ones((len(tree.stages), *shape))
    for s, stage in enumerate(tree.stages):
        own = marginal_current(stage, solution.stage_input_v[s], solution.stage_output_v[s], solution.stage_output_a[s])
        upstream = 1.0 if tree.inputs[s] < 0 else stage_gain[tree.inputs[s]]
        stage_gain[s] = own * upstream
    return np.stack([np.ones(shape) if feed < 0 else stage_gain[feed] for feed in tree.rail_feeds])
