"""Where the power goes, link by link, and each converter's efficiency with the modes on its curve."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..design import PassStage
from ..figures import record
from ..numeric import Array
from ..solved.gadget import SolvedGadget
from ..supply.solver import first_choice
from ..words import say

CURVE_POINTS = 41
NodeKind = Literal["battery", "source", "stage", "rail", "part", "loss"]


@record
class FlowLink:
    """Mean power from one node to the next [W]. Losses go to a node of their own, `loss:` and the stage's id."""

    source: str
    target: str
    kind: NodeKind
    name: str
    watts: float


@record
class Flow:
    """One mode, or the average day (`mode` null), at a state of charge that `at` says. `given_w` is what the sources give,
    losses inside the battery included."""

    mode: str | None
    at: str
    given_w: float
    links: list[FlowLink]


@record
class CurveLine:
    label: str
    input_v: float
    current_a: list[float]
    efficiency: list[float]


@record
class CurveMark:
    """A mode at its mean current while the stage is on, or its worst operating point."""

    mode: str
    current_a: float
    efficiency: float
    share_of_loss: float


@record
class StageCurve:
    """Efficiency (0..1) over output current at three input voltages."""

    stage: str
    lines: list[CurveLine]
    marks: list[CurveMark]


@dataclass(frozen=True)
class _Way:
    """A way that power takes, with its mean in each of the rows (the average day, then each mode) [W]."""

    source: str
    target: str
    kind: NodeKind
    name: str
    watts: list[float]


@dataclass(frozen=True)
class BurntInWire:
    """What the wire to a stage ("its id") or a rail ("rail:its id") burns at half charge [W], (operating points,)."""

    to: str
    name: str
    watts: Array


def burnt_in_wires(solved: SolvedGadget) -> list[BurntInWire]:
    """Of the wires that are counted."""
    tree, typical, mid = solved.usual.tree, solved.usual.typical, solved.middle
    stages = [
        BurntInWire(stage.id, stage.name, typical.stage_input_a[i, :, mid] ** 2 * tree.input_ohm[i])
        for i, stage in enumerate(tree.stages)
        if tree.input_ohm[i]
    ]
    rails = [
        BurntInWire(f"rail:{rail.id}", rail.name, typical.rail_a[r, :, mid] ** 2 * tree.rail_ohm[r])
        for r, rail in enumerate(solved.design.supply.rails)
        if tree.rail_ohm[r]
    ]
    return stages + rails


def flows(solved: SolvedGadget) -> list[Flow]:
    """The flow of the average day, then of each mode."""
    state, design = solved.usual, solved.design
    weights = np.vstack([state.point_weights, state.in_mode])
    ways, given = _ways(solved, weights)
    return [
        Flow(
            at=solved.read_at,
            mode=mode,
            given_w=float(given[row]),
            links=[
                FlowLink(source=x.source, target=x.target, kind=x.kind, name=x.name, watts=x.watts[row])
                for x in ways
                if x.watts[row] > 0
            ],
        )
        for row, mode in enumerate([None, *(m.id for m in design.modes)])
    ]


