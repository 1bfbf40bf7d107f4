"""The bodies of a design in its case: everything that takes room, copy by copy, where it is; and what two of them have between them."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import Literal, NamedTuple

import numpy as np

from ..case_shape import centre_of
from ..design import Body, Design, Enclosure, Side, Size
from ..making import clearance_mm
from ..numeric import Array
from .solids import Solid, copy_offsets, pieces_of, turned_by

AXES = ("x", "y", "z")
TOUCH_MM = 1e-6
SAME_SIDE_MM = 1.0  # a drawn pack's thickness against that of its cells
OF_THE_CASE = "/enclosure"  # the board of all pieces of the case
NO_ROOM = ("wire", "board input")  # roles of stages in series that take no room of their own
ONE_COPY = np.zeros((1, 3))


@dataclass(frozen=True)
class Placed:
    """A body of the design with its place; `pointer` leads to it in the document. low/high are the corners of the box along the axes
    that it just fits in [mm], (3,); `straight`: it fills that box. `pieces` are the convex solids that it is made of,
    copy after copy. What has the same `board`
    needs no gap between; what is `carried` by it lies on it."""

    pointer: str
    name: str
    body: Body
    key: str
    board: str
    solid: Solid
    low: Array
    high: Array
    straight: bool
    through: Side | None
    swelling_mm: float = 0.0
    swelling_axis: int = 0
    pieces: tuple[Solid, ...] = ()
    carried: str | None = None
    copies: Array = field(default_factory=lambda: ONE_COPY)

    @property
    def of_the_case(self) -> bool:
        """Whether it is a piece of the case itself, which needs no gap to a wall."""
        return self.board == OF_THE_CASE

    @property
    def open_side(self) -> Side | None:
        """The side that it reaches through: the wall is no bound there. None where it is seen through a window of it."""
        return None if self.body.window is not None else self.through

    def lies_behind(self, side: Side | None) -> bool:
        """Whether it is seen through a window of that side."""
        return self.body.window is not None and side == self.through

    def needs_mm(self, case: Enclosure, side: Side | None = None) -> float:
        """What it needs to a wall [mm]: by how it sits; to the one with its window a film's thickness, or nothing."""
        if self.lies_behind(side) and self.body.window is not None:
            return self.body.window.film_mm
        return clearance_mm(case, self.body.fits) + self.body.off_mm

    def joins(self, other: Placed) -> bool:
        """Whether they sit on each other or on one board, where they may touch."""
        return self.board == other.board != "" or self.body.on == other.key != "" or other.body.on == self.key != ""

    @property
    def along_axes(self) -> bool:
        """Whether its pieces are cuboids along the case's axes."""
        return self.body.shape in ("cuboid", "board") and not any(self.body.turn_deg)


class Contact(NamedTuple):
    """The gap between a body and another one, or a side of the case, against what is needed [mm].

    A negative gap is how far they overlap, along `axis`. `corner` is the other side at a rounded corner.
    """

    first: int
    second: int
    side: Side | None
    corner: Side | None
    gap_mm: float
    needed_mm: float
    axis: int
    within: bool = (
        False  # of a case from a file: something of it that stands farther in than the usual wall of that side
    )

    @property
    def margin_mm(self) -> float:
        return self.gap_mm - self.needed_mm


@dataclass(frozen=True)
class Thing:
    """Something that takes room in the case, once or in several `copies` at these offsets from its place [mm], (copies, 3).
    `body` is None where nobody said how much. Films call it by its `key`; what is on the same
    `board` needs no gap between."""

    pointer: str
    name: str
    body: Body | None
    key: str = ""
    board: str = ""
    carried: str | None = None
    copies: Array = field(default_factory=lambda: ONE_COPY)

    @property
    def of_the_case(self) -> bool:
        """Whether it is a piece of the case itself, which stays where it is and needs no gap to a wall."""
        return self.board == OF_THE_CASE


MadeOf = Literal["cell", "board", "glass", "metal", "case", "other"]
_MADE_OF: dict[str, MadeOf] = {
    "controller": "board", "radio": "board", "sensor": "board", "storage": "board", "display": "glass", "light": "glass",
    "led": "glass", "sound": "metal", "motor": "metal", "interface": "metal",
}  # fmt: skip


def made_of(design: Design, pointer: str) -> MadeOf:
    """What the thing there looks as if it were made of.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> made_of(design, "/battery")
    'cell'
    """
    if pointer == "/battery":
        return "cell"
    if pointer.startswith("/parts/"):
        return _MADE_OF.get(design.parts[int(pointer.removeprefix("/parts/"))].kind, "other")
    return "case" if pointer.startswith("/enclosure") else "board"


