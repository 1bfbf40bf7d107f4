"""Preferred values of resistors and capacitors (IEC 60063:2015)."""

from __future__ import annotations

import math

E24 = (1.0, 1.1, 1.2, 1.3, 1.5, 1.6, 1.8, 2.0, 2.2, 2.4, 2.7, 3.0, 3.3, 3.6, 3.9, 4.3, 4.7, 5.1, 5.6, 6.2, 6.8, 7.5,
       8.2, 9.1)  # fmt: skip


E6 = (1.0, 1.5, 2.2, 3.3, 4.7, 6.8)


def next_e24(ohm: float) -> float:
    """The smallest E24 value that is not below a resistance [ohm] (> 0): less current, the safe side.

    >>> next_e24(4750)
    5100.0
    """
    return _next(ohm, E24)


def previous_e24(ohm: float) -> float:
    """The largest E24 value that is not above a resistance [ohm] (> 0).

    >>> previous_e24(4750)
    4700.0
    """
    above = next_e24(ohm)
    return (
        above
        if above <= ohm * (1 + 1e-9)
        else max(v * 10.0**d for d in (-1, 0) for v in _around(above) if v * 10.0**d < above)
    )


def _around(ohm: float) -> list[float]:
    decade = 10.0 ** math.floor(math.log10(ohm))
    return [float(f"{step * decade:.3g}") for step in E24] + [float(f"{step * decade * 10:.3g}") for step in E24]


def next_e6(farad: float) -> float:
    """The smallest E6 value that is not below a capacitance [F] (> 0).

    >>> next_e6(5e-6)
    6.8e-06
    """
    return _next(farad, E6)


def _next(wanted: float, series: tuple[float, ...]) -> float:
    decade = math.floor(math.log10(wanted))
    for exponent in (decade, decade + 1):
        for step in series:
            value = float(f"{step}e{exponent}")
            if value >= wanted * (1 - 1e-9):
                return value
    raise ValueError(f"no preferred value for {wanted}")
