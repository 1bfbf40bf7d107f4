"""Generic parts, cells, converters and chargers with typical figures and invented designations."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path
from typing import Literal

from pydantic import TypeAdapter, model_validator

from .design import Cell, Charger, Model, Part, Slug, Stage, Text

BUILT_IN = Path(__file__).parent / "data" / "catalogue.json"
EntryKind = Literal["part", "cell", "stage", "charger"]


class Entry(Model):
    """One catalogue entry: exactly the field named by `kind` is filled."""

    key: Slug
    kind: EntryKind
    note: Text = ""
    part: Part | None = None
    cell: Cell | None = None
    stage: Stage | None = None
    charger: Charger | None = None

    @model_validator(mode="after")
    def one_item(self) -> Entry:
        filled = [k for k in ("part", "cell", "stage", "charger") if getattr(self, k) is not None]
        if filled != [self.kind]:
            raise ValueError(f"an entry of kind {self.kind!r} has exactly the field {self.kind!r}")
        return self

    @property
    def name(self) -> str:
        item = self.part or self.cell or self.stage or self.charger
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


@lru_cache(maxsize=1)
def built_in() -> Catalogue:
    """The catalogue that ships with the application."""
    return Catalogue(TypeAdapter(list[Entry]).validate_json(BUILT_IN.read_bytes()))
