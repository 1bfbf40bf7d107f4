"""The battery as the supply sees it: a voltage source with a resistance, over the state of charge."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cache

import numpy as np

from ..design import Bank, Battery, Cell
from ..numeric import Array
from . import chemistry
from .ageing import fade
from .chemistry import CHEMISTRIES
from .relaxation import Relaxation, diffusion, first_order

SALVAGED_SHARE, SALVAGED_OHM = 0.7, 2.0  # of a used cell that nobody measured; factor on its resistance
SALVAGED_TOLERANCE = (-0.4, 0.3)
MEASURED_TOLERANCE = (-0.03, 0.03)
GRID_POINTS = 81  # states of charge of what ends near empty: within 0.1 % of the runtime
FINE_POINTS = 241  # of what ends early, where a little of the charge is much of the runtime
NEARLY_FULL = (0.9998, 0.999, 0.997, 0.9935)
THICK_ELECTRODES_H = 0.04  # unavailable per ampere; between the published sets of one such cell (docs/VALIDATION.md)
LEAST_LEFT = 0.02  # of the capacity, in whatever cold
SAME_SIDE_MM = 1e-3
BARE_V = 0.001  # what an emptied super-capacitor is reckoned with
ROW = 4  # cylinders from which on two layers are made
RESISTANCE, MEASURED_RESISTANCE = (
    1.4,
    1.1,
)  # 10th to 50th to 90th percentile as a factor: between makes, and of a cell that was measured; rules of thumb
OUTER_DECILE = 1.2816  # standard deviations from the mean to the 10th and 90th percentile


@dataclass(frozen=True)
class Share:
    """A step from the printed capacity downwards: what of the step before is left, 0..1 (a good cell may have more)."""

    key: str
    left: float


@dataclass(frozen=True)
class Pack:
    """A pack at one temperature, on a grid of states of charge (1 full ... 0 empty), arrays of shape (N,).

    `resistance_ohm` follows the current at once; `polarization_ohm` comes on top of it and follows what `relaxation` has come to
    feel of the current, as does the charge that the cell cannot bring up, `unavailable_ah`. Where the
    `surface` decides, the voltage is that of the state of charge at the electrode's surface, which lies below the mean one by
    the unavailable charge; a measured curve has that in it already. `transfer_ohm`, shape (N,), is what cold adds to the charge
    transfer in `resistance_ohm` at small currents, and all of it for a cell that three discharges told; at large ones it drops less,
    2 v asinh(I R / 2 v) with the thermal voltage `transfer_v` [V] of all cells in series (Butler and Volmer's law for equal
    transfer coefficients; Plett (2015), ch. 3). `shares` lead from the printed capacity to `capacity_ah`.
    """

    charge: Array
    open_circuit_v: Array
    resistance_ohm: Array
    polarization_ohm: Array
    unavailable_h: float
    unavailable_rise: float
    relaxation: Relaxation
    surface: bool
    transfer_ohm: Array
    transfer_v: float
    shares: tuple[Share, ...]
    capacity_ah: float
    printed_ah: float
    self_discharge_a: float
    cutoff_v: float
    discharge_max_a: float

    @property
    def steady_ohm(self) -> Array:
        """The resistance as a steady current sees it, polarization included [ohm], (N,)."""
        return self.resistance_ohm + self.polarization_ohm

    def unavailable_ah(self, filtered_a: Array) -> Array:
        """Charge that the cell cannot bring up [A h] at what relaxation feels of the current [A]; any shape: `unavailable_h` per ampere,
        and `unavailable_rise` more of it for each ampere."""
        return np.asarray((self.unavailable_h + self.unavailable_rise * filtered_a) * filtered_a)

    def transfer_spared_v(self, current_a: Array) -> Array:
        """What the charge transfer drops less than its resistance at small currents would [V]; shape (rows, N) or what spreads
        to it."""
        return chemistry.spared_v(self.transfer_ohm * current_a, self.transfer_v)

    def lowered_v(self, filtered_a: Array, current_a: Array, rate: float = 1.0) -> Array:
        """What relaxation takes off the open-circuit voltage [V] besides the resistance's own drop; shape (rows, N), for a
        filtered and a present current of that shape or one that spreads to it. `rate` is a factor on the unavailable charge."""
        lowered = self.polarization_ohm * filtered_a
        if not self.surface:
            return np.asarray(lowered)
        surface = self.charge - rate * self.unavailable_ah(filtered_a) / self.capacity_ah
        rising = self.charge[::-1]
        volts = np.interp(surface, rising, self.open_circuit_v[::-1])
        ohm = np.interp(surface, rising, self.resistance_ohm[::-1])
        return np.asarray(lowered + (self.open_circuit_v - volts) + (ohm - self.resistance_ohm) * current_a)


def pack_size_mm(cell: Cell, count: int) -> tuple[float, float, float]:
    """Room of so many cells [mm]: pouches and coins on each other, the others beside each other, from four on in two
    layers.

    >>> from ember_core.catalogue import built_in
    >>> cell = built_in().by_key["cell-aa-alkaline"].cell
    >>> pack_size_mm(cell, 2)
    (29.0, 50.5, 14.5)
    """
    x, y, z = cell.size_mm
    if cell.form == "pouch":
        return x, y, z * count
    if cell.form == "coin":
        thin = int(np.argmin(cell.size_mm))
        sizes = [v * count if i == thin else v for i, v in enumerate(cell.size_mm)]
        return sizes[0], sizes[1], sizes[2]
    layers = 1 if count < ROW else 2
    return x * math.ceil(count / layers), y, z * layers


def pack_is_round(cell: Cell, count: int) -> bool:
    """Whether the room of so many cells is a cylinder: coins on each other, a single round cell; their sides must be so.

    >>> from ember_core.catalogue import built_in
    >>> cell = built_in().by_key["cell-aa-alkaline"].cell
    >>> pack_is_round(cell, 1), pack_is_round(cell, 2)
    (True, False)
    """
    a, b, c = sorted(cell.size_mm)
    alike = min(b - a, c - b) <= SAME_SIDE_MM
    return alike and (cell.form == "coin" or (cell.form == "cylinder" and count == 1))


def charge_grid(points: int = GRID_POINTS) -> Array:
    """States of charge from 1 down to 0, denser towards empty, where the voltage falls fastest; one of them is half. Shape (points,).

    >>> len(charge_grid()), float(charge_grid()[0]), float(charge_grid()[-1])
    (81, 1.0, 0.0)
    """
    u = np.linspace(1.0, 0.0, points)
    z = np.asarray(0.35 * u + 0.65 * u * u, dtype=float)
    z[np.argmin(np.abs(z - 0.5))] = 0.5
    return z


def resting_v(cell: Cell, charge: float) -> float:
    """Voltage of one cell without load at a state of charge 0..1 [V]; a power bank's is its output.

    >>> from ember_core.catalogue import built_in
    >>> cell = built_in().by_key["cell-cyl-18650"].cell
    >>> [round(resting_v(cell, charge), 2) for charge in (0.0, 0.5, 1.0)]
    [3.0, 3.76, 4.2]
    """
    if cell.bank is not None:
        return cell.bank.output_v
    if cell.curve is not None:
        return float(np.interp(charge, cell.curve.soc, cell.curve.open_circuit_v))
    return float(_typical_v(cell, np.asarray(charge)))


def kept_below_cutoff(cell: Cell) -> float:
    """The share of a super-capacitor's charge that lies below its cut-off, whatever its size; of a cell practically nothing does.

    >>> from ember_core.catalogue import built_in
    >>> cell = built_in().by_key["cell-cyl-18650"].cell
    >>> round(kept_below_cutoff(cell), 3)
    0.0
    """
    full = chemistry.full_v(cell)
    return min(cell.cutoff_v / full, 1.0) if cell.chemistry == "super-capacitor" and full else 0.0


def _typical_v(cell: Cell, z: Array) -> Array:
    """The chemistry's open-circuit voltage [V]; of a lithium-ion cell that is full at another voltage all the way up to that one."""
    volts, full = chemistry.open_circuit_voltage(cell.chemistry, z), chemistry.full_v(cell)
    if cell.chemistry == "super-capacitor" and full is not None:  # in proportion to its charge
        return np.maximum(full * z, BARE_V)
    if cell.chemistry != "lithium-ion" or cell.full_v is None or full is None:
        return volts
    return np.asarray(volts + (full - (CHEMISTRIES[cell.chemistry].charge_v or full)) * z)


