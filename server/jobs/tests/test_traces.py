"""Recordings over the API: brought, a unit asked for, kept, drawn, held against a design, taken away; of nobody else's gadgets; bad files in words."""

from __future__ import annotations

import gzip
import json
from typing import Any
from unittest.mock import patch

from catalogue.services import load_built_in
from ember_core.traces.assigned import MOST_ASSIGNED
from ember_core.traces.reduced import MOST_BUCKETS
from jobs.tasks import run_job
from operations.backup import _rows
from projects import traces
from projects.models import Trace, TracePiece, Variant
from projects.tests.helpers import ApiTestCase, document
from projects.traces import MOST_TRACES

from .test_jobs import bring


def recording(head: str = "time [s],current [mA]", count: int = 3000) -> bytes:
    return "\n".join([head, *(f"{k * 0.01:.2f},{1 + 20 * (k // 500 % 2)}" for k in range(count))]).encode()


class Traces(ApiTestCase):
    def setUp(self) -> None:
        super().setUp()
        load_built_in()
        self.gadget = self.upload("/projects/from-document", json.dumps(document()).encode())
        self.variant = self.gadget["variants"][0]["id"]
        self.base = f"/variants/{self.variant}/traces"

    def read(self, content: bytes, *, status: int = 200, **more: Any) -> Any:
        body = {"digest": bring(self.ada, content, "walk.csv"), "variant": self.variant} | more
        with self.captureOnCommitCallbacks(execute=True):
            job = self.send("POST", "/jobs/trace", body, status)
        if status != 200:
            return job
        run_job.func()
        return self.send("GET", f"/jobs/{job['id']}")

    def brought(self, body: dict[str, Any]) -> int:
        with self.captureOnCommitCallbacks(execute=True):
            job = self.send("POST", "/jobs/trace", body)
        run_job.func()
        return int(self.send("GET", f"/jobs/{job['id']}")["trace"]["trace"])

    def test_it_is_read_kept_drawn_judged_and_taken_away(self) -> None:
        trace = self.read(gzip.compress(recording()))["trace"]["trace"]
        (row,) = self.send("GET", self.base)
        self.assertEqual((row["id"], row["name"], row["samples"], row["author"]), (trace, "walk.csv", 3000, "ada"))
        self.assertAlmostEqual(row["seconds"], 30)
        self.assertFalse(self.ada.holdings.exists())  # the file is not needed any more
        seen = self.send("GET", f"{self.base}/{trace}/picture?begin_s=1&end_s=2&points=50")
        self.assertEqual((seen["time_s"][0], len(seen["time_s"])), (1.0, 50))
        self.assertAlmostEqual(max(seen["most_a"]), 1e-3, places=8)
        answer = self.send("POST", f"{self.base}/{trace}/judged", document())
        self.assertEqual((answer["samples"], sum(m["share"] for m in answer["modes"]) > 0.999), (3000, True))
        self.send("DELETE", f"{self.base}/{trace}", status=204)
        self.assertEqual(self.send("GET", self.base), [])
        self.send("GET", f"{self.base}/{trace}/picture", status=404)

    def test_of_a_long_one_every_sample_is_seen_and_goes_with_it(self) -> None:
        """A peak of one sample in a hundred thousandth of the recording."""
        count = MOST_BUCKETS * 3 // 2
        rows = "\n".join(f"{k / 1000:.3f},{200 if k == 1501 else 1}" for k in range(count))
        job = {
            "digest": bring(self.ada, b"time [s],current [mA]\n" + rows.encode(), "long.csv"),
            "variant": self.variant,
        }
        trace = self.brought(job)
        self.assertFalse(self.send("GET", self.base)[0]["in_pieces"])
        self.assertTrue(TracePiece.objects.filter(trace=trace).exists())
        seen = self.send("GET", f"{self.base}/{trace}/picture?begin_s=1.5&end_s=1.503&points=50")
        self.assertEqual([round(a, 6) for a in seen["mean_a"][:3]], [1e-3, 0.2, 1e-3])
        piece = self.send("GET", f"{self.base}/{trace}/window?begin_s=1.501&end_s=1.502&volts=1")
        self.assertAlmostEqual(piece["charge_ah"] * 3600, 0.2e-3, places=8)
        lying = traces.reduced_of(trace).count_between(1.5, 1.503)
        for few, told in (
            (lying - 1, False),
            (lying, True),
        ):  # in so many buckets the samples are looked at, in more they are not
            with patch.object(traces, "FEW_BUCKETS", few):
                seen = self.send("GET", f"{self.base}/{trace}/picture?begin_s=1.5&end_s=1.503&points=50")
            self.assertEqual(max(seen["mean_a"]) > 0.15, told)
        whole = self.send("GET", f"{self.base}/{trace}/picture?points=50")
        self.assertAlmostEqual(max(whole["most_a"]), 0.2, places=6)
        labels = [label for label, _ in _rows()]
        self.assertIn("projects.tracepiece", labels)
        with patch.object(traces, "MOST_WHOLE", 10):  # no room: kept in pieces, and said
            again = self.brought(
                job | {"digest": bring(self.ada, b"time [s],current [mA]\n" + rows.encode() + b"\n", "l.csv")}
            )
        self.assertTrue(next(t for t in self.send("GET", self.base) if t["id"] == again)["in_pieces"])
        seen = self.send("GET", f"{self.base}/{again}/picture?begin_s=1.5&end_s=1.503&points=50")
        self.assertLess(max(seen["mean_a"]), 0.15)
        pieces = TracePiece.objects.filter(trace=trace)
        for damaged in (True, False):  # then gone
            if damaged:
                pieces.update(content=b"PAR1 and nothing")
            else:
                pieces.delete()
            seen = self.send("GET", f"{self.base}/{trace}/picture?begin_s=1.5&end_s=1.503&points=50")
            self.assertLess(max(seen["mean_a"]), 0.15)
        self.send("DELETE", f"{self.base}/{trace}", status=204)
        self.assertFalse(TracePiece.objects.exists())

    def test_a_piece_is_measured_named_and_taken_back(self) -> None:
        trace = self.read(recording())["trace"]["trace"]
        own = f"{self.base}/{trace}"
        answer = self.send("POST", f"{own}/judged", document())
        piece = self.send("GET", f"{own}/window?begin_s=4&end_s=6&volts={answer['volts']}")
        self.assertAlmostEqual(piece["charge_ah"] * 3600, 0.001 + 0.021, places=5)
        self.assertAlmostEqual(piece["energy_wh"], piece["charge_ah"] * answer["volts"])
        self.send("GET", f"{own}/window?begin_s=400&end_s=600&volts=3", status=422)
        self.send("GET", f"{own}/window?begin_s=4&end_s=6&volts=0", status=422)
        said = {"begin_s": 0, "end_s": 30, "mode": document()["modes"][0]["id"]}
        told = self.send("PUT", f"{own}/assigned", {"assigned": [said]})
        self.assertEqual(told["assigned"], [said])
        answer = self.send("POST", f"{own}/judged", document())
        self.assertEqual([(m["mode"], m["times"]) for m in answer["modes"]], [(0, 1)])
        self.assertEqual(self.send("PUT", f"{own}/assigned", {"assigned": []})["assigned"], [])
        for wrong in ({"begin_s": -1}, {"end_s": 1e12}, {"mode": "NO SLUG"}, {"colour": 1}):
            self.send("PUT", f"{own}/assigned", {"assigned": [said | wrong]}, status=422)
        self.send("PUT", f"{own}/assigned", {"assigned": [said] * (MOST_ASSIGNED + 1)}, status=422)
        self.assertEqual(self.send("GET", self.base)[0]["assigned"], [])

    def test_the_recording_is_the_load_of_the_runtime(self) -> None:
        trace = self.read(recording())["trace"]["trace"]
        found = self.send("POST", f"{self.base}/{trace}/replay", document())
        self.assertGreater(found["runtime"]["high"], found["runtime"]["low"])
        self.send("POST", f"{self.base}/{trace + 1}/replay", document(), status=404)

    def test_a_unit_is_asked_for_and_the_file_waits(self) -> None:
        content = recording("time [s],current")
        found = self.read(content)["trace"]
        self.assertEqual((found["trace"], found["asked"], "mA" in found["choices"]), (None, "current", True))
        trace = self.read(content, units={"current": "mA"})["trace"]["trace"]
        self.assertIsNotNone(trace)
        self.read(content, status=422, units={"colour": "red"})

    def test_bad_files_are_told_in_words_and_nothing_is_kept(self) -> None:
        for content in (b"hello", recording(count=5), b"\x1f\x8bgarbage", bytes(2000)):
            found = self.read(content)
            self.assertEqual((found["state"], found["trace"]), ("failed", None))
            self.assertTrue(found["problem"])
        self.assertEqual((Trace.objects.count(), self.ada.holdings.count()), (0, 0))

    def test_so_many_and_no_more(self) -> None:
        variant = Variant.objects.get(pk=self.variant)
        for _ in range(MOST_TRACES):
            Trace.objects.create(variant=variant, name="x", content=b"", samples=1, seconds=1)
        self.assertIn("take some away", self.read(recording())["problem"])

    def test_a_run_down_is_read_told_of_and_no_current(self) -> None:
        rows = "\n".join(f"{k},{4.15 - 0.004 * k:.3f}" for k in range(100))
        trace = self.read(b"time [min],voltage [V]\n" + rows.encode(), kind="rundown")["trace"]["trace"]
        self.assertEqual([(t["id"], t["kind"]) for t in self.send("GET", self.base)], [(trace, "rundown")])
        own = f"{self.base}/{trace}"
        told = self.send("POST", f"{own}/rundown", document())
        self.assertEqual((told["over"], len(told["volts"]), told["terms"]), (False, 100, []))
        self.assertAlmostEqual(told["elapsed"]["value"], 99 / 60)
        over = self.send("POST", f"{own}/rundown?over=true", document())
        self.assertEqual((over["over"], over["ends"]), (True, None))
        said = self.send("PUT", f"{own}/said", {"over": None, "at_c": -10})
        self.assertEqual((said["over"], said["at_c"]), (None, -10))
        said = self.send("PUT", f"{own}/said", {"over": False})  # the other stays
        self.assertEqual((said["over"], said["at_c"]), (False, -10))
        said = self.send("PUT", f"{own}/said", {"over": None})
        self.assertEqual((said["over"], said["at_c"]), (None, -10))
        self.assertEqual(self.send("PUT", f"{own}/said", {})["at_c"], -10)
        cold = self.send("POST", f"{own}/rundown", document())
        self.assertLess(cold["told"]["value"], told["told"]["value"])
        warm = self.send("POST", f"{own}/rundown?at_c={document()['brief']['usual_c']}", document())
        self.assertEqual(warm["told"]["value"], told["told"]["value"])
        for bad in (-61, 91, "warm"):
            self.send("PUT", f"{own}/said", {"over": True, "at_c": bad}, 422)
        self.send("POST", f"{own}/rundown?at_c=nan", document(), 422)
        self.send("PUT", f"{own}/said", {"over": None, "at_c": None})
        for wrong in (f"{own}/judged", f"{own}/replay"):
            self.send("POST", wrong, document(), 404)
        self.send("GET", f"{own}/picture", status=404)
        current = self.read(recording())["trace"]["trace"]
        self.send("POST", f"{self.base}/{current}/rundown", document(), 404)
        self.assertIn("voltage", self.read(recording(), kind="rundown")["problem"])
        self.read(recording(), status=422, kind="walk")

    def test_nobody_else_s(self) -> None:
        trace = self.read(recording())["trace"]["trace"]
        digest = bring(self.bo, recording(), "a.csv")
        self.client.force_login(self.bo)
        self.send("POST", "/jobs/trace", {"digest": digest, "variant": self.variant}, 404)
        self.send("GET", self.base, status=404)
        self.send("GET", f"{self.base}/{trace}/picture", status=404)
        self.send("POST", f"{self.base}/{trace}/judged", document(), 404)
        self.send("DELETE", f"{self.base}/{trace}", status=404)

    def test_wrong_windows(self) -> None:
        trace = self.read(recording())["trace"]["trace"]
        for wrong in ("begin_s=-1", "end_s=nan", "points=1", "points=1000000", "begin_s=inf"):
            self.send("GET", f"{self.base}/{trace}/picture?{wrong}", status=422)

    def test_it_is_in_the_backup(self) -> None:
        self.read(recording())
        rows = [json.loads(line) for label, line in _rows() if label == "projects.trace"]
        self.assertEqual([r["fields"]["name"] for r in rows], ["walk.csv"])
