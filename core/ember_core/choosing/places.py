"""The places of the supply, and what may stand in each."""

from __future__ import annotations

import math
from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np

from ..design import (
    Body,
    Charger,
    Design,
    LinearStage,
    PassStage,
    Stage,
    SwitchingStage,
)
from ..design.references import BATTERY
from ..measures.bench import TrialBench
from ..measures.edits import placed
from ..measures.selection import (
    LEAST_V,
    MOST_V,
    SAME_VOLTAGE,
    Regulator,
    in_place,
    least_input_v,
    rail_window_v,
    same_figures,
)
from ..supply.tree import feeds_of
from ..words import say

Aim = Literal["cost", "mass", "room", "hours"]
AIMS: tuple[Aim, ...] = get_args(Aim)


@dataclass(frozen=True)
class Added:
    """What something adds to the gadget: cost, mass [g] and the room of its box [cm3]."""

    cost: float = 0.0
    mass_g: float = 0.0
    room_cm3: float = 0.0

    @staticmethod
    def of(thing: Stage | Charger) -> Added:
        return Added(thing.cost, thing.mass_g, room_cm3(thing.body))

    def only(self, aims: Collection[Aim]) -> Added:
        """With what does not count left out."""
        return Added(
            *(
                getattr(self, f) if a in aims else 0.0
                for f, a in zip(("cost", "mass_g", "room_cm3"), AIMS, strict=False)
            )
        )

    def __add__(self, other: Added) -> Added:
        return Added(self.cost + other.cost, self.mass_g + other.mass_g, self.room_cm3 + other.room_cm3)


def room_cm3(body: Body | None) -> float:
    """The box around a body [cm3].

    >>> from ember_core.design import Body
    >>> room_cm3(Body(size_mm=(20, 10, 5))), room_cm3(None)
    (1.0, 0.0)
    """
    return 0.0 if body is None else math.prod(body.size_mm) / 1000


@dataclass(frozen=True)
class Option:
    """One way to fill a place: `name` says it, `apply` puts it in; "" where nothing is there. `regulates_v`: what a new regulator needs at its
    input at its peak [V]; it has to have that at half charge. `stands_v`: what it may have at its own input [V]."""

    name: str
    adds: Added
    apply: Callable[[Design], Design]
    regulates_v: float = 0.0
    stands_v: float = math.inf


@dataclass(frozen=True)
class Place:
    """A place of the supply with what may stand there, the present way first. `node` is the stage or the rail that it is about. Switches, fuses and
    protection that are there stay as they are."""

    name: str
    node: str
    options: list[Option]


def supply_places(bench: TrialBench) -> list[Place]:
    design = bench.design
    found = []
    for position, stage in enumerate(design.supply.stages):
        options = list(_options(bench, position, stage))
        if len(options) > 1:
            found.append(Place(stage.name, stage.id, options))
    for index, rail in enumerate(design.supply.rails):
        options = list(_before(bench, index))
        if len(options) > 1:
            found.append(Place(rail.name, rail.id, options))
    return found


def _options(bench: TrialBench, position: int, old: Stage) -> Iterable[Option]:
    if not isinstance(old, LinearStage | SwitchingStage):
        return
    worst, index = bench.usual.worst, bench.usual.tree.stage_index[old.id]
    peak = float(np.max(worst.stage_output_a[index], where=~worst.collapsed, initial=0.0))
    straight = raw(bench.design, old.input)
    yield Option(old.name, Added.of(old), lambda d: d, least_input_v(old, peak) if straight else 0.0)
    for s in bench.catalogue.stages:
        if isinstance(s, LinearStage | SwitchingStage) and _may_replace(old, s, peak) and not same_figures(s, old):
            yield Option(s.name, Added.of(s), _replacing(old.id, s), least_input_v(s, peak) if straight else 0.0)
    if straight:
        yield Option(say("choice.straight"), Added(), _removing(old.id))


def _may_replace(old: Regulator, new: Regulator, peak_a: float) -> bool:
    turned = [isinstance(s, SwitchingStage) and s.topology == "inverting" for s in (old, new)]
    return turned[0] == turned[1] and abs(new.output_v / old.output_v - 1) <= SAME_VOLTAGE and new.limit_a >= peak_a


