"""Every view: without serious accessibility violations, in light and dark, narrow and with large text."""

from __future__ import annotations

import io
import itertools

from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect
from pypdf import PdfReader

from .base import BrowserTestCase

STEPS = ("Brief", "Draw", "Supply", "Battery", "Charge", "Runtime", "Fit", "Bench", "Record")
RUNTIME_VIEWS = ("What would help", "How sure it is", "Cold, heat and years", "For the firmware", "The day")

PRESSED = (
    "Stage",
    "Rail",
    "Which supply at all?",
    "Best of all",
    "From the catalogue",
    "Add a protection circuit",
    "From a table",
    "Copy",
    "Report",
)


class Accessibility(BrowserTestCase):
    def check(self, page: Page, where: str) -> None:
        found = [
            f"{v['id']} ({v['impact']}): {v['nodes'][0]['html'][:160]}"
            for v in Axe().run(page).response["violations"]
            if v["impact"] in ("serious", "critical")
        ]
        self.assertEqual(found, [], where)

    def walk(self, page: Page, scheme: str) -> None:
        page.goto(self.live_server_url)
        expect(page.get_by_role("button", name="Look around in the demo")).to_be_visible()
        self.check(page, f"sign-in, {scheme}")
        page.get_by_role("button", name="Look around in the demo").click()
        expect(page.get_by_role("link", name="Pouch cell")).to_be_visible()
        self.check(page, f"gadgets, {scheme}")
        page.get_by_role("button", name="New gadget").click()
        page.get_by_role("radio", name="Remote control").check()
        expect(page.get_by_test_id("figure-runtime")).to_be_visible()
        self.check(page, f"questions, {scheme}")
        page.goto(f"{self.live_server_url}/words")
        expect(page.get_by_text("Quiescent current", exact=True)).to_be_visible()
        self.check(page, f"words, {scheme}")
        page.goto(f"{self.live_server_url}/how")
        expect(page.get_by_role("heading", name="Stages")).to_be_visible()
        self.check(page, f"how it works, {scheme}")
        self.open_gadget(page=page)
        for step in STEPS:
            self.go(step, page)
            expect(page.get_by_test_id("figure-runtime")).to_be_visible()
            self.check(page, f"{step}, {scheme}")
        self.go("Runtime", page)
        for tab in RUNTIME_VIEWS:
            page.get_by_role("tab", name=tab).click()
            expect(page.get_by_role("tabpanel").locator("h2").first).to_be_visible()
            self.check(page, f"{tab}, {scheme}")
        self.go("Draw", page)
        page.get_by_test_id("cell-controller-listening").click()
        self.check(page, f"cell details, {scheme}")
        page.get_by_role("button", name="Mean battery current over the day").first.click()
        expect(page.get_by_role("dialog")).to_be_visible()
        self.check(page, f"working, {scheme}")

    def test_light(self) -> None:
        self.walk(self.new_page(color_scheme="light"), "light")

    def test_dark(self) -> None:
        self.walk(self.new_page(color_scheme="dark"), "dark")


class Layout(BrowserTestCase):
    def assert_no_sideways_scrolling(self, page: Page, where: str) -> None:
        wide = page.evaluate("document.documentElement.scrollWidth - window.innerWidth")
        self.assertLessEqual(wide, 0, where)

    def test_nothing_scrolls_sideways_narrow_or_with_text_at_200_percent(self) -> None:
        # text at 200 % on a 1280 screen leaves 640 css pixels; 390 is a telephone
        for width in (1280, 640, 390):
            page = self.new_page(viewport={"width": width, "height": 800})
            self.open_gadget(page=page)
            page.goto(f"{self.live_server_url}/words")
            expect(page.get_by_text("Quiescent current", exact=True)).to_be_visible()
            self.assert_no_sideways_scrolling(page, f"words at {width}")
            page.goto(f"{self.live_server_url}/how")
            expect(page.get_by_role("heading", name="Stages")).to_be_visible()
            self.assert_no_sideways_scrolling(page, f"how it works at {width}")
            page.goto(f"{self.live_server_url}/gadgets/begin")
            page.get_by_role("radio", name="Remote control").check()
            expect(page.get_by_test_id("figure-runtime")).to_be_visible()
            self.assert_no_sideways_scrolling(page, f"questions at {width}")
            self.open_gadget(page=page)
            for step in STEPS:
                self.go(step, page)
                self.assert_no_sideways_scrolling(page, f"{step} at {width}")
            self.go("Runtime", page)
            for tab in RUNTIME_VIEWS:
                page.get_by_role("tab", name=tab).click()
                expect(page.get_by_role("tabpanel").locator("h2").first).to_be_visible()
                self.assert_no_sideways_scrolling(page, f"{tab} at {width}")

    def test_the_band_stays_on_every_step_wide_and_narrow(self) -> None:
        for width in (1280, 640):
            page = self.new_page(viewport={"width": width, "height": 800})
            self.open_gadget(page=page)
            for step in STEPS:
                self.go(step, page)
                expect(page.get_by_test_id("verdict-runtime")).to_be_in_viewport()


