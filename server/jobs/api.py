"""Routes of the jobs."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal, cast

from ninja import Query, Router, Schema
from pydantic import Field

from blobs.services import holding_for
from catalogue.services import edition
from common.errors import Refused
from common.requests import DESIGN_BODY, SignedIn
from ember_core import Problem, read_design
from ember_core.bringup import supply_limits
from ember_core.calculators.check import MOST_V as MOST_CELL_V
from ember_core.calculators.check import fresh_v
from ember_core.choosing import Aim, ChoiceAnswer
from ember_core.design import Cell
from ember_core.imports.mesh import MeshBody, Unit
from ember_core.quantities import show
from instruments.services import instrument_for, reached
from projects.access import variant_for
from projects.planning import bench_of
from projects.traces import trace_for

from . import logs, services
from .models import Job, RunDownLog, State

MOST_MEASURED = 10_000_000  # samples
LONGEST_STEP_S = 60.0  # that a load is at a cell, nobody having said that he watches it

router = Router(tags=["jobs"])


class MeshIn(Schema):
    digest: Annotated[str, Field(pattern="^[0-9a-f]{64}$")] = Field(description="of a file that was uploaded")
    unit: Unit | None = Field(None, description="what its lengths are in where the file does not say it; null: mm")
    as_case: bool = Field(False, description="a whole case, whose walls are measured")


Most = Annotated[float | None, Field(gt=0, le=1e6)]


class ChoiceQuery(Schema):
    """What counts beside the runtime, and what the gadget may have at most; without any of these what its brief allows."""

    aim: list[Aim] = Field(["cost"], min_length=1, max_length=4, description="one or several")
    cost: Most = Field(None, description="of the whole gadget, in the brief's currency")
    mass: Most = Field(None, description="of the whole gadget [g]")
    room: Most = Field(None, description="of pack, charger and stages [cm3]")
    hours: Most = Field(None, description="of charge, capacity over current [h]")
    parts: bool = Field(False, description="with each of the parts that are kept beside the gadget's own, too")


class TraceIn(Schema):
    digest: Annotated[str, Field(pattern="^[0-9a-f]{64}$")] = Field(description="of a file that was uploaded")
    variant: int
    units: dict[Literal["time", "current", "voltage"], Annotated[str, Field(max_length=8)]] = Field(
        {}, description="of columns whose heading has none"
    )
    kind: Literal["current", "rundown"] = Field("current", description="a current, or the voltage of a run-down")


class MeasureIn(Schema):
    """What to do with an instrument. With `volts` and `limit_a` it supplies the gadget meanwhile, within what the variant's design allows; a *step* is of an
    electronic load at one cell, with what that cell may give; a *log* is of the battery's voltage while it runs down, a point now and then."""

    instrument: int
    variant: int
    action: Literal["identify", "read", "trace", "step", "log"]
    what: Literal["current", "voltage", "temperature"] = "current"
    volts: float | None = Field(None, ge=0, le=60)
    limit_a: float | None = Field(None, gt=0, le=20)
    range_a: float = Field(1.0, ge=1e-6, le=20, description="the most that is measured [A]")
    rate_hz: float = Field(1000.0, ge=0.1, le=100_000)
    seconds: float = Field(10.0, ge=0.1, le=3600)
    level_a: float | None = Field(
        None, ge=0, le=20, description="begins where the current rises over it; null: at once"
    )
    load_a: float | None = Field(None, gt=0, le=100, description="what an electronic load draws in a step [A]")
    every_s: float = Field(60.0, gt=0, le=1e6, description="between two points of a log [s]")
    beside: int | None = Field(
        None, description="of a log: the instrument in the battery's lead that reads the current"
    )
    name: str = Field("", max_length=200, description="of the recording")


class Measured(Schema):
    identity: str
    value: float | None = Field(None, description="what was read, in A, V or °C")
    rest_v: float | None = Field(None, description="of a step: the cell before it [V]")
    loaded_v: float | None = Field(None, description="of a step: the cell under the load [V]")
    drawn_a: float | None = Field(None, description="of a step: what the load drew [A]")
    trace: int | None = Field(None, description="the recording that was made")


