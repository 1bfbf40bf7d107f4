"""What is asked about charging and heat: the course of a charge, other settings and loads, and every temperature in every mode."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from ..charging.charge import Charge, Never, charge, gentle_current, highest_current
from ..figures import Figure, Status, figure, record
from ..measures.bench import TrialBench
from ..numeric import Array
from ..quantities.preferred import E24
from ..solved.nodes import Node
from ..solved.warmth import CELL_CHARGE_MAX_C, SPOT_K, Warmth, charging_range_c, find_meanwhile
from ..thermal.materials import MATERIALS
from ..thermal.shell import Shell
from ..words import Said, called, say

MOST_SETTINGS = 14
# to a limit: from there on it is drawn as close to it, as the verdict has it of the softening of the plastic
NEAR_K = 10.0


@record
class CoursePicture:
    """A charge over time, lists of one length: s, state of charge 0..1, A, V, degC."""

    time_s: list[float]
    charge: list[float]
    current_a: list[float]
    voltage_v: list[float]
    inside_c: list[float]
    junction_c: list[float]


@record
class Setting:
    """One way to set the current: by a resistor (or a step, then without one)."""

    ohm: float | None
    current_a: float
    c_rate: float
    hours: float | None
    hottest_c: float
    status: Status
    words: str
    chosen: bool


@record
class LoadRow:
    """The charge with one mode meanwhile."""

    mode: str
    name: str
    load_a: float
    most_hours: float | None
    hours: float | None
    why: str
    chosen: bool


@record
class SolarAnswer:
    energy: Figure
    sun_hours: Figure
    needed: Figure
    autonomy: Figure
    sentence: str


@record
class ChargeAnswer:
    """The course of a charge from a state of charge, the settings, and the loads meanwhile."""

    course: CoursePicture
    seconds: float | None
    most_s: float | None
    why: str
    settings: list[Setting]
    loads: list[LoadRow]
    solar: SolarAnswer | None


def answer_charge(bench: TrialBench, begins_at: float = 0.0) -> ChargeAnswer | None:
    """The charge from a state of charge (0..1); None where there is none."""
    design, warm = bench.design, bench.warmth
    charger, meanwhile, usual = design.charger, warm.meanwhile, warm.charge
    if charger is None or meanwhile is None or usual is None or warm.usual_shell is None:
        return None
    shell = warm.usual_shell
    result = usual if begins_at <= 0 else charge(charger, design.battery, shell, meanwhile, begins_at)
    course = result.course
    return ChargeAnswer(
        course=CoursePicture(
            time_s=_listed(course.time_s),
            charge=_listed(course.charge),
            current_a=_listed(course.current_a),
            voltage_v=_listed(course.voltage_v),
            inside_c=_listed(course.inside_c),
            junction_c=_listed(course.junction_c),
        ),
        seconds=result.seconds,
        most_s=result.most_s,
        why=say("never-full.why", why=_never(result.never)) if result.never else "",
        settings=_settings(bench, shell),
        loads=_loads(bench, shell),
        solar=_solar(bench),
    )


def _listed(values: Array) -> list[float]:
    return [float(f"{v:.6g}") for v in values]


def _settings(bench: TrialBench, shell: Shell) -> list[Setting]:
    """Preferred resistors (or the charger's steps) around what is gentle and what is highest."""
    charger, battery, meanwhile = bench.design.charger, bench.design.battery, bench.warmth.meanwhile
    assert charger is not None
    assert meanwhile is not None
    cell_ah = battery.cell.capacity_ah * battery.parallel
    gentle, highest = gentle_current(battery), highest_current(battery)
    tried: list[tuple[float | None, float]]
    if charger.fixed_a is not None:
        tried = [(None, amps) for amps in sorted({*charger.steps_a, charger.fixed_a})]
    else:
        least, most = charger.program_min_ohm or 0.0, charger.program_max_ohm or math.inf
        wanted = [charger.program_constant_v / (cell_ah * rate) for rate in (1.25, 0.1)]
        decades = range(math.floor(math.log10(wanted[0])) - 1, math.ceil(math.log10(wanted[1])) + 1)
        values = [float(f"{v * 10.0 ** (d - 1):.3g}") for d in decades for v in E24[::2]]
        values = [v for v in values if wanted[0] <= v <= wanted[1] and least <= v <= most]
        thinned = values[:: max(math.ceil(len(values) / MOST_SETTINGS), 1)]
        tried = [(ohm, charger.program_constant_v / ohm) for ohm in sorted({*thinned, charger.program_ohm})]
    found = []
    for ohm, amps in tried:
        other = charger.model_copy(update={"fixed_a": amps} if ohm is None else {"program_ohm": ohm})
        result = charge(other, battery, shell, meanwhile)
        rate = amps / cell_ah
        status, words = _judged(amps, gentle, highest)
        if result.never:
            status, words = "fail", say("never-full.setting", why=_never(result.never))
        found.append(
            Setting(
                ohm=ohm,
                current_a=amps,
                c_rate=rate,
                hours=None if result.seconds is None else result.seconds / 3600,
                hottest_c=result.hottest_c,
                status=status,
                words=words,
                chosen=math.isclose(amps, charger.set_a),
            )
        )
    return found


def _never(why: Never) -> Said:
    return Said(f"never-full.{why}")


def _judged(amps: float, gentle: float, highest: float) -> tuple[Status, str]:
    if amps <= gentle * 1.001:
        return "pass", say("setting.gentle")
    return ("watch", say("setting.allowed")) if amps <= highest * 1.001 else ("fail", say("setting.too-much"))


def _loads(bench: TrialBench, shell: Shell) -> list[LoadRow]:
    design, warm = bench.design, bench.warmth
    charger, usual = design.charger, warm.meanwhile
    assert charger is not None
    assert usual is not None
    found = []
    for m, mode in enumerate(design.modes):
        meanwhile = find_meanwhile(bench.usual, m, float(warm.mode_w[m]), usual.ambient_c, usual.before_w)
        result: Charge = charge(charger, design.battery, shell, meanwhile)
        found.append(
            LoadRow(
                mode=mode.id,
                name=mode.name,
                load_a=meanwhile.cell_a,
                most_hours=None if result.most_s is None else result.most_s / 3600,
                hours=None if result.seconds is None else result.seconds / 3600,
                why=say("never-full.mode", why=_never(result.never)) if result.never else "",
                chosen=m == bench.charge_mode,
            )
        )
    return found


def _solar(bench: TrialBench) -> SolarAnswer | None:
    solar, charger = bench.solar, bench.design.charger
    panel = charger.panel if charger else None
    if solar is None or panel is None:
        return None
    day, efficiency, into, used, stored, dark = (
        solar.panel,
        solar.efficiency,
        solar.into_wh,
        solar.used_wh,
        solar.stored_wh,
        solar.autonomy_d,
    )
    inputs = [
        (called("latitude"), panel.latitude_deg, "°"),
        (called("tilt"), panel.tilt_deg, "°"),
        (called("sky-clear-share"), day.clearness, "share"),
    ]
    enough = into >= used
    return SolarAnswer(
        energy=figure(
            "from-the-panel-on-a-usual-day",
            into,
            "Wh",
            [
                (called("peak-power"), panel.peak_w, "W"),
                (called("hours-of-full-sun"), day.sun_h, "h"),
                (called("charge-stage"), efficiency, "share"),
                *inputs,
            ],
            day.source,
        ),
        sun_hours=figure("hours-of-full-sun-a-day", day.sun_h, "h", inputs, day.source),
        needed=figure("used-on-a-day", used, "Wh", [(called("mean-battery-current"), bench.mean_a, "A")]),
        autonomy=figure(
            "days-without-any-sun", None if math.isinf(dark) else dark, "d", [(called("usable"), stored, "Wh")]
        ),
        sentence=say(
            "solar-day.balance",
            into=(into, "Wh"),
            used=(used, "Wh"),
            lives=enough,
            dark=None if math.isinf(dark) else (dark, "d"),
        ),
    )


@record
class HeatRow:
    """One mode on the hottest day, or charging where it is hottest [degC]; `felt_w` is the power that lasts. `days` are those on which the mode
    warms most, empty where all days are alike. `surroundings_c` is how warm it is around the case, `stands_c` is what each node stands then, `spot_c` the wall where each node comes
    nearest to it; `hottest_outer_c` is the spot outside `over` the node that makes the warmest one."""

    mode: str
    name: str
    days: str
    felt_w: float
    surroundings_c: float
    inside_c: float
    outer_c: float
    hottest_outer_c: float
    over: str
    node_c: list[float]
    stands_c: list[float]
    spot_c: list[float]


@record
class HeatNode:
    """`worst_c` is its temperature in the row `when` it comes nearest to what it stands then, `stands_c` [degC]; `near` how near: 0 as warm as the
    surroundings, 1 at it."""

    where: str
    name: str
    kind: str
    k_per_w: float
    limit_c: float
    worst_c: float
    stands_c: float
    when: str
    near: float


@record
class HeatLimit:
    """How far the worst of something is from what it stands [degC]; `key` tells two of the same name apart, `room` says in words what is left."""

    key: str
    name: str
    value_c: float
    limit_c: float
    when: str
    why: str
    status: Status
    room: str


@record
class HeatAnswer:
    nodes: list[HeatNode]
    rows: list[HeatRow]
    limits: list[HeatLimit]
    vented: Figure
    time_constant: Figure
    gap_mm: float
    capped: bool


def _node(node: Node, place: int, rows: list[HeatRow], hottest_c: float) -> HeatNode:
    """A node where it comes nearest to what it stands."""

    def near(row: HeatRow) -> float:
        return (row.node_c[place] - row.surroundings_c) / max(row.stands_c[place] - row.surroundings_c, 1.0)

    worst = max(rows, key=near, default=None)
    told = (
        (hottest_c, node.limit_c, "", 0.0)
        if worst is None
        else (worst.node_c[place], worst.stands_c[place], worst.name, near(worst))
    )
    return HeatNode(
        where=node.pointer,
        name=node.name,
        kind=node.kind,
        k_per_w=node.k_per_w,
        limit_c=node.limit_c,
        worst_c=told[0],
        stands_c=told[1],
        when=told[2],
        near=told[3],
    )


def answer_heat(bench: TrialBench) -> HeatAnswer:
    """Every temperature in every mode that a day has, on the hottest day, and while it charges."""
    warm, design = bench.warmth, bench.design
    used = [m for m in range(len(design.modes)) if bench.usual.shares[m] > 0]
    rows = [
        HeatRow(
            mode=design.modes[m].id,
            name=design.modes[m].name,
            days=bench.warmest_days(m),
            felt_w=float(warm.felt_w[m]),
            surroundings_c=design.brief.hottest_c,
            inside_c=float(warm.inside_c[m]),
            outer_c=float(warm.outer_c[m]),
            **_hottest(warm, warm.spot_c[:, m], float(warm.wall_c[m]), float(warm.outer_c[m])),
            node_c=_listed(warm.node_c[:, m]),
            stands_c=[n.limit_c for n in warm.nodes],
            spot_c=_listed(warm.spot_c[:, m]),
        )
        for m in used
    ]
    if (
        warm.charging_c is not None
        and warm.charging_outer_c is not None
        and warm.charging_node_c is not None
        and warm.charging_spot_c is not None
    ):
        # a cell stands less while it is charged
        stands = [CELL_CHARGE_MAX_C if n.kind == "cell" else n.limit_c for n in warm.nodes]
        rows.append(
            HeatRow(
                mode="",
                name="Charging",
                days="",
                felt_w=warm.charging_w,
                surroundings_c=charging_range_c(design)[1],
                inside_c=warm.charging_c,
                outer_c=warm.charging_outer_c,
                **_hottest(warm, warm.charging_spot_c, warm.charging_wall_c or 0.0, warm.charging_outer_c),
                node_c=_listed(warm.charging_node_c),
                stands_c=stands,
                spot_c=_listed(warm.charging_spot_c),
            )
        )
    most = float(warm.felt_w[warm.hottest_mode])
    return HeatAnswer(
        nodes=[_node(n, k, rows, design.brief.hottest_c) for k, n in enumerate(warm.nodes)],
        rows=rows,
        limits=_limits(bench, rows),
        vented=figure(
            "out-of-the-vents",
            warm.shell.vent_w(most),
            "W",
            [(called("power-that-lasts"), most, "W")],
            "ASHRAE Handbook, Fundamentals (2017), ch. 16",
        ),
        time_constant=figure(
            "time-constant-of-the-case",
            warm.time_constant_s,
            "s",
            [(called("heat-capacity"), warm.shell.capacity_j_per_k, "J/K")],
            "Incropera & DeWitt (2007), ch. 5",
        ),
        gap_mm=warm.gap_mm,
        capped=any(r.inside_c >= r.surroundings_c + 149.9 for r in rows),
    )


def _hottest(warm: Warmth, spot_c: Array, wall_c: float, outer_c: float) -> dict[str, Any]:
    """The hottest spot outside and what it lies over; where none stands out the outer side itself."""
    hot = int(np.argmax(spot_c))
    above = float(spot_c[hot]) - wall_c
    return {"hottest_outer_c": outer_c + max(above, 0.0), "over": warm.nodes[hot].name if above > SPOT_K else ""}


def _limits(bench: TrialBench, rows: list[HeatRow]) -> list[HeatLimit]:
    warm, design = bench.warmth, bench.design
    material = MATERIALS[design.enclosure.plastic]
    running = [r for r in rows if r.mode] or rows
    charging = next((r for r in rows if not r.mode), None)
    when = {"cell": running, "charger": rows[-1:]}  # a cell stands less while it is charged, which is told by itself
    found = []
    if rows:
        worst = max(rows, key=lambda r: r.inside_c)
        if material.feel == "plastic":
            found.append(
                _limit(
                    "inside",
                    f"{design.enclosure.plastic} softens",
                    worst.inside_c,
                    material.softens_c,
                    worst,
                    "usual figure of the material",
                )
            )
            hot = max(rows, key=lambda r: max(r.spot_c, default=-300.0))
            if hot.spot_c:
                over = warm.nodes[int(np.argmax(hot.spot_c))].name
                found.append(
                    _limit(
                        "spot",
                        say("heat-limit.over", plastic=design.enclosure.plastic, over=over),
                        max(hot.spot_c),
                        material.softens_c,
                        hot,
                        say("heat-limit.by-distance"),
                    )
                )
        outside = next(
            (r for r in rows if r.mode == ("" if warm.outside.mode is None else design.modes[warm.outside.mode].id)),
            rows[0],
        )
        limit, why = warm.outside.limit_c, warm.outside.contact
        found.append(
            _limit(
                "outside",
                say("heat-limit.outside"),
                warm.outside.degrees_c,
                limit,
                outside,
                say("heat-limit.touched", contact=why),
            )
        )
    for i, node in enumerate(warm.nodes):
        own = max(when.get(node.kind, rows), key=lambda r: r.node_c[i])
        found.append(_limit(node.pointer, node.name, own.node_c[i], node.limit_c, own, _why(node)))
        if node.kind == "cell" and charging is not None:
            found.append(
                _limit(
                    f"{node.pointer}/charging",
                    say("heat-limit.charging", name=node.name),
                    charging.node_c[i],
                    charging.stands_c[i],
                    charging,
                    say("heat-limit.usual-of-charging"),
                )
            )
    return sorted(found, key=lambda x: x.limit_c - x.value_c)


def _limit(key: str, name: str, value_c: float, limit_c: float, row: HeatRow, why: str) -> HeatLimit:
    left = limit_c - value_c
    return HeatLimit(
        key=key,
        name=name,
        value_c=value_c,
        limit_c=limit_c,
        when=row.name,
        why=why,
        status="fail" if left < 0 else "watch" if left < NEAR_K else "pass",
        room=say("heat-limit.room", room=(abs(left), "K"), over=left < 0),
    )


def _why(node: Node) -> str:
    return say(f"heat-limit.{node.kind}")
