"""Traps of what feeds what: outputs that stay alive, rails without a source, pins without a supply."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from ...calculators.divider import SAFE_PIN_A, into_unpowered_pin_a
from ...design import Part, SwitchingStage
from ...design.patches import remove, replace
from ...design.references import BATTERY
from ...figures import PatchOperation, Remedy
from ...measures.bench import TrialBench
from ...measures.edits import without_uses
from ...measures.selection import feed_rail, new_rail_stage, stage_in_place
from ...quantities.preferred import next_e24
from ...supply.converters import passes_when_off
from ...supply.tree import feeds_of
from ...words import say
from ..found import Found

SAME_VOLTAGE = 0.02
PIN_ABOVE_SUPPLY_V = 0.3  # what a pin stands above its chip's supply
LEAK_MATTERS_A = 1e-7


def boost_without_disconnect(bench: TrialBench) -> Iterator[Found]:
    """Switched off, a boost without true disconnect still feeds its output through a diode."""
    design, state = bench.design, bench.usual
    rails = [[r for r, feed in enumerate(state.tree.rail_feeds) if s in state.tree.path(feed)] for s in range(len(state.tree.stages))]  # fmt: skip
    for s, stage in enumerate(state.tree.stages):
        if not passes_when_off(stage):
            continue
        for m, mode in enumerate(design.modes):
            if stage.id not in mode.off_stages:
                continue
            k = next(i for i, x in enumerate(state.operating_points) if x.mode == m)
            volts = float(state.typical.stage_output_v[s, k, bench.middle])
            amps = float(state.typical.stage_output_a[s, k, bench.middle])
            parts = [p.name for p in design.parts if any(design.supply.rails[r].id == p.rail for r in rails[s])]
            if volts <= 0 or not parts:
                continue
            position = bench.position(s)
            total = float(state.mode_current_a[m, bench.middle])
            yield Found(
                code="no-disconnect",
                severity="fix" if amps > 0.05 * total and amps > LEAK_MATTERS_A else "watch",
                step="supply",
                where=f"/supply/stages/{position}",
                facts={
                    "voltage": (volts, "V"),
                    "current": (amps, "A"),
                    "stage": stage.name,
                    "mode": mode.name,
                    "parts": parts,
                },
                ways=partial(_disconnecting, bench, position),
            )
            break


def _disconnecting(bench: TrialBench, position: int) -> Iterator[Remedy]:
    return stage_in_place(
        bench, position, lambda s: isinstance(s, SwitchingStage) and s.topology == "boost" and s.load_disconnect
    )


def rail_without_source(bench: TrialBench) -> Iterator[Found]:
    """A mode uses parts on a rail whose source is not there then."""
    design, tree = bench.design, bench.usual.tree
    ends = [_open_ends(bench, rail.feed) for rail in design.supply.rails]
    for r, rail in enumerate(design.supply.rails):
        for m, mode in enumerate(design.modes):
            if not ends[r].isdisjoint({BATTERY, *mode.plugged}):  # whatever is switched off on the way
                continue
            users = [p.name for p in design.parts if p.rail == rail.id and any(u.part == p.id for u in mode.uses)]
            if not users:
                continue
            missing = [s.name for s in design.supply.sources if s.id not in mode.plugged and s.id in ends[r]]
            alive = [x.name for i, x in enumerate(design.supply.rails) if tree.powered[tree.rail_feeds[i], m]]
            yield Found(
                code="no-source",
                severity="fix" if mode.essential else "watch",
                step="supply",
                where=f"/supply/rails/{r}/feed",
                facts={"rail": rail.name, "mode": mode.name, "missing": missing, "users": users, "alive": alive},
                ways=partial(_from_battery, bench, r),
            )
            break


def _open_ends(bench: TrialBench, feed: str) -> set[str]:
    """The sources that a rail hangs on, by their ids."""
    ways, found = [feed], set()
    while ways:
        here = ways.pop()
        stage = bench.design.stage(here)
        if stage is None:
            found.add(here)
        else:
            ways += feeds_of(stage)
    return found


def _from_battery(bench: TrialBench, rail: int) -> Iterator[Remedy]:
    """Catalogue converters from the battery for the voltage that the rail has with its source, that carry all its parts
    at once."""
    design = bench.design
    volts = float(bench.highest_rail_v[rail])
    peak = sum(bench.most_a(p) for p, x in enumerate(design.parts) if x.rail == design.supply.rails[rail].id)
    for new in new_rail_stage(bench, BATTERY, (volts * (1 - SAME_VOLTAGE), volts * (1 + SAME_VOLTAGE)), peak):
        yield Remedy(label=say("way.make-it-from-the-battery-with", new=new.name), patch=feed_rail(rail, new))


def feeds_nothing(bench: TrialBench) -> Iterator[Found]:
    """A stage that no rail hangs on, by whatever way: it draws for itself, or was meant to stand elsewhere."""
    design = bench.design
    used: set[str] = set()
    ways = [rail.feed for rail in design.supply.rails]
    while ways:
        stage = design.stage(ways.pop())
        if stage is not None and stage.id not in used:
            used.add(stage.id)
            ways += feeds_of(stage)
    feeds = {f for s in design.supply.stages for f in feeds_of(s)}
    for i, stage in enumerate(design.supply.stages):
        if stage.id in used:
            continue
        off = any(stage.id in mode.off_stages for mode in design.modes)
        yield Found(
            code="feeds-nothing",
            severity="watch",
            step="supply",
            where=f"/supply/stages/{i}",
            facts={"stage": stage.name},
            ways=None if stage.id in feeds or off else partial(_without, i, stage.name),
        )


def _without(position: int, name: str) -> list[Remedy]:
    return [Remedy(label=say("way.without", body=name), patch=[remove(f"/supply/stages/{position}")])]


def divider_pins(bench: TrialBench) -> Iterator[Found]:
    """A divider that lifts its pin above the chip's supply, or feeds a chip that has none."""
    design = bench.design
    parts = design.index.parts
    for p, part in enumerate(design.parts):
        divider = part.divider
        if divider is None or divider.reader is None:
            continue
        reader = design.parts[parts[divider.reader]]
        rails = bench.usual.rail_of
        top = float(bench.highest_rail_v[rails[p]])
        pin = top * divider.lower_ohm / (divider.upper_ohm + divider.lower_ohm)
        supply = float(bench.highest_rail_v[rails[parts[reader.id]]])
        if pin > supply + PIN_ABOVE_SUPPLY_V:
            yield Found(
                code="pin-too-high",
                severity="stop",
                step="supply",
                where=f"/parts/{p}",
                facts={
                    "highest_voltage": (top, "V"),
                    "pin_voltage": (pin, "V"),
                    "supply": (supply, "V"),
                    "pin_max": (supply + PIN_ABOVE_SUPPLY_V, "V"),
                    "part": part.name,
                    "reader": reader.name,
                },
                ways=lambda p=p, part=part, share=0.9 * supply / top: [_lower_pin(p, part, share)],  # type: ignore[misc]
            )
        yield from _feeds_unpowered(bench, p, part, reader, top)


