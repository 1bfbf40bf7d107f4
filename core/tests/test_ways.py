"""What is offered in the place of something else: each candidate by what it has to have; and some runs by hand."""

from __future__ import annotations

import json
import unittest
from typing import Any

import numpy as np

from ember_core import Design, build_design
from ember_core.battery.chemistries import CHEMISTRIES
from ember_core.battery.pack import (
    OUTER_DECILE,
    SALVAGED_TOLERANCE,
    capacity_tolerance,
    cell_spread,
    pack_at,
    resting_v,
)
from ember_core.calculators.capacitor import CapacitorTask, design_capacitor
from ember_core.calculators.divider import DividerTask, design_divider
from ember_core.catalogue import Catalogue, built_in
from ember_core.design import Battery, LinearStage, PassStage, SwitchingStage
from ember_core.design.patches import apply, apply_patch, replace
from ember_core.enclosure.bodies import Contact
from ember_core.enclosure.fit import check_fit, contact_status
from ember_core.figures import Remedy
from ember_core.findings import find
from ember_core.findings.battery.pack import SAME_WINDOW, _without_resistance, stronger_cells
from ember_core.findings.charge.heat import _slower
from ember_core.findings.draw.parts import _barer_boards
from ember_core.findings.draw.sleep import _hard_switches, _waking_controllers, _ways_to_wake
from ember_core.findings.supply.feeds import _disconnecting
from ember_core.findings.supply.stages import _later_dropout, _stronger
from ember_core.load.day import longest_s, mode_shares
from ember_core.measures.bench import TrialBench
from ember_core.measures.selection import (
    before_rail,
    before_stage,
    least_input_v,
    longest,
    making,
    rail_window_v,
    regulators,
)
from ember_core.runtime.run import EARLY, rerun, run
from ember_core.studies.judging import Judged
from ember_core.studies.trials import ways_out

from .gadgets import LINEAR, cell, design, part, seen, state, use
from .golden import DEMOS
from .randoms import random_design
from .test_stages import BOOST, USB

MAIN = [{"id": "main", "name": "Main", "feed": "reg"}]
STRAIGHT = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}
WIRE = {"type": "pass", "id": "w", "name": "Wire", "input": "battery", "role": "wire", "resistance_ohm": 0.05, "limit_a": 0.05}  # fmt: skip


def bench(gadget: Design) -> TrialBench:
    return TrialBench(gadget, built_in())


