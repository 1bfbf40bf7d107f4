"""The day: what is used when, what wakes it, what it costs to start; the week's and the year's pattern."""

from __future__ import annotations

from typing import Annotated, Any, Literal, NamedTuple

from pydantic import Field, model_validator

from .basics import Model, Second, Slug, Title, slug

Hour = Annotated[float, Field(ge=0, lt=24, description="hour by the clock, 0 to 24 [h]")]
Weekday = Annotated[int, Field(ge=0, le=6, description="0 is Monday")]
Month = Annotated[int, Field(ge=1, le=12)]
Why = Literal["planned", "random", "accident"]


class Stretch(Model):
    """A mode for so many seconds."""

    mode: Slug
    seconds: Second


class Spell(NamedTuple):
    """A mode for so many seconds, as it is read off an event."""

    mode: str
    seconds: float


class Pattern(Model):
    """On which days something happens."""

    id: Slug = Field("", description="in a document that has none, made from the name")
    days: Annotated[list[Weekday], Field(max_length=7)] = Field([], description="of the week; empty: every day")
    months: Annotated[list[Month], Field(max_length=12)] = Field([], description="of the year; empty: all of them")
    before: Stretch | None = Field(None, description="each time starts with this: booting, joining the network")

    def _spells(self, mode: str, seconds: float, after: Stretch | None = None) -> list[Spell]:
        ends = [None if x is None else Spell(x.mode, x.seconds) for x in (self.before, after)]
        return [x for x in (ends[0], Spell(mode, seconds), ends[1]) if x is not None]


class Session(Pattern):
    """A stretch of a mode: by the clock, or some times a day at any hour."""

    name: Title
    mode: Slug
    seconds: Second
    per_day: Annotated[float, Field(ge=1e-6, le=86400)] = Field(description="times on such a day; a mean where random")
    at_h: Annotated[list[Hour], Field(max_length=48)] = Field([], description="starts by the clock; empty: any time")
    why: Why = Field("planned", description="random: Poisson with a mean of `per_day`; accident: nobody meant it")
    after: Stretch | None = Field(None, description="each time ends with this: what passes until the timeout")

    @model_validator(mode="after")
    def clock_agrees(self) -> Session:
        if not self.at_h:
            return self
        if self.why != "planned":
            raise ValueError("what happens at random has no starting times")
        if self.per_day != len(self.at_h):
            raise ValueError(f"it has {len(self.at_h)} starting times, and comes {self.per_day:g} times a day")
        return self

    @property
    def stretches(self) -> list[Spell]:
        """What one such session is made of, in order."""
        return self._spells(self.mode, self.seconds, self.after)

    @property
    def total_s(self) -> float:
        """How long one such session lasts in all [s]."""
        return sum(s.seconds for s in self.stretches)


class Wake(Pattern):
    """Short stretches of a mode at an interval, outside of sessions."""

    name: Title
    mode: Slug
    every_s: Second
    awake_s: Second
    from_h: Hour | None = Field(None, description="only from this hour on [h]")
    to_h: Hour | None = Field(None, description="only until this hour [h]")

    @model_validator(mode="after")
    def window_is_whole(self) -> Wake:
        if (self.from_h is None) != (self.to_h is None):
            raise ValueError("a window needs both its hours")
        if self.from_h is not None and self.from_h == self.to_h:
            raise ValueError("its window begins and ends at the same hour")
        return self

    @property
    def stretches(self) -> list[Spell]:
        return self._spells(self.mode, self.awake_s)

    @property
    def total_s(self) -> float:
        """How long one wake lasts, booting included [s]."""
        return sum(s.seconds for s in self.stretches)


class Day(Model):
    rest: Slug = Field(description="the mode in which the gadget spends all other time")
    rest_works: bool | None = Field(
        None, description="the resting mode is a working mode, nothing sleeps in it; null: judged by what it draws"
    )
    sessions: Annotated[list[Session], Field(max_length=64)] = []
    wakes: Annotated[list[Wake], Field(max_length=64)] = []
    saved_every_s: Second | None = Field(None, description="what is kept is written at least this often [s]")

    @model_validator(mode="before")
    @classmethod
    def all_have_ids(cls, data: Any) -> Any:
        """Gives what happens an id where the document has none."""
        if not isinstance(data, dict):
            return data
        return data | {key: _with_ids(data[key]) for key in ("sessions", "wakes") if isinstance(data.get(key), list)}


def _with_ids(events: list[Any]) -> list[Any]:
    """The same events, those without an id with one from their name. What is not an event is left to be refused."""

    def has_none(event: Any) -> bool:
        if isinstance(event, Pattern):
            return not event.id
        return isinstance(event, dict) and not event.get("id") and isinstance(event.get("name"), str)

    taken = {e.id if isinstance(e, Pattern) else str(e.get("id")) for e in events if isinstance(e, Pattern | dict)}

    def with_id(event: Any) -> Any:
        key = slug(event.name if isinstance(event, Session | Wake) else event["name"], taken, "event")
        taken.add(key)
        return event.model_copy(update={"id": key}) if isinstance(event, Pattern) else event | {"id": key}

    return [with_id(e) if has_none(e) else e for e in events]


def happens(event: Pattern, weekday: int, month: int) -> bool:
    """Whether an event has a part in a day (weekday 0..6 from Monday, month 1..12)."""
    return (not event.days or weekday in event.days) and (not event.months or month in event.months)
