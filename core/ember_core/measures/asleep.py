"""Measures on what is drawn while the gadget rests, that findings and the list of savings both offer."""

from __future__ import annotations

from ..design import Design
from ..design.patches import remove
from ..figures import PatchOperation
from ..supply.converters import passes_when_off
from ..words import Fact
from .bench import TrialBench
from .edits import behind_load_switch, switch_off
from .measure import Change, Measure, find_part, find_use


def taken_at_rest(bench: TrialBench, p: int) -> dict[str, Fact]:
    """What a part takes while the gadget rests, as facts."""
    return {
        "part": bench.design.parts[p].name,
        "own": (bench.at_rest_a(p), "A"),
        "total": (bench.rest_a, "A"),
        "rest": bench.rest_name,
    }


def dark_at_rest(bench: TrialBench, p: int) -> Measure:
    """An indicator on a pin instead of the rail."""
    part = bench.design.parts[p]
    return Measure(
        f"dark-in-sleep:{part.id}", "dark-in-sleep", "build", f"rest:{part.id}", taken_at_rest(bench, p),
        _without(bench.design.day.rest, part.id),
    )  # fmt: skip


def _without(mode: str, part: str) -> Change:
    def change(design: Design) -> list[PatchOperation] | None:
        found = find_use(design, mode, part)
        alone = any(m.id == mode and len(m.uses) < 2 for m in design.modes)
        return [remove(found[0])] if found and not alone else None

    return change


def cut_off(bench: TrialBench, p: int) -> Measure | None:
    """A part behind a load switch that is off while the gadget rests; None where the catalogue has none for it, and for what is soldered onto
    a bought board, which has no place for one."""
    part, best = bench.design.parts[p], bench.load_switch(p)
    on_board = part.parasitic or (part.body is not None and part.body.on is not None)
    if best is None or on_board:
        return None

    def change(design: Design) -> list[PatchOperation] | None:
        found = find_part(design, part.id)
        return behind_load_switch(design, found[0], best) if found else None

    return Measure(
        f"cut-in-sleep:{part.id}", "cut-in-sleep", "build", f"rest:{part.id}",
        {**taken_at_rest(bench, p), "switch": best.name}, change,
    )  # fmt: skip


def rail_off(bench: TrialBench, s: int) -> Measure | None:
    """A stage with an enable input switched off while the gadget rests, where what hangs on it may be without power then; None
    where it is not so. `s` is its position in the design."""
    stage = bench.design.supply.stages[s]
    if _off_at_rest(bench, s) is None:
        return None
    own = bench.own_at_rest_a(bench.usual.tree.stage_index[stage.id])

    def change(design: Design) -> list[PatchOperation] | None:
        position = design.index.stages.get(stage.id)
        return None if position is None else _off_at_rest(bench.of(design), position)

    return Measure(
        f"rail-off:{stage.id}", "rail-off", "firmware", f"stage:{stage.id}",
        {"stage": stage.name, "own": (own, "A"), "rest": bench.rest_name}, change,
    )  # fmt: skip


def _off_at_rest(bench: TrialBench, position: int) -> list[PatchOperation] | None:
    """Off while the gadget rests, where all that hangs on it is idle. Only what the stage really cuts off is taken out of the mode."""
    design, tree, rest = bench.design, bench.usual.tree, bench.rest
    stage = design.supply.stages[position]
    index = tree.stage_index[stage.id]
    mode = design.modes[rest]
    if not stage.enable or not tree.working[index, rest]:
        return None
    below = {r.id for r, feed in zip(design.supply.rails, tree.rail_feeds, strict=True) if index in tree.path(feed)}
    idle = {u.part for u in mode.uses} & {p.id for p in design.parts if p.rail in below}
    if any(p.kind == "controller" for p in design.parts if p.id in idle) or len(idle) >= len(mode.uses):
        return None
    patch = switch_off(design, stage.id, lambda m: m.id == mode.id)
    if passes_when_off(stage):
        return patch
    uses = mode.uses
    return [remove(f"/modes/{rest}/uses/{u}") for u in range(len(uses) - 1, -1, -1) if uses[u].part in idle] + patch
