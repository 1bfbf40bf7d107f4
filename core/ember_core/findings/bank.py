"""Traps of ready-made, used and weakened batteries: power banks, salvaged cells, and what is lost on the way."""

from __future__ import annotations

from collections.abc import Iterator

from ..chemistry import CHEMISTRIES
from ..context import SECONDS_PER_YEAR, Context
from ..design import CurrentDraw, CurrentRange, Phase, Session, State, Use, Wake
from ..figures import Finding, PatchOperation, Remedy
from ..losses import capacity_steps
from ..quantities import show
from ..remedies import add, fresh_id, replace

LITTLE_LEFT = 0.6  # of the printed capacity
PULSE_SHARE = 0.4  # of the time after which a bank switches off, between pulses
PULSE_S = 0.5
PULSE_ABOVE = 1.2


def printed_at_cell_voltage(context: Context) -> Iterator[Finding]:
    """T19: a power bank's printed capacity is at the voltage of its cells, not at its output."""
    cell, pack = context.design.battery.cell, context.usual.pack
    if cell.bank is None:
        return
    share = next(s.left for s in pack.shares if s.key == "bank")
    yield Finding(
        code="T19-printed-capacity",
        severity="note",
        step="battery",
        where="/battery/cell/capacity_ah",
        title="Printed at the cells' voltage",
        sentence=(
            f"{show(pack.printed_ah, 'Ah')} are printed at {show(cell.bank.cell_v, 'V')}; at {show(cell.bank.output_v, 'V')} and with "
            f"{show(cell.bank.efficiency, 'share')} of it getting through its converter they are {show(pack.printed_ah * share, 'Ah')}."
        ),
    )


def bank_switches_off(context: Context) -> Iterator[Finding]:
    """T19: below its least load a power bank switches itself off, and the sleeping gadget never wakes."""
    design = context.design
    bank = design.battery.cell.bank
    if bank is not None and bank.least_a > 0:
        for m in range(len(design.modes)):
            asked = float(context.usual.mode_current_a[m, context.middle])
            lasts = _lasts_s(context, m, bank.least_a)
            if (
                context.usual.shares[m] <= 0
                or asked >= bank.least_a * design.battery.parallel
                or lasts <= bank.off_after_s
            ):
                continue
            if _pulsed(context, m, bank.least_a, bank.off_after_s):
                continue
            yield _switches_off(
                context, m, asked, design.battery.cell.name, bank.least_a, bank.off_after_s, "/battery/cell/bank"
            )
            break
    for s, source in enumerate(design.supply.sources):
        for m, mode in enumerate(design.modes):
            if source.id not in mode.plugged or source.least_a <= 0:
                continue
            asked = max(float(context.usual.typical.other_a[s, k, context.middle]) for k in _moments(context, m))
            if asked < source.least_a:
                yield Finding(
                    code="T19-source-switches-off",
                    severity="watch",
                    step="supply",
                    where=f"/supply/sources/{s}",
                    title=f"{source.name} switches itself off",
                    sentence=(
                        f"{mode.name} takes {show(asked, 'A')} from {source.name}, which switches itself off below "
                        f"{show(source.least_a, 'A')}: the gadget then goes on from its battery."
                    ),
                )
                break


def _moments(context: Context, mode: int) -> list[int]:
    return [k for k, x in enumerate(context.usual.moments) if x.mode == mode]


def _lasts_s(context: Context, mode: int, least_a: float) -> float:
    """How long the gadget stays in a mode: for the rest mode until the next wake that draws at least so much [s]."""
    day, name = context.design.day, context.design.modes[mode].id
    if name == day.rest:
        return min((w.every_s for w in day.wakes if context.mode_a(w.mode) >= least_a), default=86400.0)
    events: list[Session | Wake] = [*day.sessions, *day.wakes]
    lengths = [s.seconds for e in events for s in e.stretches if s.mode == name]
    return max(lengths, default=0.0)


def _pulsed(context: Context, mode: int, least_a: float, off_after_s: float) -> bool:
    """A burst in the mode takes enough, and often enough, to keep a bank on."""
    state = context.usual
    strong = [k for k in _moments(context, mode) if float(state.typical.source_a[k, context.middle]) >= least_a]
    periods = [u.period_s for u in context.design.modes[mode].uses if u.burst and u.period_s]
    return bool(strong) and bool(periods) and min(periods) <= off_after_s


