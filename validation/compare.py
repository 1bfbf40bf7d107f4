"""The battery model calibrated from two discharges of each set, and what it then predicts of all the others."""

from __future__ import annotations

import json
import sys
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from ember_core import Design, build_design
from ember_core.battery.calibration import Calibration, Discharge, calibrate
from ember_core.battery.pack import pack_at
from ember_core.battery.state import lasting_s, settled_at
from ember_core.charging.charge import Meanwhile, charge
from ember_core.design import Battery, Charger, Chemistry, Enclosure
from ember_core.runtime.run import run
from ember_core.thermal.shell import shell_of

from .typical import COLD, TABLE, print_tables

CALIBRATED_FROM = ("0.05", "0.5")
THREE, TYPICAL = "calibrated up to 1 C", "typical values alone"
CHARGE_LIMITS: dict[
    str, dict[Any, float]
] = {  # 1 C lies beyond the currents that the cells were calibrated at, and is told only
    "calibrated": {("0.5", "80 %"): 0.03, ("0.5", "full"): 0.03, ("1.0", "80 %"): 0.05, ("1.0", "full"): 0.05},
    THREE: {(rate, what): 0.03 for rate in ("0.5", "1.0") for what in ("80 %", "full")},
    TYPICAL: {(rate, what): 0.08 for rate in ("0.5", "1.0") for what in ("80 %", "full")},
}
CHARGE_KINDS = (("calibrated", "charge"), (THREE, "charge"), (TYPICAL, "charge_to_the_top"))
FULL_V = 4.15
BUILT_FOR_ENERGY = ("Chen2020", "ORegan2022")  # two sets of one cell with much active material
THICK_ELECTRODES = ("ORegan2022",)  # built for energy: the electrolyte runs short above C/2
IRON_BELOW_V = 3.45  # nominal voltage: an iron phosphate cell
TYPICAL_OHM_AH = 0.11  # resistance times capacity of an everyday lithium-ion cell


@dataclass(frozen=True)
class Row:
    """One prediction: durations [s], and the relative error that is allowed (None: shown only)."""

    set: str
    what: str
    reference_s: float
    predicted_s: float
    allowed: float | None

    @property
    def error(self) -> float:
        return self.predicted_s / self.reference_s - 1

    @property
    def holds(self) -> bool:
        return self.allowed is None or abs(self.error) <= self.allowed


def discharge(data: dict[str, Any], rate: str) -> Discharge:
    one = data["current"][rate]
    return Discharge(np.array(one["time_s"]), np.array(one["voltage_v"]), float(rate) * data["capacity_ah"])


def calibrated(data: dict[str, Any], chemistry: Chemistry, *more: str) -> Calibration:
    taken = [discharge(data, rate) for rate in (*CALIBRATED_FROM, *more)]
    return calibrate(taken, data["cutoff_v"], chemistry, 0.05)


def gadget(cell: dict[str, Any], states: list[dict[str, Any]], use: dict[str, Any]) -> Design:
    """A cell with one load straight on it, in one mode, for ever."""
    return build_design(
        {
            "format": "frugal-ember/3", "name": "Validation", "brief": {"goal_h": 10, "coldest_c": 25, "usual_c": 25, "hottest_c": 25},
            "parts": [{"id": "load", "name": "Load", "rail": "main", "states": states}],
            "modes": [{"id": "on", "name": "On", "uses": [{"part": "load"} | use]}],
            "supply": {"rails": [{"id": "main", "name": "Main", "feed": "battery"}]},
            "battery": {"cell": cell, "wiring_ohm": 0}, "day": {"rest": "on"}, "enclosure": {"outer_mm": [90, 90, 90]},
        }
    )  # fmt: skip


def state(name: str, behaviour: str, amount: float) -> dict[str, Any]:
    key = "current_a" if behaviour == "current" else "power_w"
    return {"name": name, "draw": {"behaviour": behaviour, key: {"typical": amount, "min": amount, "max": amount}}}


