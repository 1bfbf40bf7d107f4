"""The battery as the supply sees it: a voltage source with a resistance, over the state of charge."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from . import chemistry
from .chemistry import Array
from .design import Battery


@dataclass(frozen=True)
class Pack:
    """A pack at one temperature, on a grid of states of charge (1 full ... 0 empty), arrays of shape (N,)."""

    charge: Array
    open_circuit_v: Array
    resistance_ohm: Array
    capacity_ah: float
    printed_ah: float
    self_discharge_a: float
    cutoff_v: float
    discharge_max_a: float


def charge_grid(points: int = 161) -> Array:
    """States of charge from 1 down to 0, denser towards empty, where the voltage falls fastest. Shape (points,)."""
    u = np.linspace(1.0, 0.0, points)
    return np.asarray(0.35 * u + 0.65 * u * u, dtype=float)


def pack_at(battery: Battery, temperature_c: float, grid: Array | None = None) -> Pack:
    """The pack of a design at a temperature [degC]: cells in series add voltage, in parallel divide resistance."""
    cell, s, p = battery.cell, battery.series, battery.parallel
    z = charge_grid() if grid is None else grid
    growth = chemistry.resistance_factor(cell.chemistry, z, temperature_c)
    printed = cell.capacity_ah * p
    return Pack(
        charge=z,
        open_circuit_v=s * chemistry.open_circuit_voltage(cell.chemistry, z),
        resistance_ohm=np.asarray(cell.resistance_ohm * growth * s / p + battery.wiring_ohm),
        capacity_ah=printed * chemistry.cold_share(cell.chemistry, temperature_c),
        printed_ah=printed,
        self_discharge_a=chemistry.self_discharge_a(cell.chemistry, printed),
        cutoff_v=cell.cutoff_v * s,
        discharge_max_a=cell.discharge_max_a * p,
    )
