"""Curves through points and percentiles, held against a library."""

from __future__ import annotations

import unittest

import numpy as np
from scipy.interpolate import PchipInterpolator

from ember_core.numeric import MonotoneCubic, at_least, percentiles


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


class Few(unittest.TestCase):
    def test_percentiles_are_those_of_the_library(self) -> None:
        random = np.random.default_rng(5)
        for shape in ((1,), (2,), (7,), (128,), (128, 3), (2, 4)):
            values = random.normal(size=shape)
            for found, percent in zip(
                percentiles(values, [0, 2, 10, 50, 90, 100]), [0, 2, 10, 50, 90, 100], strict=True
            ):
                np.testing.assert_allclose(found, np.percentile(values, percent, axis=0), rtol=1e-12, atol=1e-15)

    def test_what_is_above_anyway_is_left_as_it_is(self) -> None:
        values = np.array([1.0, 2.0])
        self.assertIs(at_least(values, 1.0), values)
        np.testing.assert_array_equal(at_least(values, 1.5), [1.5, 2.0])
        self.assertEqual(at_least(np.zeros((3, 0)), 1.0).shape, (3, 0))
