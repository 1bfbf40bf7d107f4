"""An instrument identified, read or traced: by a process of its own that switches off whatever it switched on."""

from __future__ import annotations

import json
from typing import Any

from django.db.models import F

from common.errors import Refused
from ember_core.traces import Kept
from ember_core.traces.reduced import LARGEST_PACKED
from instruments import services as instruments
from instruments.models import Instrument
from projects.access import variant_for
from projects.traces import keep_trace

from .models import Job
from .services import JobRefused, Report
from .subprocesses import read_by

BEYOND_S = 60.0  # what it may take longer than the recording
GENTLY_S = 8.0  # for switching off
KINDS = ("measure", "log")  # of jobs that ask an instrument


def measure(job: Job, report: Report) -> Any:
    """{"identity": ..., "value": ..., "trace": ...} as asked. What was interrupted is not begun again by itself: somebody may have a hand at the gadget."""
    if job.tries > 1:
        raise JobRefused("it was interrupted, and its output switched off; ask for it again")
    action = job.asked["action"]
    try:
        own = instruments.instrument_for(job.owner, job.asked["instrument"])
        variant = variant_for(job.owner, job.asked["variant"], "edit") if action == "trace" else None
    except Refused as error:
        raise JobRefused(error.problems[0].message if error.problems else error.title) from None
    alone(job, own)
    seconds = job.asked.get("seconds", 1.0) if action in ("trace", "step") else 1.0
    asked = {k: v for k, v in job.asked.items() if k not in ("instrument", "variant", "name", "every_s", "beside")}
    told, content = told_by(own, asked, report, most_s=seconds + BEYOND_S, usual_s=seconds + 1)
    if variant is None:
        return told
    if told["packed"] > LARGEST_PACKED:
        raise JobRefused("the recording is too large to keep; record a shorter while")
    name = job.asked["name"] or own.name
    try:
        return told | {"trace": keep_trace(variant, job.owner, name, Kept.read(told, content)).pk}
    except Refused as error:
        raise JobRefused(error.title) from None


def told_by(
    own: Instrument, asked: dict[str, Any], report: Report | None = None, *, most_s: float, usual_s: float = 1.0
) -> tuple[dict[str, Any], bytes]:
    """What an instrument told, and a recording as it is kept. Raises JobRefused."""
    try:
        host = instruments.reached(own.host)
    except Refused as error:
        raise JobRefused(error.problems[0].message if error.problems else error.title) from None
    spec = asked | {"host": host, "port": own.port, "link": own.link}
    raw, code = read_by(
        "instruments.driver", [json.dumps(spec)], [], report, most_s=most_s, usual_s=usual_s,
        too_long="it took far longer than asked", folder="server", gently_s=GENTLY_S,
    )  # fmt: skip
    head, _, content = raw.partition(b"\n")
    try:
        told: dict[str, Any] = json.loads(head)
    except ValueError:
        raise JobRefused(f"measuring broke off (code {code}); its output was switched off") from None
    if "problem" in told:
        raise JobRefused(told["problem"])
    Instrument.objects.filter(pk=own.pk).update(identity=told["identity"][:200])
    return told, content


def busy(own: Instrument) -> bool:
    """Whether a job measures with it just now."""
    return any(_same(other, own) for other in Job.objects.filter(kind__in=KINDS, state="running"))


def _same(job: Job, own: Instrument) -> bool:
    used = Instrument.objects.filter(pk__in=[job.asked["instrument"], job.asked.get("beside") or 0])
    return any((other.host, other.port) == (own.host, own.port) for other in used)


def alone(job: Job, own: Instrument) -> None:
    """Nobody else measures with it: of two jobs the one that began first goes on, whosesoever they are."""
    running = Job.objects.filter(kind__in=KINDS, state="running").exclude(pk=job.pk)
    if any(_same(other, own) for other in running.order_by(F("begun").asc(nulls_last=True))):
        raise JobRefused("it is being measured with just now; wait until that is over")
