"""Which catalogue stage goes where: of those that can, the ones with which the gadget lasts longest."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np

from ..catalogue import Catalogue
from ..design import Design, LinearStage, PassStage, Stage, SwitchingStage
from ..design.patches import add, replace
from ..design.problems import DocumentError
from ..figures import PatchOperation, Remedy
from ..supply.converters import set_output_v
from ..words import say
from .bench import TrialBench
from .edits import placed

SAME_VOLTAGE = 0.02
MOST_WAYS = 3
LEAST_V, MOST_V = 0.5, 100.0
HEADROOM = 0.95  # of what a part stands
ABOVE = 1.001  # what it needs
Regulator = LinearStage | SwitchingStage


def in_place(old: Stage, candidate: Stage) -> Stage:
    """A catalogue stage where another one is now: same name in the document, same input, same place in the case."""
    body = candidate.body
    if body is not None and old.body is not None:
        body = body.model_copy(
            update={"position_mm": old.body.position_mm, "through": old.body.through, "on": old.body.on}
        )
    return candidate.model_copy(update={"id": old.id, "input": old.input, "body": body, "lead": old.lead})


def same_figures(one: Stage, other: Stage) -> bool:
    """Whether two stages are the same but for their names and where they stand."""
    place = {x: getattr(one, x) for x in ("id", "name", "input", "origin", "cost", "body", "lead") if hasattr(one, x)}
    return type(one) is type(other) and other.model_copy(update=place) == one


def starts_v(stage: Regulator) -> float:
    """Input below which a stage does nothing [V].

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> stage = next(s for s in bench.catalogue.stages if s.name.startswith("Boost 5 V"))
    >>> starts_v(stage)
    2.4
    """
    return (stage.input_min_v or 0.0) if isinstance(stage, LinearStage) else stage.undervoltage_lockout_v


def least_input_v(stage: Regulator, output_a: float) -> float:
    """Input that a stage needs to regulate at an output current [V].

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> stage = next(s for s in bench.catalogue.stages if s.name.startswith("Linear regulator 3.3"))
    >>> [round(least_input_v(stage, amps), 2) for amps in (0.0, 0.1)]
    [3.3, 3.4]
    """
    if isinstance(stage, LinearStage):
        return max(starts_v(stage), stage.output_v + stage.dropout_v / stage.dropout_at_a * output_a)
    return max(starts_v(stage), stage.output_v if stage.topology == "buck" else 0.0)


def regulators(bench: TrialBench, output_v: float, output_a: float, input_v: float) -> list[Regulator]:
    """The catalogue's regulators for a voltage that carry a current and stand the highest input."""
    return [
        s for s in bench.catalogue.stages
        if isinstance(s, LinearStage | SwitchingStage) and not (isinstance(s, SwitchingStage) and s.topology == "inverting")
        and abs(s.output_v / output_v - 1) <= SAME_VOLTAGE and s.limit_a >= output_a
        and (s.input_max_v is None or s.input_max_v >= input_v) and least_input_v(s, output_a) <= input_v
    ]  # fmt: skip


def stage_in_place(bench: TrialBench, position: int, suits: Callable[[Regulator], bool]) -> Iterator[Remedy]:
    """Other stages for the same output in the place of one, the longest-lasting first."""
    old = bench.design.supply.stages[position]
    if not isinstance(old, LinearStage | SwitchingStage):
        return
    index = bench.usual.tree.stage_index[old.id]
    state = bench.usual
    used = state.point_weights > 0
    there = used[:, None] & ~state.worst.collapsed
    peak = float(np.max(state.worst.stage_output_a[index], where=there, initial=0.0))
    highest = bench.highest_input_v[index]
    fitting = [s for s in regulators(bench, old.output_v, peak, highest) if not same_figures(s, old) and suits(s)]
    ways = [
        Remedy(label=say("way.use-it", it=s.name), patch=[replace(f"/supply/stages/{position}", in_place(old, s))])
        for s in fitting
    ]
    yield from longest(bench, ways)


def longest_of(bench: TrialBench, position: int) -> list[Remedy]:
    """Of each kind of stage for the same output in the place of one the most frugal, the longest-lasting first, as far as a rough look tells."""
    old = bench.design.supply.stages[position]
    if not isinstance(old, LinearStage | SwitchingStage):
        return []
    index = bench.usual.tree.stage_index[old.id]
    peak = float(np.max(bench.usual.worst.stage_output_a[index], where=~bench.usual.worst.collapsed, initial=0.0))
    near = (old.output_v * (1 - SAME_VOLTAGE), old.output_v * (1 + SAME_VOLTAGE))
    ways = [
        Remedy(label=say("way.use-it", it=s.name), patch=[replace(f"/supply/stages/{position}", in_place(old, s))])
        for s in making(bench.catalogue, near, peak, bench.highest_input_v[index])
        if not same_figures(s, old)
    ]
    return _by_runtime(ways, bench.roughly_after)


def new_rail_stage(bench: TrialBench, feed: str, output_v: tuple[float, float], output_a: float) -> list[Stage]:
    """Boosts and buck-boosts from a feed for a voltage within limits, that carry a current; those that cut off their
    output when switched off first, then those with the least quiescent current."""
    low, high = output_v
    fitting = [
        s for s in bench.catalogue.stages
        if isinstance(s, SwitchingStage) and s.topology in ("boost", "buck-boost") and low <= s.output_v <= high and s.limit_a >= output_a
    ]  # fmt: skip
    fitting.sort(key=lambda s: (not s.load_disconnect, s.quiescent_a))
    return [placed(bench.design, s, feed) for s in fitting[:MOST_WAYS]]


