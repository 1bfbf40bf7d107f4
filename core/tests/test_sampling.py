"""The sampled range of the runtime: against closed forms, and against the first-order range."""

from __future__ import annotations

import unittest
from pathlib import Path

import numpy as np
from scipy.special import ndtri

from ember_core import read_design
from ember_core.runtime import run
from ember_core.sampling import drawn, sample_runtime
from ember_core.spread import runtime_spread

from .gadgets import asleep, cell, design, part, state, use

DEMO = sorted((Path(__file__).resolve().parents[2] / "demo").glob("*.json"))
BARE = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}


def steady(*parts: dict[str, object]) -> object:
    return design(
        parts=list(parts), modes=asleep(*(use(str(p["id"]), "on") for p in parts)), supply=BARE,
        battery={"cell": cell(resistance_ohm=0, cutoff_v=2.5, capacity_ah=1.0), "wiring_ohm": 0}, day={"rest": "asleep"},
    )  # fmt: skip


class Distribution(unittest.TestCase):
    def test_least_typical_and_most_are_its_percentiles(self) -> None:
        normal = ndtri(np.linspace(0.0005, 0.9995, 1000))
        for least, typical, most in ((0.5, 1.0, 2.0), (0.0, 1.0, 1.5), (0.0, 0.0, 1.0), (0.9, 1.0, 1.05)):
            with self.subTest(least=least, most=most):
                found = np.percentile(drawn(normal, least, typical, most), [10, 50, 90])
                np.testing.assert_allclose(found, [least, typical, most], atol=0.01)

    def test_nothing_below_zero(self) -> None:
        self.assertGreaterEqual(float(drawn(np.array([-5.0, 5.0]), 0.0, 1.0, 2.0).min()), 0.0)


class Range(unittest.TestCase):
    def test_one_uncertain_current_gives_the_inverse_range(self) -> None:
        """t = Q / I: a current between 5 and 20 mA (10 mA typical), everything else nearly known."""
        gadget = steady(part("chip", state("on", 0.01, least=0.005, most=0.02)))
        base = run(gadget)  # type: ignore[arg-type]
        samples = sample_runtime(base)
        self.assertAlmostEqual(samples.percentile(50) / base.seconds, 1.0, delta=0.02)
        self.assertAlmostEqual(samples.percentile(10) / base.seconds, 0.5, delta=0.02)
        self.assertAlmostEqual(samples.percentile(90) / base.seconds, 2.0, delta=0.08)

    def test_the_uncertain_input_owns_the_spread(self) -> None:
        gadget = steady(
            part("wild", state("on", 0.01, least=0.004, most=0.025)),
            part("tame", state("on", 0.01, least=0.0098, most=0.0102)),
        )
        owners = sample_runtime(run(gadget)).owners  # type: ignore[arg-type]
        self.assertEqual((owners[0].input.part, owners[0].input.state), (0, "on"))
        self.assertGreater(owners[0].share, 0.9)
        self.assertLess(next(o.share for o in owners if o.input.part == 1), 0.02)
        self.assertGreater(owners[0].known_low_s, sample_runtime(run(gadget)).percentile(10) * 1.5)  # type: ignore[arg-type]

    def test_two_alike_inputs_share_the_spread(self) -> None:
        alike = [part(key, state("on", 0.01, least=0.007, most=0.014)) for key in ("a", "b")]
        owners = sample_runtime(run(steady(*alike))).owners  # type: ignore[arg-type]
        shares = {o.input.part: o.share for o in owners}
        self.assertAlmostEqual(shares[0], shares[1], delta=0.06)
        self.assertAlmostEqual(shares[0] + shares[1], 1.0, delta=0.12)

    def test_the_same_design_gives_the_same_samples(self) -> None:
        base = run(read_design(DEMO[0].read_bytes()))
        np.testing.assert_array_equal(sample_runtime(base).seconds, sample_runtime(base).seconds)

    def test_the_first_order_range_of_the_demos_is_near(self) -> None:
        for path in DEMO:
            with self.subTest(path.name):
                base = run(read_design(path.read_bytes()))
                samples, first = sample_runtime(base), runtime_spread(base)
                self.assertAlmostEqual(samples.percentile(10) / (base.seconds * first.low), 1.0, delta=0.12)
                self.assertAlmostEqual(samples.percentile(90) / (base.seconds * first.high), 1.0, delta=0.12)

    def test_samples_that_do_not_work_at_all_last_no_time(self) -> None:
        chip = part("chip", state("sleep", 0.001), state("active", 0.1, least=0.05, most=8.0), supply_min_v=3.1)
        samples = sample_runtime(run(design(parts=[chip])))
        self.assertTrue(np.all(samples.seconds >= 0))
        self.assertLess(samples.percentile(5), 0.2 * samples.percentile(50) + 1)


if __name__ == "__main__":
    unittest.main()
