"""Refilling the battery: constant current, then constant voltage, through a linear charger.

The charger gives I until OCV(z) + I R reaches its float voltage; from there the cell takes (Vfloat - OCV) / R, falling,
until the charger's current is down to the termination current. Time = integral of Q dz / I(z) (Plett 2015, ch. 2, with an
ohmic cell). I is the least of what is set, what the port has left beside the gadget, and what the charger's own
temperature lets through: a linear charger burns (Vport - Vcell) I and folds its current back to hold its junction.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..battery.chemistry import CHEMISTRIES
from ..battery.pack import pack_at
from ..design import Battery, Charger, Enclosure
from ..numeric import Array
from ..quantities.preferred import next_e24
from ..thermal.case import case_k_per_w

GRID = np.linspace(0.0, 1.0, 2001)
CHARGING_TEMPERATURE_C = 25.0
PRECHARGE_V = 3.0  # a lithium cell rested below this is first filled gently; the heat is worked out from here
FOLDBACK_C = 120.0  # junction at which linear chargers fold their current back; 110 to 125 °C in datasheets
INDOORS_C = (10.0, 30.0)
FULL_ENOUGH = 0.7  # charged to less than this, the charger took the pack for full far too early
FAR_BELOW = 0.9  # of the float voltage that the pack is made for: a charger for another pack
FLOAT_TOLERANCE = 0.005  # above the cell's float voltage: what a 0.5 % reference may be off

Limit = Literal["set", "port", "fold-back"]
Never = Literal["", "load", "port", "voltage", "early"]


@dataclass(frozen=True)
class Meanwhile:
    """What the gadget does while it charges. Currents in A, power in W.

    `cell_a` is drawn from the cell (nothing with a power path), `port_a` from the port beside the charger on average,
    `port_peak_a` at its worst; `port_limit_a` is what the port gives in all. `heat_w` burns in the case besides the
    charger, `ambient_c` is around it.
    """

    cell_a: float
    port_a: float
    port_peak_a: float
    port_limit_a: float
    heat_w: float
    ambient_c: float


@dataclass(frozen=True)
class Charge:
    """A charge from empty. Times in s, currents in A, power in W, temperatures in degC.

    `current_a` is what the charger gives at the start of the constant current, `limit` what decides it. `peak_heat_w` is
    the charger's heat just after the start, `heat_w` its mean at constant current. `seconds` is None where it never gets
    full; `never` says why: the load on the cell, a port with nothing left, a float voltage below what the pack needs, or a
    pack whose resistance lets the current fall to the termination far too early.
    """

    set_a: float
    current_a: float
    limit: Limit
    gentle_a: float
    gentle_ohm: float
    highest_a: float
    c_rate: float
    termination_a: float
    load_a: float
    port_left_a: float
    constant_current_s: float
    seconds: float | None
    never: Never
    full_share: float
    peak_heat_w: float
    heat_w: float
    junction_c: float


def programmed_current(charger: Charger) -> float:
    """The current that the resistor sets [A]."""
    return charger.program_constant_v / charger.program_ohm


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


def fold_back_a(drop_v: Array, room_k: float, rth_ja_c_per_w: float, case_k_w: float) -> Array:
    """The current [A] at which a linear charger has used up its room to the fold-back temperature: it burns `drop_v` times
    the current, which warms its junction by its thermal resistance and the case's."""
    return np.asarray(np.maximum(room_k, 0.0) / ((rth_ja_c_per_w + case_k_w) * np.maximum(drop_v, 1e-6)))


