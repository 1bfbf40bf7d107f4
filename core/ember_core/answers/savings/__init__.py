"""What would help most: levers found in the design, each tried out by evaluating the changed design, alone and stacked."""

from __future__ import annotations

from typing import Any

import jsonpatch

from ...context import Context
from ...design import Design
from ...figures import Figure, PatchOperation, Remedy, Result, figure
from ...problems import DocumentError, Problem
from ...quantities import show
from ...remedies import apply_patch
from ...runtime import run
from .awake import AWAKE
from .lever import Lever
from .powering import POWERING
from .sleeping import SLEEPING

WORTH = 0.002  # of the runtime: less is not shown
MOST = 40
SOURCE = "the changed design, evaluated whole"


class Saving(Result):
    """A lever: the runtime alone and what it gains, what it costs in use, and the runtime with it on top of all those
    above it in the list (null: it excludes one of them, or no longer applies)."""

    key: str
    code: str
    title: str
    sentence: str
    side_effect: str
    runtime: Figure
    gained: Figure
    stacked: Figure | None
    remedy: Remedy


class Stack(Result):
    """Levers pulled together: the runtime with all of them, and the edit that does it."""

    keys: list[str]
    left_out: list[str]
    runtime: Figure
    gained: Figure
    remedy: Remedy
    sentence: str


def answer_savings(context: Context) -> list[Saving]:
    """The levers of this design, the one that gains most first. Those that gain nothing are left out."""
    if not context.design.parts:
        return []
    before = context.usual.seconds
    tried: list[tuple[float, Lever, list[PatchOperation]]] = []
    for lever in find_levers(context):
        patch = lever.change(context.design)
        if patch is None:
            continue
        try:
            after = context.after(patch).seconds
        except DocumentError:
            continue
        if after - before > WORTH * before:
            tried.append((after, lever, patch))
    tried.sort(key=lambda t: (-t[0], t[1].key))
    design, groups, rows = context.design, set[str](), []
    for after, lever, patch in tried:
        following = None if lever.group in groups else _pulled(design, lever)
        stacked = None
        if following is not None:
            design = following
            groups.add(lever.group)
            stacked = run(design, context.usual.temperature_c).seconds / 3600
        rows.append(_saving(context, lever, patch, after / 3600, stacked))
    return rows


def find_levers(context: Context) -> list[Lever]:
    """All levers that the design offers, whatever they gain."""
    found = [lever for source in (*SLEEPING, *AWAKE, *POWERING) for lever in source(context)]
    return found[:MOST]


def stack_savings(context: Context, keys: list[str]) -> Stack:
    """Levers pulled one after the other, in the order given. Raises DocumentError where one is unknown."""
    levers = {x.key: x for x in find_levers(context)}
    unknown = [k for k in keys if k not in levers]
    if unknown:
        raise DocumentError([Problem("/keys", f"the design offers no lever {unknown[0]!r}")])
    design, groups, pulled = context.design, set[str](), []
    for key in keys:
        lever = levers[key]
        following = None if lever.group in groups else _pulled(design, lever)
        if following is not None:
            design = following
            groups.add(lever.group)
            pulled.append(key)
    before, after = context.usual.seconds / 3600, run(design, context.usual.temperature_c).seconds / 3600
    titles = [levers[k].title for k in pulled]
    inputs: list[tuple[str, float | None, str]] = [("now", before, "h"), ("levers", float(len(pulled)), "")]
    left_out = [levers[k].title for k in keys if k not in pulled]
    sentence = f"Together: {show(after, 'h')} instead of {show(before, 'h')}."
    if left_out:
        sentence += f" Left out, as another one excludes it: {', '.join(left_out)}."
    return Stack(
        keys=pulled,
        left_out=left_out,
        runtime=figure("Runtime with all of them", after, "h", "runtime of the changed design", inputs, SOURCE),
        gained=figure("Gained together", after - before, "h", "with all of them − now", inputs, SOURCE,
                      note="Evaluated together; the gains of single levers do not add up."),
        remedy=Remedy(label=titles[0] if len(titles) == 1 else f"{len(titles)} savings", patch=_difference(context.design, design)),
        sentence=sentence,
    )  # fmt: skip


def _pulled(design: Design, lever: Lever) -> Design | None:
    """The design with a lever pulled; None where it no longer applies."""
    patch = lever.change(design)
    if patch is None:
        return None
    try:
        return apply_patch(design, patch)
    except DocumentError:
        return None


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


def _saving(context: Context, lever: Lever, patch: list[PatchOperation], after: float, stacked: float | None) -> Saving:
    before = context.usual.seconds / 3600
    inputs: list[tuple[str, float | None, str]] = [("now", before, "h"), ("with the change", after, "h")]
    return Saving(
        key=lever.key,
        code=lever.code,
        title=lever.title,
        sentence=f"{lever.sentence} Runtime: {show(after, 'h')} instead of {show(before, 'h')}.",
        side_effect=lever.side_effect,
        runtime=figure("Runtime with it", after, "h", "runtime of the changed design", inputs, SOURCE),
        gained=figure("Gained", after - before, "h", "with the change − now", inputs, SOURCE),
        stacked=None if stacked is None else figure(
            "With all above it", stacked, "h", "runtime of the design with this lever and all above it", inputs[:1], SOURCE),
        remedy=Remedy(label=lever.title, patch=patch),
    )  # fmt: skip
