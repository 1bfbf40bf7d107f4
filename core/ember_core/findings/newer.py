"""Parts and stages whose catalogue entry has got newer figures since they were placed."""

from __future__ import annotations

from collections.abc import Iterator

from ..design import Origin, Part, Stage
from ..design.patches import replace
from ..figures import PatchOperation, Remedy
from ..measures.bench import TrialBench
from ..words import say
from .found import Found

PLACE = {"id", "name", "rail", "quantity", "body", "note", "input", "other", "parasitic"}  # the design's own


def newer_figures(bench: TrialBench) -> Iterator[Found]:
    """What was placed keeps its figures; this says that there are newer ones, and offers them."""
    items: list[tuple[str, Part | Stage]] = [(f"/parts/{i}", p) for i, p in enumerate(bench.design.parts)]
    items += [(f"/supply/stages/{i}", s) for i, s in enumerate(bench.design.supply.stages)]
    for where, item in items:
        entry = bench.catalogue.by_key.get(item.origin.key) if item.origin else None
        now = (entry.part or entry.stage) if entry else None
        if entry is None or now is None or item.origin is None or entry.edition <= item.origin.edition:
            continue
        patch = _taken_over(bench, where, item, now, entry.key, entry.edition)
        yield Found(
            code="newer-figures",
            severity="note",
            step="draw" if isinstance(item, Part) else "supply",
            where=where,
            facts={"item": item.name, "edition": item.origin.edition, "now": entry.edition, "patch": bool(patch)},
            ways=(lambda patch=patch: [Remedy(label=say("way.take-the-new-figures"), patch=patch)]) if patch else None,  # type: ignore[misc]
        )


def _taken_over(
    bench: TrialBench, where: str, item: Part | Stage, now: Part | Stage, key: str, edition: int
) -> list[PatchOperation]:
    """Replaces the whole item, its place in the design kept; empty where the new one does not fit the modes."""
    if type(now) is not type(item):
        return []
    if isinstance(item, Part) and isinstance(now, Part):
        used = {
            name
            for mode in bench.design.modes
            for use in mode.uses
            if use.part == item.id
            for name in (use.state, use.rest, *(b.state for b in use.burst))
            if name is not None
        }
        if used - {s.name for s in now.states}:
            return []
    own = {name: getattr(item, name) for name in PLACE if name in type(item).model_fields}
    new = now.model_copy(update={**own, "origin": Origin(key=key, edition=edition)})
    return [replace(where, type(item).model_validate(new.model_dump()))]
