"""Do the bodies fit the case: cuboids in a cuboid, each pair's and each wall's gap against what it needs.

Distances follow from the separations along the axes: where two cuboids overlap along all three they collide,
and the least overlap is how far one has to move; otherwise the gap is the Euclidean norm of the positive ones.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..design import Body, Design, Enclosure, Process, Side, Size
from ..numeric import Array

CLEARANCE_MM: dict[Process, tuple[float, float]] = {
    # usual figure, least that works; each side, unfinished surfaces
    "filament": (0.3, 0.2),
    "resin": (0.15, 0.10),
    "ready-made": (0.5, 0.3),
}
SIDES: tuple[Side, ...] = ("left", "right", "front", "back", "bottom", "top")
AXES = ("x", "y", "z")
TOUCH_MM = 1e-6
SAME_SIDE_MM = 1.0  # a drawn pack's thickness against that of its cells
NO_ROOM = ("wire", "board input")  # roles of stages in series that take no room of their own


@dataclass(frozen=True)
class Placed:
    """A body of the design with its place; `pointer` leads to it in the document. low/high: corners [mm], (3,)."""

    pointer: str
    name: str
    low: Array
    high: Array
    through: Side | None
    swelling_mm: float = 0.0
    swelling_axis: int = 0


@dataclass(frozen=True)
class Contact:
    """The gap between a body and another one, or a side of the case, against what is needed [mm].

    A negative gap is how far they overlap, along `axis`.
    """

    first: int
    second: int
    side: Side | None
    gap_mm: float
    needed_mm: float
    axis: int

    @property
    def margin_mm(self) -> float:
        return self.gap_mm - self.needed_mm


@dataclass(frozen=True)
class Fit:
    placed: list[Placed]
    unplaced: list[tuple[str, str]]
    contacts: list[Contact]
    clearance_mm: float
    cavity_mm: Array
    filled_share: float

    @property
    def tightest(self) -> Contact | None:
        return min(self.contacts, key=lambda c: (c.margin_mm, c.first, c.second), default=None)


def clearance_mm(enclosure: Enclosure) -> float:
    """Part to wall, each side [mm]: the design's own figure, or the process's usual one."""
    usual, _ = CLEARANCE_MM[enclosure.process]
    return usual if enclosure.clearance_mm is None else enclosure.clearance_mm


@dataclass(frozen=True)
class Thing:
    """Something that takes room in the case. `body` is None where nobody said how much."""

    pointer: str
    name: str
    body: Body | None


def things(design: Design) -> list[Thing]:
    """Everything in the design that takes room of its own. What came along on a module, hangs outside or is a length of
    wire does not."""
    found = [
        Thing(f"/parts/{i}", p.name, p.body)
        for i, p in enumerate(design.parts)
        if p.body is not None or not (p.parasitic or p.plugged_by_user)
    ]
    found += [
        Thing(f"/supply/stages/{i}", s.name, s.body)
        for i, s in enumerate(design.supply.stages)
        if s.body is not None or getattr(s, "role", None) not in NO_ROOM
    ]
    if design.charger:
        found.append(Thing("/charger", design.charger.name, design.charger.body))
    return [*found, Thing("/battery", design.battery.cell.name, design.battery.body)]


def fits_within(size_mm: Size, room_mm: Size) -> bool:
    """Whether a cuboid goes into another one, turned as suits it."""
    return all(a <= b + TOUCH_MM for a, b in zip(sorted(size_mm), sorted(room_mm), strict=True))


def swelling_mm(design: Design) -> tuple[float, int]:
    """(extra thickness to keep free [mm], its axis) of a pouch battery, whose cells lie on each other: it swells along
    the side that is as long as they are thick."""
    battery = design.battery
    if battery.cell.form != "pouch" or battery.body is None:
        return 0.0, 0
    thick = min(battery.cell.size_mm) * battery.series * battery.parallel
    sides = np.abs(np.asarray(battery.body.size_mm) - thick)
    axis = int(np.argmin(sides)) if float(sides.min()) <= SAME_SIDE_MM else int(np.argmin(battery.body.size_mm))
    return battery.swelling * battery.body.size_mm[axis], axis


def _place(design: Design) -> tuple[list[Placed], list[tuple[str, str]]]:
    placed, unplaced = [], []
    for thing in things(design):
        where, name, body = thing.pointer, thing.name, thing.body
        if body is None or body.position_mm is None:
            unplaced.append((where, name))
            continue
        low = np.asarray(body.position_mm, dtype=float)
        high = low + np.asarray(body.size_mm, dtype=float)
        extra, axis = swelling_mm(design) if where == "/battery" else (0.0, 0)
        high[axis] += extra
        placed.append(Placed(where, name, low, high, body.through, extra, axis))
    return placed, unplaced


def _pairs(placed: list[Placed], needed: float) -> list[Contact]:
    if len(placed) < 2:
        return []
    low, high = np.stack([p.low for p in placed]), np.stack([p.high for p in placed])
    first, second = np.triu_indices(len(placed), 1)
    apart = np.maximum(low[second] - high[first], low[first] - high[second])
    axis = np.argmax(apart, axis=1)
    most = apart[np.arange(axis.size), axis]
    distance = np.linalg.norm(np.maximum(apart, 0.0), axis=1)
    gap = np.where(most >= 0, distance, most)
    return [
        Contact(int(a), int(b), None, float(g), needed, int(x))
        for a, b, g, x in zip(first, second, gap, axis, strict=True)
    ]


def _walls(placed: list[Placed], enclosure: Enclosure, needed: float) -> list[Contact]:
    found = []
    outer = np.asarray(enclosure.outer_mm, dtype=float)
    for i, body in enumerate(placed):
        for s, side in enumerate(SIDES):
            axis = s // 2
            if side == body.through:
                continue
            space = body.low[axis] if s % 2 == 0 else outer[axis] - body.high[axis]
            found.append(Contact(i, -1, side, float(space - enclosure.wall_mm), needed, axis))
    return found


def check_fit(design: Design) -> Fit:
    """Every gap between placed bodies and to the walls. A pouch counts with its swelling."""
    enclosure = design.enclosure
    placed, unplaced = _place(design)
    needed = clearance_mm(enclosure)
    contacts = _walls(placed, enclosure, needed) + _pairs(placed, enclosure.gap_mm)
    cavity = np.asarray(enclosure.outer_mm, dtype=float) - 2 * enclosure.wall_mm
    volume = sum(float(np.prod(x.body.size_mm)) for x in things(design) if x.body is not None)
    room = float(np.prod(np.maximum(cavity, 1e-9)))
    return Fit(placed, unplaced, contacts, needed, cavity, volume / room)


def contact_names(fit: Fit, contact: Contact) -> tuple[str, str]:
    """The names of the two that meet."""
    second = f"the {contact.side} wall" if contact.side else fit.placed[contact.second].name
    return fit.placed[contact.first].name, second


def contact_status(contact: Contact) -> Literal["pass", "watch", "fail"]:
    """fail: they overlap; watch: less than what is needed."""
    if contact.gap_mm < -1e-6:
        return "fail"
    return "watch" if contact.margin_mm < -1e-6 else "pass"
