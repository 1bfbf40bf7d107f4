"""Texts that a spreadsheet would take for a formula go out disarmed and come back unchanged."""

from __future__ import annotations

import csv
import io
import unittest

from ember_core.imports.csv_cells import disarmed, rearmed
from ember_core.imports.new_gadget import new_gadget
from ember_core.imports.parts_list import read_parts_list, write_parts_list

HOSTILE = ("=1+1", "+1", "-1", "@SUM(A1)", "\t=1", "\r=1", "'=1", "''", "'quoted'")


class Cells(unittest.TestCase):
    def test_formulas_are_disarmed_and_come_back(self) -> None:
        for text in (*HOSTILE, "plain", "a=b", "5 V", "", "it's"):
            self.assertEqual(rearmed(disarmed(text)), text)
            self.assertNotIn(disarmed(text)[:1], ("=", "+", "-", "@", "\t", "\r"))
        for text in ("plain", "a=b", "it's", "'quoted'"):
            self.assertEqual(rearmed(text), text)
        self.assertEqual(disarmed("plain"), "plain")

    def test_a_parts_list_with_hostile_names_is_read_back_unchanged(self) -> None:
        names = [n for n in HOSTILE if n == n.strip()]
        text = io.StringIO()
        writer = csv.writer(text)
        writer.writerow(["name", "rail", "=active [mA]"])
        writer.writerows([disarmed(n), disarmed("=rail"), "5"] for n in names)
        listed = read_parts_list(text.getvalue().encode())
        self.assertEqual([p.name for p in listed.parts], names)
        gadget = new_gadget("Hostile", listed)
        rails = {r.id: r.name for r in gadget.supply.rails}
        written = write_parts_list(gadget.parts, rails)
        for row in csv.reader(io.StringIO(written)):
            for cell in row:
                self.assertNotIn(cell[:1], ("=", "+", "-", "@", "\t", "\r"))
        again = read_parts_list(written.encode())
        self.assertEqual(again.parts, listed.parts)
        self.assertEqual(again.rails, ["=rail"])
