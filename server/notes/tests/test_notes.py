"""Notes with pictures, files and links, bad ones in words; the timeline, searched."""

from __future__ import annotations

import io
import json
import re
import struct
import zlib
from typing import Any

from PIL import Image

from catalogue.services import load_built_in
from jobs.tests.test_jobs import bring
from notes.models import Note
from notes.picture import MOST_PIXELS, MOST_SIDE, made_anew
from notes.services import MOST_NOTES
from operations.backup import _rows
from projects.models import Reading, Variant
from projects.tests.helpers import ApiTestCase, document

GPS, ORIENTATION = 0x8825, 0x0112


def photo(size: tuple[int, int] = (3000, 2000)) -> bytes:
    """A photo as a telephone takes it: on its side, with where it was taken."""
    exif = Image.Exif()
    exif[ORIENTATION] = 6
    exif[GPS] = {1: "N", 2: (51.0, 30.0, 0.0)}
    out = io.BytesIO()
    Image.new("RGB", size, "orange").save(out, "JPEG", exif=exif)
    return out.getvalue()


def bomb(side: int) -> bytes:
    """A PNG of so many pixels a side that is small itself."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", side, side, 1, 0, 0, 0, 0)
    rows = zlib.compressobj()
    body = b"".join(rows.compress(bytes(1 + (side + 7) // 8)) for _ in range(min(side, 2000))) + rows.flush()
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", body) + chunk(b"IEND", b"")


class Notes(ApiTestCase):
    def setUp(self) -> None:
        super().setUp()
        load_built_in()
        self.gadget = self.upload("/projects/from-document", json.dumps(document()).encode())
        self.variant = self.gadget["variants"][0]["id"]
        self.base = f"/variants/{self.variant}/notes"

    def note(self, content: bytes | None = None, name: str = "a.jpg", status: int = 200, **more: Any) -> Any:
        body = {"digest": bring(self.ada, content, name)} if content is not None else {}
        return self.send("POST", self.base, body | more, status)

    def test_a_photo_is_made_anew_small_upright_and_without_where_it_was_taken(self) -> None:
        made = self.note(photo(), text="The first board")
        self.assertEqual((made["picture"], made["file"], made["revision"]["number"]), (True, "", 1))
        answer = self.client.get(f"/api{self.base}/{made['id']}/picture.jpg")
        self.assertEqual(answer.headers["Content-Type"], "image/jpeg")
        found = Image.open(io.BytesIO(answer.content))
        self.assertEqual((found.size, dict(found.getexif())), ((1067, MOST_SIDE), {}))
        self.assertFalse(self.ada.holdings.exists())  # nor is what it was made from kept

    def test_files_are_handed_out_to_be_kept_and_never_shown(self) -> None:
        svg = b'<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>'
        for content, name in ((svg, 'x"; evil.svg'), (b"%PDF-1.7 ...", "sheet.png"), (b"<html>", "a.html")):
            made = self.note(content, name)
            self.assertEqual((made["picture"], made["file"]), (False, name))
            answer = self.client.get(f"/api{self.base}/{made['id']}/file")
            self.assertEqual(answer.content, content)
            self.assertEqual(answer.headers["Content-Type"], "application/octet-stream")
            self.assertTrue(answer.headers["Content-Disposition"].startswith("attachment"))
            self.assertEqual(re.sub(r"\\.", "", answer.headers["Content-Disposition"]).count('"'), 2)
            self.assertEqual(answer.headers["X-Content-Type-Options"], "nosniff")
            self.send("GET", f"{self.base}/{made['id']}/picture.jpg", status=404)

    def test_hostile_pictures_are_told_in_words_and_nothing_is_kept(self) -> None:
        for content, said in (
            (bomb(50_000), "too many pixels"),
            (b"\x89PNG" + bytes(500), "is none"),
            (photo()[:400], "is none"),
        ):
            refused = self.note(content, status=422)
            self.assertIn(said, refused["errors"][0]["message"])
        self.assertEqual(Note.objects.count(), 0)

    def test_pixels_at_both_sides_of_the_limit(self) -> None:
        side = int(MOST_PIXELS**0.5)
        self.assertTrue(made_anew(bomb(1000)).startswith(b"\xff\xd8"))
        with self.assertRaises(Image.DecompressionBombError):
            made_anew(bomb(side + 2))

    def test_links_and_texts(self) -> None:
        self.assertEqual(self.note(link="https://example.org/x?y=1")["link"], "https://example.org/x?y=1")
        for wrong in (
            {"link": "javascript:alert(1)"},
            {"link": "ftp://x"},
            {"link": "https://a b"},
            {"text": "x" * 4001},
            {"digest": "zz"},
            {"about": "x" * 121},
            {},
        ):
            self.note(None, status=422, **wrong)
        self.note(status=404, digest="0" * 64)
        Note.objects.bulk_create(Note(variant_id=self.variant, text="x") for _ in range(MOST_NOTES))
        self.note(status=422, text="one more")

    def test_a_note_keeps_the_figures_that_it_was_written_on(self) -> None:
        made = self.note(text="This one", about="brain")
        variant = self.send("GET", f"/variants/{self.variant}")
        self.save(variant, variant["design"] | {"name": "Other"}, automatic=False, reason="Changed")
        (row,) = self.send("GET", self.base)
        self.assertEqual(
            (row["id"], row["about"], row["revision"]["number"], row["author"]), (made["id"], "brain", 1, "ada")
        )
        self.send("DELETE", f"{self.base}/{made['id']}", status=204)
        self.assertEqual(self.send("GET", self.base), [])

    def test_the_timeline_has_it_all_and_is_searched(self) -> None:
        self.note(text="Soldered the microphone")
        variant = self.send("GET", f"/variants/{self.variant}")
        self.save(variant, variant["design"] | {"name": "Other"}, automatic=False, reason="Larger cell")
        self.send("PUT", f"/projects/{self.gadget['id']}/people", {"name": "bo", "role": "view"})
        self.send("POST", f"/projects/{self.gadget['id']}/links", {"variants": [self.variant], "days": None})
        base = f"/projects/{self.gadget['id']}/timeline"
        found = self.send("GET", base)
        self.assertEqual({h["kind"] for h in found}, {"revision", "note", "person", "link"})
        self.assertEqual([h["at"] for h in found], sorted((h["at"] for h in found), reverse=True))
        self.assertEqual([h["what"] for h in self.send("GET", f"{base}?text=MICROPHONE")], ["Soldered the microphone"])
        self.assertIn("Larger cell", self.send("GET", f"{base}?text=larger")[0]["what"])
        self.assertEqual(self.send("GET", f"{base}?text=zzz"), [])

    def test_decisions_are_in_it_on_their_day_and_figures_stay_with_them(self) -> None:
        variant = self.send("GET", f"/variants/{self.variant}")
        on = {"revision": 1, "runtime_h": 12.5, "mass_g": 80.0, "cost": 21.0, "findings": 3}
        decided: list[dict[str, Any]] = [
            {"id": "decision-1", "date": "2026-11-03", "what": "No lamp", "why": "It eats a third.", "on": on},
            {"date": "2026-02-31", "what": "On no day", "why": ""},
        ]
        self.save(variant, variant["design"] | {"decisions": decided}, automatic=False, reason="Decided")
        stored = self.send("GET", f"/variants/{self.variant}")["design"]["decisions"]
        self.assertEqual((stored[0]["on"], stored[1]["on"], stored[1]["id"]), (on, None, None))
        found = self.send("GET", f"/projects/{self.gadget['id']}/timeline?text=decided:")
        self.assertEqual(
            [(h["kind"], h["what"], h["at"][:10]) for h in found],
            [("decision", "Decided: No lamp (It eats a third.)", "2026-11-03")],
        )
        for wrong in ({"revision": 0}, {"revision": 1, "mass_g": -1}, {"runtime_h": 3}):
            body = variant["design"] | {"decisions": [decided[0] | {"on": wrong}]}
            self.send("POST", "/evaluate", body, status=422)

    def test_a_file_is_found_by_its_name(self) -> None:
        self.note(b"a,b\n1,2\n", "ripple.csv", text="Looks odd")
        (found,) = self.send("GET", f"/projects/{self.gadget['id']}/timeline?text=RIPPLE")
        self.assertEqual(found["what"], "Looks odd · ripple.csv")

    def test_two_thousand_entries_are_told_with_few_questions_to_the_database(self) -> None:
        row = Variant.objects.get(pk=self.variant)
        Note.objects.bulk_create(
            Note(variant=row, text=f"n{k}", author=self.ada, revision=row.head) for k in range(1000)
        )
        Reading.objects.bulk_create(Reading(variant=row, step=f"s{k}", author=self.ada) for k in range(1000))
        found = self.send("GET", f"/projects/{self.gadget['id']}/timeline")
        self.assertEqual(len(found), 2000)
        with self.assertNumQueries(11):  # however many entries there are
            self.send("GET", f"/projects/{self.gadget['id']}/timeline")

    def test_notes_are_in_the_backup(self) -> None:
        self.note(photo((40, 30)), text="x")
        self.assertIn("notes.note", [label for label, _ in _rows()])
