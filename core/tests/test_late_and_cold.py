"""Discharges that did not begin full, meters that differ, and a discharge in the cold."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np
from validation.compare import cell_of, discharge, gadget, state

from ember_core.battery.calibration import CalibrationError, Discharge, calibrate
from ember_core.battery.chemistry import resistance_at
from ember_core.battery.cold import alone, cell_with, cold_voltage
from ember_core.battery.pack import cold_left, cold_resistance, steady_charge_ah
from ember_core.calculators.cell import FittedCell, fit_cell, fit_cold
from ember_core.design import Cell, CellCurve, ColdMeasurement
from ember_core.design.problems import DocumentError
from ember_core.imports.discharge import read_discharge
from ember_core.runtime.run import run

from .test_calibration import SETS
from .test_discharge_csv import csv


def late(one: Discharge, share: float) -> Discharge:
    """The same discharge as if it had been begun when a share of the charge was gone."""
    kept = one.charge_ah >= share * one.total_ah
    return replace(one, time_s=one.time_s[kept] - one.time_s[kept][0], voltage_v=one.voltage_v[kept])


class BegunLate(unittest.TestCase):
    def pair(self, name: str) -> tuple[Discharge, Discharge, CellCurve]:
        data = SETS[name]
        both = discharge(data, "0.05"), discharge(data, "0.5")
        return *both, calibrate(list(both), data["cutoff_v"], "lithium-ion", 0.05).curve

    def off(self, name: str, gentle: Discharge, strong: Discharge, rate: str) -> float:
        data = SETS[name]
        fit = calibrate([gentle, strong], data["cutoff_v"], "lithium-ion", 0.05)
        load = [state("on", "current", float(rate) * data["capacity_ah"])]
        seconds = run(gadget(cell_of(data, "lithium-ion", fit), load, {"state": "on"})).seconds
        return seconds / data["current"][rate]["end_s"] - 1

    def test_a_gentle_one_that_gave_less_is_moved_and_predicts_as_well(self) -> None:
        for name in ("Chen2020", "Marquis2019"):
            gentle, strong, _ = self.pair(name)
            for share in (0.03, 0.05):
                for rate, allowed in (("0.1", 0.01), ("1.0", 0.01), ("2.0", 0.02)):
                    with self.subTest(f"{name} {share} {rate} C"):
                        self.assertLess(abs(self.off(name, late(gentle, share), strong, rate)), allowed)

    def test_voltages_at_rest_tell_a_strong_one_that_began_late(self) -> None:
        for name in SETS:
            gentle, strong, curve = self.pair(name)
            rest = [float(np.interp(1 - x, curve.soc, curve.open_circuit_v)) for x in (0.0, 0.03)]
            moved = [replace(gentle, rest_v=rest[0]), replace(late(strong, 0.03), rest_v=rest[1])]
            fit = calibrate(moved, SETS[name]["cutoff_v"], "lithium-ion", 0.05)
            self.assertEqual(fit.cut[0].missing_ah, 0)
            self.assertAlmostEqual(fit.cut[1].missing_ah / fit.capacity_ah, 0.03, delta=0.007)
            for rate in ("0.1", "1.0", "2.0"):
                with self.subTest(f"{name} {rate} C"):
                    self.assertLess(abs(self.off(name, moved[0], moved[1], rate)), 0.015)
                    self.assertLess(
                        abs(self.off(name, moved[0], moved[1], rate)),
                        abs(self.off(name, gentle, late(strong, 0.03), rate)) + 0.003,
                    )

    def test_rests_within_5_mv_are_the_same_and_just_beyond_are_not(self) -> None:
        gentle, strong, curve = self.pair("Chen2020")
        top = curve.open_circuit_v[-1]
        for off, moved in ((0.0049, False), (0.0051, True)):
            both = [replace(gentle, rest_v=top), replace(strong, rest_v=top - off)]
            fit = calibrate(both, 2.5, "lithium-ion", 0.05)
            self.assertEqual(fit.cut[1].missing_ah > 0, moved)

    def test_too_late_or_of_another_chemistry_is_refused(self) -> None:
        gentle, strong, _ = self.pair("Chen2020")
        for one, chemistry in ((late(gentle, 0.2), "lithium-ion"), (late(gentle, 0.03), "nickel-metal-hydride")):
            with self.subTest(chemistry), self.assertRaises(CalibrationError):
                calibrate([one, strong], 2.5, chemistry, 0.05)  # type: ignore[arg-type]

    def fitted(self, *discharges: Discharge) -> FittedCell:
        own = Cell.model_validate(cell_of(SETS["Chen2020"], "lithium-ion", None))
        return fit_cell(own, list(discharges))

    def test_the_fit_says_how_full_each_began_and_what_full_means(self) -> None:
        gentle, strong, _ = self.pair("Chen2020")
        said = self.fitted(late(gentle, 0.03), strong)
        self.assertIn(
            "is taken to have begun at 97\N{NO-BREAK SPACE}%: either it was not full, or a meter was", said.sentence
        )
        self.assertAlmostEqual(said.begun[0].value or 0, 0.965, delta=0.005)
        self.assertEqual(said.begun[1].value, 1)
        self.assertNotIn("begun at", self.fitted(gentle, strong).sentence)
        top = self.pair("Chen2020")[2].open_circuit_v[-1]
        for volts, word in ((4.232, "begins at"), (4.228, ""), (4.142, ""), (4.138, "Full means")):
            with self.subTest(volts):
                same = [
                    replace(d, voltage_v=d.voltage_v + (volts - top) * (1 - d.charge_ah / d.total_ah))
                    for d in (gentle, strong)
                ]
                begun = self.fitted(*same).sentence
                self.assertEqual([w for w in ("begins at", "Full means") if w in begun], [word] if word else [])

    def test_a_rest_before_the_load_is_read_and_only_that(self) -> None:
        rows = csv().decode().splitlines()
        for amps, read in ((0.0, True), (0.049, True), (0.051, False)):
            with self.subTest(amps):
                before = [f"{t},4.15,{amps}" for t in (-30, -20)]
                one = read_discharge("\n".join([rows[0], *before, *rows[1:]]).encode())
                self.assertEqual(one.rest_v, 4.15 if read else None)
        self.assertIsNone(read_discharge(csv()).rest_v)

    def test_three_tenths_of_the_current_is_a_load_and_less_is_none(self) -> None:
        """The largest share of the current that counts as rest."""
        rows = [line.split(",") for line in csv().decode().splitlines()]
        middle = len(rows) // 2
        for share, paused in ((0.29, True), (0.31, False)):
            with self.subTest(share):
                own = [list(r) for r in rows]
                for row in own[middle : middle + 3]:
                    row[2] = str(float(row[2]) * share)
                one = read_discharge("\n".join(",".join(r) for r in own).encode())
                self.assertEqual(one.time_s.size, len(rows) - 1 - (3 if paused else 0))


class InTheCold(unittest.TestCase):
    def setUp(self) -> None:
        data = SETS["Chen2020"]
        fit = calibrate([discharge(data, "0.05"), discharge(data, "0.5")], data["cutoff_v"], "lithium-ion", 0.05)
        self.cell = Cell.model_validate(cell_of(data, "lithium-ion", fit))
        self.truth = ColdMeasurement(temperature_c=-10, current_a=1.0, resistance_factor=6.0, capacity_left=0.8)

    def measured(self, amps: float) -> Discharge:
        """What a cell with the true factors gives at a steady current at -10 degC."""
        true = cell_with(self.cell, self.truth)
        whole = steady_charge_ah(alone(true, -10), amps)
        time = np.linspace(0, whole / amps * 3600, 300)
        line = Discharge(time, np.zeros(300), amps)
        volts = cold_voltage(true, line)
        volts[-1] = min(volts[-1], 2.5)
        return replace(line, voltage_v=np.minimum.accumulate(volts))

    def test_the_factors_come_back(self) -> None:
        found = fit_cold(self.cell, self.measured(1.0), -10)
        curve = found.cell.curve
        assert curve is not None
        assert curve.cold is not None
        self.assertAlmostEqual(curve.cold.resistance_factor, 6.0, delta=0.06)
        self.assertAlmostEqual(curve.cold.capacity_left, 0.8, delta=0.005)
        self.assertIn("as measured", found.sentence)

    def test_what_it_says_holds_at_another_current_and_a_milder_cold(self) -> None:
        own = fit_cold(self.cell, self.measured(1.0), -10).cell
        true = cell_with(self.cell, self.truth)
        for amps, degrees in ((0.25, -10), (2.5, -10), (1.0, 0), (1.0, -20), (1.0, 25)):
            with self.subTest(f"{amps} A, {degrees} degC"):
                given = steady_charge_ah(alone(own, degrees), amps)
                self.assertAlmostEqual(given / steady_charge_ah(alone(true, degrees), amps), 1, delta=0.005)

    def by_hand(self, amps: float, taken_ah: np.ndarray, factor: float, left: float) -> np.ndarray:
        """A cell of OCV 3 + 1.2 z and 0.1 ohm at -10 degC [V]: of its resistance there, a share drops as charge transfer does, 2 v asinh(I R / 2 v)."""
        share = resistance_at("lithium-ion", -10)[1]
        z = 1 - taken_ah / (2.0 * left)
        transfer, v = share * factor * 0.1 * amps, 8.314462618 * 263.15 / 96485.33212
        return np.asarray(3 + 1.2 * z - (1 - share) * factor * 0.1 * amps - 2 * v * np.arcsinh(transfer / (2 * v)))

    def linear(self) -> Cell:
        z = np.linspace(0, 1, 201)
        curve = {"soc": z.tolist(), "open_circuit_v": (3 + 1.2 * z).tolist(), "resistance_ohm": [0.1] * 201}
        return Cell.model_validate(
            cell_of(SETS["Chen2020"], "lithium-ion", None)
            | {"capacity_ah": 2.0, "cutoff_v": 3.2, "curve": curve, "measured_ah": 2.0}
        )

    def test_the_voltage_there_by_hand(self) -> None:
        taken = np.linspace(0, 1.0, 11)
        for amps in (0.2, 1.0):
            line = Discharge(taken / amps * 3600, np.zeros(11), amps)
            own = cell_with(
                self.linear(),
                ColdMeasurement(temperature_c=-10, current_a=amps, resistance_factor=4, capacity_left=0.9),
            )
            np.testing.assert_allclose(cold_voltage(own, line), self.by_hand(amps, taken, 4, 0.9), atol=2e-4)

    def test_a_discharge_made_by_hand_gives_its_factors_back(self) -> None:
        for factor, left in ((4.0, 0.9), (2.5, 0.7)):
            taken = np.linspace(0, 2.0 * left, 4001)
            volts = self.by_hand(0.5, taken, factor, left)
            stop = int(np.argmax(volts <= 3.2)) + 1
            line = Discharge(taken[:stop] / 0.5 * 3600, volts[:stop], 0.5)
            found = fit_cold(self.linear(), line, -10).cell.curve
            assert found is not None and found.cold is not None
            self.assertAlmostEqual(found.cold.resistance_factor / factor, 1, delta=0.01)
            self.assertAlmostEqual(found.cold.capacity_left / left, 1, delta=0.005)

    def test_between_the_temperatures_by_hand(self) -> None:
        """ln(factor) in proportion to the chemistry's, what is lost in proportion to the chemistry's."""
        own = cell_with(self.cell, self.truth)
        plain = cell_with(self.cell, None)
        self.assertAlmostEqual(cold_resistance(own, -10), 6.0)
        self.assertAlmostEqual(cold_left(own, -10), 0.8)
        part = np.log(cold_resistance(plain, 0)) / np.log(cold_resistance(plain, -10))
        self.assertAlmostEqual(cold_resistance(own, 0), 6.0**part)
        lost = (1 - cold_left(plain, 0)) / (1 - cold_left(plain, -10))
        self.assertAlmostEqual(cold_left(own, 0), 1 - 0.2 * lost)
        self.assertEqual((cold_resistance(own, 25), cold_left(own, 25)), (1.0, 1.0))

    def test_the_range_is_narrower_where_it_was_measured(self) -> None:
        def width(cold: ColdMeasurement | None, degrees: float) -> tuple[bool, bool]:
            own = cell_with(self.cell, cold).model_dump()
            made = gadget(own, [state("on", "current", 4.0)], {"state": "on"})
            at = run(made, temperature_c=degrees)
            return at.cold_unknown, at.hard_in_the_cold

        self.assertEqual(width(None, -10), (True, True))
        self.assertEqual(width(self.truth, -14.9), (False, False))
        self.assertEqual(width(self.truth, -15.1), (True, True))

    def test_what_cannot_be_is_refused_in_words(self) -> None:
        for cell, one, degrees, words in (
            (self.cell.model_copy(update={"curve": None}), self.measured(1.0), -10, "room temperature first"),
            (self.cell, self.measured(1.0), 15.1, "is 15.1 °C"), (self.cell, self.measured(1.0), -60.1, "is -60.1 °C"),
            (self.cell, self.measured(1.0), float("nan"), "is nan °C"),
            (self.cell, discharge(SETS["Chen2020"], "0.05"), -10, "not that cold"),
        ):  # fmt: skip
            with self.subTest(words), self.assertRaises(DocumentError) as caught:
                fit_cold(cell, one, degrees)
            self.assertIn(words, caught.exception.problems[0].message)
