"""Quantities as people write them ("120mA", "0.12 A", "3,3 V") and as people read them ("120 mA").

`parse_quantity` is the application's one unit parser; `show` its formatter for sentences.
"""

from __future__ import annotations

import math
import re
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
]


class QuantityError(ValueError):
    """The text can't be read as the wanted quantity. The message is a sentence for the person who typed it."""


_PREFIXES = {"p": 1e-12, "n": 1e-9, "u": 1e-6, "µ": 1e-6, "μ": 1e-6, "m": 1e-3, "": 1.0, "k": 1e3, "M": 1e6}
_TIMES = {
    "ms": 1e-3, "s": 1, "sec": 1, "second": 1, "seconds": 1, "min": 60, "minute": 60, "minutes": 60, "h": 3600,
    "hour": 3600, "hours": 3600, "d": 86400, "day": 86400, "days": 86400, "week": 604800, "weeks": 604800,
    "month": 2629800, "months": 2629800, "year": 31557600, "years": 31557600, "us": 1e-6, "µs": 1e-6,
}  # fmt: skip


def _prefixed(symbols: tuple[str, ...]) -> dict[str, float]:
    return {prefix + symbol: scale for symbol in symbols for prefix, scale in _PREFIXES.items()}


@dataclass(frozen=True)
class _Kind:
    name: str
    base: str
    units: dict[str, float]
    example: str


_KINDS: dict[Dimension, _Kind] = {
    "current": _Kind("a current", "A", _prefixed(("A", "a", "amp")), "12 mA"),
    "voltage": _Kind("a voltage", "V", _prefixed(("V", "v")), "3.3 V"),
    "power": _Kind("a power", "W", _prefixed(("W",)), "150 mW"),
    "resistance": _Kind(
        "a resistance", "Ω", {**_prefixed(("Ω", "Ω", "ohm", "Ohm", "R")), "k": 1e3, "M": 1e6}, "2.2 kΩ"
    ),
    "charge": _Kind("a charge", "Ah", _prefixed(("Ah", "ah", "A·h")), "600 mAh"),
    "time": _Kind("a time", "s", {k: float(v) for k, v in _TIMES.items()}, "10 min"),
    "length": _Kind("a length", "mm", {"mm": 1.0, "cm": 10.0, "m": 1000.0, "µm": 1e-3, "um": 1e-3}, "12.5 mm"),
    "mass": _Kind("a mass", "g", {"g": 1.0, "kg": 1000.0, "mg": 1e-3}, "8 g"),
    "temperature": _Kind("a temperature", "°C", {"°C": 1.0, "C": 1.0, "degC": 1.0}, "-10 °C"),
    "share": _Kind("a share", "", {"": 1.0, "%": 0.01}, "30 %"),
    "capacitance": _Kind("a capacitance", "F", _prefixed(("F",)), "100 µF"),
    "intensity": _Kind("a luminous intensity", "mcd", {"mcd": 1.0, "cd": 1000.0}, "20 mcd"),
    "clock": _Kind("a time of day", "h", {"": 1.0, "h": 1.0, "am": 1.0, "pm": 1.0}, "19:30"),
    "cost": _Kind("a cost", "", {"": 1.0, "EUR": 1.0, "€": 1.0}, "4.50"),
}
_SMALLEST: dict[Dimension, float] = {"temperature": -60.0}
_LARGEST: dict[Dimension, float] = {
    "current": 100, "voltage": 100, "power": 2000, "resistance": 1e9, "charge": 1000, "time": 86400 * 366 * 30,
    "length": 2000, "mass": 50000, "temperature": 120, "share": 1, "cost": 1e6,
    "capacitance": 100, "intensity": 1e6, "clock": 24 - 1 / 3600,
}  # fmt: skip
_TEXT = re.compile(r"^\s*([+-]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][+-]?\d+)?)\s*([^\d\s].*?)?\s*$")


def parse_quantity(text: str, dimension: Dimension, default_unit: str | None = None) -> float:
    """The value of `text` in SI (lengths in mm, masses in g, charges in A h, shares 0 to 1).

    Takes a decimal point or comma. Without a unit, `default_unit` is assumed; where none is given a
    bare number is refused, except for shares and costs. Raises QuantityError.
    """
    kind = _KINDS[dimension]
    if len(text) > 60:
        raise QuantityError(f"{text[:20]!r}... is too long for {kind.name}")
    match = _TEXT.match(_clock_as_hours(text) if dimension == "clock" else text)
    if not match:
        raise QuantityError(f"{text.strip()!r} is not {kind.name}; write it like {kind.example!r}")
    number = float(match.group(1).replace(",", "."))
    unit = (match.group(2) or "").strip()
    if not unit:
        if default_unit is None and "" not in kind.units:
            raise QuantityError(f"{text.strip()!r} needs a unit; write it like {kind.example!r}")
        unit = default_unit or ""
    if unit not in kind.units:
        raise QuantityError(_wrong_unit(text.strip(), number, unit, dimension))
    value = float(f"{number * kind.units[unit]:.12g}")  # 82 % is 0.82, not 0.8200000000000001
    low, high = _SMALLEST.get(dimension, 0.0), _LARGEST[dimension]
    if dimension == "clock" and not low <= value <= high:
        raise QuantityError(f"{text.strip()!r} is not {kind.name}: 0:00 to 23:59")
    if not math.isfinite(value) or not low <= value <= high:
        raise QuantityError(
            f"{text.strip()!r} is outside what {kind.name} can be here: {low:g} to {high:g} {kind.base}".rstrip()
        )
    return value


