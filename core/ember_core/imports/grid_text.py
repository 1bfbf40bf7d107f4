"""What may be typed into a cell of the draw grid, and how a cell is written so that it can be typed again.

"idle"         the state for the whole mode           "idle 30%"   for a share of it
"30 %"         the duty alone                         "12 mA"      the current of the state now in the cell
"active 48mA"  a state and its current                "-"          draws nothing in this mode
"100-140 mA"   a range, also "120 mA ± 20 %"          "12 mA here", "12 mA everywhere": for a state that other modes use too

"send 120 mA 20 %"  a state, its current and its share; one that the part does not have yet is made
"active 30 % else idle"                               what it does for the remaining time
"active 0.4 s + radio 2 s every 10 min else sleep"    a burst that repeats
"""

from __future__ import annotations

import re
from difflib import get_close_matches
from typing import Literal

import numpy as np

from ..design import CurrentDraw, CurrentRange, Draw, LedDraw, Model, Part, Phase, PowerDraw, Use
from ..design.draw import PowerRange, ResistanceRange
from ..quantities import QuantityError, Spanned, parse_quantity, parse_span

LONGEST = 400
SLIP = 0.7  # as alike as that, two names are one with a slip; a rule of thumb
_DRAWN = re.compile(r"[\d.,]\s*[pnuµμm]?A$")  # it ends with a current
_AMOUNT = re.compile(
    r"(?:^|\s)([+-]?[\d.,]+(?:[eE][+-]?\d+)?\s*[^\s\d±]*?(?:\s*(?:-|–|…|\.\.+|\bto\b|±|\+/-)\s*[\d.,]+\s*[^\s\d]*)?)$"
)
_SCOPE = re.compile(r"^(.*\S)\s+(here|everywhere)$", re.IGNORECASE)
_SHARE = re.compile(r"[+-]?[\d.,]+\s*%")
_ELSE = re.compile(r"^(.*?)\s+else\s+(.+)$", re.IGNORECASE)
_EVERY = re.compile(r"^(.+?)\s+every\s+(.+)$", re.IGNORECASE)
_NOTHING = ("", "-", "–", "0")


class CellEntry(Model):
    """What was meant. Fields that were not typed are null; `clear` means that the part draws nothing, `adds` that its `state` is one that it does not
    have yet.

    `draw` is what the state draws with the typed current, of the same kind as before; `scope` says whether that is for this
    mode only or for all that use the state, null where nobody said so. `rest_given` tells that "else" was typed; `rest` null then means that it draws nothing for the remaining time.
    """

    clear: bool = False
    adds: bool = False
    state: str | None = None
    duty: float | None = None
    current_a: float | None = None
    draw: Draw | None = None
    scope: Literal["here", "everywhere"] | None = None
    burst: list[Phase] | None = None
    period_s: float | None = None
    rest_given: bool = False
    rest: str | None = None


class EntryError(QuantityError):
    """Not understood, or doubtful."""


def read_cell(text: str, part: Part, now: str | None = None, rail_v: float | None = None) -> CellEntry:
    """The meaning of a typed text for a part that is in the state `now` on a rail of `rail_v` [V]. Raises EntryError."""
    typed = " ".join(text.split())
    if len(typed) > LONGEST:
        raise EntryError("is too long for a cell")
    if typed in _NOTHING:
        return CellEntry(clear=True)
    if _match(typed, [s.name for s in part.states]):  # a state's name may hold any word
        return CellEntry(state=_match(typed, [s.name for s in part.states]))
    scope = _SCOPE.match(typed)
    if scope:
        entry = read_cell(scope.group(1), part, now, rail_v)
        if entry.draw is None or entry.scope is not None:
            raise EntryError(f"{scope.group(2)!r} goes with a current, like '12 mA {scope.group(2)}'")
        entry.scope = "here" if scope.group(2).lower() == "here" else "everywhere"
        return entry
    rest = _ELSE.match(typed)
    every = _EVERY.match(rest.group(1) if rest else typed)
    entry = (
        _burst(every.group(1), every.group(2), part)
        if every
        else _plain(rest.group(1) if rest else typed, part, now, rail_v)
    )
    if rest:
        entry.rest_given = True
        entry.rest = None if rest.group(2) in ("nothing", *_NOTHING) else _state(rest.group(2), part)
    return entry


