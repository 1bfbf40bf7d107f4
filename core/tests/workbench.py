"""Gadgets as makers build them, of catalogue parts: what the findings of each should and should not say."""

from __future__ import annotations

from typing import Any

from ember_core import Design, build_design
from ember_core.catalogue import built_in

STRAIGHT = [{"id": "main", "name": "Main", "feed": "battery"}]


def entry(key: str) -> Any:
    found = built_in().by_key[key]
    item = found.part or found.cell or found.stage or found.charger
    assert item is not None
    return item.model_dump(mode="json")


def taken(key: str, name: str, rail: str = "main", **more: Any) -> dict[str, Any]:
    return entry(key) | {"id": name, "rail": rail} | more


def stage(key: str, name: str, feed: str, **more: Any) -> dict[str, Any]:
    return entry(key) | {"id": name, "input": feed} | more


def mode(name: str, uses: dict[str, Any], **more: Any) -> dict[str, Any]:
    """A mode by its parts: a state's name, or (state, more of the use)."""
    made = []
    for part, what in uses.items():
        state, rest = what if isinstance(what, tuple) else (what, {})
        made.append({"part": part, "state": state} | rest)
    return {"id": name, "name": name.replace("-", " ").capitalize(), "uses": made} | more


def gadget(**more: Any) -> Design:
    brief = {"goal_h": None, "coldest_c": 5, "usual_c": 20, "hottest_c": 35} | more.pop("brief", {})
    case = {"outer_mm": [90, 120, 40], "plastic": "PETG"} | more.pop("enclosure", {})
    return build_design({"format": "frugal-ember/3", "name": "Gadget", "brief": brief, "enclosure": case} | more)


def night_light() -> Design:
    """Three AAA cells, a slide switch, four white light sources that are on for ever once switched on."""
    return gadget(
        parts=[taken("part-light-white", "light", quantity=4)],
        modes=[mode("glow", {"light": entry("part-light-white")["states"][-1]["name"]}),
               mode("off", {"light": entry("part-light-white")["states"][-1]["name"]}, switched_off=True, off_stages=["switch"])],
        supply={"stages": [stage("stage-switch-slide", "switch", "battery")], "rails": [{"id": "main", "name": "Main", "feed": "switch"}]},
        battery={"cell": entry("cell-aaa-alkaline"), "series": 3}, day={"rest": "glow"},
    )  # fmt: skip


def bicycle_light() -> Design:
    """Off behind a latching hard switch most of the day, two hours of light from a protected cylinder and a buck."""
    lit = mode("riding", {"torch": "low", "chip": "active"})
    return gadget(
        parts=[taken("part-light-torch", "torch", "battery-rail"), taken("part-ctl-8bit", "chip")],
        modes=[mode("off", {"torch": "off", "chip": "power down"}, switched_off=True, off_stages=["switch"]), lit],
        supply={
            "stages": [stage("stage-switch-push", "switch", "battery"), stage("stage-linear-33-frugal", "reg", "switch")],
            "rails": [{"id": "main", "name": "Main", "feed": "reg"}, {"id": "battery-rail", "name": "Raw", "feed": "switch"}],
        },
        battery={"cell": entry("cell-cyl-18650"), "protection": {"overcurrent_a": 5}}, charger=entry("charger-board-1a"),
        day={"rest": "off", "sessions": [{"name": "Ride", "mode": "riding", "seconds": 3600, "per_day": 2}]},
    )  # fmt: skip


def greenhouse_sensor() -> Design:
    """Two lithium AA cells, a regulator for microamps, a reading over the radio every quarter of an hour."""
    burst = [{"state": "active", "seconds": 0.05}, {"state": "send", "seconds": 0.02}]
    return gadget(
        parts=[taken("part-ctl-short", "chip", wakes=[{"state": "sleep", "by": ["timer", "pin"], "pins": 4}]),
               taken("part-sensor-climate", "climate")],
        modes=[mode("asleep", {"chip": "sleep", "climate": entry("part-sensor-climate")["states"][0]["name"]}, woken_by=["timer"]),
               mode("reading", {"chip": ("active", {"burst": burst, "period_s": 0.2, "rest": "sleep"}),
                                "climate": entry("part-sensor-climate")["states"][-1]["name"]})],
        supply={"rails": STRAIGHT},
        battery={"cell": entry("cell-disulfide-aa"), "series": 2},
        day={"rest": "asleep", "wakes": [{"name": "Reading", "mode": "reading", "every_s": 900, "awake_s": 0.2}]},
        brief={"goal_h": 3 * 8766, "exposure": "splashed"},
    )  # fmt: skip


