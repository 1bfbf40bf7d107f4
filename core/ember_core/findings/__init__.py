"""The traps that the tool catches by itself. One module per step of the job, one function per trap."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from ..context import Context
from ..figures import SEVERITIES, Finding
from . import awake, bank, battery, charging, draw, feeds, fit, newer, peaks, sleep, supply

Check = Callable[[Context], Iterator[Finding]]

CHECKS: tuple[Check, ...] = (
    draw.capacity_against_current,
    draw.passengers,
    draw.board_with_passengers,
    draw.indicator_lamps,
    sleep.cannot_be_switched_off,
    draw.old_style_lamps,
    draw.display_lever,
    peaks.plugged_in_surge,
    sleep.cannot_wake,
    sleep.pull_resistors,
    supply.overvoltage,
    supply.above_its_range,
    supply.dropout,
    supply.converted_twice,
    feeds.boost_without_disconnect,
    feeds.rail_without_source,
    sleep.soft_switch,
    sleep.divider_drain,
    feeds.divider_pins,
    peaks.sagging_rail,
    supply.hot_stages,
    supply.will_not_start,
    supply.modes_that_fail,
    battery.current_too_high,
    battery.peak_strands_charge,
    battery.bench_supply,
    bank.printed_at_cell_voltage,
    bank.bank_switches_off,
    bank.salvaged,
    bank.capacity_lost,
    battery.shelf_life,
    charging.current_too_high,
    charging.never_ends,
    charging.must_not_be_charged,
    charging.wrong_charger,
    battery.sleepy_cell,
    charging.too_cold_or_hot,
    awake.seconds_awake,
    awake.short_interval,
    awake.boot_or_sleep,
    awake.accidents,
    awake.unsaved,
    awake.restart_loop,
    fit.process_clearance,
    fit.pouch_swelling,
    fit.gaps,
    fit.outer_size,
    newer.newer_figures,
)


def find(context: Context) -> list[Finding]:
    """All findings of a design, the gravest first, otherwise in the order of the checks."""
    found = [finding for check in CHECKS for finding in check(context)]
    return sorted(found, key=lambda f: SEVERITIES.index(f.severity))
