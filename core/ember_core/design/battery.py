"""Where it comes from: cells, packs and their charger."""

from __future__ import annotations

from datetime import date
from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field, StringConstraints, field_validator, model_validator

from .basics import Ampere, AmpereHour, Body, Gram, Model, Money, Ohm, Second, SeriesOhm, Share, Size, Slug, Title, Volt

Chemistry = Literal[
    "lithium-ion", "lithium-iron-phosphate", "nickel-metal-hydride", "alkaline", "lithium-coin", "lithium-manganese",
    "lithium-iron-disulfide", "lithium-thionyl", "super-capacitor", "alkaline-block", "silver-oxide", "zinc-air", "lead-acid", "lithium-titanate",
]  # fmt: skip
Form = Literal["pouch", "cylinder", "coin", "box"]
Condition = Literal["new", "salvaged"]
Amperes = Annotated[float, Field(ge=1e-4, le=100)]


class ColdMeasurement(Model):
    """What a discharge in the cold told of a cell that was measured at 25 degC: factors on its resistance and its capacity there."""

    temperature_c: Annotated[float, Field(ge=-60, le=15)]
    current_a: Annotated[float, Field(ge=1e-7, le=1000)]
    resistance_factor: Annotated[float, Field(ge=1, le=1000)]
    capacity_left: Annotated[float, Field(ge=0.01, le=1)]


class CellCurve(Model):
    """A cell's own curves, from measured discharges: over the state of charge, 0 to 1 upwards, at 25 degC.

    The open-circuit voltage [V] and the resistance as a steady, small current sees it [ohm]; of that, `r0_ohm` at most is
    there within seconds, the rest follows the mean current (null: all of it is fast).
    """

    soc: Annotated[list[Share], Field(min_length=2, max_length=400)]
    open_circuit_v: Annotated[list[Volt], Field(min_length=2, max_length=400)]
    resistance_ohm: Annotated[list[SeriesOhm], Field(min_length=2, max_length=400)]
    r0_ohm: SeriesOhm | None = None
    unavailable_h: Annotated[float, Field(ge=0, le=100)] = Field(
        0, description="charge that stays inside per ampere of mean current, at the cut-off [A h / A]"
    )

    unavailable_rise: Annotated[float, Field(ge=0, le=1000)] = Field(
        0, description="by how much that grows per ampere [h / A], where a third discharge told"
    )
    transfer_ohm: SeriesOhm = Field(
        0,
        description="what of the fast resistance is charge transfer, at small currents: it drops less at large ones; where a third discharge told [ohm]",
    )
    measured_a: Annotated[list[Annotated[float, Field(ge=1e-7, le=1000)]], Field(max_length=8)] = Field(
        [], description="steady currents of the discharges behind it, of one cell [A]; empty: not known"
    )
    cold: ColdMeasurement | None = Field(None, description="a discharge in the cold; null: as typical cells")

    @model_validator(mode="after")
    def one_length(self) -> CellCurve:
        if not len(self.soc) == len(self.open_circuit_v) == len(self.resistance_ohm):
            raise ValueError("its lists are not of one length")
        if any(b <= a for a, b in pairwise(self.soc)):
            raise ValueError("its states of charge do not go upwards")
        if self.soc[0] > 0.02 or self.soc[-1] < 0.98:
            raise ValueError("its states of charge do not go from 0 to 1")
        return self


class Bank(Model):
    """What makes a cell a power bank: a converter to a fixed output, which switches itself off without a load."""

    cell_v: Volt = Field(3.7, description="the voltage at which its capacity is printed [V]")
    output_v: Volt = 5.0
    efficiency: Annotated[float, Field(ge=0.01, le=1)] = Field(0.85, description="of its converter, at the usual load")
    idle_a: Ampere = Field(0.005, description="what its converter takes for itself while it is on, at the output [A]")
    auto_shutoff_a: Ampere = Field(0.06, description="switches itself off below this load [A]; 0: never")
    off_after_s: Second = Field(30, description="after so long below it [s]")


class CellCheck(Model):
    """What this very cell held, and how it resisted, on a day."""

    date: Annotated[str, StringConstraints(pattern=r"^\d{4}-\d{2}-\d{2}$")]
    capacity_ah: Annotated[float, Field(ge=1e-7, le=1000)] | None = Field(None, description="null: not measured [A h]")
    resistance_ohm: Annotated[float, Field(ge=1e-6, le=1000)] | None = Field(
        None, description="null: not measured [ohm]"
    )
    how: Annotated[str, StringConstraints(max_length=120)] = ""

    @field_validator("date")
    @classmethod
    def is_a_day(cls, text: str) -> str:
        try:
            date.fromisoformat(text)
        except ValueError:
            raise ValueError("is no day of the calendar") from None
        return text


