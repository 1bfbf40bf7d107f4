"""Housekeeping that the task worker does."""

from __future__ import annotations

from django.core.management import call_command
from django_tasks import task

from .throttle import forget_old


@task()
def tidy_up() -> None:
    """Deletes sessions that ended by themselves, and attempts that count no more."""
    call_command("clearsessions")
    forget_old()
