"""Letters on the case, raised or engraved: outlines of the font that comes with it, drawn straight onto a side, as deep everywhere as the side runs there."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from ..case_shape import outer_solid
from ..design import CaseLabel, Enclosure
from ..numeric import Array
from .solids import SIDES

if TYPE_CHECKING:
    from fontTools.ttLib import TTFont
    from manifold3d import CrossSection, Manifold

FONT = Path(__file__).parent / "font" / "HankenGrotesk-Bold.ttf"
PARTS = tuple(k / 6 for k in range(1, 7))  # straight lines for a curve of a letter
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
    """The signs of a text that the font does not have.

    >>> missing_letters("Ember 5"), missing_letters("火")
    ([], ['火'])
    """
    known = _font().getBestCmap()
    return sorted({sign for sign in text if ord(sign) not in known})


Loop = tuple[tuple[float, float], ...]


@lru_cache(maxsize=64)
def _loops(text: str) -> tuple[Loop, ...]:
    """The outlines of a line of text, from 0 on, where a capital is 1 high. Signs that the font does not have are left out."""
    from fontTools.pens.basePen import BasePen

    class Outlines(BasePen):  # type: ignore[misc]
        """What is drawn, as straight lines; composed glyphs and implied points are the base's."""

        def __init__(self, glyphs: Any) -> None:
            super().__init__(glyphs)
            self.drawn: list[list[tuple[float, float]]] = []

        def _moveTo(self, pt: tuple[float, float]) -> None:
            self.drawn.append([pt])

        def _lineTo(self, pt: tuple[float, float]) -> None:
            self.drawn[-1].append(pt)

        def _qCurveToOne(self, pt1: tuple[float, float], pt2: tuple[float, float]) -> None:
            (x0, y0), (x1, y1), (x2, y2) = self._getCurrentPoint(), pt1, pt2
            for t in PARTS:
                a, b, c = (1 - t) ** 2, 2 * t * (1 - t), t**2
                self.drawn[-1].append((a * x0 + b * x1 + c * x2, a * y0 + b * y1 + c * y2))

    font = _font()
    glyphs, known, capital = font.getGlyphSet(), font.getBestCmap(), float(font["OS/2"].sCapHeight)
    at, loops = 0.0, list[Loop]()
    for sign in text:
        name = known.get(ord(sign))
        if name is not None:
            pen = Outlines(glyphs)
            glyphs[name].draw(pen)
            loops += [tuple(((at + x) / capital, y / capital) for x, y in loop) for loop in pen.drawn]
            at += glyphs[name].width
    return tuple(loops)


def _flat(label: CaseLabel) -> CrossSection:
    """The text about its middle, as high and turned as the document says [mm]."""
    return _drawn(label.text, label.height_mm, label.turned_deg)


@lru_cache(maxsize=64)
def _drawn(text: str, height_mm: float, turned_deg: float) -> CrossSection:
    from manifold3d import CrossSection, FillRule

    loops = [[(x * height_mm, y * height_mm) for x, y in loop] for loop in _loops(text)]
    drawn = CrossSection(loops, FillRule.NonZero) if loops else CrossSection()
    if drawn.is_empty():
        return drawn
    low_x, _, high_x, _ = drawn.bounds()
    return drawn.translate((-(low_x + high_x) / 2, -height_mm / 2)).rotate(turned_deg)


def label_area_mm2(label: CaseLabel) -> float:
    """What its letters cover [mm2].

    >>> from ember_core.design import CaseLabel
    >>> round(label_area_mm2(CaseLabel(text="I")), 1)
    6.7
    """
    return _unit_area(label.text) * label.height_mm**2


@lru_cache(maxsize=64)
def _unit_area(text: str) -> float:
    """What a line of text covers where a capital is 1 high."""
    from manifold3d import CrossSection, FillRule

    loops = _loops(text)
    return float(CrossSection([list(loop) for loop in loops], FillRule.NonZero).area()) if loops else 0.0


def label_size_mm(label: CaseLabel) -> tuple[float, float]:
    """How wide and how high a label is on its side, turned as it is [mm].

    >>> from ember_core.design import CaseLabel
    >>> [round(v, 1) for v in label_size_mm(CaseLabel(text="I"))]
    [1.1, 6.0]
    """
    drawn = _flat(label)
    if drawn.is_empty():
        return 0.0, 0.0
    low_x, low_y, high_x, high_y = drawn.bounds()
    return high_x - low_x, high_y - low_y


def label_box(label: CaseLabel, case: Enclosure) -> tuple[Array, Array]:
    """The least and the most that a label takes of its side, along the other two axes in their order [mm], (2,) each.

    >>> from ember_core.design import CaseLabel, Enclosure
    >>> low, high = label_box(CaseLabel(text="Ember"), Enclosure(outer_mm=(60, 90, 24)))
    >>> bool((high > low).all())
    True
    """
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
    by the label's depth. Not of a case from a file.

    >>> from ember_core.design import CaseLabel, Enclosure
    >>> label_solid(CaseLabel(text="Ember"), Enclosure(outer_mm=(60, 90, 24))).volume() > 0
    True
    """
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
