"""Reads a body from a file that somebody uploaded, in a process of its own that may take so much memory and time and no more."""

from __future__ import annotations

import json
import signal
from typing import Any

from blobs import services as blobs
from common.errors import Refused

from .models import Job
from .services import JobRefused, Report
from .subprocesses import read_by

MOST_SECONDS = 240.0  # by the clock: a busy machine is no fault of the file, which has 30 s of processor time
USUAL_SECONDS = 3.0


def read_mesh_file(job: Job, report: Report) -> Any:
    """The body in the blob that was asked for, as the core has it."""
    try:
        holding = blobs.holding_for(job.owner, job.asked["digest"])
    except Refused:
        raise JobRefused("the file is not there any more") from None
    unit = [job.asked["unit"]] if job.asked.get("unit") else []
    kind = "case" if job.asked.get("as_case") else "body"
    too_long = f"it took more than {MOST_SECONDS:g} s to read. Export it more coarsely"
    raw, code = read_by("ember_core.imports.mesh_process", [kind, holding.name, *unit], blobs.read(holding), report,
                        most_s=MOST_SECONDS, usual_s=USUAL_SECONDS, too_long=too_long)  # fmt: skip
    return _answer(raw, code)


def _answer(raw: bytes, code: int) -> Any:
    try:
        answer = json.loads(raw)
    except ValueError:
        if code == -signal.SIGXCPU:
            raise JobRefused("it took more than 30 s of processor time to read. Export it more coarsely") from None
        raise JobRefused(
            f"reading it broke off (code {code}): too large or not sound. Export it anew, or more coarsely"
        ) from None
    if "problem" in answer:
        raise JobRefused(answer["problem"])
    return answer["body"]
