"""Measured discharges as CSV: what is read, and what is refused in which words."""

from __future__ import annotations

import json
import random
import statistics
import unittest
import warnings
from pathlib import Path

from ember_core.battery.calibration import Discharge, calibrate
from ember_core.calculators.cell import fit_cell
from ember_core.design import Cell
from ember_core.design.problems import DocumentError
from ember_core.imports.discharge import read_discharge
from ember_core.runtime.run import run

from .gadgets import asleep, cell, design, part, plain, state, use

DATA = json.loads((Path(__file__).parent / "data" / "discharges.json").read_text())["sets"]["Chen2020"]


def csv(rate: str = "0.5", heading: str = "time,voltage,current", delimiter: str = ",", **scale: float) -> bytes:
    one, amps = DATA["current"][rate], float(rate) * DATA["capacity_ah"]
    rows = [
        delimiter.join(f"{x:.8g}" for x in (t * scale.get("t", 1), v * scale.get("v", 1), amps * scale.get("i", 1)))
        for t, v in zip(one["time_s"], one["voltage_v"], strict=True)
    ]
    return "\n".join([heading.replace(",", delimiter), *rows]).encode()


class Reading(unittest.TestCase):
    def test_units_and_separators(self) -> None:
        plain = read_discharge(csv())
        other = read_discharge(
            csv(heading="time [min],voltage [mV],current [mA]", delimiter=";", t=1 / 60, v=1000, i=1000)
        )
        self.assertAlmostEqual(other.total_ah, plain.total_ah, places=5)
        self.assertAlmostEqual(float(other.voltage_v[-1]), float(plain.voltage_v[-1]), places=5)
        comma = read_discharge(csv(delimiter=";").replace(b".", b","))
        self.assertAlmostEqual(comma.total_ah, plain.total_ah, places=6)

    def test_units_that_the_heading_does_not_tell(self) -> None:
        """Thousands are millivolts, more than a dozen are milliamperes, and the time is what gives the printed capacity of 5 Ah."""
        plain = read_discharge(csv(), 5.0)
        for factors in (
            {"v": 1000},
            {"i": 1000},
            {"v": 1000, "i": 1000},
            {"t": 1 / 60},
            {"t": 1 / 3600},
            {"t": 1 / 60, "i": 1000, "v": 1000},
        ):
            with self.subTest(str(factors)):
                read = read_discharge(csv(**factors), 5.0)
                self.assertAlmostEqual(read.total_ah, plain.total_ah, places=5)
                self.assertAlmostEqual(float(read.voltage_v[3]), float(plain.voltage_v[3]), places=5)
        with self.assertRaisesRegex(DocumentError, "has no unit: in s it gave"):
            read_discharge(csv(), 0.65)  # eight times less than in seconds, eight times more than in minutes
        self.assertAlmostEqual(read_discharge(csv(heading="time [s],voltage,current"), 0.65).total_ah, plain.total_ah)

    def test_headings_in_small_letters_and_quoted_decimal_commas(self) -> None:
        plain = read_discharge(csv())
        self.assertAlmostEqual(read_discharge(csv(heading="time_s,voltage_v,current_a")).total_ah, plain.total_ah)
        lines = csv().decode().split("\n")
        quoted = "\n".join(
            [lines[0], *(",".join(f'"{x.replace(".", ",")}"' for x in line.split(",")) for line in lines[1:])]
        )
        self.assertAlmostEqual(read_discharge(quoted.encode()).total_ah, plain.total_ah, places=6)
        more = "\n".join(f"{line},{'note' if k == 0 else 'ok'}" for k, line in enumerate(lines))
        self.assertAlmostEqual(read_discharge(more.encode()).total_ah, plain.total_ah, places=6)

    def test_the_right_column_is_blamed(self) -> None:
        lines = csv(heading="time [s],voltage [V],current [A]").decode().split("\n")
        lines[5] = "120,3.9 V,2.5"
        with self.assertRaisesRegex(DocumentError, r"row 6: '3.9 V' under 'voltage \[V\]' is not a number"):
            read_discharge("\n".join(lines).encode())

    def test_noise_at_the_end_is_no_charge(self) -> None:
        rows = [f"{k},{4.1 - 0.1 * (k < 2) - k / 3000 + (0.9 if k == 2999 else 0):.5f},0.5" for k in range(3000)]
        self.assertAlmostEqual(
            read_discharge("\n".join(["time,voltage,current", *rows]).encode()).total_ah, 0.5 * 2999 / 3600, places=6
        )

    def test_a_discharge_counted_negative(self) -> None:
        self.assertAlmostEqual(read_discharge(csv(i=-1)).current_a, 2.5, places=6)

    def test_a_long_recording_is_thinned_and_keeps_its_charge(self) -> None:
        rows = [f"{k},{4.1 - k / 150000:.5f},0.5" for k in range(150_000)]
        read = read_discharge("\n".join(["time,voltage,current", *rows]).encode())
        self.assertLessEqual(read.time_s.size, 2000)
        self.assertAlmostEqual(read.total_ah, 0.5 * 149_999 / 3600, places=6)

    def test_headings_as_people_write_them(self) -> None:
        plain = read_discharge(csv())
        for heading, factors in (
            ("time_s,voltage_V,current_A", {}), ("Zeit,U/V,I (mA)", {"i": 1000}), ("Zeit in min,Spannung_mV,Strom/A", {"t": 1 / 60, "v": 1000}),
            ("elapsed time_s,Cell voltage,Load current [mA]", {"i": 1000}), ("t/h,U,I", {"t": 1 / 3600}),
        ):  # fmt: skip
            with self.subTest(heading):
                read = read_discharge(csv(heading=heading, **factors))
                self.assertAlmostEqual(read.total_ah, plain.total_ah, places=5)
                self.assertAlmostEqual(float(read.voltage_v[3]), float(plain.voltage_v[3]), places=5)

    def test_points_of_one_second_are_put_together(self) -> None:
        rows = [f"{k // 3},{4.1 - k / 15000:.5f},{0.5 + 0.01 * (k % 3 - 1)}" for k in range(15000)]
        read = read_discharge("\n".join(["time,voltage,current", *rows]).encode())
        self.assertAlmostEqual(read.total_ah, 0.5 * 4999 / 3600, places=6)
        self.assertAlmostEqual(float(read.voltage_v[0]), 4.1 - 1 / 15000, places=5)

    def test_rest_before_and_after_the_load_is_left_out(self) -> None:
        before = [f"{k},4.15,0" for k in range(60)]
        rows = [f"{60 + k},{4.1 - k / 3000:.5f},0.5" for k in range(3000)]
        after = [f"{3060 + k},3.3,0.001" for k in range(40)]
        read = read_discharge("\n".join(["time,voltage,current", *before, *rows, *after]).encode())
        self.assertAlmostEqual(read.total_ah, 0.5 * 2999 / 3600, places=6)
        self.assertEqual(float(read.voltage_v[0]), 4.1)

    def test_a_pause_tells_the_resistance_and_takes_no_charge(self) -> None:
        """1 A through 0.1 Ω: the voltage jumps by 0.1 V within a second; between points a minute apart nobody can see that."""

        def paused(step: float) -> bytes:
            rows: list[str] = []
            time, taken = 0.0, 0.0
            while taken < 1.0:
                resting = 0.4 < taken < 0.401 and sum(r.endswith(",0") for r in rows) < 30
                rows.append(f"{time},{4.0 - taken + (0 if resting else -0.1):.5f},{0 if resting else 1}")
                time += step
                taken += 0 if resting else step / 3600
            return "\n".join(["time,voltage,current", *rows]).encode()

        read = read_discharge(paused(1.0))
        self.assertAlmostEqual(read.pause_ohm or 0, 0.1, places=3)
        self.assertAlmostEqual(read.total_ah, 1.0, delta=0.002)
        self.assertIsNone(read_discharge(csv()).pause_ohm)
        self.assertIsNone(read_discharge(paused(13.0)).pause_ohm)
        self.assertAlmostEqual(read_discharge(paused(11.0)).pause_ohm or 0, 0.1, delta=0.004)


