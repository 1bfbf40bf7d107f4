"""What may be done with jobs: asked for, looked at by who asked, given up, taken up again when their worker is gone, forgotten after a day.

A task of the worker is a ticket for one job, not for a certain one: it does the next of whoever has the fewest at work and waited longest.
"""

from __future__ import annotations

from collections.abc import Callable
from datetime import timedelta
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import Count, F, Max, Q
from django.utils import timezone

from common.errors import Refused, not_found
from ember_core import Problem

from .models import Job

OPEN = ("waiting", "running")
MOST_OPEN = 4  # by one account
MOST_LOOKED_AT = 20  # earlier ones of an account, for one that asked the same
KEPT_FOR = timedelta(days=1)
LIES_AFTER = timedelta(minutes=5)
SILENT_AFTER = timedelta(seconds=20)  # work gives a sign of life several times a second
MOST_TRIES = 2


class JobRefused(Exception):
    """What was asked for can't be done; the message is for who asked."""


class GivenUp(Exception):
    """Who asked for it does not want it any more."""


class Report:
    """Through which a job's work says how far it is, and learns that it was given up."""

    def __init__(self, job: Job) -> None:
        self.job = job

    def progress(self, share: float) -> None:
        """Raises GivenUp."""
        if not Job.objects.filter(pk=self.job.pk, state="running").update(progress=share, beat=timezone.now()):
            raise GivenUp


Work = Callable[[Job, Report], Any]


def tend() -> None:
    """What no worker has come to is said so. What was left by a worker that is gone waits again, once, and is said to have failed after that."""
    now = timezone.now()
    lying = Job.objects.filter(state="waiting", created__lt=now - LIES_AFTER)
    lying.update(state="failed", problem="nobody came to it in time; please try again")
    never = Q(beat=None, created__lt=now - LIES_AFTER)  # of an earlier version
    silent = Job.objects.filter(never | Q(beat__lt=now - SILENT_AFTER), state="running")
    silent.filter(tries__gte=MOST_TRIES).update(state="failed", problem="it was interrupted twice; please try again")
    for job in silent.filter(tries__lt=MOST_TRIES):
        if silent.filter(pk=job.pk).update(state="waiting", progress=0.0, created=now):
            _hand_out_ticket()


def _hand_out_ticket() -> None:
    from .tasks import run_job

    transaction.on_commit(run_job.enqueue)


def ask(user: User, kind: str, asked: dict[str, Any]) -> Job:
    tend()
    if user.jobs.filter(state__in=OPEN).count() >= MOST_OPEN:
        raise Refused(409, "Too much at once", [Problem("", f"wait for one of your {MOST_OPEN} jobs, or give one up")])
    job = Job.objects.create(owner=user, kind=kind, asked=asked)
    _hand_out_ticket()
    return job


def asked_before(user: User, kind: str, asked: dict[str, Any]) -> Job | None:
    """A job for the very same that is under way or done."""
    alike = user.jobs.filter(kind=kind, state__in=(*OPEN, "done")).order_by("-created")
    return next((job for job in alike.defer("result")[:MOST_LOOKED_AT] if job.asked == asked), None)


def job_for(user: User, job: str) -> Job:
    tend()
    found = Job.objects.filter(owner=user, pk=job).first()
    if found is None:
        raise not_found("job")
    return found


def give_up(user: User, job: str) -> Job:
    """What runs is ended at its next step; what is over stays as it is."""
    found = job_for(user, job)
    Job.objects.filter(pk=found.pk, state__in=OPEN).update(state="cancelled")
    found.refresh_from_db()
    return found


def _next() -> Job | None:
    """Takes the next job: of those who have the fewest at work, the one whose last began longest ago, and of theirs the oldest."""
    while True:
        at_work = Count("owner__jobs", filter=Q(owner__jobs__state="running"), distinct=True)
        last = Max("owner__jobs__begun")
        waiting = Job.objects.filter(state="waiting").annotate(at_work=at_work, last=last)
        job = waiting.order_by("at_work", F("last").asc(nulls_first=True), "created").first()
        if job is None:
            return None
        now = timezone.now()
        taken = Job.objects.filter(pk=job.pk, state="waiting")
        if taken.update(state="running", begun=now, beat=now, tries=F("tries") + 1):
            return Job.objects.get(pk=job.pk)


def work_on_next(kinds: dict[str, Work]) -> None:
    """Does a job that waits, if there is one; whatever happens, it ends in a state that says so."""
    job = _next()
    if job is None:
        return
    try:
        result = kinds[job.kind](job, Report(job))
    except GivenUp:
        return
    except JobRefused as error:
        _end(job, state="failed", problem=str(error)[:500])
    except Exception:
        _end(job, state="failed", problem="a mistake of ours, which is written down; please try again or another file")
        raise
    else:
        _end(job, state="done", result=result, progress=1.0)


def _end(job: Job, **fields: Any) -> None:
    Job.objects.filter(pk=job.pk, state="running").update(**fields)


def forget_old() -> int:
    """Deletes jobs that nobody looks at any more. Returns how many are gone."""
    old = timezone.now() - KEPT_FOR
    return Job.objects.filter(created__lt=old).delete()[0]
