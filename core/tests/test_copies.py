"""Quantity is bodies: several copies of a part are placed, measured, heated and weighed each, and moved as one; what hangs outside needs only its
way through the wall."""

from __future__ import annotations

import unittest
from typing import Any

import numpy as np

from ember_core import Design, DocumentError, build_design, evaluate
from ember_core.catalogue import built_in
from ember_core.design.patches import apply
from ember_core.enclosure.fit import check_fit
from ember_core.enclosure.pieces import opening_corners, pieces
from ember_core.enclosure.placing import place_all
from ember_core.measures.bench import TrialBench

from .gadgets import cell, design, document, part, seen, state, use

CASE = {"outer_mm": [100, 60, 24], "plastic": "PETG", "gap_mm": 0.5}
PLACED = {
    "battery": {
        "cell": cell(form="cylinder"),
        "wiring_ohm": 0,
        "body": {"size_mm": [18, 18, 5], "position_mm": [70, 38, 5]},
    }
}


def strip(count: int, grid: dict[str, Any] | None = None, amps: float = 0.02, **more: Any) -> Design:
    """LEDs of 5 x 5 x 2 mm from 4, 4, 4 on."""
    body = {"size_mm": [5, 5, 2], "position_mm": [4, 4, 4]} | more.pop("body", {})
    led = part(
        "led", state("off", 1e-6), state("lit", amps), kind="other", quantity=count, mass_g=0.2, body=body, grid=grid
    )
    modes = [{"id": m, "name": m.title(), "uses": [use("led", s)]} for m, s in (("asleep", "off"), ("awake", "lit"))]
    straight = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}
    return design(**({"parts": [led], "modes": modes, "enclosure": CASE, "supply": straight} | PLACED | more))


def word(made: Design) -> tuple[str, str]:
    found = next(v for v in evaluate(made).verdicts if v.key == "fit")
    return found.status, found.word