class Loads(unittest.TestCase):
    """A straight cell of 1 Ah, 4 V full, 3 V empty, 0.2 Ω, emptied through a resistor or at a constant power."""

    def drawn(self, what: str, size: float) -> bytes:
        rows, charge, time, step = [], 1.0, 0.0, 10.0
        while True:
            ocv = 3.0 + charge
            amps = ocv / (size + 0.2) if what == "resistor" else (ocv - (ocv**2 - 0.8 * size) ** 0.5) / 0.4
            volts = ocv - 0.2 * amps
            rows.append(f"{time},{volts:.6f},{amps:.6f}")
            if volts < 2.9 or charge <= 0:
                return "\n".join(["time,voltage,current", *rows]).encode()
            charge -= amps * step / 3600
            time += step

    def test_resistors_and_powers_give_the_cell_back(self) -> None:
        for what, sizes in (("resistor", (40.0, 8.0)), ("power", (0.3, 1.5))):
            with self.subTest(what):
                pair = [read_discharge(self.drawn(what, size)) for size in sizes]
                self.assertTrue(all(p.amps_a is not None for p in pair))
                fit = calibrate(pair, 3.0, "lithium-ion", 0.1)
                middle = [i for i, z in enumerate(fit.curve.soc) if 0.3 < z < 0.8]
                for i in middle:
                    self.assertAlmostEqual(fit.curve.resistance_ohm[i], 0.2, delta=0.01)
                self.assertLess(fit.runtime_error, 0.01)
                self.assertLess(fit.mean_v, 0.01)

    def test_both_sides_of_what_a_load_may_vary_by(self) -> None:
        def saw(varies: float) -> bytes:
            rows = [f"{k},{4 - k / 40:.3f},{(1 if k % 2 else 1 + varies) * (4 - k / 40):.4f}" for k in range(80)]
            return "\n".join(["time,voltage,current", *rows]).encode()

        self.assertIsNotNone(read_discharge(saw(0.05)).amps_a)
        with self.assertRaisesRegex(DocumentError, "neither a resistor nor a constant power"):
            read_discharge(saw(0.08))


