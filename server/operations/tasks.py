"""Housekeeping that the task worker does."""

from __future__ import annotations

from django.core.management import call_command
from django_tasks import task

from accounts.throttle import forget_old
from blobs.services import collect_orphans
from jobs import logs
from jobs.services import forget_old as forget_old_jobs
from projects.services import forget_deleted


@task()
def tidy_up() -> None:
    """Deletes sessions that ended by themselves, attempts that count no more, gadgets deleted long ago, files that nobody holds, and jobs of days before."""
    call_command("clearsessions")
    forget_old()
    forget_deleted()
    collect_orphans()
    forget_old_jobs()
    logs.tend()
