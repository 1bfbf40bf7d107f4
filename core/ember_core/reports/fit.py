"""The fit of every body, and what the gadget weighs and costs."""

from __future__ import annotations

import math
from collections import Counter
from typing import Annotated

import numpy as np
from pydantic import Field

from ..case_shape import cavity_solid, corners_of, is_plain, material, outer_solid
from ..design import Design, Enclosure
from ..enclosure.bodies import AXES, TOUCH_MM, Contact, MadeOf, made_of, middle_of
from ..enclosure.fit import contact_names, contact_status, met_by
from ..enclosure.solids import outline, window_corners
from ..figures import Figure, figure, record
from ..making import FINISH_MM, making_of, thin_spots
from ..solved.gadget import SolvedGadget, once
from ..thermal.materials import MATERIALS
from ..thermal.shell import shell_centre_mm, shell_mass_g
from ..words import called, say

MASS_LOW, MASS_HIGH = 0.95, 1.10  # a rule of thumb, and said to be one
FIT_SOURCE = "cuboids: separation along the axes; others on their surfaces"


@record
class BodyReport:
    """A placed body with its tightest neighbour. low/high are the corners of the box around it [mm], swelling included in `high`. `outlines`
    are what it looks like along x, y and z, piece by piece, as corners in the other two axes, where it is not that box."""

    where: str
    name: str
    made_of: MadeOf
    low: list[float]
    high: list[float]
    outlines: list[list[list[list[float]]]]
    copies: Annotated[
        list[list[float]],
        Field(description="where several copies lie from the first one on [mm]; of a single one empty"),
    ]
    swelling_mm: float
    swelling_axis: int
    through: str | None
    window: Annotated[list[list[float]], Field(description="its corners in their order, where it is seen through one")]
    neighbour: str
    gap: Figure
    needed_mm: float
    status: str


@record
class Unplaced:
    where: str
    name: str


@record
class ThinReport:
    """A spot of a case from a file that is thinner than what the process makes well [mm]."""

    at_mm: list[float]
    thickness_mm: float
    status: str


@record
class FitReport:
    bodies: list[BodyReport]
    unplaced: list[Unplaced]
    cavity_mm: list[float]
    outlines: Annotated[
        list[list[list[list[float]]]],
        Field(
            description="of a case that is more than a box, along x, y and z: each its outer outline and that of its inside"
        ),
    ]
    thin: Annotated[list[ThinReport], Field(description="of a case from a file, the thinnest first")]
    walls_mm: Annotated[list[float], Field(description="left, right, front, back, bottom, top")]
    inner_corner_mm: float
    clearance_mm: float
    filled: Figure
    margin: Figure
    making: Annotated[list[Figure], Field(description="what its making holds: clearances, walls, holes, posts")]
    balance: Figure | None
    balance_mm: Annotated[
        list[float] | None, Field(description="the centre of mass; null: nothing has a mass and a place")
    ]
    fits: bool


@record
class BillLine:
    where: str
    name: str
    quantity: float
    mass_g: float
    cost: float
    small: Annotated[bool, Field(description="to be bought, and neither weighed nor priced")] = False


@record
class TotalsReport:
    mass: Figure
    cost: Figure
    bill: list[BillLine]


