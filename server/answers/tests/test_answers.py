"""Questions over the API: their answers, and what is said of a question that makes no sense."""

from __future__ import annotations

import json
from urllib.parse import urlencode

from core.tests.test_discharge_csv import csv
from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import HttpResponse

from catalogue.services import load_built_in
from projects.tests.helpers import ApiTestCase, document


class Answers(ApiTestCase):
    def test_a_rail_of_the_design_in_the_body(self) -> None:
        load_built_in()
        answer = self.send("POST", "/answers/rail/main", document())
        self.assertEqual(answer["rail"], "main")
        self.assertTrue(all(o["title"] for o in answer["options"]))
        self.send("POST", "/answers/rail/gone", document(), status=404)
        broken = document() | {"format": "other/1"}
        self.assertEqual(self.send("POST", "/answers/rail/main", broken, status=422)["errors"][0]["path"], "/format")

    def test_the_wiring_and_pins_as_text(self) -> None:
        load_built_in()
        gadget = document()
        self.assertEqual(self.send("POST", "/answers/wiring", gadget)["status"], "unknown")
        read = self.send("POST", "/answers/pins", {"pins": "P0..P1: in out\nA: analogue", "needs": ""})
        gadget["parts"][0] |= {"pins": read["pins"], "kind": "controller"}
        gadget["parts"][1]["needs"] = self.send("POST", "/answers/pins", {"needs": "x: in"})["needs"]
        gadget["wiring"] = {"picked": [{"signal": f"{gadget['parts'][1]['id']}/x", "pin": "P1"}]}
        (host,) = self.send("POST", "/answers/wiring", gadget)["hosts"]
        self.assertEqual([(w["pin"], w["picked"]) for w in host["wires"]], [("P1", True)])
        text = self.send("POST", "/answers/pins/text", {"pins": read["pins"]})["pins"]
        self.assertEqual(self.send("POST", "/answers/pins", {"pins": text})["pins"], read["pins"])
        wrong = self.send("POST", "/answers/pins", {"pins": "A: in\nB: fly"}, status=422)
        self.assertEqual(wrong["errors"][0]["path"], "/lines/1")
        self.send("POST", "/answers/pins", {"pins": "x" * 20_001}, status=422)
        gadget["wiring"] = {"picked": [{"signal": "no slash", "pin": "P1"}]}
        self.send("POST", "/answers/wiring", gadget, status=422)

    def test_the_gaps_of_a_body(self) -> None:
        gadget = document()
        gadget["parts"][0]["body"] = {"size_mm": [5, 5, 3], "position_mm": [10, 10, 5]}
        answer = self.send("POST", "/answers/gaps?where=/parts/0", gadget)
        self.assertEqual({r["side"] for r in answer["rulers"]}, {"left", "right", "front", "back", "bottom", "top"})
        self.assertEqual(answer["status"], "pass")
        self.assertIsNone(self.send("POST", "/answers/gaps?where=/parts/99", gadget))
        self.send("POST", "/answers/gaps", gadget, status=422)
        self.send("POST", f"/answers/gaps?where={'x' * 81}", gadget, status=422)
        gadget["parts"][0]["body"]["turn_deg"] = [0, 0, 1e9]
        path = self.send("POST", "/answers/gaps?where=/parts/0", gadget, status=422)["errors"][0]["path"]
        self.assertEqual(path, "/parts/0/body/turn_deg/2")

    def test_the_case_cut_and_what_holds_it(self) -> None:
        gadget = document()
        gadget["parts"][0]["body"] = {"size_mm": [5, 5, 3], "position_mm": [10, 10, 5]}
        cut = self.send("POST", "/answers/section?axis=z&at_mm=6", gadget)
        self.assertEqual([b["where"] for b in cut["bodies"]], ["/parts/0"])
        for query in ("axis=w&at_mm=6", "axis=z&at_mm=nan", "axis=z&at_mm=-1", "axis=z"):
            self.send("POST", f"/answers/section?{query}", gadget, status=422)
        offers = self.send("POST", "/answers/holding", gadget)
        self.assertIn("screw", {o["kind"] for o in offers})

    def test_the_surface_of_a_case_as_it_is_made(self) -> None:
        gadget = document()
        box = self.send("POST", "/answers/shell", gadget)
        self.assertGreater(len(box["lower"]["corners"]), 15)
        gadget["enclosure"] |= {"taper_deg": 4, "dome_mm": 3}
        shell = self.send("POST", "/answers/shell", gadget)
        self.assertGreater(len(shell["lower"]["corners"]), 8)
        self.assertGreater(len(shell["upper"]["faces"]), 8)
        gadget["enclosure"]["dome_mm"] = 1000
        self.send("POST", "/answers/shell", gadget, status=422)

    def test_the_case_as_a_file(self) -> None:
        def ask(kind: str, gadget: dict[str, object]) -> HttpResponse:
            where = f"/api/answers/case?kind={kind}"
            return self.client.post(where, json.dumps(gadget), content_type="application/json")  # type: ignore[return-value]

        for kind, begins in (("3mf", b"PK"), ("obj", b"#"), ("stl", b""), ("step", b"ISO-10303-21;")):
            answer = ask(kind, document())
            self.assertEqual(
                (answer.status_code, answer["Content-Disposition"]), (200, f'attachment; filename="case.{kind}"')
            )
            self.assertTrue(answer.content.startswith(begins))
            self.assertGreater(len(answer.content), 500)
        self.assertEqual(ask("iges", document()).status_code, 422)
        solid = document()
        solid["enclosure"]["wall_mm"] = 49
        refused = ask("stl", solid)
        self.assertEqual(refused.status_code, 422)
        self.assertIn("nothing to print", refused.content.decode())

    def test_design_tasks_give_figures_with_their_working(self) -> None:
        divider = self.send("POST", "/answers/divider", {"top_v": 4.2, "reference_v": 3.3})
        self.assertGreater(divider["drain"]["value"], 0)
        self.assertTrue(divider["drain"]["working"]["formula"])
        lamp = self.send("POST", "/answers/led", {"rail_v": 3.3})
        self.assertIn("mcd", lamp["sentence"])
        capacitor = self.send("POST", "/answers/capacitor", {"current_a": 0.4, "seconds": 0.002, "allowed_v": 0.02})
        self.assertGreater(capacitor["chosen"]["value"], 0)

    def test_range_outlook_table_and_day_of_the_design_in_the_body(self) -> None:
        spread = self.send("POST", "/answers/range", document())
        self.assertLess(spread["low"]["value"], spread["high"]["value"])
        self.assertEqual(len(self.send("POST", "/answers/outlook", document())["age"]), 11)
        self.assertIn("uint16_t", self.send("POST", "/answers/soc-table", document())["header"])
        self.assertEqual(self.send("POST", "/answers/day?charge=0.3", document())["charge_from"], 0.3)
        wrong = self.send("POST", "/answers/day?charge=3", document(), status=422)
        self.assertIn("charge", wrong["errors"][0]["path"])

    def test_the_charge_and_the_heat_of_the_design_in_the_body(self) -> None:
        whole, half = (self.send("POST", f"/answers/charge?begins_at={z}", document()) for z in (0, 0.5))
        self.assertGreater(whole["seconds"], half["seconds"])
        self.assertEqual(len({len(x) for x in whole["course"].values()}), 1)
        self.assertEqual([s["chosen"] for s in whole["settings"]].count(True), 1)
        self.assertEqual([r["chosen"] for r in whole["loads"]].count(True), 1)
        for begins_at in ("1", "-0.1", "nan", "x"):
            wrong = self.send("POST", f"/answers/charge?begins_at={begins_at}", document(), status=422)
            self.assertIn("begins_at", wrong["errors"][0]["path"])
        self.assertIsNone(self.send("POST", "/answers/charge", document() | {"charger": None}))
        heat = self.send("POST", "/answers/heat", document())
        self.assertEqual(heat["rows"][-1]["name"], "Charging")
        margins = [x["limit_c"] - x["value_c"] for x in heat["limits"]]
        self.assertEqual(margins, sorted(margins))
        self.assertEqual({len(r["node_c"]) for r in heat["rows"]}, {len(heat["nodes"])})
        refused = self.send(
            "POST",
            "/answers/heat",
            document() | {"enclosure": document()["enclosure"] | {"outer_mm": [60, 90, -24]}},
            status=422,
        )
        self.assertIn("/enclosure/outer_mm", refused["errors"][0]["path"])

    def test_savings_alone_and_stacked(self) -> None:
        load_built_in()
        savings = self.send("POST", "/answers/savings", document())
        keys = [s["key"] for s in savings]
        query = "&".join(f"key={k}" for k in keys)
        stack = self.send("POST", f"/answers/savings/stack?{query}", document())
        self.assertEqual(len(stack["keys"]) + len(stack["left_out"]), len(keys))
        self.assertEqual([s["key"] for s in stack["steps"]], keys)
        self.assertEqual([s["key"] for s in stack["steps"] if s["runtime"]], stack["keys"])
        unknown = self.send("POST", "/answers/savings/stack?key=none", document(), status=422)
        self.assertIn("none", unknown["errors"][0]["message"])

    def test_cells_in_portions(self) -> None:
        load_built_in()
        sight = self.send("POST", "/answers/cells?depth=first%20sight", document())
        names = list(dict.fromkeys(row["name"] for row in sight if row["open"]))
        portion = self.send("POST", f"/answers/cells?{urlencode([('name', n) for n in names[:2]])}", document())
        self.assertEqual({row["name"] for row in portion}, set(names[:2]))
        self.assertEqual({row["tried"] for row in portion}, {True})
        self.assertEqual(self.send("POST", "/answers/cells?name=nothing+of+that+name", document()), [])
        for wrong in ("name=" + 201 * "a", "&".join(["name=a"] * 61), "depth=deeper"):
            self.send("POST", f"/answers/cells?{wrong}", document(), status=422)

    def test_a_cell_from_its_datasheet(self) -> None:
        load_built_in()
        task = {"name": "Own", "chemistry": "alkaline", "form": "cylinder", "capacity_ah": 2.5, "size_mm": [14, 50, 14]}
        answer = self.send("POST", "/answers/datasheet", task)
        self.assertGreater(answer["cell"]["mass_g"], 5)
        wrong = self.send("POST", "/answers/datasheet", task | {"capacity_ah": -1}, status=422)
        self.assertIn("capacity_ah", wrong["errors"][0]["path"])

    def test_nonsense_is_said_at_its_field(self) -> None:
        wrong = self.send(
            "POST", "/answers/capacitor", {"current_a": -1, "seconds": 0.002, "allowed_v": 0.1}, status=422
        )
        self.assertEqual([e["path"] for e in wrong["errors"]], ["/task/current_a"])
        half = self.send("POST", "/answers/divider", {"top_v": 4.2, "reference_v": 3.3, "bits": 12.5}, status=422)
        self.assertIn("whole number", half["errors"][0]["message"])
        same = self.send("POST", "/answers/divider", {"top_v": 3, "reference_v": 3.3}, status=422)
        self.assertIn("no divider is needed", same["errors"][0]["message"])

    def test_signed_out_nobody_gets_an_answer(self) -> None:
        self.client.logout()
        self.send("POST", "/answers/led", {"rail_v": 3.3}, status=401)

    def test_a_cell_is_fitted_to_two_discharges_and_a_bad_file_is_named(self) -> None:
        cell = document()["battery"]["cell"] | {"capacity_ah": 5.0, "cutoff_v": 2.5}
        files = [SimpleUploadedFile(f"{rate}.csv", csv(rate)) for rate in ("0.05", "0.5")]
        answer = self.client.post("/api/answers/calibration", {"cell": json.dumps(cell), "files": files}).json()
        self.assertGreater(len(answer["cell"]["curve"]["soc"]), 100)
        self.assertLess(answer["runtime_error"]["value"], 0.2)
        bad = [SimpleUploadedFile("upside-down.csv", csv("0.05", v=-1))]
        response = self.client.post("/api/answers/calibration", {"cell": json.dumps(cell), "files": bad})
        self.assertEqual(response.status_code, 422)
        fitted = json.dumps(answer["cell"])
        for degrees, said in (("-5", ""), ("40", "is 40 °C"), ("cold", "number")):
            with self.subTest(degrees):
                form = {
                    "cell": fitted,
                    "temperature_c": degrees,
                    "file": SimpleUploadedFile("cold.csv", csv("0.5", i=0.8)),
                }
                response_cold = self.client.post("/api/answers/calibration/cold", form)
                if said:
                    self.assertEqual(response_cold.status_code, 422)
                    self.assertIn(said, response_cold.json()["errors"][0]["message"])
                else:
                    self.assertEqual(response_cold.json()["cell"]["curve"]["cold"]["temperature_c"], -5)
        self.assertIn("upside-down.csv", response.json()["errors"][0]["path"])
        self.assertIn("not that of a cell", response.json()["errors"][0]["message"])
