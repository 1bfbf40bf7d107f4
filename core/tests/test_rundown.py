"""Run-down tests: of published cells that a physics-based model emptied, spoiled by meters and a late beginning; terms that add up; files with and without a current."""

from __future__ import annotations

import io
import json
import math
import unittest
from functools import cache
from pathlib import Path
from typing import Any, ClassVar

import numpy as np
from validation.compare import calibrated, cell_of, discharge, gadget, state

from ember_core import DocumentError
from ember_core.catalogue import built_in
from ember_core.design.patches import apply_patch
from ember_core.measures.bench import TrialBench
from ember_core.traces import Course, RunDown, course_of, judge_rundown, read_recording, rundown_text, unpacked_course
from ember_core.traces.rundown import BEGAN, LEAST_DONE, MOST_KEPT, OFF, OVER

from .gadgets import plain
from .test_calibration import SETS
from .test_cold_coverage import SETS as COLD_SETS
from .test_cold_coverage import own_cell
from .test_late_and_cold import late
from .test_wiring import DEMOS, bench

SPOILT = ((1.01, 1.0), (0.99, 1.0), (1.0, 1.01), (1.0, 0.99), (1.0, None))  # what the volt- and the ampere-meter show
COLD_COURSES = json.loads((Path(__file__).parent / "data" / "cold_courses.json").read_text())["sets"]
TYPICAL = ("Chen2020", "Marquis2019")  # lithium-ion as the typical cell is


@cache
def of_cell(name: str, rate: str, typical: bool) -> TrialBench:
    data = SETS[name]
    cell = cell_of(data, "lithium-ion", None if typical else calibrated(data, "lithium-ion"))
    if typical:
        cell["measured_ah"] = None
    load = [state("on", "current", float(rate) * data["capacity_ah"])]
    return TrialBench(gadget(cell, load, {"state": "on"}), built_in())


def course(
    name: str, rate: str, volts: float, amps: float | None, share: float = 1.0, gone: float = 0.03
) -> tuple[Course, float]:
    """(what was recorded of a share of a run-down that began when so much was gone, when it really ends [s])."""
    one = late(discharge(SETS[name], rate), gone)
    n = one.time_s <= share * one.time_s[-1]
    current = None if amps is None else np.full(int(n.sum()), one.current_a * amps)
    return Course(one.time_s[n], one.voltage_v[n] * volts, current), float(one.time_s[-1])


def by_design(own: TrialBench, share: float, *, longer: float = 1.0, amps: bool = False) -> Course:
    """What the model itself says, stretched."""
    state = own.usual
    model_v = state.point_weights @ state.typical.terminal_v / state.point_weights.sum()
    time = np.linspace(0, share * state.charge_seconds, 500)
    charge = np.interp(time, state.elapsed_s, state.pack.charge)
    volts = np.interp(charge, state.pack.charge[::-1], model_v[::-1])
    mean = np.interp(charge, state.pack.charge[::-1], state.mean_current_a[::-1])
    return Course(time * longer, volts, mean / longer if amps else None)


class Published(unittest.TestCase):
    def ends(self, typical: bool, share: float) -> list[tuple[float, bool]]:
        """(how far off the end is, whether it lies in the range) of every cell, rate and spoilt meter."""
        found = []
        for name in TYPICAL if typical else SETS:
            for rate in ("0.5", "1.0"):
                for volts, amps in SPOILT:
                    recorded, end_s = course(name, rate, volts, amps, share)
                    told = judge_rundown(recorded, of_cell(name, rate, typical), over=False).ends
                    assert told and told.value and told.low and told.high
                    found.append((told.value * 3600 / end_s - 1, told.low <= end_s / 3600 <= told.high))
        return found

    def test_half_a_run_down_of_a_calibrated_cell_tells_its_end_within_3_percent(self) -> None:
        """Calibrated up to C/2, run down at C/2 and at 1 C, begun at 97 %, a meter 1 % off."""
        for off, _ in self.ends(False, 0.5):
            self.assertLess(abs(off), 0.03)

    def test_eight_of_ten_ends_lie_in_the_range(self) -> None:
        for typical in (False, True):
            inside = [within for share in (0.25, 0.5, 0.75) for _, within in self.ends(typical, share)]
            with self.subTest(typical=typical):
                self.assertGreaterEqual(sum(inside), 0.75 * len(inside))

    def test_a_cell_that_was_never_measured_is_told_wider(self) -> None:
        widths = [
            (told.high - told.low) / told.value
            for typical in (False, True)
            if (told := judge_rundown(course("Chen2020", "0.5", 1, 1, 0.5)[0], of_cell("Chen2020", "0.5", typical), over=False).ends)
            and told.value and told.low and told.high
        ]  # fmt: skip
        self.assertGreater(widths[1], 2 * widths[0])

    def test_a_late_beginning_and_a_meter_are_told_and_good_ones_are_not(self) -> None:
        own = of_cell("Chen2020", "0.5", False)

        def notes(volts: float, gone: float) -> str:
            return plain(
                " ".join(judge_rundown(course("Chen2020", "0.5", volts, 1.0, 1.0, gone)[0], own, over=True).notes)
            )

        self.assertNotIn("began", notes(1, 0.0))
        self.assertNotIn("begun", notes(1, 0.0))
        self.assertIn("begun at about 9", notes(1, 0.06))
        self.assertIn("too much", notes(1.02, 0.0))
        self.assertIn("too little", notes(0.98, 0.0))
        self.assertNotIn("voltmeter", notes(1.0, 0.0))
        self.assertTrue(0.97 < BEGAN < 1 and 0 < OFF < 0.01)


