"""Runtime: the day by the clock, measures together, samples, outlook, the firmware's table; batteries with a past."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Locator, expect

from .test_steps import StepTestCase


class Clock(StepTestCase):
    def walk(self) -> Locator:
        return self.page.get_by_test_id("clock-session").first

    def test_a_session_is_moved_and_stretched_by_keyboard(self) -> None:
        self.open_gadget(step="Runtime")
        expect(self.walk()).to_have_attribute("aria-label", "Evening walk, Listening, 20:45 to 21:30. "
                                              "Arrows move it, with Shift they stretch it, Delete takes it out")  # fmt: skip
        self.walk().focus()
        self.page.keyboard.press("ArrowLeft")
        expect(self.page.get_by_text("20:40", exact=True).first).to_be_visible()
        self.page.keyboard.press("Shift+ArrowRight")
        expect(self.walk()).to_have_attribute("aria-label", re.compile("20:40 to 21:30"))
        self.expect_saved()
        walk = self.stored_design()["day"]["sessions"][0]
        self.assertAlmostEqual(walk["at_h"][0], 20 + 40 / 60, places=5)
        self.assertEqual(walk["seconds"], 3000)

    def test_a_session_is_dragged_and_undone(self) -> None:
        self.open_gadget(step="Runtime")
        self.walk().evaluate("e => e.scrollIntoView({ block: 'center' })")
        box = self.walk().bounding_box()
        lane = self.walk().locator("xpath=..").bounding_box()
        assert box and lane
        x, y = box["x"] + box["width"] / 3, box["y"] + box["height"] / 2
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(x - lane["width"] / 8, y, steps=5)
        self.save_by(self.page.mouse.up)
        self.assertAlmostEqual(self.stored_design()["day"]["sessions"][0]["at_h"][0], 17.75, delta=0.1)
        self.page.keyboard.press("Control+z")
        expect(self.page.get_by_text("20:45", exact=True).first).to_be_visible()

    def test_two_sessions_cannot_be_pushed_into_each_other(self) -> None:
        self.open_gadget(step="Runtime")
        self.page.get_by_role("button", name="Playing back to friends: when").click()
        self.page.get_by_role("button", name="Time", exact=True).click()
        self.enter(self.page.get_by_label("Playing back to friends: start 1"), "21:35")
        self.walk().focus()
        for _ in range(4):
            self.page.keyboard.press("ArrowRight")
        self.expect_saved()
        starts = [s["at_h"] for s in self.stored_design()["day"]["sessions"]]
        self.assertLessEqual(starts[0][0] + 0.75, starts[2][0] + 1e-6)

    def test_a_typed_time_that_overlaps_is_said_at_its_row(self) -> None:
        self.open_gadget(step="Runtime")
        self.page.get_by_role("button", name="Playing back to friends: when").click()
        self.page.get_by_role("button", name="Time", exact=True).click()
        field = self.page.get_by_label("Playing back to friends: start 1")
        self.enter(field, "25:00")
        expect(self.page.get_by_text("0:00 to 23:59")).to_be_visible()
        self.enter(field, "9 pm")
        expect(self.page.get_by_text("at 21:00 it overlaps Evening walk at 20:45").first).to_be_visible()
        self.enter(field, "22:00")
        expect(self.page.get_by_text("it overlaps")).to_have_count(0)

    def test_a_session_past_midnight_goes_on_in_the_morning(self) -> None:
        self.open_gadget(step="Runtime")
        self.page.get_by_role("button", name="Evening walk: when").click()
        self.enter(self.page.get_by_label("Evening walk: start 1"), "23:30")
        self.enter(self.page.get_by_label("Evening walk: how long"), "3 h")
        expect(self.page.get_by_test_id("past-midnight")).to_be_visible()
        lane = self.walk().locator("xpath=..").bounding_box()
        box = self.walk().bounding_box()
        assert lane and box
        self.assertLessEqual(box["x"] + box["width"], lane["x"] + lane["width"] + 1)

    def test_weekdays_a_timeout_and_booting(self) -> None:
        self.open_gadget(step="Runtime")
        self.page.get_by_role("button", name="Evening walk: when").click()
        for day in ("Fri", "Sat"):
            self.page.get_by_role("button", name=day, exact=True).click()
        self.page.get_by_label("Ends with").select_option("listening")
        self.page.get_by_label("Starts with").select_option("check")
        self.enter(self.page.get_by_label("for", exact=True).first, "8 s")
        expect(self.page.get_by_role("region", name="The average day and the worst one")).to_contain_text("Fri, Sat")
        self.expect_saved()
        walk = self.stored_design()["day"]["sessions"][0]
        self.assertEqual((walk["days"], walk["before"], walk["after"]["mode"]),
                         ([4, 5], {"mode": "check", "seconds": 8}, "listening"))  # fmt: skip

    def test_a_wake_with_hours_of_its_own(self) -> None:
        self.open_gadget(step="Runtime")
        self.page.get_by_role("button", name="Battery check: when").click()
        self.save_by(lambda: self.enter(self.page.get_by_label("Only from"), "18:00"))
        self.save_by(lambda: self.enter(self.page.get_by_label("Only until"), "23:00"))
        wake = self.stored_design()["day"]["wakes"][0]
        self.assertEqual((wake["from_h"], wake["to_h"]), (18, 23))

    def test_one_day_at_the_battery_follows_the_charge(self) -> None:
        self.open_gadget(step="Runtime")
        day = self.page.get_by_role("region", name="One day at the battery")
        expect(day).to_contain_text("events; the day takes")
        before = day.get_by_text("events; the day takes").inner_text()
        day.get_by_role("button", name="nearly empty").click()
        expect(day.get_by_text("events; the day takes")).not_to_have_text(before)


class Views(StepTestCase):
    def view(self, name: str) -> None:
        self.page.get_by_role("tab", name=name).click()

    def test_picked_measures_together_become_a_variant(self) -> None:
        self.open_gadget(step="Runtime")
        self.view("What would help")
        self.page.get_by_label("Pick: A lock against pressed in the pocket").check()
        self.page.get_by_label("Pick: Power LED on the module dark while asleep").check()
        together = self.page.get_by_test_id("picked-savings")
        expect(together).to_contain_text("Together")
        before = self.figure("runtime")
        together.get_by_role("button", name="Keep as a variant").click()
        expect(self.page.get_by_role("banner").get_by_role("combobox")).to_contain_text("With 2 measures")
        expect(self.page.get_by_test_id("figure-runtime")).not_to_have_text(before)
        design = self.stored_design()
        self.assertEqual(design["day"]["sessions"][-1]["per_day"], 0.5)

    def test_what_each_brings_alone_is_there_before_what_it_brings_on_top(self) -> None:
        page = self.page
        page.route("**/savings/stack?**", lambda route: route.abort())
        self.open_gadget(step="Runtime")
        self.view("What would help")
        row = page.get_by_test_id("saving-lock")
        expect(row.get_by_role("cell").nth(2)).to_contain_text("+")
        alert = page.get_by_role("alert").filter(has_text="There is no connection")
        expect(alert).not_to_contain_text("Nothing was saved")  # it was a question only
        expect(page.get_by_text("What each brings on top of those above it is not known")).to_be_visible()
        expect(row.get_by_role("cell").nth(3)).to_have_text("")
        page.unroute("**/savings/stack?**")
        alert.get_by_role("button", name="Try again").click()
        expect(alert).to_have_count(0)
        expect(row.get_by_role("cell").nth(3)).to_have_text(re.compile(r"days|excluded"))
        expect(page.get_by_label("being tried")).to_have_count(0)

    def test_measures_that_exclude_each_other_are_said(self) -> None:
        self.open_gadget(step="Runtime")
        self.view("What would help")
        self.page.get_by_label("Pick: No Power LED on the module").check(timeout=60_000)
        self.page.get_by_label("Pick: Power LED on the module dark while asleep").check()
        expect(self.page.get_by_test_id("picked-savings")).to_contain_text("Left out, as they exclude each other")

    def test_how_sure_it_is_and_what_to_measure(self) -> None:
        self.open_gadget(step="Runtime")
        self.view("How sure it is")
        expect(self.page.get_by_role("region", name="What to measure next")).to_contain_text("Measure ")
        thousand = self.page.get_by_role("region", name="A thousand such gadgets")
        thousand.get_by_role("button", name="Half of them last").click()
        expect(self.page.get_by_role("dialog")).to_contain_text("JCGM 101:2008")

    def test_cold_and_years(self) -> None:
        self.open_gadget(step="Runtime")
        self.view("Cold, heat and years")
        expect(self.page.get_by_role("region", name="Over temperature")).to_contain_text("the coldest of the brief")
        expect(self.page.get_by_role("region", name="Over the years")).to_contain_text("full charges in five years")

    def test_how_often_it_wakes(self) -> None:
        self.open_gadget(step="Runtime")
        self.view("What would help")
        curve = self.page.get_by_role("region", name="Battery check: how often")
        expect(curve).to_contain_text("Every 30 min it lasts")
        curve.get_by_role("button", name="Table").click()
        expect(curve.get_by_role("columnheader", name="interval [s]")).to_be_visible()

    def test_the_firmware_s_table_is_saved_as_header_and_csv(self) -> None:
        self.open_gadget(step="Runtime")
        self.view("For the firmware")
        for button, name, words in (
            ("C header", "dusk-ear-soc-table.h", "STOP_BELOW_MV"),
            ("CSV", "dusk-ear-soc-table.csv", "left_percent"),
        ):
            with self.page.expect_download() as download:
                self.page.get_by_role("button", name=button, exact=True).click()
            self.assertEqual(download.value.suggested_filename, name)
            self.assertIn(words, Path(download.value.path()).read_text())


class Batteries(StepTestCase):
    def test_a_cell_from_its_datasheet(self) -> None:
        self.open_gadget(step="Battery")
        self.page.get_by_role("button", name="From a datasheet").click()
        dialog = self.page.get_by_role("dialog", name="A cell from its datasheet")
        self.enter(dialog.get_by_label("Name"), "House pouch")
        self.enter(dialog.get_by_label("Capacity", exact=True), "1.2 Ah")
        self.enter(dialog.get_by_label("at a current of"), "240 mA")
        self.enter(dialog.get_by_label("Capacity at a larger current"), "1.3 Ah")
        self.enter(dialog.get_by_label("of", exact=True), "1.2 A")
        dialog.get_by_role("button", name="Work it out").click()
        expect(dialog.get_by_role("alert")).to_contain_text("above the one at the smaller")
        self.enter(dialog.get_by_label("Capacity at a larger current"), "1.1 Ah")
        dialog.get_by_role("button", name="Work it out").click()
        expect(dialog).to_contain_text("gives both capacities back")
        self.save_by(dialog.get_by_role("button", name="Use this cell").click)
        cell = self.stored_design()["battery"]["cell"]
        self.assertEqual((cell["name"], round(cell["curve"]["unavailable_h"], 3)), ("House pouch", 0.104))
        self.page.get_by_role("button", name="Keep in my catalogue").click()
        expect(self.page.get_by_role("status").filter(has_text="Kept as edition 1")).to_be_visible()
        self.page.get_by_role("button", name="From the catalogue").click()
        take = self.page.get_by_role("dialog", name="Take a cell")
        take.get_by_label("Search").fill("House")
        expect(take.get_by_role("button", name="House pouch").first).to_be_visible()

    def test_a_used_cell_asks_to_be_measured(self) -> None:
        self.open_gadget(step="Battery")
        self.page.get_by_label("The cell is").select_option("salvaged")
        finding = self.page.get_by_test_id("finding-not-measured")
        expect(finding).to_be_visible()
        self.enter(self.page.get_by_label("Measured capacity"), "710 mAh")
        expect(finding).to_have_count(0)
        steps = self.page.get_by_role("region", name="From the rated capacity to the usable one")
        expect(steps).to_contain_text("Less than rated, as measured")

    def test_a_power_bank_from_the_catalogue_says_that_it_switches_off(self) -> None:
        self.open_gadget(step="Battery")
        self.page.get_by_role("button", name="From the catalogue").click()
        dialog = self.page.get_by_role("dialog", name="Take a cell")
        dialog.get_by_label("Search").fill("5000 mAh")
        dialog.get_by_role("button", name="Power bank, flat, 5000 mAh").click()
        expect(self.page.get_by_test_id("finding-switches-off")).to_be_visible()
        expect(self.page.get_by_role("region", name="The power bank")).to_be_visible()
        self.enter(self.page.get_by_label("Auto-shutoff below"), "0 A")
        expect(self.page.get_by_test_id("finding-switches-off")).to_have_count(0)

    def test_cells_in_another_order(self) -> None:
        self.open_gadget(step="Battery")
        self.page.get_by_role("button", name="Which cell suits?").click()
        table = self.page.get_by_role("region", name="Cells, ranked")
        expect(table).to_be_visible(timeout=60_000)  # seconds of work, and three at a time here
        self.page.get_by_label("Order").select_option("cost")
        costs = [float(t.split()[0]) for t in table.locator("tbody tr td:nth-child(7)").all_inner_texts()]
        self.assertEqual(costs[:-1], sorted(costs[:-1]))  # the last one is the present cell, which does not suit
