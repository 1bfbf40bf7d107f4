"""Runtime over temperature and over age."""

from __future__ import annotations

from ..battery.chemistry import CHEMISTRIES
from ..figures import record
from ..measures.bench import TrialBench
from ..reports.battery import cold_sentence
from ..runtime.run import Run, with_battery
from ..runtime.uncertainty import sample_runtime
from ..words import say

COLD, WARM, STEP = -30, 60, 10
MOST_YEARS = 10
RUNS_A_YEAR = 365.25 * 24


@record
class OutlookPoint:
    """Runtime [h] at a temperature [degC] or after years; `full_charges` the cell has been through by then."""

    at: float
    hours: float
    full_charges: float = 0.0


@record
class Outlook:
    """`goal_year` is the first of the years in which the goal is no longer met; null: met in all of them."""

    temperature: list[OutlookPoint]
    age: list[OutlookPoint]
    temperature_sentence: str
    age_sentence: str
    goal_year: float | None


def answer_outlook(bench: TrialBench) -> Outlook | None:
    """The runtime from deep cold to heat, and over the years; None while nothing is drawn."""
    if not bench.design.parts:
        return None
    warmth, years = _over_temperature(bench), _over_years(bench)
    goal = bench.design.brief.goal_h
    short = None if goal is None else next((p.at for p in years if p.hours < goal), None)
    return Outlook(
        temperature=warmth,
        age=years,
        temperature_sentence=_warmth_sentence(bench, warmth),
        age_sentence=_age_sentence(bench, years),
        goal_year=short,
    )


def _hours(state: Run) -> float:
    """The runtime that is said of it [h]: the median of the samples."""
    return sample_runtime(state).median / 3600


def _over_temperature(bench: TrialBench) -> list[OutlookPoint]:
    brief = bench.design.brief
    wanted = {float(t) for t in range(COLD, WARM + 1, STEP)} | {brief.coldest_c, brief.usual_c, brief.hottest_c}
    return [
        OutlookPoint(at=t, hours=_hours(with_battery(bench.usual, bench.design.battery, t))) for t in sorted(wanted)
    ]


def _over_years(bench: TrialBench) -> list[OutlookPoint]:
    """Each year's runtime. A rechargeable cell has been through as many full charges as its runs so far took."""
    battery = bench.design.battery
    rechargeable = CHEMISTRIES[battery.cell.chemistry].rechargeable
    found: list[OutlookPoint] = []
    cycles = battery.cycles
    for year in range(MOST_YEARS + 1):
        aged = battery.model_copy(update={"age_years": battery.age_years + year, "cycles": min(cycles, 20000.0)})
        hours = _hours(with_battery(bench.usual, aged, bench.usual.temperature_c))
        found.append(OutlookPoint(at=battery.age_years + year, hours=hours, full_charges=cycles))
        if rechargeable and hours > 0:
            cycles += RUNS_A_YEAR / max(hours, 1.0)
    return found


def _warmth_sentence(bench: TrialBench, points: list[OutlookPoint]) -> str:
    brief = bench.design.brief
    by = {p.at: p.hours for p in points}
    cold, usual = by[brief.coldest_c], by[brief.usual_c]
    if usual <= 0:
        return say("outlook.not-at-all")
    at = (brief.usual_c, "°C")
    if brief.coldest_c == brief.usual_c:
        return say("outlook.usual", usual=(usual, "h"), at=at)
    return say(
        "outlook.cold", cold=(cold, "h"), coldest=(brief.coldest_c, "°C"), share=(cold / usual, "share"), at=at,
        more=cold_sentence(bench),
    ).rstrip()  # fmt: skip


def _age_sentence(bench: TrialBench, points: list[OutlookPoint]) -> str:
    new, old = points[0], points[min(5, len(points) - 1)]
    kept = (old.hours / new.hours, "share") if new.hours > 0 else None
    if CHEMISTRIES[bench.design.battery.cell.chemistry].rechargeable:
        return say("outlook.charged", charges=(old.full_charges - new.full_charges, ""), kept=kept)
    return say("outlook.kept", kept=kept)
