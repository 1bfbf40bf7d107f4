"""How warm the gadget gets: each mode by how long it lasts, every part on top of the air around it, charging with what runs meanwhile."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from ..battery.chemistry import CHEMISTRIES
from ..charging.charge import INDOORS_C, RECEIVER_EFFICIENCY, Charge, Meanwhile, charge
from ..design import Body, Design, Enclosure, Size
from ..enclosure.facing import facings
from ..enclosure.fit import Placed, things, volume_mm3
from ..load.day import longest_s
from ..numeric import Array
from ..runtime.run import Run
from ..thermal.materials import CELL_MAX_C, MATERIALS, SPECIFIC_HEAT_INSIDE, TOUCH_C
from ..thermal.neighbours import (
    Neighbours,
    between_w_per_k,
    neighbours,
    spreading_k_per_w,
    stands_still,
    to_wall_w_per_k,
)
from ..thermal.shell import FILM_SPREAD, MOST_RISE_K, USUAL_SURFACE_M2, Shell, felt_power_w, own_k_per_w, shell_of

CELL_CHARGE_MAX_C = 45.0  # lithium cells: the usual upper limit of charging
NICKEL_CHARGE_MAX_C = 45.0
PART_MAX_C = 85.0  # what most electronic parts are made for; a rule of thumb where nobody said it
CHARGER_MAX_C = 125.0  # junction
USUAL_GAP_MM = 5.0  # of air to the wall, where no part has a size yet
GRAMS_PER_MM3, LIGHTEST_G = 1.2e-3, 0.3  # of populated boards; rules of thumb
GAP_SPREAD = 1.5  # factor either way

NodeKind = Literal["part", "stage", "charger", "cell"]


@dataclass(frozen=True)
class Node:
    """Something that gets warm: from it to the air inside it is `k_per_w`, and it stands `limit_c`."""

    pointer: str
    name: str
    kind: NodeKind
    k_per_w: float
    limit_c: float
    grams: float

    @property
    def settles_s(self) -> float:
        """Time in which it comes within 37 % of its own rise [s]."""
        return self.k_per_w * self.grams * SPECIFIC_HEAT_INSIDE


@dataclass(frozen=True)
class Outside:
    """The outer face where it is warmest [degC]: in a mode (its position), or while it charges (None); with how warm it is around it, the
    steady power that warms as much, and what comes from the sun [W]."""

    degrees_c: float
    mode: int | None
    surroundings_c: float
    power_w: float
    sun_w: float


@dataclass(frozen=True)
class Warmth:
    """Powers in W that burn inside the case, temperatures in degC.

    `mode_w` is each mode's mean; `felt_w` the steady power that warms as much as the mode does at the end of its longest stretch, on
    the kind of day on which that is most (0 for modes that no day has); `kind` which of the year's kinds that is; `inside_c` and
    `outer_c` the air and the outer face by then on the hottest day, all of shape (modes,). `node_w` and `node_c` are powers and
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
    charging_w: float
    charging_c: float | None
    charging_outer_c: float | None
    charging_range_c: tuple[float, float] | None
    meanwhile_w: Array
    charging_node_c: Array | None
    charging_spot_c: Array | None
    charging_cell_from_k: Array | None


def charges(design: Design) -> bool:
    """Whether its charger is one for its kind of cell, so that there is a charge to speak of."""
    charger, chemistry = design.charger, CHEMISTRIES[design.battery.cell.chemistry]
    if charger is None or design.battery.cell.bank is not None:
        return False
    return (
        chemistry.charge_v is not None
        if charger.method == "cc-cv"
        else design.battery.cell.chemistry == "nickel-metal-hydride"
    )


def charged_anywhere(design: Design) -> bool:
    """Whether it is charged wherever it is: as the brief says, or because the sun charges it there."""
    return design.brief.charged == "anywhere" or (design.charger is not None and design.charger.panel is not None)


def charging_range_c(design: Design) -> tuple[float, float]:
    """The coldest and the hottest surroundings in which it is charged [degC]."""
    return (design.brief.coldest_c, design.brief.hottest_c) if charged_anywhere(design) else INDOORS_C


def air_gap_mm(design: Design) -> float:
    """Air between what is inside and the wall [mm], on average: what is not taken, over the inner surface."""
    inner = [max(v, 0.1) for v in design.enclosure.inner_mm]
    bodies = [x.body for x in things(design) if x.body is not None]
    if not bodies:
        return USUAL_GAP_MM
    free = math.prod(inner) - sum(volume_mm3(b) for b in bodies)
    x, y, z = inner
    return max(free, 0.0) / (2 * (x * y + y * z + x * z))


