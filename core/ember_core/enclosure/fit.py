"""Do the bodies fit the case: each pair's, each wall's and each rounded corner's gap against what it needs.

Of two cuboids along the axes the distance follows from the separations: where they overlap along all three they collide,
and the least overlap is how far one has to move; otherwise the gap is the Euclidean norm of the positive ones. Others are
measured as solids (`solids.py`). A board with blocks on it is measured block by block: low parts of one reach under tall ones of
another. A body is inside the case where all its corners are, as the inside has no dents.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal, NamedTuple

import numpy as np

from ..case_shape import cavity_planes, is_plain, material, room_mm3
from ..design import Body, Design, Enclosure, Side, Size
from ..making import clearance_mm
from ..numeric import Array
from .solids import (
    SEARCHED_MM,
    SIDES,
    TOUCHING_MM3,
    Solid,
    copy_offsets,
    distance_mm,
    looks_to,
    pieces_of,
    surface_gap_mm,
    zone_corners,
)

AXES = ("x", "y", "z")
TOUCH_MM = 1e-6
NO_ROOM_MM3 = 1.0
MOST_MEASURED = 300  # pairs on their surfaces, the nearest first; of more, the boxes around them tell
MOST_PIECES, LEAST_PIECES, ALL_PIECES = (
    40,
    4,
    1500,
)  # pairs of pieces that are measured: of two bodies, and of all together
MOST_KEPT = 5000  # pairs, the nearest; of a hundred bodies all
NEAR_MM = 10.0  # apart along an axis: farther than that the boxes around two bodies tell enough
SAME_SIDE_MM = 1.0  # a drawn pack's thickness against that of its cells
OF_THE_CASE = "/enclosure"  # the board of all pieces of the case
SINGLE = 3  # digits after the point of a millimetre that a file's corners are good for
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
        return clearance_mm(case, self.body.fits)

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
    filled_share: float | None

    @cached_property
    def tightest(self) -> Contact | None:
        return min(self.contacts, key=lambda c: (c.margin_mm, c.first, c.second), default=None)


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


def things(design: Design) -> list[Thing]:
    """Everything in the design that takes room of its own. What came along on a module, hangs outside or is a length of
    wire does not."""
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


def _pairs(placed: list[Placed], case: Enclosure) -> list[Contact]:
    if len(placed) < 2:
        return []
    low, high = np.stack([p.low for p in placed]), np.stack([p.high for p in placed])
    first, second = np.triu_indices(len(placed), 1)
    boards = np.array([p.board for p in placed])
    apart_from = (boards[first] != boards[second]) | (boards[first] == "")
    first, second = first[apart_from], second[apart_from]
    if not first.size:
        return []
    apart = np.maximum(low[second] - high[first], low[first] - high[second])
    axis = np.argmax(apart, axis=1)
    most = apart[np.arange(axis.size), axis]
    distance = np.linalg.norm(np.maximum(apart, 0.0), axis=1)
    gap = np.where(most >= 0, distance, most)
    straight = np.array([p.straight for p in placed])
    near = np.flatnonzero(~(straight[first] & straight[second]) & (most < NEAR_MM))
    near = near[np.argsort(most[near], kind="stable")][:MOST_MEASURED]
    pieces = min(max(ALL_PIECES // max(near.size, 1), LEAST_PIECES), MOST_PIECES)
    for k in near:
        gap[k], axis[k] = gap_mm(placed[first[k]], placed[second[k]], pieces)
    if any(p.carried for p in placed):
        apart_from = ~_lies_on(placed, first, second, gap)
        first, second, gap, axis = first[apart_from], second[apart_from], gap[apart_from], axis[apart_from]
    kept = _worth_keeping(first, second, gap)
    needed = needed_between(placed, case)
    rows = zip(first[kept].tolist(), second[kept].tolist(), gap[kept].tolist(), axis[kept].tolist(), strict=True)
    return [Contact(a, b, None, None, g, needed(a, b), x) for a, b, g, x in rows]


def _lies_on(placed: list[Placed], first: np.ndarray, second: np.ndarray, gap: Array) -> np.ndarray:
    """Which pairs are a post and what it carries, without reaching into each other, (pairs,)."""
    keys, carried = (np.array([getattr(p, of) or "" for p in placed]) for of in ("key", "carried"))
    on = (carried[second] == keys[first]) & (carried[second] != "")
    return np.asarray(on & (gap >= -TOUCH_MM))


def needed_between(placed: list[Placed], case: Enclosure) -> Callable[[int, int], float]:
    """What the gap of two bodies, by their positions, has to be at least [mm]: nothing where one lies on the other, a film's thickness, or
    the usual gap."""
    films = {frozenset((f.first, f.second)): f.thickness_mm for f in case.films}
    carrying = any(body.carried is not None for body in placed)

    def needed(first: int, second: int) -> float:
        one, other = placed[first], placed[second]
        if carrying and ((other.carried == one.key != "") or (one.carried == other.key != "")):
            return 0.0
        return films.get(frozenset((one.key, other.key)), case.gap_mm) if films else case.gap_mm

    return needed


def gap_mm(one: Placed, other: Placed, most: int = MOST_PIECES) -> tuple[float, int]:
    """(gap, axis) of two bodies [mm], piece by piece, as `Contact` has it."""
    if len(one.pieces) == len(other.pieces) == 1:
        return distance_mm(one.solid, other.solid)
    gap, axis, _, _ = nearest_pieces(one, other, most)
    return gap, axis


def nearest_pieces(one: Placed, other: Placed, most: int = MOST_PIECES) -> tuple[float, int, int, int]:
    """(gap, axis, piece of the first, piece of the second) where two bodies are nearest, or overlap most. At most so many pairs of turned pieces are measured; what is
    left then counts as the boxes around them, which are nearer."""
    (low, high), (low2, high2) = _piece_boxes(one), _piece_boxes(other)
    apart = np.maximum(low2[None] - high[:, None], low[:, None] - high2[None])
    axis = np.argmax(apart, axis=2)
    apart_by = np.max(apart, axis=2)
    gap = np.where(apart_by >= 0, np.linalg.norm(np.maximum(apart, 0.0), axis=2), apart_by)
    order = np.argsort(gap, axis=None, kind="stable")
    if one.along_axes and other.along_axes:
        i, j = (int(k) for k in np.unravel_index(order[0], gap.shape))
        return float(gap[i, j]), int(axis[i, j]), i, j
    best = (np.inf, 0, 0, 0)
    for count, flat in enumerate(order.tolist()):  # boxes are never farther than what is in them
        i, j = (int(k) for k in np.unravel_index(flat, gap.shape))
        if gap[i, j] > max(best[0], 0.0):
            break
        if count >= most:
            return min(best, (float(gap[i, j]), int(axis[i, j]), i, j))
        found, along = distance_mm(one.pieces[i], other.pieces[j])
        if found < best[0]:
            best = (found, along, i, j)
    return best


def _piece_boxes(body: Placed) -> tuple[Array, Array]:
    """The corners of the boxes around a body's pieces, each (pieces, 3)."""
    found = [(p.corners.min(axis=0), p.corners.max(axis=0)) for p in body.pieces]
    return np.stack([low for low, _ in found]), np.stack([high for _, high in found])


