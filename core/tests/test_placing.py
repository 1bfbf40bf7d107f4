"""Everything placed at once: no collision in whatever comes out, and what finds no room is said."""

from __future__ import annotations

import random
import unittest
from pathlib import Path
from typing import Any
from unittest.mock import patch

import numpy as np

from ember_core import Design, read_design
from ember_core.catalogue import built_in
from ember_core.design.patches import apply_patch, replace
from ember_core.enclosure import placing
from ember_core.enclosure.fit import check_fit, contact_status
from ember_core.enclosure.placing import _free, _room, place_all
from ember_core.enclosure.solids import SIDES
from ember_core.measures.bench import TrialBench
from ember_core.studies import answer_place

from .gadgets import cell, design, part, plain, state, use

DEMO = Path(__file__).resolve().parents[2] / "demo"


def boxes(*sizes: tuple[float, float, float], case: tuple[float, float, float] = (60, 60, 30), **more: Any) -> Design:
    parts = [part(f"p{i}", state("on", 1e-3), body={"size_mm": s} | more) for i, s in enumerate(sizes)]
    modes = [{"id": "asleep", "name": "Asleep", "uses": [use(f"p{i}", "on") for i in range(len(sizes))]}]
    pack = {"cell": cell(form="cylinder"), "body": {"size_mm": [10, 10, 10]}}
    return design(parts=parts, modes=modes, day={"rest": "asleep"}, battery=pack, enclosure={"outer_mm": case})


def placed(gadget: Design, anew: bool = False) -> Design:
    return apply_patch(gadget, answer_place(TrialBench(gadget, built_in()), anew).patch)


