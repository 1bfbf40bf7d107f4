"""Traps of the battery: small cells and big currents, old cells, bench supplies."""

from __future__ import annotations

import math
from collections.abc import Iterator
from itertools import islice

import numpy as np

from ...battery.ageing import calendar_loss
from ...battery.calibration import TRUSTED
from ...battery.chemistry import CHEMISTRIES
from ...battery.pack import kept_below_cutoff, resting_v, usual_share
from ...design import Battery, CellCurve
from ...figures import Remedy
from ...measures.bench import TrialBench
from ...measures.edits import new_cells, pack_patch
from ...runtime.ends import SECONDS_PER_YEAR
from ...runtime.run import Run, with_battery
from ...words import say
from ..found import Found

STRANDED = 0.35
STIFF_POINTS = 101
SAME_WINDOW = 0.15
BENCH_STRANDED, BENCH_SHORTER = 0.1, 0.85
FILM_BELOW_A, FILM_PEAK_A = 2e-5, 5e-3
MOST_WAYS = 4
LOSES_SHARE = 1.0  # of what the gadget takes
FADES_IN_A_YEAR = 0.10  # of the capacity; a rule of thumb


def current_too_high(bench: TrialBench) -> Iterator[Found]:
    """The peak is above what the cell is made for."""
    peak, moment = bench.peak_a
    pack = bench.usual.pack
    if peak <= pack.discharge_max_a:
        return
    mode = bench.design.modes[bench.usual.operating_points[moment].mode].name
    yield Found(
        code="peak-current",
        severity="fix",
        step="battery",
        where="/battery/cell",
        facts={
            "peak": (peak, "A"),
            "discharge_max": (pack.discharge_max_a, "A"),
            "mode": mode,
            "cell": bench.design.battery.cell.name,
            "peak_times": (peak / pack.printed_ah, ""),
        },
        ways=lambda: stronger_cells(bench, peak),
    )


def peak_strands_charge(bench: TrialBench) -> Iterator[Found]:
    """The voltage under the worst operating point ends the run with much of the charge still inside."""
    state = bench.usual
    mode, charge = state.ending
    if (
        mode < 0
        or charge < STRANDED
        or kept_below_cutoff(bench.design.battery.cell) > 0  # of a super-capacitor, whatever its size
        or state.failures[mode].reason not in ("cutoff", "collapse", "supply", "input", "kinetics")
    ):
        return
    if charge >= 1 and state.failures[mode].reason == "supply":
        return  # its rail never gives what it needs, on any battery
    cell, peak = bench.design.battery.cell, bench.peak_a[0]
    got = state.pack.capacity_ah * (1 - charge)
    resistance = state.at(charge, state.pack.steady_ohm)
    kept_v, dropped_v = _taken_off(state, charge)
    starved = state.failures[mode].reason == "kinetics" or kept_v > dropped_v
    yield Found(
        code="small-cell",
        lengthens=True,
        severity="fix",
        step="battery",
        where="/battery/cell",
        facts={
            "rated_capacity": (state.pack.printed_ah, "Ah"),
            "usable_capacity": (got, "Ah"),
            "soc": (charge, "share"),
            "cell": cell.name,
            "mode": bench.design.modes[mode].name,
            "peak": (peak, "A"),
            "resistance": (resistance, "Ω"),
            "starved": starved,
        },
        ways=lambda: stronger_cells(bench, peak),
    )


def _taken_off(state: Run, charge: float) -> tuple[float, float]:
    """(what the charge that is not available lowers the voltage by where the run ends, what the resistance drops) [V]."""
    row = state.failures[state.ending[0]].moment
    amps = state.worst.source_a[row]
    kept = state.pack.lowered_v(state.point_filtered_a, state.typical.source_a)[row]
    return state.at(charge, kept), state.at(charge, state.pack.resistance_ohm * amps)


def stronger_cells(bench: TrialBench, peak_a: float) -> Iterator[Remedy]:
    """The smallest catalogue cells (or some in series) for the same voltage window that can give the peak and last
    longer."""
    longer = (w for w in cells_for(bench, peak_a) if bench.after(w.patch).seconds > bench.usual.seconds)
    yield from islice(longer, MOST_WAYS)


