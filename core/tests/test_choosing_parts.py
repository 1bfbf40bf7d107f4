"""The best of all supplies with what sleeps behind a switch, and with other parts in the place of the gadget's own."""

from __future__ import annotations

import unittest

from ember_core import Design, DocumentError, build_design, evaluate
from ember_core.catalogue import Catalogue, built_in
from ember_core.choosing import answer_choice, chosen_design
from ember_core.choosing.others import MOST_GADGETS, gadgets
from ember_core.choosing.sleeping import MOST_SWITCHED, WORTH
from ember_core.choosing.space import space_of
from ember_core.design import PassStage
from ember_core.measures.bench import TrialBench
from ember_core.solved.gadget import SolvedGadget

from . import test_choosing
from .gadgets import design, part, state, use
from .test_choosing import demo, reduced


class BehindASwitch(unittest.TestCase):
    """A sensor that goes on drawing while the gadget rests, with and without a load switch of 100 nA."""

    def gadget(self, at_rest_a: float = 1e-4, **more: object) -> Design:
        chip = part("chip", state("sleep", 1e-4), state("active", 10e-3), kind="controller")
        sensor = part("sensor", state("on", at_rest_a), kind="sensor", **more)
        uses = [[use("chip", s), use("sensor", "on")] for s in ("sleep", "active")]
        return design(
            parts=[chip, sensor],
            modes=[{"id": m, "name": m, "uses": u} for m, u in zip(("asleep", "awake"), uses, strict=True)],
            day={"rest": "asleep", "wakes": [{"name": "w", "mode": "awake", "every_s": 600, "awake_s": 1}]},
            supply={"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]},
            brief={"coldest_c": 20, "usual_c": 20, "hottest_c": 30},
        )

    def catalogue(self, **more: object) -> Catalogue:
        stage = PassStage(
            id="ls",
            name="Load switch",
            role="load switch",
            input="battery",
            limit_a=1.0,
            resistance_ohm=0.1,
            shutdown_a=1e-7,
            cost=0.3,
            **more,
        )  # type: ignore[arg-type]
        kept = [e for e in built_in().entries if e.cell is not None and "LR6" in e.cell.name]
        mould = next(e for e in built_in().entries if e.stage is not None)
        return Catalogue([*kept, mould.model_copy(update={"key": "ls", "stage": stage})])

    def test_what_it_saves_by_hand_and_what_it_costs(self) -> None:
        bench = TrialBench(self.gadget(), self.catalogue())
        answer = answer_choice(bench, ["cost"], {})
        by = {(r.pack, *r.options): r for r in answer.rows}
        pack = next(r.pack for r in answer.rows if {(r.pack, ""), (r.pack, "Load switch")} <= set(by))
        off, on = by[pack, ""], by[pack, "Load switch"]
        self.assertAlmostEqual(on.cost - off.cost, 0.3)
        # per 600 s: 599 s of 100 uA and (100 or 0.1) uA, 1 s of 10.1 mA; the cells lose something by themselves
        ratio = (599 * 200e-6 + 10.1e-3) / (599 * 100.1e-6 + 10.1e-3)
        self.assertAlmostEqual((on.runtime.value or 0) / (off.runtime.value or 1), ratio, delta=0.13)
        taken = chosen_design(bench, on.cell, on.series, on.parallel, on.charger, on.options)
        assert taken.design is not None
        self.assertAlmostEqual(SolvedGadget(taken.design).coldest.seconds / 3600 / (on.runtime.value or 1), 1, places=9)
        self.assertEqual([s.name for s in taken.design.supply.stages], ["Load switch"])
        self.assertEqual(taken.design.modes[0].off_stages, [taken.design.supply.stages[0].id])
        self.assertEqual(taken.design.modes[1].off_stages, [])

    def places(self, gadget: Design, catalogue: Catalogue | None = None) -> list[str]:
        return [p.name for p in space_of(TrialBench(gadget, catalogue or self.catalogue()), ["cost"]).places]

    def test_it_has_to_be_worth_it(self) -> None:
        bench = TrialBench(self.gadget(), self.catalogue())
        base = bench.usual.mean_current_a[bench.middle] - 1e-4  # without the sensor
        for share, there in ((WORTH * 0.9, False), (WORTH * 1.2, True)):
            self.assertEqual(self.places(self.gadget(float(base) * share + 1e-7)), ["sensor"] if there else [], share)

    def test_so_many_parts_and_no_more_the_ones_that_it_brings_most_for(self) -> None:
        gadget = self.gadget(3e-4)
        for count in (MOST_SWITCHED, MOST_SWITCHED + 1):
            document = gadget.model_dump(mode="json")
            for k in range(1, count):
                state_ = state("on", 1e-4 * (1 + 0.1 * k))
                document["parts"].append(part(f"s{k}", state_, kind="sensor") | {"name": f"s{k}"})
                for mode in document["modes"]:
                    mode["uses"].append(use(f"s{k}", "on"))
            places = self.places(build_design(document))
            self.assertEqual(len(places), MOST_SWITCHED)
            self.assertIn("sensor", places)
            self.assertEqual("s1" in places, count == MOST_SWITCHED)  # the least of four

    def test_what_wakes_it_what_shows_that_it_is_on_and_what_came_along_stay(self) -> None:
        self.assertEqual(self.places(self.gadget()), ["sensor"])
        for more in ({"kind": "led"}, {"kind": "controller"}, {"parasitic": True}):
            self.assertEqual(self.places(self.like(**more)), [], more)

    def like(self, **more: object) -> Design:
        gadget = self.gadget()
        sensor = gadget.parts[1].model_copy(update=more)
        return gadget.model_copy(update={"parts": [gadget.parts[0], sensor]})

    def test_a_switch_that_does_not_stand_the_battery_is_not_there(self) -> None:
        for most, there in ((3.7, False), (5.0, True)):
            gadget = self.gadget(supply_min_v=3.4)  # which takes three cells, of 4.8 V when fresh
            rows = answer_choice(TrialBench(gadget, self.catalogue(input_max_v=most)), ["cost"], {}).rows
            three = [r for r in rows if r.series == 3]
            self.assertTrue(three)
            self.assertEqual(any("Load switch" in r.options for r in three), there, most)
            self.assertFalse(any("Load switch" in r.options for r in rows if r.series > 3))

    def test_against_all_of_a_reduced_catalogue(self) -> None:
        whole = reduced(2, cells=3, stages=3)
        switches = [e for e in built_in().entries if isinstance(e.stage, PassStage) and e.stage.role == "load switch"]
        keys = {e.key for e in whole.entries}
        catalogue = Catalogue([*whole.entries, *(e for e in switches if e.key not in keys)])
        for name in ("snow-stake", "dusk-ear"):
            space = space_of(TrialBench(demo(name), catalogue), ["cost"])
            parts = {p.name for p in demo(name).parts}
            self.assertTrue(any(p.name in parts for p in space.places), name)
            test_choosing.AgainstAll().hold(demo(name), catalogue, ["cost"])


class OtherParts(unittest.TestCase):
    """A part with one beside it that draws a tenth and costs a euro more."""

    def gadget(self) -> Design:
        def sensor(name: str, amps: float, cost: float) -> dict[str, object]:
            return part("sensor", state("on", amps), name=name, kind="sensor", cost=cost)

        frugal = sensor("Frugal", 1e-4, 3.0)
        return design(
            parts=[sensor("Greedy", 1e-3, 2.0) | {"alternatives": [frugal]}],
            modes=[{"id": "on", "name": "On", "uses": [use("sensor", "on")]}],
            day={"rest": "on"},
            supply={"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]},
            brief={"coldest_c": 20, "usual_c": 20, "hottest_c": 30},
        )

    def setUp(self) -> None:
        kept = [e for e in built_in().entries if e.cell is not None and "LR6" in e.cell.name]
        self.bench = TrialBench(self.gadget(), Catalogue(kept))

    def test_only_where_asked(self) -> None:
        self.assertTrue(all(r.parts == [] for r in answer_choice(self.bench, ["cost"], {}).rows))
        self.assertEqual([g.parts for g in gadgets(self.bench)], [("",), ("Frugal",)])

    def test_it_is_among_the_best_by_hand_and_applied(self) -> None:
        rows = answer_choice(self.bench, ["cost"], {}, parts=True).rows
        frugal = [r for r in rows if r.parts == ["Frugal"]]
        plain = [r for r in rows if not r.parts]
        self.assertTrue(frugal and plain)
        for row in frugal:
            taken = chosen_design(self.bench, row.cell, row.series, row.parallel, row.charger, row.options, row.parts)
            assert taken.design is not None and taken.cost is not None
            self.assertEqual([p.name for p in taken.design.parts], ["Frugal"])
            self.assertAlmostEqual(
                SolvedGadget(taken.design).coldest.seconds / 3600 / (row.runtime.value or 1), 1, places=9
            )
            self.assertAlmostEqual(row.cost, evaluate(taken.design).totals.cost.value or 0, delta=0.51)
            self.assertIn("Frugal", " ".join(row.stages))
        cheapest = min(plain, key=lambda r: r.cost)
        better = min(frugal, key=lambda r: r.cost)
        self.assertAlmostEqual(better.cost - cheapest.cost, 1.0)
        for a in rows:
            beaten = [
                b
                for b in rows
                if b is not a
                and b.refill == a.refill
                and b.cost < a.cost
                and (b.runtime.value or 0) > (a.runtime.value or 0)
            ]
            self.assertEqual(beaten, [])

    def test_a_part_that_is_not_kept_there_is_refused(self) -> None:
        for wrong in (["No such"], ["Frugal", ""]):
            with self.assertRaises(DocumentError):
                chosen_design(self.bench, "AA alkaline (LR6)", 2, 1, "", [], wrong)

    def test_so_many_gadgets_and_no_more(self) -> None:
        gadget = self.gadget()
        many = [gadget.parts[0].alternatives[0].model_copy(update={"name": f"Other {k}"}) for k in range(4)]
        two = [gadget.parts[0].model_copy(update={"id": f"p{k}", "alternatives": many}) for k in range(2)]
        uses = [{"part": f"p{k}", "state": "on"} for k in range(2)]
        document = gadget.model_dump(mode="json") | {"parts": [p.model_dump(mode="json") for p in two]}
        document["modes"][0]["uses"] = uses
        found = gadgets(TrialBench(build_design(document), self.bench.catalogue))
        self.assertEqual(len(found), MOST_GADGETS)
        self.assertEqual(found[0].parts, ("", ""))


if __name__ == "__main__":
    unittest.main()
