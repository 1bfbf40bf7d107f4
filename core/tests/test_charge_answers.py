"""What the Charge step asks for: settings, loads, the panel and the limits of heat, by hand and against the evaluation."""

from __future__ import annotations

import unittest
from typing import Any

from ember_core import Design
from ember_core.catalogue import built_in
from ember_core.charging.solar import daily_yield
from ember_core.design.patches import apply_patch, replace
from ember_core.measures.bench import TrialBench
from ember_core.quantities.preferred import E24
from ember_core.studies import answer_charge, answer_heat
from ember_core.studies.charging import ChargeAnswer

from .gadgets import cell
from .test_refill import gadget


def bench(*args: Any, **more: Any) -> TrialBench:
    return TrialBench(gadget(*args, **more), built_in())


def answered(made: Design) -> ChargeAnswer:
    found = answer_charge(TrialBench(made, built_in()))
    assert found is not None
    return found


class Settings(unittest.TestCase):
    def test_each_resistor_by_hand(self) -> None:
        for parallel in (1, 2):
            pack = {"cell": cell(capacity_ah=1.0), "parallel": parallel}
            for row in answered(gadget(1, battery=pack)).settings:
                assert row.ohm is not None
                self.assertAlmostEqual(row.current_a, 1000 / row.ohm)
                self.assertAlmostEqual(row.c_rate, 1000 / row.ohm / parallel)
                usual = "gentle" if row.c_rate <= 0.5 else "allowed" if row.c_rate <= 1 else "too much for the cell"
                self.assertEqual(row.verdict, usual)

    def test_they_are_preferred_values_from_a_tenth_to_one_and_a_quarter_c_with_the_chosen_one(self) -> None:
        rows = answered(gadget(1, {"program_ohm": 2345})).settings
        ohms = [row.ohm or 0 for row in rows]
        self.assertEqual(ohms, sorted(ohms))
        self.assertEqual([row.ohm for row in rows if row.chosen], [2345])
        others = [o for o in ohms if o != 2345]
        self.assertTrue(all(f"{o:.1e}"[:3] in {f"{v:.1f}" for v in E24} for o in others), others)
        self.assertGreaterEqual(min(others), 800)  # 1.25 C
        self.assertLessEqual(max(others), 10000)  # 0.1 C
        self.assertLess(min(others), 1000)
        self.assertGreater(max(others), 7000)

    def test_the_chargers_own_range_and_its_steps(self) -> None:
        rows = answered(gadget(1, {"program_min_ohm": 1500, "program_max_ohm": 5000})).settings
        self.assertTrue(all(1500 <= (r.ohm or 0) <= 5000 for r in rows))
        rows = answered(gadget(1, {"fixed_a": 0.3, "steps_a": [0.7, 0.1]})).settings
        self.assertEqual(
            [(r.ohm, r.current_a, r.chosen) for r in rows], [(None, 0.1, False), (None, 0.3, True), (None, 0.7, False)]
        )

    def test_each_row_is_what_comes_of_setting_it(self) -> None:
        made = gadget()
        for row in answered(made).settings[::4]:
            after = TrialBench(apply_patch(made, [replace("/charger/program_ohm", row.ohm)]), built_in()).charge
            assert after is not None
            self.assertAlmostEqual((row.hours or 0) * 3600, after.seconds or 0)
            self.assertAlmostEqual(row.hottest_c, after.hottest_c)

    def test_one_that_never_ends_says_why(self) -> None:
        port = {"port": {"kind": "type-c", "gives_a": 3, "resistors": False}}
        for row in answered(gadget(1, port)).settings:
            self.assertIsNone(row.hours)
            self.assertIn("nothing left", row.verdict)


class Loads(unittest.TestCase):
    def test_each_row_is_what_comes_of_charging_in_that_mode(self) -> None:
        made = gadget()
        rows = answered(made).loads
        self.assertEqual([r.mode for r in rows], [m.id for m in made.modes])
        for row in rows:
            after = TrialBench(apply_patch(made, [replace("/charger/mode", row.mode)]), built_in()).charge
            assert after is not None
            self.assertAlmostEqual(row.load_a, after.load_a)
            self.assertEqual(row.hours is None, after.seconds is None)
            self.assertAlmostEqual(row.most_hours or 0, (after.most_s or 0) / 3600)
        self.assertEqual([r.chosen for r in rows].count(True), 1)


