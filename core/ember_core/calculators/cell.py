"""A cell of one's own: from a datasheet's few figures, or fitted to measured discharges, with the quality of the fit."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from ..battery.calibration import (
    GRID,
    TRUSTED,
    USUAL_FAST,
    Calibration,
    CalibrationError,
    Discharge,
    calibrate,
    given_back,
    has_early_seconds,
    most_unavailable_h,
    until_cutoff,
)
from ..battery.chemistries import CHEMISTRIES
from ..battery.chemistry import open_circuit_voltage, resistance_factor
from ..battery.cold import alone, cell_with, cold_voltage
from ..battery.cold import fit_cold as measure_cold
from ..battery.pack import steady_charge_ah, unavailable_h_of
from ..catalogue import Catalogue
from ..design import AmpereHour, Cell, CellCurve, Chemistry, Form, Money, Size, Title, Volt
from ..design.problems import DocumentError, Problem, from_validation, pointer, read_json, sentence
from ..figures import Figure, figure, record
from ..numeric import Array
from ..words import Fact, Said, called, say

SOURCE = "two discharges at different steady currents, compared at the same charge taken"
AGREES = 0.03
DRAWN = 90  # points of a discharge that are drawn
ROOM_C, COLDEST_C, STILL_COLD_C = 25.0, -60.0, 15.0
COLD_SOURCE = "a discharge in the cold against those at 25 °C"
READS_HIGH_V, READS_LOW_V = 0.03, 0.06  # from the usual voltage of a full cell
CAPACITY_OFF = 0.06  # beyond the usual spread around the printed capacity
UNAVAILABLE_APART = 6.0  # times what cells of such a kind and size usually leave inside, or that part
RESISTANCE_APART = (0.3, 5.0)  # times the datasheet's, which is that of a kilohertz
JUMP_APART = 1.3
DISAGREES_V = 0.03
CONTRADICTS = 2.0  # a measured capacity that many times the printed one, or the other way round


@record
class FitCurve:
    """One measured discharge and what the fitted cell gives for it, thinned: charge taken [A h], voltages [V]."""

    current_a: float
    charge_ah: list[float]
    measured_v: list[float]
    fitted_v: list[float]


@record
class FitDoubt:
    """A fitted figure that real cells do not have, with its likeliest cause and the one thing to check or to repeat."""

    key: str
    sentence: str


@record
class FittedCell:
    """The cell with its curve and measured capacity. `doubts`: why it should not be believed as it is."""

    cell: Cell
    capacity: Figure
    mean_error: Figure
    worst_error: Figure
    runtime_error: Figure
    resistance: Figure
    begun: list[Figure]
    curves: list[FitCurve]
    doubts: list[FitDoubt]
    sentence: str


def read_cell(raw: str) -> Cell:
    """A cell from untrusted JSON. Raises DocumentError.

    >>> from ember_core.catalogue import built_in
    >>> cell = built_in().by_key["cell-aa-alkaline"].cell
    >>> read_cell(cell.model_dump_json()) == cell
    True
    """
    data = read_json(raw)
    try:
        return Cell.model_validate(data)
    except ValidationError as error:
        raise DocumentError(from_validation(error, data)) from None


def fit_cell(cell: Cell, discharges: list[Discharge]) -> FittedCell:
    """The cell with curves from one to three discharges. Raises DocumentError where they contradict it or each other.

    >>> import numpy as np
    >>> from ember_core.catalogue import built_in
    >>> plain = built_in().by_key["cell-cyl-18650"].cell
    >>> taken = np.linspace(0, plain.capacity_ah, 200)
    >>> volts = 4.15 - 1.5 / plain.capacity_ah * taken
    >>> made = [Discharge(taken / amps * 3600, volts - 0.08 * amps, amps) for amps in (0.5, 1.5)]
    >>> fitted = fit_cell(plain, made)
    >>> round(fitted.cell.capacity_ah / plain.capacity_ah, 2), fitted.cell.curve is not None
    (0.93, True)
    """
    if not 1 <= len(discharges) <= 3:
        raise DocumentError([Problem("", f"{len(discharges)} discharges were given; one to three are used")])
    try:
        fit = calibrate(discharges, cell.cutoff_v, cell.chemistry, cell.resistance_ohm)
    except CalibrationError as error:
        raise DocumentError([Problem("", str(error))]) from None
    ratio = fit.capacity_ah / cell.capacity_ah
    if not 1 / CONTRADICTS <= ratio <= CONTRADICTS:
        raise DocumentError(
            [
                Problem(
                    "",
                    say("fit.other-capacity", capacity=(fit.capacity_ah, "Ah"), rated=(cell.capacity_ah, "Ah")),
                )
            ]
        )
    own = cell.model_copy(update={"capacity_ah": float(f"{fit.capacity_ah:.5g}"), "curve": fit.curve})
    doubts = _doubts(cell, fit)
    good = fit.runtime_error < 0.01 and fit.mean_v < 0.01
    given: list[tuple[str, float | None, str]] = [
        (called("discharge", number=i + 1), d.current_a, "A") for i, d in enumerate(discharges)
    ]
    return FittedCell(
        cell=own,
        capacity=figure("capacity-without-load", fit.capacity_ah, "Ah", given, SOURCE),
        mean_error=figure("mean-difference", fit.mean_v, "V", given, SOURCE),
        worst_error=figure("largest-difference", fit.worst_v, "V", given, SOURCE),
        runtime_error=figure("difference-in-duration", fit.runtime_error * 100, "%", given, SOURCE),
        resistance=figure(
            "resistance-at-half-charge",
            fit.half_ohm,
            "Ω",
            [*given, (called("datasheet"), cell.resistance_ohm, "Ω")],
            SOURCE,
        ),
        begun=[_begun(fit, one) for one in fit.cut],
        curves=[_drawn(fit, one) for one in fit.cut],
        doubts=doubts,
        sentence=say(
            "fit.fits",
            how="doubted" if doubts else "good" if good else "rough",
            mean=(fit.mean_v, "V"),
            duration=(max(fit.runtime_error, 1e-3), "share"),
            knows=_what_it_knows(discharges),
            full=_how_full(cell, fit),
        ),
    )


def _doubts(cell: Cell, fit: Calibration) -> list[FitDoubt]:
    """What of a fit real cells do not have."""
    found = []
    gentle, strong = fit.cut[0], fit.cut[-1]
    data = CHEMISTRIES[cell.chemistry]
    usual_h = unavailable_h_of(cell.model_copy(update={"curve": None}))
    untold = (
        usual_h * gentle.current_a if len(fit.cut) == 1 else 0.0
    )  # one current does not tell what that leaves inside
    ratio = fit.capacity_ah / cell.capacity_ah - 1
    again = Said("fit.again-full" if data.rechargeable else "fit.again-fresh")
    capacity: Fact = (fit.capacity_ah, "Ah")
    low, high = data.tolerance
    if ratio > high + CAPACITY_OFF:
        told = {"capacity": capacity, "off": (ratio, "share"), "current": (gentle.current_a, "A")}
        found.append(_doubt("capacity-above", **told))
    elif ratio + untold / cell.capacity_ah < low - CAPACITY_OFF and cell.condition == "new":
        found.append(_doubt("capacity-below", capacity=capacity, off=(-ratio, "share"), again=again))
    if len(fit.cut) > 1:
        left = fit.curve.unavailable_h
        most = max(usual_h * UNAVAILABLE_APART, most_unavailable_h(strong, gentle))
        if left > most:
            currents = {"strong": (strong.current_a, "A"), "gentle": (gentle.current_a, "A")}
            found.append(_doubt("unavailable", left=(left, "Ah"), most=(most, "Ah"), again=again, **currents))
        times = fit.half_ohm / cell.resistance_ohm if cell.resistance_ohm > 0 else 1.0
        ohm: Fact = (fit.half_ohm, "Ω")
        if not RESISTANCE_APART[0] <= times <= RESISTANCE_APART[1]:
            usual = (cell.resistance_ohm, "Ω")
            found.append(_doubt("resistance", ohm=ohm, times=(times, ""), usual=usual, more=times > 1))
        jumps = [d.pause_ohm for d in fit.cut if d.pause_ohm is not None]
        if jumps and fit.half_ohm > 0 and jumps[0] > JUMP_APART * fit.half_ohm:
            found.append(_doubt("jump", jump=(jumps[0], "Ω"), ohm=ohm))
    if fit.mean_v > DISAGREES_V:
        found.append(_doubt("disagree", mean=(fit.mean_v, "V")))
    return found


def _doubt(key: str, **facts: Fact) -> FitDoubt:
    return FitDoubt(key=key, sentence=say(f"fit.{key}", **facts))


@record
class ColdCell:
    """The cell with what a discharge in the cold told of it."""

    cell: Cell
    resistance: Figure
    capacity: Figure
    gives: Figure
    curves: list[FitCurve]
    sentence: str


def fit_cold(cell: Cell, discharge: Discharge, temperature_c: float) -> ColdCell:
    """A measured cell with its behaviour in the cold from one discharge there. Raises DocumentError.

    >>> import numpy as np
    >>> from ember_core.catalogue import built_in
    >>> plain = built_in().by_key["cell-cyl-18650"].cell
    >>> taken = np.linspace(0, plain.capacity_ah, 200)
    >>> volts = 4.15 - 1.5 / plain.capacity_ah * taken
    >>> own = fit_cell(plain, [Discharge(taken / amps * 3600, volts - 0.08 * amps, amps) for amps in (0.5, 1.5)]).cell
    >>> cold = Discharge(taken / 0.5 * 3600, volts - 0.25 * 0.5 - 0.4 * (taken / taken[-1]) ** 20, 0.5)
    >>> fit_cold(own, cold, -10.0).cell.curve.cold.temperature_c
    -10.0
    """
    if cell.curve is None:
        raise DocumentError(
            [Problem("", "the cell needs discharges at room temperature first; the cold is read against them")]
        )
    if not COLDEST_C <= temperature_c <= STILL_COLD_C:
        raise DocumentError(
            [
                Problem(
                    "temperature",
                    f"is {temperature_c:g} °C; a discharge in the cold is one from {COLDEST_C:g} to {STILL_COLD_C:g} °C",
                )
            ]
        )
    try:
        cut = until_cutoff(discharge, cell.cutoff_v)
    except CalibrationError as error:
        raise DocumentError([Problem("", str(error))]) from None
    warm_ah = steady_charge_ah(alone(cell_with(cell, None), ROOM_C), cut.current_a)
    if cut.total_ah > warm_ah:
        raise DocumentError(
            [
                Problem(
                    "",
                    say(
                        "fit.too-much-in-the-cold", gave=(cut.total_ah, "Ah"), warm=(warm_ah, "Ah"), room=(ROOM_C, "°C")
                    ),
                )
            ]
        )
    cold = measure_cold(cell, cut, temperature_c)
    own = cell_with(cell, cold)
    reached = steady_charge_ah(alone(own, temperature_c), cut.current_a)
    agrees = abs(reached / cut.total_ah - 1) < AGREES
    given: list[tuple[str, float | None, str]] = [
        (called("at"), temperature_c, "°C"),
        (called("current"), cut.current_a, "A"),
        (called("measured"), cut.total_ah, "Ah"),
    ]
    return ColdCell(
        cell=own,
        resistance=figure("resistance-there", cold.resistance_factor, "", given, COLD_SOURCE),
        capacity=figure("capacity-left-at-the-lowest-rates", cold.capacity_left, "share", given, COLD_SOURCE),
        gives=figure("gives-there", reached, "Ah", given, COLD_SOURCE),
        curves=[_thinned(cut.current_a, cut.charge_ah, cut.voltage_v, cold_voltage(own, cut))],
        sentence=say(
            "fit.in-the-cold",
            at=(temperature_c, "°C"),
            reached=(reached, "Ah"),
            measured=None if agrees else (cut.total_ah, "Ah"),
        ),
    )


def _drawn(fit: Calibration, one: Discharge) -> FitCurve:
    return _thinned(one.current_a, one.charge_ah, one.voltage_v, given_back(fit.curve, fit.capacity_ah, one))


def _thinned(current_a: float, *columns: Array) -> FitCurve:
    keep = np.unique(np.linspace(0, columns[0].size - 1, DRAWN).astype(int))
    charge, measured, fitted = ([float(f"{v:.5g}") for v in x[keep]] for x in columns)
    return FitCurve(current_a=current_a, charge_ah=charge, measured_v=measured, fitted_v=fitted)


def _begun(fit: Calibration, one: Discharge) -> Figure:
    return figure(
        "begun-at",
        1 - one.missing_ah / fit.capacity_ah,
        "share",
        [(called("gone-already"), one.missing_ah, "Ah"), (called("voltage-at-rest-before"), one.rest_v, "V")],
        "voltages at rest before the discharges where all have them; else what such cells give more at the gentler current",
        facts={"current": (one.current_a, "A")},
    )


def _how_full(cell: Cell, fit: Calibration) -> str:
    """What the fit says about the beginning of the discharges, where that is not a full cell's."""
    said = ""
    late = [d for d in fit.cut if d.missing_ah > 0]
    for one in late:
        gone = one.missing_ah / fit.capacity_ah
        said += say("fit.late", current=(one.current_a, "A"), begun=(1 - gone, "share"), gone=(gone, "share"))
    full_v, top = CHEMISTRIES[cell.chemistry].charge_v, fit.curve.open_circuit_v[-1]
    if full_v is None:
        return said
    told: dict[str, Fact] = {"top": (top, "V"), "full": (full_v, "V")}
    if top > full_v + READS_HIGH_V:
        said += say("fit.reads-high", off=(top / full_v - 1, "share"), **told)
    elif top < full_v - READS_LOW_V:
        said += say("fit.reads-low", **told)
    return said


