"""Percentiles of few samples: against closed forms, and closer than the samples' own."""

from __future__ import annotations

import unittest
from statistics import NormalDist

import numpy as np

from ember_core.runtime.deciles import AROUND, deciles

Z10 = NormalDist().inv_cdf(0.9)


def drawn(seed: int, samples: int = 256, inputs: int = 12) -> np.ndarray:
    """A Latin hypercube of standard normal positions."""
    draw = np.random.default_rng(seed)
    strata = np.stack([draw.permutation(samples) for _ in range(inputs)], axis=1) + draw.random((samples, inputs))
    return np.vectorize(NormalDist().inv_cdf)(strata / samples)


class Deciles(unittest.TestCase):
    def test_of_a_product_of_powers_they_are_those_of_a_log_normal_one(self) -> None:
        """ln t = 2 + 0.3 a - 0.4 b + 0.1 c is normal with a deviation of sqrt(0.09 + 0.16 + 0.01)."""
        for seed in range(8):
            normal = drawn(seed)
            seconds = np.exp(2 + 0.3 * normal[:, 0] - 0.4 * normal[:, 5] + 0.1 * normal[:, 9])
            spread = Z10 * np.sqrt(0.26)
            for found, right in zip(deciles(seconds, normal), np.exp([2 - spread, 2, 2 + spread]), strict=True):
                self.assertAlmostEqual(found / right, 1, delta=0.005)

    def test_a_bend_a_ceiling_and_noise_are_met_better_than_by_the_samples_themselves(self) -> None:
        """Two half log-normals, a lasting that never exceeds a ceiling, and what no input explains."""

        def lasting(normal: np.ndarray) -> np.ndarray:
            wide = np.where(normal[:, 0] < 0, 0.2, 0.5) * normal[:, 0] + 0.2 * normal[:, 1] * (1 + 0.5 * normal[:, 2])
            return np.minimum(100 * np.exp(wide + 0.02 * np.sin(40 * normal[:, 3])), 230.0)

        right = np.percentile(lasting(drawn(99, 60_000)), [10, 50, 90])
        own, corrected = [], []
        for seed in range(20):
            normal = drawn(seed)
            seconds = lasting(normal)
            own.append(np.percentile(seconds, [10, 50, 90]) / right - 1)
            corrected.append(np.array(deciles(seconds, normal)) / right - 1)
        rms = [np.sqrt(np.mean(np.square(x), axis=0)) for x in (own, corrected)]
        self.assertTrue(np.all(rms[1] < 0.8 * rms[0]), rms)
        self.assertLess(float(rms[1].max()), 0.022)

    def test_runs_that_end_in_another_way_count_as_many_as_they_are(self) -> None:
        """A sixth of the samples fails at once: the tenth percentile is theirs, the others are not moved by how early that is."""
        for early in (1.0, 0.01):
            normal = drawn(3)
            seconds = 100 * np.exp(0.1 * normal[:, 0])
            seconds[normal[:, 1] < NormalDist().inv_cdf(1 / 6)] = early
            low, median, high = deciles(seconds, normal)
            self.assertLess(low, 100 / AROUND * 1.1)
            self.assertAlmostEqual(median, 100 * np.exp(0.1 * NormalDist().inv_cdf(0.4)), delta=1)
            self.assertAlmostEqual(high, 100 * np.exp(0.1 * NormalDist().inv_cdf(0.88)), delta=1)

    def test_what_is_certain_or_never_runs(self) -> None:
        normal = drawn(1, 128, 3)
        np.testing.assert_allclose(deciles(np.full(128, 7.0), normal), [7, 7, 7], rtol=1e-9)
        self.assertEqual(deciles(np.zeros(128), normal), (0, 0, 0))
        np.testing.assert_allclose(deciles(np.full(128, 7.0), normal[:, :0]), [7, 7, 7], rtol=1e-9)
        single = deciles(np.exp(normal[:, 0]), normal[:, :1])
        self.assertAlmostEqual(single[1], 1, delta=0.01)
        self.assertEqual(list(single), sorted(single))