class TraceRead(Schema):
    trace: int | None = Field(None, description="the recording that it became")
    asked: str | None = Field(None, description="a column whose unit has to be said")
    choices: list[str] = []


class JobOut(Schema):
    id: str
    state: State
    progress: float = Field(description="0 to 1")
    problem: str
    body: MeshBody | None = Field(description="what a file was read as")
    choice: ChoiceAnswer | None = Field(description="what a search found")
    trace: TraceRead | None = Field(description="what a recording was read as")
    measured: Measured | None = Field(description="what an instrument told")

    @classmethod
    def of(cls, job: Job) -> JobOut:
        return cls(
            id=str(job.pk),
            state=job.state,
            progress=job.progress,
            problem=job.problem,
            body=job.result if job.kind == "mesh" else None,
            choice=job.result if job.kind == "choice" else None,
            trace=job.result if job.kind == "trace" else None,
            measured=job.result if job.kind in ("measure", "log") else None,
        )


@router.post("/jobs/mesh", response=JobOut)
def ask_for_mesh(request: SignedIn, body: MeshIn) -> JobOut:
    """Reads the body, or the case, in an uploaded STL, OBJ, 3MF or STEP file."""
    holding_for(request.user, body.digest)
    return JobOut.of(services.ask(request.user, "mesh", body.model_dump()))


@router.post("/jobs/choice", response=JobOut, openapi_extra=DESIGN_BODY)
def ask_for_choice(request: SignedIn, which: Query[ChoiceQuery]) -> JobOut:
    """Searches all packs, chargers and stages of the catalogue for the supplies of which no other lasts longer with no more of what counts."""
    limits = {"cost": which.cost, "mass": which.mass, "room": which.room, "hours": which.hours}
    asked = {
        "design": read_design(request.body).model_dump(mode="json"),
        "aims": which.aim,
        "parts": which.parts,
        "most": {aim: value for aim, value in limits.items() if value is not None} or None,
        "edition": str(edition(request.user)),
    }
    return JobOut.of(
        services.asked_before(request.user, "choice", asked) or services.ask(request.user, "choice", asked)
    )


@router.post("/jobs/trace", response=JobOut)
def ask_for_trace(request: SignedIn, body: TraceIn) -> JobOut:
    """Reads the recorded current in an uploaded CSV file, plain or gzip, and keeps it with a variant."""
    holding_for(request.user, body.digest)
    variant_for(request.user, body.variant, "edit")
    return JobOut.of(services.ask(request.user, "trace", body.model_dump()))


@router.post("/jobs/measure", response=JobOut)
def ask_for_measurement(request: SignedIn, body: MeasureIn) -> JobOut:
    """Asks an instrument who it is, reads it once, or records with it. What it supplies lies within what the design allows."""
    instrument = instrument_for(request.user, body.instrument)
    variant = variant_for(request.user, body.variant, "edit")
    reached(instrument.host)
    if (body.volts is None) != (body.limit_a is None):
        raise Refused(422, "It is not measured", [Problem("/limit_a", "a voltage and a limit go together")])
    asked = body.model_dump()
    if body.action == "step":
        assert variant.head is not None
        asked |= _step(bench_of(request.user, variant.head).design.battery.cell, body)
    elif body.action == "log":
        assert variant.head is not None
        if body.volts is not None:
            raise Refused(422, "It is not measured", [Problem("/volts", "a battery that runs down is not supplied")])
        if body.beside is not None:
            reached(instrument_for(request.user, body.beside).host)
        if body.beside == body.instrument:
            words = "one instrument is not at the battery and in its lead at once"
            raise Refused(422, "It is not logged", [Problem("/beside", words)])
        least, most = logs.EVERY_S
        if not least <= body.every_s <= most:
            words = f"a point comes every {show(least, 's')} to {show(most, 's')}"
            raise Refused(422, "It is not logged", [Problem("/every_s", words)])
        asked |= {"until_v": supply_limits(bench_of(request.user, variant.head)).low_v}
    elif body.load_a is not None:
        raise Refused(422, "It is not measured", [Problem("/load_a", "a load goes with a step")])
    elif body.seconds * body.rate_hz > MOST_MEASURED:
        raise Refused(422, "It is not measured", [Problem("/seconds", f"more than {MOST_MEASURED:,} samples")])
    if body.volts is not None and body.limit_a is not None:
        assert variant.head is not None
        may = supply_limits(bench_of(request.user, variant.head))
        if not may.low_v <= body.volts <= may.high_v:
            raise Refused(
                422,
                "It is not measured",
                [Problem("/volts", f"this gadget's battery gives {show(may.low_v, 'V')} to {show(may.high_v, 'V')}")],
            )
        if body.limit_a > may.most_a:
            raise Refused(
                422,
                "It is not measured",
                [Problem("/limit_a", f"at most {show(may.most_a, 'A')}: its peaks and a fifth more")],
            )
    return JobOut.of(services.ask(request.user, "log" if body.action == "log" else "measure", asked))


