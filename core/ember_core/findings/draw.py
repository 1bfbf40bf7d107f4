"""Traps of the draw: units, passengers, lamps, displays."""

from __future__ import annotations

from collections.abc import Iterator

from ..context import Context
from ..design import LampDraw, State
from ..designers.lamp import MODERN_MCD_PER_MA
from ..figures import Finding, PatchOperation, Remedy
from ..quantities import show
from ..remedies import replace, without_uses

SHORT_OF_GOAL = 0.2
PASSENGER_SHARE = 0.10
BOARD_SLEEPS_ABOVE_A = 1e-3
LAMP_SHARE = 0.05
LIGHT_SHARE = 0.05
OLD_STYLE_MCD_PER_MA = 20.0
DISPLAY_SHARE = 0.25


def capacity_against_current(context: Context) -> Iterator[Finding]:
    """T1: the plain division of capacity by current is nowhere near the goal, often a mixed-up unit."""
    goal = context.design.brief.goal_h
    state = context.usual
    if not context.design.parts or state.seconds / 3600 >= SHORT_OF_GOAL * goal or context.mean_a <= 0:
        return
    hours = state.pack.printed_ah / context.mean_a
    costs = context.part_battery_a @ state.shares
    p = int(costs.argmax())
    part = context.design.parts[p]
    capacity, mean = show(state.pack.printed_ah, "Ah"), show(context.mean_a, "A")
    yield Finding(
        code="T1-capacity-against-current",
        severity="fix",
        step="draw",
        where=f"/parts/{p}",
        title="Capacity and current do not match the goal",
        sentence=(
            f"A battery of {capacity} at a mean of {mean} is {show(hours, 'h')}, and the goal is {show(goal, 'h')}. "
            f"{part.name} owns {show(float(costs[p]) / context.mean_a, 'share')} of it: check that its figures are "
            "currents (mA) and not charges (mAh), and that it may really draw this all the time."
        ),
    )


def passengers(context: Context) -> Iterator[Finding]:
    """T2: something that came along on a board module decides the sleep current."""
    rest = context.rest
    total = float(context.usual.mode_current_a[rest, context.middle])
    for p, part in enumerate(context.design.parts):
        own = float(context.part_battery_a[p, rest])
        if not part.passenger or part.kind == "lamp" or total <= 0 or own < PASSENGER_SHARE * total:
            continue
        patch = without_uses(context.design, rest, {part.id})
        remedy = None
        if len(context.design.modes[rest].uses) > 1:
            remedy = Remedy(label=f"Take {part.name} out while {context.design.modes[rest].name.lower()}", patch=patch)
        yield Finding(
            code="T2-passenger",
            severity="fix",
            step="draw",
            where=f"/parts/{p}",
            title=f"{part.name} decides the sleep",
            sentence=(
                f"{part.name} came along on a module and takes {show(own, 'A')} of the {show(total, 'A')} that the "
                f"gadget draws while {context.design.modes[rest].name.lower()}; without it the runtime is "
                f"{_without(context, remedy)}. Use a bare module, or feed it from the port only."
            ),
            remedy=remedy,
        )


def board_with_passengers(context: Context) -> Iterator[Finding]:
    """T2: a board whose calmest state is milliamperes carries a bridge and a lamp that a barer one does not."""
    design, rest = context.design, context.rest
    total = float(context.usual.mode_current_a[rest, context.middle])
    for p, part in enumerate(design.parts):
        own = float(context.part_battery_a[p, rest])
        use = next((u for u in design.modes[rest].uses if u.part == part.id), None)
        if part.kind != "controller" or use is None or use.burst or use.state != min(part.states, key=_typical).name:
            continue
        if own < BOARD_SLEEPS_ABOVE_A or own < 0.5 * total:
            continue
        remedy = _barer_board(context, p, use.state)
        if remedy is None:
            continue
        yield Finding(
            code="T2-board",
            severity="fix",
            step="draw",
            where=f"/parts/{p}",
            title=f"{part.name} cannot sleep deeply",
            sentence=(
                f"In {use.state} it still takes {show(own, 'A')} of the {show(total, 'A')} drawn while {design.modes[rest].name.lower()}: "
                f"its bridge, lamp and regulator stay awake. With a barer board the runtime is {_without(context, remedy)}."
            ),
            remedy=remedy,
        )


