"""Films, shells and vents: against text-book cases, a finite-difference solution of a box, and energy."""

from __future__ import annotations

import math
import unittest
from typing import Any

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.linalg import spsolve

from ember_core.design import Enclosure
from ember_core.thermal.films import STEFAN_BOLTZMANN, air, chimney_w_per_k, free_convection, radiation
from ember_core.thermal.materials import MATERIALS, TOUCH_C
from ember_core.thermal.shell import (
    MOST_RISE_K,
    Shell,
    _faces,
    _leaves_w,
    felt_power_w,
    own_k_per_w,
    shell_mass_g,
    shell_of,
    surface_m2,
    two_stages,
    upright_mm,
)

CASE = Enclosure(outer_mm=(60, 90, 24), wall_mm=2, plastic="PETG")


def shell(ambient_c: float = 25.0, gap_mm: float = 5.0, films: float = 1.0, in_sun: bool = False, **more: Any) -> Shell:
    case = Enclosure.model_validate(CASE.model_dump() | more)
    return shell_of(case, ambient_c, 60.0, gap_mm, films, in_sun=in_sun)


class TextBook(unittest.TestCase):
    """Worked examples of Incropera & DeWitt, 6th ed. (2007), with the answers printed there."""

    def test_air(self) -> None:
        """Table A.4: 300 K, 350 K, 400 K."""
        for kelvin, conductivity, viscosity, diffusivity, density in (
            (300, 0.0263, 15.89e-6, 22.5e-6, 1.1614), (350, 0.0300, 20.92e-6, 29.9e-6, 0.9950), (400, 0.0338, 26.41e-6, 38.3e-6, 0.8711),
        ):  # fmt: skip
            found = air(kelvin - 273.15)
            for value, book in (
                (found.conductivity, conductivity),
                (found.viscosity, viscosity),
                (found.diffusivity, diffusivity),
                (found.density, density),
            ):
                with self.subTest(f"{kelvin} K, {book}"):
                    self.assertAlmostEqual(value / book, 1, delta=0.012)

    def test_glass_door_of_a_fireplace(self) -> None:
        """Example 9.2: 0.71 m high, 1.02 m wide, at 232 degC in a room of 23 degC: h = 7.0, 1060 W; black radiation 2355 W."""
        h = free_convection("side", 0.71, 209, (232 + 23) / 2)
        self.assertAlmostEqual(h / 7.0, 1, delta=0.02)
        self.assertAlmostEqual(h * 0.71 * 1.02 * 209 / 1060, 1, delta=0.02)
        self.assertAlmostEqual(radiation(1.0, 232, 23) * 0.71 * 1.02 * 209 / 2355, 1, delta=0.01)

    def test_a_long_duct(self) -> None:
        """Example 9.3: 0.75 m wide, 0.3 m high, at 45 degC in 15 degC: 4.23, 5.47 and 2.07 W/m2K, 246 W for each metre."""
        sides, top, bottom = (
            free_convection(facing, length, 30, 30)
            for facing, length in (("side", 0.3), ("up", 0.375), ("down", 0.375))
        )
        for found, book in ((top, 5.47), (bottom, 2.07)):
            self.assertAlmostEqual(found / book, 1, delta=0.02)
        self.assertAlmostEqual(
            sides / 4.23, 1.15, delta=0.01
        )  # the book takes Churchill and Chu's form for laminar flow only
        self.assertAlmostEqual((2 * sides * 0.3 + (top + bottom) * 0.75) * 30 / 246, 1, delta=0.09)

    def test_radiation_is_exact(self) -> None:
        self.assertAlmostEqual(radiation(0.8, 60, 20) * 40, 0.8 * STEFAN_BOLTZMANN * (333.15**4 - 293.15**4))


