"""Chargers as CSV, in and out, one a row: the same columns both ways.

`name` and `float voltage` are required; whatever else is missing is what a charger has by default. Units stand in the heading
("charge current [mA]") or in the cell; `steps` has several currents with slashes between; `yes` or `no` where it is one of both.
"""

from __future__ import annotations

import csv
import io
import re
from dataclasses import dataclass
from typing import Any

import numpy as np
from pydantic import ValidationError

from ..catalogue import own_key
from ..design import Charger
from ..design.problems import DocumentError, Problem, sentence
from ..quantities import Dimension
from .csv_cells import disarmed
from .tables import Cells, Reader, body, plain, read_rows, read_table, with_unit


@dataclass(frozen=True)
class _Field:
    """A column: its heading, the field of a charger that it fills, its dimension and the unit that it is written in, and that unit's
    size in the field's own."""

    heading: str
    name: str
    dimension: Dimension
    unit: str = ""
    scale: float = 1.0


_FIGURES = (
    _Field("float voltage", "float_v_per_cell", "voltage", "V"),
    _Field("float tolerance", "float_tolerance", "share", "%"),
    _Field("cells in series", "cells_in_series", "count"),
    _Field("charge current", "fixed_a", "current", "A"),
    _Field("program constant", "program_constant_v", "number"),
    _Field("resistor", "program_ohm", "resistance", "Ω"),
    _Field("least resistor", "program_min_ohm", "resistance", "Ω"),
    _Field("most resistor", "program_max_ohm", "resistance", "Ω"),
    _Field("gentle below", "precharge_v_per_cell", "voltage", "V"),
    _Field("gentle share", "precharge_share", "share", "%"),
    _Field("ends at", "termination_share", "share", "%"),
    _Field("begins anew below", "recharge_v_per_cell", "voltage", "V"),
    _Field("timer", "timer_h", "time", "h", 1 / 3600),
    _Field("folds back at", "foldback_c", "temperature", "°C"),
    _Field("port voltage", "port_v", "voltage", "V"),
    _Field("port limit", "port_limit_a", "current", "A"),
    _Field("input stands", "input_max_v", "voltage", "V"),
    _Field("gadget voltage", "system_v", "voltage", "V"),
    _Field("efficiency", "efficiency", "share", "%"),
    _Field("unplugged", "leakage_a", "current", "A"),
    _Field("lamp", "lamp_a", "current", "A"),
    _Field("thermal resistance", "rth_ja_c_per_w", "thermal", "°C/W"),
    _Field("mass", "mass_g", "mass", "g"),
    _Field("cost", "cost", "cost"),
)
_CHOICES = {"ends by": "method", "topology": "topology"}
_YES_NO = {
    "lamp from cell": "lamp_from_cell", "power path": "power_path", "cuts load": "cuts_load", "protects": "protects",
    "balances": "balances", "temperature sensor": "temperature_sensor", "adapts input": "adapts_input", "outside": "outside",
}  # fmt: skip
_YES, _NO = ("yes", "y", "true", "1"), ("no", "n", "false", "0")
_NEVER = {"gentle below": "never", "begins anew below": "never", "timer": "never", "folds back at": "never"}
_BY_HEADING = {x.heading: x for x in _FIGURES}
_ROLES = {"name", "steps", "size", *_BY_HEADING, *_CHOICES, *_YES_NO}


def is_charger_list(raw: bytes) -> bool:
    """Whether the table lists chargers: nothing else has a float voltage. Raises DocumentError where it is no table."""
    return any(plain(heading).startswith("float voltage") for heading in read_rows(raw)[0])


