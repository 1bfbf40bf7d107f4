"""Traps of the battery: small cells and big currents."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..chemistry import CHEMISTRIES
from ..context import Context
from ..design import Body, Cell, CellCurve
from ..figures import Finding, PatchOperation, Remedy
from ..pack import resting_v, usual_share
from ..quantities import show
from ..remedies import replace

STRANDED = 0.35
STIFF_POINTS = 101
SAME_WINDOW = 0.15
BENCH_STRANDED, BENCH_SHORTER = 0.1, 0.85
SECONDS_PER_YEAR = 31557600.0
FILM_BELOW_A, FILM_PEAK_A = 2e-5, 5e-3


def current_too_high(context: Context) -> Iterator[Finding]:
    """T18: the peak is above what the cell is made for."""
    peak, moment = context.peak_a
    pack = context.usual.pack
    if peak <= pack.discharge_max_a:
        return
    mode = context.design.modes[context.usual.moments[moment].mode].name
    yield Finding(
        code="T18-peak-current",
        severity="fix",
        step="battery",
        where="/battery/cell",
        title="The peak is too much for this cell",
        sentence=(
            f"{mode} takes up to {show(peak, 'A')} from {context.design.battery.cell.name}, which is made for "
            f"{show(pack.discharge_max_a, 'A')} at most ({peak / pack.printed_ah:.2g} times its capacity per hour)."
        ),
        remedy=_stronger_cell(context, peak),
    )


def peak_strands_charge(context: Context) -> Iterator[Finding]:
    """T18: the sag under the worst moment ends the run with much of the charge still inside."""
    state = context.usual
    mode, charge = state.ending
    if (
        mode < 0
        or charge < STRANDED
        or state.failures[mode].reason not in ("cutoff", "collapse", "supply", "input", "kinetics")
    ):
        return
    if charge >= 1 and state.failures[mode].reason == "supply":
        return  # its rail never gives what it needs, on any battery
    cell, peak = context.design.battery.cell, context.peak_a[0]
    got = state.pack.capacity_ah * (1 - charge)
    resistance = state.at(charge, state.pack.steady_ohm)
    if state.failures[mode].reason == "kinetics":
        how = f"pulls up to {show(peak, 'A')}, and the cell does not bring it up for so long"
    else:
        how = f"pulls up to {show(peak, 'A')} through {show(resistance, 'Ω')} and the voltage sags too far"
    yield Finding(
        code="T18-small-cell",
        severity="fix",
        step="battery",
        where="/battery/cell",
        title="A small cell cannot give big currents",
        sentence=(
            f"{cell.name} is printed {show(state.pack.printed_ah, 'Ah')}; here it gives {show(got, 'Ah')}: "
            f"{context.design.modes[mode].name} {how}, with {show(charge, 'share')} of the charge left."
        ),
        remedy=_stronger_cell(context, peak),
    )


def _stronger_cell(context: Context, peak_a: float) -> Remedy | None:
    """The smallest catalogue cell (or two in series) for the same voltage window that can give the peak."""
    design = context.design
    battery = design.battery
    wanted = battery.series * resting_v(battery.cell, 0.5)
    options: list[tuple[float, str, int, Cell]] = []
    for cell in context.catalogue.cells:
        if design.charger and not CHEMISTRIES[cell.chemistry].rechargeable:
            continue
        for series in (1, 2, 3):
            volts = series * resting_v(cell, 0.5)
            if abs(volts / wanted - 1) <= SAME_WINDOW and cell.discharge_max_a >= peak_a:
                x, y, z = cell.size_mm
                options.append((x * y * z * series, cell.name, series, cell))
    before = context.usual.seconds
    for _, name, series, cell in sorted(options, key=lambda o: o[:3])[:3]:
        patch = [replace("/battery/cell", cell), replace("/battery/series", series), replace("/battery/parallel", 1)]
        patch += _pack_body(battery.body, cell, series)
        if context.after(patch).seconds > before:
            return Remedy(label=f"Use {series} × {name}" if series > 1 else f"Use {name}", patch=patch)
    return None


def _pack_body(body: Body | None, cell: Cell, series: int) -> list[PatchOperation]:
    if body is None:
        return []
    x, y, z = cell.size_mm
    return [replace("/battery/body/size_mm", [x, y * series, z])]


def shelf_life(context: Context) -> Iterator[Finding]:
    """The sum outlives the cell: a runtime beyond the shelf life is a figure on paper."""
    cell = context.design.battery.cell
    years = CHEMISTRIES[cell.chemistry].shelf_years
    seconds = context.usual.seconds
    if not context.design.parts or seconds <= years * SECONDS_PER_YEAR:
        return
    yield Finding(
        code="shelf-life",
        severity="note",
        step="battery",
        where="/battery/cell",
        title="The cell gives up before its charge does",
        sentence=(
            f"The sum comes to {show(seconds, 's')}, but cells of this kind keep for about {years:g} years: plan to swap "
            "them by then. A smaller cell would do."
        ),
    )


def bench_supply(context: Context) -> Iterator[Finding]:
    """T17: on a bench supply, which has no internal resistance, the gadget would last much longer than on its cell."""
    state, battery = context.usual, context.design.battery
    mode, charge = state.ending
    if mode < 0 or charge < BENCH_STRANDED or state.failures[mode].reason == "limit" or battery.cell.bank:
        return
    stiff = context.after(_without_resistance(battery.cell)).seconds
    if state.seconds >= BENCH_SHORTER * stiff:
        return
    resistance = state.at(charge, state.pack.steady_ohm)
    yield Finding(
        code="T17-bench-supply",
        severity="watch",
        step="battery",
        where="/battery/cell/resistance_ohm",
        title="A bench supply would hide this",
        sentence=(
            f"Without any internal resistance, as on a bench supply, it would run {show(stiff, 's')}; {battery.cell.name} "
            f"and its leads have {show(resistance, 'Ω')} near the end, and it is {show(state.seconds, 's')}. Try it on "
            "the real cell, with the real leads."
        ),
    )


def sleepy_cell(context: Context) -> Iterator[Finding]:
    """Thionyl chloride cells that rest for long grow a film, and their voltage dips at the next peak."""
    cell, peak = context.design.battery.cell, context.peak_a[0]
    resting = float(context.usual.mode_current_a[context.rest, context.middle])
    if cell.chemistry != "lithium-thionyl" or resting >= FILM_BELOW_A or peak < FILM_PEAK_A:
        return
    yield Finding(
        code="start-up-dip",
        severity="watch",
        step="battery",
        where="/battery/cell",
        title="The cell wakes up slowly",
        sentence=(
            f"At {show(resting, 'A')} {cell.name} grows a film, and at the next peak of {show(peak, 'A')} its voltage dips for "
            "seconds, most of all after months and in the cold. A bulk capacitor beside it, or a small draw now and then, helps."
        ),
    )


def _without_resistance(cell: Cell) -> list[PatchOperation]:
    """As on a bench supply: no resistance in the cell nor in its leads, and nothing that does not come up in time."""
    curve = cell.curve
    charge = curve.charge if curve else list(np.linspace(0, 1, STIFF_POINTS))
    volts = curve.open_circuit_v if curve else [resting_v(cell, z) for z in charge]
    stiff = CellCurve(charge=charge, open_circuit_v=volts, resistance_ohm=[0.0] * len(charge))
    capacity = cell.measured_ah or (cell.capacity_ah if curve else cell.capacity_ah * usual_share(cell))
    return [
        replace("/battery/cell/resistance_ohm", 0),
        replace("/battery/wiring_ohm", 0),
        replace("/battery/cell/curve", stiff),
        replace("/battery/cell/measured_ah", capacity),
    ]
