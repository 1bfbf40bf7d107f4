"""Files by the hash of their content: brought in pieces, stored once, read by those who brought them."""

from __future__ import annotations

import hashlib
import random
import threading
import time
from datetime import timedelta
from typing import Any
from unittest.mock import patch

from django.contrib.auth.models import User
from django.db import connection
from django.test import TransactionTestCase
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from blobs import services
from blobs.models import PIECE_BYTES, Blob, Holding, Piece, Upload
from projects.tests.helpers import ApiTestCase

SMALL = b"solid nothing\nendsolid nothing\n"
LARGE = random.Random(4).randbytes(2 * PIECE_BYTES + 5)


class Blobs(ApiTestCase):
    def begin(self, content: bytes, status: int = 200, **more: Any) -> Any:
        body = {"digest": hashlib.sha256(content).hexdigest(), "size": len(content), "name": "body.stl"} | more
        return self.send("POST", "/uploads", body, status)

    def put(self, upload: str, number: int, content: bytes, status: int = 204) -> Any:
        response = self.client.put(f"/api/uploads/{upload}/{number}", content, content_type="application/octet-stream")
        self.assertEqual(response.status_code, status, response.content[:300])
        return response.json() if response.content else None

    def bring(self, content: bytes) -> str:
        upload = self.begin(content)
        for n in reversed(range(upload["pieces"])):  # in any order
            self.put(upload["id"], n, content[n * PIECE_BYTES : (n + 1) * PIECE_BYTES])
        found: str = self.send("POST", f"/uploads/{upload['id']}/finish")["digest"]
        return found

    def content(self, digest: str, status: int = 200) -> bytes:
        response = self.client.get(f"/api/blobs/{digest}")
        self.assertEqual(response.status_code, status)
        return bytes(response.getvalue())

    def test_a_file_comes_back_as_it_was_brought(self) -> None:
        for content in (SMALL, LARGE, LARGE[:PIECE_BYTES]):
            digest = self.bring(content)
            self.assertEqual(digest, hashlib.sha256(content).hexdigest())
            self.assertEqual(self.content(digest), content)
        self.assertEqual(Upload.objects.count(), 0)
        self.assertEqual([b["size"] for b in self.send("GET", "/blobs")], [PIECE_BYTES, len(LARGE), len(SMALL)])

    def test_it_is_stored_once_and_held_by_each(self) -> None:
        digest = self.bring(SMALL)
        self.client.force_login(self.bo)
        self.content(digest, 404)  # the hash alone opens nothing
        self.bring(SMALL)
        self.assertEqual((Blob.objects.count(), Piece.objects.count(), Holding.objects.count()), (1, 1, 2))
        self.assertEqual(self.content(digest), SMALL)
        self.send("DELETE", f"/blobs/{digest}", status=204)
        self.content(digest, 404)
        self.client.force_login(self.ada)
        self.assertEqual(self.content(digest), SMALL)
        self.send("DELETE", f"/blobs/{digest}", status=204)
        self.assertEqual((Blob.objects.count(), Piece.objects.count()), (0, 0))

    def test_what_is_not_whole_or_another_content_is_not_taken(self) -> None:
        upload = self.begin(LARGE)["id"]
        self.put(upload, 0, LARGE[:PIECE_BYTES])
        refused = self.send("POST", f"/uploads/{upload}/finish", status=409)
        self.assertIn("piece 1 is missing", str(refused))
        self.put(upload, 1, LARGE[PIECE_BYTES : 2 * PIECE_BYTES])
        self.put(upload, 2, b"wrong")
        self.assertIn("announced", self.send("POST", f"/uploads/{upload}/finish", status=422)["title"])
        self.put(upload, 2, LARGE[-5:])  # only what was wrong is sent again
        self.send("POST", f"/uploads/{upload}/finish")
        self.assertEqual(self.content(hashlib.sha256(LARGE).hexdigest()), LARGE)

    def test_pieces_have_their_size_and_their_place(self) -> None:
        upload = self.begin(LARGE)["id"]
        self.put(upload, 0, LARGE[: PIECE_BYTES - 1], 422)
        self.put(upload, 2, LARGE[-6:], 422)
        self.put(upload, 2, LARGE[-5:])
        self.put(upload, 3, b"", 422)
        self.put(upload, 10**9, b"x", 422)

    def test_limits_on_size_on_what_one_holds_and_on_what_is_under_way(self) -> None:
        with patch.object(services, "LARGEST_BLOB", 100):
            self.begin(b"x" * 100)
            self.begin(b"x" * 101, 413)
            self.begin(b"", 413)
        with patch.object(services, "MOST_HELD", 300):
            self.begin(b"x" * 200)
            self.begin(b"x", 413)
        with patch.object(services, "MOST_UPLOADS", 2):
            self.begin(SMALL, 409)
        for wrong in (
            {"digest": "abc"},
            {"digest": "G" * 64},
            {"name": ""},
            {"name": "  "},
            {"name": "a\x00b"},
            {"name": "x" * 201},
            {"size": -1},
            {"size": 10**30},
        ):
            self.begin(SMALL, 413 if wrong == {"size": 10**30} else 422, **wrong)

    def test_other_peoples_uploads_are_not_there(self) -> None:
        upload = self.begin(SMALL)["id"]
        self.client.force_login(self.bo)
        self.put(upload, 0, SMALL, 404)
        self.send("POST", f"/uploads/{upload}/finish", status=404)
        self.send("DELETE", f"/uploads/{upload}", status=404)
        self.client.force_login(self.ada)
        self.send("DELETE", f"/uploads/{upload}", status=204)

    def test_orphans_are_collected(self) -> None:
        kept = self.bring(SMALL)
        self.begin(LARGE)
        Upload.objects.update(created=timezone.now() - services.UNFINISHED_FOR + timedelta(minutes=1))
        self.assertEqual(services.collect_orphans(), 0)
        Upload.objects.update(created=timezone.now() - services.UNFINISHED_FOR - timedelta(minutes=1))
        self.assertEqual(services.collect_orphans(), 1)
        Blob.objects.create(digest="0" * 64, size=1)
        self.assertEqual(services.collect_orphans(), 1)
        self.assertEqual(self.content(kept), SMALL)
        self.ada.delete()
        self.assertEqual(services.collect_orphans(), 1)

    def test_pieces_are_read_one_at_a_time(self) -> None:
        digest = self.bring(LARGE)
        with CaptureQueriesContext(connection) as asked:
            self.content(digest)
        read = [q["sql"] for q in asked if "`content`" in q["sql"]]
        self.assertEqual(len(read), 3)
        self.assertTrue(all("LIMIT" in sql for sql in read))


class Together(TransactionTestCase):
    def test_what_is_being_brought_is_not_collected_meanwhile(self) -> None:
        """One finishes an upload of a content that nobody holds any more while another collects."""
        ada = User.objects.create_user("ada")
        digest = hashlib.sha256(SMALL).hexdigest()
        blob = Blob.objects.create(digest=digest, size=len(SMALL))
        Piece.objects.create(blob=blob, number=0, content=SMALL)
        upload = services.begin_upload(ada, digest, len(SMALL), "a.stl")
        services.put_piece(ada, str(upload.pk), 0, SMALL)
        locked, collected = threading.Event(), []

        def collect() -> None:
            locked.wait(5)
            collected.append(services.collect_orphans())
            connection.close()

        other = threading.Thread(target=collect)
        other.start()
        real = Holding.objects.get_or_create

        def held(**fields: Any) -> Any:
            locked.set()
            time.sleep(0.3)  # the other one waits for the lock, or would take the blob away
            return real(**fields)

        with patch.object(Holding.objects, "get_or_create", held):
            holding = services.finish_upload(ada, str(upload.pk))
        other.join(10)
        self.assertEqual(collected, [0])
        self.assertEqual(b"".join(services.read(holding)), SMALL)