def _lower_pin(p: int, part: Part, share: float) -> Remedy:
    divider = part.divider
    assert divider is not None
    upper = next_e24(divider.lower_ohm * (1 / share - 1))
    patch: list[PatchOperation] = [replace(f"/parts/{p}/divider/upper_ohm", upper)]
    for k, state in enumerate(part.states):
        if state.draw.behaviour == "resistor":
            span = {"typical": upper + divider.lower_ohm, "min": None, "max": None}
            patch.append(replace(f"/parts/{p}/states/{k}/draw/resistance_ohm", span))
    return Remedy(label=say("way.upper-resistor", upper=(upper, "Ω")), patch=patch)


def _feeds_unpowered(bench: TrialBench, p: int, part: Part, reader: Part, top: float) -> Iterator[Found]:
    design, state = bench.design, bench.usual
    divider = part.divider
    assert divider is not None
    leak = into_unpowered_pin_a(top, divider.upper_ohm, divider.lower_ohm)
    index = design.index.parts
    powered = state.tree.rail_powered
    modes = [
        m for m, mode in enumerate(design.modes)
        if powered[state.rail_of[p], m] and not powered[state.rail_of[index[reader.id]], m]
        and any(u.part == part.id for u in mode.uses)
    ]  # fmt: skip
    if divider.gated or not modes or leak <= SAFE_PIN_A:
        return
    patch = [replace(f"/parts/{p}/divider/gated", True)]
    patch += [op for m in modes if len(design.modes[m].uses) > 1 for op in without_uses(design, m, {part.id})]
    mode = design.modes[modes[0]]
    yield Found(
        code="unpowered-pin",
        severity="fix",
        step="supply",
        where=f"/parts/{p}",
        facts={"leak": (leak, "A"), "part": part.name, "mode": mode.name, "reader": reader.name},
        ways=lambda: [Remedy(label=say("way.gate", part=part.name), patch=patch)],
    )
