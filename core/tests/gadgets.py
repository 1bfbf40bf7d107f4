"""Small designs that tests are made of."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ember_core import Design, build_design
from ember_core.catalogue import Catalogue, built_in
from ember_core.figures import Remedy
from ember_core.findings import Found
from ember_core.quantities import NO_BREAK, show
from ember_core.studies.judging import Judged
from ember_core.studies.trials import ways_out

from .kept_said import moved

MILLI = 1e-3


def state(name: str, amps: float, min: float | None = None, max: float | None = None) -> dict[str, Any]:
    span = {"typical": amps, "min": amps if min is None else min, "max": amps if max is None else max}
    return {"name": name, "draw": {"behaviour": "current", "current_a": span}, "provenance": "datasheet"}


def part(key: str, *states: dict[str, Any], rail: str = "main", **more: Any) -> dict[str, Any]:
    return {"id": key, "name": more.pop("name", key), "rail": rail, "states": list(states), **more}


def use(key: str, name: str, **more: Any) -> dict[str, Any]:
    return {"part": key, "state": name, **more}


def cell(**more: Any) -> dict[str, Any]:
    """A cell that has what is printed on it."""
    return {
        "measured_ah": more.get("capacity_ah", 1.0), "name": "Test cell", "chemistry": "lithium-ion", "form": "pouch", "capacity_ah": 1.0, "resistance_ohm": 0.1,
        "cutoff_v": 3.0, "discharge_max_a": 2.0, "charge_max_a": None, "size_mm": [34, 50, 5], "mass_g": 18,
    } | more  # fmt: skip


LINEAR = {
    "type": "linear", "id": "reg", "name": "Regulator", "input": "battery", "output_v": 3.3, "dropout_v": 0.1,
    "dropout_at_a": 0.1, "quiescent_a": 0.0, "limit_a": 1.0,
}  # fmt: skip


def document(**more: Any) -> dict[str, Any]:
    """A plain document: one part asleep at 1 mA and awake at 100 mA, a linear regulator, half an hour a day."""
    base: dict[str, Any] = {
        "format": "frugal-ember/3",
        "name": "Test gadget",
        "brief": {"goal_h": 100, "coldest_c": 25, "usual_c": 25, "hottest_c": 25},
        "parts": [part("chip", state("sleep", 1 * MILLI), state("active", 100 * MILLI))],
        "modes": [
            {"id": "asleep", "name": "Asleep", "uses": [use("chip", "sleep")]},
            {"id": "awake", "name": "Awake", "uses": [use("chip", "active")]},
        ],
        "supply": {"stages": [LINEAR], "rails": [{"id": "main", "name": "Main", "feed": "reg"}]},
        "battery": {"cell": cell(), "wiring_ohm": 0},
        "day": {"rest": "asleep", "sessions": [{"name": "Use", "mode": "awake", "seconds": 1800, "per_day": 1}]},
        "enclosure": {"outer_mm": [60, 90, 24]},
    }
    return base | more


def design(**more: Any) -> Design:
    return build_design(document(**more))


def asleep(*uses: dict[str, Any]) -> list[dict[str, Any]]:
    """A single mode."""
    return [{"id": "asleep", "name": "Asleep", "uses": list(uses)}]


def plain(text: str) -> str:
    """A sentence with ordinary spaces: its figures are held together by others."""
    return text.replace(NO_BREAK, " ")


@dataclass(frozen=True)
class Seen:
    """A finding as it is shown: with the remedy that was held against the design, if there is one."""

    judged: Judged
    found: Found

    @property
    def severity(self) -> str:
        return self.found.severity

    @property
    def where(self) -> str:
        return self.found.where

    @property
    def code(self) -> str:
        return self.found.code

    @property
    def sentence(self) -> str:
        return plain(self.found.sentence)

    @property
    def remedy(self) -> Remedy | None:
        return ways_out(self.judged, self.found)


def seen(gadget: Design, code: str, catalogue: Catalogue | None = None) -> list[Seen]:
    """The findings of a code; whatever is found has to say its facts, and what was found in it before."""
    judged = Judged.of(gadget, catalogue or built_in())
    for found in judged.found:
        for name, (value, unit) in found.figures.items():
            assert show(value, unit) in found.sentence, (found.code, name, found.sentence)
    assert not (other := moved(gadget, judged.bench.catalogue, judged.found)), other
    return [Seen(judged, f) for f in judged.found if f.code == code]
