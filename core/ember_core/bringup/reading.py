"""A reading held against what it should be: what would explain it in this design, the nearest first, and the figure that it replaces."""

from __future__ import annotations

from dataclasses import dataclass
from dataclasses import replace as replaced
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from ..design import CurrentDraw, LinearStage, PassStage, PowerDraw, SwitchingStage
from ..design.patches import add, apply_patch, replace
from ..design.problems import DocumentError, Problem
from ..figures import Remedy, record
from ..load.operating_points import part_current
from ..measures.bench import TrialBench
from ..solved.droop import Droop, find_droops
from ..words import say
from .sheet import METER, BringUp, BringUpStep, bring_up, dips, fall_v, half_charge

Outcome = Literal["right", "high", "low", "nothing", "reversed"]
MOST_CAUSES = 3
NEAR = 0.5  # a cause that explains less than half of what is too much, or more than twice, explains it badly
NOTHING = 0.02  # of what it should read
TAKEN: tuple[Outcome, ...] = (
    "right",
    "high",
    "low",
)  # what a reading may replace a figure with; the others tell of a fault
REVERSED_V = -0.1  # a reading below that has its sign from something that is turned round
WRONG_UNIT = 300.0  # times: a reading so far off is asked about
MAIN = 0.5  # of a mode's current: the part that draws so much of it is the one whose figure a reading replaces


@record
class Cause:
    text: str
    figure: Annotated[float | None, Field(description="what it would make the reading")]


@record
class JudgedReading:
    key: str
    outcome: Outcome
    sentence: str
    causes: list[Cause]
    remedy: Annotated[Remedy | None, Field(description="puts the reading into the design in place of its figure")]
    runtime_h: Annotated[float | None, Field(description="the runtime that this gives [h]")]


@dataclass(frozen=True)
class Read:
    """What was read at one step of the sheet, in the step's unit; how far it may be off, as a share; when, on what and with what it was read."""

    key: str
    value: float
    accuracy: float = METER
    source: str = ""


@record
class TakenReadings:
    """Readings put into the design one after the other, as one change."""

    remedy: Remedy
    taken: list[str]
    runtime_h: float


@dataclass(frozen=True)
class _Fault:
    """What may be wrong, and the reading that it would give."""

    text: str
    reading: float
    likely: float = 1.0


def judge_reading(bench: TrialBench, read: Read, *, sheet: BringUp | None = None, doubt: bool = True) -> JudgedReading:
    """A reading of one step of the sheet. Raises DocumentError where there is no such step, or (with `doubt`) the reading can hardly
    be in its unit. `sheet`: the one of this gadget, if it is there already.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> mode = design.modes[-1].id
    >>> step = next(s for s in bring_up(bench).steps if s.key == f"mode-{mode}")
    >>> [judge_reading(bench, Read(step.key, step.expected * times)).outcome for times in (0.001, 1.0, 20.0)]
    ['nothing', 'right', 'high']
    """
    key, value = read.key, read.value
    step = _step(sheet or bring_up(bench), key)
    if step is None:
        raise DocumentError([Problem(path="", message=say("bringup.no-step"))])
    if doubt:
        _asked_back(step, value)
    outcome = _outcome(step, value)
    causes = [] if outcome == "right" else _causes(bench, step, value, outcome)
    remedy = _taken(bench, step, read) if outcome in TAKEN else None
    hours = None if remedy is None else _with(bench, remedy).runtime_s / 3600
    return JudgedReading(
        key=key,
        outcome=outcome,
        sentence=_sentence(step, value, outcome),
        causes=causes,
        remedy=remedy,
        runtime_h=hours,
    )


def take_readings(bench: TrialBench, reads: list[Read], *, sheet: BringUp | None = None) -> TakenReadings | None:
    """What was read, in place of the figures that it replaces; each after the one before, so that together they read as they were
    read. None where fewer than two replace one.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> take_readings(bench, []) is None
    True
    """
    now = bench
    patch, names, seen = [], [], set()
    for own in (sheet or bring_up(bench)).steps:
        read = next((r for r in reads if r.key == own.key and _outcome(own, r.value) in TAKEN), None)
        remedy = None if read is None else _taken(now, _as_now(own, now), read)
        if remedy is not None and remedy.patch[0].path not in seen:  # the mode that takes less says what a state draws
            seen.add(remedy.patch[0].path)
            patch += remedy.patch
            names.append(own.title)
            now = _with(now, remedy)
    if len(names) < 2:
        return None
    label = say("bringup.take-all", count=(len(names), ""))
    return TakenReadings(remedy=Remedy(label=label, patch=patch), taken=names, runtime_h=now.runtime_s / 3600)


def _with(bench: TrialBench, remedy: Remedy) -> TrialBench:
    return bench.of(apply_patch(bench.design, remedy.patch))


def _as_now(step: BringUpStep, bench: TrialBench) -> BringUpStep:
    """The step of a mode as it is to be expected of a gadget that changed."""
    if step.group != "current":
        return step
    return replaced(step, expected=float(bench.usual.mode_current_a[_mode_of(bench, step), bench.middle]))


