"""The assembly sheet: how the gadget is put together, in the order in which nothing is in the way of what follows, and what can hurt comes with its caution."""

from __future__ import annotations

from collections import Counter
from typing import Annotated, Literal

from pydantic import Field

from ..design import Body
from ..figures import record
from ..measures.bench import TrialBench
from ..quantities import show
from ..wiring import WiringSheet, wiring_sheet
from ..words import Fact, say
from .small_parts import SMALL, SmallParts, shortened, small_parts

AssemblyGroup = Literal["ready", "case", "board", "delicate", "wires", "inside", "cell", "close"]
DELICATE = (
    "display",
)  # what the iron and its heat spoil; microphones and climate sensors by their needs of air and sound
BARE_MM = 1.0  # nearer than that two bodies of different potential need a film between them


@record
class AssemblyStep:
    """One step, ticked off. `needs` is what lies on the table for it."""

    key: str
    group: AssemblyGroup
    title: str
    how: str
    needs: Annotated[list[str], Field(description="tools and things")]
    caution: str


@record
class Assembly:
    steps: list[AssemblyStep]
    small: SmallParts


def assembly(bench: TrialBench, wiring: WiringSheet | None = None) -> Assembly:
    """The sheet of a design; `wiring` if it is there already.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> sheet = assembly(bench)
    >>> sheet.steps[0].key
    'build-bill'
    """
    wiring = wiring or wiring_sheet(bench)
    small = small_parts(bench, wiring)
    steps = [
        *_ready(bench, small),
        *_case(bench),
        *_board(bench, small),
        *_wires(bench, wiring),
        *_inside(bench),
        *_cell(bench),
        *_close(bench),
    ]
    return Assembly(steps=steps, small=small)


def _step(key: str, group: AssemblyGroup, needs: list[str], caution: str = "", **facts: Fact) -> AssemblyStep:
    """A step whose words are those of its key."""
    word = key.split(":", maxsplit=1)[0]
    return AssemblyStep(
        key=shortened(f"build-{key}", 80), group=group, title=say(f"assembly.{word}", **facts), how=say(f"assembly.{word}-how", **facts), needs=needs, caution=caution,
    )  # fmt: skip


def _tools(*keys: str) -> list[str]:
    return [say(f"assembly.tool-{key}") for key in keys]


def _ready(bench: TrialBench, small: SmallParts) -> list[AssemblyStep]:
    missing = ", ".join(f"{p.count} × {p.name}" for p in small.parts if p.missing)
    return [
        _step("bill", "ready", [], count=(len(bench.design.parts), ""), missing=missing or say("assembly.nothing")),
        _step("breadboard", "ready", _tools("supply", "meter")),
    ]


def _case(bench: TrialBench) -> list[AssemblyStep]:
    case = bench.design.enclosure
    steps = []
    if case.process in ("filament", "resin"):
        caution = say("assembly.caution-resin" if case.process == "resin" else "assembly.caution-printer")
        steps.append(_step("print", "case", _tools("printer"), caution, plastic=case.plastic))
    elif case.process == "milled":
        steps.append(_step("mill", "case", _tools("mill"), say("assembly.caution-mill")))
    inserts = Counter(str(f.thread) for f in case.fastenings if f.kind == "insert")
    if inserts:
        told = ", ".join(f"{n} × {thread}" for thread, n in sorted(inserts.items()))
        steps.append(_step("inserts", "case", [told, *_tools("iron")], say("assembly.caution-iron"), inserts=told))
    steps.append(_step("dry", "case", []))
    return steps


def _height(body: Body | None) -> float:
    return min(body.size_mm) if body is not None else 0.0


