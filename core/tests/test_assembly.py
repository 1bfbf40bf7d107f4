"""The assembly sheet: its order, its cautions, and the small things that get forgotten, put on the bill and counted again."""

from __future__ import annotations

import unittest

from ember_core import build_design, evaluate
from ember_core.bringup import Assembly, assembly
from ember_core.bringup.small_parts import LOWERED, _rated
from ember_core.catalogue import built_in
from ember_core.design.patches import apply_patch, replace
from ember_core.measures.bench import TrialBench

from .randoms import random_design, sweep
from .test_wiring import DEMOS, bench, wired

ORDER = ("ready", "case", "board", "delicate", "wires", "inside", "cell", "close")


def count(sheet: Assembly, key: str) -> int:
    return next((p.count for p in sheet.small.parts if p.key == key), 0)


class Order(unittest.TestCase):
    def test_nothing_is_in_the_way_of_what_follows(self) -> None:
        for name in DEMOS:
            with self.subTest(name):
                steps = assembly(bench(name)).steps
                groups = [ORDER.index(s.group) for s in steps]
                self.assertEqual(groups, sorted(groups))
                self.assertEqual(len({s.key for s in steps}), len(steps))
                self.assertEqual([s.group for s in steps[-2:]], ["cell", "close"])
                self.assertTrue(all(s.title and s.how and len(s.key) <= 80 for s in steps))

    def test_the_lowest_first_and_the_display_after_all_other_soldering(self) -> None:
        sheet = assembly(bench("dusk-ear"))
        design = bench("dusk-ear").design
        soldered = [
            s.key.removeprefix("build-part:") for s in sheet.steps if s.group == "board" and s.key != "build-small"
        ]
        heights = [
            min(design.part(k).body.size_mm) for k in soldered if k in design.index.parts and design.part(k).body
        ]  # type: ignore[union-attr]
        self.assertEqual(heights, sorted(heights))
        self.assertEqual([s.key for s in sheet.steps if s.group == "delicate"][-1], "build-display:display")

    def test_cautions_where_a_step_can_hurt(self) -> None:
        cell = next(s for s in assembly(bench("dusk-ear")).steps if s.key == "build-cell")
        self.assertIn("Never solder on the cell", cell.caution)
        aaa = next(s for s in assembly(bench("tarn-light-aaa")).steps if s.key == "build-cell")
        self.assertNotIn("pierce", aaa.caution)
        made = bench("dusk-ear").design
        for process, word in (("resin", "gloves"), ("milled", "Glasses"), ("filament", "Hot nozzle")):
            other = TrialBench(apply_patch(made, [replace("/enclosure/process", process)]), built_in())
            self.assertTrue(any(word in s.caution for s in assembly(other).steps if s.group == "case"), process)

    def test_films_are_asked_for_below_a_millimetre(self) -> None:
        near = {s.key for s in assembly(bench("dusk-ear")).steps if s.group == "inside"}
        fit = bench("dusk-ear").fit
        told = {
            frozenset((fit.placed[c.first].key, fit.placed[c.second].key))
            for c in fit.contacts
            if c.side is None and c.second >= 0 and 0 <= c.gap_mm < 1.0
            and not (fit.placed[c.first].of_the_case or fit.placed[c.second].of_the_case)
            and not (fit.placed[c.first].board == fit.placed[c.second].board != "")
        }  # fmt: skip
        self.assertEqual(len(near), len(told))

    def test_random_gadgets_have_a_sheet(self) -> None:
        for seed in sweep(8, 60):
            with self.subTest(seed=seed):
                found = assembly(TrialBench(random_design(seed), built_in()))
                self.assertEqual(found.steps[-1].group, "close")


