"""Traps of sleeping and of being switched off: parts that stay on, chips that cannot wake, soft switches."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from itertools import islice

from ...design import (
    Design,
    Mode,
    Part,
    PassStage,
    ResistorDraw,
    Use,
    WakeBy,
)
from ...design.patches import add, remove, replace
from ...design.references import BATTERY
from ...figures import PatchOperation, Remedy
from ...load.operating_points import part_current
from ...measures.asleep import cut_off, rail_off
from ...measures.bench import TrialBench
from ...measures.edits import placed, switch_off
from ...measures.measure import Measure
from ...measures.selection import stage_in_place
from ...words import say
from ..found import Found

STAYS_ON_SHARE = 0.05
OWN_SHARE = 0.10
MOST_STAGES = 4
PULL_SHARE = 0.05
WEAK_PULL_OHM = 1e6
SOFT_AGAINST_HARD = 0.5
AWAKE_LIKE = 0.5  # of the busiest state's draw: a controller that draws as much is running


def cannot_be_switched_off(bench: TrialBench) -> Iterator[Found]:
    """A part without an enable pin or a load switch draws through every sleep."""
    total = bench.rest_a
    if not bench.sleeps:
        return
    for p, part in enumerate(bench.design.parts):
        own = bench.at_rest_a(p)
        if part.switchable or part.parasitic or part.kind == "led" or total <= 0 or own < STAYS_ON_SHARE * total:
            continue
        yield Found(
            code="always-on",
            lengthens=True,
            severity="fix",
            step="draw",
            where=f"/parts/{p}",
            facts={"own": (own, "A"), "total": (total, "A"), "part": part.name, "rest": bench.rest_name},
            ways=lambda p=p: _ways(bench, cut_off(bench, p)),  # type: ignore[misc]
        )


def _ways(bench: TrialBench, measure: Measure | None) -> list[Remedy | None]:
    return [measure.remedy(bench.design)] if measure else []


def stage_at_rest(bench: TrialBench) -> Iterator[Found]:
    """A stage that takes much for itself while nearly nothing hangs on it: a boost module, an everyday regulator."""
    total = bench.rest_a
    if not bench.sleeps or total <= 0:
        return
    for s, stage in enumerate(bench.usual.tree.stages):
        own = bench.own_at_rest_a(s)
        if own < OWN_SHARE * total or isinstance(stage, PassStage):
            continue
        position = bench.position(s)
        yield Found(
            code="stage-at-rest",
            lengthens=True,
            severity="watch",
            step="supply",
            where=f"/supply/stages/{position}",
            facts={
                "own": (own, "A"),
                "share": (own / total, "share"),
                "total": (total, "A"),
                "stage": stage.name,
                "kind": stage.type,
                "rest": bench.rest_name,
            },
            ways=partial(_less_at_rest, bench, s, position),
        )


def _less_at_rest(bench: TrialBench, s: int, position: int) -> Iterator[Remedy | None]:
    """Another stage, or this one off while nothing on it has to stay awake."""
    own = getattr(bench.usual.tree.stages[s], "quiescent_a", 0.0)
    yield from islice(stage_in_place(bench, position, lambda x: x.quiescent_a < own / 2), MOST_STAGES)
    yield from _ways(bench, rail_off(bench, position))


def cannot_wake(bench: TrialBench) -> Iterator[Found]:
    """The sleep state that was chosen cannot be ended by what has to end it."""
    design = bench.design
    waking = [(p, part) for p, part in enumerate(design.parts) if part.kind == "controller" and part.wakes]
    for m, mode in enumerate(design.modes):
        for p, part in waking:
            use = next((u for u in mode.uses if u.part == part.id), None)
            if use is None or _is_running(part, use.state, float(bench.highest_rail_v[bench.usual.rail_of[p]])):
                continue
            lacks = _lacks(design, mode, part, use.state)
            if not lacks:
                continue
            yield Found(
                code="cannot-wake",
                severity="fix",
                step="draw",
                where=f"/modes/{m}",
                facts={"part": part.name, "state": use.state, "mode": mode.name, "lacks": lacks},
                ways=lambda m=m, p=p, state=use.state: _ways_to_wake(bench, m, p, state),  # type: ignore[misc]
            )


_WAYS_TO_WAKE: tuple[WakeBy, ...] = ("timer", "pin", "touch", "serial", "radio")


def _is_running(part: Part, state: str, rail_v: float) -> bool:
    """A controller in a state that draws like its busiest one, and out of which nothing is said to wake it, is awake."""
    own = next(s for s in part.states if s.name == state)
    known = any(w.state == state for w in part.wakes)
    return not known and part_current(own, rail_v) >= AWAKE_LIKE * max(part_current(s, rail_v) for s in part.states)


def _able(part: Part, state: str) -> tuple[set[WakeBy], int]:
    """(what wakes a controller out of a state, on how many pins)."""
    own = [w for w in part.wakes if w.state == state]
    return {b for w in own for b in w.by}, max((w.pins for w in own if "pin" in w.by), default=0)


def _lacks(design: Design, mode: Mode, part: Part, state: str) -> list[str]:
    """What a mode has to be woken by and a controller's state cannot be, in words."""
    wanted = set(mode.woken_by) | ({"pin"} if mode.wake_pins else set())
    needed = mode.wake_pins
    if mode.id == design.day.rest:
        if design.day.wakes:
            wanted.add("timer")
        needed = max(needed, _signals_that_wake(design, part))
        if needed:
            wanted.add("pin")
    if not wanted:
        return []
    able, pins = _able(part, state)
    words = [say(f"wake-by.{w}") for w in _WAYS_TO_WAKE if w in wanted - able]
    if "pin" in wanted & able and needed > pins:
        words.append(say("wake-by.pins", needed=needed, has=pins))
    return words


