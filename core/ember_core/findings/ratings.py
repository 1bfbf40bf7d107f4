"""Traps of ratings: more than a capacitor, an LED or a snap is made for, a coil without its diode, a back-up cell that is charged backwards, what is
left in the heat."""

from __future__ import annotations

from collections.abc import Iterator

from ..battery.chemistry import CHEMISTRIES
from ..design import DiodeStage, PowerOrStage
from ..design.patches import replace
from ..design.references import BATTERY
from ..figures import Remedy
from ..load.operating_points import part_current
from ..measures.bench import TrialBench
from ..thermal.materials import CELL_MAX_C, MATERIALS, softest
from ..words import say
from .found import Found

USUAL_RATINGS_V = (4.0, 6.3, 10.0, 16.0, 25.0, 35.0, 50.0, 63.0, 100.0)
SPARE = 0.9  # of its rating that a capacitor is used up to
HARD = 1.2  # times its rating
REVERSE_A = 1e-6  # into a primary cell: more charges it; typical of what makers of coin cells allow
OFTEN = 0.6  # of what a snap stands once, when it is opened often
HOLDS_BY_SCREW = ("screw", "insert", "nut")


def capacitor_rating(bench: TrialBench) -> Iterator[Found]:
    """More voltage on a capacitor than it is rated for."""
    for r, rail in enumerate(bench.design.supply.rails):
        top = float(bench.highest_rail_v[r])
        rated = rail.capacitor.rated_v if rail.capacitor else None
        if rated is None or top <= SPARE * rated * (1 + 1e-9):
            continue
        over = top > rated
        larger = next((v for v in USUAL_RATINGS_V if SPARE * v >= top), None)
        yield Found(
            code="capacitor-rating",
            severity="stop" if top > HARD * rated else "fix" if over else "watch",
            step="supply",
            where=f"/supply/rails/{r}/capacitor/rated_v",
            facts={"highest_voltage": (top, "V"), "rated": (rated, "V"), "rail": rail.name, "over": bool(over)},
            ways=lambda r=r, larger=larger: (
                []
                if larger is None
                else [  # type: ignore[misc]
                    Remedy(
                        label=say("way.one-for", larger=(larger, "V")),
                        patch=[replace(f"/supply/rails/{r}/capacitor/rated_v", larger)],
                    )
                ]
            ),
        )


def current_rating(bench: TrialBench) -> Iterator[Found]:
    """A state that a mode uses draws more than the part is made for, as of an LED without enough resistance."""
    used: dict[int, set[str]] = {}
    for moment in bench.usual.operating_points:
        for p, state in enumerate(moment.states):
            if state is not None:
                used.setdefault(p, set()).add(state.name)
    for p, part in enumerate(bench.design.parts):
        if part.rated_a is None:
            continue
        volts = float(bench.highest_rail_v[bench.usual.rail_of[p]])
        amps = {s.name: part_current(s, volts, "max") for s in part.states if s.name in used.get(p, ())}
        name, most = max(amps.items(), key=lambda x: x[1], default=("", 0.0))
        if most <= part.rated_a * (1 + 1e-9):
            continue
        yield Found(
            code="current-rating",
            severity="fix",
            step="draw",
            where=f"/parts/{p}",
            facts={
                "current": (most, "A"),
                "rated": (part.rated_a, "A"),
                "highest_voltage": (volts, "V"),
                "part": part.name,
                "name": name,
            },
        )


def flyback(bench: TrialBench) -> Iterator[Found]:
    """What has a coil kicks back when it is switched off."""
    for p, part in enumerate(bench.design.parts):
        if part.kind != "motor" or part.flyback:
            continue
        known = part.flyback is False
        yield Found(
            code="no-flyback",
            severity="fix" if known else "note",
            step="supply",
            where=f"/parts/{p}",
            facts={"part": part.name, "known": bool(known)},
            ways=lambda p=p: [Remedy(label=say("way.a-diode-across-it"), patch=[replace(f"/parts/{p}/flyback", True)])],  # type: ignore[misc]
        )


def charged_backwards(bench: TrialBench) -> Iterator[Found]:
    """A diode that leaks backwards charges a primary cell."""
    battery = bench.design.battery
    if CHEMISTRIES[battery.cell.chemistry].rechargeable or battery.cell.bank is not None:
        return
    for i, stage in enumerate(bench.design.supply.stages):
        both = isinstance(stage, PowerOrStage) and BATTERY in (stage.input, stage.other)
        fed = isinstance(stage, DiodeStage) and stage.input == BATTERY and bool(bench.design.supply.sources)
        if (
            not isinstance(stage, DiodeStage | PowerOrStage)
            or not (both or fed)
            or stage.reverse_a <= REVERSE_A * (1 + 1e-9)
        ):
            continue
        yield Found(
            code="charged-backwards",
            severity="fix" if stage.reverse_a > 10 * REVERSE_A else "watch",
            step="supply",
            where=f"/supply/stages/{i}/reverse_a",
            facts={
                "reverse": (stage.reverse_a, "A"),
                "most": (REVERSE_A, "A"),
                "stage": stage.name,
                "cell": battery.cell.name,
            },
        )


def left_in_the_heat(bench: TrialBench) -> Iterator[Found]:
    """Where it is left is hotter than its case or its cells stand."""
    design = bench.design
    left = design.brief.left_c
    if left is None:
        return
    plastic, softens = softest(design.enclosure)
    cell, stands = design.battery.cell, CELL_MAX_C[design.battery.cell.chemistry]
    if left > softens:
        yield Found(
            code="left-softens",
            severity="fix",
            step="fit",
            where="/brief/left_c",
            facts={"left": (left, "°C"), "softens": (softens, "°C"), "plastic": plastic},
            ways=lambda: [
                Remedy(
                    label=say("way.make-the-case-of", plastic=p),
                    patch=[replace("/enclosure/plastic", p), replace("/enclosure/lid", None)],
                )
                for p in ("ABS", "polycarbonate")
                if MATERIALS[p].softens_c > left and design.enclosure.process == "filament"
            ],
        )
    if left > stands:
        yield Found(
            code="left-too-hot",
            severity="stop" if cell.chemistry == "lithium-ion" and left > stands + 15 else "fix",
            step="battery",
            where="/brief/left_c",
            facts={"left": (left, "°C"), "stands": (stands, "°C"), "cell": cell.name},
        )


def snap_strain(bench: TrialBench) -> Iterator[Found]:
    """A snap that is bent further than its plastic stands."""
    case = bench.design.enclosure
    stands = MATERIALS[case.plastic].strain
    for i, held in enumerate(case.fastenings):
        if held.kind != "snap" or held.strain is None or held.strain <= OFTEN * stands:
            continue
        breaks = held.strain > stands
        yield Found(
            code="snap-strain",
            severity="fix" if breaks else "watch",
            step="fit",
            where=f"/enclosure/fastenings/{i}/strain",
            facts={
                "strain": (held.strain * 100, "%"),
                "stands": (stands * 100, "%"),
                "held": held.name,
                "breaks": bool(breaks),
                "plastic": case.plastic,
                "once": not breaks,
            },
        )


def coin_in_reach(bench: TrialBench) -> Iterator[Found]:
    """A coin cell behind a lid that a child opens."""
    design = bench.design
    if not design.brief.children_near or design.battery.cell.form != "coin":
        return
    if any(f.kind in HOLDS_BY_SCREW for f in design.enclosure.fastenings):
        return
    yield Found(code="coin-in-reach", severity="fix", step="fit", where="/enclosure/fastenings")
