"""How warm it gets in the closed case: one inside-air node with a heat capacity, heat leaving through the walls.

1 / U = 1 / h_inside + wall / k + 1 / h_outside, with h the sum of free convection and radiation at small
differences (Incropera & DeWitt, *Fundamentals of Heat and Mass Transfer*, 6th ed. (2007), ch. 9 and 13; about
4 + 5.5 W/m2K). Good to about 40 %: it depends on where the gadget lies and what touches it. The case and what is in it
warm up as one lump (ibid., ch. 5), so that what lasts for seconds warms nothing.
"""

from __future__ import annotations

import numpy as np

from ..design import Chemistry, Enclosure, Plastic
from ..numeric import Array

H_SURFACE = 9.5  # W / (m2 K), each side of the wall
CONDUCTIVITY: dict[Plastic, float] = {
    "PLA": 0.13, "PETG": 0.20, "ABS": 0.18, "ASA": 0.18, "nylon": 0.25, "resin": 0.20, "polycarbonate": 0.20,
}  # fmt: skip
SOFTENING_C: dict[Plastic, float] = {
    "PLA": 58, "PETG": 75, "ABS": 98, "ASA": 98, "nylon": 80, "resin": 60, "polycarbonate": 130,
}  # fmt: skip
DENSITY: dict[Plastic, float] = {
    "PLA": 1.24, "PETG": 1.27, "ABS": 1.04, "ASA": 1.07, "nylon": 1.10, "resin": 1.18, "polycarbonate": 1.20,
}  # fmt: skip
SPECIFIC_HEAT_SHELL = 1.3  # J / (g K): unfilled plastics have 1.1 to 1.7 (Incropera & DeWitt, table A.3)
SPECIFIC_HEAT_INSIDE = 0.9  # J / (g K): boards, metals and cells have 0.5 to 1.0; a rule of thumb
UNCERTAINTY = 0.4
CELL_MAX_C: dict[Chemistry, float] = {
    # the usual limit while giving current; typical of datasheets
    "lithium-ion": 60, "lithium-iron-phosphate": 60, "nickel-metal-hydride": 60, "alkaline": 54, "lithium-coin": 60,
    "lithium-manganese": 70, "lithium-iron-disulfide": 60, "lithium-thionyl": 85,
}  # fmt: skip


def surface_m2(enclosure: Enclosure) -> float:
    """Outer surface of the case [m2], the side it lies on left out."""
    x, y, z = (v / 1000 for v in enclosure.outer_mm)
    return 2 * (x * y + y * z + x * z) - x * y


def case_k_per_w(enclosure: Enclosure) -> float:
    """Rise of the inside air above the surroundings per watt that lasts [K/W]."""
    resistance = 2 / H_SURFACE + enclosure.wall_mm / 1000 / CONDUCTIVITY[enclosure.plastic]
    return resistance / surface_m2(enclosure)


def inside_rise_c(power_w: float, enclosure: Enclosure) -> float:
    """Rise of the inside air above the surroundings [degC] for a steady power [W] in the closed case."""
    return power_w * case_k_per_w(enclosure)


def time_constant_s(enclosure: Enclosure, contents_g: float) -> float:
    """Time in which the case comes within 37 % of its final temperature [s]; `contents_g` is the mass inside it."""
    capacity = SPECIFIC_HEAT_SHELL * shell_mass_g(enclosure) + SPECIFIC_HEAT_INSIDE * contents_g
    return capacity * case_k_per_w(enclosure)


def felt_power_w(power_w: Array, others_w: Array, seconds: Array, share: Array, constant_s: float) -> Array:
    """The steady power [W] that would warm the case as much as a periodic one does at the end of its stretch.

    `power_w` lasts for `seconds` at a time and `share` (0..1) of all time, `others_w` is the mean of the rest. One lump
    between two powers: P = others + (power - others) (1 - e^(-t/tau)) / (1 - e^(-t / (share tau))). All of one shape.
    """
    on = np.asarray(seconds, dtype=float) / max(constant_s, 1e-9)
    shares = np.clip(share, 0.0, 1.0)
    period = np.where(shares > 0, on / np.where(shares > 0, shares, 1.0), np.inf)
    with np.errstate(invalid="ignore"):
        reached = np.where(on < 1e-9, shares, -np.expm1(-on) / -np.expm1(-np.maximum(period, 1e-12)))
    return np.asarray(others_w + (power_w - others_w) * reached)


def shell_mass_g(enclosure: Enclosure) -> float:
    """Mass of the empty case [g]: outer less inner volume, solid walls."""
    outer, inner = 1.0, 1.0
    for side in enclosure.outer_mm:
        outer *= side
        inner *= max(side - 2 * enclosure.wall_mm, 0.0)
    return (outer - inner) / 1000 * DENSITY[enclosure.plastic]
