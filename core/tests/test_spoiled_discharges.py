"""Measurements that cannot be: files of published cells, spoiled as meters and hands spoil them. Each is said, or put right; none is believed that leads
astray."""

from __future__ import annotations

import unittest
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ember_core.battery.calibration import Discharge
from ember_core.calculators.cell import FittedCell, fit_cell
from ember_core.design import Cell
from ember_core.design.problems import DocumentError
from ember_core.runtime.run import run

from .gadgets import cell, design, part, state, use
from .test_late_and_cold import SETS, discharge, late

ASTRAY = 0.09  # of the duration at 1 C; what is believed without a doubt stays nearer
DATA = {name: SETS[name] for name in ("Chen2020", "Marquis2019")}


@dataclass(frozen=True)
class Spoilt:
    name: str
    gentle: Discharge
    strong: Discharge


def meter(one: Discharge, times: float) -> Discharge:
    """The current meter shows so many times what flows."""
    return replace(one, current_a=one.current_a * times)


def offset(one: Discharge, volts: float) -> Discharge:
    return replace(one, voltage_v=one.voltage_v + volts)


def clock(one: Discharge, times: float) -> Discharge:
    return replace(one, time_s=one.time_s * times)


def noisy(one: Discharge, volts: float) -> Discharge:
    return replace(one, voltage_v=one.voltage_v + volts * np.random.default_rng(1).standard_normal(one.voltage_v.size))


def spoilt(data: dict[str, Any]) -> list[Spoilt]:
    good, strong = discharge(data, "0.05"), discharge(data, "0.5")
    return [
        *(Spoilt(f"strong begun {share:.0%} later", good, late(strong, share)) for share in (0.03, 0.1, 0.2, 0.35)),
        *(Spoilt(f"gentle begun {share:.0%} later", late(good, share), strong) for share in (0.03, 0.1, 0.2)),
        *(Spoilt(f"strong meter × {k}", good, meter(strong, k)) for k in (0.85, 0.9, 0.99, 1.01, 1.1, 1.3)),
        *(Spoilt(f"gentle meter × {k}", meter(good, k), strong) for k in (0.8, 0.99, 1.01, 1.2)),
        *(Spoilt(f"both meters × {k}", meter(good, k), meter(strong, k)) for k in (0.8, 1.2)),
        *(Spoilt(f"clock of strong × {k}", good, clock(strong, k)) for k in (0.8, 1.25)),
        *(Spoilt(f"offset {v} V of strong", good, offset(strong, v)) for v in (-0.03, 0.03, 0.15)),
        *(Spoilt(f"offset {v} V of both", offset(good, v), offset(strong, v)) for v in (-0.02, 0.02)),
        Spoilt("noise", noisy(good, 0.004), noisy(strong, 0.004)),
    ]


def typed(data: dict[str, Any]) -> Cell:
    ah = data["capacity_ah"]
    return Cell.model_validate(
        cell(
            capacity_ah=ah, measured_ah=None, cutoff_v=data["cutoff_v"], resistance_ohm=0.1 / ah, discharge_max_a=4 * ah
        )
    )


def off(fit: FittedCell, data: dict[str, Any]) -> float:
    """How far the duration at 1 C is off, of what was published."""
    amps = data["capacity_ah"]
    gadget = design(
        parts=[part("p", state("on", amps), rail="raw")],
        modes=[{"id": "on", "name": "On", "uses": [use("p", "on")]}],
        day={"rest": "on"},
        supply={"rails": [{"id": "raw", "name": "Raw", "feed": "battery"}]},
        battery={"cell": fit.cell.model_dump(mode="json"), "wiring_ohm": 0},
        brief={"usual_c": 25, "hottest_c": 35},
    )
    return run(gadget).seconds / data["current"]["1.0"]["end_s"] - 1


