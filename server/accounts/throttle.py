"""How often one may try to sign in or up: counted per account and per address, kept in the database so that all
processes of the web server count together."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta

from django.utils import timezone

from common.errors import Refused
from ember_core import Problem

from .models import Attempt


@dataclass(frozen=True)
class Limit:
    """At most `most` attempts within `within`, for each of those whom it counts."""

    name: str
    most: int
    within: timedelta

    def key(self, whose: str) -> str:
        """Short, and without the name itself: people type passwords into the wrong field."""
        return f"{self.name}:{hashlib.sha256(whose.casefold().encode()).hexdigest()[:40]}"


WRONG_FROM_THERE = Limit("wrong password, account and address", 10, timedelta(minutes=10))
# from anywhere: who is known there already is not counted, so that nobody can lock an owner out
WRONG_FOR_ACCOUNT = Limit("wrong password, account", 50, timedelta(minutes=10))
WRONG_FROM_ADDRESS = Limit("wrong password, address", 100, timedelta(minutes=10))
SIGN_UPS_FROM_ADDRESS = Limit("sign-up, address", 30, timedelta(hours=1))


def take(counts: Sequence[tuple[Limit, str]], path: str) -> list[Attempt]:
    """Counts an attempt against every limit, before its outcome is known, so that many at once do not slip through.
    Raises Refused (429) with the time to wait where one of them is used up; a refused attempt does not count."""
    now = timezone.now()
    taken = [Attempt(key=limit.key(whose), at=now) for limit, whose in counts]
    for attempt in taken:
        attempt.save()
    for (limit, _), attempt in zip(counts, taken, strict=True):
        recent = Attempt.objects.filter(key=attempt.key, at__gt=now - limit.within).exclude(pk=attempt.pk)
        times = list(recent.order_by("-at").values_list("at", flat=True)[: limit.most])
        if len(times) == limit.most:
            give_back(taken)
            wait = times[-1] + limit.within - now
            raise Refused(429, "Too many attempts", [Problem(path, f"was tried too often; wait {_said(wait)}")],
                          retry_after_s=max(1, math.ceil(wait.total_seconds())))  # fmt: skip
    return taken


def give_back(taken: Sequence[Attempt]) -> None:
    """Attempts that turned out well do not count."""
    Attempt.objects.filter(pk__in=[attempt.pk for attempt in taken]).delete()


def forget_old() -> None:
    """Deletes attempts that no limit looks at any more."""
    Attempt.objects.filter(at__lt=timezone.now() - timedelta(days=1)).delete()


def _said(wait: timedelta) -> str:
    minutes = wait.total_seconds() / 60
    return "a minute" if minutes <= 1 else f"{math.ceil(minutes)} minutes"
