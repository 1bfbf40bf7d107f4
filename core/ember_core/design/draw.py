"""What the gadget draws: parts with their states, modes with what each part does in them."""

from __future__ import annotations

from collections import Counter
from typing import Annotated, Literal

from pydantic import Field, model_validator

from .basics import (
    Ampere,
    Body,
    Gram,
    Grid,
    Model,
    Money,
    Ohm,
    Origin,
    Provenance,
    Second,
    Share,
    Slug,
    Text,
    Title,
    Volt,
    Watt,
)
from .pins import Need, Pin

PROVENANCE_SPREAD: dict[Provenance, tuple[float, float]] = {
    "measured": (0.95, 1.05),
    "datasheet": (0.80, 1.30),
    "typical": (0.65, 1.50),
    "guess": (0.50, 2.00),
}


class Range(Model):
    """A typical figure with the least and the most to be expected (about the 10th and 90th percentile)."""

    typical: Annotated[float, Field(ge=0)]
    min: Annotated[float, Field(ge=0)] | None = Field(None, description="null: from the provenance's usual spread")
    max: Annotated[float, Field(ge=0)] | None = Field(None, description="null: from the provenance's usual spread")

    @model_validator(mode="after")
    def ordered(self) -> Range:
        if self.min is not None and self.min > self.typical:
            raise ValueError("the least figure is above the typical one")
        if self.max is not None and self.max < self.typical:
            raise ValueError("the most figure is below the typical one")
        return self

    def bounds(self, provenance: Provenance) -> tuple[float, float]:
        """Least and most, filled in from the provenance's usual spread where they are not given."""
        low, high = PROVENANCE_SPREAD[provenance]
        return (
            self.typical * low if self.min is None else self.min,
            self.typical * high if self.max is None else self.max,
        )


class CurrentRange(Range):
    typical: Ampere
    min: Ampere | None = None
    max: Ampere | None = None


class PowerRange(Range):
    typical: Watt
    min: Watt | None = None
    max: Watt | None = None


class ResistanceRange(Range):
    typical: Ohm
    min: Ohm | None = None
    max: Ohm | None = None


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


class LedDraw(Model):
    """An LED with its series resistor: max(0, (V - Vf) / R)."""

    behaviour: Literal["led"] = "led"
    forward_v: Volt
    resistance_ohm: ResistanceRange


Draw = Annotated[CurrentDraw | PowerDraw | ResistorDraw | LedDraw, Field(discriminator="behaviour")]


class State(Model):
    """One of the ways a part can be: asleep, idle, sending ..."""

    name: Title
    draw: Draw
    provenance: Provenance = "typical"
    source: Annotated[str, Field(max_length=200)] = Field(
        "", description="where the figure is from: which datasheet; when, on what and with what it was measured"
    )


PartKind = Literal[
    "controller", "radio", "display", "sensor", "storage", "sound", "light", "motor", "led", "interface", "other"
]


class Phase(Model):
    state: Title
    seconds: Second


WakeBy = Literal["timer", "pin", "touch", "serial", "radio"]


class WakeSource(Model):
    """What can wake a controller out of one of its states."""

    state: Title
    by: Annotated[list[WakeBy], Field(max_length=5)]
    pins: Annotated[int, Field(ge=0, le=200)] = Field(0, description="how many pins can wake it")


class BurstShape(Model):
    """What the part does in a row when it is woken: boot, join, send, refresh."""

    name: Title
    phases: Annotated[list[Phase], Field(min_length=1, max_length=32)]


class Peak(Model):
    """A short current above the figures of the states: a send pulse, an inrush. Too short to count in the mean."""

    current_a: Annotated[float, Field(ge=1e-9, le=100)]
    seconds: Annotated[float, Field(ge=1e-9, le=60)]
    state: Title | None = Field(None, description="only in this state; null: in any but the calmest")


class Divider(Model):
    """Two resistors that bring a voltage down to what a pin can read."""

    upper_ohm: Ohm
    lower_ohm: Ohm
    gated: bool = Field(False, description="connected only while it is read")
    hold_f: Annotated[float, Field(ge=0, le=1)] = Field(0, description="capacitor at the pin [F]")
    reader: Slug | None = Field(None, description="the part whose pin reads it")


class OwnRegulator(Model):
    """The regulator that a board carries between its input and its chips; what it takes is in the figures of the board's states."""

    kind: Literal["linear", "switching"] = "linear"
    output_v: Volt
    dropout_v: Annotated[float, Field(ge=0, le=5)] = Field(
        0.3, description="what it drops at least, of a linear one [V]"
    )
    quiescent_a: Ampere = Field(0, description="of what the states draw, what it takes for itself [A]")


