"""Another part in a part's place: its states, its rail, its room, and that what is promised is what comes of it."""

from __future__ import annotations

import unittest
from pathlib import Path
from typing import Any

from ember_core import Design, DocumentError, build_design, evaluate, read_design
from ember_core.catalogue import built_in
from ember_core.design import Part
from ember_core.design.patches import apply, apply_patch
from ember_core.measures.bench import TrialBench
from ember_core.studies import answer_instead
from ember_core.studies.instead import MOST_BESIDE, MOST_JUDGED, in_its_place, matching_states

from .gadgets import design, part, state
from .randoms import random_design, sweep
from .test_stages import BOOST, LINEAR

DEMO = Path(__file__).resolve().parents[2] / "demo"
CATALOGUE = built_in()


def bench(gadget: Design) -> TrialBench:
    return TrialBench(gadget, CATALOGUE)


def demo(name: str) -> Design:
    return read_design((DEMO / f"{name}.json").read_bytes())


def made(document: dict[str, Any]) -> Part:
    return Part.model_validate(document)


def two_rails(**more: Any) -> Design:
    """A chip at 3.3 V and a display alone at 5 V behind a boost."""
    rails = [{"id": "main", "name": "Main", "feed": "reg"}, {"id": "five", "name": "Five", "feed": "boost"}]
    show = part(
        "show",
        state("dark", 0.001),
        state("lit", 0.02),
        rail="five",
        kind="display",
        supply_min_v=4.5,
        supply_absolute_max_v=6,
        **more,
    )
    chip = part("chip", state("sleep", 1e-5), state("active", 0.01))
    modes = [
        {
            "id": "asleep",
            "name": "Asleep",
            "uses": [{"part": "chip", "state": "sleep"}, {"part": "show", "state": "lit", "duty": 0.2, "rest": "dark"}],
        }
    ]
    return design(
        parts=[chip, show], modes=modes, day={"rest": "asleep"}, supply={"stages": [LINEAR, BOOST], "rails": rails}
    )


class States(unittest.TestCase):
    def test_same_names_then_calmest_and_busiest_then_those_between(self) -> None:
        old = made(part("a", state("off", 0.0), state("dim", 0.01), state("half", 0.02), state("full", 0.03)))
        new = made(part("b", state("quiet", 1e-6), state("DIM", 0.002), state("bright", 0.004), state("loud", 0.04)))
        self.assertEqual(matching_states(old, new), {"off": "quiet", "dim": "DIM", "half": "bright", "full": "loud"})

    def test_with_one_state_it_is_always_in_that(self) -> None:
        old = made(part("a", state("off", 0.0), state("on", 0.01)))
        self.assertEqual(set(matching_states(old, made(part("b", state("on", 0.02)))).values()), {"on"})


class Supply(unittest.TestCase):
    def put_in(self, other: Part, gadget: Design | None = None) -> Design:
        gadget = gadget or two_rails()
        patch, _ = in_its_place(bench(gadget), 1, other)
        return apply_patch(gadget, patch)

    def test_a_rail_that_nobody_needs_any_more_goes_with_its_converter(self) -> None:
        low = made(
            part(
                "low",
                state("dark", 1e-6),
                state("lit", 0.001),
                rail="x",
                kind="display",
                supply_min_v=2.4,
                supply_recommended_max_v=3.6,
            )
        )
        after = self.put_in(low)
        self.assertEqual(([r.id for r in after.supply.rails], [s.id for s in after.supply.stages]), (["main"], ["reg"]))
        self.assertEqual(after.parts[1].rail, "main")
        rows = answer_instead(bench(two_rails(alternatives=[low.model_dump(mode="json")])), 1).rows
        self.assertIn("goes", next(r for r in rows if r.beside).supplied)

    def test_what_suits_the_present_rail_stays_on_it(self) -> None:
        for most, stays in ((5.1, True), (4.9, False)):
            other = made(
                part(
                    "o",
                    state("dark", 0.0),
                    state("lit", 0.01),
                    kind="display",
                    supply_min_v=3.0,
                    supply_recommended_max_v=most,
                )
            )
            self.assertEqual(self.put_in(other).parts[1].rail == "five", stays, most)

    def test_what_suits_no_rail_gets_one_of_its_own(self) -> None:
        other = made(
            part(
                "o",
                state("dark", 0.0),
                state("lit", 0.01),
                rail="x",
                kind="display",
                supply_min_v=1.7,
                supply_recommended_max_v=1.95,
            )
        )
        after = self.put_in(other)
        rail = next(r for r in after.supply.rails if r.id == after.parts[1].rail)
        made_v = getattr(next(s for s in after.supply.stages if s.id == rail.feed), "output_v", 0.0)
        self.assertTrue(1.7 <= made_v <= 1.95)
        self.assertNotIn("five", [r.id for r in after.supply.rails])

    def test_what_was_there_is_kept_beside_and_comes_back_as_it_was(self) -> None:
        low = made(
            part(
                "low",
                state("dark", 1e-6),
                state("lit", 0.001),
                kind="display",
                supply_min_v=2.4,
                supply_recommended_max_v=3.6,
            )
        )
        gadget = two_rails()
        after = self.put_in(low, gadget)
        self.assertEqual([x.name for x in after.parts[1].alternatives], [gadget.parts[1].name])
        back, _ = in_its_place(bench(after), 1, after.parts[1].alternatives[0])
        again = apply_patch(after, back)
        self.assertEqual(again.parts[1].states, gadget.parts[1].states)
        self.assertEqual(again.modes[0].uses[1].state, "lit")
        self.assertEqual(
            evaluate(gadget).draw,
            evaluate(
                gadget.model_copy(
                    update={"parts": [gadget.parts[0], gadget.parts[1].model_copy(update={"alternatives": [low]})]}
                )
            ).draw,
        )


