"""From the printed capacity down to what the gadget gets, loss by loss."""

from __future__ import annotations

import numpy as np

from ..battery.chemistry import CHEMISTRIES
from ..battery.pack import capacity_tolerance, cell_spread
from ..figures import Figure, figure, record
from ..words import called
from .gadget import SolvedGadget, once

RUNTIME_SOURCE = "integral over the state of charge (trapezoid, 81 points or more), independent of the number of wakes"
NEGLIGIBLE = 0.0005  # of the printed capacity: no step of its own


@record
class ChargeStep:
    """A step from the printed capacity down to what the gadget gets."""

    label: str
    charge: Figure
    lost: bool


@once
def capacity_steps(solved: SolvedGadget) -> list[ChargeStep]:
    """From the printed capacity down to what the gadget gets, loss by loss.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.solved.gadget import SolvedGadget
    >>> solved = SolvedGadget(design)
    >>> steps = [s.charge.value for s in capacity_steps(solved) if not s.lost]
    >>> steps == sorted(steps, reverse=True)
    True
    """
    state, battery, pack = solved.usual, solved.design.battery, solved.usual.pack
    cell = battery.cell
    source = CHEMISTRIES[cell.chemistry].source
    less, more = capacity_tolerance(cell)
    steps = [
        _step(
            "rated-capacity",
            pack.printed_ah,
            [(called("cell"), cell.capacity_ah, "Ah"), (called("in-parallel"), float(battery.parallel), "")],
            source,
        ),
    ]
    left = pack.printed_ah
    given: dict[str, list[tuple[str, float | None, str]]] = {
        "temperature": [(called("temperature"), state.temperature_c, "°C")],
        "age": [(called("years"), battery.age_years, ""), (called("full-charges"), battery.cycles, "")],
        "weakest": [
            (called("in-series"), float(battery.series), ""),
            (called("spread"), cell_spread(battery), "share"),
        ],
    }
    for share in pack.shares:
        if abs(share.left - 1) > 1e-9:
            inputs = [*given.get(share.key, []), (called("share-left"), share.left, "share")]
            steps.append(_step(f"lost-{share.key}", left * (1 - share.left), inputs, source, lost=True))
        left *= share.left
    mode, end = state.ending
    stays = 0.0
    if mode >= 0:
        felt = np.array(state.at(end, state.filtered_current_a[mode]))
        stays = min(float(pack.unavailable_ah(felt)), left * end)
    own = min(pack.self_discharge_a * state.seconds / 3600, left * (1 - end))
    steps += [
        _step("unavailable", stays, [(called("per-ampere"), pack.unavailable_h, "h")], source, lost=True),
        _step(
            "left-when-it-stops", left * end - stays, [(called("charge-left"), end, "share")], RUNTIME_SOURCE, lost=True
        ),
        _step(
            "lost-to-its-converter" if cell.bank else "lost-to-self-discharge",
            own,
            [(called("own-draw"), pack.self_discharge_a, "A"), (called("runtime"), state.seconds, "s")],
            source,
            lost=True,
        ),
    ]
    usable = left * (1 - end) - own
    steps = [s for s in steps if not s.lost or abs(s.charge.value or 0) > NEGLIGIBLE * pack.printed_ah]
    whole = figure(
        "what-the-gadget-gets", usable, "Ah", [], RUNTIME_SOURCE, low=usable * (1 + less), high=usable * (1 + more)
    )
    return [*steps, ChargeStep(label=whole.label, charge=whole, lost=False)]


def _step(
    key: str,
    amp_hours: float,
    inputs: list[tuple[str, float | None, str]],
    source: str,
    *,
    lost: bool = False,
) -> ChargeStep:
    found = figure(key, amp_hours, "Ah", list(inputs), source)
    return ChargeStep(label=found.label, lost=lost, charge=found)
