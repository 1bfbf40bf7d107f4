"""Typical figures of cell chemistries.

The curves are typical values at low rate for current cells of each kind, drawn from the shapes in
G. Plett, *Battery Management Systems* vol. 1 (2015), ch. 2 (lithium-ion), and D. Linden & T. Reddy,
*Handbook of Batteries*, 3rd ed. (2002), ch. 10 (alkaline) and 14 (lithium / manganese dioxide).
A single cell may differ by some 30 mV and a factor of 1.5 in resistance.
Iron phosphate: Plett (2015), ch. 2, and Linden & Reddy, 4th ed. (2011), ch. 26; nickel-metal-hydride: 4th ed., ch. 22;
lithium primaries: 4th ed., ch. 14.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ..design import Chemistry


@dataclass(frozen=True)
class ChemistryData:
    """Typical figures of one chemistry, per cell.

    ocv: (state of charge 0..1, open-circuit voltage [V]); resistance: (state of charge, factor on the
    resistance at half charge); cold: (temperature [degC], share of the capacity at 25 degC that the lowest rates
    still yield; what a rate loses in the cold comes from the resistance and from diffusion). activation_j_per_mol is that of the
    ohmic resistance, diffusion_j_per_mol of the unavailable charge, transfer the share of charge transfer in the resistance at
    25 degC and its own activation energy. `charge_v` is the float voltage of a charger with constant current, then constant voltage; None where it
    must not have one. `flattens` is the power of time with which the
    self-discharge falls after the first year. `tolerance` is the usual spread of the real capacity around the printed one (low, high).

    diffusion_h: by construction ("coin", "cylinder"), (thickness of a coin or diameter of a cylinder [mm], charge that a
    steady current leaves inside per ampere at 25 degC [A h / A]), chosen so that the cells of docs/VALIDATION.md give what such
    cells give; relaxation_h: the time in which a measured cell comes to rest [h]. fade_year: share of the capacity lost in the first year
    of lying about at 25 degC (lithium-ion has a model of its own: `ageing.py`); fade_cycle: share lost per full charge; growth: by how much
    the resistance grows per share of capacity lost. charge_most_v: what a charger may hold a cell at that is usually full at `charge_v`;
    coldest_c: the usual lower limit of giving current [degC]; charged_c: between what it may be charged [degC];
    least_v: emptied below that a cell is damaged or reversed by its neighbours [V]; protection_v: where the circuits that such cells usually
    carry cut off [V], None where they carry none and do not burn without one;
    fresh_v: what a cell fresh from its pack may have without load [V], where that is above its curve; ah_per_cm3, ah_per_g: what the best
    cells on the market hold, by the volume of their shape and by mass.
    """

    name: str
    rechargeable: bool
    ocv: tuple[tuple[float, float], ...]
    resistance: tuple[tuple[float, float], ...]
    cold: tuple[tuple[float, float], ...]
    activation_j_per_mol: float
    diffusion_j_per_mol: float
    transfer: tuple[float, float]
    self_discharge_per_month: float
    tolerance: tuple[float, float]
    diffusion_h: Mapping[str, tuple[tuple[float, float], ...]]
    relaxation_h: float
    fade_year: float
    fade_cycle: float
    growth: float
    charge_v: float | None
    charge_rate: float
    charge_rate_max: float
    shelf_years: float
    source: str
    flattens: float = 0.0
    charge_most_v: float | None = None
    coldest_c: float = -20.0
    charged_c: tuple[float, float] = (0.0, 45.0)
    least_v: float = 0.8
    protection_v: float | None = None
    fresh_v: float | None = None
    ah_per_cm3: float = 0.0
    ah_per_g: float = 0.0


CHEMISTRIES: dict[Chemistry, ChemistryData] = {
    "lithium-ion": ChemistryData(
        name="lithium-ion",
        rechargeable=True,
        ocv=(
            (0.0, 3.00),
            (0.02, 3.20),
            (0.05, 3.36),
            (0.1, 3.48),
            (0.15, 3.55),
            (0.2, 3.60),
            (0.3, 3.65),
            (0.4, 3.70),
            (0.5, 3.76),
            (0.6, 3.84),
            (0.7, 3.93),
            (0.8, 4.01),
            (0.9, 4.09),
            (1.0, 4.20),
        ),
        resistance=((0.0, 2.6), (0.05, 1.9), (0.1, 1.5), (0.2, 1.2), (0.35, 1.05), (0.5, 1.0), (0.8, 0.98), (1.0, 1.0)),
        cold=((-40, 0.55), (-20, 0.78), (-10, 0.9), (0, 0.97), (25, 1.0), (60, 1.0)),
        activation_j_per_mol=36000,
        diffusion_j_per_mol=30000,
        transfer=(0.25, 55000),
        self_discharge_per_month=0.02,
        tolerance=(-0.08, 0.03),
        diffusion_h={},
        relaxation_h=0.25,
        fade_year=0,
        fade_cycle=0.0004,
        growth=2.0,
        charge_v=4.2,
        charge_rate=0.5,
        charge_rate_max=1.0,
        shelf_years=5,
        coldest_c=-20,
        least_v=2.3,
        protection_v=2.5,
        ah_per_cm3=0.215,
        ah_per_g=0.078,
        source="Plett, Battery Management Systems vol. 1 (2015), ch. 2; typical cobalt / nickel-manganese-cobalt cell",
    ),
    "alkaline": ChemistryData(
        name="alkaline",
        rechargeable=False,
        ocv=(
            (0.0, 0.90),
            (0.03, 1.02),
            (0.06, 1.10),
            (0.1, 1.15),
            (0.2, 1.21),
            (0.3, 1.25),
            (0.4, 1.28),
            (0.5, 1.31),
            (0.6, 1.35),
            (0.7, 1.39),
            (0.8, 1.44),
            (0.9, 1.50),
            (1.0, 1.60),
        ),
        resistance=((0.0, 2.2), (0.1, 1.5), (0.2, 1.25), (0.5, 1.0), (1.0, 0.85)),
        cold=((-40, 0.1), (-30, 0.6), (-20, 0.9), (0, 0.98), (25, 1.0), (60, 1.0)),
        activation_j_per_mol=25000,
        diffusion_j_per_mol=40000,
        transfer=(0.0, 0),
        self_discharge_per_month=0.0017,
        tolerance=(-0.12, 0.05),
        diffusion_h={
            "cylinder": ((10.5, 1.05), (14.5, 1.4), (26.2, 4.5), (34.2, 8.5)),
            "coin": ((3.6, 4.0), (5.4, 9.0)),
        },
        relaxation_h=1,
        fade_year=0,
        fade_cycle=0,
        growth=1.0,
        charge_v=None,
        charge_rate=0,
        charge_rate_max=0,
        shelf_years=10,
        coldest_c=-20,
        least_v=0.7,
        fresh_v=1.65,
        ah_per_cm3=0.37,
        ah_per_g=0.14,
        source="Linden & Reddy, Handbook of Batteries, 3rd ed. (2002), ch. 10",
    ),
    "lithium-coin": ChemistryData(
        name="lithium / manganese dioxide coin",
        rechargeable=False,
        ocv=(
            (0.0, 2.00),
            (0.03, 2.35),
            (0.06, 2.55),
            (0.1, 2.70),
            (0.2, 2.85),
            (0.3, 2.91),
            (0.5, 2.96),
            (0.7, 2.99),
            (0.85, 3.02),
            (0.95, 3.10),
            (1.0, 3.25),
        ),
        resistance=((0.0, 2.5), (0.1, 1.8), (0.2, 1.5), (0.3, 1.25), (0.5, 1.0), (0.8, 0.85), (1.0, 0.8)),
        cold=((-40, 0.7), (-30, 0.85), (-20, 0.93), (0, 0.98), (25, 1.0), (60, 1.0)),
        activation_j_per_mol=26000,
        diffusion_j_per_mol=26000,
        transfer=(0.0, 0),
        self_discharge_per_month=0.001,
        tolerance=(-0.10, 0.05),
        diffusion_h={"coin": ((3.2, 12.0),)},
        relaxation_h=3,
        fade_year=0,
        fade_cycle=0,
        growth=1.0,
        charge_v=None,
        charge_rate=0,
        charge_rate_max=0,
        shelf_years=10,
        coldest_c=-30,
        least_v=1.5,
        fresh_v=3.4,
        ah_per_cm3=0.30,
        ah_per_g=0.105,
        source="Linden & Reddy, Handbook of Batteries, 3rd ed. (2002), ch. 14",
    ),
    "lithium-iron-phosphate": ChemistryData(
        name="lithium iron phosphate",
        rechargeable=True,
        ocv=(
            (0, 2.5),
            (0.02, 2.8),
            (0.05, 3.0),
            (0.1, 3.15),
            (0.2, 3.22),
            (0.3, 3.26),
            (0.4, 3.285),
            (0.5, 3.295),
            (0.6, 3.31),
            (0.7, 3.328),
            (0.8, 3.333),
            (0.9, 3.34),
            (0.97, 3.37),
            (1, 3.55),
        ),
        resistance=((0, 2.8), (0.05, 1.9), (0.1, 1.4), (0.2, 1.1), (0.5, 1.0), (1, 1.0)),
        cold=((-40, 0.5), (-20, 0.73), (-10, 0.87), (0, 0.96), (25, 1.0), (60, 1.0)),
        activation_j_per_mol=38000,
        diffusion_j_per_mol=30000,
        transfer=(0.25, 55000),
        self_discharge_per_month=0.02,
        tolerance=(-0.05, 0.03),
        diffusion_h={},
        relaxation_h=0.4,
        fade_year=0.025,
        fade_cycle=0.0001,
        growth=1.5,
        charge_v=3.6,
        charge_rate=0.5,
        charge_rate_max=1.0,
        shelf_years=10,
        charge_most_v=3.65,
        coldest_c=-20,
        least_v=1.9,
        protection_v=2.0,
        ah_per_cm3=0.125,
        ah_per_g=0.05,
        source="Plett, Battery Management Systems vol. 1 (2015), ch. 2; Linden & Reddy, 4th ed. (2011), ch. 26",
    ),
    "nickel-metal-hydride": ChemistryData(
        name="nickel-metal-hydride, low self-discharge",
        rechargeable=True,
        ocv=(
            (0, 1.0),
            (0.02, 1.12),
            (0.05, 1.18),
            (0.1, 1.22),
            (0.2, 1.25),
            (0.3, 1.265),
            (0.5, 1.28),
            (0.7, 1.295),
            (0.8, 1.31),
            (0.9, 1.33),
            (1, 1.4),
        ),
        resistance=((0, 2.5), (0.1, 1.4), (0.2, 1.1), (0.5, 1.0), (1, 0.95)),
        cold=((-40, 0.2), (-30, 0.4), (-20, 0.75), (-10, 0.88), (0, 0.95), (25, 1.0), (60, 1.0)),
        activation_j_per_mol=30000,
        diffusion_j_per_mol=30000,
        transfer=(0.0, 0),
        self_discharge_per_month=0.0125,
        tolerance=(-0.07, 0.05),
        diffusion_h={"cylinder": ((14.5, 0.015), (34.2, 0.015))},
        relaxation_h=0.5,
        fade_year=0.03,
        fade_cycle=0.0004,
        growth=2.0,
        charge_v=None,
        charge_rate=0.1,
        charge_rate_max=0.5,
        shelf_years=5,
        coldest_c=-20,
        least_v=0.9,
        ah_per_cm3=0.33,
        ah_per_g=0.092,
        source="Linden & Reddy, Handbook of Batteries, 4th ed. (2011), ch. 22",
        flattens=0.5,
    ),
    "lithium-manganese": ChemistryData(
        name="lithium / manganese dioxide, cylindrical",
        rechargeable=False,
        ocv=(
            (0, 2.0),
            (0.03, 2.35),
            (0.06, 2.55),
            (0.1, 2.7),
            (0.2, 2.83),
            (0.3, 2.89),
            (0.5, 2.95),
            (0.7, 2.99),
            (0.85, 3.03),
            (0.95, 3.1),
            (1, 3.25),
        ),
        resistance=((0, 4.0), (0.1, 2.2), (0.2, 1.6), (0.5, 1.0), (1, 0.85)),
        cold=((-40, 0.7), (-20, 0.93), (0, 0.98), (25, 1.0), (60, 1.0)),
        activation_j_per_mol=22000,
        diffusion_j_per_mol=30000,
        transfer=(0.0, 0),
        self_discharge_per_month=0.0008,
        tolerance=(-0.08, 0.05),
        diffusion_h={"cylinder": ((14.5, 0.3), (17.0, 0.3))},
        relaxation_h=1,
        fade_year=0,
        fade_cycle=0,
        growth=1.0,
        charge_v=None,
        charge_rate=0,
        charge_rate_max=0,
        shelf_years=10,
        coldest_c=-40,
        least_v=1.5,
        fresh_v=3.35,
        ah_per_cm3=0.27,
        ah_per_g=0.13,
        source="Linden & Reddy, Handbook of Batteries, 4th ed. (2011), ch. 14",
    ),
    "lithium-iron-disulfide": ChemistryData(
        name="lithium / iron disulfide",
        rechargeable=False,
        ocv=(
            (0, 0.9),
            (0.02, 1.2),
            (0.05, 1.33),
            (0.1, 1.4),
            (0.2, 1.44),
            (0.3, 1.47),
            (0.5, 1.5),
            (0.7, 1.54),
            (0.85, 1.6),
            (0.95, 1.7),
            (1, 1.79),
        ),
        resistance=((0, 4.0), (0.1, 2.0), (0.2, 1.4), (0.5, 1.0), (1, 0.9)),
        cold=((-40, 0.75), (-20, 0.93), (0, 0.98), (25, 1.0), (60, 1.0)),
        activation_j_per_mol=22000,
        diffusion_j_per_mol=25000,
        transfer=(0.0, 0),
        self_discharge_per_month=0.0004,
        tolerance=(-0.06, 0.04),
        diffusion_h={"cylinder": ((10.5, 0.15), (14.5, 0.15))},
        relaxation_h=1,
        fade_year=0,
        fade_cycle=0,
        growth=1.0,
        charge_v=None,
        charge_rate=0,
        charge_rate_max=0,
        shelf_years=15,
        coldest_c=-40,
        least_v=0.7,
        fresh_v=1.83,
        ah_per_cm3=0.42,
        ah_per_g=0.23,
        source="Linden & Reddy, Handbook of Batteries, 4th ed. (2011), ch. 14",
    ),
    "lithium-thionyl": ChemistryData(
        name="lithium / thionyl chloride, bobbin",
        rechargeable=False,
        ocv=(
            (0, 2.0),
            (0.01, 2.8),
            (0.03, 3.3),
            (0.06, 3.5),
            (0.1, 3.58),
            (0.2, 3.62),
            (0.5, 3.64),
            (0.9, 3.66),
            (1, 3.67),
        ),
        resistance=((0, 4.0), (0.05, 2.2), (0.1, 1.6), (0.3, 1.1), (0.5, 1.0), (1, 0.95)),
        cold=((-40, 0.85), (-20, 0.93), (0, 0.98), (25, 1.0), (60, 1.0)),
        activation_j_per_mol=30000,
        diffusion_j_per_mol=25000,
        transfer=(0.0, 0),
        self_discharge_per_month=0.0008,
        tolerance=(-0.08, 0.04),
        diffusion_h={"cylinder": ((14.5, 36.0),)},
        relaxation_h=3,
        fade_year=0,
        fade_cycle=0,
        growth=1.5,
        charge_v=None,
        charge_rate=0,
        charge_rate_max=0,
        shelf_years=15,
        coldest_c=-55,
        least_v=1.8,
        ah_per_cm3=0.39,
        ah_per_g=0.23,
        source="Linden & Reddy, Handbook of Batteries, 4th ed. (2011), ch. 14",
    ),
    "super-capacitor": ChemistryData(
        name="super-capacitor",
        rechargeable=True,
        ocv=((0.0, 0.0), (0.25, 0.675), (0.5, 1.35), (0.75, 2.025), (1.0, 2.7)),
        resistance=((0.0, 1.0), (0.5, 1.0), (1.0, 1.0)),
        cold=((-40, 0.95), (-20, 0.98), (25, 1.0), (65, 1.0)),
        activation_j_per_mol=8000,
        diffusion_j_per_mol=0,
        transfer=(0.0, 0),
        self_discharge_per_month=0.5,
        tolerance=(-0.2, 0.2),
        diffusion_h={},
        relaxation_h=0.05,
        fade_year=0.02,
        fade_cycle=4e-7,
        growth=1.0,
        charge_v=2.7,
        charge_rate=20.0,
        charge_rate_max=200.0,
        shelf_years=10,
        coldest_c=-40,
        least_v=0.0,
        ah_per_cm3=0.0065,
        ah_per_g=0.006,
        charged_c=(-40.0, 65.0),
        source="Linden & Reddy, Handbook of Batteries, 4th ed. (2011), ch. 39: charge in proportion to the voltage; makers' usual figures",
    ),
}
