"""Every unit by hand, every range on both sides, every change of unit in what is shown."""

from __future__ import annotations

import unittest

from ember_core.quantities import QuantityError, about, parse_quantity, show, units_table

BY_HAND: dict[str, dict[str, float]] = {
    "time": {"1 ms": 0.001, "1 us": 1e-6, "1 s": 1, "2 min": 120, "1 h": 3600, "1 hr": 3600, "1 d": 86400, "1 week": 7 * 86400,
             "1 month": 365.25 / 12 * 86400, "1 year": 365.25 * 86400, "2 secs": 2, "3 minutes": 180, "2 hours": 7200, "2 days": 172800},
    "length": {"1 mm": 1, "1 cm": 10, "1 m": 1000, "5 µm": 0.005, "5 um": 0.005},
    "mass": {"1 g": 1, "1 kg": 1000, "5 mg": 0.005},
    "temperature": {"50 °F": 10, "-10 °C": -10, "32 F": 0, "0 C": 0},
    "share": {"30 %": 0.3, "0.3": 0.3},
    "intensity": {"20 mcd": 20, "1 cd": 1000},
    "rate": {"15/day": 15, "2 per hour": 48, "7 per week": 1, "3": 3, "3 x": 3},
    "thermal": {"60 °C/W": 60, "60 K/W": 60, "60": 60},
    "cost": {"4.5": 4.5, "4.5 EUR": 4.5, "4.5 €": 4.5},
    "clock": {"19:30": 19.5, "6 h": 6},
    "resistance": {"4k": 4000, "2.2 kΩ": 2200, "1 MΩ": 1e6, "47 R": 47, "5 ohm": 5},
    "charge": {"600 mAh": 0.6, "1 Ah": 1}, "capacitance": {"100 µF": 1e-4, "8 pF": 8e-12}, "power": {"150 mW": 0.15},
    "current": {"12 µA": 1.2e-5, "5 nA": 5e-9, "0.12 A": 0.12}, "voltage": {"3.3 V": 3.3, "800 mV": 0.8},
    "angle": {"45 °": 45, "-30": -30, "30 deg": 30}, "area": {"60 mm²": 60, "2 cm²": 200},
    "count": {"3": 3, "3 x": 3}, "number": {"1.5": 1.5},
}  # fmt: skip
LARGEST = {
    "current": ("100 A", "101 A"), "voltage": ("100 V", "101 V"), "power": ("2 kW", "2.01 kW"), "resistance": ("1000 MΩ", "1001 MΩ"),
    "charge": ("1000 Ah", "1001 Ah"), "time": ("30 years", "31 years"), "length": ("2 m", "2.01 m"), "mass": ("50 kg", "51 kg"),
    "temperature": ("200 °C", "201 °C"), "share": ("100 %", "101 %"), "cost": ("1000000", "1000001"), "capacitance": ("100 F", "101 F"),
    "intensity": ("1000 cd", "1001 cd"), "clock": ("23:59", "24:00"), "rate": ("1000000", "1000001"), "count": ("1000000", "1000001"),
    "number": ("1000000", "1000001"), "thermal": ("10000 K/W", "10001 K/W"), "angle": ("360 °", "361 °"), "area": ("10000 cm²", "10001 cm²"),
}  # fmt: skip
SHOWN = {
    (2 * 31557600 - 1, "s"): "24 months", (2 * 31557600, "s"): "2 years", (3 * 2629800 - 1, "s"): "91.3 days", (3 * 2629800, "s"): "3 months",
    (180 * 86400, "s"): "180 days", (366 * 86400, "s"): "366 days", (367 * 86400, "s"): "12.1 months", (180.1 * 86400, "s"): "5.92 months",
    (2 * 86400 - 1, "s"): "48 h", (2 * 86400, "s"): "2 days", (3599, "s"): "60 min", (3600, "s"): "1 h", (59, "s"): "59 s", (60, "s"): "1 min",
    (0.5, "s"): "500 ms", (1, "h"): "1 h", (0.04, "%"): "< 0.1 %", (0.06, "%"): "0.1 %", (99.4, "%"): "99 %", (99.6, "%"): "> 99 %", (100, "%"): "100 %",
    (9.94, "%"): "9.9 %", (6.96, "%"): "7 %", (7.04, "%"): "7 %", (7.06, "%"): "7.1 %", (9.96, "%"): "10 %", (0.125, "share"): "12 %", (0.0123, "A"): "12.3 mA", (999.4e-6, "A"): "999 µA", (999.6e-6, "A"): "1 mA",
    (1234, "mcd"): "1234 mcd", (12.34, "mm"): "12.3 mm", (4.5, "EUR"): "4.50 EUR", (2200, "Ω"): "2.2 kΩ", (0, "A"): "0 A",
}  # fmt: skip


class Units(unittest.TestCase):
    def test_nearly_all(self) -> None:
        told = [about(share).replace("\u00a0", " ") for share in (0.5, 0.989, 0.991, 1.0)]
        self.assertEqual(told, ["about 50 %", "about 99 %", "nearly all", "nearly all"])

    def test_by_hand(self) -> None:
        self.assertEqual(set(BY_HAND), set(units_table()))
        for dimension, texts in BY_HAND.items():
            for text, value in texts.items():
                with self.subTest(text):
                    self.assertAlmostEqual(parse_quantity(text, dimension), value, delta=abs(value) * 1e-9)  # type: ignore[arg-type]

    def test_both_sides_of_every_range(self) -> None:
        self.assertEqual(set(LARGEST), set(units_table()))
        for dimension, (inside, outside) in LARGEST.items():
            with self.subTest(dimension):
                parse_quantity(inside, dimension)  # type: ignore[arg-type]
                with self.assertRaises(QuantityError):
                    parse_quantity(outside, dimension)  # type: ignore[arg-type]
        parse_quantity("-60 °C", "temperature")
        for text, dimension in (("-61 °C", "temperature"), ("-1 mA", "current"), ("-1 s", "time")):
            with self.assertRaises(QuantityError):
                parse_quantity(text, dimension)  # type: ignore[arg-type]

    def test_shown_on_both_sides_of_every_change(self) -> None:
        for (value, unit), text in SHOWN.items():
            self.assertEqual(show(value, unit).replace("\u00a0", " "), text, (value, unit))
