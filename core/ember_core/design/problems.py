"""What is wrong with an input, said at its place: a JSON pointer and a sentence with the value and the range."""

from __future__ import annotations

import json
import math
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from pydantic import ValidationError

LARGEST_DOCUMENT = 4_000_000  # bytes
DEEPEST_DOCUMENT = 40


@dataclass(frozen=True)
class Problem:
    """One thing that is wrong: `path` is a JSON pointer into the document, `place` the same in words where it is known."""

    path: str
    message: str
    place: str = ""


class DocumentError(ValueError):
    """The input can't be used; nothing of it was taken over."""

    def __init__(self, problems: list[Problem]) -> None:
        self.problems = problems
        super().__init__("; ".join(f"{p.path or 'the document'}: {p.message}" for p in problems[:5]))


def pointer(*segments: str | int) -> str:
    return "".join("/" + str(s).replace("~", "~0").replace("/", "~1") for s in segments)


_WORDS = {"parts": "Parts", "modes": "Modes", "supply": "Supply", "battery": "Battery", "charger": "Charger", "day": "Day",
          "enclosure": "Enclosure", "brief": "Brief", "decisions": "Decisions", "uses": "use"}  # fmt: skip
_UNIT_SUFFIX = re.compile(r"_(a|v|w|ohm|ah|s|h|mm|g|c|f)$")


def in_words(place: Sequence[str]) -> str:
    """A place in a document as people read it: ["battery", "cell", "capacity_ah"] is "Battery › cell › capacity"."""
    words = " › ".join(_WORDS.get(p) or _UNIT_SUFFIX.sub("", p).replace("_", " ") for p in place)
    return words[:1].upper() + words[1:]


def with_places(problems: Iterable[Problem], document: Any) -> list[Problem]:
    """The problems with their places in words; items of lists go by their names."""
    return [replace(p, place=in_words(_names(p.path, document))) for p in problems]


def _names(path: str, document: Any) -> list[str]:
    names, here = [], document
    for segment in path.split("/")[1:]:
        key = segment.replace("~1", "/").replace("~0", "~")
        if isinstance(here, list) and key.isdecimal() and int(key) < len(here):
            here = here[int(key)]
            name = (here.get("name") or here.get("part")) if isinstance(here, dict) else None
            names.append(name[:60] if isinstance(name, str) else str(int(key) + 1))
        else:
            here = here.get(key) if isinstance(here, dict) else None
            names.append(key)
    return names


def from_validation(error: ValidationError, data: Any) -> list[Problem]:
    """Pydantic's errors as problems, without the union tags that its locations contain."""
    found = []
    for item in error.errors(include_url=False)[:50]:
        path = _real_path(item["loc"], data)
        found.append(Problem(pointer(*path), sentence(item)))
    return found


def _real_path(loc: tuple[int | str, ...], data: Any) -> list[str | int]:
    path: list[str | int] = []
    here = data
    for i, segment in enumerate(loc):
        if isinstance(here, dict):
            if segment in here:
                here = here[segment]
            elif i != len(loc) - 1:
                continue  # the tag of a union, not a key
            else:
                here = None
        elif isinstance(here, list) and isinstance(segment, int) and segment < len(here):
            here = here[segment]
        elif i != len(loc) - 1:
            continue
        path.append(segment)
    return path


UNSEEN = object()  # where the error does not carry what was given


def _shown(value: Any) -> str:
    if value is UNSEEN:
        return "it"
    text = repr(value) if isinstance(value, str | float | int | bool) else type(value).__name__
    return text if len(text) <= 40 else text[:37] + "..."


def sentence(item: Any) -> str:
    """One of pydantic's errors in plain words."""
    kind, context, value = item["type"], item.get("ctx", {}), item.get("input", UNSEEN)
    match kind:
        case "missing":
            return "is missing"
        case "extra_forbidden":
            return "is not a field of this format"
        case "string_pattern_mismatch":
            return f"{_shown(value)} does not have the form that belongs here ({context['pattern']})"
        case "string_too_short":
            return "must not be empty"
        case "literal_error":
            return f"{_shown(value)} is not one of {context['expected']}"
        case "union_tag_invalid":
            return f"{_shown(context.get('tag'))} is not one of {context['expected_tags']}"
        case "value_error":
            return str(context["error"])
        case "greater_than_equal" if isinstance(context["ge"], str):  # a day
            return f"{_shown(value)} must be {context['ge']} or later"
        case "less_than_equal" if isinstance(context["le"], str):
            return f"{_shown(value)} must be {context['le']} or earlier"
    amiss = _number_amiss(kind, context, value)
    return f"{_shown(value)} {amiss}" if amiss else str(item["msg"])


def _number_amiss(kind: str, context: dict[str, Any], value: Any) -> str | None:
    """What is wrong with a number, as the rest of a sentence about it; None where the error is no such one."""
    match kind:
        case "greater_than":
            return f"must be above {context['gt']:g}"
        case "greater_than_equal" if context["ge"] > 0 and isinstance(value, int | float) and value <= 0:
            return "must be above 0"
        case "greater_than_equal":
            return f"must be {context['ge']:g} or more"
        case "less_than":
            return f"must be below {context['lt']:g}"
        case "less_than_equal":
            return f"must be {context['le']:g} or less"
        case "finite_number":
            return "is not a finite number"
        case "int_type" | "int_parsing" | "int_from_float":
            return "is not a whole number"
        case "float_type" | "float_parsing":
            return "is not a number of the kind that belongs here"
    return None


def read_json(raw: bytes | str) -> Any:
    """Untrusted JSON text as plain data; size, depth, NaN and encoding are checked.

    Raises DocumentError with one problem.
    """
    if len(raw) > LARGEST_DOCUMENT:
        size = len(raw) / 1e6
        raise DocumentError([Problem("", f"is {size:.0f} MB; at most {LARGEST_DOCUMENT / 1e6:.0f} MB are read")])
    try:
        text = raw.decode("utf-8-sig") if isinstance(raw, bytes) else raw
        data = json.loads(text, parse_constant=_refuse_constant)
    except UnicodeDecodeError as error:
        raise DocumentError([Problem("", f"is not UTF-8 text (byte {error.start})")]) from None
    except json.JSONDecodeError as error:
        raise DocumentError(
            [Problem("", f"is not JSON: {error.msg} at line {error.lineno}, column {error.colno}")]
        ) from None
    except RecursionError:
        raise DocumentError([Problem("", "is nested too deeply")]) from None
    except ValueError as error:
        raise DocumentError([Problem("", str(error))]) from None
    _check_depth(data)
    return data


def _refuse_constant(name: str) -> float:
    raise ValueError(f"{name} is not a number in JSON; every figure must be finite")


def _check_depth(data: Any) -> None:
    level, items = 0, [data]
    while items:
        level += 1
        if level > DEEPEST_DOCUMENT:
            raise DocumentError([Problem("", "is nested too deeply")])
        deeper: list[Any] = []
        for item in items:
            if isinstance(item, dict):
                deeper.extend(item.values())
            elif isinstance(item, list):
                deeper.extend(item)
            elif isinstance(item, float) and not math.isfinite(item):
                raise DocumentError([Problem("", "contains a number too large to hold")])
        items = deeper
