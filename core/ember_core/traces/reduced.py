"""A recording made small enough to keep and to draw: buckets of samples with their mean, least and most."""

from __future__ import annotations

import io
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated

import numpy as np
from pydantic import Field

from ..figures import record
from ..numeric import Array
from .recording import Recording

MOST_BUCKETS = 250_000
LARGEST_PACKED = 8_000_000  # bytes
FIELDS = ("time_s", "mean_a", "least_a", "most_a")


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


@dataclass(frozen=True)
class Reduced:
    """Where each bucket begins [s], and the mean, least and most current in it [A], (buckets,)."""

    time_s: Array
    mean_a: Array
    least_a: Array
    most_a: Array

    @cached_property
    def recording(self) -> Recording:
        """The buckets' means as samples."""
        return Recording(self.time_s, self.mean_a)

    def packed(self) -> bytes:
        out = io.BytesIO()
        np.savez_compressed(out, time_s=self.time_s, **{f: getattr(self, f).astype(np.float32) for f in FIELDS[1:]})
        return out.getvalue()

    def seen(self, begin_s: float, end_s: float, points: int) -> TracePicture:
        """The window from one time to another in at most so many buckets."""
        first = max(int(np.searchsorted(self.time_s, begin_s, side="right")) - 1, 0)
        last = max(int(np.searchsorted(self.time_s, end_s, side="left")), first + 1)
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
    """Buckets of equally many samples, by each sample's time; no fewer than there are where few are."""
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
    )


def unpacked(raw: bytes) -> Reduced:
    """What `packed` gave."""
    with np.load(io.BytesIO(raw), allow_pickle=False) as found:
        return Reduced(*(found[f].astype(np.float64) for f in FIELDS))
