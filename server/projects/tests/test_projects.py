"""Projects, variants and revisions through the API."""

from __future__ import annotations

from datetime import timedelta
from unittest.mock import patch

from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from projects.models import Project, Revision, Variant
from projects.services import forget_deleted

from .helpers import PARTS, ApiTestCase, document


class Creating(ApiTestCase):
    def test_empty_gadget_has_defaults_and_no_runtime_yet(self) -> None:
        project = self.send("POST", "/projects", {"name": "Lantern"})
        head = project["variants"][0]["head"]
        self.assertIsNone(head["runtime_h"])
        variant = self.send("GET", f"/variants/{project['variants'][0]['id']}")
        self.assertEqual(variant["design"]["name"], "Lantern")

    def test_parts_list_becomes_a_gadget(self) -> None:
        variant = self.new_variant()
        self.assertEqual([p["name"] for p in variant["design"]["parts"]], ["Brain", "Ear"])
        self.assertGreater(variant["revision"]["runtime_h"], 1)

    def test_bad_parts_list_saves_nothing_and_names_the_cells(self) -> None:
        bad = b"name,active\nBrain,45 mAh\nEar,x\n"
        answer = self.upload("/projects/from-parts", bad, status=422, name="Bell")
        self.assertEqual([e["path"] for e in answer["errors"]], ["row 2, active", "row 3, active"])
        self.assertEqual(Project.objects.count(), 0)

    def test_document_goes_out_and_comes_back_without_loss(self) -> None:
        variant = self.new_variant()
        exported = self.client.get(f"/api/variants/{variant['id']}/design.json")
        self.assertIn("bell.json", exported["Content-Disposition"])
        again = self.upload("/projects/from-document", exported.content)
        copy = self.send("GET", f"/variants/{again['variants'][0]['id']}")
        self.assertEqual(copy["design"], variant["design"])

    def test_bad_documents_are_refused_with_their_places(self) -> None:
        for content, words in [
            (b'{"format": "frugal-ember/9"}', "unknown format version"),
            (b'{"format": NaN}', "NaN"),
            (b"\xff\xfe", "UTF-8"),
        ]:
            answer = self.upload("/projects/from-document", content, status=422)
            self.assertIn(words, answer["errors"][0]["message"])
        answer = self.upload("/projects/from-document", b" " * 5_000_000, status=413)
        self.assertIn("5 MB", answer["errors"][0]["message"])
        self.assertEqual(Project.objects.count(), 0)

    def test_bill_of_materials_as_csv_without_formulas(self) -> None:
        variant = self.new_variant()
        design = variant["design"]
        design["parts"][0]["name"] = "=HYPERLINK(1)"
        self.save(variant, design)
        text = self.client.get(f"/api/variants/{variant['id']}/bill.csv").content.decode()
        self.assertTrue(text.startswith("name,quantity,mass [g],cost [EUR]"))
        self.assertIn("'=HYPERLINK", text)

    def test_names_must_be_there(self) -> None:
        self.assertEqual(self.send("POST", "/projects", {"name": "  "}, 422)["errors"][0]["path"], "/body/name")


class Ownership(ApiTestCase):
    def test_other_peoples_things_are_not_there(self) -> None:
        variant = self.new_variant()
        project, revision = variant["project"]["id"], variant["revision"]["id"]
        self.client.force_login(self.bo)
        self.assertEqual(self.send("GET", "/projects"), [])
        save = {"base": revision, "design": variant["design"]}
        attempts = [
            ("GET", f"/projects/{project}", None), ("PATCH", f"/projects/{project}", {"name": "Mine"}),
            ("DELETE", f"/projects/{project}", None), ("GET", f"/variants/{variant['id']}", None),
            ("DELETE", f"/variants/{variant['id']}", None), ("POST", f"/variants/{variant['id']}/revisions", save),
            ("GET", f"/variants/{variant['id']}/revisions", None), ("GET", f"/revisions/{revision}", None),
            ("PATCH", f"/revisions/{revision}", {"pinned": True}),
            ("PUT", f"/variants/{variant['id']}/baseline", {"revision": revision}),
            ("GET", f"/variants/{variant['id']}/design.json", None), ("GET", f"/variants/{variant['id']}/bill.csv", None),
            ("POST", f"/projects/{project}/variants", {"name": "X", "design": variant["design"]}),
        ]  # fmt: skip
        for method, path, body in attempts:
            with self.subTest(f"{method} {path}"):
                self.send(method, path, body, 404)
        self.assertEqual(Project.objects.get().name, "Bell")

    def test_a_baseline_from_another_variant_is_refused(self) -> None:
        first, second = self.new_variant(), self.new_variant()
        body = {"revision": second["revision"]["id"]}
        self.send("PUT", f"/variants/{first['id']}/baseline", body, 422)

    def test_without_an_account_everything_asks_to_sign_in(self) -> None:
        self.client.logout()
        for path in ("/projects", "/catalogue", "/variants/1"):
            self.assertEqual(self.send("GET", path, status=401)["title"], "Sign in first")


