"""The case cut by a plane across one of its axes: what is cut of the walls and of each body, and the gaps measured in the plane."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from ..case_shape import is_plain, material, rounded_box
from ..design import Enclosure
from ..numeric import Array
from .bodies import Placed
from .solids import Solid

if TYPE_CHECKING:
    from manifold3d import Manifold

TOUCH_MM = 1e-6
ALIKE_MM = 1e-6  # distances that are the same


@dataclass(frozen=True)
class Cut:
    """Closed outlines in the plane [mm], each (n, 2), in the other two axes in their order. `shell` are those of the walls, outer ones and inner ones
    (`inside`: no outlines where the plane runs inside a wall). A body that the plane misses is not among `bodies`, by its position; one that is made of
    several pieces has an outline of each."""

    shell: list[Array]
    inside: list[Array]
    bodies: dict[int, list[Array]]


def cut(placed: list[Placed], case: Enclosure, axis: int, at_mm: float) -> Cut:
    """The section across an axis (0 to 2) at a distance from the outer corner [mm].

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.enclosure.bodies import placed_bodies
    >>> found = cut(placed_bodies(design), design.enclosure, 2, design.enclosure.outer_mm[2] / 2)
    >>> len(found.shell), len(found.inside)
    (2, 1)
    """
    sliced = {i: [o for p in body.pieces for o in _cut_of(p, axis, at_mm)] for i, body in enumerate(placed)}
    shell, inside = _walls_cut(case, axis, at_mm)
    return Cut(shell, inside, {i: outlines for i, outlines in sliced.items() if outlines})


def _walls_cut(case: Enclosure, axis: int, at: float) -> tuple[list[Array], list[Array]]:
    """(all outlines of the walls, those that look inwards)."""
    if is_plain(case):
        walls, outer = np.asarray(case.walls), np.asarray(case.outer_mm, dtype=float)
        shell = rounded_box(np.zeros(3), outer, case.corner_mm, axis, at)
        cavity = rounded_box(walls[0::2], outer - walls[1::2], case.inner_corner_mm, axis, at)
        inside = [cavity[::-1]] if len(cavity) else []
        return [*([shell] if len(shell) else []), *inside], inside
    found = slices(material(case), axis, at)
    return found, [o for o in found if area(o) < 0]


def area(outline: Array) -> float:
    """Of a closed outline, negative where it runs clockwise.

    >>> import numpy as np
    >>> area(np.array([[0, 0], [2, 0], [2, 1], [0, 1]]))
    2.0
    """
    x, y = outline.T
    return float(x @ np.roll(y, -1) - y @ np.roll(x, -1)) / 2


def slices(solid: Manifold, axis: int, at: float) -> list[Array]:
    """The outlines of any solid cut: outer ones counter-clockwise in the other two axes in their order, inner ones the other way round.

    >>> from manifold3d import Manifold
    >>> outline = slices(Manifold.cube((10.0, 20.0, 30.0)), 2, 15.0)[0]
    >>> outline.min(axis=0).tolist(), outline.max(axis=0).tolist()
    ([0.0, 0.0], [10.0, 20.0])
    """
    u, v = (k for k in range(3) if k != axis)
    way = np.zeros((3, 4))
    way[0, u] = way[1, v] = way[2, axis] = 1.0
    return [np.asarray(o) for o in solid.transform(way).slice(at).to_polygons()]


def _cut_of(piece: Solid, axis: int, at: float) -> list[Array]:
    if piece.made is not None:
        return [o for o in slices(piece.made, axis, at) if area(o) > 0]
    outline = _sliced(piece.corners, axis, at)
    return [outline] if len(outline) else []


def _sliced(points: Array, axis: int, at: float) -> Array:
    """A convex solid cut: the outline through which its edges go; no rows where the plane misses it."""
    from manifold3d import CrossSection

    height = points[:, axis] - at
    below, above = points[height < -TOUCH_MM], points[height > TOUCH_MM]
    if not len(below) or not len(above):
        return np.zeros((0, 2))
    part = (at - below[:, None, axis]) / (above[None, :, axis] - below[:, None, axis])
    through = below[:, None] + part[..., None] * (above[None] - below[:, None])
    flat = np.delete(through.reshape(-1, 3), axis, axis=1)
    found = CrossSection.hull_points(flat).to_polygons()
    return np.asarray(found[0]) if found else np.zeros((0, 2))


def nearest(one: Array, other: Array) -> tuple[Array, Array]:
    """The two points, one on each outline, that are nearest to each other, (2,) each; between edges that run side by side those in the middle. An outline
    inside another one is measured to its edge.

    >>> import numpy as np
    >>> square = np.array([[0.0, 0], [2, 0], [2, 2], [0, 2]])
    >>> [point.tolist() for point in nearest(square, square + (3.0, 0.0))]
    [[2.0, 1.0], [3.0, 1.0]]
    """
    pairs = []
    for first, second, turned in ((one, other, False), (other, one, True)):
        along = second[[*range(1, len(second)), 0]] - second
        length = np.maximum((along**2).sum(axis=1), 1e-18)
        part = np.clip(((first[:, None] - second) * along).sum(axis=2) / length, 0.0, 1.0)
        foot = second + part[..., None] * along
        corner = np.broadcast_to(first[:, None], foot.shape)
        pairs.append(np.concatenate([foot, corner] if turned else [corner, foot], axis=2).reshape(-1, 4))
    both = np.concatenate(pairs)
    way = both[:, 2:] - both[:, :2]
    far = np.hypot(way[:, 0], way[:, 1])
    best = int(np.argmin(far))
    off = way - way[best]
    chosen = both[(far <= far[best] + ALIKE_MM) & (np.hypot(off[:, 0], off[:, 1]) <= ALIKE_MM)].round(6)
    middle = (chosen.min(axis=0) + chosen.max(axis=0)) / 2
    return np.asarray(middle[:2]), np.asarray(middle[2:])


def crosses(one: Array, other: Array) -> bool:
    """Whether two convex outlines overlap by more than they touch: no line between them.

    >>> import numpy as np
    >>> square = np.array([[0.0, 0], [2, 0], [2, 2], [0, 2]])
    >>> crosses(square, square + 1.0), crosses(square, square + 3.0)
    (True, False)
    """
    for outline in (one, other):
        along = outline[[*range(1, len(outline)), 0]] - outline
        normals = along[:, ::-1] * (1.0, -1.0)
        a, b = one @ normals.T, other @ normals.T
        if np.any((a.max(axis=0) <= b.min(axis=0) + TOUCH_MM) | (b.max(axis=0) <= a.min(axis=0) + TOUCH_MM)):
            return False
    return True
