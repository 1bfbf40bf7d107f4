"""Figures and conditions that no other test looks at closely, one by one: a case on either side of each."""

from __future__ import annotations

import unittest
from pathlib import Path
from typing import Any

import jsonpatch
import numpy as np

from ember_core import DocumentError, build_design, evaluate, read_design
from ember_core.catalogue import Catalogue, built_in
from ember_core.design.gadget import ThinSpot
from ember_core.design.patches import apply, apply_patch, remove, replace
from ember_core.enclosure.bodies import middle_of, placed_bodies
from ember_core.enclosure.pieces import pieces
from ember_core.findings.battery.cells import USUAL_SHARE
from ember_core.imports.new_gadget import new_gadget
from ember_core.imports.parts_list import read_parts_list
from ember_core.load.occasion_text import read_occasion
from ember_core.making import thin_spots
from ember_core.measures.awake import shorter_session
from ember_core.measures.bench import TrialBench
from ember_core.quantities import QuantityError, parse_quantity
from ember_core.studies import answer_day, answer_holding, answer_place, answer_remedies, answer_savings, answer_shell
from ember_core.studies.rail import converters
from ember_core.summary import fit_summary

from .gadgets import LINEAR, cell, design, document, part, plain, seen, state, use
from .test_case_shape import block, box_of, from_file, gadget
from .test_charges_that_harm import SUN
from .test_refill import gadget as charged

DEMO = Path(__file__).resolve().parents[2] / "demo"


def awake(total: float) -> dict[str, Any]:
    modes = [{"id": k, "name": k, "uses": [use("a", "on")]} for k in ("asleep", "on")]
    wake = {"name": "W", "every_s": 10, "mode": "on", "awake_s": total}
    return {"parts": [part("a", state("on", 1e-3))], "modes": modes, "day": {"rest": "asleep", "wakes": [wake | {"name": f"W{i}"} for i in range(2)]}}  # fmt: skip


class Documents(unittest.TestCase):
    def test_a_title_has_120_characters_at_most(self) -> None:
        build_design(document(name="x" * 120))
        with self.assertRaises(DocumentError):
            build_design(document(name="x" * 121))
        with self.assertRaises(DocumentError):
            build_design(document(name=" "))

    def test_a_new_gadget_is_to_last_a_week(self) -> None:
        self.assertEqual(new_gadget("New").brief.goal_h, 168)

    def test_sizes_in_a_list(self) -> None:
        head = b"name,current,size\n"
        for text, good in (("18 x 25.5 x 3 mm", True), ("0 x 5 x 3 mm", False), ("5 x 5 mm", False)):
            problems: list[str] = []
            try:
                read_parts_list(head + f"Chip,10 mA,{text}\n".encode())
            except DocumentError as error:
                problems = [p.message for p in error.problems]
            self.assertEqual(not problems, good, (text, problems))

    def test_units_of_time(self) -> None:
        for text, seconds in (("2 s", 2), ("2 min", 120), ("2 h", 7200), ("2 hr", 7200), ("2 hours", 7200), ("2 d", 172_800), ("2 days", 172_800), ("1 day", 86_400), ("2 weeks", 1_209_600)):  # fmt: skip
            self.assertEqual(parse_quantity(text, "time"), seconds, text)


