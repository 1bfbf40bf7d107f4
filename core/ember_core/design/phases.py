"""How a part's use cuts the time of a mode: into phases in which nothing changes."""

from __future__ import annotations

from collections.abc import Iterable

from .draw import Mode, Part, State, Use


def phases(use: Use, part: Part) -> list[tuple[float, State | None]]:
    """(end of the phase as a share of the period, state) in order, ending at 1."""
    states = {s.name: s for s in part.states}
    rest = states[use.rest] if use.rest is not None else None
    if not use.burst:
        return [(use.duty, states[use.state]), (1.0, rest)] if use.duty < 1 else [(1.0, states[use.state])]
    assert use.period_s is not None
    line: list[tuple[float, State | None]] = []
    elapsed = 0.0
    for phase in use.burst:
        elapsed += phase.seconds
        line.append((min(elapsed / use.period_s, 1.0), states[phase.state]))
    if line[-1][0] < 1 - 1e-12:
        line.append((1.0, rest))
    return line


def phase_ends(lines: Iterable[list[tuple[float, State | None]]]) -> list[float]:
    """Where the operating points of a mode end, as shares of its period, in order."""
    return sorted({round(end, 12) for line in lines for end, _ in line if end > 0} | {1.0})


def count_operating_points(mode: Mode, parts: list[Part]) -> int:
    """How many operating points a mode has, without making them."""
    known = {p.id: p for p in parts}
    return len(phase_ends(phases(use, known[use.part]) for use in mode.uses))
