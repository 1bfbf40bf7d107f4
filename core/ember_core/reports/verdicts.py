"""The verdict band: seven answers, each with its status in words, its sentence and the step that decides it."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Literal

from ..battery.chemistry import CHEMISTRIES
from ..battery.pack import kept_below_cutoff
from ..design import Design
from ..enclosure.bodies import NO_ROOM, fits_within
from ..enclosure.fit import contact_status
from ..figures import Figure, Severity, Status, Step, Verdict, VerdictKey, figure
from ..findings import Found
from ..quantities import show
from ..solved.gadget import SolarDay, SolvedGadget
from ..solved.hottest import CHARGING
from ..solved.wording import describe_failure
from ..thermal.materials import softest
from .battery import runtime_report, runtime_sentence, runtime_total
from .charge import charge_report, heat_report
from .fit import TotalsReport, fit_margin, totals_report

UNUSED_PASS, UNUSED_WATCH = 0.10, 0.35
COOL = 0.6  # of the room between the surroundings and its limit, that what is nearest to it may take to be called cool
NO_LIMIT = "no limit set"


VERDICTS_OF_STEP: dict[Step, tuple[VerdictKey, ...]] = {
    "draw": ("runtime",), "runtime": ("runtime",), "battery": ("runtime", "weakest"), "supply": ("weakest",), "charge": ("charge",),
    "fit": ("fit",), "record": ("mass", "cost"),
}  # fmt: skip
WORDS: dict[str, tuple[Status, str]] = {
    # a finding's code: the status and the word that its verdict has with it, where they are not the usual ones
    "primary-cell": ("fail", "must not be charged"), "float-voltage": ("fail", "overcharges"), "charger-for-another-pack": ("fail", "wrong charger"),
    "wrong-charger": ("fail", "wrong charger"), "charge-current": ("fail", "dangerous current"), "never-full": ("fail", "never full"),
    "float-too-low": ("fail", "never full"), "port-voltage": ("fail", "never full"), "charge-timer": ("fail", "gives up before"),
    "too-little-sun": ("fail", "too little sun"), "dark-days": ("fail", "dark days end it"), "charge-time": ("fail", "takes too long"),
    "charge-temperature": ("watch", "too cold or hot"), "port-overload": ("watch", "port overloaded"),
    "no-type-c-resistors": ("fail", "no power by cable"), "protection-trips": ("fail", "protection trips"), "fuse-blows": ("fail", "fuse blows"),
    "switches-off": ("fail", "bank switches off"), "peak-current": ("watch", "too much for the cell"), "overvoltage": ("fail", "too much voltage"),
    "collision": ("fail", "does not close"), "copies-overlap": ("fail", "does not close"), "copies-outside": ("fail", "does not close"),
    "outside-the-case": ("fail", "lies outside"), "closed-in": ("fail", "can't be put in"), "posts-overlap": ("fail", "does not close"),
    "open-case": ("unknown", "case is open"), "short-of-its-wall": ("watch", "short of its side"),
    "case-too-large": ("fail", "case too large"), "touch-limit": ("fail", "too hot to touch"),
    "colder-than-the-cell": ("fail", "too cold for it"), "fails-in-the-cold": ("watch", "fails in the cold"), "no-protection": ("fail", "not protected"),
    "stage-overvoltage": ("fail", "too much voltage"), "charger-overvoltage": ("fail", "too much voltage"),
    "stage-too-hot": ("fail", "too warm"), "part-too-hot": ("fail", "too warm"), "too-warm": ("fail", "too warm"),
    "charging-too-warm": ("fail", "too warm"), "wall-spot": ("fail", "softens its wall"),
}  # fmt: skip
USUAL_WORDS: dict[Severity, tuple[Status, str]] = {"stop": ("fail", "not like this"), "fix": ("watch", "to be fixed")}
GRAVE: tuple[Status, ...] = ("pass", "unknown", "watch", "fail")


def all_verdicts(solved: SolvedGadget, found: list[Found]) -> list[Verdict]:
    told = [
        runtime_verdict(solved),
        weakest_verdict(solved),
        charge_verdict(solved, found),
        heat_verdict(solved),
        fit_verdict(solved),
        *totals_verdicts(solved.design, totals_report(solved)),
    ]
    return [held_against(verdict, found) for verdict in told]


def belongs_to(found: Found) -> tuple[VerdictKey, ...]:
    """The verdicts that a finding speaks of: those of its step, and the one that it names."""
    own = VERDICTS_OF_STEP.get(found.step, ())
    return own if found.verdict is None or found.verdict in own else (*own, found.verdict)


def held_against(verdict: Verdict, found: list[Found]) -> Verdict:
    """The verdict as it stands over the findings that are its own: none passes over one that says stop or fix, it names it instead.
    The gravest counts, and its sentence says the finding in any case."""
    own = [f for f in found if f.severity in USUAL_WORDS and verdict.key in belongs_to(f)]
    if not own:
        return verdict
    graded = [(*_graded(f, verdict.key), f) for f in own]
    status, word, worst = max(graded, key=lambda x: (x[2].severity == "stop", GRAVE.index(x[0])))
    named = f"{worst.title}: {worst.sentence}"
    if worst.sentence.startswith(verdict.sentence):  # it says the same
        verdict = replace(verdict, sentence="")
    if GRAVE.index(status) < GRAVE.index(verdict.status):
        return replace(verdict, sentence=f"{verdict.sentence} {named}".strip())
    if status == verdict.status and word == USUAL_WORDS[worst.severity][1]:
        return replace(verdict, sentence=f"{named} {verdict.sentence}".strip())
    return replace(verdict, status=status, word=word, sentence=named, step=worst.step)


def _graded(found: Found, key: VerdictKey) -> tuple[Status, str]:
    """A finding's own words are said by the verdict that it names; another one of its step only says that something is to be fixed."""
    status, word = USUAL_WORDS[found.severity]
    if found.verdict not in (None, key):
        return status, word
    own_status, own_word = WORDS.get(found.code, (status, word))
    return (own_status if found.severity == "fix" else status), own_word


