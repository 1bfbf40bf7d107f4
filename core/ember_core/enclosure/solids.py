"""Bodies as solids: their corners when they are turned, and the distance of two that are not cuboids along the axes.

A body is convex here, or made of convex pieces: a cuboid, a cylinder as a prism whose sides touch it from outside, the hull of a mesh, or a
board with the blocks on it; or it has a closed surface of its own. Distances are found on the surfaces (manifold3d).
"""

from __future__ import annotations

import atexit
import math
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import TYPE_CHECKING

import numpy as np

from ..design import Body, Grid, Part, Side, Zone
from ..design.surfaces import solid_of
from ..numeric import Array

if TYPE_CHECKING:
    from manifold3d import Manifold

SIDES_OF_ROUND = 72  # of the prism that a cylinder is taken for: a thousandth of its radius too wide at its edges
TOUCHING_MM3 = 1e-6
SEARCHED_MM = 2.0  # how far at least surfaces that are not convex are searched: the time grows with its cube
NEAREST_CORNERS = 200
TOUCHING_MM = 1e-3
MOST_WAYS, TRIED_WAYS = 40, 4  # out of a solid that is not convex: faces that are looked at, and moves that are tried
MOST_DIFFERENCES = 6_000  # of the corners of two solids
STRAIGHT_ON = 0.9  # cosine: up to some 25 degrees off, a side still looks to that of the case
SIDES: tuple[Side, ...] = ("left", "right", "front", "back", "bottom", "top")
_CUBE = np.array([[x, y, z] for x in (0.0, 1.0) for y in (0.0, 1.0) for z in (0.0, 1.0)])


def turned_by(turn_deg: tuple[float, float, float]) -> Array:
    """The matrix that turns about the x, then the y, then the z axis, (3, 3).

    >>> import numpy as np
    >>> turned_by((0, 0, 90)).round().astype(int).tolist()
    [[0, -1, 0], [1, 0, 0], [0, 0, 1]]
    """
    a, b, c = np.radians(turn_deg)
    about_x = np.array([[1, 0, 0], [0, np.cos(a), -np.sin(a)], [0, np.sin(a), np.cos(a)]])
    about_y = np.array([[np.cos(b), 0, np.sin(b)], [0, 1, 0], [-np.sin(b), 0, np.cos(b)]])
    about_z = np.array([[np.cos(c), -np.sin(c), 0], [np.sin(c), np.cos(c), 0], [0, 0, 1]])
    return np.asarray(about_z @ about_y @ about_x)


def corners(body: Body, grown_mm: Array | None = None) -> Array:
    """The corners of a body [mm], shape (n, 3); of one without a place as if it stood at the origin. `grown_mm`, (3,), is what it grows at its
    far sides, before it is turned, as a pouch does that swells.

    >>> from ember_core.design import Body
    >>> box = Body(size_mm=(10, 20, 30))
    >>> corners(box).max(axis=0).tolist()
    [10.0, 20.0, 30.0]
    """
    pieces = piece_corners(body, grown_mm)
    return pieces[0] if len(pieces) == 1 else np.concatenate(pieces)


def pieces_of(body: Body, grown_mm: Array | None = None) -> tuple[Solid, ...]:
    """The solids that a body is made of, where it is; `grown_mm` as for `corners`.

    >>> from ember_core.design import Body
    >>> box = Body(size_mm=(10, 20, 30))
    >>> len(pieces_of(box))
    1
    """
    if body.shape != "mesh" or body.surface is None:
        return tuple(Solid(points) for points in piece_corners(body, grown_mm))
    made = solid_of(body.surface)
    assert made is not None, "checked with the document"
    size = np.asarray(body.size_mm, dtype=float)
    larger = np.ones(3) if grown_mm is None else (size + grown_mm) / size
    points = _turned(body, body.surface.corners * larger)
    way = np.diag(larger) if not any(body.turn_deg) else turned_by(body.turn_deg) @ np.diag(larger)
    placed = np.column_stack([way, _turned(body, np.zeros((1, 3)))[0]])
    return (Solid(points, made.transform(placed), (*body.surface.content, placed.tobytes())),)


