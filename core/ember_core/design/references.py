"""Reading a design: the models' own checks, then what one part of the document says of another."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterable, Sequence
from graphlib import CycleError, TopologicalSorter
from itertools import islice, product
from typing import Any

from pydantic import ValidationError

from ..design import FORMAT, Body, Day, Design, PowerOrStage, Session, Stage, Stretch, SwitchingStage, Wake
from ..quantities import clock
from .day import happens
from .phases import count_operating_points
from .problems import DocumentError, Problem, from_validation, pointer, read_json, with_places
from .surfaces import solid_of
from .upgrades import READABLE, upgraded

BATTERY = "battery"
MOST_LOOPS = 8  # that are told at once
MOST_STARTS = 200  # by the clock, in one day

# What one evaluation may cost: some seconds and a gigabyte at these bounds, where gadgets have a hundredth of them.
MOST_CELLS = 8_000  # parts times modes
MOST_MOMENTS = 800  # stretches within the modes in which every part does one thing
MOST_POINTS = 12_000  # operating points times stages and rails


def read_design(raw: bytes | str) -> Design:
    """An untrusted file or request body as a design. Raises DocumentError."""
    return build_design(read_json(raw))


def build_design(data: Any) -> Design:
    """Plain data as a design. Raises DocumentError with every problem found (at most 50)."""
    if not isinstance(data, dict):
        raise DocumentError([Problem("", "is not a design document: an object was expected")])
    if data.get("format") not in READABLE:
        found = data.get("format")
        said = "has no format version" if found is None else f"has the unknown format version {str(found)[:40]!r}"
        raise DocumentError([Problem("/format", f"{said}; this application reads {FORMAT!r}")])
    try:
        data = upgraded(data)
        design = Design.model_validate(data)
    except ValidationError as error:
        raise DocumentError(with_places(from_validation(error, data), data)) from None
    problems = check_references(design) or list(_effort(design))
    if problems:
        raise DocumentError(with_places(problems[:50], data))
    return design


def check_references(design: Design) -> list[Problem]:
    """Everything in one list that names something in another must find it, once."""
    problems = [
        *_unique(design),
        *_supply(design),
        *_parts(design),
        *_modes(design),
        *_day(design),
        *_charger(design),
        *_boards(design),
        *_films(design),
        *_carried(design),
        *_surfaces(design),
    ]
    return problems


def _unique(design: Design) -> Iterable[Problem]:
    lists: list[tuple[tuple[str, ...], list[str]]] = [
        (("parts",), [p.id for p in design.parts]),
        (("modes",), [m.id for m in design.modes]),
        (("supply", "rails"), [r.id for r in design.supply.rails]),
        (("supply", "stages"), [s.id for s in design.supply.stages]),
        (("supply", "sources"), [s.id for s in design.supply.sources]),
        (("day", "sessions"), [s.id for s in design.day.sessions]),
        (("day", "wakes"), [w.id for w in design.day.wakes]),
        (("enclosure", "fastenings"), [f.id for f in design.enclosure.fastenings]),
    ]
    for path, ids in lists:
        seen: set[str] = set()
        for i, name in enumerate(ids):
            if name in seen:
                yield Problem(pointer(*path, i, "id"), f"{name!r} is used twice")
            seen.add(name)
    stages = {s.id for s in design.supply.stages}
    if BATTERY in stages:
        yield Problem("/supply/stages", "'battery' is the battery's own name; no stage may have it")
    for i, source in enumerate(design.supply.sources):
        if source.id in stages | {BATTERY}:
            yield Problem(pointer("supply", "sources", i, "id"), f"{source.id!r} is the name of something else too")


def _effort(design: Design) -> Iterable[Problem]:
    """A design that would take too long or too much memory, and what of it to reduce."""
    parts, modes = len(design.parts), len(design.modes)
    if parts * modes > MOST_CELLS:
        yield Problem("/parts", f"{parts} parts in {modes} modes are more than is reckoned here ({MOST_CELLS} together); leave out "
                      "parts or modes, or put parts that do the same into one with a quantity")  # fmt: skip
        return
    counts = [count_operating_points(mode, design.parts) for mode in design.modes]
    worst = max(range(modes), key=counts.__getitem__)
    where, total = pointer("modes", worst, "uses"), sum(counts)
    most = f"{design.modes[worst].name!r} has most of them, {counts[worst]}: give its bursts fewer phases, or the same times"
    if total > MOST_MOMENTS:
        yield Problem(
            where,
            f"the bursts of all modes make {total} moments, more than the {MOST_MOMENTS} that are reckoned; {most}",
        )
    feeds = len(design.supply.stages) + len(design.supply.rails)
    if total * feeds > MOST_POINTS:
        yield Problem(where, f"{total} moments with {feeds} stages and rails are more than is reckoned here ({MOST_POINTS} together); "
                      f"{most}, or leave out stages")  # fmt: skip


def _supply(design: Design) -> Iterable[Problem]:
    stages = {s.id: s for s in design.supply.stages}
    known = {BATTERY, *stages, *(s.id for s in design.supply.sources)}
    for i, rail in enumerate(design.supply.rails):
        if rail.feed not in known:
            yield Problem(
                pointer("supply", "rails", i, "feed"), f"the rail {rail.name!r} has no source: nothing is {rail.feed!r}"
            )
    for i, stage in enumerate(design.supply.stages):
        where = ("supply", "stages", i)
        for field, feed in _feeds(stage):
            if feed not in known:
                yield Problem(pointer(*where, field), f"{stage.name!r} has no source: nothing is {feed!r}")
        if isinstance(stage, SwitchingStage):
            yield from _points(stage, where)
    for i, field, ring in islice(_loops(design.supply.stages), MOST_LOOPS):
        first = stages[ring[0]].name
        names = " → ".join(stages[v].name for v in ring)
        yield Problem(pointer("supply", "stages", i, field), f"{first!r} feeds itself: {names} → {first}")


def _feeds(stage: Stage) -> list[tuple[str, str]]:
    """(field, id) of each thing that feeds a stage."""
    both = [("input", stage.input)]
    return [*both, ("other", stage.other)] if isinstance(stage, PowerOrStage) else both


def _loops(stages: Sequence[Stage]) -> Iterable[tuple[int, str, list[str]]]:
    """(position, field, ids along the way) of feeds that close a loop: each is told, opened, and the next one sought.

    The ids run from the stage itself, in the direction of the energy, to what feeds it. Linear in the stages per loop.
    """
    position = {s.id: i for i, s in enumerate(stages)}
    feeds = {s.id: [(field, feed) for field, feed in _feeds(s) if feed in position] for s in stages}
    while True:
        try:
            TopologicalSorter({k: [feed for _, feed in v] for k, v in feeds.items()}).prepare()
            return
        except CycleError as error:
            ring: list[str] = error.args[1][:-1]
        first = ring.index(min(ring, key=position.__getitem__))
        ring = ring[first:] + ring[:first]
        field = next(f for f, feed in feeds[ring[0]] if feed == ring[-1])
        yield position[ring[0]], field, ring
        feeds[ring[0]] = [x for x in feeds[ring[0]] if x != (field, ring[-1])]


def _points(stage: SwitchingStage, where: tuple[str | int, ...]) -> Iterable[Problem]:
    """Efficiency points that contradict each other or the stage's own limits."""
    counts = Counter((p.input_v, p.current_a) for p in stage.points)
    for (volts, amps), count in counts.items():
        if count > 1:
            yield Problem(pointer(*where, "points"), f"has {count} points at {volts:g} V and {amps:g} A")
    before: dict[float, float] = {}
    for k, point in enumerate(stage.points):
        if point.current_a < before.get(point.input_v, 0.0):
            yield Problem(
                pointer(*where, "points", k, "current_a"),
                f"{point.current_a:g} A comes after {before[point.input_v]:g} A at {point.input_v:g} V; "
                "the points of one input voltage go upwards",
            )
        before[point.input_v] = point.current_a
        if point.current_a > stage.limit_a:
            yield Problem(
                pointer(*where, "points", k, "current_a"),
                f"is measured at {point.current_a:g} A, above its limit of {stage.limit_a:g} A",
            )
        if stage.topology == "buck" and point.input_v < stage.output_v:
            yield Problem(
                pointer(*where, "points", k, "input_v"),
                f"a buck cannot make {stage.output_v:g} V out of {point.input_v:g} V",
            )
        if stage.topology == "boost" and point.input_v > stage.output_v:
            yield Problem(
                pointer(*where, "points", k, "input_v"),
                f"a boost to {stage.output_v:g} V does not work at {point.input_v:g} V",
            )