_CLOCK = re.compile(r"^\s*(\d{1,2})(?:[:.h](\d{2}))?\s*(am|pm)?\s*$", re.IGNORECASE)


def _clock_as_hours(text: str) -> str:
    """ "19:30", "7.30 pm" and "7 am" as a number of hours; anything else as it is."""
    match = _CLOCK.match(text)
    if not match:
        return text
    hours, minutes, half = int(match.group(1)), int(match.group(2) or 0), (match.group(3) or "").lower()
    if minutes > 59 or (half and not 1 <= hours <= 12):
        return text
    hours = hours % 12 + (12 if half == "pm" else 0) if half else hours
    return f"{hours + minutes / 60!r}"


def _wrong_unit(text: str, number: float, unit: str, dimension: Dimension) -> str:
    kind = _KINDS[dimension]
    if dimension == "current" and unit in _KINDS["charge"].units:
        amount = show(number * _KINDS["charge"].units[unit], "Ah")
        rate = show(number * _KINDS["charge"].units[unit], "A")
        return (
            f"{amount} is a charge (what a battery holds), not a current. "
            f"A part that uses {amount} every hour draws {rate}: if that is meant, write {rate!r}"
        )
    if dimension == "charge" and unit in _KINDS["current"].units:
        current = show(number * _KINDS["current"].units[unit], "A")
        return f"{current} is a current, not a charge. A capacity is written like {kind.example!r}"
    for other, candidate in _KINDS.items():
        if other != dimension and unit in candidate.units:
            return f"{text!r} is {candidate.name}, not {kind.name}; write it like {kind.example!r}"
    return f"{text!r}: {unit!r} is not a unit of {kind.name}; write it like {kind.example!r}"


def unit_in_heading(heading: str) -> tuple[str, str | None]:
    """Splits "sleep [µA]" or "size (mm)" into its name and unit; the unit is None where there is none."""
    match = re.match(r"^\s*(.*?)\s*[\[(]\s*([^\])]*?)\s*[\])]\s*$", heading)
    return (match.group(1), match.group(2)) if match else (heading.strip(), None)


_SHOWN = ((1e6, "M"), (1e3, "k"), (1.0, ""), (1e-3, "m"), (1e-6, "µ"), (1e-9, "n"), (1e-12, "p"))


def show(value: float | None, unit: str) -> str:
    """A figure for a sentence, to three significant digits: 0.0123 A as "12.3 mA", 1e5 s as "1.2 days"."""
    if value is None or not math.isfinite(value):
        return "unknown"
    if unit == "s":
        return _show_time(value)
    if unit == "h":
        return _show_time(value * 3600)
    if unit == "%" and 0 < value < 0.05:
        return "< 0.1 %"
    if unit == "%" and 99.5 <= value < 100:
        return "> 99 %"
    if unit == "%":
        whole = abs(value) >= 9.95 or abs(value - round(value)) < 1e-9
        return f"{value:.0f} %" if whole else f"{value:.1f} %"
    if unit == "share":
        return show(value * 100, "%")
    if unit in ("mm", "g", "°C", "°C/W", "C"):
        return f"{round(value, 1):g} {unit}"
    if unit.isalpha() and len(unit) == 3 and unit.isupper():
        return f"{value:.2f} {unit}"
    if unit not in ("A", "V", "W", "Ω", "Ah", "Wh", "F"):
        return f"{_digits(value)} {unit}".strip()
    size = abs(value)
    if size == 0:
        return f"0 {unit}"
    for scale, prefix in _SHOWN:
        if size >= scale * 0.9995:
            return f"{_digits(value / scale)} {prefix}{unit}"
    return f"{value / 1e-12:.2g} p{unit}"


def _digits(value: float) -> str:
    if value == 0:
        return "0"
    places = max(0, 2 - math.floor(math.log10(abs(value)) + 1e-9))
    text = f"{value:.{min(places, 12)}f}"
    return text.rstrip("0").rstrip(".") if "." in text else text


def _show_time(seconds: float) -> str:
    if seconds >= 2 * 31557600:
        return f"{_digits(seconds / 31557600)} years"
    if seconds >= 3 * 2629800:
        return f"{_digits(seconds / 2629800)} months"
    if seconds >= 2 * 86400:
        return f"{_digits(seconds / 86400)} days"
    if seconds >= 3600:
        return f"{_digits(seconds / 3600)} h"
    if seconds >= 60:
        return f"{_digits(seconds / 60)} min"
    if 0 < seconds < 1:
        return f"{_digits(seconds * 1000)} ms"
    return f"{_digits(seconds)} s"
