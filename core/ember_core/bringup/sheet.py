"""The bring-up sheet: steps in the order in which they are safe, each with where to touch, what to set, and what it should read.

Currents come from the samples of the runtime's estimate, solved at half charge; their range is the 10th to the 90th percentile, wider by what a
meter of a hobby bench is off. A rail's window is from its lowest in the worst moment to its highest without load.
"""

from __future__ import annotations

import csv
import io
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from ..battery.chemistry import CHEMISTRIES, full_v
from ..battery.pack import on_grid
from ..charging.charge import CURRENT_SPREAD
from ..figures import record
from ..imports.csv_cells import disarmed
from ..measures.bench import TrialBench
from ..numeric import Array
from ..quantities import show
from ..solved.droop import Droop, find_droops
from ..supply.solver import solve
from ..words import say
from .small_parts import shortened

Group = Literal["look", "ohms", "power", "cell", "rails", "signals", "current", "charge", "wake"]
GROUPS: tuple[Group, ...] = ("look", "ohms", "power", "cell", "rails", "signals", "current", "charge", "wake")
METER = 0.03  # of a reading: what a hand-held meter is off
METER_V = 0.01
HIGH_SHARE = 0.7  # of the supply: what a chip is sure to read as a one on the usual two-wire bus
LEAST_DIP_V = 0.05  # under a peak, to be worth looking at
DEEPER = 1.4  # times the dip: what a capacitor at the end of its tolerance and a tired cell make of it; a rule of thumb
UNUSED = 1.3  # range of a mode that the day never brings, as a factor
SHORT_SHARE = 0.2  # of what a rail's peak load would be as a resistance: less is a short
LEAST_OHM, MOST_OHM = 2.0, 1e3
FIRST_LIMIT = 2.0  # times the most that it may take at rest
LEAST_LIMIT_A = 0.01
MOST_OF_PEAK = 1.2  # of the highest peak, what a supply may give at most
LEAST_SEEN_A = 1e-6  # a meter of a hobby bench shows no less
RANGES_A = (200e-6, 2e-3, 20e-3, 200e-3, 10.0)  # of a usual hand-held meter, with what it drops there at full scale [V]
BURDEN_V = (0.2, 0.2, 0.2, 0.2, 0.3)
DROOP_SHARE = 0.5  # of what is left until the gadget resets, that a meter may take
WARM_S = 600.0  # after so long into a charge it is felt
WARMER_K = 10.0  # than it is told to be after that long: something is wrong; a rule of thumb


@record
class BringUpStep:
    """One step. Without a `unit` it is looked at and ticked off. `low` to `high` is what it should read."""

    key: str
    group: Group
    title: str
    how: Annotated[str, Field(description="where to touch, what to set")]
    unit: str
    low: float | None
    expected: float | None
    high: float | None
    meter: Annotated[str, Field(description="the range to use, and whether its burden would reset the gadget")]
    caution: str


@record
class BringUp:
    steps: list[BringUpStep]
    next: Annotated[str, Field(description="the step that narrows the runtime most; empty where none does")]


def bring_up(bench: TrialBench) -> BringUp:
    """What to measure first, second, third, and what it should read.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> list(dict.fromkeys(step.group for step in bring_up(bench).steps))[:4]
    ['look', 'ohms', 'power', 'cell']
    """
    steps = [
        *_look(bench),
        *_ohms(bench),
        *_power(bench),
        *_cell(bench),
        *_rails(bench),
        *_dips(bench),
        *_signals(bench),
        *_currents(bench),
        *_charge(bench),
        *_wakes(bench),
    ]
    return BringUp(steps=steps, next=_next(bench, {s.key for s in steps}))


def _step(key: str, group: Group, title: str, how: str, unit: str = "", *, low: float | None = None, expected: float | None = None,
          high: float | None = None, meter: str = "", caution: str = "") -> BringUpStep:  # fmt: skip
    return BringUpStep(
        key=key, group=group, title=title, how=how, unit=unit, low=low, expected=expected, high=high, meter=meter, caution=caution
    )  # fmt: skip


