"""The gadget solved at its usual and its coldest temperature, and what is read off that."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property, wraps
from typing import Any, TypeVar

import numpy as np

from ..battery.chemistry import CHEMISTRIES
from ..charging.charge import Charge, charge, resistance_span
from ..charging.solar import DailyYield, daily_yield
from ..design import Design, Part
from ..enclosure.fit import Fit, check_fit
from ..load.day import SECONDS_PER_DAY
from ..load.operating_points import part_current
from ..numeric import Array
from ..quantities import show
from ..runtime.run import Run
from ..runtime.uncertainty import Samples
from ..supply.nominal import nominal_input_v, nominal_node_v, nominal_rail_v
from .droop import Droop
from .electric import Electric, Known
from .hottest import Hot, hot_things
from .warmth import Warmth, charging_range_c, find_warmth

WORKS_LIKE = 0.5  # of the hungriest mode's current: a resting mode that draws as much is no sleep


T = TypeVar("T")
G = TypeVar("G", bound="SolvedGadget")


def once(work: Callable[[G], T]) -> Callable[[G], T]:
    """A report that several ask for: worked out once for each solved gadget.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> calls = []
    >>> report = once(lambda solved: calls.append(solved) or len(calls))
    >>> report(bench), report(bench)
    (1, 1)
    """

    @wraps(work)
    def kept(solved: G) -> T:
        if work not in solved.said:
            solved.said[work] = work(solved)
        found: T = solved.said[work]
        return found

    return kept


def _is_calmest(part: Part, state: str) -> bool:
    """Whether a state is the one in which a part of several states draws least: a light that is dark shows nothing, whatever it draws."""
    amps = {s.name: part_current(s, USUAL_RAIL_V) for s in part.states}
    return len(amps) > 1 and amps[state] <= min(amps.values())


USUAL_RAIL_V = 3.3  # to compare states of one part with each other


@dataclass(frozen=True)
class SolarDay:
    """What the panel gives on a usual day, what of it gets into the battery (0..1), what a day takes [W h], what the full battery holds for the
    gadget [W h], and for how many days that lasts without sun."""

    panel: DailyYield
    efficiency: float
    used_wh: float
    stored_wh: float
    autonomy_d: float

    @property
    def into_wh(self) -> float:
        """Into the battery on a usual day [W h]."""
        return self.panel.energy_wh * self.efficiency


@dataclass(frozen=True)
class SolvedGadget:
    """A design and everything that was worked out from it, each thing once and when it is first asked for. `known` has what was solved of other
    designs."""

    design: Design
    known: Known = field(default_factory=Known, kw_only=True, compare=False)

    @cached_property
    def said(self) -> dict[Callable[..., Any], Any]:
        """What `once` has kept."""
        return {}

    @cached_property
    def _electric(self) -> Electric:
        return self.known.of(self.design)

    @cached_property
    def usual(self) -> Run:
        """The run at the brief's usual temperature."""
        return self._electric.usual.of(self.design)

    @cached_property
    def coldest(self) -> Run:
        """The run at the coldest temperature of the brief; where that is the usual one, the same."""
        known = self._electric
        return self.usual if known.coldest is known.usual else known.coldest.of(self.design)

    @property
    def estimate(self) -> Samples:
        """The runtime's samples at the usual temperature: its median is what is said of it."""
        return self._electric.estimate

    @property
    def cold_estimate(self) -> Samples:
        """The same at the coldest temperature of the brief."""
        return self._electric.cold_estimate

    @property
    def runtime_s(self) -> float:
        """The runtime that is said [s]: the median of the samples."""
        return self.estimate.median

    @cached_property
    def fit(self) -> Fit:
        return check_fit(self.design)

    @property
    def typical_to_said(self) -> float:
        """What leads from a runtime at typical figures to the one that is said, as a factor."""
        return self.runtime_s / self.usual.seconds if self.usual.seconds > 0 else 1.0

    @property
    def middle(self) -> int:
        """Index of half charge on the grid: where single figures are read off."""
        return self.usual.middle

    @property
    def read_at(self) -> str:
        """Where single figures are read off, in words: half charge, unless the run ends before that."""
        at = float(self.usual.pack.charge[self.middle])
        return "half charge" if self.usual.ending[1] <= 0.5 else f"{show(at, 'share')} charge"

    @cached_property
    def rail_powered(self) -> np.ndarray:
        """(rails, modes): the rail has a voltage."""
        return self.usual.tree.rail_powered

    @cached_property
    def rest(self) -> int:
        """Index of the mode in which the gadget rests."""
        return self.design.index.modes[self.design.day.rest]

    @cached_property
    def mean_a(self) -> float:
        """Mean battery current over the day at half charge [A], without self-discharge."""
        return float(self.usual.mean_current_a[self.middle])

    def mode_a(self, mode: str) -> float:
        """Mean battery current of a mode at half charge [A]."""
        m = self.design.index.modes[mode]
        return float(self.usual.mode_current_a[m, self.middle])

    def charge_share(self, mode: str, seconds_a_day: float) -> float:
        """Share of the day's charge that so many seconds of a mode take, 0..1."""
        return self.mode_a(mode) * seconds_a_day / SECONDS_PER_DAY / self.mean_a if self.mean_a > 0 else 0.0

    def day_share(self, part: int) -> float:
        """A part's share of the charge drawn over the day, 0..1."""
        return float(self.part_battery_a[part] @ self.usual.shares) / self.mean_a if self.mean_a > 0 else 0.0

    @property
    def wakes_a_day(self) -> list[float]:
        """How often each wake comes, on average over the year."""
        return self.usual.year.wakes_a_day

    @cached_property
    def part_mode_a(self) -> Array:
        """Mean current of each part (all copies) on its rail in each mode [A], shape (parts, modes)."""
        return self._by_part(battery_side=False)

    @cached_property
    def part_battery_a(self) -> Array:
        """What each part costs the battery in each mode [A], shape (parts, modes), by the marginal current."""
        return self._by_part(battery_side=True)

    def _by_part(self, *, battery_side: bool) -> Array:
        state, k = self.usual, self.middle
        amps = state.parts_a(k)
        if battery_side:
            amps = amps * state.marginal_input[state.rail_of, :, k]
        return np.asarray(amps @ state.in_mode.T)

    @cached_property
    def rest_a(self) -> float:
        """Mean battery current while the gadget rests, at half charge [A]."""
        return float(self.usual.mode_current_a[self.rest, self.middle])

    @cached_property
    def rest_name(self) -> str:
        return self.design.modes[self.rest].name.lower()

    @cached_property
    def sleeps(self) -> bool:
        """Whether the gadget sleeps while it rests. Of an always-on gadget the resting mode is the working mode: told by
        the maker, or judged: no other mode takes much more (plugged in and switched off ones aside), or a light, a motor
        or a sound is what draws then."""
        design, state = self.design, self.usual
        if design.day.rest_works is not None:
            return not design.day.rest_works
        if design.modes[self.rest].switched_off:
            return True
        others = [
            float(state.mode_current_a[m, self.middle])
            for m, mode in enumerate(design.modes)
            if m != self.rest and not mode.switched_off and not mode.plugged
        ]
        if not others or self.rest_a > WORKS_LIKE * max(others):
            return False
        at_work = {u.part for u in design.modes[self.rest].uses if not _is_calmest(design.part(u.part), u.state)}
        shown = sum(
            float(self.part_battery_a[p, self.rest])
            for p, part in enumerate(design.parts)
            if part.kind in ("light", "motor", "sound") and part.id in at_work
        )
        return shown < WORKS_LIKE * self.rest_a or self.rest_a <= 0

    def at_rest_a(self, part: int) -> float:
        """What a part costs the battery while the gadget rests [A]."""
        return float(self.part_battery_a[part, self.rest])

    def own_at_rest_a(self, stage: int) -> float:
        """What a stage (its position in the tree) takes for itself while the gadget rests, at the battery [A]."""
        state = self.usual
        rows = [(i, x.share) for i, x in enumerate(state.operating_points) if x.mode == self.rest]
        return sum(share * float(state.attribution.stage[stage, i, self.middle]) for i, share in rows)

    def position(self, stage: int) -> int:
        """Where a stage of the tree stands in the document."""
        return self.design.index.stages[self.usual.tree.stages[stage].id]

    def most_a(self, part: int) -> float:
        """The most that all copies of a part draw in any state that a mode gives them, at the voltage that their rail has
        with a source [A]: also where it has none now."""
        item, volts = self.design.parts[part], float(self.highest_rail_v[self.usual.rail_of[part]])
        given = (x.states[part] for x in self.usual.operating_points)
        states = {s.name: s for s in given if s is not None}
        return max((part_current(s, volts, "max") for s in states.values()), default=0.0) * item.quantity

    def shelf_s(self, mode: int | None) -> float:
        """How long a full battery lasts switched off [s]: in a mode, or (None) cut off altogether. Never longer than
        the cell itself keeps."""
        pack = self.usual.pack
        empty = pack.capacity_ah * 3600 / pack.self_discharge_a if mode is None else self.usual.nonstop_s[mode]
        return min(empty, self.usual.shelf_seconds)

    @property
    def droops(self) -> list[Droop]:
        return self._electric.droops

    @property
    def cold_droops(self) -> list[Droop]:
        """The same at the coldest temperature of the brief; none where that is the usual one."""
        return self._electric.cold_droops

    @property
    def works(self) -> np.ndarray:
        """Where each operating point still works, as `Run.works`, at the usual temperature."""
        return self.usual.works

    @property
    def peak_a(self) -> tuple[float, int]:
        """(most battery current while it works [A], index of its operating point) at the usual temperature."""
        return self.usual.peak_a

    @cached_property
    def highest_battery_v(self) -> float:
        """The most that is ever where the battery is [V]: cells fresh from their pack or full, without load; while it is plugged in what the
        charger holds or its power path passes on."""
        state, charger, battery = self.usual, self.design.charger, self.design.battery
        fresh = CHEMISTRIES[battery.cell.chemistry].fresh_v if battery.cell.bank is None else None
        top = max(float(state.pack.open_circuit_v[0]), (fresh or 0.0) * battery.series)
        return max(top, charger.gadget_v) if charger is not None else top

    @cached_property
    def highest_rail_v(self) -> Array:
        """The highest voltage of each rail [V], (rails,): without load, every source plugged in."""
        return nominal_rail_v(self.usual.tree, self.highest_battery_v)

    def highest_v(self, feed: str) -> float:
        """The highest voltage that a source, the battery or a stage gives, by its id [V], as `highest_rail_v`."""
        tree = self.usual.tree
        volts = nominal_node_v(tree, self.highest_battery_v)
        if feed in tree.stage_index:
            return volts[tree.first_stage + tree.stage_index[feed]]
        return volts[next((i + 1 for i, s in enumerate(tree.sources) if s.id == feed), 0)]

    @cached_property
    def highest_input_v(self) -> list[float]:
        """The highest voltage at the input of each stage of the tree [V], as `highest_rail_v`."""
        return nominal_input_v(self.usual.tree, self.highest_battery_v)

    @cached_property
    def charge_extremes(self) -> tuple[Charge, Charge] | None:
        """The charge at the usual temperature with the least resistance to expect of the pack, and with the most; None where it does not matter."""
        design, charger, warm = self.design, self.design.charger, self.warmth
        if charger is None or charger.method != "cc-cv" or warm.meanwhile is None or warm.charging_usual_shell is None:
            return None
        least, most = (
            charge(charger, design.battery, warm.charging_usual_shell, warm.meanwhile, resistance_factor=factor)
            for factor in resistance_span(design.battery, warm.meanwhile.ambient_c)
        )
        return least, most

    @cached_property
    def warmth(self) -> Warmth:
        """How warm the case gets, in use and while it charges."""
        return find_warmth(self.usual, self.charge_mode, self.fit)

    @cached_property
    def hot_things(self) -> list[Hot]:
        """In each mode, and while it charges, the air inside and what comes nearest to its own limit."""
        return hot_things(self.usual, self.warmth, charging_range_c(self.design)[1])

    @cached_property
    def nearest_limit(self) -> Hot:
        """What comes nearest to its own limit of heat."""
        return max(self.hot_things, key=lambda h: h.order)

    def warmest_days(self, mode: int) -> str:
        """The days on which a mode warms the case most; empty where all days are alike."""
        kinds = self.usual.year.kinds
        return kinds[int(self.warmth.kind[mode])].name if len(kinds) > 1 else ""

    @cached_property
    def charge_mode(self) -> int:
        """Index of the mode in which the gadget charges."""
        charger = self.design.charger
        wanted = charger.mode if charger else None
        return self.design.index.modes.get(wanted or "", self.rest)

    @cached_property
    def solar(self) -> SolarDay | None:
        """A usual day of a solar gadget in the month that has to be enough; None where no panel feeds its charger, or there is no charge to speak of."""
        charger, state = self.design.charger, self.usual
        if charger is None or charger.panel is None or self.charge is None:
            return None
        volts = float(state.pack.open_circuit_v[self.middle])
        efficiency = charger.efficiency if charger.topology == "switching" else min(volts / charger.port_v, 1.0)
        used = (self.mean_a + state.pack.self_discharge_a) * volts * 24
        stored = state.pack.capacity_ah * (1 - state.ending[1]) * volts
        return SolarDay(daily_yield(charger.panel), efficiency, used, stored, stored / used if used > 0 else math.inf)

    @cached_property
    def charge(self) -> Charge | None:
        """The charge from empty at the usual temperature; None without a charger and for cells that must not have one."""
        return self.warmth.charge
