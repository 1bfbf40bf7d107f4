"""A recording as the load of the runtime prediction: the same battery, emptied by what was really drawn, over and over."""

from __future__ import annotations

from typing import Annotated, Any

import numpy as np
from pydantic import Field

from ..design import Design
from ..design.references import build_design
from ..figures import Figure, figure, record
from ..measures.bench import TrialBench
from ..solved.gadget import SolvedGadget
from ..words import called, say
from .recording import Recording

LEVELS = 16  # currents that a recording is reckoned with
LEAST_SHARE = 1e-5  # of the time: rarer currents count with their neighbours
LEAST_A = 1e-9
PERIOD_S = 600.0  # in which all levels come once
SOURCE = "the recorded currents in sixteen levels through the same battery model"


@record
class Replay:
    """How long it lasts if it goes on as recorded, and by the modes of its day; `sentence` says what that means."""

    runtime: Annotated[Figure | None, Field(description="null: hardly anything was drawn")]
    sentence: str


def replay(recording: Recording, bench: TrialBench) -> Replay:
    """Raises DocumentError where the recording is no load that a document may hold.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> import numpy as np
    >>> found = replay(Recording(np.arange(100) / 10, np.full(100, 0.02)), bench)
    >>> found.runtime.low < found.runtime.value < found.runtime.high
    True
    """
    if float(recording.charge_as[-1]) <= LEAST_A * recording.seconds:
        return Replay(runtime=None, sentence=say("traces.replay-nothing"))
    estimate = SolvedGadget(as_load(recording, bench)).estimate
    low, median, high = (x / 3600 for x in (estimate.low, estimate.median, estimate.high))
    inputs: list[tuple[str, float | None, str]] = [
        (called("mean-of-the-recording"), float(recording.charge_as[-1]) / recording.seconds, "A"),
        (called("mean-by-the-day"), bench.mean_a, "A"),
    ]
    told = figure("runtime-as-recorded", median, "h", inputs, SOURCE, low=low, high=high)
    own = bench.estimate
    sentence = say(
        "traces.replay",
        low=(low, "h"), high=(high, "h"), own_low=(own.low / 3600, "h"), own_high=(own.high / 3600, "h"),
    )  # fmt: skip
    return Replay(runtime=told, sentence=sentence)


def as_load(recording: Recording, bench: TrialBench) -> Design:
    """A design with the same battery and place, whose only part draws what was recorded, straight from the battery, and gives way at the voltage at which
    the gadget does.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> import numpy as np
    >>> load = as_load(Recording(np.arange(100) / 10, np.full(100, 0.02)), bench)
    >>> [part.name for part in load.parts], load.battery == design.battery
    (['Recorded'], True)
    """
    battery = "battery"
    shares, amps = levels(recording)
    volts = float(bench.usual.typical.terminal_v[:, bench.middle].mean())
    states = [
        {"name": f"level {i}", "draw": _draw(a, volts if _power(bench) else None), "provenance": "measured"}
        for i, a in enumerate(amps)
    ]
    part: dict[str, Any] = {"id": "recorded", "name": "Recorded", "rail": battery, "states": states}
    end_v = ending_v(bench)
    if end_v is not None:
        part["supply_min_v"] = end_v
    phases = [{"state": f"level {i}", "seconds": float(s) * PERIOD_S} for i, s in enumerate(shares)]
    use = {"part": "recorded", "state": "level 0", "burst": phases, "period_s": PERIOD_S}
    whole = bench.design.model_dump(mode="json")
    kept = {k: whole[k] for k in ("format", "name", "brief", "battery")}
    return build_design(
        kept
        | {
            "parts": [part],
            "modes": [{"id": "recorded", "name": "Recorded", "uses": [use]}],
            "supply": {"rails": [{"id": battery, "name": "Battery", "feed": "battery"}]},
            "day": {"rest": "recorded"},
            "enclosure": {"outer_mm": whole["enclosure"]["outer_mm"]},
        }
    )


def levels(recording: Recording) -> tuple[np.ndarray, np.ndarray]:
    """(shares of the time, mean currents [A]) of what was recorded, the highest first; their product adds up to its mean.

    >>> import numpy as np
    >>> shares, means = levels(Recording(np.arange(100) * 0.1, np.where(np.arange(100) < 50, 1e-3, 3e-3)))
    >>> round(float(shares.sum()), 6), round(float(shares @ means), 6)
    (1.0, 0.002)
    """
    amps, lasts = np.maximum(recording.current_a, 0.0), recording.lasts_s
    logs = np.log(np.maximum(amps, LEAST_A))
    edges = np.linspace(logs.min(), logs.max() + 1e-9, LEVELS + 1)[1:-1]
    k = np.digitize(logs, edges)
    time = np.bincount(k, lasts, LEVELS)
    drawn = np.bincount(k, lasts * amps, LEVELS)
    below_zero = max(float(recording.charge_as[-1]), 0.0) / max(float(drawn.sum()), 1e-30)  # noise that belongs to it
    charge = drawn * below_zero
    for i in range(LEVELS - 1):  # what is hardly ever there counts with the next higher level
        if time[i] < LEAST_SHARE * time.sum():
            time[i + 1], charge[i + 1] = time[i + 1] + time[i], charge[i + 1] + charge[i]
            time[i] = charge[i] = 0.0
    there = np.flatnonzero(time > 0)[::-1]
    return time[there] / time.sum(), charge[there] / time[there]


def _draw(amps: float, volts: float | None) -> dict[str, Any]:
    if volts is None:
        return {"behaviour": "current", "current_a": {"typical": amps}}
    return {"behaviour": "power", "power_w": {"typical": amps * volts}}


def _power(bench: TrialBench) -> bool:
    """Whether the gadget takes more current as the voltage falls, as behind a switching stage."""
    state = bench.usual
    used = state.works.all(axis=0)
    mean = state.point_weights @ state.typical.source_a
    last = int(np.flatnonzero(used)[-1]) if used.any() else mean.size - 1
    volts = state.typical.terminal_v.mean(axis=0)
    return bool(abs(mean[last] * volts[last] - mean[0] * volts[0]) < abs(mean[last] - mean[0]) * volts[0])


def ending_v(bench: TrialBench) -> float | None:
    """The battery's voltage under load at which the gadget gives way [V]; None: it runs until the battery is empty.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> round(ending_v(bench), 1)
    3.0
    """
    state = bench.usual
    mode, charge = state.ending
    if mode < 0:
        return None
    points = np.flatnonzero(state.loads.mode == mode)
    return float(min(state.at(charge, state.typical.terminal_v[p]) for p in points))
