"""What would help most: changes of the design, each tried out by evaluating the changed design."""

from __future__ import annotations

from .context import Context
from .demand import part_current
from .design import Design, Use
from .figures import Figure, PatchOperation, Remedy, Result, figure
from .quantities import show
from .remedies import remove, replace

SHORTER = 0.5
LONGER = 2.0


class Saving(Result):
    """A lever: the runtime that it would give, what is gained, and what it costs in use."""

    code: str
    title: str
    sentence: str
    side_effect: str
    runtime: Figure
    gained: Figure
    remedy: Remedy


def find_savings(context: Context) -> list[Saving]:
    """The levers of this design, the one that gains most first. Levers that gain nothing are left out."""
    if not context.design.parts:
        return []
    found = [lever(context) for lever in (_lower_sleep, _shorter_awake, _longer_interval)]
    kept = [s for s in found if s is not None and (s.gained.value or 0) > 0]
    return sorted(kept, key=lambda s: -(s.gained.value or 0))


def _try(
    context: Context, code: str, title: str, sentence: str, side_effect: str, patch: list[PatchOperation]
) -> Saving:
    before, after = context.usual.seconds / 3600, context.after(patch).seconds / 3600
    inputs: list[tuple[str, float | None, str]] = [("now", before, "h"), ("with the change", after, "h")]
    source = "the changed design, evaluated whole"
    return Saving(
        code=code,
        title=title,
        sentence=f"{sentence} Runtime: {show(after, 'h')} instead of {show(before, 'h')}.",
        side_effect=side_effect,
        runtime=figure("Runtime with it", after, "h", "runtime of the changed design", list(inputs), source),
        gained=figure("Gained", after - before, "h", "with the change − now", list(inputs), source),
        remedy=Remedy(label=title, patch=patch),
    )


def _mean_state_a(design: Design, part: int, name: str) -> float:
    state = next(s for s in design.parts[part].states if s.name == name)
    return part_current(state, 3.3)


def _lower_sleep(context: Context) -> Saving | None:
    """The part that costs most in the rest mode goes to its lowest state there, or is cut off by a load switch."""
    design, rest = context.design, context.rest
    costs = context.part_battery_a[:, rest]
    total = float(context.usual.mode_current_a[rest, context.middle])
    for p in sorted(range(len(design.parts)), key=lambda i: -float(costs[i])):
        worst = float(costs[p])
        if worst <= 0.02 * total:
            return None
        part = design.parts[p]
        u, use = next((u, x) for u, x in enumerate(design.modes[rest].uses) if x.part == part.id)
        mode = design.modes[rest].name
        share = f"{show(worst, 'A')} of {show(total, 'A')} while {mode.lower()}"
        where = f"/modes/{rest}/uses/{u}"
        lowest = min(part.states, key=lambda s: _mean_state_a(design, p, s.name))
        if lowest.name != use.state and not use.burst and _mean_state_a(design, p, lowest.name) < worst / part.quantity:
            calm = Use(part=part.id, state=lowest.name)
            title = f"{part.name}: {lowest.name} while {mode.lower()}"
            return _try(context, "lower-sleep", title, f"{part.name} takes {share}; in its state {lowest.name} it takes "
                        f"{show(_mean_state_a(design, p, lowest.name) * part.quantity, 'A')}.",
                        "It has to be put into that state before sleep, and take up its work again after.",
                        [replace(where, calm)])  # fmt: skip
        if len(design.modes[rest].uses) > 1 and part.kind == "lamp":
            return _try(
                context,
                "dark-in-sleep",
                f"{part.name} dark while {mode.lower()}",
                f"{part.name} takes {share}.",
                "Lift its resistor, or hang it on a pin; it no longer shows that the gadget has power.",
                [remove(where)],
            )
        if len(design.modes[rest].uses) > 1 and part.kind != "controller":
            return _try(
                context,
                "cut-in-sleep",
                f"Cut {part.name} off while {mode.lower()}",
                f"{part.name} takes {share}; behind a load switch it takes next to nothing.",
                "Needs a load switch and a pin; the part starts anew after every sleep.",
                [remove(where)],
            )
    return None


def _shorter_awake(context: Context) -> Saving | None:
    """The session or wake that costs most charge over the day lasts half as long."""
    design, state, mid = context.design, context.usual, context.middle
    index = {m.id: i for i, m in enumerate(design.modes)}
    left = 1 - sum(s.seconds * s.per_day for s in design.day.sessions) / 86400
    rows = [
        (float(state.mode_current_a[index[w.mode], mid]) * w.awake_s / w.every_s * left, w.name, w.awake_s,
         f"/day/wakes/{i}/awake_s", "wake") for i, w in enumerate(design.day.wakes)
    ] + [
        (float(state.mode_current_a[index[s.mode], mid]) * s.seconds * s.per_day / 86400, s.name, s.seconds,
         f"/day/sessions/{i}/seconds", "session") for i, s in enumerate(design.day.sessions)
    ]  # fmt: skip
    if not rows:
        return None
    cost, name, seconds, path, kind = max(rows)
    shorter = float(f"{seconds * SHORTER:.6g}")
    title = f"{name}: {show(shorter, 's')} instead of {show(seconds, 's')}"
    side = ("A fixed address, a kept channel or fewer retries are the usual ways; readings may be missed."
            if kind == "wake" else "The gadget is in use for half as long; a shorter timeout may already do.")  # fmt: skip
    return _try(context, "shorter-awake", title, f"{name} costs {show(cost, 'A')} of the {show(context.mean_a, 'A')} "
                "drawn over the day.", side, [replace(path, shorter)])  # fmt: skip


def _longer_interval(context: Context) -> Saving | None:
    """The wake that costs most comes half as often."""
    design, state, mid = context.design, context.usual, context.middle
    index = {m.id: i for i, m in enumerate(design.modes)}
    rows = [(float(state.mode_current_a[index[w.mode], mid]) * w.awake_s / w.every_s, i, w)
            for i, w in enumerate(design.day.wakes)]  # fmt: skip
    if not rows:
        return None
    cost, i, wake = max(rows, key=lambda r: (r[0], -r[1]))
    longer = wake.every_s * LONGER
    title = f"{wake.name}: every {show(longer, 's')} instead of every {show(wake.every_s, 's')}"
    return _try(context, "longer-interval", title, f"{wake.name} costs {show(cost, 'A')} over the day.",
                f"A change is noticed up to {show(longer, 's')} late.",
                [replace(f"/day/wakes/{i}/every_s", longer)])  # fmt: skip
