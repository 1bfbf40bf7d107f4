"""A design judged: its findings and its verdicts, worked out once."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from .catalogue import Catalogue
from .context import Context
from .design import Design
from .evaluation.verdicts import all_verdicts
from .figures import Verdict
from .findings import Found, find


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
