"""Every entry of the catalogue could be bought: mass against size, size against standard, figures against each other."""

from __future__ import annotations

import math
import re
import unittest

from ember_core.battery.chemistry import CHEMISTRIES, full_v
from ember_core.catalogue import built_in
from ember_core.design import Body, LinearStage, PassStage, SwitchingStage
from ember_core.enclosure.bodies import volume_mm3
from ember_core.findings.battery.cells import volume_cm3

FEATHER, HEAVY = 0.15, 9.0  # g/cm3: foam of pins and air, solid brass
COPPER_LIMIT = 60.0  # A for a cubic centimetre of package

# IEC 60086 and the usual sizes: diameter (or width), height, to a millimetre
STANDARD = {
    "LR03": (10.5, 44.5), "LR6": (14.5, 50.5), "LR14": (26.2, 50.0), "LR20": (34.2, 61.5), "LR1": (12.0, 30.2), "LR61": (8.3, 42.5),
    "HR03": (10.5, 44.5), "HR6": (14.5, 50.5), "FR03": (10.5, 44.5), "FR6": (14.5, 50.5), "LR44": (11.6, 5.4), "LR41": (7.9, 3.6),
    "SR44": (11.6, 5.4), "SR43": (11.6, 4.2), "SR41": (7.9, 3.6), "SR626": (6.8, 2.6), "SR1130": (11.6, 3.05),
}  # fmt: skip


def density(body: Body | None, mass_g: float) -> float | None:
    return None if body is None or mass_g <= 0 else mass_g / (volume_mm3(body) / 1000)


class Masses(unittest.TestCase):
    def test_nothing_is_lighter_than_foam_or_heavier_than_brass(self) -> None:
        seen = 0
        for entry in built_in().entries:
            item = entry.part or entry.stage or entry.charger
            found = item and density(item.body, item.mass_g)
            if item is None or found is None:
                continue
            with self.subTest(item.name):
                self.assertGreater(found, FEATHER)
                self.assertLess(found, HEAVY)
                seen += 1
        self.assertGreater(seen, 250)

    def test_cells_weigh_what_cells_weigh(self) -> None:
        for cell in built_in().cells:
            if cell.bank is None:
                with self.subTest(cell.name):
                    found = cell.mass_g / volume_cm3(cell)
                    self.assertGreater(found, 1.0)
                    self.assertLess(found, 4.8)


class Cells(unittest.TestCase):
    def test_standard_sizes(self) -> None:
        seen = 0
        for cell in built_in().cells:
            named = re.search(r"\b([LHFS]R\d+)\b", cell.name)
            x, y, z = cell.size_mm
            if named and named[1] in STANDARD:
                wide, high = STANDARD[named[1]]
                with self.subTest(cell.name):
                    self.assertAlmostEqual(x, wide, delta=0.3)
                    self.assertAlmostEqual(y if cell.form == "cylinder" else z, high, delta=0.5)
                    seen += 1
        self.assertGreater(seen, 18)

    def test_sizes_in_the_name(self) -> None:
        """18650: 18 mm by 65.0 mm; CR2032: 20 mm by 3.2 mm; pouch 503450: 5.0 by 34 by 50 mm."""
        seen = 0
        for cell in built_in().cells:
            x, y, z = cell.size_mm
            tube = re.search(r"\b(\d\d)(\d\d)0\b", cell.name) if cell.form == "cylinder" else None
            coin = re.search(r"\b(?:CR|LIR)(\d\d)(\d\d)\b", cell.name) if cell.form == "coin" else None
            pouch = re.search(r"\bPouch (\d\d)(\d\d)(\d\d)\b", cell.name) if cell.form == "pouch" else None
            with self.subTest(cell.name):
                if tube:
                    self.assertAlmostEqual(x, int(tube[1]), delta=0.8)
                    self.assertAlmostEqual(y, int(tube[2]), delta=1.0)
                elif coin:
                    self.assertAlmostEqual(x, int(coin[1]), delta=0.6)
                    self.assertAlmostEqual(z, int(coin[2]) / 10, delta=0.01)
                elif pouch:
                    thick, wide, long = (int(v) for v in pouch.groups())
                    self.assertAlmostEqual(z, thick / 10 if thick >= 20 else thick, delta=0.01)
                    self.assertEqual((x, y), (wide, long))
                else:
                    continue
                seen += 1
        self.assertGreater(seen, 90)

    def test_no_cell_holds_more_than_the_best(self) -> None:
        for cell in built_in().cells:
            data = CHEMISTRIES[cell.chemistry]
            if cell.bank is None:
                with self.subTest(cell.name):
                    self.assertLessEqual(cell.capacity_ah, data.ah_per_cm3 * volume_cm3(cell) * 1.001)
                    self.assertLessEqual(cell.capacity_ah, data.ah_per_g * cell.mass_g * 1.001)
                    self.assertGreater(cell.capacity_ah, 0.12 * data.ah_per_cm3 * volume_cm3(cell))

    def test_its_currents_are_those_of_its_kind(self) -> None:
        """At its most a cell drops less than half its voltage, and is charged no faster than its kind stands."""
        for cell in built_in().cells:
            if cell.bank is None:
                data = CHEMISTRIES[cell.chemistry]
                with self.subTest(cell.name):
                    self.assertLess(cell.discharge_max_a * cell.resistance_ohm, data.ocv[-1][1] * 0.35)
                    self.assertGreater(
                        cell.cutoff_v, 0.4 * data.ocv[-1][1] if cell.chemistry != "super-capacitor" else 0
                    )
                    self.assertEqual(cell.charge_max_a is None or data.rechargeable, True)
                    if cell.charge_max_a is not None and cell.chemistry != "super-capacitor":
                        self.assertLessEqual(cell.charge_max_a / cell.capacity_ah, max(data.charge_rate_max, 1.0) * 4)
                    self.assertGreater(cell.cost, 0)