def _what_it_knows(discharges: list[Discharge]) -> str:
    largest = max(d.current_a for d in discharges)
    if len(discharges) == 1:
        return say("fit.one-current", more=(2 * largest, "A"))
    strongest = max(discharges, key=lambda d: d.current_a)
    usual = all(d.pause_ohm is None for d in discharges) and not has_early_seconds(strongest)
    return say(
        "fit.several", currents="two" if len(discharges) == 2 else "three", usual=(USUAL_FAST, "share") if usual else None,
        trusted=(TRUSTED * largest, "A"),
    )  # fmt: skip


class CellTask(BaseModel):
    """What a datasheet says of a cell. What it does not say is taken from cells of its kind."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    name: Title
    chemistry: Chemistry
    form: Form
    capacity_ah: AmpereHour
    capacity_at_a: Annotated[float, Field(ge=1e-9, le=100)] | None = Field(
        None, description="current it is given for [A]"
    )
    second_ah: AmpereHour | None = Field(None, description="capacity at a larger current [A h]")
    second_at_a: Annotated[float, Field(ge=1e-9, le=100)] | None = None
    resistance_ohm: Annotated[float, Field(ge=1e-6, le=1000)] | None = None
    cutoff_v: Volt | None = None
    discharge_max_a: Annotated[float, Field(ge=1e-9, le=1000)] | None = None
    charge_max_a: Annotated[float, Field(ge=1e-9, le=1000)] | None = None
    size_mm: Size
    mass_g: Annotated[float, Field(ge=1e-3, le=50000)] | None = None
    cost: Money = 0

    @model_validator(mode="after")
    def second_is_whole(self) -> CellTask:
        if (self.second_ah is None) != (self.second_at_a is None):
            raise ValueError("a second capacity needs its current")
        if self.second_ah is not None and self.second_at_a is not None:
            if self.second_ah > self.capacity_ah:
                raise ValueError("the capacity at the larger current is above the one at the smaller")
            if self.second_at_a <= (self.capacity_at_a or 0):
                raise ValueError("the second current is not above the first")
        return self


@record
class DatasheetCell:
    """The cell, and what of it was given by cells of its kind rather than by its datasheet."""

    cell: Cell
    assumed: list[Figure]
    left_behind: Figure | None
    second: Figure | None
    sentence: str


def cell_from_datasheet(task: CellTask, catalogue: Catalogue) -> DatasheetCell:
    """A cell from a datasheet's few figures. Raises DocumentError where no cell can be like that.

    >>> from ember_core.catalogue import built_in
    >>> task = CellTask(name="Pouch", chemistry="lithium-ion", form="pouch", capacity_ah=1.0, size_mm=(5, 34, 50))
    >>> made = cell_from_datasheet(task, built_in())
    >>> made.cell.cutoff_v, made.cell.capacity_ah
    (3.0, 1.0)
    """
    alike = [c for c in catalogue.cells if c.chemistry == task.chemistry and c.bank is None]
    volume = task.size_mm[0] * task.size_mm[1] * task.size_mm[2]
    usual: dict[str, tuple[float, str]] = {
        "resistance_ohm": (_median(c.resistance_ohm * c.capacity_ah for c in alike) / task.capacity_ah, "Ω"),
        "cutoff_v": (_median(c.cutoff_v for c in alike), "V"),
        "discharge_max_a": (_median(c.discharge_max_a / c.capacity_ah for c in alike) * task.capacity_ah, "A"),
        "mass_g": (_median(c.mass_g / _volume(c) for c in alike) * volume, "g"),
    }
    given = task.model_dump(include={"name", "chemistry", "form", "capacity_ah", "charge_max_a", "size_mm", "cost"})
    assumed = []
    for key, (value, unit) in usual.items():
        own = getattr(task, key)
        given[key] = own if own is not None else float(f"{value:.3g}")
        if own is None:
            assumed.append(
                figure(
                    f"usual-{key}".replace("_", "-"),
                    given[key],
                    unit,
                    [(called("cells"), float(len(alike)), "")],
                    "catalogue",
                )
            )
    try:
        plain = Cell.model_validate(given)
        cell, left_behind, second = _with_second(plain, task)
    except ValidationError as error:
        said = [
            Problem(pointer(*e["loc"]), f"comes out of these figures as one that no cell has: {sentence(e)}")
            for e in error.errors()
        ]
        raise DocumentError(said) from None
    return DatasheetCell(
        cell=cell,
        assumed=assumed,
        left_behind=left_behind,
        second=second,
        sentence=_sentence(task, assumed, second),
    )


def _volume(cell: Cell) -> float:
    x, y, z = cell.size_mm
    return x * y * z


def _median(values: Iterable[float]) -> float:
    return float(np.median(list(values)))


def _with_second(cell: Cell, task: CellTask) -> tuple[Cell, Figure | None, Figure | None]:
    """The cell with what stays inside per ampere so that it gives the second capacity too."""
    source = "two capacities at two currents give the unavailable charge per ampere"
    if task.second_ah is None or task.second_at_a is None:
        return cell, None, None
    gentle = task.capacity_at_a or 0.0
    grid = np.linspace(0.0, 1.0, GRID)
    ohm = cell.resistance_ohm * resistance_factor(cell.chemistry, grid)
    volts = open_circuit_voltage(cell.chemistry, grid)
    slope = (task.capacity_ah - task.second_ah) / (task.second_at_a - gentle)
    whole = task.capacity_ah + slope * gentle
    curve = CellCurve(
        soc=grid.tolist(),
        open_circuit_v=volts.tolist(),
        resistance_ohm=ohm.tolist(),
        unavailable_h=float(f"{slope:.5g}"),
        measured_a=[amps for amps in (gentle, task.second_at_a) if amps > 0],
    )
    own = Cell.model_validate(cell.model_dump() | {"capacity_ah": float(f"{whole:.5g}"), "curve": curve})
    cut = np.flatnonzero(volts - task.second_at_a * ohm < cell.cutoff_v)
    by_voltage = float(grid[cut[-1]]) if cut.size else 0.0
    reached = whole * (1 - max(by_voltage, slope * task.second_at_a / whole))
    inputs: list[tuple[str, float | None, str]] = [
        (called("first"), task.capacity_ah, "Ah"),
        (called("at"), gentle, "A"),
        (called("second"), task.second_ah, "Ah"),
        (called("at"), task.second_at_a, "A"),
    ]
    return (
        own,
        figure("stays-inside-per-ampere", slope, "h", inputs, source),
        figure("gives-at-the-larger-current", reached, "Ah", inputs, source),
    )


def _sentence(task: CellTask, assumed: list[Figure], second: Figure | None) -> str:
    count = len(assumed) or None
    if second is None or task.second_ah is None:
        return say("sheet.taken", assumed=count, second=Said("sheet.no-second"))
    off = (second.value or 0.0) / task.second_ah - 1
    if abs(off) < AGREES:
        return say("sheet.taken", assumed=count, second=Said("sheet.both", {"off": (abs(off), "share")}))
    apart: dict[str, Fact] = {"second": (second.value, "Ah"), "said": (task.second_ah, "Ah")}
    return say("sheet.taken", assumed=count, second=Said("sheet.apart", apart))
