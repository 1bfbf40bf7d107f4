"""A message and its facts, told in a language."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cache
from importlib.resources import files

from ..quantities import about, ratio, show
from .template import Place, Template, template

LANGUAGE = "en"


@dataclass(frozen=True, slots=True)
class Said:
    """Something that is said: a message by its key, with its facts."""

    key: str
    facts: Mapping[str, Fact] = field(default_factory=dict)

    def __str__(self) -> str:
        return teller().tell(self.key, self.facts)


# nothing, a name, a count, yes or no, a quantity as (value, unit), a list of names, or something said within what is said
Fact = None | str | bool | int | tuple[float | None, str] | Sequence[str | Said] | Said


class Teller:
    """Tells messages in one language, from the files of its folder."""

    def __init__(self, messages: Mapping[str, Template]) -> None:
        self.messages = messages

    def tell(self, key: str, facts: Mapping[str, Fact], used: dict[str, Fact] | None = None) -> str:
        """The message of a key; `used` gathers the facts that it told as they are.

        Raises KeyError for a key that has no message, or a fact that is told and not there."""
        said = self.messages[key]
        return said.plain if said.plain is not None else self._fill(said, facts, {} if used is None else used)

    def some(self, key: str) -> str:
        """The message of a key that tells no facts; empty where there is none."""
        said = self.messages.get(key)
        return "" if said is None else said.plain if said.plain is not None else self._fill(said, {}, {})

    def _fill(self, said: Template, facts: Mapping[str, Fact], used: dict[str, Fact]) -> str:
        parts = []
        for piece in said.pieces:
            if type(piece) is str:
                parts.append(piece)
                continue
            assert isinstance(piece, Place)
            fact = facts[piece.name]
            if piece.choices is None:
                if not piece.way:
                    used.setdefault(piece.name, fact)
                parts.append(self._one(fact, piece.way, used))
                continue
            chosen = piece.choices.get(_kind(fact), piece.choices.get("other"))
            if chosen is not None:
                parts.append(self._fill(chosen, facts, used))
        return "".join(parts)

    def _one(self, fact: Fact, way: str, used: dict[str, Fact]) -> str:
        if isinstance(fact, Said):
            text = self.tell(fact.key, fact.facts, used)
        elif isinstance(fact, tuple):
            value, unit = fact
            assert value is None or not isinstance(value, str)
            if value is not None and way in ("times", "number"):
                return ratio(value) if way == "times" else f"{value:g}"
            text = about(value) if way == "about" and value is not None else show(value, unit)
        elif isinstance(fact, str | int):
            text = str(fact)
        else:
            assert fact is not None
            names = [self._one(f, "", used) for f in (fact[:3] if way.startswith("few") else fact)]
            return _JOINED[way].join(names)
        if way == "lower":
            return text.lower()
        return text[:1].upper() + text[1:] if way == "first" else text


_JOINED = {"and": " and ", "few-and": " and ", "and-the": " and the ", "comma": ", ", "few": ", "}


def _kind(fact: Fact) -> str:
    """What a fact is, of the things that a template chooses by."""
    if fact is None or fact in ("", []):
        return "none"
    if isinstance(fact, bool):
        return "yes" if fact else "no"
    if isinstance(fact, str):
        return fact
    if isinstance(fact, int):
        return "one" if fact == 1 else "other"
    if isinstance(fact, Said):
        return fact.key
    if isinstance(fact, tuple):
        return "none" if fact[0] is None else "one" if fact[0] == 1 else "other"
    return "one" if len(fact) == 1 else "other"


@cache
def teller(language: str = LANGUAGE) -> Teller:
    """The teller of a language, read once."""
    messages: dict[str, Template] = {}
    for file in sorted(files(__package__).joinpath(language).iterdir(), key=lambda f: f.name):
        for key, parts in tomllib.loads(file.read_text("utf-8")).items():
            for name, text in parts.items():
                whole = f"{key}.{name}"
                if whole in messages:
                    raise KeyError(f"{whole} is said twice")
                messages[whole] = template(text)
    return Teller(messages)


def say(key: str, /, **facts: Fact) -> str:
    """A message with its facts, told."""
    return teller().tell(key, facts)


def called(key: str, /, **facts: Fact) -> str:
    """The name of one of the inputs that a working is made from."""
    return teller().tell(f"input.{key}", facts)
