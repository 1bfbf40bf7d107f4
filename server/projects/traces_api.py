"""Recorded currents of a variant: listed, drawn, held against a design, taken away. Brought as jobs."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, cast

from ninja import Query, Router, Schema
from pydantic import Field

from catalogue.services import catalogue_for
from common.requests import DESIGN_BODY, SignedIn
from ember_core import read_design
from ember_core.measures.bench import TrialBench
from ember_core.traces import (
    Assigned,
    Replay,
    RunDown,
    TraceAnswer,
    TracePicture,
    TraceWindow,
    judge_rundown,
    judge_trace,
    replay,
)
from ember_core.traces.assigned import MOST_ASSIGNED
from ember_core.traces.reduced import MOST_BUCKETS

from .access import variant_for
from .models import Trace
from .traces import Kind, course_for, looked_at, reduced_of, trace_for

router = Router(tags=["traces"])


Warmth = Annotated[float, Field(ge=-60, le=90, allow_inf_nan=False)]


class TraceOut(Schema):
    id: int
    kind: Kind
    name: str
    samples: int
    seconds: float
    in_pieces: bool = Field(description="its single samples are not kept: a short window of it is coarse")
    assigned: list[Assigned] = Field(description="which mode is where, as somebody said, the last word last")
    over: bool | None = Field(description="of a run-down: it was dead at its end, as somebody said")
    at_c: float | None = Field(description="of a run-down: how warm it was meanwhile [degC]; null: as on usual days")
    taken: datetime
    author: str | None

    @classmethod
    def of(cls, row: Trace) -> TraceOut:
        author = row.author.username if row.author else None
        own = [Assigned.model_validate(a) for a in row.assigned]
        in_pieces = row.samples > MOST_BUCKETS and not row.whole
        return cls(
            id=row.pk, kind=cast(Kind, row.kind), name=row.name, samples=row.samples, seconds=row.seconds, in_pieces=in_pieces,
            assigned=own, over=row.over, at_c=row.at_c, taken=row.taken, author=author,
        )  # fmt: skip


class AllAssigned(Schema):
    assigned: list[Assigned] = Field(max_length=MOST_ASSIGNED)


class SaidOfIt(Schema):
    """What is not named stays as it was said."""

    over: bool | None = Field(None, description="it was dead at its end; null: as the recording tells")
    at_c: Warmth | None = Field(None, description="how warm it was meanwhile [degC]; null: as on usual days")


class Window(Schema):
    begin_s: float = Field(0, ge=0, le=1e9)
    end_s: float = Field(1e9, ge=0, le=1e9)
    points: int = Field(800, ge=10, le=2000)


class Measured(Schema):
    begin_s: float = Field(ge=0, le=1e9)
    end_s: float = Field(ge=0, le=1e9)
    volts: float = Field(description="the battery's, that the energy is reckoned with [V]", gt=0, le=1000)


@router.get("/variants/{variant_id}/traces", response=list[TraceOut])
def list_traces(request: SignedIn, variant_id: int) -> list[TraceOut]:
    rows = variant_for(request.user, variant_id, "view").traces.defer("content").select_related("author")
    return [TraceOut.of(row) for row in rows]


@router.get("/variants/{variant_id}/traces/{trace_id}/picture", response=TracePicture)
def draw_trace(request: SignedIn, variant_id: int, trace_id: int, window: Query[Window]) -> TracePicture:
    """A window of the recording, in so many buckets; of a short one every sample."""
    trace = trace_for(variant_for(request.user, variant_id, "view"), trace_id, "current")
    return looked_at(trace, window.begin_s, window.end_s).seen(window.begin_s, window.end_s, window.points)


@router.post("/variants/{variant_id}/traces/{trace_id}/judged", response=TraceAnswer, openapi_extra=DESIGN_BODY)
def judge(request: SignedIn, variant_id: int, trace_id: int) -> TraceAnswer:
    """The recording cut into the modes of the design in the body, and held against it."""
    trace = trace_for(variant_for(request.user, variant_id, "view"), trace_id, "current")
    bench = TrialBench(read_design(request.body), catalogue_for(request.user))
    own = [Assigned.model_validate(a) for a in trace.assigned]
    return judge_trace(reduced_of(trace.pk).recording, bench, own, source=trace.name)


@router.get("/variants/{variant_id}/traces/{trace_id}/window", response=TraceWindow)
def measure_window(request: SignedIn, variant_id: int, trace_id: int, window: Query[Measured]) -> TraceWindow:
    """What flowed between two times."""
    trace = trace_for(variant_for(request.user, variant_id, "view"), trace_id, "current")
    return looked_at(trace, window.begin_s, window.end_s).between(window.begin_s, window.end_s, window.volts)


@router.post("/variants/{variant_id}/traces/{trace_id}/replay", response=Replay, openapi_extra=DESIGN_BODY)
def replay_trace(request: SignedIn, variant_id: int, trace_id: int) -> Replay:
    """How long the battery of the design in the body lasts if it goes on like the recording."""
    trace = trace_for(variant_for(request.user, variant_id, "view"), trace_id, "current")
    bench = TrialBench(read_design(request.body), catalogue_for(request.user))
    return replay(reduced_of(trace.pk).recording, bench)


@router.post("/variants/{variant_id}/traces/{trace_id}/rundown", response=RunDown, openapi_extra=DESIGN_BODY)
def judge_run_down(
    request: SignedIn, variant_id: int, trace_id: int, over: bool | None = None, at_c: Warmth | None = None
) -> RunDown:
    """A run-down held against the design in the body: when it ends, or, once it is `over`, why it lasted longer or shorter than told. What is not said
    here is as it was said of the run-down."""
    trace = trace_for(variant_for(request.user, variant_id, "view"), trace_id, "rundown")
    bench = TrialBench(read_design(request.body), catalogue_for(request.user))
    return judge_rundown(
        course_for(trace.pk),
        bench,
        over=trace.over if over is None else over,
        at_c=trace.at_c if at_c is None else at_c,
    )


@router.put("/variants/{variant_id}/traces/{trace_id}/assigned", response=TraceOut)
def assign(request: SignedIn, variant_id: int, trace_id: int, body: AllAssigned) -> TraceOut:
    """Which mode is where: all that somebody says of it, in place of what was said before."""
    trace = trace_for(variant_for(request.user, variant_id, "edit"), trace_id, "current")
    trace.assigned = [a.model_dump() for a in body.assigned]
    trace.save(update_fields=["assigned"])
    return TraceOut.of(trace)


@router.put("/variants/{variant_id}/traces/{trace_id}/said", response=TraceOut)
def say_of_run_down(request: SignedIn, variant_id: int, trace_id: int, body: SaidOfIt) -> TraceOut:
    """Whether the gadget was dead at the end of a run-down, and how warm it was meanwhile."""
    course = trace_for(variant_for(request.user, variant_id, "edit"), trace_id, "rundown")
    said = body.model_dump(exclude_unset=True)
    for name, value in said.items():
        setattr(course, name, value)
    course.save(update_fields=list(said))
    return TraceOut.of(course)


@router.delete("/variants/{variant_id}/traces/{trace_id}", response={204: None})
def remove_trace(request: SignedIn, variant_id: int, trace_id: int) -> tuple[int, None]:
    trace_for(variant_for(request.user, variant_id, "edit"), trace_id).delete()
    return 204, None
