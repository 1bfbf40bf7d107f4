"""A cell checked on the bench: what it held down to its cut-off through a load, and its resistance by a step of that load; and how it aged from check to check.

The charge is the load's current times the time that it lasted; through a resistor the mean voltage under load over the resistor. The resistance is the step
of the voltage over the step of the current, some ten seconds after the load was connected.
"""

from __future__ import annotations

from datetime import date
from typing import Annotated

import numpy as np
from pydantic import Field, model_validator

from ..battery.ageing import fade
from ..battery.chemistry import CHEMISTRIES, highest_v
from ..battery.pack import resting_v
from ..design import Cell, CellCheck, Model
from ..figures import Figure, figure, record
from ..words import called, say

GOOD, WORN = 0.9, 0.7  # of what is printed: from there on as new; below it is for light duty at most
MORE = 1.1  # of what is printed: more than that was hardly in it
AGED = 2.0  # times the resistance that it is told to have
GENTLE_C = 0.5  # of the capacity an hour: a load above that leaves some of it inside
MOST_V = 1.05  # times the highest voltage of a cell: more is several of them
LEAST_DAYS = 30.0  # between the first check and the last, to tell a trend
DAYS = 365.25


class CheckTask(Model):
    """A cell on a load: a steady current, or a resistor."""

    cell: Cell
    load_a: float | None = Field(None, ge=1e-6, le=1000, description="of a load with a steady current [A]")
    load_ohm: float | None = Field(None, ge=1e-3, le=1e7, description="of a resistor as the load [ohm]")
    lasted_s: float | None = Field(None, ge=1, le=1e8, description="from full to the cut-off [s]")
    mean_v: float | None = Field(
        None, ge=0.1, le=60, description="under load, the mean [V]; null: as the cell has at half its charge"
    )
    rest_v: float | None = Field(None, ge=0.1, le=60, description="before the load was connected [V]")
    loaded_v: float | None = Field(None, ge=0.05, le=60, description="some ten seconds after [V]")

    @model_validator(mode="after")
    def says_enough(self) -> CheckTask:
        if (self.load_a is None) == (self.load_ohm is None):
            raise ValueError("the load is a current or a resistor: one of them")
        if self.lasted_s is None and (self.rest_v is None or self.loaded_v is None):
            raise ValueError("needs the time until the cut-off, or the voltage before and under the load")
        if self.rest_v is not None and self.loaded_v is not None and self.loaded_v >= self.rest_v:
            raise ValueError("the voltage under load is not below the one at rest")
        if self.rest_v is not None and self.rest_v > MOST_V * fresh_v(self.cell):
            raise ValueError(
                "one cell of this kind never has so much at rest: it is checked by itself, out of its pack"
            )
        return self


@record
class CheckAnswer:
    """`held` and `resistance` are null where they were not measured; `capacity_ah` and `resistance_ohm` go into the cell: a charge that was hardly
    in it does not."""

    held: Figure | None
    share: Figure | None
    resistance: Figure | None
    capacity_ah: float | None
    resistance_ohm: float | None
    sentences: list[str]


def fresh_v(cell: Cell) -> float:
    """The most that a full or fresh one has at rest [V].

    >>> from ember_core.design import Cell
    >>> cell = Cell(name="Cell", chemistry="lithium-ion", form="cylinder", capacity_ah=2.0, resistance_ohm=0.05, cutoff_v=3.0, discharge_max_a=4, size_mm=(18, 65, 18), mass_g=45)
    >>> round(fresh_v(cell), 2)
    4.2
    """
    return highest_v(cell) or max(resting_v(cell, 1.0), CHEMISTRIES[cell.chemistry].fresh_v or 0.0)


