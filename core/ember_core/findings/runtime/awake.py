"""Traps of the day: seconds awake, intervals, booting, accidents, what is lost when it dies."""

from __future__ import annotations

from collections.abc import Iterator

from ...design import Session, Wake
from ...design.patches import replace
from ...figures import Remedy
from ...load.day import SECONDS_PER_DAY
from ...load.operating_points import part_current
from ...measures.awake import SHORT_EVENT_S, accident_share, lock, shorter_session, shorter_wake
from ...measures.bench import TrialBench
from ...words import Said, say
from ..found import Found

AWAKE_SHARE, AWAKE_A, AWAKE_S = 0.3, 0.04, 1.0
OFTEN_S, OFTEN_SHARE, ENOUGH_S = 120.0, 0.5, 600.0
BOOT_S, BOOT_SHARE = 5.0, 0.1
ACCIDENT_SHARE = 0.05
UNSAVED_S = 600.0
SAVE_EVERY_S = 60.0
LOOP_LEFT = 0.02
PROTECTED = ("lithium-ion", "lithium-iron-phosphate")


def seconds_awake(bench: TrialBench) -> Iterator[Found]:
    """A few seconds awake at a large current, some times an hour, are weeks of life: in wakes and in short events."""
    day = bench.design.day
    events: list[tuple[str, Session | Wake, float, float]] = [
        (f"/day/wakes/{i}/awake_s", w, w.awake_s, bench.wakes_a_day[i]) for i, w in enumerate(day.wakes)
    ]
    events += [
        (f"/day/sessions/{i}/seconds", s, s.seconds, s.per_day)
        for i, s in enumerate(day.sessions)
        if s.seconds <= SHORT_EVENT_S and s.why != "accident"
    ]
    for where, event, seconds, often in events:
        if seconds < AWAKE_S:
            continue
        amps = bench.mode_a(event.mode)
        share = bench.charge_share(event.mode, seconds * often)
        if amps < AWAKE_A or share < AWAKE_SHARE:
            continue
        if isinstance(event, Wake):
            how_often, shorter = Said("often.every", {"interval": (event.every_s, "s")}), shorter_wake(bench, event)
        else:
            how_often, shorter = Said("often.times", {"per_day": (event.per_day, "")}), shorter_session(bench, event)
        yield Found(
            code="seconds-awake",
            lengthens=True,
            severity="watch",
            step="runtime",
            where=where,
            facts={
                "duration": (seconds, "s"),
                "current": (amps, "A"),
                "share": (share, "share"),
                "event": event.name,
                "how_often": how_often,
            },
            ways=lambda shorter=shorter: [shorter.remedy(bench.design)],  # type: ignore[misc]
        )


def short_interval(bench: TrialBench) -> Iterator[Found]:
    """An interval of a minute or two empties a cell in days; latency is what a longer one costs."""
    goal = bench.design.brief.goal_h
    for i, wake in enumerate(bench.design.day.wakes):
        share = bench.charge_share(wake.mode, wake.awake_s * bench.wakes_a_day[i])
        if wake.every_s > OFTEN_S or share < OFTEN_SHARE or goal is None or bench.runtime_s / 3600 >= goal:
            continue
        way = Remedy(
            label=say("way.every", wake=wake.name, interval=(ENOUGH_S, "s")),
            patch=[replace(f"/day/wakes/{i}/every_s", ENOUGH_S)],
        )
        yield Found(
            code="interval",
            lengthens=True,
            severity="fix",
            step="runtime",
            where=f"/day/wakes/{i}/every_s",
            facts={
                "interval": (wake.every_s, "s"),
                "share": (share, "share"),
                "goal": (goal, "h"),
                "interval_enough": (ENOUGH_S, "s"),
                "wake": wake.name,
            },
            ways=lambda way=way: [way],  # type: ignore[misc]
        )


def boot_or_sleep(bench: TrialBench) -> Iterator[Found]:
    """Booting each time against sleeping in between: where they break even."""
    day = bench.design.day
    lists: list[tuple[str, list[Session | Wake]]] = [("sessions", [*day.sessions]), ("wakes", [*day.wakes])]
    for key, events in lists:
        for i, event in enumerate(events):
            if event.before is None or event.before.seconds < BOOT_S:
                continue
            often = event.per_day if isinstance(event, Session) else bench.wakes_a_day[i]
            share = bench.charge_share(event.before.mode, event.before.seconds * often)
            if share < BOOT_SHARE or often <= 0:
                continue
            even = _break_even_s(bench, bench.mode_a(event.before.mode) * event.before.seconds)
            gap = SECONDS_PER_DAY / often
            calm = even is not None and gap < even[0]
            where = f"/day/{key}/{i}/before"
            way = Remedy(label=say("way.sleep-instead-of-booting"), patch=[replace(where, None)])
            break_even_s, state, asleep_a = even or (None, None, None)
            yield Found(
                code="boot-or-sleep",
                lengthens=True,
                severity="watch",
                step="runtime",
                where=where,
                facts={
                    "boot": (event.before.seconds, "s"),
                    "share": (share, "share"),
                    "gap": (gap, "s"),
                    "event": event.name,
                    "state": state,
                    "asleep": (asleep_a, "A"),
                    "break_even": (break_even_s, "s"),
                    "calm": calm,
                },
                ways=(lambda way=way: [way]) if calm else None,  # type: ignore[misc]
            )


