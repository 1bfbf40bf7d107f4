"""The printed range against published cells: discharges of seven parameter sets from 25 down to -20 degC (Doyle-Fuller-Newman model, PyBaMM), of cells that
were calibrated at 25 degC and of cells that only their label is known of. `python -m core.tests.test_cold_coverage` prints every row."""

from __future__ import annotations

import json
import unittest
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np

from ember_core import evaluate
from ember_core.battery.calibration import Discharge, calibrate

from .gadgets import cell, design, part, use

SETS = json.loads((Path(__file__).parent / "data" / "cold_discharges.json").read_text())["sets"]
OHM_AH = 0.11  # resistance times capacity of an everyday cell, as in validation/compare.py
THICK_FROM_AH = 2.0  # such sets are of cells that are built to hold much


class Row(NamedTuple):
    name: str
    calibrated: bool
    celsius: float
    rate: float
    true_h: float
    low_h: float
    typical_h: float
    high_h: float

    @property
    def held(self) -> bool:
        return self.low_h <= self.true_h <= self.high_h


def own_cell(data: dict[str, Any], *, calibrated: bool) -> dict[str, Any]:
    ah = data["capacity_ah"]
    made = cell(
        capacity_ah=ah, measured_ah=None, cutoff_v=data["cutoff_v"], resistance_ohm=OHM_AH / ah, discharge_max_a=5 * ah, form="cylinder",
        built_for="energy" if ah > THICK_FROM_AH else "power", size_mm=[21, 70, 21], mass_g=68,
    )  # fmt: skip
    if calibrated:
        taken = [
            Discharge(np.array(one["time_s"]), np.array(one["voltage_v"]), float(rate) * ah)
            for rate, one in data["current"].items()
        ]
        fit = calibrate(taken, data["cutoff_v"], "lithium-ion", OHM_AH / ah)
        made |= {"capacity_ah": fit.capacity_ah, "curve": fit.curve.model_dump(mode="json")}
    return made


def rows(*, calibrated: bool) -> list[Row]:
    found = []
    for name, data in SETS.items():
        one = own_cell(data, calibrated=calibrated)
        for key, seconds in data["seconds"].items():
            celsius, rate = (float(x) for x in key.split())
            if celsius >= 25 and rate < 1:  # what the calibration was made from, and what lies between
                continue
            amps = rate * data["capacity_ah"]
            draw = {"behaviour": "current", "current_a": {"typical": amps, "min": amps, "max": amps}}
            gadget = design(
                parts=[part("p", {"name": "on", "draw": draw, "provenance": "measured"}, rail="raw")],
                modes=[{"id": "on", "name": "On", "uses": [use("p", "on")]}],
                day={"rest": "on"},
                supply={"rails": [{"id": "raw", "name": "Raw", "feed": "battery"}]},
                battery={"cell": one, "wiring_ohm": 0},
                brief={"usual_c": celsius, "coldest_c": celsius, "hottest_c": max(celsius, 25)},
            )
            total = evaluate(gadget).runtime.total
            found.append(
                Row(name, calibrated, celsius, rate, seconds / 3600, total.low or 0, total.value or 0, total.high or 0)
            )
    return found


class Coverage(unittest.TestCase):
    def test_eight_of_ten_of_calibrated_cells_lie_within_the_range(self) -> None:
        found = rows(calibrated=True)
        self.assertGreater(len(found), 60)
        self.assertGreaterEqual(sum(r.held for r in found) / len(found), 0.8)

    def test_seven_of_ten_of_cells_that_only_their_label_is_known_of(self) -> None:
        found = rows(calibrated=False)
        self.assertGreaterEqual(sum(r.held for r in found) / len(found), 0.7)

    def test_nothing_falls_to_nothing_where_the_cells_hold(self) -> None:
        """At up to C/5, from freezing down to -20 degC, a calibrated cell's typical figure is never less than half of what was published."""
        for row in rows(calibrated=True):
            if row.rate <= 0.2 and row.name != "Ai2020":
                self.assertGreater(row.typical_h, 0.5 * row.true_h, row)


if __name__ == "__main__":
    for own in (False, True):
        table = rows(calibrated=own)
        for row in table:
            print(f"{row.name:12} {'calibrated' if own else 'typical':10} {row.celsius:4.0f} °C {row.rate:4.1f} C: {row.true_h:6.2f} h, told {row.low_h:6.2f} to {row.high_h:6.2f} h"
                  f"{'' if row.held else '  outside'}")  # fmt: skip
        print(f"in range: {sum(r.held for r in table)} of {len(table)}")
