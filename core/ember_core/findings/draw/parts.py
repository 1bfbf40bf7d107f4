"""Traps of the draw: units, parasitic loads of modules, indicator LEDs, displays."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ...calculators.led import MODERN_MCD_PER_MA
from ...design import LedDraw, State
from ...design.patches import replace
from ...figures import PatchOperation, Remedy
from ...load.operating_points import part_current
from ...measures.asleep import dark_at_rest
from ...measures.awake import dimmer
from ...measures.bench import TrialBench
from ...measures.edits import without_uses
from ...words import say
from ..found import Found

SHORT_OF_GOAL = 0.2
PARASITIC_SHARE = 0.10
BOARD_SLEEPS_A = (
    1e-3,
    20e-3,
)  # what the bridge, the LED and the regulator of a board draw together; more is the chip itself
LED_SHARE = 0.05
LIGHT_SHARE = 0.05
LOW_EFFICACY_MCD_PER_MA = 20.0
DISPLAY_SHARE = 0.25
BARER = 0.1  # of the present board's sleep current


def capacity_against_current(bench: TrialBench) -> Iterator[Found]:
    """The plain division of capacity by current is nowhere near the goal, often a mixed-up unit."""
    goal, state = bench.design.brief.goal_h, bench.usual
    if goal is None or not bench.design.parts or bench.mean_a <= 0:
        return
    hours = state.pack.printed_ah / bench.mean_a
    if hours >= SHORT_OF_GOAL * goal:
        return
    costs = bench.part_battery_a @ state.shares
    p = int(costs.argmax())
    part = bench.design.parts[p]
    yield Found(
        code="capacity-against-current",
        severity="fix",
        step="draw",
        where=f"/parts/{p}",
        facts={
            "rated_capacity": (state.pack.printed_ah, "Ah"),
            "mean": (bench.mean_a, "A"),
            "runtime": (hours, "h"),
            "goal": (goal, "h"),
            "share": (float(costs[p]) / bench.mean_a, "share"),
            "part": part.name,
        },
    )


def parasitic_loads(bench: TrialBench) -> Iterator[Found]:
    """Something that came along on a board module takes much of what is drawn at rest."""
    total = bench.rest_a
    for p, part in enumerate(bench.design.parts):
        own = bench.at_rest_a(p)
        if not part.parasitic or part.kind == "led" or total <= 0 or own < PARASITIC_SHARE * total:
            continue
        yield Found(
            code="parasitic",
            lengthens=True,
            severity="fix",
            step="draw",
            where=f"/parts/{p}",
            facts={
                "own": (own, "A"),
                "total": (total, "A"),
                "part": part.name,
                "sleeps": bench.sleeps,
                "rest": bench.rest_name,
            },
            ways=lambda p=p, part=part: [_not_at_rest(bench, p, f"No {part.name} while {bench.rest_name}")],  # type: ignore[misc]
        )


def _not_at_rest(bench: TrialBench, p: int, label: str) -> Remedy | None:
    """A part that draws nothing while the gadget rests; None where it is all that the mode has."""
    rest = bench.rest
    if len(bench.design.modes[rest].uses) < 2:
        return None
    return Remedy(label=label, patch=without_uses(bench.design, rest, {bench.design.parts[p].id}))


def board_with_parasitic_loads(bench: TrialBench) -> Iterator[Found]:
    """A board whose calmest state is milliamperes carries a bridge and an LED that a barer one does not."""
    design, rest, total = bench.design, bench.rest, bench.rest_a
    if not bench.sleeps:
        return
    for p, part in enumerate(design.parts):
        own = bench.at_rest_a(p)
        if part.kind != "controller" or not BOARD_SLEEPS_A[0] <= own <= BOARD_SLEEPS_A[1] or own < 0.5 * total:
            continue
        use = next((u for u in design.modes[rest].uses if u.part == part.id), None)
        if (
            use is None
            or use.burst
            or use.state != calmest(part.states, float(bench.highest_rail_v[bench.usual.rail_of[p]])).name
        ):
            continue
        yield Found(
            code="board",
            lengthens=True,
            severity="fix",
            step="draw",
            where=f"/parts/{p}",
            facts={
                "own": (own, "A"),
                "total": (total, "A"),
                "part": part.name,
                "state": use.state,
                "rest": bench.rest_name,
            },
            ways=lambda p=p, state=use.state: _barer_boards(bench, p, state),  # type: ignore[misc]
        )


def _barer_boards(bench: TrialBench, p: int, resting: str) -> Iterator[Remedy]:
    """Catalogue controllers with the same states that rest with a tenth, and stand the rail's voltage."""
    part = bench.design.parts[p]
    volts = float(bench.highest_rail_v[bench.usual.rail_of[p]])
    names, calm = {s.name for s in part.states}, part_current(calmest(part.states, volts), volts)
    fitting = [
        x for x in bench.catalogue.parts
        if x.kind == "controller" and names <= {s.name for s in x.states} and (x.supply_min_v or 0) <= volts <= (x.supply_absolute_max_v or 100)
        and part_current(next(s for s in x.states if s.name == resting), volts) < BARER * calm
    ]  # fmt: skip
    for best in sorted(fitting, key=lambda x: (x.body is None, x.cost))[:3]:
        new = best.model_copy(update={"id": part.id, "rail": part.rail, "quantity": part.quantity})
        if new.body is not None and part.body is not None:
            new = new.model_copy(update={"body": new.body.model_copy(update={"position_mm": part.body.position_mm})})
        yield Remedy(label=say("way.use-it", it=best.name), patch=[replace(f"/parts/{p}", new)])


