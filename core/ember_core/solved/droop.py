"""Short peaks on top of the modes: how far they make their rail droop, and whether anything on it minds.

Judged near the end of the charge, where the battery's voltage is low and its resistance high. Without a bulk
capacitor the rail falls to the working point under the peak; with one it follows `calculators.capacitor`.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ..battery.pack import on_grid
from ..calculators.capacitor import dip_v, needed_farad
from ..load.operating_points import peak_comes
from ..quantities.preferred import next_e6
from ..runtime.run import Run, without_peaks
from ..supply.converters import limits_current
from ..supply.solution import Solution
from ..supply.solver import solve

JUDGED_AT = 0.2  # of the charge, or of what is used where the run ends above that
USUAL_ESR_OHM = 0.05
SPARE = 0.8  # of the room above the least supply that a dip may use
VISIBLE_KINDS = ("display", "sound", "light")
USUAL_DROOP = 0.03  # that a display, a sound or a light stands before it shows; a rule of thumb


@dataclass(frozen=True)
class Shows:
    """A part that the droop shows at: how far its rail droops and how far it may, as shares of the voltage before."""

    part: int
    droop: float
    most: float

    @property
    def margin(self) -> float:
        return self.most - self.droop


@dataclass(frozen=True)
class Droop:
    """One part's peak in one mode, on the rail `source`, and the rail that comes off worst by it, `rail`.

    Voltages are those of `rail` [V], `own_before_v` and `own_lowest_v` those of `source`; `steady_v` is where it would end up without a capacitor, `lowest_v` where it
    does end up. `beyond_a` is how much of the peak is more than the converter on the way, `stage`, can give.
    `needs_v` is the highest least supply among the parts that are used on the rail then; `capacitor_f` what would
    hold all rails above theirs (0: nothing needed, None: no capacitor does), placed at `source`. `shows` are the parts that
    droop further than they may without showing, the worst first, `smoothing_f` what would keep all of them from that. `charge` is the
    state of charge at which it is judged, 0..1.
    """

    part: int
    mode: int
    source: int
    rail: int
    current_a: float
    seconds: float
    before_v: float
    steady_v: float
    lowest_v: float
    terminal_v: float
    beyond_a: float
    stage: str
    needs_v: float
    charge: float
    own_before_v: float
    own_lowest_v: float
    capacitor_f: float | None
    shows: tuple[Shows, ...]
    smoothing_f: float | None

    @property
    def fails(self) -> bool:
        return self.lowest_v < self.needs_v - 1e-9 or self.lowest_v <= 0


def find_droops(state: Run, charge: float | None = None) -> list[Droop]:
    """The peaks of all parts in all modes that use them, at a state of charge (0..1) or where peaks are judged.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.runtime.run import run
    >>> all(d.before_v >= d.lowest_v for d in find_droops(run(design)))
    True
    """
    design, asked = state.design, _asked(state)
    if not asked:
        return []
    charge = judged_at(state) if charge is None else charge
    pack = on_grid(state.pack, design.battery, state.temperature_c, np.array([charge]))
    operating_points = [k for _, k, _ in asked]
    rows = state.loads.rows(operating_points + operating_points)  # without the peaks, then with them
    for i, (p, _, _) in enumerate(asked, start=len(asked)):
        peak = design.parts[p].peak
        assert peak is not None
        rows.current_a[i, state.rail_of[p]] += peak.current_a * design.parts[p].quantity
    felt = [state.at(charge, state.filtered_current_a[m]) for _, _, m in asked]
    filtered = np.array(felt + felt)[:, None]
    lowered = np.array([[state.at(charge, row)] for row in state.pack.lowered_v(filtered, filtered)])
    solution = solve(state.tree, rows, pack, lowered_v=lowered)
    return [_droop(state, solution, charge, i, len(asked), *asked[i]) for i in range(len(asked))]


def _asked(state: Run) -> list[tuple[int, int, int]]:
    """(part, operating point, mode) of each peak in each mode that has it."""
    design = state.design
    peaking = [p for p, part in enumerate(design.parts) if part.peak is not None]
    if not peaking:
        return []
    of_mode = [np.flatnonzero(state.loads.mode == m).tolist() for m in range(len(design.modes))]
    found = ((p, _busiest(state, p, of_mode[m]), m) for p in peaking for m in range(len(design.modes)))
    return [(p, k, m) for p, k, m in found if k >= 0 and state.rail_powered[state.rail_of[p], k]]


def judged_at(state: Run) -> float:
    """The state of charge at which peaks are judged, 0..1: low, and the gadget still gets there but for its peaks.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.runtime.run import run
    >>> round(judged_at(run(design)), 2)
    0.2
    """
    end = state.ending[1]
    if end > JUDGED_AT:
        end = without_peaks(state).ending[1]
    return JUDGED_AT if end <= JUDGED_AT else end + JUDGED_AT * (1 - end)


def _busiest(state: Run, part: int, operating_points: list[int]) -> int:
    """The operating point, of a mode's, with the part's peak in which it draws most; -1 where there is none."""
    item = state.design.parts[part]
    there = [k for k in operating_points if peak_comes(item, state.operating_points[k].states[part])]
    return there[0] if len(there) == 1 else max(there, key=lambda k: float(state.parts_a(0)[part, k]), default=-1)


def _droop(
    state: Run, solution: Solution, charge: float, row: int, count: int, part: int, moment: int, mode: int
) -> Droop:
    design, tree = state.design, state.tree
    item, own = design.parts[part], state.rail_of[part]
    assert item.peak is not None
    current, seconds = item.peak.current_a * item.quantity, item.peak.seconds
    before: list[float] = solution.rail_v[:, row, 0].tolist()
    steady: list[float] = solution.rail_v[:, count + row, 0].tolist()
    if solution.collapsed[count + row, 0]:
        steady = [0.0] * len(steady)
    beyond, stage = 0.0, ""
    for s in tree.path(tree.rail_feeds[own]):
        if not limits_current(tree.stages[s]):
            continue
        over = float(solution.stage_output_a[s, count + row, 0]) - tree.stages[s].limit_a
        if over > beyond:
            beyond, stage = min(over, current), tree.stages[s].id
    needs = [0.0] * len(before)
    for i, p in enumerate(design.parts):
        if state.operating_points[moment].states[i] is not None and state.rail_powered[state.rail_of[i], moment]:
            needs[state.rail_of[i]] = max(needs[state.rail_of[i]], p.supply_min_v or 0.0)
    falls = [max(b - s, 0.0) for b, s in zip(before, steady, strict=True)]
    ohm = falls[own] / current
    bulk = design.supply.rails[own].capacitor
    esr = bulk.esr_ohm if bulk else USUAL_ESR_OHM
    dip = dip_v(current, seconds, ohm, bulk.farad if bulk else 0.0, esr, beyond)
    # what the capacitor carries is not asked of the supply: the other rails fall in proportion
    share = min(dip / falls[own], 1.0) if falls[own] > 0 else 0.0
    ends = [b - f * share for b, f in zip(before, falls, strict=True)]
    ends[own] = before[own] - dip
    asking = [r for r, volts in enumerate(needs) if volts > 0]
    worst = min(asking, key=lambda r: ends[r] - needs[r], default=own)
    room = [SPARE * max(b - n, 0.0) for b, n in zip(before, needs, strict=True)]
    allowed = min([room[own], *(room[r] * falls[own] / max(falls[r], 1e-12) for r in asking if falls[r] > 0)])

    def capacitor(dip_v: float) -> float | None:
        found = needed_farad(current, seconds, ohm, max(dip_v, 1e-6), USUAL_ESR_OHM, beyond)
        return next_e6(found) if found else found

    shows = _shows(state, moment, before, ends)
    smooth = math.inf
    for one in shows:
        r = state.rail_of[one.part]
        smooth = min(smooth, SPARE * one.most * before[r] * falls[own] / max(falls[r], 1e-12))
    return Droop(
        part=part, mode=mode, source=own, rail=worst, current_a=current, seconds=seconds,
        before_v=before[worst], steady_v=steady[worst],
        lowest_v=0.0 if math.isinf(dip) else max(ends[worst], 0.0),
        terminal_v=float(solution.terminal_v[count + row, 0]), beyond_a=beyond, stage=stage, needs_v=needs[worst], charge=charge,
        own_before_v=before[own], own_lowest_v=0.0 if math.isinf(dip) else max(ends[own], 0.0),
        capacitor_f=capacitor(allowed), shows=shows, smoothing_f=capacitor(min(allowed, smooth)) if shows else None,
    )  # fmt: skip


def _shows(state: Run, moment: int, before: list[float], ends: list[float]) -> tuple[Shows, ...]:
    """The parts in use on which a droop shows, beyond what they stand, the worst first."""
    found = []
    for i, part in enumerate(state.design.parts):
        most = part.droop_max or (USUAL_DROOP if part.kind in VISIBLE_KINDS else None)
        r = state.rail_of[i]
        if most is None or before[r] <= 0 or state.parts_a(0)[i, moment] <= 0:
            continue
        now = Shows(i, (before[r] - ends[r]) / before[r], most)
        if now.margin < 0:
            found.append(now)
    return tuple(sorted(found, key=lambda s: s.margin))
