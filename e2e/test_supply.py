"""The Supply step: a tree that is edited in its picture, streams of power, what-if answers, small sums."""

from __future__ import annotations

from playwright.sync_api import Locator, expect

from jobs.models import Job

from .base import BrowserTestCase, a_worker


class Supply(BrowserTestCase):
    def details(self) -> Locator:
        return self.page.get_by_role("complementary", name="Details and findings")

    def node(self, name: str) -> Locator:
        return self.page.get_by_role("group", name="The supply tree").get_by_role("button", name=name)

    def test_a_box_dragged_onto_another_hangs_on_it(self) -> None:
        self.open_gadget(step="Supply")
        rail, target = self.node("Switched battery").bounding_box(), self.node("Linear regulator").bounding_box()
        assert rail and target
        self.page.mouse.move(rail["x"] + 40, rail["y"] + 30)
        self.page.mouse.down()
        self.page.mouse.move(target["x"] + 60, target["y"] + 30, steps=10)
        self.save_by(self.page.mouse.up)
        self.assertEqual(self.stored_design()["supply"]["rails"][1]["feed"], "regulator")

    def test_a_drag_that_is_given_up_moves_nothing(self) -> None:
        self.open_gadget(step="Supply")
        before = self.stored_design()["supply"]
        rail, target = self.node("Switched battery").bounding_box(), self.node("Linear regulator").bounding_box()
        assert rail and target
        self.page.mouse.move(rail["x"] + 40, rail["y"] + 30)
        self.page.mouse.down()
        self.page.mouse.move(target["x"] + 60, target["y"] + 30, steps=10)
        self.page.keyboard.press("Escape")
        self.page.mouse.up()
        self.assertEqual(self.node("Switched battery").bounding_box(), rail)
        self.assertEqual(self.stored_design()["supply"], before)
        expect(self.page.get_by_role("button", name="Undo")).to_be_disabled()

    def test_the_tree_is_walked_and_edited_by_keys(self) -> None:
        self.open_gadget(step="Supply")
        self.node("Pouch 503450").focus()
        self.page.keyboard.press("ArrowRight")
        expect(self.node("Slide switch")).to_be_focused()
        self.page.keyboard.press("ArrowRight")
        expect(self.node("Linear regulator")).to_be_focused()
        stage = self.details().get_by_role("region", name="Stage")
        expect(stage.get_by_role("heading", name="Linear regulator 3.3 V, everyday")).to_be_visible()
        self.page.keyboard.press("+")
        self.page.get_by_label("Search").fill("load switch nanoamps")
        self.page.get_by_role("button", name="Take Load switch, nanoamps").click()
        expect(self.node("Load switch, nanoamps")).to_be_visible()
        self.node("Load switch, nanoamps").focus()
        self.save_by(lambda: self.page.keyboard.press("Delete"))
        self.assertEqual([s["id"] for s in self.stored_design()["supply"]["stages"]], ["switch", "regulator"])

    def test_a_stage_goes_before_a_rail_or_in_between(self) -> None:
        self.open_gadget(variant="Two AAA cells", step="Supply")
        self.node("Straight from the cells").click()
        self.page.get_by_role("button", name="Stage", exact=True).click()
        expect(self.page.get_by_role("dialog")).to_contain_text("before Straight from the cells")
        self.page.get_by_label("Search").fill("Low-drop diode")
        self.page.get_by_role("button", name="Take Low-drop diode").click()
        self.node("2 × AAA alkaline").click()
        self.page.get_by_role("button", name="Stage", exact=True).click()
        self.page.get_by_label("Where it goes").select_option(label="between the battery and all that hangs on it")
        self.page.get_by_label("Search").fill("slide switch")
        self.save_by(lambda: self.page.get_by_role("button", name="Take Slide switch", exact=True).click())
        supply = self.stored_design()["supply"]
        feeds = {s["id"]: s["input"] for s in supply["stages"]}
        self.assertEqual(feeds, {"diode-schottky": "switch-slide", "switch-slide": "battery"})
        self.assertEqual(supply["rails"][0]["feed"], "diode-schottky")

    def test_a_stage_is_switched_off_in_a_mode_and_its_parts_lose_their_power(self) -> None:
        self.open_gadget(step="Supply")
        before = self.figure("runtime")
        self.node("Linear regulator").click()
        self.details().get_by_label("It has an enable input").check()
        self.details().get_by_role("group", name="Off while").get_by_role("button", name="Asleep").click()
        expect(self.page.get_by_test_id("figure-runtime")).not_to_have_text(before)
        self.go("Draw")
        expect(self.page.get_by_test_id("cell-controller-asleep")).to_contain_text("no power")

    def test_a_source_feeds_a_rail_and_the_table_says_which_rails_there_are(self) -> None:
        self.open_gadget(step="Supply")
        table = self.page.get_by_role("region", name="Which rails there are")
        port = table.get_by_role("row", name="USB port")
        expect(port.get_by_role("cell")).to_have_text(["no", "no", "yes"])
        self.node("USB port").click()
        self.save_by(lambda: self.details().get_by_role("button", name="Remove the source").click())
        self.assertEqual(self.stored_design()["supply"]["rails"][2]["feed"], "battery")

    def test_streams_for_the_day_and_for_a_mode_with_their_table(self) -> None:
        self.open_gadget(step="Supply")
        picture = self.page.get_by_role("img", name="Mean power from the sources")
        expect(picture).to_contain_text("lost in Linear regulator")
        expect(picture).not_to_contain_text("loud")
        self.page.get_by_label("Show", exact=True).last.select_option("while loudest playback")
        expect(picture).to_contain_text("Sound amplifier")
        self.page.get_by_role("button", name="Table").last.click()
        expect(self.page.get_by_role("region", name="as a table")).to_contain_text("Linear regulator")

    def test_what_if_a_rail_were_otherwise(self) -> None:
        self.open_gadget(step="Supply")
        self.node("3.3 V main").click()
        self.details().get_by_role("button", name="What if it were otherwise?").click()
        table = self.page.get_by_role("region", name="Converters, ranked")
        expect(table.get_by_role("row")).not_to_have_count(0)
        expect(table.get_by_role("row", name="(now)")).to_be_visible()
        before = self.figure("runtime")
        self.save_by(lambda: table.get_by_role("button", name="Use Buck-boost 3.3 V, 300 mA").click())
        expect(self.page.get_by_test_id("figure-runtime")).not_to_have_text(before)
        self.assertEqual(self.stored_design()["supply"]["stages"][1]["topology"], "buck-boost")

    def test_efficiency_points_from_a_table_and_a_wrong_one_at_its_field(self) -> None:
        self.open_gadget(variant="One cylinder a season", step="Supply")
        self.node("Boost 5 V").click()
        details = self.details()
        details.get_by_text("Points from a table or a CSV file").click()
        text = details.get_by_label("Points, a line each")
        text.fill("output,efficiency,input\n1 mA, 80 %, 3.7 V\n100 mA, 120 %, 3.7 V")
        details.get_by_role("button", name="Take these points").click()
        expect(details.get_by_role("alert")).to_contain_text("line 2")
        text.fill("1 mA; 80 %; 3.7 V\n100 mA; 92 %; 3.7 V")
        self.save_by(lambda: details.get_by_role("button", name="Take these points").click())
        points = self.stored_design()["supply"]["stages"][2]["points"]
        self.assertEqual([(p["current_a"], p["efficiency"]) for p in points], [(0.001, 0.8), (0.1, 0.92)])
        field = details.get_by_label("Point 1: output current")
        field.fill("200 mA")
        field.press("Enter")
        expect(details.get_by_text("go upwards")).to_be_visible()
        expect(self.page.get_by_test_id("save-state")).to_have_attribute("data-save", "blocked")
        self.save_by(lambda: details.get_by_role("button", name="Put them in order").click())

    def test_small_sums_answer_and_refuse(self) -> None:
        self.open_gadget(step="Supply")
        self.page.get_by_role("button", name="Measuring divider").click()
        dialog = self.page.get_by_role("dialog", name="Measuring divider")
        expect(dialog).to_contain_text("the pin sees")
        field = dialog.get_by_label("Highest voltage")
        field.fill("3 V")
        field.press("Enter")
        expect(dialog).to_contain_text("no divider is needed")
        self.page.keyboard.press("Escape")
        self.page.get_by_role("button", name="Capacitor for a burst").click()
        burst = self.page.get_by_role("dialog", name="Capacitor for a burst")
        expect(burst).to_contain_text("No capacitor is needed")
        field = burst.get_by_label("Peak above the usual load")
        field.fill("800 mA")
        field.press("Enter")
        expect(burst).to_contain_text("hold it to")

    def test_a_kept_stage_is_an_own_entry_and_tells_of_newer_figures(self) -> None:
        self.open_gadget(step="Supply")
        self.node("Linear regulator").click()
        details = self.details()
        details.get_by_role("button", name="Keep in my catalogue").click()
        expect(details.get_by_role("status")).to_contain_text("edition 1")
        field = details.get_by_label("Quiescent current")
        field.fill("40 µA")
        field.press("Enter")
        details.get_by_role("button", name="Keep in my catalogue").click()
        expect(details.get_by_role("status")).to_contain_text("edition 2")
        self.save_by(lambda: self.page.keyboard.press("Control+z"))
        self.save_by(lambda: self.page.keyboard.press("Control+z"))
        expect(details.get_by_text("Newer figures for Linear regulator")).to_be_visible()

    def test_another_supply_is_kept_as_a_variant_and_is_what_was_said(self) -> None:
        page = self.open_gadget("Two AAA cells", step="Supply")
        page.get_by_role("button", name="Which supply at all?").click()
        table = page.get_by_role("region", name="Supplies side by side")
        expect(table.get_by_role("button", name="Cells that are thrown away (now)")).to_be_visible(timeout=60_000)
        row = table.get_by_test_id("school-pouch")
        expect(row).to_contain_text("mAh")
        row.get_by_role("button", name="A pouch and a charger", exact=True).click()
        expect(table).to_contain_text("What you have to do: Solder a pouch")
        coldest, mass = (row.locator("td").nth(k).inner_text() for k in (0, 2))
        row.get_by_role("button", name="Keep as a variant: A pouch and a charger").click()
        expect(page.get_by_label("Variant", exact=True)).to_contain_text("Pouch", timeout=20_000)
        expect(page.get_by_test_id("figure-mass")).to_have_text(mass)
        self.go("Runtime")
        expect(page.get_by_text("at the coldest").first).to_contain_text(coldest)

    @a_worker()
    def test_the_best_of_all_is_searched_narrowed_looked_at_and_kept(self) -> None:
        page = self.open_gadget("Two coin cells", step="Supply")
        page.get_by_role("button", name="Best of all").click()
        dialog = page.get_by_role("dialog")
        rows = dialog.get_by_role("region", name="The best supplies").locator("tbody tr")
        expect(rows.first).to_be_visible(timeout=60_000)
        expect(dialog.get_by_text("and costs no more").first).to_be_visible()  # the coin cells are beaten
        dialog.get_by_role("button", name="mass of the gadget").click()  # both count now
        expect(dialog.get_by_role("columnheader", name="mass of the gadget")).to_be_visible(timeout=60_000)
        expect(dialog.get_by_role("columnheader", name="cost of the gadget")).to_be_visible()
        dialog.get_by_label("Picture and order by").select_option("mass")
        expect(dialog.get_by_role("img", name="Runtime when coldest over mass of the gadget")).to_be_visible()
        dialog.get_by_role("button", name="cost of the gadget").click()
        expect(dialog.get_by_role("columnheader", name="cost of the gadget")).to_have_count(0, timeout=60_000)
        dialog.get_by_role("button", name="mass of the gadget").click()  # one at least counts
        expect(dialog.get_by_role("columnheader", name="mass of the gadget")).to_be_visible()
        most = dialog.get_by_label("At most, EUR")
        most.fill("6 EUR")
        most.press("Tab")
        expect(dialog.get_by_role("progressbar")).to_have_count(0, timeout=60_000)
        dialog.get_by_label("Refilled").select_option("thrown")
        expect(rows.first).to_contain_text("thrown away when empty")
        said = rows.first.locator("td").nth(1).inner_text()
        rows.first.get_by_role("button", name="Look closer").click()
        closer = dialog.get_by_role("region", name="Looked at closely")
        closer.get_by_role("button", name="Keep as a variant").click(timeout=60_000)
        expect(dialog).to_have_count(0, timeout=20_000)
        expect(page.get_by_test_id("figure-mass")).to_have_text(said)

    @a_worker()
    def test_why_a_cell_is_not_among_the_best(self) -> None:
        page = self.open_gadget("Two AAA cells", step="Supply")
        page.get_by_role("button", name="Best of all").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_text("Why another cell is not among them").click(timeout=60_000)
        dialog.get_by_label("Name of a cell").fill("21700")
        expect(dialog.get_by_role("listitem").filter(has_text="Cylinder 21700").first).to_contain_text(":")

    def test_a_search_shows_how_far_it_is_and_is_stopped(self) -> None:
        page = self.open_gadget("Two coin cells", step="Supply")  # and nobody works on it yet
        page.get_by_role("button", name="Best of all").click()
        dialog = page.get_by_role("dialog")
        expect(dialog.get_by_role("progressbar", name="Looking at every supply")).to_be_visible()
        dialog.get_by_role("button", name="Stop").click()
        expect(dialog.get_by_text("The search was stopped.")).to_be_visible()
        for _ in range(100):
            if Job.objects.get().state == "cancelled":
                break
            page.wait_for_timeout(100)
        self.assertEqual(Job.objects.get().state, "cancelled")
        with a_worker():
            dialog.get_by_role("button", name="Search again").click()
            expect(dialog.get_by_role("region", name="The best supplies")).to_be_visible(timeout=60_000)
        dialog.get_by_role("button", name="Close").first.click()
        page.reload()  # what was found is still there, and nobody has to work on it again
        page.get_by_role("button", name="Best of all").click()
        expect(dialog.get_by_role("region", name="The best supplies")).to_be_visible(timeout=20_000)