def cells_for(bench: TrialBench, peak_a: float, most_ohm: float = math.inf) -> Iterator[Remedy]:
    """The catalogue cells (or some in series) for the same voltage window that can give the peak and have so much resistance at most, the
    smallest first."""
    battery = bench.design.battery
    wanted = battery.series * resting_v(battery.cell, 0.5)
    options: list[tuple[float, str, Battery]] = []
    for cell in bench.catalogue.cells:
        if bench.design.charger and not CHEMISTRIES[cell.chemistry].rechargeable:
            continue
        for series in (1, 2, 3):
            volts = series * resting_v(cell, 0.5)
            if (
                abs(volts / wanted - 1) <= SAME_WINDOW
                and cell.discharge_max_a >= peak_a
                and series * cell.resistance_ohm <= most_ohm
            ):
                x, y, z = cell.size_mm
                pack = new_cells(battery, cell, series)
                options.append((x * y * z * series, cell.name, pack))
    for _, name, b in sorted(options, key=lambda o: (o[0], o[1], o[2].series)):
        label = say("way.use", series=b.series, cell=name)
        yield Remedy(label=label, patch=pack_patch(bench.design, b))


MAY_FALL_SHORT = 1.25  # times the goal of a mode: less than that, one gadget in ten or so falls short


def mode_goals(bench: TrialBench) -> Iterator[Found]:
    """A mode that does not last as long as it was wanted to, by itself and from full."""
    for m, mode in enumerate(bench.design.modes):
        lasts = bench.usual.nonstop_s[m] / 3600
        if mode.goal_h is None or not bench.design.parts or lasts >= MAY_FALL_SHORT * mode.goal_h:
            continue
        short = lasts < mode.goal_h
        yield Found(
            code="mode-goal",
            severity="fix" if short else "watch",
            step="runtime",
            where=f"/modes/{m}/goal_h",
            facts={"runtime": (lasts, "h"), "goal": (mode.goal_h, "h"), "mode": mode.name, "short": bool(short)},
        )


def shelf_life(bench: TrialBench) -> Iterator[Found]:
    """The charge outlasts the cell: what counts is how long cells of this kind keep."""
    cell, state = bench.design.battery.cell, bench.usual
    if not bench.design.parts or state.charge_seconds <= state.shelf_seconds or bench.mean_a <= 0:
        return
    years = state.shelf_seconds / SECONDS_PER_YEAR
    yield Found(
        code="shelf-life",
        severity="note",
        step="battery",
        where="/battery/cell",
        facts={"runtime": (state.charge_seconds, "s"), "cell": cell.name, "years": (years, "")},
    )


def bench_supply(bench: TrialBench) -> Iterator[Found]:
    """On a bench supply, which has no internal resistance, the gadget would last much longer than on its cell."""
    state, battery = bench.usual, bench.design.battery
    mode, charge = state.ending
    if mode < 0 or charge < BENCH_STRANDED or state.failures[mode].reason == "limit" or battery.cell.bank:
        return
    stiff = with_battery(state, _without_resistance(battery), state.temperature_c).charge_seconds
    if state.charge_seconds >= BENCH_SHORTER * stiff:
        return
    resistance = state.at(charge, state.pack.steady_ohm)
    longer = stiff / state.charge_seconds if state.charge_seconds > 0 else None
    yield Found(
        code="bench-supply",
        severity="watch",
        step="battery",
        where="/battery/cell/resistance_ohm",
        facts={
            "resistance": (resistance, "Ω"),
            "longer": (longer, ""),
            "stiff": (stiff, "s"),
            "cell": battery.cell.name,
        },
    )


def sleepy_cell(bench: TrialBench) -> Iterator[Found]:
    """Thionyl chloride cells that rest for long grow a film, and their voltage dips at the next peak."""
    cell, peak = bench.design.battery.cell, bench.peak_a[0]
    resting = bench.rest_a
    if cell.chemistry != "lithium-thionyl" or resting >= FILM_BELOW_A or peak < FILM_PEAK_A:
        return
    yield Found(
        code="start-up-dip",
        severity="watch",
        step="battery",
        where="/battery/cell",
        facts={"resting": (resting, "A"), "peak": (peak, "A"), "cell": cell.name},
    )


def beyond_what_was_measured(bench: TrialBench) -> Iterator[Found]:
    """A measured curve is used at currents at which nobody measured it."""
    state, cell = bench.usual, bench.design.battery.cell
    if cell.curve is None or state.beyond_measured <= TRUSTED:
        return
    asked = np.where(state.point_weights > 0, state.cell_a, 0.0)
    row = int(asked.argmax())
    mode, amps = state.operating_points[row].mode, float(asked[row])
    largest = max(cell.curve.measured_a)
    yield Found(
        code="beyond-measured",
        severity="watch",
        step="battery",
        where="/battery/cell/curve",
        facts={
            "current": (amps, "A"),
            "measured_max": (largest, "A"),
            "mode": bench.design.modes[mode].name,
            "cell": cell.name,
        },
    )


