"""Findings about chargers, their ports and the protection: on both sides of each threshold, on one, two and three cells in series; what a
remedy promises is applied."""

from __future__ import annotations

import unittest
from typing import Any
from unittest.mock import patch

import numpy as np

from ember_core import Design
from ember_core.catalogue import built_in
from ember_core.charging.charge import charge
from ember_core.design.patches import apply
from ember_core.findings import find
from ember_core.findings.charge.refill import fitting, gentle
from ember_core.measures.bench import TrialBench
from ember_core.thermal.shell import part_film

from .gadgets import LINEAR, cell, design, part, seen, state, use

STRAIGHT = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}
BRIEF = {"goal_h": 100, "coldest_c": 20, "usual_c": 20, "hottest_c": 25}
SERIES = (1, 2, 3)


def gadget(
    series: int = 1, charger: dict[str, Any] | None = None, battery: dict[str, Any] | None = None, **more: Any
) -> Design:
    own = {
        "name": "Charger", "program_constant_v": 1000, "program_ohm": 2000, "port_v": 5.0 * series, "port_limit_a": 2, "cells_in_series": series,
        "rth_ja_c_per_w": 5, "balances": True,
    } | (charger or {})  # fmt: skip
    pack = {"cell": cell(capacity_ah=1.0, cutoff_v=3.0), "series": series, "wiring_ohm": 0, "protection": {}} | (
        battery or {}
    )
    base = {"supply": STRAIGHT, "brief": BRIEF, "charger": own, "battery": pack}
    return design(**(base | more))


