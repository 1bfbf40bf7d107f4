"""Traps of sleeping and of being switched off: parts that stay on, chips that cannot wake, soft switches."""

from __future__ import annotations

from collections.abc import Iterator

from ..context import Context
from ..design import Design, Mode, Part, ResistorDraw, SeriesStage, Use, WakeBy
from ..figures import Finding, PatchOperation, Remedy
from ..quantities import show
from ..references import BATTERY
from ..remedies import add, behind_load_switch, placed, remove, replace, switch_off

STAYS_ON_SHARE = 0.05
PULL_SHARE = 0.05
WEAK_PULL_OHM = 1e6
SOFT_AGAINST_HARD = 0.5


def cannot_be_switched_off(context: Context) -> Iterator[Finding]:
    """T4: a part without an enable pin or a load switch draws through every sleep."""
    design, state, rest = context.design, context.usual, context.rest
    total = float(state.mode_current_a[rest, context.middle])
    mode = design.modes[rest].name.lower()
    for p, part in enumerate(design.parts):
        own = float(context.part_battery_a[p, rest])
        if part.switchable or part.passenger or part.kind == "lamp" or total <= 0 or own < STAYS_ON_SHARE * total:
            continue
        remedy = _load_switch(context, p)
        after = f"; behind a load switch the runtime is {_runtime(context, remedy)}" if remedy else ""
        yield Finding(
            code="T4-always-on",
            severity="fix",
            step="draw",
            where=f"/parts/{p}",
            title=f"{part.name} cannot be switched off",
            sentence=(
                f"{part.name} has no command and no enable pin that would rest it: it takes {show(own, 'A')} of the "
                f"{show(total, 'A')} drawn while {mode}{after}."
            ),
            remedy=remedy,
        )


def _load_switch(context: Context, p: int) -> Remedy | None:
    """A rail of the part's own behind a load switch that is off while the gadget rests."""
    design = context.design
    part = design.parts[p]
    best = context.load_switch(p)
    if best is None:
        return None
    return Remedy(label=f"Put {best.name} before {part.name}", patch=behind_load_switch(design, p, best))


def cannot_wake(context: Context) -> Iterator[Finding]:
    """T8: the sleep state that was chosen cannot be ended by what has to end it."""
    design = context.design
    for m, mode in enumerate(design.modes):
        for part in design.parts:
            use = next((u for u in mode.uses if u.part == part.id), None)
            if use is None or part.kind != "controller" or not part.wakes:
                continue
            lacks = _lacks(design, mode, part, use.state)
            if not lacks:
                continue
            remedy, after = _state_that_wakes(context, m, part)
            can = f" {after}" if after else " No state of it can; another controller or a wake-up chip is needed."
            yield Finding(
                code="T8-cannot-wake",
                severity="fix",
                step="draw",
                where=f"/modes/{m}",
                title=f"{part.name} would not wake from {use.state}",
                sentence=f"{mode.name} has to be ended by {' and '.join(lacks)}, which {part.name} does not notice in {use.state}.{can}",
                remedy=remedy,
            )


_WAKE_WORDS: dict[WakeBy, str] = {
    "timer": "a timer", "pin": "a pin", "touch": "a touch", "serial": "serial data", "radio": "the radio",
}  # fmt: skip


def _lacks(design: Design, mode: Mode, part: Part, state: str) -> list[str]:
    """What a mode has to be woken by and a controller's state cannot be, in words."""
    wanted = set(mode.woken_by) | ({"pin"} if mode.wake_pins else set())
    if mode.id == design.day.rest and design.day.wakes:
        wanted.add("timer")
    able = {b for w in part.wakes if w.state == state for b in w.by}
    pins = max((w.pins for w in part.wakes if w.state == state and "pin" in w.by), default=0)
    words = [_WAKE_WORDS[w] for w in _WAKE_WORDS if w in wanted - able]
    if "pin" in wanted & able and mode.wake_pins > pins:
        words.append(f"{mode.wake_pins} pins (it has {pins})")
    return words


def _state_that_wakes(context: Context, m: int, part: Part) -> tuple[Remedy | None, str]:
    """The calmest state of a controller that can be woken by all that a mode asks for."""
    design, mode = context.design, context.design.modes[m]
    u = next(i for i, x in enumerate(mode.uses) if x.part == part.id)
    for state in part.states:  # listed from the calmest to the busiest
        if any(w.state == state.name for w in part.wakes) and not _lacks(design, mode, part, state.name):
            remedy = Remedy(
                label=f"{part.name}: {state.name} while {mode.name.lower()}",
                patch=[replace(f"/modes/{m}/uses/{u}", Use(part=part.id, state=state.name))],
            )
            return remedy, f"In {state.name} it does; the runtime is then {_runtime(context, remedy)}."
    return None, ""


