"""The errors that services raise; config/api.py turns them into problem details."""

from __future__ import annotations

from typing import Any

from ember_core import Problem


class Refused(Exception):
    """A request that can't be done: the status, a title and the problems at their places."""

    def __init__(self, status: int, title: str, problems: list[Problem] | None = None, **more: Any) -> None:
        super().__init__(title)
        self.status, self.title, self.problems, self.more = status, title, problems or [], more


def not_found(what: str) -> Refused:
    """Also the answer for other people's things: what one may not see is not there."""
    return Refused(404, f"There is no such {what}")
