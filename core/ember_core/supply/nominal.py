"""Voltages without load: what each node, rail and stage may get."""

from __future__ import annotations

import numpy as np

from ..numeric import Array
from .converters import nominal_output_v
from .tree import Tree


def nominal_node_v(tree: Tree, battery_v: float) -> list[float]:
    """Output voltage of each node without load on a battery voltage, every source plugged in and every stage on [V].

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.supply.tree import build_tree
    >>> nominal_node_v(build_tree(design), 4.2)
    [4.2, 4.2, 3.3]
    """
    volts = [battery_v, *(s.voltage_v for s in tree.sources)]
    for stage, inputs in zip(tree.stages, tree.inputs, strict=True):
        volts.append(nominal_output_v(stage, max(volts[i] for i in inputs)))
    return volts


def nominal_rail_v(tree: Tree, battery_v: float) -> Array:
    """Voltage of each rail without load on a battery voltage, every source plugged in and every stage on [V], (rails,).

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.supply.tree import build_tree
    >>> nominal_rail_v(build_tree(design), 4.2).tolist()
    [3.3]
    """
    volts = nominal_node_v(tree, battery_v)
    return np.array([volts[feed] for feed in tree.rail_feeds])


def nominal_input_v(tree: Tree, battery_v: float) -> list[float]:
    """The highest voltage at the input of each stage of the tree, as `nominal_node_v` [V].

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.supply.tree import build_tree
    >>> nominal_input_v(build_tree(design), 4.2)
    [4.2, 4.2]
    """
    volts = nominal_node_v(tree, battery_v)
    return [max(volts[i] for i in inputs) for inputs in tree.inputs]