class FiniteDifferences(unittest.TestCase):
    """The wall as a row of slabs against the whole shell, edges and corners included."""

    def rise(self, case: Enclosure, made: Shell, watts: float) -> float:
        """The air inside above the surroundings [K], with the films of the network on a grid of 1 mm."""
        nx, ny, nz = (round(v) for v in case.outer_mm)
        wall = round(case.wall_mm)
        material = MATERIALS[case.plastic]
        power = float(made.power_at(float(made.rise_k(watts))))
        outer, inner, through = (
            [float(np.interp(power, made.power_w, x[:, i])) for i in range(3)]
            for x in (made.outer_k, made.inner_k, made.through_w)
        )
        outside = [
            _leaves_w(f, k, made.ambient_c, material.emissivity, case.stands, case.carried) / f[1] / k
            for f, k in zip(_faces(case.outer_mm, case.stands), outer, strict=True)
        ]
        films = dict(zip(("up", "down", "side"), outside, strict=True))
        x, y, z = (v - 2 * case.wall_mm for v in case.outer_mm)
        areas = [a for _, a, _ in _faces((x, y, z), case.stands)]
        own = [w / a / (float(made.rise_k(watts)) - k) for w, a, k in zip(through, areas, inner, strict=True)]
        inside = sum(h * a for h, a in zip(own, areas, strict=True)) / sum(areas)
        solid = np.ones((nx, ny, nz), dtype=bool)
        solid[wall:-wall, wall:-wall, wall:-wall] = False
        number = np.full(solid.shape, -1)
        number[solid] = np.arange(solid.sum())
        count = int(solid.sum())  # one more: the air inside
        side, k = 1e-3, material.conductivity
        rows, columns, values = [], [], []
        diagonal = np.zeros(count + 1)
        held = np.zeros(count + 1)

        def joined(a: np.ndarray, b: np.ndarray, conductance: float) -> None:
            rows.extend([a, b])
            columns.extend([b, a])
            values.extend([np.full(a.size, -conductance)] * 2)
            np.add.at(diagonal, a, conductance)
            np.add.at(diagonal, b, conductance)

        for axis in range(3):
            first = [slice(None)] * 3
            second = [slice(None)] * 3
            first[axis], second[axis] = slice(None, -1), slice(1, None)
            a, b = number[tuple(first)], number[tuple(second)]
            both = (a >= 0) & (b >= 0)
            joined(a[both], b[both], k * side)
            edge = (a >= 0) ^ (b >= 0)
            touching = np.where(a >= 0, a, b)[edge]
            to_air = 1 / (1 / inside + side / 2 / k) * side**2
            joined(touching, np.full(touching.size, count), to_air)
            for end, facing in ((0, "down" if axis == 2 else "side"), (-1, "up" if axis == 2 else "side")):
                outside = np.take(number, end, axis=axis).ravel()
                outward = 1 / (1 / films[facing] + side / 2 / k) * side**2  # type: ignore[index]
                np.add.at(diagonal, outside, outward)
        held[count] = watts
        index = np.arange(count + 1)
        matrix = coo_matrix(
            (np.concatenate([*values, diagonal]), (np.concatenate([*rows, index]), np.concatenate([*columns, index])))
        ).tocsc()
        return float(spsolve(matrix, held)[count])

    def test_within_5_percent(self) -> None:
        for size, wall, plastic, watts in (
            ((48.0, 40.0, 24.0), 2, "PETG", 1.0),
            ((40.0, 40.0, 30.0), 3, "PLA", 0.5),
            ((40.0, 40.0, 30.0), 3, "aluminium", 2.0),
        ):
            with self.subTest(plastic):
                case = Enclosure.model_validate({"outer_mm": size, "wall_mm": wall, "plastic": plastic})
                made = shell_of(case, 25.0, 60.0, 5.0)
                self.assertAlmostEqual(float(made.rise_k(watts)) / self.rise(case, made, watts), 1, delta=0.05)


