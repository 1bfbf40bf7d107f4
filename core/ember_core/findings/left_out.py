"""What a list of parts leaves out, though everybody needs it: a socket to charge by, a holder for cells that are swapped, an antenna."""

from __future__ import annotations

import re
from collections.abc import Iterator

from ..design import Design
from ..measures.bench import TrialBench
from .found import Found

_SOCKET = re.compile(
    r"\b(?:usb|type-?c|barrel|charging|magnetic|dc)\b.*\b(?:socket|jack|pads|port|coil)|\bwith port\b", re.IGNORECASE
)
_HOLDER = re.compile(
    r"\b(?:battery|cell|coin)\b.*\b(?:holder|clip|contacts?|box|springs?|cradle)\b"
    r"|\b(?:holder|clip|contacts|springs)\b.*\b(?:A{2,4}|CR\d+|18650|14500|cells?|battery)\b",
    re.IGNORECASE,
)
_ANTENNA = re.compile(r"\bantenna", re.IGNORECASE)
_BY_PLUG = ("usb", "type-c", "adapter")  # kinds of ports that want a socket; None is one of them that nobody named


def _named(design: Design, words: re.Pattern[str]) -> bool:
    """Whether anything in the list is called so."""
    things = [*design.parts, *design.supply.stages, *([design.charger] if design.charger else [])]
    return any(words.search(thing.name) for thing in things)


def no_socket(bench: TrialBench) -> Iterator[Found]:
    """A charger with a place in the case that nothing leads to from outside."""
    design, charger = bench.design, bench.design.charger
    if charger is None or charger.outside or charger.body is None or charger.body.position_mm is None:
        return
    if charger.port is not None and charger.port.kind not in _BY_PLUG:
        return
    bodies = [charger.body, *(p.body for p in design.parts), *(s.body for s in design.supply.stages)]
    plugged = any(b is not None and any(z.kind == "plug" for z in b.zones) for b in bodies)
    if charger.body.through is None and not plugged and not _named(design, _SOCKET):
        yield Found(
            code="no-socket", severity="watch", step="charge", where="/charger", facts={"charger": charger.name}
        )


def no_holder(bench: TrialBench) -> Iterator[Found]:
    """Cells that are swapped, and nothing in the list that holds them."""
    battery, charger = bench.design.battery, bench.design.charger
    if charger is not None or battery.cell.bank is not None or battery.cell.form not in ("cylinder", "coin"):
        return
    if not _named(bench.design, _HOLDER):
        yield Found(code="no-holder", severity="note", step="battery", where="/battery", facts={"cell": battery.cell.name, "cells": battery.series * battery.parallel})  # fmt: skip


def no_antenna(bench: TrialBench) -> Iterator[Found]:
    """A radio without an antenna of its own, and none in the list."""
    design = bench.design
    if _named(design, _ANTENNA):
        return
    for p, part in enumerate(design.parts):
        if part.kind == "radio" and part.body is not None and not any(z.kind == "antenna" for z in part.body.zones):
            yield Found(
                code="no-antenna", severity="watch", step="draw", where=f"/parts/{p}", facts={"part": part.name}
            )
