"""The filters of diffusion against its series and against a finite-difference solution of the slab."""

from __future__ import annotations

import unittest

import numpy as np

from ember_core.battery.relaxation import diffusion, first_order
from ember_core.battery.state import followed
from ember_core.numeric import Array

HOUR = 3600.0


def slab(current_a: Array, step_s: float, h_s: float, cells: int = 160) -> Array:
    """Unavailable charge [A s] of a slab that current is taken from at one face, after each step: implicit differences.

    Of a slab of unit length and unit charge per length, u is the mean less the concentration at the face; with the diffusivity
    D = 1 / (3 h) a steady current leaves u = I / (3 D) = I h behind.
    """
    width, diffusivity = 1 / cells, 1 / (3 * h_s)
    k = diffusivity * step_s / width**2
    matrix = np.diag(np.full(cells, 1 + 2 * k)) - k * (np.eye(cells, k=1) + np.eye(cells, k=-1))
    matrix[0, 0] = matrix[-1, -1] = 1 + k
    inverse = np.linalg.inv(matrix)
    there = np.zeros(cells)
    found = np.empty_like(current_a)
    for i, amps in enumerate(current_a):
        there[0] -= amps * step_s / width
        there = inverse @ there
        face = there[0] - amps / diffusivity * width / 2  # the face itself is half a cell away
        found[i] = there.mean() - face
    return found


class Diffusion(unittest.TestCase):
    def test_a_steady_current_ends_at_h_and_follows_the_series(self) -> None:
        h = 12 * HOUR
        filters = diffusion(h)
        self.assertAlmostEqual(float(filters.weight.sum()), 1.0)
        m = np.arange(1, 20001)
        for share in (1e-6, 1e-5, 1e-4, 1e-3, 1e-2, 0.1, 0.3, 1.0, 3.0):
            exact = 1 - np.sum(6 / (np.pi * m) ** 2 * np.exp(-share * np.pi**2 * m**2 / 3))
            self.assertAlmostEqual(float(filters.settled(share * h)) / exact, 1.0, delta=0.022)
        self.assertAlmostEqual(float(filters.settled(50 * h)), 1.0)
        self.assertAlmostEqual(float(filters.left(0.3 * h) + filters.settled(0.3 * h)), 1.0)

    def test_pulses_and_pauses_follow_the_slab(self) -> None:
        h, step = 2 * HOUR, 20.0
        amps = np.concatenate([np.full(180, 0.5), np.zeros(180), np.tile([1.0, 0, 0], 60), np.zeros(90)])
        filters = diffusion(h)
        felt = followed(amps, np.full(amps.size, step), np.zeros(filters.time_s.size), filters.time_s)
        ours, exact = h * (filters.weight @ felt), slab(amps, step, h)
        self.assertLess(float(np.max(np.abs(ours - exact))), 0.03 * float(exact.max()))
        self.assertGreater(float(exact.max()), 0.3 * h)

    def test_a_stretch_that_repeats_ends_where_the_formula_says(self) -> None:
        """1 A for a tenth of the time and 0 A between: followed for long against the closed form, at three periods."""
        for filters in (first_order(600.0), diffusion(3 * HOUR)):
            for every in (60.0, 1200.0, 6 * HOUR):
                on, off = 0.1 * every, 0.9 * every
                rounds = int(40 * float(filters.time_s.max()) / every) + 20
                amps, seconds = np.tile([1.0, 0.0], rounds), np.tile([on, off], rounds)
                felt = filters.weight @ followed(amps, seconds, np.zeros(filters.time_s.size), filters.time_s)
                mean = 0.1
                share = float(filters.periodic(np.array([on]), np.array([every]))[0])
                self.assertAlmostEqual(mean + (1.0 - mean) * share, float(felt[-2]), places=6)
        alone = diffusion(HOUR)
        endless = np.array([np.inf])
        self.assertAlmostEqual(float(alone.periodic(np.array([600.0]), endless)[0]), float(alone.settled(600.0)))
        self.assertEqual(float(alone.periodic(endless, endless)[0]), 1.0)

    def test_a_single_filter_is_an_exponential(self) -> None:
        one = first_order(100.0)
        self.assertAlmostEqual(float(one.settled(100.0)), 1 - np.exp(-1))
        np.testing.assert_allclose(one.settled(np.array([[0.0, 1e9]])), [[0.0, 1.0]])


class Followed(unittest.TestCase):
    def test_events_of_any_length_and_number_are_followed_one_by_one(self) -> None:
        random = np.random.default_rng(3)
        times = np.array([1e-3, 2.0, 500.0, 1e6])
        for count in (1, 2, 7, 50):
            amps, seconds = random.random(count), 10.0 ** random.uniform(-4, 4, count)
            start = random.random(times.size)
            expected, x = np.empty((times.size, count)), start.copy()
            for i in range(count):
                x = amps[i] + (x - amps[i]) * np.exp(-seconds[i] / times)
                expected[:, i] = x
            np.testing.assert_allclose(followed(amps, seconds, start, times), expected, rtol=1e-12, atol=1e-15)


if __name__ == "__main__":
    unittest.main()
