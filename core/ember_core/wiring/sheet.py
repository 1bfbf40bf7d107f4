"""The wiring sheet: which pin goes to which signal, what finds no pin and the ways out of it, levels that do not meet, and the wires of the supply."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from ..design import Design, Lead, Part
from ..design.patches import add
from ..design.references import BATTERY
from ..figures import Remedy, Status, record
from ..findings.supply.wires import WIRES
from ..imports.csv_cells import disarmed
from ..measures.bench import TrialBench
from ..solved.wires import SECTIONS_MM2, WIRE_M, supply_wires
from ..words import say
from .assign import Assignment, assign
from .roles import MOST_SIGNALS, Device, Line, Role, Wants, hosts, line_key, wants_of
from .ways import controllers, divided, ways_out

OVER_V = 0.3  # above its supply a pin is not made for more, unless it says otherwise
A_ONE = 0.7  # of a part's supply: below that it need not see a one
READ = ("in", "analogue", "wire", "uart", "spi", "i2c", "i2s")  # what drives the controller's pin
LEFT = ("in", "out", "analogue", "pulse", "touch", "wake")
SURELY = ("radio", "display", "storage")
PULLS = "pull"  # parts that are the pull resistors of a bus
DRIVEN = ("out", "pulse", "wire", "uart", "spi", "i2s")


@record
class WireEnd:
    """One signal of a part at a pin."""

    signal: Annotated[str, Field(description="by which a choice of its pin is kept")]
    pin: Annotated[str | None, Field(description="null: none is left for it")]
    part: int
    part_name: str
    name: str
    work: str
    wakes: bool
    picked: bool
    pulled: Annotated[bool, Field(description="needs a pull resistor that its pin does not have")]
    note: str


@record
class WiringOfHost:
    """Everything at one part's pins. `lines` of shared buses come first."""

    part: int
    name: str
    wires: list[WireEnd]
    choices: Annotated[dict[str, list[str]], Field(description="pins that would do, by signal")]
    left: Annotated[dict[str, int], Field(description="free pins by what they can")]
    free: Annotated[list[str], Field(description="the free pins")]


@record
class WiringFinding:
    severity: Status
    text: str
    ways: list[Remedy]


@record
class LeadRow:
    """A wire of the supply, there; its ground goes back the same way. `drop_v` is what both take at the peak: as it is typed, or with `metres` each and the
    thinnest section that does. `where` is the stage or the rail that it leads to."""

    where: str
    source: str
    target: str
    wire: Lead | None
    volts: float
    peak_a: float
    section_mm2: Annotated[float | None, Field(description="null: thicker than the sheet knows")]
    drop_v: float


@record
class WiringSheet:
    hosts: list[WiringOfHost]
    leads: list[LeadRow]
    count: Annotated[Remedy | None, Field(description="counts the wires that are not yet")]
    findings: list[WiringFinding]
    status: Status
    unsaid: Annotated[list[str], Field(description="parts of which nothing is said that surely need pins")]
    note: Annotated[str, Field(description="why there is nothing to wire; empty where there is")]
    metres: float


@dataclass(frozen=True)
class _Host:
    part: int
    wants: Wants
    found: Assignment


def wiring_sheet(bench: TrialBench) -> WiringSheet:
    """The wiring of a design; pins that its maker picked stay where they can.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> sheet = wiring_sheet(bench)
    >>> len(sheet.leads) >= len(design.supply.stages)
    True
    """
    design = bench.design
    at = [_host(design, i) for i in hosts(design)]
    known = _known(bench)
    silent = [p.name for p in design.parts if not p.needs and not p.pins and p.kind in SURELY]
    unsaid = [name for name in silent if name not in known]
    findings = [f for host in at for f in (*_missing(bench, host), *_refused(design, host, at), *_levels(bench, host))]
    note = ""
    if not any(h.wants.roles or h.wants.devices or h.wants.beyond for h in at):
        note = say("wiring.no-pins") if any(p.needs for p in design.parts) else say("wiring.nothing")
    findings += _taken_over(bench, known)
    leads = _leads(bench)
    findings += _wires(bench)
    worst = "unknown" if note or unsaid else "pass"
    for status in ("watch", "fail"):
        if any(f.severity == status for f in findings):
            worst = status
    return WiringSheet(
        hosts=[_told(design, host) for host in at],
        leads=leads,
        count=_counted(leads),
        findings=findings,
        status=worst,  # type: ignore[arg-type]
        unsaid=unsaid,
        note=note,
        metres=WIRE_M,
    )


