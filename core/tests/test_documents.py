"""Documents and edits of them, drawn by Hypothesis: whatever is accepted keeps its word."""

from __future__ import annotations

import copy
import json
import unittest
from pathlib import Path
from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from ember_core import Design, DocumentError, build_design
from ember_core.design.merging import merge
from ember_core.design.upgrades import upgraded

DEMOS = [json.loads(file.read_text()) for file in sorted((Path(__file__).resolve().parents[2] / "demo").glob("*.json"))]
USUAL = settings(
    max_examples=60,
    deadline=None,
    derandomize=True,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large],
)
ODD: st.SearchStrategy[Any] = st.one_of(
    st.none(), st.booleans(), st.integers(-10, 10**9), st.floats(allow_nan=True, allow_infinity=True), st.text(max_size=20),
    st.just([]), st.just({}), st.just("battery"), st.sampled_from(["led", "pass", "power-or", "frugal-ember/1", "on", "main"]),
)  # fmt: skip


def places(node: Any, path: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """Every place in a document that has a value of its own."""
    items = node.items() if isinstance(node, dict) else enumerate(node) if isinstance(node, list) else []
    return [found for key, inner in items for found in [(*path, key), *places(inner, (*path, key))]]


def set_at(document: Any, path: tuple[Any, ...], value: Any) -> None:
    for key in path[:-1]:
        document = document[key]
    document[path[-1]] = value


@st.composite
def distorted(draw: st.DrawFn) -> Any:
    """A demo with one to four odd values somewhere."""
    document = copy.deepcopy(draw(st.sampled_from(DEMOS)))
    for _ in range(draw(st.integers(1, 4))):
        there = places(document)
        set_at(document, draw(st.sampled_from(there)), draw(ODD))
    return document


def numbers(document: Any) -> list[tuple[Any, ...]]:
    def value(path: tuple[Any, ...]) -> Any:
        here = document
        for key in path:
            here = here[key]
        return here

    return [p for p in places(document) if isinstance(value(p), float)]


class Documents(unittest.TestCase):
    @USUAL
    @given(distorted())
    def test_what_is_refused_says_where_and_what_is_accepted_comes_back_the_same(self, document: Any) -> None:
        before = json.dumps(document)
        try:
            made = build_design(document)
        except DocumentError as error:
            self.assertTrue(error.problems)
            for problem in error.problems:
                self.assertTrue(problem.message)
                self.assertTrue(problem.path == "" or problem.path.startswith("/"))
            return
        finally:
            self.assertEqual(json.dumps(document), before)  # reading changes nothing
        self.assertEqual(build_design(json.loads(made.model_dump_json())), made)

    @USUAL
    @given(distorted(), st.sampled_from(["frugal-ember/1", "frugal-ember/2", "frugal-ember/3"]))
    def test_the_upgrade_is_done_once(self, document: Any, version: str) -> None:
        once = upgraded(document | {"format": version})
        self.assertEqual(json.dumps(upgraded(once)), json.dumps(once))


class Edits(unittest.TestCase):
    def changed(self, base: Any, path: tuple[Any, ...], factor: float) -> Design | None:
        document = copy.deepcopy(base)
        here = document
        for key in path[:-1]:
            here = here[key]
        here[path[-1]] *= factor
        try:
            return build_design(document)
        except DocumentError:
            return None

    @USUAL
    @given(st.data())
    def test_two_edits_of_different_places_are_both_there_after_a_merge(self, data: st.DataObject) -> None:
        base = data.draw(st.sampled_from(DEMOS))
        # not within one list without names: there a place is no place of its own
        free = [p for p in numbers(base) if not isinstance(p[-1], int)]
        first, second = data.draw(st.sampled_from(free)), data.draw(st.sampled_from(free))
        mine, theirs = self.changed(base, first, 1.001), self.changed(base, second, 1.002)
        if first == second or mine is None or theirs is None:
            return
        both = copy.deepcopy(base)
        for path, factor in ((first, 1.001), (second, 1.002)):
            here = both
            for key in path[:-1]:
                here = here[key]
            here[path[-1]] *= factor
        try:
            expected = build_design(both)
        except DocumentError:
            return
        merged = merge(build_design(base), mine, theirs)
        self.assertEqual(merged.conflicts, [])
        self.assertEqual(merged.mine_first, expected)
        self.assertEqual(merged.theirs_first, expected)

    @USUAL
    @given(st.data())
    def test_one_edit_of_one_place_is_told_or_taken(self, data: st.DataObject) -> None:
        base = data.draw(st.sampled_from(DEMOS))
        path = data.draw(st.sampled_from([p for p in numbers(base) if not isinstance(p[-1], int)]))
        whole, mine, theirs = build_design(base), self.changed(base, path, 1.001), self.changed(base, path, 1.002)
        if mine is None or theirs is None or whole in (mine, theirs):
            return
        merged = merge(whole, mine, theirs)
        self.assertEqual(len(merged.conflicts), 1)
        self.assertEqual((merged.mine_first, merged.theirs_first), (mine, theirs))
        self.assertEqual(merge(whole, whole, theirs).mine_first, theirs)
        self.assertEqual(merge(whole, mine, whole).theirs_first, mine)