class Room(unittest.TestCase):
    def test_each_copy_has_its_place(self) -> None:
        made = strip(12, {"columns": 4, "pitch_mm": 7, "row_pitch_mm": 9})
        body = check_fit(made).placed[0]
        self.assertEqual(len(body.pieces), 12)
        lows = np.array([p.corners.min(axis=0) for p in body.pieces])
        by_hand = [[4 + 7 * (k % 4), 4 + 9 * (k // 4), 4] for k in range(12)]
        np.testing.assert_allclose(lows, by_hand)
        np.testing.assert_allclose([body.low, body.high], [[4, 4, 4], [30, 27, 6]])

    def test_without_a_grid_they_lie_in_rows_side_by_side(self) -> None:
        body = check_fit(strip(12)).placed[0]
        np.testing.assert_allclose(
            body.high - body.low, [4 * 5.5 - 0.5, 3 * 5.5 - 0.5, 2]
        )  # four in a row, half a millimetre between

    def test_twelve_of_which_three_do_not_fit(self) -> None:
        """From 4 mm on, 98 mm are inside: at 11 mm the ninth ends at 97, at 12 the ninth at 105."""
        self.assertEqual(word(strip(9, {"columns": 9, "pitch_mm": 11})), ("pass", "closes"))
        made = strip(12, {"columns": 12, "pitch_mm": 11})
        self.assertEqual(word(made)[0], "fail")
        told = seen(made, "copies-outside")[0]
        self.assertEqual(told.found.title, "3 of 12 led do not fit")

    def test_four_hundred_do_not_close(self) -> None:
        self.assertEqual(word(strip(400))[0], "fail")
        share = evaluate(strip(400)).fit.filled.value
        assert share
        self.assertAlmostEqual(share, 100 * (400 * 50 + np.pi / 4 * 0 + 18 * 18 * 5) / (96 * 56 * 20), places=1)

    def test_a_pitch_on_both_sides_of_their_size(self) -> None:
        for pitch, found in ((4.99, True), (5.0, False)):
            made = strip(12, {"columns": 6, "pitch_mm": pitch})
            told = seen(made, "copies-overlap")
            self.assertEqual(bool(told), found)
            self.assertEqual(word(made)[1] == "does not close", found)
            for one in told:
                assert one.remedy
                self.assertFalse(seen(apply(made, one.remedy), "copies-overlap"))

    def test_a_neighbour_is_measured_to_each_copy(self) -> None:
        block = part("block", state("off", 1e-6), body={"size_mm": [4, 4, 4], "position_mm": [40, 12, 4]})
        made = strip(12, {"columns": 6, "pitch_mm": 7, "row_pitch_mm": 16}).model_dump(mode="json")
        made["parts"].append(block)
        for mode in made["modes"]:
            mode["uses"].append(use("block", "off"))
        self.assertEqual(word(build_design(made)), ("pass", "closes"))  # between the two rows
        made["parts"][1]["body"]["position_mm"] = [40, 8, 4]
        self.assertEqual(word(build_design(made))[1], "does not close")

    def test_they_are_placed_and_moved_as_one(self) -> None:
        made = strip(12, {"columns": 6}, body={"position_mm": None})
        found = place_all(made)
        self.assertEqual(found.left, [])
        at = found.bodies["/parts/0"].position_mm
        assert at is not None
        document_ = made.model_dump(mode="json")
        document_["parts"][0]["body"]["position_mm"] = list(at)
        self.assertEqual(word(build_design(document_)), ("pass", "closes"))
        self.assertEqual(place_all(strip(400, body={"position_mm": None})).left, ["led"])

    def test_each_has_its_opening(self) -> None:
        made = strip(3, {"columns": 3, "pitch_mm": 20}, body={"position_mm": [4, 4, 22], "through": "top"})
        body = check_fit(made).placed[0]
        openings = opening_corners(body, made.enclosure)
        self.assertEqual(len(openings), 3)
        closed, open_ = (sum(p.volume_mm3 for p in pieces(x)) for x in (strip(1), made))
        self.assertGreater(closed - open_, 3 * 25 * 1.9)


class Heat(unittest.TestCase):
    def test_twelve_share_what_one_would_burn(self) -> None:
        """The same power in twelve is less warm than in one, by more than half."""
        one, twelve = (
            TrialBench(strip(n, {"columns": 6, "pitch_mm": 9}, amps=0.24 / n), built_in()).warmth for n in (1, 12)
        )
        self.assertAlmostEqual(float(one.mode_w[1]), float(twelve.mode_w[1]), places=4)
        own = [float(w.node_c[0, 1] - w.inside_c[1]) for w in (one, twelve)]
        self.assertLess(own[1], 0.3 * own[0])
        self.assertAlmostEqual(one.nodes[0].k_per_w / twelve.nodes[0].k_per_w, 12)

    def test_each_weighs(self) -> None:
        one, twelve = (evaluate(strip(n)).totals.mass.value or 0 for n in (1, 12))
        self.assertAlmostEqual(twelve - one, 11 * 0.2)


class Bad(unittest.TestCase):
    def test_quantities_that_cannot_be(self) -> None:
        for count in (0, -1, 1001, 10_000):
            made = document()
            made["parts"][0]["quantity"] = count
            with self.subTest(count), self.assertRaises(DocumentError) as caught:
                build_design(made)
            self.assertEqual(caught.exception.problems[0].path, "/parts/0/quantity")

    def test_grids_that_cannot_be(self) -> None:
        for grid in (
            {"columns": 0},
            {"columns": 2, "pitch_mm": 0},
            {"columns": 2, "pitch_mm": -3},
            {"columns": 2, "along": "y", "across": "y"},
        ):
            with self.subTest(grid), self.assertRaises(DocumentError):
                strip(4, grid)


class Outside(unittest.TestCase):
    def probe(self, **more: Any) -> dict[str, Any]:
        made = strip(1).model_dump(mode="json")
        made["parts"].append(part("probe", state("on", 0.1), body={"size_mm": [300, 300, 300]}, outside=True, **more))
        made["modes"][1]["uses"].append(use("probe", "on"))
        return made

    def test_it_needs_no_room_and_heats_nothing(self) -> None:
        made = build_design(self.probe())
        self.assertEqual(word(made), ("pass", "closes"))
        self.assertEqual(word(strip(1)), ("pass", "closes"))
        outside, without = TrialBench(made, built_in()).warmth, TrialBench(strip(1), built_in()).warmth
        self.assertLess(
            float(outside.mode_w[1] - without.mode_w[1]), 0.05
        )  # of 0.38 W; what its current burns in the cell

    def test_its_way_through_the_wall(self) -> None:
        self.assertEqual([x.severity for x in seen(build_design(self.probe()), "no-way-through")], ["watch"])
        made = self.probe(way="led")
        self.assertFalse(seen(build_design(made), "no-way-through"))
        for nobody in ("probe", "nothing"):
            with self.assertRaises(DocumentError):
                build_design(self.probe(way=nobody))

    def test_ways_are_in_the_catalogue(self) -> None:
        ways = [p for p in built_in().parts if "gland" in p.name.lower() or "connector" in p.name.lower()]
        self.assertGreaterEqual(len(ways), 3)
        self.assertTrue(any(p.body and p.body.through for p in ways))


if __name__ == "__main__":
    unittest.main()