class Panel(unittest.TestCase):
    def test_by_hand(self) -> None:
        for n in (1, 2, 3):
            panel = {"peak_w": 0.5, "area_cm2": 100, "latitude_deg": 45, "month": 3, "tilt_deg": 45}
            made = bench(
                n,
                {"port": {"kind": "solar", "gives_a": 0.2, "panel": panel}, "topology": "switching", "efficiency": 0.8},
            )
            answer = answer_charge(made)
            assert (
                answer is not None
                and answer.solar is not None
                and made.design.charger is not None
                and made.design.charger.port is not None
            )
            assert made.design.charger.port.panel is not None
            volts = float(made.usual.pack.open_circuit_v[made.middle])
            day_a = made.mean_a + made.usual.pack.self_discharge_a
            self.assertAlmostEqual(
                answer.solar.energy.value or 0, daily_yield(made.design.charger.port.panel).energy_wh * 0.8
            )
            self.assertAlmostEqual(answer.solar.needed.value or 0, day_a * volts * 24)
            self.assertAlmostEqual((answer.solar.autonomy.value or 0), made.usual.pack.capacity_ah / day_a / 24)
            lives = (answer.solar.energy.value or 0) >= (answer.solar.needed.value or 0)
            self.assertEqual("it lives on the panel" in answer.solar.sentence, lives)


class Limits(unittest.TestCase):
    def test_each_is_the_worst_of_its_rows_against_what_it_stands(self) -> None:
        for carried, limit in (("no", 85), ("hand", 48), ("clothes", 43)):
            made = bench(enclosure={"outer_mm": [60, 90, 24], "carried": carried})
            answer, warm = answer_heat(made), made.warmth
            by_name = {x.name: x for x in answer.limits}
            outside = by_name["Outside, to touch"]
            self.assertEqual(outside.limit_c, limit)
            self.assertAlmostEqual(outside.value_c, max(r.outer_c for r in answer.rows))
            self.assertEqual(by_name["PETG softens"].value_c, max(r.inside_c for r in answer.rows))
            cell_name = made.design.battery.cell.name
            self.assertEqual(by_name[f"{cell_name}, charging"].limit_c, 45)
            self.assertAlmostEqual(by_name[f"{cell_name}, charging"].value_c, warm.charging_c or 0, delta=0.01)
            self.assertEqual(by_name[cell_name].limit_c, 60)
            self.assertEqual(by_name["Charger"].when, "Charging")
            hot = warm.hot_charge
            assert hot is not None
            self.assertAlmostEqual(by_name["Charger"].value_c, hot.junction_c, delta=0.01)

    def test_each_node_is_told_where_it_comes_nearest_to_what_it_stands(self) -> None:
        """A cell stands 45 degC while it is charged and 60 degC in use; the nearest is told, not the warmest."""
        for series in (1, 2, 3):
            answer = answer_heat(bench(series))
            for k, node in enumerate(answer.nodes):
                rows = {}
                for row in answer.rows:
                    stands = 45.0 if node.kind == "cell" and not row.mode else node.limit_c
                    rows[row.name] = (row.node_c[k] - answer.surroundings_c) / (stands - answer.surroundings_c)
                self.assertAlmostEqual(node.near, max(rows.values()))
                self.assertAlmostEqual(rows[node.when], node.near)
            held = next(n for n in answer.nodes if n.kind == "cell")
            self.assertEqual((held.when, held.stands_c), ("Charging", 45.0))

    def test_every_row_stands_on_the_air_of_its_mode(self) -> None:
        answer = answer_heat(bench())
        for row in answer.rows:
            self.assertTrue(all(c >= row.inside_c - 0.01 for c in row.node_c), row.name)
        self.assertFalse(answer.capped)
        self.assertTrue(answer_heat(bench(1, {"port_v": 100, "program_ohm": 200, "foldback_c": None})).capped)
