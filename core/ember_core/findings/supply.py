"""Traps of the supply: too much voltage, dropout, modes that stop."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..context import Context
from ..converters import set_output_v
from ..design import LinearStage, Stage, SwitchingStage
from ..figures import Finding, Remedy
from ..heat import inside_rise_c
from ..quantities import show
from ..references import BATTERY
from ..remedies import add, fresh_id, placed, replace
from ..wording import describe_failure

REGULATED_ENOUGH = 0.999
DROPOUT_MATTERS_ABOVE = 0.05
HEADROOM = 0.95
WORTH_IT = 1.01


def overvoltage(context: Context) -> Iterator[Finding]:
    """T9: a full battery puts more on a rail than its parts stand."""
    design = context.design
    highest = context.highest_rail_v
    for r, rail in enumerate(design.supply.rails):
        top = float(highest[r])
        hurt = [p for p in design.parts if p.rail == rail.id and p.supply_max_v is not None and top > p.supply_max_v]
        if not hurt:
            continue
        weakest = min(hurt, key=lambda p: p.supply_max_v or 0)
        straight = rail.feed == "battery"
        names = ", ".join(p.name for p in hurt[:3]) + (f" and {len(hurt) - 3} more" if len(hurt) > 3 else "")
        yield Finding(
            code="T9-overvoltage",
            severity="stop",
            step="supply",
            where=f"/supply/rails/{r}/feed",
            title=f"{rail.name} can reach {show(top, 'V')}",
            sentence=(
                f"{'The battery is straight on' if straight else 'What feeds'} {rail.name}"
                f"{'' if straight else ' lets it through'}: full, it reaches {show(top, 'V')}, and "
                f"{weakest.name} is destroyed above {show(weakest.supply_max_v, 'V')}. At risk: {names}."
            ),
            remedy=_insert_regulator(context, r),
        )


def above_its_range(context: Context) -> Iterator[Finding]:
    """T9: below its absolute maximum, but above what a part is made for."""
    design, highest = context.design, context.highest_rail_v
    for p, part in enumerate(design.parts):
        top = float(highest[context.usual.rail_of[p]])
        if part.supply_high_v is None or top <= part.supply_high_v or top > (part.supply_max_v or 100):
            continue
        yield Finding(
            code="T9-above-range",
            severity="watch",
            step="supply",
            where=f"/parts/{p}",
            title=f"{part.name} runs above its range",
            sentence=(
                f"{part.name} is made for at most {show(part.supply_high_v, 'V')} and gets up to {show(top, 'V')}: it survives, "
                "but its maker promises nothing there."
            ),
        )


def _insert_regulator(context: Context, rail_index: int) -> Remedy | None:
    """A linear regulator from the catalogue between the rail and what feeds it now."""
    design = context.design
    rail = design.supply.rails[rail_index]
    parts = [p for p in design.parts if p.rail == rail.id]
    ceiling = HEADROOM * min((p.supply_max_v for p in parts if p.supply_max_v), default=100.0)
    floor = max((p.supply_min_v for p in parts if p.supply_min_v), default=0.0)
    peak = float(np.max(context.usual.worst.rail_a[rail_index]))
    fitting = [
        s for s in context.catalogue.stages
        if isinstance(s, LinearStage) and floor <= s.output_v <= ceiling and s.limit_a >= peak
    ]  # fmt: skip
    if not fitting:
        return None
    best = max(fitting, key=lambda s: (s.output_v, -s.quiescent_a, -s.dropout_v))
    new = placed(design, best, rail.feed)
    return Remedy(
        label=f"Put {best.name} before {rail.name}",
        patch=[add("/supply/stages/-", new), replace(f"/supply/rails/{rail_index}/feed", new.id)],
    )


def dropout(context: Context) -> Iterator[Finding]:
    """T10: a regulator that cannot step up runs out of headroom before the battery is empty."""
    state = context.usual
    for s, stage in enumerate(state.tree.stages):
        if not isinstance(stage, LinearStage) and not (isinstance(stage, SwitchingStage) and stage.topology == "buck"):
            continue
        used = (state.moment_weights > 0) & ~state.tree.off[s, state.loads.mode]
        if not used.any():
            continue
        output = np.min(state.worst.stage_output_v[s][used], axis=0)
        short = np.flatnonzero(output < stage.output_v * REGULATED_ENOUGH)
        if not short.size:
            continue
        charge = float(state.pack.charge[short[0]])
        if charge <= DROPOUT_MATTERS_ABOVE:
            continue
        position = next(i for i, x in enumerate(context.design.supply.stages) if x.id == stage.id)
        ohm = stage.dropout_v / stage.dropout_at_a if isinstance(stage, LinearStage) else 0.0
        needs = stage.output_v + ohm * float(np.max(state.worst.stage_output_a[s][used][:, short[0]]))
        stranded = state.ending[1]
        ends = DROPOUT_MATTERS_ABOVE < stranded < 1 and _ended_by_supply(context, stage)
        tail = (
            f"The gadget stops with {show(stranded, 'share')} of the charge unused."
            if ends
            else "Below that the rail follows the battery down; the parts stand it until the end of the run."
        )
        when = "even when full" if charge >= 1 else f"from {show(charge, 'share')} charge downwards"
        yield Finding(
            code="T10-dropout",
            severity="fix" if ends else "watch",
            step="supply",
            where=f"/supply/stages/{position}",
            title=f"{stage.name} drops out",
            sentence=(
                f"{stage.name} needs {show(needs, 'V')} for {show(stage.output_v, 'V')} in the worst moment and does "
                f"not get it {when}. {tail}"
            ),
            remedy=_better_stage(context, position) if ends else None,
        )


def _ended_by_supply(context: Context, stage: Stage) -> bool:
    failure = context.usual.failures[context.usual.ending[0]]
    fed = {r.id for r in context.design.supply.rails if r.feed == stage.id}
    rails = {p.id: p.rail for p in context.design.parts}
    return failure.reason == "supply" and rails[failure.subject] in fed


def _better_stage(context: Context, position: int) -> Remedy | None:
    """The catalogue's stage for the same output that gives the longest runtime in this place, if it is longer."""
    design = context.design
    old = design.supply.stages[position]
    assert isinstance(old, LinearStage | SwitchingStage)
    drop = old.dropout_v if isinstance(old, LinearStage) else 0.0
    index = [s.id for s in context.usual.tree.stages].index(old.id)
    peak = float(np.max(context.usual.worst.stage_output_a[index]))
    candidates: list[Stage] = [
        s for s in context.catalogue.stages
        if isinstance(s, LinearStage | SwitchingStage) and abs(s.output_v - old.output_v) < 0.05 and s.limit_a >= peak and s.name != old.name
        and ((s.type == "switching" and s.topology == "buck-boost") or (s.type == "linear" and s.dropout_v < drop))
    ]  # fmt: skip
    best: tuple[float, Remedy] | None = None
    for candidate in candidates:
        body = candidate.body
        if body is not None and old.body is not None:
            body = body.model_copy(update={"position_mm": old.body.position_mm, "through": old.body.through})
        new = candidate.model_copy(update={"id": old.id, "input": old.input, "body": body})
        remedy = Remedy(label=f"Use {candidate.name}", patch=[replace(f"/supply/stages/{position}", new)])
        seconds = context.after(remedy.patch).seconds
        if seconds > context.usual.seconds * WORTH_IT and (best is None or seconds > best[0]):
            best = (seconds, remedy)
    return best[1] if best else None


