"""Readings of prototypes over the API: kept, judged, taken away; of nobody else's gadgets; wrong ones at the field."""

from __future__ import annotations

import json
from typing import Any

from catalogue.services import load_built_in
from projects.models import Reading

from .helpers import ApiTestCase, document


class Readings(ApiTestCase):
    def setUp(self) -> None:
        super().setUp()
        load_built_in()
        self.gadget = self.upload("/projects/from-document", json.dumps(document()).encode())
        self.variant = self.gadget["variants"][0]["id"]
        self.base = f"/variants/{self.variant}"

    def sheet(self) -> Any:
        return self.send("POST", f"{self.base}/bringup", document())

    def test_a_reading_is_kept_judged_and_taken_away(self) -> None:
        step = next(s for s in self.sheet()["sheet"]["steps"] if s["group"] == "current" and s["expected"])
        right = f"{step['expected'] * 1e6:.5g} µA"
        row = self.send("POST", f"{self.base}/readings", {"step": step["key"], "text": right, "instrument": "meter"})
        self.assertEqual((row["judged"]["outcome"], row["author"], row["instrument"]), ("right", "ada", "meter"))
        high = self.send("POST", f"{self.base}/readings", {"step": step["key"], "text": f"{step['high'] * 2e6:.5g} µA"})
        self.assertEqual(high["judged"]["outcome"], "high")
        other = self.send("POST", f"{self.base}/readings", {"step": step["key"], "text": right, "prototype": 2})
        told = {(r["prototype"], r["step"]): r["judged"]["outcome"] for r in self.sheet()["readings"]}
        self.assertEqual(told, {(1, step["key"]): "high", (2, step["key"]): "right"})  # the latest of each
        self.send("DELETE", f"{self.base}/readings/{high['id']}", status=204)
        self.assertEqual({r["judged"]["outcome"] for r in self.sheet()["readings"]}, {"right"})
        self.send("DELETE", f"{self.base}/readings/{other['id']}", status=204)
        self.send("DELETE", f"{self.base}/readings/{other['id']}", status=404)

    def test_readings_of_one_prototype_together_as_wide_as_their_meter(self) -> None:
        steps = [s for s in self.sheet()["sheet"]["steps"] if s["group"] == "current" and s["expected"]]
        for s in steps:
            body = {
                "step": s["key"],
                "text": f"{s['expected'] * 1.2e6:.6g} µA",
                "accuracy": 0.01,
                "instrument": "bench meter",
            }
            row = self.send("POST", f"{self.base}/readings", body)
            self.assertEqual(row["accuracy"], 0.01)
        told = self.sheet()
        alone = [r for r in told["readings"] if r["judged"]["remedy"]]
        self.assertTrue(alone)
        sources = [
            op["value"] for r in alone for op in r["judged"]["remedy"]["patch"] if op["path"].endswith("/source")
        ]
        self.assertTrue(all(x.startswith("prototype 1, ") and x.endswith(", bench meter") for x in sources), sources)
        self.assertEqual([t["prototype"] for t in told["together"]], [1] if len(alone) > 1 else [])
        for accuracy in (-0.01, 0.51, "much"):
            body = {"step": steps[0]["key"], "text": "1 mA", "accuracy": accuracy}
            self.send("POST", f"{self.base}/readings", body, status=422)

    def test_a_voltage_below_nothing_is_turned_round_a_current_is_refused(self) -> None:
        for text in ("-3.9 V", "−3.9 V"):
            row = self.send("POST", f"{self.base}/readings", {"step": "cell-open", "text": text})
            self.assertEqual((row["value"], row["judged"]["outcome"]), (-3.9, "reversed"))

    def test_a_step_without_a_figure_is_ticked_off(self) -> None:
        row = self.send("POST", f"{self.base}/readings", {"step": "look"})
        self.assertEqual((row["value"], row["judged"]), (None, None))
        self.assertEqual([r["step"] for r in self.sheet()["readings"]], ["look"])

    def test_a_step_of_the_assembly_is_ticked_off(self) -> None:
        step = self.sheet()["assembly"]["steps"][0]["key"]
        row = self.send("POST", f"{self.base}/readings", {"step": step, "prototype": 2})
        self.assertEqual((row["value"], row["judged"], row["prototype"]), (None, None, 2))
        self.assertEqual([r["step"] for r in self.sheet()["readings"]], [step])
        self.send("POST", f"{self.base}/readings", {"step": "build-part:nothing"}, status=404)

    def test_what_cannot_be_is_refused_at_the_field_and_nothing_is_kept(self) -> None:
        step = next(s["key"] for s in self.sheet()["sheet"]["steps"] if s["group"] == "current" and s["expected"])
        for text in ("", None, "much", "-3 mA", "3 V", "nan", "1e9 A"):
            problem = self.send("POST", f"{self.base}/readings", {"step": step, "text": text}, status=422)
            self.assertTrue(problem["errors"] or problem["title"], text)
        self.send("POST", f"{self.base}/readings", {"step": "no-such-step", "text": "1 mA"}, status=404)
        self.send("POST", f"{self.base}/readings", {"step": step, "text": "1 mA", "prototype": 0}, status=422)
        self.assertEqual(Reading.objects.count(), 0)

    def test_nobody_elses(self) -> None:
        row = self.send("POST", f"{self.base}/readings", {"step": "look"})
        self.client.force_login(self.bo)
        self.send("POST", f"{self.base}/bringup", document(), status=404)
        self.send("POST", f"{self.base}/readings", {"step": "look"}, status=404)
        self.send("DELETE", f"{self.base}/readings/{row['id']}", status=404)
        self.assertEqual(Reading.objects.count(), 1)

    def test_a_step_that_is_gone_leaves_its_reading(self) -> None:
        Reading.objects.create(variant_id=self.variant, step="mode-gone", value=1.0)
        self.assertIsNone(self.sheet()["readings"][0]["judged"])
