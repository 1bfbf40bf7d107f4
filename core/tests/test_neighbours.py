"""What warms each other inside the case, and the spot on the wall: by hand, against a plate in small rings, and as findings."""

from __future__ import annotations

import math
import unittest
from typing import Any

import numpy as np
from scipy.special import k0e, k1e

from ember_core import Design
from ember_core.catalogue import built_in
from ember_core.design.patches import apply
from ember_core.enclosure.bodies import placed_bodies
from ember_core.enclosure.facing import LEAST_GAP_MM, MOST_PAIRS, facings
from ember_core.enclosure.fit import check_fit
from ember_core.enclosure.placing import free_places
from ember_core.measures.bench import TrialBench
from ember_core.numeric import Array
from ember_core.solved.warmth import Warmth
from ember_core.thermal.films import air, radiation
from ember_core.thermal.neighbours import (
    BARE,
    SPOT_PEAK,
    bessel_ratio,
    between_w_per_k,
    neighbours,
    spreading_k_per_w,
    stands_still,
    to_wall_w_per_k,
    view_factor,
)

from .gadgets import cell, design, part, seen, state, use

CASE = {"outer_mm": [80, 60, 40], "wall_mm": 2, "plastic": "PETG"}


def block(
    key: str, at: tuple[float, float, float], size: tuple[float, float, float], amps: float = 0.0, **more: Any
) -> dict[str, Any]:
    return part(key, state("on", amps), body={"size_mm": list(size), "position_mm": list(at)}, **more)


def boxes(*parts: dict[str, Any], **more: Any) -> Design:
    uses = [use(p["id"], "on") for p in parts]
    modes = [{"id": "on", "name": "On", "uses": uses}]
    given = {"parts": list(parts), "modes": modes, "day": {"rest": "on"}, "enclosure": CASE}
    return design(**given | {"battery": {"cell": cell(), "wiring_ohm": 0}} | more)


class Plate(unittest.TestCase):
    def rings(self, radius: float, wall: float, conductivity: float, film: float) -> float:
        """The same in 4,000 rings out to where nothing is warm, K/W: tridiagonal, an isothermal disc in the middle."""
        reach = radius + 12 * math.sqrt(conductivity * wall / film)
        edge = np.linspace(radius, reach, 4001)
        middle = (edge[1:] + edge[:-1]) / 2
        between = 2 * math.pi * conductivity * wall / np.log(middle[1:] / middle[:-1])
        first = 2 * math.pi * conductivity * wall / math.log(middle[0] / radius)
        loses = film * math.pi * (edge[1:] ** 2 - edge[:-1] ** 2)
        main = loses + np.append(between, 0) + np.concatenate([[first], between])
        ahead = np.zeros(middle.size)
        heat = np.zeros(middle.size)
        ahead[0], heat[0] = -between[0] / main[0], first / main[0]  # the disc at 1 K
        for i in range(1, middle.size):
            down = main[i] + between[i - 1] * ahead[i - 1]
            ahead[i] = -between[i] / down if i < between.size else 0.0
            heat[i] = between[i - 1] * heat[i - 1] / down
        rise = heat.copy()
        for i in range(middle.size - 2, -1, -1):
            rise[i] -= ahead[i] * rise[i + 1]
        return float(1 / (first * (1 - rise[0]) + film * math.pi * radius**2))

    def test_a_spot_is_as_warm_as_in_rings(self) -> None:
        for area, wall, conductivity in (
            (4.4e-4, 0.002, 0.2),
            (1e-4, 0.003, 0.13),
            (2e-3, 0.0012, 0.25),
            (4e-4, 0.001, 160.0),
        ):
            with self.subTest(area=area, conductivity=conductivity):
                ours = float(spreading_k_per_w(np.array(area), wall, conductivity))
                self.assertAlmostEqual(
                    ours / self.rings(math.sqrt(area / math.pi), wall, conductivity, 10.0), 1.0, delta=0.01
                )

    def test_the_ratio_of_both_functions(self) -> None:
        x = np.geomspace(1e-4, 300, 200)
        np.testing.assert_allclose(bessel_ratio(x), k1e(x) / k0e(x), rtol=1e-9)

    def test_a_whole_wall_loses_its_heat_by_its_film_alone(self) -> None:
        self.assertAlmostEqual(float(spreading_k_per_w(np.array(100.0), 0.002, 0.2)) * 100 * 10, 1.0, places=2)


