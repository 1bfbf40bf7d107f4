"""Run-downs that are logged: point by point, through instruments that do not answer, workers that are killed and rights that end, to the cut-off and no further."""

from __future__ import annotations

import json
from datetime import timedelta
from typing import Any
from unittest.mock import patch

from django.test import override_settings
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from catalogue.services import load_built_in
from ember_core import build_design
from ember_core.bringup import supply_limits
from ember_core.catalogue import built_in
from ember_core.measures.bench import TrialBench
from ember_core.traces import Course
from instruments.tests.test_instruments import LOOPBACK, Standing
from jobs import logs
from jobs.measurements import told_by
from jobs.models import Job, RunDownLog
from jobs.services import JobRefused
from jobs.tasks import run_job
from projects.models import Member, Trace
from projects.tests.helpers import ApiTestCase, document
from projects.traces import course_for


@override_settings(**LOOPBACK)
class Logged(ApiTestCase):
    def setUp(self) -> None:
        super().setUp()
        load_built_in()
        self.gadget = self.upload("/projects/from-document", json.dumps(document()).encode())
        self.variant = self.gadget["variants"][0]["id"]
        self.until_v = supply_limits(TrialBench(build_design(document()), built_in())).low_v
        self.standing = self.enterContext(Standing())
        body = {"name": "Meter", "host": "127.0.0.1", "port": self.standing.server.port}
        self.meter = self.send("PUT", "/instruments", body)["id"]
        self.told = self.enterContext(patch.object(logs, "told_by", self.read))
        self.drawn_a: float | None = 0.02

    def read(self, own: Any, asked: dict[str, Any], *_: Any, **__: Any) -> tuple[dict[str, Any], bytes]:
        """As the driver tells it, without a process for each point."""
        unit = self.standing.unit
        if asked["what"] == "current":
            self.assertEqual((own.name, asked["range_a"]), ("Shunt", 0.5))
            if self.drawn_a is None:
                raise JobRefused("the shunt does not answer")
            return {"identity": "Shunt", "value": self.drawn_a}, b""
        if unit.fault == "garbage":
            raise JobRefused("what it says is no text")
        return {"identity": "Meter", "value": unit.seen_v()}, b""

    def begin(self, status: int = 200, **more: Any) -> Any:
        body = {"instrument": self.meter, "variant": self.variant, "action": "log", "name": "First charge"} | more
        with self.captureOnCommitCallbacks(execute=True):
            job = self.send("POST", "/jobs/measure", body, status)
            if status == 200:
                run_job.func()
        return job if status != 200 else self.send("GET", f"/jobs/{job['id']}")

    def point(self, volts: float | None = None) -> RunDownLog:
        """The next point, as if its time had come."""
        if volts is not None:
            self.standing.unit.cell_v = volts
        log = RunDownLog.objects.get()
        if log.due is not None:
            RunDownLog.objects.update(due=timezone.now(), began=log.began - timedelta(seconds=60))
        with self.captureOnCommitCallbacks(execute=True):
            logs.add_next_point(log.pk)
        log.refresh_from_db()
        return log

    def row(self) -> Any:
        (row,) = self.send("GET", f"/variants/{self.variant}/logs")
        return row

    def test_by_the_instrument_itself(self) -> None:
        with patch.object(logs, "told_by", told_by):
            self.begin()
            self.assertIsNotNone(self.point(3.7).due)
            self.assertAlmostEqual(float(course_for(Trace.objects.get().pk).volts[-1]), 3.7, places=2)
            self.assertIn("STAND-IN", self.send("GET", "/instruments")["instruments"][0]["identity"])
            self.standing.unit.fault = "garbage"
            self.assertIn("no text", self.point().problem)

    def test_point_by_point_to_the_cut_off(self) -> None:
        found = self.begin(every_s=90)
        trace = found["measured"]["trace"]
        self.assertEqual((self.row()["every_s"], self.row()["until_v"], self.row()["ended"]), (90, self.until_v, ""))
        ticket = DBTaskResult.objects.get(task_path="jobs.tasks.log_point")
        self.assertAlmostEqual((ticket.run_after - timezone.now()).total_seconds(), 90, delta=20)
        logs.add_next_point(RunDownLog.objects.get().pk)  # before its time
        self.assertEqual(Trace.objects.get().samples, 1)
        self.assertIsNotNone(self.point(3.8).due)
        self.assertIsNotNone(self.point(self.until_v - 0.01).due)  # a peak, perhaps
        self.assertIsNotNone(self.point(3.7).due)
        self.assertIsNotNone(self.point(self.until_v - 0.01).due)
        log = self.point(self.until_v - 0.01)
        self.assertEqual((log.due, log.ended), (None, "cut-off"))
        course = course_for(trace)
        self.assertEqual(Trace.objects.get().samples, 6)
        self.assertTrue(all(58 < x < 75 for x in (course.time_s[1:] - course.time_s[:-1])))
        self.assertAlmostEqual(course.volts[1], 3.8, places=2)
        self.point()
        self.assertEqual(Trace.objects.get().samples, 6)  # no more
        answer = self.send("POST", f"/variants/{self.variant}/traces/{trace}/rundown", document())
        self.assertEqual(len(answer["volts"]), 6)

    def test_a_current_is_read_beside_it(self) -> None:
        body = {"name": "Shunt", "host": "127.0.0.1", "port": 5999}
        shunt = self.send("PUT", "/instruments", body)["id"]
        with_it = {"beside": shunt, "range_a": 0.5}
        trace = self.begin(**with_it)["measured"]["trace"]
        self.assertEqual((self.row()["instrument"], self.row()["beside"]), ("Meter", "Shunt"))
        self.drawn_a = 0.04
        self.point(3.8)
        self.drawn_a = None  # a voltage without its current is no point
        log = self.point(3.7)
        self.assertEqual((log.misses, log.problem), (1, "the shunt does not answer"))
        self.drawn_a = 0.06
        self.point(3.6)
        course = course_for(trace)
        assert course.amps is not None
        self.assertEqual([round(float(a), 6) for a in course.amps], [0.02, 0.04, 0.06])
        self.assertEqual(course.volts.size, 3)
        Job.objects.create(owner=self.bo, kind="measure", state="running", asked={"instrument": shunt})
        self.assertEqual((self.point(3.5).misses, Trace.objects.get().samples), (0, 3))
        Job.objects.all().delete()
        self.send("DELETE", f"/instruments/{shunt}", status=204)
        self.assertEqual(self.point().ended, "gone")

    def test_who_is_beside_it_is_another_one_that_is_reached(self) -> None:
        refused = self.begin(422, beside=self.meter)
        self.assertTrue(refused["errors"][0]["path"].endswith("/beside"))
        self.begin(404, beside=self.meter + 1000)
        far = self.send("PUT", "/instruments", {"name": "Far", "host": "127.0.0.2", "port": 5998})["id"]
        with override_settings(INSTRUMENT_NETWORKS=["127.0.0.1/32"]):
            self.begin(422, beside=far)
        self.assertEqual(Trace.objects.count(), 0)

    def test_who_does_not_answer_is_asked_again_and_given_up_after_ten_times(self) -> None:
        self.begin()
        self.standing.unit.fault = "garbage"
        log = self.point()
        self.assertEqual((log.misses, log.ended), (1, ""))
        self.assertIn("no text", self.row()["problem"])
        self.standing.unit.fault = "none"
        self.assertEqual(self.point().misses, 0)
        RunDownLog.objects.update(misses=logs.MOST_MISSES - 2)
        self.standing.unit.fault = "garbage"
        self.assertIsNotNone(self.point().due)
        log = self.point()
        self.assertEqual((log.due, log.ended), (None, "silent"))

    def test_no_voltage_is_no_point_and_ends_it_after_two(self) -> None:
        self.begin()
        self.assertIsNotNone(self.point(logs.NOTHING * self.until_v * 1.01).due)
        self.assertEqual(Trace.objects.get().samples, 2)
        log = self.point(logs.NOTHING * self.until_v * 0.99)
        self.assertEqual((Trace.objects.get().samples, log.ended), (2, ""))
        self.assertIsNotNone(self.point(3.8).due)  # the lead was put back
        self.point(0.0)
        self.assertEqual((self.point(0.0).ended, Trace.objects.get().samples), ("nothing", 3))
        self.standing.unit.cell_v = logs.NOTHING * self.until_v * 0.99
        self.assertIn("no battery", self.begin()["problem"])

    def test_it_ends_after_sixty_days(self) -> None:
        self.begin()
        for more, ended in ((-timedelta(minutes=5), ""), (timedelta(minutes=5), "long")):
            RunDownLog.objects.update(began=timezone.now() - logs.LONGEST - more)
            self.assertEqual(self.point().ended, ended)

    def test_the_next_point_is_handed_out_before_this_one_is_read(self) -> None:
        self.begin()
        tickets = DBTaskResult.objects.filter(task_path="jobs.tasks.log_point")
        before = tickets.count()
        with patch.object(logs, "told_by", side_effect=MemoryError), self.assertRaises(MemoryError):
            RunDownLog.objects.update(due=timezone.now())
            with self.captureOnCommitCallbacks(execute=True):
                logs.add_next_point(RunDownLog.objects.get().pk)
        self.assertEqual(tickets.count(), before + 1)

    def test_this_server_logs_so_many_and_no_more(self) -> None:
        self.begin()
        with patch.object(logs, "MOST_OF_ALL", 2):
            self.assertEqual(self.begin()["state"], "done")
            self.assertIn("as many", self.begin()["problem"])

    def test_while_somebody_measures_a_point_is_left_out(self) -> None:
        self.begin()
        Job.objects.create(owner=self.bo, kind="measure", state="running", asked={"instrument": self.meter})
        log = self.point()
        self.assertEqual((log.misses, Trace.objects.get().samples), (0, 1))
        self.assertIsNotNone(log.due)

    def test_it_is_stopped_and_goes_with_its_instrument_and_its_recording(self) -> None:
        trace = self.begin()["measured"]["trace"]
        (row,) = self.send("POST", f"/variants/{self.variant}/traces/{trace}/stop")
        self.assertEqual((row["due"], row["ended"]), (None, "stopped"))
        self.assertEqual(self.point().trace.samples, 1)
        RunDownLog.objects.update(due=timezone.now(), ended="")
        self.send("DELETE", f"/instruments/{self.meter}", status=204)
        self.assertEqual(self.point().ended, "gone")
        self.send("DELETE", f"/variants/{self.variant}/traces/{trace}", status=204)
        self.assertEqual(self.send("GET", f"/variants/{self.variant}/logs"), [])

    def test_who_may_no_longer_change_the_gadget_logs_no_more(self) -> None:
        self.begin()
        RunDownLog.objects.update(owner=self.bo)
        member = Member.objects.create(project_id=self.gadget["id"], user=self.bo, role="edit")
        self.assertIsNotNone(self.point().due)
        member.delete()
        self.assertEqual(self.point().ended, "gone")

    def test_a_point_whose_worker_was_killed_is_handed_out_again(self) -> None:
        self.begin()
        DBTaskResult.objects.all().delete()
        for late, handed in ((logs.LOST_AFTER - timedelta(seconds=5), 0), (logs.LOST_AFTER + timedelta(seconds=5), 1)):
            RunDownLog.objects.update(due=timezone.now() - late)
            with self.captureOnCommitCallbacks(execute=True):
                self.row()
            self.assertEqual(DBTaskResult.objects.filter(task_path="jobs.tasks.log_point").count(), handed)

    def test_its_limits(self) -> None:
        for wrong in (29.9, 3601, -1, 1e9):
            self.assertTrue(self.begin(422, every_s=wrong)["errors"][0]["path"].endswith("/every_s"))
        self.assertEqual(self.begin(every_s=30)["state"], "done")
        self.send("POST", f"/variants/{self.variant}/traces/{Trace.objects.get().pk}/stop")
        refused = self.begin(422, volts=3.7, limit_a=0.1)
        self.assertEqual(refused["errors"][0]["path"], "/volts")
        for _ in range(logs.MOST_LOGS):
            self.assertEqual(self.begin(every_s=3600)["state"], "done")
        found = self.begin()
        self.assertIn("at once", found["problem"])
        self.assertEqual(Trace.objects.count(), 1 + logs.MOST_LOGS)

    def test_who_does_not_answer_at_first_begins_nothing(self) -> None:
        self.standing.unit.fault = "garbage"
        self.assertIn("no text", self.begin()["problem"])
        self.assertEqual((Trace.objects.count(), RunDownLog.objects.count()), (0, 0))

    def test_what_is_kept_is_thinned(self) -> None:
        course = Course.begun(4.0)
        for k in range(1, 4001):
            course = course.with_point(60.0 * k, 4.0 - k * 1e-4)
        self.assertEqual((course.time_s.size, course.time_s[-1], course.time_s[1]), (2001, 240_000.0, 120.0))
