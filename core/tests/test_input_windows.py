"""Voltage windows of stages, chargers and parts: both sides of each limit on one, two and three cells in series, and with everything plugged in."""

from __future__ import annotations

import unittest
from typing import Any

from ember_core import Design
from ember_core.catalogue import built_in
from ember_core.design.patches import apply
from ember_core.measures.bench import TrialBench

from .gadgets import LINEAR, cell, design, part, seen, state
from .test_refill import gadget

SERIES = (1, 2, 3)
RAIL = [{"id": "main", "name": "Main", "feed": "reg"}]


def behind(stage: dict[str, Any], series: int = 1, **more: Any) -> Design:
    pack = {"cell": cell(), "series": series, "wiring_ohm": 0, "protection": {}}
    return design(**({"supply": {"stages": [stage], "rails": RAIL}, "battery": pack} | more))


class Stages(unittest.TestCase):
    def test_a_full_pack_on_both_sides_of_what_an_input_stands(self) -> None:
        for n in SERIES:
            for least, found in ((4.2 * n - 0.01, True), (4.2 * n + 0.01, False)):
                with self.subTest(f"{n} {found}"):
                    told = seen(behind(LINEAR | {"input_max_v": least}, n), "stage-overvoltage")
                    self.assertEqual([x.severity for x in told], ["stop"] if found else [])

    def test_the_ones_that_were_silent(self) -> None:
        buck = next(s for s in built_in().stages if s.name.startswith("Buck 3.3 V, 600")).model_dump(mode="json")
        self.assertEqual(buck["input_max_v"], 5.5)
        for n, stage in ((2, LINEAR | {"input_max_v": 6.0}), (2, buck | {"id": "reg", "input": "battery"})):
            made = behind(stage, n)
            told = seen(made, "stage-overvoltage")[0]
            self.assertIn("8.4 V", told.sentence)
            self.assertIn("The full battery", told.sentence)
            remedy = told.remedy
            assert remedy, "there is a regulator that stands two cells in series"
            self.assertFalse(seen(apply(made, remedy), "stage-overvoltage"))

    def test_an_adapter_that_is_plugged_in(self) -> None:
        for volts, found in ((5.5, False), (12.0, True)):
            path = {"type": "power-or", "id": "path", "name": "Path", "input": "battery", "other": "wall", "limit_a": 2}
            supply = {
                "sources": [{"id": "wall", "name": "Wall adapter", "kind": "adapter", "voltage_v": volts}],
                "stages": [path, LINEAR | {"input": "path", "input_max_v": 5.5}],
                "rails": RAIL,
            }
            told = seen(design(supply=supply), "stage-overvoltage")
            self.assertEqual(bool(told), found)

    def test_a_straight_adapter_is_named(self) -> None:
        supply = {
            "sources": [{"id": "wall", "name": "Wall adapter", "kind": "adapter", "voltage_v": 12}],
            "stages": [LINEAR | {"input": "wall", "input_max_v": 5.5}],
            "rails": RAIL,
        }
        modes = [
            {"id": m, "name": m.title(), "uses": [{"part": "chip", "state": s}], "plugged": ["wall"]}
            for m, s in (("asleep", "sleep"), ("awake", "active"))
        ]
        self.assertIn(
            "Wall adapter puts up to 12 V", seen(design(supply=supply, modes=modes), "stage-overvoltage")[0].sentence
        )

    def test_the_least_input_of_a_linear_regulator(self) -> None:
        for least, works in ((3.05, True), (4.25, False)):
            made = TrialBench(behind(LINEAR | {"output_v": 2.5, "input_min_v": least}), built_in())
            self.assertEqual(made.usual.failures[1].charge < 1, works)
            if not works:
                self.assertEqual(made.usual.failures[1].reason, "input")

    def test_cells_fresh_from_their_pack(self) -> None:
        """Two iron disulfide cells have 3.66 V for their first minutes, on parts that stand 3.6 V."""
        fresh = cell(
            chemistry="lithium-iron-disulfide", form="cylinder", cutoff_v=0.9, capacity_ah=3, size_mm=[14.5, 50.5, 14.5]
        )
        for most, found in ((3.65, True), (3.67, False)):
            chip = part("chip", state("sleep", 1e-3), state("active", 0.1), supply_absolute_max_v=most)
            supply = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}
            made = design(parts=[chip], supply=supply, battery={"cell": fresh, "series": 2, "wiring_ohm": 0})
            self.assertEqual(bool(seen(made, "overvoltage")), found)


class Chargers(unittest.TestCase):
    def test_a_port_on_both_sides_of_what_the_charger_stands(self) -> None:
        for n in SERIES:
            port = 5.0 * n
            for most, found in ((port - 0.01, True), (port + 0.01, False)):
                told = seen(gadget(n, {"input_max_v": most}), "charger-overvoltage")
                with self.subTest(f"{n} {found}"):
                    self.assertEqual([x.severity for x in told], ["stop"] if found else [])

    def test_a_port_of_five_volts_settles_it_where_five_are_stood(self) -> None:
        for most, offered in ((4.99, False), (5.0, True), (6.0, True)):
            made = gadget(1, {"port_v": 12.0, "input_max_v": most})
            (told,) = seen(made, "charger-overvoltage")
            assert told.found.ways
            volts = [op.value for w in told.found.ways() if w for op in w.patch if op.path == "/charger/port_v"]
            self.assertEqual(volts, [5.0] if offered else [])

    def test_nobody_said_what_it_stands(self) -> None:
        self.assertFalse(seen(gadget(1), "charger-input-unknown"))  # 5 V stands each
        told = seen(gadget(1, {"port_v": 12.0}), "charger-input-unknown")
        self.assertEqual([x.severity for x in told], ["watch"])
        self.assertFalse(seen(gadget(1, {"port_v": 12.0, "input_max_v": 14.0}), "charger-input-unknown"))

    def test_an_unloaded_panel_gives_more(self) -> None:
        port = {"kind": "solar", "panel": {"peak_w": 2, "area_cm2": 100}}
        for most, found in ((7.3, True), (7.4, False)):  # 6 V x 1.22
            made = gadget(1, {"port": port, "port_v": 6.0, "input_max_v": most})
            self.assertEqual(bool(seen(made, "charger-overvoltage")), found)

    def test_a_power_path_that_passes_the_port_on(self) -> None:
        for system, found in ((None, True), (4.6, True), (4.4, False)):
            chip = part("chip", state("sleep", 1e-3), state("active", 0.1), supply_absolute_max_v=4.5)
            made = gadget(1, {"power_path": True, "system_v": system}, parts=[chip])
            with self.subTest(system):
                self.assertEqual(bool(seen(made, "overvoltage")), found)
        without = gadget(1, {}, parts=[chip])
        self.assertFalse(seen(without, "overvoltage"))  # 4.2 V


if __name__ == "__main__":
    unittest.main()
