"""Stateless routes: a document, or a typed text, in; what the core says about it out."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema
from pydantic import Field

from catalogue.services import catalogue_for
from config.errors import Refused
from ember_core import Evaluation, Problem, evaluate, read_design
from ember_core.cell_entry import CellEntry, EntryError, read_cell
from ember_core.design import Part
from ember_core.quantities import Dimension, QuantityError, parse_quantity

router = Router(tags=["evaluate"])

DESIGN_BODY = {  # the core reads the raw body, so that its problems come with their places
    "requestBody": {
        "required": True,
        "content": {"application/json": {"schema": {"$ref": "#/components/schemas/Design"}}},
    }
}


class QuantityOut(Schema):
    value: float


class CellIn(Schema):
    text: str = Field(max_length=200)
    part: Part


@router.post(
    "/evaluate",
    response=Evaluation,
    openapi_extra=DESIGN_BODY,
)
def evaluate_design(request: HttpRequest) -> HttpResponse:
    """Everything there is to say about a design document. Nothing is stored."""
    design = read_design(request.body)
    result = evaluate(design, catalogue_for(request.user))  # type: ignore[arg-type]
    return HttpResponse(result.model_dump_json(), content_type="application/json")


@router.get("/quantity", response=QuantityOut)
def read_quantity(request: HttpRequest, text: str, dimension: Dimension) -> QuantityOut:
    """A typed quantity ("120 mA") as a number in SI."""
    try:
        return QuantityOut(value=parse_quantity(text, dimension))
    except QuantityError as error:
        raise Refused(422, str(error), [Problem("/text", str(error))]) from None


@router.post("/cell", response=CellEntry)
def read_cell_text(request: HttpRequest, body: CellIn) -> CellEntry:
    """What was meant by a text typed into the draw grid. A doubtful one comes back with choices."""
    try:
        return read_cell(body.text, body.part)
    except EntryError as error:
        raise Refused(422, str(error), [Problem("/text", str(error))], choices=error.choices) from None
    except QuantityError as error:
        raise Refused(422, str(error), [Problem("/text", str(error))], choices=[]) from None
