"""The small picture of a gadget: everything inside its frame, near things over far ones, in the colours of what they are made of."""

from __future__ import annotations

import re
import unittest
import xml.etree.ElementTree as ET
from itertools import permutations
from pathlib import Path

import numpy as np

from ember_core import Design, read_design
from ember_core.design import Body
from ember_core.design.changes import touched
from ember_core.enclosure import picture as drawing
from ember_core.enclosure.picture import HEIGHT, MARGIN, WIDTH, _facing, _from_behind, picture

DEMOS = Path(__file__).resolve().parents[2] / "demo"


def demo_designs() -> dict[str, Design]:
    return {f.stem: read_design(f.read_bytes()) for f in sorted(DEMOS.glob("*.json"))}


def paths(svg: str) -> list[tuple[str, np.ndarray]]:
    """(fill, corners) of everything that is painted, in order."""
    found = []
    for node in ET.fromstring(svg).iter("{http://www.w3.org/2000/svg}path"):
        numbers = [float(n) for n in re.findall(r"-?[\d.]+", node.get("d", ""))]
        found.append((node.get("fill", ""), np.array(numbers).reshape(-1, 2)))
    return found


def block(*at: float, size: float = 1.0) -> np.ndarray:
    return np.array([[x, y, z] for x in (0, size) for y in (0, size) for z in (0, size)]) + at


class Pictures(unittest.TestCase):
    def test_every_demo_fills_its_frame_and_nothing_leaves_it(self) -> None:
        designs = demo_designs()
        self.assertEqual(len(designs), 6)
        for design in designs.values():
            for dark in (False, True):
                points = np.concatenate([p for _, p in paths(picture(design, dark=dark))])
                low, high = points.min(axis=0), points.max(axis=0)
                self.assertTrue(
                    (low >= MARGIN - 0.1).all() and (high <= [WIDTH - MARGIN + 0.1, HEIGHT - MARGIN + 0.1]).all()
                )
                spare = np.array([WIDTH, HEIGHT]) - 2 * MARGIN - (high - low)
                self.assertLess(spare.min(), 0.2, design.name)  # as large as it may be, in one direction
                self.assertTrue(np.allclose(low + high, [WIDTH, HEIGHT], atol=0.3))  # and in the middle

    def test_a_body_outside_the_case_is_in_the_picture_too(self) -> None:
        design = next(iter(demo_designs().values())).model_copy(deep=True)
        assert design.battery.body is not None
        design.battery.body.position_mm = (500.0, 0.0, 0.0)
        points = np.concatenate([p for _, p in paths(picture(design))])
        self.assertLess(points.max(), WIDTH)

    def test_light_and_dark_differ_in_their_colours_only(self) -> None:
        for design in demo_designs().values():
            light, dark = paths(picture(design)), paths(picture(design, dark=True))
            self.assertEqual(len(light), len(dark))
            self.assertTrue(all(np.array_equal(a, b) for (_, a), (_, b) in zip(light, dark, strict=True)))
            self.assertNotEqual([f for f, _ in light], [f for f, _ in dark])
            self.assertIn(drawing.PALE["cell"], [f for f, _ in light])
            self.assertIn(drawing._DARK["cell"], [f for f, _ in dark])

    def test_a_case_with_nothing_in_it(self) -> None:
        design = next(iter(demo_designs().values()))
        bare = design.model_copy(
            update={
                "parts": [],
                "charger": None,
                "supply": design.supply.model_copy(update={"stages": []}),
                "battery": design.battery.model_copy(update={"body": None}),
                "enclosure": design.enclosure.model_copy(update={"fastenings": []}),
            }
        )
        self.assertGreaterEqual(len(paths(picture(bare))), 5)  # ground, three faces, rim

    def test_three_faces_of_a_cube_look_at_the_beholder(self) -> None:
        normals = {tuple(np.round(n).astype(int).tolist()) for n, _ in _facing(block(0, 0, 0))}
        self.assertEqual(normals, {(-1, 0, 0), (0, -1, 0), (0, 0, 1)})

    def test_what_is_behind_below_or_farther_right_is_painted_first(self) -> None:
        here = block(0, 0, 0)
        for hidden in (block(2, 0, 0), block(0, 2, 0), block(0, 0, -2), block(3, 3, -3)):
            self.assertEqual(_from_behind([here, hidden]), [1, 0])
            self.assertEqual(_from_behind([hidden, here]), [0, 1])
        row = [block(0, y, 0) for y in (4, 2, 0)]
        for order in permutations(range(3)):
            painted = [order[i] for i in _from_behind([row[k] for k in order])]
            self.assertEqual(painted, [0, 1, 2])
        # a long low one before a tall one whose middle is nearer
        low = np.concatenate([block(0, 0, 0), block(0, 20, 0)])
        tall = np.concatenate([block(2, 0, 0), block(2, 0, 9)])
        self.assertEqual(_from_behind([low, tall]), [1, 0])
        self.assertEqual(sorted(_from_behind([here, here, here])), [0, 1, 2])
        self.assertEqual(_from_behind([]), [])

    def test_only_the_largest_of_very_many_are_drawn(self) -> None:
        design = demo_designs()["dusk-ear"]
        part = design.parts[0]
        many = [
            part.model_copy(
                update={"id": f"p{i}", "body": Body(size_mm=(2, 2, 1), position_mm=(i % 20 * 3, i // 20 * 3, 2))}
            )
            for i in range(400)
        ]
        self.assertLess(len(picture(design.model_copy(update={"parts": many}))), 200_000)


class Areas(unittest.TestCase):
    def changed(self, **changes: object) -> list[str]:
        design = demo_designs()["dusk-ear"]
        return touched(design, Design.model_validate({**design.model_dump(), **changes}))

    def test_each_area_is_told_when_it_differs_and_no_other(self) -> None:
        design = demo_designs()["dusk-ear"].model_dump()
        moved = [{**p, "body": None} for p in design["parts"]]
        smaller = [{**design["parts"][0], "name": "Another"}, *design["parts"][1:]]
        for changes, areas in (
            ({}, []),
            ({"summary": "Other words"}, ["name"]),
            ({"brief": {**design["brief"], "goal_h": 1.5}}, ["brief"]),
            ({"parts": smaller}, ["parts"]),
            ({"parts": moved}, ["places"]),
            ({"modes": [{**design["modes"][0], "name": "Otherwise"}, *design["modes"][1:]]}, ["modes"]),
            ({"day": {**design["day"], "sessions": []}}, ["day"]),
            ({"battery": {**design["battery"], "swelling": 0.2}}, ["battery"]),
            ({"battery": {**design["battery"], "body": None}}, ["places"]),
            ({"charger": None}, ["charging", "places"]),
            ({"enclosure": {**design["enclosure"], "split_mm": None}}, ["case"]),
            ({"decisions": []}, ["notes"] if design["decisions"] else []),
        ):
            self.assertEqual(self.changed(**changes), areas, changes.keys())


if __name__ == "__main__":
    unittest.main()
