"""A parts list as CSV becomes the parts of a gadget.

Columns, in any order, separated by commas, semicolons or tabs; units in the heading ("sleep [µA]") or in the
cell ("12 µA"):

    name        required
    quantity    default 1
    rail        name of the rail, default "Main"
    kind        controller, radio, display, sensor, storage, sound, light, motor, led, interface or other
    size        "18 x 25.5 x 3.2 mm"
    mass, cost
    min supply, max supply
    any other heading is a state ("off", "sleep", "idle", "active" ...): what it draws. A current ("12 µA"),
                a power ("150 mW"), a resistance ("4.7 kΩ"), or an LED and its resistor ("2 V + 1 kΩ"); three
                figures are the least, typical and most ("8 µA / 12 µA / 25 µA")

`write_parts_list` writes the same columns, so that what is written can be read again.
"""

from __future__ import annotations

import csv
import io
import re
from dataclasses import dataclass
from typing import get_args

import numpy as np
from pydantic import ValidationError

from ..design import (
    CurrentDraw,
    CurrentRange,
    Draw,
    LedDraw,
    Part,
    PartKind,
    PowerDraw,
    PowerRange,
    ResistanceRange,
    ResistorDraw,
    State,
)
from ..design.basics import slug
from ..design.problems import DocumentError, Problem, sentence
from ..load.operating_points import draw_range, part_current
from ..quantities import Dimension
from .csv_cells import disarmed
from .tables import Cells, Column, Reader, body, plain, read_table, with_unit

ALIASES = {
    "name": "name", "part": "name", "quantity": "quantity", "qty": "quantity", "count": "quantity", "rail": "rail",
    "kind": "kind", "size": "size", "mass": "mass", "weight": "mass", "cost": "cost", "price": "cost",
    "min supply": "min supply", "max supply": "max supply",
}  # fmt: skip
FITTED = "fitted"  # the state of what draws nothing
_RESTING = ("off", "sleep", "asleep", "standby", "stop", "idle")


@dataclass
class PartsList:
    """The parts read, and the names of their rails in order of appearance."""

    parts: list[Part]
    rails: list[str]


def read_parts_list(raw: bytes) -> PartsList:
    """The parts of an untrusted CSV file. Raises DocumentError with each problem's row and column."""
    reader, rows = read_table(raw, _role)
    if not any(c.role.startswith("state:") for c in reader.columns):
        raise DocumentError([Problem("row 1", "has no column with a current, such as 'sleep [µA]' or 'active [mA]'")])
    found = parts_in(reader, list(enumerate(rows, start=2)))
    if reader.problems:
        raise DocumentError(reader.problems[:50])
    if not found.parts:
        raise DocumentError([Problem("", "has a heading but no parts")])
    return found


def parts_in(reader: Reader, rows: list[tuple[int, list[str]]], *, bare: bool = False) -> PartsList:
    """The parts of some numbered rows; what is wrong with them is gathered by the reader. `bare`: what has no current in any state is a part that
    draws nothing."""
    parts: list[Part] = []
    rails: dict[str, str] = {}
    for number, row in rows:
        part = _part(reader, row, number, {p.id for p in parts}, rails, bare=bare)
        if part is not None:
            parts.append(part)
    return PartsList(parts, list(rails))


def _role(heading: str) -> str:
    return ALIASES.get(plain(heading)) or (f"state:{heading}" if heading else "")


def _part(
    reader: Reader, row: list[str], number: int, taken: set[str], rails: dict[str, str], *, bare: bool
) -> Part | None:
    before = len(reader.problems)
    cells = reader.cells(row, number)
    if cells is None:
        return None
    name = cells["name"][0][:120]
    states = _states(reader, cells, number)
    if not states and bare:
        states = [State(name=FITTED, draw=CurrentDraw(current_a=CurrentRange(typical=0)))]
    if not states and len(reader.problems) == before:
        reader.problems.append(Problem(f"row {number}", f"{name!r} has no current in any state"))
    rail = cells["rail"][0][:120] if "rail" in cells else "Main"
    kind = cells["kind"][0].lower() if "kind" in cells else "other"
    kind = "led" if kind == "lamp" else kind  # as lists of earlier versions have it
    if kind not in get_args(PartKind):
        reader.problems.append(
            Problem(f"row {number}, kind", f"{kind!r} is not one of {', '.join(get_args(PartKind))}")
        )
    numbers = {
        role: reader.quantity(*with_unit(cells[role], unit), dimension, cells[role][1], number)
        for role, dimension, unit in _PLAIN
        if role in cells
    }
    quantity = _quantity(reader, cells, number)
    measures = body(reader, cells, number)
    if len(reader.problems) > before:
        return None
    on_rail = rails.setdefault(rail, slug(rail, set(rails.values()) | {"battery"}))
    try:
        return Part(
            id=slug(name, taken),
            name=name,
            kind=kind,
            rail=on_rail,
            quantity=quantity,
            states=states,
            mass_g=numbers.get("mass") or 0.0,
            cost=numbers.get("cost") or 0.0,
            supply_min_v=numbers.get("min supply"),
            supply_absolute_max_v=numbers.get("max supply"),
            body=measures,
        )
    except ValidationError as error:
        reader.problems += [Problem(f"row {number}", sentence(e).removeprefix("Value error, ")) for e in error.errors()]
        return None


