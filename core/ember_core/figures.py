"""What the evaluation is made of: figures that carry their working, findings that carry a remedy."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field


class Result(BaseModel):
    """Base of all results. Results are made by the core and never edited."""

    model_config = ConfigDict(frozen=True, ser_json_inf_nan="null", json_schema_serialization_defaults_required=True)


class Input(Result):
    """One input of a working: its name, its value and where it comes from."""

    name: str
    value: float | None
    unit: str
    origin: str = ""


class Working(Result):
    """How a figure came about: the formula in words and symbols, its inputs, the source of the model."""

    formula: str
    inputs: list[Input] = []
    source: str = ""
    note: str = ""


class Figure(Result):
    """A value with its unit, the range it is expected in and its working. `value` is null where it is unknown.

    `low` and `high` are about the 10th and the 90th percentile; null where no range is known.
    """

    label: str
    value: float | None
    unit: str
    low: float | None = None
    high: float | None = None
    working: Working


class PatchOperation(Result):
    """One operation of an RFC 6902 JSON Patch of the design document."""

    op: Literal["add", "remove", "replace"]
    path: str
    value: Any = None


class Remedy(Result):
    """An edit of the design that would settle a finding, or save energy."""

    label: str
    patch: list[PatchOperation]


Severity = Literal["stop", "fix", "watch", "note"]
SEVERITIES: tuple[Severity, ...] = ("stop", "fix", "watch", "note")
Step = Literal["brief", "draw", "supply", "battery", "runtime", "fit", "record"]


class Finding(Result):
    """One thing that is worth knowing, with the numbers in it.

    `code` is stable; `where` is a JSON pointer to the place in the document that it is about.
    """

    code: str
    severity: Severity
    step: Step
    where: str
    title: str
    sentence: str
    figures: list[Figure] = []
    remedy: Remedy | None = None


Status = Literal["pass", "watch", "fail", "unknown"]


class Verdict(Result):
    """One place of the verdict band."""

    key: Literal["runtime", "weakest", "charge", "heat", "fit", "mass", "cost"]
    label: str
    figure: Figure
    status: Status
    word: str = Field(description="the status in a word or two for this verdict")
    sentence: str
    step: Step


def figure(
    label: str,
    value: float | None,
    unit: str,
    formula: str,
    inputs: Sequence[tuple[str, float | None, str] | tuple[str, float | None, str, str]] = (),
    source: str = "",
    *,
    low: float | None = None,
    high: float | None = None,
    note: str = "",
) -> Figure:
    """A figure with its working, from plain tuples (name, value, unit[, origin])."""
    listed = [Input(name=i[0], value=i[1], unit=i[2], origin=i[3] if len(i) > 3 else "") for i in inputs]
    working = Working(formula=formula, inputs=listed, source=source, note=note)
    return Figure(label=label, value=value, unit=unit, low=low, high=high, working=working)
