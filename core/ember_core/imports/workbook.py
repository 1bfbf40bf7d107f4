"""Sheets of an untrusted workbook or text file as rows of text: XLSX, XLS, XLSB, ODS by python-calamine; text with commas, semicolons,
tabs or bars between its cells.

Figures are those that the file keeps: nothing is reckoned anew, no macro is run, no link is followed. Meant for a process of its own
(`workbook_process`): a sheet may claim more room than there is.
"""

from __future__ import annotations

import csv
import io
import zipfile
from datetime import date, datetime, time, timedelta
from itertools import islice
from typing import Any

from ..design.problems import DocumentError, Problem
from ..figures import record
from .csv_cells import rearmed

LARGEST_BYTES = 8_000_000
LARGEST_UNPACKED = 60_000_000
MOST_ENTRIES = 2000  # in a workbook's archive
MOST_SHEETS, MOST_ROWS, MOST_COLUMNS, LONGEST_CELL = 40, 5000, 60, 400
_OLD = b"\xd0\xcf\x11\xe0"
_SEPARATORS = "\t;,|"


@record
class Sheet:
    """Rows from its first filled one on, as they stand, empty ones between; `first_row` counts from 1. `cut`: there is more of it."""

    name: str
    hidden: bool
    first_row: int
    rows: list[list[str]]
    cut: bool


def read_sheets(raw: bytes) -> list[Sheet]:
    """The filled sheets of a file. Raises DocumentError, with a sentence, where it is none that can be read."""
    if len(raw) > LARGEST_BYTES:
        raise _wrong(f"is {len(raw) / 1e6:.1f} MB; at most {LARGEST_BYTES / 1e6:.0f} MB are read")
    if raw.startswith(b"PK"):
        _look_into(raw)
    sheets = _workbook(raw) if is_workbook(raw) else [_sheet("", False, _text_rows(raw))]
    filled = [s for s in sheets if s.rows]
    if not filled:
        raise _wrong("is empty: no sheet has a filled cell")
    return filled


def is_workbook(raw: bytes) -> bool:
    """Whether it begins as a workbook does; else it is taken for text."""
    return raw.startswith((b"PK", _OLD))


def _wrong(message: str) -> DocumentError:
    return DocumentError([Problem("", message)])


def _look_into(raw: bytes) -> None:
    """Refuses an archive that unpacks to too much, or holds a document type, before anything else opens it."""
    try:
        with zipfile.ZipFile(io.BytesIO(raw)) as archive:
            entries = archive.infolist()
            if len(entries) > MOST_ENTRIES:
                raise _wrong(f"holds {len(entries)} files; at most {MOST_ENTRIES} are read")
            left = LARGEST_UNPACKED
            for entry in entries:
                with archive.open(entry) as stream:
                    head = stream.read(4096)
                    if entry.filename.endswith((".xml", ".rels")) and _has_doctype(head):
                        raise _wrong(
                            "declares a document type (DOCTYPE), which a workbook does not need; it is not read"
                        )
                    left -= len(head)
                    while left >= 0 and (piece := stream.read(1 << 20)):
                        left -= len(piece)
                if left < 0:
                    raise _wrong(f"unpacks to more than {LARGEST_UNPACKED / 1e6:.0f} MB; it is not read")
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, OSError, zipfile.LargeZipFile) as error:
        raise _wrong(f"is a damaged or locked workbook ({str(error)[:80]})") from None
    except (ValueError, KeyError) as error:
        raise _wrong(f"is no workbook ({str(error)[:80]})") from None


def _has_doctype(head: bytes) -> bool:
    return b"<!doctype" in head.replace(b"\0", b"").lower()


