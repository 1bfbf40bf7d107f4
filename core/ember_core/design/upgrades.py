"""Older documents as the present format: a chain of steps, each from one version to the next.

A step takes plain data that nobody has checked yet and gives new data: what is not of the expected shape is left as it is, for
the models to complain about. Pieces that are kept by themselves (a part, a cell, a stage, a charger of one's own catalogue) go
through the same steps.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, Literal

FORMAT = "frugal-ember/3"
Piece = Literal["part", "cell", "stage", "charger", "making"]
Step = Callable[[Any], Any]

CELL_FLOAT_V = 4.0  # one cell's share of a float voltage lies around this: 3.6 V (iron phosphate) to 4.2 V


def _at(path: str, step: Step) -> Step:
    """A step for what lies at a path; `*` stands for every entry of a list or an object."""
    if not path:
        return step
    key, _, rest = path.partition("/")
    inner = _at(rest, step)

    def applied(data: Any) -> Any:
        if key == "*" and isinstance(data, list):
            return [inner(x) for x in data]
        if isinstance(data, dict):
            return {k: inner(v) if key in ("*", k) else v for k, v in data.items()}
        return data

    return applied


def _called(names: Mapping[str, str]) -> Step:
    """Other names for an object's fields. Where the new name is there too, the old one stays and is refused as unknown."""

    def applied(data: Any) -> Any:
        if not isinstance(data, dict):
            return data
        return {names[k] if k in names and names[k] not in data else k: v for k, v in data.items()}

    return applied


def _said(field: str, words: Mapping[str, str]) -> Step:
    """Another word for the value of a field."""

    def one(value: Any) -> Any:
        return words.get(value, value) if isinstance(value, str) else value

    return _at(field, one)


def _chain(*steps: Step) -> Step:
    def applied(data: Any) -> Any:
        for step in steps:
            data = step(data)
        return data

    return applied


def _float_voltage_of_each_cell(charger: Any) -> Any:
    """1 to 2: the float voltage was that of the terminals."""
    if not isinstance(charger, dict) or "float_v_per_cell" in charger:
        return charger
    whole = charger.get("float_v")
    if not isinstance(whole, int | float) or isinstance(whole, bool):
        return charger
    cells = min(max(round(whole / CELL_FLOAT_V), 1), 24) if 0 < whole <= 100 else 1
    rest = {k: v for k, v in charger.items() if k != "float_v"}
    return rest | {"cells_in_series": cells, "float_v_per_cell": whole / cells}


# 2 to 3: the field's own terms
_RESISTANCE = {"theta_c_per_w": "rth_ja_c_per_w"}
_PART = _chain(
    _called({"passenger": "parasitic", "supply_high_v": "supply_recommended_max_v", "supply_max_v": "supply_absolute_max_v"}),
    _said("kind", {"lamp": "led"}),
    _at("states/*/draw", _chain(_said("behaviour", {"lamp": "led"}), _at("*", _called({"least": "min", "most": "max"})))),
)  # fmt: skip
_CELL = _chain(
    _at("bank", _called({"own_a": "idle_a", "least_a": "auto_shutoff_a"})),
    _at("curve", _called({"charge": "soc", "fast_ohm": "r0_ohm", "left_behind_h": "unavailable_h"})),
)
_STAGE = _chain(
    _called(_RESISTANCE | {"running_min_v": "undervoltage_lockout_v", "starting_min_v": "start_up_v", "disconnects": "load_disconnect"}),
    _said("type", {"either": "power-or", "series": "pass", "shunt": "shunt-regulator"}),
)  # fmt: skip
_CHARGER = _called(_RESISTANCE | {"programming_v": "program_constant_v", "programming_ohm": "program_ohm"})

_PIECES: list[tuple[str, str, Mapping[Piece, Step]]] = [
    ("frugal-ember/1", "frugal-ember/2", {"charger": _float_voltage_of_each_cell}),
    ("frugal-ember/2", "frugal-ember/3", {"part": _PART, "cell": _CELL, "stage": _STAGE, "charger": _CHARGER}),
]
_PLACES: Mapping[Piece, tuple[str, ...]] = {
    "part": ("parts/*", "parts/*/alternatives/*"),
    "cell": ("battery/cell",),
    "stage": ("supply/stages/*",),
    "charger": ("charger",),
    "making": ("enclosure/making",),
}
_WHOLE: Mapping[str, Step] = {"frugal-ember/2": _at("supply/sources/*", _called({"least_a": "auto_shutoff_a"}))}

READABLE = (*(old for old, _, _ in _PIECES), FORMAT)


def upgraded(data: Any) -> Any:
    """A document's plain data in the present format, if its `format` is one that is known; anything else as it is."""
    for old, new, pieces in _PIECES:
        if not isinstance(data, dict) or data.get("format") != old:
            continue
        for piece, step in pieces.items():
            data = _chain(*(_at(place, step) for place in _PLACES[piece]))(data)
        data = _WHOLE.get(old, lambda whole: whole)(data) | {"format": new}
    return data


def upgraded_piece(kind: Piece, data: Any) -> Any:
    """A piece that was kept without a format, whatever version it is from: every step leaves newer data alone."""
    for _, _, pieces in _PIECES:
        if kind in pieces:
            data = pieces[kind](data)
    return data
