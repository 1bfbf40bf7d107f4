"""What the firmware needs to know of the battery: voltage under the usual load to charge left, and when to stop."""

from __future__ import annotations

import csv
import io
import re

import numpy as np

from ..figures import Figure, figure, record
from ..measures.bench import TrialBench
from ..runtime.run import Run, with_battery
from ..words import called, say

ROWS = 21
RESERVE = 0.05  # of the charge, kept for saving and saying goodbye
SOURCE = "terminal voltage at the mean load over the charge that the gadget can use"


@record
class SocRow:
    """Charge left of what the gadget can use (100 full, 0 where it stops) [%], and the voltage under load [V]."""

    left_percent: float
    usual_v: float
    coldest_v: float


@record
class SocTable:
    """`threshold` is where the firmware should save and stop, `last` where the first essential mode fails."""

    rows: list[SocRow]
    threshold: Figure
    last: Figure
    sentence: str
    csv: str
    header: str


def answer_soc_table(bench: TrialBench) -> SocTable | None:
    """The table and the threshold; None while nothing is drawn."""
    design = bench.design
    if not design.parts:
        return None
    usual = bench.usual
    cold = with_battery(usual, design.battery, design.brief.coldest_c)
    left = np.linspace(1.0, 0.0, ROWS)
    rows = [
        SocRow(left_percent=round(float(x) * 100, 6), usual_v=_volts(usual, float(x)), coldest_v=_volts(cold, float(x)))
        for x in left
    ]
    inputs: list[tuple[str, float | None, str]] = [
        (called("charge-left-where-it-fails"), usual.ending[1], "share"), (called("kept-as-a-reserve"), RESERVE, "share"),
    ]  # fmt: skip
    stop, end = _volts(usual, RESERVE), _volts(usual, 0.0)
    threshold = figure("stop-below", stop, "V", inputs, SOURCE)
    last = figure("fails-at", end, "V", inputs[:1], SOURCE)
    flat = _flatness(rows)
    begins, ends, change = flat or (None, None, None)
    sentence = say(
        "charge-left.stop",
        **{"stop": (stop, "V"), "left": (RESERVE, "share"), "from": (begins, "%")},
        to=(ends, "%"),
        change=(change, "V"),
    )
    return SocTable(rows=rows, threshold=threshold, last=last, sentence=sentence, csv=_csv(rows),
                       header=_header(bench, rows, stop))  # fmt: skip


def _volts(state: Run, left: float) -> float:
    """Terminal voltage at the mean load where a share of the usable charge is left [V]."""
    mean = state.point_weights @ state.typical.terminal_v
    end = state.ending[1]
    return float(f"{state.at(end + left * (1 - end), mean):.4f}")


def _flatness(rows: list[SocRow]) -> tuple[float, float, float] | None:
    """(from %, to %, change in V) of the middle where it changes least, if that is too little to read."""
    high, low = (next(r for r in rows if r.left_percent == p) for p in (80.0, 30.0))
    change = high.usual_v - low.usual_v
    return (low.left_percent, high.left_percent, change) if change < 0.03 * high.usual_v else None


def _csv(rows: list[SocRow]) -> str:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["left_percent", "usual_v", "coldest_v"])
    writer.writerows([f"{r.left_percent:g}", f"{r.usual_v:.3f}", f"{r.coldest_v:.3f}"] for r in rows)
    return out.getvalue()


def _header(bench: TrialBench, rows: list[SocRow], stop_v: float) -> str:
    """The table as a C header in millivolts and per cent, falling, for a search from the top."""
    design = bench.design
    name = re.sub(r"[^A-Z0-9]+", "_", design.name.upper()).strip("_") or "GADGET"
    name = name if name[0].isalpha() else f"G_{name}"
    title, cell = (re.sub(r"[^\x20-\x7e]|\*/|\\", "", t) for t in (design.name, design.battery.cell.name))
    series = f"{design.battery.series} x {cell}" if design.battery.series > 1 else cell
    table = "\n".join(f"    {{{round(r.usual_v * 1000)}, {round(r.left_percent)}}}," for r in rows)
    return f"""/* {title}: battery voltage at the usual load to charge left.
 * {series}, {design.brief.usual_c:g} degC. An estimate: check it on the real gadget. */
#ifndef {name}_SOC_H
#define {name}_SOC_H

#include <stdint.h>

#define {name}_STOP_BELOW_MV {round(stop_v * 1000)}u /* save and stop: {RESERVE:.0%} left */

typedef struct {{
    uint16_t millivolt;
    uint8_t percent;
}} {name.lower()}_soc_row;

static const {name.lower()}_soc_row {name}_SOC[{len(rows)}] = {{
{table}
}};

#endif
"""
