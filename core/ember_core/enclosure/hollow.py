"""What is inside a case from a file, whose openings may be many and whose form may be any: on a grid of small cubes.

What lies so near to the material that no ball of some radius passes is closed; what then is not reached from outside is inside (a morphological
closing; Serra, Image Analysis and Mathematical Morphology, 1982). The least radius is taken with which there is an inside worth the name, so
that an opening is bridged as if it had its lid. A case that is open on a side altogether gets that side closed by a plane, which is told.
"""

from __future__ import annotations

import atexit
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..case_shape import material
from ..design import Enclosure, Side
from ..numeric import Array
from .solids import SIDES, Kept, Solid

CUBES = 90  # along the longest side
LEAST_CUBE_MM = 0.4
CLOSES_MM = (0.0, 1.5, 4.0, 9.0, 16.0)  # radius of the ball that must not get in
WORTH_MM3 = 100.0
WORTH = 0.6  # of the room beside the material within its hull: less is no inside of a case
AS_MUCH = 0.9  # of what the largest radius leaves: the least one with as much is taken
SLACK = 1.8  # cubes: what lies so little outside may be inside


@dataclass(frozen=True)
class Hollow:
    """`inside`, shape (nx, ny, nz), of cubes of `step_mm` from `low_mm` on; `off_mm`: how far each cube is from the inside. `open_side`: what had
    to be closed by a plane."""

    low_mm: Array
    step_mm: float
    inside: np.ndarray
    off_mm: Array
    open_side: Side | None

    def beyond_mm(self, points: Array) -> float:
        """How far the farthest of some points, (n, 3), is outside, beyond what the grid can tell [mm]; 0 where none is."""
        at = np.floor((points - self.low_mm) / self.step_mm).astype(int)
        most = np.array(self.inside.shape) - 1
        held = np.clip(at, 0, most)
        far = self.off_mm[held[:, 0], held[:, 1], held[:, 2]]
        past = np.linalg.norm((at - held) * self.step_mm, axis=1)
        worst = float((far + past).max(initial=0.0))
        return worst if worst > SLACK * self.step_mm else 0.0

    @property
    def room_mm3(self) -> float:
        return float(self.inside.sum()) * self.step_mm**3


def hollow_of(case: Enclosure) -> Hollow:
    """Of a case from a file.

    >>> from manifold3d import Manifold
    >>> from ember_core.design import Enclosure
    >>> solid = Manifold.cube((40, 30, 20)) - Manifold.cube((36, 26, 16)).translate((2, 2, 2))
    >>> mesh = solid.to_mesh()
    >>> surface = {"corners_mm": mesh.vert_properties[:, :3].tolist(), "faces": mesh.tri_verts.tolist()}
    >>> case = Enclosure(outer_mm=(40, 30, 20), shape={"name": "box.stl", "surface": surface, "volume_mm3": solid.volume()})
    >>> [hollow_of(case).beyond_mm(np.array([[20.0, 15.0, z]])) > 0 for z in (10.0, -3.0)]
    [False, True]
    """
    assert case.shape is not None
    return _hollow(walls_of(case).kept)


def walls_of(case: Enclosure) -> Solid:
    """The material of a case from a file.

    >>> from manifold3d import Manifold
    >>> from ember_core.design import Enclosure
    >>> solid = Manifold.cube((40, 30, 20)) - Manifold.cube((36, 26, 16)).translate((2, 2, 2))
    >>> mesh = solid.to_mesh()
    >>> surface = {"corners_mm": mesh.vert_properties[:, :3].tolist(), "faces": mesh.tri_verts.tolist()}
    >>> case = Enclosure(outer_mm=(40, 30, 20), shape={"name": "box.stl", "surface": surface, "volume_mm3": solid.volume()})
    >>> low, high = walls_of(case).corners.min(axis=0), walls_of(case).corners.max(axis=0)
    >>> low.tolist(), high.tolist()
    ([0.0, 0.0, 0.0], [40.0, 30.0, 20.0])
    """
    assert case.shape is not None
    surface = case.shape.surface
    return Solid(surface.corners, material(case), surface.content)


@lru_cache(maxsize=16)
def _hollow(kept: Kept) -> Hollow:
    from scipy.ndimage import distance_transform_edt

    solid = kept.solid
    low, high = solid.corners.min(axis=0), solid.corners.max(axis=0)
    step = max(float((high - low).max()) / CUBES, LEAST_CUBE_MM)
    margin = int(np.ceil(max(CLOSES_MM) / step)) + 2
    start = low - margin * step
    shape = np.ceil((high - low) / step).astype(int) + 2 * margin
    wall = filled(solid, start, step, (int(shape[0]), int(shape[1]), int(shape[2])))
    room = float(solid.whole.hull().volume() - solid.whole.volume()) / step**3
    inside, side = None, None
    if room > WORTH_MM3 / step**3:
        inside = _closed(wall, step, room)
        if inside is None:
            side = _most_open(wall, margin)
            inside = _closed(_capped(wall, margin, side), step, room)
            side = None if inside is None else side
    if inside is None:
        inside = np.zeros_like(wall)
    off = distance_transform_edt(~(inside | wall)) * step if inside.any() else np.full(wall.shape, np.inf)
    return Hollow(start, step, inside, np.asarray(off), side)


