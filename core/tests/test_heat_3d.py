"""The network of heat against a three-dimensional finite-volume model of the same cases (`validation/heat.py`, whose figures are kept)."""

from __future__ import annotations

import json
import unittest
from pathlib import Path
from typing import Any

import numpy as np

from ember_core import Design
from ember_core.catalogue import built_in
from ember_core.measures.bench import TrialBench

from .gadgets import cell, design, part, state, use

KEPT: dict[str, Any] = json.loads((Path(__file__).parent / "data" / "heat.json").read_text())
ALWAYS_S = 86400.0
WITHIN, OF_THE_END = 0.20, 0.08  # of the figure; or, early on, of what it comes to
PARTS = (-0.12, 0.32)  # parts, where their own rise stays below what the core tells at most
SPOTS = (-0.25, 0.35)
MOST_K = 145.0


def made(case: dict[str, Any], seconds: float) -> Design:
    """The same gadget: what burns does so for so long once a day, or always."""
    pack: dict[str, Any] = {
        "cell": cell(capacity_ah=200, discharge_max_a=200, resistance_ohm=1e-6, mass_g=1e-3),
        "wiring_ohm": 0,
    }
    names = {s["name"] for s in case["solids"]}
    parts = []
    for solid in case["solids"]:
        size = [b - a for a, b in zip(solid["low"], solid["high"], strict=True)]
        body = {"size_mm": size, "position_mm": solid["low"]}
        if solid["name"] == "battery":
            pack["body"] = body
            pack["cell"]["mass_g"] = solid["grams"]
            continue
        watts = max(solid["watts"], 1e-9)
        power = {"behaviour": "power", "power_w": {"typical": watts, "min": watts, "max": watts}}
        if "board" in names and solid["name"] == "part":
            body["on"] = "board"
        on = {"name": "on", "draw": power, "provenance": "measured"}
        parts.append(part(solid["name"], state("off", 1e-9), on, body=body, mass_g=solid["grams"]))
    modes = [{"id": m, "name": m.title(), "uses": [use(p["id"], m) for p in parts]} for m in ("off", "on")]
    session = {"name": "Use", "mode": "on", "seconds": seconds, "per_day": 1}
    day = {"rest": "on"} if seconds >= ALWAYS_S else {"rest": "off", "sessions": [session]}
    shape = case["case"]
    return design(
        parts=parts, modes=modes, day=day, battery=pack, supply={"stages": [], "rails": [{"id": "main", "name": "Main", "feed": "battery"}]},
        brief={"goal_h": 1, "coldest_c": shape["ambient"], "usual_c": shape["ambient"], "hottest_c": shape["ambient"]},
        enclosure={"outer_mm": shape["outer"], "wall_mm": shape["wall"], "plastic": "PETG", "stands": "hung"},
    )  # fmt: skip


class AgainstCells(unittest.TestCase):
    def rises(self, case: dict[str, Any], seconds: float) -> dict[str, float]:
        design_ = made(case, seconds)
        warm = TrialBench(design_, built_in()).warmth
        at = design_.index.modes["on"]
        ambient = case["case"]["ambient"]
        node = next(k for k, n in enumerate(warm.nodes) if n.name == "part")
        hottest = max(float(warm.spot_c[:, at].max()), float(warm.outer_c[at]))
        return {
            "air": float(warm.inside_c[at]) - ambient, "outer": float(warm.outer_c[at]) - ambient, "hottest_outer": hottest - ambient,
            "part": float(warm.node_c[node, at]) - ambient, "own": float(warm.node_c[node, at] - warm.inside_c[at]),
        }  # fmt: skip

    def test_air_and_shell_settle_as_there(self) -> None:
        for name, case in KEPT.items():
            found, wanted = self.rises(case, ALWAYS_S), case["steady"]
            for what in ("air", "outer"):
                with self.subTest(f"{name}: {what}"):
                    self.assertAlmostEqual(found[what] / wanted[what], 1, delta=WITHIN)

    def test_air_and_shell_get_warm_as_fast_as_there(self) -> None:
        for name, case in KEPT.items():
            for seconds, wanted in zip(case["times_s"], case["course"], strict=True):
                found = self.rises(case, seconds)
                for what in ("air", "outer"):
                    allowed = max(WITHIN * wanted[what], OF_THE_END * case["steady"][what])
                    with self.subTest(f"{name}: {what} after {seconds:g} s"):
                        self.assertLessEqual(abs(found[what] - wanted[what]), allowed, (found[what], wanted[what]))

    def test_parts_are_as_warm_as_there_or_told_warmer(self) -> None:
        for name, case in KEPT.items():
            found = self.rises(case, ALWAYS_S)
            if found["own"] < MOST_K:
                with self.subTest(name):
                    off = found["part"] / case["steady"]["part"] - 1
                    self.assertTrue(PARTS[0] <= off <= PARTS[1], f"{off:+.0%}")

    def test_the_hottest_spot_outside(self) -> None:
        for name, case in KEPT.items():
            if "chip" in name:  # the board carries its heat to the wall, which the network leaves to the air
                continue
            found = self.rises(case, ALWAYS_S)
            with self.subTest(name):
                off = found["hottest_outer"] / case["steady"]["hottest_outer"] - 1
                self.assertTrue(SPOTS[0] <= off <= SPOTS[1], f"{off:+.0%}")
                self.assertGreater(found["hottest_outer"], 2 * found["outer"])

    def test_the_kept_figures_keep_the_energy(self) -> None:
        """What burns leaves: no case is colder outside than its power through its whole surface at 25 W/(m2 K), or warmer than at 4."""
        for name, case in KEPT.items():
            x, y, z = (v / 1000 for v in case["case"]["outer"])
            watts = sum(s["watts"] for s in case["solids"])
            per_area = watts / (2 * (x * y + y * z + x * z)) / case["steady"]["outer"]
            with self.subTest(name):
                self.assertTrue(4 < per_area < 25, per_area)
            self.assertTrue(np.all(np.diff([row["air"] for row in case["course"]]) > 0))
