"""What may sleep behind a load switch while the gadget rests."""

from __future__ import annotations

import math

from ..design import (
    Design,
    Part,
    PassStage,
)
from ..design.basics import fresh_id
from ..design.patches import apply_patch
from ..design.references import build_design
from ..measures.asleep import cut_off
from ..measures.bench import TrialBench
from ..measures.edits import behind_load_switch, placed
from ..measures.measure import find_use
from .places import Added, Option, Place, raw

WORTH, MOST_SWITCHED = 0.02, 3  # of the runtime: what a load switch has to bring; parts that may get one


def switchable(bench: TrialBench) -> list[tuple[int, PassStage]]:
    """The parts that are worth a load switch while the gadget rests, by their positions, with the switch of each: those that it makes last longest."""
    if not bench.sleeps:
        return []
    worth = list[tuple[float, int, PassStage]]()
    for p, part in enumerate(bench.design.parts):
        switch, measure = bench.load_switch(p), cut_off(bench, p)
        if switch is None or measure is None or not _may_sleep(bench, p):
            continue
        feed = bench.design.supply.rails[bench.design.index.rails[part.rail]].feed
        if (switch.input_max_v or math.inf) < bench.highest_v(feed) and not raw(bench.design, feed):
            continue
        patch = measure.change(bench.design)
        gain = 0.0 if patch is None else bench.after(patch).seconds / max(bench.usual.seconds, 1e-9) - 1
        if gain >= WORTH:
            worth.append((gain, p, switch))
    return [(p, switch) for _, p, switch in sorted(worth, key=lambda x: (-x[0], x[1]))[:MOST_SWITCHED]]


def _may_sleep(bench: TrialBench, p: int) -> bool:
    """Whether a part is there while the gadget rests and need not be: what wakes it and what only shows that it is on is not cut off."""
    part = bench.design.parts[p]
    used = find_use(bench.design, bench.design.day.rest, part.id) is not None
    return used and part.kind not in ("controller", "led") and part.divider is None


def _own_rail(design: Design, part: Part) -> str:
    return fresh_id(f"{part.id}-rail"[:50], {r.id for r in design.supply.rails})


def apart(design: Design, parts: list[int]) -> Design:
    """Some parts on rails of their own that hang where the ones did that they were on: the same gadget.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.runtime.run import run
    >>> from ember_core.design.references import build_design
    >>> other = build_design(apart(design, [0]).model_dump(mode="json"))
    >>> len(other.supply.rails) - len(design.supply.rails)
    1
    >>> abs(run(other).seconds / run(design).seconds - 1) < 1e-9
    True
    """
    for p in parts:
        part = design.parts[p]
        rail = next(r for r in design.supply.rails if r.id == part.rail)
        own = rail.model_copy(update={"id": _own_rail(design, part), "name": f"{part.name}, switched"[:120]})
        supply = design.supply.model_copy(update={"rails": [*design.supply.rails, own]})
        now = [x.model_copy(update={"rail": own.id}) if x.id == part.id else x for x in design.parts]
        design = design.model_copy(update={"supply": supply, "parts": now})
    return design


def behind_switch(bench: TrialBench, p: int, switch: PassStage) -> Place:
    """A part as it is, or behind a load switch that is off while the gadget rests."""
    design, part = bench.design, bench.design.parts[p]
    own = _own_rail(design, part)
    feed = design.supply.rails[design.index.rails[part.rail]].feed

    def applied(at: Design) -> Design:
        if all(r.id != own for r in at.supply.rails):
            return apply_patch(build_design(at.model_dump(mode="json")), behind_load_switch(at, p, switch))
        rail = next(r for r in at.supply.rails if r.id == own)
        stage = placed(at, switch, rail.feed)
        rails = [r.model_copy(update={"feed": stage.id}) if r.id == own else r for r in at.supply.rails]
        modes = [
            m.model_copy(update={"off_stages": [*m.off_stages, stage.id]})
            if m.id == at.day.rest or m.switched_off
            else m
            for m in at.modes
        ]
        supply = at.supply.model_copy(update={"stages": [*at.supply.stages, stage], "rails": rails})
        return at.model_copy(update={"supply": supply, "modes": modes})

    stands = (switch.input_max_v or math.inf) if raw(design, feed) else math.inf
    there = Option(switch.name, Added.of(switch), applied, stands_v=stands)
    return Place(part.name, own, [Option("", Added(), lambda d: d), there])
