"""A run-down test: the battery's voltage from full to dead, and what it says on the way and afterwards.

On the way: a grid over what nobody knows exactly (how much longer than the design it lasts, how full it began, the resistance, what the meter shows too much), each
point weighed by its prior and by how well the model's voltage then follows the recorded one (Bayes' rule; a voltage model is wrong for whole stretches
and not for single samples, so that many samples count as `INDEPENDENT` ones). Afterwards: the logarithm of how much longer it lasted than told, in terms of
load, cell and cut-off, which add up.
"""

from __future__ import annotations

import io
import math
from dataclasses import dataclass
from dataclasses import replace as replaced
from typing import Annotated, Any

import numpy as np
from pydantic import Field

from ..battery.chemistries import CHEMISTRIES
from ..battery.pack import MEASURED_RESISTANCE, OUTER_DECILE, RESISTANCE, capacity_tolerance, usual_share
from ..design.patches import replace
from ..figures import Figure, Remedy, figure, record
from ..measures.bench import TrialBench
from ..numeric import Array
from ..runtime.in_the_cold import coldness, spread_in_the_cold
from ..runtime.run import Run
from ..runtime.uncertainty import FULL_AT_LEAST
from ..words import called, say
from .recording import Recording

MOST_KEPT = 4000  # points of a course
LOOKED_AT = 80  # of them that are weighed
# Of held-out published cells (core/tests/test_rundown.py): one standard deviation of the model's voltage of one cell, typical and measured, and how many
# voltages that are wrong by themselves a course has. Eight of ten ends lie in the range then, also from the first quarter.
INDEPENDENT = 2.0
TYPICAL_V, MEASURED_V = 0.11, 0.015
COLD_V = 0.06  # besides, from freezing down; above it falls off quickly, to nothing at 25 degC
GAIN = 0.005  # one standard deviation of what a voltmeter shows too much, as a share
LEAST_SPREAD = 0.02  # of the logarithm of how much longer it lasts
FEWEST_POINTS = 20
LEAST_DONE = 0.02  # of the time told: before, nothing can be said
BEGAN = 0.985  # said where nine of ten ways that it may be began less full
OFF = 0.006  # said from there on: the meter shows so much too much or too little
NEAR_END, MOST_OFF = (
    0.15,
    0.7,
)  # of the logarithm: it came near the design's end; a cell that holds so much less or more is another one
MEASURED_AH = "/battery/cell/measured_ah"
ROUNDS, CLOSE = 8, 0.003
OVER = 0.05  # of the mean current: with less at its end the gadget is off
SOURCE = "the recorded voltage weighed against the battery model (Bayes' rule)"


@dataclass(frozen=True)
class Course:
    """Time [s], the battery's voltage [V] and, where it was recorded, the current drawn [A], (points,)."""

    time_s: Array
    volts: Array
    amps: Array | None

    def packed(self) -> bytes:
        out = io.BytesIO()
        more = {} if self.amps is None else {"amps": self.amps}
        arrays: dict[str, Any] = {"time_s": self.time_s, "volts": self.volts.astype(np.float32), **more}
        np.savez_compressed(out, **arrays)
        return out.getvalue()

    @classmethod
    def begun(cls, volts: float, amps: float | None = None) -> Course:
        """A course of one point."""
        return cls(np.zeros(1), np.array([volts]), None if amps is None else np.array([amps]))

    def with_point(self, at_s: float, volts: float, amps: float | None = None) -> Course:
        """One point more, with a current where the others have one; where there are too many to keep, every other one of those before goes."""
        step = 2 if self.time_s.size >= MOST_KEPT else 1
        drawn = None if self.amps is None or amps is None else np.append(self.amps[::step], amps)
        return Course(np.append(self.time_s[::step], at_s), np.append(self.volts[::step], volts), drawn)

    @property
    def drawn_ah(self) -> Array | None:
        """What was drawn up to each point [A h], None where no current was recorded."""
        if self.amps is None:
            return None
        steps = np.diff(self.time_s) * (self.amps[1:] + self.amps[:-1]) / 2
        return np.concatenate([[0.0], np.cumsum(steps)]) / 3600


