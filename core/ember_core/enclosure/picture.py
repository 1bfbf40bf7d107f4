"""A small picture of a gadget: its bodies where they lie, inside their case, seen from the corner, as SVG.

Parallel projection. Each convex piece is painted by the faces that look at the beholder, the farther piece first; the case is drawn
around them as if it were of glass.
"""

from __future__ import annotations

import math

import numpy as np

from ..case_shape import corners_of, material, outer_solid
from ..design import Design
from ..numeric import Array
from .bodies import Placed, made_of, placed_bodies
from .solids import hull

WIDTH, HEIGHT, MARGIN = 240.0, 160.0, 6.0
MOST_PIECES = 120  # of one picture: the largest
MOST_FACES = 40  # of a piece: beyond that only its outline is painted
FLAT = 1e-3  # of a normal: faces within it are one
LARGE = 0.03  # of what is seen of the case: such faces get edges
_TOWARDS = np.array([-0.62, -1.0, 0.72]) / math.sqrt(0.62**2 + 1.0 + 0.72**2)  # the beholder
_RIGHT = np.cross(-_TOWARDS, [0.0, 0.0, 1.0]) / float(np.linalg.norm(np.cross(-_TOWARDS, [0.0, 0.0, 1.0])))
_UP = np.cross(_RIGHT, -_TOWARDS)
_LIGHT = np.array([-0.25, -0.55, 0.8])
PALE = {"cell": "#e8763f", "board": "#8d8370", "glass": "#45403a", "metal": "#c3b9a8", "case": "#ddd4c4", "other": "#a99f8e", "line": "#7a7061", "wall": "#d9cfbd"}  # fmt: skip
_DARK = {"cell": "#ff7d3b", "board": "#7d7466", "glass": "#cfc5b4", "metal": "#5b5349", "case": "#4a433b", "other": "#6a6156", "line": "#a0947f", "wall": "#3a342e"}  # fmt: skip


def picture(design: Design, *, dark: bool = False) -> str:
    """The gadget as an SVG document of 240 by 160, on no ground, for a light or a `dark` page.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> picture(design)[:4]
    '<svg'
    """
    tints = _DARK if dark else PALE
    case = design.enclosure
    outer = corners_of(material(case).hull() if case.shape is not None else outer_solid(case))
    pieces = [(points, made_of(design, body.pointer)) for body in placed_bodies(design) for points in _corners(body)]
    pieces = sorted(pieces, key=lambda p: -float(np.prod(np.ptp(p[0], axis=0))))[:MOST_PIECES]
    ordered = [pieces[i] for i in _from_behind([p[0] for p in pieces])]
    seen = _seen(np.concatenate([outer, *(p[0] for p in pieces)]))
    low, extent = seen.min(axis=0), np.maximum(np.ptp(seen, axis=0), 1e-9)
    scale = float(min((WIDTH - 2 * MARGIN) / extent[0], (HEIGHT - 2 * MARGIN) / extent[1]))
    shift = np.array([WIDTH, HEIGHT]) / 2 - (low + extent / 2) * scale

    def path(outline: Array) -> str:
        return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in outline * scale + shift) + "Z"

    ground = f'<path d="{path(_outline(_seen(outer)))}" fill="{tints["wall"]}" fill-opacity="0.55"/>'
    bodies = [_painted(points, tints[made], path) for points, made in ordered]
    faces = _facing(outer)
    whole = sum(_area(f) for _, f in faces) or 1.0
    edges = [f'<path d="{path(f)}"/>' for _, f in faces if _area(f) >= LARGE * whole]
    glass = f'<g fill="{tints["wall"]}" fill-opacity="0.12" stroke="{tints["line"]}" stroke-opacity="0.6" stroke-width="0.7">'
    rim = f'<path d="{path(_outline(_seen(outer)))}" fill="none" stroke="{tints["line"]}" stroke-width="1.1"/>'
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH:g} {HEIGHT:g}" stroke-linejoin="round">'
        + "".join([ground, *bodies, glass, *edges, "</g>", rim])
        + "</svg>"
    )


def _corners(body: Placed) -> list[Array]:
    return [np.asarray(piece.corners, dtype=float) for piece in body.pieces]


def _seen(points: Array) -> Array:
    """Where points are seen, to the right and downwards, (n, 2)."""
    return np.stack([points @ _RIGHT, -(points @ _UP)], axis=1)


def _outline(flat: Array) -> Array:
    from manifold3d import CrossSection

    found = CrossSection.hull_points(flat).to_polygons()
    return np.asarray(found[0]) if found else flat[:1]


def _area(outline: Array) -> float:
    x, y = outline.T
    return abs(float(x @ np.roll(y, -1) - y @ np.roll(x, -1))) / 2


def _facing(points: Array) -> list[tuple[Array, Array]]:
    """The faces of the convex solid of some points that look at the beholder: (normal, outline as it is seen)."""
    mesh = hull(points).to_mesh()
    corners = np.asarray(mesh.vert_properties, dtype=float)[:, :3][np.asarray(mesh.tri_verts)]
    if not len(corners):
        return []
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    towards = normals @ _TOWARDS > FLAT
    keys, of = np.unique(np.round(normals[towards] / FLAT / 4).astype(int), axis=0, return_inverse=True)
    of = np.ravel(of)
    corners, normals = corners[towards], normals[towards]
    return [(normals[of == k][0], _outline(_seen(corners[of == k].reshape(-1, 3)))) for k in range(len(keys))]


def _painted(points: Array, tint: str, path: object) -> str:
    assert callable(path)
    rim = path(_outline(_seen(points)))
    faces = _facing(points)
    if len(faces) > MOST_FACES:
        faces = []
    shades = [
        f'<path d="{path(face)}" fill="{_shaded(tint, normal)}" stroke="{_shaded(tint, normal)}" stroke-width="0.4"/>'
        for normal, face in faces
    ]
    return (
        f'<path d="{rim}" fill="{tint}"/>'
        + "".join(shades)
        + f'<path d="{rim}" fill="none" stroke="#1c1916" stroke-opacity="0.5" stroke-width="0.7"/>'
    )


def _shaded(tint: str, normal: Array) -> str:
    bright = 0.72 + 0.34 * max(0.0, float(normal @ _LIGHT))
    return "#" + "".join(f"{min(255, round(int(tint[i : i + 2], 16) * bright)):02x}" for i in (1, 3, 5))


def _from_behind(pieces: list[Array]) -> list[int]:
    """The order in which pieces are painted: each after all that a plane across an axis shows to lie behind it; where that runs in a circle, the
    farther one first."""
    if not pieces:
        return []
    low = np.array([p.min(axis=0) for p in pieces])
    high = np.array([p.max(axis=0) for p in pieces])
    far = -((low + high) / 2 @ _TOWARDS)
    parted = 1e-6
    behind = np.zeros((len(pieces), len(pieces)), dtype=bool)  # [a, b]: a lies behind b
    for axis in range(3):
        one, other = (low, high) if _TOWARDS[axis] < 0 else (-high, -low)
        behind |= one[:, None, axis] >= other[None, :, axis] - parted
    behind &= ~behind.T  # behind along one axis and before along another: neither hides the other for sure
    left, order = set(range(len(pieces))), list[int]()
    while left:
        free = [b for b in left if not any(behind[a, b] for a in left)]
        chosen = max(free or left, key=lambda i: (far[i], -i))
        order.append(chosen)
        left.remove(chosen)
    return order
