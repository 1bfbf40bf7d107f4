"""How far the runtime may be off: every uncertain input carried through to the runtime to first order.

Each input moves the mean current (or the capacity) from its typical to its least and most value; the effects,
as logarithms of the runtime, are added as squares (independent inputs; BIPM, *Guide to the Expression of
Uncertainty in Measurement*, JCGM 100:2008, 5.1.2). The result stands for about the 10th and 90th percentile,
as the inputs' ranges do.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .demand import LEVELS
from .pack import capacity_tolerance
from .runtime import Run

SELF_DISCHARGE_FACTOR = 1.6  # between makes, 10th to 50th percentile


@dataclass(frozen=True)
class Influence:
    """What one input does to the runtime: factors on the runtime at its worst and at its best, and its share of
    the whole spread (0..1)."""

    kind: str
    part: int
    state: str
    low_factor: float
    high_factor: float
    share: float


@dataclass(frozen=True)
class Spread:
    """Factors on the runtime (low <= 1 <= high), and the inputs in order of their share."""

    low: float
    high: float
    influences: list[Influence]


def runtime_spread(state: Run) -> Spread:
    """The range of the runtime around its typical value."""
    middle = int(np.argmin(np.abs(state.pack.charge - 0.5)))
    total = float(state.mean_current_a[middle]) + state.pack.self_discharge_a
    effects: dict[tuple[int, str], list[float]] = {}
    for m, moment in enumerate(state.moments):
        weight = state.moment_weights[m]
        if weight == 0:
            continue
        for p, used in enumerate(moment.states):
            if used is None:
                continue
            low, mid, high = (state.part_a(p, m, middle, level) for level in LEVELS)
            scale = weight * float(state.gains[state.rail_of[p], m, middle])
            effect = effects.setdefault((p, used.name), [0.0, 0.0])
            effect[0] += scale * (low - mid)
            effect[1] += scale * (high - mid)
    rows: list[tuple[str, int, str, float, float]] = []
    for (p, name), (less, more) in effects.items():
        better = -np.log(max(total + less, total * 0.05) / total)
        rows.append(("draw", p, name, float(-np.log((total + more) / total)), float(better)))
    low, high = capacity_tolerance(state.design.battery.cell)
    rows.append(("capacity", -1, "", float(np.log1p(low)), float(np.log1p(high))))
    own = state.pack.self_discharge_a * SELF_DISCHARGE_FACTOR
    less = state.pack.self_discharge_a / SELF_DISCHARGE_FACTOR
    base = total - state.pack.self_discharge_a
    rows.append(("self-discharge", -1, "", float(-np.log((base + own) / total)), float(-np.log((base + less) / total))))
    squares = [(down * down + up * up) / 2 for *_, down, up in rows]
    whole = sum(squares) or 1.0
    influences = [
        Influence(kind, p, name, float(np.exp(down)), float(np.exp(up)), square / whole)
        for (kind, p, name, down, up), square in zip(rows, squares, strict=True)
    ]
    influences.sort(key=lambda i: -i.share)
    return Spread(
        float(np.exp(-np.sqrt(sum(r[3] ** 2 for r in rows)))),
        float(np.exp(np.sqrt(sum(r[4] ** 2 for r in rows)))),
        influences,
    )
