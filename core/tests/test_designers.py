"""Capacitor, divider and lamp against closed forms and a stepped circuit."""

from __future__ import annotations

import math
import random
import unittest
from typing import Any

import numpy as np
from pydantic import ValidationError

from ember_core.calculators.capacitor import CapacitorTask, design_capacitor, dip_v, needed_farad
from ember_core.calculators.cell import CellTask, DatasheetCell, cell_from_datasheet
from ember_core.calculators.divider import DividerTask, design_divider, into_unpowered_pin_a
from ember_core.calculators.led import LedTask, design_lamp
from ember_core.catalogue import built_in
from ember_core.figures import as_json
from ember_core.quantities.preferred import next_e6, next_e24

from .gadgets import plain


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
        answer = design_lamp(LedTask(rail_v=3.3, forward_v=2.1, mcd_per_ma=50, wanted_mcd=25))
        self.assertEqual(answer.resistor.value, 2400)
        self.assertAlmostEqual(answer.intensity.value or 0, 25)

    def test_a_duty_for_a_resistor_that_is_there(self) -> None:
        answer = design_lamp(LedTask(rail_v=3.3, forward_v=2.1, mcd_per_ma=50, wanted_mcd=25, resistor_ohm=240))
        self.assertAlmostEqual(answer.duty.value or 0, 10.0)
        self.assertAlmostEqual(answer.mean.value or 0, 0.0005)

    def test_too_bright_and_too_dark_are_said(self) -> None:
        bright = design_lamp(LedTask(rail_v=5, forward_v=2, mcd_per_ma=2, wanted_mcd=500))
        self.assertIn("stands 20 mA", plain(bright.sentence))
        dim = design_lamp(LedTask(rail_v=5, forward_v=2, mcd_per_ma=2, wanted_mcd=30, resistor_ohm=1000))
        self.assertIn("smaller resistor", dim.sentence)
        with self.assertRaises(ValidationError):
            LedTask(rail_v=1.8, forward_v=2.0)

    def test_every_figure_by_hand(self) -> None:
        """3.3 V on 2.1 V and 240 ohm are 5 mA; at 50 mcd per mA and a tenth of the time 25 mcd; at 2.7 V half of that."""
        task = LedTask(rail_v=3.3, lowest_v=2.7, forward_v=2.1, mcd_per_ma=50, wanted_mcd=25, resistor_ohm=240)
        answer = design_lamp(task)
        self.assertAlmostEqual(answer.current.value or 0, 0.005)
        self.assertAlmostEqual(answer.intensity.value or 0, 25.0)
        self.assertAlmostEqual(answer.intensity_low.value or 0, 12.5)
        self.assertAlmostEqual(answer.old_style.value or 0, 25 / 60 / 1000)
        self.assertIn("lit 10 % of the time", plain(answer.sentence))

    def test_it_is_too_dim_only_where_it_falls_short(self) -> None:
        for wanted, short in ((24.9, False), (25.5, True)):
            task = LedTask(rail_v=3.3, forward_v=2.1, mcd_per_ma=5, wanted_mcd=wanted, resistor_ohm=240)
            self.assertEqual("smaller resistor" in design_lamp(task).sentence, short)
        for most, too_much in ((0.0005, False), (0.00049, True)):
            task = LedTask(rail_v=3.3, forward_v=2.1, mcd_per_ma=50, wanted_mcd=25, current_max_a=most)
            self.assertEqual("Choose a more efficient LED" in design_lamp(task).sentence, too_much)

    def test_a_rail_at_the_forward_voltage_is_refused(self) -> None:
        with self.assertRaises(ValidationError):
            LedTask(rail_v=3.3, lowest_v=2.0, forward_v=2.0)
        LedTask(rail_v=3.3, lowest_v=2.01, forward_v=2.0)


class DividerByHand(unittest.TestCase):
    def test_pin_steps_and_hold(self) -> None:
        """4.2 V to 3.3 V full scale at 2 uA: 2.1 MOhm in all, 0.97 of full scale at the lower one."""
        answer = design_divider(DividerTask(top_v=4.2, reference_v=3.3, drain_max_a=2e-6, bits=12, sampler_f=1e-11))
        lower, upper = answer.lower.value or 0, answer.upper.value or 0
        self.assertEqual(lower, next_e24(2.1e6 * 3.3 / 4.2 * 0.97))
        self.assertEqual(upper, next_e24(lower * (4.2 / 3.3 - 1)))
        self.assertAlmostEqual(answer.hold.value or 0, 1e-11 * 2**13)
        share = lower / (lower + upper)
        self.assertAlmostEqual(answer.pin.value or 0, 4.2 * share)
        parts = [answer.tolerance_error.value or 0, answer.leak_error.value or 0, 3.3 / 4096 / share / 2]
        self.assertAlmostEqual(answer.error.value or 0, sum(x * x for x in parts) ** 0.5, places=9)

    def test_into_a_pin_without_power_by_hand(self) -> None:
        self.assertAlmostEqual(into_unpowered_pin_a(4.2, 1e4, 1e4), (4.2 - 0.5) / 1e4 - 0.5 / 1e4)
        self.assertEqual(into_unpowered_pin_a(1.0, 1e6, 1e4), 0.0)