def _switches_off(
    context: Context, m: int, asked: float, name: str, least_a: float, after_s: float, where: str
) -> Finding:
    mode = context.design.modes[m]
    remedy = _keep_alive(context, m, least_a, after_s)
    then = ""
    if remedy:
        then = f" Pulses of {show(least_a * PULSE_ABOVE, 'A')} keep it on; the runtime is then {show(context.after(remedy.patch).seconds, 's')}."
    return Finding(
        code="T19-switches-off",
        severity="stop",
        step="battery",
        where=where,
        title="The power bank switches itself off",
        sentence=(
            f"{mode.name} takes {show(asked, 'A')}, and {name} switches off after {show(after_s, 's')} below {show(least_a, 'A')}: the "
            f"gadget is dead then, whatever is left.{then} Or use a bank with a trickle mode, or a cell of its own."
        ),
        remedy=remedy,
    )


def _keep_alive(context: Context, m: int, least_a: float, after_s: float) -> Remedy | None:
    """A load that draws enough in short pulses, on a rail that hangs on the battery."""
    design = context.design
    if len(design.parts) >= 1000:
        return None
    name = fresh_id("keep-alive", {p.id for p in design.parts})
    rail = next((r for r in design.supply.rails if r.feed == "battery"), None)
    patch: list[PatchOperation] = []
    rail_id = rail.id if rail else fresh_id("bank-output", {r.id for r in design.supply.rails})
    if rail is None:
        patch.append(add("/supply/rails/-", {"id": rail_id, "name": "The bank's output", "feed": "battery"}))
    amps = CurrentRange(typical=float(f"{least_a * PULSE_ABOVE:.4g}"))
    pulse = State(name="pulse", draw=CurrentDraw(current_a=amps), provenance="datasheet")
    part = {
        "id": name, "name": "Keep-alive load", "rail": rail_id, "states": [pulse.model_dump(mode="json")],
        "note": "A resistor and a transistor that keep the power bank from switching itself off.",
    }  # fmt: skip
    period = after_s * PULSE_SHARE
    use = Use(part=name, state="pulse", burst=[Phase(state="pulse", seconds=min(PULSE_S, period))], period_s=period)
    patch += [add("/parts/-", part), add(f"/modes/{m}/uses/-", use)]
    return context.remedy("Keep it awake with pulses", patch)


def salvaged(context: Context) -> Iterator[Finding]:
    """T20: used cells are measured first, and never mixed."""
    battery = context.design.battery
    cell = battery.cell
    if cell.condition == "salvaged" and cell.measured_ah is None:
        yield Finding(
            code="T20-not-measured",
            severity="fix",
            step="battery",
            where="/battery/cell/measured_ah",
            title="Nobody knows what the used cell still holds",
            sentence=(
                f"{cell.name} is reckoned with {show(context.usual.pack.capacity_ah, 'Ah')} of its {show(context.usual.pack.printed_ah, 'Ah')}: a "
                "guess. Discharge it once, at half its capacity per hour, and measure the charge and the resistance; leave "
                "it if it gets warm, is below 2.5 V, or has lost more than a third."
            ),
        )
    if battery.mixed:
        count = battery.series * battery.parallel
        if count > 1:
            yield Finding(
                code="T20-mixed-cells",
                severity="stop",
                step="battery",
                where="/battery/mixed",
                title="Mixed cells in one pack",
                sentence=(
                    f"{count} cells of different kinds or ages: the weakest is emptied below its limit and is charged above it, in series "
                    "and in parallel. Use cells of one kind and age, matched by measured capacity."
                ),
                remedy=context.remedy("Use cells of one kind", [replace("/battery/mixed", False)]),
            )


def capacity_lost(context: Context) -> Iterator[Finding]:
    """T21: of what is printed, much less arrives; the largest loss is named."""
    years = CHEMISTRIES[context.design.battery.cell.chemistry].shelf_years
    if not context.design.parts or not 0 < context.usual.seconds <= years * SECONDS_PER_YEAR:
        return
    steps = capacity_steps(context)
    printed, usable = steps[0].charge.value or 0.0, steps[-1].charge.value or 0.0
    lost = [s for s in steps if s.lost]
    if usable >= LITTLE_LEFT * printed or not lost:
        return
    largest = max(lost, key=lambda s: s.charge.value or 0.0)
    yield Finding(
        code="T21-capacity-lost",
        severity="watch",
        step="battery",
        where="/battery/cell/capacity_ah",
        title="Much of the printed capacity never arrives",
        sentence=(
            f"Of {show(printed, 'Ah')} printed the gadget gets {show(usable, 'Ah')}. The largest loss: {largest.label.lower()}, "
            f"{show(largest.charge.value, 'Ah')}."
        ),
    )
