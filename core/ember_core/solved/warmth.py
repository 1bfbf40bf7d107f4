"""How warm the gadget gets: each mode by how long it lasts, every part on top of the air around it, charging with what runs meanwhile."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal

import numpy as np

from ..battery.chemistry import CHEMISTRIES
from ..charging.charge import INDOORS_C, RECEIVER_EFFICIENCY, Charge, Meanwhile, charge
from ..design import Body, Design, Enclosure, Part, PartKind, Size
from ..enclosure.facing import facings
from ..enclosure.fit import Placed, things, volume_mm3
from ..load.day import longest_s
from ..numeric import Array
from ..runtime.run import Run
from ..thermal.materials import CELL_MAX_C, MATERIALS, SPECIFIC_HEAT_INSIDE, TOUCH_C
from ..thermal.neighbours import (
    NARROW_M,
    Neighbours,
    between_w_per_k,
    neighbours,
    spreading_k_per_w,
    stands_still,
    to_wall_w_per_k,
)
from ..thermal.shell import (
    ALIKE,
    BOARD_G_PER_M2,
    FILM_RISE_K,
    FILM_SPREAD,
    MOST_RISE_K,
    USUAL_BOARD_M2,
    USUAL_SURFACE_M2,
    Shell,
    chip_beyond_k_per_w,
    felt_power_w,
    is_chip,
    own_k_per_w,
    part_film,
    shell_of,
    two_stages,
    wall_settles_s,
)

CELL_CHARGE_MAX_C = 45.0  # lithium cells: the usual upper limit of charging
NICKEL_CHARGE_MAX_C = 45.0
PART_MAX_C = 85.0  # what most electronic parts are made for; a rule of thumb where nobody said it
CHARGER_MAX_C = 125.0  # junction
USUAL_GAP_MM = 5.0  # of air to the wall, where no part has a size yet
GRAMS_PER_MM3, LIGHTEST_G, UNKNOWN_G = (
    1.2e-3,
    0.3,
    4.0,
)  # of populated boards, of chips, of what nobody gave a size; rules of thumb
GAP_SPREAD = 1.5  # factor either way
BOARD_FOLLOWS = 1.0  # of a board, what gets as warm as the chip on it; from `validation/heat.py`

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
    bodies = [(x.body, len(x.copies)) for x in things(design) if x.body is not None]
    if not bodies:
        return USUAL_GAP_MM
    free = math.prod(inner) - sum(volume_mm3(b) * n for b, n in bodies)
    x, y, z = inner
    return max(free, 0.0) / (2 * (x * y + y * z + x * z))


def touch_limit(case: Enclosure, carried: Carried | None = None) -> tuple[float, str]:
    """(how warm its outside may be [degC], for what contact): a moment, ten minutes in the hand, hours on the body; as the case is carried, or otherwise."""
    short, long, worn = TOUCH_C[MATERIALS[case.plastic].feel]
    return {
        "no": (short, "touched for a second"),
        "hand": (long, "held for ten minutes"),
        "clothes": (worn, "worn for hours"),
    }[carried or case.carried]


Carried = Literal["no", "hand", "clothes"]


def contents_g(design: Design) -> float:
    """Mass of what is inside the case [g]."""
    battery = design.battery
    total = battery.cell.mass_g * battery.series * battery.parallel
    total += sum(p.mass_g * p.quantity for p in design.parts if not p.burns_outside)
    total += sum(s.mass_g for s in design.supply.stages) + (design.charger.mass_g if design.charger else 0.0)
    return total


# of what a part of a kind takes: what stays in it as heat, and what is burnt elsewhere inside, as in a speaker's coil; the rest leaves as light,
# sound or work. Usual figures: white LEDs give a quarter of their power as light, class-D amplifiers keep a sixth, small motors turn two fifths into work.
SPLIT: dict[PartKind, tuple[float, float]] = {
    "light": (0.75, 0.0),
    "led": (0.85, 0.0),
    "sound": (0.17, 0.82),
    "motor": (0.6, 0.0),
}
ALL_OF_IT = (1.0, 0.0)
SOUND_INSIDE = 0.99  # of what an amplifier passes on, what its speaker turns into heat


def heat_split(part: Part) -> tuple[float, float]:
    """(share of its power that warms it, share that warms the case elsewhere), each 0..1; none of what hangs outside."""
    if part.burns_outside:
        return 0.0, 0.0
    if part.inside_share is None:
        return SPLIT.get(part.kind, ALL_OF_IT)
    return part.inside_share, SOUND_INSIDE * (1 - part.inside_share) if part.kind == "sound" else 0.0


def _shares(design: Design) -> tuple[Array, Array]:
    """`heat_split` of every part: what warms it, and what stays in the case in all, (parts,) each."""
    split = np.array([heat_split(p) for p in design.parts]).reshape(-1, 2)
    return split[:, 0], split.sum(axis=1)


def mode_power_w(state: Run) -> Array:
    """Mean power that each mode burns inside the case at half charge [W], (modes,): all that the battery and the sources
    give, less what goes to things outside, and what leaves as light, sound or work."""
    half = state.half
    _, stays = _shares(state.design)
    inside = half.given_w - ((1 - stays)[:, None] * half.part_w).sum(axis=0)
    return np.asarray(np.maximum(state.in_mode @ inside, 0.0))


def find_nodes(state: Run) -> list[Node]:
    """What gets warm inside: parts that are not plugged in from outside, stages, the charger, the cells."""
    design = state.design
    boards = {p.id: p.body.size_mm for p in design.parts if p.body is not None}

    def node(pointer: str, name: str, kind: NodeKind, body: Body | None, mass_g: float, copies: int = 1) -> Node:
        """Something with its own surface, a chip with the board that it is on; of several copies each with its share."""
        size = _size(body)
        board = boards.get(body.on) if body is not None and body.on is not None else None
        board_mm2 = board[0] * board[1] if board else None
        grams = _grams(mass_g, body)
        if size is not None and is_chip(size):
            grams += (
                BOARD_FOLLOWS
                * BOARD_G_PER_M2
                * (USUAL_BOARD_M2 if board_mm2 is None else min(board_mm2 * 1e-6, 2 * USUAL_BOARD_M2))
            )
        return Node(pointer, name, kind, own_k_per_w(size, board_mm2) / copies, PART_MAX_C, grams)

    found = [
        node(f"/parts/{i}", p.name, "part", p.body, p.mass_g * p.quantity, p.quantity)
        for i, p in enumerate(design.parts)
    ]
    for stage in state.tree.stages:
        one = node(f"/supply/stages/{design.index.stages[stage.id]}", stage.name, "stage", stage.body, stage.mass_g)
        own = stage.rth_ja_c_per_w
        found.append(one if own is None else replace(one, k_per_w=own, limit_c=stage.junction_max_c))
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
        return max(mass_g, LIGHTEST_G if body is not None else UNKNOWN_G)
    return max(math.prod(body.size_mm) * GRAMS_PER_MM3, LIGHTEST_G)


def _node_power_w(state: Run, mode_w: Array) -> Array:
    """What each node burns in each mode at half charge [W], (nodes, modes); nothing in what hangs outside, or in the charger."""
    half, design = state.half, state.design
    own, stays = _shares(design)
    part = half.part_w @ state.in_mode.T
    stage = half.stage_loss @ state.in_mode.T
    cell = np.maximum(mode_w - (stays[:, None] * part).sum(axis=0) - stage.sum(axis=0), 0.0)
    rows = [own[:, None] * part, stage, cell[None]]
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
    constant = max(shell.time_constant_s(float(mode_w.max(initial=0.0))), 1e-3)
    node_w, nodes = _node_power_w(state, mode_w), find_nodes(state)
    places = _places(design, nodes, placed)
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
    charging = _charging(state, charge_mode, mode_w, mean, gap) if charges(design) else None
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

    def node_c(self, meanwhile_w: Array, places: _Places, cell: int) -> tuple[Array, Array, Array]:
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


@dataclass(frozen=True)
class _Places:
    """What the nodes do to each other and to the wall, by where they sit. `beyond_k_per_w` is what a junction is above its own
    surface, (nodes,); `bare_w_per_k` what it gives to the air by its surface, `surface_m2` how large that is, `past_w_per_k` what it gives to walls
    so near that it hardly warms the air, (nodes,)."""

    neighbours: Neighbours
    beyond_k_per_w: Array
    bare_w_per_k: Array
    surface_m2: Array
    past_w_per_k: Array

    def beyond_k(self, node_w: Array) -> Array:
        """Each junction above the surface of its package or its board [K], which is there within seconds."""
        return np.asarray(self.beyond_k_per_w[:, None] * node_w)

    def from_others_k(self, node: int, node_w: Array) -> Array:
        """By how much a node is warmed by each other one [K], (nodes, cases)."""
        found = self.neighbours.per_w[node][:, None] * node_w
        found[node] = 0.0
        return np.asarray(found)

    def surface_k(self, node_w: Array, wall_k: Array) -> Array:
        """The surface of each node above the air inside [K], (nodes, cases): as the network says with films of small rises, less by
        what a warmer surface gives more: of what leaves a node the part that goes to the air by its own surface grows with its rise."""
        linear = self.neighbours.above_air_k(node_w, wall_k)
        own = (self.bare_w_per_k * np.diag(self.neighbours.per_w))[:, None]  # of what leaves it
        rise = linear.copy()
        for _ in range(FILM_ROUNDS):
            rise = linear / (
                1 + np.minimum(own, 1.0) * np.maximum(part_film(rise, self.surface_m2[:, None]) / self.small - 1, 0.0)
            )
        return np.asarray(rise)

    @cached_property
    def small(self) -> Array:
        """The film at a small rise, of which the network is made, (nodes, 1)."""
        return part_film(np.full((self.surface_m2.size, 1), FILM_RISE_K), self.surface_m2[:, None])

    def direct_w(self, surface_k: Array, wall_k: Array) -> Array:
        """What goes from the nodes, at their rises, straight into the walls that they are near to, past the air, (cases,) [W]."""
        return np.asarray((self.past_w_per_k[:, None] * np.maximum(surface_k - wall_k, 0.0)).sum(axis=0))


def _places(design: Design, nodes: list[Node], bodies: list[Placed]) -> _Places:
    """Bodies without a place face nothing."""
    case = design.enclosure
    sizes = {x.pointer: x.body.size_mm for x in things(design) if x.body is not None}
    total = np.array([n.k_per_w for n in nodes])
    surface = np.array([min(n.k_per_w, _alone_k_per_w(n, sizes.get(n.pointer))) for n in nodes])
    row = {n.pointer: i for i, n in enumerate(nodes)}
    placed = [p for p in bodies if p.pointer in row]
    at = np.array([row[p.pointer] for p in placed], dtype=int)
    seen = facings(placed, case)
    wall_m, conductivity = np.maximum(np.asarray(case.walls), 0.01) / 1000, MATERIALS[case.plastic].conductivity
    spots, into = np.zeros((len(nodes), 6)), np.zeros((len(nodes), 6))
    area = np.zeros((len(nodes), 6))
    filled = np.array([_filled(p) for p in placed])[:, None]
    wall_m2, wall_gap_m = seen.wall_area_mm2 * 1e-6 * filled, seen.wall_gap_mm * 1e-3
    each = np.array([len(p.copies) for p in placed])[:, None]
    area[at] = wall_m2 * stands_still(wall_gap_m)
    into[at] = to_wall_w_per_k(wall_m2, wall_gap_m)
    spots[at] = spreading_k_per_w(wall_m2 / each, wall_m, conductivity) / each  # each copy has a spot of its own
    pair_m2, pair_gap_m = seen.area_mm2 * 1e-6, seen.gap_mm * 1e-3
    covered_m2 = pair_m2 * stands_still(pair_gap_m)
    several = np.ones(len(nodes))
    several[at] = [len(p.copies) for p in placed]
    surface_m2 = np.array([_surface_m2(sizes.get(n.pointer)) for n in nodes]) * several
    between = between_w_per_k(pair_m2, pair_gap_m)
    found = neighbours(1 / surface, surface_m2, at[seen.first], at[seen.second], between, covered_m2, into, area, spots)
    near = np.zeros((len(nodes), 6))
    near[at] = np.clip(1 - wall_gap_m / NARROW_M, 0.0, 1.0)
    past = (found.into_wall * near).sum(axis=1)
    return _Places(found, total - surface, found.bare_w_per_k, surface_m2, past)


FILM_ROUNDS = 3


def _filled(body: Placed) -> float:
    """Of the sides of the box around several copies, what they fill: each dimension alike; 1 for a single body."""
    if len(body.copies) == 1:
        return 1.0
    box = float(np.prod(np.maximum(body.high - body.low, 1e-3)))
    return float(min(len(body.copies) * math.prod(body.body.size_mm) / box, 1.0) ** (2 / 3))


def _alone_k_per_w(node: Node, size: Size | None) -> float:
    """From the surface of a node to the air: of a chip that of its board."""
    if node.kind == "part" and (size is None or not is_chip(size)):
        return node.k_per_w
    own = own_k_per_w(size)
    return (
        own
        if size is None or not is_chip(size)
        else node.k_per_w - min(chip_beyond_k_per_w(size), BEYOND * node.k_per_w)
    )


BEYOND = 0.7  # of a chip's resistance, that may lie between it and its board


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
