"""Workbooks and pasted tables as other programs write them: what is read, and what is asked about."""

from __future__ import annotations

import io
import json
import os
import subprocess
import sys
import unittest
import zipfile
from datetime import date
from pathlib import Path
from typing import Any

import openpyxl
import xlsxwriter
from odf.opendocument import OpenDocumentSpreadsheet
from odf.table import Table as OdfTable
from odf.table import TableCell, TableRow
from odf.text import P

from ember_core import DocumentError, evaluate, read_design
from ember_core.design import CurrentDraw
from ember_core.imports.new_gadget import new_gadget
from ember_core.imports.parts_table import (
    PartsRead,
    PartsTable,
    merge_parts,
    parts_or_refused,
    read_parts_table,
)
from ember_core.imports.recognise import Table, split_heading, tables_of
from ember_core.imports.workbook import LARGEST_UNPACKED, MOST_ROWS, read_sheets

ROOT = Path(__file__).resolve().parents[2]
Rows = list[list[Any]]


def by_openpyxl(*sheets: tuple[str, Rows]) -> bytes:
    book = openpyxl.Workbook()
    book.remove(book.active)
    for name, rows in sheets:
        sheet = book.create_sheet(name)
        for row in rows:
            sheet.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def by_xlsxwriter(rows: Rows, **options: Any) -> bytes:
    out = io.BytesIO()
    book = xlsxwriter.Workbook(out, {"in_memory": True})
    sheet = book.add_worksheet("Power")
    for r, row in enumerate(rows):
        for c, cell in enumerate(row):
            if isinstance(cell, str) and cell.startswith("="):
                sheet.write_formula(r, c, cell, value=options.get("value", 0.012))
            elif isinstance(cell, date):
                sheet.write_datetime(r, c, cell, book.add_format({"num_format": "yyyy-mm-dd"}))  # type: ignore[arg-type]
            elif cell is not None:
                sheet.write(r, c, cell)
    for merged in options.get("merged", []):
        sheet.merge_range(*merged)
    if options.get("hidden"):
        sheet.hide()
        book.add_worksheet("Empty").activate()
    book.close()
    return out.getvalue()


def by_odfpy(rows: Rows) -> bytes:
    book = OpenDocumentSpreadsheet()
    table = OdfTable(name="Blatt")
    for row in rows:
        line = TableRow()
        for cell in row:
            if isinstance(cell, int | float):
                made = TableCell(valuetype="float", value=str(cell))
            else:
                made = TableCell(valuetype="string")
                made.addElement(P(text=cell or ""))
            line.addElement(made)
        table.addElement(line)
    book.spreadsheet.addElement(table)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def first(raw: bytes) -> Table:
    return tables_of(read_sheets(raw))[0]


def parts_of(table: Table, **changes: Any) -> PartsRead:
    asked = {
        "columns": [c.model_dump() for c in table.columns],
        "rows": table.rows,
        "numbers": table.numbers,
        **changes,
    }
    return read_parts_table(PartsTable.model_validate(asked))


def currents(read: PartsRead) -> dict[str, dict[str, float]]:
    found = {}
    for part in read.parts:
        found[part.name] = {
            s.name: float(f"{s.draw.current_a.typical:.6g}") for s in part.states if isinstance(s.draw, CurrentDraw)
        }
    return found


BRAIN = {"Brain": {"sleep": 12e-6, "active": 0.046}, "Ear": {"sleep": 0.5e-6, "active": 0.65e-3}}