def _step(sheet: BringUp, key: str) -> BringUpStep | None:
    return next((s for s in sheet.steps if s.key == key and s.unit), None)


def _asked_back(step: BringUpStep, value: float) -> None:
    expected = step.expected or step.high
    if step.unit == "A" and expected and value > WRONG_UNIT * expected:
        message = say("bringup.unit", read=(value, step.unit), expected=(expected, step.unit))
        raise DocumentError([Problem(path="", message=message)])


def _outcome(step: BringUpStep, value: float) -> Outcome:
    if step.unit == "V" and value < REVERSED_V:
        return "reversed"
    if step.unit in ("A", "V") and step.expected and value < NOTHING * step.expected and (step.low or 0) > value:
        return "nothing"
    if step.high is not None and value > step.high:
        return "high"
    return "low" if step.low is not None and value < step.low else "right"


def _sentence(step: BringUpStep, value: float, outcome: Outcome) -> str:
    if outcome == "right":
        return say("bringup.right", read=(value, step.unit))
    if outcome == "nothing":
        return say("bringup.nothing", expected=(step.expected, step.unit))
    if outcome == "reversed":
        return say("bringup.reversed", read=(value, step.unit))
    limit = step.high if outcome == "high" else step.low
    off = abs(value - (step.expected if step.expected is not None else limit or 0.0))
    return say(f"bringup.{outcome}", read=(value, step.unit), limit=(limit, step.unit), off=(off, step.unit))


def _causes(bench: TrialBench, step: BringUpStep, value: float, outcome: Outcome) -> list[Cause]:
    if outcome == "reversed":
        keys = ("reversed-cell",) if step.group == "cell" else ("reversed-part",)
        return [Cause(text=say(f"bringup.{k}"), figure=None) for k in ("reversed-probes", *keys)]
    if outcome == "nothing" and step.group == "signals":
        return [Cause(text=say(f"bringup.{k}"), figure=None) for k in ("line-low", "line-open")]
    if outcome == "nothing":
        return [Cause(text=t, figure=None) for t in _open_ways(bench, step)][:MOST_CAUSES]
    if step.group in ("current", "power"):
        faults = _current_faults(bench, _mode_of(bench, step))
    elif (droop := dips(bench).get(step.key)) is not None:
        faults = _dip_faults(bench, droop)
    elif step.group == "rails":
        faults = _rail_faults(bench, step)
    else:
        key = f"bringup.{step.group}-{outcome}"
        return [Cause(text=say(key), figure=None)]
    expected = step.expected or 0.0
    off = value - expected
    if step.group == "current":  # what is not in the direction of the reading explains nothing
        faults = [f for f in faults if (f.reading - expected) * off > 0]
    ranked = sorted(faults, key=lambda f: abs(f.reading - value) / f.likely)
    near = [f for f in ranked if step.group == "rails" or NEAR <= (f.reading - expected) / off <= 1 / NEAR] or ranked[
        :1
    ]
    first = [Cause(text=say(f"bringup.power-{outcome}"), figure=None)] if step.group == "power" else []
    return (first + [Cause(text=f.text, figure=f.reading) for f in near])[:MOST_CAUSES]


def _mode_of(bench: TrialBench, step: BringUpStep) -> int:
    return bench.rest if step.key == "first-power" else bench.design.index.modes[step.key.removeprefix("mode-")]


def _current_faults(bench: TrialBench, mode: int) -> list[_Fault]:
    """Every part in another of its states, every part that draws nothing, every other mode: with the mode's current then."""
    design, state, k = bench.design, bench.usual, bench.middle
    now = float(state.mode_current_a[mode, k])
    rows = [(i, x) for i, x in enumerate(state.operating_points) if x.mode == mode]
    found = [
        _Fault(say("bringup.other-mode", mode=m.name), float(state.mode_current_a[j, k]), 0.9)
        for j, m in enumerate(design.modes)
        if j != mode
    ]
    for p, part in enumerate(design.parts):
        rail = state.rail_of[p]
        own = float(bench.part_battery_a[p, mode])
        marginal = sum(x.share * float(state.marginal_input[rail, i, k]) for i, x in rows)
        volts = float(np.mean([state.typical.rail_v[rail, i, k] for i, _ in rows]))
        if own > 0:
            found.append(_Fault(say("bringup.draws-nothing", part=part.name), now - own))
        for other in part.states:
            amps = part_current(other, volts) * part.quantity * marginal
            if abs(amps - own) > 1e-9:
                text = say("bringup.other-state", part=part.name, state=other.name, amps=(amps, "A"))
                found.append(_Fault(text, now + amps - own))
    for s, stage in enumerate(state.tree.stages):
        if stage.id in design.modes[mode].off_stages:
            on = getattr(stage, "quiescent_a", 0.0)
            found.append(_Fault(say("bringup.stays-on", stage=stage.name), now + on))
        elif (quiet := bench.own_at_rest_a(s)) > 0 and mode == bench.rest:
            found.append(_Fault(say("bringup.worse-stage", stage=stage.name), now + 9 * quiet, 0.7))
    return found