def runtime_verdict(solved: SolvedGadget) -> Verdict:
    total, goal = runtime_total(solved), solved.design.brief.goal_h
    cold = runtime_report(solved).coldest.value
    status: Status
    if total.value is None or total.low is None or total.high is None:
        status, word = "unknown", "no parts yet"
    elif total.value <= 0:
        status, word = "fail", "does not run"
    elif solved.usual.bank_off is not None:
        status, word = "fail", "bank switches off"
    elif goal is None:
        status, word = "unknown", "no goal set"
    elif cold is not None and cold <= 0:
        status, word = "fail", "dead in the cold"
    elif total.low >= goal:
        short = cold is not None and cold < goal
        status, word = ("watch", "short in the cold") if short else ("pass", "meets the goal")
    elif total.value >= goal:
        status, word = "watch", "may fall short"
    elif total.high >= goal:
        status, word = "watch", "likely short"
    else:
        status, word = "fail", "short of the goal"
    aim = f"Goal {show(goal, 'h')}. " if goal is not None else ""
    frost = f"At {show(solved.design.brief.coldest_c, '°C')} it lasts {show(cold, 'h')}. " if "cold" in word else ""
    return Verdict(key="runtime", label="Runtime", figure=total, status=status, word=word,
                   sentence=aim + frost + runtime_sentence(solved), step="runtime")  # fmt: skip


