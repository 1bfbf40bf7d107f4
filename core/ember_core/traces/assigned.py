"""What somebody says of a recording: from here to there it was this mode. It goes before what the cut found, later ones before earlier ones."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from pydantic import Field

from ..design import Design
from ..design.basics import Model, Slug
from .cutting import Stretch, joined
from .recording import Recording

MOST_ASSIGNED = 200


class Assigned(Model):
    """`mode` is the id of one of the design's; null: none of them."""

    begin_s: Annotated[float, Field(ge=0, le=1e9)]
    end_s: Annotated[float, Field(ge=0, le=1e9)]
    mode: Slug | None = None


def overlaid(recording: Recording, found: list[Stretch], assigned: list[Assigned], design: Design) -> list[Stretch]:
    """The stretches with what was said put over them. What names a mode that the design does not have any more counts for nothing.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> from ember_core.traces import simulated
    >>> recording, truth = simulated(bench, 60.0, 100.0, 1)
    >>> said = Assigned(begin_s=10.0, end_s=20.0, mode=None)
    >>> [(s.mode, s.first, s.last) for s in overlaid(recording, [Stretch(0, 0, 6000)], [said], design)]
    [(0, 0, 1000), (None, 1000, 2000), (0, 2000, 6000)]
    """
    for one in assigned:
        if one.mode is not None and one.mode not in design.index.modes:
            continue
        first, last = (int(np.searchsorted(recording.time_s, t)) for t in (one.begin_s, one.end_s))
        if last <= first:
            continue
        mode = None if one.mode is None else design.index.modes[one.mode]
        before = [Stretch(s.mode, s.first, min(s.last, first), s.by_place) for s in found if s.first < first]
        after = [Stretch(s.mode, max(s.first, last), s.last, s.by_place) for s in found if s.last > last]
        found = joined([*before, Stretch(mode, first, last), *after])
    return found
