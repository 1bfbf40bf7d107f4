"""A table whose columns somebody has agreed to, as parts: into a new gadget, or merged into one that is there."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable
from typing import Annotated, Any, get_args

from pydantic import Field

from ..design import Design, Part, PartKind, Use
from ..design.basics import Model, slug
from ..design.problems import DocumentError, Problem
from ..design.references import build_design
from ..figures import record
from ..load.operating_points import draw_range
from ..quantities import show
from ..words import say
from .parts_list import FITTED, PartsList, busy_state, parts_in, resting_state
from .recognise import MOST_PARTS, Picked
from .tables import Column, Reader
from .workbook import MOST_COLUMNS

_KIND_WORDS: tuple[tuple[str, PartKind], ...] = (
    (r"mcu|micro|controller|cpu|soc|board", "controller"), (r"radio|lora|wifi|wi-fi|ble|bluetooth|gps|gnss|modem|transceiver|antenna", "radio"),
    (r"display|lcd|oled|screen|e-?paper|e-?ink|panel", "display"), (r"sensor|imu|accel|thermo|hygro|probe|microphone|\bmic\b", "sensor"),
    (r"flash|eeprom|sd|memory|card|storage", "storage"), (r"amp|speaker|buzzer|codec|audio|sound|piezo", "sound"),
    (r"\bled\b|\bleds\b", "led"), (r"light|lamp", "light"), (r"motor|servo|relay|solenoid|pump|fan", "motor"),
    (r"button|switch|encoder|key|connector|usb", "interface"),
)  # fmt: skip
_DATE = re.compile(r"\d{4}-\d\d-\d\d(?: \d\d:\d\d:\d\d)?")


class PartsTable(Model):
    """`rows` as they were read, with their `numbers` in the sheet (from 1 on where there are none); those numbered in `left_out` do not count."""

    columns: Annotated[list[Picked], Field(min_length=1, max_length=MOST_COLUMNS)]
    rows: Annotated[
        list[Annotated[list[Annotated[str, Field(max_length=400)]], Field(max_length=MOST_COLUMNS)]],
        Field(min_length=1, max_length=MOST_PARTS),
    ]
    numbers: Annotated[list[Annotated[int, Field(ge=1, le=2_000_000)]], Field(max_length=MOST_PARTS)] = []
    left_out: Annotated[list[int], Field(max_length=MOST_PARTS)] = []


@record
class PartsRead:
    """Parts, the names of their rails, and what could not be read: {"row 4, active": message}."""

    parts: list[Part]
    rails: list[str]
    problems: list[Problem]
    notes: list[str]


@record
class TableDifference:
    """One thing that a merge would do: a new part (`before` is empty), or another figure for one that is there."""

    key: str
    part: str
    what: str
    before: str
    after: str


@record
class TableMerged:
    """A design with the differences that were chosen; all that there are; what could not be read."""

    design: Design
    differences: list[TableDifference]
    problems: list[Problem]


def read_parts_table(table: PartsTable) -> PartsRead:
    """The parts of a table, with each problem's row and column; a row with a problem gives no part."""
    columns = [Column(_role(c), c.unit, c.heading or f"column {k + 1}") for k, c in enumerate(table.columns)]
    roles = [c.role for c in columns if c.role]
    problems = []
    if "name" not in roles:
        problems.append(Problem("", "no column is the name of the parts; pick one"))
    for role in sorted({r for r in roles if roles.count(r) > 1}):
        said = f"the state {role.removeprefix('state:')!r}" if role.startswith("state:") else f"the {role}"
        problems.append(Problem("", f"two columns are {said}; pick one of them"))
    if problems:
        return PartsRead(parts=[], rails=[], problems=problems, notes=[])
    out = set(table.left_out)
    reader = Reader(columns)
    numbers = table.numbers if len(table.numbers) == len(table.rows) else range(1, len(table.rows) + 1)
    numbered = zip(numbers, table.rows, strict=True)
    rows = _on_rails(columns, [(n, _cells(columns, row)) for n, row in numbered if n not in out and any(row)])
    for number, row in rows:
        for column, cell in zip(columns, row, strict=False):
            if column.role not in ("", "name", "rail", "kind") and _DATE.fullmatch(cell):
                reader.problems.append(
                    Problem(
                        f"row {number}, {column.heading}", f"{cell!r} is a date: the spreadsheet took a figure for one"
                    )
                )
    found = parts_in(reader, rows, bare=True)
    told = {p.path: p for p in reversed(reader.problems)}  # the first of each cell
    bare = [p.name for p in found.parts if [s.name for s in p.states] == [FITTED]]
    notes = (
        [f"Without a current, so that they draw nothing: {', '.join(bare[:6])}{' …' if len(bare) > 6 else ''}."]
        if bare
        else []
    )
    return PartsRead(parts=found.parts, rails=found.rails, problems=list(reversed(told.values()))[:200], notes=notes)


