"""Pins and signals as they are typed or pasted: one a line, its name first, then what it can or needs in any order.

P4          in out analogue wake pull
P5..P8      in out
TX          out uart0.send start-up
key         in x3 wakes pull
display     i2c 0x3C 0x3D
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterator
from typing import Any, TypeVar

from pydantic import ValidationError

from ..design import Need, Pin
from ..design.pins import ABLE
from ..design.problems import DocumentError, Problem, from_validation
from ..quantities import QuantityError, parse_quantity
from ..words import say

MOST_ENTRIES = 256  # pins of a controller
RANGE = re.compile(r"^(\D*)(\d+)\.\.(\D*)(\d+)$")
SEPARATORS = re.compile(r"[\s,;|]+")
WORKS = ("in", "out", "analogue", "pulse", "touch", "wire", "i2c", "spi", "uart", "i2s", "usb")
T = TypeVar("T")


def read_pins(text: str) -> list[Pin]:
    """Raises DocumentError with each line that can't be read, at "/lines/<number from 0>".

    >>> [pin.name for pin in read_pins("P0..P2: in out")]
    ['P0', 'P1', 'P2']
    """
    return _read(text, _pins)


def read_needs(text: str) -> list[Need]:
    """As `read_pins`.

    >>> needs = read_needs("DATA: in")
    >>> needs_text(needs)
    'DATA: in'
    """
    return _read(text, lambda name, words: [_need(name, words)])


def _read(text: str, one: Callable[[str, list[str]], list[T]]) -> list[T]:
    found, problems = list[T](), list[Problem]()
    lines = text.splitlines()
    for number, line in enumerate(lines):
        name, words = _split(line)
        if not name:
            continue
        try:
            found += one(name, words)
        except ValidationError as error:
            problems += [Problem(f"/lines/{number}", p.message) for p in from_validation(error, {})][:1]
        except ValueError as error:
            problems.append(Problem(f"/lines/{number}", str(error)))
        if len(found) > MOST_ENTRIES:
            raise DocumentError([Problem("", say("wiring.lines", most=(MOST_ENTRIES, "")))])
    names = Counter(x.name for x in found)  # type: ignore[attr-defined]
    problems += [Problem("", say("wiring.twice", name=n)) for n, count in names.items() if count > 1]
    if problems:
        raise DocumentError(problems)
    return found


def _split(line: str) -> tuple[str, list[str]]:
    """A line's name and words; a name of several words ends with a colon, or a tab."""
    name, mark, rest = line.partition(":" if ":" in line else "\t")
    if not mark:
        name, _, rest = line.strip().partition(" ")
    return name.strip(), [w for w in SEPARATORS.split(rest.strip()) if w]


def _pins(name: str, words: list[str]) -> list[Pin]:
    flags: dict[str, Any] = {}
    can = list[str]()
    for word in _joined(words):
        low = word.lower()
        if low == "pull":
            flags["pull"] = True
        elif low in ("start-up", "startup"):
            flags["start_up"] = True
        elif ABLE.match(low):
            can.append(low)
        else:
            flags |= _volts_or_amps(word, "most_v", "most_a")
    return [Pin(name=n, can=can, **flags) for n in _names(name)]


def _need(name: str, words: list[str]) -> Need:
    flags: dict[str, Any] = {}
    addresses = list[int]()
    for word in _joined(words):
        low = word.lower()
        if low in WORKS:
            flags["work"] = low
        elif low in ("wakes", "alone"):
            flags[low] = True
        elif low == "pull":
            flags["pulled"] = True
        elif low.startswith("0x"):
            addresses.append(int(low, 16))
        elif re.match(r"^[x×]\d+$", low):
            flags["count"] = int(low[1:])
        else:
            flags |= _volts_or_amps(word, "level_v", "current_a")
    if "work" not in flags:
        raise ValueError(say("wiring.no-work", name=name, works=", ".join(WORKS)))
    return Need(name=name, addresses=addresses, **flags)


def _joined(words: list[str]) -> Iterator[str]:
    """Words, with a figure and the unit after it as one."""
    waiting = ""
    for word in words:
        if waiting:
            yield f"{waiting} {word}"
            waiting = ""
        elif re.match(r"^[\d.]+$", word):
            waiting = word
        else:
            yield word
    if waiting:
        yield waiting


def _volts_or_amps(word: str, volts: str, amps: str) -> dict[str, float]:
    for field, dimension in ((volts, "voltage"), (amps, "current")):
        try:
            return {field: parse_quantity(word, dimension)}  # type: ignore[arg-type]
        except QuantityError:
            continue
    raise ValueError(say("wiring.word", word=word))


def _names(name: str) -> list[str]:
    """ "P4" or every one of "P4..P8"."""
    found = RANGE.match(name)
    if not found:
        return [name]
    prefix, first, other, last = found.groups()
    if other not in ("", prefix) or not 0 <= int(last) - int(first) < MOST_ENTRIES:
        raise ValueError(say("wiring.no-range", name=name))
    return [f"{prefix}{n}" for n in range(int(first), int(last) + 1)]


def pins_text(pins: list[Pin]) -> str:
    """Pins as `read_pins` reads them.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.wiring.roles import hosts
    >>> text = pins_text(design.parts[hosts(design)[0]].pins)
    >>> read_pins(text) == list(design.parts[hosts(design)[0]].pins)
    True
    """
    lines = []
    for pin in pins:
        words = [*pin.can, *(["pull"] if pin.pull else []), *(["start-up"] if pin.start_up else [])]
        words += _figures((pin.most_v, "V"), (pin.most_a, "A"))
        lines.append(f"{pin.name}: {' '.join(words)}")
    return "\n".join(lines)


def needs_text(needs: list[Need]) -> str:
    """Signals as `read_needs` reads them; which part's pins they are at is not in it.

    >>> needs_text(read_needs("DATA: in"))
    'DATA: in'
    """
    lines = []
    for need in needs:
        words = [need.work, *([f"x{need.count}"] if need.count > 1 else [])]
        words += [w for w, there in (("wakes", need.wakes), ("pull", need.pulled), ("alone", need.alone)) if there]
        words += [f"0x{a:02X}" for a in need.addresses]
        words += _figures((need.level_v, "V"), (need.current_a, "A"))
        lines.append(f"{need.name}: {' '.join(words)}")
    return "\n".join(lines)


def _figures(*figures: tuple[float | None, str]) -> list[str]:
    return [f"{value:g} {unit}" for value, unit in figures if value is not None]
