"""What goes wrong has one shape, and is said in time."""

from __future__ import annotations

import json
import re
import threading
import time
from typing import Any
from unittest.mock import patch

from django.conf import settings
from django.db import InterfaceError, OperationalError
from django.http import HttpResponse
from django.test import RequestFactory, override_settings
from django.utils import timezone

from accounts import throttle
from config import problems
from config.headers import server_timing
from config.watch import GONE, GRACE_S, OverTime, Watch, _Request, watched
from projects.tests.helpers import PARTS, ApiTestCase, document


class OneShape(ApiTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client.raise_request_exception = False

    def ask(self, method: str, path: str, status: int, body: Any = b"", **more: Any) -> dict[str, Any]:
        kind = more.pop("content_type", "application/json")
        response = self.client.generic(method, path, body, content_type=kind, **more)
        self.assertEqual((response.status_code, response.headers["Content-Type"]), (status, problems.MEDIA_TYPE))
        answer = json.loads(response.content)
        self.assertEqual(answer["status"], status)
        self.assertTrue(answer["title"])
        self.assertIsInstance(answer["errors"], list)
        return dict(answer, headers=response.headers)

    def test_addresses_and_methods_that_are_not_there(self) -> None:
        self.ask("GET", "/api/nowhere", 404)
        self.ask("GET", "/api/variants/x", 422)
        self.ask("GET", f"/api/variants/{10**30}", 404)
        self.assertIn("POST", self.ask("GET", "/api/evaluate", 405)["headers"]["Allow"])

    def test_an_answer_says_how_long_it_took_by_the_clock_and_the_processor(self) -> None:
        def slow(_: object) -> HttpResponse:
            time.sleep(0.05)
            until = time.thread_time() + 0.03
            while time.thread_time() < until:
                pass
            return HttpResponse()

        timed = server_timing(slow)
        told = timed(RequestFactory().get("/api/session")).headers["Server-Timing"]
        found = re.fullmatch(r"all;dur=([\d.]+), work;dur=([\d.]+)", told)
        assert found is not None
        whole, work = map(float, found.groups())
        self.assertGreaterEqual(whole, 79)
        self.assertTrue(29 <= work < whole - 40, told)
        self.assertNotIn("Server-Timing", timed(RequestFactory().get("/")).headers)
        self.assertIn("Server-Timing", self.client.get("/api/nothing").headers)

    def test_an_unknown_host_is_refused_on_every_address(self) -> None:
        for path in ("/", "/gadgets", "/api/session", "/api/evaluate"):
            self.ask("GET", path, 400, HTTP_HOST="elsewhere.example")

    def test_bodies_that_are_no_json_say_what_is_wrong(self) -> None:
        for body, said in ((b"{", "JSON"), (b"\xff", "UTF-8"), (b"[" * 100_000, "nested"), (b'{"a": NaN}', "finite")):
            self.assertIn(said, self.ask("POST", "/api/evaluate", 422, body)["errors"][0]["message"])
            self.assertIn(said, self.ask("POST", "/api/projects", 400, body)["errors"][0]["message"])

    def test_a_body_over_the_limit_is_refused_before_it_is_read(self) -> None:
        length = str(problems.LARGEST_BODY + 1)
        with patch("django.core.handlers.wsgi.WSGIRequest.read", side_effect=AssertionError("was read")):
            self.ask("POST", "/api/projects/from-document", 413, CONTENT_LENGTH=length)
        self.ask("POST", "/api/evaluate", 413, b" " * 6_000_001)

    def test_broken_forms(self) -> None:
        for kind in ("multipart/form-data", "multipart/form-data; boundary=x", "multipart/form-data; boundary=\x00"):
            for body in (
                b"",
                b"--x\r\nnonsense",
                b"\x00" * 40,
                b"--x\r\nContent-Disposition: form-data\r\n\r\n1\r\n--x--",
            ):
                response = self.client.generic("POST", "/api/projects/from-parts", body, content_type=kind)
                self.assertIn(response.status_code, (400, 422))
                self.assertEqual(response.headers["Content-Type"], problems.MEDIA_TYPE)

    def test_names_that_are_blank_or_long(self) -> None:
        for name in ("", "   ", "x" * 121, "\x00"):
            self.ask("POST", "/api/projects", 422, json.dumps({"name": name}))
            answer = self.upload("/projects/from-parts", PARTS, 422, name=name)
            self.assertEqual(answer["errors"][0]["path"], "/name")

    def test_contradictory_columns_of_a_parts_list(self) -> None:
        for text in ("name,active [mA],min supply,max supply\nA,5,5 V,3 V\n", "name,active,rail\n" + "A,5 mA,b\n" * 900,
                     "name,active [mA],a,A\nA,5,1,2\n", "name,active [mA]\nA,1e300\n", "name,active [mA],active [uA]\nA,1,2\n",
                     "name,active,rail\n" + "".join(f"P,5 mA,r{i}\n" for i in range(300))):  # fmt: skip
            response = self.client.post("/api/projects/from-parts", {"name": "x", "file": _file(text)})
            self.assertIn(response.status_code, (200, 422), text[:60])

    def test_a_dead_database_is_said_and_nothing_was_saved(self) -> None:
        for error in (OperationalError(2006, "gone"), InterfaceError(0, "")):
            with patch("projects.api.project_for", side_effect=error):
                answer = self.ask("GET", "/api/projects/1", 503)
            self.assertIn("Nothing was saved", answer["title"])
            self.assertEqual(answer["headers"]["Retry-After"], str(problems.RETRY_AFTER_S))

    def test_a_mistake_of_ours_keeps_the_shape_and_tells_no_details(self) -> None:
        with (
            self.assertLogs("django.request", "ERROR"),
            patch("projects.api.project_for", side_effect=KeyError("secret")),
        ):
            self.assertNotIn("secret", str(self.ask("GET", "/api/projects/1", 500)))

    def test_too_much_memory_is_said(self) -> None:
        with (
            self.assertLogs("django.request", "ERROR"),
            patch("answers.evaluation.evaluate", side_effect=MemoryError),
        ):
            self.assertIn("memory", self.ask("POST", "/api/evaluate", 503, json.dumps(document()))["title"])


def _file(text: str) -> Any:
    from django.core.files.uploadedfile import SimpleUploadedFile

    return SimpleUploadedFile("parts.csv", text.encode())


class Watching(ApiTestCase):
    def test_a_request_that_runs_over_its_time_is_ended(self) -> None:
        def endless(*_: object) -> None:
            while True:
                time.sleep(0.001)

        self.client.raise_request_exception = False
        began = time.monotonic()
        with (
            override_settings(REQUEST_SECONDS_BY_CLOCK=0.3),
            patch("answers.evaluation.evaluate", endless),
            self.assertLogs("django.request", "ERROR"),
        ):
            setattr(self.client.handler, "_middleware_chain", None)  # noqa: B010  # the limit is read when the chain is made
            response = self.client.post("/api/evaluate", json.dumps(document()), content_type="application/json")
        setattr(self.client.handler, "_middleware_chain", None)  # noqa: B010
        self.assertEqual(response.status_code, 503)
        self.assertIn("too long", response.json()["title"])
        self.assertLess(time.monotonic() - began, 3)

    def test_one_within_its_time_is_left_alone_and_so_is_the_next(self) -> None:
        watch = Watch(20.0, 0.2)
        for _ in range(8):
            with watch.during():
                time.sleep(0.05)
        with self.assertRaises(OverTime), watch.during():
            for _ in range(100):
                time.sleep(0.01)
        with watch.during():
            time.sleep(0.05)

    def test_only_the_slow_one_of_two_is_ended(self) -> None:
        watch, ended = Watch(20.0, 0.3), []

        def work(name: str, seconds: float) -> None:
            try:
                with watch.during():
                    until = time.monotonic() + seconds
                    while time.monotonic() < until:
                        time.sleep(0.01)
            except OverTime:
                ended.append(name)

        threads = [threading.Thread(target=work, args=a) for a in (("slow", 3.0), ("quick", 0.1))]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(ended, ["slow"])

    def test_processor_time_counts_and_waiting_does_not(self) -> None:
        watch = Watch(0.2, 20.0)
        with watch.during():
            time.sleep(0.6)
        began = time.thread_time()
        with self.assertRaises(OverTime), watch.during():
            while time.thread_time() < began + 5:
                pass
        self.assertLess(time.thread_time() - began, 2)

    def test_what_nobody_waits_for_any_more_is_ended(self) -> None:
        gone = threading.Event()
        threading.Timer(0.2, gone.set).start()
        watch, began = Watch(20.0, 20.0), time.monotonic()
        with self.assertRaises(OverTime), watch.during(gone):
            for _ in range(1000):
                time.sleep(0.01)
        self.assertLess(time.monotonic() - began, 3)

    def test_one_that_is_ended_in_its_very_last_moment_is_forgotten(self) -> None:
        watch = Watch(20.0, 20.0)
        plain, late = watch._end, [OverTime()]

        def end() -> None:
            if late:
                raise late.pop()
            plain()

        with patch.object(watch, "_end", end), self.assertRaises(OverTime), watch.during():
            pass
        self.assertEqual(watch._running, {})

    def test_a_save_is_finished_though_its_client_is_gone_and_an_answer_is_not(self) -> None:
        def asked(path: str) -> int:
            gone = threading.Event()
            gone.set()

            def slow(_: object) -> HttpResponse:
                for _i in range(60):
                    time.sleep(0.01)
                return HttpResponse("done")

            request = RequestFactory().post(path, **{"asgi.scope": {GONE: gone}})  # type: ignore[arg-type]
            return watched(slow)(request).status_code

        self.assertEqual(asked("/api/answers/savings"), 503)
        self.assertEqual(asked("/api/variants/1/revisions"), 200)

    def test_a_process_with_a_request_that_hangs_ends_when_its_neighbours_are_done(self) -> None:
        watch = Watch(20.0, 60.0)

        def request(told: float | None) -> _Request:
            return _Request(time.pthread_getcpuclockid(threading.get_ident()), 1e9, 1e9, None, told)

        for told, hung in (([None], False), ([0.0], True), ([0.0, None], False), ([0.0, 0.0], True), ([0.0, 9.0], False)):  # fmt: skip
            watch._running = {i: request(t) for i, t in enumerate(told)}
            self.assertEqual(watch._hung(GRACE_S + 0.1), hung, told)
        watch._running = {0: request(0.0), 1: request(None)}
        self.assertTrue(watch._hung(GRACE_S + 60.1))  # nobody waits for ever


class Doors(ApiTestCase):
    def test_every_refusal_has_its_headers(self) -> None:
        cases: tuple[tuple[str, int, dict[str, Any]], ...] = (
            ("/api/nothing-here", 404, {}),
            ("/api/session", 400, {"HTTP_HOST": "elsewhere.example"}),
            ("/api/evaluate", 413, {"CONTENT_LENGTH": "99000000"}),
        )
        for path, status, more in cases:
            with self.subTest(path):
                response = self.client.post(path, b"", content_type="application/json", **more)
                self.assertEqual(response.status_code, status)
                self.assertIn("default-src 'self'", response.headers["Content-Security-Policy"])
                self.assertEqual(response.headers["X-Content-Type-Options"], "nosniff")

    def test_the_description_is_made_once_and_has_a_tag(self) -> None:
        first = self.client.get("/api/openapi.json")
        self.assertEqual(first.status_code, 200)
        self.assertIn("/api/evaluate", first.json()["paths"])
        with patch("config.urls.api.get_openapi_schema", side_effect=AssertionError):
            again = self.client.get("/api/openapi.json", HTTP_IF_NONE_MATCH=first.headers["ETag"])
            other = self.client.get("/api/openapi.json", HTTP_IF_NONE_MATCH='"other"')
        self.assertEqual((again.status_code, again.content), (304, b""))
        self.assertEqual((other.status_code, other.content), (200, first.content))

    def test_nothing_on_the_way_swallows_the_end_of_time(self) -> None:
        """What catches every Exception goes on without it; the answer is still that it took too long."""

        def stubborn(*_: object) -> None:
            until = time.monotonic() + 5
            while time.monotonic() < until:
                try:
                    time.sleep(0.001)
                except Exception:  # as careless code does
                    continue

        with (
            override_settings(REQUEST_SECONDS_BY_CLOCK=0.3),
            patch("answers.evaluation.evaluate", stubborn),
            self.assertLogs("django.request", "ERROR"),
        ):
            setattr(self.client.handler, "_middleware_chain", None)  # noqa: B010  # the limit is read when the chain is made
            began = time.monotonic()
            response = self.client.post("/api/evaluate", json.dumps(document()), content_type="application/json")
        setattr(self.client.handler, "_middleware_chain", None)  # noqa: B010
        self.assertEqual(response.status_code, 503)
        self.assertLess(time.monotonic() - began, 3)


class Throttling(ApiTestCase):
    def sign_in(self, password: str, name: str = "ada", address: str = "10.0.0.1", **headers: str) -> Any:
        body = json.dumps({"name": name, "password": password})
        return self.client.post(
            "/api/session", body, content_type="application/json", REMOTE_ADDR=address, headers=headers
        )

    def test_wrong_passwords_are_counted_for_the_account_where_they_come_from(self) -> None:
        most = throttle.WRONG_FROM_THERE.most
        for _ in range(most):
            self.assertEqual(self.sign_in("wrong").status_code, 422)
        refused = self.sign_in("ember-and-ash-7", "ADA")
        self.assertEqual(refused.status_code, 429)
        seconds = throttle.WRONG_FROM_THERE.within.total_seconds()
        self.assertTrue(seconds - 60 < int(refused.headers["Retry-After"]) <= seconds)
        self.assertIn("wait", refused.json()["errors"][0]["message"])
        self.assertEqual(self.sign_in("ember-and-ash-8", "bo").status_code, 200)
        self.assertEqual(self.sign_in("ember-and-ash-7", address="10.0.0.2").status_code, 200)

    def test_nobody_locks_an_owner_out(self) -> None:
        """Guessed at from many addresses an account is closed to strangers, and open to the browser that it signed in with."""
        self.assertEqual(self.sign_in("ember-and-ash-7").status_code, 200)
        owner, self.client = self.client, self.client_class()
        for i in range(throttle.WRONG_FOR_ACCOUNT.most):
            self.assertEqual(self.sign_in("wrong", address=f"10.0.1.{i}").status_code, 422)
        self.assertEqual(self.sign_in("ember-and-ash-7", address="10.0.2.1").status_code, 429)
        self.client = owner
        self.assertEqual(self.sign_in("ember-and-ash-7", address="10.0.2.1").status_code, 200)
        for _ in range(throttle.WRONG_FROM_THERE.most):  # which may guess no more than others
            self.sign_in("wrong")
        self.assertEqual(self.sign_in("ember-and-ash-7", address="10.0.2.1").status_code, 429)
        self.assertEqual(self.sign_in("wrong", "bo").status_code, 422)

    def test_a_made_up_cookie_is_no_known_browser(self) -> None:
        self.client.cookies["known-browser"] = "ada:1:x"
        for i in range(throttle.WRONG_FOR_ACCOUNT.most):
            self.sign_in("wrong", address=f"10.0.1.{i}")
        self.assertEqual(self.sign_in("ember-and-ash-7", address="10.0.2.1").status_code, 429)

    def test_behind_a_proxy_the_address_that_it_names_counts_if_it_is_trusted(self) -> None:
        def guess(i: int) -> int:
            named = {"X-Forwarded-For": f"1.2.3.4, 10.9.0.{i}"}
            return int(self.sign_in("wrong", address="10.0.0.9", **named).status_code)

        most = throttle.WRONG_FROM_THERE.most
        with self.settings(TRUSTED_PROXIES=["10.0.0.9"]):
            self.assertEqual([guess(i) for i in range(most + 1)], [422] * (most + 1))
        self.assertEqual([guess(i) for i in range(most + 1)], [422] * most + [429])

    def test_the_right_password_does_not_count_and_old_attempts_are_forgotten(self) -> None:
        for _ in range(throttle.WRONG_FROM_THERE.most - 1):
            self.sign_in("wrong")
        for _ in range(5):
            self.assertEqual(self.sign_in("ember-and-ash-7").status_code, 200)
        self.client = self.client_class()
        self.sign_in("wrong")
        later = timezone.now() + throttle.WRONG_FROM_THERE.within
        with patch.object(timezone, "now", lambda: later):
            self.assertEqual(self.sign_in("wrong").status_code, 422)

    def test_many_accounts_from_one_address(self) -> None:
        for i in range(throttle.WRONG_FROM_ADDRESS.most):
            self.sign_in("wrong", f"nobody-{i}")
        self.assertEqual(self.sign_in("ember-and-ash-7").status_code, 429)

    def test_sign_ups_are_counted_for_the_address(self) -> None:
        for i in range(throttle.SIGN_UPS_FROM_ADDRESS.most):
            self.send("POST", "/account", {"name": f"new-{i}", "password": "ember-and-ash-9"})
        self.send("POST", "/account", {"name": "new-x", "password": "ember-and-ash-9"}, 429)

    def test_guessing_the_old_password_is_throttled_too(self) -> None:
        for _ in range(throttle.WRONG_FROM_THERE.most):
            self.send("POST", "/account/password", {"old": "wrong", "new": "ember-and-ash-9"}, 422)
        self.send("POST", "/account/password", {"old": "ember-and-ash-7", "new": "ember-and-ash-9"}, 429)


class Assets(ApiTestCase):
    def test_built_files_are_compressed_and_kept_for_ever_by_their_digest(self) -> None:
        assets = settings.WEB_DIST / "assets"
        script = next(assets.glob("index-*.js"))
        response = self.client.get(f"/assets/{script.name}", headers={"Accept-Encoding": "gzip"})
        self.assertEqual(response.headers["Content-Encoding"], "gzip")
        self.assertIn("immutable", response.headers["Cache-Control"])
        sent = int(response.headers["Content-Length"])
        self.assertLess(sent, script.stat().st_size / 2)
        b"".join(response.streaming_content)  # type: ignore[attr-defined]
        self.assertEqual(self.client.get("/gadgets").headers["Cache-Control"], "no-cache")
