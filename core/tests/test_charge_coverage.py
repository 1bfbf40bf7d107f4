"""The printed range of a charge against published cells: constant current and constant voltage at 10, 25 and 40 degC of seven parameter sets (Doyle-Fuller-Newman
model, PyBaMM; from a discharge at C/10 and an hour of rest, C/2 and 1 C, down to a tenth of that), of cells that only their label is known of.
`python -m core.tests.test_charge_coverage` prints every row."""

from __future__ import annotations

import json
import math
import unittest
from pathlib import Path
from typing import NamedTuple

from ember_core.charging.charge import CURRENT_SPREAD, Meanwhile, charge, resistance_span
from ember_core.design import Battery, Charger, Enclosure
from ember_core.thermal.shell import shell_of

from .gadgets import cell
from .test_cold_coverage import OHM_AH, THICK_FROM_AH

SETS = json.loads((Path(__file__).parent / "data" / "charges.json").read_text())["sets"]
CAPACITY = 0.07  # of the printed one, as it is said of lithium-ion
IRON_V = 3.7  # full; sets below are of iron phosphate


class Row(NamedTuple):
    name: str
    celsius: float
    rate: float
    true_h: float
    low_h: float
    typical_h: float
    high_h: float

    @property
    def held(self) -> bool:
        return self.low_h <= self.true_h <= self.high_h


def rows() -> list[Row]:
    found = []
    for name, data in SETS.items():
        holds = data["charges"]["25 0.5"][2]
        iron = data["top_v"] < IRON_V
        own = cell(
            capacity_ah=data["capacity_ah"], measured_ah=holds, cutoff_v=2.5, resistance_ohm=OHM_AH / data["capacity_ah"], form="cylinder",
            chemistry="lithium-iron-phosphate" if iron else "lithium-ion", built_for="energy" if data["capacity_ah"] > THICK_FROM_AH else "power",
            size_mm=[21, 70, 21], mass_g=68,
        )  # fmt: skip
        battery = Battery.model_validate({"cell": own, "wiring_ohm": 0})
        for key, (_, seconds, _) in data["charges"].items():
            celsius, rate = (float(x) for x in key.split())
            charger = Charger(
                name="Charger", fixed_a=rate * data["capacity_ah"], port_v=20, port_limit_a=20, float_v_per_cell=data["top_v"], termination_share=0.1, foldback_c=None,
            )  # fmt: skip
            shell = shell_of(Enclosure(outer_mm=(300, 300, 300)), celsius, 100.0, 5.0)
            meanwhile = Meanwhile(0.0, 0.0, 0.0, 20.0, 0.0, celsius)
            times = [
                (charge(charger, battery, shell, meanwhile, resistance_factor=f).seconds or math.nan) / 3600
                for f in (1.0, *resistance_span(battery, celsius))
            ]
            less = math.hypot(CAPACITY, CURRENT_SPREAD, 1 - times[1] / times[0])
            more = math.hypot(CAPACITY, CURRENT_SPREAD, times[2] / times[0] - 1)
            found.append(
                Row(name, celsius, rate, seconds / 3600, times[0] * (1 - less), times[0], times[0] * (1 + more))
            )
    return found


class Coverage(unittest.TestCase):
    def test_eight_of_ten_lie_within_the_range_at_each_temperature(self) -> None:
        told = rows()
        self.assertEqual(len(told), 42)
        for celsius in (10, 25, 40):
            held = [row.held for row in told if row.celsius == celsius]
            with self.subTest(celsius):
                self.assertGreaterEqual(sum(held), 0.8 * len(held))

    def test_the_temperature_does_neither_more_nor_less_to_it_than_to_those(self) -> None:
        """In the middle of the sets, against their own time at 25 degC."""
        told = {(r.name, r.celsius, r.rate): r for r in rows()}
        for celsius in (10.0, 40.0):
            off = [
                told[n, celsius, rate].typical_h / told[n, 25.0, rate].typical_h / (told[n, celsius, rate].true_h / told[n, 25.0, rate].true_h) - 1
                for n in SETS for rate in (0.5, 1.0)
            ]  # fmt: skip
            with self.subTest(celsius):
                self.assertLess(abs(sorted(off)[len(off) // 2]), 0.06)

    def test_the_span_is_that_of_makes_at_room_temperature_and_wider_away_from_it(self) -> None:
        battery = Battery.model_validate({"cell": cell()})
        low, high = resistance_span(battery, 25.0)
        self.assertAlmostEqual(high, 1.4)
        self.assertAlmostEqual(low * high, 1)
        self.assertGreater(resistance_span(battery, 10.0)[1], 1.45)
        self.assertGreater(resistance_span(battery, 40.0)[1], 1.45)
        measured = Battery.model_validate({"cell": cell(measured_ohm=0.1)})
        self.assertAlmostEqual(resistance_span(measured, 25.0)[1], 1.1)


if __name__ == "__main__":
    for one in rows():
        print(f"{one.name:12} {one.celsius:4.0f} °C {one.rate:3.1f} C: {one.true_h:6.2f} h, told {one.low_h:6.2f} to {one.high_h:6.2f} ({one.typical_h:6.2f}) {'' if one.held else 'OUT'}")  # fmt: skip
    print(sum(r.held for r in rows()), "of", len(rows()))
