"""Generic parts, cells, converters and chargers with typical figures and invented designations."""

from __future__ import annotations

import json
import re
from functools import lru_cache
from pathlib import Path
from typing import Annotated, Any, get_args

from pydantic import Field, TypeAdapter, ValidationError, model_validator

from ..design import Cell, Charger, Model, OwnMaking, Part, Slug, Stage, Text
from ..design.problems import DocumentError, Problem, from_validation, read_json
from ..design.upgrades import Piece, upgraded_piece

BUILT_IN = [Path(__file__).parent / "data" / f"{kind}.json" for kind in ("parts", "cells", "stages", "chargers")]
EntryKind = Piece


class Entry(Model):
    """One catalogue entry: exactly the field named by `kind` is filled."""

    key: Slug
    kind: EntryKind
    edition: Annotated[int, Field(ge=1, le=10000)] = Field(1, description="goes up when its figures change")
    note: Text = ""
    part: Part | None = None
    cell: Cell | None = None
    stage: Stage | None = None
    charger: Charger | None = None
    making: OwnMaking | None = None

    @model_validator(mode="after")
    def one_item(self) -> Entry:
        filled = [k for k in get_args(EntryKind) if getattr(self, k) is not None]
        if filled != [self.kind]:
            raise ValueError(f"an entry of kind {self.kind!r} has exactly the field {self.kind!r}")
        return self

    @property
    def name(self) -> str:
        item = self.part or self.cell or self.stage or self.charger or self.making
        assert item is not None
        return item.name


class Catalogue:
    """Entries in a fixed order, by kind."""

    def __init__(self, entries: list[Entry]) -> None:
        self.entries = entries
        self.cells = [e.cell for e in entries if e.cell]
        self.stages = [e.stage for e in entries if e.stage]
        self.parts = [e.part for e in entries if e.part]
        self.chargers = [e.charger for e in entries if e.charger]
        self.by_key = {e.key: e for e in entries}


@lru_cache(maxsize=1)
def built_in() -> Catalogue:
    """The catalogue that ships with the application.

    >>> built_in().by_key["cell-aa-alkaline"].cell.capacity_ah
    2.85
    """
    entries = TypeAdapter(list[Entry])
    return Catalogue([entry for file in BUILT_IN for entry in entries.validate_json(file.read_bytes())])


MOST_IN_FILE = 2000


def own_key(name: str) -> str:
    """The key of an entry of one's own that is known by its name.

    >>> own_key("My best cell!")
    'own-my-best-cell'
    """
    return f"own-{re.sub(r'[^a-z0-9]+', '-', name.lower()).strip('-')}"[:60].rstrip("-")


def read_entry(raw: str) -> Entry:
    """An entry as it was kept, by this version or an earlier one.

    >>> from ember_core.catalogue import built_in
    >>> one = built_in().entries[0]
    >>> read_entry(one.model_dump_json()) == one
    True
    """
    return Entry.model_validate(_upgraded(json.loads(raw)))


def _upgraded(data: Any) -> Any:
    if not isinstance(data, dict):
        return data
    return {k: upgraded_piece(k, v) if k in get_args(Piece) else v for k, v in data.items()}


def read_entries(raw: bytes | str) -> list[Entry]:
    """Entries from an untrusted JSON file, a list as it is exported. Raises DocumentError.

    >>> from ember_core.catalogue import built_in
    >>> one = built_in().entries[0]
    >>> [entry.key for entry in read_entries(f"[{one.model_dump_json()}]")] == [one.key]
    True
    """
    data = read_json(raw)
    if not isinstance(data, list):
        raise DocumentError([Problem("", "is not a list of catalogue entries")])
    if len(data) > MOST_IN_FILE:
        raise DocumentError([Problem("", f"has {len(data)} entries; at most {MOST_IN_FILE} are read at once")])
    try:
        entries = TypeAdapter(list[Entry]).validate_python([_upgraded(x) for x in data])
    except ValidationError as error:
        raise DocumentError(from_validation(error, data)) from None
    seen: set[str] = set()
    for i, entry in enumerate(entries):
        if entry.key in seen:
            raise DocumentError([Problem(f"/{i}/key", f"{entry.key!r} is used twice")])
        seen.add(entry.key)
    return entries
