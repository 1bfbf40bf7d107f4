"""Traps of chargers and of what feeds them: the wrong kind, its resistor, its timer, its port, what it takes when unplugged."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from ...battery.chemistry import CHEMISTRIES, full_v, highest_v
from ...design import Charger
from ...design.patches import replace
from ...figures import Remedy
from ...measures.bench import TrialBench
from ...measures.edits import set_current, set_resistor
from ...quantities.preferred import next_e24, previous_e24
from ...words import say
from ..found import Found
from .sun import OPEN_PANEL

FLOAT_MOST = 1.012  # of a full lithium cell: 4.25 V of 4.20 V, at the worst of the reference; a rule of thumb
LEAK_SHARE = 0.2  # of what the gadget takes at rest
LED_SHARE = 0.2
SAME_FLOAT_V = 0.06  # iron phosphate cells are charged to 3.6 or 3.65 V
SAME_PORT = 0.1
HEADROOM_V = 0.2  # that a linear charger needs above its float voltage; a rule of thumb
BANK_SLEEPS_A = 0.06  # below this a power bank thinks that nothing is connected; a rule of thumb
CC_OHM = 5100.0
RELIABLE_C = 0.3  # below that many C the fall of a nickel cell's voltage cannot be seen
MOST_WAYS = 3


def fitting(bench: TrialBench) -> list[Charger]:
    """The catalogue's chargers for the pack, the cheapest first, each in the place of the present one: with its port, panel or adapter, which
    was decided already, in the mode in which it charges, and where it sits."""
    battery, old = bench.design.battery, bench.design.charger
    full = full_v(battery.cell)
    able = [
        c for c in bench.catalogue.chargers
        if c.cells_in_series == battery.series and (
            c.method == "cc-cv" and full is not None and abs(c.float_v_per_cell - full) < SAME_FLOAT_V
            if battery.cell.chemistry != "nickel-metal-hydride" else c.method != "cc-cv"
        )
    ]  # fmt: skip
    able = sorted(able, key=lambda c: (c.cost, c.name))
    return able if old is None else [_in_place(old, c) for c in able if _works_at(c, old)]


def _works_at(charger: Charger, old: Charger) -> bool:
    """Whether a charger runs on what feeds the present one: the same voltage, or one that it stands and can fill the pack from; with a coil or
    without."""
    kinds = [c.port.kind if c.port else None for c in (charger, old)]
    if "wireless" in kinds and kinds[0] != kinds[1]:
        return False
    if kinds[0] == "solar" and charger.panel is None:
        return False
    if old.panel is not None and not charger.adapts_input:
        return False
    if abs(charger.port_v / old.port_v - 1) <= SAME_PORT:
        return True
    stands = charger.input_max_v is not None and charger.input_max_v >= old.port_v * (OPEN_PANEL if old.panel else 1.0)
    return stands and old.port_v >= charger.float_v + HEADROOM_V


def _in_place(old: Charger, new: Charger) -> Charger:
    body = new.body
    if body is not None and old.body is not None:
        kept = {k: getattr(old.body, k) for k in ("position_mm", "turn_deg", "through", "on")}
        body = body.model_copy(update=kept)
    kept_port = {"port": old.port, "port_v": old.port_v} if old.port is not None or old.port_v != new.port_v else {}
    return new.model_copy(update={"mode": old.mode, "outside": old.outside, "body": body, **kept_port})


def instead(bench: TrialBench, chargers: Iterable[Charger]) -> list[Remedy]:
    """Each of some chargers instead of the present one, its current set to what is recommended for the pack."""
    rows = []
    for one in list(chargers)[:MOST_WAYS]:
        made = gentle(bench, one)
        rows.append(
            Remedy(
                label=say("way.use-charger-set-to", made=made.name, set=(made.set_a, "A")),
                patch=[replace("/charger", made)],
            )
        )
    return rows


def gentle(bench: TrialBench, charger: Charger) -> Charger:
    """The charger set to the recommended current of the pack, as near below as it goes."""
    wanted = bench.charge.gentle_a if bench.charge else _gentle_a(bench)
    if charger.steps_a:
        below = [a for a in charger.steps_a if a <= wanted * 1.001]
        return charger.model_copy(update={"fixed_a": max(below, default=min(charger.steps_a))})
    if charger.fixed_a is not None or wanted <= 0:
        return charger
    ohm = next_e24(charger.program_constant_v / wanted)
    if charger.program_min_ohm:
        ohm = max(ohm, charger.program_min_ohm)
    if charger.program_max_ohm:
        ohm = min(ohm, charger.program_max_ohm)
    return charger.model_copy(update={"program_ohm": ohm})


def _gentle_a(bench: TrialBench) -> float:
    battery = bench.design.battery
    return CHEMISTRIES[battery.cell.chemistry].charge_rate * battery.cell.capacity_ah * battery.parallel


def of_the_wrong_kind(bench: TrialBench) -> Iterator[Found]:
    """A nickel charger on a lithium cell: it goes on until the voltage falls, and a lithium cell's never does."""
    charger, battery = bench.design.charger, bench.design.battery
    if charger is None or charger.method == "cc-cv" or battery.cell.bank is not None:
        return
    data = CHEMISTRIES[battery.cell.chemistry]
    if not data.rechargeable or battery.cell.chemistry == "nickel-metal-hydride":
        return
    yield Found(
        code="wrong-charger",
        words="wrong-charger-of-the-wrong-kind",
        severity="stop",
        step="charge",
        where="/charger/method",
        facts={
            "charger": charger.name,
            "cell": battery.cell.name,
            "data": data.name,
            "lithium": battery.cell.chemistry.startswith("lithium"),
        },
        ways=lambda: instead(bench, fitting(bench)),
    )


