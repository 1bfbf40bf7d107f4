"""The built-in catalogue and own parts."""

from __future__ import annotations

import json

from catalogue.models import CatalogueEntry
from catalogue.services import catalogue_for, load_built_in
from ember_core.imports.parts_list import read_parts_list
from projects.tests.helpers import PARTS, ApiTestCase, document


class Catalogue(ApiTestCase):
    def setUp(self) -> None:
        super().setUp()
        load_built_in()

    def test_loading_again_changes_nothing_and_mends_what_differs(self) -> None:
        self.assertEqual(load_built_in(), 0)
        CatalogueEntry.objects.filter(key="cell-coin-2032").update(document="{}")
        CatalogueEntry.objects.create(owner=None, key="gone", kind="part", name="Gone", document="{}")
        self.assertEqual(load_built_in(), 2)

    def test_search_by_kind_and_words(self) -> None:
        cells = self.send("GET", "/catalogue?kind=cell&text=pouch+503450")
        self.assertEqual([c["entry"]["cell"]["name"] for c in cells], ["Pouch 503450, 900 mAh"])
        self.send("GET", "/catalogue?kind=gizmo", status=422)

    def test_own_parts_by_csv_are_mine_alone(self) -> None:
        added = self.upload("/catalogue/lists", PARTS)
        self.assertEqual([(a["own"], a["entry"]["part"]["name"]) for a in added], [(True, "Brain"), (True, "Ear")])
        self.upload("/catalogue/lists", PARTS)
        self.assertEqual(CatalogueEntry.objects.filter(owner=self.ada).count(), 2)
        self.assertEqual(len(catalogue_for(self.ada).parts), len(catalogue_for(self.bo).parts) + 2)
        self.client.force_login(self.bo)
        self.assertFalse(any(e["own"] for e in self.send("GET", "/catalogue?text=Brain")))
        self.send("DELETE", f"/catalogue/{added[0]['id']}", status=404)

    def test_own_chargers_go_out_and_come_in_as_csv(self) -> None:
        text = b"name,float voltage [V],charge current [mA]\nHill charger,4.2,300\n"
        added = self.upload("/catalogue/lists", text)
        self.assertEqual((added[0]["entry"]["kind"], added[0]["entry"]["charger"]["fixed_a"]), ("charger", 0.3))
        csv = self.client.get("/api/catalogue/own-chargers.csv")
        self.assertIn("own-chargers.csv", csv["Content-Disposition"])
        again = self.upload("/catalogue/lists", csv.content)
        self.assertEqual((len(again), again[0]["entry"]["edition"]), (1, 2))
        self.assertEqual(again[0]["entry"]["charger"], added[0]["entry"]["charger"])
        answer = self.upload("/catalogue/lists", text + b"Hill-Charger,4.2,300\nSteep,40,1\n", status=422)
        self.assertEqual([e["path"] for e in answer["errors"]], ["row 3, name", "row 4, float voltage"])
        self.client.force_login(self.bo)
        self.assertEqual(self.client.get("/api/catalogue/own-chargers.csv").content.count(b"\n"), 1)

    def test_bad_csv_adds_nothing(self) -> None:
        answer = self.upload("/catalogue/lists", PARTS + b"Bell,1,45 mAh\n", status=422)
        self.assertEqual(answer["errors"][0]["path"], "row 4, active [mA]")
        self.assertFalse(CatalogueEntry.objects.filter(owner=self.ada).exists())

    def test_built_in_entries_cannot_be_deleted(self) -> None:
        entry = CatalogueEntry.objects.filter(owner=None).first()
        assert entry is not None
        self.send("DELETE", f"/catalogue/{entry.pk}", status=404)

    def test_own_entries_of_an_earlier_version_are_read(self) -> None:
        part = {"id": "glow", "name": "Old glow", "kind": "lamp", "rail": "main", "passenger": True,
                "states": [{"name": "on", "draw": {"behaviour": "current", "current_a": {"typical": 0.01, "least": 0.005}}}]}  # fmt: skip
        CatalogueEntry.objects.create(
            owner=self.ada, key="own-glow", kind="part", name="Old glow",
            document=json.dumps({"key": "own-glow", "kind": "part", "edition": 3, "part": part}),
        )  # fmt: skip
        found = self.send("GET", "/catalogue?kind=part&text=Old%20glow")[0]["entry"]
        self.assertEqual((found["part"]["kind"], found["part"]["parasitic"]), ("led", True))
        self.assertEqual(found["part"]["states"][0]["draw"]["current_a"]["min"], 0.005)
        self.send("POST", "/evaluate", document())  # with it in the catalogue
        again = self.send("PUT", "/catalogue/own", found)
        self.assertEqual(again["entry"]["edition"], 4)

    def test_what_ones_machine_holds_is_kept_and_found_by_its_owner_only(self) -> None:
        own = self.send("POST", "/answers/making", document()) | {"name": "Shed printer", "free_mm": 0.4}
        self.send("PUT", "/catalogue/own", {"key": "own-shed-printer", "kind": "making", "making": own})
        self.assertEqual([e["entry"]["making"] for e in self.send("GET", "/catalogue?kind=making")], [own])
        self.assertEqual(self.send("GET", "/catalogue/own.json")[0]["making"], own)
        self.client.force_login(self.bo)
        self.assertEqual(self.send("GET", "/catalogue?kind=making"), [])
        wrong = {"key": "own-x", "kind": "making", "making": own | {"least_mm": 3}}
        self.send("PUT", "/catalogue/own", wrong, status=422)

    def test_own_entries_go_out_and_come_in_as_json(self) -> None:
        self.upload("/catalogue/lists", PARTS)
        listed = self.send("GET", "/catalogue/own.json")
        self.assertEqual([e["part"]["name"] for e in listed], ["Brain", "Ear"])
        self.client.force_login(self.bo)
        self.upload("/catalogue/entries", json.dumps(listed).encode())
        self.assertEqual(self.send("GET", "/catalogue/own.json"), listed)
        csv = self.client.get("/api/catalogue/own-parts.csv").content
        self.assertEqual([p.name for p in read_parts_list(csv).parts], ["Brain", "Ear"])
        self.upload("/catalogue/entries", b'[{"key": "x", "kind": "part"}]', status=422)

    def test_an_edited_entry_gets_a_new_edition_and_the_design_is_told(self) -> None:
        entry = self.upload("/catalogue/lists", PARTS)[0]["entry"]
        gadget = document()
        gadget["parts"][0]["origin"] = {"key": entry["key"], "edition": entry["edition"]}
        codes = [f["code"] for f in self.send("POST", "/evaluate", gadget)["findings"]]
        self.assertNotIn("newer-figures", codes)
        entry["part"]["states"][0]["draw"]["current_a"]["typical"] = 2e-5
        kept = self.send("PUT", "/catalogue/own", entry)
        self.assertEqual((kept["own"], kept["entry"]["edition"]), (True, 2))
        found = {f["code"]: f for f in self.send("POST", "/evaluate", gadget)["findings"]}
        self.assertTrue(found["newer-figures"]["has_ways"])
        ways = {r["finding"]: r["remedy"] for r in self.send("POST", "/answers/remedies", gadget)}
        self.assertEqual(ways[found["newer-figures"]["key"]]["patch"][0]["path"], "/parts/0")