class Stages(unittest.TestCase):
    def test_a_later_dropout_is_a_linear_one_with_less_or_a_buck_boost(self) -> None:
        gadget = design(supply={"stages": [LINEAR | {"dropout_v": 0.9}], "rails": MAIN})
        made = [apply(gadget, w).supply.stages[0] for w in _later_dropout(bench(gadget), 0)]
        self.assertTrue(made)
        for stage in made:
            if isinstance(stage, LinearStage):
                self.assertLess(stage.dropout_v, 0.9)
            else:
                assert isinstance(stage, SwitchingStage)
                self.assertEqual(stage.topology, "buck-boost")
        tight = design(supply={"stages": [LINEAR | {"dropout_v": 0.001}], "rails": MAIN})
        for way in _later_dropout(bench(tight), 0):
            self.assertIsInstance(apply(tight, way).supply.stages[0], SwitchingStage)

    def inserted(self, gadget: Design, code: str) -> Design:
        """What the way out of a finding puts in, applied; the finding is gone then."""
        judged = Judged(bench(gadget))
        found = next(f for f in judged.found if f.code == code)
        way = ways_out(judged, found)
        assert way is not None, code
        self.assertTrue(way.label.startswith("Put "), way.label)
        after = apply(gadget, way)
        self.assertNotIn(code, {f.code for f in Judged(bench(after)).found})
        return after

    def test_a_converter_is_put_before_a_rail_that_gives_too_little(self) -> None:
        for series, low, high, code in ((1, 3.1, 3.6, "mode-fails-at-once"), (2, 3.1, 3.6, "mode-fails-early"), (3, 4.3, 5.5, "mode-fails-early")):  # fmt: skip
            sleeps, works = state("sleep", 1e-3), state("active", 5e-3)
            needy = part("chip", sleeps, works, supply_min_v=low, supply_recommended_max_v=high)
            cells = cell(chemistry="alkaline", form="cylinder", capacity_ah=2.5, cutoff_v=0.9)
            gadget = design(parts=[needy], battery={"cell": cells, "series": series}, supply=STRAIGHT)
            with self.subTest(series):
                stage = self.inserted(gadget, code).supply.stages[-1]
                assert isinstance(stage, SwitchingStage)
                self.assertIn(stage.topology, ("boost", "buck-boost"))
                self.assertTrue(low < stage.output_v <= high)

    def test_a_regulator_is_put_before_a_rail_that_gives_too_much(self) -> None:
        for series in (1, 2, 3):
            tender = part(
                "chip",
                state("sleep", 1e-3),
                state("active", 5e-3),
                supply_min_v=2.7,
                supply_recommended_max_v=3.6,
                supply_absolute_max_v=5.0,
            )
            gadget = design(parts=[tender], battery={"cell": cell(form="cylinder"), "series": series}, supply=STRAIGHT)
            with self.subTest(series):
                stage = self.inserted(gadget, "above-range" if series == 1 else "overvoltage").supply.stages[-1]
                assert isinstance(stage, SwitchingStage | LinearStage)
                self.assertTrue(2.7 < stage.output_v <= 3.6)
                self.assertTrue(stage.input_max_v is None or stage.input_max_v >= 4.2 * series)

    def test_what_is_put_in_carries_the_peak_and_stands_what_it_gets(self) -> None:
        """On both sides of a converter's own limits, and on random gadgets."""
        boost = next(
            s
            for s in built_in().stages
            if isinstance(s, SwitchingStage) and s.topology == "boost" and 3.1 < s.output_v <= 3.6
        )
        only = Catalogue([e for e in built_in().entries if e.stage == boost])
        for share, there in ((0.99, True), (1.01, False)):
            found = making(only, (3.1, 3.6), share * boost.limit_a, 1.5)
            self.assertEqual(found == [boost], there)
        assert boost.input_max_v is not None
        for volts, there in ((boost.input_max_v, True), (boost.input_max_v + 0.01, False)):
            self.assertEqual(making(only, (3.1, 3.6), 0.001, volts) == [boost], there)
        tried = 0
        for seed in range(12):
            trial = TrialBench(random_design(seed), built_in())
            low, high = rail_window_v(trial.design, 0)
            for way in before_rail(trial, 0):
                after = TrialBench(apply(trial.design, way), built_in())
                new = after.design.supply.stages[-1]
                assert isinstance(new, SwitchingStage | LinearStage)
                self.assertTrue(low <= new.output_v <= high, way.label)
                top = after.highest_input_v[after.usual.tree.stage_index[new.id]]
                self.assertTrue(new.input_max_v is None or top <= new.input_max_v, way.label)
                tried += 1
        self.assertGreater(tried, 10)

    def test_a_stage_is_put_before_one_that_stands_less(self) -> None:
        kept = LINEAR | {"input_max_v": 5.5, "output_v": 1.0}
        gadget = design(battery={"cell": cell(form="cylinder"), "series": 3}, supply={"stages": [kept], "rails": MAIN})
        ways = list(before_stage(bench(gadget), 0))
        self.assertTrue(ways)
        for way in ways:
            after = apply(gadget, way)
            first, new = after.supply.stages[0], after.supply.stages[-1]
            self.assertEqual((first.input, new.input), (new.id, "battery"))
            assert isinstance(new, SwitchingStage | LinearStage)
            self.assertTrue(1.0 <= new.output_v <= 5.5)
            self.assertNotIn("stage-overvoltage", {f.code for f in Judged(bench(after)).found})

    def test_a_stronger_one_is_of_the_same_kind_and_just_strong_enough(self) -> None:
        gadget = design(supply={"stages": [WIRE | {"role": "switch"}, LINEAR | {"input": "w"}], "rails": MAIN})
        found = bench(gadget)
        s = next(i for i, x in enumerate(found.usual.tree.stages) if x.id == "w")
        ways = list(_stronger(found, s, 0.3))
        self.assertTrue(ways)
        limits = []
        for way in ways:
            stage = apply(gadget, way).supply.stages[0]
            assert isinstance(stage, PassStage)
            self.assertEqual((stage.role, stage.input, stage.id), ("switch", "battery", "w"))
            limits.append(stage.limit_a)
        everything = [x.limit_a for x in built_in().stages if isinstance(x, PassStage) and x.role == "switch" and x.limit_a >= 0.3]  # fmt: skip
        self.assertEqual(limits, sorted(everything)[: len(limits)])
        exact = sorted(everything)[0]
        self.assertEqual(apply(gadget, next(iter(_stronger(found, s, exact)))).supply.stages[0].limit_a, exact)

    def test_what_cuts_its_output_off(self) -> None:
        rails = [{"id": "main", "name": "Main", "feed": "boost"}]
        gadget = design(supply={"stages": [BOOST | {"id": "boost"}], "rails": rails})
        made = [apply(gadget, w).supply.stages[0] for w in _disconnecting(bench(gadget), 0)]
        self.assertTrue(made)
        self.assertTrue(
            all(isinstance(s, SwitchingStage) and s.topology == "boost" and s.load_disconnect for s in made)
        )

    def test_a_hard_switch_takes_over_all_that_hung_on_the_battery_and_nothing_else(self) -> None:
        rails = [{"id": "main", "name": "Main", "feed": "reg"}, {"id": "raw", "name": "Raw", "feed": "battery"}]
        gadget = design(supply={"stages": [LINEAR], "rails": rails})
        for way in _hard_switches(bench(gadget)):
            supply = apply(gadget, way).supply
            self.assertEqual(supply.stages[1].input, "battery")
            self.assertEqual(supply.stages[0].input, supply.stages[1].id)
            self.assertEqual([r.feed for r in supply.rails], ["reg", supply.stages[1].id])

    def test_a_diode_s_leak_is_a_fault_above_a_twentieth_of_the_mode(self) -> None:
        def gadget(share: float) -> Design:
            leak = 1e-3 * share / (1 - share)
            parts = [part("chip", state("sleep", 1e-3), state("active", 0.05)), part("led", state("on", 0.05), state("off", leak), rail="five")]  # fmt: skip
            modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep"), use("led", "off")], "off_stages": ["boost"]},
                     {"id": "awake", "name": "Awake", "uses": [use("chip", "active"), use("led", "on")]}]  # fmt: skip
            rails = [{"id": "main", "name": "Main", "feed": "battery"}, {"id": "five", "name": "Five", "feed": "boost"}]
            boost = BOOST | {"id": "boost", "enable": True, "load_disconnect": False, "shutdown_a": 0}
            return design(parts=parts, modes=modes, supply={"stages": [boost], "rails": rails})

        for share, severity in ((0.045, "watch"), (0.055, "fix")):
            self.assertEqual(seen(gadget(share), "no-disconnect")[0].severity, severity, share)

    def test_a_converter_that_starts_at_more_than_it_rests_at(self) -> None:
        def gadget(starts: float) -> Design:
            boost = BOOST | {"id": "boost", "undervoltage_lockout_v": 1.0, "start_up_v": starts}
            rails = [{"id": "main", "name": "Main", "feed": "boost"}]
            return design(supply={"stages": [boost], "rails": rails}, battery={"cell": cell(cutoff_v=2.5), "wiring_ohm": 0})  # fmt: skip

        self.assertFalse(seen(gadget(2.4), "will-not-start"))
        found = seen(gadget(3.7), "will-not-start")
        self.assertTrue(found)
        self.assertIn("It starts at 3.7 V and runs down to 1 V", found[0].sentence)