class TwelveForeignBooks(unittest.TestCase):
    """Each holds the same two parts, the way somebody else would write them down."""

    def reads(self, raw: bytes, expected: dict[str, dict[str, float]] | None = None, **changes: Any) -> PartsRead:
        table = first(raw)
        read = parts_of(table, **changes)
        self.assertEqual([p.message for p in read.problems], [], table.columns)
        lower = {n: {s.lower(): a for s, a in states.items()} for n, states in currents(read).items()}
        self.assertEqual(lower, BRAIN if expected is None else expected)
        return read

    def test_1_units_in_the_heading(self) -> None:
        self.reads(by_openpyxl(("A", [["Part", "Sleep (µA)", "Active [mA]"], ["Brain", 12, 46], ["Ear", 0.5, 0.65]])))

    def test_2_units_in_the_cells(self) -> None:
        self.reads(
            by_xlsxwriter([["Component", "Sleep", "Active"], ["Brain", "12 µA", "46mA"], ["Ear", "500 nA", "0,65 mA"]])
        )

    def test_3_units_in_a_row_of_their_own(self) -> None:
        self.reads(by_odfpy([["Item", "sleep", "active"], ["", "uA", "[mA]"], ["Brain", 12, 46], ["Ear", 0.5, 0.65]]))

    def test_4_a_title_above_an_empty_row_and_a_total_below(self) -> None:
        rows = [["Owl box, second try"], [], ["Module", "Sleep current uA", "Active current, mA"], ["Brain", 12, 46], ["Ear", 0.5, 0.65],
                ["Total", 12.5, 46.65]]  # fmt: skip
        raw = by_openpyxl(("Owl", rows))
        self.reads(raw)
        table = first(raw)
        self.assertEqual((table.numbers, table.notes), ([4, 5], ["Left out as a total: row 6."]))

    def test_5_formulas_by_the_value_that_is_kept(self) -> None:
        rows = [["name", "sleep [µA]", "active"], ["Brain", 12, "46 mA"], ["Ear", "=0.25*2", "0.65 mA"]]
        self.reads(by_xlsxwriter(rows, value=0.5))

    def test_6_a_cell_merged_over_the_rows_of_one_rail(self) -> None:
        rows = [["rail", "name", "sleep uA", "active mA"], [None, "Brain", 12, 46], [None, "Ear", 0.5, 0.65]]
        read = self.reads(by_xlsxwriter(rows, merged=[(1, 0, 2, 0, "3.3 V")]))
        self.assertEqual([p.rail for p in read.parts], ["3-3-v", "3-3-v"])

    def test_7_two_tables_on_one_sheet_the_parts_come_first(self) -> None:
        rows = [
            ["Cell", "Volts"],
            ["Pouch", 3.7],
            [],
            ["Device", "Sleep µA", "Active mA"],
            ["Brain", 12, 46],
            ["Ear", 0.5, 0.65],
        ]
        raw = by_openpyxl(("Mixed", rows))
        self.reads(raw)
        self.assertEqual(len(tables_of(read_sheets(raw))), 2)

    def test_8_two_tables_side_by_side(self) -> None:
        rows = [["Part", "Sleep µA", "Active mA", None, "Colour", "Seen"], ["Brain", 12, 46, None, "red", "yes"],
                ["Ear", 0.5, 0.65, None, "blue", "no"]]  # fmt: skip
        self.reads(by_openpyxl(("Wide", rows)))

    def test_9_a_hidden_sheet_stands_behind_and_says_so(self) -> None:
        rows = [["Part", "Sleep µA", "Active mA"], ["Brain", 12, 46], ["Ear", 0.5, 0.65]]
        self.reads(by_xlsxwriter(rows, hidden=True))
        self.assertTrue(first(by_xlsxwriter(rows, hidden=True)).hidden)
        book = openpyxl.load_workbook(
            io.BytesIO(by_openpyxl(("Old", rows), ("New", [rows[0], ["Owl", 1, 2], ["Bat", 3, 4]])))
        )
        book["Old"].sheet_state = "hidden"
        out = io.BytesIO()
        book.save(out)
        self.assertEqual([t.sheet for t in tables_of(read_sheets(out.getvalue()))], ["New", "Old"])

    def test_10_no_headings_at_all_is_told_by_content_and_asked_about(self) -> None:
        table = first(by_openpyxl(("A", [["Brain", 1, "12 µA", "18 x 25 x 3 mm"], ["Ear", 2, "0.5 µA", "4x3x1 mm"]])))
        self.assertEqual([c.role for c in table.columns], ["name", "", "state", "size"])
        self.assertFalse(any(c.sure for c in table.columns))
        self.assertIn("no row of headings", table.notes[0])
        self.assertEqual([p.name for p in parts_of(table).parts], ["Brain", "Ear"])

    def test_11_figures_without_any_unit_are_asked_about_and_then_read(self) -> None:
        raw = by_xlsxwriter([["Part", "Sleep", "Active"], ["Brain", 12, 46], ["Ear", 0.5, 0.65]])
        table = first(raw)
        self.assertEqual(
            [(c.role, c.sure) for c in table.columns], [("name", True), ("state", False), ("state", False)]
        )
        self.assertEqual(
            [p.path for p in parts_of(table).problems],
            ["row 2, Sleep", "row 2, Active", "row 3, Sleep", "row 3, Active"],
        )
        agreed = [c.model_dump() | {"unit": unit} for c, unit in zip(table.columns, (None, "µA", "mA"), strict=True)]
        self.reads(raw, columns=agreed)

    def test_12_kinds_counts_signs_and_gaps_as_people_write_them(self) -> None:
        rows = [["Bauteil", "Anzahl", "Type", "Sleep", "Active", "Weight (g)", "Notes"],
                ["Brain", "1x", "MCU board", "~12 µA", "46 mA", 4, "ok"], ["Ear", "2 pcs", "accelerometer", "<0.5 µA", "0.65 mA", "", "cheap"],
                ["Screws", 4, "", "-", "n/a", 0.3, ""]]  # fmt: skip
        read = self.reads(by_odfpy(rows), {**BRAIN, "Screws": {"fitted": 0.0}})
        self.assertEqual(
            [(p.quantity, p.kind, p.mass_g) for p in read.parts],
            [(1, "controller", 4), (2, "sensor", 0), (4, "other", 0.3)],
        )
        self.assertEqual(read.notes, ["Without a current, so that they draw nothing: Screws."])

    def test_text_with_any_separator_and_a_table_of_bars(self) -> None:
        for mark in "\t;|":
            text = "\n".join(
                mark.join(r) for r in (["Part", "sleep uA", "active mA"], ["Brain", "12", "46"], ["Ear", "0,5", "0.65"])
            )
            for code in ("utf-8", "utf-8-sig", "utf-16"):
                self.reads(text.encode(code))
        bars = "| Part | sleep µA | active mA |\n|---|---:|:---|\n| Brain | 12 | 46 |\n| Ear | 0.5 | 0.65 |\n"
        self.reads(bars.encode())
        self.reads("Part;sleep µA;active mA\nBrain;12;46\nEar;0,5;0,65\n".encode("cp1252"))


