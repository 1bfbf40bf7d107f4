"""The phases of a burst as they were recorded, beside those of the design."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from pydantic import Field

from ..design import State
from ..figures import record
from ..load.operating_points import OperatingPoint
from ..measures.bench import TrialBench
from ..words import say
from .cutting import LEAST_A, Stretch
from .recording import Recording

APART = 1.5  # times as much as the next one: phases that a recording can tell apart; closer ones are taken together


@record
class TracePhase:
    """One of a mode's operating points: what its parts do then, and how long and how much it is by the design and as it was recorded."""

    name: str
    expected_a: float
    expected_share: Annotated[float, Field(description="of the mode's time, 0..1")]
    expected_s: Annotated[float | None, Field(description="each time [s]; null: no burst, a share of the time")]
    mean_a: Annotated[float | None, Field(description="null: not seen")]
    share: Annotated[float, Field(description="of the mode's time, as recorded, 0..1")]
    seconds: Annotated[float | None, Field(description="each time, as recorded [s]")]
    sentence: str


def trace_phases(recording: Recording, bench: TrialBench, mode: int, own: list[Stretch]) -> list[TracePhase]:
    """Each sample of the mode's stretches counts for the phase whose current is nearest to it (in their logarithms).

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> from ember_core.traces import simulated
    >>> recording, truth = simulated(bench, 60.0, 100.0, 1)
    >>> trace_phases(recording, bench, 0, [Stretch(0, 0, 715)])  # asleep it draws one current
    []
    """
    state = bench.usual
    points = [
        (x, float(state.typical.source_a[i, bench.middle]))
        for i, x in enumerate(state.operating_points)
        if x.mode == mode and x.share > 0
    ]
    groups = _apart(points)
    if len(groups) < 2:
        return []
    period = next((x.seconds / x.share for x, _ in points if x.seconds), None)
    means = np.array([sum(x.share * a for x, a in g) / sum(x.share for x, _ in g) for g in groups])
    edges = np.log(np.maximum(means, LEAST_A))
    edges = (edges[1:] + edges[:-1]) / 2
    samples = np.concatenate([np.arange(s.first, s.last) for s in own])
    amps, lasts = recording.current_a[samples], recording.lasts_s[samples]
    kind = np.digitize(np.log(np.maximum(amps, LEAST_A)), edges)
    seconds = np.bincount(kind, lasts, len(groups))
    charge = np.bincount(kind, lasts * amps, len(groups))
    whole = float(lasts.sum())
    found = list[TracePhase]()
    for k, group in reversed(list(enumerate(groups))):
        expected = sum(x.share for x, _ in group)
        share = float(seconds[k]) / whole
        amps_then = float(charge[k] / seconds[k]) if seconds[k] > 0 else None
        name = _named(bench, [x for x, _ in group], [x for x, _ in points])
        found.append(
            TracePhase(
                name=name,
                expected_a=float(means[k]),
                expected_share=expected,
                expected_s=None if period is None else expected * period,
                mean_a=amps_then,
                share=share,
                seconds=None if period is None else share * period,
                sentence=say(
                    "traces.phase",
                    seen=amps_then is not None, burst=period is not None, mean=(amps_then, "A"), share=(share * 100, "%"),
                    seconds=(share * (period or 0), "s"), expected=(float(means[k]), "A"), expected_s=(expected * (period or 0), "s"),
                    expected_share=(expected * 100, "%"),
                ),
            )
        )  # fmt: skip
    return found


def _apart(points: list[tuple[OperatingPoint, float]]) -> list[list[tuple[OperatingPoint, float]]]:
    """Operating points by their current, the lowest first; those that a recording does not tell apart together."""
    groups = list[list[tuple[OperatingPoint, float]]]()
    for point, amps in sorted(points, key=lambda x: x[1]):
        if groups and amps < APART * max(groups[-1][-1][1], LEAST_A):
            groups[-1].append((point, amps))
        else:
            groups.append([(point, amps)])
    return groups


def _named(bench: TrialBench, own: list[OperatingPoint], every: list[OperatingPoint]) -> str:
    """What its parts do that they do not do all the mode long."""
    said = list[str]()
    for i, part in enumerate(bench.design.parts):
        if len({_name(x.states[i]) for x in every}) > 1:
            names = dict.fromkeys(name for x in own if (name := _name(x.states[i])))
            said += [f"{part.name}: {' / '.join(names)}"] if names else []
    return "; ".join(said) or say("traces.between")


def _name(state: State | None) -> str:
    return "" if state is None else state.name
