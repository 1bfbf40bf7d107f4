"""The day: what is drawn hour by hour, the average day and the worst one, and starting against sleeping."""

from __future__ import annotations

import numpy as np

from ..figures import Figure, figure, record
from ..load.day import DayKind, day_kinds
from ..solved.capacity import RUNTIME_SOURCE
from ..solved.gadget import SolvedGadget
from ..words import called, say

MOST_KINDS = 12
DAY_SOURCE = "time-weighted mean in 48 slots"
SAME = 1e-12
ALIKE = 1.05  # times the mean current


@record
class DayRow:
    """One kind of day: its share of the year (0..1), the mean current, and the runtime if every day were like it."""

    name: str
    share: float
    mean: Figure
    lasts: Figure


@record
class DayReport:
    """`slots_a` is the mean battery current of the average day from midnight on, in `SLOTS` slots [A]."""

    slots_a: list[float]
    average: DayRow
    worst: DayRow
    kinds: list[DayRow]
    sentence: str


def day_report(solved: SolvedGadget) -> DayReport:
    """What the average day and the worst one look like."""
    design, state = solved.design, solved.usual
    mode_a = state.mode_current_a[:, solved.middle]
    kinds = state.year.kinds
    drawn = any(s.why != "planned" for s in design.day.sessions)
    bad = day_kinds(design.day, design.modes, bad=True) if drawn else kinds
    worst = max(bad, key=lambda k: float(k.slots.mean(axis=0) @ mode_a))
    slots, left = (np.asarray(sum(k.weight * getattr(k, x) for k in kinds)) for x in ("slots", "left"))
    average = DayKind(1.0, tuple(range(7)), tuple(range(1, 13)), slots, left)
    rows = [_row(solved, k, k.name) for k in sorted(kinds, key=lambda k: -k.weight)[:MOST_KINDS]]
    worst_name = say("day-name.worst") if len(kinds) == 1 else worst.name
    worst_row = _row(solved, worst, worst_name, say("day-name.bad") if drawn else "")
    more = (worst_row.mean.value or 0) / solved.mean_a if solved.mean_a > 0 else 1.0
    if not drawn and len(kinds) == 1:
        sentence = say("days.alike")
    else:
        sentence = say(
            "days.differ",
            average=(solved.mean_a, "A"),
            day=None if len(kinds) == 1 else worst.name,
            worst=(worst_row.mean.value, "A"),
            times=(None if more < ALIKE else more, ""),
            lasts=(worst_row.lasts.value, "h"),
        )
    return DayReport(
        slots_a=[float(x) for x in average.slots @ mode_a],
        average=_row(solved, average, say("day-name.average")),
        worst=worst_row,
        kinds=rows,
        sentence=sentence,
    )


def _row(solved: SolvedGadget, kind: DayKind, name: str, note: str = "") -> DayRow:
    state, modes = solved.usual, solved.design.modes
    shares = kind.slots.mean(axis=0)
    amps = float(shares @ state.mode_current_a[:, solved.middle])
    hours = None
    if solved.design.parts:
        same = bool(np.abs(shares - state.shares).max() <= SAME)
        hours = (state if same else state.if_days_were(shares)).seconds / 3600 * solved.typical_to_said
    return DayRow(
        name=name,
        share=kind.weight,
        mean=figure(
            "day-mean-current",
            amps,
            "A",
            [(m.name, float(s), "share") for m, s in zip(modes, shares, strict=True)],
            DAY_SOURCE,
            facts={"name": name},
            note=note,
        ),
        lasts=figure(
            "runtime-if-every-day-were-like-it",
            hours,
            "h",
            [(called("mean-battery-current"), amps, "A")],
            RUNTIME_SOURCE,
            facts={"name": name},
            note=note,
        ),
    )
