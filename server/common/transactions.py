"""Transactions that are tried again where the database chose them to end a deadlock."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import ParamSpec, TypeVar

from django.db import OperationalError, connection, transaction

DEADLOCK, LOCK_WAIT_TIMEOUT = 1213, 1205
TRIES = 4

P = ParamSpec("P")
R = TypeVar("R")


def atomic_with_retry(work: Callable[P, R]) -> Callable[P, R]:
    """`transaction.atomic`, repeated from its beginning after a deadlock; inside another transaction only that one
    could be repeated, so there it is plain."""

    @wraps(work)
    def wrapped(*args: P.args, **kwargs: P.kwargs) -> R:
        for attempt in range(1, TRIES + 1):
            try:
                with transaction.atomic():
                    return work(*args, **kwargs)
            except OperationalError as error:
                again = error.args[:1] and error.args[0] in (DEADLOCK, LOCK_WAIT_TIMEOUT)
                if not again or attempt == TRIES or connection.in_atomic_block:
                    raise
        raise AssertionError("not reached")

    return wrapped
