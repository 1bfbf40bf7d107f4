"""The wires of the supply, counted or not, with the most that goes through them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..design import COPPER, Lead
from ..numeric import Array
from .gadget import SolvedGadget

SECTIONS_MM2 = (0.14, 0.25, 0.5, 0.75, 1.0, 1.5, 2.5)
WIRE_M = 0.15  # there, and as much back: a usual lead within a hand-held case
DROP = 0.01  # of its voltage that a lead may take
DENSITY = 6.0  # [A/mm2] that a short lead in air stands without getting warm; a rule of thumb


@dataclass(frozen=True)
class SupplyWire:
    """The wire to a stage or a rail, by its JSON pointer and name, from what feeds it, by its id. `peak_a` is the highest current in anything that works, at any charge,
    `volts` what is left at its end then."""

    where: str
    feed: str
    name: str
    lead: Lead | None
    peak_a: float
    volts: float

    @property
    def section_mm2(self) -> float | None:
        """The thinnest usual section that takes little and stays cool, at its own or the usual length [mm2]; None: thicker than those."""
        does = (
            x for x in SECTIONS_MM2 if self._drop_v(x) <= DROP * max(self.volts, 1e-3) and self.peak_a / x <= DENSITY
        )
        return next(does, None)

    @property
    def drop_v(self) -> float:
        """What it takes there and back at the peak [V]: as it is, or of the section that would do."""
        return self.lead.ohm * self.peak_a if self.lead else self._drop_v(self.section_mm2 or SECTIONS_MM2[-1])

    def _drop_v(self, section_mm2: float) -> float:
        long_m = self.lead.length_mm / 1000 if self.lead else WIRE_M
        return 2 * long_m * COPPER / section_mm2 * self.peak_a


def supply_wires(solved: SolvedGadget) -> list[SupplyWire]:
    """From the battery through the stages to each rail.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.solved.gadget import SolvedGadget
    >>> solved = SolvedGadget(design)
    >>> all(w.drop_v >= 0 for w in supply_wires(solved))
    True
    """
    design, state = solved.design, solved.usual
    worst, place = state.worst, design.index.stages
    found = [
        _wire(
            f"/supply/stages/{place[x.id]}",
            x.input,
            x.name,
            x.lead,
            worst.stage_input_a[s],
            worst.stage_input_v[s],
            state.works,
        )
        for s, x in enumerate(state.tree.stages)
    ]
    return found + [
        _wire(f"/supply/rails/{r}", x.feed, x.name, x.lead, worst.rail_a[r], worst.rail_v[r], state.works)
        for r, x in enumerate(design.supply.rails)
    ]


def _wire(
    where: str, feed: str, name: str, lead: Lead | None, current_a: Array, node_v: Array, works: np.ndarray
) -> SupplyWire:
    """Arrays of shape (operating points, charges)."""
    at = np.unravel_index(int(np.argmax(np.where(works, current_a, -1.0))), works.shape)
    amps, volts = (float(x[at]) if works.any() else 0.0 for x in (current_a, node_v))
    return SupplyWire(where, feed, name, lead, amps, volts)
