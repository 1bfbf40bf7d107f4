"""Charging and heat."""

from __future__ import annotations

import math

import numpy as np

from ..battery.pack import capacity_tolerance
from ..charging.charge import ADAPTER_EFFICIENCY, CURRENT_SPREAD, Charge, Meanwhile
from ..design import Charger
from ..figures import Figure, figure, record
from ..solved.gadget import SolvedGadget, once
from ..solved.hottest import CHARGING, Hot
from ..solved.warmth import charging_range_c
from ..thermal.materials import softest
from ..thermal.shell import surface_m2
from ..words import called, say

NICKEL_SOURCE = "Linden & Reddy, Handbook of Batteries, 4th ed. (2011), ch. 22; IEC 61951-2"
MOST_SOONER = 0.8  # no charge ends in less than a fifth of what is told
CC_CV = "constant current, then constant voltage; Plett (2015), ch. 2"
HEAT_SOURCE = (
    "inside air, inner and outer face, surroundings; Churchill & Chu (1975), McAdams (1954), Incropera & DeWitt (2007)"
)


@record
class ChargeReport:
    """Charging from empty in the mode that it charges in."""

    float_voltage: Figure
    set_current: Figure
    current: Figure
    on_the_cable: Figure
    gentle_current: Figure
    gentle_resistor: Figure
    highest_current: Figure
    termination: Figure
    load: Figure
    time: Figure
    most_time: Figure
    constant_current_time: Figure
    heat: Figure
    wall_energy: Figure
    regained: Figure
    unplugged: Figure
    kept_above: Figure | None
    alone: str


@record
class HeatReport:
    """The closed case on the hottest day of the brief in use, and at the hottest place in which it is charged. `inside` is
    the temperature of what comes nearest to its own limit in either, `nearest` says what that is."""

    power: Figure
    inside: Figure
    running: Figure
    outer: Figure
    charging: Figure | None
    charger: Figure | None
    softening_c: float
    nearest: Hot


def _range_h(
    seconds: float | None, capacity: tuple[float, float], resistance_s: tuple[float | None, float | None]
) -> tuple[float | None, float | None]:
    """The 10th and the 90th percentile of a charge's time [h]: from its capacity's range, the current's, and its times with the least and the most resistance; None where
    one of these is none."""
    if seconds is None:
        return None, None
    (less, more), (quick, slow) = capacity, resistance_s
    low = quick and 1 - min(math.hypot(less, CURRENT_SPREAD, max(1 - quick / seconds, 0.0)), MOST_SOONER)
    high = slow and 1 + math.hypot(more, CURRENT_SPREAD, max(slow / seconds - 1, 0.0))
    return (None if low is None else low * seconds / 3600), (None if high is None else high * seconds / 3600)


