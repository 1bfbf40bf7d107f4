"""Jobs as the task workers do them."""

from __future__ import annotations

from django_tasks import task

from . import logs
from .choices import search_choice
from .measurements import measure
from .meshes import read_mesh_file
from .services import Work, work_on_next
from .traces import read_trace_file

KINDS: dict[str, Work] = {
    "mesh": read_mesh_file,
    "choice": search_choice,
    "trace": read_trace_file,
    "measure": measure,
    "log": logs.begin_log,
}


@task()
def run_job(*_: str) -> None:
    """The next job. Tickets of earlier versions named theirs."""
    work_on_next(KINDS)


@task()
def log_point(log: int) -> None:
    """The point of a logged run-down that is due."""
    logs.add_next_point(log)
