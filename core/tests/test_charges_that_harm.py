"""Charging that harms: where the sun charges, bare cells, nickel by its method, fixed currents, cells that are full elsewhere, cells that
cannot be. Both sides of each limit; what a remedy promises is applied."""

from __future__ import annotations

import unittest
from typing import Any

from ember_core import evaluate
from ember_core.catalogue import built_in
from ember_core.design import Cell
from ember_core.design.patches import apply
from ember_core.measures.bench import TrialBench
from ember_core.measures.edits import new_cells
from ember_core.studies.judging import Judged

from .gadgets import LINEAR, cell, design, plain, seen
from .test_refill import BRIEF, gadget

SERIES = (1, 2, 3)
PANEL = {"peak_w": 2, "area_cm2": 100, "latitude_deg": 40, "month": 6}
SUN = {
    "port": {"kind": "solar", "gives_a": 1.0, "panel": PANEL},
    "topology": "switching",
    "port_v": 6.0,
    "input_max_v": 9,
}
NICKEL: dict[str, Any] = {
    "cell": cell(
        chemistry="nickel-metal-hydride",
        capacity_ah=2,
        cutoff_v=1.0,
        size_mm=[14.5, 14.5, 50.5],
        form="cylinder",
        mass_g=27,
    )
}


class Sun(unittest.TestCase):
    def test_it_charges_where_it_is_whatever_the_brief_says(self) -> None:
        for charged in ("indoors", "anywhere"):
            for coldest, found in ((0.0, False), (-1.0, True)):
                brief = BRIEF | {"coldest_c": coldest, "charged": charged}
                told = seen(gadget(1, SUN, brief=brief), "charge-temperature")
                self.assertEqual(bool(told), found)
                for one in told:
                    self.assertNotIn("indoors", one.sentence)
                    assert one.remedy
                    self.assertIn("sensor", one.remedy.label)
        self.assertFalse(seen(gadget(1, brief=BRIEF | {"coldest_c": -20}), "charge-temperature"))

    def test_a_larger_panel_fills_it_sooner(self) -> None:
        hours = []
        for watts in (0.4, 1.0, 10.0):
            port = SUN["port"] | {"panel": PANEL | {"peak_w": watts, "area_cm2": 1000}}  # type: ignore[operator]
            charge = TrialBench(gadget(1, SUN | {"port": port}), built_in()).charge
            assert charge is not None and charge.seconds
            hours.append(charge.seconds)
        self.assertGreater(hours[0], 2 * hours[1])
        self.assertGreater(hours[1], hours[2])

    def test_the_verdict_is_a_balance(self) -> None:
        verdict = next(v for v in evaluate(gadget(1, SUN)).verdicts if v.key == "charge")
        self.assertEqual(
            (verdict.status, verdict.word, verdict.label), ("pass", "lives on the sun", "Days without sun")
        )
        self.assertIn("A usual day of that month brings", plain(verdict.sentence))
        report = evaluate(gadget(1, SUN)).charge
        assert report is not None
        self.assertIsNone(report.wall_energy.value)  # there is no wall
        dark = SUN | {"port": SUN["port"] | {"panel": PANEL | {"latitude_deg": 70, "month": 12}}}  # type: ignore[operator]
        verdict = next(
            v for v in evaluate(gadget(1, dark, brief=BRIEF | {"goal_h": 20000})).verdicts if v.key == "charge"
        )
        self.assertEqual((verdict.status, verdict.word), ("fail", "too little sun"))

    def test_days_without_sun(self) -> None:
        """A day takes as much as the battery holds in so many days."""
        bench = TrialBench(gadget(1, SUN), built_in())
        assert bench.solar is not None
        days = bench.solar.autonomy_d
        for wanted, severity in ((5.1, None), (4.9, "watch"), (1.05, "watch"), (0.95, "fix")):
            small = {
                "cell": cell(capacity_ah=1.0 * wanted / days, cutoff_v=3.0, size_mm=[34, 50, 5], discharge_max_a=2)
            }
            told = seen(gadget(1, SUN | {"program_ohm": 100000}, small), "dark-days")
            with self.subTest(wanted):
                self.assertEqual([x.severity for x in told], [severity] if severity else [])


