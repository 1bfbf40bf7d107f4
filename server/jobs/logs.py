"""Run-downs that are logged: a point now and then, each by a short reading of its own, so that neither a worker nor a restart is tied to the days that it takes.

A point is a task that is due at its time and hands out the next one before it reads; where a ticket was lost all the same, whoever looks next hands out
another. What is read at no voltage is no point: a lead came loose, or the protection cut the battery off.
"""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

from django.db import transaction
from django.utils import timezone

from common.errors import Refused
from ember_core.quantities import show
from ember_core.traces import Course, Kept
from instruments.models import Instrument
from instruments.services import instrument_for
from projects.access import variant_for
from projects.models import Trace
from projects.traces import add_point, keep_trace

from .measurements import alone, busy, told_by
from .models import Job, RunDownLog
from .services import JobRefused, Report

EVERY_S = (30.0, 3600.0)  # between two points, at least and at most
POINT_S = 30.0  # that reading one may take
MOST_LOGS, MOST_OF_ALL = 4, 16  # at work, of one account and of all: each point is a second of a processor
MOST_MISSES = 10  # in a row
LONGEST = timedelta(days=60)
LOST_AFTER = timedelta(minutes=3)  # beyond its time
BELOW = 2  # points in a row below its end, which one alone may be by a peak
NOTHING = 0.5  # of the voltage at the end: a battery has more
VOLTS: dict[str, Any] = {"action": "read", "what": "voltage"}
AMPS: dict[str, Any] = {"action": "read", "what": "current"}


def begin_log(job: Job, report: Report) -> Any:
    """{"identity": ..., "value": ..., "trace": ...}: a first point, and the log that goes on from there."""
    asked, owner = job.asked, job.owner
    try:
        own = instrument_for(owner, asked["instrument"])
        beside = None if asked.get("beside") is None else instrument_for(owner, asked["beside"])
        variant = variant_for(owner, asked["variant"], "edit")
        for instrument in filter(None, (own, beside)):
            alone(job, instrument)
        told, _ = told_by(own, VOLTS, report, most_s=POINT_S)
        amps = _current(beside, asked.get("range_a"))
        if told["value"] < NOTHING * asked["until_v"]:
            raise JobRefused(f"it reads {show(told['value'], 'V')}, and that is no battery")
        if owner.run_down_logs.exclude(due=None).count() >= MOST_LOGS:
            raise JobRefused(f"{MOST_LOGS} run-downs are logged at once; stop one first")
        if RunDownLog.objects.exclude(due=None).count() >= MOST_OF_ALL:
            raise JobRefused("this server logs as many run-downs as it can; try again when one is over")
        now = timezone.now()
        with transaction.atomic():
            kept = Kept(Course.begun(told["value"], amps).packed(), 1, 0.0)
            trace = keep_trace(variant, owner, asked["name"] or own.name, kept, "rundown")
            due = now + timedelta(seconds=asked["every_s"])
            log = RunDownLog.objects.create(
                trace=trace,
                instrument=own,
                beside=beside,
                range_a=asked["range_a"] if beside else None,
                owner=owner,
                every_s=asked["every_s"],
                until_v=asked["until_v"],
                began=now,
                due=due,
            )
            _hand_out(log.pk, due)
    except Refused as error:
        raise JobRefused(error.problems[0].message if error.problems else error.title) from None
    return told | {"trace": trace.pk}


def _current(beside: Instrument | None, range_a: float | None) -> float | None:
    """What the instrument beside it reads [A]; None where there is none. Raises JobRefused."""
    if beside is None:
        return None
    return float(told_by(beside, AMPS | {"range_a": range_a}, most_s=POINT_S)[0]["value"])


def _hand_out(log: int, due: datetime) -> None:
    from .tasks import log_point

    transaction.on_commit(lambda: log_point.using(run_after=due).enqueue(log))


def add_next_point(pk: int) -> None:
    """Reads the point that is due, once; or ends the log, and says why."""
    log = RunDownLog.objects.select_related("instrument", "beside", "trace", "owner").filter(pk=pk).first()
    now = timezone.now()
    if log is None or log.due is None or log.due > now + timedelta(seconds=1):
        return
    following = now + timedelta(seconds=log.every_s)
    with transaction.atomic():
        if not RunDownLog.objects.filter(pk=pk, due=log.due).update(due=following):
            return  # somebody else does it
        _hand_out(pk, following)
    own, beside = log.instrument, log.beside
    if own is None or (log.range_a is not None and beside is None) or not _may(log):
        return _end(pk, "gone")
    if now - log.began > LONGEST:
        return _end(pk, "long")
    if busy(own) or (beside is not None and busy(beside)):
        return None
    try:
        volts = told_by(own, VOLTS, most_s=POINT_S)[0]["value"]
        amps = _current(beside, log.range_a)
    except JobRefused as error:
        return _missed(log, str(error)[:200], "silent" if log.misses + 1 >= MOST_MISSES else "")
    if volts < NOTHING * log.until_v:
        return _missed(log, f"it reads {show(volts, 'V')}", "nothing" if log.misses else "")
    course = add_point(log.trace.pk, (now - log.began).total_seconds(), volts, amps)
    RunDownLog.objects.filter(pk=pk).update(misses=0, problem="")
    if course is not None and course.volts.size >= BELOW and (course.volts[-BELOW:] < log.until_v).all():
        _end(pk, "cut-off")


def _missed(log: RunDownLog, problem: str, ended: str) -> None:
    RunDownLog.objects.filter(pk=log.pk).update(misses=log.misses + 1, problem=problem)
    if ended:
        _end(log.pk, ended)


def _may(log: RunDownLog) -> bool:
    """Whether who began it may still change the gadget."""
    try:
        return bool(variant_for(log.owner, log.trace.variant_id, "edit"))
    except Refused:
        return False


def _end(pk: int, why: str) -> None:
    RunDownLog.objects.filter(pk=pk).exclude(due=None).update(due=None, ended=why)


def stop(trace: Trace) -> None:
    RunDownLog.objects.filter(trace=trace).exclude(due=None).update(due=None, ended="stopped")


def tend() -> None:
    """Points whose ticket went with its worker are due now."""
    now = timezone.now()
    for log in RunDownLog.objects.filter(due__lt=now - LOST_AFTER):
        if RunDownLog.objects.filter(pk=log.pk, due=log.due).update(due=now):
            with transaction.atomic():
                _hand_out(log.pk, now)
