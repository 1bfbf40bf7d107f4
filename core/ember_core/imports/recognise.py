"""Which rows of a sheet are a table of parts, and what each of its columns is: by its heading, else by what stands in it.

A sheet falls into tables at empty rows and empty columns. The heading is the row that reads most like one; a row of units below it belongs
to it. What can't be told is left to the reader (`sure` is false), with what is seen most like it.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Mapping
from typing import Annotated, Literal

from pydantic import Field

from ..design import Model
from ..figures import record
from ..quantities import QuantityError, parse_quantity, unit_in_heading
from ..quantities.units import KINDS, Dimension
from .parts_list import ALIASES
from .tables import plain
from .workbook import Sheet

MOST_TABLES = 12
MOST_PARTS = 1000
LOOKED_AT = 60  # cells of a column
ENOUGH = 0.6  # of a column's cells have to be alike
HEADING_WITHIN = 8  # rows
LEAST_LIKE = (
    0.3  # of a row of headings: a known one counts 1, another word half, a figure less than nothing; a rule of thumb
)

Role = Literal["name", "quantity", "rail", "kind", "size", "mass", "cost", "min supply", "max supply", "state", ""]
_UNIT_OF: dict[Role, Dimension] = {"mass": "mass", "min supply": "voltage", "max supply": "voltage", "size": "length"}
_DRAWS: tuple[Dimension, ...] = ("current", "power", "resistance")
_FOREIGN = {
    "component": "name", "components": "name", "item": "name", "device": "name", "module": "name", "description": "name",
    "part name": "name", "bauteil": "name", "parts": "name", "what": "name", "consumer": "name", "load": "name",
    "pcs": "quantity", "pieces": "quantity", "number": "quantity", "amount": "quantity", "how many": "quantity", "menge": "quantity",
    "anzahl": "quantity", "#": "quantity", "no.": "quantity", "n": "quantity",
    "voltage": "rail", "supply": "rail", "vcc": "rail", "vdd": "rail", "power rail": "rail", "runs from": "rail",
    "type": "kind", "category": "kind", "class": "kind", "dimensions": "size", "lxwxh": "size", "l x w x h": "size",
    "masse": "mass", "unit price": "cost", "price each": "cost", "each": "cost", "unit cost": "cost", "preis": "cost",
    "vmin": "min supply", "v min": "min supply", "min voltage": "min supply", "minimum voltage": "min supply",
    "vmax": "max supply", "v max": "max supply", "max voltage": "max supply", "maximum voltage": "max supply",
}  # fmt: skip
_STATE_WORDS = re.compile(
    r"\b(off|sleep\w*|asleep|standby|stand-by|idle|active|on|run\w*|awake|tx|rx|send\w*|transmit\w*|receiv\w*|peak|typ\w*|current|draw\w*|"
    r"consumption|power|stop|deep|play\w*|light\w*|lit|dark|busy|work\w*|use|in use|ruhe\w*|strom|i)\b",
    re.IGNORECASE,
)
_NO_STATE = re.compile(
    r"\b(link|url|supplier|notes?|comments?|remarks?|order\w*|total|sum|datasheet|where|lead|stock|share|duty|time|hours|date|package|reference|ref|designator|id|row)\b",
    re.IGNORECASE,
)
_FILLER = re.compile(
    r"\b(current|draw|consumption|supply|typical|typ\.?|power|strom)\b|\b(mode|state)\b|\bi\b(?=[ _(]|$)", re.IGNORECASE
)
_TOTAL = re.compile(r"^(grand |sub)?-?(total|sum|summe|all parts)\b", re.IGNORECASE)
_BRACKETED = re.compile(r"^[\[(]?\s*([^\])]*?)\s*[\])]?$")
_LAST = re.compile(r"^(.*?)[\s_,;:]+([^\s_,;:]+)$")
UNITS = {unit for kind in KINDS.values() for unit in kind.units} | {"€", "EUR", "USD", "$", "pcs", "x"}


class Picked(Model):
    """What a column is read as. `state`: of a column of draws, the state's name. A `unit` counts for cells without one."""

    heading: Annotated[str, Field(max_length=400)]
    role: Role = ""
    state: Annotated[str, Field(max_length=120)] = ""
    unit: Annotated[str, Field(max_length=20)] | None = None
    sure: bool = True