def _parts(design: Design) -> Iterable[Problem]:
    rails = {r.id for r in design.supply.rails}
    parts = {p.id for p in design.parts}
    for i, part in enumerate(design.parts):
        if part.rail not in rails:
            yield Problem(pointer("parts", i, "rail"), f"{part.name!r} is on {part.rail!r}, which is not a rail")
        names = Counter(s.name for s in part.states)
        for name, count in names.items():
            if count > 1:
                yield Problem(pointer("parts", i, "states"), f"has {count} states named {name!r}")
        for b, burst in enumerate(part.bursts):
            for k, phase in enumerate(burst.phases):
                if phase.state not in names:
                    where = pointer("parts", i, "bursts", b, "phases", k, "state")
                    yield Problem(where, f"{part.id!r} has no state {phase.state!r}")
        for w, wake in enumerate(part.wakes):
            if wake.state not in names:
                yield Problem(pointer("parts", i, "wakes", w, "state"), f"{part.id!r} has no state {wake.state!r}")
        if part.peak and part.peak.state is not None and part.peak.state not in names:
            yield Problem(pointer("parts", i, "peak", "state"), f"{part.id!r} has no state {part.peak.state!r}")
        if part.way is not None and (part.way not in parts or part.way == part.id):
            yield Problem(pointer("parts", i, "way"), f"nothing else is {part.way!r}")
        if part.divider and part.divider.reader is not None and part.divider.reader not in parts:
            yield Problem(pointer("parts", i, "divider", "reader"), f"nothing is {part.divider.reader!r}")


