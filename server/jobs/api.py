"""Routes of the jobs."""

from __future__ import annotations

from typing import Annotated, Literal

from ninja import Query, Router, Schema
from pydantic import Field

from blobs.services import holding_for
from catalogue.services import edition
from config.requests import DESIGN_BODY, SignedIn
from ember_core import read_design
from ember_core.choosing import Aim, ChoiceAnswer
from ember_core.imports.mesh import MeshBody, Unit
from projects.access import variant_for

from . import services
from .models import Job, State

router = Router(tags=["jobs"])


class MeshIn(Schema):
    digest: Annotated[str, Field(pattern="^[0-9a-f]{64}$")] = Field(description="of a file that was uploaded")
    unit: Unit | None = Field(None, description="what its lengths are in where the file does not say it; null: mm")
    as_case: bool = Field(False, description="a whole case, whose walls are measured")


Most = Annotated[float | None, Field(gt=0, le=1e6)]


class ChoiceQuery(Schema):
    """What counts beside the runtime, and what the gadget may have at most; without any of these what its brief allows."""

    aim: Aim = "cost"
    cost: Most = Field(None, description="of the whole gadget, in the brief's currency")
    mass: Most = Field(None, description="of the whole gadget [g]")
    room: Most = Field(None, description="of pack, charger and stages [cm3]")
    hours: Most = Field(None, description="of charge, capacity over current [h]")


class TraceIn(Schema):
    digest: Annotated[str, Field(pattern="^[0-9a-f]{64}$")] = Field(description="of a file that was uploaded")
    variant: int
    units: dict[Literal["time", "current", "voltage"], Annotated[str, Field(max_length=8)]] = Field(
        {}, description="of columns whose heading has none"
    )
    kind: Literal["current", "rundown"] = Field("current", description="a current, or the voltage of a run-down")


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
        "aim": which.aim,
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


@router.get("/jobs/{uuid:job}", response=JobOut)
def look_at_job(request: SignedIn, job: str) -> JobOut:
    return JobOut.of(services.job_for(request.user, job))


@router.delete("/jobs/{uuid:job}", response=JobOut)
def give_up_job(request: SignedIn, job: str) -> JobOut:
    return JobOut.of(services.give_up(request.user, job))