class Waking(unittest.TestCase):
    def gadget(self, volts: float = 3.3, **more: Any) -> Design:
        chip = part("chip", state("deep sleep", 1e-6), state("nap", 1e-4), state("light sleep", 2e-4), state("active", 0.1), kind="controller",
                    wakes=[{"state": "deep sleep", "by": ["timer"]}, {"state": "light sleep", "by": ["pin", "timer"], "pins": 2}])  # fmt: skip
        modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "deep sleep")], "wake_pins": 2},
                 {"id": "awake", "name": "Awake", "uses": [use("chip", "active")]}]  # fmt: skip
        supply = {"stages": [LINEAR | {"output_v": volts}], "rails": MAIN}
        return design(**({"parts": [chip], "modes": modes, "supply": supply} | more))

    def test_the_calmest_state_that_can_be_ended(self) -> None:
        gadget = self.gadget()
        first = next(iter(_ways_to_wake(bench(gadget), 0, 0, "deep sleep")))
        self.assertEqual(apply(gadget, first).modes[0].uses[0].state, "light sleep")

    def test_another_controller_has_the_same_states_and_stands_the_voltage(self) -> None:
        states = ("deep sleep", "light sleep", "active")
        own = part("chip", *(state(s, 1e-3) for s in states), kind="controller", wakes=[{"state": "active", "by": ["timer"]}])  # fmt: skip
        for volts in (1.8, 3.3, 5.0):
            gadget = self.gadget(volts, parts=[own], battery={"cell": cell(chemistry="lithium-ion"), "series": 2, "wiring_ohm": 0})  # fmt: skip
            for way in _waking_controllers(bench(gadget), 0, 0, "deep sleep"):
                new = apply(gadget, way).parts[0]
                self.assertLessEqual(set(states), {s.name for s in new.states})
                self.assertLessEqual(new.supply_min_v or 0, volts * 1.001)
                self.assertGreaterEqual(new.supply_absolute_max_v or 100, volts)
                self.assertEqual((new.id, new.rail), ("chip", "main"))
        self.assertFalse(list(_waking_controllers(bench(self.gadget()), 0, 0, "deep sleep")))  # none naps


