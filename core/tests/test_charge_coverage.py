"""The printed range of a charge against published cells: constant current and constant voltage at 10, 25 and 40 degC of seven parameter sets (Doyle-Fuller-Newman
model, PyBaMM; from a discharge at C/10 and an hour of rest, C/2 and 1 C, down to a tenth of that), of cells that only their label is known of.
`python -m core.tests.test_charge_coverage` prints every row."""

from __future__ import annotations

import json
import unittest
from pathlib import Path

from ember_core import evaluate
from ember_core.charging.charge import resistance_span
from ember_core.design import Battery

from .gadgets import asleep, cell, design, part, state, use
from .test_cold_coverage import OHM_AH, THICK_FROM_AH, Row

SETS = json.loads((Path(__file__).parent / "data" / "charges.json").read_text())["sets"]
IRON_V = 3.7  # full; sets below are of iron phosphate


def rows() -> list[Row]:
    """As the application prints it, of a gadget that draws nothing to speak of in a large case."""
    found = []
    for name, data in SETS.items():
        ah, iron = data["capacity_ah"], data["top_v"] < IRON_V
        own = cell(
            capacity_ah=data["charges"]["25 0.5"][2], measured_ah=None, cutoff_v=2.5, resistance_ohm=OHM_AH / ah, form="cylinder", discharge_max_a=5 * ah,
            charge_max_a=2 * ah, chemistry="lithium-iron-phosphate" if iron else "lithium-ion", built_for="energy" if ah > THICK_FROM_AH else "power",
            size_mm=[21, 70, 21], mass_g=68,
        )  # fmt: skip
        for key, (_, seconds, _) in data["charges"].items():
            celsius, rate = (float(x) for x in key.split())
            charger = {
                "name": "Charger", "topology": "switching", "efficiency": 1.0, "fixed_a": rate * ah, "port_v": 20, "input_max_v": 24, "port_limit_a": 20,
                "float_v_per_cell": data["top_v"], "termination_share": 0.1, "foldback_c": None, "outside": True,
                "port": {"kind": "adapter", "gives_a": 20},
            }  # fmt: skip
            gadget = design(
                parts=[part("p", state("on", 1e-6), rail="raw")],
                modes=asleep(use("p", "on")),
                day={"rest": "asleep"},
                supply={"rails": [{"id": "raw", "name": "Raw", "feed": "battery"}]},
                battery={"cell": own, "wiring_ohm": 0},
                charger=charger,
                brief={"usual_c": celsius, "coldest_c": celsius, "hottest_c": celsius},
                enclosure={"outer_mm": [300, 300, 300]},
            )
            told = evaluate(gadget).charge
            assert told is not None
            time = told.time
            found.append(
                Row(name, False, celsius, rate, seconds / 3600, time.low or 0.0, time.value or 0.0, time.high or 1e9)
            )
    return found


class Coverage(unittest.TestCase):
    def test_eight_of_ten_lie_within_the_range(self) -> None:
        told = rows()
        self.assertEqual(len(told), 42)
        self.assertGreaterEqual(sum(row.held for row in told), 0.8 * len(told))
        for celsius in (10, 25, 40):
            with self.subTest(celsius):
                self.assertGreaterEqual(sum(row.held for row in told if row.celsius == celsius), 11)

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
