"""How warm the gadget gets: each mode by how long it lasts, every part on top of the air around it, charging with what runs meanwhile."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from ..battery.chemistry import CHEMISTRIES
from ..charging.charge import INDOORS_C, RECEIVER_EFFICIENCY, Charge, Meanwhile, charge
from ..design import Design, Enclosure
from ..enclosure.bodies import things, volume_mm3
from ..enclosure.fit import Fit
from ..load.day import longest_s
from ..numeric import Array
from ..runtime.run import Run
from ..thermal.materials import MATERIALS, TOUCH_C
from ..thermal.shell import (
    ALIKE,
    FILM_SPREAD,
    MOST_RISE_K,
    Shell,
    felt_power_w,
    shell_of,
    two_stages,
    wall_settles_s,
)
from ..words import say
from .nodes import Node, find_nodes, shares
from .places import Places, places_of

CELL_CHARGE_MAX_C = 45.0  # lithium cells: the usual upper limit of charging
NICKEL_CHARGE_MAX_C = 45.0
USUAL_GAP_MM = 5.0  # of air to the wall, where no part has a size yet
GAP_SPREAD = 1.5  # factor either way


@dataclass(frozen=True)
class Outside:
    """The outer face where it is warmest [degC]: in a mode (its position), or while it charges (None); with how warm it is around it, the
    steady power that warms as much, and what comes from the sun [W]. `limit_c` is what skin stands for the
    `contact` that it has by then, `over` the thing that it is warmest over; empty where no single one is."""

    degrees_c: float
    mode: int | None
    surroundings_c: float
    power_w: float
    sun_w: float
    limit_c: float
    contact: str
    over: str = ""

    @property
    def beyond_k(self) -> float:
        """By how much it is warmer than skin stands for that contact [K]; below 0 what is left."""
        return self.degrees_c - self.limit_c


@dataclass(frozen=True)
class Warmth:
    """Powers in W that burn inside the case, temperatures in degC.

    `mode_w` is each mode's mean; `felt_w` the steady power that warms as much as the mode does at the end of its longest stretch, on
    the kind of day on which that is most (0 for modes that no day has); `kind` which of the year's kinds that is; `inside_c`, `wall_c` and
    `outer_c` the air, the inner side of the wall and the outer face by then on the hottest day, all of shape (modes,). `node_w` and `node_c` are powers and
    temperatures of the `nodes`, `spot_c` the wall where each comes nearest to it, (nodes, modes); `cell_from_k` is by how much the
    cell is warmed by each other node, (nodes, modes).
    `meanwhile_w` is what each node but the charger burns while it charges, (nodes,).
    `charging_node_c`, `charging_spot_c` and `charging_cell_from_k` are the same at the worst
    while it charges. `running_c` and `charging_c` are the air inside at the worst, in the hottest surroundings of
    use and of charging, with a range from what is uncertain of the case; `hottest_mode` is the mode of the first; `outside` is the outer
    face at the worst of both. `meanwhile` is what the gadget takes while it charges, `charge` the charge at the usual temperature, `hot_charge` that at the hottest.
    """

    nodes: list[Node]
    mode_w: Array
    felt_w: Array
    kind: np.ndarray
    inside_c: Array
    wall_c: Array
    outer_c: Array
    node_w: Array
    node_c: Array
    spot_c: Array
    cell_from_k: Array
    shell: Shell
    time_constant_s: float
    gap_mm: float
    hottest_mode: int
    outside: Outside
    running_c: float
    running_range_c: tuple[float, float]
    meanwhile: Meanwhile | None
    charge: Charge | None
    hot_charge: Charge | None
    usual_shell: Shell | None
    charging_shell: Shell | None
    charging_usual_shell: Shell | None
    charging_w: float
    charging_c: float | None
    charging_wall_c: float | None
    charging_outer_c: float | None
    charging_range_c: tuple[float, float] | None
    meanwhile_w: Array
    charging_node_c: Array | None
    charging_spot_c: Array | None
    charging_cell_from_k: Array | None


def charges(design: Design) -> bool:
    """Whether its charger is one for its kind of cell, so that there is a charge to speak of.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> charges(design)
    True
    """
    charger, chemistry = design.charger, CHEMISTRIES[design.battery.cell.chemistry]
    if charger is None or design.battery.cell.bank is not None:
        return False
    return (
        chemistry.charge_v is not None
        if charger.method == "cc-cv"
        else design.battery.cell.chemistry == "nickel-metal-hydride"
    )


def charged_anywhere(design: Design) -> bool:
    """Whether it is charged wherever it is: as the brief says, or because the sun charges it there.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> charged_anywhere(design)
    False
    """
    return design.brief.charged == "anywhere" or (design.charger is not None and design.charger.panel is not None)


def charging_range_c(design: Design) -> tuple[float, float]:
    """The coldest and the hottest surroundings in which it is charged [degC].

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> charging_range_c(design)
    (10.0, 30.0)
    """
    return (design.brief.coldest_c, design.brief.hottest_c) if charged_anywhere(design) else INDOORS_C


def air_gap_mm(design: Design) -> float:
    """Air between what is inside and the wall [mm], on average: what is not taken, over the inner surface.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> round(air_gap_mm(design), 1)
    2.3
    """
    inner = [max(v, 0.1) for v in design.enclosure.inner_mm]
    bodies = [(x.body, len(x.copies)) for x in things(design) if x.body is not None]
    if not bodies:
        return USUAL_GAP_MM
    free = math.prod(inner) - sum(volume_mm3(b) * n for b, n in bodies)
    x, y, z = inner
    return max(free, 0.0) / (2 * (x * y + y * z + x * z))


def touch_limit(case: Enclosure, carried: Carried | None = None) -> tuple[float, str]:
    """(how warm its outside may be [degC], for what contact): a moment, ten minutes in the hand, hours on the body; as the case is carried, or otherwise.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> limit_c, what = touch_limit(design.enclosure)
    >>> limit_c
    48
    """
    short, long, worn = TOUCH_C[MATERIALS[case.plastic].feel]
    return {
        "no": (short, say("touched.touched")),
        "hand": (long, say("touched.held")),
        "clothes": (worn, say("touched.worn")),
    }[carried or case.carried]


Carried = Literal["no", "hand", "clothes"]


def contents_g(design: Design) -> float:
    """Mass of what is inside the case [g].

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> round(contents_g(design))
    29
    """
    battery = design.battery
    total = battery.cell.mass_g * battery.series * battery.parallel
    total += sum(p.mass_g * p.quantity for p in design.parts if not p.burns_outside)
    total += sum(s.mass_g for s in design.supply.stages) + (design.charger.mass_g if design.charger else 0.0)
    return total


# of what a part of a kind takes: what stays in it as heat, and what is burnt elsewhere inside, as in a speaker's coil; the rest leaves as light,
# sound or work. Usual figures: white LEDs give a quarter of their power as light, class-D amplifiers keep a sixth, small motors turn two fifths into work.
def mode_power_w(state: Run) -> Array:
    """Mean power that each mode burns inside the case at half charge [W], (modes,): all that the battery and the sources
    give, less what goes to things outside, and what leaves as light, sound or work.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.runtime.run import run
    >>> [round(float(x), 3) for x in mode_power_w(run(design))]
    [0.0, 0.247]
    """
    half = state.half
    _, stays = shares(state.design)
    inside = half.given_w - ((1 - stays)[:, None] * half.part_w).sum(axis=0)
    return np.asarray(np.maximum(state.in_mode @ inside, 0.0))


def _node_power_w(state: Run, mode_w: Array) -> Array:
    """What each node burns in each mode at half charge [W], (nodes, modes); nothing in what hangs outside, or in the charger."""
    half, design = state.half, state.design
    own, stays = shares(design)
    part = half.part_w @ state.in_mode.T
    stage = half.stage_loss @ state.in_mode.T
    cell = np.maximum(mode_w - (stays[:, None] * part).sum(axis=0) - stage.sum(axis=0), 0.0)
    rows = [own[:, None] * part, stage, cell[None]]
    if design.charger is not None:
        rows.append(np.zeros((1, mode_w.size)))
    return np.concatenate(rows)


def _shells(
    case: Enclosure, made_mm3: float, grams: float, ambient_c: float, gap_mm: float, *, in_sun: bool
) -> tuple[Shell, Shell, Shell]:
    """The case as it is taken to be, and at its coolest and warmest; it is `made_mm3`, and `grams` are in it."""
    made = [
        shell_of(case, ambient_c, grams, gap_mm * gap, films, in_sun=in_sun, made_mm3=made_mm3)
        for films, gap in ((1.0, 1.0), (FILM_SPREAD, 1 / GAP_SPREAD), (1 / FILM_SPREAD, GAP_SPREAD))
    ]
    return made[0], made[1], made[2]


def find_warmth(state: Run, charge_mode: int, fit: Fit) -> Warmth:
    """`charge_mode` is the position of the mode in which it charges.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> warm = find_warmth(bench.usual, bench.charge_mode, bench.fit)
    >>> warm.running_c > design.brief.hottest_c
    True
    """
    design = state.design
    brief, gap = design.brief, air_gap_mm(design)
    shell, cool, warm = _shells(design.enclosure, fit.made_mm3, contents_g(design), brief.hottest_c, gap, in_sun=True)
    mode_w = mode_power_w(state)
    constant = max(shell.time_constant_s(float(mode_w.max(initial=0.0))), 1e-3)
    node_w, nodes = _node_power_w(state, mode_w), find_nodes(state)
    places = places_of(design, nodes, fit.placed)
    felt, felt_air, lasts, kind = _felt(state, mode_w, constant, _lag_s(nodes, node_w))
    gap_k = shell.gap_rise_k(felt_air)
    surface_k = places.surface_k(node_w, -gap_k)
    direct = places.direct_w(surface_k, -gap_k) / np.maximum(mode_w, 1e-12)
    past = 1 - np.clip(direct, 0.0, MOST_DIRECT)
    gap_k = shell.gap_rise_k(felt_air * past)
    inside = brief.hottest_c + shell.wall_rise_k(felt) + gap_k
    row = next(i for i, n in enumerate(nodes) if n.kind == "cell")
    settled = -np.expm1(-lasts / np.array([max(n.settles_s, 1.0) for n in nodes])[:, None])
    hottest = int(inside.argmax())
    most = float(felt[hottest])
    wall = -gap_k
    mean = float(state.shares @ mode_w)
    charging = _charging(state, charge_mode, mode_w, mean, gap, fit.made_mm3) if charges(design) else None
    outer = brief.hottest_c + shell.outer_rise_k(felt)
    node_c = inside + np.minimum(surface_k * settled + places.beyond_k(node_w), MOST_RISE_K)
    there = two_stages(
        lasts, np.array([max(n.settles_s, 1.0) for n in nodes])[:, None], wall_settles_s(design.enclosure)
    )
    spot_k = np.minimum(places.neighbours.spots_k(surface_k, wall) * there, MOST_RISE_K)
    spot_c = inside + wall + spot_k
    charging_c = None if charging is None else charging.inside_c
    cut = design.charger is not None and design.charger.cuts_load  # then nothing runs meanwhile
    meanwhile_w = node_w[:, charge_mode] * (0.0 if cut else 1.0)
    charged = None if charging is None else charging.node_c(meanwhile_w, places, row)
    used = np.flatnonzero(state.shares > 0)
    touch = touch_limit(design.enclosure)
    outside = max((_outside(nodes, float(outer[m]), spot_k[:, m], int(m), brief.hottest_c, float(felt[m]), shell.sun_w, touch) for m in used),
                  key=lambda o: o.beyond_k, default=Outside(float(outer[hottest]), hottest, brief.hottest_c, most, shell.sun_w, *touch))  # fmt: skip
    if charging is not None and charged is not None:
        plugged = _outside(nodes, charging.outer_c, charged[1] - charging.wall_c, None, charging_range_c(design)[1], charging.power_w, charging.shell.sun_w,
                           touch_limit(design.enclosure, None if charged_anywhere(design) else "no"))  # fmt: skip
        outside = max(outside, plugged, key=lambda o: o.beyond_k)
    return Warmth(
        nodes=nodes,
        mode_w=mode_w,
        felt_w=felt,
        kind=kind,
        inside_c=inside,
        wall_c=inside + wall,
        outer_c=outer,
        node_w=node_w,
        node_c=node_c,
        spot_c=spot_c,
        cell_from_k=places.from_others_k(row, node_w) * settled[row],
        shell=shell,
        time_constant_s=constant,
        gap_mm=gap,
        hottest_mode=hottest,
        outside=outside,
        running_c=float(inside[hottest]),
        running_range_c=tuple(  # type: ignore[arg-type]
            brief.hottest_c + float(x.wall_rise_k(most) + x.gap_rise_k(felt_air[hottest] * past[hottest]))
            for x in (cool, warm)
        ),
        meanwhile=None if charging is None else charging.meanwhile,
        charge=None if charging is None else charging.usual,
        hot_charge=None if charging is None else charging.hot,
        usual_shell=None if charging is None else charging.usual_shell,
        charging_shell=None if charging is None else charging.shell,
        charging_usual_shell=None if charging is None else charging.usual_shell,
        charging_w=0.0 if charging is None else charging.power_w,
        charging_c=charging_c,
        charging_wall_c=None if charging is None else charging.wall_c,
        charging_outer_c=None if charging is None else charging.outer_c,
        charging_range_c=None if charging is None else charging.range_c,
        meanwhile_w=meanwhile_w,
        charging_node_c=None if charged is None else charged[0],
        charging_spot_c=None if charged is None else charged[1],
        charging_cell_from_k=None if charged is None else charged[2],
    )


def _outside(
    nodes: list[Node],
    side_c: float,
    spots_k: Array,
    mode: int | None,
    around_c: float,
    power_w: float,
    sun_w: float,
    touch: tuple[float, str],
) -> Outside:
    """The outer face at its warmest: the warmest side, or the spot on it over something hot, which a finger finds."""
    hot = int(np.argmax(spots_k))
    above = float(spots_k[hot])
    return Outside(side_c + above, mode, around_c, power_w, sun_w, *touch, nodes[hot].name if above > SPOT_K else "")


SPOT_K = 0.5  # warmer than its side by less is no spot


def _lag_s(nodes: list[Node], node_w: Array) -> Array:
    """How long what burns in each mode takes to give its heat to the air [s], by power, (modes,)."""
    settles = np.array([n.settles_s for n in nodes])
    return np.asarray(settles @ node_w / np.maximum(node_w.sum(axis=0), 1e-12))


def _felt(state: Run, mode_w: Array, constant_s: float, lag_s: Array) -> tuple[Array, Array, Array, np.ndarray]:
    """(steady power that warms the shell as much [W], the same of the air over it [W], how long each mode lasts then [s], position of the kind of day), on the kind of
    day on which each mode warms most; each of shape (modes,). The shell follows what burns through two stages, one after the other."""
    day, modes = state.design.day, state.design.modes
    felt, felt_air, lasts = [], [], []
    lag = np.maximum(lag_s, 1e-3)
    lag = np.where(np.abs(lag / constant_s - 1) < ALIKE, constant_s * (1 - ALIKE), lag)
    for kind in state.year.kinds:
        shares = kind.slots.mean(axis=0)
        rest = float(shares @ mode_w) - shares * mode_w
        others = np.maximum(np.where(shares < 1, rest / np.where(shares < 1, 1 - shares, 1.0), mode_w), 0.0)
        longest = np.minimum(longest_s(kind.of(day), modes)[0], 1e9)
        slow, quick = (felt_power_w(mode_w, others, longest, shares, x) for x in (constant_s, lag))
        there = shares > 0
        felt.append(np.where(there, (constant_s * slow - lag * quick) / (constant_s - lag), 0.0))
        felt_air.append(np.where(there, quick, 0.0))
        lasts.append(longest)
    worst = np.argmax(np.asarray(felt) + np.asarray(felt_air), axis=0)
    there = (worst, np.arange(len(modes)))
    return np.asarray(felt)[there], np.asarray(felt_air)[there], np.asarray(lasts)[there], worst


MOST_DIRECT = 0.9  # of what burns, that goes past the air


@dataclass(frozen=True)
class _Charging:
    """The charge at the usual and at the hottest temperature, and what it does to the case. `power_w` is the steady power that would
    make the air inside as warm as it gets."""

    meanwhile: Meanwhile
    usual: Charge
    hot: Charge
    usual_shell: Shell
    shell: Shell
    inside_c: float
    power_w: float
    outer_c: float
    range_c: tuple[float, float]
    charger_outside: bool

    @property
    def wall_c(self) -> float:
        """The inner side of the wall [degC]."""
        return self.inside_c - float(self.shell.gap_rise_k(self.power_w))

    def node_c(self, meanwhile_w: Array, places: Places, cell: int) -> tuple[Array, Array, Array]:
        """(each node, the wall over it, by how much each warms the cell) at the worst while it charges, (nodes,) each. The charger's own is
        its junction."""
        watts = meanwhile_w.copy()
        watts[-1] = 0.0 if self.charger_outside else self.hot.heat_w
        wall = self.wall_c - self.inside_c
        case = watts[:, None], np.array([wall])
        surface = places.surface_k(*case)
        above, spots = (surface + places.beyond_k(case[0]))[:, 0], places.neighbours.spots_k(surface, case[1])[:, 0]
        temperatures = self.inside_c + np.minimum(above, MOST_RISE_K)
        temperatures[-1] = self.hot.junction_c
        spot_c = self.wall_c + np.minimum(spots, MOST_RISE_K)
        return np.asarray(temperatures), np.asarray(spot_c), places.from_others_k(cell, watts[:, None])[:, 0]


def _charging(state: Run, mode: int, mode_w: Array, mean_w: float, gap_mm: float, made_mm3: float) -> _Charging:
    design = state.design
    charger, brief = design.charger, design.brief
    assert charger is not None
    coldest_c, hottest_c = charging_range_c(design)
    around = float(np.clip(brief.usual_c, coldest_c, hottest_c))
    in_sun = charged_anywhere(design)
    meanwhile = find_meanwhile(state, mode, float(mode_w[mode]), around, mean_w)
    # indoors it is put down to be charged, however it is carried else
    case = design.enclosure if in_sun else design.enclosure.model_copy(update={"carried": "no"})
    usual_shell = shell_of(case, around, contents_g(design), gap_mm, in_sun=False, made_mm3=made_mm3)
    shell, cool, warm = _shells(case, made_mm3, contents_g(design), hottest_c, gap_mm, in_sun=in_sun)
    usual = charge(charger, design.battery, usual_shell, meanwhile)
    hot = charge(charger, design.battery, shell, replace(meanwhile, ambient_c=hottest_c))
    inside = hot.hottest_c
    if hot.seconds is None:  # it goes on for ever
        inside = max(inside, hottest_c + float(shell.rise_k(float(hot.course.heat_w[-1]))))
    power = shell.power_at(inside - hottest_c)
    low, high = (hottest_c + float(x.rise_k(power)) for x in (cool, warm))
    return _Charging(
        meanwhile,
        usual,
        hot,
        usual_shell,
        shell,
        inside,
        power,
        hottest_c + float(shell.outer_rise_k(power)),
        (low, high),
        charger.outside,
    )


def find_meanwhile(state: Run, mode: int, heat_w: float, ambient_c: float, before_w: float) -> Meanwhile:
    """What a mode takes from the cell and from the port while it charges.

    The port is the source that is plugged in meanwhile, or the charger's own. Through a power path the gadget's current
    comes from the port as it is.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.runtime.run import run
    >>> state = run(design)
    >>> found = find_meanwhile(state, 0, 0.1, 25.0, 0.0)
    >>> found.ambient_c, found.heat_w >= 0.1
    (25.0, True)
    """
    design, k = state.design, state.middle
    charger = design.charger
    assert charger is not None
    rows = [i for i, x in enumerate(state.operating_points) if x.mode == mode]
    weights = np.array([state.operating_points[i].share for i in rows])
    battery_a = float(state.mode_current_a[mode, k])
    battery_peak = float(np.max(state.worst.source_a[rows, k]))
    port_a = peak_a = 0.0
    limit = charger.source_a
    plugged = [i for i, s in enumerate(state.tree.sources) if s.id in design.modes[mode].plugged]
    if plugged:
        port = plugged[0]
        port_a = float(weights @ state.typical.other_a[port][rows, k])
        peak_a = float(np.max(state.worst.other_a[port][rows, k]))
        limit = state.tree.sources[port].limit_a
    if charger.cuts_load:
        battery_a = heat_w = 0.0
    elif charger.power_path:
        port_a, peak_a, battery_a = port_a + battery_a, peak_a + battery_peak, 0.0
    if charger.port is not None and charger.port.kind == "wireless":
        limit *= RECEIVER_EFFICIENCY
    return Meanwhile(battery_a, port_a, peak_a, limit, heat_w, ambient_c, before_w)
