"""Parts lists with powers, resistances and LEDs, and written ones read again."""

from __future__ import annotations

import unittest

from ember_core.catalogue import built_in, read_entries
from ember_core.design.problems import DocumentError
from ember_core.imports.parts_list import read_parts_list, write_parts_list


class Reading(unittest.TestCase):
    def test_units_tell_what_a_state_draws(self) -> None:
        parts = read_parts_list("name,on,off [µA]\nHeater,4.7 kΩ,0\nBoard,1.5 W,30\nLamp,2 V + 1 kΩ,\n".encode()).parts
        self.assertEqual([p.states[0].draw.behaviour for p in parts], ["resistor", "power", "led"])
        self.assertEqual(parts[1].states[1].draw.current_a.typical, 3e-5)  # type: ignore[union-attr]

    def test_three_figures_are_a_range(self) -> None:
        (chip,) = read_parts_list("name,on\nChip,8 µA / 12 µA / 25 µA\n".encode()).parts
        span = chip.states[0].draw.current_a  # type: ignore[union-attr]
        self.assertEqual((span.min, span.typical, span.max), (8e-6, 12e-6, 25e-6))

    def test_a_range_in_the_wrong_order_or_of_two_is_said(self) -> None:
        for cell, words in (
            ("8 µA / 5 µA / 25 µA", "above the typical"),
            ("8 µA / 12 µA", "nor least / typical / most"),
        ):
            with self.assertRaises(DocumentError) as caught:
                read_parts_list(f"name,on\nChip,{cell}\n".encode())
            self.assertIn(words, str(caught.exception))


class Writing(unittest.TestCase):
    def test_the_whole_catalogue_is_read_back_as_it_was(self) -> None:
        for part in built_in().parts:
            with self.subTest(part.name):
                (again,) = read_parts_list(write_parts_list([part], {}).encode()).parts
                self.assertEqual(
                    (again.name, again.kind, again.supply_absolute_max_v),
                    (part.name, part.kind, part.supply_absolute_max_v),
                )
                self.assertEqual([s.draw.behaviour for s in again.states], [s.draw.behaviour for s in part.states])
                for old, new in zip(part.states, again.states, strict=True):
                    self.assertEqual(old.draw.model_dump(exclude_none=True).keys(), new.draw.model_dump().keys())


class Entries(unittest.TestCase):
    def test_files_that_are_no_catalogue_are_refused(self) -> None:
        for raw, words in (
            ("{}", "not a list"), ('[{"key": "a"}]', "is missing"), ("[" * 60 + "]" * 60, "nested too deeply"),
            ("[" + ",".join(["{}"] * 2001) + "]", "at most 2000"),
        ):  # fmt: skip
            with self.subTest(words), self.assertRaises(DocumentError) as caught:
                read_entries(raw)
            self.assertIn(words, str(caught.exception))
