"""Notes: a text with a picture and a link, kept with the figures that it was written on, there after a reload, found in what happened."""

from __future__ import annotations

import io
import re

from PIL import Image
from playwright.sync_api import expect

from .base import BrowserTestCase


class Notes(BrowserTestCase):
    def test_a_note_with_a_picture_is_kept_found_and_taken_away(self) -> None:
        page = self.open_gadget("Pouch cell", step="Record")
        notes = page.get_by_role("region", name="Notes and pictures")
        out = io.BytesIO()
        Image.new("RGB", (640, 480), "tan").save(out, "JPEG")
        notes.get_by_label("Note", exact=True).fill("The microphone hears the amplifier")
        self.go("Brief")
        self.go("Record")
        expect(notes.get_by_label("Note", exact=True)).to_have_value("The microphone hears the amplifier")
        notes.get_by_label("What the note is about").select_option(label="Ultrasonic microphone (UM-80)")
        notes.get_by_label("Link").fill("javascript:alert(1)")
        notes.get_by_label("Picture or file").set_input_files(
            {"name": "board.jpg", "mimeType": "image/jpeg", "buffer": out.getvalue()}
        )
        notes.get_by_role("button", name="Keep the note").click()
        expect(notes.get_by_role("alert")).to_contain_text("https://")
        expect(notes.get_by_label("Note", exact=True)).to_have_value("The microphone hears the amplifier")
        notes.get_by_label("Link").fill("https://example.org/noise")
        notes.get_by_role("button", name="Keep the note").click()
        row = notes.get_by_role("listitem")
        expect(row).to_contain_text("on revision 1", timeout=15_000)
        expect(row.get_by_role("heading", name="Ultrasonic microphone (UM-80)")).to_be_visible()
        expect(row.get_by_role("img")).to_have_js_property("complete", True)
        self.assertEqual(row.get_by_role("img").evaluate("i => i.naturalWidth"), 640)
        page.reload()
        happened = page.get_by_role("region", name="What happened")
        happened.get_by_label("Search what happened").fill("hears")
        expect(happened.get_by_role("listitem").filter(has_text="hears the amplifier").last).to_be_visible()
        expect(happened).not_to_contain_text("Demo data")
        notes.get_by_role("button", name=re.compile("^Take the note away")).click()
        expect(notes.get_by_role("listitem")).to_have_count(0)
