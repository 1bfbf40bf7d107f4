"""Recipes: what a kind of gadget is usually made of and does, one file each in `data/`."""

from __future__ import annotations

import json
from importlib.resources import files
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

School = Literal["cells", "pouch", "swap", "bank"]
Place = Literal["indoors", "outdoors", "pocket", "cold"]


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class Happening(_Strict):
    """What it does, as a maker says it: "2 s every 15 min", "2 h a day"."""

    mode: str
    name: str
    text: str


class RecipePart(_Strict):
    """A part of the catalogue by its key; `uses` says in which state it is in each mode that it is used in."""

    id: str
    entry: str
    quantity: int = 1
    rail: str = "main"
    uses: dict[str, str]


class RecipeMode(_Strict):
    id: str
    name: str


class Pack(_Strict):
    """Cells of the catalogue in series."""

    cell: str
    series: int = 1


class Recipe(_Strict):
    """`packs` lists for each school the packs that are tried, the smallest first."""

    key: str
    name: str
    about: str
    gadget: Annotated[str, Field(description="a name to begin with")]
    happens: list[Happening]
    goal_h: float
    place: Place = "indoors"
    parts: list[RecipePart]
    modes: list[RecipeMode]
    rest: str
    switch: Annotated[bool, Field(description="it has a power switch")] = False
    packs: dict[School, list[Pack]]


def _read() -> tuple[Recipe, ...]:
    folder = files(__package__).joinpath("data")
    found = sorted((f for f in folder.iterdir() if f.name.endswith(".json")), key=lambda f: f.name)
    return tuple(Recipe.model_validate({"key": f.name[3:-5], **json.loads(f.read_text("utf-8"))}) for f in found)


RECIPES = _read()