def course_of(recording: Recording) -> Course:
    """A recorded voltage made small: means of equally long whiles.

    >>> from ember_core.traces import Recording
    >>> one = Recording(np.arange(100.0), np.full(100, 0.1), 4 - np.arange(100) / 1000)
    >>> course = course_of(one)
    >>> round(float(course.drawn_ah[-1]) * 3600, 1)
    9.9
    """
    assert recording.volts is not None
    count = recording.time_s.size
    size = -(-count // MOST_KEPT)
    starts = np.arange(0, count, size)
    counts = np.diff(np.append(starts, count))
    time, volts = (np.add.reduceat(x, starts) / counts for x in (recording.time_s, recording.volts))
    amps = None if np.isnan(recording.current_a).any() else np.add.reduceat(recording.current_a, starts) / counts
    return Course(time - time[0], volts, amps)


def unpacked_course(raw: bytes) -> Course:
    """A course as `Course.packed` kept it.

    >>> from ember_core.traces import Recording
    >>> course = course_of(Recording(np.arange(100.0), np.full(100, 0.1), 4 - np.arange(100) / 1000))
    >>> round(float(unpacked_course(course.packed()).volts[-1]), 3)
    3.901
    """
    with np.load(io.BytesIO(raw), allow_pickle=False) as found:
        amps = found["amps"].astype(np.float64) if "amps" in found else None
        return Course(found["time_s"].astype(np.float64), found["volts"].astype(np.float64), amps)


@record
class RunDownTerm:
    """How much longer (above 0) or shorter it lasted for one reason, as a share of what was told; `log` are the terms that add up."""

    name: str
    share: float
    log: float


@record
class RunDown:
    """A run-down test up to now. `left` of what was in it when it began, 0..1."""

    over: bool
    elapsed: Figure
    told: Figure
    ends: Annotated[Figure | None, Field(description="when it ends, from its beginning; null: too early to say")]
    left: float | None
    sentence: str
    notes: list[str]
    terms: Annotated[list[RunDownTerm], Field(description="once it is over: why it lasted longer or shorter than told")]
    remedy: Annotated[Remedy | None, Field(description="puts what the cell really held into the design")]
    runtime_h: Annotated[float | None, Field(description="the runtime that this gives [h]")]
    time_h: list[float]
    volts: list[float]
    model_time_h: list[float]
    model_v: list[float]


@dataclass(frozen=True)
class _Weighed:
    """Every way that it may be, with its weight: when it ends [s], how full it is now, and its own figures."""

    weight: Array
    ends_s: Array
    charge: Array
    began: Array
    gain: Array
    longer: Array
    to_end: Array  # progress from the beginning to the cut-off


def judge_rundown(
    course: Course, design: TrialBench, *, over: bool | None = None, at_c: float | None = None
) -> RunDown:
    """`over`: whether the gadget had died at the end of it; None: seen by its current, where that was recorded. `at_c`: how cold or warm it was meanwhile [degC];
    None: as on the design's usual days.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> from ember_core.traces import simulated_run_down
    >>> answer = judge_rundown(simulated_run_down(bench, 0.5, 1), bench)
    >>> answer.over
    False
    """
    if course.amps is not None and float(np.median(course.amps)) < 0:  # the meter lies the other way round
        course = replaced(course, amps=-course.amps)
    ended = _died(course) if over is None else over
    bench = design if at_c is None else design.at(at_c)
    elapsed, told_s = float(course.time_s[-1]), bench.runtime_s
    notes, sentence, terms = list[str](), "", list[RunDownTerm]()
    ends: Figure | None = None
    left: float | None = None
    keep = np.unique(np.linspace(0, course.time_s.size - 1, min(course.time_s.size, 300)).astype(int))
    model: tuple[Array, Array] = (np.empty(0), np.empty(0))
    inputs: list[tuple[str, float | None, str]] = [(called("time-so-far"), elapsed / 3600, "h"), (called("told-before"), told_s / 3600, "h")]  # fmt: skip
    if told_s <= 0 or elapsed < LEAST_DONE * told_s:
        sentence = say("traces.rundown-early", told=(told_s / 3600, "h"))
    else:
        weighed = _weigh(course, bench)
        low, median, high = _percentiles(weighed.ends_s, weighed.weight, (10, 50, 90))
        left = max(_percentiles(weighed.charge, weighed.weight, (50,))[0], 0.0)
        notes = _notes(weighed)
        model = _modelled(course, bench, weighed)
        if ended:
            terms = _terms(course, bench, weighed)
            sentence = say("traces.rundown-over", lasted=(elapsed / 3600, "h"), told=(told_s / 3600, "h"))
        else:
            ends = figure("run-down-ends", median / 3600, "h", inputs, SOURCE, low=low / 3600, high=high / 3600)
            sentence = say(
                "traces.rundown",
                left=(left * 100, "%"), low=(low / 3600, "h"), high=(high / 3600, "h"), told=(told_s / 3600, "h"),
                more_low=((low - elapsed) / 3600, "h"), more_high=((high - elapsed) / 3600, "h"),
            )  # fmt: skip
    cold = bench is not design and _tells_the_cold(bench)
    if cold and ended:
        notes.append(say("traces.rundown-cold", at=(bench.usual.temperature_c, "°C")))
    remedy = _measured(bench, terms) if ended and course.amps is not None and not cold else None
    hours = None if remedy is None else design.after(remedy.patch).seconds * design.typical_to_said / 3600
    own = bench.estimate
    return RunDown(
        over=ended,
        elapsed=figure("run-down-so-far", elapsed / 3600, "h", inputs[:1], SOURCE),
        told=figure("run-down-told", told_s / 3600, "h", inputs[1:], SOURCE, low=own.low / 3600, high=own.high / 3600),
        ends=ends,
        left=left,
        sentence=sentence,
        notes=notes,
        terms=terms,
        remedy=remedy,
        runtime_h=hours,
        time_h=(course.time_s[keep] / 3600).tolist(),
        volts=course.volts[keep].tolist(),
        model_time_h=(model[0] / 3600).tolist(),
        model_v=model[1].tolist(),
    )


def rundown_text(answer: RunDown) -> str:
    """An answer as lines of text.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> from ember_core.traces import simulated_run_down
    >>> answer = judge_rundown(simulated_run_down(bench, 0.5, 1), bench)
    >>> rundown_text(answer).splitlines()[0] == answer.sentence
    True
    """
    lines = [answer.sentence]
    lines += [
        say("traces.rundown-term", name=t.name, share=(abs(t.share) * 100, "%"), longer=t.share >= 0)
        for t in answer.terms
    ]
    lines += [f"> {answer.remedy.label}"] if answer.remedy else []
    return "\n".join([*lines, *(f"! {note}" for note in answer.notes)])


def _died(course: Course) -> bool:
    amps = course.amps
    return amps is not None and amps.size > 1 and float(amps[-1]) < OVER * float(amps.mean())


def _progress(course: Course, bench: TrialBench) -> tuple[Array, Array]:
    """(what has been gone through at each point, the same on the model's grid of states of charge): charge where the current was recorded, with what the cell
    loses by itself, otherwise time at the design's own load."""
    state = bench.usual
    gone = _gone_ah(course, bench)
    if gone is None:
        return course.time_s, state.elapsed_s
    return gone, (1 - state.pack.charge) * state.pack.capacity_ah


def _gone_ah(course: Course, bench: TrialBench) -> Array | None:
    drawn = course.drawn_ah
    return None if drawn is None else np.asarray(drawn + bench.usual.pack.self_discharge_a * course.time_s / 3600)


def _weigh(course: Course, bench: TrialBench) -> _Weighed:
    state, pack, cell = bench.usual, bench.usual.pack, bench.design.battery.cell
    done, grid = _progress(course, bench)
    rising = pack.charge[::-1]
    weights = state.point_weights / state.point_weights.sum()
    model_v = weights @ state.typical.terminal_v
    drop_v = pack.steady_ohm * (weights @ state.typical.source_a)
    keep = np.unique(np.linspace(0, course.time_s.size - 1, LOOKED_AT).astype(int))
    seen, at = course.volts[keep], done[keep]

    longer, p_longer = _axis(_spread(course, bench), 121)
    longer = longer + _centre(bench)
    rechargeable = CHEMISTRIES[cell.chemistry].rechargeable and cell.bank is None
    began = np.linspace(0.9, 1.0, 21) if rechargeable else np.array([1.0])
    p_began = -0.5 * ((1 - began) / ((1 - FULL_AT_LEAST) / OUTER_DECILE)) ** 2
    measured = cell.curve is not None or cell.measured_ohm is not None
    base = math.log(MEASURED_RESISTANCE if measured else RESISTANCE)
    least, most = (math.hypot(base, math.log(f)) / OUTER_DECILE for f in spread_in_the_cold(state)[1])
    ohms, p_ohms = _axis(most, 7 if least == most else 11, wide=2.0)
    ohms = np.where(ohms < 0, ohms * least / most, ohms)
    gains = np.linspace(-2.5, 2.5, 11) * GAIN
    p_gains = -0.5 * (gains / GAIN) ** 2

    first = np.interp(began, rising, grid[::-1])  # progress that lies before its beginning
    point = first[None, :, None] + at[None, None, :] / np.exp(longer)[:, None, None]
    charge = np.interp(point, grid, pack.charge)
    volts = np.interp(charge, rising, model_v[::-1])
    drop = np.interp(charge, rising, drop_v[::-1])
    beyond = np.maximum(point - grid[-1], 0.0).sum(axis=2) > 0  # it would have been empty long before
    known_v = MEASURED_V if cell.curve is not None else TYPICAL_V
    sigma = math.hypot(known_v, COLD_V * coldness(state.temperature_c) ** 2) * bench.design.battery.series
    # the mean square of seen - (1 + gain) (volts - (ohm - 1) drop), multiplied out: of each way only six means are needed
    seen_v, seen_drop, volts_v, volts_drop, drops = (
        np.mean(a * b, axis=2)[..., None, None]
        for a, b in ((seen, volts), (seen, drop), (volts, volts), (volts, drop), (drop, drop))
    )
    more, times = (np.exp(ohms) - 1)[:, None], 1 + gains
    square = float(np.mean(seen**2)) - 2 * times * (seen_v - more * seen_drop)
    square = square + times**2 * (volts_v - 2 * more * volts_drop + more**2 * drops)
    log = -0.5 * INDEPENDENT * square / sigma**2 + p_ohms[:, None] + p_gains
    log += p_longer[:, None, None, None] + p_began[None, :, None, None]
    log[beyond] = -np.inf
    if not np.isfinite(log).any():
        log = np.where(np.isfinite(log), log, 0.0)
    weight = np.exp(log - log.max())

    end_charge = _end_charge(bench, model_v, drop_v, np.exp(ohms))
    end = np.interp(end_charge, rising, grid[::-1])
    to_end = np.exp(longer)[:, None, None] * np.maximum(end[None, None, :] - first[None, :, None], 0.0)
    ends_s = _when(course, bench, to_end, charge[:, :, -1], end_charge)
    shape = weight.shape
    usable = (charge[:, :, -1][:, :, None] - end_charge) / np.maximum(began[None, :, None] - end_charge, 1e-6)

    def spread(values: Array) -> Array:
        return np.broadcast_to(values, shape).ravel()

    return _Weighed(
        weight=weight.ravel(),
        ends_s=spread(ends_s[..., None]),
        charge=spread(usable[..., None]),
        began=spread(began[None, :, None, None]),
        gain=spread(gains[None, None, None, :]),
        longer=spread(longer[:, None, None, None]),
        to_end=spread(to_end[..., None]),
    )


def _axis(spread: float, count: int, wide: float = 3.0) -> tuple[Array, Array]:
    """(logarithms of a factor, their log prior) over so many standard deviations to both sides."""
    steps = np.linspace(-wide, wide, count)
    return steps * spread, -0.5 * steps**2


def _spread(course: Course, bench: TrialBench) -> float:
    """One standard deviation of the logarithm of how much longer it lasts, or holds, than the design says."""
    if course.amps is not None:
        return max(math.hypot(*_held_by_makes(bench)) / 2 / OUTER_DECILE, LEAST_SPREAD)
    own = bench.estimate
    return max(math.log(own.high / own.low) / 2 / OUTER_DECILE, LEAST_SPREAD) if own.low > 0 else 1.0


def _held_by_makes(bench: TrialBench) -> tuple[float, float]:
    """How far makes differ, from the 10th to the 90th percentile of the logarithm: in what they hold, and in what the cold leaves of it."""
    low, high = capacity_tolerance(bench.design.battery.cell)
    least, most = spread_in_the_cold(bench.usual)[0]
    return math.log((1 + high) / (1 + low)), math.log(most / least)


def _tells_the_cold(bench: TrialBench) -> bool:
    """Whether what comes out there tells more of how a cell takes the cold than of what it holds."""
    held, cold = _held_by_makes(bench)
    return cold > held


def _centre(bench: TrialBench) -> float:
    """The logarithm of how much longer than the typical design it lasts, or holds, in the middle of what makes do in the cold."""
    return float(np.log(spread_in_the_cold(bench.usual)[0]).mean())


def _end_charge(bench: TrialBench, model_v: Array, drop_v: Array, ohms: Array) -> Array:
    """The state of charge at which it ends with each factor on the resistance, (factors,): where the battery is down to the voltage of the design's own end."""
    state = bench.usual
    mode, charge = state.ending
    if mode < 0:
        return np.zeros(ohms.size)
    end_v = state.at(charge, model_v)
    rows = model_v[None, :] - (ohms[:, None] - 1) * drop_v[None, :]
    return np.array(
        [float(np.interp(end_v, np.maximum.accumulate(row[::-1]), state.pack.charge[::-1])) for row in rows]
    )


def _when(course: Course, bench: TrialBench, to_end: Array, charge: Array, end_charge: Array) -> Array:
    """When it ends [s] by what there is to go through until then; never before the last point."""
    if course.amps is None:
        return np.asarray(np.maximum(to_end, course.time_s[-1]))
    gone = _gone_ah(course, bench)
    assert gone is not None
    state, now = bench.usual, float(gone[-1])
    mean = state.mean_current_a + state.pack.self_discharge_a
    rising = state.pack.charge[::-1]
    area = np.concatenate([[0.0], np.cumsum(np.diff(rising) * (mean[::-1][1:] + mean[::-1][:-1]) / 2)])

    def usual(low: Array, high: Array) -> Array:
        """The design's mean current between two states of charge [A]."""
        gap = np.maximum(high - low, 1e-6)
        return np.asarray((np.interp(low + gap, rising, area) - np.interp(low, rising, area)) / gap)

    so_far = now / float(course.time_s[-1]) * 3600
    ahead = usual(end_charge[None, None, :], charge[:, :, None]) / usual(charge, np.ones_like(charge))[:, :, None]
    return np.asarray(course.time_s[-1] + np.maximum(to_end - now, 0.0) * 3600 / np.maximum(so_far * ahead, 1e-12))


def _percentiles(values: Array, weight: Array, wanted: tuple[int, ...]) -> list[float]:
    order = np.argsort(values)
    total = np.cumsum(weight[order])
    return [float(values[order][np.searchsorted(total, p / 100 * total[-1])]) for p in wanted]


def _mean(values: Array, weight: Array) -> float:
    return float(values @ weight / weight.sum())


def _notes(weighed: _Weighed) -> list[str]:
    """What of the measurement itself is off."""
    began, most = _percentiles(weighed.began, weighed.weight, (50, 90))
    gain = _mean(weighed.gain, weighed.weight)
    notes = [say("traces.rundown-began", began=(began * 100, "%"))] if most < BEGAN else []
    return notes + ([say("traces.rundown-meter", off=(abs(gain) * 100, "%"), more=gain > 0)] if abs(gain) > OFF else [])


def _modelled(course: Course, bench: TrialBench, weighed: _Weighed) -> tuple[Array, Array]:
    """The model's voltage over time [s] at what is likeliest, to its end."""
    state = bench.usual
    best = int(np.argmax(weighed.weight))
    _, grid = _progress(course, bench)
    rising = state.pack.charge[::-1]
    first = float(np.interp(weighed.began[best], rising, grid[::-1]))
    weights = state.point_weights / state.point_weights.sum()
    volts = (weights @ state.typical.terminal_v) * (1 + weighed.gain[best])
    share = np.linspace(0.0, 1.0, 120)
    point = first + share * float(weighed.to_end[best]) / math.exp(weighed.longer[best])
    seen = np.interp(np.interp(point, grid, state.pack.charge), rising, volts[::-1])
    ahead, gone = share * float(weighed.to_end[best]), _gone_ah(course, bench)
    if gone is None:
        return ahead, seen
    pace = float(course.time_s[-1]) / float(gone[-1])
    return np.asarray(np.where(ahead <= gone[-1], np.interp(ahead, gone, course.time_s), ahead * pace)), seen


def _terms(course: Course, bench: TrialBench, weighed: _Weighed) -> list[RunDownTerm]:
    """Why it lasted longer or shorter than told: one after the other what it drew, what the cell gave down to the voltage at which the design gives way, and
    that it gave way at another one."""
    total = math.log(float(course.time_s[-1]) / bench.runtime_s)
    at_cut = _at_cut(course, bench, weighed)
    done, grid = _progress(course, bench)
    cut = math.log(float(done[-1]) / at_cut)
    if course.amps is None:
        return [_term("traces.by-load-or-cell", total - cut), _term("traces.by-cut-off", cut)]
    by_design = float(np.interp(bench.usual.ending[1], bench.usual.pack.charge[::-1], grid[::-1]))
    cell = math.log(at_cut / by_design)
    return [_term("traces.by-load", total - cut - cell), _term("traces.by-cell", cell), _term("traces.by-cut-off", cut)]


def _measured(bench: TrialBench, terms: list[RunDownTerm]) -> Remedy | None:
    """What one cell really held, in place of what it was told to: by the cell's term. None where it did not come near the design's own end, and of a power
    bank, whose cell nobody sees."""
    cell = bench.design.battery.cell
    by_key = {t.name: t.log for t in terms}
    held, cut = (by_key.get(say(k), math.inf) for k in ("traces.by-cell", "traces.by-cut-off"))
    if cell.bank is not None or abs(cut) > NEAR_END or abs(held) > MOST_OFF:
        return None
    before = cell.measured_ah or cell.capacity_ah * (1.0 if cell.curve is not None else usual_share(cell))
    wanted = _given_ah(bench.usual) * math.exp(held)
    amp_hours = before * math.exp(held)
    for _ in range(ROUNDS):  # what comes out until the end is not in proportion where that comes early
        given = _given_ah(bench.after([replace(MEASURED_AH, amp_hours)]))
        if abs(given / wanted - 1) < CLOSE:
            break
        amp_hours *= wanted / given
    else:
        return None
    amp_hours = float(f"{amp_hours:.4g}")
    label = say("traces.rundown-take", cell=cell.name, measured=(amp_hours, "Ah"), was=(before, "Ah"))
    return Remedy(label=label, patch=[replace(MEASURED_AH, amp_hours)])


def _given_ah(state: Run) -> float:
    """What the pack gives until the end of the run [A h]."""
    return (1 - state.ending[1]) * state.pack.capacity_ah


def _at_cut(course: Course, bench: TrialBench, weighed: _Weighed) -> float:
    """How far it had come, or would have come, when the battery was down to the voltage at which the design gives way."""
    state = bench.usual
    done, grid = _progress(course, bench)
    model_v = state.point_weights @ state.typical.terminal_v / state.point_weights.sum()
    end_v = state.at(state.ending[1], model_v)
    below = np.flatnonzero(course.volts < end_v)
    if below.size:
        k = max(int(below[0]), 1)
        part = (course.volts[k - 1] - end_v) / max(float(course.volts[k - 1] - course.volts[k]), 1e-9)
        return float(done[k - 1] + min(max(part, 0.0), 1.0) * (done[k] - done[k - 1]))
    rising_v = np.maximum.accumulate(model_v[::-1])
    at_end, at_cut = (float(np.interp(v, rising_v, grid[::-1])) for v in (float(course.volts[-1]), end_v))
    longer = math.exp(_percentiles(weighed.longer, weighed.weight, (50,))[0])
    return float(done[-1]) + longer * max(at_cut - at_end, 0.0)


def _term(key: str, log: float) -> RunDownTerm:
    return RunDownTerm(name=say(key), share=math.expm1(log), log=log)