class Facing(unittest.TestCase):
    def seen(self, *parts: dict[str, Any]) -> dict[tuple[int, int], tuple[float, float]]:
        gadget = boxes(*parts)
        found = facings(placed_bodies(gadget), gadget.enclosure)
        return {
            (int(a), int(b)): (float(x), float(g))
            for a, b, x, g in zip(found.first, found.second, found.area_mm2, found.gap_mm, strict=True)
        }

    def test_the_area_that_two_share_and_the_gap_between(self) -> None:
        found = self.seen(block("a", (5, 5, 5), (20, 20, 4)), block("b", (15, 5, 12), (20, 10, 4)))
        self.assertEqual(found, {(0, 1): (10.0 * 10.0, 3.0)})

    def test_what_touches_has_a_film_of_air_between(self) -> None:
        found = self.seen(block("a", (5, 5, 5), (20, 20, 4)), block("b", (5, 5, 9), (20, 20, 4)))
        self.assertEqual(found[0, 1], (400.0, LEAST_GAP_MM))

    def test_what_stands_between_covers_them(self) -> None:
        between = block("c", (5, 5, 11), (10, 20, 1))
        found = self.seen(block("a", (5, 5, 5), (20, 20, 4)), block("b", (5, 5, 14), (20, 20, 4)), between)
        self.assertAlmostEqual(found[0, 1][0], 200.0)
        self.assertAlmostEqual(found[0, 2][0], 200.0)

    def test_diagonally_they_see_nothing(self) -> None:
        self.assertFalse(self.seen(block("a", (5, 5, 5), (20, 20, 4)), block("b", (26, 26, 5), (20, 20, 4))))

    def test_walls_by_their_sides(self) -> None:
        gadget = boxes(block("a", (5, 20, 20), (20, 10, 4)))
        found = facings(placed_bodies(gadget), gadget.enclosure)
        np.testing.assert_allclose(found.wall_area_mm2, [[40, 40, 80, 80, 200, 200]])
        self.assertEqual(found.wall_gap_mm[0, 0], 3.0)
        behind = boxes(block("a", (8, 20, 20), (20, 10, 4)), block("shield", (3, 20, 20), (1, 5, 4)))
        found = facings(placed_bodies(behind), behind.enclosure)
        self.assertAlmostEqual(found.wall_area_mm2[0, 0], 20.0)


