"""Measures on what is drawn while the gadget is awake: how long, how often, how brightly."""

from __future__ import annotations

import re
from collections.abc import Iterator

from ...design import Design, LedDraw, Mode, Use
from ...design.basics import fresh_id
from ...design.patches import add, replace
from ...figures import PatchOperation
from ...measures.awake import (
    SHORTER,
    accident_share,
    dimmer,
    find_wake,
    lock,
    set_session,
    set_wake,
    shorter_session,
    shorter_wake,
)
from ...measures.bench import TrialBench
from ...measures.edits import without_uses
from ...measures.measure import Change, Measure, calmer, find_part, find_use, rounded, state_a
from ...words import Fact

LONGER, BATCH = 2.0, 5
MATTERS = 0.02  # of the day's charge
SENDING = re.compile(r"send|transmit|radio|join|connect", re.IGNORECASE)


def wakes(bench: TrialBench) -> Iterator[Measure]:
    """Shorter and rarer wakes; sending only every fifth reading."""
    design = bench.design
    for i, wake in enumerate(design.day.wakes):
        share = bench.charge_share(wake.mode, wake.awake_s * bench.wakes_a_day[i])
        if share < MATTERS:
            continue
        facts: dict[str, Fact] = {"event": wake.name, "share": (share, "share")}
        longer = rounded(wake.every_s * LONGER)
        yield shorter_wake(bench, wake)
        yield Measure(
            f"longer-interval:{wake.id}", "longer-interval", "firmware", f"wake-interval:{wake.id}",
            {**facts, "longer": (longer, "s"), "now": (wake.every_s, "s")}, set_wake(wake.id, "every_s", longer),
        )  # fmt: skip
        mode = design.modes[design.index.modes[wake.mode]]
        if _quiet(design, mode) is not None and len(design.modes) < 64 and len(design.day.wakes) < 64:
            yield Measure(
                f"batch:{wake.id}", "batch", "firmware", f"wake-interval:{wake.id}",
                {**facts, "later": (wake.every_s * BATCH, "s")}, _batch(wake.id),
            )  # fmt: skip


def _quiet(design: Design, mode: Mode) -> list[Use] | None:
    """A mode's uses without sending: radios at rest, phases that send left out. None where it does not send."""
    uses, sends = [], False
    for use in mode.uses:
        part = design.part(use.part)
        if part.kind == "radio" and calmer(part, use.state):
            sends = True
            uses.append(Use(part=part.id, state=calmer(part, use.state)[0].name))
        elif use.burst and any(SENDING.search(p.state) for p in use.burst):
            kept = [p for p in use.burst if not SENDING.search(p.state)]
            sends = True
            rest = use.rest or min(part.states, key=state_a).name
            busy = use.state if not SENDING.search(use.state) else rest
            uses.append(
                use.model_copy(update={"burst": kept, "state": busy}) if kept else Use(part=part.id, state=rest)
            )
        else:
            uses.append(use)
    return uses if sends else None


def _batch(key: str) -> Change:
    def change(design: Design) -> list[PatchOperation] | None:
        found = find_wake(design, key)
        if found is None:
            return None
        i, wake = found
        mode = design.modes[design.index.modes[wake.mode]]
        quiet = _quiet(design, mode)
        if quiet is None:
            return None
        fresh = fresh_id(f"{mode.id}-kept"[:50], design.index.modes)
        kept = mode.model_copy(update={"id": fresh, "name": f"{mode.name}, not sent"[:120], "uses": quiet})
        reading = wake.model_copy(
            update={
                "id": fresh_id(f"{wake.id}-kept"[:50], design.index.wakes),
                "name": f"{wake.name}, not sent"[:120],
                "mode": fresh,
                "every_s": rounded(wake.every_s * BATCH / (BATCH - 1)),
            }
        )
        return [
            add("/modes/-", kept), add("/day/wakes/-", reading),
            replace(f"/day/wakes/{i}/every_s", rounded(wake.every_s * BATCH)),
        ]  # fmt: skip

    return change


def sessions(bench: TrialBench) -> Iterator[Measure]:
    """Shorter sessions and timeouts; a lock against accidental wakes."""
    for session in bench.design.day.sessions:
        if session.why == "accident":
            if accident_share(bench, session) >= MATTERS:
                yield lock(bench, session)
        elif bench.charge_share(session.mode, session.seconds * session.per_day) >= MATTERS:
            yield shorter_session(bench, session)
        if session.after is not None:
            waiting = bench.charge_share(session.after.mode, session.after.seconds * session.per_day)
            half = rounded(session.after.seconds * SHORTER)
            if waiting >= MATTERS:
                yield Measure(
                    f"shorter-timeout:{session.id}", "shorter-timeout", "firmware", f"session-timeout:{session.id}",
                    {"event": session.name, "half": (half, "s"), "now": (session.after.seconds, "s"), "share": (waiting, "share")},
                    set_session(session.id, "after/seconds", half),
                )  # fmt: skip


