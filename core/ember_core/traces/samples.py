"""All samples of a recording, kept so that a short window of them is read without the rest: Parquet, times in whole nanoseconds."""

from __future__ import annotations

import io
from dataclasses import dataclass
from typing import Any, BinaryIO

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq

from ..numeric import Array
from .recording import Recording
from .reduced import MOST_BUCKETS, Reduced, reduced

LARGEST_SAMPLES = 96_000_000  # bytes
GROUP = 65_536  # samples that are read together
FORM = pa.schema([("time_ns", pa.int64()), ("current_a", pa.float32())])


@dataclass(frozen=True)
class Kept:
    """What is kept of a recording: its buckets (or the course of a run-down) packed, and its samples where the buckets do not tell them; of so many
    samples and seconds."""

    packed: bytes
    samples: int
    seconds: float
    whole: bytes = b""

    @classmethod
    def of(cls, recording: Recording) -> Kept:
        return cls(reduced(recording).packed(), recording.time_s.size, recording.seconds, packed_samples(recording))

    @property
    def told(self) -> dict[str, Any]:
        """Beside `packed` and `whole`, one after the other, all that `read` needs."""
        return {"samples": int(self.samples), "seconds": float(self.seconds), "packed": len(self.packed)}

    @classmethod
    def read(cls, told: dict[str, Any], content: bytes) -> Kept:
        cut = told["packed"]
        return cls(content[:cut], told["samples"], told["seconds"], content[cut:])


def packed_samples(recording: Recording, largest: int = LARGEST_SAMPLES) -> bytes:
    """The samples of a recording that its buckets do not tell one by one; nothing where they do, or where they take more bytes than the largest.

    >>> packed_samples(Recording(np.arange(5) / 10, np.full(5, 0.01)))
    b''
    """
    count = recording.time_s.size
    if count <= MOST_BUCKETS:
        return b""
    out = io.BytesIO()
    with pq.ParquetWriter(
        out, FORM, compression="zstd", use_dictionary=False,
        column_encoding={"time_ns": "DELTA_BINARY_PACKED", "current_a": "BYTE_STREAM_SPLIT"},
    ) as writer:  # fmt: skip
        for first in range(0, count, GROUP):
            piece = slice(first, first + GROUP)
            time = np.round(recording.time_s[piece] * 1e9).astype(np.int64)
            amps = recording.current_a[piece].astype(np.float32)
            writer.write_batch(pa.record_batch([time, amps], schema=FORM))
            if out.tell() > largest:
                return b""
    return out.getvalue()


def samples_between(source: BinaryIO, begin_s: float, end_s: float) -> Reduced:
    """Every sample of what `packed_samples` gave from one time to another, and the one after it, as a bucket of its own; the
    source is read where they lie.

    >>> long = Recording(np.arange(300_000) / 1000, np.where(np.arange(300_000) == 1501, 0.2, 0.001))
    >>> found = samples_between(io.BytesIO(packed_samples(long)), 1.5, 1.502)
    >>> [round(float(x), 3) for x in found.mean_a]
    [0.001, 0.2, 0.001]
    """
    with pq.ParquetFile(source) as file:
        starts = [file.metadata.row_group(g).column(0).statistics.min / 1e9 for g in range(file.num_row_groups)]
        low = max(int(np.searchsorted(starts, begin_s, side="right")) - 1, 0)
        high = max(int(np.searchsorted(starts, end_s, side="left")), low + 1)
        table = file.read_row_groups(range(low, high))
    time: Array = table["time_ns"].to_numpy() / 1e9
    first = max(int(np.searchsorted(time, begin_s, side="right")) - 1, 0)
    last = int(np.searchsorted(time, end_s, side="left")) + 1
    first, last = max(min(first, last - 2, time.size - 2), 0), min(last, time.size)
    amps = table["current_a"].to_numpy()[first:last].astype(np.float64)
    return reduced(Recording(time[first:last], amps), max(last - first, 1))
