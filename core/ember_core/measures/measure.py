"""What a measure is: a change of the design that may save energy, by itself, on top of others, or as the way out of a finding."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Literal

from ..design import Design, Part, State, Use
from ..figures import PatchOperation, Remedy
from ..load.operating_points import part_current
from ..words import Fact, teller

Kind = Literal["build", "firmware", "habit"]
Change = Callable[[Design], list[PatchOperation] | None]
USUAL_RAIL_V = 3.3  # to compare states of one part with each other


@dataclass(frozen=True)
class Measure:
    """`change` gives the patch for any design it still applies to, None where it does not: so measures can be stacked.

    `kind` is what has to be done for it: something built, something programmed, or another habit of the user's. Of the
    measures of one `group` only one can be applied. `facts` are what its messages tell, which are those of its code, or of
    `words` where a code has several.
    """

    key: str
    code: str
    kind: Kind
    group: str
    facts: Mapping[str, Fact]
    change: Change
    words: str = ""

    def _told(self, part: str) -> str:
        return teller().tell(f"{self.words or self.code}.{part}", self.facts)

    @property
    def title(self) -> str:
        return self._told("title")

    @property
    def sentence(self) -> str:
        """What it is about."""
        return self._told("sentence")

    @property
    def side_effect(self) -> str:
        """What it costs in use."""
        return self._told("side_effect")

    def remedy(self, design: Design) -> Remedy | None:
        """The measure as the way out of a finding; None where it does not apply."""
        patch = self.change(design)
        return Remedy(label=self.title, patch=patch) if patch else None


def find_part(design: Design, key: str) -> tuple[int, Part] | None:
    here = design.index.parts.get(key)
    return None if here is None else (here, design.parts[here])


def find_use(design: Design, mode_id: str, part_id: str) -> tuple[str, Use] | None:
    """(JSON pointer, use) of a part in a mode."""
    for m, mode in enumerate(design.modes):
        for u, use in enumerate(mode.uses):
            if mode.id == mode_id and use.part == part_id:
                return f"/modes/{m}/uses/{u}", use
    return None


def state_a(state: State) -> float:
    """Typical current of a state, to compare it with others of the same part [A].

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> states = sorted(state_a(s) for s in design.parts[0].states)
    >>> states[0] < states[-1]
    True
    """
    return part_current(state, USUAL_RAIL_V)


def calmer(part: Part, than: str) -> list[State]:
    """A part's states that draw less than one of them, the calmest first."""
    by_name = {s.name: state_a(s) for s in part.states}
    return sorted((s for s in part.states if state_a(s) < 0.9 * by_name[than]), key=state_a)


def rounded(value: float) -> float:
    """To six digits.

    >>> [rounded(x) for x in (0.0123456789, 43210.987)]
    [0.0123457, 43211.0]
    """
    return float(f"{value:.6g}")
