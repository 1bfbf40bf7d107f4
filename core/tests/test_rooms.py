"""Gaps, moves and larger cases; stronger cells; regulators and rails that are put in: what is offered, by hand."""

from __future__ import annotations

import unittest
from typing import Any

from ember_core import Design
from ember_core.design.patches import apply
from ember_core.enclosure.bodies import fits_within, swelling_mm, things
from ember_core.enclosure.fit import check_fit

from .gadgets import LINEAR, cell, design, part, seen, state, use
from .test_stages import BOOST, USB

MAIN = [{"id": "main", "name": "Main", "feed": "reg"}]
BRIEF = {"goal_h": 100, "coldest_c": 25, "usual_c": 25, "hottest_c": 25}


def boxes(*bodies: tuple[tuple[float, ...], tuple[float, ...]], through: str | None = None, **more: Any) -> Design:
    parts = [
        part(
            f"p{i}",
            state("on", 1e-3),
            body={"size_mm": list(size), "position_mm": list(at), "through": through if i == 0 else None},
        )
        for i, (size, at) in enumerate(bodies)
    ]
    modes = [{"id": "asleep", "name": "Asleep", "uses": [use(p["id"], "on") for p in parts]}]
    return design(**({"parts": parts, "modes": modes, "day": {"rest": "asleep"}} | more))


class Room(unittest.TestCase):
    def test_a_turned_cuboid_goes_where_the_lying_one_does(self) -> None:
        self.assertTrue(fits_within((10, 50, 30), (50, 30, 10)))
        self.assertFalse(fits_within((10, 50.1, 30), (50, 30, 10)))

    def test_what_is_filled_of_the_cavity(self) -> None:
        found = check_fit(
            boxes(
                ((10, 10, 5), (5, 5, 5)), ((20, 10, 5), (5, 40, 5)), enclosure={"outer_mm": [54, 84, 24], "wall_mm": 2}
            )
        )
        self.assertAlmostEqual(found.filled_share, (500 + 1000) / (50 * 80 * 20))

    def test_what_needs_no_room(self) -> None:
        wire = {
            "type": "pass",
            "id": "w",
            "name": "Wire",
            "input": "battery",
            "role": "wire",
            "resistance_ohm": 0.1,
            "limit_a": 2,
        }
        parts = [
            part("led", state("on", 1e-3), parasitic=True),
            part("stick", state("on", 1e-3), plugged_by_user=True),
            part("chip", state("on", 1e-3)),
        ]
        modes = [{"id": "asleep", "name": "Asleep", "uses": [use(p["id"], "on") for p in parts]}]
        gadget = design(
            parts=parts,
            modes=modes,
            day={"rest": "asleep"},
            supply={"stages": [wire, LINEAR | {"input": "w"}], "rails": MAIN},
        )
        self.assertEqual([t.name for t in things(gadget)], ["chip", "Regulator", "Test cell"])

    def test_pouches_on_each_other_swell_along_their_pile(self) -> None:
        def pile(size: list[float], series: int) -> tuple[float, int]:
            body = {"size_mm": size, "position_mm": [5, 5, 5]}
            return swelling_mm(design(battery={"cell": cell(size_mm=[34, 12, 6]), "series": series, "body": body}))

        self.assertEqual(pile([34, 12, 12], 2)[1], 1)  # both sides are as long: the first
        self.assertEqual(pile([34, 12, 18], 3), (1.8, 2))
        self.assertEqual(pile([6, 34, 12], 1)[1], 0)
        self.assertEqual(
            swelling_mm(design(battery={"cell": cell(form="cylinder"), "body": {"size_mm": [6, 34, 12]}})), (0.0, 0)
        )

    def test_the_shortest_move_that_settles_a_body(self) -> None:
        """3 mm into each other along x, 0.5 mm wanted between: 3.51 mm apart; the other ways are longer."""
        gadget = boxes(((10, 10, 5), (20, 30, 5)), ((10, 10, 5), (27, 30, 5)))
        remedy = seen(gadget, "collision")[0].remedy
        assert remedy
        after = apply(gadget, remedy)
        self.assertFalse(seen(after, "collision") or seen(after, "tight-gap"))
        moved = [
            abs(a - b)
            for p, q in zip(after.parts, gadget.parts, strict=True)
            for a, b in zip(p.body.position_mm, q.body.position_mm, strict=True)
        ]  # type: ignore[union-attr,arg-type]
        self.assertAlmostEqual(sum(moved), 3.51, places=3)

    def test_a_move_along_z_where_that_is_shorter(self) -> None:
        gadget = boxes(((20, 20, 4), (20, 30, 5)), ((20, 20, 4), (22, 32, 8)))
        remedy = seen(gadget, "collision")[0].remedy
        assert remedy
        self.assertIn("along z", remedy.label)
        self.assertFalse(seen(apply(gadget, remedy), "collision"))

    def test_a_body_at_a_wall_moves_off_it(self) -> None:
        for at, axis in (((1.0, 30, 5), 0), ((47.9, 30, 5), 0), ((20, 1.0, 5), 1), ((20, 30, 1.0), 2)):
            gadget = boxes(((10, 10, 5), at))
            finding = next(f for f in (*seen(gadget, "collision"), *seen(gadget, "tight-gap")))
            assert finding.remedy
            after = apply(gadget, finding.remedy)
            self.assertFalse(seen(after, "collision") or seen(after, "tight-gap"), at)
            changed = [i for i in range(3) if after.parts[0].body.position_mm[i] != at[i]]  # type: ignore[union-attr,index]
            self.assertEqual(changed, [axis])

    def test_a_larger_case_where_nothing_can_move_and_the_brief_allows(self) -> None:
        tall = (((20, 20, 19.9), (20, 30, 2.4)),)  # 24 mm outside, walls of 2 mm: 1.7 mm too tall for its clearance
        free = boxes(*tall, through="left")
        finding = next(f for f in (*seen(free, "collision"), *seen(free, "tight-gap")))
        assert finding.remedy
        self.assertIn("larger along z", finding.remedy.label)
        after = apply(free, finding.remedy)
        self.assertEqual(after.enclosure.outer_mm[2] % 0.5, 0)
        self.assertFalse(seen(after, "collision"))
        limited = boxes(*tall, through="left", brief=BRIEF | {"outer_max_mm": [60, 90, 24]})
        self.assertIsNone(next(f for f in (*seen(limited, "collision"), *seen(limited, "tight-gap"))).remedy)

    def test_touching_is_no_overlap(self) -> None:
        touching = boxes(((10, 10, 5), (20, 30, 5)), ((10, 10, 5), (30, 30, 5)))
        self.assertFalse(seen(touching, "collision"))
        self.assertTrue(seen(touching, "tight-gap"))
        apart = boxes(((10, 10, 5), (20, 30, 5)), ((10, 10, 5), (30.5, 30, 5)))
        self.assertFalse(seen(apart, "tight-gap"))


