"""What makes of cells differ by in the cold."""

from __future__ import annotations

import numpy as np

from ..battery.chemistry import low_temperature_factor, resistance_at
from ..battery.pack import LEAST_LEFT
from ..design import Chemistry
from ..numeric import Array
from .run import Run
from .spans import Span, factor

COLD, COLD_MEASURED = 1.5, 1.15  # of what the cold takes of the capacity, and of a cell that was measured there
# Lithium-ion and iron phosphate: what the cold takes, of the capacity and in resistance alike, in times what it usually takes. One make in ten hardly
# notices it, one in ten minds it this much more: published cells lose from 0 to 25 % at -10 degC. What hardly notices it holds more besides, from 0 to 7 %
UNEVEN_IN_THE_COLD = frozenset[Chemistry](("lithium-ion", "lithium-iron-phosphate"))
COLD_LEAST, COLD_MOST, BETTER = 0.001, 2.2, 0.06
REFERENCE_C = 25.0


def coldness(celsius: float) -> float:
    """0 at the temperature that cells are described at, 1 from freezing down.

    >>> [coldness(c) for c in (30.0, 25.0, 12.5, 0.0, -20.0)]
    [0.0, 0.0, 0.5, 1.0, 1.0]
    """
    return min(max((REFERENCE_C - celsius) / REFERENCE_C, 0.0), 1.0)


def cold_span(state: Run) -> Span:
    """What the cold takes in times what it usually takes: the wider the colder.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.runtime.run import run
    >>> span = cold_span(run(design, -10.0))
    >>> span.min < span.typical < span.max
    True
    """
    if not state.cold_unknown:
        return factor(COLD_MEASURED)
    if not uneven_in_the_cold(state):
        return factor(COLD)
    cold = coldness(state.temperature_c)
    return Span(COLD_LEAST**cold, 1.0, COLD_MOST**cold)


def resistance_by_cold(state: Run, lost: Array) -> Array:
    """Factor on the resistance where the cold takes `lost` times what it usually takes: what it adds to that at 25 degC grows with it.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.runtime.run import run
    >>> import numpy as np
    >>> less, usual, more = resistance_by_cold(run(design, -10.0), np.array([0.0, 1.0, 2.0]))
    >>> float(usual), bool(less <= usual <= more)
    (1.0, True)
    """
    if state.cold_unknown and not uneven_in_the_cold(state):
        return np.ones_like(lost)
    usual = max(resistance_at(state.design.battery.cell.chemistry, state.temperature_c)[0], 1.0)
    return np.asarray((1 + (usual - 1) * lost) / usual)


def held_more(state: Run, lost: Array) -> Array:
    """Factor on the capacity of makes that mind the cold less than usual: they are the better ones, and hold more than is reckoned with.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.runtime.run import run
    >>> import numpy as np
    >>> more, usual = held_more(run(design, -10.0), np.array([0.0, 1.0]))
    >>> float(usual), bool(more >= usual)
    (1.0, True)
    """
    cold = coldness(state.temperature_c) if uneven_in_the_cold(state) else 0.0
    return np.asarray((1 + BETTER) ** (cold * np.clip(1 - lost, 0.0, 1.0)))


def left_by(state: Run, key: str, lost: Array) -> Array:
    """Factor on the capacity where a step takes `lost` times what it usually takes.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.runtime.run import run
    >>> import numpy as np
    >>> [round(float(x), 2) for x in left_by(run(design, -10.0), "temperature", np.array([0.0, 1.0, 2.0]))]
    [1.1, 1.0, 0.9]
    """
    share = next((s.left for s in state.pack.shares if s.key == key), 1.0)
    return np.asarray(np.maximum(1 - (1 - share) * lost, LEAST_LEFT) / share)


def spread_in_the_cold(state: Run) -> tuple[tuple[float, float], tuple[float, float]]:
    """What makes differ by in the cold, beside what they differ by anyway: (10th, 90th percentile) as factors on the typical capacity, and on the typical
    resistance. Both are 1 where it is warm.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> from ember_core.runtime.run import run
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> spread_in_the_cold(run(design, 25.0))
    ((1.0, 1.0), (1.0, 1.0))
    >>> (least, most), _ = spread_in_the_cold(run(design, -10.0))
    >>> least < 1 < most
    True
    """
    if low_temperature_factor(state.design.battery.cell.chemistry, state.temperature_c) >= 1:
        return (1.0, 1.0), (1.0, 1.0)
    span = cold_span(state)
    lost = np.array([span.max, span.min])
    capacity, resistance = left_by(state, "temperature", lost) * held_more(state, lost), resistance_by_cold(state, lost)
    return (float(capacity[0]), float(capacity[1])), (float(resistance[1]), float(resistance[0]))


def uneven_in_the_cold(state: Run) -> bool:
    """Whether nobody measured the cell in the cold, and makes of its kind take it very differently.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.runtime.run import run
    >>> uneven_in_the_cold(run(design, -10.0))
    True
    """
    return state.cold_unknown and state.design.battery.cell.chemistry in UNEVEN_IN_THE_COLD
