"""The bulk capacitor that carries a rail through a short peak.

The rail is a voltage behind a source resistance (cell, switch, wire and regulator together), the capacitor has a
series resistance, the peak is a step of current: a first-order circuit with a closed solution
(P. Horowitz & W. Hill, *The Art of Electronics*, 3rd ed. (2015), 1.4). A converter at its limit gives no more,
and the capacitor alone carries the rest: I t / C.
"""

from __future__ import annotations

import math

from pydantic import Field

from ..design import Model
from ..figures import Figure, figure, record
from ..quantities.preferred import next_e6
from ..words import called, say

SURE = 1e-12
SOURCE = "step of current on a source resistance beside C and its ESR; Horowitz & Hill, 3rd ed., 1.4"


def dip_v(
    current_a: float, seconds: float, source_ohm: float, farad: float, esr_ohm: float, beyond_a: float = 0.0
) -> float:
    """How far the rail falls [V] at the end of a peak. `beyond_a` of the current is more than the source can give.

    >>> round(dip_v(0.45, 0.02, 0.4, 1e-3, 0.05), 4)
    0.18
    """
    given = current_a - beyond_a
    if farad <= 0:
        return math.inf if beyond_a > 0 else current_a * source_ohm
    steady = given * source_ohm
    tau = farad * (source_ohm + esr_ohm)
    begun = source_ohm / (source_ohm + esr_ohm) if source_ohm > 0 else 0.0
    slow = steady * (1 - begun * math.exp(-seconds / tau)) if tau > 0 else steady
    return slow + beyond_a * (esr_ohm + seconds / farad)


def needed_farad(
    current_a: float, seconds: float, source_ohm: float, allowed_v: float, esr_ohm: float, beyond_a: float = 0.0
) -> float | None:
    """The least capacitance [F] for a dip of `allowed_v`; 0 where none is needed, None where the ESR alone is too much.

    >>> f"{needed_farad(0.45, 0.001, 0.4, 0.1, 0.05):.3g}"
    '0.00321'
    """
    if dip_v(current_a, seconds, source_ohm, 0.0, esr_ohm, beyond_a) <= allowed_v:
        return 0.0
    if dip_v(current_a, 0.0, source_ohm, 1e3, esr_ohm, beyond_a) >= allowed_v:
        return None
    low, high = 1e-12, 1e3
    if dip_v(current_a, seconds, source_ohm, high, esr_ohm, beyond_a) > allowed_v:
        return None
    while high > low * (1 + SURE):  # the dip falls steadily with C: bisection on its logarithm
        middle = math.sqrt(low * high)
        if dip_v(current_a, seconds, source_ohm, middle, esr_ohm, beyond_a) > allowed_v:
            low = middle
        else:
            high = middle
    return high


class CapacitorTask(Model):
    """A peak and what the rail may lose by it."""

    current_a: float = Field(ge=1e-9, le=100)
    seconds: float = Field(ge=1e-9, le=60)
    allowed_v: float = Field(ge=1e-6, le=50, description="the dip that the parts on the rail stand [V]")
    cell_ohm: float = Field(0.1, ge=0, le=1000)
    switch_ohm: float = Field(0, ge=0, le=1000)
    wire_ohm: float = Field(0.03, ge=0, le=1000)
    limit_a: float | None = Field(None, ge=1e-9, le=100, description="what the converter can give [A]; null: no limit")
    load_a: float = Field(0, ge=0, le=100, description="what the rail draws anyway [A]")
    esr_ohm: float = Field(0.05, ge=0, le=100)


@record
class CapacitorAnswer:
    needed: Figure
    chosen: Figure
    dip: Figure
    without: Figure
    at_once: Figure
    sentence: str


def design_capacitor(task: CapacitorTask) -> CapacitorAnswer:
    """The capacitor for a peak: the next E6 value above what is needed.

    >>> found = design_capacitor(CapacitorTask(current_a=0.3, seconds=0.002, allowed_v=0.2, cell_ohm=1.0))
    >>> found.chosen.value
    0.0022
    """
    ohm = task.cell_ohm + task.switch_ohm + task.wire_ohm
    beyond = 0.0 if task.limit_a is None else min(max(task.load_a + task.current_a - task.limit_a, 0.0), task.current_a)
    peak = (task.current_a, task.seconds)
    bare = dip_v(*peak, ohm, 0.0, task.esr_ohm, beyond)
    need = needed_farad(*peak, ohm, task.allowed_v, task.esr_ohm, beyond)
    chosen = next_e6(need) if need else 0.0
    left = dip_v(*peak, ohm, chosen, task.esr_ohm, beyond) if need is not None else None
    at_once = dip_v(task.current_a, 0.0, ohm, 1e3, task.esr_ohm, beyond)
    inputs: list[tuple[str, float | None, str]] = [
        (called("peak"), task.current_a, "A"),
        (called("for"), task.seconds, "s"),
        (called("cell"), task.cell_ohm, "Ω"),
        (called("switch"), task.switch_ohm, "Ω"),
        (called("wire-and-contacts"), task.wire_ohm, "Ω"),
        (called("esr"), task.esr_ohm, "Ω"),
        (called("beyond-the-converters-limit"), beyond, "A"),
    ]
    allowed, fall = (task.allowed_v, "V"), None if math.isinf(bare) else (bare, "V")
    if need is None:
        sentence = say("capacitor.by-esr", at_once=(at_once, "V"), allowed=allowed)
    elif need == 0:
        sentence = say("capacitor.none", bare=fall, allowed=allowed)
    else:
        sentence = say("capacitor.holds", bare=fall, chosen=(chosen, "F"), left=(left, "V"))
    return CapacitorAnswer(
        needed=figure("capacitance-needed", need, "F", [*inputs, (called("allowed"), task.allowed_v, "V")], SOURCE),
        chosen=figure(
            "next-usual-value",
            chosen if need is not None else None,
            "F",
            [(called("needed"), need, "F")],
            "IEC 60063:2015",
        ),
        dip=figure("dip-with-it", left, "V", [*inputs, (called("capacitance"), chosen, "F")], SOURCE),
        without=figure("dip-without", None if math.isinf(bare) else bare, "V", inputs, SOURCE),
        at_once=figure("of-that-at-once", at_once, "V", inputs, SOURCE),
        sentence=sentence,
    )
