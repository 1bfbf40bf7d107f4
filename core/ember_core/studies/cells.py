"""Which cell suits: every catalogue cell, in as many as fit the supply's voltage, against the brief."""

from __future__ import annotations

import dataclasses
import math
from collections.abc import Collection, Iterator
from typing import Annotated, Literal

from pydantic import Field

from ..battery.chemistry import CHEMISTRIES, full_v, resistance_factor
from ..battery.pack import GRID_POINTS, pack_size_mm, resting_v
from ..design import Battery, Cell
from ..design.patches import apply_patch, replace
from ..enclosure.placing import has_room, place_all
from ..figures import Figure, PatchOperation, Remedy, figure, record
from ..measures.bench import TrialBench
from ..measures.edits import new_cells, pack_patch, set_current
from ..runtime.run import Run, with_battery
from ..runtime.uncertainty import sample_runtime
from ..supply.nominal import nominal_input_v, nominal_rail_v
from ..words import Fact, called, say
from .judging import Judged
from .placing import QUICK_TRIES
from .trials import MOST_MARKS, Reason, marks_of, tried

MOST_IN_SERIES = 4
MOST_IN_PARALLEL = 4
WINDOW = (0.62, 1.6)  # of the present pack's voltage at half charge
FLOAT_DIFFERS = 0.05  # of the float voltage: a cell filled to 95 % of it still has most of its charge
CLEARLY_SHORT = 0.8  # of the goal: one that at best lasts less, as far from its typical runtime as the present one, is not worked out further
CLEARLY_TOO_MUCH = 1.5  # of the limit, by power at half charge
RATED = ("chemistry", "form", "capacity_ah", "size_mm", "bank")  # what tells kinds of cells apart
OF_THE_BRIEF = ("mass", "cost")  # verdicts that compare with what it must not exceed
SHELL_MM = 3.0  # walls and clearance on both sides together, for the bare question whether it can go in
SAME_CURRENT = 0.05
MOST_CHANGED, ENOUGH_WORKING = (
    12,
    8,
)  # of those that suit and do harm so many are tried with what they ask for, until so many work
Depth = Literal["first sight", "whole", "with changes"]
WHOLE = "the gadget on this battery, solved at the coldest temperature of the brief"


@record
class CellChoice:
    """A cell, `series` times `parallel` of them. `reasons` says why it is out, if it is."""

    name: str
    chemistry: str
    series: int
    parallel: int
    fits: bool
    reasons: list[str]
    marks: Annotated[
        list[str], Field(description="the reasons, or what else it asks for, in a few words each; at most three")
    ]
    runtime: Figure
    peak: Figure
    mass: Figure
    volume: Figure
    cost: Figure
    needed: Figure
    now: bool
    changed: Annotated[
        list[str],
        Field(description="what the remedy changes with the cell, so that nothing gets worse, in a few words each"),
    ]
    harm: Annotated[bool, Field(description="it suits, and something else gets worse by it: the remedy says what")] = (
        False
    )
    tried: Annotated[bool, Field(description="the gadget was judged whole with it; before that it only looks so")]
    open: Annotated[
        bool, Field(description="at first sight it or another pack of its cell may suit: wants to be judged whole")
    ]
    position: Annotated[
        int | None,
        Field(description="of its cell in the catalogue, which tells cells of one name apart; null of the present one"),
    ]
    remedy: Remedy


def answer_cells(bench: TrialBench, depth: Depth = "whole", names: Collection[str] | None = None) -> list[CellChoice]:
    """All cells, those that suit first, of these those that go in as it stands, the longest runtime first: each in its best number in series, and beside it as
    many in parallel as the goal asks for, if one alone falls short. With `names` only cells of these names, without the present pack: a whole answer in portions.

    What is out by its voltage, its size or the charger is not worked out further. At *first sight* runtimes are as far from typical as the present one's,
    and none is judged whole in the gadget: nothing can be taken over yet, and what is not *open* stays as it is. *With changes* those that suit and do
    harm are tried with what they ask for.
    """
    present = bench.design.battery
    whole = depth != "first sight"
    rows = [
        dataclasses.replace(row, position=position)
        for position, cell in enumerate(bench.catalogue.cells)
        if names is None or cell.name in names
        for row in _of_cell(bench, cell, whole=whole)
    ]
    if names is None:
        rows.insert(0, _row(bench, present, _at_first_sight(bench, present), now=True, whole=whole))
    if not whole:
        return sorted(rows, key=_order)
    before = Judged(bench)
    held = sorted((_held(before, row) for row in rows), key=_order)
    return _changed(before, held) if depth == "with changes" else held


