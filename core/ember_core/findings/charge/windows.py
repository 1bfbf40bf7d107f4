"""Traps of voltage windows: more at the input of a stage or of a charger than it stands, in any state of charge, with everything plugged in."""

from __future__ import annotations

from collections.abc import Iterator

from ...design import Charger
from ...design.patches import replace
from ...design.references import BATTERY
from ...figures import Remedy
from ...measures.bench import TrialBench
from ...measures.selection import before_stage, stage_in_place
from ...words import Said, say
from ..found import Found
from .refill import fitting, instead
from .sun import OPEN_PANEL

ASK_ABOVE_V = 5.5  # what every charger for a small port stands; above that it has to be known


def stage_above_its_input(bench: TrialBench) -> Iterator[Found]:
    """More at the input of a stage than it stands: a full pack, a port or an adapter, or what another stage lets through."""
    tree = bench.usual.tree
    for s, stage in enumerate(tree.stages):
        top, most = bench.highest_input_v[s], stage.input_max_v
        if most is None or top <= most * (1 + 1e-9):
            continue
        position = bench.position(s)
        yield Found(
            code="stage-overvoltage",
            severity="stop",
            step="supply",
            where=f"/supply/stages/{position}",
            facts={
                "highest_voltage": (top, "V"),
                "input_max": (most, "V"),
                "stage": stage.name,
                "from": _from(bench, s),
            },
            ways=lambda position=position, top=top: [  # type: ignore[misc]
                *stage_in_place(bench, position, lambda x: x.input_max_v is not None and x.input_max_v >= top),
                *before_stage(bench, position),
            ],
        )


def _from(bench: TrialBench, s: int) -> str | Said:
    """What the highest voltage comes from, followed up to its source."""
    tree = bench.usual.tree
    node = tree.inputs[s][0]
    path = tree.path(node)
    last = tree.inputs[path[-1]][0] if path else node
    names = [x.name for x in tree.sources]
    charger = bench.design.charger
    if 0 < last < tree.first_stage:
        return names[last - 1]
    if charger is not None and charger.power_path and charger.gadget_v >= bench.highest_battery_v - 1e-9:
        return Said("source.power-path", {"charger": charger.name})
    if charger is not None and charger.gadget_v >= bench.highest_battery_v - 1e-9:
        return Said("source.battery-on-charger", {"charger": charger.name})
    return Said("source.full-battery")


def charger_above_its_input(bench: TrialBench) -> Iterator[Found]:
    """A port, an adapter or an unloaded panel of more than the charger's input stands, or one of which nobody knows whether it does."""
    charger = bench.design.charger
    if charger is None:
        return
    volts, what = port_v(bench, charger)
    most = charger.input_max_v
    if most is None and volts > ASK_ABOVE_V:
        yield Found(
            code="charger-input-unknown",
            severity="watch",
            step="charge",
            where="/charger/input_max_v",
            facts={"port": (volts, "V"), "charger": charger.name, "what": what},
        )
    if most is None or volts <= most * (1 + 1e-9):
        return
    yield Found(
        code="charger-overvoltage",
        severity="stop",
        step="charge",
        where="/charger/port_v",
        facts={"port": (volts, "V"), "input_max": (most, "V"), "charger": charger.name, "what": what},
        ways=lambda: [
            *instead(bench, [c for c in fitting(bench) if (c.input_max_v or 0.0) >= volts]),
            *(
                [Remedy(label=say("way.a-port-of-5-v"), patch=[replace("/charger/port_v", 5.0)])]
                if charger.panel is None and most >= 5.0
                else []
            ),
        ],
    )


def port_v(bench: TrialBench, charger: Charger) -> tuple[float, Said]:
    """(the most at a charger's input [V], where that comes from)."""
    if charger.panel is not None:
        return charger.port_v * OPEN_PANEL, Said("source.panel")
    mode = bench.design.modes[bench.charge_mode]
    plugged = [s for s in bench.design.supply.sources if s.id in mode.plugged and s.id != BATTERY]
    top = max(plugged, key=lambda s: s.voltage_v, default=None)
    if top is not None and top.voltage_v > charger.port_v:
        return top.voltage_v, Said("source.other", {"source": top.name})
    return charger.port_v, Said("source.port")
