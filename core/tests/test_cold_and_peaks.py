"""The coldest of the brief and the peaks that last reach what is told: what ends the run, the cell's limit, the protection, the verdicts."""

from __future__ import annotations

import unittest
from typing import Any

from ember_core import Design, evaluate
from ember_core.catalogue import built_in
from ember_core.findings import find
from ember_core.load.operating_points import CARRIED_V, LASTS_S, all_operating_points, lasting_peaks_a
from ember_core.measures.bench import TrialBench

from .gadgets import cell, design, part, plain, seen, state, use

STRAIGHT = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}
BRIEF = {"goal_h": 10, "coldest_c": 25, "usual_c": 25, "hottest_c": 25}


def motor(amps: float = 10.0, seconds: float = 2.0, *, as_state: bool = False, series: int = 2, **more: Any) -> Design:
    """A motor that takes 0.5 A and 10 A for two seconds, as a peak or as a state; on cells of 4.5 A behind a protection of 5.85 A."""
    peak = None if as_state else {"current_a": amps, "seconds": seconds, "state": "on"}
    states = [state("off", 1e-6), state("on", 0.5 + (amps if as_state else 0.0))]
    one = part("motor", *states, kind="motor", peak=peak, flyback=True, supply_min_v=more.pop("least_v", None))
    modes = [{"id": m, "name": m.title(), "uses": [use("motor", s)]} for m, s in (("asleep", "off"), ("awake", "on"))]
    strong = cell(capacity_ah=3, discharge_max_a=4.5, resistance_ohm=0.01, size_mm=[60, 60, 12], mass_g=60)
    pack = {"cell": strong, "series": series, "wiring_ohm": 0.005, "protection": {"overcurrent_a": 5.85, "ohm": 0.01}}
    return design(**({"parts": [one], "modes": modes, "supply": STRAIGHT, "battery": pack, "brief": BRIEF} | more))


class Peaks(unittest.TestCase):
    def test_as_a_peak_it_is_told_as_it_is_as_a_state(self) -> None:
        for series in (1, 2, 3):
            codes = [
                {f.code for f in find(TrialBench(motor(as_state=x, series=series), built_in()))} for x in (False, True)
            ]
            with self.subTest(series):
                self.assertLessEqual({"peak-current", "protection-trips"}, codes[0])
                self.assertLessEqual({"peak-current", "protection-trips"}, codes[1])

    def test_it_is_in_the_peak_current_and_the_verdict(self) -> None:
        found = evaluate(motor())
        self.assertAlmostEqual(found.battery.peak_current.value or 0, 10.5, places=3)
        self.assertEqual(next(v for v in found.verdicts if v.key == "weakest").word, "protection trips")

    def test_both_sides_of_what_the_cell_and_the_protection_stand(self) -> None:
        for amps, found in ((3.99, False), (4.01, True)):  # and 0.5 A of the state: 4.5 A
            self.assertEqual(bool(seen(motor(amps), "peak-current")), found)
        for amps, found in ((5.34, False), (5.36, True)):
            self.assertEqual(bool(seen(motor(amps), "protection-trips")), found)

    def test_it_ends_the_run(self) -> None:
        weak = cell(capacity_ah=3, discharge_max_a=20, resistance_ohm=0.1, size_mm=[60, 60, 12], mass_g=60)
        pack = {"cell": weak, "wiring_ohm": 0}
        short, long = (TrialBench(motor(a, battery=pack, least_v=2.8), built_in()) for a in (8.0, 0.01))
        self.assertGreater(short.usual.ending[1], long.usual.ending[1] + 0.2)
        self.assertLess(short.runtime_s, 0.8 * long.runtime_s)  # in the samples too

    def test_only_what_lasts_counts_so(self) -> None:
        for seconds, counts in ((LASTS_S * 0.99, False), (LASTS_S, True)):
            made = motor(seconds=seconds)
            self.assertEqual(bool(lasting_peaks_a(made, all_operating_points(made)).any()), counts)
        self.assertEqual(LASTS_S, 0.01)

    def test_what_a_capacitor_carries_does_not(self) -> None:
        """0.1 A for 10 ms through 0 ohm: 10 mF fall by 0.1 V."""
        for farad, counts in ((0.0099, True), (0.0101, False)):
            rail = {"id": "main", "name": "Main", "feed": "battery", "capacitor": {"farad": farad, "esr_ohm": 0}}
            made = motor(0.1, 0.01, supply={"stages": [], "rails": [rail]})
            self.assertEqual(bool(lasting_peaks_a(made, all_operating_points(made)).any()), counts)
        self.assertEqual(CARRIED_V, 0.1)

    def test_of_two_on_a_rail_the_larger_one(self) -> None:
        made = motor(3.0).model_dump(mode="json")
        made["parts"].append(
            part(
                "pump",
                state("off", 0),
                state("on", 0.1),
                kind="motor",
                quantity=2,
                peak={"current_a": 2.0, "seconds": 1},
            )
        )
        made["modes"][1]["uses"].append(use("pump", "on"))
        from ember_core import build_design

        two = build_design(made)
        self.assertEqual(float(lasting_peaks_a(two, all_operating_points(two)).max()), 4.0)

    def test_a_motor_that_is_held_fast(self) -> None:
        def stalled(amps: float, trips: float | None) -> Design:
            one = part("motor", state("off", 0), state("on", 0.2), state("stalled", amps), kind="motor", flyback=True)
            modes = [{"id": m, "name": m, "uses": [use("motor", s)]} for m, s in (("asleep", "off"), ("awake", "on"))]
            guard = {"overcurrent_a": trips} if trips else None
            return motor(
                parts=[one],
                modes=modes,
                battery={
                    "cell": cell(capacity_ah=3, discharge_max_a=4.5, size_mm=[60, 60, 12], mass_g=60),
                    "protection": guard,
                },
            )

        for amps, trips, severity in (
            (4.4, 6, None),
            (4.6, 4.5, "watch"),
            (4.6, 6, "fix"),
            (9.0, None, "fix"),
            (0.5, None, None),
        ):
            told = seen(stalled(amps, trips), "stalled-motor")
            with self.subTest(f"{amps} {trips}"):
                self.assertEqual([x.severity for x in told], [severity] if severity else [])


