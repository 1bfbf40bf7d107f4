"""Traps of the cold: what works at the usual temperature and not at the coldest of the brief."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from itertools import islice

from ...design.patches import apply
from ...figures import Remedy
from ...measures.bench import TrialBench
from ...solved.wording import describe_failure
from ..found import Found
from ..supply.stages import EARLY
from .pack import cells_for

MOST_TRIED, MOST_WAYS = 4, 2


def fails_in_the_cold(bench: TrialBench) -> Iterator[Found]:
    """A mode that does not work, or gives up early, at the coldest, and is not told of at the usual temperature."""
    design, cold = bench.design, bench.coldest
    if cold is bench.usual:
        return
    for m, mode in enumerate(design.modes):
        failure, usual = cold.failures[m], bench.usual.failures[m]
        told = usual.reason != "empty" and usual.charge >= (1.0 if failure.charge >= 1 else EARLY)
        if failure.reason == "empty" or failure.charge < EARLY or told or cold.shares[m] <= 0:
            continue
        at_once = failure.charge >= 1
        yield Found(
            code="fails-in-the-cold",
            severity="fix" if mode.essential else "watch",
            step="battery",
            where=f"/modes/{m}",
            facts={
                "coldest": (design.brief.coldest_c, "°C"),
                "mode": mode.name,
                "at_once": bool(at_once),
                "failure": describe_failure(bench, failure),
            },
            ways=partial(_stiffer_cells, bench, m),
        )


def _stiffer_cells(bench: TrialBench, mode: int) -> Iterator[Remedy]:
    """The smallest cells of half the resistance with which the mode does not give up early at the coldest: a quick look, before all is judged."""
    battery = bench.design.battery
    half = battery.series / battery.parallel * battery.cell.resistance_ohm / 2
    ways = islice(cells_for(bench, bench.peak_a[0], half), MOST_TRIED)
    work = (w for w in ways if bench.of(apply(bench.design, w)).coldest.failures[mode].charge < EARLY)
    yield from islice(work, MOST_WAYS)
