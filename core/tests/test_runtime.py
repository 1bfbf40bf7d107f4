"""Runtime: closed forms, and an independent event-by-event simulation."""

from __future__ import annotations

import unittest
from pathlib import Path

import numpy as np

from ember_core import evaluate, read_design
from ember_core.figures import as_json
from ember_core.runtime.run import run

from .gadgets import asleep, cell, design, part, state, use
from .simulation import Simulation

DEMO = Path(__file__).resolve().parents[2] / "demo"


class ClosedForms(unittest.TestCase):
    def test_constant_current_without_losses_is_capacity_over_current(self) -> None:
        gadget = design(
            parts=[part("chip", state("on", 0.05))],
            modes=asleep(use("chip", "on")),
            supply={"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]},
            battery={"cell": cell(resistance_ohm=0, cutoff_v=2.5), "wiring_ohm": 0},
            day={"rest": "asleep"},
        )
        result = run(gadget)
        own = result.pack.self_discharge_a
        self.assertAlmostEqual(result.seconds, 1.0 * 3600 / (0.05 + own), delta=1e-6 * result.seconds)

    def test_cost_of_wakes_is_their_share_of_the_time(self) -> None:
        def at(every: float) -> float:
            wakes = [{"name": "Wake", "mode": "awake", "every_s": every, "awake_s": 2}]
            return run(design(day={"rest": "asleep", "wakes": wakes})).mean_current_a[0]

        expected = (2 * 0.1 + 58 * 0.001) / 60
        self.assertAlmostEqual(at(60), expected, places=9)
        self.assertLess(at(120), at(60))

    def test_two_cells_in_parallel_last_twice_as_long_as_one_with_twice_the_resistance_halved(self) -> None:
        one = run(design(battery={"cell": cell(capacity_ah=2.0, resistance_ohm=0.05), "wiring_ohm": 0}))
        two = run(design(battery={"cell": cell(), "parallel": 2, "wiring_ohm": 0}))
        self.assertAlmostEqual(one.seconds / two.seconds, 1.0, places=9)

    def test_cold_shortens_the_run(self) -> None:
        warm, cold = run(design(), 25), run(design(), -20)
        self.assertLess(cold.seconds, 0.85 * warm.seconds)

    def test_no_parts_means_an_unknown_runtime_not_an_endless_one(self) -> None:
        empty = design(parts=[], modes=[{"id": "asleep", "name": "Asleep", "uses": []}], day={"rest": "asleep"})
        result = evaluate(empty)
        self.assertIsNone(result.runtime.total.value)
        self.assertEqual(result.verdicts[0].status, "unknown")

    def test_zero_load_lasts_as_long_as_the_cell_keeps(self) -> None:
        alkaline = cell(chemistry="alkaline", form="cylinder", cutoff_v=0.9)
        parts = [part("chip", state("off", 0.0), state("active", 0.0), supply_min_v=None)]
        modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "off")]}]
        straight = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}
        idle = design(
            parts=parts,
            modes=modes,
            day={"rest": "asleep"},
            supply=straight,
            battery={"cell": alkaline, "wiring_ohm": 0},
        )
        report = evaluate(idle).runtime
        self.assertAlmostEqual(report.total.value or 0, 10 * 8766, delta=90)
        self.assertIn("as long as it keeps its charge", report.sentence)