def _modes(design: Design) -> Iterable[Problem]:
    states = {p.id: {s.name for s in p.states} for p in design.parts}
    for m, mode in enumerate(design.modes):
        if design.parts and not mode.uses:
            yield Problem(
                pointer("modes", m, "uses"), f"the mode {mode.name!r} has no parts; use one in it or delete the mode"
            )
        yield from _switched(design, m)
        seen: set[str] = set()
        for u, use in enumerate(mode.uses):
            where = ("modes", m, "uses", u)
            if use.part not in states:
                yield Problem(pointer(*where, "part"), f"nothing is {use.part!r}")
                continue
            if use.part in seen:
                yield Problem(pointer(*where, "part"), f"{use.part!r} is used twice in {mode.name!r}")
            seen.add(use.part)
            named = [(("state",), use.state), *((("burst", b, "state"), x.state) for b, x in enumerate(use.burst))]
            if use.rest is not None:
                named.append((("rest",), use.rest))
            for tail, name in named:
                if name not in states[use.part]:
                    yield Problem(pointer(*where, *tail), f"{use.part!r} has no state {name!r}")


def _switched(design: Design, m: int) -> Iterable[Problem]:
    """What a mode switches off or plugs in has to be there, and to have a switch."""
    mode = design.modes[m]
    stages = {s.id: s for s in design.supply.stages}
    sources = {s.id for s in design.supply.sources}
    for k, name in enumerate(mode.off_stages):
        where = pointer("modes", m, "off_stages", k)
        if name not in stages:
            yield Problem(where, f"nothing is {name!r}")
        elif not stages[name].enable:
            yield Problem(where, f"{stages[name].name!r} cannot be switched off: it has no enable input")
    for k, name in enumerate(mode.plugged):
        if name not in sources:
            yield Problem(pointer("modes", m, "plugged", k), f"no source is {name!r}")


def _day(design: Design) -> Iterable[Problem]:
    modes = {m.id for m in design.modes}
    day = design.day
    if day.rest not in modes:
        yield Problem("/day/rest", f"nothing is {day.rest!r}")
    lists: list[tuple[str, Sequence[Session | Wake]]] = [("sessions", day.sessions), ("wakes", day.wakes)]
    for key, events in lists:
        for i, event in enumerate(events):
            for field in ("mode", "before", "after"):
                named = getattr(event, field, None)
                name = named.mode if isinstance(named, Stretch) else named
                if name is not None and name not in modes:
                    yield Problem(
                        pointer("day", key, i, *([field] if field == "mode" else [field, "mode"])),
                        f"nothing is {name!r}",
                    )
    yield from _too_long(day)
    yield from _overlaps(day)
    for i, wake in enumerate(day.wakes):
        if wake.total_s > wake.every_s:
            yield Problem(
                pointer("day", "wakes", i, "awake_s"),
                f"is awake for {wake.total_s:g} s, longer than the {wake.every_s:g} s between wakes",
            )


def _charger(design: Design) -> Iterable[Problem]:
    charger = design.charger
    if charger is not None and charger.mode is not None and charger.mode not in {m.id for m in design.modes}:
        yield Problem("/charger/mode", f"nothing is {charger.mode!r}")


def _too_long(day: Day) -> Iterable[Problem]:
    """More in one day than it has hours, on any day of the year; wakes that leave no time to sleep."""
    said: set[str] = set()
    patterns = [*day.sessions, *day.wakes]
    weekdays, months = (
        _unlike(range(7), [p.days for p in patterns]),
        _unlike(range(1, 13), [p.months for p in patterns]),
    )
    for weekday, month in product(weekdays, months):
        total = awake = 0.0
        for i, session in enumerate(day.sessions):
            total += session.total_s * session.per_day * happens(session, weekday, month)
            if total > 86400 and "sessions" not in said:
                said.add("sessions")
                yield Problem(
                    pointer("day", "sessions", i), f"the day's sessions come to {total / 3600:.1f} h, above 24 h"
                )
        for i, wake in enumerate(day.wakes):
            awake += wake.total_s / wake.every_s * happens(wake, weekday, month)
            if awake > 1 and "wakes" not in said and wake.total_s <= wake.every_s:
                said.add("wakes")
                yield Problem(pointer("day", "wakes", i, "awake_s"), "the wakes together leave no time to sleep")


