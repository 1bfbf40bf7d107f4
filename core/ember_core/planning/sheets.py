"""A table as CSV, XLSX and ODS. Texts stay texts: no cell is a formula, whatever it begins with."""

from __future__ import annotations

import csv
import io

from odf.opendocument import OpenDocumentSpreadsheet
from odf.table import Table, TableCell, TableRow
from odf.text import P
from xlsxwriter import Workbook

from ..imports.csv_cells import disarmed

Rows = list[list[str | float]]


def as_csv(rows: Rows) -> bytes:
    """Rows as a file of comma-separated values that a spreadsheet opens, no cell a formula.

    >>> as_csv([["part", "count"], ["Chip", 2]])
    b'part,count\\r\\nChip,2\\r\\n'
    """
    stream = io.StringIO()
    csv.writer(stream).writerows([[disarmed(c) if isinstance(c, str) else f"{c:g}" for c in row] for row in rows])
    return stream.getvalue().encode("utf-8")


def as_xlsx(rows: Rows, title: str) -> bytes:
    """Rows as a workbook of one sheet.

    >>> as_xlsx([["part", "count"], ["Chip", 2]], "Bill")[:2]
    b'PK'
    """
    out = io.BytesIO()
    book = Workbook(out, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False})
    sheet = book.add_worksheet(_sheet_name(title))
    bold = book.add_format({"bold": True})
    for i, row in enumerate(rows):
        for k, cell in enumerate(row):
            if isinstance(cell, str):
                sheet.write_string(i, k, cell, bold if i == 0 else None)
            else:
                sheet.write_number(i, k, cell)
    sheet.set_column(0, 0, 44)
    sheet.set_column(1, len(rows[0]) - 1, 14)
    sheet.freeze_panes(1, 1)
    book.close()
    return out.getvalue()


def as_ods(rows: Rows, title: str) -> bytes:
    """Rows as an open document of one sheet.

    >>> as_ods([["part", "count"], ["Chip", 2]], "Bill")[:2]
    b'PK'
    """
    book = OpenDocumentSpreadsheet()
    table = Table(name=_sheet_name(title))
    for row in rows:
        line = TableRow()
        for cell in row:
            if isinstance(cell, str):
                placed = TableCell(valuetype="string")
                placed.addElement(P(text=cell))
            else:
                placed = TableCell(valuetype="float", value=repr(float(cell)))
            line.addElement(placed)
        table.addElement(line)
    book.spreadsheet.addElement(table)
    out = io.BytesIO()
    book.write(out)
    return out.getvalue()


def _sheet_name(title: str) -> str:
    """As a sheet may be named: at most 31 signs, none of a few."""
    return "".join(c for c in title if c not in "[]:*?/\\'")[:31].strip() or "Bill"