class Protections(unittest.TestCase):
    def bare(self, n: int, **more: Any) -> Any:
        return gadget(n, battery={"protection": None} | more.pop("battery", {}), **more)

    def test_a_gadget_that_stops_by_itself_is_to_be_watched(self) -> None:
        for n in SERIES:
            boost = {"type": "switching", "topology": "boost" if n == 1 else "buck", "id": "reg", "name": "R", "input": "battery", "output_v": 5.0 if n == 1 else 3.3,
                     "points": [{"current_a": 0.1, "efficiency": 0.9, "input_v": 3.7 if n == 1 else 3.7 * n}], "quiescent_a": 1e-5, "limit_a": 1.0, "input_max_v": 20}  # fmt: skip
            rails = [{"id": "main", "name": "Main", "feed": "reg"}]
            for lockout, severity in ((2.29 * n, "stop"), (2.31 * n, "watch")):
                supply = {"stages": [boost | {"undervoltage_lockout_v": lockout}], "rails": rails}
                told = seen(self.bare(n, supply=supply), "no-protection")
                with self.subTest(f"{n} {severity}"):
                    self.assertEqual([x.severity for x in told], [severity])

    def test_iron_phosphate_wants_one_too(self) -> None:
        for n in SERIES:
            iron = {"cell": cell(chemistry="lithium-iron-phosphate", cutoff_v=2.5)}
            told = seen(self.bare(n, battery=iron, charger={"float_v_per_cell": 3.6}), "no-protection")
            self.assertEqual([x.severity for x in told], ["stop"])

    def test_two_in_series_neither_balanced_nor_protected(self) -> None:
        told = seen(gadget(2, {"balances": False}, {"protection": None}), "no-protection")[0]
        self.assertEqual(told.severity, "stop")
        self.assertIn("balance its cells", told.sentence)

    def test_far_too_low_is_none_at_all(self) -> None:
        for n in SERIES:
            for cut, severity in ((2.01, "watch"), (1.99, "fix")):
                told = seen(gadget(n, battery={"protection": {"cut_v_per_cell": cut}}), "protection-too-low")
                self.assertEqual([x.severity for x in told], [severity])

    def test_a_threshold_of_another_kind_of_cell(self) -> None:
        """Half full, lithium-ion has 3.76 V and an alkaline cell 1.31 V without load (their curves in the docs)."""
        for n in SERIES:
            for kind, half, usual in (("lithium-ion", 3.76, 2.5), ("alkaline", 1.31, None)):
                for off, severity in ((-0.02, []), (0.02, ["fix"])):
                    own = {"cell": cell(chemistry=kind, cutoff_v=0.8), "protection": {"cut_v_per_cell": half + off}}
                    made = gadget(n, battery=own)
                    told = seen(made, "protection-too-high")
                    with self.subTest(f"{n} {kind} {off}"):
                        self.assertEqual([x.severity for x in told], severity)
                    for one in told:
                        assert one.remedy
                        guard = apply(made, one.remedy).battery.protection
                        self.assertEqual(guard and guard.cut_v_per_cell, usual)
                        self.assertEqual(seen(apply(made, one.remedy), "protection-too-high"), [])

    def test_a_circuit_goes_with_its_cells(self) -> None:
        made = gadget(1, battery={"protection": {"cut_v_per_cell": 2.7}}).battery
        for kind, expected in (("lithium-ion", 2.7), ("lithium-iron-phosphate", 2.0), ("alkaline", None), ("super-capacitor", None)):  # fmt: skip
            guard = new_cells(made, Cell.model_validate(cell(chemistry=kind)), 1).protection
            self.assertEqual(guard and guard.cut_v_per_cell, expected, kind)

    def test_trips_before_a_wire_glows(self) -> None:
        """12 A before a wire of 1 A: three times what it stands is to be watched, six times to be fixed."""
        wire = {
            "type": "pass",
            "role": "wire",
            "id": "reg",
            "name": "Thin wire",
            "input": "battery",
            "resistance_ohm": 0.02,
            "limit_a": 1.0,
        }
        supply = {"stages": [wire], "rails": [{"id": "main", "name": "Main", "feed": "reg"}]}
        strong = {"cell": cell(capacity_ah=1.0, discharge_max_a=30, resistance_ohm=0.01)}
        for n in SERIES:
            for trips, severity in ((2.99, None), (3.01, "watch"), (5.99, "watch"), (6.01, "fix"), (12.0, "fix")):
                made = gadget(n, battery=strong | {"protection": {"overcurrent_a": trips, "ohm": 0.0}}, supply=supply)
                told = seen(made, "trips-too-late")
                with self.subTest(f"{n} {trips}"):
                    self.assertEqual([x.severity for x in told], [severity] if severity else [])
                    if told and told[0].remedy:
                        self.assertFalse(seen(apply(made, told[0].remedy), "trips-too-late"))

    def test_a_fuse_that_never_blows(self) -> None:
        bench = TrialBench(gadget(1), built_in())
        pack, k = bench.usual.pack, bench.middle
        short = float(pack.open_circuit_v[k] / pack.resistance_ohm[k])
        for factor, found in ((0.99, False), (1.01, True)):
            made = gadget(1, battery={"protection": {"fuse_a": short / 2 * factor}})
            self.assertEqual(bool(seen(made, "fuse-never-blows")), found)

    def test_reversal_does_not_vanish_where_protection_is_missing(self) -> None:
        round_ = {"cell": cell(form="cylinder", size_mm=[18.5, 18.5, 65])}
        self.assertTrue(seen(gadget(1, battery=round_ | {"protection": None}), "reversal"))
        for chemistry in ("alkaline", "nickel-metal-hydride", "lithium-manganese"):
            made = design(battery={"cell": cell(chemistry=chemistry, form="cylinder", cutoff_v=1.0), "series": 2})
            self.assertTrue(seen(made, "reversal"), chemistry)

    def test_primaries_side_by_side(self) -> None:
        for parallel, found in ((1, False), (2, True)):
            made = design(
                battery={
                    "cell": cell(chemistry="lithium-manganese", form="cylinder", cutoff_v=2.0),
                    "parallel": parallel,
                }
            )
            self.assertEqual(bool(seen(made, "parallel-primaries")), found)
        self.assertFalse(seen(gadget(1, battery={"parallel": 2}), "parallel-primaries"))

    def test_cells_that_are_joined(self) -> None:
        """0.1 ohm each and 1 Ah: 0.4 V are 2 A, twice the capacity an hour."""
        for volts, severity in ((0.39, None), (0.41, "fix"), (1.19, "fix"), (1.21, "stop")):
            told = seen(gadget(1, battery={"parallel": 2, "joined_v": volts}), "joined-cells")
            self.assertEqual([x.severity for x in told], [severity] if severity else [])


