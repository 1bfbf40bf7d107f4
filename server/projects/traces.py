"""Recorded currents of a variant: kept made small, read, taken away."""

from __future__ import annotations

from functools import lru_cache

from django.contrib.auth.models import User

from config.errors import Refused, not_found
from ember_core.traces import Reduced, unpacked

from .models import Trace, Variant

MOST_TRACES = 30  # of a variant


def keep_trace(variant: Variant, author: User, name: str, packed: bytes, samples: int, seconds: float) -> Trace:
    if variant.traces.count() >= MOST_TRACES:
        raise Refused(409, f"More than {MOST_TRACES} recordings are not kept: take some away first.", [])
    return Trace.objects.create(
        variant=variant, name=name[:200], content=packed, samples=samples, seconds=seconds, author=author
    )


def trace_for(variant: Variant, trace: int) -> Trace:
    found = variant.traces.defer("content").select_related("author").filter(pk=trace).first()
    if found is None:
        raise not_found("recording")
    return found


@lru_cache(maxsize=4)
def reduced_of(trace: int) -> Reduced:
    """A recording's content never changes."""
    return unpacked(bytes(Trace.objects.values_list("content", flat=True).get(pk=trace)))
