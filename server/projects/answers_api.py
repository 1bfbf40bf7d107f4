"""Stateless routes for questions: what if a rail were otherwise, and the small design tasks around the supply."""

from __future__ import annotations

from django.http import HttpRequest
from ninja import File, Form, Router
from ninja.files import UploadedFile

from catalogue.services import catalogue_for
from config.errors import not_found
from config.uploads import read_upload
from ember_core import DocumentError, Problem, read_design
from ember_core.answers import CellChoice, RailAnswers, answer_cells, answer_rail
from ember_core.context import Context
from ember_core.designers.capacitor import CapacitorAnswer, CapacitorTask, design_capacitor
from ember_core.designers.cell import FittedCell, fit_cell, read_cell
from ember_core.designers.divider import DividerAnswer, DividerTask, design_divider
from ember_core.designers.lamp import LampAnswer, LampTask, design_lamp
from ember_core.discharge_csv import LARGEST_BYTES, read_discharge

from .evaluate_api import DESIGN_BODY

router = Router(tags=["answers"])


@router.post("/answers/rail/{rail_id}", response=RailAnswers, openapi_extra=DESIGN_BODY)
def ask_about_rail(request: HttpRequest, rail_id: str) -> RailAnswers:
    """Converters for a rail of the design in the body, best first, and what if the rail were otherwise."""
    design = read_design(request.body)
    position = next((i for i, r in enumerate(design.supply.rails) if r.id == rail_id), None)
    if position is None:
        raise not_found("rail of this design")
    return answer_rail(Context(design, catalogue_for(request.user)), position)  # type: ignore[arg-type]


@router.post("/answers/cells", response=list[CellChoice], openapi_extra=DESIGN_BODY)
def ask_for_cells(request: HttpRequest) -> list[CellChoice]:
    """All catalogue cells for the design in the body, those that suit first."""
    return answer_cells(Context(read_design(request.body), catalogue_for(request.user)))  # type: ignore[arg-type]


@router.post("/answers/calibration", response=FittedCell)
def calibrate_cell(request: HttpRequest, cell: Form[str], files: File[list[UploadedFile]]) -> FittedCell:
    """A cell fitted to one or two measured discharges (CSV). Nothing is stored."""
    known = read_cell(cell)
    discharges = []
    for file in files[:3]:
        try:
            discharges.append(read_discharge(read_upload(file, LARGEST_BYTES)))
        except DocumentError as error:
            raise DocumentError(
                [Problem(f"{file.name}: {p.path}".rstrip(": "), p.message) for p in error.problems]
            ) from None
    return fit_cell(known, discharges)


@router.post("/answers/capacitor", response=CapacitorAnswer)
def ask_for_capacitor(request: HttpRequest, task: CapacitorTask) -> CapacitorAnswer:
    return design_capacitor(task)


@router.post("/answers/divider", response=DividerAnswer)
def ask_for_divider(request: HttpRequest, task: DividerTask) -> DividerAnswer:
    return design_divider(task)


@router.post("/answers/lamp", response=LampAnswer)
def ask_for_lamp(request: HttpRequest, task: LampTask) -> LampAnswer:
    return design_lamp(task)
