"""Accounts and new gadgets, as a new person would make them."""

from __future__ import annotations

import re

from django.conf import settings
from playwright.sync_api import FilePayload, expect

from .base import BrowserTestCase

PARTS = b"name;rail;sleep [uA];active [mA]\nBrain;Main;12;46\nEar;Main;0,5;0,65\n"


def csv(content: bytes) -> FilePayload:
    return {"name": "parts.csv", "mimeType": "text/csv", "buffer": content}


class NewPerson(BrowserTestCase):
    def test_signs_up_makes_a_gadget_from_nothing_and_sees_a_runtime_with_the_first_part(self) -> None:
        page = self.page
        page.goto(self.live_server_url)
        page.get_by_role("button", name="I have no account yet").click()
        page.get_by_label("Name", exact=True).fill("ada")
        page.get_by_label("Password").fill("123")
        page.get_by_role("button", name="Make the account").click()
        expect(page.get_by_role("alert")).to_contain_text("too short")
        page.get_by_label("Password").fill("ember-and-ash-7")
        page.get_by_role("button", name="Make the account").click()
        expect(page.get_by_text("No gadget yet")).to_be_visible()
        page.get_by_role("button", name="Put in examples").click()
        expect(page.get_by_role("heading", name="Tarn Light")).to_be_visible(timeout=30_000)
        page.get_by_role("button", name="Duplicate Tarn Light").click()
        expect(page.get_by_role("heading", name="Tarn Light, copied")).to_be_visible(timeout=30_000)
        page.get_by_role("button", name="Empty or from a file").first.click()
        page.get_by_label("Name", exact=True).fill("Lantern")
        page.get_by_role("button", name="Make it").click()
        expect(page.get_by_test_id("verdict-runtime")).to_have_attribute("data-status", "unknown")
        page.get_by_role("button", name="Take a part").click()
        page.get_by_label("Search").fill("low-power")
        page.get_by_role("button", name="Take Low-power controller").click()
        expect(page.get_by_test_id("verdict-runtime")).not_to_have_attribute("data-status", "unknown")
        self.expect_saved()

    def test_a_table_with_problems_is_settled_made_and_known_the_next_time(self) -> None:
        page = self.page
        page.goto(self.live_server_url)
        page.get_by_role("button", name="Look around in the demo").click()
        page.get_by_role("button", name="Empty or from a file").click()
        page.get_by_label("From a table of parts").check()
        page.get_by_label("Name", exact=True).fill("Bell")
        page.get_by_label("Its file").set_input_files(csv(PARTS + b"Bell;Main;1;45 mAh\n"))
        expect(page.get_by_role("alert")).to_contain_text("row 4, active [mA]")
        expect(page.get_by_role("button", name="Make it")).to_be_disabled()
        page.get_by_label("Take row 4").uncheck()
        expect(page.get_by_role("alert")).to_have_count(0)
        page.get_by_role("button", name="Make it").click()
        expect(page.get_by_test_id("cell-brain-asleep")).to_contain_text("12 µA")
        # the same gadget gets another table: pasted, with a heading nobody knows
        page.get_by_role("button", name="From a table", exact=True).click()
        page.get_by_label("Or paste it").fill("Part\tVerbrauch\nBrain\t50\nOwl\t2\n")
        page.get_by_role("button", name="Read it").click()
        page.get_by_label("Column Verbrauch is").select_option("a state’s draw")
        page.get_by_label("Name of the state in Verbrauch").fill("active")
        page.get_by_label("Unit of Verbrauch").fill("mA")
        changes = page.get_by_role("region", name="What would change")
        expect(changes.get_by_role("listitem")).to_have_text(
            ["Brain, active: 46\u00a0mA becomes 50\u00a0mA", "Owl, new part: active 2\u00a0mA"]
        )
        changes.get_by_label("Owl, new part").uncheck()
        self.save_by(lambda: page.get_by_role("button", name="Take over 1 of 2").click())
        expect(page.get_by_test_id("cell-brain-in-use")).to_contain_text("50 mA")
        page.keyboard.press("Control+z")
        expect(page.get_by_test_id("cell-brain-in-use")).to_contain_text("46 mA")
        page.get_by_role("button", name="From a table", exact=True).click()
        page.get_by_label("Or paste it").fill("Part\tVerbrauch\nOwl\t3\n")
        page.get_by_role("button", name="Read it").click()
        expect(page.get_by_label("Name of the state in Verbrauch")).to_have_value("active")

    def test_a_document_or_a_table_dropped_on_the_page_opens(self) -> None:
        page = self.page
        page.goto(self.live_server_url)
        page.get_by_role("button", name="Look around in the demo").click()
        expect(page.get_by_role("heading", name="Tarn Light")).to_be_visible()
        drop = """([name, text]) => { const data = new DataTransfer(); data.items.add(new File([text], name));
            document.querySelector("main").dispatchEvent(new DragEvent("drop", {dataTransfer: data, bubbles: true, cancelable: true})); }"""
        page.evaluate(drop, ["parts.tsv", "Part\tactive mA\nBrain\t50\nOwl\t2\n"])
        expect(page.get_by_text("2 parts read")).to_be_visible()
        page.keyboard.press("Escape")
        page.evaluate(drop, ["photo.png", "x"])
        expect(page.get_by_role("alert")).to_contain_text("photo.png is no design document")
        page.evaluate(drop, ["broken.json", "{"])
        expect(page.get_by_role("alert")).to_contain_text("Nothing was saved")
        page.get_by_role("button", name="Understood").click()
        expect(page.get_by_role("alert")).to_have_count(0)
        self.open_gadget(step="Fit")
        page.evaluate(drop, ["parts.tsv", "Part\tactive mA\nBrain\t50\nOwl\t2\n"])
        expect(page.get_by_role("alert")).to_contain_text("taken on the page of all gadgets")
        expect(page.get_by_role("main", name="Fit")).to_be_visible()
        document = (settings.ROOT / "demo" / "tarn-light-aaa.json").read_text()
        page.evaluate(drop, ["tarn.json", document])
        expect(page.get_by_test_id("verdict-runtime")).to_be_visible()

    def test_a_gadget_is_deleted_only_when_it_is_meant(self) -> None:
        page = self.page
        page.goto(self.live_server_url)
        page.get_by_role("button", name="Look around in the demo").click()
        page.get_by_role("button", name="Delete Snow Stake").click()
        page.get_by_role("button", name="Keep it").click()
        expect(page.get_by_role("heading", name="Snow Stake")).to_be_visible()
        page.get_by_role("button", name="Delete Snow Stake").click()
        page.get_by_role("button", name="Delete it").click()
        expect(page.get_by_role("heading", name="Snow Stake")).to_have_count(0)
        page.get_by_role("button", name="Put back Snow Stake").click()
        expect(page.get_by_role("heading", name="Snow Stake")).to_be_visible()
        expect(page.get_by_role("region", name="Deleted")).to_have_count(0)

    def test_gadgets_are_found_by_words_and_tags_ordered_and_put_out_of_the_way(self) -> None:
        page = self.page
        page.goto(self.live_server_url)
        page.get_by_role("button", name="Look around in the demo").click()
        names = page.locator("main li h2")
        expect(names).to_have_count(4)
        for picture in page.locator("main li img").all():
            picture.scroll_into_view_if_needed()
            page.wait_for_function("p => p.complete && p.naturalWidth > 0", arg=picture.element_handle())
        page.get_by_role("button", name="Tags of Rosin Minder").click()
        page.get_by_label("Words to find it by").fill("violin, house ,violin")
        page.keyboard.press("Enter")
        page.get_by_role("button", name="Gadgets with the tag house").click()
        expect(names).to_have_text(["Rosin Minder"])
        page.reload()
        expect(names).to_have_text(["Rosin Minder"])  # the address keeps it
        page.get_by_role("button", name="house", exact=True).click()
        expect(names).to_have_count(4)
        page.get_by_label("Order").select_option("By name")
        expect(names).to_have_text(["Dusk Ear", "Rosin Minder", "Snow Stake", "Tarn Light"])
        page.get_by_label("Search the gadgets").fill("coin TARN")
        expect(names).to_have_text(["Tarn Light"])
        page.get_by_label("Search the gadgets").fill("no such thing")
        expect(page.get_by_text("None of them has that")).to_be_visible()
        page.get_by_label("Search the gadgets").fill("")
        page.get_by_role("button", name="Put Snow Stake into the archive").click()
        expect(names).to_have_text(["Dusk Ear", "Rosin Minder", "Tarn Light"])
        page.get_by_role("button", name="Archive (1)").click()
        page.get_by_role("button", name="Take Snow Stake out of the archive").click()
        expect(page.get_by_text("Nothing in the archive")).to_be_visible()
        page.get_by_role("button", name="Back from the archive").click()
        expect(names).to_have_count(4)
        for name in ("Dusk Ear", "Rosin Minder", "Tarn Light"):
            page.get_by_role("button", name=f"Delete {name}").click()
            page.get_by_role("button", name="Delete it").click()
            expect(page.get_by_role("heading", name=name)).to_have_count(0)
        page.get_by_role("button", name="Put Snow Stake into the archive").click()
        expect(page.get_by_text("All of them are in the archive")).to_be_visible()
        page.get_by_role("button", name="Archive (1)").click()
        expect(names).to_have_text(["Snow Stake"])

    def test_the_report_is_read_shortened_and_taken_as_a_file(self) -> None:
        page = self.open_gadget(step="Record")
        page.get_by_role("link", name="Report", exact=True).click()
        expect(page.get_by_role("heading", name="Dusk Ear", level=1)).to_be_visible()
        for chapter in (
            "In short",
            "What it draws",
            "How long it lasts",
            "Bill of materials",
            "How the figures came about",
        ):
            expect(page.get_by_role("heading", name=chapter, exact=True)).to_be_visible()
        page.get_by_role("checkbox", name="How the figures came about").uncheck()
        expect(page.get_by_role("heading", name="How the figures came about")).to_have_count(0)
        page.get_by_label("Paper").select_option("Letter")
        with page.expect_download() as coming:
            page.get_by_role("link", name="PDF").click()
        made = coming.value.path().read_bytes()
        self.assertTrue(made.startswith(b"%PDF-"))
        page.emulate_media(media="print")
        expect(page.get_by_role("link", name="PDF")).to_be_hidden()
        page.emulate_media(media="screen")
        page.get_by_role("link", name="Back to Dusk Ear").click()
        expect(page.get_by_role("main", name="Record")).to_be_visible()

    def test_a_difference_is_taken_over_into_the_first(self) -> None:
        page = self.open_gadget("Two coin cells", "Record")
        page.get_by_label("Compare with Two AAA cells").check()
        page.get_by_role("button", name="Compare with it").click()
        expect(page.get_by_role("img", name=re.compile("^Charge over time"))).to_be_visible(timeout=20_000)
        table = page.get_by_role("region", name="What differs")
        goal = table.get_by_role("button", name=re.compile("Take over into Two coin cells: Battery › cell › name"))
        goal.click()
        expect(goal).to_have_count(0)
        table.get_by_role("button", name="Take all of it over into Two coin cells: Battery of Two AAA cells").click()
        expect(table.get_by_role("row", name=re.compile("^Battery › cell"))).to_have_count(0)
        page.get_by_label("Across").select_option("Cost")
        expect(page.get_by_role("img", name=re.compile("^Runtime over Cost"))).to_be_visible()
        page.get_by_role("link", name="Back").click()
        expect(page.get_by_role("region", name="Revisions")).to_contain_text("Taken over from Two AAA cells")

    def test_two_variants_are_compared_and_the_difference_adds_up_in_words(self) -> None:
        page = self.open_gadget("Two coin cells", step="Record")
        expect(page.get_by_role("button", name="Compare with")).to_be_disabled()
        page.get_by_label("Compare with Two AAA cells").check()
        page.get_by_role("button", name="Compare with it").click()
        expect(page.get_by_role("heading", name="Two coin cells · Two AAA cells")).to_be_visible(timeout=20_000)
        verdicts = page.get_by_role("region", name="Verdicts beside each other")
        expect(verdicts.get_by_role("row", name="Runtime")).to_contain_text("35.3")
        why = page.get_by_role("region", name="Two AAA cells against Two coin cells")
        expect(why).to_contain_text("its battery")
        expect(why).to_contain_text("Glowing bright stops early")
        expect(page.get_by_role("region", name="What differs").first).to_contain_text("Battery › cell › name")
        page.get_by_role("button", name="Look at them at one scale").click()
        cases = page.get_by_test_id("case-in-space")
        expect(cases).to_have_count(2)
        page.get_by_role("application", name=re.compile("in space, at one scale")).focus()
        page.wait_for_timeout(300)
        before = [cases.nth(i).screenshot() for i in range(2)]
        for _ in range(3):
            page.keyboard.press("ArrowLeft")
        page.wait_for_timeout(300)
        for i in range(2):  # both are turned by one press
            self.assertNotEqual(cases.nth(i).screenshot(), before[i])
        page.get_by_role("link", name="Back", exact=True).click()
        expect(page.get_by_role("main", name="Record")).to_be_visible()

    def test_variants_revisions_and_going_back(self) -> None:
        page = self.open_gadget(step="Record")
        page.get_by_label("Name of the new variant").fill("Larger cell")
        page.get_by_role("button", name="Copy", exact=True).click()
        expect(page.get_by_label("Variant", exact=True)).to_contain_text("Larger cell")
        self.go("Draw")
        before = self.figure("runtime")
        self.type_into_cell("controller", "listening", "92 mA")
        self.go("Record")
        page.get_by_label("Reason for this revision").fill("Twice the work")
        page.get_by_role("button", name="Keep this state").click()
        expect(page.get_by_role("region", name="Revisions").get_by_text("Twice the work")).to_be_visible()
        page.get_by_role("button", name="Go back").last.click()
        expect(page.get_by_test_id("figure-runtime")).to_have_text(before)
