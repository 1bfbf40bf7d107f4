"""The pictures in docs/screenshots/, from the demo data. Run by `./ember shots`; not a test."""

from __future__ import annotations

from django.conf import settings
from playwright.sync_api import Page, expect

from .base import BrowserTestCase

FOLDER = settings.ROOT / "docs" / "screenshots"


class Shots(BrowserTestCase):
    def shoot(self, name: str, page: Page | None = None) -> None:
        page = page or self.page
        page.mouse.move(640, 4)
        page.evaluate("document.fonts.ready")
        FOLDER.mkdir(parents=True, exist_ok=True)
        page.screenshot(path=str(FOLDER / f"{name}.png"))

    def test_views(self) -> None:
        page = self.page
        page.goto(self.live_server_url)
        expect(page.get_by_role("button", name="Look around in the demo")).to_be_visible()
        self.shoot("sign-in")
        page.get_by_role("button", name="Look around in the demo").click()
        expect(page.get_by_role("link", name="Pouch cell")).to_be_visible()
        self.shoot("gadgets")
        self.open_gadget()
        for step in ("Brief", "Draw", "Supply", "Battery", "Runtime", "Fit", "Record"):
            self.go(step)
            self.shoot(step.lower())
        self.go("Battery")
        page.get_by_role("button", name="Time to full").click()
        expect(page.get_by_role("dialog")).to_be_visible()
        self.shoot("working")
        page.keyboard.press("Escape")
        self.go("Runtime")
        page.get_by_test_id("saving-dark-in-sleep").get_by_role("button", name="Preview").click()
        expect(page.get_by_role("button", name="Leave as it is")).to_be_visible()
        self.shoot("preview")

    def test_dark(self) -> None:
        page = self.open_gadget(page=self.new_page(color_scheme="dark"))
        self.shoot("draw-dark", page)
