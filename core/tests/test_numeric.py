"""Curves through points, held against a library."""

from __future__ import annotations

import unittest

import numpy as np
from scipy.interpolate import PchipInterpolator

from ember_core.numeric import MonotoneCubic


class Curve(unittest.TestCase):
    def test_the_same_as_the_library(self) -> None:
        random = np.random.default_rng(3)
        for count in (2, 3, 4, 7, 12) * 40:
            x = np.cumsum(random.uniform(0.01, 1, count))
            y = np.round(random.normal(size=count), int(random.integers(0, 3)))  # some neighbours are equal
            at = random.uniform(x[0] - 0.1, x[-1] + 0.1, 50)
            np.testing.assert_allclose(
                MonotoneCubic.through(x, y)(at), PchipInterpolator(x, y, extrapolate=True)(at), atol=1e-11, rtol=1e-11
            )

    def test_it_goes_through_its_points_and_stays_between_them(self) -> None:
        x, y = np.array([0.0, 0.1, 0.5, 1.0]), np.array([3.0, 3.4, 3.7, 4.2])
        curve = MonotoneCubic.through(x, y)
        np.testing.assert_allclose(curve(x), y)
        self.assertTrue(bool(np.all(np.diff(curve(np.linspace(0, 1, 500))) > 0)))
        self.assertAlmostEqual(float(MonotoneCubic.through(x[:2], y[:2])(np.array(0.05))), 3.2)
