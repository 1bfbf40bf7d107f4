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
)
from ..battery.chemistry import open_circuit_voltage, resistance_factor
from ..catalogue import Catalogue
from ..design import AmpereHour, Cell, CellCurve, Chemistry, Form, Money, Size, Title, Volt
from ..design.problems import DocumentError, Problem, from_validation, pointer, read_json, sentence
from ..figures import Figure, figure, record
from ..quantities import show

SOURCE = "two discharges at different steady currents, compared at the same charge taken"
AGREES = 0.03
DRAWN = 90  # points of a discharge that are drawn
CONTRADICTS = 2.0  # a measured capacity that many times the printed one, or the other way round


@record
class FitCurve:
    """One measured discharge and what the fitted cell gives for it, thinned: charge taken [A h], voltages [V]."""

    current_a: float
    charge_ah: list[float]
    measured_v: list[float]
    fitted_v: list[float]


@record
class FittedCell:
    """The cell with its curve and measured capacity."""

    cell: Cell
    capacity: Figure
    mean_error: Figure
    worst_error: Figure
    runtime_error: Figure
    curves: list[FitCurve]
    sentence: str


def read_cell(raw: str) -> Cell:
    """A cell from untrusted JSON. Raises DocumentError."""
    data = read_json(raw)
    try:
        return Cell.model_validate(data)
    except ValidationError as error:
        raise DocumentError(from_validation(error, data)) from None


def fit_cell(cell: Cell, discharges: list[Discharge]) -> FittedCell:
    """The cell with curves from one to three discharges. Raises DocumentError where they contradict it or each other."""
    if not 1 <= len(discharges) <= 3:
        raise DocumentError([Problem("", f"{len(discharges)} discharges were given; one to three are used")])
    try:
        fit = calibrate(discharges, cell.cutoff_v, cell.chemistry, cell.resistance_ohm)
    except CalibrationError as error:
        raise DocumentError([Problem("", str(error))]) from None
    ratio = fit.capacity_ah / cell.capacity_ah
    if not 1 / CONTRADICTS <= ratio <= CONTRADICTS:
        raise DocumentError(
            [Problem("", f"the discharges come to {show(fit.capacity_ah, 'Ah')}, and the cell is rated {show(cell.capacity_ah, 'Ah')}: "
                         "check the current's unit, or correct the rated capacity first")]
        )  # fmt: skip
    own = cell.model_copy(update={"capacity_ah": float(f"{fit.capacity_ah:.5g}"), "curve": fit.curve})
    good = fit.runtime_error < 0.01 and fit.mean_v < 0.01
    given: list[tuple[str, float | None, str]] = [
        (f"discharge {i + 1}", d.current_a, "A") for i, d in enumerate(discharges)
    ]
    return FittedCell(
        cell=own,
        capacity=figure("Capacity without load", fit.capacity_ah, "Ah", "charge at the gentler current + what stays inside per ampere × it", given, SOURCE),
        mean_error=figure("Mean difference", fit.mean_v, "V", "mean of |fitted − measured| over all points", given, SOURCE),
        worst_error=figure("Largest difference", fit.worst_v, "V", "largest of |fitted − measured|", given, SOURCE),
        runtime_error=figure("Difference in duration", fit.runtime_error * 100, "%", "largest of |fitted ÷ measured − 1|", given, SOURCE),
        curves=[_drawn(fit, one) for one in fit.cut],
        sentence=(
            f"{'A good fit' if good else 'A rough fit'}: {show(fit.mean_v, 'V')} off on average, durations within "
            f"{show(fit.runtime_error, 'share')}. "
            + _what_it_knows(discharges)
        ),
    )  # fmt: skip


def _drawn(fit: Calibration, one: Discharge) -> FitCurve:
    keep = np.unique(np.linspace(0, one.time_s.size - 1, DRAWN).astype(int))
    columns = (one.charge_ah, one.voltage_v, given_back(fit.curve, fit.capacity_ah, one))
    charge, measured, fitted = ([float(f"{v:.5g}") for v in x[keep]] for x in columns)
    return FitCurve(current_a=one.current_a, charge_ah=charge, measured_v=measured, fitted_v=fitted)


def _what_it_knows(discharges: list[Discharge]) -> str:
    largest = max(d.current_a for d in discharges)
    if len(discharges) == 1:
        return (
            f"With one current the resistance stays the datasheet's, and what larger currents leave inside is not known: a second discharge, at "
            f"{show(2 * largest, 'A')} or more, would measure both."
        )
    said = "With two currents the resistance and the unavailable charge are measured too"
    if len(discharges) > 2:
        said = "With three currents the resistance, the unavailable charge and how that grows with the current are measured too"
    if all(d.pause_ohm is None for d in discharges) and not has_early_seconds(
        max(discharges, key=lambda d: d.current_a)
    ):
        said += f"; the first seconds are missing, so {USUAL_FAST * 100:.0f} % of the resistance is taken to be there at once, as usual"
    return f"{said}. It holds up to about {show(TRUSTED * largest, 'A')}."


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
    """A cell from a datasheet's few figures. Raises DocumentError where no cell can be like that."""
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
            assumed.append(figure(_NAMES[key], given[key], unit, "median of the catalogue's cells of this chemistry, scaled "
                                  "by capacity or volume", [("cells", float(len(alike)), "")], "catalogue"))  # fmt: skip
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


_NAMES = {
    "resistance_ohm": "Resistance", "cutoff_v": "Cut-off", "discharge_max_a": "Most discharge current", "mass_g": "Mass",
}  # fmt: skip


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
        ("first", task.capacity_ah, "Ah"), ("at", gentle, "A"), ("second", task.second_ah, "Ah"), ("at", task.second_at_a, "A"),
    ]  # fmt: skip
    return (
        own,
        figure(
            "Stays inside per ampere",
            slope,
            "h",
            "difference of the capacities ÷ difference of the currents",
            inputs,
            source,
        ),
        figure(
            "Gives at the larger current",
            reached,
            "Ah",
            "whole − what stays inside, or down to the cut-off under load",
            inputs,
            source,
        ),
    )


def _sentence(task: CellTask, assumed: list[Figure], second: Figure | None) -> str:
    said = f"{len(assumed)} figures are taken from cells of its kind." if assumed else "All figures are its own."
    if second is None or task.second_ah is None:
        return f"{said} A second capacity, at a larger current, would show how it does under load."
    off = (second.value or 0.0) / task.second_ah - 1
    if abs(off) < AGREES:
        return f"{said} It gives both capacities back within {show(abs(off), 'share')}."
    return (
        f"{said} At the larger current it comes to {show(second.value, 'Ah')}, and the datasheet says {show(task.second_ah, 'Ah')}: the "
        "resistance or the cut-off does not go with it."
    )
