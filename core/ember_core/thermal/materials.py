"""What shells are made of: usual figures. Incropera & DeWitt, *Fundamentals of Heat and Mass Transfer*, 6th ed. (2007),
appendix A, for conductivity, density, specific heat and emissivity; makers' usual figures for where a plastic softens.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from ..design import Chemistry, Enclosure, Plastic

Feel = Literal["metal", "plastic", "wood"]


@dataclass(frozen=True)
class Material:
    """conductivity [W/(m K)], density [g/cm3], specific heat [J/(g K)], emissivity, where it softens [degC], and what it is like to
    touch. `shields`: a radio inside is not heard outside. `flexible`: it gives way. `strain`: what a snap of it
    stands at its root each time it closes, as a share (printed across its layers half of that); usual design values, rules of thumb."""

    conductivity: float
    density: float
    specific_heat: float
    emissivity: float
    softens_c: float
    feel: Feel = "plastic"
    shields: bool = False
    flexible: bool = False
    strain: float = 0.03


MATERIALS: dict[Plastic, Material] = {
    "PLA": Material(0.13, 1.24, 1.3, 0.9, 58, strain=0.015), "PETG": Material(0.20, 1.27, 1.3, 0.9, 75, strain=0.03), "ABS": Material(0.18, 1.04, 1.3, 0.9, 98, strain=0.04),
    "ASA": Material(0.18, 1.07, 1.3, 0.9, 98, strain=0.04),
    "nylon": Material(0.25, 1.10, 1.3, 0.9, 80, strain=0.05), "TPU": Material(0.20, 1.21, 1.5, 0.9, 80, flexible=True, strain=0.3),
    "resin": Material(0.20, 1.18, 1.3, 0.9, 60, strain=0.012),
    "polycarbonate": Material(0.20, 1.20, 1.3, 0.9, 130, strain=0.04), "wood": Material(0.15, 0.70, 1.6, 0.9, 200, "wood", strain=0.005),
    "aluminium": Material(160.0, 2.70, 0.9, 0.8, 500, "metal", shields=True, strain=0.004), "steel": Material(45.0, 7.85, 0.48, 0.8, 500, "metal", shields=True, strain=0.004),
}  # fmt: skip

SPECIFIC_HEAT_INSIDE = 0.9  # J / (g K): boards, metals and cells have 0.5 to 1.0; a rule of thumb

CELL_MAX_C: dict[Chemistry, float] = {
    # the usual limit while giving current; typical of datasheets
    "lithium-ion": 60, "lithium-iron-phosphate": 60, "nickel-metal-hydride": 60, "alkaline": 54, "lithium-coin": 60,
    "lithium-manganese": 70, "lithium-iron-disulfide": 60, "lithium-thionyl": 85, "super-capacitor": 65,
    "alkaline-block": 54, "silver-oxide": 60, "zinc-air": 50, "lead-acid": 50, "lithium-titanate": 60,
}  # fmt: skip

TOUCH_C: dict[Feel, tuple[float, float, float]] = {
    # bare hand: for a second, for ten minutes, worn for hours; after ISO 13732-1:2006, the low end of its bands, rounded down
    "metal": (65, 48, 43),
    "plastic": (85, 48, 43),
    "wood": (110, 48, 43),
}


def of_case(case: Enclosure) -> list[Material]:
    """What the two pieces of a case are made of: the lower one, and the upper one where that is something else.

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> len(of_case(case))
    1
    """
    return [MATERIALS[p] for p in dict.fromkeys((case.plastic, case.lid or case.plastic))]


def shielded(case: Enclosure) -> bool:
    """Whether all of a case is of metal: no radio and no coil gets through.

    >>> from ember_core.design import Enclosure
    >>> shielded(Enclosure(outer_mm=(60, 90, 24), plastic="steel")), shielded(Enclosure(outer_mm=(60, 90, 24), plastic="steel", lid="ABS"))
    (True, False)
    """
    return all(material.shields for material in of_case(case))


def softest(case: Enclosure) -> tuple[Plastic, float]:
    """(the material of the case that softens first, where it does [degC]).

    >>> from ember_core.design import Enclosure
    >>> case = Enclosure(outer_mm=(60, 90, 24))
    >>> softest(case)
    ('PETG', 75)
    """
    name = min((case.plastic, case.lid or case.plastic), key=lambda p: MATERIALS[p].softens_c)
    return name, MATERIALS[name].softens_c