class Many(unittest.TestCase):
    def test_a_thousand_bodies_are_looked_at_within_bounds(self) -> None:
        rows = [block(f"p{i}", (4 + 12.0 * (i % 32), 4 + 12.0 * (i // 32), 4), (9, 9, 9)) for i in range(1000)]
        gadget = boxes(*rows[:900], enclosure={"outer_mm": [400, 400, 22], "wall_mm": 2})
        found = facings(placed_bodies(gadget), gadget.enclosure)
        self.assertEqual(found.first.size, MOST_PAIRS)
        self.assertEqual(float(found.gap_mm.max()), 3.0)  # the nearest, not any
        fit = check_fit(gadget)
        self.assertLess(len(fit.contacts), 20_000)
        self.assertEqual(len({i for c in fit.contacts for i in (c.first, c.second)} - {-1}), 900)


class Network(unittest.TestCase):
    def test_alone_a_body_gives_its_heat_to_the_air(self) -> None:
        none = np.zeros((1, 6))
        found = neighbours(
            np.array([0.02]), np.array([1e-3]), *(np.zeros(0, int),) * 2, *(np.zeros(0),) * 2, none, none, none
        )
        self.assertAlmostEqual(float(found.per_w[0, 0]), 50.0)

    def test_two_by_hand(self) -> None:
        """0.02 W/K each to the air, of which a half is covered; 0.03 W/K between; one watt in the first."""
        none = np.zeros((2, 6))
        pair, area = (np.array([0]), np.array([1])), np.array([5e-4])
        found = neighbours(np.full(2, 0.02), np.full(2, 1e-3), *pair, np.array([0.03]), area, none, none, none)
        first = (0.01 + 0.03) / ((0.01 + 0.03) ** 2 - 0.03**2)
        np.testing.assert_allclose(found.per_w[:, 0], [first, first * 0.03 / 0.04])
        rises = found.above_air_k(np.array([[1.0], [0.0]]), np.zeros(1))[:, 0]
        self.assertAlmostEqual(float(rises.sum() * 0.01), 1.0)  # what goes in comes out

    def test_something_always_stays_bare(self) -> None:
        none = np.zeros((2, 6))
        pair = (np.array([0]), np.array([1]))
        found = neighbours(
            np.full(2, 0.02), np.full(2, 1e-3), *pair, np.array([1e-9]), np.array([1.0]), none, none, none
        )
        self.assertAlmostEqual(float(found.per_w[0, 0]), 1 / (0.02 * BARE), places=3)

    def test_a_wall_takes_its_share_through_gap_and_spot(self) -> None:
        wall, area, spot = np.zeros((1, 6)), np.zeros((1, 6)), np.full((1, 6), 100.0)
        wall[0, 2], area[0, 2] = 0.02, 5e-4
        found = neighbours(
            np.array([0.02]), np.array([1e-3]), *(np.zeros(0, int),) * 2, *(np.zeros(0),) * 2, wall, area, spot
        )
        into = 1 / (1 / 0.02 + 100.0)
        rise = (1.0 + into * -4.0) / (0.01 + into)  # the wall four kelvin below the air
        self.assertAlmostEqual(float(found.above_air_k(np.ones((1, 1)), np.array([-4.0]))[0, 0]), rise)
        self.assertAlmostEqual(
            float(found.spots_k(np.array([[rise]]), np.array([-4.0]))[0, 0]), SPOT_PEAK * into * 100 * (rise + 4)
        )

    def test_across_a_gap_by_hand(self) -> None:
        radiates = radiation(0.8, 50.0, 40.0)
        narrow = air(45.0).conductivity / 2e-3
        self.assertAlmostEqual(narrow + radiates, 0.0276 / 2e-3 + 5.8, delta=0.3)
        area = np.array(4e-4)
        self.assertAlmostEqual(float(to_wall_w_per_k(area, np.array(2e-3))), 4e-4 * (narrow + radiates))
        self.assertAlmostEqual(
            float(between_w_per_k(area, np.array(2e-3))),
            4e-4 * (narrow + float(view_factor(area, np.array(2e-3))) * radiates),
        )

    def test_air_stands_still_in_a_narrow_gap_and_not_in_a_wide_one(self) -> None:
        np.testing.assert_allclose(stands_still(np.array([0.005, 0.010, 0.015, 0.020, 0.03])), [1, 1, 0.5, 0, 0])

    def test_what_two_squares_see_of_each_other(self) -> None:
        """The text-book's chart for W/L = 1, 2 and 10, and all of it where they touch."""
        for ratio, share in ((1.0, 0.1998), (2.0, 0.4153), (10.0, 0.8270), (1e4, 1.0)):
            self.assertAlmostEqual(float(view_factor(np.array(1e-4), np.array(1e-2 / ratio))), share, places=3)

    def test_a_millimetre_more_never_matters_at_once(self) -> None:
        """Between two bodies, and to a wall, the heat falls steadily with the gap."""
        gaps = np.arange(0.3, 80.0, 0.1) * 1e-3
        for goes in (between_w_per_k, to_wall_w_per_k):
            heat = goes(np.full(gaps.size, 9e-4), gaps)
            self.assertTrue(np.all(np.diff(heat) <= 1e-12))
            self.assertLess(float(np.max(-np.diff(heat[gaps > 5e-3]))), 3e-4)
        self.assertLess(float(between_w_per_k(np.array(9e-4), np.array(0.08))), 3e-4)


class Gadgets(unittest.TestCase):
    CELL = {"size_mm": [5, 34, 50], "position_mm": [40, 12, -0.0 + 4]}
    BRIEF = {"goal_h": 1, "coldest_c": 10, "usual_c": 10, "hottest_c": 30}

    def beside(self, gap: float, watts: float, series: int = 1, **more: Any) -> Design:
        """A hot block beside the cell, in a case with much room."""
        battery = {"cell": cell(capacity_ah=20.0, discharge_max_a=20), "series": series, "wiring_ohm": 0,
                   "body": {"size_mm": [30, 30, 10], "position_mm": [20, 20, 15]}}  # fmt: skip
        hot = block("hot", (20, 20, 25 + gap), (30, 30, 4), watts / (3.7 * series))
        case = {"outer_mm": [140, 120, 100], "wall_mm": 2, "plastic": "polycarbonate"}
        supply = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}
        return boxes(hot, **{"battery": battery, "enclosure": case, "supply": supply, "brief": self.BRIEF} | more)

    def warmth(self, gadget: Design) -> Warmth:
        return TrialBench(gadget, built_in()).warmth

    def test_the_nearer_the_warmer(self) -> None:
        by = [float(self.warmth(self.beside(g, 2.0)).cell_from_k[0, 0]) for g in (2, 4, 10, 20, 40)]
        self.assertEqual(by, sorted(by, reverse=True))
        self.assertGreater(by[0], 5 * by[-1])

    def test_five_kelvin_from_a_neighbour_are_told_and_settled(self) -> None:
        for series in (1, 2, 3):
            per_w = float(self.warmth(self.beside(2, 1.0, series)).cell_from_k[0, 0])
            for kelvin, told in ((5.2, True), (4.8, False)):
                with self.subTest(series=series, kelvin=kelvin):
                    gadget = self.beside(2, kelvin / per_w, series)
                    found = seen(gadget, "warm-neighbour")
                    self.assertEqual(bool(found), told)
                    if told:
                        remedy = found[0].remedy
                        assert remedy and remedy.label.startswith("Move hot: ")
                        after = apply(gadget, remedy)
                        self.assertFalse(seen(after, "warm-neighbour"))
                        self.assertEqual(found[0].severity, "watch")

    def test_beyond_what_the_cell_stands_it_has_to_be_mended(self) -> None:
        """On both sides of 60 °C, the air below: by the surroundings, degree by degree."""
        for series in (1, 2, 3):
            at = {}
            for hottest in (30.0, 31.0):
                brief = self.BRIEF | {"hottest_c": hottest}
                at[hottest] = float(self.warmth(self.beside(2, 1.0, series, brief=brief)).node_c[-1, 0])
            slope = at[31.0] - at[30.0]
            for cell_c, severity in ((60.4, "fix"), (59.6, "watch")):
                with self.subTest(series=series, cell_c=cell_c):
                    brief = self.BRIEF | {"hottest_c": 30.0 + (cell_c - at[30.0]) / slope}
                    gadget = self.beside(2, 1.0, series, brief=brief)
                    self.assertLess(self.warmth(gadget).running_c, 60)
                    self.assertEqual([f.severity for f in seen(gadget, "warm-neighbour")], [severity])

    def charging(self, series: int, hottest: float, plastic: str = "polycarbonate", lid: float = 60.0) -> Design:
        """A linear charger two millimetres beside the cell, or 0.5 mm below the lid."""
        charger = {"name": "C", "program_constant_v": 1000, "program_ohm": 2000, "rth_ja_c_per_w": 70, "foldback_c": None, "cells_in_series": series,
                   "port_v": 4.2 * series + 0.8, "port_limit_a": 2,
                   "body": {"size_mm": [26, 17, 4], "position_mm": [22, 22, 27] if lid > 90 else [80, 80, 27]}}  # fmt: skip
        brief = self.BRIEF | {"hottest_c": hottest, "charged": "anywhere"}
        case = {"outer_mm": [140, 120, lid], "wall_mm": 2, "plastic": plastic}
        return self.beside(60 if lid > 90 else 8, 0.0, series, charger=charger, brief=brief, enclosure=case)

    def test_a_cell_beside_a_charger_on_both_sides_of_45_degrees(self) -> None:
        """The air stays below it: one, two and three cells in series."""
        for series in (1, 2, 3):
            for cell_c, severity in ((45.4, "fix"), (44.6, "watch")):
                with self.subTest(series=series, cell_c=cell_c):
                    low, high = 11.0, 45.0
                    for _ in range(30):
                        middle = (low + high) / 2
                        charging_c = self.warmth(self.charging(series, middle, lid=100)).charging_node_c
                        assert charging_c is not None
                        low, high = (middle, high) if charging_c[-2] < cell_c else (low, middle)
                    made = self.charging(series, low, lid=100)
                    air_c = self.warmth(made).charging_c
                    assert air_c is not None
                    self.assertLess(air_c, 45)
                    found = seen(made, "warm-neighbour")
                    self.assertEqual([f.severity for f in found], [severity])
                    self.assertIn("may be charged up to", found[0].found.sentence)
                    remedy = found[0].remedy
                    assert remedy
                    self.assertFalse([f for f in seen(apply(made, remedy), "warm-neighbour") if f.severity == "fix"])

    def test_a_charger_below_the_lid_is_set_to_less_until_the_lid_stands_it(self) -> None:
        made = self.charging(1, 40.0, plastic="PLA", lid=33.5)
        self.assertGreater(float(self.warmth(made).charging_spot_c[-1]), 58)  # type: ignore[index]
        found = seen(made, "wall-spot")
        self.assertIn("While charging", found[0].found.sentence)
        assert found[0].found.ways is not None
        slower = [w for w in found[0].found.ways() if w and w.label.startswith("Set the resistor")]
        self.assertTrue(slower)
        remedy = found[0].remedy
        assert remedy
        self.assertFalse(seen(apply(made, remedy), "wall-spot"))

    def test_a_charger_beside_the_cell(self) -> None:
        charger = {"name": "C", "program_constant_v": 1000, "program_ohm": 1200, "rth_ja_c_per_w": 70, "body": {"size_mm": [26, 17, 4], "position_mm": [22, 22, 26]}}  # fmt: skip
        near = self.warmth(self.beside(20, 0.0, charger=charger))
        far = self.warmth(
            self.beside(20, 0.0, charger=charger | {"body": {"size_mm": [26, 17, 4], "position_mm": [80, 80, 50]}})
        )
        assert (
            near.charging_node_c is not None
            and far.charging_node_c is not None
            and near.charging_cell_from_k is not None
        )
        cell_at = next(i for i, n in enumerate(near.nodes) if n.kind == "cell")
        self.assertGreater(near.charging_node_c[cell_at], far.charging_node_c[cell_at] + 2)
        self.assertAlmostEqual(
            float(near.charging_node_c[cell_at] - far.charging_node_c[cell_at]),
            float(near.charging_cell_from_k.max()),
            delta=1.0,
        )

    def test_the_wall_over_something_hot(self) -> None:
        """PLA softens at 58 °C: just below and just above, and air between settles it."""

        def under_the_lid(watts: float, gap: float = 0.5) -> Design:
            size, outer = (20.0, 20.0, 4.0), 60.0
            hot = block("hot", (60, 50, outer - 2 - gap - size[2]), size, watts / 3.7)
            case = {"outer_mm": [140, 120, outer], "wall_mm": 2, "plastic": "PLA"}
            supply = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}
            battery = {
                "cell": cell(capacity_ah=20.0, discharge_max_a=20),
                "wiring_ohm": 0,
                "body": {"size_mm": [30, 30, 10], "position_mm": [10, 20, 15]},
            }
            return boxes(hot, enclosure=case, supply=supply, brief=self.BRIEF, battery=battery)

        def spot(watts: float) -> float:
            return float(self.warmth(under_the_lid(watts)).spot_c[0, 0])

        low, high = 0.1, 2.0
        for _ in range(40):
            low, high = ((low + high) / 2, high) if spot((low + high) / 2) < 58 else (low, (low + high) / 2)
        self.assertFalse(seen(under_the_lid(low * 0.99), "wall-spot"))
        gadget = under_the_lid(high * 1.01)
        found = seen(gadget, "wall-spot")
        self.assertIn("PLA softens at 58", found[0].found.sentence.replace("\u00a0", " "))
        self.assertFalse(seen(under_the_lid(high * 1.01, 12.0), "wall-spot"))
        remedy = found[0].remedy
        assert remedy
        self.assertFalse(seen(apply(gadget, remedy), "wall-spot"))


class Places(unittest.TestCase):
    def test_every_place_that_is_offered_is_free(self) -> None:
        gadget = boxes(block("a", (5, 5, 5), (20, 20, 10)), block("b", (40, 10, 5), (20, 20, 30)))
        offered = free_places(gadget, "/parts/0")
        self.assertGreater(len(offered), 20)

        def gap(place: Any) -> float:
            low = np.array(place.position_mm)
            high: Array = low + np.array(place.size_mm)
            apart = np.maximum(np.array([40, 10, 5]) - high, low - np.array([60, 30, 35]))
            return float(np.linalg.norm(np.maximum(apart, 0)))

        for place in offered:
            low, high = np.array(place.position_mm), np.array(place.position_mm) + np.array(place.size_mm)
            self.assertTrue(np.all(low >= 2) and np.all(high <= [78, 58, 38]))
            self.assertGreaterEqual(gap(place), 0.5 - 1e-6)

    def test_nothing_without_a_size_or_of_another_gadget(self) -> None:
        gadget = boxes(part("a", state("on", 0.0)))
        self.assertEqual(free_places(gadget, "/parts/0"), [])
        self.assertEqual(free_places(gadget, "/parts/9"), [])


if __name__ == "__main__":
    unittest.main()
