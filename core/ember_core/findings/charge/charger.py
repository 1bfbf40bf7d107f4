"""Traps of charging."""

from __future__ import annotations

from collections.abc import Iterator

from ...battery.chemistry import CHEMISTRIES, full_v, highest_v
from ...charging.charge import CURRENT_SPREAD
from ...design import Charger
from ...design.patches import replace
from ...figures import Remedy
from ...measures.bench import TrialBench
from ...measures.edits import set_current
from ...solved.warmth import charging_range_c
from ...thermal.materials import shielded
from ...words import Said, say
from ..found import Found
from .refill import fitting, instead

NOMINAL_TOLERANCE = 0.005  # above the cell's float voltage: what is still the same
TO_THE_LIMIT = 1.001


def how_set(charger: Charger) -> Said:
    """What sets a charger's current, in words with the figure."""
    if charger.fixed_a is None:
        return Said("how-set.resistor", {"program_resistor": (charger.program_ohm, "Ω")})
    return Said("how-set.steps" if charger.steps_a else "how-set.fixed")


def current_too_high(bench: TrialBench) -> Iterator[Found]:
    """The charger is set to more than the cell may take. Above the limit by no more than the setting is good for, it is to be watched."""
    charger, result, battery = bench.design.charger, bench.charge, bench.design.battery
    if charger is None or result is None:
        return
    cell = battery.cell
    beyond = result.set_a > result.highest_a * TO_THE_LIMIT
    dangerous = result.set_a > result.highest_a * (1 + CURRENT_SPREAD)
    unknown = cell.charge_max_a is None and result.set_a > result.gentle_a * TO_THE_LIMIT
    if not beyond and not unknown:
        return
    rate = result.set_a / battery.parallel / cell.capacity_ah
    by_resistor = charger.fixed_a is None
    recommended_a = charger.program_constant_v / result.gentle_ohm if by_resistor else result.gentle_a
    yield Found(
        code="charge-current",
        severity="stop" if dangerous else "watch",
        step="charge",
        where="/charger/program_ohm" if charger.fixed_a is None else "/charger/fixed_a",
        facts={
            "charge_current": (result.set_a, "A"),
            "rated_capacity": (cell.capacity_ah, "Ah"),
            "charge_max": (result.highest_a, "A"),
            "recommended": (recommended_a, "A"),
            "recommended_resistor": (result.gentle_ohm if by_resistor else None, "Ω"),
            "rate": (rate, ""),
            "charger": charger.name,
            "how_set": how_set(charger),
            "printed": cell.charge_max_a is not None,
            "dangerous": dangerous,
            "lithium": cell.chemistry.startswith("lithium"),
        },
        ways=lambda: _gentler_currents(bench, dangerous=beyond),
    )


def _gentler_currents(bench: TrialBench, *, dangerous: bool) -> Iterator[Remedy | None]:
    """The recommended current; or, where that takes too long for the brief, the most that the cell allows; another charger where this one
    cannot be set to it."""
    charger, result = bench.design.charger, bench.charge
    assert charger is not None
    assert result is not None
    yield set_current(charger, result.gentle_a)
    if dangerous:
        yield set_current(charger, result.highest_a)
    if charger.fixed_a is not None:
        yield from instead(bench, fitting(bench))


def never_ends(bench: TrialBench) -> Iterator[Found]:
    """The charge never gets it full: a load on the cell, a port with nothing left, or a pack that seems full too early."""
    charger, result = bench.design.charger, bench.charge
    if charger is None or result is None:
        return
    mode = bench.design.modes[bench.charge_mode].name
    end = (result.termination_a, "A")
    if result.never == "load":
        yield Found(
            code="never-full",
            severity="fix",
            step="charge",
            where="/charger/power_path",
            facts={"load": (result.load_a, "A"), "mode": mode, "end": end},
            ways=lambda: [
                Remedy(label=say("way.use-a-charger-with-a-power-path"), patch=[replace("/charger/power_path", True)])
            ],
        )
    elif result.never == "port":
        yield Found(
            code="never-full",
            words="never-full-at-its-port",
            severity="fix",
            step="charge",
            where="/charger/port_limit_a",
            facts={
                "port_left": (result.port_left_a if result.port_left_a > 0 else None, "A"),
                "mode": mode,
                "end": end,
            },
        )
    elif result.never == "early":
        yield Found(
            code="never-full",
            words="ends-early",
            severity="fix",
            step="charge",
            where="/charger/program_ohm",
            facts={"reached": (result.full_share, "share"), "float_voltage": (charger.float_v, "V"), "end": end},
            ways=lambda: [set_current(charger, result.gentle_a), *instead(bench, fitting(bench))],
        )


