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
from ..solved.gadget import SolarDay, SolvedGadget
from ..solved.hottest import CHARGING
from ..solved.wording import describe_failure
from ..thermal.materials import softest
from ..words import Fact, Said, called, say
from .battery import runtime_report, runtime_sentence, runtime_total
from .charge import charge_report, heat_report
from .fit import TotalsReport, fit_margin, totals_report

UNUSED_PASS, UNUSED_WATCH = 0.10, 0.35
MOST_NAMED = 4
COOL = 0.6  # of the room between the surroundings and its limit, that what is nearest to it may take to be called cool


VERDICTS_OF_STEP: dict[Step, tuple[VerdictKey, ...]] = {
    "draw": ("runtime",),
    "runtime": ("runtime",),
    "battery": ("runtime", "weakest"),
    "supply": ("weakest",),
    "charge": ("charge",),
    "fit": ("fit",),
    "record": ("mass", "cost"),
}
STATUSES: dict[str, Status] = {
    # of findings whose verdict has a word of its own with them (`verdict-word` in the messages)
    "primary-cell": "fail",
    "float-voltage": "fail",
    "charger-for-another-pack": "fail",
    "wrong-charger": "fail",
    "charge-current": "fail",
    "never-full": "fail",
    "float-too-low": "fail",
    "port-voltage": "fail",
    "charge-timer": "fail",
    "too-little-sun": "fail",
    "dark-days": "fail",
    "charge-time": "fail",
    "charge-temperature": "watch",
    "port-overload": "watch",
    "no-type-c-resistors": "fail",
    "protection-trips": "fail",
    "fuse-blows": "fail",
    "switches-off": "fail",
    "peak-current": "watch",
    "overvoltage": "fail",
    "collision": "fail",
    "copies-overlap": "fail",
    "copies-outside": "fail",
    "outside-the-case": "fail",
    "closed-in": "fail",
    "posts-overlap": "fail",
    "open-case": "unknown",
    "short-of-its-wall": "watch",
    "case-too-large": "fail",
    "touch-limit": "fail",
    "colder-than-the-cell": "fail",
    "fails-in-the-cold": "watch",
    "no-protection": "fail",
    "stage-overvoltage": "fail",
    "charger-overvoltage": "fail",
    "stage-too-hot": "fail",
    "part-too-hot": "fail",
    "too-warm": "fail",
    "charging-too-warm": "fail",
    "wall-spot": "fail",
}
USUAL_STATUSES: dict[Severity, Status] = {"stop": "fail", "fix": "watch"}
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
    own = [f for f in found if f.severity in USUAL_STATUSES and verdict.key in belongs_to(f)]
    if not own:
        return verdict
    graded = [(*_graded(f, verdict.key), f) for f in own]
    status, word, worst = max(graded, key=lambda x: (x[2].severity == "stop", GRAVE.index(x[0])))
    named = f"{worst.title}: {worst.sentence}"
    if worst.sentence.startswith(verdict.sentence):  # it says the same
        verdict = replace(verdict, sentence="")
    if GRAVE.index(status) < GRAVE.index(verdict.status):
        return replace(verdict, sentence=f"{verdict.sentence} {named}".strip())
    if status == verdict.status and word == say(f"verdict-word.{worst.severity}"):
        return replace(verdict, sentence=f"{named} {verdict.sentence}".strip())
    return replace(verdict, status=status, word=word, sentence=named, step=worst.step)


def _graded(found: Found, key: VerdictKey) -> tuple[Status, str]:
    """A finding's own words are said by the verdict that it names; another one of its step only says that something is to be fixed."""
    usual = USUAL_STATUSES[found.severity]
    if found.verdict not in (None, key) or found.code not in STATUSES:
        return usual, say(f"verdict-word.{found.severity}")
    return (STATUSES[found.code] if found.severity == "fix" else usual), say(f"verdict-word.{found.code}")


