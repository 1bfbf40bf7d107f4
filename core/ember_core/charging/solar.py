"""What a small panel gives on a usual day of a month: the sun's path exactly, the clouds by a table.

Daily irradiation outside the atmosphere, the share of it that the sky lets through (a stand-in table by latitude and month), its
diffuse part, and both on the tilted panel: J. A. Duffie and W. A. Beckman, *Solar Engineering of Thermal Processes*, 4th ed.
(2013), sec. 1.10, 2.12 (the diffuse share of Erbs and others) and 2.19. A place may differ from the table by a third.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..design import Panel

SOLAR_CONSTANT = 1367.0  # W / m2
MIDDLE_DAY = (17, 47, 75, 105, 135, 162, 198, 228, 258, 288, 318, 344)  # of each month (Klein)
CLEARNESS: dict[int, tuple[float, ...]] = {
    # share of the irradiation that reaches the ground on a usual day, December to June and back; north of the equator
    0: (0.50, 0.50, 0.50, 0.50, 0.49, 0.49, 0.49), 15: (0.56, 0.57, 0.58, 0.58, 0.56, 0.52, 0.48), 30: (0.50, 0.52, 0.54, 0.56, 0.58, 0.60, 0.62),
    45: (0.35, 0.38, 0.42, 0.45, 0.47, 0.49, 0.51), 60: (0.25, 0.30, 0.36, 0.42, 0.45, 0.47, 0.48), 75: (0.20, 0.25, 0.35, 0.45, 0.50, 0.50, 0.46),
    90: (0.25, 0.25, 0.30, 0.45, 0.50, 0.50, 0.46),
}  # fmt: skip
DERATING = 0.75  # warmth, dirt, the panel's working point and the angle of the light; a rule of thumb
GROUND = 0.2  # of the light that the ground throws back
SOURCE = "Duffie & Beckman (2013), ch. 1 and 2; clearness by a stand-in table"


@dataclass(frozen=True)
class DailyYield:
    """Of a usual day: hours of full sun on the panel, what the panel gives [W h], and the share of the light that the sky lets through."""

    sun_h: float
    energy_wh: float
    clearness: float
    source: str = SOURCE


def daily_yield(panel: Panel) -> DailyYield:
    """What a panel gives on a usual day of its month; south of the equator the months are half a year off.

    >>> from ember_core.design import Panel
    >>> found = daily_yield(Panel(peak_w=1.0, latitude_deg=50, month=6))
    >>> round(found.sun_h, 1), round(found.energy_wh, 1)
    (5.1, 3.8)
    """
    month = panel.month if panel.latitude_deg >= 0 else (panel.month + 5) % 12 + 1
    latitude = abs(panel.latitude_deg)
    clearness = _clearness(latitude, month)
    sun_h = tilted_kwh(latitude, month, panel.tilt_deg, clearness)
    return DailyYield(sun_h, panel.peak_w * sun_h * DERATING, clearness)


def _clearness(latitude: float, month: int) -> float:
    k = month % 12 if month <= 6 or month == 12 else 12 - month
    rows = sorted(CLEARNESS)
    upper = next(r for r in rows if r >= latitude)
    lower = max(r for r in rows if r <= latitude)
    part = 0.0 if upper == lower else (latitude - lower) / (upper - lower)
    return CLEARNESS[lower][k] * (1 - part) + CLEARNESS[upper][k] * part


def outside_kwh(latitude: float, month: int) -> float:
    """Daily irradiation on a level square metre outside the atmosphere [kWh/m2].

    >>> round(outside_kwh(50.0, 6), 1)
    11.5
    """
    day = MIDDLE_DAY[month - 1]
    declination, phi = _declination(day), math.radians(latitude)
    sunset = _sunset(phi, declination)
    distance = 1 + 0.033 * math.cos(2 * math.pi * day / 365)
    level = math.cos(phi) * math.cos(declination) * math.sin(sunset) + sunset * math.sin(phi) * math.sin(declination)
    return max(24 / math.pi * SOLAR_CONSTANT * distance * level / 1000, 0.0)


def tilted_kwh(latitude: float, month: int, tilt_deg: float, clearness: float) -> float:
    """Daily irradiation on the panel [kWh/m2], tilted towards the equator.

    >>> round(tilted_kwh(50.0, 12, 45.0, 0.4), 2)
    2.01
    """
    whole = outside_kwh(latitude, month) * clearness
    if whole <= 1e-9:
        return 0.0
    declination, phi, tilt = _declination(MIDDLE_DAY[month - 1]), math.radians(latitude), math.radians(tilt_deg)
    sunset = _sunset(phi, declination)
    level = math.cos(phi) * math.cos(declination) * math.sin(sunset) + sunset * math.sin(phi) * math.sin(declination)
    seen = min(sunset, _sunset(phi - tilt, declination))
    facing = math.cos(phi - tilt) * math.cos(declination) * math.sin(seen) + seen * math.sin(phi - tilt) * math.sin(
        declination
    )
    beam_factor = min(max(facing, 0.0) / max(level, 0.02), 6.0)  # a sun that hardly rises
    diffuse = _diffuse_share(clearness, sunset)
    sky, ground = (1 + math.cos(tilt)) / 2, (1 - math.cos(tilt)) / 2
    return whole * ((1 - diffuse) * beam_factor + diffuse * sky + GROUND * ground)


def _declination(day: int) -> float:
    return math.radians(23.45) * math.sin(2 * math.pi * (284 + day) / 365)


def _sunset(phi: float, declination: float) -> float:
    """Half the day's length as an angle, 0..pi."""
    phi = min(max(phi, -math.pi / 2 + 1e-9), math.pi / 2 - 1e-9)
    return math.acos(min(max(-math.tan(phi) * math.tan(declination), -1.0), 1.0))


def _diffuse_share(clearness: float, sunset: float) -> float:
    """Of a month's mean day (Erbs, Klein and Duffie)."""
    k = min(max(clearness, 0.3), 0.8)
    if sunset <= math.radians(81.4):
        return 1.391 - 3.560 * k + 4.189 * k**2 - 2.137 * k**3
    return 1.311 - 3.022 * k + 3.427 * k**2 - 1.821 * k**3
