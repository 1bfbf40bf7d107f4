"""Reference discharges from a physics-based cell model. Runs in an environment of its own; writes one JSON file: `FILE SET ...`, or
`--cold FILE SET ...` for the courses of discharges below freezing.

The Doyle-Fuller-Newman model of PyBaMM (V. Sulzer et al., *J. Open Res. Softw.* 9 (2021) 14) with the published
parameter sets named on the command line, at 25 degC unless it is cold.
"""

from __future__ import annotations

import json
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pybamm

RATES = (0.05, 0.1, 0.2, 0.5, 1.0, 2.0)
POWERS = (0.1, 0.5, 1.0)  # of nominal capacity times nominal voltage, in an hour
PULSES = {
    "1C for 10 s in every 60 s, 0.1C between": (1.0, 10.0, 0.1, 50.0),
    "2C for 2 s in every 20 s": (2.0, 2.0, 0.0, 18.0),
}
CHARGES = (0.5, 1.0)
COLD = ((0.0, 0.5), (-10.0, 0.2), (-10.0, 0.5), (-20.0, 0.2))  # temperature [degC], rate
COLD_POINTS = 80
ENDS_AT = 0.05  # of the capacity in an hour
POINTS = 400


def simulation(name: str, operating: str = "current", celsius: float | None = None) -> tuple[Any, Any]:
    values = pybamm.ParameterValues(name)
    if celsius is not None:
        values.update({f"{x} temperature [K]": celsius + 273.15 for x in ("Ambient", "Initial")})
    key = "Current function [A]" if operating == "current" else "Power function [W]"
    values.update({key: "[input]"}, check_already_exists=False)
    model = pybamm.lithium_ion.DFN({"operating mode": operating})
    return pybamm.Simulation(model, parameter_values=values, solver=pybamm.IDAKLUSolver()), values


def steady(
    name: str, operating: str, amount: float, seconds: float, celsius: float | None = None, points: int = POINTS
) -> dict[str, Any]:
    """A discharge at a constant current [A] or power [W] to the set's lower cut-off, at the set's temperature unless it is said."""
    sim, _ = simulation(name, operating, celsius)
    key = "Current function [A]" if operating == "current" else "Power function [W]"
    begun = time.perf_counter()
    solution = sim.solve(np.linspace(0, seconds, 4000), inputs={key: amount})
    took = time.perf_counter() - begun
    t, v = solution["Time [s]"].entries, solution["Voltage [V]"].entries
    keep = np.unique(np.concatenate([np.arange(min(12, t.size)), np.linspace(0, t.size - 1, points).astype(int)]))
    return {"end_s": float(t[-1]), "time_s": t[keep].tolist(), "voltage_v": v[keep].tolist(), "solver_s": took}


def pulsed(name: str, high: float, high_s: float, low: float, low_s: float) -> dict[str, Any]:
    """Two currents in turn until the cut-off is reached."""
    sim, values = simulation(name)
    cutoff, now = float(values["Lower voltage cut-off [V]"]), 0.0
    begun = time.perf_counter()
    while True:
        for amps, span in ((high, high_s), (low, low_s)):
            solution = sim.step(span, npts=3, inputs={"Current function [A]": amps}, save=False)
            reached = float(solution["Time [s]"].entries[-1]) - float(solution["Time [s]"].entries[0])
            now += reached
            if reached < span * 0.999 or float(solution["Voltage [V]"].entries[-1]) <= cutoff:
                return {"end_s": now, "solver_s": time.perf_counter() - begun}


