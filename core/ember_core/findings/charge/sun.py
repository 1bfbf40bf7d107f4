"""Traps of charging by the sun: what a panel promises, what a day brings, and the days without."""

from __future__ import annotations

from collections.abc import Iterator

from ...design.patches import replace
from ...figures import Remedy
from ...measures.bench import TrialBench
from ...words import say
from ..found import Found

OPEN_PANEL = 1.22  # a panel without load gives so many times its working voltage; typical of silicon cells
PANEL_W_PER_CM2 = 0.022  # of good cells in full sun: 22 %
# days without sun that a solar gadget should stand, and those that it must; rules of thumb
AUTONOMY_D, LEAST_AUTONOMY_D = 5.0, 1.0


def panel_too_strong(bench: TrialBench) -> Iterator[Found]:
    """More peak power than such an area can give."""
    charger = bench.design.charger
    panel = charger.panel if charger else None
    if panel is None:
        return
    most = panel.area_cm2 * PANEL_W_PER_CM2
    if panel.peak_w <= most * 1.001:
        return
    yield Found(
        code="panel-power",
        severity="watch",
        step="charge",
        where="/charger/port/panel/peak_w",
        facts={"peak": (panel.peak_w, "W"), "most": (most, "W")},
        ways=lambda: [
            Remedy(
                label=say("way.reckon-with-power", power=(float(f"{most:.2g}"), "W")),
                patch=[replace("/charger/port/panel/peak_w", float(f"{most * 0.995:.2g}"))],
            )
        ],
    )


def too_little_sun(bench: TrialBench) -> Iterator[Found]:
    """What the panel brings on a usual day of its month is less than what a day takes."""
    day = bench.solar
    panel = bench.design.charger.panel if bench.design.charger else None
    if day is None or panel is None or not bench.design.parts or day.into_wh >= day.used_wh:
        return
    into, used = day.into_wh, day.used_wh
    goal = bench.design.brief.goal_h
    lasts = goal is not None and bench.runtime_s >= goal * 3600  # on its battery alone, which the panel only stretches
    larger = panel.peak_w * used / into * 1.2 if into > 0 else None
    yield Found(
        code="too-little-sun",
        severity="watch" if lasts else "fix",
        step="charge",
        where="/charger/port/panel",
        facts={"from_the_panel": (into, "Wh"), "used": (used, "Wh"), "sun": into > 0},
        ways=lambda: (
            []
            if larger is None or larger > 500
            else [
                Remedy(
                    label=say("way.a-panel-of", power=(float(f"{larger:.2g}"), "W")),
                    patch=[
                        replace("/charger/port/panel/peak_w", float(f"{larger:.2g}")),
                        replace(
                            "/charger/port/panel/area_cm2",
                            max(panel.area_cm2, float(f"{larger / PANEL_W_PER_CM2 * 1.02:.3g}")),
                        ),
                    ],
                )
            ]
        ),
    )


def dark_days(bench: TrialBench) -> Iterator[Found]:
    """The battery does not carry it through a few days without sun."""
    day, charger = bench.solar, bench.design.charger
    if (
        day is None
        or charger is None
        or not bench.design.parts
        or day.into_wh < day.used_wh
        or day.autonomy_d >= AUTONOMY_D
    ):
        return
    yield Found(
        code="dark-days",
        severity="fix" if day.autonomy_d < LEAST_AUTONOMY_D else "watch",
        step="charge",
        where="/charger/port/panel",
        facts={"autonomy": (day.autonomy_d, "d"), "usual": (AUTONOMY_D, "d")},
    )