def _verdict(
    key: VerdictKey,
    shown: Figure,
    status: Status,
    word: str | Said,
    sentence: str,
    step: Step,
    *,
    label: str = "",
    about: str = "",
) -> Verdict:
    """A verdict with its label and its word told; the word is one of its own, or that of a finding."""
    said = str(word) if isinstance(word, Said) else say(word if "." in word else f"word.{word}")
    return Verdict(
        key=key,
        label=say(f"verdict-label.{label or key}"),
        figure=shown,
        status=status,
        word=said,
        sentence=sentence,
        step=step,
        about=about,
    )


def runtime_verdict(solved: SolvedGadget) -> Verdict:
    total, goal = runtime_total(solved), solved.design.brief.goal_h
    cold = runtime_report(solved).coldest.value
    status: Status
    if total.value is None or total.low is None or total.high is None:
        status, word = "unknown", "no-parts-yet"
    elif total.value <= 0:
        status, word = "fail", "does-not-run"
    elif solved.usual.bank_off is not None:
        status, word = "fail", "bank-switches-off"
    elif goal is None:
        status, word = "unknown", "no-goal-set"
    elif cold is not None and cold <= 0:
        status, word = "fail", "dead-in-the-cold"
    elif total.low >= goal:
        short = cold is not None and cold < goal
        status, word = ("watch", "short-in-the-cold") if short else ("pass", "meets-the-goal")
    elif total.value >= goal:
        status, word = "watch", "may-fall-short"
    elif total.high >= goal:
        status, word = "watch", "likely-short"
    else:
        status, word = "fail", "short-of-the-goal"
    sentence = say(
        "verdict.runtime",
        goal=(goal, "h"),
        frost=(solved.design.brief.coldest_c if "cold" in word else None, "°C"),
        lasts=(cold, "h"),
        ending=runtime_sentence(solved),
    )
    return _verdict("runtime", total, status, word, sentence, "runtime")


def weakest_verdict(solved: SolvedGadget) -> Verdict:
    state, design = solved.usual, solved.design
    used = [i for i in range(len(design.modes)) if state.shares[i] > 0]
    if not design.parts or not used:
        nothing = figure("first-mode-stops-at", None, "%")
        return _verdict("weakest", nothing, "unknown", "no-parts-yet", say("verdict.add-a-part"), "draw")
    worst = max(used, key=lambda i: (state.failures[i].charge, -i))
    failure = state.failures[worst]
    name, left = design.modes[worst].name, failure.charge
    status, word = _left_graded(left)
    kept = kept_below_cutoff(design.battery.cell)
    if status == "fail" and (
        (0 < kept < left < 1 and left - kept <= UNUSED_WATCH) or not design.modes[worst].essential
    ):
        status = "watch"
    sentence = say("verdict.stops", mode=name, failure=describe_failure(solved, failure))
    frost = max(
        (x.charge for i, x in enumerate(solved.coldest.failures) if i in used and design.modes[i].essential),
        default=0.0,
    )
    if status == "pass" and frost > UNUSED_WATCH:
        cold = max((i for i in used if design.modes[i].essential), key=lambda i: solved.coldest.failures[i].charge)
        status, word = ("fail", "dead-in-the-cold") if frost >= 1 else ("watch", "early-in-the-cold")
        stops = describe_failure(solved, solved.coldest.failures[cold])
        sentence = say(
            "verdict.stops-in-the-cold",
            coldest=(design.brief.coldest_c, "°C"),
            mode=design.modes[cold].name,
            failure=stops,
        )
    at = figure(
        "charge-left-at-the-first",
        left * 100,
        "%",
        [(design.modes[i].name, state.failures[i].charge, "share") for i in used],
        "every part at its max at the same time, solved over the state of charge",
        facts={"name": name},
    )
    return _verdict("weakest", at, status, word, sentence, "supply")