def _break_even_s(bench: TrialBench, boot_as: float) -> tuple[float, str, float] | None:
    """(time [s] through which sleeping takes as much charge as one boot, the state, its current [A]) of the controller's
    calmest state in which something can wake it."""
    best: tuple[float, str, float] | None = None
    for p, part in enumerate(bench.design.parts):
        if part.kind != "controller":
            continue
        able = {w.state for w in part.wakes}
        r = bench.usual.rail_of[p]
        for state in part.states:
            amps = _state_battery_a(bench, p, r, state.name)
            if (state.name in able or not able) and amps > 0 and (best is None or boot_as / amps > best[0]):
                best = (boot_as / amps, state.name, amps)
    return best


def _state_battery_a(bench: TrialBench, p: int, rail: int, name: str) -> float:
    """What a part's state would take from the battery while the gadget rests [A]."""
    part = bench.design.parts[p]
    state = next(s for s in part.states if s.name == name)
    k = next(i for i, m in enumerate(bench.usual.operating_points) if m.mode == bench.rest)
    volts = float(bench.usual.typical.rail_v[rail, k, bench.middle]) or 3.3
    gain = float(bench.usual.marginal_input[rail, k, bench.middle]) or 1.0
    return part_current(state, volts) * part.quantity * gain


def accidents(bench: TrialBench) -> Iterator[Found]:
    """Accidental presses: a lock gesture is a battery feature."""
    for i, session in enumerate(bench.design.day.sessions):
        if session.why != "accident":
            continue
        share = accident_share(bench, session)
        if share < ACCIDENT_SHARE:
            continue
        yield Found(
            code="accidental-wakes",
            lengthens=True,
            severity="fix",
            step="runtime",
            where=f"/day/sessions/{i}",
            facts={
                "duration": (session.total_s, "s"),
                "share": (share, "share"),
                "session": session.name,
                "per_day": (session.per_day, ""),
            },
            ways=lambda session=session: [lock(bench, session).remedy(bench.design)],  # type: ignore[misc]
        )


def unsaved(bench: TrialBench) -> Iterator[Found]:
    """State is saved often enough that a dead cell loses nothing."""
    design, day, state = bench.design, bench.design.day, bench.usual
    keeps = {p.id for p in design.parts if p.kind in ("storage", "sensor")}
    if day.saved_every_s is not None:
        return
    longest = max(
        (s for s in day.sessions if s.why == "planned" and s.seconds >= UNSAVED_S and _uses(bench, s.mode, keeps)),
        key=lambda s: s.seconds, default=None,
    )  # fmt: skip
    mode, charge = state.ending
    if longest is None or mode < 0 or state.charge_seconds > state.lasting_s:
        return
    way = Remedy(
        label=say("way.save-every", interval=(SAVE_EVERY_S, "s")), patch=[replace("/day/saved_every_s", SAVE_EVERY_S)]
    )
    yield Found(
        code="unsaved",
        severity="note",
        step="runtime",
        where="/day/saved_every_s",
        facts={
            "soc": (charge, "share"),
            "interval": (longest.seconds, "s"),
            "mode": design.modes[mode].name,
            "longest": longest.name,
        },
        ways=lambda: [way],
    )


def _uses(bench: TrialBench, mode: str, parts: set[str]) -> bool:
    return any(u.part in parts for m in bench.design.modes if m.id == mode for u in m.uses)


def restart_loop(bench: TrialBench) -> Iterator[Found]:
    """After a brown-out the voltage recovers, the controller starts anew and fails again, until the cell is flat."""
    state, design = bench.usual, bench.design
    mode, charge = state.ending
    if mode < 0 or mode == bench.rest or charge >= 1 or charge < LOOP_LEFT or state.charge_seconds > state.lasting_s:
        return
    failure = state.failures[mode]
    if failure.reason not in ("supply", "input", "start", "collapse", "cutoff", "limit"):
        return
    if failure.reason == "cutoff" and design.battery.cell.chemistry in PROTECTED:
        return  # its protection cuts it off, and it stays off
    resting = state.failures[bench.rest].charge
    if resting >= charge - 0.01 or not any(p.kind == "controller" for p in design.parts):
        return
    rest_a = bench.rest_a + state.pack.self_discharge_a
    lost = (charge - resting) * state.pack.capacity_ah
    volts = state.at(charge, state.pack.open_circuit_v)
    asleep_h = lost / rest_a if rest_a > 0 and bench.sleeps else None
    yield Found(
        code="restart-loop",
        severity="watch",
        step="runtime",
        where=f"/modes/{mode}",
        facts={
            "soc": (charge, "share"),
            "voltage": (volts, "V"),
            "lost": (lost, "Ah"),
            "mode": design.modes[mode].name,
            "asleep": (asleep_h, "h"),
        },
    )
