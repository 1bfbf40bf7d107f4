"""Figures as people read them ("120 mA"), to three significant digits: the one table of roundings."""

from __future__ import annotations

import math

_SHOWN = ((1e6, "M"), (1e3, "k"), (1.0, ""), (1e-3, "m"), (1e-6, "µ"), (1e-9, "n"), (1e-12, "p"))


NO_BREAK = "\u00a0"
MINUS = "\u2212"

NEARLY_ALL = 0.99
SECONDS = {"s": 1, "h": 3600}
FROM_KG = 9999.95  # [g]


def show(value: float | None, unit: str) -> str:
    """A figure for a sentence, to three significant digits: 0.0123 A as "12.3 mA", 1e5 s as "1.2 days".

    Number and unit are never broken apart at the end of a line, and a minus is a minus.

    >>> show(0.12345, "A").replace("\xa0", " ")
    '123 mA'
    >>> show(90000, "s").replace("\xa0", " ")
    '25 h'
    """
    return plainly(value, unit).replace(" ", NO_BREAK).replace("-", MINUS)


def about(share: float) -> str:
    """A share that is only roughly known, for a sentence: "about 12 %", "nearly all".

    >>> about(0.03)
    'about 3\xa0%'
    """
    return f"about {show(share, 'share')}" if share < NEARLY_ALL else "nearly all"


def ratio(value: float) -> str:
    """How many times, for a sentence: to two digits, and never as a power of ten.

    >>> ratio(2.0)
    '2'
    """
    return f"{value:.2g}" if abs(value) < 99.5 else f"{value:.0f}"


def plainly(value: float | None, unit: str) -> str:
    """The same with ordinary spaces and hyphens, as one types it.

    >>> plainly(0.12, "A")
    '120 mA'
    """
    if value is None or not math.isfinite(value):
        return "unknown"
    if unit in SECONDS:
        return _show_time(value * SECONDS[unit])
    if unit == "%" and 0 < value < 0.05:
        return "< 0.1 %"
    if unit == "%" and 99.5 <= value < 100:
        return "> 99 %"
    if unit == "%":
        whole = abs(value) >= 9.95 or abs(value - round(value)) < 1e-9
        return f"{value:.0f} %" if whole else f"{_digits(round(value, 1))} %"
    if unit == "share":
        return plainly(value * 100, "%")
    if unit == "g" and abs(value) >= FROM_KG:
        return f"{_digits(value / 1000)} kg"
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


MOST_DAYS = 366  # whole ones are told as days up to there: 180 days, not 5.91 months


def _show_time(seconds: float) -> str:
    if seconds < 0:
        return f"-{_show_time(-seconds)}"
    days = seconds / 86400
    if 2 <= days <= MOST_DAYS and abs(days - round(days)) < 1e-6:
        return f"{round(days)} days"
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


def clock(hour: float) -> str:
    """An hour as it is read: 19.5 is "19:30".

    >>> clock(13.5)
    '13:30'
    """
    minutes = round(hour * 60)
    return f"{minutes // 60 % 24:02d}:{minutes % 60:02d}"
