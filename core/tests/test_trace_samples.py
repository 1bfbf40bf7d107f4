"""All samples of a long recording: kept so that any window is read as it was recorded, and nothing else is read for it."""

from __future__ import annotations

import io
import unittest
from typing import Any

import numpy as np

from ember_core.traces import Kept, Recording, packed_samples, reduced, samples_between
from ember_core.traces.reduced import MOST_BUCKETS
from ember_core.traces.samples import GROUP

COUNT = MOST_BUCKETS + 50_000
DRAW = np.random.default_rng(1)
LONG = Recording(
    np.cumsum(np.where(np.arange(COUNT) % 1000 == 999, 0.05, 0.001)) - 0.001,  # a gap now and then
    np.round(DRAW.lognormal(-6, 1, COUNT), 7),
)
PACKED = packed_samples(LONG)


class Counting(io.BytesIO):
    """A file that tells how many of its bytes were read."""

    asked = 0

    def read(self, size: int | None = -1, /) -> bytes:
        given = super().read(size)
        self.asked += len(given)
        return given


class Samples(unittest.TestCase):
    def test_any_window_is_as_it_was_recorded(self) -> None:
        end = float(LONG.time_s[-1])
        borders = [float(LONG.time_s[k * GROUP]) for k in (1, 2)]
        windows = [(0.0, 0.0005), (end - 0.01, end + 5), (borders[0] - 0.002, borders[0] + 0.002), (0.0, end)]
        windows += [(a, a + DRAW.exponential(3)) for a in DRAW.uniform(0, end, 60)]
        windows += [(borders[1] - 0.0004, borders[1] - 0.0001), (1.01, 1.02)]  # between two samples, within a gap
        for begin, stop in windows:
            found = samples_between(io.BytesIO(PACKED), begin, stop)
            first = int(np.searchsorted(LONG.time_s, found.time_s[0] - 1e-9))
            same = slice(first, first + found.time_s.size)
            with self.subTest(begin=begin, stop=stop):
                np.testing.assert_allclose(found.time_s, LONG.time_s[same], atol=1e-9)
                for kind in ("mean_a", "least_a", "most_a", "rms_a"):
                    np.testing.assert_allclose(getattr(found, kind), LONG.current_a[same], rtol=1e-6)
                inside = (LONG.time_s >= begin) & (LONG.time_s < stop)
                self.assertLessEqual(found.time_s[0], max(begin, 0.0) + 1e-9 if begin < end else end)
                self.assertTrue(set(np.flatnonzero(inside)) <= set(range(same.start, same.stop)))
                self.assertLessEqual(found.time_s.size, int(inside.sum()) + 3)

    def test_beyond_the_end_there_is_the_end(self) -> None:
        found = samples_between(io.BytesIO(PACKED), 1e6, 2e6)
        self.assertEqual(found.time_s[-1], round(float(LONG.time_s[-1]), 9))

    def test_only_what_lies_there_is_read(self) -> None:
        file = Counting(PACKED)
        samples_between(file, 100.0, 100.5)
        self.assertLess(file.asked, len(PACKED) / 2)

    def test_a_peak_that_the_buckets_flatten_is_there(self) -> None:
        amps = np.full(2 * MOST_BUCKETS, 1e-3)
        amps[301] = 0.2
        long = Recording(np.arange(amps.size) * 1e-3, amps)
        self.assertAlmostEqual(float(reduced(long).seen(0.3, 0.303, 800).mean_a[0]), 0.1005)
        found = samples_between(io.BytesIO(packed_samples(long)), 0.3, 0.303).seen(0.3, 0.303, 800)
        np.testing.assert_allclose(found.mean_a[:3], [1e-3, 0.2, 1e-3], rtol=1e-6)
        self.assertAlmostEqual(found.bucket_s, 1e-3)

    def test_where_the_buckets_tell_every_sample_none_is_kept_twice(self) -> None:
        for count, there in ((MOST_BUCKETS, False), (MOST_BUCKETS + 1, True)):
            few = Recording(np.arange(count) * 1e-3, np.full(count, 1e-3))
            self.assertEqual(bool(packed_samples(few)), there)

    def test_what_is_too_large_is_not_kept(self) -> None:
        size = len(PACKED)
        self.assertTrue(packed_samples(LONG, size))
        self.assertEqual(packed_samples(LONG, size // 2), b"")

    def test_what_is_told_reads_back(self) -> None:
        kept = Kept.of(LONG)
        again = Kept.read(kept.told, kept.packed + kept.whole)
        self.assertEqual(again, kept)
        told: dict[str, Any] = kept.told
        self.assertEqual((told["samples"], told["packed"]), (COUNT, len(kept.packed)))


if __name__ == "__main__":
    unittest.main()