def takes_too_long(bench: TrialBench) -> Iterator[Found]:
    """The brief wants it full sooner."""
    limit, result, charger = bench.design.brief.charge_max_h, bench.charge, bench.design.charger
    if limit is None or result is None or charger is None or result.seconds is None or result.seconds <= limit * 3600:
        return
    if charger.panel is not None:  # what counts there is the balance of a day
        return
    yield Found(
        code="charge-time",
        severity="fix",
        step="charge",
        where="/charger/program_ohm",
        facts={
            "time_to_full": (result.seconds, "s"),
            "limit": (limit, "h"),
            "limited_by": result.limit,
            "set_current": (result.set_a, "A"),
            "how_set": how_set(charger),
            "port_left": (result.port_left_a, "A"),
            "charge_current": (result.current_a, "A"),
        },
        ways=(lambda: _faster(bench)) if result.limit == "set" else None,
    )


def _faster(bench: TrialBench) -> Iterator[Remedy | None]:
    """The recommended current if that is more than is set, then the most that the cell allows."""
    charger, result = bench.design.charger, bench.charge
    assert charger is not None
    assert result is not None
    for amps in (result.gentle_a, result.highest_a):
        if amps > charger.set_a * TO_THE_LIMIT:
            yield set_current(charger, amps)


def port_overload(bench: TrialBench) -> Iterator[Found]:
    """Charger and gadget together, or the charger alone, ask the port for more than it gives."""
    charger, result = bench.design.charger, bench.charge
    if charger is None or result is None or charger.panel is not None:
        return
    meanwhile = bench.warmth.meanwhile
    assert meanwhile is not None
    shares = charger.power_path or charger.adapts_input
    asked, limit = min(port_asked_a(charger), charger.port_limit_a), meanwhile.port_limit_a
    together = asked + meanwhile.port_peak_a
    if together <= limit * TO_THE_LIMIT or limit <= 0 or (shares and meanwhile.port_peak_a <= 0):
        return
    mode = bench.design.modes[bench.charge_mode].name
    fits = (limit - meanwhile.port_peak_a) * charger.set_a / port_asked_a(charger)
    yield Found(
        code="port-overload",
        severity="note" if shares else "fix",
        step="charge",
        where="/charger/port_limit_a",
        facts={
            "load": (asked, "A"),
            "port_limit": (limit, "A"),
            "port_peak": (meanwhile.port_peak_a if meanwhile.port_peak_a > 0 else None, "A"),
            "together": (together, "A"),
            "charger": charger.name,
            "mode": mode,
            "shares": shares,
            "port_left": (result.port_left_a, "A"),
        },
        ways=None
        if shares
        else lambda: [set_current(charger, fits), *instead(bench, [c for c in fitting(bench) if c.adapts_input])],
    )


def port_asked_a(charger: Charger) -> float:
    """What a charger wants to draw from its port at its set current [A]; its LED aside."""
    if charger.topology == "linear":
        return charger.set_a
    return charger.set_a * charger.float_v / charger.efficiency / charger.port_v


def must_not_be_charged(bench: TrialBench) -> Iterator[Found]:
    """A charger on primary cells."""
    cell = bench.design.battery.cell
    if bench.design.charger is None or CHEMISTRIES[cell.chemistry].rechargeable:
        return
    yield Found(
        code="primary-cell",
        severity="stop",
        step="charge",
        where="/charger",
        facts={"cell": cell.name},
        ways=lambda: [Remedy(label=say("way.remove-the-charger"), patch=[replace("/charger", None)])],
    )


def wrong_charger(bench: TrialBench) -> Iterator[Found]:
    """A charger for another kind of cell, another number of them, or another float voltage."""
    charger, battery = bench.design.charger, bench.design.battery
    cell, data = battery.cell, CHEMISTRIES[battery.cell.chemistry]
    if charger is None or not data.rechargeable:
        return
    if cell.bank is not None:
        yield Found(
            code="wrong-charger",
            severity="stop",
            step="charge",
            where="/charger",
            facts={"cell": cell.name, "charger": charger.name},
            ways=lambda: [Remedy(label=say("way.charge-it-by-its-own-port"), patch=[replace("/charger", None)])],
        )
    elif data.charge_v is None and charger.method == "cc-cv":
        yield Found(
            code="wrong-charger",
            words="constant-voltage-on-nickel",
            severity="stop",
            step="charge",
            where="/charger",
            facts={"charger": charger.name, "cell": cell.name, "data": data.name},
            ways=lambda: [
                *instead(bench, fitting(bench)),
                Remedy(label=say("way.charge-it-outside-the-gadget"), patch=[replace("/charger", None)]),
            ],
        )
    elif (wanted := full_v(cell)) is not None and charger.method == "cc-cv":
        yield from _wrong_voltage(bench, wanted, highest_v(cell) or wanted)


