"""The case in space: bodies chosen, moved, turned and made round; walls and edges; the same from three sides."""

from __future__ import annotations

from typing import Any

import trimesh
from django.test import override_settings
from playwright.sync_api import FilePayload, Locator, expect

from .base import BrowserTestCase

AT_ONCE = {"default": {"BACKEND": "django_tasks.backends.immediate.ImmediateBackend"}}


def half_a_box(x: float, y: float, z: float) -> bytes:
    """A wedge as an ASCII STL."""
    corners = [(0, 0, 0), (x, 0, 0), (x, y, 0), (0, y, 0), (0, 0, z), (0, y, z)]
    faces = [(0, 3, 2), (0, 2, 1), (0, 1, 4), (3, 5, 2), (0, 4, 5), (0, 5, 3), (1, 2, 5), (1, 5, 4)]
    lines = ["solid wedge"]
    for face in faces:
        lines += [
            "facet normal 0 0 0",
            "outer loop",
            *(f"vertex {a} {b} {c}" for a, b, c in (corners[i] for i in face)),
        ]
        lines += ["endloop", "endfacet"]
    return "\n".join([*lines, "endsolid wedge", ""]).encode()


@override_settings(TASKS=AT_ONCE)
class FromAFile(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.open_gadget(step="Fit")
        self.page.get_by_role("button", name="Sound amplifier, 2 W (DA-2)", exact=True).click()

    def bring(self, name: str, content: bytes) -> None:
        file: FilePayload = {"name": name, "mimeType": "model/stl", "buffer": content}
        self.page.get_by_label("Its shape from a file").set_input_files(file)

    def body(self) -> dict[str, Any]:
        found: dict[str, Any] = self.stored_design()["parts"][6]["body"]
        return found

    def test_a_wedge_takes_the_place_of_a_cuboid_and_may_be_one_again(self) -> None:
        self.save_by(lambda: self.bring("wedge.stl", half_a_box(16, 15, 4)), patience_s=60)
        expect(self.page.get_by_role("status").filter(has_text="wedge.stl")).to_contain_text("8 triangles")
        body = self.body()
        self.assertEqual((body["shape"], body["size_mm"], len(body["hull_mm"])), ("mesh", [16, 15, 4], 6))
        self.page.reload()
        self.page.get_by_role("button", name="Sound amplifier, 2 W (DA-2)", exact=True).click()
        expect(self.page.get_by_text("wedge.stl: ")).to_be_visible()
        self.save_by(self.page.get_by_role("button", name="Stand it up").click)
        self.assertEqual(self.body()["turn_deg"], [90, 0, 0])
        self.save_by(lambda: self.page.get_by_label("Shape", exact=True).select_option("cuboid"))
        self.assertEqual((self.body()["shape"], self.body()["hull_mm"]), ("cuboid", []))

    def test_inches_are_asked_for(self) -> None:
        self.bring("wedge.stl", half_a_box(0.5, 0.6, 0.2))
        inches = self.page.get_by_role("button", name="inches")
        expect(inches).to_be_visible(timeout=60_000)
        self.save_by(inches.click, patience_s=60)
        self.assertEqual(self.body()["size_mm"], [12.7, 15.24, 5.08])

    def test_what_cannot_be_read_is_said_and_nothing_is_changed(self) -> None:
        before = self.body()
        self.bring("wedge.3mf", b"hello")
        expect(self.page.get_by_role("alert").filter(has_text="it is no 3MF")).to_be_visible(timeout=60_000)
        self.bring("empty.stl", b"")
        expect(self.page.get_by_role("alert").filter(has_text="must be from 1 byte")).to_be_visible()
        self.assertEqual(self.body(), before)


@override_settings(TASKS=AT_ONCE)
class CaseFromAFile(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.open_gadget(step="Fit")

    def case(self) -> dict[str, Any]:
        found: dict[str, Any] = self.stored_design()["enclosure"]
        return found

    def bring(self, content: bytes) -> None:
        file: FilePayload = {"name": "coat.stl", "mimeType": "model/stl", "buffer": content}
        self.page.get_by_label("Its shape from a file").set_input_files(file)

    def test_it_takes_the_place_of_the_box_is_judged_and_may_be_a_box_again(self) -> None:
        """A box as large as the gadget's, with walls of 1 mm and no openings: what goes through a side is in its way."""
        shell = trimesh.creation.box((62, 105, 24)).difference(trimesh.creation.box((60, 103, 22)), engine="manifold")
        raw = shell.export(file_type="stl")
        assert isinstance(raw, bytes)
        self.save_by(lambda: self.bring(raw), patience_s=60)
        expect(self.page.get_by_text("As in coat.stl")).to_be_visible()
        case = self.case()
        self.assertEqual([round(v, 2) for v in case["outer_mm"]], [62, 105, 24])
        self.assertEqual([round(v, 2) for v in case["walls_mm"].values()], [1] * 6)
        self.assertEqual((case["corner_mm"], case["fastenings"]), (0, []))
        expect(self.page.get_by_role("heading", name="coat.stl is thin in")).to_be_visible()
        self.page.get_by_text("thin spots, marked in space").click()
        expect(self.page.get_by_text("1 mm at").first).to_be_visible()
        expect(
            self.page.get_by_role("heading", name="Charger board with port (CB-1) and the front wall collide")
        ).to_be_visible()
        self.page.reload()
        expect(self.page.get_by_text("As in coat.stl")).to_be_visible()
        self.page.get_by_role("tab", name="Cut and measured").click()
        expect(self.page.get_by_role("img", name="The case cut across")).to_be_visible()
        self.save_by(self.page.get_by_role("button", name="A box again").click)
        self.assertIsNone(self.case()["shape"])
        expect(self.page.get_by_label("Outer size, x")).to_have_value("62 mm")

    def test_an_open_one_is_refused_in_words(self) -> None:
        before = self.case()
        shell = trimesh.creation.box((62, 105, 24))
        shell.update_faces([i > 1 for i in range(len(shell.faces))])
        raw = shell.export(file_type="stl")
        assert isinstance(raw, bytes)
        self.bring(raw)
        expect(self.page.get_by_role("alert").filter(has_text="its surface is not closed")).to_be_visible(
            timeout=60_000
        )
        self.assertEqual(self.case(), before)

    def test_leaning_sides_a_dome_and_edges_are_typed_and_what_can_not_be_is_said(self) -> None:
        for label, text, field, value in (
            ("Sides lean inwards", "3", "taper_deg", 3), ("Top domed by", "4", "dome_mm", 4), ("Edges around, radius", "2.5", "edge_mm", 2.5),
        ):  # fmt: skip
            self.page.get_by_label(label).fill(text)
            self.save_by(lambda label=label: self.page.get_by_label(label).press("Tab"))  # type: ignore[misc]
            self.assertEqual(self.case()[field], value)
        self.page.get_by_label("Top domed by").fill("13")
        self.page.get_by_label("Top domed by").press("Tab")
        expect(self.page.get_by_text("its dome can't be higher than half its height, 12 mm").first).to_be_visible()
        self.page.get_by_label("Top domed by").fill("4")
        self.page.get_by_label("Top domed by").press("Tab")
        self.page.get_by_role("tab", name="From three sides").click()
        expect(self.page.get_by_role("group", name="The case from the front").locator("path").first).to_be_visible()
        self.page.reload()
        expect(self.page.get_by_label("Sides lean inwards")).to_have_value("3 °")


class InSpace(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.open_gadget(step="Fit")
        self.space = self.page.get_by_role("application", name="The case in space, 18 bodies in it")
        expect(self.space).to_be_visible()
        expect(self.page.get_by_test_id("in-space")).to_be_visible()

    def body(self, part: int) -> dict[str, Any]:
        found: dict[str, Any] = self.stored_design()["parts"][part]["body"]
        return found

    def field(self, label: str) -> Locator:
        return self.page.get_by_label(label, exact=True)

    def enter(self, label: str, text: str) -> None:
        self.field(label).fill(text)
        self.save_by(lambda: self.field(label).press("Tab"))

    def test_by_keys_alone_a_body_is_chosen_and_moved(self) -> None:
        before = self.body(0)["position_mm"]
        self.space.focus()
        self.page.keyboard.press(".")
        gaps = self.page.get_by_role("status").filter(has_text="Dual-core radio controller")
        expect(gaps).to_contain_text("the bottom wall")
        self.save_by(lambda: self.page.keyboard.press("ArrowRight"))
        self.save_by(lambda: self.page.keyboard.press("Shift+PageUp"))
        moved = self.body(0)["position_mm"]
        self.assertEqual([round(a - b, 3) for a, b in zip(moved, before, strict=True)], [0.5, 0, 0.1])
        self.page.keyboard.press("Escape")
        expect(gaps).to_have_count(0)
        self.page.keyboard.press("ArrowLeft")  # turns the case, and moves nothing
        self.page.keyboard.press("+")
        self.assertEqual(self.body(0)["position_mm"], moved)

    def test_how_its_pieces_meet_and_a_head_in_its_countersink(self) -> None:
        joint = self.field("Where its pieces meet")
        self.save_by(lambda: joint.select_option("flat"))
        self.page.reload()
        expect(joint).to_have_value("flat")
        listed = self.page.get_by_role("region", name="Every body and its tightest neighbour")
        listed.get_by_role("button", name="Post for a screw M2, 1", exact=True).click()
        self.save_by(self.field("Its head lies in a countersink of the lid").check)
        posts = self.stored_design()["enclosure"]["fastenings"]
        self.assertEqual([f["sunk"] for f in posts], [True, False, False, False])

    def test_names_are_written_over_the_picture(self) -> None:
        written = self.page.get_by_text("Speaker, 28 mm, 8 Ω", exact=True)
        before = written.count()
        self.page.get_by_label("Names", exact=True).check()
        expect(written).to_have_count(before + 1)
        self.page.reload()
        expect(self.page.get_by_label("Names", exact=True)).to_be_checked()
        self.page.get_by_label("Names", exact=True).uncheck()
        expect(written).to_have_count(before)

    def test_a_body_is_dragged_and_its_gaps_are_told_meanwhile(self) -> None:
        self.page.get_by_role("button", name="from above").click()
        canvas = self.page.get_by_test_id("in-space")
        canvas.scroll_into_view_if_needed()
        box = canvas.bounding_box()
        assert box is not None
        x, y = box["x"] + box["width"] / 2 - 40, box["y"] + box["height"] / 2
        self.page.mouse.move(x, y)
        name = self.page.locator("p").filter(has_text="Pouch 503450, 900 mAh").first
        expect(name).to_be_visible()
        self.page.mouse.down()
        expect(self.details_title()).to_have_text("Pouch 503450, 900 mAh")
        before = self.stored_design()["battery"]["body"]["position_mm"]
        for step in range(1, 9):
            self.page.mouse.move(x + 3 * step, y + 4 * step)
        gaps = self.page.get_by_role("status").filter(has_text="Pouch 503450")
        expect(gaps).to_contain_text("Charger board")
        self.save_by(self.page.mouse.up)
        after = self.stored_design()["battery"]["body"]["position_mm"]
        self.assertGreater(after[0], before[0])
        self.assertLess(after[1], before[1])
        self.assertEqual(after[2], before[2])
        self.page.keyboard.press("Control+z")
        self.expect_saved()
        expect(self.page.get_by_label("Place of its left, front, bottom corner, x")).to_have_value(f"{before[0]:g} mm")

    def details_title(self) -> Locator:
        return self.page.get_by_role("region", name="Body", exact=True).get_by_role("heading").first

    def test_a_body_is_made_round_and_turned_and_what_cannot_be_is_said(self) -> None:
        self.page.get_by_role("button", name="Sound amplifier, 2 W (DA-2)", exact=True).click()
        self.save_by(lambda: self.field("Shape").select_option("cylinder"))
        self.enter("Diameter", "14 mm")
        self.enter("Turned about x", "30")
        round_one = self.body(6)
        self.assertEqual((round_one["shape"], round_one["along"], round_one["turn_deg"]), ("cylinder", "z", [30, 0, 0]))
        self.assertEqual(round_one["size_mm"][:2], [14, 14])
        self.page.reload()
        self.page.get_by_role("button", name="Sound amplifier, 2 W (DA-2)", exact=True).click()
        expect(self.field("Diameter")).to_have_value("14 mm")
        expect(self.field("Turned about x")).to_have_value("30 °")
        self.field("Turned about x").fill("400")
        self.field("Turned about x").press("Tab")
        expect(self.page.get_by_role("alert").first).to_be_visible()
        self.page.get_by_role("tab", name="From three sides").click()
        expect(self.page.get_by_test_id("body-From above-/battery")).to_be_visible()

    def test_rounded_edges_and_a_thicker_wall_move_the_verdict(self) -> None:
        fit = self.page.get_by_test_id("verdict-fit")
        expect(fit).to_have_attribute("data-status", "watch")
        self.enter("Upright edges, radius", "14 mm")
        expect(self.page.get_by_test_id("finding-collision").first).to_contain_text("corner")
        self.enter("Upright edges, radius", "0")
        expect(fit).to_have_attribute("data-status", "watch")
        self.page.get_by_text("Walls that are not as thick").click()
        self.enter("bottom", "3 mm")
        expect(self.page.get_by_test_id("finding-collision").first).to_contain_text("the bottom wall")
        self.assertEqual(self.stored_design()["enclosure"]["walls_mm"]["bottom"], 3)
        self.field("Upright edges, radius").fill("40 mm")
        self.field("Upright edges, radius").press("Tab")
        expect(self.page.get_by_role("alert").filter(has_text="half its smaller side, 31 mm").first).to_be_visible()

    def test_room_that_must_stay_free_is_kept_and_says_who_stands_in_it(self) -> None:
        self.page.get_by_role("button", name="Memory card in its holder (MC)", exact=True).click()
        self.save_by(self.page.get_by_role("button", name="Keep room free").click)
        self.save_by(lambda: self.page.get_by_label("For, room 2", exact=True).select_option("card"))
        self.save_by(lambda: self.page.get_by_label("At its", exact=True).nth(1).select_option("left"))
        deep = self.page.get_by_label("Deep", exact=True).nth(1)
        deep.fill("30 mm")
        self.save_by(lambda: deep.press("Tab"))
        expect(self.page.get_by_test_id("finding-zone-blocked").first).to_contain_text("a card's way in and out")
        self.page.reload()
        self.page.get_by_role("button", name="Memory card in its holder (MC)", exact=True).click()
        deep = self.page.get_by_label("Deep", exact=True).nth(1)
        expect(deep).to_have_value("30 mm")
        deep.fill("0")
        deep.press("Enter")
        expect(self.page.get_by_role("alert").first).to_be_visible()
        self.assertEqual(self.body(5)["zones"][1]["depth_mm"], 30)
        self.save_by(self.page.get_by_role("button", name="Remove room 2").click)
        self.assertEqual(len(self.body(5)["zones"]), 1)

    def test_what_sits_on_a_part_moves_with_it_and_is_free_when_that_goes(self) -> None:
        self.page.get_by_role("button", name="Measuring divider, 2 × 470 kΩ", exact=True).click()
        self.save_by(lambda: self.field("Sits on").select_option("Sound amplifier, 2 W (DA-2)"))
        before = self.body(10)["position_mm"]
        self.page.get_by_role("button", name="Sound amplifier, 2 W (DA-2)", exact=True).click()
        self.space.focus()
        self.save_by(lambda: self.page.keyboard.press("ArrowLeft"))
        self.assertEqual(round(self.body(10)["position_mm"][0] - before[0], 3), -0.5)
        self.go("Draw")
        self.page.get_by_test_id("cell-amplifier-loudest").click()
        self.save_by(self.page.get_by_role("button", name="Remove the part").click)
        self.assertIsNone(self.body(9)["on"])

    def test_what_holds_the_case_is_taken_out_and_put_in_where_there_is_room(self) -> None:
        details = self.page.get_by_role("region", name="Case", exact=True)
        expect(details.get_by_role("button", name="Post for a screw M2, 1", exact=True)).to_be_visible()
        self.save_by(details.get_by_role("button", name="Take them all out").click)
        expect(self.page.get_by_role("heading", name="Nothing holds the case together yet")).to_be_visible()
        details.get_by_role("button", name="What has room").click()
        details.get_by_label("With").select_option("Screws M3 into brass inserts")
        expect(details.get_by_text("4 posts, each 8")).to_be_visible()
        self.save_by(details.get_by_role("button", name="Put them in").click)
        kept = self.stored_design()["enclosure"]["fastenings"]
        self.assertEqual([(f["kind"], f["thread"]) for f in kept], [("insert", "M3")] * 4)
        expect(self.page.get_by_role("heading", name="Nothing holds the case together yet")).to_have_count(0)
        details.get_by_role("button", name="Post with an insert M3, 1", exact=True).click()
        before = kept[0]["body"]["position_mm"]
        self.space.focus()
        self.save_by(lambda: self.page.keyboard.press("ArrowRight"))
        moved = self.stored_design()["enclosure"]["fastenings"][0]["body"]["position_mm"]
        self.assertEqual(round(moved[0] - before[0], 3), 0.5)
        self.save_by(self.page.get_by_role("button", name="Remove it").click)
        self.assertEqual(len(self.stored_design()["enclosure"]["fastenings"]), 3)

    def test_a_board_with_what_is_on_it_and_posts_under_its_holes(self) -> None:
        """The amplifier as a board of 10 mm above the floor: a connector of 5 mm on it makes its box higher, a hole outside is said, two in it get posts."""
        self.page.get_by_role("button", name="Sound amplifier, 2 W (DA-2)", exact=True).click()
        self.save_by(lambda: self.field("Shape").select_option("board"))
        self.assertEqual([b["name"] for b in self.body(6)["blocks"]], ["Board"])
        self.save_by(self.page.get_by_role("button", name="Something on it").click)
        self.page.get_by_text("Connector 8 × 6 × 3 mm").click()
        self.enter("Size of Connector, z", "5")
        self.enter("What it is, 2", "Plug")
        self.save_by(lambda: self.page.get_by_label("Can be left off").check())
        self.assertEqual(self.body(6)["size_mm"], [17, 16, 6.6])
        self.enter("Place of its left, front, bottom corner, z", "12")
        for number in (1, 2):
            self.save_by(self.page.get_by_role("button", name="Hole", exact=True).click)
            self.enter(f"Hole {number}, x", ("2.5", "14.5")[number - 1])
        self.field("Hole 2, x").fill("17")
        self.field("Hole 2, x").press("Tab")
        expect(self.page.get_by_text("leaves the board").first).to_be_visible()
        self.enter("Hole 2, x", "14.5")
        self.page.reload()
        expect(self.page.get_by_role("heading", name="Nothing holds Sound amplifier, 2 W (DA-2)")).to_be_visible()
        kept = self.body(6)
        self.assertEqual([(b["name"], b["spare"]) for b in kept["blocks"]], [("Board", False), ("Plug", True)])
        self.assertEqual([h["at_mm"] for h in kept["holes"]], [[2.5, 2.2], [14.5, 2.2]])
        details = self.page.get_by_role("region", name="Case", exact=True)
        details.get_by_role("button", name="What has room").click()
        expect(details.get_by_label("With").get_by_role("option")).to_have_count(2)
        self.save_by(details.get_by_role("button", name="Put them in").click)
        posts = [f for f in self.stored_design()["enclosure"]["fastenings"] if f["carries"] == "amplifier"]
        self.assertEqual([f["thread"] for f in posts], ["M2", "M2"])
        expect(self.page.get_by_role("heading", name="Nothing holds Sound amplifier, 2 W (DA-2)")).to_have_count(0)
        details.get_by_role("button", name=posts[0]["name"], exact=True).click()
        expect(self.field("Carries")).to_have_value("amplifier")

    def test_coloured_by_warmth_it_says_how_warm_each_gets(self) -> None:
        self.page.get_by_label("Coloured by").select_option("warmth")
        expect(self.page.get_by_text("at its limit")).to_be_visible()
        self.page.get_by_role("button", name="from above").click()
        canvas = self.page.get_by_test_id("in-space")
        canvas.scroll_into_view_if_needed()
        box = canvas.bounding_box()
        assert box is not None
        self.page.mouse.move(box["x"] + box["width"] / 2 - 40, box["y"] + box["height"] / 2)
        expect(self.page.locator("p").filter(has_text="Pouch 503450, 900 mAh, up to").first).to_contain_text(
            "stands 45 °C"
        )

    def test_the_inside_is_typed(self) -> None:
        self.enter("Inside, z", "22")
        self.assertEqual(self.stored_design()["enclosure"]["outer_mm"], [62, 105, 26])

    def test_a_display_is_seen_through_a_window(self) -> None:
        """The display lies behind the lid; a window near its edge shows that, which is said."""
        display = next(i for i, p in enumerate(self.stored_design()["parts"]) if p["id"] == "display")
        self.page.get_by_role("button", name="Small OLED display (OD-09)", exact=True).click()
        expect(self.page.get_by_label("Behind the wall, seen through a window")).to_be_checked()
        self.enter("x of its corner", "0.2")
        self.enter("Film or pane before it", "0.5")
        expect(self.page.get_by_role("heading", name="The window shows the edge of Small OLED display")).to_be_visible()
        self.save_by(lambda: self.page.get_by_label("Behind the wall, seen through a window").uncheck())
        self.assertIsNone(self.body(display)["window"])
        self.save_by(lambda: self.page.get_by_label("Behind the wall, seen through a window").check())
        self.assertEqual(self.body(display)["window"], {"at_mm": [2, 2], "size_mm": [23, 23], "film_mm": 0})
        self.save_by(lambda: self.field("Sits between the walls").select_option("sliding"))
        self.page.reload()
        self.page.get_by_role("button", name="Small OLED display (OD-09)", exact=True).click()
        expect(self.field("Sits between the walls")).to_have_value("sliding")
        self.save_by(lambda: self.field("Shows or plugs through").select_option(""))
        self.assertIsNone(self.body(display)["window"])

    def test_the_case_is_saved_as_a_file_that_reads_back(self) -> None:
        with self.page.expect_download() as saved:
            self.page.get_by_role("button", name="Save 3MF").click()
        self.assertEqual(saved.value.suggested_filename, "case.3mf")
        found = trimesh.load(str(saved.value.path()), file_type="3mf")
        self.assertEqual([round(float(v)) for v in found.bounds[1]], [134, 105, 15])
        self.enter("Wall", "31 mm")
        self.page.get_by_role("button", name="Save STL").click()
        expect(
            self.page.get_by_role("region", name="Case", exact=True).get_by_text("there is nothing to print")
        ).to_be_visible()

    def test_what_ones_machine_holds_is_typed_kept_and_taken_again(self) -> None:
        self.page.get_by_text("What its making holds").click()
        self.save_by(self.page.get_by_role("button", name="My machine differs").click)
        self.enter("Put in, gap a side", "0.5 mm")
        self.enter("Name of the making", "Shed printer")
        self.assertEqual(self.stored_design()["enclosure"]["making"]["free_mm"], 0.5)
        expect(self.field("To the walls")).to_have_attribute("placeholder", "usual: 0.5\u00a0mm")
        self.page.get_by_role("button", name="Keep in my catalogue").click()
        expect(self.page.get_by_text("Kept as edition 1.")).to_be_visible()
        self.save_by(self.page.get_by_role("button", name="Back to the usual figures").click)
        self.assertIsNone(self.stored_design()["enclosure"]["making"])
        self.save_by(lambda: self.field("Made as").select_option("Shed printer"))
        self.assertEqual(self.stored_design()["enclosure"]["making"]["free_mm"], 0.5)
        self.field("Least gap a side").fill("0.6 mm")
        self.field("Least gap a side").press("Tab")
        expect(self.page.get_by_text("the least gap that works is larger")).to_be_visible()

    def test_a_film_lies_between_two_things_and_goes_with_them(self) -> None:
        self.page.get_by_role("button", name="Sound amplifier, 2 W (DA-2)", exact=True).click()
        self.save_by(self.page.get_by_role("button", name="Film", exact=True).click)
        self.save_by(lambda: self.field("Film to, 1").select_option("Speaker, 28 mm, 8 Ω"))
        self.enter("Thickness of film 1", "0.2 mm")
        self.assertEqual(
            self.stored_design()["enclosure"]["films"],
            [{"first": "amplifier", "second": "speaker", "thickness_mm": 0.2}],
        )
        self.go("Draw")
        self.page.get_by_test_id("cell-amplifier-loudest").click()
        self.save_by(self.page.get_by_role("button", name="Remove the part").click)
        self.assertEqual(self.stored_design()["enclosure"]["films"], [])

    def test_a_plane_is_pulled_through_and_measured(self) -> None:
        self.page.get_by_role("tab", name="Cut and measured").click()
        picture = self.page.get_by_role("img", name="The case cut across z at 12")
        expect(picture).to_be_visible()
        expect(picture.get_by_text("2\u00a0mm").first).to_be_visible()
        where = self.page.get_by_label("Where it is cut")
        where.focus()
        self.page.keyboard.press("Home")
        expect(self.page.get_by_role("img", name="nothing is cut but the case")).to_be_visible()
        self.page.get_by_label("Cut", exact=True).select_option("across y, from the front")
        for _ in range(100):
            self.page.keyboard.press("ArrowRight")
        where.focus()
        self.page.keyboard.press("End")
        for _ in range(100):
            self.page.keyboard.press("ArrowLeft")
        picture = self.page.get_by_role("img", name="The case cut across y at 52.5")
        expect(picture).to_be_visible()
        expect(picture.locator("title").filter(has_text="Pouch")).to_have_count(1)
        self.page.get_by_role("button", name="Table", exact=True).first.click()
        row = self.page.get_by_role("row", name="left wall 2 1.2")
        expect(row).to_be_visible()

    def test_the_case_is_cut_open_and_taken_apart(self) -> None:
        self.field("Cut").select_option("cut across z")
        where = self.page.get_by_label("Where it is cut")
        expect(where).to_have_attribute("aria-valuetext", "12\u00a0mm")
        where.focus()
        self.page.keyboard.press("End")
        expect(where).to_have_attribute("aria-valuetext", "24\u00a0mm")
        self.page.get_by_label("Taken apart").check()
        expect(self.space).to_be_visible()


class Letters(BrowserTestCase):
    def test_letters_are_put_on_a_side_and_what_is_wrong_with_them_is_told(self) -> None:
        """Dusk Ear has its name on its lid; more on the front, cut through its wall, are told, and raised instead they are none."""
        self.open_gadget(step="Fit")
        texts = self.page.get_by_role("group", name="Letters on it").get_by_label("Text", exact=True)
        expect(texts).to_have_value("Dusk Ear")
        self.save_by(self.page.get_by_role("button", name="More letters").click)
        self.save_by(lambda: self.page.get_by_label("On its").last.select_option("back"))
        deep = self.page.get_by_label("Engraved by").last

        def type_deep() -> None:
            deep.fill("2.5 mm")
            deep.press("Tab")

        self.save_by(type_deep)
        self.page.reload()
        expect(self.page.get_by_label("Engraved by").last).to_have_value("2.5 mm")
        own = self.stored_design()["enclosure"]["labels"][1]
        self.assertEqual((own["side"], own["depth_mm"], own["raised"]), ("back", 2.5, False))
        expect(self.page.get_by_text("“Dusk Ear” is cut deep into its wall").first).to_be_visible()
        self.save_by(self.page.get_by_label("Raised, not engraved").last.click)
        expect(self.page.get_by_text("“Dusk Ear” is cut deep into its wall")).to_have_count(0)
        self.save_by(self.page.get_by_role("button", name="Remove the letters Dusk Ear").last.click)
        self.assertEqual(len(self.stored_design()["enclosure"]["labels"]), 1)
