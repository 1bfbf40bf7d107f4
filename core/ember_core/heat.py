"""How warm it gets in the closed case: one inside-air node, heat leaving through the walls.

1 / U = 1 / h_inside + wall / k + 1 / h_outside, with h the sum of free convection and radiation at small
differences (Incropera & DeWitt, *Fundamentals of Heat and Mass Transfer*, 6th ed. (2007), ch. 9 and 13; about
4 + 5.5 W/m2K). Good to about 40 %: it depends on where the gadget lies and what touches it.
"""

from __future__ import annotations

from .design import Enclosure, Plastic

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
UNCERTAINTY = 0.4


def surface_m2(enclosure: Enclosure) -> float:
    """Outer surface of the case [m2], the side it lies on left out."""
    x, y, z = (v / 1000 for v in enclosure.outer_mm)
    return 2 * (x * y + y * z + x * z) - x * y


def inside_rise_c(power_w: float, enclosure: Enclosure) -> float:
    """Rise of the inside air above the surroundings [degC] for a steady power [W] in the closed case."""
    resistance = 2 / H_SURFACE + enclosure.wall_mm / 1000 / CONDUCTIVITY[enclosure.plastic]
    return power_w * resistance / surface_m2(enclosure)


def shell_mass_g(enclosure: Enclosure) -> float:
    """Mass of the empty case [g]: outer less inner volume, solid walls."""
    outer, inner = 1.0, 1.0
    for side in enclosure.outer_mm:
        outer *= side
        inner *= max(side - 2 * enclosure.wall_mm, 0.0)
    return (outer - inner) / 1000 * DENSITY[enclosure.plastic]
