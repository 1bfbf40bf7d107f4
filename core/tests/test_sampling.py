"""The sampled runtime: its distributions, its median and range against closed forms."""

from __future__ import annotations

import unittest
from pathlib import Path
from unittest.mock import patch

import numpy as np
from scipy.special import ndtr, ndtri
from validation.typical import steady as cold_cylinder

from ember_core import evaluate, read_design
from ember_core.battery.pack import RESISTANCE, charge_grid
from ember_core.design import CurrentRange, Design
from ember_core.runtime import uncertainty
from ember_core.runtime.run import EARLY, Run, run
from ember_core.runtime.spans import Span, draw_span
from ember_core.runtime.uncertainty import (
    AT_EVERY_EDIT,
    NEAR_EMPTY,
    ON_DEMAND,
    Uncertain,
    _charges,
    _held,
    _others,
    _positions,
    sample_runtime,
)
from ember_core.supply.solver import solve

from .gadgets import LINEAR, asleep, cell, design, part, state, use
from .randoms import random_design
from .test_stages import BOOST

DEMO = sorted((Path(__file__).resolve().parents[2] / "demo").glob("*.json"))
BARE = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}


def steady(*parts: dict[str, object], **battery: object) -> object:
    return design(
        parts=list(parts), modes=asleep(*(use(str(p["id"]), "on") for p in parts)), supply=BARE,
        battery={"cell": cell(resistance_ohm=0, cutoff_v=2.5, capacity_ah=1.0), "wiring_ohm": 0} | battery, day={"rest": "asleep"},
    )  # fmt: skip


class Distribution(unittest.TestCase):
    NORMAL = ndtri(np.linspace(0.0005, 0.9995, 1000))

    def test_least_typical_and_most_are_its_percentiles(self) -> None:
        for least, typical, most in ((0.5, 1.0, 2.0), (0.0, 1.0, 1.5), (0.0, 0.0, 1.0), (0.9, 1.0, 1.05)):
            with self.subTest(min=least, max=most):
                found = np.percentile(Span(least, typical, most).values(self.NORMAL), [10, 50, 90])
                np.testing.assert_allclose(found, [least, typical, most], atol=0.01)

    def test_nothing_below_zero(self) -> None:
        self.assertGreaterEqual(float(Span(0.0, 1.0, 2.0).values(np.array([-5.0, 5.0])).min()), 0.0)

    def test_a_datasheet_guarantees_its_limits_and_a_guess_does_not(self) -> None:
        span = CurrentRange(typical=1.0, min=0.5, max=2.0)
        sure, unsure = (draw_span(span, p).values(self.NORMAL) for p in ("datasheet", "guess"))
        np.testing.assert_allclose(np.percentile(sure, [1, 50, 99]), [0.5, 1, 2], rtol=0.02)
        np.testing.assert_allclose(np.percentile(unsure, [10, 50, 90]), [0.5, 1, 2], rtol=0.02)
        np.testing.assert_allclose(
            np.percentile(draw_span(CurrentRange(typical=1.0), "datasheet").values(self.NORMAL), [10, 90]),
            [0.8, 1.3],
            rtol=0.02,
        )

    def test_a_most_of_ten_times_the_typical_figure_is_a_ceiling(self) -> None:
        for most, beyond in ((9.9, True), (10.0, False)):
            values = draw_span(CurrentRange(typical=1.0, max=most), "guess").values(self.NORMAL)
            self.assertEqual(float(values.max()) > most * 1.001, beyond, most)

    def test_columns_are_stratified_alike_and_uncorrelated(self) -> None:
        inputs = [Uncertain("draw", f"p{i}", "on") for i in range(40)]
        columns = _positions(tuple(inputs), 128)
        for column in columns.T:
            self.assertEqual(np.unique(np.floor(ndtr(column) * 128)).size, 128)
        self.assertLess(float(np.abs(np.corrcoef(columns.T) - np.eye(40)).max()), 0.12)

    def test_an_input_more_moves_no_other_one(self) -> None:
        inputs = [Uncertain("capacity"), Uncertain("draw", "a", "on"), Uncertain("draw", "b", "on")]
        np.testing.assert_array_equal(_positions(tuple(inputs), 128)[:, :2], _positions(tuple(inputs[:2]), 128))