def capacity_tolerance(cell: Cell) -> tuple[float, float]:
    """By how much the real capacity may differ from the one that is reckoned with (low, high), as shares.

    >>> from ember_core.catalogue import built_in
    >>> cell = built_in().by_key["cell-aa-alkaline"].cell
    >>> [round(share, 3) for share in capacity_tolerance(cell)]
    [-0.088, 0.088]
    """
    if is_measured(cell):
        return MEASURED_TOLERANCE
    if cell.condition == "salvaged":
        return SALVAGED_TOLERANCE
    usual = usual_share(cell)
    low, high = CHEMISTRIES[cell.chemistry].tolerance
    return (1 + low) / usual - 1, (1 + high) / usual - 1


def is_measured(cell: Cell) -> bool:
    """Its capacity is not just what is printed on it.

    >>> from ember_core.catalogue import built_in
    >>> cell = built_in().by_key["cell-aa-alkaline"].cell
    >>> is_measured(cell), is_measured(cell.model_copy(update={"measured_ah": 2.4}))
    (False, True)
    """
    return cell.measured_ah is not None or cell.curve is not None


def usual_share(cell: Cell) -> float:
    """What cells of a kind usually have of what is printed on them: the middle of their spread.

    >>> from ember_core.catalogue import built_in
    >>> cell = built_in().by_key["cell-aa-alkaline"].cell
    >>> round(usual_share(cell), 3)
    0.965
    """
    low, high = CHEMISTRIES[cell.chemistry].tolerance
    return 1 + (low + high) / 2


