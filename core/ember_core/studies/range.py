"""How far the runtime may be off, from many samples, and which figure to measure next."""

from __future__ import annotations

import numpy as np

from ..figures import Figure, figure, record
from ..measures.bench import TrialBench
from ..reports.battery import input_name
from ..runtime.uncertainty import ON_DEMAND, Samples, Uncertain, sample_runtime
from ..words import called, say

SOURCE = "samples of all that is uncertain through the same solver (JCGM 101:2008)"
BARS = 28
WORTH_MEASURING = 0.05
NEARLY = 0.02


@record
class OwnerRow:
    """An uncertain input: its share of the range (0..1), and the range if it were known exactly."""

    kind: str
    subject: str
    name: str
    part: str | None
    state: str | None
    share: float
    known: Figure


@record
class Bar:
    """How many of the samples (0..1) last between two times [h]."""

    from_h: float
    to_h: float
    share: float


@record
class RangeAnswer:
    """`meets` is the share of the samples that reach the goal, 0..1."""

    low: Figure
    median: Figure
    high: Figure
    meets: Figure
    samples: int
    bars: list[Bar]
    owners: list[OwnerRow]
    sentence: str
    typical_sentence: str


def answer_range(bench: TrialBench) -> RangeAnswer | None:
    """The sampled range; None while nothing is drawn."""
    if not bench.design.parts:
        return None
    samples = sample_runtime(bench.usual, ON_DEMAND)
    hours = samples.seconds / 3600
    low, median, high = (float(np.percentile(hours, p)) for p in (10, 50, 90))
    goal = bench.design.brief.goal_h
    meets = None if goal is None else float(np.mean(hours >= goal)) * 100
    count: list[tuple[str, float | None, str]] = [(called("samples"), float(hours.size), "")]
    rows = [_row(bench, o.input, o.share, o.known_low_s, o.known_high_s, median) for o in samples.owners]
    return RangeAnswer(
        low=figure("one-in-ten-lasts-less-than", low, "h", count, SOURCE),
        median=figure("half-of-them-last", median, "h", count, SOURCE, low=low, high=high),
        high=figure("one-in-ten-lasts-longer-than", high, "h", count, SOURCE),
        meets=figure("reach-the-goal", meets, "%", [*count, (called("goal"), goal, "h")], SOURCE),
        samples=hours.size,
        bars=_bars(samples),
        owners=rows,
        sentence=_sentence(bench, rows, low, high),
        typical_sentence=_typical(bench, median, hours.size),
    )


def _row(bench: TrialBench, one: Uncertain, share: float, low_s: float, high_s: float, median: float) -> OwnerRow:
    name = input_name(bench, one)
    return OwnerRow(
        kind=one.kind,
        subject=one.subject,
        name=name,
        part=one.subject if any(p.id == one.subject for p in bench.design.parts) else None,
        state=one.state or None,
        share=share,
        known=figure(
            "range-if-known",
            median,
            "h",
            [(called("first-order-sensitivity-index"), share, "share")],
            SOURCE,
            facts={"name": name},
            low=low_s / 3600,
            high=high_s / 3600,
        ),
    )


def _bars(samples: Samples) -> list[Bar]:
    """The samples between their 0.5th and 99.5th percentile in bars; few that lie outside would squeeze the picture."""
    hours = samples.seconds / 3600
    low, high = float(np.percentile(hours, 0.5)), float(np.percentile(hours, 99.5))
    edges = np.linspace(low, high if high > low else low + 1e-6, BARS + 1)
    counts, _ = np.histogram(np.clip(hours, edges[0], edges[-1]), edges)
    return [
        Bar(from_h=float(a), to_h=float(b), share=float(n) / hours.size)
        for a, b, n in zip(edges[:-1], edges[1:], counts, strict=True)
    ]


def _typical(bench: TrialBench, median_h: float, count: int) -> str:
    typical, said = bench.usual.seconds / 3600, bench.runtime_s / 3600
    same = typical <= 0 or abs(median_h / typical - 1) < NEARLY
    key = "run.typical-is-the-same" if same else "run.typical"
    sentence = say(key, typical=(typical, "h"), bad=median_h < typical)
    few = bench.estimate.seconds.size
    return say("range.headline", typical=sentence, said=(said, "h"), few=str(few), count=str(count))


MEASURED_BY = ("capacity", "resistance", "rate", "cold", "ageing")  # discharges


def _how(bench: TrialBench, kind: str) -> str:
    """By which measurement an input that is none of a part's is found out; empty where there is none for a maker."""
    state, parallel = bench.usual, bench.design.battery.parallel
    used = np.where(state.point_weights > 0, state.typical.source_a[:, state.middle], 0.0)
    if kind not in MEASURED_BY:
        return ""
    gentle, hard = bench.mean_a / parallel, float(np.max(used, initial=0.0)) / parallel
    return say(f"range.{kind}", gentle=(gentle, "A"), hard=(hard, "A"))


def _sentence(bench: TrialBench, rows: list[OwnerRow], low: float, high: float) -> str:
    """What to find out next: of what can be found out, that which causes most of the range."""
    use = next((r for r in rows if r.kind == "use"), None)
    first = next(r for r in rows if r.kind != "use")
    habits = ""
    if use is not None and use.share > max(first.share, WORTH_MEASURING):
        habits = say("range.habits", share=(use.share, "share"))
    if first.share < WORTH_MEASURING or high <= low:
        return say("range.nothing-first", habits=habits)
    known = first.known
    return say(
        "range.next", habits=habits, part=first.part is not None, name=first.name, how=_how(bench, first.kind),
        share=(first.share, "share"), low=(known.low, "h"), high=(known.high, "h"), now_low=(low, "h"), now_high=(high, "h"),
    )  # fmt: skip
