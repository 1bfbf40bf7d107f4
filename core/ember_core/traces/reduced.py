"""A recording made small enough to keep and to draw: buckets of samples with their mean, least and most."""

from __future__ import annotations

import io
from dataclasses import astuple, dataclass
from functools import cached_property
from typing import Annotated, Any

import numpy as np
from pydantic import Field

from ..design.problems import DocumentError, Problem
from ..figures import record
from ..numeric import Array
from ..words import say
from .recording import RecordedFacts, Recording

MOST_BUCKETS = 250_000
LARGEST_PACKED = 8_000_000  # bytes
FIELDS = ("time_s", "mean_a", "least_a", "most_a", "rms_a")


@record
class TracePicture:
    """A window of a recording in so many buckets."""

    time_s: list[float]
    mean_a: list[float]
    least_a: list[float]
    most_a: list[float]
    bucket_s: Annotated[
        float, Field(description="how long each stands for; below the step of the recording every sample is there")
    ]


@record
class TraceWindow:
    """What flowed between two times: seconds, charge, energy at the design's usual battery voltage, and the current's mean, root mean square, least and most."""

    seconds: float
    charge_ah: float
    energy_wh: float
    volts: Annotated[float, Field(description="the battery's, that the energy is reckoned with [V]")]
    mean_a: float
    rms_a: float
    least_a: float
    most_a: float


@dataclass(frozen=True)
class Reduced:
    """Where each bucket begins [s], and the mean, least, most and root mean square of the current in it [A], (buckets,)."""

    time_s: Array
    mean_a: Array
    least_a: Array
    most_a: Array
    rms_a: Array
    facts: RecordedFacts | None = None

    @cached_property
    def recording(self) -> Recording:
        """The buckets' means as samples."""
        return Recording(self.time_s, self.mean_a, known=self.facts)

    def packed(self) -> bytes:
        out = io.BytesIO()
        small: dict[str, Any] = {f: getattr(self, f).astype(np.float32) for f in FIELDS[1:]}
        if self.facts is not None:
            small["facts"] = np.array(astuple(self.facts), dtype=np.float64)
        np.savez_compressed(out, time_s=self.time_s, **small)
        return out.getvalue()

    def between(self, begin_s: float, end_s: float, volts: float) -> TraceWindow:
        """What flowed from one time to another; a bucket that reaches over a border counts for as much of it as lies inside."""
        lasts = self.recording.lasts_s
        inside = np.clip(np.minimum(self.time_s + lasts, end_s) - np.maximum(self.time_s, begin_s), 0.0, None)
        there = inside > 0
        if not there.any():
            raise DocumentError([Problem(path="", message=say("traces.empty-window"))])
        time, mean = inside[there], self.mean_a[there]
        seconds, charge = float(time.sum()), float(time @ mean)
        return TraceWindow(
            seconds=seconds,
            charge_ah=charge / 3600,
            energy_wh=charge * volts / 3600,
            volts=volts,
            mean_a=charge / seconds,
            rms_a=float(np.sqrt(time @ self.rms_a[there] ** 2 / seconds)),
            least_a=float(self.least_a[there].min()),
            most_a=float(self.most_a[there].max()),
        )

    def count_between(self, begin_s: float, end_s: float) -> int:
        """How many buckets lie from one time to another, wholly or in part."""
        first, last = self._inside(begin_s, end_s)
        return last - first

    def _inside(self, begin_s: float, end_s: float) -> tuple[int, int]:
        first = max(int(np.searchsorted(self.time_s, begin_s, side="right")) - 1, 0)
        return first, max(int(np.searchsorted(self.time_s, end_s, side="left")), first + 1)

    def seen(self, begin_s: float, end_s: float, points: int) -> TracePicture:
        """The window from one time to another in at most so many buckets."""
        first, last = self._inside(begin_s, end_s)
        size = -(-(last - first) // points)
        starts = np.arange(first, last, size)
        counts = np.diff(np.append(starts, last))
        mean = np.add.reduceat(self.mean_a[:last], starts) / counts
        return TracePicture(
            time_s=self.time_s[starts].tolist(),
            mean_a=mean.tolist(),
            least_a=np.minimum.reduceat(self.least_a[:last], starts).tolist(),
            most_a=np.maximum.reduceat(self.most_a[:last], starts).tolist(),
            bucket_s=size * self.recording.step_s,
        )


def reduced(recording: Recording, most: int = MOST_BUCKETS) -> Reduced:
    """Buckets of equally many samples, by each sample's time; no fewer than there are where few are.

    >>> import numpy as np
    >>> from ember_core.traces import Recording
    >>> small = reduced(Recording(np.arange(1000) / 100, np.full(1000, 0.01)))
    >>> round(small.between(0, 9, 3.7).mean_a, 4)
    0.01
    """
    count = recording.time_s.size
    size = -(-count // most)
    starts = np.arange(0, count, size)
    ends = np.append(starts[1:], count)
    charge = recording.charge_as[ends] - recording.charge_as[starts]
    lasts = recording.elapsed_s[ends] - recording.elapsed_s[starts]
    return Reduced(
        recording.time_s[starts],
        charge / lasts,
        np.minimum.reduceat(recording.current_a, starts),
        np.maximum.reduceat(recording.current_a, starts),
        np.sqrt(np.add.reduceat(recording.current_a**2 * recording.lasts_s, starts) / lasts),
        recording.facts,
    )


def unpacked(raw: bytes) -> Reduced:
    """What `packed` gave.

    >>> from ember_core.traces import Recording
    >>> small = reduced(Recording(np.arange(1000) / 100, np.full(1000, 0.01)))
    >>> round(unpacked(small.packed()).between(0, 1, 3.0).charge_ah * 3600, 4)
    0.01
    """
    with np.load(io.BytesIO(raw), allow_pickle=False) as found:
        # of what was kept before there was a root mean square its mean stands in
        facts = RecordedFacts(*(float(x) for x in found["facts"])) if "facts" in found else None
        fields = {f: found[f if f in found else "mean_a"].astype(np.float64) for f in FIELDS}
        return Reduced(**fields, facts=facts)
