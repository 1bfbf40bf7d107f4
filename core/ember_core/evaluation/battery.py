"""The battery in this gadget: what is printed, what is usable, the strain on it; runtime, its range, its fall."""

from __future__ import annotations

import numpy as np

from ..chemistry import CHEMISTRIES
from ..context import Context
from ..figures import Figure, Result, figure
from ..losses import RUNTIME_SOURCE, ChargeStep, capacity_steps
from ..quantities import show
from ..wording import describe_failure

TIMELINE_POINTS = 80


class BatteryReport(Result):
    printed: Figure
    usable: Figure
    steps: list[ChargeStep]
    full_voltage: Figure
    cutoff_voltage: Figure
    resistance: Figure
    peak_current: Figure
    cautions: list[str]


class Timeline(Result):
    """Time since full [h] with the charge left (0..1), the terminal voltage under the mean load and in the worst
    moment [V]; `modes` gives the time at which each used mode stops."""

    time_h: list[float]
    charge: list[float]
    mean_v: list[float]
    worst_v: list[float]
    cutoff_v: float
    modes: list[ModeStop]


class ModeStop(Result):
    mode: str
    name: str
    time_h: float
    charge: float
    sentence: str


class InfluenceRow(Result):
    """How much of the runtime's spread one input owns (0..1), and the runtime at its worst and best."""

    part: str | None
    state: str | None
    name: str
    share: float
    runtime: Figure


class RuntimeReport(Result):
    total: Figure
    coldest: Figure
    goal_h: float
    sentence: str
    timeline: Timeline
    influences: list[InfluenceRow]


Timeline.model_rebuild()


def battery_report(context: Context) -> BatteryReport:
    design, state = context.design, context.usual
    cell, pack = design.battery.cell, state.pack
    name = CHEMISTRIES[cell.chemistry].source
    steps = capacity_steps(context)
    peak, moment = context.peak_a
    mode = design.modes[state.moments[moment].mode].name
    mid = float(pack.steady_ohm[context.middle])
    return BatteryReport(
        printed=steps[0].charge,
        usable=steps[-1].charge,
        steps=steps,
        full_voltage=figure("Full, at rest", float(pack.open_circuit_v[0]), "V", "open-circuit curve × cells in series",
                            [("in series", float(design.battery.series), "")], name),
        cutoff_voltage=figure("Cut-off", pack.cutoff_v, "V", "cell cut-off × cells in series",
                              [("cell", cell.cutoff_v, "V")], "the cell's own figure"),
        resistance=figure("Resistance at half charge", mid, "Ω", "cell resistance × temperature ÷ parallel + wiring",
                          [("cell at 25 °C", cell.resistance_ohm, "Ω"), ("wiring", design.battery.wiring_ohm, "Ω")],
                          f"Arrhenius; {name}"),
        peak_current=figure("Peak current", peak, "A", "worst moment of any mode, every part at its most",
                            [("most that the cell allows", pack.discharge_max_a, "A"),
                             ("per capacity", peak / pack.printed_ah, "C")], f"in {mode}"),
        cautions=_cautions(context),
    )  # fmt: skip


def _cautions(context: Context) -> list[str]:
    cell = context.design.battery.cell
    said = []
    if cell.chemistry == "lithium-ion":
        said += [
            "Lithium cells burn when shorted, punctured, reversed, overcharged or overheated. Use a protected cell or a "
            "protection circuit; cut and solder one lead at a time and insulate the other.",
            "Charge attended, on something that does not burn. Stop using a swollen cell and take it to a collection "
            "point.",
        ]
    elif cell.chemistry == "lithium-coin":
        said.append(
            "Swallowed coin cells kill small children: close the compartment with a screw or a tool-only catch."
        )
    if not CHEMISTRIES[cell.chemistry].rechargeable:
        said.append("Never charge primary cells; do not mix old and new ones.")
    if context.design.battery.series > 1 and CHEMISTRIES[cell.chemistry].rechargeable:
        said.append("Cells in series need balancing and a protection circuit made for that many cells.")
    said.append(
        "Shipping and carrying of cells, wearables and children's products: local rules and licensed practice decide. "
        "These figures are estimates; have anything that people depend on checked by someone qualified."
    )
    return said


