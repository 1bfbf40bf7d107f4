"""What a case holds back: from the air inside through the gap and the wall to the surroundings, and out of its vents.

A network: air inside - inner side - outer side - surroundings, for the top, the bottom and the four sides beside each other, with every part,
stage, charger and cell hanging on the air inside by a resistance of its own. Free convection and radiation rise with the
difference, so each side is solved backwards: for a row of temperatures outside the heat that leaves, and from that the
temperatures further in. Between the rows it is linear. In time it is
two stages: what burns gives its heat to the air inside as it gets warm itself (seconds to minutes), and the shell follows that with its own heat
capacity and half of what is inside (minutes); `validation/heat.py` cuts the same into cells.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np

from ..case_shape import centre_of, is_plain, material, material_mm3
from ..design import Enclosure
from ..making import solid_share
from ..numeric import Array
from .films import STEFAN_BOLTZMANN, Facing, across_gap, air, chimney_w_per_k, free_convection, radiation
from .materials import MATERIALS, SPECIFIC_HEAT_INSIDE

OUTER_RISES = np.concatenate([[0.0], np.geomspace(0.3, 400.0, 15)])  # K; rows of each side
FILM_C = (-80.0, 300.0)  # degC: films of air colder or hotter are taken at these
MOST_RISE_K = 150.0  # inside above the surroundings: beyond that nothing printed holds, and nothing here is right
TABLE_W_PER_K_M2 = 3.0  # through the side that it lies on: a table top conducts a little; a rule of thumb
HAND_SHARE, HAND_W_PER_K_M2, HAND_C = 0.35, 60.0, 34.0  # of the surface that a hand covers, and what it takes
CLOTHES_W_PER_K_M2 = 4.0  # through cloth on all sides; a rule of thumb
SPREADS = 10.0  # W/(m K): above that a wall spreads heat over the whole shell
SUN_W_PER_M2 = 1000.0  # clear sky, square to it
ABSORBED = {"light": 0.35, "dark": 0.9}
FILM_SPREAD = 1.25  # factor either way on every film coefficient: correlations, draughts, how it lies
GAP_MM = (1.0, 15.0)  # of air between what is inside and the wall
INSIDE_EMISSIVITY = 0.8
FOLLOWS = 0.5  # of the heat capacity inside, what follows the shell; from `validation/heat.py`


@dataclass(frozen=True)
class Shell:
    """One case in one surroundings: powers that last [W] and the air inside above the surroundings [K], of shape (rows,) and rising; the outer and
    the inner side of top, bottom and sides [K] and the heat that goes through each [W], of shape (rows, 3). `sun_w` is taken up by the
    outer side of the top, or by the broadest side where that is larger."""

    power_w: Array
    inside_k: Array
    outer_k: Array
    inner_k: Array
    through_w: Array
    vented_w: Array
    ambient_c: float
    sun_w: float
    capacity_j_per_k: float

    def rise_k(self, power_w: Array | float) -> Array:
        """The air inside above the surroundings [K], any shape; `MOST_RISE_K` at most."""
        return np.minimum(self._at(self.inside_k, power_w), MOST_RISE_K)

    def outer_rise_k(self, power_w: Array | float) -> Array:
        """The warmest outer side above the surroundings [K]."""
        return np.minimum(self._at(self.outer_k.max(axis=1), power_w), MOST_RISE_K)

    def wall_rise_k(self, power_w: Array | float) -> Array:
        """The inner side of the wall above the surroundings [K]: its sides by the heat that goes through each."""
        return np.minimum(self._at(self.wall_k, power_w), MOST_RISE_K)

    @property
    def wall_k(self) -> Array:
        """The inner side of the wall above the surroundings [K], (rows,)."""
        shares = np.maximum(self.through_w, 1e-12)
        return np.asarray((self.inner_k * shares).sum(axis=1) / shares.sum(axis=1))

    def gap_rise_k(self, power_w: Array | float) -> Array:
        """The air inside above the inner side of the wall [K]."""
        return self.rise_k(power_w) - self.wall_rise_k(power_w)

    def vent_w(self, power_w: float) -> float:
        """What leaves through the vents [W]."""
        return float(self._at(self.vented_w, power_w))

    def _at(self, column: Array, power_w: Array | float) -> Array:
        return np.asarray(np.interp(power_w, self.power_w, column))

    def power_at(self, rise_k: float) -> float:
        """The steady power at which the air inside is so much warmer than the surroundings [W]; 0 where the sun alone does it."""
        return float(np.interp(rise_k, self.inside_k, self.power_w)) if rise_k > self.inside_k[0] else 0.0

    def k_per_w(self, power_w: float) -> float:
        """From the wall to the surroundings around a power [K/W], the sun left out."""
        watts = max(power_w, 1e-3)
        wall = self.wall_k
        return float(self._at(wall, watts) - wall[0]) / watts

    def time_constant_s(self, power_w: float) -> float:
        """Time in which the shell comes within 37 % of its final temperature [s]."""
        return self.capacity_j_per_k * self.k_per_w(power_w)


def shell_of(
    case: Enclosure,
    ambient_c: float,
    contents_g: float,
    gap_mm: float,
    films: float = 1.0,
    *,
    in_sun: bool = False,
    made_mm3: float | None = None,
) -> Shell:
    """The case in surroundings of `ambient_c` [degC]. `films` is a factor on every film coefficient; `gap_mm` the air between what is
    inside and the wall; the sun shines on it only where the case says so and `in_sun` asks for it; `made_mm3` as for `shell_mass_g`.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> shell = shell_of(design.enclosure, 25.0, 100.0, 3.0)
    >>> [round(float(shell.rise_k(w)), 1) for w in (0.0, 0.5, 1.0)]
    [0.0, 10.5, 18.0]
    """
    held = (case.outer_mm, case.mean_wall_mm, case.plastic, case.stands, case.carried, case.colour)
    vents = (case.vents.area_mm2, case.vents.height_mm) if case.vents else (0.0, 0.0)
    gap = float(np.clip(round(gap_mm, 1), *GAP_MM))
    rows = _table(held, vents, ambient_c, gap, films, in_sun and case.in_sun)
    capacity = (
        MATERIALS[case.plastic].specific_heat * shell_mass_g(case, made_mm3)
        + FOLLOWS * SPECIFIC_HEAT_INSIDE * contents_g
    )
    power, inside, outer, inner, through, vented, sun_w = rows
    return Shell(power, inside, outer, inner, through, vented, ambient_c, sun_w, capacity)


def upright_mm(size_mm: tuple[float, float, float], stands: str) -> tuple[float, float, float]:
    """(width, depth, height) as it stands [mm]: lying with its least side upwards, else with its largest.

    >>> upright_mm((60.0, 90.0, 24.0), "lying")
    (90.0, 60.0, 24.0)
    """
    least, middle, most = sorted(size_mm)
    return (most, middle, least) if stands == "lying" else (middle, least, most)


def _faces(size_mm: tuple[float, float, float], stands: str) -> list[tuple[Facing, float, float]]:
    """(facing, area [m2], characteristic length [m]) of top, bottom and the four sides together."""
    w, d, h = (v / 1000 for v in upright_mm(size_mm, stands))
    lying = w * d / (2 * (w + d))
    return [("up", w * d, lying), ("down", w * d, lying), ("side", 2 * (w + d) * h, h)]


@lru_cache(maxsize=256)
def _table(
    held: tuple[tuple[float, float, float], float, str, str, str, str], vents: tuple[float, float], ambient_c: float, gap_mm: float, films: float, sun: bool,
) -> tuple[Any, ...]:  # fmt: skip
    """(power, inside, outer side, inner side, through each, through vents, sun): the rows behind a `Shell`."""
    size_mm, wall_mm, plastic, stands, carried, colour = held
    material, faces = MATERIALS[plastic], _faces(size_mm, stands)  # type: ignore[index]
    inner_mm = [max(v - 2 * wall_mm, 0.1) for v in size_mm]
    inner = _faces((inner_mm[0], inner_mm[1], inner_mm[2]), stands)
    inner_area = sum(x for _, x, _ in inner)
    across = material.conductivity * _shape_factor_m(inner_mm, wall_mm, inner_area)  # W/K, all sides together
    width, _, height = upright_mm(size_mm, stands)
    sunny = 0 if faces[0][1] >= width * height * 1e-6 else 2  # the top, or the broadest side
    sun_w = ABSORBED[colour] * SUN_W_PER_M2 * max(faces[0][1], width * height * 1e-6) if sun else 0.0
    rises = OUTER_RISES
    if carried == "hand":  # which takes nothing below its own temperature
        rises = np.unique(np.concatenate([rises, np.maximum(HAND_C - ambient_c + np.array([0.0, 2.0, 5.0]), 0.0)]))
    spreads = material.conductivity > SPREADS  # a metal shell is of one temperature
    sides = [[0, 1, 2]] if spreads else [[0], [1], [2]]
    tables = []
    for group in sides:
        inner_m2 = sum(inner[i][1] for i in group)
        rows = []
        h = 10.0
        for rise in rises.tolist():
            heat = (
                sum(_leaves_w(faces[i], rise, ambient_c, material.emissivity, stands, carried) for i in group) * films
            )
            heat -= sun_w if sunny in group else 0.0
            behind = rise + heat / (across * inner_m2 / inner_area)
            air = behind + heat / (films * h * inner_m2)
            for _ in range(2):
                warm, cool = (float(np.clip(ambient_c + x, *FILM_C)) for x in (air, behind))
                difference = max(abs(warm - cool), 0.05)
                h = across_gap(gap_mm / 1000, inner[2][2], difference, (warm + cool) / 2)
                h += radiation(INSIDE_EMISSIVITY, warm, cool)
                air = behind + heat / (films * h * inner_m2)
            rows.append((air, rise, behind, heat))
        tables.append(np.array(rows).T)
    inside_k = np.unique(np.maximum(np.concatenate([x[0] for x in tables]), 0.0))
    outer_k, inner_k, through = (np.zeros((inside_k.size, 3)) for _ in range(3))
    for group, table in zip(sides, tables, strict=True):
        for i in group:
            part = inner[i][1] / sum(inner[j][1] for j in group)
            for column, values in zip((outer_k, inner_k, through), (table[1], table[2], table[3] * part), strict=True):
                column[:, i] = np.interp(inside_k, table[0], values)
    vented = np.array([
        films * x * chimney_w_per_k(vents[0] * 1e-6, vents[1] / 1000, x, ambient_c) if vents[0] > 0 else 0.0 for x in inside_k.tolist()
    ])  # fmt: skip
    columns = [through.sum(axis=1) + vented, inside_k, outer_k, inner_k, through, vented]
    if columns[0][0] < 0:  # the sun warms it without any power: the rows begin where that is so
        power = columns[0]
        begins = int(np.flatnonzero(power > 0)[0])
        part = -power[begins - 1] / (power[begins] - power[begins - 1])
        columns = [
            np.concatenate([(x[begins - 1] + part * (x[begins] - x[begins - 1]))[None], x[begins:]]) for x in columns
        ]
    for column in columns:
        column.flags.writeable = False
    return (*columns, sun_w)


def _shape_factor_m(inner_mm: list[float], wall_mm: float, inner_m2: float) -> float:
    """Conduction through the walls of a hollow box, edges and corners with them: Incropera & DeWitt (2007), table 4.1 [m]."""
    wall = wall_mm / 1000
    return inner_m2 / wall + 0.54 * 4 * sum(inner_mm) / 1000 + 0.15 * 8 * wall


def _leaves_w(
    face: tuple[Facing, float, float], rise: float, ambient_c: float, emissivity: float, stands: str, carried: str
) -> float:
    """Heat that leaves one face so much above the surroundings [W]."""
    facing, area, length = face
    if carried == "clothes":
        return CLOTHES_W_PER_K_M2 * area * rise
    if facing == "down" and stands != "hung" and carried == "no":
        return TABLE_W_PER_K_M2 * area * rise
    film = free_convection(facing, length, rise, float(np.clip(ambient_c + rise / 2, *FILM_C)))
    film += radiation(emissivity, ambient_c + rise, ambient_c)
    given = film * area * rise
    if carried == "hand":
        # where it is warmer than a hand around it, the hand is no help: it takes what comes on top of that
        into_hand = HAND_W_PER_K_M2 * area * (ambient_c + rise - max(HAND_C, ambient_c))
        given = (1 - HAND_SHARE) * given + HAND_SHARE * max(into_hand, 0.0)
    return given


def wall_settles_s(case: Enclosure) -> float:
    """Time in which a spot of the wall comes within 37 % of its temperature [s]: its heat capacity over what it loses outside.

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> round(wall_settles_s(case))
    183
    """
    material = MATERIALS[case.plastic]
    return material.specific_heat * material.density * 1e6 * case.mean_wall_mm / 1000 / SPOT_FILM


SPOT_FILM = (
    18.0  # W/(m2 K): still air and radiation on the outer side, and what spreads in the wall; from `validation/heat.py`
)


def surface_m2(case: Enclosure) -> float:
    """Outer surface of the case [m2].

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> round(surface_m2(case), 4)
    0.018
    """
    return sum(area for _, area, _ in _faces(case.outer_mm, case.stands))


def shell_mass_g(case: Enclosure, made_mm3: float | None = None) -> float:
    """Mass of the empty case [g], its walls filled as they are printed; `made_mm3` is how much it is with what is made on it, else its walls alone.

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> round(shell_mass_g(case), 1)
    42.3
    """
    solid = solid_share(case.mean_wall_mm, case)
    lid = lid_share(case)
    density = (1 - lid) * MATERIALS[case.plastic].density + lid * MATERIALS[case.lid or case.plastic].density
    return (material_mm3(case) if made_mm3 is None else made_mm3) / 1000 * density * solid


def lid_share(case: Enclosure) -> float:
    """What of the case's material is its upper piece, 0..1: the top, and of the sides what lies above where it comes apart, by their areas.

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> round(lid_share(case), 2)
    0.3
    """
    x, y, z = case.outer_mm
    split = min(case.split_mm if case.split_mm is not None else z, z - case.walls[5])
    sides, top, bottom = (
        2 * (x + y) * z,
        x * y * case.walls[5] / case.mean_wall_mm,
        x * y * case.walls[4] / case.mean_wall_mm,
    )
    return float((top + sides * max(z - case.walls[5] - split, 0.0) / z) / (sides + top + bottom))


def shell_centre_mm(case: Enclosure) -> Array:
    """Centre of mass of the empty case [mm], (3,): off the middle where its walls are uneven.

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> [round(float(v), 1) for v in shell_centre_mm(case)]
    [30.0, 45.0, 12.0]
    """
    if not is_plain(case):
        return centre_of(material(case))
    outer, inner = np.asarray(case.outer_mm), np.asarray(case.inner_mm)
    walls = np.asarray(case.walls)
    cavity = float(np.prod(inner))
    whole = float(np.prod(outer)) - cavity
    if whole <= 0:
        return outer / 2
    return np.asarray((outer / 2 * float(np.prod(outer)) - (walls[0::2] + inner / 2) * cavity) / whole)


def own_k_per_w(body_mm: tuple[float, float, float] | None, board_mm2: float | None = None) -> float:
    """From a part to the air around it inside the case at a small rise [K/W], by its surface and `part_film`; without a body that of 15 cm2. A
    chip on a board gives its heat to that as well: the board is a disc that spreads it in its copper and loses it on both sides, and its
    package lies between.

    >>> round(own_k_per_w((5.0, 5.0, 1.0)), 1)
    64.7
    """
    if body_mm is None:
        return 1 / (PART_FILM * USUAL_SURFACE_M2)
    x, y, z = (v / 1000 for v in body_mm)
    surface = 2 * (x * y + y * z + x * z)
    alone = surface * float(part_film(np.array(FILM_RISE_K), np.array(surface)))
    if not is_chip(body_mm):
        return 1 / alone
    board_m2 = USUAL_BOARD_M2 if board_mm2 is None else board_mm2 * 1e-6
    return 1 / (alone + 1 / (PACKAGE_K_PER_W + on_board_k_per_w(x * y, board_m2)))


def is_chip(body_mm: tuple[float, float, float]) -> bool:
    """A body of little footprint and height is a chip on a board, not a board.

    >>> is_chip((5.0, 5.0, 1.0))
    True
    """
    x, y, z = body_mm
    return x * y <= CHIP_MM2 and z <= CHIP_MM


def chip_beyond_k_per_w(body_mm: tuple[float, float, float], board_m2: float = 10e-4) -> float:
    """Between a chip and its board at large [K/W]: its package, and where the heat spreads from its footprint.

    >>> round(chip_beyond_k_per_w((5.0, 5.0, 1.0)), 1)
    22.7
    """
    x, y, _ = (v / 1000 for v in body_mm)
    return PACKAGE_K_PER_W + _spreads_k_per_w(x * y, board_m2)


def on_board_k_per_w(chip_m2: float, board_m2: float) -> float:
    """From a chip's footprint to the air on both sides of its board [K/W]: a disc on a disc that loses heat evenly, ln(b/a) / (2 pi k t) - 3 / (8 pi k t)
    and 1 / (2 h A) (Incropera & DeWitt (2007), ch. 3.5 and 3.6); the board no larger than two lengths of its fin.

    >>> round(on_board_k_per_w(2.5e-5, 1e-3), 1)
    62.7
    """
    return _spreads_k_per_w(chip_m2, board_m2) + 1 / (2 * PART_FILM * _reached_m2(chip_m2, board_m2))


def _reached_m2(chip_m2: float, board_m2: float) -> float:
    fin_m = math.sqrt(BOARD_W_PER_K / (2 * PART_FILM))
    return max(min(board_m2, math.pi * (2 * fin_m) ** 2), chip_m2)


def _spreads_k_per_w(chip_m2: float, board_m2: float) -> float:
    ratio = math.sqrt(_reached_m2(chip_m2, board_m2) / chip_m2)
    return max(math.log(ratio) / (2 * math.pi) - 3 / (8 * math.pi) * (1 - 1 / ratio**2), 0.0) / BOARD_W_PER_K


def part_film(rise_k: Array, surface_m2: Array) -> Array:
    """What a body inside gives to the air and to what it sees [W/(m2 K)], at a rise above it: radiation, and conduction and free convection from a cuboid of
    such a surface, Nu = 3.4 + 0.51 Ra^(1/4) on the root of its surface (M. M. Yovanovich, AIAA 87-1643 (1987)); `validation/heat.py` says how
    well that holds in a case.

    >>> import numpy as np
    >>> part_film(np.array([40.0]), np.array([2e-4])).round(1).tolist()
    [22.7]
    """
    length, rise = np.sqrt(surface_m2), np.maximum(rise_k, 0.1)
    at = air(FILM_C_INSIDE)
    rayleigh = 9.81 * rise / (FILM_C_INSIDE + 273.15) * length**3 / (at.viscosity * at.diffusivity)
    warm, cool = rise + FILM_C_INSIDE + 273.15, FILM_C_INSIDE + 273.15
    radiates = INSIDE_EMISSIVITY * STEFAN_BOLTZMANN * (warm + cool) * (warm * warm + cool * cool)
    return np.asarray(radiates + at.conductivity / length * (3.4 + 0.51 * rayleigh**0.25))


PART_FILM = 10.0  # W / (m2 K), of a part that nobody gave a size, and of boards
FILM_RISE_K, FILM_C_INSIDE = 8.0, 40.0  # a small rise, and the air
USUAL_SURFACE_M2 = 15e-4  # of a part that nobody gave a size
CHIP_MM2, CHIP_MM = 150.0, 4.0  # rules of thumb
USUAL_BOARD_M2 = 10e-4  # of a chip whose board nobody named
BOARD_W_PER_K = (
    0.014  # conductivity x thickness of a board with copper on half of both sides: 2 x 35 um x 0.5 x 390 W/(m K)
)
BOARD_G_PER_M2 = 3000.0  # of 1.6 mm with its copper
PACKAGE_K_PER_W = 10.0  # from a chip to its board; typical of small packages


def two_stages(lasts_s: Array, first_s: Array, second_s: Array | float) -> Array:
    """How far the second of two first-order stages behind each other is after a step that lasts [s], 0..1, for their time constants [s]; any shape.

    >>> import numpy as np
    >>> two_stages(np.array([60.0]), np.array([60.0]), 600.0).round(3).tolist()
    [0.036]
    """
    first = np.where(np.abs(first_s / second_s - 1) < ALIKE, second_s * (1 - ALIKE), first_s)
    return np.asarray(
        1 - (second_s * np.exp(-lasts_s / second_s) - first * np.exp(-lasts_s / first)) / (second_s - first)
    )


ALIKE = 0.02  # two time constants that differ by less are taken as so different


def felt_power_w(power_w: Array, others_w: Array, seconds: Array, share: Array, constant_s: Array | float) -> Array:
    """The steady power [W] that would warm the case as much as a periodic one does at the end of its stretch.

    `power_w` lasts for `seconds` at a time and `share` (0..1) of all time, `others_w` is the mean of the rest. One lump
    between two powers: P = others + (power - others) (1 - e^(-t/tau)) / (1 - e^(-t / (share tau))). All of one shape.

    >>> import numpy as np
    >>> felt_power_w(np.array([2.0]), np.array([0.1]), np.array([60.0]), np.array([0.1]), 600.0).round(2).tolist()
    [0.39]
    """
    on = np.asarray(seconds, dtype=float) / np.maximum(constant_s, 1e-9)
    shares = np.clip(share, 0.0, 1.0)
    period = np.where(shares > 0, on / np.where(shares > 0, shares, 1.0), np.inf)
    with np.errstate(invalid="ignore"):
        reached = np.where(on < 1e-9, shares, -np.expm1(-on) / -np.expm1(-np.maximum(period, 1e-12)))
    return np.asarray(others_w + (power_w - others_w) * reached)
