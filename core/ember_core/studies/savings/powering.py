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
        cheap = min(
            ((x, s) for x, s in rows if x.fits and not x.now and s.cost <= CHEAPER * stage.cost and (x.runtime.value or 0) >= NEARLY * (best.runtime.value or 0)),
            key=lambda t: (t[1].cost, -(t[0].runtime.value or 0)), default=None,
        )  # fmt: skip
        if cheap is not None and (cheap[0].runtime.value or 0) > WORTH * (now.runtime.value or 0):
            row, other = cheap
            unit = bench.design.brief.currency
            yield Measure(
                f"cheaper-converter:{found[1].id}", "cheaper-converter", "build", f"stage:{found[1].id}",
                f"{rail.name}: {other.name} in place of {found[1].name}",
                f"It costs {other.cost:.2f} {unit} where {stage.name} costs {stage.cost:.2f} {unit}, and comes to "
                f"{show((row.runtime.value or 0) / (best.runtime.value or 1), 'share')} of its runtime.",
                "Another part on the board, with its own passives.", _swap(found[1].id, other),
            )  # fmt: skip


def larger_cells(bench: TrialBench) -> Iterator[Measure]:
    """Cells of the same kind that take no more room across and hold more: the two that hold most, where they have the room."""
    battery = bench.design.battery
    cell, hold = battery.cell, battery.cell.capacity_ah
    across = sorted(cell.size_mm)[1:]
    larger = [
        c for c in bench.catalogue.cells
        if c.bank is None and c.chemistry == cell.chemistry and c.form == cell.form and c.full_v == cell.full_v
        and c.capacity_ah > LARGER * hold and all(a <= b + SAME_FOOT_MM for a, b in zip(sorted(c.size_mm)[1:], across, strict=True))
    ] if cell.bank is None else []  # fmt: skip
    for one in sorted(larger, key=lambda c: (-c.capacity_ah, c.cost))[:MOST_CELLS]:
        yield Measure(
            f"larger-cell:{one.name}"[:160], "larger-cell", "build", "battery:cell", f"{one.name} in place of {cell.name}",
            f"It takes no more room across ({' × '.join(show(v, 'mm') for v in sorted(one.size_mm)[1:])}), is {_thick(one, cell)}, and holds "
            f"{show(one.capacity_ah, 'Ah')} in place of {show(hold, 'Ah')}.",
            f"{show(one.mass_g * battery.series * battery.parallel, 'g')} in place of {show(cell.mass_g * battery.series * battery.parallel, 'g')}, and a longer charge.",
            _other_cell(one),
        )  # fmt: skip


def _thick(new: Cell, present: Cell) -> str:
    thick, was = show(min(new.size_mm), "mm"), show(min(present.size_mm), "mm")
    return "as thick" if thick == was else f"{thick} thick where the present one is {was}"


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


POWERING = (larger_cells, other_converters, no_converter)