@record
class Table:
    """A table as it was found: `columns` with what each is taken for, rows of text with their `numbers` in the sheet."""

    sheet: str
    hidden: bool
    columns: list[Picked]
    rows: list[list[str]]
    numbers: list[int]
    notes: list[str]
    likely: Annotated[float, Field(description="how much it looks like a table of parts, 0 to 1")]


def tables_of(sheets: Iterable[Sheet], known: Mapping[str, tuple[Role, str, str | None]] | None = None) -> list[Table]:
    """All tables with two rows and columns, the likeliest list of parts first. `known`: what headings, by `heading_key`, were read as before."""
    found = [t for sheet in sheets for t in _tables(sheet, known or {})]
    found.sort(key=lambda t: (-t.likely, t.hidden))
    return found[:MOST_TABLES]


def split_heading(heading: str) -> tuple[str, str | None]:
    """ "Sleep (µA)", "sleep_uA" or "sleep, mA" as its name and its unit; None where it names none."""
    name, unit = unit_in_heading(heading)
    if unit is not None:
        return (name, unit) if unit in UNITS else (heading.strip(), None)
    match = _LAST.match(heading.strip())
    ends = ("A", "a", "W", "V", "mm", "g", "Ω")
    if match and match.group(2) in UNITS and match.group(2).endswith(ends) and match.group(1):
        return match.group(1).replace("_", " ").strip(), match.group(2)
    return heading.strip(), None


def heading_key(heading: str) -> str:
    """How a heading is remembered."""
    return plain(heading)[:120]


def _tables(sheet: Sheet, known: Mapping[str, tuple[Role, str, str | None]]) -> list[Table]:
    found = []
    for top, rows in _bands(sheet.rows):
        for part in _apart(rows):
            table = _table(sheet, sheet.first_row + top, part, known)
            if table is not None:
                found.append(table)
    return found


def _bands(rows: list[list[str]]) -> list[tuple[int, list[list[str]]]]:
    """Rows between empty ones, with where they begin."""
    found: list[tuple[int, list[list[str]]]] = []
    begun = False
    for i, row in enumerate(rows):
        if any(row):
            if not begun:
                found.append((i, []))
            found[-1][1].append(row)
        begun = any(row)
    return found


def _apart(rows: list[list[str]]) -> list[list[list[str]]]:
    """Tables side by side: the columns between empty ones."""
    wide = max(len(r) for r in rows)
    full = [r + [""] * (wide - len(r)) for r in rows]
    filled = [any(r[k] for r in full) for k in range(wide)]
    pieces: list[list[int]] = []
    for k in range(wide):
        if filled[k]:
            if not (k and filled[k - 1]):
                pieces.append([])
            pieces[-1].append(k)
    return [[[r[k] for k in columns] for r in full] for columns in pieces]


def _table(
    sheet: Sheet, first_row: int, rows: list[list[str]], known: Mapping[str, tuple[Role, str, str | None]]
) -> Table | None:
    if len(rows) < 2 or len(rows[0]) < 2:
        return None
    at = _heading_row(rows, known)
    notes = []
    if at is None:
        headings, body, begins = [f"column {k + 1}" for k in range(len(rows[0]))], rows, first_row
        notes.append("It has no row of headings: each column is told by what stands in it.")
    else:
        headings, body, begins = rows[at], rows[at + 1 :], first_row + at + 1
    units: list[str | None] = [None] * len(headings)
    if body and at is not None and _is_units(body[0]):
        units = [_bare(c) or None for c in body[0]]
        body, begins = body[1:], begins + 1
    kept = [(begins + i, row) for i, row in enumerate(body) if any(row)]
    columns = _columns(headings, units, [row for _, row in kept], known)
    name = next((k for k, c in enumerate(columns) if c.role == "name"), None)
    totals = [n for n, row in kept if name is not None and _TOTAL.match(row[name])]
    kept = [(n, row) for n, row in kept if n not in totals]
    if totals:
        notes.append(
            f"Left out as {'totals' if len(totals) > 1 else 'a total'}: row {', '.join(map(str, totals[:5]))}."
        )
    if not kept:
        return None
    if len(kept) > MOST_PARTS or sheet.cut:
        notes.append(f"Only the first {min(len(kept), MOST_PARTS)} rows are read.")
    roles = [c.role for c in columns]
    likely = (0.45 * ("name" in roles) + 0.35 * ("state" in roles) + 0.2 * sum(r != "" for r in roles) / len(roles)) * (
        0.6 if sheet.hidden else 1.0
    )
    return Table(
        sheet=sheet.name,
        hidden=sheet.hidden,
        columns=columns,
        rows=[row for _, row in kept[:MOST_PARTS]],
        numbers=[n for n, _ in kept[:MOST_PARTS]],
        notes=notes,
        likely=likely,
    )


