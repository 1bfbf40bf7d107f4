"""A design judged: its findings and its verdicts, worked out once."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from ..catalogue import Catalogue
from ..design import Design
from ..figures import Verdict
from ..findings import Found, find
from ..reports.verdicts import all_verdicts
from ..solved.gadget import Context


@dataclass(frozen=True)
class Judged:
    context: Context

    @classmethod
    def of(cls, design: Design, catalogue: Catalogue) -> Judged:
        return cls(Context(design, catalogue))

    @cached_property
    def found(self) -> list[Found]:
        return find(self.context)

    @cached_property
    def verdicts(self) -> list[Verdict]:
        return all_verdicts(self.context, self.found)