def fit_report(solved: SolvedGadget) -> FitReport:
    fit = solved.fit
    balance, centre = _balance(solved)
    rows = []
    tightest: dict[int, Contact] = {}
    margins: dict[int, float] = {}
    for contact in fit.contacts:
        margin = contact.margin_mm
        for i in (contact.first, contact.second):
            if i >= 0 and margin < margins.get(i, math.inf):
                tightest[i], margins[i] = contact, margin
    wrong = {b.index for b in fit.beyond} | {i for pair in fit.closed_in for i in pair[:1]}
    for i, body in enumerate(fit.placed):
        tight = tightest.get(i)
        if tight is None:
            continue
        other = tight.second if tight.first == i else tight.first
        neighbour = met_by(fit, tight, other)
        rows.append(
            BodyReport(
                where=body.pointer,
                name=body.name,
                made_of=made_of(solved.design, body.pointer),
                low=body.low.tolist(),
                high=body.high.tolist(),
                outlines=[]
                if body.straight
                else [[outline(p.corners, axis).tolist() for p in body.pieces] for axis in range(3)],
                copies=body.copies.tolist() if len(body.copies) > 1 else [],
                swelling_mm=body.swelling_mm,
                swelling_axis=body.swelling_axis,
                through=body.through,
                window=window_corners(body.body).tolist(),
                neighbour=neighbour,
                needed_mm=tight.needed_mm,
                status="fail" if i in wrong else contact_status(tight),
                gap=figure(
                    "gap-to",
                    tight.gap_mm,
                    "mm",
                    [(called("needed"), tight.needed_mm, "mm"), ("axis " + AXES[tight.axis], None, "")],
                    FIT_SOURCE,
                    facts={"body": body.name, "neighbour": neighbour},
                ),
            )
        )
    return FitReport(
        bodies=rows,
        unplaced=[Unplaced(where=where, name=name) for where, name in fit.unplaced],
        cavity_mm=fit.cavity_mm.tolist(),
        outlines=_case_outlines(solved.design.enclosure),
        thin=_thin(solved.design.enclosure),
        walls_mm=list(solved.design.enclosure.walls),
        inner_corner_mm=solved.design.enclosure.inner_corner_mm,
        clearance_mm=fit.clearance_mm,
        filled=figure(
            "room-taken",
            None if fit.filled_share is None else fit.filled_share * 100,
            "%",
            [(called("cavity", axis=a), float(v), "mm") for a, v in zip(AXES, fit.cavity_mm, strict=True)],
            FIT_SOURCE,
        ),
        margin=fit_margin(solved),
        making=_making(solved.design.enclosure),
        balance=balance,
        balance_mm=centre,
        fits=bool(fit.placed)
        and not fit.unplaced
        and fit.open_side is None
        and fit.settled(set(range(len(fit.placed)))),
    )


def _thin(case: Enclosure) -> list[ThinReport]:
    least = making_of(case).least_wall
    return [
        ThinReport(at_mm=list(spot.at_mm), thickness_mm=left, status="fail" if left < least - TOUCH_MM else "watch")
        for left, spot in thin_spots(case)
    ]


def _case_outlines(case: Enclosure) -> list[list[list[list[float]]]]:
    if is_plain(case):
        return []
    solids = [material(case)] if case.shape is not None else [outer_solid(case), cavity_solid(case)]
    corners = [corners_of(solid) for solid in solids]
    return [[outline(points, axis).tolist() for points in corners if len(points)] for axis in range(3)]


RULE_OF_THUMB = "rule of thumb; a test piece tells what yours does"


def _making(case: Enclosure) -> list[Figure]:
    """What the making of the case holds, as it is reckoned with and as one draws by it."""
    making = making_of(case)
    coat = max(FINISH_MM[case.finish], 0.0)
    rows = [
        ("gap-put-in", making.free + coat),
        ("gap-sliding", making.sliding + coat),
        ("gap-pressed-in", making.press + coat),
        ("least-wall", making.wall),
        ("least-strut", making.strut),
        ("least-hole", making.least_hole),
        ("hole-wider", making.hole),
        ("post-thinner", making.post),
    ]
    told = [figure(key, value, "mm", source=RULE_OF_THUMB, facts={"process": case.process}) for key, value in rows]
    return [
        *told,
        figure("shrinks-by", making.shrinks * 100, "%", source=RULE_OF_THUMB, facts={"process": case.process}),
    ]


def _balance(solved: SolvedGadget) -> tuple[Figure | None, list[float] | None]:
    """How far the centre of mass is from the middle of the case, and where it is [mm]; the case itself is counted."""
    design, fit = solved.design, solved.fit
    mass = {f"/parts/{i}": p.mass_g * p.quantity for i, p in enumerate(design.parts)}
    mass |= {f"/supply/stages/{i}": s.mass_g for i, s in enumerate(design.supply.stages)}
    mass["/battery"] = design.battery.cell.mass_g * design.battery.series * design.battery.parallel
    mass["/charger"] = design.charger.mass_g if design.charger else 0.0
    placed = [(mass[b.pointer], middle_of(b)) for b in fit.placed if mass.get(b.pointer, 0.0) > 0]
    if not placed:
        return None, None
    middle = np.asarray(design.enclosure.outer_mm) / 2
    placed.append((shell_mass_g(design.enclosure, fit.made_mm3), shell_centre_mm(design.enclosure)))
    whole = sum(m for m, _ in placed)
    centre = np.sum([m * at for m, at in placed], axis=0) / whole
    off = float(np.linalg.norm(centre - middle))
    found = figure(
        "centre-of-mass-from-the-middle",
        off,
        "mm",
        [(a, float(v), "mm") for a, v in zip(AXES, centre - middle, strict=True)]
        + [(called("mass-with-a-place"), whole, "g")],
        "bodies of even density",
    )
    return found, centre.tolist()


