"""Questions about one rail: which converter suits it best, and what if it did not exist, ran at another voltage,
or hung straight on the battery."""

from __future__ import annotations

import dataclasses
from typing import Annotated

import numpy as np
from pydantic import Field

from ..design import Design, LinearStage, Part, Rail, Stage, SwitchingStage
from ..design.patches import remove, replace
from ..design.problems import DocumentError
from ..figures import Figure, PatchOperation, Remedy, figure, record
from ..measures.bench import TrialBench
from ..measures.edits import left_over, remove_stages
from ..measures.selection import SAME_VOLTAGE, Regulator, cut_by, in_place, least_input_v, raw_feed, same_figures
from ..runtime.run import Run
from ..runtime.uncertainty import sample_runtime
from ..supply.converters import set_output_v
from ..supply.nominal import nominal_rail_v
from ..words import Fact, called, say
from .judging import Judged
from .trials import Reason, marks_of, tried

SAME = 0.002  # of the runtime: less is no change
USUAL_V = (1.8, 2.5, 2.8, 3.0, 3.3, 5.0)
WHOLE = "the changed design: the median of the same samples"


@record
class ConverterChoice:
    """One catalogue converter in the rail's place. `reasons` is empty where it suits."""

    name: str
    kind: str
    fits: bool
    reasons: list[str]
    marks: Annotated[
        list[str], Field(description="the reasons, or what gets worse, in a few words each; at most three")
    ]
    runtime: Figure
    loss: Figure
    headroom: Figure
    peak_margin: Figure
    quiescent: Figure
    area: Figure
    cost: Figure
    now: bool
    remedy: Remedy


@record
class RailOption:
    """A rail that is not there, runs at another voltage, or hangs on the battery. `remedy` is null where it can't."""

    code: str
    subject: Annotated[str, Field(description="what it is about besides the rail: the other rail, or a voltage")]
    title: str
    about: str
    sentence: str
    fits: bool
    reasons: list[str]
    runtime: Figure | None
    gained: Figure | None
    remedy: Remedy | None


@record
class RailAnswers:
    rail: str
    converters: list[ConverterChoice]
    options: list[RailOption]


def answer_rail(bench: TrialBench, rail: int) -> RailAnswers:
    """Everything about the rail with this position in the document."""
    before = Judged(bench)
    return RailAnswers(
        rail=bench.design.supply.rails[rail].id,
        converters=[_held_choice(before, row) for row, _ in converters(bench, rail)],
        options=[_held_option(before, o) for o in (*fewer_rails(bench, rail), *_other_voltages(bench, rail))],
    )


def _held_choice(before: Judged, row: ConverterChoice) -> ConverterChoice:
    """A converter that suits, held against the design: out where it breaks something, else with what gets worse."""
    held = tried(before, row.remedy) if row.fits and not row.now else None
    if held is None:
        return row
    reasons = [bar.rstrip(".") for bar in held.bars]
    return dataclasses.replace(row, fits=not reasons, reasons=reasons, marks=held.marks, remedy=held.remedy)


def _held_option(before: Judged, option: RailOption) -> RailOption:
    held = tried(before, option.remedy) if option.fits and option.remedy else None
    if held is None:
        return option
    reasons = [bar.rstrip(".") for bar in held.bars]
    harm = " ".join([*held.bars, *held.worse])
    sentence = option.sentence + (f" But: {harm}" if harm else "")
    return dataclasses.replace(option, fits=not reasons, reasons=reasons, remedy=held.remedy, sentence=sentence)


def regulator(design: Design, rail: Rail) -> tuple[int, Stage] | None:
    """The stage that makes a rail's voltage, and its position; switches and fuses on the way are passed over."""
    position = design.index.stages
    here = rail.feed
    while here in position:
        stage = design.supply.stages[position[here]]
        if isinstance(stage, LinearStage | SwitchingStage):
            return position[here], stage
        if set_output_v(stage) is not None:
            return None
        here = stage.input
    return None


