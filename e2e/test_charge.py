"""Charge: settings, sources, loads meanwhile, own chargers, the case in its heat; and everything placed at once."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import FilePayload, Route, expect

from .base import BrowserTestCase


class Charging(BrowserTestCase):
    def value(self, name: str) -> str:
        return self.page.get_by_role("button", name=f"{name}: ").first.inner_text()

    def test_a_resistor_from_the_table_charges_more_gently(self) -> None:
        self.open_gadget(step="Charge")
        picture = self.page.get_by_role("img", name="A charge over time: full after")
        expect(picture).to_be_visible()
        before = picture.get_attribute("aria-label")
        row = self.page.get_by_role("button", name="Set 2.7 kΩ")
        self.save_by(row.click)
        self.assertEqual(self.stored_design()["charger"]["program_ohm"], 2700)
        expect(row).to_be_disabled()
        expect(self.page.get_by_label("Setting resistor", exact=True)).to_have_value("2.7 kΩ")
        expect(self.page.get_by_role("img", name=before or "", exact=True)).to_have_count(0)
        expect(self.page.get_by_test_id("verdict-charge")).to_have_attribute("data-status", "pass")

    def test_plugged_in_half_full_it_takes_less(self) -> None:
        self.open_gadget(step="Charge")
        picture = self.page.get_by_role("img", name="A charge over time")
        expect(picture).to_be_visible()
        whole = picture.get_attribute("aria-label")
        self.page.get_by_label("Plugged in").select_option("from half")
        expect(self.page.get_by_role("img", name=whole or "", exact=True)).to_have_count(0)
        expect(picture).to_be_visible()

    def test_the_mode_meanwhile_is_chosen_and_one_that_takes_too_much_never_ends(self) -> None:
        self.open_gadget(step="Charge")
        loud = self.page.get_by_role("radio", name="loudest playback")
        expect(self.page.get_by_role("row", name="loudest playback")).to_contain_text("never")
        self.save_by(loud.check)
        expect(loud).to_be_checked()
        self.assertEqual(self.stored_design()["charger"]["mode"], "loudest")
        expect(self.page.get_by_test_id("finding-never-full")).to_be_visible()
        expect(self.page.get_by_text("It does not get full: the ")).to_be_visible()

    def test_a_charge_that_stops_at_once_is_said_and_not_drawn(self) -> None:
        self.open_gadget(step="Charge")
        expect(self.page.get_by_role("img", name="A charge over time")).to_be_visible()
        resistor = self.page.get_by_role("textbox", name="Setting resistor")
        resistor.fill("1 Ω")
        resistor.press("Tab")
        expect(self.page.get_by_text("It does not get full: the port has nothing left.")).to_be_visible()
        expect(self.page.get_by_role("img", name="A charge over time")).to_have_count(0)
        expect(self.page.get_by_test_id("finding-charge-current")).to_contain_text("1333 C")
        expect(self.page.get_by_role("region", name="How the current is set")).to_contain_text("1333 C")

    def test_a_socket_without_its_resistors_gives_nothing_and_the_remedy_adds_them(self) -> None:
        self.open_gadget(step="Charge")
        self.save_by(lambda: self.page.get_by_label("Source").select_option("a type-C socket"))
        self.save_by(lambda: self.page.get_by_label("The socket has its two").uncheck())
        finding = self.page.get_by_test_id("finding-no-type-c-resistors")
        expect(self.page.get_by_test_id("verdict-charge")).to_have_attribute("data-status", "fail")
        self.save_by(lambda: finding.get_by_role("button", name="Apply").click())
        expect(finding).to_have_count(0)
        self.assertTrue(self.stored_design()["charger"]["port"]["resistors"])

    def test_a_typed_current_stays_after_a_reload(self) -> None:
        self.open_gadget(step="Charge")
        self.save_by(lambda: self.page.get_by_label("Its current is set by").select_option("itself, or steps"))
        field = self.page.get_by_label("Its current", exact=True)
        field.fill("300 mA")
        self.save_by(lambda: field.press("Tab"))
        self.page.reload()
        expect(self.page.get_by_label("Its current", exact=True)).to_have_value("300 mA")
        self.assertEqual(self.stored_design()["charger"]["fixed_a"], 0.3)
        field = self.page.get_by_label("Its current", exact=True)
        field.fill("0")
        field.press("Enter")
        expect(self.page.get_by_role("alert").filter(has_text="0")).to_be_visible()
        self.assertEqual(self.stored_design()["charger"]["fixed_a"], 0.3)

    def test_another_charger_and_one_kept_as_my_own(self) -> None:
        self.open_gadget(step="Charge")
        self.page.get_by_role("button", name="Take another").click()
        self.page.keyboard.type("small cells, 100")
        self.save_by(lambda: self.page.get_by_role("button", name="Take Charger board for small cells, 100 mA").click())
        self.assertEqual(self.stored_design()["charger"]["program_ohm"], 10000)
        name = self.page.get_by_label("Name", exact=True)
        name.fill("My charger")
        self.save_by(lambda: name.press("Enter"))
        self.page.get_by_role("button", name="Keep in my catalogue").click()
        expect(self.page.get_by_text("Kept as edition 1")).to_be_visible()
        self.page.get_by_role("button", name="Take another").click()
        self.page.keyboard.type("my charger")
        expect(self.page.get_by_role("button", name="Take My charger")).to_be_visible()

    def test_a_charger_of_mine_from_a_file_and_back_into_one(self) -> None:
        self.open_gadget(step="Charge")
        self.page.get_by_role("button", name="Take another").click()
        buffer = b"name,float voltage [V],charge current [mA],timer\nHill charger,4.2,220,3 h\n"
        file: FilePayload = {"name": "chargers.csv", "mimeType": "text/csv", "buffer": buffer}
        self.page.get_by_label("Add entries of your own").set_input_files(
            file | {"buffer": buffer + b"Steep,44,1,1 h\n"}
        )
        expect(self.page.get_by_role("alert")).to_contain_text("row 3, float voltage")
        self.page.get_by_label("Add entries of your own").set_input_files(file)
        expect(self.page.get_by_text("1 entry is in your catalogue now")).to_be_visible()
        self.page.get_by_label("Search").fill("hill charger")
        self.save_by(lambda: self.page.get_by_role("button", name="Take Hill charger").click())
        charger = self.stored_design()["charger"]
        self.assertEqual((charger["fixed_a"], charger["timer_h"]), (0.22, 3))
        self.page.get_by_role("button", name="Take another").click()
        with self.page.expect_download() as download:
            self.page.get_by_role("link", name="chargers as CSV").click()
        self.assertIn("Hill charger,cc-cv,linear,4.2 V", Path(download.value.path()).read_text())

    def test_nothing_is_taken_from_a_list_that_is_about_to_change(self) -> None:
        self.open_gadget(step="Charge")
        self.page.get_by_role("button", name="Take another").click()
        dialog = self.page.get_by_role("dialog")
        first = dialog.get_by_role("button", name=re.compile("^Take ")).first
        expect(first).to_be_visible()
        place = first.bounding_box()
        assert place is not None
        held, search = list[Route](), re.compile(r"/api/catalogue\?.*switching")

        def hold(route: Route) -> None:
            held.append(route)

        self.page.route(search, hold)
        self.page.get_by_label("Search").fill("switching")
        expect(dialog.locator("ul")).to_have_attribute("aria-busy", "true")
        self.page.mouse.click(place["x"] + place["width"] / 2, place["y"] + place["height"] / 2)
        expect(dialog).to_be_visible()
        for _ in range(100):
            if held:
                break
            self.page.wait_for_timeout(50)
        for route in held:
            route.continue_()
        expect(dialog.locator("ul")).to_have_attribute("aria-busy", "false")
        self.save_by(dialog.get_by_role("button", name=re.compile("^Take ")).first.click)
        self.assertIn("switching", self.stored_design()["charger"]["name"].lower())

    def test_without_a_connection_the_list_says_so_and_what_it_has_can_be_taken(self) -> None:
        self.open_gadget(step="Charge")
        self.page.get_by_role("button", name="Take another").click()
        dialog = self.page.get_by_role("dialog")
        own = dialog.get_by_role("button", name=re.compile("^Take ")).first
        expect(own).to_be_visible()
        name = str(own.get_attribute("aria-label")).removeprefix("Take ")
        self.page.context.set_offline(True)
        self.page.get_by_label("Search").fill("switching")
        expect(dialog.get_by_text("Without a connection the catalogue can’t be searched; below is")).to_be_visible()
        own.click()
        expect(dialog).to_have_count(0)
        self.save_by(lambda: self.page.context.set_offline(False), patience_s=60)
        self.assertEqual(self.stored_design()["charger"]["name"], name)

    def test_a_panel_through_december(self) -> None:
        self.open_gadget(step="Charge")
        self.save_by(lambda: self.page.get_by_label("Source").select_option("a solar panel"))
        panel = self.page.get_by_role("region", name="The panel")
        expect(panel).to_contain_text("A usual day brings")
        peak = self.page.get_by_label("Peak power")
        peak.fill("50 mW")
        self.save_by(lambda: peak.press("Enter"))
        expect(self.page.get_by_test_id("finding-too-little-sun")).to_be_visible()
        latitude = self.page.get_by_label("Latitude")
        latitude.fill("-89")
        self.save_by(lambda: latitude.press("Enter"))
        self.assertEqual(self.stored_design()["charger"]["port"]["panel"]["latitude_deg"], -89)


class Heat(BrowserTestCase):
    def test_the_band_leads_to_the_heat_and_a_dark_case_in_the_sun_is_warmer(self) -> None:
        self.open_gadget()
        self.page.get_by_test_id("verdict-heat").click()
        section = self.page.get_by_role("img", name="Charging: ")
        expect(section).to_be_visible()
        table = self.page.get_by_role("img", name="Listening: ")
        self.page.get_by_label("While", exact=True).select_option("listening")
        warmth = str(table.get_attribute("aria-label"))
        self.save_by(lambda: self.page.get_by_label("It may lie in the sun").check())
        self.save_by(lambda: self.page.get_by_label("Its colour").select_option("dark"))
        expect(table).not_to_have_attribute("aria-label", warmth)
        self.assertTrue(self.stored_design()["enclosure"]["in_sun"])

    def test_a_cell_too_warm_to_be_charged_is_marked_in_the_section(self) -> None:
        self.open_gadget(step="Brief")
        hottest = self.page.get_by_label("Hottest", exact=True)
        self.save_by(lambda: self.page.get_by_label("Charged", exact=True).select_option("anywhere"))
        hottest.fill("42 °C")
        self.save_by(lambda: hottest.press("Tab"))
        self.go("Charge")
        self.page.get_by_role("tab", name="Heat").click()
        section = self.page.get_by_role("img", name="Charging: ")
        expect(section).to_contain_text("°C, 45 °C at most")
        self.page.get_by_label("While", exact=True).select_option("while asleep")
        expect(self.page.get_by_role("img", name="Asleep: ")).not_to_contain_text("at most")

    def test_vents_are_typed_and_too_large_ones_are_refused_at_their_field(self) -> None:
        self.open_gadget(step="Charge")
        self.page.get_by_role("tab", name="Heat").click()
        self.save_by(lambda: self.page.get_by_label("Vents low and high").check())
        area = self.page.get_by_label("Free area below", exact=True)
        area.fill("2 cm²")
        self.save_by(lambda: area.press("Enter"))
        self.assertEqual(self.stored_design()["enclosure"]["vents"]["area_mm2"], 200)
        area.fill("900 cm²")
        area.press("Tab")
        expect(
            self.page.get_by_role("alert").filter(has_text="more than half of its largest wall").first
        ).to_be_visible()
        self.assertEqual(self.stored_design()["enclosure"]["vents"]["area_mm2"], 200)
        area.fill("100 mm²")
        self.save_by(lambda: area.press("Enter"))
        self.page.get_by_label("While", exact=True).select_option("while listening")
        expect(self.page.get_by_role("img", name="Listening: ")).to_be_visible()


class Placing(BrowserTestCase):
    def test_all_is_placed_anew_in_one_edit_and_undone_in_one(self) -> None:
        self.open_gadget(step="Fit")
        before = self.stored_design()
        self.save_by(lambda: self.page.get_by_role("button", name="Place all anew").click())
        expect(self.page.get_by_role("status").filter(has_text="placed.")).to_be_visible()
        self.assertNotEqual(self.stored_design()["parts"], before["parts"])
        self.save_by(lambda: self.page.keyboard.press("Control+z"))
        self.assertEqual(self.stored_design()["parts"], before["parts"])
        self.assertEqual(self.stored_design()["battery"], before["battery"])

    def test_the_smallest_case_is_taken_over_in_one_edit(self) -> None:
        self.open_gadget("Two coin cells", step="Fit")
        before = self.stored_design()["enclosure"]["outer_mm"]
        self.page.get_by_role("button", name="Smallest case").click()
        expect(self.page.get_by_role("status").filter(has_text="less room than now")).to_be_visible(timeout=30_000)
        self.save_by(lambda: self.page.get_by_role("button", name="Take it over").click())
        after = self.stored_design()["enclosure"]["outer_mm"]
        self.assertLess(after[0] * after[1] * after[2], 0.8 * before[0] * before[1] * before[2])
        self.save_by(lambda: self.page.keyboard.press("Control+z"))
        self.assertEqual(self.stored_design()["enclosure"]["outer_mm"], before)
