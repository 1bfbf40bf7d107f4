"""Bench: a sheet for each demo, a reading that is typed and judged, put into the design, undone, and there after a reload."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from .base import BrowserTestCase


class Bench(BrowserTestCase):
    def test_a_reading_typed_left_and_put_into_the_design(self) -> None:
        page = self.open_gadget("Two coin cells", step="Bench")
        field = page.get_by_label("Reading: Current in Glowing bright")
        expect(page.get_by_text("27.4 mA to 33 mA")).to_be_visible()
        runtime = page.get_by_test_id("figure-runtime").inner_text()
        field.fill("32.5 mA")
        field.press("Tab")
        status = page.get_by_role("status").filter(has_text="as it should be")
        expect(status).to_be_visible(timeout=15_000)
        self.save_by(lambda: status.get_by_role("button", name="Put it into the design").click())
        expect(page.get_by_test_id("figure-runtime")).not_to_have_text(runtime)
        self.save_by(lambda: page.keyboard.press("Control+z"))
        expect(page.get_by_test_id("figure-runtime")).to_have_text(runtime)
        page.reload()
        expect(page.get_by_label("Reading: Current in Glowing bright")).to_have_value(re.compile(r"32.5\smA"))

    def test_too_much_names_its_causes_and_a_wrong_unit_is_asked_about(self) -> None:
        page = self.open_gadget(step="Bench")
        field = page.get_by_label("Reading: Current in Recording")
        field.fill("190 mA")
        field.press("Enter")
        expect(page.get_by_role("status").filter(has_text="more than it should be")).to_contain_text(
            "Loudest playback", timeout=15_000
        )
        asleep = page.get_by_label("Reading: Current in Asleep")
        asleep.fill("1.6 A")
        asleep.press("Tab")
        expect(page.get_by_role("alert").filter(has_text="in another unit")).to_be_visible(timeout=15_000)
        expect(asleep).to_have_value("1.6 A")
        page.get_by_role("button", name="Done: Look at it").click()
        expect(page.get_by_role("button", name="Done: Look at it")).to_have_attribute(
            "aria-pressed", "true", timeout=15_000
        )

    def test_every_demo_has_its_sheet_and_prototypes_apart(self) -> None:
        for name in ("Two AAA cells", "Tiny rechargeable", "One cylinder a season"):
            page = self.open_gadget(name, step="Bench")
            expect(page.get_by_role("heading", name="First power", exact=True)).to_be_visible(timeout=15_000)
        page.get_by_role("button", name="Done: Look at it").click()
        expect(page.get_by_role("button", name="Done: Look at it")).to_have_attribute(
            "aria-pressed", "true", timeout=15_000
        )
        page.get_by_role("button", name="Another one").click()
        expect(page.get_by_role("button", name="Done: Look at it")).to_have_attribute("aria-pressed", "false")
