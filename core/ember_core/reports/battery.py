"""The battery in this gadget: what is rated, what is usable, the strain on it; runtime, its range, its fall."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from pydantic import Field

from ..battery.chemistry import CHEMISTRIES
from ..calculators.check import CellHistory, cell_history
from ..design import Chemistry
from ..figures import Figure, figure, record
from ..runtime.uncertainty import Uncertain
from ..solved.capacity import RUNTIME_SOURCE, ChargeStep, capacity_steps
from ..solved.gadget import SolvedGadget, once
from ..solved.wording import describe_failure
from ..words import called, say

TIMELINE_POINTS = 80


@record
class Caution:
    """What to mind, always said; `reason` is why somebody took note of it here, "" where nobody did."""

    key: str
    text: str
    reason: str


@record
class BatteryReport:
    printed: Figure
    usable: Figure
    steps: list[ChargeStep]
    full_voltage: Figure
    cutoff_voltage: Figure
    resistance: Figure
    peak_current: Figure
    cautions: list[Caution]
    history: Annotated[CellHistory | None, Field(description="how this very cell aged by its checks; null: none")]


@record
class Timeline:
    """Time since full [h] with the charge left (0..1), the terminal voltage under the mean load and in the worst
    operating point [V]; `modes` gives the time at which each used mode stops. The times are stretched from those at typical figures
    to the runtime that is said."""

    time_h: list[float]
    charge: list[float]
    mean_v: list[float]
    worst_v: list[float]
    cutoff_v: float
    modes: list[ModeStop]


@record
class ModeStop:
    mode: str
    name: str
    time_h: float
    charge: float
    sentence: str


@record
class InfluenceRow:
    """How much of the runtime's range one input causes (0..1), and the range if it were known."""

    part: str | None
    state: str | None
    name: str
    share: float
    runtime: Figure


@record
class RuntimeReport:
    total: Figure
    coldest: Figure
    typical: Figure
    goal_h: float | None
    sentence: str
    typical_sentence: str
    cold_sentence: str
    timeline: Timeline
    influences: list[InfluenceRow]


def battery_report(solved: SolvedGadget) -> BatteryReport:
    design, state = solved.design, solved.usual
    cell, pack = design.battery.cell, state.pack
    name = CHEMISTRIES[cell.chemistry].source
    steps = capacity_steps(solved)
    peak, moment = solved.peak_a
    mode = design.modes[state.operating_points[moment].mode].name
    mid = float(pack.steady_ohm[solved.middle])
    return BatteryReport(
        printed=steps[0].charge,
        usable=steps[-1].charge,
        steps=steps,
        full_voltage=figure(
            "full-at-rest",
            float(pack.open_circuit_v[0]),
            "V",
            [(called("in-series"), float(design.battery.series), "")],
            name,
        ),
        cutoff_voltage=figure(
            "cut-off", pack.cutoff_v, "V", [(called("cell"), cell.cutoff_v, "V")], "the cell's own figure"
        ),
        resistance=figure(
            "resistance-at",
            mid,
            "Ω",
            [
                (called("cell-at-25-degrees"), cell.resistance_ohm, "Ω"),
                (called("wiring"), design.battery.wiring_ohm, "Ω"),
            ],
            f"Arrhenius; {name}",
            facts={"read_at": solved.read_at},
        ),
        peak_current=figure(
            "peak-current",
            peak,
            "A",
            [
                (called("most-that-the-cell-allows"), pack.discharge_max_a, "A"),
                (called("per-capacity"), peak / pack.printed_ah, "C"),
            ],
            f"in {mode}",
        ),
        cautions=_cautions(solved),
        history=cell_history(cell),
    )


CHARGED: dict[Chemistry, str] = {
    # what is said of each kind that is charged
    "lithium-ion": "cold-charge",
    "lithium-iron-phosphate": "cold-charge",
    "lithium-titanate": "titanate",
    "lead-acid": "lead",
    "super-capacitor": "short",
    "nickel-metal-hydride": "nickel",
}


def _cautions(solved: SolvedGadget) -> list[Caution]:
    reasons = {d.caution: d.reason for d in solved.design.dismissed}
    return [Caution(key=key, text=say(f"caution.{key}"), reason=reasons.get(key, "")) for key in _said(solved)]


