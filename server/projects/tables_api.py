"""From what people have: a workbook or a pasted table becomes the parts of a new gadget, or joins one that is there."""

from __future__ import annotations

from ninja import File, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field

from common.requests import SignedIn
from common.uploads import read_upload
from ember_core import DocumentError, Problem
from ember_core.imports.parts_table import PartsRead, PartsTable, TableMerged, merge_parts, read_parts_table
from ember_core.imports.recognise import Table
from ember_core.imports.workbook import LARGEST_BYTES

from . import services
from .api import _project, _read
from .schemas import Document, Named, ProjectOut
from .tables import LARGEST_TEXT, read_tables, remember

router = Router(tags=["tables"])


class Pasted(Schema):
    text: str = Field("", max_length=LARGEST_TEXT)


class FromTable(Named):
    table: PartsTable


class Merge(Schema):
    design: Document
    table: PartsTable
    chosen: list[str] | None = Field(
        None, max_length=20_000, description="keys of the differences wanted; null: all, to look at"
    )


@router.post("/tables/read", response=list[Table])
def read_file(request: SignedIn, file: File[UploadedFile]) -> list[Table]:
    """The tables in a workbook (XLSX, XLS, XLSB, ODS) or a text (CSV, TSV), each column with what it is taken for."""
    return read_tables(request.user, read_upload(file, LARGEST_BYTES))


@router.post("/tables/pasted", response=list[Table])
def read_pasted(request: SignedIn, body: Pasted) -> list[Table]:
    """The same of a table that was pasted."""
    if not body.text.strip():
        raise DocumentError([Problem("/text", "is empty; paste the table with its headings")])
    return read_tables(request.user, body.text.encode())


@router.post("/tables/parts", response=PartsRead)
def read_parts(request: SignedIn, table: PartsTable) -> PartsRead:
    """The parts that a table comes to, and what of it can't be read. Nothing is stored."""
    return read_parts_table(table)


@router.post("/tables/merge", response=TableMerged)
def merge(request: SignedIn, body: Merge) -> TableMerged:
    """A design with the parts of a table: what would change, and the design with what was chosen of it. Nothing of it is stored."""
    merged = merge_parts(_read(body.design), body.table, body.chosen)
    if body.chosen is not None:
        remember(request.user, body.table)
    return merged


@router.post("/projects/from-table", response=ProjectOut)
def create_from_table(request: SignedIn, body: FromTable) -> ProjectOut:
    project = services.create_from_table(request.user, body.name, body.table)
    remember(request.user, body.table)
    return _project(request, project)
