"""Guesses that a design still rests on: what a recipe took for granted and nobody has looked at since."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from ..design import Design, Guess, Session, Wake
from ..figures import record
from ..measures.measure import state_a
from ..quantities import show
from ..solved.gadget import SolvedGadget
from ..words import say

SAME = 1e-6


@record
class GuessRow:
    """One guess: what it is, in words, where it stands in the document, and the share of the runtime's spread that it accounts for
    (null: not told apart from the others)."""

    id: str
    where: str
    title: str
    value: str
    share: Annotated[float | None, Field(description="first-order index of the runtime, 0..1")]


def happening(event: Session | Wake) -> list[float]:
    """How long it lasts [s] and how often it happens [1/d]."""
    if isinstance(event, Wake):
        return [event.awake_s, 86400.0 / event.every_s]
    return [event.seconds, event.per_day]


def guesses_report(solved: SolvedGadget) -> list[GuessRow]:
    """What is still a guess, what moves the runtime most first."""
    design = solved.design
    if not design.guesses:
        return []
    owners = {(o.input.kind, o.input.subject, o.input.state): o.share for o in solved.estimate.owners}
    rows = [row for guess in design.guesses if (row := _row(design, guess, owners))]
    return sorted(rows, key=lambda r: -(r.share or 0.0))


def _row(design: Design, guess: Guess, owners: dict[tuple[str, str, str], float]) -> GuessRow | None:
    if guess.kind == "draw":
        p = design.index.parts.get(guess.subject)
        part = None if p is None else design.parts[p]
        s, state = (
            next(((k, x) for k, x in enumerate(part.states) if x.name == guess.state), (0, None)) if part else (0, None)
        )
        if part is None or state is None or state.provenance == "measured" or not _same(guess, [state_a(state)]):
            return None
        title = say("guess.draw", part=part.name, state=state.name)
        share = owners.get(("draw", part.id, state.name), 0.0)
        return GuessRow(
            id=guess.id, where=f"/parts/{p}/states/{s}", title=title, value=show(state_a(state), "A"), share=share
        )
    event, where = _event(design, guess.subject)
    if event is None or not _same(guess, happening(event)):
        return None
    seconds, often = happening(event)
    value = say(
        "guess.often",
        seconds=(seconds, "s"),
        every=(event.every_s if isinstance(event, Wake) else None, "s"),
        per_day=(often, ""),
    )
    share = sum(v for (kind, _, _), v in owners.items() if kind == "use")
    return GuessRow(id=guess.id, where=where, title=say("guess.happens", event=event.name), value=value, share=share)


def _event(design: Design, key: str) -> tuple[Session | Wake | None, str]:
    if key in design.index.sessions:
        i = design.index.sessions[key]
        return design.day.sessions[i], f"/day/sessions/{i}"
    if key in design.index.wakes:
        i = design.index.wakes[key]
        return design.day.wakes[i], f"/day/wakes/{i}"
    return None, ""


def _same(guess: Guess, now: list[float]) -> bool:
    return len(guess.was) == len(now) and all(
        abs(a - b) <= SAME * max(abs(a), abs(b)) for a, b in zip(guess.was, now, strict=True)
    )