def _left_graded(left: float) -> tuple[Status, str]:
    """By the charge that is left where the first mode stops, 0..1."""
    if left >= 1:
        return "fail", "does-not-work"
    if left > UNUSED_WATCH:
        return "fail", "gives-up-early"
    if left > UNUSED_PASS:
        return "watch", "gives-up-early"
    return "pass", "late-enough" if left > 0 else "holds-to-the-end"


def charge_verdict(solved: SolvedGadget, found: list[Found]) -> Verdict:
    """What it takes to get full; what is dangerous about it is in its findings (`held_against`)."""
    charger, limit = solved.design.charger, solved.design.brief.charge_max_h
    report = charge_report(solved)
    time = report.time if report else figure("no-time-to-full", None, "h")
    status: Status = "pass"
    if charger is None:
        rechargeable = CHEMISTRIES[solved.design.battery.cell.chemistry].rechargeable
        word, sentence = "charged-outside" if rechargeable else "swap-the-cells", say("verdict.no-charger")
    elif report is None or time.value is None:
        status, word, sentence = (
            "unknown",
            "not-known",
            say("verdict.no-charge", charger=charger.name),
        )
    elif solved.solar is not None:
        return _solar_verdict(solved, solved.solar, found)
    else:
        word = "in-time" if limit is not None else "safe-current"
        sentence = say("verdict.full", full=(time.value, "h"), current=(report.current.value, "A"), limit=(limit, "h"))
        high = next((f for f in found if f.code in CHARGE_WATCHED and f.severity == "watch"), None)
        if high is not None:
            return _verdict("charge", time, "watch", f"watched-word.{high.code}", high.sentence, "charge")
    return _verdict("charge", time, status, word, sentence, "charge")


SURE_OF_SUN = 1.3  # times what a day takes: a place may have a third less sun than the table


def _solar_verdict(solved: SolvedGadget, day: SolarDay, found: list[Found]) -> Verdict:
    """A balance of energy, not a time to full: what a usual day of the month brings against what it takes, and the days without sun."""
    status: Status = "pass"
    word = "lives-on-the-sun"
    watched = next((f for f in found if f.code in ("too-little-sun", "dark-days", *CHARGE_WATCHED)), None)
    if watched is not None:
        return _verdict(
            "charge", _dark_days(day), "watch", f"watched-word.{watched.code}", watched.sentence, "charge", label="sun"
        )
    if day.into_wh < SURE_OF_SUN * day.used_wh:
        status, word = "watch", "hardly-enough-sun"
    if not solved.design.parts:
        status, word = "unknown", "no-parts-yet"
    sentence = say("verdict.sun", brings=(day.into_wh, "Wh"), takes=(day.used_wh, "Wh"), autonomy=(day.autonomy_d, "d"))
    return _verdict("charge", _dark_days(day), status, word, sentence, "charge", label="sun")


def _dark_days(day: SolarDay) -> Figure:
    days = None if math.isinf(day.autonomy_d) else day.autonomy_d
    return figure(
        "days-without-any-sun",
        days,
        "d",
        [
            (called("usable"), day.stored_wh, "Wh"),
            (called("taken-in-a-day"), day.used_wh, "Wh"),
            (called("brought-on-a-usual-day"), day.into_wh, "Wh"),
        ],
    )


CHARGE_WATCHED = (
    "charge-temperature",
    "charge-current",
    "not-balanced",
    "timer-overcharges",
    "end-not-seen",
    "charger-input-unknown",
    "no-protection",
    "no-precharge",
)