def _unlike(values: Iterable[int], chosen: list[Collection[int]]) -> list[int]:
    """The first of the values that are in the same of the lists: what is so of them is so of the others."""
    first: dict[tuple[bool, ...], int] = {}
    for value in values:
        first.setdefault(tuple(value in some for some in chosen), value)
    return list(first.values())


def _overlaps(day: Day) -> Iterable[Problem]:
    """Two sessions by the clock at the same time: the gadget is in one mode at a time."""
    if sum(len(s.at_h) for s in day.sessions) > MOST_STARTS:
        yield Problem("/day/sessions", f"they have more than {MOST_STARTS} starting times in all")
        return
    clocked = [(i, s, at) for i, s in enumerate(day.sessions) for at in s.at_h]
    for k, (i, one, at) in enumerate(clocked):
        for j, other, start in clocked[:k]:
            if not _share_a_day(one, other):
                continue
            if (at - start) % 24 < other.total_s / 3600 - 1e-9 or (start - at) % 24 < one.total_s / 3600 - 1e-9:
                name = f"{other.name} at {clock(start)}" if i != j else f"itself at {clock(start)}"
                yield Problem(pointer("day", "sessions", i, "at_h"), f"at {clock(at)} it overlaps {name}")
                return


def _share_a_day(one: Session, other: Session) -> bool:
    def meet(a: list[int], b: list[int]) -> bool:
        return not a or not b or bool(set(a) & set(b))

    return meet(one.days, other.days) and meet(one.months, other.months)


def _films(design: Design) -> Iterable[Problem]:
    """What a film lies between is there, and is not one thing."""
    known = _keyed(design)
    seen: set[frozenset[str]] = set()
    for i, film in enumerate(design.enclosure.films):
        for field, name in (("first", film.first), ("second", film.second)):
            if name not in known:
                yield Problem(pointer("enclosure", "films", i, field), f"nothing is {name!r}")
        both = frozenset((film.first, film.second))
        if len(both) < 2:
            yield Problem(pointer("enclosure", "films", i, "second"), "a film lies between two things")
        elif both in seen:
            yield Problem(pointer("enclosure", "films", i), "there is a film between these two already")
        seen.add(both)


def _surfaces(design: Design) -> Iterable[Problem]:
    """Every surface is closed."""
    bodies = [(pointer("parts", i, "body"), p.body) for i, p in enumerate(design.parts)]
    bodies += [(pointer("supply", "stages", i, "body"), s.body) for i, s in enumerate(design.supply.stages)]
    bodies += [
        ("/battery/body", design.battery.body),
        ("/charger/body", design.charger.body if design.charger else None),
    ]
    found = [(where, b.surface) for where, b in bodies if b is not None and b.surface is not None]
    if design.enclosure.shape is not None:
        found.append(("/enclosure/shape", design.enclosure.shape.surface))
    for where, surface in found:
        if solid_of(surface) is None:
            yield Problem(f"{where}/surface", "its surface is not closed, or inside out")


def _keyed(design: Design) -> set[str]:
    """What films and fastenings may name."""
    return {BATTERY, *design.index.parts, *design.index.stages, *(["charger"] if design.charger else [])}


def _carried(design: Design) -> Iterable[Problem]:
    """What a fastening carries is there."""
    known = _keyed(design)
    for i, held in enumerate(design.enclosure.fastenings):
        if held.carries is not None and held.carries not in known:
            yield Problem(pointer("enclosure", "fastenings", i, "carries"), f"nothing is {held.carries!r}")


def _boards(design: Design) -> Iterable[Problem]:
    """What sits on a part: that one is there, and is not itself."""
    known = {p.id: p.body for p in design.parts}
    bodies: list[tuple[str, str, Body | None]] = [
        (pointer("parts", i), p.id, p.body) for i, p in enumerate(design.parts)
    ]
    bodies += [(pointer("supply", "stages", i), "", s.body) for i, s in enumerate(design.supply.stages)]
    bodies += [("/battery", "", design.battery.body)]
    if design.charger:
        bodies.append(("/charger", "", design.charger.body))
    for holder, own, body in bodies:
        if body is None or body.on is None:
            continue
        where = f"{holder}/body/on"
        if body.on not in known:
            yield Problem(where, f"it sits on {body.on!r}, and there is no such part")
        elif body.on == own:
            yield Problem(where, "it cannot sit on itself")
