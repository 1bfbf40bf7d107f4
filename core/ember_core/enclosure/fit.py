"""Do the bodies fit the case: each pair's, each wall's and each rounded corner's gap against what it needs.

Of two cuboids along the axes the distance follows from the separations: where they overlap along all three they collide,
and the least overlap is how far one has to move; otherwise the gap is the Euclidean norm of the positive ones. Others are
measured as solids (`solids.py`). A board with blocks on it is measured block by block: low parts of one reach under tall ones of
another. A body is inside the case where all its corners are, as the inside has no dents.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Literal

import numpy as np

from ..case_shape import room_mm3
from ..design import Design, Enclosure, Side
from ..making import clearance_mm
from ..numeric import Array
from ..words import say
from .bodies import TOUCH_MM, Contact, Placed, place, things, volume_mm3
from .fittings import made_mm3
from .hollow import hollow_of
from .passage import Passage, passage
from .solids import TOUCHING_MM3, distance_mm, voids_of
from .walls import Beyond, beyond, to_case

if TYPE_CHECKING:
    from manifold3d import Manifold

NO_ROOM_MM3 = 1.0
MOST_MEASURED = 300  # pairs on their surfaces, the nearest first; of more, the boxes around them tell
# pairs of pieces that are measured: of two bodies, and of all together
MOST_PIECES, LEAST_PIECES, ALL_PIECES = 40, 4, 1500
MOST_KEPT = 5000  # pairs, the nearest; of a hundred bodies all
NEAR_MM = 10.0  # apart along an axis: farther than that the boxes around two bodies tell enough


@dataclass(frozen=True)
class Fit:
    case: Enclosure
    placed: list[Placed]
    unplaced: list[tuple[str, str]]
    contacts: list[Contact]
    clearance_mm: float
    cavity_mm: Array
    filled_share: float | None
    passages: dict[int, Passage]
    beyond: list[Beyond]
    closed_in: list[tuple[int, int]]
    open_side: Side | None

    def settled(self, bodies: set[int]) -> bool:
        """Whether these bodies, by their positions, have every gap that they need, inside the case."""
        near = all(contact_status(c) == "pass" for c in self.contacts if bodies & {c.first, c.second})
        return (
            near and not any(b.index in bodies for b in self.beyond) and not any(bodies & {*c} for c in self.closed_in)
        )

    @cached_property
    def made_mm3(self) -> float:
        """How much the case is, with all that is made on it."""
        return made_mm3(self.case, self.placed)

    @cached_property
    def tightest(self) -> Contact | None:
        return min(self.contacts, key=lambda c: (c.margin_mm, c.first, c.second), default=None)


def _pairs(placed: list[Placed], case: Enclosure) -> list[Contact]:
    if len(placed) < 2:
        return []
    low, high = np.stack([p.low for p in placed]), np.stack([p.high for p in placed])
    first, second = np.triu_indices(len(placed), 1)
    own = np.array([p.of_the_case for p in placed])
    apart_from = ~(own[first] & own[second])
    first, second = first[apart_from], second[apart_from]
    if not first.size:
        return []
    apart = np.maximum(low[second] - high[first], low[first] - high[second])
    axis = np.argmax(apart, axis=1)
    most = apart[np.arange(axis.size), axis]
    distance = np.linalg.norm(np.maximum(apart, 0.0), axis=1)
    gap = np.where(most >= 0, distance, most)
    straight = np.array([p.straight for p in placed])
    near = np.flatnonzero(~(straight[first] & straight[second]) & (most < NEAR_MM))
    near = near[np.argsort(most[near], kind="stable")][:MOST_MEASURED]
    pieces = min(max(ALL_PIECES // max(near.size, 1), LEAST_PIECES), MOST_PIECES)
    for k in near:
        gap[k], axis[k] = gap_mm(placed[first[k]], placed[second[k]], pieces)
    if any(p.carried for p in placed) or any(p.body.on for p in placed):
        apart_from = ~_lies_on(placed, first, second, gap)
        first, second, gap, axis = first[apart_from], second[apart_from], gap[apart_from], axis[apart_from]
    kept = _worth_keeping(first, second, gap)
    needed = needed_between(placed, case)
    rows = zip(first[kept].tolist(), second[kept].tolist(), gap[kept].tolist(), axis[kept].tolist(), strict=True)
    return [Contact(a, b, None, None, g, needed(a, b), x) for a, b, g, x in rows]


def _lies_on(placed: list[Placed], first: np.ndarray, second: np.ndarray, gap: Array) -> np.ndarray:
    """Which pairs are a post and what it carries, or sit on each other or on one board, without reaching into each other, (pairs,)."""
    keys, carried, boards, sits_on = (
        np.array([value or "" for value in values])
        for values in zip(*((p.key, p.carried, p.board, p.body.on) for p in placed), strict=True)
    )
    on = (carried[second] == keys[first]) & (carried[second] != "")
    on |= (boards[first] == boards[second]) & (boards[first] != "")
    for a, b in ((first, second), (second, first)):
        on |= (sits_on[a] == keys[b]) & (sits_on[a] != "")
    return np.asarray(on & (gap >= -TOUCH_MM))


def needed_between(placed: list[Placed], case: Enclosure) -> Callable[[int, int], float]:
    """What the gap of two bodies, by their positions, has to be at least [mm]: nothing where one lies on the other or both are on one board, a film's
    thickness, or the usual gap.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.enclosure.bodies import placed_bodies
    >>> placed = placed_bodies(design)
    >>> needed_between(placed, design.enclosure)(0, 1) >= 0
    True
    """
    films = {frozenset((f.first, f.second)): f.thickness_mm for f in case.films}
    carrying = any(body.carried is not None for body in placed)

    def needed(first: int, second: int) -> float:
        one, other = placed[first], placed[second]
        if one.joins(other):
            return 0.0
        if carrying and ((other.carried == one.key != "") or (one.carried == other.key != "")):
            return 0.0
        gap = films.get(frozenset((one.key, other.key)), case.gap_mm) if films else case.gap_mm
        return gap + one.body.off_mm + other.body.off_mm

    return needed


def gap_mm(one: Placed, other: Placed, most: int = MOST_PIECES) -> tuple[float, int]:
    """(gap, axis) of two bodies [mm], piece by piece, as `Contact` has it.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.enclosure.bodies import placed_bodies
    >>> placed = placed_bodies(design)
    >>> gap_mm(placed[0], placed[0])[0] < 0
    True
    """
    if len(one.pieces) == len(other.pieces) == 1:
        return distance_mm(one.solid, other.solid)
    gap, axis, _, _ = nearest_pieces(one, other, most)
    return gap, axis


def nearest_pieces(one: Placed, other: Placed, most: int = MOST_PIECES) -> tuple[float, int, int, int]:
    """(gap, axis, piece of the first, piece of the second) where two bodies are nearest, or overlap most. At most so many pairs of turned pieces are measured; what is
    left then counts as the boxes around them, which are nearer.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.enclosure.bodies import placed_bodies
    >>> placed = placed_bodies(design)
    >>> gap, axis, first, second = nearest_pieces(placed[0], placed[1])
    >>> gap > 0
    True
    """
    (low, high), (low2, high2) = _piece_boxes(one), _piece_boxes(other)
    apart = np.maximum(low2[None] - high[:, None], low[:, None] - high2[None])
    axis = np.argmax(apart, axis=2)
    apart_by = np.max(apart, axis=2)
    gap = np.where(apart_by >= 0, np.linalg.norm(np.maximum(apart, 0.0), axis=2), apart_by)
    order = np.argsort(gap, axis=None, kind="stable")
    if one.along_axes and other.along_axes:
        i, j = (int(k) for k in np.unravel_index(order[0], gap.shape))
        return float(gap[i, j]), int(axis[i, j]), i, j
    best = (np.inf, 0, 0, 0)
    for count, flat in enumerate(order.tolist()):  # boxes are never farther than what is in them
        i, j = (int(k) for k in np.unravel_index(flat, gap.shape))
        if gap[i, j] > max(best[0], 0.0):
            break
        if count >= most:
            return min(best, (float(gap[i, j]), int(axis[i, j]), i, j))
        found, along = distance_mm(one.pieces[i], other.pieces[j])
        if found < best[0]:
            best = (found, along, i, j)
    return best


def _piece_boxes(body: Placed) -> tuple[Array, Array]:
    """The corners of the boxes around a body's pieces, each (pieces, 3)."""
    found = [(p.corners.min(axis=0), p.corners.max(axis=0)) for p in body.pieces]
    return np.stack([low for low, _ in found]), np.stack([high for _, high in found])


