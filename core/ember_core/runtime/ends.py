"""What ends a run besides its charge: a power bank that switches itself off, a cell that is old by then."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from ..battery.chemistry import CHEMISTRIES
from ..design import Battery, Session, Wake
from ..load.day import SECONDS_PER_DAY

if TYPE_CHECKING:
    from .run import Run

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
    """How long cells of this kind keep, less what this one has behind it [s]: a typical figure of the chemistry."""
    years = CHEMISTRIES[battery.cell.chemistry].shelf_years - battery.age_years
    return max(years, LEAST_SHELF_YEARS) * SECONDS_PER_YEAR


def bank_off(run: Run, k: int) -> BankOff | None:
    """The first time that the gadget takes too little from its power bank for too long; `k`: the state of charge that
    currents are read at. Asked for are the currents of the moments, not the mode's mean: a bank sees no mean."""
    design, bank = run.design, run.design.battery.cell.bank
    if bank is None or bank.least_a <= 0:
        return None
    found = []
    for m, mode in enumerate(design.modes):
        if run.shares[m] <= 0 or _stays_on(run, m, k) or _longest_s(run, m, k) <= bank.off_after_s:
            continue
        asked = float(run.mode_current_a[m, k])
        wait = 0.0 if mode.id == design.day.rest else SECONDS_PER_DAY / max(_times_a_day(run, m), 1e-9)
        found.append(BankOff(m, asked, wait + bank.off_after_s))
    return min(found, key=lambda b: b.seconds, default=None)


def _least_a(run: Run) -> float:
    bank = run.design.battery.cell.bank
    return bank.least_a * run.design.battery.parallel if bank else 0.0


def _stays_on(run: Run, mode: int, k: int) -> bool:
    """Whether a mode takes enough, or enough in pulses that come often enough."""
    bank, least = run.design.battery.cell.bank, _least_a(run)
    assert bank is not None
    amps = [float(run.typical.source_a[i, k]) for i, x in enumerate(run.moments) if x.mode == mode]
    if min(amps) >= least:
        return True
    if max(amps) < least:
        return False
    periods = [u.period_s for u in run.design.modes[mode].uses if u.burst and u.period_s]
    return not periods or min(periods) <= bank.off_after_s  # a duty without a period is taken as fast


def _longest_s(run: Run, mode: int, k: int) -> float:
    """How long the gadget stays in a mode: for the rest mode until the next wake that takes enough [s]."""
    day, name = run.design.day, run.design.modes[mode].id
    index = {m.id: i for i, m in enumerate(run.design.modes)}
    if name == day.rest:
        strong = (w.every_s for w in day.wakes if float(run.mode_current_a[index[w.mode], k]) >= _least_a(run))
        return min(strong, default=SECONDS_PER_DAY)
    events: list[Session | Wake] = [*day.sessions, *day.wakes]
    return max((s.seconds for e in events for s in e.stretches if s.mode == name), default=0.0)


def _times_a_day(run: Run, mode: int) -> float:
    day, name = run.design.day, run.design.modes[mode].id
    wakes = run.year.wakes_a_day
    times = [s.per_day for s in day.sessions if any(x.mode == name for x in s.stretches)]
    times += [n for n, w in zip(wakes, day.wakes, strict=True) if any(x.mode == name for x in w.stretches)]
    return sum(times)
