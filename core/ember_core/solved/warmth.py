"""How warm the gadget gets: each mode by how long it lasts, charging on top of what runs meanwhile."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ..battery.chemistry import CHEMISTRIES
from ..charging.charge import INDOORS_C, Charge, Meanwhile, charge
from ..design import Brief, Design
from ..load.day import longest_s
from ..numeric import Array
from ..runtime.run import Run
from ..thermal.case import case_k_per_w, felt_power_w, time_constant_s

CELL_CHARGE_MAX_C = 45.0  # lithium cells: the usual upper limit of charging


@dataclass(frozen=True)
class Warmth:
    """Powers in W that burn inside the case, temperatures in degC.

    `mode_w` is each mode's mean, `felt_w` the steady power that warms as much as the mode does at the end of its longest
    stretch (0 for modes that no day has), both of shape (modes,). `running_c` and `charging_c` are the air inside at the
    worst, in the hottest surroundings of use and of charging; `hottest_mode` is the mode of the first. `meanwhile` is what
    the gadget takes while it charges, `charge` the charge at the usual temperature, `hot_charge` that at the hottest.
    """

    mode_w: Array
    felt_w: Array
    time_constant_s: float
    hottest_mode: int
    running_c: float
    meanwhile: Meanwhile | None
    charge: Charge | None
    hot_charge: Charge | None
    charging_w: float
    charging_c: float | None


def charging_range_c(brief: Brief) -> tuple[float, float]:
    """The coldest and the hottest surroundings in which it is charged [degC]."""
    return INDOORS_C if brief.charged == "indoors" else (brief.coldest_c, brief.hottest_c)


def contents_g(design: Design) -> float:
    """Mass of what is inside the case [g]."""
    battery = design.battery
    total = battery.cell.mass_g * battery.series * battery.parallel
    total += sum(p.mass_g * p.quantity for p in design.parts if not p.plugged_by_user)
    total += sum(s.mass_g for s in design.supply.stages) + (design.charger.mass_g if design.charger else 0.0)
    return total


def mode_power_w(state: Run) -> Array:
    """Mean power that each mode burns inside the case at half charge [W], (modes,): all that the battery and the sources
    give, less what goes to things that the user plugs in outside."""
    half = state.half
    outside = [p.plugged_by_user for p in state.design.parts]
    inside = half.given_w - half.part_w[outside].sum(axis=0)
    return np.asarray(np.maximum(state.in_mode @ inside, 0.0))


def find_warmth(state: Run, charge_mode: int) -> Warmth:
    design = state.design
    case, brief = design.enclosure, design.brief
    mode_w, constant = mode_power_w(state), time_constant_s(case, contents_g(design))
    mean = float(state.shares @ mode_w)
    shares = state.shares
    others = np.where(shares < 1, (mean - shares * mode_w) / np.where(shares < 1, 1 - shares, 1.0), mode_w)
    lasts = np.minimum(longest_s(design.day, design.modes)[0], 1e9)
    felt = np.where(shares > 0, felt_power_w(mode_w, np.maximum(others, 0.0), lasts, shares, constant), 0.0)
    hottest = int(felt.argmax())
    meanwhile, usual, hot, charging_w = None, None, None, 0.0
    charging_c = None
    if design.charger is not None and CHEMISTRIES[design.battery.cell.chemistry].charge_v is not None:
        coldest_c, hottest_c = charging_range_c(brief)
        around = float(np.clip(brief.usual_c, coldest_c, hottest_c))
        meanwhile = _meanwhile(state, charge_mode, float(mode_w[charge_mode]), around)
        usual = charge(design.charger, design.battery, case, meanwhile)
        hot = charge(design.charger, design.battery, case, replace(meanwhile, ambient_c=hottest_c))
        with_charger = float(mode_w[charge_mode]) + hot.heat_w
        lasting = 1.0 if hot.seconds is None else float(-np.expm1(-hot.constant_current_s / constant))
        charging_w = mean + (with_charger - mean) * lasting if with_charger > mean else with_charger
        charging_c = hottest_c + case_k_per_w(case) * charging_w
    return Warmth(
        mode_w=mode_w,
        felt_w=felt,
        time_constant_s=constant,
        hottest_mode=hottest,
        running_c=brief.hottest_c + case_k_per_w(case) * float(felt[hottest]),
        meanwhile=meanwhile,
        charge=usual,
        hot_charge=hot,
        charging_w=charging_w,
        charging_c=charging_c,
    )


def _meanwhile(state: Run, mode: int, heat_w: float, ambient_c: float) -> Meanwhile:
    """What a mode takes from the cell and from the port while it charges.

    The port is the source that is plugged in meanwhile, or the charger's own. Through a power path the gadget's current
    comes from the port as it is.
    """
    design, k = state.design, state.middle
    charger = design.charger
    assert charger is not None
    rows = [i for i, x in enumerate(state.operating_points) if x.mode == mode]
    weights = np.array([state.operating_points[i].share for i in rows])
    battery_a = float(state.mode_current_a[mode, k])
    battery_peak = float(np.max(state.worst.source_a[rows, k]))
    port_a = peak_a = 0.0
    limit = charger.port_limit_a
    plugged = [i for i, s in enumerate(state.tree.sources) if s.id in design.modes[mode].plugged]
    if plugged:
        port = plugged[0]
        port_a = float(weights @ state.typical.other_a[port][rows, k])
        peak_a = float(np.max(state.worst.other_a[port][rows, k]))
        limit = state.tree.sources[port].limit_a
    if charger.power_path:
        port_a, peak_a, battery_a = port_a + battery_a, peak_a + battery_peak, 0.0
    return Meanwhile(battery_a, port_a, peak_a, limit, heat_w, ambient_c)
