"""From breadboard to board: the small things that the design needs and no line of its bill of materials has."""

from __future__ import annotations

from collections.abc import Iterator
from hashlib import sha256
from typing import Annotated

from pydantic import Field

from ..design import BUS_LINES, CurrentDraw, CurrentRange, Design, LinearStage, Part, State, SwitchingStage
from ..design.patches import add, replace
from ..figures import PatchOperation, Remedy, record
from ..measures.bench import TrialBench
from ..quantities import show
from ..wiring import WiringSheet
from ..words import say

RATED = 1.5  # times the highest voltage, what a capacitor is rated for
RATINGS_V = (6.3, 10, 16, 25, 35, 50, 100)
RESISTOR, CERAMIC, ELECTROLYTIC, DIODE = 0.02, 0.05, 0.25, 0.10  # what one costs, about, in small numbers
LOWERED = 0.95  # of its rail: a signal below that goes through a divider
SMALL = "small-"  # what the ids of those begin with that were put on the bill
MOST_OF_ONE = 1000  # of a part in a document
BULK_F = 22e-6  # above that it is an electrolytic one


@record
class SmallPart:
    """So many of one thing, and what for; `missing` of them are not on the bill, and cost about so much."""

    key: str
    name: str
    count: int
    why: str
    missing: int
    cost: float


@record
class SmallParts:
    parts: list[SmallPart]
    way: Annotated[Remedy | None, Field(description="puts on the bill what is not; null: everything is")]


def small_parts(bench: TrialBench, wiring: WiringSheet) -> SmallParts:
    """The small parts that rails and wiring ask for, how many of them there are, and which are missing.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> from ember_core.wiring import wiring_sheet
    >>> [(part.name, part.count) for part in small_parts(bench, wiring_sheet(bench)).parts][2]
    ('Capacitor 4.7\xa0µF, 10\xa0V, 0805', 2)
    """
    design = bench.design
    found = [
        SmallPart(
            key=key,
            name=name,
            count=count,
            why=why,
            missing=missing,
            cost=missing * each,
        )
        for key, name, count, each, why in (*_capacitors(bench), *_resistors(bench, wiring), *_diodes(design))
        if count
        for missing in (max(min(count, MOST_OF_ONE) - _on_bill(design, key), 0),)
    ]
    missing = [p for p in found if p.missing]
    patch = [op for p in missing for op in _put_on(design, p)]
    label = say(
        "assembly.put-on-bill", count=(len(missing), ""), cost=(sum(p.cost for p in missing), design.brief.currency)
    )
    return SmallParts(parts=found, way=Remedy(label=label, patch=patch) if missing else None)


Row = tuple[str, str, int, float, str]


def _on_bill(design: Design, key: str) -> int:
    at = design.index.parts.get(SMALL + key)
    return 0 if at is None else design.parts[at].quantity


def _put_on(design: Design, small: SmallPart) -> Iterator[PatchOperation]:
    at, count = design.index.parts.get(SMALL + small.key), min(small.count, MOST_OF_ONE)
    if at is not None:
        yield replace(f"/parts/{at}/quantity", count)
        return
    nothing = CurrentDraw(current_a=CurrentRange(typical=0, min=0, max=0))
    yield add(
        "/parts/-",
        Part(id=SMALL + small.key, name=small.name[:120], rail=design.supply.rails[0].id, quantity=count,
             states=[State(name="there", draw=nothing, provenance="datasheet")], cost=round(small.cost / small.missing, 4)),
    )  # fmt: skip


def shortened(key: str, most: int) -> str:
    """A key of at most so many signs; longer ones end in a digest, so that two stay two.

    >>> shortened("short", 40), len(shortened("long" * 20, 40))
    ('short', 40)
    """
    return key if len(key) <= most else f"{key[: most - 9]}-{sha256(key.encode()).hexdigest()[:8]}"


def _rated(volts: float) -> str:
    return show(next((r for r in RATINGS_V if r >= RATED * volts), RATINGS_V[-1]), "V")


def _capacitors(bench: TrialBench) -> Iterator[Row]:
    design, tops = bench.design, bench.highest_rail_v
    chips = sum(p.quantity for p in design.parts if p.pins or any(n.work in BUS_LINES for n in p.needs))
    stages, top = design.supply.stages, max(bench.highest_input_v, default=float(max(tops)))
    by_kind = [2 * sum(isinstance(s, kind) for s in stages) for kind in (SwitchingStage, LinearStage)]
    yield _ceramic("cap-100n", 1e-7, float(max(tops)), "0603", chips, "chips")
    yield _ceramic("cap-10u", 1e-5, top, "0805", by_kind[0], "switching")
    yield _ceramic("cap-1u", 1e-6, top, "0603", by_kind[1], "linear")
    if design.charger is not None:
        yield _ceramic("cap-4u7", 4.7e-6, design.charger.port_v, "0805", 2, "charger")
    for rail, volts in zip(design.supply.rails, tops, strict=True):
        if rail.capacitor is not None:
            bulk = rail.capacitor.farad > BULK_F
            name = _capacitor(rail.capacitor.farad, float(volts), say("assembly.round") if bulk else "1206")
            why = say("assembly.why-bulk", rail=rail.name)
            yield shortened(f"bulk-{rail.id}", 50), name, 1, ELECTROLYTIC if bulk else CERAMIC, why


def _capacitor(farad: float, volts: float, size: str) -> str:
    return say("assembly.cap", farad=(farad, "F"), rated=_rated(volts), size=size)


def _ceramic(key: str, farad: float, volts: float, size: str, count: int, why: str) -> Row:
    return key, _capacitor(farad, volts, size), count, CERAMIC, say(f"assembly.why-{why}")


def _resistors(bench: TrialBench, wiring: WiringSheet) -> Iterator[Row]:
    design = bench.design
    buses = {w.signal.split("/")[0] for host in wiring.hosts for w in host.wires if w.pulled and w.work == "i2c"}
    yield "res-4k7", say("assembly.res", ohm=(4700.0, "Ω")), 2 * len(buses), RESISTOR, say("assembly.why-bus")
    pulls = sum(w.pulled for host in wiring.hosts for w in host.wires if w.work != "i2c")
    yield "res-10k", say("assembly.res", ohm=(10_000.0, "Ω")), pulls, RESISTOR, say("assembly.why-pull")
    rails = bench.usual.rail_of
    for p, part in enumerate(design.parts):
        high = float(bench.highest_rail_v[rails[p]])
        lowered = [
            n
            for n in part.needs
            if n.level_v is not None and n.level_v < LOWERED * high and n.work in ("in", "analogue")
        ]
        if lowered:
            name = say("assembly.pair", part=part.name, volts=(lowered[0].level_v, "V"))
            count = 2 * part.quantity * sum(n.count for n in lowered)
            yield shortened(f"level-{part.id}", 50), name, count, RESISTOR, say("assembly.why-level")
    port = design.charger.port if design.charger is not None else None
    if port is not None and port.kind == "type-c" and not any("on a small board" in p.name for p in design.parts):
        yield "res-5k1", say("assembly.res", ohm=(5100.0, "Ω")), 2, RESISTOR, say("assembly.why-type-c")


def _diodes(design: Design) -> Iterator[Row]:
    kicks = sum(p.quantity for p in design.parts if p.kind == "motor" and p.flyback is not True)
    yield "diode", say("assembly.diode"), kicks, DIODE, say("assembly.why-kick")
