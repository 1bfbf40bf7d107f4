"""Begin with a question: the band moves with each answer, the design that comes of it works, its guesses are checked one by one."""

from __future__ import annotations

from playwright.sync_api import Locator, expect

from .base import BrowserTestCase

MOST_ACTIONS = 8


class Begin(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.actions = 0
        self.page.goto(self.live_server_url)
        self.page.get_by_role("button", name="Look around in the demo").click()
        self.press(self.page.get_by_role("button", name="New gadget"))
        expect(self.page.get_by_role("heading", name="What will it be?")).to_be_visible()

    def press(self, target: Locator) -> None:
        self.actions += 1
        target.click()

    def answer(self, label: str, text: str) -> None:
        self.actions += 1
        field = self.page.get_by_label(label)
        field.fill(text)
        field.press("Tab")

    def kind(self, name: str) -> None:
        self.press(self.page.get_by_role("radio", name=name))
        expect(self.page.get_by_test_id("verdict-runtime")).to_have_attribute("data-status", "pass", timeout=20_000)

    def make(self) -> None:
        self.press(self.page.get_by_role("button", name="Make it"))
        expect(self.page.get_by_role("main", name="Draw")).to_be_visible()
        expect(self.page.get_by_test_id("verdict-fit")).to_contain_text("closes")
        self.assertLessEqual(self.actions, MOST_ACTIONS)

    def test_eight_gadgets_in_few_actions(self) -> None:
        for kind, what, text in (
            ("Sleeps, wakes and reports", "Report", "3 s every 20 min"), ("Light", "Lit", "30 min twice a day"),
            ("Handheld with display and sound", "Playing", "2 h a day"), ("Worn on the body", "Looked at", "4 s 60 times a day"),
            ("Tester or instrument", "Measuring", "3 min 4 times a day"), ("Remote control", "Key press", "0.4 s 50 times a day"),
            ("Small computer", "At work", "1 h a day"), ("Motor or heater", "Moving", "10 s 4 times a day"),
        ):  # fmt: skip
            with self.subTest(kind):
                if self.actions != 1:
                    self.actions = 0
                    self.page.goto(f"{self.live_server_url}/gadgets")
                    self.press(self.page.get_by_role("button", name="New gadget"))
                self.kind(kind)
                self.answer(f"{what}: how long and how often", text)
                self.make()
                expect(self.page.get_by_test_id("verdict-runtime")).to_have_attribute("data-status", "pass")

    def test_the_band_moves_with_each_answer_and_stays_where_one_cannot_be_read(self) -> None:
        self.kind("Sleeps, wakes and reports")
        runtime = self.page.get_by_test_id("figure-runtime")
        first = runtime.inner_text()
        self.answer("Report: how long and how often", "2 s every hour")
        expect(runtime).not_to_have_text(first)
        second = runtime.inner_text()
        self.answer("Report: how long and how often", "now and then")
        expect(self.page.get_by_role("alert")).to_contain_text("does not say how long and how often")
        expect(runtime).to_have_text(second)
        expect(self.page.get_by_role("button", name="Make it")).to_be_disabled()
        self.answer("Report: how long and how often", "")
        expect(runtime).to_have_text(first)
        self.press(self.page.get_by_role("radio", name="Pouch and charger"))
        expect(self.page.get_by_test_id("verdict-charge")).not_to_contain_text("swap the cells")
        self.answer("Must last", "60 years")
        expect(self.page.get_by_role("alert")).to_be_visible()

    def test_answers_outlive_a_reload_and_no_connection(self) -> None:
        self.kind("Remote control")
        runtime = self.page.get_by_test_id("figure-runtime")
        first = runtime.inner_text()
        self.answer("Key press: how long and how often", "1 s 40 times a day")
        expect(runtime).not_to_have_text(first)
        before = runtime.inner_text()
        self.page.reload()
        expect(self.page.get_by_label("Key press: how long and how often")).to_have_value("1 s 40 times a day")
        expect(runtime).to_have_text(before)
        self.page.route("**/api/recipes/begin", lambda route: route.abort())
        self.page.route("**/api/projects/from-answers", lambda route: route.abort())
        self.page.get_by_role("radio", name="Pouch and charger").check()
        expect(self.page.get_by_text("There is no connection to work it out by")).to_be_visible()
        expect(runtime).to_have_text(before)
        self.page.unroute("**/api/recipes/begin")
        self.page.get_by_role("radio", name="Cells that are swapped").check()
        expect(self.page.get_by_text("It works and lasts as long as it must.")).to_be_visible()
        self.page.get_by_role("button", name="Make it").click()
        expect(self.page.get_by_role("alert")).to_contain_text("There is no connection. Nothing was saved.")

    def test_guesses_are_checked_one_by_one(self) -> None:
        self.kind("Sleeps, wakes and reports")
        self.make()
        guesses = self.page.get_by_role("region", name="Guesses")
        expect(guesses.get_by_role("listitem")).to_have_count(5)
        expect(self.page.get_by_test_id("verdict-runtime")).to_contain_text("5 guesses")
        before = self.page.get_by_test_id("figure-runtime").inner_text()
        field = guesses.get_by_label("Short-range radio controller (SR-5): send", exact=True)
        field.fill("20 mA")
        self.save_by(lambda: field.press("Tab"))
        expect(guesses.get_by_role("listitem")).to_have_count(4)
        expect(self.page.get_by_test_id("figure-runtime")).not_to_have_text(before)
        self.save_by(guesses.get_by_role("button", name="It is so: Report: how long and how often").click)
        expect(guesses.get_by_role("listitem")).to_have_count(3)
        self.page.reload()
        expect(guesses.get_by_role("listitem")).to_have_count(3)
        self.page.get_by_role("button", name="Undo:").click()
        expect(guesses.get_by_role("listitem")).to_have_count(4)

    def test_what_is_worth_doing_next_leads_there_and_can_be_hidden_and_found_again(self) -> None:
        self.kind("Sleeps, wakes and reports")
        self.make()
        page = self.page
        hints = page.get_by_role("region", name="Worth doing next")
        first = page.get_by_test_id("hint-guess")
        expect(first).to_contain_text("guesses it is the one that carries the answer")
        page.get_by_role("link", name="Brief").click()
        first.click()
        expect(page.get_by_role("main", name="Draw")).to_be_visible()
        page.get_by_role("button", name="Hide what to do next").click()
        page.reload()
        expect(page.get_by_role("button", name="What to do next")).to_be_visible()
        expect(hints).to_have_count(0)
        page.keyboard.press("Control+k")
        page.get_by_placeholder("What do you want to do?").fill("what to do next")
        page.keyboard.press("Enter")
        expect(hints).to_be_visible()

    def test_a_step_is_found_again_where_it_was_left(self) -> None:
        self.kind("Sleeps, wakes and reports")
        self.make()
        page = self.page
        page.get_by_role("link", name="Brief").click()
        main = page.get_by_role("main", name="Brief")
        main.evaluate("m => { m.scrollTop = 120 }")
        there = main.evaluate("m => m.scrollTop")
        self.assertGreater(there, 20)
        page.get_by_role("link", name="Fit").click()
        expect(page.get_by_role("main", name="Fit")).to_be_visible()
        page.get_by_role("link", name="Brief").click()
        expect(main).to_be_visible()
        self.assertEqual(main.evaluate("m => m.scrollTop"), there)
