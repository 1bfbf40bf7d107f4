"""The draw grid as a grid: ranges, copy and paste, filling, many parts, bursts on their axis."""

from __future__ import annotations

import json

from core.tests.large import large_design
from playwright.sync_api import Locator, expect

from .base import BrowserTestCase


class Grid(BrowserTestCase):
    def cell(self, part: str, mode: str) -> Locator:
        return self.page.get_by_test_id(f"cell-{part}-{mode}")

    def stretch(self, part: str, mode: str, *keys: str) -> None:
        self.cell(part, mode).click()
        for key in keys:
            self.page.keyboard.press(f"Shift+{key}")

    def paste(self, text: str) -> None:
        """As if a spreadsheet had put this text onto the clipboard."""
        self.page.evaluate(
            """text => {
              const data = new DataTransfer();
              data.setData('text/plain', text);
              document.activeElement.dispatchEvent(
                new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }));
            }""",
            text,
        )

    def test_typing_over_a_range_fills_it_and_one_undo_takes_it_back(self) -> None:
        self.open_gadget()
        before = self.figure("runtime")
        self.stretch("preamp", "listening", "ArrowRight", "ArrowDown")
        expect(self.page.get_by_role("toolbar", name="The selected cells")).to_contain_text("4 cells")
        self.page.keyboard.type("off")
        self.page.keyboard.press("Enter")
        for part in ("preamp", "display"):
            for mode in ("listening", "recording"):
                expect(self.cell(part, mode)).to_contain_text("off")
        self.page.get_by_role("button", name="Undo: 4 cells").click()
        expect(self.page.get_by_test_id("figure-runtime")).to_have_text(before)

    def test_a_block_goes_out_to_a_spreadsheet_and_comes_back(self) -> None:
        self.open_gadget()
        self.stretch("controller", "listening", "ArrowRight", "ArrowRight", *["ArrowDown"] * 5)
        copied = self.page.evaluate(
            """() => {
              const data = new DataTransfer();
              document.activeElement.dispatchEvent(
                new ClipboardEvent('copy', { clipboardData: data, bubbles: true, cancelable: true }));
              return data.getData('text/plain');
            }"""
        )
        rows = [line.split("\t") for line in copied.split("\n")]
        self.assertEqual(rows[0], ["active", "active", "active"])
        self.assertEqual(rows[5][1], "writing 0.8 s every 2.5 s else idle")
        before = self.figure("runtime")
        self.page.keyboard.press("Delete")
        expect(self.cell("card", "recording")).to_have_text("–")
        self.paste(copied)
        expect(self.cell("card", "recording")).to_contain_text("writing every 2.5 s")
        expect(self.page.get_by_test_id("figure-runtime")).to_have_text(before)

    def test_a_paste_that_is_not_understood_changes_nothing_and_says_why(self) -> None:
        self.open_gadget()
        before = self.stored_design()["modes"]
        self.cell("preamp", "listening").click()
        self.paste("off\t45 mAh\nglowing\ton")
        alert = self.page.get_by_role("alert")
        expect(alert).to_contain_text("nothing was changed")
        expect(alert).to_contain_text("is a charge")
        expect(alert).to_contain_text("has no state 'glowing'")
        self.assertEqual(self.stored_design()["modes"], before)

    def test_a_state_is_made_where_it_is_typed_and_a_name_takes_its_part(self) -> None:
        self.open_gadget()
        self.cell("preamp", "listening").click()
        self.page.keyboard.type("shouting 5 mA 20 %")
        self.save_by(lambda: self.page.keyboard.press("Enter"))
        expect(self.cell("preamp", "listening")).to_contain_text("shouting")
        part = next(p for p in self.stored_design()["parts"] if p["id"] == "preamp")
        self.assertEqual(part["states"][-1]["name"], "shouting")
        self.assertEqual(part["states"][-1]["draw"]["current_a"]["typical"], 0.005)
        self.page.get_by_role("grid").get_by_role("button", name="Small OLED display (OD-09)", exact=True).click()
        expect(self.page.get_by_role("complementary").get_by_label("Name", exact=True)).to_have_value(
            "Small OLED display (OD-09)"
        )

    def test_filling_right_and_by_dragging_the_mouse(self) -> None:
        self.open_gadget()
        start, end = self.cell("display", "asleep").bounding_box(), self.cell("display", "loudest").bounding_box()
        assert start and end
        self.page.mouse.move(start["x"] + 20, start["y"] + 20)
        self.page.mouse.down()
        self.page.mouse.move(end["x"] + 20, end["y"] + 20, steps=8)
        self.page.mouse.up()
        expect(self.page.get_by_role("toolbar", name="The selected cells")).to_contain_text("5 cells")
        self.page.get_by_role("button", name="Fill right").click()
        for mode in ("check", "listening", "recording", "loudest"):
            expect(self.cell("display", mode)).to_contain_text("off")

    def test_a_phase_is_dragged_on_its_axis_and_moved_by_keys(self) -> None:
        self.open_gadget()
        self.cell("card", "recording").click()
        details = self.page.get_by_role("complementary", name="Details and findings")
        grip = details.get_by_role("slider", name="End of phase 1")
        before = float(grip.get_attribute("aria-valuenow") or 0)
        grip.focus()
        self.save_by(lambda: self.page.keyboard.press("ArrowRight"))
        keyed = self.stored_design()["modes"][3]["uses"]
        moved = next(u for u in keyed if u["part"] == "card")["burst"][0]["seconds"]
        self.assertGreater(moved, before)
        box = grip.bounding_box()
        assert box
        self.page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        self.page.mouse.down()
        self.page.mouse.move(box["x"] + box["width"] / 2 - 30, box["y"] + box["height"] / 2, steps=4)
        self.save_by(self.page.mouse.up)
        dragged = next(u for u in self.stored_design()["modes"][3]["uses"] if u["part"] == "card")["burst"][0][
            "seconds"
        ]
        self.assertLess(dragged, moved)

    def test_a_typed_burst_and_a_shape_of_the_part(self) -> None:
        self.open_gadget()
        self.type_into_cell("controller", "check", "active 0.4 s + radio 2 s every 10 min else deep sleep")
        expect(self.cell("controller", "check")).to_contain_text("active, radio every 10 min")
        self.cell("controller", "listening").click()
        details = self.page.get_by_role("complementary", name="Details and findings")
        self.save_by(lambda: details.get_by_role("button", name="boot, join, send").click())
        use = next(u for u in self.stored_design()["modes"][2]["uses"] if u["part"] == "controller")
        self.assertEqual([p["state"] for p in use["burst"]], ["active", "radio", "active"])

    def test_three_hundred_parts_draw_only_the_rows_in_sight(self) -> None:
        self.open_gadget()
        document = json.loads(large_design(300, 4).model_dump_json())
        self.page.goto(f"{self.live_server_url}/gadgets")
        self.page.get_by_role("button", name="Empty or from a file").click()
        self.page.get_by_text("From a design document").click()
        self.page.locator("input[type=file]").set_input_files(
            {"name": "large.json", "mimeType": "application/json", "buffer": json.dumps(document).encode()}
        )
        self.page.get_by_role("button", name="Make it").click()
        expect(self.cell("p0", "m0")).to_be_visible()
        self.assertLess(self.page.locator("[role=gridcell]").count(), 60 * 4)
        self.cell("p0", "m0").click()
        for _ in range(40):
            self.page.keyboard.press("PageDown")
        expect(self.page.locator("[role=gridcell]:focus")).to_have_attribute("data-testid", "cell-p299-m0")
        self.page.keyboard.type("7 mA")
        self.page.keyboard.press("Enter")
        expect(self.cell("p299", "m0")).to_contain_text("7 mA")


