"""The case as solids: its two pieces with openings and posts, closed surfaces to print or to go on with.

Made of what is checked: walls, where it comes apart, the rim that keeps both pieces in place or the groove of the seal's cord, an opening around everything
that shows or plugs through a side, posts with their holes, holes drawn wider and posts thinner by what the making makes of them; posts reach into
the walls that they stand on. Not made: snaps, ribs and vents.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from ..case_shape import cavity_grown, corners_of, material, outer_solid
from ..design import Design, Enclosure, Fastening
from ..making import CLEARS_MM, HOLES_MM, NUT_MM, clearance_mm, making_of
from ..numeric import Array
from .bodies import TOUCH_MM, Placed, placed_bodies
from .solids import SIDES, Solid, hull, window_corners

if TYPE_CHECKING:
    from manifold3d import Manifold

ROUND = 48  # corners of a hole
BEYOND_MM = 1.0  # openings and holes reach so much beyond the wall
INSERT_DEPTH_MM = 6.0
RIM_MM, LEAST_RIM_MM = (
    2.0,
    0.8,
)  # how deep the upper piece's rim goes into the lower one, usually and at least; a rule of thumb
CORDS_MM = (2.0, 1.5, 1.0, 0.8, 0.6)
GROOVE_WIDER = 1.25  # a groove than its cord, which has to go somewhere when it is pressed; as usual for round cords
JOINED_MM = 0.05
OFF_MM = 1e-3  # where it comes apart just under its lid: two faces in one plane are none
CRUMB_MM3 = 1e-3  # less is what two faces in one plane leave
FINE_MM = 2e-3  # corners nearer than that are one
STEEP = -math.cos(math.radians(45))  # what looks down more than that hangs
POSTS = ("screw", "insert", "nut")


@dataclass(frozen=True)
class Piece:
    """One piece of the case where it is when closed: `vertices` [mm], (n, 3), and `faces`, (m, 3), counter-clockwise from outside. `upside_down`: it is
    printed with its other side down. `hangs_mm2`: what of it then hangs in the air and wants support."""

    name: str
    vertices: Array
    faces: np.ndarray
    volume_mm3: float
    upside_down: bool
    hangs_mm2: float


def pieces(design: Design) -> list[Piece]:
    """The lower and the upper piece; one alone where it comes apart at none of its height. No pieces where the case has no inside, or comes from a
    file."""
    case = design.enclosure
    if min(case.inner_mm) <= 0 or case.shape is not None:
        return []
    whole, shell = outer_solid(case), material(case)
    placed = placed_bodies(design)
    posts = _posts(design, placed)
    thinner = np.array([-making_of(case).post / 2, -making_of(case).post / 2, 0.0])  # as posts come out thicker
    shell = _united([shell, *(hull(_rooted(_wider(body.solid.corners, thinner), case)) ^ whole for _, body in posts)])
    openings = [_opening(body, points, case) for body in placed for points in opening_corners(body, case)]
    shell = shell - _united(openings) if openings else shell
    carrying = [hole for post, body in posts if post.carries for hole in _carrying_holes(case, post, body)]
    shell = shell - _united(carrying) if carrying else shell
    posts = [(post, body) for post, body in posts if not post.carries]
    below, above = _parted(case)
    lower, upper = shell ^ below, shell ^ above
    if posts:
        lower = lower - _united([hole for post, body in posts for hole in _lower_holes(case, post, body)])
        upper = upper - _united([_way_through(case, post, body) for post, body in posts])
    made = [_piece("lower piece", lower), _piece("upper piece", upper)]
    return [p for p in made if p is not None]


def _parted(case: Enclosure) -> tuple[Manifold, Manifold]:
    """(the room of the lower piece, that of the upper one): both sides of where it comes apart, with the rim of the upper piece that goes down into a
    recess of the lower one, or with the groove for the cord."""
    split, (x, y, z) = split_mm(case), case.outer_mm
    out = BEYOND_MM
    under_lid = abs(split - (z - case.walls[5] - case.dome_mm)) < JOINED_MM
    off = OFF_MM if under_lid else 0.0
    below = _slab(x, y, -out, split - off)
    above = _slab(x, y, split + off, z + out)
    rim = rim_of(case)
    if rim is not None:
        room = cavity_grown(case, -JOINED_MM)  # a little into the room, so that no face lies in another one
        tongue = (cavity_grown(case, rim.thick_mm) - room) ^ _slab(x, y, split - rim.deep_mm, split + out)
        recess = (cavity_grown(case, rim.thick_mm + rim.gap_mm) - room) ^ _slab(
            x, y, split - rim.deep_mm - rim.gap_mm, split + out
        )
        return below - recess, above + tongue
    groove = groove_of(case)
    if groove is not None:
        middle = min(case.walls[:4]) / 2
        ring = cavity_grown(case, middle + groove.thick_mm / 2) - cavity_grown(case, middle - groove.thick_mm / 2)
        below = below - (ring ^ _slab(x, y, split - groove.deep_mm, split + out))
    return below, above


def _slab(x: float, y: float, low: float, high: float) -> Manifold:
    from manifold3d import Manifold

    return Manifold.cube((x + 2 * BEYOND_MM, y + 2 * BEYOND_MM, high - low)).translate((-BEYOND_MM, -BEYOND_MM, low))


@dataclass(frozen=True)
class Ring:
    """All around where the case comes apart [mm]: so `thick`, so `deep`, and the `gap` between both pieces there."""

    thick_mm: float
    deep_mm: float
    gap_mm: float


def rim_of(case: Enclosure) -> Ring | None:
    """The rim of the upper piece that keeps it in place: half of the thinnest side wall less what it needs to slide. None where a wall is too thin for both halves, the
    lower piece too low, or the document wants none or has a cord there."""
    if case.joint != "rim" or case.seal is not None or case.process == "ready-made" or case.shape is not None:
        return None
    making, gap = making_of(case), clearance_mm(case, "sliding")
    thick = (min(case.walls[:4]) - gap) / 2
    deep = min(RIM_MM, (split_mm(case) - case.walls[4]) / 2)
    if thick < making.least_wall - TOUCH_MM or deep < LEAST_RIM_MM:
        return None
    return Ring(thick, deep, gap)


def groove_of(case: Enclosure) -> Ring | None:
    """The groove for the cord of a seal in the lower piece; None where it has none, or no wall wide enough for it."""
    if case.seal is None or case.shape is not None:
        return None
    wide = case.seal.cord_mm * GROOVE_WIDER
    if (
        min(case.walls[:4]) < groove_wants_mm(case, case.seal.cord_mm) - TOUCH_MM
        or split_mm(case) - case.seal.groove_mm < case.walls[4]
    ):
        return None
    return Ring(wide, case.seal.groove_mm, 0.0)


def groove_wants_mm(case: Enclosure, cord_mm: float) -> float:
    """The wall that a cord's groove wants: itself, and the least wall on either side [mm]."""
    return cord_mm * GROOVE_WIDER + 2 * making_of(case).least_wall


