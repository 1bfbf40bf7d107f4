"""Charging against closed forms, by the port, in the heat, on one to three cells in series; preferred resistors."""

from __future__ import annotations

import math
import unittest
from typing import Any
from unittest.mock import patch

import numpy as np

from ember_core import Design, build_design, evaluate
from ember_core.catalogue import built_in
from ember_core.charging import charge as module
from ember_core.charging.charge import Charge, Meanwhile, _foldback_a, charge
from ember_core.design import Battery, Charger, Enclosure
from ember_core.design.patches import apply
from ember_core.measures.bench import TrialBench
from ember_core.quantities.preferred import E24, next_e24
from ember_core.studies import answer_cells
from ember_core.thermal.shell import shell_of

from .gadgets import LINEAR, cell, design, document, part, seen, state, use
from .test_stages import USB

CASE = Enclosure(outer_mm=(60, 90, 24))
IDLE = Meanwhile(cell_a=0.0, port_a=0.0, port_peak_a=0.0, port_limit_a=10.0, heat_w=0.0, ambient_c=20.0)


SHELL = shell_of(CASE, 20.0, 60.0, 5.0)


class ClosedForms(unittest.TestCase):
    """A cell with OCV = a + b z and one resistance: constant current, then an exponential taper."""

    CAPACITY, OHM, LOW, RISE = 2.0, 0.1, 3.0, 1.2

    def charged(self, r0_ohm: float | None = None, curve: Any = None, **more: Any) -> Charge:
        z = np.linspace(0, 1, 101)
        own_curve = curve or {}
        curve = {
            "soc": z.tolist(),
            "open_circuit_v": (self.LOW + self.RISE * z).tolist(),
            "resistance_ohm": [self.OHM] * 101,
            "r0_ohm": r0_ohm,
        } | own_curve
        own = cell(capacity_ah=self.CAPACITY, resistance_ohm=self.OHM, curve=curve)
        pack = Battery.model_validate({"cell": own, "wiring_ohm": 0})
        charger = {"name": "C", "fixed_a": 1.0, "port_limit_a": 10, "rth_ja_c_per_w": 1}
        warm = Meanwhile(0.0, 0.0, 0.0, 10.0, 0.0, 25.0)
        return charge(Charger.model_validate(charger | more), pack, shell_of(CASE, 25.0, 60.0, 5.0), warm)

    def test_constant_current_then_a_taper(self) -> None:
        result = self.charged()
        whole, amps, end = self.CAPACITY * 3600, 1.0, 0.1
        corner = (4.2 - amps * self.OHM - self.LOW) / self.RISE
        taper = whole * self.OHM / self.RISE * math.log(amps / end)
        self.assertAlmostEqual(result.constant_current_s / (corner * whole / amps), 1, delta=0.012)
        self.assertAlmostEqual((result.seconds or 0) / (corner * whole / amps + taper), 1, delta=0.01)
        self.assertAlmostEqual(result.full_share, (4.2 - end * self.OHM - self.LOW) / self.RISE, delta=0.002)
        self.assertAlmostEqual(float(result.course.current_a[-1]), end)

    def test_to_80_percent(self) -> None:
        self.assertAlmostEqual((self.charged().most_s or 0) / (0.8 * self.CAPACITY * 3600), 1, delta=0.002)

    def test_four_fifths_are_told_once_they_are_in(self) -> None:
        """A resistance lets the current fall to its end at (4.2 V - OCV) / R = 0.1 A: with 0.8 of the charge in, or a little less."""
        for full, told in ((0.81, True), (0.79, False)):
            ohm = (4.2 - self.LOW - self.RISE * full) / 0.1
            result = self.charged(curve={"resistance_ohm": [ohm] * 101, "r0_ohm": ohm})
            self.assertAlmostEqual(result.full_share, full, delta=0.005)
            self.assertEqual(result.most_s is not None, told)

    def test_what_comes_out_of_the_wall(self) -> None:
        """All the charge at 5 V of a linear charger, through an adapter of 80 %: also in a gentle start and where it tapers."""
        for result in (self.charged(), self.charged(precharge_v_per_cell=3.3), self.charged(r0_ohm=0.025)):
            self.assertAlmostEqual(result.wall_wh / (self.CAPACITY * result.full_share * 5 / 0.8), 1, delta=1e-3)

    def test_a_switching_one_takes_what_the_cell_takes(self) -> None:
        result = self.charged(topology="switching", efficiency=0.9, foldback_c=None)
        stored = self.CAPACITY * float(np.mean(result.course.voltage_v))
        self.assertAlmostEqual(result.wall_wh / (stored / 0.9 / 0.8), 1, delta=0.08)
        self.assertLess(result.heat_w, self.charged().heat_w)

    def test_a_gentle_start_below_its_threshold(self) -> None:
        """A tenth of the current until 3.3 V without load but for the little drop: 0.24 of the charge at 0.1 A."""
        result = self.charged(precharge_v_per_cell=3.3)
        gentle = (3.3 - 0.1 * self.OHM - self.LOW) / self.RISE * self.CAPACITY * 3600 / 0.1
        rest = self.charged().seconds or 0
        self.assertAlmostEqual((result.seconds or 0) / (rest + gentle * 0.9), 1, delta=0.002)
        self.assertEqual(result.limit, "set")

    def test_a_slow_part_comes_behind(self) -> None:
        """With three quarters of the resistance slow, the constant current lasts longer, and the taper starts from less."""
        fast, slow = self.charged(), self.charged(r0_ohm=0.025)
        self.assertGreaterEqual(slow.constant_current_s, fast.constant_current_s * 0.999)
        self.assertAlmostEqual((slow.seconds or 0) / (fast.seconds or 1), 1, delta=0.15)

    def test_the_constant_current_ends_within_a_step(self) -> None:
        """At 4.2 V less the drop of 1 A, wherever the steps are."""
        ends = (4.2 - 1.0 * self.OHM - self.LOW) / self.RISE * self.CAPACITY * 3600
        for points in (31, 61, 62, 63, 85):
            with self.subTest(points=points), patch.object(module, "STEPS", np.linspace(0.0, 1.0, points)):
                self.assertAlmostEqual(self.charged().constant_current_s / ends, 1, delta=0.001)

    def test_few_steps_are_as_good_as_many(self) -> None:
        """With a gentle start, a slow part and everything: time, its four fifths, constant current, energy, warmest."""

        def figures(points: int) -> list[float]:
            with patch.object(module, "STEPS", 1 - (1 - np.linspace(0.0, 1.0, points)) ** 1.7):
                x = self.charged(r0_ohm=0.025, precharge_v_per_cell=3.3)
            return [
                x.seconds or 0,
                x.most_s or 0,
                x.constant_current_s,
                x.wall_wh,
                x.junction_c,
                x.hottest_c,
                x.full_share,
            ]

        np.testing.assert_allclose(figures(module.STEPS.size), figures(1361), rtol=0.007)

    def test_in_small_steps_the_same(self) -> None:
        """An own integration with a tenth of a second, the slow part with its own filter (two fifths of 15 minutes)."""
        z, felt, now, amps, tau = 0.0, 0.0, 0.0, 1.0, 360.0
        while True:
            ocv = self.LOW + self.RISE * z
            amps = min(1.0, (4.2 - ocv - 0.075 * felt) / 0.025)
            if amps < 1.0 and amps <= 0.1:
                break
            z += amps * 0.5 / (self.CAPACITY * 3600)
            felt += (amps - felt) * 0.5 / tau
            now += 0.5
        self.assertAlmostEqual((self.charged(r0_ohm=0.025).seconds or 0) / now, 1, delta=0.005)

    def test_at_both_ends_the_slow_part_is_that_of_the_middle(self) -> None:
        """A discharge tells too much of it when empty and too little when full: 0.1 ohm between 0.3 and 0.8 of the charge, none above, 1 ohm below."""
        z = np.linspace(0, 1, 101)

        def with_(slow: Any) -> Charge:
            curve = {"resistance_ohm": (0.025 + slow).tolist(), "r0_ohm": 0.025}
            return self.charged(curve=curve)

        even = with_(np.full(101, 0.1))
        odd = with_(np.where(z < 0.295, 1.0, np.where(z > 0.805, 0.0, 0.1)))
        self.assertAlmostEqual((odd.seconds or 0) / (even.seconds or 1), 1, delta=1e-3)
        self.assertLess((with_(np.where(z > 0.5, 0.0, 0.1)).seconds or 0) / (even.seconds or 1), 0.98)

    def test_charge_transfer_by_hand(self) -> None:
        """0.02 ohm and a transfer of 0.08 ohm at small currents: at 1 A 0.02 V and 2 x 25.7 mV asinh(0.08 / 0.0514) = 0.0630 V."""
        result = self.charged(curve={"resistance_ohm": [0.1] * 101, "transfer_ohm": 0.08})
        ocv = self.LOW + self.RISE * result.course.charge
        self.assertAlmostEqual(float((result.course.voltage_v - ocv)[20]), 0.02 + 0.0630, places=3)
        full, end = result.course.charge[-1], result.course.current_a[-1]
        drop = end * 0.02 + 2 * 0.025693 * math.asinh(end * 0.08 / (2 * 0.025693))
        self.assertAlmostEqual(float(self.LOW + self.RISE * full + drop), 4.2, delta=0.002)
        linear = self.charged()
        self.assertGreater(result.constant_current_s, linear.constant_current_s)

    def test_the_taper_with_charge_transfer_in_small_steps(self) -> None:
        result = self.charged(curve={"resistance_ohm": [0.1] * 101, "transfer_ohm": 0.08})
        z, now, amps = 0.0, 0.0, 1.0
        while amps > 0.1:
            low, high = 0.0, 1.0
            for _ in range(40):
                amps = (low + high) / 2
                over = amps * 0.02 + 2 * 0.025693 * math.asinh(amps * 0.08 / (2 * 0.025693))
                low, high = (amps, high) if self.LOW + self.RISE * z + over < 4.2 else (low, amps)
            z += amps * 2.0 / (self.CAPACITY * 3600)
            now += 2.0
        self.assertAlmostEqual((result.seconds or 0) / now, 1, delta=0.01)

    def test_heat_is_what_went_in_and_is_not_stored(self) -> None:
        """Energy: port x current = stored + heat in the case, at every moment (nothing else burns)."""
        result = self.charged()
        course = result.course
        stored = (self.LOW + self.RISE * course.charge) * course.current_a
        np.testing.assert_allclose(course.heat_w[:-1], (5.0 * course.current_a - stored)[:-1], atol=1e-6)


