"""Ways out where pins run short: switches joined by diodes, keys on a ladder, a port expander. Each is applied and the pins assigned anew before it is offered."""

from __future__ import annotations

import math
from collections.abc import Iterator

from ..calculators.ladder import ladder
from ..design import Design, Need, Part, Use
from ..design.patches import add, apply_patch, replace
from ..design.problems import DocumentError
from ..figures import PatchOperation, Remedy
from ..measures.bench import TrialBench
from ..quantities import show
from ..quantities.preferred import E24
from ..words import say
from .assign import assign
from .roles import hosts, wants_of

MOST_WAYS = 4
DIVIDER_OHM = 10_000.0  # of the upper resistor: fast enough for a signal, and no load for the part


def short_of(design: Design) -> int:
    """How many signals and parts on buses find no pin, at all hosts.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> short_of(design)
    0
    """
    picked = {p.signal: p.pin for p in design.wiring.picked} if design.wiring else {}
    short = 0
    for host in hosts(design):
        wants = wants_of(design, host)
        short += wants.beyond + len(assign(design.parts[host].pins, wants, picked).missing)
    return short


def ways_out(bench: TrialBench, host: int, short: int) -> list[Remedy]:
    """What leaves fewer without a pin than `short`, those that leave none first.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> ways_out(bench, 0, 0)
    []
    """
    found = list[tuple[int, Remedy]]()
    for way in (*_joined(bench, host), *_ladders(bench, host), *_expanders(bench, host)):
        try:
            left = short_of(apply_patch(bench.design, way.patch))
        except DocumentError:
            continue
        if left < short:
            label = way.label if not left else say("wiring.way-still", way=way.label, left=(left, ""))
            found.append((left, Remedy(label=label, patch=way.patch)))
    return [way for _, way in sorted(found, key=lambda x: x[0])][:MOST_WAYS]


def controllers(bench: TrialBench) -> list[str]:
    """The controllers and boards of the catalogue on whose pins everything would find a place.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> len(controllers(bench)) > 1
    True
    """
    design = bench.design
    first = hosts(design)[0]
    found = []
    for entry in bench.catalogue.entries:
        other = entry.part
        if other is None or not other.pins or other.kind != "controller" or other.name == design.parts[first].name:
            continue
        wants = wants_of(design, first)
        if not assign(other.pins, wants).missing:
            found.append(other.name)
    return found


def divided(design: Design, part: int, need: Need, high: float, to_v: float) -> list[Remedy]:
    """A signal that is too high for its pin, through two resistors.

    >>> from ember_core.design import Need
    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> need = design.parts[2].needs[0].model_copy(update={"work": "in"})
    >>> [(p.path, p.value) for p in divided(design, 2, need, 5.0, 3.3)[0].patch]
    [('/parts/2/needs/0/level_v', 3.214)]
    """
    if need.work not in ("in", "analogue"):
        return []  # a bus wants a level shifter
    lower = _below(DIVIDER_OHM * to_v / (high - to_v))
    at_pin = high * lower / (DIVIDER_OHM + lower)
    item = design.parts[part]
    index = next(k for k, n in enumerate(item.needs) if n.name == need.name)
    label = say("wiring.way-divider", part=item.name, upper=(DIVIDER_OHM, "Ω"), lower=(lower, "Ω"), volts=(at_pin, "V"))
    return [Remedy(label=label, patch=[replace(f"/parts/{part}/needs/{index}/level_v", round(at_pin, 3))])]


def _below(ohm: float) -> float:
    """The largest value of the E24 series that is not above a resistance [ohm]."""
    decade = 10 ** math.floor(math.log10(ohm))
    return float(max(x * decade for x in (*E24, 10) if x * decade <= ohm * (1 + 1e-9)))


def _needs(design: Design, host: int, *, wakes: bool | None = None) -> Iterator[tuple[int, int, Part, Need]]:
    """(part, need, ...) of the plain inputs of parts on a host."""
    first = hosts(design)[0]
    for p, part in enumerate(design.parts):
        for n, need in enumerate(part.needs):
            at = design.index.parts.get(need.at, first) if need.at else first
            if at == host and need.work == "in" and (wakes is None or need.wakes == wakes):
                yield p, n, part, need


