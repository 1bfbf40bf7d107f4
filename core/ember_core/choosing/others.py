"""The gadget with other parts in the place of its own: those that are kept beside them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import islice, product

from ..design.patches import apply_patch
from ..design.problems import DocumentError
from ..measures.bench import TrialBench
from ..studies.instead import in_its_place

MOST_GADGETS = 6  # with one part or another, each searched by itself


@dataclass(frozen=True)
class Gadget:
    """`parts` are the names of what stands in the place of each part that has something beside it, "" where that part itself does."""

    bench: TrialBench
    parts: tuple[str, ...]


def gadgets(bench: TrialBench) -> list[Gadget]:
    """The gadget as it is, then with what is kept beside its parts, the ones with fewest others first."""
    beside = [["", *(x.name for x in p.alternatives)] for p in bench.design.parts if p.alternatives]
    ways = sorted(islice(product(*beside), 10_000), key=lambda names: sum(map(bool, names)))
    found = [with_parts(bench, names) for names in ways[:MOST_GADGETS]]
    return [g for g in found if g is not None]


def with_parts(bench: TrialBench, names: Sequence[str]) -> Gadget | None:
    """With parts of such names in the places of those that have some beside them; None where that is no design, or no such part is kept."""
    places = [i for i, p in enumerate(bench.design.parts) if p.alternatives]
    if len(names) != len(places):
        return None
    now = bench
    for p, name in zip(places, names, strict=True):
        if not name:
            continue
        other = next((x for x in bench.design.parts[p].alternatives if x.name == name), None)
        if other is None:
            return None
        try:
            now = bench.of(apply_patch(now.design, in_its_place(now, p, other)[0]))
        except DocumentError:
            return None
    return Gadget(now, tuple(names))
