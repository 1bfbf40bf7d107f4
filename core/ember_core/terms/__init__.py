"""The field's words explained, in a few sentences each: one source for the interface, the documents and the report."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib.resources import files

from ..figures import Step, record


@record
class Term:
    """A term: its name, what it means, the step of the job where it matters, and the labels of the interface that it explains."""

    key: str
    name: str
    text: str
    step: Step
    labels: list[str]


@cache
def terms(language: str = "en") -> tuple[Term, ...]:
    """All terms of a language, by their names."""
    found = tomllib.loads(files(__package__).joinpath(f"{language}.toml").read_text("utf-8"))
    rows = [
        Term(key=k, name=t["name"], text=t["text"], step=t["step"], labels=t.get("labels", []))
        for k, t in found.items()
    ]
    return tuple(sorted(rows, key=lambda t: t.name.casefold()))


__all__ = ["Term", "terms"]