def _look(bench: TrialBench) -> list[BringUpStep]:
    lithium = bench.design.battery.cell.chemistry.startswith("lithium")
    caution = say("bringup.caution-lithium" if lithium else "bringup.caution-cells")
    return [
        _step("look", "look", say("bringup.look"), say("bringup.look-how"), caution=caution),
        _step("polarity", "look", say("bringup.polarity"), say("bringup.polarity-how")),
    ]


def _ohms(bench: TrialBench) -> list[BringUpStep]:
    """Each rail against ground, nothing connected: less than a fifth of what its peak load would be is a short."""
    design, state = bench.design, bench.usual
    steps = []
    for r, rail in enumerate(design.supply.rails):
        volts = float(bench.highest_rail_v[r])
        peak = float(np.max(state.worst.rail_a[r], where=~state.worst.collapsed, initial=0.0))
        least = float(np.clip(SHORT_SHARE * volts / peak if peak > 0 else MOST_OHM, LEAST_OHM, MOST_OHM))
        steps.append(
            _step(f"ohm-{rail.id}", "ohms", say("bringup.ohm", rail=rail.name), say("bringup.ohm-how"), "Ω", low=least)
        )
    return steps


def _power(bench: TrialBench) -> list[BringUpStep]:
    volts = float(bench.usual.pack.open_circuit_v[bench.middle])
    _, rest, most = mode_currents(bench)[bench.rest]
    limit = nice_up(max(FIRST_LIMIT * most, LEAST_LIMIT_A))
    how = say(
        "bringup.first-how",
        volts=(volts, "V"),
        limit=(limit, "A"),
        rest=bench.design.modes[bench.rest].name,
        amps=(rest, "A"),
    )
    return [
        _step(
            "first-power",
            "power",
            say("bringup.first"),
            how,
            "A",
            low=0.0,
            expected=rest,
            high=limit,
            meter=_meter(bench, bench.rest, limit),
        )
    ]


@record
class SupplyLimits:
    """What a bench supply in the battery's place may give this gadget: from its cut-off to full [V], at most so much [A]."""

    low_v: float
    usual_v: float
    high_v: float
    most_a: float


def supply_limits(bench: TrialBench) -> SupplyLimits:
    """What a bench supply may be set to for this gadget.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> limits = supply_limits(bench)
    >>> round(limits.low_v, 2), round(limits.high_v, 2)
    (3.0, 4.2)
    """
    pack = bench.usual.pack
    peak = bench.peak_a[0]
    return SupplyLimits(
        low_v=pack.cutoff_v,
        usual_v=float(pack.open_circuit_v[bench.middle]),
        high_v=float(pack.open_circuit_v[0]),
        most_a=float(f"{max(MOST_OF_PEAK * peak, LEAST_LIMIT_A):.3g}"),
    )


def nice_up(value: float) -> float:
    """The next of 1, 2 and 5 times a power of ten.

    >>> [nice_up(x) for x in (0.0123, 0.2, 0.21)]
    [0.02, 0.2, 0.5]
    """
    power = 10 ** np.floor(np.log10(value))
    return float(next(m * power for m in (1, 2, 5, 10) if m * power >= value * (1 - 1e-9)))


def _cell(bench: TrialBench) -> list[BringUpStep]:
    battery, pack = bench.design.battery, bench.usual.pack
    data = CHEMISTRIES[battery.cell.chemistry]
    top = max(
        float(pack.open_circuit_v[0]), (data.fresh_v or 0.0) * battery.series if battery.cell.bank is None else 0.0
    )
    full = (full_v(battery.cell) or 0.0) * battery.series
    peak, row = bench.peak_a
    loaded = float(bench.usual.worst.terminal_v[row, 0]) if peak > 0 else top
    half = float(pack.open_circuit_v[bench.middle])
    most = max(top, full) + METER_V
    return [
        _step("cell-open", "cell", say("bringup.cell-open"), say("bringup.cell-open-how"), "V",
              low=half - METER_V, expected=float(pack.open_circuit_v[0]), high=most, caution=say("bringup.cell-caution")),
        _step("cell-loaded", "cell", say("bringup.cell-loaded"), say("bringup.cell-loaded-how", amps=(peak, "A")), "V",
              low=pack.cutoff_v, expected=loaded, high=most),
    ]  # fmt: skip


