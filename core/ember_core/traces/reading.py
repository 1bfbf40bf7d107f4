"""A recording from an untrusted CSV file, plain or gzip, read in pieces with limits.

Columns in any order, by commas, semicolons or tabs, points or commas in the figures, with a heading that has their units ("time [s]", "current_mA", "I/A"); time,
current and optionally voltage. Without a heading the column that rises is the time. A unit that is not said is asked for.
"""

from __future__ import annotations

import csv
import gzip
import io
import re
from collections.abc import Mapping
from typing import BinaryIO, NoReturn

import numpy as np
import pyarrow as pa
import pyarrow.csv as arrow_csv

from ..design.problems import DocumentError, Problem
from ..imports.discharge import ALIASES, BEYOND, UNITS
from ..numeric import Array
from ..quantities import unit_in_heading
from ..words import say
from .recording import Recording

MOST_SAMPLES = 30_000_000
MOST_BYTES = 2_000_000_000  # unpacked
MOST_COLUMNS = 64
FEWEST_SAMPLES = 20
HEAD_BYTES = 65_536
BLOCK_BYTES = 4 << 20
LOOKED_AT = 200  # rows, for how figures are written and which column is the time
NUMBER = re.compile(r"^\s*[-+]?(\d+([.,]\d*)?|[.,]\d+)([eE][-+]?\d+)?\s*$")


class UnitAsked(Exception):
    """A column's unit is not said: which column, and what it may be."""

    def __init__(self, column: str) -> None:
        super().__init__(column)
        self.column, self.choices = column, list(UNITS[column])


class _Limited(io.RawIOBase):
    """A stream that gives so much and no more."""

    def __init__(self, head: bytes, source: BinaryIO) -> None:
        self._head, self._source, self._left = head, source, MOST_BYTES

    def readable(self) -> bool:
        return True

    def readinto(self, buffer) -> int:  # type: ignore[no-untyped-def]
        given = self._head[: len(buffer)]
        self._head = self._head[len(given) :]
        if not given:
            given = self._source.read(len(buffer))
        self._left -= len(given)
        if self._left < 0:
            _refuse(say("traces.large", most=(MOST_BYTES / 1e9, "")))
        buffer[: len(given)] = given
        return len(given)


def read_recording(source: BinaryIO, units: Mapping[str, str] | None = None, *, run_down: bool = False) -> Recording:
    """A recorded current; of a `run_down` the voltage has to be there, and the current may be missing (NaN then).
    `units` of the columns time, current and voltage where the file does not say them. Raises DocumentError with what is wrong, UnitAsked where a unit has
    to be said.

    >>> import io
    >>> text = "time (s),current (mA)\\n" + "".join(f"{k / 100},{50 if k % 100 < 5 else 1}\\n" for k in range(2000))
    >>> found = read_recording(io.BytesIO(text.encode()))
    >>> round(found.seconds, 1)
    20.0
    """
    if source.read(2) == b"\x1f\x8b":
        source.seek(0)
        source = gzip.GzipFile(fileobj=source)  # type: ignore[assignment]
    else:
        source.seek(0)
    try:
        head = source.read(HEAD_BYTES)
        form = _form_of(head)
        columns = _columns(form, units or {}, ("time", "voltage") if run_down else ("time", "current"))
        table, dropped = _table(_Limited(head, source), form, columns)
    except (EOFError, gzip.BadGzipFile, OSError) as error:
        _refuse(say("traces.broken", why=str(error)[:100]))
    except pa.ArrowException as error:
        _refuse(say("traces.row", why=str(error).splitlines()[0][:160]))
    return _sound(table, dropped)


class _Form:
    def __init__(
        self, delimiter: str, comma: bool, headings: list[str] | None, skip: int, rows: list[list[str]], encoding: str
    ) -> None:
        self.delimiter, self.comma, self.headings, self.skip, self.rows, self.encoding = (
            delimiter,
            comma,
            headings,
            skip,
            rows,
            encoding,
        )


def _form_of(head: bytes) -> _Form:
    """How a file is written, by its beginning."""
    encoding = "utf-16" if head[:2] in (b"\xff\xfe", b"\xfe\xff") else "utf-8"
    text = head.decode(encoding, "replace").removeprefix("\ufeff")
    lines = text.splitlines()
    if len(head) == HEAD_BYTES:
        lines = lines[:-1]  # it may be cut
    for number, line in enumerate(lines):
        for delimiter in ";\t, ":
            cells = _cells(line, delimiter)
            figures = sum(bool(NUMBER.match(c)) for c in cells)
            if not 2 <= len(cells) <= MOST_COLUMNS or figures < (len(cells) if delimiter == " " else 2):
                continue
            above = next((x for x in reversed(lines[:number]) if x.strip()), None)
            headings = _cells(above, delimiter) if above is not None else None
            if headings is not None and len(headings) != len(cells):
                headings = None
            rows = [_cells(x, delimiter) for x in lines[number : number + LOOKED_AT]]
            comma = any("," in c for r in rows for c in r if NUMBER.match(c))
            return _Form(delimiter, comma, headings, number, rows, encoding)
    _refuse(say("traces.no-rows"))


def _cells(line: str, delimiter: str) -> list[str]:
    try:
        return next(csv.reader([line.strip()], delimiter=delimiter), [])
    except csv.Error:
        return []


