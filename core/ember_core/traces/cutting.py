"""A recording cut into the modes of a design: which mode explains each stretch best, or none.

A hidden Markov chain over blocks of samples (A. Viterbi, IEEE Trans. Inf. Theory 13, 1967): in each mode the logarithm of the current is a mixture of the mode's
operating points, and of its mean where a burst is shorter than a block; "none" is even over all currents. A change of mode costs `CHANGE`, one that the day
does not bring `ODD` more, so that a single odd block changes nothing. Modes that draw alike are told by how long they last. Borders are then moved to the
sample at which the two modes on either side explain most.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from ..bringup import mode_currents
from ..design import Session, Wake
from ..measures.bench import TrialBench
from ..numeric import Array
from .recording import Recording

MOST_BLOCKS = 200_000
BLOCKS_A_STRETCH = 12  # in the shortest stretch of the design
CHANGE = 10.0  # nats
ODD = 4.0
TOO_LONG = 4.0  # times the longest that a mode lasts
MOST_OF_IT = 0.3  # of the recording
LENGTH_SPREAD = 0.35  # of the logarithm of how long a stretch lasts
MOST_FOR_LENGTH = 6.0  # nats that its length may speak for or against a mode
LEAST_SPREAD = 0.15  # of the logarithm of a current, one standard deviation
OF_MEAN = 0.3  # of a mode's density that lies at its mean
SPAN = 18.0  # nats over which currents lie, from 10 nA to 1 A
FLOOR = -6.5  # of a mode's log density: so far an odd block may speak against it
LEAST_A = 1e-8


@dataclass(frozen=True)
class Stretch:
    """Samples `first` to `last` (without it) in one mode; None: none explains them. `by_place`: named for when it comes, not for its current."""

    mode: int | None
    first: int
    last: int
    by_place: bool = False


def cut(recording: Recording, bench: TrialBench) -> list[Stretch]:
    """The stretches in order; next to each other they differ.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> from ember_core.traces import simulated
    >>> recording, truth = simulated(bench, 600.0, 100.0, 1)
    >>> len(cut(recording, bench)) > 0
    True
    """
    size = _block_size(recording, bench)
    blocks = np.arange(0, recording.time_s.size, size)
    charge = recording.charge_as[np.append(blocks, recording.time_s.size)]
    time = recording.elapsed_s[np.append(blocks, recording.time_s.size)]
    level = np.log(np.maximum(np.diff(charge) / np.diff(time), LEAST_A))
    modes = _modes(bench)
    table = np.column_stack([*(m.log_density(level) for m in modes), np.full(level.size, -np.log(SPAN))])
    path = _best_path(table, _changes(bench, modes))
    edges = np.flatnonzero(np.diff(path)) + 1
    firsts = [0, *(int(blocks[e]) for e in edges)]
    states = [int(path[0]), *(int(path[e]) for e in edges)]
    borders = [
        0,
        *(_refined(recording, modes, states[i], states[i + 1], firsts[i + 1], size) for i in range(len(edges))),
    ]
    ends = [*borders[1:], recording.time_s.size]
    found = [
        Stretch(modes[s].mode if s < len(modes) else None, a, b)
        for s, a, b in zip(states, borders, ends, strict=True)
        if b > a
    ]
    found = _by_length(recording, bench, modes, found)
    return joined(_by_place(recording, bench, found))


def joined(found: list[Stretch]) -> list[Stretch]:
    """Neighbours in one mode as one.

    >>> [(s.mode, s.first, s.last) for s in joined([Stretch(0, 0, 5), Stretch(0, 5, 9), Stretch(1, 9, 12)])]
    [(0, 0, 9), (1, 9, 12)]
    """
    joined = found[:1]
    for s in found[1:]:
        last = joined[-1]
        if s.mode == last.mode:
            joined[-1] = replace(last, last=s.last, by_place=last.by_place or s.by_place)
        else:
            joined.append(s)
    return joined


@dataclass(frozen=True)
class _ModeLevels:
    mode: int
    levels: Array
    weights: Array
    mean: float
    spread: float

    def log_density(self, level: Array, *, sharp: bool = False) -> Array:
        """Of logarithms of currents; `sharp`: of single samples, which are at one operating point."""
        centres = self.levels if sharp else np.append(self.levels, self.mean)
        weights = self.weights if sharp else np.append(self.weights * (1 - OF_MEAN), OF_MEAN)
        off = (level[:, None] - centres[None, :]) / self.spread
        parts = np.log(weights)[None, :] - 0.5 * off**2 - np.log(self.spread * np.sqrt(2 * np.pi))
        return np.asarray(np.logaddexp(np.logaddexp.reduce(parts, axis=1), FLOOR))


def _modes(bench: TrialBench) -> list[_ModeLevels]:
    state, currents = bench.usual, mode_currents(bench)
    found = []
    for m, mode in enumerate(bench.design.modes):
        rows = [
            (x.share, float(state.typical.source_a[i, bench.middle]))
            for i, x in enumerate(state.operating_points)
            if x.mode == m and x.share > 0
        ]
        if mode.plugged or not rows:
            continue
        shares, amps = np.array(rows).T
        low, mean, high = (max(x, LEAST_A) for x in currents[m])
        spread = max(LEAST_SPREAD, np.log(high / low) / 2.56)
        found.append(
            _ModeLevels(m, np.log(np.maximum(amps, LEAST_A)), shares / shares.sum(), float(np.log(mean)), float(spread))
        )
    return found


def _block_size(recording: Recording, bench: TrialBench) -> int:
    """Samples in a block: a dozen blocks in the shortest stretch, and not too many in all."""
    stretches = [seconds for course in _courses(bench) for _, seconds in course if seconds > 0]
    shortest = min(stretches, default=recording.seconds) / BLOCKS_A_STRETCH
    wanted = max(int(shortest / recording.step_s), 1)
    return max(wanted if wanted < recording.time_s.size // 10 else 1, -(-recording.time_s.size // MOST_BLOCKS))


def _courses(bench: TrialBench) -> list[list[tuple[int, float]]]:
    """The modes of each event of the day in their order, and how long each lasts [s]."""
    day, index = bench.design.day, bench.design.index.modes
    events: list[Session | Wake] = [*day.sessions, *day.wakes]
    return [[(index[s.mode], s.seconds) for s in event.stretches] for event in events]


def _usual_lengths(bench: TrialBench) -> dict[int, list[float]]:
    """How long each mode lasts at a time [s]."""
    found: dict[int, list[float]] = {}
    for course in _courses(bench):
        for mode, seconds in course:
            found.setdefault(mode, []).append(seconds)
    return found


def _changes(bench: TrialBench, modes: list[_ModeLevels]) -> Array:
    """What each change costs [nats], (states, states) from one to the other: what the day brings less than what it does not. The last state is none of them."""
    usual = set[tuple[int, int]]()
    for stretches in _courses(bench):
        course = [bench.rest, *(mode for mode, _ in stretches), bench.rest]
        usual |= set(pairwise(course))
    cost = np.full((len(modes) + 1, len(modes) + 1), CHANGE)
    for i, one in enumerate(modes):
        for j, other in enumerate(modes):
            cost[i, j] += 0 if (one.mode, other.mode) in usual else ODD
    np.fill_diagonal(cost, 0)
    return cost


def _best_path(table: Array, changes: Array) -> np.ndarray:
    """The likeliest states, (blocks,), by their log densities, (blocks, states), and what each change costs, (states, states)."""
    count, states = table.shape
    score, own = table[0].copy(), np.arange(states)
    came = np.empty((count, states), dtype=np.int16)
    came[0] = own
    for t in range(1, count):
        ways = score[:, None] - changes
        came[t] = best = ways.argmax(axis=0)
        score = ways[best, own] + table[t]
    path = np.empty(count, dtype=np.int64)
    path[-1] = int(score.argmax())
    for t in range(count - 1, 0, -1):
        path[t - 1] = came[t, path[t]]
    return path


def _refined(recording: Recording, modes: list[_ModeLevels], before: int, after: int, at: int, size: int) -> int:
    """The sample at which one mode ends and the next begins."""
    low, high = max(at - 2 * size, 0), min(at + 2 * size, recording.time_s.size)
    level = np.log(np.maximum(recording.current_a[low:high], LEAST_A))
    one, other = (
        modes[s].log_density(level, sharp=True) if s < len(modes) else np.full(level.size, -np.log(SPAN))
        for s in (before, after)
    )
    total = np.concatenate([[0.0], np.cumsum(one - other)])
    return low + int(total.argmax())


def _by_length(
    recording: Recording, bench: TrialBench, modes: list[_ModeLevels], found: list[Stretch]
) -> list[Stretch]:
    """Stretches given to the mode that explains both their current and their length: modes that draw alike last differently."""
    usual, told = _usual_lengths(bench), list[Stretch]()
    for stretch in found:
        own = next((m for m in modes if m.mode == stretch.mode), None)
        if own is None or own.mode == bench.rest:
            told.append(stretch)
            continue
        seconds = float(recording.elapsed_s[stretch.last] - recording.elapsed_s[stretch.first])
        level = np.log(max(recording.mean_a(stretch.first, stretch.last), LEAST_A))

        def fits(m: _ModeLevels, seconds: float = seconds, level: float = level) -> float:
            off = min((abs(np.log(seconds / x)) for x in usual.get(m.mode, [])), default=0.0) / LENGTH_SPREAD
            return float(-0.5 * ((level - m.mean) / m.spread) ** 2 - min(0.5 * off**2, MOST_FOR_LENGTH))

        best = max((m for m in modes if m.mode != bench.rest), key=fits)
        told.append(Stretch(best.mode, stretch.first, stretch.last) if fits(best) > fits(own) + 1 else stretch)
    return told


def _by_place(recording: Recording, bench: TrialBench, found: list[Stretch]) -> list[Stretch]:
    """Where the resting mode is nowhere, and something fills most of the time that nobody knows, or that is far too long for its mode, that is it, whatever it
    draws."""
    rest, usual = bench.rest, _usual_lengths(bench)

    def seconds(s: Stretch) -> float:
        return float(recording.elapsed_s[s.last] - recording.elapsed_s[s.first])

    odd = [s for s in found if s.mode is None or seconds(s) > TOO_LONG * max(usual.get(s.mode, [np.inf]))]
    if not odd or any(s.mode == rest for s in found):
        return found
    longest = max(odd, key=seconds)
    level = recording.mean_a(longest.first, longest.last)
    alike = [s for s in odd if 0.5 * level <= recording.mean_a(s.first, s.last) <= 2 * level]
    if sum(map(seconds, alike)) < MOST_OF_IT * recording.seconds:
        return found
    return [Stretch(rest, s.first, s.last, by_place=True) if s in alike else s for s in found]
