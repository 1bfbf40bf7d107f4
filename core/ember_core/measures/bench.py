"""A solved gadget on the bench: what a patch does to its run, with the catalogue at hand."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from ..battery.pack import GRID_POINTS
from ..catalogue import Catalogue
from ..design import Design, PassStage
from ..design.patches import apply_patch
from ..figures import PatchOperation
from ..runtime.run import Run, is_close, rerun
from ..solved.gadget import SolvedGadget


@dataclass(frozen=True)
class TrialBench(SolvedGadget):
    """`catalogue` offers what may be put in."""

    catalogue: Catalogue

    @cached_property
    def _tried(self) -> dict[str, Run]:
        return {}

    @cached_property
    def _elsewhere(self) -> dict[float, TrialBench]:
        return {}

    def after(self, patch: list[PatchOperation]) -> Run:
        """The design after a patch, solved at the usual temperature. Raises DocumentError where it is none."""
        key = repr(patch)
        if key not in self._tried:
            self._tried[key] = self._solved(apply_patch(self.design, patch))
        return self._tried[key]

    def roughly_after(self, patch: list[PatchOperation]) -> float:
        """The runtime after a patch at typical figures [s], to compare it with others: within some percents where the gadget ends early.
        Raises DocumentError where it is none."""
        key = repr(patch)
        if key in self._tried:
            return self._tried[key].seconds
        state = self._solved(apply_patch(self.design, patch), GRID_POINTS)
        if is_close(state):
            self._tried[key] = state
        return state.seconds

    def _solved(self, design: Design, points: int | None = None) -> Run:
        """Another design at this one's usual temperature, over so many states of charge or as many as its end needs."""
        before = self.usual
        if design.brief.usual_c != before.temperature_c:
            return rerun(before, design, points)
        return self.known.of(design).usual_near(before, points).of(design)

    def changed(self, patch: list[PatchOperation]) -> TrialBench:
        """The design after a patch on a bench of its own, solved already where it was by `after`. Raises DocumentError where it is none."""
        return self.of(self.after(patch).design)

    def of(self, design: Design) -> TrialBench:
        """Another design on a bench that knows what this one does."""
        return TrialBench(design, self.catalogue, known=self.known)

    def at(self, celsius: float) -> TrialBench:
        """The same gadget where it is as cold or warm as this [degC] on its usual days."""
        brief = self.design.brief
        if celsius == brief.usual_c:
            return self
        if celsius not in self._elsewhere:
            cold, hot = min(brief.coldest_c, celsius), max(brief.hottest_c, celsius)
            there = brief.model_copy(update={"usual_c": celsius, "coldest_c": cold, "hottest_c": hot})
            design = self.design.model_copy(update={"brief": there})
            self._elsewhere[celsius] = self.of(design)
        return self._elsewhere[celsius]

    def load_switch(self, part: int) -> PassStage | None:
        """The catalogue's load switch for a part: of those that stand its peak the one that leaks least."""
        peak = self.most_a(part)
        able = [
            s for s in self.catalogue.stages
            if isinstance(s, PassStage) and s.role == "load switch" and s.limit_a >= peak
        ]  # fmt: skip
        return min(able, key=lambda s: (s.shutdown_a, s.cost), default=None)