class Cells(unittest.TestCase):
    def test_stronger_ones_lie_in_the_same_window_and_give_the_peak(self) -> None:
        chip = part("chip", state("sleep", 1e-5), state("active", 0.3))
        for series, kind in ((1, "lithium-ion"), (2, "alkaline"), (3, "alkaline")):
            gadget = design(parts=[chip], supply=STRAIGHT, battery={"cell": cell(chemistry=kind, cutoff_v=0.8, capacity_ah=0.1, discharge_max_a=0.05, resistance_ohm=0.5), "series": series, "wiring_ohm": 0})  # fmt: skip
            wanted = series * resting_v(gadget.battery.cell, 0.5)
            ways = list(stronger_cells(bench(gadget), 0.3))
            self.assertTrue(ways)
            for way in ways:
                after = apply(gadget, way).battery
                self.assertGreaterEqual(after.cell.discharge_max_a, 0.3)
                self.assertLessEqual(
                    abs(after.series * resting_v(after.cell, 0.5) / wanted - 1), SAME_WINDOW, way.label
                )
                self.assertIn(after.series, (1, 2, 3))

    def test_a_bench_supply_has_the_charge_without_the_resistance(self) -> None:
        measured = Battery.model_validate({"cell": cell(capacity_ah=2.0, measured_ah=1.7)})
        typical = Battery.model_validate({"cell": cell(capacity_ah=2.0, measured_ah=None)})
        for battery, capacity in ((measured, 1.7), (typical, pack_at(typical, 25.0).capacity_ah)):
            stiff = pack_at(_without_resistance(battery), 25.0)
            self.assertAlmostEqual(stiff.capacity_ah, capacity, places=6)
            self.assertEqual(float(stiff.resistance_ohm.max() + stiff.polarization_ohm.max()), 0.0)

    def test_spread_of_cells(self) -> None:
        def battery(**more: Any) -> Battery:
            return Battery.model_validate({"cell": cell(measured_ah=None), "series": 2} | more)

        low, high = CHEMISTRIES["lithium-ion"].tolerance
        self.assertAlmostEqual(cell_spread(battery()), (high - low) / 2 / OUTER_DECILE)
        self.assertAlmostEqual(cell_spread(battery(mixed=True)), (high - low) / OUTER_DECILE)
        self.assertEqual(cell_spread(battery(spread=0.02)), 0.02)
        low, high = SALVAGED_TOLERANCE
        self.assertAlmostEqual(
            cell_spread(battery(cell=cell(measured_ah=None, condition="salvaged"))), (high - low) / 2 / OUTER_DECILE
        )
        low, high = CHEMISTRIES["lithium-ion"].tolerance
        self.assertAlmostEqual(
            cell_spread(battery(cell=cell(measured_ah=0.8, condition="salvaged"))), (high - low) / 2 / OUTER_DECILE
        )

    def test_what_is_unavailable_is_that_of_known_sizes_and_beyond_them_grows_with_the_square(self) -> None:
        def hours(name: str, form: str, mm: float) -> float:
            size = [20, 20, mm] if form == "coin" else [mm, 50, mm]
            return pack_at(
                Battery.model_validate({"cell": cell(chemistry=name, form=form, size_mm=size)}), 25.0
            ).unavailable_h

        for name, data in CHEMISTRIES.items():
            self.assertEqual(hours(name, "cylinder", 14.5) > 0, bool(data.diffusion_h), name)
            for form, known in data.diffusion_h.items():
                for mm, h in known:
                    self.assertAlmostEqual(hours(name, form, mm), h, places=9)
                first, last = known[0], known[-1]
                self.assertAlmostEqual(hours(name, form, first[0] / 2), first[1] / 4, places=9)
                self.assertAlmostEqual(hours(name, form, last[0] * 2), last[1] * 4, places=9)
        between = hours("alkaline", "cylinder", (14.5 * 26.2) ** 0.5)
        self.assertAlmostEqual(between, (1.4 * 4.5) ** 0.5, places=6)  # on a straight line between logarithms