def _ways(solved: SolvedGadget, weights: Array) -> tuple[list[_Way], Array]:
    """(all ways in order, what the sources give in each row [W], (rows,)); `weights` of shape (rows, operating points)."""
    state, design, mid = solved.usual, solved.design, solved.middle
    tree, s, half = state.tree, state.typical, state.half
    names = ["battery", *(x.id for x in tree.sources), *(x.id for x in tree.stages)]
    first = first_choice(tree, state.pack, state.loads.mode)
    ways: list[_Way] = []

    def add(source: str, target: str, kind: NodeKind, name: str, watts: Array) -> None:
        ways.append(_Way(source, target, kind, name, watts.tolist()))

    def mean(watts: Array) -> Array:
        return np.array(
            [row @ watts for row in weights]
        )  # one by one: small losses are differences, and rounding shows

    wires = burnt_in_wires(solved)
    inner = mean(half.cell_w)
    add("battery", "loss:battery", "loss", say("flow.battery"), inner)
    for i, stage in enumerate(tree.stages):
        into = half.stage_in[i]
        inputs = tree.inputs[i]
        if len(inputs) == 1:
            add(names[inputs[0]], stage.id, "stage", stage.name, mean(into))
        else:
            chosen = first[i][:, mid]
            add(names[inputs[0]], stage.id, "stage", stage.name, mean(np.where(chosen, into, 0.0)))
            add(names[inputs[1]], stage.id, "stage", stage.name, mean(np.where(chosen, 0.0, into)))
        for burnt in (w.watts for w in wires if w.to == stage.id):
            if len(inputs) == 1:
                add(names[inputs[0]], f"loss:wire:{stage.id}", "loss", say("flow.wire", to=stage.name), mean(burnt))
            else:
                for k, own in enumerate((np.where(chosen, burnt, 0.0), np.where(chosen, 0.0, burnt))):
                    add(
                        names[inputs[k]],
                        f"loss:wire:{stage.id}:{k}",
                        "loss",
                        say("flow.wire", to=stage.name),
                        mean(own),
                    )
        lost = mean(into) - mean(half.stage_out[i])
        add(stage.id, f"loss:{stage.id}", "loss", say("flow.lost", stage=stage.name), lost)
    for r, rail in enumerate(design.supply.rails):
        watts = mean(half.rail_w[r])
        add(names[tree.rail_feeds[r]], f"rail:{rail.id}", "rail", rail.name, watts)
        for burnt in (w.watts for w in wires if w.to == f"rail:{rail.id}"):
            to = say("flow.wire", to=rail.name)
            add(names[tree.rail_feeds[r]], f"loss:wire:rail:{rail.id}", "loss", to, mean(burnt))
        if rail.capacitor:
            leak = mean(state.rail_powered[r] * s.rail_v[r, :, mid]) * rail.capacitor.leakage_a
            add(f"rail:{rail.id}", f"loss:capacitor:{rail.id}", "loss", say("flow.capacitor"), leak)
    parts_w = weights @ half.part_w.T
    for p, part in enumerate(design.parts):
        add(f"rail:{part.rail}", f"part:{part.id}", "part", part.name, parts_w[:, p])
    return ways, mean(half.given_w)


def curves(solved: SolvedGadget) -> list[StageCurve]:
    """The curves of all stages but plain resistances."""
    state = solved.usual
    found = []
    for i, (stage, converter_model) in enumerate(zip(state.tree.stages, state.tree.converter_models, strict=True)):
        if isinstance(stage, PassStage):
            continue
        on = ~state.tree.off[i, state.loads.mode]
        amps = state.typical.stage_output_a[i]
        drawn = amps[on][amps[on] > 0]
        low = max(min(float(np.min(drawn, initial=stage.limit_a)) / 2, stage.limit_a / 100), stage.limit_a * 1e-6)
        current = low * (stage.limit_a / low) ** np.linspace(0.0, 1.0, CURVE_POINTS)
        lines: list[CurveLine] = []
        for label, charge in (("full", 1.0), ("half charge", 0.5), ("nearly empty", 0.05)):
            k = int(np.argmin(np.abs(state.pack.charge - charge)))
            volts = float(np.max(state.typical.stage_input_v[i, :, k], initial=0.0))
            if volts <= 0 or any(abs(line.input_v - volts) < 0.01 for line in lines):
                continue
            v_in = np.full(CURVE_POINTS, volts)
            v_out = np.broadcast_to(converter_model.output_voltage(v_in, current), (CURVE_POINTS,))
            power = v_in * converter_model.input_current(v_in, v_out, current)
            lines.append(
                CurveLine(
                    label=label,
                    input_v=volts,
                    current_a=current.tolist(),
                    efficiency=np.clip(v_out * current / power, 0, 1).tolist(),
                )
            )
        if lines:
            found.append(StageCurve(stage=stage.id, lines=lines, marks=_marks(solved, i)))
    return found


def _marks(solved: SolvedGadget, stage: int) -> list[CurveMark]:
    state, mid = solved.usual, solved.middle
    s = state.typical
    rows: list[tuple[str, float, float, float]] = []
    for m, mode in enumerate(solved.design.modes):
        weights = state.in_mode[m]
        if state.tree.off[stage, m]:
            continue
        p_in, p_out = float(weights @ state.half.stage_in[stage]), float(weights @ state.half.stage_out[stage])
        amps = float(weights @ s.stage_output_a[stage, :, mid])
        if p_in > 0 and amps > 0:
            rows.append((mode.id, amps, p_out / p_in, (p_in - p_out) * float(state.shares[m])))
    lost = sum(r[3] for r in rows) or 1.0
    return [CurveMark(mode=i, current_a=a, efficiency=e, share_of_loss=x / lost) for i, a, e, x in rows]