def touch_limit(case: Enclosure) -> tuple[float, str]:
    """(how warm its outside may be [degC], for what contact): a moment, ten minutes in the hand, hours on the body."""
    short, long, worn = TOUCH_C[MATERIALS[case.plastic].feel]
    return {
        "no": (short, "touched for a second"),
        "hand": (long, "held for ten minutes"),
        "clothes": (worn, "worn for hours"),
    }[case.carried]


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


def find_nodes(state: Run) -> list[Node]:
    """What gets warm inside: parts that are not plugged in from outside, stages, the charger, the cells."""
    design = state.design
    found = [
        Node(
            f"/parts/{i}", p.name, "part", own_k_per_w(_size(p.body)), PART_MAX_C, _grams(p.mass_g * p.quantity, p.body)
        )
        for i, p in enumerate(design.parts)
    ]
    for stage in state.tree.stages:
        own = stage.rth_ja_c_per_w
        limit = stage.junction_max_c if own is not None else PART_MAX_C
        resistance = own_k_per_w(_size(stage.body)) if own is None else own
        pointer = f"/supply/stages/{design.index.stages[stage.id]}"
        found.append(Node(pointer, stage.name, "stage", resistance, limit, _grams(stage.mass_g, stage.body)))
    battery, cell = design.battery, design.battery.cell
    cells = battery.series * battery.parallel
    x, y, z = cell.size_mm
    pack = battery.body.size_mm if battery.body else (x, y, z * cells)
    found.append(
        Node("/battery", cell.name, "cell", own_k_per_w(pack), CELL_MAX_C[cell.chemistry], cell.mass_g * cells)
    )
    charger = design.charger
    if charger is not None:
        grams = _grams(charger.mass_g, charger.body)
        found.append(Node("/charger", charger.name, "charger", charger.rth_ja_c_per_w, CHARGER_MAX_C, grams))
    return found


def _size(body: Body | None) -> Size | None:
    return None if body is None else body.size_mm


def _grams(mass_g: float, body: Body | None) -> float:
    """Mass of a part [g]; where nobody gave it, by its room."""
    if mass_g > 0 or body is None:
        return max(mass_g, LIGHTEST_G)
    return max(math.prod(body.size_mm) * GRAMS_PER_MM3, LIGHTEST_G)


def _node_power_w(state: Run, mode_w: Array) -> Array:
    """What each node burns in each mode at half charge [W], (nodes, modes); nothing in what hangs outside, or in the charger."""
    half, design = state.half, state.design
    outside = np.array([p.plugged_by_user for p in design.parts], dtype=bool)
    part = half.part_w @ state.in_mode.T
    part[outside] = 0.0
    stage = half.stage_loss @ state.in_mode.T
    cell = np.maximum(mode_w - part.sum(axis=0) - stage.sum(axis=0), 0.0)
    rows = [part, stage, cell[None]]
    if design.charger is not None:
        rows.append(np.zeros((1, mode_w.size)))
    return np.concatenate(rows)


def _shells(
    case: Enclosure, grams: float, ambient_c: float, gap_mm: float, *, in_sun: bool
) -> tuple[Shell, Shell, Shell]:
    """The case as it is taken to be, and at its coolest and warmest; `grams` are in it."""
    made = [
        shell_of(case, ambient_c, grams, gap_mm * gap, films, in_sun=in_sun)
        for films, gap in ((1.0, 1.0), (FILM_SPREAD, 1 / GAP_SPREAD), (1 / FILM_SPREAD, GAP_SPREAD))
    ]
    return made[0], made[1], made[2]


