"""Traps of what protects the cells: thresholds against the gadget's peaks and cut-off, the fuse, reversal, and having none."""

from __future__ import annotations

from collections.abc import Iterator

from ..battery.chemistry import CHEMISTRIES
from ..design import PassStage, Protection
from ..design.patches import replace
from ..figures import Remedy
from ..measures.bench import TrialBench
from ..quantities import show
from .found import Found

SPARE = 1.2  # that a threshold is to lie above the peak, as they differ by a fifth; a rule of thumb
HOLDERS = ("cylinder",)  # forms that go into a holder, where they can go in the wrong way round


def none_at_all(bench: TrialBench) -> Iterator[Found]:
    battery = bench.design.battery
    if battery.protection is not None or battery.cell.bank is not None or battery.cell.chemistry != "lithium-ion":
        return
    stages = [s for s in bench.design.supply.stages if isinstance(s, PassStage)]
    charger = bench.design.charger
    if any(s.protects or s.role == "protection" for s in stages) or (charger is not None and charger.protects):
        return
    usual = Protection(overcurrent_a=float(f"{max(bench.peak_a[0] * SPARE * SPARE, 1.0):.2g}"))
    yield Found(
        code="no-protection", severity="note", step="battery", where="/battery/protection", title="No protection circuit is named",
        sentence=(
            f"{battery.cell.name} has no circuit that cuts it off when it is shorted, emptied too far or overcharged. Many pouches carry one "
            "under their tape; then name it here."
        ),
        ways=lambda: [
            Remedy(label="It has a protection circuit", patch=[replace("/battery/protection", usual)]),
        ],
    )  # fmt: skip


def trips_on_the_peak(bench: TrialBench) -> Iterator[Found]:
    guard = bench.design.battery.protection
    if guard is None:
        return
    peak, where = bench.peak_a
    mode = (
        bench.design.modes[bench.usual.operating_points[where].mode].name.lower()
        if bench.usual.operating_points
        else ""
    )
    if peak > guard.overcurrent_a:
        needed = float(f"{peak * SPARE:.2g}")
        yield Found(
            code="protection-trips", severity="fix", step="battery", where="/battery/protection/overcurrent_a",
            title="The protection trips on the peak",
            facts={"peak_current": (peak, "A"), "threshold": (guard.overcurrent_a, "A")},
            sentence=(
                f"While {mode} it takes up to {show(peak, 'A')}, and the protection cuts off above {show(guard.overcurrent_a, 'A')}: the gadget goes "
                "dead in the middle of it."
            ),
            ways=lambda: [Remedy(label=f"One that trips above {show(needed, 'A')}", patch=[replace("/battery/protection/overcurrent_a", needed)])],
        )  # fmt: skip
    if guard.fuse_a is not None and peak > guard.fuse_a:
        larger = float(f"{peak * SPARE:.2g}")
        yield Found(
            code="fuse-blows", severity="fix", step="battery", where="/battery/protection/fuse_a", title="The fuse is too small for the peak",
            facts={"peak_current": (peak, "A"), "fuse": (guard.fuse_a, "A")},
            sentence=f"While {mode} it takes up to {show(peak, 'A')} through a fuse of {show(guard.fuse_a, 'A')}.",
            ways=lambda: [Remedy(label=f"A fuse of {show(larger, 'A')}", patch=[replace("/battery/protection/fuse_a", larger)])],
        )  # fmt: skip


def wants_a_charger(bench: TrialBench) -> Iterator[Found]:
    battery = bench.design.battery
    guard = battery.protection
    if guard is None or not guard.wakes_by_charger or bench.design.charger is not None:
        return
    yield Found(
        code="wakes-by-charger", severity="fix", step="battery", where="/battery/protection/wakes_by_charger",
        title="Once cut off, it stays dead",
        sentence=(
            "After a short or an empty cell the protection waits for a charger, and the gadget has none: a fresh cell put in does not start "
            "either."
        ),
        ways=lambda: [Remedy(label="One that comes back by itself", patch=[replace("/battery/protection/wakes_by_charger", False)])],
    )  # fmt: skip


def cuts_below_the_cell(bench: TrialBench) -> Iterator[Found]:
    """The protection's own threshold lies below what the cell may be emptied to: it is a last resort, not a cut-off."""
    battery = bench.design.battery
    guard = battery.protection
    least = {"lithium-ion": 2.3, "lithium-iron-phosphate": 1.9}.get(battery.cell.chemistry)
    if guard is None or least is None or guard.cut_v_per_cell >= least:
        return
    usual = 2.5 if battery.cell.chemistry == "lithium-ion" else 2.0
    yield Found(
        code="protection-too-low", severity="watch", step="battery", where="/battery/protection/cut_v_per_cell",
        title="The protection cuts off too late",
        facts={"threshold": (guard.cut_v_per_cell, "V"), "least": (least, "V")},
        sentence=(
            f"It lets each cell down to {show(guard.cut_v_per_cell, 'V')}; below {show(least, 'V')} {CHEMISTRIES[battery.cell.chemistry].name} cells are damaged "
            "and unsafe to charge again."
        ),
        ways=lambda: [Remedy(label=f"One that cuts at {show(usual, 'V')}", patch=[replace("/battery/protection/cut_v_per_cell", usual)])],
    )  # fmt: skip


def wrong_way_round(bench: TrialBench) -> Iterator[Found]:
    battery = bench.design.battery
    guard = battery.protection
    if (
        guard is None
        or guard.against_reversal
        or battery.cell.form not in HOLDERS
        or battery.cell.chemistry not in ("lithium-ion", "lithium-iron-phosphate")
    ):
        return
    yield Found(
        code="reversal", severity="note", step="battery", where="/battery/protection/against_reversal",
        title="A cell put in the wrong way round",
        sentence=(
            f"{battery.cell.name} can be put into its holder the wrong way round, and nothing stands that. A transistor in the lead, a "
            "holder with a nose, or at least a mark."
        ),
        ways=lambda: [Remedy(label="Add a transistor against reversal", patch=[replace("/battery/protection/against_reversal", True)])],
    )  # fmt: skip
