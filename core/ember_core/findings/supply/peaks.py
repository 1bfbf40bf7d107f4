"""Traps of short peaks: load transients that make a rail droop, and what the user plugs in."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from ...design.patches import replace
from ...figures import Remedy
from ...load.operating_points import part_current
from ...measures.bench import TrialBench
from ...quantities import show
from ...solved.droop import USUAL_ESR_OHM, Droop, Shows
from ...supply.converters import limits_current
from ...words import say
from ..found import Found

MOST_BULK_F = 0.01  # electrolytic capacitors of a gadget are not larger


def sagging_rail(bench: TrialBench) -> Iterator[Found]:
    """A peak pulls its rail below what the parts on it need, or past what the converter gives."""
    yield from _droops(bench, plugged=False)


def plugged_in_surge(bench: TrialBench) -> Iterator[Found]:
    """What the user plugs in takes a surge, and is a load of its own."""
    design = bench.design
    yield from _droops(bench, plugged=True)
    for p, part in enumerate(design.parts):
        if part.plugged_by_user and not any(u.part == part.id for m in design.modes for u in m.uses):
            yield Found(
                code="not-counted", severity="watch", step="draw", where=f"/parts/{p}", facts={"part": part.name}
            )


NOTHING_V = 1e-2


def _how(sag: Droop) -> str:
    """Which of its sentences a transient gets: what the stage before it can't give, or how far the rail falls."""
    if sag.stage:
        return "asked"
    if sag.lowest_v < NOTHING_V:
        return "nothing"
    return "low" if show(sag.before_v, "V") == show(sag.lowest_v, "V") else "falls"


def _worst(droops: list[Droop], margin: Callable[[Droop], float]) -> dict[int, Droop]:
    """Per part the transient with the least margin."""
    found: dict[int, Droop] = {}
    for sag in droops:
        if sag.part not in found or margin(sag) < margin(found[sag.part]):
            found[sag.part] = sag
    return found


def _droops(bench: TrialBench, *, plugged: bool) -> Iterator[Found]:
    """One finding per part: its worst mode; at the coldest where it holds at the usual temperature."""
    design = bench.design
    usual, cold = (
        _worst([s for s in found if design.parts[s.part].plugged_by_user == plugged and s.fails], lambda s: s.lowest_v - s.needs_v)
        for found in (bench.droops, bench.cold_droops)
    )  # fmt: skip
    for p, sag in (cold | usual).items():
        part, rail, mode = design.parts[p], design.supply.rails[sag.rail], design.modes[sag.mode]
        stages = {s.id: s.name for s in design.supply.stages}
        yield Found(
            code="surge" if plugged else "peak-sags",
            words="droops",
            severity="fix",
            step="supply",
            where=f"/supply/rails/{sag.source}",
            facts={
                "current": (sag.current_a, "A"),
                "duration": (sag.seconds, "s"),
                "part": part.name,
                "rail": rail.name,
                "frost": (None if p in usual else design.brief.coldest_c, "°C"),
                "plugged": plugged,
                "soc": (sag.charge, "share"),
                "mode": mode.name,
                "how": _how(sag),
                "stage": stages.get(sag.stage or ""),
                "beyond": (sag.beyond_a, "A"),
                "before": (sag.before_v, "V"),
                "lowest": (sag.lowest_v, "V"),
                "needs": (sag.needs_v, "V"),
                "capacitor": (sag.capacitor_f or None, "F"),
            },
            ways=lambda sag=sag: [_capacitor(sag.capacitor_f, sag, bench)],  # type: ignore[misc]
        )


STALLS_LIKE = 3.0  # times the most that a mode asks of a motor: a state that draws so much is one that nobody plans


def stalled_motor(bench: TrialBench) -> Iterator[Found]:
    """What a motor takes when it is held fast, against what is on the way to it."""
    design, state = bench.design, bench.usual
    for p, part in enumerate(design.parts):
        if part.kind != "motor":
            continue
        volts = float(bench.highest_rail_v[state.rail_of[p]])
        amps = {s.name: part_current(s, volts, "typical") * part.quantity for s in part.states}
        used = [x.states[p].name for x in state.operating_points if x.states[p] is not None]  # type: ignore[union-attr]
        name, stalled = max(amps.items(), key=lambda x: x[1])
        if name in used or not used or stalled < STALLS_LIKE * max(amps[u] for u in used):
            continue
        path = [state.tree.stages[s] for s in state.tree.path(state.tree.rail_feeds[state.rail_of[p]])]
        if any(limits_current(s) and s.limit_a < stalled for s in path):
            continue  # its converter holds the current
        guard = design.battery.protection
        trips = min((x for x in (guard and guard.overcurrent_a, guard and guard.fuse_a) if x), default=None)
        weak = [(s.name, s.limit_a) for s in path if not limits_current(s)] + [
            (design.battery.cell.name, state.pack.discharge_max_a)
        ]
        thin, stands = min(weak, key=lambda w: w[1])
        if stalled <= stands:
            continue
        cut = trips is not None and trips < stalled
        yield Found(
            code="stalled-motor",
            severity="watch" if cut else "fix",
            step="supply",
            where=f"/parts/{p}",
            facts={
                "current": (stalled, "A"),
                "stands": (stands, "A"),
                "part": part.name,
                "thin": thin,
                "cut": bool(cut),
            },
        )


def visible_droop(bench: TrialBench) -> Iterator[Found]:
    """A peak that no part fails at, but that dims a display or clips a sound: each part that it shows at, where that is worst."""
    design = bench.design
    failing = {s.part for s in bench.droops if s.fails}
    worst: dict[int, tuple[Droop, Shows]] = {}
    for sag in bench.droops:
        for shows in sag.shows if sag.part not in failing else ():
            if shows.part not in worst or shows.margin < worst[shows.part][1].margin:
                worst[shows.part] = (sag, shows)
    for sag, shows in worst.values():
        part, hurt, mode = design.parts[sag.part], design.parts[shows.part], design.modes[sag.mode]
        rail = design.supply.rails[bench.usual.rail_of[shows.part]]
        bulk = sag.smoothing_f if sag.smoothing_f and sag.smoothing_f <= MOST_BULK_F else None
        yield Found(
            code="visible-droop",
            severity="watch",
            step="supply",
            where=f"/parts/{shows.part}",
            facts={
                "soc": (sag.charge, "share"),
                "current": (sag.current_a, "A"),
                "duration": (sag.seconds, "s"),
                "droop": (shows.droop, "share"),
                "droop_max": (shows.most, "share"),
                "hurt": hurt.name,
                "kind": hurt.kind,
                "part": part.name,
                "itself": hurt is part,
                "mode": mode.name,
                "rail": rail.name,
                "bulk": (bulk, "F"),
            },
            ways=lambda sag=sag, bulk=bulk: [_capacitor(bulk, sag, bench)],  # type: ignore[misc]
        )


def _capacitor(wanted_f: float | None, sag: Droop, bench: TrialBench) -> Remedy | None:
    if not wanted_f:
        return None
    rail = bench.design.supply.rails[sag.source]
    farad = max(wanted_f, rail.capacitor.farad if rail.capacitor else 0.0)
    leak = rail.capacitor.leakage_a if rail.capacitor else 0.0
    capacitor = {"farad": farad, "esr_ohm": USUAL_ESR_OHM, "leakage_a": leak}
    return Remedy(
        label=say("way.on", farad=(farad, "F"), rail=rail.name),
        patch=[replace(f"/supply/rails/{sag.source}/capacitor", capacitor)],
    )
