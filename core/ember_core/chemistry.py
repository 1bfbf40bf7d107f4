"""Typical behaviour of cell chemistries: open-circuit curve, resistance over charge and temperature, losses.

The curves are typical values at low rate for current cells of each kind, drawn from the shapes in
G. Plett, *Battery Management Systems* vol. 1 (2015), ch. 2 (lithium-ion), and D. Linden & T. Reddy,
*Handbook of Batteries*, 3rd ed. (2002), ch. 10 (alkaline) and 14 (lithium / manganese dioxide).
A single cell may differ by some 30 mV and a factor of 1.5 in resistance.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator

from .design import Chemistry

Array = NDArray[np.float64]

GAS_CONSTANT = 8.314462618  # J / (mol K)
REFERENCE_K = 298.15
SECONDS_PER_MONTH = 30.4375 * 86400


@dataclass(frozen=True)
class ChemistryData:
    """Typical figures of one chemistry, per cell.

    ocv: (state of charge 0..1, open-circuit voltage [V]); resistance: (state of charge, factor on the
    resistance at half charge); cold: (temperature [degC], share of the capacity at 25 degC that a low rate
    still yields). `tolerance` is the usual spread of the real capacity around the printed one (low, high).
    """

    name: str
    rechargeable: bool
    ocv: tuple[tuple[float, float], ...]
    resistance: tuple[tuple[float, float], ...]
    cold: tuple[tuple[float, float], ...]
    activation_j_per_mol: float
    self_discharge_per_month: float
    tolerance: tuple[float, float]
    charge_rate: float
    charge_rate_max: float
    shelf_years: float
    source: str


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
        cold=((-30, 0.60), (-20, 0.78), (-10, 0.88), (0, 0.94), (10, 0.98), (25, 1.0), (60, 1.0)),
        activation_j_per_mol=25000,
        self_discharge_per_month=0.02,
        tolerance=(-0.08, 0.03),
        charge_rate=0.5,
        charge_rate_max=1.0,
        shelf_years=5,
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
        resistance=((0.0, 3.5), (0.1, 2.0), (0.2, 1.5), (0.5, 1.0), (0.8, 0.8), (1.0, 0.75)),
        cold=((-30, 0.05), (-20, 0.15), (-10, 0.35), (0, 0.60), (10, 0.80), (25, 1.0), (60, 1.0)),
        activation_j_per_mol=22000,
        self_discharge_per_month=0.0025,
        tolerance=(-0.12, 0.05),
        charge_rate=0,
        charge_rate_max=0,
        shelf_years=10,
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
        resistance=((0.0, 4.5), (0.1, 2.6), (0.2, 1.8), (0.3, 1.4), (0.5, 1.0), (0.8, 0.75), (1.0, 0.7)),
        cold=((-30, 0.50), (-20, 0.70), (-10, 0.85), (0, 0.93), (25, 1.0), (60, 1.0)),
        activation_j_per_mol=24000,
        self_discharge_per_month=0.001,
        tolerance=(-0.10, 0.05),
        charge_rate=0,
        charge_rate_max=0,
        shelf_years=10,
        source="Linden & Reddy, Handbook of Batteries, 3rd ed. (2002), ch. 14",
    ),
}


@cache
def _curve(chemistry: Chemistry, which: str) -> PchipInterpolator:
    points = np.asarray(getattr(CHEMISTRIES[chemistry], which), dtype=float)
    return PchipInterpolator(points[:, 0], points[:, 1], extrapolate=True)


def open_circuit_voltage(chemistry: Chemistry, charge: Array | float) -> Array:
    """Open-circuit voltage of one cell [V] at a state of charge 0..1 (clipped); monotone piecewise cubic."""
    return np.asarray(_curve(chemistry, "ocv")(np.clip(charge, 0.0, 1.0)), dtype=float)


def arrhenius(chemistry: Chemistry, temperature_c: float) -> float:
    """Factor on the resistance at 25 degC: exp(Ea / R (1/T - 1/T0)); holds from about -30 to 60 degC."""
    energy = CHEMISTRIES[chemistry].activation_j_per_mol
    return float(np.exp(energy / GAS_CONSTANT * (1 / (temperature_c + 273.15) - 1 / REFERENCE_K)))


def resistance_factor(chemistry: Chemistry, charge: Array | float, temperature_c: float = 25.0) -> Array:
    """Factor on the resistance at half charge and 25 degC, over charge (0..1) and temperature [degC]."""
    course = _curve(chemistry, "resistance")(np.clip(charge, 0.0, 1.0))
    return np.asarray(course * arrhenius(chemistry, temperature_c), dtype=float)


def cold_share(chemistry: Chemistry, temperature_c: float) -> float:
    """Share of the printed capacity that is left at a temperature [degC] and a low rate, 0..1."""
    points = CHEMISTRIES[chemistry].cold
    return float(np.interp(temperature_c, [p[0] for p in points], [p[1] for p in points]))


def self_discharge_a(chemistry: Chemistry, capacity_ah: float) -> float:
    """Self-discharge as a current [A] that flows beside the load, at room temperature."""
    return CHEMISTRIES[chemistry].self_discharge_per_month * capacity_ah * 3600 / SECONDS_PER_MONTH
