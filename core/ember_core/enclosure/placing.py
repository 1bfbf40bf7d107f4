"""A first arrangement of everything in the case, without collisions: quick, and not the smallest that there is.

The largest body first, each into the lowest corner that is free; where that leaves something out, in some dozens of other orders and from other sides: corners are those of
the cavity and those that placed bodies leave (extreme points, T. Crainic and others, *INFORMS J. Comput.* 20 (2008) 368). Bodies may be turned in quarters;
one that shows or plugs through a side, or is turned freely, keeps the way it lies. What is not a cuboid along the axes counts as the box around it, and so does
the room that must stay free before it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from itertools import permutations, product

import numpy as np

from ..case_shape import Planes, cavity_planes, is_plain
from ..design import Axis, Body, Design, Enclosure, Side
from ..making import clearance_mm
from ..numeric import Array
from .bodies import Thing, swelling_mm, things
from .solids import SIDES, corners, zone_corners

ROUNDED = 0.1  # mm: positions that one can type
MOST_AT_ONCE = 100  # bodies, the largest first; a second is enough for them
FEW = 14  # placed bodies, up to which all crossings of their sides are tried
MASKS = [np.array(m) for m in product((False, True), repeat=3) if any(m)]
FIRST_AT_ONCE, MOST_CORNERS = 64, 4096  # corners tried together: few first, as often one of them is free
EVERY_MM = 2.0  # along a side that a body goes through
CORNERS_FIRST = ((2, 1, 0), (1, 2, 0), (0, 2, 1), (2, 0, 1))
MOST_TRIES = 40  # arrangements
WORK = 3000  # bodies squared times arrangements: two seconds
MOST_COMPLETE = 12  # arrangements of everything that are compared by what is warm
WALL_SHARE, NEAR_MM = (
    0.3,
    5.0,
)  # how much a wall counts against the battery, and how far warmth is felt half; rules of thumb
SHUFFLED = 0.4  # how far sizes are mixed up, as a standard deviation of their logarithm
MOST_STEPS = 50  # of them
GRID = 7  # places along each axis that a body which is to be moved is tried at


@dataclass(frozen=True)
class Arrangement:
    """`bodies` by pointer, those that were moved or placed anew; `left` are the names of what found no room, `unknown` of what has no size."""

    bodies: dict[str, Body]
    left: list[str]
    unknown: list[str]


@dataclass(frozen=True)
class _Lying:
    """A way in which something may lie: how it is written down, the box around it with its swelling [mm], (3,), and where that box
    begins against the place that is written down [mm], (3,)."""

    body: Body
    box: Array
    offset: Array


@dataclass(frozen=True)
class _AtSide:
    """The side that something shows or plugs through, and how far behind its outer face it lies [mm]: not at all, or behind its window."""

    side: Side
    behind_mm: float


def _at_side(case: Enclosure, body: Body) -> _AtSide | None:
    if body.through is None:
        return None
    behind = case.walls[SIDES.index(body.through)] + body.window.film_mm if body.window else 0.0
    return _AtSide(body.through, behind)


@dataclass(frozen=True)
class _Solid:
    """What has to go in, in the ways in which it may lie."""

    thing: Thing
    ways: list[_Lying]
    side: _AtSide | None

    @cached_property
    def volume(self) -> float:
        return float(np.prod(self.ways[0].box))


@dataclass(frozen=True)
class _Room:
    """The inside of the case less the clearance: its faces, and the box around it from `low` to `high` [mm], (3,); how far a box stands off that box's
    upright sides in the middle of a rounded edge, and off each side of it where the case leans or is domed, (6,)."""

    outer: Array
    low: Array
    high: Array
    faces: Planes
    beside: float
    narrower: Array
    gap: float


def place_all(
    design: Design, *, anew: bool = False, tries: int = MOST_TRIES, warm_w: Mapping[str, float] | None = None
) -> Arrangement:
    """Places what has no place yet beside what has one; or, `anew` or where that leaves something out, everything. `warm_w` is what things burn at most, by
    pointer [W]: of some arrangements that leave nothing out the one is taken that keeps them off the battery and the walls.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> place_all(design, anew=True, tries=2).left
    []
    """
    warm = warm_w or {}
    if not anew:
        kept = _arranged(design, tries, warm, keep=True)
        if not kept.left:
            return kept
        fresh = _arranged(design, tries, warm, keep=False)
        return fresh if len(fresh.left) < len(kept.left) else kept
    return _arranged(design, tries, warm, keep=False)


def has_room(design: Design, tries: int) -> bool:
    """Whether everything finds its place anew, in so many arrangements at most; one that leaves something out is not finished.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> has_room(design, 2)
    True
    """
    return not _arranged(design, tries, {}, keep=False, whole=True).left


def free_places(design: Design, pointer: str) -> list[Body]:
    """One body in every way and at every place of a grid over the cavity where nothing else is in its way, those that it has by now left
    out; the other bodies stay.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> places = free_places(design, "/battery")
    >>> all(place.position_mm is not None for place in places)
    True
    """
    wanted = next((t for t in things(design) if t.pointer == pointer), None)
    if wanted is None or wanted.body is None:
        return []
    room, taken = _room(design), taken_boxes(design, pointer)
    found: list[Body] = []
    for way in _ways_to_lie(design, wanted, wanted.body):
        points = _grid(_at_side(design.enclosure, wanted.body), way.box, room)
        for low in points[_free(points, way.box, wanted.body.through, taken, room)] - way.offset:
            x, y, z = (round(float(v), 2) for v in low)
            found.append(way.body.model_copy(update={"position_mm": (x, y, z)}))
    return found


def moved_free(design: Design, pointer: str) -> Body | None:
    """A placed body where it is, if nothing is in its way there; else in the nearest free place, the way it lies first; else None.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> moved_free(design, "/battery") == design.battery.body
    True
    """
    wanted = next((t for t in things(design) if t.pointer == pointer), None)
    if wanted is None or wanted.body is None or wanted.body.position_mm is None:
        return None
    body, here = wanted.body, np.asarray(wanted.body.position_mm, dtype=float)
    lying, room = _lying(design, wanted, body), _room(design)
    if _free((here + lying.offset)[None], lying.box, body.through, taken_boxes(design, pointer), room).all():
        return body
    places = free_places(design, pointer)
    middle = here + np.asarray(body.size_mm) / 2

    def far(place: Body) -> tuple[bool, float]:
        at = np.asarray(place.position_mm, dtype=float) + np.asarray(place.size_mm) / 2
        return place.size_mm != body.size_mm, float(np.linalg.norm(at - middle))

    return min(places, key=far, default=None)


def taken_boxes(design: Design, pointer: str) -> tuple[Array, Array]:
    """The corners of the boxes of all placed bodies but one, each (bodies, 3).

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> low, high = taken_boxes(design, "/battery")
    >>> low.shape == high.shape
    True
    """
    low, high = np.zeros((0, 3)), np.zeros((0, 3))
    for thing in things(design):
        if thing.pointer != pointer and thing.body is not None and thing.body.position_mm is not None:
            lying = _lying(design, thing, thing.body)
            at = np.asarray(thing.body.position_mm, dtype=float) + lying.offset
            low, high = np.vstack([low, at]), np.vstack([high, at + lying.box])
    return low, high


def _grid(at: _AtSide | None, size: Array, room: _Room) -> Array:
    """Places over the cavity that one can type, (points, 3); along the side that a body goes through only the outside."""
    axes = []
    for axis in range(3):
        last = room.high[axis] - size[axis]
        places = np.linspace(_up(room.low[axis]), last, GRID)
        axes.append(np.unique(np.append(np.floor(places[:-1] / ROUNDED) * ROUNDED, np.floor(last / ROUNDED) * ROUNDED)))
    if at is not None:
        s = SIDES.index(at.side)
        axes[s // 2] = np.array([at.behind_mm if s % 2 == 0 else room.outer[s // 2] - size[s // 2] - at.behind_mm])
    x, y, z = np.meshgrid(*axes, indexing="ij")
    return np.stack([x.ravel(), y.ravel(), z.ravel()], axis=1)


def _room(design: Design) -> _Room:
    case, needed = design.enclosure, clearance_mm(design.enclosure)
    walls, outer = np.array(case.walls) + needed, np.asarray(case.outer_mm, dtype=float)
    low, high = walls[0::2], outer - walls[1::2]
    radius = max(case.corner_mm - min(case.walls[:4]) - needed, 0.0)
    if case.shape is not None or (is_plain(case) and not case.corner_mm):
        faces = Planes(np.concatenate([-np.eye(3), np.eye(3)]), np.concatenate([-low, high]))
    else:
        inside = cavity_planes(case)
        faces = Planes(inside.normals, inside.offsets - needed)
    return _Room(outer, low, high, faces, radius * (1 - 0.5**0.5), _narrower(case), case.gap_mm)


def _narrower(case: Enclosure) -> Array:
    """What is left out on each side of a case whose sides lean, whose edges are rounded all around or whose top is domed, so that a box inside is left, left to
    top [mm]."""
    leans = float(np.tan(np.radians(case.taper_deg))) * case.outer_mm[2]
    edge = max(case.edge_mm - min(case.walls), 0.0)
    return np.array([leans] * 4 + [edge, case.dome_mm or edge])


def _arranged(
    design: Design, most: int, warm_w: Mapping[str, float], *, keep: bool, whole: bool = False
) -> Arrangement:
    room = _room(design)
    solids, unknown, lows, highs = [], [], [], []
    for thing in things(design):
        body = thing.body
        if body is None:
            unknown.append(thing.name)
        elif (keep or thing.of_the_case) and body.position_mm is not None:
            lying = _lying(design, thing, body)
            low = np.asarray(body.position_mm, dtype=float) + lying.offset
            lows.append(low)
            highs.append(low + lying.box)
        else:
            solids.append(_Solid(thing, _ways_to_lie(design, thing, body), _at_side(design.enclosure, body)))
    solids.sort(key=lambda s: (s.side is None, -s.volume))
    kept, more = solids[:MOST_AT_ONCE], solids[MOST_AT_ONCE:]
    best: tuple[tuple[float, float], dict[str, Body], list[_Solid]] | None = None
    complete = 0
    for order, axes in _tries(kept, most):
        bodies, left = _filled(order, axes, list(lows), list(highs), room, whole=whole)
        complete += not left
        rank = (round(sum(s.volume for s in left), 6), _warmed(design, bodies, warm_w) if warm_w and not left else 0.0)
        if best is None or rank < best[0]:
            best = rank, bodies, left
        if complete >= (MOST_COMPLETE if warm_w else 1):
            break
    assert best is not None
    return Arrangement(best[1], [s.thing.name for s in (*more, *best[2])], unknown)


def _warmed(design: Design, bodies: dict[str, Body], warm_w: Mapping[str, float]) -> float:
    """How much what is warm is felt by the battery and by the nearest wall: watts over distance, a rule of thumb to compare arrangements by [W]."""
    boxes = {
        t.pointer: (np.asarray(b.position_mm), np.asarray(b.position_mm) + b.size_mm)
        for t in things(design)
        if (b := bodies.get(t.pointer, t.body)) is not None and b.position_mm is not None
    }
    felt, outer, walls = 0.0, np.asarray(design.enclosure.outer_mm), np.asarray(design.enclosure.walls)
    for pointer, watts in warm_w.items():
        if pointer not in boxes or pointer == "/battery":
            continue
        low, high = boxes[pointer]
        to_wall = float(np.min(np.concatenate([low - walls[0::2], outer - walls[1::2] - high])))
        felt += WALL_SHARE * watts / (1 + max(to_wall, 0.0) / NEAR_MM)
        if "/battery" in boxes:
            cell_low, cell_high = boxes["/battery"]
            apart = float(np.linalg.norm(np.maximum(np.maximum(cell_low - high, low - cell_high), 0.0)))
            felt += watts / (1 + apart / NEAR_MM)
    return felt


def _tries(solids: list[_Solid], most: int) -> Iterator[tuple[list[_Solid], tuple[int, int, int]]]:
    """Orders of the bodies, and of the corners that they are put into: the largest first into the lowest corner; then by their longest side, their flattest, and
    shuffled a little. What goes through a side comes first always."""
    count = int(np.clip(WORK // max(len(solids), 1) ** 2, 1, most))
    draw = np.random.default_rng(0)
    keys: list[Callable[[_Solid], float]] = [
        lambda s: s.volume,
        lambda s: float(s.ways[0].box.max()),
        lambda s: float(np.sort(s.ways[0].box)[1:].prod()),
        lambda s: float(s.ways[0].box.min()),
    ]
    for k in range(count):
        key, axes = keys[k % len(keys)], CORNERS_FIRST[(k // len(keys)) % len(CORNERS_FIRST)]
        mixed = np.exp(draw.normal(0, 0.0 if k < len(keys) * len(CORNERS_FIRST) else SHUFFLED, len(solids)))
        order = sorted(range(len(solids)), key=lambda i: (solids[i].side is None, -key(solids[i]) * mixed[i]))
        yield [solids[i] for i in order], axes


def _filled(
    solids: list[_Solid], axes: tuple[int, int, int], lows: list[Array], highs: list[Array], room: _Room, *, whole: bool
) -> tuple[dict[str, Body], list[_Solid]]:
    """One body after the other: (where they are, which found no room). `whole`: the first that finds none ends it."""
    bodies, left = {}, []
    for solid in solids:
        place = _corner(solid, lows, highs, room, axes)
        if place is None:
            left.append(solid)
            if whole:
                break
            continue
        low, lying = place
        x, y, z = (round(float(v), 2) for v in low - lying.offset)
        lows.append(low)
        highs.append(low + lying.box)
        bodies[solid.thing.pointer] = lying.body.model_copy(update={"position_mm": (x, y, z)})
    return bodies, left


def _ways_to_lie(design: Design, thing: Thing, body: Body) -> list[_Lying]:
    """As it lies first, then turned; what goes through a side or is turned freely is not turned."""
    ways = [body]
    if body.through is None and not any(body.turn_deg) and not body.zones and body.shape not in ("mesh", "board"):
        for order in permutations(range(3)):
            x, y, z = (body.size_mm[i] for i in order)
            along: Axis = "xyz"[order.index("xyz".index(body.along))]  # type: ignore[assignment]
            turned = body.model_copy(update={"size_mm": (x, y, z), "along": along})
            if all(turned.size_mm != w.size_mm or turned.along != w.along for w in ways) and not _same(turned, ways):
                ways.append(turned)
    return [_lying(design, thing, way) for way in (ways if len(thing.copies) == 1 else ways[:1])]


def _same(turned: Body, ways: list[Body]) -> bool:
    """A cuboid has no axis of its own."""
    return turned.shape == "cuboid" and any(turned.size_mm == w.size_mm for w in ways)


def _lying(design: Design, thing: Thing, body: Body) -> _Lying:
    grown = np.zeros(3)
    if thing.pointer == "/battery":
        extra, _ = swelling_mm(design)
        if extra > 0:
            grown[int(np.argmin(body.size_mm))] += extra
    free = body.model_copy(update={"position_mm": None})
    kept = [zone_corners(free, z) for z in body.zones if z.side != body.through]
    points = np.concatenate([corners(free, grown), *kept])
    if len(thing.copies) > 1:
        points = (points[None] + thing.copies[:, None]).reshape(-1, 3)
    low, high = points.min(axis=0), points.max(axis=0)
    if not body.lies_straight or body.zones:  # to where one can type it
        low, high = np.floor(low * 100) / 100, np.ceil(high * 100) / 100
    return _Lying(body, high - low, low)


def _corner(
    solid: _Solid, lows: list[Array], highs: list[Array], room: _Room, axes: tuple[int, int, int]
) -> tuple[Array, _Lying] | None:
    """The best free corner for a body, in whichever way of lying takes it farthest into it."""
    best: tuple[tuple[float, ...], Array, _Lying] | None = None
    taken_low = np.array(lows).reshape(-1, 3)
    taken_high = np.array(highs).reshape(-1, 3)
    for way in solid.ways:
        points = _points(solid.side, way.box, taken_low, taken_high, room, axes)
        start, at_once = 0, FIRST_AT_ONCE
        while start < len(points):
            some = points[start : start + at_once]
            start, at_once = start + at_once, min(4 * at_once, MOST_CORNERS)
            free = _free(some, way.box, solid.side.side if solid.side else None, (taken_low, taken_high), room)
            if free.any():
                low = some[int(np.argmax(free))]
                rank = (*(float((low + way.box)[a]) for a in axes[:1]), *(float(low[a]) for a in axes))
                if best is None or rank < best[0]:
                    best = rank, low, way
                break
    return None if best is None else best[1:]


def _free(low: Array, size: Array, through: Side | None, taken: tuple[Array, Array], room: _Room) -> Array:
    """Which corners leave a body inside the cavity and apart from all placed ones, shape (corners,)."""
    faces = room.faces
    if not len(faces.normals):
        return np.zeros(len(low), dtype=bool)
    free: np.ndarray = np.all(
        low @ faces.normals.T <= faces.offsets - _beyond(size, faces.normals, through) + 1e-9, axis=1
    )
    inside = np.flatnonzero(free)  # few in a small case, and only these are held against the bodies
    if not inside.size:
        return free
    low = low[inside]
    taken_low, taken_high = taken
    apart = np.maximum(taken_low[None] - (low + size)[:, None], low[:, None] - taken_high[None])
    clear = apart.max(axis=2, initial=-np.inf) >= -1e-9
    if room.gap > 0:
        clear &= np.linalg.norm(np.maximum(apart, 0.0), axis=2) >= room.gap - 1e-9
    free[inside] = clear.all(axis=1)
    return free


def _beyond(size: Array, normals: Array, through: Side | None) -> Array:
    """How much farther than its lowest corner a box reaches along the normals of the inner faces, (faces,). What goes through a side counts there with
    where it begins, and not at all at the face that looks straight to that side."""
    beyond: Array = np.maximum(size * normals, 0.0)
    if through is None:
        return np.asarray(beyond.sum(axis=1))
    axis, far = divmod(SIDES.index(through), 2)
    leaning = normals[:, axis] * (1 if far else -1) > 1e-9
    beyond[leaning, axis] = 0.0 if far else size[axis] * normals[leaning, axis]
    looks = np.argmax(np.abs(normals), axis=1)
    return np.asarray(np.where(leaning & (looks == axis), -np.inf, beyond.sum(axis=1)))


def _points(
    at: _AtSide | None, size: Array, taken_low: Array, taken_high: Array, room: _Room, first_axes: tuple[int, int, int]
) -> Array:
    """Corners to try, the lowest along the first axis first, shape (points, 3): each coordinate at the cavity's edge or just behind a placed body; along the side that a body goes
    through in small steps too."""
    outer, edge, gap, beside = room.outer, room.low, room.gap, room.beside
    axes = []
    for axis in range(3):
        behind = np.ceil((taken_high[:, axis] + gap) / ROUNDED - 1e-6) * ROUNDED
        first = [
            _up(edge[axis]),
            _up(edge[axis] + (0.0 if axis == 2 else beside)),
            _up(edge[axis] + room.narrower[2 * axis]),
        ]
        axes.append(np.unique(np.concatenate([first, behind])))
    if at is not None:
        s = SIDES.index(at.side)
        axes[s // 2] = np.array([at.behind_mm if s % 2 == 0 else outer[s // 2] - size[s // 2] - at.behind_mm])
        for axis in range(3):
            if axis != s // 2:
                last = max(room.high[axis] - size[axis], edge[axis])
                steps = np.arange(edge[axis], last + 1e-9, max(EVERY_MM, (last - edge[axis]) / MOST_STEPS))
                axes[axis] = np.unique(np.concatenate([axes[axis], np.round(steps, 1)]))
    if at is None and len(taken_high) > FEW:  # the corners of each by itself, as all crossings would be too many
        start = np.array(
            [_up(edge[axis] + max(0.0 if axis == 2 else beside, room.narrower[2 * axis])) for axis in range(3)]
        )
        behind = np.ceil((taken_high + gap) / ROUNDED - 1e-6) * ROUNDED
        points = np.concatenate(
            [start[None], *(np.where(mask, behind, low) for mask in MASKS for low in (taken_low, start))]
        )
    else:
        x, y, z = np.meshgrid(*axes, indexing="ij")
        points = np.stack([x.ravel(), y.ravel(), z.ravel()], axis=1)
    a, b, c = first_axes
    return points[np.lexsort((points[:, c], points[:, b], points[:, a]))]


def _up(mm: float) -> float:
    """The next position that one can type."""
    return float(np.ceil(mm / ROUNDED - 1e-6) * ROUNDED)
