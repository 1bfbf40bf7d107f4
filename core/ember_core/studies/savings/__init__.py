"""What would help most: measures found in the design, each held against the changed design, alone and stacked."""

from __future__ import annotations

from typing import Any

import jsonpatch

from ...design import Design
from ...design.problems import DocumentError, Problem
from ...figures import Figure, PatchOperation, Remedy, figure, record
from ...measures.bench import TrialBench
from ...measures.measure import Kind, Measure
from ...words import called, say
from ..judging import Judged
from ..trials import Held, hold
from .awake import AWAKE
from .powering import POWERING
from .sleeping import SLEEPING

WORTH: dict[Kind, float] = {
    "build": 0.02,
    "firmware": 0.002,
    "habit": 0.002,
}  # of the runtime: less is not shown; what has to be built is worth it from two percent on
MOST = 40
SOURCE = "the changed design, judged whole: the median of the same samples"


@record
class Saving:
    """A measure: the runtime with it alone and what it gains, what it costs in use and what it makes worse."""

    key: str
    code: str
    kind: Kind
    title: str
    sentence: str
    side_effect: str
    runtime: Figure
    gained: Figure
    remedy: Remedy


@record
class StackStep:
    """A measure on top of those before it: the runtime then (null: it excludes one of them, or no longer helps)."""

    key: str
    runtime: Figure | None


@record
class Stack:
    """Measures applied one after the other: the runtime with each and with all of them, and the edit that does it."""

    steps: list[StackStep]
    keys: list[str]
    left_out: list[str]
    runtime: Figure
    gained: Figure
    remedy: Remedy
    sentence: str


def answer_savings(bench: TrialBench) -> list[Saving]:
    """The measures of this design: what can be built or programmed first, the one that gains most at the top; what
    asks for other habits after them. Those that gain nothing or break something are left out."""
    if not bench.design.parts:
        return []
    before = Judged(bench)
    tried: dict[tuple[str, str], tuple[Measure, Held]] = {}
    for measure in find_measures(bench):
        held = _applied(before, measure)
        if held is None:
            continue
        one_of = (measure.code, measure.group)  # several states, or stages, for the same thing: the best of them
        if one_of not in tried or held.after.bench.runtime_s > tried[one_of][1].after.bench.runtime_s:
            tried[one_of] = (measure, held)
    order = sorted(tried.values(), key=lambda t: (t[0].kind == "habit", -t[1].after.bench.runtime_s, t[0].key))
    return [_saving(before, measure, held) for measure, held in order]


def find_measures(bench: TrialBench) -> list[Measure]:
    """All measures that the design offers, whatever they gain."""
    found = [measure for source in (*SLEEPING, *AWAKE, *POWERING) for measure in source(bench)]
    return found[:MOST]


def stack_savings(bench: TrialBench, keys: list[str]) -> Stack:
    """Measures applied one after the other, in the order given. Raises DocumentError where one is unknown."""
    measures = {x.key: x for x in find_measures(bench)}
    unknown = [k for k in keys if k not in measures]
    if unknown:
        raise DocumentError([Problem("/keys", f"the design offers no measure {unknown[0]!r}")])
    now, groups, applied = Judged(bench), set[str](), list[str]()
    steps, worse = list[StackStep](), list[str]()
    old = new = bench.runtime_s / 3600
    for key in keys:
        measure = measures[key]
        held = None if measure.group in groups else _applied(now, measure)
        if held is not None:
            now, new = held.after, held.after.bench.runtime_s / 3600
            groups.add(measure.group)
            applied.append(key)
            worse += held.worse
        then = figure("with-all-above-it", new, "h", [(called("now"), old, "h")], SOURCE)
        steps.append(StackStep(key=key, runtime=then if held is not None else None))
    titles = [measures[k].title for k in applied]
    inputs: list[tuple[str, float | None, str]] = [
        (called("now"), old, "h"),
        (called("measures"), float(len(applied)), ""),
    ]
    left_out = [measures[k].title for k in keys if k not in applied]
    harm = " ".join(dict.fromkeys(worse))
    sentence = say("together.runtime", new=(new, "h"), old=(old, "h"), out=left_out, worse=harm)
    return Stack(
        steps=steps,
        keys=applied,
        left_out=left_out,
        runtime=figure("runtime-with-all-of-them", new, "h", inputs, SOURCE),
        gained=figure("gained-together", new - old, "h", inputs, SOURCE),
        remedy=Remedy(label=say("way.measures", titles=titles, count=len(titles)),
                      patch=_difference(bench.design, now.bench.design), outcome=sentence),
        sentence=sentence,
    )  # fmt: skip


def _applied(before: Judged, measure: Measure) -> Held | None:
    """A measure held against a design; None where it no longer applies, gains nothing or may not be offered."""
    patch = measure.change(before.bench.design)
    if patch is None:
        return None
    return hold(before, Remedy(label=measure.title, patch=patch), gains=WORTH[measure.kind])


def _difference(before: Design, after: Design) -> list[PatchOperation]:
    made = jsonpatch.make_patch(before.model_dump(mode="json"), after.model_dump(mode="json"))
    return [PatchOperation(op=o["op"], path=o["path"], value=o.get("value")) for o in _plain(made.patch, before)]


def _plain(operations: list[dict[str, Any]], before: Design) -> list[dict[str, Any]]:
    """Without moves and copies, which a remedy does not use."""
    document = before.model_dump(mode="json")
    plain: list[dict[str, Any]] = []
    for one in operations:
        if one["op"] in ("move", "copy"):
            value = jsonpatch.JsonPointer(one["from"]).resolve(document)
            steps = [{"op": "remove", "path": one["from"]}] if one["op"] == "move" else []
            steps.append({"op": "add", "path": one["path"], "value": value})
        else:
            steps = [one]
        document = jsonpatch.apply_patch(document, steps)
        plain += steps
    return plain


def _saving(before: Judged, measure: Measure, held: Held) -> Saving:
    old, new = before.bench.runtime_s / 3600, held.after.bench.runtime_s / 3600
    inputs: list[tuple[str, float | None, str]] = [(called("now"), old, "h"), (called("with-the-change"), new, "h")]
    worse = f" But: {' '.join(held.worse)}" if held.worse else ""
    return Saving(
        key=measure.key,
        code=measure.code,
        kind=measure.kind,
        title=measure.title,
        sentence=measure.sentence,
        side_effect=measure.side_effect + worse,
        runtime=figure("runtime-with-it", new, "h", inputs, SOURCE),
        gained=figure("gained-by-it", new - old, "h", inputs, SOURCE),
        remedy=held.remedy,
    )  # fmt: skip
