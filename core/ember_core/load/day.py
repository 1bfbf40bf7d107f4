"""The day as shares of time: mode by mode, by the clock, over the week and the year.

The day is cut into slots by the clock. Sessions with starting times take their place; those without are spread over
the time that is left; wakes happen outside of sessions, so their share is awake / interval of what is left then; the
rest mode has the remainder. Days that differ by weekday or month are kept apart, with their share of the year.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..design import Day, Mode, Session, Wake
from ..design.day import happens
from ..numeric import Array

SLOTS = 48
SECONDS_PER_DAY = 86400.0
WEEKDAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")
MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
DAYS_OF_MONTH = (31, 28.25, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)
BAD_DAY = 0.95  # share of days with no more random events than this


@dataclass(frozen=True)
class DayKind:
    """Days that are alike: their share of the year, their weekdays and months, the share of each slot in each mode, shape
    (SLOTS, modes), whose rows add up to 1, and what of each slot is outside of sessions, shape (SLOTS,)."""

    weight: float
    weekdays: tuple[int, ...]
    months: tuple[int, ...]
    slots: Array
    left: Array

    def of(self, day: Day) -> Day:
        """The day with nothing but what happens on such days."""
        there = (self.weekdays[0], self.months[0])
        return day.model_copy(
            update={
                "sessions": [x for x in day.sessions if happens(x, *there)],
                "wakes": [x for x in day.wakes if happens(x, *there)],
            }
        )

    @property
    def name(self) -> str:
        """Which days they are: "Sat, Sun in Jun, Jul"; "every day"."""
        days = _listed([WEEKDAYS[d] for d in self.weekdays], WEEKDAYS) if len(self.weekdays) < 7 else "every day"
        months = _listed([MONTHS[m - 1] for m in self.months], MONTHS) if len(self.months) < 12 else ""
        return f"{days} in {months}" if months else days


def _listed(chosen: list[str], order: tuple[str, ...]) -> str:
    """ "Mon to Fri" where they follow each other, "Mon, Wed" where they do not."""
    first = order.index(chosen[0])
    if len(chosen) > 2 and tuple(chosen) == order[first : first + len(chosen)]:
        return f"{chosen[0]} to {chosen[-1]}"
    return ", ".join(chosen)


def mode_shares(day: Day, modes: list[Mode]) -> Array:
    """Share of the time spent in each mode over the year, shape (modes,); adds up to 1.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> mode_shares(design.day, design.modes).round(4).tolist()
    [0.9167, 0.0833]
    """
    return Year(day, modes).shares


def day_kinds(day: Day, modes: list[Mode], *, bad: bool = False) -> list[DayKind]:
    """The kinds of days in a year, their weights adding up to 1.

    `bad` takes as many random events as only one day in twenty exceeds, instead of their mean.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> [round(kind.weight, 3) for kind in day_kinds(design.day, design.modes)]
    [1.0]
    """
    events: list[Session | Wake] = [*day.sessions, *day.wakes]
    alike: dict[tuple[bool, ...], list[tuple[int, int]]] = defaultdict(list)
    if not any(e.days or e.months for e in events):
        return [DayKind(1.0, tuple(range(7)), tuple(range(1, 13)), *_slots(day, modes, 0, 1, bad))]
    for weekday in range(7):
        for month in range(1, 13):
            alike[tuple(happens(e, weekday, month) for e in events)].append((weekday, month))
    kinds = []
    for days in alike.values():
        weight = sum(DAYS_OF_MONTH[m - 1] for _, m in days) / 365.25 / 7
        weekdays, months = (tuple(sorted({d[i] for d in days})) for i in (0, 1))
        kinds.append(DayKind(weight, weekdays, months, *_slots(day, modes, *days[0], bad)))
    return kinds


@dataclass(frozen=True)
class Year:
    """What follows from a day and its modes over the year, each worked out once."""

    day: Day
    modes: list[Mode]

    @cached_property
    def kinds(self) -> list[DayKind]:
        return day_kinds(self.day, self.modes)

    @cached_property
    def shares(self) -> Array:
        """Share of the time spent in each mode, shape (modes,); adds up to 1."""
        return _mean_shares(self.kinds)

    @cached_property
    def longest_s(self) -> tuple[Array, Array]:
        """`longest_s` of the day."""
        return longest_s(self.day, self.modes)

    @cached_property
    def by_use(self) -> Array:
        """What of the shares belongs to sessions, and is missing at rest for it: adds up to 0, shape (modes,)."""
        unused = self.day.model_copy(update={"sessions": []})
        return np.asarray(self.shares - _mean_shares(day_kinds(unused, self.modes)))

    @cached_property
    def wakes_a_day(self) -> list[float]:
        """How often each wake comes in a day, on average."""
        return [
            sum(
                k.weight * float(np.mean(k.left * window(w))) * SECONDS_PER_DAY / w.every_s
                for k in self.kinds
                if happens(w, k.weekdays[0], k.months[0])
            )
            for w in self.day.wakes
        ]


def _mean_shares(kinds: list[DayKind]) -> Array:
    return np.asarray(sum(k.weight * k.slots.mean(axis=0) for k in kinds))


def times_a_day(session: Session, *, bad: bool = False) -> float:
    """How often a session comes on a day on which it does.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> times_a_day(design.day.sessions[0])
    2.0
    """
    if bad and session.why != "planned":
        return _most_on(BAD_DAY, session.per_day)
    return session.per_day


def _most_on(share: float, mean: float) -> float:
    """The count of chance events that is not exceeded on a share of the days (0..1), by Poisson's distribution."""
    counts = np.arange(int(mean + 12 * mean**0.5) + 30)
    log_factorial = np.concatenate([[0.0], np.cumsum(np.log(counts[1:]))])
    below = np.cumsum(np.exp(counts * np.log(mean) - mean - log_factorial))
    return float(np.searchsorted(below, share))


