"""Traps of charging."""

from __future__ import annotations

from collections.abc import Iterator

from ..battery.chemistry import CHEMISTRIES, full_v, highest_v
from ..charging.charge import CURRENT_SPREAD
from ..design import Charger
from ..design.patches import replace
from ..figures import Remedy
from ..measures.bench import TrialBench
from ..measures.edits import set_current
from ..quantities import ratio, show
from ..solved.warmth import charging_range_c
from .found import Found
from .refill import fitting, instead

NOMINAL_TOLERANCE = 0.005  # above the cell's float voltage: what is still the same
TO_THE_LIMIT = 1.001


def how_set(charger: Charger) -> str:
    """What sets a charger's current, in words with the figure."""
    if charger.fixed_a is None:
        return f"by {show(charger.program_ohm, 'Ω')}"
    return "by its own steps" if charger.steps_a else "and nothing changes that"


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
    allowed = (
        "is what its datasheet allows" if cell.charge_max_a is not None else "is the most without a datasheet figure"
    )
    facts = {
        "charge_current": (result.set_a, "A"), "rated_capacity": (cell.capacity_ah, "Ah"), "charge_max": (result.highest_a, "A"),
        "recommended": (result.gentle_a, "A"),
    }  # fmt: skip
    advice = f"Recommended are {show(result.gentle_a, 'A')}."
    if charger.fixed_a is None:
        given = charger.program_constant_v / result.gentle_ohm
        facts |= {
            "recommended_resistor": (result.gentle_ohm, "Ω"),
            "recommended": (given, "A"),
            "program_resistor": (charger.program_ohm, "Ω"),
        }
        advice = f"{show(result.gentle_ohm, 'Ω')} gives {show(given, 'A')}, the recommended current."
    yield Found(
        code="charge-current", severity="stop" if dangerous else "watch", step="charge",
        where="/charger/program_ohm" if charger.fixed_a is None else "/charger/fixed_a",
        title="The charge current is dangerous for this cell" if dangerous else "The charge current is on the high side",
        facts=facts,
        sentence=(
            f"{charger.name} is set to {show(result.set_a, 'A')} {how_set(charger)}: {ratio(rate)} C "
            f"on a cell of {show(cell.capacity_ah, 'Ah')}, where {show(result.highest_a, 'A')} {allowed}. {advice}"
            + (f" {TOO_FAST if cell.chemistry.startswith('lithium') else TOO_FAST_WATERY}" if dangerous else "")
        ),
        ways=lambda: _gentler_currents(bench, dangerous=beyond),
    )  # fmt: skip


TOO_FAST = "Charged so fast the cell gets hot and lithium plates out inside it, which can set it on fire: change it before the first charge."
TOO_FAST_WATERY = "Charged so fast the cell gets hot and vents: change it before the first charge."


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
    mode = bench.design.modes[bench.charge_mode].name.lower()
    end = show(result.termination_a, "A")
    if result.never == "load":
        yield Found(
            code="never-full",
            severity="fix",
            step="charge",
            where="/charger/power_path",
            title="The charge never ends",
            facts={"load": (result.load_a, "A")},
            sentence=(
                f"While charging ({mode}) the gadget draws {show(result.load_a, 'A')} from the cell, and the charger ends at {end}: "
                "it stays at the float voltage for ever. A power path feeds the gadget from the port."
            ),
            ways=lambda: [
                Remedy(label="Use a charger with a power path", patch=[replace("/charger/power_path", True)])
            ],
        )
    elif result.never == "port":
        yield Found(
            code="never-full",
            severity="fix",
            step="charge",
            where="/charger/port_limit_a",
            title="The charge never ends",
            facts={"port_left": (result.port_left_a, "A")} if result.port_left_a > 0 else {},
            sentence=(
                f"While {mode} the port has {show(result.port_left_a, 'A') if result.port_left_a > 0 else 'nothing'} left for the charger, which takes {end} for the end of "
                "the charge. A stronger port, or a mode that takes less, is needed."
            ),
        )
    elif result.never == "early":
        yield Found(
            code="never-full",
            severity="fix",
            step="charge",
            where="/charger/program_ohm",
            title="The charge ends far too early",
            facts={"reached": (result.full_share, "share"), "float_voltage": (charger.float_v, "V")},
            sentence=(
                f"At {show(result.full_share, 'share')} the pack's resistance has lifted its voltage to {show(charger.float_v, 'V')}, it takes no more than "
                f"{end}, and the charger takes it for full. Charge it slower."
            ),
            ways=lambda: [set_current(charger, result.gentle_a), *instead(bench, fitting(bench))],
        )


