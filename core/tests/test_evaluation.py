"""The evaluation as a whole: every figure explained, energy adding up, savings that hold, a range that holds."""

from __future__ import annotations

import io
import json
import tempfile
import unittest
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from typing import Any
from unittest.mock import patch

import numpy as np

from ember_core import __main__ as command
from ember_core import evaluate, read_design
from ember_core.catalogue import built_in
from ember_core.figures import as_json
from ember_core.runtime.run import run
from ember_core.runtime.uncertainty import sample_runtime

from .gadgets import asleep, design, part, state, use

DEMO = sorted((Path(__file__).resolve().parents[2] / "demo").glob("*.json"))


def figures(node: Any) -> list[dict[str, Any]]:
    """Every figure in a dumped evaluation."""
    if isinstance(node, list):
        return [f for item in node for f in figures(item)]
    if not isinstance(node, dict):
        return []
    own = [node] if "working" in node else []
    return own + [f for value in node.values() for f in figures(value)]


class Demos(unittest.TestCase):
    def test_every_figure_carries_its_working(self) -> None:
        for path in DEMO:
            found = figures(json.loads(as_json(evaluate(read_design(path.read_bytes())))))
            self.assertGreater(len(found), 60)
            for f in found:
                self.assertTrue(f["label"] and f["working"]["formula"], f)
                if f["low"] is not None and f["value"] is not None:
                    self.assertLessEqual(f["low"], f["value"] * (1 + 1e-9) + 1e-15, f["label"])
                    self.assertGreaterEqual(f["high"], f["value"] * (1 - 1e-9), f["label"])

    def test_energy_shares_add_up_and_equal_what_leaves_the_battery(self) -> None:
        for path in DEMO:
            gadget = read_design(path.read_bytes())
            energy = evaluate(gadget).supply.energy
            self.assertAlmostEqual(sum(e.share for e in energy), 1.0, places=9)
            result = run(gadget)
            middle = result.middle
            drawn = float(result.point_weights @ result.typical.source_a[:, middle]) + result.pack.self_discharge_a
            total = drawn * float(result.pack.open_circuit_v[middle])
            self.assertAlmostEqual(sum(e.power.value or 0 for e in energy) / total, 1.0, places=6)

    def test_losses_lead_from_the_printed_capacity_to_the_usable_one(self) -> None:
        for path in DEMO:
            steps = evaluate(read_design(path.read_bytes())).battery.steps
            lost = sum(s.charge.value or 0 for s in steps if s.lost)
            printed = steps[0].charge.value or 0
            self.assertAlmostEqual(printed - lost, steps[-1].charge.value or 0, delta=0.001 * printed)

    def test_dusk_ear_tells_its_story(self) -> None:
        path = next(p for p in DEMO if p.name == "dusk-ear.json")
        codes = {f.code for f in evaluate(read_design(path.read_bytes())).findings}
        self.assertLessEqual({"indicator-led", "dropout", "charge-current"}, codes)


class Range(unittest.TestCase):
    def test_the_headline_is_the_median_of_the_samples_that_give_its_range(self) -> None:
        for path in DEMO:
            with self.subTest(path.name):
                gadget = read_design(path.read_bytes())
                samples = sample_runtime(run(gadget))
                total = evaluate(gadget).runtime.total
                told = np.array([total.low, total.value, total.high], dtype=float)
                corrected = np.array([samples.low, samples.median, samples.high]) / 3600
                np.testing.assert_allclose(told, corrected, rtol=1e-12)
                np.testing.assert_allclose(told, np.percentile(samples.seconds / 3600, [10, 50, 90]), rtol=0.06)

    def test_the_widest_input_owns_the_range(self) -> None:
        chips = [part("sure", state("on", 0.02, 0.0199, 0.0201)), part("vague", state("on", 0.02, 0.005, 0.06))]
        gadget = design(parts=chips, modes=asleep(use("sure", "on"), use("vague", "on")), day={"rest": "asleep"})
        first = evaluate(gadget).runtime.influences[0]
        self.assertEqual(first.part, "vague")
        self.assertGreater(first.share, 0.85)


class BuiltInCatalogue(unittest.TestCase):
    def test_every_entry_is_of_one_kind_and_named_once(self) -> None:
        entries = built_in().entries
        self.assertEqual(len({e.key for e in entries}), len(entries))
        self.assertEqual(len({(e.kind, e.name) for e in entries}), len(entries))
        self.assertGreaterEqual(len(built_in().cells), 12)


class CommandLine(unittest.TestCase):
    def call(self, *arguments: str) -> tuple[int, str, str]:
        out, err = io.StringIO(), io.StringIO()
        with patch("sys.argv", ["ember", *arguments]), redirect_stdout(out), redirect_stderr(err):
            code = command.main()
        return code, out.getvalue(), err.getvalue()

    def test_summary_and_json(self) -> None:
        code, text, _ = self.call(str(DEMO[0]))
        self.assertEqual(code, 0)
        self.assertIn("Dusk Ear", text)
        self.assertIn("charge-current", text)
        code, text, _ = self.call(str(DEMO[0]), "--json")
        self.assertEqual(json.loads(text)["format"], "frugal-ember/3")

    def test_errors_name_the_place(self) -> None:
        self.assertEqual(self.call("/nowhere.json")[0], 2)
        with tempfile.NamedTemporaryFile("w", suffix=".json") as file:
            file.write('{"format": "frugal-ember/7"}')
            file.flush()
            code, _, err = self.call(file.name)
        self.assertEqual(code, 1)
        self.assertIn("/format", err)