class Patches(unittest.TestCase):
    """A patch opens only what it reaches; the result is that of the whole document as plain data."""

    def test_the_same_as_on_plain_data(self) -> None:
        met = 0
        for path in sorted(DEMO.glob("*.json"))[:3]:
            made = read_design(path.read_bytes())
            before = made.model_dump_json()
            bench = TrialBench(made, built_in())
            remedies = [s.remedy for s in answer_savings(bench)] + [a.remedy for a in answer_remedies(bench)]
            for remedy in remedies:
                plainly = [
                    {"op": p.op, "path": p.path} | ({} if p.op == "remove" else {"value": p.value})
                    for p in remedy.patch
                ]
                expected = build_design(jsonpatch.apply_patch(made.model_dump(mode="json"), plainly))
                self.assertEqual(apply(made, remedy).model_dump_json(), expected.model_dump_json())
                met += 1
            self.assertEqual(made.model_dump_json(), before)
        self.assertGreater(met, 20)

    def test_later_operations_find_what_earlier_ones_have_moved(self) -> None:
        made = design(parts=[part(f"p{i}", state("on", 1e-3)) for i in range(3)], modes=[{"id": "on", "name": "On", "uses": [use(f"p{i}", "on") for i in range(3)]}], day={"rest": "on"})  # fmt: skip
        after = apply_patch(made, [remove("/modes/0/uses/0"), replace("/modes/0/uses/1/duty", 0.5)])
        self.assertEqual([(u.part, u.duty) for u in after.modes[0].uses], [("p1", 1), ("p2", 0.5)])
        self.assertEqual(len(made.modes[0].uses), 3)


class Case(unittest.TestCase):
    def test_a_screw_s_hole_ends_at_the_floor_of_the_bottom_wall(self) -> None:
        held = [{"id": "f", "name": "Post", "kind": "screw", "thread": "M2", "body": {"size_mm": [6, 6, 12], "shape": "cylinder", "along": "z", "position_mm": [20, 20, 6]}}]  # fmt: skip
        made = gadget(walls_mm={"bottom": 6, "left": 3}, fastenings=held, split_mm=14, joint="flat")
        lower = next(p for p in pieces(made) if p.name == "lower piece")
        in_the_hole = np.hypot(*(lower.vertices[:, :2] - 23).T) < 1.2
        self.assertAlmostEqual(float(lower.vertices[in_the_hole, 2].min()), 6.0)

    def test_posts_are_numbered(self) -> None:
        offers = answer_holding(TrialBench(gadget(outer_mm=[80, 60, 30]), built_in()))
        names = [op.value["name"] for op in offers[0].patch]  # type: ignore[index, call-overload]
        self.assertTrue(names[0].endswith(", 1") and names[-1].endswith(f", {len(names)}"), names)

    def test_what_a_board_without_holes_or_with_posts_already_is_offered(self) -> None:
        plate = block((15, 12, 8), (30, 20, 1.6), shape="board", blocks=[{"name": "Board", "at_mm": [0, 0, 0], "size_mm": [30, 20, 1.6]}])  # fmt: skip
        holes = [{"at_mm": [3, 3], "diameter_mm": 2.7}, {"at_mm": [27, 17], "diameter_mm": 2.7}]
        for body, offered in ((plate, False), (plate | {"holes": holes}, True)):
            made = gadget(body)
            labels = [plain(o.label) for o in answer_holding(TrialBench(made, built_in()))]
            self.assertEqual(any("Part 0" in x for x in labels), offered, labels)
            if offered:
                under = next(
                    o.remedy if hasattr(o, "remedy") else o
                    for o in answer_holding(TrialBench(made, built_in()))
                    if "Part 0" in o.label
                )
                after = [plain(o.label) for o in answer_holding(TrialBench(apply(made, under), built_in()))]
                self.assertFalse(any("Part 0" in x for x in after), after)

    def test_a_case_from_a_file_comes_apart_only_where_it_is_said(self) -> None:
        for at, upper in ((None, False), (12.0, True)):
            self.assertEqual(answer_shell(gadget(**from_file(box_of(), split_mm=at))).upper is not None, upper)

    def test_without_a_size_the_summary_says_so(self) -> None:
        self.assertNotIn("Nothing has a size yet", fit_summary(evaluate(gadget(block((20, 15, 6))))))

    def test_the_middle_of_a_board_is_that_of_its_blocks(self) -> None:
        """A plate of 10 x 10 x 1 and a block of 2 x 2 x 5 in its corner: 100 and 20 mm3."""
        blocks = [
            {"name": "Board", "at_mm": [0, 0, 0], "size_mm": [10, 10, 1]},
            {"name": "Jack", "at_mm": [0, 0, 1], "size_mm": [2, 2, 5]},
        ]
        made = gadget(block((20, 15, 6), (10, 10, 6), shape="board", blocks=blocks))
        middle = middle_of(next(b for b in placed_bodies(made) if b.pointer == "/parts/0"))
        np.testing.assert_allclose(
            middle, (20 + (100 * 5 + 20 * 1) / 120, 15 + (100 * 5 + 20 * 1) / 120, 6 + (100 * 0.5 + 20 * 3.5) / 120)
        )

    def test_nothing_to_place(self) -> None:
        self.assertIn("Nothing to place", answer_place(TrialBench(design(), built_in())).sentence)