class Chargers(unittest.TestCase):
    def charged(self, meanwhile: Meanwhile = IDLE, battery: dict[str, Any] | None = None, **more: Any) -> Charge:
        charger = {
            "name": "C",
            "program_constant_v": 1000,
            "program_ohm": 4000,
            "port_limit_a": 10,
            "rth_ja_c_per_w": 1,
        }
        pack = Battery.model_validate({"cell": cell(capacity_ah=0.5), "wiring_ohm": 0} | (battery or {}))
        return charge(Charger.model_validate(charger | more), pack, SHELL, meanwhile)

    def test_resistor_sets_the_current(self) -> None:
        charger = Charger.model_validate({"name": "C", "program_constant_v": 1000, "program_ohm": 4000})
        self.assertEqual(charger.set_a, 0.25)
        self.assertEqual((self.charged().set_a, self.charged().current_a, self.charged().limit), (0.25, 0.25, "set"))

    def test_half_c_takes_between_two_and_three_hours(self) -> None:
        seconds = self.charged().seconds
        assert seconds is not None
        self.assertTrue(2 * 3600 < seconds < 3 * 3600, seconds)

    def test_the_port_limits_the_current(self) -> None:
        result = self.charged(program_ohm=500, port_limit_a=0.4)
        self.assertEqual((result.set_a, result.current_a, result.limit), (2.0, 0.4, "port"))

    def test_what_else_hangs_on_the_port_leaves_less(self) -> None:
        shared = Meanwhile(0.0, port_a=0.3, port_peak_a=0.4, port_limit_a=0.5, heat_w=0.0, ambient_c=20.0)
        result = self.charged(shared)
        self.assertAlmostEqual(result.current_a, 0.2)
        self.assertEqual(result.limit, "port")
        self.assertGreater(result.seconds or 0, self.charged().seconds or 0)

    def test_a_source_that_gives_less_than_the_charger_draws(self) -> None:
        for gives, current in ((0.1, 0.1), (0.5, 0.25)):
            self.assertAlmostEqual(self.charged(port={"kind": "usb", "gives_a": gives}).current_a, current)

    def test_a_port_with_nothing_left_never_fills(self) -> None:
        for used, never in ((0.4, ""), (0.474, ""), (0.476, "port"), (0.6, "port")):  # it ends at 25 mA
            with self.subTest(used):
                full = Meanwhile(0.0, port_a=used, port_peak_a=used, port_limit_a=0.5, heat_w=0.0, ambient_c=20.0)
                result = self.charged(full)
                self.assertEqual((result.never, result.seconds is None), (never, bool(never)))

    def test_a_load_on_the_cell_slows_the_charge_and_ends_it_never_from_the_termination_on(self) -> None:
        def loaded(amps: float) -> Charge:
            return self.charged(Meanwhile(amps, 0.0, 0.0, 10.0, 0.0, 20.0))

        self.assertGreater(loaded(0.02).seconds or 0, loaded(0.0).seconds or 0)
        self.assertEqual((loaded(0.0249).never, loaded(0.0251).never), ("", "load"))
        self.assertEqual(loaded(0.3).never, "load")
        self.assertIsNone(loaded(0.3).seconds)

    def test_heat_is_the_voltage_left_over_times_the_current(self) -> None:
        course = self.charged().course
        self.assertAlmostEqual(self.charged().peak_heat_w, float(np.max((5 - course.voltage_v) * course.current_a)))

    def test_junction_is_the_air_inside_plus_heat_times_its_resistance(self) -> None:
        course = self.charged(rth_ja_c_per_w=70).course
        by_hand = course.inside_c + 70 * (5 - course.voltage_v) * course.current_a
        np.testing.assert_allclose(course.junction_c[:-1], by_hand[:-1])

    def test_the_air_follows_the_heat_with_the_time_constant_of_the_case(self) -> None:
        """An own integration of the shell over the same heat; the air over it follows at once."""
        course = self.charged(program_ohm=2000, battery={"cell": cell(capacity_ah=2)}).course
        wall, found = 0.0, []
        for k in range(course.time_s.size - 1):
            before = 0.0 if k == 0 else float(SHELL.gap_rise_k(float(course.heat_w[k - 1])))
            found.append(wall + before)
            for _ in range(20):
                watts = float(course.heat_w[k])
                step = float(course.time_s[k + 1] - course.time_s[k]) / 20
                wall += (float(SHELL.wall_rise_k(watts)) - wall) * step / SHELL.time_constant_s(watts)
        np.testing.assert_allclose(course.inside_c[:-1] - 20, found, atol=0.3)

    def test_a_hot_charger_folds_back_to_its_temperature(self) -> None:
        more: dict[str, Any] = {"program_ohm": 1000, "rth_ja_c_per_w": 70, "battery": {"cell": cell(capacity_ah=2)}}
        result = self.charged(**more)
        self.assertEqual(result.limit, "fold-back")
        self.assertAlmostEqual(result.junction_c, 120, delta=0.5)
        folded = result.course.current_a < 0.999
        hot = result.course.junction_c[folded & (result.course.voltage_v < 4.2)]
        np.testing.assert_allclose(hot, 120, atol=0.5)
        free = self.charged(program_ohm=1000, battery={"cell": cell(capacity_ah=2)})
        self.assertGreater(result.seconds or 0, 1.002 * (free.seconds or 1))
        unlimited = self.charged(**more, foldback_c=None)
        self.assertGreater(unlimited.junction_c, 121)

    def test_fold_back_by_hand(self) -> None:
        """2 V over it without load, 0.2 ohm in the cell, 0.9 W: (2 - 0.2 I) I = 0.9."""
        amps = _foldback_a(0.9, 2.0, 0.2)
        self.assertAlmostEqual((2 - 0.2 * amps) * amps, 0.9)
        self.assertAlmostEqual(_foldback_a(0.9, 2.0, 0.0), 0.45)
        self.assertEqual(_foldback_a(5.1, 2.0, 0.2), math.inf)  # it never burns more than 5 W
        self.assertLess(_foldback_a(4.9, 2.0, 0.2), 5.0)
        self.assertEqual(_foldback_a(0.0, 2.0, 0.2), 0.0)

    def test_nickel_cells_take_a_constant_current_until_they_are_full(self) -> None:
        nickel = {"cell": cell(chemistry="nickel-metal-hydride", capacity_ah=2.0, cutoff_v=1.0), "series": 2}
        result = self.charged(battery=nickel, method="delta-v", fixed_a=1.0, cells_in_series=2, foldback_c=None)
        np.testing.assert_allclose(result.course.current_a, 1.0)
        hours = (
            result.capacity_ah / 1.0 * (0.8 / 0.95 + 0.2 / ((0.95 + 0.7) / 2))
        )  # what is stored of the current falls towards the end
        self.assertAlmostEqual((result.seconds or 0) / 3600 / hours, 1, delta=0.02)
        cool = self.charged(battery=nickel, method="delta-v", fixed_a=1.0, cells_in_series=2, foldback_c=None, topology="switching", efficiency=1.0)  # fmt: skip
        late, early = np.interp([0.99, 0.7], cool.course.charge, cool.course.heat_w)
        self.assertGreater(late, 2 * early)  # what is not stored is heat in the cells

    def test_what_the_lamp_and_a_wireless_receiver_burn(self) -> None:
        plain, lit = self.charged(), self.charged(lamp_a=0.02)
        self.assertAlmostEqual(lit.case_heat_w - plain.case_heat_w, 0.02 * 5, places=3)
        pad = self.charged(port={"kind": "wireless", "gives_a": 1.0})
        self.assertAlmostEqual(pad.case_heat_w - plain.case_heat_w, 0.25 * 5 * (1 / 0.75 - 1), delta=0.02)

    def test_the_recommended_resistor_never_exceeds_half_c(self) -> None:
        self.assertLessEqual(1000 / self.charged().gentle_ohm, 0.25 * 1.0001)