def thickest_cord_mm(case: Enclosure) -> float | None:
    """The thickest usual cord whose groove has room in the side walls [mm]; None where none has."""
    return next((cord for cord in CORDS_MM if groove_wants_mm(case, cord) <= min(case.walls[:4]) + TOUCH_MM), None)


def _rooted(points: Array, case: Enclosure) -> Array:
    """A post's corners, drawn into the floor and into the lid where it stands on them."""
    found = points.copy()
    floor, lid = case.walls[4], case.outer_mm[2] - case.walls[5]
    found[(points[:, 2] <= floor + JOINED_MM), 2] = min(floor / 2, float(points[:, 2].min()))
    top = points[:, 2].max()
    if top >= lid - case.dome_mm - JOINED_MM:
        found[points[:, 2] >= top - JOINED_MM, 2] = case.outer_mm[2]  # as far as the outside goes
    return found


def _united(solids: list[Manifold]) -> Manifold:
    from manifold3d import Manifold, OpType

    return Manifold.batch_boolean(solids, OpType.Add)


def split_mm(case: Enclosure) -> float:
    """How high above the bottom it comes apart [mm]: where the document says, or else below its top wall."""
    below_top = case.outer_mm[2] - case.walls[5] - case.dome_mm
    return below_top if case.split_mm is None else min(case.split_mm, below_top)