def parts_or_refused(table: PartsTable) -> PartsList:
    """The same where all of it has to be right. Raises DocumentError."""
    read = read_parts_table(table)
    if read.problems:
        raise DocumentError(read.problems[:50])
    if not read.parts:
        raise DocumentError([Problem("", "has no parts")])
    return PartsList(read.parts, read.rails)


def _role(column: Picked) -> str:
    return f"state:{column.state.strip() or 'on'}" if column.role == "state" else column.role


def _cells(columns: list[Column], row: list[str]) -> list[str]:
    """Cells as the strict reader has them: no sign for about, no pieces behind a count, a kind by its word."""
    found = []
    for column, cell in zip(columns, row, strict=False):
        text = cell.strip()
        if column.role == "quantity":
            text = re.sub(r"\s*(x|×|pcs\.?|pieces)$", "", text, flags=re.IGNORECASE)
            text = re.sub(r"^(\d+)[.,]0+$", r"\1", text)
        elif column.role == "rail" and column.unit == "V" and re.fullmatch(r"[\d.,]+", text):
            text = f"{text} V"
        elif column.role == "kind":
            text = _kind(text)
        elif column.role.startswith("state:") or column.role in ("mass", "cost", "min supply", "max supply"):
            text = re.sub(r"^[<>~≈≤≥]\s*|^(?:ca\.?|about|approx\.?|max\.?|typ\.?)\s+", "", text)
            text = "" if text in ("-", "–", "—", "n/a", "N/A", "na", "?", "tbd", "TBD") else text
        found.append(text)
    return found


def _on_rails(columns: list[Column], rows: list[tuple[int, list[str]]]) -> list[tuple[int, list[str]]]:
    """What names no rail where others do hangs on the one that is named most."""
    at = next((k for k, c in enumerate(columns) if c.role == "rail"), None)
    if at is None:
        return rows
    named = [row[at] for _, row in rows if len(row) > at and row[at]]
    usual = max(named, key=named.count, default="")
    return [(n, [*row[:at], row[at] or usual, *row[at + 1 :]] if len(row) > at else row) for n, row in rows]


def _kind(text: str) -> str:
    low = text.lower()
    if low in get_args(PartKind):
        return low
    return next((kind for words, kind in _KIND_WORDS if re.search(words, low)), "other") if low else ""


def merge_parts(design: Design, table: PartsTable, chosen: list[str] | None = None) -> TableMerged:
    """A table's parts in a design: those of the same name get its figures, others are added. `chosen`: the keys of the differences that are
    wanted; None: all. Nothing that the table says nothing of is touched. Raises DocumentError where the design can't hold them."""
    read = read_parts_table(table)
    names = {plain_name(p.name): p for p in design.parts}
    doubtful = _several(p.name for p in read.parts) | _several(p.name for p in design.parts)
    told_twice = dict.fromkeys(p.name for p in read.parts if plain_name(p.name) in doubtful)
    problems = [*read.problems, *(Problem("", say("table.several", name=name)) for name in told_twice)]
    told = {_role(c) for c in table.columns}
    raw: dict[str, Any] = design.model_dump(mode="json")
    by_id = {p["id"]: p for p in raw["parts"]}
    wanted = None if chosen is None else set(chosen)
    differences: list[TableDifference] = []
    for part in read.parts:
        if plain_name(part.name) in doubtful:
            continue  # nobody can tell which is which
        old = names.get(plain_name(part.name))
        if old is None:
            item = TableDifference(key=f"add:{part.id}", part=part.name, what="new part", before="", after=_said(part))
            differences.append(item)
            if wanted is None or item.key in wanted:
                _add(raw, design, part, read.rails)
            continue
        for item, change in _differing(old, part, told):
            differences.append(item)
            if wanted is None or item.key in wanted:
                change(by_id[old.id])
    return TableMerged(design=build_design(raw) if differences else design, differences=differences, problems=problems)


