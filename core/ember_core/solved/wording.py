"""Sentences that more than one report needs."""

from __future__ import annotations

from ..quantities import show
from ..runtime.limits import Failure
from .gadget import SolvedGadget

NEARLY_EMPTY = 0.005


def describe_failure(solved: SolvedGadget, failure: Failure) -> str:
    """Why a mode stops, in a sentence without its subject's mode."""
    if failure.reason == "empty" or failure.charge < NEARLY_EMPTY:
        return "holds until the battery is empty"
    design = solved.design
    stages = {s.id: s.name for s in [*design.supply.stages, *design.supply.sources]}
    value, limit = show(failure.value, failure.unit), show(failure.limit, failure.unit)
    at_once = failure.charge >= 1
    when = "at once" if at_once else f"with {show(failure.charge, 'share')} of the charge left"
    match failure.reason:
        case "cutoff":
            how = (
                f"the battery sags to {value}" if failure.charge >= 1 else f"the battery sags to its cut-off of {limit}"
            )
            how += f" (cut-off {limit})" if failure.charge >= 1 else ""
        case "collapse":
            how = "the battery voltage collapses under the load"
        case "kinetics":
            how = "what is left is unavailable at this rate"
        case "input":
            how = f"{stages[failure.subject]} " + (
                f"gets {value} and needs {limit}" if at_once else f"no longer gets the {limit} it needs"
            )
        case "start":
            how = f"{stages[failure.subject]} " + (
                f"gets {value} and needs {limit} to start"
                if at_once
                else f"no longer gets the {limit} it needs to start"
            )
        case "limit":
            how = f"{stages[failure.subject]} has to give {value} and can give {limit}"
        case _:
            how = f"{design.part(failure.subject).name} " + (
                f"gets {value} and needs {limit}" if at_once else f"no longer gets the {limit} it needs"
            )
    return f"stops {when}: {how}"
