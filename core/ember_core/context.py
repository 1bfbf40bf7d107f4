"""One evaluation in the making: the design and everything that was computed from it once."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from . import charging, fit, runtime, sag, spread
from .catalogue import Catalogue
from .chemistry import CHEMISTRIES, Array
from .day import SECONDS_PER_DAY, wakes_a_day
from .design import Design, SeriesStage
from .figures import PatchOperation, Remedy
from .problems import DocumentError
from .remedies import apply_patch
from .supply import nominal_rail_v

SECONDS_PER_YEAR = 31557600.0


@dataclass(frozen=True)
class Context:
    design: Design
    catalogue: Catalogue

    @cached_property
    def usual(self) -> runtime.Run:
        return runtime.run(self.design)

    @cached_property
    def coldest(self) -> runtime.Run:
        brief = self.design.brief
        return self.usual if brief.coldest_c == brief.usual_c else runtime.run(self.design, brief.coldest_c)

    @cached_property
    def _tried(self) -> dict[str, runtime.Run]:
        return {}

    def after(self, patch: list[PatchOperation]) -> runtime.Run:
        """The design after a patch, solved at the usual temperature. Raises DocumentError where it is none."""
        key = repr(patch)
        if key not in self._tried:
            self._tried[key] = runtime.rerun(self.usual, apply_patch(self.design, patch))
        return self._tried[key]

    def remedy(self, label: str, patch: list[PatchOperation]) -> Remedy | None:
        """A remedy, or None where it would lead out of what a design can be (a resistor of teraohms)."""
        try:
            self.after(patch)
        except DocumentError:
            return None
        return Remedy(label=label, patch=patch)

    @cached_property
    def spread(self) -> spread.Spread:
        return spread.runtime_spread(self.usual)

    @cached_property
    def fit(self) -> fit.Fit:
        return fit.check_fit(self.design)

    @cached_property
    def middle(self) -> int:
        """Index of half charge on the grid: where single figures are read off."""
        return int(np.argmin(np.abs(self.usual.pack.charge - 0.5)))

    @cached_property
    def rail_powered(self) -> np.ndarray:
        """(rails, modes): the rail has a voltage."""
        return self.usual.tree.rail_powered()

    @cached_property
    def rest(self) -> int:
        """Index of the mode in which the gadget rests."""
        return next(i for i, m in enumerate(self.design.modes) if m.id == self.design.day.rest)

    @cached_property
    def mean_a(self) -> float:
        """Mean battery current over the day at half charge [A], without self-discharge."""
        return float(self.usual.mean_current_a[self.middle])

    def mode_a(self, mode: str) -> float:
        """Mean battery current of a mode at half charge [A]."""
        m = next(i for i, x in enumerate(self.design.modes) if x.id == mode)
        return float(self.usual.mode_current_a[m, self.middle])

    def charge_share(self, mode: str, seconds_a_day: float) -> float:
        """Share of the day's charge that so many seconds of a mode take, 0..1."""
        return self.mode_a(mode) * seconds_a_day / SECONDS_PER_DAY / self.mean_a if self.mean_a > 0 else 0.0

    @cached_property
    def wakes_a_day(self) -> list[float]:
        """How often each wake comes, on average over the year."""
        return wakes_a_day(self.design.day, self.design.modes)

    @cached_property
    def part_mode_a(self) -> Array:
        """Mean current of each part (all copies) on its rail in each mode [A], shape (parts, modes)."""
        return self._by_part(battery_side=False)

    @cached_property
    def part_battery_a(self) -> Array:
        """What each part costs the battery in each mode [A], shape (parts, modes), by the marginal current."""
        return self._by_part(battery_side=True)

    def _by_part(self, *, battery_side: bool) -> Array:
        state = self.usual
        table = np.zeros((len(self.design.parts), len(self.design.modes)))
        for m, moment in enumerate(state.moments):
            for p in range(len(self.design.parts)):
                cost = state.gains[state.rail_of[p], m, self.middle] if battery_side else 1.0
                table[p, moment.mode] += moment.share * state.part_a(p, m, self.middle) * cost
        return table

    def load_switch(self, part: int) -> SeriesStage | None:
        """The catalogue's load switch for a part: of those that stand its peak the one that leaks least."""
        state = self.usual
        peak = max(state.part_a(part, m, self.middle, "most") for m in range(len(state.moments)))
        able = [
            s for s in self.catalogue.stages
            if isinstance(s, SeriesStage) and s.role == "load switch" and s.limit_a >= peak
        ]  # fmt: skip
        return min(able, key=lambda s: (s.shutdown_a, s.cost), default=None)

    def shelf_s(self, mode: int | None) -> float:
        """How long a full battery lasts switched off [s]: in a mode, or (None) cut off altogether. Never longer than
        the cell itself keeps."""
        pack = self.usual.pack
        cell = CHEMISTRIES[self.design.battery.cell.chemistry]
        empty = pack.capacity_ah * 3600 / pack.self_discharge_a if mode is None else self.usual.mode_seconds(mode)
        return min(empty, cell.shelf_years * SECONDS_PER_YEAR)

    @cached_property
    def sags(self) -> list[sag.Sag]:
        return sag.find_sags(self.usual)

    @cached_property
    def peak_a(self) -> tuple[float, int]:
        """(most battery current in any used mode while it still works [A], index of its moment)."""
        state = self.usual
        best, where = 0.0, 0
        for m, moment in enumerate(state.moments):
            stop = max(state.failures[moment.mode].charge, state.ending[1])
            usable = (state.pack.charge >= stop) & ~state.worst.collapsed[m]
            amps = float(np.max(state.worst.source_a[m], where=usable, initial=0.0))
            if amps > best:
                best, where = amps, m
        return best, where

    @cached_property
    def highest_rail_v(self) -> Array:
        """Voltage of each rail without load on a full battery, or while charging if that is higher [V], (rails,)."""
        state, charger = self.usual, self.design.charger
        top = float(state.pack.open_circuit_v[0])
        if charger is not None:
            top = max(top, charger.float_v * self.design.battery.series)
        return nominal_rail_v(state.tree, top)

    @cached_property
    def charge(self) -> charging.Charge | None:
        """The charge from empty while the gadget rests; None without a charger and for cells that must not have one."""
        chemistry = CHEMISTRIES[self.design.battery.cell.chemistry]
        if self.design.charger is None or chemistry.charge_v is None:
            return None
        load = float(self.usual.mode_current_a[self.rest, self.middle])
        return charging.charge(self.design.charger, self.design.battery, load)