def takes_too_long(bench: TrialBench) -> Iterator[Found]:
    """The brief wants it full sooner."""
    limit, result, charger = bench.design.brief.charge_max_h, bench.charge, bench.design.charger
    if limit is None or result is None or charger is None or result.seconds is None or result.seconds <= limit * 3600:
        return
    if charger.panel is not None:  # what counts there is the balance of a day
        return
    decides = {
        "set": f"it is set to {show(result.set_a, 'A')} {how_set(charger)}",
        "port": f"the port has {show(result.port_left_a, 'A')} left for it",
        "fold-back": f"it folds back to {show(result.current_a, 'A')} to stay at its temperature",
        "voltage": f"its float voltage lets no more than {show(result.current_a, 'A')} through",
        "gentle": f"it never leaves its gentle start with {show(result.current_a, 'A')}",
    }[result.limit]
    yield Found(
        code="charge-time",
        severity="fix",
        step="charge",
        where="/charger/program_ohm",
        title="The charge takes too long",
        facts={"time_to_full": (result.seconds, "s"), "limit": (limit, "h")},
        sentence=f"Full after {show(result.seconds, 's')}, and the brief wants {show(limit, 'h')}: {decides}.",
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
    mode = bench.design.modes[bench.charge_mode].name.lower()
    fits = (limit - meanwhile.port_peak_a) * charger.set_a / port_asked_a(charger)
    who = (
        f"While {mode} the gadget takes up to {show(meanwhile.port_peak_a, 'A')} from the port and {charger.name} {show(asked, 'A')}: "
        f"{show(together, 'A')} on a cable that gives {show(limit, 'A')}. "
        if meanwhile.port_peak_a > 0
        else f"{charger.name} takes {show(asked, 'A')} from a port that gives {show(limit, 'A')}. "
    )
    yield Found(
        code="port-overload", severity="note" if shares else "fix", step="charge", where="/charger/port_limit_a",
        title="Charger and gadget share the port" if shares else "The port is asked for more than it gives",
        facts={"load": (asked, "A"), "port_limit": (limit, "A")}
        | ({"port_peak": (meanwhile.port_peak_a, "A"), "together": (together, "A")} if meanwhile.port_peak_a > 0 else {})
        | ({"port_left": (result.port_left_a, "A")} if shares else {}),
        sentence=who + (
            f"It serves the gadget first and leaves the cell {show(result.port_left_a, 'A')} on average." if shares
            else "The port's voltage breaks down, or it switches off."
        ),
        ways=None if shares else lambda: [set_current(charger, fits), *instead(bench, [c for c in fitting(bench) if c.adapts_input])],
    )  # fmt: skip


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
        title="Primary cells must never be charged",
        sentence=f"{cell.name} is a primary cell; charged, it leaks or bursts. The charger has to go.",
        ways=lambda: [Remedy(label="Remove the charger", patch=[replace("/charger", None)])],
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
            title="A power bank charges itself",
            sentence=f"{cell.name} has its own charger behind its own port; {charger.name} on its output would fight its converter.",
            ways=lambda: [Remedy(label="Charge it by its own port", patch=[replace("/charger", None)])],
        )
    elif data.charge_v is None and charger.method == "cc-cv":
        yield Found(
            code="wrong-charger",
            severity="stop",
            step="charge",
            where="/charger",
            title=f"{charger.name} is not for this cell",
            sentence=(
                f"{cell.name} is {data.name}: it must not be held at a constant voltage as lithium cells are. It wants a charger of "
                "its own kind, which ends at a fall of the voltage or a rise of the temperature."
            ),
            ways=lambda: [
                *instead(bench, fitting(bench)),
                Remedy(label="Charge it outside the gadget", patch=[replace("/charger", None)]),
            ],
        )
    elif (wanted := full_v(cell)) is not None and charger.method == "cc-cv":
        yield from _wrong_voltage(bench, wanted, highest_v(cell) or wanted)