def charged(name: str, rate: float, *, to_the_top: bool) -> dict[str, Any]:
    """Emptied at C/20, rested for an hour, then charged: constant current to the set's upper cut-off, or to the voltage at rest with which
    its discharges begin, which is held until the current has fallen to `ENDS_AT`. Charge in A h from the beginning of the charge."""
    values = pybamm.ParameterValues(name)
    low, high = (float(values[f"{x} voltage cut-off [V]"]) for x in ("Lower", "Upper"))
    if not to_the_top:
        begins, _ = simulation(name)
        first = begins.solve([0, 1], inputs={"Current function [A]": 0.0})
        high = min(float(first["Voltage [V]"].entries[0]), high)
    steps = [
        (f"Discharge at C/20 until {low} V", "Rest for 1 hour"),
        (f"Charge at {rate} C until {high} V", f"Hold at {high} V until {ENDS_AT} C"),
    ]
    sim = pybamm.Simulation(
        pybamm.lithium_ion.DFN(),
        parameter_values=values,
        solver=pybamm.IDAKLUSolver(),
        experiment=pybamm.Experiment(steps, period="10 seconds"),
    )
    solution = sim.solve().cycles[-1]
    t, v, i, q = (
        solution[key].entries for key in ("Time [s]", "Voltage [V]", "Current [A]", "Discharge capacity [A.h]")
    )
    keep = np.unique(np.linspace(0, t.size - 1, POINTS).astype(int))
    return {
        "rate": rate, "ends_at": ENDS_AT, "float_v": high, "time_s": (t - t[0])[keep].tolist(), "voltage_v": v[keep].tolist(),
        "current_a": (-i)[keep].tolist(), "charge_ah": (q[0] - q)[keep].tolist(),
    }  # fmt: skip


def reference(name: str) -> dict[str, Any]:
    values = pybamm.ParameterValues(name)
    capacity = float(values["Nominal cell capacity [A.h]"])
    found: dict[str, Any] = {
        "capacity_ah": capacity,
        "cutoff_v": float(values["Lower voltage cut-off [V]"]),
        "current": {},
        "power": {},
        "pulsed": {},
    }
    for rate in RATES:
        found["current"][str(rate)] = steady(name, "current", rate * capacity, 3600 / rate * 1.3)
    middle = found["current"]["0.2"]
    nominal_v = float(np.interp(middle["end_s"] / 2, middle["time_s"], middle["voltage_v"]))
    found["nominal_v"] = nominal_v
    for rate in POWERS:
        found["power"][str(rate)] = steady(name, "power", rate * capacity * nominal_v, 3600 / rate * 1.3)
    for label, (high, high_s, low, low_s) in PULSES.items():
        found["pulsed"][label] = pulsed(name, high * capacity, high_s, low * capacity, low_s) | {
            "high": high, "high_s": high_s, "low": low, "low_s": low_s,
        }  # fmt: skip
    found["charge"] = {str(rate): charged(name, rate, to_the_top=False) for rate in CHARGES}
    found["charge_to_the_top"] = {str(rate): charged(name, rate, to_the_top=True) for rate in CHARGES}
    return found


def cold(name: str) -> dict[str, Any]:
    """Discharges in the cold by "temperature rate", those that begin at all."""
    capacity = float(pybamm.ParameterValues(name)["Nominal cell capacity [A.h]"])
    found = {}
    for celsius, rate in COLD:
        try:
            one = steady(name, "current", rate * capacity, 3600 / rate * 1.3, celsius, COLD_POINTS)
        except pybamm.SolverError:
            continue
        rows = {"time_s": [round(x, 1) for x in one["time_s"]], "voltage_v": [round(x, 4) for x in one["voltage_v"]]}
        found[f"{celsius:g} {rate:g}"] = {"end_s": one["end_s"], **rows}
    return found


def main(target: Path, names: list[str], of: Callable[[str], dict[str, Any]]) -> None:
    pybamm.set_logging_level("ERROR")
    sets = {}
    for name in names:
        print(f"ember: simulating {name}", flush=True)
        sets[name] = of(name)
    target.write_text(json.dumps({"pybamm": pybamm.__version__, "sets": sets}))


if __name__ == "__main__":
    own = [a for a in sys.argv[1:] if a != "--cold"]
    main(Path(own[0]), own[1:], cold if "--cold" in sys.argv else reference)
