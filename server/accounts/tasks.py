"""Housekeeping that the task worker does."""

from __future__ import annotations

from django.core.management import call_command
from django_tasks import task

from blobs.services import collect_orphans

from .throttle import forget_old


@task()
def tidy_up() -> None:
    """Deletes sessions that ended by themselves, attempts that count no more, and files that nobody holds."""
    call_command("clearsessions")
    forget_old()
    collect_orphans()
