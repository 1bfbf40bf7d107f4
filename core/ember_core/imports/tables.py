"""Rows and columns of an untrusted CSV file: separated by commas, semicolons or tabs, with units in the heading or in the cells."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Callable
from dataclasses import dataclass, field

from ..design import Body
from ..design.problems import DocumentError, Problem
from ..quantities import Dimension, QuantityError, parse_quantity, unit_in_heading
from .csv_cells import rearmed

LARGEST_BYTES = 1_000_000
MOST_ROWS = 1000
MOST_COLUMNS = 40


@dataclass
class Column:
    """`role` is what the column is read as; empty: nothing."""

    role: str
    unit: str | None
    heading: str


Cells = dict[str, tuple[str, Column]]


@dataclass
class Reader:
    """A table while it is being read; what is wrong with it is gathered with row and column."""

    columns: list[Column]
    problems: list[Problem] = field(default_factory=list)

    def cells(self, row: list[str], number: int) -> Cells | None:
        """The filled cells of a row by their roles; None, and a problem, where the row is no row of this table."""
        if len(row) > len(self.columns):
            found = f"has {len(row)} cells, the heading {len(self.columns)}; quote decimal commas"
            self.problems.append(Problem(f"row {number}", found))
            return None
        cells = {c.role: (text, c) for c, text in zip(self.columns, row, strict=False) if text and c.role}
        if "name" not in cells:
            self.problems.append(Problem(f"row {number}", "has no name"))
            return None
        return cells

    def quantity(self, text: str, dimension: Dimension, column: Column, row: int) -> float | None:
        """A cell's figure in SI; None, and a problem, where it can't be read."""
        try:
            return parse_quantity(text, dimension, default_unit=column.unit, from_file=True)
        except QuantityError as error:
            self.problems.append(Problem(f"row {row}, {column.heading}", str(error)))
            return None


def read_table(raw: bytes, role_of: Callable[[str], str]) -> tuple[Reader, list[list[str]]]:
    """The columns and the rows of an untrusted CSV file; `role_of` tells what a heading without its unit stands for. Raises
    DocumentError."""
    headings, *rows = read_rows(raw)
    columns = []
    for heading in headings:
        name, unit = unit_in_heading(heading)
        columns.append(Column(role_of(name), unit, heading))
    roles = [c.role for c in columns if c.role]
    if "name" not in roles:
        raise DocumentError([Problem("row 1", "has no column 'name'; headings found: " + ", ".join(headings)[:200])])
    for column in columns:
        if roles.count(column.role) > 1:
            raise DocumentError([Problem("row 1", f"has the column {column.heading!r} twice")])
    return Reader(columns), rows


def plain(heading: str) -> str:
    """A heading as it is looked up: small letters, single spaces."""
    return re.sub(r"[\s_]+", " ", heading.lower()).strip()


def read_rows(raw: bytes) -> list[list[str]]:
    """The cells of an untrusted CSV file, empty rows left out. Raises DocumentError."""
    if len(raw) > LARGEST_BYTES:
        raise DocumentError([Problem("", f"is {len(raw) / 1e6:.1f} MB; at most {LARGEST_BYTES / 1e6:.0f} MB are read")])
    try:
        text = raw.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise DocumentError(
            [Problem("", f"is not UTF-8 text (byte {error.start + 1}); save it as CSV with UTF-8 encoding")]
        ) from None
    if "\0" in text:
        raise DocumentError([Problem("", "is not text: it contains zero bytes")])
    heading = text.lstrip().split("\n", 1)[0]
    delimiter = max(";\t,", key=lambda d: (heading.count(d), d == ","))
    try:
        rows = [[rearmed(c.strip()) for c in row] for row in csv.reader(io.StringIO(text), delimiter=delimiter)]
    except csv.Error as error:
        raise DocumentError([Problem("", f"is not CSV: {error}")]) from None
    rows = [row for row in rows if any(row)]
    if not rows:
        raise DocumentError([Problem("", "is empty")])
    if len(rows) - 1 > MOST_ROWS:
        raise DocumentError([Problem("", f"has {len(rows) - 1} rows; at most {MOST_ROWS} are read")])
    if len(rows[0]) > MOST_COLUMNS:
        raise DocumentError([Problem("row 1", f"has {len(rows[0])} columns; at most {MOST_COLUMNS} are read")])
    return rows


def body(reader: Reader, cells: Cells, number: int) -> Body | None:
    """The room that the column `size` says it takes."""
    if "size" not in cells:
        return None
    text, column = cells["size"]
    match = re.fullmatch(r"([\d.,]+)\s*[x×*]\s*([\d.,]+)\s*[x×*]\s*([\d.,]+)\s*([a-zA-Zµ]*)", text)
    if not match:
        reader.problems.append(
            Problem(f"row {number}, size", f"{text!r} is not a size; write it like '18 x 25.5 x 3 mm'")
        )
        return None
    unit = match.group(4) or column.unit or "mm"
    sides = [reader.quantity(f"{side} {unit}", "length", column, number) for side in match.groups()[:3]]
    if any(s is None or s <= 0 for s in sides):
        if not any(s is None for s in sides):
            reader.problems.append(Problem(f"row {number}, size", f"{text!r} has a side of no length"))
        return None
    x, y, z = (s for s in sides if s is not None)
    return Body(size_mm=(x, y, z))


def with_unit(cell: tuple[str, Column], unit: str) -> tuple[str]:
    """Masses, costs and voltages may come without a unit: grams, the brief's currency, volts."""
    text, column = cell
    bare = column.unit is None and re.fullmatch(r"[\d.,\s]+", text)
    return (f"{text} {unit}".strip() if bare else text,)