def cell_of(data: dict[str, Any], chemistry: Chemistry, calibration: Calibration | None) -> dict[str, Any]:
    capacity = calibration.capacity_ah if calibration else data["capacity_ah"]
    return {
        "name": "Cell", "chemistry": chemistry, "form": "cylinder", "capacity_ah": capacity,
        "resistance_ohm": TYPICAL_OHM_AH / capacity, "cutoff_v": data["cutoff_v"], "discharge_max_a": 1000,
        "size_mm": [21, 70, 21], "mass_g": 70, "curve": calibration.curve.model_dump() if calibration else None, "measured_ah": capacity,
    }  # fmt: skip


def predictions(name: str, data: dict[str, Any], *more: str) -> list[Row]:
    chemistry: Chemistry = "lithium-ion"
    iron = data["nominal_v"] < IRON_BELOW_V
    own = cell_of(data, chemistry, calibrated(data, chemistry, *more))
    thick = name in THICK_ELECTRODES
    typical = cell_of(data, chemistry, None) | ({"built_for": "energy"} if thick else {})
    capacity, nominal = data["capacity_ah"], data["nominal_v"]
    rows = []

    def allowed(rate: float) -> float | None:
        if thick:  # calibrated up to C/2: above, the electrolyte runs short, and only a third discharge can tell
            return 0.01 if rate < 1 else None
        return (0.03 if rate <= 1 else None) if iron else 0.01

    def add(
        what: str,
        end_s: float,
        cell: dict[str, Any],
        states: list[dict[str, Any]],
        use: dict[str, Any],
        most: float | None,
    ) -> None:
        rows.append(Row(name, what, end_s, run(gadget(cell, states, use)).seconds, most))

    for rate, one in data["current"].items():
        load = [state("on", "current", float(rate) * capacity)]
        if rate not in CALIBRATED_FROM:
            add(f"{float(rate):g} C", one["end_s"], own, load, {"state": "on"}, allowed(float(rate)))
    for rate, one in data["power"].items():
        load = [state("on", "power", float(rate) * capacity * nominal)]
        add(f"constant power, {float(rate):g} C", one["end_s"], own, load, {"state": "on"}, allowed(float(rate)))
    if thick:
        three = calibrate(
            [discharge(data, rate) for rate in (*CALIBRATED_FROM, "1.0")], data["cutoff_v"], chemistry, 0.05
        )
        load = [state("on", "current", 2 * capacity)]
        add(
            "2 C, calibrated up to 1 C",
            data["current"]["2.0"]["end_s"],
            cell_of(data, chemistry, three),
            load,
            {"state": "on"},
            None,
        )
    for label, one in data["pulsed"].items():
        load = [state("low", "current", one["low"] * capacity), state("high", "current", one["high"] * capacity)]
        use = {"state": "high", "rest": "low", "burst": [{"state": "high", "seconds": one["high_s"]}],
               "period_s": one["high_s"] + one["low_s"]}  # fmt: skip
        most = 0.03 if iron else 0.02 if thick else 0.01
        add(label, one["end_s"], own, load, use, most)
        rows.append(Row(name, f"{label}, pulse by pulse", one["end_s"], by_pulses(own, one, capacity), most))
    if not iron:
        for rate, one in data["current"].items():
            load = [state("on", "current", float(rate) * capacity)]
            add(
                f"{float(rate):g} C, typical values alone",
                one["end_s"],
                typical,
                load,
                {"state": "on"},
                None if thick and float(rate) > 1 else 0.08,
            )
    return rows


def by_pulses(cell: dict[str, Any], one: dict[str, Any], capacity_ah: float) -> float:
    """How long a cell lasts under two currents in turn, followed pulse by pulse in pieces of a second [s]."""
    pack = pack_at(Battery.model_validate({"cell": cell, "wiring_ohm": 0}), 25.0)
    period = np.repeat([one["high"], one["low"]], [round(one["high_s"]), round(one["low_s"])]) * capacity_ah
    amps = np.tile(period, int(2 * one["end_s"] / period.size))
    found = lasting_s(pack, settled_at(pack), amps, np.ones(amps.size))
    assert found is not None, "twice as long as the reference"
    return found


