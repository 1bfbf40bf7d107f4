"""What is known of a chemistry."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass


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