def _host(design: Design, part: int) -> _Host:
    wants = wants_of(design, part)
    return _Host(part, wants, assign(design.parts[part].pins, wants, _picked(design)))


def _picked(design: Design) -> dict[str, str]:
    return {p.signal: p.pin for p in design.wiring.picked} if design.wiring else {}


def _told(design: Design, host: _Host) -> WiringOfHost:
    pins, found, picked = design.parts[host.part].pins, host.found, _picked(design)
    wires = [_bus_wire(design, host, line, picked) for line in found.lines]
    wires += [w for d in host.wants.devices for w in _device_wires(design, d, found)]
    wires += [
        WireEnd(
            signal=r.key, pin=found.pin_of.get(r.key), part=r.part, part_name=design.parts[r.part].name, name=r.name, work=r.work,
            wakes=r.wakes, picked=r.key in picked and r.key not in found.refused,
            pulled=_pulled(design, host, r), note=say("wiring.pull") if _pulled(design, host, r) else "",
        )
        for r in host.wants.roles
    ]  # fmt: skip
    taken = {*found.pin_of.values(), *found.lines.values()}
    free = [p for p in pins if p.name not in taken]
    choices = {r.key: [p.name for p in pins if r.can(p)] for r in host.wants.roles}
    choices |= {line_key(line): [p.name for p in pins if line in p.buses] for line in found.lines}
    left = {w: sum(w in p.can for p in free) for w in LEFT if any(w in p.can for p in pins)}
    return WiringOfHost(
        part=host.part, name=design.parts[host.part].name, wires=wires, choices=choices, left=left, free=[p.name for p in free]
    )  # fmt: skip


def _bus_wire(design: Design, host: _Host, line: Line, picked: dict[str, str]) -> WireEnd:
    """A line of a bus, with all that hang on it."""
    kind, number, name = line
    on_it = [d for d in host.wants.devices if d.need.work == kind and host.found.bus_of.get(d.key, (-1,))[0] == number]
    key = line_key(line)
    rails = {design.parts[d.part].rail for d in on_it}
    pulled = kind == "i2c" and not any(PULLS in p.id and p.rail in rails for p in design.parts)
    return WireEnd(
        signal=key, pin=host.found.lines[line], part=on_it[0].part if on_it else host.part,
        part_name=", ".join(dict.fromkeys(design.parts[d.part].name for d in on_it)),
        name=say("wiring.line", bus=_bus(kind, number), line=name), work=kind, wakes=False,
        picked=key in picked and key not in host.found.refused, pulled=pulled, note=say("wiring.bus-pull") if pulled else "",
    )  # fmt: skip


def _bus(kind: str, number: int) -> str:
    return say("wiring.on-bus", kind=say(f"wiring.bus-{kind}"), number=(number, ""))


def _device_wires(design: Design, device: Device, found: Assignment) -> list[WireEnd]:
    """A part's place on its bus: which one, and where it answers; nothing where the bus's own lines tell all."""
    at = found.bus_of.get(device.key)
    if at is not None and at[1] is None:
        return []
    note, pin = "", None
    if at is not None:
        strapped = len(device.need.addresses) > 1 and at[1] != device.need.addresses[0]
        note = say("wiring.strap" if strapped else "wiring.address", address=f"0x{at[1]:02X}")
        pin = _bus(device.need.work, at[0])
    return [
        WireEnd(
            signal=device.key, pin=pin, part=device.part, part_name=design.parts[device.part].name, name=device.name, work=device.need.work,
            wakes=False, picked=False, pulled=False, note=note,
        )
    ]  # fmt: skip


def _pulled(design: Design, host: _Host, role: Role) -> bool:
    """Whether a signal needs a pull resistor that its pin does not have."""
    name = host.found.pin_of.get(role.key)
    return role.pulled and not any(p.name == name and p.pull for p in design.parts[host.part].pins)


