"""The verdict band: seven answers, each with its status in words, its sentence and the step that decides it."""

from __future__ import annotations

from typing import Literal

from ..chemistry import CHEMISTRIES
from ..context import Context
from ..design import Brief
from ..figures import Figure, Finding, Status, Step, Verdict, figure
from ..quantities import show
from ..wording import describe_failure
from .battery import RuntimeReport
from .charge import ChargeReport, HeatReport
from .fit import FitReport, TotalsReport

UNUSED_PASS, UNUSED_WATCH = 0.10, 0.35
JUNCTION_FOLDBACK_C = 120.0
SOFTENING_MARGIN_C = 10.0


def runtime_verdict(report: RuntimeReport) -> Verdict:
    total, goal = report.total, report.goal_h
    status: Status
    if total.value is None or total.low is None or total.high is None:
        status, word = "unknown", "no parts yet"
    elif total.low >= goal:
        status, word = "pass", "meets the goal"
    elif total.value >= goal:
        status, word = "watch", "may fall short"
    elif total.high >= goal:
        status, word = "watch", "likely short"
    else:
        status, word = "fail", "short of the goal"
    return Verdict(key="runtime", label="Runtime", figure=total, status=status, word=word,
                   sentence=f"Goal {show(goal, 'h')}. {report.sentence}", step="runtime")  # fmt: skip


def weakest_verdict(context: Context) -> Verdict:
    state, design = context.usual, context.design
    used = [i for i in range(len(design.modes)) if state.shares[i] > 0]
    status: Status = "pass"
    if not design.parts or not used:
        return Verdict(key="weakest", label="Weakest moment", status="unknown", word="no parts yet", step="draw",
                       figure=figure("Charge left unused", None, "%", "no parts yet"), sentence="Add a part.")  # fmt: skip
    worst = max(used, key=lambda i: (state.failures[i].charge, -i))
    failure = state.failures[worst]
    name = design.modes[worst].name
    left = failure.charge
    if left >= 1:
        status, word = "fail", "does not work"
    elif left > UNUSED_WATCH:
        status, word = "fail", "gives up early"
    elif left > UNUSED_PASS:
        status, word = "watch", "gives up early"
    else:
        word = "holds to the end"
    if not design.modes[worst].essential and status == "fail":
        status = "watch"
    return Verdict(
        key="weakest", label="Weakest moment", status=status, word=word, step="supply",
        figure=figure(f"Charge left when {name} stops", left * 100, "%",
                      "highest state of charge at which a used mode's worst moment breaks a limit",
                      [(design.modes[i].name, state.failures[i].charge, "share") for i in used],
                      "worst moment of each mode, docs/MODELS.md"),
        sentence=f"{name} {describe_failure(context, failure)}.",
    )  # fmt: skip


def charge_verdict(context: Context, report: ChargeReport | None, findings: list[Finding]) -> Verdict:
    limit = context.design.brief.charge_max_h
    rechargeable = CHEMISTRIES[context.design.battery.cell.chemistry].rechargeable
    forbidden = next((f for f in findings if f.code == "T24-primary-cell"), None)
    if forbidden:
        return Verdict(
            key="charge",
            label="Charge",
            status="fail",
            word="must not be charged",
            step="battery",
            figure=figure("Time to full", None, "h", "primary cells are never charged"),
            sentence=forbidden.sentence,
        )
    if report is None:
        word = "charged outside" if rechargeable else "swap the cells"
        return Verdict(key="charge", label="Charge", status="pass", word=word, step="battery",
                       figure=figure("Time to full", None, "h", "no charger in the gadget"),
                       sentence="The gadget has no charger.")  # fmt: skip
    grave = [f for f in findings if f.code.startswith(("T22", "T23"))]
    hours = report.time.value
    status: Status = "pass"
    if any(f.severity == "stop" for f in grave):
        status, word = "fail", "dangerous current"
    elif hours is None:
        status, word = "fail", "never full"
    elif limit is not None and hours > limit:
        status, word = "fail", "takes too long"
    elif grave:
        status, word = "watch", "current is high"
    else:
        word = "in time" if limit is not None else "safe current"
    sentence = grave[0].sentence if grave else (
        f"Full in {show(hours, 'h')} at {show(report.current.value, 'A')}" + (f"; at most {show(limit, 'h')}." if limit
                                                                            else ".")
    )  # fmt: skip
    return Verdict(key="charge", label="Charge", figure=report.time, status=status, word=word, sentence=sentence,
                   step="battery")  # fmt: skip


