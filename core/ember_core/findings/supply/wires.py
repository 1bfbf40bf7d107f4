"""Traps of the wires that are counted: too thin, too long, a connector that is not made for it, a ground that is shared."""

from __future__ import annotations

from collections.abc import Iterator

from ...design import Lead
from ...design.patches import replace
from ...figures import PatchOperation, Remedy
from ...measures.bench import TrialBench
from ...solved.wires import DENSITY, SECTIONS_MM2, SupplyWire, supply_wires
from ...words import say
from ..found import Found

TAKES = 0.03  # of its voltage, from where on a wire's drop is told
GROUND_V = 0.003  # that a shared ground may be lifted by: a step of a 10-bit reading; a rule of thumb


def _counted(bench: TrialBench) -> list[tuple[SupplyWire, Lead]]:
    supply = bench.design.supply
    if all(x.lead is None for x in (*supply.stages, *supply.rails)):
        return []
    return [(wire, wire.lead) for wire in supply_wires(bench) if wire.lead is not None]


def too_thin(bench: TrialBench) -> Iterator[Found]:
    """More current than its copper carries without getting warm."""
    for wire, lead in _counted(bench):
        if wire.peak_a > DENSITY * lead.copper_mm2:
            yield Found(
                code="wire-thin",
                severity="fix",
                step="supply",
                where=wire.where,
                facts={
                    "target": wire.name,
                    "peak": (wire.peak_a, "A"),
                    "section": (lead.copper_mm2, "mm²"),
                    "needed": (wire.peak_a / DENSITY, "mm²"),
                },
                ways=lambda wire=wire, lead=lead: _thicker(wire, lead),  # type: ignore[misc]
            )


def takes_much(bench: TrialBench) -> Iterator[Found]:
    """A wire that takes a good deal of its voltage at the peak."""
    for wire, lead in _counted(bench):
        whole = wire.volts + wire.drop_v
        if whole > 0 and wire.drop_v > TAKES * whole:
            yield Found(
                code="wire-drops",
                severity="watch",
                step="supply",
                where=wire.where,
                facts={
                    "target": wire.name,
                    "drop": (wire.drop_v, "V"),
                    "volts": (whole, "V"),
                    "peak": (wire.peak_a, "A"),
                    "share": (wire.drop_v / whole, "share"),
                },
                ways=lambda wire=wire, lead=lead: _thicker(wire, lead),  # type: ignore[misc]
            )


def _thicker(wire: SupplyWire, lead: Lead) -> Iterator[Remedy]:
    """A usual wire that does; where none is thick enough, the thickest of them."""
    section = wire.section_mm2 or SECTIONS_MM2[-1]
    if section > lead.copper_mm2:
        patch: list[PatchOperation] = [
            replace(f"{wire.where}/lead", lead.model_copy(update={"section_mm2": section, "trace_mm": None}))
        ]
        yield Remedy(label=say("way.a-wire-of", section=(section, "mm²")), patch=patch)


def connector(bench: TrialBench) -> Iterator[Found]:
    """A connector in the wire with more through it than it is made for."""
    for wire, lead in _counted(bench):
        if lead.rated_a is not None and wire.peak_a > lead.rated_a:
            yield Found(
                code="wire-connector",
                severity="fix",
                step="supply",
                where=wire.where,
                facts={"target": wire.name, "rated": (lead.rated_a, "A"), "peak": (wire.peak_a, "A")},
            )


def shared_ground(bench: TrialBench) -> Iterator[Found]:
    """Parts that share a ground wire, which one of them lifts while another one's voltage is read against it."""
    design = bench.design
    for r, rail in enumerate(design.supply.rails):
        if rail.lead is None or rail.lead.ground_apart:
            continue
        on = [i for i, p in enumerate(design.parts) if p.rail == rail.id]
        ohm = rail.lead.one_way_ohm + rail.lead.contact_ohm / 2
        for quiet in on:
            part = design.parts[quiet]
            if part.divider is None and not any(n.work == "analogue" for n in part.needs):
                continue
            loud = max((i for i in on if i != quiet), key=lambda i: _loudest_a(bench, i), default=None)
            peak = _loudest_a(bench, loud) if loud is not None else 0.0
            if loud is not None and ohm * peak > GROUND_V:
                apart = [replace(f"/supply/rails/{r}/lead/ground_apart", True)]
                yield Found(
                    code="ground-shared",
                    severity="watch",
                    step="supply",
                    where=f"/parts/{quiet}",
                    facts={
                        "loud": design.parts[loud].name,
                        "quiet": part.name,
                        "rail": rail.name,
                        "peak": (peak, "A"),
                        "raised": (ohm * peak, "V"),
                    },
                    ways=lambda apart=apart: [Remedy(label=say("way.ground-wires-apart"), patch=apart)],  # type: ignore[misc]
                )


def _loudest_a(bench: TrialBench, part: int) -> float:
    """With its short peak."""
    item = bench.design.parts[part]
    return bench.most_a(part) + (item.peak.current_a * item.quantity if item.peak else 0.0)


WIRES = (too_thin, connector, takes_much, shared_ground)