def _joined(bench: TrialBench, host: int) -> Iterator[Remedy]:
    """What wakes, joined by diodes on one pin, while each keeps a pin that tells which it was."""
    waking = list(_needs(bench.design, host, wakes=True))
    count = sum(need.count * part.quantity for _, _, part, need in waking)
    if count < 2:
        return
    patch = [replace(f"/parts/{p}/needs/{n}/wakes", False) for p, n, _, _ in waking]
    p, _, part, _ = waking[0]
    name = _new_name(part, say("wiring.joined"))
    yield Remedy(
        label=say("wiring.way-join", count=(count, "")),
        patch=[*patch, add(f"/parts/{p}/needs/-", Need(name=name, work="in", wakes=True, pulled=True))],
    )


def _ladders(bench: TrialBench, host: int) -> Iterator[Remedy]:
    """A part's keys on one analogue pin."""
    rails = bench.usual.rail_of
    for p, n, part, need in _needs(bench.design, host, wakes=False):
        keys = need.count * part.quantity
        if not 2 <= keys <= 24 or (part.quantity > 1 and len(part.needs) > 1):
            continue
        made = ladder(keys, float(bench.highest_rail_v[rails[p]]))
        if made.gap <= 0:
            continue
        text = say(
            "wiring.way-ladder", part=part.name, count=(keys, ""), pull=(made.pull_ohm, "Ω"),
            chain=", ".join(show(r, "Ω") for r in made.chain_ohm), gap=(made.gap * 100, "%"), held=(made.held_a, "A"),
        )  # fmt: skip
        one = Need(name=need.name, work="analogue")
        patch = [replace(f"/parts/{p}/needs/{n}", one)]
        if part.quantity > 1:  # one ladder for all copies: what it needs stands at another part, once
            patch = _moved(bench.design, p, n, host, one)
        yield Remedy(label=text, patch=patch)


def _moved(design: Design, p: int, n: int, host: int, one: Need) -> list[PatchOperation]:
    """A need taken from a part of several copies and given to its controller's neighbour list as one."""
    part = design.parts[p]
    quiet = part.model_copy(update={"needs": [x for k, x in enumerate(part.needs) if k != n]})
    lone = part.model_copy(update={"id": _new_id(design, f"{part.id}-ladder"), "name": say("wiring.ladder-of", part=part.name)[:120], "needs": [one], "quantity": 1,
                                   "cost": 0.0, "mass_g": 0.0, "body": None, "grid": None})  # fmt: skip
    return [replace(f"/parts/{p}/needs", [x.model_dump(mode="json") for x in quiet.needs]), add("/parts/-", lone)]


def _expanders(bench: TrialBench, host: int) -> Iterator[Remedy]:
    """A port expander of the catalogue, with what does not have to be at the controller."""
    design = bench.design
    movable = [
        (p, n, part, need)
        for p, part in enumerate(design.parts)
        for n, need in enumerate(part.needs)
        if need.at is None and need.work in ("in", "out") and not need.wakes and p != host
    ]
    if not movable or hosts(design)[0] != host:
        return
    for entry in bench.catalogue.entries:
        expander = entry.part
        if expander is None or not expander.pins or not any(n.work == "i2c" for n in expander.needs):
            continue
        key = _new_id(design, expander.id)
        rail = design.parts[host].rail
        patch = [add("/parts/-", expander.model_copy(update={"id": key, "rail": rail}))]
        rest = min(expander.states, key=lambda s: s.draw.current_a.typical if s.draw.behaviour == "current" else 0.0)
        patch += [
            add(f"/modes/{m}/uses/-", Use(part=key, state=rest.name))
            for m, mode in enumerate(design.modes)
            if not mode.switched_off
        ]
        room, taken = sum("in" in p.can for p in expander.pins), 0
        for p, n, part, need in movable:
            if taken + need.count * part.quantity <= room:
                taken += need.count * part.quantity
                patch.append(replace(f"/parts/{p}/needs/{n}/at", key))
        yield Remedy(
            label=say(
                "wiring.way-expander",
                part=expander.name,
                count=(taken, ""),
                cost=(expander.cost, design.brief.currency),
            ),
            patch=patch,
        )


def _new_name(part: Part, name: str) -> str:
    taken = {n.name for n in part.needs}
    return next(x for x in (name, *(f"{name} {k}" for k in range(2, 99))) if x not in taken)


def _new_id(design: Design, wanted: str) -> str:
    taken = {p.id for p in design.parts}
    return next(x for x in (wanted[:55], *(f"{wanted[:55]}-{k}" for k in range(2, 2000))) if x not in taken)