class Cold(unittest.TestCase):
    """Discharges of seven parameter sets from freezing down to -20 degC (Doyle-Fuller-Newman model, PyBaMM), looked at after a quarter, half and three quarters."""

    rows: ClassVar[dict[bool, list[tuple[bool, float]]]]

    @classmethod
    def setUpClass(cls) -> None:
        cls.rows = {fitted: cls.of(fitted) for fitted in (True, False)}

    @staticmethod
    def of(fitted: bool) -> list[tuple[bool, float]]:
        """(whether the end lies in the range, how far off it is)."""
        found = []
        for name, courses in COLD_COURSES.items():
            for key, one in courses.items():
                celsius, rate = (float(x) for x in key.split())
                amps = rate * COLD_SETS[name]["capacity_ah"]
                own = TrialBench(
                    gadget(own_cell(COLD_SETS[name], calibrated=fitted), [state("on", "current", amps)], {"state": "on"}), built_in()
                )  # fmt: skip
                for share in (0.25, 0.5, 0.75):
                    time = np.linspace(0, share * one["end_s"], 200)
                    volts = np.interp(time, one["time_s"], one["voltage_v"])
                    for meter, current in ((1.01, True), (1.0, False)):
                        recorded = Course(time, volts * meter, np.full(200, amps) if current else None)
                        ends = judge_rundown(recorded, own, over=False, at_c=celsius).ends
                        assert ends and ends.value and ends.low and ends.high
                        within = ends.low <= one["end_s"] / 3600 <= ends.high
                        found.append((within, ends.value * 3600 / one["end_s"] - 1))
        return found

    def test_eight_of_ten_ends_of_calibrated_cells_lie_in_the_range_and_three_quarters_of_others(self) -> None:
        for fitted, most in ((True, 0.8), (False, 0.75)):
            inside = [within for within, _ in self.rows[fitted]]
            self.assertGreater(len(inside), 150)
            self.assertGreaterEqual(sum(inside) / len(inside), most, fitted)

    def test_what_is_held_against_a_warm_cell_misses_most(self) -> None:
        """The temperature matters: at -20 degC the same recording told as if it were warm ends far too late."""
        one = COLD_COURSES["Ecker2015"]["-20 0.2"]
        amps = 0.2 * COLD_SETS["Ecker2015"]["capacity_ah"]
        own = TrialBench(
            gadget(own_cell(COLD_SETS["Ecker2015"], calibrated=True), [state("on", "current", amps)], {"state": "on"}),
            built_in(),
        )
        time = np.linspace(0, 0.5 * one["end_s"], 200)
        recorded = Course(time, np.interp(time, one["time_s"], one["voltage_v"]), np.full(200, amps))
        warm, cold = (judge_rundown(recorded, own, over=False, at_c=c) for c in (None, -20.0))
        assert warm.told.value and cold.told.value
        self.assertLess(cold.told.value, 0.9 * warm.told.value)

    def test_what_it_held_in_the_cold_is_not_put_into_a_gadget_of_the_warm(self) -> None:
        own = bench("rosin-minder-rechargeable")
        for celsius, offered in ((10.0, True), (3.0, True), (-3.0, False), (-10.0, False)):
            there = own.at(celsius)
            told = judge_rundown(by_design(there, 1.0, amps=True), own, over=True, at_c=celsius)
            self.assertEqual(told.remedy is not None, offered, celsius)
            self.assertEqual(any("take the cold" in note for note in told.notes), not offered, celsius)
        stake = bench("snow-stake")  # it lives there
        self.assertIsNotNone(judge_rundown(by_design(stake, 1.0, amps=True), stake, over=True, at_c=-8.0).remedy)

    def test_as_warm_as_it_usually_is_nothing_changes(self) -> None:
        own = bench("dusk-ear")
        one = by_design(own, 0.6, amps=True)
        self.assertIs(own.at(own.design.brief.usual_c), own)
        told = judge_rundown(one, own, at_c=own.design.brief.usual_c)
        self.assertEqual(told, judge_rundown(one, own))


