"""The brief, the case, the record, and the whole."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, Literal

from pydantic import Field, StringConstraints, model_validator

from .basics import SAME_MM, Body, Celsius, Gap, Millimetre, Model, Money, Point, Side, Size, Slug, Surface, Text, Title
from .battery import Battery, Charger
from .day import Day
from .draw import Mode, Part
from .pins import Wiring
from .supply import Stage, Supply

Process = Literal["filament", "resin", "milled", "ready-made"]
Finish = Literal["as made", "sanded", "smoothed", "coated"]
Plastic = Literal["PLA", "PETG", "ABS", "ASA", "nylon", "TPU", "resin", "polycarbonate", "wood", "aluminium", "steel"]


class Vents(Model):
    """Openings low and high in the case, through which warm air rises."""

    area_mm2: Annotated[float, Field(gt=0, le=1e6)] = Field(
        description="free area of the low ones; the high ones have as much [mm2]"
    )
    height_mm: Annotated[float, Field(gt=0, le=2000)] = Field(description="from the low ones to the high ones [mm]")


WallThickness = Annotated[float, Field(ge=0.01, le=50, description="thickness [mm]")]


class Walls(Model):
    """Walls that are not as thick as the others [mm]; null: as the others."""

    left: WallThickness | None = None
    right: WallThickness | None = None
    front: WallThickness | None = None
    back: WallThickness | None = None
    bottom: WallThickness | None = None
    top: WallThickness | None = None


class Seal(Model):
    """A round cord in a groove between the two halves of the case."""

    cord_mm: Annotated[float, Field(ge=0.3, le=20)] = Field(description="its thickness when nothing presses on it [mm]")
    groove_mm: Annotated[float, Field(ge=0.1, le=20)] = Field(
        description="how deep the groove is when the case is closed [mm]"
    )


FasteningKind = Literal["screw", "insert", "nut", "snap", "cradle"]
Thread = Literal["M2", "M2.5", "M3", "M4"]


class Fastening(Model):
    """Something of the case that holds it together, or holds what is in it: a post for a screw or for a brass insert, a pocket for a nut, a snap,
    a rib. It takes room like a part, and belongs to the case: walls need no gap to it."""

    id: Slug
    name: Title
    kind: FasteningKind
    thread: Thread | None = Field(None, description="of screws, inserts and nuts")
    strain: Annotated[float, Field(ge=0, le=2)] | None = Field(
        None, description="of snaps: what its root is strained to while it closes, as a share; null: not known"
    )
    sunk: bool = Field(False, description="of a screw through the lid: its head lies in a countersink")
    carries: Slug | None = Field(
        None, description="what lies on it, by its id as in films: a board whose hole it stands under"
    )
    body: Body

    @model_validator(mode="after")
    def thread_where_there_is_one(self) -> Fastening:
        if (self.thread is None) != (self.kind in ("snap", "cradle")):
            raise ValueError("screws, inserts and nuts have a thread, snaps and ribs have none")
        if self.sunk and (self.thread is None or self.carries is not None):
            raise ValueError("only a screw through the lid has a countersink")
        if self.body.position_mm is None:
            raise ValueError("it is part of the case and has a place")
        if self.body.through is not None or self.body.on is not None or self.body.zones:
            raise ValueError("it is part of the case: it goes through no side, sits on nothing and keeps no room free")
        return self


MOST_SIGNS = 160


class CaseLabel(Model):
    """A line of letters on the outside of the case."""

    text: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=40)]
    side: Side = "top"
    height_mm: Annotated[float, Field(ge=1, le=100)] = Field(6, description="of its capitals [mm]")
    depth_mm: Annotated[float, Field(ge=0.05, le=5)] = Field(0.6, description="how far raised, or how deep [mm]")
    raised: bool = Field(False, description="it stands out; else it is engraved")
    at_mm: tuple[Millimetre, Millimetre] | None = Field(
        None,
        description="its middle along the other two axes, in their order, from the outer corner [mm]; null: the middle of the side",
    )
    turned_deg: Literal[0, 90, 180, 270] = Field(0, description="against the clock, seen from outside")


class Film(Model):
    """A film or tape between two things, that lets them lie on each other. They are named by the id of a part or a stage, "battery" or
    "charger"."""

    first: Slug
    second: Slug
    thickness_mm: Annotated[float, Field(ge=0.01, le=10, description="[mm]")]


SmallLength = Annotated[float, Field(ge=0, le=20, description="[mm]")]


class OwnMaking(Model):
    """What one's own machine holds, as test pieces told: in place of the process's usual figures."""

    name: Title
    free_mm: SmallLength = Field(description="gap a side for what is put in [mm]")
    sliding_mm: SmallLength = Field(description="gap a side for what slides [mm]")
    press_mm: SmallLength = Field(description="gap a side for what is pressed in [mm]")
    least_mm: SmallLength = Field(description="the least gap a side that still works [mm]")
    wall_mm: SmallLength = Field(description="the least wall that comes out well [mm]")
    least_wall_mm: SmallLength = Field(description="the least wall that comes out at all [mm]")
    strut_mm: SmallLength = Field(description="the least free-standing strut [mm]")
    least_hole_mm: SmallLength = Field(description="the least hole [mm]")
    hole_mm: Annotated[float, Field(ge=-5, le=5)] = Field(
        description="what a hole's diameter comes out smaller by [mm]"
    )
    post_mm: Annotated[float, Field(ge=-5, le=5)] = Field(
        description="what a post's diameter comes out thicker by [mm]"
    )
    shrinks: Annotated[float, Field(ge=0, le=0.1)] = Field(description="of each length, as a share")

    @model_validator(mode="after")
    def in_order(self) -> OwnMaking:
        if self.least_mm > self.free_mm:
            raise ValueError("the least gap that works is larger than the one for what is put in")
        if self.least_wall_mm > self.wall_mm:
            raise ValueError("the least wall at all is thicker than the one that comes out well")
        return self


class ThinSpot(Model):
    """A place where a case from a file is thin."""

    at_mm: Point = Field(description="on its surface [mm]")
    thickness_mm: Annotated[float, Field(ge=0, le=100)] = Field(description="from there straight through [mm]")


class CaseShape(Model):
    """A case from a file, in place of the box: its closed surface, and what was measured on it when it was read."""

    name: Title = Field(description="of the file")
    surface: Surface
    volume_mm3: Annotated[float, Field(gt=0, le=1e11)] = Field(description="of its material [mm3]")
    thin: Annotated[list[ThinSpot], Field(max_length=60)] = Field([], description="the thinnest spots, thinnest first")


class Enclosure(Model):
    outer_mm: Size
    shape: CaseShape | None = Field(
        None,
        description="its shape from a file; null: a box. outer_mm is then the box around it, its walls are those usual on each side",
    )
    wall_mm: WallThickness = 2.0
    walls_mm: Walls | None = None
    corner_mm: Annotated[float, Field(ge=0, le=1000)] = Field(
        0, description="radius of the four upright edges outside [mm]; half its width and depth: a round case"
    )
    edge_mm: Annotated[float, Field(ge=0, le=1000)] = Field(
        0, description="radius of the edges around its bottom and, where that is not domed, its top, outside [mm]"
    )
    taper_deg: Annotated[float, Field(ge=0, le=45)] = Field(0, description="how far its sides lean inwards, upwards")
    dome_mm: Annotated[float, Field(ge=0, le=1000)] = Field(
        0, description="by how much its top rises to its middle; part of its height [mm]"
    )
    split_mm: Annotated[float, Field(gt=0, le=2000)] | None = Field(
        None, description="how high above the bottom it comes apart [mm]; null, or higher than that: below its top wall"
    )
    joint: Literal["rim", "flat"] = Field(
        "rim", description="where its pieces meet: the upper one's rim goes into the lower one, or both are flat"
    )
    process: Process = "filament"
    finish: Finish = Field("as made", description="what is done to its surfaces, inside too")
    infill: Annotated[float, Field(ge=0.05, le=1)] = Field(
        1, description="of a filament print, what of the inside of its walls is filled"
    )
    plastic: Plastic = Field("PETG", description="what the shell is made of")
    lid: Plastic | None = Field(
        None, description="what its upper piece is made of, above where it comes apart; null: the same"
    )
    radio_window_mm: tuple[Millimetre, Millimetre] | None = Field(
        None, description="an opening in a case of metal that is closed with plastic, so that a radio is heard [mm]"
    )
    lid_gap_mm: Gap | None = Field(
        None, description="the widest gap between its two pieces when it is closed [mm]; null: not known"
    )
    stands: Literal["lying", "standing", "hung"] = Field(
        "lying", description="on its largest side, on its smallest, or with air around all sides"
    )
    carried: Literal["no", "hand", "clothes"] = Field("no", description="what is around it while it works")
    in_sun: bool = Field(False, description="it may lie in full sun")
    colour: Literal["light", "dark"] = "light"
    vents: Vents | None = None
    making: OwnMaking | None = Field(None, description="of one's own machine; null: the process's usual figures")
    seal: Seal | None = None
    fastenings: Annotated[list[Fastening], Field(max_length=64)] = []
    films: Annotated[list[Film], Field(max_length=64)] = []
    labels: Annotated[list[CaseLabel], Field(max_length=8)] = []
    clearance_mm: Gap | None = Field(None, description="part to wall, each side; null: the process's usual figure")
    gap_mm: Gap = Field(0.5, description="part to part [mm]")
    cost: Money = 0

    @property
    def walls(self) -> tuple[float, float, float, float, float, float]:
        """Thickness of left, right, front, back, bottom and top [mm]."""
        own = self.walls_mm
        if own is None:
            one = self.wall_mm
            return one, one, one, one, one, one
        left, right, front, back, bottom, top = (
            self.wall_mm if v is None else v for v in (own.left, own.right, own.front, own.back, own.bottom, own.top)
        )
        return left, right, front, back, bottom, top

    @property
    def outermost_mm(self) -> Size:
        """Width, depth and height with the letters that stand out [mm]."""
        if not self.labels:
            return self.outer_mm

        def out(*sides: Side) -> float:
            return sum(max((x.depth_mm for x in self.labels if x.raised and x.side == s), default=0.0) for s in sides)

        x, y, z = self.outer_mm
        return x + out("left", "right"), y + out("front", "back"), z + out("bottom", "top")

    @property
    def inner_mm(self) -> Size:
        """Width, depth and height inside [mm]; not below 0."""
        left, right, front, back, bottom, top = self.walls
        x, y, z = self.outer_mm
        return max(x - left - right, 0.0), max(y - front - back, 0.0), max(z - bottom - top, 0.0)

    @property
    def mean_wall_mm(self) -> float:
        """A wall all around that lets as much heat through as these [mm]: each by its outer area."""
        x, y, z = self.outer_mm
        areas = (y * z, y * z, x * z, x * z, x * y, x * y)
        return sum(areas) / sum(a / w for a, w in zip(areas, self.walls, strict=True))

    @property
    def inner_corner_mm(self) -> float:
        """Radius of the upright edges inside [mm]: the outer one less the thicker wall there."""
        return max(self.corner_mm - max(self.walls[:4]), 0.0)

    @model_validator(mode="after")
    def round_enough(self) -> Enclosure:
        most = min(self.outer_mm[:2]) / 2
        if self.corner_mm > most:
            raise ValueError(f"its corners can't be rounder than half its smaller side, {most:g} mm")
        if self.edge_mm > min(self.outer_mm) / 2:
            raise ValueError(f"its edges can't be rounder than half its smallest side, {min(self.outer_mm) / 2:g} mm")
        if self.dome_mm > self.outer_mm[2] / 2:
            raise ValueError(f"its dome can't be higher than half its height, {self.outer_mm[2] / 2:g} mm")
        narrower = 2 * math.tan(math.radians(self.taper_deg)) * self.outer_mm[2]
        if narrower >= min(self.outer_mm[:2]):
            raise ValueError(f"its sides meet below its top: they lean by {narrower / 2:g} mm on each side")
        return self

    @model_validator(mode="after")
    def as_its_file_says(self) -> Enclosure:
        if self.shape is None:
            return self
        own = self.shape.surface.size_mm
        if any(abs(a - b) > 2 * SAME_MM for a, b in zip(own, self.outer_mm, strict=True)):
            raise ValueError(f"its size is that of its file, {own[0]:g} × {own[1]:g} × {own[2]:g} mm")
        if self.corner_mm or self.edge_mm or self.taper_deg or self.dome_mm:
            raise ValueError("its edges are those of its file")
        if self.labels:
            raise ValueError("its letters are those of its file")
        return self

    @model_validator(mode="after")
    def few_letters(self) -> Enclosure:
        signs = sum(len(label.text) for label in self.labels)
        if signs > MOST_SIGNS:
            raise ValueError(f"its letters are {signs} signs in all, and {MOST_SIGNS} are the most that are drawn")
        return self

    @model_validator(mode="after")
    def vents_fit(self) -> Enclosure:
        if self.vents is None:
            return self
        _, middle, most = sorted(self.outer_mm)
        if self.vents.area_mm2 > middle * most / 2:
            raise ValueError(
                f"its vents of {self.vents.area_mm2:g} mm2 are more than half of its largest wall, {middle * most / 2:g} mm2"
            )
        if self.vents.height_mm > most:
            raise ValueError(f"its vents are {self.vents.height_mm:g} mm apart, and it is only {most:g} mm long")
        return self


class Brief(Model):
    goal_h: Annotated[float, Field(ge=1e-4, le=24 * 366 * 30)] | None = Field(
        None, description="wanted runtime, by the clock [h]; null: no goal set"
    )
    shelf_h: Annotated[float, Field(ge=1e-4, le=24 * 366 * 30)] | None = Field(
        None, description="wanted shelf life while switched off [h]"
    )
    outer_max_mm: Size | None = None
    mass_max_g: Annotated[float, Field(ge=0.01, le=50000)] | None = None
    cost_max: Annotated[float, Field(ge=1e-3, le=1e6)] | None = None
    charge_max_h: Annotated[float, Field(ge=1e-3, le=1000)] | None = None
    charged: Literal["indoors", "anywhere"] = Field(
        "indoors", description="where it is charged: between 10 and 30 degC, or from the coldest to the hottest"
    )
    use_factor: Annotated[float, Field(ge=1, le=10)] = Field(
        1.25,
        description="one in ten uses it this many times as much as planned, one in ten that much less; 1: as planned",
    )
    coldest_c: Celsius = 0
    usual_c: Celsius = 20
    hottest_c: Celsius = 35
    left_c: Celsius | None = Field(
        None,
        description="the hottest place where it is left, switched off: in a car in the sun 70 [degC]; null: as in use",
    )
    children_near: bool = Field(False, description="small children may get hold of it")
    exposure: Literal["dry", "splashed", "sealed"] = "dry"
    currency: Annotated[str, StringConstraints(pattern=r"^[A-Z]{3}$")] = "EUR"

    @model_validator(mode="after")
    def temperatures_ordered(self) -> Brief:
        if not self.coldest_c <= self.usual_c <= self.hottest_c:
            raise ValueError("the coldest, usual and hottest temperatures are not in that order")
        return self


class DecidedOn(Model):
    """The revision that a decision was taken on, and the figures that it had."""

    revision: Annotated[int, Field(ge=1, le=10**9)]
    runtime_h: Annotated[float, Field(ge=0)] | None = None
    mass_g: Annotated[float, Field(ge=0)] | None = None
    cost: Annotated[float, Field(ge=0)] | None = None
    findings: Annotated[int, Field(ge=0, le=10**6)] | None = None


class Decision(Model):
    id: Slug | None = Field(None, description="what notes and pictures name it by")
    date: Annotated[str, StringConstraints(pattern=r"^\d{4}-\d{2}-\d{2}$")]
    what: Title
    why: Text = ""
    on: DecidedOn | None = Field(None, description="null: not known")


class Dismissed(Model):
    """A caution that somebody took note of, with why it is met here; it stays in every report."""

    caution: Slug
    reason: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=1000)]


class Guess(Model):
    """A figure that nobody has looked up or typed yet: what a part draws in a state, or how long and how often something happens. It is one
    for as long as it is still what it was."""

    id: Annotated[str, StringConstraints(min_length=1, max_length=200)]
    kind: Literal["draw", "happens"]
    subject: Slug = Field(description="the part, or the session or the wake")
    state: Annotated[str, StringConstraints(max_length=120)] | None = None
    was: Annotated[list[float], Field(max_length=4)] = Field(
        description="what was taken: the current at the usual rail voltage [A], or seconds and times a day"
    )


@dataclass(frozen=True)
class Index:
    """Where each thing of a design stands in its list, by its id."""

    parts: dict[str, int]
    modes: dict[str, int]
    rails: dict[str, int]
    stages: dict[str, int]
    sessions: dict[str, int]
    wakes: dict[str, int]


class Design(Model):
    """One gadget. `format` names the version of this document."""

    format: Literal["frugal-ember/3"]
    name: Title
    summary: Text = ""
    brief: Brief
    parts: Annotated[list[Part], Field(max_length=1000)] = []
    modes: Annotated[list[Mode], Field(min_length=1, max_length=64)]
    supply: Supply
    battery: Battery
    charger: Charger | None = None
    day: Day
    enclosure: Enclosure
    wiring: Wiring | None = None
    decisions: Annotated[list[Decision], Field(max_length=500)] = []
    dismissed: Annotated[list[Dismissed], Field(max_length=50)] = []
    guesses: Annotated[list[Guess], Field(max_length=500)] = []

    @cached_property
    def index(self) -> Index:
        """Read by everything that looks for a thing by its id; made once."""
        return Index(*(
            {x.id: i for i, x in enumerate(things)}
            for things in (
                self.parts, self.modes, self.supply.rails, self.supply.stages, self.day.sessions, self.day.wakes
            )
        ))  # fmt: skip

    def part(self, key: str) -> Part:
        """The part of that id. Raises KeyError where there is none."""
        return self.parts[self.index.parts[key]]

    def stage(self, key: str) -> Stage | None:
        """The stage of that id; None for the battery, another source, or nothing at all."""
        return self.supply.stages[self.index.stages[key]] if key in self.index.stages else None
