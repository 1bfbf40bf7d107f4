"""A measured course of current: what was recorded, and what is wrong with the recording itself."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..numeric import Array

BACKWARDS = 0.02  # of the highest figure: less below zero is noise
GAP = 5.0  # times the usual step: longer is a gap
SATURATED = 0.002  # of all samples at the very highest figure: the range was too small
JUMP = 5.0  # times as much: a meter that changes its range does so there
NEAR_TOP, FAR_MORE = 0.97, 5.0  # of figures near it no other comes nearly as often


@dataclass(frozen=True)
class RecordedFacts:
    """What is known of a whole recording once it is made small: samples that could not be used, whether its sign was turned (1), gaps, and how many of
    them lie where the current jumps, the figure at which it stops [A], the most that flowed backwards [A], the time between samples [s], the least and
    the usual voltage [V]; NaN: none."""

    dropped: float
    turned: float
    gaps: float
    at_jumps: float
    saturated_a: float
    negative_a: float
    step_s: float
    least_v: float
    usual_v: float


@dataclass(frozen=True)
class Recording:
    """`time_s` rises from 0, shape (samples,); `current_a` is what is drawn [A]; `volts` beside it where it was recorded. `dropped` samples could not be used,
    `turned`: its sign was."""

    time_s: Array
    current_a: Array
    volts: Array | None = None
    dropped: int = 0
    turned: bool = False
    known: RecordedFacts | None = None

    @cached_property
    def facts(self) -> RecordedFacts:
        """Of what it was made of, where it was made small."""
        if self.known is not None:
            return self.known
        saturated = self.saturated_a
        return RecordedFacts(
            dropped=self.dropped,
            turned=self.turned,
            gaps=self._gaps.size,
            at_jumps=self._at_jumps,
            saturated_a=np.nan if saturated is None else saturated,
            negative_a=self.negative_a,
            step_s=self.step_s,
            least_v=np.nan if self.volts is None else float(self.volts.min()),
            usual_v=np.nan if self.volts is None else float(np.median(self.volts)),
        )

    @cached_property
    def step_s(self) -> float:
        """The usual time between two samples [s]."""
        return float(np.median(np.diff(self.time_s)))

    @cached_property
    def lasts_s(self) -> Array:
        """How long each sample stands for [s]: to the next one, over a gap no longer than usual."""
        step = np.diff(self.time_s, append=self.time_s[-1] + self.step_s)
        return np.asarray(np.where(step > GAP * self.step_s, self.step_s, step))

    @cached_property
    def seconds(self) -> float:
        return float(self.lasts_s.sum())

    @cached_property
    def charge_as(self) -> Array:
        """What was drawn up to each sample [A s], (samples + 1,)."""
        return np.concatenate([[0.0], np.cumsum(self.current_a * self.lasts_s)])

    @cached_property
    def elapsed_s(self) -> Array:
        """How long was recorded before each sample [s], (samples + 1,)."""
        return np.concatenate([[0.0], np.cumsum(self.lasts_s)])

    def mean_a(self, first: int, last: int) -> float:
        """The mean current of the samples first to last, without the last [A]."""
        time = float(self.elapsed_s[last] - self.elapsed_s[first])
        return float(self.charge_as[last] - self.charge_as[first]) / time if time else 0.0

    @cached_property
    def _gaps(self) -> np.ndarray:
        """After which samples there is a gap."""
        return np.flatnonzero(np.diff(self.time_s) > GAP * self.step_s)

    @cached_property
    def _at_jumps(self) -> int:
        """How many of the gaps lie where the current is another one afterwards."""
        before, after = np.abs(self.current_a[self._gaps]), np.abs(self.current_a[self._gaps + 1])
        return int(np.sum(np.maximum(before, after) > JUMP * np.minimum(before, after)))

    @cached_property
    def saturated_a(self) -> float | None:
        """The figure beyond which the meter told nothing [A]; None where none is seen: the highest figure comes often, and far more often than the next one."""
        top = float(self.current_a.max())
        figures, counts = np.unique(self.current_a[self.current_a > NEAR_TOP * top], return_counts=True)
        often = counts[-1] > max(SATURATED * self.current_a.size, 3)
        return top if top > 0 and often and (figures.size == 1 or counts[-1] > FAR_MORE * counts[-2]) else None

    @cached_property
    def negative_a(self) -> float:
        """The most that flowed backwards [A], 0 where nothing did beyond noise around zero."""
        lowest = float(self.current_a.min())
        return -lowest if lowest < -BACKWARDS * float(self.current_a.max()) else 0.0
