"""Radio and coils in metal, cases of two materials, and what ratings say: both sides of each limit."""

from __future__ import annotations

import unittest
from typing import Any

from ember_core import Design, evaluate
from ember_core.catalogue import built_in
from ember_core.design.patches import apply
from ember_core.measures.bench import TrialBench
from ember_core.thermal.materials import MATERIALS
from ember_core.thermal.shell import lid_share, shell_mass_g

from .gadgets import LINEAR, cell, design, part, seen, state, use
from .test_refill import gadget

STEEL = {"outer_mm": [80, 60, 30], "plastic": "steel", "process": "ready-made"}


def radio(key: str = "part-ctl-dual", **case: Any) -> Design:
    chip = built_in().by_key[key].part
    assert chip is not None
    made = chip.model_dump(mode="json") | {"id": "chip", "rail": "main"}
    calm, busy = made["states"][0]["name"], made["states"][-1]["name"]
    modes = [{"id": m, "name": m.title(), "uses": [use("chip", s)]} for m, s in (("asleep", calm), ("awake", busy))]
    return design(parts=[made], modes=modes, enclosure=STEEL | case)


class Metal(unittest.TestCase):
    def test_each_controller_with_a_radio_is_found(self) -> None:
        for key in ("part-ctl-dual", "part-ctl-short", "part-board-radio-bridge", "part-board-radio-frugal"):
            entry = built_in().by_key[key].part
            assert entry is not None and entry.body is not None
            self.assertIn("antenna", {z.kind for z in entry.body.zones}, key)
            with self.subTest(key):
                told = seen(radio(key), "radio-shielded")
                self.assertEqual([x.severity for x in told], ["fix"])
                self.assertEqual(
                    next(v for v in evaluate(radio(key)).verdicts if v.key == "fit").status == "pass", False
                )
                assert told[0].remedy
                self.assertFalse(seen(apply(radio(key), told[0].remedy), "radio-shielded"))

    def test_a_window_on_both_sides_of_half_a_wave(self) -> None:
        for wide, severity in ((30.9, "fix"), (31.1, "watch"), (61.9, "watch"), (62.1, None), (70, None)):
            told = seen(radio(radio_window_mm=[wide, 10]), "radio-shielded")
            self.assertEqual([x.severity for x in told], [severity] if severity else [])

    def test_a_display_behind_its_window_is_one_too(self) -> None:
        made = radio().model_dump(mode="json")
        screen = {
            "size_mm": [74, 20, 3],
            "position_mm": [3, 20, 26],
            "through": "top",
            "window": {"at_mm": [2, 2], "size_mm": [70, 16]},
        }
        made["parts"].append(part("screen", state("on", 0.01), body=screen))
        from ember_core import build_design

        self.assertFalse(seen(build_design(made), "radio-shielded"))

    def test_a_lid_of_plastic_lets_it_out(self) -> None:
        self.assertFalse(seen(radio(lid="ABS"), "radio-shielded"))
        self.assertTrue(seen(radio(lid="aluminium"), "radio-shielded"))

    def test_a_coil_behind_steel(self) -> None:
        pad = {"port": {"kind": "wireless", "gives_a": 1.0}}
        self.assertEqual([x.severity for x in seen(gadget(1, pad, enclosure=STEEL), "coil-shielded")], ["fix"])
        self.assertFalse(seen(gadget(1, pad, enclosure=STEEL | {"lid": "ABS"}), "coil-shielded"))
        self.assertFalse(seen(gadget(1, pad | {"outside": True}, enclosure=STEEL), "coil-shielded"))
        self.assertFalse(seen(gadget(1, pad), "coil-shielded"))
        self.assertFalse(seen(gadget(1, enclosure=STEEL), "coil-shielded"))

    def test_a_tin_is_as_thin_as_it_is(self) -> None:
        thin = STEEL | {"wall_mm": 0.3}
        self.assertFalse(seen(design(enclosure=thin), "thin-wall"))
        self.assertTrue(seen(design(enclosure=thin | {"process": "filament", "plastic": "PETG"}), "thin-wall"))


class Mixed(unittest.TestCase):
    def test_the_softer_one_counts(self) -> None:
        for lid, limit in ((None, 98), ("PLA", 58), ("polycarbonate", 98)):
            case = {"outer_mm": [60, 90, 24], "plastic": "ABS", "lid": lid}
            self.assertEqual(evaluate(design(enclosure=case)).heat.softening_c, limit)

    def test_each_piece_has_its_mass(self) -> None:
        case = design(enclosure={"outer_mm": [60, 90, 24], "plastic": "ABS", "split_mm": 12}).enclosure
        self.assertAlmostEqual(lid_share(case), 0.5, delta=0.05)  # the same below and above
        heavy = case.model_copy(update={"lid": "aluminium"})
        by_hand = shell_mass_g(case) * (1 + lid_share(case) * (2.70 / 1.04 - 1))
        self.assertAlmostEqual(shell_mass_g(heavy), by_hand)


