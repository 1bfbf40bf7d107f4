"""Recorded currents of a variant: kept made small, read, taken away."""

from __future__ import annotations

from functools import lru_cache
from typing import Literal

from django.contrib.auth.models import User
from django.db import transaction

from common.errors import Refused, not_found
from ember_core.traces import Course, Reduced, unpacked, unpacked_course

from .models import Trace, Variant

Kind = Literal["current", "rundown"]
MOST_TRACES = 30  # of a variant


def keep_trace(
    variant: Variant, author: User, name: str, packed: bytes, samples: int, seconds: float, kind: Kind = "current"
) -> Trace:
    if variant.traces.count() >= MOST_TRACES:
        raise Refused(409, f"More than {MOST_TRACES} recordings are not kept: take some away first.", [])
    return Trace.objects.create(
        variant=variant, name=name[:200], content=packed, samples=samples, seconds=seconds, author=author, kind=kind
    )


def trace_for(variant: Variant, trace: int, kind: Kind | None = None) -> Trace:
    """Of a kind, or of any."""
    rows = variant.traces.defer("content").select_related("author").filter(pk=trace)
    found = (rows if kind is None else rows.filter(kind=kind)).first()
    if found is None:
        raise not_found("recording")
    return found


def add_point(trace: int, at_s: float, volts: float) -> Course | None:
    """One more point of a run-down that is being logged; None where its recording is gone."""
    with transaction.atomic():
        row = Trace.objects.select_for_update().filter(pk=trace, kind="rundown").first()
        if row is None:
            return None
        course = unpacked_course(bytes(row.content)).with_point(at_s, volts)
        row.content, row.samples, row.seconds = course.packed(), row.samples + 1, at_s
        row.save(update_fields=["content", "samples", "seconds"])
        return course


@lru_cache(maxsize=4)
def reduced_of(trace: int) -> Reduced:
    """A recording's content never changes."""
    return unpacked(_content(trace))


def course_for(trace: int) -> Course:
    return unpacked_course(_content(trace))


def _content(trace: int) -> bytes:
    return bytes(Trace.objects.values_list("content", flat=True).get(pk=trace))
