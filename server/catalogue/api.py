"""Routes of the catalogue."""

from __future__ import annotations

from django.http import HttpRequest
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field

from config.uploads import read_upload
from ember_core.catalogue import Entry, EntryKind
from ember_core.parts_list import LARGEST_BYTES

from . import services
from .models import CatalogueEntry

router = Router(tags=["catalogue"])


class EntryOut(Schema):
    id: int
    own: bool = Field(description="the user's own, and so to be changed by them")
    entry: Entry


def _out(row: CatalogueEntry) -> EntryOut:
    return EntryOut(id=row.pk, own=row.owner_id is not None, entry=Entry.model_validate_json(row.document))


@router.get("/catalogue", response=list[EntryOut])
def read_catalogue(request: HttpRequest, kind: EntryKind | None = None, text: str = "") -> list[EntryOut]:
    return [_out(row) for row in services.search(request.user, kind, text)[:500]]  # type: ignore[arg-type]


@router.post("/catalogue/parts", response=list[EntryOut])
def add_parts(request: HttpRequest, file: File[UploadedFile]) -> list[EntryOut]:
    raw = read_upload(file, LARGEST_BYTES)
    return [_out(row) for row in services.add_own_parts(request.user, raw)]  # type: ignore[arg-type]


@router.delete("/catalogue/{entry_id}", response={204: None})
def delete_entry(request: HttpRequest, entry_id: int) -> tuple[int, None]:
    services.delete_own(request.user, entry_id)  # type: ignore[arg-type]
    return 204, None