def _barer_board(context: Context, p: int, resting: str) -> Remedy | None:
    """A catalogue controller with the same states that rests with a tenth, and stands the rail's voltage."""
    design = context.design
    part = design.parts[p]
    volts = float(context.highest_rail_v[context.usual.rail_of[p]])
    names = {s.name for s in part.states}
    calm = min(_typical(s) for s in part.states)
    fitting = [
        x for x in context.catalogue.parts
        if x.kind == "controller" and names <= {s.name for s in x.states} and (x.supply_min_v or 0) <= volts <= (x.supply_max_v or 100)
        and _typical(next(s for s in x.states if s.name == resting)) < calm / 10
    ]  # fmt: skip
    if not fitting:
        return None
    best = min(fitting, key=lambda x: (x.body is None, x.cost))
    new = best.model_copy(update={"id": part.id, "rail": part.rail, "quantity": part.quantity})
    if new.body is not None and part.body is not None:
        new = new.model_copy(update={"body": new.body.model_copy(update={"position_mm": part.body.position_mm})})
    return Remedy(label=f"Use {best.name}", patch=[replace(f"/parts/{p}", new)])


def indicator_lamps(context: Context) -> Iterator[Finding]:
    """T3: a lamp that burns while the gadget rests."""
    rest = context.rest
    total = float(context.usual.mode_current_a[rest, context.middle])
    for p, part in enumerate(context.design.parts):
        own = float(context.part_battery_a[p, rest])
        if part.kind != "lamp" or total <= 0 or own < LAMP_SHARE * total:
            continue
        mode = context.design.modes[rest].name.lower()
        remedy = None
        if len(context.design.modes[rest].uses) > 1:
            remedy = Remedy(label=f"{part.name} dark while {mode}", patch=without_uses(context.design, rest, {part.id}))
        yield Finding(
            code="T3-indicator-lamp",
            severity="fix",
            step="draw",
            where=f"/parts/{p}",
            title=f"{part.name} burns while the gadget sleeps",
            sentence=(
                f"{part.name} takes {show(own, 'A')} of the {show(total, 'A')} drawn while {mode}; dark, the runtime is "
                f"{_without(context, remedy)}. Lift its resistor, or hang it on a pin."
            ),
            remedy=remedy,
        )


def _without(context: Context, remedy: Remedy | None) -> str:
    if remedy is None:
        return "as long as the cell keeps"
    after = context.after(remedy.patch).seconds
    return f"{show(after, 's')} instead of {show(context.usual.seconds, 's')}"


def _day_share(context: Context, part: int) -> float:
    """A part's share of the charge drawn over the day, 0..1."""
    return float(context.part_battery_a[part] @ context.usual.shares) / context.mean_a if context.mean_a > 0 else 0.0


def old_style_lamps(context: Context) -> Iterator[Finding]:
    """T5: old-style lamps give little light for their current."""
    for p, part in enumerate(context.design.parts):
        share = _day_share(context, p)
        if part.mcd_per_ma is None or part.mcd_per_ma >= OLD_STYLE_MCD_PER_MA or share < LIGHT_SHARE:
            continue
        remedy = _efficient(context, p, part.mcd_per_ma / MODERN_MCD_PER_MA)
        own = float(context.part_battery_a[p] @ context.usual.shares)
        yield Finding(
            code="T5-old-style-lamp",
            severity="fix",
            step="draw",
            where=f"/parts/{p}",
            title=f"{part.name} gives little light for its current",
            sentence=(
                f"{part.name} gives {part.mcd_per_ma:g} mcd per mA and takes {show(own, 'A')} over the day, {show(share, 'share')} of "
                f"all; an efficient lamp is as bright with {show(own * part.mcd_per_ma / MODERN_MCD_PER_MA, 'A')}. The runtime is then "
                f"{_without(context, remedy)}. Dimming, or lighting one of two at a time, halves it again."
            ),
            remedy=remedy,
        )


