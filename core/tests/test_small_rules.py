"""Small rules at both sides of where they turn: what is told of many errors, how texts are taken apart, what a figure falls back to."""

from __future__ import annotations

import unittest
from types import SimpleNamespace

from ember_core import DocumentError, build_design
from ember_core.catalogue import built_in
from ember_core.choosing import answer_choice
from ember_core.design import PowerDraw
from ember_core.design.phases import phases
from ember_core.design.upgrades import _float_voltage_of_each_cell
from ember_core.findings.battery.bank import capacity_lost
from ember_core.findings.charge.refill import gentle
from ember_core.imports.grid_text import read_cell
from ember_core.imports.recognise import _reads
from ember_core.imports.tables import read_rows
from ember_core.imports.workbook import _text_rows
from ember_core.measures.bench import TrialBench
from ember_core.planning.sheets import _sheet_name
from ember_core.quantities import parse_span
from ember_core.schools.packs import PackChoice, gives
from ember_core.studies.trials import Held

from .gadgets import asleep, cell, design, document, part, state, use


class Errors(unittest.TestCase):
    def test_of_many_errors_fifty_are_told(self) -> None:
        for count, told in ((5, 15), (16, 48), (17, 50), (70, 50)):  # three each: the figure, its least and its most
            parts = [part(f"p{i}", state("on", -1.0)) for i in range(count)]
            with self.assertRaises(DocumentError) as caught:
                build_design(document(parts=parts))
            self.assertEqual(len([p for p in caught.exception.problems if "current_a" in p.path]), told)


class FallenBackOn(unittest.TestCase):
    def test_a_power_bank_gives_what_is_asked_a_cell_what_it_is_made_for(self) -> None:
        own = design(battery={"cell": cell(discharge_max_a=2.0, cutoff_v=3.0)}).battery.cell
        bank = next(e.cell for e in built_in().entries if e.cell is not None and e.cell.bank is not None)
        for series in (1, 2, 3):
            peak = 6.0 * series
            self.assertTrue(gives(PackChoice(own, series), peak))
            self.assertFalse(gives(PackChoice(own, series), peak + 0.01))
        self.assertTrue(gives(PackChoice(bank, 1), 10 * bank.discharge_max_a * bank.cutoff_v))

    def test_a_float_voltage_of_the_terminals_is_shared_by_its_cells(self) -> None:
        for whole, cells in (
            (0.0, 1),
            (1.4, 1),
            (3.65, 1),
            (5.9, 1),
            (6.1, 2),
            (8.4, 2),
            (12.6, 3),
            (99.0, 24),
            (101.0, 1),
        ):
            found = _float_voltage_of_each_cell({"float_v": whole})
            self.assertEqual(found, {"cells_in_series": cells, "float_v_per_cell": whole / cells})

    def test_a_bare_number_is_grams_in_a_column_of_masses_and_no_current(self) -> None:
        self.assertTrue(_reads("12", "mass", None))
        self.assertFalse(_reads("12", "current", None))
        self.assertFalse(_reads("12 mA", "mass", None))

    def test_marks_of_what_gets_worse_are_three_at_most(self) -> None:
        verdicts = [SimpleNamespace(label=f"V{i}", word="bad") for i in range(4)]
        for bars, said in (
            (0, ["v0: bad", "v1: bad", "v2: bad"]),
            (1, ["v0: bad", "v1: bad", "1 finding more"]),
            (2, ["v0: bad", "v1: bad", "2 findings more"]),
        ):
            held = SimpleNamespace(worse_verdicts=verdicts, bars=[f"b{i}" for i in range(bars)], worse=["V1: bad."])
            self.assertEqual(Held.marks.fget(held), said)  # type: ignore[attr-defined]

    def test_a_fixed_charger_is_not_set(self) -> None:
        charger = next(
            e.charger for e in built_in().entries if e.charger and e.charger.fixed_a and not e.charger.steps_a
        )
        self.assertIs(gentle(TrialBench(design(), built_in()), charger), charger)


class Texts(unittest.TestCase):
    def test_what_a_sheet_may_be_named(self) -> None:
        for title, name in (
            ("Bill: 40 × [a/b]", "Bill 40 × ab"),
            ("[]:*", "Bill"),
            ("x" * 31, "x" * 31),
            ("x" * 32, "x" * 31),
        ):
            self.assertEqual(_sheet_name(title), name)

    def test_a_heading_with_one_of_each_is_parted_by_commas(self) -> None:
        self.assertEqual(read_rows(b"part,sleep;mA\nBrain,1;2\n"), [["part", "sleep;mA"], ["Brain", "1;2"]])
        self.assertEqual(read_rows(b"part;sleep;mA,1\nBrain;1;2\n")[0], ["part", "sleep", "mA,1"])

    def test_rows_of_one_cell_do_not_tell_what_parts_the_others(self) -> None:
        """Four rows of a single cell would be as even as two of two; the two decide."""
        raw = b"Parts\nof\nthe\ngadget\nBrain;1,5\nRadio;2,5\n"
        self.assertEqual(_text_rows(raw)[-1], ["Radio", "2,5"])

    def test_a_range_may_be_sixty_signs_long(self) -> None:
        for length, spanned in ((60, True), (61, False)):
            typed = "100-140" + " " * (length - 10) + " mA"
            self.assertEqual(len(typed), length)
            if spanned:
                self.assertEqual(parse_span(typed, "current").min, 0.1)
            else:
                with self.assertRaises(ValueError):
                    parse_span(typed, "current")

    def test_a_current_is_typed_into_the_state_that_the_cell_has(self) -> None:
        warm = {"name": "warm", "draw": {"behaviour": "power", "power_w": {"typical": 0.1}}, "provenance": "datasheet"}
        chip = design(
            parts=[part("chip", state("off", 1e-6), warm)], modes=asleep(use("chip", "off")), day={"rest": "asleep"}
        ).parts[0]
        draw = read_cell("10 mA", chip, "warm", 3.0).draw
        assert isinstance(draw, PowerDraw)
        self.assertAlmostEqual(draw.power_w.typical, 0.03)
        self.assertEqual(read_cell("10 mA", chip, "off", 3.0).draw.behaviour, "current")  # type: ignore[union-attr]


class Figures(unittest.TestCase):
    def test_a_burst_that_fills_its_period_leaves_nothing_over(self) -> None:
        for seconds, count in ((4.0, 2), (4.999, 3), (5.0, 2)):
            burst = [
                {"state": "sleep", "seconds": 1.0},
                {"state": "active", "seconds": seconds - 1.0},
            ]
            period = max(4.0, round(seconds))
            modes = [
                {"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep")]},
                {"id": "awake", "name": "Awake", "uses": [use("chip", "active", burst=burst, period_s=period)]},
            ]
            gadget = design(modes=modes)
            self.assertEqual(len(phases(gadget.modes[1].uses[0], gadget.parts[0])), count, seconds)

    def test_a_gadget_without_parts_is_not_searched(self) -> None:
        empty = design().model_copy(update={"parts": []})
        empty = empty.model_copy(update={"modes": [m.model_copy(update={"uses": []}) for m in empty.modes]})
        answer = answer_choice(TrialBench(empty, built_in()))
        self.assertEqual((answer.rows, answer.solved, answer.left_out), ([], 0, []))

    def test_nothing_is_lost_where_nothing_runs(self) -> None:
        gadget = design(
            parts=[part("chip", state("off", 0.0))], modes=asleep(use("chip", "off")), day={"rest": "asleep"}
        )
        self.assertEqual(list(capacity_lost(TrialBench(gadget, built_in()))), [])


if __name__ == "__main__":
    unittest.main()
