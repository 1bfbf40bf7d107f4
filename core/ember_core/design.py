"""The design document: one gadget, from its brief to its case, as one validated value.

Everything the application knows about a gadget is in a `Design`. The same models validate
files, requests and stored revisions, and the JSON Schema in `docs/` is made from them.

Quantities are SI (A, V, W, s, ohm, degC) unless a field's name says otherwise
(`_ah`, `_h`, `_mm`, `_g`). Lists keep their order; things refer to each other by `id`.
References between lists are checked in `references.py`.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, model_validator

FORMAT = "frugal-ember/1"

Slug = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9-]*$", max_length=60)]
Title = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=120)]
Text = Annotated[str, StringConstraints(max_length=4000)]

Ampere = Annotated[float, Field(ge=0, le=100, description="current [A]")]
Volt = Annotated[float, Field(gt=0, le=100, description="voltage [V]")]
Watt = Annotated[float, Field(ge=0, le=2000, description="power [W]")]
Ohm = Annotated[float, Field(gt=0, le=1e9, description="resistance [ohm]")]
SeriesOhm = Annotated[float, Field(ge=0, le=1000, description="resistance [ohm]")]
AmpereHour = Annotated[float, Field(gt=0, le=1000, description="charge [A h]")]
Second = Annotated[float, Field(gt=0, le=86400 * 366, description="time [s]")]
Celsius = Annotated[float, Field(ge=-60, le=120, description="temperature [degC]")]
Millimetre = Annotated[float, Field(gt=0, le=2000, description="length [mm]")]
Gap = Annotated[float, Field(ge=0, le=50, description="length [mm]")]
Gram = Annotated[float, Field(ge=0, le=50000, description="mass [g]")]
Money = Annotated[float, Field(ge=0, le=1e6, description="cost in the brief's currency")]
Share = Annotated[float, Field(ge=0, le=1, description="share, 0 to 1")]
Size = tuple[Millimetre, Millimetre, Millimetre]
Coordinate = Annotated[float, Field(ge=-2000, le=2000, description="position [mm]")]
Point = tuple[Coordinate, Coordinate, Coordinate]

Provenance = Literal["measured", "datasheet", "typical", "guess"]
Side = Literal["left", "right", "front", "back", "bottom", "top"]


class Model(BaseModel):
    """Base of all parts of the document: unknown fields, NaN and infinities are refused."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class Body(Model):
    """The room a thing takes, as a cuboid along the case's axes."""

    size_mm: Size = Field(description="width (x), depth (y), height (z) [mm], connectors included")
    position_mm: Point | None = Field(
        None, description="corner nearest the case's outer left-front-bottom corner [mm]; null: not placed yet"
    )
    through: Side | None = Field(
        None, description="the side of the case this body shows or plugs through: no wall clearance there"
    )


# --- what the gadget draws -------------------------------------------------------------------

PROVENANCE_SPREAD: dict[Provenance, tuple[float, float]] = {
    "measured": (0.95, 1.05),
    "datasheet": (0.80, 1.30),
    "typical": (0.65, 1.50),
    "guess": (0.50, 2.00),
}


class Range(Model):
    """A typical figure with the least and the most to be expected (about the 10th and 90th percentile)."""

    typical: Annotated[float, Field(ge=0)]
    least: Annotated[float, Field(ge=0)] | None = Field(None, description="null: from the provenance's usual spread")
    most: Annotated[float, Field(ge=0)] | None = Field(None, description="null: from the provenance's usual spread")

    @model_validator(mode="after")
    def ordered(self) -> Range:
        if self.least is not None and self.least > self.typical:
            raise ValueError("the least figure is above the typical one")
        if self.most is not None and self.most < self.typical:
            raise ValueError("the most figure is below the typical one")
        return self

    def bounds(self, provenance: Provenance) -> tuple[float, float]:
        """Least and most, filled in from the provenance's usual spread where they are not given."""
        low, high = PROVENANCE_SPREAD[provenance]
        return (
            self.typical * low if self.least is None else self.least,
            self.typical * high if self.most is None else self.most,
        )


class CurrentRange(Range):
    typical: Ampere
    least: Ampere | None = None
    most: Ampere | None = None


class PowerRange(Range):
    typical: Watt
    least: Watt | None = None
    most: Watt | None = None


class ResistanceRange(Range):
    typical: Ohm
    least: Ohm | None = None
    most: Ohm | None = None


class CurrentDraw(Model):
    """Draws the same current at any voltage (most chips behind their own linear regulator)."""

    behaviour: Literal["current"] = "current"
    current_a: CurrentRange


class PowerDraw(Model):
    """Draws the same power at any voltage (anything behind its own switching converter)."""

    behaviour: Literal["power"] = "power"
    power_w: PowerRange


class ResistorDraw(Model):
    """V / R: pull resistors, dividers, heaters."""

    behaviour: Literal["resistor"] = "resistor"
    resistance_ohm: ResistanceRange


