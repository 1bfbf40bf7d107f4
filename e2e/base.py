"""The real interface in headless Chromium against a live server with the demo data."""

from __future__ import annotations

import json
import re
import socket
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import cache
from threading import Event, Thread
from typing import Any

from django.conf import settings
from django.contrib.auth.models import User
from django.contrib.sessions.models import Session
from django.core.management import call_command
from django.db import DatabaseError, connection, transaction
from django.test import Client, LiveServerTestCase
from django.test.testcases import LiveServerThread, QuietWSGIRequestHandler
from playwright.sync_api import Browser, BrowserContext, Page, Response, expect, sync_playwright

from accounts.models import Attempt
from catalogue.models import CatalogueEntry
from catalogue.services import load_built_in
from jobs.services import work_on_next
from jobs.tasks import KINDS
from projects.demo import load_demo
from projects.models import Variant

from .chromium import FLAGS, PROGRAM, SIZE

TIMEOUT_MS = 30_000


@contextmanager
def a_worker() -> Iterator[None]:
    """Somebody who does the jobs meanwhile."""
    over = Event()

    def work() -> None:
        while not over.wait(0.2):
            work_on_next(KINDS)
        connection.close()

    worker = Thread(target=work)
    worker.start()
    try:
        yield
    finally:
        over.set()
        worker.join()


@cache
def browser() -> Browser:
    """One browser for all tests of a process."""
    playwright = sync_playwright().start()
    opened = playwright.chromium.launch(executable_path=PROGRAM, args=FLAGS)
    expect.set_options(timeout=TIMEOUT_MS)
    return opened


@cache
def usual_context() -> BrowserContext:
    """What most tests open their pages in, one after the other: it need not read the application anew each time."""
    return browser().new_context(viewport=SIZE, reduced_motion="reduce")


@cache
def usual_port() -> int:
    """One address for all tests of a process, as the browser keeps what it has read by address."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        return int(free.getsockname()[1])


class SamePort(LiveServerThread):
    """May listen where the class before it did."""

    def _create_server(self, connections_override: Any = None) -> Any:
        return self.server_class(
            (self.host, self.port), QuietWSGIRequestHandler, allow_reuse_address=True,
            connections_override=connections_override,
        )  # fmt: skip


class BrowserTestCase(LiveServerTestCase):
    """Each test has the demo's gadgets as they ship; the catalogue is there for the whole class."""

    server_thread_class = SamePort

    @classmethod
    def setUpClass(cls) -> None:
        cls.port = usual_port()
        super().setUpClass()
        load_built_in()

    @classmethod
    def tearDownClass(cls) -> None:
        call_command("flush", verbosity=0, interactive=False)
        super().tearDownClass()

    def setUp(self) -> None:
        load_demo()
        self.errors: list[str] = []
        self.addCleanup(self._forget)
        self.page = self.new_page(usual_context())

    def _forget(self) -> None:
        """Leaves the usual context as a new one would be, but for the application's files."""
        context = usual_context()
        page = context.new_page()
        for other in context.pages:
            if other != page:
                other.close()
        origin = {
            "origin": self.live_server_url,
            "storageTypes": "local_storage,indexeddb,cache_storage,service_workers",
        }
        context.new_cdp_session(page).send("Storage.clearDataForOrigin", origin)
        page.close()
        context.clear_cookies()
        context.clear_permissions()
        context.set_offline(False)
        context.unroute_all()

    def new_page(self, context: BrowserContext | None = None, **options: Any) -> Page:
        """A page in a context, or in a new one as somebody else's browser."""
        if context is None:
            context = browser().new_context(**({"viewport": SIZE, "reduced_motion": "reduce"} | options))
            self.addCleanup(context.close)
        page = context.new_page()
        page.set_default_timeout(TIMEOUT_MS)
        page.on("pageerror", lambda error: self.errors.append(str(error)))
        return page

    def tearDown(self) -> None:
        self.assertEqual(self.errors, [], "the page raised errors")

    def _fixture_teardown(self) -> None:
        """Takes away what people have; a request that the closed page had still on its way may hold a row for a moment."""
        for attempt in range(5):
            try:
                with transaction.atomic():
                    Attempt.objects.all().delete()
                    Session.objects.all().delete()
                    CatalogueEntry.objects.exclude(owner=None).delete()
                    User.objects.all().delete()
                return
            except DatabaseError:
                if attempt == 4:
                    raise
                time.sleep(1)

    def sign_in(self, page: Page, name: str = settings.DEMO_USER) -> None:
        """An account in the page's browser, the demo's as after its button."""
        client = Client()
        client.force_login(User.objects.get(username=name))
        value = client.cookies[settings.SESSION_COOKIE_NAME].value
        page.context.add_cookies([{"name": settings.SESSION_COOKIE_NAME, "value": value, "url": self.live_server_url}])

    def open_gadget(self, variant: str = "Pouch cell", step: str = "Draw", page: Page | None = None) -> Page:
        """Opens a variant of the demo at a step."""
        page = page or self.page
        self.sign_in(page)
        found = Variant.objects.filter(name=variant, project__owner__username=settings.DEMO_USER).earliest("pk")
        page.goto(f"{self.live_server_url}/gadgets/{found.pk}/{step.lower()}")
        expect(page.get_by_role("main", name=step)).to_be_visible()
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

    def save_by(self, action: Callable[[], object], page: Page | None = None, patience_s: float = 30) -> None:
        """Does something that changes the document, and waits until that change is stored."""
        page = page or self.page
        expect(page.get_by_test_id("save-state")).not_to_have_attribute("data-save", re.compile("^(unsaved|saving)$"))
        stored: list[str] = []

        def hear(response: Response) -> None:
            if response.request.method == "POST" and response.url.endswith("/revisions"):
                stored.append(response.url)

        page.on("response", hear)
        try:
            action()
            ends = time.monotonic() + patience_s  # of the saving alone: on a busy machine a gesture takes its time
            while not stored:
                self.assertLess(time.monotonic(), ends, "nothing was stored")
                page.wait_for_timeout(50)
        finally:
            page.remove_listener("response", hear)
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
