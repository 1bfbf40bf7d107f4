"""Who may do what: every route by every kind of person, from a table that a new route has to have a line in; people who are invited and go; links that are
opened, run out and are taken back."""

from __future__ import annotations

import json
from datetime import timedelta
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone

from blobs.models import Blob, Holding, Piece
from catalogue.services import load_built_in
from config.api import api
from ember_core import build_design
from ember_core.bringup import bring_up
from ember_core.catalogue import built_in
from ember_core.measures.bench import TrialBench
from ember_core.traces import reduced, simulated, simulated_run_down
from notes.models import Note
from operations.backup import _rows
from projects.models import Member, SharedLink, Trace, Variant
from projects.sharing import MOST_LINKS, MOST_MEMBERS

from .helpers import ApiTestCase

# Everybody; anybody with an account; of a gadget who may look at it, who may change it, who owns it.
PUBLIC, ACCOUNT, LOOK, CHANGE, OWN = range(5)
NOWHERE = "00000000-0000-4000-8000-000000000000"
ROUTES = """
GET /session 0;POST /session 0;POST /session/demo 0;POST /account 0;GET /shared/{secret} 0;GET /shared/{secret}/report 0;GET /shared/{secret}/evaluation 0
GET /shared/{secret}/compare 0;GET /shared/{secret}/report.pdf 0;DELETE /session 0
GET /calendars/{secret}.ics 0
POST /account/password 1;POST /uploads 1;PUT /uploads/{upload}/{number} 1;POST /uploads/{upload}/finish 1;DELETE /uploads/{upload} 1
GET /blobs 1;GET /blobs/{digest} 1;DELETE /blobs/{digest} 1;GET /recipes 1;POST /recipes/begin 1;POST /projects/from-answers 1;POST /projects/examples 1
POST /tables/read 1;POST /tables/pasted 1;POST /tables/parts 1;POST /tables/merge 1;POST /projects/from-table 1;GET /projects 1;POST /projects 1
GET /projects/deleted 1;POST /projects/from-parts 1;POST /projects/from-document 1;POST /evaluate 1;POST /designs/present 1;GET /quantity 1;GET /occasion 1
POST /cell 1;POST /cells 1;POST /answers/rail/{rail_id} 1;POST /answers/cells 1;POST /answers/schools 1;POST /answers/wiring 1;POST /answers/pins 1
POST /answers/pins/text 1;POST /answers/choice/design 1;POST /answers/charge 1;POST /answers/heat 1;POST /answers/place 1;POST /answers/smallest-case 1;POST /answers/instead/{part_id} 1
POST /answers/gaps 1
POST /answers/section 1;POST /answers/case 1;POST /answers/shell 1;POST /answers/making 1;POST /answers/holding 1;POST /answers/remedies 1
POST /answers/range 1;POST /answers/outlook 1;POST /answers/intervals 1;POST /answers/soc-table 1;POST /answers/day 1;POST /answers/savings 1
POST /answers/savings/stack 1;POST /answers/merge 1;POST /answers/calibration 1;POST /answers/calibration/cold 1;POST /answers/datasheet 1
POST /answers/capacitor 1;POST /answers/check 1;POST /answers/divider 1;POST /answers/led 1;GET /terms 1;GET /catalogue 1;POST /catalogue/lists 1;POST /catalogue/entries 1
PUT /catalogue/own 1;GET /catalogue/own.json 1;GET /catalogue/own-parts.csv 1;GET /catalogue/own-chargers.csv 1;DELETE /catalogue/{entry_id} 1
GET /drawer 1;PUT /drawer 1;GET /instruments 1
PUT /instruments 1;DELETE /instruments/{instrument_id} 1;POST /answers/supply-limits 1;POST /jobs/measure 1
POST /jobs/mesh 1;POST /jobs/choice 1;POST /jobs/trace 1;GET /jobs/{job} 1;DELETE /jobs/{job} 1
POST /variants/{variant_id}/bringup 2;GET /variants/{variant_id}/traces 2;GET /variants/{variant_id}/traces/{trace_id}/picture 2
POST /variants/{variant_id}/traces/{trace_id}/judged 2;GET /variants/{variant_id}/traces/{trace_id}/window 2;POST /variants/{variant_id}/traces/{trace_id}/replay 2
POST /variants/{variant_id}/traces/{course_id}/rundown 2;GET /projects/{project_id}/people 2;GET /projects/{project_id} 2;POST /projects/{project_id}/duplicate 2
GET /variants/{variant_id} 2;GET /variants/{variant_id}/revisions 2;GET /revisions/{revision_id} 2;GET /revisions/{revision_id}/evaluation 2
GET /revisions/{revision_id}/picture.svg 2;GET /variants/{variant_id}/design.json 2;GET /compare 2;GET /variants/{variant_id}/report 2
GET /variants/{variant_id}/report.pdf 2;GET /variants/{variant_id}/bill.csv 2
GET /variants/{variant_id}/batch 2;GET /variants/{variant_id}/batch/{kind} 2;GET /variants/{variant_id}/plan 2;GET /variants/{variant_id}/plan.ics 2
GET /variants/{variant_id}/notes 2;GET /variants/{variant_id}/notes/{note_id}/picture.jpg 2;GET /variants/{variant_id}/notes/{filed_id}/file 2
GET /projects/{project_id}/timeline 2;POST /variants/{variant_id}/notes 3;DELETE /variants/{variant_id}/notes/{note_id} 3
PUT /variants/{variant_id}/plan 3;POST /variants/{variant_id}/plan/feed 3;DELETE /variants/{variant_id}/plan/feed 3
POST /variants/{variant_id}/readings 3;DELETE /variants/{variant_id}/readings/{reading_id} 3;PUT /variants/{variant_id}/traces/{trace_id}/assigned 3
PUT /variants/{variant_id}/traces/{course_id}/said 3;POST /variants/{variant_id}/traces/{course_id}/stop 3;GET /variants/{variant_id}/logs 2
DELETE /variants/{variant_id}/traces/{trace_id} 3;PATCH /projects/{project_id} 3;POST /projects/{project_id}/variants 3;POST /variants/{variant_id}/revisions 3
POST /variants/{variant_id}/take-over 3;PUT /variants/{variant_id}/baseline 3;PATCH /revisions/{revision_id} 3
PUT /projects/{project_id}/people 4;DELETE /projects/{project_id}/people/{name} 4;GET /projects/{project_id}/links 4;POST /projects/{project_id}/links 4
DELETE /projects/{project_id}/links/{link_id} 4;DELETE /projects/{project_id} 4;POST /projects/{project_id}/put-back 4;DELETE /variants/{variant_id} 4
"""


