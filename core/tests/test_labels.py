"""Letters on the case: they stand where and as deep as the document says, read from outside, and what is wrong with them is told."""

from __future__ import annotations

import io
import unittest
from typing import Any

import numpy as np
import trimesh
from pydantic import ValidationError

from ember_core import Design, DocumentError
from ember_core.catalogue import built_in
from ember_core.design import CaseLabel, Enclosure
from ember_core.design.patches import apply
from ember_core.enclosure.case_files import case_file
from ember_core.enclosure.labels import label_box, label_size_mm, missing_letters
from ember_core.enclosure.pieces import pieces, too_thin
from ember_core.studies import answer_shell
from ember_core.studies.judging import Judged

from .gadgets import cell, design, part, state, use

SIDES = ("left", "right", "front", "back", "bottom", "top")


def case(*labels: dict[str, Any], bodies: list[dict[str, Any]] | None = None, **more: Any) -> Design:
    parts = [part(f"p{i}", state("on", 1e-3), body=b) for i, b in enumerate(bodies or [])] or [
        part("p0", state("on", 1e-3))
    ]
    modes = [{"id": "on", "name": "On", "uses": [use(p["id"], "on") for p in parts]}]
    room = {"outer_mm": [70, 50, 30], "wall_mm": 2.0, "plastic": "PETG", "labels": list(labels), **more}
    return design(parts=parts, modes=modes, day={"rest": "on"}, battery={"cell": cell(form="cylinder")}, enclosure=room)


def volume(made: Design) -> float:
    return sum(p.volume_mm3 for p in pieces(made))


def told(made: Design) -> dict[str, Any]:
    return {f.code: f for f in Judged.of(made, built_in()).found if f.code.startswith("label-")}


class Drawn(unittest.TestCase):
    def test_an_i_is_a_stroke(self) -> None:
        """A capital I of this font is a bar: as high as was asked, and its volume is its width by its height by its depth."""
        plain = volume(case())
        wide, high = label_size_mm(CaseLabel(text="I", height_mm=10))
        self.assertAlmostEqual(high, 10, places=6)
        self.assertAlmostEqual(wide, 2, delta=0.3)  # a bold stroke
        for raised, sign in ((True, 1), (False, -1)):
            made = case({"text": "I", "height_mm": 10, "depth_mm": 0.5, "raised": raised})
            self.assertAlmostEqual(volume(made) - plain, sign * wide * 10 * 0.5, delta=0.02)

    def test_on_every_side_as_deep_as_said(self) -> None:
        outer = np.array([70.0, 50.0, 30.0])
        for k, side in enumerate(SIDES):
            with self.subTest(side):
                made = case({"text": "OK", "side": side, "raised": True, "depth_mm": 0.7})
                corners = np.concatenate([p.vertices for p in pieces(made)])
                low, high = np.zeros(3), outer.copy()
                if k % 2:
                    high[k // 2] += 0.7
                else:
                    low[k // 2] -= 0.7
                np.testing.assert_allclose(corners.min(axis=0), low, atol=1e-3)
                np.testing.assert_allclose(corners.max(axis=0), high, atol=1e-3)

    def test_reads_from_outside(self) -> None:
        """An L has its foot below on the right: its middle of mass lies below and left of the middle of its box, as seen from outside."""
        ways = {"left": (1, -1, 2), "right": (1, 1, 2), "front": (0, 1, 2), "back": (0, -1, 2), "bottom": (0, -1, 1), "top": (0, 1, 1)}  # fmt: skip
        plain = pieces(case())
        for side, (axis, sign, up) in ways.items():
            with self.subTest(side):
                made = pieces(case({"text": "L", "side": side, "raised": True, "height_mm": 12, "depth_mm": 1.0}))
                moments = [sum(_moment(p.vertices, p.faces) for p in many) for many in (made, plain)]
                volumes = [sum(p.volume_mm3 for p in many) for many in (made, plain)]
                centre = (moments[0] - moments[1]) / (volumes[0] - volumes[1])
                middle = np.array([35.0, 25.0, 15.0])
                self.assertLess(sign * (centre[axis] - middle[axis]), -0.3)
                self.assertLess(centre[up] - middle[up], -0.5)

    def test_turned_and_moved(self) -> None:
        at = {"text": "LONG", "height_mm": 6, "at_mm": [20.0, 30.0]}
        straight, turned = CaseLabel(**at), CaseLabel(**at, turned_deg=90)
        room = Enclosure(outer_mm=(70, 50, 30))
        (low, high), (turned_low, turned_high) = label_box(straight, room), label_box(turned, room)
        np.testing.assert_allclose((high - low)[::-1], turned_high - turned_low, atol=1e-6)
        self.assertAlmostEqual(float((low + high)[0] / 2), 20, places=6)
        self.assertLess(low[1], 30)
        self.assertGreater(high[1], 30)

    def test_follows_a_dome_and_leaning_sides(self) -> None:
        for more in ({"dome_mm": 6.0}, {"taper_deg": 8.0}, {"corner_mm": 20.0}, {"edge_mm": 4.0}):
            with self.subTest(str(more)):
                made = case({"text": "II", "raised": True, "depth_mm": 1.0}, **more)
                wide = 2 * label_size_mm(CaseLabel(text="I"))[0]
                self.assertAlmostEqual(volume(made) - volume(case(**more)), wide * 6 * 1.0, delta=0.05 * wide * 6)

    def test_in_every_file_closed_and_one_solid_a_piece(self) -> None:
        made = case(
            {"text": "Frugal 8 & Äöß", "height_mm": 5, "raised": True}, {"text": "B80", "side": "front", "depth_mm": 0.5}
        )  # fmt: skip
        found = trimesh.load(io.BytesIO(case_file(made, "stl")), file_type="stl", force="mesh")
        assert isinstance(found, trimesh.Trimesh)
        found.merge_vertices(digits_vertex=5)
        self.assertTrue(found.is_watertight)
        self.assertEqual(found.body_count, 2)
        self.assertAlmostEqual(found.volume, volume(made), delta=0.5)


def _moment(points: np.ndarray, faces: np.ndarray) -> np.ndarray:
    corners = points[faces]
    six = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2]))
    return np.asarray((six[:, None] * corners.sum(axis=1)).sum(axis=0) / 24)


