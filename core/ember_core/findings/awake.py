"""Traps of the day: seconds awake, intervals, booting, accidents, what is lost when it dies."""

from __future__ import annotations

from collections.abc import Iterator

from ..context import Context
from ..demand import part_current
from ..design import Session, Wake
from ..figures import Finding, Remedy
from ..quantities import show
from ..remedies import replace

AWAKE_SHARE, AWAKE_A, AWAKE_S = 0.3, 0.04, 1.0
OFTEN_S, OFTEN_SHARE, ENOUGH_S = 120.0, 0.5, 600.0
BOOT_S, BOOT_SHARE = 5.0, 0.1
ACCIDENT_SHARE, LOCKED = 0.05, 0.05
UNSAVED_S = 600.0
SAVE_EVERY_S = 60.0
LOOP_LEFT = 0.02
PROTECTED = ("lithium-ion", "lithium-iron-phosphate")


def seconds_awake(context: Context) -> Iterator[Finding]:
    """T25: a few seconds awake at a large current, some times an hour, are weeks of life."""
    for i, wake in enumerate(context.design.day.wakes):
        amps = context.mode_a(wake.mode)
        share = context.charge_share(wake.mode, wake.awake_s * context.wakes_a_day[i])
        if wake.awake_s < AWAKE_S or amps < AWAKE_A or share < AWAKE_SHARE:
            continue
        half = float(f"{wake.awake_s / 2:.6g}")
        patch = [replace(f"/day/wakes/{i}/awake_s", half)]
        remedy = Remedy(label=f"{wake.name}: {show(half, 's')} instead of {show(wake.awake_s, 's')}", patch=patch)
        yield Finding(
            code="T25-seconds-awake",
            severity="watch",
            step="runtime",
            where=f"/day/wakes/{i}/awake_s",
            title=f"{wake.name} costs by the second",
            sentence=(
                f"{show(wake.awake_s, 's')} at {show(amps, 'A')}, every {show(wake.every_s, 's')}, are {show(share, 'share')} of the day's "
                f"charge. Half as long would give {_after(context, remedy)}: a fixed address, a kept channel, sending every fifth reading."
            ),
            remedy=remedy,
        )


def short_interval(context: Context) -> Iterator[Finding]:
    """T26: an interval of a minute or two empties a cell in days; latency is what a longer one costs."""
    for i, wake in enumerate(context.design.day.wakes):
        share = context.charge_share(wake.mode, wake.awake_s * context.wakes_a_day[i])
        if wake.every_s > OFTEN_S or share < OFTEN_SHARE or context.usual.seconds / 3600 >= context.design.brief.goal_h:
            continue
        patch = [replace(f"/day/wakes/{i}/every_s", ENOUGH_S)]
        remedy = Remedy(label=f"{wake.name}: every {show(ENOUGH_S, 's')}", patch=patch)
        yield Finding(
            code="T26-interval",
            severity="fix",
            step="runtime",
            where=f"/day/wakes/{i}/every_s",
            title=f"{wake.name} comes too often",
            sentence=(
                f"Every {show(wake.every_s, 's')} it owns {show(share, 'share')} of the day's charge, and the goal of "
                f"{show(context.design.brief.goal_h, 'h')} is missed. Every {show(ENOUGH_S, 's')} the runtime is {_after(context, remedy)}; "
                f"a change is then noticed up to {show(ENOUGH_S, 's')} late."
            ),
            remedy=remedy,
        )


def boot_or_sleep(context: Context) -> Iterator[Finding]:
    """T27: booting each time against sleeping in between: where they break even."""
    day = context.design.day
    rest_a = context.mode_a(day.rest)
    lists: list[tuple[str, list[Session | Wake]]] = [("sessions", [*day.sessions]), ("wakes", [*day.wakes])]
    for key, events in lists:
        for i, event in enumerate(events):
            if event.before is None or event.before.seconds < BOOT_S:
                continue
            times = event.per_day if isinstance(event, Session) else context.wakes_a_day[i]
            share = context.charge_share(event.before.mode, event.before.seconds * times)
            boot_as = context.mode_a(event.before.mode) * event.before.seconds
            even = _break_even_s(context, boot_as)
            if share < BOOT_SHARE:
                continue
            gap = 86400 / times
            calm = even is not None and gap < even[0]
            where = f"/day/{key}/{i}/before"
            remedy = Remedy(label="Sleep instead of booting", patch=[replace(where, None)]) if calm else None
            against = (
                f"Asleep in {even[1]} at {show(even[2], 'A')} it could wait {show(even[0], 's')} for one boot"
                if even
                else "There is no state in which it could sleep through instead"
            )
            verdict = (
                f": sleeping is cheaper, and gives {_after(context, remedy)} if it draws what it draws now at rest."
                if calm
                else "."
            )
            yield Finding(
                code="T27-boot-or-sleep",
                severity="watch",
                step="runtime",
                where=where,
                title="Booting costs more than it looks",
                sentence=(
                    f"{event.name} boots for {show(event.before.seconds, 's')} each time, {show(share, 'share')} of the day's charge. "
                    f"{against}; it comes about every {show(gap, 's')}{verdict}"
                    + (
                        ""
                        if calm or rest_a <= 0
                        else " Boot as little as possible: fewer services, a kept image, work done in one go."
                    )
                ),
                remedy=remedy,
            )