def _wrong_voltage(bench: TrialBench, charge_v: float, most_v: float) -> Iterator[Found]:
    """Of the whole pack: the charger holds its float voltage whatever is behind it."""
    charger, battery = bench.design.charger, bench.design.battery
    assert charger is not None
    full = charge_v * battery.series
    cells = f"{battery.series} in series are full at" if battery.series > 1 else "is full at"
    right = Remedy(
        label=f"A charger for {battery.series} in series, {show(full, 'V')}" if battery.series > 1 else f"A charger for {show(full, 'V')}",
        patch=[replace("/charger/cells_in_series", battery.series), replace("/charger/float_v_per_cell", charge_v)],
    )  # fmt: skip
    name = CHEMISTRIES[battery.cell.chemistry].name
    if charger.float_v > most_v * battery.series * (1 + NOMINAL_TOLERANCE):
        yield Found(
            code="float-voltage",
            severity="stop",
            step="charge",
            where="/charger/cells_in_series"
            if charger.cells_in_series != battery.series
            else "/charger/float_v_per_cell",
            title="The charger goes on for too long",
            facts={"float_voltage": (charger.float_v, "V"), "full_voltage": (full, "V")},
            sentence=(
                f"{charger.name} fills up to {show(charger.float_v, 'V')}, and {battery.cell.name} ({name}) "
                f"{cells} {show(full, 'V')}. "
                + (
                    "Held above that it ages fast, swells and vents."
                    if battery.cell.chemistry == "super-capacitor"
                    else "Overcharged cells catch fire."
                )
            ),
            ways=lambda: [right],
        )
    elif charger.cells_in_series != battery.series:
        yield Found(
            code="charger-for-another-pack",
            severity="stop",
            step="charge",
            where="/charger/cells_in_series",
            title="The charger is made for another pack",
            facts={"float_voltage": (charger.float_v, "V"), "full_voltage": (full, "V")},
            sentence=(
                f"{charger.name} is made for {_cells(charger.cells_in_series)} and holds {show(charger.float_v, 'V')}; the pack has "
                f"{_cells(battery.series)} and is full at {show(full, 'V')}. It never gets full, and nothing balances its cells."
            ),
            ways=lambda: [right],
        )
    elif bench.charge is not None and bench.charge.never == "voltage":
        yield Found(
            code="float-too-low",
            severity="fix",
            step="charge",
            where="/charger/float_v_per_cell",
            title="The charger stops far too early",
            facts={
                "float_voltage": (charger.float_v, "V"),
                "full_voltage": (full, "V"),
                "reached": (bench.charge.full_share, "share"),
            },
            sentence=(
                f"{charger.name} holds {show(charger.float_v, 'V')}, and {battery.cell.name} ({name}) {cells} {show(full, 'V')}: "
                f"it stays at {show(bench.charge.full_share, 'share')}."
            ),
            ways=lambda: [right],
        )


def _cells(count: int) -> str:
    return "one cell" if count == 1 else f"{count} cells in series"


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
    hurt = (
        "Charging below 0 °C plates lithium and ruins the cell"
        if lithium
        else f"It is not made to be charged below {show(least, '°C')}"
    )
    where = "Its panel charges it where it is," if sun else "It is charged"
    advice = "use a charger with a temperature sensor" + ("." if sun else ", or charge it indoors.")
    yield Found(
        code="charge-temperature",
        severity="watch" if stops else "fix",
        step="charge",
        where="/charger/temperature_sensor" if sun else "/brief/charged",
        title="It stops charging where it is too cold or too hot"
        if stops
        else "It is charged where it is too cold or too hot",
        facts={"coldest": (coldest, "°C"), "hottest": (hottest, "°C")},
        sentence=(
            f"{where} from {show(coldest, '°C')} to {show(hottest, '°C')}. "
            + (
                f"Its sensor stops the charge below {show(least, '°C')} and above {show(most, '°C')}: there it does not get full."
                if stops
                else f"{hurt}, above {show(most, '°C')} it ages and endangers it: {advice}"
            )
        ),
        ways=lambda: [
            *([] if sun else [Remedy(label="Charge it indoors", patch=[replace("/brief/charged", "indoors")])]),
            *(
                []
                if stops
                else [
                    Remedy(
                        label="A sensor on the cell that stops it", patch=[replace("/charger/temperature_sensor", True)]
                    )
                ]
            ),
        ],
    )
