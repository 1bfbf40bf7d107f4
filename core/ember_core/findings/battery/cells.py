"""Traps of the cell as it is described: more than such a cell can hold, a name that says something else, colder than it works."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator

from ...battery.chemistry import CHEMISTRIES
from ...design import Cell
from ...design.patches import replace
from ...figures import Remedy
from ...measures.bench import TrialBench
from ...words import say
from ..found import Found

IMPOSSIBLE = 1.25  # times what the best cells hold
USUAL_SHARE = 0.7  # of the best cells' is what an everyday cell holds
NAME_DIFFERS = 0.15
NAMED = re.compile(r"(\d+(?:[.,]\d+)?)\s*(m?)A\s?h\b", re.IGNORECASE)


def volume_cm3(cell: Cell) -> float:
    """Of its own shape, not of the box around it."""
    x, y, z = cell.size_mm
    round_ = cell.form in ("cylinder", "coin")
    return x * y * z / 1000 * (math.pi / 4 if round_ else 1.0)


def holds_too_much(bench: TrialBench) -> Iterator[Found]:
    """More charge than the best cells of its kind hold in such a size, or for such a mass."""
    cell = bench.design.battery.cell
    data = CHEMISTRIES[cell.chemistry]
    if cell.bank is not None:
        return
    volume = volume_cm3(cell)
    by_size = data.ah_per_cm3 * volume
    limits = [(by_size, (volume, "cm³"))]
    if cell.mass_g > 0:
        limits.append((data.ah_per_g * cell.mass_g, (cell.mass_g, "g")))
    most, of = min(limits)
    if cell.capacity_ah <= most * 1.001:
        return
    usual = float(f"{USUAL_SHARE * by_size:.2g}")
    factor = (cell.capacity_ah / (USUAL_SHARE * data.ah_per_cm3 * volume)) ** (1 / 3)
    yield Found(
        code="holds-too-much",
        severity="fix" if cell.capacity_ah > IMPOSSIBLE * most else "watch",
        step="battery",
        where="/battery/cell/capacity_ah",
        facts={"rated_capacity": (cell.capacity_ah, "Ah"), "most": (most, "Ah"), "of": of, "data": data.name},
        ways=lambda: [
            Remedy(
                label=say("way.reckon-with-as-such-a-size-usually-holds", usual=(usual, "Ah")),
                patch=_capacity(cell, usual),
            ),
            *_scaled(bench, factor),
        ],
    )


def _capacity(cell: Cell, amp_hours: float) -> list:  # type: ignore[type-arg]
    patch = [replace("/battery/cell/capacity_ah", amp_hours)]
    if cell.measured_ah is not None and cell.measured_ah > amp_hours:
        patch.append(replace("/battery/cell/measured_ah", amp_hours))
    return patch


def _scaled(bench: TrialBench, factor: float) -> Iterator[Remedy]:
    """A cell of the same proportions that is as large as such a capacity needs."""
    cell = bench.design.battery.cell
    if cell.form != "pouch" or factor <= 1 or factor > 4:
        return
    size = [round(v * factor, 1) for v in cell.size_mm]
    grams = round(
        max(cell.mass_g * factor**3, cell.capacity_ah / CHEMISTRIES[cell.chemistry].ah_per_g / USUAL_SHARE), 1
    )
    patch = [replace("/battery/cell/size_mm", size), replace("/battery/cell/mass_g", grams)]
    body = bench.design.battery.body
    if body is not None:
        patch.append(replace("/battery/body/size_mm", [round(v * factor, 1) for v in body.size_mm]))
    yield Remedy(
        label=say("way.scale-this-pouch-to-mm", size=(size[0], ""), size_2=(size[1], ""), size_3=(size[2], "")),
        patch=patch,
    )


def named_otherwise(bench: TrialBench) -> Iterator[Found]:
    """Its name tells another capacity than its figures."""
    cell = bench.design.battery.cell
    said = NAMED.search(cell.name)
    if said is None or cell.bank is not None:
        return
    named = float(said[1].replace(",", ".")) * (1e-3 if said[2] else 1.0)
    if named <= 0 or abs(cell.capacity_ah / named - 1) <= NAME_DIFFERS:
        return
    yield Found(
        code="named-otherwise",
        severity="watch",
        step="battery",
        where="/battery/cell/capacity_ah",
        facts={"named": (named, "Ah"), "rated_capacity": (cell.capacity_ah, "Ah"), "cell": cell.name},
        ways=lambda: [Remedy(label=say("way.reckon-with", named=(named, "Ah")), patch=_capacity(cell, named))],
    )


def colder_than_it_works(bench: TrialBench) -> Iterator[Found]:
    """The coldest of the brief lies below what cells of its kind work at."""
    cell, brief = bench.design.battery.cell, bench.design.brief
    least = CHEMISTRIES[cell.chemistry].coldest_c
    measured = cell.curve.cold.temperature_c if cell.curve is not None and cell.curve.cold is not None else least
    least = min(least, measured)
    if brief.coldest_c >= least or not bench.design.parts:
        return
    yield Found(
        code="colder-than-the-cell",
        severity="fix",
        step="battery",
        where="/brief/coldest_c",
        facts={
            "coldest": (brief.coldest_c, "°C"),
            "least": (least, "°C"),
            "cell": cell.name,
            "CHEMISTRIES": CHEMISTRIES[cell.chemistry].name,
        },
    )
