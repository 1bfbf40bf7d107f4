"""Reading and showing quantities."""

from __future__ import annotations

import json
import unittest
from pathlib import Path

from ember_core.quantities import QuantityError, parse_quantity, parse_span, ratio, show
from ember_core.quantities.showing import plainly

from .gadgets import plain


class Reading(unittest.TestCase):
    def test_takes_what_people_write(self) -> None:
        cases = [
            ("120mA", "current", 0.12), ("0.12 A", "current", 0.12), ("12µA", "current", 12e-6),
            ("12 uA", "current", 12e-6), ("0,5 mA", "current", 0.0005), ("600 mAh", "charge", 0.6),
            ("3.3V", "voltage", 3.3), ("2.2 kΩ", "resistance", 2200), ("2k", "resistance", 2000),
            ("10 min", "time", 600), ("2 weeks", "time", 1209600), ("250 ms", "time", 0.25), ("30 %", "share", 0.3),
            ("1.2 cm", "length", 12), ("-10 °C", "temperature", -10), ("4.50", "cost", 4.5), ("1e-3 A", "current", 1e-3),
        ]  # fmt: skip
        for text, dimension, value in cases:
            with self.subTest(text):
                self.assertAlmostEqual(parse_quantity(text, dimension), value)  # type: ignore[arg-type]

    def test_refuses_what_is_doubtful_or_absurd(self) -> None:
        for text, dimension in [
            ("12", "current"), ("abc", "current"), ("12 mQ", "current"), ("3000 A", "current"), ("-1 mA", "current"),
            ("", "voltage"), ("nan", "current"), ("1e999 A", "current"), ("1 2 mA", "current"), ("5 V" * 30, "voltage"),
        ]:  # fmt: skip
            with self.subTest(text), self.assertRaises(QuantityError):
                parse_quantity(text, dimension)  # type: ignore[arg-type]

    def test_a_charge_where_a_current_is_wanted_is_explained(self) -> None:
        """T1: milliamp-hours are not milliamps."""
        with self.assertRaises(QuantityError) as caught:
            parse_quantity("45 mAh", "current")
        self.assertIn("45 mAh is a charge", plain(str(caught.exception)))
        self.assertIn("'45 mA'", str(caught.exception))
        with self.assertRaises(QuantityError) as caught:
            parse_quantity("650 mA", "charge")
        self.assertIn("is a current, not a charge", str(caught.exception))


class Showing(unittest.TestCase):
    def test_three_digits_and_the_unit_people_use(self) -> None:
        for value, unit, text in [
            (0.0123, "A", "12.3 mA"), (1.2e-6, "A", "1.2 µA"), (0, "A", "0 A"), (0.9, "Ah", "900 mAh"),
            (3.3, "V", "3.3 V"), (2200, "Ω", "2.2 kΩ"), (0.999999, "A", "1 A"), (13, "h", "13 h"),
            (100, "h", "4.17 days"), (24 * 800, "h", "2.19 years"), (0.034, "share", "3.4 %"), (None, "A", "unknown"),
            (29.854, "EUR", "29.85 EUR"), (0.02, "%", "< 0.1 %"), (99.7, "%", "> 99 %"), (100, "%", "100 %"), (5.04, "mm", "5 mm"),
        ]:  # fmt: skip
            with self.subTest(text):
                self.assertEqual(plain(show(value, unit)), text)

    def test_number_and_unit_are_never_broken_apart_and_a_minus_is_one(self) -> None:
        self.assertEqual(show(0.37, "share"), "37\u00a0%")
        self.assertEqual(show(-12.5, "°C"), "\u221212.5\u00a0°C")
        self.assertEqual(parse_quantity("\u221212.5\u00a0°C", "temperature"), -12.5)
        self.assertEqual(parse_quantity("3.3\u2009V", "voltage"), 3.3)

    def test_what_is_shown_can_be_read_back(self) -> None:
        for value in (3.3e-6, 0.0478, 1.25, 62e-9):
            self.assertAlmostEqual(parse_quantity(show(value, "A"), "current") / value, 1.0, delta=0.005)

    def test_by_the_table_that_the_interface_keeps_to_as_well(self) -> None:
        table = json.loads((Path(__file__).parent / "data" / "shown.json").read_text())
        self.assertGreater(len(table), 30)
        self.assertEqual([plainly(value, unit) for value, unit, _ in table], [text for _, _, text in table])

    def test_how_many_times_is_never_a_power_of_ten(self) -> None:
        cases = ((0.0123, "0.012"), (1.11, "1.1"), (99.4, "99"), (99.6, "100"), (1333.3, "1333"))
        self.assertEqual([ratio(value) for value, _ in cases], [said for _, said in cases])


class Clock(unittest.TestCase):
    def test_times_of_day_as_people_write_them(self) -> None:
        for text, hours in (("19:30", 19.5), ("7 pm", 19), ("7.30 pm", 19.5), ("12 am", 0), ("19", 19), ("7h15", 7.25)):
            with self.subTest(text):
                self.assertAlmostEqual(parse_quantity(text, "clock"), hours)

    def test_hours_that_no_day_has(self) -> None:
        for text in ("24:00", "25", "-1"):
            with self.subTest(text), self.assertRaisesRegex(QuantityError, "0:00 to 23:59"):
                parse_quantity(text, "clock")
        with self.assertRaisesRegex(QuantityError, "19:30"):
            parse_quantity("noon", "clock")


