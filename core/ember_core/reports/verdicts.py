"""The verdict band: seven answers, each with its status in words, its sentence and the step that decides it."""

from __future__ import annotations

from typing import Literal

from ..battery.chemistry import CHEMISTRIES
from ..design import Brief
from ..enclosure.fit import contact_status, fits_within
from ..figures import Figure, Status, Step, Verdict, figure
from ..findings import Found
from ..quantities import show
from ..solved.gadget import SolvedGadget
from ..solved.wording import describe_failure
from .battery import runtime_sentence, runtime_total
from .charge import HeatReport, charge_report, heat_report
from .fit import TotalsReport, fit_margin, totals_report

UNUSED_PASS, UNUSED_WATCH = 0.10, 0.35
SOFTENING_MARGIN_C = 10.0
NO_LIMIT = "no limit set"


def all_verdicts(solved: SolvedGadget, found: list[Found]) -> list[Verdict]:
    return [
        runtime_verdict(solved),
        weakest_verdict(solved),
        charge_verdict(solved, found),
        heat_verdict(heat_report(solved)),
        fit_verdict(solved),
        *totals_verdicts(solved.design.brief, totals_report(solved)),
    ]


def runtime_verdict(solved: SolvedGadget) -> Verdict:
    total, goal = runtime_total(solved), solved.design.brief.goal_h
    status: Status
    if total.value is None or total.low is None or total.high is None:
        status, word = "unknown", "no parts yet"
    elif total.value <= 0:
        status, word = "fail", "does not run"
    elif solved.usual.bank_off is not None:
        status, word = "fail", "bank switches off"
    elif goal is None:
        status, word = "unknown", "no goal set"
    elif total.low >= goal:
        status, word = "pass", "meets the goal"
    elif total.value >= goal:
        status, word = "watch", "may fall short"
    elif total.high >= goal:
        status, word = "watch", "likely short"
    else:
        status, word = "fail", "short of the goal"
    aim = f"Goal {show(goal, 'h')}. " if goal is not None else ""
    return Verdict(key="runtime", label="Runtime", figure=total, status=status, word=word,
                   sentence=aim + runtime_sentence(solved), step="runtime")  # fmt: skip


def weakest_verdict(solved: SolvedGadget) -> Verdict:
    state, design = solved.usual, solved.design
    used = [i for i in range(len(design.modes)) if state.shares[i] > 0]
    status: Status = "pass"
    if not design.parts or not used:
        return Verdict(key="weakest", label="First mode stops at", status="unknown", word="no parts yet", step="draw",
                       figure=figure("First mode stops at", None, "%", "no parts yet"), sentence="Add a part.")  # fmt: skip
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
        word = "late enough" if left > 0 else "holds to the end"
    if not design.modes[worst].essential and status == "fail":
        status = "watch"
    return Verdict(
        key="weakest", label="First mode stops at", status=status, word=word, step="supply",
        figure=figure(f"Charge left when {name} stops", left * 100, "%",
                      "highest state of charge at which a used mode's worst moment breaks a limit",
                      [(design.modes[i].name, state.failures[i].charge, "share") for i in used],
                      "every part at its max at the same time, solved over the state of charge"),
        sentence=f"{name} {describe_failure(solved, failure)}.",
    )  # fmt: skip


GRAVE_CHARGE: dict[str, str] = {
    # a finding's code, the verdict's word
    "primary-cell": "must not be charged",
    "float-voltage": "overcharges",
    "charger-for-another-pack": "wrong charger",
    "wrong-charger": "wrong charger",
    "charge-current": "dangerous current",
}


