"""Templates: text with places for facts, the places in braces.

    {own}                            a fact as it is: a name, a count, a quantity with its unit to three digits
    {mode:lower} {mode:first}        in small letters; with a capital
    {x:number}                       the bare number of a quantity, whose unit stands in the template
    {share:about} {rate:times}       "about 12 %"; how many times, to two digits
    {parts:and} {parts:comma}        a list: "a and b", "a, b, c"; {parts:few} and {parts:few-and} have at most three of it
    {bare:yes= It burns.|no=}        a choice by what the fact is: yes or no, one or other (counts and lists), none (nothing, an
                                     empty text or list, an unknown figure), or its own text; what is not among them is
                                     "other", or nothing where there is no other

Each choice is a template of its own. Braces are doubled to stand for themselves, as Python's own templates have it.
"""

from __future__ import annotations

import string
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property


class TemplateError(ValueError):
    """A template that cannot be read."""


@dataclass(frozen=True)
class Place:
    """A place for a fact: how it is told, or what is said for each thing that it may be."""

    name: str
    way: str = ""
    choices: dict[str, Template] | None = None


@dataclass(frozen=True)
class Template:
    pieces: tuple[str | Place, ...]

    @cached_property
    def plain(self) -> str | None:
        """Its text, where it has no places at all."""
        return (
            "".join(p for p in self.pieces if isinstance(p, str))
            if all(isinstance(p, str) for p in self.pieces)
            else None
        )

    @cached_property
    def names(self) -> frozenset[str]:
        """The facts that it may tell."""
        return frozenset(_names(self))


def _names(template: Template) -> Iterator[str]:
    for piece in template.pieces:
        if isinstance(piece, Place):
            yield piece.name
            for choice in (piece.choices or {}).values():
                yield from _names(choice)


WAYS = ("", "lower", "first", "number", "about", "times", "and", "and-the", "comma", "few", "few-and")


def template(text: str) -> Template:
    """Reads a template."""
    pieces: list[str | Place] = []
    try:
        read = list(string.Formatter().parse(text))
    except ValueError as error:
        raise TemplateError(f"{error}: {text}") from None
    for before, name, spec, _ in read:
        if before:
            pieces.append(before)
        if name is None:
            continue
        if not name.isidentifier():
            raise TemplateError(f"“{name}” is no name of a fact: {text}")
        pieces.append(_place(name, spec or ""))
    return Template(tuple(pieces))


def _place(name: str, spec: str) -> Place:
    if "=" not in spec:
        if spec not in WAYS:
            raise TemplateError(f"“{spec}” is no way to tell {name}")
        return Place(name, spec)
    choices = {}
    for choice in _split(spec):
        key, _, text = choice.partition("=")
        if key in choices:
            raise TemplateError(f"{name} has “{key}” twice")
        choices[key] = template(text)
    return Place(name, choices=choices)


def _split(spec: str) -> Iterator[str]:
    """The choices of a place: parted by bars that are not within braces."""
    depth = start = 0
    for i, sign in enumerate(spec):
        depth += (sign == "{") - (sign == "}")
        if sign == "|" and depth == 0:
            yield spec[start:i]
            start = i + 1
    yield spec[start:]