def _missing(bench: TrialBench, host: _Host) -> list[WiringFinding]:
    """What finds no pin, by what it asks for, with the ways out of it."""
    if host.wants.beyond:
        return [
            WiringFinding(
                severity="fail",
                text=say("wiring.beyond", beyond=(host.wants.beyond, ""), most=(MOST_SIGNALS, "")),
                ways=[],
            )
        ]
    if not host.found.missing:
        return []
    design, pins = bench.design, bench.design.parts[host.part].pins
    missing = set(host.found.missing)
    devices = [d for d in host.wants.devices if d.key in missing]
    dropped = {f"{d.key}/select" for d in devices}  # a part without its bus needs no select
    roles = [r for r in host.wants.roles if r.key in missing and r.key not in dropped]
    ways = ways_out(bench, host.part, len(missing))
    found = []
    for work, wakes in dict.fromkeys((r.work, r.wakes) for r in roles):
        alike = [r for r in host.wants.roles if (r.work, r.wakes) == (work, wakes)]
        able = [p for p in pins if alike[0].can(p)]
        text = say(
            "wiring.short", names=", ".join(f"{design.parts[r.part].name}: {r.name}" for r in roles if (r.work, r.wakes) == (work, wakes)),
            what=say("wiring.work-wake" if wakes else f"wiring.work-{work}"), wanted=(len(alike), ""), able=(len(able), ""),
        )  # fmt: skip
        found.append(WiringFinding(severity="fail", text=text, ways=ways))
        ways = []
    for device in devices:
        found.append(WiringFinding(severity="fail", text=_why_no_bus(design, host, device), ways=ways))
        ways = []
    others = controllers(bench) if host.part == hosts(design)[0] else []
    if others:
        found.append(WiringFinding(severity="watch", text=say("wiring.others", names=", ".join(others)), ways=[]))
    return found


def _why_no_bus(design: Design, host: _Host, device: Device) -> str:
    name, kind = design.parts[device.part].name, say(f"wiring.bus-{device.need.work}")
    others = [d for d in host.wants.devices if d.need.work == device.need.work and d.key != device.key]
    clash = [d for d in others if set(d.need.addresses) & set(device.need.addresses)]
    if clash:
        address = min(set(clash[0].need.addresses) & set(device.need.addresses))
        return say("wiring.clash", part=name, other=design.parts[clash[0].part].name, address=f"0x{address:02X}")
    if others:
        return say("wiring.bus-taken", part=name, kind=kind, other=design.parts[others[0].part].name)
    return say("wiring.no-bus", part=name, kind=kind, host=design.parts[host.part].name)


def _refused(design: Design, host: _Host, every: list[_Host]) -> list[WiringFinding]:
    """Choices that can't be; what no host knows is told once."""
    picked = _picked(design)
    return [
        WiringFinding(severity="watch", text=say(f"wiring.refused-{why}", signal=key, pin=picked[key]), ways=[])
        for key, why in host.found.refused.items()
        if why != "gone" or (host is every[0] and all(h.found.refused.get(key) == "gone" for h in every))
    ]


def _known(bench: TrialBench) -> dict[str, Part]:
    """The parts of the catalogue that say something of pins, by their names."""
    parts = (e.part for e in bench.catalogue.entries)
    return {p.name: p for p in parts if p is not None and (p.pins or p.needs)}


def _taken_over(bench: TrialBench, known: dict[str, Part]) -> list[WiringFinding]:
    """What the catalogue knows of the pins of parts that say nothing of them, by their names."""
    found = [
        (i, known[p.name]) for i, p in enumerate(bench.design.parts) if p.name in known and not p.pins and not p.needs
    ]
    if not found:
        return []
    patch = [add(f"/parts/{i}/pins", part.model_dump(mode="json")["pins"]) for i, part in found if part.pins]
    patch += [add(f"/parts/{i}/needs", part.model_dump(mode="json")["needs"]) for i, part in found if part.needs]
    names = ", ".join(part.name for _, part in found)
    way = Remedy(label=say("wiring.way-catalogue", count=(len(found), "")), patch=patch)
    return [WiringFinding(severity="watch", text=say("wiring.known", names=names), ways=[way])]


