"""The bring-up sheet of a variant, and what was read on its prototypes."""

from __future__ import annotations

import json
from datetime import datetime

from ninja import Router, Schema
from pydantic import Field

from catalogue.services import catalogue_for
from common.errors import Refused, not_found
from common.requests import DESIGN_BODY, SignedIn
from ember_core import Problem, build_design, read_design
from ember_core.bringup import (
    METER,
    Assembly,
    BringUp,
    JudgedReading,
    Read,
    TakenReadings,
    assembly,
    bring_up,
    judge_reading,
    take_readings,
)
from ember_core.measures.bench import TrialBench
from ember_core.quantities import Dimension, QuantityError, parse_quantity

from .access import variant_for
from .models import Reading, Variant

router = Router(tags=["bring-up"])
MOST_READINGS = 2000  # of a variant
DIMENSIONS: dict[str, Dimension] = {"A": "current", "V": "voltage", "Ω": "resistance", "°C": "temperature"}


class ReadingOut(Schema):
    id: int
    prototype: int
    step: str
    value: float | None
    instrument: str
    accuracy: float | None = Field(
        None, description="how far it may be off, as a share; null: as a usual hand-held meter"
    )
    taken: datetime
    author: str | None
    judged: JudgedReading | None = Field(
        None, description="null where it was only ticked off, or the design has no such step any more"
    )


class Together(Schema):
    """All that was read on one prototype, as one change of the design."""

    prototype: int
    taken: TakenReadings


class BringUpOut(Schema):
    sheet: BringUp
    assembly: Assembly
    readings: list[ReadingOut]
    together: list[Together]


class ReadingIn(Schema):
    step: str = Field(max_length=80)
    prototype: int = Field(1, ge=1, le=999)
    text: str | None = Field(None, max_length=200, description="the reading as it was typed; null: ticked off")
    instrument: str = Field("", max_length=80)
    accuracy: float | None = Field(None, ge=0, le=0.5)


def _bench(request: SignedIn, variant: Variant) -> TrialBench:
    assert variant.head is not None
    return TrialBench(build_design(json.loads(variant.head.document)), catalogue_for(request.user))


def _told(bench: TrialBench, sheet: BringUp, row: Reading) -> ReadingOut:
    known = {s.key for s in sheet.steps if s.unit}
    read = _read_of(row)
    judged = judge_reading(bench, read, sheet=sheet, doubt=False) if read is not None and row.step in known else None
    return ReadingOut(
        id=row.pk, prototype=row.prototype, step=row.step, value=row.value, instrument=row.instrument, accuracy=row.accuracy, taken=row.taken,
        author=row.author.username if row.author else None, judged=judged,
    )  # fmt: skip


def _read_of(row: Reading) -> Read | None:
    if row.value is None:
        return None
    where = f"prototype {row.prototype}, {row.taken:%-d %B %Y}" + (f", {row.instrument}" if row.instrument else "")
    return Read(row.step, row.value, METER if row.accuracy is None else row.accuracy, where)


@router.post("/variants/{variant_id}/bringup", response=BringUpOut, openapi_extra=DESIGN_BODY)
def ask_for_bringup(request: SignedIn, variant_id: int) -> BringUpOut:
    """What to measure in which order and what it should read with the design in the body, and what the latest readings of the variant's prototypes
    say of it."""
    variant = variant_for(request.user, variant_id, "view")
    bench = TrialBench(read_design(request.body), catalogue_for(request.user))
    sheet = bring_up(bench)
    latest: dict[tuple[int, str], Reading] = {}
    for row in variant.readings.select_related("author")[:MOST_READINGS]:
        latest.setdefault((row.prototype, row.step), row)
    together = []
    for prototype in sorted({p for p, _ in latest}):
        reads = [r for (p, _), row in latest.items() if p == prototype and (r := _read_of(row)) is not None]
        taken = take_readings(bench, reads, sheet=sheet)
        if taken is not None:
            together.append(Together(prototype=prototype, taken=taken))
    return BringUpOut(
        sheet=sheet,
        assembly=assembly(bench),
        readings=[_told(bench, sheet, r) for r in latest.values()],
        together=together,
    )


@router.post("/variants/{variant_id}/readings", response=ReadingOut)
def add_reading(request: SignedIn, variant_id: int, body: ReadingIn) -> ReadingOut:
    """Keeps a reading, and says what it means."""
    variant = variant_for(request.user, variant_id, "edit")
    bench = _bench(request, variant)
    sheet = bring_up(bench)
    step = next((s for s in sheet.steps if s.key == body.step), None)
    build = None if step else next((s for s in assembly(bench).steps if s.key == body.step), None)
    if step is None and build is None:
        raise not_found("step of this sheet")
    if variant.readings.count() >= MOST_READINGS:
        raise Refused(409, f"More than {MOST_READINGS} readings are not kept: take some away first.", [])
    value = None
    if step is not None and step.unit:
        value = _read(body.text, DIMENSIONS[step.unit])
        judge_reading(bench, Read(step.key, value), sheet=sheet)
    row = Reading.objects.create(
        variant=variant, prototype=body.prototype, step=body.step, value=value, instrument=body.instrument.strip(), accuracy=body.accuracy, author=request.user
    )  # fmt: skip
    return _told(bench, sheet, row)


def _read(text: str | None, dimension: Dimension) -> float:
    if text is None or not text.strip():
        raise Refused(422, "must not be empty", [Problem("/text", "must not be empty")])
    # a voltage below 0 is something that is turned round: it is judged so, not refused
    turned = dimension == "voltage" and text.strip().startswith(("-", "−"))
    try:
        value = parse_quantity(text.strip()[1:] if turned else text, dimension)
    except QuantityError as error:
        raise Refused(422, str(error), [Problem("/text", str(error))], choices=error.choices) from None
    if value < 0 and dimension != "temperature":
        raise Refused(422, "must not be below 0", [Problem("/text", "must not be below 0")])
    return -value if turned else value


@router.delete("/variants/{variant_id}/readings/{reading_id}", response={204: None})
def remove_reading(request: SignedIn, variant_id: int, reading_id: int) -> tuple[int, None]:
    _reading(variant_for(request.user, variant_id, "edit"), reading_id).delete()
    return 204, None


def _reading(variant: Variant, reading_id: int) -> Reading:
    row = variant.readings.filter(pk=reading_id).first()
    if row is None:
        raise not_found("reading")
    return row