class Told(unittest.TestCase):
    def test_nothing_of_good_letters(self) -> None:
        self.assertEqual(told(case({"text": "Dusk Ear", "depth_mm": 0.6})), {})

    def test_deep(self) -> None:
        # 2 mm of wall, filament: 1.2 mm well, 0.8 mm at all
        for depth, severity in ((0.79, None), (0.81, "watch"), (1.19, "watch"), (1.21, "fix"), (2.5, "fix")):
            found = told(case({"text": "OK", "depth_mm": depth})).get("label-deep")
            self.assertEqual(found.severity if found else None, severity, depth)
        self.assertNotIn("label-deep", told(case({"text": "OK", "depth_mm": 2.5, "raised": True})))

    def test_how_much_is_left_behind_them(self) -> None:
        for depth, words in ((1.5, "0.5 mm are left"), (1.9, "0.1 mm are left"), (2.0, "right through"), (2.5, "right through")):  # fmt: skip
            sentence = told(case({"text": "OK", "depth_mm": depth}))["label-deep"].sentence
            self.assertIn(words, sentence.replace("\u00a0", " "))

    def test_fine(self) -> None:
        self.assertIn("label-fine", told(case({"text": "OK", "height_mm": 3.95})))
        self.assertNotIn("label-fine", told(case({"text": "OK", "height_mm": 4.05})))

    def test_off_its_side(self) -> None:
        wide, _ = label_size_mm(CaseLabel(text="OK", height_mm=10))
        for off, expected in ((1.05, False), (0.95, True)):  # a millimetre of edge
            found = told(case({"text": "OK", "height_mm": 10, "at_mm": [wide / 2 + off, 25.0]}))
            self.assertEqual("label-off-its-side" in found, expected, off)
        self.assertIn("label-off-its-side", told(case({"text": "OK" * 10, "height_mm": 10})))

    def test_over_an_opening(self) -> None:
        plug = {"size_mm": [10, 8, 6], "position_mm": [30, 0, 6], "through": "front"}
        label = {"text": "USB", "side": "front", "height_mm": 4}
        self.assertIn("label-over-opening", told(case({**label, "at_mm": [35.0, 9.0]}, bodies=[plug])))
        self.assertNotIn("label-over-opening", told(case({**label, "at_mm": [35.0, 20.0]}, bodies=[plug])))
        self.assertNotIn("label-over-opening", told(case({**label, "side": "back", "at_mm": [35.0, 9.0]}, bodies=[plug])))  # fmt: skip

    def test_over_the_joint(self) -> None:
        label = {"text": "II", "side": "front", "height_mm": 6}
        for split, expected in ((11.9, False), (12.1, True), (17.9, True), (18.1, False)):
            self.assertEqual("label-over-joint" in told(case(label, split_mm=split)), expected, split)

    def test_signs_without_a_shape(self) -> None:
        self.assertEqual(missing_letters("Ä漢"), ["漢"])
        self.assertIn("label-letters", told(case({"text": "漢"})))

    def test_raised_letters_count_against_the_brief(self) -> None:
        """70 x 50 x 30 mm with 0.7 mm on the lid: 30.8 mm are enough, 30.6 are not, and engraved they are."""
        for high, raised, short in ((30.8, True, False), (30.6, True, True), (30.6, False, False)):
            made = case({"text": "OK", "raised": raised, "depth_mm": 0.7})
            brief = made.brief.model_copy(update={"outer_max_mm": (70.0, 50.0, high)})
            judged = Judged.of(made.model_copy(update={"brief": brief}), built_in())
            self.assertEqual(any(f.code == "case-too-large" for f in judged.found), short)

    def test_not_more_signs_than_are_drawn_in_time(self) -> None:
        case(*[{"text": "x" * 40}] * 4)
        with self.assertRaises(DocumentError):
            case(*[{"text": "x" * 40}] * 4, {"text": "x"})

    def test_what_is_offered_does_it(self) -> None:
        tried = 0
        for label in (
            {"text": "OK", "depth_mm": 1.0},
            {"text": "OK", "height_mm": 3},
            {"text": "OK" * 10, "height_mm": 10},
            {"text": "OK", "at_mm": [1.0, 1.0]},
        ):
            made = case(label)
            for code, finding in told(made).items():
                for remedy in finding.ways() if finding.ways else []:
                    self.assertNotIn(code, told(apply(made, remedy)), (label, remedy.label))
                    tried += 1
        self.assertEqual(tried, 3 + 2 + 2 + 2)

    def test_the_smaller_letters_that_are_offered_are_the_largest_that_go_on(self) -> None:
        for text in ("OK" * 6, "OK" * 10, "Mm" * 8):
            made = case({"text": text, "height_mm": 12})
            remedy = next(
                r for r in told(made)["label-off-its-side"].ways() if any("height_mm" in p.path for p in r.patch)
            )
            applied = apply(made, remedy)
            height = applied.enclosure.labels[0].height_mm
            self.assertNotIn("label-off-its-side", told(applied))
            self.assertIn("label-off-its-side", told(case({"text": text, "height_mm": height + 0.11})))

    def test_a_case_from_a_file_has_its_own(self) -> None:
        box = trimesh.creation.box((70, 50, 30)).apply_translation((35, 25, 15))
        surface = {"vertices": box.vertices.tolist(), "triangles": box.faces.tolist()}
        with self.assertRaises((ValidationError, ValueError)):
            case({"text": "OK"}, shape={"name": "a.stl", "surface": surface, "volume_mm3": 1000.0})


