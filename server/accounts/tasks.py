"""Housekeeping that the task worker does."""

from __future__ import annotations

from django.core.management import call_command
from django_tasks import task


@task()
def clear_expired_sessions() -> None:
    """Deletes sessions that ended by themselves."""
    call_command("clearsessions")
