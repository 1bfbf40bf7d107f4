"""Stateless routes for questions: what if a rail were otherwise, and the small design tasks around the supply."""

from __future__ import annotations

from typing import Annotated, Literal

from django.http import HttpResponse
from ninja import File, Form, Query, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field

from catalogue.services import catalogue_for
from config.errors import not_found
from config.requests import DESIGN_BODY, SignedIn
from config.uploads import read_upload
from ember_core import DocumentError, Problem, build_design, read_design
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
from ember_core.calculators.divider import DividerAnswer, DividerTask, design_divider
from ember_core.calculators.led import LedAnswer, LedTask, design_lamp
from ember_core.choosing import chosen_design
from ember_core.design import Cell, Need, OwnMaking, Pin
from ember_core.design.merging import Merged, merge
from ember_core.enclosure.case_files import CONTENT_TYPES, CaseFormat, case_file
from ember_core.imports.discharge import LARGEST_BYTES, read_discharge
from ember_core.making import own_making
from ember_core.measures.bench import TrialBench
from ember_core.schools import SchoolAnswer, answer_schools
from ember_core.studies import (
    CellChoice,
    ChargeAnswer,
    DayTrace,
    GapsAnswer,
    HeatAnswer,
    HoldingOffer,
    InsteadAnswer,
    IntervalCurve,
    Outlook,
    PlaceAnswer,
    RailAnswers,
    RangeAnswer,
    RemedyAnswer,
    Saving,
    SectionAnswer,
    ShellAnswer,
    SmallestCase,
    SocTable,
    Stack,
    answer_cells,
    answer_charge,
    answer_day,
    answer_gaps,
    answer_heat,
    answer_holding,
    answer_instead,
    answer_intervals,
    answer_outlook,
    answer_place,
    answer_rail,
    answer_range,
    answer_remedies,
    answer_savings,
    answer_section,
    answer_shell,
    answer_smallest,
    answer_soc_table,
    stack_savings,
)
from ember_core.wiring import WiringSheet, needs_text, pins_text, read_needs, read_pins, wiring_sheet

from .schemas import Document

router = Router(tags=["answers"])


@router.post("/answers/rail/{rail_id}", response=RailAnswers, openapi_extra=DESIGN_BODY)
def ask_about_rail(request: SignedIn, rail_id: str) -> RailAnswers:
    """Converters for a rail of the design in the body, best first, and what if the rail were otherwise."""
    design = read_design(request.body)
    position = next((i for i, r in enumerate(design.supply.rails) if r.id == rail_id), None)
    if position is None:
        raise not_found("rail of this design")
    return answer_rail(TrialBench(design, catalogue_for(request.user)), position)


class InsteadQuery(Schema):
    text: str = Field(
        "",
        max_length=100,
        description="what the others' names and notes have to do with; empty: those with the most alike names",
    )


@router.post("/answers/instead/{part_id}", response=InsteadAnswer, openapi_extra=DESIGN_BODY)
def ask_for_others_in_its_place(request: SignedIn, part_id: str, which: Query[InsteadQuery]) -> InsteadAnswer:
    """Other parts in the place of one: those kept beside it, and those of the catalogue of its kind."""
    design = read_design(request.body)
    position = next((i for i, p in enumerate(design.parts) if p.id == part_id), None)
    if position is None:
        raise not_found("part of this design")
    return answer_instead(TrialBench(design, catalogue_for(request.user)), position, which.text)


class CellsQuery(Schema):
    with_changes: bool = Field(
        False,
        description="those that suit and do harm are tried with the charger and the places that they ask for; takes longer",
    )


@router.post("/answers/cells", response=list[CellChoice], openapi_extra=DESIGN_BODY)
def ask_for_cells(request: SignedIn, which: Query[CellsQuery]) -> list[CellChoice]:
    """All catalogue cells for the design in the body, those that suit first."""
    return answer_cells(_asked(request), with_changes=which.with_changes)


@router.post("/answers/schools", response=list[SchoolAnswer], openapi_extra=DESIGN_BODY)
def ask_for_schools(request: SignedIn) -> list[SchoolAnswer]:
    """The design in the body completed on each of six supplies; the one that it has as it stands."""
    return answer_schools(_asked(request))


@router.post("/answers/wiring", response=WiringSheet, openapi_extra=DESIGN_BODY)
def ask_for_wiring(request: SignedIn) -> WiringSheet:
    """Which pin goes to which signal, what finds none and the ways out of it, and the wires of the supply."""
    return wiring_sheet(_asked(request))


class PinsIn(Schema):
    pins: str | None = Field(None, max_length=20_000, description="one a line: P4: in out analogue wake")
    needs: str | None = Field(None, max_length=20_000, description="one a line: key: in x3 wakes pull")


