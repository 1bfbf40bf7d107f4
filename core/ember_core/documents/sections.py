"""The case cut twice, level and upright, as pictures for paper: at their true size where a sheet is large enough."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..design import Design
from ..enclosure.bodies import Placed, made_of, placed_bodies
from ..enclosure.picture import PALE
from ..enclosure.section import cut
from ..numeric import Array

WIDEST_MM, TALLEST_MM = 165.0, 120.0  # of a picture between the margins of a sheet
EDGE_MM = 0.5  # around the case, for its lines
LINE_MM, LETTER_MM = 0.2, 2.6


@dataclass(frozen=True)
class SectionPicture:
    """`axis` "z" is cut level, "y" upright along the front, `at_mm` from the outer corner; `names` are those of the bodies in the order of their numbers."""

    axis: str
    at_mm: float
    names: list[str]
    svg: str
    wide_mm: float
    true_size: bool


def section_pictures(design: Design) -> list[SectionPicture]:
    """Each where it cuts the most bodies, the nearest to the middle of those; none of a case without a body, or where there is nothing to cut."""
    placed = placed_bodies(design)
    bodies = [b for b in placed if not b.of_the_case]
    tried = (_picture(design, placed, axis, _most_cut(design, bodies, axis)) for axis in (2, 1) if bodies)
    return [one for one in tried if one is not None]


def _most_cut(design: Design, placed: list[Placed], axis: int) -> float:
    low, high = (np.array([getattr(b, end)[axis] for b in placed]) for end in ("low", "high"))
    size = float(design.enclosure.outer_mm[axis])
    middles = np.clip((low + high) / 2, 0.0, size)
    count = ((low < middles[:, None]) & (middles[:, None] < high)).sum(axis=1)
    return float(middles[np.lexsort((np.abs(middles - size / 2), -count))[0]])


def _picture(design: Design, placed: list[Placed], axis: int, at: float) -> SectionPicture | None:
    case = design.enclosure
    found = cut(placed, case, axis, at)
    outlines = [*found.shell, *(o for own in found.bodies.values() for o in own)]
    if not outlines:
        return None
    low = np.min([o.min(axis=0) for o in outlines], axis=0) - EDGE_MM
    high = np.max([o.max(axis=0) for o in outlines], axis=0) + EDGE_MM
    wide, tall = (float(v) for v in high - low)
    scale = min(1.0, WIDEST_MM / wide, TALLEST_MM / tall)

    def path(outline: Array) -> str:
        return "M" + "L".join(f"{x - low[0]:.2f} {high[1] - y:.2f}" for x, y in outline) + "Z"

    walls = "".join(path(o) for o in found.shell)
    drawn = [f'<path d="{walls}" fill="{PALE["wall"]}" fill-rule="evenodd" stroke="{PALE["line"]}"/>']
    names: list[str] = []
    numbers = []
    for i, own in found.bodies.items():
        if placed[i].of_the_case:
            drawn.append(f'<path d="{"".join(path(o) for o in own)}" fill="{PALE["wall"]}" stroke="{PALE["line"]}"/>')
            continue
        names.append(placed[i].name)
        tint = PALE[made_of(design, placed[i].pointer)]
        drawn.append(f'<path d="{"".join(path(o) for o in own)}" fill="{tint}" stroke="#45403a"/>')
        largest = max(own, key=lambda o: float(np.prod(np.ptp(o, axis=0))))
        x, y = (largest.min(axis=0) + largest.max(axis=0)) / 2 - (low[0], 0.0)
        numbers.append(f'<text x="{x:.2f}" y="{high[1] - y + LETTER_MM / scale / 3:.2f}">{len(names)}</text>')
    letters = f'font-family="Hanken Grotesk" font-size="{LETTER_MM / scale:.2f}" font-weight="600" text-anchor="middle" fill="#26231e" stroke="none"'
    halo = f'<g {letters.replace("none", "#ffffff")} stroke-width="{LETTER_MM / scale / 4:.2f}" stroke-linejoin="round">{"".join(numbers)}</g>'
    svg = (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {wide:.2f} {tall:.2f}" width="{wide * scale:.2f}mm" height="{tall * scale:.2f}mm">'
        f'<g stroke-width="{LINE_MM / scale:.2f}">{"".join(drawn)}</g>{halo}<g {letters}>{"".join(numbers)}</g></svg>'
    )
    return SectionPicture("xyz"[axis], at, names, svg, wide * scale, scale == 1.0)
