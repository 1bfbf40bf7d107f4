"""Reads a recorded current that somebody uploaded, and keeps it with a variant, made small enough to draw."""

from __future__ import annotations

import json
from typing import Any

from blobs import services as blobs
from blobs.models import Holding
from common.errors import Refused
from ember_core.traces import Kept
from ember_core.traces.reduced import LARGEST_PACKED
from projects.access import variant_for
from projects.traces import keep_trace

from .models import Job
from .services import JobRefused, Report
from .subprocesses import read_by

MOST_SECONDS = 400.0
USUAL_SECONDS = 4.0


def read_trace_file(job: Job, report: Report) -> Any:
    """{"trace": its number}, or {"asked": a column whose unit has to be said, "choices": [...]}."""
    try:
        holding = blobs.holding_for(job.owner, job.asked["digest"])
        variant = variant_for(job.owner, job.asked["variant"], "edit")
    except Refused:
        raise JobRefused("the file, or the gadget, is not there any more") from None
    try:
        told, content = _read(job, holding, report)
        if "asked" in told:
            return told
        trace = keep_trace(variant, job.owner, holding.name, Kept.read(told, content), job.asked["kind"])
    except Refused as error:
        _let_go(job)
        raise JobRefused(error.title) from None
    except JobRefused:
        _let_go(job)
        raise
    _let_go(job)  # what was read of it is kept
    return {"trace": trace.pk}


def _let_go(job: Job) -> None:
    blobs.let_go(job.owner, job.asked["digest"])


def _read(job: Job, holding: Holding, report: Report) -> tuple[dict[str, Any], bytes]:
    """(what was told of the file, the recording as it is kept)."""
    too_long = f"it took more than {MOST_SECONDS:g} s to read. Record slower, or a shorter while"
    raw, code = read_by("ember_core.traces.process", [json.dumps(job.asked["units"]), job.asked["kind"]], blobs.read(holding), report,
                        most_s=MOST_SECONDS, usual_s=USUAL_SECONDS, too_long=too_long)  # fmt: skip
    head, _, content = raw.partition(b"\n")
    try:
        told: dict[str, Any] = json.loads(head)
    except ValueError:
        raise JobRefused(
            f"reading it broke off (code {code}): too large or not sound. Record a shorter while"
        ) from None
    if "problem" in told:
        raise JobRefused(told["problem"])
    if told.get("packed", 0) > LARGEST_PACKED:
        raise JobRefused("it is too large to keep. Record a shorter while")
    return told, content
