"""What is drawn: part by part in each mode, per rail, at the battery, over the day."""

from __future__ import annotations

from typing import Literal, NamedTuple

import numpy as np

from ..design import State, Use
from ..figures import Figure, figure, record
from ..imports.grid_text import write_cell
from ..load.day import SECONDS_PER_DAY
from ..load.occasion_text import say_occasion
from ..load.operating_points import draw_range, state_level
from ..quantities import show
from ..solved.gadget import SolvedGadget
from ..solved.wording import describe_failure
from ..words import Said, called

NOISE = 1e-12  # of the mean current: what rounding leaves
DAY_SOURCE = "time-weighted mean over the day"


@record
class DrawCell:
    """One part in one mode. `share` is its part of the mode's draw at the battery, 0..1; `text` what one would type
    for it; `powered` whether its rail has a voltage then."""

    part: str
    mode: str
    text: str
    powered: bool
    current: Figure
    share: float


@record
class DrawMode:
    """One mode. `happens` tells each of its sessions, then each of its wakes, as one types them;
    `day_s` is its time in an average day [s]; `day_share` and `charge_share` are its shares of the day's time and of the day's charge, 0..1."""

    mode: str
    happens: list[str]
    day_share: float
    day_s: float
    charge_share: float
    battery_current: Figure
    peak_current: Figure
    nonstop: Figure
    fails_at: Figure
    failure: str


@record
class RailMode:
    """A rail in a mode: what its parts draw, and its mean voltage at half charge."""

    rail: str
    mode: str
    current_a: float
    voltage_v: float


@record
class DrawPart:
    """A part's share of the average day, as current at the battery."""

    part: str
    current: Figure
    share: float


@record
class DrawOther:
    """What a stage takes for itself, or a capacitor leaks, over the average day, as current at the battery. `id` is the
    stage's, or that of the capacitor's rail."""

    kind: Literal["stage", "capacitor"]
    id: str
    name: str
    current: Figure
    share: float


@record
class DrawReport:
    """`parts` and `others` share the whole: their currents add up to `mean`, their shares to 1."""

    cells: list[DrawCell]
    modes: list[DrawMode]
    rails: list[RailMode]
    parts: list[DrawPart]
    others: list[DrawOther]
    mean: Figure


def _use_inputs(solved: SolvedGadget, use: Use, part_index: int) -> tuple[Said, list[tuple[str, float | None, str]]]:
    part = solved.design.parts[part_index]
    if use.burst:
        inputs: list[tuple[str, float | None, str]] = [
            (called("phase", state=p.state), p.seconds, "s") for p in use.burst
        ]
        inputs.append((called("period"), use.period_s, "s"))
    else:
        inputs = [(called("duty-of", state=use.state), use.duty, "share")]
    inputs.append((called("quantity"), float(part.quantity), ""))
    return Said(
        "formula-burst.formula" if use.burst else "formula-state.formula", {"rest": use.rest is not None}
    ), inputs


class _Told(NamedTuple):
    """A state as an input of a working, and its least and most current against the typical one; 1 where nothing is drawn."""

    told: tuple[str, float | None, str]
    less: float
    more: float

    @classmethod
    def of(cls, state: State) -> _Told:
        (span, unit), typical = draw_range(state), state_level(state, "typical")
        told = (f"{state.name} ({state.provenance})", span.typical, unit)
        if typical <= 0:
            return cls(told, 1.0, 1.0)
        less, more = state_level(state, "min") / typical, state_level(state, "max") / typical
        return cls(told, 1 / less, 1 / more) if unit == "Ω" else cls(told, less, more)


def _cells(solved: SolvedGadget) -> list[DrawCell]:
    design, state = solved.design, solved.usual
    index = design.index.parts
    rail_a, battery_a = solved.part_mode_a.tolist(), solved.part_battery_a.tolist()
    totals = state.mode_current_a[:, solved.middle].tolist()
    powered = solved.rail_powered.tolist()
    told = [{s.name: _Told.of(s) for s in p.states} for p in design.parts]
    found = []
    for m, mode in enumerate(design.modes):
        for use in mode.uses:
            p = index[use.part]
            item, amps = design.parts[p], rail_a[p][m]
            formula, inputs = _use_inputs(solved, use, p)
            named = {use.rest, *(x.state for x in use.burst)} if use.burst else {use.rest, use.state}
            used = [own for name, own in told[p].items() if name in named]
            found.append(
                DrawCell(
                    part=item.id,
                    mode=mode.id,
                    text=write_cell(use),
                    powered=powered[state.rail_of[p]][m],
                    current=figure(
                        "draw-cell",
                        amps,
                        "A",
                        [*(x.told for x in reversed(used)), *inputs],
                        "the part's own figures",
                        facts={"item": item.name, "mode": mode.name},
                        formula=formula,
                        low=amps * min([1.0, *(x.less for x in used)]),
                        high=amps * max([1.0, *(x.more for x in used)]),
                    ),
                    share=battery_a[p][m] / totals[m] if totals[m] > 0 else 0.0,
                )
            )
    return found