def weakest_verdict(solved: SolvedGadget) -> Verdict:
    state, design = solved.usual, solved.design
    used = [i for i in range(len(design.modes)) if state.shares[i] > 0]
    if not design.parts or not used:
        return Verdict(key="weakest", label="First mode stops at", status="unknown", word="no parts yet", step="draw",
                       figure=figure("First mode stops at", None, "%", "no parts yet"), sentence="Add a part.")  # fmt: skip
    worst = max(used, key=lambda i: (state.failures[i].charge, -i))
    failure = state.failures[worst]
    name, left = design.modes[worst].name, failure.charge
    status, word = _left_graded(left)
    kept = kept_below_cutoff(design.battery.cell)
    if status == "fail" and (
        (0 < kept < left < 1 and left - kept <= UNUSED_WATCH) or not design.modes[worst].essential
    ):
        status = "watch"
    sentence = f"{name} {describe_failure(solved, failure)}."
    frost = max(
        (x.charge for i, x in enumerate(solved.coldest.failures) if i in used and design.modes[i].essential),
        default=0.0,
    )
    if status == "pass" and frost > UNUSED_WATCH:
        cold = max((i for i in used if design.modes[i].essential), key=lambda i: solved.coldest.failures[i].charge)
        status, word = ("fail", "dead in the cold") if frost >= 1 else ("watch", "early in the cold")
        sentence = f"At {show(design.brief.coldest_c, '°C')} {design.modes[cold].name.lower()} {describe_failure(solved, solved.coldest.failures[cold])}."
    return Verdict(
        key="weakest", label="First mode stops at", status=status, word=word, step="supply",
        figure=figure(f"Charge left when {name} stops", left * 100, "%",
                      "highest state of charge at which a used mode's worst moment breaks a limit",
                      [(design.modes[i].name, state.failures[i].charge, "share") for i in used],
                      "every part at its max at the same time, solved over the state of charge"),
        sentence=sentence,
    )  # fmt: skip


def _left_graded(left: float) -> tuple[Status, str]:
    """By the charge that is left where the first mode stops, 0..1."""
    if left >= 1:
        return "fail", "does not work"
    if left > UNUSED_WATCH:
        return "fail", "gives up early"
    if left > UNUSED_PASS:
        return "watch", "gives up early"
    return "pass", "late enough" if left > 0 else "holds to the end"


def charge_verdict(solved: SolvedGadget, found: list[Found]) -> Verdict:
    """What it takes to get full; what is dangerous about it is in its findings (`held_against`)."""
    charger, limit = solved.design.charger, solved.design.brief.charge_max_h
    report = charge_report(solved)
    time = report.time if report else figure("Time to full", None, "h", "no charge to speak of")
    status: Status = "pass"
    if charger is None:
        rechargeable = CHEMISTRIES[solved.design.battery.cell.chemistry].rechargeable
        word, sentence = "charged outside" if rechargeable else "swap the cells", "The gadget has no charger."
    elif report is None or time.value is None:
        status, word, sentence = (
            "unknown",
            "not known",
            f"Nothing is known of a charge of this battery by {charger.name}.",
        )
    elif solved.solar is not None:
        return _solar_verdict(solved, solved.solar, found)
    else:
        word = "in time" if limit is not None else "safe current"
        sentence = f"Full in {show(time.value, 'h')} at {show(report.current.value, 'A')}"
        sentence += f"; at most {show(limit, 'h')}." if limit is not None else "."
        high = next((f for f in found if f.code in CHARGE_WATCHED and f.severity == "watch"), None)
        if high is not None:
            status, word, sentence = "watch", CHARGE_WATCHED[high.code], high.sentence
    return Verdict(
        key="charge", label="Time to full", figure=time, status=status, word=word, sentence=sentence, step="charge"
    )


SURE_OF_SUN = 1.3  # times what a day takes: a place may have a third less sun than the table


def _solar_verdict(solved: SolvedGadget, day: SolarDay, found: list[Found]) -> Verdict:
    """A balance of energy, not a time to full: what a usual day of the month brings against what it takes, and the days without sun."""
    status: Status = "pass"
    word = "lives on the sun"
    sentence = (
        f"A usual day of that month brings {show(day.into_wh, 'Wh')} into the battery and takes {show(day.used_wh, 'Wh')}; "
        f"without sun it lasts {show(day.autonomy_d, 'd')}."
    )
    watched = next((f for f in found if f.code in ("too-little-sun", "dark-days", *CHARGE_WATCHED)), None)
    if watched is not None:
        words = {"too-little-sun": "too little sun", "dark-days": "few dark days"} | CHARGE_WATCHED
        return Verdict(key="charge", label="Days without sun", figure=_dark_days(day), status="watch", word=words[watched.code],
                       sentence=watched.sentence, step="charge")  # fmt: skip
    if day.into_wh < SURE_OF_SUN * day.used_wh:
        status, word = "watch", "hardly enough sun"
    if not solved.design.parts:
        status, word = "unknown", "no parts yet"
    return Verdict(
        key="charge",
        label="Days without sun",
        figure=_dark_days(day),
        status=status,
        word=word,
        sentence=sentence,
        step="charge",
    )