class Nickel(unittest.TestCase):
    def test_its_own_chargers_are_not_wrong(self) -> None:
        for charger in built_in().chargers:
            if charger.method == "cc-cv":
                continue
            for one in (c for c in built_in().cells if c.chemistry == "nickel-metal-hydride"):
                made = design(
                    charger=charger.model_dump(mode="json"),
                    battery={"cell": one.model_dump(mode="json"), "series": charger.cells_in_series},
                )
                with self.subTest(f"{charger.name} {one.name}"):
                    self.assertFalse(seen(made, "wrong-charger"))
                    assert Judged.of(made, built_in()).bench.charge is not None

    def test_a_lithium_charger_on_nickel_is_wrong_and_replaced_by_its_own(self) -> None:
        made = gadget(2, {"port_v": 5.0}, NICKEL)
        told = seen(made, "wrong-charger")[0]
        assert told.found.ways
        offered = [apply(made, way).charger for way in told.found.ways() if way]
        self.assertEqual({c.method for c in offered if c}, {"delta-v", "timer"})
        for after in (apply(made, way) for way in told.found.ways() if way):
            self.assertFalse(seen(after, "wrong-charger"))
            self.assertTrue(after.charger is None or after.charger.port_v == 5.0)

    def test_a_timer_that_goes_on_for_too_long(self) -> None:
        """2 Ah: 3.2 Ah are the most; above 0.12 C that boils them."""
        for amps, hours, severity in (
            (0.2, 15.9, None),
            (0.2, 16.1, "watch"),
            (0.239, 14, "watch"),
            (0.241, 14, "stop"),
            (1.0, 14, "stop"),
        ):
            told = seen(gadget(2, {"method": "timer", "fixed_a": amps, "timer_h": hours}, NICKEL), "timer-overcharges")
            with self.subTest(f"{amps} A {hours} h"):
                self.assertEqual([x.severity for x in told], [severity] if severity else [])

    def test_slowly_it_takes_half_as_much_again(self) -> None:
        def factor(amps: float) -> float:
            own = {"method": "timer", "fixed_a": amps, "timer_h": 100, "foldback_c": None}
            charge = TrialBench(gadget(2, own, NICKEL), built_in()).charge
            assert charge is not None
            return float(charge.course.time_s[-1]) / 3600 * amps / charge.capacity_ah

        self.assertTrue(1.4 < factor(0.2) < 1.6, factor(0.2))
        self.assertTrue(1.05 < factor(1.0) < 1.15, factor(1.0))

    def test_emptied_too_far(self) -> None:
        for volts, severity in ((0.91, None), (0.89, "watch"), (0.61, "watch"), (0.59, "fix")):
            told = seen(design(battery={"cell": NICKEL["cell"] | {"cutoff_v": volts}, "series": 2}), "cut-off-too-low")
            self.assertEqual([x.severity for x in told], [severity] if severity else [])


