"""What may be typed into a cell of the draw grid: a state, a duty, a current, or nothing.

"idle"         the state for the whole mode           "idle 30%"   for a share of it
"30 %"         the duty alone                         "12 mA"      the current of the state now in the cell
"active 48mA"  a state and its current                "-"          draws nothing in this mode
"""

from __future__ import annotations

import re

from .design import Model, Part
from .quantities import QuantityError, parse_quantity

LONGEST = 120
_AMOUNT = re.compile(r"(?:^|\s)([+-]?[\d.,]+(?:[eE][+-]?\d+)?\s*[^\s\d]*)$")


class CellEntry(Model):
    """What was meant. Fields that were not typed are null; `clear` means that the part draws nothing."""

    clear: bool = False
    state: str | None = None
    duty: float | None = None
    current_a: float | None = None


class EntryError(QuantityError):
    """Not understood, or doubtful; `choices` are texts that would be understood."""

    def __init__(self, message: str, choices: list[str] | None = None) -> None:
        super().__init__(message)
        self.choices = choices or []


def read_cell(text: str, part: Part) -> CellEntry:
    """The meaning of a typed text for a part. Raises EntryError."""
    typed = " ".join(text.split())
    if len(typed) > LONGEST:
        raise EntryError("is too long for a cell")
    names = [s.name for s in part.states]
    if typed in ("", "-", "–", "0"):
        return CellEntry(clear=True)
    if _match(typed, names):
        return CellEntry(state=_match(typed, names))
    amount = _AMOUNT.search(typed)
    if not amount:
        if typed.lower() == "off":
            return CellEntry(clear=True)
        raise EntryError(f"{part.name} has no state {typed!r}; it has: {', '.join(names)}", names[:6])
    entry = CellEntry()
    head = typed[: amount.start()].strip()
    if head:
        entry.state = _match(head, names)
        if entry.state is None:
            raise EntryError(f"{part.name} has no state {head!r}; it has: {', '.join(names)}", names[:6])
    figure = amount.group(1).strip()
    if re.fullmatch(r"[+-]?[\d.,]+(?:[eE][+-]?\d+)?", figure):
        prefix = f"{head} " if head else ""
        raise EntryError(f"{figure} of what?", [f"{prefix}{figure} {unit}" for unit in ("µA", "mA", "%")])
    if figure.endswith("%"):
        entry.duty = parse_quantity(figure, "share")
    else:
        entry.current_a = parse_quantity(figure, "current")
    return entry


def _match(text: str, names: list[str]) -> str | None:
    """The state of that name, or the only one that begins so; capitals do not matter."""
    wanted = text.lower()
    exact = [n for n in names if n.lower() == wanted]
    starting = [n for n in names if n.lower().startswith(wanted)]
    return exact[0] if exact else starting[0] if len(starting) == 1 else None