class Goals(BrowserTestCase):
    def test_a_mode_that_does_not_last_as_long_as_it_has_to(self) -> None:
        """Typed and left by Tab, told, kept over a reload, and gone without it."""
        self.open_gadget()
        self.page.get_by_role("button", name="Loudest playback", exact=True).click()
        goal = self.page.get_by_label("Has to last by itself, from full")

        def typed(text: str) -> None:
            goal.fill(text)
            goal.press("Tab")

        self.save_by(lambda: typed("40 h"))
        expect(self.page.get_by_text("Loudest playback ends before its goal").first).to_be_visible()
        self.page.reload()
        self.page.get_by_role("button", name="Loudest playback", exact=True).click()
        expect(goal).to_have_value("40 h")
        self.save_by(lambda: typed(""))
        expect(self.page.get_by_text("Loudest playback ends before its goal")).to_have_count(0)

    def test_what_stands_in_another_list_is_named(self) -> None:
        self.open_gadget()
        self.page.get_by_role("button", name="Part", exact=True).click()
        self.page.get_by_label("Search", exact=True).fill("zinc-air")
        expect(self.page.get_by_text("Nothing is called that")).to_be_visible()
        expect(self.page.get_by_text("Among the cells (Battery):")).to_be_visible()
        expect(self.page.get_by_text("Button zinc-air, size 10; ")).to_be_visible()
