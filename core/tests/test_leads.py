"""Wires that are counted: by hand, against a resistance of the same size in the supply, and what the sheet says of them."""

from __future__ import annotations

import math
import unittest
from copy import deepcopy
from pathlib import Path
from typing import Any

from ember_core import Design, DocumentError, build_design, evaluate, read_design
from ember_core.catalogue import built_in
from ember_core.choosing import answer_choice, chosen_design
from ember_core.design import Lead, LinearStage
from ember_core.design.patches import apply
from ember_core.findings.supply.wires import GROUND_V, TAKES
from ember_core.measures.bench import TrialBench
from ember_core.measures.selection import in_place
from ember_core.runtime.run import run
from ember_core.solved.gadget import SolvedGadget
from ember_core.solved.wires import DENSITY
from ember_core.studies import answer_remedies
from ember_core.wiring import WiringSheet, wiring_sheet

from .gadgets import LINEAR, design, part, plain, state
from .randoms import random_design, sweep

DEMO = Path(__file__).resolve().parents[2] / "demo"
ONE_OHM = {"length_mm": 0, "section_mm2": 1.0, "contact_ohm": 1.0}


def sheet(gadget: Design) -> WiringSheet:
    return wiring_sheet(TrialBench(gadget, built_in()))


def straight(draw: dict[str, Any], lead: dict[str, Any] | None = None) -> Design:
    chip = {"id": "chip", "name": "Chip", "rail": "main", "states": [{"name": "on", "draw": draw}]}
    supply = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery", "lead": lead}]}
    modes = [{"id": "on", "name": "On", "uses": [{"part": "chip", "state": "on"}]}]
    return design(parts=[chip], modes=modes, day={"rest": "on"}, supply=supply)


class ByHand(unittest.TestCase):
    def volts(self, gadget: Design) -> tuple[float, float, float]:
        state_ = run(gadget)
        k = state_.pack.charge.size // 2
        s = state_.typical
        return float(s.terminal_v[0, k]), float(s.rail_v[0, 0, k]), float(s.source_a[0, k])

    def test_a_current_a_power_and_a_resistor_behind_an_ohm(self) -> None:
        terminal, rail, _ = self.volts(straight({"behaviour": "current", "current_a": {"typical": 0.2}}, ONE_OHM))
        self.assertAlmostEqual(terminal - rail, 0.2, places=9)
        terminal, rail, amps = self.volts(straight({"behaviour": "power", "power_w": {"typical": 1.0}}, ONE_OHM))
        self.assertAlmostEqual(rail, (terminal + math.sqrt(terminal**2 - 4.0)) / 2, places=7)
        self.assertAlmostEqual(amps, 1.0 / rail, places=7)
        terminal, rail, _ = self.volts(straight({"behaviour": "resistor", "resistance_ohm": {"typical": 9.0}}, ONE_OHM))
        self.assertAlmostEqual(rail, 0.9 * terminal, places=8)

    def test_copper_and_contacts_there_and_back(self) -> None:
        wire = Lead(length_mm=1000, section_mm2=0.5, contact_ohm=0.02)
        self.assertAlmostEqual(wire.ohm, 2 * 0.0175 / 0.5 + 0.02)
        trace = Lead(length_mm=100, section_mm2=None, trace_mm=1.0, contact_ohm=0.0)
        self.assertAlmostEqual(trace.ohm, 2 * 0.0175 * 0.1 / 0.035)