def _columns(form: _Form, said: Mapping[str, str], wanted: tuple[str, str]) -> dict[str, tuple[int, float]]:
    """(column, factor to SI) of time, current and voltage; those that are wanted have to be there."""
    found: dict[str, tuple[int, str | None]] = {}
    for k, heading in enumerate(form.headings or []):
        name, unit = unit_in_heading(heading.strip().strip('"'))
        if unit is None and (bare := BEYOND.match(name)):
            name, unit = bare.group(1), bare.group(2)
        role = ALIASES.get(re.sub(r"[\s_]+", " ", name.lower()).strip())
        if role is not None and role not in found:
            known = next((u for u in UNITS[role] if unit and u.lower() == unit.lower().replace("μ", "µ")), None)
            if unit and known is None:
                _refuse(say("traces.unit", unit=unit, column=role, units=", ".join(UNITS[role])))
            found[role] = (k, known)
    if not found:
        found = _by_content(form, wanted[1])
    for role in wanted:
        if role not in found:
            key = "traces.no-voltage" if role == "voltage" else "traces.no-column"
            _refuse(say(key, column=role, headings=", ".join(form.headings or [])[:200]))
    factors = dict[str, tuple[int, float]]()
    for role, (k, written) in found.items():
        unit = written or said.get(role) or ("V" if role == "voltage" else None)
        if unit is None:
            raise UnitAsked(role)
        if unit not in UNITS[role]:
            _refuse(say("traces.unit", unit=unit, column=role, units=", ".join(UNITS[role])))
        factors[role] = (k, UNITS[role][unit])
    return factors


def _by_content(form: _Form, second: str) -> dict[str, tuple[int, str | None]]:
    """Without headings: the first column that always rises is the time, the first other one what is looked for."""
    count = len(form.rows[0])
    rows = [r for r in form.rows if len(r) == count]
    values = [[float(c.replace(",", ".")) if NUMBER.match(c) else np.nan for c in r] for r in rows]
    table = np.array(values, dtype=float)
    rising = [k for k in range(count) if len(rows) > 1 and np.all(np.diff(table[:, k]) > 0)]
    if not rising:
        _refuse(say("traces.no-time"))
    other = next(k for k in range(count) if k != rising[0])
    return {"time": (rising[0], None), second: (other, None)}


def _table(stream: _Limited, form: _Form, columns: Mapping[str, tuple[int, float]]) -> tuple[dict[str, Array], int]:
    """The columns in SI units, and how many rows could not be used."""
    names = [f"c{k}" for k in range(len(form.rows[0]))]
    bad = 0

    def skipped(row: object) -> str:
        nonlocal bad
        bad += 1
        return "skip"

    reader = arrow_csv.open_csv(
        pa.PythonFile(io.BufferedReader(stream, BLOCK_BYTES), mode="r"),
        read_options=arrow_csv.ReadOptions(skip_rows=form.skip, column_names=names, block_size=BLOCK_BYTES, encoding=form.encoding, use_threads=False),
        parse_options=arrow_csv.ParseOptions(delimiter=form.delimiter, invalid_row_handler=skipped),
        convert_options=arrow_csv.ConvertOptions(
            include_columns=[names[k] for k, _ in columns.values()],
            column_types={names[k]: pa.float64() for k, _ in columns.values()},
            decimal_point="," if form.comma else ".",
            null_values=["", "nan", "NaN", "NAN", "-", "null", "inf", "-inf", "Inf", "OVLD", "OL"],
            strings_can_be_null=True,
        ),
    )  # fmt: skip
    pieces: dict[str, list[Array]] = {role: [] for role in columns}
    rows = 0
    for batch in reader:
        rows += batch.num_rows
        if rows > MOST_SAMPLES:
            _refuse(say("traces.many", most=(MOST_SAMPLES / 1e6, "")))
        for role, (k, factor) in columns.items():
            values = batch.column(names[k]).to_numpy(zero_copy_only=False).astype(np.float64)
            pieces[role].append(values * factor)
    return {role: np.concatenate(found) if found else np.empty(0) for role, found in pieces.items()}, bad


def _sound(table: dict[str, Array], bad: int) -> Recording:
    """Without what is no number and what goes back in time."""
    time = table["time"]
    amps = table.get("current", np.zeros_like(time))
    if "current" not in table:
        amps = np.where(np.isfinite(table["voltage"]), 0.0, np.nan)
    good = np.isfinite(time) & np.isfinite(amps)
    ahead = np.maximum.accumulate(np.where(good, time, -np.inf))
    good &= np.concatenate([[True], time[1:] > ahead[:-1]]) if time.size else good
    count = int(good.sum())
    if count < FEWEST_SAMPLES:
        _refuse(say("traces.few", count=(count, ""), fewest=(FEWEST_SAMPLES, "")))
    dropped = bad + int(time.size) - count
    if dropped > 0.2 * (count + dropped):
        _refuse(say("traces.back", dropped=(dropped, ""), count=(count + dropped, "")))
    time, amps = time[good] - time[good][0], amps[good]
    turned = float(np.median(amps)) < 0 and float(np.mean(amps)) < 0
    volts = table["voltage"][good] if "voltage" in table and np.isfinite(table["voltage"][good]).all() else None
    if "current" not in table:
        amps = np.full_like(amps, np.nan)
    return Recording(time, -amps if turned else amps, volts, dropped, turned)


def _refuse(message: str) -> NoReturn:
    raise DocumentError([Problem("", message)])
