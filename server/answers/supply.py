"""Which supply, and what stands in it: converters for a rail, other parts, cells, the schools, a chosen one, the charge; pins and wires."""

from __future__ import annotations

from typing import Annotated

from ninja import Query, Router, Schema
from pydantic import Field

from common.errors import not_found
from common.requests import DESIGN_BODY, SignedIn
from ember_core import read_design
from ember_core.choosing import chosen_design
from ember_core.design import Need, Pin
from ember_core.schools import SchoolAnswer, answer_schools
from ember_core.studies import (
    CellChoice,
    ChargeAnswer,
    Depth,
    InsteadAnswer,
    RailAnswers,
    answer_cells,
    answer_charge,
    answer_instead,
    answer_rail,
)
from ember_core.wiring import WiringSheet, needs_text, pins_text, read_needs, read_pins, wiring_sheet

from .asked import asked, benched

router = Router(tags=["answers"])


@router.post("/answers/rail/{rail_id}", response=RailAnswers, openapi_extra=DESIGN_BODY)
def ask_about_rail(request: SignedIn, rail_id: str) -> RailAnswers:
    """Converters for a rail of the design in the body, best first, and what if the rail were otherwise."""
    design = read_design(request.body)
    position = next((i for i, r in enumerate(design.supply.rails) if r.id == rail_id), None)
    if position is None:
        raise not_found("rail of this design")
    return answer_rail(benched(request, design), position)


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
    return answer_instead(benched(request, design), position, which.text)


class CellsQuery(Schema):
    depth: Depth = Field(
        "whole",
        description="at first sight, at once; each that suits judged whole in the gadget; or those that do harm tried with the charger and the places that they ask for, too",
    )
    name: list[Annotated[str, Field(max_length=200)]] = Field(
        [],
        max_length=60,
        description="only cells of these names, without the present pack: a whole answer in portions",
    )


@router.post("/answers/cells", response=list[CellChoice], openapi_extra=DESIGN_BODY)
def ask_for_cells(request: SignedIn, which: Query[CellsQuery]) -> list[CellChoice]:
    """All catalogue cells for the design in the body, those that suit first."""
    return answer_cells(asked(request), which.depth, which.name or None)


@router.post("/answers/schools", response=list[SchoolAnswer], openapi_extra=DESIGN_BODY)
def ask_for_schools(request: SignedIn) -> list[SchoolAnswer]:
    """The design in the body completed on each of six supplies; the one that it has as it stands."""
    return answer_schools(asked(request))


class ChosenQuery(Schema):
    cell: str = Field(max_length=120)
    series: int = Field(1, ge=1, le=24)
    parallel: int = Field(1, ge=1, le=24)
    charger: str = Field("", max_length=120)
    options: list[str] = Field([], max_length=200, description="what stands in each place, as its row says")
    parts: list[str] = Field([], max_length=200, description="what stands in the place of parts, as its row says")


@router.post("/answers/choice/design", response=SchoolAnswer, openapi_extra=DESIGN_BODY)
def ask_for_chosen(request: SignedIn, which: Query[ChosenQuery]) -> SchoolAnswer:
    """One of these supplies put into the gadget, everything placed as far as it goes in, and judged whole."""
    return chosen_design(
        asked(request), which.cell, which.series, which.parallel, which.charger, which.options, which.parts
    )


class ChargeQuery(Schema):
    begins_at: float = Field(0.0, ge=0, le=0.99, description="state of charge when it is plugged in, 0..1")


@router.post("/answers/charge", response=ChargeAnswer | None, openapi_extra=DESIGN_BODY)
def ask_for_charge(request: SignedIn, which: Query[ChargeQuery]) -> ChargeAnswer | None:
    """The course of a charge, other settings and other loads meanwhile. Null without a charger for its cells."""
    return answer_charge(asked(request), which.begins_at)


@router.post("/answers/wiring", response=WiringSheet, openapi_extra=DESIGN_BODY)
def ask_for_wiring(request: SignedIn) -> WiringSheet:
    """Which pin goes to which signal, what finds none and the ways out of it, and the wires of the supply."""
    return wiring_sheet(asked(request))


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
