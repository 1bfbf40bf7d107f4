"""Heat of the closed case, and the mass of its shell."""

from __future__ import annotations

import unittest

from ember_core import evaluate
from ember_core.design import Enclosure
from ember_core.heat import DENSITY, inside_rise_c, shell_mass_g, surface_m2

from .gadgets import cell, design

CASE = Enclosure(outer_mm=(60, 90, 24), wall_mm=2, plastic="PETG")


class Case(unittest.TestCase):
    def test_surface_leaves_out_the_side_it_lies_on(self) -> None:
        self.assertAlmostEqual(surface_m2(CASE), (60 * 90 + 2 * 60 * 24 + 2 * 90 * 24) * 1e-6)

    def test_rise_is_proportional_to_power_and_falls_with_the_surface(self) -> None:
        self.assertAlmostEqual(inside_rise_c(1.0, CASE), 2 * inside_rise_c(0.5, CASE))
        larger = CASE.model_copy(update={"outer_mm": (120.0, 180.0, 48.0)})
        self.assertAlmostEqual(inside_rise_c(1.0, larger), inside_rise_c(1.0, CASE) / 4, places=9)

    def test_one_watt_in_a_hand_sized_case_is_some_fifteen_degrees(self) -> None:
        self.assertTrue(10 < inside_rise_c(1.0, CASE) < 25)

    def test_shell_mass_is_the_volume_of_the_walls(self) -> None:
        walls = (60 * 90 * 24 - 56 * 86 * 20) / 1000
        self.assertAlmostEqual(shell_mass_g(CASE), walls * DENSITY["PETG"])
        solid = CASE.model_copy(update={"wall_mm": 40.0})
        self.assertAlmostEqual(shell_mass_g(solid), 60 * 90 * 24 / 1000 * DENSITY["PETG"])


class Verdicts(unittest.TestCase):
    CHARGER = {"name": "C", "programming_v": 1000, "programming_ohm": 4000, "port_limit_a": 1.0}

    def heat(self, **more: object) -> tuple[str, float]:
        brief = {"goal_h": 100, "coldest_c": 5, "usual_c": 20, "hottest_c": 30}
        result = evaluate(design(**({"brief": brief, "enclosure": CASE.model_dump()} | more)))
        verdict = next(v for v in result.verdicts if v.key == "heat")
        return verdict.status, verdict.figure.value or 0

    def test_charging_warms_the_case(self) -> None:
        cool, warm = self.heat(), self.heat(charger=self.CHARGER | {"programming_ohm": 2000})
        self.assertEqual(cool[0], "pass")
        self.assertGreater(warm[1], cool[1] + 1)

    def test_a_large_charge_current_in_a_small_case_is_too_warm(self) -> None:
        status, inside = self.heat(
            charger=self.CHARGER | {"programming_ohm": 1000}, battery={"cell": cell(capacity_ah=2)}
        )
        self.assertEqual(status, "fail")
        self.assertGreater(inside, 45)

    def test_a_plastic_that_softens_early_is_limited_by_itself(self) -> None:
        hot = {"goal_h": 100, "coldest_c": 5, "usual_c": 20, "hottest_c": 50}
        soft = CASE.model_copy(update={"plastic": "PLA"}).model_dump()
        self.assertEqual(self.heat(brief=hot, enclosure=soft)[0], "fail")
        tough = CASE.model_copy(update={"plastic": "polycarbonate"}).model_dump()
        self.assertEqual(self.heat(brief=hot, enclosure=tough)[0], "pass")