class BothSides(unittest.TestCase):
    def sides(self, code: str, silent: Design, found: Design, severity: str) -> None:
        """No finding on one side, one on the other; where it has a way out, that settles it."""
        self.assertFalse(seen(silent, code), "there should be none")
        rows = seen(found, code)
        self.assertTrue(rows, "there should be one")
        self.assertEqual(rows[0].severity, severity)
        if rows[0].found.ways is None:
            return
        remedy = rows[0].remedy
        assert remedy, "it promises a way out"
        after = apply(found, remedy)
        self.assertFalse(seen(after, code), remedy.label)
        grave = [{f.code for f in find(TrialBench(x, built_in())) if f.severity == "stop"} for x in (found, after)]
        self.assertLessEqual(grave[1], grave[0], "the way out made something worse")

    def test_a_nickel_charger_on_lithium(self) -> None:
        for n in SERIES:
            with self.subTest(n):
                self.sides("wrong-charger", gadget(n), gadget(n, {"method": "delta-v", "fixed_a": 0.5}), "stop")

    def test_a_nickel_charger_for_another_number_of_cells(self) -> None:
        for n in (2, 3):
            pack = {"cell": cell(chemistry="nickel-metal-hydride", capacity_ah=2, cutoff_v=1.0)}
            own = {"method": "delta-v", "fixed_a": 1.0, "port_v": {2: 5.0, 3: 9.0}[n]}
            with self.subTest(n):
                self.sides(
                    "charger-for-another-pack",
                    gadget(n, own, pack),
                    gadget(n, own | {"cells_in_series": n + 1}, pack),
                    "stop",
                )

    def test_a_fall_of_the_voltage_that_is_too_small(self) -> None:
        pack = {"cell": cell(chemistry="nickel-metal-hydride", capacity_ah=2, cutoff_v=1.0)}
        for n in (2, 3):
            with self.subTest(n):
                fast, slow = ({"method": "delta-v", "fixed_a": a, "steps_a": [0.5, 0.6, 1.0]} for a in (0.601, 0.599))
                self.sides("end-not-seen", gadget(n, fast, pack), gadget(n, slow, pack), "watch")

    def test_the_tolerance_of_the_float_voltage(self) -> None:
        for n in SERIES:
            with self.subTest(n):  # 4.2 V: 1.2 % is the most
                self.sides(
                    "float-tolerance",
                    gadget(n, {"float_tolerance": 0.0119}),
                    gadget(n, {"float_tolerance": 0.0121}),
                    "watch",
                )

    def test_the_range_of_the_resistor(self) -> None:
        for n in SERIES:
            for low, high in ((1999, None), (None, 2001)):
                limits = {"program_min_ohm": low, "program_max_ohm": high}
                beyond = {"program_min_ohm": 2010 if low else None, "program_max_ohm": 1990 if high else None}
                with self.subTest(f"{n} {low}"):
                    self.sides("resistor-range", gadget(n, limits), gadget(n, beyond), "fix")
        for ohm, program in ((1e-3, 1e5), (1e9, 1e-3)):
            self.assertTrue(
                seen(
                    gadget(
                        1,
                        {
                            "program_ohm": ohm,
                            "program_constant_v": program,
                            "program_min_ohm": 500,
                            "program_max_ohm": 1e6,
                        },
                    ),
                    "resistor-range",
                )
            )

    def test_the_voltage_of_the_port(self) -> None:
        for n in SERIES:
            needed = 4.2 * n + 0.2
            with self.subTest(n):
                slow = {"program_ohm": 8000}
                self.sides(
                    "port-voltage",
                    gadget(n, slow | {"port_v": needed + 0.001}),
                    gadget(n, slow | {"port_v": needed - 0.001}),
                    "fix",
                )

    def test_the_timer(self) -> None:
        for n in SERIES:
            hours = (TrialBench(gadget(n), built_in()).charge.seconds or 0) / 3600  # type: ignore[union-attr]
            slow = {"program_ohm": 8000}
            long = (TrialBench(gadget(n, slow), built_in()).charge.seconds or 0) / 3600  # type: ignore[union-attr]
            self.assertGreater(long, 2 * hours)
            with self.subTest(n):
                self.sides(
                    "charge-timer",
                    gadget(n, slow | {"timer_h": long * 1.001}),
                    gadget(n, slow | {"timer_h": long * 0.999}),
                    "fix",
                )
            self.assertEqual(TrialBench(gadget(n, slow | {"timer_h": long * 0.999}), built_in()).charge.never, "timer")  # type: ignore[union-attr]

    def test_a_socket_that_asks_for_nothing(self) -> None:
        for n in SERIES:
            port = {"kind": "type-c", "gives_a": 3.0}
            gentle_ = {"port": port, "program_ohm": 8000}
            with self.subTest(n):
                self.sides(
                    "no-type-c-resistors",
                    gadget(n, gentle_),
                    gadget(n, gentle_ | {"port": port | {"resistors": False}}),
                    "stop",
                )
        bare = TrialBench(gadget(1, {"port": port | {"resistors": False}}), built_in()).charge
        assert bare is not None
        self.assertEqual((bare.never, bare.seconds), ("port", None))

    def test_a_power_bank_that_falls_asleep(self) -> None:
        for n in SERIES:
            bank = {"port": {"kind": "power-bank", "gives_a": 2.0}}
            with self.subTest(n):
                self.sides(
                    "bank-ends-charge",
                    gadget(n, bank | {"termination_share": 0.121}),
                    gadget(n, bank | {"termination_share": 0.119}),
                    "note",
                )

    def test_leakage_against_rest(self) -> None:
        rest = TrialBench(gadget(), built_in()).rest_a
        for n in SERIES:
            with self.subTest(n):
                self.sides(
                    "charger-leakage",
                    gadget(n, {"leakage_a": 0.19 * rest}),
                    gadget(n, {"leakage_a": 100 * rest}),
                    "watch",
                )
        self.assertTrue(seen(gadget(1, {"leakage_a": 0.21 * rest}), "charger-leakage"))

    def test_leakage_shortens_the_runtime_as_much_as_a_load(self) -> None:
        plain, leaking = (TrialBench(gadget(1, {"leakage_a": a}), built_in()).usual for a in (0.0, 1e-3))
        own = plain.pack.self_discharge_a
        self.assertAlmostEqual(leaking.pack.self_discharge_a, own + 1e-3)
        k = plain.middle
        ratio = (plain.mean_current_a[k] + own + 1e-3) / (plain.mean_current_a[k] + own)
        self.assertAlmostEqual(plain.charge_seconds / leaking.charge_seconds / ratio, 1, delta=0.02)

    def test_a_led_on_the_cell(self) -> None:
        mean = TrialBench(gadget(), built_in()).mean_a
        for n in SERIES:
            with self.subTest(n):
                self.sides(
                    "charger-led",
                    gadget(n, {"lamp_a": 0.19 * mean, "lamp_from_cell": True}),
                    gadget(n, {"lamp_a": 0.21 * mean, "lamp_from_cell": True}),
                    "fix",
                )
        self.assertFalse(seen(gadget(1, {"lamp_a": mean}), "charger-led"))

    def test_cells_in_series_want_balancing_one_does_not(self) -> None:
        self.assertFalse(seen(gadget(1, {"balances": False}), "not-balanced"))
        for n in (2, 3):
            with self.subTest(n):
                self.sides("not-balanced", gadget(n), gadget(n, {"balances": False}), "watch")

    def test_a_charger_that_cuts_the_supply(self) -> None:
        for n in SERIES:
            with self.subTest(n):
                self.sides(
                    "cut-while-charging",
                    gadget(n, {"cuts_load": True}),
                    gadget(n, {"cuts_load": True, "mode": "asleep"}),
                    "watch",
                )

    def test_a_panel_on_both_sides_of_what_a_day_takes(self) -> None:
        def with_panel(peak_w: float, n: int, latitude: float = 50) -> Design:
            panel = {"peak_w": peak_w, "latitude_deg": latitude, "month": 12, "tilt_deg": 60}
            return gadget(
                n,
                {"port": {"kind": "solar", "gives_a": 1.0, "panel": panel}, "topology": "switching", "efficiency": 1.0},
                brief=BRIEF | {"goal_h": 5000},
            )

        for n in SERIES:
            low, high = 1e-3, 400.0
            for _ in range(40):
                middle = (low * high) ** 0.5
                low, high = (low, middle) if not seen(with_panel(middle, n), "too-little-sun") else (middle, high)
            with self.subTest(n):
                self.sides("too-little-sun", with_panel(high * 1.01, n), with_panel(high * 0.99, n), "fix")
                (half,) = seen(with_panel(high / 2, n), "too-little-sun")
                assert half.found.ways
                larger = float(half.found.ways()[0].patch[0].value)  # type: ignore[arg-type]
                self.assertAlmostEqual(
                    larger / (1.2 * high), 1, delta=0.05
                )  # a fifth more than just enough, to two digits
                at_once = with_panel(high * 0.99, n).model_copy(
                    update={"brief": with_panel(1, n).brief.model_copy(update={"goal_h": 1.0})}
                )
                self.assertEqual(
                    seen(at_once, "too-little-sun")[0].severity, "watch"
                )  # its battery lasts for the goal by itself
        pole = seen(with_panel(400, 1, 89), "too-little-sun")
        self.assertIn("the sun does not rise", pole[0].sentence)
        self.assertIsNone(pole[0].remedy)