class Saving(ApiTestCase):
    def test_a_stale_save_is_refused_with_both_versions(self) -> None:
        variant = self.new_variant()
        mine, theirs = document(), document()
        theirs["summary"], mine["summary"] = "theirs", "mine"
        saved = self.save(variant, theirs, automatic=False)
        answer = self.save(variant, mine, 409)
        self.assertEqual((answer["head"], answer["design"]["summary"]), (saved["id"], "theirs"))
        self.assertEqual(self.send("GET", f"/variants/{variant['id']}")["design"]["summary"], "theirs")

    def test_autosaves_of_a_short_time_fold_into_one_revision(self) -> None:
        variant = self.new_variant()
        for text in ("a", "ab", "abc"):
            design = variant["design"] | {"summary": text}
            variant["revision"] = self.save(variant, design)
        rows = self.send("GET", f"/variants/{variant['id']}/revisions")
        self.assertEqual([r["number"] for r in rows], [2, 1])
        self.assertEqual(self.send("GET", f"/variants/{variant['id']}")["design"]["summary"], "abc")

    def test_pinned_reasoned_or_old_revisions_do_not_fold(self) -> None:
        variant = self.new_variant()
        variant["revision"] = self.save(variant, variant["design"] | {"summary": "a"})
        self.send("PATCH", f"/revisions/{variant['revision']['id']}", {"pinned": True})
        variant["revision"] = self.save(variant, variant["design"] | {"summary": "b"})
        variant["revision"] = self.save(variant, variant["design"] | {"summary": "c"}, automatic=False, reason="why")
        variant["revision"] = self.save(variant, variant["design"] | {"summary": "d"})
        with patch("django.utils.timezone.now", return_value=timezone.now() + timedelta(minutes=11)):
            variant["revision"] = self.save(variant, variant["design"] | {"summary": "e"})
        self.assertEqual(len(self.send("GET", f"/variants/{variant['id']}/revisions")), 6)

    def test_the_baseline_survives_later_autosaves(self) -> None:
        variant = self.new_variant()
        variant["revision"] = self.save(variant, variant["design"] | {"summary": "a"})
        self.send("PUT", f"/variants/{variant['id']}/baseline", {"revision": variant["revision"]["id"]})
        self.save(variant, variant["design"] | {"summary": "b"})
        now = self.send("GET", f"/variants/{variant['id']}")
        self.assertEqual(now["baseline_design"]["summary"], "a")
        self.assertEqual(now["design"]["summary"], "b")

    def test_a_document_with_a_problem_is_refused_at_its_place(self) -> None:
        variant = self.new_variant()
        design = variant["design"]
        design["modes"][0]["uses"] = []
        answer = self.save(variant, design, 422)
        self.assertEqual(answer["errors"][0]["path"], "/design/modes/0/uses")
        self.assertEqual(Revision.objects.count(), 1)

    def test_a_stored_revision_does_not_change(self) -> None:
        self.new_variant()
        revision = Revision.objects.get()
        revision.document = "{}"
        with self.assertRaises(ValueError):
            revision.save()


