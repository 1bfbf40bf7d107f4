"""What comes nearest to its own limit of heat: air, cell, parts, stages and charger, in every mode and while it charges."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..design import Design
from ..runtime.run import Run
from ..thermal.materials import CELL_MAX_C, softest
from ..thermal.shell import FILM_SPREAD
from ..words import say
from .warmth import CELL_CHARGE_MAX_C, Warmth

CHARGING = "charging"
SOFTENING_MARGIN_C = 10.0


@dataclass(frozen=True)
class Hot:
    """One thing where it comes nearest to its limit. Temperatures in degC: its own with the range that the case's and its own films
    leave, its limit, the air inside and the surroundings by then; `when` is the mode in lower case, or "charging". `pointer` leads to
    it, empty for the air; `softens` tells that the limit is the case's plastic."""

    pointer: str
    name: str
    degrees_c: float
    low_c: float
    high_c: float
    limit_c: float
    air_c: float
    surroundings_c: float
    when: str
    softens: bool = False

    @property
    def near(self) -> float:
        """How much of the room between the surroundings and its limit it takes, 1 at the limit."""
        return (self.degrees_c - self.surroundings_c) / max(self.limit_c - self.surroundings_c, 1.0)

    @property
    def status(self) -> Literal["pass", "watch", "fail"]:
        """fail: beyond its limit; watch: within the uncertainty of it, or within the margin to where a plastic softens."""
        if self.degrees_c > self.limit_c:
            return "fail"
        soft = self.softens and self.degrees_c > self.limit_c - SOFTENING_MARGIN_C
        return "watch" if soft or self.high_c > self.limit_c else "pass"

    @property
    def order(self) -> tuple[int, float]:
        """The larger, the worse."""
        return ("pass", "watch", "fail").index(self.status), self.near


def hot_things(state: Run, warm: Warmth, charging_hottest_c: float) -> list[Hot]:
    """In each mode that a day has, and while it charges: the air inside, and the thing that comes nearest to its own limit.
    `charging_hottest_c` is the hottest place in which it is charged [degC].

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> found = hot_things(bench.usual, bench.warmth, 30.0)
    >>> found[0].degrees_c < found[0].limit_c
    True
    """
    design = state.design
    used = np.flatnonzero(state.shares > 0).tolist()
    around = design.brief.hottest_c
    low, high = (x - warm.running_c for x in warm.running_range_c)
    cases = [
        (design.modes[m].name.lower(), float(warm.inside_c[m]), warm.node_c[:, m], around, low, high) for m in used
    ]
    if warm.charging_c is not None and warm.charging_node_c is not None and warm.charging_range_c is not None:
        low, high = (x - warm.charging_c for x in warm.charging_range_c)
        cases.append((CHARGING, warm.charging_c, warm.charging_node_c, charging_hottest_c, low, high))
    limits = np.array([n.limit_c for n in warm.nodes])
    found = [_air(design, case) for case in cases]
    for when, air, nodes, surroundings, low, high in cases:
        stands = limits.copy()
        for i, node in enumerate(warm.nodes):
            if node.kind == "cell" and when == CHARGING:
                stands[i] = CELL_CHARGE_MAX_C
            elif node.kind == "charger" and when != CHARGING:
                stands[i] = np.inf  # it rests then
        above = np.maximum(nodes - air, 0.0)
        warmest = nodes + high + above * (FILM_SPREAD - 1)
        if when == CHARGING and design.charger is not None and design.charger.foldback_c is not None:
            warmest[-1] = min(warmest[-1], max(nodes[-1], design.charger.foldback_c))  # it holds itself there
        near = (nodes - surroundings) / np.maximum(stands - surroundings, 1.0)
        i = max(range(len(warm.nodes)), key=lambda i: (nodes[i] > stands[i], warmest[i] > stands[i], near[i]))
        lowest = float(nodes[i] + low - above[i] * (1 - 1 / FILM_SPREAD))
        node = warm.nodes[i]
        found.append(Hot(
            node.pointer, node.name, float(nodes[i]), lowest, float(warmest[i]), float(stands[i]), air, surroundings, when
        ))  # fmt: skip
    return found


def _air(design: Design, case: tuple[str, float, object, float, float, float]) -> Hot:
    """The air, against what the case or the cell stands."""
    when, air, _, surroundings, low, high = case
    _, softens = softest(design.enclosure)
    cell = CELL_CHARGE_MAX_C if when == CHARGING else CELL_MAX_C[design.battery.cell.chemistry]
    return Hot(
        "", say("warm.air"), air, air + low, air + high, min(softens, cell), air, surroundings, when,
        softens=softens <= cell,
    )  # fmt: skip
