"""From the printed capacity down to what the gadget gets, loss by loss."""

from __future__ import annotations

import numpy as np

from ..battery.chemistry import CHEMISTRIES
from ..battery.pack import capacity_tolerance, cell_spread
from ..figures import Figure, figure, record
from .gadget import SolvedGadget, once

RUNTIME_SOURCE = "integral over the state of charge (trapezoid, 81 points or more), independent of the number of wakes"
NEGLIGIBLE = 0.0005  # of the printed capacity: no step of its own


@record
class ChargeStep:
    """A step from the printed capacity down to what the gadget gets."""

    label: str
    charge: Figure
    lost: bool


_LOST: dict[str, tuple[str, str]] = {
    "bank": ("Lost to making its output voltage", "efficiency × voltage it is rated at ÷ output voltage"),
    "measured": ("Less than rated, as measured", "measured ÷ rated"),
    "salvaged": ("Used up before, nobody measured it", "a guess for used cells"),
    "printed": ("Less than rated, as is usual", "1 + middle of the usual spread"),
    "age": ("Lost to age", "1 − a √years − b cycles, or self-discharge in the drawer"),
    "weakest": ("Lost to the weakest cell in series", "1 − spread × expected shortfall of the weakest"),
    "temperature": ("Lost to the temperature", "share left at that temperature"),
}


@once
def capacity_steps(solved: SolvedGadget) -> list[ChargeStep]:
    """From the printed capacity down to what the gadget gets, loss by loss."""
    state, battery, pack = solved.usual, solved.design.battery, solved.usual.pack
    cell = battery.cell
    source = CHEMISTRIES[cell.chemistry].source
    less, more = capacity_tolerance(cell)
    steps = [
        _step("Rated capacity", pack.printed_ah, "cell capacity × cells in parallel",
              [("cell", cell.capacity_ah, "Ah"), ("in parallel", float(battery.parallel), "")], source),
    ]  # fmt: skip
    left = pack.printed_ah
    given: dict[str, list[tuple[str, float | None, str]]] = {
        "temperature": [("temperature", state.temperature_c, "°C")],
        "age": [("years", battery.age_years, ""), ("full charges", battery.cycles, "")],
        "weakest": [("in series", float(battery.series), ""), ("spread", cell_spread(battery), "share")],
    }
    for share in pack.shares:
        label, formula = _LOST[share.key]
        if abs(share.left - 1) > 1e-9:
            inputs = [*given.get(share.key, []), ("share left", share.left, "share")]
            steps.append(_step(label, left * (1 - share.left), formula, inputs, source, lost=True))
        left *= share.left
    mode, end = state.ending
    stays = 0.0
    if mode >= 0:
        felt = np.array(state.at(end, state.filtered_current_a[mode]))
        stays = min(float(pack.unavailable_ah(felt)), left * end)
    own = min(pack.self_discharge_a * state.seconds / 3600, left * (1 - end))
    steps += [
        _step("Unavailable at this rate", stays, "unavailable charge per ampere × filtered current",
              [("per ampere", pack.unavailable_h, "h")], source, lost=True),
        _step("Left when the gadget stops", left * end - stays, "charge left at the first failing mode × capacity",
              [("charge left", end, "share")], RUNTIME_SOURCE, lost=True),
        _step("Lost to its converter" if cell.bank else "Lost to self-discharge", own, "own draw × runtime",
              [("own draw", pack.self_discharge_a, "A"), ("runtime", state.seconds, "s")], source, lost=True),
    ]  # fmt: skip
    usable = left * (1 - end) - own
    steps = [s for s in steps if not s.lost or abs(s.charge.value or 0) > NEGLIGIBLE * pack.printed_ah]
    whole = figure("What the gadget gets", usable, "Ah", "rated − losses", [], RUNTIME_SOURCE,
                   low=usable * (1 + less), high=usable * (1 + more), note="Range: of the capacity alone.")  # fmt: skip
    return [*steps, ChargeStep(label="What the gadget gets", charge=whole, lost=False)]


def _step(
    label: str, amp_hours: float, formula: str, inputs: list[tuple[str, float | None, str]], source: str,
    *, lost: bool = False,
) -> ChargeStep:  # fmt: skip
    return ChargeStep(label=label, lost=lost, charge=figure(label, amp_hours, "Ah", formula, list(inputs), source))
