"""Sign-up, sign-in, password change, demo."""

from __future__ import annotations

import json
from typing import Any

from django.contrib.auth.models import User
from django.contrib.sessions.models import Session
from django.test import TestCase, override_settings

from operations.tasks import tidy_up
from projects.demo import load_demo

GOOD = "ember-and-ash-7"


class Accounts(TestCase):
    def send(self, path: str, body: Any = None, status: int = 200) -> Any:
        response = self.client.post(f"/api{path}", json.dumps(body), content_type="application/json")
        self.assertEqual(response.status_code, status, response.content[:400])
        return response.json()

    def test_sign_up_signs_in_and_out_and_in_again(self) -> None:
        self.assertEqual(self.send("/account", {"name": "ada", "password": GOOD})["user"], "ada")
        self.assertIsNone(self.client.delete("/api/session").json()["user"])
        self.assertEqual(self.send("/session", {"name": "ada", "password": GOOD})["user"], "ada")

    def test_bad_names_and_passwords_are_said_at_their_fields(self) -> None:
        answer = self.send("/account", {"name": "a b", "password": "123"}, 422)
        self.assertLessEqual({"/name", "/password"}, {e["path"] for e in answer["errors"]})
        self.send("/account", {"name": "ada", "password": GOOD})
        self.client.logout()
        answer = self.send("/account", {"name": "ada", "password": GOOD}, 422)
        self.assertIn("taken", answer["errors"][0]["message"])
        self.assertEqual(User.objects.count(), 1)

    def test_a_wrong_password_does_not_sign_in(self) -> None:
        User.objects.create_user("ada", password=GOOD)
        self.send("/session", {"name": "ada", "password": "wrong"}, 422)
        self.assertIsNone(self.client.get("/api/session").json()["user"])

    def test_password_change_needs_the_old_one_and_keeps_the_session(self) -> None:
        self.send("/account", {"name": "ada", "password": GOOD})
        self.assertEqual(
            self.send("/account/password", {"old": "x", "new": GOOD + "8"}, 422)["errors"][0]["path"], "/old"
        )
        self.assertEqual(self.send("/account/password", {"old": GOOD, "new": GOOD + "8"})["user"], "ada")
        self.client.logout()
        self.send("/session", {"name": "ada", "password": GOOD + "8"})

    def test_the_demo_account_is_one_click_where_it_is_offered(self) -> None:
        load_demo()
        self.assertEqual(self.send("/session/demo")["user"], "demo")
        self.send("/account/password", {"old": "", "new": GOOD}, 422)
        with override_settings(DEMO=False):
            self.client.logout()
            self.send("/session/demo", status=404)

    def test_requests_from_other_sites_are_refused(self) -> None:
        self.client.handler.enforce_csrf_checks = True
        self.send("/session", {"name": "ada", "password": GOOD}, 403)

    def test_housekeeping_clears_sessions_that_ended(self) -> None:
        self.send("/account", {"name": "ada", "password": GOOD})
        Session.objects.update(expire_date="2020-01-01T00:00Z")
        tidy_up.func()
        self.assertEqual(Session.objects.count(), 0)