def longest_s(day: Day, modes: list[Mode]) -> tuple[Array, Array]:
    """(the longest stretch of each mode that the day has [s], how often it comes [s]), each of shape (modes,): endless for the
    rest mode and for modes that the day does not use; what comes at random, or by the clock, may come at any distance.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> [[round(float(x)) if x < 1e9 else None for x in row] for row in longest_s(design.day, design.modes)]
    [[None, 3600], [None, 43200]]
    """
    index = {m.id: i for i, m in enumerate(modes)}
    found, every = np.zeros(len(modes)), np.full(len(modes), np.inf)
    events: list[Session | Wake] = [*day.sessions, *day.wakes]
    for event in events:
        regular = isinstance(event, Wake) or (event.why == "planned" and not event.at_h)
        apart = (event.every_s if isinstance(event, Wake) else 86400 / event.per_day) if regular else np.inf
        for stretch in event.stretches:
            mode = index[stretch.mode]
            if stretch.seconds > found[mode]:
                found[mode], every[mode] = stretch.seconds, apart
    endless = found == 0
    endless[index[day.rest]] = True
    found[endless], every[endless] = np.inf, np.inf
    return found, every


def covered(start_h: float, end_h: float) -> Array:
    """Share of each slot that lies between two hours, shape (SLOTS,); past midnight it goes on in the morning.

    >>> float(covered(6.0, 7.25)[12:16].tolist()[2])
    0.5
    """
    edges = np.arange(SLOTS + 1) * (24 / SLOTS)
    total = np.zeros(SLOTS)
    for back in range(int(end_h // 24) + 1):
        begin, end = start_h - 24 * back, end_h - 24 * back
        total += np.clip(np.minimum(edges[1:], end) - np.maximum(edges[:-1], begin), 0, None)
    return total * (SLOTS / 24)


def window(wake: Wake) -> Array:
    """Share of each slot in which a wake may come, shape (SLOTS,).

    >>> from ember_core.design import Wake
    >>> int(window(Wake(id="w", name="Wakes", mode="m", every_s=600, awake_s=2)).sum())
    48
    """
    if wake.from_h is None or wake.to_h is None:
        return np.ones(SLOTS)
    return covered(wake.from_h, wake.to_h if wake.to_h > wake.from_h else wake.to_h + 24)


def _slots(day: Day, modes: list[Mode], weekday: int, month: int, bad: bool) -> tuple[Array, Array]:
    """(share of each slot in each mode, what of each slot is outside of sessions) on one day."""
    index = {m.id: i for i, m in enumerate(modes)}
    slots = np.zeros((SLOTS, len(modes)))
    floating = np.zeros(len(modes))
    for session in day.sessions:
        if not happens(session, weekday, month):
            continue
        if not session.at_h:
            for stretch in session.stretches:
                floating[index[stretch.mode]] += stretch.seconds * times_a_day(session, bad=bad) / SECONDS_PER_DAY
        for start in session.at_h:
            at = start
            for stretch in session.stretches:
                slots[:, index[stretch.mode]] += covered(at, at + stretch.seconds / 3600)
                at += stretch.seconds / 3600
    taken = slots.sum(axis=1)
    slots /= np.maximum(taken, 1.0)[:, None]
    free = np.maximum(1 - taken, 0.0)
    room = float(free.mean())
    asked = float(floating.sum())
    if asked > 0 and room > 0:
        slots += free[:, None] * floating * (min(asked, room) / asked / room)
    left = free * (1 - min(asked / room, 1.0)) if room > 0 else free
    awake = np.zeros((SLOTS, len(modes)))
    for wake in day.wakes:
        if happens(wake, weekday, month):
            for stretch in wake.stretches:
                awake[:, index[stretch.mode]] += window(wake) * stretch.seconds / wake.every_s
    busy = awake.sum(axis=1)
    awake /= np.maximum(busy, 1.0)[:, None]
    slots += left[:, None] * awake
    slots[:, index[day.rest]] += left * np.maximum(1 - busy, 0.0)
    return slots, left
