"""What a list of parts leaves out: said where it is missing, and not where it is there, outside, or has no place yet."""

from __future__ import annotations

import unittest
from pathlib import Path
from typing import Any

from ember_core import Design, evaluate, read_design
from ember_core.catalogue import built_in

from .gadgets import cell, design, part, seen, state, use

CHARGER = {"name": "Charger", "program_constant_v": 1200, "program_ohm": 1200, "port_limit_a": 1.0}
BODY = {"size_mm": [20, 15, 4], "position_mm": [10, 10, 5]}


def gadget(
    *names: str, charger: dict[str, Any] | None = None, battery: dict[str, Any] | None = None, **first: Any
) -> Design:
    parts = [
        part("chip", state("on", 1e-3), name="Chip", **first),
        *(part(f"p{i}", state("on", 0), name=n) for i, n in enumerate(names)),
    ]
    modes = [{"id": "on", "name": "On", "uses": [use(p["id"], "on") for p in parts]}]
    return design(parts=parts, modes=modes, day={"rest": "on"}, charger=charger, battery={"cell": cell(), **(battery or {})},
                  enclosure={"outer_mm": [80, 80, 40]})  # fmt: skip


class Socket(unittest.TestCase):
    def told(self, *names: str, **charger: Any) -> bool:
        return bool(seen(gadget(*names, charger={**CHARGER, "body": BODY, **charger}), "no-socket"))

    def test_a_charger_that_nothing_leads_to(self) -> None:
        self.assertTrue(self.told())
        self.assertTrue(self.told("Screw"))

    def test_one_that_can_be_reached(self) -> None:
        self.assertFalse(self.told("Type-C charging socket"))
        self.assertFalse(self.told(body={**BODY, "position_mm": [10, 0, 5], "through": "front"}))
        self.assertFalse(self.told(body={**BODY, "zones": [{"kind": "plug", "side": "front", "depth_mm": 10}]}))
        self.assertFalse(self.told(name="Charger board with port"))
        for name in (
            "Type-C socket on a small board",
            "Micro USB socket on a small board",
            "Barrel socket, 5.5 mm",
            "Charging pads for spring pins",
            "USB-C port",
        ):
            self.assertFalse(self.told(name), name)

    def test_other_sockets_charge_nothing(self) -> None:
        for name in (
            "Port expander, 16 pins",
            "Sound socket, 3.5 mm",
            "Supporting ring",
            "Plug and socket, 3 pins",
            "Memory card in its holder",
        ):
            self.assertTrue(self.told(name), name)

    def test_one_that_needs_none_or_has_no_place_yet(self) -> None:
        self.assertFalse(self.told(port={"kind": "wireless"}))
        self.assertTrue(self.told(port={"kind": "usb"}))
        self.assertFalse(self.told(body={**BODY, "position_mm": None}))
        self.assertFalse(self.told(outside=True))
        self.assertFalse(seen(gadget(), "no-socket"))


class Holder(unittest.TestCase):
    def told(self, *names: str, **battery: Any) -> list[Any]:
        return seen(gadget(*names, battery=battery), "no-holder")

    def test_cells_that_are_swapped_want_one(self) -> None:
        round_cell = cell(form="cylinder")
        one = self.told(cell=round_cell)
        self.assertIn(": it is swapped", one[0].sentence)
        two = self.told(cell=round_cell, series=2)
        self.assertIn(": they are swapped", two[0].sentence)
        for name in ("Battery holder, 2 × AA", "Battery clip", "Spring contacts, battery"):
            self.assertEqual(self.told(name, cell=round_cell), [])

    def test_every_holder_of_the_catalogue_is_one_and_what_holds_something_else_is_none(self) -> None:
        round_cell = cell(form="cylinder")
        holders = [
            p.name
            for p in built_in().parts
            if p.name.startswith(("Battery holder", "Battery clip", "Battery contacts"))
        ]
        self.assertGreater(len(holders), 12)
        for name in holders:
            self.assertEqual(self.told(name, cell=round_cell), [], name)
        for name in (
            "Memory card in its holder (MC)",
            "Card holder, small",
            "Antenna, spring, 868 MHz class",
            "Fuse holder in the lead",
        ):
            self.assertEqual(len(self.told(name, cell=round_cell)), 1, name)

    def test_cells_that_stay_in_want_none(self) -> None:
        self.assertEqual(self.told(cell=cell(form="pouch")), [])
        self.assertEqual(seen(gadget(charger=CHARGER, battery={"cell": cell(form="cylinder")}), "no-holder"), [])