class Forgotten(unittest.TestCase):
    def test_counts_by_hand(self) -> None:
        sheet = assembly(bench("dusk-ear"))
        # controller, display and card sit on buses or have pins; one linear regulator; one I2C bus; the charger; the large one at the battery's rail
        self.assertEqual(
            [count(sheet, k) for k in ("cap-100n", "cap-1u", "cap-10u", "cap-4u7", "res-4k7")], [3, 2, 0, 2, 2]
        )
        self.assertEqual(count(assembly(bench("snow-stake")), "cap-10u"), 2)  # a boost
        self.assertEqual(count(assembly(bench("rosin-minder")), "res-4k7"), 0)  # its pull resistors are a part
        self.assertEqual(count(assembly(bench("snow-stake")), "level-distance"), 2)

    def test_a_pin_that_pulls_itself_needs_no_resistor(self) -> None:
        for controller, resistors in (("A: in", 1), ("A: in pull", 0)):
            self.assertEqual(
                count(assembly(TrialBench(wired(controller, "x: in pull"), built_in())), "res-10k"), resistors
            )

    def test_put_on_the_bill_they_are_there_and_nothing_else_changes(self) -> None:
        for name in DEMOS:
            before, sheet = bench(name).design, assembly(bench(name))
            if sheet.small.way is None:
                continue
            with self.subTest(name):
                after = apply_patch(before, sheet.small.way.patch)
                again = assembly(TrialBench(after, built_in()))
                self.assertIsNone(again.small.way)
                self.assertFalse(any(p.missing for p in again.small.parts))
                one, other = evaluate(before), evaluate(after)
                self.assertEqual(one.runtime.total.value, other.runtime.total.value)
                added = sum(p.cost for p in sheet.small.parts)
                self.assertAlmostEqual((other.totals.cost.value or 0) - (one.totals.cost.value or 0), added, places=2)
                self.assertLessEqual({f.key for f in other.findings}, {f.key for f in one.findings})

    def test_one_too_few_on_the_bill_is_topped_up(self) -> None:
        sheet = assembly(bench("dusk-ear"))
        assert sheet.small.way is not None
        after = apply_patch(bench("dusk-ear").design, sheet.small.way.patch)
        at = after.index.parts["small-cap-100n"]
        fewer = apply_patch(after, [replace(f"/parts/{at}/quantity", 2)])
        way = assembly(TrialBench(fewer, built_in())).small.way
        assert way is not None
        self.assertEqual(apply_patch(fewer, way.patch).parts[at].quantity, 3)

    def test_what_a_capacitor_is_rated_for(self) -> None:
        for volts, rated in ((4.19, "6.3 V"), (4.21, "10 V")):  # 1.5 times: 6.285 and 6.315 V
            self.assertEqual(_rated(volts).replace("\xa0", " "), rated)

    def test_a_signal_lower_than_its_rail_wants_its_resistors(self) -> None:
        for level, resistors in ((LOWERED * 3.3 + 0.001, 0), (LOWERED * 3.3 - 0.001, 2)):
            self.assertEqual(
                count(assembly(TrialBench(wired("A: in", f"x: in {level:.4f} V"), built_in())), "level-part-0"),
                resistors,
            )
        both = wired("A: in", "x: in 2 V/y: in x2 2 V")
        self.assertEqual(count(assembly(TrialBench(both, built_in())), "level-part-0"), 6)

    def test_long_names_and_great_numbers(self) -> None:
        gadget = wired("A: in", "x: in 2 V/bus: i2c 0x10", "y: in 2 V")
        parts = [
            p.model_copy(update={"id": f"{'long-' * 11}{k}", "name": "N" * 120, "quantity": 1000 if k else 1})
            for k, p in enumerate(gadget.parts)
        ]
        modes = [
            m.model_copy(
                update={"uses": [u.model_copy(update={"part": p.id}) for u, p in zip(m.uses, parts, strict=True)]}
            )
            for m in gadget.modes
        ]
        gadget = build_design(gadget.model_copy(update={"parts": parts, "modes": modes}).model_dump(mode="json"))
        sheet = assembly(TrialBench(gadget, built_in()))
        keys = [s.key for s in sheet.steps]
        self.assertEqual((len(set(keys)), max(map(len, keys)) <= 80), (len(keys), True))
        assert sheet.small.way is not None
        after = apply_patch(gadget, sheet.small.way.patch)
        self.assertIsNone(assembly(TrialBench(after, built_in())).small.way)