def _said(solved: SolvedGadget) -> list[str]:
    """The keys of the cautions that apply."""
    cell = solved.design.battery.cell
    rechargeable = CHEMISTRIES[cell.chemistry].rechargeable
    said = []
    if cell.chemistry in ("lithium-ion", "lithium-iron-phosphate", "lithium-titanate"):
        said += ["lithium", "attended"]
    if cell.form == "coin":
        said.append("swallowed")
    if not rechargeable:
        said.append("primary")
    elif cell.bank is None:
        said.append(CHARGED[cell.chemistry])
    if solved.design.battery.series > 1 and rechargeable and cell.chemistry != "lead-acid":
        said.append("series")
    if solved.design.enclosure.carried == "clothes":
        said.append("worn")
    return [*said, "rules"]


ESTIMATE = "median of the samples of what is uncertain, each through ∫ Q dz ÷ (I(z) + self-discharge)"
NEARLY = 0.02  # of the runtime: no difference worth a sentence


@once
def runtime_total(solved: SolvedGadget) -> Figure:
    """The runtime that is said: the median of the samples, with their 10th and 90th percentile."""
    state, has_parts, samples = solved.usual, bool(solved.design.parts), solved.estimate
    inputs: list[tuple[str, float | None, str]] = [
        (called("capacity-at-this-temperature"), state.pack.capacity_ah, "Ah"),
        (called("charge-left-at-the-end"), state.ending[1], "share"),
        (called("mean-battery-current"), solved.mean_a, "A"),
        (called("self-discharge"), state.pack.self_discharge_a, "A"),
        (called("temperature"), state.temperature_c, "°C"),
        (called("with-every-figure-at-its-typical-value"), state.seconds / 3600, "h"),
        (called("samples"), float(samples.seconds.size), ""),
    ]
    if state.charge_seconds > state.shelf_seconds:
        inputs.append((called("what-the-charge-would-last"), state.charge_seconds / 3600, "h"))
    return figure(
        "runtime",
        samples.median / 3600 if has_parts else None,
        "h",
        inputs,
        f"JCGM 101:2008; {RUNTIME_SOURCE}",
        low=samples.low / 3600 if has_parts else None,
        high=samples.high / 3600 if has_parts else None,
        note=say("run.range-note"),
    )


def runtime_coldest(solved: SolvedGadget) -> Figure:
    cold, samples, has_parts = solved.coldest, solved.cold_estimate, bool(solved.design.parts)
    return figure(
        "runtime-at-the-coldest",
        samples.median / 3600 if has_parts else None,
        "h",
        [
            (called("temperature"), cold.temperature_c, "°C"),
            (called("capacity-there"), cold.pack.capacity_ah, "Ah"),
            (called("charge-left-at-the-end"), cold.ending[1], "share"),
            (called("mean-battery-current"), float(cold.mean_current_a[cold.middle]), "A"),
        ],
        RUNTIME_SOURCE,
        low=samples.low / 3600 if has_parts else None,
        high=samples.high / 3600 if has_parts else None,
        note=say("run.range-in-the-cold", rough=cold.hard_in_the_cold, cold=cold_sentence(solved)),
    )


def cold_sentence(solved: SolvedGadget) -> str:
    """Why the coldest temperature would be better than the usual one, where it is."""
    if not solved.design.parts or solved.cold_estimate.median <= solved.estimate.median * (1 + NEARLY):
        return ""
    return say("run.longer-in-the-cold")


def runtime_sentence(solved: SolvedGadget) -> str:
    """What ends the run."""
    state, design = solved.usual, solved.design
    mode = state.ending[0]
    if not design.parts:
        return say("run.nothing-drawn")
    if state.bank_off is not None:
        off = state.bank_off
        return say(
            "run.bank-off",
            after=(off.seconds, "s"),
            mode=design.modes[off.mode].name,
            load=(off.asked_a, "A"),
            charge=(state.charge_seconds, "s"),
        )
    if solved.mean_a <= 0:
        there = sorted({s for m, x in zip(design.modes, state.shares, strict=True) if x > 0 for s in m.plugged})
        names = [s.name for s in design.supply.sources if s.id in there]
        return say("run.keeps-its-charge", sources=names, about=(state.seconds, "s"))
    if state.charge_seconds > state.shelf_seconds:
        return say("run.cell-is-old", shelf=(state.shelf_seconds, "s"), charge=(state.charge_seconds, "s"))
    if mode < 0:
        return say("run.until-empty")
    return say("verdict.stops", mode=design.modes[mode].name, failure=describe_failure(solved, state.failures[mode]))


