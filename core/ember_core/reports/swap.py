"""What it takes to swap the cells of a gadget without a charger: sets a year, what they cost and weigh, and where they are charged."""

from __future__ import annotations

from ..battery.chemistry import CHEMISTRIES
from ..figures import Figure, figure, record
from ..solved.gadget import SolvedGadget, once
from ..words import called, say
from .battery import runtime_total

HOURS_A_YEAR = 8766.0
OUTSIDE_C = 0.5  # of the capacity an hour: what an everyday charger for single cells gives; a rule of thumb
OUTSIDE_LOSS = 1.2  # times the charge, for the end of it and what does not go in


@record
class SwapReport:
    """`sets` of cells in a year, `cost` and `mass` of those that are thrown away in it, `outside` the time of a charge in a charger of
    their own; null where that is not so."""

    sets: Figure
    cost: Figure | None
    mass: Figure | None
    outside: Figure | None
    sentence: str


@once
def swap_report(solved: SolvedGadget) -> SwapReport | None:
    """Of a gadget whose cells are taken out when they are empty; None where it has a charger, a bank, or nothing is drawn."""
    battery = solved.design.battery
    cell, hours = battery.cell, runtime_total(solved)
    if solved.design.charger is not None or cell.bank is not None or not hours.value:
        return None
    number = battery.series * battery.parallel
    years = [None if x is None or x <= 0 else HOURS_A_YEAR / x for x in (hours.value, hours.high, hours.low)]
    sets = figure(
        "sets-a-year", years[0], "", [(called("runtime"), hours.value, "h")], "the runtime's own range", low=years[1], high=years[2]
    )  # fmt: skip
    thrown = not CHEMISTRIES[cell.chemistry].rechargeable

    def yearly(key: str, each: float, unit: str) -> Figure:
        low, mid, high = (None if y is None else y * number * each for y in (years[1], years[0], years[2]))
        inputs = [
            (called("sets-a-year"), years[0], ""),
            (called("cells-in-a-set"), float(number), ""),
            (called("each"), each, unit),
        ]
        return figure(key, mid, unit, inputs, low=low, high=high)

    outside = (
        None
        if thrown
        else figure(
            "charged-outside", OUTSIDE_LOSS / OUTSIDE_C, "h", [(called("an-hour"), OUTSIDE_C, "C")], "rule of thumb"
        )
    )
    return SwapReport(
        sets=sets,
        cost=yearly("cells-cost-a-year", cell.cost, solved.design.brief.currency) if thrown and cell.cost > 0 else None,
        mass=yearly("cells-waste-a-year", cell.mass_g, "g") if thrown and cell.mass_g > 0 else None,
        outside=outside,
        sentence=say(
            "swap.thrown" if thrown else "swap.outside", number=number, cell=cell.name,
            lithium=cell.chemistry.startswith("lithium"),
        ),
    )  # fmt: skip