def _signals_that_wake(design: Design, part: Part) -> int:
    """How many signals of other parts are to wake a controller: those at its pins, where it is the one that they are at."""
    first = next((p.id for p in design.parts if p.pins), None)
    own = part.id == ((design.wiring.controller if design.wiring else None) or first)
    return sum(
        n.count * p.quantity
        for p in design.parts
        for n in p.needs
        if n.wakes and (n.at == part.id or (own and n.at is None))
    )


def _ways_to_wake(bench: TrialBench, m: int, p: int, state: str) -> Iterator[Remedy]:
    """Switches joined on fewer pins; another state; another controller that rests as deeply and can."""
    design, mode, part = bench.design, bench.design.modes[m], bench.design.parts[p]
    pins = _able(part, state)[1]
    if mode.wake_pins > pins >= 1:
        joined = mode.model_copy(update={"wake_pins": pins})
        if not _lacks(design, joined, part, state):
            label = say("way.join-the-switches-of-pins-on", wake_pins=mode.wake_pins, pins=pins)
            yield Remedy(label=label, patch=[replace(f"/modes/{m}/wake_pins", pins)])
    u = next(i for i, x in enumerate(mode.uses) if x.part == part.id)
    for other in part.states:  # listed from the calmest to the busiest
        if any(w.state == other.name for w in part.wakes) and not _lacks(design, mode, part, other.name):
            label = say("way.while", part=part.name, other=other.name, mode=mode.name)
            yield Remedy(label=label, patch=[replace(f"/modes/{m}/uses/{u}", Use(part=part.id, state=other.name))])
            break
    yield from _waking_controllers(bench, m, p, state)


def _waking_controllers(bench: TrialBench, m: int, p: int, state: str) -> Iterator[Remedy]:
    design, mode, part = bench.design, bench.design.modes[m], bench.design.parts[p]
    volts = float(bench.highest_rail_v[bench.usual.rail_of[p]])
    names = {s.name for s in part.states}
    fitting = [
        x for x in bench.catalogue.parts
        if x.kind == "controller" and names <= {s.name for s in x.states} and not _lacks(design, mode, x, state)
        and (x.supply_min_v or 0) <= volts <= (x.supply_absolute_max_v or 100)
    ]  # fmt: skip
    for x in sorted(fitting, key=lambda x: part_current(next(s for s in x.states if s.name == state), volts))[:2]:
        body = x.body and x.body.model_copy(update={"position_mm": part.body.position_mm if part.body else None})
        new = x.model_copy(update={"id": part.id, "rail": part.rail, "quantity": part.quantity, "body": body})
        yield Remedy(label=say("way.use-it", it=x.name), patch=[replace(f"/parts/{p}", new)])