class AgainstAResistanceInTheWay(unittest.TestCase):
    """A wire is a resistance that the supply knows already: the same gadget with such a stage in its place gives the same."""

    def test_in_random_gadgets(self) -> None:
        judged = 0
        for seed in sweep(25, 120):
            gadget = random_design(7000 + seed)
            document = gadget.model_dump(mode="json")
            wired, staged = deepcopy(document), deepcopy(document)
            target = len(document["supply"]["stages"])
            rails = wired["supply"]["rails"]
            rails[0]["lead"] = ONE_OHM | {"contact_ohm": 0.15}
            staged["supply"]["stages"].append(resistance("wire-r", staged["supply"]["rails"][0]["feed"]))
            staged["supply"]["rails"][0]["feed"] = "wire-r"
            if target:
                wired["supply"]["stages"][0]["lead"] = ONE_OHM | {"contact_ohm": 0.15}
                staged["supply"]["stages"].append(resistance("wire-s", staged["supply"]["stages"][0]["input"]))
                staged["supply"]["stages"][0]["input"] = "wire-s"
            one, other = run(build_design(wired)), run(build_design(staged))
            if one.typical.collapsed.any() or other.typical.collapsed.any():
                continue
            self.assertAlmostEqual(one.seconds / other.seconds if other.seconds else 1.0, 1.0, places=7)
            self.assertTrue(abs(one.typical.rail_v[0] - other.typical.rail_v[0]).max() < 1e-7, seed)
            judged += 1
        self.assertGreater(judged, 10)

    def test_all_watts_are_accounted_for(self) -> None:
        for name in ("dusk-ear", "snow-stake"):
            gadget = read_design((DEMO / f"{name}.json").read_bytes())
            counted = sheet(gadget).count
            assert counted is not None
            result = evaluate(apply(gadget, counted))
            self.assertGreater(result.supply.flows[0].given_w, 0)
            for flow in (x for x in result.supply.flows if x.given_w > 0):
                ends = sum(x.watts for x in flow.links if x.kind in ("loss", "part"))
                self.assertAlmostEqual(ends / max(flow.given_w, 1e-12), 1, places=6)
            self.assertTrue(any("the wire to" in e.name for e in result.supply.energy))
            before, after = evaluate(gadget).runtime.total.value, result.runtime.total.value
            assert before is not None and after is not None
            self.assertLess(after, before)


def resistance(key: str, feed: str) -> dict[str, Any]:
    return {
        "id": key,
        "name": key,
        "type": "pass",
        "role": "wire",
        "input": feed,
        "resistance_ohm": 0.15,
        "limit_a": 50,
        "enable": False,
    }


class Sheet(unittest.TestCase):
    def gadget(self, lead: dict[str, Any], amps: float = 0.1, **chip: Any) -> Design:
        supply = {
            "stages": [LINEAR | {"limit_a": 5}],
            "rails": [{"id": "main", "name": "Main", "feed": "reg", "lead": lead}],
        }
        return design(
            parts=[part("chip", state("sleep", 1e-5), state("active", amps, max=amps), **chip)], supply=supply
        )

    def said(self, gadget: Design, key: str) -> bool:
        return any(key in plain(f.text) for f in sheet(gadget).findings)

    def test_too_thin_on_both_sides(self) -> None:
        for times, thin in ((1.02, False), (0.98, True)):
            self.assertEqual(
                self.said(self.gadget({"section_mm2": 0.1 / DENSITY * times, "length_mm": 1}), "gets warm"), thin
            )

    def test_what_it_takes_on_both_sides(self) -> None:
        for share, told in ((TAKES * 0.95, False), (TAKES * 1.05, True)):
            self.assertEqual(
                self.said(
                    self.gadget({"section_mm2": 1, "length_mm": 0, "contact_ohm": share * 3.3 / 0.1}),
                    "shorter, or thicker",
                ),
                told,
            )

    def test_a_connector_on_both_sides(self) -> None:
        for rated, told in ((0.102, False), (0.098, True)):
            self.assertEqual(self.said(self.gadget({"section_mm2": 1, "rated_a": rated}), "connector"), told)

    def test_a_shared_ground_on_both_sides(self) -> None:
        quiet = part("ear", state("off", 0.0), state("on", 0.001), needs=[{"name": "out", "work": "analogue"}])
        for raised, told in ((GROUND_V * 0.95, False), (GROUND_V * 1.05, True)):
            for apart in (True, False):
                lead = {"section_mm2": 1, "length_mm": 0, "contact_ohm": 2 * raised / 0.1, "ground_apart": apart}
                whole = self.gadget(lead).model_dump(mode="json")
                whole["parts"].append(quiet | {"rail": "main"})
                gadget = build_design(whole)
                self.assertEqual(self.said(gadget, "share the ground wire"), told and not apart)

    def test_what_is_offered_settles_it(self) -> None:
        """In the findings of the supply, so that no verdict passes over them; applied and evaluated again it is gone, on one, two and three cells in series."""
        quiet = part("ear", state("off", 0.0), state("on", 0.001), needs=[{"name": "out", "work": "analogue"}])
        for code, lead in (
            ("wire-thin", {"section_mm2": 0.01, "length_mm": 20}),
            ("wire-drops", {"section_mm2": 0.02, "length_mm": 1500, "contact_ohm": 0}),
            ("ground-shared", {"section_mm2": 1, "length_mm": 0, "contact_ohm": 0.2, "ground_apart": False}),
        ):
            for series in (1, 2, 3):
                whole = self.gadget(lead).model_dump(mode="json")
                whole["parts"].append(quiet | {"rail": "main"})
                whole["battery"]["series"] = series
                gadget = build_design(whole)
                codes = [(f.code, f.severity) for f in evaluate(gadget).findings]
                self.assertIn(code, [c for c, _ in codes])
                answers = answer_remedies(TrialBench(gadget, built_in()))
                remedy = next(a.remedy for a in answers if a.finding.startswith(code))
                self.assertNotIn(code, [f.code for f in evaluate(apply(gadget, remedy)).findings], (code, series))

    def test_no_verdict_of_the_supply_passes_over_a_wire_that_gets_warm(self) -> None:
        for section, passes in ((1.0, True), (0.01, False)):
            weakest = next(
                v
                for v in evaluate(self.gadget({"section_mm2": section, "length_mm": 1})).verdicts
                if v.key == "weakest"
            )
            self.assertEqual(weakest.status == "pass", passes, weakest.sentence)

    def test_counting_them_counts_each_once(self) -> None:
        gadget = read_design((DEMO / "snow-stake.json").read_bytes())
        remedy = sheet(gadget).count
        assert remedy is not None
        after = apply(gadget, remedy)
        self.assertTrue(all(s.lead for s in (*after.supply.stages, *after.supply.rails)))
        self.assertIsNone(sheet(after).count)
        self.assertEqual([f.text for f in sheet(after).findings if "wire to" in f.text], [])