class Currents(unittest.TestCase):
    def test_fixed_and_stepped_chargers_speak_of_no_resistor(self) -> None:
        for own in ({"fixed_a": 2.0}, {"fixed_a": 2.0, "steps_a": [0.5, 1.0, 2.0]}):
            told = seen(gadget(1, own), "charge-current")[0]
            self.assertNotIn("Ω", told.sentence)
            self.assertEqual(told.where, "/charger/fixed_a")
            assert told.remedy
            if "steps_a" in own:
                self.assertEqual(plain(told.remedy.label), "Set it to 500 mA")
            self.assertFalse(
                [x for x in seen(apply(gadget(1, own), told.remedy), "charge-current") if x.severity == "stop"]
            )

    def test_up_to_the_tolerance_of_the_setting_it_is_watched(self) -> None:
        for n in SERIES:
            for amps, severity in (
                (0.999, "watch"),
                (1.09, "watch"),
                (1.11, "stop"),
            ):  # 1 Ah, without a figure of its own
                told = seen(gadget(n, {"fixed_a": amps}), "charge-current")
                self.assertEqual([x.severity for x in told], [severity])
                self.assertNotIn("vercharged", told[0].sentence)

    def test_a_charger_alone_above_its_port(self) -> None:
        for n in SERIES:
            for gives, found in ((0.49, True), (0.51, False)):
                port = {"port": {"kind": "usb", "gives_a": gives}}
                with self.subTest(f"{n} {gives}"):
                    self.assertEqual(bool(seen(gadget(n, port), "port-overload")), found)
                    self.assertFalse(seen(gadget(n, port | {"adapts_input": True}), "port-overload"))

    def test_no_gentle_start(self) -> None:
        for rate, severity in ((0.49, None), (0.51, "watch"), (0.69, "watch"), (0.8, "fix")):
            told = seen(gadget(1, {"fixed_a": rate}), "no-precharge")
            self.assertEqual([x.severity for x in told], [severity] if severity else [])
        self.assertFalse(seen(gadget(1, {"fixed_a": 0.8, "precharge_v_per_cell": 2.9}), "no-precharge"))


class FullVoltages(unittest.TestCase):
    def test_each_cell_by_its_own(self) -> None:
        for n in SERIES:
            for full, float_v, found in (
                (None, 4.2, False),
                (None, 4.35, True),
                (4.35, 4.35, False),
                (4.35, 4.4, True),
                (4.4, 4.4, False),
                (4.1, 4.2, True),
            ):
                made = gadget(
                    n, {"float_v_per_cell": float_v, "port_v": 6.0 * n}, {"cell": cell(cutoff_v=3.0, full_v=full)}
                )
                with self.subTest(f"{n} {full} {float_v}"):
                    self.assertEqual([x.severity for x in seen(made, "float-voltage")], ["stop"] if found else [])

    def test_iron_phosphate_stands_3_65(self) -> None:
        for n in SERIES:
            for float_v, found in ((3.6, False), (3.65, False), (3.68, True)):
                iron = {"cell": cell(chemistry="lithium-iron-phosphate", cutoff_v=2.5)}
                self.assertEqual(bool(seen(gadget(n, {"float_v_per_cell": float_v}, iron), "float-voltage")), found)

    def test_its_curve_ends_there(self) -> None:
        for full in (4.1, 4.2, 4.35, 4.4):
            made = TrialBench(design(battery={"cell": cell(full_v=full), "series": 2}), built_in())
            self.assertAlmostEqual(float(made.usual.pack.open_circuit_v[0]), 2 * full)