def _heading_row(rows: list[list[str]], known: Collection[str]) -> int | None:
    """The row among the first ones that reads most like headings: words that are known for them, or words over figures; None where none does."""

    def like(cell: str) -> bool:
        return heading_key(cell) in known or _by_heading(split_heading(cell)[0])[0] != ""

    def figures(row: list[str]) -> int:
        return sum(_dimension(c, None) is not None for c in row if c)

    scores = []
    for row in rows[:HEADING_WITHIN]:
        filled = [c for c in row if c]
        liked = sum(map(like, filled))
        scores.append(0.0 if len(filled) < 2 else (liked + 0.5 * (len(filled) - liked) - 2 * figures(row)) / len(row))
    best = max(range(len(scores)), key=lambda i: scores[i])
    if scores[best] <= LEAST_LIKE or best == len(rows) - 1:
        return None
    return best if any(map(like, rows[best])) or (not figures(rows[best]) and figures(rows[best + 1])) else None


def _bare(cell: str) -> str:
    match = _BRACKETED.match(cell.strip())
    return match.group(1) if match else cell


def _is_units(row: list[str]) -> bool:
    filled = [_bare(c) for c in row if c]
    return len(filled) > 0 and all(c in UNITS for c in filled)


def _columns(
    headings: list[str],
    units: list[str | None],
    rows: list[list[str]],
    known: Mapping[str, tuple[Role, str, str | None]],
) -> list[Picked]:
    columns = []
    for k, heading in enumerate(headings):
        name, written = split_heading(heading)
        cells = [row[k] for row in rows if row[k]][:LOOKED_AT]
        unit = units[k] or written
        columns.append(_column(heading, name, unit, cells, known.get(heading_key(heading))))
    _name_one(columns, rows)
    _once_each(columns)
    return columns


def _column(
    heading: str, name: str, unit: str | None, cells: list[str], known: tuple[Role, str, str | None] | None
) -> Picked:
    if known is not None:
        told = unit is not None or known[2] is None or not _needs_unit(cells)  # a unit of before is looked at again
        return Picked(heading=heading, role=known[0], state=known[1], unit=unit or known[2], sure=told)
    role, state = _by_heading(name)
    by_content = _by_content(cells, unit)
    if role == "rail" and by_content == "state":  # "supply [mA]"
        role, state = "state", _state_name(name)
    if role == "state" and (not cells or by_content not in ("state", "number")):
        role = ""
    if role in ("quantity", "mass", "cost", "size") and cells and not _fits(role, cells, unit):
        role = ""
    if role:
        told = role not in ("state", *_UNIT_OF) or unit is not None or not _needs_unit(cells) or role == "mass"
        return Picked(heading=heading, role=role, state=state, unit=unit, sure=told)
    if by_content in ("state", "size") and not _NO_STATE.search(name):
        return Picked(
            heading=heading,
            role=by_content,
            state=_state_name(name) if by_content == "state" else "",
            unit=unit,
            sure=False,
        )
    return Picked(heading=heading, unit=unit, sure=not cells or by_content == "text" or bool(_NO_STATE.search(name)))