def for_another_number_of_nickel_cells(bench: TrialBench) -> Iterator[Found]:
    charger, battery = bench.design.charger, bench.design.battery
    if charger is None or charger.method == "cc-cv" or battery.cell.chemistry != "nickel-metal-hydride":
        return
    if charger.cells_in_series == battery.series:
        return
    yield Found(
        code="charger-for-another-pack",
        words="charger-for-another-pack-for-another-number-of-nickel-cells",
        severity="stop",
        step="charge",
        where="/charger/cells_in_series",
        facts={"made_for": (charger.cells_in_series, ""), "cells": (battery.series, ""), "charger": charger.name},
        ways=lambda: instead(bench, fitting(bench)),
    )


def slow_end_of_nickel(bench: TrialBench) -> Iterator[Found]:
    """The fall of the voltage of a slowly charged nickel cell is too small to be seen."""
    charger, result = bench.design.charger, bench.charge
    if charger is None or result is None or charger.method != "delta-v" or result.c_rate >= RELIABLE_C:
        return
    cell_a = bench.design.battery.cell.capacity_ah * bench.design.battery.parallel
    yield Found(
        code="end-not-seen",
        severity="watch",
        step="charge",
        where="/charger/method",
        facts={"charge_current": (result.current_a, "A"), "least": (RELIABLE_C * cell_a, "A"), "charger": charger.name},
        ways=lambda: [
            *(
                Remedy(label=say("way.set-it-to", amps=(a, "A")), patch=[replace("/charger/fixed_a", a)])
                for a in sorted(charger.steps_a)
                if RELIABLE_C * cell_a <= a <= result.highest_a
            ),
            *instead(bench, [c for c in fitting(bench) if c.method == "timer"]),
        ],
    )