def copy_offsets(part: Part, gap_mm: float) -> Array:
    """Where each copy of a part lies from the first one on, along the case's axes [mm], (copies, 3).

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> part = design.parts[0].model_copy(update={"quantity": 3})
    >>> copy_offsets(part, 1.0).shape
    (3, 3)
    """
    body, count = part.body, part.quantity
    if count <= 1 or body is None:
        return np.zeros((1, 3))
    grid = part.grid or Grid(columns=math.ceil(math.sqrt(count)))
    reach = np.ptp(corners(body.model_copy(update={"position_mm": None})), axis=0) + gap_mm
    along, across = "xyz".index(grid.along), "xyz".index(grid.across)
    places = np.arange(count)
    offsets = np.zeros((count, 3))
    offsets[:, along] = places % grid.columns * (reach[along] if grid.pitch_mm is None else grid.pitch_mm)
    offsets[:, across] = places // grid.columns * (reach[across] if grid.row_pitch_mm is None else grid.row_pitch_mm)
    return offsets


def piece_corners(body: Body, grown_mm: Array | None = None) -> list[Array]:
    """The same for each of the convex pieces that a body is made of: one but for a board with blocks on it.

    >>> from ember_core.design import Body
    >>> piece_corners(Body(size_mm=(4, 2, 1)), None)[0].shape
    (8, 3)
    """
    grown = np.zeros(3) if grown_mm is None else grown_mm
    if body.shape == "board":
        return [_turned(body, np.asarray(b.at_mm) + _CUBE * (np.asarray(b.size_mm) + grown)) for b in body.blocks]
    return [_turned(body, _unit(body) * (np.asarray(body.size_mm, dtype=float) + grown))]


def hole_ends(body: Body) -> Array:
    """The middles of a board's holes where they begin and where they end, below and above the board as it is before it is turned [mm], shape
    (holes, 2, 3).

    >>> from ember_core.design import Body
    >>> plate = {"name": "Board", "at_mm": (0, 0, 0), "size_mm": (50, 30, 1.6)}
    >>> holes = [{"at_mm": (3, 3), "diameter_mm": 3.2}]
    >>> hole_ends(Body(size_mm=(50, 30, 1.6), shape="board", blocks=[plate], holes=holes)).tolist()
    [[[3.0, 3.0, 0.0], [3.0, 3.0, 1.6]]]
    """
    if body.shape != "board" or not body.holes:
        return np.zeros((0, 2, 3))
    board = body.blocks[0]
    low = board.at_mm[2]
    ends = [[(*h.at_mm, low), (*h.at_mm, low + board.size_mm[2])] for h in body.holes]
    return _turned(body, np.asarray(ends, dtype=float).reshape(-1, 3)).reshape(-1, 2, 3)


def zone_corners(body: Body, zone: Zone) -> Array:
    """The corners of the room before one side of a body that must stay free [mm], (8, 3).

    >>> from ember_core.design import Body, Zone
    >>> corners = zone_corners(Body(size_mm=(10, 10, 5)), Zone(kind="plug", side="top", depth_mm=4))
    >>> corners.min(axis=0).tolist(), corners.max(axis=0).tolist()
    ([0.0, 0.0, 5.0], [10.0, 10.0, 9.0])
    """
    s = SIDES.index(zone.side)
    axis, far = s // 2, s % 2 == 1
    low, high = np.full(3, -float(zone.margin_mm)), np.asarray(body.size_mm, dtype=float) + zone.margin_mm
    low[axis], high[axis] = (body.size_mm[axis], body.size_mm[axis] + zone.depth_mm) if far else (-zone.depth_mm, 0.0)
    return _turned(body, low + _CUBE * np.maximum(high - low, 0.0))


