"""What is not known exactly, as a distribution around its typical figure."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ..battery.pack import OUTER_DECILE
from ..design import Provenance, Range
from ..numeric import Array

OUTER_PERCENT = 2.3263  # standard deviations to the 1st and 99th percentile: a datasheet's guaranteed limits
TAIL = 10.0  # times the typical figure: a most that far out is a limit, and nothing is drawn beyond it


@dataclass(frozen=True)
class Span:
    """A distribution with `typical` as its median: two half log-normal ones, with `least` and `most` at `outer` standard
    deviations; linear where the typical figure or the least one is 0. Nothing lies beyond `ceiling`."""

    min: float
    typical: float
    max: float
    outer_low: float = OUTER_DECILE
    outer_high: float = OUTER_DECILE
    ceiling: float = math.inf

    def values(self, normal: Array) -> Array:
        """The values at standard normal positions, shape (samples,)."""
        return np.asarray(drawn_values([self], normal[:, None])[:, 0])


def drawn_values(spans: list[Span], normal: Array) -> Array:
    """The values of many distributions at standard normal positions, shape (samples, spans).

    >>> import numpy as np
    >>> [round(float(x), 2) for x in drawn_values([factor(2.0)], np.array([[-OUTER_DECILE], [0.0], [OUTER_DECILE]]))[:, 0]]
    [0.5, 1.0, 2.0]
    """
    least, typical, most, ceiling = (
        np.array([getattr(x, f) for x in spans]) for f in ("min", "typical", "max", "ceiling")
    )
    outer_low, outer_high = (np.array([getattr(x, f) for x in spans]) for f in ("outer_low", "outer_high"))
    below = normal < 0
    steps = normal / np.where(below, outer_low, outer_high)
    relative = (typical > 0) & (least > 0)
    middle, low = np.where(relative, typical, 1.0), np.where(relative, least, 1.0)
    high = np.where(relative, most, 1.0)
    logs = np.where(below, np.log(middle / low), np.log(high / middle))
    linear = typical + np.where(below, typical - least, most - typical) * steps
    values = np.where(relative, middle * np.exp(logs * steps), np.maximum(linear, 0.0))
    return np.asarray(np.minimum(values, ceiling))


def factor(times: float) -> Span:
    """
    >>> factor(1.5)
    Span(min=0.6666666666666666, typical=1.0, max=1.5, outer_low=1.2816, outer_high=1.2816, ceiling=inf)
    """
    return Span(1 / times, 1.0, times)


def draw_span(span: Range, provenance: Provenance) -> Span:
    """The distribution of a state's figure. What a datasheet gives as least and most is guaranteed: hardly one part in a
    hundred lies beyond. Everything else stands for one in ten.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.load.operating_points import draw_range
    >>> span, _ = draw_range(design.parts[0].states[0])
    >>> found = draw_span(span, "guess")
    >>> found.min < found.typical < found.max
    True
    """
    least, most = span.bounds(provenance)
    limits = provenance == "datasheet"
    return Span(
        least,
        span.typical,
        most,
        OUTER_PERCENT if limits and span.min is not None else OUTER_DECILE,
        OUTER_PERCENT if limits and span.max is not None else OUTER_DECILE,
        most if most >= TAIL * span.typical else math.inf,
    )