def routes() -> list[tuple[str, str, int]]:
    lines = [line.rsplit(" ", 1) for line in ROUTES.replace("\n", ";").split(";") if line.strip()]
    return [(*route.split(" ", 1), int(role)) for route, role in lines]  # type: ignore[misc]


class Roles(ApiTestCase):
    def setUp(self) -> None:
        super().setUp()
        load_built_in()
        self.variant = self.new_variant()
        self.project = self.variant["project"]["id"]
        another = self.variant["design"] | {"brief": self.variant["design"]["brief"] | {"goal_h": 77}}
        self.second = self.send("POST", f"/projects/{self.project}/variants", {"name": "Two", "design": another})
        self.cy, self.di, self.ed = (User.objects.create_user(name, password="x") for name in ("cy", "di", "ed"))
        self.people: list[tuple[int, User | None]] = [(PUBLIC, None), (ACCOUNT, self.bo), (LOOK, self.cy), (CHANGE, self.di), (OWN, self.ada)]  # fmt: skip
        for user, role in ((self.cy, "view"), (self.di, "edit"), (self.ed, "view")):
            self.send("PUT", f"/projects/{self.project}/people", {"name": user.username, "role": role})
        row = Variant.objects.get(pk=self.variant["id"])
        design_bench = self.bench()
        recording, _ = simulated(design_bench, 20, 50, 1)
        self.trace = Trace.objects.create(
            variant=row, name="a", content=reduced(recording).packed(), samples=1, seconds=20
        )
        course = simulated_run_down(design_bench, 0.5, 1)
        self.course = Trace.objects.create(
            variant=row, name="b", kind="rundown", content=course.packed(), samples=1, seconds=20
        )
        self.step = bring_up(design_bench).steps[0].key
        self.reading = row.readings.create(step=self.step)
        self.note = Note.objects.create(variant=row, text="a", picture=b"x", author=self.ada)
        blob = Blob.objects.create(digest="1" * 64, size=1)
        Piece.objects.create(blob=blob, number=0, content=b"x")
        held = Holding.objects.create(blob=blob, owner=self.ada, name="a.pdf")
        self.filed = Note.objects.create(variant=row, file=held, author=self.ada)
        self.feed = self.send("POST", f"/variants/{row.pk}/plan/feed")["feed"]
        self.link = self.send("POST", f"/projects/{self.project}/links", {"variants": [row.pk], "days": None})

    def bench(self) -> Any:
        return TrialBench(build_design(self.variant["design"]), built_in())

    def body(self, method: str, route: str) -> Any:
        design = self.variant["design"]
        return {
            "POST /variants/{variant_id}/readings": {"prototype": 1, "step": self.step, "text": "", "instrument": ""},
            "PUT /variants/{variant_id}/traces/{trace_id}/assigned": {"assigned": []},
            "PATCH /projects/{project_id}": {"name": "Other"},
            "POST /projects/{project_id}/variants": {"name": "Three", "design": design},
            "POST /variants/{variant_id}/revisions": {"base": self.variant["revision"]["id"], "design": design},
            "PUT /variants/{variant_id}/baseline": {"revision": None},
            "PATCH /revisions/{revision_id}": {"reason": "x"},
            "POST /variants/{variant_id}/notes": {"text": "x"},
            "POST /variants/{variant_id}/take-over": {"other": self.second["id"], "place": "Brief › goal"},
            "PUT /variants/{variant_id}/traces/{course_id}/said": {"over": True, "at_c": None},
            "PUT /variants/{variant_id}/plan": {"start": "2026-03-02"},
            "PUT /projects/{project_id}/people": {"name": "bo", "role": "view"},
            "POST /projects/{project_id}/links": {"variants": [self.variant["id"]], "days": 7},
        }.get(f"{method} {route}", design if method == "POST" else None)

    def address(self, route: str) -> str:
        more = {"GET /compare": f"?variant={self.variant['id']}&variant={self.second['id']}"}.get(f"GET {route}", "")
        if route.endswith("/window"):
            more = "?begin_s=1&end_s=2&volts=3"
        filled = route.format(
            part_id="none",
            project_id=self.project, variant_id=self.second["id"] if route == "/variants/{variant_id}" else self.variant["id"], trace_id=self.trace.pk,
            course_id=self.course.pk, reading_id=self.reading.pk, revision_id=self.variant["revision"]["id"], link_id=self.link["id"], name="ed",
            secret=self.feed if route.startswith("/calendars") else self.link["secret"], upload=NOWHERE, number=1, digest="0" * 64, rail_id="main", kind="xlsx", instrument_id=1,
            note_id=self.note.pk, filed_id=self.filed.pk,
            entry_id=1, job=NOWHERE,
        )  # fmt: skip
        return f"/api{filled}{more}"

    def status(self, who: User | None, method: str, route: str) -> int:
        """What is answered; whatever it did is taken back."""
        if who is None:
            self.client.logout()
        else:
            self.client.force_login(who)
        with transaction.atomic():
            data = json.dumps(self.body(method, route))
            answer = self.client.generic(method, self.address(route), data, content_type="application/json")
            transaction.set_rollback(True)
        return answer.status_code

    def test_every_route_has_a_line(self) -> None:
        known = {
            (m.upper(), p.removeprefix("/api")) for p, one in api.get_openapi_schema()["paths"].items() for m in one
        }
        listed = {
            (m, p.replace("{course_id}", "{trace_id}").replace("{filed_id}", "{note_id}")) for m, p, _ in routes()
        }
        self.assertEqual(known, listed)
        self.assertEqual(len(listed), len(routes()))

    def test_every_route_by_everybody(self) -> None:
        self.client.force_login(self.ada)
        for method, route, least in routes():
            if least == ACCOUNT or (method, route) in (
                ("DELETE", "/session"),
                ("POST", "/account"),
                ("POST", "/session"),
                ("POST", "/session/demo"),
            ):
                if least == ACCOUNT:
                    with self.subTest(f"{method} {route}", who="nobody"):
                        self.assertEqual(self.status(None, method, route), 401)
                continue
            if route.endswith("/put-back"):
                self.send_as(self.ada, "DELETE", f"/projects/{self.project}", 204)
            for role, who in self.people:
                with self.subTest(f"{method} {route}", who=who and who.username):
                    found = self.status(who, method, route)
                    if role >= least:
                        self.assertLess(found, 400)
                    else:
                        self.assertEqual(found, 401 if who is None else 404)
            if route.endswith("/put-back"):
                self.send_as(self.ada, "POST", f"/projects/{self.project}/put-back", 200)

    def send_as(self, who: User, method: str, path: str, status: int) -> Any:
        self.client.force_login(who)
        return self.send(method, path, status=status)

    def test_who_looks_on_sees_it_in_the_list_and_who_leaves_does_not(self) -> None:
        self.client.force_login(self.cy)
        (one,) = self.send("GET", "/projects")
        self.assertEqual((one["role"], one["owner"]), ("view", "ada"))
        self.send("DELETE", f"/projects/{self.project}/people/di", status=404)
        self.send("DELETE", f"/projects/{self.project}/people/cy", status=204)
        self.assertEqual(self.send("GET", "/projects"), [])

    def test_who_is_taken_out_while_editing_is_refused_and_nothing_is_lost(self) -> None:
        self.client.force_login(self.di)
        found = self.send("GET", f"/variants/{self.variant['id']}")
        self.assertEqual(found["project"]["role"], "edit")
        saved = self.save(self.variant, self.variant["design"] | {"name": "Bell 2"})
        self.assertEqual(saved["author"], "di")
        self.send_as(self.ada, "DELETE", f"/projects/{self.project}/people/di", 204)
        self.client.force_login(self.di)
        body = {"base": saved["id"], "design": self.variant["design"]}
        self.send("POST", f"/variants/{self.variant['id']}/revisions", body, 404)
        self.client.force_login(self.ada)
        self.assertEqual(self.send("GET", f"/variants/{self.variant['id']}")["design"]["name"], "Bell 2")

    def test_two_editors_meet_as_two_windows_do(self) -> None:
        self.save(self.variant, self.variant["design"] | {"name": "Ada's"})
        self.client.force_login(self.di)
        met = self.save(self.variant, self.variant["design"] | {"name": "Di's"}, status=409)
        self.assertEqual(met["design"]["name"], "Ada's")

    def test_invitations_that_can_not_be(self) -> None:
        base = f"/projects/{self.project}/people"
        for name, said in (("nobody-here", "no account"), ("ada", "yours already")):
            refused = self.send("PUT", base, {"name": name, "role": "view"}, 422)
            self.assertEqual(refused["errors"][0]["path"], "/name")
            self.assertIn(said, refused["errors"][0]["message"])
        self.send("PUT", base, {"name": "bo", "role": "own"}, 422)
        again = self.send("PUT", base, {"name": "cy", "role": "edit"})
        self.assertEqual(again["role"], "edit")
        self.assertEqual(len(self.send("GET", base)), 3)
        for k in range(MOST_MEMBERS - 3):
            Member.objects.create(project_id=self.project, user=User.objects.create(username=f"p{k}"), role="view")
        self.send("PUT", base, {"name": "bo", "role": "view"}, 422)
        self.send("PUT", base, {"name": "cy", "role": "view"})  # who is there already

    def test_a_gadget_of_somebody_else_does_not_count_as_one_s_own(self) -> None:
        self.client.force_login(self.cy)
        copy = self.send("POST", f"/projects/{self.project}/duplicate")
        self.assertEqual((copy["owner"], copy["role"]), ("cy", "own"))