def find_warmth(state: Run, charge_mode: int, placed: list[Placed]) -> Warmth:
    """`charge_mode` is the position of the mode in which it charges, `placed` the bodies that have a place."""
    design = state.design
    brief, gap = design.brief, air_gap_mm(design)
    shell, cool, warm = _shells(design.enclosure, contents_g(design), brief.hottest_c, gap, in_sun=True)
    mode_w = mode_power_w(state)
    constant = shell.time_constant_s(float(mode_w.max(initial=0.0)))
    felt, lasts, kind = _felt(state, mode_w, constant)
    inside = brief.hottest_c + shell.rise_k(felt)
    node_w, nodes = _node_power_w(state, mode_w), find_nodes(state)
    places = _places(design, nodes, placed)
    row = next(i for i, n in enumerate(nodes) if n.kind == "cell")
    settled = -np.expm1(-lasts / np.array([max(n.settles_s, 1.0) for n in nodes])[:, None])
    hottest = int(felt.argmax())
    most = float(felt[hottest])
    wall = shell.wall_rise_k(felt) - shell.rise_k(felt)
    mean = float(state.shares @ mode_w)
    charging = _charging(state, charge_mode, mode_w, mean, gap) if charges(design) else None
    outer = brief.hottest_c + shell.outer_rise_k(felt)
    outside = Outside(float(outer[hottest]), hottest, brief.hottest_c, most, shell.sun_w)
    if charging is not None and charging.outer_c > outside.degrees_c:
        outside = Outside(charging.outer_c, None, charging_range_c(design)[1], charging.power_w, charging.shell.sun_w)
    charging_c = None if charging is None else charging.inside_c
    cut = design.charger is not None and design.charger.cuts_load  # then nothing runs meanwhile
    meanwhile_w = node_w[:, charge_mode] * (0.0 if cut else 1.0)
    charged = None if charging is None else charging.node_c(meanwhile_w, places, row)
    return Warmth(
        nodes=nodes,
        mode_w=mode_w,
        felt_w=felt,
        kind=kind,
        inside_c=inside,
        outer_c=outer,
        node_w=node_w,
        node_c=inside + np.minimum(places.node_k(node_w, wall) * settled, MOST_RISE_K),
        spot_c=inside + wall + np.minimum(places.spots_k(node_w, wall) * settled, MOST_RISE_K),
        cell_from_k=places.from_others_k(row, node_w) * settled[row],
        shell=shell,
        time_constant_s=constant,
        gap_mm=gap,
        hottest_mode=hottest,
        outside=outside,
        running_c=float(inside[hottest]),
        running_range_c=(brief.hottest_c + float(cool.rise_k(most)), brief.hottest_c + float(warm.rise_k(most))),
        meanwhile=None if charging is None else charging.meanwhile,
        charge=None if charging is None else charging.usual,
        hot_charge=None if charging is None else charging.hot,
        usual_shell=None if charging is None else charging.usual_shell,
        charging_shell=None if charging is None else charging.shell,
        charging_w=0.0 if charging is None else charging.power_w,
        charging_c=charging_c,
        charging_outer_c=None if charging is None else charging.outer_c,
        charging_range_c=None if charging is None else charging.range_c,
        meanwhile_w=meanwhile_w,
        charging_node_c=None if charged is None else charged[0],
        charging_spot_c=None if charged is None else charged[1],
        charging_cell_from_k=None if charged is None else charged[2],
    )


def _felt(state: Run, mode_w: Array, constant_s: float) -> tuple[Array, Array, np.ndarray]:
    """(steady power that warms as much [W], how long each mode lasts then [s], position of the kind of day), on the kind of day on which
    each mode warms most; each of shape (modes,)."""
    day, modes = state.design.day, state.design.modes
    felt, lasts = [], []
    for kind in state.year.kinds:
        shares = kind.slots.mean(axis=0)
        rest = float(shares @ mode_w) - shares * mode_w
        others = np.where(shares < 1, rest / np.where(shares < 1, 1 - shares, 1.0), mode_w)
        longest = np.minimum(longest_s(kind.of(day), modes)[0], 1e9)
        own = felt_power_w(mode_w, np.maximum(others, 0.0), longest, shares, constant_s)
        felt.append(np.where(shares > 0, own, 0.0))
        lasts.append(longest)
    worst = np.argmax(felt, axis=0)
    there = (worst, np.arange(len(modes)))
    return np.asarray(felt)[there], np.asarray(lasts)[there], worst


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

    def node_c(self, meanwhile_w: Array, places: _Places, cell: int) -> tuple[Array, Array, Array]:
        """(each node, the wall over it, by how much each warms the cell) at the worst while it charges, (nodes,) each. The charger's own is
        its junction."""
        watts = meanwhile_w.copy()
        watts[-1] = 0.0 if self.charger_outside else self.hot.heat_w
        wall = self.shell.wall_rise_k(self.power_w) - self.shell.rise_k(self.power_w)
        above, spots = (x(watts[:, None], wall[None])[:, 0] for x in (places.node_k, places.spots_k))
        temperatures = self.inside_c + np.minimum(above, MOST_RISE_K)
        temperatures[-1] = self.hot.junction_c
        spot_c = self.inside_c + float(wall) + np.minimum(spots, MOST_RISE_K)
        return np.asarray(temperatures), np.asarray(spot_c), places.from_others_k(cell, watts[:, None])[:, 0]