def read_charger_list(raw: bytes) -> list[Charger]:
    """The chargers of an untrusted CSV file. Raises DocumentError with each problem's row and column."""
    reader, rows = read_table(raw, _role)
    unknown = [c.heading for c in reader.columns if c.heading and not c.role]
    if unknown:
        raise DocumentError(
            [Problem("row 1", f"has a column {unknown[0]!r} that is none of " + ", ".join(sorted(_ROLES)))]
        )
    chargers: list[Charger] = []
    for number, row in enumerate(rows, start=2):
        charger = _charger(reader, row, number)
        if charger is not None:
            if own_key(charger.name) in {own_key(x.name) for x in chargers}:
                same = "the letters and digits of its name are those of another one"
                reader.problems.append(Problem(f"row {number}, name", f"{charger.name!r} is there twice: {same}"))
            chargers.append(charger)
    if reader.problems:
        raise DocumentError(reader.problems[:50])
    if not chargers:
        raise DocumentError([Problem("", "has a heading but no chargers")])
    return chargers


def _role(heading: str) -> str:
    return plain(heading) if plain(heading) in _ROLES else ""


def _charger(reader: Reader, row: list[str], number: int) -> Charger | None:
    before = len(reader.problems)
    cells = reader.cells(row, number)
    if cells is None:
        return None
    found: dict[str, Any] = {"name": cells["name"][0][:120]}
    if "float voltage" not in cells:
        reader.problems.append(Problem(f"row {number}", "has no float voltage"))
    for heading, field in _BY_HEADING.items():
        if heading in cells:
            found[field.name] = _figure(reader, cells, field, number)
    for heading, name in _CHOICES.items():
        if heading in cells:
            found[name] = plain(cells[heading][0])
    for heading, name in _YES_NO.items():
        if heading in cells:
            found[name] = _yes(reader, cells, heading, number)
    if "steps" in cells:
        text, column = cells["steps"]
        found["steps_a"] = [reader.quantity(x.strip(), "current", column, number) for x in text.split("/")]
    found["body"] = body(reader, cells, number)
    if len(reader.problems) > before:
        return None
    try:
        return Charger.model_validate(found)
    except ValidationError as error:
        for each in error.errors():
            heading = _heading_of(str(each["loc"][0])) if each["loc"] else ""
            reader.problems.append(Problem(f"row {number}" + (f", {heading}" if heading else ""), sentence(each)))
        return None


def _heading_of(name: str) -> str:
    by_field = {x.name: x.heading for x in _FIGURES} | {v: k for k, v in (_CHOICES | _YES_NO).items()}
    return by_field.get(name, {"steps_a": "steps"}.get(name, name))


def _figure(reader: Reader, cells: Cells, field: _Field, number: int) -> float | None:
    text, column = cells[field.heading]
    if text.lower() == _NEVER.get(field.heading):
        return None
    value = reader.quantity(
        *with_unit((text, column), field.unit if field.unit != "%" else ""), field.dimension, column, number
    )
    if value is None or field.dimension != "count":
        return None if value is None else value * field.scale
    return int(value)


def _yes(reader: Reader, cells: Cells, heading: str, number: int) -> bool:
    text, column = cells[heading]
    if text.lower() not in _YES + _NO:
        reader.problems.append(Problem(f"row {number}, {column.heading}", f"{text!r} is neither yes nor no"))
    return text.lower() in _YES


def write_charger_list(chargers: list[Charger]) -> str:
    """Chargers as a CSV text with the columns that `read_charger_list` reads. Where one is plugged in and the mode in which it charges
    belong to a gadget and are left out."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["name", *_CHOICES, *_BY_HEADING, "steps", *_YES_NO, "size"])
    for charger in chargers:
        size = " x ".join(f"{x:g}" for x in charger.body.size_mm) + " mm" if charger.body else ""
        writer.writerow([
            disarmed(charger.name), *(getattr(charger, name) for name in _CHOICES.values()),
            *(_written(getattr(charger, x.name), x) for x in _FIGURES),
            " / ".join(f"{_digits(x)} A" for x in charger.steps_a),
            *("yes" if getattr(charger, name) else "no" for name in _YES_NO.values()), size,
        ])  # fmt: skip
    return out.getvalue()


def _written(value: float | None, field: _Field) -> str:
    if value is None:
        return _NEVER.get(field.heading, "")
    return f"{_digits(value * (100 if field.unit == '%' else 1))} {field.unit}".strip()


def _digits(value: float) -> str:
    return re.sub(r"\.0$", "", np.format_float_positional(value, 12, fractional=False, trim="-"))
