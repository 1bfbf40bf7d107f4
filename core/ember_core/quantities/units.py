"""The dimensions, their units and the range that each is taken in: one table for the core and the interface."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

Dimension = Literal[
    "current",
    "voltage",
    "power",
    "resistance",
    "charge",
    "time",
    "length",
    "mass",
    "temperature",
    "share",
    "cost",
    "capacitance",
    "intensity",
    "clock",
    "rate",
    "count",
    "number",
    "thermal",
    "angle",
    "area",
]


class QuantityError(ValueError):
    """The text can't be read as the wanted quantity, or is doubtful. The message is a sentence for the person who typed
    it; `choices` are texts that would be understood."""

    def __init__(self, message: str, choices: Sequence[str] = ()) -> None:
        super().__init__(message)
        self.choices = list(choices)


PREFIXES = {"p": 1e-12, "n": 1e-9, "u": 1e-6, "µ": 1e-6, "μ": 1e-6, "m": 1e-3, "": 1.0, "k": 1e3, "M": 1e6}
TIMES = {
    "ms": 1e-3, "s": 1, "sec": 1, "secs": 1, "second": 1, "seconds": 1, "min": 60, "mins": 60, "minute": 60, "minutes": 60, "h": 3600,
    "hr": 3600, "hour": 3600, "hours": 3600, "d": 86400, "day": 86400, "days": 86400, "week": 604800, "weeks": 604800,
    "month": 2629800, "months": 2629800, "year": 31557600, "years": 31557600, "us": 1e-6, "µs": 1e-6,
}  # fmt: skip


PER = {"min": 1440.0, "minute": 1440.0, "h": 24.0, "hour": 24.0, "d": 1.0, "day": 1.0, "week": 1 / 7, "month": 86400 / 2629800,
        "year": 86400 / 31557600}  # fmt: skip
TIMES_A_DAY = {
    f"{before}{unit}": scale for unit, scale in PER.items() for before in ("/", "per ", "a ", "an ", "times a ", "× a ")
}


def prefixed(symbols: tuple[str, ...]) -> dict[str, float]:
    """What each symbol with each prefix is in the unit itself.

    >>> prefixed(("A",))["mA"]
    0.001
    """
    return {prefix + symbol: scale for symbol in symbols for prefix, scale in PREFIXES.items()}


@dataclass(frozen=True)
class Kind:
    name: str
    base: str
    units: dict[str, float]
    example: str


KINDS: dict[Dimension, Kind] = {
    "current": Kind("a current", "A", prefixed(("A", "a", "amp")), "12 mA"),
    "voltage": Kind("a voltage", "V", prefixed(("V", "v")), "3.3 V"),
    "power": Kind("a power", "W", prefixed(("W",)), "150 mW"),
    "resistance": Kind("a resistance", "Ω", {**prefixed(("Ω", "Ω", "ohm", "Ohm", "R")), "k": 1e3, "M": 1e6}, "2.2 kΩ"),
    "charge": Kind("a charge", "Ah", prefixed(("Ah", "ah", "A·h")), "600 mAh"),
    "time": Kind("a time", "s", {k: float(v) for k, v in TIMES.items()}, "10 min"),
    "length": Kind("a length", "mm", {"mm": 1.0, "cm": 10.0, "m": 1000.0, "µm": 1e-3, "um": 1e-3}, "12.5 mm"),
    "mass": Kind("a mass", "g", {"g": 1.0, "kg": 1000.0, "mg": 1e-3}, "8 g"),
    "temperature": Kind(
        "a temperature", "°C", {"°C": 1.0, "C": 1.0, "degC": 1.0, "°F": 5 / 9, "F": 5 / 9, "degF": 5 / 9}, "-10 °C"
    ),
    "share": Kind("a share", "", {"": 1.0, "%": 0.01}, "30 %"),
    "capacitance": Kind("a capacitance", "F", prefixed(("F",)), "100 µF"),
    "intensity": Kind("a luminous intensity", "mcd", {"mcd": 1.0, "cd": 1000.0}, "20 mcd"),
    "clock": Kind("a time of day", "h", {"": 1.0, "h": 1.0, "am": 1.0, "pm": 1.0}, "19:30"),
    "rate": Kind("how often a day", "a day", {"": 1.0, "x": 1.0, "×": 1.0, **TIMES_A_DAY}, "15/day"),
    "count": Kind("a whole number", "", {"": 1.0, "x": 1.0, "×": 1.0}, "3"),
    "number": Kind("a number", "", {"": 1.0, "x": 1.0, "×": 1.0}, "1.5"),
    "thermal": Kind("a thermal resistance", "°C/W", {"": 1.0, "°C/W": 1.0, "C/W": 1.0, "K/W": 1.0}, "60 °C/W"),
    "angle": Kind("an angle", "°", {"": 1.0, "°": 1.0, "deg": 1.0}, "45 °"),
    "area": Kind("an area", "mm²", {"mm²": 1.0, "cm²": 100.0}, "60 mm²"),
    "cost": Kind("a cost", "", {"": 1.0, "EUR": 1.0, "€": 1.0}, "4.50"),
}
SMALLEST: dict[Dimension, float] = {"temperature": -60.0, "angle": -90.0}
LARGEST: dict[Dimension, float] = {
    "current": 100, "voltage": 100, "power": 2000, "resistance": 1e9, "charge": 1000, "time": 86400 * 366 * 30,
    "length": 2000, "mass": 50000, "temperature": 200, "share": 1, "cost": 1e6,
    "capacitance": 100, "intensity": 1e6, "clock": 24 - 1 / 3600, "rate": 1e6, "count": 1e6, "number": 1e6,
    "thermal": 1e4, "angle": 360, "area": 1e6,
}  # fmt: skip


def units_table() -> dict[str, dict[str, object]]:
    """For the interface: each dimension's base unit, its units with their factors, and the range that is taken.

    >>> sorted(units_table())[:4]
    ['angle', 'area', 'capacitance', 'charge']
    """
    return {
        dimension: {"base": kind.base, "units": kind.units, "least": SMALLEST.get(dimension, 0.0),
                    "most": LARGEST[dimension]}
        for dimension, kind in KINDS.items()
    }  # fmt: skip
