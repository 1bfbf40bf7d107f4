"""Where the energy goes, and how each stage and rail does."""

from __future__ import annotations

import numpy as np

from ..figures import Figure, figure, record
from ..solved.gadget import SolvedGadget
from ..supply.tree import BATTERY_NODE, powered_by
from ..words import Said, called, say
from .flows import Flow, StageCurve, burnt_in_wires, curves, flows

STAGE_MODELS = {
    "linear": "Iin = Iout (1 + ground share) + Iq",
    "pass": "Vout = Vin − R Iout",
    "switching": "Pin = Vout Iout + p0 + a Iout + b Iout², fitted to the efficiency points",
    "diode": "Vout = Vin − Vf − R Iout",
    "power-or": "the higher of two inputs, Vout = Vin − Vf − R Iout",
    "charge-pump": "Vout = n Vin − R Iout, Iin = n Iout + Iq",
    "shunt-regulator": "Iin = (Vin − Vout) ÷ R all the time",
}


@record
class StageReport:
    """One stage at half charge over the average day, and in its worst operating point."""

    stage: str
    input_voltage: Figure
    output_voltage: Figure
    output_current: Figure
    peak_output_current: Figure
    efficiency: Figure
    loss: Figure


@record
class RailReport:
    """A rail's voltage: typical at half charge, lowest in a used worst operating point, highest without load when full."""

    rail: str
    voltage: Figure
    current: Figure


@record
class EnergyShare:
    """One receiver of the battery's energy over the average day. `kind`: part, stage, capacitor, wire, battery."""

    kind: str
    id: str
    name: str
    power: Figure
    share: float


@record
class SourceReport:
    """What a source (`battery`, or one beside it) feeds by itself, in which modes it is there, and its peak."""

    source: str
    name: str
    rails: list[str]
    modes: list[str]
    peak: Figure


@record
class SwitchReport:
    """How long a full battery lasts in a mode in which the gadget is switched off, or else rests, against a hard
    switch."""

    mode: str
    drain: Figure
    soft: Figure
    hard: Figure


@record
class PeakReport:
    """A part's short peak in one mode: where its rail ends up."""

    part: str
    mode: str
    rail: str
    holds: bool
    lowest: Figure
    needed: Figure
    capacitor: Figure


@record
class SupplyReport:
    stages: list[StageReport]
    rails: list[RailReport]
    energy: list[EnergyShare]
    sources: list[SourceReport]
    switch: SwitchReport
    peaks: list[PeakReport]
    flows: list[Flow]
    curves: list[StageCurve]


def supply_report(solved: SolvedGadget) -> SupplyReport:
    state, mid = solved.usual, solved.middle
    weights = state.point_weights
    typical, worst, tree = state.typical, state.worst, state.tree
    used = weights > 0
    stages = []
    energy: list[tuple[str, str, str, float, Said]] = []
    for s, stage in enumerate(tree.stages):
        v_in, v_out = typical.stage_input_v[s, :, mid], typical.stage_output_v[s, :, mid]
        i_out = typical.stage_output_a[s, :, mid]
        p_in, p_out = state.stage_power_w(s)
        peak = float(np.max(worst.stage_output_a[s, :, mid][used], initial=0.0))
        mean_in, mean_out, mean_a = float(weights @ v_in), float(weights @ v_out), float(weights @ i_out)
        basis = [
            (called("mean-input-voltage"), mean_in, "V"),
            (called("mean-output-voltage"), mean_out, "V"),
            (called("mean-output-current"), mean_a, "A"),
        ]
        efficiency = p_out / p_in if p_in > 0 else None
        source = STAGE_MODELS[stage.type]
        stages.append(
            StageReport(
                stage=stage.id,
                input_voltage=figure("input-voltage", mean_in, "V", [], source, facts={"stage": stage.name}),
                output_voltage=figure("output-voltage", mean_out, "V", [], source, facts={"stage": stage.name}),
                output_current=figure("mean-output-current", mean_a, "A", [], source, facts={"stage": stage.name}),
                peak_output_current=figure(
                    "peak-output-current",
                    peak,
                    "A",
                    [(called("limit"), stage.limit_a, "A")],
                    source,
                    facts={"stage": stage.name},
                ),
                efficiency=figure(
                    "efficiency-over-the-day",
                    None if efficiency is None else efficiency * 100,
                    "%",
                    [(called("out"), p_out, "W"), (called("in"), p_in, "W")],
                    source,
                    facts={"stage": stage.name},
                ),
                loss=figure("mean-loss", p_in - p_out, "W", basis, source, facts={"stage": stage.name}),
            )
        )
        energy.append(("stage", stage.id, stage.name, p_in - p_out, Said("figure-mean-loss.formula")))
    energy += _part_energy(solved)
    for r, rail in enumerate(solved.design.supply.rails):
        if rail.capacitor and rail.capacitor.leakage_a > 0:
            leak = float(weights @ (typical.rail_v[r, :, mid] * state.rail_powered[r])) * rail.capacitor.leakage_a
            formula = Said("formula-leakage.formula")
            energy.append(("capacitor", rail.id, say("flow.capacitor-on", rail=rail.name), leak, formula))
    for wire in burnt_in_wires(solved):
        formula = Said("formula-wire.formula")
        energy.append(("wire", wire.to, say("flow.wire", to=wire.name), float(weights @ wire.watts), formula))
    inner = float(weights @ state.half.cell_w)
    energy.append(
        (
            "battery",
            "battery",
            say("flow.battery"),
            inner,
            Said("formula-inside-the-battery.formula"),
        )
    )
    own = float(state.pack.self_discharge_a * state.pack.open_circuit_v[mid])
    energy.append(("battery", "self-discharge", called("self-discharge"), own, Said("formula-self-discharge.formula")))
    total = sum(e[3] for e in energy) or 1.0
    shares = [
        EnergyShare(
            kind=kind,
            id=key,
            name=name,
            share=watts / total,
            power=figure(
                "mean-power", watts, "W", [], f"{solved.read_at}, average day", facts={"name": name}, formula=formula
            ),
        )
        for kind, key, name, watts, formula in sorted(energy, key=lambda e: -e[3])
    ]
    return SupplyReport(
        stages=stages,
        rails=_rails(solved),
        energy=shares,
        sources=_sources(solved),
        switch=_switch(solved),
        peaks=_peaks(solved),
        flows=flows(solved),
        curves=curves(solved),
    )


