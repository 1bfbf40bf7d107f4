"""Small design tasks that need no whole gadget: a measured cell, one from its datasheet, capacitor, divider, light."""

from __future__ import annotations

from ninja import File, Form, Router
from ninja.files import UploadedFile

from catalogue.services import catalogue_for
from common.requests import SignedIn
from common.uploads import read_upload
from ember_core import DocumentError, Problem
from ember_core.battery.calibration import Discharge
from ember_core.calculators.capacitor import CapacitorAnswer, CapacitorTask, design_capacitor
from ember_core.calculators.cell import (
    CellTask,
    ColdCell,
    DatasheetCell,
    FittedCell,
    cell_from_datasheet,
    fit_cell,
    fit_cold,
    read_cell,
)
from ember_core.calculators.check import CheckAnswer, CheckTask, check_cell
from ember_core.calculators.divider import DividerAnswer, DividerTask, design_divider
from ember_core.calculators.led import LedAnswer, LedTask, design_lamp
from ember_core.design import Cell
from ember_core.imports.discharge import LARGEST_BYTES, read_discharge

router = Router(tags=["answers"])


@router.post("/answers/calibration", response=FittedCell)
def calibrate_cell(request: SignedIn, cell: Form[str], files: File[list[UploadedFile]]) -> FittedCell:
    """A cell fitted to one to three measured discharges (CSV). Nothing is stored."""
    known = read_cell(cell)
    return fit_cell(known, [_discharge(file, known) for file in files[:3]])


@router.post("/answers/calibration/cold", response=ColdCell)
def calibrate_cold(
    request: SignedIn, cell: Form[str], temperature_c: Form[float], file: File[UploadedFile]
) -> ColdCell:
    """A calibrated cell fitted to one more discharge (CSV), measured in the cold. Nothing is stored."""
    known = read_cell(cell)
    return fit_cold(known, _discharge(file, known), temperature_c)


def _discharge(file: UploadedFile, cell: Cell) -> Discharge:
    try:
        return read_discharge(read_upload(file, LARGEST_BYTES), cell.capacity_ah)
    except DocumentError as error:
        raise DocumentError(
            [Problem(f"{file.name}: {p.path}".rstrip(": "), p.message) for p in error.problems]
        ) from None


@router.post("/answers/datasheet", response=DatasheetCell)
def ask_for_cell_from_datasheet(request: SignedIn, task: CellTask) -> DatasheetCell:
    """A cell from a datasheet's few figures. Nothing is stored."""
    return cell_from_datasheet(task, catalogue_for(request.user))


@router.post("/answers/check", response=CheckAnswer)
def ask_about_a_check(request: SignedIn, task: CheckTask) -> CheckAnswer:
    """What a cell held down to its cut-off through a load, and its resistance by a step of it. Nothing is stored."""
    return check_cell(task)


@router.post("/answers/capacitor", response=CapacitorAnswer)
def ask_for_capacitor(request: SignedIn, task: CapacitorTask) -> CapacitorAnswer:
    return design_capacitor(task)


@router.post("/answers/divider", response=DividerAnswer)
def ask_for_divider(request: SignedIn, task: DividerTask) -> DividerAnswer:
    return design_divider(task)


@router.post("/answers/led", response=LedAnswer)
def ask_for_led(request: SignedIn, task: LedTask) -> LedAnswer:
    return design_lamp(task)
