"""The real interface in headless Chromium against a live server with the demo data."""

from __future__ import annotations

import json
import time
from collections.abc import Callable
from typing import Any, ClassVar

from django.core.management import CommandError
from django.test import LiveServerTestCase
from playwright.sync_api import Browser, BrowserContext, Page, Playwright, expect, sync_playwright

from catalogue.services import load_built_in
from projects.demo import load_demo

from .chromium import FLAGS, PROGRAM, SIZE

TIMEOUT_MS = 15_000


class BrowserTestCase(LiveServerTestCase):
    playwright: ClassVar[Playwright]
    browser: ClassVar[Browser]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.playwright = sync_playwright().start()
        cls.browser = cls.playwright.chromium.launch(executable_path=PROGRAM, args=FLAGS)
        expect.set_options(timeout=TIMEOUT_MS)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.browser.close()
        cls.playwright.stop()
        super().tearDownClass()

    def setUp(self) -> None:
        load_built_in()
        load_demo()
        self.errors: list[str] = []
        self.page = self.new_page()

    def new_page(self, context: BrowserContext | None = None, **options: Any) -> Page:
        if context is None:
            context = self.browser.new_context(**({"viewport": SIZE, "reduced_motion": "reduce"} | options))
            self.addCleanup(context.close)
        page = context.new_page()
        page.set_default_timeout(TIMEOUT_MS)
        page.on("pageerror", lambda error: self.errors.append(str(error)))
        return page

    def tearDown(self) -> None:
        self.assertEqual(self.errors, [], "the page raised errors")

    def _fixture_teardown(self) -> None:
        """Empties the tables; a request that the closed page had still on its way may hold one of them for a moment."""
        for _ in range(5):
            try:
                return super()._fixture_teardown()
            except CommandError:
                time.sleep(1)
        return super()._fixture_teardown()

    def open_gadget(self, variant: str = "Pouch cell", step: str = "Draw", page: Page | None = None) -> Page:
        """Signs in to the demo where needed and opens a variant at a step."""
        page = page or self.page
        page.goto(self.live_server_url)
        demo = page.get_by_role("button", name="Look around in the demo")
        heading = page.get_by_role("heading", name="Gadgets", exact=True)
        expect(demo.or_(heading).first).to_be_visible()
        if demo.is_visible():
            demo.click()
        page.get_by_role("link", name=variant).click()
        self.go(step, page)
        expect(page.get_by_test_id("figure-runtime")).to_be_visible()
        return page

    def go(self, step: str, page: Page | None = None) -> None:
        page = page or self.page
        page.get_by_role("navigation", name="Steps").get_by_role("link", name=step).click()
        expect(page.get_by_role("main", name=step)).to_be_visible()

    def figure(self, key: str, page: Page | None = None) -> str:
        return (page or self.page).get_by_test_id(f"figure-{key}").inner_text()

    def expect_saved(self, page: Page | None = None) -> None:
        expect((page or self.page).get_by_test_id("save-state")).to_have_attribute("data-save", "saved")

    def save_by(self, action: Callable[[], object], page: Page | None = None) -> None:
        """Does something that changes the document, and waits until that change is stored."""
        page = page or self.page
        with page.expect_response(lambda r: r.request.method == "POST" and r.url.endswith("/revisions")):
            action()
        self.expect_saved(page)

    def type_into_cell(self, part: str, mode: str, text: str, page: Page | None = None, *, taken: bool = True) -> None:
        page = page or self.page
        cell = page.get_by_test_id(f"cell-{part}-{mode}")
        cell.click()
        page.keyboard.type(text)
        page.keyboard.press("Enter")
        if not taken:
            return
        everywhere = page.get_by_role("button", name=f"{text} everywhere", exact=True)
        page.wait_for_function(
            """([key, name]) => {
              const cell = document.querySelector(`[data-testid="${key}"]`);
              const asked = [...document.querySelectorAll("button")].some((b) => b.textContent === name);
              return asked || !cell.querySelector("input");
            }""",
            arg=[f"cell-{part}-{mode}", f"{text} everywhere"],
        )
        if everywhere.is_visible():  # the state is used in other modes too
            everywhere.click()
        expect(cell.locator("input")).to_have_count(0)

    def stored_design(self) -> Any:
        """The document as the server has it."""
        variant = self.page.url.split("/gadgets/")[1].split("/")[0]
        return json.loads(self.page.request.get(f"{self.live_server_url}/api/variants/{variant}").text())["design"]
