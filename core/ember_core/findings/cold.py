"""Traps of the cold: what works at the usual temperature and not at the coldest of the brief."""

from __future__ import annotations

from collections.abc import Iterator

from ..measures.bench import TrialBench
from ..quantities import show
from ..solved.wording import describe_failure
from .battery import stronger_cells
from .found import Found
from .supply import EARLY


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
            title=f"{mode.name} {'does not work' if at_once else 'stops early'} in the cold",
            facts={"coldest": (design.brief.coldest_c, "°C")},
            sentence=f"At {show(design.brief.coldest_c, '°C')} {mode.name.lower()} {describe_failure(bench, failure)}.",
            ways=lambda: stronger_cells(bench, bench.peak_a[0]),
        )