def heat_verdict(report: HeatReport) -> Verdict:
    inside = report.inside
    assert inside.value is not None and inside.high is not None
    limit = min(report.softening_c - SOFTENING_MARGIN_C, report.cell_limit_c)
    plastic = report.softening_c - SOFTENING_MARGIN_C <= report.cell_limit_c
    what = "the plastic begins to soften" if plastic else "the cell has its limit"
    junction = report.charger.value if report.charger else None
    status: Status = "pass"
    word = "stays cool"
    if inside.value > limit:
        status, word = "fail", "too warm"
    elif inside.high > limit:
        status, word = "watch", "close to the limit"
    elif junction is not None and junction > JUNCTION_FOLDBACK_C:
        status, word = "watch", "charger folds back"
    sentence = f"Up to {show(inside.value, '°C')} inside on the hottest day; {show(limit, '°C')} is where {what}."
    if junction is not None and junction > JUNCTION_FOLDBACK_C:
        sentence += f" The charger's junction would reach {show(junction, '°C')} and folds back."
    return Verdict(key="heat", label="Heat", figure=inside, status=status, word=word, sentence=sentence, step="battery")


def fit_verdict(context: Context, report: FitReport) -> Verdict:
    status: Status = "pass"
    word, sentence = "closes", "Every body has its clearance."
    failing = [b for b in report.bodies if b.status == "fail"]
    tight = [b for b in report.bodies if b.status == "watch"]
    limit = context.design.brief.outer_max_mm
    too_large = limit is not None and any(
        o > m + 1e-9 for o, m in zip(context.design.enclosure.outer_mm, limit, strict=True)
    )
    if not report.bodies:
        status, word, sentence = "unknown", "nothing placed", "No body has a place yet."
    elif failing:
        status, word = "fail", "does not close"
        sentence = f"{report.margin.label}: short by {show(-(report.margin.value or 0), 'mm')}."
    elif too_large:
        status, word, sentence = "fail", "case too large", "The case is larger than the brief."
    elif tight:
        status, word = "watch", "tight"
        sentence = f"{report.margin.label}: short by {show(-(report.margin.value or 0), 'mm')}."
    elif report.unplaced:
        status, word = "watch", f"{len(report.unplaced)} without a place"
        sentence = "Without a place: " + ", ".join(u.name for u in report.unplaced[:4]) + "."
    return Verdict(
        key="fit", label="Fit", figure=report.margin, status=status, word=word, sentence=sentence, step="fit"
    )


def _limited(
    key: Literal["mass", "cost"], label: str, total: Figure, limit: float | None, low_word: str, step: Step
) -> Verdict:
    status: Status = "pass"
    word = low_word if limit is not None else "no limit set"
    sentence = "The brief sets no limit."
    if limit is not None and total.value is not None:
        sentence = f"{show(total.value, total.unit)} of {show(limit, total.unit)}."
        if total.value > limit:
            status, word = "fail", "over the brief"
        elif total.high is not None and total.high > limit:
            status, word = "watch", "close to the limit"
    return Verdict(key=key, label=label, figure=total, status=status, word=word, sentence=sentence, step=step)


def totals_verdicts(brief: Brief, totals: TotalsReport) -> list[Verdict]:
    return [
        _limited("mass", "Mass", totals.mass, brief.mass_max_g, "light enough", "record"),
        _limited("cost", "Cost", totals.cost, brief.cost_max, "within budget", "record"),
    ]
