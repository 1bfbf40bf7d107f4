"""Where each watt goes, at one state of charge: per stage, rail, part and in the cell, in every operating point."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..numeric import Array


@dataclass(frozen=True)
class Powers:
    """All in W, by operating point: `stage_in`, `stage_out` of shape (stages, points), `rail_w` (rails, points), `part_w`
    (parts, points; all copies), `cell_w` (points,) what the battery's own resistance burns, `battery_w` (points,) what it
    gives at its terminals, `other_w` (sources, points) what the sources beside it give.

    What goes in comes out: battery and sources give what the stages lose and the parts take, and what leaks.
    """

    stage_in: Array
    stage_out: Array
    rail_w: Array
    part_w: Array
    cell_w: Array
    battery_w: Array
    other_w: Array

    @property
    def stage_loss(self) -> Array:
        """(stages, points)."""
        return np.asarray(self.stage_in - self.stage_out)

    @property
    def given_w(self) -> Array:
        """What the battery and the sources give, the battery's own loss included, (points,)."""
        return np.asarray(self.battery_w + self.cell_w + self.other_w.sum(axis=0))
