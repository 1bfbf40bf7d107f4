"""Chargers as CSV: what is written is read again, and what is wrong is said with its row and column."""

import unittest

from ember_core.catalogue import built_in
from ember_core.design.problems import DocumentError
from ember_core.imports.charger_list import is_charger_list, read_charger_list, write_charger_list

LEAST = "name,float voltage [V]\n"


def problem(text: str) -> str:
    try:
        read_charger_list(text.encode())
    except DocumentError as error:
        return "; ".join(f"{p.path}: {p.message}" for p in error.problems)
    raise AssertionError("read without a problem")


class BothWays(unittest.TestCase):
    def test_the_whole_catalogue_comes_back_as_it_went(self) -> None:
        own = [
            c.model_copy(update={"port": None, "mode": None, "body": c.body and type(c.body)(size_mm=c.body.size_mm)})
            for c in built_in().chargers
        ]
        self.assertEqual(read_charger_list(write_charger_list(own).encode()), own)

    def test_a_name_that_looks_like_a_formula_is_disarmed_and_comes_back(self) -> None:
        own = [built_in().chargers[0].model_copy(update={"name": "=1+1", "body": None, "port": None})]
        text = write_charger_list(own)
        self.assertIn("'=1+1", text)
        self.assertEqual(read_charger_list(text.encode())[0].name, "=1+1")

    def test_it_is_told_from_a_parts_list_by_its_float_voltage(self) -> None:
        self.assertTrue(is_charger_list(b"name,Float voltage [V]\n"))
        self.assertFalse(is_charger_list("name,sleep [µA]\n".encode()))


class AsPeopleWriteThem(unittest.TestCase):
    def test_the_least_of_columns_and_units_in_headings_and_cells(self) -> None:
        text = (
            "Name;Float  Voltage [V];charge current [mA];steps;timer;folds back at;power path;size\n"
            "Mine;4,1;250;100 mA / 0.25 A;never;never;Yes;20 x 10 x 3\n"
        )
        [mine] = read_charger_list(text.encode())
        self.assertEqual((mine.float_v_per_cell, mine.fixed_a, mine.steps_a), (4.1, 0.25, [0.1, 0.25]))
        self.assertEqual((mine.timer_h, mine.foldback_c, mine.power_path), (None, None, True))
        assert mine.body is not None
        self.assertEqual(mine.body.size_mm, (20, 10, 3))
        self.assertEqual(mine.method, "cc-cv")

    def test_shares_and_hours(self) -> None:
        [mine] = read_charger_list(b"name,float voltage,ends at,timer\nMine,4.2 V,7 %,90 min\n")
        self.assertEqual((mine.termination_share, mine.timer_h), (0.07, 1.5))


class WhatIsWrong(unittest.TestCase):
    def test_each_with_its_place(self) -> None:
        for text, said in (
            (LEAST + "Mine,9\n", "row 2, float voltage: 9.0 must be 5 or less"),
            (LEAST + "Mine,\n", "row 2: has no float voltage"),
            (LEAST + "Mine,nan\n", "row 2, float voltage [V]"),
            (LEAST + "Mine,4.2\nMine,4.2\n", "row 3, name: 'Mine' is there twice"),
            (LEAST, "has a heading but no chargers"),
            (
                "name,float voltage,power path\nMine,4.2 V,perhaps\n",
                "row 2, power path: 'perhaps' is neither yes nor no",
            ),
            ("name,float voltage,resistor\nMine,4.2 V,0 Ω\n", "row 2, resistor"),
            ("name,float voltage,ends by\nMine,4.2 V,luck\n", "row 2, ends by"),
            ("name,float voltage,colour\nMine,4.2 V,red\n", "row 1: has a column 'colour' that is none of"),
            ("name,float voltage,steps\nMine,4.2 V,0.1 A / soon\n", "row 2, steps"),
        ):
            with self.subTest(text):
                self.assertIn(said, problem(text))

    def test_a_row_may_have_several_problems(self) -> None:
        self.assertEqual(problem("name,float voltage,timer,cost\nMine,4.2 V,soon,much\n").count("row 2"), 2)


if __name__ == "__main__":
    unittest.main()
