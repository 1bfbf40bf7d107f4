"""Of `golden_answers`: what stands on the pages beside the sheet (wiring, assembly, bring-up, recordings, run-downs, bill and plan, report, comparison,
recipes, schools, search), of the demos and of random gadgets."""

from __future__ import annotations

import json
import random
from collections.abc import Callable, Iterator
from datetime import UTC, date, datetime, timedelta
from typing import Any, get_args

from ember_core import VERSION, Design, DocumentError, build_design, evaluate
from ember_core.bringup import Read, bring_up, judge_reading, sheet_csv, sheet_text, supply_limits
from ember_core.bringup.assembly import assembly
from ember_core.bringup.small_parts import small_parts
from ember_core.catalogue import built_in
from ember_core.choosing import answer_choice
from ember_core.design.patches import apply
from ember_core.documents.compare import compare
from ember_core.documents.content import report_content
from ember_core.measures.bench import TrialBench
from ember_core.planning.bill import InDrawer, PriceBreak, batch_bill, batch_table
from ember_core.planning.calendar import plan_calendar
from ember_core.planning.plan import PlanState, build_plan
from ember_core.recipes import RECIPES, Answers, begin
from ember_core.recipes.recipe import Place
from ember_core.schools import answer_schools
from ember_core.studies import answer_intervals
from ember_core.traces.assigned import Assigned
from ember_core.traces.judging import judge_trace, trace_text
from ember_core.traces.replay import replay
from ember_core.traces.rundown import judge_rundown, rundown_text
from ember_core.traces.simulated import simulated, simulated_run_down
from ember_core.wiring import wiring_sheet
from ember_core.wiring.sheet import wiring_csv

from .golden import DEMOS
from .randoms import random_design

Thunk = Callable[[], Any]
RANDOM = 60
MONDAY = date(2026, 3, 2)


def bench_subjects() -> Iterator[tuple[str, str, Thunk]]:
    """(group, name, what gives it)."""
    demos = {f.stem: build_design(json.loads(f.read_text())) for f in sorted(DEMOS.glob("*.json"))}
    gadgets = demos | {str(seed): random_design(1000 + seed) for seed in range(RANDOM)}
    for name, design in gadgets.items():
        yield "wiring", name, lambda d=design: _wired(d)  # type: ignore[misc]
        yield "bring-up", name, lambda d=design, n=name: _brought_up(d, random.Random(n))  # type: ignore[misc]
        yield "plan", name, lambda d=design, n=name: _planned(d, random.Random(n))  # type: ignore[misc]
    for name, design in demos.items():
        yield "traces", name, lambda d=design: _traced(d)  # type: ignore[misc]
        yield "run-down", name, lambda d=design: _run_down(d)  # type: ignore[misc]
        yield "report", name, lambda d=design: report_content(d, evaluate(d), VERSION)  # type: ignore[misc]
        yield "intervals", name, lambda d=design: answer_intervals(TrialBench(d, built_in()))  # type: ignore[misc]
    for one, other in (
        ("rosin-minder", "rosin-minder-rechargeable"),
        ("tarn-light", "tarn-light-aaa"),
        ("dusk-ear", "snow-stake"),
    ):
        yield "compare", f"{one}, {other}", lambda a=one, b=other: compare([(a, demos[a]), (b, demos[b])], built_in())  # type: ignore[misc]
    for recipe in RECIPES:
        for school in recipe.packs:
            yield "recipes", f"{recipe.key}, {school}", lambda r=recipe.key, s=school: _begun(r, s)  # type: ignore[misc]
    for name in ("tarn-light", "rosin-minder"):
        yield "schools", name, lambda d=demos[name]: answer_schools(TrialBench(d, built_in()))  # type: ignore[misc]
        yield "choices", name, lambda d=demos[name]: answer_choice(TrialBench(d, built_in()), ["mass"])  # type: ignore[misc]


def _wired(design: Design) -> Any:
    bench = TrialBench(design, built_in())
    sheet = wiring_sheet(bench)
    return [sheet, wiring_csv(sheet), assembly(bench, sheet), small_parts(bench, sheet)]


def _brought_up(design: Design, choose: random.Random) -> Any:
    bench = TrialBench(design, built_in())
    sheet = bring_up(bench)
    told: list[Any] = [sheet, sheet_text(sheet), sheet_csv(sheet), supply_limits(bench)]
    asked = [s for s in sheet.steps if s.unit and s.expected]
    for step in choose.sample(asked, min(len(asked), 5)):
        value = (step.expected or 0.0) * choose.choice((0.001, 0.3, 0.9, 1.0, 1.3, 3.0, 900.0))
        try:
            told.append(judge_reading(bench, Read(step.key, value), sheet=sheet))
        except DocumentError as problem:
            told.append(str(problem))
    return told


def _planned(design: Design, choose: random.Random) -> Any:
    result, bench = evaluate(design), TrialBench(design, built_in())
    lines = result.totals.bill
    own = [
        InDrawer(name=x.name, on_hand=choose.randint(0, 5), lead_days=choose.choice((None, 0, 30)),
                 breaks=[PriceBreak(count=1, each=2.0), PriceBreak(count=10, each=1.25)] if choose.random() < 0.5 else [])
        for x in choose.sample(lines, len(lines) // 2)
    ]  # fmt: skip
    bills = [
        batch_bill(design, lines, count, own, spares=spares) for count, spares in ((1, True), (40, True), (7, False))
    ]
    state = PlanState(
        start=MONDAY, hours_a_day=choose.choice((0.5, 2, 6)), wanted=choose.choice((None, MONDAY + timedelta(14)))
    )
    first = build_plan(bench, bills[0], state, MONDAY)
    some = choose.sample([t.key for t in first.tasks], 2)
    later = state.model_copy(
        update={"done": {some[0]: MONDAY + timedelta(3)}, "not_before": {some[1]: MONDAY + timedelta(20)}}
    )
    plan = build_plan(bench, bills[0], later, MONDAY + timedelta(5))
    feed = plan_calendar(plan, design.name, "key", datetime(2026, 3, 2, tzinfo=UTC)).decode()
    return [bills, batch_table(bills[1]), first, plan, feed]


def _traced(design: Design) -> Any:
    bench = TrialBench(design, built_in())
    told: list[Any] = []
    for seed, more in ((1, None), (2, {0: 0.002})):
        recording, _ = simulated(bench, 120, 400, seed, more_a=more)
        assigned = (
            [Assigned(begin_s=3, end_s=5, mode=design.modes[-1].id), Assigned(begin_s=30, end_s=31)] if more else []
        )
        answer = judge_trace(recording, bench, assigned)
        told += [answer, trace_text(answer), replay(recording, bench)]
    return told


def _run_down(design: Design) -> Any:
    bench = TrialBench(design, built_in())
    told: list[Any] = []
    for share, longer in ((0.5, 1.0), (1.0, 0.8)):
        answer = judge_rundown(simulated_run_down(bench, share, 3, longer=longer), bench)
        told += [answer, rundown_text(answer)]
        if answer.remedy is not None:
            told.append(evaluate(apply(design, answer.remedy)).runtime)
    return told


def _begun(recipe: str, school: Any) -> Any:
    choose = random.Random(f"{recipe} {school}")
    answers = Answers(
        recipe=recipe,
        supply=school,
        goal_h=choose.choice((None, 20, 2000)),
        place=choose.choice((None, *get_args(Place))),
    )
    try:
        return begin(answers, built_in())
    except DocumentError as problem:
        return str(problem)