def _of_cell(bench: TrialBench, cell: Cell, *, whole: bool) -> list[CellChoice]:
    """A cell in its best number in series, and in parallel, if one alone falls short; nothing where no number meets the voltage."""
    present = bench.design.battery
    middle = present.series * resting_v(present.cell, 0.5)
    own = resting_v(cell, 0.5)
    most = 1 if cell.bank else MOST_IN_SERIES
    counts = [n for n in range(1, most + 1) if WINDOW[0] <= n * own / middle <= WINDOW[1]]
    if _same_kind(cell, present.cell):
        counts = [n for n in counts if n != present.series]
    packs = [new_cells(present, cell, n) for n in counts]
    seen = [(pack, _at_first_sight(bench, pack)) for pack in packs]
    possible = [(pack, out) for pack, out in seen if not out] or seen[:1]
    if not possible:
        return []
    found = [_row(bench, pack, out, whole=whole) for pack, out in possible]
    best = min(found, key=_order)
    more = _side_by_side(bench, cell, best, whole=whole)
    is_open = any(row.open for row in (*found, *more))
    return [dataclasses.replace(row, open=is_open) for row in (best, *(row for row in more if row.fits))]


def _changed(before: Judged, rows: list[CellChoice]) -> list[CellChoice]:
    """The rows with what those that do harm ask for, the smallest first, as they go in most easily, until so many are tried or so many work."""
    found = list(rows)
    working, attempts = sum(r.fits and not r.harm and not r.now for r in rows), 0
    for i in sorted((i for i, r in enumerate(rows) if r.harm and r.fits), key=lambda i: rows[i].volume.value or 0.0):
        if working >= ENOUGH_WORKING or attempts >= MOST_CHANGED:
            break
        changed = apply_patch(before.bench.design, rows[i].remedy.patch)
        if not has_room(changed, QUICK_TRIES):
            continue
        better = _with_changes(before, rows[i], before.bench.of(changed))
        attempts += 1
        if better is not None:
            found[i], working = better, working + 1
    return sorted(found, key=_order)


def _with_changes(before: Judged, row: CellChoice, changed: TrialBench) -> CellChoice | None:
    """The same cell with what it asks for as one change: the charger set for it, and the bodies that it is in the way of moved, or everything arranged anew. None where
    something gets worse all the same."""
    patch, said = list(row.remedy.patch), list[str]()
    setting = _charge_setting(changed)
    if setting is not None:
        patch += setting.patch
        said.append(setting.label[:1].lower() + setting.label[1:])
    for moves in _moves(changed):
        whole = [*patch, *moves]
        words = said + ([say("cells.moved", count=(len(moves), ""))] if moves else [])
        if not words:
            continue
        label = say("cells.with", way=row.remedy.label, changes=words)
        held = tried(before, Remedy(label=label, patch=whole))
        if held is not None and not held.bars and not held.worse:
            return dataclasses.replace(row, remedy=held.remedy, marks=words[:MOST_MARKS], changed=words, harm=False)
    return None


def _charge_setting(bench: TrialBench) -> Remedy | None:
    """The charger set to what is gentle for the cell, where it charges it too hard, or takes longer than the brief allows."""
    charger, result, limit = bench.design.charger, bench.charge, bench.design.brief.charge_max_h
    if charger is None or result is None:
        return None
    late = limit is not None and (result.seconds is None or result.seconds > 3600 * limit)
    hard = charger.set_a > result.gentle_a * (1 + SAME_CURRENT)
    return set_current(charger, result.gentle_a) if late or hard else None


def _moves(bench: TrialBench) -> Iterator[list[PatchOperation]]:
    """Edits that make room for the battery where it is: none, if there is; what it meets to other places; everything arranged anew."""
    fit, design = bench.fit, bench.design
    wrong = {i for c in fit.contacts if c.margin_mm < 0 for i in (c.first, c.second) if i >= 0}
    if not wrong:
        yield []
        return
    free = [
        fit.placed[i].pointer
        for i in wrong
        if fit.placed[i].through is None and not fit.placed[i].pointer.startswith("/enclosure")
    ]
    loose = apply_patch(design, [replace(f"{p}/body/position_mm", None) for p in free])
    found = place_all(loose, tries=QUICK_TRIES)
    if not found.left:
        yield [replace(f"{pointer}/body", body) for pointer, body in found.bodies.items()]
    anew = place_all(design, anew=True, tries=QUICK_TRIES)
    if not anew.left:
        yield [replace(f"{pointer}/body", body) for pointer, body in anew.bodies.items()]


def _same_kind(one: Cell, other: Cell) -> bool:
    """Whether both are rated alike; one of them may have been measured."""
    return all(getattr(one, f) == getattr(other, f) for f in RATED)


