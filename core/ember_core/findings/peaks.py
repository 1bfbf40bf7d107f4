"""Traps of short peaks: surges that sag a rail, and what the user plugs in."""

from __future__ import annotations

from collections.abc import Iterator

from ..context import Context
from ..figures import Finding, Remedy
from ..quantities import show
from ..remedies import replace
from ..sag import JUDGED_AT, USUAL_ESR_OHM, Sag


def sagging_rail(context: Context) -> Iterator[Finding]:
    """T16: a peak pulls its rail below what the parts on it need, or past what the converter gives."""
    yield from _sags(context, plugged=False)


def plugged_in_surge(context: Context) -> Iterator[Finding]:
    """T7: what the user plugs in takes a surge, and is a load of its own."""
    design = context.design
    yield from _sags(context, plugged=True)
    for p, part in enumerate(design.parts):
        if part.plugged_by_user and not any(u.part == part.id for m in design.modes for u in m.uses):
            yield Finding(
                code="T7-not-counted",
                severity="watch",
                step="draw",
                where=f"/parts/{p}",
                title=f"{part.name} is counted nowhere",
                sentence=f"{part.name} is plugged in by the user and no mode uses it. Add it to the modes in which it may be plugged in.",
            )


def _sags(context: Context, *, plugged: bool) -> Iterator[Finding]:
    """One finding per part: its worst mode."""
    design = context.design
    worst: dict[int, Sag] = {}
    for sag in context.sags:
        if design.parts[sag.part].plugged_by_user == plugged and sag.fails:
            now = worst.get(sag.part)
            if now is None or sag.lowest_v - sag.needs_v < now.lowest_v - now.needs_v:
                worst[sag.part] = sag
    for p, sag in worst.items():
        part, rail, mode = design.parts[p], design.supply.rails[sag.rail], design.modes[sag.mode]
        stages = {s.id: s.name for s in design.supply.stages}
        how = (
            f"{stages[sag.stage]} is asked for {show(sag.beyond_a, 'A')} more than it gives"
            if sag.stage
            else f"{rail.name} falls from {show(sag.before_v, 'V')} to {show(sag.lowest_v, 'V')}, and {show(sag.needs_v, 'V')} are needed"
        )
        when = (
            f"At {show(JUDGED_AT, 'share')} charge"
            if not plugged
            else f"Plugged in at {show(JUDGED_AT, 'share')} charge"
        )
        remedy = _capacitor(sag, context)
        cure = f"; {show(sag.capacitor_f, 'F')} at the part carry it" if sag.capacitor_f else ""
        yield Finding(
            code="T7-surge" if plugged else "T16-peak-sags",
            severity="fix",
            step="supply",
            where=f"/supply/rails/{sag.source}",
            title=f"{part.name} pulls {rail.name} down",
            sentence=(
                f"{when} {part.name} takes {show(sag.current_a, 'A')} for {show(sag.seconds, 's')} while {mode.name.lower()}: "
                f"{how}{cure}. The display dims or the chip resets."
            ),
            remedy=remedy,
        )  # fmt: skip


def _capacitor(sag: Sag, context: Context) -> Remedy | None:
    if not sag.capacitor_f:
        return None
    bulk = context.design.supply.rails[sag.source].capacitor
    farad = max(sag.capacitor_f, bulk.farad if bulk else 0.0)
    capacitor = {"farad": farad, "esr_ohm": USUAL_ESR_OHM, "leakage_a": bulk.leakage_a if bulk else 0.0}
    rail = context.design.supply.rails[sag.source]
    return Remedy(
        label=f"{show(farad, 'F')} on {rail.name}", patch=[replace(f"/supply/rails/{sag.source}/capacitor", capacitor)]
    )
