"""Editing: every edit shows its consequence, is saved, can be undone, and nothing is lost."""

from __future__ import annotations

import json
import random
from unittest.mock import patch

from playwright.sync_api import Page, Route, expect

from .base import BrowserTestCase


class Editing(BrowserTestCase):
    def test_an_edited_current_changes_the_band_survives_a_reload_and_is_undone_after_it(self) -> None:
        self.open_gadget()
        before = self.figure("runtime")
        self.type_into_cell("controller", "listening", "92 mA")
        expect(self.page.get_by_test_id("figure-runtime")).not_to_have_text(before)
        after = self.figure("runtime")
        expect(self.page.get_by_test_id("verdict-runtime")).to_contain_text(f"was {before}")
        self.expect_saved()
        self.page.reload()
        expect(self.page.get_by_test_id("figure-runtime")).to_have_text(after)
        self.page.get_by_role("button", name="Undo:").click()
        expect(self.page.get_by_test_id("figure-runtime")).to_have_text(before)
        self.page.keyboard.press("Control+y")
        expect(self.page.get_by_test_id("figure-runtime")).to_have_text(after)

    def test_an_edit_that_is_not_saved_yet_survives_a_reload(self) -> None:
        self.open_gadget()
        self.page.route("**/revisions", lambda route: route.abort())
        self.type_into_cell("controller", "listening", "92 mA")
        expect(self.page.get_by_test_id("save-state")).to_have_attribute("data-save", "offline")
        after = self.figure("runtime")
        self.page.unroute("**/revisions")
        self.page.reload()
        expect(self.page.get_by_test_id("figure-runtime")).to_have_text(after)
        self.expect_saved()

    def test_work_that_an_earlier_build_left_unsaved_is_brought_up(self) -> None:
        """The same format, and fields were missing that came since: the work is kept, and every view of it opens."""
        self.open_gadget()
        self.page.route("**/revisions", lambda route: route.abort())
        self.type_into_cell("controller", "listening", "92 mA")
        expect(self.page.get_by_test_id("save-state")).to_have_attribute("data-save", "offline")
        self.page.evaluate("""() => {
          for (const key of Object.keys(localStorage).filter((k) => k.startsWith('ember.history'))) {
            const whole = JSON.parse(localStorage.getItem(key));
            if (!whole.unsaved) continue;
            whole.format = 'frugal-ember/3';
            for (const design of [whole.unsaved.design, whole.unsaved.base]) {
              for (const field of ['fastenings', 'films', 'making']) delete design.enclosure[field];
              for (const event of [...design.day.sessions, ...design.day.wakes]) delete event.id;
            }
            localStorage.setItem(key, JSON.stringify(whole));
          }
        }""")
        self.page.unroute("**/revisions")
        self.page.reload()
        self.expect_saved()
        kept = self.stored_design()
        self.assertIn(
            0.092, [s["draw"]["current_a"]["typical"] for s in kept["parts"][0]["states"] if "current_a" in s["draw"]]
        )
        self.go("Fit")
        expect(self.page.get_by_role("group", name="What holds it together")).to_be_visible()

    def test_a_save_that_was_still_on_its_way_when_the_page_was_left_is_no_conflict(self) -> None:
        self.open_gadget()
        variant = self.page.url.split("/gadgets/")[1].split("/")[0]
        saved: list[dict[str, object]] = []

        def late(route: Route) -> None:
            """The server takes the save, and the page never hears of it."""
            saved.append(json.loads(route.request.post_data or "{}"))
            route.fetch()
            route.abort()

        self.page.route("**/revisions", late)
        self.type_into_cell("controller", "listening", "92 mA")
        expect(self.page.get_by_test_id("save-state")).to_have_attribute("data-save", "offline")
        self.page.unroute("**/revisions")
        self.expect_saved()
        self.assertTrue(saved)
        revisions = self.page.request.get(f"{self.live_server_url}/api/variants/{variant}/revisions").json()
        self.assertLessEqual(len(revisions), 3)

    def test_a_charge_typed_for_a_current_is_explained_and_a_bare_number_asked_about(self) -> None:
        self.open_gadget()
        before = self.figure("runtime")
        self.type_into_cell("controller", "listening", "45 mAh", taken=False)
        alert = self.page.get_by_role("alert")
        expect(alert).to_contain_text("is a charge (what a battery holds), not a current")
        self.page.keyboard.press("Escape")
        self.type_into_cell("controller", "listening", "92", taken=False)
        expect(alert).to_contain_text("92 of what?")
        self.page.get_by_role("button", name="92 mA", exact=True).click()
        self.page.get_by_role("button", name="92 mA everywhere", exact=True).click()
        expect(self.page.get_by_test_id("figure-runtime")).not_to_have_text(before)

    def test_the_grid_works_by_keyboard_alone(self) -> None:
        self.open_gadget()
        self.page.get_by_test_id("cell-controller-asleep").focus()
        for key in ("ArrowRight", "ArrowRight", "ArrowDown", "ArrowDown", "ArrowDown"):
            self.page.keyboard.press(key)
        cell = self.page.get_by_test_id("cell-preamp-listening")
        expect(cell).to_be_focused()
        self.page.keyboard.press("Delete")
        expect(cell).to_have_text("–")
        self.page.keyboard.press("Enter")
        self.page.keyboard.type("on 50%")
        self.page.keyboard.press("Enter")
        expect(cell).to_contain_text("on, 50 %")
        expect(self.page.get_by_test_id("cell-display-listening")).to_be_focused()

    def test_random_edits_are_undone_and_redone_exactly(self) -> None:
        self.open_gadget()
        self.page.get_by_test_id("cell-controller-asleep").click()
        first = self.stored_design()
        choose = random.Random(20)
        parts = [p["id"] for p in first["parts"]]
        modes = [m["id"] for m in first["modes"]]
        edits = 0
        for _ in range(12):
            text = choose.choice(["5 mA", "0.7 mA", "33%", "120 µA", "-"])
            cell = (choose.choice(parts), choose.choice(modes))
            undo = self.page.get_by_role("button", name="Undo:")
            label = undo.get_attribute("aria-label") if undo.count() else None
            self.type_into_cell(*cell, text)
            new_label = undo.get_attribute("aria-label") if undo.count() else None
            edits += new_label != label
        self.expect_saved()
        last = self.stored_design()
        self.assertNotEqual(first, last)
        undo, redo = (self.page.get_by_role("button", name=n) for n in ("Undo:", "Redo:"))
        while undo.count():
            undo.click()
        self.expect_saved()
        self.assertEqual(self.stored_design(), first)
        while redo.count():
            redo.click()
        self.expect_saved()
        self.assertEqual(self.stored_design(), last)
        self.assertGreater(edits, 4)

    def test_a_quantity_that_cannot_be_read_stays_in_its_field_with_the_reason(self) -> None:
        self.open_gadget(step="Battery")
        field = self.page.get_by_label("Rated capacity", exact=True)
        field.fill("650 mA")
        field.press("Enter")
        expect(self.page.get_by_role("alert")).to_contain_text("is a current, not a charge")
        expect(field).to_have_value("650 mA")
        expect(field).to_have_attribute("aria-invalid", "true")
        field.fill("1.2 Ah")
        self.save_by(lambda: field.press("Enter"))
        expect(field).to_have_value("1.2 Ah")
        self.assertEqual(self.stored_design()["battery"]["cell"]["capacity_ah"], 1.2)

    def test_a_document_with_a_problem_is_not_saved_and_says_so(self) -> None:
        self.open_gadget(step="Runtime")
        field = self.page.get_by_label("Evening walk: how long")
        field.fill("25 h")
        field.press("Enter")
        expect(self.page.get_by_text("above 24 h").first).to_be_visible()
        expect(self.page.get_by_test_id("save-state")).to_have_attribute("data-save", "blocked")
        self.save_by(self.page.get_by_role("button", name="Undo the last edit").click)
        self.assertEqual(self.stored_design()["day"]["sessions"][0]["seconds"], 2700)

    def test_show_it_leads_to_the_field_and_the_figures_stay_after_a_reload(self) -> None:
        self.open_gadget(step="Runtime")
        runtime = self.figure("runtime")
        field = self.page.get_by_label("Evening walk: how long")
        field.fill("25 h")
        field.press("Enter")
        self.go("Battery")
        self.page.reload()
        expect(self.page.get_by_test_id("figure-runtime")).to_have_text(runtime)
        strip = self.page.get_by_role("alert").filter(has_text="The figures below are from before")
        expect(strip).to_contain_text("Day › sessions › Evening walk")
        strip.get_by_role("button", name="Show it").click()
        expect(self.page.get_by_role("main", name="Runtime")).to_be_visible()
        expect(self.page.get_by_label("Evening walk: how long")).to_be_focused()