def _held(before: Judged, row: CellChoice) -> CellChoice:
    """A cell that suits, with what it changes and makes worse in the gadget as it stands: a larger pack may collide and
    wants the others moved. What exceeds the brief by it is out."""
    held = tried(before, row.remedy) if row.fits and not row.now else None
    if held is None:
        return row
    exceeded = [v for v in held.worse_verdicts if v.key in OF_THE_BRIEF and v.status == "fail"]
    reasons = [f"{v.label.lower()}: {v.word}" for v in exceeded]
    marks = reasons or held.marks
    harm = bool(held.bars or held.worse)
    return dataclasses.replace(row, remedy=held.remedy, reasons=reasons, marks=marks, fits=not reasons, harm=harm)


def _side_by_side(bench: TrialBench, cell: Cell, single: CellChoice, *, whole: bool) -> list[CellChoice]:
    """As many in parallel as the goal asks for, where one runs the gadget but falls short, and they have room: what was looked at, until one suits."""
    asked = single.needed.value
    if single.fits or asked is None or cell.bank is not None:
        return []
    count = math.ceil(asked / cell.capacity_ah)
    peak, limit = single.peak.value or 0.0, cell.discharge_max_a
    count = max(count, math.ceil(peak / limit))
    if count > MOST_IN_PARALLEL + 2:  # far off, also if it was told roughly
        return []
    looked: list[CellChoice] = []
    for number in range(max(count - 2, 2), min(count + 1, MOST_IN_PARALLEL) + 1):
        pack = new_cells(bench.design.battery, cell, single.series, number)
        if number < peak / limit or _at_first_sight(bench, pack):
            continue
        looked.append(_row(bench, pack, [], whole=whole))
        if looked[-1].fits:
            break
    return looked


def _order(row: CellChoice) -> tuple[bool, bool, bool, float]:
    return not row.fits, row.harm, row.runtime.value is None, -(row.runtime.value or 0.0)


def _row(
    bench: TrialBench, battery: Battery, out: list[Reason], *, now: bool = False, whole: bool = True
) -> CellChoice:
    design, cell, series = bench.design, battery.cell, battery.series
    count, goal = series * battery.parallel, design.brief.goal_h
    hours, low, high, peak, needed = None, None, None, None, None
    reasons, may_suit = list(out), False
    if now or not out:
        state = bench.coldest if now else with_battery(bench.usual, battery, design.brief.coldest_c, GRID_POINTS)
        peak = float(state.worst.source_a[:, state.middle].max(initial=0.0))
        reasons += _in_use(bench, state, peak)
        low, hours, high = _lasts_h(bench, state, battery, exact=now)
        may_suit = not now and not reasons and not (goal is not None and high < CLEARLY_SHORT * goal)
        if whole and may_suit:
            low, hours, high = _lasts_h(bench, state, battery, exact=True)
        needed = cell.capacity_ah * battery.parallel * goal / low if goal is not None and low > 0 else None
        if not reasons and goal is not None and low < goal:
            may = hours >= goal
            key = "may-last-only" if may else "lasts"
            reasons.append(_reason(key, lasts=(low if may else hours, "h"), goal=(goal, "h")))
    x, y, z = cell.size_mm
    cells: list[tuple[str, float | None, str]] = [(called("cells"), float(count), "")]
    return CellChoice(
        name=cell.name,
        chemistry=CHEMISTRIES[cell.chemistry].name,
        series=series,
        parallel=battery.parallel,
        fits=not reasons,
        reasons=[sentence for _, sentence in reasons],
        marks=marks_of(reasons),
        runtime=figure(
            "cell-at-the-coldest",
            hours,
            "h",
            [(called("coldest"), design.brief.coldest_c, "°C")],
            WHOLE,
            low=low,
            high=high,
        ),
        peak=figure(
            "peak", peak, "A", [(called("the-cells-limit"), cell.discharge_max_a * battery.parallel, "A")], WHOLE
        ),
        mass=figure("cells-mass", cell.mass_g * count, "g", cells),
        volume=figure("room", x * y * z * count / 1000, "cm³", cells),
        cost=figure("cells-cost", cell.cost * count, design.brief.currency, cells),
        needed=figure(
            "capacity-needed", needed, "Ah", [(called("goal"), goal, "h"), (called("least"), low, "h")], WHOLE
        ),
        now=now,
        changed=[],
        tried=whole or now,
        open=may_suit and not whole,
        position=None,
        remedy=Remedy(
            label=say("way.use", series=count, cell=cell.name),
            patch=pack_patch(design, battery) if whole and not now else [],
        ),
    )


