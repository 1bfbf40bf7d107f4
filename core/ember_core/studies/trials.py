"""Changes held against the design: applied, judged whole, and offered only if nothing gets worse unsaid."""

from __future__ import annotations

import dataclasses
from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass

import jsonpatch

from ..design import Design
from ..design.patches import apply_patch
from ..design.problems import DocumentError
from ..figures import Remedy, Severity, Verdict
from ..findings import Found
from ..quantities import show
from ..reports.battery import runtime_total
from ..words import say
from .judging import Judged

SAME = 0.002  # of the runtime: less than that is no change
SAME_CHARGE = 0.02  # of the time to full
WORSE = ("pass", "watch", "fail")
TOLD = 2  # findings of a kind that get worse; the others by their number


MOST_MARKS = 3
Reason = tuple[str, str]  # why something is out, or what it asks for: a few words, and the sentence


def marks_of(reasons: Iterable[Reason]) -> list[str]:
    """The few words of the first reasons, once each."""
    return list(dict.fromkeys(mark for mark, _ in reasons))[:MOST_MARKS]


@dataclass(frozen=True)
class Held:
    """A remedy with what came of it: the changed design, judged; what forbids it and what else gets worse, in words."""

    remedy: Remedy
    after: Judged
    bars: list[str]
    worse: list[str]
    worse_verdicts: list[Verdict]

    @property
    def marks(self) -> list[str]:
        """What gets worse, in a few words each: the verdicts, and how many findings come with it."""
        verdicts = [f"{v.label}: {v.word}" for v in self.worse_verdicts]
        findings = len({x for x in (*self.bars, *self.worse) if x.rstrip(".") not in verdicts})
        said = [text[:1].lower() + text[1:] for text in verdicts][: MOST_MARKS - (findings > 0)]
        return [*said, f"{findings} finding{'s' if findings > 1 else ''} more"] if findings else said


def tried(before: Judged, remedy: Remedy, *, settles: Found | None = None, gains: float | None = None) -> Held | None:
    """A remedy held against its design; None where the result is no design, does not help with the finding that it is to settle, or does not gain so much of the
    runtime, as a share.

    It may not be offered (`bars`) where a mode no longer works, or where something has to be stopped or fixed that was
    right before. To settle a finding that says `stop`, one that says `fix` is allowed, and said.
    """
    try:
        design = apply_patch(before.bench.design, remedy.patch)
    except (DocumentError, jsonpatch.JsonPatchException, jsonpatch.JsonPointerException):
        return None
    after = Judged(before.bench.of(design))
    if settles is not None and not _helps(before, after, settles):
        return None  # before its verdicts are made, which take longer
    if gains is not None and after.bench.runtime_s <= before.bench.runtime_s * (1 + gains):
        return None  # before its findings are
    allowed = settles.severity if settles else None
    longer = after.bench.runtime_s > before.bench.runtime_s
    # what only asks for a longer runtime is no harm done by what brings one: its share of the rest has grown
    fresh = [f for f in _new(before, after) if not (f.lengthens and longer)]
    broken = [say("outcome.no-mode", mode=name) for name in _broken_modes(before, after)]
    grave = [f for f in fresh if f.severity == "stop" or (f.severity == "fix" and allowed != "stop")]
    light = [f for f in fresh if f.severity in ("fix", "watch") and f not in grave]
    worse_verdicts = _worse_verdicts(before.verdicts, after.verdicts)
    verdicts = [say("outcome.verdict", verdict=v.label, word=v.word) for v in worse_verdicts]
    bars = [*broken, *(f"{f.title}." for f in grave)]
    worse = list(dict.fromkeys([*(f"{f.title}." for f in light), *verdicts]))
    harm = " ".join(dict.fromkeys([*verdicts, *broken, *_told([*grave, *light])]))
    changes = _changes(before, after)
    outcome = say("outcome.but", changes=changes, harm=harm) if harm else changes
    total = runtime_total(after.bench)
    return Held(dataclasses.replace(remedy, outcome=outcome, runtime=total), after, bars, worse, worse_verdicts)


def _told(found: list[Found]) -> list[str]:
    """Each kind of finding by its first titles, so that it can be read: of ten that collide, two, and how many more."""
    kinds: dict[str, list[str]] = {}
    for f in found:
        kinds.setdefault(f.code, []).append(f"{f.title}.")
    told = []
    for titles in kinds.values():
        own = list(dict.fromkeys(titles))
        told += own if len(own) <= TOLD + 1 else [*own[:TOLD], say("outcome.more", count=len(own) - TOLD)]
    return told