class Looking(BrowserTestCase):
    def test_a_figure_opens_its_working_and_escape_closes_it(self) -> None:
        self.open_gadget(step="Charge")
        self.page.get_by_role("button", name="Time to full: ").first.click()
        drawer = self.page.get_by_role("dialog", name="Time to full")
        expect(drawer).to_contain_text("How it comes about")
        expect(drawer).to_contain_text("termination")
        self.page.keyboard.press("Escape")
        expect(drawer).to_have_count(0)

    def test_a_picture_is_also_a_table(self) -> None:
        self.open_gadget(step="Runtime")
        self.page.get_by_role("button", name="Table").first.click()
        expect(self.page.get_by_role("columnheader", name="state of charge")).to_be_visible()
        with self.page.expect_download() as download:
            self.page.get_by_role("button", name="Save CSV").first.click()
        self.assertEqual(download.value.suggested_filename, "fall.csv")

    def test_the_palette_goes_everywhere(self) -> None:
        self.open_gadget()
        self.page.keyboard.press("Control+k")
        self.page.keyboard.type("fit")
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("main", name="Fit")).to_be_visible()
        self.page.keyboard.press("?")
        expect(self.page.get_by_role("dialog", name="Shortcuts")).to_be_visible()


class OnPaper(BrowserTestCase):
    def test_every_step_is_a_sheet_to_hand_on(self) -> None:
        """Its name, the verdicts and its findings in front; nothing to press; nothing beyond the edge; the case is drawn."""
        for step, paper in zip(STEPS, itertools.cycle(("A4", "Letter"))):
            with self.subTest(step):
                self.open_gadget(step=step)
                findings = (
                    self.page.get_by_role("region", name="Findings").get_by_role("article").get_by_role("heading")
                )
                titles = findings.all_inner_texts()
                pressed = [
                    t for t in self.page.get_by_role("main").get_by_role("button").all_inner_texts() if t in PRESSED
                ]
                pages = PdfReader(io.BytesIO(self.page.pdf(format=paper))).pages
                first, text = (
                    " ".join(t.split()) for t in (pages[0].extract_text(), "".join(p.extract_text() for p in pages))
                )
                for told in ("Dusk Ear", "Pouch cell", "Warmest inside", "30.80 EUR"):
                    self.assertIn(told, first)
                for told in titles:
                    self.assertIn(told, text)
                self.assertEqual([t for t in pressed if t in text], [])
                if step == "Supply":
                    self.assertTrue(pressed)
                self.page.emulate_media(media="print")
                wide = self.page.evaluate(
                    """() => [...document.querySelectorAll("main *")].filter((e) => e.checkVisibility() && e.scrollWidth > e.clientWidth + 1
                        && ["auto", "scroll"].includes(getComputedStyle(e).overflowX)).map((e) => e.outerHTML.slice(0, 200))"""
                )
                self.assertEqual(wide, [])
                self.page.emulate_media(media="null")

    def test_the_case_is_drawn_on_paper_too(self) -> None:
        self.open_gadget(step="Fit")
        expect(self.page.get_by_test_id("in-space")).to_be_visible()
        pages = PdfReader(io.BytesIO(self.page.pdf(format="A4", scale=1))).pages
        tones = [len(i.image.convert("L").getcolors() or ()) for p in pages for i in p.images if i.image]
        self.assertGreater(max(tones, default=0), 30)  # a picture that is empty has one


class Placing(BrowserTestCase):
    def test_a_body_is_moved_by_keyboard_and_by_dragging(self) -> None:
        self.open_gadget(step="Fit")
        self.page.get_by_role("tab", name="From three sides").click()
        fit = self.page.get_by_test_id("verdict-fit")
        expect(fit).to_have_attribute("data-status", "watch")
        body = self.page.get_by_test_id("body-From above-/battery")
        body.focus()
        for _ in range(8):
            self.page.keyboard.press("ArrowUp")
        expect(fit).to_have_attribute("data-status", "fail")
        self.expect_saved()
        self.assertEqual(self.stored_design()["battery"]["body"]["position_mm"], [7, 38, 2.4])
        self.page.keyboard.press("Control+z")
        box = body.bounding_box()
        assert box
        # by a corner that nothing lies on
        x, y = box["x"] + box["width"] / 4, box["y"] + box["height"] - 6
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(x - 60, y, steps=4)
        self.save_by(self.page.mouse.up)
        moved = self.stored_design()["battery"]["body"]["position_mm"]
        self.assertLess(moved[1], 30)
        self.assertEqual(moved[2], 2.4)


class StepByStep(BrowserTestCase):
    """The application is read step by step; one that could not be read comes with a reload, and no other one suffers."""

    def test_a_step_that_can_not_be_read_says_so_and_comes_with_a_reload(self) -> None:
        page = self.new_page()  # with nothing read before
        page.route("**/assets/Supply-*.js", lambda route: route.abort())
        self.open_gadget(page=page)
        steps = page.get_by_role("navigation", name="Steps")
        steps.get_by_role("link", name="Supply").click()
        expect(page.get_by_role("heading", name="This page could not be read")).to_be_visible()
        expect(page.get_by_test_id("figure-runtime")).to_be_visible()  # the verdict stays
        steps.get_by_role("link", name="Battery").click()
        expect(page.get_by_role("main", name="Battery")).to_be_visible()
        page.unroute("**/assets/Supply-*.js")
        steps.get_by_role("link", name="Supply").click()
        page.get_by_role("button", name="Reload").click()
        expect(page.get_by_role("main", name="Supply")).to_be_visible()

    def test_steps_are_read_ahead_and_open_without_a_connection(self) -> None:
        page = self.new_page()
        self.open_gadget(page=page)
        page.wait_for_function(
            "performance.getEntriesByType('resource').some((e) => e.name.includes('/assets/Record-') && e.responseEnd)"
        )
        page.wait_for_timeout(500)
        page.context.set_offline(True)
        for step in ("Brief", "Supply", "Battery", "Charge", "Runtime", "Fit", "Bench", "Record"):
            self.go(step, page)
        page.context.set_offline(False)