class Runs(unittest.TestCase):
    def test_a_mode_for_itself_by_hand(self) -> None:
        """1 Ah at 0.1 A and its self-discharge, to where what stays inside is all there is."""
        gadget = design(
            supply=STRAIGHT, battery={"cell": cell(resistance_ohm=0, cutoff_v=2.0, discharge_max_a=2), "wiring_ohm": 0}
        )
        state_ = run(gadget)
        pack = state_.pack
        rate = 0.1 + pack.self_discharge_a
        at_hand = (1 - state_.failures[1].charge) * 3600 / rate
        stays = pack.unavailable_h * 0.1
        found = state_.nonstop_s[1]
        self.assertLess(found, at_hand * 1.0001)
        self.assertGreater(found, (1 - stays) * 3600 / rate * 0.98)
        np.testing.assert_allclose(state_.elapsed_s[-1], 3600 / (state_.mean_current_a[0] + pack.self_discharge_a), rtol=1e-3)  # fmt: skip

    def test_a_change_of_the_battery_or_the_day_gives_what_a_new_run_gives(self) -> None:
        first = design()
        before = run(first)
        changes: list[dict[str, Any]] = [
            {"battery": {"cell": cell(capacity_ah=2.5), "wiring_ohm": 0.2}},
            {"day": {"rest": "asleep", "sessions": [{"name": "Use", "mode": "awake", "seconds": 7200, "per_day": 2}]}},
            {"supply": {"stages": [LINEAR | {"quiescent_a": 1e-3}], "rails": MAIN}},
        ]
        for change in changes:
            after = design(**change)
            self.assertAlmostEqual(rerun(before, after).seconds / run(after).seconds, 1.0, places=6)

    def test_a_rough_look_is_near_and_is_kept_where_no_closer_one_follows(self) -> None:
        """A peak of 0.5 A at 1.2 ohm ends a weak cell early: then a closer look follows; at 20 mA none does."""
        early = {"cell": cell(resistance_ohm=1.2, cutoff_v=3.2, discharge_max_a=2), "wiring_ohm": 0}
        looked = []
        for amps in (0.02, 0.5):
            gadget = design(
                supply=STRAIGHT, battery=early, parts=[part("chip", state("active", amps), state("sleep", 1e-5))]
            )
            bench = TrialBench(gadget, built_in())
            patch = [replace("/battery/cell/capacity_ah", 1.1)]
            rough = bench.roughly_after(patch)
            self.assertEqual(bool(bench._tried), amps < 0.1)
            kept = bench.after(patch)
            looked.append(kept.pack.charge.size)
            self.assertEqual(kept.ending[1] > EARLY, amps > 0.1)
            self.assertAlmostEqual(rough / kept.seconds, 1.0, delta=0.1 if amps > 0.1 else 1e-12)
            self.assertEqual(bench.roughly_after(patch), kept.seconds)
        self.assertGreater(looked[1], looked[0])

    def test_a_bench_that_was_changed_is_as_one_that_was_made_anew(self) -> None:
        """What the brief, a charger, a load, a cell and a regulator are changed to; what a charger takes unplugged counts, what it is set to does not."""
        made = build_design(json.loads((DEMOS / "dusk-ear.json").read_text()))
        bench, solved = TrialBench(made, built_in()), 0
        assert made.charger is not None
        patches = [
            [replace("/brief/usual_c", -5.0), replace("/brief/coldest_c", -10.0)],
            [replace("/charger/program_ohm", 2700.0)],
            [replace("/charger/leakage_a", 2e-4)],
            [replace("/battery/series", 1), replace("/battery/cell/resistance_ohm", 0.4)],
            [replace(f"/supply/stages/{len(made.supply.stages) - 1}/quiescent_a", 5e-4)],
        ]
        for patch in patches:
            changed = bench.changed(patch)
            fresh = TrialBench(apply_patch(made, patch), built_in())
            self.assertEqual(changed.design, fresh.design)
            self.assertEqual(changed.usual.temperature_c, fresh.usual.temperature_c)
            self.assertAlmostEqual(changed.usual.seconds / fresh.usual.seconds, 1.0, places=9)
            self.assertEqual([f.title for f in find(changed)], [f.title for f in find(fresh)])
            solved += abs(fresh.usual.seconds / bench.usual.seconds - 1) > 0.01
        self.assertEqual(solved, 4)
        self.assertIs(bench.changed(patches[1]).usual.typical, bench.usual.typical)

    def test_sessions_by_the_clock_and_others_leave_the_rest(self) -> None:
        sessions = [
            {"name": "A", "mode": "awake", "seconds": 3600, "per_day": 2, "at_h": [8, 20]},
            {"name": "B", "mode": "awake", "seconds": 1800, "per_day": 3},
        ]
        gadget = design(day={"rest": "asleep", "sessions": sessions})
        np.testing.assert_allclose(mode_shares(gadget.day, gadget.modes), [1 - 3.5 / 24, 3.5 / 24], atol=1e-9)


