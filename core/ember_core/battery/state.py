"""The battery from moment to moment: how full it is, what it still feels of the current before, and the voltage that comes of both.

Charge is what the stretches of current take; the relaxation follows by its own equations, one for each of its filters
(`relaxation.py`). What is here needs the currents; where they depend on the voltage, who asks goes in steps.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..numeric import Array
from .chemistry import spared_v
from .pack import Pack

FEW_STEPS = 24  # that are taken one after the other


@dataclass(frozen=True)
class BatteryState:
    """`charge`, 1 full ... 0 empty, and what each filter of the relaxation feels of the current [A], shape (filters,)."""

    charge: float
    filters_a: Array


@dataclass(frozen=True)
class Stretches:
    """What stretches of constant current leave, one after the other; arrays of shape (stretches,): state of charge, what the relaxation
    has come to feel [A], and that filter by filter, shape (filters, stretches)."""

    charge: Array
    felt_a: Array
    filters_a: Array

    def state(self, stretch: int) -> BatteryState:
        """The battery after one of them."""
        return BatteryState(float(self.charge[stretch]), self.filters_a[:, stretch].copy())


def settled_at(pack: Pack, charge: float = 1.0, felt_a: float = 0.0) -> BatteryState:
    """A battery that has come to feel a steady current [A]; none: at rest.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.design import Battery
    >>> battery = Battery(cell=built_in().by_key["cell-cyl-18650"].cell, series=1)
    >>> from ember_core.battery.pack import pack_at
    >>> state = settled_at(pack_at(battery, 20.0), 0.5, 0.1)
    >>> state.charge, float(state.filters_a[0])
    (0.5, 0.1)
    """
    return BatteryState(charge, np.full(pack.relaxation.time_s.size, felt_a))


def after(pack: Pack, before: BatteryState, amps: Array, seconds: Array) -> Stretches:
    """The battery after each of some stretches of current [A] that last so long [s], self-discharge included; shapes (stretches,).

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.design import Battery
    >>> battery = Battery(cell=built_in().by_key["cell-cyl-18650"].cell, series=1)
    >>> import numpy as np
    >>> from ember_core.battery.pack import pack_at
    >>> pack = pack_at(battery, 20.0)
    >>> after(pack, settled_at(pack), np.array([1.0]), np.array([3600.0])).charge.round(2).tolist()
    [0.61]
    """
    taken = np.cumsum((amps + pack.self_discharge_a) * seconds) / (pack.capacity_ah * 3600)
    filters = followed(amps, seconds, before.filters_a, pack.relaxation.time_s)
    return Stretches(before.charge - taken, pack.relaxation.weight @ filters, filters)


def terminal_v(pack: Pack, charge: Array, felt_a: Array, amps: Array) -> Array:
    """Voltage at the terminals [V] at states of charge, under currents [A] and what the relaxation feels of those before [A]; all of
    one shape. Where the electrode's surface decides, it is that of the charge there.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.design import Battery
    >>> battery = Battery(cell=built_in().by_key["cell-cyl-18650"].cell, series=1)
    >>> import numpy as np
    >>> from ember_core.battery.pack import pack_at
    >>> pack = pack_at(battery, 20.0)
    >>> terminal_v(pack, np.array([0.5]), np.array([0.0]), np.array([1.0])).round(2).tolist()
    [3.66]
    """
    rising = pack.charge[::-1]
    surface = charge - pack.unavailable_ah(felt_a) / pack.capacity_ah if pack.surface else charge
    ocv, ohm = (np.interp(surface, rising, x[::-1]) for x in (pack.open_circuit_v, pack.resistance_ohm))
    slow = np.interp(charge, rising, pack.polarization_ohm[::-1])
    volts = ocv - ohm * amps - slow * felt_a
    if pack.transfer_v > 0:
        volts += spared_v(np.interp(charge, rising, pack.transfer_ohm[::-1]) * amps, pack.transfer_v)
    return np.asarray(volts)


def lasting_s(pack: Pack, before: BatteryState, amps: Array, seconds: Array) -> float | None:
    """How long a battery gives currents [A] that last so long each [s]: until the end of the first stretch that it is below its cut-off or
    empty at, to a straight line within it; None where it gives them all.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.design import Battery
    >>> battery = Battery(cell=built_in().by_key["cell-cyl-18650"].cell, series=1)
    >>> import numpy as np
    >>> from ember_core.battery.pack import pack_at
    >>> pack = pack_at(battery, 20.0)
    >>> lasting_s(pack, settled_at(pack), np.array([0.5]), np.array([3600.0])) is None
    True
    """
    then = after(pack, before, amps, seconds)
    spare_v = terminal_v(pack, then.charge, then.felt_a, amps) - pack.cutoff_v
    spare_ah = then.charge * pack.capacity_ah - pack.unavailable_ah(then.felt_a)
    over = np.flatnonzero((spare_v < 0) | (spare_ah < 0))
    if not over.size:
        return None
    k = int(over[0])
    ends = np.cumsum(seconds)
    if k == 0 or amps[k - 1] != amps[k] or spare_ah[k] < 0:
        return float(ends[k])
    return float(ends[k] - seconds[k] * spare_v[k] / (spare_v[k] - spare_v[k - 1]))


def followed(amps: Array, seconds: Array, start_a: Array, time_s: Array) -> Array:
    """What filters feel after each stretch [A]: x <- a + (x - a) exp(-t / tau); shape (filters, stretches) for arrays of shape
    (stretches,) and (filters,).

    >>> import numpy as np
    >>> followed(np.array([1.0, 0.0]), np.array([100.0, 100.0]), np.array([0.0]), np.array([100.0])).round(3).tolist()
    [[0.632, 0.233]]
    """
    kept = np.exp(-seconds / time_s[:, None])
    return _carried(kept, amps * (1 - kept), start_a)


def _carried(kept: Array, added: Array, start: Array) -> Array:
    """x <- kept x + added, step by step; shape (filters, steps). Rows of steps go side by side, each from 0, and then what came before
    each row, found in the same way, is added."""
    filters, count = kept.shape
    if count <= FEW_STEPS:
        found = np.empty_like(added)
        for k in range(count):
            start = found[:, k] = kept[:, k] * start + added[:, k]
        return found
    length = max(FEW_STEPS // 2, int(np.ceil(count ** (1 / 3))))
    rows = -(-count // length)
    padded = np.zeros((2, filters, rows * length))
    padded[0, :, :count], padded[1, :, :count] = kept, added
    own, found = padded.reshape(2, filters, rows, length).transpose(0, 3, 1, 2).copy()
    for k in range(1, length):
        found[k] += found[k - 1] * own[k]
        own[k] *= own[k - 1]
    ends = _carried(own[-1], found[-1], start)
    found += own * np.concatenate([start[:, None], ends[:, :-1]], axis=1)
    return np.asarray(found.transpose(1, 2, 0).reshape(filters, -1)[:, :count])
