"""Traps of short peaks: load transients that make a rail droop, and what the user plugs in."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from ..design.patches import replace
from ..figures import Remedy
from ..measures.bench import TrialBench
from ..quantities import show
from ..solved.droop import USUAL_ESR_OHM, Droop
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


def _worst(droops: list[Droop], margin: Callable[[Droop], float]) -> dict[int, Droop]:
    """Per part the transient with the least margin."""
    found: dict[int, Droop] = {}
    for sag in droops:
        if sag.part not in found or margin(sag) < margin(found[sag.part]):
            found[sag.part] = sag
    return found


def _droops(bench: TrialBench, *, plugged: bool) -> Iterator[Found]:
    """One finding per part: its worst mode."""
    design = bench.design
    failing = [s for s in bench.droops if design.parts[s.part].plugged_by_user == plugged and s.fails]
    for p, sag in _worst(failing, lambda s: s.lowest_v - s.needs_v).items():
        part, rail, mode = design.parts[p], design.supply.rails[sag.rail], design.modes[sag.mode]
        stages = {s.id: s.name for s in design.supply.stages}
        how = (
            f"{stages[sag.stage]} is asked for {show(sag.beyond_a, 'A')} more than it gives"
            if sag.stage
            else f"{rail.name} falls from {show(sag.before_v, 'V')} to {show(sag.lowest_v, 'V')}, and {show(sag.needs_v, 'V')} are needed"
        )
        when = f"{'Plugged in at' if plugged else 'At'} {show(sag.charge, 'share')} charge"
        cure = f"; {show(sag.capacitor_f, 'F')} at the part carry it" if sag.capacitor_f else ""
        yield Found(
            code="surge" if plugged else "peak-sags",
            severity="fix",
            step="supply",
            where=f"/supply/rails/{sag.source}",
            title=f"{part.name} pulls {rail.name} down",
            facts={"current": (sag.current_a, 'A'), "duration": (sag.seconds, 's')},
            sentence=(
                f"{when} {part.name} takes {show(sag.current_a, 'A')} for {show(sag.seconds, 's')} while {mode.name.lower()}: "
                f"{how}{cure}. The chip resets."
            ),
            ways=lambda sag=sag: [_capacitor(sag.capacitor_f, sag, bench)],  # type: ignore[misc]
        )  # fmt: skip


def visible_droop(bench: TrialBench) -> Iterator[Found]:
    """A peak that no part fails at, but that dims a display or clips a sound."""
    design = bench.design
    failing = {s.part for s in bench.droops if s.fails}
    shown = [s for s in bench.droops if s.shows is not None and s.part not in failing]
    for p, sag in _worst(shown, lambda s: s.shows.margin if s.shows else 0.0).items():
        shows = sag.shows
        assert shows is not None
        part, hurt, mode = design.parts[p], design.parts[shows.part], design.modes[sag.mode]
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
            where=f"/supply/rails/{sag.source}",
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
