"""Heat in a closed case as a three-dimensional finite-volume model, to hold the core's network of resistances against.

Written from the physics alone, with nothing of the core: the case, what is in it and the air inside are cut into cells of two millimetres.
Heat is conducted through all of them (the air inside of a gadget is too narrow to move much: its cells conduct by a factor more than still air,
by how deep the gap is); surfaces that see each other along an axis radiate to each other, each face to the first solid that it meets;
the outer faces give heat to the surroundings by free convection (1.42 (dT / L)^0.25 upright, 1.32 up, 0.59 down: J. P. Holman, *Heat Transfer*,
10th ed. (2010), table 7-2) and radiation, both following their temperature. In time by implicit Euler steps.

`python -m validation.heat` prints what it gives for the cases below; `core/tests/data/heat.json` keeps that, and `core/tests/test_heat_3d.py`
holds the core against it. It needs nothing that the core does not have.
"""

from __future__ import annotations

import json
import sys
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from scipy.sparse import coo_matrix, diags
from scipy.sparse.linalg import cg

KEPT = Path(__file__).resolve().parents[1] / "core" / "tests" / "data" / "heat.json"
SIGMA, KELVIN = 5.670374e-8, 273.15
AIR_K, AIR_C = 0.0272, 1.11e3  # W/(m K), J/(m3 K) at some 45 degC
EMISSIVITY = 0.85
TIMES_S = (10.0, 30.0, 60.0, 120.0, 330.0, 672.0, 1500.0)


@dataclass(frozen=True)
class Solid:
    """A cuboid inside [mm], of a conductivity [W/(m K)] and a heat capacity [J/(m3 K)], in which so much is burnt [W]."""

    name: str
    low: tuple[float, float, float]
    high: tuple[float, float, float]
    conductivity: float
    capacity: float
    watts: float = 0.0


@dataclass(frozen=True)
class Case3d:
    """A case [mm] of one wall and what is in it, free in air of a temperature [degC], on no table; cut into steps of so much [mm]."""

    name: str
    outer: tuple[float, float, float]
    wall: float
    conductivity: float
    capacity: float
    solids: tuple[Solid, ...]
    ambient: float = 25.0
    step: float = 2.0


@dataclass
class Grid:
    conductivity: np.ndarray  # (x, y, z)
    capacity: np.ndarray
    watts: np.ndarray
    what: np.ndarray  # -1 air, 0 wall, 1.. the solids
    step: float


def grid_of(case: Case3d) -> Grid:
    shape = tuple(round(v / case.step) for v in case.outer)
    wall = round(case.wall / case.step)
    what = np.zeros(shape, dtype=int)
    what[wall:-wall, wall:-wall, wall:-wall] = -1
    for i, solid in enumerate(case.solids, start=1):
        low, high = ([round(v / case.step) for v in x] for x in (solid.low, solid.high))
        what[low[0] : high[0], low[1] : high[1], low[2] : high[2]] = i
    k, c = np.full(shape, AIR_K), np.full(shape, AIR_C)
    k[what == 0], c[what == 0] = case.conductivity, case.capacity
    watts = np.zeros(shape)
    for i, solid in enumerate(case.solids, start=1):
        there = what == i
        k[there], c[there] = solid.conductivity, solid.capacity
        watts[there] = solid.watts / there.sum()
    return Grid(k, c, watts, what, case.step / 1000)


def moving_air(grid: Grid, rise_k: float) -> np.ndarray:
    """The conductivity of the air cells where it moves: by the narrowest extent of the air around each cell, Nu = 0.54 Ra^0.25 between
    upright walls (Incropera & DeWitt (2007), eq. 9.52 for squat cavities, rounded), 1 where that is less."""
    k = grid.conductivity.copy()
    air = grid.what == -1
    narrow = np.full(air.shape, np.inf)
    for axis in range(3):
        run = np.zeros(air.shape)
        moved = np.moveaxis(air, axis, 0)
        count = np.zeros(moved.shape)
        for i in range(moved.shape[0]):
            count[i] = np.where(moved[i], (count[i - 1] if i else 0) + 1, 0)
        back = np.zeros(moved.shape)
        for i in range(moved.shape[0] - 1, -1, -1):
            longer = back[i + 1] if i + 1 < moved.shape[0] else 0
            back[i] = np.where(moved[i], np.maximum(count[i], longer), 0)
        run = np.moveaxis(back, 0, axis)
        narrow = np.minimum(narrow, run)
    length = np.where(air, narrow, 0) * grid.step
    rayleigh = 9.81 * rise_k / 320 * length**3 / (1.78e-5 * 2.55e-5)
    nusselt = np.maximum(0.18 * np.maximum(rayleigh, 0) ** 0.25, 1.0)
    k[air] *= nusselt[air]
    return k


