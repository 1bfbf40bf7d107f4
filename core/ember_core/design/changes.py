"""Which areas of a gadget two documents differ in, as far as a list of revisions tells it."""

from __future__ import annotations

from typing import Any, Literal, get_args

from .gadget import Design

Area = Literal[
    "name", "brief", "parts", "modes", "day", "supply", "battery", "charging", "case", "places", "wiring", "notes"
]
AREAS: tuple[Area, ...] = get_args(Area)


def touched(before: Design, after: Design) -> list[Area]:
    """The areas that differ, in the order of the work. Where only something lies elsewhere or has another body, that is `places`."""
    one, other = _areas(before), _areas(after)
    return [area for area in AREAS if one[area] != other[area]]


def _areas(design: Design) -> dict[Area, Any]:
    supply, battery, charger = design.supply, design.battery, design.charger
    bodies = [(x.id, x.body) for x in (*design.parts, *supply.stages)]
    return {
        "name": (design.name, design.summary),
        "brief": design.brief,
        "parts": [p.model_copy(update={"body": None}) for p in design.parts],
        "modes": design.modes,
        "day": design.day,
        "supply": supply.model_copy(update={"stages": [s.model_copy(update={"body": None}) for s in supply.stages]}),
        "battery": battery.model_copy(update={"body": None}),
        "charging": charger and charger.model_copy(update={"body": None}),
        "case": design.enclosure,
        "places": (bodies, battery.body, charger and charger.body),
        "wiring": design.wiring,
        "notes": (design.decisions, design.dismissed, design.guesses),
    }
