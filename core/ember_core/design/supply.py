"""How the power gets there: sources beside the battery, stages, rails.

Stages and rails name what feeds them: `battery`, a source or a stage. A stage that is switched off in a mode
stands in that mode's `off_stages`.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from .basics import Ampere, Body, Gram, Model, Money, Origin, SeriesOhm, Slug, Title, Volt

Limit = Annotated[float, Field(ge=1e-6, le=100, description="most output current [A]")]
SourceKind = Literal["usb", "power-bank", "adapter", "bench"]


class Source(Model):
    """A source beside the battery. It is there only in the modes that name it in `plugged`."""

    id: Slug
    name: Title
    kind: SourceKind = "usb"
    voltage_v: Volt = 5.0
    resistance_ohm: SeriesOhm = Field(0.2, description="cable and contacts [ohm]")
    limit_a: Limit = 0.5
    auto_shutoff_a: Ampere = Field(0, description="switches itself off below this load (power banks) [A]")


COPPER = 0.0175  # ohm mm2/m at 20 degC
FOIL_MM = 0.035  # of a usual board


class Lead(Model):
    """The wire or the trace to a stage or a rail, and the ground that goes back beside it."""

    length_mm: Annotated[float, Field(ge=0, le=2000)] = Field(60, description="one way [mm]")
    section_mm2: Annotated[float, Field(ge=0.001, le=20)] | None = Field(
        None, description="of a wire's copper [mm2]; null: it is a trace"
    )
    trace_mm: Annotated[float, Field(ge=0.05, le=100)] | None = Field(
        None, description="width of a trace of 35 µm copper [mm]; null: it is a wire"
    )
    contact_ohm: SeriesOhm = Field(0.01, description="connectors and joints, both ways together [ohm]")
    rated_a: Annotated[float, Field(ge=1e-3, le=200)] | None = Field(
        None, description="the most that its connector is made for [A]; null: not given, or none"
    )
    ground_apart: bool = Field(
        True, description="each part on a rail has its ground wire from there for itself; false: they share one"
    )

    @model_validator(mode="after")
    def wire_or_trace(self) -> Lead:
        if (self.section_mm2 is None) == (self.trace_mm is None):
            raise ValueError("it is a wire with a section, or a trace with a width: one of them")
        return self

    @property
    def copper_mm2(self) -> float:
        return self.section_mm2 if self.section_mm2 is not None else (self.trace_mm or 0.0) * FOIL_MM

    @property
    def one_way_ohm(self) -> float:
        """Of its copper one way, without its contacts [ohm]."""
        return COPPER * self.length_mm / 1000 / self.copper_mm2

    @property
    def ohm(self) -> float:
        """There and back, with its contacts [ohm]."""
        return 2 * self.one_way_ohm + self.contact_ohm


class StageBase(Model):
    id: Slug
    name: Title
    input: Slug = Field(description="'battery', or the id of a source or of another stage")
    enable: bool = Field(True, description="can be switched off: has an enable input, or is a switch")
    input_max_v: Volt | None = Field(None, description="most that its input stands [V]; null: not given")
    shutdown_a: Ampere = Field(0, description="taken from the input while switched off [A]")
    limit_a: Limit
    rth_ja_c_per_w: Annotated[float, Field(ge=1e-3, le=1000)] | None = Field(
        None, description="junction to air [degC/W]"
    )
    junction_max_c: Annotated[float, Field(ge=40, le=250)] = 125
    mass_g: Gram = 0
    cost: Money = 0
    body: Body | None = None
    lead: Lead | None = Field(None, description="the wire to its input; null: not counted")
    origin: Origin | None = None


class LinearStage(StageBase):
    """Vout = min(Vset, Vin - dropout(Iout)); Iin = Iout (1 + ground share) + quiescent."""

    type: Literal["linear"] = "linear"
    output_v: Volt
    dropout_v: Annotated[float, Field(ge=0, le=5)] = Field(description="dropout [V] at `dropout_at_a`")
    dropout_at_a: Annotated[float, Field(ge=1e-6, le=100)]
    quiescent_a: Ampere
    ground_share: Annotated[float, Field(ge=0, le=0.2)] = 0
    input_min_v: Volt | None = Field(None, description="does not work below this input [V]; null: not given")

    @model_validator(mode="after")
    def input_window(self) -> LinearStage:
        if self.input_max_v is not None and self.output_v > self.input_max_v:
            raise ValueError("the output voltage is above the most that the input stands")
        if self.input_max_v is not None and (self.input_min_v or 0) >= self.input_max_v:
            raise ValueError("the most that the input stands is not above the least that it needs")
        return self


class EfficiencyPoint(Model):
    current_a: Annotated[float, Field(ge=1e-9, le=100)]
    efficiency: Annotated[float, Field(ge=1e-4, lt=1)]
    input_v: Volt


Topology = Literal["buck", "boost", "buck-boost", "inverting"]


class SwitchingStage(StageBase):
    """Its loss over the current in its coil and the voltage that it switches, fitted to the efficiency points. Inverting: `output_v` is its size."""

    type: Literal["switching"] = "switching"
    topology: Topology
    output_v: Volt
    points: Annotated[list[EfficiencyPoint], Field(min_length=1, max_length=64)]
    quiescent_a: Ampere
    input_limit_a: Annotated[float, Field(ge=1e-6, le=100)] | None = None
    undervoltage_lockout_v: Volt = Field(description="stops below this input [V]")
    start_up_v: Volt | None = Field(None, description="does not start below this input [V]")
    dropout_v: Annotated[float, Field(ge=0, le=5)] | None = Field(
        None,
        description="of a buck: what it drops at full duty and its limit, once its input is too low [V]; null: what such usually do",
    )
    load_disconnect: bool = Field(
        True, description="switched off, its output is cut; otherwise input less a diode passes"
    )

    @model_validator(mode="after")
    def limits_agree(self) -> SwitchingStage:
        if self.start_up_v is not None and self.start_up_v < self.undervoltage_lockout_v:
            raise ValueError("it starts below the input at which it stops")
        if self.input_max_v is not None and self.input_max_v <= self.undervoltage_lockout_v:
            raise ValueError("the most that the input stands is not above the input at which it stops")
        if self.topology == "buck" and self.input_max_v is not None and self.output_v > self.input_max_v:
            raise ValueError("a buck cannot give more than its input, and the output voltage is above its most input")
        return self


class PassStage(StageBase):
    """Anything that is a small resistance in the way: Vout = Vin - R Iout."""

    type: Literal["pass"] = "pass"
    role: Literal["switch", "load switch", "protection", "fuse", "wire", "board input"] = "switch"
    resistance_ohm: SeriesOhm
    leakage_a: Ampere = 0
    protects: bool = Field(False, description="carries a protection circuit for the cells too")


class DiodeStage(StageBase):
    """Vout = Vin - Vf - R Iout; an ideal-diode circuit has a small Vf and a quiescent current."""

    type: Literal["diode"] = "diode"
    enable: Literal[False] = False
    forward_v: Annotated[float, Field(ge=0, le=5)]
    resistance_ohm: SeriesOhm = 0
    quiescent_a: Ampere = 0
    reverse_a: Ampere = Field(0, description="what it lets through backwards, warm, at its most [A]")


class PowerOrStage(StageBase):
    """Two inputs, of which the higher one feeds the output: two diodes, or a power path."""

    type: Literal["power-or"] = "power-or"
    enable: Literal[False] = False
    other: Slug = Field(description="the second input")
    forward_v: Annotated[float, Field(ge=0, le=5)] = 0
    resistance_ohm: SeriesOhm = 0
    quiescent_a: Ampere = 0
    reverse_a: Ampere = Field(
        0, description="what it lets through backwards into the lower input, warm, at its most [A]"
    )


class ChargePumpStage(StageBase):
    """Vout = min(n Vin - R Iout, setting); Iin = n Iout + Iq. Inverting: the output is the size of a negative voltage."""

    type: Literal["charge-pump"] = "charge-pump"
    ratio: Annotated[float, Field(ge=0.01, le=8)] = Field(description="n: 2 doubles, 0.5 halves, 1 inverts")
    inverting: bool = False
    output_v: Volt | None = Field(None, description="regulated to this; null: follows its input")
    resistance_ohm: SeriesOhm = Field(description="output resistance [ohm]")
    quiescent_a: Ampere


class ShuntRegulatorStage(StageBase):
    """A resistor and a clamp to ground: Vout = min(Vz, Vin - R Iout), Iin = (Vin - Vout) / R all the time."""

    type: Literal["shunt-regulator"] = "shunt-regulator"
    enable: Literal[False] = False
    output_v: Volt
    resistance_ohm: Annotated[float, Field(ge=1e-6, le=1e7)]


Stage = Annotated[
    LinearStage | SwitchingStage | PassStage | DiodeStage | PowerOrStage | ChargePumpStage | ShuntRegulatorStage,
    Field(discriminator="type"),
]


class Capacitor(Model):
    """A bulk capacitor on a rail."""

    farad: Annotated[float, Field(ge=1e-12, le=100)]
    esr_ohm: SeriesOhm = 0.05
    leakage_a: Ampere = 0
    rated_v: Volt | None = Field(None, description="the voltage that it is rated for [V]; null: not given")


class Rail(Model):
    id: Slug
    name: Title
    feed: Slug = Field(description="'battery', or the id of the source or stage that makes this rail")
    capacitor: Capacitor | None = None
    lead: Lead | None = Field(None, description="the wire to the parts on it; null: not counted")


class Supply(Model):
    sources: Annotated[list[Source], Field(max_length=8)] = []
    stages: Annotated[list[Stage], Field(max_length=64)] = []
    rails: Annotated[list[Rail], Field(min_length=1, max_length=64)]
