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
from ..quantities import show

WORDS: dict[FasteningKind, str] = {
    "screw": "Screws {thread} that cut into posts",
    "insert": "Screws {thread} into brass inserts",
    "nut": "Screws {thread} into captive nuts",
}
BOARD_WORDS: dict[FasteningKind, str] = {
    "screw": "{board} on posts for screws {thread}",
    "insert": "{board} on posts with inserts {thread}",
}
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
    for kind, words in WORDS.items():
        for thread in POST_MM[kind]:
            made = posts(design, kind, thread, taken)
            if made:
                each = f"{show(made[0].body.size_mm[0], 'mm')} wide"
                found.append(_offer(kind, words.format(thread=thread), made, f"posts, each {each}"))
    made = snaps(design, taken)
    if made:
        found.append(_offer("snap", "Snaps below where it comes apart", made, "of them"))
    return [*found, *_under_boards(bench)]


def _under_boards(bench: TrialBench) -> Iterator[HoldingOffer]:
    """Posts under the holes of boards that nothing carries yet."""
    carried = {f.carries for f in bench.design.enclosure.fastenings}
    loose = [b for b in bench.fit.placed if b.body.holes and b.key not in carried]
    for board in loose[:MOST_BOARDS]:
        for kind, words in BOARD_WORDS.items():
            made = posts_under(bench.design, board, kind)
            if made:
                threads = " and ".join(sorted({str(f.thread) for f in made}))
                label = words.format(thread=threads, board=board.name)
                found = _offer(kind, label, made, f"posts, each {show(made[0].body.size_mm[2], 'mm')} high")
                yield found


def _offer(kind: str, label: str, made: list[Fastening], what: str) -> HoldingOffer:
    patch = [add("/enclosure/fastenings/-", f) for f in made]
    return HoldingOffer(kind=kind, label=label, sentence=f"{len(made)} {what}", patch=patch)