def kept_full_in_the_warm(bench: TrialBench) -> Iterator[Found]:
    """A lithium-ion cell on its charger in a warm place loses capacity by lying there."""
    charger, battery, celsius = bench.design.charger, bench.design.battery, bench.design.brief.usual_c
    if charger is None or battery.cell.chemistry != "lithium-ion" or battery.cell.bank is not None:
        return
    full = calendar_loss(charger.float_v_per_cell, celsius, 1.0)
    if full < FADES_IN_A_YEAR:
        return
    half = calendar_loss(resting_v(battery.cell, 0.5), celsius, 1.0)
    yield Found(
        code="kept-full",
        severity="watch",
        step="battery",
        where="/charger",
        facts={
            "temperature": (celsius, "°C"),
            "float_voltage": (charger.float_v_per_cell, "V"),
            "full": (full, "share"),
            "half": (half, "share"),
        },
    )


def loses_more_than_it_gives(bench: TrialBench) -> Iterator[Found]:
    """The cell is emptied by itself rather than by the gadget: a sleeper outlives its charge."""
    battery, own, mean = bench.design.battery, bench.usual.pack.self_discharge_a, bench.mean_a
    old_first = (
        bench.usual.shelf_seconds < bench.usual.charge_seconds and not CHEMISTRIES[battery.cell.chemistry].rechargeable
    )
    if battery.cell.bank is not None or mean <= 0 or own <= LOSES_SHARE * mean or old_first:
        return
    guarded = bool(battery.protection and battery.protection.own_a)
    yield Found(
        code="self-discharge",
        severity="watch",
        step="battery",
        where="/battery/cell",
        lengthens=True,
        facts={"own": (own, "A"), "mean": (mean, "A"), "cell": battery.cell.name, "guarded": guarded},
        ways=lambda: _keeping_cells(bench),
    )


def _keeping_cells(bench: TrialBench) -> Iterator[Remedy]:
    """Catalogue cells of another chemistry for the same voltage window that lose less by themselves and last longer; primary cells
    only where nothing charges."""
    battery = bench.design.battery
    wanted, own = (
        battery.series * resting_v(battery.cell, 0.5),
        CHEMISTRIES[battery.cell.chemistry].self_discharge_per_month,
    )
    options = []
    for cell in bench.catalogue.cells:
        data = CHEMISTRIES[cell.chemistry]
        if (
            cell.bank is not None
            or data.self_discharge_per_month >= own
            or (bench.design.charger and not data.rechargeable)
        ):
            continue
        for series in (1, 2, 3):
            if (
                abs(series * resting_v(cell, 0.5) / wanted - 1) <= SAME_WINDOW
                and cell.discharge_max_a >= bench.peak_a[0]
            ):
                x, y, z = cell.size_mm
                options.append((x * y * z * series, new_cells(battery, cell, series)))
    ways = (
        Remedy(label=say("way.use", series=b.series, cell=b.cell.name), patch=pack_patch(bench.design, b))
        for _, b in sorted(options, key=lambda o: (o[0], o[1].cell.name, o[1].series))
    )
    yield from islice((w for w in ways if bench.after(w.patch).seconds > bench.usual.seconds), MOST_WAYS)


def _without_resistance(battery: Battery) -> Battery:
    """As on a bench supply: no resistance in the cell nor in its leads, and nothing that does not come up in time."""
    cell = battery.cell
    curve = cell.curve
    charge = curve.soc if curve else list(np.linspace(0, 1, STIFF_POINTS))
    volts = curve.open_circuit_v if curve else [resting_v(cell, z) for z in charge]
    stiff = CellCurve(soc=charge, open_circuit_v=volts, resistance_ohm=[0.0] * len(charge))
    capacity = cell.measured_ah or (cell.capacity_ah if curve else cell.capacity_ah * usual_share(cell))
    own = cell.model_copy(update={"resistance_ohm": 0.0, "curve": stiff, "measured_ah": capacity})
    return battery.model_copy(update={"cell": own, "wiring_ohm": 0.0})