def _levels(bench: TrialBench, host: _Host) -> list[WiringFinding]:
    """Parts whose ones are above what a pin stands, or that need not see the controller's."""
    design = bench.design
    rails, at = bench.usual.rail_of, design.parts[host.part]
    own_v = float(bench.highest_rail_v[rails[host.part]])
    by_name, found = {p.name: p for p in at.pins}, list[WiringFinding]()
    seen = set[tuple[int, str]]()
    ends = [(r.key, r.part, r.need) for r in host.wants.roles] + [(d.key, d.part, d.need) for d in host.wants.devices]
    for key, p, need in ends:
        part = design.parts[p]
        if need is None or part.divider is not None:  # the divider's own finding judges its pin
            continue
        high = need.level_v or float(bench.highest_rail_v[rails[p]])
        names = _pins_of(host, key)
        stands = min((by_name[n].most_v or own_v + OVER_V for n in names if n in by_name), default=own_v + OVER_V)
        if need.work in READ and high > stands * (1 + 1e-9) and (p, "high") not in seen:
            seen.add((p, "high"))
            text = say(
                "wiring.too-high",
                part=part.name,
                volts=(high, "V"),
                pin=names[0] if names else "?",
                stands=(stands, "V"),
            )
            found.append(WiringFinding(severity="fail", text=text, ways=divided(design, p, need, high, own_v)))
        elif need.work in DRIVEN and own_v < A_ONE * high * (1 - 1e-9) and (p, "low") not in seen:
            seen.add((p, "low"))
            text = say("wiring.too-low", part=part.name, wants=(A_ONE * high, "V"), gives=(own_v, "V"))
            found.append(WiringFinding(severity="watch", text=text, ways=[]))
    return found


def _pins_of(host: _Host, key: str) -> list[str]:
    """The pins of a signal, or of the bus of a device."""
    at = host.found.bus_of.get(key)
    if at is None:
        return [host.found.pin_of[key]] if key in host.found.pin_of else []
    kind = next(d.need.work for d in host.wants.devices if d.key == key)
    return [pin for line, pin in host.found.lines.items() if line[:2] == (kind, at[0])]


def _leads(bench: TrialBench) -> list[LeadRow]:
    """The wires from the battery through the stages to each rail, each with the thinnest section that does at the peak."""
    supply = bench.design.supply
    names = {BATTERY: say("wiring.battery")} | {s.id: s.name for s in (*supply.stages, *supply.sources)}
    return [
        LeadRow(
            where=x.where,
            source=names.get(x.feed, x.feed),
            target=x.name,
            wire=x.lead,
            volts=x.volts,
            peak_a=x.peak_a,
            section_mm2=x.section_mm2,
            drop_v=x.drop_v,
        )
        for x in supply_wires(bench)
    ]


def _counted(leads: list[LeadRow]) -> Remedy | None:
    """All wires that are not counted yet, of the usual length and as thick as is told."""
    patch = [
        add(
            f"{x.where}/lead",
            Lead(length_mm=WIRE_M * 1000, section_mm2=x.section_mm2 or SECTIONS_MM2[-1]).model_dump(mode="json"),
        )
        for x in leads
        if x.wire is None
    ]
    return Remedy(label=say("wiring.count-wires", length=(WIRE_M, "m")), patch=patch) if patch else None


def _wires(bench: TrialBench) -> list[WiringFinding]:
    """What the supply's findings tell of the wires that are counted."""
    return [
        WiringFinding(severity="fail" if f.severity == "fix" else "watch", text=f.sentence, ways=[])
        for check in WIRES
        for f in check(bench)
    ]


def wiring_csv(sheet: WiringSheet) -> str:
    """The sheet as CSV: first the pins, then the wires of the supply.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> wiring_csv(wiring_sheet(bench)).count(",") > 10
    True
    """
    target = io.StringIO()
    table = csv.writer(target, lineterminator="\n")
    table.writerow(["from", "pin", "to", "signal", "kind", "note"])
    for host in sheet.hosts:
        for w in host.wires:
            table.writerow([disarmed(x) for x in (host.name, w.pin or "", w.part_name, w.name, w.work, w.note)])
    for lead in sheet.leads:
        wire = lead.wire
        note = f"{lead.peak_a:.3g} A, {(wire.copper_mm2 if wire else lead.section_mm2) or ''} mm2" + (
            f", {wire.length_mm:g} mm" if wire else ""
        )
        table.writerow([disarmed(lead.source), "", disarmed(lead.target), "", "supply", note])
    return target.getvalue()
