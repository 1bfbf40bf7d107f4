"""What may change the catalogue, and the catalogue as the core wants it."""

from __future__ import annotations

from datetime import datetime
from functools import lru_cache

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import Count, Max, Q, QuerySet

from common.errors import Refused, not_found
from ember_core import Problem
from ember_core.catalogue import Catalogue, Entry, built_in, own_key, read_entries, read_entry
from ember_core.catalogue.search import search as core_search
from ember_core.imports.charger_list import is_charger_list, read_charger_list
from ember_core.imports.parts_list import read_parts_list

from .models import CatalogueEntry

MOST_OWN = 5000


def visible_to(user: User) -> QuerySet[CatalogueEntry]:
    """The built-in entries and the user's own."""
    return CatalogueEntry.objects.filter(Q(owner=None) | Q(owner=user))


def search(user: User, kind: str | None, text: str) -> list[tuple[CatalogueEntry, Entry]]:
    """Rows and their entries as the core finds them by what was typed."""
    rows = visible_to(user).filter(**({"kind": kind} if kind else {}))
    found = {row.pk: (row, _entry(row.pk, row.document)) for row in rows}
    by_entry = {id(entry): pk for pk, (_, entry) in found.items()}
    return [found[by_entry[id(entry)]] for entry in core_search([entry for _, entry in found.values()], text)]


@lru_cache(maxsize=4096)
def _entry(pk: int, document: str) -> Entry:
    """A stored entry, read once for each of its states."""
    return read_entry(document)


Edition = tuple[int, datetime | None]


def edition(user: User) -> Edition:
    """Tells one state of a user's own entries from another: how many there are, and when one last changed."""
    own = CatalogueEntry.objects.filter(owner=user).aggregate(number=Count("pk"), changed=Max("changed"))
    return own["number"], own["changed"]


def catalogue_for(user: User, known: Edition | None = None) -> Catalogue:
    """What remedies may choose from: the built-in catalogue and the user's own entries, in the edition that is `known`."""
    number, changed = known or edition(user)
    return _catalogue(user.pk, number, changed) if number else built_in()


@lru_cache(maxsize=64)
def _catalogue(user: int, number: int, changed: datetime | None) -> Catalogue:
    """A user's catalogue, read and checked once for each state of their own entries."""
    own = CatalogueEntry.objects.filter(owner=user).values_list("document", flat=True)
    return Catalogue([*built_in().entries, *(read_entry(document) for document in own)])


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


def own(user: User) -> list[Entry]:
    """The user's own entries, in the catalogue's order."""
    rows = CatalogueEntry.objects.filter(owner=user)
    return [read_entry(row.document) for row in rows]


def add_own_list(user: User, raw: bytes) -> list[CatalogueEntry]:
    """The parts or the chargers of a CSV file as the user's own entries."""
    if is_charger_list(raw):
        chargers = read_charger_list(raw)
        return keep_own(user, [Entry(key=own_key(c.name), kind="charger", charger=c) for c in chargers])
    parts = read_parts_list(raw).parts
    return keep_own(user, [Entry(key=own_key(part.id), kind="part", part=part) for part in parts])


def add_own_entries(user: User, raw: bytes) -> list[CatalogueEntry]:
    """The entries of a JSON file as the user's own."""
    return keep_own(user, read_entries(raw))


@transaction.atomic
def keep_own(user: User, entries: list[Entry]) -> list[CatalogueEntry]:
    """Entries as the user's own, all or nothing. One that is there already is replaced, and its edition goes up."""
    rows = {row.key: row for row in CatalogueEntry.objects.filter(owner=user)}
    if len(rows.keys() | {e.key for e in entries}) > MOST_OWN:
        raise Refused(422, "Too many own parts", [Problem("", f"a catalogue holds at most {MOST_OWN} own entries")])
    kept = []
    for entry in entries:
        before = rows.get(entry.key)
        edition = read_entry(before.document).edition + 1 if before else 1
        document = entry.model_copy(update={"edition": edition}).model_dump_json()
        kept.append(
            CatalogueEntry.objects.update_or_create(
                owner=user, key=entry.key, defaults={"kind": entry.kind, "name": entry.name, "document": document}
            )[0]
        )
    return kept


def delete_own(user: User, entry_id: int) -> None:
    deleted, _ = CatalogueEntry.objects.filter(owner=user, pk=entry_id).delete()
    if not deleted:
        raise not_found("entry of yours")
