"""Routes of the jobs."""

from __future__ import annotations

from typing import Annotated

from ninja import Router, Schema
from pydantic import Field

from blobs.services import holding_for
from config.requests import SignedIn
from ember_core.imports.mesh import MeshBody, Unit

from . import services
from .models import Job, State

router = Router(tags=["jobs"])


class MeshIn(Schema):
    digest: Annotated[str, Field(pattern="^[0-9a-f]{64}$")] = Field(description="of a file that was uploaded")
    unit: Unit | None = Field(None, description="what its lengths are in where the file does not say it; null: mm")
    as_case: bool = Field(False, description="a whole case, whose walls are measured")


class MeshJobOut(Schema):
    id: str
    state: State
    progress: float = Field(description="0 to 1")
    problem: str
    body: MeshBody | None

    @classmethod
    def of(cls, job: Job) -> MeshJobOut:
        return cls(id=str(job.pk), state=job.state, progress=job.progress, problem=job.problem, body=job.result)


@router.post("/jobs/mesh", response=MeshJobOut)
def ask_for_mesh(request: SignedIn, body: MeshIn) -> MeshJobOut:
    """Reads the body, or the case, in an uploaded STL, OBJ, 3MF or STEP file."""
    holding_for(request.user, body.digest)
    return MeshJobOut.of(services.ask(request.user, "mesh", body.model_dump()))


@router.get("/jobs/{uuid:job}", response=MeshJobOut)
def look_at_job(request: SignedIn, job: str) -> MeshJobOut:
    return MeshJobOut.of(services.job_for(request.user, job))


@router.delete("/jobs/{uuid:job}", response=MeshJobOut)
def give_up_job(request: SignedIn, job: str) -> MeshJobOut:
    return MeshJobOut.of(services.give_up(request.user, job))
