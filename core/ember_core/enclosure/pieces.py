"""The case as solids: its two pieces with openings and posts, closed surfaces to print or to go on with.

Made of what is checked: walls, where it comes apart, the rim that keeps both pieces in place or the groove of the seal's cord, an opening around everything
that shows or plugs through a side, posts with their holes, holes drawn wider and posts thinner by what the making makes of them; posts reach into
the walls that they stand on; snaps, where a wall is thick enough for their recess, and ribs; vents as slots; letters.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from ..case_shape import corners_of, material, outer_solid
from ..design import Design, Enclosure, Fastening, ThinSpot
from ..making import CLEARS_MM, HEAD_MM, HOLES_MM, NUT_MM, clearance_mm, making_of
from ..numeric import Array
from ..thickness import thin_spots
from .bodies import TOUCH_MM, Placed, placed_bodies
from .joints import BEYOND_MM, JOINED_MM, parted, snap_of, split_mm
from .labels import label_solid
from .passage import wall_on
from .solids import SIDES, Solid, hull, window_corners
from .vents import vent_slots

if TYPE_CHECKING:
    from manifold3d import Manifold

ROUND = 48  # corners of a hole
INSERT_DEPTH_MM = 6.0
CRUMB_MM3 = 1e-3  # less is what two faces in one plane leave
FINE_MM = 2e-3  # corners nearer than that are one
STEEP = -math.cos(math.radians(45))  # what looks down more than that hangs
ROOTED_MM = 0.04  # a rib reaches so much farther all around, into what it touches
THIN_RAYS, MOST_THIN = 6000, 5
CHORD_MM = 0.02  # so much a round face is off
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
    file.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> [piece.name for piece in pieces(design)]
    ['lower piece', 'upper piece']
    """
    case = design.enclosure
    if min(case.inner_mm) <= 0 or case.shape is not None:
        return []
    whole, shell = outer_solid(case), material(case)
    placed = placed_bodies(design)
    held = _held(design, placed)
    posts = [(f, body) for f, body in held if f.kind in POSTS]
    ribs = [
        hull(_rooted(_wider(body.solid.corners, np.full(3, ROOTED_MM)), case)) ^ whole
        for f, body in held
        if f.kind == "cradle"
    ]
    thinner = np.array([-making_of(case).post / 2, -making_of(case).post / 2, 0.0])  # as posts come out thicker
    shell = _united(
        [shell, *ribs, *(hull(_rooted(_wider(body.solid.corners, thinner), case)) ^ whole for _, body in posts)]
    )
    labels = [label_solid(label, case) for label in case.labels]
    raised = [solid for label, solid in zip(case.labels, labels, strict=True) if label.raised]
    shell = _united([shell, *raised]) if raised else shell
    openings = [solid for label, solid in zip(case.labels, labels, strict=True) if not label.raised]
    openings += [_opening(body, points, case) for body in placed for points in opening_corners(body, case)]
    openings += [hull(slot) for slot in vent_slots(case) or []]
    shell = shell - _united(openings) if openings else shell
    carrying = [hole for post, body in posts if post.carries for hole in _carrying_holes(case, post, body)]
    shell = shell - _united(carrying) if carrying else shell
    posts = [(post, body) for post, body in posts if not post.carries]
    below, above = parted(case)
    lower, upper = shell ^ below, shell ^ above
    snaps = [snap for f, body in held if f.kind == "snap" and (snap := snap_of(case, body)) is not None]
    if snaps:
        lower = lower - _united([snap.recess for snap in snaps])
        upper = upper + _united([snap.tongue ^ whole for snap in snaps])
    if posts:
        lower = lower - _united([hole for post, body in posts for hole in _lower_holes(case, post, body)])
        upper = upper - _united([_way_through(case, post, body) for post, body in posts])
    made = [_piece("lower piece", lower), _piece("upper piece", upper)]
    return [p for p in made if p is not None]


def too_thin(made: list[Piece], least_mm: float) -> list[ThinSpot]:
    """Where pieces are thinner than that, the thinnest first, as far as `THIN_RAYS` find it.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> made = pieces(design)
    >>> too_thin(made, 0.4), len(too_thin(made, 3.0)) > 0
    ([], True)
    """
    from manifold3d import Manifold, Mesh64

    found = []
    for piece in made:
        solid = Manifold(Mesh64(np.array(piece.vertices), np.array(piece.faces, dtype=np.uint64)))
        found += thin_spots(solid, THIN_RAYS, least_mm - CHORD_MM)[0]
    return sorted(found, key=lambda spot: spot.thickness_mm)[:MOST_THIN]


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


def opening_corners(body: Placed, case: Enclosure) -> list[Array]:
    """The corners of what is left open for a body that goes through a side: its window, or the body with its clearance around, [mm], each (n, 3). Of a board
    what of it reaches into the wall, each jack by itself; the whole where nothing does.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> part = design.parts[0]
    >>> through = part.model_copy(update={"body": part.body.model_copy(update={"through": "left"})})
    >>> shown = design.model_copy(update={"parts": [through, *design.parts[1:]]})
    >>> from ember_core.enclosure.bodies import placed_bodies
    >>> [corners.shape for corners in opening_corners(placed_bodies(shown)[0], design.enclosure)]
    [(8, 3)]
    """
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


def _held(design: Design, placed: list[Placed]) -> list[tuple[Fastening, Placed]]:
    """What holds the case, and where it is."""
    by_pointer = {p.pointer: p for p in placed}
    held = enumerate(design.enclosure.fastenings)
    return [(f, by_pointer[f"/enclosure/fastenings/{i}"]) for i, f in held]


def _way_through(case: Enclosure, post: Fastening, body: Placed) -> Manifold:
    """A screw's way through the upper piece. Holes are drawn wider by what the process makes them narrower."""
    assert post.thread is not None
    more = making_of(case).hole
    at, top = _middle(body), case.outer_mm[2]
    way = _bore(at, CLEARS_MM[post.thread] + more, split_mm(case) - BEYOND_MM, top + BEYOND_MM)
    if not post.sunk:
        return way
    head, deep = HEAD_MM[post.thread]
    face = float(wall_on(case, SIDES.index("top"), at[None, :2])[1][0])
    face = face if np.isfinite(face) else top
    slope = (head - CLEARS_MM[post.thread]) / 2 / deep
    high = top + BEYOND_MM
    cone = _bore(at, CLEARS_MM[post.thread] + more, face - deep, high, wider=2 * slope * (high - face + deep))
    return way + cone


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


def _bore(at: Array, diameter: float, bottom: float, top: float, corners: int = ROUND, wider: float = 0.0) -> Manifold:
    """A hole, `wider` at its top by so much."""
    from manifold3d import Manifold

    return Manifold.cylinder(max(top - bottom, 1e-3), diameter / 2, (diameter + wider) / 2, corners).translate(
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
    """The pieces beside each other as they are printed, from 0, 0, 0 on.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> laid = on_the_bed(pieces(design))
    >>> [bool(abs(piece.vertices[:, 2].min()) < 1e-9) for piece in laid]
    [True, True]
    """
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