def opening_corners(body: Placed, case: Enclosure) -> list[Array]:
    """The corners of what is left open for a body that goes through a side: its window, or the body with its clearance around, [mm], each (n, 3). Of a board
    what of it reaches into the wall, each jack by itself; the whole where nothing does."""
    if body.through is None:
        return []
    seen = window_corners(body.body)
    if len(seen):
        return [seen]
    side = SIDES.index(body.through)
    axis, wall = side // 2, case.walls[side]
    around = np.full(3, clearance_mm(case, body.body.fits))
    around[axis] = 0.0
    inside = case.outer_mm[axis] - wall if side % 2 else wall
    far = bool(side % 2)
    found = [points for p in body.pieces for points in _in_the_wall(p, axis, inside, far=far)]
    return [_wider(points, around) for points in (found or [body.solid.corners])]


def _in_the_wall(piece: Solid, axis: int, inside: float, *, far: bool) -> list[Array]:
    """The corners of what goes beyond the inner face of a wall: a convex piece whole, of any other each part of it that does."""
    along = piece.corners[:, axis]
    if not (float(along.max()) > inside + TOUCH_MM if far else float(along.min()) < inside - TOUCH_MM):
        return []
    if piece.made is None:
        return [piece.corners]
    outwards = np.eye(3)[axis] * (1 if far else -1)
    beyond = piece.made.trim_by_plane(tuple(outwards), inside if far else -inside)
    return [corners_of(part) for part in beyond.decompose()]


def _wider(points: Array, by_mm: Array) -> Array:
    """Corners of a solid, moved off its middle by so much along each axis."""
    low, high = points.min(axis=0), points.max(axis=0)
    middle, size = (low + high) / 2, np.maximum(high - low, 1e-6)
    return np.asarray(middle + (points - middle) * (1 + 2 * by_mm / size))


def _opening(body: Placed, corners: Array, case: Enclosure) -> Manifold:
    """An opening drawn out through its wall."""
    side = SIDES.index(body.through or "left")
    axis = side // 2
    out = corners.copy()
    out[:, axis] = case.outer_mm[axis] + BEYOND_MM if side % 2 else -BEYOND_MM
    return hull(np.concatenate([corners, out]))


def _posts(design: Design, placed: list[Placed]) -> list[tuple[Fastening, Placed]]:
    by_pointer = {p.pointer: p for p in placed}
    held = enumerate(design.enclosure.fastenings)
    return [(f, by_pointer[f"/enclosure/fastenings/{i}"]) for i, f in held if f.kind in POSTS]


def _way_through(case: Enclosure, post: Fastening, body: Placed) -> Manifold:
    """A screw's way through the upper piece. Holes are drawn wider by what the process makes them narrower."""
    assert post.thread is not None
    wide = CLEARS_MM[post.thread] + making_of(case).hole
    return _bore(_middle(body), wide, split_mm(case) - BEYOND_MM, case.outer_mm[2] + BEYOND_MM)


def _lower_holes(case: Enclosure, post: Fastening, body: Placed) -> list[Manifold]:
    """What a screw cuts into, an insert's bore, or a screw's way to a nut and the nut's pocket in the bottom."""
    assert post.thread is not None
    at, top, more = _middle(body), split_mm(case) + BEYOND_MM, making_of(case).hole
    if post.kind == "nut":
        pocket, deep = NUT_MM[post.thread]
        return [
            _bore(at, CLEARS_MM[post.thread] + more, -BEYOND_MM, top),
            _bore(at, pocket + more, -BEYOND_MM, deep, 6),
        ]
    floor = float(case.walls[4])
    bottom = max(split_mm(case) - INSERT_DEPTH_MM, floor) if post.kind == "insert" else floor
    return [_bore(at, HOLES_MM[post.kind][post.thread] + more, bottom, top)]