class Instead(BrowserTestCase):
    def test_another_part_is_kept_beside_tried_and_given_back(self) -> None:
        self.open_gadget()
        self.page.get_by_role("button", name="Small OLED display (OD-09)").first.click()
        before = self.figure("runtime")
        self.page.get_by_role("button", name="What would do in its place?").click()
        table = self.page.get_by_role("region", name="Parts in its place")
        expect(table).to_be_visible(timeout=60_000)
        self.page.get_by_role("textbox", name="What it is like").fill("e-paper 1.5")
        self.page.keyboard.press("Enter")
        keep = table.get_by_role("button", name="Keep E-paper display, 1.5 inch (EP-15) beside")
        expect(table.get_by_role("row", name="Memory LCD")).to_have_count(0, timeout=60_000)
        self.save_by(keep.click)
        use = table.get_by_role("button", name="Use E-paper display, 1.5 inch (EP-15), kept beside")
        expect(use).to_be_visible(timeout=60_000)
        self.save_by(use.click)
        display = next(p for p in self.stored_design()["parts"] if p["name"] == "E-paper display, 1.5 inch (EP-15)")
        self.assertEqual([x["name"] for x in display["alternatives"]], ["Small OLED display (OD-09)"])
        expect(self.page.get_by_test_id("figure-runtime")).not_to_have_text(before)
        expect(self.page.get_by_role("region", name="In its place")).to_contain_text("Small OLED display (OD-09)")
        self.page.reload()
        self.save_by(lambda: self.page.keyboard.press("Control+z"))
        expect(self.page.get_by_test_id("figure-runtime")).to_have_text(before)


