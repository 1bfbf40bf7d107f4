"""A measuring divider: how well it measures, what it drains, what it does to a chip without power."""

from __future__ import annotations

import math

from pydantic import Field, model_validator

from ..design import Model
from ..figures import Figure, figure, record
from ..quantities.preferred import next_e24
from ..words import called, say

SOURCE = "Ohm's law and charge sharing between two capacitors"
CLAMP_V = 0.5  # an unpowered pin's protection diode conducts from about here
SAFE_PIN_A = 1e-6
SETTLED = 7.0  # time constants to 0.1 %


class DividerTask(Model):
    """What is measured, with what, and how much it may drain."""

    top_v: float = Field(ge=1e-3, le=100, description="highest voltage to be measured [V]")
    reference_v: float = Field(ge=1e-3, le=20, description="full scale of the converter [V]")
    bits: int = Field(12, ge=6, le=24)
    drain_max_a: float = Field(2e-6, ge=1e-12, le=1, description="what the divider may draw at the highest voltage [A]")
    tolerance: float = Field(0.01, ge=1e-6, le=0.2, description="of each resistor, 0..1")
    pin_leak_a: float = Field(5e-8, ge=0, le=1e-3, description="leakage into the pin [A]")
    sampler_f: float = Field(8e-12, ge=1e-15, le=1e-6, description="the converter's sampling capacitor [F]")
    every_s: float = Field(60, ge=1e-6, le=86400 * 31, description="time between two readings [s]")
    gate_s: float = Field(0.01, ge=1e-9, le=3600, description="if gated: connected this long for a reading [s]")

    @model_validator(mode="after")
    def must_divide(self) -> DividerTask:
        if self.reference_v >= self.top_v:
            raise ValueError("the highest voltage is within the converter's full scale: no divider is needed")
        return self


@record
class DividerAnswer:
    upper: Figure
    lower: Figure
    pin: Figure
    drain: Figure
    gated_drain: Figure
    error: Figure
    tolerance_error: Figure
    leak_error: Figure
    step_error: Figure
    hold: Figure
    settle: Figure
    unpowered: Figure
    sentence: str
    advice: list[str]


def pin_ohm(upper_ohm: float, lower_ohm: float) -> float:
    """The resistance that the pin sees [ohm].

    >>> pin_ohm(100e3, 100e3)
    50000.0
    """
    return upper_ohm * lower_ohm / (upper_ohm + lower_ohm)


def into_unpowered_pin_a(top_v: float, upper_ohm: float, lower_ohm: float) -> float:
    """Current into the protection diode of a pin without power [A].

    >>> f"{into_unpowered_pin_a(4.2, 100e3, 100e3):.3g}"
    '3.2e-05'
    """
    return max(0.0, (top_v - CLAMP_V) / upper_ohm - CLAMP_V / lower_ohm)


def design_divider(task: DividerTask) -> DividerAnswer:
    """Resistors of the E24 series for the drain allowed, the error that they bring, and what to mind.

    >>> design_divider(DividerTask(top_v=4.2, reference_v=2.5)).upper.value
    910000.0
    """
    total = task.top_v / task.drain_max_a
    lower = next_e24(total * task.reference_v / task.top_v * 0.97)
    upper = next_e24(lower * (task.top_v / task.reference_v - 1))
    share = lower / (upper + lower)
    seen = pin_ohm(upper, lower)
    drain = task.top_v / (upper + lower)
    by_tolerance = task.top_v * 2 * task.tolerance * (1 - share)
    by_leak = task.pin_leak_a * upper
    by_step = task.reference_v / 2**task.bits / share / 2
    error = math.sqrt(by_tolerance**2 + by_leak**2 + by_step**2)
    hold = task.sampler_f * 2 ** (task.bits + 1)
    settle = SETTLED * seen * hold
    unpowered = into_unpowered_pin_a(task.top_v, upper, lower)
    gated = drain * min(task.gate_s / task.every_s, 1.0)
    every = None if settle < task.every_s else (task.every_s, "s")
    advice = [say("divider.hold", hold=(hold, "F"), settle=(settle, "s"), every=every)]
    if unpowered > SAFE_PIN_A:
        advice.append(say("divider.unpowered", unpowered=(unpowered, "A")))
    if by_leak > by_tolerance:
        advice.append(say("divider.leaks"))
    measured: list[tuple[str, float | None, str]] = [
        (called("upper"), upper, "Ω"),
        (called("lower"), lower, "Ω"),
        (called("highest-voltage"), task.top_v, "V"),
    ]
    return DividerAnswer(
        upper=figure("upper-resistor", upper, "Ω", [(called("lower"), lower, "Ω")], "IEC 60063:2015"),
        lower=figure(
            "lower-resistor",
            lower,
            "Ω",
            [(called("drain-allowed"), task.drain_max_a, "A"), (called("full-scale"), task.reference_v, "V")],
            "IEC 60063:2015",
        ),
        pin=figure("most-at-the-pin", task.top_v * share, "V", measured, SOURCE),
        drain=figure("drain", drain, "A", measured, SOURCE),
        gated_drain=figure(
            "drain-if-gated",
            gated,
            "A",
            [
                (called("drain"), drain, "A"),
                (called("connected"), task.gate_s, "s"),
                (called("between-readings"), task.every_s, "s"),
            ],
            SOURCE,
        ),
        error=figure(
            "error-to-expect",
            error,
            "V",
            [
                (called("resistors"), by_tolerance, "V"),
                (called("leakage"), by_leak, "V"),
                (called("half-a-step"), by_step, "V"),
            ],
            "JCGM 100:2008, 5.1.2",
        ),
        tolerance_error=figure(
            "from-the-resistors",
            by_tolerance,
            "V",
            [(called("tolerance"), task.tolerance, "share"), (called("ratio"), share, "")],
            SOURCE,
        ),
        leak_error=figure(
            "from-the-pins-leakage",
            by_leak,
            "V",
            [(called("leakage"), task.pin_leak_a, "A"), (called("upper"), upper, "Ω")],
            SOURCE,
        ),
        step_error=figure("from-the-converters-steps", by_step, "V", [(called("bits"), float(task.bits), "")], SOURCE),
        hold=figure(
            "hold-capacitor",
            hold,
            "F",
            [(called("sampling-capacitor"), task.sampler_f, "F"), (called("bits"), float(task.bits), "")],
            SOURCE,
        ),
        settle=figure(
            "settles-in", settle, "s", [(called("upper-beside-lower"), seen, "Ω"), (called("hold"), hold, "F")], SOURCE
        ),
        unpowered=figure("into-a-pin-without-power", unpowered, "A", measured, SOURCE),
        sentence=say(
            "divider.reads",
            upper=(upper, "Ω"),
            lower=(lower, "Ω"),
            top=(task.top_v, "V"),
            pin=(task.top_v * share, "V"),
            drain=(drain, "A"),
            error=(error, "V"),
        ),
        advice=advice,
    )
