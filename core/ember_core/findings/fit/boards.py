"""Traps of boards in the case: nothing holds them, a post misses its hole, soldered sides face each other, pins that nobody needs."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np

from ...design import Film
from ...design.patches import add, remove
from ...enclosure.bodies import OF_THE_CASE, TOUCH_MM, Placed
from ...enclosure.fit import nearest_pieces
from ...enclosure.holding import level_holes, posts_under
from ...figures import PatchOperation, Remedy
from ...making import PASSES_MM
from ...measures.bench import TrialBench
from ...words import Said, say
from ..found import Found

SOLDER_MM = 1.0  # what solder joints and cut leads stand out of a board; a rule of thumb
INSULATES_MM = (0.2, 0.1, 0.05)  # films, the usual one first
OFF_HOLE_MM = 0.3  # beside the hole or below the board; a screw still finds its way
MOST_TOLD = 8
WORTH_MM = 0.5


def loose_board(bench: TrialBench) -> Iterator[Found]:
    """A board with holes that no post stands under."""
    carried = {f.carries for f in bench.design.enclosure.fastenings}
    loose = [b for b in bench.fit.placed if b.body.shape == "board" and len(level_holes(b)) and b.key not in carried]
    for board in loose[:MOST_TOLD]:
        yield Found(
            code="loose-board",
            severity="note",
            step="fit",
            where=f"{board.pointer}/body",
            facts={"board": board.name, "holes": len(board.body.holes)},
            ways=partial(_posts, bench, board),
        )


def _posts(bench: TrialBench, board: Placed) -> Iterator[Remedy]:
    made = posts_under(bench.design, board, "screw")
    if made:
        label = say("way.posts-for-screws-under", made_count=len(made), board=board.name)
        yield Remedy(label=label, patch=[add("/enclosure/fastenings/-", f) for f in made])


def post_off_hole(bench: TrialBench) -> Iterator[Found]:
    """A post that carries a board beside its holes, or ends below it, or whose screw does not go through."""
    boards = {b.key: b for b in bench.fit.placed if b.key}
    told = 0
    for i, held in enumerate(bench.design.enclosure.fastenings):
        board = boards.get(held.carries or "")
        if board is None or told >= MOST_TOLD:
            continue
        holes = level_holes(board)
        if not len(holes):
            continue
        low = np.asarray(held.body.position_mm)
        high = low + np.asarray(held.body.size_mm)
        x, y, _ = (low + high) / 2
        beside = np.hypot(holes[:, 0] - x, holes[:, 1] - y)
        k = int(np.argmin(beside))
        hangs = float(low[2] + high[2]) / 2 > float(holes[k, 2])  # from the lid
        ends = float(low[2] - level_holes(board, above=True)[k, 2] if hangs else holes[k, 2] - high[2])
        diameter = board.body.holes[k].diameter_mm
        too_thick = held.thread is not None and PASSES_MM[held.thread] > diameter + 1e-9
        if beside[k] <= OFF_HOLE_MM + TOUCH_MM and ends <= OFF_HOLE_MM + TOUCH_MM and not too_thick:
            continue
        told += 1
        off, away = beside[k] > OFF_HOLE_MM + TOUCH_MM, ends > OFF_HOLE_MM + TOUCH_MM
        yield Found(
            code="post-off-hole",
            severity="watch",
            step="fit",
            where=f"/enclosure/fastenings/{i}",
            facts={
                "held": held.name,
                "board": board.name,
                "amiss": "beside" if off else "away" if away else "thread",
                "beside": (float(beside[k]), "mm"),
                "away": (ends, "mm"),
                "hole": (diameter, "mm"),
                "thread": held.thread,
            },
            ways=partial(_anew, bench, board),
        )


def _anew(bench: TrialBench, board: Placed) -> Iterator[Remedy]:
    """Posts where the holes are now, in place of those that carried the board."""
    held = bench.design.enclosure.fastenings
    old = [i for i, f in enumerate(held) if f.carries == board.key]
    made = posts_under(bench.design, board, held[old[0]].kind)
    if made:
        patch: list[PatchOperation] = [remove(f"/enclosure/fastenings/{i}") for i in reversed(old)]
        patch += [add("/enclosure/fastenings/-", f) for f in made]
        yield Remedy(label=say("way.put-posts-under-the-holes-of", made_count=len(made), board=board.name), patch=patch)


def back_to_back(bench: TrialBench) -> Iterator[Found]:
    """Two boards so near to each other that what is soldered on one can touch the other, with nothing between."""
    films = {frozenset((f.first, f.second)) for f in bench.design.enclosure.films}
    near = (c for c in bench.fit.contacts if c.side is None and 0 <= c.gap_mm < SOLDER_MM - TOUCH_MM)
    told = 0
    for contact in near:
        one, other = bench.fit.placed[contact.first], bench.fit.placed[contact.second]
        if one.body.shape != "board" or other.body.shape != "board" or frozenset((one.key, other.key)) in films:
            continue
        gap, axis, i, j = nearest_pieces(one, other)
        if 0 not in (i, j):
            continue
        bare = one if i == 0 else other
        if axis != int(np.argmin(bare.pieces[0].corners.max(axis=0) - bare.pieces[0].corners.min(axis=0))):
            continue  # an edge, which nothing is soldered to
        told += 1
        if told > MOST_TOLD:
            return
        thickness = next((t for t in INSULATES_MM if t <= gap + TOUCH_MM), None)
        film = Film(first=one.key, second=other.key, thickness_mm=thickness) if thickness else None
        yield Found(
            code="back-to-back",
            severity="watch",
            step="fit",
            where=f"{bare.pointer}/body",
            facts={
                "gap": (gap, "mm"),
                "solder": (SOLDER_MM, "mm"),
                "one": one.name,
                "other": other.name,
                "bare": bare.name,
                "what": (other if bare is one else one).name,
            },
            ways=lambda film=film: [_between(film)],  # type: ignore[misc]
        )


def _between(film: Film | None) -> Remedy | None:
    if film is None:
        return None
    label = say("way.a-film-of-mm-between-them", thickness_mm=(film.thickness_mm, ""))
    return Remedy(label=label, patch=[add("/enclosure/films/-", film)])


def spare_blocks(bench: TrialBench) -> Iterator[Found]:
    """Pins or jacks that can be left off and that alone decide how high the inside has to be."""
    inside = [b for b in bench.fit.placed if b.board != OF_THE_CASE and b.through != "top"]
    if not inside:
        return
    with_them = max(float(b.high[2]) for b in inside)
    kept = max(max(_top(b, k) for k in _needed(b)) for b in inside)
    saves = with_them - kept
    if saves < WORTH_MM:
        return
    off = [
        (b, k)
        for b in inside
        for k, x in enumerate(b.body.blocks)
        if k and b.body.shape == "board" and x.spare and _top(b, k) > kept + TOUCH_MM
    ]
    names = [str(Said("block.of", {"block": b.body.blocks[k].name, "board": b.name})) for b, k in off]
    patch = [remove(f"{b.pointer}/body/blocks/{k}") for b, k in sorted(off, key=lambda x: (x[0].pointer, -x[1]))]
    yield Found(
        code="spare-blocks",
        severity="note",
        step="fit",
        where=f"{off[0][0].pointer}/body",
        facts={"saves": (saves, "mm"), "names": names},
        ways=lambda: [Remedy(label=say("way.leave-off", names=names), patch=patch)],
    )


def _needed(board: Placed) -> list[int]:
    """The pieces of a body that can't be left off; the first one is the board itself."""
    if board.body.shape != "board":
        return [0]
    return [0, *(k for k, block in enumerate(board.body.blocks) if k and not block.spare)]


def _top(body: Placed, piece: int) -> float:
    return float(body.pieces[piece].corners[:, 2].max())
