"""Measures on what is drawn while the gadget is awake: how long, how often, how brightly."""

from __future__ import annotations

import re
from collections.abc import Iterator

from ...design import Design, LedDraw, Mode, Part, Session, Use, Wake
from ...design.patches import add, fresh_id, replace
from ...figures import PatchOperation
from ...findings.awake import SHORT_EVENT_S
from ...measures.bench import TrialBench
from ...measures.edits import without_uses
from ...quantities import show
from .measure import Change, Measure, calmer, find_part, find_use, rounded, state_a

SHORTER, LONGER, BATCH, LOCK = 0.5, 2.0, 5, 0.05
MATTERS = 0.02  # of the day's charge
SENDING = re.compile(r"send|transmit|radio|join|connect", re.IGNORECASE)


def wakes(bench: TrialBench) -> Iterator[Measure]:
    """Shorter and rarer wakes; sending only every fifth reading."""
    design = bench.design
    for i, wake in enumerate(design.day.wakes):
        share = bench.charge_share(wake.mode, wake.awake_s * bench.wakes_a_day[i])
        if share < MATTERS:
            continue
        said = f"{wake.name} takes about {show(share, 'share')} of the day's charge"
        half, longer = rounded(wake.awake_s * SHORTER), rounded(wake.every_s * LONGER)
        yield Measure(
            f"shorter-awake:wake:{i}", "shorter-awake", "firmware", f"wake-length:{i}",
            f"{wake.name}: {show(half, 's')} instead of {show(wake.awake_s, 's')}", f"{said}.",
            "A fixed address, a kept channel or fewer retries are the usual ways; readings may be missed.",
            _wake(wake.name, "awake_s", half),
        )  # fmt: skip
        yield Measure(
            f"longer-interval:{i}", "longer-interval", "firmware", f"wake-interval:{i}",
            f"{wake.name}: every {show(longer, 's')} instead of every {show(wake.every_s, 's')}", f"{said}.",
            f"A change is noticed up to {show(longer, 's')} late.", _wake(wake.name, "every_s", longer),
        )  # fmt: skip
        mode = next(m for m in design.modes if m.id == wake.mode)
        if _quiet(design, mode) is not None and len(design.modes) < 64 and len(design.day.wakes) < 64:
            yield Measure(
                f"batch:{i}", "batch", "firmware", f"wake-interval:{i}", f"{wake.name}: read every time, send every fifth time",
                f"{said}, and most of it is sending.", f"What was read is known up to {show(wake.every_s * BATCH, 's')} later.",
                _batch(wake.name),
            )  # fmt: skip


def _find_wake(design: Design, name: str) -> tuple[int, Wake] | None:
    return next(((i, w) for i, w in enumerate(design.day.wakes) if w.name == name), None)


def _wake(name: str, field: str, value: float) -> Change:
    def change(design: Design) -> list[PatchOperation] | None:
        found = _find_wake(design, name)
        return [replace(f"/day/wakes/{found[0]}/{field}", value)] if found else None

    return change


def _quiet(design: Design, mode: Mode) -> list[Use] | None:
    """A mode's uses without sending: radios at rest, phases that send left out. None where it does not send."""
    parts = {p.id: p for p in design.parts}
    uses, sends = [], False
    for use in mode.uses:
        part = parts[use.part]
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


