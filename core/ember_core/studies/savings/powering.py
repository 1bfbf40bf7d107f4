"""Measures on the way from the battery to the parts: another converter, or none."""

from __future__ import annotations

from collections.abc import Iterator

from ...design import Cell, Design, Stage
from ...design.patches import replace
from ...figures import PatchOperation
from ...measures.bench import TrialBench
from ...measures.edits import new_cells, pack_patch
from ...measures.measure import Change, Measure
from ...measures.selection import in_place
from ...quantities import show
from ..rail import RailOption, converters, fewer_rails, regulator

WORTH = 1.01  # of the runtime
MOST_RAILS = 4
LOOKED_AT = 0.9  # of the longest that suits: others are not the best, nor nearly
CHEAPER, NEARLY = 0.7, 0.97  # of the best one's cost at most, of its runtime at least
LARGER, SAME_FOOT_MM, MOST_CELLS = 1.1, 1.0, 2  # times the capacity; so much wider is the same place


def other_converters(bench: TrialBench) -> Iterator[Measure]:
    """The best catalogue converter for each rail, where it gains something."""
    seen: set[str] = set()
    for r in _busiest(bench):
        rail = bench.design.supply.rails[r]
        found = regulator(bench.design, rail)
        if found is None or found[1].id in seen:
            continue
        seen.add(found[1].id)
        rows = converters(bench, r, near=LOOKED_AT)
        now = next(x for x, _ in rows if x.now)
        best, stage = next(((x, s) for x, s in rows if x.fits and not x.now), (now, found[1]))
        if (best.runtime.value or 0) <= WORTH * (now.runtime.value or 0):
            continue
        yield Measure(
            f"other-converter:{found[1].id}", "other-converter", "build", f"stage:{found[1].id}",
            {"rail": rail.name, "stage": stage.name, "now": found[1].name}, _swap(found[1].id, stage),
        )  # fmt: skip
        cheap = min(
            ((x, s) for x, s in rows if x.fits and not x.now and s.cost <= CHEAPER * stage.cost and (x.runtime.value or 0) >= NEARLY * (best.runtime.value or 0)),
            key=lambda t: (t[1].cost, -(t[0].runtime.value or 0)), default=None,
        )  # fmt: skip
        if cheap is not None and (cheap[0].runtime.value or 0) > WORTH * (now.runtime.value or 0):
            row, other = cheap
            unit = bench.design.brief.currency
            yield Measure(
                f"cheaper-converter:{found[1].id}", "cheaper-converter", "build", f"stage:{found[1].id}",
                {"rail": rail.name, "other": other.name, "now": found[1].name, "cost": (other.cost, unit), "best": stage.name, "best_cost": (stage.cost, unit),
                 "comes_to": ((row.runtime.value or 0) / (best.runtime.value or 1), "share")},
                _swap(found[1].id, other),
            )  # fmt: skip


def larger_cells(bench: TrialBench) -> Iterator[Measure]:
    """Cells of the same kind that take no more room across and hold more: the two that hold most, where they have the room."""
    battery = bench.design.battery
    cell, hold, number = battery.cell, battery.cell.capacity_ah, battery.series * battery.parallel
    across = sorted(cell.size_mm)[1:]
    larger = [
        c for c in bench.catalogue.cells
        if c.bank is None and c.chemistry == cell.chemistry and c.form == cell.form and c.full_v == cell.full_v
        and c.capacity_ah > LARGER * hold and all(a <= b + SAME_FOOT_MM for a, b in zip(sorted(c.size_mm)[1:], across, strict=True))
    ] if cell.bank is None else []  # fmt: skip
    for one in sorted(larger, key=lambda c: (-c.capacity_ah, c.cost))[:MOST_CELLS]:
        yield Measure(
            f"larger-cell:{one.name}"[:160], "larger-cell", "build", "battery:cell",
            {"cell": one.name, "now": cell.name, "long": (sorted(one.size_mm)[1], "mm"), "longest": (max(one.size_mm), "mm"),
             "thick": (min(one.size_mm), "mm"), "was": (min(cell.size_mm), "mm"),
             "as_thick": show(min(one.size_mm), "mm") == show(min(cell.size_mm), "mm"), "holds": (one.capacity_ah, "Ah"), "held": (hold, "Ah"),
             "mass": (one.mass_g * number, "g"), "mass_now": (cell.mass_g * number, "g")},
            _other_cell(one),
        )  # fmt: skip


def _other_cell(cell: Cell) -> Change:
    def change(design: Design) -> list[PatchOperation] | None:
        present = design.battery
        if present.cell.name == cell.name:
            return None
        return pack_patch(design, new_cells(present, cell, present.series, present.parallel))

    return change


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
                    f"{option.code}:{rail.id}:{option.subject}"[:160], "no-converter", "build", f"rail:{rail.id}",
                    {"title": option.title, "about": option.about}, _again(bench, rail.id, option),
                )  # fmt: skip


def _again(bench: TrialBench, rail: str, option: RailOption) -> Change:
    """The same option asked of the changed design: its positions are others."""

    def change(design: Design) -> list[PatchOperation] | None:
        if design == bench.design:
            return option.remedy.patch if option.remedy else None
        position = design.index.rails.get(rail)
        if position is None:
            return None
        again = fewer_rails(bench.of(design), position)
        same = next((o for o in again if (o.code, o.subject) == (option.code, option.subject) and o.fits), None)
        return same.remedy.patch if same and same.remedy else None

    return change


POWERING = (larger_cells, other_converters, no_converter)