def _mode(solved: SolvedGadget, index: int) -> DrawMode:
    state, mode, day = solved.usual, solved.design.modes[index], solved.design.day
    amps = float(state.mode_current_a[index, solved.middle])
    of_mode = np.flatnonzero(state.loads.mode == index)
    peak = float(state.worst.source_a[of_mode, solved.middle].max())
    failure = state.failures[index]
    terminal = float(state.typical.terminal_v[of_mode, solved.middle].mean())
    nonstop = state.nonstop_s[index]
    usable = state.pack.capacity_ah * (1 - failure.charge)
    return DrawMode(
        mode=mode.id,
        happens=[say_occasion(e) for events in (day.sessions, day.wakes) for e in events if e.mode == mode.id],
        day_share=float(state.shares[index]),
        day_s=float(state.shares[index]) * SECONDS_PER_DAY,
        charge_share=float(state.shares[index]) * amps / solved.mean_a if solved.mean_a > 0 else 0.0,
        battery_current=figure(
            "mode-mean-current",
            amps,
            "A",
            [
                (called("battery-voltage"), terminal, "V", solved.read_at),
                (called("moments-in-the-mode"), float(of_mode.size), ""),
            ],
            "converter models; Erickson & Maksimovic (2020), ch. 3 and 4",
            facts={"mode": mode.name},
        ),
        peak_current=figure(
            "peak-battery-current",
            peak,
            "A",
            [(called("state-of-charge"), float(state.pack.charge[solved.middle]), "share")],
            "converter models; Erickson & Maksimovic (2020), ch. 3 and 4",
            facts={"mode": mode.name},
        ),
        nonstop=figure(
            "runtime-without-a-pause",
            nonstop / 3600,
            "h",
            [(called("usable-charge"), usable, "Ah"), (called("mean-battery-current"), amps, "A")],
            "quadrature over the state of charge",
            facts={"mode": mode.name},
        ),
        fails_at=figure(
            "charge-left-when-it-stops",
            failure.charge * 100,
            "%",
            [(called("value-there"), failure.value, failure.unit), (called("limit"), failure.limit, failure.unit)],
            "every part at its max at the same time, solved over the state of charge",
            facts={"mode": mode.name},
        ),
        failure=str(describe_failure(solved, failure)),
    )


def _others(solved: SolvedGadget) -> list[DrawOther]:
    state, mid, mean = solved.usual, solved.middle, solved.mean_a
    whose, weights = state.attribution, state.point_weights
    rows: list[tuple[Literal["stage", "capacitor"], str, str, float, Said]] = []
    for s, stage in enumerate(state.tree.stages):
        amps = float(weights @ whose.stage[s, :, mid])
        rows.append(
            (
                "stage",
                stage.id,
                stage.name,
                amps,
                Said("formula-stage-itself.formula"),
            )
        )
    for r, rail in enumerate(solved.design.supply.rails):
        if rail.capacitor and rail.capacitor.leakage_a > 0:
            amps = float(weights @ whose.rail[r, :, mid]) * rail.capacitor.leakage_a
            rows.append(
                (
                    "capacitor",
                    rail.id,
                    f"capacitor on {rail.name}",
                    amps,
                    Said("formula-capacitor-itself.formula"),
                )
            )
    return [
        DrawOther(
            kind=kind,
            id=key,
            name=name,
            share=amps / mean if mean > 0 else 0.0,
            current=figure(
                "for-itself-over-the-average-day",
                amps,
                "A",
                [],
                "marginal input current of the stages on the way",
                facts={"name": name},
                formula=formula,
            ),
        )
        for kind, key, name, amps, formula in rows
        if amps > NOISE * mean
    ]


def draw_report(solved: SolvedGadget) -> DrawReport:
    design, state = solved.design, solved.usual
    totals, shares = state.mode_current_a[:, solved.middle].tolist(), state.shares.tolist()
    rail_a = np.zeros((len(design.supply.rails), len(design.modes)))
    np.add.at(rail_a, state.rail_of, solved.part_mode_a)
    rail_v = state.typical.rail_v[:, :, state.middle] @ state.in_mode.T
    rails = [
        RailMode(rail=rail.id, mode=mode.id, current_a=float(rail_a[r, m]), voltage_v=float(rail_v[r, m]))
        for r, rail in enumerate(design.supply.rails)
        for m, mode in enumerate(design.modes)
    ]
    per_part = (solved.part_battery_a @ state.shares).tolist()
    by_mode: list[tuple[str, float | None, str]] = [(m.name, shares[k], "share") for k, m in enumerate(design.modes)]
    mean = solved.mean_a
    parts = [
        DrawPart(
            part=p.id,
            current=figure(
                "over-the-average-day",
                per_part[i],
                "A",
                by_mode,
                "marginal input current of the stages on the way",
                facts={"p": p.name},
            ),
            share=per_part[i] / mean if mean > 0 else 0.0,
        )
        for i, p in enumerate(design.parts)
    ]
    mean_figure = figure(
        "mean-battery-current-over-the-day",
        mean,
        "A",
        [(m.name, shares[k], "share", show(totals[k], "A")) for k, m in enumerate(design.modes)],
        DAY_SOURCE,
    )
    return DrawReport(
        cells=_cells(solved),
        modes=[_mode(solved, i) for i in range(len(design.modes))],
        rails=rails,
        parts=parts,
        others=_others(solved),
        mean=mean_figure,
    )