class Asked(unittest.TestCase):
    def test_a_date_where_a_figure_is_expected_is_named(self) -> None:
        read = parts_of(
            first(by_xlsxwriter([["Part", "sleep [mA]"], ["Brain", date(2026, 2, 1)], ["Ear", 2], ["Owl", 3]]))
        )
        self.assertEqual([p.path for p in read.problems], ["row 2, sleep [mA]"])
        self.assertIn("is a date", read.problems[0].message)
        self.assertEqual([p.name for p in read.parts], ["Ear", "Owl"])

    def test_a_row_that_is_left_out_is_no_problem(self) -> None:
        table = first(by_openpyxl(("A", [["Part", "sleep mA"], ["Brain", "x"], ["Ear", 2], ["Owl", 3]])))
        self.assertEqual(len(parts_of(table).problems), 1)
        self.assertEqual(parts_of(table, left_out=[2]).problems, [])

    def test_columns_that_contradict_each_other(self) -> None:
        table = first(
            by_openpyxl(("A", [["Part", "Item", "sleep mA", "active mA"], ["Brain", "B1", 1, 2], ["Ear", "E1", 2, 3]]))
        )
        self.assertEqual([c.role for c in table.columns], ["name", "", "state", "state"])  # the first name counts
        columns = [c.model_dump() for c in table.columns]
        for changed, said in (
            ([{**columns[0], "role": ""}, *columns[1:]], "no column is the name"),
            ([columns[0], {**columns[1], "role": "name"}, *columns[2:]], "two columns are the name"),
            ([*columns[:3], {**columns[3], "state": "sleep"}], "two columns are the state 'sleep'"),
        ):
            read = parts_of(table, columns=changed)
            self.assertEqual(read.parts, [])
            self.assertIn(said, read.problems[0].message)
            with self.assertRaises(DocumentError):
                parts_or_refused(PartsTable.model_validate({"columns": changed, "rows": table.rows}))

    def test_headings_that_were_agreed_to_before(self) -> None:
        sheets = read_sheets(by_openpyxl(("A", [["Thing", "Verbrauch"], ["Brain", 1], ["Ear", 2]])))
        self.assertEqual([c.role for c in tables_of(sheets)[0].columns], ["name", ""])
        table = tables_of(sheets, {"thing": ("name", "", None), "verbrauch": ("state", "on", "mA")})[0]
        # a unit of before is taken and asked about: another file may mean another one
        self.assertEqual(
            [(c.role, c.unit, c.sure) for c in table.columns], [("name", None, True), ("state", "mA", False)]
        )
        self.assertEqual(currents(parts_of(table)), {"Brain": {"on": 1e-3}, "Ear": {"on": 2e-3}})

    def test_numbered_rows_are_no_quantities(self) -> None:
        for counts, role in (((1, 2, 3), ""), ((1, 2, 4), "quantity"), ((1, 1, 1), "quantity"), ((1, 2), "quantity")):
            rows: Rows = [["#", "Part", "sleep mA"], *([n, f"P{i}", 1] for i, n in enumerate(counts))]
            self.assertEqual(first(by_openpyxl(("A", rows))).columns[0].role, role, counts)

    def test_a_text_of_empty_lines_takes_no_room(self) -> None:
        self.assertEqual(len(first(b"Part\tsleep mA\nBrain\t1\n" + b"\n" * 400_000).rows), 1)

    def test_units_at_the_end_of_a_heading(self) -> None:
        for heading, split in (
            ("sleep_uA", ("sleep", "uA")), ("Active, mA", ("Active", "mA")), ("I (mA)", ("I", "mA")), ("mass g", ("mass", "g")), ("sleep", ("sleep", None)),
            ("Plan B", ("Plan B", None)), ("what (my own)", ("what (my own)", None)), ("mA", ("mA", None)), ("Vcc V", ("Vcc", "V")),
        ):  # fmt: skip
            self.assertEqual(split_heading(heading), split)