class Cold(unittest.TestCase):
    def coin(self, coldest: float) -> Design:
        radio = part("radio", state("sleep", 2e-6), state("send", 0.012), supply_min_v=2.4)
        modes = [
            {"id": m, "name": m.title(), "uses": [use("radio", s)]} for m, s in (("asleep", "sleep"), ("awake", "send"))
        ]
        coin = cell(
            chemistry="lithium-coin",
            form="coin",
            size_mm=[20, 20, 3.2],
            capacity_ah=0.235,
            cutoff_v=2.0,
            resistance_ohm=15,
            discharge_max_a=0.02,
            mass_g=3,
        )
        day = {"rest": "asleep", "sessions": [{"name": "Send", "mode": "awake", "seconds": 1, "per_day": 20}]}
        return design(parts=[radio], modes=modes, supply=STRAIGHT, battery={"cell": coin, "wiring_ohm": 0}, day=day,
                      brief={"goal_h": 1000, "coldest_c": coldest, "usual_c": 20, "hottest_c": 25})  # fmt: skip

    def test_a_coin_cell_fails_in_the_frost_and_says_so(self) -> None:
        mild, frost = self.coin(15), self.coin(-20)
        self.assertFalse(seen(mild, "fails-in-the-cold"))
        told = seen(frost, "fails-in-the-cold")
        self.assertEqual([x.severity for x in told], ["fix"])
        self.assertIn("At −20 °C", told[0].sentence.replace("-20", "−20"))
        verdicts = {v.key: v for v in evaluate(frost).verdicts}
        self.assertNotEqual(verdicts["weakest"].status, "pass")
        self.assertNotEqual(verdicts["runtime"].status, "pass")

    def test_three_alkaline_cells_at_minus_forty_do_not_pass(self) -> None:
        def made(coldest: float) -> Design:
            chip = part("chip", state("sleep", 1e-4), state("active", 0.02), supply_min_v=2.0)
            aa = built_in().by_key["cell-aa-alkaline"].cell
            assert aa is not None
            return design(parts=[chip], supply=STRAIGHT, battery={"cell": aa.model_dump(mode="json"), "series": 3},
                          brief={"goal_h": 500, "coldest_c": coldest, "usual_c": 20, "hottest_c": 25})  # fmt: skip

        mild, frost = (next(v for v in evaluate(made(t)).verdicts if v.key == "runtime") for t in (10, -40))
        self.assertEqual(mild.status, "pass")
        self.assertEqual(frost.status, "fail")
        self.assertIn("Colder than the cell works", plain(frost.sentence))

    def test_short_in_the_cold(self) -> None:
        """A goal between what it lasts at the coldest and at the usual temperature is no pass."""

        def made(goal: float) -> Any:
            chip = part("chip", state("sleep", 1e-3), state("active", 0.1, 0.1, 0.1))
            return evaluate(
                design(
                    parts=[chip],
                    supply=STRAIGHT,
                    brief={"goal_h": goal, "coldest_c": -15, "usual_c": 20, "hottest_c": 25, "use_factor": 1},
                )
            )

        report = made(10).runtime
        cold, low = report.coldest.value, report.total.low
        assert cold and low
        self.assertLess(cold, low)
        for goal, status, word in (
            (cold * 0.99, "pass", "meets the goal"),
            ((cold + low) / 2, "watch", "short in the cold"),
        ):
            verdict = next(v for v in made(goal).verdicts if v.key == "runtime")
            self.assertEqual((verdict.status, verdict.word), (status, word))

    def test_a_peak_that_only_sags_in_the_cold(self) -> None:
        def made(coldest: float) -> Design:
            chip = part(
                "chip",
                state("sleep", 1e-4),
                state("active", 0.05),
                supply_min_v=3.0,
                peak={"current_a": 0.4, "seconds": 0.002, "state": "active"},
            )
            return design(parts=[chip], supply=STRAIGHT, battery={"cell": cell(resistance_ohm=0.25), "wiring_ohm": 0},
                          brief={"goal_h": 10, "coldest_c": coldest, "usual_c": 20, "hottest_c": 25})  # fmt: skip

        self.assertFalse(seen(made(20), "peak-sags"))
        told = seen(made(-20), "peak-sags")
        self.assertEqual(len(told), 1)
        self.assertIn("in the cold", told[0].found.title)


