"""Calibrated cells against discharges of physics-based models (kept as small fixtures), and bad discharges."""

from __future__ import annotations

import json
import unittest
from pathlib import Path
from typing import Any

import numpy as np
from validation.compare import all_rows, calibrated, cell_of, charge_rows, discharge, gadget, predictions, state

from ember_core import evaluate
from ember_core.battery.calibration import CalibrationError, Discharge, calibrate
from ember_core.battery.pack import pack_at
from ember_core.design import Charger
from ember_core.runtime.run import run

SETS: dict[str, Any] = json.loads((Path(__file__).parent / "data" / "discharges.json").read_text())["sets"]


class AgainstPhysics(unittest.TestCase):
    def test_every_row_of_the_validation_holds(self) -> None:
        rows = all_rows(SETS)
        self.assertEqual(len(rows), 45)
        for row in rows:
            with self.subTest(f"{row.set}: {row.what}, {row.error * 100:+.2f} %"):
                self.assertTrue(row.holds)

    def test_with_a_third_discharge_every_row_holds_too(self) -> None:
        """What it tells of the charge transfer takes nothing from steady currents, constant power and pulses."""
        for name, data in SETS.items():
            for row in predictions(name, data, "1.0"):
                with self.subTest(f"{row.set}: {row.what}, {row.error * 100:+.2f} %"):
                    self.assertTrue(row.holds)

    def test_every_row_of_the_charges_holds(self) -> None:
        rows = [row for name, data in SETS.items() for row in charge_rows(name, data)]
        self.assertEqual(len(rows), 36)
        for row in rows:
            with self.subTest(f"{row.set}: {row.what}, {row.error * 100:+.2f} %"):
                self.assertTrue(row.holds)

    def test_without_the_kinetics_iron_phosphate_would_be_flattered(self) -> None:
        data = SETS["Prada2013"]
        cell = cell_of(data, "lithium-ion", calibrated(data, "lithium-ion"))
        cell["curve"]["unavailable_h"] = 0
        load = [state("on", "current", data["capacity_ah"])]
        flattered = run(gadget(cell, load, {"state": "on"})).seconds
        self.assertGreater(flattered / data["current"]["1.0"]["end_s"], 1.04)

    def test_the_curve_gives_both_discharges_back(self) -> None:
        for name, data in SETS.items():
            with self.subTest(name):
                fitted = calibrated(data, "lithium-ion")
                self.assertLess(fitted.runtime_error, 0.002)
                self.assertLess(fitted.mean_v, 0.002)

    def test_three_discharges_of_a_cell_made_by_hand_give_its_charge_transfer_back(self) -> None:
        """4.1 V down to 3 V in a straight line, 0.03 ohm, and a transfer of 0.1 ohm at small currents, Butler and Volmer at 25 degC."""

        def made(transfer: float) -> list[Discharge]:
            found = []
            for amps in (0.1, 1.0, 2.0):
                taken = np.concatenate([np.linspace(0, 0.005, 20), np.linspace(0.01, 2.0, 400)])
                drop = amps * 0.03 + 2 * 0.025693 * np.arcsinh(amps * transfer / (2 * 0.025693))
                found.append(Discharge(taken / amps * 3600, 4.1 - 0.55 * taken - drop, amps))
            return found

        fitted = calibrate(made(0.1), 3.05, "lithium-ion", 0.05)
        self.assertAlmostEqual(fitted.curve.transfer_ohm, 0.1, delta=0.002)
        self.assertAlmostEqual(fitted.half_ohm, 0.13, delta=0.002)
        self.assertLess(fitted.mean_v, 0.003)
        self.assertEqual(calibrate(made(0.0), 3.05, "lithium-ion", 0.05).curve.transfer_ohm, 0.0)
        self.assertEqual(calibrate(made(0.1)[:2], 3.05, "lithium-ion", 0.05).curve.transfer_ohm, 0.0)

    def test_a_slow_part_follows_the_mean_current(self) -> None:
        data = SETS["Chen2020"]
        cell = cell_of(data, "lithium-ion", calibrated(data, "lithium-ion"))
        load = [state("low", "current", 0.0), state("high", "current", 10.0)]
        use = {"state": "high", "rest": "low", "burst": [{"state": "high", "seconds": 1}], "period_s": 10}
        state_ = run(gadget(cell, load, use))
        plain = pack_at(state_.design.battery, 25.0)
        k = int(np.argmin(np.abs(plain.charge - 0.5)))
        felt = 1.0 + (10.0 - 1.0) * (1 - np.exp(-1 / plain.relaxation.time_s[0]))  # the mean, and a second of the burst
        expected = plain.open_circuit_v[k] - 10.0 * plain.resistance_ohm[k] - felt * plain.polarization_ohm[k]
        self.assertAlmostEqual(float(state_.typical.terminal_v[0, k]), float(expected), places=6)

    def test_full_at_rest_and_the_charge_do_not_forget_the_slow_part(self) -> None:
        data = SETS["Chen2020"]
        cell = cell_of(data, "lithium-ion", calibrated(data, "lithium-ion"))
        load = [state("on", "current", 5.0)]
        charger = {"name": "Charger", "program_constant_v": 2500, "program_ohm": 1000, "port_limit_a": 5}
        heavy = gadget(cell, load, {"state": "on"}).model_copy(update={"charger": Charger.model_validate(charger)})
        full = evaluate(heavy).battery.full_voltage.value or 0
        self.assertAlmostEqual(full, cell["curve"]["open_circuit_v"][-1], places=6)
        plain = pack_at(heavy.battery, 25.0)
        k = int(np.argmin(np.abs(plain.charge - 0.5)))
        self.assertAlmostEqual(evaluate(heavy).battery.resistance.value or 0, float(plain.steady_ohm[k]), places=6)
        flow = evaluate(heavy).supply.flows[0]
        self.assertAlmostEqual(sum(x.watts for x in flow.links if x.source == "battery"), flow.given_w, places=6)
        self.assertAlmostEqual(flow.given_w, 5.0 * float(plain.open_circuit_v[k]), places=6)

    def test_t17_sees_a_measured_resistance_too(self) -> None:
        data = SETS["Chen2020"]
        cell = cell_of(data, "lithium-ion", calibrated(data, "lithium-ion"))
        cell["curve"]["resistance_ohm"] = [9 * r for r in cell["curve"]["resistance_ohm"]]
        codes = [f.code for f in evaluate(gadget(cell, [state("on", "current", 4.0)], {"state": "on"})).findings]
        self.assertIn("bench-supply", codes)


