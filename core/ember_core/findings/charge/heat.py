"""Traps of heat: what lasts long enough to warm the case beyond what is in it stands."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ...design import Plastic, Process, Vents
from ...design.patches import replace
from ...enclosure.placing import free_places
from ...enclosure.solids import corners
from ...figures import Remedy
from ...measures.bench import TrialBench
from ...measures.edits import set_current
from ...quantities import show
from ...solved.warmth import CELL_CHARGE_MAX_C, charging_range_c
from ...thermal.materials import CELL_MAX_C, MATERIALS, softest
from ...words import Said, say
from ..found import Found
from .refill import fitting, instead

FAR_TOO_HOT_K = 15.0  # above what most parts stand: beyond any doubt about it
SPARE_C = 2.0  # kept below the limit by the resistor that is offered
VENTS_MM2 = (40.0, 100.0, 250.0, 600.0)


def too_warm_in_use(bench: TrialBench) -> Iterator[Found]:
    """A mode that lasts warms the case beyond what its plastic or its cell stands."""
    warm, design = bench.warmth, bench.design
    (plastic, softening), cell = softest(design.enclosure), CELL_MAX_C[design.battery.cell.chemistry]
    limit = min(softening, cell)
    if warm.running_c <= limit:
        return
    mode, m = design.modes[warm.hottest_mode], warm.hottest_mode
    cause, watts = _hottest(bench, m)
    yield Found(
        code="too-warm",
        verdict="heat",
        severity="fix",
        step="charge",
        where=f"/modes/{m}",
        facts={
            "power": (float(warm.mode_w[m]), "W"),
            "cause_power": (watts, "W"),
            "surroundings": (design.brief.hottest_c, "°C"),
            "temperature": (warm.running_c, "°C"),
            "limit": (limit, "°C"),
            "mode": mode.name,
            "cause": cause,
            "plastic": plastic if softening <= cell else None,
            "cell": design.battery.cell.name,
            "days": bench.warmest_days(m),
            "sun": (warm.shell.sun_w if warm.shell.sun_w > 0 else None, "W"),
        },
        ways=lambda: [*_cooler(bench), *(_other_plastics(bench, warm.running_c) if softening <= cell else [])],
    )


def _cooler(bench: TrialBench) -> Iterator[Remedy]:
    """A light colour in the sun; vents of a size, low and high, where nothing splashes; a larger case."""
    case = bench.design.enclosure
    if case.in_sun and case.colour == "dark":
        yield Remedy(label=say("way.make-it-light"), patch=[replace("/enclosure/colour", "light")])
    _, middle, most = sorted(case.outer_mm)
    if bench.design.brief.exposure == "dry":
        inside = sorted(case.inner_mm)
        height = max(inside[2] if case.stands == "standing" else inside[0], 1.0)
        for area in VENTS_MM2:
            if area <= middle * most / 2 and (case.vents is None or area > case.vents.area_mm2):
                vents = Vents(area_mm2=area, height_mm=float(f"{height:.3g}"))
                yield Remedy(
                    label=say("way.vents-of-low-and-high-apart", area=(area, "mm²"), height=(vents.height_mm, "mm")),
                    patch=[replace("/enclosure/vents", vents)],
                )
    x, y, z = case.outer_mm
    for factor in (1.25, 1.6):
        size = [round(v * factor, 1) for v in (x, y, z)]
        yield Remedy(
            label=say("way.a-case-of-mm", size=(size[0], ""), size_2=(size[1], ""), size_3=(size[2], "")),
            patch=[replace("/enclosure/outer_mm", size)],
        )


def too_hot_to_touch(bench: TrialBench) -> Iterator[Found]:
    """The outside gets hotter than skin stands for the contact that it has."""
    warm, design = bench.warmth, bench.design
    worst = warm.outside
    limit, contact = worst.limit_c, worst.contact
    if worst.degrees_c <= limit:
        return
    yield Found(
        code="touch-limit",
        verdict="heat",
        severity="fix",
        step="charge",
        where="/enclosure/carried",
        facts={
            "outside": (worst.degrees_c, "°C"),
            "limit": (limit, "°C"),
            "surroundings": (worst.surroundings_c, "°C"),
            "over": worst.over,
            "mode": None if worst.mode is None else design.modes[worst.mode].name,
            "plastic": design.enclosure.plastic,
            "contact": contact,
        },
        ways=lambda: [
            *(_cooler_charger(bench, worst.degrees_c, limit) if worst.mode is None else []),
            *(_away(bench, next(n.pointer for n in warm.nodes if n.name == worst.over), None) if worst.over else []),
            *_cooler(bench),
        ],
    )


def part_too_hot(bench: TrialBench) -> Iterator[Found]:
    """A part gets hotter than most parts stand, by its own surface in the air that is inside by then: in a mode, or while charging."""
    warm, design = bench.warmth, bench.design
    used = np.flatnonzero(bench.usual.shares > 0).tolist()
    for i, node in enumerate(warm.nodes):
        if node.kind != "part":
            continue
        cases = [(float(warm.node_c[i, m]), float(warm.node_w[i, m]), design.modes[m].name) for m in used]
        if warm.charging_node_c is not None:
            cases.append((float(warm.charging_node_c[i]), float(warm.meanwhile_w[i]), ""))
        worst, watts, mode = max(cases, default=(-300.0, 0.0, ""))
        if worst <= node.limit_c:
            continue
        yield Found(
            code="part-too-hot",
            verdict="heat",
            severity="fix" if worst > node.limit_c + FAR_TOO_HOT_K else "watch",
            step="charge",
            where=node.pointer,
            facts={
                "power": (watts, "W"),
                "temperature": (worst, "°C"),
                "limit": (node.limit_c, "°C"),
                "node": node.name,
                "mode": mode,
            },
        )


WARMED_K = 5.0  # by one neighbour: from there on it is told; ten kelvin halve a cell's years
MOVES = 3  # places that are tried


def warm_neighbour(bench: TrialBench) -> Iterator[Found]:
    """Something hot sits so near the cell that it warms it, beyond what it stands or by much."""
    warm, design = bench.warmth, bench.design
    cell = next(i for i, n in enumerate(warm.nodes) if n.kind == "cell")
    used = [m for m in range(len(design.modes)) if bench.usual.shares[m] > 0]
    found = [
        (float(warm.node_c[cell, m]), float(warm.inside_c[m]), CELL_MAX_C[design.battery.cell.chemistry], design.modes[m].name,
         warm.cell_from_k[:, m]) for m in used
    ]  # fmt: skip
    if warm.charging_node_c is not None and warm.charging_c is not None and warm.charging_cell_from_k is not None:
        found.append(
            (
                float(warm.charging_node_c[cell]),
                warm.charging_c,
                CELL_CHARGE_MAX_C,
                "",
                warm.charging_cell_from_k,
            )
        )
    if not found:
        return
    cell_c, air_c, limit, mode, by = max(found, key=lambda x: (x[0] > x[2], float(x[4].max())))
    hot = int(np.argmax(by))
    over = cell_c > limit and air_c <= limit
    if not over and by[hot] < WARMED_K:
        return
    node = warm.nodes[hot]
    yield Found(
        code="warm-neighbour",
        verdict="heat",
        severity="fix" if over else "watch",
        step="fit",
        where=node.pointer,
        facts={
            "warmed": (float(by[hot]), "K"),
            "temperature": (cell_c, "°C"),
            "limit": (limit, "°C"),
            "air": (air_c, "°C"),
            "node": node.name,
            "mode": mode,
            "cell": design.battery.cell.name,
        },
        ways=lambda: [*_away(bench, node.pointer, "/battery"), *(_gentler(bench) if node.kind == "charger" else [])],
    )


def wall_spot(bench: TrialBench) -> Iterator[Found]:
    """Something hot sits so near the wall that the plastic over it softens, while the air inside does not."""
    warm, design = bench.warmth, bench.design
    plastic, softens = softest(design.enclosure)
    if max(warm.running_c, warm.charging_c or warm.running_c) > softens:
        return
    used = np.flatnonzero(bench.usual.shares > 0).tolist()
    for i, (node, spots) in enumerate(zip(warm.nodes, warm.spot_c.tolist(), strict=True)):
        degrees = [(spots[m], design.modes[m].name) for m in used]
        if warm.charging_spot_c is not None:
            degrees.append((float(warm.charging_spot_c[i]), ""))
        worst, mode = max(degrees, default=(0.0, ""))
        if worst <= softens:
            continue
        yield Found(
            code="wall-spot",
            verdict="heat",
            severity="fix",
            step="fit",
            where=node.pointer,
            facts={
                "spot": (worst, "°C"),
                "limit": (softens, "°C"),
                "node": node.name,
                "mode": mode,
                "plastic": plastic,
            },
            ways=lambda node=node, worst=worst: [  # type: ignore[misc]
                *(_cooler_charger(bench, worst, softens) if node.kind == "charger" else []),
                *_away(bench, node.pointer, None),
                *_other_plastics(bench, worst),
            ],
        )


def _away(bench: TrialBench, pointer: str, other: str | None) -> Iterator[Remedy]:
    """The free places that are farthest from another body, or from every wall."""
    design = bench.design
    places = free_places(design, pointer)
    there = next((p for p in bench.fit.placed if p.pointer == other), None)
    if not places or (other is not None and there is None):
        return
    box = [corners(b) for b in places]
    low, high = np.array([b.min(axis=0) for b in box]), np.array([b.max(axis=0) for b in box])
    if there is not None:
        apart = np.linalg.norm(np.maximum(np.maximum(low - there.high, there.low - high), 0.0), axis=1)
    else:
        walls = np.asarray(design.enclosure.walls)
        outer = np.asarray(design.enclosure.outer_mm)
        apart = np.minimum(low - walls[0::2], outer - walls[1::2] - high).min(axis=1)
    name = next(n.name for n in bench.warmth.nodes if n.pointer == pointer)
    mm = [float(np.round(x)) for x in apart]
    tried: set[float] = set()
    for k in np.argsort(-apart, kind="stable"):
        if len(tried) >= MOVES:
            return
        if mm[k] in tried:
            continue
        tried.add(mm[k])
        of = f"{show(mm[k], 'mm')} from {'the cell' if there is not None else 'every wall'}"
        yield Remedy(label=say("way.move", name=name, of=of), patch=[replace(f"{pointer}/body", places[k])])


def _cooler_charger(bench: TrialBench, spot_c: float, limit_c: float) -> Iterator[Remedy | None]:
    """Less current, until the wall over it stays below a limit."""
    charger, warm = bench.design.charger, bench.warmth
    if charger is None or warm.hot_charge is None or warm.charging_c is None:
        return
    around = charging_range_c(bench.design)[1]
    share = (limit_c - SPARE_C - around) / max(spot_c - around, 1e-9)
    for less in (share, 0.8 * share, 0.6 * share):
        if 0 < less < 1:
            yield set_current(charger, charger.set_a * less)
    yield from _gentler(bench)


def vents_let_water_in(bench: TrialBench) -> Iterator[Found]:
    brief, case = bench.design.brief, bench.design.enclosure
    if case.vents is None or brief.exposure == "dry":
        return
    yield Found(
        code="vents-exposed",
        verdict="heat",
        severity="fix",
        step="charge",
        where="/enclosure/vents",
        facts={"exposure": brief.exposure},
        ways=lambda: [Remedy(label=say("way.close-the-vents"), patch=[replace("/enclosure/vents", None)])],
    )


def _hottest(bench: TrialBench, mode: int) -> tuple[str | Said, float]:
    """(name, mean power [W]) of the part or the stage that burns most in a mode."""
    state = bench.usual
    part_w, stage_w = state.half.part_w @ state.in_mode[mode], state.half.stage_loss @ state.in_mode[mode]
    burnt: list[tuple[str | Said, float]] = [(Said("place.battery"), 0.0)]
    burnt += [(p.name, float(w)) for p, w in zip(bench.design.parts, part_w, strict=True) if not p.burns_outside]
    burnt += [(s.name, float(w)) for s, w in zip(state.tree.stages, stage_w, strict=True)]
    return max(burnt, key=lambda b: b[1])


PRINTED: dict[Process, tuple[Plastic, ...]] = {
    # what each process makes a case of; a ready-made box is of what it is
    "filament": ("PLA", "PETG", "ABS", "ASA", "nylon", "TPU", "polycarbonate"), "resin": ("resin",),
    "milled": ("ABS", "polycarbonate", "nylon", "wood", "aluminium", "steel"), "ready-made": (),
}  # fmt: skip


def _other_plastics(bench: TrialBench, inside_c: float) -> Iterator[Remedy]:
    """Plastics that stand it, the least hardy first: of those that the process makes, then printed from filament instead."""
    case = bench.design.enclosure
    rows = [(p, m) for p, m in sorted(MATERIALS.items(), key=lambda x: x[1].softens_c)
            if m.softens_c > inside_c and m.feel == "plastic" and p != case.plastic]  # fmt: skip
    for plastic, _ in rows:
        if plastic in PRINTED[case.process]:
            yield Remedy(
                label=say("way.make-the-case-of", plastic=plastic), patch=[replace("/enclosure/plastic", plastic)]
            )
    for plastic, _ in rows:
        if case.process != "filament" and plastic in PRINTED["filament"] and plastic not in PRINTED[case.process]:
            patch = [replace("/enclosure/plastic", plastic), replace("/enclosure/process", "filament")]
            yield Remedy(label=say("way.print-the-case-of-from-filament", plastic=plastic), patch=patch)


def too_warm_to_charge(bench: TrialBench) -> Iterator[Found]:
    """Charging, with what runs meanwhile, warms the cell beyond what it may be charged at."""
    warm, design = bench.warmth, bench.design
    charger, hot = design.charger, warm.hot_charge
    if warm.charging_c is None or charger is None or hot is None:
        return
    plastic, softening = softest(design.enclosure)
    limit = min(softening, CELL_CHARGE_MAX_C)
    around = charging_range_c(design)[1]
    if warm.charging_c <= limit:
        return
    room = limit - SPARE_C - around
    yield Found(
        code="charging-too-warm",
        verdict="heat",
        severity="fix",
        step="charge",
        where="/charger/program_ohm",
        facts={
            "power": (hot.heat_w, "W"),
            "charge_current": (hot.current_a, "A"),
            "temperature": (warm.charging_c, "°C"),
            "surroundings": (around, "°C"),
            "limit": (limit, "°C"),
            "charger": charger.name,
            "linear": charger.topology == "linear",
            "plastic": plastic if softening <= CELL_CHARGE_MAX_C else None,
        },
        ways=lambda: [*_slower(bench, room), *_gentler(bench), *_cooler(bench)],
    )


def _slower(bench: TrialBench, room_k: float) -> Iterator[Remedy | None]:
    """Currents that keep the case within its room, the most current first."""
    charger, warm = bench.design.charger, bench.warmth
    assert charger is not None
    hot = warm.hot_charge
    if hot is None or room_k <= 0 or hot.heat_w <= 0:
        return
    assert warm.charging_shell is not None
    per_amp = hot.heat_w / max(hot.current_a, 1e-9)
    others = max(hot.case_heat_w - hot.heat_w, 0.0)
    amps = (warm.charging_shell.power_at(room_k) - others) / per_amp
    for share in (1.0, 0.8, 0.6):
        if 0 < amps * share < charger.set_a:
            yield set_current(charger, amps * share)


def _gentler(bench: TrialBench) -> Iterator[Remedy]:
    """The charger's own lower steps, a switching one, or charging while off."""
    charger = bench.design.charger
    assert charger is not None
    for amps in sorted(charger.steps_a, reverse=True):
        if charger.fixed_a is not None and amps < charger.fixed_a:
            yield Remedy(label=say("way.set-it-to", amps=(amps, "A")), patch=[replace("/charger/fixed_a", amps)])
    if charger.topology == "linear":
        yield from instead(bench, [c for c in fitting(bench) if c.topology == "switching"])
    quiet = [m for m in bench.design.modes if m.id in ("off", bench.design.day.rest)]
    for mode in quiet:
        if charger.mode not in (None, mode.id):
            yield Remedy(label=say("way.charge-it", mode=mode.name), patch=[replace("/charger/mode", mode.id)])


def folds_back(bench: TrialBench) -> Iterator[Found]:
    """The charger gets too hot for the current that it is set to, and gives less."""
    charger, result = bench.design.charger, bench.charge
    if charger is None or charger.foldback_c is None or result is None or result.limit != "fold-back" or result.never:
        return
    yield Found(
        code="fold-back",
        severity="note",
        step="charge",
        where="/charger/program_ohm",
        facts={
            "charge_current": (result.set_a, "A"),
            "foldback": (charger.foldback_c, "°C"),
            "current_in_heat": (result.current_a, "A"),
            "charger": charger.name,
        },
    )