def bursts(bench: TrialBench) -> Iterator[Measure]:
    """The costliest phase of each burst half as long; bursts of the rest mode half as often."""
    design = bench.design
    for m, mode in enumerate(design.modes):
        share_of_day = float(bench.usual.shares[m]) * float(bench.usual.mode_current_a[m, bench.middle])
        if share_of_day < MATTERS * bench.mean_a:
            continue
        for use in mode.uses:
            if not use.burst:
                continue
            part = design.part(use.part)
            own = {s.name: state_a(s) for s in part.states}
            k = max(range(len(use.burst)), key=lambda k: own[use.burst[k].state] * use.burst[k].seconds)
            phase = use.burst[k]
            half = rounded(phase.seconds * SHORTER)
            yield Measure(
                f"shorter-phase:{mode.id}:{part.id}", "shorter-phase", "firmware", f"phase:{mode.id}:{part.id}",
                {"mode": mode.name, "part": part.name, "state": phase.state, "half": (half, "s"), "now": (phase.seconds, "s"),
                 "current": (own[phase.state] * part.quantity, "A")},
                _phase(mode.id, part.id, k, half),
            )  # fmt: skip
            if use.period_s and m == bench.rest:
                longer = rounded(use.period_s * LONGER)
                yield Measure(
                    f"longer-period:{mode.id}:{part.id}", "longer-interval", "firmware", f"period:{mode.id}:{part.id}",
                    {"part": part.name, "longer": (longer, "s"), "now": (use.period_s, "s"), "mode": mode.name},
                    _period(mode.id, part.id, longer), "longer-period",
                )  # fmt: skip


def _phase(mode: str, part: str, k: int, seconds: float) -> Change:
    def change(design: Design) -> list[PatchOperation] | None:
        found = find_use(design, mode, part)
        if found is None or len(found[1].burst) <= k:
            return None
        return [replace(f"{found[0]}/burst/{k}/seconds", seconds)]

    return change


def _period(mode: str, part: str, seconds: float) -> Change:
    def change(design: Design) -> list[PatchOperation] | None:
        found = find_use(design, mode, part)
        return [replace(f"{found[0]}/period_s", seconds)] if found and found[1].burst else None

    return change


def lights(bench: TrialBench) -> Iterator[Measure]:
    """Displays and lights that can be dimmer, lit in turns, or not there at all."""
    design, day = bench.design, bench.usual.shares
    if bench.mean_a <= 0:
        return
    costs = bench.part_battery_a @ day
    for p, part in enumerate(design.parts):
        if part.kind not in ("display", "light", "led") or float(costs[p]) < MATTERS * bench.mean_a:
            continue
        facts: dict[str, Fact] = {"part": part.name, "share": (float(costs[p]) / bench.mean_a, "share")}
        used = {u.state for m in design.modes for u in m.uses if u.part == part.id and not u.burst}
        top = max((s for s in part.states if s.name in used), key=state_a, default=None)
        darker = dimmer(bench, p)
        if darker is not None:
            yield darker
        elif top is not None and isinstance(top.draw, LedDraw):
            k = part.states.index(top)
            ohm = rounded(top.draw.resistance_ohm.typical * LONGER)
            yield Measure(
                f"dim:{part.id}", "dim", "build", f"rest:{part.id}",
                {**facts, "resistor": (ohm, "Ω")}, _resistor(part.id, k, ohm), "half-as-bright",
            )  # fmt: skip
        if part.kind == "light" and part.quantity > 1 and top is not None:
            yield Measure(
                f"alternate:{part.id}", "alternate", "firmware", f"light:{part.id}",
                facts, _half_duty(part.id),
            )  # fmt: skip
        if part.kind == "led":
            yield Measure(
                f"no-led:{part.id}", "no-led", "build", f"rest:{part.id}",
                facts, _nowhere(part.id),
            )  # fmt: skip


def _resistor(part: str, state: int, ohm: float) -> Change:
    def change(design: Design) -> list[PatchOperation] | None:
        found = find_part(design, part)
        if found is None:
            return None
        where = f"/parts/{found[0]}/states/{state}/draw/resistance_ohm"
        return [replace(where, {"typical": ohm, "min": None, "max": None})]

    return change


def _half_duty(part: str) -> Change:
    """Half of them lit at a time: where they are lit, and the others are as dark as they are at rest, drawing what that draws."""

    def change(design: Design) -> list[PatchOperation] | None:
        found = find_part(design, part)
        if found is None or len(found[1].states) < 2:
            return None
        dark = min(found[1].states, key=state_a).name
        patch = []
        for m, mode in enumerate(design.modes):
            for u, use in enumerate(mode.uses):
                if use.part == part and not use.burst and use.state != dark:
                    patch.append(replace(f"/modes/{m}/uses/{u}/duty", rounded(use.duty / 2)))
                    if use.rest is None:
                        patch.append(replace(f"/modes/{m}/uses/{u}/rest", dark))
        return patch or None

    return change


def _nowhere(part: str) -> Change:
    def change(design: Design) -> list[PatchOperation] | None:
        if part not in design.index.parts or any(len(m.uses) == 1 and m.uses[0].part == part for m in design.modes):
            return None
        return [op for m in range(len(design.modes)) for op in without_uses(design, m, {part})] or None

    return change


AWAKE = (wakes, sessions, bursts, lights)