def _efficient(context: Context, p: int, factor: float) -> Remedy | None:
    """The same brightness from an efficient lamp: all currents times a factor below 1."""
    part = context.design.parts[p]
    patch: list[PatchOperation] = [replace(f"/parts/{p}/mcd_per_ma", MODERN_MCD_PER_MA)]
    for k, state in enumerate(part.states):
        dumped = state.draw.model_dump(mode="json")
        for key in ("current_a", "power_w", "resistance_ohm"):
            if key in dumped:
                scale = 1 / factor if isinstance(state.draw, LampDraw) or key == "resistance_ohm" else factor
                dumped[key] = {n: None if v is None else float(f"{v * scale:.4g}") for n, v in dumped[key].items()}
        patch.append(replace(f"/parts/{p}/states/{k}/draw", dumped))
    return context.remedy(f"An efficient lamp for {part.name}", patch)


def display_lever(context: Context) -> Iterator[Finding]:
    """T6: the display is often the largest lever: dimmer, in part, or for a shorter time."""
    design, state = context.design, context.usual
    for p, part in enumerate(design.parts):
        share = _day_share(context, p)
        if part.kind != "display" or share < DISPLAY_SHARE:
            continue
        tried = [x for x in (_calmer_display(context, p), _shorter_display(context, p)) if x is not None]
        if not tried:
            continue
        gains = [(context.after(remedy.patch).seconds, words, remedy) for words, remedy in tried]
        best = max(gains, key=lambda g: g[0])
        if best[0] <= 1.02 * state.seconds:
            continue
        options = "; ".join(f"{words} it is {show(seconds, 's')}" for seconds, words, _ in gains)
        yield Finding(
            code="T6-display",
            severity="watch",
            step="draw",
            where=f"/parts/{p}",
            title=f"{part.name} is the largest lever",
            sentence=f"It takes {show(share, 'share')} of the charge of a day, and the runtime is {show(state.seconds, 's')}; {options}.",
            remedy=best[2],
        )


def _typical(state: State) -> float:
    dumped = state.draw.model_dump()
    return next((float(dumped[k]["typical"]) for k in ("current_a", "power_w") if k in dumped), 0.0)


def _calmer_display(context: Context, p: int) -> tuple[str, Remedy] | None:
    """The next calmer state that still shows something, wherever the busiest one is used."""
    design, part = context.design, context.design.parts[p]
    ranked = sorted(part.states, key=_typical)
    used = {u.state for m in design.modes for u in m.uses if u.part == part.id and not u.burst}
    top = next((s for s in reversed(ranked) if s.name in used), None)
    if top is None or ranked.index(top) < 2:
        return None
    calmer = ranked[ranked.index(top) - 1]
    patch = [
        replace(f"/modes/{m}/uses/{u}/state", calmer.name)
        for m, mode in enumerate(design.modes)
        for u, use in enumerate(mode.uses)
        if use.part == part.id and use.state == top.name and not use.burst
    ]
    return f"{calmer.name} instead of {top.name}", Remedy(label=f"{part.name}: {calmer.name}", patch=patch)


def _shorter_display(context: Context, p: int) -> tuple[str, Remedy] | None:
    """Half the time in the mode in which it costs most, where that mode is a session."""
    design, state = context.design, context.usual
    costly = int((context.part_battery_a[p] * state.shares).argmax())
    sessions = [(i, s) for i, s in enumerate(design.day.sessions) if s.mode == design.modes[costly].id]
    if not sessions or costly == context.rest:
        return None
    i, session = max(sessions, key=lambda x: x[1].seconds * x[1].per_day)
    half = float(f"{session.seconds / 2:.6g}")
    label = f"{session.name}: {show(half, 's')} instead of {show(session.seconds, 's')}"
    return f"with {session.name.lower()} half as long", Remedy(
        label=label, patch=[replace(f"/day/sessions/{i}/seconds", half)]
    )
