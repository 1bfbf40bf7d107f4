"""A recording as a shunt and a meter would make it of a gadget that does what its design says, with what was really done beside it.

Made by its own model: modes after one another, each through its operating points in time, parts off by some percent, noise on every sample. Nothing of the
cut is used here.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..design import Session, Wake
from ..measures.bench import TrialBench
from .recording import Recording
from .rundown import Course

CYCLE_S = 1.0  # of a mode whose operating points have no length of their own
OFF = 0.05  # one standard deviation, as a share, by which each operating point is off
NOISE, NOISE_A = 0.01, 2e-7  # of the figure, and besides [A]


@dataclass(frozen=True)
class Truth:
    """What was done: a mode from a sample to another."""

    mode: int
    first: int
    last: int


def simulated(
    bench: TrialBench, seconds: float, rate_hz: float, seed: int, *, more_a: dict[int, float] | None = None
) -> tuple[Recording, list[Truth]]:
    """`more_a`: what a mode draws beyond its design, by its position [A].

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> recording, truth = simulated(bench, 60.0, 100.0, 1)
    >>> recording.time_s.size
    7862
    """
    draw = np.random.default_rng(seed)
    points = [
        (x.mode, x.share, x.seconds, float(bench.usual.typical.source_a[i, bench.middle]))
        for i, x in enumerate(bench.usual.operating_points)
    ]
    off = np.exp(draw.normal(0, OFF, len(points)))
    truth, pieces, at = list[Truth](), list[np.ndarray](), 0
    for mode, lasts in _sequence(bench, seconds, draw):
        count = max(round(lasts * rate_hz), 1)
        own = [(share, length, amps * off[i]) for i, (m, share, length, amps) in enumerate(points) if m == mode]
        lengths = np.array([length if length else share * min(CYCLE_S, lasts) for share, length, _ in own])
        ends = np.cumsum(lengths)
        phase = (np.arange(count) / rate_hz) % ends[-1]
        amps = np.array([a for _, _, a in own])[np.searchsorted(ends, phase, side="right").clip(max=len(own) - 1)]
        pieces.append(amps + (more_a or {}).get(mode, 0.0))
        if truth and truth[-1].mode == mode:
            truth[-1] = Truth(mode, truth[-1].first, at + count)
        else:
            truth.append(Truth(mode, at, at + count))
        at += count
    clean = np.concatenate(pieces)
    noisy = clean * (1 + draw.normal(0, NOISE, clean.size)) + draw.normal(0, NOISE_A, clean.size)
    return Recording(np.arange(clean.size) / rate_hz, noisy), truth


def simulated_run_down(
    bench: TrialBench, share: float, seed: int, *, longer: float = 1.0, noise_v: float = 0.003
) -> Course:
    """The first share of a run-down that lasts so many times as long as the typical design, with a voltmeter's noise; its current was recorded too.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> course = simulated_run_down(bench, 0.5, 1)
    >>> bool(course.volts[0] > course.volts[-1])
    True
    """
    draw, state = np.random.default_rng(seed), bench.usual
    time = np.linspace(0, share * state.charge_seconds, 400)
    charge = np.interp(time, state.elapsed_s, state.pack.charge)
    rising = state.pack.charge[::-1]
    mean_v = state.point_weights @ state.typical.terminal_v / state.point_weights.sum()
    volts = np.interp(charge, rising, mean_v[::-1]) + draw.normal(0, noise_v, time.size)
    return Course(time * longer, volts, np.interp(charge, rising, state.mean_current_a[::-1]) / longer)


def _sequence(bench: TrialBench, seconds: float, draw: np.random.Generator) -> list[tuple[int, float]]:
    """Modes and how long each lasts [s]: rest between, every event of the day in turn, long ones cut short."""
    day, index = bench.design.day, bench.design.index.modes
    every: list[Session | Wake] = [*day.wakes, *day.sessions]
    events = [[(index[s.mode], s.seconds) for s in e.stretches] for e in every]
    pause = max(seconds / (2 * len(events) + 1) / 2, 2.0)
    found, spent = list[tuple[int, float]](), 0.0
    k = 0
    while spent < seconds:
        gap = pause * float(draw.uniform(0.6, 1.4))
        turn = [(index[day.rest], gap)] + [(m, min(s, pause)) for m, s in (events[k % len(events)] if events else [])]
        found += turn
        spent += sum(s for _, s in turn)
        k += 1
    return found