_PLAIN: tuple[tuple[str, Dimension, str], ...] = (
    ("mass", "mass", "g"), ("cost", "cost", ""), ("min supply", "voltage", "V"), ("max supply", "voltage", "V"),
)  # fmt: skip


def _states(reader: Reader, cells: Cells, number: int) -> list[State]:
    states = []
    for role, (text, column) in cells.items():
        if role.startswith("state:"):
            draw = _draw(reader, text, column, number)
            if draw is not None:
                states.append(State(name=role.removeprefix("state:")[:120], draw=draw, provenance="typical"))
    return states[:24]


def _draw(reader: Reader, text: str, column: Column, number: int) -> Draw | None:
    """What one cell says a state draws; None, and a problem, where it can't be read."""
    forward, plus, rest = text.partition("+")
    pieces = [x.strip() for x in (rest if plus else text).split("/")]
    dimension = _dimension(pieces[0], column)
    if len(pieces) not in (1, 3):
        where = f"row {number}, {column.heading}"
        reader.problems.append(Problem(where, f"{text!r} is not one figure, nor least / typical / most"))
        return None
    found = [reader.quantity("0 A" if x in ("0", "0.0") else x, dimension, column, number) for x in pieces]
    if any(v is None for v in found):
        return None
    least, typical, most = found if len(found) == 3 else (None, found[0], None)
    span = {"typical": typical, "min": least, "max": most}
    try:
        if plus:
            volts = reader.quantity(forward.strip(), "voltage", column, number)
            return (
                None if volts is None else LedDraw(forward_v=volts, resistance_ohm=ResistanceRange.model_validate(span))
            )
        if dimension == "power":
            return PowerDraw(power_w=PowerRange.model_validate(span))
        if dimension == "resistance":
            return ResistorDraw(resistance_ohm=ResistanceRange.model_validate(span))
        return CurrentDraw(current_a=CurrentRange.model_validate(span))
    except ValidationError as error:
        message = error.errors()[0]["msg"].removeprefix("Value error, ")
        reader.problems.append(Problem(f"row {number}, {column.heading}", f"{text!r}: {message}"))
        return None


def _dimension(text: str, column: Column) -> Dimension:
    """What a figure is by its unit: a power, a resistance, or else a current."""
    unit = re.sub(r"^[\d.,\s+eE-]+", "", text) or column.unit or ""
    if unit.endswith("W"):
        return "power"
    return "resistance" if unit.endswith(("Ω", "Ω", "ohm", "Ohm")) or unit in ("k", "M", "R") else "current"


def _quantity(reader: Reader, cells: Cells, number: int) -> int:
    if "quantity" not in cells:
        return 1
    text = cells["quantity"][0]
    if not re.fullmatch(r"\d{1,4}", text) or not 1 <= int(text) <= 1000:
        reader.problems.append(Problem(f"row {number}, quantity", f"{text!r} is not a whole number from 1 to 1000"))
        return 1
    return int(text)


def resting_state(part: Part) -> str:
    """The state to begin with in a mode of rest: one called off, sleep ..., else the one with the least current."""
    for word in _RESTING:
        for state in part.states:
            if state.name.lower() == word:
                return state.name
    return min(part.states, key=_current).name


def busy_state(part: Part) -> str:
    """The state to begin with in a mode of use: its state at work, or the one with the most current."""
    return part.working or max(part.states, key=_current).name


def _current(state: State) -> float:
    return part_current(state, 3.3)


def state_current(part: Part, state: str) -> float:
    """What a part draws in a state at 3.3 V, as far as a list of parts tells [A]."""
    return next(_current(s) for s in part.states if s.name == state)


def write_parts_list(parts: list[Part], rails: dict[str, str]) -> str:
    """Parts as a CSV text with the columns that `read_parts_list` reads; `rails` gives the rails' names by id."""
    names = list(dict.fromkeys(s.name for p in parts for s in p.states))
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["name", "quantity", "rail", "kind", "size", "mass", "cost", "min supply", "max supply",
                     *map(disarmed, names)])  # fmt: skip
    for part in parts:
        size = " x ".join(f"{x:g}" for x in part.body.size_mm) + " mm" if part.body else ""
        volts = [f"{v:g} V" if v else "" for v in (part.supply_min_v, part.supply_absolute_max_v)]
        states = {s.name: _written(s) for s in part.states}
        writer.writerow(
            [disarmed(part.name), part.quantity, disarmed(rails.get(part.rail, part.rail)), part.kind, size, f"{part.mass_g:g} g",
             f"{part.cost:g}", *volts, *(states.get(n, "") for n in names)]
        )  # fmt: skip
    return out.getvalue()


def _written(state: State) -> str:
    span, unit = draw_range(state)
    figures = [span.typical] if span.min is None or span.max is None else [span.min, span.typical, span.max]
    text = " / ".join(f"{np.format_float_positional(v, 6, fractional=False, trim='-')} {unit}" for v in figures)
    return f"{state.draw.forward_v:g} V + {text}" if isinstance(state.draw, LedDraw) else text
