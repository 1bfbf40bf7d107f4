"""What if: converters for a rail in order, a rail that is not there, runs at another voltage, hangs on the battery."""

from __future__ import annotations

import unittest

from ember_core import Design, evaluate
from ember_core.catalogue import built_in
from ember_core.design import LinearStage
from ember_core.design.patches import apply
from ember_core.measures.bench import TrialBench
from ember_core.studies import answer_rail

from .gadgets import LINEAR, design, part, plain, state
from .test_stages import BOOST, USB
from .test_traps import with_second


def hours(gadget: Design) -> float:
    return evaluate(gadget).runtime.total.value or 0.0


class Converters(unittest.TestCase):
    def setUp(self) -> None:
        self.gadget = design()
        self.rows = answer_rail(TrialBench(self.gadget, built_in()), 0).converters

    def test_all_catalogue_converters_of_that_voltage_are_ranked(self) -> None:
        self.assertGreaterEqual(len(self.rows), 12)
        self.assertEqual(sum(r.now for r in self.rows), 1)
        fitting = [r.runtime.value or 0 for r in self.rows if r.fits]
        self.assertEqual(fitting, sorted(fitting, reverse=True))

    def test_the_figures_are_those_of_the_changed_design(self) -> None:
        for row in self.rows[:4]:
            with self.subTest(row.name):
                self.assertAlmostEqual(hours(apply(self.gadget, row.remedy)), row.runtime.value or 0, places=6)

    def test_what_does_not_suit_says_why(self) -> None:
        hungry = design(parts=[part("chip", state("sleep", 1e-3), state("active", 0.4))])
        rows = answer_rail(TrialBench(hungry, built_in()), 0).converters
        weak = next(r for r in rows if "150 mA" in plain(" ".join(r.reasons)))
        self.assertFalse(weak.fits)
        self.assertIn("400 mA", plain(weak.reasons[0]))

    def test_a_rail_straight_on_the_battery_has_no_converter_to_rank(self) -> None:
        straight = design(supply={"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]})
        self.assertEqual(answer_rail(TrialBench(straight, built_in()), 0).converters, [])


class SameFigures(unittest.TestCase):
    """What is there already is not offered again, whatever it is called; what differs in one figure is."""

    def setUp(self) -> None:
        self.entry = next(s for s in built_in().stages if isinstance(s, LinearStage) and abs(s.output_v - 3.3) < 0.01)

    def offered(self, **changed: object) -> list[str]:
        own = self.entry.model_dump(mode="json") | {"id": "reg", "name": "Mine", "input": "battery"} | changed
        gadget = design(supply={"stages": [own], "rails": [{"id": "main", "name": "Main", "feed": "reg"}]})
        return [r.name for r in answer_rail(TrialBench(gadget, built_in()), 0).converters if not r.now]

    def test_the_same_part_by_another_name_is_not_offered(self) -> None:
        self.assertNotIn(self.entry.name, self.offered())
        self.assertNotIn(self.entry.name, self.offered(cost=99, body=None))

    def test_one_figure_that_differs_makes_another_part(self) -> None:
        for field in ("quiescent_a", "limit_a", "dropout_v"):
            self.assertIn(self.entry.name, self.offered(**{field: getattr(self.entry, field) * 1.01}), field)


class Options(unittest.TestCase):
    def two_rails(self, low: float, high: float) -> Design:
        rails = [{"id": "main", "name": "Main", "feed": "reg"}, {"id": "five", "name": "Five", "feed": "boost"}]
        second = part(
            "amp", state("quiet", 0.003), state("loud", 0.1), rail="five", supply_min_v=low, supply_absolute_max_v=high
        )
        return with_second(second, "quiet", "loud", supply={"stages": [LINEAR, BOOST], "rails": rails})

    def test_a_rail_that_is_not_needed_goes_with_its_converter(self) -> None:
        gadget = self.two_rails(2.5, 5.5)
        option = next(o for o in answer_rail(TrialBench(gadget, built_in()), 1).options if o.code == "no-rail")
        self.assertTrue(option.fits)
        assert option.remedy
        after = apply(gadget, option.remedy)
        self.assertEqual([s.id for s in after.supply.stages], ["reg"])
        self.assertEqual([p.rail for p in after.parts], ["main", "main"])
        self.assertAlmostEqual(hours(after) - hours(gadget), option.gained.value or 0, places=6)

    def test_parts_that_need_the_voltage_keep_their_rail(self) -> None:
        option = next(
            o for o in answer_rail(TrialBench(self.two_rails(4.5, 5.5), built_in()), 1).options if o.code == "no-rail"
        )
        self.assertFalse(option.fits)
        self.assertIsNone(option.remedy)
        self.assertIn("4.5 V", plain(option.sentence))

    def test_straight_from_the_battery_counts_what_it_kills(self) -> None:
        def straight(most: float) -> tuple[bool, str]:
            chip = part(
                "chip",
                state("sleep", 1e-3),
                state("active", 0.1),
                name="Chip",
                supply_min_v=2.5,
                supply_absolute_max_v=most,
            )
            rows = answer_rail(TrialBench(design(parts=[chip]), built_in()), 0).options
            option = next(o for o in rows if o.code == "straight")
            return option.fits, option.sentence

        self.assertTrue(straight(5.5)[0])
        fits, sentence = straight(3.6)
        self.assertFalse(fits)
        self.assertIn("Chip would get 4.2 V and stands 3.6 V", plain(sentence))

    def test_other_voltages_stay_within_the_parts_windows(self) -> None:
        chip = part("chip", state("sleep", 1e-3), state("active", 0.1), supply_min_v=2.0, supply_absolute_max_v=3.6)
        rows = answer_rail(TrialBench(design(parts=[chip]), built_in()), 0).options
        self.assertEqual([plain(o.title) for o in rows if o.code == "other-voltage"], ["Main at 2.5 V", "Main at 2.8 V", "Main at 3 V"])  # fmt: skip


class Pictures(unittest.TestCase):
    def test_flows_add_up_at_every_node(self) -> None:
        gadget = with_second(part("amp", state("quiet", 0.003), state("loud", 0.1)), "quiet", "loud")
        for flow in evaluate(gadget).supply.flows:
            into: dict[str, float] = {"battery": flow.given_w}
            out: dict[str, float] = {}
            for link in flow.links:
                into[link.target] = into.get(link.target, 0) + link.watts
                out[link.source] = out.get(link.source, 0) + link.watts
            for node, watts in out.items():
                self.assertAlmostEqual(watts, into[node], delta=1e-9 + 1e-6 * watts)

    def test_marks_of_steady_modes_lie_on_the_curve(self) -> None:
        (curve,) = evaluate(design()).supply.curves
        middle = next(line for line in curve.lines if line.label == "half charge")
        self.assertEqual([m.mode for m in curve.marks], ["asleep", "awake"])
        for mark in curve.marks:
            near = min(range(len(middle.current_a)), key=lambda i: abs(middle.current_a[i] - mark.current_a))
            self.assertAlmostEqual(mark.efficiency, middle.efficiency[near], delta=0.02)
        self.assertAlmostEqual(sum(m.share_of_loss for m in curve.marks), 1.0)

    def test_a_plugged_source_takes_over_in_the_flows(self) -> None:
        gadget = design().model_dump(mode="json")
        gadget["supply"]["sources"] = [USB]
        gadget["supply"]["stages"][0]["input"] = "usb"
        for mode in gadget["modes"]:
            mode["plugged"] = ["usb"]
        flow = evaluate(Design.model_validate(gadget)).supply.flows[0]
        self.assertEqual({link.source for link in flow.links}, {"usb", "reg", "rail:main"})