def radio_remote() -> Design:
    """A coin cell; forty presses a day wake it by a pin for 40 ms."""
    return gadget(
        parts=[taken("part-ctl-short", "chip", wakes=[{"state": "sleep", "by": ["pin"], "pins": 6}])],
        modes=[mode("asleep", {"chip": "sleep"}, woken_by=["pin"], wake_pins=5), mode("sending", {"chip": "send"})],
        supply={"rails": STRAIGHT}, battery={"cell": entry("cell-coin-2450")},
        day={"rest": "asleep", "sessions": [{"name": "Press", "mode": "sending", "seconds": 0.04, "per_day": 40, "why": "random"}]},
    )  # fmt: skip


def desk_meter() -> Design:
    """Hangs on a USB port for ever; its battery only bridges the gaps."""
    chip = "active"
    return gadget(
        parts=[taken("part-ctl-dual", "chip"), taken("part-display-oled", "screen")],
        modes=[mode("measuring", {"chip": chip, "screen": "on"}, plugged=["usb"])],
        supply={
            "sources": [{"id": "usb", "name": "USB port"}],
            "stages": [stage("stage-either-path", "path", "battery", other="usb"), stage("stage-linear-33", "reg", "path")],
            "rails": [{"id": "main", "name": "Main", "feed": "reg"}],
        },
        battery={"cell": entry("cell-pouch-503450"), "protection": {"overcurrent_a": 3}}, charger=entry("charger-path"),
        day={"rest": "measuring"},
    )  # fmt: skip


def trail_camera(bank: str) -> Design:
    """On a power bank, which the sleeping camera does not keep awake."""
    return gadget(
        parts=[taken("part-ctl-dual", "chip"), taken("part-camera-small", "camera")],
        modes=[mode("waiting", {"chip": "light sleep", "camera": "standby"}, woken_by=["pin"]),
               mode("picture", {"chip": "active", "camera": "taking pictures"})],
        supply={"stages": [stage("stage-linear-33", "reg", "battery")], "rails": [{"id": "main", "name": "Main", "feed": "reg"}]},
        battery={"cell": entry(bank)},
        day={"rest": "waiting", "sessions": [{"name": "Deer", "mode": "picture", "seconds": 6, "per_day": 20, "why": "random"}]},
    )  # fmt: skip


def speaker(cells: int = 2, charged_for: int = 2) -> Design:
    """Two lithium cells in series, a converter for the amplifier, a charger for two."""
    charger = entry("charger-board-1a") | {
        "port_v": 5.0 * cells,
        "input_max_v": 18.0,
        "cells_in_series": charged_for,
        "program_ohm": 2400,
    }
    return gadget(
        parts=[taken("part-amp-3w", "amp"), taken("part-ctl-32-low", "chip", "logic")],
        modes=[mode("off", {"chip": "shutdown"}, switched_off=True, off_stages=["switch"]),
               mode("playing", {"amp": "playing", "chip": "active"})],
        supply={
            "stages": [stage("stage-switch-slide", "switch", "battery"), stage("stage-buck-50-wide", "five", "switch"),
                       stage("stage-linear-33-frugal", "three", "five")],
            "rails": [{"id": "main", "name": "5 V", "feed": "five"}, {"id": "logic", "name": "3.3 V", "feed": "three"}],
        },
        battery={"cell": entry("cell-cyl-18650"), "series": cells}, charger=charger,
        day={"rest": "off", "sessions": [{"name": "Music", "mode": "playing", "seconds": 7200, "per_day": 1}]},
        enclosure={"outer_mm": [120, 90, 60]},
    )  # fmt: skip


def toy_car(fuse: str = "stage-fuse-self") -> Design:
    """Four rechargeable AA cells, a slide switch, a fuse, and a motor that takes more than the fuse is rated for."""
    return gadget(
        parts=[taken("part-motor-dc-small", "motor", quantity=4)],
        modes=[mode("parked", {"motor": "off"}, switched_off=True, off_stages=["switch"]),
               mode("driving", {"motor": "running free"}), mode("climbing", {"motor": "under load"})],
        supply={"stages": [stage("stage-switch-slide", "switch", "battery"), stage(fuse, "fuse", "switch")],
                "rails": [{"id": "main", "name": "Main", "feed": "fuse"}]},
        battery={"cell": entry("cell-nickel-aa"), "series": 4},
        day={"rest": "parked", "sessions": [{"name": "Play", "mode": "driving", "seconds": 1200, "per_day": 1},
                                            {"name": "Hill", "mode": "climbing", "seconds": 20, "per_day": 6}]},
    )  # fmt: skip