atexit.register(_hollow.cache_clear)  # solids that are left at the end are complained about


def _most_open(wall: np.ndarray, margin: int) -> Side:
    """The side from which one sees deepest into it."""
    core = wall[tuple(slice(margin, n - margin) for n in wall.shape)]
    depths = []
    for s in range(6):
        seen = np.moveaxis(core, s // 2, 0)[:: 1 if s % 2 == 0 else -1]
        met = seen.any(axis=0)
        depths.append(float(np.mean(np.argmax(seen, axis=0)[met])) / len(seen) if met.any() else 0.0)
    return SIDES[int(np.argmax(depths))]


def _capped(wall: np.ndarray, margin: int, side: Side) -> np.ndarray:
    """With a plane before one side."""
    s, capped = SIDES.index(side), wall.copy()
    at = [slice(margin, n - margin) for n in wall.shape]
    at[s // 2] = slice(margin - 1, margin) if s % 2 == 0 else slice(-margin, -margin + 1)
    capped[tuple(at)] = True
    return capped


def _closed(wall: np.ndarray, step: float, room: float) -> np.ndarray | None:
    """The cubes that are not reached from outside; None where no radius leaves enough."""
    from scipy.ndimage import distance_transform_edt, label

    near, found = distance_transform_edt(~wall) * step, []
    for radius in CLOSES_MM:
        parts, _ = label(near > max(radius, 0.5 * step))
        reached = (parts == parts[0, 0, 0]) & (parts > 0)
        outside = (distance_transform_edt(~reached) * step <= radius) if radius else reached
        inside = ~wall & ~outside
        if radius == 0.0:
            inside &= near > 0.5 * step  # what lies outside against the wall, less than a cube away
        found.append((int(inside.sum()), inside))
    most = max(count for count, _ in found)
    if not most or most < WORTH * room:
        return None
    return _large(next(inside for count, inside in found if count >= AS_MUCH * most))


def _large(inside: np.ndarray) -> np.ndarray:
    """Without the crumbs along the outer faces."""
    from scipy.ndimage import label

    parts, count = label(inside)
    if count < 2:
        return inside
    sizes = np.bincount(parts.ravel())
    sizes[0] = 0
    return np.asarray(np.isin(parts, np.flatnonzero(sizes >= sizes.max() / 100)))


def filled(solid: Solid, low: Array, step: float, shape: tuple[int, int, int]) -> np.ndarray:
    """Which cubes have their middle in a solid: its slices, row by row, by the parity of the crossings.

    >>> from manifold3d import Manifold
    >>> cube = Manifold.cube((10.0, 20.0, 30.0))
    >>> solid = Solid(np.asarray(cube.to_mesh().vert_properties)[:, :3], cube)
    >>> bool(filled(solid, np.zeros(3), 5.0, (2, 4, 6)).all())
    True
    """
    found = np.zeros(shape, dtype=bool)
    rows = low[1] + (np.arange(shape[1]) + 0.5) * step
    for k in range(shape[2]):
        polygons = solid.whole.slice(float(low[2] + (k + 0.5) * step)).to_polygons()
        if not polygons:
            continue
        a = np.concatenate([np.asarray(p) for p in polygons])
        b = np.concatenate([np.roll(np.asarray(p), -1, axis=0) for p in polygons])
        crosses = (a[:, 1, None] <= rows) != (b[:, 1, None] <= rows)  # (edges, rows)
        e, j = np.nonzero(crosses)
        x = a[e, 0] + (rows[j] - a[e, 1]) / (b[e, 1] - a[e, 1]) * (b[e, 0] - a[e, 0])
        i = np.clip(np.ceil((x - low[0]) / step - 0.5), 0, shape[0]).astype(int)
        toggles = np.zeros((shape[0] + 1, shape[1]), dtype=np.int32)
        np.add.at(toggles, (i, j), 1)
        found[:, :, k] = np.cumsum(toggles, axis=0)[:-1] % 2 == 1
    return found


def points_in(piece: Solid, step: float) -> Array:
    """Points of a solid: its corners, and the middles of cubes of about that size in it, (n, 3).

    >>> from manifold3d import Manifold
    >>> cube = Manifold.cube((10.0, 20.0, 30.0))
    >>> points = points_in(Solid(np.asarray(cube.to_mesh().vert_properties)[:, :3], cube), 5.0)
    >>> points.min(axis=0).tolist(), points.max(axis=0).tolist()
    ([0.0, 0.0, 0.0], [10.0, 20.0, 30.0])
    """
    return _points_in(piece.kept, step)


@lru_cache(maxsize=256)
def _points_in(kept: Kept, step: float) -> Array:
    piece = kept.solid
    low, high = piece.corners.min(axis=0), piece.corners.max(axis=0)
    size = np.maximum(high - low, 1e-3)
    step = max(step, float(size.max()) / 40)
    shape = np.maximum(np.ceil(size / step), 1).astype(int)
    middles = np.argwhere(filled(piece, low, step, (int(shape[0]), int(shape[1]), int(shape[2]))))
    return np.concatenate([piece.corners, low + (middles + 0.5) * step])


atexit.register(_points_in.cache_clear)
