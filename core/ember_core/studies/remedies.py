"""The ways out of a design's findings, each held against the design before it is offered."""

from __future__ import annotations

from ..figures import Remedy, record
from ..findings import named
from ..measures.bench import TrialBench
from .judging import Judged
from .trials import ways_out


@record
class RemedyAnswer:
    """The remedy for one finding, by the finding's key."""

    finding: str
    remedy: Remedy


def answer_remedies(bench: TrialBench) -> list[RemedyAnswer]:
    """For each finding that has one: the remedy that settles it and makes nothing worse, or that says what it does."""
    judged = Judged(bench)
    found = []
    for one, finding in zip(judged.found, named(judged.found), strict=True):
        remedy = ways_out(judged, one)
        if remedy is not None:
            found.append(RemedyAnswer(finding=finding.key, remedy=remedy))
    return found
