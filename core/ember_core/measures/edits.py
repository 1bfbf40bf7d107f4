"""Edits that remedies and savings share."""

from __future__ import annotations

from collections.abc import Callable

from ..battery.chemistry import CHEMISTRIES
from ..battery.pack import pack_is_round, pack_size_mm
from ..design import Battery, Body, Cell, Charger, Design, Mode, Stage
from ..design.basics import fresh_id
from ..design.patches import add, remove, replace
from ..design.references import BATTERY
from ..enclosure.placing import moved_free
from ..figures import PatchOperation, Remedy
from ..quantities.preferred import next_e24
from ..words import say


def placed(design: Design, stage: Stage, feed: str) -> Stage:
    """A catalogue stage ready to be added: with an id that is not taken, fed by `feed`."""
    taken = {BATTERY, *(s.id for s in design.supply.stages), *(s.id for s in design.supply.sources)}
    return stage.model_copy(update={"id": fresh_id(stage.id, taken), "input": feed})


def set_resistor(charger: Charger, ohm: float) -> Remedy:
    """Another resistor that programs a charger's current [ohm]."""
    label = say("way.set-the-resistor-to", ohm=(ohm, "Ω"), program_constant=(charger.program_constant_v / ohm, "A"))
    return Remedy(label=label, patch=[replace("/charger/program_ohm", ohm)])


def set_current(charger: Charger, amps: float) -> Remedy | None:
    """At most so much charge current [A], by what sets it: its resistor, the next one upwards within its range; the next of its steps
    downwards; None where its current is fixed, has no such step, or is that already.

    >>> from ember_core.design import Charger
    >>> charger = Charger(name="Charger", program_constant_v=1000, program_ohm=2000, port_v=5, port_limit_a=1)
    >>> remedy = set_current(charger, 0.24)
    >>> remedy.patch[0].value
    4300.0
    """
    if amps <= 0:
        return None
    if charger.fixed_a is None:
        low, high = charger.program_min_ohm or 0.0, charger.program_max_ohm or MOST_OHM
        ohm = next_e24(max(charger.program_constant_v / amps, low))
        return set_resistor(charger, ohm) if ohm <= high and ohm != charger.program_ohm else None
    step = max((a for a in charger.steps_a if a <= amps * SAME_CURRENT), default=None)
    if step is None or step == charger.fixed_a:
        return None
    return Remedy(label=say("way.set-it-to", amps=(step, "A")), patch=[replace("/charger/fixed_a", step)])


MOST_OHM = 1e6
SAME_CURRENT = 1.001


def new_cells(present: Battery, cell: Cell, series: int, parallel: int = 1) -> Battery:
    """New cells of one kind in the place of the present ones. A protection circuit goes with its cells: it cuts off where such cells want it,
    and where they carry none there is none."""
    guard, usual = present.protection, CHEMISTRIES[cell.chemistry].protection_v
    if guard is not None and cell.chemistry != present.cell.chemistry:
        guard = None if usual is None else guard.model_copy(update={"cut_v_per_cell": usual})
    return present.model_copy(
        update={"cell": cell, "series": series, "parallel": parallel, "protection": guard} | FRESH
    )


FRESH: dict[str, object] = {"age_years": 0, "cycles": 0, "mixed": False, "spread": None}


def pack_patch(design: Design, new: Battery) -> list[PatchOperation]:
    """New cells in the place of the present ones, the whole pack's room with them, lying as the old one does. Where that is in the way of
    something it goes to the nearest free place, and where there is none it stays and collides, which is told."""
    old, new = design.battery, new.model_copy(update=FRESH)
    keys = ("cell", "series", "parallel", "protection", "age_years", "cycles", "mixed", "spread")
    patch = [replace(f"/battery/{k}", getattr(new, k)) for k in keys if getattr(new, k) != getattr(old, k)]
    size = pack_size_mm(new.cell, new.series * new.parallel)
    old_body = old.body or Body(size_mm=size)
    order = sorted(range(3), key=lambda i: old_body.size_mm[i])
    lying = [0.0, 0.0, 0.0]
    for axis, side in zip(order, sorted(size), strict=True):
        lying[axis] = side
    body = old_body.model_copy(update={"size_mm": (lying[0], lying[1], lying[2])} | _roundness(new, lying))
    with_body = design.model_copy(update={"battery": new.model_copy(update={"body": body})})
    return [*patch, replace("/battery/body", moved_free(with_body, "/battery") or body)]


