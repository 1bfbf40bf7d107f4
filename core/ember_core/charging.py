"""Refilling the battery: constant current, then constant voltage, through a linear charger.

The charger gives I until OCV(z) + I R reaches the float voltage; from there the cell takes (Vfloat - OCV) / R,
falling, until the termination current. Time = integral of Q dz / I(z) (Plett 2015, ch. 2, with an ohmic cell).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .chemistry import CHEMISTRIES, Array
from .design import Battery, Charger
from .pack import pack_at
from .resistors import next_e24

GRID = np.linspace(0.0, 1.0, 2001)
CHARGING_TEMPERATURE_C = 25.0
PRECHARGE_V = 3.0  # a cell rested below this is first filled gently; the heat is worked out from here


@dataclass(frozen=True)
class Charge:
    """A charge from empty. Times in s, currents in A, power in W.

    `peak_heat_w` is the charger's heat just after the start, `heat_w` its mean at constant current.
    `seconds` is None where the charge never ends: the gadget draws more than the termination current from the
    cell meanwhile (`load_a` >= `termination_a`).
    """

    set_a: float
    current_a: float
    gentle_a: float
    gentle_ohm: float
    highest_a: float
    c_rate: float
    termination_a: float
    load_a: float
    constant_current_s: float
    seconds: float | None
    full_share: float
    peak_heat_w: float
    heat_w: float


def programmed_current(charger: Charger) -> float:
    """The current that the resistor sets [A]."""
    return charger.programming_v / charger.programming_ohm


def gentle_current(battery: Battery) -> float:
    """The charge current to plan for the pack [A]: half its capacity per hour, or the datasheet's limit if lower."""
    cell = battery.cell
    gentle = CHEMISTRIES[cell.chemistry].charge_rate * cell.capacity_ah
    return battery.parallel * (gentle if cell.charge_max_a is None else min(gentle, cell.charge_max_a))


def highest_current(battery: Battery) -> float:
    """The most charge current for the pack [A]: the datasheet's limit, or the whole capacity per hour."""
    cell = battery.cell
    usual = CHEMISTRIES[cell.chemistry].charge_rate_max * cell.capacity_ah
    return battery.parallel * (usual if cell.charge_max_a is None else cell.charge_max_a)


def charge_times(
    current_a: float, float_v: float, end_a: float, capacity_ah: float, ocv_v: Array, resistance_ohm: Array, z: Array
) -> tuple[float, float, float]:
    """(seconds at constant current, seconds in all, state of charge reached) from the first to the last z.

    `ocv_v` and `resistance_ohm` are arrays over the rising states of charge `z`.
    """
    taper = (float_v - ocv_v) / resistance_ohm
    current = np.minimum(current_a, taper)
    going = current > end_a
    stop = z.size if going.all() else int(np.argmin(going))
    if stop < 2:
        return 0.0, 0.0, float(z[0])
    slowness = capacity_ah * 3600 / current[:stop]
    steps = np.diff(z[:stop]) * (slowness[1:] + slowness[:-1]) / 2
    at_constant = current[: stop - 1] >= current_a * (1 - 1e-12)
    total, reached = float(steps.sum()), float(z[stop - 1])
    if stop < z.size:  # the last bit down to the end current, linear in the taper
        part = (taper[stop - 1] - end_a) / (taper[stop - 1] - taper[stop])
        rest = float(part * (z[stop] - z[stop - 1]))
        total += capacity_ah * 3600 * rest / ((float(current[stop - 1]) + end_a) / 2)
        reached += rest
    return float(steps[at_constant].sum()), total, reached


def charge(charger: Charger, battery: Battery, load_a: float) -> Charge:
    """The charge of a pack from empty while the gadget draws `load_a` [A] from it."""
    set_a = programmed_current(charger)
    current = min(set_a, charger.port_limit_a)
    termination = charger.termination_share * set_a
    load = 0.0 if charger.power_path else load_a
    gentle = gentle_current(battery)
    pack = pack_at(battery, CHARGING_TEMPERATURE_C, GRID)
    terminal = np.minimum(pack.open_circuit_v + current * pack.steady_ohm, charger.float_v)
    net = current - load
    if net <= 0:
        constant, seconds, full = 0.0, None, 0.0
    else:
        constant, total, full = charge_times(
            net, charger.float_v, max(termination - load, 1e-6), pack.capacity_ah, pack.open_circuit_v,
            pack.steady_ohm, GRID,
        )  # fmt: skip
        seconds = None if load >= termination else total
    return Charge(
        set_a=set_a,
        current_a=current,
        gentle_a=gentle,
        gentle_ohm=next_e24(charger.programming_v / gentle) if gentle > 0 else 0.0,
        highest_a=highest_current(battery),
        c_rate=current / battery.parallel / battery.cell.capacity_ah,
        termination_a=termination,
        load_a=load,
        constant_current_s=constant,
        seconds=seconds,
        full_share=full,
        peak_heat_w=max(charger.port_v - PRECHARGE_V * battery.series, 0.0) * current,
        heat_w=max(charger.port_v - float(terminal.mean()), 0.0) * current,
    )