def float_tolerance(bench: TrialBench) -> Iterator[Found]:
    """A float voltage that is right, from a reference that is not good enough."""
    charger, battery = bench.design.charger, bench.design.battery
    wanted = highest_v(battery.cell)
    if charger is None or charger.method != "cc-cv" or wanted is None or charger.float_v_per_cell > wanted * 1.005:
        return
    most = charger.float_v_per_cell * (1 + charger.float_tolerance)
    if most <= wanted * FLOAT_MOST:
        return
    yield Found(
        code="float-tolerance",
        severity="watch",
        step="charge",
        where="/charger/float_tolerance",
        facts={
            "highest": (most, "V"),
            "limit": (wanted * FLOAT_MOST, "V"),
            "charger": charger.name,
            "float_tolerance": (charger.float_tolerance, "share"),
        },
        ways=lambda: (
            [
                Remedy(
                    label=say("way.one-that-holds", lower=(lower, "V")),
                    patch=[replace("/charger/float_v_per_cell", lower)],
                )
                for lower in [float(f"{wanted * FLOAT_MOST / (1 + charger.float_tolerance) - 0.005:.2f}")]
            ]
            + instead(
                bench,
                [c for c in fitting(bench) if c.float_v_per_cell * (1 + c.float_tolerance) <= wanted * FLOAT_MOST],
            )
        ),
    )


def resistor_out_of_range(bench: TrialBench) -> Iterator[Found]:
    charger = bench.design.charger
    if charger is None or charger.fixed_a is not None:
        return
    low, high = charger.program_min_ohm, charger.program_max_ohm
    ohm = charger.program_ohm
    if (low is None or ohm >= low * 0.999) and (high is None or ohm <= high * 1.001):
        return
    below = low is not None and ohm < low * 0.999
    limit = low if below else high
    assert limit is not None
    nearest = next_e24(limit) if below else previous_e24(limit)
    yield Found(
        code="resistor-range",
        severity="fix",
        step="charge",
        where="/charger/program_ohm",
        facts={"program_resistor": (ohm, "Ω"), "limit": (limit, "Ω"), "charger": charger.name, "below": bool(below)},
        ways=lambda: [
            *([set_current(charger, bench.charge.gentle_a)] if bench.charge else []),
            set_resistor(charger, nearest),
        ],
    )


def too_little_port_voltage(bench: TrialBench) -> Iterator[Found]:
    charger = bench.design.charger
    if charger is None or charger.topology != "linear" or charger.method != "cc-cv":
        return
    needed = charger.float_v + HEADROOM_V
    if charger.port_v >= needed - 1e-9:
        return
    yield Found(
        code="port-voltage",
        severity="fix",
        step="charge",
        where="/charger/port_v",
        facts={"port": (charger.port_v, "V"), "needed": (needed, "V"), "charger": charger.name},
        ways=lambda: [
            *instead(bench, [c for c in fitting(bench) if c.topology == "switching"]),
            *_higher_ports(charger, needed),
        ],
    )


PORTS_V = (5.0, 9.0, 12.0, 15.0, 20.0)  # that adapters usually give


def _higher_ports(charger: Charger, needed_v: float) -> Iterator[Remedy]:
    """The lowest usual voltage of an adapter that is enough, where the charger stands it."""
    volts = next((v for v in PORTS_V if v >= needed_v), None)
    if volts is not None and charger.panel is None and volts <= (charger.input_max_v or volts):
        yield Remedy(label=say("way.an-adapter-of", volts=(volts, "V")), patch=[replace("/charger/port_v", volts)])


def timer_trips(bench: TrialBench) -> Iterator[Found]:
    charger, result = bench.design.charger, bench.charge
    if charger is None or result is None or result.never != "timer" or charger.timer_h is None:
        return
    whole, timer_s = float(result.course.time_s[-1]), charger.timer_h * 3600
    yield Found(
        code="charge-timer",
        severity="fix",
        step="charge",
        where="/charger/timer_h",
        facts={"full_after": (whole / 3600, "h"), "timer": (charger.timer_h, "h"), "charger": charger.name},
        ways=lambda: [
            *_faster(bench),
            set_current(charger, min(charger.set_a * 1.15 * whole / timer_s, result.highest_a)),
            *instead(bench, [c for c in fitting(bench) if c.timer_h is None or c.timer_h * 3600 > whole * 1.1]),
        ],
    )


