"""What may be done with jobs: asked for, looked at by who asked, given up, forgotten after a day."""

from __future__ import annotations

from collections.abc import Callable
from datetime import timedelta
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone

from config.errors import Refused, not_found
from ember_core import Problem

from .models import Job

OPEN = ("waiting", "running")
MOST_OPEN = 4  # by one account
KEPT_FOR = timedelta(days=1)
LIES_AFTER = timedelta(minutes=5)


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
        if not Job.objects.filter(pk=self.job.pk, state="running").update(progress=share):
            raise GivenUp


Work = Callable[[Job, Report], Any]


def fail_what_lies() -> None:
    """What no worker has come to, or has ended, is said so, and may be asked for again."""
    lying = Job.objects.filter(state__in=OPEN, created__lt=timezone.now() - LIES_AFTER)
    lying.update(state="failed", problem="nobody came to it in time; please try again")


def ask(user: User, kind: str, asked: dict[str, Any]) -> Job:
    from .tasks import run_job

    fail_what_lies()
    if user.jobs.filter(state__in=OPEN).count() >= MOST_OPEN:
        raise Refused(409, "Too much at once", [Problem("", f"wait for one of your {MOST_OPEN} jobs, or give one up")])
    job = Job.objects.create(owner=user, kind=kind, asked=asked)
    transaction.on_commit(lambda: run_job.enqueue(str(job.pk)))
    return job


def job_for(user: User, job: str) -> Job:
    fail_what_lies()
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


def work_on(job_id: str, kinds: dict[str, Work]) -> None:
    """Does a job that waits, once; whatever happens, it ends in a state that says so."""
    if not Job.objects.filter(pk=job_id, state="waiting").update(state="running"):
        return
    job = Job.objects.get(pk=job_id)
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
