"""Charging and heat."""

from __future__ import annotations

import math

from ..context import Context
from ..figures import Figure, Result, figure
from ..heat import H_SURFACE, SOFTENING_C, UNCERTAINTY, inside_rise_c, surface_m2
from ..pack import capacity_tolerance

CC_CV = "constant current, then constant voltage; Plett (2015), ch. 2"
HEAT_SOURCE = "one inside-air node; Incropera & DeWitt (2007), ch. 9 and 13; good to about 40 %"
CELL_CHARGE_MAX_C = 45.0
CURRENT_SPREAD = 0.10  # resistor, reference and port together


class ChargeReport(Result):
    """Charging from empty while the gadget rests."""

    set_current: Figure
    current: Figure
    gentle_current: Figure
    gentle_resistor: Figure
    highest_current: Figure
    termination: Figure
    load: Figure
    time: Figure
    constant_current_time: Figure
    heat: Figure


class HeatReport(Result):
    """The closed case on the hottest day of the brief, while charging if it has a charger."""

    power: Figure
    inside: Figure
    charger: Figure | None
    softening_c: float
    cell_limit_c: float


def charge_report(context: Context) -> ChargeReport | None:
    charger, result = context.design.charger, context.charge
    if charger is None or result is None:
        return None
    cell, battery = context.design.battery.cell, context.design.battery
    limit = ("the cell's own charge limit" if cell.charge_max_a is not None else "half the capacity per hour, as its "
             "datasheet gives no limit")  # fmt: skip
    less, more = capacity_tolerance(cell)
    setting = [("programming constant", charger.programming_v, "V"), ("resistor", charger.programming_ohm, "Ω")]
    return ChargeReport(
        set_current=figure("Charge current set", result.set_a, "A", "programming constant ÷ resistor", list(setting),
                           "the charger's own figure"),
        current=figure("Charge current", result.current_a, "A", "the lower of what is set and what the port gives",
                       [("set", result.set_a, "A"), ("port", charger.port_limit_a, "A")]),
        gentle_current=figure(
            "Current to plan", result.gentle_a, "A", "half the capacity per hour, or the cell's own limit if lower",
            [("capacity", cell.capacity_ah, "Ah"), ("in parallel", float(battery.parallel), "")], "0.5 C, usual practice",
        ),
        gentle_resistor=figure(
            "Resistor for that", result.gentle_ohm, "Ω", "programming constant ÷ current, next E24 value upwards",
            [*setting[:1], ("current", result.gentle_a, "A")], "IEC 60063:2015",
        ),
        highest_current=figure("Most for this battery", result.highest_a, "A", limit,
                               [("capacity", cell.capacity_ah, "Ah")]),
        termination=figure("Termination current", result.termination_a, "A", "share of the set current",
                           [("share", charger.termination_share, "share"), ("set", result.set_a, "A")]),
        load=figure("Drawn from the cell meanwhile", result.load_a, "A", "the rest mode's mean battery current, "
                    "nothing with a power path", []),
        time=figure("Time to full", None if result.seconds is None else result.seconds / 3600, "h",
                    "Q Δz ÷ I at constant current, then ∫ Q dz ÷ ((Vfloat − OCV) ÷ R) down to the termination current",
                    [("charge current", result.current_a, "A"), ("float voltage", charger.float_v, "V"),
                     ("termination", result.termination_a, "A"), ("load", result.load_a, "A")], CC_CV,
                    low=None if result.seconds is None else result.seconds / 3600 * (1 - math.hypot(less, CURRENT_SPREAD)),
                    high=None if result.seconds is None else result.seconds / 3600 * (1 + math.hypot(more, CURRENT_SPREAD)),
                    note=f"Range: the real capacity lies {less * 100:+.0f} to {more * 100:+.0f} % from the printed one, the charge current good to "
                         f"{CURRENT_SPREAD * 100:.0f} %; independent, added as squares."),
        constant_current_time=figure("of that at constant current", result.constant_current_s / 3600, "h",
                                     "until OCV + I R reaches the float voltage", [], CC_CV),
        heat=figure(
            "Heat in the charger", result.heat_w, "W", "(port voltage − mean cell voltage) × current",
            [("port", charger.port_v, "V"), ("current", result.current_a, "A"),
             ("just after the start", result.peak_heat_w, "W")], "linear charger, mean at constant current",
        ),
    )  # fmt: skip


def heat_report(context: Context) -> HeatReport:
    design, state = context.design, context.usual
    case, hottest = design.enclosure, design.brief.hottest_c
    weights = state.moment_weights
    typical = state.typical
    drawn = typical.terminal_v[:, context.middle] * typical.source_a[:, context.middle]
    used = [float(d) for d, w in zip(drawn, weights, strict=True) if w > 0]
    by_mode = {i: float(state.mode_current_a[i, context.middle] * state.pack.open_circuit_v[context.middle])
               for i in range(len(design.modes)) if state.shares[i] > 0}  # fmt: skip
    running = max(by_mode.values(), default=max(used, default=0.0))
    charging = context.charge.heat_w if context.charge else 0.0
    power = max(running, charging)
    rise = inside_rise_c(power, case)
    inside = hottest + rise
    charger = None
    if design.charger and context.charge:
        peak = context.charge.peak_heat_w
        junction = hottest + inside_rise_c(charging, case) + peak * design.charger.theta_c_per_w
        charger = figure("Charger junction", junction, "°C", "inside air + heat × θ",
                         [("inside air", hottest + inside_rise_c(charging, case), "°C"), ("heat", peak, "W"),
                          ("θ", design.charger.theta_c_per_w, "°C/W")], HEAT_SOURCE,
                         note="Chargers fold their current back at about 120 °C.")  # fmt: skip
    return HeatReport(
        power=figure("Most heat for long", power, "W", "the warmer of the hungriest mode and charging",
                     [("hungriest mode", running, "W"), ("charging", charging, "W")]),
        inside=figure("Air inside the case", inside, "°C", "surroundings + power × (2 ÷ h + wall ÷ k) ÷ surface",
                      [("surroundings", hottest, "°C"), ("power", power, "W"), ("surface", surface_m2(case), "m²"),
                       ("h", H_SURFACE, "W/m²K")], HEAT_SOURCE, low=hottest + rise * (1 - UNCERTAINTY),
                      high=hottest + rise * (1 + UNCERTAINTY)),
        charger=charger,
        softening_c=SOFTENING_C[case.plastic],
        cell_limit_c=CELL_CHARGE_MAX_C if charging > 0 else 60.0,
    )  # fmt: skip
