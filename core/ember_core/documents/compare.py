"""Two to six designs beside each other: what differs in words, what is said of each, and why the runtime is another one."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations
from math import factorial
from typing import Annotated, Any

from pydantic import Field

from ..catalogue import Catalogue
from ..design import Design
from ..design.merging import Difference, differences
from ..design.problems import DocumentError
from ..design.references import build_design
from ..enclosure.picture import picture
from ..evaluation import Evaluation, evaluate
from ..figures import Figure, Finding, Severity, Status, figure, record
from ..measures.bench import TrialBench
from ..studies.trials import subject
from ..words import called, say

MOST_COMPARED = 6
MOST_ROWS = 400
# what of a document moves the runtime, in the order of the work; what can't be exchanged alone goes together
AREAS: dict[str, tuple[str, ...]] = {
    "brief": ("brief",), "draw": ("parts", "modes"), "day": ("day",), "supply": ("supply",), "battery": ("battery", "charger"),
}  # fmt: skip
TOGETHER = (("draw", "supply"), ("draw", "supply", "day"), ("draw", "supply", "day", "battery"))


@record
class DifferenceRow:
    """One place where any of them differs from the first, with what each has there."""

    place: str
    values: list[str]
    differs: list[bool]


@record
class ComparedVerdict:
    key: str
    label: str
    figures: list[Figure]
    status: list[Status]
    words: list[str]


@record
class ComparedFinding:
    title: str
    severity: Severity


@record
class RuntimeTerm:
    """What one area changes of the runtime."""

    area: str
    hours: Figure


@record
class ComparedDesign:
    """One of them. `terms` add up to the difference of its runtime to the first one's, whatever the order in which the areas are exchanged: each is
    its mean over all orders (Shapley 1953). Empty for the first, and where there is no runtime."""

    name: str
    picture: str
    picture_dark: str
    runtime: Figure
    time_h: list[float]
    charge: list[float]
    gained: Annotated[list[ComparedFinding], Field(description="findings that the first one does not have")]
    lost: Annotated[list[ComparedFinding], Field(description="findings of the first one that it does not have")]
    terms: list[RuntimeTerm]


@record
class Comparison:
    designs: list[ComparedDesign]
    verdicts: list[ComparedVerdict]
    rows: list[DifferenceRow]
    more: Annotated[int, Field(description="places that are not listed")]


def compare(named: Sequence[tuple[str, Design]], catalogue: Catalogue) -> Comparison:
    """Designs with their names, all against the first."""
    first = named[0][1]
    results = [evaluate(design, catalogue) for _, design in named]
    findings = [r.findings for r in results]
    made = [
        ComparedDesign(
            name=name,
            picture=picture(design),
            picture_dark=picture(design, dark=True),
            runtime=result.runtime.total,
            time_h=result.runtime.timeline.time_h,
            charge=result.runtime.timeline.charge,
            gained=_without((design, own), (first, findings[0])),
            lost=_without((first, findings[0]), (design, own)),
            terms=why(first, design, catalogue, (_hours(results[0]), _hours(result))) if design is not first else [],
        )
        for (name, design), result, own in zip(named, results, findings, strict=True)
    ]
    rows = _rows([design for _, design in named])
    verdicts = [
        ComparedVerdict(
            key=v[0].key,
            label=v[0].label,
            figures=[x.figure for x in v],
            status=[x.status for x in v],
            words=[x.word for x in v],
        )
        for v in zip(*(r.verdicts for r in results), strict=True)
    ]
    return Comparison(designs=made, verdicts=verdicts, rows=rows[:MOST_ROWS], more=max(0, len(rows) - MOST_ROWS))


def _without(these: tuple[Design, list[Finding]], those: tuple[Design, list[Finding]]) -> list[ComparedFinding]:
    """The findings of one design that the other does not have: neither about the same thing nor by the same title."""
    design, found = those
    known = {(f.code, subject(design, f.where)) for f in found} | {(f.code, f.title) for f in found}
    design, found = these
    fresh = [f for f in found if (f.code, subject(design, f.where)) not in known and (f.code, f.title) not in known]
    return [ComparedFinding(title=f.title, severity=f.severity) for f in fresh]


def _rows(designs: list[Design]) -> list[DifferenceRow]:
    """Places in the order of the first that differs there."""
    found: list[dict[str, Difference]] = [{d.place: d for d in differences(designs[0], other)} for other in designs[1:]]
    places = dict.fromkeys(place for one in found for place in one)
    rows = []
    for place in places:
        mine = next(one[place].mine for one in found if place in one)
        rows.append(
            DifferenceRow(
                place=place,
                values=[mine, *(one[place].theirs if place in one else mine for one in found)],
                differs=[False, *(place in one for one in found)],
            )
        )
    return rows


def _hours(result: Evaluation) -> float | None:
    return result.runtime.total.value


def why(
    first: Design, other: Design, catalogue: Catalogue, known_h: tuple[float | None, float | None] = (None, None)
) -> list[RuntimeTerm]:
    """What each area that differs changes of the runtime [h]: its mean over all orders of exchanging them, so that they add up. `known_h`: of both, where
    they are worked out already."""
    changed = [a for a, fields in AREAS.items() if any(getattr(first, f) != getattr(other, f) for f in fields)]
    if not changed:
        return []
    ways: list[list[tuple[str, ...]]] = [
        [(a,) for a in changed],
        *(_joined(changed, x) for x in TOGETHER),
        [tuple(changed)],
    ]
    worth, blocks = None, ways[0]
    for blocks in ways:  # until each mixture of both is a whole document
        worth = _worth(first, other, blocks, catalogue, known_h)
        if worth is not None:
            break
    if worth is None:
        return []
    before, after = worth[frozenset()], worth[frozenset(range(len(blocks)))]
    terms = []
    for k, block in enumerate(blocks):
        hours = _shapley(worth, k, len(blocks))
        inputs: list[tuple[str, float | None, str]] = [(called("before"), before, "h"), (called("after"), after, "h")]
        words = say("compare.area", areas=[say(f"compare.{a}") for a in block])
        terms.append(RuntimeTerm(area=words, hours=figure("runtime-by-an-area", hours, "h", inputs, "Shapley (1953)")))
    return sorted(terms, key=lambda t: -abs(t.hours.value or 0.0))


def _joined(changed: list[str], together: tuple[str, ...]) -> list[tuple[str, ...]]:
    one = tuple(a for a in changed if a in together)
    return [*([one] if one else []), *((a,) for a in changed if a not in together)]


def _worth(
    first: Design,
    other: Design,
    blocks: list[tuple[str, ...]],
    catalogue: Catalogue,
    known_h: tuple[float | None, float | None],
) -> dict[frozenset[int], float] | None:
    """The runtime [h] with each set of blocks as the other has them; None where one of them makes no document."""
    mixed = {}
    every = range(len(blocks))
    for chosen in (frozenset(c) for n in range(len(blocks) + 1) for c in combinations(every, n)):
        fields = {f: getattr(other, f) for k in chosen for a in blocks[k] for f in AREAS[a]}
        try:
            mixed[chosen] = _mixed(first, fields) if 0 < len(chosen) < len(blocks) else other if chosen else first
        except DocumentError:
            return None
    known = {frozenset[int](): known_h[0], frozenset(every): known_h[1]}
    return {
        chosen: TrialBench(design, catalogue).runtime_s / 3600 if (own := known.get(chosen)) is None else own
        for chosen, design in mixed.items()
    }


def _mixed(first: Design, fields: dict[str, Any]) -> Design:
    return build_design(first.model_copy(update=fields).model_dump(mode="json"))


def _shapley(worth: dict[frozenset[int], float], k: int, count: int) -> float:
    """The mean of what one brings, over all orders in which they may come."""
    others = [i for i in range(count) if i != k]
    total = 0.0
    for n in range(count):
        weight = factorial(n) * factorial(count - n - 1) / factorial(count)
        for chosen in map(frozenset, combinations(others, n)):
            total += weight * (worth[chosen | {k}] - worth[chosen])
    return total
