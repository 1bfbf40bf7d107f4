"""What the Charge step asks for: settings, loads, the panel and the limits of heat, by hand and against the evaluation."""

from __future__ import annotations

import unittest
from typing import Any

from ember_core import Design
from ember_core.catalogue import built_in
from ember_core.charging.solar import daily_yield
from ember_core.design.patches import apply_patch, replace
from ember_core.measures.bench import TrialBench
from ember_core.quantities import NO_BREAK
from ember_core.quantities.preferred import E24
from ember_core.reports.charge import charge_report, heat_report
from ember_core.studies import answer_charge, answer_heat
from ember_core.studies.charging import ChargeAnswer, _limit

from .gadgets import asleep, cell, part, seen, state, use
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
                usual = "pass" if row.c_rate <= 0.5 else "watch" if row.c_rate <= 1 else "fail"
                self.assertEqual(row.status, usual)

    def test_they_are_preferred_values_from_a_tenth_to_one_and_a_quarter_c_with_the_chosen_one(self) -> None:
        rows = answered(gadget(1, {"program_ohm": 2345})).settings
        ohms = [row.ohm or 0 for row in rows]
        self.assertEqual(ohms, sorted(ohms))
        self.assertEqual([row.ohm for row in rows if row.chosen], [2345])
        others = [o for o in ohms if o != 2345]
        self.assertTrue(all(f"{o:.1e}"[:3] in {f"{v:.1f}" for v in E24} for o in others), others)
        self.assertGreaterEqual(min(others), 800)  # 1.25 C
        self.assertLessEqual(max(others), 10000)  # 0.1 C
        self.assertIn(len(others), range(12, 15))
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
        found = answered(gadget(1, port))
        self.assertEqual(found.why, "It does not get full: the port has nothing left.")
        self.assertEqual({row.why for row in found.loads}, {"never: the port has nothing left"})
        for row in found.settings:
            self.assertIsNone(row.hours)
            self.assertEqual((row.status, row.words), ("fail", "never full: the port has nothing left"))


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