class Panels(unittest.TestCase):
    sides = BothSides.sides

    def test_more_than_an_area_can_give(self) -> None:
        """100 cm2 give 2.2 W."""
        for n in SERIES:

            def made(peak_w: float, n: int = n) -> Design:
                panel = {"peak_w": peak_w, "area_cm2": 100, "latitude_deg": 0}
                return gadget(n, {"port": {"kind": "solar", "gives_a": 1.0, "panel": panel}, "topology": "switching"})

            self.sides("panel-power", made(2.2), made(2.21), "watch")


class Protections(unittest.TestCase):
    sides = BothSides.sides

    def guarded(self, n: int, chemistry: str = "lithium-ion", form: str = "pouch", **more: Any) -> Design:
        pack = {
            "cell": cell(
                capacity_ah=1.0, cutoff_v=3.0 if chemistry == "lithium-ion" else 2.0, chemistry=chemistry, form=form
            ),
            "protection": more,
        }
        return gadget(n, battery=pack)

    def test_none_at_all(self) -> None:
        for n in SERIES:
            bare = gadget(n, battery={"protection": None})
            self.sides("no-protection", self.guarded(n), bare, "stop")
            self.sides("no-protection", self.guarded(n), bare.model_copy(update={"charger": None}), "watch")

    def test_a_trip_and_a_fuse_against_the_peak(self) -> None:
        for n in SERIES:
            peak = TrialBench(self.guarded(n), built_in()).peak_a[0]
            with self.subTest(n):
                self.sides(
                    "protection-trips",
                    self.guarded(n, overcurrent_a=peak * 1.01),
                    self.guarded(n, overcurrent_a=peak * 0.99),
                    "fix",
                )
                self.sides(
                    "fuse-blows", self.guarded(n, fuse_a=peak * 1.01), self.guarded(n, fuse_a=peak * 0.99), "fix"
                )

    def test_it_cuts_off_before_the_cell_does(self) -> None:
        """The cut-off of the pack is the higher of the two, its resistance in the way."""
        for n in SERIES:
            plain, early = (
                TrialBench(self.guarded(n, cut_v_per_cell=v, ohm=0.1), built_in()).usual.pack for v in (2.9, 3.3)
            )
            bare = TrialBench(gadget(n, battery={"protection": None}), built_in()).usual.pack
            self.assertAlmostEqual(plain.cutoff_v, 3.0 * n)
            self.assertAlmostEqual(early.cutoff_v, 3.3 * n)
            self.assertAlmostEqual(float(plain.resistance_ohm[10] - bare.resistance_ohm[10]), 0.1)

    def test_a_threshold_below_what_cells_stand(self) -> None:
        for n in SERIES:
            for chemistry, least in (("lithium-ion", 2.3), ("lithium-iron-phosphate", 1.9)):
                with self.subTest(f"{n} {chemistry}"):
                    self.sides(
                        "protection-too-low",
                        self.guarded(n, chemistry, cut_v_per_cell=least),
                        self.guarded(n, chemistry, cut_v_per_cell=least - 0.01),
                        "watch",
                    )

    def test_what_only_a_charger_wakes(self) -> None:
        for n in SERIES:
            asleep = self.guarded(n, wakes_by_charger=True)
            self.sides("wakes-by-charger", asleep, asleep.model_copy(update={"charger": None}), "fix")

    def test_the_wrong_way_round(self) -> None:
        for n in SERIES:
            self.sides("reversal", self.guarded(n), self.guarded(n, form="cylinder"), "watch")


