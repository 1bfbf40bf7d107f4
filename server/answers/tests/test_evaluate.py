"""The stateless routes, and what is generated from the models."""

from __future__ import annotations

import json

from django.conf import settings
from django.core.management import CommandError, call_command
from django.test import SimpleTestCase

from ember_core import build_design, evaluate
from ember_core.figures import as_json
from projects.models import Revision
from projects.tests.helpers import ApiTestCase, document


class Evaluating(ApiTestCase):
    def test_answers_what_the_core_says_and_stores_nothing(self) -> None:
        answer = self.send("POST", "/evaluate", document())
        self.assertEqual(answer, json.loads(as_json(evaluate(build_design(document())))))
        self.assertEqual(Revision.objects.count(), 0)

    def test_an_older_document_comes_back_in_the_present_format(self) -> None:
        new = self.send("POST", "/designs/present", document())
        self.assertEqual(new, build_design(document()).model_dump(mode="json"))
        folder = settings.ROOT / "core" / "tests" / "data" / "older"
        older, same = (json.loads((folder / f"dusk-ear-{n}.json").read_text()) for n in (2, 3))
        then, now = (self.send("POST", "/designs/present", x) for x in (older, same))
        for stage in now["supply"]["stages"]:
            stage.pop("protects", None)  # is new, and in the demo since
        for stage in then["supply"]["stages"]:
            stage.pop("protects", None)
        self.assertEqual(then, now)
        self.send("POST", "/designs/present", {"format": "frugal-ember/2"}, 422)
        self.client.logout()
        self.send("POST", "/designs/present", older, 401)

    def test_problems_come_as_problem_details(self) -> None:
        response = self.client.post("/api/evaluate", json.dumps({"format": "x"}), content_type="application/json")
        self.assertEqual(response["Content-Type"], "application/problem+json")
        self.assertEqual(response.json()["errors"][0]["path"], "/format")

    def test_a_body_that_is_too_large_is_refused(self) -> None:
        answer = self.send("POST", "/evaluate", b"[" + b"1," * 4_000_000 + b"1]", 413)
        self.assertEqual(answer["title"], "The upload is too large")
        self.send("POST", "/evaluate", b"[" + b"1," * 2_400_000 + b"1]", 422)

    def test_needs_a_session_and_a_token(self) -> None:
        self.client.logout()
        self.send("POST", "/evaluate", document(), 401)
        self.client.force_login(self.ada)
        self.client.handler.enforce_csrf_checks = True
        self.send("POST", "/evaluate", document(), 403)


class Texts(ApiTestCase):
    def test_quantities(self) -> None:
        self.assertEqual(self.send("GET", "/quantity?text=120mA&dimension=current")["value"], 0.12)
        self.send("GET", "/quantity?text=100-140+mA&dimension=current", status=422)
        found = self.send("GET", "/quantity?text=100-140+mA&dimension=current&ranges=true")
        self.assertEqual((found["min"], found["value"], found["max"]), (0.1, 0.12, 0.14))
        answer = self.send("GET", "/quantity?text=45+mAh&dimension=current", status=422)
        self.assertIn("is a charge", answer["title"])
        self.send("GET", "/quantity?text=1&dimension=luck", status=422)

    def test_a_range_of_cells_is_understood_whole_or_not_at_all(self) -> None:
        parts = document()["parts"]
        cells = [{"part": 0, "text": "active 30 %"}, {"part": 1, "text": "-"}]
        answer = self.send("POST", "/cells", {"parts": parts, "cells": cells})
        self.assertEqual([a["duty"] for a in answer], [0.3, None])
        self.assertTrue(answer[1]["clear"])
        bad = [*cells, {"part": 1, "text": "45 mAh"}, {"part": 9, "text": "sleep"}]
        errors = self.send("POST", "/cells", {"parts": parts, "cells": bad}, 422)["errors"]
        self.assertEqual([e["path"] for e in errors], ["/cells/2/text", "/cells/3/part"])

    def test_cells_ask_back_with_choices(self) -> None:
        part = document()["parts"][0]
        self.assertEqual(self.send("POST", "/cell", {"text": "active 30%", "part": part})["duty"], 0.3)
        answer = self.send("POST", "/cell", {"text": "12", "part": part}, 422)
        self.assertIn("12 mA", answer["choices"])


class Generated(SimpleTestCase):
    def test_schema_api_description_and_types_are_not_stale(self) -> None:
        try:
            call_command("generate", check=True)
        except CommandError as error:
            self.fail(f"{error}; './ember generate' makes them anew")