def charge_verdict(solved: SolvedGadget, found: list[Found]) -> Verdict:
    limit = solved.design.brief.charge_max_h
    rechargeable = CHEMISTRIES[solved.design.battery.cell.chemistry].rechargeable
    by_code = {f.code: f for f in reversed(found)}
    grave = next((by_code[c] for c in GRAVE_CHARGE if c in by_code and by_code[c].severity == "stop"), None)
    report = charge_report(solved)
    time = report.time if report else figure("Time to full", None, "h", "no charger in the gadget")
    status: Status = "pass"
    if grave is not None:
        return Verdict(key="charge", label="Time to full", figure=time, status="fail", word=GRAVE_CHARGE[grave.code],
                       sentence=grave.sentence, step="charge")  # fmt: skip
    if report is None:
        word = "charged outside" if rechargeable else "swap the cells"
        return Verdict(key="charge", label="Time to full", status="pass", word=word, step="charge", figure=time,
                       sentence="The gadget has no charger.")  # fmt: skip
    sentence = f"Full in {show(time.value, 'h')} at {show(report.current.value, 'A')}" + (
        f"; at most {show(limit, 'h')}." if limit is not None else "."
    )
    graded: list[tuple[str, Status, str]] = [
        ("never-full", "fail", "never full"), ("float-too-low", "fail", "never full"), ("charge-time", "fail", "takes too long"),
        ("charge-temperature", "watch", "too cold or hot"), ("port-overload", "watch", "port overloaded"),
        ("charge-current", "watch", "current is high"),
    ]  # fmt: skip
    word = "in time" if limit is not None else "safe current"
    for code, graver, said in graded:
        if code in by_code and by_code[code].severity != "note":
            status, word, sentence = graver, said, by_code[code].sentence
            break
    return Verdict(
        key="charge", label="Time to full", figure=time, status=status, word=word, sentence=sentence, step="charge"
    )


def heat_verdict(report: HeatReport) -> Verdict:
    """Fails above a limit, is to be watched within the margin to the softening of the plastic or within the uncertainty."""
    inside, limit = report.inside, report.limit_c
    assert inside.value is not None and inside.high is not None
    plastic = limit >= report.softening_c
    status: Status = "pass"
    word = "stays cool"
    if inside.value > limit:
        status, word = "fail", "too warm"
    elif inside.high > limit or (plastic and inside.value > limit - SOFTENING_MARGIN_C):
        status, word = "watch", "close to the limit"
    while_ = "while charging" if report.inside is report.charging else "in use, on the hottest day"
    what = "the plastic softens at" if plastic else "the cell's limit is"
    left = limit - inside.value
    margin = f"{show(left, '°C')} of margin" if left >= 0 else f"{show(-left, '°C')} too much"
    sentence = f"Up to {show(inside.value, '°C')} inside {while_}; {what} {show(limit, '°C')}: {margin}."
    return Verdict(
        key="heat", label="Warmest inside", figure=inside, status=status, word=word, sentence=sentence, step="charge"
    )


def fit_verdict(solved: SolvedGadget) -> Verdict:
    fit, margin = solved.fit, fit_margin(solved)
    status: Status = "pass"
    word, sentence = "closes", "Every body has its clearance."
    states = {contact_status(c) for c in fit.contacts}
    limit = solved.design.brief.outer_max_mm
    short = f"{margin.label}: short by {show(-(margin.value or 0), 'mm')}."
    missing = "Without a place: " + ", ".join(name for _, name in fit.unplaced[:4])
    missing += f" and {len(fit.unplaced) - 4} more." if len(fit.unplaced) > 4 else "."
    if not fit.placed:
        status, word, sentence = "unknown", "nothing placed", "No body has a place yet."
    elif "fail" in states:
        status, word, sentence = "fail", "does not close", short
    elif limit is not None and not fits_within(solved.design.enclosure.outer_mm, limit):
        status, word, sentence = "fail", "case too large", "The case is larger than the brief."
    elif "watch" in states:
        status, word, sentence = "watch", "tight", short
    elif fit.unplaced:
        status, word, sentence = "watch", f"{len(fit.unplaced)} without a place", missing
    return Verdict(
        key="fit", label="Tightest place", figure=margin, status=status, word=word, sentence=sentence, step="fit"
    )


def _limited(
    key: Literal["mass", "cost"], label: str, total: Figure, limit: float | None, low_word: str, step: Step
) -> Verdict:
    status: Status = "pass" if limit is not None else "unknown"
    word = low_word if limit is not None else NO_LIMIT
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