class Choosing(unittest.TestCase):
    def test_what_the_catalogue_offers_fits_the_pack_and_is_gentle(self) -> None:
        for n, chemistry in (
            (1, "lithium-ion"),
            (2, "lithium-ion"),
            (3, "lithium-ion"),
            (1, "lithium-iron-phosphate"),
            (2, "nickel-metal-hydride"),
        ):
            with self.subTest(f"{n} {chemistry}"):
                made = gadget(
                    n,
                    {"port_v": {1: 5.0, 2: 9.0, 3: 15.0}[n] if "nickel" not in chemistry else 5.0},
                    battery={
                        "cell": cell(
                            chemistry=chemistry, capacity_ah=1.0, cutoff_v=1.0 if "nickel" in chemistry else 2.5
                        )
                    },
                )
                bench = TrialBench(made, built_in())
                rows = fitting(bench)
                self.assertTrue(rows)
                for one in rows:
                    self.assertEqual(one.cells_in_series, n)
                    if one.fixed_a is None:
                        self.assertLessEqual(
                            gentle(bench, one).set_a, max(bench.charge.gentle_a if bench.charge else 0.1, 1e-9) * 1.001
                        )  # type: ignore[union-attr]

    def test_thirty_of_them_at_least_and_each_charges_something(self) -> None:
        chargers = built_in().chargers
        self.assertGreaterEqual(len(chargers), 30)
        self.assertEqual(len({c.name for c in chargers}), len(chargers))
        for one in chargers:
            if one.set_a < 0.015:  # less than this gadget draws meanwhile
                continue
            with self.subTest(one.name):
                held = {
                    2.4: "lead-acid",
                    2.5: "super-capacitor",
                    2.7: "lithium-titanate",
                    3.6: "lithium-iron-phosphate",
                }
                usual = "nickel-metal-hydride" if one.method != "cc-cv" else "lithium-ion"
                kind = usual if one.method != "cc-cv" else held.get(one.float_v_per_cell, usual)
                size = max(one.set_a / (0.2 if kind == "lead-acid" else 0.5), 0.02)
                own = cell(
                    chemistry=kind,
                    capacity_ah=size,
                    resistance_ohm=0.1 / size,
                    cutoff_v={
                        "lithium-ion": 2.5,
                        "lithium-iron-phosphate": 2.5,
                        "lithium-titanate": 1.8,
                        "lead-acid": 1.75,
                    }.get(kind, 1.0),
                    full_v={"super-capacitor": 2.5, "lithium-ion": one.float_v_per_cell}.get(kind),
                )
                made = gadget(one.cells_in_series, battery={"cell": own, "protection": {}}).model_copy(
                    update={"charger": one}
                )
                result = TrialBench(made, built_in()).charge
                assert result is not None
                if one.port is not None and not one.port.resistors:
                    self.assertEqual(result.never, "port")
                elif one.port is None or one.port.kind != "solar":
                    self.assertEqual(result.never, "", one.name)
                    self.assertTrue(0.5 * 3600 < (result.seconds or 0) < 16 * 3600, result.seconds)
                self.assertFalse(seen(made, "resistor-range"))
                self.assertFalse(seen(made, "port-voltage"))
                self.assertFalse(seen(made, "float-tolerance"))