def cell_spread(battery: Battery) -> float:
    """Spread of the cells' capacity around their mean, one standard deviation as a share.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.design import Battery
    >>> battery = Battery(cell=built_in().by_key["cell-aa-alkaline"].cell, series=2)
    >>> round(cell_spread(battery), 3)
    0.066
    """
    if battery.spread is not None:
        return battery.spread
    low, high = CHEMISTRIES[battery.cell.chemistry].tolerance
    if battery.cell.condition == "salvaged" and not battery.cell.measured_ah:
        low, high = SALVAGED_TOLERANCE
    return (high - low) / 2 / OUTER_DECILE * (2.0 if battery.mixed else 1.0)


@cache
def weakest_of(count: int) -> float:
    """By how many standard deviations the weakest of `count` alike things lies below the mean, on average (0.564 for 2).

    E[max] of n standard normal values: H. A. David and H. N. Nagaraja, *Order Statistics*, 3rd ed. (2003), sec. 3.1.

    >>> round(weakest_of(3), 3)
    0.846
    """
    if count == 1:
        return 0.0
    x = np.linspace(-9, 9, 4001)
    below = np.array([math.erfc(-v / math.sqrt(2)) / 2 for v in x])
    density = np.exp(-x * x / 2) / np.sqrt(2 * np.pi)
    return float(np.trapezoid(x * count * density * below ** (count - 1), x))


def capacity_shares(battery: Battery, temperature_c: float) -> tuple[Share, ...]:
    """What of the printed capacity is left, step by step: at the output of a power bank, really there, after years, in
    the weakest cell in series, in the cold.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.design import Battery
    >>> battery = Battery(cell=built_in().by_key["cell-cyl-18650"].cell, series=1)
    >>> [(share.key, round(share.left, 2)) for share in capacity_shares(battery, -10.0)]
    [('printed', 0.98), ('temperature', 0.91)]
    """
    cell = battery.cell
    steps = []
    if cell.bank is not None:
        steps.append(Share("bank", cell.bank.efficiency * cell.bank.cell_v / cell.bank.output_v))
    if cell.measured_ah is not None:
        steps.append(Share("measured", cell.measured_ah / cell.capacity_ah))
    elif cell.condition == "salvaged":
        steps.append(Share("salvaged", SALVAGED_SHARE))
    elif not is_measured(cell):
        steps.append(Share("printed", usual_share(cell)))
    if battery.age_years or battery.cycles:
        steps.append(Share("age", fade(cell.chemistry, battery.age_years, battery.cycles, temperature_c)[0]))
    if battery.series > 1:
        # cells in parallel even each other out before the weakest group counts
        spread = cell_spread(battery) / battery.parallel**0.5
        steps.append(Share("weakest", max(1 - spread * weakest_of(battery.series), 0.05)))
    steps.append(Share("temperature", cold_left(cell, temperature_c)))
    return tuple(steps)