class Antenna(unittest.TestCase):
    def told(self, *names: str, **first: Any) -> bool:
        return bool(seen(gadget(*names, **first), "no-antenna"))

    def test_a_radio_wants_one(self) -> None:
        zone = {"kind": "antenna", "side": "front", "depth_mm": 5}
        self.assertTrue(self.told(kind="radio", body=BODY))
        self.assertFalse(self.told(kind="radio", body={**BODY, "zones": [zone]}))
        self.assertFalse(self.told("Antenna, stuck on", kind="radio", body=BODY))
        self.assertFalse(self.told(kind="sensor", body=BODY))
        self.assertFalse(self.told(kind="radio", body=None))  # nothing is known of its room

    def test_radios_of_the_catalogue_have_their_zone_or_are_told(self) -> None:
        radios = [p for p in built_in().parts if p.kind == "radio" and p.body is not None]
        bare = [p.name for p in radios if p.body and not any(z.kind == "antenna" for z in p.body.zones)]
        self.assertGreater(len(radios), len(bare))
        self.assertEqual(
            bare,
            [
                n
                for n in bare
                if any(w in n for w in ("cellular", "modem", "module", "Positioning", "receiver", "transceiver", "tag"))
            ],
            bare,
        )


class Bill(unittest.TestCase):
    def test_small_things_stand_in_the_bill_and_cost_nothing_more(self) -> None:
        raw = gadget(charger={**CHARGER, "program_ohm": 2000, "fixed_a": None}).model_dump(mode="json")
        post = {
            "name": "Post",
            "kind": "screw",
            "thread": "M2",
            "body": {"size_mm": [5, 5, 20], "position_mm": [3, 3, 3], "shape": "cylinder", "along": "z"},
        }
        raw["enclosure"]["fastenings"] = [
            {**post, "id": f"s{i}", "body": {**post["body"], "position_mm": [3 + 8 * i, 3, 3]}} for i in range(3)
        ]
        made = evaluate(Design.model_validate(raw)).totals
        lines = {b.name: b.quantity for b in made.bill}
        self.assertEqual(lines["Screw M2"], 3)
        self.assertEqual(
            [n for n in lines if n.startswith("Resistor 2")], ["Resistor 2\u00a0kΩ, sets " + raw["charger"]["name"]]
        )
        self.assertAlmostEqual(sum(b.cost for b in made.bill), made.cost.value or 0)
        self.assertAlmostEqual(sum(b.mass_g for b in made.bill), made.mass.value or 0)
        self.assertEqual(
            [b.name for b in made.bill if b.small], ["Screw M2", "Resistor 2\u00a0kΩ, sets " + raw["charger"]["name"]]
        )

    def test_that_they_are_neither_weighed_nor_priced_speaks_against_nothing(self) -> None:
        ear = read_design((Path(__file__).resolve().parents[2] / "demo" / "dusk-ear.json").read_bytes())
        result = evaluate(ear)
        self.assertTrue(any(b.small for b in result.totals.bill))
        self.assertEqual(
            {v.key: v.status for v in result.verdicts if v.key in ("mass", "cost")}, {"mass": "pass", "cost": "pass"}
        )


if __name__ == "__main__":
    unittest.main()