class AsPeopleWriteThem(unittest.TestCase):
    def test_groups_fractions_sums_and_other_units(self) -> None:
        cases = [
            ("1 000 mAh", "charge", 1.0), ("1\u202f000 mAh", "charge", 1.0), ("1,234.5 mAh", "charge", 1.2345),
            ("1.234,5 mAh", "charge", 1.2345), ("1,000,000 Ω", "resistance", 1e6), ("0,125 A", "current", 0.125),
            ("3.125 V", "voltage", 3.125), ("4,250 V", "voltage", 4.25), ("1 h 30 min", "time", 5400), ("1h30min", "time", 5400),
            ("2 days 3 h", "time", 183600), ("1:30", "time", 5400), ("1:30 min", "time", 90), ("0:01:30", "time", 90),
            ("1/2 h", "time", 1800), ("½ h", "time", 1800), ("3/4 A", "current", 0.75), ("50 °F", "temperature", 10),
            ("32 F", "temperature", 0), ("−40 °F", "temperature", -40), ("15/day", "rate", 15), ("15", "rate", 15), ("2/h", "rate", 48),
            ("once a week".replace("once", "1"), "rate", 1 / 7), ("3 × a day", "rate", 3), ("1/2 per hour", "rate", 12),
        ]  # fmt: skip
        for text, dimension, value in cases:
            with self.subTest(text):
                self.assertAlmostEqual(parse_quantity(text, dimension) / (value or 1), 1.0 if value else 0.0)  # type: ignore[arg-type]

    def test_what_could_be_two_things_is_asked_about(self) -> None:
        for text, choices in (
            ("1,000 mAh", ["1000 mAh", "1 mAh"]),
            ("1.000 mAh", ["1000 mAh", "1 mAh"]),
            ("2,450 mAh", ["2450 mAh", "2.45 mAh"]),
            ("2.450 mAh", ["2450 mAh", "2.45 mAh"]),
        ):
            with self.subTest(text), self.assertRaises(QuantityError) as caught:
                parse_quantity(text, "charge")
            self.assertEqual(caught.exception.choices, choices)
            for choice in choices:
                parse_quantity(choice, "charge")
        self.assertAlmostEqual(parse_quantity("2.451 mAh", "charge"), 2.451e-3)  # nobody groups and means a point
        self.assertAlmostEqual(parse_quantity("1.500", "current", "mA", from_file=True), 1.5e-3)
        with self.assertRaises(QuantityError):
            parse_quantity("1,500", "current", "mA", from_file=True)

    def test_messages_name_the_field_s_own_quantity(self) -> None:
        for text, dimension, words in (
            ("1.5", "count", "'1.5' is not a whole number"), ("two", "count", "is not a whole number"), ("x", "number", "is not a number"),
            ("5 W", "thermal", "is a power, not a thermal resistance"), ("-1", "count", "outside what a whole number can be"),
        ):  # fmt: skip
            with self.subTest(text), self.assertRaisesRegex(QuantityError, words):
                parse_quantity(text, dimension)  # type: ignore[arg-type]
        self.assertEqual(parse_quantity("3", "count"), 3)
        self.assertEqual(parse_quantity("1 000", "count"), 1000)
        self.assertEqual(parse_quantity("60 K/W", "thermal"), 60)

    def test_groups_that_are_none_are_refused(self) -> None:
        for text in ("1,5.0 mA", "1234 567 mA", "1.2.3 mA", "1,23,456 mA", "1.234.5,6 mA", "1 00 mA", ",5,5 mA"):
            with self.subTest(text), self.assertRaises(QuantityError):
                parse_quantity(text, "current")
        for text, value in ((".5 mA", 5e-4), ("5. mA", 5e-3), ("1 000,5 mA", 1.0005)):
            self.assertAlmostEqual(parse_quantity(text, "current"), value)

    def test_a_bare_number_comes_back_with_units(self) -> None:
        with self.assertRaises(QuantityError) as caught:
            parse_quantity("92", "current")
        self.assertEqual(caught.exception.choices, ["92 µA", "92 mA", "92 A"])

    def test_an_energy_is_a_charge_at_the_cells_voltage(self) -> None:
        self.assertAlmostEqual(parse_quantity("3.7 Wh at 3.7 V", "charge"), 1.0)
        self.assertAlmostEqual(parse_quantity("9 Wh at 1.5 V", "charge"), 6.0)
        with self.assertRaisesRegex(QuantityError, "is an energy, not a charge"):
            parse_quantity("3.7 Wh", "charge")

    def test_ranges(self) -> None:
        cases = [
            ("100-140 mA", (0.12, 0.1, 0.14)), ("100 mA to 0.14 A", (0.12, 0.1, 0.14)), ("100…140mA", (0.12, 0.1, 0.14)),
            ("120 mA ± 20 %", (0.12, 0.096, 0.144)), ("120 ± 20 mA", (0.12, 0.1, 0.14)), ("120 mA +/- 0.02 A", (0.12, 0.1, 0.14)),
            ("1e-3 A", (1e-3, None, None)), ("12 mA", (0.012, None, None)),
        ]  # fmt: skip
        for text, (typical, least, most) in cases:
            with self.subTest(text):
                found = parse_span(text, "current")
                self.assertAlmostEqual(found.typical, typical)
                self.assertEqual((found.min, found.max), (least, most))
        for wrong in ("140-100 mA", "120 mA ± 120 A", "1-2-3 mA", "5 ± x mA"):
            with self.subTest(wrong), self.assertRaises(QuantityError):
                parse_span(wrong, "current")
        with self.assertRaisesRegex(QuantityError, "is a range"):
            parse_quantity("100-140 mA", "current")
