"""What a check yields: a finding, and ways out of it that are tried only when they are asked for."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field

from ..figures import Remedy, Severity, Step, VerdictKey

Ways = Callable[[], Iterable[Remedy | None]]


@dataclass(frozen=True)
class Found:
    """`facts` are the figures that the sentence tells, by name as (value, unit). `ways` gives proposals, the one to be
    preferred first; none of them has been held against the design yet. What `lengthens` is worth it only if the gadget
    lasts longer. `verdict` is the one that it belongs to where that is not the one of its step."""

    code: str
    severity: Severity
    step: Step
    where: str
    title: str
    sentence: str
    ways: Ways | None = None
    lengthens: bool = False
    facts: Mapping[str, tuple[float, str]] = field(default_factory=dict)
    verdict: VerdictKey | None = None
