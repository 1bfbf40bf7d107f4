"""Traps of the supply: too much voltage, dropout, overloads, modes that stop."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import partial

import numpy as np

from ...battery.pack import kept_below_cutoff
from ...design import Design, LinearStage, PassStage, Stage, SwitchingStage
from ...design.basics import fresh_id
from ...design.patches import add, replace
from ...design.problems import DocumentError
from ...figures import Remedy
from ...measures.bench import TrialBench
from ...measures.edits import without_detour
from ...measures.selection import (
    HEADROOM,
    Regulator,
    before_rail,
    new_rail_stage,
    rail_window_v,
    raw_feed,
    stage_in_place,
)
from ...quantities import show
from ...solved.warmth import charging_range_c
from ...solved.wording import describe_failure
from ...supply.converters import limits_current, set_output_v
from ...words import say
from ..found import Found

REGULATED_ENOUGH = 0.999
DROPOUT_MATTERS_ABOVE = 0.05
WORTH_IT = 1.01
EARLY = 0.35


def overvoltage(bench: TrialBench) -> Iterator[Found]:
    """A full battery puts more on a rail than its parts stand."""
    design, highest = bench.design, bench.highest_rail_v
    for r, rail in enumerate(design.supply.rails):
        top = float(highest[r])
        hurt = [
            p
            for p in design.parts
            if p.rail == rail.id and p.supply_absolute_max_v is not None and top > p.supply_absolute_max_v
        ]
        if not hurt:
            continue
        weakest = min(hurt, key=lambda p: p.supply_absolute_max_v or 0)
        straight = rail.feed == "battery"
        yield Found(
            code="overvoltage",
            severity="stop",
            step="supply",
            where=f"/supply/rails/{r}/feed",
            facts={
                "highest_voltage": (top, "V"),
                "absolute_max": (weakest.supply_absolute_max_v, "V"),
                "rail": rail.name,
                "straight": bool(straight),
                "weakest": weakest.name,
                "hurt": [p.name for p in hurt],
                "more": len(hurt) - 3 if len(hurt) > 3 else None,
            },
            ways=partial(before_rail, bench, r),
        )


def above_its_range(bench: TrialBench) -> Iterator[Found]:
    """Below its absolute maximum, but above what a part is made for."""
    design, highest = bench.design, bench.highest_rail_v
    for p, part in enumerate(design.parts):
        top = float(highest[bench.usual.rail_of[p]])
        if (
            part.supply_recommended_max_v is None
            or top <= part.supply_recommended_max_v
            or top > (part.supply_absolute_max_v or 100)
        ):
            continue
        yield Found(
            code="above-range",
            severity="watch",
            step="supply",
            where=f"/parts/{p}",
            facts={
                "recommended_max": (part.supply_recommended_max_v, "V"),
                "highest_voltage": (top, "V"),
                "part": part.name,
            },
            ways=lambda r=bench.usual.rail_of[p]: before_rail(bench, r),  # type: ignore[misc]
        )


def dropout(bench: TrialBench) -> Iterator[Found]:
    """A regulator that cannot step up runs out of headroom before the battery is empty."""
    state = bench.usual
    working = state.tree.working
    for s, stage in enumerate(state.tree.stages):
        if not isinstance(stage, LinearStage) and not (isinstance(stage, SwitchingStage) and stage.topology == "buck"):
            continue
        used = (state.point_weights > 0) & working[s, state.loads.mode]
        if not used.any():
            continue
        stranded = state.ending[1]
        ends = DROPOUT_MATTERS_ABOVE < stranded < 1 and _ended_by_supply(bench, stage)
        # what ends the run may do so between two points of the grid; else only what happens before the end matters
        there = used[:, None] & (bench.works | ends)
        output = np.min(state.worst.stage_output_v[s], axis=0, where=there, initial=np.inf)
        short = np.flatnonzero(output < stage.output_v * REGULATED_ENOUGH)
        if not short.size:
            continue
        charge = float(state.pack.charge[short[0]])
        if charge <= DROPOUT_MATTERS_ABOVE:
            continue
        position = bench.position(s)
        ohm = stage.dropout_v / stage.dropout_at_a if isinstance(stage, LinearStage) else 0.0
        amps = state.worst.stage_output_a[s][:, short[0]]
        needs = stage.output_v + ohm * float(
            np.max(amps, where=(there & ~state.worst.collapsed)[:, short[0]], initial=0.0)
        )
        yield Found(
            code="dropout",
            lengthens=True,
            severity="fix" if ends else "watch",
            step="supply",
            where=f"/supply/stages/{position}",
            facts={
                "input_needed": (needs, "V"),
                "output_voltage": (stage.output_v, "V"),
                "stage": stage.name,
                "soc": (None if charge >= 1 else charge, "share"),
                "ends": ends,
                "unused": (stranded, "share"),
            },
            ways=(lambda position=position: _later_dropout(bench, position)) if ends else None,  # type: ignore[misc]
        )


def _ended_by_supply(bench: TrialBench, stage: Stage) -> bool:
    mode = bench.usual.ending[0]
    failure = bench.usual.failures[mode]
    fed = {r.id for r in bench.design.supply.rails if r.feed == stage.id}
    return mode >= 0 and failure.reason == "supply" and bench.design.part(failure.subject).rail in fed


def _later_dropout(bench: TrialBench, position: int) -> Iterator[Remedy]:
    old = bench.design.supply.stages[position]
    drop = old.dropout_v if isinstance(old, LinearStage) else 0.0

    def suits(s: Regulator) -> bool:
        return (isinstance(s, SwitchingStage) and s.topology == "buck-boost") or (
            isinstance(s, LinearStage) and s.dropout_v < drop
        )

    return stage_in_place(bench, position, suits)


def cascaded_conversion(bench: TrialBench) -> Iterator[Found]:
    """The voltage is boosted above what another stage then takes away again."""
    design, state = bench.design, bench.usual
    for position, second in enumerate(design.supply.stages):
        first = _set_by(design, second.input)
        if not isinstance(first, SwitchingStage) or not isinstance(second, LinearStage | SwitchingStage):
            continue
        if first.topology == "buck" or second.output_v >= first.output_v:
            continue
        between, out = state.stage_power_w(state.tree.stage_index[second.id])
        if between > 0:
            where = f"/supply/stages/{position}"
            ways = [_past(bench, first, second.input, f"{where}/input", second.name)]
            yield from _converted_twice(bench, where, first, (second.name, second.output_v), out / between, ways)


def own_regulator(bench: TrialBench) -> Iterator[Found]:
    """A board's own regulator takes away again what a converter before it made."""
    design = bench.design
    for p, part in enumerate(design.parts):
        own, r = part.regulator, design.index.rails[part.rail]
        rail = design.supply.rails[r]
        first = _set_by(design, rail.feed)
        if own is None or not isinstance(first, LinearStage | SwitchingStage):
            continue
        if first.output_v > own.output_v * ABOVE_ITS_OWN:
            low, high = rail_window_v(bench.design, r)
            ways = [_lower(bench, r, first, low)]
            if low <= bench.highest_v(first.input) <= high:
                ways.insert(0, _past(bench, first, rail.feed, f"/supply/rails/{r}/feed", rail.name))
            passes = own.output_v / first.output_v if own.kind == "linear" else SWITCHING_PASSES
            second = say("own-regulator.of", part=part.name), own.output_v
            yield from _converted_twice(bench, f"/parts/{p}", first, second, passes, ways)


