"""A new gadget with sensible defaults everywhere, empty or from a parts list."""

from __future__ import annotations

from pydantic import ValidationError

from ..battery.pack import pack_size_mm
from ..catalogue import built_in
from ..design import (
    FORMAT,
    Battery,
    Body,
    Brief,
    Day,
    Design,
    Enclosure,
    Mode,
    Protection,
    Rail,
    Session,
    Supply,
    Use,
)
from ..design.problems import DocumentError, Problem, sentence
from ..design.references import build_design
from .parts_list import PartsList, busy_state, resting_state

DEFAULT_CELL, DEFAULT_STAGE, DEFAULT_CHARGER = "cell-pouch-503035", "stage-linear-33-frugal", "charger-path"


def new_gadget(name: str, listed: PartsList | None = None) -> Design:
    """A pouch cell with the protection circuit that such pouches usually carry, a charger, a 3.3 V linear regulator, the modes asleep and in use, half an hour a day.

    Raises DocumentError where the parts are too many or too long for one gadget.
    """
    try:
        return build_design(_new_gadget(name, listed).model_dump(mode="json"))
    except ValidationError as error:
        raise DocumentError([Problem("", sentence(e).removeprefix("Value error, ")) for e in error.errors()]) from None


def _new_gadget(name: str, listed: PartsList | None) -> Design:
    catalogue = built_in()
    cell, regulator = catalogue.by_key[DEFAULT_CELL].cell, catalogue.by_key[DEFAULT_STAGE].stage
    charger = catalogue.by_key[DEFAULT_CHARGER].charger
    assert cell is not None
    assert regulator is not None
    assert charger is not None
    parts = listed.parts if listed else []
    rails = listed.rails if listed else ["Main"]
    slugs = list(dict.fromkeys(p.rail for p in parts)) or ["main"]
    return Design(
        format=FORMAT,
        name=name,
        brief=Brief(goal_h=7 * 24),
        parts=parts,
        modes=[
            Mode(id="asleep", name="Asleep", uses=[Use(part=p.id, state=resting_state(p)) for p in parts]),
            Mode(id="in-use", name="In use", uses=[Use(part=p.id, state=busy_state(p)) for p in parts]),
        ],
        supply=Supply(
            stages=[regulator],
            rails=[Rail(id=s, name=n, feed=regulator.id) for s, n in zip(slugs, rails, strict=True)],
        ),
        battery=Battery(cell=cell, protection=Protection(), body=Body(size_mm=pack_size_mm(cell, 1))),
        charger=charger.model_copy(update={"program_ohm": 3600.0}),
        day=Day(rest="asleep", sessions=[Session(name="In use", mode="in-use", seconds=1800, per_day=1)]),
        enclosure=Enclosure(outer_mm=(60, 90, 24)),
    )