class Placing(unittest.TestCase):
    def closes(self, gadget: Design) -> None:
        fit = check_fit(gadget)
        bad = [(fit.placed[c.first].name, c.side, c.gap_mm) for c in fit.contacts if contact_status(c) != "pass"]
        self.assertEqual(bad, [])

    def test_a_few_boxes_have_their_clearances(self) -> None:
        gadget = placed(boxes((20, 20, 10), (30, 10, 10), (15, 15, 15)))
        self.closes(gadget)
        self.assertEqual(check_fit(gadget).unplaced[:0], [])

    def test_random_boxes_never_collide_and_what_is_left_is_named(self) -> None:
        random.seed(4)
        for _ in range(60):
            sizes = [tuple(random.uniform(3, 25) for _ in range(3)) for _ in range(random.randint(1, 12))]
            gadget = boxes(*sizes)  # type: ignore[arg-type]
            answer = answer_place(TrialBench(gadget, built_in()))
            after = apply_patch(gadget, answer.patch)
            self.closes(after)
            self.assertEqual(len(check_fit(after).placed) + len(answer.left), len(sizes) + 1)
            for name in answer.left:
                self.assertIn(name, answer.sentence)

    def test_random_round_turned_and_straight_bodies_in_rounded_cases_of_uneven_walls(self) -> None:
        random.seed(9)
        for _ in range(16):
            case = {"outer_mm": [random.uniform(40, 70), random.uniform(40, 70), 30], "wall_mm": random.uniform(1, 3)}
            case |= {"corner_mm": random.uniform(0, 20), "walls_mm": {"left": random.uniform(1, 6), "top": 4}}
            parts = []
            for i in range(random.randint(1, 9)):
                x, y, z = (random.uniform(3, 20) for _ in range(3))
                shape: dict[str, Any] = random.choice([
                    {"size_mm": [x, y, z]}, {"size_mm": [x, y, x], "shape": "cylinder", "along": "y"},
                    {"size_mm": [x, y, z], "turn_deg": [0, random.uniform(0, 90), 30]},
                ])  # fmt: skip
                parts.append(part(f"p{i}", state("on", 1e-3), body=shape))
            modes = [{"id": "asleep", "name": "Asleep", "uses": [use(p["id"], "on") for p in parts]}]
            pack = {"cell": cell(form="cylinder"), "body": {"size_mm": [9, 20, 9], "shape": "cylinder", "along": "y"}}
            gadget = design(parts=parts, modes=modes, day={"rest": "asleep"}, battery=pack, enclosure=case)
            answer = answer_place(TrialBench(gadget, built_in()))
            after = apply_patch(gadget, answer.patch)
            self.closes(after)
            self.assertEqual(len(check_fit(after).placed) + len(answer.left), len(parts) + 1)

    def test_a_round_case_takes_what_stands_in_the_middle_of_its_arcs(self) -> None:
        """Inside radius 13 less a clearance of 0.3: a square of 17.9 just goes in, one of 18 does not."""
        for side, left in ((17.9, 0), (18.0, 1)):
            gadget = boxes((side, side, 10), case=(30, 30, 30))
            gadget = gadget.model_copy(update={"battery": gadget.battery.model_copy(update={"body": None})})
            case = gadget.enclosure.model_copy(update={"corner_mm": 15.0})
            answer = answer_place(TrialBench(gadget.model_copy(update={"enclosure": case}), built_in()))
            self.assertEqual(len(answer.left), left)

    def test_what_has_a_place_keeps_it_unless_all_is_placed_anew(self) -> None:
        gadget = boxes((20, 20, 10), (10, 10, 10))
        first = gadget.parts[0]
        assert first.body is not None
        fixed = first.model_copy(update={"body": first.body.model_copy(update={"position_mm": (30.0, 30.0, 5.0)})})
        some = gadget.model_copy(update={"parts": [fixed, gadget.parts[1]]})
        self.assertEqual(placed(some).parts[0].body.position_mm, (30.0, 30.0, 5.0))  # type: ignore[union-attr]
        self.assertNotEqual(placed(some, anew=True).parts[0].body.position_mm, (30.0, 30.0, 5.0))  # type: ignore[union-attr]
        self.closes(placed(some))
        self.closes(placed(some, anew=True))

    def test_it_is_turned_where_it_goes_in_only_so(self) -> None:
        """30 mm high outside, 25.4 mm inside with walls and clearances of a printed case: a box 40 mm high has to lie down."""
        gadget = placed(boxes((10, 10, 40)))
        assert gadget.parts[0].body is not None
        self.assertEqual(sorted(gadget.parts[0].body.size_mm), [10, 10, 40])
        self.assertLess(gadget.parts[0].body.size_mm[2], 40)
        self.closes(gadget)

    def test_just_as_large_as_the_room_and_a_hair_larger(self) -> None:
        inside = 60 - 2 * 2 - 2 * 0.3
        for size, left in ((inside, []), (inside + 0.05, ["p0"])):
            gadget = boxes((size, size, 5))
            with self.subTest(size):
                self.assertEqual(place_all(gadget).left, left)

    def test_a_plug_stays_at_its_side_and_is_not_turned(self) -> None:
        for side, axis, at in (
            ("left", 0, 0.0),
            ("right", 0, 50.0),
            ("front", 1, 0.0),
            ("back", 1, 40.0),
            ("bottom", 2, 0.0),
            ("top", 2, 15.0),
        ):
            gadget = placed(boxes((10, 20, 15), through=side))
            body = gadget.parts[0].body
            assert body is not None and body.position_mm is not None
            self.assertEqual((body.size_mm, body.position_mm[axis]), ((10, 20, 15), at))
            self.closes(gadget)

    def test_the_demos_can_be_placed_anew(self) -> None:
        for file in sorted(DEMO.glob("*.json")):
            with self.subTest(file.stem):
                gadget = read_design(file.read_bytes())
                answer = answer_place(TrialBench(gadget, built_in()), anew=True)
                self.closes(apply_patch(gadget, answer.patch)) if not answer.left else self.assertIn(
                    "No room for", answer.sentence
                )

    def test_a_swelling_pouch_keeps_its_room(self) -> None:
        pouch = cell(form="pouch", size_mm=[30, 40, 5])
        gadget = design(
            battery={"cell": pouch, "body": {"size_mm": [30, 40, 5]}, "swelling": 0.5},
            enclosure={"outer_mm": (60, 60, 30)},
        )
        self.closes(placed(gadget))
        thin = design(
            battery={"cell": pouch, "body": {"size_mm": [30, 40, 5]}, "swelling": 0.5},
            enclosure={"outer_mm": (36, 46, 11)},
        )
        self.assertEqual(len(place_all(thin).left), 1)  # 5 mm go in, 7.5 mm do not
        flat = thin.model_copy(update={"battery": thin.battery.model_copy(update={"swelling": 0.0})})
        self.assertEqual(place_all(flat).left, [])

    def test_many_bodies_in_a_roomy_case(self) -> None:
        random.seed(9)
        sizes = [tuple(random.uniform(3, 12) for _ in range(3)) for _ in range(40)]
        gadget = boxes(*sizes, case=(120, 90, 40))  # type: ignore[arg-type]
        answer = answer_place(TrialBench(gadget, built_in()))
        self.assertEqual(answer.left, [])
        after = apply_patch(gadget, answer.patch)
        self.closes(after)
        tops = [p.body.position_mm[2] + p.body.size_mm[2] for p in after.parts if p.body and p.body.position_mm]
        self.assertLess(max(tops), 30)  # a tenth of the case is filled: they lie low

    def test_no_more_than_a_hundred_at_once_and_the_rest_is_named(self) -> None:
        gadget = boxes(*[(3.0, 3.0, 3.0)] * 102, case=(200, 200, 60))
        answer = answer_place(TrialBench(gadget, built_in()))
        self.assertEqual((len(answer.patch), len(answer.left)), (100, 3))  # the battery is one of them

    def test_they_touch_by_their_gap_and_no_more(self) -> None:
        """Two cubes of 10 mm side by side: at the clearance of 2.3 mm, and half a millimetre behind the first."""
        gadget = placed(boxes((10, 10, 10), (10, 10, 10), case=(16, 60, 20)))
        places = sorted(p.body.position_mm[1] for p in gadget.parts if p.body and p.body.position_mm)
        self.assertEqual(places[0], 2.3)
        self.assertTrue(any(abs(b - a - 10.5) < 0.11 for a in places for b in places), places)

    def test_two_plugs_in_one_wall_stand_beside_each_other(self) -> None:
        gadget = placed(boxes((10, 20, 5), (12, 20, 5), through="left"))
        self.closes(gadget)
        self.assertEqual({p.body.position_mm[0] for p in gadget.parts if p.body and p.body.position_mm}, {0.0})

    def test_nothing_to_place_and_things_without_a_size(self) -> None:
        answer = answer_place(TrialBench(design(), built_in()))
        self.assertEqual((answer.patch, answer.left), ([], []))
        self.assertIn("Nothing to place", answer.sentence)
        self.assertIn("Without a size", answer.sentence)