def _set_by(design: Design, feed: str) -> Stage | None:
    """The nearest stage on the way to `feed` that sets a voltage; None where it is the source's own."""
    here = design.stage(feed)
    while here is not None and set_output_v(here) is None:
        here = design.stage(here.input)
    return here


def _converted_twice(
    bench: TrialBench,
    where: str,
    first: LinearStage | SwitchingStage,
    second: tuple[str, float],
    passes: float,
    ways: Sequence[Remedy | None],
) -> Iterator[Found]:
    """`second` is (its name, what it makes [V]), `passes` what it lets through of the energy; of the ways those are offered with which the gadget lasts longer."""
    into, given = bench.usual.stage_power_w(bench.usual.tree.stage_index[first.id])
    if into <= 0:
        return
    better = [way for way in ways if way is not None and _lasts(bench, way) > bench.usual.seconds * WORTH_IT]
    yield Found(
        code="converted-twice",
        lengthens=True,
        severity="fix" if better else "watch",
        step="supply",
        where=where,
        facts={
            "first_output": (first.output_v, "V"),
            "second_output": (second[1], "V"),
            "efficiency": (passes * given / into, "share"),
            "first": first.name,
            "second": second[0],
        },
        ways=(lambda: better) if better else None,
    )


def _lasts(bench: TrialBench, way: Remedy) -> float:
    """How long the gadget lasts with it [s]; 0 where that is no design."""
    try:
        return bench.after(way.patch).seconds
    except DocumentError:
        return 0.0


