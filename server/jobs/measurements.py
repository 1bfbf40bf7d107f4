"""An instrument identified, read or traced: by a process of its own that switches off whatever it switched on."""

from __future__ import annotations

import json
from typing import Any

from django.db.models import F

from common.errors import Refused
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


def measure(job: Job, report: Report) -> Any:
    """{"identity": ..., "value": ..., "trace": ...} as asked. What was interrupted is not begun again by itself: somebody may have a hand at the gadget."""
    if job.tries > 1:
        raise JobRefused("it was interrupted, and its output switched off; ask for it again")
    try:
        own = instruments.instrument_for(job.owner, job.asked["instrument"])
        host = instruments.reached(own.host)
        trace = job.asked["action"] == "trace"
        variant = variant_for(job.owner, job.asked["variant"], "edit") if trace else None
    except Refused as error:
        raise JobRefused(error.problems[0].message if error.problems else error.title) from None
    _alone(job, own)
    spec = {k: v for k, v in job.asked.items() if k not in ("instrument", "variant", "name")}
    spec |= {"host": host, "port": own.port, "link": own.link}
    seconds = job.asked.get("seconds", 1.0) if trace else 1.0
    raw, code = read_by(
        "instruments.driver", [json.dumps(spec)], [], report, most_s=seconds + BEYOND_S, usual_s=seconds + 1,
        too_long="it took far longer than asked", folder="server", gently_s=GENTLY_S,
    )  # fmt: skip
    head, _, packed = raw.partition(b"\n")
    try:
        told: dict[str, Any] = json.loads(head)
    except ValueError:
        raise JobRefused(f"measuring broke off (code {code}); its output was switched off") from None
    if "problem" in told:
        raise JobRefused(told["problem"])
    Instrument.objects.filter(pk=own.pk).update(identity=told["identity"][:200])
    if variant is None:
        return told
    if len(packed) > LARGEST_PACKED:
        raise JobRefused("the recording is too large to keep; record a shorter while")
    name = job.asked["name"] or own.name
    try:
        return told | {"trace": keep_trace(variant, job.owner, name, packed, told["samples"], told["seconds"]).pk}
    except Refused as error:
        raise JobRefused(error.title) from None


def _alone(job: Job, own: Instrument) -> None:
    """Nobody else measures with it: of two jobs the one that began first goes on, whosesoever they are."""
    running = Job.objects.filter(kind="measure", state="running").exclude(pk=job.pk)
    for other in running.order_by(F("begun").asc(nulls_last=True)):
        used = Instrument.objects.filter(pk=other.asked["instrument"]).first()
        if used is not None and (used.host, used.port) == (own.host, own.port):
            raise JobRefused("it is being measured with just now; wait until that is over")