def _board(bench: TrialBench, small: SmallParts) -> list[AssemblyStep]:
    """Lowest first; what must not get hot comes after everything that is soldered near it."""
    design, steps = bench.design, list[AssemblyStep]()
    iron, caution = _tools("iron", "solder", "tweezers"), say("assembly.caution-solder")
    if small.parts:
        names = [f"{p.count} × {p.name}" for p in small.parts]
        steps.append(_step("small", "board", [*names, *iron], caution))
    inside = [
        p
        for p in design.parts
        if not p.outside
        and not p.plugged_by_user
        and not p.id.startswith(SMALL)
        and not p.parasitic
        and p.states[0].name != "there"
    ]
    plain = [(p.id, p.name, _height(p.body)) for p in inside if p.kind not in DELICATE and p.kind != "sensor"]
    plain += [(s.id, s.name, _height(s.body)) for s in design.supply.stages]
    if design.charger is not None:
        plain.append(("charger", design.charger.name, _height(design.charger.body)))
    for key, name, height in sorted(plain, key=lambda x: (x[2], x[1])):
        how_high = show(height, "mm") if height else say("assembly.unknown-height")
        steps.append(_step(f"part:{key}", "board", iron, name=name, height=how_high))
    delicate = [p for p in inside if p.kind in DELICATE or p.kind == "sensor"]
    for part in sorted(delicate, key=lambda p: (p.kind in DELICATE, _height(p.body), p.name)):
        word = "display" if part.kind in DELICATE else "sensor"
        steps.append(_step(f"{word}:{part.id}", "delicate", iron, name=part.name))
    return steps


def _wires(bench: TrialBench, wiring: WiringSheet) -> list[AssemblyStep]:
    leads = [lead for lead in wiring.leads if lead.peak_a > 0]
    told = ", ".join(
        f"{lead.source} → {lead.target} {show(lead.section_mm2, 'mm²') if lead.section_mm2 else '?'}" for lead in leads
    )
    count = sum(w.pin is not None for host in wiring.hosts for w in host.wires)
    steps = [_step("leads", "wires", _tools("wire", "iron", "sleeve"), leads=told)]
    if count:
        steps.append(_step("signals", "wires", _tools("wire", "iron"), count=(count, "")))
    return steps


def _inside(bench: TrialBench) -> list[AssemblyStep]:
    """Films where two things come nearer than a millimetre, screws by thread."""
    design, fit = bench.design, bench.fit
    films = {frozenset((f.first, f.second)) for f in design.enclosure.films}
    steps = []
    for contact in fit.contacts:
        if contact.side is not None or contact.second < 0 or not 0 <= contact.gap_mm < BARE_MM:
            continue
        one, other = fit.placed[contact.first], fit.placed[contact.second]
        if one.of_the_case or other.of_the_case or one.board == other.board != "" or one.pointer == other.pointer:
            continue
        word = "film" if frozenset((one.key, other.key)) in films else "insulate"
        steps.append(_step(f"{word}:{one.key}-{other.key}", "inside", _tools("film"), first=one.name, second=other.name, gap=(contact.gap_mm, "mm")))  # fmt: skip
    return steps


def _cell(bench: TrialBench) -> list[AssemblyStep]:
    battery = bench.design.battery
    lithium = battery.cell.chemistry.startswith("lithium")
    steps = [_step("power-test", "cell", _tools("supply", "meter"))]
    caution = say("assembly.caution-lithium" if lithium else "assembly.caution-cells")
    steps.append(
        _step(
            "cell",
            "cell",
            _tools("meter", "film"),
            caution,
            cell=battery.cell.name,
            count=(battery.series * battery.parallel, ""),
        )
    )
    return steps


def _close(bench: TrialBench) -> list[AssemblyStep]:
    case = bench.design.enclosure
    screws = Counter(
        str(f.thread) for f in case.fastenings if f.kind in ("screw", "insert", "nut") and f.carries is None
    )
    told = ", ".join(f"{n} × {thread}" for thread, n in sorted(screws.items()))
    needs = [told] if told else []
    if case.seal is not None:
        needs.append(say("assembly.cord", cord=(case.seal.cord_mm, "mm")))
    return [_step("close", "close", needs, screws=told or say("assembly.no-screws"))]
