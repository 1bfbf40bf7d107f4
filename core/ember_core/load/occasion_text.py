"""How long and how often, as makers say it, and said so that it can be typed again.

"2 s every 15 min"      "10 min twice a day"      "5 min 96 × a day"      "20 min at 7:30 and 18:00"
"30 s every hour"       "once a week for 2 h"     "8 h a day"             "every 15 min for 2 s"
"""

from __future__ import annotations

import math
import re

from ..design import Model, Session, Wake
from ..quantities import QuantityError, clock, parse_quantity, show

LONGEST = 80
DAY_S = 86400.0
MOST_TIMES = 86400.0  # a day
LEAST_TIMES = 1e-6
MOST_CLOCKS = 48
DAYS = {"second": 1 / DAY_S, "minute": 1 / 1440, "hour": 1 / 24, "day": 1.0, "night": 1.0, "morning": 1.0, "evening": 1.0, "week": 7.0,
        "month": 365.25 / 12, "year": 365.25}  # fmt: skip
TIMES = {"once": 1.0, "twice": 2.0, "thrice": 3.0}
WORDS = {
    "one": 1,
    "two": 2,
    "three": 3,
    "four": 4,
    "five": 5,
    "six": 6,
    "seven": 7,
    "eight": 8,
    "nine": 9,
    "ten": 10,
    "twelve": 12,
}
EXAMPLE = "“2 s every 15 min” or “10 min twice a day”"

_UNIT = "|".join(DAYS)
_COUNT = r"(?:(?P<word>once|twice|thrice)|(?P<times>[\d.,]+|" + "|".join(WORDS) + r")\s*(?:×|x|times?))"
_OFTEN = re.compile(rf"^{_COUNT}\s*(?:(?:an?|per|every|each)\s+(?P<per>{_UNIT})|(?P<daily>daily|hourly|weekly))$")
_EACH = re.compile(rf"^(?:an?|per|each|every)\s+(?P<per>{_UNIT})$|^(?P<daily>daily|hourly|weekly)$")
_EVERY = re.compile(r"^every\s+(?P<interval>.+)$")
_AT = re.compile(r"^(?:daily\s+|every day\s+)?at\s+(?P<clocks>.+)$")
_LED_BY = re.compile(r"^(?P<often>.+?)[,\s]+for\s+(?P<length>.+)$")
_STARTS = re.compile(
    rf"^(?P<length>.+?)[,\s]+(?:each\s+)?(?P<often>(?:every|at|an?|per|each|once|twice|thrice|daily|hourly|weekly)\b.*|(?:[\d.,]+|{'|'.join(WORDS)})\s*(?:×|x\b|times?\b).*)$"
)
_PER = {"daily": 1.0, "hourly": 1 / 24, "weekly": 7.0}


class Occasion(Model):
    """A stretch of `seconds`: every so many seconds, or so many times a day, by the clock where hours are given."""

    seconds: float
    every_s: float | None = None
    per_day: float | None = None
    at_h: list[float] = []


def read_occasion(text: str) -> Occasion:
    """What was meant. Raises QuantityError.

    >>> read_occasion("2 s every 15 min")
    Occasion(seconds=2.0, every_s=900.0, per_day=None, at_h=[])
    """
    typed = " ".join(text.split())
    if len(typed) > LONGEST:
        raise QuantityError(f"is too long; write it like {EXAMPLE}")
    low = typed.casefold()
    led = _LED_BY.match(low)
    if led and (starts := _STARTS.match(f"0 {led['often']}")):
        often, length = starts["often"], led["length"]
    else:
        split = _STARTS.match(low)
        if split is None:
            raise QuantityError(f"{typed!r} does not say how long and how often; write it like {EXAMPLE}")
        length, often = split["length"], split["often"]
    seconds = parse_quantity(length, "time")
    if seconds <= 0:
        raise QuantityError(f"{length!r} lasts no time")
    found = _how_often(often, seconds, typed)
    if found.every_s is not None and found.every_s < seconds:
        raise QuantityError(f"{show(seconds, 's')} does not go into each {show(found.every_s, 's')}")
    if found.per_day is not None:
        if not LEAST_TIMES <= found.per_day <= MOST_TIMES:
            raise QuantityError(f"{often!r} is not how often something can happen")
        if found.per_day * seconds > DAY_S * (1 + 1e-9):
            raise QuantityError(f"{typed!r} takes {show(found.per_day * seconds, 's')} a day")
    return found


def _how_often(often: str, seconds: float, typed: str) -> Occasion:
    if at := _AT.match(often):
        hours = [parse_quantity(c, "clock") for c in re.split(r"\s*(?:,|\band\b|&)\s*", at["clocks"]) if c]
        if not hours or len(hours) > MOST_CLOCKS or len(set(hours)) < len(hours):
            raise QuantityError(f"{at['clocks']!r} are not hours of a day, each once")
        return Occasion(seconds=seconds, per_day=float(len(hours)), at_h=sorted(hours))
    if times := _OFTEN.match(often):
        word = times["word"] or times["times"]
        number = TIMES.get(word) or float(WORDS.get(word, 0)) or parse_quantity(word, "rate")
        return Occasion(seconds=seconds, per_day=_rounded(number / _days(times["per"], times["daily"])))
    if each := _EACH.match(often):
        days = _days(each["per"], each["daily"])
        if days < 1:
            return Occasion(seconds=seconds, every_s=_rounded(days * DAY_S))
        return Occasion(seconds=seconds, per_day=_rounded(1 / days))
    if every := _EVERY.match(often):
        interval = parse_quantity(_other(every["interval"]), "time")
        if interval <= 0:
            raise QuantityError(f"{every['interval']!r} is no time between two")
        if interval < DAY_S:
            return Occasion(seconds=seconds, every_s=interval)
        return Occasion(seconds=seconds, per_day=_rounded(DAY_S / interval))
    raise QuantityError(f"{typed!r} does not say how often; write it like {EXAMPLE}")


def say_occasion(event: Session | Wake) -> str:
    r"""How long and how often something in the day happens, as it may be typed.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> say_occasion(design.day.sessions[0]).replace("\N{NO-BREAK SPACE}", " ")
    '1 h twice a day'
    """
    if isinstance(event, Wake):
        return f"{show(event.awake_s, 's')} every {show(event.every_s, 's')}"
    if event.at_h:
        hours = [clock(h) for h in event.at_h]
        return (
            f"{show(event.seconds, 's')} at {' and '.join([', '.join(hours[:-1]), hours[-1]] if hours[1:] else hours)}"
        )
    said = _times(event.per_day)
    return f"{show(event.seconds, 's')}{',' if '×' in said else ''} {said}"


def _times(per_day: float) -> str:
    for unit in ("day", "week", "month", "year"):
        number = per_day * DAYS[unit]
        whole = round(number)
        if whole >= 1 and math.isclose(number, whole, rel_tol=1e-3):
            return f"{ {1: 'once', 2: 'twice'}.get(whole, f'{whole} ×') } a {unit}"
    return f"{per_day:.3g} × a day" if per_day >= 1 else f"once every {show(DAY_S / per_day, 's')}"


def _days(per: str | None, word: str | None) -> float:
    return DAYS[per] if per else _PER[word or "daily"]


def _other(interval: str) -> str:
    """ "other day", "two hours": as figures."""
    words = interval.replace("other ", "2 ").split(" ", 1)
    if words[0] in WORDS and len(words) > 1:
        return f"{WORDS[words[0]]} {words[1]}"
    return " ".join(words)


def _rounded(value: float) -> float:
    return float(f"{value:.12g}")
