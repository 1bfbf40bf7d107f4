"""A gadget on another pack: its charger, and every stage and rail on the way to its parts as they then have to be.

Parts, modes, day, brief and case stay. What stands between battery and rails stays too where it serves on the new pack; what does not is
replaced by the catalogue's stage of that output with which the gadget lasts longest, and a rail that was straight gets one where its parts
need it.
"""

from __future__ import annotations

import numpy as np

from ..battery.chemistry import CHEMISTRIES
from ..battery.pack import resting_v
from ..charging.charge import gentle_current
from ..design import Charger, Design, LinearStage, PassStage, Protection, Stage, SwitchingStage
from ..design.basics import slug
from ..design.patches import apply_patch
from ..design.references import BATTERY, build_design
from ..measures.bench import TrialBench
from ..measures.edits import new_cells, pack_patch, set_current
from ..measures.selection import before_rail, least_input_v, longest_of, rail_window_v
from ..solved.warmth import charges
from .packs import PackChoice

HALF = 0.5  # charge at which a stage has to serve: below it the gadget may give way earlier


def on_pack(design: Design, pack: PackChoice) -> Design:
    """The same gadget with another pack in the place of its own, guarded where such cells need it; nothing else."""
    usual = CHEMISTRIES[pack.cell.chemistry].protection_v
    battery = new_cells(design.battery, pack.cell, pack.series)
    guard = (
        None if pack.cell.bank is not None or usual is None else battery.protection or Protection(cut_v_per_cell=usual)
    )
    return apply_patch(design, pack_patch(design, battery.model_copy(update={"protection": guard})))


def with_charger(design: Design, charger: Charger | None) -> Design:
    """The same with another charger at the place of the old one, on its port, in the mode in which that charged; or with none."""
    old = design.charger
    if charger is not None and old is not None:
        body = charger.body
        if body is not None and old.body is not None:
            body = body.model_copy(update={"position_mm": old.body.position_mm, "through": old.body.through})
        charger = charger.model_copy(update={"port": old.port, "mode": old.mode, "outside": old.outside, "body": body})
    return whole(design.model_copy(update={"charger": charger}))


def gently_charged(bench: TrialBench, share: float) -> TrialBench:
    """With so much of its capacity an hour as charge current, and no more than is gentle to its cell."""
    design = bench.design
    if design.charger is None or not charges(design):
        return bench
    amps = share * design.battery.cell.capacity_ah * design.battery.parallel
    way = set_current(design.charger, min(amps, gentle_current(design.battery)))
    return bench if way is None else bench.changed(way.patch)


def through(design: Design, stage: Stage) -> Design:
    """Everything that hangs on the battery hangs on a stage that hangs on it."""
    added = stage.model_copy(
        update={"id": slug(stage.name, {s.id for s in design.supply.stages} | {BATTERY}), "input": BATTERY}
    )
    stages = [s.model_copy(update={"input": added.id}) if s.input == BATTERY else s for s in design.supply.stages]
    rails = [r.model_copy(update={"feed": added.id}) if r.feed == BATTERY else r for r in design.supply.rails]
    return whole(
        design.model_copy(
            update={"supply": design.supply.model_copy(update={"stages": [added, *stages], "rails": rails})}
        )
    )


def without(design: Design, name: str) -> Design:
    """What hangs on the stage of that name at the battery hangs on the battery itself."""
    gone = next((s for s in design.supply.stages if s.name == name and s.input == BATTERY), None)
    if gone is None:
        return design
    stages = [
        s.model_copy(update={"input": BATTERY}) if s.input == gone.id else s
        for s in design.supply.stages
        if s is not gone
    ]
    rails = [r.model_copy(update={"feed": BATTERY}) if r.feed == gone.id else r for r in design.supply.rails]
    modes = [m.model_copy(update={"off_stages": [s for s in m.off_stages if s != gone.id]}) for m in design.modes]
    supply = design.supply.model_copy(update={"stages": stages, "rails": rails})
    return whole(design.model_copy(update={"supply": supply, "modes": modes}))


def completed(bench: TrialBench) -> TrialBench:
    """Each stage and each rail as the pack wants it, from the battery outwards."""
    for key in [s.id for s in _outwards(bench.design)]:
        bench = _served(bench, key)
    for rail in range(len(bench.design.supply.rails)):
        bench = _railed(bench, rail)
    return bench


def _outwards(design: Design) -> list[Stage]:
    """Stages, each after what feeds it."""
    left, found = list(design.supply.stages), list[Stage]()
    ids = {s.id for s in left}
    while left:
        free = [s for s in left if s.input not in ids]
        found += free or left
        ids -= {s.id for s in free or left}
        left = [s for s in left if s.id in ids]
    return found


def _served(bench: TrialBench, key: str) -> TrialBench:
    """With a stage that stands and serves at this place."""
    design = bench.design
    position = next(i for i, s in enumerate(design.supply.stages) if s.id == key)
    old = design.supply.stages[position]
    top = bench.highest_input_v[bench.usual.tree.stage_index[key]]
    stands = old.input_max_v is None or top <= old.input_max_v
    if isinstance(old, PassStage):
        able = [
            s
            for s in bench.catalogue.stages
            if isinstance(s, PassStage)
            and s.role == old.role
            and s.limit_a >= old.limit_a
            and (s.input_max_v is None or s.input_max_v >= top)
        ]
        if stands or not able:
            return bench
        least = min(able, key=lambda s: (s.shutdown_a, s.cost))
        return bench.of(_put(design, position, least))
    if not isinstance(old, LinearStage | SwitchingStage):
        return bench
    if stands and least_input_v(old, _peak_a(bench, key)) <= design.battery.series * resting_v(
        design.battery.cell, HALF
    ):
        return bench
    ways = longest_of(bench, position)
    return bench.changed(ways[0].patch) if ways else bench


def _peak_a(bench: TrialBench, key: str) -> float:
    state = bench.usual
    index = state.tree.stage_index[key]
    return float(np.max(state.worst.stage_output_a[index], where=~state.worst.collapsed, initial=0.0))


def _put(design: Design, position: int, stage: Stage) -> Design:
    old = design.supply.stages[position]
    body = stage.body
    if body is not None and old.body is not None:
        body = body.model_copy(
            update={"position_mm": old.body.position_mm, "through": old.body.through, "on": old.body.on}
        )
    stages = list(design.supply.stages)
    stages[position] = stage.model_copy(update={"id": old.id, "input": old.input, "body": body})
    return whole(design.model_copy(update={"supply": design.supply.model_copy(update={"stages": stages})}))


def _railed(bench: TrialBench, rail: int) -> TrialBench:
    """With a converter before a rail whose parts do not stand what it has, or would not run on it at half charge."""
    low, high = rail_window_v(bench.design, rail)
    volts = bench.usual.typical.rail_v[rail, :, bench.middle]
    powered = bench.rail_powered[rail][[p.mode for p in bench.usual.operating_points]]
    if bench.highest_rail_v[rail] <= high and np.all(volts[powered] >= low):
        return bench
    way = next(iter(before_rail(bench, rail)), None)
    return bench if way is None else bench.changed(way.patch)


def whole(design: Design) -> Design:
    """A design that was put together, checked as a document."""
    return build_design(design.model_dump(mode="json"))
