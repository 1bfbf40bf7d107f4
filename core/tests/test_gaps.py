"""The gaps around one body, each by hand."""

import unittest

from ember_core.studies import GapsAnswer, answer_gaps

from .gadgets import plain
from .test_solids import body, gadget


def asked(*bodies: object, where: str = "/parts/0", **case: object) -> GapsAnswer:
    found = answer_gaps(gadget(case, *bodies), where)  # type: ignore[arg-type]
    assert found is not None
    return found


class Rulers(unittest.TestCase):
    def test_to_the_walls_of_an_empty_case(self) -> None:
        """A case of 40 x 30 x 20 with walls of 2, the top one of 3."""
        found = asked(body((10, 10, 10), (5, 6, 4)), walls_mm={"top": 3})
        self.assertEqual(
            {r.side: r.gap_mm for r in found.rulers},
            {"left": 3, "right": 23, "front": 4, "back": 12, "bottom": 2, "top": 3},
        )
        left = found.rulers[0]
        self.assertEqual((left.begin, left.end, left.neighbour), ([5, 11, 9], [2, 11, 9], "the left wall"))
        self.assertEqual((found.status, found.tight), ("pass", []))

    def test_to_the_nearest_body_in_that_direction_and_not_past_it(self) -> None:
        """Beside it two, of which the nearer one overlaps it by half; above its far end a third that it does not look at."""
        moved, near, far = body((10, 10, 10), (5, 6, 4)), body((5, 10, 10), (17, 11, 4)), body((5, 10, 10), (30, 6, 4))
        aside = body((5, 3, 3), (17, 20, 15))
        found = {r.side: r for r in asked(moved, near, far, aside).rulers}
        self.assertEqual((found["right"].neighbour, found["right"].gap_mm), ("Part 1", 2))
        self.assertEqual((found["right"].needed_mm, found["left"].needed_mm), (0.5, 0.3))
        self.assertEqual(found["right"].begin, [15, 13.5, 9])
        self.assertEqual(found["top"].neighbour, "the top wall")

    def test_none_to_the_side_that_it_goes_through(self) -> None:
        found = asked(body((10, 10, 10), (0, 6, 4), through="left"))
        self.assertNotIn("left", [r.side for r in found.rulers])


class Tight(unittest.TestCase):
    def test_what_it_reaches_into_comes_first_and_is_said(self) -> None:
        found = asked(body((10, 10, 10), (2.1, 6, 4)), body((10, 10, 10), (11, 6, 4)))
        self.assertEqual(
            [(t.neighbour, t.status) for t in found.tight], [("Part 1", "fail"), ("the left wall", "watch")]
        )
        self.assertAlmostEqual(found.tight[0].gap_mm, -1.1)
        self.assertEqual(plain(found.sentence), "Part 0 reaches 1.1 mm into Part 1.")
        self.assertEqual(found.status, "fail")

    def test_too_near_is_said_with_what_it_needs(self) -> None:
        found = asked(body((10, 10, 10), (2.1, 6, 4)))
        self.assertEqual(plain(found.sentence), "Part 0 has 0.1 mm to the left wall and needs 0.3 mm.")
        self.assertEqual(found.status, "watch")

    def test_nothing_of_what_has_no_place(self) -> None:
        unplaced = body((3, 3, 3)).model_copy(update={"position_mm": None})
        self.assertIsNone(answer_gaps(gadget({}, unplaced), "/parts/0"))
        self.assertIsNone(answer_gaps(gadget({}), "/parts/7"))


if __name__ == "__main__":
    unittest.main()