class Droops(unittest.TestCase):
    def test_every_part_that_a_peak_harms_is_told(self) -> None:
        amp = part(
            "amp",
            state("off", 0),
            state("on", 0.05),
            kind="sound",
            peak={"current_a": 1.0, "seconds": 0.02, "state": "on"},
        )
        screen = part("screen", state("off", 0), state("on", 0.01), kind="display")
        modes = [
            {"id": m, "name": m, "uses": [use("amp", s), use("screen", s)]}
            for m, s in (("asleep", "off"), ("awake", "on"))
        ]
        made = design(
            parts=[amp, screen],
            modes=modes,
            supply=STRAIGHT,
            battery={"cell": cell(resistance_ohm=0.3), "wiring_ohm": 0},
        )
        self.assertEqual({x.where for x in seen(made, "visible-droop")}, {"/parts/0", "/parts/1"})


class Sleep(unittest.TestCase):
    def strip(self) -> Design:
        """Addressed LEDs that draw when dark: no reason to take the rest for work."""
        leds = part("leds", state("dark", 0.7e-3), state("lit", 0.02), kind="light", quantity=12)
        chip = part("chip", state("sleep", 1e-5), state("active", 0.01), kind="controller")
        modes = [
            {"id": m, "name": m.title(), "uses": [use("leds", a), use("chip", b)]}
            for m, a, b in (("asleep", "dark", "sleep"), ("awake", "lit", "active"))
        ]
        return design(parts=[leds, chip], modes=modes, supply=STRAIGHT)

    def test_dark_leds_do_not_make_the_rest_a_working_mode(self) -> None:
        bench = TrialBench(self.strip(), built_in())
        self.assertTrue(bench.sleeps)
        from ember_core.studies import answer_savings

        cut = next(s for s in answer_savings(bench) if s.code == "cut-in-sleep")
        self.assertGreater(cut.gained.value or 0, 0)

    def test_half_of_them_at_a_time_is_what_it_brings(self) -> None:
        """The dark half draws what dark ones draw."""
        from ember_core.design.patches import apply_patch
        from ember_core.studies import answer_savings

        made = self.strip()
        bench = TrialBench(made, built_in())
        half = next(s for s in answer_savings(bench) if s.code == "alternate")
        after = TrialBench(apply_patch(made, half.remedy.patch), built_in())
        lit = float(after.part_mode_a[0, 1])
        self.assertAlmostEqual(lit, 12 * (0.02 + 0.7e-3) / 2, places=6)
        self.assertAlmostEqual(float(after.part_mode_a[0, 0]), 12 * 0.7e-3, places=6)
        self.assertAlmostEqual((half.runtime.value or 0) * 3600, after.runtime_s, delta=1)

    def test_what_never_goes_off_needs_no_start_voltage(self) -> None:
        boost = {"type": "switching", "topology": "boost", "id": "reg", "name": "Boost", "input": "battery", "output_v": 5.0, "points": [{"current_a": 0.05, "efficiency": 0.9, "input_v": 3.7}],
                 "quiescent_a": 1e-5, "limit_a": 1, "undervoltage_lockout_v": 2.5, "start_up_v": 3.9}  # fmt: skip
        supply = {"stages": [boost], "rails": [{"id": "main", "name": "Main", "feed": "reg"}]}
        chip = part("chip", state("sleep", 1e-3), state("active", 0.05))
        modes = [{"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep")]}, {"id": "awake", "name": "Awake", "uses": [use("chip", "active")]},
                 {"id": "test", "name": "Test", "uses": [use("chip", "sleep")], "off_stages": ["reg"]}]  # fmt: skip
        day = {"rest": "asleep", "sessions": [{"name": "Use", "mode": "awake", "seconds": 60, "per_day": 1}]}
        never = TrialBench(design(parts=[chip], modes=modes, supply=supply, day=day), built_in())
        self.assertNotEqual(never.usual.failures[1].reason, "start")
        resting = day | {"sessions": [*day["sessions"], {"name": "Test", "mode": "test", "seconds": 1, "per_day": 1}]}
        again = TrialBench(design(parts=[chip], modes=modes, supply=supply, day=resting), built_in())
        self.assertEqual(again.usual.failures[1].reason, "start")


if __name__ == "__main__":
    unittest.main()