def _past(bench: TrialBench, first: Stage, feed: str, own: str, name: str) -> Remedy:
    """Fed by what feeds the first converter."""
    label = say("way.feed-from-what-feeds", second=name, first=first.name)
    return Remedy(label=label, patch=without_detour(bench.design, first, feed, own))


def _lower(bench: TrialBench, rail: int, first: Stage, needs_v: float) -> Remedy | None:
    """The first converter set to the least that a rail needs, where it feeds no other."""
    tree, volts = bench.usual.tree, round(needs_v * SPARE_ABOVE, 1)
    index = tree.stage_index[first.id]
    fed = [r for r, feed in enumerate(tree.rail_feeds) if index in tree.path(feed)]
    if not isinstance(first, SwitchingStage) or fed != [rail] or volts >= first.output_v:
        return None
    label = say("way.set-its-output", stage=first.name, volts=(volts, "V"))
    return Remedy(label=label, patch=[replace(f"/supply/stages/{bench.design.index.stages[first.id]}/output_v", volts)])


ABOVE_ITS_OWN = 1.05  # times its own output, from where on a board's regulator takes something away again
SWITCHING_PASSES = 0.88  # of the energy, a switching one on a board; a rule of thumb
SPARE_ABOVE = 1.05  # times the least that a board needs


def modes_that_fail(bench: TrialBench) -> Iterator[Found]:
    """A mode that does not work on a full battery, or that ends the run with much of the charge unused."""
    state = bench.usual
    for i, mode in enumerate(bench.design.modes):
        failure = state.failures[i]
        if failure.reason == "empty" or failure.charge < EARLY:
            continue
        at_once = failure.charge >= 1
        kept = kept_below_cutoff(bench.design.battery.cell)
        stays = not at_once and kept > 0 and failure.charge - kept <= EARLY
        rails = (lambda part=failure.subject: _supplied(bench, part)) if failure.reason == "supply" else None
        yield Found(
            code="mode-fails-at-once" if at_once else "mode-fails-early",
            words="modes-that-fail",
            severity="stop" if at_once and mode.essential else "fix" if mode.essential and (not stays) else "watch",
            step="supply",
            where=f"/modes/{i}",
            facts={
                "mode": mode.name,
                "at_once": bool(at_once),
                "failure": describe_failure(bench, failure),
                "stays": bool(stays),
            },
            ways=rails,
        )


def _supplied(bench: TrialBench, part_id: str) -> Iterator[Remedy]:
    """A converter for the whole rail of a part that does not get what it needs, or for it alone."""
    yield from before_rail(bench, int(bench.usual.rail_of[bench.design.index.parts[part_id]]))
    yield from _own_rail(bench, part_id)


def _own_rail(bench: TrialBench, part_id: str) -> Iterator[Remedy]:
    """A rail of its own, behind the same switch, for a part whose rail never gives what it needs."""
    design = bench.design
    p, part = design.index.parts[part_id], design.part(part_id)
    low, high = part.supply_min_v or 0.0, HEADROOM * (part.supply_absolute_max_v or 100.0)
    if float(bench.highest_rail_v[bench.usual.rail_of[p]]) >= low:
        return  # the voltage is right without load: another rail would not help
    feed = raw_feed(bench, design.supply.rails[bench.usual.rail_of[p]].feed)
    for new in new_rail_stage(bench, feed, (low * 1.001, high), bench.most_a(p)):
        rail = fresh_id(f"rail-{new.id}"[:50], {r.id for r in design.supply.rails})
        name = f"{show(set_output_v(new), 'V')} rail"
        patch = [add("/supply/stages/-", new), add("/supply/rails/-", {"id": rail, "name": name, "feed": new.id}),
                 replace(f"/parts/{p}/rail", rail)]  # fmt: skip
        yield Remedy(label=say("way.a-rail-of-its-own-with", new=new.name), patch=patch)