def indicator_leds(bench: TrialBench) -> Iterator[Found]:
    """An indicator that is lit while the gadget sleeps."""
    total = bench.rest_a
    if not bench.sleeps:
        return
    for p, part in enumerate(bench.design.parts):
        own = bench.at_rest_a(p)
        if part.kind != "led" or total <= 0 or own < LED_SHARE * total:
            continue
        yield Found(
            code="indicator-led",
            lengthens=True,
            severity="fix",
            step="draw",
            where=f"/parts/{p}",
            facts={"own": (own, "A"), "total": (total, "A"), "part": part.name, "rest": bench.rest_name},
            ways=lambda p=p: [dark_at_rest(bench, p).remedy(bench.design)],  # type: ignore[misc]
        )


def low_efficacy_leds(bench: TrialBench) -> Iterator[Found]:
    """LEDs of old make give little light for their current."""
    for p, part in enumerate(bench.design.parts):
        share = bench.day_share(p)
        if part.mcd_per_ma is None or part.mcd_per_ma >= LOW_EFFICACY_MCD_PER_MA or share < LIGHT_SHARE:
            continue
        own = float(bench.part_battery_a[p] @ bench.usual.shares)
        factor = part.mcd_per_ma / MODERN_MCD_PER_MA
        yield Found(
            code="low-efficacy-led",
            lengthens=True,
            severity="fix",
            step="draw",
            where=f"/parts/{p}",
            facts={
                "own": (own, "A"),
                "share": (share, "share"),
                "efficient": (own * factor, "A"),
                "part": part.name,
                "mcd_per_ma": (part.mcd_per_ma, ""),
                "modern": (MODERN_MCD_PER_MA, ""),
            },
            ways=lambda p=p, factor=factor: [_efficient(bench, p, factor)],  # type: ignore[misc]
        )


def _efficient(bench: TrialBench, p: int, factor: float) -> Remedy:
    """The same brightness from an efficient LED: all currents times a factor below 1."""
    part = bench.design.parts[p]
    patch: list[PatchOperation] = [replace(f"/parts/{p}/mcd_per_ma", MODERN_MCD_PER_MA)]
    for k, state in enumerate(part.states):
        dumped = state.draw.model_dump(mode="json")
        for key in ("current_a", "power_w", "resistance_ohm"):
            if key in dumped:
                scale = 1 / factor if isinstance(state.draw, LedDraw) or key == "resistance_ohm" else factor
                dumped[key] = {n: None if v is None else float(f"{v * scale:.4g}") for n, v in dumped[key].items()}
        patch.append(replace(f"/parts/{p}/states/{k}/draw", dumped))
    return Remedy(label=say("way.an-efficient-led-for", part=part.name), patch=patch)


def display_is_large(bench: TrialBench) -> Iterator[Found]:
    """The display is often what takes most: dimmer, in part, or for a shorter time."""
    for p, part in enumerate(bench.design.parts):
        share = bench.day_share(p)
        if part.kind != "display" or share < DISPLAY_SHARE:
            continue
        calmer = dimmer(bench, p)
        if calmer is None:
            continue
        yield Found(
            code="display",
            lengthens=True,
            severity="watch",
            step="draw",
            where=f"/parts/{p}",
            facts={"share": (share, "share"), "part": part.name, "largest": share >= 0.5},
            ways=lambda calmer=calmer: [calmer.remedy(bench.design)],  # type: ignore[misc]
        )


def calmest(states: Sequence[State], rail_v: float) -> State:
    """The one of a part's states that draws least at a rail's voltage, however its draw is put."""
    return min(states, key=lambda s: part_current(s, rail_v))
