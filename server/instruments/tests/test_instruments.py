"""Instruments against the stand-in: identified, read, traced; every way in which one can misbehave is told in words, and its output is off afterwards."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
from threading import Thread
from typing import Any

import numpy as np
from django.conf import settings
from django.test import override_settings
from standins.gadget import BenchGadget
from standins.hislip import HislipServer
from standins.instrument import Fault, InstrumentServer, Unit, answered, block

from catalogue.services import load_built_in
from ember_core import build_design
from ember_core.battery.chemistry import highest_v
from ember_core.catalogue import built_in
from ember_core.measures.bench import TrialBench
from instruments.driver import LEAST_DRAWN
from instruments.services import MOST_INSTRUMENTS
from jobs.models import Job
from jobs.tasks import run_job
from projects.models import Trace
from projects.tests.helpers import ApiTestCase, document
from projects.traces import reduced_of

LOOPBACK = {"INSTRUMENT_NETWORKS": ["127.0.0.0/8"]}
DESIGN = build_design(document())
BENCH = TrialBench(DESIGN, built_in())
GADGET = BenchGadget.of(BENCH)


class Standing:
    """A stand-in that serves meanwhile."""

    def __init__(
        self, fault: Fault = "none", speed: float = 1.0, by: type[InstrumentServer | HislipServer] = InstrumentServer
    ) -> None:
        self.unit = Unit(GADGET, fault, speed)
        self.server = by(self.unit)

    def __enter__(self) -> Standing:
        Thread(target=self.server.serve_forever, args=(0.05,), daemon=True).start()
        return self

    def __exit__(self, *_: object) -> None:
        self.server.shutdown()
        self.server.server_close()

    def off_within(self, seconds: float) -> bool:
        end = time.monotonic() + seconds
        while self.unit.on and time.monotonic() < end:
            time.sleep(0.05)
        return not self.unit.on


def spec(port: int, **more: Any) -> str:
    return json.dumps({"host": "127.0.0.1", "port": port, "link": "socket", "action": "trace", "volts": 3.9, "limit_a": 0.5,
        "range_a": 1.0, "rate_hz": 1000.0, "seconds": 0.5} | more)  # fmt: skip


def driven(text: str) -> subprocess.Popen[bytes]:
    env = os.environ | {"PYTHONPATH": str(settings.ROOT / "core")}
    command = [sys.executable, "-m", "instruments.driver", text]
    return subprocess.Popen(command, cwd=settings.ROOT / "server", env=env, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL)  # fmt: skip


def told_by(text: str) -> dict[str, Any]:
    out, _ = driven(text).communicate(timeout=60)
    found: dict[str, Any] = json.loads(out.partition(b"\n")[0])
    return found


class StandIn(ApiTestCase):
    def test_it_speaks_its_commands_in_long_and_in_short(self) -> None:
        unit = Unit(GADGET)
        self.assertIn(b"STAND-IN", answered(unit, "*idn?") or b"")
        for line in ("SOUR:VOLT 3.7", "source:current:limit 0.2", "OUTP ON"):
            self.assertIsNone(answered(unit, line))
        self.assertEqual((unit.volts, unit.limit_a, unit.on), (3.7, 0.2, True))
        self.assertAlmostEqual(float(answered(unit, "MEAS:VOLT?") or 0), 3.7, delta=0.1)
        for wrong in ("HELLO", "SOUR:VOLT 99", "SAMP:COUN x", "SENS:CURR:RANG nan"):
            answered(unit, wrong)
            self.assertNotIn(b"No error", answered(unit, "SYST:ERR?") or b"")
            self.assertIn(b"No error", answered(unit, "SYST:ERR?") or b"")

    def test_its_samples_are_the_gadget_s(self) -> None:
        unit = Unit(GADGET, speed=1000.0, volts=3.9, on=True, count=2000, limit_a=5)
        unit.begin()
        time.sleep(0.05)
        found = np.concatenate([block(unit.read(1000)), block(unit.read(1000))])
        self.assertEqual(found.size, 2000)
        expected = GADGET.drawn_a(unit.first_s, 2000, 1e-3, 3.9)
        np.testing.assert_allclose(found, expected, rtol=0.02)
        unit.volts = GADGET.dead_v - 0.01
        self.assertEqual(float(unit.seen_a(0, 10).max()), 0.0)
        unit.volts = GADGET.dead_v + 0.01
        self.assertGreater(float(unit.seen_a(0, 10).max()), 0.0)


class Driver(ApiTestCase):
    def test_identified_read_and_traced_with_its_output_off_afterwards(self) -> None:
        with Standing(speed=50.0) as bench:
            port = bench.server.port
            self.assertIn("STAND-IN", told_by(spec(port, action="identify"))["identity"])
            read = told_by(spec(port, action="read"))
            self.assertTrue(0 < read["value"] < 0.2)
            self.assertFalse(bench.unit.on)
            told = told_by(spec(port, seconds=4.0))
            self.assertEqual((told["samples"], round(told["seconds"], 6)), (4000, 4.0))
            self.assertFalse(bench.unit.on)

    def test_every_misbehaviour_is_told_and_the_output_is_off(self) -> None:
        for fault, said in (("silent", "does not answer"), ("garbage", "no text"), ("stops", "stopped in the middle"), ("errors", "reports an error")):  # fmt: skip
            with self.subTest(fault), Standing(fault, speed=50.0) as bench:  # type: ignore[arg-type]
                self.assertIn(said, told_by(spec(bench.server.port, seconds=4.0))["problem"])
                self.assertFalse(bench.unit.on)
        with Standing() as gone:
            port = gone.server.port
        self.assertIn("nothing answers", told_by(spec(port))["problem"])

    def test_samples_that_are_none_are_left_out_and_counted(self) -> None:
        with Standing("drops", speed=50.0) as bench:
            told = told_by(spec(bench.server.port, seconds=4.0))
            self.assertTrue(3600 < told["samples"] < 3950)

    def test_the_same_by_hislip(self) -> None:
        with Standing(speed=50.0, by=HislipServer) as bench:
            port = bench.server.port
            self.assertIn("STAND-IN", told_by(spec(port, link="hislip", action="identify"))["identity"])
            told = told_by(spec(port, link="hislip", seconds=4.0))
            self.assertEqual((told["samples"], round(told["seconds"], 6)), (4000, 4.0))
            self.assertFalse(bench.unit.on)
        with Standing("silent", by=HislipServer) as bench:
            self.assertIn("does not answer", told_by(spec(bench.server.port, link="hislip"))["problem"])
        self.assertIn("nothing answers", told_by(spec(port, link="hislip"))["problem"])

    def test_a_step_of_a_load_at_a_cell_and_a_thermometer(self) -> None:
        step = {"action": "step", "volts": None, "limit_a": None, "load_a": 0.5, "floor_v": 3.0, "seconds": 1.0}
        with Standing() as bench:
            told = told_by(spec(bench.server.port, **step))
            self.assertAlmostEqual(told["rest_v"] - told["loaded_v"], 0.5 * bench.unit.cell_ohm, delta=1e-3)
            self.assertAlmostEqual(told["drawn_a"], 0.5, delta=0.01)
            self.assertFalse(bench.unit.loads)
            warm = told_by(spec(bench.server.port, action="read", what="temperature", volts=None, limit_a=None))
            self.assertAlmostEqual(warm["value"], bench.unit.air_c, delta=0.5)
            for floor, said in ((3.87, "falls to"), (3.91, "charge it first")):  # 3.9 V at rest, 3.86 V under the load
                self.assertIn(said, told_by(spec(bench.server.port, **step | {"floor_v": floor}))["problem"])
                self.assertFalse(bench.unit.loads)
            self.assertIn("rest_v", told_by(spec(bench.server.port, **step | {"floor_v": 3.855})))
            self.assertIn("more than one", told_by(spec(bench.server.port, **step | {"most_v": 3.899}))["problem"])
            self.assertIn("rest_v", told_by(spec(bench.server.port, **step | {"most_v": 3.901, "seconds": 0.1})))

    def test_a_load_that_draws_far_less_than_it_was_set_to_is_told(self) -> None:
        step = {"action": "step", "volts": None, "limit_a": None, "load_a": 0.5, "floor_v": 3.0, "seconds": 0.1}
        for share, there in ((LEAST_DRAWN * 0.97, False), (LEAST_DRAWN * 1.03, True)):
            with Standing() as bench:
                bench.unit.draws = share
                self.assertEqual("drawn_a" in told_by(spec(bench.server.port, **step)), there)
                self.assertFalse(bench.unit.loads)

    def test_a_load_goes_off_whoever_is_killed(self) -> None:
        step = {"action": "step", "volts": None, "limit_a": None, "load_a": 0.5, "floor_v": 3.0, "seconds": 60.0}
        for victim in ("watcher", "measuring"):
            with self.subTest(victim), Standing() as bench:
                process = driven(spec(bench.server.port, **step))
                end = time.monotonic() + 20
                while not bench.unit.loads and time.monotonic() < end:
                    time.sleep(0.05)
                self.assertTrue(bench.unit.loads)
                children = subprocess.run(["pgrep", "-P", str(process.pid)], capture_output=True, text=True, check=True).stdout.split()  # fmt: skip
                if victim == "watcher":
                    process.kill()
                else:
                    os.kill(int(children[0]), signal.SIGKILL)
                end = time.monotonic() + 15
                while bench.unit.loads and time.monotonic() < end:
                    time.sleep(0.05)
                self.assertFalse(bench.unit.loads, victim)
                process.communicate(timeout=30)

    def test_whoever_is_killed_the_output_goes_off(self) -> None:
        for victim in ("watcher", "measuring", "asked to end"):
            with self.subTest(victim), Standing() as bench:
                process = driven(spec(bench.server.port, seconds=60.0))
                end = time.monotonic() + 20
                while not (bench.unit.on and bench.unit.began) and time.monotonic() < end:
                    time.sleep(0.05)
                self.assertTrue(bench.unit.on)
                children = subprocess.run(
                    ["pgrep", "-P", str(process.pid)], capture_output=True, text=True, check=True
                ).stdout.split()
                if victim == "watcher":
                    process.kill()
                elif victim == "measuring":
                    os.kill(int(children[0]), signal.SIGKILL)
                else:
                    process.terminate()
                self.assertTrue(bench.off_within(15), victim)
                process.communicate(timeout=30)


@override_settings(**LOOPBACK)
class Measuring(ApiTestCase):
    def setUp(self) -> None:
        super().setUp()
        load_built_in()
        self.gadget = self.upload("/projects/from-document", json.dumps(document()).encode())
        self.variant = self.gadget["variants"][0]["id"]

    def kept(self, port: int, **more: Any) -> int:
        body = {"name": "Bench unit", "host": "127.0.0.1", "port": port} | more
        return int(self.send("PUT", "/instruments", body)["id"])

    def ask(self, instrument: int, action: str, status: int = 200, **more: Any) -> Any:
        body = {"instrument": instrument, "variant": self.variant, "action": action} | more
        with self.captureOnCommitCallbacks(execute=True):
            job = self.send("POST", "/jobs/measure", body, status)
        if status != 200:
            return job
        run_job.func()
        return self.send("GET", f"/jobs/{job['id']}")

    def test_from_its_name_to_a_recording_of_the_variant(self) -> None:
        with Standing(speed=50.0) as bench:
            own = self.kept(bench.server.port)
            found = self.ask(own, "identify")
            self.assertIn("STAND-IN", found["measured"]["identity"])
            self.assertIn("STAND-IN", self.send("GET", "/instruments")["instruments"][0]["identity"])
            self.assertEqual(
                self.ask(own, "read", what="voltage", volts=3.9, limit_a=0.05)["measured"]["value"] > 3, True
            )
            found = self.ask(own, "trace", seconds=4, volts=3.9, limit_a=0.05, name="On the bench")
            trace = Trace.objects.get(pk=found["measured"]["trace"])
            self.assertEqual((trace.name, trace.samples, trace.variant_id), ("On the bench", 4000, self.variant))
            mean = reduced_of(trace.pk).between(0, 4, 3.9).mean_a
            self.assertTrue(0 < mean < 0.1)
            self.assertFalse(bench.unit.on)

    def test_what_the_design_does_not_allow_is_not_supplied(self) -> None:
        own = self.kept(5025)
        may = self.send("POST", "/answers/supply-limits", document())
        for volts, limit, field in (
            (may["high_v"] * 1.001, may["most_a"], "/volts"),
            (may["low_v"] * 0.999, may["most_a"], "/volts"),
            (may["usual_v"], may["most_a"] * 1.001, "/limit_a"),
        ):
            refused = self.ask(own, "read", 422, volts=volts, limit_a=limit)
            self.assertEqual(refused["errors"][0]["path"], field)
        self.ask(own, "read", 422, volts=3.7)
        self.ask(own, "trace", 422, seconds=3600, rate_hz=100_000)
        with Standing(speed=50.0) as bench:
            own = self.kept(bench.server.port)
            for volts in (may["low_v"], may["high_v"]):
                self.assertEqual(self.ask(own, "read", volts=volts, limit_a=may["most_a"])["state"], "done")

    def test_a_step_is_within_what_one_cell_gives(self) -> None:
        cell = document()["battery"]["cell"]
        most = cell["discharge_max_a"]
        cell_full = highest_v(DESIGN.battery.cell)
        assert cell_full is not None
        with Standing() as bench:
            own = self.kept(bench.server.port)
            found = self.ask(own, "step", load_a=most, seconds=0.5)["measured"]
            self.assertGreater(found["rest_v"], found["loaded_v"])
            self.assertFalse(bench.unit.loads)
            for wrong, field in (
                ({"load_a": most * 1.001}, "/load_a"),
                ({}, "/load_a"),
                ({"load_a": most, "seconds": 61}, "/seconds"),
                ({"load_a": most, "volts": 3.7, "limit_a": 0.1}, "/load_a"),
            ):
                self.assertEqual(self.ask(own, "step", 422, **wrong)["errors"][0]["path"], field)
            self.assertEqual(self.ask(own, "read", 422, load_a=most)["errors"][0]["path"], "/load_a")
            bench.unit.cell_v = 2 * cell_full
            self.assertIn("more than one such cell", self.ask(own, "step", load_a=most, seconds=0.5)["problem"])
        with self.captureOnCommitCallbacks():  # asked for, and not done
            self.send(
                "POST",
                "/jobs/measure",
                {"instrument": own, "variant": self.variant, "action": "step", "load_a": most, "seconds": 60},
            )

    def test_only_where_the_operator_allows(self) -> None:
        own = self.kept(5025)
        for host in ("10.0.0.7", "192.168.0.9", "8.8.8.8", "::1", "nobody.invalid"):
            refused = self.send("PUT", "/instruments", {"name": "x", "host": host}, 422)
            self.assertEqual(refused["errors"][0]["path"], "/host")
        with override_settings(INSTRUMENT_NETWORKS=[]):
            self.assertEqual(self.send("GET", "/instruments")["networks"], [])
            self.ask(own, "read", 422)
            self.send("PUT", "/instruments", {"name": "x", "host": "127.0.0.1"}, 422)
        for wrong in (
            {"port": 0},
            {"port": 70000},
            {"host": "a b"},
            {"host": "x;rm"},
            {"link": "serial"},
            {"name": ""},
        ):
            self.send("PUT", "/instruments", {"name": "x", "host": "127.0.0.1"} | wrong, 422)
        for k in range(MOST_INSTRUMENTS - 1):
            self.kept(5025, name=f"n{k}")
        self.send("PUT", "/instruments", {"name": "one more", "host": "127.0.0.1"}, 422)

    def test_two_jobs_on_one_instrument(self) -> None:
        own = self.kept(5025)
        Job.objects.create(owner=self.bo, kind="measure", state="running", asked={"instrument": own})
        self.assertIn("just now", self.ask(own, "read")["problem"])

    def test_what_was_interrupted_does_not_begin_again_by_itself(self) -> None:
        with Standing(speed=50.0) as bench:
            own = self.kept(bench.server.port)
            for tries, state in ((0, "done"), (1, "failed")):  # by this worker, and by one that is gone
                body = {"instrument": own, "variant": self.variant, "action": "read", "volts": 3.9, "limit_a": 0.05}
                with self.captureOnCommitCallbacks(execute=True):
                    job = self.send("POST", "/jobs/measure", body)
                Job.objects.filter(pk=job["id"]).update(tries=tries)
                run_job.func()
                self.assertEqual(self.send("GET", f"/jobs/{job['id']}")["state"], state)
                self.assertFalse(bench.unit.on)

    def test_an_instrument_that_is_not_there_is_told(self) -> None:
        with Standing() as gone:
            own = self.kept(gone.server.port)
        found = self.ask(own, "trace", seconds=1)
        self.assertEqual(found["state"], "failed")
        self.assertIn("nothing answers", found["problem"])

    def test_nobody_else_s(self) -> None:
        own = self.kept(5025)
        self.client.force_login(self.bo)
        self.ask(own, "read", 404)
        self.send("DELETE", f"/instruments/{own}", status=404)
        self.assertEqual(self.send("GET", "/instruments")["instruments"], [])