class LampDraw(Model):
    """An indicator lamp with its series resistor: max(0, (V - Vf) / R)."""

    behaviour: Literal["lamp"] = "lamp"
    forward_v: Volt
    resistance_ohm: ResistanceRange


Draw = Annotated[CurrentDraw | PowerDraw | ResistorDraw | LampDraw, Field(discriminator="behaviour")]


class State(Model):
    """One of the ways a part can be: asleep, idle, sending ..."""

    name: Title
    draw: Draw
    provenance: Provenance = "typical"


PartKind = Literal[
    "controller", "radio", "display", "sensor", "storage", "sound", "light", "motor", "lamp", "interface", "other"
]


class Part(Model):
    id: Slug
    name: Title
    kind: PartKind = "other"
    rail: Slug
    quantity: Annotated[int, Field(ge=1, le=1000)] = 1
    states: Annotated[list[State], Field(min_length=1, max_length=24)]
    passenger: bool = Field(False, description="came along on a board module; nobody chose it")
    supply_min_v: Volt | None = Field(None, description="least supply at which it works [V]")
    supply_max_v: Volt | None = Field(None, description="absolute maximum supply [V]")
    mass_g: Gram = Field(0, description="mass of each [g]")
    cost: Money = Field(0, description="cost of each")
    body: Body | None = Field(None, description="room of all of them together")
    note: Text = ""

    @model_validator(mode="after")
    def supply_window(self) -> Part:
        if self.supply_min_v and self.supply_max_v and self.supply_min_v >= self.supply_max_v:
            raise ValueError("the least supply is not below the absolute maximum")
        return self


class Phase(Model):
    state: Title
    seconds: Second


class Use(Model):
    """What one part does in one mode: a state for a share of the time, or a burst that repeats."""

    part: Slug
    state: Title
    duty: Share = Field(1, description="share of the mode spent in `state`; ignored while a burst is given")
    rest: Title | None = Field(None, description="state for the remaining time; null: draws nothing then")
    burst: list[Phase] = Field([], max_length=32, description="phases in order from the start of each period")
    period_s: Second | None = Field(None, description="the burst repeats every so many seconds")

    @model_validator(mode="after")
    def burst_fits(self) -> Use:
        if self.burst:
            if self.period_s is None:
                raise ValueError("a burst needs its period in seconds")
            total = sum(p.seconds for p in self.burst)
            if total > self.period_s * (1 + 1e-9):
                raise ValueError(f"the burst lasts {total:g} s, longer than its period of {self.period_s:g} s")
        return self


class Mode(Model):
    id: Slug
    name: Title
    essential: bool = Field(True, description="when this mode fails the gadget is considered empty")
    uses: Annotated[list[Use], Field(max_length=1000)] = []


# --- how the power gets there ----------------------------------------------------------------


class StageBase(Model):
    id: Slug
    name: Title
    input: Slug = Field(description="'battery' or the id of another stage")
    mass_g: Gram = 0
    cost: Money = 0
    body: Body | None = None


class LinearStage(StageBase):
    """Vout = min(Vset, Vin - dropout(Iout)); Iin = Iout (1 + ground share) + quiescent."""

    type: Literal["linear"] = "linear"
    output_v: Volt
    dropout_v: Annotated[float, Field(ge=0, le=5)] = Field(description="dropout [V] at `dropout_at_a`")
    dropout_at_a: Annotated[float, Field(gt=0, le=100)]
    quiescent_a: Ampere
    ground_share: Annotated[float, Field(ge=0, le=0.2)] = 0
    limit_a: Annotated[float, Field(gt=0, le=100)]
    input_max_v: Volt | None = None


class EfficiencyPoint(Model):
    current_a: Annotated[float, Field(gt=0, le=100)]
    efficiency: Annotated[float, Field(gt=0, lt=1)]
    input_v: Volt


class SwitchingStage(StageBase):
    """Pin = Vout Iout + p0 + a Iout + b Iout^2, fitted to the efficiency points."""

    type: Literal["switching"] = "switching"
    topology: Literal["buck", "boost", "buck-boost"]
    output_v: Volt
    points: Annotated[list[EfficiencyPoint], Field(min_length=1, max_length=64)]
    quiescent_a: Ampere
    limit_a: Annotated[float, Field(gt=0, le=100)] = Field(description="most output current [A]")
    input_limit_a: Annotated[float, Field(gt=0, le=100)] | None = None
    running_min_v: Volt = Field(description="stops below this input [V]")
    starting_min_v: Volt | None = Field(None, description="does not start below this input [V]")
    input_max_v: Volt | None = None


class SeriesStage(StageBase):
    """Anything that is a small resistance in the way: switch, fuse, protection circuit, thin wire."""

    type: Literal["series"] = "series"
    resistance_ohm: SeriesOhm
    leakage_a: Ampere = 0
    limit_a: Annotated[float, Field(gt=0, le=100)]


