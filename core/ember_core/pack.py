"""The battery as the supply sees it: a voltage source with a resistance, over the state of charge."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from . import chemistry
from .chemistry import Array
from .design import Battery, Cell


@dataclass(frozen=True)
class Pack:
    """A pack at one temperature, on a grid of states of charge (1 full ... 0 empty), arrays of shape (N,).

    `resistance_ohm` follows the current at once; `slow_ohm` comes on top of it and follows the mean current. `left_behind_h` is the charge that stays inside per ampere of mean current [A h / A].
    """

    charge: Array
    open_circuit_v: Array
    resistance_ohm: Array
    slow_ohm: Array
    left_behind_h: float
    capacity_ah: float
    printed_ah: float
    self_discharge_a: float
    cutoff_v: float
    discharge_max_a: float

    @property
    def steady_ohm(self) -> Array:
        """The resistance as a steady current sees it, slow part included [ohm], (N,)."""
        return self.resistance_ohm + self.slow_ohm


def charge_grid(points: int = 161) -> Array:
    """States of charge from 1 down to 0, denser towards empty, where the voltage falls fastest. Shape (points,)."""
    u = np.linspace(1.0, 0.0, points)
    return np.asarray(0.35 * u + 0.65 * u * u, dtype=float)


def pack_at(battery: Battery, temperature_c: float, grid: Array | None = None) -> Pack:
    """The pack of a design at a temperature [degC]: cells in series add voltage, in parallel divide resistance."""
    cell, s, p = battery.cell, battery.series, battery.parallel
    z = charge_grid() if grid is None else grid
    volts, ohm, fast = _curves(cell, z, temperature_c)
    printed = cell.capacity_ah * p
    return Pack(
        charge=z,
        open_circuit_v=s * volts,
        resistance_ohm=np.asarray(fast * s / p + battery.wiring_ohm),
        slow_ohm=np.asarray((ohm - fast) * s / p),
        left_behind_h=cell.curve.left_behind_h if cell.curve else 0.0,
        capacity_ah=printed * chemistry.cold_share(cell.chemistry, temperature_c),
        printed_ah=printed,
        self_discharge_a=chemistry.self_discharge_a(cell.chemistry, printed),
        cutoff_v=cell.cutoff_v * s,
        discharge_max_a=cell.discharge_max_a * p,
    )


def _curves(cell: Cell, z: Array, temperature_c: float) -> tuple[Array, Array, Array]:
    """(open-circuit voltage [V], resistance [ohm], its fast part [ohm]) of one cell: its own curves, or its chemistry's."""
    curve = cell.curve
    if curve is None:
        ohm = cell.resistance_ohm * chemistry.resistance_factor(cell.chemistry, z, temperature_c)
        return chemistry.open_circuit_voltage(cell.chemistry, z), ohm, ohm
    volts = np.interp(z, curve.charge, curve.open_circuit_v)
    warmth = chemistry.arrhenius(cell.chemistry, temperature_c)
    ohm = np.interp(z, curve.charge, curve.resistance_ohm)
    fast = ohm if curve.fast_ohm is None else np.minimum(ohm, curve.fast_ohm)
    return volts, np.asarray(ohm * warmth), np.asarray(fast * warmth)
