"""Jobs as the task worker does them."""

from __future__ import annotations

from django_tasks import task

from .meshes import read_mesh_file
from .services import Work, work_on

KINDS: dict[str, Work] = {"mesh": read_mesh_file}


@task()
def run_job(job_id: str) -> None:
    work_on(job_id, KINDS)