def _faster(bench: TrialBench) -> Iterator[Remedy | None]:
    charger, result = bench.design.charger, bench.charge
    assert charger is not None
    assert result is not None
    if charger.fixed_a is None:
        if result.gentle_a > charger.set_a:
            yield set_current(charger, result.gentle_a)
        return
    for amps in sorted(charger.steps_a):
        if charger.fixed_a < amps <= result.highest_a:
            yield set_current(charger, amps)


def no_gentle_start(bench: TrialBench) -> Iterator[Found]:
    """A lithium cell that was emptied too far is charged with the full current at once."""
    charger, battery = bench.design.charger, bench.design.battery
    if (
        charger is None
        or charger.method != "cc-cv"
        or charger.precharge_v_per_cell is not None
        or full_v(battery.cell) is None
    ):
        return
    rate = charger.set_a / battery.parallel / battery.cell.capacity_ah
    if rate <= GENTLE_C or battery.cell.chemistry in ("super-capacitor", "lead-acid"):
        return
    usual = {"lithium-ion": 2.9, "lithium-titanate": 1.6}.get(battery.cell.chemistry, 2.0)
    yield Found(
        code="no-precharge",
        severity="fix" if rate > HARD_C else "watch",
        step="charge",
        where="/charger/precharge_v_per_cell",
        facts={
            "charge_current": (charger.set_a, "A"),
            "charger": charger.name,
            "rate": (rate, ""),
            "usual": (usual, "V"),
        },
        ways=lambda: instead(bench, [c for c in fitting(bench) if c.precharge_v_per_cell is not None]),
    )


GENTLE_C, HARD_C = 0.5, 0.7  # up to the first an empty cell stands it; above the second it is in danger; rules of thumb


def timer_overcharges(bench: TrialBench) -> Iterator[Found]:
    """A nickel charger that ends by its clock alone goes on for so long, whatever was in the cells."""
    charger, battery, result = bench.design.charger, bench.design.battery, bench.charge
    if charger is None or result is None or charger.method != "timer" or charger.timer_h is None:
        return
    capacity = battery.cell.capacity_ah * battery.parallel
    put_in, most = charger.set_a * charger.timer_h, NICKEL_MOST * capacity
    if put_in <= most:
        return
    hot = charger.set_a > NICKEL_GENTLE_C * capacity
    hours = most / charger.set_a
    yield Found(
        code="timer-overcharges",
        severity="stop" if hot else "watch",
        step="charge",
        where="/charger/timer_h",
        facts={
            "charge_current": (charger.set_a, "A"),
            "timer": (charger.timer_h, "h"),
            "put_in": (put_in, "Ah"),
            "rated_capacity": (capacity, "Ah"),
            "most": (most, "Ah"),
            "charger": charger.name,
            "hot": bool(hot),
        },
        ways=lambda: [
            Remedy(
                label=say("way.a-timer-of", hours=(float(f"{hours:.2g}"), "h")),
                patch=[replace("/charger/timer_h", float(f"{hours * 0.99:.2g}"))],
            ),
            *instead(bench, [c for c in fitting(bench) if c.method == "delta-v"]),
        ],
    )


NICKEL_MOST = 1.6  # of their capacity is what slowly charged nickel cells take (IEC 61951-2: 16 h at a tenth)
NICKEL_GENTLE_C = 0.12  # up to that they stand what is too much for long


def no_resistors(bench: TrialBench) -> Iterator[Found]:
    """A type-C socket without its two resistors gets nothing from a cable with type-C at both ends."""
    charger = bench.design.charger
    port = charger.port if charger else None
    if port is None or port.kind != "type-c" or port.resistors:
        return
    yield Found(
        code="no-type-c-resistors",
        severity="stop",
        step="charge",
        where="/charger/port/resistors",
        facts={"resistor": (CC_OHM, "Ω")},
        ways=lambda: [
            Remedy(label=say("way.add-the-two-5-1-k-resistors"), patch=[replace("/charger/port/resistors", True)])
        ],
    )