class Packing(unittest.TestCase):
    """A room cut into boxes, each made smaller: it is known that they go in."""

    def cut(self, seed: int, fill: float) -> Design:
        choose = random.Random(seed)
        rooms = [[60 - 4.6, 50 - 4.6, 25 - 4.6]]
        for _ in range(choose.randint(4, 10)):
            rooms.sort(key=lambda b: b[0] * b[1] * b[2])
            whole = rooms.pop()
            axis = whole.index(max(whole)) if choose.random() < 0.7 else choose.randrange(3)
            share = choose.uniform(0.3, 0.7)
            rooms += [[v * (s if k == axis else 1) for k, v in enumerate(whole)] for s in (share, 1 - share)]
        pack, *rest = (tuple(round(v * fill ** (1 / 3), 2) for v in room) for room in rooms)
        made = boxes(*rest, case=(60, 50, 25))  # type: ignore[arg-type]
        return apply_patch(made, [replace("/battery/body/size_mm", list(pack))])

    def test_most_of_what_goes_in_is_found(self) -> None:
        for fill, least in ((0.5, 9), (0.6, 9), (0.7, 9), (0.8, 2)):
            found = sum(not place_all(self.cut(seed, fill), anew=True).left for seed in range(10))
            self.assertGreaterEqual(found, least, fill)

    def test_what_would_do_is_said_and_does(self) -> None:
        """Inside 55.4 mm each way: beside one of 25 mm and half a millimetre 29.9 mm are left; 32.2 mm want 2.3 mm more."""
        for wide, said in ((29.8, ""), (32.2, "3 mm more along x would do"), (200.0, "a larger case, or other parts")):
            gadget = boxes((wide, 44.0, 25.0), (25.0, 44.0, 25.0))
            answer = answer_place(TrialBench(gadget, built_in()), anew=True)
            self.assertEqual(bool(answer.left), bool(said))
            if said:
                self.assertIn(said, plain(answer.sentence))
        larger = boxes((32.2, 44.0, 25.0), (25.0, 44.0, 25.0), case=(63, 60, 30))
        self.assertEqual(answer_place(TrialBench(larger, built_in()), anew=True).left, [])

    def test_what_is_warm_is_kept_off_the_cell(self) -> None:
        """Of the arrangements that hold everything one that is no worse for the cell, and in most gadgets a better one: the gap between both, by hand."""
        better = 0
        for seed in range(8):
            gadget = self.cut(seed, 0.35)
            gaps = []
            for warm in (None, {"/parts/0": 2.0}):
                found = place_all(gadget, anew=True, warm_w=warm)
                self.assertEqual(found.left, [])
                boxes_ = [found.bodies[p] for p in ("/parts/0", "/battery")]
                low, high = ([np.add(b.position_mm, k * np.asarray(b.size_mm)) for b in boxes_] for k in (0, 1))
                apart = np.maximum(np.maximum(low[1] - high[0], low[0] - high[1]), 0)
                gaps.append(float(np.linalg.norm(apart)))
                self.assertEqual([c for c in check_fit(apply_patch(gadget, [replace(f"{p}/body", b) for p, b in found.bodies.items()])).contacts if contact_status(c) != "pass"], [])  # fmt: skip
            self.assertGreaterEqual(gaps[1], gaps[0] - 4)
            better += gaps[1] > gaps[0] + 1
        self.assertGreaterEqual(better, 4)