def _plain(typed: str, part: Part, now: str | None, rail_v: float | None) -> CellEntry:
    names = [s.name for s in part.states]
    if _match(typed, names):
        return CellEntry(state=_match(typed, names))
    amount = _AMOUNT.search(typed)
    if not amount:
        if typed.lower() == "off":
            return CellEntry(clear=True)
        return CellEntry(state=_state(typed, part))
    entry = CellEntry()
    head = typed[: amount.start()].strip()
    if _SHARE.fullmatch(amount.group(1).strip()) and _match(head, names) is None and _DRAWN.search(head):
        entry = _plain(head, part, now, rail_v)
        entry.duty = parse_quantity(amount.group(1).strip(), "share")
        return entry
    if head:
        entry.adds = _is_new(head, part)
        entry.state = head if entry.adds else _state(head, part)
    figure = amount.group(1).strip()
    if re.fullmatch(r"[+-]?[\d.,]+(?:[eE][+-]?\d+)?", figure):
        prefix = f"{head} " if head else ""
        raise EntryError(f"{figure} of what?", [f"{prefix}{figure} {unit}" for unit in ("µA", "mA", "%")])
    if _SHARE.fullmatch(figure):
        if entry.adds:
            entry.state = _state(head, part)  # which says what there is
        entry.duty = parse_quantity(figure, "share")
        return entry
    span = parse_span(figure, "current")
    entry.current_a = span.typical
    if entry.adds:
        entry.draw = CurrentDraw(current_a=CurrentRange(typical=span.typical, min=span.min, max=span.max))
        return entry
    wanted = entry.state or now
    state = next((s for s in part.states if s.name == wanted), part.states[0])
    entry.draw = _with_current(state.draw, span, rail_v, f"{state.name} of {part.name}")
    return entry


def _with_current(draw: Draw, span: Spanned, rail_v: float | None, name: str) -> Draw:
    """A draw of the same kind that takes a current on its rail."""
    amps = [a for a in (span.typical, span.min, span.max) if a is not None]
    if isinstance(draw, CurrentDraw):
        return CurrentDraw(current_a=CurrentRange(typical=span.typical, min=span.min, max=span.max))
    if not rail_v or min(amps) <= 0:
        raise EntryError(f"{name} has no current of its own but a {_KINDS[draw.behaviour]}; change that in its details")
    if isinstance(draw, PowerDraw):
        power = [None if a is None else _rounded(a * rail_v) for a in (span.typical, span.min, span.max)]
        return PowerDraw(power_w=PowerRange(typical=power[0] or 0.0, min=power[1], max=power[2]))
    drop = rail_v - (draw.forward_v if isinstance(draw, LedDraw) else 0.0)
    if drop <= 0:
        raise EntryError(f"{name} does not light at {rail_v:.3g} V: its forward voltage is {draw.forward_v:g} V")  # type: ignore[union-attr]
    ohm = [None if a is None else _rounded(drop / a) for a in (span.typical, span.max, span.min)]
    resistance = ResistanceRange(typical=ohm[0] or 0.0, min=ohm[1], max=ohm[2])
    return draw.model_copy(update={"resistance_ohm": resistance})


_KINDS = {"power": "power", "resistor": "resistance", "led": "resistor in series"}


def _rounded(value: float) -> float:
    return float(f"{value:.6g}")


def _burst(phases: str, period: str, part: Part) -> CellEntry:
    """ "active 0.4 s + radio 2 s", "10 min"."""
    burst = []
    for piece in phases.split("+"):
        amount = _AMOUNT.search(piece.strip())
        if not amount or not piece.strip()[: amount.start()].strip():
            raise EntryError(f"{piece.strip()!r} is not a phase; write it like 'active 0.4 s'")
        seconds = parse_quantity(amount.group(1), "time")
        if seconds <= 0:
            raise EntryError(f"{piece.strip()!r} lasts no time")
        burst.append(Phase(state=_state(piece.strip()[: amount.start()].strip(), part), seconds=seconds))
    every = parse_quantity(period, "time")
    total = sum(p.seconds for p in burst)
    if total > every:
        raise EntryError(f"the burst lasts {total:g} s, longer than its period of {every:g} s")
    return CellEntry(state=burst[0].state, burst=burst, period_s=every)


def _state(text: str, part: Part) -> str:
    names = [s.name for s in part.states]
    found = _match(text, names)
    if found is None:
        raise EntryError(f"{part.name} has no state {text!r}; it has: {', '.join(names)}", names[:6])
    return found


def _is_new(text: str, part: Part) -> bool:
    """Whether a name is that of a state still to be made: a word, none that the part has, and no slip in typing one."""
    names = [s.name for s in part.states]
    if (
        _match(text, names) is not None
        or not re.fullmatch(r"[^\W\d_][\w ,()/-]*", text)
        or any(n.lower().startswith(text.lower()) for n in names)
    ):
        return False
    return not get_close_matches(text.lower(), [n.lower() for n in names], n=1, cutoff=SLIP)


def _match(text: str, names: list[str]) -> str | None:
    """The state of that name, or the only one that begins so; capitals do not matter."""
    wanted = text.lower()
    exact = [n for n in names if n.lower() == wanted]
    starting = [n for n in names if n.lower().startswith(wanted)]
    return exact[0] if exact else starting[0] if len(starting) == 1 else None


def write_cell(use: Use) -> str:
    """A use as it could be typed."""
    rest = "" if use.rest is None else f" else {use.rest}"
    if use.burst:
        phases = " + ".join(f"{p.state} {_plainly(p.seconds)} s" for p in use.burst)
        return f"{phases} every {_plainly(use.period_s or 0)} s{rest}"
    return use.state if use.duty >= 1 else f"{use.state} {_plainly(use.duty * 100)} %{rest}"


def _plainly(value: float) -> str:
    return str(np.format_float_positional(value, 10, fractional=False, trim="-"))
