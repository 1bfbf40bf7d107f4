"""The field's words are explained where they stand: by pointer, from the keyboard, from the palette, on a page of their own."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from .base import BrowserTestCase


class Words(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.open_gadget()

    def test_a_picture_s_words_explain_themselves_from_the_keyboard(self) -> None:
        page = self.page
        self.go("Runtime")
        word = page.get_by_role("button", name="P10 to P90", exact=True).first
        word.focus()
        page.keyboard.press("Enter")
        meaning = page.get_by_role("dialog", name="P10 to P90")
        expect(meaning).to_contain_text("eight of ten")
        page.keyboard.press("Escape")
        expect(meaning).to_have_count(0)
        expect(word).to_be_focused()

    def test_a_label_explains_itself_by_pointer_and_from_its_field(self) -> None:
        page = self.page
        self.go("Brief")
        label = page.get_by_text("Shelf life, switched off", exact=True)
        label.locator("xpath=..").get_by_role("button", name="Explain").click()
        shown = page.get_by_role("dialog", name="Shelf life")
        expect(shown).to_contain_text("keeps its charge while it is switched off")
        page.keyboard.press("Escape")
        expect(shown).to_have_count(0)
        page.get_by_label("Runtime, by the clock").focus()
        page.keyboard.press("F1")
        expect(page.get_by_role("dialog", name="Goal")).to_contain_text("nine in ten")
        page.get_by_role("link", name="All words").click()
        expect(page).to_have_url(re.compile("/words#goal$"))
        expect(page.locator("#goal")).to_be_in_viewport()

    def test_how_it_works_is_told_with_its_sources(self) -> None:
        page = self.page
        page.get_by_role("button", name="Account").click()
        page.get_by_role("menuitem", name="How it works").click()
        expect(page.get_by_role("heading", name="How it works")).to_be_visible()
        page.get_by_role("navigation", name="What is explained").get_by_role("link", name="Stages").click()
        expect(page.get_by_role("heading", name="Stages")).to_be_in_viewport()
        expect(page.get_by_role("cell", name="linear", exact=True)).to_be_visible()
        expect(page.get_by_text("converters.py")).to_have_count(0)  # headings are for who uses it

    def test_all_words_are_found_from_the_palette_and_searched(self) -> None:
        page = self.page
        page.keyboard.press("Control+k")
        page.get_by_role("option", name="Words explained").click()
        expect(page.get_by_role("heading", name="Words", exact=True)).to_be_visible()
        page.get_by_label("Search").fill("dropout")
        expect(page.locator("#dropout")).to_be_visible()
        expect(page.locator("#swelling")).to_have_count(0)
        page.get_by_label("Search").fill("xyzzy")
        expect(page.get_by_text("No word has that in it.")).to_be_visible()
