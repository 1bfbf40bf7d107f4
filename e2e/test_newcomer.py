"""A newcomer gets from New gadget to a first runtime that can be believed in at most twenty actions.

An action is a press, or a text typed with the Enter or Tab that ends it. docs/DESIGN.md tells them in words.
"""

from __future__ import annotations

import re

from playwright.sync_api import Locator, expect

from .base import BrowserTestCase

MOST_ACTIONS = 20


class Newcomer(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.actions = 0
        page = self.page
        page.goto(self.live_server_url)
        page.get_by_role("button", name="Look around in the demo").click()
        expect(page.get_by_role("heading", name="Gadgets", exact=True)).to_be_visible()

    def press(self, target: Locator) -> None:
        self.actions += 1
        target.click()

    def button(self, name: str) -> None:
        self.press(self.page.get_by_role("button", name=name, exact=True).first)

    def type(self, text: str, key: str = "Enter") -> None:
        """Into what has the focus."""
        self.actions += 1
        self.page.keyboard.type(text)
        self.page.keyboard.press(key)

    def begin(self, name: str) -> None:
        self.button("Empty or from a file")
        expect(self.page.get_by_label("Name", exact=True)).to_be_focused()
        self.type(name)
        expect(self.page.get_by_role("main", name="Draw")).to_be_visible()

    def take_part(self, words: str, expected: str) -> None:
        self.button("Part")
        search = self.page.get_by_role("dialog").get_by_label("Search")
        expect(search).to_be_focused()
        self.actions += 1
        self.page.keyboard.type(words)
        expect(self.page.get_by_role("dialog").get_by_role("listitem").first).to_contain_text(expected)
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("dialog")).to_have_count(0)

    def often(self, how_long: str, times_a_day: str) -> None:
        """In the head of the column of In use."""
        self.press(self.page.get_by_role("button", name=re.compile("^In use: .* How long")))
        box = self.page.get_by_role("dialog", name="In use: how long and how often")
        expect(box.get_by_role("textbox", name="How long and how often")).to_be_focused()
        self.page.keyboard.press("Control+a")
        self.save_by(lambda: self.type(f"{how_long} {times_a_day} times a day"))
        self.page.keyboard.press("Escape")
        self.actions += 1

    def set(self, label: str, text: str) -> None:
        field = self.page.get_by_label(label, exact=True)
        field.fill(text)
        field.press("Enter")
        self.actions += 1

    def step(self, name: str) -> None:
        self.actions += 1
        self.go(name)

    def take_cell(self, words: str, expected: str) -> None:
        self.step("Battery")
        self.button("From the catalogue")
        self.actions += 1
        self.page.keyboard.type(words)
        expect(self.page.get_by_role("dialog").get_by_role("listitem").first).to_contain_text(expected)
        self.page.keyboard.press("Enter")

    def runtime_between(self, least_h: float, most_h: float) -> None:
        self.expect_saved()
        variant = self.page.url.split("/gadgets/")[1].split("/")[0]
        found = self.page.request.get(f"{self.live_server_url}/api/variants/{variant}").json()["revision"]["runtime_h"]
        self.assertTrue(least_h < found < most_h, found)
        self.assertLessEqual(self.actions, MOST_ACTIONS)

    def test_a_sleeping_sensor(self) -> None:
        self.begin("Shed thermometer")
        self.take_part("short range radio controller", "Short-range radio controller")
        self.take_part("humidity", "Climate sensor")
        self.often("2 s", "144")
        # 500 mAh; a few microamperes asleep, some milliamperes for 288 s a day
        self.runtime_between(24 * 100, 24 * 2000)

    def test_a_light_on_three_aaa_cells(self) -> None:
        self.begin("Tent light")
        self.take_part("white led", "White LED")
        self.take_cell("alkaline aaa", "AAA")
        self.set("In series", "3")
        self.step("Charge")
        self.press(self.page.get_by_role("button", name="Remove", exact=True))
        self.step("Draw")
        self.often("2 h", "1")
        # about 1.1 Ah; 8 mA for two hours a day
        self.runtime_between(24 * 20, 24 * 120)

    def test_a_radio_remote(self) -> None:
        self.begin("Blind remote")
        self.take_part("bluetooth controller", "Short-range radio controller")
        self.take_part("push button", "Push button")
        self.take_cell("cr2032", "2032")
        self.step("Charge")
        self.press(self.page.get_by_role("button", name="Remove", exact=True))
        self.step("Draw")
        self.often("1 s", "20")
        self.runtime_between(24 * 100, 24 * 365 * 12)
