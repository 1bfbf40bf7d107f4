"""What is asked for on demand: the sampled range, temperature and age, the firmware's table, a day at the battery."""

from __future__ import annotations

import csv
import io
import math
import re
import unittest
from pathlib import Path

import numpy as np

from ember_core import Design, evaluate, read_design
from ember_core.battery.ageing import calendar_loss, fade
from ember_core.battery.pack import weakest_of
from ember_core.catalogue import built_in
from ember_core.measures.bench import TrialBench
from ember_core.studies import answer_day, answer_outlook, answer_range, answer_soc_table

from .gadgets import asleep, cell, design, part, plain, state, use

DEMO = sorted((Path(__file__).resolve().parents[2] / "demo").glob("*.json"))
EMPTY = {"parts": [], "modes": [{"id": "asleep", "name": "Asleep", "uses": []}], "day": {"rest": "asleep"}}


def asked(gadget: Design) -> TrialBench:
    return TrialBench(gadget, built_in())


class Ranges(unittest.TestCase):
    def test_percentiles_bars_and_the_next_thing_to_measure(self) -> None:
        chips = [
            part("sure", state("on", 0.01, 0.0098, 0.0102)),
            part("vague", state("on", 0.01, 0.004, 0.03), name="Vague chip"),
        ]
        gadget = design(parts=chips, modes=asleep(use("sure", "on"), use("vague", "on")), day={"rest": "asleep"})
        answer = answer_range(asked(gadget))
        assert answer
        low, median, high = (f.value or 0 for f in (answer.low, answer.median, answer.high))
        self.assertTrue(low < median < high)
        self.assertAlmostEqual(sum(b.share for b in answer.bars), 1.0)
        self.assertIn("Measure Vague chip, on next", answer.sentence)
        self.assertLess((answer.owners[0].known.high or 0) - (answer.owners[0].known.low or 0), (high - low) / 2)

    def test_share_that_meets_the_goal(self) -> None:
        def meets(goal_h: float) -> float:
            brief = {"goal_h": goal_h, "coldest_c": 25, "usual_c": 25, "hottest_c": 25}
            answer = answer_range(asked(design(brief=brief)))
            assert answer
            return answer.meets.value or 0.0

        self.assertEqual((meets(1), meets(20000)), (100.0, 0.0))

    def test_nothing_drawn_is_no_answer(self) -> None:
        for question in (answer_range, answer_outlook, answer_soc_table, answer_day):
            self.assertIsNone(question(asked(design(**EMPTY))))


class ReadAt(unittest.TestCase):
    def test_single_figures_are_read_off_where_the_run_is(self) -> None:
        """Tarn Light ends with 83 % of the charge left: the middle of what is used is not half charge."""
        tarn = next(d for d in DEMO if d.stem == "tarn-light")
        ends = evaluate(read_design(tarn.read_bytes()))
        self.assertIn("Resistance at 92", ends.battery.resistance.label)
        self.assertIn("92", ends.supply.flows[0].at)
        for mode in ends.draw.modes:
            self.assertAlmostEqual(mode.peak_current.working.inputs[0].value or 0, 0.92, 2)
        usual = evaluate(read_design(next(d for d in DEMO if d.stem == "dusk-ear").read_bytes()))
        self.assertEqual(
            (usual.battery.resistance.label, usual.supply.flows[0].at), ("Resistance at half charge", "half charge")
        )


class Next(unittest.TestCase):
    def test_what_to_measure_next_names_the_discharge(self) -> None:
        """Two coin cells beside each other at 30 mA: half of that from each."""
        answer = answer_range(asked(read_design(next(d for d in DEMO if d.stem == "tarn-light").read_bytes())))
        assert answer
        self.assertEqual(answer.owners[0].kind, "rate")
        self.assertIn(
            "Find out the charge unavailable at this rate next: a discharge of one cell at 15 mA tells it.",
            plain(answer.sentence),
        )
        known = answer.owners[0].known
        self.assertLess(
            (known.high or 0) - (known.low or 0), 0.5 * ((answer.high.value or 0) - (answer.low.value or 0))
        )