class Refusing(unittest.TestCase):
    def refused(self, raw: bytes) -> str:
        with self.assertRaises(DocumentError) as caught:
            read_discharge(raw)
        return str(caught.exception)

    def edited(self, line: int, text: str) -> bytes:
        lines = csv().decode().split("\n")
        lines[line] = text
        return "\n".join(lines).encode()

    def test_each_fault_has_its_own_words(self) -> None:
        lines = csv().decode().split("\n")
        cases = [
            ("\n".join([lines[0], *reversed(lines[1:])]).encode(), "runs backwards"),
            ("\n".join(lines[:2]).encode(), "has 1 points"),
            ("\n".join(lines[:40] + lines[80:]).encode(), "gap of"),
            (self.edited(30, lines[20]), "is not after the one before"),
            (self.edited(30, "1,not a number,2"), "not a number"),
            (self.edited(30, "1,nan,2"), "not a finite number"),
            (csv(heading="time,voltage,temperature"), "no column 'current'"),
            (csv(heading="time [furlong],voltage,current"), "not a unit of time"),
            (csv(i=0), "is nothing"),
            (b"\xff\xfe\x00", "not UTF-8"),
            (b"", "has 0 points"),
        ]
        for raw, words in cases:
            with self.subTest(words):
                self.assertIn(words, self.refused(raw))

    def test_five_million_rows_are_refused_before_they_are_read(self) -> None:
        self.assertIn("at most 8 MB", self.refused(b"1,2,3\n" * 5_000_000))
        self.assertIn("at most 200000", self.refused(b"time,voltage,current\n" + b"1,2,3\n" * 250_000))

    def test_a_current_that_is_not_steady_and_a_charge(self) -> None:
        rows = [f"{k},{4 - k / 100},{1 if k % 2 else 3}" for k in range(60)]
        self.assertIn("not steady", self.refused("\n".join(["time,voltage,current", *rows]).encode()))
        rising = [f"{k},{3 + k / 100},1" for k in range(60)]
        self.assertIn("Is this a charge?", self.refused("\n".join(["time,voltage,current", *rising]).encode()))


