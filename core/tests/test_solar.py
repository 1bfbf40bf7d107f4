"""A panel's day: the sun's path against a text book, and what must be so everywhere."""

from __future__ import annotations

import unittest

from ember_core.charging.solar import CLEARNESS, daily_yield, outside_kwh, tilted_kwh
from ember_core.design import Panel


def panel(**more: float) -> Panel:
    return Panel.model_validate({"peak_w": 1.0, "latitude_deg": 50, "month": 6, "tilt_deg": 30} | more)


class Sun(unittest.TestCase):
    def test_outside_the_atmosphere(self) -> None:
        """Duffie & Beckman, 4th ed. (2013), example 1.10.1: 43 degrees north on 15 April, 33.8 MJ/m2."""
        self.assertAlmostEqual(outside_kwh(43, 4) * 3.6 / 33.8, 1, delta=0.01)

    def test_a_lying_panel_gets_what_the_ground_gets(self) -> None:
        for latitude in (0, 30, 50, 65):
            for month in (3, 6, 9):
                self.assertAlmostEqual(
                    tilted_kwh(latitude, month, 0, 0.5), outside_kwh(latitude, month) * 0.5, places=9
                )

    def test_tilt_helps_in_winter_and_hurts_upright_in_summer(self) -> None:
        self.assertGreater(
            daily_yield(panel(month=12, tilt_deg=60)).sun_h, 1.4 * daily_yield(panel(month=12, tilt_deg=0)).sun_h
        )
        self.assertLess(daily_yield(panel(month=6, tilt_deg=90)).sun_h, daily_yield(panel(month=6, tilt_deg=30)).sun_h)

    def test_by_hand_of_the_yield(self) -> None:
        one = daily_yield(panel(peak_w=2.0))
        self.assertAlmostEqual(one.energy_wh, 2.0 * one.sun_h * 0.75)
        self.assertTrue(4 < one.sun_h < 6)  # usual for a June at 50 degrees
        self.assertTrue(0.5 < daily_yield(panel(month=12, tilt_deg=60)).sun_h < 2)

    def test_the_polar_night_gives_nothing(self) -> None:
        self.assertEqual(daily_yield(panel(latitude_deg=90, month=12)).energy_wh, 0.0)
        self.assertEqual(daily_yield(panel(latitude_deg=-90, month=6)).energy_wh, 0.0)
        self.assertGreater(daily_yield(panel(latitude_deg=90, month=6)).energy_wh, 0.0)

    def test_the_south_has_its_seasons_half_a_year_later(self) -> None:
        for month in range(1, 13):
            north = daily_yield(panel(latitude_deg=35, month=month)).clearness
            south = daily_yield(panel(latitude_deg=-35, month=(month + 5) % 12 + 1)).clearness
            self.assertEqual(north, south)

    def test_every_place_and_month_is_finite_and_no_better_than_a_desert(self) -> None:
        for latitude in range(-90, 91, 5):
            for month in range(1, 13):
                for tilt in (0, 45, 90):
                    hours = daily_yield(panel(latitude_deg=latitude, month=month, tilt_deg=tilt)).sun_h
                    self.assertTrue(0 <= hours < 10, (latitude, month, tilt, hours))

    def test_the_table_goes_from_december_to_june(self) -> None:
        self.assertTrue(all(len(row) == 7 for row in CLEARNESS.values()))
        self.assertEqual(sorted(CLEARNESS), [0, 15, 30, 45, 60, 75, 90])
        found = [daily_yield(panel(latitude_deg=45, month=m)).clearness for m in (12, 1, 2, 3, 4, 5, 6)]
        self.assertEqual(tuple(found), CLEARNESS[45])
        back = [daily_yield(panel(latitude_deg=45, month=m)).clearness for m in (11, 10, 9, 8, 7)]
        self.assertEqual(tuple(back), CLEARNESS[45][1:6])
        between = daily_yield(panel(latitude_deg=50, month=12)).clearness
        self.assertAlmostEqual(between, 0.35 + (0.25 - 0.35) / 3)