class Heat(unittest.TestCase):
    sides = BothSides.sides

    def running(self, watts: float, n: int = 1, **more: Any) -> Design:
        heater = {"name": "on", "draw": {"behaviour": "power", "power_w": {"typical": watts}}, "provenance": "measured"}
        modes = [
            {"id": "asleep", "name": "Asleep", "uses": [use("heater", "off")]},
            {"id": "awake", "name": "Awake", "uses": [use("heater", "on")]},
        ]
        body = {"size_mm": [20, 20, 5]}
        enclosure = {"outer_mm": (60, 90, 24), "plastic": "polycarbonate"} | more.pop("enclosure", {})
        own = gadget(
            n, battery={"cell": cell(capacity_ah=20, discharge_max_a=20, resistance_ohm=1e-3)}, parts=[part("heater", state("off", 1e-6), heater, body=body, kind="sensor")],
            modes=modes, day={"rest": "asleep", "sessions": [{"name": "Use", "mode": "awake", "seconds": 86400, "per_day": 1}]}, enclosure=enclosure,
            **{k: v for k, v in more.items() if k != "charger"},
        )  # fmt: skip
        return own.model_copy(update={"charger": None}) if "charger" in more else own

    def threshold(self, code: str, n: int = 1, **more: Any) -> float:
        low, high = 1e-3, 60.0
        for _ in range(30):
            middle = (low * high) ** 0.5
            low, high = (low, middle) if seen(self.running(middle, n, **more), code) else (middle, high)
        return high

    def test_the_touch_limit_by_contact(self) -> None:
        for carried, limit in (("no", 85.0), ("hand", 48.0), ("clothes", 43.0)):
            case: dict[str, Any] = {"enclosure": {"carried": carried}, "charger": None}
            watts = self.threshold("touch-limit", **case)
            outside = TrialBench(self.running(watts, **case), built_in()).warmth.outside.degrees_c
            self.assertAlmostEqual(float(outside), limit, delta=0.05)
            with self.subTest(carried):
                self.sides("touch-limit", self.running(watts * 0.99, **case), self.running(watts * 1.01, **case), "fix")

    def test_a_part_on_its_own_surface(self) -> None:
        """20 x 20 x 5 mm: 12 cm2 at 17.3 W/m2K, what a body of that size gives 45 K above air of 40 degC, are 48 K/W above the air inside."""
        watts = self.threshold("part-too-hot")
        warm = TrialBench(self.running(watts), built_in()).warmth
        rise = 85.0 - float(warm.inside_c[1])
        self.assertAlmostEqual(watts / (12e-4 * float(part_film(np.array(rise), np.array(12e-4)))), rise, delta=0.5)
        self.assertAlmostEqual(float(part_film(np.array(45.0), np.array(12e-4))), 17.34, delta=0.05)
        self.sides("part-too-hot", self.running(watts * 0.99), self.running(watts * 1.01), "watch")

    def test_a_part_while_it_charges(self) -> None:
        """It runs while it charges, where it is 30 degC instead of 25 around it and the charger warms the air too."""
        for n in SERIES:
            cool, warm = (self.running(0.3, n), {"mode": "awake"})
            loud = cool.model_copy(update={"charger": cool.charger and cool.charger.model_copy(update=warm)})
            made = [TrialBench(x, built_in()).warmth for x in (cool, loud)]
            assert made[1].charging_node_c is not None
            self.assertGreater(made[1].charging_node_c[0], made[1].node_c[0].max() + 5)
            self.assertFalse(seen(cool, "part-too-hot"))
            part_limit = float(made[1].charging_node_c[0])
            for limit, found in ((part_limit - 0.1, True), (part_limit + 0.1, False)):
                with patch("ember_core.solved.nodes.PART_MAX_C", limit):
                    told = seen(loud, "part-too-hot")
                    self.assertEqual(bool(told), found)
                    for one in told:
                        self.assertIn("While charging it burns 300 mW", one.sentence)
            cut = loud.model_copy(
                update={"charger": loud.charger and loud.charger.model_copy(update={"cuts_load": True})}
            )
            off = TrialBench(cut, built_in()).warmth  # nothing runs meanwhile: the air is all that warms it
            assert off.charging_node_c is not None
            self.assertEqual(off.meanwhile_w.max(), 0)
            self.assertLess(off.charging_node_c[0], part_limit - 15)

    def test_a_regulator_while_it_charges(self) -> None:
        """300 mA at 1.8 V: its junction is warmer while it charges, where the air inside is; both sides of its limit, on one to three cells."""
        for n in SERIES:

            def made(limit: float, mode: str, n: int = n, *, cuts_load: bool = False) -> Design:
                stage = LINEAR | {"output_v": 1.8, "rth_ja_c_per_w": 30, "junction_max_c": limit}
                return gadget(
                    n, {"mode": mode, "cuts_load": cuts_load}, {"cell": cell(capacity_ah=2.0)},
                    parts=[part("chip", state("off", 1e-6), state("on", 0.3))],
                    modes=[{"id": "asleep", "name": "Asleep", "uses": [use("chip", "off")]},
                           {"id": "awake", "name": "Awake", "uses": [use("chip", "on")]}],
                    day={"rest": "asleep", "sessions": [{"name": "Use", "mode": "awake", "seconds": 600, "per_day": 1}]},
                    supply={"stages": [stage], "rails": [{"id": "main", "name": "Main", "feed": stage["id"]}]},
                    enclosure={"outer_mm": (60, 90, 24), "plastic": "polycarbonate"},
                )  # fmt: skip

            own = TrialBench(made(125, "awake"), built_in())
            assert own.warmth.charging_c is not None
            watts = float((own.usual.in_mode @ own.usual.stage_peak_loss_w[0])[1])
            junction = own.warmth.charging_c + 30 * watts
            self.assertGreater(junction, float(own.warmth.inside_c[1]) + 30 * watts + 3)
            self.assertFalse(seen(made(junction + 0.1, "awake"), "stage-too-hot"))
            self.assertIn("While charging it loses", seen(made(junction - 0.1, "awake"), "stage-too-hot")[0].sentence)
            self.assertFalse(seen(made(junction - 0.1, "asleep"), "stage-too-hot"))
            self.assertFalse(seen(made(junction - 0.1, "awake", cuts_load=True), "stage-too-hot"))

    def test_a_short_burst_does_not_heat_a_part_through(self) -> None:
        made = self.running(3.0)
        short = made.model_copy(
            update={
                "day": made.day.model_copy(
                    update={"sessions": [made.day.sessions[0].model_copy(update={"seconds": 5.0})]}
                )
            }
        )
        self.assertTrue(seen(made, "part-too-hot"))
        self.assertFalse(seen(short, "part-too-hot"))

    def test_the_sun_on_a_dark_case_and_the_way_out(self) -> None:
        sun = {"enclosure": {"in_sun": True, "colour": "dark", "plastic": "PLA"}}
        watts = self.threshold("too-warm", **sun)
        shade = {"enclosure": {"colour": "dark", "plastic": "PLA"}}
        self.assertGreater(self.threshold("too-warm", **shade), watts * 1.5)
        found = seen(self.running(watts * 1.01, **sun), "too-warm")[0]
        self.assertIn("The sun adds", found.sentence)
        remedy = found.remedy
        assert remedy
        self.assertEqual(remedy.label, "Make it light")
        self.assertFalse(seen(apply(self.running(watts * 1.01, **sun), remedy), "too-warm"))

    def test_vents_where_it_splashes(self) -> None:
        vents = {"enclosure": {"vents": {"area_mm2": 100, "height_mm": 20}}}
        self.sides(
            "vents-exposed",
            self.running(0.1, **vents),
            self.running(0.1, **vents, brief=BRIEF | {"exposure": "splashed"}),
            "fix",
        )

    def test_a_way_out_by_vents_says_where_it_is_dry_only(self) -> None:
        watts = self.threshold("touch-limit", enclosure={"carried": "hand"}) * 1.05
        dry = self.running(watts, enclosure={"carried": "hand"})
        wet = self.running(watts, enclosure={"carried": "hand"}, brief=BRIEF | {"exposure": "sealed"})
        self.assertTrue(
            any("Vents" in r.label for r in (seen(dry, "touch-limit")[0].found.ways or (lambda: []))() if r)
        )
        self.assertFalse(
            any("Vents" in r.label for r in (seen(wet, "touch-limit")[0].found.ways or (lambda: []))() if r)
        )

    def test_twenty_watts_in_a_sealed_box_are_said_plainly(self) -> None:
        warm = TrialBench(self.running(200.0), built_in()).warmth
        self.assertEqual(warm.running_c, 25 + 150)
        self.assertLessEqual(float(warm.outer_c.max()), 175)

    def test_a_vent_larger_than_its_wall_is_refused(self) -> None:
        for area, fine in ((60 * 90 / 2, True), (60 * 90 / 2 + 1, False)):
            case = {"enclosure": {"vents": {"area_mm2": area, "height_mm": 20}}}
            if fine:
                self.running(0.1, **case)
            else:
                with self.assertRaisesRegex(Exception, "more than half of its largest wall"):
                    self.running(0.1, **case)