@once
def charge_report(solved: SolvedGadget) -> ChargeReport | None:
    charger, result = solved.design.charger, solved.charge
    if charger is None or result is None:
        return None
    cell, battery = solved.design.battery.cell, solved.design.battery
    less, more = capacity_tolerance(cell)
    quick, slow = solved.charge_extremes or (result, result)
    low, high = _range_h(result.seconds, (less, more), (quick.seconds, slow.seconds))
    most_low, most_high = _range_h(result.most_s, (less, more), (quick.most_s, slow.most_s))
    never = result.seconds is not None and slow.seconds is None
    setting = [
        (called("program-constant"), charger.program_constant_v, "V"),
        (called("resistor"), charger.program_ohm, "Ω"),
    ]
    if charger.fixed_a is not None:
        setting = [(called("its-own"), charger.fixed_a, "A")]
    meanwhile = solved.warmth.meanwhile
    assert meanwhile is not None
    mode = solved.design.modes[solved.charge_mode].name
    return ChargeReport(
        float_voltage=figure(
            "float-voltage-over-all-cells",
            charger.float_v,
            "V",
            [
                (called("each"), charger.float_v_per_cell, "V"),
                (called("cells-in-series"), float(charger.cells_in_series), ""),
            ],
            "the charger's own figures",
        ),
        set_current=figure(
            "charge-current-set",
            result.set_a,
            "A",
            list(setting),
            "the charger's own figure",
            facts={"fixed": charger.fixed_a is not None},
        ),
        current=figure(
            "charge-current",
            result.current_a,
            "A",
            [
                (called("set"), result.set_a, "A"),
                (called("port-in-all"), meanwhile.port_limit_a, "A"),
                (called("the-gadget-at-the-port"), meanwhile.port_a, "A"),
                (called("left-for-the-charger"), result.port_left_a, "A"),
            ],
            note=say("charge-note.decides", by=result.limit),
        ),
        on_the_cable=figure(
            "most-on-the-cable",
            min(result.set_a, charger.port_limit_a) + meanwhile.port_peak_a,
            "A",
            [
                (called("charger"), min(result.set_a, charger.port_limit_a), "A"),
                (called("gadget-at-its-worst"), meanwhile.port_peak_a, "A"),
                (called("port"), meanwhile.port_limit_a, "A"),
            ],
            f"in {mode}",
        ),
        gentle_current=figure(
            "recommended-charge-current",
            result.gentle_a,
            "A",
            [(called("capacity"), cell.capacity_ah, "Ah"), (called("in-parallel"), float(battery.parallel), "")],
            "0.5 C, usual practice",
        ),
        gentle_resistor=figure(
            "resistor-for-that",
            result.gentle_ohm,
            "Ω",
            [(called("program-constant"), charger.program_constant_v, "V"), (called("current"), result.gentle_a, "A")],
            "IEC 60063:2015",
        ),
        highest_current=figure(
            "most-for-this-battery",
            result.highest_a,
            "A",
            [(called("capacity"), cell.capacity_ah, "Ah")],
            facts={"printed": cell.charge_max_a is not None},
        ),
        termination=figure(
            "termination-current",
            result.termination_a,
            "A",
            [(called("share"), charger.termination_share, "share"), (called("set"), result.set_a, "A")],
        ),
        load=figure("drawn-from-the-cell-meanwhile", result.load_a, "A", [], f"in {mode}"),
        time=figure(
            "time-to-full",
            None if result.seconds is None else result.seconds / 3600,
            "h",
            [
                (called("charge-current"), result.current_a, "A"),
                (called("float-voltage-over-all-cells"), charger.float_v, "V"),
                (called("termination"), result.termination_a, "A"),
                (called("load"), result.load_a, "A"),
            ]
            if charger.method == "cc-cv"
            else [
                (called("charge-current"), result.current_a, "A"),
                (called("capacity"), result.capacity_ah, "Ah"),
                (called("load"), result.load_a, "A"),
            ],
            CC_CV if charger.method == "cc-cv" else NICKEL_SOURCE,
            facts={"float": charger.method == "cc-cv"},
            low=low,
            high=high,
            note=say(
                "charge-note.range",
                less=f"{less * 100:+.0f}",
                more=f"{more * 100:+.0f}",
                current=(CURRENT_SPREAD * 100, ""),
                never=never,
                sun=charger.panel is not None,
            ),
        ),
        most_time=figure(
            "time-to-four-fifths",
            None if result.most_s is None else result.most_s / 3600,
            "h",
            [(called("charge-current"), result.current_a, "A")],
            CC_CV,
            low=most_low,
            high=most_high,
        ),
        wall_energy=figure(
            "from-the-wall-for-a-full-charge",
            None if charger.panel else result.wall_wh,
            "Wh",
            [(called("adapter"), ADAPTER_EFFICIENCY, "share"), (called("port"), charger.port_v, "V")],
            "the adapter's efficiency is a rule of thumb",
        ),
        regained=_regained(solved, result),
        unplugged=figure(
            "taken-from-the-cell-when-unplugged",
            charger.unplugged_a,
            "A",
            [
                (called("leakage"), charger.leakage_a, "A"),
                (called("led"), charger.lamp_a if charger.lamp_from_cell else 0.0, "A"),
            ],
            "the charger's own figures; counted in the runtime",
        ),
        kept_above=_kept_above(solved, charger),
        alone=_alone(solved, charger, meanwhile),
        constant_current_time=figure("of-that-at-constant-current", result.constant_current_s / 3600, "h", [], CC_CV),
        heat=figure(
            "heat-in-the-charger",
            result.heat_w,
            "W",
            [
                (called("port"), charger.port_v, "V"),
                (called("current"), result.current_a, "A"),
                (called("at-the-worst"), result.peak_heat_w, "W"),
            ],
            "linear charger, mean at constant current",
        ),
    )


def _regained(solved: SolvedGadget, result: Charge) -> Figure:
    """What ten minutes on the port give back of the runtime, as the day is."""
    into = max(result.current_a - result.load_a, 0.0) * 600
    day_a = solved.mean_a + solved.usual.pack.self_discharge_a
    hours = min(into, result.full_share * result.capacity_ah * 3600) / day_a / 3600 if day_a > 0 else None
    return figure(
        "runtime-from-ten-minutes-on-the-port",
        hours,
        "h",
        [
            (called("charge-current"), result.current_a, "A"),
            (called("load-meanwhile"), result.load_a, "A"),
            (called("mean-battery-current"), day_a, "A"),
        ],
        CC_CV,
    )


def _kept_above(solved: SolvedGadget, charger: Charger) -> Figure | None:
    """How far the pack falls while it stays plugged in, before the charger begins anew; None where it only begins when plugged in again."""
    if charger.recharge_v_per_cell is None:
        return None
    pack = solved.usual.pack
    volts = charger.recharge_v_per_cell * charger.cells_in_series
    charge = float(np.interp(volts, pack.open_circuit_v[::-1], pack.charge[::-1]))
    return figure(
        "kept-above-while-plugged-in",
        charge,
        "share",
        [(called("recharge-threshold"), volts, "V")],
        "the charger's own figure",
    )