class Windows(BrowserTestCase):
    """Two windows on one document, and none on the server."""

    def setUp(self) -> None:
        super().setUp()
        self.open_gadget()
        self.other = self.new_page(self.page.context)
        # within the window: what it sends as it is left slips past Playwright's routes now and then
        self.other.add_init_script(
            """const send = window.fetch;
            window.fetch = (...what) =>
              sessionStorage.getItem("cut") ? Promise.reject(new TypeError("cut off")) : send(...what);"""
        )
        self.open_gadget(page=self.other)

    def cut(self, page: Page) -> None:
        page.evaluate("sessionStorage.setItem('cut', 'yes')")

    def join(self, page: Page) -> None:
        page.evaluate("sessionStorage.removeItem('cut')")
        page.evaluate("window.dispatchEvent(new Event('online'))")

    def typical(self, part: int, name: str) -> float:
        states = self.stored_design()["parts"][part]["states"]
        return float(next(s for s in states if s["name"] == name)["draw"]["current_a"]["typical"])

    def type_offline(self, label: str, text: str) -> None:
        """Into a field of the other window's brief, while it has no connection."""
        self.go("Brief", self.other)
        self.cut(self.other)
        field = self.other.get_by_label(label)
        field.fill(text)
        field.press("Tab")
        expect(self.other.get_by_test_id("save-state")).to_have_attribute("data-save", "offline")

    def test_a_window_hears_of_what_another_one_saved(self) -> None:
        self.save_by(lambda: self.type_into_cell("controller", "listening", "92 mA"))
        expect(self.other.get_by_test_id("cell-controller-listening")).to_contain_text("92 mA")
        expect(self.other.get_by_role("status").filter(has_text="Changed in another window")).to_contain_text("92 mA")
        expect(self.other.get_by_test_id("save-state")).to_have_attribute("data-save", "saved")

    def test_the_way_back_outlives_another_windows_change(self) -> None:
        was = self.typical(0, "active")
        self.save_by(lambda: self.type_into_cell("controller", "listening", "93 mA"))
        self.go("Brief", self.other)
        field = self.other.get_by_label("In a few words")
        before = field.input_value()
        field.fill("Listens at dawn")
        self.save_by(lambda: field.press("Tab"), self.other)
        expect(self.page.get_by_role("status").filter(has_text="Changed in another window")).to_be_visible()
        self.save_by(self.page.get_by_role("button", name="Undo:").click)
        self.assertEqual((self.typical(0, "active"), self.stored_design()["summary"]), (was, "Listens at dawn"))
        self.save_by(self.other.get_by_role("button", name="Undo:").click, self.other)
        self.assertEqual((self.typical(0, "active"), self.stored_design()["summary"]), (was, before))

    def test_edits_made_offline_are_kept_sent_and_put_together(self) -> None:
        self.type_offline("In a few words", "Listens at dusk")
        self.other.reload(wait_until="commit")  # nothing to reload from: the browser's storage has it
        self.save_by(lambda: self.type_into_cell("controller", "listening", "92 mA"))
        self.join(self.other)
        self.other.goto(self.page.url)
        self.expect_saved(self.other)
        expect(self.other.get_by_role("status").filter(has_text="Put together")).to_contain_text("92 mA")
        self.assertEqual(self.stored_design()["summary"], "Listens at dusk")
        self.assertEqual(self.typical(0, "active"), 0.092)
        expect(self.page.get_by_role("status").filter(has_text="Changed in another window")).to_be_visible()

    def test_the_same_place_changed_twice_is_asked_about_in_words(self) -> None:
        self.type_offline("Name", "Dawn Ear")
        self.save_by(lambda: self.type_into_cell("controller", "listening", "92 mA"))
        self.go("Brief")
        field = self.page.get_by_label("Name")
        field.fill("Noon Ear")
        self.save_by(lambda: field.press("Tab"))
        self.join(self.other)
        dialog = self.other.get_by_role("dialog", name="Changed here and elsewhere")
        for text in ("Name", "Dawn Ear", "Noon Ear"):
            expect(dialog).to_contain_text(text)
        dialog.get_by_role("button", name="Go on with mine").click()
        self.expect_saved(self.other)
        self.assertEqual(self.stored_design()["name"], "Dawn Ear")
        self.assertEqual(self.typical(0, "active"), 0.092)

    def test_taking_the_other_can_be_undone(self) -> None:
        self.type_offline("Name", "Dawn Ear")
        self.go("Brief")
        field = self.page.get_by_label("Name")
        field.fill("Noon Ear")
        self.save_by(lambda: field.press("Tab"))
        self.join(self.other)
        dialog = self.other.get_by_role("dialog", name="Changed here and elsewhere")
        dialog.get_by_role("button", name="Go on with the other").click()
        expect(self.other.get_by_label("Name")).to_have_value("Noon Ear")
        self.expect_saved(self.other)
        self.save_by(self.other.get_by_role("button", name="Undo: Going on with the other").click, self.other)
        self.assertEqual(self.stored_design()["name"], "Dawn Ear")

    def test_a_server_that_says_not_now_is_tried_again(self) -> None:
        def busy(route: Route) -> None:
            route.fulfill(status=503, content_type="application/problem+json",
                          body='{"title": "The database does not answer", "status": 503, "errors": []}')  # fmt: skip

        self.page.route("**/revisions", busy)
        self.type_into_cell("controller", "listening", "92 mA")
        expect(self.page.get_by_test_id("save-state")).to_have_attribute("data-save", "offline")
        self.page.unroute_all(behavior="ignoreErrors")
        self.expect_saved()
        self.assertEqual(self.typical(0, "active"), 0.092)

    def test_each_edit_is_evaluated_once(self) -> None:
        with patch("projects.services.evaluate", side_effect=AssertionError("the save has a receipt")):
            self.save_by(lambda: self.type_into_cell("controller", "listening", "92 mA"))


