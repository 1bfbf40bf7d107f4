"""Routes of the catalogue."""

from __future__ import annotations

from django.http import HttpResponse
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field

from common.requests import SignedIn
from common.uploads import read_upload
from ember_core.catalogue import Entry, EntryKind, read_entry
from ember_core.design.problems import LARGEST_DOCUMENT
from ember_core.imports.charger_list import write_charger_list
from ember_core.imports.parts_list import write_parts_list
from ember_core.imports.tables import LARGEST_BYTES
from ember_core.terms import Term, terms

from . import services
from .models import CatalogueEntry

MOST_ANSWERED = 500

router = Router(tags=["catalogue"])


@router.get("/terms", response=list[Term])
def list_terms(request: SignedIn) -> list[Term]:
    """The field's words explained."""
    return list(terms())


class EntryOut(Schema):
    id: int
    own: bool = Field(description="the user's own, and so to be changed by them")
    entry: Entry


def _out(row: CatalogueEntry) -> EntryOut:
    return EntryOut(id=row.pk, own=row.owner_id is not None, entry=read_entry(row.document))


@router.get("/catalogue", response=list[EntryOut])
def read_catalogue(request: SignedIn, kind: EntryKind | None = None, text: str = "") -> list[EntryOut]:
    """The entries that a typed text means, the likeliest first."""
    found = services.search(request.user, kind, text)[:MOST_ANSWERED]
    return [EntryOut(id=row.pk, own=row.owner_id is not None, entry=entry) for row, entry in found]


@router.post("/catalogue/lists", response=list[EntryOut])
def add_list(request: SignedIn, file: File[UploadedFile]) -> list[EntryOut]:
    """Own parts or chargers from a CSV file; its headings tell which."""
    raw = read_upload(file, LARGEST_BYTES)
    return [_out(row) for row in services.add_own_list(request.user, raw)]


@router.post("/catalogue/entries", response=list[EntryOut])
def add_entries(request: SignedIn, file: File[UploadedFile]) -> list[EntryOut]:
    """Own entries from a JSON file as it is exported."""
    raw = read_upload(file, LARGEST_DOCUMENT)
    return [_out(row) for row in services.add_own_entries(request.user, raw)]


@router.put("/catalogue/own", response=EntryOut)
def keep_entry(request: SignedIn, entry: Entry) -> EntryOut:
    """One entry as the user's own; where it is there already its edition goes up."""
    return _out(services.keep_own(request.user, [entry])[0])


@router.get("/catalogue/own.json", response=list[Entry])
def export_entries(request: SignedIn, response: HttpResponse) -> list[Entry]:
    response["Content-Disposition"] = 'attachment; filename="own-catalogue.json"'
    return services.own(request.user)


@router.get("/catalogue/own-parts.csv", response={200: None})
def export_parts(request: SignedIn) -> HttpResponse:
    parts = [e.part for e in services.own(request.user) if e.part]
    return _csv("own-parts.csv", write_parts_list(parts, {}))


@router.get("/catalogue/own-chargers.csv", response={200: None})
def export_chargers(request: SignedIn) -> HttpResponse:
    chargers = [e.charger for e in services.own(request.user) if e.charger]
    return _csv("own-chargers.csv", write_charger_list(chargers))


def _csv(name: str, text: str) -> HttpResponse:
    response = HttpResponse(text, content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


@router.delete("/catalogue/{entry_id}", response={204: None})
def delete_entry(request: SignedIn, entry_id: int) -> tuple[int, None]:
    services.delete_own(request.user, entry_id)
    return 204, None
