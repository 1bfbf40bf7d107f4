"""Whose the battery's current is."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..battery.pack import Pack
from ..load.operating_points import RailLoads
from ..numeric import Array
from .converters import passes_when_off
from .solution import Solution
from .solver import first_choice
from .tree import Tree


@dataclass(frozen=True)
class Attribution:
    """Whose the battery's current is, at every working point; arrays end in (operating points, states of charge).

    `rail` is what one ampere on a rail is charged with at the battery, `stage` what each stage takes for itself, as
    current at the battery [A]: rail currents times `rail` and `stage` add up to the battery's current. `into` is what one
    ampere into a stage is charged with. All are 0 where another source feeds.
    """

    rail: Array
    stage: Array
    into: Array


def attribute(tree: Tree, loads: RailLoads, solution: Solution, pack: Pack) -> Attribution:
    """Charges what hangs on a stage with its marginal input current, or with the mean one where that is less (losses that
    grow with the square of the current); what is left is the stage's own.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.runtime.run import run
    >>> state = run(design)
    >>> whose = attribute(state.tree, state.loads, state.typical, state.pack)
    >>> told = (whose.rail * state.typical.rail_a.whole).sum(axis=0) + whose.stage.sum(axis=0)
    >>> bool(np.allclose(told, state.typical.source_a))
    True
    """
    shape = solution.terminal_v.shape
    modes = loads.mode
    first = first_choice(tree, pack, modes)
    charged: list[Array] = [np.ones(shape)] + [np.zeros(shape)] * len(tree.sources)
    own: list[Array] = []
    entering: list[Array] = []
    for s, (stage, converter_model) in enumerate(zip(tree.stages, tree.converter_models, strict=True)):
        v_in, v_out, i_in, i_out = (
            x[s] for x in (solution.stage_input_v, solution.stage_output_v, solution.stage_input_a, solution.stage_output_a)
        )  # fmt: skip
        off = tree.off[s, modes][:, None]
        each = np.where(off, float(passes_when_off(stage)), converter_model.marginal_current(v_in, v_out, i_out))
        each = np.minimum(each, np.where(i_out > 0, i_in / np.where(i_out > 0, i_out, 1.0), each))
        above = [charged[n] for n in tree.inputs[s]]
        into = above[0] if len(above) == 1 else np.where(first[s], above[0], above[1])
        entering.append(into)
        charged.append(each * into)
        own.append((i_in - each * i_out) * into)
    powered = tree.powered[:, modes]
    return Attribution(
        rail=np.stack([charged[feed] * powered[feed][:, None] for feed in tree.rail_feeds]),
        stage=np.stack(own) if own else np.zeros((0, *shape)),
        into=np.stack(entering) if entering else np.zeros((0, *shape)),
    )