def sure(*parts: dict[str, object], **more: object) -> Run:
    """Everything known but the draws: a measured cell, no self-discharge to speak of, no stages, no use."""
    return run(steady(*parts, **more))  # type: ignore[arg-type]


class Range(unittest.TestCase):
    def test_one_uncertain_current_gives_the_inverse_range(self) -> None:
        """t = Q / I: a current between 5 and 20 mA at the outermost hundredths (10 mA typical), the rest nearly known."""
        base = sure(part("chip", state("on", 0.01, min=0.005, max=0.02)))
        samples = sample_runtime(base, ON_DEMAND)
        self.assertAlmostEqual(samples.median / base.seconds, 1.0, delta=0.02)
        self.assertAlmostEqual(samples.percentile(1) / base.seconds, 0.5, delta=0.03)
        self.assertAlmostEqual(samples.percentile(99) / base.seconds, 2.0, delta=0.12)
        tenth = 0.5 ** (1.2816 / 2.3263)
        self.assertAlmostEqual(samples.low / base.seconds, tenth, delta=0.02)

    def test_few_samples_say_what_many_say(self) -> None:
        for path in DEMO:
            with self.subTest(path.name):
                base = run(read_design(path.read_bytes()))
                few, many = sample_runtime(base, AT_EVERY_EDIT), sample_runtime(base, 16 * ON_DEMAND).seconds
                right = np.percentile(many, [10, 50, 90])
                for mine, other in zip((few.low, few.median, few.high), right, strict=True):
                    self.assertAlmostEqual(mine / other, 1.0, delta=0.01)

    def test_the_uncertain_input_causes_the_range(self) -> None:
        wild = part("wild", state("on", 0.01, min=0.004, max=0.025))
        tame = part("tame", state("on", 0.01, min=0.0098, max=0.0102))
        for count in (AT_EVERY_EDIT, ON_DEMAND):
            samples = sample_runtime(sure(wild, tame), count)
            owners = samples.owners
            self.assertEqual((owners[0].input.subject, owners[0].input.state), ("wild", "on"))
            self.assertGreater(owners[0].share, 0.85)
            self.assertLess(next(o.share for o in owners if o.input.subject == "tame"), 0.03)
            self.assertGreater(owners[0].known_low_s, samples.low * 1.2)

    def test_two_alike_inputs_share_the_range(self) -> None:
        alike = [part(key, state("on", 0.01, min=0.007, max=0.014)) for key in ("a", "b")]
        shares = {o.input.subject: o.share for o in sample_runtime(sure(*alike), ON_DEMAND).owners}
        self.assertAlmostEqual(shares["a"], shares["b"], delta=0.06)
        self.assertAlmostEqual(shares["a"] + shares["b"], 1.0, delta=0.15)

    def known_only(self, kind: str, base: Run) -> float:
        """log(P90 / P10) that one input alone explains, from a thousand samples."""
        samples = sample_runtime(base, ON_DEMAND)
        k = next(i for i, x in enumerate(samples.inputs) if x.kind == kind)
        column, logs = samples.normal[:, k], np.log(samples.seconds)
        slope = float(np.polyfit(column, logs, 1)[0])
        return abs(slope) * 2 * 1.2816

    def test_how_it_is_used_counts_by_its_factor_and_not_at_all_when_switched_off(self) -> None:
        def used(factor: float) -> Run:
            brief = {"goal_h": 100, "coldest_c": 25, "usual_c": 25, "hottest_c": 25, "use_factor": factor}
            exact = part("chip", state("sleep", 0.0), state("active", 0.1))
            return run(design(parts=[exact], brief=brief))

        self.assertAlmostEqual(self.known_only("use", used(1.5)), 2 * np.log(1.5), delta=0.06)
        self.assertNotIn("use", [x.kind for x in sample_runtime(used(1.0)).inputs])

    def test_quiescent_current_counts_by_its_share(self) -> None:
        """A regulator that takes as much as its load: half of the current is uncertain by 1.5."""
        stage = LINEAR | {"quiescent_a": 0.01}
        rails = [{"id": "main", "name": "Main", "feed": "reg"}]
        base = run(design(parts=[part("chip", state("on", 0.01))], modes=asleep(use("chip", "on")), day={"rest": "asleep"},
                          supply={"stages": [stage], "rails": rails}))  # fmt: skip
        self.assertAlmostEqual(self.known_only("quiescent", base), 0.5 * 2 * np.log(1.5), delta=0.05)

    def test_a_converters_losses_count_by_their_share(self) -> None:
        """90 % efficiency: a tenth of what is taken is uncertain by 1.25."""
        rails = [{"id": "main", "name": "Main", "feed": "boost"}]
        points = [{"current_a": a, "efficiency": 0.9, "input_v": 3.7} for a in (0.01, 0.05, 0.1)]
        stage = BOOST | {"quiescent_a": 0, "points": points}
        base = run(design(parts=[part("chip", state("on", 0.05))], modes=asleep(use("chip", "on")), day={"rest": "asleep"},
                          supply={"stages": [stage], "rails": rails}))  # fmt: skip
        self.assertAlmostEqual(self.known_only("efficiency", base), 0.1 * 2 * np.log(1.25), delta=0.01)

    def test_age_and_cold_are_uncertain_where_they_take_something(self) -> None:
        new, old = (sample_runtime(sure(part("chip", state("on", 0.01)), age_years=y)) for y in (0, 6))
        self.assertNotIn("ageing", [x.kind for x in new.inputs])
        self.assertIn("ageing", [x.kind for x in old.inputs])
        self.assertGreater(old.high / old.low, 1.02 * new.high / new.low)

    def test_nothing_outlasts_the_cell(self) -> None:
        frugal = cell(chemistry="lithium-thionyl", resistance_ohm=0, cutoff_v=2.5)
        samples = sample_runtime(sure(part("chip", state("on", 1e-6)), cell=frugal))
        self.assertAlmostEqual(samples.median / 31557600, 15.0, delta=0.3)
        self.assertLess(samples.high / 31557600, 15.0 * 1.45)  # the cell, not what its charge would last

    def test_the_same_design_gives_the_same_samples(self) -> None:
        base = run(read_design(DEMO[0].read_bytes()))
        np.testing.assert_array_equal(sample_runtime(base).seconds, sample_runtime(base).seconds)

    def test_samples_that_do_not_work_at_all_last_no_time(self) -> None:
        chip = part("chip", state("sleep", 0.001), state("active", 0.1, min=0.05, max=8.0), supply_min_v=3.1)
        samples = sample_runtime(run(design(parts=[chip])))
        self.assertTrue(np.all(samples.seconds >= 0))
        self.assertLess(samples.percentile(5), 0.2 * samples.percentile(50) + 1)


