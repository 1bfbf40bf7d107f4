"""A new gadget with sensible defaults everywhere, empty or from a parts list."""

from __future__ import annotations

import re
from collections.abc import Iterable

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
    LinearStage,
    Mode,
    Part,
    Protection,
    Rail,
    Session,
    Stage,
    Supply,
    SwitchingStage,
    Use,
)
from ..design.problems import DocumentError, Problem, sentence
from ..design.references import build_design
from ..supply.converters import least_input_v
from .parts_list import PartsList, busy_state, resting_state, state_current

CELL_V = (3.0, 4.2)  # of one lithium-ion cell
NEAR = 0.03  # of a voltage that is meant
_VOLTS = re.compile(  # "5 V", "3V3", "3.3"
    r"(?<![\d.,])(\d{1,2}(?:[.,]\d+)?)\s*[Vv](?![a-zA-Z\d])|(?<![\d.,])(\d{1,2}[Vv]\d{1,2})|^\s*(\d{1,2}(?:[.,]\d+)?)\s*$"
)
_BATTERY = re.compile(r"\b(v?bat\w*|cell|raw|lipo|vin)\b", re.IGNORECASE)
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
    feeds = (
        [_feed(n, regulator, _drawn(p for p in parts if p.rail == s)) for n, s in zip(rails, slugs, strict=True)]
        if parts
        else [regulator]
    )
    stages = list({s.id: s for s in feeds if s is not None}.values())
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
            stages=stages,
            rails=[
                Rail(id=s, name=n, feed=feed.id if feed else "battery")
                for s, n, feed in zip(slugs, rails, feeds, strict=True)
            ],
        ),
        battery=Battery(cell=cell, protection=Protection(), body=Body(size_mm=pack_size_mm(cell, 1))),
        charger=charger.model_copy(update={"program_ohm": 3600.0}),
        day=Day(rest="asleep", sessions=[Session(name="In use", mode="in-use", seconds=1800, per_day=1)]),
        enclosure=Enclosure(outer_mm=(60, 90, 24)),
    )


def _drawn(parts: Iterable[Part]) -> float:
    """What parts draw together at work [A]."""
    return sum(p.quantity * state_current(p, busy_state(p)) for p in parts)


def _feed(rail: str, usual: Stage, amps: float) -> Stage | None:
    """What feeds a rail by its name: a stage of the voltage in it that runs from one lithium cell and carries what hangs on it, the most frugal one; nothing between where it
    is the battery's own; else the usual regulator."""
    if _BATTERY.search(rail):
        return None
    match = _VOLTS.search(rail)
    written = next((g for g in match.groups() if g), "") if match else ""
    volts = float(re.sub("[,Vv]", ".", written)) if written else None
    if volts is None or abs(getattr(usual, "output_v", 0.0) - volts) <= NEAR * volts:
        return usual
    fit = [
        s
        for s in built_in().stages
        if isinstance(s, LinearStage | SwitchingStage)
        and not (isinstance(s, SwitchingStage) and s.topology == "inverting")
        and abs(s.output_v - volts) <= NEAR * volts
        and (s.input_max_v is None or s.input_max_v >= CELL_V[1])
        and least_input_v(s) <= CELL_V[0]
        and (volts < CELL_V[0] or (isinstance(s, SwitchingStage) and s.topology != "buck"))
    ]
    return min(fit, key=lambda s: (s.limit_a < amps, s.quiescent_a), default=usual)
