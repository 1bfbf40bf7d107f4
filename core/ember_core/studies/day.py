"""One day at the battery, event by event."""

from __future__ import annotations

import numpy as np

from ..figures import record
from ..measures.bench import TrialBench
from ..quantities import clock
from ..runtime.simulation import one_day
from ..words import say

BUCKETS = 288  # five minutes each
HALF = 0.5


@record
class DayTrace:
    """A day in buckets from midnight on: lowest and highest terminal voltage [V], mean and highest current [A].

    Buckets without an event of their own repeat the one before. `charge_from` and `charge_to` are 0..1.
    """

    hours: list[float]
    low_v: list[float]
    high_v: list[float]
    mean_a: list[float]
    peak_a: list[float]
    charge_from: float
    charge_to: float
    events: int
    sentence: str


def answer_day(bench: TrialBench, charge: float = HALF, day: int = 0) -> DayTrace | None:
    """The day with a number (0 is a Monday in January) from a state of charge on; None while nothing is drawn."""
    if not bench.design.parts:
        return None
    pieces = one_day(bench.usual, charge, day)
    start, seconds, amps, volts = (
        np.concatenate([getattr(p, name) for p in pieces]) for name in ("start_s", "seconds", "current_a", "voltage_v")
    )
    width = 86400 / BUCKETS
    low, high, peak = np.full(BUCKETS, np.inf), np.full(BUCKETS, -np.inf), np.zeros(BUCKETS)
    taken = np.zeros(BUCKETS + 1)
    first = np.clip((start / width).astype(int), 0, BUCKETS - 1)
    last = np.clip(((start + seconds) / width - 1e-9).astype(int), first, BUCKETS - 1)
    np.minimum.at(low, first, volts)
    np.maximum.at(high, first, volts)
    np.maximum.at(peak, first, amps)
    edges = np.arange(BUCKETS + 1) * width
    ends = np.concatenate([[0.0], start + seconds])
    taken = np.interp(edges, ends, np.concatenate([[0.0], np.cumsum(amps * seconds)]))
    for a, b, v, i in zip(
        first[last > first], last[last > first], volts[last > first], amps[last > first], strict=True
    ):
        low[a : b + 1] = np.minimum(low[a : b + 1], v)
        high[a : b + 1] = np.maximum(high[a : b + 1], v)
        peak[a : b + 1] = np.maximum(peak[a : b + 1], i)
    for k in range(1, BUCKETS):
        if not np.isfinite(low[k]):
            low[k], high[k], peak[k] = low[k - 1], high[k - 1], peak[k - 1]
    after = float(pieces[-1].charge[-1])
    ended = float(start[-1] + seconds[-1]) < 86399
    lowest = int(np.argmin(low))
    sentence = say(
        "trace-of-a-day.lowest", events=int(seconds.size), taken=((charge - after) * bench.usual.pack.capacity_ah, "Ah"),
        lowest=(float(low[lowest]), "V"), at=clock(lowest * 24 / BUCKETS),
        ended=clock(float(start[-1] + seconds[-1]) / 3600) if ended else None,
    )  # fmt: skip
    return DayTrace(
        hours=[float(x) for x in edges[:-1] / 3600], low_v=low.tolist(), high_v=high.tolist(),
        mean_a=(np.diff(taken) / width).tolist(), peak_a=peak.tolist(), charge_from=charge, charge_to=after,
        events=int(seconds.size), sentence=sentence,
    )  # fmt: skip