def charge_times(
    current_a: Array, float_v: float, end_a: float, capacity_ah: float, ocv_v: Array, resistance_ohm: Array, z: Array
) -> tuple[float, float, float]:
    """(seconds at constant current, seconds in all, state of charge reached) from the first to the last z.

    `current_a`, `ocv_v` and `resistance_ohm` are arrays over the rising states of charge `z`.
    """
    taper = (float_v - ocv_v) / resistance_ohm
    current = np.minimum(current_a, taper)
    going = current > end_a
    stop = z.size if going.all() else int(np.argmin(going))
    if stop < 2:
        return 0.0, 0.0, float(z[0])
    slowness = capacity_ah * 3600 / current[:stop]
    steps = np.diff(z[:stop]) * (slowness[1:] + slowness[:-1]) / 2
    at_constant = current[: stop - 1] >= current_a[: stop - 1] * (1 - 1e-12)
    total, reached = float(steps.sum()), float(z[stop - 1])
    if stop < z.size:  # the last bit down to the end current, linear in the taper
        part = (taper[stop - 1] - end_a) / (taper[stop - 1] - taper[stop])
        rest = float(np.clip(part, 0.0, 1.0) * (z[stop] - z[stop - 1]))
        total += capacity_ah * 3600 * rest / ((float(current[stop - 1]) + end_a) / 2)
        reached += rest
    return float(steps[at_constant].sum()), total, reached


def charge(charger: Charger, battery: Battery, enclosure: Enclosure, meanwhile: Meanwhile) -> Charge:
    """The charge of a pack from empty."""
    set_a = programmed_current(charger)
    pack = pack_at(battery, CHARGING_TEMPERATURE_C, GRID)
    case = case_k_per_w(enclosure)
    left = max(min(charger.port_limit_a, meanwhile.port_limit_a - meanwhile.port_a), 0.0)
    room = FOLDBACK_C - meanwhile.ambient_c - case * meanwhile.heat_w
    given = np.full(GRID.size, min(set_a, left))
    for _ in range(3):  # the cell's voltage follows the current, and the current the voltage
        terminal = np.minimum(pack.open_circuit_v + given * pack.steady_ohm, charger.float_v)
        hot = fold_back_a(charger.port_v - terminal, room, charger.rth_ja_c_per_w, case)
        given = np.minimum(min(set_a, left), hot)
    termination = charger.termination_share * set_a
    net = given - meanwhile.cell_a
    constant, total, full = charge_times(
        net, charger.float_v, max(termination - meanwhile.cell_a, 1e-6), pack.capacity_ah, pack.open_circuit_v,
        pack.steady_ohm, GRID,
    )  # fmt: skip
    never = _never(charger, battery, float(given.min()), meanwhile.cell_a, termination)
    if not never and full < FULL_ENOUGH:
        never = "early"
    drop = np.maximum(charger.port_v - terminal, 0.0)
    first_drop = max(charger.port_v - PRECHARGE_V * charger.cells_in_series, 0.0)
    start = min(set_a, left, float(fold_back_a(np.array(first_drop), room, charger.rth_ja_c_per_w, case)))
    at_start = first_drop * start
    gentle = gentle_current(battery)
    return Charge(
        set_a=set_a,
        current_a=start,
        limit="set" if start >= set_a * (1 - 1e-9) else "port" if start >= left * (1 - 1e-9) else "fold-back",
        gentle_a=gentle,
        gentle_ohm=next_e24(charger.program_constant_v / gentle) if gentle > 0 else 0.0,
        highest_a=highest_current(battery),
        c_rate=start / battery.parallel / battery.cell.capacity_ah,
        termination_a=termination,
        load_a=meanwhile.cell_a,
        port_left_a=left,
        constant_current_s=constant,
        seconds=None if never else total,
        never=never,
        full_share=full,
        peak_heat_w=at_start,
        heat_w=float(np.mean(drop * given)),
        junction_c=meanwhile.ambient_c + case * (meanwhile.heat_w + at_start) + charger.rth_ja_c_per_w * at_start,
    )


def _never(charger: Charger, battery: Battery, given_a: float, cell_a: float, termination_a: float) -> Never:
    """Why a charge never ends with a full pack; "" where it does. `given_a` is the least that the charger gives."""
    wanted = CHEMISTRIES[battery.cell.chemistry].charge_v
    if wanted is not None and charger.float_v < battery.series * wanted * FAR_BELOW:
        return "voltage"
    if given_a <= termination_a:
        return "port"
    return "load" if cell_a >= min(termination_a, given_a) else ""