class FirstFailure(unittest.TestCase):
    def test_cutoff_under_load_is_where_ocv_less_ir_meets_it(self) -> None:
        gadget = design(
            parts=[part("chip", state("on", 1.0))],
            modes=asleep(use("chip", "on")),
            supply={"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]},
            battery={"cell": cell(resistance_ohm=0.3), "wiring_ohm": 0},
            day={"rest": "asleep"},
        )
        result = run(gadget)
        failure = result.failures[0]
        self.assertEqual(failure.reason, "cutoff")
        z, pack = result.pack.charge, result.pack
        sag = np.interp(-failure.charge, -z, pack.open_circuit_v - 1.0 * pack.resistance_ohm)
        self.assertAlmostEqual(float(sag), 3.0, places=6)

    def test_a_load_that_no_battery_can_carry_is_reported_as_collapse(self) -> None:
        heavy = {"name": "on", "draw": {"behaviour": "power", "power_w": {"typical": 60}}, "provenance": "datasheet"}
        gadget = design(
            parts=[part("heater", heavy)],
            modes=asleep(use("heater", "on")),
            supply={"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]},
            day={"rest": "asleep"},
        )
        result = run(gadget)
        self.assertEqual(result.failures[0].reason, "collapse")
        self.assertEqual(result.seconds, 0.0)

    def test_a_part_that_needs_more_than_the_rail_gives_ends_the_run(self) -> None:
        chip = part("chip", state("sleep", 0.001), state("active", 0.1), supply_min_v=3.1)
        result = run(design(parts=[chip]))
        mode, charge = result.ending
        self.assertEqual(result.design.modes[mode].id, "awake")
        self.assertEqual(result.failures[mode].reason, "supply")
        self.assertGreater(charge, 0)

    def test_a_mode_that_is_not_essential_does_not_end_the_run(self) -> None:
        chip = part("chip", state("sleep", 0.001), state("active", 0.1), supply_min_v=3.1)
        modes = [
            {"id": "asleep", "name": "Asleep", "uses": []},
            {"id": "awake", "name": "Awake", "essential": False, "uses": [use("chip", "active")]},
        ]
        modes[0]["uses"] = [use("chip", "sleep")]
        strict, lenient = run(design(parts=[chip])), run(design(parts=[chip], modes=modes))
        self.assertGreater(lenient.seconds, strict.seconds)


class AgainstTheSimulation(unittest.TestCase):
    """The quadrature within 0.5 % of an event-by-event simulation of the same design."""

    def check(self, name: str) -> None:
        gadget = read_design((DEMO / name).read_bytes())
        quadrature = run(gadget).charge_seconds
        simulated = Simulation(gadget).run_seconds()
        self.assertAlmostEqual(quadrature / simulated, 1.0, delta=0.005)

    def test_dusk_ear(self) -> None:
        self.check("dusk-ear.json")

    def test_snow_stake(self) -> None:
        self.check("snow-stake.json")

    def test_rosin_minder_on_two_cells_for_years(self) -> None:
        self.check("rosin-minder.json")

    def test_rosin_minder_rechargeable(self) -> None:
        self.check("rosin-minder-rechargeable.json")

    def test_hours_on_a_small_cell_with_a_boost(self) -> None:
        boost = {
            "type": "switching", "id": "boost", "name": "Boost", "input": "battery", "topology": "boost",
            "output_v": 5.0, "quiescent_a": 3e-5, "limit_a": 1, "undervoltage_lockout_v": 2.5,
            "points": [
                {"current_a": 0.001, "efficiency": 0.75, "input_v": 3.7},
                {"current_a": 0.1, "efficiency": 0.92, "input_v": 3.7},
                {"current_a": 0.5, "efficiency": 0.86, "input_v": 3.7},
            ],
        }  # fmt: skip
        gadget = design(
            parts=[part("amp", state("quiet", 0.01), state("loud", 0.3))],
            modes=asleep(use("amp", "loud", duty=0.4, rest="quiet")),
            supply={"stages": [boost], "rails": [{"id": "main", "name": "Main", "feed": "boost"}]},
            battery={"cell": cell(capacity_ah=0.5, resistance_ohm=0.25), "wiring_ohm": 0.05},
            day={"rest": "asleep"},
        )
        self.assertAlmostEqual(run(gadget).seconds / Simulation(gadget).run_seconds(), 1.0, delta=0.005)


class Determinism(unittest.TestCase):
    def test_the_same_design_gives_the_same_bytes(self) -> None:
        raw = (DEMO / "dusk-ear.json").read_bytes()
        self.assertEqual(as_json(evaluate(read_design(raw))), as_json(evaluate(read_design(raw))))