def converters(bench: TrialBench, rail: int, *, near: float = 0.0) -> list[tuple[ConverterChoice, Regulator]]:
    """Catalogue converters in a rail's place, those that suit first, each with what it is about. Where only the best are looked for, the others' runtimes
    are as far from typical as the present one's: of those that come to less than `near` of the longest that suits."""
    design = bench.design
    found = regulator(design, design.supply.rails[rail])
    if found is None:
        return []
    position, old = found
    assert isinstance(old, LinearStage | SwitchingStage)
    others = [
        s
        for s in bench.catalogue.stages
        if isinstance(s, LinearStage | SwitchingStage)
        and not same_figures(s, old)
        and not (isinstance(s, SwitchingStage) and s.topology == "inverting")
        and abs(s.output_v / old.output_v - 1) <= SAME_VOLTAGE
    ]
    rows: list[tuple[ConverterChoice, Regulator]] = [(_choice(bench, rail, position, old, old, now=True), old)]
    rows += [(_choice(bench, rail, position, old, s, closely=not near), s) for s in others]
    if near:
        longest = max((x.runtime.value or 0.0 for x, _ in rows if x.fits), default=0.0)
        rows = [
            (_choice(bench, rail, position, old, s), s)
            if x.fits and not x.now and (x.runtime.value or 0.0) >= near * longest
            else (x, s)
            for x, s in rows
        ]
    return sorted(rows, key=lambda r: (not r[0].fits, -(r[0].runtime.value or 0)))


def _choice(
    bench: TrialBench,
    rail: int,
    position: int,
    old: Regulator,
    candidate: Regulator,
    *,
    now: bool = False,
    closely: bool = True,
) -> ConverterChoice:
    new = old if now else in_place(old, candidate)
    assert isinstance(new, LinearStage | SwitchingStage)
    patch = [replace(f"/supply/stages/{position}", new)]
    reasons: list[Reason] = []
    try:
        state = bench.usual if now else bench.after(patch)
    except DocumentError as error:
        state, reasons = bench.usual, [(say("converter.not-possible"), error.problems[0].message)]
    index = state.tree.stage_index[old.id]
    used = state.point_weights > 0
    working = state.pack.charge >= max(state.ending[1], 0.05)
    peak = float(np.max(state.worst.stage_output_a[index][used][:, working], initial=0.0))
    inputs = state.worst.stage_input_v[index][used][:, working]
    lowest = float(np.min(inputs, initial=np.inf)) if inputs.size else 0.0
    highest = float(np.max(state.typical.stage_input_v[index], initial=0.0))
    needs = least_input_v(new, peak)
    p_in, p_out = state.stage_power_w(index)
    if peak > new.limit_a:
        reasons.append(_reason("at-most", most=(new.limit_a, "A"), peak=(peak, "A")))
    if new.input_max_v is not None and highest > new.input_max_v:
        reasons.append(_reason("stands", most=(new.input_max_v, "V"), reaches=(highest, "V")))
    if highest < needs:
        reasons.append(_reason("needs", needs=(needs, "V"), gets=(highest, "V")))
    reasons += _rail_faults(bench, state)
    kind = "linear" if isinstance(new, LinearStage) else new.topology
    x, y, _ = new.body.size_mm if new.body else (0.0, 0.0, 0.0)
    currency = bench.design.brief.currency
    return ConverterChoice(
        name=new.name,
        kind=kind,
        fits=not reasons,
        reasons=[sentence for _, sentence in reasons],
        marks=marks_of(reasons),
        runtime=figure("runtime-with-it", _hours(bench, state, closely=closely), "h", [], WHOLE),
        loss=figure(
            "loss-over-the-day",
            p_in - p_out,
            "W",
            [(called("in"), p_in, "W"), (called("out"), p_out, "W")],
            "converter models; Erickson & Maksimovic (2020), ch. 3 and 4",
        ),
        headroom=figure(
            "headroom-at-its-input",
            lowest - needs,
            "V",
            [(called("lowest-input"), lowest, "V"), (called("needs"), needs, "V")],
            "worst moment",
        ),
        peak_margin=figure(
            "room-above-the-peak",
            (new.limit_a / peak - 1) * 100 if peak > 0 else None,
            "%",
            [(called("most"), new.limit_a, "A"), (called("peak"), peak, "A")],
            "worst moment",
        ),
        quiescent=figure("quiescent-current", new.quiescent_a, "A", [], "the catalogue's figure"),
        area=figure(
            "room-on-the-board",
            x * y if new.body else None,
            "mm²",
            [(called("width"), x, "mm"), (called("depth"), y, "mm")],
            "the catalogue's figure",
        ),
        cost=figure("stage-cost", new.cost, currency, [], "the catalogue's figure"),
        now=now,
        remedy=Remedy(label=say("way.use-it", it=new.name), patch=[] if now else patch),
    )