class InSeries(unittest.TestCase):
    """A charger holds its voltage over the whole pack, whatever the pack is."""

    def gadget(self, series: int, cells: int, per_cell: float = 4.2, chemistry: str = "lithium-ion") -> Design:
        charger = {"name": "Charger", "program_constant_v": 1000, "program_ohm": 4000, "port_v": 4.2 * max(cells, series) + 0.8, "port_limit_a": 2,
                   "cells_in_series": cells, "float_v_per_cell": per_cell, "rth_ja_c_per_w": 5, "input_max_v": 18}  # fmt: skip
        cutoff = 3.0 if chemistry == "lithium-ion" else 2.5
        guard = {"cut_v_per_cell": 2.5, "overcurrent_a": 3}
        pack = {
            "cell": cell(chemistry=chemistry, cutoff_v=cutoff),
            "series": series,
            "wiring_ohm": 0,
            "protection": guard,
        }
        stage = LINEAR | {"output_v": 2.0}
        rails = [{"id": "main", "name": "Main", "feed": "reg"}]
        return design(charger=charger, battery=pack, supply={"stages": [stage], "rails": rails})

    def codes(self, gadget: Design) -> dict[str, str]:
        wanted = ("float-voltage", "charger-for-another-pack", "float-too-low")
        return {c: found[0].severity for c in wanted if (found := seen(gadget, c))}

    def verdict(self, gadget: Design) -> tuple[str, str]:
        from ember_core import evaluate

        found = next(v for v in evaluate(gadget).verdicts if v.key == "charge")
        return found.status, found.word

    def test_the_right_charger_fills_one_two_and_three_cells_alike(self) -> None:
        times = []
        for series in (1, 2, 3):
            gadget = self.gadget(series, series)
            self.assertEqual(self.codes(gadget), {})
            self.assertEqual(
                self.verdict(gadget), ("pass", "safe current") if series == 1 else ("watch", "not balanced")
            )
            result = TrialBench(gadget, built_in()).charge
            assert result is not None and result.seconds is not None
            self.assertGreater(result.full_share, 0.97)
            times.append(result.seconds)
        np.testing.assert_allclose(times, times[0], rtol=0.06)  # the weakest cell in series has a little less

    def test_a_charger_for_fewer_cells_never_passes(self) -> None:
        for series, cells in ((2, 1), (3, 1), (3, 2)):
            with self.subTest(series=series, cells=cells):
                gadget = self.gadget(series, cells)
                self.assertEqual(self.codes(gadget), {"charger-for-another-pack": "stop"})
                self.assertEqual(self.verdict(gadget), ("fail", "wrong charger"))
                result = TrialBench(gadget, built_in()).charge
                assert result is not None
                self.assertEqual((result.seconds, result.never), (None, "voltage"))

    def test_a_charger_for_more_cells_overcharges(self) -> None:
        for series, cells in ((1, 2), (2, 3), (1, 3)):
            with self.subTest(series=series, cells=cells):
                gadget = self.gadget(series, cells)
                self.assertEqual(self.codes(gadget), {"float-voltage": "stop"})
                self.assertEqual(self.verdict(gadget), ("fail", "overcharges"))

    def test_the_float_voltage_on_both_sides_of_its_tolerance(self) -> None:
        for series in (1, 2, 3):
            with self.subTest(series):
                self.assertEqual(self.codes(self.gadget(series, series, 4.2 * 1.0045)), {})
                self.assertEqual(self.codes(self.gadget(series, series, 4.2 * 1.0055)), {"float-voltage": "stop"})
                self.assertEqual(self.codes(self.gadget(series, series, 4.2 * 0.91)), {})
                self.assertEqual(self.codes(self.gadget(series, series, 4.2 * 0.89)), {"float-too-low": "fix"})

    def test_iron_phosphate_has_its_own_float_voltage(self) -> None:
        self.assertEqual(self.codes(self.gadget(2, 2, 4.2, "lithium-iron-phosphate")), {"float-voltage": "stop"})
        self.assertEqual(self.codes(self.gadget(2, 2, 3.6, "lithium-iron-phosphate")), {})

    def test_each_remedy_leads_to_a_charger_that_fits(self) -> None:
        for series, cells in ((2, 1), (3, 1), (1, 2)):
            with self.subTest(series=series, cells=cells):
                gadget = self.gadget(series, cells)
                (code,) = self.codes(gadget)
                remedy = seen(gadget, code)[0].remedy
                assert remedy
                after = apply(gadget, remedy)
                self.assertEqual(self.codes(after), {})
                self.assertEqual(after.charger.cells_in_series, series)  # type: ignore[union-attr]

    def test_the_choice_of_a_cell_minds_the_charger(self) -> None:
        for series, cells in ((1, 1), (2, 2), (2, 1)):
            rows = answer_cells(TrialBench(self.gadget(series, cells), built_in()))
            for row in rows:
                charged = [r for r in row.reasons if r.startswith("the charger fills")]
                if row.chemistry == "lithium-ion" and "it charges itself" not in " ".join(row.reasons):
                    self.assertEqual(bool(charged), row.series != cells, (row.name, row.series, row.reasons))

    def test_documents_of_the_first_format_gave_the_voltage_of_the_whole(self) -> None:
        for volts, cells, each in ((4.2, 1, 4.2), (8.4, 2, 4.2), (12.6, 3, 4.2), (7.2, 2, 3.6), (3.65, 1, 3.65)):
            old = document(format="frugal-ember/1", charger={"name": "C", "programming_ohm": 4000, "float_v": volts})
            charger = build_design(old).charger
            assert charger is not None
            self.assertEqual(charger.cells_in_series, cells)
            self.assertAlmostEqual(charger.float_v_per_cell, each)
            self.assertAlmostEqual(charger.float_v, volts)