class Capacitor(unittest.TestCase):
    def test_resistances_in_a_row_add_up(self) -> None:
        def dip(**ohms: float) -> float:
            return design_capacitor(CapacitorTask.model_validate({"current_a": 1, "seconds": 0.001, "allowed_v": 0.2, "load_a": 0, "cell_ohm": 0, "switch_ohm": 0, "wire_ohm": 0} | ohms)).without.value or 0  # fmt: skip

        self.assertAlmostEqual(dip(cell_ohm=0.1, switch_ohm=0.05, wire_ohm=0.02), 0.17)
        self.assertAlmostEqual(dip(cell_ohm=0.17), 0.17)


class Charge(unittest.TestCase):
    def test_slower_by_larger_resistors_the_most_current_first(self) -> None:
        charger = {"name": "C", "program_constant_v": 1000, "program_ohm": 1000, "rth_ja_c_per_w": 5}
        gadget = design(charger=charger, battery={"cell": cell(capacity_ah=3, charge_max_a=3), "wiring_ohm": 0})
        found = bench(gadget)
        ohms = [float(str(w.patch[0].value)) for w in _slower(found, 12.0)]  # type: ignore[union-attr]
        self.assertEqual(len(ohms), 3)
        self.assertEqual(ohms, sorted(ohms))
        self.assertGreater(ohms[0], 1000)
        self.assertAlmostEqual(ohms[2] / ohms[0], 1 / 0.6, delta=0.25)
        self.assertAlmostEqual(ohms[1] / ohms[0], 1 / 0.8, delta=0.15)
        colder = [float(str(w.patch[0].value)) for w in _slower(found, 14.0)]  # type: ignore[union-attr]
        self.assertLess(colder[0], ohms[0])