class Cell(Model):
    name: Title
    chemistry: Chemistry
    form: Form
    capacity_ah: AmpereHour = Field(description="printed capacity [A h]")
    resistance_ohm: SeriesOhm = Field(description="at half charge and 25 degC [ohm]")
    cutoff_v: Volt
    discharge_max_a: Annotated[float, Field(ge=1e-6, le=1000)]
    charge_max_a: Annotated[float, Field(ge=1e-6, le=1000)] | None = Field(None, description="null: not given")
    size_mm: Size
    mass_g: Gram
    cost: Money = 0
    full_v: Annotated[float, Field(ge=0.5, le=5)] | None = Field(
        None, description="voltage up to which it may be charged [V]; null: its chemistry's usual one"
    )
    built_for: Literal["energy", "power"] = Field(
        "power",
        description="lithium-ion without curves of its own: thick electrodes hold more, and give less above half the capacity an hour",
    )
    curve: CellCurve | None = Field(None, description="measured; null: the chemistry's typical curves")
    bank: Bank | None = Field(None, description="power banks: voltages and resistance are then those of its output")
    condition: Condition = "new"
    measured_ah: Annotated[float, Field(ge=1e-7, le=1000)] | None = Field(
        None, description="measured capacity, for used cells [A h]"
    )
    measured_ohm: Annotated[float, Field(ge=1e-6, le=1000)] | None = Field(
        None, description="measured resistance [ohm]"
    )
    checks: Annotated[list[CellCheck], Field(max_length=100)] = Field(
        [], description="of this very cell, so that its ageing can be watched"
    )

    @model_validator(mode="after")
    def bank_has_no_curve(self) -> Cell:
        if self.bank is not None and self.curve is not None:
            raise ValueError("a power bank has no curve of its own: its output is regulated")
        return self


class Protection(Model):
    """A circuit at the cells that cuts them off, and a fuse."""

    cut_v_per_cell: Annotated[float, Field(ge=0.1, le=5)] = Field(2.5, description="cuts off below this [V]")
    overcurrent_a: Annotated[float, Field(ge=1e-3, le=1000)] = Field(
        3.0, description="of the pack: trips above this [A]"
    )
    wakes_by_charger: bool = Field(False, description="once cut off, only a charger switches it on again")
    ohm: SeriesOhm = Field(0.05, description="its switches [ohm]")
    own_a: Ampere = Field(
        3e-6,
        description="what the circuit draws from the cells all the time [A]; 0 where a stage or the charger that carries it counts it",
    )
    fuse_a: Amperes | None = Field(None, description="a fuse or a resettable one in the lead [A]; null: none")
    against_reversal: bool = Field(False, description="stands cells put in the wrong way round")


class Battery(Model):
    cell: Cell
    series: Annotated[int, Field(ge=1, le=24)] = 1
    parallel: Annotated[int, Field(ge=1, le=24)] = 1
    mixed: bool = Field(False, description="cells of different kinds, makes or ages together")
    spread: Annotated[float, Field(ge=0, le=0.5)] | None = Field(
        None, description="of the cells' capacity, one standard deviation as a share; null: the chemistry's usual one"
    )
    age_years: Annotated[float, Field(ge=0, le=40)] = Field(
        0, description="since it was made, or since it was measured [years]"
    )
    cycles: Annotated[float, Field(ge=0, le=20000)] = Field(0, description="full charges since then")
    joined_v: Annotated[float, Field(ge=0, le=5)] | None = Field(
        None,
        description="by how much the cells' voltages differ when they are joined side by side [V]; null: not known",
    )
    wiring_ohm: SeriesOhm = Field(0.03, description="holder, leads and connector [ohm]")
    protection: Protection | None = None
    body: Body | None = Field(None, description="the whole pack, swelling not included")
    swelling: Share = Field(0.1, description="share of a pouch's thickness kept free for swelling")


PortKind = Literal["usb", "type-c", "adapter", "power-bank", "bench-supply", "wireless", "solar"]


class Panel(Model):
    """A small solar panel and where it hangs; what it gives over a day comes from a table of clear and cloudy days."""

    peak_w: Annotated[float, Field(ge=1e-3, le=500)] = Field(description="in full sun, square to it [W]")
    area_cm2: Annotated[float, Field(ge=0.1, le=1e5)] = Field(100, description="of its cells [cm2]")
    latitude_deg: Annotated[float, Field(ge=-90, le=90)] = 50
    month: Annotated[int, Field(ge=1, le=12)] = Field(12, description="the month that has to be enough")
    tilt_deg: Annotated[float, Field(ge=0, le=90)] = Field(45, description="from lying flat, towards the equator")


class Port(Model):
    """Where the charger's power comes from."""

    kind: PortKind = "usb"
    gives_a: Amperes = Field(0.5, description="most that it gives [A]")
    resistors: bool = Field(
        True, description="type-C sockets: the two 5.1 kohm resistors that ask a cable for power are there"
    )
    panel: Panel | None = Field(None, description="solar only")