class StrongerCells(unittest.TestCase):
    STRAIGHT = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}

    def weak(self, amps: float, **more: Any) -> Design:
        chip = part("chip", state("sleep", 1e-5), state("active", amps))
        pack = {
            "cell": cell(capacity_ah=0.1, discharge_max_a=0.05, resistance_ohm=0.8),
            "wiring_ohm": 0,
            "body": {"size_mm": [34, 50, 5], "position_mm": [4, 4, 4]},
        }
        return design(**({"parts": [chip], "supply": self.STRAIGHT, "battery": pack} | more))

    def test_the_smallest_that_gives_the_peak_and_lasts_longer(self) -> None:
        gadget = self.weak(0.3)
        remedy = seen(gadget, "peak-current")[0].remedy
        assert remedy
        after = apply(gadget, remedy)
        self.assertGreaterEqual(after.battery.cell.discharge_max_a, 0.3)
        self.assertFalse(seen(after, "peak-current"))
        self.assertEqual(after.battery.parallel, 1)
        assert after.battery.body
        self.assertEqual(
            sorted(after.battery.body.size_mm),
            sorted(after.battery.cell.size_mm) if after.battery.series == 1 else sorted(after.battery.body.size_mm),
        )

    def test_with_a_charger_only_rechargeable_ones(self) -> None:
        charger = {"name": "C", "program_constant_v": 1000, "program_ohm": 20000, "rth_ja_c_per_w": 5}
        remedy = seen(self.weak(0.3, charger=charger), "peak-current")[0].remedy
        assert remedy
        self.assertIn(
            apply(self.weak(0.3, charger=charger), remedy).battery.cell.chemistry,
            ("lithium-ion", "lithium-iron-phosphate"),
        )

    def test_what_its_rail_never_gives_is_no_fault_of_the_cell(self) -> None:
        chip = part("chip", state("sleep", 1e-5), state("active", 0.1), supply_min_v=4.5)
        self.assertFalse(seen(design(parts=[chip], supply=self.STRAIGHT), "small-cell"))


