"""Levers on what is drawn while the gadget rests."""

from __future__ import annotations

from collections.abc import Iterator

from ...context import Context
from ...design import Design, Part, ResistorDraw, Use
from ...figures import PatchOperation
from ...quantities import show
from ...remedies import behind_load_switch, remove, replace, switch_off, without_uses
from .lever import Change, Lever, calmer, find_part, find_use, rounded, state_a

MATTERS = 0.02  # of the rest mode's current
RAISED = 10.0
HOLD_F = 1e-7


def resting(context: Context) -> Iterator[Lever]:
    """Each part that counts while the gadget rests: a calmer state, dark, or cut off."""
    design, rest = context.design, context.rest
    mode = design.modes[rest]
    total = float(context.usual.mode_current_a[rest, context.middle])
    for p, part in enumerate(design.parts):
        own = float(context.part_battery_a[p, rest])
        found = find_use(design, mode.id, part.id)
        if found is None or own <= MATTERS * total:
            continue
        use = found[1]
        said = f"{part.name} takes {show(own, 'A')} of {show(total, 'A')} while {mode.name.lower()}"
        states = calmer(part, use.state) if not use.burst else []
        if states:
            low = states[0]
            yield Lever(
                f"lower-sleep:{part.id}", "lower-sleep", f"rest:{part.id}",
                f"{part.name}: {low.name} while {mode.name.lower()}",
                f"{said}; in its state {low.name} it takes {show(state_a(low) * part.quantity, 'A')}.",
                "It has to be put into that state before sleep, and take up its work again after.",
                _calm(mode.id, part.id, low.name),
            )  # fmt: skip
        if part.divider is not None:
            yield from _divider(part, mode.id, said)
        elif part.kind == "lamp":
            yield Lever(
                f"dark-in-sleep:{part.id}", "dark-in-sleep", f"rest:{part.id}", f"{part.name} dark while {mode.name.lower()}",
                f"{said}.", "Hang it on a pin instead of the rail; it no longer shows that the gadget has power.",
                _without(mode.id, part.id),
            )  # fmt: skip
        elif part.kind != "controller":
            yield from _load_switch(context, p, said)


def _calm(mode: str, part: str, state: str) -> Change:
    def change(design: Design) -> list[PatchOperation] | None:
        found = find_use(design, mode, part)
        return [replace(found[0], Use(part=part, state=state))] if found else None

    return change


def _without(mode: str, part: str) -> Change:
    def change(design: Design) -> list[PatchOperation] | None:
        found = find_use(design, mode, part)
        alone = any(m.id == mode and len(m.uses) < 2 for m in design.modes)
        return [remove(found[0])] if found and not alone else None

    return change


def _divider(part: Part, mode: str, said: str) -> Iterator[Lever]:
    ohm = part.divider.upper_ohm + part.divider.lower_ohm if part.divider else 0.0

    def gate(design: Design) -> list[PatchOperation] | None:
        found, used = find_part(design, part.id), find_use(design, mode, part.id)
        if found is None or used is None or any(m.id == mode and len(m.uses) < 2 for m in design.modes):
            return None
        return [replace(f"/parts/{found[0]}/divider/gated", True), remove(used[0])]

    def raise_it(design: Design) -> list[PatchOperation] | None:
        found = find_part(design, part.id)
        if found is None or found[1].divider is None:
            return None
        i, own = found
        divider = found[1].divider
        patch = [
            replace(f"/parts/{i}/divider/upper_ohm", rounded(divider.upper_ohm * RAISED)),
            replace(f"/parts/{i}/divider/lower_ohm", rounded(divider.lower_ohm * RAISED)),
            replace(f"/parts/{i}/divider/hold_f", max(divider.hold_f, HOLD_F)),
        ]
        for k, state in enumerate(own.states):
            if isinstance(state.draw, ResistorDraw):
                raised = {"typical": rounded(state.draw.resistance_ohm.typical * RAISED), "least": None, "most": None}
                patch.append(replace(f"/parts/{i}/states/{k}/draw/resistance_ohm", raised))
        return patch

    yield Lever(
        f"gate-divider:{part.id}", "gate-divider", f"rest:{part.id}", f"Connect {part.name} only for a reading", f"{said}.",
        "Needs a small transistor and a pin.", gate,
    )  # fmt: skip
    yield Lever(
        f"raise-divider:{part.id}", "raise-divider", f"rest:{part.id}",
        f"{part.name}: {show(ohm * RAISED, 'Ω')} instead of {show(ohm, 'Ω')}", f"{said}.",
        "Needs a capacitor at the pin; the reading follows more slowly.", raise_it,
    )  # fmt: skip


def _load_switch(context: Context, p: int, said: str) -> Iterator[Lever]:
    part = context.design.parts[p]
    best = context.load_switch(p)
    if best is None:
        return

    def change(design: Design) -> list[PatchOperation] | None:
        found = find_part(design, part.id)
        return behind_load_switch(design, found[0], best) if found else None

    yield Lever(
        f"cut-in-sleep:{part.id}", "cut-in-sleep", f"rest:{part.id}", f"{part.name} behind a load switch",
        f"{said}; behind {best.name} it takes next to nothing.", "Needs the switch and a pin; the part starts anew after every sleep.",
        change,
    )  # fmt: skip


def rails(context: Context) -> Iterator[Lever]:
    """A stage with an enable input that stays on while nothing but idle parts hang below it."""
    design, rest, tree = context.design, context.rest, context.usual.tree
    mode = design.modes[rest]
    for s, stage in enumerate(design.supply.stages):
        position = tree.stages.index(stage)
        if not stage.enable or tree.off[position, rest] or not tree.powered[tree.first_stage + position, rest]:
            continue
        below = {
            r.id for r, feed in zip(design.supply.rails, tree.rail_feeds, strict=True) if position in tree.path(feed)
        }
        resting = {p.id for p in design.parts if p.rail in below and find_use(design, mode.id, p.id)}
        kinds = {p.kind for p in design.parts if p.id in resting}
        if "controller" in kinds or len(resting) >= len(mode.uses):
            continue
        lost = float(context.usual.typical.stage_input_a[position, _moment(context, rest), context.middle])
        name = stage.id

        def change(design: Design, name: str = name, resting: set[str] = resting) -> list[PatchOperation] | None:
            if all(s.id != name for s in design.supply.stages):
                return None
            at = next(i for i, m in enumerate(design.modes) if m.id == mode.id)
            if len(design.modes[at].uses) <= len(resting):
                return None
            return [*without_uses(design, at, resting), *switch_off(design, name, lambda m: m.id == mode.id)]

        yield Lever(
            f"rail-off:{stage.id}", "rail-off", f"stage:{stage.id}", f"{stage.name} off while {mode.name.lower()}",
            f"{stage.name} takes {show(lost, 'A')} while {mode.name.lower()}, and nothing that has to stay awake hangs on it.",
            "Needs a pin at its enable input; what hangs on it starts anew after every sleep.", change,
        )  # fmt: skip


def _moment(context: Context, mode: int) -> int:
    return next(k for k, m in enumerate(context.usual.moments) if m.mode == mode)


SLEEPING = (resting, rails)
