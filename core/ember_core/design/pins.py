"""Pins of a controller with what they can do, and what a part needs of them."""

from __future__ import annotations

import re
from typing import Annotated, Literal

from pydantic import Field, StringConstraints, field_validator, model_validator

from .basics import Ampere, Model, Slug, Volt

PinWork = Literal["in", "out", "analogue", "pulse", "touch", "wire", "i2c", "spi", "uart", "i2s", "usb"]
BUS_LINES: dict[str, tuple[str, ...]] = {
    "i2c": ("sda", "scl"),
    "spi": ("clock", "out", "in"),
    "uart": ("send", "receive"),
    "i2s": ("clock", "word", "data"),
    "usb": ("plus", "minus"),
}
SHARED = ("i2c", "spi")  # buses with more than one part on them
ABLE = re.compile(
    r"^(in|out|analogue|pulse|touch|wake|(i2c|spi|uart|i2s|usb)\d?(\.(sda|scl|clock|out|in|send|receive|word|data|plus|minus))?)$"
)
Ability = Annotated[str, StringConstraints(pattern=ABLE.pattern)]
PinName = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=24)]


class Pin(Model):
    """One pin. `can` names what it can be: in, out, analogue, pulse, touch, wake (it wakes the controller from its deepest sleep that keeps its day), or a
    bus by its number and line: "i2c0.sda"; without a line any of them, without a number the first."""

    name: PinName
    can: Annotated[list[Ability], Field(min_length=1, max_length=40)]
    pull: bool = Field(False, description="has a pull resistor of its own that can be switched on")
    start_up: bool = Field(False, description="read when it starts, or taken for programming")
    most_v: Volt | None = Field(None, description="the most that it stands [V]; null: 0.3 V above its supply")
    most_a: Ampere | None = Field(None, description="the most that it gives or takes [A]; null: not known")

    @property
    def buses(self) -> set[tuple[str, int, str]]:
        """(kind, number, line) of each line of a bus that it can be."""
        found = set()
        for one in self.can:
            bus, _, line = one.partition(".")
            kind = bus.rstrip("0123456789")
            if kind in BUS_LINES:
                number = int(bus[len(kind) :] or 0)
                found |= {(kind, number, x) for x in BUS_LINES[kind] if line in ("", x)}
        return found

    @field_validator("can")
    @classmethod
    def lines_of_their_bus(cls, can: list[str]) -> list[str]:
        for one in can:
            bus, _, line = one.partition(".")
            if line and line not in BUS_LINES[bus.rstrip("0123456789")]:
                raise ValueError(f"{one!r}: that bus has the lines {', '.join(BUS_LINES[bus.rstrip('0123456789')])}")
        return can


class Need(Model):
    """A signal, or a bus, between a part and the controller; the direction as the controller has it."""

    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=40)]
    work: PinWork = Field(description='"wire": a line that is driven and read, as of one-wire parts')
    count: Annotated[int, Field(ge=1, le=64)] = Field(1, description="as many alike, as the keys of a row")
    at: Slug | None = Field(None, description="the part at whose pins it is, as a port expander; null: the controller")
    wakes: bool = Field(False, description="it wakes the controller")
    pulled: bool = Field(False, description="needs a pull resistor")
    addresses: Annotated[list[Annotated[int, Field(ge=0, le=1023)]], Field(max_length=16)] = Field(
        [], description="of I2C: where it answers; more than one: it can be set"
    )
    alone: bool = Field(False, description="wants its bus for itself")
    level_v: Volt | None = Field(None, description="what a one is on its wires [V]; null: its rail")
    current_a: Ampere | None = Field(None, description="what it draws from the pin [A]; null: next to nothing")

    @model_validator(mode="after")
    def of_its_kind(self) -> Need:
        bus = self.work in BUS_LINES
        if self.addresses and self.work != "i2c":
            raise ValueError("only on an I2C bus a part has addresses")
        if bus and (self.count != 1 or self.wakes):
            raise ValueError("a bus is one; what wakes over it is a signal of its own")
        if self.alone and self.work not in SHARED:
            raise ValueError("only I2C and SPI are shared")
        if self.wakes and self.work not in ("in", "touch", "wire"):
            raise ValueError("only what the controller reads can wake it")
        return self


class PickedPin(Model):
    """A pin that the maker chose: for a signal ("display/reset"), or a line of a bus ("i2c0/sda")."""

    signal: Annotated[str, StringConstraints(pattern=r"^[^/]{1,80}(/[^/]{1,60}){1,3}$")]
    pin: PinName


class Wiring(Model):
    controller: Slug | None = Field(None, description="the part whose pins they are; null: the first that has some")
    picked: Annotated[list[PickedPin], Field(max_length=256)] = []