PLAIN: dict[str, object] = {"hull_mm": [], "surface": None, "file": None, "off_mm": 0.0, "blocks": [], "holes": []}


def _roundness(new: Battery, size: list[float]) -> dict[str, object]:
    """A single round cell, or coins on each other, lie along the side that is not like the others."""
    if not pack_is_round(new.cell, new.series * new.parallel):
        return {"shape": "cuboid"} | PLAIN
    middle = sorted(size)[1]
    odd = max(range(3), key=lambda i: abs(size[i] - middle))
    return {"shape": "cylinder", "along": "xyz"[odd]} | PLAIN


def without_uses(design: Design, mode: int, parts: set[str]) -> list[PatchOperation]:
    """Takes parts out of one mode. Later uses go first, so that the earlier positions stay right."""
    uses = design.modes[mode].uses
    return [remove(f"/modes/{mode}/uses/{u}") for u in range(len(uses) - 1, -1, -1) if uses[u].part in parts]


def switch_off(design: Design, stage: str, chosen: Callable[[Mode], bool]) -> list[PatchOperation]:
    """Adds a stage to what is off in the modes for which `chosen(mode)` holds."""
    return [
        replace(f"/modes/{m}/off_stages", [*mode.off_stages, stage])
        for m, mode in enumerate(design.modes)
        if chosen(mode)
    ]


def behind_load_switch(design: Design, p: int, switch: Stage) -> list[PatchOperation]:
    """A rail of the part's own behind a load switch that is off while the gadget rests or is switched off."""
    part = design.parts[p]
    rail = design.supply.rails[design.index.rails[part.rail]]
    own = placed(design, switch, rail.feed)
    name = fresh_id(f"{part.id}-rail"[:50], {r.id for r in design.supply.rails})
    return [
        add("/supply/stages/-", own),
        add("/supply/rails/-", {"id": name, "name": f"{part.name}, switched"[:120], "feed": own.id}),
        replace(f"/parts/{p}/rail", name),
        *switch_off(design, own.id, lambda m: m.id == design.day.rest or m.switched_off),
    ]


def left_over(design: Design, start: str, gone_rails: set[str]) -> list[str]:
    """The stages from `start` upwards that feed nothing else once some rails are gone."""
    gone: list[str] = []
    stages = design.index.stages
    here = start
    while here in stages:
        users = [r.id for r in design.supply.rails if r.feed == here and r.id not in gone_rails]
        fed = [s.id for s in design.supply.stages if here in (s.input, getattr(s, "other", None)) and s.id not in gone]
        if users or fed:
            break
        gone.append(here)
        here = design.supply.stages[stages[here]].input
    return gone


def remove_stages(design: Design, names: list[str]) -> list[PatchOperation]:
    """Takes stages out, the last ones first, and out of the modes' lists of what is switched off."""
    patch: list[PatchOperation] = []
    for m, mode in enumerate(design.modes):
        if set(mode.off_stages) & set(names):
            patch.append(replace(f"/modes/{m}/off_stages", [s for s in mode.off_stages if s not in names]))
    positions = sorted((i for i, s in enumerate(design.supply.stages) if s.id in names), reverse=True)
    return patch + [remove(f"/supply/stages/{i}") for i in positions]


def without_detour(design: Design, first: Stage, feed: str, own: str) -> list[PatchOperation]:
    """What hangs on `feed` by way of a stage is fed by what feeds that, any switch or fuse on the way kept; `own` is where its own feed is written. The stage goes too, where
    nothing else hangs on it."""
    place, here = own, feed
    while here != first.id:
        place = f"/supply/stages/{design.index.stages[here]}/input"
        here = design.supply.stages[design.index.stages[here]].input
    patch = [replace(place, first.input)]
    fed = [f"/supply/rails/{i}/feed" for i, r in enumerate(design.supply.rails) if r.feed == first.id]
    for i, stage in enumerate(design.supply.stages):
        fed += [f"/supply/stages/{i}/{key}" for key in ("input", "other") if getattr(stage, key, None) == first.id]
    return patch + remove_stages(design, [first.id]) if fed == [place] else patch