class Chosen(unittest.TestCase):
    def test_what_the_search_promises_with_counted_wires_is_what_is_taken_over(self) -> None:
        gadget = read_design((DEMO / "tarn-light.json").read_bytes())
        counted = sheet(gadget).count
        assert counted is not None
        document = apply(gadget, counted).model_dump(mode="json")
        for x in (*document["supply"]["stages"], *document["supply"]["rails"]):
            x["lead"]["contact_ohm"] = 0.2
        bench = TrialBench(build_design(document), built_in())
        rows = answer_choice(bench, ["mass"]).rows[::12]
        self.assertGreater(len(rows), 3)
        for row in rows:
            taken = chosen_design(bench, row.cell, row.series, row.parallel, row.charger, row.options).design
            assert taken is not None and row.runtime.value is not None
            self.assertAlmostEqual(SolvedGadget(taken).coldest.seconds / 3600 / row.runtime.value, 1, places=9)
            self.assertIsNotNone(taken.supply.rails[0].lead)

    def test_another_stage_keeps_the_wire_of_the_one_before(self) -> None:
        old = LinearStage.model_validate(LINEAR | {"lead": ONE_OHM})
        self.assertEqual(in_place(old, LinearStage.model_validate(LINEAR | {"id": "new"})).lead, old.lead)


class BadInput(unittest.TestCase):
    def test_neither_both_and_absurd(self) -> None:
        for bad in ({}, {"section_mm2": 1, "trace_mm": 1}, {"section_mm2": 0}, {"section_mm2": -1}, {"section_mm2": 1, "length_mm": 1e9},
                    {"section_mm2": float("nan")}, {"section_mm2": 1, "rated_a": 0}):  # fmt: skip
            with self.assertRaises(DocumentError, msg=str(bad)):
                straight({"behaviour": "current", "current_a": {"typical": 0.1}}, bad)

    def test_a_wire_that_nothing_comes_through(self) -> None:
        result = evaluate(straight({"behaviour": "power", "power_w": {"typical": 5.0}}, ONE_OHM | {"contact_ohm": 100}))
        self.assertTrue(any(v.status == "fail" for v in result.verdicts))


if __name__ == "__main__":
    unittest.main()
