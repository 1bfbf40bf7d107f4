"""Charging against closed forms; preferred resistors."""

from __future__ import annotations

import math
import unittest

import numpy as np

from ember_core.charging import charge, charge_times, programmed_current
from ember_core.design import Battery, Charger
from ember_core.resistors import E24, next_e24

from .gadgets import cell


class TwoResistors(unittest.TestCase):
    def test_linear_cell_charges_as_the_integral_says(self) -> None:
        """OCV = a + b z and constant R: constant current, then an exponential taper."""
        capacity, ohm, a, b, amps, volts, end = 2.0, 0.1, 3.0, 1.2, 1.0, 4.2, 0.1
        z = np.linspace(0, 1, 4001)
        constant, total, reached = charge_times(amps, volts, end, capacity, a + b * z, np.full(z.size, ohm), z)
        corner = (volts - amps * ohm - a) / b
        first = corner * capacity * 3600 / amps
        taper = capacity * 3600 * ohm / b * math.log(amps / end)
        self.assertAlmostEqual(constant / first, 1.0, places=3)
        self.assertAlmostEqual(total / (first + taper), 1.0, places=4)
        self.assertAlmostEqual(reached, (volts - end * ohm - a) / b, places=4)


class Chargers(unittest.TestCase):
    def setUp(self) -> None:
        self.battery = Battery.model_validate({"cell": cell(capacity_ah=0.5), "wiring_ohm": 0})

    def charger(self, **more: object) -> Charger:
        return Charger.model_validate({"name": "C", "programming_v": 1000, "programming_ohm": 4000} | more)

    def test_resistor_sets_the_current(self) -> None:
        self.assertEqual(programmed_current(self.charger()), 0.25)

    def test_half_c_takes_between_two_and_three_hours(self) -> None:
        result = charge(self.charger(), self.battery, 0.0)
        assert result.seconds is not None
        self.assertTrue(2 * 3600 < result.seconds < 3 * 3600, result.seconds)

    def test_port_limits_the_current(self) -> None:
        result = charge(self.charger(programming_ohm=500, port_limit_a=0.4), self.battery, 0.0)
        self.assertEqual((result.set_a, result.current_a), (2.0, 0.4))

    def test_load_above_termination_never_ends_but_a_power_path_does(self) -> None:
        self.assertIsNone(charge(self.charger(), self.battery, 0.03).seconds)
        self.assertIsNotNone(charge(self.charger(power_path=True), self.battery, 0.03).seconds)

    def test_a_load_slows_the_charge(self) -> None:
        alone, loaded = (charge(self.charger(), self.battery, a).seconds for a in (0.0, 0.02))
        assert alone is not None and loaded is not None
        self.assertGreater(loaded, alone)

    def test_heat_is_the_voltage_left_over_times_the_current(self) -> None:
        self.assertAlmostEqual(charge(self.charger(), self.battery, 0).peak_heat_w, (5 - 3) * 0.25)

    def test_the_right_resistor_never_exceeds_half_c(self) -> None:
        result = charge(self.charger(), self.battery, 0)
        self.assertLessEqual(1000 / result.gentle_ohm, 0.25 * 1.0001)


class Resistors(unittest.TestCase):
    def test_next_value_is_at_or_above_and_within_a_step(self) -> None:
        for wanted in (1.0, 1.01, 990, 9.2, 4999, 1.2e6):
            value = next_e24(wanted)
            self.assertGreaterEqual(value, wanted * (1 - 1e-9))
            self.assertLess(value / wanted, 1.12)

    def test_series_is_iec_60063(self) -> None:
        self.assertEqual(len(E24), 24)
        for i, value in enumerate(E24):
            self.assertAlmostEqual(value / 10 ** (i / 24), 1.0, delta=0.06)
