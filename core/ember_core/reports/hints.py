"""What is worth doing next: a handful of steps from the state of the design, in the order in which they pay. No finding: nothing is wrong without them."""

from __future__ import annotations

from collections.abc import Iterator

from ..figures import Step, record
from ..findings.found import Found
from ..solved.gadget import SolvedGadget
from ..words import say
from .draw import draw_report
from .guesses import guesses_report

MOST_HINTS = 5
TELLING = 0.05  # of the runtime's spread: a figure that decides less is not worth the meter


@record
class Hint:
    """One step: where it is done, what in a few words, and why in a sentence."""

    key: str
    step: Step
    where: str
    title: str
    sentence: str


def hints_report(solved: SolvedGadget, found: list[Found]) -> list[Hint]:
    """The hints that hold for a design as it is, at most five."""
    return list(_hints(solved, found))[:MOST_HINTS]


def _hints(solved: SolvedGadget, found: list[Found]) -> Iterator[Hint]:
    design = solved.design
    if not design.parts:
        yield _hint("part", "draw", "/parts", say("hint-part.title"), say("hint-part.sentence"))
        return
    if not (design.day.sessions or design.day.wakes) and _rests(solved):
        yield _hint("day", "runtime", "/day", say("hint-day.title"), say("hint-day.sentence"))
    wrong = [f for f in found if f.severity in ("stop", "fix")]
    if wrong:
        words = say("hint-wrong.sentence", finding=wrong[0].title, more=len(wrong) - 1 or None)
        yield _hint("wrong", wrong[0].step, wrong[0].where, say("hint-wrong.title"), words)
    if design.brief.goal_h is None:
        yield _hint("goal", "brief", "/brief/goal_h", say("hint-goal.title"), say("hint-goal.sentence"))
    guesses = guesses_report(solved)
    if guesses:
        first = guesses[0]
        step: Step = "draw" if first.where.startswith("/parts") else "runtime"
        words = say("hint-guess.sentence", guess=first.title, value=first.value, guesses=len(guesses))
        yield _hint("guess", step, first.where, say("hint-guess.title"), words)
    yield from _measure(solved, {g.where for g in guesses})
    homeless = [name for _, name in solved.fit.unplaced]
    if homeless:
        words = say("hint-place.sentence", things=len(homeless), first=homeless[0])
        yield _hint("place", "fit", "/enclosure", say("hint-place.title"), words)


def _rests(solved: SolvedGadget) -> bool:
    """Whether it only ever rests: another mode draws more than the one it is in all day, and nobody said a goal for that one."""
    rows = {m.mode: m.battery_current.value or 0.0 for m in draw_report(solved).modes}
    return rows[solved.design.day.rest] < max(rows.values()) and not any(m.goal_h for m in solved.design.modes)


def _hint(key: str, step: Step, where: str, title: str, sentence: str) -> Hint:
    return Hint(key=key, step=step, where=where, title=title, sentence=sentence)


def _measure(solved: SolvedGadget, guessed: set[str]) -> Iterator[Hint]:
    """The figure of a part that decides the runtime's range most and that nobody has measured."""
    design = solved.design
    for owner in sorted(solved.estimate.owners, key=lambda o: -o.share):
        if owner.input.kind != "draw" or owner.share < TELLING or owner.input.subject not in design.index.parts:
            continue
        p = design.index.parts[owner.input.subject]
        part = design.parts[p]
        s = next((k for k, state in enumerate(part.states) if state.name == owner.input.state), None)
        if s is None or part.states[s].provenance == "measured" or f"/parts/{p}/states/{s}" in guessed:
            continue
        words = say("hint-measure.sentence", part=part.name, state=owner.input.state, share=(100 * owner.share, "%"))
        yield _hint("measure", "draw", f"/parts/{p}/states/{s}", say("hint-measure.title"), words)
        return
