"""Recorded currents of a variant: kept made small, read, taken away."""

from __future__ import annotations

import io
from contextlib import suppress
from functools import lru_cache
from typing import Any, Literal

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import Sum

from blobs.models import PIECE_BYTES, pieces_of
from common.errors import Refused, not_found
from ember_core.traces import Course, Kept, Reduced, samples_between, unpacked, unpacked_course

from .models import Trace, TracePiece, Variant

Kind = Literal["current", "rundown"]
MOST_TRACES = 30  # of a variant
MOST_WHOLE = 1_000_000_000  # bytes of samples of one owner's gadgets; beyond, recordings are kept without
FEW_BUCKETS = 2000  # in a window of no more the samples are looked at


@transaction.atomic
def keep_trace(variant: Variant, author: User, name: str, kept: Kept, kind: Kind = "current") -> Trace:
    if variant.traces.count() >= MOST_TRACES:
        raise Refused(409, f"More than {MOST_TRACES} recordings are not kept: take some away first.", [])
    held = (
        Trace.objects.filter(variant__project__owner=variant.project.owner).aggregate(whole=Sum("whole"))["whole"] or 0
    )
    whole = kept.whole if held + len(kept.whole) <= MOST_WHOLE else b""
    trace = Trace.objects.create(
        variant=variant, name=name[:200], content=kept.packed, samples=kept.samples, seconds=kept.seconds, author=author,
        kind=kind, whole=len(whole),
    )  # fmt: skip
    for number in range(pieces_of(len(whole))):  # one by one: the database takes so much at once
        piece = whole[number * PIECE_BYTES : (number + 1) * PIECE_BYTES]
        TracePiece.objects.create(trace=trace, number=number, content=piece)
    return trace


def trace_for(variant: Variant, trace: int, kind: Kind | None = None) -> Trace:
    """Of a kind, or of any."""
    rows = variant.traces.defer("content").select_related("author").filter(pk=trace)
    found = (rows if kind is None else rows.filter(kind=kind)).first()
    if found is None:
        raise not_found("recording")
    return found


def add_point(trace: int, at_s: float, volts: float, amps: float | None = None) -> Course | None:
    """One more point of a run-down that is being logged; None where its recording is gone."""
    with transaction.atomic():
        row = Trace.objects.select_for_update().filter(pk=trace, kind="rundown").first()
        if row is None:
            return None
        course = unpacked_course(bytes(row.content)).with_point(at_s, volts, amps)
        row.content, row.samples, row.seconds = course.packed(), row.samples + 1, at_s
        row.save(update_fields=["content", "samples", "seconds"])
        return course


@lru_cache(maxsize=4)
def reduced_of(trace: int) -> Reduced:
    """A recording's content never changes."""
    return unpacked(_content(trace))


def looked_at(trace: Trace, begin_s: float, end_s: float) -> Reduced:
    """The recording as it is to be looked at from one time to another: sample by sample where that is short enough and they are there."""
    small = reduced_of(trace.pk)
    if trace.whole and small.count_between(begin_s, end_s) <= FEW_BUCKETS:
        # what is taken away just now, or was damaged, is looked at by its buckets
        with suppress(TracePiece.DoesNotExist, ValueError, KeyError, OSError):
            return samples_between(io.BufferedReader(_Samples(trace)), begin_s, end_s)
    return small


class _Samples(io.RawIOBase):
    """All samples of a recording as a file; its pieces are fetched as they are needed."""

    def __init__(self, trace: Trace) -> None:
        self._trace, self._at = trace, 0
        self._piece = lru_cache(maxsize=4)(self._fetch)

    def _fetch(self, number: int) -> bytes:
        return bytes(self._trace.pieces.values_list("content", flat=True).get(number=number))

    def readable(self) -> bool:
        return True

    def seekable(self) -> bool:
        return True

    def seek(self, offset: int, whence: int = io.SEEK_SET) -> int:
        self._at = offset + {io.SEEK_SET: 0, io.SEEK_CUR: self._at, io.SEEK_END: self._trace.whole}[whence]
        return self._at

    def tell(self) -> int:
        return self._at

    def readinto(self, buffer: Any) -> int:
        view = memoryview(buffer)
        number, offset = divmod(self._at, PIECE_BYTES)
        if self._at >= self._trace.whole:
            return 0
        given = self._piece(number)[offset : offset + len(view)]
        view[: len(given)] = given
        self._at += len(given)
        return len(given)


def course_for(trace: int) -> Course:
    return unpacked_course(_content(trace))


def _content(trace: int) -> bytes:
    return bytes(Trace.objects.values_list("content", flat=True).get(pk=trace))