class IntoAGadget(unittest.TestCase):
    TEXT = "Item\tVoltage\tIdle mA\tTX mA\nMCU\t3.3V\t0.02\t45\nRing\t5 V\t1\t100\nProbe\t1.8 V\t0.001\t0.4\nServo\tVBAT\t4\t30\n"

    def table(self, text: str | None = None) -> PartsTable:
        found = first((text or self.TEXT).encode())
        return PartsTable(columns=found.columns, rows=found.rows, numbers=found.numbers)

    def test_each_rail_gets_a_stage_of_its_voltage(self) -> None:
        design = new_gadget("Mixed", parts_or_refused(self.table()))
        stages = {s.id: s for s in design.supply.stages}
        volts = {r.name: getattr(stages.get(r.feed), "output_v", r.feed) for r in design.supply.rails}
        self.assertEqual(volts, {"3.3V": 3.3, "5 V": 5.0, "1.8 V": 1.8, "VBAT": "battery"})
        self.assertNotIn("stop", {f.severity for f in evaluate(design).findings})

    def test_only_a_voltage_in_its_name_says_what_feeds_a_rail(self) -> None:
        for rail, volts in (("3V3", 3.3), ("5V", 5.0), ("VDD_1V8", 1.8), ("1,8 V core", 1.8), ("Rail 2", 3.3), ("Main 5", 3.3), ("Bus 12", 3.3),
                            ("5", 5.0), ("5 Volta", 3.3)):  # fmt: skip
            design = new_gadget(
                "R", parts_or_refused(self.table(f"Part\tRail\tActive mA\nChip\t{rail}\t5\nTwo\t{rail}\t1\n"))
            )
            self.assertEqual(getattr(design.supply.stages[0], "output_v", None), volts, rail)
        bare = new_gadget("R", parts_or_refused(self.table("Part\tVoltage [V]\tActive mA\nChip\t1.8\t5\nTwo\t5\t1\n")))
        self.assertEqual([r.name for r in bare.supply.rails], ["1.8 V", "5 V"])

    def test_a_stage_carries_what_hangs_on_it_where_there_is_one(self) -> None:
        for amps, enough in ((100, 0.1), (400, 0.4)):
            design = new_gadget("Mixed", parts_or_refused(self.table(self.TEXT.replace("\t100\n", f"\t{amps}\n"))))
            stage = next(s for s in design.supply.stages if getattr(s, "output_v", 0) == 5.0)
            self.assertGreaterEqual(stage.limit_a, enough)

    def test_a_merge_tells_each_difference_and_does_only_what_is_chosen(self) -> None:
        design = new_gadget("Mixed", parts_or_refused(self.table()))
        same = merge_parts(design, self.table())
        self.assertEqual((same.differences, same.design), ([], design))
        table = self.table(self.TEXT.replace("45", "50").replace("Servo", "Fan") + "MCU2\t3.3V\t1\t2\n")
        told = merge_parts(design, table)
        self.assertEqual([d.key for d in told.differences], ["mcu:state:TX", "add:fan", "add:mcu2"])
        only = merge_parts(design, table, ["mcu:state:TX"]).design
        self.assertEqual([p.name for p in only.parts], ["MCU", "Ring", "Probe", "Servo"])
        self.assertEqual(
            [s.draw.current_a.typical for s in only.parts[0].states if isinstance(s.draw, CurrentDraw)], [2e-5, 0.05]
        )
        self.assertEqual(merge_parts(design, table, []).design, design)
        whole = told.design
        self.assertEqual(merge_parts(whole, table).differences, [])  # what was promised is there
        fan = next(p for p in whole.parts if p.name == "Fan")
        self.assertEqual([[u.state for u in m.uses if u.part == fan.id] for m in whole.modes], [["Idle"], ["TX"]])
        self.assertEqual(whole.supply, design.supply)

    def test_names_that_stand_there_twice_are_asked_about(self) -> None:
        design = new_gadget("Mixed", parts_or_refused(self.table()))
        table = self.table(self.TEXT + "MCU\t3.3V\t1\t2\nFan\t5 V\t1\t2\n")
        told = merge_parts(design, table)
        self.assertEqual([d.key for d in told.differences], ["add:fan"])
        self.assertEqual(["MCU stands there more than once" in p.message for p in told.problems], [True])
        twice = new_gadget("Twice", parts_or_refused(table))
        self.assertEqual([p.name for p in twice.parts].count("MCU"), 2)
        self.assertEqual(merge_parts(twice, self.table()).differences, [])

    def test_a_merge_into_a_demo_leaves_what_it_does_not_speak_of(self) -> None:
        design = read_design((ROOT / "demo" / "dusk-ear.json").read_bytes())
        name = design.parts[0].name
        state = design.parts[0].states[0].name
        text = f"name\tquantity\tmass [g]\tsize\t{state}\n{name}\t1\t77\t9 x 9 x 9 mm\t5 mA\n"
        told = merge_parts(design, self.table(text))
        self.assertEqual([d.what for d in told.differences], ["mass", "size", state])
        before, after = design.parts[0], told.design.parts[0]
        assert after.body is not None
        assert before.body is not None
        self.assertEqual((after.mass_g, after.body.size_mm), (77, (9, 9, 9)))
        self.assertEqual(after.body.position_mm, before.body.position_mm)
        self.assertEqual(after.states[1:], before.states[1:])
        self.assertEqual(told.design.parts[1:], design.parts[1:])
        self.assertEqual(told.design.modes, design.modes)


