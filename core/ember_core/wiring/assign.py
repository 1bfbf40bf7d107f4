"""Which signal gets which pin: an assignment that leaves as little as possible without one, and what is rare for who needs it.

An integer program (HiGHS through scipy.optimize.milp). Pins that can the same are one class of so many, which takes their symmetry away:
x[role, class], y[device, bus, address], u[bus], and a slack for whatever finds no place. Costs: a signal without a pin 1000, a bus more than is needed 3, a
pin that can more than its signal asks by what it could have done (`SPARED`).
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, milp
from scipy.sparse import coo_array

from ..design import BUS_LINES, Pin
from ..design.problems import DocumentError, Problem
from ..words import say
from .roles import Device, Line, Role, Wants, line_key, lines_of, shared

MISSING, ANOTHER_BUS, LATER_BUS, ANOTHER_ADDRESS = 1000.0, 3.0, 0.02, 0.01
START_UP = 4.0
SPARED = {"wake": 1.0, "analogue": 0.5, "touch": 0.2, "pulse": 0.1}
SPARED_BUS = 0.05
MOST_SECONDS = 10.0


@dataclass(frozen=True)
class Assignment:
    """`pin_of` by the key of a role, `lines` of buses by their kind, number and name, `bus_of` (number, address) by the key of a device. `missing` are the keys of those that find
    no place; `refused` those of choices that can't be, with why. `cost` as above."""

    pin_of: dict[str, str]
    lines: dict[Line, str]
    bus_of: dict[str, tuple[int, int | None]]
    missing: list[str]
    refused: dict[str, str]
    cost: float


@dataclass
class _Program:
    """Rows of a sparse integer program."""

    cost: list[float] = field(default_factory=list)
    most: list[float] = field(default_factory=list)
    rows: list[tuple[dict[int, float], float, float]] = field(default_factory=list)

    def variable(self, cost: float, most: float = 1.0) -> int:
        self.cost.append(cost)
        self.most.append(most)
        return len(self.cost) - 1

    def row(self, terms: Mapping[int, float], low: float, high: float) -> None:
        if terms:
            self.rows.append((dict(terms), low, high))

    def solved(self) -> np.ndarray:
        entries = [(i, k, v) for i, (terms, _, _) in enumerate(self.rows) for k, v in terms.items()]
        i, k, v = zip(*entries, strict=True)
        matrix = coo_array((v, (i, k)), shape=(len(self.rows), len(self.cost)))
        low, high = (np.array([r[j] for r in self.rows]) for j in (1, 2))
        found = milp(
            np.array(self.cost),
            integrality=np.ones(len(self.cost)),
            bounds=Bounds(0, np.array(self.most)),
            constraints=LinearConstraint(matrix.tocsr(), low, high),
            options={"time_limit": MOST_SECONDS, "mip_rel_gap": 0.0},
        )
        if found.x is None:
            # with a slack for everything there is a solution: only the time can have run out
            raise DocumentError([Problem("/parts", say("wiring.too-many"))])
        return np.asarray(np.round(found.x))


def assign(pins: list[Pin], wants: Wants, picked: Mapping[str, str] | None = None) -> Assignment:
    """`picked`: pins that the maker chose, by the key of what is on them.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.wiring.roles import wants_of
    >>> found = assign(design.parts[0].pins, wants_of(design, 0))
    >>> found.missing, len(set(found.pin_of.values())) == len(found.pin_of)
    ([], True)
    """
    kept, refused = _possible(pins, wants, picked or {})
    task = _Task(pins, wants, kept)
    task.signals()
    task.lines()
    task.devices()
    if not task.rows:
        return Assignment({}, {}, {}, [], refused, 0.0)
    x = task.solved()
    free = [list(members) for members in task.classes]
    pin_of, line_pins = dict[str, str](), dict[Line, str]()
    for (what, c), v in task.place.items():
        if x[v] and isinstance(what, str):
            pin_of[what] = free[c].pop(0).name
        elif x[v] and not isinstance(what, str):
            line_pins[what] = free[c].pop(0).name
    bus_of = {key: (n, a) for (key, n, a), v in task.on_bus.items() if x[v]}
    missing = [key for key, v in task.slack.items() if x[v]]
    return Assignment(pin_of, line_pins, bus_of, missing, refused, float(np.array(task.cost) @ x))


