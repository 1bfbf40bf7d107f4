"""A measured discharge from an untrusted CSV file.

Columns, in any order, separated by commas, semicolons or tabs, with a heading; units in the heading ("time [min]", "voltage_mV",
"U/V", "I (mA)"), otherwise seconds, volts and amperes:

    time        from the start of the discharge, upwards (also: t, elapsed, Zeit); points of the same time are put together
    voltage     at the cell (U, V, Spannung)
    current     what is drawn (I, Strom), either sign; steady, or through a resistor, or at a constant power

What is recorded at rest before the load tells how full it began, a pause within it the resistance by its jump; neither is part of the
discharge, nor is what comes after the load.
"""

from __future__ import annotations

import io
import re

import numpy as np

from ..battery.calibration import EARLY_S, Discharge
from ..design.problems import DocumentError, Problem
from ..numeric import Array
from ..quantities import show, unit_in_heading

LARGEST_BYTES = 8_000_000
MOST_ROWS = 200_000
KEPT_ROWS = 2000
FEWEST_ROWS = 20
LARGEST_GAP = 0.1  # of the whole duration
STEADY = 0.1  # of the mean current
SAME = 0.02  # of the mean: what varies less is one current
FOLLOWS = 0.03  # of the mean: by so much a resistance or a power may vary that drew the current
AT_REST = 0.3  # of the usual current: less than that is no load
NOTHING = 0.02  # of the load: at that the voltage is one at rest
BEYOND = re.compile(r"^(.*?)\s*(?:_|/|\bin\b)\s*(ms|s|min|h|mV|V|µA|uA|mA|A)$")

_UNITS: dict[str, dict[str, float]] = {
    "time": {"s": 1, "ms": 1e-3, "min": 60, "h": 3600, "": 1},
    "voltage": {"V": 1, "mV": 1e-3, "": 1},
    "current": {"A": 1, "mA": 1e-3, "µA": 1e-6, "uA": 1e-6, "": 1},
}
_ALIASES = {
    "time": "time", "t": "time", "elapsed": "time", "voltage": "voltage", "v": "voltage", "volts": "voltage",
    "current": "current", "i": "current", "amps": "current", "zeit": "time", "seconds": "time", "elapsed time": "time",
    "timestamp": "time", "u": "voltage", "spannung": "voltage", "cell voltage": "voltage", "battery voltage": "voltage",
    "vbat": "voltage", "strom": "current", "load current": "current", "discharge current": "current", "ibat": "current",
}  # fmt: skip
_LIKELY = {"voltage": (0.5, 60.0), "current": (1e-6, 200.0)}


def read_discharge(raw: bytes) -> Discharge:
    """The discharge in a file. Raises DocumentError with what is wrong and where."""
    if len(raw) > LARGEST_BYTES:
        _refuse(
            "",
            f"is {len(raw) / 1e6:.1f} MB; at most {LARGEST_BYTES / 1e6:.0f} MB are read. Keep one point a minute or so",
        )
    try:
        text = raw.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        _refuse("", f"is not UTF-8 text (byte {error.start + 1})")
    lines = [line for line in text.splitlines() if line.strip()]
    if len(lines) - 1 > MOST_ROWS:
        _refuse("", f"has {len(lines) - 1} rows; at most {MOST_ROWS} are read. Keep one point a minute or so")
    if len(lines) - 1 < FEWEST_ROWS:
        _refuse("", f"has {max(len(lines) - 1, 0)} points; a discharge needs {FEWEST_ROWS} at least")
    delimiter = max(";\t,", key=lambda d: (lines[0].count(d), d == ","))
    columns = _columns(lines[0].split(delimiter))
    table = _numbers(lines[1:], delimiter, len(lines[0].split(delimiter)))
    series = {name: table[:, k] * scale for name, (k, scale) in columns.items()}
    merged = _merged(series)
    rest = _rest_before(merged)
    series, jump = _without_pauses(_under_load(merged))
    _plausible(series)
    time, volts, amps = series["time"], series["voltage"], series["current"]
    mean = float(np.trapezoid(amps, time) / (time[-1] - time[0]))
    amps, mean = amps * np.sign(mean), abs(mean)
    uneven = float(np.std(amps)) / mean if mean else np.inf
    drawn = uneven > SAME and _follows(volts, amps)
    if uneven > STEADY and not drawn:
        _refuse(
            "current",
            f"is not steady: it varies by {uneven * 100:.0f} % around {show(mean, 'A')}, and neither a resistor nor a constant power "
            "draws it so; a discharge at one of these is needed",
        )
    keep = np.unique(np.linspace(0, time.size - 1, min(time.size, KEPT_ROWS)).astype(int))
    return Discharge(time[keep] - time[0], volts[keep], mean, amps[keep] if drawn else None, jump, rest)


def _without_pauses(series: dict[str, Array]) -> tuple[dict[str, Array], float | None]:
    """(the rows under load, their times moved together; the resistance of the jumps at the pauses [ohm], None where none was seen
    within seconds)."""
    time, volts, amps = series["time"], series["voltage"], np.abs(series["current"])
    loaded = amps > AT_REST * float(np.median(amps))
    begins = np.flatnonzero(loaded[:-1] & ~loaded[1:])
    if not begins.size or (np.diff(time) < 0).any():
        return series, None
    jumps = [(volts[b + 1] - volts[b]) / amps[b] for b in begins if time[b + 1] - time[b] <= EARLY_S[1]]
    step = np.diff(time, prepend=time[0])
    usual = float(np.median(step[1:]))
    before = np.concatenate([[True], loaded[:-1]])
    own = np.where(loaded & before, step, usual)[loaded]  # what begins anew after a pause is one step later
    own[0] = 0.0
    kept = {name: values[loaded] for name, values in series.items()} | {"time": np.cumsum(own)}
    return kept, float(np.median(jumps)) if jumps else None


