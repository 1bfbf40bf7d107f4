"""Older documents are read as the present format, step by step, and nothing of them is lost."""

from __future__ import annotations

import json
import random
import unittest
from pathlib import Path
from typing import Any

from ember_core import DocumentError, build_design, read_design
from ember_core.catalogue import read_entries, read_entry
from ember_core.design.upgrades import FORMAT, READABLE, upgraded, upgraded_piece

from .gadgets import cell, document

HERE = Path(__file__).parent
OLDER = json.loads((HERE / "data" / "older" / "dusk-ear-2.json").read_text())
PRESENT = json.loads((HERE / "data" / "older" / "dusk-ear-3.json").read_text())  # the same gadget
for _stage in PRESENT["supply"]["stages"]:
    _stage.pop("protects", None)  # is new, and in the demo since

OLD_PART: dict[str, Any] = {
    "id": "glow", "name": "Glow", "kind": "lamp", "rail": "main", "passenger": True, "supply_min_v": 2.0, "supply_high_v": 3.4,
    "supply_max_v": 3.6,
    "states": [{"name": "on", "draw": {"behaviour": "lamp", "forward_v": 2.0,
                                       "resistance_ohm": {"typical": 1000, "least": 900, "most": 1100}}}],
}  # fmt: skip
OLD_STAGES: list[dict[str, Any]] = [
    {"type": "switching", "id": "boost", "name": "B", "input": "battery", "topology": "boost", "output_v": 5, "limit_a": 1,
     "points": [{"current_a": 0.1, "efficiency": 0.9, "input_v": 3.7}], "quiescent_a": 1e-5, "running_min_v": 2,
     "starting_min_v": 2.2, "disconnects": False, "theta_c_per_w": 60},
    {"type": "either", "id": "or", "name": "O", "input": "battery", "other": "usb", "limit_a": 1},
    {"type": "series", "id": "sw", "name": "S", "input": "or", "resistance_ohm": 0.1, "limit_a": 1},
    {"type": "shunt", "id": "clamp", "name": "C", "input": "sw", "output_v": 3, "resistance_ohm": 100, "limit_a": 1},
]  # fmt: skip
OLD_CURVE = {
    "charge": [0, 1],
    "open_circuit_v": [3, 4],
    "resistance_ohm": [0.1, 0.1],
    "fast_ohm": 0.05,
    "left_behind_h": 0.2,
}
OLD_BANK = {"own_a": 0.004, "least_a": 0.05}


def old_document() -> dict[str, Any]:
    base = document(format="frugal-ember/2")
    base["parts"].append(OLD_PART)
    base["supply"]["stages"] += OLD_STAGES
    base["supply"]["sources"] = [{"id": "usb", "name": "U", "least_a": 0.06}]
    base["battery"]["cell"] = cell(measured_ah=None) | {"curve": OLD_CURVE}
    base["charger"] = {"name": "C", "programming_v": 900, "programming_ohm": 2000, "theta_c_per_w": 70}
    return base