class Gaps(unittest.TestCase):
    def test_a_body_at_each_wall_moves_inwards(self) -> None:
        for side, at in (("left", [2.1, 30, 8]), ("right", [47.9, 30, 8]), ("front", [20, 2.1, 8]), ("back", [20, 77.9, 8]), ("bottom", [20, 30, 2.1]), ("top", [20, 30, 16.9])):  # fmt: skip
            chip = part("chip", state("on", 1e-3), body={"size_mm": [10, 10, 5], "position_mm": at})
            modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "on")]}]
            gadget = design(parts=[chip], modes=modes, day={"rest": "asleep"})
            tight = [c.side for c in check_fit(gadget).contacts if c.margin_mm < 0]
            self.assertEqual(tight, [side])
            finding = (seen(gadget, "collision") + seen(gadget, "tight-gap"))[0]
            assert finding.remedy
            after = apply(gadget, finding.remedy)
            self.assertFalse([c for c in check_fit(after).contacts if c.margin_mm < 0], side)

    def test_the_c_rate_is_that_of_one_cell(self) -> None:
        """0.5 A into two cells of 1 Ah side by side are 0.25 C."""
        charger = {"name": "C", "program_constant_v": 1000, "program_ohm": 2000, "rth_ja_c_per_w": 5}
        found = bench(design(charger=charger, battery={"cell": cell(), "parallel": 2, "wiring_ohm": 0})).charge
        assert found
        self.assertAlmostEqual(found.c_rate, 0.25)


class More(unittest.TestCase):
    def test_a_mode_that_is_no_use_without_a_source_is_only_watched(self) -> None:
        for essential, severity in ((True, "fix"), (False, "watch")):
            lamp = part("led", state("off", 1e-6), state("on", 0.02), rail="five")
            chip = part("chip", state("sleep", 1e-3), state("active", 0.1))
            modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep")]},
                     {"id": "awake", "name": "Awake", "essential": essential, "uses": [use("chip", "active"), use("led", "on")]}]  # fmt: skip
            rails = [*MAIN, {"id": "five", "name": "Five", "feed": "usb"}]
            gadget = design(parts=[chip, lamp], modes=modes, supply={"sources": [USB], "stages": [LINEAR], "rails": rails})  # fmt: skip
            self.assertEqual(seen(gadget, "no-source")[0].severity, severity)

    def test_barer_boards_rest_with_a_tenth_and_stand_the_voltage(self) -> None:
        for volts in (1.8, 3.3):
            board = part("board", state("deep sleep", 5e-3), state("active", 0.1), kind="controller")
            gadget = design(parts=[board], modes=[{"id": "asleep", "name": "Asleep", "uses": [use("board", "deep sleep")]},
                            {"id": "awake", "name": "Awake", "uses": [use("board", "active")]}], supply={"stages": [LINEAR | {"output_v": volts}], "rails": MAIN})  # fmt: skip
            for way in _barer_boards(bench(gadget), 0, "deep sleep"):
                new = apply(gadget, way).parts[0]
                resting = next(x for x in new.states if x.name == "deep sleep")
                self.assertLess(resting.draw.current_a.typical, 5e-4)  # type: ignore[union-attr]
                self.assertLessEqual(new.supply_min_v or 0, volts * 1.001)
                self.assertGreaterEqual(new.supply_absolute_max_v or 100, volts)

    def test_a_salvaged_cell_has_twice_the_resistance_unless_it_was_measured(self) -> None:
        def ohm(**more: Any) -> float:
            pack = pack_at(Battery.model_validate({"cell": cell(measured_ah=None) | more, "wiring_ohm": 0}), 25.0)
            return float(pack.steady_ohm[80])

        self.assertAlmostEqual(ohm(condition="salvaged") / ohm(), 2.0)
        self.assertAlmostEqual(ohm(condition="salvaged", measured_ohm=0.1) / ohm(), 1.0)

    def test_both_parts_of_a_packs_resistance_scale_alike(self) -> None:
        curve = {"soc": [0, 1], "open_circuit_v": [3, 4], "resistance_ohm": [0.3, 0.3], "r0_ohm": 0.1}
        for series, parallel in ((1, 1), (3, 1), (1, 2), (2, 4)):
            pack = pack_at(Battery.model_validate({"cell": cell(curve=curve), "series": series, "parallel": parallel, "wiring_ohm": 0}), 25.0)  # fmt: skip
            np.testing.assert_allclose(pack.resistance_ohm, 0.1 * series / parallel)
            np.testing.assert_allclose(pack.polarization_ohm, 0.2 * series / parallel)

    def test_tolerance_is_about_what_is_reckoned_with(self) -> None:
        typical = Battery.model_validate({"cell": cell(measured_ah=None)}).cell
        low, high = CHEMISTRIES["lithium-ion"].tolerance
        usual = 1 + (low + high) / 2
        found = capacity_tolerance(typical)
        self.assertAlmostEqual((1 + found[0]) * usual, 1 + low)
        self.assertAlmostEqual((1 + found[1]) * usual, 1 + high)

    def test_touching_is_watched_and_a_hair_into_each_other_fails(self) -> None:
        for gap, margin, status in ((0.0, -0.5, "watch"), (-0.001, -0.501, "fail"), (0.5, 0.0, "pass"), (0.499, -0.001, "watch")):  # fmt: skip
            self.assertEqual(contact_status(Contact(0, 1, None, None, gap, gap - margin, 0)), status)

    def test_a_divider_that_is_gated_drains_for_its_share_of_the_time(self) -> None:
        def gated(gate_s: float) -> float:
            task = DividerTask.model_validate({"top_v": 4.2, "reference_v": 2.5, "every_s": 60, "gate_s": gate_s})
            return design_divider(task).gated_drain.value or 0

        self.assertAlmostEqual(gated(6) / gated(60), 0.1)
        self.assertAlmostEqual(gated(600), gated(60))

    def test_a_mode_that_the_day_has_no_time_for_counts_as_endless(self) -> None:
        gadget = design(
            day={"rest": "asleep", "sessions": [{"name": "Use", "mode": "awake", "seconds": 1800, "per_day": 1}]}
        )
        np.testing.assert_array_equal(longest_s(gadget.day, gadget.modes)[0], [np.inf, 1800])
        np.testing.assert_array_equal(longest_s(design(day={"rest": "asleep"}).day, gadget.modes)[0], [np.inf, np.inf])

    def test_charge_current_says_whose_limit_it_is(self) -> None:
        charger = {"name": "C", "program_constant_v": 1000, "program_ohm": 400, "rth_ja_c_per_w": 5}
        for allowed, words in ((0.5, "its datasheet allows"), (None, "is the most without a datasheet figure")):
            gadget = design(charger=charger, battery={"cell": cell(charge_max_a=allowed), "wiring_ohm": 0})
            self.assertIn(words, seen(gadget, "charge-current")[0].sentence)