def _follows(volts: Array, amps: Array) -> bool:
    """Whether a resistor or a constant power drew it."""
    if np.any(volts <= 0) or np.any(amps <= 0):
        return False
    return any(float(np.std(x) / np.mean(x)) <= FOLLOWS for x in (amps / volts, amps * volts))


def _merged(series: dict[str, Array]) -> dict[str, Array]:
    """Rows of the same time as one, with their means: loggers count in whole seconds."""
    time = series["time"]
    first = np.concatenate([[True], np.diff(time) != 0])
    if first.all():
        return series
    start = np.flatnonzero(first)
    count = np.diff(np.append(start, time.size))
    return {name: np.add.reduceat(values, start) / count for name, values in series.items()}


def _rest_before(series: dict[str, Array]) -> float | None:
    """The last voltage at rest before the load came [V]; None where it was not recorded."""
    amps = np.abs(series["current"])
    loaded = np.flatnonzero(amps > AT_REST * float(np.median(amps)))
    if not loaded.size or loaded[0] == 0 or amps[loaded[0] - 1] > NOTHING * amps[loaded[0]]:
        return None
    return float(series["voltage"][loaded[0] - 1])


def _under_load(series: dict[str, Array]) -> dict[str, Array]:
    """Without what was recorded before the load came and after it went."""
    amps = np.abs(series["current"])
    usual = float(np.median(amps))
    loaded = np.flatnonzero(amps > AT_REST * usual)
    if not loaded.size:
        return series
    return {name: values[loaded[0] : loaded[-1] + 1] for name, values in series.items()}


def _refuse(path: str, message: str) -> None:
    raise DocumentError([Problem(path, message)])


def _columns(headings: list[str]) -> dict[str, tuple[int, float]]:
    """Where each series stands, and the factor to SI."""
    found: dict[str, tuple[int, float]] = {}
    for k, heading in enumerate(headings):
        name, unit = unit_in_heading(heading.strip().strip('"'))
        if unit is None and (bare := BEYOND.match(name)):
            name, unit = bare.group(1), bare.group(2)
        role = _ALIASES.get(re.sub(r"[\s_]+", " ", name.lower()).strip())
        if role is None or role in found:
            continue
        scale = _UNITS[role].get(unit or "")
        if scale is None:
            _refuse(role, f"{unit!r} is not a unit of {role}; write one of {', '.join(u for u in _UNITS[role] if u)}")
        found[role] = (k, float(scale or 1))
    for role in _UNITS:
        if role not in found:
            _refuse(role, f"there is no column '{role}'; headings found: {', '.join(headings)[:200]}")
    return found


def _numbers(rows: list[str], delimiter: str, columns: int) -> Array:
    """The rows as an array; a decimal comma is understood where commas do not separate."""
    text = "\n".join(rows)
    if delimiter != ",":
        text = text.replace(",", ".")
    try:
        table = np.loadtxt(io.StringIO(text.replace('"', "")), delimiter=delimiter, ndmin=2, usecols=range(columns))
    except ValueError as error:
        row = re.search(r"row (\d+)", str(error))
        where = f"row {int(row.group(1)) + 1}" if row else ""
        raise DocumentError([Problem(where, "has something that is not a number, or too few columns")]) from None
    if not np.isfinite(table).all():
        _refuse(f"row {int(np.flatnonzero(~np.isfinite(table).all(axis=1))[0]) + 2}", "is not a finite number")
    return np.asarray(table, dtype=float)


def _plausible(series: dict[str, Array]) -> None:
    time, volts = series["time"], series["voltage"]
    step = np.diff(time)
    if (step < 0).all():
        _refuse("time", "runs backwards; sort the rows by time")
    if (step <= 0).any():
        k = int(np.flatnonzero(step <= 0)[0])
        _refuse(f"row {k + 3}", f"its time of {time[k + 1]:g} s is not after the one before, {time[k]:g} s")
    whole = float(time[-1] - time[0])
    if float(step.max()) > LARGEST_GAP * whole:
        k = int(step.argmax())
        _refuse(
            f"row {k + 3}",
            f"there is a gap of {show(float(step[k]), 's')} before it, more than a tenth of the whole discharge",
        )
    low, high = _LIKELY["voltage"]
    middle = float(np.median(volts))
    if middle > 100:
        _refuse("voltage", f"is about {middle:g}: if these are millivolts, write 'voltage [mV]' in the heading")
    if not low <= middle <= high:
        _refuse("voltage", f"is about {middle:g} V, not that of a cell or pack")
    amps = float(np.median(np.abs(series["current"])))
    if amps > _LIKELY["current"][1]:
        _refuse("current", f"is about {amps:g}: if these are milliamperes, write 'current [mA]' in the heading")
    if amps < _LIKELY["current"][0]:
        _refuse("current", "is nothing: the column has to hold what was drawn")
    if volts[-1] >= volts[0]:
        _refuse("voltage", f"does not fall: {volts[0]:.2f} V at first, {volts[-1]:.2f} V at last. Is this a charge?")