class Spoiled(unittest.TestCase):
    def test_forty_files_are_said_or_put_right(self) -> None:
        seen, believed = 0, 0
        for name, data in DATA.items():
            for one in spoilt(data):
                with self.subTest(f"{name}: {one.name}"):
                    seen += 1
                    try:
                        fit = fit_cell(typed(data), [one.gentle, one.strong])
                    except DocumentError as refused:
                        self.assertGreater(len(str(refused)), 40)
                        continue
                    if not fit.doubts:
                        believed += 1
                        self.assertLess(abs(off(fit, data)), ASTRAY)
                    else:
                        self.assertTrue(fit.sentence.startswith("It fits, and cannot be right"))
        self.assertGreaterEqual(seen, 40)
        self.assertGreater(believed, 12)

    def test_nothing_is_said_of_good_ones(self) -> None:
        for name, data in SETS.items():
            fit = fit_cell(typed(data), [discharge(data, "0.05"), discharge(data, "0.5")])
            self.assertEqual([d.key for d in fit.doubts], [], name)
            self.assertTrue(fit.sentence.startswith("A good fit"), name)

    def test_a_strong_one_that_began_at_ninety_percent_is_put_right_and_told(self) -> None:
        data = DATA["Chen2020"]
        fit = fit_cell(typed(data), [discharge(data, "0.05"), late(discharge(data, "0.5"), 0.1)])
        begun = next(f.value for f in fit.begun if "2.5" in f.label)
        self.assertAlmostEqual(begun or 0, 0.9, delta=0.01)
        self.assertIn("it was not full, or a meter", fit.sentence)
        self.assertLess(abs(off(fit, data)), 0.02)

    def test_causes(self) -> None:
        data = DATA["Chen2020"]
        good, strong = discharge(data, "0.05"), discharge(data, "0.5")
        for pair, key in (
            ((meter(good, 1.2), meter(strong, 1.2)), "capacity-above"),
            ((meter(good, 0.75), meter(strong, 0.75)), "capacity-below"),
            ((good, replace(strong, pause_ohm=0.2)), "jump"),
        ):
            self.assertIn(key, [d.key for d in fit_cell(typed(data), list(pair)).doubts])

    def test_primary_cells_are_not_told_to_be_charged(self) -> None:
        """Alkaline cells give half of what is printed at 0.5 A, which is no doubt; and at 25 mA it is one, and the way out is another cell."""
        for amps, given, doubted in ((0.5, 1.75, False), (0.025, 1.55, True)):
            hours = np.linspace(0, given / amps, 200)
            volts = np.linspace(1.5, 0.88, 200)
            alkaline = Cell.model_validate(
                cell(chemistry="alkaline", form="cylinder", capacity_ah=2.85, measured_ah=None, resistance_ohm=0.13, cutoff_v=0.9, charge_max_a=None, size_mm=[14.5, 50.5, 14.5], mass_g=23.5)
            )  # fmt: skip
            fit = fit_cell(alkaline, [Discharge(hours * 3600, volts, amps)])
            self.assertEqual([d.key for d in fit.doubts], ["capacity-below"] if doubted else [], amps)
            for doubt in fit.doubts:
                self.assertIn("with a fresh cell; never charge this one", doubt.sentence)

    def test_both_sides_of_the_printed_capacity(self) -> None:
        """Lithium-ion: at most 5 % above what is printed and 6 more, at least 8 % below and 6 more."""
        data = DATA["Chen2020"]
        pair = [discharge(data, "0.05"), discharge(data, "0.5")]
        held = fit_cell(typed(data), pair).cell.capacity_ah
        for ratio, key in ((1.109, None), (1.111, "capacity-above"), (0.861, None), (0.859, "capacity-below")):
            printed = typed(data).model_copy(update={"capacity_ah": held / ratio})
            self.assertEqual(
                next((d.key for d in fit_cell(printed, pair).doubts if d.key.startswith("cap")), None), key
            )


if __name__ == "__main__":
    unittest.main()
