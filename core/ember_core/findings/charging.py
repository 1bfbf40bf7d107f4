"""Traps of charging."""

from __future__ import annotations

from collections.abc import Iterator

from ..chemistry import CHEMISTRIES
from ..context import Context
from ..figures import Finding, Remedy
from ..quantities import show
from ..remedies import replace

COLDEST_CHARGE_C = 0.0
HOTTEST_CHARGE_C = 45.0


def current_too_high(context: Context) -> Iterator[Finding]:
    """T22: the charger is set to more than the cell may take."""
    charger, result, battery = context.design.charger, context.charge, context.design.battery
    if charger is None or result is None:
        return
    cell = battery.cell
    dangerous = result.set_a > result.highest_a * 1.001
    unknown = cell.charge_max_a is None and result.set_a > result.gentle_a * 1.001
    if not dangerous and not unknown:
        return
    rate = result.set_a / battery.parallel / cell.capacity_ah
    allowed = "its datasheet allows" if cell.charge_max_a is not None else "is the most without a datasheet figure"
    yield Finding(
        code="T22-charge-current",
        severity="stop" if dangerous else "watch",
        step="battery",
        where="/charger/programming_ohm",
        title="The charge current is dangerous for this cell"
        if dangerous
        else "The charge current is on the high side",
        sentence=(
            f"{charger.name} is set to {show(result.set_a, 'A')} by {show(charger.programming_ohm, 'Ω')}: {rate:.2g} C "
            f"on a cell of {show(cell.capacity_ah, 'Ah')}, where {show(result.highest_a, 'A')} {allowed}. "
            f"{show(result.gentle_ohm, 'Ω')} gives {show(charger.programming_v / result.gentle_ohm, 'A')}, half its "
            "capacity per hour."
            + (" Overcharged lithium cells catch fire: change it before the first charge." if dangerous else "")
        ),
        remedy=Remedy(
            label=f"Set the resistor to {show(result.gentle_ohm, 'Ω')}",
            patch=[replace("/charger/programming_ohm", result.gentle_ohm)],
        ),
    )


def never_ends(context: Context) -> Iterator[Finding]:
    """T23: the gadget draws more than the termination current from the cell meanwhile."""
    charger, result = context.design.charger, context.charge
    if charger is None or result is None or result.seconds is not None:
        return
    yield Finding(
        code="T23-never-full",
        severity="fix",
        step="battery",
        where="/charger/power_path",
        title="The charge never ends",
        sentence=(
            f"While charging the gadget draws {show(result.load_a, 'A')} from the cell, and the charger ends at "
            f"{show(result.termination_a, 'A')}: it stays at the float voltage for ever. A power path feeds the gadget "
            "from the port."
        ),
        remedy=Remedy(label="Use a charger with a power path", patch=[replace("/charger/power_path", True)]),
    )


def must_not_be_charged(context: Context) -> Iterator[Finding]:
    """T24: a charger on primary cells."""
    cell = context.design.battery.cell
    if context.design.charger is None or CHEMISTRIES[cell.chemistry].rechargeable:
        return
    yield Finding(
        code="T24-primary-cell",
        severity="stop",
        step="battery",
        where="/charger",
        title="Primary cells must never be charged",
        sentence=f"{cell.name} is a primary cell; charged, it leaks or bursts. The charger has to go.",
        remedy=Remedy(label="Remove the charger", patch=[replace("/charger", None)]),
    )


def wrong_charger(context: Context) -> Iterator[Finding]:
    """T24: a charger that holds a voltage which the cell does not stand."""
    charger, cell = context.design.charger, context.design.battery.cell
    data = CHEMISTRIES[cell.chemistry]
    if charger is None or not data.rechargeable:
        return
    if cell.bank is not None:
        yield Finding(
            code="T24-wrong-charger",
            severity="stop",
            step="battery",
            where="/charger",
            title="A power bank charges itself",
            sentence=f"{cell.name} has its own charger behind its own port; {charger.name} on its output would fight its converter.",
            remedy=Remedy(label="Charge it by its own port", patch=[replace("/charger", None)]),
        )
    elif data.charge_v is None:
        yield Finding(
            code="T24-wrong-charger",
            severity="stop",
            step="battery",
            where="/charger",
            title=f"{charger.name} is not for this cell",
            sentence=(
                f"{cell.name} is {data.name}: it must not be held at a constant voltage as lithium cells are. It wants a charger of "
                "its own kind, which ends at a fall of the voltage or a rise of the temperature."
            ),
            remedy=Remedy(label="Charge it outside the gadget", patch=[replace("/charger", None)]),
        )
    elif charger.float_v > data.charge_v * 1.005:
        yield Finding(
            code="T24-float-voltage",
            severity="stop",
            step="battery",
            where="/charger/float_v",
            title="The charger goes on for too long",
            sentence=(
                f"{charger.name} fills up to {show(charger.float_v, 'V')}, and {cell.name} ({data.name}) is full at "
                f"{show(data.charge_v, 'V')}. Overcharged cells catch fire."
            ),
            remedy=Remedy(
                label=f"A charger for {show(data.charge_v, 'V')}", patch=[replace("/charger/float_v", data.charge_v)]
            ),
        )


def too_cold_or_hot(context: Context) -> Iterator[Finding]:
    """T24: charging outside the cell's window."""
    brief = context.design.brief
    if context.design.charger is None or not CHEMISTRIES[context.design.battery.cell.chemistry].rechargeable:
        return
    if brief.coldest_c >= COLDEST_CHARGE_C and brief.hottest_c <= HOTTEST_CHARGE_C:
        return
    yield Finding(
        code="T24-charge-temperature",
        severity="watch",
        step="battery",
        where="/brief/coldest_c",
        title="Charge it indoors",
        sentence=(
            f"The brief goes from {brief.coldest_c:g} °C to {brief.hottest_c:g} °C. Charging below 0 °C plates lithium "
            "and ruins the cell, above 45 °C it ages and endangers it: use a charger with a temperature sensor, or "
            "charge between the two."
        ),
    )
