"""Measures on the way from the battery to the parts: another converter, or none."""

from __future__ import annotations

from collections.abc import Iterator

from ...design import Design, Stage
from ...design.patches import replace
from ...figures import PatchOperation
from ...measures.bench import TrialBench
from ...measures.measure import Change, Measure
from ...measures.selection import in_place
from ..rail import RailOption, converters, fewer_rails, regulator

WORTH = 1.01  # of the runtime
MOST_RAILS = 4


def other_converters(bench: TrialBench) -> Iterator[Measure]:
    """The best catalogue converter for each rail, where it gains something."""
    seen: set[str] = set()
    for r in _busiest(bench):
        rail = bench.design.supply.rails[r]
        found = regulator(bench.design, rail)
        if found is None or found[1].id in seen:
            continue
        seen.add(found[1].id)
        rows = converters(bench, r)
        now = next(x for x, _ in rows if x.now)
        best, stage = next(((x, s) for x, s in rows if x.fits and not x.now), (now, found[1]))
        if (best.runtime.value or 0) <= WORTH * (now.runtime.value or 0):
            continue
        yield Measure(
            f"other-converter:{found[1].id}", "other-converter", "build", f"stage:{found[1].id}",
            f"{rail.name}: {stage.name} instead of {found[1].name}",
            f"{found[1].name} makes {rail.name} now; of the catalogue's converters for it this one serves longest.",
            "Another part on the board, with its own passives.", _swap(found[1].id, stage),
        )  # fmt: skip


def _busiest(bench: TrialBench) -> list[int]:
    """The rails whose supply loses most over the day: each of them is tried with many others."""
    state = bench.usual
    by_stage = state.half.stage_loss @ state.point_weights
    losses = [sum(float(by_stage[s]) for s in state.tree.path(feed)) for feed in state.tree.rail_feeds]
    return sorted(range(len(losses)), key=lambda r: -losses[r])[:MOST_RAILS]


def _swap(old: str, new: Stage) -> Change:
    def change(design: Design) -> list[PatchOperation] | None:
        here = design.stage(old)
        return [replace(f"/supply/stages/{design.index.stages[old]}", in_place(here, new))] if here else None

    return change


def no_converter(bench: TrialBench) -> Iterator[Measure]:
    """Rails straight on the battery, or not there at all."""
    for r in _busiest(bench):
        rail = bench.design.supply.rails[r]
        for option in fewer_rails(bench, r):
            if option.fits and option.remedy is not None and ((option.gained and option.gained.value) or 0) > 0:
                yield Measure(
                    f"{option.code}:{rail.id}:{option.subject}"[:160], "no-converter", "build", f"rail:{rail.id}", option.title,
                    option.about, "Fewer parts; what hangs on it gets the voltage as it comes.",
                    _again(bench, rail.id, option),
                )  # fmt: skip


def _again(bench: TrialBench, rail: str, option: RailOption) -> Change:
    """The same option asked of the changed design: its positions are others."""

    def change(design: Design) -> list[PatchOperation] | None:
        if design == bench.design:
            return option.remedy.patch if option.remedy else None
        position = design.index.rails.get(rail)
        if position is None:
            return None
        again = fewer_rails(TrialBench(design, bench.catalogue), position)
        same = next((o for o in again if (o.code, o.subject) == (option.code, option.subject) and o.fits), None)
        return same.remedy.patch if same and same.remedy else None

    return change


POWERING = (other_converters, no_converter)