class Impossible(unittest.TestCase):
    def test_a_pouch_of_five_cubic_centimetres(self) -> None:
        """5.25 cm3: no lithium-ion cell holds more than 1.13 Ah there."""
        for amp_hours, severity in (
            (0.5, None),
            (1.12, None),
            (1.14, "watch"),
            (1.42, "fix"),
            (3.0, "fix"),
            (10.0, "fix"),
        ):
            pouch = cell(capacity_ah=amp_hours, measured_ah=None, size_mm=[30, 35, 5], mass_g=0, discharge_max_a=1)
            made = design(battery={"cell": pouch, "body": {"size_mm": [30, 35, 5]}})
            told = seen(made, "holds-too-much")
            with self.subTest(amp_hours):
                self.assertEqual([x.severity for x in told], [severity] if severity else [])
                for one in told:
                    assert one.found.ways
                    for way in one.found.ways():
                        assert way
                        self.assertFalse(
                            [x for x in seen(apply(made, way), "holds-too-much") if x.severity == "fix"], way.label
                        )

    def test_a_pouch_of_the_same_proportions_weighs_by_its_size(self) -> None:
        """Half as long again in each direction is three and three eighths times as heavy."""
        pouch = cell(capacity_ah=3.0, measured_ah=None, size_mm=[30, 35, 5], mass_g=40, discharge_max_a=1)
        (told,) = seen(design(battery={"cell": pouch, "body": {"size_mm": [30, 35, 5]}}), "holds-too-much")
        assert told.found.ways
        larger = next(w for w in told.found.ways() if w.patch[0].path.endswith("size_mm"))
        size, grams = (op.value for op in larger.patch[:2])
        factor = size[1] / 35
        self.assertGreater(factor, 1.2)
        self.assertAlmostEqual(size[0] / 30, factor, delta=0.005)
        self.assertAlmostEqual(size[2] / 5, factor, delta=0.02)
        self.assertAlmostEqual(grams / (40 * factor**3), 1, delta=0.01)

    def test_by_its_mass(self) -> None:
        for grams, found in ((12.9, False), (12.7, True)):
            light = cell(capacity_ah=1.0, mass_g=grams, size_mm=[60, 60, 10])
            self.assertEqual(bool(seen(design(battery={"cell": light}), "holds-too-much")), found)

    def test_no_cell_of_the_catalogue_is_impossible(self) -> None:
        for one in built_in().cells:
            made = design(battery={"cell": one.model_dump(mode="json")}, charger=None)
            self.assertFalse(seen(made, "holds-too-much"), one.name)
            self.assertFalse(seen(made, "named-otherwise"), one.name)

    def test_a_name_unlike_its_capacity(self) -> None:
        for name, found in (
            ("Pouch, 1000 mAh", False),
            ("Pouch, 1.1 Ah", False),
            ("Pouch 1300mAh", True),
            ("Cell", False),
        ):
            self.assertEqual(bool(seen(design(battery={"cell": cell(name=name)}), "named-otherwise")), found)

    def test_colder_than_it_works(self) -> None:
        alkaline = cell(chemistry="alkaline", form="cylinder", cutoff_v=0.9)
        for coldest, found in ((-19, False), (-21, True), (-40, True)):
            brief = {"goal_h": 10, "coldest_c": coldest, "usual_c": 20, "hottest_c": 25}
            made = design(battery={"cell": alkaline, "series": 3}, brief=brief)
            self.assertEqual(bool(seen(made, "colder-than-the-cell")), found)
            runtime = next(v for v in evaluate(made).verdicts if v.key == "runtime")
            self.assertEqual(runtime.status != "pass" or not found, True)


class Outside(unittest.TestCase):
    def test_a_charger_outside_heats_nothing_inside(self) -> None:
        more = {
            "brief": BRIEF | {"hottest_c": 30},
            "supply": {"stages": [LINEAR], "rails": [{"id": "main", "name": "Main", "feed": "reg"}]},
        }
        inside, outside = (
            TrialBench(gadget(1, {"outside": x, "program_ohm": 1200}, **more), built_in()).warmth for x in (False, True)
        )
        assert inside.charging_c and outside.charging_c
        self.assertGreater(inside.charging_c, outside.charging_c + 3)

    def test_worn_does_not_mean_charged_in_the_clothes(self) -> None:
        worn = {"outer_mm": [60, 90, 24], "carried": "clothes"}
        for charged, warmer in (("indoors", False), ("anywhere", True)):
            brief = BRIEF | {"charged": charged, "hottest_c": 30}
            free, carried = (
                TrialBench(gadget(1, brief=brief, enclosure=case), built_in()).warmth.charging_c
                for case in ({"outer_mm": [60, 90, 24]}, worn)
            )
            assert free and carried
            self.assertEqual(carried > free + 0.5, warmer)


if __name__ == "__main__":
    unittest.main()