class Days(unittest.TestCase):
    def test_no_day_without_parts(self) -> None:
        empty = design(parts=[], modes=[{"id": "asleep", "name": "Asleep"}], day={"rest": "asleep"})
        self.assertIsNone(answer_day(TrialBench(empty, built_in())))

    def test_two_wakes_that_leave_no_time(self) -> None:
        """Two of 4 s every 10 s leave 2 s; two of 6 s none."""
        build_design(document(**awake(4)))
        with self.assertRaises(DocumentError):
            build_design(document(**awake(6)))


class Sun(unittest.TestCase):
    def test_on_its_battery_alone(self) -> None:
        """A panel that brings too little is to be fixed, and only to be watched where the goal is reached without it."""
        weak = SUN | {"port": SUN["port"] | {"panel": {"peak_w": 0.02, "area_cm2": 5, "latitude_deg": 50, "month": 12}}}  # type: ignore[operator]
        hours = TrialBench(charged(1, weak), built_in()).runtime_s / 3600
        for share, severity in ((0.999, "watch"), (1.001, "fix")):
            made = charged(1, weak)
            brief = made.brief.model_copy(update={"goal_h": hours * share})
            self.assertEqual(
                [f.severity for f in seen(made.model_copy(update={"brief": brief}), "too-little-sun")], [severity]
            )


class Savings(unittest.TestCase):
    def test_the_best_converter_that_fits_is_offered(self) -> None:
        chip = part("chip", state("on", 0.05))
        stages = [LINEAR | {"quiescent_a": 5e-3}]
        made = design(parts=[chip], modes=[{"id": "asleep", "name": "Asleep", "uses": [use("chip", "on")]}], day={"rest": "asleep"}, supply={"stages": stages, "rails": [{"id": "main", "name": "Main", "feed": "reg"}]})  # fmt: skip
        offered = [s for s in answer_savings(TrialBench(made, built_in())) if s.code == "other-converter"]
        self.assertEqual(len(offered), 1)
        rows = converters(TrialBench(made, built_in()), 0)
        best = next(row for row, _ in rows if row.fits and not row.now)
        self.assertIn(best.name, plain(offered[0].title))
        for row, _ in rows:
            inputs = {i.name: i.value for i in row.loss.working.inputs}
            self.assertAlmostEqual(row.loss.value or 0, (inputs["in"] or 0) - (inputs["out"] or 0))


class Cells(unittest.TestCase):
    def test_a_pouch_is_scaled_up_to_four_times(self) -> None:
        """It holds more than the best: the way out is a larger one of its proportions, up to four times as long."""
        for times, way in ((2.0, True), (3.95**3 * USUAL_SHARE, True), (4.05**3 * USUAL_SHARE, False)):
            made = design(battery={"cell": cell(capacity_ah=0.215 * 34 * 50 * 5 / 1000 * times)})
            found = seen(made, "holds-too-much")
            self.assertEqual(len(found), 1, times)
            labels = [r.label for r in (found[0].found.ways() if found[0].found.ways else []) if r]
            self.assertEqual(any("Scale this pouch" in x for x in labels), way, (times, labels))