class Ageing(unittest.TestCase):
    def test_lithium_ion_fades_by_the_calendar_and_with_cycles(self) -> None:
        one, four = fade("lithium-ion", 1, 0)[0], fade("lithium-ion", 4, 0)[0]
        self.assertAlmostEqual((1 - four) / (1 - one), 4**0.75)
        by_hand = (7.543 * 3.95 - 23.75) * 1e6 * math.exp(-6976 / 298.15) * 365.25**0.75
        self.assertAlmostEqual(1 - one, by_hand)
        self.assertTrue(0.03 < by_hand < 0.04)
        self.assertGreater(calendar_loss(4.2, 40, 1), 1.8 * calendar_loss(3.7, 40, 1))  # full against half full
        self.assertEqual(calendar_loss(3.0, 40, 1), 0.0)
        iron = [1 - fade("lithium-iron-phosphate", years, 0)[0] for years in (1, 4)]
        self.assertAlmostEqual(iron[1] / iron[0], 4**0.75)
        self.assertAlmostEqual(fade("lithium-ion", 0, 500)[0], 0.8)
        self.assertLess(fade("lithium-ion", 4, 0, 40)[0], four)
        self.assertGreater(fade("lithium-ion", 4, 300)[1], 1.3)

    def test_primary_cells_lose_their_self_discharge_in_the_drawer(self) -> None:
        self.assertAlmostEqual(fade("alkaline", 2, 0, 20)[0], 1 - 24 * 0.0017, places=3)

    def test_the_weakest_of_n(self) -> None:
        self.assertAlmostEqual(weakest_of(2), 1 / np.sqrt(np.pi), places=9)
        self.assertAlmostEqual(weakest_of(3), 1.5 / np.sqrt(np.pi), places=9)
        draws = np.random.default_rng(1).standard_normal((200_000, 8)).min(axis=1)
        self.assertAlmostEqual(weakest_of(8), -float(draws.mean()), delta=0.01)

    def test_a_run_over_the_years_and_over_temperature(self) -> None:
        answer = answer_outlook(asked(design(brief={"goal_h": 100, "coldest_c": -20, "usual_c": 20, "hottest_c": 40})))
        assert answer
        years = [p.hours for p in answer.age]
        self.assertEqual(years, sorted(years, reverse=True))
        cold = {p.at: p.hours for p in answer.temperature}
        self.assertLess(cold[-20.0], 0.9 * cold[20.0])
        self.assertAlmostEqual(cold[20.0], evaluate(design(brief={"goal_h": 100, "coldest_c": -20, "usual_c": 20, "hottest_c": 40}))
                               .runtime.total.value or 0, delta=0.01 * cold[20.0])  # fmt: skip
        self.assertGreater(answer.age[5].full_charges, answer.age[1].full_charges)

    def test_the_year_in_which_the_goal_is_missed(self) -> None:
        hours = evaluate(design()).runtime.total.value or 0
        brief = {"goal_h": hours * 0.9, "coldest_c": 25, "usual_c": 25, "hottest_c": 25}
        answer = answer_outlook(asked(design(brief=brief)))
        assert answer and answer.goal_year is not None
        by = {p.at: p.hours for p in answer.age}
        self.assertLess(by[answer.goal_year], hours * 0.9)
        self.assertGreaterEqual(by[answer.goal_year - 1], hours * 0.9)


class Gauges(unittest.TestCase):
    def test_the_table_falls_from_full_to_where_it_stops(self) -> None:
        for path in DEMO:
            with self.subTest(path.name):
                gadget = read_design(path.read_bytes())
                answer = answer_soc_table(asked(gadget))
                assert answer
                volts = [r.usual_v for r in answer.rows]
                self.assertEqual(volts, sorted(volts, reverse=True))
                self.assertEqual((answer.rows[0].left_percent, answer.rows[-1].left_percent), (100, 0))
                self.assertGreater(answer.threshold.value or 0, answer.last.value or 0)

    def test_csv_and_header_say_the_same(self) -> None:
        answer = answer_soc_table(asked(read_design(DEMO[0].read_bytes())))
        assert answer
        read = list(csv.DictReader(io.StringIO(answer.csv)))
        pairs = [(int(v), int(p)) for v, p in re.findall(r"\{(\d+), (\d+)\},", answer.header)]
        self.assertEqual([p for _, p in pairs], [round(float(r["left_percent"])) for r in read])
        for (millivolt, _), row in zip(pairs, read, strict=True):
            self.assertAlmostEqual(millivolt / 1000, float(row["usual_v"]), delta=0.0011)
        self.assertIn(f"STOP_BELOW_MV {round((answer.threshold.value or 0) * 1000)}u", answer.header)

    def test_a_name_cannot_break_out_of_the_header(self) -> None:
        answer = answer_soc_table(asked(design(name='*/ #include "x" \\ ünï 9')))
        assert answer
        self.assertEqual(answer.header.count("*/"), 2)
        self.assertRegex(answer.header, r"#ifndef [A-Z_][A-Z0-9_]*_SOC_H\n")

    def test_a_flat_curve_is_said_to_tell_little(self) -> None:
        flat = cell(chemistry="lithium-iron-phosphate", cutoff_v=2.5)
        straight = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}
        answer = answer_soc_table(asked(design(battery={"cell": flat, "wiring_ohm": 0}, supply=straight)))
        assert answer
        self.assertIn("counting what was used", answer.sentence)


class DaysAtTheBattery(unittest.TestCase):
    def test_what_the_buckets_take_is_what_the_charge_falls_by(self) -> None:
        gadget = read_design(DEMO[0].read_bytes())
        bench = asked(gadget)
        answer = answer_day(bench, 0.6)
        assert answer
        taken = (answer.charge_from - answer.charge_to) * bench.usual.pack.capacity_ah
        own = bench.usual.pack.self_discharge_a * 24
        self.assertAlmostEqual(float(np.mean(answer.mean_a)) * 24 + own, taken, delta=0.002 * taken)
        self.assertTrue(all(low <= high for low, high in zip(answer.low_v, answer.high_v, strict=True)))

    def test_a_nearly_empty_battery_ends_within_the_day(self) -> None:
        answer = answer_day(asked(design()), 0.01)
        assert answer
        self.assertIn("no longer holds", answer.sentence)


if __name__ == "__main__":
    unittest.main()