def fit_margin(solved: SolvedGadget) -> Figure:
    """The tightest place of all, by what is left there beyond what is needed."""
    tightest = solved.fit.tightest
    value, first, second = None, None, None
    inputs: list[tuple[str, float | None, str]] = []
    if tightest:
        first, second = contact_names(solved.fit, tightest)
        value = tightest.margin_mm
        inputs = [(called("gap"), tightest.gap_mm, "mm"), (called("needed"), tightest.needed_mm, "mm")]
    return figure("tightest-place", value, "mm", inputs, FIT_SOURCE, facts={"first": first, "second": second})


def _small_things(design: Design) -> list[BillLine]:
    """What has to be bought and has neither mass nor price in the document: screws, inserts and nuts, the resistor of the charger, a panel."""
    held = Counter(f"{f.kind.capitalize()} {f.thread}" for f in design.enclosure.fastenings if f.thread is not None)
    found = [
        BillLine(where="/enclosure/fastenings", name=name, quantity=n, mass_g=0.0, cost=0.0, small=True)
        for name, n in held.items()
    ]
    charger = design.charger
    if charger is not None and charger.fixed_a is None and charger.program_ohm:
        name = say("bill.resistor", ohm=(charger.program_ohm, "Ω"), charger=charger.name)
        found.append(BillLine(where="/charger/program_ohm", name=name, quantity=1, mass_g=0.0, cost=0.0, small=True))
    if charger is not None and charger.port is not None and charger.port.panel is not None:
        name = say("bill.panel", power=(charger.port.panel.peak_w, "W"))
        found.append(BillLine(where="/charger/port/panel", name=name, quantity=1, mass_g=0.0, cost=0.0, small=True))
    return found


@once
def totals_report(solved: SolvedGadget) -> TotalsReport:
    design = solved.design
    cells = design.battery.series * design.battery.parallel
    cell = design.battery.cell
    bill = [
        BillLine(
            where=f"/parts/{i}",
            name=p.name,
            quantity=p.quantity,
            mass_g=p.mass_g * p.quantity,
            cost=p.cost * p.quantity,
        )
        for i, p in enumerate(design.parts)
    ]
    bill += [
        BillLine(where=f"/supply/stages/{i}", name=s.name, quantity=1, mass_g=s.mass_g, cost=s.cost)
        for i, s in enumerate(design.supply.stages)
    ]
    bill.append(
        BillLine(where="/battery", name=cell.name, quantity=cells, mass_g=cell.mass_g * cells, cost=cell.cost * cells)
    )
    if design.charger:
        charger = design.charger
        bill.append(BillLine(where="/charger", name=charger.name, quantity=1, mass_g=charger.mass_g, cost=charger.cost))
    shell = shell_mass_g(design.enclosure, solved.fit.made_mm3)
    bill.append(
        BillLine(
            where="/enclosure",
            name=f"Case, {design.enclosure.plastic}",
            quantity=1,
            mass_g=shell,
            cost=design.enclosure.cost,
        )
    )
    bill += _small_things(design)
    mass, cost = sum(b.mass_g for b in bill), sum(b.cost for b in bill)
    return TotalsReport(
        mass=figure(
            "mass",
            mass,
            "g",
            [
                (called("parts-and-stages"), mass - shell - cell.mass_g * cells, "g"),
                (called("cells"), cell.mass_g * cells, "g"),
                (called("case"), shell, "g"),
                (called("density-of-the-plastic"), MATERIALS[design.enclosure.plastic].density, "g/cm³"),
            ],
            "solid walls; wires and screws not counted",
            low=mass * MASS_LOW,
            high=mass * MASS_HIGH,
        ),
        cost=figure(
            "cost",
            cost,
            design.brief.currency,
            [(called("lines"), float(len(bill)), "")],
            "the parts' own figures; one piece, work not counted",
        ),
        bill=bill,
    )
