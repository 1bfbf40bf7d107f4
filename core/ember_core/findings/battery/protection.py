"""Traps of what protects the cells: thresholds against the gadget's peaks and cut-off, the fuse, reversal, and having none."""

from __future__ import annotations

from collections.abc import Iterator

from ...battery.chemistry import CHEMISTRIES
from ...battery.pack import resting_v
from ...design import DiodeStage, PassStage, Protection, SwitchingStage
from ...design.patches import replace
from ...figures import Remedy
from ...measures.bench import TrialBench
from ...supply.converters import limits_current
from ...words import Said, say
from ..found import Found

SPARE = 1.2  # that a threshold is to lie above the peak, as they differ by a fifth; a rule of thumb
HOLDERS = ("cylinder",)  # forms that go into a holder, where they can go in the wrong way round
# times what the cells or a wire stand, at which a threshold protects little, or nothing
FAR_ABOVE, WAY_ABOVE = 3.0, 6.0
CELLS_STAND = 2.0  # times what they are made for cells stand for the moment until it trips, wires do not
FAR_BELOW_V = 0.3  # below what a cell may be emptied to: no protection at all
BLOWS_AT = 2.0  # times its rating a fuse blows within a minute at the latest; typical of small ones
# times the capacity an hour that cells may pass each other for a moment when they are joined; a rule of thumb
JOINED_RATE = 2.0


def guarded(bench: TrialBench) -> bool:
    """Whether a circuit of any kind cuts the cells off: at the cells, among the stages, on the charger's board."""
    battery, charger = bench.design.battery, bench.design.charger
    stages = [s for s in bench.design.supply.stages if isinstance(s, PassStage)]
    among = any(s.protects or s.role == "protection" for s in stages)
    return battery.protection is not None or among or (charger is not None and charger.protects)


def cuts_off_by_itself(bench: TrialBench) -> bool:
    """Whether everything that hangs on the battery stops before a cell is emptied too far: each rail behind a converter with a lockout above that."""
    battery, tree = bench.design.battery, bench.usual.tree
    least = CHEMISTRIES[battery.cell.chemistry].least_v * battery.series
    fed = [
        r
        for r, feed in enumerate(tree.rail_feeds)
        if any(p.rail == bench.design.supply.rails[r].id for p in bench.design.parts)
    ]

    def stops(rail: int) -> bool:
        path = [tree.stages[s] for s in tree.path(tree.rail_feeds[rail])]
        return any(isinstance(stage, SwitchingStage) and stage.undervoltage_lockout_v >= least for stage in path)

    return bool(fed) and all(stops(r) for r in fed)


def none_at_all(bench: TrialBench) -> Iterator[Found]:
    """No circuit cuts the cells off. Where they are charged in the gadget and nothing else ends their discharge, that must not be."""
    battery, charger = bench.design.battery, bench.design.charger
    if battery.cell.bank is not None or CHEMISTRIES[battery.cell.chemistry].protection_v is None or guarded(bench):
        return
    apart = battery.series > 1 and charger is not None and not charger.balances
    bare = charger is not None and not cuts_off_by_itself(bench)
    least = CHEMISTRIES[battery.cell.chemistry].least_v
    usual = Protection(
        cut_v_per_cell=CHEMISTRIES[battery.cell.chemistry].protection_v,
        overcurrent_a=float(f"{max(bench.peak_a[0] * SPARE * SPARE, 1.0):.2g}"),
    )
    yield Found(
        code="no-protection",
        severity="stop" if bare or apart else "watch",
        step="battery",
        verdict="charge" if charger else None,
        where="/battery/protection",
        facts={"least": (least, "V"), "cell": battery.cell.name, "bare": bare, "apart": apart},
        ways=lambda: [
            Remedy(label=say("way.add-a-protection-circuit"), patch=[replace("/battery/protection", usual)]),
        ],
    )


def trips_on_the_peak(bench: TrialBench) -> Iterator[Found]:
    guard = bench.design.battery.protection
    if guard is None:
        return
    peak, where = bench.peak_a
    mode = bench.design.modes[bench.usual.operating_points[where].mode].name if bench.usual.operating_points else ""
    if peak > guard.overcurrent_a:
        needed = float(f"{peak * SPARE:.2g}")
        yield Found(
            code="protection-trips",
            severity="fix",
            step="battery",
            where="/battery/protection/overcurrent_a",
            facts={"peak_current": (peak, "A"), "threshold": (guard.overcurrent_a, "A"), "mode": mode},
            ways=lambda: [
                Remedy(
                    label=say("way.one-that-trips-above", needed=(needed, "A")),
                    patch=[replace("/battery/protection/overcurrent_a", needed)],
                )
            ],
        )
    if guard.fuse_a is not None and peak > guard.fuse_a:
        larger = float(f"{peak * SPARE:.2g}")
        yield Found(
            code="fuse-blows",
            severity="fix",
            step="battery",
            where="/battery/protection/fuse_a",
            facts={"peak_current": (peak, "A"), "fuse": (guard.fuse_a, "A"), "mode": mode},
            ways=lambda: [
                Remedy(
                    label=say("way.a-fuse-of", larger=(larger, "A")),
                    patch=[replace("/battery/protection/fuse_a", larger)],
                )
            ],
        )


