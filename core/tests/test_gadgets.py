"""Whole gadgets as makers build them: what is found is true, and nothing else is found."""

from __future__ import annotations

import unittest

from ember_core import Design, evaluate
from ember_core.catalogue import built_in
from ember_core.figures import Verdict
from ember_core.measures.bench import TrialBench
from ember_core.studies.judging import Judged

from . import workbench
from .gadgets import plain
from .gadgets import seen as found


class Gadgets(unittest.TestCase):
    def judged(self, gadget: Design, *codes: str, sleeps: bool) -> dict[str, Verdict]:
        judged = Judged.of(gadget, built_in())
        self.assertEqual(sorted({f.code for f in judged.found}), sorted(codes))
        self.assertEqual(judged.bench.sleeps, sleeps)
        return {v.key: v for v in evaluate(gadget).verdicts}

    def test_a_night_light_that_is_on_for_ever_is_no_sleeper(self) -> None:
        verdicts = self.judged(workbench.night_light(), "no-holder", "reversal", sleeps=False)
        self.assertTrue(3 < (verdicts["runtime"].figure.value or 0) < 12)
        self.assertEqual(verdicts["runtime"].word, "no goal set")

    def test_a_bicycle_light_behind_a_hard_switch_is_silent_while_off(self) -> None:
        verdicts = self.judged(workbench.bicycle_light(), "fold-back", "reversal", sleeps=True)
        self.assertEqual(verdicts["weakest"].status, "pass")
        self.assertEqual(verdicts["heat"].status, "pass")

    def test_a_greenhouse_sensor_outlasts_its_cells(self) -> None:
        verdicts = self.judged(
            workbench.greenhouse_sensor(), "above-range", "no-holder", "reversal", "shelf-life", sleeps=True
        )
        self.assertAlmostEqual(verdicts["runtime"].figure.value or 0, 15 * 8766, delta=150)
        self.assertIn("About 15 years, then the cell itself is old", plain(verdicts["runtime"].sentence))
        self.assertAlmostEqual(
            (verdicts["runtime"].figure.low or 0) * 1.4, 15 * 8766, delta=0.05 * 15 * 8766
        )  # the cell's keeping alone

    def test_a_radio_remote_on_a_coin_cell(self) -> None:
        self.judged(workbench.radio_remote(), "no-holder", "shelf-life", sleeps=True)

    def test_a_desk_meter_on_the_port_for_ever(self) -> None:
        verdicts = self.judged(workbench.desk_meter(), "port-overload", sleeps=False)
        self.assertIn("USB port feeds it", verdicts["runtime"].sentence)
        self.assertEqual(verdicts["charge"].status, "pass")

    def test_a_power_bank_that_dies_after_half_a_minute(self) -> None:
        dying = workbench.trail_camera("bank-5000")
        verdicts = self.judged(dying, "switches-off", "printed-capacity", sleeps=True)
        self.assertEqual((verdicts["runtime"].status, verdicts["runtime"].word), ("fail", "bank switches off"))
        self.assertAlmostEqual(verdicts["runtime"].figure.value or 0, 30 / 3600)
        self.assertIn("after 30 s", plain(verdicts["runtime"].sentence))
        self.assertIn("after 30 s", found(dying, "switches-off")[0].sentence)
        alive = self.judged(
            workbench.trail_camera("bank-10000-trickle"), "capacity-lost", "printed-capacity", sleeps=True
        )
        self.assertGreater(alive["runtime"].figure.value or 0, 240)

    def test_a_speaker_on_two_and_three_cells(self) -> None:
        for cells in (2, 3):
            verdicts = self.judged(
                workbench.speaker(cells, cells), "fold-back", "no-protection", "not-balanced", "reversal", sleeps=True
            )
            self.assertEqual((verdicts["charge"].status, verdicts["charge"].word), ("fail", "not protected"))
            wrong = self.judged(
                workbench.speaker(cells, 1),
                "charger-for-another-pack",
                "no-protection",
                "not-balanced",
                "reversal",
                sleeps=True,
            )
            self.assertEqual((wrong["charge"].status, wrong["charge"].word), ("fail", "wrong charger"))
            self.assertIsNone(wrong["charge"].figure.value)

    def test_a_toy_car_runs_through_a_fuse_that_is_too_small_and_is_told_so(self) -> None:
        verdicts = self.judged(
            workbench.toy_car(),
            "no-flyback",
            "no-holder",
            "overload",
            "overvoltage",
            "reversal",
            "stalled-motor",
            sleeps=True,
        )
        self.assertGreater(verdicts["runtime"].figure.value or 0, 100)
        self.assertEqual((verdicts["weakest"].status, verdicts["weakest"].word), ("fail", "too much voltage"))
        severities = {
            plain(f.sentence).split(" through ")[1].split(",")[0]: f.severity
            for f in found(workbench.toy_car(), "overload")
        }
        self.assertEqual(severities, {"Self-resetting fuse": "fix", "Slide switch": "watch"})

    def test_what_the_maker_says_of_resting_counts(self) -> None:
        light = workbench.night_light()
        told = light.model_copy(update={"day": light.day.model_copy(update={"rest_works": False})})
        self.assertTrue(TrialBench(told, built_in()).sleeps)
        sleeper = workbench.radio_remote()
        told = sleeper.model_copy(update={"day": sleeper.day.model_copy(update={"rest_works": True})})
        self.assertFalse(TrialBench(told, built_in()).sleeps)