class Datasheet(unittest.TestCase):
    TASK: dict[str, Any] = {
        "name": "Mine",
        "chemistry": "lithium-ion",
        "form": "pouch",
        "capacity_ah": 1.0,
        "size_mm": [40, 30, 5],
    }

    def made(self, **more: Any) -> DatasheetCell:
        return cell_from_datasheet(CellTask.model_validate(self.TASK | more), built_in())

    def test_what_it_does_not_say_is_the_median_of_its_kind(self) -> None:
        alike = [c for c in built_in().cells if c.chemistry == "lithium-ion" and c.bank is None]
        found = self.made().cell
        self.assertAlmostEqual(
            found.resistance_ohm, float(np.median([c.resistance_ohm * c.capacity_ah for c in alike])), delta=0.001
        )
        self.assertAlmostEqual(
            found.discharge_max_a, float(np.median([c.discharge_max_a / c.capacity_ah for c in alike])), delta=0.01
        )
        density = float(np.median([c.mass_g / float(np.prod(c.size_mm)) for c in alike]))
        self.assertAlmostEqual(found.mass_g, 6000 * density, delta=0.1)
        double = self.made(capacity_ah=2.0).cell
        self.assertAlmostEqual(double.resistance_ohm, found.resistance_ohm / 2, delta=0.001)
        self.assertAlmostEqual(double.discharge_max_a, 2 * found.discharge_max_a, delta=0.02)

    def test_what_it_says_is_taken(self) -> None:
        said = self.made(resistance_ohm=0.2, cutoff_v=2.8, discharge_max_a=3, mass_g=17)
        self.assertEqual(
            (said.cell.resistance_ohm, said.cell.cutoff_v, said.cell.discharge_max_a, said.cell.mass_g),
            (0.2, 2.8, 3, 17),
        )
        self.assertEqual(said.assumed, [])
        self.assertIn("All figures are its own", said.sentence)
        self.assertEqual(len(self.made().assumed), 4)

    def test_two_capacities_give_what_is_unavailable_per_ampere(self) -> None:
        """1 Ah at 0.1 A and 0.9 Ah at 0.6 A: 0.2 h, and 1.02 Ah in all."""
        found = self.made(capacity_at_a=0.1, second_ah=0.9, second_at_a=0.6)
        assert found.cell.curve and found.left_behind and found.second
        self.assertAlmostEqual(found.cell.curve.unavailable_h, 0.2)
        self.assertAlmostEqual(found.cell.capacity_ah, 1.02)
        self.assertAlmostEqual(found.left_behind.value or 0, 0.2)
        self.assertAlmostEqual(found.second.value or 0, 0.9, delta=0.01)
        self.assertIn("both capacities back", found.sentence)

    def test_a_second_capacity_that_contradicts_is_refused(self) -> None:
        for more in ({"second_ah": 0.9}, {"second_at_a": 0.6}, {"second_ah": 1.01, "second_at_a": 0.6},
                     {"second_ah": 0.9, "second_at_a": 0.1, "capacity_at_a": 0.1}):  # fmt: skip
            with self.assertRaises(ValidationError):
                self.made(**more)
        self.made(second_ah=1.0, second_at_a=0.6)
        self.made(second_ah=0.9, second_at_a=0.11, capacity_at_a=0.1)

    def test_a_resistance_that_does_not_go_with_it_is_said(self) -> None:
        self.assertIn("does not go with it", self.made(resistance_ohm=2.0, second_ah=0.95, second_at_a=0.5).sentence)


class Bounds(unittest.TestCase):
    def test_every_task_within_its_bounds_has_an_answer(self) -> None:
        choose = random.Random(2)
        for kind, work in ((LedTask, design_lamp), (DividerTask, design_divider), (CapacitorTask, design_capacitor)):
            answered = 0
            for _ in range(1500):
                try:
                    task = kind.model_validate({k: self.figure(choose, f) for k, f in kind.model_fields.items()})  # type: ignore[attr-defined]
                except ValidationError:
                    continue
                answered += 1
                self.assertNotIn("Infinity", as_json(work(task)).decode())  # type: ignore[operator]
            self.assertGreater(answered, 150, kind)

    def figure(self, choose: random.Random, field: Any) -> Any:
        """At a bound of its field, or anywhere between them."""
        bounds = {
            name: value
            for m in field.metadata
            for name in ("ge", "gt", "le")
            if (value := getattr(m, name, None)) is not None
        }
        if "le" not in bounds or (not field.is_required() and choose.random() < 0.4):
            return field.default if not field.is_required() else 1
        low = max(bounds.get("ge", bounds.get("gt", 0)), 1e-15)
        drawn = choose.choice((low, bounds["le"], math.exp(choose.uniform(math.log(low), math.log(bounds["le"])))))
        return round(drawn) if field.annotation is int else drawn