def _rails(bench: TrialBench) -> list[BringUpStep]:
    state, k = bench.usual, bench.middle
    steps = []
    for r, rail in enumerate(bench.design.supply.rails):
        powered = bench.rail_powered[r][state.loads.mode]
        if not powered.any():
            continue
        volts = state.typical.rail_v[r, :, k][powered]
        worst = np.array(state.worst.rail_v[r])[powered][:, : k + 1]
        low = float(np.min(worst, where=~state.worst.collapsed[powered][:, : k + 1], initial=float(volts.min())))
        steps.append(
            _step(f"rail-{rail.id}", "rails", say("bringup.rail", rail=rail.name), say("bringup.rail-how"), "V",
                  low=low - METER_V, expected=float(np.median(volts)), high=float(max(bench.highest_rail_v[r], volts.max())) + METER_V)
        )  # fmt: skip
    return steps


def half_charge(bench: TrialBench) -> float:
    """The state of charge nearest to half at which figures are read off, 0..1.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> round(half_charge(bench), 2)
    0.5
    """
    return float(bench.usual.pack.charge[bench.middle])


def dips(bench: TrialBench) -> dict[str, Droop]:
    """The deepest dip under a peak of each rail at half charge, by its step; those that can be seen.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> all(key.startswith("dip") for key in dips(bench))
    True
    """
    found: dict[str, Droop] = {}
    for droop in find_droops(bench.usual, half_charge(bench)):
        key, fall = f"dip-{bench.design.supply.rails[droop.source].id}", fall_v(droop)
        if droop.own_lowest_v > 0 and fall >= LEAST_DIP_V and (key not in found or fall > fall_v(found[key])):
            found[key] = droop
    return found


def fall_v(droop: Droop) -> float:
    """By how much the rail that a droop begins on falls [V].

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> [fall_v(droop) >= 0 for droop in TrialBench(design, built_in()).droops]
    [True]
    """
    return droop.own_before_v - droop.own_lowest_v


def _dips(bench: TrialBench) -> list[BringUpStep]:
    steps = []
    for key, droop in dips(bench).items():
        names = {"part": bench.design.parts[droop.part].name, "mode": bench.design.modes[droop.mode].name}
        low = droop.own_before_v - DEEPER * fall_v(droop) - METER_V
        rail = bench.design.supply.rails[droop.source].name
        steps.append(
            _step(key, "rails", say("bringup.dip", rail=rail), say("bringup.dip-how", seconds=(droop.seconds, "s"), **names), "V",
                  low=max(low, 0.0), expected=droop.own_lowest_v, high=droop.own_before_v + METER_V, meter=say("bringup.dip-meter"))
        )  # fmt: skip
    return steps


def _signals(bench: TrialBench) -> list[BringUpStep]:
    """Each line that a resistor pulls up, at rest: what is missing or holds it down is seen before the firmware fails."""
    design, state, k = bench.design, bench.usual, bench.middle
    lines: dict[str, tuple[int, float | None, list[str]]] = {}
    for p, part in enumerate(design.parts):
        for n, need in enumerate(part.needs):
            if need.work == "i2c" or need.pulled:
                bus = need.work == "i2c" and not need.alone
                key = f"line-i2c-{part.rail}" if bus else f"line-{part.id}-{n}"
                named = part.name if need.work == "i2c" else f"{part.name}: {need.name}"
                lines.setdefault(key, (p, need.level_v, []))[2].append(named)
    steps = []
    for key, (p, level, names) in lines.items():
        r = state.rail_of[p]
        powered = bench.rail_powered[r][state.loads.mode]
        if not powered.any():
            continue
        volts = state.typical.rail_v[r, :, k][powered]
        top = float(max(bench.highest_rail_v[r], volts.max())) if level is None else level
        usual = float(np.median(volts)) if level is None else level
        what = "bus" if key.startswith("line-i2c-") else "line"
        steps.append(
            _step(shortened(key, 80), "signals", say(f"bringup.{what}", names=", ".join(dict.fromkeys(names))), say(f"bringup.{what}-how"), "V",
                  low=HIGH_SHARE * min(usual, float(volts.min())), expected=usual, high=top + METER_V)
        )  # fmt: skip
    return steps


