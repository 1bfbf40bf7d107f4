"""Stateless routes: a document, or a typed text, in; what the core says about it out."""

from __future__ import annotations

from django.http import HttpResponse
from ninja import Router, Schema
from pydantic import Field

from catalogue.services import catalogue_for, edition
from common.errors import Refused
from common.requests import DESIGN_BODY, SignedIn
from ember_core import Evaluation, Problem, build_design, evaluate, read_design
from ember_core.design import Design, Part
from ember_core.design.merging import Merged, merge
from ember_core.figures import as_json
from ember_core.imports.grid_text import CellEntry, read_cell
from ember_core.load.occasion_text import Occasion, read_occasion
from ember_core.quantities import Dimension, QuantityError, parse_quantity, parse_span
from ember_core.studies import RemedyAnswer, answer_remedies
from projects import receipts
from projects.schemas import Document

from .asked import KNOWN, asked

router = Router(tags=["evaluate"])


class QuantityOut(Schema):
    value: float
    min: float | None = Field(None, description="of a range that was typed")
    max: float | None = None


class Typed(Schema):
    text: str = Field(max_length=500)
    now: str | None = Field(None, max_length=200, description="the state that is in the cell now")
    rail_v: float | None = Field(None, ge=1e-3, le=100, description="voltage of the part's rail in the mode [V]")


class CellIn(Typed):
    part: Part


class CellText(Typed):
    part: int = Field(ge=0, description="position in `parts`")


class CellsIn(Schema):
    parts: list[Part] = Field(max_length=1000)
    cells: list[CellText] = Field(max_length=20000)


@router.post(
    "/evaluate",
    response=Evaluation,
    openapi_extra=DESIGN_BODY,
)
def evaluate_design(request: SignedIn) -> HttpResponse:
    """Everything there is to say about a design document. Nothing is stored."""
    design = read_design(request.body)
    user, catalogue = request.user, edition(request.user)
    result = evaluate(design, catalogue_for(user, catalogue), KNOWN)
    response = HttpResponse(as_json(result), content_type="application/json")
    response.headers[receipts.HEADER] = receipts.issue(user, catalogue, design, result)
    return response


@router.post("/designs/present", response=Design, openapi_extra=DESIGN_BODY)
def present_design(request: SignedIn) -> Design:
    """A document of any format that is read, in the present one. Nothing is stored."""
    return read_design(request.body)


@router.post("/answers/remedies", response=list[RemedyAnswer], openapi_extra=DESIGN_BODY)
def ask_for_remedies(request: SignedIn) -> list[RemedyAnswer]:
    """The ways out of the findings of the design in the body, each held against it: the second answer to an edit."""
    return answer_remedies(asked(request))


class Versions(Schema):
    base: Document = Field(description="what both began with")
    mine: Document
    theirs: Document


@router.post("/answers/merge", response=Merged)
def merge_versions(request: SignedIn, body: Versions) -> Merged:
    """Two versions of one document put together, and where they can't be, told apart in words. Nothing is stored."""
    return merge(build_design(body.base), build_design(body.mine), build_design(body.theirs))


@router.get("/quantity", response=QuantityOut)
def read_quantity(request: SignedIn, text: str, dimension: Dimension, ranges: bool = False) -> QuantityOut:
    """A typed quantity ("120 mA") as a number in SI; with `ranges` also "100-140 mA" and "120 mA ± 20 %". A doubtful one
    comes back with choices."""
    try:
        if not ranges:
            return QuantityOut(value=parse_quantity(text, dimension), min=None, max=None)
        span = parse_span(text, dimension)
        return QuantityOut(value=span.typical, min=span.min, max=span.max)
    except QuantityError as error:
        raise Refused(422, str(error), [Problem("/text", str(error))], choices=error.choices) from None


@router.get("/occasion", response=Occasion)
def read_occasion_text(request: SignedIn, text: str) -> Occasion:
    """How long and how often, as makers say it ("2 s every 15 min")."""
    try:
        return read_occasion(text)
    except QuantityError as error:
        raise Refused(422, str(error), [Problem("/text", str(error))], choices=error.choices) from None


@router.post("/cell", response=CellEntry)
def read_cell_text(request: SignedIn, body: CellIn) -> CellEntry:
    """What was meant by a text typed into the draw grid. A doubtful one comes back with choices."""
    try:
        return read_cell(body.text, body.part, body.now, body.rail_v)
    except QuantityError as error:
        raise Refused(422, str(error), [Problem("/text", str(error))], choices=error.choices) from None


@router.post("/cells", response=list[CellEntry])
def read_cell_texts(request: SignedIn, body: CellsIn) -> list[CellEntry]:
    """What was meant by many texts, for a range that is pasted, filled or typed over. All or nothing."""
    entries, problems = [], []
    for i, cell in enumerate(body.cells):
        try:
            entries.append(read_cell(cell.text, body.parts[cell.part], cell.now, cell.rail_v))
        except IndexError:
            problems.append(Problem(f"/cells/{i}/part", f"there is no part {cell.part}"))
        except QuantityError as error:
            problems.append(Problem(f"/cells/{i}/text", f"{cell.text!r}: {error}"))
    if problems:
        raise Refused(422, "Not all of it was understood; nothing was changed", problems[:50])
    return entries
