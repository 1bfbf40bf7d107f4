"""A bill for many with what is in the drawer, and a build plan: typed, ticked off, moved, there after a reload."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from .base import BrowserTestCase


class Planning(BrowserTestCase):
    def open_page(self, name: str) -> Page:
        page = self.open_gadget("Pouch cell", step="Record")
        page.get_by_role("link", name=name).click()
        return page

    def test_a_bill_for_twelve_with_what_is_in_the_drawer(self) -> None:
        page = self.open_page("For many")
        count = page.get_by_label("How many gadgets")
        count.fill("twelve")
        expect(page.get_by_role("alert")).to_contain_text("whole number")
        count.fill("12")
        expect(page.get_by_role("heading", name="Bill of materials for 12")).to_be_visible()
        row = page.get_by_role("row", name=re.compile("Ultrasonic microphone"))
        expect(row).to_contain_text("28.80")
        row.get_by_label(re.compile("^In the drawer")).fill("2")
        row.get_by_label(re.compile("^In the drawer")).press("Tab")
        expect(row).to_contain_text("24.00")
        prices = row.get_by_label(re.compile("^Prices of"))
        prices.fill("ten: 2")
        prices.press("Tab")
        expect(row.get_by_role("alert")).to_contain_text("is read like")
        expect(prices).to_have_value("ten: 2")
        prices.fill("10: 2")
        prices.press("Enter")
        expect(row).to_contain_text("20.00")
        expect(row.get_by_role("alert")).to_have_count(0)
        page.reload()
        page.get_by_label("How many gadgets").fill("12")
        expect(page.get_by_role("row", name=re.compile("Ultrasonic microphone"))).to_contain_text("20.00")
        with page.expect_download() as loaded:
            page.get_by_role("link", name="XLSX").click()
        self.assertEqual(loaded.value.suggested_filename, "dusk-ear-for-12.xlsx")

    def test_a_plan_is_ticked_off_moved_and_there_after_a_reload(self) -> None:
        page = self.open_page("Build plan")
        status = page.get_by_role("status").filter(has_text="Done on")
        expect(status).to_be_visible(timeout=20_000)
        before = status.inner_text()
        page.get_by_label("Not before: Wire and solder the boards").fill("2030-01-07")
        expect(status).not_to_have_text(before)
        expect(page.get_by_role("listitem").filter(has_text="Wire and solder")).to_contain_text("7 Jan")
        box = page.get_by_role("checkbox", name=re.compile("^Order"))
        box.check()
        expect(page.get_by_role("listitem").filter(has=box)).to_contain_text("done")
        page.reload()
        expect(page.get_by_role("checkbox", name=re.compile("^Order"))).to_be_checked()
        expect(page.get_by_label("Not before: Wire and solder the boards")).to_have_value("2030-01-07")
        page.get_by_role("button", name="Calendar feed").click()
        address = page.get_by_label("Address of the calendar").input_value()
        other = self.new_page()
        answer = other.request.get(address)
        self.assertEqual(answer.status, 200)
        self.assertIn("BEGIN:VCALENDAR", answer.text())
        page.get_by_role("button", name="Take the feed back").click()
        expect(page.get_by_label("Address of the calendar")).to_have_count(0)
        self.assertEqual(other.request.get(address).status, 404)