def heat_verdict(solved: SolvedGadget) -> Verdict:
    """The thing that comes nearest to its own limit, by name, in any mode or while it charges."""
    report = heat_report(solved)
    hot, shown = report.nearest, report.inside
    cool = "stays-cool" if hot.near < COOL else "within-its-limits"
    words: dict[Status, str] = {"pass": cool, "watch": "close-to-the-limit", "fail": "too-warm"}
    left = hot.limit_c - hot.degrees_c
    what = hot.name if hot.pointer else Said("verdict.air-inside")
    sentence = say(
        "verdict.heat",
        what=what,
        temperature=(hot.degrees_c, "°C"),
        limit=(hot.limit_c, "°C"),
        mode=None if hot.when == CHARGING else hot.when,
        plastic=softest(solved.design.enclosure)[0] if hot.softens else None,
        air=(hot.air_c if hot.pointer else None, "°C"),
        beyond=left < 0,
        margin=(abs(left), "°C"),
    )
    about = say("verdict.heat-about", what=what, limit=(hot.limit_c, "°C"))
    return _verdict("heat", shown, hot.status, words[hot.status], sentence, "charge", about=about)


def fit_verdict(solved: SolvedGadget) -> Verdict:
    fit, margin = solved.fit, fit_margin(solved)
    status: Status = "pass"
    word, sentence = "closes", say("verdict.clear")
    states = {contact_status(c) for c in fit.contacts}
    limit = solved.design.brief.outer_max_mm
    short = Said("verdict.short", {"place": margin.label, "short": (-(margin.value or 0), "mm")})
    if not fit.placed:
        status, word, sentence = "unknown", "nothing-placed", say("verdict.no-place")
    elif "fail" in states:
        status, word, sentence = "fail", "does-not-close", str(short)
    elif limit is not None and not fits_within(solved.design.enclosure.outermost_mm, limit):
        status, word, sentence = "fail", "case-too-large", say("verdict.case-too-large")
    elif "watch" in states:
        status, word, sentence = "watch", "tight", str(short)
    elif fit.unplaced:
        names = [name for _, name in fit.unplaced]
        return _verdict(
            "fit",
            margin,
            "watch",
            Said("word.without-a-place", {"number": len(names)}),
            say("verdict.unplaced", **_some(names)),
            "fit",
        )
    return _verdict("fit", margin, status, word, sentence, "fit")


def _some(names: list[str]) -> dict[str, Fact]:
    """The first of some names, and how many more there are."""
    return {"names": names[:MOST_NAMED], "more": len(names) - MOST_NAMED if len(names) > MOST_NAMED else None}


def _limited(
    key: Literal["mass", "cost"], total: Figure, limit: float | None, low_word: str, missing: list[str]
) -> Verdict:
    status: Status = "pass" if limit is not None else "unknown"
    word: str | Said = low_word if limit is not None else "no-limit-set"
    sentence = say("verdict.no-limit")
    if limit is not None and total.value is not None:
        if total.value > limit:
            status, word = "fail", "over-the-brief"
        elif total.high is not None and total.high > limit:
            status, word = "watch", "close-to-the-limit"
        elif missing:
            status, word = "watch", Said("word.without-one", {"number": len(missing), "key": key})
        sentence = say(
            "verdict.limited", total=(total.value, total.unit), limit=(limit, total.unit), key=key, **_some(missing)
        )
    return _verdict(key, total, status, word, sentence, "record")


def totals_verdicts(design: Design, totals: TotalsReport) -> list[Verdict]:
    """What came along on a module has its mass and its cost in the module's."""
    own = {f"/parts/{i}" for i, p in enumerate(design.parts) if p.parasitic or p.plugged_by_user}
    own |= {f"/supply/stages/{i}" for i, s in enumerate(design.supply.stages) if getattr(s, "role", None) in NO_ROOM}
    lines = [b for b in totals.bill if b.where not in own and b.where != "/enclosure" and not b.small]
    weightless, free = [b.name for b in lines if b.mass_g <= 0], [b.name for b in lines if b.cost <= 0]
    return [
        _limited("mass", totals.mass, design.brief.mass_max_g, "light-enough", weightless),
        _limited("cost", totals.cost, design.brief.cost_max, "within-budget", free),
    ]