class AtThePort(unittest.TestCase):
    """A gadget whose rail hangs on the port while it charges: both share what the port gives."""

    def gadget(
        self, active_a: float, power_path: bool = False, mode: str | None = "awake", limit: float = 0.5
    ) -> Design:
        parts = [part("chip", state("sleep", 1e-4), state("active", active_a))]
        modes: list[dict[str, Any]] = [
            {"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep")]},
            {"id": "awake", "name": "Awake", "uses": [use("chip", "active")], "plugged": ["usb"]},
        ]
        both = {"type": "power-or", "id": "or", "name": "Either", "input": "battery", "other": "usb", "limit_a": 2}
        rails = [{"id": "main", "name": "Main", "feed": "reg"}]
        supply = {"sources": [USB | {"limit_a": limit}], "stages": [both, LINEAR | {"input": "or"}], "rails": rails}
        charger = {"name": "Charger", "program_constant_v": 1000, "program_ohm": 2500, "port_limit_a": 1, "mode": mode,
                   "power_path": power_path, "rth_ja_c_per_w": 5}  # fmt: skip
        return design(parts=parts, modes=modes, supply=supply, charger=charger)

    def test_the_charge_current_is_what_is_left(self) -> None:
        result = TrialBench(self.gadget(0.3), built_in()).charge
        assert result is not None
        self.assertAlmostEqual(result.current_a, 0.5 - 0.3, places=3)
        self.assertEqual(result.limit, "port")
        alone = TrialBench(self.gadget(0.3, mode=None), built_in()).charge
        assert alone is not None
        self.assertAlmostEqual(alone.current_a, 0.4)

    def test_the_worst_on_the_cable_is_said(self) -> None:
        self.assertFalse(seen(self.gadget(0.09), "port-overload"))
        found = seen(self.gadget(0.3), "port-overload")[0]
        self.assertEqual(found.severity, "fix")
        self.assertIn("700 mA on a cable that gives 500 mA", found.sentence)
        assert found.remedy
        after = apply(self.gadget(0.3), found.remedy)
        self.assertFalse(seen(after, "port-overload"))
        self.assertEqual(seen(self.gadget(0.3, power_path=True), "port-overload")[0].severity, "note")

    def test_a_port_that_is_used_up_never_fills(self) -> None:
        self.assertTrue(seen(self.gadget(0.48), "never-full"))
        self.assertFalse(seen(self.gadget(0.4), "never-full"))


