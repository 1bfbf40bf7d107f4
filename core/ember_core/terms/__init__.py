"""The field's words explained, in a few sentences each: one source for the interface, the documents and the report."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib.resources import files
from typing import Any, Literal

from ..figures import Step, record


@record
class Stroke:
    """A line through points, "x,y x,y", on a sheet of 200 by 80; what is meant is `ember`, what it is held against `soft` or `dashed`."""

    kind: Literal["ink", "soft", "ember", "dashed"]
    points: str


@record
class Word:
    """A word at a place of that sheet, where it begins and stands."""

    x: float
    y: float
    text: str


@record
class Drawing:
    lines: list[Stroke]
    words: list[Word]


@record
class Term:
    """A term: its name, what it means, the step of the job where it matters, and the labels of the interface that it explains; a small drawing where
    one helps."""

    key: str
    name: str
    text: str
    step: Step
    labels: list[str]
    drawing: Drawing | None


def _drawing(found: dict[str, Any] | None) -> Drawing | None:
    if found is None:
        return None
    lines = [Stroke(kind=kind, points=points) for kind, points in found["lines"]]
    return Drawing(lines=lines, words=[Word(x=x, y=y, text=text) for x, y, text in found["words"]])


@cache
def terms(language: str = "en") -> tuple[Term, ...]:
    """All terms of a language, by their names."""
    found = tomllib.loads(files(__package__).joinpath(f"{language}.toml").read_text("utf-8"))
    rows = [
        Term(
            key=k,
            name=t["name"],
            text=t["text"],
            step=t["step"],
            labels=t.get("labels", []),
            drawing=_drawing(t.get("drawing")),
        )
        for k, t in found.items()
    ]
    return tuple(sorted(rows, key=lambda t: t.name.casefold()))


__all__ = ["Term", "terms"]
