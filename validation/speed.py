"""How long a physics-based model takes over a pulsed discharge. Runs in the environment of the reference; prints JSON.

The single particle model with electrolyte of PyBaMM (S. G. Marquis et al., J. Electrochem. Soc. 166 (2019) A3693), set
Chen2020: 1 C for a minute in every five, 0.02 C between, until five hours have passed. Run as its authors run it: the solver
stops only where the current jumps, and what is read is interpolated (`t_interp`). Solved once before it is timed.
"""

from __future__ import annotations

import json
import sys
import time

import numpy as np
import pybamm

SET, HIGH, LOW, HIGH_S, PERIOD_S, WHOLE_S = "Chen2020", 1.0, 0.02, 60.0, 300.0, 5 * 3600.0
EDGE_S = 0.1
POINTS = 3601


def main(runs: int) -> None:
    values = pybamm.ParameterValues(SET)
    capacity = float(values["Nominal cell capacity [A.h]"])
    time_s, amps = [], []
    for start in np.arange(0, WHOLE_S, PERIOD_S):
        time_s += [start, start + HIGH_S - EDGE_S, start + HIGH_S, start + PERIOD_S - EDGE_S]
        amps += [HIGH * capacity, HIGH * capacity, LOW * capacity, LOW * capacity]
    time_s, amps = [*time_s, WHOLE_S], [*amps, HIGH * capacity]
    values["Current function [A]"] = pybamm.Interpolant(np.array(time_s), np.array(amps), pybamm.t)
    solver = pybamm.IDAKLUSolver()
    simulation = pybamm.Simulation(pybamm.lithium_ion.SPMe(), parameter_values=values, solver=solver)
    taken, solution = [], None
    for _ in range(runs + 1):
        begun = time.process_time()
        solution = simulation.solve(np.array(time_s), t_interp=np.linspace(0, WHOLE_S, POINTS))
        taken.append(time.process_time() - begun)
    assert solution is not None
    end = float(solution["Time [s]"].entries[-1])
    print(json.dumps({
        "seconds": taken[1:], "end_s": end, "whole_s": WHOLE_S, "points": POINTS,
        "time_s": solution["Time [s]"].entries.tolist(), "voltage_v": solution["Voltage [V]"].entries.tolist(), "capacity_ah": capacity,
        "high": HIGH, "low": LOW, "high_s": HIGH_S, "period_s": PERIOD_S,
    }))  # fmt: skip


if __name__ == "__main__":
    main(int(sys.argv[1]))
