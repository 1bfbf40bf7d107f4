"""What a check yields: a finding, and ways out of it that are tried only when they are asked for."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property

from ..figures import Remedy, Severity, Step, VerdictKey
from ..words import Fact, teller

Ways = Callable[[], Iterable[Remedy | None]]


@dataclass(frozen=True)
class Found:
    """`facts` are what its title and its sentence tell, which are the messages of its code, or of `words` where a code has
    several. `ways` gives proposals, the one to be preferred first; none of them has been held against the design yet. What
    `lengthens` is worth it only if the gadget lasts longer. `verdict` is the one that it belongs to where that is not the
    one of its step."""

    code: str
    severity: Severity
    step: Step
    where: str
    facts: Mapping[str, Fact] = field(default_factory=dict)
    ways: Ways | None = None
    lengthens: bool = False
    verdict: VerdictKey | None = None
    words: str = ""

    @cached_property
    def title(self) -> str:
        return teller().tell(f"{self.words or self.code}.title", self.facts)

    @cached_property
    def _told(self) -> tuple[str, dict[str, Fact]]:
        used: dict[str, Fact] = {}
        return teller().tell(f"{self.words or self.code}.sentence", self.facts, used), used

    @property
    def sentence(self) -> str:
        return self._told[0]

    @property
    def figures(self) -> dict[str, tuple[float, str]]:
        """The figures that the sentence tells, by name as (value, unit)."""
        return {n: (f[0], f[1]) for n, f in self._told[1].items() if isinstance(f, tuple) and f[0] is not None}
