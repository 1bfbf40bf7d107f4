"""A cell fitted to its own measured discharges, with the quality of the fit."""

from __future__ import annotations

from pydantic import ValidationError

from ..calibration import CalibrationError, Discharge, calibrate
from ..design import Cell
from ..figures import Figure, Result, figure
from ..problems import DocumentError, Problem, from_validation, read_json
from ..quantities import show

SOURCE = "two discharges at different currents; docs/MODELS.md, calibrated cells"
CONTRADICTS = 2.0  # a measured capacity that many times the printed one, or the other way round


class FittedCell(Result):
    """The cell with its curve and measured capacity."""

    cell: Cell
    capacity: Figure
    mean_error: Figure
    worst_error: Figure
    runtime_error: Figure
    sentence: str


def read_cell(raw: str) -> Cell:
    """A cell from untrusted JSON. Raises DocumentError."""
    data = read_json(raw)
    try:
        return Cell.model_validate(data)
    except ValidationError as error:
        raise DocumentError(from_validation(error, data)) from None


def fit_cell(cell: Cell, discharges: list[Discharge]) -> FittedCell:
    """The cell with curves from one or two discharges. Raises DocumentError where they contradict it or each other."""
    if not 1 <= len(discharges) <= 2:
        raise DocumentError([Problem("", f"{len(discharges)} discharges were given; one or two are used")])
    try:
        fit = calibrate(discharges, cell.cutoff_v, cell.chemistry, cell.resistance_ohm)
    except CalibrationError as error:
        raise DocumentError([Problem("", str(error))]) from None
    ratio = fit.capacity_ah / cell.capacity_ah
    if not 1 / CONTRADICTS <= ratio <= CONTRADICTS:
        raise DocumentError(
            [Problem("", f"the discharges come to {show(fit.capacity_ah, 'Ah')}, and the cell is printed {show(cell.capacity_ah, 'Ah')}: "
                         "check the current's unit, or correct the printed capacity first")]
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
        sentence=(
            f"{'A good fit' if good else 'A rough fit'}: {show(fit.mean_v, 'V')} off on average, durations within "
            f"{show(fit.runtime_error, 'share')}. "
            + ("With two currents the resistance and what stays inside are measured too."
               if len(discharges) == 2 else "With one current the resistance stays the datasheet's; a second discharge would measure it.")
        ),
    )  # fmt: skip
