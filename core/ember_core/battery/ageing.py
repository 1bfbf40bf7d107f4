"""What years, charges and storage do to a cell.

Lithium-ion by the calendar: the capacity lost is (7.543 V − 23.75) 10⁶ exp(−6976 / T) t^0.75, with the cell's voltage V [V], T in
kelvin and t in days (M. Schmalstieg, S. Käbitz, M. Ecker, D. U. Sauer, J. Power Sources 257 (2014) 325, fitted to a
nickel-manganese-cobalt cell; makes differ by a factor of two). The other rechargeable kinds have the same course in time and
temperature with a first year of their own, which is a rule of thumb, as is what a full charge takes.
"""

from __future__ import annotations

import math

from ..design import Chemistry
from .chemistries import CHEMISTRIES
from .chemistry import REFERENCE_K, SECONDS_PER_MONTH, self_discharge_a

USUAL_V = 3.95  # a lithium-ion cell that is charged now and then, on average
TIME_POWER, ACTIVATION_K = 0.75, 6976.0
DAYS_PER_YEAR = 365.25
MOST_FADED = 0.95


def calendar_loss(volts: float, temperature_c: float, years: float) -> float:
    """Share of a lithium-ion cell's capacity that is lost lying at a voltage [V] and a temperature [degC], 0..1.

    >>> round(calendar_loss(3.7, 25.0, 1.0), 4)
    0.024
    """
    slope = max(7.543 * volts - 23.75, 0.0) * 1e6
    lost = slope * math.exp(-ACTIVATION_K / (temperature_c + 273.15)) * math.pow(years * DAYS_PER_YEAR, TIME_POWER)
    return min(lost, MOST_FADED)


def fade(chemistry: Chemistry, years: float, cycles: float, temperature_c: float = 25.0) -> tuple[float, float]:
    """(share of the capacity that is left, factor on the resistance) after years and full charges. Primary cells: what
    self-discharge takes in the drawer.

    >>> [round(x, 3) for x in fade("lithium-iron-phosphate", 2.0, 500.0)]
    [0.908, 1.152]
    """
    data = CHEMISTRIES[chemistry]
    if not data.rechargeable:
        lost = years * 12 * self_discharge_a(chemistry, 1.0, temperature_c) * SECONDS_PER_MONTH / 3600
    elif chemistry == "lithium-ion":
        lost = calendar_loss(USUAL_V, temperature_c, years) + data.fade_cycle * cycles
    else:
        warmth = math.exp(ACTIVATION_K * (1 / REFERENCE_K - 1 / (temperature_c + 273.15)))
        lost = data.fade_year * warmth * math.pow(years, TIME_POWER) + data.fade_cycle * cycles
    lost = min(lost, MOST_FADED)
    return 1 - lost, 1 + data.growth * lost / (1 - lost)
