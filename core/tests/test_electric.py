"""What is solved of loads, supply and battery is kept while something else is edited, and is what it would be without that."""

from __future__ import annotations

import gc
import hashlib
import math
import tracemalloc
import unittest
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np

from ember_core import build_design, evaluate, read_design
from ember_core.catalogue import built_in
from ember_core.design import Design
from ember_core.design.patches import replace
from ember_core.figures import as_json
from ember_core.measures.bench import TrialBench
from ember_core.runtime.run import rerun, run
from ember_core.solved.electric import READ_OF_BRIEF, UNREAD, Electric, Known

from .gadgets import cell, design, document
from .golden import DEMOS
from .large import large_design
from .randoms import random_design

DESIGNS = [read_design(path.read_bytes()) for path in sorted(DEMOS.glob("*.json"))] + [
    random_design(81_000 + seed) for seed in range(24)
]


class _Unplugged:
    """Of a charger nothing but what it draws unplugged."""

    def __init__(self, amps: float) -> None:
        self.unplugged_a = amps


def bare(made: Design) -> Design:
    """The same without what is said not to be read: asked for, it is missing."""
    own = made.model_copy(deep=True)
    vars(own)["charger"] = _Unplugged(made.charger.unplugged_a) if made.charger else None
    for key in set(UNREAD) - {"charger", "brief", "battery", "parts", "supply"}:
        del vars(own)[key]
    _strip(own.brief, UNREAD["brief"])
    _strip(own.battery, UNREAD["battery"])
    for part in own.parts:
        _strip(part, UNREAD["parts"]["__all__"])
    for stage in own.supply.stages:
        _strip(stage, UNREAD["supply"]["stages"]["__all__"])
    return own


def _strip(of: Any, names: set[str]) -> None:
    for name in names:
        del vars(of)[name]


def _figures(found: Electric) -> str:
    """What was solved, in short: a failed comparison would be too long to read."""
    runs = [found.usual, found.coldest]
    samples = [found.estimate, found.cold_estimate]
    figures = [
        *(x.seconds for x in runs),
        *(x.ending for x in runs),
        *(x.works.sum() for x in runs),
        *(x.attribution.stage.sum() for x in runs),
        *(x.nonstop_s for x in runs),
        *(x.seconds.tolist() for x in samples),
        *(len(x.owners) for x in samples),
        found.droops,
        found.cold_droops,
    ]
    return hashlib.sha256(repr(figures).encode()).hexdigest()


class Read(unittest.TestCase):
    def test_it_does_without_what_it_is_said_not_to_read(self) -> None:
        for made in DESIGNS:
            with self.subTest(made.name):
                self.assertEqual(_figures(Electric(bare(made))), _figures(Electric(made)))

    def test_what_is_left_of_the_brief_is_read(self) -> None:
        made = DESIGNS[0]
        for key in READ_OF_BRIEF:
            other = {"use_factor": 3.0, "usual_c": 12.0, "coldest_c": -15.0}[key]
            changed = made.model_copy(update={"brief": made.brief.model_copy(update={key: other})})
            with self.subTest(key):
                self.assertNotEqual(_figures(Electric(changed)), _figures(Electric(made)))

    def test_peaks_in_the_cold_are_judged_where_the_gadget_gets_to(self) -> None:
        """Where the usual ones are, where it ends before that, and where the usual ones are again when it does not run at all."""
        ear = DESIGNS[0]
        for coldest_c, ends in ((-20.0, 0.128), (-40.0, 0.586), (-55.0, 1.0)):
            found = Electric(ear.model_copy(update={"brief": ear.brief.model_copy(update={"coldest_c": coldest_c})}))
            with self.subTest(coldest_c):
                self.assertAlmostEqual(found.coldest.ending[1], ends, 2)
                end = found.coldest.ending[1]
                self.assertEqual(found.cold_droops[0].charge, end if 0.2 < end < 1 else 0.2)


