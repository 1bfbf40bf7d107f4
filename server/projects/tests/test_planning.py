"""The drawer, bills for many and build plans over the API: kept, told of, refused at the field; calendars by their secret."""

from __future__ import annotations

import io
from datetime import timedelta

import vobject
from django.utils import timezone
from openpyxl import load_workbook

from catalogue.services import load_built_in
from operations.backup import _rows
from projects.models import DrawerItem
from projects.planning import MOST_IN_DRAWER

from .helpers import ApiTestCase


class Planning(ApiTestCase):
    def setUp(self) -> None:
        super().setUp()
        load_built_in()
        self.variant = self.new_variant()
        self.base = f"/variants/{self.variant['id']}"

    def keep(self, name: str, status: int = 200, **more: object) -> object:
        return self.send("PUT", "/drawer", {"name": name, **more}, status)

    def test_a_batch_with_what_is_in_the_drawer(self) -> None:
        self.keep("Brain", on_hand=3, breaks="10: 1.5; 2: 2", lead_days=12)
        found = self.send("GET", f"{self.base}/batch?count=10")
        (brain,) = [x for x in found["lines"] if x["name"] == "Brain"]
        self.assertEqual(
            (brain["to_buy"], brain["price"], brain["breaks"], brain["lead_days"]), (7, 2, "2: 2; 10: 1.5", 12)
        )
        self.assertEqual(self.send("GET", "/drawer")[0]["on_hand"], 3)
        self.keep("Brain")  # nothing is known any more
        self.assertEqual(self.send("GET", "/drawer"), [])

    def test_it_is_one_s_own_drawer(self) -> None:
        self.keep("Brain", on_hand=3)
        self.send("PUT", f"/projects/{self.variant['project']['id']}/people", {"name": "bo", "role": "view"})
        self.client.force_login(self.bo)
        found = self.send("GET", f"{self.base}/batch?count=1")
        self.assertEqual({x["on_hand"] for x in found["lines"]}, {0})

    def test_what_can_not_be_is_refused_at_the_field(self) -> None:
        for wrong in ({"on_hand": -1}, {"on_hand": 1e9}, {"lead_days": -1}, {"lead_days": 9999}, {"breaks": "x" * 500}):
            self.keep("Brain", 422, **wrong)
        refused = self.send("PUT", "/drawer", {"name": "Brain", "breaks": "ten"}, 422)
        self.assertEqual(refused["errors"][0]["path"], "/breaks")
        for count in ("0", "10001", "-1", "x", "1.5", "nan"):
            self.send("GET", f"{self.base}/batch?count={count}", status=422)
        DrawerItem.objects.bulk_create(DrawerItem(owner=self.ada, name=f"n{k}") for k in range(MOST_IN_DRAWER))
        self.keep("Brain", 422, on_hand=1)

    def test_files(self) -> None:
        for kind in ("csv", "xlsx", "ods"):
            answer = self.client.get(f"/api{self.base}/batch/{kind}?count=3")
            self.assertEqual(answer.status_code, 200)
            self.assertIn(f'bell-for-3.{kind}"', answer.headers["Content-Disposition"])
            if kind == "xlsx":
                self.assertEqual(load_workbook(io.BytesIO(answer.content)).active["A2"].value, "Brain")
        self.send("GET", f"{self.base}/batch/exe?count=3", status=422)

    def test_a_plan_is_kept_ticked_off_and_moved(self) -> None:
        found = self.send("GET", f"{self.base}/plan")
        today = timezone.localdate()
        self.assertEqual(found["state"]["start"], today.isoformat())
        first = found["plan"]["today"][0]
        state = found["state"] | {
            "done": {first: today.isoformat()},
            "not_before": {"solder": (today + timedelta(days=30)).isoformat()},
        }
        self.send("PUT", f"{self.base}/plan", state)
        told = self.send("GET", f"{self.base}/plan")
        self.assertNotIn(first, told["plan"]["today"])
        solder = next(t for t in told["plan"]["tasks"] if t["key"] == "solder")
        self.assertEqual(solder["begins"], (today + timedelta(days=30)).isoformat())
        for wrong in (
            {"start": "soon"},
            {"hours_a_day": 0},
            {"hours_a_day": 25},
            {"done": {"x": "never"}},
            {"colour": 1},
        ):
            self.send("PUT", f"{self.base}/plan", state | wrong, status=422)
        for day, said in (
            ("1999-12-31", "2000-01-01 or later"),
            ("0281-08-10", "or later"),
            ("2200-01-01", "2199-12-31 or earlier"),
        ):
            refused = self.send("PUT", f"{self.base}/plan", state | {"start": day}, 422)
            self.assertIn(said, refused["errors"][0]["message"])
        self.assertEqual(self.send("GET", f"{self.base}/plan"), told)

    def test_a_calendar_by_its_secret_cheaply_until_it_is_taken_back(self) -> None:
        feed = self.send("POST", f"{self.base}/plan/feed")["feed"]
        own = self.client.get(f"/api{self.base}/plan.ics")
        self.assertIn("bell.ics", own.headers["Content-Disposition"])
        self.client.logout()
        answer = self.client.get(f"/api/calendars/{feed}.ics")
        self.assertEqual(answer.content, own.content)
        self.assertGreater(len(vobject.readOne(answer.content.decode()).vevent_list), 3)
        again = self.client.get(f"/api/calendars/{feed}.ics", headers={"If-None-Match": answer.headers["ETag"]})
        self.assertEqual((again.status_code, again.content), (304, b""))
        self.assertIn("max-age", answer.headers["Cache-Control"])
        self.client.force_login(self.ada)
        other = self.send("POST", f"{self.base}/plan/feed")["feed"]
        self.assertNotEqual(other, feed)
        self.assertEqual(self.client.get(f"/api/calendars/{feed}.ics").status_code, 404)
        self.send("DELETE", f"{self.base}/plan/feed")
        self.assertEqual(self.client.get(f"/api/calendars/{other}.ics").status_code, 404)

    def test_drawer_and_plans_are_in_the_backup(self) -> None:
        self.keep("Brain", on_hand=1)
        self.send("PUT", f"{self.base}/plan", {"start": "2026-03-02"})
        labels = {label for label, _ in _rows()}
        self.assertLessEqual({"projects.draweritem", "projects.plan"}, labels)
