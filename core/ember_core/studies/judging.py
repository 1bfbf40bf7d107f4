"""A design judged: its findings and its verdicts, worked out once."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from ..catalogue import Catalogue
from ..design import Design
from ..figures import Verdict
from ..findings import Found, find
from ..measures.bench import TrialBench
from ..reports.verdicts import all_verdicts


@dataclass(frozen=True)
class Judged:
    bench: TrialBench

    @classmethod
    def of(cls, design: Design, catalogue: Catalogue) -> Judged:
        return cls(TrialBench(design, catalogue))

    @cached_property
    def found(self) -> list[Found]:
        return find(self.bench)

    @cached_property
    def verdicts(self) -> list[Verdict]:
        return all_verdicts(self.bench, self.found)