def _carrying_holes(case: Enclosure, post: Fastening, body: Placed) -> list[Manifold]:
    """The same of a post that carries a board: from the end at the board on, upwards from the floor or downwards from the lid."""
    assert post.thread is not None
    at, more = _middle(body), making_of(case).hole
    low, high, outer = float(body.low[2]), float(body.high[2]), case.outer_mm[2]
    hangs = high >= outer - case.walls[5] - TOUCH_MM
    if post.kind == "nut":
        pocket, deep = NUT_MM[post.thread]
        way = _bore(
            at, CLEARS_MM[post.thread] + more, *((low - BEYOND_MM, outer) if hangs else (0.0, high + BEYOND_MM))
        )
        nut = (outer - deep, outer + BEYOND_MM) if hangs else (-BEYOND_MM, deep)
        return [way, _bore(at, pocket + more, *nut, 6)]
    deep = min(INSERT_DEPTH_MM, high - low) if post.kind == "insert" else high - low
    ends = (low - BEYOND_MM, low + deep) if hangs else (high - deep, high + BEYOND_MM)
    return [_bore(at, HOLES_MM[post.kind][post.thread] + more, *ends)]


def _middle(body: Placed) -> Array:
    return np.asarray((body.low + body.high) / 2)


def _bore(at: Array, diameter: float, bottom: float, top: float, corners: int = ROUND) -> Manifold:
    from manifold3d import Manifold

    return Manifold.cylinder(max(top - bottom, 1e-3), diameter / 2, diameter / 2, corners).translate(
        (float(at[0]), float(at[1]), bottom)
    )


def _piece(name: str, solid: Manifold) -> Piece | None:
    """None of nothing. It lies on the side on which less of it hangs; both alike, on the one that is closed."""
    solid = _united([part for part in solid.decompose() if part.volume() > CRUMB_MM3])
    fine = solid.simplify(FINE_MM)
    mesh = (fine if fine.volume() > 0 else solid).to_mesh64()
    vertices, faces = np.asarray(mesh.vert_properties, dtype=float)[:, :3], np.asarray(mesh.tri_verts, dtype=int)
    if not len(faces) or solid.volume() <= 0:
        return None
    corners = vertices[faces]
    crosses = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    areas = np.linalg.norm(crosses, axis=1)
    up = crosses[:, 2] / np.maximum(areas, 1e-12)
    hangs = [_hanging_mm2(corners[:, :, 2] * sign, up * sign, areas / 2) for sign in (1.0, -1.0)]
    upside_down = hangs[1] < hangs[0]
    return Piece(
        name, vertices, faces, float(np.einsum("ij,ij->", corners[:, 0], crosses)) / 6, upside_down, min(hangs)
    )


def _hanging_mm2(heights: Array, up: Array, areas: Array) -> float:
    """The area that looks down more steeply than half a right angle and does not lie on the bed [mm2]."""
    lies = heights.max(axis=1) <= heights.min() + JOINED_MM
    return float(areas[(up < STEEP) & ~lies].sum())


def on_the_bed(made: list[Piece], apart_mm: float = 10.0) -> list[Piece]:
    """The pieces beside each other as they are printed, from 0, 0, 0 on."""
    laid, x = [], 0.0
    for piece in made:
        points = piece.vertices.copy()
        if piece.upside_down:
            points[:, 1:] *= -1
        points -= points.min(axis=0)
        points[:, 0] += x
        x = float(points[:, 0].max()) + apart_mm
        laid.append(replace(piece, vertices=points))
    return laid
