"""Traps of heat: what lasts long enough to warm the case beyond what is in it stands."""

from __future__ import annotations

from collections.abc import Iterator

from ..design.patches import replace
from ..figures import Remedy
from ..measures.bench import TrialBench
from ..measures.edits import set_resistor
from ..quantities import show
from ..quantities.preferred import next_e24
from ..solved.warmth import CELL_CHARGE_MAX_C, charging_range_c
from ..thermal.materials import CELL_MAX_C, MATERIALS
from .found import Found

SPARE_C = 2.0  # kept below the limit by the resistor that is offered
MOST_OHM = 1e6


def too_warm_in_use(bench: TrialBench) -> Iterator[Found]:
    """A mode that lasts warms the case beyond what its plastic or its cell stands."""
    warm, design = bench.warmth, bench.design
    softening, cell = MATERIALS[design.enclosure.plastic].softens_c, CELL_MAX_C[design.battery.cell.chemistry]
    limit = min(softening, cell)
    if warm.running_c <= limit:
        return
    what = f"{design.enclosure.plastic} softens at" if softening <= cell else f"{design.battery.cell.name} stands"
    mode, m = design.modes[warm.hottest_mode], warm.hottest_mode
    cause, watts = _hottest(bench, m)
    yield Found(
        code="too-warm",
        severity="fix",
        step="charge",
        where=f"/modes/{m}",
        title=f"{mode.name} warms the case too much",
        facts={
            "power": (float(warm.mode_w[m]), "W"),
            "cause_power": (watts, "W"),
            "surroundings": (design.brief.hottest_c, "°C"),
            "temperature": (warm.running_c, "°C"),
            "limit": (limit, "°C"),
        },
        sentence=(
            f"{mode.name} burns {show(float(warm.mode_w[m]), 'W')} in the closed case, most of it in {cause} ({show(watts, 'W')}): "
            f"on a day of {show(design.brief.hottest_c, '°C')} it gets {show(warm.running_c, '°C')} inside, and {what} {show(limit, '°C')}. "
            "Less current, vents, a larger case, or a better converter."
        ),
        ways=lambda: _other_plastics(bench, warm.running_c) if softening <= cell else [],
    )


def _hottest(bench: TrialBench, mode: int) -> tuple[str, float]:
    """(name, mean power [W]) of the part or the stage that burns most in a mode."""
    state = bench.usual
    part_w, stage_w = state.half.part_w @ state.in_mode[mode], state.half.stage_loss @ state.in_mode[mode]
    burnt = [("the battery itself", 0.0)]
    burnt += [(p.name, float(w)) for p, w in zip(bench.design.parts, part_w, strict=True) if not p.plugged_by_user]
    burnt += [(s.name, float(w)) for s, w in zip(state.tree.stages, stage_w, strict=True)]
    return max(burnt, key=lambda b: b[1])


def _other_plastics(bench: TrialBench, inside_c: float) -> Iterator[Remedy]:
    """Plastics that stand it, the least hardy first."""
    for plastic, material in sorted(MATERIALS.items(), key=lambda x: x[1].softens_c):
        if (
            material.softens_c > inside_c
            and material.feel == "plastic"
            and plastic not in ("resin", bench.design.enclosure.plastic)
        ):
            yield Remedy(label=f"Make the case of {plastic}", patch=[replace("/enclosure/plastic", plastic)])


def too_warm_to_charge(bench: TrialBench) -> Iterator[Found]:
    """Charging, with what runs meanwhile, warms the cell beyond what it may be charged at."""
    warm, design = bench.warmth, bench.design
    charger, hot = design.charger, warm.hot_charge
    if warm.charging_c is None or charger is None or hot is None:
        return
    softening = MATERIALS[design.enclosure.plastic].softens_c
    limit = min(softening, CELL_CHARGE_MAX_C)
    around = charging_range_c(design.brief)[1]
    if warm.charging_c <= limit:
        return
    what = (
        f"{design.enclosure.plastic} softens at"
        if softening <= CELL_CHARGE_MAX_C
        else "a lithium cell may be charged up to"
    )
    room = limit - SPARE_C - around
    yield Found(
        code="charging-too-warm",
        severity="fix",
        step="charge",
        where="/charger/program_ohm",
        title="Charging warms the cell too much",
        facts={
            "power": (hot.heat_w, "W"),
            "charge_current": (hot.current_a, "A"),
            "temperature": (warm.charging_c, "°C"),
            "surroundings": (around, "°C"),
            "limit": (limit, "°C"),
        },
        sentence=(
            f"{charger.name} burns {show(hot.heat_w, 'W')} of what the port gives, a linear charger at {show(hot.current_a, 'A')}; with the rest the closed "
            f"case gets {show(warm.charging_c, '°C')} inside where it is {show(around, '°C')}, and {what} {show(limit, '°C')}. Charge slower, "
            "with the charger outside the case, or with a switching one."
        ),
        ways=lambda: _slower(bench, room),
    )


def _slower(bench: TrialBench, room_k: float) -> Iterator[Remedy]:
    """Resistors that keep the case within its room, the most current first."""
    charger, warm = bench.design.charger, bench.warmth
    assert charger is not None
    hot = warm.hot_charge
    if hot is None or room_k <= 0 or hot.heat_w <= 0:
        return
    assert warm.charging_shell is not None
    per_amp = hot.heat_w / max(hot.current_a, 1e-9)
    others = max(hot.case_heat_w - hot.heat_w, 0.0)
    amps = (warm.charging_shell.power_at(room_k) - others) / per_amp
    for share in (1.0, 0.8, 0.6):
        if amps <= 0 or charger.program_constant_v / (amps * share) > MOST_OHM:
            return
        ohm = next_e24(charger.program_constant_v / (amps * share))
        if ohm > charger.program_ohm:
            yield set_resistor(charger, ohm)


def folds_back(bench: TrialBench) -> Iterator[Found]:
    """The charger gets too hot for the current that it is set to, and gives less."""
    charger, result = bench.design.charger, bench.charge
    if charger is None or charger.foldback_c is None or result is None or result.limit != "fold-back" or result.never:
        return
    yield Found(
        code="fold-back",
        severity="note",
        step="charge",
        where="/charger/program_ohm",
        title="The charger folds its current back",
        facts={
            "charge_current": (result.set_a, "A"),
            "foldback": (charger.foldback_c, "°C"),
            "current_in_heat": (result.current_a, "A"),
        },
        sentence=(
            f"{charger.name} is set to {show(result.set_a, 'A')}, and its junction is at {show(charger.foldback_c, '°C')} with {show(result.current_a, 'A')} "
            "already: the time to full is reckoned with that. More copper under it, or less current, spares it the heat."
        ),
    )