class _Task(_Program):
    """The program of one host: `place` are its x, `on_bus` its y, by (device, bus, address)."""

    def __init__(self, pins: list[Pin], wants: Wants, kept: Mapping[str, str]) -> None:
        super().__init__()
        self.wants, self.kept, self.classes = wants, kept, _classes(pins, set(kept.values()))
        self.buses = lines_of(pins)
        self.place = dict[tuple[str | Line, int], int]()
        self.slack = dict[str, int]()
        self.used = {
            (kind, n): self.variable(ANOTHER_BUS + LATER_BUS * n)
            for kind, numbers in self.buses.items()
            for n in numbers
        }
        self.on_bus = {
            (d.key, n, a): self.variable(ANOTHER_ADDRESS * k)
            for d in wants.devices
            for n in self.buses[d.need.work]
            for k, a in enumerate(d.need.addresses or [None])
        }

    def _places(self, what: str | Line, able: Callable[[Pin], bool], role: Role | None) -> dict[int, float]:
        """The terms of one signal or line on each class of pins that will do."""
        key = what if isinstance(what, str) else line_key(what)
        for c, members in enumerate(self.classes):
            if able(members[0]) and self.kept.get(key, members[0].name) == members[0].name:
                self.place[what, c] = self.variable(_spared(members[0], role))
        return {v: 1.0 for (one, _), v in self.place.items() if one == what}

    def signals(self) -> None:
        for role in self.wants.roles:
            self.slack[role.key] = self.variable(MISSING)
            self.row(self._places(role.key, role.can, role) | {self.slack[role.key]: 1.0}, 1, 1)

    def lines(self) -> None:
        """Every line of a bus that is used has a pin, and none of one that is not; then each pin has one thing at most."""
        for kind, n in self.used:
            for name in BUS_LINES[kind]:
                line = (kind, n, name)
                terms = self._places(line, lambda pin, line=line: line in pin.buses, None)  # type: ignore[misc]
                self.row(terms | {self.used[kind, n]: -1.0}, 0, 0)
        for c, members in enumerate(self.classes):
            self.row({v: 1.0 for (_, k), v in self.place.items() if k == c}, -np.inf, len(members))

    def devices(self) -> None:
        """Each on one bus, at an address that no other there has, alone where one of two wants that."""
        kind_of = {d.key: d.need.work for d in self.wants.devices}
        for key, kind in kind_of.items():
            self.slack[key] = self.variable(MISSING)
            own = {(n, a): v for (one, n, a), v in self.on_bus.items() if one == key}
            self.row({v: 1.0 for v in own.values()} | {self.slack[key]: 1.0}, 1, 1)
            for (n, _), v in own.items():
                self.row({v: 1.0, self.used[kind, n]: -1.0}, -np.inf, 0)
        for one, other, n in _apart(self.wants.devices, self.buses):
            self.row({v: 1.0 for (key, m, _), v in self.on_bus.items() if m == n and key in (one, other)}, -np.inf, 1)
        at: dict[tuple[str, int, int], dict[int, float]] = {}
        for (key, n, a), v in self.on_bus.items():
            if a is not None:
                at.setdefault((kind_of[key], n, a), {})[v] = 1.0
        for terms in at.values():
            self.row(terms, -np.inf, 1)


def _spared(pin: Pin, role: Role | None) -> float:
    """What is lost with a pin on a signal: what it could have done besides."""
    lost = sum(
        price
        for can, price in SPARED.items()
        if can in pin.can and not (role and (can == role.work or (can == "wake" and role.wakes)))
    )
    return lost + START_UP * pin.start_up + SPARED_BUS * len({(k, n) for k, n, _ in pin.buses})


def _classes(pins: Iterable[Pin], apart: set[str]) -> list[list[Pin]]:
    """Pins that can the same, in their order; those of `apart` each for itself."""
    found: dict[object, list[Pin]] = {}
    for pin in pins:
        alike = (frozenset(pin.can), pin.start_up, pin.most_a, pin.name if pin.name in apart else "")
        found.setdefault(alike, []).append(pin)
    return list(found.values())


def _apart(devices: list[Device], buses: Mapping[str, list[int]]) -> Iterable[tuple[str, str, int]]:
    """Two that can't be on the same bus, and its number."""
    for i, one in enumerate(devices):
        for other in devices[i + 1 :]:
            if one.need.work == other.need.work and not (shared(one.need) and shared(other.need)):
                yield from ((one.key, other.key, n) for n in buses[one.need.work])


def _possible(pins: list[Pin], wants: Wants, picked: Mapping[str, str]) -> tuple[dict[str, str], dict[str, str]]:
    """The choices that can be; and those that can't, with why: "gone" (the signal or the pin), "able" (the pin can't), "taken" (by another choice)."""
    by_name, roles = {p.name: p for p in pins}, {r.key: r for r in wants.roles}
    kept, refused = dict[str, str](), dict[str, str]()
    whole = ((k, n, x) for k, numbers in lines_of(pins).items() for n in numbers for x in BUS_LINES[k])
    lines = {line_key(line): line for line in whole}
    for key, name in picked.items():
        pin = by_name.get(name)
        if pin is None or key not in roles | lines:
            refused[key] = "gone"
        elif not (roles[key].can(pin) if key in roles else lines[key] in pin.buses):
            refused[key] = "able"
        elif name in kept.values():
            refused[key] = "taken"
        else:
            kept[key] = name
    return kept, refused
