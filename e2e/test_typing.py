"""What is typed stays: by Tab, by a click elsewhere, by leaving the step; only Escape drops it."""

from __future__ import annotations

import re

from playwright.sync_api import Dialog, Locator, Route, expect

from .base import BrowserTestCase


class Typing(BrowserTestCase):
    def cell(self, part: str, mode: str) -> Locator:
        return self.page.get_by_test_id(f"cell-{part}-{mode}")

    def begin(self, part: str, mode: str, text: str) -> Locator:
        cell = self.cell(part, mode)
        cell.click()
        self.page.keyboard.type(text)
        return cell

    def test_a_current_of_a_shared_state_asks_whether_it_is_meant_everywhere(self) -> None:
        self.open_gadget()
        other = self.cell("controller", "recording")
        was = other.text_content() or ""
        cell = self.begin("controller", "listening", "92 mA")
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("alert")).to_contain_text("is used in other modes too")
        self.page.get_by_role("button", name="92 mA here").click()
        expect(cell).to_contain_text("92 mA")
        expect(cell).to_contain_text("active, listening")
        expect(other).to_have_text(was)
        self.begin("controller", "recording", "150 mA everywhere")
        self.page.keyboard.press("Enter")
        expect(other).to_contain_text("150 mA")
        expect(cell).to_contain_text("92 mA")

    def states(self, part: str) -> list[str]:
        self.expect_saved()
        return [s["name"] for p in self.stored_design()["parts"] if p["id"] == part for s in p["states"]]

    def test_a_state_of_ones_own_is_made_once(self) -> None:
        self.open_gadget()
        cell = self.cell("controller", "listening")
        before = self.states("controller")
        for text in ("92 mA here", "95 mA here", "active 97 mA here"):
            self.save_by(lambda text=text: self.type_into_cell("controller", "listening", text))  # type: ignore[misc]
            expect(cell).to_contain_text(text.split(" mA")[0].removeprefix("active ") + " mA")
        self.assertEqual(sorted(self.states("controller")), sorted([*before, "active, listening"]))
        self.assertEqual(self.states("controller")[-1], before[-1])  # the one at work stays the last

    def test_a_current_of_a_burst_is_that_of_its_phase(self) -> None:
        self.open_gadget()
        self.save_by(lambda: self.type_into_cell("card", "recording", "20 mA here"))
        use = next(u for m in self.stored_design()["modes"] if m["id"] == "recording" for u in m["uses"] if u["part"] == "card")  # fmt: skip
        self.assertEqual([p["state"] for p in use["burst"]], ["writing, recording"])
        self.assertEqual(use["rest"], "idle")

    def test_the_browser_asks_while_a_text_waits_in_another_step(self) -> None:
        self.open_gadget()
        cell = self.begin("controller", "listening", "45 mAh")
        self.cell("display", "recording").click()
        expect(cell).to_contain_text("45 mAh")
        self.go("Supply")
        asked: list[str] = []

        def stay(dialog: Dialog) -> None:
            asked.append(dialog.type)
            dialog.dismiss()

        self.page.on("dialog", stay)
        self.page.close(run_before_unload=True)
        self.page.wait_for_timeout(300)
        self.assertEqual(asked, ["beforeunload"])

    def test_a_doubtful_figure_is_asked_about(self) -> None:
        self.open_gadget(step="Battery")
        field = self.page.get_by_label("Rated capacity", exact=True)
        field.fill("1,200 mAh")
        field.press("Tab")
        self.page.get_by_role("button", name="1200 mAh").click()
        expect(field).to_have_value("1.2 Ah")
        self.expect_saved()

    def test_tab_puts_it_in_and_goes_to_the_next_mode(self) -> None:
        self.open_gadget()
        cell = self.begin("controller", "listening", "92 mA here")
        self.page.keyboard.press("Tab")
        expect(cell).to_contain_text("92 mA")
        expect(self.cell("controller", "recording")).to_be_focused()
        self.page.keyboard.type("150 mA here")
        self.page.keyboard.press("Shift+Tab")
        expect(self.cell("controller", "recording")).to_contain_text("150 mA")
        expect(cell).to_be_focused()

    def test_a_click_elsewhere_puts_it_in_where_it_was_typed(self) -> None:
        self.open_gadget()
        cell = self.begin("controller", "listening", "92 mA here")
        other = self.cell("display", "recording")
        was = other.text_content() or ""
        other.click()
        expect(cell).to_contain_text("92 mA")
        expect(other).to_have_text(was)
        self.expect_saved()
        self.page.reload()
        expect(cell).to_contain_text("92 mA")

    def test_leaving_the_step_puts_it_in(self) -> None:
        self.open_gadget()
        before = self.figure("runtime")
        self.begin("controller", "listening", "92 mA here")
        self.go("Supply")
        expect(self.page.get_by_test_id("figure-runtime")).not_to_have_text(before)
        self.page.go_back()
        expect(self.cell("controller", "listening")).to_contain_text("92 mA")

    def test_going_back_in_the_browser_puts_it_in(self) -> None:
        self.open_gadget(step="Supply")
        self.go("Draw")
        before = self.figure("runtime")
        self.begin("controller", "listening", "92 mA here")
        self.page.go_back()
        expect(self.page.get_by_test_id("figure-runtime")).not_to_have_text(before)

    def test_only_escape_drops_it(self) -> None:
        self.open_gadget()
        cell = self.cell("controller", "listening")
        was = cell.text_content() or ""
        self.begin("controller", "listening", "92 mA here")
        self.page.keyboard.press("Escape")
        expect(cell).to_have_text(was)
        self.cell("display", "recording").click()
        expect(cell).to_have_text(was)

    def test_what_is_not_understood_waits_in_its_cell(self) -> None:
        self.open_gadget()
        cell = self.cell("controller", "listening")
        was = cell.text_content() or ""
        self.begin("controller", "listening", "45 mAh")
        self.cell("display", "recording").click()
        expect(cell).to_contain_text("45 mAh")
        self.go("Supply")
        self.go("Draw")
        expect(cell).to_contain_text("not understood: 45 mAh")
        cell.dblclick()
        expect(cell.locator("input")).to_have_value("45 mAh")
        expect(self.page.get_by_role("alert")).to_contain_text("is a charge")
        self.page.keyboard.press("Escape")
        expect(cell).to_have_text(was)

    def test_the_browser_asks_before_it_closes_the_page_on_a_typed_text(self) -> None:
        self.open_gadget()
        asked: list[str] = []

        def stay(dialog: Dialog) -> None:
            asked.append(dialog.type)
            dialog.dismiss()

        self.page.on("dialog", stay)
        self.begin("controller", "listening", "92 mA")
        self.page.close(run_before_unload=True)
        self.page.wait_for_timeout(300)
        self.assertEqual(asked, ["beforeunload"])
        expect(self.cell("controller", "listening").locator("input")).to_have_value("92 mA")

    def test_a_field_keeps_it_too(self) -> None:
        self.open_gadget(step="Brief")
        field = self.page.get_by_label("Runtime, by the clock")
        field.fill("30 days")
        self.go("Draw")
        self.go("Brief")
        expect(field).to_have_value("30 days")
        field.fill("30 parsecs")
        self.go("Draw")
        self.go("Brief")
        expect(field).to_have_value("30 parsecs")
        expect(self.page.get_by_text("is not a unit of a time")).to_be_visible()
        field.press("Escape")
        expect(field).to_have_value("30 days")

    def test_a_text_that_is_still_being_read_when_its_step_is_left_waits_there(self) -> None:
        self.open_gadget(step="Brief")
        held: list[Route] = []

        def hold(route: Route) -> None:
            held.append(route)

        self.page.route("**/api/quantity?*parsecs*", hold)
        field = self.page.get_by_label("Runtime, by the clock")
        with self.page.expect_request("**/api/quantity?*parsecs*"):
            field.fill("30 parsecs")
            self.go("Draw")
        self.go("Brief")
        expect(field).to_have_value("30 parsecs")
        for route in held:  # leaving the field asks, and leaving the step
            route.continue_()
        expect(self.page.get_by_text("is not a unit of a time")).to_be_visible()
        expect(field).to_have_value("30 parsecs")

    def test_how_long_and_how_often_are_said_in_the_head_of_the_column(self) -> None:
        """One text for a mode that happens in one way, read as makers say it; a row each for one that happens in several."""
        self.open_gadget()
        before = self.figure("runtime")
        self.page.get_by_role("button", name="Recording: 40 s, 12 × a day. How long and how often").click()
        box = self.page.get_by_role("dialog", name="how long and how often")
        said = box.get_by_role("textbox", name="How long and how often")
        expect(said).to_be_focused()
        expect(box).to_contain_text("That is 8 min a day.")
        said.fill("40 s often")
        said.press("Tab")
        expect(box.get_by_role("alert")).to_contain_text("does not say how long and how often")
        expect(said).to_have_value("40 s often")
        said.fill("40 s 24 times a day")
        self.save_by(lambda: said.press("Enter"))
        expect(self.page.get_by_test_id("figure-runtime")).not_to_have_text(before)
        self.page.keyboard.press("Escape")
        expect(self.page.get_by_role("button", name="Recording: 40 s, 24 × a day")).to_be_focused()
        self.page.get_by_role("button", name="At the computer: 0 s a day").click()
        said.fill("every 15 min for 2 s")
        self.save_by(lambda: said.press("Tab"))
        self.page.reload()
        self.page.get_by_role("button", name="At the computer: 2 s every 15 min").click()
        expect(box).to_contain_text(re.compile(r"That is 3\.04\smin a day"))
        said.fill("10 min twice a week")  # a wake becomes a session
        self.save_by(lambda: said.press("Enter"))
        expect(self.page.get_by_role("button", name="At the computer: 10 min twice a week")).to_be_visible()
        said.fill("")
        self.save_by(lambda: said.press("Tab"))
        self.page.keyboard.press("Escape")
        expect(self.page.get_by_role("button", name="At the computer: 0 s a day")).to_be_visible()
        self.page.get_by_role("button", name="Listening: 55 min a day").click()
        several = self.page.get_by_role("dialog", name="Listening: how long and how often")
        expect(several.get_by_label("Pressed in the pocket: times a day")).to_be_visible()

    def test_a_range_and_plain_figures_without_a_connection(self) -> None:
        self.open_gadget()
        self.cell("controller", "listening").click()
        typical = self.page.get_by_label("Typical", exact=True).last
        typical.fill("40-60 mA")
        self.save_by(lambda: typical.press("Enter"))
        expect(typical).to_have_value("50 mA")
        expect(self.page.get_by_label("Max", exact=True).last).to_have_value("60 mA")
        self.page.route("**/api/**", lambda route: route.abort())
        typical.fill("48 mA")
        typical.press("Tab")
        expect(typical).to_have_value("48 mA")
        typical.fill("1/2 A")
        typical.press("Tab")
        expect(self.page.get_by_role("alert").filter(has_text="no connection")).to_be_visible()
        expect(typical).to_have_value("1/2 A")

    def test_enter_in_a_search_waits_for_what_is_found(self) -> None:
        self.open_gadget()
        held: list[Route] = []

        def hold(route: Route) -> None:
            held.append(route)

        self.page.route("**/api/catalogue?*text=humidity*", hold)
        self.page.get_by_role("button", name="Part", exact=True).click()
        search = self.page.get_by_role("dialog").get_by_label("Search")
        with self.page.expect_request("**/api/catalogue?*text=humidity*"):
            search.fill("humidity")
        search.press("Enter")
        expect(self.page.get_by_role("dialog")).to_be_visible()
        for route in held:
            route.continue_()
        expect(self.page.get_by_role("dialog")).to_have_count(0)
        expect(self.page.get_by_role("grid")).to_contain_text("Climate sensor")