def _wrong_voltage(bench: TrialBench, charge_v: float, most_v: float) -> Iterator[Found]:
    """Of the whole pack: the charger holds its float voltage whatever is behind it."""
    charger, battery = bench.design.charger, bench.design.battery
    assert charger is not None
    full = charge_v * battery.series
    right = Remedy(
        label=say("way.a-charger-for", series=battery.series, full=(full, 'V'), several=battery.series > 1),
        patch=[replace("/charger/cells_in_series", battery.series), replace("/charger/float_v_per_cell", charge_v)],
    )  # fmt: skip
    kind = CHEMISTRIES[battery.cell.chemistry].name
    if charger.float_v > most_v * battery.series * (1 + NOMINAL_TOLERANCE):
        yield Found(
            code="float-voltage",
            severity="stop",
            step="charge",
            where="/charger/cells_in_series"
            if charger.cells_in_series != battery.series
            else "/charger/float_v_per_cell",
            facts={
                "float_voltage": (charger.float_v, "V"),
                "full_voltage": (full, "V"),
                "charger": charger.name,
                "cell": battery.cell.name,
                "kind": kind,
                "series": battery.series,
                "super_capacitor": battery.cell.chemistry == "super-capacitor",
            },
            ways=lambda: [right],
        )
    elif charger.cells_in_series != battery.series:
        yield Found(
            code="charger-for-another-pack",
            severity="stop",
            step="charge",
            where="/charger/cells_in_series",
            facts={
                "float_voltage": (charger.float_v, "V"),
                "full_voltage": (full, "V"),
                "charger": charger.name,
                "made_for": charger.cells_in_series,
                "series": battery.series,
            },
            ways=lambda: [right],
        )
    elif bench.charge is not None and bench.charge.never == "voltage":
        yield Found(
            code="float-too-low",
            severity="fix",
            step="charge",
            where="/charger/float_v_per_cell",
            facts={
                "float_voltage": (charger.float_v, "V"),
                "full_voltage": (full, "V"),
                "reached": (bench.charge.full_share, "share"),
                "charger": charger.name,
                "cell": battery.cell.name,
                "kind": kind,
                "series": battery.series,
            },
            ways=lambda: [right],
        )


def too_cold_or_hot(bench: TrialBench) -> Iterator[Found]:
    """Charging outside the cell's window. What the sun charges is charged where the gadget is."""
    design = bench.design
    charger = design.charger
    if charger is None or not CHEMISTRIES[design.battery.cell.chemistry].rechargeable:
        return
    coldest, hottest = charging_range_c(design)
    least, most = CHEMISTRIES[design.battery.cell.chemistry].charged_c
    if coldest >= least and hottest <= most:
        return
    stops, sun = charger.temperature_sensor, charger.panel is not None
    lithium = design.battery.cell.chemistry in ("lithium-ion", "lithium-iron-phosphate")
    yield Found(
        code="charge-temperature",
        severity="watch" if stops else "fix",
        step="charge",
        where="/charger/temperature_sensor" if sun else "/brief/charged",
        facts={
            "coldest": (coldest, "°C"),
            "hottest": (hottest, "°C"),
            "stops": bool(stops),
            "sun": sun,
            "least": (least, "°C"),
            "most": (most, "°C"),
            "lithium": lithium,
        },
        ways=lambda: [
            *(
                []
                if sun
                else [Remedy(label=say("way.charge-it-indoors"), patch=[replace("/brief/charged", "indoors")])]
            ),
            *(
                []
                if stops
                else [
                    Remedy(
                        label=say("way.a-sensor-on-the-cell-that-stops-it"),
                        patch=[replace("/charger/temperature_sensor", True)],
                    )
                ]
            ),
        ],
    )


def coil_shielded(bench: TrialBench) -> Iterator[Found]:
    """A coil for charging without a wire behind metal."""
    design, charger = bench.design, bench.design.charger
    if charger is None or charger.port is None or charger.port.kind != "wireless" or charger.outside:
        return
    if not shielded(design.enclosure):
        return
    yield Found(
        code="coil-shielded",
        severity="fix",
        step="charge",
        where="/enclosure/plastic",
        facts={"charger": charger.name, "plastic": design.enclosure.plastic},
        ways=lambda: [
            Remedy(label=say("way.a-lid-of-abs-and-the-coil-under-it"), patch=[replace("/enclosure/lid", "ABS")]),
            Remedy(label=say("way.a-case-of-abs"), patch=[replace("/enclosure/plastic", "ABS")]),
        ],
    )
