"""Two versions of a document that began with the same one: put together where they do not touch the same place, told
apart in words where they do.

Items of a list are the same by their id, or else by the part or the name that they carry, not by their position.
"""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import Field

from ..design import Design
from ..figures import record
from ..quantities import show
from .problems import DocumentError, Problem, in_words
from .references import build_design

MOST_TOLD = 40
WHOLE = "the whole"
Sides = tuple[Any, Any, Any]  # what the base, mine and theirs have at one place
_ABSENT: Any = object()
_KEYS = ("id", "part", "stage", "name")
_SUFFIXES = {
    "a": "A", "v": "V", "w": "W", "ohm": "Ω", "ah": "Ah", "s": "s", "h": "h", "mm": "mm", "g": "g", "c": "°C", "f": "F", "seconds": "s",
    "share": "share", "duty": "share", "efficiency": "share",
}  # fmt: skip


@record
class Difference:
    """One place where two versions differ, in words and units."""

    place: str
    mine: str
    theirs: str


@record
class Merged:
    """Both versions put together. Where both changed the same place there is one document for either choice."""

    conflicts: Annotated[list[Difference], Field(description="places that both changed, otherwise")]
    more: Annotated[int, Field(description="conflicts that are not listed")]
    mine_first: Design
    theirs_first: Design
    kept: Annotated[
        bool, Field(description="the changes that do not meet are in both; false where together they make no document")
    ]
    brought: Annotated[list[Difference], Field(description="what the other version changed, as it comes to mine")]


def merge(base: Design, mine: Design, theirs: Design) -> Merged:
    """Two versions of `base` put together. Raises nothing: where they can't be put together either one stands alone."""
    documents = [d.model_dump(mode="json") for d in (base, mine, theirs)]
    meeting: list[tuple[list[str], Any, Any]] = []
    together = _Merge(documents[0], meeting)
    mine_first = together.value((documents[0], documents[1], documents[2]), [], prefer_mine=True)
    met = list(meeting)
    theirs_first = together.value((documents[0], documents[1], documents[2]), [], prefer_mine=False)
    try:
        first, other, kept = build_design(mine_first), build_design(theirs_first), True
    except DocumentError:
        first, other, kept = mine, theirs, False
        met = _apart(documents[1], documents[2])
    told = [_told(*m) for m in met]
    brought = [_told(*m) for m in _apart(documents[1], first.model_dump(mode="json"))]
    return Merged(
        conflicts=told[:MOST_TOLD], more=max(0, len(told) - MOST_TOLD), mine_first=first, theirs_first=other, kept=kept,
        brought=brought[:MOST_TOLD],
    )  # fmt: skip


def differences(mine: Design, theirs: Design) -> list[Difference]:
    """Where two documents differ, in words and units."""
    return [_told(*m) for m in _apart(mine.model_dump(mode="json"), theirs.model_dump(mode="json"))]


class _Merge:
    """The three-way merge; places that both sides changed go into `meeting`."""

    def __init__(self, document: Any, meeting: list[tuple[list[str], Any, Any]]) -> None:
        self.document, self.meeting = document, meeting

    def value(self, sides: Sides, place: list[str], *, prefer_mine: bool) -> Any:
        base, mine, theirs = sides
        if theirs in (mine, base):
            return mine
        if mine == base:
            return theirs
        if (
            isinstance(mine, dict)
            and isinstance(theirs, dict)
            and isinstance(base, dict)
            and _alike(base, mine, theirs)
        ):
            found = {
                key: self.value((base.get(key, _ABSENT), mine.get(key, _ABSENT), theirs.get(key, _ABSENT)), [*place, key],
                                prefer_mine=prefer_mine)
                for key in [*mine, *(k for k in theirs if k not in mine)]
            }  # fmt: skip
            return {key: v for key, v in found.items() if v is not _ABSENT}
        key = _common_key(base, mine, theirs)
        if key is not None:
            return self._items(key, base, mine, theirs, place, prefer_mine)
        if _by_position(base, mine, theirs):
            triples = enumerate(zip(base, mine, theirs, strict=True))
            return [self.value(sides, [*place, str(i + 1)], prefer_mine=prefer_mine) for i, sides in triples]
        self.meeting.append((place, mine, theirs))
        return mine if prefer_mine else theirs

    def _items(self, key: str, base: Any, mine: Any, theirs: Any, place: list[str], prefer_mine: bool) -> list[Any]:
        by = [{item[key]: item for item in items} for items in (base, mine, theirs)]
        found = {
            k: self.value(
                (by[0].get(k, _ABSENT), by[1].get(k, _ABSENT), by[2].get(k, _ABSENT)),
                [*place, _name(by, k)],
                prefer_mine=prefer_mine,
            )
            for k in [*by[1], *(k for k in by[2] if k not in by[1])]
        }
        orders = [[k for k in side if all(k in other for other in by)] for side in by]
        moved_here = orders[1] != orders[0] and orders[2] == orders[0]
        first, second = (by[1], by[2]) if moved_here else (by[2], by[1])
        order = [k for k in first if found[k] is not _ABSENT]
        before = -1
        for k in second:
            if found[k] is _ABSENT:
                continue
            if k not in first:
                order.insert(before + 1, k)
            before = order.index(k) if k in order else before
        return [found[k] for k in order]