def wants_a_charger(bench: TrialBench) -> Iterator[Found]:
    battery = bench.design.battery
    guard = battery.protection
    if guard is None or not guard.wakes_by_charger or bench.design.charger is not None:
        return
    yield Found(
        code="wakes-by-charger",
        severity="fix",
        step="battery",
        where="/battery/protection/wakes_by_charger",
        ways=lambda: [
            Remedy(
                label=say("way.one-that-comes-back-by-itself"),
                patch=[replace("/battery/protection/wakes_by_charger", False)],
            )
        ],
    )


def cuts_below_the_cell(bench: TrialBench) -> Iterator[Found]:
    """The protection's own threshold lies below what the cell may be emptied to: it is a last resort, not a cut-off."""
    battery = bench.design.battery
    guard, chemistry = battery.protection, battery.cell.chemistry
    least, usual = CHEMISTRIES[chemistry].least_v, CHEMISTRIES[chemistry].protection_v
    if guard is None or usual is None or guard.cut_v_per_cell >= least:
        return
    yield Found(
        code="protection-too-low",
        severity="fix" if guard.cut_v_per_cell < least - FAR_BELOW_V else "watch",
        step="battery",
        where="/battery/protection/cut_v_per_cell",
        facts={
            "threshold": (guard.cut_v_per_cell, "V"),
            "least": (least, "V"),
            "CHEMISTRIES": CHEMISTRIES[chemistry].name,
        },
        ways=lambda: [
            Remedy(
                label=say("way.one-that-cuts-at", usual=(usual, "V")),
                patch=[replace("/battery/protection/cut_v_per_cell", usual)],
            )
        ],
    )


def cuts_too_early(bench: TrialBench) -> Iterator[Found]:
    """The protection's threshold lies where the cell is still half full: one that was made for cells of another kind."""
    battery = bench.design.battery
    guard, usual = battery.protection, CHEMISTRIES[battery.cell.chemistry].protection_v
    if guard is None or battery.cell.bank is not None:
        return
    half = resting_v(battery.cell, 0.5)
    if guard.cut_v_per_cell <= half:
        return
    yield Found(
        code="protection-too-high",
        severity="fix",
        step="battery",
        verdict="runtime",
        where="/battery/protection/cut_v_per_cell",
        facts={"threshold": (guard.cut_v_per_cell, "V"), "half_full": (half, "V"), "cell": battery.cell.name},
        ways=lambda: [
            Remedy(label=say("way.without-it"), patch=[replace("/battery/protection", None)])
            if usual is None
            else Remedy(
                label=say("way.one-that-cuts-at", usual=(usual, "V")),
                patch=[replace("/battery/protection/cut_v_per_cell", usual)],
            )
        ],
    )


def emptied_too_far(bench: TrialBench) -> Iterator[Found]:
    """The cell's own cut-off in the design lies below what its kind stands: in series the weakest is turned round by the others."""
    battery = bench.design.battery
    cell, data, guard = battery.cell, CHEMISTRIES[battery.cell.chemistry], battery.protection
    ends = max(cell.cutoff_v, guard.cut_v_per_cell if guard else 0.0)
    if cell.bank is not None or not data.rechargeable or ends >= data.least_v:
        return
    yield Found(
        code="cut-off-too-low",
        severity="fix" if ends < data.least_v - FAR_BELOW_V else "watch",
        step="battery",
        where="/battery/cell/cutoff_v",
        facts={"cutoff": (ends, "V"), "least": (data.least_v, "V"), "data": data.name, "several": battery.series > 1},
        ways=lambda: [
            Remedy(
                label=say("way.stop-at-a-cell", least=(data.least_v, "V")),
                patch=[replace("/battery/cell/cutoff_v", data.least_v)],
            )
        ],
    )


def trips_too_late(bench: TrialBench) -> Iterator[Found]:
    """The protection lets through far more than the cells, or a wire behind them, stand."""
    battery, tree = bench.design.battery, bench.usual.tree
    guard = battery.protection
    if guard is None:
        return
    lets = min(guard.overcurrent_a, BLOWS_AT * guard.fuse_a) if guard.fuse_a else guard.overcurrent_a
    shorted = _short_a(bench)
    weak: list[tuple[str | Said, float, float]] = [(Said("place.cells"), bench.usual.pack.discharge_max_a, CELLS_STAND)]
    for s, stage in enumerate(tree.stages):
        path = tree.path(tree.inputs[s][0])
        behind = [tree.stages[x] for x in path]
        straight = tree.inputs[s][0] == 0 or (path and tree.inputs[path[-1]][0] == 0)
        fused = any(
            isinstance(x, PassStage) and x.role == "fuse" and BLOWS_AT * x.limit_a < FAR_ABOVE * stage.limit_a
            for x in behind
        )
        if (
            not straight
            or fused
            or not isinstance(stage, PassStage | DiodeStage)
            or any(limits_current(x) for x in behind)
        ):
            continue
        if isinstance(stage, PassStage) and stage.role in ("fuse", "protection", "load switch"):
            continue
        weak.append((stage.name, stage.limit_a, 1.0))
    able = min(lets, shorted)
    name, stands, for_long = max(weak, key=lambda w: able / w[1] / w[2])
    if able <= FAR_ABOVE * stands * for_long:
        return
    wanted = float(f"{max(bench.peak_a[0] * SPARE, stands * for_long):.2g}")
    yield Found(
        code="trips-too-late",
        severity="fix" if able > WAY_ABOVE * stands * for_long else "watch",
        step="battery",
        where="/battery/protection/overcurrent_a",
        facts={
            "threshold": (lets, "A"),
            "stands": (stands, "A"),
            "what": name,
        },
        ways=lambda: (
            []
            if wanted >= guard.overcurrent_a
            else [
                Remedy(
                    label=say("way.one-that-trips-above", needed=(wanted, "A")),
                    patch=[replace("/battery/protection/overcurrent_a", wanted)],
                )
            ]
        ),
    )


