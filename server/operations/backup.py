"""All that people made, as one file: a ZIP of JSON that can be read without this application.

    manifest.json       format, when and by which tables it was made, how many of what, the digest of the data
    data.jsonl          one row of a table a line: people, own catalogue entries, gadgets, variants, revisions
    design.schema.json  the JSON Schema of the design documents inside
    README.txt          the same in words

Sessions are left out: after a restore everybody signs in again.
"""

from __future__ import annotations

import hashlib
import json
import os
import zipfile
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from django.contrib.auth.models import User
from django.contrib.sessions.models import Session
from django.core import serializers
from django.db import DatabaseError, connection, models, transaction
from django.db.migrations.loader import MigrationLoader

from accounts.models import Attempt
from blobs.models import Blob, Holding, Piece, Upload
from catalogue.models import CatalogueEntry
from catalogue.services import load_built_in
from ember_core import Design
from ember_core.design.problems import LARGEST_DOCUMENT
from instruments.models import Instrument
from notes.models import Note
from projects.models import (
    DrawerItem,
    KnownHeading,
    Member,
    Plan,
    Project,
    Reading,
    Revision,
    SharedLink,
    Trace,
    TracePiece,
    Variant,
)

FORMAT = "frugal-ember-backup/1"
APPS = ("auth", "accounts", "blobs", "catalogue", "instruments", "notes", "projects")
LARGEST_MANIFEST, LARGEST_DATA = 1_000_000, 1_000_000_000_000  # bytes when unpacked; read line by line
# bytes of one row: a document as text in JSON doubles its quotes, and an evaluation lies beside it
LARGEST_LINE = 2 * LARGEST_DOCUMENT + 32_000_000
README = """A backup of Frugal Ember. Put it back with './ember restore FILE'.
data.jsonl holds one row a line; "fields.document" of a projects.revision is a design document as design.schema.json
describes it. The file holds the hashes of passwords: keep it private.
"""


class BackupError(Exception):
    """A backup that can't be made or read, in a sentence."""


def _tables() -> list[tuple[type[models.Model], models.QuerySet[Any]]]:
    """What is kept, in an order in which it can be read; the built-in catalogue comes with the application."""
    return [(User, User.objects.all()), (CatalogueEntry, CatalogueEntry.objects.exclude(owner=None)),
            (Project, Project.objects.all()), (Variant, Variant.objects.all()), (Revision, Revision.objects.defer(None)),
            (KnownHeading, KnownHeading.objects.all()), (Reading, Reading.objects.all()), (Trace, Trace.objects.all()), (TracePiece, TracePiece.objects.all()),
            (Member, Member.objects.all()), (SharedLink, SharedLink.objects.all()), (DrawerItem, DrawerItem.objects.all()), (Instrument, Instrument.objects.all()),
            (Plan, Plan.objects.all()),
            (Blob, Blob.objects.all()), (Piece, Piece.objects.filter(upload=None)), (Holding, Holding.objects.all()), (Note, Note.objects.all())]  # fmt: skip


def _migrations() -> list[str]:
    """The migrations that this version of the application knows."""
    known = MigrationLoader(connection).disk_migrations or {}
    return sorted(f"{app}.{name}" for app, name in known if app in APPS)


def _rows() -> Iterator[tuple[str, str]]:
    for model, rows in _tables():
        for row in rows.order_by("pk").iterator(chunk_size=200):
            yield (
                model._meta.label_lower,
                json.dumps(
                    serializers.serialize("python", [row])[0],
                    default=datetime.isoformat,
                    ensure_ascii=False,
                    separators=(",", ":"),
                ),
            )