def hold(before: Judged, remedy: Remedy, *, settles: Found | None = None, gains: float | None = None) -> Held | None:
    """A remedy that may be offered, as `tried`; None where it may not."""
    held = tried(before, remedy, settles=settles, gains=gains)
    return held if held is not None and not held.bars else None


def ways_out(before: Judged, found: Found) -> Remedy | None:
    """The remedy to offer for a finding: the first of its ways that settles it and makes nothing worse, else the first
    that does the former and says what gets worse."""
    second: Remedy | None = None
    for way in found.ways() if found.ways else ():
        held = hold(before, way, settles=found) if way else None
        if held is None:
            continue
        if not held.worse:
            return held.remedy
        second = second or held.remedy
    return second


def _helps(before: Judged, after: Judged, found: Found) -> bool:
    """Whether a finding is gone or less grave; and, if it is about the runtime, whether that is longer. One that is about a share of what is
    drawn may stand where what it tells of has nearly halved: the rest is that much smaller too."""
    if found.lengthens and after.bench.runtime_s <= before.bench.runtime_s * (1 + SAME):
        return False
    key = _key(before.bench.design, found)
    was = [f.severity for f in before.found if _key(before.bench.design, f) == key]
    left = [f.severity for f in after.found if _key(after.bench.design, f) == key]
    if sum(map(_weight, left)) < sum(map(_weight, was)):
        return True
    return found.lengthens and _eased(found, next(f for f in after.found if _key(after.bench.design, f) == key))


def _eased(before: Found, after: Found) -> bool:
    """Whether what a finding is about has nearly halved: its own current, or its share against the rest."""
    was, now = before.figures, after.figures
    if "own" in was and "own" in now:
        return now["own"][0] <= EASED * was["own"][0]
    if "share" not in was or "share" not in now:
        return False
    against = [s / max(1 - s, 1e-9) for s in (was["share"][0], now["share"][0])]
    return against[1] <= EASED * against[0]


EASED = 0.6


def _weight(severity: Severity) -> int:
    return {"stop": 1000, "fix": 100, "watch": 10, "note": 1}[severity]


def subject(design: Design, where: str) -> str:
    """What a JSON pointer is about, by a name that outlives other things being added or taken away."""
    steps = where.strip("/").split("/")
    here: object = design
    for k, step in enumerate(steps):
        if isinstance(here, list):
            item = here[int(step)] if step.isdigit() and int(step) < len(here) else None
            name = getattr(item, "id", None) or getattr(item, "name", None) or step
            return "/".join([*steps[:k], str(name), *steps[k + 1 :]])
        here = getattr(here, step, None)
    return where


def _key(design: Design, found: Found) -> tuple[str, str]:
    return found.code, subject(design, found.where)


def _new(before: Judged, after: Judged) -> list[Found]:
    """Findings of the changed design that were not there before, or are graver now."""
    known: Counter[tuple[str, str]] = Counter()
    for f in before.found:
        known[_key(before.bench.design, f)] += _weight(f.severity)
    fresh = []
    for f in after.found:
        key = _key(after.bench.design, f)
        known[key] -= _weight(f.severity)
        if known[key] < 0:
            fresh.append(f)
            known[key] = 0
    return fresh


def _broken_modes(before: Judged, after: Judged) -> list[str]:
    """The modes that work on a full battery and no longer do then."""
    worked = {m.id for m, f in zip(before.bench.design.modes, before.bench.usual.failures, strict=True) if f.charge < 1}
    now = zip(after.bench.design.modes, after.bench.usual.failures, strict=True)
    return [m.name for m, f in now if m.id in worked and f.charge >= 1]


def _worse_verdicts(before: list[Verdict], after: list[Verdict]) -> list[Verdict]:
    was = {v.key: v for v in before}
    return [
        v
        for v in after
        if v.status in WORSE and was[v.key].status in WORSE and WORSE.index(v.status) > WORSE.index(was[v.key].status)
    ]


def _changes(before: Judged, after: Judged) -> str:
    """What is different then, in figures."""
    old, new = before.bench.runtime_s, after.bench.runtime_s
    said = []
    if abs(new - old) > SAME * max(old, 1e-9) and show(new, "s") != show(old, "s"):
        said.append(say("outcome.runtime", new=(new, "s"), old=(old, "s")))
    was, now = (next(v for v in x.verdicts if v.key == "charge").figure.value for x in (before, after))
    if now is not None and (was is None or abs(now - was) > SAME_CHARGE * was):
        said.append(say("outcome.charge", now=(now, "h"), was=(was, "h")))
    if not said:
        said.append(say("outcome.stays", old=(old, "s")) if before.bench.design.parts else say("outcome.settled"))
    return " ".join(said)
