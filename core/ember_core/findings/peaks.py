"""Traps of short peaks: load transients that make a rail droop, and what the user plugs in."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from ..design.patches import replace
from ..figures import Remedy
from ..load.operating_points import part_current
from ..measures.bench import TrialBench
from ..quantities import show
from ..solved.droop import USUAL_ESR_OHM, Droop, Shows
from ..supply.converters import limits_current
from .found import Found

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
                code="not-counted",
                severity="watch",
                step="draw",
                where=f"/parts/{p}",
                title=f"{part.name} is counted nowhere",
                sentence=f"{part.name} is plugged in by the user and no mode uses it. Add it to the modes in which it may be plugged in.",
            )


NOTHING_V = 1e-2


def _falls(rail: str, sag: Droop) -> str:
    before, lowest = show(sag.before_v, "V"), show(sag.lowest_v, "V")
    if sag.lowest_v < NOTHING_V:
        return f"{rail} falls from {before} to next to nothing"
    return f"{rail} has {lowest}" if before == lowest else f"{rail} falls from {before} to {lowest}"


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
        how = (
            f"{stages[sag.stage]} is asked for {show(sag.beyond_a, 'A')} more than it gives"
            if sag.stage
            else f"{_falls(rail.name, sag)}, and {show(sag.needs_v, 'V')} are needed"
        )
        frost = "" if p in usual else f"At {show(design.brief.coldest_c, '°C')}, "
        when = f"{'Plugged in at' if plugged else 'At'} {show(sag.charge, 'share')} charge"
        when = f"{frost}{when[0].lower()}{when[1:]}" if frost else when
        cure = f"; {show(sag.capacitor_f, 'F')} at the part carry it" if sag.capacitor_f else ""
        yield Found(
            code="surge" if plugged else "peak-sags",
            severity="fix",
            step="supply",
            where=f"/supply/rails/{sag.source}",
            title=f"{part.name} pulls {rail.name} down" + (" in the cold" if frost else ""),
            facts={"current": (sag.current_a, 'A'), "duration": (sag.seconds, 's')},
            sentence=(
                f"{when} {part.name} takes {show(sag.current_a, 'A')} for {show(sag.seconds, 's')} while {mode.name.lower()}: "
                f"{how}{cure}. The chip resets."
            ),
            ways=lambda sag=sag: [_capacitor(sag.capacitor_f, sag, bench)],  # type: ignore[misc]
        )  # fmt: skip


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
            title=f"{part.name} held fast takes too much",
            facts={"current": (stalled, "A"), "stands": (stands, "A")},
            sentence=(
                f"Held fast, {part.name} takes {show(stalled, 'A')}, and {thin} stands {show(stands, 'A')}: "
                + ("the protection cuts the gadget off. " if cut else "nothing cuts that off before something burns. ")
                + "A driver that limits the current, or firmware that notices and stops it."
            ),
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
        cure = (
            f" {show(bulk, 'F')} at {part.name} hold it."
            if bulk
            else " Less resistance on the way helps, or a regulated rail."
        )
        what = {"sound": "clips", "display": "dims", "light": "flickers"}.get(hurt.kind, "is disturbed")
        yield Found(
            code="visible-droop",
            severity="watch",
            step="supply",
            where=f"/parts/{shows.part}",
            title=f"{hurt.name} {what} when {'it' if hurt is part else part.name} peaks",
            facts={
                "soc": (sag.charge, "share"),
                "current": (sag.current_a, "A"),
                "duration": (sag.seconds, "s"),
                "droop": (shows.droop, "share"),
                "droop_max": (shows.most, "share"),
            },
            sentence=(
                f"At {show(sag.charge, 'share')} charge {part.name} takes {show(sag.current_a, 'A')} for {show(sag.seconds, 's')} while "
                f"{mode.name.lower()}: {rail.name} droops by {show(shows.droop, 'share')}, and {hurt.name} stands {show(shows.most, 'share')}.{cure}"
            ),
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
        label=f"{show(farad, 'F')} on {rail.name}", patch=[replace(f"/supply/rails/{sag.source}/capacitor", capacitor)]
    )