class Times(unittest.TestCase):
    def gadget(self, limit_h: float | None, ohm: float = 4000) -> Design:
        brief = {"goal_h": 100, "coldest_c": 25, "usual_c": 25, "hottest_c": 25, "charge_max_h": limit_h}
        return design(
            brief=brief, charger={"name": "C", "program_constant_v": 1000, "program_ohm": ohm, "rth_ja_c_per_w": 5}
        )

    def test_too_long_on_both_sides_of_the_brief(self) -> None:
        hours = (TrialBench(self.gadget(None), built_in()).charge.seconds or 0) / 3600  # type: ignore[union-attr]
        self.assertFalse(seen(self.gadget(None), "charge-time"))
        self.assertFalse(seen(self.gadget(hours * 1.001), "charge-time"))
        self.assertTrue(seen(self.gadget(hours * 0.999), "charge-time"))

    def test_the_way_out_is_in_time_and_safe(self) -> None:
        slow = self.gadget(3, 8000)
        remedy = seen(slow, "charge-time")[0].remedy
        assert remedy
        after = apply(slow, remedy)
        self.assertFalse(seen(after, "charge-time"))
        self.assertFalse(seen(after, "charge-current"))

    def test_a_dangerous_current_is_not_cured_by_one_that_takes_too_long(self) -> None:
        """Half its capacity per hour takes two hours and more; the brief wants 1.6: the most that the cell allows does."""
        brief = {"goal_h": 100, "coldest_c": 25, "usual_c": 25, "hottest_c": 25, "charge_max_h": 1.6}
        charger = {"name": "C", "program_constant_v": 1000, "program_ohm": 500, "port_limit_a": 3, "rth_ja_c_per_w": 2}
        hasty = design(brief=brief, charger=charger, battery={"cell": cell(charge_max_a=1.0), "wiring_ohm": 0})
        remedy = seen(hasty, "charge-current")[0].remedy
        assert remedy
        after = apply(hasty, remedy)
        self.assertFalse(seen(after, "charge-time"))
        self.assertAlmostEqual(after.charger.set_a, 1.0)  # type: ignore[union-attr]

    def test_temperature_counts_where_it_is_charged(self) -> None:
        def gadget(coldest: float, hottest: float, charged: str) -> Design:
            brief = {"goal_h": 100, "coldest_c": coldest, "usual_c": 20, "hottest_c": hottest, "charged": charged}
            return design(brief=brief, charger={"name": "C", "program_constant_v": 1000, "program_ohm": 4000})

        self.assertFalse(seen(gadget(-20, 60, "indoors"), "charge-temperature"))
        self.assertFalse(seen(gadget(0, 45, "anywhere"), "charge-temperature"))
        for coldest, hottest in ((-0.1, 45), (0, 45.1)):
            found = seen(gadget(coldest, hottest, "anywhere"), "charge-temperature")[0]
            self.assertEqual(found.severity, "fix")
            assert found.remedy
            self.assertFalse(seen(apply(gadget(coldest, hottest, "anywhere"), found.remedy), "charge-temperature"))


