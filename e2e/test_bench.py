"""Bench: a sheet for each demo, a reading that is typed and judged, put into the design, undone, and there after a reload."""

from __future__ import annotations

import re
from threading import Thread

from django.conf import settings
from django.test import override_settings
from playwright.sync_api import Page, expect
from standins.gadget import BenchGadget
from standins.instrument import InstrumentServer, Unit

from ember_core import read_design
from ember_core.catalogue import built_in
from ember_core.measures.bench import TrialBench
from ember_core.traces import simulated

from .base import BrowserTestCase, a_worker


class Bench(BrowserTestCase):
    def open_bench(self, variant: str, view: str) -> Page:
        page = self.open_gadget(variant, step="Bench")
        page.get_by_role("tab", name=view).click()
        return page

    def test_a_pin_is_picked_undone_and_there_after_a_reload(self) -> None:
        page = self.open_bench("Pouch cell", "Wiring")
        expect(page.get_by_text("Every signal has its pin: 14 wires.")).to_be_visible(timeout=15_000)
        pin = page.get_by_label("Pin for sound of Sound amplifier, 2 W (DA-2)")
        row = page.get_by_role("listitem").filter(has=pin)
        self.save_by(lambda: pin.select_option("P9"))
        expect(row).to_contain_text(re.compile(r"^P9"), timeout=15_000)
        page.reload()
        expect(row).to_contain_text(re.compile(r"^P9"), timeout=15_000)
        expect(pin).to_have_value("P9")
        self.save_by(lambda: pin.select_option("any that will do"))
        expect(pin).to_have_value("")

    def test_pins_that_run_short_have_ways_out(self) -> None:
        page = self.open_gadget("Pouch cell", step="Draw")
        page.get_by_role("button", name="Buttons and pull resistors", exact=True).click()
        details = page.get_by_role("complementary", name="Details and findings")
        needs = details.get_by_label("Needs of the controller")
        needs.fill("key: in x3 wake")
        needs.press("Tab")
        expect(details.get_by_role("alert").filter(has_text="Line 1")).to_be_visible(timeout=15_000)
        expect(needs).to_have_value("key: in x3 wake")  # nothing that was typed is lost
        page.get_by_role("button", name="Memory card in its holder (MC)", exact=True).click()
        page.get_by_role("button", name="Buttons and pull resistors", exact=True).click()
        expect(needs).to_have_value("key: in x3 wake")
        needs.fill("key: in x9 wakes pull")
        self.save_by(lambda: needs.press("Tab"))
        self.go("Bench")
        page.get_by_role("tab", name="Wiring").click()
        expect(page.get_by_text("9 ask for a pin that can wake, and 8 can")).to_be_visible(timeout=15_000)
        self.save_by(lambda: page.get_by_role("button", name="Join the 9 that wake by diodes").click())
        expect(page.get_by_text("Every signal has its pin: 21 wires.")).to_be_visible(timeout=15_000)
        self.save_by(lambda: page.keyboard.press("Control+z"))
        expect(page.get_by_text("9 ask for a pin that can wake, and 8 can")).to_be_visible(timeout=15_000)

    def test_what_is_forgotten_is_put_on_the_bill_and_steps_are_ticked_off(self) -> None:
        page = self.open_bench("Pouch cell", "Assembly")
        cost = page.get_by_test_id("figure-cost").inner_text()
        self.save_by(lambda: page.get_by_role("button", name="missing on the bill").click(timeout=15_000))
        expect(page.get_by_text("not on the bill")).to_have_count(0, timeout=15_000)
        expect(page.get_by_test_id("figure-cost")).not_to_have_text(cost)
        done = page.get_by_role("button", name="Done: Put everything in dry")
        done.click()
        expect(done).to_have_attribute("aria-pressed", "true", timeout=15_000)
        page.reload()
        expect(done).to_have_attribute("aria-pressed", "true", timeout=15_000)

    def test_every_demo_is_wired_and_put_together(self) -> None:
        for name in ("Pouch cell", "Two coin cells", "Two AAA cells", "Tiny rechargeable", "One cylinder a season"):
            page = self.open_bench(name, "Wiring")
            expect(page.get_by_role("heading", name="Wires of the supply")).to_be_visible(timeout=15_000)
            expect(page.get_by_text("no pin", exact=True)).to_have_count(0)
            page.get_by_role("tab", name="Assembly").click()
            expect(page.get_by_role("heading", name="The cells, last", exact=True)).to_be_visible(timeout=15_000)

    def test_a_reading_typed_left_and_put_into_the_design(self) -> None:
        page = self.open_bench("Two coin cells", "Bring-up")
        field = page.get_by_label("Reading: Current in Glowing bright")
        expect(page.get_by_text("27.5 mA to 33.1 mA")).to_be_visible()
        runtime = page.get_by_test_id("figure-runtime").inner_text()
        field.fill("32.5 mA")
        field.press("Tab")
        status = page.get_by_role("status").filter(has_text="as it should be")
        expect(status).to_be_visible(timeout=15_000)
        self.save_by(lambda: status.get_by_role("button", name="Put it into the design").click())
        expect(page.get_by_test_id("figure-runtime")).not_to_have_text(runtime)
        self.save_by(lambda: page.keyboard.press("Control+z"))
        expect(page.get_by_test_id("figure-runtime")).to_have_text(runtime)
        page.reload()
        expect(page.get_by_label("Reading: Current in Glowing bright")).to_have_value(re.compile(r"32.5\smA"))

    def test_many_readings_go_into_the_design_at_once_and_say_where_they_are_from(self) -> None:
        page = self.open_bench("Pouch cell", "Bring-up")
        off = page.get_by_label("What the meter is off by at most")
        off.fill("1 %")
        off.press("Tab")
        page.get_by_label("Measured with").fill("bench meter")
        for what, typed in (("Current in Recording", "90 mA"), ("Current in At the computer", "41 mA")):
            field = page.get_by_label(f"Reading: {what}", exact=True)
            field.fill(typed)
            field.press("Tab")
            expect(page.locator("li").filter(has=field).get_by_role("status")).to_be_visible(timeout=15_000)
        self.save_by(lambda: page.get_by_role("button", name="Put all 2 readings into the design").click())
        page.reload()
        expect(page.get_by_label("Reading: Current in Recording", exact=True)).to_have_value(re.compile("90"))
        page.get_by_role("link", name=re.compile("^Draw")).click()
        page.get_by_role("gridcell", name=re.compile("active")).first.click()
        expect(page.get_by_label("active: where the figure is from")).to_have_value(
            re.compile(r"prototype 1, .*, bench meter")
        )

    def test_a_cell_that_is_turned_round_is_said(self) -> None:
        page = self.open_bench("Pouch cell", "Bring-up")
        field = page.get_by_label("Reading: The cell without load")
        field.fill("-3.9 V")
        field.press("Tab")
        turned = page.get_by_role("status").filter(has_text="turned round")
        expect(turned).to_contain_text("order differs", timeout=15_000)
        expect(turned.get_by_role("button")).to_have_count(0)

    def test_too_much_names_its_causes_and_a_wrong_unit_is_asked_about(self) -> None:
        page = self.open_bench("Pouch cell", "Bring-up")
        field = page.get_by_label("Reading: Current in Recording")
        field.fill("190 mA")
        field.press("Enter")
        expect(page.get_by_role("status").filter(has_text="more than it should be")).to_contain_text(
            "Loudest playback", timeout=15_000
        )
        asleep = page.get_by_label("Reading: Current in Asleep")
        asleep.fill("1.6 A")
        asleep.press("Tab")
        expect(page.get_by_role("alert").filter(has_text="in another unit")).to_be_visible(timeout=15_000)
        expect(asleep).to_have_value("1.6 A")
        page.get_by_role("tab", name="Wiring").click()  # what was refused is there again
        page.get_by_role("tab", name="Bring-up").click()
        expect(asleep).to_have_value("1.6 A", timeout=15_000)
        page.get_by_role("button", name="Done: Look at it").click()
        expect(page.get_by_role("button", name="Done: Look at it")).to_have_attribute(
            "aria-pressed", "true", timeout=15_000
        )

    def test_every_demo_has_its_sheet_and_prototypes_apart(self) -> None:
        for name in ("Two AAA cells", "Tiny rechargeable", "One cylinder a season"):
            page = self.open_bench(name, "Bring-up")
            expect(page.get_by_role("heading", name="First power", exact=True)).to_be_visible(timeout=15_000)
        page.get_by_role("button", name="Done: Look at it").click()
        expect(page.get_by_role("button", name="Done: Look at it")).to_have_attribute(
            "aria-pressed", "true", timeout=15_000
        )
        page.get_by_role("button", name="Another one").click()
        expect(page.get_by_role("button", name="Done: Look at it")).to_have_attribute("aria-pressed", "false")
        expect(page.get_by_label("Other prototypes: Look at it")).to_have_text("Prototype 1: done")

    def say_by_hand(self, page: Page) -> None:
        """A piece is dragged over, measured, its border typed, said to be a mode, there after a reload, undone."""
        box = page.locator("rect.cursor-crosshair").bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + 60, box["y"] + 40)
        page.mouse.down()
        page.mouse.move(box["x"] + 200, box["y"] + 60)
        page.mouse.up()
        page.get_by_label("From", exact=True).fill("1 s")
        page.get_by_label("From", exact=True).press("Tab")
        page.get_by_label("To", exact=True).fill("3 s")
        page.get_by_label("To", exact=True).press("Tab")
        page.get_by_label("It was").select_option("Reporting")
        between = page.get_by_label("Between them")
        expect(between).to_contain_text(re.compile(r"for\s*2\ss"))
        expect(between).to_contain_text("root mean square")
        page.get_by_role("button", name="Say so").click()
        expect(page.get_by_text(re.compile(r"1\ss to 3\ss: Reporting"))).to_be_visible()
        page.reload()
        expect(page.get_by_text(re.compile(r"1\ss to 3\ss: Reporting"))).to_be_visible(timeout=15_000)
        page.get_by_role("button", name="Undo the last").click()
        expect(page.get_by_text("Said by hand")).to_have_count(0)
        self.drag_a_border(page)

    def drag_a_border(self, page: Page) -> None:
        """What the border gives up belongs to the mode on its other side."""
        border = page.get_by_test_id("border").first
        border.hover()
        grip = border.bounding_box()
        assert grip is not None
        title = border.locator("title").text_content() or ""
        page.mouse.move(grip["x"] + grip["width"] / 2, grip["y"] + 8)
        page.mouse.down()
        page.mouse.move(grip["x"] + grip["width"] / 2 + 12, grip["y"] + 8)
        page.mouse.up()
        expect(page.get_by_text("Said by hand")).to_be_visible()
        expect(page.get_by_test_id("border").first.locator("title")).not_to_have_text(title)
        page.get_by_role("button", name="Undo the last").click()
        expect(page.get_by_text("Said by hand")).to_have_count(0)

    @a_worker()
    def test_a_recording_is_brought_asked_about_cut_and_put_into_the_design(self) -> None:
        page = self.open_bench("One cylinder a season", "Traces")
        design = read_design((settings.ROOT / "demo" / "snow-stake.json").read_bytes())
        bench = TrialBench(design, built_in())
        recording, _ = simulated(bench, 40, 500, 1, more_a={bench.rest: 1.9e-3})
        lines = [f"{t:.4f},{a * 1000:.5f}" for t, a in zip(recording.time_s, recording.current_a, strict=True)]
        content = "\n".join(["time [s],current", *lines]).encode()
        page.get_by_label("A recorded current").set_input_files(
            {"name": "bench.csv", "mimeType": "text/csv", "buffer": content}
        )
        page.get_by_role("button", name="mA", exact=True).click(timeout=30_000)
        expect(page.get_by_role("heading", name="bench.csv")).to_be_visible(timeout=30_000)
        row = page.get_by_role("listitem").filter(has=page.get_by_role("heading", name="Asleep"))
        expect(row).to_contain_text("more than it should be", timeout=15_000)
        picture = page.get_by_role("group", name="Window")
        picture.get_by_role("button", name="Closer").click()
        expect(picture.get_by_role("button", name="All of it")).to_be_enabled()
        picture.get_by_role("button", name="All of it").click()
        self.say_by_hand(page)
        expect(page.get_by_text("If it goes on like this recording")).to_be_visible(timeout=15_000)
        runtime = page.get_by_test_id("figure-runtime").inner_text()
        self.save_by(lambda: row.get_by_role("button", name="Put it into the design").click())
        expect(page.get_by_test_id("figure-runtime")).not_to_have_text(runtime)
        self.save_by(lambda: page.keyboard.press("Control+z"))
        page.reload()
        expect(page.get_by_role("heading", name="bench.csv")).to_be_visible(timeout=15_000)
        page.get_by_role("button", name="Take the recording away").click()
        expect(page.get_by_role("heading", name="bench.csv")).to_have_count(0)
        page.get_by_label("A recorded current").set_input_files(
            {"name": "x.csv", "mimeType": "text/csv", "buffer": b"hello"}
        )
        expect(page.get_by_role("alert").filter(has_text="No rows of figures")).to_be_visible(timeout=30_000)

    @a_worker()
    def test_all_that_a_recording_tells_is_put_in_at_once(self) -> None:
        page = self.open_bench("Pouch cell", "Traces")
        bench = TrialBench(read_design((settings.ROOT / "demo" / "dusk-ear.json").read_bytes()), built_in())
        at_rest = float(bench.usual.mode_current_a[bench.rest, bench.middle])
        recording, _ = simulated(bench, 120, 200, 1, more_a={bench.rest: 0.3 * at_rest})
        lines = [f"{t:.3f},{a:.9f}" for t, a in zip(recording.time_s, recording.current_a, strict=True)]
        content = "\n".join(["time [s],current [A]", *lines]).encode()
        page.get_by_label("A recorded current").set_input_files(
            {"name": "all.csv", "mimeType": "text/csv", "buffer": content}
        )
        put = page.get_by_role("button", name=re.compile(r"^Put all \d modes into the design"))
        expect(put).to_be_visible(timeout=30_000)
        told = put.locator("xpath=..").get_by_text("the runtime is then").inner_text()
        self.save_by(put.click)
        hours = told.removeprefix("the runtime is then ")
        expect(page.get_by_test_id("figure-runtime")).to_contain_text(hours.split()[0], timeout=15_000)
        expect(put).to_have_count(1)

    @a_worker()
    def test_a_run_down_on_the_way_and_over(self) -> None:
        page = self.open_bench("Pouch cell", "Run-down")
        design = read_design((settings.ROOT / "demo" / "dusk-ear.json").read_bytes())
        state = TrialBench(design, built_in()).usual
        volts = state.point_weights @ state.typical.terminal_v
        rows = [f"{t / 3600:.4f},{v:.4f}" for t, v in zip(state.elapsed_s[:60], volts[:60], strict=True)]
        content = "\n".join(["time [h],voltage [V]", *rows]).encode()
        page.get_by_label("The battery's voltage").set_input_files(
            {"name": "day-3.csv", "mimeType": "text/csv", "buffer": content}
        )
        expect(page.get_by_role("heading", name="day-3.csv")).to_be_visible(timeout=30_000)
        expect(page.get_by_text("of what it can give is left")).to_be_visible(timeout=15_000)
        page.get_by_label("It was dead at the end").click()
        expect(page.get_by_role("row", name=re.compile("The voltage at which it gives way"))).to_be_visible()
        page.reload()
        page.get_by_role("tab", name="Run-down").click()
        expect(page.get_by_label("It was dead at the end")).to_be_checked()
        expect(page.get_by_text(re.compile("^It lasted"))).to_be_visible()
        page.get_by_role("button", name="Take the recording away").click()
        expect(page.get_by_role("heading", name="day-3.csv")).to_have_count(0)

    @a_worker()
    @override_settings(INSTRUMENT_NETWORKS=["127.0.0.0/8"])
    def test_an_instrument_is_added_asked_and_recorded_with(self) -> None:
        page = self.open_bench("Pouch cell", "Instruments")
        design = read_design((settings.ROOT / "demo" / "dusk-ear.json").read_bytes())
        unit = Unit(BenchGadget.of(TrialBench(design, built_in())), speed=20.0)
        with InstrumentServer(unit) as server:
            Thread(target=server.serve_forever, args=(0.05,), daemon=True).start()
            page.get_by_label("Name", exact=True).fill("Bench unit")
            page.get_by_label("Address").fill("8.8.8.8")
            page.get_by_role("button", name="Add").click()
            expect(page.get_by_text("instruments are reached in 127.0.0.0/8 only")).to_be_visible()
            page.get_by_label("Address").fill("127.0.0.1")
            page.get_by_label("Port").fill(str(server.port))
            page.get_by_role("button", name="Add").click()
            page.get_by_role("button", name="Who is it?").click()
            expect(page.get_by_role("status").filter(has_text="STAND-IN")).to_be_visible(timeout=30_000)
            page.get_by_role("button", name="Read the temperature").click()  # which supplies nothing
            expect(page.get_by_role("status").filter(has_text=re.compile(r"23\.\d.?°C"))).to_be_visible(timeout=30_000)
            volts = page.get_by_label("Volts [V]")
            volts.fill("9")
            page.get_by_role("button", name="Record", exact=True).click()
            expect(page.get_by_text(re.compile("battery gives .* to"))).not_to_have_count(1)
            volts.fill("3.9")
            page.get_by_label("Seconds").fill("40")
            page.get_by_role("button", name="Record", exact=True).click()
            expect(page.get_by_role("heading", name="Bench unit")).to_be_visible(timeout=60_000)
            expect(page.get_by_text("40,000 samples")).to_be_visible(timeout=20_000)
            self.assertFalse(unit.on)
            unit.on, unit.volts, unit.limit_a = True, 3.9, 1.0  # the gadget runs from it
            page.get_by_role("tab", name="Bring-up").click()
            page.get_by_label("Measured with").fill("Bench unit")
            page.get_by_role("button", name=re.compile("^Read it: Current in Recording")).click()
            row = page.get_by_role("listitem").filter(
                has=page.get_by_label(re.compile("^Reading: Current in Recording"))
            )
            expect(row.get_by_role("status")).to_contain_text("Bench unit", timeout=30_000)
            unit.on = False  # an electronic load now, at a cell of 3.9 V and 80 mΩ
            page.get_by_role("link", name=re.compile("^Battery")).click()
            step = page.get_by_role("button", name="Ten seconds on Bench unit")
            expect(step).to_be_disabled()
            load = page.get_by_role("textbox", name="Load, a current")
            load.fill("500 mA")
            load.press("Tab")
            step.click()
            expect(page.get_by_role("textbox", name="Ten seconds under load")).to_have_value(
                re.compile(r"^3\.86"), timeout=40_000
            )
            self.assertFalse(unit.loads)
            page.get_by_role("button", name="Work it out").click()
            expect(page.get_by_text(re.compile("Its resistance is 8"))).to_be_visible()
            self.log_and_stop(page)
            server.shutdown()

    def log_and_stop(self, page: Page) -> None:
        """A run-down is logged through the instrument, and stopped."""
        page.get_by_role("link", name=re.compile("^Bench")).click()
        page.get_by_role("tab", name="Run-down").click()
        every, log = (
            page.get_by_label(re.compile("^A point every")),
            page.get_by_role("button", name="Log with Bench unit"),
        )
        every.fill("5 s")
        log.click()
        expect(page.get_by_role("alert")).to_contain_text("30")
        every.fill("2 min")  # and straight to the button, without Tab
        log.click()
        expect(page.get_by_text(re.compile("Logged with Bench unit, a point every 2.min"))).to_be_visible(
            timeout=40_000
        )
        page.get_by_role("button", name="Stop logging").click()
        expect(page.get_by_text("Logging was stopped.")).to_be_visible()
        page.reload()
        page.get_by_role("tab", name="Run-down").click()
        expect(page.get_by_text("Logging was stopped.")).to_be_visible()