class Zero(unittest.TestCase):
    """A runtime of nothing, a design without a load, no battery left: every answer still answers."""

    def everything(self, gadget: Design) -> None:
        from ember_core.studies import (
            answer_cells,
            answer_charge,
            answer_day,
            answer_heat,
            answer_outlook,
            answer_rail,
            answer_range,
            answer_remedies,
            answer_savings,
            answer_soc_table,
        )
        from ember_core.summary import summary

        bench = TrialBench(gadget, built_in())
        summary(gadget, evaluate(gadget), savings=True)
        for answer in (answer_cells, answer_soc_table, answer_outlook, answer_range, answer_remedies, answer_savings):
            answer(bench)  # type: ignore[operator]
        answer_day(bench, 0.5, 0)
        answer_charge(bench)
        answer_heat(bench)
        for rail in range(len(gadget.supply.rails)):
            answer_rail(bench, rail)

    def test_a_gadget_that_does_not_run_at_all(self) -> None:
        never = workbench.gadget(
            parts=[workbench.taken("part-ctl-dual", "chip", supply_min_v=4.9, supply_recommended_max_v=None, supply_absolute_max_v=5.5)],
            modes=[workbench.mode("asleep", {"chip": "deep sleep"}), workbench.mode("awake", {"chip": "radio"})],
            supply={"rails": workbench.STRAIGHT}, battery={"cell": workbench.entry("cell-pouch-301230")},
            day={"rest": "asleep", "sessions": [{"name": "Use", "mode": "awake", "seconds": 60, "per_day": 1}]},
            brief={"goal_h": 10},
        )  # fmt: skip
        total = evaluate(never).runtime.total
        self.assertEqual((total.low, total.value, total.high), (0.0, 0.0, 0.0))
        self.assertEqual(next(v for v in evaluate(never).verdicts if v.key == "runtime").word, "does not run")
        self.everything(never)

    def test_a_gadget_without_a_load(self) -> None:
        empty = workbench.gadget(
            modes=[workbench.mode("asleep", {})], supply={"rails": workbench.STRAIGHT},
            battery={"cell": workbench.entry("cell-aa-alkaline"), "series": 2}, day={"rest": "asleep"},
        )  # fmt: skip
        self.assertIsNone(evaluate(empty).runtime.total.value)
        self.everything(empty)

    def test_a_cell_that_has_nothing_left(self) -> None:
        spent = workbench.greenhouse_sensor()
        battery = spent.battery.model_copy(update={"age_years": 40, "cycles": 20000})
        self.everything(spent.model_copy(update={"battery": battery}))

    def test_the_gadgets_of_the_bench(self) -> None:
        for gadget in (
            workbench.trail_camera("bank-5000"),
            workbench.desk_meter(),
            workbench.bicycle_light(),
            workbench.speaker(3, 1),
        ):
            self.everything(gadget)