def _break_even_s(context: Context, boot_as: float) -> tuple[float, str, float] | None:
    """(time [s] through which sleeping takes as much charge as one boot, the state, its current [A]) of the controller's
    calmest state in which something can wake it."""
    best: tuple[float, str, float] | None = None
    for p, part in enumerate(context.design.parts):
        if part.kind != "controller":
            continue
        able = {w.state for w in part.wakes}
        r = context.usual.rail_of[p]
        for state in part.states:
            amps = _state_battery_a(context, p, r, state.name)
            if (state.name in able or not able) and amps > 0 and (best is None or boot_as / amps > best[0]):
                best = (boot_as / amps, state.name, amps)
    return best


def _state_battery_a(context: Context, p: int, rail: int, name: str) -> float:
    """What a part's state would take from the battery while the gadget rests [A]."""
    part = context.design.parts[p]
    state = next(s for s in part.states if s.name == name)
    k = next(i for i, m in enumerate(context.usual.moments) if m.mode == context.rest)
    volts = float(context.usual.typical.rail_v[rail, k, context.middle]) or 3.3
    gain = float(context.usual.gains[rail, k, context.middle]) or 1.0
    return part_current(state, volts) * part.quantity * gain


def accidents(context: Context) -> Iterator[Finding]:
    """T28: accidental presses: a lock gesture is a battery feature."""
    for i, session in enumerate(context.design.day.sessions):
        if session.why != "accident":
            continue
        share = sum(context.charge_share(s.mode, s.seconds * session.per_day) for s in session.stretches)
        if share < ACCIDENT_SHARE:
            continue
        fewer = float(f"{session.per_day * LOCKED:.6g}")
        remedy = Remedy(label="Lock it with a gesture", patch=[replace(f"/day/sessions/{i}/per_day", fewer)])
        yield Finding(
            code="T28-accidental-wakes",
            severity="fix",
            step="runtime",
            where=f"/day/sessions/{i}",
            title=f"{session.name}: nobody meant it, the battery pays",
            sentence=(
                f"{_times(session.per_day)} a day for {show(session.total_s, 's')} are {show(share, 'share')} of the day's charge. A lock "
                f"(a long hold, a pattern of presses) that stops nineteen of twenty gives {_after(context, remedy)}."
            ),
            remedy=remedy,
        )


def _times(count: float) -> str:
    return "Once" if count == 1 else f"{count:g} times"


def unsaved(context: Context) -> Iterator[Finding]:
    """T29: state is saved often enough that a dead cell loses nothing."""
    design, day = context.design, context.design.day
    keeps = {p.id for p in design.parts if p.kind in ("storage", "sensor")}
    if day.saved_every_s is not None:
        return
    longest = max(
        (s for s in day.sessions if s.why == "planned" and s.seconds >= UNSAVED_S and _uses(context, s.mode, keeps)),
        key=lambda s: s.seconds, default=None,
    )  # fmt: skip
    mode, charge = context.usual.ending
    if longest is None or mode < 0:
        return
    remedy = Remedy(label=f"Save every {show(SAVE_EVERY_S, 's')}", patch=[replace("/day/saved_every_s", SAVE_EVERY_S)])
    yield Finding(
        code="T29-unsaved",
        severity="note",
        step="runtime",
        where="/day/saved_every_s",
        title="What is lost when it dies",
        sentence=(
            f"The battery ends in use: {design.modes[mode].name} gives up with {show(charge, 'share')} left. If {longest.name.lower()} is saved only at its "
            f"end, up to {show(longest.seconds, 's')} are lost. Save every minute or so, and stop in time: the table for the firmware "
            "gives the voltage."
        ),
        remedy=remedy,
    )


def _uses(context: Context, mode: str, parts: set[str]) -> bool:
    return any(u.part in parts for m in context.design.modes if m.id == mode for u in m.uses)


def restart_loop(context: Context) -> Iterator[Finding]:
    """After a brown-out the voltage recovers, the controller starts anew and fails again, until the cell is flat."""
    state, design = context.usual, context.design
    mode, charge = state.ending
    if mode < 0 or mode == context.rest or charge >= 1 or charge < LOOP_LEFT:
        return
    failure = state.failures[mode]
    if failure.reason not in ("supply", "input", "start", "collapse", "cutoff", "limit"):
        return
    if failure.reason == "cutoff" and design.battery.cell.chemistry in PROTECTED:
        return  # its protection cuts it off, and it stays off
    resting = state.failures[context.rest].charge
    if resting >= charge - 0.01 or not any(p.kind == "controller" for p in design.parts):
        return
    rest_a = float(state.mode_current_a[context.rest, context.middle]) + state.pack.self_discharge_a
    lost = (charge - resting) * state.pack.capacity_ah
    volts = state.at(charge, state.pack.open_circuit_v)
    yield Finding(
        code="restart-loop",
        severity="watch",
        step="runtime",
        where=f"/modes/{mode}",
        title="It will die and start again, over and over",
        sentence=(
            f"With {show(charge, 'share')} left {design.modes[mode].name} pulls the supply down and the controller resets; without the load "
            f"the battery recovers to {show(volts, 'V')}, it starts, and fails again. {show(lost, 'Ah')} go that way, which would have been "
            f"{show(lost / rest_a, 'h')} asleep. Below the threshold of the firmware's table, do not try: stay asleep and say so."
        ),
    )


def _after(context: Context, remedy: Remedy | None) -> str:
    if remedy is None:
        return "unknown"
    return f"{show(context.after(remedy.patch).seconds, 's')} instead of {show(context.usual.seconds, 's')}"