class Part(Model):
    id: Slug
    name: Title
    kind: PartKind = "other"
    rail: Slug
    quantity: Annotated[int, Field(ge=1, le=1000)] = 1
    states: Annotated[list[State], Field(min_length=1, max_length=24)]
    working: Title | None = Field(None, description="its state at work; null: the busiest one")
    parasitic: bool = Field(False, description="came along on a board module; nobody chose it")
    supply_min_v: Volt | None = Field(None, description="least supply at which it works [V]")
    supply_recommended_max_v: Volt | None = Field(None, description="highest supply it is made for [V]")
    supply_absolute_max_v: Volt | None = Field(None, description="absolute maximum supply [V]")
    droop_max: Annotated[float, Field(ge=1e-4, lt=1)] | None = Field(
        None, description="how far its supply may droop in a load transient before it shows or is heard, as a share"
    )
    switchable: bool = Field(True, description="can be put to rest or cut off by itself: a command, an enable pin")
    analogue: bool = Field(False, description="what is read is its resistance: a ladder, a thermistor")
    plugged_by_user: bool = Field(False, description="the user plugs it in, also while the gadget runs")
    inside_share: Share | None = Field(
        None,
        description="of its power, what stays in it as heat; the rest leaves as light, radio, work or into a speaker. null: usual for its kind",
    )
    outside: bool = Field(
        False,
        description="hangs outside the case, on a wire or on the lid: no room inside, only its way through the wall",
    )
    way: Slug | None = Field(
        None, description="the part by which the wire of what hangs outside goes through the wall: a gland, a connector"
    )
    peak: Peak | None = None
    bursts: Annotated[list[BurstShape], Field(max_length=8)] = []
    wakes: Annotated[list[WakeSource], Field(max_length=24)] = Field([], description="controllers only")
    pins: Annotated[list[Pin], Field(max_length=256)] = Field([], description="of a controller or its board")
    needs: Annotated[list[Need], Field(max_length=32)] = Field([], description="what it needs of a controller's pins")
    divider: Divider | None = None
    regulator: OwnRegulator | None = Field(
        None, description="of a board: what it makes its own voltage with; null: none, or not known"
    )
    mcd_per_ma: Annotated[float, Field(ge=1e-3, le=10000)] | None = Field(
        None, description="LEDs: luminous intensity per current [mcd/mA]"
    )
    rated_a: Annotated[float, Field(ge=1e-6, le=100)] | None = Field(
        None, description="the most lasting current of each that it is made for, as of an LED [A]; null: not given"
    )
    flyback: bool | None = Field(
        None,
        description="motors, relays, coils: a diode or a driver takes their kick when they are switched off; null: not known",
    )
    mass_g: Gram = Field(0, description="mass of each [g]")
    cost: Money = Field(0, description="cost of each")
    body: Body | None = Field(None, description="room of each of them")
    grid: Grid | None = Field(None, description="how several copies lie; null: in rows, as square as they go")
    note: Text = ""
    origin: Origin | None = None
    alternatives: Annotated[list[Part], Field(max_length=4)] = Field(
        [], description="other parts that could be in its place, kept beside it; they draw nothing"
    )

    @property
    def burns_outside(self) -> bool:
        """What it burns does not warm the case."""
        return self.plugged_by_user or self.outside

    @model_validator(mode="after")
    def alternatives_have_none(self) -> Part:
        if any(x.alternatives for x in self.alternatives):
            raise ValueError("what is kept beside a part has nothing beside it in turn")
        names = [self.name, *(x.name for x in self.alternatives)]
        if twice := [n for n, k in Counter(names).items() if k > 1]:
            raise ValueError(f"{twice[0]!r} is beside itself: each part is there once")
        return self

    @model_validator(mode="after")
    def working_is_a_state(self) -> Part:
        if self.working is not None and self.working not in {s.name for s in self.states}:
            raise ValueError(f"its state at work, {self.working!r}, is none of its states")
        return self

    @model_validator(mode="after")
    def names_once(self) -> Part:
        for names, what in (([p.name for p in self.pins], "pin"), ([n.name for n in self.needs], "signal")):
            if twice := [n for n, k in Counter(names).items() if k > 1]:
                raise ValueError(f"the {what} {twice[0]!r} is named twice")
        return self

    @model_validator(mode="after")
    def supply_window(self) -> Part:
        if self.supply_min_v and self.supply_absolute_max_v and self.supply_min_v >= self.supply_absolute_max_v:
            raise ValueError("the least supply is not below the absolute maximum")
        high = self.supply_recommended_max_v
        if high and ((self.supply_min_v or 0) > high or high > (self.supply_absolute_max_v or 100)):
            raise ValueError("the highest supply is not between the least supply and the absolute maximum")
        return self


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
    goal_h: Annotated[float, Field(ge=1e-4, le=24 * 366 * 30)] | None = Field(
        None,
        description="how long it has to last in this mode alone, from full, as in playing for six hours [h]; null: no goal",
    )
    uses: Annotated[list[Use], Field(max_length=1000)] = []
    off_stages: Annotated[list[Slug], Field(max_length=64)] = Field([], description="stages switched off meanwhile")
    plugged: Annotated[list[Slug], Field(max_length=8)] = Field(
        [], description="sources that are there beside the battery"
    )
    switched_off: bool = Field(False, description="the user has switched the gadget off; what it draws then is drain")
    woken_by: Annotated[list[WakeBy], Field(max_length=5)] = Field([], description="what has to end this mode")
    wake_pins: Annotated[int, Field(ge=0, le=200)] = Field(0, description="on how many pins")
