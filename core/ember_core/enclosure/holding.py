"""What holds the case together: posts for screws, inserts and nuts, and snaps, put where there is room for them."""

from __future__ import annotations

import numpy as np

from ..design import Body, Design, Fastening, FasteningKind, Thread
from ..design.basics import fresh_id
from ..making import FROM_A_POUCH_MM, LEAST_SNAP_MM, PASSES_MM, POST_MM, SNAPS_MM
from ..numeric import Array
from .bodies import Placed, placed_bodies
from .joints import split_mm
from .placing import taken_boxes
from .solids import hole_ends

EVERY_MM = 1.0  # places that are tried, from each corner on
MOST_STEPS = 40  # along each side of a corner
AT_ONCE = 2_000_000  # places times bodies that are looked at together
POSTS_LEAST = 2
LEAST_STANDOFF_MM = 1.5  # what of a post a thread still holds in; a rule of thumb
LEVEL_MM = 0.01
NAMES: dict[FasteningKind, str] = {
    "screw": "Post for a screw",
    "insert": "Post with an insert",
    "nut": "Post with a nut",
    "snap": "Snap",
    "cradle": "Rib",
}
SHARP: tuple[FasteningKind, ...] = ("screw", "insert", "nut")
CORNERS = ((0, 0), (1, 1), (1, 0), (0, 1))  # opposite ones first


Boxes = tuple[Array, Array]  # the corners of what is in the way, each (bodies, 3)


def posts(design: Design, kind: FasteningKind, thread: Thread, taken: Boxes | None = None) -> list[Fastening]:
    """A post in each corner that has room, from the floor to the lid; none where fewer than two corners, opposite each other, have. `taken` is what
    `taken_boxes` gives, for those who ask for many.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> len(posts(design, "screw", "M2"))
    0
    """
    if design.enclosure.shape is not None:  # what holds it is in its file
        return []
    taken = taken_boxes(design, "") if taken is None else taken
    usual, _ = POST_MM[kind][thread]
    _, inner, height = _inside(design)
    if height <= 0 or min(inner) < 2 * usual:
        return []
    found: dict[tuple[int, int], tuple[float, float]] = {}
    for corner in CORNERS:
        place = nearest_place(design, (usual, usual), corner, taken)
        if place is not None:
            found[corner] = place
    opposite = ((0, 0) in found and (1, 1) in found) or ((1, 0) in found and (0, 1) in found)
    if len(found) < POSTS_LEAST or not opposite:
        return []
    bottom = design.enclosure.walls[4]
    made: list[Fastening] = []
    for x, y in found.values():
        body = Body(size_mm=(usual, usual, round(height, 2)), shape="cylinder", along="z", position_mm=(x, y, bottom))
        made.append(_made(design, made, kind, thread, body))
    return made


def posts_under(design: Design, board: Placed, kind: FasteningKind) -> list[Fastening]:
    """A post for each hole of a board that lies level, from the floor up to it or from the lid down to it: where more have room, else where they are shorter.
    Each of the largest thread that goes through; where the usual width has no room, of the least one. None unless two or more have room, as a board on one
    post turns.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.design.patches import apply_patch, replace
    >>> from ember_core.enclosure.bodies import placed_bodies
    >>> holes = [{"at_mm": (x, 3), "diameter_mm": 2.7} for x in (3, 37)]
    >>> blocks = [{"name": "Board", "at_mm": (0, 0, 0), "size_mm": (40, 30, 1.6)}]
    >>> body = {"shape": "board", "size_mm": (40, 30, 1.6), "position_mm": (70, 70, 10), "holes": holes, "blocks": blocks}
    >>> made = apply_patch(design, [replace("/enclosure/outer_mm", (120, 120, 30)), replace("/parts/0/body", body)])
    >>> board = next(b for b in placed_bodies(made) if b.pointer == "/parts/0")
    >>> [post.kind for post in posts_under(made, board, "screw")]
    ['screw', 'screw']
    """
    below, above = level_holes(board), level_holes(board, above=True)
    if not len(below) or design.enclosure.shape is not None:
        return []
    floor, lid = design.enclosure.walls[4], design.enclosure.outer_mm[2] - design.enclosure.walls[5]
    others = [p for p in placed_bodies(design) if p.pointer != board.pointer and p.carried != board.key]
    ways = [
        [(at, floor, float(at[2]) - floor) for at in below],
        [(at, float(at[2]), lid - float(at[2])) for at in above],
    ]
    ways.sort(key=lambda way: way[0][2])
    found = (_posts_at(design, board, kind, way, others) for way in ways)
    made = max(found, key=len)
    return made if len(made) >= POSTS_LEAST else []


