"""Cells of the catalogue against what such cells usually give, from general experience with each kind: no source of its own stands
behind a row, and one maker's cell may lie outside. The ranges are for new cells at a steady current down to a cut-off.
"""

from __future__ import annotations

from dataclasses import dataclass

from ember_core import Design, build_design
from ember_core.catalogue import built_in
from ember_core.runtime.run import run

ROOM_C = 21.0


@dataclass(frozen=True)
class Row:
    """What a cell usually gives [A h], or in the cold the share of what it gives at 21 degC."""

    key: str
    current_a: float
    cutoff_v: float
    low: float
    high: float
    temperature_c: float = ROOM_C

    @property
    def predicted(self) -> float:
        given = given_ah(self.key, self.current_a, self.cutoff_v, self.temperature_c)
        return given if self.temperature_c == ROOM_C else given / given_ah(self.key, self.current_a, self.cutoff_v)

    @property
    def holds(self) -> bool:
        return self.low <= self.predicted <= self.high


TABLE = [
    Row("cell-aa-alkaline", 0.025, 0.9, 2.6, 3.0),
    Row("cell-aa-alkaline", 0.1, 0.9, 2.2, 2.6),
    Row("cell-aa-alkaline", 0.5, 0.9, 1.4, 1.9),
    Row("cell-aa-alkaline", 1.0, 0.9, 0.9, 1.4),
    Row("cell-aaa-alkaline", 0.025, 0.9, 1.1, 1.25),
    Row("cell-aaa-alkaline", 0.1, 0.9, 0.9, 1.05),
    Row("cell-aaa-alkaline", 0.5, 0.9, 0.45, 0.65),
    Row("cell-c-alkaline", 0.1, 0.9, 6.8, 8.3),
    Row("cell-d-alkaline", 0.1, 0.9, 14.0, 17.5),
    Row("cell-d-alkaline", 0.5, 0.9, 9.0, 14.0),
    Row("cell-coin-2032", 0.0002, 2.0, 0.220, 0.240),
    Row("cell-coin-2032", 0.001, 2.0, 0.200, 0.215),
    Row("cell-coin-2032", 0.003, 2.0, 0.150, 0.190),
    Row("cell-coin-2032", 0.01, 2.0, 0.055, 0.115),
    Row("cell-coin-2032", 0.02, 2.0, 0.0, 0.060),
    Row("cell-disulfide-aa", 0.2, 0.9, 2.9, 3.2),
    Row("cell-disulfide-aa", 1.0, 0.9, 2.5, 3.0),
    Row("cell-nickel-aa", 0.4, 1.0, 1.9, 2.0),
    Row("cell-nickel-aa", 4.0, 1.0, 1.72, 1.88),
    Row("cell-thionyl-aa", 0.002, 2.0, 2.3, 2.65),
    Row("cell-thionyl-aa", 0.02, 2.0, 1.4, 2.0),
    Row("cell-silver-sr44", 0.0001, 1.2, 0.14, 0.17),
    Row("cell-zinc-air-675", 0.002, 1.05, 0.52, 0.65),
    Row("cell-block-9v-alkaline", 0.025, 5.4, 0.50, 0.60),
    Row("cell-block-9v-alkaline", 0.1, 5.4, 0.38, 0.50),
    Row("cell-block-9v-alkaline", 0.3, 5.4, 0.18, 0.35),
    Row("cell-lead-12v-72", 0.36, 1.75, 6.6, 7.2),
    Row("cell-lead-12v-72", 7.2, 1.6, 3.2, 4.4),
    Row("cell-titanate-18650", 1.3, 1.8, 1.2, 1.32),
    Row("cell-coin-lir2032", 0.009, 2.75, 0.038, 0.047),
]
COLD = [
    Row("cell-aa-alkaline", 0.1, 0.9, 0.15, 0.30, -20),
    Row("cell-aa-alkaline", 0.1, 0.9, 0.65, 0.85, 0),
    Row("cell-disulfide-aa", 0.2, 0.9, 0.80, 0.90, -20),
    Row("cell-cyl-18650", 0.52, 3.0, 0.50, 0.75, -20),
    Row("cell-iron-18650", 0.3, 2.5, 0.50, 0.75, -20),
    Row("cell-coin-2032", 0.0002, 2.0, 0.80, 0.95, -20),
    Row("cell-disulfide-aa", 1.0, 0.9, 0.45, 0.70, -20),
    Row("cell-thionyl-aa", 0.01, 2.0, 0.40, 0.65, -20),
    Row("cell-lead-12v-72", 0.36, 1.75, 0.45, 0.65, -20),
    Row("cell-titanate-18650", 0.65, 1.8, 0.70, 0.92, -20),
]


def steady(key: str, current_a: float, cutoff_v: float, temperature_c: float, parallel: int = 1) -> Design:
    """A catalogue cell emptied at a steady current from full, at one temperature."""
    cell = built_in().by_key[key].cell
    assert cell is not None
    exact = {"typical": current_a, "min": current_a, "max": current_a}
    return build_design({
        "format": "frugal-ember/3", "name": "Steady", "enclosure": {"outer_mm": [80, 80, 80]},
        "brief": {"coldest_c": temperature_c, "usual_c": temperature_c, "hottest_c": temperature_c},
        "parts": [{"id": "load", "name": "Load", "rail": "main",
                   "states": [{"name": "on", "draw": {"behaviour": "current", "current_a": exact}}]}],
        "modes": [{"id": "on", "name": "On", "uses": [{"part": "load", "state": "on"}]}],
        "supply": {"rails": [{"id": "main", "name": "Main", "feed": "battery"}]}, "day": {"rest": "on"},
        "battery": {"cell": cell.model_dump(mode="json") | {"cutoff_v": cutoff_v}, "parallel": parallel, "wiring_ohm": 0},
    })  # fmt: skip


def given_ah(key: str, current_a: float, cutoff_v: float, temperature_c: float = ROOM_C) -> float:
    """Charge that a catalogue cell gives at a steady current down to a cut-off [A h]."""
    return run(steady(key, current_a, cutoff_v, temperature_c)).charge_seconds / 3600 * current_a


def print_tables() -> int:
    """Prints every row; returns how many do not hold."""
    broken = 0
    print(f"{'cell':<22}{'current':>10}{'to':>7}{'at':>8}{'gives':>11}   usually")
    for row in [*TABLE, *COLD]:
        holds = row.holds
        broken += not holds
        unit, scale = ("Ah", 1.0) if row.temperature_c == ROOM_C else ("%", 100.0)
        print(
            f"{row.key:<22}{row.current_a * 1000:>7g} mA{row.cutoff_v:>5g} V{row.temperature_c:>5g} °C"
            f"{row.predicted * scale:>8.3g} {unit:<2}   {row.low * scale:g} to {row.high * scale:g}"
            f"{'' if holds else '   does not hold'}"
        )
    return broken