def things(design: Design) -> list[Thing]:
    """Everything in the design that takes room of its own. What came along on a module, hangs outside or is a length of
    wire does not.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> [thing.pointer for thing in things(design)][:2]
    ['/parts/0', '/parts/1']
    """
    found = [
        Thing(
            f"/parts/{i}",
            p.name,
            p.body,
            p.id,
            p.id,
            copies=copy_offsets(p, design.enclosure.gap_mm) if p.quantity > 1 else ONE_COPY,
        )
        for i, p in enumerate(design.parts)
        if not p.outside and (p.body is not None or not (p.parasitic or p.plugged_by_user))
    ]
    found += [
        Thing(f"/supply/stages/{i}", s.name, s.body, s.id)
        for i, s in enumerate(design.supply.stages)
        if s.body is not None or getattr(s, "role", None) not in NO_ROOM
    ]
    if design.charger and not design.charger.outside:
        found.append(Thing("/charger", design.charger.name, design.charger.body, "charger"))
    found.append(Thing("/battery", design.battery.cell.name, design.battery.body, "battery"))
    held = enumerate(design.enclosure.fastenings)
    return [*found, *(Thing(f"/enclosure/fastenings/{i}", f.name, f.body, "", OF_THE_CASE, f.carries) for i, f in held)]


def fits_within(size_mm: Size, room_mm: Size) -> bool:
    """Whether a cuboid goes into another one, turned as suits it.

    >>> fits_within((10, 20, 30), (30, 10, 20)), fits_within((10, 20, 31), (30, 10, 20))
    (True, False)
    """
    return all(a <= b + TOUCH_MM for a, b in zip(sorted(size_mm), sorted(room_mm), strict=True))


def swelling_mm(design: Design) -> tuple[float, int]:
    """(extra thickness to keep free [mm], its axis) of a pouch battery, whose cells lie on each other: it swells along
    the side that is as long as they are thick.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> round(swelling_mm(design)[0], 2)
    0.5
    """
    battery = design.battery
    if battery.cell.form != "pouch" or battery.body is None:
        return 0.0, 0
    thick = min(battery.cell.size_mm) * battery.series * battery.parallel
    sides = np.abs(np.asarray(battery.body.size_mm) - thick)
    axis = int(np.argmin(sides)) if float(sides.min()) <= SAME_SIDE_MM else int(np.argmin(battery.body.size_mm))
    return battery.swelling * battery.body.size_mm[axis], axis


def place(design: Design) -> tuple[list[Placed], list[tuple[str, str]]]:
    """The bodies that have a place, and of those that have none (pointer, name).

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> placed, left = place(design)
    >>> [body.pointer for body in placed][:1], left
    (['/parts/0'], [])
    """
    placed, unplaced = [], []
    for thing in things(design):
        where, name, body = thing.pointer, thing.name, thing.body
        if body is None or body.position_mm is None:
            unplaced.append((where, name))
            continue
        extra, axis = swelling_mm(design) if where == "/battery" else (0.0, 0)
        pieces = pieces_of(body, extra * np.eye(3)[axis] if extra else None)
        if len(thing.copies) > 1:
            pieces = tuple(piece.moved(offset) for offset in thing.copies for piece in pieces)
        solid = pieces[0] if len(pieces) == 1 else Solid(np.concatenate([p.corners for p in pieces]))
        low, high = solid.corners.min(axis=0), solid.corners.max(axis=0)
        board = body.on or thing.board
        placed.append(
            Placed(
                where, name, body, thing.key, board, solid, low, high, body.lies_straight and len(thing.copies) == 1, body.through, extra, axis,
                pieces, thing.carried, thing.copies,
            )
        )  # fmt: skip
    return placed, unplaced


def volume_mm3(body: Body) -> float:
    """What a body takes of the room.

    >>> from ember_core.design import Body
    >>> round(volume_mm3(Body(size_mm=(10, 10, 10), shape="cylinder", along="z")))
    785
    """
    if body.shape == "mesh":
        return float(pieces_of(body)[0].whole.volume())
    if body.shape == "board":
        return sum(math.prod(b.size_mm) for b in body.blocks)
    return math.prod(body.size_mm) * (math.pi / 4 if body.shape == "cylinder" else 1.0)


def middle_of(body: Placed) -> Array:
    """The middle of a body's mass as if it were of one density, what is kept free for its swelling left out [mm], (3,).

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> body = placed_bodies(design)[0]
    >>> middle_of(body).shape
    (3,)
    """
    grown = body.swelling_mm * np.eye(3)[body.swelling_axis]
    if body.body.shape not in ("mesh", "board"):
        return np.asarray(body.low + body.high - turned_by(body.body.turn_deg) @ grown) / 2
    if body.body.shape == "board":  # blocks are cuboids, in the order of their pieces, copy after copy
        volumes = np.tile([math.prod(b.size_mm) for b in body.body.blocks], len(body.copies))
        return np.asarray(volumes @ np.array([p.corners.mean(axis=0) for p in body.pieces]) / volumes.sum())
    volumes = np.array([float(p.whole.volume()) for p in body.pieces])
    return np.asarray(volumes @ np.array([centre_of(p.whole) for p in body.pieces]) / volumes.sum())


def placed_bodies(design: Design) -> list[Placed]:
    """The bodies that have a place.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> len(placed_bodies(design))
    8
    """
    return place(design)[0]