def _alike(*items: dict[str, Any]) -> bool:
    """Of one kind: what has another behaviour or type is another thing, and is not mixed with it."""
    return all(len({str(i.get(tag)) for i in items}) == 1 for tag in ("behaviour", "type"))


def _common_key(*lists: Any) -> str | None:
    """The key that tells the items of all lists apart."""
    if not all(isinstance(items, list) and all(isinstance(i, dict) for i in items) for items in lists):
        return None
    for key in _KEYS:
        named = [[i.get(key) for i in items] for items in lists]
        if all(isinstance(v, str) for names in named for v in names) and all(len(set(n)) == len(n) for n in named):
            return key
    return None


def _by_position(*lists: Any) -> bool:
    """Items without names, such as the phases of a burst: the same by their position while their number is."""
    return (
        all(isinstance(items, list) and items and all(isinstance(i, dict) for i in items) for items in lists)
        and len({len(items) for items in lists}) == 1
    )


def _name(sides: list[dict[str, Any]], key: str) -> str:
    item = next(side[key] for side in sides if key in side)
    return str(item.get("name") or item.get("part") or key)


def _apart(mine: Any, theirs: Any, place: list[str] | None = None) -> list[tuple[list[str], Any, Any]]:
    """Every place where two documents differ."""
    place = place or []
    if mine == theirs:
        return []
    if isinstance(mine, dict) and isinstance(theirs, dict) and _alike(mine, theirs):
        keys = [*mine, *(k for k in theirs if k not in mine)]
        return [d for k in keys for d in _apart(mine.get(k, _ABSENT), theirs.get(k, _ABSENT), [*place, k])]
    key = _common_key(mine, theirs)
    if key is None and _by_position(mine, theirs):
        return [
            d for i, items in enumerate(zip(mine, theirs, strict=True)) for d in _apart(*items, [*place, str(i + 1)])
        ]
    if key is None:
        return [(place, mine, theirs)]
    by = [{item[key]: item for item in items} for items in (mine, theirs)]
    found = []
    for k in [*by[0], *(k for k in by[1] if k not in by[0])]:
        found += _apart(by[0].get(k, _ABSENT), by[1].get(k, _ABSENT), [*place, _name(by, k)])
    return found or [(place, mine, theirs)]  # only the order differs


def taken_over(into: Design, other: Design, place: str) -> Design:
    """One design with what another has at one place, or below it (as `differences` names them), and nothing else. Raises DocumentError where there is no such
    difference, or where it makes no document alone."""
    before = into.model_dump(mode="json")
    after = _taken(before, other.model_dump(mode="json"), [], place)
    if after == before:
        raise DocumentError([Problem(path="/place", message="they do not differ there any more")])
    return build_design(after)


def _taken(mine: Any, theirs: Any, place: list[str], wanted: str) -> Any:
    """The value at a place with theirs where that is the one that is wanted; along the same ways as `_apart`."""
    if mine == theirs:
        return mine
    if place and in_words(place) == wanted:  # all of it
        return theirs
    if isinstance(mine, dict) and isinstance(theirs, dict) and _alike(mine, theirs):
        keys = [*mine, *(k for k in theirs if k not in mine)]
        found = {k: _taken(mine.get(k, _ABSENT), theirs.get(k, _ABSENT), [*place, k], wanted) for k in keys}
        return {k: v for k, v in found.items() if v is not _ABSENT}
    key = _common_key(mine, theirs)
    if key is None and _by_position(mine, theirs):
        return [_taken(a, b, [*place, str(i + 1)], wanted) for i, (a, b) in enumerate(zip(mine, theirs, strict=True))]
    if key is None:
        return mine
    by = [{item[key]: item for item in items} for items in (mine, theirs)]
    keys = [*by[0], *(k for k in by[1] if k not in by[0])]
    items = [_taken(by[0].get(k, _ABSENT), by[1].get(k, _ABSENT), [*place, _name(by, k)], wanted) for k in keys]
    return [item for item in items if item is not _ABSENT]


def _told(place: list[str], mine: Any, theirs: Any) -> Difference:
    field = place[-1] if place else ""
    suffix = field.rsplit("_", 1)[-1]
    unit = _SUFFIXES.get(suffix) or next(
        (_SUFFIXES[s] for p in reversed(place) if (s := p.rsplit("_", 1)[-1]) in _SUFFIXES), ""
    )
    return Difference(place=in_words(place) or WHOLE, mine=_value(mine, unit), theirs=_value(theirs, unit))


def _value(value: Any, unit: str) -> str:
    match value:
        case bool():
            return "yes" if value else "no"
        case int() | float():
            return show(value, unit)
        case str():
            return value if len(value) <= 80 else value[:77] + "..."
        case dict():
            return str(value.get("name") or value.get("part") or "set")
        case list() if value and all(isinstance(v, int | float) for v in value):
            return " × ".join(show(v, unit) for v in value[:6])
        case list() if value:
            return ", ".join(_value(v, unit) for v in value[:6]) + (" ..." if len(value) > 6 else "")
        case _:
            return "–"
