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
    """A measure: the runtime alone and what it gains, what it costs in use and what it makes worse, and the runtime with it
    on top of all those above it in the list (null: it excludes one of them, or no longer helps)."""

    key: str
    code: str
    kind: Kind
    title: str
    sentence: str
    side_effect: str
    runtime: Figure
    gained: Figure
    stacked: Figure | None
    remedy: Remedy


@record
class Stack:
    """Measures applied together: the runtime with all of them, and the edit that does it."""

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
    now, groups, rows = before, set[str](), []
    for measure, held in order:
        following = None if measure.group in groups else _applied(now, measure)
        stacked = None
        if following is not None:
            now = following.after
            groups.add(measure.group)
            stacked = now.bench.runtime_s / 3600
        rows.append(_saving(before, measure, held, stacked))
    return rows


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
    judged, groups, applied = Judged(bench), set[str](), []
    before, now, worse = judged, judged, list[str]()
    for key in keys:
        measure = measures[key]
        held = None if measure.group in groups else _applied(now, measure)
        if held is not None:
            now = held.after
            groups.add(measure.group)
            applied.append(key)
            worse += held.worse
    old, new = before.bench.runtime_s / 3600, now.bench.runtime_s / 3600
    titles = [measures[k].title for k in applied]
    inputs: list[tuple[str, float | None, str]] = [
        (called("now"), old, "h"),
        (called("measures"), float(len(applied)), ""),
    ]
    left_out = [measures[k].title for k in keys if k not in applied]
    harm = " ".join(dict.fromkeys(worse))
    sentence = say("together.runtime", new=(new, "h"), old=(old, "h"), out=left_out, worse=harm)
    return Stack(
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


def _saving(before: Judged, measure: Measure, held: Held, stacked: float | None) -> Saving:
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
        stacked=None if stacked is None else figure("with-all-above-it", stacked, "h", inputs[:1], SOURCE),
        remedy=held.remedy,
    )  # fmt: skip
