"""A large made-up design, and its supply solved by plain Python loops: what the fast solver is held against."""

from __future__ import annotations

from typing import Any

import numpy as np

from ember_core import Design, build_design
from ember_core.battery.pack import Pack
from ember_core.load.operating_points import OperatingPoint
from ember_core.numeric import Array
from ember_core.supply.converters import fit_switching

from .gadgets import LINEAR, cell, document, part, state, use
from .switching import switching_loss_w

SWITCHING: dict[str, Any] = {
    "type": "switching", "quiescent_a": 1e-5, "limit_a": 2, "undervoltage_lockout_v": 2,
    "points": [{"current_a": a, "efficiency": e, "input_v": 3.7} for a, e in ((1e-3, 0.8), (0.1, 0.92), (1, 0.85))],
}  # fmt: skip


def large_design(parts: int = 60, modes: int = 8) -> Design:
    """Six rails behind a switch, a buck, a boost, two linear regulators and a buck-boost; four kinds of draw."""
    stages = [
        {"type": "pass", "id": "switch", "name": "Switch", "input": "battery", "resistance_ohm": 0.05, "limit_a": 5},
        SWITCHING | {"id": "buck", "name": "Buck", "input": "switch", "topology": "buck", "output_v": 2.5},
        SWITCHING | {"id": "boost", "name": "Boost", "input": "switch", "topology": "boost", "output_v": 5.0},
        SWITCHING | {"id": "both", "name": "Both", "input": "switch", "topology": "buck-boost", "output_v": 3.3},
        LINEAR | {"id": "low", "name": "Low", "input": "buck", "output_v": 1.8},
        LINEAR | {"id": "quiet", "name": "Quiet", "input": "both", "output_v": 3.0},
    ]
    feeds = ["switch", "buck", "boost", "both", "low", "quiet"]
    made = [part(f"p{i}", *_states(i), rail=feeds[i % 6]) for i in range(parts)]
    uses = [[use(f"p{i}", "calm" if (i + m) % 3 else "busy") for i in range(parts)] for m in range(modes)]
    return build_design(
        document(
            parts=made,
            modes=[{"id": f"m{m}", "name": f"Mode {m}", "uses": u} for m, u in enumerate(uses)],
            supply={"stages": stages, "rails": [{"id": f, "name": f.title(), "feed": f} for f in feeds]},
            battery={"cell": cell(capacity_ah=3.0, resistance_ohm=0.06, discharge_max_a=6)},
            day={"rest": "m0"},
        )
    )


def _states(i: int) -> list[dict[str, Any]]:
    calm, busy = 1e-5 * (1 + i % 7), 1e-3 * (1 + i % 5)
    if i % 12 == 4:
        return [
            {"name": n, "draw": {"behaviour": "power", "power_w": {"typical": 3 * a}}}
            for n, a in (("calm", calm), ("busy", busy))
        ]
    if i % 12 == 9:
        return [
            {"name": n, "draw": {"behaviour": "resistor", "resistance_ohm": {"typical": 3 / a}}}
            for n, a in (("calm", calm), ("busy", busy))
        ]
    if i % 12 == 2:
        return [
            {"name": n, "draw": {"behaviour": "led", "forward_v": 2.0, "resistance_ohm": {"typical": 1 / a}}}
            for n, a in (("calm", calm), ("busy", busy))
        ]
    return [state("calm", calm), state("busy", busy)]


def sampled_values(design: Design, samples: int) -> Array:
    """(samples, states): the states' typical figures times a seeded factor each."""
    values = []
    for item in design.parts:
        for s in item.states:
            span = getattr(s.draw, {"current": "current_a", "power": "power_w"}.get(s.draw.behaviour, "resistance_ohm"))
            values.append(span.typical)
    factors = np.exp(np.random.default_rng(7).normal(0, 0.2, (samples, len(values))))
    return np.asarray(values * factors)


def solve_plainly(
    design: Design, operating_points: list[OperatingPoint], values: Array, pack: Pack
) -> list[list[list[float]]]:
    """Terminal voltages by (sample, operating point, state of charge), one working point after the other.

    The same model and the same stop as the core's solver, written as anyone would first write it: dictionaries,
    loops, substitution until nothing moves.
    """
    stages = {s.id: s for s in design.supply.stages}
    converter_models = {
        s.id: fit_switching(s.points, s.output_v, s.quiescent_a, s.topology)
        for s in stages.values()
        if s.type == "switching"
    }
    names = [(p.id, s.name) for p in design.parts for s in p.states]
    parts = {p.id: p for p in design.parts}
    result = []
    for row in values:
        figures = dict(zip(names, (float(v) for v in row), strict=True))
        of_sample = []
        for moment in operating_points:
            loads: dict[str, list[tuple[Any, float, int]]] = {r.feed: [] for r in design.supply.rails}
            feeds = {r.id: r.feed for r in design.supply.rails}
            for item, used in zip(design.parts, moment.states, strict=True):
                if used is not None:
                    figure = figures[item.id, used.name]
                    loads[feeds[item.rail]].append((used.draw, figure, parts[item.id].quantity))
            points = []
            for ocv, ohm in zip(pack.open_circuit_v, pack.resistance_ohm, strict=True):
                points.append(_working_point(float(ocv), float(ohm), stages, converter_models, loads))
            of_sample.append(points)
        result.append(of_sample)
    return result


def _working_point(
    ocv: float, ohm: float, stages: dict[str, Any], converter_models: dict[str, Any], loads: dict[str, Any]
) -> float:
    volts, out = ocv, dict.fromkeys(stages, 0.0)
    for _ in range(200):
        node = {"battery": volts}
        for key, stage in stages.items():  # written in the order of the current
            source = node[stage.input]
            if stage.type == "linear":
                value = min(stage.output_v, source - stage.dropout_v / stage.dropout_at_a * out[key])
            elif stage.type == "pass":
                value = source - stage.resistance_ohm * out[key]
            elif stage.topology == "buck":
                value = min(stage.output_v, source - 0.2 / stage.limit_a * out[key])
            elif stage.topology == "boost":
                value = max(stage.output_v, source)
            else:
                value = stage.output_v
            node[key] = max(value, 0.0)
        asked = dict.fromkeys(node, 0.0)
        for feed, users in loads.items():
            for draw, figure, count in users:
                if draw.behaviour == "current":
                    asked[feed] += count * figure
                elif draw.behaviour == "power":
                    asked[feed] += count * figure / max(node[feed], 0.05)
                elif draw.behaviour == "resistor":
                    asked[feed] += count * node[feed] / figure
                else:
                    asked[feed] += count * max(0.0, node[feed] - draw.forward_v) / figure
        moved = 0.0
        for key in reversed(stages):
            stage, load = stages[key], asked[key]
            moved = max(moved, abs(load - out[key]))
            out[key] = load
            if stage.type == "linear":
                taken = load * (1 + stage.ground_share) + stage.quiescent_a
            elif stage.type == "pass":
                taken = load + stage.leakage_a
            else:
                converter_model = converter_models[key]
                source = max(node[stage.input], 0.05)
                taken = (node[key] * load + switching_loss_w(converter_model, source, load)) / source
            asked[stage.input] += taken
        following = max(ocv - asked["battery"] * ohm, 0.25 * ocv)
        moved = max(moved, abs(following - volts))
        volts = following
        if moved < 1e-10:
            break
    return volts
