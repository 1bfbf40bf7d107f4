"""Traps of the draw: units, passengers, lamps."""

from __future__ import annotations

from collections.abc import Iterator

from ..context import Context
from ..figures import Finding, Remedy
from ..quantities import show
from ..remedies import without_uses

SHORT_OF_GOAL = 0.2
PASSENGER_SHARE = 0.10
LAMP_SHARE = 0.05


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