class Start(unittest.TestCase):
    def test_a_charge_that_ends_early_only_shortens(self) -> None:
        """One charge in ten ends below 96 %; none is fuller than full, and primary cells are not charged."""
        state_ = run(steady(part("load", state("on", 0.01))))  # type: ignore[arg-type]
        span = _others(state_)[Uncertain("start")]
        values = span.values(ndtri(np.linspace(0.0005, 0.9995, 1000)))
        self.assertEqual(float(values.max()), 1.0)
        self.assertAlmostEqual(float(np.percentile(values, 10)), 0.96, places=3)
        primary = design(battery={"cell": cell(chemistry="alkaline", cutoff_v=0.9), "wiring_ohm": 0})
        self.assertNotIn(Uncertain("start"), _others(run(primary)))


class Shelf(unittest.TestCase):
    def test_how_long_a_cell_keeps_has_a_width(self) -> None:
        """A coin cell that hardly anything draws from: ten years, seven to fourteen, and no width where the charge is gone long before."""
        coin = cell(chemistry="lithium-coin", form="coin", capacity_ah=0.235, cutoff_v=2.0, resistance_ohm=14, discharge_max_a=0.02, charge_max_a=None, size_mm=[20, 20, 3.2], mass_g=3)  # fmt: skip
        for amps, told in ((1e-8, True), (2e-5, False)):
            made = design(
                parts=[part("p", state("on", amps), rail="raw")],
                modes=asleep(use("p", "on")),
                day={"rest": "asleep"},
                supply={"rails": [{"id": "raw", "name": "Raw", "feed": "battery"}]},
                battery={"cell": coin},
            )
            found = run(made)
            self.assertEqual(Uncertain("shelf") in _others(found), told)
            if told:
                samples, years = sample_runtime(found), 365.25 * 86400
                self.assertAlmostEqual(samples.median / years, 10, delta=0.3)
                self.assertAlmostEqual(samples.low / years, 10 / 1.4, delta=0.4)
                self.assertAlmostEqual(samples.high / years, 14, delta=0.7)


