"""The fall of charge and voltage over the runtime, as a small picture for paper."""

from __future__ import annotations

import numpy as np

from ..figures import Figure
from ..quantities import show
from ..reports.battery import Timeline

WIDTH, HEIGHT = 480.0, 190.0
LEFT, RIGHT, TOP, BOTTOM = 8.0, 8.0, 20.0, 26.0


def fall_picture(timeline: Timeline, total: Figure) -> str:
    """Voltage (thick) and charge (thin) from full to the end, with the cut-off and what the ends are in words."""
    time = np.asarray(timeline.time_h)
    ends = float(time[-1]) or 1.0
    x = LEFT + time / ends * (WIDTH - LEFT - RIGHT)
    volts = np.asarray(timeline.mean_v)
    low, high = min(timeline.cutoff_v, float(volts.min())) * 0.97, float(volts.max()) * 1.02

    def up(share: np.ndarray) -> np.ndarray:
        return TOP + (1 - share) * (HEIGHT - TOP - BOTTOM)

    def path(y: np.ndarray) -> str:
        return "M" + "L".join(f"{a:.1f} {b:.1f}" for a, b in zip(x, y, strict=True))

    level = float(up(np.asarray((timeline.cutoff_v - low) / (high - low))))
    base = HEIGHT - BOTTOM
    text = 'font-family="Hanken Grotesk" font-size="10" fill="#635b4f"'
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH:g} {HEIGHT:g}">'
        f'<path d="M{LEFT} {base}H{WIDTH - RIGHT}" stroke="#d3c9b8" fill="none"/>'
        f'<path d="M{LEFT} {level:.1f}H{WIDTH - RIGHT}" stroke="#635b4f" stroke-dasharray="4 3" fill="none"/>'
        f'<path d="{path(up(np.asarray(timeline.charge)))}" stroke="#8d8370" stroke-width="1" fill="none"/>'
        f'<path d="{path(up((volts - low) / (high - low)))}" stroke="#d9541e" stroke-width="2" fill="none"/>'
        f'<text x="{LEFT}" y="{TOP - 8}" {text}>{show(float(volts[0]), "V")}</text>'
        f'<text x="{WIDTH - RIGHT}" y="{level - 4:.1f}" text-anchor="end" {text}>{show(timeline.cutoff_v, "V")}</text>'
        f'<text x="{LEFT}" y="{HEIGHT - 9}" {text}>0</text>'
        f'<text x="{WIDTH - RIGHT}" y="{HEIGHT - 9}" text-anchor="end" {text}>{show(total.value, total.unit)}</text>'
        "</svg>"
    )