class Thin(unittest.TestCase):
    def test_an_opening_near_the_edge_leaves_a_thin_web(self) -> None:
        """A plug whose opening ends 0.5 mm before the side's inner face leaves 2.5 mm of the corner; one that bites into the left wall leaves what is told."""
        plug = {"size_mm": [10, 12, 6], "position_mm": [0.9, 0, 6], "through": "front"}  # its opening 0.3 mm wider: 0.6
        made = case(bodies=[plug], joint="flat")
        spots = answer_shell(made).thin
        self.assertAlmostEqual(spots[0].thickness_mm, 0.6, delta=0.02)
        self.assertLess(spots[0].at_mm[0], 1.0)
        self.assertEqual(answer_shell(case(joint="flat")).thin, [])

    def test_both_sides_of_what_the_process_holds(self) -> None:
        """0.8 mm of filament: a web of 0.76 mm is told, one of 0.84 mm is not; the opening is 0.3 mm wider than its plug."""
        for at, told in ((0.76 + 0.3, True), (0.84 + 0.3, False)):
            plug = {"size_mm": [10, 12, 6], "position_mm": [at, 0, 6], "through": "front"}
            self.assertEqual(bool(answer_shell(case(bodies=[plug], joint="flat")).thin), told, at)

    def test_against_rays_by_hand(self) -> None:
        for wall in (0.6, 1.0):
            made = case(wall_mm=wall, joint="flat", process="resin")
            found = too_thin(pieces(made), 3.0)
            self.assertAlmostEqual(found[0].thickness_mm, wall, delta=2e-3)
            for piece in pieces(made):
                self.assertGreaterEqual(_least(piece.vertices[piece.faces]), found[0].thickness_mm - 0.02)


def _least(corners: np.ndarray) -> float:
    """The least way straight in from the middle of a triangle to one that faces it [mm]."""
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.linalg.norm(normals, axis=1)[:, None]
    least = np.inf
    for middle, into in zip(corners.mean(axis=1), -normals, strict=True):
        facing = normals @ into > 0.5
        one, two, three = (corners[facing, k] - middle for k in range(3))
        away = np.einsum("ij,ij->i", normals[facing], one) / (normals[facing] @ into)
        at = away[:, None] * into
        edges = [np.einsum("ij,ij->i", np.cross(b - a, at - a), normals[facing]) for a, b in ((one, two), (two, three), (three, one))]  # fmt: skip
        met = away[(np.min(edges, axis=0) >= 0) & (away > 1e-6)]
        least = min(least, float(met.min(initial=np.inf)))
    return least


if __name__ == "__main__":
    unittest.main()