class Charger(Model):
    """What refills the pack: constant current, then constant voltage, or for nickel cells a constant current that ends by itself.

    It holds `float_v_per_cell` times `cells_in_series` at its terminals, whatever the pack behind it is. Its current is set by one
    resistor, or it is `fixed_a`.
    """

    name: Title
    method: Literal["cc-cv", "delta-v", "timer"] = Field(
        "cc-cv", description="how it ends; the last two are for nickel cells"
    )
    topology: Literal["linear", "switching"] = "linear"
    efficiency: Annotated[float, Field(ge=0.01, le=1)] = Field(0.9, description="switching ones")
    port_v: Volt = 5.0
    input_max_v: Volt | None = Field(None, description="most that its input stands [V]; null: not given")
    port_limit_a: Annotated[float, Field(ge=1e-3, le=20)] = Field(
        0.5, description="most that it draws from its port [A]"
    )
    adapts_input: bool = Field(False, description="takes less where the voltage of its port gives way")
    port: Port | None = Field(None, description="where its power comes from; null: a port that gives what it draws")
    cells_in_series: Annotated[int, Field(ge=1, le=24)] = Field(1, description="the pack that it is made for")
    protects: bool = Field(False, description="carries a protection circuit for the cells")
    balances: bool = Field(False, description="keeps cells in series at one voltage")
    float_v_per_cell: Annotated[float, Field(ge=0.1, le=5)] = Field(4.2, description="float voltage of each cell [V]")
    float_tolerance: Annotated[float, Field(ge=0, le=0.1)] = Field(
        0.005, description="of the float voltage, as a share"
    )
    mode: Slug | None = Field(None, description="the mode in which it charges; null: the resting mode")
    fixed_a: Amperes | None = Field(None, description="current that no resistor sets [A]; null: the resistor does")
    steps_a: Annotated[list[Amperes], Field(max_length=16)] = Field(
        [], description="currents that can be chosen instead [A]"
    )
    program_constant_v: Annotated[float, Field(ge=1e-3, le=1e5)] = Field(
        1000, description="I = program_constant_v / resistor"
    )
    program_ohm: Ohm = Field(1000, description="the resistor that sets the current [ohm]")
    program_min_ohm: Ohm | None = Field(None, description="least and most that it may be [ohm]; null: not given")
    program_max_ohm: Ohm | None = None
    precharge_v_per_cell: Annotated[float, Field(ge=0.1, le=5)] | None = Field(
        None, description="below this it charges gently [V]; null: never"
    )
    precharge_share: Annotated[float, Field(ge=1e-3, le=1)] = Field(0.1, description="of the set current, meanwhile")
    termination_share: Annotated[float, Field(ge=1e-3, lt=1)] = Field(0.1, description="share of the set current")
    recharge_v_per_cell: Annotated[float, Field(ge=0.1, le=5)] | None = Field(
        None, description="begins anew below this [V]; null: only when plugged in again"
    )
    timer_h: Annotated[float, Field(ge=0.01, le=1000)] | None = Field(
        None, description="gives up after so long [h]; null: never"
    )
    temperature_sensor: bool = Field(False, description="stops outside 0 to 45 degC by a sensor on the cell")
    foldback_c: Annotated[float, Field(ge=40, le=200)] | None = Field(
        120, description="junction at which it folds its current back [degC]; null: it does not"
    )
    leakage_a: Ampere = Field(0, description="what it takes out of the cell when unplugged [A]")
    lamp_a: Ampere = Field(0, description="its status LED, while it charges [A]")
    lamp_from_cell: bool = Field(False, description="the LED stays on from the cell when unplugged")
    power_path: bool = Field(False, description="feeds the gadget from the port beside the cell")
    system_v: Volt | None = Field(
        None, description="power path: what the gadget gets while it is plugged in [V]; null: the port's voltage"
    )
    outside: bool = Field(False, description="sits outside the case: it heats nothing inside and needs no room")
    cuts_load: bool = Field(False, description="the gadget has no supply while it charges")
    rth_ja_c_per_w: Annotated[float, Field(ge=1e-3, le=1000)] = Field(70, description="junction to air [degC/W]")
    mass_g: Gram = 0
    cost: Money = 0
    body: Body | None = None

    @property
    def set_a(self) -> float:
        """The current that is set [A]: by its resistor, or its own."""
        return self.program_constant_v / self.program_ohm if self.fixed_a is None else self.fixed_a

    @property
    def unplugged_a(self) -> float:
        """What it takes out of the cell while it is unplugged [A]."""
        return self.leakage_a + (self.lamp_a if self.lamp_from_cell else 0.0)

    @property
    def source_a(self) -> float:
        """Most that it can draw from what feeds it [A]; nothing through a type-C socket without its resistors; of a panel what that gives
        in full sun."""
        if self.port is None:
            return self.port_limit_a
        if self.port.kind == "type-c" and not self.port.resistors:
            return 0.0
        if self.panel is not None:
            return min(self.port_limit_a, self.panel.peak_w / self.port_v)
        return min(self.port_limit_a, self.port.gives_a)

    @property
    def panel(self) -> Panel | None:
        """The solar panel that feeds it; None where something else does."""
        return self.port.panel if self.port is not None and self.port.kind == "solar" else None

    @property
    def gadget_v(self) -> float:
        """What it puts on the gadget while it is plugged in [V]: the float voltage of the cell, or what its power path passes on."""
        if not self.power_path:
            return self.float_v
        return self.port_v if self.system_v is None else self.system_v

    @property
    def float_v(self) -> float:
        """What it holds at its terminals [V]."""
        return self.float_v_per_cell * self.cells_in_series
