"""The search of the best supply as a job: done, given up, refused in words, asked twice, and one of its rows taken over."""

from __future__ import annotations

from typing import Any
from unittest.mock import patch
from urllib.parse import urlencode

from catalogue.services import load_built_in
from ember_core.measures.bench import TrialBench
from jobs.models import Job
from jobs.tasks import run_job
from projects.tests.helpers import ApiTestCase, document


class Choices(ApiTestCase):
    def setUp(self) -> None:
        super().setUp()
        load_built_in()

    def ask(self, query: str = "aim=mass&cost=1000", **more: Any) -> Any:
        with self.captureOnCommitCallbacks(execute=True):
            return self.send("POST", f"/jobs/choice?{query}", document(), **more)

    def look(self, job: Any, status: int = 200) -> Any:
        return self.send("GET", f"/jobs/{job['id']}", status=status)

    def test_it_is_searched_and_one_row_taken_over(self) -> None:
        job = self.ask()
        self.assertEqual((job["state"], job["choice"], job["body"]), ("waiting", None, None))
        told = []
        with (
            patch("jobs.services.Report.progress", lambda _, share: told.append(share)),
            patch("jobs.choices.TELLS_EVERY_S", 0.0),
        ):
            run_job.func()
        self.assertGreater(len(told), 3)
        self.assertTrue(all(0 <= share <= 1 for share in told))
        found = self.look(job)
        self.assertEqual((found["state"], found["problem"]), ("done", ""))
        answer = found["choice"]
        self.assertEqual((answer["aims"], answer["note"]), (["mass"], ""))
        row = answer["rows"][0]
        query = {key: row[key] for key in ("cell", "series", "parallel", "charger", "options")}
        taken = self.send("POST", f"/answers/choice/design?{urlencode(query, doseq=True)}", document())
        self.assertEqual(taken["design"]["battery"]["cell"]["name"], row["cell"])

    def test_parts_that_are_kept_beside_others_are_tried_where_asked(self) -> None:
        design = document()
        frugal = document()["parts"][0] | {"name": "Frugal"}
        for state in frugal["states"]:
            state["draw"] = {"behaviour": "current", "current_a": {"typical": 1e-6, "min": 1e-6, "max": 1e-6}}
        design["parts"][0] = design["parts"][0] | {"alternatives": [frugal]}
        query, found = "aim=cost&cost=1000", {}
        for parts in ("", "&parts=true"):
            with self.captureOnCommitCallbacks(execute=True):
                job = self.send("POST", f"/jobs/choice?{query}{parts}", design)
            run_job.func()
            found[parts] = self.look(job)["choice"]["rows"]
        self.assertTrue(all(row["parts"] == [] for row in found[""]))
        row = next(row for row in found["&parts=true"] if row["parts"])
        self.assertEqual(row["parts"], ["Frugal"])
        asked = {key: row[key] for key in ("cell", "series", "parallel", "charger", "options", "parts")}
        taken = self.send("POST", f"/answers/choice/design?{urlencode(asked, doseq=True)}", design)
        self.assertEqual(taken["design"]["parts"][0]["name"], "Frugal")
        self.send(
            "POST", f"/answers/choice/design?{urlencode(asked | {'parts': ['Another']}, doseq=True)}", design, 422
        )

    def test_asked_again_it_is_the_same_and_after_a_change_another(self) -> None:
        job = self.ask()
        self.assertEqual(self.ask()["id"], job["id"])
        self.assertNotEqual(self.ask("aim=cost&cost=1000")["id"], job["id"])
        self.send("DELETE", f"/jobs/{job['id']}")
        self.assertNotEqual(self.ask()["id"], job["id"])

    def test_given_up_it_ends_at_its_next_step(self) -> None:
        job = self.ask()

        def bench(*asked: Any) -> TrialBench:
            Job.objects.filter(pk=job["id"]).update(state="cancelled")
            return TrialBench(*asked)

        with (
            patch("jobs.choices.TELLS_EVERY_S", 0.0),
            patch("ember_core.choosing.search.ways_of", side_effect=AssertionError),
            patch("jobs.choices.TrialBench", bench),
        ):
            run_job.func()
        self.assertEqual((self.look(job)["state"], self.look(job)["choice"]), ("cancelled", None))

    def test_one_that_takes_too_long_says_what_to_narrow(self) -> None:
        job = self.ask()
        with patch("jobs.choices.MOST_SECONDS", -1.0):
            run_job.func()
        self.assertIn("Narrow it", self.look(job)["problem"])

    def test_nobody_else_s(self) -> None:
        job = self.ask()
        self.client.force_login(self.bo)
        self.look(job, 404)
        self.assertNotEqual(self.ask()["id"], job["id"])

    def test_wrong_questions(self) -> None:
        for wrong in ("aim=beauty", "aim=mass&cost=nan", "aim=mass&cost=-1", "aim=mass&hours=1e9"):
            self.ask(wrong, status=422)
        gone = self.send("POST", "/answers/choice/design?cell=No+such+cell", document(), status=422)
        self.assertIn("search again", gone["errors"][0]["message"])
        self.send("POST", "/answers/choice/design?cell=x&series=1000", document(), status=422)
