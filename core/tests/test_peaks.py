"""Load transients: what fails, what only shows, and the capacitor that is offered."""

from __future__ import annotations

import unittest
from types import SimpleNamespace
from typing import Any

import numpy as np

from ember_core import Design, build_design
from ember_core.catalogue import built_in
from ember_core.design.patches import apply
from ember_core.measures.bench import TrialBench
from ember_core.measures.selection import stage_in_place
from ember_core.runtime.run import run
from ember_core.solved.droop import USUAL_DROOP, find_droops, judged_at
from ember_core.studies import answer_rail

from .gadgets import LINEAR, cell, design, part, seen, state, use

STRAIGHT = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}


class GivesWayEarly(unittest.TestCase):
    """2.5 W from a cell of 1.5 ohm: it gives way with seven tenths of its charge left, and what it would draw further down is never drawn."""

    def gadget(self, limit_a: float = 9.0, **more: Any) -> Design:
        heater = {"name": "on", "draw": {"behaviour": "power", "power_w": {"typical": 2.5}}, "provenance": "measured"}
        switch = {
            "type": "pass",
            "id": "switch",
            "name": "Switch",
            "input": "battery",
            "role": "fuse",
            "limit_a": limit_a,
            "resistance_ohm": 0.001,
        }
        return design(
            parts=[part("heater", state("off", 1e-6), heater, **more)],
            modes=[{"id": "asleep", "name": "Asleep", "uses": [use("heater", "off")]},
                   {"id": "awake", "name": "Awake", "uses": [use("heater", "on")]}],
            day={"rest": "asleep", "sessions": [{"name": "Use", "mode": "awake", "seconds": 600, "per_day": 10}]},
            supply={"stages": [switch], "rails": [{"id": "main", "name": "Main", "feed": "switch"}]},
            battery={"cell": cell(resistance_ohm=1.5, cutoff_v=2.0, discharge_max_a=9), "wiring_ohm": 0},
        )  # fmt: skip

    def test_a_switch_is_loaded_by_what_is_drawn(self) -> None:
        whole = run(self.gadget())
        most = TrialBench(self.gadget(), built_in()).peak_a[0]
        self.assertGreater(whole.worst.source_a.max(), 1.5 * most)  # further down it has collapsed
        self.assertFalse(seen(self.gadget(most * 1.01), "overload"))
        found = seen(self.gadget(most * 0.99), "overload")
        self.assertIn("1 times as much", found[0].sentence)

    def regulated(self, volts: float, watts: float) -> TrialBench:
        heater = {"name": "on", "draw": {"behaviour": "power", "power_w": {"typical": watts}}, "provenance": "measured"}
        stage = LINEAR | {"output_v": volts, "limit_a": 5}
        return TrialBench(design(
            parts=[part("heater", heater, supply_min_v=volts - 0.05)],
            modes=[{"id": "asleep", "name": "Asleep", "uses": [use("heater", "on")]}], day={"rest": "asleep"},
            supply={"stages": [stage], "rails": [{"id": "main", "name": "Main", "feed": stage["id"]}]},
            battery={"cell": cell(resistance_ohm=1.5, cutoff_v=2.0, discharge_max_a=9), "wiring_ohm": 0},
        ), built_in())  # fmt: skip

    def test_a_regulator_has_room_above_the_peak_that_is_drawn(self) -> None:
        """1.6 W, measured, so 5 % more at most, at the 2.45 V that it needs are 0.686 A; where the cell has collapsed it would be more."""
        bench = self.regulated(2.5, 1.6)
        now = next(c for c in answer_rail(bench, 0).converters if c.now)
        peak = next(i.value for i in now.peak_margin.working.inputs if i.name == "peak")
        self.assertGreater(float(bench.usual.worst.stage_output_a[0].max()), 1.5)
        self.assertAlmostEqual(peak or 0, 1.6 * 1.05 / 2.45, delta=0.005)

    def test_another_regulator_is_chosen_for_the_peak_that_is_drawn(self) -> None:
        bench = self.regulated(3.3, 1.2)
        self.assertGreater(float(bench.usual.worst.stage_output_a[0].max()), 1.2)
        self.assertTrue(list(stage_in_place(bench, 0, lambda s: s.limit_a < 5)), "others carry 0.7 A too")

    def test_a_regulator_drops_out_while_it_runs_or_not_at_all(self) -> None:
        """Beside the heater a chip at 2 V: it has what it needs as long as the gadget runs. At 3.3 V it has not."""
        for volts, drops in ((2.0, False), (3.3, True)):
            own = self.gadget()
            chip = part("chip", state("on", 0.001), rail="low")
            stage = LINEAR | {"id": "low-stage", "output_v": volts, "dropout_v": 0.1, "dropout_at_a": 0.1}
            document = own.model_dump(mode="json")
            document["parts"].append(chip)
            document["supply"]["stages"].append(stage)
            document["supply"]["rails"].append({"id": "low", "name": "Low", "feed": "low-stage"})
            for mode in document["modes"]:
                mode["uses"].append(use("chip", "on"))
            made = build_design(document)
            self.assertGreater(run(made).ending[1], 0.6)
            told = seen(made, "dropout")
            self.assertEqual(bool(told), drops)
            for one in told:
                self.assertIn("needs 3.3", one.sentence)

    def test_peaks_are_judged_where_it_gets_to(self) -> None:
        for end, at in ((0.0, 0.2), (0.2, 0.2), (0.21, 0.368), (0.7, 0.76)):
            self.assertAlmostEqual(judged_at(SimpleNamespace(ending=(0, end), peaks_a=np.zeros(1))), at)  # type: ignore[arg-type]
        whole = run(self.gadget(peak={"current_a": 0.001, "seconds": 0.001}))
        self.assertGreater(whole.ending[1], 0.6)
        (sag,) = find_droops(whole)
        self.assertAlmostEqual(sag.charge, whole.ending[1] + 0.2 * (1 - whole.ending[1]))
        self.assertFalse(sag.fails)
        self.assertGreater(sag.terminal_v, 2.0)