class Demos(unittest.TestCase):
    def test_what_does_as_told_ends_as_told(self) -> None:
        for name in DEMOS:
            own = bench(name)
            for amps in (False, True):
                told = judge_rundown(by_design(own, 0.6, amps=amps), own, over=False)
                with self.subTest(name, amps=amps):
                    assert told.ends and told.ends.value and told.ends.low and told.ends.high
                    self.assertLessEqual(told.ends.low, own.usual.charge_seconds / 3600)
                    self.assertGreaterEqual(told.ends.high, own.usual.charge_seconds / 3600)
                    self.assertLess(told.ends.high / told.ends.low, own.estimate.high / own.estimate.low)

    def test_terms_add_up_and_name_the_reason(self) -> None:
        own = of_cell("Chen2020", "0.5", False)
        for longer in (0.7, 1.0, 1.4):  # it drew more, or less, and ended where it should
            told = judge_rundown(by_design(own, 1.0, longer=longer, amps=True), own, over=True)
            self.assertAlmostEqual(
                sum(t.log for t in told.terms), math.log(told.elapsed.value / told.told.value), places=9
            )  # type: ignore[operator]
            by_name = {t.name: t.log for t in told.terms}
            self.assertAlmostEqual(by_name["What it draws"], math.log(longer), delta=0.03)
            self.assertAlmostEqual(by_name["The voltage at which it gives way"], 0.0, delta=0.01)

    def test_what_the_cell_held_is_put_into_the_design_and_then_nothing_is_left_of_it(self) -> None:
        """A promise is applied: the same run-down of the changed design finds the cell as told, and its runtime is the one that was promised."""
        for name in DEMOS:
            own = bench(name)
            for held in (0.8, 1.25):
                one = by_design(own, 1.0, longer=held, amps=True)
                assert one.amps is not None
                recorded = Course(
                    one.time_s, one.volts, one.amps * held
                )  # as much current for longer: the cell held so much
                told = judge_rundown(recorded, own, over=True)
                with self.subTest(name, held=held):
                    if told.remedy is None and name == "tarn-light":
                        continue  # no capacity alone gives that
                    assert told.remedy is not None and told.runtime_h is not None
                    after = TrialBench(apply_patch(own.design, told.remedy.patch), built_in())
                    if name != "tarn-light":  # two coin cells, which give way with most of their charge left
                        self.assertAlmostEqual(
                            after.usual.pack.capacity_ah / own.usual.pack.capacity_ah, held, delta=0.04
                        )
                    again = judge_rundown(recorded, after, over=True)
                    cell = {t.name: t.log for t in again.terms}["What the cell holds"]
                    self.assertAlmostEqual(cell, 0.0, delta=0.02)
                    self.assertAlmostEqual(
                        after.usual.seconds * own.typical_to_said / 3600 / told.runtime_h, 1.0, delta=1e-6
                    )

    def test_far_from_the_end_or_without_a_current_nothing_is_put_in(self) -> None:
        own = bench("dusk-ear")
        for share, offered in ((0.88, True), (0.84, False)):
            told = judge_rundown(by_design(own, share, amps=True), own, over=True)
            self.assertEqual(told.remedy is not None, offered, share)
        self.assertIsNone(judge_rundown(by_design(own, 1.0), own, over=True).remedy)
        self.assertIsNone(judge_rundown(by_design(own, 1.0, amps=True), own, over=False).remedy)

    def test_a_meter_that_lies_the_other_way_round_tells_the_same_and_one_that_reads_nothing_breaks_nothing(
        self,
    ) -> None:
        own = bench("dusk-ear")
        one = by_design(own, 0.9, amps=True)
        assert one.amps is not None
        for over in (True, False):
            self.assertEqual(
                judge_rundown(Course(one.time_s, one.volts, -one.amps), own, over=over),
                judge_rundown(one, own, over=over),
            )
            told = judge_rundown(Course(one.time_s, one.volts, 0 * one.amps), own, over=over)
            self.assertTrue(told.ends is None or math.isfinite(told.ends.high or 0))

    def test_one_that_gives_way_early_is_told_so(self) -> None:
        own = of_cell("Chen2020", "0.5", False)
        for share in (0.8, 0.95):
            told = judge_rundown(by_design(own, share, amps=True), own, over=True)
            by_name = {t.name: t.log for t in told.terms}
            self.assertAlmostEqual(by_name["The voltage at which it gives way"], math.log(share), delta=0.03)
            self.assertAlmostEqual(by_name["What it draws"], 0.0, delta=0.03)

    def test_one_that_goes_on_below_the_end_is_told_so(self) -> None:
        """Ten percent longer, at a voltage that goes on falling below the design's own end."""
        own = bench("dusk-ear")
        first = by_design(own, 1.0, amps=True)
        assert first.amps is not None
        time = np.append(first.time_s, first.time_s[-1] * np.linspace(1.002, 1.1, 50))
        volts = np.append(first.volts, first.volts[-1] - np.linspace(0.002, 0.3, 50))
        told = judge_rundown(Course(time, volts, np.append(first.amps, np.full(50, first.amps[-1]))), own, over=True)
        self.assertAlmostEqual(sum(t.log for t in told.terms), math.log(told.elapsed.value / told.told.value), places=9)  # type: ignore[operator]
        self.assertAlmostEqual(told.terms[-1].log, math.log(1.1), delta=0.02)

    def test_without_a_current_load_and_cell_are_one(self) -> None:
        own = of_cell("Chen2020", "0.5", False)
        told = judge_rundown(by_design(own, 1.0, longer=1.2), own, over=True)
        self.assertEqual(len(told.terms), 2)
        self.assertAlmostEqual(told.terms[0].log, math.log(1.2), delta=0.03)
        self.assertIn("only a recorded current", rundown_text(told))

    def test_too_early_to_say(self) -> None:
        own = bench("dusk-ear")
        share = own.runtime_s / own.usual.charge_seconds * LEAST_DONE
        self.assertIsNone(judge_rundown(by_design(own, share * 0.98), own).ends)
        self.assertIsNotNone(judge_rundown(by_design(own, share * 1.02), own).ends)

    def test_dead_is_seen_by_the_current(self) -> None:
        own = bench("dusk-ear")
        for share, dead in ((OVER * 0.8, True), (OVER * 1.2, False)):
            one = by_design(own, 0.9, amps=True)
            assert one.amps is not None
            amps = np.append(one.amps[:-1], float(one.amps.mean()) * share)
            self.assertEqual(judge_rundown(Course(one.time_s, one.volts, amps), own).over, dead)
        self.assertFalse(judge_rundown(by_design(own, 0.9), own).over)
        for amps_a in (0.0, -1e-6):  # one point tells nothing yet
            self.assertFalse(judge_rundown(Course.begun(4.0, amps_a), own).over)


