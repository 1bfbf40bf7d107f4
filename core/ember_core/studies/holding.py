"""What may hold the case together, each with its places found."""

from __future__ import annotations

from collections.abc import Iterator

from ..design import Fastening, FasteningKind
from ..design.patches import add
from ..enclosure.holding import posts, posts_under, snaps
from ..enclosure.placing import taken_boxes
from ..figures import PatchOperation, record
from ..making import POST_MM
from ..measures.bench import TrialBench
from ..words import say

KINDS: tuple[FasteningKind, ...] = ("screw", "insert", "nut")
BOARD_KINDS: tuple[FasteningKind, ...] = ("screw", "insert")
MOST_BOARDS = 8


@record
class HoldingOffer:
    """A set of fastenings that has room: `label` says what, `sentence` how many and what each takes."""

    kind: str
    label: str
    sentence: str
    patch: list[PatchOperation]


def answer_holding(bench: TrialBench) -> list[HoldingOffer]:
    """Every kind of fastening in every size that finds room in the case as it is: to hold the case, where nothing does yet, and boards by their holes."""
    design, found = bench.design, []
    if any(f.kind != "cradle" and f.carries is None for f in design.enclosure.fastenings):
        return list(_under_boards(bench))
    taken = taken_boxes(design, "")
    for kind in KINDS:
        for thread in POST_MM[kind]:
            made = posts(design, kind, thread, taken)
            if made:
                wide = say("holding.posts-wide", count=len(made), each=(made[0].body.size_mm[0], "mm"))
                found.append(_offer(kind, say(f"holding.{kind}", thread=thread), made, wide))
    made = snaps(design, taken)
    if made:
        found.append(_offer("snap", say("holding.snaps"), made, say("holding.snaps-count", count=len(made))))
    return [*found, *_under_boards(bench)]


def _under_boards(bench: TrialBench) -> Iterator[HoldingOffer]:
    """Posts under the holes of boards that nothing carries yet."""
    carried = {f.carries for f in bench.design.enclosure.fastenings}
    loose = [b for b in bench.fit.placed if b.body.holes and b.key not in carried]
    for board in loose[:MOST_BOARDS]:
        for kind in BOARD_KINDS:
            made = posts_under(bench.design, board, kind)
            if made:
                threads = " and ".join(sorted({str(f.thread) for f in made}))
                label = say(f"holding.board-{kind}", thread=threads, board=board.name)
                high = say("holding.posts-high", count=len(made), each=(made[0].body.size_mm[2], "mm"))
                yield _offer(kind, label, made, high)


def _offer(kind: str, label: str, made: list[Fastening], sentence: str) -> HoldingOffer:
    patch = [add("/enclosure/fastenings/-", f) for f in made]
    return HoldingOffer(kind=kind, label=label, sentence=sentence, patch=patch)