def pull_resistors(context: Context) -> Iterator[Finding]:
    """T8: pull resistors and ladders draw while the gadget rests."""
    design, rest = context.design, context.rest
    total = float(context.usual.mode_current_a[rest, context.middle])
    for p, part in enumerate(design.parts):
        own = float(context.part_battery_a[p, rest])
        if part.divider or total <= 0 or own < PULL_SHARE * total:
            continue
        use = next(u for u in design.modes[rest].uses if u.part == part.id)
        k, state = next((k, s) for k, s in enumerate(part.states) if s.name == use.state)
        if not isinstance(state.draw, ResistorDraw) or part.kind in ("light", "motor"):
            continue
        ohm = state.draw.resistance_ohm.typical
        if ohm >= WEAK_PULL_OHM:
            continue
        weak = {"typical": WEAK_PULL_OHM, "least": None, "most": None}
        patch = [replace(f"/parts/{p}/states/{k}/draw/resistance_ohm", weak)]
        remedy = Remedy(label=f"{part.name}: {show(WEAK_PULL_OHM, 'Ω')}", patch=patch)
        yield Finding(
            code="T8-pull-resistors",
            severity="watch",
            step="draw",
            where=f"/parts/{p}",
            title=f"{part.name} draw all the time",
            sentence=(
                f"{show(ohm, 'Ω')} take {show(own, 'A')} of the {show(total, 'A')} drawn while "
                f"{design.modes[rest].name.lower()}; {show(WEAK_PULL_OHM, 'Ω')} do for most buttons and lines at rest, and the "
                f"runtime is {_runtime(context, remedy)}."
            ),
            remedy=remedy,
        )  # fmt: skip


def soft_switch(context: Context) -> Iterator[Finding]:
    """T14: switched off by an enable line, the gadget still drains its battery; a hard switch does not let it."""
    design, state = context.design, context.usual
    for m, mode in enumerate(design.modes):
        if not mode.switched_off:
            continue
        drain = float(state.mode_current_a[m, context.middle])
        soft, hard = context.shelf_s(m), context.shelf_s(None)
        wanted = design.brief.shelf_h
        short = wanted is not None and soft < wanted * 3600
        if drain <= 0 or (soft >= SOFT_AGAINST_HARD * hard and not short):
            continue
        goal = f"; wanted are {show(wanted, 'h')}" if short else ""
        yield Finding(
            code="T14-soft-switch",
            severity="fix" if short else "watch",
            step="supply",
            where=f"/modes/{m}",
            title="Switched off, it still drains the battery",
            sentence=(
                f"While {mode.name.lower()} it takes {show(drain, 'A')}: a full battery is empty after {show(soft, 's')}{goal}. "
                f"Behind a hard switch it keeps for {show(hard, 's')}."
            ),
            remedy=_hard_switch(context),
        )


def _hard_switch(context: Context) -> Remedy | None:
    """A switch from the catalogue between the battery and everything that hangs on it."""
    design = context.design
    peak = context.peak_a[0]
    switches = [
        s for s in context.catalogue.stages
        if isinstance(s, SeriesStage) and s.role == "switch" and s.limit_a >= peak and s.shutdown_a == 0
    ]  # fmt: skip
    if not switches:
        return None
    best = min(switches, key=lambda s: (s.resistance_ohm * peak, s.cost))
    switch = placed(design, best, BATTERY)
    patch: list[PatchOperation] = []
    for i, stage in enumerate(design.supply.stages):
        patch += [replace(f"/supply/stages/{i}/input", switch.id)] if stage.input == BATTERY else []
        patch += [replace(f"/supply/stages/{i}/other", switch.id)] if getattr(stage, "other", "") == BATTERY else []
    patch += [
        replace(f"/supply/rails/{i}/feed", switch.id) for i, r in enumerate(design.supply.rails) if r.feed == BATTERY
    ]
    patch.append(add("/supply/stages/-", switch))
    patch += switch_off(design, switch.id, lambda m: m.switched_off)
    return Remedy(label=f"Put {best.name} behind the battery", patch=patch)


def _runtime(context: Context, remedy: Remedy | None) -> str:
    if remedy is None:
        return "unknown"
    return f"{show(context.after(remedy.patch).seconds, 's')} instead of {show(context.usual.seconds, 's')}"


def divider_drain(context: Context) -> Iterator[Finding]:
    """T15: a measuring divider drains the battery day and night."""
    design, rest = context.design, context.rest
    total = float(context.usual.mode_current_a[rest, context.middle])
    mode = design.modes[rest]
    for p, part in enumerate(design.parts):
        own = float(context.part_battery_a[p, rest])
        if part.divider is None or total <= 0 or own < STAYS_ON_SHARE * total or len(mode.uses) < 2:
            continue
        u = next(i for i, x in enumerate(mode.uses) if x.part == part.id)
        patch = [replace(f"/parts/{p}/divider/gated", True), remove(f"/modes/{rest}/uses/{u}")]
        remedy = Remedy(label=f"Gate {part.name}", patch=patch)
        ohm = part.divider.upper_ohm + part.divider.lower_ohm
        yield Finding(
            code="T15-divider-drain",
            severity="fix",
            step="draw",
            where=f"/parts/{p}",
            title=f"{part.name} drains day and night",
            sentence=(
                f"{show(ohm, 'Ω')} across the rail take {show(own, 'A')} of the {show(total, 'A')} drawn while "
                f"{mode.name.lower()}; connected only for a reading, the runtime is {_runtime(context, remedy)}. "
                "Or raise its resistors and hold the pin with a capacitor."
            ),
            remedy=remedy,
        )