def _several(names: Iterable[str]) -> set[str]:
    """Those that stand there more than once."""
    counts = Counter(map(plain_name, names))
    return {name for name, number in counts.items() if number > 1}


def plain_name(name: str) -> str:
    return " ".join(name.lower().split())


def _differing(old: Part, new: Part, told: set[str]) -> list[tuple[TableDifference, Any]]:
    """What a row says otherwise than the part does, with what would change it in the document."""
    found: list[tuple[TableDifference, Any]] = []

    def tell(field: str, what: str, before: str, after: str, value: Any) -> None:
        item = TableDifference(key=f"{old.id}:{field}", part=old.name, what=what, before=before, after=after)
        found.append((item, lambda target: target.__setitem__(field, value)))

    for role, field, unit in (
        ("quantity", "quantity", ""), ("mass", "mass_g", "g"), ("cost", "cost", ""), ("min supply", "supply_min_v", "V"),
        ("max supply", "supply_absolute_max_v", "V"),
    ):  # fmt: skip
        before, after = getattr(old, field), getattr(new, field)
        if role in told and after != before and after is not None:
            tell(field, role, "" if before is None else show(before, unit), show(after, unit), after)
    if "size" in told and new.body is not None and (old.body is None or old.body.size_mm != new.body.size_mm):
        size = new.body.model_dump(mode="json") if old.body is None else None
        item = TableDifference(
            key=f"{old.id}:size", part=old.name, what="size", before=_size(old), after=_size(new)
        )  # a body that is there keeps its place and the rest
        sides = list(new.body.size_mm)
        found.append(
            (
                item,
                lambda target: target.update(
                    body=size if target["body"] is None else {**target["body"], "size_mm": sides}
                ),
            )
        )
    states = {s.name.lower(): s for s in old.states}
    for state in new.states:
        if state.name == FITTED:
            continue
        known = states.get(state.name.lower())
        after = _draws(state)
        if known is not None and _draws(known) == after:
            continue
        item = TableDifference(
            key=f"{old.id}:state:{state.name}",
            part=old.name,
            what=state.name if known is not None else say("table.new-state", state=state.name),
            before="" if known is None else _draws(known),
            after=after,
        )
        found.append((item, _with_state(state.model_dump(mode="json"))))
    return found


def _with_state(state: dict[str, Any]) -> Any:
    def change(target: dict[str, Any]) -> None:
        for known in target["states"]:
            if known["name"].lower() == state["name"].lower():
                known.update(draw=state["draw"], provenance=state["provenance"])
                return
        target["states"].append(state)

    return change


def _draws(state: Any) -> str:
    span, unit = draw_range(state)
    ends = [v for v in (span.min, span.typical, span.max) if v is not None]
    return " / ".join(show(v, unit) for v in ends)


def _size(part: Part) -> str:
    return "" if part.body is None else " × ".join(f"{x:g}" for x in part.body.size_mm) + " mm"


def _said(part: Part) -> str:
    states = ", ".join(f"{s.name} {_draws(s)}" for s in part.states[:4] if s.name != FITTED)
    return (f"{part.quantity} × " if part.quantity > 1 else "") + (states or "draws nothing")


def _add(raw: dict[str, Any], design: Design, part: Part, rails: list[str]) -> None:
    """A new part in every mode: at rest in the mode between uses, at work in the others; on the rail of its rail's name, else on the first."""
    by_name = {plain_name(r.name): r.id for r in design.supply.rails}
    named = next((n for n in rails if slug(n, set()) == part.rail), "")
    rail = by_name.get(plain_name(named)) or (design.supply.rails[0].id if design.supply.rails else part.rail)
    key = slug(part.name, {p["id"] for p in raw["parts"]})
    raw["parts"].append({**part.model_dump(mode="json"), "id": key, "rail": rail})
    for mode in raw["modes"]:
        state = resting_state(part) if mode["id"] == design.day.rest else busy_state(part)
        mode["uses"].append(Use(part=key, state=state).model_dump(mode="json"))