class Hostile(unittest.TestCase):
    def refused(self, raw: bytes) -> str:
        with self.assertRaises(DocumentError) as raised:
            read_sheets(raw)
        return raised.exception.problems[0].message

    def test_what_is_no_workbook(self) -> None:
        whole = by_openpyxl(("A", [["Part", "sleep mA"], ["Brain", 1]]))
        for raw in (
            b"PK\x03\x04",
            whole[: len(whole) // 2],
            b"\xd0\xcf\x11\xe0" + b"\0" * 600,
            b"\0\1\2",
            b"",
            b"  \n\n",
        ):
            self.assertTrue(self.refused(raw))

    def test_a_bomb_is_not_unpacked(self) -> None:
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("xl/workbook.xml", b" " * (LARGEST_UNPACKED + 1))
        self.assertIn("unpacks to more", self.refused(out.getvalue()))

    def test_a_document_type_is_refused(self) -> None:
        for code in ("utf-8", "utf-16"):
            out = io.BytesIO()
            with zipfile.ZipFile(out, "w") as archive:
                archive.writestr(
                    "xl/workbook.xml", '<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "b">]><x>&a;</x>'.encode(code)
                )
            self.assertIn("DOCTYPE", self.refused(out.getvalue()))

    def test_a_very_long_sheet_is_cut_and_says_so(self) -> None:
        rows: Rows = [["Part", "sleep mA"], *([f"P{i}", 1] for i in range(MOST_ROWS + 10))]
        sheet = read_sheets(by_openpyxl(("A", rows)))[0]
        self.assertTrue(sheet.cut)
        table = tables_of([sheet])[0]
        self.assertEqual(len(table.rows), 1000)
        self.assertIn("Only the first 1000 rows are read.", table.notes)

    def process(self, raw: bytes) -> dict[str, Any]:
        command = [sys.executable, "-m", "ember_core.imports.workbook_process"]
        done = subprocess.run(command, input=raw, capture_output=True, check=False, cwd=ROOT / "core", env=os.environ)
        return json.loads(done.stdout) if done.stdout else {"problem": f"ended with {done.returncode}"}

    def test_a_sheet_that_claims_a_milliard_cells_takes_no_memory(self) -> None:
        book = openpyxl.Workbook()
        book.active["A1"] = "Part"
        book.active["XFD1048576"] = 1
        out = io.BytesIO()
        book.save(out)
        self.assertIn("problem", self.process(out.getvalue()))

    def test_the_process_answers_with_sheets(self) -> None:
        answer = self.process(by_openpyxl(("A", [["Part", "sleep mA"], ["Brain", 1]])))
        self.assertEqual(answer["sheets"][0]["rows"], [["Part", "sleep mA"], ["Brain", "1"]])


if __name__ == "__main__":
    unittest.main()