def _worth_keeping(first: np.ndarray, second: np.ndarray, gap: Array) -> np.ndarray:
    """Positions of the pairs that are kept: all of few bodies; of many the nearest, and each body's nearest."""
    if first.size <= MOST_KEPT:
        return np.arange(first.size)
    order = np.argsort(gap, kind="stable")
    either = np.stack([first[order], second[order]], axis=1).ravel()
    _, at = np.unique(either, return_index=True)
    return np.unique(np.concatenate([order[:MOST_KEPT], order[at // 2]]))


def check_fit(design: Design) -> Fit:
    """Every gap between placed bodies and to the walls. A pouch counts with its swelling. Of two bodies that are not near each other and not
    both cuboids along the axes, the gap is that of the boxes around them, or more.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> len(check_fit(design).placed)
    8
    """
    enclosure = design.enclosure
    placed, unplaced = place(design)
    needed = clearance_mm(enclosure)
    contacts = to_case(placed, enclosure) + _pairs(placed, enclosure)
    cavity = np.asarray(enclosure.inner_mm, dtype=float)
    volume = sum(volume_mm3(x.body) * len(x.copies) for x in things(design) if x.body is not None)
    hollow = hollow_of(enclosure) if enclosure.shape is not None else None
    room = room_mm3(enclosure) if hollow is None else hollow.room_mm3
    ways = {i: way for i, body in enumerate(placed) if (way := passage(body, enclosure)) is not None}
    return Fit(
        enclosure, placed, unplaced, contacts, needed, cavity, volume / room if room > NO_ROOM_MM3 else None, ways,
        beyond(placed, enclosure, ways, hollow), _closed_in(placed), hollow.open_side if hollow else None,
    )  # fmt: skip


def _closed_in(placed: list[Placed]) -> list[tuple[int, int]]:
    """(what lies in a hollow that nothing leads into, what has the hollow), by their positions."""
    found = []
    for j, holder in enumerate(placed):
        for void in (v for piece in holder.pieces if piece.made is not None for v in voids_of(piece)):
            low, high = np.array(void.bounding_box()[:3]), np.array(void.bounding_box()[3:])
            found += [
                (i, j)
                for i, body in enumerate(placed)
                if i != j
                and np.all(body.low > low - TOUCH_MM)
                and np.all(body.high < high + TOUCH_MM)
                and _lies_in(body, void)
            ]
    return found


def _lies_in(body: Placed, void: Manifold) -> bool:
    return all(
        float((piece.whole - void).volume()) <= TOUCHING_MM3 + 1e-4 * float(piece.whole.volume())
        for piece in body.pieces
    )


def contact_names(fit: Fit, contact: Contact) -> tuple[str, str]:
    """The names of the two that meet.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> fit = check_fit(design)
    >>> contact_names(fit, fit.contacts[0])
    ('Dual-core controller without radio (CM-2D)', 'the left wall')
    """
    return fit.placed[contact.first].name, met_by(fit, contact, contact.second)


def met_by(fit: Fit, contact: Contact, other: int) -> str:
    """What a body meets in a contact, where `other` is the second of its bodies.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> fit = check_fit(design)
    >>> contact = fit.contacts[0]
    >>> met_by(fit, contact, contact.second)
    'the left wall'
    """
    if contact.corner:
        return say("met.corner", side=contact.side, corner=contact.corner)
    if contact.within:
        return say("met.rib", side=contact.side)
    return say("met.wall", side=contact.side) if contact.side else fit.placed[other].name


def contact_status(contact: Contact) -> Literal["pass", "watch", "fail"]:
    """fail: they overlap; watch: less than what is needed.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.solved.gadget import SolvedGadget
    >>> solved = SolvedGadget(design)
    >>> {contact_status(c) for c in solved.fit.contacts} <= {"pass", "watch", "fail"}
    True
    """
    if contact.gap_mm < -1e-6:
        return "fail"
    return "watch" if contact.margin_mm < -1e-6 else "pass"
