"""Seeded random gadgets of catalogue parts: sleepers, always-on ones, packs of one to three cells, all kinds of supplies."""

from __future__ import annotations

import os
import random
from typing import Any

from ember_core import Design, DocumentError, build_design
from ember_core.catalogue import built_in
from ember_core.design import CurrentDraw, LinearStage, SwitchingStage

THOROUGH = os.environ.get("EMBER_THOROUGH") == "1"


def sweep(usual: int, thorough: int) -> range:
    """How many of something drawn are judged: a part of them in every run, all of them with `./ember test --thorough`."""
    return range(thorough if THOROUGH else usual)


def random_design(seed: int) -> Design:
    """A gadget that can be built; tries again with what comes next where the first one cannot."""
    choose = random.Random(seed)
    while True:
        try:
            return build_design(_document(choose))
        except DocumentError:
            continue


def _document(choose: random.Random) -> dict[str, Any]:
    catalogue = built_in()
    controller = choose.choice([p for p in catalogue.parts if p.kind == "controller" and _sane(p)])
    others = [p for p in catalogue.parts if p.kind != "controller" and _sane(p)]
    chosen = [controller, *choose.sample(others, choose.randint(1, 3))]
    cell = choose.choice([c for c in catalogue.cells if c.capacity_ah < 12])
    series = 1 if cell.bank else choose.choice((1, 1, 2, 3))
    stages, feed = _supply(choose)
    sources = [{"id": "usb", "name": "USB", "limit_a": choose.choice((0.1, 0.5, 1.5))}] if choose.random() < 0.3 else []
    parts = []
    for i, part in enumerate(chosen):
        rail = "main" if i == 0 or choose.random() < 0.7 else "raw"
        parts.append(part.model_dump(mode="json") | {"id": f"p{i}", "rail": rail, "switchable": choose.random() < 0.7})
    rails = [{"id": "main", "name": "Main", "feed": feed}, {"id": "raw", "name": "Raw", "feed": "battery"}]
    modes = [
        {"id": "rest", "name": "Resting", "uses": [_use(choose, p, calm=choose.random() < 0.8) for p in parts],
         "off_stages": [s["id"] for s in stages if s.get("enable") and choose.random() < 0.2]},
        {"id": "use", "name": "In use", "uses": [_use(choose, p, calm=False) for p in parts],
         "plugged": ["usb"] if sources and choose.random() < 0.5 else []},
        {"id": "wake", "name": "Waking", "uses": [_use(choose, p, calm=choose.random() < 0.4) for p in parts]},
    ]  # fmt: skip
    if choose.random() < 0.3:
        modes.append({"id": "off", "name": "Off", "uses": [_use(choose, parts[0], calm=True)], "switched_off": True})
    day: dict[str, Any] = {"rest": "rest"}
    if choose.random() < 0.8:
        day["sessions"] = [
            {"name": "Use", "mode": "use", "seconds": choose.choice((3, 60, 900, 3600)), "per_day": choose.choice((0.5, 1, 4)),
             "why": choose.choice(("planned", "random", "accident"))}
        ]  # fmt: skip
    if choose.random() < 0.6:
        every = choose.choice((30, 300, 3600))
        day["wakes"] = [{"name": "Wake", "mode": "wake", "every_s": every, "awake_s": choose.choice((0.05, 1, 8))}]
    charger = None
    if choose.random() < 0.5:
        charger = choose.choice(catalogue.chargers).model_dump(mode="json")
        charger |= {
            "program_ohm": choose.choice((1200, 3300, 10000)),
            "cells_in_series": choose.choice((1, series)),
        }
        charger |= {"port_v": 5.0 * charger["cells_in_series"], "mode": choose.choice((None, "use"))}
    coldest = choose.choice((-20, 0, 15))
    return {
        "format": "frugal-ember/3", "name": "Random", "parts": parts, "modes": modes, "charger": charger, "day": day,
        "brief": {"goal_h": choose.choice((None, 10, 500)), "coldest_c": coldest, "usual_c": 20, "hottest_c": choose.choice((30, 50)),
                  "charge_max_h": choose.choice((None, 1.5, 5)), "charged": choose.choice(("indoors", "anywhere"))},
        "supply": {"sources": sources, "stages": stages, "rails": rails},
        "battery": {"cell": cell.model_dump(mode="json"), "series": series, "parallel": choose.choice((1, 1, 2)),
                    "age_years": choose.choice((0, 0, 3)), "body": {"size_mm": [30, 40, 10], "position_mm": [4, 4, 4]}},
        "enclosure": {"outer_mm": [80, 60, 30], "plastic": choose.choice(("PLA", "PETG", "ABS"))},
    }  # fmt: skip


def _sane(part: Any) -> bool:
    """Not hungrier than what the cells in the catalogue give at all."""
    return all(isinstance(s.draw, CurrentDraw) and s.draw.current_a.typical < 0.3 for s in part.states)


def _supply(choose: random.Random) -> tuple[list[dict[str, Any]], str]:
    """Stages one behind the other and what feeds the main rail."""
    catalogue = built_in()
    makers = [s for s in catalogue.stages if isinstance(s, LinearStage | SwitchingStage) and 2.4 < s.output_v < 5.2]
    passing = [s for s in catalogue.stages if s.type == "pass"]
    chain = [choose.choice(passing)] if choose.random() < 0.4 else []
    chain += [choose.choice(makers) for _ in range(choose.choice((0, 1, 1, 1, 2)))]
    feed, stages = "battery", []
    for i, stage in enumerate(chain):
        stages.append(stage.model_dump(mode="json") | {"id": f"s{i}", "input": feed})
        feed = f"s{i}"
    return stages, feed


def _use(choose: random.Random, part: dict[str, Any], *, calm: bool) -> dict[str, Any]:
    names = [s["name"] for s in part["states"]]
    name = names[0] if calm else choose.choice(names[1:] or names)
    if not calm and len(names) > 1 and choose.random() < 0.2:
        burst = [{"state": name, "seconds": choose.choice((0.02, 0.5))}]
        return {"part": part["id"], "state": name, "burst": burst, "period_s": choose.choice((2, 10)), "rest": names[0]}
    return {"part": part["id"], "state": name, "duty": choose.choice((1, 1, 0.3)), "rest": names[0]}