def pull_resistors(bench: TrialBench) -> Iterator[Found]:
    """Pull resistors draw while the gadget rests."""
    design, rest, total = bench.design, bench.rest, bench.rest_a
    for p, part in enumerate(design.parts):
        own = bench.at_rest_a(p)
        if part.divider or total <= 0 or own < PULL_SHARE * total:
            continue
        use = next(u for u in design.modes[rest].uses if u.part == part.id)
        k, state = next((k, s) for k, s in enumerate(part.states) if s.name == use.state)
        if not isinstance(state.draw, ResistorDraw) or part.kind in ("light", "motor"):
            continue
        ohm = state.draw.resistance_ohm.typical
        if ohm >= WEAK_PULL_OHM:
            continue
        weak = {"typical": WEAK_PULL_OHM, "min": None, "max": None}
        raised = Remedy(
            label=say("way.part-at", part=part.name, resistance=(WEAK_PULL_OHM, "Ω")),
            patch=[replace(f"/parts/{p}/states/{k}/draw/resistance_ohm", weak)],
        )
        yield Found(
            code="pull-resistors",
            lengthens=True,
            severity="watch",
            step="draw",
            where=f"/parts/{p}",
            facts={
                "resistance": (ohm, "Ω"),
                "own": (own, "A"),
                "total": (total, "A"),
                "part": part.name,
                "rest": bench.rest_name,
                "analogue": part.analogue,
                "weak": (WEAK_PULL_OHM, "Ω"),
            },
            ways=None if part.analogue else lambda raised=raised: [raised],  # type: ignore[misc]
        )


def soft_switch(bench: TrialBench) -> Iterator[Found]:
    """Switched off by an enable line, the gadget still drains its battery; a hard switch does not let it."""
    design, state = bench.design, bench.usual
    for m, mode in enumerate(design.modes):
        if not mode.switched_off:
            continue
        drain = float(state.mode_current_a[m, bench.middle])
        soft, hard = bench.shelf_s(m), bench.shelf_s(None)
        wanted = design.brief.shelf_h
        short = wanted is not None and soft < wanted * 3600
        if drain <= 0 or (soft >= SOFT_AGAINST_HARD * hard and not short):
            continue
        yield Found(
            code="soft-switch",
            severity="fix" if short else "watch",
            step="supply",
            where=f"/modes/{m}",
            facts={
                "drain": (drain, "A"),
                "time_with_soft_switch": (soft, "s"),
                "time_with_hard_switch": (hard, "s"),
                "mode": mode.name,
                "wanted": (wanted if short else None, "h"),
            },
            ways=lambda: _hard_switches(bench),
        )


def _hard_switches(bench: TrialBench) -> Iterator[Remedy]:
    """Switches from the catalogue between the battery and everything that hangs on it."""
    design, peak = bench.design, bench.peak_a[0]
    switches = [
        s for s in bench.catalogue.stages
        if isinstance(s, PassStage) and s.role == "switch" and s.limit_a >= peak and s.shutdown_a == 0
    ]  # fmt: skip
    for best in sorted(switches, key=lambda s: (s.resistance_ohm * peak, s.cost))[:2]:
        switch = placed(design, best, BATTERY)
        patch: list[PatchOperation] = []
        for i, stage in enumerate(design.supply.stages):
            patch += [replace(f"/supply/stages/{i}/input", switch.id)] if stage.input == BATTERY else []
            patch += [replace(f"/supply/stages/{i}/other", switch.id)] if getattr(stage, "other", "") == BATTERY else []
        patch += [
            replace(f"/supply/rails/{i}/feed", switch.id)
            for i, r in enumerate(design.supply.rails)
            if r.feed == BATTERY
        ]
        patch.append(add("/supply/stages/-", switch))
        patch += switch_off(design, switch.id, lambda m: m.switched_off)
        yield Remedy(label=say("way.put-behind-the-battery", best=best.name), patch=patch)


def divider_drain(bench: TrialBench) -> Iterator[Found]:
    """A measuring divider drains the battery day and night."""
    design, rest, total = bench.design, bench.rest, bench.rest_a
    mode = design.modes[rest]
    for p, part in enumerate(design.parts):
        own = bench.at_rest_a(p)
        if part.divider is None or total <= 0 or own < STAYS_ON_SHARE * total or len(mode.uses) < 2:
            continue
        u = next(i for i, x in enumerate(mode.uses) if x.part == part.id)
        gate = Remedy(
            label=say("way.gate", part=part.name),
            patch=[replace(f"/parts/{p}/divider/gated", True), remove(f"/modes/{rest}/uses/{u}")],
        )
        ohm = part.divider.upper_ohm + part.divider.lower_ohm
        yield Found(
            code="divider-drain",
            lengthens=True,
            severity="fix",
            step="draw",
            where=f"/parts/{p}",
            facts={
                "resistance": (ohm, "Ω"),
                "own": (own, "A"),
                "total": (total, "A"),
                "part": part.name,
                "mode": mode.name,
            },
            ways=lambda gate=gate: [gate],  # type: ignore[misc]
        )
