"""Heat from a surface to the air and to what it sees: film coefficients [W/(m2 K)].

Free convection by the correlations of the `ht` library: S. W. Churchill and H. H. S. Chu, *Int. J. Heat Mass Transfer* 18
(1975) 1323 (upright); W. H. McAdams, *Heat Transmission*, 3rd ed. (1954) (lying, facing up or down). Properties of air: power laws
through Incropera & DeWitt (2007), table A.4, within 1 % from 250 to 400 K.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

GRAVITY = 9.81  # m / s2
STEFAN_BOLTZMANN = 5.670374e-8  # W / (m2 K4)
KELVIN = 273.15
LEAST_DIFFERENCE = 0.01  # K

Facing = Literal["side", "up", "down"]


@dataclass(frozen=True)
class Air:
    """Air at a film temperature: conductivity [W/(m K)], viscosity and diffusivity [m2/s], density [kg/m3]."""

    conductivity: float
    viscosity: float
    diffusivity: float
    density: float
    kelvin: float


def air(celsius: float) -> Air:
    """
    >>> round(air(27.0).conductivity, 4)
    0.0263
    """
    kelvin = celsius + KELVIN
    ratio = kelvin / 300
    return Air(0.0263 * ratio**0.85, 15.89e-6 * ratio**1.78, 22.5e-6 * ratio**1.82, 1.1614 / ratio, kelvin)


def free_convection(facing: Facing, length_m: float, difference_k: float, film_c: float) -> float:
    """From a warm surface to cooler air [W/(m2 K)]. `length_m` is the height of an upright side, and area ÷ perimeter of a lying
    one. A cool ceiling over warm air is as a warm surface that faces up.

    >>> round(free_convection("up", 0.1, 20.0, 30.0), 2)
    5.21
    """
    from ht.conv_free_immersed import Nu_horizontal_plate_McAdams, Nu_vertical_plate_Churchill  # takes 0.2 s to import

    at = air(film_c)
    prandtl = at.viscosity / at.diffusivity
    grashof = GRAVITY * max(difference_k, LEAST_DIFFERENCE) / at.kelvin * length_m**3 / at.viscosity**2
    upright = facing == "side"
    nusselt = (
        Nu_vertical_plate_Churchill(prandtl, grashof)
        if upright
        else Nu_horizontal_plate_McAdams(prandtl, grashof, facing == "up")
    )
    return float(nusselt * at.conductivity / length_m)


def radiation(emissivity: float, warm_c: float, cool_c: float) -> float:
    """Between a surface and what surrounds it [W/(m2 K)], exact in the two temperatures.

    >>> round(radiation(0.9, 40.0, 25.0), 2)
    5.83
    """
    warm, cool = warm_c + KELVIN, cool_c + KELVIN
    return emissivity * STEFAN_BOLTZMANN * (warm + cool) * (warm**2 + cool**2)


def across_gap(gap_m: float, height_m: float, difference_k: float, film_c: float) -> float:
    """Through the air between what is inside and the wall [W/(m2 K)]: conduction across a narrow gap, free convection along the wall
    where that carries more.

    >>> round(across_gap(0.005, 0.05, 10.0, 30.0), 2)
    5.31
    """
    return max(air(film_c).conductivity / gap_m, free_convection("side", height_m, difference_k, film_c))


def chimney_w_per_k(area_m2: float, height_m: float, rise_k: float, ambient_c: float) -> float:
    """What vents carry away per kelvin that the air inside is warmer [W/K]: the column of warm air drives it through a low and a high
    opening of `area_m2` each, of discharge coefficient 0.6 (*ASHRAE Handbook, Fundamentals* (2017), ch. 16).

    >>> round(chimney_w_per_k(1e-4, 0.05, 10.0, 25.0), 4)
    0.0086
    """
    warm = air(ambient_c + rise_k)
    driven = (2 * GRAVITY * height_m * max(rise_k, 0.0) / warm.kelvin) ** 0.5
    flow = 0.6 * area_m2 / 2**0.5 * driven
    return float(warm.density * 1007.0 * flow)