class PinsOut(Schema):
    pins: list[Pin]
    needs: list[Need]


@router.post("/answers/pins", response=PinsOut)
def read_typed_pins(request: SignedIn, body: PinsIn) -> PinsOut:
    """Pins and signals as they were typed or pasted."""
    return PinsOut(pins=read_pins(body.pins or ""), needs=read_needs(body.needs or ""))


class PartPins(Schema):
    pins: list[Pin] = []
    needs: list[Need] = []


class PinsText(Schema):
    pins: str
    needs: str


@router.post("/answers/pins/text", response=PinsText)
def write_pins(request: SignedIn, body: PartPins) -> PinsText:
    """The same as text to be changed."""
    return PinsText(pins=pins_text(body.pins), needs=needs_text(body.needs))


class ChosenQuery(Schema):
    cell: str = Field(max_length=120)
    series: int = Field(1, ge=1, le=24)
    parallel: int = Field(1, ge=1, le=24)
    charger: str = Field("", max_length=120)
    options: list[str] = Field([], max_length=200, description="what stands in each place, as its row says")


@router.post("/answers/choice/design", response=SchoolAnswer, openapi_extra=DESIGN_BODY)
def ask_for_chosen(request: SignedIn, which: Query[ChosenQuery]) -> SchoolAnswer:
    """One of these supplies put into the gadget, everything placed as far as it goes in, and judged whole."""
    return chosen_design(_asked(request), which.cell, which.series, which.parallel, which.charger, which.options)


class ChargeQuery(Schema):
    begins_at: float = Field(0.0, ge=0, le=0.99, description="state of charge when it is plugged in, 0..1")


@router.post("/answers/charge", response=ChargeAnswer | None, openapi_extra=DESIGN_BODY)
def ask_for_charge(request: SignedIn, which: Query[ChargeQuery]) -> ChargeAnswer | None:
    """The course of a charge, other settings and other loads meanwhile. Null without a charger for its cells."""
    return answer_charge(_asked(request), which.begins_at)


@router.post("/answers/heat", response=HeatAnswer, openapi_extra=DESIGN_BODY)
def ask_for_heat(request: SignedIn) -> HeatAnswer:
    """Every temperature in every mode on the hottest day, and while it charges."""
    return answer_heat(_asked(request))


class PlaceQuery(Schema):
    anew: bool = Field(False, description="everything, not only what has no place yet")


@router.post("/answers/place", response=PlaceAnswer, openapi_extra=DESIGN_BODY)
def ask_for_places(request: SignedIn, which: Query[PlaceQuery]) -> PlaceAnswer:
    """An edit that places everything in the case without collisions, and what finds no room."""
    return answer_place(_asked(request), which.anew)


@router.post("/answers/smallest-case", response=SmallestCase, openapi_extra=DESIGN_BODY)
def ask_for_the_smallest_case(request: SignedIn) -> SmallestCase:
    """The smallest case of its kind in which everything finds its place, judged whole."""
    return answer_smallest(_asked(request))


class BodyQuery(Schema):
    where: Annotated[str, Field(max_length=80)] = Field(description="JSON pointer to what the body belongs to")


@router.post("/answers/gaps", response=GapsAnswer | None, openapi_extra=DESIGN_BODY)
def ask_for_gaps(request: SignedIn, which: Query[BodyQuery]) -> GapsAnswer | None:
    """How far a body is from what surrounds it. Null where it has no place."""
    return answer_gaps(_asked(request).design, which.where)


class SectionQuery(Schema):
    axis: Literal["x", "y", "z"] = Field(description="the axis across which the case is cut")
    at_mm: Annotated[float, Field(ge=0, le=2000)] = Field(description="from the outer corner [mm]")


@router.post("/answers/section", response=SectionAnswer, openapi_extra=DESIGN_BODY)
def ask_for_a_section(request: SignedIn, which: Query[SectionQuery]) -> SectionAnswer:
    """The case cut by a plane: outlines, and walls and gaps measured in it."""
    return answer_section(_asked(request).design, which.axis, which.at_mm)


class CaseQuery(Schema):
    kind: CaseFormat = Field(description="the kind of file")


@router.post("/answers/case", response={200: None}, openapi_extra=DESIGN_BODY)
def ask_for_the_case(request: SignedIn, which: Query[CaseQuery]) -> HttpResponse:
    """The pieces of the case as a file to print: walls, openings and posts, in millimetres."""
    response = HttpResponse(case_file(_asked(request).design, which.kind), content_type=CONTENT_TYPES[which.kind])
    response["Content-Disposition"] = f'attachment; filename="case.{which.kind}"'
    return response