class Selection(unittest.TestCase):
    def test_the_input_that_a_regulator_needs(self) -> None:
        """3.3 V and 0.3 V of dropout at 150 mA: 3.5 V at 100 mA. A buck needs its output, a boost its least input."""
        linear = LinearStage.model_validate(
            LINEAR | {"input": "battery", "output_v": 3.3, "dropout_v": 0.3, "dropout_at_a": 0.15}
        )
        self.assertAlmostEqual(least_input_v(linear, 0.1), 3.5)
        boost = SwitchingStage.model_validate(BOOST)
        self.assertEqual(least_input_v(boost, 0.1), boost.undervoltage_lockout_v)
        buck = boost.model_copy(update={"topology": "buck", "output_v": 3.3})
        self.assertEqual(least_input_v(buck, 0.1), 3.3)

    def test_the_longest_lasting_come_first(self) -> None:
        here = TrialBench(design(), built_in())
        ways = [
            Remedy(label=str(ah), patch=[replace("/battery/cell/measured_ah", ah)]) for ah in (0.5, 2.0, 0.1, 1.5, 1.0)
        ]
        self.assertEqual([w.label for w in longest(here, ways)], ["2.0", "1.5", "1.0"])

    def test_only_what_makes_a_positive_voltage_is_a_regulator(self) -> None:
        here = TrialBench(design(), built_in())
        inverting = [s for s in built_in().stages if isinstance(s, SwitchingStage) and s.topology == "inverting"]
        self.assertTrue(inverting)
        for volts in {s.output_v for s in inverting} | {3.3, 5.0}:
            for found in regulators(here, volts, 0.01, 4.0):
                self.assertIsInstance(found, LinearStage | SwitchingStage)
                self.assertNotIn(found, inverting)
        self.assertTrue(regulators(here, 3.3, 0.01, 4.0))
