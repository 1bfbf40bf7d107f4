"""The room of a pack, and a pack in the place of another."""

from __future__ import annotations

import unittest
from typing import Any

from ember_core.battery.ageing import fade
from ember_core.battery.pack import capacity_shares, pack_at, pack_size_mm, weakest_of
from ember_core.catalogue import built_in
from ember_core.design import Battery, Body, Cell, Design
from ember_core.measures.edits import pack_patch

from .gadgets import cell, design, part, state, use


def a_cell(form: str, size: tuple[float, float, float]) -> Cell:
    return Cell.model_validate(cell(form=form, size_mm=list(size)))


def holding(battery: Battery, outer: list[float] | None = None, *parts: dict[str, Any]) -> Design:
    uses = [use(p["id"], "on") for p in parts]
    more = (
        {"parts": [*parts], "modes": [{"id": "on", "name": "On", "uses": uses}], "day": {"rest": "on"}} if parts else {}
    )
    case = {"outer_mm": outer or [200, 200, 200], "wall_mm": 2}
    return design(battery=battery.model_dump(mode="json"), enclosure=case, **more)


class Room(unittest.TestCase):
    def test_pouches_and_coins_lie_on_each_other(self) -> None:
        self.assertEqual(pack_size_mm(a_cell("pouch", (30, 40, 5)), 3), (30, 40, 15))
        self.assertEqual(pack_size_mm(a_cell("coin", (20, 20, 3.2)), 2), (20, 20, 6.4))
        self.assertEqual(pack_size_mm(a_cell("coin", (3.2, 20, 20)), 2), (6.4, 20, 20))

    def test_cylinders_stand_beside_each_other_and_from_four_on_in_two_layers(self) -> None:
        aa = a_cell("cylinder", (14, 50, 14))
        sizes = {1: (14, 50, 14), 2: (28, 50, 14), 3: (42, 50, 14), 4: (28, 50, 28), 5: (42, 50, 28), 6: (42, 50, 28)}
        for count, size in sizes.items():
            self.assertEqual(pack_size_mm(aa, count), size)

    def test_the_whole_pack_takes_the_place_of_the_old_one_as_it_lies(self) -> None:
        old = Battery(cell=a_cell("pouch", (30, 40, 5)), body=Body(size_mm=(5, 30, 40), position_mm=(3, 4, 5)))
        new = old.model_copy(update={"cell": a_cell("pouch", (34, 50, 6)), "series": 2, "age_years": 3})
        patch = {p.path: p.value for p in pack_patch(holding(old), new)}
        self.assertEqual(patch["/battery/body"]["size_mm"], [12, 34, 50])
        self.assertEqual(patch["/battery/body"]["position_mm"], [3, 4, 5])
        self.assertEqual(patch["/battery/series"], 2)
        self.assertNotIn("/battery/age_years", patch)  # new cells, and the old ones were new

    def test_a_pack_without_a_body_gets_one(self) -> None:
        old = Battery(cell=a_cell("cylinder", (14, 50, 14)))
        new = old.model_copy(update={"series": 3})
        patch = {p.path: p.value for p in pack_patch(holding(old), new)}
        self.assertEqual(
            (patch["/battery/body"]["size_mm"], patch["/battery/body"]["position_mm"]), ([42, 50, 14], None)
        )

    def larger(self, outer: list[float], *parts: dict[str, Any]) -> list[float] | None:
        """Where a pack of twice the length goes that lay at 3, 3, 3."""
        old = Battery(cell=a_cell("pouch", (20, 20, 5)), body=Body(size_mm=(20, 20, 5), position_mm=(3, 3, 3)))
        new = old.model_copy(update={"cell": a_cell("pouch", (40, 20, 5))})
        gadget = holding(old, outer, *parts)
        return next(p.value for p in pack_patch(gadget, new) if p.path == "/battery/body")["position_mm"]  # type: ignore[no-any-return]

    def test_a_larger_pack_gives_way_to_what_is_there(self) -> None:
        blocks = part("chip", state("on", 0.0), body={"size_mm": [20, 5, 5], "position_mm": [3, 35, 3]})
        self.assertEqual(self.larger([60, 100, 30]), [3, 3, 3])
        moved = self.larger([60, 100, 30], blocks)
        assert moved
        self.assertNotEqual(moved, [3, 3, 3])
        clear = moved[1] + 40 <= 34.5 or moved[1] >= 40.5 or moved[0] >= 23.5 or moved[2] >= 8.5
        self.assertTrue(clear, moved)

    def test_where_there_is_no_room_it_stays_and_collides(self) -> None:
        blocks = part("chip", state("on", 0.0), body={"size_mm": [20, 5, 5], "position_mm": [3, 35, 3]})
        self.assertEqual(self.larger([28, 47, 11], blocks), [3, 3, 3])


class Figures(unittest.TestCase):
    def test_series_adds_voltage_and_resistance_parallel_divides_and_adds_capacity(self) -> None:
        one, two, side = (
            pack_at(Battery.model_validate({"cell": cell(), "wiring_ohm": 0.01} | more), 25.0)
            for more in ({}, {"series": 2}, {"parallel": 2})
        )
        self.assertAlmostEqual(two.open_circuit_v[0], 2 * one.open_circuit_v[0])
        self.assertAlmostEqual(two.resistance_ohm[5] - 0.01, 2 * (one.resistance_ohm[5] - 0.01))
        self.assertAlmostEqual(side.resistance_ohm[5] - 0.01, (one.resistance_ohm[5] - 0.01) / 2)
        self.assertAlmostEqual(side.capacity_ah, 2 * one.capacity_ah)
        self.assertEqual((two.cutoff_v, side.cutoff_v), (6.0, 3.0))
        self.assertEqual((two.discharge_max_a, side.discharge_max_a), (2.0, 4.0))
        self.assertAlmostEqual(side.self_discharge_a, 2 * one.self_discharge_a)
        self.assertAlmostEqual(two.self_discharge_a, one.self_discharge_a)

    def test_the_weakest_of_some_by_order_statistics(self) -> None:
        """David & Nagaraja (2003), table: 0.5642, 0.8463, 1.0294 standard deviations."""
        for count, expected in ((1, 0.0), (2, 0.5642), (3, 0.8463), (4, 1.0294)):
            self.assertAlmostEqual(weakest_of(count), expected, places=3)

    def test_each_share_stands_where_it_belongs(self) -> None:
        plain = Battery.model_validate({"cell": cell(measured_ah=None)})
        keys = [s.key for s in capacity_shares(plain, 25.0)]
        self.assertEqual(keys, ["printed", "temperature"])
        used = Battery.model_validate({"cell": cell(measured_ah=0.8), "series": 2, "age_years": 1})
        shares = {s.key: s.left for s in capacity_shares(used, 25.0)}
        self.assertAlmostEqual(shares["measured"], 0.8)
        self.assertAlmostEqual(shares["age"], fade("lithium-ion", 1, 0, 25.0)[0])
        self.assertLess(shares["weakest"], 1.0)

    def test_every_catalogue_thing_brings_its_body(self) -> None:
        for entry in built_in().entries:
            item = entry.part or entry.stage or entry.charger
            if item is None or getattr(item, "role", None) in ("wire", "board input"):
                continue
            if entry.part is not None and entry.part.plugged_by_user:
                continue
            if entry.key.startswith(
                ("part-screw-", "part-insert-", "part-feet-")
            ):  # their room is that of their post, or outside
                continue
            self.assertIsNotNone(item.body, entry.key)