def _short_a(bench: TrialBench) -> float:
    """What flows through a short behind the battery at half charge [A]."""
    pack, k = bench.usual.pack, bench.middle
    return float(pack.open_circuit_v[k] / max(float(pack.resistance_ohm[k]), 1e-6))


def fuse_never_blows(bench: TrialBench) -> Iterator[Found]:
    """A fuse that the battery cannot blow, or that the protection never lets blow."""
    battery = bench.design.battery
    guard, shorted = battery.protection, _short_a(bench)
    fuses: list[tuple[float, str, str | Said]] = (
        [(guard.fuse_a, "/battery/protection/fuse_a", Said("place.fuse"))] if guard and guard.fuse_a else []
    )
    fuses += [
        (s.limit_a, f"/supply/stages/{i}/limit_a", s.name)
        for i, s in enumerate(bench.design.supply.stages)
        if isinstance(s, PassStage) and s.role == "fuse"
    ]
    for rated, where, name in fuses:
        if shorted >= BLOWS_AT * rated:
            continue
        yield Found(
            code="fuse-never-blows",
            severity="watch",
            step="battery",
            where=where,
            facts={"fuse": (rated, "A"), "short": (shorted, "A"), "what": name},
            ways=lambda where=where, shorted=shorted: [  # type: ignore[misc]
                Remedy(label=say("way.a-fuse-of", larger=(smaller, "A")), patch=[replace(where, smaller)])
                for smaller in [float(f"{shorted / BLOWS_AT * 0.9:.1g}")]
                if smaller > bench.peak_a[0]
            ],
        )


def wrong_way_round(bench: TrialBench) -> Iterator[Found]:
    """Cells that go into a holder can go in the wrong way round, whatever their kind."""
    battery = bench.design.battery
    guard, several = battery.protection, battery.series * battery.parallel > 1
    burns = CHEMISTRIES[battery.cell.chemistry].protection_v is not None or (
        several and battery.cell.chemistry.startswith("lithium")
    )
    if (
        (guard is not None and guard.against_reversal)
        or battery.cell.form not in HOLDERS
        or battery.cell.bank is not None
    ):
        return
    yield Found(
        code="reversal",
        severity="watch" if burns else "note",
        step="battery",
        where="/battery/protection/against_reversal" if guard else "/battery/protection",
        facts={"cell": battery.cell.name, "several": bool(several)},
        ways=lambda: (
            [
                Remedy(
                    label=say("way.add-a-transistor-against-reversal"),
                    patch=[replace("/battery/protection/against_reversal", True)],
                )
            ]
            if guard
            else []
        ),
    )


def strings_without_diodes(bench: TrialBench) -> Iterator[Found]:
    """Primary cells side by side: the fuller one charges the emptier, which they do not stand."""
    battery = bench.design.battery
    if battery.parallel < 2 or CHEMISTRIES[battery.cell.chemistry].rechargeable or battery.cell.bank is not None:
        return
    yield Found(
        code="parallel-primaries",
        severity="fix" if battery.cell.chemistry != "alkaline" else "watch",
        step="battery",
        where="/battery/parallel",
        facts={"parallel": (battery.parallel, ""), "cell": battery.cell.name},
    )


def joined_at_different_voltages(bench: TrialBench) -> Iterator[Found]:
    """Cells that are joined side by side while they are not equally full pass their difference to each other at once."""
    battery = bench.design.battery
    volts, cell = battery.joined_v, battery.cell
    if volts is None or battery.parallel < 2 or cell.bank is not None:
        return
    amps = volts / (2 * max(cell.resistance_ohm, 1e-4) * battery.series)
    most = JOINED_RATE * cell.capacity_ah
    if amps <= most:
        return
    yield Found(
        code="joined-cells",
        severity="stop" if amps > FAR_ABOVE * most else "fix",
        step="battery",
        where="/battery/joined_v",
        facts={"difference": (volts, "V"), "current": (amps, "A"), "most": (most, "A")},
    )