class Droop(unittest.TestCase):
    def gadget(self, ohm: float, kind: str = "display", droop: float | None = None, screen: str = "on", seconds: float = 0.002,
               quiet: str = "active") -> Design:  # fmt: skip
        """A motor's peak of 0.5 A beside a screen, on a cell of so many ohms: before it 3.6 to 3.7 V at 20 % charge."""
        parts = [
            part(
                "motor",
                state("off", 0),
                state("active", 0.01),
                kind="motor",
                peak={"current_a": 0.5, "seconds": seconds},
            ),
            part("screen", state("off", 0), state("on", 0.01), kind=kind, droop_max=droop),
        ]
        modes = [{"id": "asleep", "name": "Asleep", "uses": [use("motor", "off"), use("screen", "off")]},
                 {"id": "awake", "name": "Awake", "uses": [use("motor", quiet), use("screen", screen)]}]  # fmt: skip
        battery = {"cell": cell(resistance_ohm=ohm, discharge_max_a=3), "wiring_ohm": 0}
        return design(parts=parts, modes=modes, supply=STRAIGHT, battery=battery)

    def droop(self, gadget: Design) -> float:
        (sag,) = find_droops(run(gadget))
        return (sag.before_v - sag.lowest_v) / sag.before_v

    def test_what_the_converter_on_the_way_cannot_give_is_told(self) -> None:
        """0.05 A and a peak of 0.4 A behind a regulator of so much: what is missing, by hand."""
        for limit, missing in ((0.3, 0.15), (0.45, 0.0), (0.04, 0.4)):  # no more than the peak itself
            chip = part("chip", state("on", 0.05), peak={"current_a": 0.4, "seconds": 0.002})
            gadget = design(
                parts=[chip], modes=[{"id": "on", "name": "On", "uses": [use("chip", "on")]}], day={"rest": "on"},
                supply={"stages": [LINEAR | {"limit_a": limit}], "rails": [{"id": "main", "name": "Main", "feed": "reg"}]},
            )  # fmt: skip
            (sag,) = find_droops(run(gadget))
            self.assertAlmostEqual(sag.beyond_a, missing, places=6)
            self.assertEqual(sag.stage, "reg" if missing else "")
        parts = [
            part(f"chip{i}", state("on", 0.05), peak={"current_a": amps, "seconds": 0.002})
            for i, amps in enumerate((0.1, 0.3, 0.5))
        ]
        gadget = design(
            parts=parts, modes=[{"id": "on", "name": "On", "uses": [use(f"chip{i}", "on") for i in range(3)]}], day={"rest": "on"},
            supply={"stages": [LINEAR | {"limit_a": 0.4}], "rails": [{"id": "main", "name": "Main", "feed": "reg"}]},
        )  # fmt: skip
        for sag, missing in zip(
            find_droops(run(gadget)), (0.0, 0.05, 0.25), strict=True
        ):  # each by itself on top of 0.15 A
            self.assertAlmostEqual(sag.beyond_a, missing, places=6)

    def test_it_shows_from_its_tolerance_on(self) -> None:
        ohm = 0.1
        at_this = self.droop(self.gadget(ohm))
        for factor, there in ((0.97, False), (1.03, True)):
            exact = ohm * USUAL_DROOP / at_this * factor
            self.assertEqual(bool(seen(self.gadget(exact), "visible-droop")), there, factor)

    def test_a_parts_own_tolerance_counts(self) -> None:
        droop = self.droop(self.gadget(0.2))
        self.assertTrue(seen(self.gadget(0.2, droop=droop * 0.98), "visible-droop"))
        self.assertFalse(seen(self.gadget(0.2, droop=droop * 1.02), "visible-droop"))

    def test_only_what_is_seen_or_heard_and_in_use_minds(self) -> None:
        self.assertTrue(seen(self.gadget(0.4, "sound"), "visible-droop"))
        self.assertTrue(seen(self.gadget(0.4, "light"), "visible-droop"))
        self.assertFalse(seen(self.gadget(0.4, "sensor"), "visible-droop"))
        self.assertTrue(seen(self.gadget(0.4, "sensor", droop=0.01), "visible-droop"))
        self.assertFalse(seen(self.gadget(0.4, screen="off"), "visible-droop"))
        self.assertFalse(seen(self.gadget(0.4, quiet="off"), "visible-droop"))

    def test_words_fit_the_part(self) -> None:
        for kind, word in (("display", "dims"), ("sound", "clips"), ("light", "flickers")):
            self.assertIn(word, seen(self.gadget(0.4, kind), "visible-droop")[0].found.title)

    def test_a_capacitor_that_a_gadget_can_have_is_offered_and_holds(self) -> None:
        short = self.gadget(0.4, seconds=0.0005)
        finding = seen(short, "visible-droop")[0]
        remedy = finding.remedy
        assert remedy
        after = apply(short, remedy)
        self.assertFalse(seen(after, "visible-droop"))
        self.assertLessEqual(after.supply.rails[0].capacitor.farad, 0.01)  # type: ignore[union-attr]
        long = seen(self.gadget(0.4, seconds=0.5), "visible-droop")[0]
        self.assertIsNone(long.remedy)
        self.assertIn("Less resistance", long.sentence)

    def test_a_part_that_fails_is_not_said_to_dim_as_well(self) -> None:
        gadget = self.gadget(0.4).model_dump(mode="json")
        gadget["parts"][1]["supply_min_v"] = 3.6
        from ember_core import build_design

        self.assertTrue(seen(build_design(gadget), "peak-sags"))
        self.assertFalse(seen(build_design(gadget), "visible-droop"))