class Network(unittest.TestCase):
    def test_what_goes_in_comes_out(self) -> None:
        """All that burns inside leaves by the sides and the vents, and what goes through a side leaves it outside, the sun's share with it."""
        for more in (
            {},
            {"stands": "hung"},
            {"vents": {"area_mm2": 200, "height_mm": 20}},
            {"carried": "hand"},
            {"plastic": "aluminium"},
            {"in_sun": True},
        ):
            case = Enclosure.model_validate(CASE.model_dump() | more)
            made = shell_of(case, 25.0, 60.0, 5.0, in_sun=True)
            for row in (5, 10, 15):
                left = [_leaves_w(f, float(k), 25.0, MATERIALS[case.plastic].emissivity, case.stands, case.carried)
                        for f, k in zip(_faces(case.outer_mm, case.stands), made.outer_k[row], strict=True)]  # fmt: skip
                with self.subTest(more=more, row=row):
                    given = float(made.power_w[row])
                    self.assertAlmostEqual(
                        given + made.sun_w, sum(left) + float(made.vented_w[row]), delta=0.03 * given
                    )
                    if case.plastic != "aluminium":  # that spreads it
                        np.testing.assert_allclose(made.through_w[row] + np.array([made.sun_w, 0, 0]), left, rtol=0.05)

    def test_through_the_wall_by_hand(self) -> None:
        """Heat = conductivity x shape factor x difference, each side by its share of the inner surface."""
        made = shell()
        inner = 2 * (56 * 86 + 86 * 20 + 56 * 20) * 1e-6
        shape = inner / 2e-3 + 0.54 * 4 * 0.162 + 0.15 * 8 * 2e-3
        share = 56 * 86 * 1e-6 / inner
        row = 20
        across = float(made.inner_k[row, 0] - made.outer_k[row, 0])
        self.assertAlmostEqual(float(made.through_w[row, 0]) / (0.20 * shape * share * across), 1, delta=0.02)

    def test_one_watt_in_a_hand_sized_case_is_some_ten_degrees(self) -> None:
        self.assertTrue(8 < float(shell().rise_k(1.0)) < 14)
        self.assertLess(float(shell().rise_k(2.0)), 2 * float(shell().rise_k(1.0)))  # air rises faster the warmer it is

    def test_the_order_of_things(self) -> None:
        one = {name: float(shell(**more).rise_k(1.0)) for name, more in (
            ("plain", {}), ("hung", {"stands": "hung"}), ("clothes", {"carried": "clothes"}), ("thick", {"wall_mm": 6}), ("metal", {"plastic": "aluminium"}),
            ("narrow gap", {"gap_mm": 2}), ("vents", {"vents": {"area_mm2": 400, "height_mm": 20}}), ("larger", {"outer_mm": (120, 90, 24)}),
        )}  # fmt: skip
        for warmer, cooler in (
            ("plain", "hung"),
            ("clothes", "plain"),
            ("thick", "plain"),
            ("plain", "metal"),
            ("plain", "narrow gap"),
            ("plain", "vents"),
            ("plain", "larger"),
        ):
            with self.subTest(f"{warmer} above {cooler}"):
                self.assertGreater(one[warmer], one[cooler] + 0.1)

    def test_films_up_and_down_are_the_range(self) -> None:
        self.assertLess(float(shell(films=1.25).rise_k(1.0)), float(shell().rise_k(1.0)) * 0.87)
        self.assertGreater(float(shell(films=0.8).rise_k(1.0)), float(shell().rise_k(1.0)) * 1.13)

    def test_twenty_watts_in_a_sealed_box_are_capped(self) -> None:
        self.assertEqual(float(shell().rise_k(2000.0)), MOST_RISE_K)
        self.assertLess(float(shell().rise_k(5.0)), MOST_RISE_K)

    def test_the_sun_warms_it_without_any_power_and_only_where_it_is_asked_for(self) -> None:
        """Square to the sun: absorbed share x 1000 W/m2 x the top; nothing burns inside, and the air is between top and bottom."""
        for colour, share in (("light", 0.35), ("dark", 0.9)):
            case = CASE.model_copy(update={"in_sun": True, "colour": colour})
            made = shell_of(case, 25.0, 60.0, 5.0, in_sun=True)
            self.assertAlmostEqual(made.sun_w, share * 1000 * 0.09 * 0.06)
            self.assertAlmostEqual(float(made.through_w[0].sum()), 0.0, delta=0.02 * made.sun_w)
            self.assertTrue(made.outer_k[0].min() < float(made.rise_k(0.0)) < float(made.outer_rise_k(0.0)))
        self.assertEqual(float(shell(in_sun=True).rise_k(0.0)), 0.0)
        upright = CASE.model_copy(update={"in_sun": True, "stands": "standing"})
        self.assertAlmostEqual(
            shell_of(upright, 25.0, 60.0, 5.0, in_sun=True).sun_w, 0.35 * 1000 * 0.06 * 0.09
        )  # its broadest side

    def test_vents_by_hand(self) -> None:
        """2 cm2 low and high, 5 cm apart, 20 K: v = sqrt(2 g h dT / T) = 0.246 m/s; 0.6 / sqrt 2 x 2 cm2 of it; rho cp."""
        kelvin = 45 + 273.15
        driven = (2 * 9.81 * 0.05 * 20 / kelvin) ** 0.5
        by_hand = 1.1614 * 300 / kelvin * 1007 * 0.6 / 2**0.5 * 2e-4 * driven
        self.assertAlmostEqual(chimney_w_per_k(2e-4, 0.05, 20, 25), by_hand)

    def test_how_it_stands(self) -> None:
        self.assertEqual(upright_mm((60, 90, 24), "lying"), (90, 60, 24))
        self.assertEqual(upright_mm((60, 90, 24), "standing"), (60, 24, 90))
        self.assertAlmostEqual(surface_m2(CASE), 2 * (60 * 90 + 60 * 24 + 90 * 24) * 1e-6)

    def test_the_power_at_a_rise_is_the_other_way_round(self) -> None:
        self.assertAlmostEqual(float(shell().rise_k(shell().power_at(12.0))), 12.0)
        self.assertEqual(shell().power_at(-1.0), 0.0)

    def test_a_part_by_its_surface(self) -> None:
        """25 x 50 x 5 mm at 8 K above air of 40 degC: by hand 5.8 W/m2K of radiation, and Nu = 3.4 + 0.51 Ra^(1/4) on 57 mm with Ra = 1.07e5."""
        area = 2 * (25 * 50 + 50 * 5 + 25 * 5) * 1e-6
        film = 5.79 + 0.0273 / 0.0570 * (3.4 + 0.51 * (9.81 * 8 / 313.15 * 0.0570**3 / (1.715e-5 * 2.433e-5)) ** 0.25)
        self.assertAlmostEqual(own_k_per_w((25, 50, 5)), 1 / (film * area), delta=0.3)
        self.assertAlmostEqual(own_k_per_w(None), 1 / (10 * 15e-4))

    def test_a_chip_has_its_board(self) -> None:
        """5 x 5 x 1 mm on 10 cm2: 10 K/W of package, a disc of 2.8 on one of 17.8 mm, 20 W/m2K on its area; beside its own 70 mm2."""
        spreads = (math.log(6.325) / (2 * math.pi) - 3 / (8 * math.pi) * (1 - 1 / 40)) / 0.014
        board = 10 + spreads + 1 / (20 * 10e-4)
        self.assertAlmostEqual(board, 72.8, delta=0.3)
        found = own_k_per_w((5, 5, 1))
        self.assertTrue(0.85 * board < found < board)
        self.assertGreater(own_k_per_w((5, 5, 1), 200.0), 2 * found)  # on a board of 2 cm2
        self.assertLess(0.026 * found, 3)  # a memory of 26 mW is not warm
        self.assertGreater(own_k_per_w((12, 12, 4.1)), found)  # higher than a chip: by its own surface

    def test_what_a_hand_stands(self) -> None:
        self.assertEqual(TOUCH_C["metal"], (65, 48, 43))
        self.assertEqual(TOUCH_C["plastic"], (85, 48, 43))


