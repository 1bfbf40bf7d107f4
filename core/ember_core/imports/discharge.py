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

import csv
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
BEYOND = re.compile(r"^(.*?)\s*(?:_|/|\bin\b)\s*(ms|s|sec|min|h|hours?|mV|V|µA|uA|mA|A)$", re.IGNORECASE)
DOUBTFUL = 2.0  # times as near to the printed capacity one unit of time has to be as the next
MILLIAMPERES = 12.0  # more than that, without a unit, is not amperes of a gadget's cell
POSSIBLE_AH = (1e-3, 200.0)  # what cells hold; of a file whose times have no unit

UNITS: dict[str, dict[str, float]] = {
    "time": {"s": 1, "sec": 1, "ms": 1e-3, "min": 60, "h": 3600, "hour": 3600, "hours": 3600},
    "voltage": {"V": 1, "mV": 1e-3},
    "current": {"A": 1, "mA": 1e-3, "µA": 1e-6, "uA": 1e-6},
}
ALIASES = {
    "time": "time", "t": "time", "elapsed": "time", "voltage": "voltage", "v": "voltage", "volts": "voltage",
    "current": "current", "i": "current", "amps": "current", "zeit": "time", "seconds": "time", "elapsed time": "time",
    "timestamp": "time", "u": "voltage", "spannung": "voltage", "cell voltage": "voltage", "battery voltage": "voltage",
    "vbat": "voltage", "strom": "current", "load current": "current", "discharge current": "current", "ibat": "current",
}  # fmt: skip
_LIKELY = {"voltage": (0.5, 60.0), "current": (1e-6, 200.0)}


def read_discharge(raw: bytes, printed_ah: float | None = None) -> Discharge:
    """The discharge in a file. Where a heading has no unit it is guessed from the figures, that of the time with the cell's printed capacity [A h] where it is
    known. Raises DocumentError with what is wrong and where, and where a unit is in doubt."""
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
    headings = next(csv.reader([lines[0]], delimiter=delimiter))
    columns = _columns(headings)
    table = _numbers(lines[1:], delimiter, [k for k, _ in columns.values()], headings)
    series = {name: table[:, n] for n, name in enumerate(columns)}
    for name in ("voltage", "current", "time"):  # the time last: by the charge
        unit = columns[name][1] or _guessed(name, series, printed_ah)
        series[name] = series[name] * UNITS[name][unit]
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


def _columns(headings: list[str]) -> dict[str, tuple[int, str | None]]:
    """Where each series stands, and its unit; None where its heading has none."""
    found: dict[str, tuple[int, str | None]] = {}
    for k, heading in enumerate(headings):
        name, unit = unit_in_heading(heading.strip().strip('"'))
        if unit is None and (bare := BEYOND.match(name)):
            name, unit = bare.group(1), bare.group(2)
        role = ALIASES.get(re.sub(r"[\s_]+", " ", name.lower()).strip())
        if role is None or role in found:
            continue
        known = _known_unit(unit, role) if unit else None
        if unit and known is None:
            _refuse(role, f"{unit!r} is not a unit of {role}; write one of {', '.join(UNITS[role])}")
        found[role] = (k, known)
    for role in UNITS:
        if role not in found:
            _refuse(role, f"there is no column '{role}'; headings found: {', '.join(headings)[:200]}")
    return found


def _known_unit(unit: str, role: str) -> str | None:
    """As the table has it: "V" of "v", but "mA" of "MA" is nobody's wish."""
    if unit in UNITS[role]:
        return unit
    return next((u for u in UNITS[role] if u.lower() == unit.lower() and unit[:1] != "M"), None)


def _guessed(name: str, series: dict[str, Array], printed_ah: float | None) -> str:
    """The unit of a column whose heading has none. Cells have volts, not thousands of them; gadgets draw amperes up to a few, or milliamperes."""
    middle = float(np.median(np.abs(series[name])))
    if name == "voltage":
        return "mV" if middle > 100 else "V"
    if name == "current":
        return "mA" if middle > MILLIAMPERES else "A"
    amp_seconds = abs(float(np.trapezoid(series["current"], series["time"])))
    held = {unit: amp_seconds * scale / 3600 for unit, scale in (("s", 1), ("min", 60), ("h", 3600))}
    if printed_ah is not None:
        far = sorted((abs(np.log(max(ah, 1e-12) / printed_ah)), unit) for unit, ah in held.items())
        if far[1][0] - far[0][0] >= np.log(DOUBTFUL) and far[0][0] < np.log(3):
            return far[0][1]
    else:
        able = [unit for unit, ah in held.items() if POSSIBLE_AH[0] <= ah <= POSSIBLE_AH[1]]
        if "s" in able or not able:
            return "s"
    said = ", ".join(f"in {unit} it gave {show(ah, 'Ah')}" for unit, ah in held.items())
    _refuse("time", f"has no unit: {said}. Write the right one into its heading, as 'time [min]'")
    return "s"


def _numbers(rows: list[str], delimiter: str, columns: list[int], headings: list[str]) -> Array:
    """The wanted columns as an array; a decimal comma is understood, between quotes or where commas do not separate."""
    found = []
    for number, row in enumerate(csv.reader(rows, delimiter=delimiter), start=2):
        try:
            found.append([float(row[k].strip().replace(",", ".") or "x") for k in columns])
        except IndexError:
            _refuse(f"row {number}", f"has {len(row)} columns, and the heading has {len(headings)}")
        except ValueError:
            k = next(k for k in columns if not _is_number(row[k]))
            _refuse(f"row {number}", f"{row[k].strip()[:20]!r} under '{headings[k].strip()[:30]}' is not a number")
    table = np.array(found, dtype=float)
    if not np.isfinite(table).all():
        _refuse(f"row {int(np.flatnonzero(~np.isfinite(table).all(axis=1))[0]) + 2}", "is not a finite number")
    return table


def _is_number(text: str) -> bool:
    try:
        float(text.strip().replace(",", "."))
    except ValueError:
        return False
    return True


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
    if not low <= middle <= high:
        _refuse("voltage", f"is about {middle:g} V, not that of a cell or pack")
    amps = float(np.median(np.abs(series["current"])))
    if amps > _LIKELY["current"][1]:
        _refuse("current", f"is about {amps:g}: if these are milliamperes, write 'current [mA]' in the heading")
    if amps < _LIKELY["current"][0]:
        _refuse("current", "is nothing: the column has to hold what was drawn")
    few = max(volts.size // 50, 1)
    first, last = float(np.median(volts[:few])), float(np.median(volts[-few:]))
    if last >= first:
        _refuse("voltage", f"does not fall: {first:.2f} V at first, {last:.2f} V at last. Is this a charge?")