class Wires(BrowserTestCase):
    def test_counted_wires_take_their_share_and_one_is_made_longer(self) -> None:
        self.open_gadget("Pouch cell", step="Bench")
        wires = self.page.get_by_role("region", name="Wires of the supply")
        expect(wires).to_contain_text("would take")
        self.save_by(lambda: wires.get_by_role("button", name="Count these wires").click())
        expect(wires).not_to_contain_text("would take")
        wires.get_by_role("button", name="3.3 V main").last.click()
        length = wires.get_by_role("textbox", name="Length, one way")
        length.fill("30 cm")
        self.save_by(lambda: length.press("Tab"))
        expect(
            wires.get_by_role("textbox", name="Contacts, both ways")
        ).to_be_focused()  # while the sheet is worked out anew
        rail = next(r for r in self.stored_design()["supply"]["rails"] if r["name"] == "3.3 V main")
        self.assertEqual(rail["lead"]["length_mm"], 300)
        expect(wires).to_contain_text("300 mm")
        length.fill("-3 mm")
        length.press("Tab")
        expect(wires.get_by_role("alert")).to_be_visible()
        self.page.reload()
        expect(wires).to_contain_text("300 mm")

    def test_a_wire_that_cannot_be_is_said_at_its_field_and_can_be_mended(self) -> None:
        self.open_gadget("Pouch cell", step="Bench")
        wires = self.page.get_by_role("region", name="Wires of the supply")
        wires.get_by_role("button", name="3.3 V main").last.click()
        self.save_by(lambda: wires.get_by_role("button", name="Count this wire").click())
        copper = wires.get_by_role("textbox", name="Copper")
        kept = copper.input_value()
        copper.fill("0.0001 mm²")
        copper.press("Tab")
        expect(wires.get_by_role("alert")).to_be_visible()
        copper.fill(kept)
        copper.press("Tab")
        expect(wires.get_by_role("alert")).to_have_count(0)
        self.expect_saved()