def mode_currents(bench: TrialBench) -> list[tuple[float, float, float]]:
    """(10th percentile, typical, 90th percentile) of the mean battery current of each mode at half charge [A].

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> low, expected, high = mode_currents(bench)[0]
    >>> low <= expected <= high
    True
    """
    state, samples = bench.usual, bench.estimate
    typical = state.mode_current_a[:, bench.middle]
    used = np.flatnonzero(state.point_weights > 0)
    count = samples.loads.mode.size // max(used.size, 1)
    drawn = _drawn(bench, used, count) if used.size else np.zeros((0, 0))
    found = []
    for m in range(len(bench.design.modes)):
        rows = [i for i, p in enumerate(used) if state.operating_points[p].mode == m]
        amps = float(typical[m])
        if not rows or amps <= 0:
            found.append((amps / UNUSED, amps, amps * UNUSED))
            continue
        shares = np.array([state.operating_points[used[i]].share for i in rows])
        low, high = np.percentile(drawn[:, rows] @ (shares / shares.sum()), [10, 90])
        found.append((min(float(low), amps) * (1 - METER), amps, max(float(high), amps) * (1 + METER)))
    return found


def _drawn(bench: TrialBench, used: np.ndarray, count: int) -> Array:
    """The battery's current in every sample of the estimate, in the operating points that the day has, (samples, points)."""
    state = bench.usual
    half = on_grid(state.pack, bench.design.battery, state.temperature_c, state.pack.charge[[bench.middle]])
    return np.asarray(solve(state.tree, bench.estimate.loads, half).source_a.reshape(count, used.size))


def _currents(bench: TrialBench) -> list[BringUpStep]:
    order = sorted(range(len(bench.design.modes)), key=lambda m: float(bench.usual.mode_current_a[m, bench.middle]))
    steps, found = [], mode_currents(bench)
    for m in order:
        mode = bench.design.modes[m]
        low, amps, high = found[m]
        high = max(high, amps + LEAST_SEEN_A)
        key = "bringup.off" if mode.switched_off else "bringup.mode"
        steps.append(
            _step(f"mode-{mode.id}", "current", say(key, mode=mode.name), say("bringup.mode-how", mode=mode.name), "A",
                  low=low, expected=amps, high=high, meter=_meter(bench, m, high))
        )  # fmt: skip
    return steps


def _meter(bench: TrialBench, mode: int, most_a: float) -> str:
    """The range for a current, and whether what the meter drops in the mode's bursts would let the gadget reset."""
    k = next((i for i, r in enumerate(RANGES_A) if most_a <= r), len(RANGES_A) - 1)
    state = bench.usual
    rows = state.loads.mode == mode
    burst = float(np.max(state.worst.source_a[rows, bench.middle], initial=0.0))
    drop = burst * BURDEN_V[k] / RANGES_A[k]
    lowest = float(np.min(state.worst.terminal_v[rows, bench.middle], initial=np.inf))
    fails = [
        state.at(f.charge, state.pack.open_circuit_v)
        for i, f in enumerate(state.failures)
        if i == mode and f.charge > 0
    ]
    spare = lowest - max([state.pack.cutoff_v, *fails])
    told = say("bringup.range", most=(RANGES_A[k], "A"), drop=(drop, "V"))
    return told + (say("bringup.burden", burst=(burst, "A")) if drop > DROOP_SHARE * max(spare, 0.0) else "")


