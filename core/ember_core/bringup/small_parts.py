"""From breadboard to board: the small things that the design needs and no line of its bill of materials has."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated

from pydantic import Field

from ..design import CurrentDraw, CurrentRange, Design, LinearStage, Part, State, SwitchingStage
from ..design.patches import add, replace
from ..figures import PatchOperation, Remedy, record
from ..measures.bench import TrialBench
from ..quantities import show
from ..wiring import WiringSheet
from ..words import say

RATED = 1.5  # times the highest voltage, what a capacitor is rated for
RATINGS_V = (6.3, 10, 16, 25, 35, 50, 100)
RESISTOR, CERAMIC, ELECTROLYTIC, DIODE = 0.02, 0.05, 0.25, 0.10  # what one costs, about, in small numbers
BULK_F = 22e-6  # above that it is an electrolytic one


@record
class SmallPart:
    """So many of one thing, and what for. `there`: they are on the bill."""

    key: str
    name: str
    count: int
    cost: Annotated[float, Field(description="of all, about")]
    why: str
    there: bool


@record
class SmallParts:
    parts: list[SmallPart]
    way: Annotated[Remedy | None, Field(description="puts on the bill what is not; null: everything is")]


def small_parts(bench: TrialBench, wiring: WiringSheet) -> SmallParts:
    design = bench.design
    found = [
        SmallPart(key=key, name=name, count=count, cost=count * each, why=why, there=_on_bill(design, key) >= count)
        for key, name, count, each, why in (*_capacitors(bench), *_resistors(bench, wiring), *_diodes(design))
        if count
    ]
    missing = [p for p in found if not p.there]
    patch = [op for p in missing for op in _put_on(design, p)]
    label = say(
        "assembly.put-on-bill", count=(len(missing), ""), cost=(sum(p.cost for p in missing), design.brief.currency)
    )
    return SmallParts(parts=found, way=Remedy(label=label, patch=patch) if missing else None)


Row = tuple[str, str, int, float, str]


def _on_bill(design: Design, key: str) -> int:
    at = design.index.parts.get(f"small-{key}")
    return 0 if at is None else design.parts[at].quantity


def _put_on(design: Design, small: SmallPart) -> Iterator[PatchOperation]:
    at = design.index.parts.get(f"small-{small.key}")
    if at is not None:
        yield replace(f"/parts/{at}/quantity", small.count)
        return
    nothing = CurrentDraw(current_a=CurrentRange(typical=0, min=0, max=0))
    yield add(
        "/parts/-",
        Part(id=f"small-{small.key}", name=small.name, rail=design.supply.rails[0].id, quantity=small.count,
             states=[State(name="there", draw=nothing, provenance="datasheet")], cost=round(small.cost / small.count, 4)),
    )  # fmt: skip


def _rated(volts: float) -> str:
    return show(next((r for r in RATINGS_V if r >= RATED * volts), RATINGS_V[-1]), "V")


def _capacitors(bench: TrialBench) -> Iterator[Row]:
    design, tops = bench.design, bench.highest_rail_v
    chips = sum(
        p.quantity for p in design.parts if p.pins or any(n.work in ("i2c", "spi", "uart", "i2s") for n in p.needs)
    )
    yield (
        "cap-100n",
        say("assembly.cap", farad=(1e-7, "F"), rated=_rated(float(max(tops))), size="0603"),
        chips,
        CERAMIC,
        say("assembly.why-chips"),
    )
    stages = design.supply.stages
    top = max(bench.highest_input_v, default=float(max(tops)))
    switching = 2 * sum(isinstance(s, SwitchingStage) for s in stages)
    linear = 2 * sum(isinstance(s, LinearStage) for s in stages)
    yield (
        "cap-10u",
        say("assembly.cap", farad=(1e-5, "F"), rated=_rated(top), size="0805"),
        switching,
        CERAMIC,
        say("assembly.why-switching"),
    )
    yield (
        "cap-1u",
        say("assembly.cap", farad=(1e-6, "F"), rated=_rated(top), size="0603"),
        linear,
        CERAMIC,
        say("assembly.why-linear"),
    )
    if design.charger is not None:
        name = say("assembly.cap", farad=(4.7e-6, "F"), rated=_rated(design.charger.port_v), size="0805")
        yield "cap-4u7", name, 2, CERAMIC, say("assembly.why-charger")
    for rail, volts in zip(design.supply.rails, tops, strict=True):
        if rail.capacitor is not None:
            bulk = rail.capacitor.farad > BULK_F
            name = say(
                "assembly.cap",
                farad=(rail.capacitor.farad, "F"),
                rated=_rated(float(volts)),
                size=say("assembly.round") if bulk else "1206",
            )
            yield (
                f"bulk-{rail.id}"[:50],
                name,
                1,
                ELECTROLYTIC if bulk else CERAMIC,
                say("assembly.why-bulk", rail=rail.name),
            )


def _resistors(bench: TrialBench, wiring: WiringSheet) -> Iterator[Row]:
    design = bench.design
    buses = {w.signal.split("/")[0] for host in wiring.hosts for w in host.wires if w.pulled and w.work == "i2c"}
    yield "res-4k7", say("assembly.res", ohm=(4700.0, "Ω")), 2 * len(buses), RESISTOR, say("assembly.why-bus")
    pulls = sum(w.pulled for host in wiring.hosts for w in host.wires if w.work != "i2c")
    yield "res-10k", say("assembly.res", ohm=(10_000.0, "Ω")), pulls, RESISTOR, say("assembly.why-pull")
    rails = bench.usual.rail_of
    for p, part in enumerate(design.parts):
        for need in part.needs:
            high = float(bench.highest_rail_v[rails[p]])
            if need.level_v is not None and need.level_v < 0.95 * high and need.work in ("in", "analogue"):
                yield f"level-{part.id}"[:50], say("assembly.pair", part=part.name, volts=(need.level_v, "V")), 2 * part.quantity, RESISTOR, say("assembly.why-level")  # fmt: skip
    port = design.charger.port if design.charger is not None else None
    if port is not None and port.kind == "type-c" and not any("on a small board" in p.name for p in design.parts):
        yield "res-5k1", say("assembly.res", ohm=(5100.0, "Ω")), 2, RESISTOR, say("assembly.why-type-c")


def _diodes(design: Design) -> Iterator[Row]:
    kicks = sum(p.quantity for p in design.parts if p.kind == "motor" and p.flyback is not True)
    yield "diode", say("assembly.diode"), kicks, DIODE, say("assembly.why-kick")
