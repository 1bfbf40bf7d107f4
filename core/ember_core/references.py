"""Reading a design: the models' own checks, then what one part of the document says of another."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from typing import Any

from pydantic import ValidationError

from .design import FORMAT, Design
from .problems import DocumentError, Problem, from_validation, pointer, read_json

BATTERY = "battery"


def read_design(raw: bytes | str) -> Design:
    """An untrusted file or request body as a design. Raises DocumentError."""
    return build_design(read_json(raw))


def build_design(data: Any) -> Design:
    """Plain data as a design. Raises DocumentError with every problem found (at most 50)."""
    if not isinstance(data, dict):
        raise DocumentError([Problem("", "is not a design document: an object was expected")])
    if data.get("format") != FORMAT:
        found = data.get("format")
        said = "has no format version" if found is None else f"has the unknown format version {str(found)[:40]!r}"
        raise DocumentError([Problem("/format", f"{said}; this application reads {FORMAT!r}")])
    try:
        design = Design.model_validate(data)
    except ValidationError as error:
        raise DocumentError(from_validation(error, data)) from None
    problems = check_references(design)
    if problems:
        raise DocumentError(problems[:50])
    return design


def check_references(design: Design) -> list[Problem]:
    """Everything in one list that names something in another must find it, once."""
    problems = [
        *_unique(design),
        *_supply(design),
        *_parts(design),
        *_modes(design),
        *_day(design),
    ]
    return problems


def _unique(design: Design) -> Iterable[Problem]:
    lists: list[tuple[tuple[str, ...], list[str]]] = [
        (("parts",), [p.id for p in design.parts]),
        (("modes",), [m.id for m in design.modes]),
        (("supply", "rails"), [r.id for r in design.supply.rails]),
        (("supply", "stages"), [s.id for s in design.supply.stages]),
    ]
    for path, ids in lists:
        seen: set[str] = set()
        for i, name in enumerate(ids):
            if name in seen:
                yield Problem(pointer(*path, i, "id"), f"{name!r} is used twice")
            seen.add(name)
    if any(s.id == BATTERY for s in design.supply.stages):
        yield Problem("/supply/stages", "'battery' is the battery's own name; no stage may have it")


def _supply(design: Design) -> Iterable[Problem]:
    stages = {s.id: s for s in design.supply.stages}
    known = {BATTERY, *stages}
    for i, rail in enumerate(design.supply.rails):
        if rail.feed not in known:
            yield Problem(
                pointer("supply", "rails", i, "feed"), f"the rail {rail.name!r} has no source: nothing is {rail.feed!r}"
            )
    for i, stage in enumerate(design.supply.stages):
        if stage.input not in known:
            yield Problem(
                pointer("supply", "stages", i, "input"), f"{stage.name!r} has no source: nothing is {stage.input!r}"
            )
            continue
        visited, here = [stage.id], stage.input
        while here in stages and here not in visited:
            visited.append(here)
            here = stages[here].input
        if here == stage.id:
            names = " → ".join(stages[v].name for v in [*visited, stage.id])
            yield Problem(pointer("supply", "stages", i, "input"), f"{stage.name!r} feeds itself: {names}")
        if stage.type == "switching":
            points = Counter((p.input_v, p.current_a) for p in stage.points)
            for (volts, amps), count in points.items():
                if count > 1:
                    yield Problem(
                        pointer("supply", "stages", i, "points"), f"has {count} points at {volts:g} V and {amps:g} A"
                    )


def _parts(design: Design) -> Iterable[Problem]:
    rails = {r.id for r in design.supply.rails}
    for i, part in enumerate(design.parts):
        if part.rail not in rails:
            yield Problem(pointer("parts", i, "rail"), f"{part.name!r} is on {part.rail!r}, which is not a rail")
        for name, count in Counter(s.name for s in part.states).items():
            if count > 1:
                yield Problem(pointer("parts", i, "states"), f"has {count} states named {name!r}")


def _modes(design: Design) -> Iterable[Problem]:
    states = {p.id: {s.name for s in p.states} for p in design.parts}
    for m, mode in enumerate(design.modes):
        if design.parts and not mode.uses:
            yield Problem(
                pointer("modes", m, "uses"), f"the mode {mode.name!r} has no parts; use one in it or delete the mode"
            )
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


def _day(design: Design) -> Iterable[Problem]:
    modes = {m.id for m in design.modes}
    if design.day.rest not in modes:
        yield Problem("/day/rest", f"nothing is {design.day.rest!r}")
    total = 0.0
    for i, session in enumerate(design.day.sessions):
        if session.mode not in modes:
            yield Problem(pointer("day", "sessions", i, "mode"), f"nothing is {session.mode!r}")
        total += session.seconds * session.per_day
        if total > 86400:
            yield Problem(pointer("day", "sessions", i), f"the day's sessions come to {total / 3600:.1f} h, above 24 h")
            break
    awake = 0.0
    for i, wake in enumerate(design.day.wakes):
        if wake.mode not in modes:
            yield Problem(pointer("day", "wakes", i, "mode"), f"nothing is {wake.mode!r}")
        awake += wake.awake_s / wake.every_s
        if wake.awake_s > wake.every_s:
            yield Problem(
                pointer("day", "wakes", i, "awake_s"),
                f"is awake for {wake.awake_s:g} s, longer than the {wake.every_s:g} s between wakes",
            )
        elif awake > 1:
            yield Problem(pointer("day", "wakes", i, "awake_s"), "the wakes together leave no time to sleep")
