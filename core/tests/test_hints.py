"""What is worth doing next: each hint where it holds and not where it does not, none in the way of a finished gadget."""

from __future__ import annotations

import unittest
from dataclasses import replace
from pathlib import Path
from types import SimpleNamespace
from typing import Any

from ember_core import Design, evaluate, read_design
from ember_core.catalogue import built_in
from ember_core.imports.new_gadget import new_gadget
from ember_core.recipes import RECIPES, Answers, begin
from ember_core.reports.hints import MOST_HINTS, TELLING, hints_report
from ember_core.solved.gadget import SolvedGadget

from .gadgets import design

DEMO = Path(__file__).resolve().parents[2] / "demo"


def keys(gadget: Design) -> list[str]:
    return [h.key for h in evaluate(gadget).hints]


def changed(gadget: Design, **changes: Any) -> Design:
    return Design.model_validate({**gadget.model_dump(mode="json"), **changes})


class Hints(unittest.TestCase):
    def test_an_empty_gadget_wants_its_first_part_and_nothing_else(self) -> None:
        hints = evaluate(new_gadget("Lantern")).hints
        self.assertEqual([(h.key, h.step) for h in hints], [("part", "draw")])

    def test_how_it_is_used_is_asked_where_it_only_rests(self) -> None:
        used = design()
        self.assertTrue(used.day.sessions or used.day.wakes)
        self.assertNotIn("day", keys(used))
        day = {**used.day.model_dump(mode="json"), "sessions": [], "wakes": []}
        resting = changed(used, day=day)
        self.assertIn("day", keys(resting))
        busiest = max(evaluate(used).draw.modes, key=lambda m: m.battery_current.value or 0).mode
        self.assertNotIn("day", keys(changed(used, day={**day, "rest": busiest})))
        modes = [{**m.model_dump(mode="json"), "goal_h": 6.0 if m.id == busiest else None} for m in used.modes]
        self.assertNotIn("day", keys(changed(used, day=day, modes=modes)))

    def test_a_goal_is_asked_for_until_there_is_one(self) -> None:
        gadget = design()
        brief = gadget.brief.model_dump(mode="json")
        self.assertIn("goal", keys(changed(gadget, brief={**brief, "goal_h": None})))
        self.assertNotIn("goal", keys(changed(gadget, brief={**brief, "goal_h": 1.0})))

    def test_what_is_wrong_comes_with_its_title_and_how_many_there_are(self) -> None:
        for gadget in (begin(Answers(recipe=r.key), built_in()).design for r in RECIPES):
            result = evaluate(gadget)
            wrong = [f for f in result.findings if f.severity in ("stop", "fix")]
            hint = next((h for h in result.hints if h.key == "wrong"), None)
            self.assertEqual(hint is None, not wrong)
        gadget = design()
        hot = changed(gadget, brief={**gadget.brief.model_dump(mode="json"), "outer_max_mm": [10, 10, 5]})
        result = evaluate(hot)
        wrong = [f for f in result.findings if f.severity in ("stop", "fix")]
        hint = next(h for h in result.hints if h.key == "wrong")
        self.assertEqual((hint.step, hint.where), (wrong[0].step, wrong[0].where))
        more = {1: "", 2: ", and one more"}.get(len(wrong), f", and {len(wrong) - 1} more")
        self.assertEqual(hint.sentence, f"{wrong[0].title}{more}.")

    def test_the_first_guess_is_shown_until_it_is_settled(self) -> None:
        gadget = begin(Answers(recipe=RECIPES[0].key), built_in()).design
        result = evaluate(gadget)
        hint = next(h for h in result.hints if h.key == "guess")
        self.assertEqual(hint.where, result.guesses[0].where)
        self.assertIn(result.guesses[0].value, hint.sentence)
        self.assertNotIn("guess", keys(changed(gadget, guesses=[])))

    def test_the_figure_that_decides_most_is_to_be_measured_and_then_the_next(self) -> None:
        gadget = read_design((DEMO / "snow-stake.json").read_bytes())
        solved = SolvedGadget(gadget)
        telling = [o for o in solved.estimate.owners if o.input.kind == "draw" and o.share >= TELLING]
        hint = next((h for h in hints_report(solved, []) if h.key == "measure"), None)
        self.assertEqual(hint is None, not telling)
        assert hint is not None
        most = max(telling, key=lambda o: o.share)
        p = gadget.index.parts[most.input.subject]
        s = [x.name for x in gadget.parts[p].states].index(most.input.state)
        self.assertEqual(hint.where, f"/parts/{p}/states/{s}")
        raw = gadget.model_dump(mode="json")
        for part in raw["parts"]:
            for state in part["states"]:
                state["provenance"] = "measured"
        self.assertNotIn("measure", keys(Design.model_validate(raw)))

    def test_a_figure_that_decides_little_is_not_worth_the_meter(self) -> None:
        solved = SolvedGadget(read_design((DEMO / "snow-stake.json").read_bytes()))
        most = max((o for o in solved.estimate.owners if o.input.kind == "draw"), key=lambda o: o.share)
        for share, there in ((TELLING * 0.999, False), (TELLING, True)):
            vars(solved.known.of(solved.design))["estimate"] = SimpleNamespace(owners=[replace(most, share=share)])
            self.assertEqual(any(h.key == "measure" for h in hints_report(solved, [])), there)

    def test_what_has_no_place_is_counted(self) -> None:
        gadget = design()
        homeless = [n for _, n in SolvedGadget(gadget).fit.unplaced]
        found = [h.sentence for h in evaluate(gadget).hints if h.key == "place"]
        self.assertEqual(len(found), 1 if homeless else 0)
        if len(homeless) > 1:
            self.assertIn(f"{homeless[0]} and {len(homeless)} things in all have", found[0])

    def test_never_more_than_a_handful(self) -> None:
        for recipe in RECIPES:
            hints = evaluate(begin(Answers(recipe=recipe.key), built_in()).design).hints
            self.assertLessEqual(len(hints), MOST_HINTS)
            self.assertEqual(len({h.key for h in hints}), len(hints))


if __name__ == "__main__":
    unittest.main()
