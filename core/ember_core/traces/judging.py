"""What a recording says of a design: each mode as it was measured beside its estimate, what would explain the difference, and what it does to the runtime."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from pydantic import Field

from ..bringup import BringUp, JudgedReading, Read, TakenReadings, bring_up, judge_reading, take_readings
from ..figures import record
from ..measures.bench import TrialBench
from ..words import say
from .assigned import Assigned, overlaid
from .cutting import Stretch, cut
from .phases import TracePhase, trace_phases
from .recording import Recording
from .replay import ending_v

ALIKE = 1.15  # times as much as the other: modes that the current alone does not tell apart
SHORTEST_PHASE = 3.0  # samples that the shortest phase of a burst has to have
MOSTLY = 2 / 3  # of the gaps lie where the current jumps: the meter changed its range
FOR_OFFSET = 3  # modes at least, to tell an offset from what one of them draws
FOR_CLOCK = 5  # times at least, to tell an interval
CLOCK = 0.01  # of an interval: a clock that is off, and how regular what is compared has to be
OTHER_INTERVAL = 0.25  # further off it is another interval, not a clock
MOST_STRETCHES = 2000


@record
class TraceStretch:
    mode: Annotated[int | None, Field(description="null: no mode of the design explains it")]
    begin_s: float
    end_s: float
    mean_a: float


@record
class TraceMode:
    """One mode as it was measured. `mode` is null for what nothing explains."""

    mode: int | None
    name: str
    seconds: float
    times: int
    share: Annotated[float, Field(description="of all that was drawn, 0..1")]
    mean_a: float
    peak_a: float
    every_s: Annotated[
        float | None, Field(description="from one beginning to the next, in the middle; null: it came once")
    ]
    judged: JudgedReading | None
    phases: Annotated[list[TracePhase], Field(description="of a mode that has several, the highest first")]
    by_place: Annotated[bool, Field(description="named for when it comes: its current is another one")]


@record
class TraceAnswer:
    seconds: float
    samples: int
    mean_a: float
    charge_ah: float
    volts: Annotated[float, Field(description="the battery's: as recorded, or at half charge by the design [V]")]
    modes: list[TraceMode]
    stretches: list[TraceStretch]
    notes: Annotated[list[str], Field(description="what is wrong with the measurement itself")]
    missing: Annotated[list[str], Field(description="modes of the day that were not seen")]
    all_taken: Annotated[
        TakenReadings | None, Field(description="puts all that was measured into the design; null: fewer than two")
    ]


def judge_trace(
    recording: Recording, bench: TrialBench, assigned: list[Assigned] | None = None, source: str = ""
) -> TraceAnswer:
    """Cuts a recording and holds it against the design; what was said of it by hand (`assigned`) goes before the cut. `source` is
    noted with the figures that are taken over.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> from ember_core.traces import simulated
    >>> recording, truth = simulated(bench, 60.0, 100.0, 1)
    >>> answer = judge_trace(recording, bench)
    >>> [mode.name for mode in answer.modes]
    ['Asleep', 'Playing', 'What no mode explains']
    """
    found, sheet = overlaid(recording, cut(recording, bench), assigned or [], bench.design), bring_up(bench)
    design, total = bench.design, float(recording.charge_as[-1])
    rows = []
    for mode in [*range(len(design.modes)), None]:
        own = [s for s in found if s.mode == mode]
        if not own:
            continue
        seconds = sum(_seconds(recording, s) for s in own)
        charge = sum(float(recording.charge_as[s.last] - recording.charge_as[s.first]) for s in own)
        mean = charge / seconds if seconds else 0.0
        begins = np.diff([float(recording.time_s[s.first]) for s in own])
        key = f"mode-{design.modes[mode].id}" if mode is not None else ""
        rows.append(
            TraceMode(
                mode=mode,
                name=design.modes[mode].name if mode is not None else say("traces.unknown"),
                seconds=seconds,
                times=len(own),
                share=charge / total if total else 0.0,
                mean_a=mean,
                peak_a=max(float(recording.current_a[s.first : s.last].max()) for s in own),
                every_s=float(np.median(begins)) if begins.size else None,
                judged=judge_reading(bench, Read(key, max(mean, 0.0), source=source), sheet=sheet, doubt=False)
                if any(x.key == key for x in sheet.steps)
                else None,
                phases=[] if mode is None else trace_phases(recording, bench, mode, own),
                by_place=any(s.by_place for s in own),
            )
        )
    seen = {s.mode for s in found}
    return TraceAnswer(
        seconds=recording.seconds,
        samples=int(recording.time_s.size),
        mean_a=total / recording.seconds,
        charge_ah=total / 3600,
        volts=_volts(recording, bench),
        modes=rows,
        stretches=[
            TraceStretch(
                mode=s.mode,
                begin_s=float(recording.time_s[s.first]),
                end_s=_end_s(recording, s),
                mean_a=recording.mean_a(s.first, s.last),
            )
            for s in found[:MOST_STRETCHES]
        ],
        notes=_notes(recording, bench)
        + _offset(bench, sheet, rows)
        + _clock(bench, rows, found, recording)
        + _alike(bench, seen),
        all_taken=take_readings(
            bench, [Read(m.judged.key, max(m.mean_a, 0.0), source=source) for m in rows if m.judged], sheet=sheet
        ),
        missing=[m.name for k, m in enumerate(design.modes) if bench.usual.shares[k] > 0 and k not in seen],
    )


def trace_text(answer: TraceAnswer) -> str:
    """An answer as lines of text.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> from ember_core.traces import simulated
    >>> recording, truth = simulated(bench, 60.0, 100.0, 1)
    >>> answer = judge_trace(recording, bench)
    >>> all(mode.name in trace_text(answer) for mode in answer.modes)
    True
    """
    lines = [
        say(
            "traces.whole",
            samples=(answer.samples, ""),
            seconds=(answer.seconds, "s"),
            mean=(answer.mean_a, "A"),
            charge=(answer.charge_ah, "Ah"),
        )
    ]
    for mode in answer.modes:
        lines.append(
            say(
                "traces.mode",
                mode=mode.name,
                times=(mode.times, ""),
                seconds=(mode.seconds, "s"),
                mean=(mode.mean_a, "A"),
                peak=(mode.peak_a, "A"),
                share=(mode.share * 100, "%"),
            )
        )
        lines += [f"    - {p.name}: {p.sentence}" for p in mode.phases]
        if mode.judged is not None:
            lines.append(f"    {mode.judged.sentence}")
            lines += [f"    - {c.text}" for c in mode.judged.causes]
    lines += [f"! {note}" for note in answer.notes]
    return "\n".join(lines)


def _offset(bench: TrialBench, sheet: BringUp, rows: list[TraceMode]) -> list[str]:
    """One current that all modes read too much, or too little: the meter's zero, or what draws always."""
    steps = {s.key: s for s in sheet.steps}
    known = [
        (m.mode, m.mean_a, s)
        for m in rows
        if m.mode is not None and (s := steps.get(f"mode-{bench.design.modes[m.mode].id}")) is not None
    ]
    rest = next(((amps, s) for mode, amps, s in known if mode == bench.rest), None)
    if rest is None or len(known) < FOR_OFFSET:
        return []
    off = rest[0] - (rest[1].expected or 0.0)

    def outside(less: float) -> int:
        return sum(not (s.low or 0.0) <= amps - less <= (s.high or np.inf) for _, amps, s in known)

    if outside(0.0) < 2 or outside(off):
        return []
    return [say("traces.offset", off=(abs(off), "A"), more=off > 0)]


