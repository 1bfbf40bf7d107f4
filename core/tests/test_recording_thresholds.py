"""What is told of a recording and of what is typed, from where on: a case on either side of each threshold."""

from __future__ import annotations

import unittest
from pathlib import Path
from types import SimpleNamespace
from typing import cast

import numpy as np

from ember_core import read_design
from ember_core.catalogue import built_in
from ember_core.design import Part
from ember_core.imports.grid_text import SLIP, _is_new
from ember_core.imports.recognise import LEAST_LIKE, _heading_row
from ember_core.load.operating_points import OperatingPoint
from ember_core.measures.bench import TrialBench
from ember_core.traces import Recording, simulated
from ember_core.traces.cutting import LEAST_A, TOO_LONG, Stretch, _by_place, _usual_lengths
from ember_core.traces.judging import MOSTLY, judge_trace
from ember_core.traces.phases import APART, _apart
from ember_core.traces.recording import FAR_MORE, GAP, JUMP, NEAR_TOP, SATURATED

from .gadgets import part, state

DEMO = Path(__file__).resolve().parents[2] / "demo"


def demo_bench(name: str) -> TrialBench:
    return TrialBench(read_design((DEMO / f"{name}.json").read_bytes()), built_in())


def recording(amps: np.ndarray, time_s: np.ndarray | None = None) -> Recording:
    return Recording(np.arange(amps.size) / 100 if time_s is None else time_s, amps)


class Saturated(unittest.TestCase):
    """Of 10,000 samples, so that `SATURATED` of them are 20."""

    def seen(self, at_the_top: int, next_to_it: int) -> bool:
        amps = np.linspace(0.01, 0.5, 10_000)
        amps[:at_the_top] = 1.0
        amps[at_the_top : at_the_top + next_to_it] = 1.0 * (NEAR_TOP + 0.01)
        return recording(amps).saturated_a is not None

    def test_how_often_the_highest_figure_comes(self) -> None:
        often = round(SATURATED * 10_000)
        self.assertFalse(self.seen(often, 0))
        self.assertTrue(self.seen(often + 1, 0))

    def test_how_much_oftener_than_the_next_one(self) -> None:
        self.assertFalse(self.seen(100, round(100 / FAR_MORE)))
        self.assertTrue(self.seen(101, round(100 / FAR_MORE)))

    def test_what_is_not_near_the_top_is_no_next_one(self) -> None:
        amps = np.full(10_000, NEAR_TOP - 1e-6)
        amps[:100] = 1.0
        self.assertEqual(recording(amps).saturated_a, 1.0)
        amps[amps < 1] = NEAR_TOP + 1e-6
        self.assertIsNone(recording(amps).saturated_a)


class Gaps(unittest.TestCase):
    def test_how_long_a_gap_is(self) -> None:
        for longer, gaps in ((GAP * 0.999, 0), (GAP * 1.001, 1)):
            time_s = np.arange(100) * 0.01
            time_s[50:] += (longer - 1) * 0.01
            self.assertEqual(recording(np.ones(100), time_s).facts.gaps, gaps)

    def test_a_change_of_range_is_a_jump_at_a_gap(self) -> None:
        for times, jumps in ((JUMP * 0.999, 0), (JUMP * 1.001, 1)):
            time_s, amps = np.arange(100) * 0.01, np.ones(100)
            time_s[50:] += 1.0
            amps[50:] = times
            self.assertEqual(recording(amps, time_s).facts.at_jumps, jumps)
            amps[:50], amps[50:] = times, 1.0
            self.assertEqual(recording(amps, time_s).facts.at_jumps, jumps)


class Told(unittest.TestCase):
    def notes(self, gaps: int, jumps: int) -> list[str]:
        """Of a recording of the demo with so many gaps, of which so many lie where the current jumps."""
        bench = demo_bench("snow-stake")
        whole, _ = simulated(bench, 40, 500, 7)
        time_s, amps = whole.time_s.copy(), whole.current_a.copy()
        for k in range(gaps):
            at = 1000 * (k + 1)
            time_s[at:] += 0.1
            amps[at - 1 : at + 1] = (1e-3, 1e-3 * JUMP * 1.1) if k < jumps else (1e-3, 1e-3)
        made = recording(amps, time_s)
        self.assertEqual((made.facts.gaps, made.facts.at_jumps), (gaps, jumps))
        return judge_trace(made, bench).notes

    def test_gaps_that_lie_mostly_at_jumps_are_the_meter_s(self) -> None:
        for gaps, jumps, ranging in ((3, 2, False), (4, 3, True), (1, 1, False), (2, 2, True)):
            with self.subTest(f"{jumps} of {gaps}"):
                self.assertEqual(gaps > 1 and jumps > MOSTLY * gaps, ranging)
                self.assertEqual(any("A fixed range" in n for n in self.notes(gaps, jumps)), ranging)

    def test_what_is_far_too_long_for_its_mode_is_the_resting_one(self) -> None:
        bench = demo_bench("rosin-minder")
        mode, lengths = next((m, x) for m, x in _usual_lengths(bench).items() if m != bench.rest)
        for times, rests in ((TOO_LONG * 0.999, False), (TOO_LONG * 1.001, True)):
            seconds = times * max(lengths)
            made = Recording(np.linspace(0.0, seconds, 1001)[:-1], np.full(1000, 0.01))
            found = _by_place(made, bench, [Stretch(mode, 0, 1000)])
            self.assertEqual(found[0].mode == bench.rest, rests, times)


class Phases(unittest.TestCase):
    def groups(self, *amps: float) -> int:
        return len(_apart([(cast(OperatingPoint, SimpleNamespace()), a) for a in amps]))

    def test_how_far_apart_two_phases_are_told(self) -> None:
        self.assertEqual(self.groups(0.01, 0.01 * APART * 0.999), 1)
        self.assertEqual(self.groups(0.01, 0.01 * APART), 2)
        self.assertEqual(self.groups(0.0, LEAST_A * APART * 0.999), 1)
        self.assertEqual(self.groups(0.0, LEAST_A * APART), 2)

    def test_steps_that_are_each_too_small_stay_together(self) -> None:
        self.assertEqual(self.groups(0.010, 0.014, 0.020, 0.029), 1)


class Typed(unittest.TestCase):
    def test_a_slip_in_a_name_makes_no_state(self) -> None:
        """Of ten letters each: what is alike is twice what they share over all, so that seven of ten are `SLIP`."""
        self.assertEqual(SLIP, 0.7)
        own = Part.model_validate(part("p", state("abcdefghij", 1e-3)))
        self.assertFalse(_is_new("abcdefgxyz", own))  # seven of them: a slip
        self.assertTrue(_is_new("abcdefwxyz", own))  # six: another word

    def test_how_much_a_row_has_to_be_like_headings(self) -> None:
        """A known heading among words counts 1, another word half, over all cells of the row."""
        known = {"name"}
        filled = 0.5 * 2  # two words that nobody knows
        for cells, found in ((3, 0), (4, None)):  # a third, and a quarter: the empty ones count
            row = ["quux", "blorb", *[""] * (cells - 2)]
            self.assertEqual(filled / cells > LEAST_LIKE, found is not None)
            self.assertEqual(_heading_row([row, ["a", "1 mA", *[""] * (cells - 2)]], known), found)


if __name__ == "__main__":
    unittest.main()