class Odd(unittest.TestCase):
    """Whatever a logger writes is read or refused in words, without so much as a warning."""

    KINDS = ("flat", "pause", "rest", "same", "zero", "negative", "wild", "power")

    def odd(self, choose: random.Random) -> bytes:
        count, kind, time, rows = choose.choice((20, 25, 60, 300)), choose.choice(self.KINDS), 0.0, []
        for k in range(count):
            time += 0 if kind == "same" else choose.choice((0, 1, 1, 10, 60))
            volts = 0.0 if choose.random() < 0.01 else 4.1 - 1.2 * k / count + choose.choice((0, choose.gauss(0, 0.01)))
            amps = {
                "pause": 0.0 if 8 < k % 15 < 12 else 0.5, "rest": float(k == count // 2), "zero": 0.0, "negative": -0.5,
                "wild": choose.choice((0, 1e-9, 5, -3)), "power": 2 / max(volts, 0.1),
            }.get(kind, 0.5)  # fmt: skip
            rows.append(f"{time},{volts},{amps}")
        heading = choose.choice(("time,voltage,current", "t/s,U/V,I (A)", "time_min,voltage_mV,current_mA"))
        return "\n".join([heading, *rows]).encode()

    def test_odd_recordings(self) -> None:
        choose = random.Random(1)
        known = Cell.model_validate(cell(capacity_ah=1.0, cutoff_v=3.0))
        read = refused = 0
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            for _ in range(800):
                try:
                    some = [read_discharge(self.odd(choose)) for _ in range(choose.choice((1, 2, 3)))]
                    fit_cell(known.model_copy(update={"capacity_ah": max(some[0].total_ah, 1e-6)}), some)
                    read += 1
                except DocumentError as error:
                    self.assertTrue(all(p.message for p in error.problems))
                    refused += 1
        self.assertTrue(read > 5 and refused > 100, (read, refused))


class Fitting(unittest.TestCase):
    KNOWN = Cell.model_validate(cell(capacity_ah=5.0, cutoff_v=2.5, resistance_ohm=0.02))

    def test_a_cell_with_its_own_curve_and_the_quality_of_the_fit(self) -> None:
        fitted = fit_cell(self.KNOWN, [read_discharge(csv("0.05")), read_discharge(csv("0.5"))])
        self.assertIsNotNone(fitted.cell.curve)
        self.assertAlmostEqual(fitted.cell.capacity_ah, 5.098, delta=0.01)
        self.assertIn("A good fit", fitted.sentence)
        self.assertLess(fitted.runtime_error.value or 9, 0.2)
        for drawn, amps in zip(fitted.curves, (0.25, 2.5), strict=True):
            self.assertAlmostEqual(drawn.current_a, amps)
            self.assertLessEqual(len(drawn.charge_ah), 90)
            self.assertEqual((drawn.charge_ah[0], drawn.measured_v[-1]), (0.0, 2.5))
            off = [abs(a - b) for a, b in zip(drawn.measured_v, drawn.fitted_v, strict=True)]
            self.assertLessEqual(max(off), (fitted.worst_error.value or 0) + 1e-4)

    def test_it_says_what_it_knows_and_what_to_measure(self) -> None:
        one = fit_cell(self.KNOWN, [read_discharge(csv("0.05"))])
        self.assertIn("a second discharge, at 500 mA or more", plain(one.sentence))
        two = fit_cell(self.KNOWN, [read_discharge(csv("0.05")), read_discharge(csv("0.5"))])
        self.assertIn("It holds up to about 3.75 A", plain(two.sentence))
        self.assertNotIn("the first seconds are missing", two.sentence)
        assert two.cell.curve
        self.assertEqual(two.cell.curve.measured_a, [0.25, 2.5])

    def hard(self, amps: float, gives_ah: float) -> bytes:
        """A discharge at a large current that reaches its cut-off early."""
        seconds = gives_ah / amps * 3600
        rows = [
            f"{k * seconds / 100:.3f},{3.9 - 1.1 * (k / 100) - 0.3 * (k / 100) ** 8:.4f},{amps}" for k in range(101)
        ]
        return "\n".join(["time,voltage,current", *rows]).encode()

    def test_a_third_discharge_tells_how_the_unavailable_charge_grows(self) -> None:
        three = [read_discharge(csv(rate)) for rate in ("0.05", "0.5")] + [read_discharge(self.hard(10.0, 2.8))]
        fitted = fit_cell(self.KNOWN, three)
        curve = fitted.cell.curve
        assert curve
        strong = three[2]
        lost = fitted.cell.capacity_ah - strong.total_ah
        self.assertAlmostEqual((curve.unavailable_h + curve.unavailable_rise * 10) * 10, lost, delta=0.01)
        self.assertEqual(curve.measured_a, [0.25, 2.5, 10])
        self.assertIn("how that grows with the current", fitted.sentence)
        self.assertLess(fitted.runtime_error.value or 99, 3.0)
        # in use: at 10 A it gives what was measured, two cells beside each other at 20 A twice that
        for parallel in (1, 2):
            gadget = design(
                parts=[part("load", state("on", 10.0 * parallel))], modes=asleep(use("load", "on")), day={"rest": "asleep"},
                supply={"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]},
                battery={"cell": fitted.cell.model_dump(mode="json") | {"discharge_max_a": 20}, "parallel": parallel, "wiring_ohm": 0},
            )  # fmt: skip
            given = run(gadget, 25.0).charge_seconds / 3600 * 10.0 * parallel
            self.assertAlmostEqual(given / parallel, strong.total_ah, delta=0.05 * strong.total_ah)

    def test_three_that_contradict_each_other(self) -> None:
        good = [read_discharge(csv(rate)) for rate in ("0.05", "0.5")]
        more = read_discharge(csv("0.5"))
        wrong = Discharge(more.time_s, more.voltage_v, 5.0)  # twice the charge at twice the current
        with self.assertRaisesRegex(DocumentError, "three discharges that contradict each other"):
            fit_cell(self.KNOWN, [*good, wrong])

    def test_one_point_a_minute_takes_the_usual_share_at_once(self) -> None:
        def thinned(rate: str) -> bytes:
            lines = csv(rate).decode().split("\n")
            kept = [line for line in lines[1:] if not 0 < float(line.split(",")[0]) < 60]
            return "\n".join([lines[0], *kept]).encode()

        pair = [read_discharge(thinned("0.05")), read_discharge(thinned("0.5"))]
        fitted = fit_cell(self.KNOWN, pair)
        self.assertIn("the first seconds are missing, so 60 %", plain(fitted.sentence))
        curve = fitted.cell.curve
        assert curve and curve.r0_ohm
        settled = [r for z, r in zip(curve.soc, curve.resistance_ohm, strict=True) if 0.3 <= z <= 0.7]
        self.assertAlmostEqual(curve.r0_ohm, 0.6 * statistics.median(settled), delta=0.001)

    def test_a_capacity_that_contradicts_the_printed_one(self) -> None:
        tiny = self.KNOWN.model_copy(update={"capacity_ah": 0.5})
        with self.assertRaises(DocumentError) as caught:
            fit_cell(tiny, [read_discharge(csv())])
        self.assertIn("500 mAh", plain(str(caught.exception)))
