"""Converters against their equations and their own datasheet points."""

from __future__ import annotations

import unittest
from typing import Any

import numpy as np

from ember_core.catalogue import built_in
from ember_core.design import EfficiencyPoint, LinearStage, PassStage, SwitchingStage
from ember_core.supply.converters import converter_model, fit_switching, nominal_output_v

LINEAR = LinearStage(
    id="l", name="L", input="battery", output_v=3.3, dropout_v=0.3, dropout_at_a=0.3, quiescent_a=5e-5,
    ground_share=0.01, limit_a=0.5,
)  # fmt: skip
POINTS = [
    EfficiencyPoint(current_a=a, efficiency=e, input_v=3.7)
    for a, e in ((1e-4, 0.74), (1e-3, 0.85), (1e-2, 0.89), (0.1, 0.91), (0.3, 0.90), (0.6, 0.85))
]


def switching(topology: str, output_v: float = 3.3) -> SwitchingStage:
    return SwitchingStage.model_validate(
        {
            "id": "s", "name": "S", "input": "battery", "topology": topology, "output_v": output_v, "points": POINTS,
            "quiescent_a": 8e-6, "limit_a": 0.6, "undervoltage_lockout_v": 1.9,
        }
    )  # fmt: skip


class Linear(unittest.TestCase):
    def test_regulates_with_headroom_and_follows_without(self) -> None:
        volts = converter_model(LINEAR).output_voltage(np.array([4.2, 3.4, 3.0]), np.array([0.3, 0.3, 0.3]))
        np.testing.assert_allclose(volts, [3.3, 3.1, 2.7])

    def test_input_current_is_output_plus_quiescent_plus_ground(self) -> None:
        amps = converter_model(LINEAR).input_current(np.array(4.2), np.array(3.3), np.array(0.1))
        self.assertAlmostEqual(float(amps), 0.1 * 1.01 + 5e-5, places=12)

    def test_output_never_goes_negative(self) -> None:
        self.assertEqual(float(converter_model(LINEAR).output_voltage(np.array(0.1), np.array(0.5))), 0.0)