class Variants(ApiTestCase):
    def test_copies_have_names_of_their_own_and_the_last_one_stays(self) -> None:
        variant = self.new_variant()
        path = f"/projects/{variant['project']['id']}/variants"
        made = self.send("POST", path, {"name": "Second", "design": variant["design"]})
        taken = self.send("POST", path, {"name": "Second", "design": variant["design"]}, 422)
        self.assertEqual(taken["errors"][0]["path"], "/name")
        self.send("DELETE", f"/variants/{made['id']}", status=204)
        self.send("DELETE", f"/variants/{variant['id']}", status=422)
        self.assertEqual(Variant.objects.count(), 1)

    def test_deleting_a_gadget_takes_all_of_it(self) -> None:
        variant = self.new_variant()
        self.send("DELETE", f"/projects/{variant['project']['id']}", status=204)
        Project.objects.update(deleted=timezone.now() - timedelta(days=31))
        forget_deleted()
        self.assertEqual((Variant.objects.count(), Revision.objects.count()), (0, 0))


class Uploads(ApiTestCase):
    def test_a_huge_parts_list_is_refused(self) -> None:
        answer = self.upload("/projects/from-parts", PARTS + b"x" * 1_500_000, status=413, name="Big")
        self.assertIn("at most 1 MB", answer["errors"][0]["message"])


class Listing(ApiTestCase):
    def test_tags_and_the_archive_are_kept_and_change_nothing_of_the_gadget(self) -> None:
        project = self.send("POST", "/projects", {"name": "Lantern"})
        path = f"/projects/{project['id']}"
        self.assertEqual((project["tags"], project["archived"]), ([], False))
        tagged = self.send("PATCH", path, {"tags": ["shed", "shed", "for Bo"]})
        self.assertEqual(tagged["tags"], ["shed", "for Bo"])
        self.assertEqual(tagged["changed"], project["changed"])
        away = self.send("PATCH", path, {"archived": True})
        self.assertEqual((away["archived"], away["tags"], away["name"]), (True, ["shed", "for Bo"], "Lantern"))
        self.assertTrue(self.send("GET", "/projects")[0]["archived"])
        self.assertFalse(self.send("PATCH", path, {"archived": False})["archived"])
        self.assertEqual(self.send("PATCH", path, {"name": "Lamp"})["name"], "Lamp")
        for wrong in (
            {"tags": ["x" * 31]},
            {"tags": [""]},
            {"tags": [f"t{i}" for i in range(13)]},
            {"name": ""},
            {"archived": "away"},
        ):
            self.send("PATCH", path, wrong, status=422)
        self.client.force_login(self.bo)
        self.send("PATCH", path, {"tags": ["mine"]}, status=404)

    def test_the_worst_finding_and_what_changed_last_are_told(self) -> None:
        variant = self.new_variant()
        self.assertEqual(variant["revision"]["touched"], [])
        design = variant["design"]
        design["battery"]["cell"]["capacity_ah"] *= 2
        first = self.save(variant, design)
        self.assertEqual(first["touched"], ["battery"])
        design["parts"][0]["name"] = "Another"
        folded = self.save({**variant, "revision": first}, design)  # into the same revision
        self.assertEqual((folded["number"], folded["touched"]), (first["number"], ["parts", "battery"]))
        result = self.send("POST", "/evaluate", design)
        head = self.send("GET", "/projects")[0]["variants"][0]["head"]
        self.assertEqual(head["worst"], result["findings"][0]["title"])

    def test_the_picture_is_drawn_of_the_revision_and_for_its_people_only(self) -> None:
        head = self.new_variant()["revision"]["id"]
        answer = self.client.get(f"/api/revisions/{head}/picture.svg")
        self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "image/svg+xml"))
        self.assertIn("private", answer["Cache-Control"])
        self.assertTrue(answer.content.startswith(b"<svg "))
        self.assertNotEqual(self.client.get(f"/api/revisions/{head}/picture.svg?dark=true").content, answer.content)
        self.client.force_login(self.bo)
        self.assertEqual(self.client.get(f"/api/revisions/{head}/picture.svg").status_code, 404)

    def test_however_many_gadgets_there_are_they_take_as_many_queries_and_no_document(self) -> None:
        for _ in range(3):
            self.new_variant()
        with CaptureQueriesContext(connection) as few:
            self.send("GET", "/projects")
        for _ in range(3):
            self.new_variant()
        with CaptureQueriesContext(connection) as many:
            self.assertEqual(len(self.send("GET", "/projects")), 6)
        self.assertEqual(len(few), len(many))
        self.assertFalse([q for q in many.captured_queries if "`document`" in q["sql"]])