def links(grid: Grid, k: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(first cell, second cell, conductance [W/K]) of all neighbours."""
    index = np.arange(k.size).reshape(k.shape)
    a, b, g = [], [], []
    for axis in range(3):
        first, second = (
            np.take(index, range(*r), axis=axis).ravel() for r in ((0, k.shape[axis] - 1), (1, k.shape[axis]))
        )
        one, other = k.ravel()[first], k.ravel()[second]
        a.append(first)
        b.append(second)
        g.append(grid.step * 2 * one * other / (one + other))
    return np.concatenate(a), np.concatenate(b), np.concatenate(g)


def sights(grid: Grid) -> tuple[np.ndarray, np.ndarray]:
    """Pairs of solid cells that look at each other across air, along the axes."""
    index = np.arange(grid.what.size).reshape(grid.what.shape)
    first, second = [], []
    for axis in range(3):
        what, cells = (
            np.moveaxis(grid.what, axis, -1).reshape(-1, grid.what.shape[axis]),
            np.moveaxis(index, axis, -1).reshape(-1, grid.what.shape[axis]),
        )
        for row, own in zip(what, cells, strict=True):
            solid = np.flatnonzero(row >= 0)
            gaps = np.flatnonzero(np.diff(solid) > 1)
            first.append(own[solid[gaps]])
            second.append(own[solid[gaps + 1]])
    return np.concatenate(first), np.concatenate(second)


def outer_film(case: Case3d, grid: Grid, rise: np.ndarray) -> np.ndarray:
    """What each cell gives to the surroundings per kelvin [W/K], at the rises of all cells [K]."""
    rise = rise.reshape(grid.what.shape)
    found = np.zeros(grid.what.shape)
    w, d, h = (v / 1000 for v in case.outer)
    lying = w * d / (2 * (w + d))
    faces = [(0, 0, "side"), (0, -1, "side"), (1, 0, "side"), (1, -1, "side"), (2, 0, "down"), (2, -1, "up")]
    for axis, end, kind in faces:
        there = np.take(rise, end, axis=axis)
        mean = max(float(there.mean()), 0.5)
        length = h if kind == "side" else lying
        film = {"side": 1.42, "up": 1.32, "down": 0.59}[kind] * (mean / length) ** 0.25
        warm, cool = there + case.ambient + KELVIN, case.ambient + KELVIN
        radiates = EMISSIVITY * SIGMA * (warm + cool) * (warm**2 + cool**2)
        at = [slice(None)] * 3
        at[axis] = end if end == 0 else grid.what.shape[axis] - 1
        found[tuple(at)] += (film + radiates) * grid.step**2
    return found.ravel()


class Model:
    def __init__(self, case: Case3d) -> None:
        self.case, self.grid = case, grid_of(case)
        self.seen = sights(self.grid)
        self.watts = self.grid.watts.ravel()
        self.capacity = self.grid.capacity.ravel() * self.grid.step**3

    def matrix(self, rise: np.ndarray) -> Any:
        """Conductances at the rises of all cells: radiation and films follow them."""
        case, grid = self.case, self.grid
        inside = float(rise[grid.what.ravel() > 0].mean()) if np.any(grid.what > 0) else 1.0
        k = moving_air(grid, max(inside - float(rise[grid.what.ravel() == 0].mean()), 1.0))
        a, b, g = links(grid, k)
        one, other = self.seen
        warm, cool = (rise[x] + case.ambient + KELVIN for x in (one, other))
        factor = 1 / (2 / EMISSIVITY - 1)
        radiates = factor * SIGMA * (warm + cool) * (warm**2 + cool**2) * grid.step**2
        a, b, g = np.concatenate([a, one]), np.concatenate([b, other]), np.concatenate([g, radiates])
        n = grid.what.size
        found = coo_matrix(
            (np.concatenate([-g, -g]), (np.concatenate([a, b]), np.concatenate([b, a]))), shape=(n, n)
        ).tocsr()
        diagonal = np.bincount(a, g, n) + np.bincount(b, g, n) + outer_film(case, grid, rise)
        return found + diags(diagonal, format="csr")

    def steady(self) -> np.ndarray:
        rise = np.full(self.watts.size, 5.0)
        for _ in range(12):
            after = solved(self.matrix(rise), self.watts, rise)
            if np.max(np.abs(after - rise)) < 0.02:
                return after
            rise = after
        return rise

    def course(self, times_s: tuple[float, ...]) -> list[np.ndarray]:
        """The rises of all cells at some times after everything is switched on [K]."""
        rise, now, found = np.zeros(self.watts.size), 0.0, []
        for until in times_s:
            steps = 12
            step = (until - now) / steps
            matrix = self.matrix(np.maximum(rise, 0.0)) + diags(self.capacity / step, format="csr")
            for _ in range(steps):
                rise = solved(matrix, self.watts + self.capacity / step * rise, rise)
            now = until
            found.append(rise)
        return found

    def read(self, rise: np.ndarray) -> dict[str, float]:
        """What the core speaks of [K above the surroundings]: mean air, mean and hottest outer face, each solid's mean."""
        what = self.grid.what
        field_ = rise.reshape(what.shape)
        faces = [np.take(field_, end, axis=axis) for axis in range(3) for end in (0, -1)]
        return {
            "air": float(field_[what == -1].mean()),
            "outer": float(np.concatenate([f.ravel() for f in faces]).mean()),
            "hottest_outer": max(float(f.max()) for f in faces),
            **{s.name: float(field_[what == i].mean()) for i, s in enumerate(self.case.solids, start=1)},
        }


def solved(matrix: Any, right: np.ndarray, first: np.ndarray) -> np.ndarray:
    """By conjugate gradients, as the matrix is symmetric and positive."""
    over = 1 / matrix.diagonal()
    found, failed = cg(matrix, right, x0=first, rtol=1e-7, maxiter=4000, M=diags(over, format="csr"))
    assert not failed
    return np.asarray(found)


PETG = {"conductivity": 0.20, "capacity": 1.27e6 * 1.3}
CELL = {"conductivity": 3.0, "capacity": 2.0e6}
BOARD = {"conductivity": 8.0, "capacity": 1.9e6}


def cases() -> list[Case3d]:
    """All sizes are whole steps of 2 mm."""
    battery = Solid("battery", (10, 10, 4), (44, 60, 8), **CELL)
    return [
        Case3d("part in the middle, 0.5 W", (80, 70, 30), 2.0, **PETG,
               solids=(battery, Solid("part", (52, 20, 10), (70, 38, 14), **BOARD, watts=0.5))),
        Case3d("part in the middle, 1 W", (80, 70, 30), 2.0, **PETG,
               solids=(battery, Solid("part", (52, 20, 10), (70, 38, 14), **BOARD, watts=1.0))),
        Case3d("part in the middle, 2 W", (80, 70, 30), 2.0, **PETG,
               solids=(battery, Solid("part", (52, 20, 10), (70, 38, 14), **BOARD, watts=2.0))),
        Case3d("large part in the middle, 3 W", (80, 70, 30), 2.0, **PETG,
               solids=(battery, Solid("part", (50, 20, 10), (76, 46, 14), **BOARD, watts=3.0))),
        Case3d("part two millimetres from the wall, 1 W", (80, 70, 30), 2.0, **PETG,
               solids=(battery, Solid("part", (52, 20, 22), (70, 38, 26), **BOARD, watts=1.0))),
        Case3d("chip on a board, 0.3 W", (80, 70, 30), 2.0, **PETG,
               solids=(Solid("board", (14, 14, 10), (54, 44, 12), **BOARD), Solid("part", (30, 28, 12), (36, 34, 14), **BOARD, watts=0.3))),
        Case3d("small case, 1 W", (50, 40, 20), 2.0, **PETG,
               solids=(Solid("part", (16, 12, 8), (34, 28, 12), **BOARD, watts=1.0),)),
        Case3d("two parts, 0.4 and 0.8 W", (100, 60, 40), 2.0, **PETG,
               solids=(Solid("other", (10, 10, 10), (30, 30, 14), **BOARD, watts=0.4), Solid("part", (60, 20, 14), (84, 40, 18), **BOARD, watts=0.8))),
    ]  # fmt: skip


def run(case: Case3d) -> dict[str, Any]:
    model = Model(case)
    steady = model.read(model.steady())
    course = [model.read(x) for x in model.course(TIMES_S)]
    return {
        "case": {"outer": case.outer, "wall": case.wall, "ambient": case.ambient},
        "solids": [{"name": s.name, "low": s.low, "high": s.high, "watts": s.watts, "grams": float(np.prod(np.subtract(s.high, s.low))) * 1e-9 * s.capacity / 0.9} for s in case.solids],
        "steady": steady, "times_s": TIMES_S, "course": course,
    }  # fmt: skip


def main() -> int:
    found = {}
    for case in cases():
        found[case.name] = run(case)
        print(case.name, json.dumps({k: round(v, 2) for k, v in found[case.name]["steady"].items()}), flush=True)
        for t, row in zip(TIMES_S, found[case.name]["course"], strict=True):
            print(f"  {t:6.0f} s", json.dumps({k: round(v, 2) for k, v in row.items()}), flush=True)
    if "--keep" in sys.argv:
        KEPT.write_text(json.dumps(found, indent=1) + "\n")
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
