"""The smallest case: by hand, on the demos, and what keeps it from being smaller."""

from __future__ import annotations

import math
import unittest
from pathlib import Path

from ember_core import Design, evaluate, read_design
from ember_core.catalogue import built_in
from ember_core.design.patches import apply, apply_patch, replace
from ember_core.measures.bench import TrialBench
from ember_core.studies import SmallestCase, answer_smallest
from ember_core.studies.smallest import MOST_BODIES, _goes_in

from .gadgets import plain
from .test_placing import boxes

DEMO = Path(__file__).resolve().parents[2] / "demo"


def smallest(gadget: Design) -> SmallestCase:
    return answer_smallest(TrialBench(gadget, built_in()))


class ByHand(unittest.TestCase):
    """A block of 20 × 20 × 10 mm and a cell in a box of 10 mm: beside each other 30 mm and the gap, with clearances and walls around."""

    def test_walls_clearances_and_the_gap_between(self) -> None:
        answer = smallest(boxes((20, 20, 10)))
        assert answer.outer_mm is not None and answer.remedy is not None
        case = boxes((20, 20, 10)).enclosure
        around = 2 * (case.wall_mm + 0.3)
        self.assertEqual(
            sorted(answer.outer_mm), sorted([math.ceil(30.5 + around), math.ceil(20 + around), math.ceil(10 + around)])
        )
        self.assertAlmostEqual(answer.share or 0, math.prod(answer.outer_mm) / (60 * 60 * 30), places=9)
        closed = evaluate(apply(boxes((20, 20, 10)), answer.remedy))
        self.assertEqual(closed.fit.bodies and {b.status for b in closed.fit.bodies}, {"pass"})
        for axis in range(3):
            tighter = [v - (k == axis) for k, v in enumerate(answer.outer_mm)]
            self.assertFalse(_goes_in(boxes((20, 20, 10)), (tighter[0], tighter[1], tighter[2])), axis)

    def test_one_that_is_too_small_is_made_larger_and_told_what_is_in_the_way(self) -> None:
        tight = boxes((20, 20, 10), case=(24, 24, 14))
        answer = smallest(tight)
        assert answer.outer_mm is not None and answer.share is not None
        self.assertGreater(answer.share, 1)
        self.assertIn("in the way", plain(answer.sentence))
        self.assertIn("larger than now", plain(answer.sentence))

    def test_as_small_as_it_gets(self) -> None:
        answer = smallest(boxes((20, 20, 10)))
        assert answer.remedy is not None
        again = smallest(apply(boxes((20, 20, 10)), answer.remedy))
        self.assertIsNone(again.remedy)
        self.assertIn("as small as", again.sentence)


class OnTheDemos(unittest.TestCase):
    def test_what_is_taken_over_closes_and_nothing_graver_comes_with_it(self) -> None:
        taken = 0
        for path in sorted(DEMO.glob("*.json")):
            if path.stem in ("dusk-ear",):
                continue  # below, as it takes a while
            gadget = read_design(path.read_bytes())
            answer = smallest(gadget)
            assert answer.remedy is not None and answer.outer_mm is not None, path.stem
            before, after = evaluate(gadget), evaluate(apply(gadget, answer.remedy))
            grave = [{f.title for f in x.findings if f.severity in ("stop", "fix")} for x in (before, after)]
            self.assertEqual(grave[1] - grave[0], set(), path.stem)
            self.assertNotEqual(next(v.status for v in after.verdicts if v.key == "fit"), "fail")
            self.assertEqual(after.fit.unplaced, [])
            self.assertEqual(answer.remedy.runtime, after.runtime.total)
            self.assertLess(math.prod(answer.outer_mm), math.prod(gadget.enclosure.outer_mm))
            taken += 1
        self.assertEqual(taken, 5)

    def test_what_keeps_dusk_ear_from_being_smaller_is_said(self) -> None:
        answer = smallest(read_design((DEMO / "dusk-ear.json").read_bytes()))
        self.assertIsNone(answer.remedy)
        self.assertIn("warms the cell", answer.sentence)


class BadInput(unittest.TestCase):
    def test_nothing_in_it_too_much_in_it_and_what_can_never_go_in(self) -> None:
        empty = boxes((20, 20, 10))
        empty = apply_patch(empty, [replace("/parts/0/body", None), replace("/battery/body", None)])
        self.assertIn("Nothing", smallest(empty).sentence)
        many = boxes(*[(2.0, 2.0, 2.0)] * MOST_BODIES)  # and the cell
        self.assertIn(str(MOST_BODIES), smallest(many).sentence)
        huge = boxes((900, 900, 900), case=(10, 10, 10))
        self.assertIsNone(smallest(huge).remedy)


if __name__ == "__main__":
    unittest.main()