class Bounds(unittest.TestCase):
    """On either side of a figure that a random fault may move without anybody noticing."""

    def test_a_part_may_draw_what_it_is_made_for_and_no_more(self) -> None:
        for drawn, told in ((0.02, False), (0.02001, True)):
            raw = part(
                "lamp",
                {
                    "name": "on",
                    "draw": {"behaviour": "current", "current_a": {"typical": drawn, "min": drawn, "max": drawn}},
                },
            )
            made = design(
                parts=[{**raw, "rated_a": 0.02}],
                modes=[{"id": "on", "name": "On", "uses": [use("lamp", "on")]}],
                day={"rest": "on"},
            )
            self.assertEqual(bool(seen(made, "current-rating")), told, drawn)

    def test_newer_figures_are_told_at_the_step_of_what_they_are_of(self) -> None:
        entry = next(e for e in built_in().entries if e.part)
        stage = next(e for e in built_in().entries if e.stage and e.stage.type == "linear")
        raw = design().model_dump(mode="json")
        raw["parts"][0]["origin"] = {"key": entry.key, "edition": 1}
        raw["supply"]["stages"] = [{**LINEAR, "origin": {"key": stage.key, "edition": 1}}]
        raw["supply"]["rails"][0]["feed"] = LINEAR["id"]
        newer = {e.key: e.model_copy(update={"edition": 9}) for e in (entry, stage)}
        catalogue = Catalogue([newer.get(e.key, e) for e in built_in().entries])
        found = {f.where: f.step for f in evaluate(build_design(raw), catalogue).findings if f.code == "newer-figures"}
        self.assertEqual(found, {"/parts/0": "draw", "/supply/stages/0": "supply"})

    def test_times_of_three_numbers(self) -> None:
        self.assertEqual(parse_quantity("2:01:30", "time"), 7290)
        self.assertEqual(parse_quantity("0:00:30", "time"), 30)

    def test_the_largest_power_that_is_taken(self) -> None:
        self.assertEqual(parse_quantity("2000 W", "power"), 2000)
        with self.assertRaises(QuantityError):
            parse_quantity("2001 W", "power")

    def test_one_time_is_once(self) -> None:
        self.assertEqual(read_occasion("5 min one time a day").per_day, 1)
        self.assertEqual(read_occasion("5 min two times a day").per_day, 2)

    def test_a_minute_is_an_event_and_more_is_use(self) -> None:
        for seconds, kind in ((60, "firmware"), (61, "habit")):
            made = read_design((DEMO / "dusk-ear.json").read_bytes())
            raw = made.model_dump(mode="json")
            raw["day"]["sessions"][0]["seconds"] = seconds
            bench = TrialBench(build_design(raw), built_in())
            self.assertEqual(shorter_session(bench, bench.design.day.sessions[0]).kind, kind)

    def test_the_thinnest_spot_stands_first(self) -> None:
        case = gadget(**from_file(box_of())).enclosure
        assert case.shape is not None
        thin = [ThinSpot(at_mm=(1, 1, 1), thickness_mm=x) for x in (0.5, 0.2, 0.9, 0.3)]
        shaped = case.model_copy(update={"shape": case.shape.model_copy(update={"thin": thin})})
        left = [x for x, _ in thin_spots(shaped)]
        self.assertEqual(left, sorted(left))
        self.assertGreaterEqual(len(left), 3)

    def test_what_sits_beside_its_board_is_moved_onto_it_along_one_axis_only(self) -> None:
        board = block((20, 20, 4), size=(20, 10, 2))
        for at, offered in (((25, 22, 8.0), True), ((50, 22, 8.0), False), ((25, 40, 6.0), True)):
            found = seen(gadget(board, block(at, on="p0")), "off-its-board")
            self.assertEqual(len(found), 1, at)
            ways = [w for w in (found[0].found.ways() if found[0].found.ways else ()) if w is not None]
            self.assertEqual(any(w.label.startswith("Move") for w in ways), offered, at)


if __name__ == "__main__":
    unittest.main()