def _reason(key: str, /, **facts: Fact) -> Reason:
    """Why a converter is out: in a few words, and as a sentence."""
    return say(f"converter.{key}", **facts), say(f"converter.{key}-whole", **facts)


def _hours(bench: TrialBench, state: Run, *, closely: bool = True) -> float:
    """The runtime that is said of a changed design [h]."""
    if state is bench.usual:
        return bench.runtime_s / 3600
    return (sample_runtime(state).median if closely else state.seconds * bench.typical_to_said) / 3600


def _rail_faults(bench: TrialBench, state: Run) -> list[Reason]:
    """What a changed supply would break that is whole now: parts above their limit, modes that no longer run."""
    design, before = state.design, bench.usual
    reasons: list[Reason] = []
    top = float(state.pack.open_circuit_v[0])
    highest = nominal_rail_v(state.tree, top)
    for p, part in enumerate(design.parts):
        volts = float(highest[state.rail_of[p]])
        if part.supply_absolute_max_v is not None and volts > part.supply_absolute_max_v:
            above: dict[str, Fact] = {
                "name": part.name,
                "volts": (volts, "V"),
                "stands": (part.supply_absolute_max_v, "V"),
            }
            reasons.append((say("pack.above", **above), say("pack.above-whole", **above)))
            break
    for i, mode in enumerate(design.modes):
        if state.failures[i].charge >= 1 > before.failures[i].charge:
            reasons.append((say("pack.no-mode", mode=mode.name), say("converter.no-mode-whole", mode=mode.name)))
            break
    return reasons


def _option(
    bench: TrialBench, code: str, subject: str, title: str, patch: list[PatchOperation], *, what: str
) -> RailOption:
    try:
        state = bench.after(patch)
    except DocumentError as error:
        return _cannot(code, subject, title, error.problems[0].message)
    reasons = [sentence for _, sentence in _rail_faults(bench, state)]
    before, after = bench.runtime_s / 3600, _hours(bench, state)
    moved = abs(after - before) > SAME * before
    inputs: list[tuple[str, float | None, str]] = [(called("now"), before, "h"), (called("then"), after, "h")]
    return RailOption(
        code=code,
        subject=subject,
        title=title,
        about=what,
        sentence=say("rail.goes-not", what=what, why="; ".join(reasons))
        if reasons
        else say("rail.goes", what=what, after=(after, "h"), before=(before, "h") if moved else None),
        fits=not reasons,
        reasons=reasons,
        runtime=figure("runtime-with-it", after, "h", inputs, WHOLE),
        gained=figure("gained", after - before, "h", inputs, WHOLE),
        remedy=Remedy(label=title, patch=patch),
    )


def _cannot(code: str, subject: str, title: str, reason: str) -> RailOption:
    return RailOption(
        code=code,
        subject=subject,
        title=title,
        about="",
        sentence=f"Not possible: {reason}.",
        fits=False,
        reasons=[reason],
        runtime=None,
        gained=None,
        remedy=None,
    )


def window(parts: list[Part]) -> tuple[float, float]:
    """(highest least supply, lowest recommended or else absolute maximum) of some parts [V].

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> window([p for p in design.parts if p.rail == design.parts[0].rail])
    (2.8, 3.6)
    """
    return (
        max((p.supply_min_v for p in parts if p.supply_min_v), default=0.0),
        min((p.supply_recommended_max_v or p.supply_absolute_max_v or 100.0 for p in parts), default=100.0),
    )


def unknown_window(parts: list[Part]) -> str:
    """The first part of which nobody said between which voltages it works; "" where all of them have a window."""
    return next(
        (p.name for p in parts if not p.supply_min_v or not (p.supply_recommended_max_v or p.supply_absolute_max_v)), ""
    )


def fewer_rails(bench: TrialBench, rail: int) -> list[RailOption]:
    """The rail not there at all, or straight on the battery."""
    return [*_without_rail(bench, rail), *_straight(bench, rail)]


