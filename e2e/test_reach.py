"""Reach: by keyboard, by ear, on a narrow screen and with large text."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from .base import BrowserTestCase

STEPS = ("Brief", "Draw", "Supply", "Battery", "Charge", "Runtime", "Fit", "Bench", "Record")
LEAST_TARGET = 24  # CSS pixels, WCAG 2.2, 2.5.8

TARGETS = """
() => [...document.querySelectorAll("button, a[href], input:not([type=file]), select, textarea, [role=button]")]
  .filter((e) => e instanceof HTMLElement)  // bodies in a drawing are as large as they are; the list beside it chooses them too
  .filter((e) => e.checkVisibility({ visibilityProperty: true, opacityProperty: true }) && !e.closest(".sr-only"))
  .filter((e) => {
    const style = getComputedStyle(e);
    if (style.position === "absolute" && style.width === "1px") return false;
    if (e.matches("[data-testid=clock-session]")) return false;  // as long as it lasts; its row below has the fields
    const text = e.parentElement;
    // a link or button within a line of text is as high as the line
    if (style.display.startsWith("inline") && text && text.textContent.trim() !== e.textContent.trim()
        && ["P", "SPAN", "H2", "H3", "LI", "TD", "DD", "TH", "DIV"].includes(text.tagName) && !e.matches("input, select")) return false;
    const label = e.matches("input[type=checkbox], input[type=radio]") ? e.closest("label") : null;
    const box = (label ?? e).getBoundingClientRect();
    return box.width > 0 && (box.width < %d - 0.5 || box.height < %d - 0.5);
  })
  .map((e) => `${e.tagName} ${e.getAttribute("aria-label") ?? e.textContent.slice(0, 40)} ` +
    `${Math.round(e.getBoundingClientRect().width)}x${Math.round(e.getBoundingClientRect().height)}`)
""".replace("%d", str(LEAST_TARGET))

OVERFLOW = """
() => {
  const wide = document.documentElement.scrollWidth - document.documentElement.clientWidth;
  if (wide <= 1) return [];
  const limit = document.documentElement.clientWidth + 1;
  return [...document.querySelectorAll("body *")].filter((e) => e.getBoundingClientRect().right > limit
    && !e.closest(".overflow-x-auto, .overflow-auto, .overflow-y-auto")).slice(0, 6)
    .map((e) => `${e.tagName}.${e.className}`.slice(0, 120) + ` ${Math.round(e.getBoundingClientRect().right)}`);
}
"""


class Keyboard(BrowserTestCase):
    def test_a_dialog_opens_on_its_first_field_and_gives_the_focus_back(self) -> None:
        self.open_gadget()
        opener = self.page.get_by_role("button", name="Part", exact=True)
        for leave in ("Escape", "Close"):
            opener.click()
            dialog = self.page.get_by_role("dialog", name="Take a part")
            expect(dialog.get_by_label("Search")).to_be_focused()
            if leave == "Escape":
                self.page.keyboard.press("Escape")
            else:
                dialog.get_by_role("button", name="Close").click()
            expect(dialog).to_have_count(0)
            expect(opener).to_be_focused()
        self.page.keyboard.press("Control+k")
        expect(self.page.get_by_placeholder("What do you want to do?")).to_be_focused()
        self.page.keyboard.press("Escape")
        expect(opener).to_be_focused()

    def test_undo_works_in_a_field_whose_text_is_in(self) -> None:
        self.open_gadget(step="Battery")
        field = self.page.get_by_label("Rated capacity", exact=True)
        was = field.input_value()
        field.fill("1.2 Ah")
        self.save_by(lambda: field.press("Enter"))
        expect(field).to_have_value("1.2 Ah")
        expect(field).to_be_focused()
        self.save_by(lambda: field.press("Control+z"))
        expect(field).to_have_value(was)

    def test_titles_skip_link_and_announcement(self) -> None:
        self.open_gadget()
        expect(self.page).to_have_title("Draw · Dusk Ear · Frugal Ember")
        self.go("Battery")
        expect(self.page).to_have_title("Battery · Dusk Ear · Frugal Ember")
        self.page.reload()
        expect(self.page.get_by_test_id("figure-runtime")).to_be_visible()
        self.page.keyboard.press("Tab")
        skip = self.page.get_by_role("link", name="Skip to the work")
        expect(skip).to_be_focused()
        expect(skip).to_be_in_viewport()
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("main")).to_be_focused()
        expect(self.page.get_by_test_id("announcement")).to_have_text("")
        self.go("Draw")
        self.type_into_cell("controller", "listening", "92 mA")
        expect(self.page.get_by_test_id("announcement")).to_contain_text("short of the goal")
        self.page.goto(f"{self.live_server_url}/gadgets")
        expect(self.page).to_have_title("Gadgets · Frugal Ember")

    def test_parts_are_found_by_what_people_call_them_and_taken_by_enter(self) -> None:
        self.open_gadget()
        self.page.get_by_role("button", name="Part", exact=True).click()
        search = self.page.get_by_label("Search")
        search.fill("tact")
        expect(self.page.get_by_role("button", name="Take Push button, momentary")).to_be_visible()
        search.fill("buzer")
        expect(self.page.get_by_role("dialog").get_by_role("listitem").first).to_contain_text("buzzer")
        self.save_by(lambda: search.press("Enter"))
        self.assertIn("buzzer", self.stored_design()["parts"][-1]["name"])
        self.page.get_by_role("button", name="Part", exact=True).click()
        expect(search).to_have_value("")
        search.fill("Fog organ")
        expect(self.page.get_by_text("Nothing is called that")).to_be_visible()
        self.save_by(self.page.get_by_role("button", name="Make “Fog organ” yourself").click)
        part = self.stored_design()["parts"][-1]
        self.assertEqual((part["name"], [s["provenance"] for s in part["states"]]), ("Fog organ", ["guess", "guess"]))
        expect(self.page.get_by_label("Name", exact=True)).to_have_value("Fog organ")


class Sizes(BrowserTestCase):
    def on_every_step(self, page: Page, script: str) -> dict[str, list[str]]:
        self.open_gadget(page=page)
        found = {}
        for step in STEPS:
            self.go(step, page)
            page.wait_for_load_state("networkidle")
            page.wait_for_timeout(300)
            if wrong := page.evaluate(script):
                found[step] = wrong
        page.goto(f"{self.live_server_url}/gadgets")
        expect(page.get_by_role("heading", name="Gadgets", exact=True)).to_be_visible()
        if wrong := page.evaluate(script):
            found["Gadgets"] = wrong
        return found

    def test_targets_are_large_enough(self) -> None:
        self.assertEqual(self.on_every_step(self.page, TARGETS), {})

    def test_nothing_runs_over_on_a_narrow_screen(self) -> None:
        page = self.new_page(viewport={"width": 390, "height": 844})
        self.assertEqual(self.on_every_step(page, OVERFLOW), {})

    def test_nothing_runs_over_at_twice_the_text(self) -> None:
        page = self.new_page(viewport={"width": 1280, "height": 800})
        page.add_init_script(
            "document.addEventListener('DOMContentLoaded', () => { document.documentElement.style.fontSize = '32px' })"
        )
        self.assertEqual(self.on_every_step(page, OVERFLOW), {})
