"""The battery from moment to moment, by hand and against the steady curves of the same cell."""

import unittest

import numpy as np

from ember_core.battery.pack import Pack, pack_at, steady_charge_ah
from ember_core.battery.state import after, lasting_s, settled_at, terminal_v
from ember_core.design import Battery


def pack_of(chemistry: str, temperature_c: float, **cell: object) -> Pack:
    about = {"name": "Cell", "form": "cylinder", "capacity_ah": 2.0, "resistance_ohm": 0.1, "cutoff_v": 3.0,
             "discharge_max_a": 10, "size_mm": [18, 65, 18], "mass_g": 45}  # fmt: skip
    return pack_at(
        Battery.model_validate({"cell": about | {"chemistry": chemistry} | cell, "wiring_ohm": 0}), temperature_c
    )


class ByHand(unittest.TestCase):
    def setUp(self) -> None:
        self.pack = pack_of("lithium-ion", 25)

    def test_charge_is_what_is_taken_and_what_leaks(self) -> None:
        pack = self.pack
        then = after(pack, settled_at(pack, 0.8), np.array([0.5, 0.0]), np.array([1800.0, 3600.0]))
        leaked = pack.self_discharge_a * np.array([0.5, 1.5])
        np.testing.assert_allclose(then.charge, 0.8 - (0.25 + leaked) / pack.capacity_ah, rtol=1e-12)

    def test_two_halves_are_a_whole(self) -> None:
        pack = pack_of("alkaline", 20, cutoff_v=0.9)
        amps, seconds = np.array([0.3, 0.0, 0.1, 0.3]), np.array([30.0, 300.0, 5.0, 1.0])
        whole = after(pack, settled_at(pack), amps, seconds)
        first = after(pack, settled_at(pack), amps[:2], seconds[:2])
        second = after(pack, first.state(1), amps[2:], seconds[2:])
        np.testing.assert_allclose(second.charge, whole.charge[2:], rtol=1e-12)
        np.testing.assert_allclose(second.felt_a, whole.felt_a[2:], rtol=1e-12)

    def test_at_rest_it_has_its_open_circuit_voltage_and_under_load_the_drop_of_its_resistance(self) -> None:
        pack = self.pack
        k = 80
        at = pack.charge[k : k + 1]
        self.assertAlmostEqual(terminal_v(pack, at, np.zeros(1), np.zeros(1))[0], pack.open_circuit_v[k], places=12)
        under = terminal_v(pack, at, np.zeros(1), np.ones(1))[0]
        self.assertAlmostEqual(under, pack.open_circuit_v[k] - pack.resistance_ohm[k], places=12)

    def test_in_the_cold_the_charge_transfer_drops_less_at_a_large_current(self) -> None:
        pack = pack_of("lithium-ion", -20)
        k = 80
        linear = pack.transfer_ohm[k] * 1.0
        self.assertGreater(linear, 4 * pack.transfer_v)  # far beyond where it is a resistance
        spared = linear - 2 * pack.transfer_v * np.arcsinh(linear / (2 * pack.transfer_v))
        volts = terminal_v(pack, pack.charge[k : k + 1], np.zeros(1), np.ones(1))[0]
        self.assertAlmostEqual(volts, pack.open_circuit_v[k] - pack.resistance_ohm[k] + spared, places=12)


class Lasting(unittest.TestCase):
    def test_a_steady_current_takes_what_the_steady_curve_says(self) -> None:
        """In a thousand pieces or in ten, warm and cold, the curve of a lithium-ion cell and the surface of an alkaline one."""
        for pack, amps in (
            (pack_of("lithium-ion", 25), 1.0),
            (pack_of("lithium-ion", -10), 0.4),
            (pack_of("alkaline", 20, cutoff_v=0.9), 0.1),
        ):
            expected = steady_charge_ah(pack, amps) / (amps + pack.self_discharge_a) * 3600
            for pieces in (1000, 4000):
                seconds = np.full(pieces, expected * 1.5 / pieces)
                found = lasting_s(pack, settled_at(pack), np.full(pieces, amps), seconds)
                assert found is not None
                with self.subTest(amps=amps, pieces=pieces):
                    self.assertAlmostEqual(found / expected, 1.0, delta=0.01)

    def test_a_battery_that_gives_it_all_has_no_end(self) -> None:
        pack = pack_of("lithium-ion", 25)
        self.assertIsNone(lasting_s(pack, settled_at(pack), np.array([1.0]), np.array([60.0])))

    def test_within_a_stretch_the_end_lies_on_a_straight_line(self) -> None:
        pack = pack_of("lithium-ion", 25)
        amps, fine = np.full(4000, 1.0), np.full(4000, 2.0)
        exact = lasting_s(pack, settled_at(pack), amps, fine)
        coarse = lasting_s(pack, settled_at(pack), amps[:200], np.full(200, 40.0))
        assert exact is not None and coarse is not None
        self.assertNotAlmostEqual(coarse % 40.0, 0.0, places=3)
        self.assertAlmostEqual(coarse, exact, delta=5.0)

    def test_a_battery_too_weak_for_its_first_current_ends_with_that(self) -> None:
        pack = pack_of("lithium-ion", 25)
        self.assertEqual(lasting_s(pack, settled_at(pack, 0.02), np.array([9.0]), np.array([7.0])), 7.0)


if __name__ == "__main__":
    unittest.main()