def cold_left(cell: Cell, temperature_c: float) -> float:
    """Share of the capacity that a temperature [degC] leaves at the lowest rates: of a cell that was measured in the cold, what it loses
    grows as that of its chemistry does.

    >>> from ember_core.catalogue import built_in
    >>> cell = built_in().by_key["cell-cyl-18650"].cell
    >>> [round(cold_left(cell, celsius), 2) for celsius in (25.0, 0.0, -20.0)]
    [1.0, 0.97, 0.79]
    """
    left = chemistry.low_temperature_factor(cell.chemistry, temperature_c)
    if cell.curve is None or cell.curve.cold is None:
        return left
    lost = 1 - chemistry.low_temperature_factor(cell.chemistry, cell.curve.cold.temperature_c)
    return max(1 - (1 - left) * (1 - cell.curve.cold.capacity_left) / lost, LEAST_LEFT) if lost > 0 else left


def cold_resistance(cell: Cell, temperature_c: float) -> float:
    """Factor on the resistance at 25 degC: of a cell that was measured in the cold, its logarithm grows as that of its chemistry does.

    >>> from ember_core.catalogue import built_in
    >>> cell = built_in().by_key["cell-cyl-18650"].cell
    >>> [round(cold_resistance(cell, celsius), 1) for celsius in (25.0, 0.0, -20.0)]
    [1.0, 3.4, 11.9]
    """
    factor = chemistry.resistance_at(cell.chemistry, temperature_c)[0]
    if cell.curve is None or cell.curve.cold is None:
        return factor
    measured = cell.curve.cold
    usual = chemistry.resistance_at(cell.chemistry, measured.temperature_c)[0]
    return float(factor ** (math.log(measured.resistance_factor) / math.log(usual)))


def steady_charge_ah(pack: Pack, current_a: float) -> float:
    """The charge that a steady current takes out of a full pack down to its cut-off [A h].

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.design import Battery
    >>> battery = Battery(cell=built_in().by_key["cell-coin-2032"].cell, series=1)
    >>> pack = pack_at(battery, 20.0)
    >>> [round(steady_charge_ah(pack, amps), 3) for amps in (0.0002, 0.005)]
    [0.225, 0.153]
    """
    amps = np.asarray(current_a)
    volts = pack.open_circuit_v - pack.lowered_v(amps, amps) - current_a * pack.resistance_ohm
    if pack.transfer_v > 0:
        volts = volts + pack.transfer_spared_v(amps)
    below = np.flatnonzero(volts <= pack.cutoff_v)
    end = 0.0
    if below.size:
        k = int(below[0])
        if k == 0:
            return 0.0
        end = float(np.interp(pack.cutoff_v, volts[[k, k - 1]], pack.charge[[k, k - 1]]))
    end = max(end, float(pack.unavailable_ah(amps)) / pack.capacity_ah)
    return pack.capacity_ah * max(1 - end, 0.0)