def _clock(bench: TrialBench, rows: list[TraceMode], found: list[Stretch], recording: Recording) -> list[str]:
    """Wakes that come as regularly as a clock, only at another interval than the design says."""
    off: dict[str, tuple[float, float]] = {}
    for row in rows:
        wakes = [
            w for w in bench.design.day.wakes if row.mode is not None and bench.design.modes[row.mode].id == w.mode
        ]
        begins = np.array([float(recording.time_s[s.first]) for s in found if s.mode == row.mode])
        if len(wakes) != 1 or begins.size < FOR_CLOCK:
            continue
        between = np.diff(begins)
        usual = float(np.median(between))
        jitter = float(np.median(np.abs(between - usual))) / usual
        ratio = usual / wakes[0].every_s
        if jitter <= CLOCK < abs(ratio - 1) < OTHER_INTERVAL:
            off[row.name] = (usual, wakes[0].every_s)
    ratios = [seen / told for seen, told in off.values()]
    if len(ratios) > 1 and max(ratios) - min(ratios) <= CLOCK:  # all alike: hardly the firmware
        share = 100 * abs(float(np.median(ratios)) - 1)
        return [say("traces.clock", share=(share, "%"), slow=float(np.median(ratios)) < 1)]
    return [say("traces.interval", mode=name, seen=(seen, "s"), told=(told, "s")) for name, (seen, told) in off.items()]


def _alike(bench: TrialBench, seen: set[int | None]) -> list[str]:
    """Pairs of modes that draw nearly the same: only how long they last tells them apart."""
    amps = bench.usual.mode_current_a[:, bench.middle]
    known = sorted(m for m in seen if m is not None and amps[m] > 0)
    return [
        say("traces.alike", first=bench.design.modes[a].name, second=bench.design.modes[b].name)
        for i, a in enumerate(known)
        for b in known[i + 1 :]
        if max(amps[a], amps[b]) < ALIKE * min(amps[a], amps[b])
    ]


def _volts(recording: Recording, bench: TrialBench) -> float:
    usual = recording.facts.usual_v
    state = bench.usual
    return float(state.point_weights @ state.typical.terminal_v[:, bench.middle]) if np.isnan(usual) else usual


def _seconds(recording: Recording, stretch: Stretch) -> float:
    return float(recording.elapsed_s[stretch.last] - recording.elapsed_s[stretch.first])


def _end_s(recording: Recording, stretch: Stretch) -> float:
    return float(recording.time_s[stretch.last - 1] + recording.step_s)


def _notes(recording: Recording, bench: TrialBench) -> list[str]:
    """What of the measurement is not to be trusted, and what would do."""
    notes, facts = [], recording.facts
    if facts.turned:
        notes.append(say("traces.turned"))
    if facts.dropped:
        notes.append(say("traces.dropped", count=(facts.dropped, "")))
    if facts.gaps:
        by_range = facts.gaps > 1 and facts.at_jumps > MOSTLY * facts.gaps
        notes.append(say("traces.ranging" if by_range else "traces.gaps", count=(facts.gaps, "")))
    if not np.isnan(facts.saturated_a):
        notes.append(say("traces.saturated", amps=(facts.saturated_a, "A")))
    if facts.negative_a:
        notes.append(say("traces.negative", amps=(facts.negative_a, "A")))
    end_v = ending_v(bench)
    if end_v is not None and facts.least_v < end_v:
        notes.append(say("traces.burden", least=(facts.least_v, "V"), end=(end_v, "V"), usual=(facts.usual_v, "V")))
    phases = [x.seconds for x in bench.usual.operating_points if x.seconds]
    shortest = min(phases, default=None)
    if shortest is not None and facts.step_s > shortest / SHORTEST_PHASE:
        notes.append(
            say(
                "traces.slow",
                step=(facts.step_s, "s"),
                phase=(shortest, "s"),
                step_wanted=(shortest / SHORTEST_PHASE, "s"),
            )
        )
    return notes