def _rail_faults(bench: TrialBench, step: BringUpStep) -> list[_Fault]:
    """What would put another voltage on a rail: its regulator passing its input on, another one of the catalogue, a drop on the way."""
    design, state, k = bench.design, bench.usual, bench.middle
    r = design.index.rails[step.key.removeprefix("rail-")]
    expected = step.expected or 0.0
    stage = design.stage(design.supply.rails[r].feed)
    found = [_Fault(say("bringup.rail-drop"), expected * 0.85, 0.8)]
    if isinstance(stage, LinearStage | SwitchingStage):
        index = state.tree.stage_index[stage.id]
        into = float(np.median(np.array(state.typical.stage_input_v[index])[:, k]))
        found.append(_Fault(say("bringup.passes-on", stage=stage.name, volts=(into, "V")), into))
        outputs = {s.output_v for s in bench.catalogue.stages if isinstance(s, LinearStage | SwitchingStage)}
        found += [
            _Fault(say("bringup.wrong-regulator", stage=stage.name, volts=(v, "V")), v, 0.95)
            for v in outputs
            if abs(v / stage.output_v - 1) > 0.03
        ]
    else:
        source = float(state.pack.open_circuit_v[0])
        found.append(_Fault(say("bringup.cell-fuller", volts=(source, "V")), source))
    return found


def _open_ways(bench: TrialBench, step: BringUpStep) -> list[str]:
    """What on the way from the cell may be open, the nearest to it first."""
    design = bench.design
    told = [say("bringup.open-cell")]
    if design.battery.protection is not None:
        told.append(say("bringup.open-protection"))
    told += [say("bringup.open-stage", stage=s.name) for s in design.supply.stages if isinstance(s, PassStage)]
    if step.key.startswith("rail-"):
        stage = design.stage(design.supply.rails[design.index.rails[step.key.removeprefix("rail-")]].feed)
        if stage is not None:
            told.insert(0, say("bringup.open-stage", stage=stage.name))
    return told


def _dip_faults(bench: TrialBench, droop: Droop) -> list[_Fault]:
    """What would let a rail fall further under a peak."""
    without = bench.after([replace(f"/supply/rails/{droop.source}/capacitor", None)])
    same = next(d for d in find_droops(without, half_charge(bench)) if (d.part, d.mode) == (droop.part, droop.mode))
    rail = bench.design.supply.rails[droop.source].name
    before, fall = droop.own_before_v, fall_v(droop)
    return [
        _Fault(say("bringup.no-capacitor", rail=rail), same.own_lowest_v),
        _Fault(say("bringup.tired-capacitor", rail=rail), before - 2 * fall, 0.9),
        _Fault(say("bringup.rail-drop"), before - 1.5 * fall, 0.8),
    ]


def _taken(bench: TrialBench, step: BringUpStep, read: Read) -> Remedy | None:
    """The reading in place of its figure: of a mode's current, that of the part that draws most of it."""
    if step.group != "current" or not step.expected:
        return None
    design, state, k = bench.design, bench.usual, bench.middle
    mode = _mode_of(bench, step)
    if design.modes[mode].switched_off or read.value <= 0:
        return None
    own = bench.part_battery_a[:, mode]
    if not own.size:
        return None
    p = int(np.argmax(own))
    if own[p] < MAIN * step.expected:
        return None
    rows = [(i, x) for i, x in enumerate(state.operating_points) if x.mode == mode]
    names = {x.states[p].name for _, x in rows if x.states[p] is not None}  # type: ignore[union-attr]
    if len(names) != 1:
        return None
    name = names.pop()
    s, own_state = next((i, x) for i, x in enumerate(design.parts[p].states) if x.name == name)
    if not isinstance(own_state.draw, CurrentDraw | PowerDraw):
        return None
    rail = state.rail_of[p]
    marginal = sum(x.share * float(state.marginal_input[rail, i, k]) for i, x in rows)
    through = max(marginal * design.parts[p].quantity, 1e-9)  # of the battery's current for each ampere of the part's
    volts = float(np.mean([state.typical.rail_v[rail, i, k] for i, _ in rows]))
    was = part_current(own_state, volts)
    amps, off = was + (read.value - step.expected) / through, read.accuracy * read.value / through
    if amps <= 0 or was <= 0:
        return None
    key, typical = (
        ("current_a", own_state.draw.current_a.typical)
        if isinstance(own_state.draw, CurrentDraw)
        else ("power_w", own_state.draw.power_w.typical)
    )
    each = typical / was
    span = {"typical": amps * each, "min": max(amps - off, 0.0) * each, "max": (amps + off) * each}
    at = f"/parts/{p}/states/{s}"
    patch = [
        replace(f"{at}/draw/{key}", span),
        replace(f"{at}/provenance", "measured"),
        add(f"{at}/source", read.source[:200]),
    ]
    label = say(
        "bringup.take",
        part=design.parts[p].name,
        state=name,
        amps=(amps, "A"),
        was=(was, "A"),
    )
    return Remedy(label=label, patch=patch)
