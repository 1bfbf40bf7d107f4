"""Begin with a question: recipes, what answers come to, a gadget made of them."""

from __future__ import annotations

from datetime import timedelta
from unittest.mock import patch

from django.utils import timezone

from catalogue.services import keep_own
from ember_core.catalogue import built_in
from ember_core.recipes import begin
from projects import services
from projects.models import Project
from projects.services import forget_deleted

from .helpers import ApiTestCase


class Begin(ApiTestCase):
    def test_recipes_are_listed_for_who_is_signed_in(self) -> None:
        found = self.send("GET", "/recipes")
        self.assertGreaterEqual(len(found), 8)
        self.assertEqual(found[0]["key"], "sleeper")
        self.client.logout()
        self.send("GET", "/recipes", status=401)

    def test_answers_come_to_a_judged_design_and_nothing_is_stored(self) -> None:
        found = self.send("POST", "/recipes/begin", {"recipe": "sleeper", "supply": "pouch", "name": "Bird box"})
        self.assertEqual((found["supply"], found["design"]["name"]), ("pouch", "Bird box"))
        self.assertTrue(found["met"])
        self.assertEqual(len(found["verdicts"]), 7)
        self.assertEqual(len(found["guesses"]), 5)
        self.assertIn("Climate sensor (HT-40)", found["made_of"])
        self.assertEqual(Project.objects.count(), 0)

    def test_a_gadget_of_answers(self) -> None:
        made = self.send("POST", "/projects/from-answers", {"recipe": "remote", "often": ["1 s 30 times a day"]})
        variant = self.send("GET", f"/variants/{made['variants'][0]['id']}")
        self.assertEqual(variant["design"]["day"]["sessions"][0]["per_day"], 30)
        self.assertEqual(variant["revision"]["reason"], "From questions")

    def test_examples_are_ones_own(self) -> None:
        made = self.send("POST", "/projects/examples", {})
        self.assertEqual({p["name"] for p in made}, {"Snow Stake", "Rosin Minder", "Tarn Light", "Dusk Ear"})
        for project in made:
            self.send("DELETE", f"/projects/{project['id']}", status=204)
        self.client.force_login(self.bo)
        self.assertEqual(self.send("GET", "/projects"), [])

    def test_a_gadget_once_more(self) -> None:
        made = self.send("POST", "/projects/from-answers", {"recipe": "remote", "name": "Clicker"})
        first = made["variants"][0]["id"]
        variant = self.send("GET", f"/variants/{first}")
        self.send("POST", f"/projects/{made['id']}/variants", {"name": "Other", "design": variant["design"]})
        copy = self.send("POST", f"/projects/{made['id']}/duplicate", {})
        self.assertEqual(
            (copy["name"], [v["name"] for v in copy["variants"]]), ("Clicker, copied", [variant["name"], "Other"])
        )
        copied = self.send("GET", f"/variants/{copy['variants'][0]['id']}")
        self.assertEqual(copied["design"] | {"name": "Clicker"}, variant["design"])
        changed = copied["design"] | {"summary": "changed"}
        self.save(copied, changed)
        self.assertEqual(self.send("GET", f"/variants/{first}")["design"], variant["design"])
        self.client.force_login(self.bo)
        self.send("POST", f"/projects/{made['id']}/duplicate", {}, status=404)

    def test_what_was_deleted_can_be_put_back_for_a_while(self) -> None:
        made = self.send("POST", "/projects/from-answers", {"recipe": "remote"})
        path, variant = f"/projects/{made['id']}", made["variants"][0]["id"]
        self.send("DELETE", path, status=204)
        self.assertEqual(self.send("GET", "/projects"), [])
        for method, hidden in (
            ("GET", path),
            ("GET", f"/variants/{variant}"),
            ("DELETE", path),
            ("POST", f"{path}/duplicate"),
        ):
            self.send(method, hidden, {} if method == "POST" else None, status=404)
        self.assertEqual([d["id"] for d in self.send("GET", "/projects/deleted")], [made["id"]])
        self.client.force_login(self.bo)
        self.assertEqual(self.send("GET", "/projects/deleted"), [])
        self.send("POST", f"{path}/put-back", {}, status=404)
        self.client.force_login(self.ada)
        self.assertEqual(self.send("POST", f"{path}/put-back", {})["id"], made["id"])
        self.send("POST", f"{path}/put-back", {}, status=404)
        self.send("GET", f"/variants/{variant}")

    def test_after_thirty_days_it_is_gone(self) -> None:
        for days, left in ((29.9, 1), (30.1, 0)):
            Project.objects.all().delete()
            made = self.send("POST", "/projects/from-answers", {"recipe": "remote"})
            self.send("DELETE", f"/projects/{made['id']}", status=204)
            Project.objects.update(deleted=timezone.now() - timedelta(days=days))
            forget_deleted()
            self.assertEqual(Project.objects.count(), left, days)

    def test_of_many_deleted_the_oldest_go_first(self) -> None:
        with patch("projects.services.MOST_DELETED", 2):
            made = [self.send("POST", "/projects/from-answers", {"recipe": "remote"})["id"] for _ in range(3)]
            for project in made:
                self.send("DELETE", f"/projects/{project}", status=204)
        self.assertEqual([d["id"] for d in self.send("GET", "/projects/deleted")], [made[2], made[1]])

    def test_what_cannot_be_answered(self) -> None:
        for body, path in (
            ({"recipe": "sleeper", "often": ["soon"]}, "/often/0"), ({"recipe": "x"}, "/recipe"), ({}, "/answers/recipe"),
            ({"recipe": "sleeper", "name": " "}, "/answers/name"), ({"recipe": "sleeper", "goal_h": -1}, "/answers/goal_h"),
            ({"recipe": "sleeper", "outer_max_mm": [1, 2]}, "/answers/outer_max_mm/2"), ({"recipe": "sleeper", "more": 1}, "/answers/more"),
            ({"recipe": "sleeper", "supply": "bank"}, "/supply"), ({"recipe": "sleeper", "often": ["1 s every 60 years"]}, "/often/0"),
        ):  # fmt: skip
            for route in ("/recipes/begin", "/projects/from-answers"):
                with self.subTest(body=body, route=route):
                    paths = [e["path"] for e in self.send("POST", route, body, status=422)["errors"]]
                    self.assertTrue(any(p.endswith(path) for p in paths), paths)
        self.assertEqual(Project.objects.count(), 0)

    def test_the_same_answers_are_worked_out_once_and_anew_with_entries_of_ones_own(self) -> None:
        services._begun.cache_clear()
        with patch("projects.services.begin", wraps=begin) as worked:
            first = self.send("POST", "/recipes/begin", {"recipe": "remote"})
            self.assertEqual(self.send("POST", "/recipes/begin", {"recipe": "remote"}), first)
            self.client.force_login(self.bo)
            self.send("POST", "/recipes/begin", {"recipe": "remote"})
            self.assertEqual(worked.call_count, 1)
            self.send("POST", "/recipes/begin", {"recipe": "remote", "goal_h": 5000})
            self.assertEqual(worked.call_count, 2)
            entry = built_in().entries[0].model_copy(update={"key": "own-one"})
            keep_own(self.bo, [entry])
            self.send("POST", "/recipes/begin", {"recipe": "remote"})
            self.assertEqual(worked.call_count, 3)
            self.client.force_login(self.ada)
            self.send("POST", "/recipes/begin", {"recipe": "remote"})
            self.assertEqual(worked.call_count, 3)