class TenMinutes(unittest.TestCase):
    def regained(self, *args: Any) -> tuple[float, TrialBench]:
        made = bench(*args)
        report = charge_report(made)
        assert report is not None
        assert report.regained.value is not None
        return report.regained.value, made

    def test_they_give_back_their_charge_over_the_days_mean(self) -> None:
        for series in (1, 2, 3):  # 0.5 A less 1 mA, ten minutes of it, over 3.0625 mA and what the cell loses by itself
            hours, made = self.regained(series)
            day_a = 0.0030625 + made.usual.pack.self_discharge_a
            self.assertAlmostEqual(hours, 0.499 * 600 / day_a / 3600, 6)

    def test_never_more_than_the_charge_brings_at_all(self) -> None:
        fast = (
            {"program_ohm": 100.0, "port_limit_a": 12},
            {"cell": cell(capacity_ah=1.0, resistance_ohm=0.01), "protection": None},
        )
        hours, made = self.regained(1, *fast)  # 10 C: full within ten minutes
        assert made.charge is not None
        self.assertLess(made.charge.seconds or 0, 600)
        day_a = made.mean_a + made.usual.pack.self_discharge_a
        self.assertAlmostEqual(hours, made.charge.full_share * made.charge.capacity_ah / day_a, 6)
        hours, made = self.regained(1, {"program_ohm": 1.0})  # stops at once
        self.assertEqual(hours, 0)


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
            self.assertAlmostEqual(
                (answer.solar.autonomy.value or 0),
                made.usual.pack.capacity_ah * (1 - made.usual.ending[1]) / day_a / 24,
            )
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
            self.assertAlmostEqual(outside.value_c, warm.outside.degrees_c)
            self.assertEqual(by_name["PETG softens"].value_c, max(r.inside_c for r in answer.rows))
            cell_name = made.design.battery.cell.name
            self.assertEqual(by_name[f"{cell_name}, charging"].limit_c, 45)
            self.assertAlmostEqual(by_name[f"{cell_name}, charging"].value_c, warm.charging_c or 0, delta=0.01)
            self.assertEqual(by_name[cell_name].limit_c, 60)
            self.assertEqual(by_name["Charger"].when, "Charging")
            hot = warm.hot_charge
            assert hot is not None
            self.assertAlmostEqual(by_name["Charger"].value_c, hot.junction_c, delta=0.01)

    def test_a_cell_stands_less_while_it_is_charged(self) -> None:
        for series, status in ((1, "watch"), (2, "fail"), (3, "fail")):  # 39, 47 and 53 degC while it is charged
            answer = answer_heat(bench(series))
            place = [n.kind for n in answer.nodes].index("cell")
            self.assertEqual({r.mode: r.stands_c[place] for r in answer.rows}, {"asleep": 60, "awake": 60, "": 45})
            charging = next(x for x in answer.limits if x.key == "/battery/charging")
            self.assertEqual((charging.status, charging.limit_c), (status, 45))
            self.assertEqual(charging.value_c, answer.rows[-1].node_c[place])
            self.assertEqual(sum(x.key.endswith("/charging") for x in answer.limits), 1)
        made = gadget()
        without = answer_heat(TrialBench(apply_patch(made, [replace("/charger", None)]), built_in()))
        self.assertFalse([x.key for x in without.limits if x.key.endswith("/charging")])

    def test_each_row_says_how_warm_it_is_around_the_case(self) -> None:
        for charged, around in (("indoors", 30), ("anywhere", 41)):
            made = bench(brief={"goal_h": 9, "coldest_c": 5, "usual_c": 20, "hottest_c": 41, "charged": charged})
            rows = answer_heat(made).rows
            self.assertEqual({r.mode: r.surroundings_c for r in rows}, {"asleep": 41, "awake": 41, "": around})
            assert made.warmth.hot_charge is not None
            self.assertAlmostEqual(made.warmth.hot_charge.course.inside_c.min(), around, delta=0.5)

    def test_the_outside_is_told_at_its_warmest_charging_too(self) -> None:
        for charged, around in (("indoors", 30), ("anywhere", 31)):
            for series in (1, 2, 3):
                brief = {"goal_h": 9, "coldest_c": 5, "usual_c": 20, "hottest_c": 31, "charged": charged}
                made = gadget(series, brief=brief, enclosure={"outer_mm": [60, 90, 24], "carried": "clothes"})
                own = TrialBench(made, built_in())
                rows = {r.mode: r.outer_c for r in answer_heat(own).rows}
                self.assertEqual(max(rows, key=lambda m: rows[m]), "")
                outer = heat_report(own).outer
                # indoors it is put down to be charged: what is nearest to what skin stands is then what is worn for hours
                worst = "" if charged == "anywhere" else max(("asleep", "awake"), key=lambda m: rows[m])
                self.assertAlmostEqual(outer.value or 0, rows[worst])
                self.assertEqual(outer.working.inputs[0].value, 31)
                for told in seen(made, "touch-limit"):
                    self.assertIn(f"Where it is {around} °C around it its outside gets", told.sentence)
                    self.assertIn("(charging)", told.sentence)
                self.assertEqual(bool(seen(made, "touch-limit")), charged == "anywhere" and rows[""] > 43)

    def test_close_to_a_limit_and_beyond_it(self) -> None:
        row = answer_heat(bench()).rows[0]
        for value, status, room in (
            (34.9, "pass", "10.1 K to go"), (35.1, "watch", "9.9 K to go"),
            (44.9, "watch", "0.1 K to go"), (45.1, "fail", "0.1 K too much"),
        ):  # fmt: skip
            told = _limit("x", "X", value, 45.0, row, "")
            self.assertEqual((told.status, told.room.replace(NO_BREAK, " ")), (status, room))

    def test_two_of_the_same_name_are_two(self) -> None:
        twins = [part(k, state("on", 0.01), name="Sensor") for k in ("one", "two")]
        limits = answer_heat(
            bench(parts=twins, modes=asleep(use("one", "on"), use("two", "on")), day={"rest": "asleep"})
        ).limits
        self.assertEqual(sum(x.name == "Sensor" for x in limits), 2)
        self.assertEqual(len({x.key for x in limits}), len(limits))

    def test_each_node_is_told_where_it_comes_nearest_to_what_it_stands(self) -> None:
        """A cell stands 45 degC while it is charged and 60 degC in use; the nearest is told, not the warmest."""
        for series in (1, 2, 3):
            answer = answer_heat(bench(series))
            for k, node in enumerate(answer.nodes):
                rows = {}
                for row in answer.rows:
                    stands = 45.0 if node.kind == "cell" and not row.mode else node.limit_c
                    rows[row.name] = (row.node_c[k] - row.surroundings_c) / (stands - row.surroundings_c)
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
