"""What gets warm inside, how well it gives its heat away, how heavy it is, and which of its power warms it."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from ..design import Body, Design, Part, PartKind, Size
from ..numeric import Array
from ..runtime.run import Run
from ..thermal.materials import CELL_MAX_C, SPECIFIC_HEAT_INSIDE
from ..thermal.shell import BOARD_G_PER_M2, USUAL_BOARD_M2, is_chip, own_k_per_w

PART_MAX_C = 85.0  # what most electronic parts are made for; a rule of thumb where nobody said it
CHARGER_MAX_C = 125.0  # junction
# of populated boards, of chips, of what nobody gave a size; rules of thumb
GRAMS_PER_MM3, LIGHTEST_G, UNKNOWN_G = 1.2e-3, 0.3, 4.0
BOARD_FOLLOWS = 1.0  # of a board, what gets as warm as the chip on it; from `validation/heat.py`

NodeKind = Literal["part", "stage", "charger", "cell"]


@dataclass(frozen=True)
class Node:
    """Something that gets warm: from it to the air inside it is `k_per_w`, and it stands `limit_c`."""

    pointer: str
    name: str
    kind: NodeKind
    k_per_w: float
    limit_c: float
    grams: float

    @property
    def settles_s(self) -> float:
        """Time in which it comes within 37 % of its own rise [s]."""
        return self.k_per_w * self.grams * SPECIFIC_HEAT_INSIDE


SPLIT: dict[PartKind, tuple[float, float]] = {
    "light": (0.75, 0.0),
    "led": (0.85, 0.0),
    "sound": (0.17, 0.82),
    "motor": (0.6, 0.0),
}
ALL_OF_IT = (1.0, 0.0)
SOUND_INSIDE = 0.99  # of what an amplifier passes on, what its speaker turns into heat


def heat_split(part: Part) -> tuple[float, float]:
    """(share of its power that warms it, share that warms the case elsewhere), each 0..1; none of what hangs outside.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> [round(x, 2) for x in heat_split(design.parts[0])]
    [1.0, 0.0]
    """
    if part.burns_outside:
        return 0.0, 0.0
    if part.inside_share is None:
        return SPLIT.get(part.kind, ALL_OF_IT)
    return part.inside_share, SOUND_INSIDE * (1 - part.inside_share) if part.kind == "sound" else 0.0


def shares(design: Design) -> tuple[Array, Array]:
    """`heat_split` of every part: what warms it, and what stays in the case in all, (parts,) each.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> warms, stays = shares(design)
    >>> bool((warms <= stays).all()), stays.shape == (len(design.parts),)
    (True, True)
    """
    split = np.array([heat_split(p) for p in design.parts]).reshape(-1, 2)
    return split[:, 0], split.sum(axis=1)


def find_nodes(state: Run) -> list[Node]:
    """What gets warm inside: parts that are not plugged in from outside, stages, the charger, the cells.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.runtime.run import run
    >>> state = run(design)
    >>> [node.kind for node in find_nodes(state)][-2:]
    ['cell', 'charger']
    """
    design = state.design
    boards = {p.id: p.body.size_mm for p in design.parts if p.body is not None}

    def node(pointer: str, name: str, kind: NodeKind, body: Body | None, mass_g: float, copies: int = 1) -> Node:
        """Something with its own surface, a chip with the board that it is on; of several copies each with its share."""
        size = _size(body)
        board = boards.get(body.on) if body is not None and body.on is not None else None
        board_mm2 = board[0] * board[1] if board else None
        grams = _grams(mass_g, body)
        if size is not None and is_chip(size):
            grams += (
                BOARD_FOLLOWS
                * BOARD_G_PER_M2
                * (USUAL_BOARD_M2 if board_mm2 is None else min(board_mm2 * 1e-6, 2 * USUAL_BOARD_M2))
            )
        return Node(pointer, name, kind, own_k_per_w(size, board_mm2) / copies, PART_MAX_C, grams)

    found = [
        node(f"/parts/{i}", p.name, "part", p.body, p.mass_g * p.quantity, p.quantity)
        for i, p in enumerate(design.parts)
    ]
    for stage in state.tree.stages:
        one = node(f"/supply/stages/{design.index.stages[stage.id]}", stage.name, "stage", stage.body, stage.mass_g)
        own = stage.rth_ja_c_per_w
        found.append(one if own is None else replace(one, k_per_w=own, limit_c=stage.junction_max_c))
    battery, cell = design.battery, design.battery.cell
    cells = battery.series * battery.parallel
    x, y, z = cell.size_mm
    pack = battery.body.size_mm if battery.body else (x, y, z * cells)
    found.append(
        Node("/battery", cell.name, "cell", own_k_per_w(pack), CELL_MAX_C[cell.chemistry], cell.mass_g * cells)
    )
    charger = design.charger
    if charger is not None:
        grams = _grams(charger.mass_g, charger.body)
        found.append(Node("/charger", charger.name, "charger", charger.rth_ja_c_per_w, CHARGER_MAX_C, grams))
    return found


def _size(body: Body | None) -> Size | None:
    return None if body is None else body.size_mm


def _grams(mass_g: float, body: Body | None) -> float:
    """Mass of a part [g]; where nobody gave it, by its room."""
    if mass_g > 0 or body is None:
        return max(mass_g, LIGHTEST_G if body is not None else UNKNOWN_G)
    return max(math.prod(body.size_mm) * GRAMS_PER_MM3, LIGHTEST_G)
