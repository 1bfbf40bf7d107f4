"""A backup puts back everything; one that is damaged, foreign or hostile changes nothing."""

from __future__ import annotations

import hashlib
import io
import json
import tempfile
import zipfile
from pathlib import Path
from typing import Any
from unittest.mock import patch

from django.contrib.auth.models import User
from django.core.management import CommandError, call_command
from django.db import connection
from django.test import override_settings

from blobs.models import PIECE_BYTES, Blob, Holding, Piece
from blobs.services import begin_upload, finish_upload, put_piece
from catalogue.models import CatalogueEntry
from ember_core.catalogue import built_in
from operations import backup
from operations.backup import BackupError, back_up, restore
from projects.models import Project, Revision, Variant
from projects.tests.helpers import PARTS, ApiTestCase


class Backups(ApiTestCase):
    def setUp(self) -> None:
        super().setUp()
        # a backup opens the database anew, to see one moment of it; a test lives inside one transaction
        self.enterContext(patch.object(connection, "close"))
        holder = tempfile.TemporaryDirectory()
        self.addCleanup(holder.cleanup)
        self.folder = Path(holder.name)
        variant = self.new_variant()
        design = variant["design"]
        for i in range(3):
            design["summary"] = f"=Ä {i}\x7f"
            variant["revision"] = self.save(variant, design, automatic=False, reason=f"step {i}")
        self.send("PUT", f"/variants/{variant['id']}/baseline", {"revision": variant["revision"]["id"]})
        self.upload("/catalogue/lists", PARTS)
        self.client.force_login(self.bo)
        self.upload("/projects/from-parts", PARTS, name="Bo's")
        content = bytes(range(256)) * 5000  # two pieces
        upload = begin_upload(self.bo, hashlib.sha256(content).hexdigest(), len(content), "case.stl")
        for n in range(2):
            put_piece(self.bo, str(upload.pk), n, content[n * PIECE_BYTES : (n + 1) * PIECE_BYTES])
        finish_upload(self.bo, str(upload.pk))
        self.file = self.folder / "all.zip"

    def everything(self) -> list[Any]:
        own = CatalogueEntry.objects.exclude(owner=None)
        blobs = (Blob.objects, Piece.objects, Holding.objects)
        tables = (User.objects, own, Project.objects, Variant.objects, Revision.objects, *blobs)
        return [list(rows.order_by("pk").values()) for rows in tables]

    def test_the_round_trip_puts_back_everything(self) -> None:
        before = self.everything()
        counts = back_up(self.file)
        self.assertEqual((counts["projects.project"], counts["projects.revision"], counts["auth.user"]), (2, 5, 2))
        self.assertEqual(self.file.stat().st_mode & 0o077, 0)
        Project.objects.all().delete()
        User.objects.filter(username="bo").delete()
        Blob.objects.all().delete()
        self.client.force_login(self.ada)
        self.new_variant()
        self.assertEqual(restore(self.file), counts)
        self.assertEqual(self.everything(), before)
        self.assertEqual(self.client.get("/api/projects").status_code, 401)  # sessions ended
        self.assertTrue(self.client.login(username="bo", password="ember-and-ash-8"))
        self.assertEqual(CatalogueEntry.objects.filter(owner=None).count(), len(built_in().entries))

    def test_it_can_be_read_without_the_application(self) -> None:
        back_up(self.file)
        with zipfile.ZipFile(self.file) as archive:
            rows = [json.loads(line) for line in archive.read("data.jsonl").splitlines()]
            self.assertIn("properties", json.loads(archive.read("design.schema.json")))
            self.assertIn("restore", archive.read("README.txt").decode())
        documents = [json.loads(r["fields"]["document"]) for r in rows if r["model"] == "projects.revision"]
        self.assertEqual({d["name"] for d in documents}, {"Bell", "Bo's"})
        self.assertNotIn("sessions.session", {r["model"] for r in rows})

    def test_a_file_that_is_there_is_not_overwritten(self) -> None:
        self.file.write_text("mine")
        with self.assertRaisesRegex(BackupError, "there already"):
            back_up(self.file)
        self.assertEqual(self.file.read_text(), "mine")

    def test_nothing_is_left_of_a_backup_that_failed(self) -> None:
        with (
            patch.object(backup, "_rows", side_effect=OSError(28, "No space left on device")),
            self.assertRaises(OSError),
        ):
            back_up(self.file)
        self.assertEqual(list(self.folder.iterdir()), [])

    def changed(self, **files: Any) -> None:
        """The backup with some of its files replaced; a file given as None is left out."""
        back_up(self.file)
        with zipfile.ZipFile(self.file) as archive:
            kept = {name: archive.read(name) for name in archive.namelist()}
        for name, change in files.items():
            real = name.replace("_", ".")
            if change is None:
                del kept[real]
            else:
                kept[real] = change(kept[real])
        held = io.BytesIO()
        with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as archive:
            for name, content in kept.items():
                archive.writestr(name, content)
        self.file.write_bytes(held.getvalue())

    def refused(self, *words: str) -> None:
        before = self.everything()
        with self.assertRaises(BackupError) as caught:
            restore(self.file)
        for word in words:
            self.assertIn(word, str(caught.exception))
        self.assertEqual(self.everything(), before)
        self.file.unlink()

    def test_what_is_no_whole_backup_changes_nothing(self) -> None:
        def manifest(**new: Any) -> Any:
            return lambda raw: json.dumps(json.loads(raw) | new).encode()

        def row(raw: bytes, model: bytes) -> bytes:
            return next(line for line in raw.splitlines(keepends=True) if model in line and b'"number":1,' in line)

        self.file.write_bytes(b"PK\x03\x04 nonsense")
        self.refused("not a backup")
        self.changed(manifest_json=None)
        self.refused("not a backup")
        self.changed(manifest_json=lambda raw: b"[" * 5000)
        self.refused("manifest can't be read")
        self.changed(manifest_json=manifest(format="frugal-ember-backup/9"))
        self.refused("frugal-ember-backup/9")
        self.changed(manifest_json=manifest(migrations=["projects.9999_later"]))
        self.refused("newer", "9999_later")
        self.changed(data_jsonl=lambda raw: raw.replace(b"Bell", b"Ball"))
        self.refused("digest")
        self.changed(data_jsonl=lambda raw: raw[: len(raw) // 2])
        self.refused("can't be read")
        self.changed(data_jsonl=lambda raw: b'{"model": "sessions.session", "pk": "x", "fields": {}}\n' + raw)
        self.refused("line 1", "do not hold")
        self.changed(
            data_jsonl=lambda raw: raw + row(raw, b"projects.revision").replace(b'"number":1', b'"number":"x"')
        )
        self.refused("can't be read")
        back_up(self.file)
        self.file.write_bytes(self.file.read_bytes()[:-40])
        self.refused("damaged")

    def test_rows_that_do_not_fit_together_change_nothing(self) -> None:
        """A variant of a project that is not there, with a digest and counts that are right: found before anything counts."""

        def without_projects(raw: bytes) -> bytes:
            return b"".join(x for x in raw.splitlines(keepends=True) if b'"projects.project"' not in x)

        def counted(raw: bytes) -> bytes:
            return json.dumps(json.loads(raw) | {"sha256": self.digest, "rows": self.rows}).encode()

        back_up(self.file)
        with zipfile.ZipFile(self.file) as archive:
            data = without_projects(archive.read("data.jsonl"))
            rows = json.loads(archive.read("manifest.json"))["rows"]
        self.digest, self.rows = (
            hashlib.sha256(data).hexdigest(),
            {k: v for k, v in rows.items() if k != "projects.project"},
        )
        self.file.unlink()
        self.changed(data_jsonl=without_projects, manifest_json=counted)
        self.refused("do not fit together")
        self.changed(manifest_json=lambda raw: json.dumps(json.loads(raw) | {"rows": {}}).encode())
        self.refused("as many rows")

    def test_whatever_is_written_is_read(self) -> None:
        """A document of emoji, as large as may be, is a line that a restore takes; what would not read back is no backup."""
        revision = Revision.objects.order_by("pk").last()
        assert revision is not None
        document = json.dumps({"format": "frugal-ember/3", "summary": "🔥" * 900_000}, ensure_ascii=False)
        Revision.objects.filter(pk=revision.pk).update(document=document)
        before = self.everything()
        restore_counts = back_up(self.file)
        self.assertEqual(restore(self.file), restore_counts)
        self.assertEqual(self.everything(), before)
        self.file.unlink()
        with (
            patch.object(backup, "LARGEST_LINE", 100_000),
            self.assertRaisesRegex(BackupError, "more than a restore reads"),
        ):
            back_up(self.file)
        with patch.object(backup, "verify", return_value={}), self.assertRaisesRegex(BackupError, "does not read back"):
            back_up(self.file)
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_a_bomb_is_not_unpacked(self) -> None:
        self.changed()
        with patch.object(backup, "LARGEST_DATA", 100):
            self.refused("unpacks to more")
        self.changed(data_jsonl=lambda raw: b"[" + b" " * 3000 + raw)
        with patch.object(backup, "LARGEST_LINE", 2000):
            self.refused("line 1")

    def test_the_command_keeps_what_was_there(self) -> None:
        before = self.everything()
        with override_settings(VAR=self.folder):
            call_command("backup", self.file, verbosity=0)
            Project.objects.all().delete()
            self.new_variant()
            call_command("restore", self.file)
            self.assertEqual(self.everything(), before)
            kept = next((self.folder / "backups").iterdir())
            restore(kept)
            self.assertEqual(Project.objects.count(), 1)
            with self.assertRaisesRegex(CommandError, "Nothing was changed"):
                call_command("restore", self.folder / "no such file")
