"""Runtime against the interval of what wakes the gadget, and from where on a longer one brings little."""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from ..design.patches import apply_patch, replace
from ..figures import record
from ..measures.bench import TrialBench
from ..measures.measure import rounded
from ..runtime.run import rerun
from ..runtime.uncertainty import sample_runtime
from ..words import Fact, say

MOST_WAKES = 3  # those that take most of the day's charge
TIMES = tuple(2.0**k for k in range(-4, 13))  # the present interval, until a doubling brings next to nothing
LONGEST_S = 7 * 86400.0
LITTLE, NOTHING = 0.1, 0.03  # of the runtime: what a doubling then brings
AT_LEAST = 4.0  # times the present interval are tried
LEAST_SLACK = 1.25  # of the time that it is awake: shorter intervals are none


@record
class IntervalPoint:
    """Runtime [h] with a wake every so many seconds."""

    every_s: float
    hours: float


@record
class IntervalCurve:
    """Of one wake, the shortest interval first. From `knee_s` on an interval twice as long brings less than a tenth; null: it does so nowhere here."""

    wake: str
    name: str
    now_s: float
    points: list[IntervalPoint]
    knee_s: float | None
    sentence: str


def answer_intervals(bench: TrialBench) -> list[IntervalCurve]:
    """The wakes that take most of the day's charge, each tried with intervals from a sixteenth of the present one up."""
    day = bench.design.day
    share = [bench.charge_share(w.mode, w.awake_s * bench.wakes_a_day[i]) for i, w in enumerate(day.wakes)]
    order = sorted(range(len(day.wakes)), key=lambda i: -share[i])[:MOST_WAKES]
    return [found for i in order if (found := _curve(bench, i)) is not None]


def _curve(bench: TrialBench, i: int) -> IntervalCurve | None:
    wake = bench.design.day.wakes[i]
    tried = sorted({wake.every_s, *(rounded(wake.every_s * t) for t in TIMES)})
    points: list[IntervalPoint] = []
    for every in tried:
        if every != wake.every_s and not LEAST_SLACK * wake.total_s <= every <= LONGEST_S:
            continue
        points.append(IntervalPoint(every_s=every, hours=_hours(bench, i, every)))
        flat = len(points) > 1 and points[-1].hours < points[-2].hours * (1 + NOTHING)
        if flat and every >= AT_LEAST * wake.every_s:
            break
    if len(points) < 3 or points[0].hours <= 0:
        return None
    knee = knee_s([p.every_s for p in points], [p.hours for p in points])
    return IntervalCurve(
        wake=wake.id,
        name=wake.name,
        now_s=wake.every_s,
        points=points,
        knee_s=knee,
        sentence=_sentence(bench, wake.every_s, points, knee),
    )


def _hours(bench: TrialBench, i: int, every_s: float) -> float:
    """The runtime that is said of it [h]: the median of the samples."""
    changed = apply_patch(bench.design, [replace(f"/day/wakes/{i}/every_s", every_s)])
    return sample_runtime(rerun(bench.usual, changed)).median / 3600


def knee_s(every_s: list[float], hours: list[float]) -> float | None:
    """Where an interval twice as long brings less than a tenth [s], between points by the logarithm of both; None where that is nowhere or everywhere.

    >>> round(knee_s([1.0, 10.0, 100.0, 1000.0], [1.0, 8.0, 30.0, 34.0]), 1)
    154.7
    """
    at, runs = np.log2(every_s), np.log2(hours)
    gains = np.diff(runs) / np.diff(at)  # what a doubling brings, in the middle of each stretch
    middles = (at[:-1] + at[1:]) / 2 - 0.5  # from there to twice that
    least = np.log2(1 + LITTLE)
    for (m0, g0), (m1, g1) in pairwise(zip(middles, gains, strict=True)):
        if g0 > least >= g1:
            return float(2 ** (m0 + (g0 - least) / (g0 - g1) * (m1 - m0)))
    return None


def _sentence(bench: TrialBench, now_s: float, points: list[IntervalPoint], knee: float | None) -> str:
    now, last = next(p.hours for p in points if p.every_s == now_s), points[-1]
    said: dict[str, Fact] = {"now": (now_s, "s"), "lasts": (now, "h")}
    if knee is None and last.hours > points[-2].hours * (1 + LITTLE) ** np.log2(last.every_s / points[-2].every_s):
        return say("interval-curve.longer-still", **said, longest=(last.hours, "h"), last=(last.every_s, "s"))
    if knee is None or knee <= now_s:
        return say("interval-curve.no-more", **said, cell=bench.usual.charge_seconds > bench.usual.shelf_seconds)
    knee = rounded(knee)
    then = float(np.interp(np.log(knee), np.log([p.every_s for p in points]), [p.hours for p in points]))
    return say("interval-curve.knee", **said, knee=(knee, "s"), then=(then, "h"))