def back_up(path: Path) -> dict[str, int]:
    """Writes everything as of one moment, and reads it back. Returns how many rows of each table. Raises BackupError, OSError."""
    if path.exists():
        raise BackupError(f"{path} is there already; choose another name")
    fresh = path.with_name(path.name + ".part")
    counts: dict[str, int] = {}
    digest = hashlib.sha256()
    connection.close()
    with connection.cursor() as cursor:
        cursor.execute("SET SESSION TRANSACTION ISOLATION LEVEL REPEATABLE READ")
    try:
        descriptor = os.open(fresh, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
        with (
            os.fdopen(descriptor, "wb") as stream,
            zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive,
            transaction.atomic(),
        ):
            with archive.open("data.jsonl", "w", force_zip64=True) as data:
                for label, line in _rows():
                    counts[label] = counts.get(label, 0) + 1
                    raw = line.encode() + b"\n"
                    if len(raw) > LARGEST_LINE:
                        raise BackupError(f"a row of {label} has {len(raw) / 1e6:.0f} MB, more than a restore reads")
                    digest.update(raw)
                    data.write(raw)
            manifest = {"format": FORMAT, "made": datetime.now(UTC).isoformat(timespec="seconds"),
                        "migrations": _migrations(), "rows": counts, "sha256": digest.hexdigest()}  # fmt: skip
            archive.writestr("manifest.json", json.dumps(manifest, indent=1))
            archive.writestr("design.schema.json", json.dumps(Design.model_json_schema(), indent=1))
            archive.writestr("README.txt", README)
        if verify(fresh) != counts:
            raise BackupError("what was written does not read back as it was; the disk may be at fault")
        fresh.replace(path)
    finally:
        fresh.unlink(missing_ok=True)
        connection.close()  # with its isolation level
    return counts


def verify(path: Path) -> dict[str, int]:
    """Reads a backup as a restore does, without storing anything. Returns how many rows of each table it holds. Raises BackupError, OSError."""
    try:
        with zipfile.ZipFile(path) as archive:
            return _read(archive, _manifest(archive), lambda row, line: None)
    except (zipfile.BadZipFile, zipfile.LargeZipFile, EOFError, NotImplementedError) as error:
        raise BackupError(f"{path} is not a backup, or was damaged ({error})") from None


def restore(path: Path) -> dict[str, int]:
    """Puts back what a backup holds in place of everything that is there, all or nothing. Returns how many rows of each
    table. Raises BackupError, OSError."""
    try:
        with zipfile.ZipFile(path) as archive:
            manifest = _manifest(archive)
            with transaction.atomic(), connection.constraint_checks_disabled():
                counts = _replace(archive, manifest)
                try:
                    connection.check_constraints()  # before anything of it counts
                except DatabaseError as error:
                    raise BackupError(f"the backup's rows do not fit together ({str(error)[:200]})") from None
    except (zipfile.BadZipFile, zipfile.LargeZipFile, EOFError, NotImplementedError) as error:
        raise BackupError(f"{path} is not a backup, or was damaged ({error})") from None
    return counts


def _manifest(archive: zipfile.ZipFile) -> dict[str, Any]:
    if not {"manifest.json", "data.jsonl"} <= set(archive.namelist()):
        raise BackupError("the file is not a backup: a ZIP with manifest.json and data.jsonl was expected")
    if archive.getinfo("manifest.json").file_size > LARGEST_MANIFEST:
        raise BackupError("the backup's manifest is too large")
    if archive.getinfo("data.jsonl").file_size > LARGEST_DATA:
        raise BackupError(f"the backup unpacks to more than {LARGEST_DATA / 1e9:.0f} GB")
    try:
        manifest = json.loads(archive.read("manifest.json"))
        made_with, found = set(manifest["migrations"]), manifest["format"]
    except (ValueError, KeyError, TypeError, RecursionError):
        raise BackupError("the backup's manifest can't be read") from None
    if found != FORMAT:
        raise BackupError(f"the backup has the format {str(found)[:40]!r}; this application reads {FORMAT!r}")
    if unknown := made_with - set(_migrations()):
        raise BackupError(f"the backup was made by a newer application ({', '.join(sorted(map(str, unknown)))[:200]})")
    whole: dict[str, Any] = manifest
    return whole


def _replace(archive: zipfile.ZipFile, manifest: dict[str, Any]) -> dict[str, int]:
    Variant.objects.update(head=None, baseline=None)
    Revision.objects.update(parent=None)
    for model in (Holding, Piece, Upload, Blob, Reading, Revision, Variant, Project, CatalogueEntry, User):
        model.objects.all().delete()
    Session.objects.all().delete()
    Attempt.objects.all().delete()
    counts = _read(archive, manifest, _store)
    load_built_in()
    return counts


def _read(
    archive: zipfile.ZipFile, manifest: dict[str, Any], work: Callable[[dict[str, Any], int], None]
) -> dict[str, int]:
    """Works through the rows, with their line. Returns how many of each table, which have to be those of the manifest."""
    allowed = {model._meta.label_lower for model, _ in _tables()}
    counts: dict[str, int] = {}
    digest = hashlib.sha256()
    with archive.open("data.jsonl") as data:
        while raw := data.readline(LARGEST_LINE):
            digest.update(raw)
            line = sum(counts.values()) + 1
            row = _row(raw, allowed, line)
            work(row, line)
            counts[row["model"]] = counts.get(row["model"], 0) + 1
    if digest.hexdigest() != manifest.get("sha256"):
        raise BackupError("the backup was damaged: its data do not have the digest of its manifest")
    if counts != manifest.get("rows"):
        raise BackupError("the backup was damaged: it does not hold as many rows as its manifest says")
    return counts


def _row(raw: bytes, allowed: set[str], line: int) -> dict[str, Any]:
    """One row of the data as plain values."""
    try:
        row: dict[str, Any] = json.loads(raw)
        if str(row["model"]) not in allowed:
            raise BackupError(f"line {line} of the backup's data is of a table that backups do not hold")
        if row["model"] == Revision._meta.label_lower and not isinstance(json.loads(row["fields"]["document"]), dict):
            raise BackupError(f"line {line} of the backup's data has no design document")
    except (ValueError, KeyError, TypeError, RecursionError) as error:
        raise BackupError(f"line {line} of the backup's data can't be read ({str(error)[:200]})") from None
    return row


def _store(row: dict[str, Any], line: int) -> None:
    """One row of the data into its table."""
    try:
        for stored in serializers.deserialize("python", [row], ignorenonexistent=True):
            stored.save()
    except (ValueError, KeyError, TypeError, serializers.base.DeserializationError, DatabaseError) as error:
        raise BackupError(f"line {line} of the backup's data can't be read ({str(error)[:200]})") from None