class Rails(unittest.TestCase):
    def test_a_rail_without_a_source_gets_one_that_carries_all_its_parts(self) -> None:
        """Two parts of 0.12 A each: a frugal boost of 150 mA would be the least thirsty one, and could not."""
        heavy = [part(k, state("idle", 0.001), state("work", 0.12), rail="five") for k in ("a", "b")]
        chip = part("chip", state("sleep", 1e-3), state("active", 0.1))
        modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep"), use("a", "idle"), use("b", "idle")]},
                 {"id": "awake", "name": "Awake", "uses": [use("chip", "active"), use("a", "work"), use("b", "work")]}]  # fmt: skip
        rails = [*MAIN, {"id": "five", "name": "Five", "feed": "usb"}]
        gadget = design(parts=[chip, *heavy], modes=modes, supply={"sources": [USB], "stages": [LINEAR], "rails": rails},
                        battery={"cell": cell(capacity_ah=3, discharge_max_a=6, resistance_ohm=0.05), "wiring_ohm": 0})  # fmt: skip
        remedy = seen(gadget, "no-source")[0].remedy
        assert remedy
        made = apply(gadget, remedy).supply.stages[-1]
        self.assertGreaterEqual(made.limit_a, 0.24)
        self.assertFalse(seen(apply(gadget, remedy), "mode-fails-at-once"))

    def test_a_pin_that_is_lifted_too_high_on_both_sides(self) -> None:
        def divided(lower: float) -> Design:
            on = {"name": "on", "draw": {"behaviour": "resistor", "resistance_ohm": {"typical": 1e6 + lower}}}
            divider = part("divider", on, rail="raw", divider={"upper_ohm": 1e6, "lower_ohm": lower, "reader": "chip"})
            chip = part("chip", state("sleep", 1e-5), state("active", 0.05), kind="controller")
            modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep"), use("divider", "on")]},
                     {"id": "awake", "name": "Awake", "uses": [use("chip", "active"), use("divider", "on")]}]  # fmt: skip
            rails = [*MAIN, {"id": "raw", "name": "Raw", "feed": "battery"}]
            return design(parts=[chip, divider], modes=modes, supply={"stages": [LINEAR], "rails": rails})

        edge = 1e6 * (3.6 / 4.2) / (1 - 3.6 / 4.2)  # 3.6 V of 4.2 V at a chip on 3.3 V
        self.assertFalse(seen(divided(edge * 0.98), "pin-too-high"))
        finding = seen(divided(edge * 1.02), "pin-too-high")[0]
        assert finding.remedy
        after = apply(divided(edge * 1.02), finding.remedy)
        divider = after.parts[1].divider
        assert divider
        self.assertLessEqual(4.2 * divider.lower_ohm / (divider.upper_ohm + divider.lower_ohm), 0.9 * 3.3)
        self.assertAlmostEqual(
            after.parts[1].states[0].draw.resistance_ohm.typical, divider.upper_ohm + divider.lower_ohm
        )  # type: ignore[union-attr]

    def test_a_boost_with_load_disconnect_replaces_one_without(self) -> None:
        rails = [*MAIN, {"id": "five", "name": "Five", "feed": "boost"}]
        amp = part("amp", state("quiet", 0.003), state("loud", 0.1), rail="five", kind="sensor")
        chip = part("chip", state("sleep", 2e-5), state("active", 0.05), kind="controller")
        modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep"), use("amp", "quiet")], "off_stages": ["boost"]},
                 {"id": "awake", "name": "Awake", "uses": [use("chip", "active"), use("amp", "loud")]}]  # fmt: skip
        gadget = design(
            parts=[chip, amp],
            modes=modes,
            supply={"stages": [LINEAR, BOOST | {"load_disconnect": False}], "rails": rails},
        )
        remedy = seen(gadget, "no-disconnect")[0].remedy
        assert remedy
        made = apply(gadget, remedy).supply.stages[1]
        self.assertTrue(made.load_disconnect)  # type: ignore[union-attr]
        self.assertEqual(made.output_v, 5.0)  # type: ignore[union-attr]