def _dark_days(day: SolarDay) -> Figure:
    days = None if math.isinf(day.autonomy_d) else day.autonomy_d
    return figure("Days without any sun", days, "d", "usable energy ÷ what a day takes",
                  [("usable", day.stored_wh, "Wh"), ("taken in a day", day.used_wh, "Wh"), ("brought on a usual day", day.into_wh, "Wh")])  # fmt: skip


CHARGE_WATCHED: dict[str, str] = {
    "charge-temperature": "too cold or hot", "charge-current": "current is high", "not-balanced": "not balanced", "timer-overcharges": "too long",
    "end-not-seen": "end not seen", "charger-input-unknown": "input not known", "no-protection": "no protection", "no-precharge": "no gentle start",
}  # fmt: skip


def heat_verdict(solved: SolvedGadget) -> Verdict:
    """The thing that comes nearest to its own limit, by name, in any mode or while it charges."""
    report = heat_report(solved)
    hot, shown = report.nearest, report.inside
    cool = "stays cool" if hot.near < COOL else "within its limits"
    words: dict[Status, str] = {"pass": cool, "watch": "close to the limit", "fail": "too warm"}
    left = hot.limit_c - hot.degrees_c
    margin = f"{show(left, '°C')} of margin" if left >= 0 else f"{show(-left, '°C')} too much"
    air = f"; air {show(hot.air_c, '°C')}" if hot.pointer else ""
    while_ = "while charging" if hot.when == CHARGING else f"while {hot.when}, on the hottest day"
    softens = f", {softest(solved.design.enclosure)[0]} softens at {show(hot.limit_c, '°C')}" if hot.softens else ""
    name = hot.name if hot.pointer else "The air inside"
    sentence = f"{name} {show(hot.degrees_c, '°C')} of {show(hot.limit_c, '°C')} {while_}{softens}{air}: {margin}."
    return Verdict(
        key="heat", label="Warmest inside", figure=shown, status=hot.status, word=words[hot.status], sentence=sentence, step="charge",
        about=f"{name}, of {show(hot.limit_c, '°C')}",
    )  # fmt: skip


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
    elif limit is not None and not fits_within(solved.design.enclosure.outermost_mm, limit):
        status, word, sentence = "fail", "case too large", "The case is larger than the brief."
    elif "watch" in states:
        status, word, sentence = "watch", "tight", short
    elif fit.unplaced:
        status, word, sentence = "watch", f"{len(fit.unplaced)} without a place", missing
    return Verdict(
        key="fit", label="Tightest place", figure=margin, status=status, word=word, sentence=sentence, step="fit"
    )


def _limited(
    key: Literal["mass", "cost"], label: str, total: Figure, limit: float | None, low_word: str, missing: list[str]
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
        elif missing:
            status, word = "watch", f"{len(missing)} without a {key}"
        if missing:
            more = f" and {len(missing) - 4} more" if len(missing) > 4 else ""
            sentence += f" Not counted, as nothing is known of their {key}: {', '.join(missing[:4])}{more}."
    return Verdict(key=key, label=label, figure=total, status=status, word=word, sentence=sentence, step="record")


def totals_verdicts(design: Design, totals: TotalsReport) -> list[Verdict]:
    """What came along on a module has its mass and its cost in the module's."""
    own = {f"/parts/{i}" for i, p in enumerate(design.parts) if p.parasitic or p.plugged_by_user}
    own |= {f"/supply/stages/{i}" for i, s in enumerate(design.supply.stages) if getattr(s, "role", None) in NO_ROOM}
    lines = [b for b in totals.bill if b.where not in own and b.where != "/enclosure"]
    weightless, free = [b.name for b in lines if b.mass_g <= 0], [b.name for b in lines if b.cost <= 0]
    return [
        _limited("mass", "Mass", totals.mass, design.brief.mass_max_g, "light enough", weightless),
        _limited("cost", "Cost", totals.cost, design.brief.cost_max, "within budget", free),
    ]