class Files(unittest.TestCase):
    def read(self, text: str, **units: str) -> Course:
        return course_of(read_recording(io.BytesIO(text.encode()), units, run_down=True))

    def test_with_and_without_a_current(self) -> None:
        rows = "\n".join(f"{k},{4 - 0.01 * k:.2f},{5}" for k in range(60))
        with_it = self.read("time [min],voltage [V],current [mA]\n" + rows)
        assert with_it.amps is not None and with_it.drawn_ah is not None
        np.testing.assert_allclose(with_it.amps, 0.005)
        self.assertAlmostEqual(float(with_it.drawn_ah[-1]), 0.005 * 59 / 60)
        without = self.read(
            "\n".join(["t [min];U [V]", *(f"{k};{4 - 0.01 * k:.2f}".replace(".", ",") for k in range(60))])
        )
        self.assertIsNone(without.amps)
        np.testing.assert_allclose(without.volts, with_it.volts)
        np.testing.assert_allclose(without.time_s, with_it.time_s)

    def test_a_file_without_a_voltage_is_refused(self) -> None:
        with self.assertRaises(DocumentError) as refused:
            self.read("time [s],current [A]\n" + "\n".join(f"{k},1" for k in range(60)))
        self.assertIn("voltage", refused.exception.problems[0].message)

    def test_it_is_kept_small_and_read_back(self) -> None:
        for amps in (None, np.full(50_000, 0.02)):
            time = np.arange(50_000) * 1.0
            long = course_of(read_like(time, 4 - time / 1e5, amps))
            self.assertLessEqual(long.time_s.size, MOST_KEPT)
            back = unpacked_course(long.packed())
            np.testing.assert_allclose(back.volts, long.volts, rtol=1e-6)
            self.assertEqual(back.amps is None, amps is None)

    def test_noise_and_nonsense_are_answered(self) -> None:
        own = bench("dusk-ear")
        time = np.linspace(0, own.usual.charge_seconds / 2, 200)
        for volts in (np.full(200, 12.0), np.full(200, 0.5), np.linspace(3, 4.2, 200)):
            told: RunDown = judge_rundown(Course(time, volts, None), own)
            assert told.ends is not None
            figures: list[Any] = [told.ends.value, told.ends.low, told.ends.high, told.left]
            self.assertTrue(all(f is not None and math.isfinite(f) for f in figures))


def read_like(time: np.ndarray, volts: np.ndarray, amps: np.ndarray | None) -> Any:
    from ember_core.traces import Recording

    return Recording(time, np.full(time.size, np.nan) if amps is None else amps, volts)
