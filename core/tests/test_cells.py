"""Which cell suits: ranked by runtime, each that is out with its reason, figures those of the changed gadget."""

from __future__ import annotations

import unittest
from dataclasses import replace
from pathlib import Path
from typing import Any
from unittest.mock import patch

from ember_core import Design, evaluate, read_design
from ember_core.battery.chemistry import CHEMISTRIES
from ember_core.catalogue import Catalogue, built_in
from ember_core.design.patches import apply
from ember_core.measures.bench import TrialBench
from ember_core.studies import answer_cells, cells
from ember_core.studies.cells import CellChoice
from ember_core.studies.judging import Judged

from .gadgets import cell, design, part, plain, state, use
from .randoms import random_design
from .test_findings import CHARGER, Traps

DEMO = Path(__file__).resolve().parents[2] / "demo"
BRIEF = {"goal_h": 100, "coldest_c": 25, "usual_c": 25, "hottest_c": 25}


def rows(gadget: Design) -> list[CellChoice]:
    return answer_cells(TrialBench(gadget, built_in()))


class Choosing(unittest.TestCase):
    def test_ninety_cells_of_eight_chemistries_are_ranked(self) -> None:
        self.assertGreaterEqual(len(built_in().cells), 90)
        self.assertEqual({c.chemistry for c in built_in().cells}, set(CHEMISTRIES))
        found = [r for r in rows(design()) if r.fits]
        order = [(r.harm, -(r.runtime.value or 0)) for r in found]
        self.assertEqual(order, sorted(order))
        self.assertGreater(len(found), 5)

    def test_the_runtime_is_that_of_the_gadget_on_it(self) -> None:
        gadget = design()
        cold = design(brief=BRIEF | {"goal_h": 50, "coldest_c": -5, "usual_c": 20, "hottest_c": 30})
        for here in (gadget, cold):
            found = [r for r in rows(here) if r.fits and not r.now]
            self.assertGreater(len(found), 3)
            for row in found[:: max(len(found) // 6, 1)]:
                after = evaluate(apply(here, row.remedy)).runtime.coldest
                for promised, came in (
                    (row.runtime.low, after.low), (row.runtime.value, after.value), (row.runtime.high, after.high),
                ):  # fmt: skip
                    self.assertAlmostEqual((promised or 0) / (came or 1), 1, places=12)

    def test_what_is_not_worked_out_further_would_not_have_suited(self) -> None:
        """Every third cell for random gadgets whose goal is about what they last: with every candidate worked out the same ones suit, with the same figures."""
        some = [e for i, e in enumerate(e for e in built_in().entries if e.cell) if i % 3 == 0]
        plain_lasts = cells._lasts_h
        left_out = 0
        for seed, share in ((3, 0.5), (5, 1.0), (9, 1.5), (14, 1.0)):
            gadget = random_design(seed)
            lasts = TrialBench(gadget, built_in()).cold_estimate.median / 3600
            gadget = gadget.model_copy(
                update={"brief": gadget.brief.model_copy(update={"goal_h": max(share * lasts, 1.0)})}
            )
            bench = TrialBench(gadget, Catalogue(some))
            exact: list[bool] = []

            def counted(*arguments: Any, exact: bool, seen: list[bool] = exact) -> Any:
                seen.append(exact)
                return plain_lasts(*arguments, exact=exact)

            with patch.object(cells, "_lasts_h", counted):
                quick = answer_cells(bench)
            left_out += exact.count(False) - exact.count(True)
            with patch.object(cells, "CLEARLY_SHORT", 0.0):
                whole = answer_cells(bench)
            with self.subTest(seed):

                def told(found: list[CellChoice]) -> list[tuple[Any, ...]]:
                    return sorted((r.name, r.series, r.parallel, r.runtime.value) for r in found if r.fits)

                self.assertEqual(told(quick), told(whole))
        self.assertGreater(left_out, 10)

    def test_a_whole_answer_in_portions_is_the_whole_answer_and_only_what_is_open_changes(self) -> None:
        some = Catalogue(built_in().entries[::3])
        for name in ("snow-stake", "rosin-minder-rechargeable"):
            with self.subTest(name):
                bench = TrialBench(read_design((DEMO / f"{name}.json").read_bytes()), some)
                sight, whole = answer_cells(bench, "first sight"), answer_cells(bench)
                names = list(dict.fromkeys(r.name for r in sight if r.open))
                self.assertGreater(len(names), 1)
                portions = [
                    row for k in range(0, len(names), 2) for row in answer_cells(bench, "whole", names[k : k + 2])
                ]
                found = {(r.name, r.series, r.parallel): r for r in whole if not r.now}
                self.assertEqual({k: r for k, r in found.items() if r.name in names}, {
                    (r.name, r.series, r.parallel): r for r in portions
                })  # fmt: skip
                left = {(r.name, r.series, r.parallel): r for r in sight if r.name not in names and not r.now}
                self.assertEqual(left.keys(), {k for k, r in found.items() if r.name not in names})
                for key, row in left.items():
                    self.assertEqual(
                        (row.fits, row.reasons, row.runtime), (False, found[key].reasons, found[key].runtime)
                    )
                    self.assertFalse(found[key].fits)

    def test_portions_of_random_gadgets_hold_all_that_suits(self) -> None:
        some = Catalogue([e for i, e in enumerate(e for e in built_in().entries if e.cell) if i % 5 == 0])
        suiting = 0
        for seed in range(100, 120):
            gadget = random_design(seed)
            lasts = TrialBench(gadget, some).cold_estimate.median / 3600
            brief = gadget.brief.model_copy(update={"goal_h": max((0.15, 0.6, 1.5)[seed % 3] * lasts, 1.0)})
            bench = TrialBench(gadget.model_copy(update={"brief": brief}), some)
            names = list(dict.fromkeys(r.name for r in answer_cells(bench, "first sight") if r.open))
            with self.subTest(seed):
                portions = [row for name in names for row in answer_cells(bench, "whole", [name])]
                whole = [r for r in answer_cells(bench) if not r.now]
                self.assertCountEqual([r for r in whole if r.name in names], portions)
                self.assertEqual([r.name for r in whole if r.fits and r.name not in names], [])
                suiting += sum(r.fits for r in portions)
        self.assertGreater(suiting, 10)

    def test_a_cell_is_open_by_any_of_its_packs_and_several_in_parallel_are_rows_only_if_they_suit(self) -> None:
        """Of one in series, two, and two in parallel, told as no, may be, or yes."""
        bench = TrialBench(read_design((DEMO / "dusk-ear.json").read_bytes()), built_in())
        own = next(c for c in built_in().cells if c.name.startswith("Pouch 804060"))
        plain_row = answer_cells(bench, "whole", [own.name])[0]
        hours = {(1, 1): 20.0, (2, 1): 10.0, (1, 2): 5.0}
        for told, rows_of, is_open in (
            ({}, [(1, 1)], False),
            ({(2, 1): "open"}, [(1, 1)], True),
            ({(1, 2): "open"}, [(1, 1)], True),
            ({(1, 2): "fits"}, [(1, 1), (1, 2)], False),
        ):

            def row(_: object, pack: Any, out: object, told: dict[Any, str] = told, **__: object) -> CellChoice:
                key = (pack.series, pack.parallel)
                return replace(
                    plain_row, series=key[0], parallel=key[1], fits=told.get(key) == "fits",
                    open=told.get(key) == "open", runtime=replace(plain_row.runtime, value=hours.get(key)),
                    needed=replace(plain_row.needed, value=2 * own.capacity_ah), harm=False,
                )  # fmt: skip

            with (
                self.subTest(told), patch.object(cells, "_row", row), patch.object(cells, "WINDOW", (0.5, 2.5)),
                patch.object(cells, "_at_first_sight", lambda *_: []), patch.object(cells, "MOST_IN_SERIES", 2),
                patch.object(cells, "MOST_IN_PARALLEL", 2),
            ):  # fmt: skip
                found = cells._of_cell(bench, own, whole=False)
                self.assertEqual([(r.series, r.parallel) for r in found], rows_of)
                self.assertEqual({r.open for r in found}, {is_open})

    def test_what_is_over_the_brief_is_tried_with_nothing_more(self) -> None:
        bench = TrialBench(read_design((DEMO / "dusk-ear.json").read_bytes()), built_in())
        row = next(r for r in answer_cells(bench, "whole", ["Pouch 606090, 4000 mAh"]) if r.harm)
        asked: list[CellChoice] = []
        with (
            patch.object(cells, "has_room", lambda *_: True),
            patch.object(cells, "_with_changes", lambda _, row, __: asked.append(row)),
        ):
            cells._changed(Judged(bench), [row, replace(row, fits=False, name="over")])
        self.assertEqual(asked, [row])

    def test_cells_of_one_name_are_told_apart(self) -> None:
        entry = next(e for e in built_in().entries if e.kind == "cell" and e.name.startswith("Pouch 804060"))
        assert entry.cell is not None
        used = entry.model_copy(update={"cell": entry.cell.model_copy(update={"measured_ah": 1.5})})
        bench = TrialBench(read_design((DEMO / "dusk-ear.json").read_bytes()), Catalogue([entry, used]))
        found = sorted((r.position, r.runtime.value or 0) for r in answer_cells(bench, "whole", [entry.name]))
        self.assertEqual([position for position, _ in found], [0, 1])
        self.assertLess(found[1][1], 0.9 * found[0][1])
        self.assertEqual(answer_cells(bench, "whole", ["another"]), [])
        self.assertIsNone(next(r for r in answer_cells(bench, "first sight") if r.now).position)

    def test_what_is_short_by_no_more_than_it_may_is_open_and_what_is_clearly_short_is_not(self) -> None:
        gadget = read_design((DEMO / "dusk-ear.json").read_bytes())
        entry = next(e for e in built_in().entries if e.kind == "cell" and e.name.startswith("Pouch 804060"))
        for share, is_open in ((1.01, True), (0.99, False)):
            bench = TrialBench(gadget, Catalogue([entry]))
            row = next(r for r in answer_cells(bench, "first sight") if not r.now)
            high = row.runtime.high
            assert high is not None
            goal = high / cells.CLEARLY_SHORT / share
            asked = gadget.model_copy(update={"brief": gadget.brief.model_copy(update={"goal_h": goal})})
            with patch.object(cells, "_side_by_side", lambda *_, **__: []):
                found = [r for r in answer_cells(TrialBench(asked, Catalogue([entry])), "first sight") if not r.now]
            self.assertEqual([(r.fits, r.open) for r in found], [(False, is_open)])

    def test_first_sight_shows_nearly_what_is_found_whole_and_lets_nothing_be_taken(self) -> None:
        for name in ("dusk-ear", "tarn-light"):
            with self.subTest(name):
                own = TrialBench(read_design((DEMO / f"{name}.json").read_bytes()), built_in())
                sight, whole = answer_cells(own, "first sight"), answer_cells(own)
                self.assertEqual({r.tried for r in sight if not r.now}, {False})
                self.assertEqual([op for r in sight for op in r.remedy.patch], [])
                self.assertTrue(all(r.tried for r in whole))
                seen, found = ({(r.name, r.series, r.parallel): r for r in rows} for rows in (sight, whole))
                same = [k for k in found if k in seen]
                self.assertGreater(len(same), 0.95 * len(found))
                alike = [
                    k for k in same if seen[k].fits == found[k].fits or found[k].reasons == ["mass: over the brief"]
                ]
                self.assertGreater(len(alike), 0.93 * len(same))
                for k in same:
                    if seen[k].fits and found[k].fits and not found[k].now:
                        self.assertAlmostEqual(
                            (seen[k].runtime.value or 0) / (found[k].runtime.value or 1), 1, delta=0.12
                        )

    def test_the_peak_is_that_of_where_it_runs(self) -> None:
        """2.5 W from a cell of 1.5 Ω: it gives way with seven tenths of its charge left. Further down it has collapsed, and what that would draw is no peak."""
        heater = {"name": "on", "draw": {"behaviour": "power", "power_w": {"typical": 2.5}}, "provenance": "measured"}
        weak = design(
            parts=[part("heater", state("off", 1e-6), heater)],
            modes=[{"id": "asleep", "name": "Asleep", "uses": [use("heater", "off")]},
                   {"id": "awake", "name": "Awake", "uses": [use("heater", "on")]}],
            day={"rest": "asleep", "sessions": [{"name": "Use", "mode": "awake", "seconds": 600, "per_day": 10}]},
            supply={"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]},
            battery={"cell": cell(resistance_ohm=1.5, cutoff_v=2.0, discharge_max_a=2.0), "wiring_ohm": 0},
        )  # fmt: skip
        now = next(r for r in rows(weak) if r.now)
        self.assertTrue(0.9 < (now.peak.value or 0) < 1.2, now.peak.value)  # 2.5 W at 2.4 V
        self.assertFalse(any("2.8 A" in plain(x) or "2.79 A" in plain(x) for x in now.reasons), now.reasons)

    def test_what_exceeds_the_brief_by_its_mass_is_out_and_what_is_just_within_is_not(self) -> None:
        gadget = design(enclosure={"outer_mm": [90, 120, 40]})
        heavy = next(r for r in rows(gadget) if r.fits and not r.now and not r.harm and (r.mass.value or 0) > 30)
        whole = evaluate(apply(gadget, heavy.remedy)).verdicts
        mass = next(v for v in whole if v.key == "mass").figure.value or 0
        for limit, out in ((mass * 1.2, False), (mass * 0.99, True)):
            brief = BRIEF | {"mass_max_g": limit}
            row = next(r for r in rows(design(enclosure={"outer_mm": [90, 120, 40]}, brief=brief)) if (r.name, r.series, r.parallel) == (heavy.name, heavy.series, heavy.parallel))  # fmt: skip
            self.assertEqual(row.fits, not out, row.reasons)
            self.assertEqual(any("over the brief" in x for x in row.reasons), out)

    def test_each_that_is_out_says_why(self) -> None:
        loud = design(parts=[part("chip", state("sleep", 1e-3), state("active", 0.4), name="Chip", supply_absolute_max_v=5)],
                      charger=CHARGER, enclosure={"outer_mm": [60, 50, 24]}, brief=BRIEF | {"goal_h": 200})  # fmt: skip
        said = plain(" ".join(reason for r in rows(loud) for reason in r.reasons))
        for words in (
            "the charger is not for it",
            "it is full at 3.6 V",
            "does not go into the case",
            "made for",
            "the goal is",
        ):
            self.assertIn(words, said)
        self.assertTrue(all(r.fits or r.reasons for r in rows(loud)))

    def test_the_marks_of_a_row_are_few_and_short(self) -> None:
        marked = 0
        for gadget in (
            design(),
            design(charger=CHARGER, enclosure={"outer_mm": [60, 50, 24]}, brief=BRIEF | {"goal_h": 200}),
        ):
            for row in rows(gadget):
                self.assertLessEqual(len(row.marks), 3)
                self.assertTrue(all(len(m) <= 48 for m in row.marks), row.marks)
                self.assertEqual(
                    bool(row.marks), bool(row.reasons or row.harm) and not (row.now and not row.reasons), row.name
                )
                marked += len(row.marks)
        self.assertGreater(marked, 20)

    def test_how_much_a_pack_is_too_large_is_marked(self) -> None:
        """A case of 60 x 50 x 24 mm leaves 57, 47 and 21 mm: a cell of 65 x 18.5 mm is 8 mm too long."""
        gadget = design(enclosure={"outer_mm": [60, 50, 24]})
        row = next(r for r in rows(gadget) if r.name.startswith("Cylinder 18650") and r.series == 1)
        sides = sorted(next(c for c in built_in().cells if c.name == row.name).size_mm, reverse=True)
        over = max(a - b for a, b in zip(sides, (57, 47, 21), strict=True))
        self.assertIn(f"{over:.3g} mm too large", [plain(m) for m in row.marks])

    def test_needed_capacity_reaches_the_goal_at_the_least_runtime(self) -> None:
        now = next(r for r in rows(design()) if r.now)
        scaled = design(battery={"cell": cell(capacity_ah=now.needed.value), "wiring_ohm": 0})
        again = next(r for r in rows(scaled) if r.now)
        self.assertAlmostEqual((again.runtime.low or 0) / 100, 1.0, delta=0.03)


class Chargers(Traps):
    def test_t24_a_charger_that_goes_on_for_too_long(self) -> None:
        iron = {"cell": cell(chemistry="lithium-iron-phosphate", cutoff_v=2.5)}
        gadget = design(battery=iron, charger=CHARGER | {"program_ohm": 4800})
        after = self.settles(gadget, self.has(gadget, "float-voltage", "4.2 V", "full at 3.6 V"))
        self.assertEqual(after.charger.float_v, 3.6)  # type: ignore[union-attr]
        self.lacks(design(charger=CHARGER), "float-voltage")

    def test_t24_a_lithium_charger_on_nickel_cells(self) -> None:
        nickel = {"cell": cell(chemistry="nickel-metal-hydride", cutoff_v=1.0), "series": 3}
        gadget = design(battery=nickel, charger=CHARGER)
        self.settles(gadget, self.has(gadget, "wrong-charger", "nickel-metal-hydride", "constant voltage"))
        self.lacks(design(battery=nickel), "wrong-charger")

    def test_a_thionyl_cell_that_sleeps_for_long_dips(self) -> None:
        def sleeper(peak: float) -> Design:
            chip = part("chip", state("sleep", 2e-6), state("active", peak))
            return design(parts=[chip], battery={"cell": cell(chemistry="lithium-thionyl", cutoff_v=2.0)})

        self.has(sleeper(0.05), "start-up-dip", "50 mA", "bulk capacitor")
        self.lacks(sleeper(0.001), "start-up-dip")


class Present(unittest.TestCase):
    def again(self, **changed: object) -> bool:
        """Whether the catalogue's cell is offered in as many as there are of it now, called otherwise."""
        entry = next(
            c for c in built_in().cells if c.chemistry == "lithium-ion" and not c.bank and 0.5 < c.capacity_ah < 2
        )
        own = entry.model_dump(mode="json") | {"name": "Mine"} | changed
        found = rows(design(battery={"cell": own, "wiring_ohm": 0}))
        return any(r.name == entry.name and r.series == 1 and r.parallel == 1 for r in found if not r.now)

    def test_the_cell_that_is_there_is_not_offered_again_measured_or_not(self) -> None:
        self.assertFalse(self.again())
        self.assertFalse(self.again(measured_ah=0.9))

    def test_a_cell_of_another_capacity_or_size_is_another_one(self) -> None:
        self.assertTrue(self.again(capacity_ah=0.45))
        self.assertTrue(self.again(size_mm=[5, 30, 49]))


class WithWhatTheyAskFor(unittest.TestCase):
    def test_taken_over_as_one_change_nothing_gets_worse(self) -> None:
        path = Path(__file__).resolve().parents[2] / "demo" / "rosin-minder-rechargeable.json"
        gadget = read_design(path.read_bytes())
        simple, changed = (answer_cells(TrialBench(gadget, built_in()), x) for x in ("whole", "with changes"))
        self.assertEqual([r for r in simple if r.changed], [])
        better = [r for r in changed if r.changed]
        self.assertGreaterEqual(len(better), 2)
        before = evaluate(gadget)
        was = {(f.code, f.where) for f in before.findings if f.severity in ("stop", "fix")}
        for row in better:
            after = evaluate(apply(gadget, row.remedy))
            self.assertEqual(
                {(f.code, f.where) for f in after.findings if f.severity in ("stop", "fix")} - was, set(), row.name
            )
            for old, new in zip(before.verdicts, after.verdicts, strict=True):
                self.assertFalse(old.status == "pass" and new.status == "fail", (row.name, new.key))
            self.assertEqual(after.runtime.total, row.remedy.runtime)
            self.assertFalse(row.harm)
            self.assertIn(row.changed[0], row.remedy.label)
        self.assertEqual(len(simple), len(changed))