def converted_twice(context: Context) -> Iterator[Finding]:
    """T11: the voltage is boosted above what another stage then takes away again."""
    design, state = context.design, context.usual
    stages = {s.id: s for s in design.supply.stages}
    reports = {s.id: i for i, s in enumerate(state.tree.stages)}
    weights, mid = state.moment_weights, context.middle
    for position, second in enumerate(design.supply.stages):
        first = stages.get(second.input)
        while first is not None and set_output_v(first) is None:
            first = stages.get(first.input)
        if not isinstance(first, SwitchingStage) or not isinstance(second, LinearStage | SwitchingStage):
            continue
        if first.topology == "buck" or second.output_v >= first.output_v:
            continue
        a, b = reports[first.id], reports[second.id]
        out = float(weights @ (state.typical.stage_output_v[b, :, mid] * state.typical.stage_output_a[b, :, mid]))
        between = float(weights @ (state.typical.stage_input_v[b, :, mid] * state.typical.stage_input_a[b, :, mid]))
        into = float(weights @ (state.typical.stage_input_v[a, :, mid] * state.typical.stage_input_a[a, :, mid]))
        given = float(weights @ (state.typical.stage_output_v[a, :, mid] * state.typical.stage_output_a[a, :, mid]))
        if between <= 0 or into <= 0:
            continue
        left = out / between * given / into
        patch = [replace(f"/supply/stages/{position}/input", first.input)]
        after = context.after(patch).seconds
        better = after > state.seconds * WORTH_IT
        comparison = f"; fed without the detour the runtime is {show(after, 's')} instead of {show(state.seconds, 's')}"
        yield Finding(
            code="T11-converted-twice",
            severity="fix" if better else "watch",
            step="supply",
            where=f"/supply/stages/{position}",
            title="The energy is converted twice",
            sentence=(
                f"{first.name} makes {show(first.output_v, 'V')}, and {second.name} makes {show(second.output_v, 'V')} of "
                f"it: together they pass on {show(left, 'share')} of the energy over the day"
                + (comparison if better else "")
                + "."
            ),
            remedy=Remedy(label=f"Feed {second.name} from what feeds {first.name}", patch=patch) if better else None,
        )