def _workbook(raw: bytes) -> list[Sheet]:
    from python_calamine import CalamineError, CalamineWorkbook, SheetTypeEnum, SheetVisibleEnum

    try:
        book = CalamineWorkbook.from_filelike(io.BytesIO(raw))
        metadata = [m for m in book.sheets_metadata if m.typ == SheetTypeEnum.WorkSheet][:MOST_SHEETS]
        found = []
        for meta in metadata:
            sheet = book.get_sheet_by_name(meta.name)
            rows = list[list[Any]]()
            for row in sheet.iter_rows():
                rows.append(row)
                if len(rows) > MOST_ROWS + (sheet.start[0] if sheet.start else 0):
                    break
            merged = getattr(sheet, "merged_cell_ranges", None) or []
            found.append(_sheet(meta.name, meta.visible != SheetVisibleEnum.Visible, _unmerged(rows, merged)))
        return found
    except CalamineError as error:
        raise _wrong(f"can't be read as a workbook: {str(error)[:120]}") from None


def _unmerged(rows: list[list[Any]], merged: list[tuple[tuple[int, int], tuple[int, int]]]) -> list[list[Any]]:
    """What stands over several rows stands in each of them; over several columns it stands in the first."""
    for (top, left), (bottom, _) in merged[:2000]:
        if bottom > top and top < len(rows) and left < len(rows[top]):
            for row in rows[top + 1 : bottom + 1]:
                if left < len(row) and row[left] in ("", None):
                    row[left] = rows[top][left]
    return rows


def _sheet(name: str, hidden: bool, rows: list[list[Any]]) -> Sheet:
    texts = [[_text(c) for c in row[:MOST_COLUMNS]] for row in rows[: MOST_ROWS + 1]]
    while texts and not any(texts[-1]):
        texts.pop()
    first = next((i for i, row in enumerate(texts) if any(row)), 0)
    cut = len(rows) > MOST_ROWS or any(len(row) > MOST_COLUMNS and any(row[MOST_COLUMNS:]) for row in rows[:MOST_ROWS])
    return Sheet(name=name[:80], hidden=hidden, first_row=first + 1, rows=texts[first:MOST_ROWS], cut=cut)


def _text(cell: Any) -> str:
    if cell is None or cell == "":
        return ""
    if isinstance(cell, bool):
        return "yes" if cell else "no"
    if isinstance(cell, float):
        return f"{cell:.12g}"
    if isinstance(cell, datetime | date | time):
        return cell.isoformat(sep=" ") if isinstance(cell, datetime) else cell.isoformat()
    if isinstance(cell, timedelta):
        return f"{cell.total_seconds():g} s"
    return " ".join(str(cell).replace("\0", "").split())[:LONGEST_CELL]


def _text_rows(raw: bytes) -> list[list[str]]:
    text = _decoded(raw)
    tables = {mark: _split(text, mark) for mark in _SEPARATORS}
    # the separator that cuts most rows into equally many cells, more than one
    best = max(_SEPARATORS, key=lambda mark: (_even(tables[mark]), -_SEPARATORS.index(mark)))
    rows = [[rearmed(c.strip()) for c in row] for row in tables[best]]
    if best == "|":  # bars also before and behind, and a rule of dashes below the heading
        rows = [r[1:] if r and not r[0] else r for r in rows]
        rows = [r[:-1] if r and not r[-1] else r for r in rows]
        rows = [r for r in rows if not (r and all(c and set(c) <= set(":- ") for c in r))]
    return rows


def _split(text: str, mark: str) -> list[list[str]]:
    try:
        return list(islice(csv.reader(io.StringIO(text), delimiter=mark), 2 * MOST_ROWS))
    except csv.Error as error:
        raise _wrong(f"can't be read as rows and cells: {error}") from None


def _even(rows: list[list[str]]) -> int:
    lengths = [len(r) for r in rows[:200] if len(r) > 1]
    return max((lengths.count(n) for n in set(lengths)), default=0)


def _decoded(raw: bytes) -> str:
    code = "utf-16" if raw.startswith((b"\xff\xfe", b"\xfe\xff")) else "utf-8-sig"
    try:
        text = raw.decode(code)
    except UnicodeDecodeError:
        if b"\0" in raw:
            raise _wrong("is neither a workbook nor text") from None
        text = raw.decode("cp1252", errors="replace")
    if "\0" in text:
        raise _wrong("is neither a workbook nor text")
    return text
