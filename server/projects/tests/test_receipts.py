"""Each edit is evaluated once: a save takes the receipt of the evaluation before it; a stale one is refused before any work."""

from __future__ import annotations

import json
import time
from typing import Any
from unittest.mock import patch

from django.core import signing
from django.db import connection
from django.test.utils import CaptureQueriesContext

from catalogue.services import catalogue_for
from ember_core import VERSION, build_design, evaluate
from ember_core.figures import as_json
from projects import receipts
from projects.models import Revision

from .helpers import PARTS, ApiTestCase


class Receipts(ApiTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.variant = self.new_variant()
        self.design = self.variant["design"]
        self.design["summary"] = "changed"

    def receipt(self, design: Any) -> str:
        response = self.client.post("/api/evaluate", json.dumps(design), content_type="application/json")
        return str(response.headers[receipts.HEADER])

    def evaluations(self, **more: Any) -> int:
        """How often the core evaluates during a save."""
        with patch("projects.services.evaluate", wraps=evaluate) as counted:
            self.variant["revision"] = self.save(self.variant, self.design, **more)
        return counted.call_count

    def test_a_save_with_the_receipt_of_its_document_is_not_evaluated_again(self) -> None:
        receipt = self.receipt(self.design)
        self.assertEqual(self.evaluations(receipt=receipt), 0)
        with_receipt = self.variant["revision"]
        self.assertEqual(self.evaluations(), 1)
        for key in ("runtime_h", "mass_g", "cost", "gravest", "findings"):
            self.assertEqual(self.variant["revision"][key], with_receipt[key])

    def test_a_receipt_of_another_document_person_or_catalogue_does_not_count(self) -> None:
        receipt = self.receipt(self.design)
        self.design["summary"] = "changed again"
        self.assertEqual(self.evaluations(receipt=receipt), 1)
        mine = self.receipt(self.design)
        self.assertIsNone(receipts.redeem(mine, self.bo, build_design(self.design)))
        self.upload("/catalogue/lists", PARTS)
        self.assertEqual(self.evaluations(receipt=mine), 1)

    def test_a_forged_or_old_receipt_does_not_count(self) -> None:
        receipt = self.receipt(self.design)
        for wrong in (
            "nonsense",
            receipt[:-1] + ("A" if receipt[-1] != "A" else "B"),
            signing.dumps({"of": "", "columns": {}}),
        ):
            self.assertEqual(self.evaluations(receipt=wrong), 1)
        with patch("django.core.signing.time.time", return_value=time.time() + receipts.GOOD_FOR_S + 5):
            self.assertIsNone(receipts.redeem(receipt, self.ada, build_design(self.design)))

    def test_a_stale_save_is_refused_before_any_work(self) -> None:
        stale = dict(self.variant)
        self.evaluations(automatic=False, reason="first")
        with (
            patch("projects.services.evaluate", side_effect=AssertionError),
            patch("projects.api.build_design", side_effect=AssertionError),
        ):
            answer = self.save(stale | {"revision": {"id": 0}}, self.design, 409)
        self.assertEqual(answer["head"], self.variant["revision"]["id"])
        self.assertEqual(answer["design"]["summary"], "changed")
        self.assertEqual(Revision.objects.count(), 2)

    def test_own_entries_are_read_once_for_each_of_their_states(self) -> None:
        self.upload("/catalogue/lists", PARTS)
        first = catalogue_for(self.ada)
        with CaptureQueriesContext(
            connection,
        ) as queries:
            self.assertIs(catalogue_for(self.ada), first)
        self.assertEqual(len(queries), 1)
        self.upload("/catalogue/lists", PARTS.replace(b"Brain", b"Brawn"))
        self.assertEqual(len(catalogue_for(self.ada).parts), len(first.parts) + 1)
        self.upload("/catalogue/lists", PARTS.replace(b"46", b"47"))
        changed = catalogue_for(self.ada).by_key["own-brain"].part
        assert changed is not None
        self.assertIn("0.047", changed.model_dump_json())


class Merging(ApiTestCase):
    def test_two_versions_are_put_together(self) -> None:
        base = self.new_variant()["design"]
        mine, theirs = base | {"summary": "mine"}, base | {"name": "Theirs"}
        answer = self.send("POST", "/answers/merge", {"base": base, "mine": mine, "theirs": theirs})
        self.assertEqual(answer["conflicts"], [])
        self.assertEqual((answer["mine_first"]["summary"], answer["mine_first"]["name"]), ("mine", "Theirs"))
        self.send("POST", "/answers/merge", {"base": base, "mine": {"format": "x"}, "theirs": base}, 422)


class Kept(ApiTestCase):
    """What was said of a revision stays with those that are meant to stay."""

    def setUp(self) -> None:
        super().setUp()
        self.variant = self.new_variant()
        self.design = self.variant["design"]

    def said(self, revision: int) -> tuple[str, Any]:
        response = self.client.get(f"/api/revisions/{revision}/evaluation")
        self.assertEqual(response.status_code, 200)
        return response.headers["Core-Version"], response.json()

    def test_a_revision_made_by_hand_keeps_what_was_said_when_the_core_changes(self) -> None:
        first = self.variant["revision"]["id"]
        before = self.said(first)
        self.assertEqual(before[0], VERSION)
        self.assertEqual(before[1], json.loads(as_json(evaluate(build_design(self.design), catalogue_for(self.ada)))))
        with patch("projects.services.evaluate", side_effect=AssertionError("evaluated again")):
            self.assertEqual(self.said(first), before)

    def test_an_autosave_keeps_it_from_when_it_is_pinned(self) -> None:
        self.design["summary"] = "changed"
        receipt = str(
            self.client.post("/api/evaluate", json.dumps(self.design), content_type="application/json").headers[
                receipts.HEADER
            ]
        )
        saved = self.save(self.variant, self.design, receipt=receipt)
        self.assertIsNone(Revision.objects.get(pk=saved["id"]).evaluation)
        self.assertEqual(self.said(saved["id"])[1]["format"], self.design["format"])
        self.send("PATCH", f"/revisions/{saved['id']}", {"pinned": True, "reason": None})
        row = Revision.objects.get(pk=saved["id"])
        self.assertIsNotNone(row.evaluation)
        self.assertEqual(row.core, VERSION)

    def test_what_a_later_core_says_is_not_put_down_as_what_was_said(self) -> None:
        Revision.objects.update(core="0.0", evaluation=None)
        revision = self.variant["revision"]["id"]
        self.send("PATCH", f"/revisions/{revision}", {"pinned": True, "reason": None})
        self.assertIsNone(Revision.objects.get(pk=revision).evaluation)
        self.assertEqual(self.said(revision)[0], VERSION)

    def test_a_receipt_of_another_core_does_not_count(self) -> None:
        receipt = str(
            self.client.post("/api/evaluate", json.dumps(self.design), content_type="application/json").headers[
                receipts.HEADER
            ]
        )
        self.assertIsNotNone(receipts.redeem(receipt, self.ada, build_design(self.design)))
        with patch("projects.receipts.VERSION", "0.0"):
            self.assertIsNone(receipts.redeem(receipt, self.ada, build_design(self.design)))

    def test_others_do_not_see_it(self) -> None:
        revision = self.variant["revision"]["id"]
        self.client.force_login(self.bo)
        self.send("GET", f"/revisions/{revision}/evaluation", status=404)

    def test_a_revision_that_can_not_be_read_any_more_is_pinned_all_the_same(self) -> None:
        revision = self.variant["revision"]["id"]
        Revision.objects.update(evaluation=None, document='{"format": "frugal-ember/3"}')
        self.send("PATCH", f"/revisions/{revision}", {"pinned": True, "reason": "kept"})
        row = Revision.objects.get(pk=revision)
        self.assertEqual((row.pinned, row.reason, row.evaluation), (True, "kept", None))

    def test_the_baseline_keeps_it_too_and_nothing_is_evaluated_inside_a_transaction(self) -> None:
        Revision.objects.update(evaluation=None, pinned=False, reason="")
        revision = self.variant["revision"]["id"]
        blocks: list[int] = []

        def watched(*arguments: Any) -> Any:
            blocks.append(len(connection.savepoint_ids))
            return evaluate(*arguments)

        before = len(connection.savepoint_ids)
        with patch("projects.services.evaluate", watched):
            self.send("PUT", f"/variants/{self.variant['id']}/baseline", {"revision": revision})
        self.assertEqual(blocks, [before])
        self.assertIsNotNone(Revision.objects.get(pk=revision).evaluation)

    def test_a_list_and_a_save_do_not_read_evaluations(self) -> None:
        base, number = self.variant["revision"]["id"], self.variant["id"]
        body = {"base": base, "design": self.design | {"summary": "x"}, "automatic": False, "reason": "x"}
        for method, path, data in (
            ("GET", "/projects", None),
            ("GET", f"/variants/{number}", None),
            ("GET", f"/variants/{number}/revisions", None),
            ("POST", f"/variants/{number}/revisions", body),
        ):
            with CaptureQueriesContext(
                connection,
            ) as asked:
                self.send(method, path, data)
            read = [q["sql"] for q in asked if q["sql"].startswith("SELECT") and "evaluation`" in q["sql"]]
            self.assertEqual(read, [], path)
