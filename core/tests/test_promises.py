"""Whatever is offered is applied and judged again: the figure is the same to the last digit, and nothing that was right
before has to be stopped or fixed then unless that was said. On the demos and on random gadgets."""

from __future__ import annotations

import unittest
from collections import Counter
from pathlib import Path

from ember_core import Design, evaluate, read_design
from ember_core.catalogue import built_in
from ember_core.design import PassStage
from ember_core.design.patches import apply
from ember_core.figures import Remedy
from ember_core.findings import named
from ember_core.findings.charge.heat import PRINTED
from ember_core.measures.bench import TrialBench
from ember_core.studies import answer_remedies, answer_savings
from ember_core.studies.judging import Judged
from ember_core.studies.trials import subject

from .gadgets import plain
from .randoms import random_design, sweep

DEMO = sorted((Path(__file__).resolve().parents[2] / "demo").glob("*.json"))
WHOLE = 10  # of them are evaluated with every report as well


def switches(design: Design, rail: str) -> set[str]:
    """The switches, fuses and protections between the battery and a rail."""
    stages = {s.id: s for s in design.supply.stages}
    here, found = next(r.feed for r in design.supply.rails if r.id == rail), set()
    while here in stages:
        stage = stages[here]
        if isinstance(stage, PassStage) and stage.role in ("switch", "fuse", "protection"):
            found.add(here)
        here = stage.input
    return found


class Promises(unittest.TestCase):
    offered: Counter[str]

    def setUp(self) -> None:
        self.offered = Counter()

    def graves(self, judged: Judged, severity: str) -> set[tuple[str, str]]:
        design = judged.bench.design
        return {(f.code, subject(design, f.where)) for f in judged.found if f.severity == severity and not f.lengthens}

    def holds(self, before: Judged, remedy: Remedy, settles: str | None, *, whole: bool) -> None:
        changed = apply(before.bench.design, remedy)
        after = Judged.of(changed, built_in())
        assert remedy.runtime is not None
        said = remedy.runtime.value
        self.assertEqual(said, after.bench.runtime_s / 3600 if changed.parts else None)
        if whole:
            self.assertEqual(said, evaluate(changed).runtime.total.value)
        self.assertLessEqual(self.graves(after, "stop"), self.graves(before, "stop") | self.graves(before, "fix"))
        fresh = self.graves(after, "fix") - self.graves(before, "fix") - self.graves(before, "stop")
        titles = {(f.code, subject(changed, f.where)): f.title for f in after.found}
        for key in fresh:
            said_whole = plain(titles[key]) in plain(remedy.outcome)
            self.assertTrue(said_whole or "more like that" in remedy.outcome, (titles[key], remedy.label))
        modes = {m.id for m, f in zip(changed.modes, after.bench.usual.failures, strict=True) if f.charge >= 1}
        for mode, failure in zip(before.bench.design.modes, before.bench.usual.failures, strict=True):
            if failure.charge < 1:
                self.assertNotIn(mode.id, modes)
        if settles is not None:
            old, new = (sum(f.code == settles for f in x.found) for x in (before, after))
            longer = after.bench.runtime_s > before.bench.runtime_s
            graver = {f.code for f in before.found if f.code == settles and f.severity in ("stop", "fix")}
            lighter = {f.code for f in after.found if f.code == settles and f.severity in ("stop", "fix")}
            self.assertTrue(new < old or longer or len(lighter) < len(graver), (settles, remedy.label))

    def keeps(self, before: Design, after: Design, label: str) -> None:
        """What somebody decided and the way is not about: what feeds it, where it sits, what the process can make, what a switch cuts."""
        old, new = before.charger, after.charger
        if old is not None and new is not None and old.name != new.name:
            kinds = [c.port.kind if c.port else None for c in (old, new)]
            self.assertEqual(new.panel, old.panel, label)
            if kinds[0] is not None:  # where it was not said, what is put in brings its own
                self.assertEqual(kinds[1], kinds[0], label)
            self.assertTrue(abs(new.port_v / old.port_v - 1) < 1e-9, label)
            if old.body is not None and new.body is not None:
                self.assertEqual(new.body.position_mm, old.body.position_mm, label)
        if before.enclosure.plastic in PRINTED[before.enclosure.process]:
            self.assertIn(after.enclosure.plastic, PRINTED[after.enclosure.process], label)
        fed = {p.id: switches(after, p.rail) for p in after.parts}
        left = {s.id for s in after.supply.stages}
        for one in before.parts:
            if one.id in fed:
                self.assertLessEqual(switches(before, one.rail) & left, fed[one.id], label)

    def check(self, gadget: Design, *, whole: bool) -> None:
        judged = Judged.of(gadget, built_in())
        codes = {f.key: f.code for f in named(judged.found)}
        for answer in answer_remedies(judged.bench):
            self.offered[codes[answer.finding]] += 1
            self.holds(judged, answer.remedy, codes[answer.finding], whole=whole)
            self.keeps(gadget, apply(gadget, answer.remedy), answer.remedy.label)
        before = judged.bench.runtime_s
        for saving in answer_savings(judged.bench):
            self.offered[saving.code] += 1
            self.holds(judged, saving.remedy, None, whole=whole)
            self.keeps(gadget, apply(gadget, saving.remedy), saving.remedy.label)
            self.assertGreater(saving.runtime.value or 0, before / 3600)
            self.assertAlmostEqual(saving.gained.value or 0, (saving.runtime.value or 0) - before / 3600)

    def test_the_demos(self) -> None:
        for path in DEMO:
            with self.subTest(path.name):
                self.check(read_design(path.read_bytes()), whole=True)

    def test_random_gadgets(self) -> None:
        for seed in sweep(18, 200):
            with self.subTest(seed):
                self.check(random_design(seed), whole=seed < WHOLE)
        self.assertGreater(len(self.offered), 25, self.offered)

    def test_a_finding_and_a_saving_for_the_same_thing_promise_the_same(self) -> None:
        pairs = {"indicator-led": "dark-in-sleep", "always-on": "cut-in-sleep", "accidental-wakes": "lock", "divider-drain": "gate-divider"}  # fmt: skip
        met = 0
        for gadget in [*(read_design(p.read_bytes()) for p in DEMO), *(random_design(s) for s in sweep(14, 60))]:
            bench = TrialBench(gadget, built_in())
            codes = {f.key: f.code for f in named(Judged(bench).found)}
            wanted = [(codes[a.finding], a.remedy) for a in answer_remedies(bench) if codes[a.finding] in pairs]
            savings = answer_savings(bench) if wanted else []
            for code, remedy in wanted:
                same = [s for s in savings if s.remedy.patch == remedy.patch]
                for saving in same:
                    self.assertEqual(saving.code, pairs[code])
                    self.assertEqual(saving.runtime.value, remedy.runtime.value if remedy.runtime else None)
                met += len(same)
        self.assertGreater(met, 3)