def bank_ends_the_charge(bench: TrialBench) -> Iterator[Found]:
    charger, result = bench.design.charger, bench.charge
    port = charger.port if charger else None
    if charger is None or result is None or port is None or port.kind != "power-bank":
        return
    at_the_end = result.termination_a + (bench.warmth.meanwhile.port_a if bench.warmth.meanwhile else 0.0)
    if at_the_end >= BANK_SLEEPS_A:
        return
    yield Found(
        code="bank-ends-charge",
        severity="note",
        step="charge",
        where="/charger/port/kind",
        facts={"at_the_end": (at_the_end, "A"), "bank": (BANK_SLEEPS_A, "A")},
    )


def leaks_when_unplugged(bench: TrialBench) -> Iterator[Found]:
    """What the charger takes out of the cell decides how long a sleeper lasts."""
    charger, rest = bench.design.charger, bench.rest_a
    if charger is None or charger.leakage_a <= LEAK_SHARE * rest or not bench.design.parts or rest <= 0:
        return
    yield Found(
        code="charger-leakage",
        severity="watch",
        step="charge",
        where="/charger/leakage_a",
        lengthens=True,
        facts={"leakage": (charger.leakage_a, "A"), "at_rest": (rest, "A"), "charger": charger.name},
        ways=lambda: instead(
            bench,
            sorted((c for c in fitting(bench) if c.unplugged_a <= LEAK_SHARE * rest), key=lambda c: c.unplugged_a),
        ),
    )


def led_from_the_cell(bench: TrialBench) -> Iterator[Found]:
    charger = bench.design.charger
    if charger is None or not charger.lamp_from_cell or charger.lamp_a <= LED_SHARE * bench.mean_a:
        return
    yield Found(
        code="charger-led",
        severity="fix",
        step="charge",
        where="/charger/lamp_from_cell",
        lengthens=True,
        facts={"led": (charger.lamp_a, "A"), "mean": (bench.mean_a, "A"), "charger": charger.name},
        ways=lambda: [
            Remedy(label=say("way.feed-its-led-from-the-port"), patch=[replace("/charger/lamp_from_cell", False)])
        ],
    )


def not_balanced(bench: TrialBench) -> Iterator[Found]:
    charger, battery = bench.design.charger, bench.design.battery
    if (
        charger is None
        or battery.series < 2
        or charger.balances
        or charger.method != "cc-cv"
        or CHEMISTRIES[battery.cell.chemistry].charge_v is None
        or battery.cell.chemistry == "lead-acid"  # a little overcharge levels its cells
    ):
        return
    yield Found(
        code="not-balanced",
        severity="watch",
        step="charge",
        where="/charger/balances",
        facts={"cells": (battery.series, ""), "charger": charger.name},
        ways=lambda: [
            *instead(bench, [c for c in fitting(bench) if c.balances]),
            Remedy(label=say("way.add-a-balancing-circuit"), patch=[replace("/charger/balances", True)]),
        ],
    )


def cut_while_charging(bench: TrialBench) -> Iterator[Found]:
    charger = bench.design.charger
    if charger is None or not charger.cuts_load or charger.mode is None:
        return
    mode = bench.design.modes[bench.charge_mode].name
    yield Found(
        code="cut-while-charging",
        severity="watch",
        step="charge",
        where="/charger/cuts_load",
        facts={"charger": charger.name, "mode": mode},
        ways=lambda: [
            *instead(bench, [c for c in fitting(bench) if c.power_path]),
            Remedy(label=say("way.one-that-leaves-the-supply-on"), patch=[replace("/charger/cuts_load", False)]),
        ],
    )
