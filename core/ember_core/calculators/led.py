"""An LED's series resistor and its duty for a wanted brightness.

Luminous intensity is taken as proportional to the current, which holds to about 20 % below the rated current; fast
pulses look as bright as their mean (Talbot–Plateau converter model).
"""

from __future__ import annotations

from pydantic import Field, model_validator

from ..design import Model
from ..figures import Figure, figure, record
from ..quantities.preferred import next_e24
from ..words import Fact, called, say

SOURCE = "I = (V − Vf) ÷ R; intensity proportional to current; Talbot–Plateau law"
MODERN_MCD_PER_MA = 60.0  # an efficient indicator LED, typical


class LedTask(Model):
    rail_v: float = Field(ge=1e-3, le=100)
    lowest_v: float | None = Field(None, ge=1e-3, le=100, description="lowest rail voltage [V]; null: it does not fall")
    forward_v: float = Field(2.0, ge=1e-3, le=10)
    mcd_per_ma: float = Field(MODERN_MCD_PER_MA, ge=1e-6, le=10000)
    wanted_mcd: float = Field(20, ge=1e-6, le=1e6)
    current_max_a: float = Field(0.02, ge=1e-9, le=10)
    resistor_ohm: float | None = Field(
        None, ge=1e-3, le=1e9, description="one that is there already, to be dimmed by duty"
    )

    @model_validator(mode="after")
    def must_light(self) -> LedTask:
        if self.lowest_v is not None and self.lowest_v > self.rail_v:
            raise ValueError("the lowest rail voltage is above the rail's own")
        if self.forward_v >= (self.lowest_v or self.rail_v):
            raise ValueError("the rail does not reach the LED's forward voltage")
        return self


@record
class LedAnswer:
    resistor: Figure
    current: Figure
    duty: Figure
    mean: Figure
    intensity: Figure
    intensity_low: Figure
    old_style: Figure
    sentence: str


def design_lamp(task: LedTask) -> LedAnswer:
    """Resistor and duty for the wanted brightness: steady where no resistor is given, dimmed by duty otherwise.

    >>> design_lamp(LedTask(rail_v=3.3)).resistor.value
    3900.0
    """
    needed = task.wanted_mcd / task.mcd_per_ma / 1000
    lit = min(needed, task.current_max_a)
    ohm = task.resistor_ohm or next_e24((task.rail_v - task.forward_v) / lit)
    current = (task.rail_v - task.forward_v) / ohm
    duty = min(1.0, needed / current) if task.resistor_ohm else 1.0
    mean = current * duty
    bright = mean * 1000 * task.mcd_per_ma
    low_v = task.lowest_v or task.rail_v
    low = (low_v - task.forward_v) / ohm * duty * 1000 * task.mcd_per_ma
    told: dict[str, Fact] = {"ohm": (ohm, "Ω"), "bright": (bright, "mcd")}
    if needed > task.current_max_a:
        most = (task.current_max_a, "A")
        sentence = say("led.too-bright", wanted=(task.wanted_mcd, "mcd"), needed=(needed, "A"), most=most, **told)
    elif task.resistor_ohm and current * 1000 * task.mcd_per_ma < task.wanted_mcd * 0.99:
        sentence = say("led.too-dark", **told)
    else:
        sentence = say("led.gives", lit=(duty, "share") if duty < 1 else None, mean=(mean, "A"), **told)
    given: list[tuple[str, float | None, str]] = [
        (called("rail"), task.rail_v, "V"),
        (called("forward-voltage"), task.forward_v, "V"),
        (called("resistor"), ohm, "Ω"),
    ]
    return LedAnswer(
        resistor=figure("resistor", ohm, "Ω", [*given[:2], (called("current"), lit, "A")], "IEC 60063:2015"),
        current=figure("current-while-lit", current, "A", given, SOURCE),
        duty=figure("lit-for", duty * 100, "%", [(called("wanted"), task.wanted_mcd, "mcd")], SOURCE),
        mean=figure(
            "mean-current", mean, "A", [(called("current"), current, "A"), (called("duty"), duty, "share")], SOURCE
        ),
        intensity=figure(
            "brightness", bright, "mcd", [(called("intensity-per-current"), task.mcd_per_ma, "mcd/mA")], SOURCE
        ),
        intensity_low=figure(
            "brightness-at-the-lowest-rail", low, "mcd", [(called("lowest-rail"), low_v, "V")], SOURCE
        ),
        old_style=figure(
            "an-efficient-led-would-need",
            bright / MODERN_MCD_PER_MA / 1000,
            "A",
            [(called("brightness"), bright, "mcd")],
            "typical of efficient indicator LEDs",
        ),
        sentence=sentence,
    )
