"""Capacitor, divider and lamp against closed forms and a stepped circuit."""

from __future__ import annotations

import math
import unittest

from pydantic import ValidationError

from ember_core.designers.capacitor import CapacitorTask, design_capacitor, dip_v, needed_farad
from ember_core.designers.divider import DividerTask, design_divider
from ember_core.designers.lamp import LampTask, design_lamp
from ember_core.resistors import next_e6, next_e24


def stepped_dip(
    current: float, seconds: float, ohm: float, farad: float, esr: float, limit: float | None = None
) -> float:
    """The same circuit by small steps: a source of 1 V behind `ohm`, giving at most `limit`, beside C and its ESR."""
    held, rail = 1.0, 1.0
    steps = 20000
    for _ in range(steps):
        rail = (1.0 / ohm + held / esr - current) / (1 / ohm + 1 / esr)
        given = (1.0 - rail) / ohm
        if limit is not None and given > limit:
            given = limit
            rail = held - (current - given) * esr
        held -= (current - given) / farad * seconds / steps
    return 1.0 - rail


class Capacitor(unittest.TestCase):
    def test_dip_is_that_of_the_stepped_circuit(self) -> None:
        for current, seconds, ohm, farad, esr in (
            (0.5, 0.002, 0.4, 1e-3, 0.05),
            (0.2, 0.01, 1.0, 4.7e-3, 0.2),
            (0.3, 0.1, 0.2, 1e-4, 0.01),
        ):
            with self.subTest(current=current):
                expected = stepped_dip(current, seconds, ohm, farad, esr)
                self.assertAlmostEqual(dip_v(current, seconds, ohm, farad, esr), expected, delta=0.002 * expected)

    def test_needed_capacitance_gives_just_the_dip_allowed(self) -> None:
        for beyond in (0.0, 0.2):
            farad = needed_farad(0.5, 0.005, 0.5, 0.1, 0.05, beyond)
            assert farad is not None
            self.assertAlmostEqual(dip_v(0.5, 0.005, 0.5, farad, 0.05, beyond), 0.1, places=6)

    def test_a_converter_at_its_limit_leaves_the_rest_to_the_capacitor(self) -> None:
        self.assertEqual(dip_v(1.0, 0.001, 0.0, 0.0, 0.0, 0.4), math.inf)
        self.assertAlmostEqual(dip_v(1.0, 0.001, 0.0, 1e-3, 0.05, 0.4), 0.4 * (0.05 + 1.0))

    def test_none_is_needed_and_none_helps(self) -> None:
        self.assertEqual(needed_farad(0.1, 1.0, 0.1, 0.05, 0.05), 0.0)
        self.assertIsNone(needed_farad(1.0, 1.0, 10.0, 0.05, 0.2))
        easy = design_capacitor(CapacitorTask(current_a=0.1, seconds=1, allowed_v=0.1))
        self.assertIn("No capacitor is needed", easy.sentence)
        hopeless = design_capacitor(CapacitorTask(current_a=1, seconds=1, allowed_v=0.02, cell_ohm=5, esr_ohm=0.2))
        self.assertIn("ESR alone", hopeless.sentence)
        self.assertIsNone(hopeless.chosen.value)

    def test_the_answer_is_a_usual_value_that_holds(self) -> None:
        task = CapacitorTask(current_a=0.35, seconds=0.004, allowed_v=0.15, cell_ohm=0.6, limit_a=0.25, load_a=0.05)
        answer = design_capacitor(task)
        self.assertEqual(answer.chosen.value, next_e6(answer.needed.value or 0))
        self.assertLessEqual(answer.dip.value or 1, 0.15)
        self.assertGreaterEqual(answer.chosen.value or 0, answer.needed.value or 1)


class Divider(unittest.TestCase):
    def test_resistors_for_a_lithium_cell(self) -> None:
        answer = design_divider(DividerTask(top_v=4.2, reference_v=3.3, drain_max_a=2e-6))
        upper, lower = answer.upper.value or 0, answer.lower.value or 0
        self.assertEqual((next_e24(upper), next_e24(lower)), (upper, lower))
        self.assertLessEqual(answer.pin.value or 9, 3.3)
        self.assertGreater(answer.pin.value or 0, 0.9 * 3.3)
        self.assertAlmostEqual(answer.drain.value or 0, 4.2 / (upper + lower), places=12)
        self.assertLessEqual(answer.drain.value or 1, 2.2e-6)

    def test_errors_are_those_of_the_circuit(self) -> None:
        answer = design_divider(DividerTask(top_v=4.2, reference_v=2.5, tolerance=0.01, pin_leak_a=1e-7))
        upper, lower = answer.upper.value or 0, answer.lower.value or 0
        pin = 4.2 * lower / (upper + lower)
        off = 4.2 * lower * 1.01 / (upper * 0.99 + lower * 1.01)  # both resistors off, the wrong way round
        self.assertAlmostEqual((off - pin) / pin * 4.2, answer.tolerance_error.value or 0, delta=0.05 * (answer.tolerance_error.value or 1))  # fmt: skip
        leaked = 1e-7 * upper * lower / (upper + lower) * (upper + lower) / lower
        self.assertAlmostEqual(answer.leak_error.value or 0, leaked, places=9)

    def test_a_pin_without_power_is_fed_and_gating_cures_the_drain(self) -> None:
        answer = design_divider(DividerTask(top_v=4.2, reference_v=3.3, drain_max_a=1e-3, every_s=60, gate_s=0.006))
        self.assertTrue(any("no power" in a for a in answer.advice))
        self.assertAlmostEqual(answer.gated_drain.value or 0, (answer.drain.value or 0) / 10000, places=12)

    def test_a_voltage_within_full_scale_needs_no_divider(self) -> None:
        with self.assertRaises(ValidationError) as caught:
            DividerTask(top_v=3.0, reference_v=3.3)
        self.assertIn("no divider is needed", str(caught.exception))


class Lamp(unittest.TestCase):
    def test_a_resistor_for_a_brightness(self) -> None:
        answer = design_lamp(LampTask(rail_v=3.3, forward_v=2.1, mcd_per_ma=50, wanted_mcd=25))
        self.assertEqual(answer.resistor.value, 2400)
        self.assertAlmostEqual(answer.intensity.value or 0, 25)

    def test_a_duty_for_a_resistor_that_is_there(self) -> None:
        answer = design_lamp(LampTask(rail_v=3.3, forward_v=2.1, mcd_per_ma=50, wanted_mcd=25, resistor_ohm=240))
        self.assertAlmostEqual(answer.duty.value or 0, 10.0)
        self.assertAlmostEqual(answer.mean.value or 0, 0.0005)

    def test_too_bright_and_too_dark_are_said(self) -> None:
        bright = design_lamp(LampTask(rail_v=5, forward_v=2, mcd_per_ma=2, wanted_mcd=500))
        self.assertIn("stands 20 mA", bright.sentence)
        dim = design_lamp(LampTask(rail_v=5, forward_v=2, mcd_per_ma=2, wanted_mcd=30, resistor_ohm=1000))
        self.assertIn("smaller resistor", dim.sentence)
        with self.assertRaises(ValidationError):
            LampTask(rail_v=1.8, forward_v=2.0)
