"""The supply as a graph: what feeds what, and what has power in which mode."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..design import Design, Mode, PowerOrStage, Source, Stage
from ..design.references import BATTERY
from .converters import ConverterModel, converter_model, passes_when_off

BATTERY_NODE = 0


@dataclass(frozen=True)
class Tree:
    """Nodes are numbered: the battery, then the sources, then the stages, each after what feeds it.

    `inputs` per stage and `rail_feeds` per rail name nodes, `input_ohm` and `rail_ohm` are the wires there and back [ohm]. `off` is (stages, modes): switched off; `powered` is
    (nodes, modes): its output has a voltage, seen from what is plugged in and switched on.
    """

    sources: tuple[Source, ...]
    stages: tuple[Stage, ...]
    converter_models: tuple[ConverterModel, ...]
    inputs: tuple[tuple[int, ...], ...]
    rail_feeds: tuple[int, ...]
    off: np.ndarray
    powered: np.ndarray
    feeds_back: tuple[bool, ...]
    input_ohm: tuple[float, ...]
    rail_ohm: tuple[float, ...]

    @property
    def first_stage(self) -> int:
        """The first stage's node."""
        return 1 + len(self.sources)

    @property
    def nodes(self) -> int:
        return self.first_stage + len(self.stages)

    @cached_property
    def stage_index(self) -> dict[str, int]:
        """Where each stage stands in `stages`, by its id."""
        return {s.id: i for i, s in enumerate(self.stages)}

    @cached_property
    def rail_powered(self) -> np.ndarray:
        """(rails, modes): the rail has a voltage."""
        return np.asarray(self.powered[list(self.rail_feeds)])

    @cached_property
    def working(self) -> np.ndarray:
        """(stages, modes): switched on, and fed by something."""
        fed = [np.any([self.powered[n] for n in inputs], axis=0) for inputs in self.inputs]
        return np.asarray(np.array(fed, dtype=bool).reshape(self.off.shape) & ~self.off)

    def path(self, node: int) -> list[int]:
        """The stages (their positions in `stages`) from a node up to its first source, nearest first."""
        found = []
        while node >= self.first_stage:
            found.append(node - self.first_stage)
            node = self.inputs[node - self.first_stage][0]
        return found


def feeds_of(stage: Stage) -> list[str]:
    """The ids of what feeds a stage.

    >>> from ember_core.catalogue import built_in
    >>> stage = built_in().by_key["stage-either-diodes"].stage
    >>> len(feeds_of(stage))
    2
    """
    return [stage.input, stage.other] if isinstance(stage, PowerOrStage) else [stage.input]


def build_tree(design: Design) -> Tree:
    """Orders the stages so that each comes after its inputs.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> [stage.id for stage in build_tree(design).stages]
    ['switch', 'buck-33-frugal']
    """
    supply = design.supply
    waiting = list(supply.stages)
    order: list[Stage] = []
    placed = {BATTERY, *(s.id for s in supply.sources)}
    while waiting:
        ready = [s for s in waiting if placed.issuperset(feeds_of(s))]
        assert ready, "the supply has a cycle; design/references.py refuses those"
        order += ready
        placed |= {s.id for s in ready}
        waiting = [s for s in waiting if s not in ready]
    index = {name: i for i, name in enumerate([BATTERY, *(s.id for s in supply.sources), *(s.id for s in order)])}
    inputs = tuple(tuple(index[name] for name in feeds_of(s)) for s in order)
    converter_models = tuple(converter_model(s) for s in order)
    return Tree(
        sources=tuple(supply.sources),
        stages=tuple(order),
        converter_models=converter_models,
        inputs=inputs,
        rail_feeds=tuple(index[r.feed] for r in supply.rails),
        off=np.array([[s.id in m.off_stages for m in design.modes] for s in order], dtype=bool).reshape(
            -1, len(design.modes)
        ),
        powered=_powered(supply.sources, order, inputs, design.modes),
        feeds_back=tuple(x.gives_way for x in converter_models),
        input_ohm=tuple(s.lead.ohm if s.lead else 0.0 for s in order),
        rail_ohm=tuple(r.lead.ohm if r.lead else 0.0 for r in supply.rails),
    )


def _powered(
    sources: list[Source], stages: list[Stage], inputs: tuple[tuple[int, ...], ...], modes: list[Mode]
) -> np.ndarray:
    rows = [np.ones(len(modes), dtype=bool)]
    rows += [np.array([s.id in m.plugged for m in modes]) for s in sources]
    for stage, feeds in zip(stages, inputs, strict=True):
        fed = np.any([rows[i] for i in feeds], axis=0)
        off = np.array([stage.id in m.off_stages for m in modes])
        rows.append(fed if passes_when_off(stage) else fed & ~off)
    return np.array(rows)


def powered_by(tree: Tree, source: int) -> np.ndarray:
    """(rails,): which rails have a voltage when only one source (a node) is there and every stage is on.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> powered_by(build_tree(design), 0).shape
    (1,)
    """
    there = [n == source for n in range(tree.first_stage)]
    for feeds in tree.inputs:
        there.append(any(there[i] for i in feeds))
    return np.array([there[feed] for feed in tree.rail_feeds])
