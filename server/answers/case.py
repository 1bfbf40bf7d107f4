"""The case: places, gaps, sections, heat in it, its surface, its files, and what holds it together."""

from __future__ import annotations

from typing import Annotated, Literal

from django.http import HttpResponse
from ninja import Query, Router, Schema
from pydantic import Field

from common.requests import DESIGN_BODY, SignedIn
from ember_core.design import OwnMaking
from ember_core.enclosure.case_files import CONTENT_TYPES, CaseFormat, case_file
from ember_core.making import own_making
from ember_core.studies import (
    GapsAnswer,
    HeatAnswer,
    HoldingOffer,
    PlaceAnswer,
    SectionAnswer,
    ShellAnswer,
    SmallestCase,
    answer_gaps,
    answer_heat,
    answer_holding,
    answer_place,
    answer_section,
    answer_shell,
    answer_smallest,
)

from .asked import asked

router = Router(tags=["answers"])


class PlaceQuery(Schema):
    anew: bool = Field(False, description="everything, not only what has no place yet")


@router.post("/answers/place", response=PlaceAnswer, openapi_extra=DESIGN_BODY)
def ask_for_places(request: SignedIn, which: Query[PlaceQuery]) -> PlaceAnswer:
    """An edit that places everything in the case without collisions, and what finds no room."""
    return answer_place(asked(request), which.anew)


@router.post("/answers/smallest-case", response=SmallestCase, openapi_extra=DESIGN_BODY)
def ask_for_the_smallest_case(request: SignedIn) -> SmallestCase:
    """The smallest case of its kind in which everything finds its place, judged whole."""
    return answer_smallest(asked(request))


class BodyQuery(Schema):
    where: Annotated[str, Field(max_length=80)] = Field(description="JSON pointer to what the body belongs to")


@router.post("/answers/gaps", response=GapsAnswer | None, openapi_extra=DESIGN_BODY)
def ask_for_gaps(request: SignedIn, which: Query[BodyQuery]) -> GapsAnswer | None:
    """How far a body is from what surrounds it. Null where it has no place."""
    return answer_gaps(asked(request).design, which.where)


class SectionQuery(Schema):
    axis: Literal["x", "y", "z"] = Field(description="the axis across which the case is cut")
    at_mm: Annotated[float, Field(ge=0, le=2000)] = Field(description="from the outer corner [mm]")


@router.post("/answers/section", response=SectionAnswer, openapi_extra=DESIGN_BODY)
def ask_for_a_section(request: SignedIn, which: Query[SectionQuery]) -> SectionAnswer:
    """The case cut by a plane: outlines, and walls and gaps measured in it."""
    return answer_section(asked(request).design, which.axis, which.at_mm)


@router.post("/answers/heat", response=HeatAnswer, openapi_extra=DESIGN_BODY)
def ask_for_heat(request: SignedIn) -> HeatAnswer:
    """Every temperature in every mode on the hottest day, and while it charges."""
    return answer_heat(asked(request))


class CaseQuery(Schema):
    kind: CaseFormat = Field(description="the kind of file")


@router.post("/answers/case", response={200: None}, openapi_extra=DESIGN_BODY)
def ask_for_the_case(request: SignedIn, which: Query[CaseQuery]) -> HttpResponse:
    """The pieces of the case as a file to print: walls, openings and posts, in millimetres."""
    response = HttpResponse(case_file(asked(request).design, which.kind), content_type=CONTENT_TYPES[which.kind])
    response["Content-Disposition"] = f'attachment; filename="case.{which.kind}"'
    return response


@router.post("/answers/shell", response=ShellAnswer, openapi_extra=DESIGN_BODY)
def ask_for_the_shell(request: SignedIn) -> ShellAnswer:
    """The surface of a case that is more than a box, to draw it."""
    return answer_shell(asked(request).design)


@router.post("/answers/making", response=OwnMaking, openapi_extra=DESIGN_BODY)
def ask_for_the_making(request: SignedIn) -> OwnMaking:
    """What holds for the case as it is made, as figures of one's own to begin with."""
    return own_making(asked(request).design.enclosure)


@router.post("/answers/holding", response=list[HoldingOffer], openapi_extra=DESIGN_BODY)
def ask_for_fastenings(request: SignedIn) -> list[HoldingOffer]:
    """What may hold the case together, each kind in every size that finds room, with its places."""
    return answer_holding(asked(request))