def _by_heading(name: str) -> tuple[Role, str]:
    """What a heading without its unit says, with the state's name of one that speaks of a draw."""
    key = plain(name)
    role = ALIASES.get(key) or _FOREIGN.get(key)
    if role:
        return role, ""  # type: ignore[return-value]
    if key and not _NO_STATE.search(key) and _STATE_WORDS.search(key):
        return "state", _state_name(name)
    return "", ""


def _state_name(heading: str) -> str:
    left = " ".join(_FILLER.sub(" ", heading).replace("_", " ").split()).strip(" -:,.")
    return (left or "on")[:120]


def _by_content(cells: list[str], unit: str | None) -> str:
    """ "state", "size", "number", "text" or nothing, by what most cells are."""
    if not cells:
        return ""
    kinds = []
    for cell in cells:
        if re.fullmatch(r"[\d.,]+\s*[x×*]\s*[\d.,]+\s*[x×*]\s*[\d.,]+\s*[a-zA-Zµ]*", cell):
            kinds.append("size")
            continue
        dimension = _dimension(cell.split("/")[0].split("+")[-1].strip(), unit)
        plain_number = re.fullmatch(r"[+-]?[\d.,]+", cell) is not None and unit is None
        kinds.append("number" if plain_number else "state" if dimension in _DRAWS else "text")
    best = max(sorted(set(kinds)), key=kinds.count)
    return best if kinds.count(best) >= ENOUGH * len(kinds) else "text"


def _dimension(text: str, unit: str | None) -> Dimension | None:
    """What a cell with its unit, or its column's, is a figure of; None where it is none."""
    match = re.fullmatch(r"[<>~≈]?\s*([+-]?[\d.,]+(?:[eE][+-]?\d+)?)\s*([^\s\d]*)", text.strip())
    if not match:
        return None
    written = match.group(2) or unit
    if not written:
        return "number"
    return next(
        (d for d in (*_DRAWS, "voltage", "mass", "length", "time", "share", "charge") if written in KINDS[d].units),
        None,
    )


def _fits(role: Role, cells: list[str], unit: str | None) -> bool:
    if role == "quantity":
        good = sum(re.fullmatch(r"\d{1,4}\s*(x|×|pcs|pieces)?", c) is not None for c in cells)
        if len(cells) > 2 and cells == [str(k + 1) for k in range(len(cells))]:
            return False  # the rows are numbered
    elif role == "size":
        good = sum("x" in c.lower() or "×" in c or "*" in c for c in cells)
    else:
        good = sum(_reads(c, "mass" if role == "mass" else "cost", unit) for c in cells)
    return good >= ENOUGH * len(cells)


def _reads(text: str, dimension: Dimension, unit: str | None) -> bool:
    try:
        parse_quantity(text, dimension, default_unit=unit or ("g" if dimension == "mass" else None), from_file=True)
    except QuantityError:
        return False
    return True


def _needs_unit(cells: list[str]) -> bool:
    return any(re.fullmatch(r"[+-]?[\d.,]*[1-9][\d.,]*", c) for c in cells)


def _name_one(columns: list[Picked], rows: list[list[str]]) -> None:
    """Without a column of names, the one whose texts differ most is taken for it."""
    if any(c.role == "name" for c in columns):
        return
    texts = [
        k
        for k, c in enumerate(columns)
        if not c.role and _by_content([r[k] for r in rows if r[k]][:LOOKED_AT], None) == "text"
    ]
    if texts:
        best = max(texts, key=lambda k: (len({r[k] for r in rows if r[k]}), -k))
        columns[best] = columns[best].model_copy(update={"role": "name", "sure": False})


def _once_each(columns: list[Picked]) -> None:
    """Of two columns of one role the first surer one keeps it; of states, those of one name are told apart."""
    taken = set[tuple[str, str]]()
    for k in sorted(range(len(columns)), key=lambda k: not columns[k].sure):
        column = columns[k]
        mark = (column.role, column.state.lower())
        if column.role and mark in taken:
            other = column.heading.strip() or f"state {k + 1}"
            free = column.role == "state" and ("state", other.lower()) not in taken
            columns[k] = column.model_copy(
                update={"state": other[:120]} if free else {"role": "", "state": "", "sure": False}
            )
            mark = ("state", other.lower())
        taken.add(mark)