class OneDischarge(unittest.TestCase):
    def test_gives_the_voltage_with_the_datasheet_resistance(self) -> None:
        one = discharge(SETS["Chen2020"], "0.5")
        fitted = calibrate([one], 2.5, "lithium-ion", 0.02)
        self.assertAlmostEqual(fitted.capacity_ah, one.total_ah, places=6)
        self.assertLess(fitted.runtime_error, 0.02)
        self.assertIsNone(fitted.curve.r0_ohm)


class Refused(unittest.TestCase):
    def line(self, amps: float, hours: float, low: float = 2.9, high: float = 4.1) -> Discharge:
        return Discharge(np.linspace(0, hours * 3600, 50), np.linspace(high, low, 50), amps)

    def refused(self, *discharges: Discharge, cutoff: float = 3.0) -> str:
        with self.assertRaises(CalibrationError) as caught:
            calibrate(list(discharges), cutoff, "lithium-ion", 0.1)
        return str(caught.exception)

    def test_currents_that_hardly_differ(self) -> None:
        self.assertIn("too close", self.refused(self.line(0.1, 10), self.line(0.15, 6)))

    def test_more_charge_at_the_larger_current(self) -> None:
        self.assertIn("not the same cell", self.refused(self.line(0.1, 10), self.line(0.5, 3)))

    def test_discharges_that_do_not_reach_or_start_below_the_cut_off(self) -> None:
        self.assertIn("above the cut-off", self.refused(self.line(0.1, 10, low=3.4)))
        self.assertIn("begins below", self.refused(self.line(0.1, 10, high=2.95)))