class Cold(unittest.TestCase):
    def test_the_samples_know_what_charge_transfer_spares(self) -> None:
        """Half a C at -20 °C: without it, or with it the wrong way round, the samples would end far before the typical gadget."""
        base = run(cold_cylinder("cell-cyl-18650", 1.2, 3.0, -20.0))
        self.assertGreater(float(base.pack.transfer_spared_v(np.array(1.2)).max()), 0.1)
        self.assertAlmostEqual(sample_runtime(base, ON_DEMAND).median / base.seconds, 1.0, delta=0.15)

    def test_hard_use_below_freezing_is_wide_and_says_why(self) -> None:
        """Half a C and 0 °C are the limits, and both have to be passed; on one, two and three cells in series."""

        def gadget(rate: float, celsius: float, series: int = 1) -> Design:
            parts = [part("load", state("on", rate))]
            brief = {"coldest_c": celsius, "usual_c": 20, "hottest_c": 30}
            battery = {
                "cell": cell(capacity_ah=1.0, discharge_max_a=5, resistance_ohm=0.01),
                "series": series,
                "wiring_ohm": 0,
            }
            return design(parts=parts, modes=asleep(use("load", "on")), day={"rest": "asleep"}, brief=brief, battery=battery,
                          supply={"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]})  # fmt: skip

        for series in (1, 2, 3):
            for rate, celsius, rough in ((0.51, -1, True), (0.49, -1, False), (0.51, 0, False), (0.51, 1, False)):
                with self.subTest(series=series, rate=rate, celsius=celsius):
                    made = gadget(rate, celsius, series)
                    spread = _others(run(made, celsius))[Uncertain("resistance")].max
                    asked = 1 + max(run(made, celsius).cell_a[0] / 1.0 - 0.5, 0.0)
                    self.assertAlmostEqual(spread, RESISTANCE * asked, places=6)
                    self.assertEqual("the range is wide" in evaluate(made).runtime.coldest.working.note, rough)


class Ends(unittest.TestCase):
    """Where a battery gives way long before it is empty, 13 points from full to empty see the end too coarsely: up to a half off."""

    def range_of(self, state: Run, charges: int | None = None) -> np.ndarray:
        if charges is None:
            found = sample_runtime(state)
        else:
            even = charge_grid(charges)
            with patch.multiple(uncertainty, _charges=lambda _end: even, EARLY=2.0):
                found = sample_runtime(state)
        return np.array([found.low, found.median, found.high])

    def test_the_range_of_what_ends_early_is_that_of_a_fine_grid(self) -> None:
        tarn = read_design((Path(__file__).parents[2] / "demo" / "tarn-light.json").read_text())
        for celsius in (5.0, 15.0, 25.0):
            with self.subTest(celsius=celsius):
                state = run(tarn, celsius)
                self.assertGreater(state.ending[1], EARLY)
                fine, coarse = self.range_of(state, 161), self.range_of(state, 13)
                self.assertGreater(float(np.abs(coarse / fine - 1).max()), 0.05)  # what is mended
                np.testing.assert_allclose(self.range_of(state), fine, rtol=0.05)

    def test_few_points_near_the_end_do_where_it_lasts_until_nearly_empty(self) -> None:
        """Of demos and drawn gadgets, at their usual and coldest temperature: within a hundredth of what 161 points give, closer than 13; in one look
        with a few more points where they end a little earlier."""
        off = {"few": [], "even": []}  # type: dict[str, list[float]]
        for made in (*(read_design(f.read_text()) for f in DEMO), *(random_design(seed) for seed in range(30))):
            for celsius in {made.brief.usual_c, made.brief.coldest_c}:
                state = run(made, celsius)
                if state.seconds <= 0 or state.ending[1] > EARLY:
                    continue
                fine = self.range_of(state, 161)
                if state.ending[1] > NEAR_EMPTY:
                    np.testing.assert_allclose(self.range_of(state), fine, rtol=0.02)
                    continue
                self.assertLessEqual(_charges(state.ending[1]).size, 6)
                off["few"].append(float(np.abs(self.range_of(state) / fine - 1).max()))
                off["even"].append(float(np.abs(self.range_of(state, 13) / fine - 1).max()))
        self.assertGreater(len(off["few"]), 30)
        self.assertLess(max(off["few"]), 0.01)
        self.assertLess(np.median(off["few"]), 0.7 * np.median(off["even"]))

    def test_which_states_of_charge_on_both_sides_of_the_limits(self) -> None:
        """Few up to 15 % left, more up to a quarter, all over besides beyond; each from full to empty, falling."""
        sizes = []
        for end in (0.0, NEAR_EMPTY, NEAR_EMPTY + 1e-9, EARLY, EARLY + 1e-9, 1.0):
            grid = _charges(end)
            self.assertEqual((grid[0], grid[-1]), (1.0, 0.0))
            self.assertTrue(bool(np.all(np.diff(grid) < 0)))
            sizes.append(grid.size)
        self.assertEqual(sizes, [5, 6, 12, 12, 49, 44])

    def test_drawn_gadgets_that_end_early_too(self) -> None:
        """Against 161 even points: half of them within 0.3 %, three of four within 1 %; those that run for minutes are left out of it."""
        off = []
        for seed in range(220):
            made = random_design(seed)
            for celsius in (made.brief.usual_c, 45.0):
                state = run(made, celsius)
                if EARLY < state.ending[1] < 0.9 and state.seconds > 0:
                    fine = self.range_of(state, 161)
                    if fine.min() <= 0:
                        continue
                    off.append(float(np.abs(self.range_of(state) / fine - 1).max()))
        self.assertGreater(len(off), 8)
        self.assertLess(float(np.median(off)), 0.003)
        self.assertLess(float(np.percentile(off, 75)), 0.01)

    def test_a_rough_solution_is_near_the_exact_one(self) -> None:
        for made in (random_design(seed) for seed in range(20)):
            state = run(made)
            exact = solve(state.tree, state.all_loads, state.pack)
            rough = solve(state.tree, state.all_loads, state.pack, rough=True)
            self.assertLess(
                np.mean(rough.collapsed != exact.collapsed), 1e-3
            )  # what only just runs away does so slowly
            holds = ~exact.collapsed & ~rough.collapsed
            np.testing.assert_allclose(rough.terminal_v[holds], exact.terminal_v[holds], atol=2e-5)
            np.testing.assert_allclose(rough.source_a[holds], exact.source_a[holds], rtol=1e-3, atol=1e-12)

    def test_a_collapsed_source_draws_what_it_drew_before(self) -> None:
        amps = np.array([[1.0, 2.0, 9.0, 9.0], [9.0, 1.0, 2.0, 3.0], [1.0, 9.0, 3.0, 9.0]])
        collapsed = amps == 9.0
        np.testing.assert_array_equal(_held(amps, collapsed), [[1, 2, 2, 2], [9, 1, 2, 3], [1, 1, 3, 3]])
        self.assertIs(_held(amps, np.zeros_like(collapsed)), amps)

    def test_what_lasts_until_empty_is_looked_at_once(self) -> None:
        late = sure(part("chip", state("on", 0.01, min=0.005, max=0.02)))
        self.assertLess(late.ending[1], EARLY)
        with patch.object(uncertainty, "_charges", wraps=_charges) as looked:
            sample_runtime(late)
        self.assertEqual(looked.call_count, 1)

    def test_where_the_typical_gadget_lasts_and_most_do_not_they_are_looked_for_again(self) -> None:
        """Samples that end at 60 %, of a gadget that typically lasts until nearly empty."""
        made = sure(part("chip", state("on", 0.01, min=0.0099, max=0.0101)))
        self.assertLess(made.ending[1], EARLY)
        early = np.full(128, 0.6)
        with (
            patch.object(uncertainty, "_charges", wraps=_charges) as looked,
            patch.object(uncertainty, "_runtimes", return_value=(early, early)),
        ):
            sample_runtime(made)
        self.assertEqual([round(x.args[0], 3) for x in looked.call_args_list], [round(made.ending[1], 3), 0.6])


if __name__ == "__main__":
    unittest.main()