def runtime_report(context: Context) -> RuntimeReport:
    state, design = context.usual, context.design
    mode, end = state.ending
    mean = context.mean_a
    has_parts = bool(design.parts)
    idle = has_parts and mean <= 0  # nothing drawn: it lasts as long as the cell keeps
    hours = (min(state.seconds, context.shelf_s(None)) if idle else state.seconds) / 3600
    inputs: list[tuple[str, float | None, str]] = [
        ("capacity at this temperature", state.pack.capacity_ah, "Ah"),
        ("charge left at the end", end, "share"),
        ("mean battery current", mean, "A"),
        ("self-discharge", state.pack.self_discharge_a, "A"),
        ("temperature", state.temperature_c, "°C"),
    ]
    total = figure(
        "Runtime", hours if has_parts else None, "h", "∫ Q dz ÷ (I(z) + self-discharge), from full to the first failure",
        list(inputs), RUNTIME_SOURCE,
        low=hours * context.spread.low if has_parts else None, high=hours * context.spread.high if has_parts else None,
        note="Low and high are about the 10th and 90th percentile.",
    )  # fmt: skip
    cold = context.coldest
    coldest = figure(
        "Runtime at the coldest", cold.seconds / 3600 if has_parts else None, "h",
        "the same integral at the brief's coldest temperature",
        [("temperature", cold.temperature_c, "°C"), ("capacity there", cold.pack.capacity_ah, "Ah"),
         ("charge left at the end", cold.ending[1], "share")], RUNTIME_SOURCE,
    )  # fmt: skip
    if not has_parts:
        sentence = "Nothing is drawn yet: add a part."
    elif idle:
        sentence = "Nothing is drawn: it lasts as long as the cell keeps."
    elif mode < 0:
        sentence = "Everything works until the battery is empty."
    else:
        sentence = f"{design.modes[mode].name} {describe_failure(context, state.failures[mode])}."
    return RuntimeReport(
        total=total,
        coldest=coldest,
        goal_h=design.brief.goal_h,
        sentence=sentence,
        timeline=_timeline(context),
        influences=_influences(context, hours),
    )


def _timeline(context: Context) -> Timeline:
    state, design = context.usual, context.design
    end = state.seconds
    # the horizon is where the last used mode stops, so that the picture shows what each failure costs
    used = [i for i in range(len(design.modes)) if state.shares[i] > 0]
    stops = {i: float(np.interp(-state.failures[i].charge, -state.pack.charge, state.elapsed_s)) for i in used}
    horizon = max([end, *stops.values()])
    times = np.linspace(0.0, horizon, TIMELINE_POINTS)
    charge = np.interp(times, state.elapsed_s, state.pack.charge)
    mean = state.moment_weights @ state.typical.terminal_v
    weighted = state.moment_weights > 0
    worst = np.min(state.worst.terminal_v[weighted], axis=0)
    return Timeline(
        time_h=(times / 3600).tolist(),
        charge=charge.tolist(),
        mean_v=np.interp(-charge, -state.pack.charge, mean).tolist(),
        worst_v=np.interp(-charge, -state.pack.charge, worst).tolist(),
        cutoff_v=state.pack.cutoff_v,
        modes=[
            ModeStop(
                mode=design.modes[i].id,
                name=design.modes[i].name,
                time_h=stops[i] / 3600,
                charge=state.failures[i].charge,
                sentence=f"{design.modes[i].name} {describe_failure(context, state.failures[i])}.",
            )
            for i in used
        ],
    )


def _influences(context: Context, hours: float) -> list[InfluenceRow]:
    rows = []
    for item in context.spread.influences[:8]:
        part = context.design.parts[item.part] if item.part >= 0 else None
        name = f"{part.name}, {item.state}" if part else f"{item.kind} of the cell"
        rows.append(
            InfluenceRow(
                part=part.id if part else None,
                state=item.state if part else None,
                name=name,
                share=item.share,
                runtime=figure(
                    f"Runtime if {name} is at its worst or best", hours, "h", "first-order effect of this input alone",
                    [("share of the spread", item.share, "share")], "JCGM 100:2008, 5.1.2",
                    low=hours * item.low_factor, high=hours * item.high_factor,
                ),
            )
        )  # fmt: skip
    return rows


def runtime_text(context: Context) -> str:
    """The runtime with its range, for sentences."""
    hours = context.usual.seconds / 3600
    low, high = hours * context.spread.low, hours * context.spread.high
    return f"{show(hours, 'h')} ({show(low, 'h')} to {show(high, 'h')})"