class Switching(unittest.TestCase):
    def test_fit_meets_the_datasheet_from_light_to_full_load(self) -> None:
        stage = switching("buck-boost")
        for point in POINTS:
            power_in = 3.7 * float(
                converter_model(stage).input_current(np.array(3.7), np.array(3.3), np.array(point.current_a))
            )
            self.assertAlmostEqual(3.3 * point.current_a / power_in, point.efficiency, delta=0.02)

    def test_every_point_of_the_catalogue_is_met(self) -> None:
        """Within two hundredths, whatever the current: also the one at a hundredth of a milliampere."""
        met = 0
        for stage in built_in().stages:
            if isinstance(stage, SwitchingStage):
                for point in stage.points:
                    amps, volts = np.array(point.current_a), np.array(point.input_v)
                    taken = converter_model(stage).input_current(volts, np.array(stage.output_v), amps)
                    own = stage.output_v * point.current_a / (point.input_v * float(taken))
                    self.assertAlmostEqual(own, point.efficiency, delta=0.02, msg=f"{stage.id} at {point.current_a} A")
                    met += 1
        self.assertGreater(met, 100)

    def test_loss_over_the_input_voltage(self) -> None:
        """By hand: resistances see the current of the coil, which in a boost is that of the output times the step up, in an inverting stage one more; what is switched
        is the output in a boost, the input in a buck, both in an inverting stage."""
        for topology, output, coil, switched in (
            ("boost", 5.0, lambda v: 5.0 / v, lambda v: 1.0),
            ("buck", 1.8, lambda v: 1.0, lambda v: v / 1.8),
            ("buck-boost", 3.3, lambda v: max(3.3 / v, 1.0), lambda v: max(v / 3.3, 1.0)),
            ("inverting", 5.0, lambda v: 1 + 5.0 / v, lambda v: 1 + v / 5.0),
        ):

            def loss(v: float, i: float, coil: Any = coil, switched: Any = switched) -> float:
                return 0.001 * switched(v) + 0.05 * switched(v) * coil(v) * i + 0.2 * (coil(v) * i) ** 2

            points = [
                EfficiencyPoint(current_a=i, efficiency=output * i / (output * i + loss(4.0, i)), input_v=4.0)
                for i in (0.01, 0.1, 0.4)
            ]
            model = fit_switching(points, output, 0.0, topology)
            for volts in (2.0, 3.0, 4.0, 4.9):
                for amps in (0.003, 0.05, 0.3):
                    with self.subTest(f"{topology} {volts} {amps}"):
                        self.assertAlmostEqual(
                            float(model.loss_w(np.array(volts), np.array(amps))) / loss(volts, amps), 1, places=6
                        )

    def test_a_boost_from_one_flat_cell_gives_less(self) -> None:
        stage = next(s for s in built_in().stages if s.id == "boost-33-one")
        own = [
            3.3 * 0.08 / (v * float(converter_model(stage).input_current(np.array(v), np.array(3.3), np.array(0.08))))
            for v in (1.5, 1.3, 1.1, 0.9)
        ]
        self.assertEqual(own, sorted(own, reverse=True))
        self.assertLess(own[-1], 0.75)
        self.assertGreater(own[0], 0.84)

    def test_a_buck_drops_something_at_full_duty(self) -> None:
        """0.2 V at its limit of 0.6 A unless it says otherwise: a third of an ohm."""
        usual = converter_model(switching("buck"))
        for volts, amps, left in (
            (3.5, 0.6, 3.3),
            (3.4, 0.6, 3.2),
            (3.35, 0.3, 3.25),
            (3.41, 0.3, 3.3),
            (3.0, 0.0, 3.0),
        ):
            self.assertAlmostEqual(float(usual.output_voltage(np.array(volts), np.array(amps))), left, places=9)
        own = converter_model(switching("buck").model_copy(update={"dropout_v": 0.06}))
        self.assertAlmostEqual(float(own.output_voltage(np.array(3.3), np.array(0.3))), 3.27, places=9)
        none = converter_model(switching("buck").model_copy(update={"dropout_v": 0.0}))
        self.assertEqual(float(none.output_voltage(np.array(3.2), np.array(0.3))), 3.2)

    def test_fixed_loss_is_never_below_the_quiescent_power(self) -> None:
        fit = fit_switching(POINTS, 3.3, 8e-6)
        self.assertGreaterEqual(float(fit.loss_w(np.array(3.7), np.array(0.0))), 3.7 * 8e-6)

    def test_efficiency_never_reaches_one(self) -> None:
        stage, amps = switching("buck-boost"), np.logspace(-6, -0.3, 60)
        taken = 3.7 * converter_model(stage).input_current(np.full(60, 3.7), np.full(60, 3.3), amps)
        self.assertTrue(np.all(3.3 * amps < taken))

    def test_a_single_point_gives_a_usable_fit(self) -> None:
        fit = fit_switching([POINTS[3]], 3.3, 8e-6)
        loss = float(fit.loss_w(np.array(3.7), np.array(0.1)))
        self.assertAlmostEqual(0.33 / (0.33 + loss), 0.91, delta=0.01)
        light = float(fit.loss_w(np.array(3.7), np.array(1e-4)))
        self.assertLess(light, 3.7 * 8e-6 + 0.1 * 3.3e-4, "one point must not become a large fixed loss")

    def test_buck_passes_a_low_input_on_and_boost_a_high_one(self) -> None:
        self.assertEqual(nominal_output_v(switching("buck"), 3.0), 3.0)
        self.assertEqual(nominal_output_v(switching("boost"), 4.2), 4.2)
        self.assertEqual(nominal_output_v(switching("buck-boost"), 2.5), 3.3)


class Marginal(unittest.TestCase):
    def test_is_the_slope_of_the_input_current(self) -> None:
        for stage in (LINEAR, *(switching(t, 3.3) for t in ("buck", "boost", "buck-boost", "inverting"))):
            v_in, amps, step = np.array(3.1), 0.1, 1e-6
            low = converter_model(stage).input_current(v_in, np.array(3.3), np.array(amps - step))
            high = converter_model(stage).input_current(v_in, np.array(3.3), np.array(amps + step))
            slope = float(converter_model(stage).marginal_current(v_in, np.array(3.3), np.array(amps)))
            self.assertAlmostEqual(slope, float(high - low) / (2 * step), places=5)


class Series(unittest.TestCase):
    def test_is_a_resistor_with_a_leak(self) -> None:
        stage = PassStage(id="x", name="X", input="battery", resistance_ohm=0.2, leakage_a=1e-6, limit_a=1)
        self.assertAlmostEqual(float(converter_model(stage).output_voltage(np.array(4.0), np.array(0.5))), 3.9)
        self.assertAlmostEqual(
            float(converter_model(stage).input_current(np.array(4.0), np.array(3.9), np.array(0.5))), 0.500001
        )
