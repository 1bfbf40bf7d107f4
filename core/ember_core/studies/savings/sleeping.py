"""Measures on what is drawn while the gadget rests."""

from __future__ import annotations

from collections.abc import Iterator

from ...design import Design, Part, ResistorDraw, Use
from ...design.patches import remove, replace
from ...figures import PatchOperation
from ...measures.asleep import cut_off, dark_at_rest, rail_off, taken_at_rest
from ...measures.bench import TrialBench
from ...measures.measure import Change, Measure, calmer, find_part, find_use, rounded, state_a
from ...words import Fact

MATTERS = 0.02  # of the rest mode's current
RAISED = 10.0
HOLD_F = 1e-7
MOST_STATES = 3


def resting(bench: TrialBench) -> Iterator[Measure]:
    """Each part that counts while the gadget sleeps: a calmer state, dark, or cut off."""
    if not bench.sleeps:
        return
    design, rest, total = bench.design, bench.rest, bench.rest_a
    mode = design.modes[rest]
    for p, part in enumerate(design.parts):
        own = bench.at_rest_a(p)
        found = find_use(design, mode.id, part.id)
        if found is None or own <= MATTERS * total:
            continue
        use = found[1]
        facts = taken_at_rest(bench, p)
        for low in calmer(part, use.state)[:MOST_STATES] if part.switchable and not use.burst else []:
            yield Measure(
                f"lower-sleep:{part.id}:{low.name}"[:160], "lower-sleep", "firmware", f"rest:{part.id}",
                {**facts, "state": low.name, "mode": mode.name, "there": (state_a(low) * part.quantity, "A")},
                _calm(mode.id, part.id, low.name),
            )  # fmt: skip
        if part.divider is not None:
            yield from _divider(part, mode.id, facts)
        elif part.kind == "led":
            yield dark_at_rest(bench, p)
        elif part.kind != "controller":
            measure = cut_off(bench, p)
            if measure is not None:
                yield measure


def _calm(mode: str, part: str, state: str) -> Change:
    def change(design: Design) -> list[PatchOperation] | None:
        found = find_use(design, mode, part)
        return [replace(found[0], Use(part=part, state=state))] if found else None

    return change


def _divider(part: Part, mode: str, facts: dict[str, Fact]) -> Iterator[Measure]:
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
                raised = {"typical": rounded(state.draw.resistance_ohm.typical * RAISED), "min": None, "max": None}
                patch.append(replace(f"/parts/{i}/states/{k}/draw/resistance_ohm", raised))
        return patch

    yield Measure(
        f"gate-divider:{part.id}", "gate-divider", "build", f"rest:{part.id}", facts, gate,
    )  # fmt: skip
    yield Measure(
        f"raise-divider:{part.id}", "raise-divider", "build", f"rest:{part.id}",
        {**facts, "raised": (ohm * RAISED, "Ω"), "now": (ohm, "Ω")}, raise_it,
    )  # fmt: skip


def rails(bench: TrialBench) -> Iterator[Measure]:
    """A stage with an enable input that stays on while nothing but idle parts hang on it."""
    if bench.sleeps:
        for s in range(len(bench.design.supply.stages)):
            measure = rail_off(bench, s)
            if measure is not None:
                yield measure


SLEEPING = (resting, rails)
