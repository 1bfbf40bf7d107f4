"""What a cell still feels of the current before: some first-order filters of it, each with a weight and a time constant.

The charge that a cell cannot bring up at once is that of one-dimensional diffusion in a slab (D. Rakhmatov and S. Vrudhula,
"An analytical high-level battery model for use in energy management of portable electronic systems", ICCAD 2001):
u(t) = 2 Σ ∫ I(s) exp(−β² m² (t − s)) ds, m = 1, 2, …, with β² = π² / (3 h). Each term is I through a filter with the time constant
1 / (β² m²), and a steady current ends at u = h I. The terms from the seventh on are put together in octaves, so that a pulse of
a second is followed as well as a day.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..numeric import Array

ALONE = 6  # terms that keep a filter of their own
OCTAVES = 7  # of terms behind them


@dataclass(frozen=True)
class Relaxation:
    """Filters of the current: `weight`, adding up to 1, and `time_s` [s], both of shape (filters,)."""

    weight: Array
    time_s: Array

    def settled(self, seconds: Array | float) -> Array:
        """How far a constant current is felt after a time [s] from rest, 0..1; any shape."""
        t = np.asarray(seconds, dtype=float)
        return np.asarray(-np.expm1(-t[..., None] / self.time_s) @ self.weight)

    def periodic(self, seconds: Array, every_s: Array) -> Array:
        """How far a stretch of so many seconds that comes every so many brings the filters from the mean current to its own,
        0..1, shape (stretches,): each filter repeats itself, and falls below the mean between two of them."""
        times = self.time_s
        grown, whole = (-np.expm1(-t[..., None] / times) for t in (seconds, every_s))
        share = np.where(np.isfinite(every_s), np.minimum(seconds, 1e30) / np.minimum(every_s, 1e30), 0.0)[..., None]
        alone = np.minimum(share, 1 - 1e-9)
        return np.asarray(np.where(share < 1, (grown / whole - alone) / (1 - alone), 1.0) @ self.weight)

    def left(self, seconds: Array | float) -> Array:
        """How much of what was felt is still felt after a time without current [s], 0..1; any shape."""
        return np.asarray(1 - self.settled(seconds))


def first_order(time_s: float) -> Relaxation:
    """A single filter.

    >>> import numpy as np
    >>> float(first_order(100.0).settled(100.0).round(3))
    0.632
    """
    return Relaxation(np.ones(1), np.array([time_s]))


def diffusion(steady_s: float) -> Relaxation:
    """The filters of diffusion whose unavailable charge is `steady_s` times a steady current [s].

    >>> float(diffusion(3600.0).settled(600.0).round(2)), float(diffusion(3600.0).left(3600.0).round(3))
    (0.63, 0.023)
    """
    return Relaxation(_WEIGHT, _TIME * steady_s)


def _diffusion() -> tuple[Array, Array]:
    """Weights and time constants over h. An octave of terms acts at the time constant that keeps its slope at the start; what is
    behind the last one is felt at once."""
    edges = [*range(1, ALONE + 1), *(ALONE + 1) * 2 ** np.arange(OCTAVES + 1)]
    weights, times = [], []
    for first, last in pairwise(edges):
        m = np.arange(first, last)
        each = 6 / (np.pi * m) ** 2
        weights.append(each.sum())
        times.append(each.sum() / np.sum(each / (3 / (np.pi * m) ** 2)))
    weights.append(1 - sum(weights))
    times.append(3 / (np.pi * edges[-1] * 2) ** 2)
    return np.array(weights), np.array(times)


_WEIGHT, _TIME = _diffusion()