def _worth_keeping(first: np.ndarray, second: np.ndarray, gap: Array) -> np.ndarray:
    """Positions of the pairs that are kept: all of few bodies; of many the nearest, and each body's nearest."""
    if first.size <= MOST_KEPT:
        return np.arange(first.size)
    order = np.argsort(gap, kind="stable")
    either = np.stack([first[order], second[order]], axis=1).ravel()
    _, at = np.unique(either, return_index=True)
    return np.unique(np.concatenate([order[:MOST_KEPT], order[at // 2]]))


def _to_case(placed: list[Placed], enclosure: Enclosure) -> list[Contact]:
    """The gaps to the walls of any case. To the wall that it lies behind, with its window, a body has none unless it is too near."""
    measured = _to_box if is_plain(enclosure) else _to_faces if enclosure.shape is None else _to_surface
    found = measured(placed, enclosure)
    return [c for c in found if c.margin_mm < -TOUCH_MM or not placed[c.first].lies_behind(c.side)]


def _to_box(placed: list[Placed], enclosure: Enclosure) -> list[Contact]:
    return _walls(placed, enclosure) + _rounded(placed, enclosure)


def _to_faces(placed: list[Placed], enclosure: Enclosure) -> list[Contact]:
    """The gaps to the inner faces of a case that is convex inside: each side's faces together, as far as their planes are off."""
    planes = cavity_planes(enclosure)
    facing = 2 * np.argmax(np.abs(planes.normals), axis=1)
    sides = facing + (planes.normals[np.arange(len(facing)), facing // 2] > 0)
    found = []
    for i, body in enumerate(placed):
        if body.board == OF_THE_CASE:
            continue
        off = planes.offsets - (body.solid.corners @ planes.normals.T).max(axis=0)
        for s, side in enumerate(SIDES):
            if side != body.open_side and np.any(sides == s):
                found.append(
                    Contact(i, -1, side, None, float(off[sides == s].min()), body.needs_mm(enclosure, side), s // 2)
                )
    return found


def _to_surface(placed: list[Placed], enclosure: Enclosure) -> list[Contact]:
    """The gap of each body to a case from a file, on its surface; the side is the one whose usual wall is nearest. Beyond `SEARCHED_MM` it is that of the usual
    walls, or that much."""
    assert enclosure.shape is not None
    walls = Solid(np.asarray(enclosure.shape.surface.corners_mm), material(enclosure))
    outer, usual = np.asarray(enclosure.outer_mm, dtype=float), np.asarray(enclosure.walls)
    found = []
    for i, body in enumerate(placed):
        if body.board == OF_THE_CASE:
            continue
        spaces = np.column_stack([body.low, outer - body.high]).ravel()
        own = np.array([side != body.open_side for side in SIDES])
        nearest = int(np.argmin(np.where(own, spaces - usual, np.inf)))
        gap, axis = min(_into(walls, piece) for piece in body.pieces)
        beside = float((spaces - usual)[nearest])
        if gap >= SEARCHED_MM or (gap < -TOUCH_MM and gap < beside < 0):  # far from any wall, or in two of them at once
            gap, axis = max(gap, beside), nearest // 2
        out = float(spaces[own].min())
        if out < min(gap, -TOUCH_MM):  # beside the case altogether
            gap, axis = out, int(np.argmin(np.where(own, spaces, np.inf))) // 2
        found.append(
            Contact(i, -1, SIDES[nearest], None, round(gap, SINGLE), body.needs_mm(enclosure, SIDES[nearest]), axis)
        )
    return found


def _into(walls: Solid, piece: Solid) -> tuple[float, int]:
    """(gap, axis) of a piece to the walls, as `distance_mm` has it but for what is farther than is searched."""
    both = walls.whole ^ piece.whole
    if both.volume() > TOUCHING_MM3:
        box = both.bounding_box()
        reach = np.array(box[3:]) - np.array(box[:3])
        return -float(reach.min()), int(np.argmin(reach))
    return surface_gap_mm(walls, piece), 2


def _walls(placed: list[Placed], enclosure: Enclosure) -> list[Contact]:
    found: list[Contact] = []
    if not placed:
        return found
    outer, walls = np.asarray(enclosure.outer_mm, dtype=float), np.asarray(enclosure.walls).reshape(3, 2)
    low, high = np.stack([p.low for p in placed]), np.stack([p.high for p in placed])
    spaces = (np.stack([low, outer - high], axis=2) - walls).reshape(-1, 6).tolist()
    for i, (body, gaps) in enumerate(zip(placed, spaces, strict=True)):
        if body.board == OF_THE_CASE:
            continue
        needed, behind = body.needs_mm(enclosure), body.through if body.body.window is not None else None
        for s, (side, gap) in enumerate(zip(SIDES, gaps, strict=True)):
            if side != body.open_side:
                needs = body.needs_mm(enclosure, side) if side == behind else needed
                found.append(Contact(i, -1, side, None, gap, needs, s // 2))
    return found


def _rounded(placed: list[Placed], enclosure: Enclosure) -> list[Contact]:
    """The gaps to the rounded corners, of the bodies that reach into them."""
    radius = enclosure.inner_corner_mm
    if radius <= 0:
        return []
    left, right, front, back, _, _ = enclosure.walls
    width, depth, _ = enclosure.outer_mm
    found = []
    for across, x in (("left", left + radius), ("right", width - right - radius)):
        for along, y in (("front", front + radius), ("back", depth - back - radius)):
            for i, body in enumerate(placed):
                if body.open_side in (across, along) or body.board == OF_THE_CASE:
                    continue
                off = (body.solid.corners[:, :2] - (x, y)) * (
                    -1 if across == "left" else 1,
                    -1 if along == "front" else 1,
                )
                far = np.linalg.norm(off[(off > 0).all(axis=1)], axis=1)
                if far.size:
                    gap = radius - float(far.max())
                    found.append(Contact(i, -1, across, along, gap, body.needs_mm(enclosure), 0))  # type: ignore[arg-type]
    return found


@dataclass(frozen=True)
class Blocked:
    """A zone of a placed body that is not free: `other` is the body in it, or -1 where `side` of the case is. It reaches `depth_mm` into
    the zone along `axis`."""

    index: int
    zone: int
    other: int
    side: Side | None
    depth_mm: float
    axis: int


def blocked_zones(placed: list[Placed], enclosure: Enclosure) -> list[Blocked]:
    """Every zone that something reaches into, with what it is. A zone at the side that its body goes through is outside the case."""
    if not any(body.body.zones for body in placed):
        return []
    lows, highs = np.stack([p.low for p in placed]), np.stack([p.high for p in placed])
    found: list[Blocked] = []
    for i, body in enumerate(placed):
        for k, zone, offset in ((k, z, o) for k, z in enumerate(body.body.zones) for o in body.copies):
            room = zone_corners(body.body, zone) + offset
            low, high = room.min(axis=0), room.max(axis=0)
            reach = np.minimum(high, highs) - np.maximum(low, lows)
            for j in np.flatnonzero(reach.min(axis=1) > TOUCH_MM).tolist():
                other = placed[j]
                if j == i or (other.board == body.board != ""):
                    continue
                depth, axis = float(reach[j].min()), int(np.argmin(reach[j]))
                if len(found) < MOST_MEASURED and not (other.straight and not any(body.body.turn_deg)):
                    reached = (
                        p
                        for p in other.pieces
                        if np.all((p.corners.max(axis=0) > low) & (p.corners.min(axis=0) < high))
                    )
                    gap, axis = min((distance_mm(Solid(room), piece) for piece in reached), default=(0.0, axis))
                    depth = -gap
                if depth > TOUCH_MM:
                    found.append(Blocked(i, k, j, None, depth, axis))
            if body.through is None or looks_to(body.body, zone.side) != body.through:
                found += _walls_in(i, k, low, high, body, enclosure)
    return found


def _walls_in(i: int, k: int, low: Array, high: Array, body: Placed, enclosure: Enclosure) -> list[Blocked]:
    found = []
    for s, (side, wall) in enumerate(zip(SIDES, enclosure.walls, strict=True)):
        axis = s // 2
        depth = float(wall - low[axis] if s % 2 == 0 else high[axis] - (enclosure.outer_mm[axis] - wall))
        if depth > TOUCH_MM and side != body.through:
            found.append(Blocked(i, k, -1, side, depth, axis))
    return found


def placed_bodies(design: Design) -> list[Placed]:
    """The bodies that have a place."""
    return _place(design)[0]


def check_fit(design: Design) -> Fit:
    """Every gap between placed bodies and to the walls. A pouch counts with its swelling. Of two bodies that are not near each other and not
    both cuboids along the axes, the gap is that of the boxes around them, or more."""
    enclosure = design.enclosure
    placed, unplaced = _place(design)
    needed = clearance_mm(enclosure)
    contacts = _to_case(placed, enclosure) + _pairs(placed, enclosure)
    cavity = np.asarray(enclosure.inner_mm, dtype=float)
    volume = sum(volume_mm3(x.body) * len(x.copies) for x in things(design) if x.body is not None)
    room = room_mm3(enclosure)
    return Fit(placed, unplaced, contacts, needed, cavity, volume / room if room > NO_ROOM_MM3 else None)


def contact_names(fit: Fit, contact: Contact) -> tuple[str, str]:
    """The names of the two that meet."""
    return fit.placed[contact.first].name, met_by(fit, contact, contact.second)


def met_by(fit: Fit, contact: Contact, other: int) -> str:
    """What a body meets in a contact, where `other` is the second of its bodies."""
    if contact.corner:
        return f"the {contact.side} {contact.corner} corner"
    return f"the {contact.side} wall" if contact.side else fit.placed[other].name


def volume_mm3(body: Body) -> float:
    """What a body takes of the room."""
    if body.shape == "mesh":
        return float(pieces_of(body)[0].whole.volume())
    if body.shape == "board":
        return sum(math.prod(b.size_mm) for b in body.blocks)
    return math.prod(body.size_mm) * (math.pi / 4 if body.shape == "cylinder" else 1.0)


def contact_status(contact: Contact) -> Literal["pass", "watch", "fail"]:
    """fail: they overlap; watch: less than what is needed."""
    if contact.gap_mm < -1e-6:
        return "fail"
    return "watch" if contact.margin_mm < -1e-6 else "pass"