class Keeping(unittest.TestCase):
    def test_an_edit_elsewhere_finds_it_and_says_the_same_as_without(self) -> None:
        for made in DESIGNS[:20]:
            case = made.enclosure
            wider = case.model_copy(update={"outer_mm": tuple(x + 7 for x in case.outer_mm)})
            parts = [p.model_copy(update={"cost": p.cost + 1, "mass_g": p.mass_g + 2}) for p in made.parts]
            with self.subTest(made.name):
                if case.shape is not None:
                    continue
                known = Known()
                evaluate(made, built_in(), known)
                edited = made.model_copy(update={"enclosure": wider, "parts": parts})
                self.assertIs(known.of(edited), known.of(made))
                self.assertEqual(as_json(evaluate(edited, built_in(), known)), as_json(evaluate(edited)))

    def test_many_who_ask_at_once_get_what_each_would_get_alone(self) -> None:
        """Of one small store, which lets go of what others are about to ask for."""
        known, asked = Known(2 << 20), DESIGNS[:8] * 3
        with ThreadPoolExecutor(6) as pool:
            together = list(pool.map(lambda made: as_json(evaluate(made, built_in(), known)), asked))
        self.assertEqual(together[:8], [as_json(evaluate(made)) for made in DESIGNS[:8]])
        self.assertEqual(together[:8], together[8:16])
        self.assertEqual(together[:8], together[16:])

    def test_another_current_or_charger_that_draws_is_another(self) -> None:
        made, known = design(), Known()
        first = known.of(made)
        hungrier = document()
        hungrier["parts"][0]["states"][0]["draw"]["current_a"] = {"min": 0.002, "typical": 0.002, "max": 0.002}
        self.assertIsNot(known.of(build_design(hungrier)), first)
        charger = {"name": "Charger", "program_ohm": 2000, "leakage_a": 1e-6}
        idle, leaking = (design(charger=charger | {"leakage_a": amps}) for amps in (0.0, 1e-4))
        self.assertIs(known.of(idle), first)
        self.assertIsNot(known.of(leaking), first)

    def test_what_it_may_hold_is_what_its_tables_hold(self) -> None:
        """Counted in the tables themselves, filled."""
        tables = ("stage_input_v", "stage_input_a", "stage_output_v", "stage_output_a", "rail_v", "rail_a", "other_v", "other_a", "source_a", "terminal_v")  # fmt: skip
        for made in DESIGNS[:6]:
            found = Electric(made)
            self.assertEqual(found.table_bytes, 0)  # nothing is solved yet
            solutions = [s for run in (found.usual, found.coldest) for s in (run.typical, run.worst)]
            whole = sum(np.asarray(getattr(s, name)).size * 8 for s in solutions for name in tables)
            extra = sum(2 * 8 * s.source_a.size for s in solutions)  # given, collapsed and the like: a table or two
            with self.subTest(made.name):
                self.assertLess(whole, found.table_bytes)
                self.assertLess(found.table_bytes, whole + extra)

    def test_it_is_told_what_memory_is_held(self) -> None:
        """Against what the interpreter counts: of a small design, of one of many parts and of one that nobody has solved."""
        for made, solved in (
            (DESIGNS[0], True),
            (DESIGNS[4], True),
            (large_design(200, 8), True),
            (large_design(200, 8), False),
        ):
            document = made.model_dump(mode="json")
            known = Known(math.inf)
            evaluate(made)  # what is read once is read
            tracemalloc.start()
            own = build_design(document)
            _ = evaluate(own, built_in(), known) if solved else known.of(own)
            del own, _
            gc.collect()
            counted = tracemalloc.get_traced_memory()[0]
            tracemalloc.stop()
            with self.subTest(made.name, solved=solved):
                self.assertLess(counted, 1.3 * known.held_bytes)
                self.assertLess(known.held_bytes, 4 * counted)

    def test_the_oldest_goes_when_there_are_too_many(self) -> None:
        made = [design(brief={"usual_c": celsius, "coldest_c": 0, "hottest_c": 40}) for celsius in (20, 21, 22, 23)]
        whole = Known(math.inf)
        for x in made[:2]:
            self.assertGreater(whole.of(x).usual.seconds, 0)
        self.assertIsNotNone(whole.of(made[2]))
        tight = Known(whole.held_bytes)  # there is just room for two that are solved and a third that is not yet
        first, second = (tight.of(x) for x in made[:2])
        self.assertGreater(min(first.usual.seconds, second.usual.seconds), 0)
        third = tight.of(made[2])
        self.assertIs(tight.of(made[1]), second)
        self.assertIs(tight.of(made[0]), first)
        self.assertGreater(third.usual.seconds, 0)
        self.assertIsNotNone(tight.of(made[3]))
        self.assertIs(tight.of(made[0]), first)  # over by the fourth: what was asked for longest ago is gone, not this
        self.assertIsNot(tight.of(made[2]), third)
        one = Known(1)
        last = one.of(made[1])
        self.assertIs(one.of(made[1]), last)  # the last is kept, however large
        self.assertIsNot(one.of(made[0]), one.of(made[1]))
        self.assertIsNot(one.of(made[1]), last)

    def test_documents_count_before_they_are_solved(self) -> None:
        """As of one whose solving was ended: else they would heap up."""
        known, large = Known(4 << 20), large_design(200, 8).model_dump(mode="json")
        first = known.of(build_design(large))
        self.assertIs(known.of(build_design(large)), first)
        self.assertIsNotNone(known.of(build_design(large | {"battery": large["battery"] | {"wiring_ohm": 0.5}})))
        self.assertIsNot(known.of(build_design(large)), first)

    def test_a_bench_tries_a_changed_case_without_solving(self) -> None:
        bench = TrialBench(DESIGNS[0], built_in())
        patch = [replace("/enclosure/gap_mm", 0.7)]
        other = bench.of(build_design(DESIGNS[0].model_dump(mode="json") | {"summary": "Other words"}))
        self.assertIs(other.usual.typical, bench.usual.typical)
        self.assertEqual(other.usual.design.summary, "Other words")
        self.assertIs(bench.changed(patch).usual.typical, bench.usual.typical)
        self.assertEqual(bench.changed(patch).usual.design.enclosure.gap_mm, 0.7)