@dataclass(frozen=True)
class _Places:
    """What the nodes do to each other and to the wall, by where they sit. `beyond_k_per_w` is what a junction is above its own
    surface, (nodes,)."""

    neighbours: Neighbours
    beyond_k_per_w: Array

    def node_k(self, node_w: Array, wall_k: Array) -> Array:
        """Each node above the air inside [K], (nodes, cases)."""
        return np.asarray(self._surface_k(node_w, wall_k) + self.beyond_k_per_w[:, None] * node_w)

    def spots_k(self, node_w: Array, wall_k: Array) -> Array:
        """The wall where each comes nearest to it, above the wall elsewhere [K], (nodes, cases)."""
        return self.neighbours.spots_k(self._surface_k(node_w, wall_k), wall_k)

    def from_others_k(self, node: int, node_w: Array) -> Array:
        """By how much a node is warmed by each other one [K], (nodes, cases)."""
        found = self.neighbours.per_w[node][:, None] * node_w
        found[node] = 0.0
        return np.asarray(found)

    def _surface_k(self, node_w: Array, wall_k: Array) -> Array:
        return self.neighbours.above_air_k(node_w, wall_k)


def _places(design: Design, nodes: list[Node], bodies: list[Placed]) -> _Places:
    """Bodies without a place face nothing."""
    case = design.enclosure
    sizes = {x.pointer: x.body.size_mm for x in things(design) if x.body is not None}
    total = np.array([n.k_per_w for n in nodes])
    surface = np.array([min(n.k_per_w, own_k_per_w(sizes.get(n.pointer))) for n in nodes])
    row = {n.pointer: i for i, n in enumerate(nodes)}
    placed = [p for p in bodies if p.pointer in row]
    at = np.array([row[p.pointer] for p in placed], dtype=int)
    seen = facings(placed, case)
    wall_m, conductivity = np.maximum(np.asarray(case.walls), 0.01) / 1000, MATERIALS[case.plastic].conductivity
    spots, into = np.zeros((len(nodes), 6)), np.zeros((len(nodes), 6))
    area = np.zeros((len(nodes), 6))
    wall_m2, wall_gap_m = seen.wall_area_mm2 * 1e-6, seen.wall_gap_mm * 1e-3
    area[at] = wall_m2 * stands_still(wall_gap_m)
    into[at] = to_wall_w_per_k(wall_m2, wall_gap_m)
    spots[at] = spreading_k_per_w(wall_m2, wall_m, conductivity)
    pair_m2, pair_gap_m = seen.area_mm2 * 1e-6, seen.gap_mm * 1e-3
    covered_m2 = pair_m2 * stands_still(pair_gap_m)
    surface_m2 = np.array([_surface_m2(sizes.get(n.pointer)) for n in nodes])
    between = between_w_per_k(pair_m2, pair_gap_m)
    found = neighbours(1 / surface, surface_m2, at[seen.first], at[seen.second], between, covered_m2, into, area, spots)
    return _Places(found, total - surface)


def _surface_m2(size: Size | None) -> float:
    if size is None:
        return USUAL_SURFACE_M2
    x, y, z = (v / 1000 for v in size)
    return 2 * (x * y + y * z + x * z)


def _charging(state: Run, mode: int, mode_w: Array, mean_w: float, gap_mm: float) -> _Charging:
    design = state.design
    charger, brief = design.charger, design.brief
    assert charger is not None
    coldest_c, hottest_c = charging_range_c(design)
    around = float(np.clip(brief.usual_c, coldest_c, hottest_c))
    in_sun = charged_anywhere(design)
    meanwhile = find_meanwhile(state, mode, float(mode_w[mode]), around, mean_w)
    # indoors it is put down to be charged, however it is carried else
    case = design.enclosure if in_sun else design.enclosure.model_copy(update={"carried": "no"})
    usual_shell = shell_of(case, around, contents_g(design), gap_mm, in_sun=False)
    shell, cool, warm = _shells(case, contents_g(design), hottest_c, gap_mm, in_sun=in_sun)
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
