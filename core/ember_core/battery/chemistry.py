"""Typical behaviour of cell chemistries: open-circuit curve, resistance over charge and temperature, losses.

The figures are in `chemistries.py`.
"""

from __future__ import annotations

from functools import cache, lru_cache

import numpy as np

from ..design import Chemistry
from ..numeric import Array, MonotoneCubic
from .chemistries import CHEMISTRIES

GAS_CONSTANT = 8.314462618  # J / (mol K)
REFERENCE_K = 298.15
SECONDS_PER_MONTH = 30.4375 * 86400
MOST_FADED = 0.95

__all__ = [
    "CHEMISTRIES", "arrhenius", "fade", "low_temperature_factor", "open_circuit_voltage", "resistance_factor", "self_discharge_a",
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
    """Open-circuit voltage of one cell [V] at a state of charge 0..1 (clipped); monotone piecewise cubic."""
    return _at(chemistry, "ocv", charge)


def arrhenius(chemistry: Chemistry, temperature_c: float) -> float:
    """Factor on the resistance at 25 degC: exp(Ea / R (1/T - 1/T0)); holds from about -30 to 60 degC."""
    energy = CHEMISTRIES[chemistry].activation_j_per_mol
    return float(np.exp(energy / GAS_CONSTANT * (1 / (temperature_c + 273.15) - 1 / REFERENCE_K)))


def resistance_factor(chemistry: Chemistry, charge: Array | float, temperature_c: float = 25.0) -> Array:
    """Factor on the resistance at half charge and 25 degC, over charge (0..1) and temperature [degC]."""
    return np.asarray(_at(chemistry, "resistance", charge) * arrhenius(chemistry, temperature_c), dtype=float)


def low_temperature_factor(chemistry: Chemistry, temperature_c: float) -> float:
    """Share of the printed capacity that is left at a temperature [degC] and a low rate, 0..1."""
    points = CHEMISTRIES[chemistry].cold
    return float(np.interp(temperature_c, [p[0] for p in points], [p[1] for p in points]))


def self_discharge_a(chemistry: Chemistry, capacity_ah: float, temperature_c: float = 20.0) -> float:
    """Self-discharge as a current [A] that flows beside the load; it doubles every 10 degC (-20 to 60 degC)."""
    warmth = 2 ** ((float(np.clip(temperature_c, -20, 60)) - 20) / 10)
    return CHEMISTRIES[chemistry].self_discharge_per_month * warmth * capacity_ah * 3600 / SECONDS_PER_MONTH


def fade(chemistry: Chemistry, years: float, cycles: float, temperature_c: float = 25.0) -> tuple[float, float]:
    """(share of the capacity that is left, factor on the resistance) after years and full charges.

    Rechargeable: 1 - a sqrt(years) - b cycles, with a by Arrhenius (M. Schmalstieg et al., J. Power Sources 257 (2014)
    325; the figures are typical, a factor of two between makes). Primary cells: what self-discharge takes in the drawer.
    """
    data = CHEMISTRIES[chemistry]
    if data.rechargeable:
        warmth = 1 / arrhenius(chemistry, temperature_c)
        lost = data.fade_year * warmth * np.sqrt(years) + data.fade_cycle * cycles
    else:
        lost = years * 12 * self_discharge_a(chemistry, 1.0, temperature_c) * SECONDS_PER_MONTH / 3600
    lost = float(min(lost, MOST_FADED))
    return 1 - lost, 1 + data.growth * lost / (1 - lost)
