"""Load transients: what fails, what only shows, and the capacitor that is offered."""

from __future__ import annotations

import unittest

from ember_core import Design
from ember_core.design.patches import apply
from ember_core.runtime.run import run
from ember_core.solved.droop import USUAL_DROOP, find_droops

from .gadgets import cell, design, part, seen, state, use

STRAIGHT = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}


class Droop(unittest.TestCase):
    def gadget(self, ohm: float, kind: str = "display", droop: float | None = None, screen: str = "on", seconds: float = 0.002,
               quiet: str = "active") -> Design:  # fmt: skip
        """A motor's peak of 0.5 A beside a screen, on a cell of so many ohms: before it 3.6 to 3.7 V at 20 % charge."""
        parts = [
            part(
                "motor",
                state("off", 0),
                state("active", 0.01),
                kind="motor",
                peak={"current_a": 0.5, "seconds": seconds},
            ),
            part("screen", state("off", 0), state("on", 0.01), kind=kind, droop_max=droop),
        ]
        modes = [{"id": "asleep", "name": "Asleep", "uses": [use("motor", "off"), use("screen", "off")]},
                 {"id": "awake", "name": "Awake", "uses": [use("motor", quiet), use("screen", screen)]}]  # fmt: skip
        battery = {"cell": cell(resistance_ohm=ohm, discharge_max_a=3), "wiring_ohm": 0}
        return design(parts=parts, modes=modes, supply=STRAIGHT, battery=battery)

    def droop(self, gadget: Design) -> float:
        (sag,) = find_droops(run(gadget))
        return (sag.before_v - sag.lowest_v) / sag.before_v

    def test_it_shows_from_its_tolerance_on(self) -> None:
        ohm = 0.1
        at_this = self.droop(self.gadget(ohm))
        for factor, there in ((0.97, False), (1.03, True)):
            exact = ohm * USUAL_DROOP / at_this * factor
            self.assertEqual(bool(seen(self.gadget(exact), "visible-droop")), there, factor)

    def test_a_parts_own_tolerance_counts(self) -> None:
        droop = self.droop(self.gadget(0.2))
        self.assertTrue(seen(self.gadget(0.2, droop=droop * 0.98), "visible-droop"))
        self.assertFalse(seen(self.gadget(0.2, droop=droop * 1.02), "visible-droop"))

    def test_only_what_is_seen_or_heard_and_in_use_minds(self) -> None:
        self.assertTrue(seen(self.gadget(0.4, "sound"), "visible-droop"))
        self.assertTrue(seen(self.gadget(0.4, "light"), "visible-droop"))
        self.assertFalse(seen(self.gadget(0.4, "sensor"), "visible-droop"))
        self.assertTrue(seen(self.gadget(0.4, "sensor", droop=0.01), "visible-droop"))
        self.assertFalse(seen(self.gadget(0.4, screen="off"), "visible-droop"))
        self.assertFalse(seen(self.gadget(0.4, quiet="off"), "visible-droop"))

    def test_words_fit_the_part(self) -> None:
        for kind, word in (("display", "dims"), ("sound", "clips"), ("light", "flickers")):
            self.assertIn(word, seen(self.gadget(0.4, kind), "visible-droop")[0].found.title)

    def test_a_capacitor_that_a_gadget_can_have_is_offered_and_holds(self) -> None:
        short = self.gadget(0.4, seconds=0.0005)
        finding = seen(short, "visible-droop")[0]
        remedy = finding.remedy
        assert remedy
        after = apply(short, remedy)
        self.assertFalse(seen(after, "visible-droop"))
        self.assertLessEqual(after.supply.rails[0].capacitor.farad, 0.01)  # type: ignore[union-attr]
        long = seen(self.gadget(0.4, seconds=0.5), "visible-droop")[0]
        self.assertIsNone(long.remedy)
        self.assertIn("Less resistance", long.sentence)

    def test_a_part_that_fails_is_not_said_to_dim_as_well(self) -> None:
        gadget = self.gadget(0.4).model_dump(mode="json")
        gadget["parts"][1]["supply_min_v"] = 3.6
        from ember_core import build_design

        self.assertTrue(seen(build_design(gadget), "peak-sags"))
        self.assertFalse(seen(build_design(gadget), "visible-droop"))
