"""Measures on what is drawn while the gadget is awake, that findings and the list of savings both offer."""

from __future__ import annotations

import re

from ..design import Design, Session, Wake
from ..design.patches import replace
from ..figures import PatchOperation
from .bench import TrialBench
from .measure import Change, Measure, calmer, rounded, state_a

SHORT_EVENT_S = 60.0  # a session longer than this is use, not an event
SHORTER = 0.5
DARK = re.compile(
    r"\b(off|dark|sleep|standby|idle|power down)\b", re.IGNORECASE
)  # names of states in which nothing is shown
LOCK = 0.05  # of the accidents get through a lock


def find_wake(design: Design, key: str) -> tuple[int, Wake] | None:
    here = design.index.wakes.get(key)
    return None if here is None else (here, design.day.wakes[here])


def set_wake(key: str, field: str, value: float) -> Change:
    """Another figure of a wake."""

    def change(design: Design) -> list[PatchOperation] | None:
        found = find_wake(design, key)
        return [replace(f"/day/wakes/{found[0]}/{field}", value)] if found else None

    return change


def set_session(key: str, field: str, value: float) -> Change:
    """Another figure of a session."""

    def change(design: Design) -> list[PatchOperation] | None:
        here = design.index.sessions.get(key)
        return None if here is None else [replace(f"/day/sessions/{here}/{field}", value)]

    return change


def shorter_wake(bench: TrialBench, wake: Wake) -> Measure:
    """Half as long awake each time."""
    half = rounded(wake.awake_s * SHORTER)
    share = bench.charge_share(wake.mode, wake.awake_s * bench.wakes_a_day[bench.design.index.wakes[wake.id]])
    return Measure(
        f"shorter-awake:wake:{wake.id}", "shorter-awake", "firmware", f"wake-length:{wake.id}",
        {"event": wake.name, "half": (half, "s"), "now": (wake.awake_s, "s"), "share": (share, "share")},
        set_wake(wake.id, "awake_s", half), "shorter-wake",
    )  # fmt: skip


def shorter_session(bench: TrialBench, session: Session) -> Measure:
    """Half as long each time: of a short event the program's matter, of use the user's."""
    event = session.seconds <= SHORT_EVENT_S
    half = rounded(session.seconds * SHORTER)
    share = bench.charge_share(session.mode, session.seconds * session.per_day)
    return Measure(
        f"shorter-awake:session:{session.id}", "shorter-awake", "firmware" if event else "habit", f"session-length:{session.id}",
        {"event": session.name, "half": (half, "s"), "now": (session.seconds, "s"), "share": (share, "share"), "short": event},
        set_session(session.id, "seconds", half), "shorter-session",
    )  # fmt: skip


def accident_share(bench: TrialBench, session: Session) -> float:
    """What a session takes with all that goes before and after it, as a share of the day's charge."""
    return sum(bench.charge_share(s.mode, s.seconds * session.per_day) for s in session.stretches)


def lock(bench: TrialBench, session: Session) -> Measure:
    """A gesture that stops nearly all of what nobody meant."""
    return Measure(
        f"lock:{session.id}", "lock", "firmware", f"session-often:{session.id}",
        {"event": session.name, "share": (accident_share(bench, session), "share")},
        set_session(session.id, "per_day", rounded(session.per_day * LOCK)),
    )  # fmt: skip


def dimmer(bench: TrialBench, p: int) -> Measure | None:
    """The next calmer state of a display or a light that still shows something; None where there is none."""
    design, part = bench.design, bench.design.parts[p]
    used = {u.state for m in design.modes for u in m.uses if u.part == part.id and not u.burst}
    top = max((s for s in part.states if s.name in used), key=state_a, default=None)
    lower = (
        [s for s in calmer(part, top.name)[1:] if not DARK.search(s.name)] if top else []
    )  # the calmest of all is dark
    if top is None or not lower:
        return None
    return Measure(
        f"dim:{part.id}", "dim", "firmware", f"light:{part.id}",
        {"part": part.name, "lower": lower[-1].name, "top": top.name, "share": (bench.day_share(p), "share")},
        _state_everywhere(part.id, top.name, lower[-1].name),
    )  # fmt: skip


def _state_everywhere(part: str, old: str, new: str) -> Change:
    def change(design: Design) -> list[PatchOperation] | None:
        patch = [
            replace(f"/modes/{m}/uses/{u}/state", new)
            for m, mode in enumerate(design.modes)
            for u, use in enumerate(mode.uses)
            if use.part == part and use.state == old and not use.burst
        ]
        return patch or None

    return change
