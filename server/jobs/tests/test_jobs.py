"""Bodies from uploaded files as jobs: asked for, done, failed in words, given up, and nobody else's."""

from __future__ import annotations

import hashlib
import subprocess
import sys
import threading
import time
from datetime import timedelta
from functools import partial
from pathlib import Path
from typing import Any
from unittest.mock import patch

import trimesh
from django.contrib.auth.models import User
from django.db import connection
from django.test import TransactionTestCase
from django.utils import timezone

from blobs import services as blobs
from blobs.models import PIECE_BYTES
from jobs import services
from jobs.models import Job
from jobs.tasks import KINDS, run_job
from projects.tests.helpers import ApiTestCase


def bring(user: User, content: bytes, name: str = "box.stl") -> str:
    upload = blobs.begin_upload(user, hashlib.sha256(content).hexdigest(), len(content), name)
    for n in range(-(-len(content) // PIECE_BYTES)):
        blobs.put_piece(user, str(upload.pk), n, content[n * PIECE_BYTES : (n + 1) * PIECE_BYTES])
    return blobs.finish_upload(user, str(upload.pk)).blob.digest


def box() -> bytes:
    found: bytes = trimesh.creation.box((10, 20, 30)).export(file_type="stl")
    return found


class Jobs(ApiTestCase):
    def ask(self, content: bytes, status: int = 200, name: str = "box.stl", **more: Any) -> Any:
        digest = bring(self.ada, content, name)
        with self.captureOnCommitCallbacks(execute=True):
            return self.send("POST", "/jobs/mesh", {"digest": digest} | more, status)

    def look(self, job: Any, status: int = 200) -> Any:
        return self.send("GET", f"/jobs/{job['id']}", status=status)

    def test_a_body_is_read_and_looked_at(self) -> None:
        job = self.ask(box())
        self.assertEqual((job["state"], job["progress"], job["body"]), ("waiting", 0, None))
        run_job.func()
        found = self.look(job)
        self.assertEqual((found["state"], found["progress"], found["problem"]), ("done", 1, ""))
        self.assertEqual((found["body"]["size_mm"], found["body"]["unit"]), ([10, 20, 30], "mm"))

    def test_a_case_is_measured_and_an_open_one_refused(self) -> None:
        hollow = trimesh.creation.box((40, 30, 20)).difference(trimesh.creation.box((36, 26, 16)), engine="manifold")
        job = self.ask(hollow.export(file_type="stl"), as_case=True)
        run_job.func()
        body = self.look(job)["body"]
        self.assertEqual(body["case"]["walls_mm"], [2] * 6)
        self.assertEqual(len(body["surface"]["faces"]), 24)
        opened = trimesh.creation.box((40, 30, 20))
        opened.update_faces([i > 1 for i in range(len(opened.faces))])
        job = self.ask(opened.export(file_type="stl"), as_case=True)
        run_job.func()
        self.assertIn("not closed", self.look(job)["problem"])

    def test_a_unit_is_handed_on_and_another_one_refused(self) -> None:
        job = self.ask(box(), unit="cm")
        run_job.func()
        self.assertEqual(self.look(job)["body"]["size_mm"], [100, 200, 300])
        self.ask(box(), 422, unit="furlong")

    def test_what_cannot_be_read_fails_in_words(self) -> None:
        job = self.ask(b"hello", name="a.3mf")
        run_job.func()
        found = self.look(job)
        self.assertEqual((found["state"], found["body"]), ("failed", None))
        self.assertIn("it is no 3MF", found["problem"])

    def test_a_process_that_breaks_off_or_takes_too_long_is_said_to(self) -> None:
        job = self.ask(box())
        with patch("jobs.meshes.MOST_SECONDS", 0.0):
            run_job.func()
        self.assertIn("it took more than", self.look(job)["problem"])
        job = self.ask(box())
        with patch("jobs.subprocesses.sys.executable", "/bin/false"):
            run_job.func()
        self.assertIn("broke off (code 1)", self.look(job)["problem"])

    def test_a_mistake_of_ours_is_said_and_raised(self) -> None:
        job = self.ask(box())
        with patch.dict(KINDS, {"mesh": lambda job, report: 1 / 0}), self.assertRaises(ZeroDivisionError):
            run_job.func()
        self.assertIn("a mistake of ours", self.look(job)["problem"])

    def test_it_is_done_once(self) -> None:
        self.ask(box())
        run_job.func()
        with patch.dict(KINDS, {"mesh": lambda job, report: self.fail("again")}):
            run_job.func()

    def test_given_up_before_it_begins_it_does_not_run_and_after_it_ended_it_stays(self) -> None:
        job = self.ask(box())
        self.assertEqual(self.send("DELETE", f"/jobs/{job['id']}")["state"], "cancelled")
        run_job.func()
        self.assertEqual(self.look(job)["state"], "cancelled")
        job = self.ask(box())
        run_job.func()
        self.assertEqual(self.send("DELETE", f"/jobs/{job['id']}")["state"], "done")

    def test_a_file_that_went_meanwhile(self) -> None:
        job = self.ask(box())
        blobs.let_go(self.ada, hashlib.sha256(box()).hexdigest())
        run_job.func()
        self.assertEqual(self.look(job)["problem"], "the file is not there any more")

    def test_nobody_else_s(self) -> None:
        job = self.ask(box())
        self.client.force_login(self.bo)
        self.look(job, 404)
        self.send("DELETE", f"/jobs/{job['id']}", status=404)
        self.send("POST", "/jobs/mesh", {"digest": hashlib.sha256(box()).hexdigest()}, 404)

    def test_so_many_at_once(self) -> None:
        for _ in range(services.MOST_OPEN):
            self.ask(box())
        self.ask(box(), 409)
        Job.objects.update(state="done")
        self.ask(box())

    def test_what_no_worker_ended_is_said_and_blocks_nobody(self) -> None:
        jobs = [self.ask(box()) for _ in range(services.MOST_OPEN)]
        for job, state, minutes in zip(jobs, ("waiting", "running", "waiting", "done"), (5.1, 9, 4.9, 9), strict=True):
            begun = timezone.now() - timedelta(minutes=minutes)
            Job.objects.filter(pk=job["id"]).update(state=state, created=begun, beat=timezone.now())
        self.assertEqual([self.look(job)["state"] for job in jobs], ["failed", "running", "waiting", "done"])
        self.assertIn("nobody came to it", self.look(jobs[0])["problem"])
        self.ask(box())

    def test_what_a_killed_worker_left_is_taken_up_once(self) -> None:
        job = self.ask(box())
        for tries, silent_s, state in ((1, 19, "running"), (1, 21, "waiting"), (2, 19, "running"), (2, 21, "failed")):
            beat = timezone.now() - timedelta(seconds=silent_s)
            Job.objects.filter(pk=job["id"]).update(state="running", tries=tries, beat=beat)
            with self.captureOnCommitCallbacks() as tickets:
                self.assertEqual(self.look(job)["state"], state, (tries, silent_s))
            self.assertEqual(len(tickets), 1 if state == "waiting" else 0)
        self.assertIn("interrupted twice", self.look(job)["problem"])

    def test_whoever_has_fewest_at_work_is_next(self) -> None:
        """Ada asks three times before Bo asks once: Bo's is the second to begin."""
        order: list[str] = []

        def work(job: Job, report: Any) -> None:
            order.append(job.owner.username)
            if len(order) < 4:
                services.work_on_next(kinds)  # another worker, while this one is at work

        kinds: dict[str, services.Work] = {"mesh": work}
        for _ in range(3):
            self.ask(box())
        self.client.force_login(self.bo)
        bring(self.bo, box())
        self.send("POST", "/jobs/mesh", {"digest": hashlib.sha256(box()).hexdigest()})
        services.work_on_next(kinds)
        self.assertEqual(order, [self.ada.username, self.bo.username, self.ada.username, self.ada.username])

    def test_one_after_the_other_goes_round(self) -> None:
        order: list[str] = []
        for _ in range(2):
            self.ask(box())
        self.client.force_login(self.bo)
        bring(self.bo, box())
        for _ in range(2):
            self.send("POST", "/jobs/mesh", {"digest": hashlib.sha256(box()).hexdigest()})
        for _ in range(4):
            services.work_on_next({"mesh": lambda job, report: order.append(job.owner.username)})
        self.assertEqual(order, [self.ada.username, self.bo.username] * 2)

    def test_nothing_is_left_in_the_temporary_folder(self) -> None:
        """Whatever the libraries write there, and however it ends."""
        writes = "import pathlib, tempfile, time; pathlib.Path(tempfile.mkstemp()[1]).write_bytes(b'x' * 1000); time.sleep(60)"

        def process(command: list[str], **more: Any) -> Any:
            started.append(more["env"]["TMPDIR"])
            return real([sys.executable, "-c", writes], **more)

        started: list[str] = []
        real = subprocess.Popen
        job = self.ask(box())
        with patch("jobs.subprocesses.subprocess.Popen", process), patch("jobs.meshes.MOST_SECONDS", 1.0):
            run_job.func()
        self.assertIn("it took more than", self.look(job)["problem"])
        self.assertEqual(len(started), 1)
        self.assertFalse(Path(started[0]).exists())

    def test_old_ones_are_forgotten(self) -> None:
        for days in (0.9, 1.1):
            job = self.ask(box())
            Job.objects.filter(pk=job["id"]).update(created=timezone.now() - timedelta(days=days))
        self.assertEqual(services.forget_old(), 1)


class GivenUp(TransactionTestCase):
    def test_what_runs_is_ended(self) -> None:
        """Its process is killed within half a second, though it would go on for long."""
        ada = User.objects.create_user("ada")
        digest = bring(ada, box())
        job = Job.objects.create(owner=ada, kind="mesh", asked={"digest": digest})

        def give_up() -> None:
            while not Job.objects.filter(pk=job.pk, state="running").exists():
                time.sleep(0.02)
            services.give_up(ada, str(job.pk))
            connection.close()

        thread = threading.Thread(target=give_up)
        thread.start()
        begun = time.monotonic()
        sleeper = partial(subprocess.Popen, ["/bin/sleep", "60"])
        with patch("jobs.subprocesses.subprocess.Popen", lambda command, **more: sleeper(**more)):
            services.work_on_next(KINDS)
        thread.join()
        self.assertLess(time.monotonic() - begun, 5)
        job.refresh_from_db()
        self.assertEqual(job.state, "cancelled")
