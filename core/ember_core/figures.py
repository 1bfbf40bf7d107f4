"""What the evaluation is made of: figures that carry their working, findings that carry a remedy."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Annotated, Any, Literal, TypeVar, dataclass_transform

from pydantic import ConfigDict, Field, TypeAdapter

from .words import Fact as Told
from .words import Said, teller

T = TypeVar("T")


_CONFIG = ConfigDict(ser_json_inf_nan="null", json_schema_serialization_defaults_required=True)


@dataclass_transform(frozen_default=True, kw_only_default=True)
def record(cls: type[T]) -> type[T]:
    """Makes a class of results: plain records that the core makes and nobody edits, without a check of each value (a
    tenth of what an edit costs, when they had one). `as_json` writes them; the API's types are read off them."""
    # frozen for the type checker alone: at run time that would cost more than the rest of making one
    made = dataclass(slots=True, kw_only=True)(cls)
    made.__pydantic_config__ = _CONFIG  # type: ignore[attr-defined]
    return made


@dataclass_transform(frozen_default=True)
def _in_order(cls: type[T]) -> type[T]:
    """The same for what is made by the hundred: its values come in their order."""
    made = dataclass(slots=True)(cls)
    made.__pydantic_config__ = _CONFIG  # type: ignore[attr-defined]
    return made


_writers: dict[type, TypeAdapter[Any]] = {}


def as_json(one: Any, indent: int | None = None) -> bytes:
    """A result as JSON; what is not finite is null."""
    kind = type(one)
    if kind not in _writers:
        _writers[kind] = TypeAdapter(kind)
    return _writers[kind].dump_json(one, indent=indent)


@_in_order
class Input:
    """One input of a working: its name, its value and where it comes from."""

    name: str
    value: float | None
    unit: str
    origin: str = ""


@record
class Working:
    """How a figure came about: the formula, in plain words too where it has symbols, its inputs, the source of the model."""

    formula: str
    words: str = ""
    inputs: list[Input] = field(default_factory=list)
    source: str = ""
    note: str = ""


@record
class Figure:
    """A value with its unit, the range it is expected in and its working. `value` is null where it is unknown.

    `low` and `high` are about the 10th and the 90th percentile; null where no range is known.
    """

    label: str
    value: float | None
    unit: str
    low: float | None = None
    high: float | None = None
    working: Working


@record
class PatchOperation:
    """One operation of an RFC 6902 JSON Patch of the design document."""

    op: Literal["add", "remove", "replace"]
    path: str
    value: Any = None


@record
class Remedy:
    """An edit of the design that settles a finding, or saves energy.

    `outcome` says what the changed design is like, `runtime` is its runtime; both are empty as long as the remedy has not
    been held against the design.
    """

    label: str
    patch: list[PatchOperation]
    outcome: str = ""
    runtime: Figure | None = None


Severity = Literal["stop", "fix", "watch", "note"]
SEVERITIES: tuple[Severity, ...] = ("stop", "fix", "watch", "note")
Step = Literal["brief", "draw", "supply", "battery", "charge", "runtime", "fit", "record"]


@record
class Fact:
    """A figure that a finding tells; `name` is stable within the finding's code."""

    name: str
    value: float
    unit: str


@record
class Finding:
    """One thing that is worth knowing: `facts` has the numbers, `sentence` says them.

    `code` is stable, `key` is one of its own among a design's findings; `where` is a JSON pointer to the place in the
    document that it is about. `has_ways` tells that there may be a way out; remedies are held against the design first
    and come in an answer of their own.
    """

    key: str
    code: str
    severity: Severity
    step: Step
    where: str
    title: str
    sentence: str
    facts: list[Fact]
    has_ways: bool


Status = Literal["pass", "watch", "fail", "unknown"]
VerdictKey = Literal["runtime", "weakest", "charge", "heat", "fit", "mass", "cost"]


@record
class Verdict:
    """One place of the verdict band. `about` names what its figure is of, where that is one thing of several."""

    key: VerdictKey
    label: str
    figure: Figure
    status: Status
    word: Annotated[str, Field(description="the status in a word or two for this verdict")]
    sentence: str
    step: Step
    about: str = ""


NOTHING: Mapping[str, Told] = {}


def figure(
    key: str,
    value: float | None,
    unit: str,
    inputs: Sequence[tuple[str, float | None, str] | tuple[str, float | None, str, str]] = (),
    source: str = "",
    *,
    facts: Mapping[str, Told] = NOTHING,
    formula: Said | None = None,
    low: float | None = None,
    high: float | None = None,
    note: str = "",
) -> Figure:
    """A figure with its working, from plain tuples (name, value, unit[, origin]). Its label, its formula, that in words and what is always noted
    of it are the messages of its key; `formula` is another one, where it is made in several ways."""
    own, told = f"figure-{key}", teller()
    made = Said(f"{own}.formula", facts) if formula is None else formula
    working = Working(
        formula=told.tell(made.key, made.facts),
        words=told.some(made.key.replace(".formula", ".words")),
        inputs=[Input(*i) for i in inputs],
        source=source,
        note=note or told.some(f"{own}.note"),
    )
    return Figure(label=told.tell(f"{own}.label", facts), value=value, unit=unit, low=low, high=high, working=working)
