"""A gadget on the bench: what it draws from moment to moment, with the truth beside it. Simulated by a model of its own (`traces/simulated.py`)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ember_core.measures.bench import TrialBench
from ember_core.traces import Truth, simulated
from ember_core.traces.replay import ending_v

LOOP_S = 240.0  # then it does the same again
RATE_HZ = 1000.0


@dataclass
class BenchGadget:
    """`loop_a` is what it draws at `RATE_HZ` [A], over and over; below `dead_v` it is off. `truth` says which mode was when in it."""

    loop_a: np.ndarray
    truth: list[Truth]
    dead_v: float

    @classmethod
    def of(cls, bench: TrialBench, seed: int = 1, more_at_rest_a: float = 0.0) -> BenchGadget:
        recording, truth = simulated(bench, LOOP_S, RATE_HZ, seed, more_a={bench.rest: more_at_rest_a})
        return cls(recording.current_a, truth, ending_v(bench) or 0.5 * bench.usual.pack.cutoff_v)

    def drawn_a(self, begin_s: float, count: int, step_s: float, volts: float) -> np.ndarray:
        """So many samples from a moment on [A]: each the mean since the one before."""
        if volts < self.dead_v:
            return np.zeros(count)
        edges = (begin_s + step_s * np.arange(count + 1)) * RATE_HZ
        total = np.concatenate([[0.0], np.cumsum(self.loop_a)])
        size = self.loop_a.size
        turns, within = np.divmod(edges, size)
        at = turns * total[-1] + np.interp(within, np.arange(size + 1), total)
        return np.asarray(np.diff(at) / np.diff(edges))
