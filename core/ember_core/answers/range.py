"""How far the runtime may be off, from many samples, and which figure to measure next."""

from __future__ import annotations

import numpy as np

from ..context import Context
from ..figures import Figure, Result, figure
from ..quantities import show
from ..sampling import Samples, Uncertain, sample_runtime

SOURCE = "scrambled Sobol samples through the same solver; docs/MODELS.md, range"
BARS = 28
WORTH_MEASURING = 0.05
NEARLY = 0.02


class OwnerRow(Result):
    """An uncertain input: its share of the range (0..1), and the range if it were known exactly."""

    name: str
    part: str | None
    state: str | None
    share: float
    known: Figure


class Bar(Result):
    """How many of the samples (0..1) last between two times [h]."""

    from_h: float
    to_h: float
    share: float


class RangeAnswer(Result):
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


def answer_range(context: Context) -> RangeAnswer | None:
    """The sampled range; None while nothing is drawn."""
    if not context.design.parts:
        return None
    samples = sample_runtime(context.usual)
    hours = samples.seconds / 3600
    low, median, high = (float(np.percentile(hours, p)) for p in (10, 50, 90))
    goal = context.design.brief.goal_h
    meets = float(np.mean(hours >= goal))
    count: list[tuple[str, float | None, str]] = [("samples", float(hours.size), "")]
    rows = [_row(context, o.input, o.share, o.known_low_s, o.known_high_s, median) for o in samples.owners]
    return RangeAnswer(
        low=figure("One in ten lasts less than", low, "h", "10th percentile of the samples", count, SOURCE),
        median=figure("Half of them last", median, "h", "median of the samples", count, SOURCE, low=low, high=high),
        high=figure("One in ten lasts longer than", high, "h", "90th percentile of the samples", count, SOURCE),
        meets=figure("Reach the goal", meets * 100, "%", "share of the samples that last at least as long as the goal",
                     [*count, ("goal", goal, "h")], SOURCE),
        samples=hours.size,
        bars=_bars(samples),
        owners=rows,
        sentence=_sentence(rows, low, high),
        typical_sentence=_typical(context.usual.seconds / 3600, median),
    )  # fmt: skip


def input_name(context: Context, one: Uncertain) -> str:
    if one.part < 0:
        return f"{one.kind} of the cell"
    return f"{context.design.parts[one.part].name}, {one.state}"


def _row(context: Context, one: Uncertain, share: float, low_s: float, high_s: float, median: float) -> OwnerRow:
    name = input_name(context, one)
    return OwnerRow(
        name=name,
        part=context.design.parts[one.part].id if one.part >= 0 else None,
        state=one.state or None,
        share=share,
        known=figure(
            f"Range if {name} were known", median, "h", "10th to 90th percentile without what this input explains",
            [("share of the range", share, "share")], SOURCE, low=low_s / 3600, high=high_s / 3600,
        ),
    )  # fmt: skip


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


def _typical(typical: float, median: float) -> str:
    if typical <= 0 or abs(median / typical - 1) < NEARLY:
        return "With every figure at its typical value it is the same."
    return (
        f"With every figure at its typical value it is {show(typical, 'h')}. Half of such gadgets last {show(median, 'h')} or less: of many "
        f"uncertain figures some are always on the {'bad' if median < typical else 'good'} side."
    )


def _the(row: OwnerRow) -> str:
    return row.name if row.part else f"the {row.name}"


def _sentence(rows: list[OwnerRow], low: float, high: float) -> str:
    first = rows[0]
    if first.share < WORTH_MEASURING or high <= low:
        return "No single figure stands out: there is nothing to measure first."
    known = first.known
    return (
        f"{'Find out' if first.name.startswith('self') else 'Measure'} {_the(first)} next: it owns {show(first.share, 'share')} of the range. Known exactly, the range would be "
        f"{show(known.low, 'h')} to {show(known.high, 'h')} instead of {show(low, 'h')} to {show(high, 'h')}."
    )