def rail_window_v(design: Design, rail_index: int) -> tuple[float, float]:
    """What all parts of a rail are made for: at least and at most [V].

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> [round(v, 2) for v in rail_window_v(design, 0)]
    [2.8, 3.6]
    """
    rail = design.supply.rails[rail_index].id
    parts = [p for p in design.parts if p.rail == rail]
    stands = min((HEADROOM * p.supply_absolute_max_v for p in parts if p.supply_absolute_max_v), default=MOST_V)
    made_for = min((p.supply_recommended_max_v for p in parts if p.supply_recommended_max_v), default=MOST_V)
    return ABOVE * max((p.supply_min_v for p in parts if p.supply_min_v), default=LEAST_V), min(stands, made_for)


def before_rail(bench: TrialBench, rail_index: int) -> Iterator[Remedy]:
    """Converters and regulators of the catalogue between a rail and what feeds it, for what its parts are made for."""
    design = bench.design
    rail = design.supply.rails[rail_index]
    worst = bench.usual.worst
    peak = float(np.max(worst.rail_a[rail_index], where=~worst.collapsed, initial=0.0))
    peak = max(peak, sum(bench.most_a(p) for p, part in enumerate(design.parts) if part.rail == rail.id))
    ways = []
    for feed in dict.fromkeys((raw_feed(bench, rail.feed), rail.feed)):
        for stage in making(bench.catalogue, rail_window_v(bench.design, rail_index), peak, bench.highest_v(feed)):
            way = say("way.put-before", stage=stage.name, output=(stage.output_v, "V"), rail=rail.name)
            ways.append(Remedy(label=way, patch=feed_rail(rail_index, placed(design, stage, feed))))
    yield from longest(bench, ways)


def before_stage(bench: TrialBench, position: int) -> Iterator[Remedy]:
    """The same before a stage whose input stands less than it gets."""
    design, state = bench.design, bench.usual
    stage = design.supply.stages[position]
    index = state.tree.stage_index[stage.id]
    peak = float(np.max(state.worst.stage_input_a[index], where=~state.worst.collapsed, initial=0.0))
    out = set_output_v(stage) or LEAST_V
    ways = []
    for new in making(bench.catalogue, (out, stage.input_max_v or MOST_V), peak, bench.highest_v(stage.input)):
        added = placed(design, new, stage.input)
        patch = [add("/supply/stages/-", added), replace(f"/supply/stages/{position}/input", added.id)]
        ways.append(
            Remedy(
                label=say("way.put-before-2", new=new.name, output=(new.output_v, "V"), stage=stage.name), patch=patch
            )
        )
    yield from longest(bench, ways)


def making(catalogue: Catalogue, output_v: tuple[float, float], peak_a: float, top_v: float) -> list[Regulator]:
    """Of each kind of converter and regulator that makes a voltage within limits of at most `top_v`, the one with the least quiescent current."""
    best: dict[str, Regulator] = {}
    for s in catalogue.stages:
        if not isinstance(s, LinearStage | SwitchingStage) or not output_v[0] <= s.output_v <= output_v[1]:
            continue
        kind = "linear" if isinstance(s, LinearStage) else s.topology
        down = kind in ("linear", "buck")
        if kind == "inverting" or s.limit_a < peak_a or (s.input_max_v is not None and s.input_max_v < top_v):
            continue
        if down and least_input_v(s, peak_a) > top_v:
            continue
        kept = best.get(kind)
        if kept is None or (s.quiescent_a, s.cost) < (kept.quiescent_a, kept.cost):
            best[kind] = s
    return list(best.values())


def raw_feed(bench: TrialBench, feed: str) -> str:
    """What a rail that hangs on `feed` could have a converter of its own on, its switch, fuse and protection kept: the last thing on the way
    from the source that only passes the voltage on.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> raw_feed(bench, design.supply.rails[0].feed)
    'switch'
    """
    design, found = bench.design, feed
    here = feed
    while (stage := design.stage(here)) is not None:
        if set_output_v(stage) is not None:
            found = stage.input
        here = stage.input
    return found


def cut_by(bench: TrialBench, feed: str) -> set[str]:
    """The switches, fuses and protections on the way to what hangs on `feed`, by their ids, and whatever the user switches off."""
    design = bench.design
    by_user = {s for m in design.modes if m.switched_off for s in m.off_stages}
    found, here = set(), feed
    while (stage := design.stage(here)) is not None:
        if (isinstance(stage, PassStage) and stage.role in ("switch", "protection", "fuse")) or stage.id in by_user:
            found.add(stage.id)
        here = stage.input
    return found


def feed_rail(rail: int, stage: Stage) -> list[PatchOperation]:
    return [add("/supply/stages/-", stage), replace(f"/supply/rails/{rail}/feed", stage.id)]


def longest(bench: TrialBench, ways: list[Remedy]) -> Iterator[Remedy]:
    """The remedies with the longest runtimes at typical figures, a few of them, the longest first."""
    yield from _by_runtime(ways, lambda patch: bench.after(patch).seconds)[:MOST_WAYS]


def _by_runtime(ways: list[Remedy], seconds: Callable[[list[PatchOperation]], float]) -> list[Remedy]:
    tried = []
    for way in ways:
        try:
            tried.append((-seconds(way.patch), way.label, way))
        except DocumentError:
            continue
    return [way for *_, way in sorted(tried, key=lambda t: t[:2])]