def _alone(solved: SolvedGadget, charger: Charger, meanwhile: Meanwhile) -> str:
    """Whether it runs on the port with a flat or missing cell."""
    mode = solved.design.modes[solved.charge_mode].name
    if charger.cuts_load:
        return say("on-the-port.off")
    if not charger.power_path and meanwhile.port_a <= 0:
        return say("on-the-port.not-with-a-flat-cell", mode=mode)
    runs = meanwhile.port_peak_a <= meanwhile.port_limit_a
    return say(
        "on-the-port.runs" if runs else "on-the-port.not-held",
        mode=mode,
        peak=(meanwhile.port_peak_a, "A"),
        limit=(meanwhile.port_limit_a, "A"),
    )


def _folds_back(charger: Charger) -> str:
    return "" if charger.foldback_c is None else say("on-the-port.folds-back", foldback=(charger.foldback_c, "°C"))


@once
def heat_report(solved: SolvedGadget) -> HeatReport:
    """Air inside the case: in use by how long each mode lasts, while charging with what runs meanwhile."""
    design, warm = solved.design, solved.warmth
    case, brief = design.enclosure, design.brief
    _, softening = softest(case)
    outside = warm.outside
    mode = design.modes[warm.hottest_mode].name
    felt = float(warm.felt_w[warm.hottest_mode])
    common: list[tuple[str, float | None, str]] = [
        (called("surface"), surface_m2(case), "m²"),
        (called("air-to-the-wall"), warm.gap_mm, "mm"),
        (called("time-constant-of-the-case"), warm.time_constant_s, "s"),
    ]

    def inside(
        key: str,
        around: float,
        watts: float,
        value: float,
        limits: tuple[float, float],
        more: list[tuple[str, float | None, str]],
    ) -> Figure:
        return figure(
            key,
            value,
            "°C",
            [(called("surroundings"), around, "°C"), (called("power-that-lasts"), watts, "W"), *more, *common],
            HEAT_SOURCE,
            low=limits[0],
            high=limits[1],
            note=say("charge-note.range-of-heat"),
        )

    running = inside(
        "air-in-use",
        brief.hottest_c,
        felt,
        warm.running_c,
        warm.running_range_c,
        [(called("mode-while-it-lasts", mode=mode), float(warm.mode_w[warm.hottest_mode]), "W")],
    )
    charging = charger = None
    hot = warm.hot_charge
    if (
        warm.charging_c is not None
        and warm.charging_range_c is not None
        and hot is not None
        and design.charger is not None
    ):
        around = charging_range_c(design)[1]
        charging = inside(
            "air-while-charging",
            around,
            warm.charging_w,
            warm.charging_c,
            warm.charging_range_c,
            [
                (called("charger"), hot.heat_w, "W"),
                (called("the-gadget-meanwhile"), float(warm.mode_w[solved.charge_mode]), "W"),
            ],
        )
        charger = figure(
            "charger-junction",
            hot.junction_c,
            "°C",
            [
                (called("surroundings"), around, "°C"),
                (called("heat-at-the-worst"), hot.peak_heat_w, "W"),
                (called("junction-to-air"), design.charger.rth_ja_c_per_w, "°C/W"),
            ],
            HEAT_SOURCE,
            note=_folds_back(design.charger),
        )
    nearest = solved.nearest_limit
    counted = warm.charging_w if nearest.when == CHARGING else felt
    return HeatReport(
        power=figure(
            "heat-that-counts",
            counted,
            "W",
            [
                (m.name, float(w), "W")
                for m, w, s in zip(design.modes, warm.mode_w, solved.usual.shares, strict=True)
                if s > 0
            ]
            + [(called("charging-with-what-runs-meanwhile"), warm.charging_w, "W")],
            HEAT_SOURCE,
        ),
        inside=figure(
            "warmest-inside",
            nearest.degrees_c,
            "°C",
            [
                (called("air-inside"), nearest.air_c, "°C"),
                (called("above-it"), nearest.degrees_c - nearest.air_c, "K"),
                (called("its-limit"), nearest.limit_c, "°C"),
                (called("surroundings"), nearest.surroundings_c, "°C"),
            ],
            HEAT_SOURCE,
            facts={"nearest": nearest.name},
            low=nearest.low_c,
            high=nearest.high_c,
            note=say("charge-note.nearest", when=nearest.when),
        ),
        running=running,
        outer=figure(
            "outside-nearest-to-what-skin-stands",
            outside.degrees_c,
            "°C",
            [
                (called("surroundings"), outside.surroundings_c, "°C"),
                (
                    called("power-that-lasts") if outside.mode is not None else called("power-while-charging"),
                    outside.power_w,
                    "W",
                ),
                (called("taken-up-from-the-sun"), outside.sun_w, "W"),
            ],
            HEAT_SOURCE,
            facts={"over": outside.over},
        ),
        charging=charging,
        charger=charger,
        softening_c=softening,
        nearest=nearest,
    )