class Time(unittest.TestCase):
    def test_shell_mass_is_the_volume_of_the_walls(self) -> None:
        walls = (60 * 90 * 24 - 56 * 86 * 20) / 1000
        self.assertAlmostEqual(shell_mass_g(CASE), walls * 1.27)
        solid = CASE.model_copy(update={"wall_mm": 40.0})
        self.assertAlmostEqual(shell_mass_g(solid), 60 * 90 * 24 / 1000 * 1.27)

    def test_the_time_constant_is_capacity_times_resistance(self) -> None:
        by_hand = (1.3 * shell_mass_g(CASE) + 0.5 * 0.9 * 60) * float(shell().wall_rise_k(1.0))
        self.assertAlmostEqual(shell().time_constant_s(1.0), by_hand)

    def test_one_lump_warms_up_with_its_time_constant(self) -> None:
        """Closed form: after one time constant 63.2 % of the way, and no further than the power that lasts."""
        constant = 1500.0
        rare = 1e-7  # so seldom that it starts cold
        for seconds, share in ((constant, 0.63212), (3 * constant, 0.95021), (constant / 100, 0.00995)):
            found = felt_power_w(np.array(2.0), np.array(0.0), np.array(seconds), np.array(rare), constant)
            self.assertAlmostEqual(float(found), 2.0 * share, places=4)

    def test_two_stages_against_small_steps(self) -> None:
        """A shell behind a part: 200 s, then 400 s; and two that are alike."""
        for first, second in ((200.0, 400.0), (400.0, 200.0), (300.0, 300.0)):
            one = other = 0.0
            for step in range(1, 1501):
                one += (1 - one) / first
                other += (one - other) / second
                if step in (60, 330, 1500):
                    found = float(two_stages(np.array(float(step)), np.array(first), second))
                    self.assertAlmostEqual(found, other, delta=0.006)

    def test_a_hand_is_no_help_where_it_is_warmer_than_a_hand(self) -> None:
        for around in (33.0, 35.0, 40.0, 48.0):
            self.assertAlmostEqual(float(shell(around, carried="hand").rise_k(0.0)), 0.0, delta=0.05)
            self.assertGreater(float(shell(around, carried="hand").rise_k(1.0)), 1.0)
            self.assertLessEqual(
                float(shell(around, carried="hand").rise_k(1.0)), float(shell(around).rise_k(1.0)) + 0.5
            )

    def test_what_comes_often_and_shortly_counts_with_its_mean(self) -> None:
        found = felt_power_w(np.array(5.0), np.array(1.0), np.array(2.0), np.array(0.1), 1500.0)
        self.assertAlmostEqual(float(found), 0.1 * 5 + 0.9 * 1, delta=0.01)
        self.assertAlmostEqual(
            float(felt_power_w(np.array(5.0), np.array(1.0), np.array(1e9), np.array(1.0), 1500.0)), 5.0
        )

    def test_a_periodic_power_against_small_steps(self) -> None:
        """Half an hour at 2 W in every two hours, on 0.2 W otherwise: the peak after many periods."""
        constant, rise = 1500.0, 0.0
        for step in range(7200 * 20):
            power = 2.0 if step % 7200 < 1800 else 0.2
            rise += (power - rise) / constant
            if step == 7200 * 19 + 1799:
                peak = rise
        found = felt_power_w(np.array(2.0), np.array(0.2), np.array(1800.0), np.array(0.25), constant)
        self.assertAlmostEqual(float(found) / peak, 1.0, delta=0.002)