def _typical_sentence(solved: SolvedGadget) -> str:
    typical, median = solved.usual.seconds, solved.runtime_s
    if not solved.design.parts or solved.usual.charge_seconds > solved.usual.lasting_s:
        return ""
    if abs(median - typical) <= NEARLY * max(typical, 1e-9):
        return say("run.typical-is-the-same")
    return say("run.typical", typical=(typical, "s"), bad=median < typical)


@once
def runtime_report(solved: SolvedGadget) -> RuntimeReport:
    state, has_parts = solved.usual, bool(solved.design.parts)
    return RuntimeReport(
        total=runtime_total(solved),
        coldest=runtime_coldest(solved),
        typical=figure(
            "runtime-at-typical-figures",
            state.seconds / 3600 if has_parts else None,
            "h",
            [
                (called("mean-battery-current"), solved.mean_a, "A"),
                (called("charge-left-at-the-end"), state.ending[1], "share"),
            ],
            RUNTIME_SOURCE,
        ),
        goal_h=solved.design.brief.goal_h,
        sentence=runtime_sentence(solved),
        typical_sentence=_typical_sentence(solved),
        cold_sentence=cold_sentence(solved),
        timeline=_timeline(solved),
        influences=_influences(solved),
    )


def _timeline(solved: SolvedGadget) -> Timeline:
    state, design = solved.usual, solved.design
    end = state.seconds
    # the horizon is where the last used mode stops, so that the picture shows what each failure costs
    used = [i for i in range(len(design.modes)) if state.shares[i] > 0]
    stops = {
        i: min(float(np.interp(-state.failures[i].charge, -state.pack.charge, state.elapsed_s)), state.shelf_seconds)
        for i in used
    }
    horizon = max([end, *stops.values()])
    times = np.linspace(0.0, horizon, TIMELINE_POINTS)
    charge = np.interp(times, state.elapsed_s, state.pack.charge)
    stretched = solved.typical_to_said / 3600
    mean = state.point_weights @ state.typical.terminal_v
    weighted = state.point_weights > 0
    worst = np.min(state.worst.terminal_v[weighted], axis=0)
    return Timeline(
        time_h=(times * stretched).tolist(),
        charge=charge.tolist(),
        mean_v=np.interp(-charge, -state.pack.charge, mean).tolist(),
        worst_v=np.interp(-charge, -state.pack.charge, worst).tolist(),
        cutoff_v=state.pack.cutoff_v,
        modes=[
            ModeStop(
                mode=design.modes[i].id,
                name=design.modes[i].name,
                time_h=stops[i] * stretched,
                charge=state.failures[i].charge,
                sentence=(
                    say("run.outlasts", mode=design.modes[i].name)
                    if stops[i] >= state.shelf_seconds
                    else say(
                        "verdict.stops", mode=design.modes[i].name, failure=describe_failure(solved, state.failures[i])
                    )
                ),
            )
            for i in used
        ],
    )


def _influences(solved: SolvedGadget) -> list[InfluenceRow]:
    rows = []
    parts = solved.design.index.parts
    median = solved.runtime_s / 3600
    for owner in solved.estimate.owners[:8]:
        one = owner.input
        name = input_name(solved, one)
        rows.append(
            InfluenceRow(
                part=one.subject if one.subject in parts else None,
                state=one.state or None,
                name=name,
                share=owner.share,
                runtime=figure(
                    "runtime-if-known",
                    median,
                    "h",
                    [(called("first-order-index"), owner.share, "share")],
                    "regression on the samples; JCGM 101:2008",
                    facts={"name": name},
                    low=owner.known_low_s / 3600,
                    high=owner.known_high_s / 3600,
                ),
            )
        )
    return rows


def input_name(solved: SolvedGadget, one: Uncertain) -> str:
    """An uncertain input in words."""
    design = solved.design
    names = {x.id: x.name for x in [*design.parts, *design.supply.stages]}
    return say(f"uncertain.{one.kind}", of=names.get(one.subject, ""), state=one.state)
