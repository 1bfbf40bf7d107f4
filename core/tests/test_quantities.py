"""Reading and showing quantities."""

from __future__ import annotations

import unittest

from ember_core.quantities import QuantityError, parse_quantity, show


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
        self.assertIn("45 mAh is a charge", str(caught.exception))
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
                self.assertEqual(show(value, unit), text)

    def test_what_is_shown_can_be_read_back(self) -> None:
        for value in (3.3e-6, 0.0478, 1.25, 62e-9):
            self.assertAlmostEqual(parse_quantity(show(value, "A"), "current") / value, 1.0, delta=0.005)


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
