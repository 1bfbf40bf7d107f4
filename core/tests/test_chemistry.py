"""Cells and packs: monotone curves, published orders of magnitude, Arrhenius, series and parallel."""

from __future__ import annotations

import math
import unittest

import numpy as np

from ember_core.battery.chemistry import (
    CHEMISTRIES,
    GAS_CONSTANT,
    diffusion_factor,
    low_temperature_factor,
    open_circuit_voltage,
    resistance_at,
    resistance_factor,
    self_discharge_a,
)
from ember_core.battery.pack import charge_grid, pack_at
from ember_core.design import Battery

from .gadgets import cell

Z = np.linspace(0, 1, 501)


class Curves(unittest.TestCase):
    def test_open_circuit_voltage_rises_with_the_charge_and_passes_its_points(self) -> None:
        for name, data in CHEMISTRIES.items():
            volts = open_circuit_voltage(name, Z)
            self.assertTrue(np.all(np.diff(volts) > 0), name)
            for z, v in data.ocv:
                self.assertAlmostEqual(float(open_circuit_voltage(name, z)), v, places=9)

    def test_nominal_voltages_are_those_of_the_text_books(self) -> None:
        """The mean over the charge is what is printed as the nominal voltage, within a tenth of a volt."""
        for name, nominal in (
            ("lithium-ion", 3.7),
            ("lithium-coin", 2.95),
            ("alkaline", 1.3),
            ("lithium-iron-phosphate", 3.27),
            ("nickel-metal-hydride", 1.27),
            ("lithium-manganese", 2.92),
            ("lithium-iron-disulfide", 1.5),
            ("lithium-thionyl", 3.6),
            ("silver-oxide", 1.55),
            ("zinc-air", 1.3),
            ("lead-acid", 2.05),
            ("lithium-titanate", 2.3),
            ("alkaline-block", 7.95),
        ):
            mean = float(np.trapezoid(open_circuit_voltage(name, Z), Z))  # type: ignore[arg-type]
            self.assertAlmostEqual(mean, nominal, delta=0.1)

    def test_charge_outside_its_range_is_clipped(self) -> None:
        self.assertEqual(float(open_circuit_voltage("lithium-ion", 1.2)), 4.2)
        self.assertEqual(float(open_circuit_voltage("lithium-ion", -1)), 3.0)

    def test_resistance_is_one_at_half_charge_and_grows_towards_empty(self) -> None:
        for name in CHEMISTRIES:
            self.assertAlmostEqual(float(resistance_factor(name, 0.5)), 1.0, places=6)
            if name != "super-capacitor":  # its electrodes stay what they are
                self.assertGreater(float(resistance_factor(name, 0.02)), 1.5)

    def test_cold_follows_arrhenius(self) -> None:
        def factor(energy: float) -> float:
            return math.exp(energy / GAS_CONSTANT * (1 / 253.15 - 1 / 298.15))

        data = CHEMISTRIES["lithium-ion"]
        share, energy = data.transfer
        whole = (1 - share) * factor(data.activation_j_per_mol) + share * factor(energy)
        self.assertAlmostEqual(float(resistance_factor("lithium-ion", 0.5, -20)), whole, places=6)
        self.assertAlmostEqual(diffusion_factor("alkaline", -20), factor(CHEMISTRIES["alkaline"].diffusion_j_per_mol))
        self.assertEqual(resistance_at("lithium-ion", 25), (1.0, 0.0))
        self.assertEqual(resistance_at("lithium-ion", 45)[1], 0.0)  # only cold adds to the charge transfer
        added = resistance_at("lithium-ion", -20)
        self.assertAlmostEqual(added[0] * added[1], share * (factor(energy) - 1))

    def test_charge_transfer_drops_less_than_a_resistance_at_large_currents(self) -> None:
        """By hand: 2 v asinh(I R / 2 v) with v = 21.8 mV at -20 degC."""
        pack = pack_at(Battery.model_validate({"cell": cell(), "wiring_ohm": 0}), -20.0)
        ohm, volts = float(pack.transfer_ohm[80]), 8.314462618 * 253.15 / 96485.33212
        for amps in (1e-4, 0.05, 1.0):
            spared = float(pack.transfer_spared_v(np.array(amps))[80])
            self.assertAlmostEqual(spared, amps * ohm - 2 * volts * math.asinh(amps * ohm / (2 * volts)))
        self.assertGreater(spared, 0.5 * ohm)
        warm = pack_at(Battery.model_validate({"cell": cell(), "wiring_ohm": 0}), 25.0)
        self.assertEqual(warm.transfer_v, 0.0)

    def test_alkaline_loses_far_more_to_frost_than_lithium(self) -> None:
        self.assertLess(
            low_temperature_factor("alkaline", -30), low_temperature_factor("lithium-iron-disulfide", -30) - 0.2
        )
        self.assertEqual(low_temperature_factor("alkaline", 25), 1.0)

    def test_self_discharge_is_a_share_of_the_capacity_each_month(self) -> None:
        monthly = self_discharge_a("lithium-ion", 2.0) * 30.4375 * 86400 / 3600
        self.assertAlmostEqual(monthly, 2.0 * CHEMISTRIES["lithium-ion"].self_discharge_per_month)


class Packs(unittest.TestCase):
    def pack(self, **more: object) -> object:
        return pack_at(Battery.model_validate({"cell": cell(), "wiring_ohm": 0.0} | more), 25)

    def test_series_adds_voltage_and_resistance(self) -> None:
        one, two = self.pack(), self.pack(series=2)
        np.testing.assert_allclose(two.open_circuit_v, 2 * one.open_circuit_v)  # type: ignore[attr-defined]
        np.testing.assert_allclose(two.resistance_ohm, 2 * one.resistance_ohm)  # type: ignore[attr-defined]
        self.assertEqual(two.cutoff_v, 6.0)  # type: ignore[attr-defined]
        # the weaker of two: a standard deviation of 5.1 % times 0.564
        self.assertAlmostEqual(two.capacity_ah, 1 - (0.05 + 0.08) / 2 / 1.2816 * 0.5642, places=4)  # type: ignore[attr-defined]

    def test_parallel_adds_capacity_and_current_and_divides_resistance(self) -> None:
        one, three = self.pack(), self.pack(parallel=3)
        np.testing.assert_allclose(three.resistance_ohm, one.resistance_ohm / 3)  # type: ignore[attr-defined]
        self.assertEqual((three.capacity_ah, three.discharge_max_a), (3.0, 6.0))  # type: ignore[attr-defined]

    def test_wiring_is_added_once(self) -> None:
        bare, wired = self.pack(parallel=2), self.pack(parallel=2, wiring_ohm=0.05)
        np.testing.assert_allclose(wired.resistance_ohm - bare.resistance_ohm, 0.05)  # type: ignore[attr-defined]

    def test_the_grid_falls_from_full_to_empty_and_is_denser_there(self) -> None:
        grid = charge_grid()
        self.assertEqual((grid[0], grid[-1]), (1.0, 0.0))
        self.assertGreater(grid[0] - grid[1], 3 * (grid[-2] - grid[-1]))