class Documents(unittest.TestCase):
    def test_a_gadget_of_the_second_format_is_the_same_in_the_third(self) -> None:
        self.assertEqual(OLDER["format"], "frugal-ember/2")
        self.assertEqual(build_design(OLDER), build_design(PRESENT))
        self.assertEqual(read_design(json.dumps(OLDER)).model_dump(mode="json")["format"], FORMAT)

    def test_each_new_name_has_the_figure_of_the_old_one(self) -> None:
        new = build_design(old_document())
        glow = new.parts[-1]
        self.assertEqual((glow.kind, glow.parasitic), ("led", True))
        self.assertEqual((glow.supply_recommended_max_v, glow.supply_absolute_max_v), (3.4, 3.6))
        draw = glow.states[0].draw
        assert draw.behaviour == "led"
        self.assertEqual((draw.resistance_ohm.min, draw.resistance_ohm.max), (900, 1100))
        boost = new.supply.stages[1]
        assert boost.type == "switching"
        self.assertEqual((boost.undervoltage_lockout_v, boost.start_up_v, boost.load_disconnect), (2, 2.2, False))
        self.assertEqual(boost.rth_ja_c_per_w, 60)
        self.assertEqual([s.type for s in new.supply.stages[2:]], ["power-or", "pass", "shunt-regulator"])
        self.assertEqual(new.supply.sources[0].auto_shutoff_a, 0.06)
        curve = new.battery.cell.curve
        assert curve and new.charger
        self.assertEqual((curve.soc, curve.r0_ohm, curve.unavailable_h), ([0, 1], 0.05, 0.2))
        self.assertEqual((new.charger.program_constant_v, new.charger.program_ohm), (900, 2000))
        self.assertEqual(new.charger.rth_ja_c_per_w, 70)

    def test_the_old_name_beside_the_new_one_is_refused_and_nothing_guessed(self) -> None:
        data = old_document()
        data["parts"][-1] = OLD_PART | {"parasitic": False}
        with self.assertRaisesRegex(DocumentError, "passenger: is not a field"):
            build_design(data)

    def test_old_names_in_the_present_format_are_refused(self) -> None:
        with self.assertRaisesRegex(DocumentError, "is not a field of this format"):
            build_design(old_document() | {"format": FORMAT})

    def test_the_input_is_left_as_it_was_and_a_second_pass_changes_nothing(self) -> None:
        before = json.dumps(OLDER)
        once = upgraded(OLDER)
        self.assertEqual(json.dumps(OLDER), before)
        self.assertEqual(upgraded(once), once)
        self.assertEqual(upgraded({"format": "frugal-ember/9"}), {"format": "frugal-ember/9"})

    def test_whatever_shape_it_has_the_chain_leaves_it_to_the_models(self) -> None:
        choose = random.Random(5)
        junk: list[Any] = [None, 3, "lamp", [], {}, [[{}]], {"draw": "lamp"}, True]

        def spoilt(data: Any) -> Any:
            if choose.random() < 0.15:
                return choose.choice(junk)
            if isinstance(data, dict):
                return {k: spoilt(v) for k, v in data.items()}
            return [spoilt(x) for x in data] if isinstance(data, list) else data

        refused = 0
        for version in READABLE[:-1] * 60:
            data = spoilt(old_document())
            if not isinstance(data, dict):
                continue
            try:
                build_design(data | {"format": version})
            except DocumentError:
                refused += 1
        self.assertGreater(refused, 100)


class Pieces(unittest.TestCase):
    """Entries of one's own catalogue are kept without a format."""

    def test_entries_from_before_are_read(self) -> None:
        part = read_entry(json.dumps({"key": "own-glow", "kind": "part", "part": OLD_PART})).part
        assert part
        self.assertTrue(part.parasitic)
        bank = {"key": "own-bank", "kind": "cell", "cell": cell(measured_ah=None) | {"bank": OLD_BANK}}
        charger = {"key": "own-c", "kind": "charger", "charger": {"name": "C", "programming_ohm": 2000, "float_v": 8.4}}
        stage = {"key": "own-s", "kind": "stage", "stage": OLD_STAGES[0]}
        read = read_entries(json.dumps([bank, charger, stage]))
        assert read[0].cell and read[0].cell.bank and read[1].charger and read[2].stage
        self.assertEqual((read[0].cell.bank.idle_a, read[0].cell.bank.auto_shutoff_a), (0.004, 0.05))
        self.assertEqual((read[1].charger.cells_in_series, read[1].charger.program_ohm), (2, 2000))
        self.assertEqual(read[2].stage.rth_ja_c_per_w, 60)

    def test_newer_ones_stay_as_they_are(self) -> None:
        for kind in ("part", "cell", "stage", "charger"):
            for entry in json.loads((HERE.parent / "ember_core" / "catalogue" / "data" / f"{kind}s.json").read_text()):
                self.assertEqual(upgraded_piece(entry["kind"], entry[kind]), entry[kind])