class Remedies(BrowserTestCase):
    def test_preview_apply_and_undo(self) -> None:
        self.open_gadget(step="Charge")
        finding = self.page.get_by_test_id("finding-charge-current")
        charge = self.page.get_by_test_id("verdict-charge")
        expect(charge).to_have_attribute("data-status", "fail")
        finding.get_by_role("button", name="Preview").click()
        expect(charge).to_have_attribute("data-status", "pass")
        self.page.get_by_role("button", name="Leave as it is").click()
        expect(charge).to_have_attribute("data-status", "fail")
        finding.get_by_role("button", name="Apply").click()
        expect(finding).to_have_count(0)
        expect(charge).to_have_attribute("data-status", "pass")
        expect(self.page.get_by_label("Setting resistor")).to_have_value("2.7 kΩ")
        self.page.keyboard.press("Control+z")
        expect(finding).to_be_visible()

    def test_a_saving_is_applied_and_counted(self) -> None:
        self.open_gadget(step="Runtime")
        before = self.figure("runtime")
        self.page.get_by_role("tab", name="What would help").click()
        saving = self.page.get_by_test_id("saving-dark-in-sleep")
        saving.get_by_role("button", name="Power LED on the module dark").click()
        saving.get_by_role("button", name="Apply").click()
        expect(self.page.get_by_test_id("figure-runtime")).not_to_have_text(before)
        expect(self.page.get_by_test_id("finding-indicator-led")).to_have_count(0)