def _without_rail(bench: TrialBench, index: int) -> list[RailOption]:
    """The rail's parts move to each other rail in turn; what fed it alone goes."""
    design = bench.design
    rail = design.supply.rails[index]
    movers = [i for i, p in enumerate(design.parts) if p.rail == rail.id]
    found = []
    for r, other in enumerate(design.supply.rails):
        if r == index:
            continue
        title = say("rail.none", rail=rail.name, other=other.name)
        low, high = window([design.parts[i] for i in movers])
        volts = float(bench.highest_rail_v[r])
        unknown = unknown_window([design.parts[i] for i in movers])
        if unknown and abs(volts / max(float(bench.highest_rail_v[index]), 1e-9) - 1) > SAME_VOLTAGE:
            found.append(_cannot("no-rail", other.id, title, say("rail.unknown", part=unknown)))
            continue
        names = [design.parts[i].name for i in movers]
        what = say("rail.runs-at", parts=names, others=len(movers) > 3, volts=(volts, "V"))
        dead = _without_power(bench, movers, index, r)
        if dead:
            found.append(_cannot("no-rail", other.id, title, say("rail.no-power", rail=other.name, mode=dead)))
            continue
        past = cut_by(bench, rail.feed) - cut_by(bench, other.feed)
        if past:
            switch = design.stage(min(past))
            behind = say("rail.not-behind", rail=other.name, switch=switch.name if switch else None)
            found.append(_cannot("no-rail", other.id, title, behind))
            continue
        if not low <= volts <= high:
            window_said = say("rail.window", low=(low, "V"), high=(high, "V"), rail=other.name, volts=(volts, "V"))
            found.append(_cannot("no-rail", other.id, title, window_said))
            continue
        patch = [replace(f"/parts/{i}/rail", other.id) for i in movers]
        patch += [remove(f"/supply/rails/{index}")]
        patch += remove_stages(design, left_over(design, rail.feed, {rail.id}))
        found.append(_option(bench, "no-rail", other.id, title, patch, what=what))
    return found


def _without_power(bench: TrialBench, parts: list[int], own: int, other: int) -> str:
    """The first mode in which the parts are used with power and the other rail has none; "" where there is none."""
    powered, ids = bench.rail_powered, {bench.design.parts[i].id for i in parts}
    for m, mode in enumerate(bench.design.modes):
        if powered[own, m] and not powered[other, m] and any(u.part in ids for u in mode.uses):
            return mode.name
    return ""


def _straight(bench: TrialBench, index: int) -> list[RailOption]:
    design = bench.design
    rail = design.supply.rails[index]
    raw = raw_feed(bench, rail.feed)
    if raw == rail.feed or regulator(design, rail) is None:
        return []
    title = say("rail.straight", rail=rail.name)
    unknown = unknown_window([p for p in design.parts if p.rail == rail.id])
    if unknown:
        return [_cannot("straight", "", title, say("rail.unknown", part=unknown))]
    patch = [replace(f"/supply/rails/{index}/feed", raw)]
    patch += remove_stages(design, left_over(design, rail.feed, {rail.id}))
    top, bottom = float(bench.usual.pack.open_circuit_v[0]), bench.usual.pack.cutoff_v
    what = say("rail.follows", rail=rail.name, top=(top, "V"), bottom=(bottom, "V"))
    return [_option(bench, "straight", "", title, patch, what=what)]


def _other_voltages(bench: TrialBench, index: int) -> list[RailOption]:
    """The usual voltages within what the rail's parts stand, with the same regulator set to them."""
    design = bench.design
    found = regulator(design, design.supply.rails[index])
    if found is None:
        return []
    position, stage = found
    assert isinstance(stage, LinearStage | SwitchingStage)
    rail = design.supply.rails[index]
    parts = [p for p in design.parts if p.rail == rail.id]
    low, high = window(parts)
    options: list[RailOption] = []
    if unknown_window(parts):
        return options
    for volts in USUAL_V:
        if abs(volts / stage.output_v - 1) <= SAME_VOLTAGE or not low <= volts <= 0.95 * high:
            continue
        patch = [replace(f"/supply/stages/{position}/output_v", volts)]
        title = say("rail.at", rail=rail.name, volts=(volts, "V"))
        what = say("rail.set-to", stage=stage.name, volts=(volts, "V"), now=(stage.output_v, "V"))
        options.append(_option(bench, "other-voltage", f"{volts:g} V", title, patch, what=what))
    return options
