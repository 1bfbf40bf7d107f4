"""Letters on the case, raised or engraved: outlines of the font that comes with it, drawn straight onto a side, as deep everywhere as the side runs there."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from ..case_shape import outer_solid
from ..design import CaseLabel, Enclosure
from ..numeric import Array
from .solids import SIDES

if TYPE_CHECKING:
    from fontTools.ttLib import TTFont
    from manifold3d import CrossSection, Manifold

FONT = Path(__file__).parent / "font" / "HankenGrotesk-Bold.ttf"
CURVE_PARTS = 6  # straight lines for a curve of a letter
BEYOND_MM = 1.0
ROOT_MM = 0.3  # raised letters begin so deep in the wall
STROKE = 0.2  # of the height of its capitals: how wide a stroke of this font is
# how a text stands on each side, seen from outside: (the axis along the line, its sign, the axis upwards, its sign)
READS: tuple[tuple[int, float, int, float], ...] = (
    (1, -1.0, 2, 1.0), (1, 1.0, 2, 1.0), (0, 1.0, 2, 1.0), (0, -1.0, 2, 1.0), (0, -1.0, 1, 1.0), (0, 1.0, 1, 1.0),
)  # fmt: skip


@lru_cache(maxsize=1)
def _font() -> TTFont:
    from fontTools.ttLib import TTFont

    return TTFont(FONT, lazy=False)


def missing_letters(text: str) -> list[str]:
    """The signs of a text that the font does not have."""
    known = _font().getBestCmap()
    return sorted({sign for sign in text if ord(sign) not in known})


@lru_cache(maxsize=64)
def _loops(text: str) -> tuple[tuple[tuple[float, float], ...], ...]:
    """The outlines of a line of text, from 0 on, where a capital is 1 high. Signs that the font does not have are left out."""
    from fontTools.pens.recordingPen import DecomposingRecordingPen

    font = _font()
    glyphs, known = font.getGlyphSet(), font.getBestCmap()
    capital = float(font["OS/2"].sCapHeight)
    at, loops = 0.0, []
    for sign in text:
        name = known.get(ord(sign))
        if name is None:
            continue
        pen = DecomposingRecordingPen(glyphs)
        glyphs[name].draw(pen)
        loop: list[tuple[float, float]] = []
        for kind, points in pen.value:
            if kind == "moveTo":
                loop = [points[0]]
            elif kind == "lineTo":
                loop.append(points[0])
            elif kind == "qCurveTo":
                loop += _curve(loop[-1], points)
            else:  # closePath
                loops.append(tuple(((at + x) / capital, y / capital) for x, y in loop))
        at += glyphs[name].width
    return tuple(loops)


def _curve(begin: tuple[float, float], points: tuple[tuple[float, float], ...]) -> list[tuple[float, float]]:
    """Points on a quadratic spline: between two of its handles lies a point halfway."""
    found, start = [], np.asarray(begin, dtype=float)
    *handles, last = (np.asarray(p, dtype=float) for p in points)
    for k, handle in enumerate(handles):
        end = last if k == len(handles) - 1 else (handle + handles[k + 1]) / 2
        for t in np.linspace(0, 1, CURVE_PARTS + 1)[1:]:
            x, y = (1 - t) ** 2 * start + 2 * t * (1 - t) * handle + t**2 * end
            found.append((float(x), float(y)))
        start = end
    return found


def _flat(label: CaseLabel) -> CrossSection:
    """The text about its middle, as high and turned as the document says [mm]."""
    from manifold3d import CrossSection, FillRule

    loops = [[(x * label.height_mm, y * label.height_mm) for x, y in loop] for loop in _loops(label.text)]
    drawn = CrossSection(loops, FillRule.NonZero) if loops else CrossSection()
    if drawn.is_empty():
        return drawn
    low_x, _, high_x, _ = drawn.bounds()
    return drawn.translate((-(low_x + high_x) / 2, -label.height_mm / 2)).rotate(label.turned_deg)


def label_size_mm(label: CaseLabel) -> tuple[float, float]:
    """How wide and how high a label is on its side, turned as it is [mm]."""
    drawn = _flat(label)
    if drawn.is_empty():
        return 0.0, 0.0
    low_x, low_y, high_x, high_y = drawn.bounds()
    return high_x - low_x, high_y - low_y


def label_box(label: CaseLabel, case: Enclosure) -> tuple[Array, Array]:
    """The least and the most that a label takes of its side, along the other two axes in their order [mm], (2,) each."""
    side = SIDES.index(label.side)
    along, sign_along, up, sign_up = READS[side]
    drawn = _flat(label)
    low_x, low_y, high_x, high_y = (0.0, 0.0, 0.0, 0.0) if drawn.is_empty() else drawn.bounds()
    low, high = np.zeros(3), np.zeros(3)
    for axis, sign, a, b in ((along, sign_along, low_x, high_x), (up, sign_up, low_y, high_y)):
        low[axis], high[axis] = (a, b) if sign > 0 else (-b, -a)
    others = [k for k in range(3) if k != side // 2]
    at = _middle(label, case)
    return low[others] + at, high[others] + at


def _middle(label: CaseLabel, case: Enclosure) -> Array:
    """Where its middle is along the other two axes in their order [mm], (2,)."""
    if label.at_mm is not None:
        return np.asarray(label.at_mm, dtype=float)
    return np.delete(np.asarray(case.outer_mm, dtype=float), SIDES.index(label.side) // 2) / 2


def label_solid(label: CaseLabel, case: Enclosure) -> Manifold:
    """What a raised label adds to the case, or what an engraved one takes off: the letters drawn through their side, between its outer face and the same moved
    by the label's depth. Not of a case from a file."""
    from manifold3d import Manifold

    side = SIDES.index(label.side)
    axis, outwards = side // 2, 1.0 if side % 2 else -1.0
    along, sign_along, up, sign_up = READS[side]
    middle = np.zeros(3)
    middle[[k for k in range(3) if k != axis]] = _middle(label, case)
    half = case.outer_mm[axis] / 2
    middle[axis] = half
    way = np.zeros((3, 4))
    way[along, 0], way[up, 1], way[axis, 2] = sign_along, sign_up, outwards
    way[:, 3] = middle
    letters = Manifold.extrude(_flat(label), half + label.depth_mm + BEYOND_MM).transform(way)
    whole = outer_solid(case)

    def moved(by: float) -> Manifold:
        to = np.zeros(3)
        to[axis] = by * outwards
        return whole.translate(tuple(to))

    if label.raised:
        return (letters ^ moved(label.depth_mm)) - moved(-min(ROOT_MM, case.walls[side] / 2))
    return letters - moved(-label.depth_mm)
