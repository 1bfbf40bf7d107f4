"""Tables of parts through the API: read, agreed to, remembered, made into a gadget or merged into one."""

from __future__ import annotations

import io
from typing import Any
from unittest.mock import patch

import openpyxl

from projects.models import KnownHeading, Project

from .helpers import ApiTestCase

TEXT = "Thing\tVerbrauch\nBrain\t12\nEar\t2\n"


def book() -> bytes:
    made = openpyxl.Workbook()
    made.active.append(["Part", "sleep [µA]", "active [mA]"])
    made.active.append(["Brain", 12, 46])
    out = io.BytesIO()
    made.save(out)
    return out.getvalue()


class Tables(ApiTestCase):
    def agreed(self, table: dict[str, Any], **changes: Any) -> dict[str, Any]:
        return {"columns": table["columns"], "rows": table["rows"], "numbers": table["numbers"], **changes}

    def test_a_workbook_becomes_a_gadget(self) -> None:
        table = self.upload("/tables/read", book())[0]
        read = self.send("POST", "/tables/parts", self.agreed(table))
        self.assertEqual([p["name"] for p in read["parts"]], ["Brain"])
        self.assertEqual(Project.objects.count(), 0)
        project = self.send("POST", "/projects/from-table", {"name": "Owl", "table": self.agreed(table)})
        design = self.send("GET", f"/variants/{project['variants'][0]['id']}")["design"]
        self.assertEqual(design["parts"][0]["states"][1]["draw"]["current_a"]["typical"], 0.046)

    def test_what_was_agreed_to_is_known_the_next_time_and_to_nobody_else(self) -> None:
        table = self.send("POST", "/tables/pasted", {"text": TEXT})[0]
        self.assertEqual([c["role"] for c in table["columns"]], ["name", ""])
        columns = [table["columns"][0], {**table["columns"][1], "role": "state", "state": "on", "unit": "mA"}]
        nameless = self.agreed(table, columns=[{**c, "role": ""} for c in columns])
        refused = self.send("POST", "/projects/from-table", {"name": "Owl", "table": nameless}, status=422)
        self.assertIn("no column is the name", refused["errors"][0]["message"])
        self.assertEqual((KnownHeading.objects.count(), Project.objects.count()), (0, 0))
        self.send("POST", "/projects/from-table", {"name": "Owl", "table": self.agreed(table, columns=columns)})
        again = self.send("POST", "/tables/pasted", {"text": TEXT})[0]
        self.assertEqual([(c["role"], c["unit"]) for c in again["columns"]], [("name", None), ("state", "mA")])
        self.client.force_login(self.bo)
        self.assertEqual(self.send("POST", "/tables/pasted", {"text": TEXT})[0]["columns"][1]["role"], "")

    def test_only_so_many_headings_are_remembered(self) -> None:
        table = self.send("POST", "/tables/pasted", {"text": TEXT})[0]
        columns = [table["columns"][0], {**table["columns"][1], "role": "state", "state": "on", "unit": "mA"}]
        with patch("projects.tables.MOST_KNOWN", 1):
            self.send("POST", "/projects/from-table", {"name": "Owl", "table": self.agreed(table, columns=columns)})
        self.assertEqual(KnownHeading.objects.filter(owner=self.ada).count(), 1)

    def test_a_merge_is_looked_at_before_anything_is_remembered(self) -> None:
        variant = self.new_variant()
        table = self.send("POST", "/tables/pasted", {"text": "Part\tactive mA\nBrain\t50\nOwl\t1\n"})[0]
        body = {"design": variant["design"], "table": self.agreed(table)}
        looked = self.send("POST", "/tables/merge", body)
        self.assertEqual([d["key"] for d in looked["differences"]], ["brain:state:active", "add:owl"])
        self.assertEqual(KnownHeading.objects.count(), 0)
        taken = self.send("POST", "/tables/merge", {**body, "chosen": ["add:owl"]})
        self.assertEqual([p["name"] for p in taken["design"]["parts"]], ["Brain", "Ear", "Owl"])
        self.assertEqual(taken["design"]["parts"][0], variant["design"]["parts"][0])
        self.assertEqual(KnownHeading.objects.count(), 2)

    def test_what_is_no_table_is_refused_in_a_sentence(self) -> None:
        for content, words in (
            (b"PK\x03\x04 nothing", "damaged or locked"), (b"one line only", "holds no table"), (b"\0\1\2\3", "neither a workbook nor text"),
            (b"a,b\n" * 500_000, "of text"),
        ):  # fmt: skip
            self.assertIn(words, self.upload("/tables/read", content, status=422)["errors"][0]["message"])
        self.upload("/tables/read", b"x" * 9_000_000, status=413)
        self.assertIn("paste", self.send("POST", "/tables/pasted", {"text": " "}, status=422)["errors"][0]["message"])
        self.client.logout()
        self.send("POST", "/tables/pasted", {"text": TEXT}, status=401)
