"""The pictures in docs/screenshots/, from the demo data. Run by `./ember shots`; not a test."""

from __future__ import annotations

from django.conf import settings
from playwright.sync_api import Page, expect

from .base import BrowserTestCase, a_worker

FOLDER = settings.ROOT / "docs" / "screenshots"
# until the pictures on the page are there; those further down, which are read when they come into sight, are not waited for
PICTURES = """Promise.race([
  Promise.all([...document.images].map((i) => i.complete || new Promise((done) => { i.onload = done; }))),
  new Promise((done) => setTimeout(done, 3000)),
])"""


class Shots(BrowserTestCase):
    def shoot(self, name: str, page: Page | None = None) -> None:
        page = page or self.page
        page.mouse.move(640, 4)
        page.evaluate("document.fonts.ready")
        page.evaluate(PICTURES)
        FOLDER.mkdir(parents=True, exist_ok=True)
        page.screenshot(path=str(FOLDER / f"{name}.png"))

    def steps(self, page: Page) -> None:
        for step in ("Brief", "Draw", "Supply", "Battery", "Charge", "Runtime", "Fit", "Bench", "Record"):
            self.go(step)
            if step == "Charge":  # its course is worked out after the page is there
                expect(page.get_by_role("img", name="A charge over time")).to_be_visible()
            if step == "Fit":  # what is drawn in space is there a moment later
                expect(page.get_by_test_id("in-space")).to_be_visible()
                page.wait_for_timeout(1500)
            if step == "Bench":
                expect(page.get_by_role("heading", name="Wires of the supply")).to_be_visible()
                expect(page.get_by_text("Every signal has its pin")).to_be_visible(timeout=20_000)
            self.shoot(step.lower())

    def test_views(self) -> None:
        page = self.page
        page.goto(self.live_server_url)
        expect(page.get_by_role("button", name="Look around in the demo")).to_be_visible()
        self.shoot("sign-in")
        page.get_by_role("button", name="Look around in the demo").click()
        expect(page.get_by_role("link", name="Pouch cell")).to_be_visible()
        self.shoot("gadgets")
        page.get_by_role("button", name="New gadget").click()
        page.get_by_role("radio", name="Sleeps, wakes and reports").check()
        expect(page.get_by_test_id("figure-runtime")).to_be_visible()
        self.shoot("begin")
        self.open_gadget()
        self.steps(page)
        self.go("Charge")
        page.get_by_role("tab", name="Heat").click()
        expect(page.get_by_role("img", name="Charging: ")).to_be_visible()
        self.shoot("heat")
        page.get_by_role("tab", name="Charging").click()
        page.get_by_role("button", name="Time to full: ").first.click()
        expect(page.get_by_role("dialog")).to_be_visible()
        self.shoot("working")
        page.keyboard.press("Escape")
        self.go("Supply")
        page.get_by_role("button", name="Which supply at all?").click()
        expect(page.get_by_role("region", name="Supplies side by side")).to_be_visible(timeout=60_000)
        self.shoot("supplies")
        page.keyboard.press("Escape")
        with a_worker():
            page.get_by_role("button", name="Best of all").click()
            expect(page.get_by_role("region", name="The best supplies")).to_be_visible(timeout=60_000)
        self.shoot("best")
        page.keyboard.press("Escape")
        self.go("Record")
        page.get_by_role("link", name="Report", exact=True).click()
        expect(page.get_by_role("heading", name="In short")).to_be_visible()
        self.shoot("report")
        page = self.open_gadget("Two coin cells", "Record")
        page.get_by_label("Compare with Two AAA cells").check()
        page.get_by_role("button", name="Compare with it").click()
        expect(page.get_by_role("region", name="Verdicts beside each other")).to_be_visible(timeout=20_000)
        self.shoot("compare")

    def test_dark(self) -> None:
        page = self.open_gadget(page=self.new_page(color_scheme="dark"))
        self.shoot("draw-dark", page)
