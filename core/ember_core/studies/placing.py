"""Everything placed at once: an edit that puts each body where there is room."""

from __future__ import annotations

from ..design.patches import replace
from ..enclosure.placing import place_all
from ..figures import PatchOperation, record
from ..measures.bench import TrialBench


@record
class PlaceAnswer:
    """The edit, and what it leaves out: bodies without room, things without a size."""

    patch: list[PatchOperation]
    left: list[str]
    unknown: list[str]
    sentence: str


def answer_place(bench: TrialBench, anew: bool = False) -> PlaceAnswer:
    """Places what has no place yet, or everything `anew`."""
    found = place_all(bench.design, anew=anew)
    patch = [replace(f"{pointer}/body", body) for pointer, body in found.bodies.items()]
    said = [f"{len(patch)} placed." if patch else "Nothing to place."]
    if found.left:
        said.append(f"No room for {', '.join(found.left)}: a larger case, or other parts.")
    if found.unknown:
        said.append(f"Without a size: {', '.join(found.unknown)}.")
    return PlaceAnswer(patch=patch, left=found.left, unknown=found.unknown, sentence=" ".join(said))
