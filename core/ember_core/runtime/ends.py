"""What ends a run besides its charge: a power bank that switches itself off, a cell that is old by then."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..battery.chemistry import CHEMISTRIES
from ..design import Bank, Battery, Design, Session, Wake
from ..load.day import SECONDS_PER_DAY, Year
from ..numeric import Array

SECONDS_PER_YEAR = 31557600.0
LEAST_SHELF_YEARS = 1.0  # what is still said of a cell that is older than its kind usually gets


@dataclass(frozen=True)
class BankOff:
    """A power bank switches itself off: in which mode (by index), what the gadget takes then [A], when it comes to that,
    counted from a full bank [s]."""

    mode: int
    asked_a: float
    seconds: float


def shelf_s(battery: Battery) -> float:
    """How long cells of this kind keep, less what this one has behind it [s]: a typical figure of the chemistry.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.design import Battery
    >>> battery = Battery(cell=built_in().by_key["cell-aa-alkaline"].cell, series=1)
    >>> round(shelf_s(battery) / 86400 / 365.25, 1)
    10.0
    """
    years = CHEMISTRIES[battery.cell.chemistry].shelf_years - battery.age_years
    return max(years, LEAST_SHELF_YEARS) * SECONDS_PER_YEAR


@dataclass(frozen=True)
class BankWatch:
    """What a power bank sees of the gadget at one state of charge: `mode_a` each mode's mean current, shape (modes,), `point_a`
    that of each operating point, `mode` the mode of each, both of shape (operating points,); `shares` of the time, (modes,)."""

    design: Design
    year: Year
    shares: Array
    mode_a: Array
    point_a: Array
    mode: np.ndarray

    def off(self) -> BankOff | None:
        """The first time that the gadget takes too little for too long. Asked for are the currents of the operating points,
        not the mode's mean: a bank sees no mean."""
        design, bank = self.design, self.design.battery.cell.bank
        if bank is None or bank.auto_shutoff_a <= 0:
            return None
        least = bank.auto_shutoff_a * design.battery.parallel
        found = []
        for m, mode in enumerate(design.modes):
            if mode.switched_off and not design.day.wakes:
                continue  # who switches the gadget on switches the bank on with it
            if self.shares[m] <= 0 or self._stays_on(m, bank, least) or self._longest_s(m, least) <= bank.off_after_s:
                continue
            wait = 0.0 if mode.id == design.day.rest else SECONDS_PER_DAY / max(self._times_a_day(m), 1e-9)
            found.append(BankOff(m, float(self.mode_a[m]), wait + bank.off_after_s))
        return min(found, key=lambda b: b.seconds, default=None)

    def _stays_on(self, mode: int, bank: Bank, least: float) -> bool:
        """Whether a mode takes enough, or enough in pulses that come often enough."""
        amps = self.point_a[self.mode == mode]
        if amps.min() >= least:
            return True
        if amps.max() < least:
            return False
        periods = [u.period_s for u in self.design.modes[mode].uses if u.burst and u.period_s]
        return not periods or min(periods) <= bank.off_after_s  # a duty without a period is taken as fast

    def _longest_s(self, mode: int, least: float) -> float:
        """How long the gadget stays in a mode: for the rest mode until the next wake that takes enough [s]."""
        day, name = self.design.day, self.design.modes[mode].id
        index = self.design.index.modes
        if name == day.rest:
            strong = (w.every_s for w in day.wakes if self.mode_a[index[w.mode]] >= least)
            return min(strong, default=SECONDS_PER_DAY)
        events: list[Session | Wake] = [*day.sessions, *day.wakes]
        return max((s.seconds for e in events for s in e.stretches if s.mode == name), default=0.0)

    def _times_a_day(self, mode: int) -> float:
        day, name = self.design.day, self.design.modes[mode].id
        times = [s.per_day for s in day.sessions if any(x.mode == name for x in s.stretches)]
        times += [
            n for n, w in zip(self.year.wakes_a_day, day.wakes, strict=True) if any(x.mode == name for x in w.stretches)
        ]
        return sum(times)
