"""Absurd but valid documents: whatever the fields allow, the evaluation answers, and answers in JSON."""

from __future__ import annotations

import json
import random
import unittest
import warnings
from pathlib import Path
from typing import Any

from ember_core import DocumentError, build_design, evaluate
from ember_core.catalogue import built_in
from ember_core.design.patches import apply
from ember_core.figures import as_json
from ember_core.measures.bench import TrialBench
from ember_core.studies import answer_remedies

DEMO = sorted((Path(__file__).resolve().parents[2] / "demo").glob("*.json"))
FACTORS = (0.0, 1e-300, 1e-30, 1e-12, 1e-6, 1e-3, 0.1, 0.5, 2.0, 10.0, 1e3, 1e6, -1.0)


def numbers(node: Any, path: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """The paths of all numbers in a document."""
    if isinstance(node, bool) or node is None:
        return []
    if isinstance(node, int | float):
        return [path]
    items = node.items() if isinstance(node, dict) else enumerate(node) if isinstance(node, list) else ()
    return [found for key, value in items for found in numbers(value, (*path, key))]


def changed(document: Any, path: tuple[Any, ...], factor: float) -> None:
    for key in path[:-1]:
        document = document[key]
    value = document[path[-1]]
    document[path[-1]] = int(value * factor) if isinstance(value, int) else value * factor


class Absurd(unittest.TestCase):
    def test_every_accepted_document_is_evaluated_without_nan_or_error(self) -> None:
        choose = random.Random(7)
        accepted = refused = 0
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            for _ in range(280):
                document = json.loads(choose.choice(DEMO).read_text())
                paths = numbers(document)
                for path in choose.sample(paths, choose.choice((1, 1, 2, 6))):
                    changed(document, path, choose.choice(FACTORS))
                try:
                    gadget = build_design(document)
                except DocumentError as error:
                    refused += 1
                    self.assertTrue(all(p.message for p in error.problems))
                    continue
                accepted += 1
                result = evaluate(gadget)
                json.loads(as_json(result), parse_constant=self.fail)
                if accepted % 8 == 0:
                    for answer in answer_remedies(TrialBench(gadget, built_in())):
                        apply(gadget, answer.remedy)
        self.assertGreater(accepted, 80)
        self.assertGreater(refused, 20)

    def test_a_gadget_that_draws_nothing_lasts_as_long_as_the_cell_keeps(self) -> None:
        document = json.loads(DEMO[0].read_text())
        for part in document["parts"]:
            for state in part["states"]:
                state["draw"] = {"behaviour": "current", "current_a": {"typical": 0}}
        for stage in document["supply"]["stages"]:
            stage.update({k: 0 for k in ("quiescent_a", "leakage_a") if k in stage})
        hours = evaluate(build_design(document)).runtime.total.value
        assert hours is not None
        self.assertTrue(20_000 < hours < 60_000, hours)