class Promises(unittest.TestCase):
    def test_each_row_is_what_its_gadget_gives(self) -> None:
        for name, p in (("snow-stake", 2), ("dusk-ear", 4), ("tarn-light", 0)):
            gadget = demo(name)
            answer = answer_instead(bench(gadget), p)
            self.assertTrue(answer.rows[0].now)
            self.assertGreater(len(answer.rows), 4)
            before = {(f.code, f.where) for f in evaluate(gadget).findings if f.severity in ("stop", "fix")}
            for row in answer.rows[1:4]:
                after = evaluate(apply(gadget, row.remedy))
                assert after.runtime.total.value is not None and row.runtime.value is not None
                self.assertAlmostEqual(after.runtime.total.value, row.runtime.value, places=9)
                working = {i.name: i.value for i in row.runtime.working.inputs}
                self.assertEqual(working, {"now": bench(gadget).runtime_s / 3600, "then": row.runtime.value})
                new = {(f.code, f.where) for f in after.findings if f.severity in ("stop", "fix")} - before
                if row.fits:
                    self.assertEqual(new, set(), row.name)

    def test_in_random_gadgets_each_is_a_design(self) -> None:
        tried = 0
        for seed in sweep(12, 60):
            gadget = random_design(4000 + seed)
            for row in answer_instead(bench(gadget), 1, "").rows[1:3]:
                after = apply(gadget, row.remedy)
                self.assertEqual(after.parts[1].name, row.name)
                tried += 1
        self.assertGreater(tried, 10)

    def test_words_narrow_and_what_is_kept_is_always_there(self) -> None:
        gadget = demo("dusk-ear")
        everything = answer_instead(bench(gadget), 4)
        self.assertEqual(sum(not r.now for r in everything.rows) <= MOST_JUDGED, True)
        paper = answer_instead(bench(gadget), 4, "e-paper")
        self.assertTrue(all("paper" in r.name.lower() for r in paper.rows[1:]))
        self.assertGreater(len(paper.rows), 2)
        keep = paper.rows[1].keep
        assert keep is not None
        kept = apply(gadget, keep)
        self.assertEqual(evaluate(kept).runtime, evaluate(gadget).runtime)
        row = next(r for r in answer_instead(bench(kept), 4, "memory").rows if r.beside)
        self.assertEqual((row.name, row.keep), (paper.rows[1].name, None))


class BadInput(unittest.TestCase):
    def test_beside_the_beside_twice_and_too_many(self) -> None:
        plain = part("other", state("on", 0.01))
        for beside, told in (
            ([plain | {"alternatives": [plain | {"name": "Third"}]}], "has nothing beside it"),
            ([plain, plain], "is beside itself"),
            ([plain | {"name": part("chip", state("on", 0.01))["name"]}], "is beside itself"),
            ([plain | {"name": f"N{i}"} for i in range(MOST_BESIDE + 1)], f"at most {MOST_BESIDE}"),
        ):
            with self.assertRaises(DocumentError) as caught:
                build_design(
                    two_rails().model_dump(mode="json")
                    | {
                        "parts": [
                            part("chip", state("sleep", 1e-5), state("active", 0.01), alternatives=beside),
                            part("show", state("dark", 0.001), state("lit", 0.02), rail="five"),
                        ]
                    }
                )
            self.assertEqual(len(caught.exception.problems), 1)
            self.assertIn(told, str(caught.exception))

    def test_an_older_alternative_is_read_as_older_parts_are(self) -> None:
        document = two_rails().model_dump(mode="json") | {"format": "frugal-ember/2"}
        older = part("old", state("on", 0.01), supply_high_v=3.6)
        document["parts"][0]["alternatives"] = [older]
        self.assertEqual(build_design(document).parts[0].alternatives[0].supply_recommended_max_v, 3.6)


if __name__ == "__main__":
    unittest.main()