def _batch(name: str) -> Change:
    def change(design: Design) -> list[PatchOperation] | None:
        found = _find_wake(design, name)
        if found is None:
            return None
        i, wake = found
        mode = next(m for m in design.modes if m.id == wake.mode)
        quiet = _quiet(design, mode)
        if quiet is None:
            return None
        fresh = fresh_id(f"{mode.id}-kept"[:50], {m.id for m in design.modes})
        kept = mode.model_copy(update={"id": fresh, "name": f"{mode.name}, not sent"[:120], "uses": quiet})
        reading = wake.model_copy(
            update={
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
    for i, session in enumerate(bench.design.day.sessions):
        share = bench.charge_share(session.mode, session.seconds * session.per_day)
        if session.why == "accident":
            whole = sum(bench.charge_share(s.mode, s.seconds * session.per_day) for s in session.stretches)
            if whole >= MATTERS:
                yield Measure(
                    f"lock:{i}", "lock", "firmware", f"session-often:{i}", f"A lock against {session.name.lower()}",
                    f"{session.name} takes about {show(whole, 'share')} of the day's charge.",
                    "A long hold or a pattern of presses before it wakes; one in twenty still gets through.",
                    _session(session.name, "per_day", rounded(session.per_day * LOCK)),
                )  # fmt: skip
        elif share >= MATTERS:
            event = session.seconds <= SHORT_EVENT_S
            half = rounded(session.seconds * SHORTER)
            yield Measure(
                f"shorter-awake:session:{i}", "shorter-awake", "firmware" if event else "habit", f"session-length:{i}",
                f"{session.name}: {show(half, 's')} instead of {show(session.seconds, 's')}",
                f"{session.name} takes about {show(share, 'share')} of the day's charge.",
                "What it did in the other half is missing." if event else "The gadget is in use for half as long.", _session(session.name, "seconds", half),
            )  # fmt: skip
        if session.after is not None:
            waiting = bench.charge_share(session.after.mode, session.after.seconds * session.per_day)
            half = rounded(session.after.seconds * SHORTER)
            if waiting >= MATTERS:
                yield Measure(
                    f"shorter-timeout:{i}", "shorter-timeout", "firmware", f"session-timeout:{i}",
                    f"{session.name}: off after {show(half, 's')} instead of {show(session.after.seconds, 's')}",
                    f"Waiting for the timeout takes about {show(waiting, 'share')} of the day's charge.",
                    "It goes dark sooner; one press brings it back.", _session(session.name, "after/seconds", half),
                )  # fmt: skip


def _session(name: str, field: str, value: float) -> Change:
    def change(design: Design) -> list[PatchOperation] | None:
        found: tuple[int, Session] | None = next(
            ((i, s) for i, s in enumerate(design.day.sessions) if s.name == name), None
        )
        return [replace(f"/day/sessions/{found[0]}/{field}", value)] if found else None

    return change


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
            part = next(p for p in design.parts if p.id == use.part)
            own = {s.name: state_a(s) for s in part.states}
            k = max(range(len(use.burst)), key=lambda k: own[use.burst[k].state] * use.burst[k].seconds)
            phase = use.burst[k]
            half = rounded(phase.seconds * SHORTER)
            yield Measure(
                f"shorter-phase:{mode.id}:{part.id}", "shorter-phase", "firmware", f"phase:{mode.id}:{part.id}",
                f"{mode.name}: {part.name} in {phase.state} for {show(half, 's')} instead of {show(phase.seconds, 's')}",
                f"Of its phases, {phase.state} at {show(own[phase.state] * part.quantity, 'A')} costs most.",
                "Less data, a faster rate, a kept connection; what it did in the other half is missing.",
                _phase(mode.id, part.id, k, half),
            )  # fmt: skip
            if use.period_s and m == bench.rest:
                longer = rounded(use.period_s * LONGER)
                yield Measure(
                    f"longer-period:{mode.id}:{part.id}", "longer-interval", "firmware", f"period:{mode.id}:{part.id}",
                    f"{part.name}: every {show(longer, 's')} instead of every {show(use.period_s, 's')}",
                    f"Its burst comes back every {show(use.period_s, 's')} while {mode.name.lower()}.",
                    f"A change is noticed up to {show(longer, 's')} late.", _period(mode.id, part.id, longer),
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
        share = show(float(costs[p]) / bench.mean_a, "share")
        said = f"{part.name} takes {share} of the day's charge."
        used = {u.state for m in design.modes for u in m.uses if u.part == part.id and not u.burst}
        top = max((s for s in part.states if s.name in used), key=state_a, default=None)
        lower = calmer(part, top.name)[1:] if top else []  # the calmest of all is dark
        if top is not None and lower:
            yield Measure(
                f"dim:{part.id}", "dim", "firmware", f"light:{part.id}", f"{part.name}: {lower[-1].name} instead of {top.name}", said,
                "Harder to see in bright light.", _state_everywhere(part.id, top.name, lower[-1].name),
            )  # fmt: skip
        elif top is not None and isinstance(top.draw, LedDraw):
            k = part.states.index(top)
            ohm = rounded(top.draw.resistance_ohm.typical * LONGER)
            yield Measure(
                f"dim:{part.id}", "dim", "build", f"rest:{part.id}", f"{part.name} half as bright", said,
                f"{show(ohm, 'Ω')} in series instead of half of that; still plain to see indoors.", _resistor(part.id, k, ohm),
            )  # fmt: skip
        if part.kind == "light" and part.quantity > 1 and top is not None:
            yield Measure(
                f"alternate:{part.id}", "alternate", "firmware", f"light:{part.id}", f"{part.name}: light half of them at a time",
                said, "Fast enough it looks lit, slower it looks deliberate.", _half_duty(part.id),
            )  # fmt: skip
        if part.kind == "led":
            yield Measure(
                f"no-led:{part.id}", "no-led", "build", f"rest:{part.id}", f"No {part.name}", said,
                "Lift its resistor. Nothing shows any more that the gadget has power.", _nowhere(part.id),
            )  # fmt: skip


def _state_everywhere(part: str, old: str, new: str) -> Change:
    def change(design: Design) -> list[PatchOperation] | None:
        patch = [
            replace(f"/modes/{m}/uses/{u}/state", new)
            for m, mode in enumerate(design.modes)
            for u, use in enumerate(mode.uses)
            if use.part == part and use.state == old and not use.burst
        ]
        return patch or None

    return change


def _resistor(part: str, state: int, ohm: float) -> Change:
    def change(design: Design) -> list[PatchOperation] | None:
        found = find_part(design, part)
        if found is None:
            return None
        where = f"/parts/{found[0]}/states/{state}/draw/resistance_ohm"
        return [replace(where, {"typical": ohm, "min": None, "max": None})]

    return change


def _half_duty(part: str) -> Change:
    def change(design: Design) -> list[PatchOperation] | None:
        patch = [
            replace(f"/modes/{m}/uses/{u}/duty", rounded(use.duty / 2))
            for m, mode in enumerate(design.modes)
            for u, use in enumerate(mode.uses)
            if use.part == part and not use.burst
        ]
        return patch or None

    return change


def _nowhere(part: str) -> Change:
    def change(design: Design) -> list[PatchOperation] | None:
        found: Part | None = next((p for p in design.parts if p.id == part), None)
        if found is None or any(len(m.uses) == 1 and m.uses[0].part == part for m in design.modes):
            return None
        return [op for m in range(len(design.modes)) for op in without_uses(design, m, {part})] or None

    return change


AWAKE = (wakes, sessions, bursts, lights)