def charge_rows(name: str, data: dict[str, Any]) -> list[Row]:
    """Constant current, then constant voltage, from empty: the time to 80 % and to full, calibrated and from typical values. The typical cell has
    the capacity that the charge puts in, as what is printed on a set says little about it."""
    iron = data["nominal_v"] < IRON_BELOW_V
    rows = []
    for kind, key in CHARGE_KINDS:
        for rate, one in data[key].items():
            fit = (
                None if kind == TYPICAL else calibrated(data, "lithium-ion", *([] if kind == "calibrated" else ["1.0"]))
            )
            cell = cell_of(data, "lithium-ion", fit)
            if kind == TYPICAL:
                chemistry = "lithium-iron-phosphate" if iron else "lithium-ion"
                built = {"built_for": "energy"} if name in BUILT_FOR_ENERGY else {}
                cell = cell | {"measured_ah": one["charge_ah"][-1], "chemistry": chemistry} | built
            charger = Charger(
                name="Charger", fixed_a=float(rate) * data["capacity_ah"], port_v=20, port_limit_a=20, float_v_per_cell=one["float_v"],
                termination_share=one["ends_at"] / one["rate"], foldback_c=None,
            )  # fmt: skip
            battery = Battery.model_validate({"cell": cell, "wiring_ohm": 0})
            warm = Meanwhile(0.0, 0.0, 0.0, 20.0, 0.0, 25.0)
            shell = shell_of(Enclosure(outer_mm=(90, 90, 90)), 25.0, 100.0, 5.0)
            begins = (
                0.0 if fit is None else 1 - fit.cut[0].total_ah / fit.capacity_ah
            )  # emptied at C/20, as the reference is
            course = charge(charger, battery, shell, warm, begins).course
            limits = CHARGE_LIMITS[kind]
            if kind == TYPICAL and not iron and one["float_v"] < FULL_V:
                limits = {}  # not a cell that is charged to 4.2 V
            reference = [
                float(np.interp(0.8 * one["charge_ah"][-1], one["charge_ah"], one["time_s"])),
                one["time_s"][-1],
            ]
            predicted = [
                float(np.interp(begins + 0.8 * (course.charge[-1] - begins), course.charge, course.time_s)),
                float(course.time_s[-1]),
            ]
            for what, a, b in zip(("80 %", "full"), reference, predicted, strict=True):
                rows.append(Row(name, f"charge at {float(rate):g} C, {what}, {kind}", a, b, limits.get((rate, what))))
    return rows


def all_rows(sets: dict[str, Any]) -> list[Row]:
    return [row for name, data in sets.items() for row in predictions(name, data)]


def main(source: Path) -> int:
    document = json.loads(source.read_text())
    rows = all_rows(document["sets"])
    rows += [row for name, data in document["sets"].items() if "charge" in data for row in charge_rows(name, data)]
    print(f"Reference: PyBaMM {document['pybamm']}, Doyle-Fuller-Newman. Calibrated from C/20 and C/2 at 25 °C.\n")
    print(f"{'set':<14}{'discharge':<42}{'reference':>11}{'predicted':>11}{'error':>9}{'allowed':>9}")
    for row in rows:
        limit = "" if row.allowed is None else f"{row.allowed * 100:.0f} %"
        print(
            f"{row.set:<14}{row.what:<42}{row.reference_s:>9.0f} s{row.predicted_s:>9.0f} s{row.error * 100:>+7.2f} %"
            f"{limit:>9}{'' if row.holds else '   does not hold'}"
        )
    broken = [r for r in rows if not r.holds]
    print(f"\n{len(rows) - len(broken)} rows hold, {len(broken)} do not.\n")
    beside = print_tables()
    print(f"\n{len(TABLE) + len(COLD) - beside} rows hold, {beside} do not.")
    return 1 if broken or beside else 0


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1])))