def pack_at(battery: Battery, temperature_c: float, grid: Array | None = None, points: int = GRID_POINTS) -> Pack:
    """The pack of a design at a temperature [degC], on states of charge of its own or so many: cells in series add voltage, in parallel divide
    resistance.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.design import Battery
    >>> battery = Battery(cell=built_in().by_key["cell-cyl-18650"].cell, series=2)
    >>> pack = pack_at(battery, 20.0)
    >>> round(pack.cutoff_v, 2), round(float(pack.open_circuit_v[0]), 2)
    (5.5, 8.4)
    """
    cell, s, p = battery.cell, battery.series, battery.parallel
    data, bank, guard = CHEMISTRIES[cell.chemistry], cell.bank, battery.protection
    printed = cell.capacity_ah * p
    shares = capacity_shares(battery, temperature_c)
    own = chemistry.self_discharge_a(cell.chemistry, printed, temperature_c)
    warmth = chemistry.arrhenius(cell.chemistry, temperature_c)
    unavailable_h = unavailable_h_of(cell) * chemistry.diffusion_factor(cell.chemistry, temperature_c)
    surface = cell.curve is None and unavailable_h > 0
    z = charge_grid(points) if grid is None else grid
    if surface and grid is None:  # the voltage falls with the root of time at first
        z = np.concatenate([z[:1], NEARLY_FULL, z[1:]])
    curves = _pack_curves(battery, temperature_c, z)
    return Pack(
        charge=z,
        open_circuit_v=curves.open_circuit_v,
        resistance_ohm=curves.resistance_ohm,
        polarization_ohm=curves.polarization_ohm,
        unavailable_h=unavailable_h,
        unavailable_rise=_unavailable_rise(cell) / p,
        relaxation=diffusion(unavailable_h * 3600) if surface else first_order(data.relaxation_h * 3600 * warmth),
        surface=surface,
        transfer_ohm=curves.transfer_ohm,
        transfer_v=s * chemistry.thermal_v(temperature_c) if np.any(curves.transfer_ohm > 0) else 0.0,
        shares=shares,
        capacity_ah=printed * math.prod(x.left for x in shares),
        printed_ah=printed,
        self_discharge_a=_bank_own_a(bank, own) * p if bank else own + (guard.own_a if guard else 0.0),
        cutoff_v=max(cell.cutoff_v, guard.cut_v_per_cell if guard else 0.0) * s,
        discharge_max_a=cell.discharge_max_a * p,
    )


def on_grid(pack: Pack, battery: Battery, temperature_c: float, charge: Array) -> Pack:
    """The pack of a battery at the same temperature [degC] on other states of charge, shape (N,).

    >>> from ember_core.design import Cell
    >>> cell = Cell(name="Cell", chemistry="lithium-ion", form="cylinder", capacity_ah=2.0, resistance_ohm=0.05, cutoff_v=3.0, discharge_max_a=4, size_mm=(18, 65, 18), mass_g=45)
    >>> from ember_core.design import Battery
    >>> import numpy as np
    >>> pack = pack_at(Battery(cell=cell), 25.0)
    >>> on_grid(pack, Battery(cell=cell), 25.0, np.array([1.0, 0.5, 0.0])).charge.tolist()
    [1.0, 0.5, 0.0]
    """
    curves = _pack_curves(battery, temperature_c, charge)
    return replace(
        pack,
        charge=charge,
        open_circuit_v=curves.open_circuit_v,
        resistance_ohm=curves.resistance_ohm,
        polarization_ohm=curves.polarization_ohm,
        transfer_ohm=curves.transfer_ohm,
    )


@dataclass(frozen=True)
class _PackCurves:
    """What of a pack depends on the state of charge, each of shape (N,); names as in `Pack`."""

    open_circuit_v: Array
    resistance_ohm: Array
    polarization_ohm: Array
    transfer_ohm: Array


def _pack_curves(battery: Battery, temperature_c: float, z: Array) -> _PackCurves:
    cell, s, p, guard = battery.cell, battery.series, battery.parallel, battery.protection
    volts, ohm, fast = _curves(battery, z, temperature_c)
    transfer = 0.0 if cell.bank else chemistry.resistance_at(cell.chemistry, temperature_c)[1]
    shared = transfer + (1 - transfer) * _transfer_share(cell, z)
    return _PackCurves(
        open_circuit_v=s * volts,
        resistance_ohm=np.asarray(fast * s / p + battery.wiring_ohm + (guard.ohm if guard else 0.0)),
        polarization_ohm=np.asarray((ohm - fast) * s / p),
        transfer_ohm=np.asarray(fast * shared * s / p),
    )


