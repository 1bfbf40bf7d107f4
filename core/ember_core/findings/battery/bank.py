"""Traps of ready-made, used and weakened batteries: power banks, salvaged cells, and what is lost on the way."""

from __future__ import annotations

from collections.abc import Iterator

from ...design import CurrentDraw, CurrentRange, Phase, State, Use
from ...design.basics import fresh_id
from ...design.patches import add, replace
from ...figures import PatchOperation, Remedy
from ...measures.bench import TrialBench
from ...solved.capacity import capacity_steps
from ...words import say
from ..found import Found

LITTLE_LEFT = 0.6  # of the rated capacity
PULSE_SHARE = 0.4  # of the time after which a bank switches off, between pulses
PULSE_S = 0.5
PULSE_ABOVE = 1.2
MOST_PARTS = 1000


def rated_at_cell_voltage(bench: TrialBench) -> Iterator[Found]:
    """A power bank's rated capacity is at the voltage of its cells, not at its output."""
    cell, pack = bench.design.battery.cell, bench.usual.pack
    if cell.bank is None:
        return
    share = next(s.left for s in pack.shares if s.key == "bank")
    yield Found(
        code="printed-capacity",
        severity="note",
        step="battery",
        where="/battery/cell/capacity_ah",
        facts={
            "rated_capacity": (pack.printed_ah, "Ah"),
            "cell_voltage": (cell.bank.cell_v, "V"),
            "output_voltage": (cell.bank.output_v, "V"),
            "efficiency": (cell.bank.efficiency, "share"),
            "at_output_ah": (pack.printed_ah * share, "Ah"),
        },
    )


def bank_switches_off(bench: TrialBench) -> Iterator[Found]:
    """Below its least load a power bank switches itself off, and the sleeping gadget never wakes."""
    design, off = bench.design, bench.usual.bank_off
    bank = design.battery.cell.bank
    if bank is not None and off is not None:
        auto_shutoff_a = bank.auto_shutoff_a * design.battery.parallel
        yield Found(
            code="switches-off",
            severity="stop",
            step="battery",
            where="/battery/cell/bank",
            facts={
                "load": (off.asked_a, "A"),
                "shutoff_delay": (bank.off_after_s, "s"),
                "auto_shutoff": (auto_shutoff_a, "A"),
                "duration": (off.seconds, "s"),
                "mode": design.modes[off.mode].name,
                "cell": design.battery.cell.name,
            },
            ways=lambda: [_keep_alive(bench, auto_shutoff_a, bank.off_after_s)],
        )
    for s, source in enumerate(design.supply.sources):
        for m, mode in enumerate(design.modes):
            if source.id not in mode.plugged or source.auto_shutoff_a <= 0:
                continue
            rows = [k for k, x in enumerate(bench.usual.operating_points) if x.mode == m]
            asked = max(float(bench.usual.typical.other_a[s, k, bench.middle]) for k in rows)
            if asked < source.auto_shutoff_a:
                yield Found(
                    code="source-switches-off",
                    severity="watch",
                    step="supply",
                    where=f"/supply/sources/{s}",
                    facts={
                        "load": (asked, "A"),
                        "auto_shutoff": (source.auto_shutoff_a, "A"),
                        "source": source.name,
                        "mode": mode.name,
                    },
                )
                break


def _keep_alive(bench: TrialBench, auto_shutoff_a: float, after_s: float) -> Remedy | None:
    """A load that draws enough in short pulses, on a rail that hangs on the battery, in every mode that takes too little by itself."""
    design = bench.design
    if len(design.parts) >= MOST_PARTS:
        return None
    name = fresh_id("keep-alive", {p.id for p in design.parts})
    rail = next((r for r in design.supply.rails if r.feed == "battery"), None)
    patch: list[PatchOperation] = []
    rail_id = rail.id if rail else fresh_id("bank-output", {r.id for r in design.supply.rails})
    if rail is None:
        patch.append(add("/supply/rails/-", {"id": rail_id, "name": "The bank's output", "feed": "battery"}))
    amps = CurrentRange(typical=float(f"{auto_shutoff_a * PULSE_ABOVE:.4g}"))
    pulse = State(name="pulse", draw=CurrentDraw(current_a=amps), provenance="datasheet")
    part = {
        "id": name, "name": "Keep-alive load", "rail": rail_id, "states": [pulse.model_dump(mode="json")], "mass_g": 0.3,
        "body": {"size_mm": [6, 3, 2]}, "note": "A resistor and a transistor that keep the power bank from switching itself off.",
    }  # fmt: skip
    period = after_s * PULSE_SHARE
    use = Use(part=name, state="pulse", burst=[Phase(state="pulse", seconds=min(PULSE_S, period))], period_s=period)
    patch.append(add("/parts/-", part))
    peaks = [float(bench.usual.typical.source_a[k, bench.middle]) for k in range(len(bench.usual.operating_points))]
    for m, mode in enumerate(design.modes):
        most = max(a for a, x in zip(peaks, bench.usual.operating_points, strict=True) if x.mode == m)
        if most < auto_shutoff_a and not mode.switched_off:
            patch.append(add(f"/modes/{m}/uses/-", use))
    return Remedy(label=say("way.keep-it-awake-with-pulses"), patch=patch)


def salvaged(bench: TrialBench) -> Iterator[Found]:
    """Used cells are measured first, and never mixed."""
    battery = bench.design.battery
    cell = battery.cell
    if cell.condition == "salvaged" and cell.measured_ah is None:
        yield Found(
            code="not-measured",
            severity="fix",
            step="battery",
            where="/battery/cell/measured_ah",
            facts={
                "usable_capacity": (bench.usual.pack.capacity_ah, "Ah"),
                "rated_capacity": (bench.usual.pack.printed_ah, "Ah"),
                "cell": cell.name,
            },
        )
    count = battery.series * battery.parallel
    if battery.mixed and count > 1:
        yield Found(
            code="mixed-cells",
            severity="stop",
            step="battery",
            where="/battery/mixed",
            facts={"count": count},
            ways=lambda: [Remedy(label=say("way.use-cells-of-one-kind"), patch=[replace("/battery/mixed", False)])],
        )


def capacity_lost(bench: TrialBench) -> Iterator[Found]:
    """Of what is rated, much less arrives; the largest loss is named."""
    state = bench.usual
    if bench.mean_a <= 0 or not 0 < state.charge_seconds <= state.lasting_s:
        return
    steps = capacity_steps(bench)
    rated, usable = steps[0].charge.value or 0.0, steps[-1].charge.value or 0.0
    lost = [s for s in steps if s.lost]
    if usable >= LITTLE_LEFT * rated or not lost:
        return
    largest = max(lost, key=lambda s: s.charge.value or 0.0)
    yield Found(
        code="capacity-lost",
        lengthens=True,
        severity="watch",
        step="battery",
        where="/battery/cell/capacity_ah",
        facts={
            "rated_capacity": (rated, "Ah"),
            "usable_capacity": (usable, "Ah"),
            "largest_loss_ah": (largest.charge.value or 0.0, "Ah"),
            "loss": largest.label,
        },
    )