Stage = Annotated[LinearStage | SwitchingStage | SeriesStage, Field(discriminator="type")]


class Rail(Model):
    id: Slug
    name: Title
    feed: Slug = Field(description="'battery' or the id of the stage that makes this rail")


class Supply(Model):
    stages: Annotated[list[Stage], Field(max_length=64)] = []
    rails: Annotated[list[Rail], Field(min_length=1, max_length=64)]


# --- where it comes from ---------------------------------------------------------------------

Chemistry = Literal["lithium-ion", "alkaline", "lithium-coin"]
Form = Literal["pouch", "cylinder", "coin"]


class Cell(Model):
    name: Title
    chemistry: Chemistry
    form: Form
    capacity_ah: AmpereHour = Field(description="printed capacity [A h]")
    resistance_ohm: SeriesOhm = Field(description="at half charge and 25 degC [ohm]")
    cutoff_v: Volt
    discharge_max_a: Annotated[float, Field(gt=0, le=1000)]
    charge_max_a: Annotated[float, Field(gt=0, le=1000)] | None = Field(None, description="null: not given")
    size_mm: Size
    mass_g: Gram
    cost: Money = 0


class Battery(Model):
    cell: Cell
    series: Annotated[int, Field(ge=1, le=24)] = 1
    parallel: Annotated[int, Field(ge=1, le=24)] = 1
    wiring_ohm: SeriesOhm = Field(0.03, description="holder, leads and connector [ohm]")
    body: Body | None = Field(None, description="the whole pack, swelling not included")
    swelling: Share = Field(0.1, description="share of a pouch's thickness kept free for swelling")


class Charger(Model):
    """A linear constant-current, constant-voltage charger set by one resistor."""

    name: Title
    port_v: Volt = 5.0
    port_limit_a: Annotated[float, Field(gt=0, le=20)] = 0.5
    float_v: Volt = 4.2
    programming_v: Annotated[float, Field(gt=0, le=1e5)] = Field(1000, description="I = programming_v / resistor")
    programming_ohm: Ohm = Field(description="the resistor that sets the current [ohm]")
    termination_share: Annotated[float, Field(gt=0, lt=1)] = Field(0.1, description="share of the set current")
    power_path: bool = Field(False, description="feeds the gadget from the port beside the cell")
    theta_c_per_w: Annotated[float, Field(gt=0, le=1000)] = Field(70, description="junction to air [degC/W]")
    mass_g: Gram = 0
    cost: Money = 0
    body: Body | None = None


# --- the day, the case, the record -----------------------------------------------------------


class Session(Model):
    name: Title
    mode: Slug
    seconds: Second
    per_day: Annotated[float, Field(gt=0, le=86400)]


class Wake(Model):
    name: Title
    mode: Slug
    every_s: Second
    awake_s: Second


class Day(Model):
    rest: Slug = Field(description="the mode in which the gadget spends all other time")
    sessions: Annotated[list[Session], Field(max_length=64)] = []
    wakes: Annotated[list[Wake], Field(max_length=64)] = []


Process = Literal["filament", "resin", "ready-made"]
Plastic = Literal["PLA", "PETG", "ABS", "ASA", "nylon", "resin", "polycarbonate"]


class Enclosure(Model):
    outer_mm: Size
    wall_mm: Annotated[float, Field(gt=0, le=50)] = 2.0
    process: Process = "filament"
    plastic: Plastic = "PETG"
    clearance_mm: Gap | None = Field(None, description="part to wall, each side; null: the process's usual figure")
    gap_mm: Gap = Field(0.5, description="part to part [mm]")
    cost: Money = 0


class Brief(Model):
    goal_h: Annotated[float, Field(gt=0, le=24 * 366 * 30)] = Field(description="wanted runtime, by the clock [h]")
    outer_max_mm: Size | None = None
    mass_max_g: Annotated[float, Field(gt=0, le=50000)] | None = None
    cost_max: Annotated[float, Field(gt=0, le=1e6)] | None = None
    charge_max_h: Annotated[float, Field(gt=0, le=1000)] | None = None
    coldest_c: Celsius = 0
    usual_c: Celsius = 20
    hottest_c: Celsius = 35
    exposure: Literal["dry", "splashed", "sealed"] = "dry"
    currency: Annotated[str, StringConstraints(pattern=r"^[A-Z]{3}$")] = "EUR"

    @model_validator(mode="after")
    def temperatures_ordered(self) -> Brief:
        if not self.coldest_c <= self.usual_c <= self.hottest_c:
            raise ValueError("the coldest, usual and hottest temperatures are not in that order")
        return self


class Decision(Model):
    date: Annotated[str, StringConstraints(pattern=r"^\d{4}-\d{2}-\d{2}$")]
    what: Title
    why: Text = ""


class Design(Model):
    """One gadget. `format` names the version of this document."""

    format: Literal["frugal-ember/1"]
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
    decisions: Annotated[list[Decision], Field(max_length=500)] = []
