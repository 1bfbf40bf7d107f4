"""Begin with a question: recipes, what answers come to, a gadget made of them."""

from __future__ import annotations

from projects.models import Project

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
        self.assertEqual((found["begun"]["supply"], found["begun"]["design"]["name"]), ("pouch", "Bird box"))
        self.assertTrue(found["begun"]["met"])
        self.assertEqual(len(found["verdicts"]), 7)
        self.assertEqual(len(found["guesses"]), 5)
        self.assertIn("Climate sensor (HT-40)", found["made_of"])
        self.assertEqual(Project.objects.count(), 0)

    def test_a_gadget_of_answers(self) -> None:
        made = self.send("POST", "/projects/from-answers", {"recipe": "remote", "often": ["1 s 30 times a day"]})
        variant = self.send("GET", f"/variants/{made['variants'][0]['id']}")
        self.assertEqual(variant["design"]["day"]["sessions"][0]["per_day"], 30)
        self.assertEqual(variant["revision"]["reason"], "From questions")

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
