"""Quantities as people write them ("120mA", "0.12 A", "3,3 V"): the application's one unit parser."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

from .showing import MINUS, NO_BREAK, plainly
from .units import KINDS, LARGEST, SMALLEST, TIMES, Dimension, Kind, QuantityError, prefixed

_TYPED = str.maketrans(
    {NO_BREAK: " ", "\u2009": " ", "\u202f": " ", "\u2007": " ", MINUS: "-", "½": "1/2", "¼": "1/4", "¾": "3/4"}
)


_NUMBER = r"[+-]?(?:\d[\d.,]*(?: \d{3})*(?:[.,]\d+)?|[.,]\d+)(?:[eE][+-]?\d+)?"
_TEXT = re.compile(rf"^({_NUMBER})\s*([^\d\s][^\d]*)?$")
_FRACTION = re.compile(r"^(\d+)\s*/\s*(\d+)(?=\D|$)")
_GROUPED = re.compile(r"^[+-]?[1-9]\d{0,2}([., ]\d{3})+$")
_PIECE = re.compile(r"(\d+(?:[.,]\d+)?)\s*([a-zµ]+)\s*", re.IGNORECASE)
_COLONS = re.compile(r"^(\d+):([0-5]\d)(?::([0-5]\d))?\s*(h|min)?$")
_APART = r"\s*(-|–|—|…|\.\.\.?|\bto\b|±|\+/-|\+-)\s*"
_SPAN = re.compile(rf"^({_NUMBER})\s*([^\d\s±.…+-][^\d±…+-]*?)?{_APART}({_NUMBER})\s*([^\d\s].*)?$")
_ABOUT = ("±", "+/-", "+-")


@dataclass(frozen=True)
class Spanned:
    """A figure as it was typed, with its range where one was."""

    typical: float
    min: float | None = None
    max: float | None = None


def parse_quantity(
    text: str, dimension: Dimension, default_unit: str | None = None, *, from_file: bool = False
) -> float:
    """The value of `text` in SI (lengths in mm, masses in g, charges in A h, shares 0 to 1, rates per day).

    Takes a decimal point or comma, thousands in groups, fractions, "1 h 30 min" and "1:30". Without a unit, `default_unit`
    is assumed; where none is given a bare number is refused, except for shares, rates and costs. A figure that could be
    read in two ways ("1,000 mAh") is refused with both. In a file (`from_file`) a point is always a decimal point. Raises
    QuantityError.

    >>> parse_quantity("120 mA", "current")
    0.12
    >>> parse_quantity("1,5 h", "time")
    5400.0
    """
    kind = KINDS[dimension]
    if len(text) > 60:
        raise QuantityError(f"{text[:20]!r}... is too long for {kind.name}")
    typed = " ".join(text.translate(_TYPED).split())
    if _SPAN.match(typed) and not _TEXT.match(typed):
        raise QuantityError(f"{typed!r} is a range; here one figure is wanted, like {kind.example!r}")
    if dimension == "charge" and (energy := _ENERGY.match(typed)):
        return _charge_of(energy.group(1), energy.group(2), typed)
    summed = _summed(typed) if dimension == "time" else None
    if summed is not None:
        return _within(summed, typed, dimension)
    match = _TEXT.match(_without_fraction(_clock_as_hours(typed) if dimension == "clock" else typed))
    if not match:
        raise QuantityError(f"{typed!r} is not {kind.name}; write it like {kind.example!r}")
    unit = (match.group(2) or "").strip()
    if not unit:
        if default_unit is None and "" not in kind.units:
            raise QuantityError(
                f"{typed!r} needs a unit; write it like {kind.example!r}", _with_units(match.group(1), kind)
            )
        unit = default_unit or ""
    if unit not in kind.units:
        raise QuantityError(_wrong_unit(typed, _number(match.group(1), unit, {}, math.inf, kind), unit, dimension))
    number = _number(match.group(1), unit, kind.units, LARGEST[dimension], kind, from_file)
    zero = 32.0 if "F" in unit and dimension == "temperature" else 0.0
    value = float(f"{(number - zero) * kind.units[unit]:.12g}")  # 82 % is 0.82, not 0.8200000000000001
    return _within(value, typed, dimension)


def parse_span(text: str, dimension: Dimension) -> Spanned:
    """ "100-140 mA", "100 mA to 0.14 A", "120 mA ± 20 %" or a single figure. The middle of a range of two ends is its typical
    figure. Raises QuantityError.

    >>> parse_span("120 mA ± 20 %", "current")
    Spanned(typical=0.12, min=0.096, max=0.144)
    """
    typed = " ".join(text.translate(_TYPED).split())
    match = _SPAN.match(typed)
    if len(text) > 60 or not match or _TEXT.match(typed):
        return Spanned(parse_quantity(text, dimension))
    low, low_unit, apart, high, high_unit = match.groups()
    if apart in _ABOUT:
        unit = low_unit or ("" if high_unit == "%" else high_unit) or ""
        middle = parse_quantity(f"{low} {unit}", dimension)
        off = (
            parse_quantity(f"{high} %", "share") * middle
            if high_unit == "%"
            else parse_quantity(f"{high} {high_unit or unit}", dimension)
        )
        return Spanned(
            middle,
            _within(float(f"{middle - off:.12g}"), typed, dimension),
            _within(float(f"{middle + off:.12g}"), typed, dimension),
        )
    least, most = (
        parse_quantity(f"{low} {low_unit or high_unit or ''}", dimension),
        parse_quantity(f"{high} {high_unit or low_unit or ''}", dimension),
    )
    if least > most:
        raise QuantityError(f"{typed!r}: the first figure is the larger one")
    return Spanned(float(f"{(least + most) / 2:.12g}"), least, most)


def _within(value: float, typed: str, dimension: Dimension) -> float:
    kind, low, high = KINDS[dimension], SMALLEST.get(dimension, 0.0), LARGEST[dimension]
    if dimension == "count" and not value.is_integer():
        raise QuantityError(f"{typed!r} is not {kind.name}")
    if math.isfinite(value) and low <= value <= high:
        return value
    if dimension == "clock":
        raise QuantityError(f"{typed!r} is not {kind.name}: 0:00 to 23:59")
    raise QuantityError(f"{typed!r} is outside what {kind.name} can be here: {low:g} to {high:g} {kind.base}".rstrip())


def _number(
    text: str, unit: str, units: dict[str, float], largest: float, kind: Kind, from_file: bool = False
) -> float:
    """A number with its decimal sign and its groups. Where a group of three digits could be either, the one that is
    possible is taken; where both are, the typist is asked."""
    marks = [c for c in text if c in "., "]
    # who means a decimal point hardly ever writes a 0 at the end
    doubtful = marks == [","] or (marks == ["."] and text.endswith("0") and not from_file)
    if _GROUPED.match(text) and doubtful:
        whole, decimal = float(text.replace(marks[0], "")), float(text.replace(",", "."))
        if whole * units.get(unit, math.inf) > largest:
            return decimal
        both = [f"{whole:g} {unit}".strip(), f"{decimal:g} {unit}".strip()]
        if whole >= 1e6:
            both[0] = f"{int(whole)} {unit}".strip()
        raise QuantityError(f"{text} {unit}".strip() + f": {both[0]} or {both[1]}?", both)
    # groups all of one kind before the decimal sign: the last mark where there are two kinds, else a single point or comma
    groups, sign = text, ""
    if len(set(marks)) == 2 or (len(marks) == 1 and marks != [" "]):
        sign = marks[-1]
        groups, _, after = text.rpartition(sign)
        sign = f".{after}"
    if not any(c in "., " for c in groups) or (_GROUPED.match(groups) and len({c for c in groups if c in "., "}) == 1):
        return float(re.sub("[., ]", "", groups) + sign)
    raise QuantityError(f"{text!r} is not a number; write it like {kind.example!r}")


_ENERGIES = prefixed(("Wh", "wh", "W·h"))
_ENERGY = re.compile(rf"^({_NUMBER}\s*[mk]?(?:Wh|wh|W·h))(?:\s+at\s+(.+))?$")


def _charge_of(energy: str, volts: str | None, typed: str) -> float:
    """ "3.7 Wh at 3.7 V" as a charge [A h]."""
    match = _TEXT.match(energy)
    assert match and match.group(2)
    watt_hours = _number(match.group(1), match.group(2), _ENERGIES, 1e4, KINDS["charge"]) * _ENERGIES[match.group(2)]
    if volts is None:
        ways = [f"{energy} at {v} V" for v in ("3.7", "3.2", "1.5", "1.2")]
        raise QuantityError(f"{typed!r} is an energy, not a charge; with the cell's voltage it becomes one", ways)
    at_v = parse_quantity(volts, "voltage")
    if at_v <= 0:
        raise QuantityError(f"{typed!r}: at no voltage there is no charge")
    return _within(float(f"{watt_hours / at_v:.6g}"), typed, "charge")


def _with_units(number: str, kind: Kind) -> list[str]:
    usual = {
        "A": ("µA", "mA", "A"),
        "Ah": ("mAh", "Ah"),
        "s": ("s", "min", "h"),
        "Ω": ("Ω", "kΩ"),
        "W": ("mW", "W"),
        "F": ("µF", "mF"),
    }
    return [f"{number} {unit}" for unit in usual.get(kind.base, (kind.base,))]


def _summed(typed: str) -> float | None:
    """ "1 h 30 min", "1:30" (hours and minutes), "1:30 min", "0:01:30" as seconds; None for anything else."""
    colons = _COLONS.match(typed)
    if colons:
        first, second, third, unit = colons.groups()
        if third is not None:
            return int(first) * 3600.0 + int(second) * 60 + int(third)
        return int(first) * 60.0 + int(second) if unit == "min" else int(first) * 3600.0 + int(second) * 60
    pieces = _PIECE.findall(typed)
    if len(pieces) < 2 or _PIECE.sub("", typed) or any(unit not in TIMES for _, unit in pieces):
        return None
    sizes = [TIMES[unit] for _, unit in pieces]
    if sizes != sorted(sizes, reverse=True) or len(set(sizes)) < len(sizes):
        return None
    return float(sum(float(n.replace(",", ".")) * size for (n, _), size in zip(pieces, sizes, strict=True)))


def _without_fraction(typed: str) -> str:
    """ "1/2 h" as "0.5 h"."""
    match = _FRACTION.match(typed)
    if not match or int(match.group(2)) == 0:
        return typed
    return f"{int(match.group(1)) / int(match.group(2)):.12g}{typed[match.end() :]}"


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
    kind = KINDS[dimension]
    if dimension == "current" and unit in KINDS["charge"].units:
        amount = plainly(number * KINDS["charge"].units[unit], "Ah")
        rate = plainly(number * KINDS["charge"].units[unit], "A")
        return (
            f"{amount} is a charge (what a battery holds), not a current. "
            f"A part that uses {amount} every hour draws {rate}: if that is meant, write {rate!r}"
        )
    if dimension == "charge" and unit in KINDS["current"].units:
        current = plainly(number * KINDS["current"].units[unit], "A")
        return f"{current} is a current, not a charge. A capacity is written like {kind.example!r}"
    for other, candidate in KINDS.items():
        if other != dimension and unit in candidate.units:
            return f"{text!r} is {candidate.name}, not {kind.name}; write it like {kind.example!r}"
    return f"{text!r}: {unit!r} is not a unit of {kind.name}; write it like {kind.example!r}"


def unit_in_heading(heading: str) -> tuple[str, str | None]:
    """Splits "sleep [µA]" or "size (mm)" into its name and unit; the unit is None where there is none.

    >>> unit_in_heading("time (s)")
    ('time', 's')
    """
    match = re.match(r"^\s*(.*?)\s*[\[(]\s*([^\])]*?)\s*[\])]\s*$", heading)
    return (match.group(1), match.group(2)) if match else (heading.strip(), None)