def _replacing(key: str, new: Stage) -> Callable[[Design], Design]:
    def applied(design: Design) -> Design:
        stages = [in_place(s, new) if s.id == key else s for s in design.supply.stages]
        return design.model_copy(update={"supply": design.supply.model_copy(update={"stages": stages})})

    return applied


def _removing(key: str) -> Callable[[Design], Design]:
    def applied(design: Design) -> Design:
        gone = next(s for s in design.supply.stages if s.id == key)
        stages = [
            s.model_copy(update={f: gone.input for f in ("input", "other") if getattr(s, f, None) == key})
            for s in design.supply.stages
            if s.id != key
        ]
        rails = [r.model_copy(update={"feed": gone.input}) if r.feed == key else r for r in design.supply.rails]
        modes = [m.model_copy(update={"off_stages": [s for s in m.off_stages if s != key]}) for m in design.modes]
        supply = design.supply.model_copy(update={"stages": stages, "rails": rails})
        return design.model_copy(update={"supply": supply, "modes": modes})

    return applied


def _before(bench: TrialBench, index: int) -> Iterable[Option]:
    """What may stand before a rail that hangs straight on the battery: nothing, or what makes a voltage that all its parts are made for."""
    design = bench.design
    rail = design.supply.rails[index]
    low, high = rail_window_v(bench.design, index)
    if not raw(design, rail.feed) or low <= LEAST_V or high >= MOST_V:
        return
    yield Option("", Added(), lambda d: d)
    worst = bench.usual.worst
    peak = float(np.max(worst.rail_a[index], where=~worst.collapsed, initial=0.0))
    peak = max(peak, sum(bench.most_a(p) for p, part in enumerate(design.parts) if part.rail == rail.id))
    for s in bench.catalogue.stages:
        turned = isinstance(s, SwitchingStage) and s.topology == "inverting"
        if (
            isinstance(s, LinearStage | SwitchingStage)
            and not turned
            and low <= s.output_v <= high
            and s.limit_a >= peak
        ):
            yield Option(s.name, Added.of(s), _inserting(rail.id, s), least_input_v(s, peak))


def _inserting(key: str, new: Stage) -> Callable[[Design], Design]:
    def applied(design: Design) -> Design:
        rail = next(r for r in design.supply.rails if r.id == key)
        stage = placed(design, new, rail.feed)
        rails = [r.model_copy(update={"feed": stage.id}) if r.id == key else r for r in design.supply.rails]
        supply = design.supply.model_copy(update={"stages": [*design.supply.stages, stage], "rails": rails})
        return design.model_copy(update={"supply": supply})

    return applied


def raw(design: Design, feed: str) -> bool:
    """Whether what hangs there has the battery's own voltage.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> raw(design, "battery"), raw(design, design.supply.rails[0].feed)
    (True, False)
    """
    while (stage := design.stage(feed)) is not None:
        if not isinstance(stage, PassStage):
            return False
        feed = stage.input
    return feed == BATTERY


def groups_of(design: Design, places: list[Place]) -> list[list[int]]:
    """The places in groups: those that hang on one another together, each of the others alone."""
    group = list(range(len(places)))
    for i, place in enumerate(places):
        under = below(design, {place.node})
        for j, other in enumerate(places):
            if other.node in under:
                group = [group[i] if g == group[j] else g for g in group]
    return [[i for i, g in enumerate(group) if g == key] for key in dict.fromkeys(group)]


def below(design: Design, nodes: set[str]) -> set[str]:
    """What stages and rails feed, themselves included: stages and parts by their ids.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> rail = next(r for r in design.supply.rails if not raw(design, r.feed))
    >>> rail.feed in below(design, {rail.id}), all(p.id in below(design, {rail.id}) for p in design.parts if p.rail == rail.id)
    (True, True)
    """
    rails = {r.id: r.feed for r in design.supply.rails}
    seen = {n for n in nodes if n not in rails} | {rails[n] for n in nodes if n in rails and not raw(design, rails[n])}
    while True:
        more = {s.id for s in design.supply.stages if set(feeds_of(s)) & seen}
        if more <= seen:
            break
        seen |= more
    on = {r for r, feed in rails.items() if feed in seen} | (nodes & set(rails))
    return seen | {p.id for p in design.parts if p.rail in on}


def filled(design: Design, places: list[Place], chosen: Iterable[tuple[int, int]]) -> Design:
    """A design with the chosen options in their places; not yet checked as a document."""
    for place, option in chosen:
        design = places[place].options[option].apply(design)
    return design