@router.post("/answers/shell", response=ShellAnswer, openapi_extra=DESIGN_BODY)
def ask_for_the_shell(request: SignedIn) -> ShellAnswer:
    """The surface of a case that is more than a box, to draw it."""
    return answer_shell(_asked(request).design)


@router.post("/answers/making", response=OwnMaking, openapi_extra=DESIGN_BODY)
def ask_for_the_making(request: SignedIn) -> OwnMaking:
    """What holds for the case as it is made, as figures of one's own to begin with."""
    return own_making(_asked(request).design.enclosure)


@router.post("/answers/holding", response=list[HoldingOffer], openapi_extra=DESIGN_BODY)
def ask_for_fastenings(request: SignedIn) -> list[HoldingOffer]:
    """What may hold the case together, each kind in every size that finds room, with its places."""
    return answer_holding(_asked(request))


@router.post("/answers/remedies", response=list[RemedyAnswer], openapi_extra=DESIGN_BODY)
def ask_for_remedies(request: SignedIn) -> list[RemedyAnswer]:
    """The ways out of the findings of the design in the body, each held against it: the second answer to an edit."""
    return answer_remedies(_asked(request))


@router.post("/answers/range", response=RangeAnswer | None, openapi_extra=DESIGN_BODY)
def ask_for_range(request: SignedIn) -> RangeAnswer | None:
    """The runtime's range from many samples, and what to measure next. Null while nothing is drawn."""
    return answer_range(_asked(request))


@router.post("/answers/outlook", response=Outlook | None, openapi_extra=DESIGN_BODY)
def ask_for_outlook(request: SignedIn) -> Outlook | None:
    """The runtime over temperature and over the years. Null while nothing is drawn."""
    return answer_outlook(_asked(request))


@router.post("/answers/intervals", response=list[IntervalCurve], openapi_extra=DESIGN_BODY)
def ask_for_intervals(request: SignedIn) -> list[IntervalCurve]:
    """The runtime against the interval of each wake that matters, and where its knee is."""
    return answer_intervals(_asked(request))


@router.post("/answers/soc-table", response=SocTable | None, openapi_extra=DESIGN_BODY)
def ask_for_soc_table(request: SignedIn) -> SocTable | None:
    """Voltage to charge for the firmware, also as CSV and C header. Null while nothing is drawn."""
    return answer_soc_table(_asked(request))


class DayQuery(Schema):
    charge: float = Field(0.5, ge=1e-3, le=1, description="state of charge at midnight, 0..1")
    day: int = Field(0, ge=0, lt=365, description="day of the year; 0 is a Monday in January")


@router.post("/answers/day", response=DayTrace | None, openapi_extra=DESIGN_BODY)
def ask_for_day(request: SignedIn, which: Query[DayQuery]) -> DayTrace | None:
    """One day at the battery, event by event. Null while nothing is drawn."""
    return answer_day(_asked(request), which.charge, which.day)


@router.post("/answers/savings", response=list[Saving], openapi_extra=DESIGN_BODY)
def ask_for_savings(request: SignedIn) -> list[Saving]:
    """What would help most: measures of the design in the body, alone and stacked."""
    return answer_savings(_asked(request))


class StackQuery(Schema):
    key: list[Annotated[str, Field(max_length=200)]] = Field(
        max_length=40, description="measures, in the order of applying"
    )


@router.post("/answers/savings/stack", response=Stack, openapi_extra=DESIGN_BODY)
def ask_for_stack(request: SignedIn, picked: Query[StackQuery]) -> Stack:
    """Some of the measures together."""
    return stack_savings(_asked(request), picked.key)


def _asked(request: SignedIn) -> TrialBench:
    return TrialBench(read_design(request.body), catalogue_for(request.user))


class Versions(Schema):
    base: Document = Field(description="what both began with")
    mine: Document
    theirs: Document


@router.post("/answers/merge", response=Merged)
def merge_versions(request: SignedIn, body: Versions) -> Merged:
    """Two versions of one document put together, and where they can't be, told apart in words. Nothing is stored."""
    return merge(build_design(body.base), build_design(body.mine), build_design(body.theirs))


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


@router.post("/answers/capacitor", response=CapacitorAnswer)
def ask_for_capacitor(request: SignedIn, task: CapacitorTask) -> CapacitorAnswer:
    return design_capacitor(task)


@router.post("/answers/divider", response=DividerAnswer)
def ask_for_divider(request: SignedIn, task: DividerTask) -> DividerAnswer:
    return design_divider(task)


@router.post("/answers/led", response=LedAnswer)
def ask_for_led(request: SignedIn, task: LedTask) -> LedAnswer:
    return design_lamp(task)
