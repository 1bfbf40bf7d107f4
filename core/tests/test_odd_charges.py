"""Whatever chargers, ports, protections and cases a document may hold: finite answers, temperatures with their cap, no error."""

from __future__ import annotations

import math
import random
import unittest
import warnings
from collections.abc import Callable
from typing import Any

from ember_core import Design, evaluate
from ember_core.catalogue import built_in
from ember_core.design.problems import DocumentError
from ember_core.figures import as_json
from ember_core.measures.bench import TrialBench
from ember_core.studies import answer_charge, answer_heat, answer_place

from .gadgets import cell, design

TRIED = 150
CHEMISTRIES = ("lithium-ion", "lithium-iron-phosphate", "nickel-metal-hydride", "alkaline", "lithium-coin")
PORTS = ("usb", "type-c", "adapter", "power-bank", "bench-supply", "wireless", "solar")


class Odd:
    """Figures anywhere between their limits, often at one of them."""

    def __init__(self, seed: int) -> None:
        self.random = random.Random(seed)

    def number(self, low: float, high: float) -> float:
        between = math.exp(self.random.uniform(math.log(low), math.log(high)))
        return self.random.choice([low, high, between])

    def perhaps(self, value: Callable[[], Any]) -> Any:
        return value() if self.yes(0.6) else None

    def yes(self, share: float = 0.5) -> bool:
        return self.random.random() < share

    def port(self) -> dict[str, Any]:
        panel = {
            "peak_w": self.number(1e-3, 500), "area_cm2": self.number(0.1, 1e5), "latitude_deg": self.random.uniform(-90, 90),
            "month": self.random.randint(1, 12), "tilt_deg": self.random.uniform(0, 90),
        }  # fmt: skip
        kind = self.random.choice(PORTS)
        return {
            "kind": kind,
            "gives_a": self.number(1e-4, 100),
            "resistors": self.yes(),
            "panel": self.perhaps(lambda: panel),
        }

    def charger(self, series: int) -> dict[str, Any]:
        n = self.number
        return {
            "name": "Charger", "method": self.random.choice(["cc-cv", "cc-cv", "delta-v", "timer"]), "topology": self.random.choice(["linear", "switching"]),
            "efficiency": n(0.01, 1), "port_v": n(1e-3, 100), "port_limit_a": n(1e-3, 20), "cells_in_series": self.random.choice([series, 1, 24]),
            "float_v_per_cell": n(0.1, 5), "fixed_a": self.perhaps(lambda: n(1e-4, 100)), "steps_a": [n(1e-4, 100) for _ in range(self.random.randint(0, 4))],
            "program_constant_v": n(1e-3, 1e5), "program_ohm": n(1e-6, 1e9), "program_min_ohm": self.perhaps(lambda: n(1e-6, 1e9)),
            "program_max_ohm": self.perhaps(lambda: n(1e-6, 1e9)), "precharge_v_per_cell": self.perhaps(lambda: n(0.1, 5)),
            "precharge_share": n(1e-3, 1), "termination_share": n(1e-3, 0.999), "recharge_v_per_cell": self.perhaps(lambda: n(0.1, 5)),
            "timer_h": self.perhaps(lambda: n(0.01, 1000)), "foldback_c": self.perhaps(lambda: n(40, 200)), "leakage_a": n(1e-9, 100), "lamp_a": n(1e-9, 100),
            "lamp_from_cell": self.yes(), "power_path": self.yes(), "cuts_load": self.yes(0.3), "rth_ja_c_per_w": n(1e-3, 1000), "port": self.perhaps(self.port),
        }  # fmt: skip

    def gadget(self) -> Design:
        n, series = self.number, self.random.choice([1, 1, 2, 3, 24])
        own = cell(
            chemistry=self.random.choice(CHEMISTRIES), capacity_ah=n(5e-4, 500), resistance_ohm=n(1e-6, 1000), cutoff_v=n(0.5, 3),
            built_for=self.random.choice(["energy", "power"]),
        )  # fmt: skip
        guard = {
            "cut_v_per_cell": n(0.1, 5),
            "overcurrent_a": n(1e-3, 1000),
            "ohm": n(1e-9, 1000),
            "fuse_a": self.perhaps(lambda: n(1e-4, 100)),
        }
        case = {
            "outer_mm": [n(1, 2000) for _ in range(3)], "wall_mm": n(0.01, 50), "plastic": self.random.choice(["PLA", "aluminium", "wood"]),
            "stands": self.random.choice(["lying", "standing", "hung"]), "carried": self.random.choice(["no", "hand", "clothes"]), "in_sun": self.yes(),
            "colour": self.random.choice(["light", "dark"]), "vents": self.perhaps(lambda: {"area_mm2": n(1e-3, 1e6), "height_mm": n(1e-3, 2000)}),
        }  # fmt: skip
        coldest, usual, hottest = sorted(self.random.uniform(-60, 120) for _ in range(3))
        brief = {
            "coldest_c": coldest,
            "usual_c": usual,
            "hottest_c": hottest,
            "charged": self.random.choice(["indoors", "anywhere"]),
        }
        pack = {
            "cell": own,
            "series": series,
            "parallel": self.random.choice([1, 2, 24]),
            "wiring_ohm": n(1e-9, 10),
            "protection": self.perhaps(lambda: guard),
        }
        supply = {"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]}
        return design(
            charger=self.perhaps(lambda: self.charger(series)), battery=pack, enclosure=case, brief=brief, supply=supply
        )


class OddCharges(unittest.TestCase):
    def answered(self, gadget: Design) -> None:
        bench = TrialBench(gadget, built_in())
        for answer in (
            evaluate(gadget),
            answer_charge(bench),
            answer_charge(bench, 0.99),
            answer_heat(bench),
            answer_place(bench),
        ):
            said = as_json(answer)
            self.assertNotIn(b"NaN", said)
            self.assertNotIn(b"Infinity", said)
        warm = bench.warmth
        most = gadget.brief.hottest_c + 150 + 1e-6
        self.assertLessEqual(float(warm.inside_c.max()), most)
        self.assertLessEqual(float(warm.outer_c.max()), most)
        if warm.charging_c is not None:
            self.assertLessEqual(warm.charging_c, max(most, 30 + 150 + 1e-6))

    def test_whatever_a_document_may_hold(self) -> None:
        refused = 0
        for seed in range(TRIED):
            with self.subTest(seed), warnings.catch_warnings():
                warnings.simplefilter("error")
                try:
                    gadget = Odd(seed).gadget()
                except DocumentError:
                    refused += 1
                    continue
                self.answered(gadget)
        self.assertLess(refused, TRIED / 2)

    def test_a_case_without_an_inside_in_the_sun_and_the_cold(self) -> None:
        """Walls as thick as the case: what the sun does to its inside is no temperature that air can have."""
        case = {
            "outer_mm": [2000, 1, 2000],
            "wall_mm": 50,
            "plastic": "PLA",
            "carried": "clothes",
            "in_sun": True,
            "colour": "dark",
        }
        self.answered(design(enclosure=case, brief={"coldest_c": -50, "usual_c": -47, "hottest_c": -5}))
