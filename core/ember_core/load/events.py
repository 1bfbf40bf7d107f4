"""One day as events: which operating point of which mode comes when, and for how long."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..design import Design, Session, Spell, Wake
from ..design.day import happens
from ..numeric import Array
from .day import DAYS_OF_MONTH
from .operating_points import OperatingPoint

SECONDS_PER_DAY = 86400.0
USUAL_CYCLE_S = 10.0  # of duties without a burst period
MOST_CYCLES = 400  # of one stretch that are told apart; more are put together
MOST_WAKES = 200_000  # in one day that are told apart, of all kinds together
MOST_SESSIONS = 19_937  # the same for sessions; a prime, so that the two do not keep step


@dataclass(frozen=True)
class Events:
    """Events in order; arrays of shape (events,). `operating point` is a position in the design's operating points."""

    moment: np.ndarray
    seconds: Array


class Scheduler:
    """Makes the events of any day of the year. Random events are drawn with a seed of their day."""

    def __init__(self, design: Design, operating_points: list[OperatingPoint], seed: int = 0) -> None:
        self.design, self.seed = design, seed
        self.index = design.index.modes
        self.own = [[k for k, m in enumerate(operating_points) if m.mode == i] for i in range(len(design.modes))]
        self.share = np.array([m.share for m in operating_points])
        bursts = [{u.period_s or USUAL_CYCLE_S for u in m.uses if u.burst} for m in design.modes]
        self.cycle = [b.pop() if len(b) == 1 else USUAL_CYCLE_S for b in bursts]
        day = design.day
        every: list[Session | Wake] = [*day.sessions, *day.wakes]
        drawn = any(s.why != "planned" for s in day.sessions)
        self.alike = not drawn and all(s.per_day == int(s.per_day) for s in day.sessions)
        self.alike = self.alike and not any(e.days or e.months for e in every)
        self._same: Events | None = None

    def day(self, number: int) -> Events:
        """The events of a day, counted from a Monday in January."""
        if not self.alike:
            return self._build(number)
        if self._same is None:
            self._same = self._build(0)
        return self._same

    def _build(self, number: int) -> Events:
        busy = self._sessions(number)
        operating_points: list[np.ndarray] = []
        seconds: list[Array] = []
        now = 0.0
        for start, session in busy:
            self._resting(number, now, start, operating_points, seconds)
            now = max(start, now)
            for stretch in session.stretches:
                self._stretch(stretch, operating_points, seconds)
            now += session.total_s
        self._resting(number, now, SECONDS_PER_DAY, operating_points, seconds)
        return Events(np.concatenate(operating_points), np.concatenate(seconds))

    def _sessions(self, number: int) -> list[tuple[float, Session]]:
        """(start in seconds of the day, session) in order. Those without a clock are spread over the free time."""
        random = np.random.default_rng([self.seed, number])
        weekday, month = number % 7, month_of(number)
        clocked: list[tuple[float, Session]] = []
        floating: list[tuple[float, Session]] = []  # (position in the free time 0..1, session)
        for session in self.design.day.sessions:
            if not happens(session, weekday, month):
                continue
            if session.at_h:
                clocked += [(at * 3600, session) for at in session.at_h]
                continue
            if session.why == "planned":
                count = int(np.floor((number + 1) * session.per_day) - np.floor(number * session.per_day))
                one, count = self._fewer(session, count)
                floating += [((k + 0.5) / count, one) for k in range(count)]
            else:
                one, count = self._fewer(session, int(random.poisson(session.per_day)))
                floating += [(float(x), one) for x in random.random(count)]
        clocked.sort(key=lambda x: x[0])
        floating.sort(key=lambda x: x[0])
        taken = sum(s.total_s for _, s in [*clocked, *floating])
        free = max(SECONDS_PER_DAY - taken, 0.0)
        placed: list[tuple[float, Session]] = []
        now, rested = 0.0, 0.0
        for position, session in floating:
            while clocked and clocked[0][0] - now <= position * free - rested:
                start, first = clocked.pop(0)
                rested += max(start - now, 0.0)
                placed.append((max(start, now), first))
                now = max(start, now) + first.total_s
            now += max(position * free - rested, 0.0)
            rested = max(position * free, rested)
            placed.append((now, session))
            now += session.total_s
        return [*placed, *clocked]

    def _fewer(self, session: Session, count: int) -> tuple[Session, int]:
        """As many sessions as are told apart, each as much longer."""
        most = MOST_SESSIONS // len(self.design.day.sessions)
        if count <= most:
            return session, count
        longer = {"seconds": session.seconds * count / most}
        for key in ("before", "after"):
            stretch = getattr(session, key)
            if stretch is not None:
                longer[key] = stretch.model_copy(update={"seconds": stretch.seconds * count / most})
        return session.model_copy(update=longer), most

    def _resting(
        self, number: int, start: float, end: float, operating_points: list[np.ndarray], seconds: list[Array]
    ) -> None:
        """A stretch between sessions: the rest mode with its wakes."""
        if end <= start:
            return
        day = self.design.day
        weekday, month = number % 7, month_of(number)
        pieces: list[tuple[Array, int]] = []  # (starts, wake)
        for i, wake in enumerate(day.wakes):
            if not happens(wake, weekday, month):
                continue
            step = self._step(wake)
            at = np.arange(np.ceil(start / step) * step, end, step)
            if wake.from_h is not None and wake.to_h is not None:
                hour = at / 3600 % 24
                inside = (hour >= wake.from_h) & (hour < wake.to_h)
                at = at[inside if wake.from_h < wake.to_h else (hour >= wake.from_h) | (hour < wake.to_h)]
            pieces.append((at, i))
        pieces = [p for p in pieces if p[0].size]
        rest = Spell(mode=day.rest, seconds=max(end - start, 1e-6))
        if not pieces:
            self._stretch(rest, operating_points, seconds)
            return
        starts = np.concatenate([at for at, _ in pieces])
        which = np.concatenate([np.full(at.size, i) for at, i in pieces])
        order = np.argsort(starts, kind="stable")
        starts, which = starts[order], which[order]
        cycles = [self._cycle(w, self._step(w) / w.every_s) for w in day.wakes]
        length = np.array([c.seconds.sum() for c in cycles])[which]
        before = np.cumsum(length) - length
        starts = np.maximum.accumulate(starts - before) + before  # a wake waits for the one before it
        inside = starts + length <= end + 1e-9
        starts, which, length = starts[inside], which[inside], length[inside]
        if not starts.size:
            self._stretch(rest, operating_points, seconds)
            return
        gaps = np.diff(np.concatenate([[start], starts + length])) - length
        calm = self._cycle_of(day.rest)
        for kind in np.unique(which):
            if which.size > 1 and np.all(which == kind):
                one = np.concatenate([calm.moment, cycles[kind].moment])
                durations = np.concatenate(
                    [gaps[:, None] * calm.seconds / calm.seconds.sum(), np.tile(cycles[kind].seconds, (which.size, 1))], axis=1
                )  # fmt: skip
                operating_points.append(np.tile(one, which.size))
                seconds.append(durations.ravel())
                break
        else:
            for gap, kind in zip(gaps, which, strict=True):
                if gap > 0:
                    operating_points.append(calm.moment)
                    seconds.append(calm.seconds * (gap / calm.seconds.sum()))
                operating_points.append(cycles[kind].moment)
                seconds.append(cycles[kind].seconds)
        tail = end - float(starts[-1] + length[-1])
        if tail > 1e-9:
            self._stretch(Spell(mode=day.rest, seconds=tail), operating_points, seconds)

    def _step(self, wake: Wake) -> float:
        """The interval at which a wake is told apart [s]; where it comes too often, several are put together."""
        return max(wake.every_s, SECONDS_PER_DAY * len(self.design.day.wakes) / MOST_WAKES)

    def _cycle(self, wake: Wake, times: float) -> Events:
        parts: tuple[list[np.ndarray], list[Array]] = ([], [])
        for stretch in wake.stretches:
            self._stretch(stretch, *parts)
        return Events(np.concatenate(parts[0]), np.concatenate(parts[1]) * times)

    def _cycle_of(self, mode: str) -> Events:
        own = self.own[self.index[mode]]
        return Events(np.array(own), self.share[own])

    def _stretch(self, stretch: Spell, operating_points: list[np.ndarray], seconds: list[Array]) -> None:
        """A mode for a while: its cycle as often as it fits, or once where that would be too often to tell apart."""
        i = self.index[stretch.mode]
        own = np.array(self.own[i])
        times = stretch.seconds / self.cycle[i] if own.size > 1 else 1.0
        count = int(np.ceil(times)) if 1 < times <= MOST_CYCLES else 1
        operating_points.append(np.tile(own, count))
        seconds.append(np.tile(self.share[own] * (stretch.seconds / count), count))


def month_of(number: int) -> int:
    """The month of a day, counted from the first of January.

    >>> month_of(0), month_of(364)
    (1, 12)
    """
    left = number % 365.25
    for month, days in enumerate(DAYS_OF_MONTH, start=1):
        left -= days
        if left < 0:
            return month
    return 12