class FreeCorners(unittest.TestCase):
    def test_a_box_is_inside_where_each_of_its_corners_is_behind_each_face(self) -> None:
        """Corner by corner, in a rounded case whose sides lean; of what goes through a side only where it begins counts there."""
        case = {"outer_mm": (60, 40, 30), "corner_mm": 8, "edge_mm": 3, "taper_deg": 2.0}
        room, draw = _room(boxes((5, 5, 5)).model_copy(update={"enclosure": boxes((5, 5, 5), case=(60, 40, 30)).enclosure.model_copy(update=case)})), np.random.default_rng(5)  # fmt: skip
        low = np.round(draw.uniform((-2, -2, -2), (60, 40, 30), (3000, 3)), 1)
        none = (np.zeros((0, 3)), np.zeros((0, 3)))
        normals, offsets = room.faces.normals, room.faces.offsets
        self.assertGreater(len(normals), 6)
        for through in (None, *SIDES):
            size = np.round(draw.uniform(3, 14, 3), 1)
            corner = np.stack([low + size * np.array(k) for k in np.ndindex(2, 2, 2)], axis=1)
            reach = np.max(corner @ normals.T, axis=1)
            if through is not None:
                axis, far = divmod(SIDES.index(through), 2)
                begins = corner.copy()
                begins[:, :, axis] = (low if far else low + size)[:, None, axis]
                out = normals[:, axis] * (1 if far else -1) > 1e-9
                reach[:, out] = np.max(begins @ normals[out].T, axis=1)
                reach[:, out & (np.abs(normals).argmax(axis=1) == axis)] = -np.inf
            inside = np.all(reach <= offsets + 1e-9, axis=1)
            with self.subTest(through=through):
                self.assertTrue(10 < inside.sum() < 2900, inside.sum())
                np.testing.assert_array_equal(_free(low, size, through, none, room), inside)

    def test_few_corners_at_a_time_find_what_all_at_once_find(self) -> None:
        draw = random.Random(12)
        for _ in range(6):
            gadget = boxes(*((draw.uniform(4, 22), draw.uniform(4, 22), draw.uniform(3, 12)) for _ in range(9)))
            found = []
            for few, many in ((1, 4), (64, 4096), (10**6, 10**6)):
                with patch.multiple(placing, FIRST_AT_ONCE=few, MOST_CORNERS=many):
                    made = place_all(gadget, tries=2)
                found.append(({k: b.position_mm for k, b in made.bodies.items()}, made.left))
            self.assertEqual(found[0], found[2])
            self.assertEqual(found[1], found[2])

    def test_beside_what_is_placed_there_is_the_gap_and_no_less(self) -> None:
        room = _room(boxes((5, 5, 5)))
        taken = (np.array([[20.0, 20.0, 10.0]]), np.array([[30.0, 30.0, 20.0]]))
        self.assertGreater(room.gap, 0.0)
        size = np.array([5.0, 5.0, 5.0])
        for off, free in ((room.gap, True), (room.gap - 0.01, False), (-1.0, False)):
            at = np.array([[30.0 + off, 22.0, 12.0], [15.0 - off, 22.0, 12.0], [22.0, 22.0, 20.0 + off]])
            self.assertEqual(_free(at, size, None, taken, room).tolist(), [free] * 3)
