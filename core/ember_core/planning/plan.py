"""The build plan: what is to order, to print, to solder and to test, what waits for what, on which day it is done, and what to begin today.

Scheduled forwards day by day (list scheduling: R. Graham, SIAM J. Appl. Math. 17 (1969) 416): of what can be done, that with the longest way still behind it goes
first. Things come by themselves; a printer and a pair of hands do one thing after the other, so many hours a day.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from datetime import date, timedelta
from typing import Annotated, Literal

from pydantic import Field

from ..bringup import Assembly, assembly, bring_up
from ..design.basics import Model
from ..enclosure.pieces import pieces
from ..figures import record
from ..measures.bench import TrialBench
from ..thermal.shell import shell_mass_g
from ..words import say
from .bill import BatchBill

Resource = Literal["waiting", "printer", "hands"]
# Days that things take to come, rules of thumb: everyday parts from around the corner; what a maker of parts sends
USUAL_DAYS, FROM_A_MAKER_DAYS, FINISH_DAYS = 5, 10, 1
# Hours: what a printer lays down [mm³/h], with what it takes to begin; a solder joint with its look at it, a step of the assembly, a step of the bring-up
FILAMENT_MM3, RESIN_MM, BEGINS_H = 12_000.0, 18.0, 0.25
FILAMENT_G_PER_CM3 = 1.25
BOARD_H, INSIDE_H, BRING_UP_H = 0.2, 0.25, 0.06
PRINTER_H_A_DAY = 14.0
LONGEST_RUN_DOWN_DAYS, SHORT_RUN_DOWN_DAYS = 14.0, 3.0  # one that would take longer is left to run for a while
BOARD_GROUPS = ("ready", "board", "delicate", "wires")
MOST_DAYS = 1500
MOST_KEYS = 200


Day = Annotated[date, Field(ge=date(2000, 1, 1), le=date(2199, 12, 31))]
Days = Annotated[dict[Annotated[str, Field(max_length=120)], Day], Field(max_length=MOST_KEYS)]


class PlanState(Model):
    """What somebody says of a plan: when it begins, for how many hours a day there are hands, what is done since when, what does not begin before which day."""

    start: Day
    hours_a_day: Annotated[float, Field(ge=0.25, le=16)] = 2.0
    wanted: Day | None = Field(None, description="when it has to be done; null: whenever")
    done: Days = {}
    not_before: Days = {}


@record
class PlanTask:
    """One thing to do. `hours` of work or of the printer, `days` that it takes by itself. `slack_days` it may slip without anything else being later;
    `late_days` later than first planned."""

    key: str
    resource: Resource
    title: str
    how: str
    hours: float
    days: float
    after: Annotated[list[str], Field(description="what it waits for")]
    begins: date
    ends: date
    done: date | None
    slack_days: int
    late_days: int


@record
class BuildPlan:
    tasks: Annotated[list[PlanTask], Field(description="in the order in which they begin")]
    ends: date
    today: Annotated[list[str], Field(description="what to begin, or to go on with, today")]
    sentence: str


@dataclass
class _Task:
    key: str
    resource: Resource
    title: str
    how: str
    hours: float = 0.0
    days: float = 0.0
    after: list[str] = field(default_factory=list)


def build_plan(bench: TrialBench, bill: BatchBill, state: PlanState, today: date) -> BuildPlan:
    """`bill` says what is to buy, and how long it takes to come.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> from ember_core.reports.fit import totals_report
    >>> from ember_core.planning import batch_bill
    >>> bill = batch_bill(design, totals_report(bench).bill, 1, [])
    >>> plan = build_plan(bench, bill, PlanState(start=date(2026, 3, 2)), date(2026, 3, 2))
    >>> all(task.begins <= task.ends for task in plan.tasks)
    True
    """
    tasks = _tasks(bench, bill)
    first = _scheduled(tasks, PlanState(start=state.start, hours_a_day=state.hours_a_day), state.start)
    now = _scheduled(tasks, state, max(today, state.start))
    last = max((end for _, end in now.values()), default=state.start)
    latest = _latest(tasks, now, last)
    rows = []
    for task in tasks:
        begins, ends = now[task.key]
        rows.append(
            PlanTask(
                key=task.key,
                resource=task.resource,
                title=task.title,
                how=task.how,
                hours=task.hours,
                days=task.days,
                after=task.after,
                begins=begins,
                ends=ends,
                done=state.done.get(task.key),
                slack_days=0 if task.key in state.done else max((latest[task.key] - ends).days, 0),
                late_days=max((ends - first[task.key][1]).days, 0),
            )
        )
    rows.sort(key=lambda t: (t.begins, t.ends))
    begin = [t.key for t in rows if t.done is None and t.begins <= today]
    return BuildPlan(tasks=rows, ends=last, today=begin, sentence=_sentence(rows, last, state, today))


def _sentence(rows: list[PlanTask], last: date, state: PlanState, today: date) -> str:
    if all(t.done for t in rows):
        return say("plan.done")
    late = [t for t in rows if t.done is None and t.late_days]
    said = say("plan.ends", last=last.isoformat(), days=((last - max(today, state.start)).days, ""))
    if late:
        worst = max(late, key=lambda t: t.late_days)
        said += " " + say("plan.late", task=worst.title, days=(worst.late_days, ""))
    if state.wanted is not None:
        over = (last - state.wanted).days
        said += " " + (
            say("plan.over", days=(over, "")) if over > 0 else say("plan.in-time", just=over == 0, days=(-over, ""))
        )
    return said


def _tasks(bench: TrialBench, bill: BatchBill) -> list[_Task]:
    """What there is to do; what waits for what by their keys."""
    design, sheet = bench.design, assembly(bench)
    orders, prints = _orders(bill), _prints(bench)
    board = _hands("solder", sheet, BOARD_GROUPS, BOARD_H, [t.key for t in orders])
    tests = bring_up(bench).steps
    check = _Task(
        "bring-up", "hands", say("plan.bring-up"), say("plan.steps", count=(len(tests), "")),
        hours=BRING_UP_H * len(tests), after=[board.key],
    )  # fmt: skip
    close = _hands("close", sheet, None, INSIDE_H, [check.key, *(t.key for t in prints)])
    found = [*orders, *prints, board, check, close]
    before_run = close.key
    if design.charger is not None and bench.charge is not None and bench.charge.seconds:
        hours = bench.charge.seconds / 3600
        how = say("plan.charge-how", hours=(hours, "h"))
        found.append(_Task("charge", "waiting", say("plan.charge"), how, days=hours / 24, after=[close.key]))
        before_run = "charge"
    days = bench.runtime_s / 86400
    short = days > LONGEST_RUN_DOWN_DAYS
    if days > 0:
        how = say("plan.run-down-how", whole=(days * 24, "h"), short=short)
        taken = SHORT_RUN_DOWN_DAYS if short else days
        found.append(_Task("run-down", "waiting", say("plan.run-down"), how, days=taken, after=[before_run]))
    return found


def _orders(bill: BatchBill) -> list[_Task]:
    """One for all that comes within the same time."""
    by_days: dict[int, list[str]] = {}
    for line in bill.lines:
        if line.to_buy > 0 and line.where != "/enclosure":
            by_days.setdefault(USUAL_DAYS if line.lead_days is None else line.lead_days, []).append(line.name)
    return [
        _Task(
            f"order-{days}",
            "waiting",
            say("plan.order", count=(len(names), ""), days=(days, "")),
            ", ".join(names),
            days=days,
        )
        for days, names in sorted(by_days.items(), reverse=True)
    ]


def _prints(bench: TrialBench) -> list[_Task]:
    """A task for each piece of the case; of a ready-made or milled one an order."""
    case = bench.design.enclosure
    if case.process in ("ready-made", "milled"):
        made = case.process == "milled"
        days = FROM_A_MAKER_DAYS if made else USUAL_DAYS
        return [
            _Task("case", "waiting", say("plan.case-made", milled=made), say("plan.comes", days=(days, "")), days=days)
        ]
    found = []
    for piece in pieces(bench.design):
        tall = float(piece.vertices[:, 2].max() - piece.vertices[:, 2].min())
        hours = BEGINS_H + (piece.volume_mm3 / FILAMENT_MM3 if case.process == "filament" else tall / RESIN_MM)
        how = say("plan.print-how", volume=(piece.volume_mm3 / 1000, "cm³"), hours=(hours, "h"))
        found.append(
            _Task(
                f"print-{piece.name.lower().replace(' ', '-')}",
                "printer",
                say("plan.print", piece=piece.name),
                how,
                hours=hours,
            )
        )
    if not found:
        volume = shell_mass_g(case, bench.fit.made_mm3) / FILAMENT_G_PER_CM3 * 1000
        hours = BEGINS_H + volume / FILAMENT_MM3
        found.append(
            _Task("print-case", "printer", say("plan.print-case"), say("plan.takes", hours=(hours, "h")), hours=hours)
        )
    if case.finish != "as made":
        after = [t.key for t in found]
        found.append(
            _Task(
                "finish",
                "waiting",
                say("plan.finish", finish=case.finish),
                say("plan.comes", days=(FINISH_DAYS, "")),
                days=FINISH_DAYS,
                after=after,
            )
        )
    return found


def _hands(key: str, sheet: Assembly, groups: tuple[str, ...] | None, each_h: float, after: list[str]) -> _Task:
    """The steps of some groups of the assembly sheet; None: all others."""
    steps = [s for s in sheet.steps if (s.group in groups if groups else s.group not in BOARD_GROUPS)]
    how = say("plan.steps", count=(len(steps), ""))
    return _Task(
        key,
        "hands",
        say("plan.solder" if groups else "plan.close"),
        how,
        hours=each_h * max(len(steps), 1),
        after=after,
    )


def _scheduled(tasks: list[_Task], state: PlanState, today: date) -> dict[str, tuple[date, date]]:
    """When each begins and ends. What is done ended on its day; what waits by itself goes on from the day on which it may begin."""
    by_key, ends, begins = {t.key: t for t in tasks}, dict[str, date](), dict[str, date]()
    for key in (k for k in state.done if k in by_key):
        begins[key] = ends[key] = state.done[key]
    left = {t.key: t.hours for t in tasks if t.key not in ends}
    rank = _ranks(tasks)
    day = today
    for _ in range(MOST_DAYS):
        if len(ends) == len(tasks):
            break
        spent = {"printer": 0.0, "hands": 0.0}
        busy, progress = False, True
        while progress:
            progress = False
            for key in sorted((k for k in left if k not in ends), key=lambda k: -rank[k]):
                task = by_key[key]
                if any(ends.get(a, date.max) > day for a in task.after) or state.not_before.get(key, day) > day:
                    continue
                if task.resource == "waiting":
                    begins[key], ends[key] = day, day + timedelta(days=math.ceil(task.days))
                    busy = progress = True
                    continue
                room = (state.hours_a_day if task.resource == "hands" else PRINTER_H_A_DAY) - spent[task.resource]
                if room <= 1e-9:
                    continue
                busy = True
                begins.setdefault(key, day)
                worked = min(room, left[key])
                spent[task.resource] += worked
                left[key] -= worked
                if left[key] <= 1e-9:
                    ends[key] = day
                    progress = True
        coming = [d for d in (*ends.values(), *state.not_before.values()) if d > day]
        day = min(coming) if coming and not busy else day + timedelta(days=1)
    for task in tasks:
        ends.setdefault(task.key, day)
        begins.setdefault(task.key, day)
    return {t.key: (begins[t.key], ends[t.key]) for t in tasks}


def _ranks(tasks: list[_Task]) -> dict[str, float]:
    """The longest way from the beginning of each to the end of all, in days."""
    found: dict[str, float] = {}
    for task in reversed(tasks):  # what waits for it comes after it
        behind = max((found[t.key] for t in tasks if task.key in t.after and t.key in found), default=0.0)
        found[task.key] = behind + task.days + task.hours / (PRINTER_H_A_DAY if task.resource == "printer" else 2.0)
    return found


def _latest(tasks: list[_Task], now: dict[str, tuple[date, date]], last: date) -> dict[str, date]:
    """By when each may end without anything that waits for it, or the whole, being later."""
    found: dict[str, date] = {}
    for task in reversed(tasks):
        waiting = [found[t.key] - (now[t.key][1] - now[t.key][0]) for t in tasks if task.key in t.after]
        found[task.key] = min([last, *waiting])
    return found