class Again(unittest.TestCase):
    """A run from one that is near is the run itself, to the last bit."""

    def test_another_day(self) -> None:
        curve = {"soc": [0, 0.5, 1], "open_circuit_v": [1.1, 1.25, 1.4], "resistance_ohm": [0.02, 0.02, 0.02]}
        measured = cell(chemistry="nickel-metal-hydride", form="cylinder", curve=curve, cutoff_v=0.9, capacity_ah=2.0)
        hydride = design(battery={"cell": measured, "series": 3, "wiring_ohm": 0})
        tried = 0
        for made in [hydride, *DESIGNS]:
            day = made.day.model_dump(mode="json")
            for event in [*day["sessions"], *day["wakes"]]:
                key = "per_day" if "per_day" in event else "every_s"
                if event.get("at_h"):
                    continue
                event[key] = event[key] / 5 if key == "per_day" else event[key] * 5
            other = build_design(made.model_dump(mode="json") | {"day": day})
            before, whole, near = run(made), run(other), rerun(run(made), other)
            with self.subTest(made.name):
                tried += before.seconds != whole.seconds
                self.assertEqual(near.seconds, whole.seconds)
                self.assertEqual(near.pack.self_discharge_a, whole.pack.self_discharge_a)
                self.assertTrue(np.array_equal(near.typical.source_a, whole.typical.source_a))
                self.assertTrue(np.array_equal(near.worst.source_a, whole.worst.source_a))
        self.assertGreater(tried, 12)