def _posts_at(
    design: Design, board: Placed, kind: FasteningKind, way: list[tuple[Array, float, float]], others: list[Placed]
) -> list[Fastening]:
    """The posts that have room, of those at (a hole's end, where it begins along z, how high it is)."""
    made: list[Fastening] = []
    for (at, bottom, height), hole in zip(way, board.body.holes, strict=True):
        thread = largest_thread(hole.diameter_mm)
        if thread is None or height < LEAST_STANDOFF_MM - 1e-9:
            continue
        for wide in POST_MM[kind][thread]:
            x, y = (round(float(v) - wide / 2, 3) for v in at[:2])
            size = (wide, wide, round(height, 3))
            body = Body(size_mm=size, shape="cylinder", along="z", position_mm=(x, y, bottom))
            if _stands_free(design, board, others, body):
                post = _made(design, made, kind, thread, body)
                made.append(post.model_copy(update={"carries": board.key}))
                break
    return made


def level_holes(board: Placed, *, above: bool = False) -> Array:
    """Where a board's holes come out below, or above, in the case [mm], shape (holes, 3); none of a board that does not lie level or is not one of
    the parts and stages that a post may name.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.enclosure.bodies import placed_bodies
    >>> level_holes(placed_bodies(design)[0]).shape[1]
    3
    """
    ends = hole_ends(board.body)
    if not len(ends) or not board.key or np.ptp(ends[:, :, :2], axis=1).max() > LEVEL_MM:
        return np.zeros((0, 3))
    heights = ends[:, :, 2] if above else -ends[:, :, 2]
    return np.asarray(ends[np.arange(len(ends)), np.argmax(heights, axis=1)])


def largest_thread(diameter_mm: float) -> Thread | None:
    """The largest screw that goes through a board's hole.

    >>> largest_thread(3.4)
    'M3'
    """
    return next((t for t in reversed(PASSES_MM) if PASSES_MM[t] <= diameter_mm + 1e-9), None)


def _stands_free(design: Design, board: Placed, others: list[Placed], body: Body) -> bool:
    """Whether a post keeps off everything else, off what hangs below its board, and inside the case."""
    case = design.enclosure
    low = np.asarray(body.position_mm, dtype=float)
    size = np.asarray(body.size_mm, dtype=float)
    walls = np.asarray(case.walls)
    if np.any(low < walls[0::2] - 1e-6) or np.any(low + size > np.asarray(case.outer_mm) - walls[1::2] + 1e-6):
        return False
    pieces = [*board.pieces[1:], *(p for other in others for p in other.pieces)]
    if pieces:
        taken = np.stack([p.corners.min(axis=0) for p in pieces]), np.stack([p.corners.max(axis=0) for p in pieces])
        if not _clear(low[None], size, taken, case.gap_mm).all():
            return False
    return bool(_in_the_round(design, low[None], (float(size[0]), float(size[1]))).all())


def snaps(design: Design, taken: Boxes | None = None) -> list[Fastening]:
    """A snap near the middle of two walls that face each other, below where the case comes apart: of the usual size, or small ones; none
    where there is no room.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> len(snaps(design))
    2
    """
    if design.enclosure.shape is not None:
        return []
    taken = taken_boxes(design, "") if taken is None else taken
    return next((made for size in SNAPS_MM for axis in (0, 1) if (made := _snaps_along(design, axis, size, taken))), [])


def _snaps_along(design: Design, axis: int, size_mm: tuple[float, float, float], taken: Boxes) -> list[Fastening]:
    """Two snaps on the walls along x (0) or y (1), each as near to the wall's middle as there is room; none unless there are two."""
    low, inner, height = _inside(design)
    case, across = design.enclosure, 1 - axis
    length, deep, tall = size_mm[0], size_mm[1], min(size_mm[2], height)
    if tall < LEAST_SNAP_MM or inner[axis] < length or inner[across] < 2 * deep:
        return []
    size = np.zeros(3)
    size[axis], size[across], size[2] = length, deep, tall
    middle, slack = low[axis] + (inner[axis] - length) / 2, (inner[axis] - length) / 2
    steps = np.arange(0.0, slack + 1e-9, max(EVERY_MM, slack / MOST_STEPS))
    along = np.concatenate([middle + steps, middle - steps])
    made: list[Fastening] = []
    for at_wall in (low[across], low[across] + inner[across] - deep):
        at = np.empty((along.size, 3))
        at[:, axis], at[:, across], at[:, 2] = along, at_wall, max(split_mm(case) - tall, case.walls[4])
        free = _clear(at, size, taken, case.gap_mm)
        if not free.any():
            return []
        x, y, z = (round(float(v), 2) for v in at[free][np.argmin(np.abs(along[free] - middle))])
        body = Body(size_mm=(float(size[0]), float(size[1]), float(size[2])), position_mm=(x, y, z))
        made.append(_made(design, made, "snap", None, body))
    return made


