"""A reading held against what it should be: what would explain it in this design, the nearest first, and the figure that it replaces."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from ..design import CurrentDraw, LinearStage, PassStage, SwitchingStage
from ..design.patches import replace
from ..design.problems import DocumentError, Problem
from ..figures import Remedy, record
from ..load.operating_points import part_current
from ..measures.bench import TrialBench
from ..words import say
from .sheet import BringUp, BringUpStep, bring_up

Outcome = Literal["right", "high", "low", "nothing"]
MOST_CAUSES = 3
NEAR = 0.5  # a cause that explains less than half of what is too much, or more than twice, explains it badly
NOTHING = 0.02  # of what it should read
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
class _Fault:
    """What may be wrong, and the reading that it would give."""

    text: str
    reading: float
    likely: float = 1.0


def judge_reading(
    bench: TrialBench, key: str, value: float, *, sheet: BringUp | None = None, doubt: bool = True
) -> JudgedReading:
    """A reading of one step of the sheet, in the step's unit. Raises DocumentError where there is no such step, or (with `doubt`) the reading can hardly
    be in its unit. `sheet`: the one of this gadget, if it is there already."""
    step = next((s for s in (sheet or bring_up(bench)).steps if s.key == key and s.unit), None)
    if step is None:
        raise DocumentError([Problem(path="", message=say("bringup.no-step"))])
    if doubt:
        _asked_back(step, value)
    outcome = _outcome(step, value)
    causes = [] if outcome == "right" else _causes(bench, step, value, outcome)
    remedy = _taken(bench, step, value) if outcome != "nothing" else None
    hours = None if remedy is None else bench.after(remedy.patch).seconds * bench.typical_to_said / 3600
    return JudgedReading(
        key=key,
        outcome=outcome,
        sentence=_sentence(step, value, outcome),
        causes=causes,
        remedy=remedy,
        runtime_h=hours,
    )


def _asked_back(step: BringUpStep, value: float) -> None:
    expected = step.expected or step.high
    if step.unit == "A" and expected and value > WRONG_UNIT * expected:
        message = say("bringup.unit", read=(value, step.unit), expected=(expected, step.unit))
        raise DocumentError([Problem(path="", message=message)])


def _outcome(step: BringUpStep, value: float) -> Outcome:
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
    limit = step.high if outcome == "high" else step.low
    off = abs(value - (step.expected if step.expected is not None else limit or 0.0))
    return say(f"bringup.{outcome}", read=(value, step.unit), limit=(limit, step.unit), off=(off, step.unit))


def _causes(bench: TrialBench, step: BringUpStep, value: float, outcome: Outcome) -> list[Cause]:
    if outcome == "nothing":
        return [Cause(text=t, figure=None) for t in _open_ways(bench, step)][:MOST_CAUSES]
    if step.group in ("current", "power"):
        faults = _current_faults(bench, _mode_of(bench, step))
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
    return [Cause(text=f.text, figure=f.reading) for f in near[:MOST_CAUSES]]


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
    if step.group == "rails":
        stage = design.stage(design.supply.rails[design.index.rails[step.key.removeprefix("rail-")]].feed)
        if stage is not None:
            told.insert(0, say("bringup.open-stage", stage=stage.name))
    return told


def _taken(bench: TrialBench, step: BringUpStep, value: float) -> Remedy | None:
    """The reading in place of its figure: of a mode's current, that of the part that draws most of it."""
    if step.group != "current" or not step.expected:
        return None
    design, state, k = bench.design, bench.usual, bench.middle
    mode = _mode_of(bench, step)
    if design.modes[mode].switched_off or value <= 0:
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
    if not isinstance(own_state.draw, CurrentDraw):
        return None
    rail = state.rail_of[p]
    marginal = sum(x.share * float(state.marginal_input[rail, i, k]) for i, x in rows)
    amps = own_state.draw.current_a.typical + (value - step.expected) / max(marginal * design.parts[p].quantity, 1e-9)
    if amps <= 0:
        return None
    at = f"/parts/{p}/states/{s}"
    patch = [
        replace(f"{at}/draw/current_a", {"typical": amps, "min": None, "max": None}),
        replace(f"{at}/provenance", "measured"),
    ]
    label = say(
        "bringup.take",
        part=design.parts[p].name,
        state=name,
        amps=(amps, "A"),
        was=(own_state.draw.current_a.typical, "A"),
    )
    return Remedy(label=label, patch=patch)