def unavailable_h_of(cell: Cell) -> float:
    """Charge that a steady current leaves inside per ampere, at 25 degC [A h / A]: its own of a measured cell, else by the
    way along which the charge diffuses, from the size of cells that are known, beyond them with its square.

    >>> from ember_core.catalogue import built_in
    >>> cell = built_in().by_key["cell-coin-2032"].cell
    >>> round(unavailable_h_of(cell), 2)
    12.0
    """
    if cell.bank is not None:
        return 0.0
    if cell.curve is not None:
        return cell.curve.unavailable_h
    built = CHEMISTRIES[cell.chemistry].diffusion_h
    if not built:
        return THICK_ELECTRODES_H if _thick_electrodes(cell) else 0.0
    known = built["coin" if "coin" in built and (cell.form == "coin" or len(built) == 1) else "cylinder"]
    length = cell.size_mm[0] if cell.form == "cylinder" else min(cell.size_mm)
    size, hours = zip(*known, strict=True)
    if length < size[0]:
        return float(hours[0] * (length / size[0]) ** 2)
    if length > size[-1]:
        return float(hours[-1] * (length / size[-1]) ** 2)
    return float(np.exp(np.interp(np.log(length), np.log(size), np.log(hours))))


def _thick_electrodes(cell: Cell) -> bool:
    return cell.built_for == "energy" and cell.chemistry == "lithium-ion"


def _unavailable_rise(cell: Cell) -> float:
    """By how much the unavailable charge of a cell grows per ampere [h / A]: its own of a measured cell; of thick electrodes, in which the
    electrolyte runs short, so that it is as much again at 1 C."""
    if cell.bank is not None:
        return 0.0
    if cell.curve is not None:
        return cell.curve.unavailable_rise
    return THICK_ELECTRODES_H / cell.capacity_ah if _thick_electrodes(cell) else 0.0


def _transfer_share(cell: Cell, z: Array) -> Array | float:
    """What of the fast resistance at 25 degC is charge transfer, 0..1: known of cells with three discharges."""
    curve = cell.curve
    if cell.bank is not None or curve is None or not curve.transfer_ohm:
        return 0.0
    ohm = np.interp(z, curve.soc, curve.resistance_ohm)
    fast = ohm if curve.r0_ohm is None else np.minimum(ohm, curve.r0_ohm)
    return np.asarray(np.minimum(curve.transfer_ohm / np.maximum(fast, 1e-9), 1.0))


def _bank_own_a(bank: Bank, cells_a: float) -> float:
    """What a power bank loses by itself while it is on, as a current at its output [A]."""
    return bank.idle_a + cells_a * bank.cell_v / bank.output_v


def _curves(battery: Battery, z: Array, temperature_c: float) -> tuple[Array, Array, Array]:
    """(open-circuit voltage [V], resistance [ohm], its fast part [ohm]) of one cell: its own curves, or its chemistry's."""
    cell, curve = battery.cell, battery.cell.curve
    if cell.bank is not None:
        flat = np.full_like(z, cell.resistance_ohm)
        return np.full_like(z, cell.bank.output_v), flat, flat
    grown = fade(cell.chemistry, battery.age_years, battery.cycles, temperature_c)[1]
    if curve is None:
        half = cell.resistance_ohm * (SALVAGED_OHM if cell.condition == "salvaged" else 1.0)
        half = cell.measured_ohm if cell.measured_ohm is not None else half
        ohm = half * grown * chemistry.resistance_factor(cell.chemistry, z, temperature_c)
        return _typical_v(cell, z), ohm, ohm
    volts = np.interp(z, curve.soc, curve.open_circuit_v)
    warmth = cold_resistance(cell, temperature_c) * grown
    ohm = np.interp(z, curve.soc, curve.resistance_ohm)
    fast = ohm if curve.r0_ohm is None else np.minimum(ohm, curve.r0_ohm)
    return volts, np.asarray(ohm * warmth), np.asarray(fast * warmth)