def _charge(bench: TrialBench) -> list[BringUpStep]:
    charger, charge = bench.design.charger, bench.charge
    if charger is None or charge is None:
        return []
    into = charge.current_a - charge.load_a  # what the gadget takes from the cell meanwhile does not pass the meter
    hot = float(np.interp(WARM_S, charge.course.time_s, charge.course.inside_c))
    steps = [
        _step("charge-current", "charge", say("bringup.charge-current"), say("bringup.charge-current-how"), "A",
              low=into - CURRENT_SPREAD * charge.current_a, expected=into, high=into + CURRENT_SPREAD * charge.current_a, caution=say("bringup.charge-caution")),
        _step("charge-warm", "charge", say("bringup.charge-warm"), say("bringup.charge-warm-how"), "°C", expected=hot, high=hot + WARMER_K),
    ]  # fmt: skip
    if charger.method == "cc-cv":  # a nickel charger holds no voltage
        off = charger.float_tolerance * charger.float_v + METER_V
        steps.append(
            _step("charge-end", "charge", say("bringup.charge-end"), say("bringup.charge-end-how"), "V",
                  low=charger.float_v - off, expected=charger.float_v, high=charger.float_v + off)
        )  # fmt: skip
    return steps


def _wakes(bench: TrialBench) -> list[BringUpStep]:
    modes = {m.id: m.name for m in bench.design.modes}
    return [
        _step(f"wake-{i}", "wake", say("bringup.wake", mode=modes[w.mode]), say("bringup.wake-how", mode=modes[w.mode], every=(w.every_s, "s")))
        for i, w in enumerate(bench.design.day.wakes)
    ]  # fmt: skip


def _next(bench: TrialBench, keys: set[str]) -> str:
    """The mode whose current, once measured, narrows the runtime most: the one in which the part draws most that makes it unsure."""
    state = bench.usual
    for owner in bench.estimate.owners:
        if owner.input.kind != "draw":
            continue
        p = next(i for i, part in enumerate(bench.design.parts) if part.id == owner.input.subject)
        shares = [
            float(bench.part_battery_a[p, m] * state.shares[m]) if _in_state(bench, p, m, owner.input.state) else 0.0
            for m in range(len(bench.design.modes))
        ]
        best = int(np.argmax(shares)) if shares else -1
        key = f"mode-{bench.design.modes[best].id}" if best >= 0 and shares[best] > 0 else ""
        if key in keys:
            return key
    return ""


def _in_state(bench: TrialBench, part: int, mode: int, name: str) -> bool:
    points = (x for x in bench.usual.operating_points if x.mode == mode)
    return any((own := x.states[part]) is not None and own.name == name for x in points)


def sheet_text(sheet: BringUp) -> str:
    """The sheet as lines of text.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> sheet_text(bring_up(bench)).splitlines()[0]
    ' 1. Look at it'
    """
    lines = []
    for number, step in enumerate(sheet.steps, 1):
        lines.append(f"{number:>2}. {step.title}")
        lines.append(f"    {step.how}")
        if step.unit:
            low = (
                f"{show(step.low, step.unit)} to "
                if step.low is not None and step.high is not None
                else "at least "
                if step.low is not None
                else "at most "
            )
            end = show(step.high if step.high is not None else step.low, step.unit)
            about = f", about {show(step.expected, step.unit)}" if step.expected is not None else ""
            lines.append(f"    should read {low}{end}{about}")
        lines += [f"    {x}" for x in (step.meter, step.caution) if x]
    return "\n".join(lines)


CSV_HEAD = ("number", "group", "step", "how", "unit", "low", "expected", "high", "meter", "caution", "read")


def sheet_csv(sheet: BringUp) -> str:
    """The sheet as CSV in SI units, with an empty column for what is read.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> sheet = bring_up(bench)
    >>> len(sheet_csv(sheet).splitlines()) == len(sheet.steps) + 1
    True
    """
    target = io.StringIO()
    table = csv.writer(target, lineterminator="\n")
    table.writerow(CSV_HEAD)
    for number, step in enumerate(sheet.steps, 1):
        figures = ("" if v is None else f"{v:.6g}" for v in (step.low, step.expected, step.high))
        texts = [disarmed(t) for t in (step.title, step.how, step.meter, step.caution)]
        table.writerow([number, step.group, *texts[:2], step.unit, *figures, *texts[2:], ""])
    return target.getvalue()