def modes_that_fail(context: Context) -> Iterator[Finding]:
    """A mode that does not work on a full battery, or that ends the run with much of the charge unused."""
    state = context.usual
    for i, mode in enumerate(context.design.modes):
        failure = state.failures[i]
        if failure.reason == "empty" or failure.charge < 0.35:
            continue
        at_once = failure.charge >= 1
        yield Finding(
            code="mode-fails-at-once" if at_once else "mode-fails-early",
            severity="stop" if at_once and mode.essential else "fix" if mode.essential else "watch",
            step="supply",
            where=f"/modes/{i}",
            title=f"{mode.name} {'does not work' if at_once else 'stops early'}",
            sentence=f"{mode.name} {describe_failure(context, failure)}.",
            remedy=_own_rail(context, failure.subject) if failure.reason == "supply" else None,
        )


def _own_rail(context: Context, part_id: str) -> Remedy | None:
    """A rail of its own from the battery for a part whose rail never gives what it needs."""
    design = context.design
    p, part = next((i, x) for i, x in enumerate(design.parts) if x.id == part_id)
    low, high = part.supply_min_v or 0.0, HEADROOM * (part.supply_max_v or 100.0)
    if float(context.highest_rail_v[context.usual.rail_of[p]]) >= low:
        return None  # the voltage is right without load: another rail would not help
    peak = max(context.usual.part_a(p, k, context.middle, "most") for k in range(len(context.usual.moments)))
    fitting = [
        s for s in context.catalogue.stages
        if isinstance(s, SwitchingStage) and s.topology in ("boost", "buck-boost") and low < s.output_v <= high and s.limit_a >= peak
    ]  # fmt: skip
    if not fitting:
        return None
    best = min(fitting, key=lambda s: (not s.disconnects, s.quiescent_a))
    new = placed(design, best, BATTERY)
    rail = fresh_id(f"rail-{new.id}"[:50], {r.id for r in design.supply.rails})
    name = f"{show(best.output_v, 'V')} rail"
    patch = [add("/supply/stages/-", new), add("/supply/rails/-", {"id": rail, "name": name, "feed": new.id}),
             replace(f"/parts/{p}/rail", rail)]  # fmt: skip
    return Remedy(label=f"A rail of its own with {best.name}", patch=patch)


def hot_stages(context: Context) -> Iterator[Finding]:
    """A stage whose junction gets too hot in a mode that lasts, on the hottest day, in the closed case."""
    state, design = context.usual, context.design
    s = state.typical
    for i, stage in enumerate(state.tree.stages):
        if stage.theta_c_per_w is None:
            continue
        watts = np.zeros(len(design.modes))
        for k, moment in enumerate(state.moments):
            lost = s.stage_input_v[i, k] * s.stage_input_a[i, k] - s.stage_output_v[i, k] * s.stage_output_a[i, k]
            watts[moment.mode] += moment.share * float(np.max(lost))
        m = int(watts.argmax())
        inside = design.brief.hottest_c + inside_rise_c(float(watts[m]), design.enclosure)
        junction = inside + float(watts[m]) * stage.theta_c_per_w
        if junction <= stage.junction_max_c:
            continue
        position = next(k for k, x in enumerate(design.supply.stages) if x.id == stage.id)
        yield Finding(
            code="stage-too-hot",
            severity="fix",
            step="supply",
            where=f"/supply/stages/{position}",
            title=f"{stage.name} gets too hot",
            sentence=(
                f"While {design.modes[m].name.lower()} it loses {show(float(watts[m]), 'W')}: on a day of {design.brief.hottest_c:g} °C its "
                f"junction reaches {show(junction, '°C')} in the closed case, and {stage.junction_max_c:g} °C are its limit. "
                "Spread the heat over copper, or use a switching converter."
            ),
            remedy=_better_stage(context, position) if isinstance(stage, LinearStage) else None,
        )


def will_not_start(context: Context) -> Iterator[Finding]:
    """A converter that still runs on a battery that it could no longer start on."""
    state = context.usual
    for i, stage in enumerate(state.tree.stages):
        if not isinstance(stage, SwitchingStage) or stage.starting_min_v is None or state.tree.off[i].any():
            continue
        resting = [k for k, x in enumerate(state.moments) if x.mode == context.rest]
        volts = np.min(state.worst.stage_input_v[i][resting], axis=0)
        short = np.flatnonzero(volts < stage.starting_min_v)
        if not short.size or state.pack.charge[short[0]] <= state.ending[1] + DROPOUT_MATTERS_ABOVE:
            continue
        position = next(k for k, x in enumerate(context.design.supply.stages) if x.id == stage.id)
        yield Finding(
            code="will-not-start",
            severity="watch",
            step="supply",
            where=f"/supply/stages/{position}/starting_min_v",
            title=f"{stage.name} runs lower than it starts",
            sentence=(
                f"It starts at {show(stage.starting_min_v, 'V')} and runs down to {show(stage.running_min_v, 'V')}. Below "
                f"{show(float(state.pack.charge[short[0]]), 'share')} charge the gadget goes on, but after a reset, or when cells that are "
                "half empty are put in, it stays dark."
            ),
        )