def check_cell(task: CheckTask) -> CheckAnswer:
    """What a check on a load tells of a cell: what it held, its resistance, in figures and sentences.

    >>> from ember_core.catalogue import built_in
    >>> cell = built_in().by_key["cell-cyl-18650"].cell
    >>> check_cell(CheckTask(cell=cell, load_a=0.5, lasted_s=4 * 3600)).capacity_ah
    2.0
    """
    cell = task.cell
    mean_v = task.mean_v if task.mean_v is not None else resting_v(cell, 0.5)
    amps = task.load_a if task.load_a is not None else mean_v / (task.load_ohm or 1.0)
    held = None if task.lasted_s is None else float(f"{amps * task.lasted_s / 3600:.4g}")
    ohm = None
    step_a = amps
    if task.rest_v is not None and task.loaded_v is not None:
        step_a = task.load_a if task.load_a is not None else task.loaded_v / (task.load_ohm or 1.0)
        ohm = float(f"{(task.rest_v - task.loaded_v) / step_a:.3g}")
    load = (
        [(called("load"), amps, "A")]
        if task.load_ohm is None
        else [(called("mean-under-load"), mean_v, "V"), (called("load"), task.load_ohm, "Ω")]
    )
    return CheckAnswer(
        held=held if held is None else figure("held-by-a-load", held, "Ah", [*load, (called("lasted"), task.lasted_s, "s")]),
        share=None if held is None else figure("held-of-printed", held / cell.capacity_ah * 100, "%", [(called("held"), held, "Ah"), (called("printed"), cell.capacity_ah, "Ah")]),
        resistance=None if ohm is None else figure(
            "resistance-by-a-step", ohm, "Ω", [(called("at-rest"), task.rest_v, "V"), (called("under-load"), task.loaded_v, "V"), (called("load"), step_a, "A")]
        ),
        capacity_ah=None if held is None or held > MORE * cell.capacity_ah else held,
        resistance_ohm=ohm,
        sentences=_said(cell, amps, held, ohm),
    )  # fmt: skip


def _said(cell: Cell, amps: float, held: float | None, ohm: float | None) -> list[str]:
    told = []
    if held is not None:
        share = held / cell.capacity_ah
        how = "more" if share > MORE else "good" if share >= GOOD else "tired" if share >= WORN else "worn"
        told.append(say(f"check.{how}", held=(held, "Ah"), printed=(cell.capacity_ah, "Ah"), share=(share, "share")))
        if amps > GENTLE_C * cell.capacity_ah:
            told.append(say("check.hard", amps=(amps, "A"), gentle=(GENTLE_C * cell.capacity_ah, "A")))
    if ohm is not None:
        aged = ohm > AGED * cell.resistance_ohm
        key = "check.aged" if aged else "check.resists"
        told.append(say(key, ohm=(ohm, "Ω"), usual=(cell.resistance_ohm, "Ω"), times=(ohm / cell.resistance_ohm, "")))
    return told


@record
class CellHistory:
    """`latest` is what it held at the last check, of what is printed; `fade` what it loses a year by all of them, where they tell."""

    latest: Figure | None
    fade: Figure | None
    sentence: Annotated[str, Field(description="empty where two checks or more do not tell a trend")]


def cell_history(cell: Cell) -> CellHistory | None:
    """How a cell aged by its checks; None without any.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.design.battery import CellCheck
    >>> new = built_in().by_key["cell-cyl-18650"].cell
    >>> checks = [CellCheck(date=d, capacity_ah=s * new.capacity_ah) for d, s in (("2025-01-01", 1.0), ("2026-01-01", 0.95))]
    >>> round(cell_history(new.model_copy(update={"checks": checks})).fade.value, 1)
    5.0
    """
    if not cell.checks:
        return None
    held = sorted((_day(c), c.capacity_ah / cell.capacity_ah) for c in cell.checks if c.capacity_ah is not None)
    latest = held[-1][1] * 100 if held else None
    days = np.array([d for d, _ in held])
    told = days.size >= 2 and days[-1] - days[0] >= LEAST_DAYS
    slope = float(np.polyfit(days / DAYS, [s for _, s in held], 1)[0]) if told else None
    usual = 1 - fade(cell.chemistry, 1.0, 0.0)[0]
    sentence = ""
    if slope is not None:
        key = "check.fades" if slope < 0 else "check.holds"
        sentence = say(
            key,
            first=(held[0][1], "share"),
            last=(held[-1][1], "share"),
            fade=(abs(slope), "share"),
            usual=(usual, "share"),
            days=((days[-1] - days[0]) * 86400.0, "s"),
        )
    return CellHistory(
        latest=None if latest is None else figure("held-at-the-last-check", latest, "%", [(called("checks"), float(len(held)), "")]),
        fade=None if slope is None else figure(
            "fade-a-year", -slope * 100, "%",
            [(called("first"), held[0][1] * 100, "%"), (called("last"), held[-1][1] * 100, "%"), (called("apart"), float(days[-1] - days[0]) * 86400.0, "s")],
        ),
        sentence=sentence,
    )  # fmt: skip


def _day(check: CellCheck) -> float:
    return float(date.fromisoformat(check.date).toordinal())