def _lasts_h(bench: TrialBench, state: Run, battery: Battery, *, exact: bool) -> tuple[float, float, float]:
    """(10th percentile, median, 90th percentile) of the runtime on another battery at the coldest [h]: as it is said when
    the battery is taken, or, for one that is out anyway, as far from its typical runtime as the present one's."""
    if exact:
        whole = with_battery(bench.usual, battery, bench.design.brief.coldest_c)
        samples = sample_runtime(whole)
        return samples.low / 3600, samples.median / 3600, samples.high / 3600
    typical, now = bench.coldest.seconds, bench.cold_estimate
    low, middle, high = (x / typical if typical > 0 else 1.0 for x in (now.low, now.median, now.high))
    hours = state.seconds / 3600
    return hours * low, hours * middle, hours * high


def _reason(key: str, /, **facts: Fact) -> Reason:
    """Why a pack is out: in a few words, and as a sentence."""
    return say(f"pack.{key}", **facts), say(f"pack.{key}-whole", **facts)


def _at_first_sight(bench: TrialBench, battery: Battery) -> list[Reason]:
    """What keeps a pack out before it is solved: voltages, the charger, a peak far above its limit, the case."""
    design, cell, state = bench.design, battery.cell, bench.usual
    data = CHEMISTRIES[cell.chemistry]
    top = battery.series * max(resting_v(cell, 1.0), (data.fresh_v or 0.0) if cell.bank is None else 0.0)
    reasons: list[Reason] = []
    for p, volts in zip(design.parts, nominal_rail_v(state.tree, top)[state.rail_of], strict=True):
        if p.supply_absolute_max_v is not None and volts > p.supply_absolute_max_v:
            reasons.append(
                _reason("above", name=p.name, volts=(float(volts), "V"), stands=(p.supply_absolute_max_v, "V"))
            )
            break
    for stage, volts in zip(state.tree.stages, nominal_input_v(state.tree, top), strict=True):
        if stage.input_max_v is not None and volts > stage.input_max_v:
            reasons.append(_reason("above", name=stage.name, volts=(volts, "V"), stands=(stage.input_max_v, "V")))
    charger = design.charger
    if charger is not None and cell.bank is not None:
        reasons.append(_reason("charges-itself"))
    elif charger is not None and data.charge_v is None:
        reasons.append(_reason("another-charger"))
    elif charger is not None and data.charge_v is not None:
        full = (full_v(cell) or data.charge_v) * battery.series
        if charger.cells_in_series != battery.series or abs(charger.float_v / full - 1) > FLOAT_DIFFERS:
            reasons.append(_reason("charger-to", fills=(charger.float_v, "V"), full=(full, "V")))
    half, worst = bench.middle, state.worst
    power = float((worst.source_a[:, half] * worst.terminal_v[:, half]).max(initial=0.0))
    volts = battery.series * resting_v(cell, 0.5)
    ohm = cell.resistance_ohm
    if cell.bank is None:
        ohm *= float(resistance_factor(cell.chemistry, 0.5, design.brief.coldest_c))
    most_w = volts**2 / 4 / max(ohm * battery.series / battery.parallel + battery.wiring_ohm, 1e-9)
    if power / volts > CLEARLY_TOO_MUCH * cell.discharge_max_a * battery.parallel:
        limit = (cell.discharge_max_a * battery.parallel, "A")
        about = say("pack.made-for-about", peak=(power / volts, "A"), limit=limit)
        reasons.append((say("pack.made-for", limit=limit), about))
    elif power > most_w:
        reasons.append(_reason("too-weak", most=(most_w, "W"), peak=(power, "W")))
    outer = design.brief.outer_max_mm or design.enclosure.outer_mm
    count = battery.series * battery.parallel
    sides, room = sorted(pack_size_mm(cell, count), reverse=True), sorted((v - SHELL_MM for v in outer), reverse=True)
    over = max(a - b for a, b in zip(sides, room, strict=True))
    if over > 0:
        reasons.append(_reason("too-large", over=(over, "mm")))
    return reasons


def _in_use(bench: TrialBench, state: Run, peak: float) -> list[Reason]:
    """What keeps it out under load: its current limit, modes that do not work on it."""
    reasons: list[Reason] = []
    if peak > state.pack.discharge_max_a:
        reasons.append(_reason("made-for", peak=(peak, "A"), limit=(state.pack.discharge_max_a, "A")))
    off = state.bank_off
    if off is not None:
        reasons.append(_reason("switches-off", mode=bench.design.modes[off.mode].name, load=(off.asked_a, "A")))
    for mode, failure, share in zip(bench.design.modes, state.failures, state.shares, strict=True):
        if failure.charge >= 1 and mode.essential and share > 0:
            reasons.append(_reason("no-mode", mode=mode.name))
            break
    return reasons
