"""What a gadget's parts want of the pins of its controller: signals of their own, and lines of buses that they share."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from ..design import BUS_LINES, SHARED, Design, Need, Part, Pin

Line = tuple[str, int, str]  # kind, number and line of a bus
MOST_SIGNALS = 300  # more than any controller has pins


@dataclass(frozen=True)
class Role:
    """A signal that wants a pin to itself, of a part's need where it is not only a select. `key` is what a maker's choice is kept by, `current_a` what it draws from
    its pin [A]."""

    key: str
    part: int
    name: str
    work: str
    wakes: bool = False
    pulled: bool = False
    current_a: float = 0.0
    need: Need | None = None

    def can(self, pin: Pin) -> bool:
        """Whether a pin will do."""
        if self.wakes and "wake" not in pin.can:
            return False
        if pin.most_a is not None and self.current_a > pin.most_a:
            return False
        return {"in", "out"} <= set(pin.can) if self.work == "wire" else self.work in pin.can


@dataclass(frozen=True)
class Device:
    """A part on a bus, by the key of its need."""

    key: str
    part: int
    name: str
    need: Need


@dataclass(frozen=True)
class Wants:
    """`beyond`: so many more signals than are looked at."""

    roles: list[Role]
    devices: list[Device]
    beyond: int = 0


def hosts(design: Design) -> list[int]:
    """The parts with pins that others are wired to: the controller first, then what parts name.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> hosts(design)
    [0]
    """
    chosen = design.wiring.controller if design.wiring else None
    with_pins = [i for i, p in enumerate(design.parts) if p.pins]
    named = {n.at for p in design.parts for n in p.needs if n.at}
    first = [i for i in with_pins if design.parts[i].id == chosen] or [
        i for i in with_pins if design.parts[i].id not in named
    ]
    found = first[:1]
    return found + [i for i in with_pins if design.parts[i].id in named and i not in found]


def wants_of(design: Design, host: int) -> Wants:
    """What is to be wired to one part's pins. A part of several copies wants its signals for each of them.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> wants = wants_of(design, 0)
    >>> [role.key for role in wants.roles[:2]], [device.key for device in wants.devices]
    (['display/SPI/select', 'display/data or command'], ['display/SPI'])
    """
    roles, devices, beyond = list[Role](), list[Device](), 0
    first = next(iter(hosts(design)), host)
    for p, part in enumerate(design.parts):
        for need in part.needs:
            if p == host or (design.index.parts.get(need.at, first) if need.at else first) != host:
                continue
            if len(roles) + len(devices) + part.quantity * need.count > MOST_SIGNALS:
                beyond += part.quantity * need.count
                continue
            for key, name in _copies(part, need):
                if need.work in BUS_LINES:
                    devices.append(Device(key, p, name, need))
                    if need.work == "spi":
                        roles.append(Role(f"{key}/select", p, f"{name} select", "out"))
                else:
                    roles.append(Role(key, p, name, need.work, need.wakes, need.pulled, need.current_a or 0.0, need))
    return Wants(roles, devices, beyond)


def _copies(part: Part, need: Need) -> Iterable[tuple[str, str]]:
    """(key, name) of each of a need's signals."""
    many, alike = part.quantity > 1, need.count > 1
    for copy in range(part.quantity):
        for k in range(need.count):
            number = "/".join(str(x + 1) for x, shown in ((copy, many), (k, alike)) if shown)
            yield (
                f"{part.id}/{need.name}" + (f"/{number}" if number else ""),
                need.name + (f" {number}" if number else ""),
            )


def lines_of(pins: Iterable[Pin]) -> dict[str, list[int]]:
    """The numbers of the buses of each kind of which every line has a pin.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> sorted(lines_of(design.parts[hosts(design)[0]].pins))
    ['i2c', 'i2s', 'spi', 'uart', 'usb']
    """
    there: set[Line] = set().union(*(p.buses for p in pins))
    found = {}
    for kind, lines in BUS_LINES.items():
        numbers = sorted({n for k, n, _ in there if k == kind})
        found[kind] = [n for n in numbers if all((kind, n, x) in there for x in lines)]
    return found


def line_key(line: Line) -> str:
    """What a choice of a bus line's pin is kept by: "i2c0/sda".

    >>> line_key(("i2c", 0, "sda"))
    'i2c0/sda'
    """
    return f"{line[0]}{line[1]}/{line[2]}"


def shared(need: Need) -> bool:
    """Whether a need may share its lines with others, as on a bus.

    >>> from ember_core.design import Need
    >>> shared(Need(name="Display", work="spi")), shared(Need(name="Button", work="in"))
    (True, False)
    """
    return need.work in SHARED and not need.alone