def _part_energy(solved: SolvedGadget) -> list[tuple[str, str, str, float, Said]]:
    design, state = solved.design, solved.usual
    watts = (state.half.part_w @ state.point_weights).tolist()
    return [("part", p.id, p.name, watts[i], Said("formula-part-power.formula")) for i, p in enumerate(design.parts)]


def _rails(solved: SolvedGadget) -> list[RailReport]:
    state, mid = solved.usual, solved.middle
    weights = state.point_weights
    highest = solved.highest_rail_v
    working = int(np.count_nonzero(state.pack.charge >= state.ending[1]))  # the first ones of the grid
    used = weights > 0
    rows = []
    for r, rail in enumerate(solved.design.supply.rails):
        lowest = float(np.min(state.worst.rail_v.narrow(r)[used, :working], initial=float(highest[r])))
        volts = float(weights @ state.typical.rail_v[r, :, mid])
        amps = float(weights @ state.typical.rail_a[r, :, mid])
        rows.append(
            RailReport(
                rail=rail.id,
                voltage=figure(
                    "rail-voltage",
                    volts,
                    "V",
                    [(called("full-no-load"), float(highest[r]), "V"), (called("worst-moment"), lowest, "V")],
                    "supply solution",
                    facts={"rail": rail.name, "read_at": solved.read_at},
                    low=lowest,
                    high=float(highest[r]),
                ),
                current=figure("rail-current", amps, "A", [], "supply solution", facts={"rail": rail.name}),
            )
        )
    return rows


def _sources(solved: SolvedGadget) -> list[SourceReport]:
    design, state = solved.design, solved.usual
    rails, mid = design.supply.rails, solved.middle
    rows = []
    for node, (key, name) in enumerate([("battery", "the battery"), *((s.id, s.name) for s in state.tree.sources)]):
        alive = powered_by(state.tree, node)
        battery = node == BATTERY_NODE
        there = [m.id for m in design.modes if battery or key in m.plugged]
        amps = state.worst.source_a if battery else state.worst.other_a[node - 1]
        limit = state.pack.discharge_max_a if battery else state.tree.sources[node - 1].limit_a
        rows.append(
            SourceReport(
                source=key,
                name=name,
                rails=[r.id for r, on in zip(rails, alive, strict=True) if on],
                modes=there,
                peak=figure(
                    "most-from",
                    float(np.max(amps[:, mid], initial=0.0)),
                    "A",
                    [(called("limit"), limit, "A")],
                    "supply solution",
                    facts={"name": name},
                ),
            )
        )
    return rows


def _switch(solved: SolvedGadget) -> SwitchReport:
    design, state = solved.design, solved.usual
    m = next((i for i, x in enumerate(design.modes) if x.switched_off), solved.rest)
    drain, name = float(state.mode_current_a[m, solved.middle]), design.modes[m].name
    own: tuple[str, float | None, str] = (called("self-discharge"), state.pack.self_discharge_a, "A")
    capacity: tuple[str, float | None, str] = (called("capacity"), state.pack.capacity_ah, "Ah")
    note = say("switch.never-longer")
    return SwitchReport(
        mode=design.modes[m].id,
        drain=figure("drain-while", drain, "A", [own], "supply solution", facts={"name": name}),
        soft=figure(
            "full-battery",
            solved.shelf_s(m) / 3600,
            "h",
            [capacity, (called("drain"), drain, "A"), own],
            "quadrature over the state of charge",
            facts={"name": name},
            note=note,
        ),
        hard=figure(
            "full-battery-behind-a-hard-switch",
            solved.shelf_s(None) / 3600,
            "h",
            [capacity, own],
            "typical self-discharge of the chemistry",
            note=note,
        ),
    )


def _peaks(solved: SolvedGadget) -> list[PeakReport]:
    design = solved.design
    source = "step of current on the source resistance beside C and its ESR; Horowitz & Hill (2015), 1.4"
    rows = []
    for sag in solved.droops:
        part, mode, rail = design.parts[sag.part], design.modes[sag.mode], design.supply.rails[sag.rail]
        inputs: list[tuple[str, float | None, str]] = [
            (called("peak"), sag.current_a, "A"),
            (called("for"), sag.seconds, "s"),
            (called("before"), sag.before_v, "V"),
            (called("if-it-lasted"), sag.steady_v, "V"),
            (called("beyond-a-converters-limit"), sag.beyond_a, "A"),
            (called("state-of-charge"), sag.charge, "share"),
        ]
        rows.append(
            PeakReport(
                part=part.id,
                mode=mode.id,
                rail=rail.id,
                holds=not sag.fails,
                lowest=figure(
                    "lowest-under-a-peak",
                    sag.lowest_v,
                    "V",
                    inputs,
                    source,
                    facts={"rail": rail.name, "part": part.name},
                ),
                needed=figure("needed-there", sag.needs_v, "V", [], "the parts' own figures"),
                capacitor=figure("capacitor-that-holds-it", sag.capacitor_f, "F", inputs, source),
            )
        )
    return rows
