"""What more than one report has to say."""

from __future__ import annotations

from ..runtime.limits import Failure
from ..words import Said
from .gadget import SolvedGadget

NEARLY_EMPTY = 0.005


def describe_failure(solved: SolvedGadget, failure: Failure) -> Said:
    """Why a mode stops, in a sentence without its subject's mode.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> from ember_core.runtime.limits import HOLDS
    >>> str(describe_failure(bench, HOLDS))
    'holds until the battery is empty'
    """
    if failure.reason == "empty" or failure.charge < NEARLY_EMPTY:
        return Said("failure.empty")
    design = solved.design
    names = {s.id: s.name for s in [*design.supply.stages, *design.supply.sources]}
    reason = (
        failure.reason if failure.reason in ("cutoff", "collapse", "kinetics", "input", "start", "limit") else "supply"
    )
    subject = names.get(failure.subject) if reason in ("input", "start", "limit") else None
    return Said(
        "failure.stops",
        {
            "soc": (None if failure.charge >= 1 else failure.charge, "share"),
            "reason": reason,
            "at_once": failure.charge >= 1,
            "subject": subject or (design.part(failure.subject).name if reason == "supply" else None),
            "value": (failure.value, failure.unit),
            "limit": (failure.limit, failure.unit),
        },
    )
