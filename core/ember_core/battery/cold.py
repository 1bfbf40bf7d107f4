"""What one discharge in the cold tells of a cell that was measured at room temperature: its resistance and its capacity there.

Both are chosen so that the cell of `pack_at` gives the measured discharge back: the resistance by the voltage in the middle, the
capacity by the charge down to the cut-off. Between the two temperatures they go as those of the chemistry do.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..design import Battery, Cell, ColdMeasurement
from ..numeric import Array
from .calibration import Discharge
from .chemistry import spared_v
from .pack import Pack, pack_at, steady_charge_ah

MIDDLE = (0.3, 0.7)  # of the discharge
ROUNDS, HALVINGS = 16, 40
MOST_RESISTANCE, LEAST_CAPACITY = 1000.0, 0.01


def fit_cold(cell: Cell, cut: Discharge, temperature_c: float) -> ColdMeasurement:
    """The factors with which a calibrated cell gives a discharge at a temperature [degC] back, from full down to its cut-off.

    >>> import numpy as np
    >>> from ember_core.battery.calibration import calibrate
    >>> from ember_core.catalogue import built_in
    >>> taken = np.linspace(0, 2.6, 200)
    >>> made = [Discharge(taken / amps * 3600, 4.1 - 0.5 * taken - 0.08 * amps, amps) for amps in (0.2, 1.0)]
    >>> fit = calibrate(made, 2.9, "lithium-ion", 0.05)
    >>> plain = built_in().by_key["cell-cyl-18650"].cell
    >>> cell = plain.model_copy(update={"capacity_ah": fit.capacity_ah, "curve": fit.curve, "cutoff_v": 2.9})
    >>> less = np.linspace(0, 2.2, 200)
    >>> cold = Discharge(less / 0.4 * 3600, 4.1 - 0.5 * less - 0.25 * 0.4 - 0.25 * (less / 2.2) ** 20, 0.4)
    >>> found = fit_cold(cell, cold, -10.0)
    >>> found.resistance_factor > 1.5
    True
    """

    def with_(resistance: float, left: float) -> ColdMeasurement:
        return ColdMeasurement(
            temperature_c=temperature_c, current_a=cut.current_a, resistance_factor=resistance, capacity_left=left
        )

    share = cut.charge_ah / cut.charge_ah[-1]
    middle = (share >= MIDDLE[0]) & (share <= MIDDLE[1])
    resistance, left = 1.0, 1.0

    def too_low(factor: float) -> bool:
        volts = cold_voltage(cell_with(cell, with_(factor, left)), cut)
        return float(np.median((volts - cut.voltage_v)[middle])) < 0

    def enough(factor: float) -> bool:
        pack = alone(cell_with(cell, with_(resistance, factor)), temperature_c)
        return steady_charge_ah(pack, cut.current_a) >= cut.total_ah

    for _ in range(ROUNDS):
        resistance = _first(too_low, 1.0, MOST_RESISTANCE)
        left = _first(enough, LEAST_CAPACITY, 1.0)
    return with_(float(f"{resistance:.4g}"), float(f"{left:.4g}"))


def _first(holds: Callable[[float], bool], low: float, high: float) -> float:
    """Where a condition begins to hold between two factors, on a logarithmic scale; `high` where it never does."""
    for _ in range(HALVINGS):
        between = (low * high) ** 0.5
        low, high = (low, between) if holds(between) else (between, high)
    return high


def cold_voltage(cell: Cell, cut: Discharge) -> Array:
    """The voltage that a cell with a cold measurement has along a discharge there [V], shape (N,).

    >>> import numpy as np
    >>> from ember_core.battery.calibration import calibrate
    >>> from ember_core.catalogue import built_in
    >>> taken = np.linspace(0, 2.6, 200)
    >>> made = [Discharge(taken / amps * 3600, 4.1 - 0.5 * taken - 0.08 * amps, amps) for amps in (0.2, 1.0)]
    >>> fit = calibrate(made, 2.9, "lithium-ion", 0.05)
    >>> plain = built_in().by_key["cell-cyl-18650"].cell
    >>> cell = plain.model_copy(update={"capacity_ah": fit.capacity_ah, "curve": fit.curve, "cutoff_v": 2.9})
    >>> cold = ColdMeasurement(temperature_c=-10.0, current_a=0.4, resistance_factor=2.0, capacity_left=0.9)
    >>> there = Discharge(np.linspace(0, 3600, 5), np.full(5, 3.5), 0.4)
    >>> cold_voltage(cell_with(cell, cold), there).round(2).tolist()
    [4.04, 3.98, 3.93, 3.87, 3.81]
    """
    assert cell.curve is not None
    assert cell.curve.cold is not None
    pack = alone(cell, cell.curve.cold.temperature_c)
    charge, amps = 1 - cut.charge_ah / pack.capacity_ah, cut.current
    volts, ohm, transfer = (
        np.interp(charge, pack.charge[::-1], x[::-1]) for x in (pack.open_circuit_v, pack.steady_ohm, pack.transfer_ohm)
    )
    spared: Array = np.zeros(())
    if pack.transfer_v > 0:
        spared = spared_v(transfer * amps, pack.transfer_v)
    return np.asarray(volts - amps * ohm + spared)


def alone(cell: Cell, temperature_c: float) -> Pack:
    """One cell without any wiring.

    >>> from ember_core.design import Cell
    >>> cell = Cell(name="Cell", chemistry="lithium-ion", form="cylinder", capacity_ah=2.0, resistance_ohm=0.05, cutoff_v=3.0, discharge_max_a=4, size_mm=(18, 65, 18), mass_g=45)
    >>> round(alone(cell, 25.0).capacity_ah, 2), round(alone(cell, -20.0).capacity_ah, 2)
    (1.97, 1.56)
    """
    return pack_at(Battery(cell=cell, wiring_ohm=0), temperature_c)


def cell_with(cell: Cell, cold: ColdMeasurement | None) -> Cell:
    """A calibrated cell with another measurement in the cold.

    >>> import numpy as np
    >>> from ember_core.battery.calibration import calibrate
    >>> from ember_core.catalogue import built_in
    >>> taken = np.linspace(0, 2.6, 200)
    >>> made = [Discharge(taken / amps * 3600, 4.1 - 0.5 * taken - 0.08 * amps, amps) for amps in (0.2, 1.0)]
    >>> fit = calibrate(made, 2.9, "lithium-ion", 0.05)
    >>> plain = built_in().by_key["cell-cyl-18650"].cell
    >>> cell = plain.model_copy(update={"capacity_ah": fit.capacity_ah, "curve": fit.curve, "cutoff_v": 2.9})
    >>> cold = ColdMeasurement(temperature_c=-10.0, current_a=0.4, resistance_factor=2.0, capacity_left=0.9)
    >>> cell_with(cell, cold).curve.cold.capacity_left
    0.9
    """
    assert cell.curve is not None
    return cell.model_copy(update={"curve": cell.curve.model_copy(update={"cold": cold})})