def window_corners(body: Body) -> Array:
    """The corners of a body's window on the side that looks to its wall [mm], (4, 3) in their order around; none where it has no window or no side looks straight
    to that wall.

    >>> from ember_core.design import Body
    >>> shown = Body(size_mm=(30, 20, 4), through="top", window={"at_mm": (2, 3), "size_mm": (26, 14)})
    >>> window_corners(shown)[[0, 2]].tolist()
    [[2.0, 3.0, 4.0], [28.0, 17.0, 4.0]]
    """
    side = next((s for s in SIDES if looks_to(body, s) == body.through), None) if body.window else None
    if body.window is None or side is None:
        return np.zeros((0, 3))
    s = SIDES.index(side)
    u, v = (k for k in range(3) if k != s // 2)
    (a, b), (wide, tall) = body.window.at_mm, body.window.size_mm
    points = np.zeros((4, 3))
    points[:, s // 2] = body.size_mm[s // 2] if s % 2 else 0.0
    points[:, u], points[:, v] = (a, a + wide, a + wide, a), (b, b, b + tall, b + tall)
    return _turned(body, points)


def looks_to(body: Body, side: Side) -> Side | None:
    """The side of the case that a side of a body looks to, turned as it is; None where it looks between two.

    >>> from ember_core.design import Body
    >>> box = Body(size_mm=(10, 20, 30))
    >>> looks_to(box, "top"), looks_to(box.model_copy(update={"turn_deg": (0, 90, 0)}), "top")
    ('top', 'right')
    """
    s = SIDES.index(side)
    way = turned_by(body.turn_deg)[:, s // 2] * (1 if s % 2 else -1)
    axis = int(np.argmax(np.abs(way)))
    if abs(way[axis]) < STRAIGHT_ON:
        return None
    return SIDES[2 * axis + int(way[axis] > 0)]


def _turned(body: Body, points: Array) -> Array:
    """Points of a body, from its unturned corner on, where they are in the case."""
    low = np.asarray(body.position_mm or (0.0, 0.0, 0.0), dtype=float)
    if not any(body.turn_deg):
        return np.asarray(low + points)
    middle = np.asarray(body.size_mm, dtype=float) / 2
    return np.asarray(low + middle + (points - middle) @ turned_by(body.turn_deg).T)


def _unit(body: Body) -> Array:
    """The corners in a cube of side 1 (a cylinder's prism reaches a little beyond it)."""
    if body.shape == "cuboid":
        return _CUBE
    if body.shape == "mesh":
        return np.asarray(np.divide(body.hull_mm, body.size_mm))
    angle = np.arange(SIDES_OF_ROUND) * 2 * np.pi / SIDES_OF_ROUND + np.pi / SIDES_OF_ROUND
    radius = 0.5 / np.cos(np.pi / SIDES_OF_ROUND)
    ring = np.stack([0.5 + radius * np.cos(angle), 0.5 + radius * np.sin(angle)], axis=1)
    axis = "xyz".index(body.along)
    across = [i for i in range(3) if i != axis]
    points = np.zeros((2 * SIDES_OF_ROUND, 3))
    points[:, across] = np.concatenate([ring, ring])
    points[SIDES_OF_ROUND:, axis] = 1.0
    return points


def hull(points: Array) -> Manifold:
    """The convex solid of some corners.

    >>> from ember_core.design import Body
    >>> box = Body(size_mm=(10, 20, 30))
    >>> round(hull(corners(box)).volume())
    6000
    """
    from manifold3d import Manifold  # only where a body is round or turned

    return Manifold.hull_points(points)


@dataclass(frozen=True)
class Solid:
    """A solid by its corners [mm], shape (n, 3): convex, or as it was `made`."""

    corners: Array
    made: Manifold | None = None
    content: tuple[bytes, ...] = ()  # of one that was made: what it follows from

    def moved(self, by_mm: Array) -> Solid:
        """The same elsewhere."""
        if self.made is None:
            return Solid(self.corners + by_mm)
        made = self.made.translate(tuple(float(v) for v in by_mm))
        return Solid(self.corners + by_mm, made, (*self.content, np.asarray(by_mm, dtype=float).tobytes()))

    @cached_property
    def kept(self) -> Kept:
        """It by what it follows from, as most edits move none and the same is asked for again."""
        return Kept(self, hash(self.content or self.corners.tobytes()))

    @cached_property
    def whole(self) -> Manifold:
        return hull(self.corners) if self.made is None else self.made


class Kept:
    """A solid that another one of the same content stands for."""

    def __init__(self, solid: Solid, digest: int) -> None:
        self.solid, self.digest = solid, digest

    def __hash__(self) -> int:
        return self.digest

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, Kept) or self.digest != other.digest:
            return False
        one, two = self.solid, other.solid
        if one.made is None and two.made is None:
            return np.array_equal(one.corners, two.corners)
        return one is two or (one.content == two.content != ())


def distance_mm(one: Solid, other: Solid, search_mm: float = SEARCHED_MM) -> tuple[float, int]:
    """(gap, axis) of two solids [mm], and the axis along which the boxes around them are farthest apart. Where they
    overlap, the gap is negative: the shortest way out (`way_out`), and the axis is the one nearest to it. Of solids that are not convex, gaps from `search_mm`
    on are those of the boxes around them, or that much.

    >>> from ember_core.design import Body
    >>> box = Body(size_mm=(10, 20, 30))
    >>> one, = pieces_of(box)
    >>> other, = pieces_of(box.model_copy(update={"position_mm": (13.0, 0.0, 0.0)}))
    >>> distance_mm(one, other)
    (3.0, 0)
    """
    if one.made is None and other.made is None:
        return _convex_distance_mm(one.corners.tobytes(), other.corners.tobytes())
    return _kept_distance_mm(one.kept, other.kept, search_mm)


@lru_cache(maxsize=1024)
def _kept_distance_mm(one: Kept, other: Kept, search_mm: float) -> tuple[float, int]:
    return _distance_mm(one.solid, other.solid, search_mm)


def way_out(one: Solid, other: Solid) -> tuple[float, Array]:
    """(depth, direction) of two solids that overlap: how far the first has to be moved at least until they only touch [mm], and which way, (3,), a unit
    vector. Of convex ones the shortest way altogether: the face of their Minkowski difference that is nearest to the origin (van den Bergen,
    Collision Detection in Interactive 3D Environments, 2003); of others a way that is out, and mostly the shortest.

    >>> from ember_core.design import Body
    >>> box = Body(size_mm=(10, 20, 30))
    >>> one, = pieces_of(box)
    >>> other, = pieces_of(box.model_copy(update={"position_mm": (9.0, 0.0, 0.0)}))
    >>> depth, way = way_out(one, other)
    >>> round(depth, 3), way.round(3).tolist()
    (1.0, [-1.0, 0.0, 0.0])
    """
    if one.made is None and other.made is None:
        return _convex_way_out(one.corners.tobytes(), other.corners.tobytes())
    both = one.whole ^ other.whole
    mesh = both.to_mesh()
    inside = np.asarray(mesh.vert_properties, dtype=float)[:, :3]
    triangles = inside[np.asarray(mesh.tri_verts)]
    normals = np.cross(triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0])
    area = np.linalg.norm(normals, axis=1)
    largest = np.argsort(-area)[:MOST_WAYS]
    ways = np.concatenate(
        [np.eye(3), -np.eye(3), normals[largest] / area[largest, None], -normals[largest] / area[largest, None]]
    )
    reach = np.ptp(inside @ ways.T, axis=0)
    for k in np.argsort(reach, kind="stable")[:TRIED_WAYS]:
        moved = one.whole.translate(tuple(ways[k] * (reach[k] + TOUCHING_MM)))
        if (moved ^ other.whole).volume() <= TOUCHING_MM3:
            return float(reach[k]), ways[k]
    return _convex_way_out(one.corners.tobytes(), other.corners.tobytes())


@lru_cache(maxsize=256)
def _convex_way_out(one: bytes, other: bytes) -> tuple[float, Array]:
    from scipy.spatial import ConvexHull, QhullError

    first, second = (np.frombuffer(x).reshape(-1, 3) for x in (one, other))
    a, b = (_extreme(p) if len(first) * len(second) > MOST_DIFFERENCES else p for p in (first, second))
    try:
        faces = ConvexHull((b[:, None] - a[None]).reshape(-1, 3)).equations
        ways = faces[np.argsort(-faces[:, 3], kind="stable")[:MOST_WAYS], :3]  # moved so the first touches the second
    except QhullError:  # too flat for it: along the axes
        ways = np.concatenate([np.eye(3), -np.eye(3)])
    for wide in (
        (0.0,) if a is first and b is second else (0.0, 0.1, 0.03, 0.01)
    ):  # of some of the corners: looked at more closely with all
        near = np.concatenate([ways, ways[:1] + wide * _AROUND]) if wide else ways
        near = near / np.linalg.norm(near, axis=1)[:, None]
        depths = (second @ near.T).max(axis=0) - (first @ near.T).min(axis=0)
        ways = near[np.argsort(depths, kind="stable")]
    return float(depths.min()), np.asarray(ways[0])


_AROUND = np.random.default_rng(1).normal(size=(60, 3))


def _extreme(points: Array) -> Array:
    """Of many corners those that reach farthest in ways all around."""
    turn, height = np.meshgrid(np.linspace(0, 2 * np.pi, 24, endpoint=False), np.linspace(-1, 1, 13))
    flat = np.sqrt(1 - height**2)
    ways = np.stack([flat * np.cos(turn), flat * np.sin(turn), height], axis=-1).reshape(-1, 3)
    return np.asarray(points[np.unique(np.argmax(points @ ways.T, axis=0))])


@lru_cache(maxsize=1024)
def _convex_distance_mm(one: bytes, other: bytes) -> tuple[float, int]:
    """Of convex solids, by their corners: most edits move none, and the same pairs are asked for again."""
    return _distance_mm(Solid(np.frombuffer(one).reshape(-1, 3)), Solid(np.frombuffer(other).reshape(-1, 3)))


def _distance_mm(one: Solid, other: Solid, search_mm: float = SEARCHED_MM) -> tuple[float, int]:
    first, second, a, b = one.corners, other.corners, one.whole, other.whole
    if (a ^ b).volume() > TOUCHING_MM3:
        depth, way = way_out(one, other)
        return -depth, int(np.argmax(np.abs(way)))
    apart = np.maximum(second.min(axis=0) - first.max(axis=0), first.min(axis=0) - second.max(axis=0))
    axis = int(np.argmax(apart))
    if one.made is None and other.made is None:
        nearest = float(np.min(np.linalg.norm(first[:, None] - second[None], axis=2)))
        return float(a.min_gap(b, nearest + 1.0)), axis
    far = float(np.linalg.norm(np.maximum(apart, 0.0)))
    return max(far, surface_gap_mm(one, other, search_mm)) if far <= search_mm else far, axis


def surface_gap_mm(one: Solid, other: Solid, search_mm: float = SEARCHED_MM) -> float:
    """The gap of two solids that do not overlap, on their surfaces, or `search_mm` where it is more. The corners that are nearest to the other's middle bound what is
    searched: of two dense surfaces beside each other all triangles would be, one with another.

    >>> from ember_core.design import Body
    >>> box = Body(size_mm=(10, 20, 30))
    >>> one, = pieces_of(box)
    >>> other, = pieces_of(box.model_copy(update={"position_mm": (13.0, 0.0, 0.0)}))
    >>> round(surface_gap_mm(one, other), 3)
    2.0
    """
    middles = [(s.corners.min(axis=0) + s.corners.max(axis=0)) / 2 for s in (one, other)]
    near = []
    for solid, middle in zip((one, other), reversed(middles), strict=True):
        off = np.linalg.norm(solid.corners - middle, axis=1)
        near.append(solid.corners[np.argsort(off)[:NEAREST_CORNERS]])
    least = float(np.min(np.linalg.norm(near[0][:, None] - near[1][None], axis=2)))
    return float(one.whole.min_gap(other.whole, min(least + TOUCHING_MM, search_mm)))


def voids_of(solid: Solid) -> list[Manifold]:
    """The hollows of a body that nothing leads into: its closed surfaces that look inwards.

    >>> from manifold3d import Manifold
    >>> cube = Manifold.cube((10.0, 10.0, 10.0), True) - Manifold.cube((4.0, 4.0, 4.0), True)
    >>> [round(void.volume()) for void in voids_of(Solid(np.asarray(cube.to_mesh().vert_properties)[:, :3], cube))]
    [64]
    """
    return [] if solid.made is None else _voids(solid.kept)


@lru_cache(maxsize=256)
def _voids(kept: Kept) -> list[Manifold]:
    from manifold3d import Manifold, Mesh
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    assert kept.solid.made is not None
    mesh = kept.solid.made.to_mesh()
    corners, faces = np.asarray(mesh.vert_properties, dtype=np.float32)[:, :3], np.asarray(mesh.tri_verts)
    links = coo_array(
        (np.ones(2 * len(faces)), (faces[:, [0, 1]].ravel(), faces[:, [1, 2]].ravel())), shape=(len(corners),) * 2
    )
    count, part = connected_components(links, directed=False)
    found = []
    for k in range(count if count > 1 else 0):
        own = faces[part[faces[:, 0]] == k]
        points = corners[own].astype(float)
        if np.einsum("ij,ij->", points[:, 0], np.cross(points[:, 1], points[:, 2])) < 0:
            used, at = np.unique(own, return_inverse=True)
            flipped = at.reshape(own.shape)[:, ::-1].astype(np.uint32)
            found.append(Manifold(Mesh(corners[used].copy(), flipped.copy())))
    return found


for _cache in (_kept_distance_mm, _voids):  # solids that are left at the end are complained about
    atexit.register(_cache.cache_clear)


def outline(points: Array, axis: int) -> Array:
    """What a convex solid looks like along an axis: the corners of its outline in the other two axes in their order [mm], (n, 2).

    >>> from ember_core.design import Body
    >>> box = Body(size_mm=(10, 20, 30))
    >>> len(outline(corners(box), 2))
    4
    """
    from manifold3d import CrossSection

    flat = points[:, [k for k in range(3) if k != axis]]
    return np.asarray(CrossSection.hull_points(flat).to_polygons()[0])
