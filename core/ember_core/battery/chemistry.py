"""Typical behaviour of cell chemistries: open-circuit curve, resistance over charge and temperature, losses.

The figures are in `chemistries.py`.
"""

from __future__ import annotations

import math
from functools import cache, lru_cache

import numpy as np

from ..design import Cell, Chemistry
from ..numeric import Array, MonotoneCubic
from .chemistries import CHEMISTRIES

GAS_CONSTANT = 8.314462618  # J / (mol K)
FARADAY = 96485.33212  # C / mol
REFERENCE_K = 298.15
SECONDS_PER_MONTH = 30.4375 * 86400

__all__ = [
    "CHEMISTRIES", "arrhenius", "diffusion_factor", "full_v", "highest_v", "low_temperature_factor", "open_circuit_voltage", "resistance_at", "resistance_factor",
    "self_discharge_a", "thermal_v",
]  # fmt: skip


@cache
def _curve(chemistry: Chemistry, which: str) -> MonotoneCubic:
    points = np.asarray(getattr(CHEMISTRIES[chemistry], which), dtype=float)
    return MonotoneCubic.through(points[:, 0], points[:, 1])


def _at(chemistry: Chemistry, which: str, charge: Array | float) -> Array:
    """A curve at states of charge 0..1 (clipped)."""
    z = np.asarray(charge, dtype=float)
    return _tabulated(chemistry, which, z.tobytes()).reshape(z.shape)


@lru_cache(maxsize=64)
def _tabulated(chemistry: Chemistry, which: str, charge: bytes) -> Array:
    """The same few grids are asked for again and again."""
    values = np.asarray(_curve(chemistry, which)(np.clip(np.frombuffer(charge), 0.0, 1.0)), dtype=float)
    values.flags.writeable = False
    return values


def open_circuit_voltage(chemistry: Chemistry, charge: Array | float) -> Array:
    """Open-circuit voltage of one cell [V] at a state of charge 0..1 (clipped); monotone piecewise cubic.

    >>> round(float(open_circuit_voltage("lithium-ion", 0.5)), 3)
    3.76
    """
    return _at(chemistry, "ocv", charge)


def full_v(cell: Cell) -> float | None:
    """The voltage that a charger holds a cell at [V]: its own, or its chemistry's; None where it must not be held at a voltage.

    >>> from ember_core.catalogue import built_in
    >>> cell = built_in().by_key["cell-cyl-18650"].cell
    >>> full_v(cell)
    4.2
    """
    usual = CHEMISTRIES[cell.chemistry].charge_v
    return usual if usual is None or cell.full_v is None else cell.full_v


def highest_v(cell: Cell) -> float | None:
    """The most that a charger may hold a cell at [V], the tolerance of its reference aside: iron phosphate cells are full at 3.6 V and stand 3.65 V.

    >>> from ember_core.catalogue import built_in
    >>> cell = built_in().by_key["cell-cyl-18650"].cell
    >>> highest_v(cell)
    4.2
    """
    usual = full_v(cell)
    return (
        usual
        if usual is None or cell.full_v is not None
        else max(usual, CHEMISTRIES[cell.chemistry].charge_most_v or 0.0)
    )


def _arrhenius(energy_j_per_mol: float, temperature_c: float) -> float:
    return math.exp(energy_j_per_mol / GAS_CONSTANT * (1 / (temperature_c + 273.15) - 1 / REFERENCE_K))


def arrhenius(chemistry: Chemistry, temperature_c: float) -> float:
    """Factor on the ohmic resistance at 25 degC: exp(Ea / R (1/T - 1/T0)); holds from about -30 to 60 degC.

    >>> round(arrhenius("lithium-ion", 0.0), 2)
    2.81
    """
    return _arrhenius(CHEMISTRIES[chemistry].activation_j_per_mol, temperature_c)


def diffusion_factor(chemistry: Chemistry, temperature_c: float) -> float:
    """Factor on the unavailable charge at 25 degC.

    >>> round(diffusion_factor("lithium-ion", 0.0), 2)
    3.03
    """
    return _arrhenius(CHEMISTRIES[chemistry].diffusion_j_per_mol, temperature_c)


def resistance_at(chemistry: Chemistry, temperature_c: float) -> tuple[float, float]:
    """(factor on a cell's whole resistance at 25 degC, share in it of what cold adds to the charge transfer, 0..1). At 25 degC
    resistances are known at usual currents; only what is added depends on the current as charge transfer does.

    >>> [round(x, 2) for x in resistance_at("lithium-ion", 0.0)]
    [3.43, 0.31]
    """
    share, energy = CHEMISTRIES[chemistry].transfer
    transfer = share * _arrhenius(energy, temperature_c)
    whole = (1 - share) * arrhenius(chemistry, temperature_c) + transfer
    return whole, max(transfer - share, 0.0) / whole


def thermal_v(temperature_c: float) -> float:
    """R T / F [V]: 25.7 mV at 25 degC.

    >>> round(thermal_v(25.0), 4)
    0.0257
    """
    return GAS_CONSTANT * (temperature_c + 273.15) / FARADAY


def spared_v(linear_v: Array, volts: float) -> Array:
    """What a charge transfer drops less than the voltage that its resistance at small currents would [V], any shape: Butler
    and Volmer's law for equal transfer coefficients (Plett (2015), ch. 3); `volts` is the thermal voltage of all cells in series.

    >>> import numpy as np
    >>> bool(spared_v(np.array(0.2), thermal_v(0.0)) < 0.2)
    True
    >>> float(spared_v(np.array(0.0), thermal_v(0.0)))
    0.0
    """
    return np.asarray(linear_v - 2 * volts * np.arcsinh(linear_v / (2 * volts)))


def resistance_factor(chemistry: Chemistry, charge: Array | float, temperature_c: float = 25.0) -> Array:
    """Factor on the resistance at half charge and 25 degC, over charge (0..1) and temperature [degC], at small currents.

    >>> round(float(resistance_factor("lithium-ion", 0.1)), 2)
    1.5
    """
    return np.asarray(_at(chemistry, "resistance", charge) * resistance_at(chemistry, temperature_c)[0], dtype=float)


def low_temperature_factor(chemistry: Chemistry, temperature_c: float) -> float:
    """Share of the rated capacity that is left at a temperature [degC] and the lowest rates, 0..1.

    >>> round(low_temperature_factor("lithium-ion", -20.0), 2)
    0.79
    """
    points = CHEMISTRIES[chemistry].cold
    return float(np.interp(temperature_c, [p[0] for p in points], [p[1] for p in points]))


def self_discharge_a(chemistry: Chemistry, capacity_ah: float, temperature_c: float = 20.0) -> float:
    """Self-discharge as a current [A] that flows beside the load; it doubles every 10 degC (-20 to 60 degC).

    >>> f"{self_discharge_a('lithium-ion', 1.0):.3g}"
    '1.37e-05'
    """
    warmth = 2 ** ((float(np.clip(temperature_c, -20, 60)) - 20) / 10)
    return CHEMISTRIES[chemistry].self_discharge_per_month * warmth * capacity_ah * 3600 / SECONDS_PER_MONTH