class Links(ApiTestCase):
    def setUp(self) -> None:
        super().setUp()
        load_built_in()
        self.variant = self.new_variant()
        self.base = f"/projects/{self.variant['project']['id']}/links"

    def made(self, *variants: int, days: int | None = None) -> str:
        link = self.send("POST", self.base, {"variants": list(variants) or [self.variant["id"]], "days": days})
        return f"/shared/{link['secret']}"

    def test_it_shows_what_the_owner_sees_without_an_account_and_in_no_index(self) -> None:
        address = self.made()
        own = self.send("GET", f"/variants/{self.variant['id']}/report")
        kept = self.send("GET", f"/revisions/{self.variant['revision']['id']}/evaluation")
        self.client.logout()
        page = self.send("GET", address)
        self.assertEqual((page["gadget"], page["variants"], page["owner"]), ("Bell", ["First"], "ada"))
        self.assertEqual(self.send("GET", f"{address}/report"), own)
        self.assertEqual(self.send("GET", f"{address}/evaluation"), kept)
        pdf = self.client.get(f"/api{address}/report.pdf")
        self.assertTrue(pdf.content.startswith(b"%PDF"))
        for path in (f"/api{address}", address):
            answer = self.client.get(path)
            self.assertIn("noindex", answer.headers["X-Robots-Tag"])
            self.assertEqual(answer.headers["Referrer-Policy"], "no-referrer")
            self.assertIn("no-store" if path.startswith("/api") else "no-cache", answer.headers["Cache-Control"])
        self.assertNotIn("X-Robots-Tag", self.client.get("/").headers)

    def test_it_shows_the_design_as_it_is_when_it_is_opened(self) -> None:
        address = self.made()
        self.save(self.variant, self.variant["design"] | {"name": "Bell 2"})
        self.client.logout()
        self.assertEqual(self.send("GET", f"{address}/report")["title"], "Bell 2")

    def test_several_stand_beside_each_other_and_one_that_is_deleted_is_gone(self) -> None:
        second = self.send("POST", f"/projects/{self.variant['project']['id']}/variants", {"name": "Two", "design": self.variant["design"]})  # fmt: skip
        address = self.made(self.variant["id"], second["id"])
        found = self.send("GET", f"{address}/compare")
        self.assertEqual([d["name"] for d in found["designs"]], ["First", "Two"])
        self.send("DELETE", f"/variants/{second['id']}", status=204)
        self.assertEqual(self.send("GET", address)["variants"], ["First"])

    def test_guessed_run_out_taken_back_and_of_a_deleted_gadget(self) -> None:
        address, other = self.made(days=7), self.made()
        row = SharedLink.objects.get(secret=address.removeprefix("/shared/"))
        for off, status in ((timedelta(seconds=30), 200), (timedelta(seconds=-30), 404)):
            row.expires = timezone.now() + off
            row.save()
            for piece in ("", "/report", "/evaluation", "/report.pdf"):
                answer = self.client.get(f"/api{address}{piece}")
                self.assertEqual(answer.status_code, status, piece)
        self.send("GET", "/shared/guessed", status=404)
        self.send("GET", f"/shared/{row.secret[:-1]}", status=404)
        link = SharedLink.objects.get(secret=other.removeprefix("/shared/"))
        self.send("DELETE", f"{self.base}/{link.pk}", status=204)
        self.send("GET", other, status=404)
        third = self.made()
        self.send("DELETE", f"/projects/{self.variant['project']['id']}", status=204)
        self.send("GET", third, status=404)

    def test_links_that_can_not_be(self) -> None:
        foreign = Variant.objects.exclude(pk=self.variant["id"]).first()
        self.assertIsNone(foreign)
        for body in (
            {"variants": [], "days": 1},
            {"variants": [self.variant["id"]], "days": 0},
            {"variants": [self.variant["id"]], "days": 1e9},
        ):
            self.send("POST", self.base, body, 422)
        self.send("POST", self.base, {"variants": [self.variant["id"] + 999], "days": 1}, 404)
        for _ in range(MOST_LINKS):
            self.made()
        self.send("POST", self.base, {"variants": [self.variant["id"]], "days": 1}, 422)

    def test_secrets_are_long_and_differ(self) -> None:
        found = {self.made() for _ in range(10)}
        self.assertEqual(len(found), 10)
        self.assertTrue(all(len(a.removeprefix("/shared/")) == 43 for a in found))

    def test_people_and_links_are_in_the_backup(self) -> None:
        self.made()
        self.send("PUT", f"/projects/{self.variant['project']['id']}/people", {"name": "bo", "role": "edit"})
        labels = [label for label, _ in _rows()]
        self.assertIn("projects.member", labels)
        self.assertIn("projects.sharedlink", labels)