class Meanwhiles(unittest.TestCase):
    def test_a_charge_from_half_takes_less_and_ends_alike(self) -> None:
        bench = TrialBench(gadget(), built_in())
        warm = bench.warmth
        assert bench.charge is not None and warm.meanwhile is not None and warm.usual_shell is not None
        charger = bench.design.charger
        assert charger is not None
        half = charge(charger, bench.design.battery, warm.usual_shell, warm.meanwhile, 0.5)
        self.assertLess(half.seconds or 0, 0.75 * (bench.charge.seconds or 0))
        self.assertAlmostEqual(half.full_share, bench.charge.full_share, delta=0.003)
        self.assertAlmostEqual(float(half.course.charge[0]), 0.5, delta=0.02)


class ProtectedElsewhere(unittest.TestCase):
    def test_by_a_stage_or_the_charger_board(self) -> None:
        switch = {
            "type": "pass",
            "id": "sw",
            "name": "Switch",
            "input": "battery",
            "resistance_ohm": 0.02,
            "limit_a": 5,
        }
        rails = [{"id": "main", "name": "Main", "feed": "sw"}]
        for more, found in (({}, True), ({"protects": True}, False), ({"role": "protection"}, False)):
            supply = {"stages": [switch | more], "rails": rails}
            with self.subTest(more):
                self.assertEqual(
                    bool(seen(gadget(supply=supply, battery={"protection": None}), "no-protection")), found
                )
        self.assertFalse(seen(gadget(1, {"protects": True}), "no-protection"))
