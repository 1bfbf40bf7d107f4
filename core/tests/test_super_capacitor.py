"""A super-capacitor as the store: its charge is in proportion to its voltage."""

from unittest import TestCase

from ember_core import Design, Evaluation, evaluate
from ember_core.battery.pack import resting_v
from ember_core.catalogue import built_in

from .gadgets import design, part, state

FARAD, FULL_V = 10.0, 2.5


def told(value: Evaluation) -> set[str]:
    return {f.code for f in value.findings}


def store(cutoff_v: float = 1.8, celsius: float = 20.0, active_a: float = 0.005, **changed: object) -> Design:
    """Something that wakes four times a day, straight from a capacitor of 10 F."""
    bare = built_in().by_key["cell-supercap-10f"].cell
    charger = built_in().by_key["charger-supercap"].charger
    assert bare is not None
    assert charger is not None
    return design(
        parts=[part("chip", state("sleep", 5e-6), state("active", active_a), supply_min_v=cutoff_v)],
        battery={"cell": bare.model_dump(mode="json") | {"cutoff_v": cutoff_v}, "wiring_ohm": 0.01},
        charger=charger.model_dump(mode="json"),
        supply={"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]},
        day={"rest": "asleep", "sessions": [{"name": "use", "mode": "awake", "seconds": 10, "per_day": 4}]},
        brief={"goal_h": 24, "coldest_c": celsius, "usual_c": 20, "hottest_c": max(celsius, 20), "charged": "anywhere"},
        **changed,
    )


class OfTheCell(TestCase):
    def test_volts_in_proportion_to_its_charge(self) -> None:
        capacitor = built_in().by_key["cell-supercap-10f"].cell
        assert capacitor is not None
        for share in (0.2, 0.5, 0.9, 1.0):
            self.assertAlmostEqual(resting_v(capacitor, share), FULL_V * share, places=9)
        # Q = C U, and 1 Ah is 3600 C
        for key, farad in (("1f", 1.0), ("10f", 10.0), ("100f", 100.0)):
            listed = built_in().by_key[f"cell-supercap-{key}"].cell
            assert listed is not None
            self.assertAlmostEqual(listed.capacity_ah * 3600 / FULL_V, farad, delta=0.001 * farad)

    def test_what_lies_above_the_cut_off(self) -> None:
        """By hand: C (U0 - U1) = 10 F x (2.5 - 1.8) V = 7 C = 1.944 mAh, taken by the draw and its self-discharge together."""
        for cutoff_v in (1.2, 1.8, 2.2):
            value = evaluate(store(cutoff_v))
            [runtime] = [v for v in value.verdicts if v.key == "runtime"]
            hours = runtime.figure.value
            assert hours is not None
            drawn = 5e-6 + 40 * (0.005 - 5e-6) / 86400
            above = FARAD * (FULL_V - cutoff_v) / 3600
            # half a month's charge by itself in a month, of what is in it: between none of it and that of a full one
            self.assertLess(hours, above / drawn)
            self.assertGreater(hours, above / (drawn + 1e-6 + 0.5 * FARAD * FULL_V / 3600 / 730.5) * 0.9)

    def test_green_where_it_lasts(self) -> None:
        value = evaluate(store())
        by = {v.key: v for v in value.verdicts}
        self.assertEqual(by["runtime"].status, "pass")
        self.assertEqual(by["weakest"].status, "watch")  # 72 % stays in it below 1.8 V, and it says so
        self.assertIn("72\u00a0%", by["weakest"].sentence)
        self.assertEqual({f.code for f in value.findings if f.severity in ("stop", "fix")}, set())
        self.assertIn("short", {c.key for c in value.battery.cautions})

    def test_what_the_sag_leaves_counts_above_what_stays(self) -> None:
        """48 % stays below 1.2 V; the sag may leave 35 % more of 2.5 V, 0.875 V: about 12 A through its 73 mΩ."""
        for amps, status, severity in ((11.8, "watch", "watch"), (12.2, "fail", "fix")):
            said = evaluate(store(cutoff_v=1.2, active_a=amps))
            self.assertEqual([v.status for v in said.verdicts if v.key == "weakest"], [status], amps)
            found = [f.severity for f in said.findings if f.code == "mode-fails-early" and f.where == "/modes/1"]
            self.assertEqual(found, [severity], amps)

    def test_a_peak_that_it_does_not_stand_fails(self) -> None:
        value = evaluate(store(active_a=12.0))  # 0.84 V through 70 mΩ, of the 0.7 V that it has above its cut-off
        self.assertEqual({v.status for v in value.verdicts if v.key == "weakest"}, {"fail"})


class OfItsCharge(TestCase):
    def test_charged_in_the_frost(self) -> None:
        """It may be charged from -40 °C on, where lithium may not below 0 °C."""
        for celsius, cold in ((-39.0, False), (-41.0, True)):
            self.assertEqual("charge-temperature" in told(evaluate(store(celsius=celsius))), cold, celsius)

    def test_a_charger_for_lithium(self) -> None:
        lithium = next(
            c
            for c in built_in().chargers
            if c.method == "cc-cv" and 4.1 < c.float_v_per_cell < 4.3 and c.cells_in_series == 1
        )
        said = evaluate(store().model_copy(update={"charger": lithium}))
        self.assertEqual({f.severity for f in said.findings if f.code == "float-voltage"}, {"stop"})

    def test_held_at_more_than_it_is_full_at(self) -> None:
        """Half a percent is the same voltage; on one, two and three in series."""
        made = store()
        assert made.charger is not None
        for series in (1, 2, 3):
            pack = made.battery.model_copy(update={"series": series})
            for volts, wrong in ((2.511, False), (2.514, True)):
                charger = made.charger.model_copy(update={"float_v_per_cell": volts, "cells_in_series": series})
                said = evaluate(made.model_copy(update={"battery": pack, "charger": charger}))
                [verdict] = [v for v in said.verdicts if v.key == "charge"]
                self.assertEqual("float-voltage" in told(said), wrong, (series, volts))
                if wrong:
                    self.assertEqual(verdict.status, "fail")
                    self.assertIn("vents", verdict.sentence)

    def test_charged_in_seconds(self) -> None:
        """By hand: 10 F x 2.5 V at 0.1 A is 250 s; the gadget's own microamperes aside."""
        charge = next(v for v in evaluate(store()).verdicts if v.key == "charge")
        self.assertEqual(charge.status, "pass")
        assert charge.figure.value is not None
        self.assertAlmostEqual(charge.figure.value * 3600, 250, delta=15)