class Stages(unittest.TestCase):
    def test_a_regulator_regulates(self) -> None:
        for stage in built_in().stages:
            with self.subTest(stage.name):
                if isinstance(stage, LinearStage) and stage.input_max_v is not None:
                    self.assertGreaterEqual(stage.input_max_v, stage.output_v + stage.dropout_v)
                    self.assertLess(stage.dropout_v, 3)
                if isinstance(stage, SwitchingStage):
                    for point in stage.points:
                        self.assertGreaterEqual(point.input_v, stage.undervoltage_lockout_v)
                        self.assertLessEqual(point.input_v, stage.input_max_v or 100)
                        self.assertLessEqual(point.current_a, stage.limit_a * 1.001)
                        most = stage.output_v * point.current_a
                        self.assertLessEqual(point.efficiency, most / (most + point.input_v * stage.quiescent_a) + 1e-9)
                    by_current = sorted(stage.points, key=lambda p: p.current_a)
                    self.assertGreater(by_current[-1].current_a, 0.5 * stage.limit_a)
                    if stage.topology == "buck":
                        self.assertTrue(all(p.input_v > stage.output_v for p in stage.points))
                    if stage.topology == "boost":
                        self.assertTrue(all(p.input_v < stage.output_v for p in stage.points))

    def test_its_package_carries_its_current(self) -> None:
        for stage in built_in().stages:
            if stage.body is not None and isinstance(stage, LinearStage | SwitchingStage):
                with self.subTest(stage.name):
                    self.assertLess(stage.limit_a / (volume_mm3(stage.body) / 1000), COPPER_LIMIT * 2)

    def test_prices_are_prices(self) -> None:
        for stage in built_in().stages:
            free = isinstance(stage, PassStage) and stage.role in ("board input", "wire")
            self.assertTrue((0.0 if free else 0.05) <= stage.cost <= 20, stage.name)


class Chargers(unittest.TestCase):
    def test_it_can_do_what_it_says(self) -> None:
        floats = {full_v(c) for c in built_in().cells} - {None}
        for charger in built_in().chargers:
            with self.subTest(charger.name):
                if charger.method == "cc-cv":
                    self.assertTrue(any(abs(charger.float_v_per_cell - (v or 0)) < 0.02 for v in floats))
                    if charger.topology == "linear":
                        self.assertGreater(charger.port_v, charger.float_v_per_cell * charger.cells_in_series)
                self.assertGreaterEqual(charger.input_max_v or math.inf, charger.port_v)
                if charger.fixed_a is None and charger.program_min_ohm is not None:
                    self.assertGreaterEqual(charger.program_ohm, charger.program_min_ohm)
                    self.assertLessEqual(charger.program_ohm, charger.program_max_ohm or math.inf)
                if charger.precharge_v_per_cell is not None:
                    self.assertLess(charger.precharge_v_per_cell, charger.float_v_per_cell)


if __name__ == "__main__":
    unittest.main()