def nearest_place(
    design: Design, size: tuple[float, float], corner: tuple[int, int], taken: Boxes
) -> tuple[float, float] | None:
    """The free place for a post of so much room [mm] that is nearest to a corner (0 or 1 along x and y); its metal is kept off a pouch
    cell.

    >>> from ember_core.design import Cell
    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.design.patches import apply_patch, replace
    >>> large = apply_patch(design, [replace("/enclosure/outer_mm", (120, 120, 30)), replace("/battery/body/position_mm", (60, 60, 5))])
    >>> nothing = (np.zeros((0, 3)), np.zeros((0, 3)))
    >>> nearest_place(large, (6.0, 6.0), (0, 0), nothing)
    (2.0, 2.0)
    """
    low, inner, height = _inside(design)
    case = design.enclosure
    axes = []
    for k in (0, 1):
        reach = max(inner[k] / 2 - size[k], 0.0)
        steps = np.arange(0.0, reach + 1e-9, max(EVERY_MM, reach / MOST_STEPS))
        axes.append(steps if corner[k] == 0 else inner[k] - size[k] - steps)
    x, y = (g.ravel() for g in np.meshgrid(axes[0] + low[0], axes[1] + low[1], indexing="ij"))
    at = np.stack([x, y, np.full(x.size, case.walls[4])], axis=1)
    box = np.array([*size, height])
    clear, round_enough = _clear(at, box, taken, case.gap_mm), _in_the_round(design, at, size)
    free = np.logical_and(clear, round_enough)
    battery = design.battery
    if battery.cell.form == "pouch" and battery.body is not None and battery.body.position_mm is not None:
        cell_low, cell_high = _battery_box(design)
        free = free & _clear(at, box, (cell_low[None], cell_high[None]), FROM_A_POUCH_MM)
    if not free.any():
        return None
    ends = np.array([low[0] + corner[0] * (inner[0] - size[0]), low[1] + corner[1] * (inner[1] - size[1])])
    best = at[free][np.argmin(np.linalg.norm(at[free][:, :2] - ends, axis=1))]
    return round(float(best[0]), 2), round(float(best[1]), 2)


def _inside(design: Design) -> tuple[Array, Array, float]:
    """(where the inside begins, its width and depth, its height beside a dome) [mm]."""
    case = design.enclosure
    inner = np.asarray(case.inner_mm)
    return np.asarray(case.walls)[0:4:2], inner[:2], float(inner[2]) - case.dome_mm


def _battery_box(design: Design) -> tuple[Array, Array]:
    cell = next(p for p in placed_bodies(design) if p.pointer == "/battery")
    return cell.low, cell.high


def _clear(at: Array, size: Array, taken: tuple[Array, Array], gap: float) -> Array:
    """Which places keep a box apart from all others, (places,)."""
    low, high = taken
    there = np.all((low < at.max(axis=0) + size + gap) & (high > at.min(axis=0) - gap), axis=1)
    low, high = low[there], high[there]
    rows = max(AT_ONCE // max(len(low), 1), 1)
    clear = np.ones(len(at), dtype=bool)
    for start in range(0, len(at), rows):
        some = at[start : start + rows]
        apart = np.maximum(low[None] - (some + size)[:, None], some[:, None] - high[None])
        distance = np.linalg.norm(np.maximum(apart, 0.0), axis=2)
        clear[start : start + rows] = ((apart.max(axis=2) >= -1e-9) & (distance >= gap - 1e-9)).all(axis=1)
    return clear


def _in_the_round(design: Design, at: Array, size: tuple[float, float]) -> Array:
    """Which places leave a round post inside the rounded corners, (places,)."""
    radius = design.enclosure.inner_corner_mm
    if radius <= 0:
        return np.ones(len(at), dtype=bool)
    low, inner, _ = _inside(design)
    middle = at[:, :2] + np.asarray(size) / 2 - low
    beyond = np.maximum(np.maximum(radius - middle, middle - (inner - radius)), 0.0)
    far = np.linalg.norm(beyond, axis=1)
    return np.asarray((far <= max(radius - size[0] / 2, 0.0) + 1e-9) | (beyond.min(axis=1) <= 0))


def _made(design: Design, made: list[Fastening], kind: FasteningKind, thread: Thread | None, body: Body) -> Fastening:
    taken = {f.id for f in (*design.enclosure.fastenings, *made)}
    number = len(design.enclosure.fastenings) + len(made) + 1
    name = f"{NAMES[kind]} {thread}, {number}" if thread else f"{NAMES[kind]} {number}"
    return Fastening(id=fresh_id(f"{kind}-{number}", taken), name=name, kind=kind, thread=thread, body=body)
