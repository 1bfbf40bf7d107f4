"""What may change the catalogue, and the catalogue as the core wants it."""

from __future__ import annotations

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import Q, QuerySet

from config.errors import Refused, not_found
from ember_core import Problem
from ember_core.catalogue import Catalogue, Entry, built_in
from ember_core.parts_list import read_parts_list

from .models import CatalogueEntry

MOST_OWN = 5000


def visible_to(user: User) -> QuerySet[CatalogueEntry]:
    """The built-in entries and the user's own."""
    return CatalogueEntry.objects.filter(Q(owner=None) | Q(owner=user))


def search(user: User, kind: str | None, text: str) -> QuerySet[CatalogueEntry]:
    found = visible_to(user)
    if kind:
        found = found.filter(kind=kind)
    for word in text.split()[:6]:
        found = found.filter(name__icontains=word)
    return found


def catalogue_for(user: User) -> Catalogue:
    """What remedies may choose from: the built-in catalogue and the user's own entries."""
    own = CatalogueEntry.objects.filter(owner=user).values_list("document", flat=True)
    extra = [Entry.model_validate_json(document) for document in own]
    return Catalogue([*built_in().entries, *extra]) if extra else built_in()


@transaction.atomic
def load_built_in() -> int:
    """Brings the built-in rows in line with the core's catalogue. Returns how many rows changed."""
    rows = {row.key: row for row in CatalogueEntry.objects.filter(owner=None)}
    changed = 0
    for entry in built_in().entries:
        document = entry.model_dump_json()
        row = rows.pop(entry.key, None)
        if row is None or row.document != document:
            CatalogueEntry.objects.update_or_create(
                owner=None, key=entry.key, defaults={"kind": entry.kind, "name": entry.name, "document": document}
            )
            changed += 1
    for row in rows.values():
        row.delete()
        changed += 1
    return changed


@transaction.atomic
def add_own_parts(user: User, raw: bytes) -> list[CatalogueEntry]:
    """The parts of a CSV file as the user's own entries; same names are replaced. All or nothing."""
    listed = read_parts_list(raw)
    entries = [Entry(key=f"own-{part.id}"[:60], kind="part", part=part) for part in listed.parts]
    others = CatalogueEntry.objects.filter(owner=user).exclude(key__in=[e.key for e in entries]).count()
    if others + len(entries) > MOST_OWN:
        raise Refused(422, "Too many own parts", [Problem("", f"a catalogue holds at most {MOST_OWN} own parts")])
    return [
        CatalogueEntry.objects.update_or_create(
            owner=user, key=e.key, defaults={"kind": e.kind, "name": e.name, "document": e.model_dump_json()}
        )[0]
        for e in entries
    ]


def delete_own(user: User, entry_id: int) -> None:
    deleted, _ = CatalogueEntry.objects.filter(owner=user, pk=entry_id).delete()
    if not deleted:
        raise not_found("entry of yours")