def overload(bench: TrialBench) -> Iterator[Found]:
    """A switch, a wire, a diode or a fuse passes more than its rating: it does so, gets hot and wears, or blows."""
    state = bench.usual
    used = state.point_weights > 0
    for s, stage in enumerate(state.tree.stages):
        if limits_current(stage):
            continue
        there = bench.works & used[:, None]
        peak_at = np.max(state.worst.stage_output_a[s], axis=1, where=there, initial=0.0)
        most = int(peak_at.argmax()) if peak_at.size else 0
        peak = float(peak_at.max(initial=0.0))
        lasting = float(np.max(state.typical.stage_output_a[s], where=there, initial=0.0))
        if peak <= stage.limit_a:
            continue
        fuse = isinstance(stage, PassStage) and stage.role == "fuse"
        mode = bench.design.modes[state.operating_points[most].mode].name
        yield Found(
            code="overload",
            severity="fix" if lasting > stage.limit_a else "watch",
            step="supply",
            where=f"/supply/stages/{bench.position(s)}/limit_a",
            facts={
                "peak": (peak, "A"),
                "limit": (stage.limit_a, "A"),
                "stage": stage.name,
                "mode": mode,
                "peak_times": (peak / stage.limit_a, ""),
                "fuse": bool(fuse),
            },
            ways=partial(_stronger, bench, s, peak),
        )


def _stronger(bench: TrialBench, s: int, peak_a: float) -> Iterator[Remedy]:
    """Catalogue stages of the same kind with a rating for it, the smallest first."""
    old, position = bench.usual.tree.stages[s], bench.position(s)
    fitting = [
        x for x in bench.catalogue.stages
        if type(x) is type(old) and getattr(x, "role", None) == getattr(old, "role", None) and x.limit_a >= peak_a
    ]  # fmt: skip
    for x in sorted(fitting, key=lambda x: (x.limit_a, x.cost))[:2]:
        update = {"id": old.id, "input": old.input} | ({"other": old.other} if hasattr(old, "other") else {})
        patch = [replace(f"/supply/stages/{position}", x.model_copy(update=update))]
        yield Remedy(label=say("way.use-it", it=x.name), patch=patch)


def hot_stages(bench: TrialBench) -> Iterator[Found]:
    """A stage whose junction gets too hot in the closed case, as warm as it gets by then: in a mode on the hottest day, or while charging."""
    state, design, warm = bench.usual, bench.design, bench.warmth
    used = np.flatnonzero(state.shares > 0).tolist()
    for i, stage in enumerate(state.tree.stages):
        if stage.rth_ja_c_per_w is None:
            continue
        lost = (state.in_mode @ state.stage_peak_loss_w[i]).tolist()
        cases = [(float(warm.inside_c[m]), lost[m], design.modes[m].name, design.brief.hottest_c) for m in used]
        if warm.charging_c is not None and design.charger is not None and not design.charger.cuts_load:
            cases.append((warm.charging_c, lost[bench.charge_mode], "", charging_range_c(design)[1]))
        junctions = [
            (air + watts * stage.rth_ja_c_per_w, watts, mode, around) for air, watts, mode, around in cases if watts > 0
        ]
        junction, watts, mode, around = max(junctions, default=(-300.0, 0.0, "", 0.0))
        if junction <= stage.junction_max_c:
            continue
        position = bench.position(i)
        yield Found(
            code="stage-too-hot",
            verdict="heat",
            severity="fix",
            step="supply",
            where=f"/supply/stages/{position}",
            facts={
                "power": (watts, "W"),
                "surroundings": (around, "°C"),
                "junction_temperature": (junction, "°C"),
                "junction_max": (stage.junction_max_c, "°C"),
                "stage": stage.name,
                "mode": mode,
            },
            ways=lambda position=position: stage_in_place(  # type: ignore[misc]
                bench, position, lambda s: isinstance(s, SwitchingStage)
            ),
        )


def will_not_start(bench: TrialBench) -> Iterator[Found]:
    """A converter that still runs on a battery that it could no longer start on."""
    state = bench.usual
    working = state.tree.working
    for i, stage in enumerate(state.tree.stages):
        if not isinstance(stage, SwitchingStage) or stage.start_up_v is None or not working[i].all():
            continue  # one that some mode switches off has to start again, and fails there
        resting = [k for k, x in enumerate(state.operating_points) if x.mode == bench.rest]
        volts = np.min(state.worst.stage_input_v[i][resting], axis=0)
        short = np.flatnonzero(volts < stage.start_up_v)
        if not short.size or state.pack.charge[short[0]] <= state.ending[1] + DROPOUT_MATTERS_ABOVE:
            continue
        yield Found(
            code="will-not-start",
            severity="watch",
            step="supply",
            where=f"/supply/stages/{bench.position(i)}/start_up_v",
            facts={
                "start_up": (stage.start_up_v, "V"),
                "undervoltage_lockout": (stage.undervoltage_lockout_v, "V"),
                "soc": (float(state.pack.charge[short[0]]), "share"),
                "stage": stage.name,
            },
        )