def _step(cell: Cell, body: MeasureIn) -> dict[str, float]:
    """What a step of an electronic load at one cell is allowed to be. Raises Refused with the field."""
    if body.load_a is None or body.volts is not None:
        raise Refused(422, "It is not measured", [Problem("/load_a", "a step needs a load, and no supply")])
    if body.load_a > cell.discharge_max_a:
        words = f"one cell of this kind gives {show(cell.discharge_max_a, 'A')} at most"
        raise Refused(422, "It is not measured", [Problem("/load_a", words)])
    if body.seconds > LONGEST_STEP_S:
        raise Refused(422, "It is not measured", [Problem("/seconds", f"at most {show(LONGEST_STEP_S, 's')}")])
    return {"floor_v": cell.cutoff_v, "most_v": MOST_CELL_V * fresh_v(cell)}


class LogOut(Schema):
    """A run-down that is, or was, logged."""

    trace: int
    instrument: str | None
    beside: str | None = Field(description="what reads the current")
    every_s: float
    until_v: float
    due: datetime | None = Field(description="the next point; null: it is over")
    problem: str = Field(description="of the last try, where it failed")
    ended: Literal["", "cut-off", "nothing", "silent", "gone", "long", "stopped"]

    @classmethod
    def of(cls, log: RunDownLog) -> LogOut:
        ended = cast(Any, log.ended)
        return cls(
            trace=log.trace_id, instrument=log.instrument.name if log.instrument else None, beside=log.beside.name if log.beside else None,
            every_s=log.every_s, until_v=log.until_v, due=log.due, problem=log.problem, ended=ended,
        )  # fmt: skip


@router.get("/variants/{variant_id}/logs", response=list[LogOut])
def list_logs(request: SignedIn, variant_id: int) -> list[LogOut]:
    """Its run-downs that are, or were, logged."""
    variant = variant_for(request.user, variant_id, "view")
    logs.tend()
    return [
        LogOut.of(log)
        for log in RunDownLog.objects.filter(trace__variant=variant).select_related("instrument", "beside")
    ]


@router.post("/variants/{variant_id}/traces/{trace_id}/stop", response=list[LogOut])
def stop_log(request: SignedIn, variant_id: int, trace_id: int) -> list[LogOut]:
    """No more points of a run-down that is being logged."""
    logs.stop(trace_for(variant_for(request.user, variant_id, "edit"), trace_id, "rundown"))
    return list_logs(request, variant_id)


@router.get("/jobs/{uuid:job}", response=JobOut)
def look_at_job(request: SignedIn, job: str) -> JobOut:
    return JobOut.of(services.job_for(request.user, job))


@router.delete("/jobs/{uuid:job}", response=JobOut)
def give_up_job(request: SignedIn, job: str) -> JobOut:
    return JobOut.of(services.give_up(request.user, job))