class Sensor(unittest.TestCase):
    def test_with_one_it_is_to_be_watched_on_one_two_and_three_cells(self) -> None:
        for n in (1, 2, 3):
            for sensor, severity in ((False, "fix"), (True, "watch")):
                brief = {"goal_h": 100, "coldest_c": -5, "usual_c": 20, "hottest_c": 30, "charged": "anywhere"}
                charger = {
                    "name": "C",
                    "program_ohm": 4000,
                    "cells_in_series": n,
                    "port_v": 15,
                    "temperature_sensor": sensor,
                }
                made = design(brief=brief, charger=charger, battery={"cell": cell(), "series": n})
                found = seen(made, "charge-temperature")[0]
                self.assertEqual(found.severity, severity)
                self.assertEqual("Its sensor stops" in found.sentence, sensor)

    def test_where_a_plugged_in_pack_is_kept(self) -> None:
        """A cell with OCV = 3 + 1.2 z begins anew at 4.08 V: at 90 %, for two in series at twice the voltage."""
        z = np.linspace(0, 1, 101)
        curve = {"soc": z.tolist(), "open_circuit_v": (3 + 1.2 * z).tolist(), "resistance_ohm": [0.1] * 101}
        for n in (1, 2, 3):
            charger = {
                "name": "C",
                "program_ohm": 4000,
                "cells_in_series": n,
                "port_v": 15,
                "recharge_v_per_cell": 4.08,
            }
            report = evaluate(design(charger=charger, battery={"cell": cell(curve=curve), "series": n})).charge
            assert report is not None and report.kept_above is not None
            self.assertAlmostEqual(report.kept_above.value or 0, 0.9, places=3)
            bare = evaluate(
                design(charger=charger | {"recharge_v_per_cell": None}, battery={"cell": cell(), "series": n})
            ).charge
            assert bare is not None
            self.assertIsNone(bare.kept_above)


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


class FloatVoltage(unittest.TestCase):
    def test_over_all_cells_it_is_that_of_each_times_their_number(self) -> None:
        for count in (1, 2, 3):
            charger = {"name": "C", "program_constant_v": 1000, "program_ohm": 2000, "rth_ja_c_per_w": 5, "cells_in_series": count,
                       "float_v_per_cell": 4.1, "port_v": 15}  # fmt: skip
            gadget = build_design(
                document(format="frugal-ember/3", charger=charger, battery={"cell": cell(), "series": count})
            )
            report = evaluate(gadget).charge
            assert report
            self.assertAlmostEqual(report.float_voltage.value or 0, 4.1 * count)