class Ratings(unittest.TestCase):
    def capacitor(self, rated: float, series: int = 1) -> Design:
        rail = {"id": "main", "name": "Main", "feed": "battery", "capacitor": {"farad": 1e-4, "rated_v": rated}}
        return design(
            supply={"stages": [], "rails": [rail]}, battery={"cell": cell(), "series": series, "wiring_ohm": 0}
        )

    def test_a_capacitor_on_one_two_and_three_cells(self) -> None:
        for n in (1, 2, 3):
            top = 4.2 * n
            for rated, severity in (
                (top / 0.899, None),
                (top / 0.901, "watch"),
                (top * 0.999, "fix"),
                (top / 1.19, "fix"),
                (top / 1.21, "stop"),
            ):
                told = seen(self.capacitor(rated, n), "capacitor-rating")
                with self.subTest(f"{n} {severity}"):
                    self.assertEqual([x.severity for x in told], [severity] if severity else [])
                    if told and told[0].remedy:
                        self.assertFalse(seen(apply(self.capacitor(rated, n), told[0].remedy), "capacitor-rating"))

    def test_an_led_with_too_little_resistance(self) -> None:
        """(4.2 - 2.0) V through 100 ohm are 22 mA."""
        for rated, found in ((0.0221, False), (0.0219, True)):
            lit = {
                "name": "lit",
                "draw": {
                    "behaviour": "led",
                    "forward_v": 2.0,
                    "resistance_ohm": {"typical": 100, "min": 100, "max": 100},
                },
                "provenance": "datasheet",
            }
            lamp = part("lamp", state("off", 0), lit, kind="light", rated_a=rated)
            modes = [{"id": m, "name": m, "uses": [use("lamp", s)]} for m, s in (("asleep", "off"), ("awake", "lit"))]
            made = design(
                parts=[lamp],
                modes=modes,
                supply={"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]},
            )
            self.assertEqual([x.severity for x in seen(made, "current-rating")], ["fix"] if found else [])

    def test_the_kick_of_a_coil(self) -> None:
        for known, severity in ((True, None), (None, "note"), (False, "fix")):
            motor = part("motor", state("off", 0), state("on", 0.1), kind="motor", flyback=known)
            modes = [{"id": m, "name": m, "uses": [use("motor", s)]} for m, s in (("asleep", "off"), ("awake", "on"))]
            told = seen(design(parts=[motor], modes=modes), "no-flyback")
            self.assertEqual([x.severity for x in told], [severity] if severity else [])

    def test_a_diode_that_charges_a_coin_cell(self) -> None:
        coin = {
            "cell": cell(chemistry="lithium-coin", form="coin", size_mm=[20, 20, 3.2], capacity_ah=0.2, cutoff_v=2.0)
        }
        for amps, severity in ((0.99e-6, None), (1.01e-6, "watch"), (9.9e-6, "watch"), (10.1e-6, "fix")):
            path = {
                "type": "power-or",
                "id": "reg",
                "name": "Two diodes",
                "input": "battery",
                "other": "usb",
                "limit_a": 1,
                "forward_v": 0.3,
                "reverse_a": amps,
            }
            supply = {
                "sources": [{"id": "usb", "name": "USB"}],
                "stages": [path],
                "rails": [{"id": "main", "name": "Main", "feed": "reg"}],
            }
            told = seen(design(supply=supply, battery=coin), "charged-backwards")
            self.assertEqual([x.severity for x in told], [severity] if severity else [])
            self.assertFalse(seen(design(supply=supply), "charged-backwards"))  # a rechargeable one

    def test_a_car_in_the_sun(self) -> None:
        for left, plastic, softens, hot in (
            (57, "PLA", False, None),
            (59, "PLA", True, None),
            (61, "PETG", False, "fix"),
            (74, "PETG", False, "fix"),
            (76, "PETG", True, "stop"),
        ):
            made = design(
                enclosure={"outer_mm": [60, 90, 24], "plastic": plastic}, brief={"hottest_c": 35, "left_c": left}
            )
            with self.subTest(left):
                self.assertEqual(bool(seen(made, "left-softens")), softens)
                self.assertEqual([x.severity for x in seen(made, "left-too-hot")], [hot] if hot else [])

    def test_what_a_snap_is_strained_to(self) -> None:
        body = {"size_mm": [10, 2.5, 8], "position_mm": [20, 2, 10]}
        for strain, severity in ((0.0179, None), (0.0181, "watch"), (0.0299, "watch"), (0.0301, "fix")):
            held = {"id": "snap", "name": "Snap", "kind": "snap", "body": body, "strain": strain}
            made = design(enclosure={"outer_mm": [60, 90, 24], "plastic": "PETG", "fastenings": [held]})
            self.assertEqual([x.severity for x in seen(made, "snap-strain")], [severity] if severity else [])
        self.assertEqual(MATERIALS["PETG"].strain, 0.03)

    def test_the_gap_of_a_lid(self) -> None:
        for exposure, gap, severity in (
            ("dry", 2, None),
            ("splashed", 0.29, None),
            ("splashed", 0.31, "watch"),
            ("sealed", 0.0, None),
            ("sealed", 0.05, "fix"),
        ):
            made = design(brief={"exposure": exposure}, enclosure={"outer_mm": [60, 90, 24], "lid_gap_mm": gap})
            self.assertEqual([x.severity for x in seen(made, "wide-gap")], [severity] if severity else [])

    def test_a_coin_cell_in_reach_of_children(self) -> None:
        coin = {
            "cell": cell(chemistry="lithium-coin", form="coin", size_mm=[20, 20, 3.2], capacity_ah=0.2, cutoff_v=2.0)
        }
        near = {"brief": {"children_near": True}, "battery": coin}
        self.assertTrue(seen(design(**near), "coin-in-reach"))
        screw = {
            "id": "s",
            "name": "Screw",
            "kind": "screw",
            "thread": "M2",
            "body": {"size_mm": [5, 5, 10], "position_mm": [4, 4, 2]},
        }
        held = {"outer_mm": [60, 90, 24], "fastenings": [screw]}
        self.assertFalse(seen(design(**near, enclosure=held), "coin-in-reach"))
        self.assertFalse(seen(design(battery=coin), "coin-in-reach"))
        self.assertFalse(seen(design(brief={"children_near": True}), "coin-in-reach"))


class HeatShares(unittest.TestCase):
    def burnt(self, kind: str, share: float | None = None) -> tuple[float, float, float]:
        """(what the part burns itself, what burns in the case in all, what it takes) [W]."""
        one = part("one", state("off", 1e-9), state("on", 0.5), kind=kind, inside_share=share)
        modes = [{"id": m, "name": m, "uses": [use("one", s)]} for m, s in (("asleep", "off"), ("awake", "on"))]
        supply = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}
        bench = TrialBench(
            design(
                parts=[one], modes=modes, supply=supply, battery={"cell": cell(resistance_ohm=1e-6), "wiring_ohm": 0}
            ),
            built_in(),
        )
        volts = float(bench.usual.pack.open_circuit_v[bench.middle])
        return float(bench.warmth.node_w[0, 1]), float(bench.warmth.mode_w[1]), volts * 0.5

    def test_what_leaves_does_not_warm_it(self) -> None:
        for kind, own, inside in (
            ("sensor", 1.0, 1.0),
            ("light", 0.75, 0.75),
            ("led", 0.85, 0.85),
            ("sound", 0.17, 0.99),
            ("motor", 0.6, 0.6),
        ):
            burns, all_, takes = self.burnt(kind)
            with self.subTest(kind):
                self.assertAlmostEqual(burns / takes, own, places=4)
                self.assertAlmostEqual(all_ / takes, inside, places=4)
        burns, all_, takes = self.burnt("sound", 0.1)
        self.assertAlmostEqual(burns / takes, 0.1, places=4)
        self.assertAlmostEqual(all_ / takes, 0.1 + 0.99 * 0.9, places=4)  # the coil of the speaker
        self.assertAlmostEqual(self.burnt("light", 0.4)[1] / self.burnt("light", 0.4)[2], 0.4, places=4)


class Stages(unittest.TestCase):
    def test_the_warmest_is_named(self) -> None:
        """A linear regulator beyond its junction is no gadget that stays cool."""
        for limit, status in ((60, "fail"), (250, "pass")):
            stage = LINEAR | {"output_v": 1.8, "rth_ja_c_per_w": 100, "junction_max_c": limit}
            made = design(
                supply={"stages": [stage], "rails": [{"id": "main", "name": "Main", "feed": "reg"}]},
                parts=[part("chip", state("sleep", 1e-3), state("active", 0.2))],
            )
            verdict = next(v for v in evaluate(made).verdicts if v.key == "heat")
            self.assertEqual(verdict.status, status)
            if status == "fail":
                self.assertIn("Regulator", verdict.sentence)
                self.assertIn("Regulator", verdict.about)


if __name__ == "__main__":
    unittest.main()
