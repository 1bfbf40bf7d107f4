"""The traps that the tool catches by itself: a folder per step of the job, a module per matter, a function per trap. What belongs to several steps
stands beside the folders."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator

from ..figures import SEVERITIES, Fact, Finding
from ..measures.bench import TrialBench
from . import left_out, newer, ratings
from .battery import bank, cells, cold, pack, protection
from .charge import charger, heat, refill, sun, windows
from .draw import parts, sleep
from .fit import boards, bodies, case, holding, inside, labels, posts, webs
from .found import Found
from .runtime import awake
from .supply import feeds, peaks, stages, wires

Check = Callable[[TrialBench], Iterator[Found]]

CHECKS: tuple[Check, ...] = (
    parts.capacity_against_current,
    parts.parasitic_loads,
    parts.board_with_parasitic_loads,
    parts.indicator_leds,
    sleep.cannot_be_switched_off,
    sleep.stage_at_rest,
    parts.low_efficacy_leds,
    parts.display_is_large,
    peaks.plugged_in_surge,
    sleep.cannot_wake,
    sleep.pull_resistors,
    stages.overvoltage,
    windows.stage_above_its_input,
    stages.above_its_range,
    stages.dropout,
    stages.cascaded_conversion,
    stages.own_regulator,
    *wires.WIRES,
    stages.overload,
    feeds.boost_without_disconnect,
    feeds.rail_without_source,
    feeds.feeds_nothing,
    sleep.soft_switch,
    sleep.divider_drain,
    feeds.divider_pins,
    peaks.sagging_rail,
    peaks.visible_droop,
    peaks.stalled_motor,
    ratings.capacitor_rating,
    ratings.current_rating,
    ratings.flyback,
    ratings.charged_backwards,
    stages.hot_stages,
    stages.will_not_start,
    stages.modes_that_fail,
    pack.current_too_high,
    pack.peak_strands_charge,
    pack.bench_supply,
    bank.rated_at_cell_voltage,
    bank.bank_switches_off,
    bank.salvaged,
    bank.capacity_lost,
    pack.mode_goals,
    pack.shelf_life,
    charger.current_too_high,
    charger.never_ends,
    charger.takes_too_long,
    charger.port_overload,
    charger.must_not_be_charged,
    charger.wrong_charger,
    charger.too_cold_or_hot,
    refill.of_the_wrong_kind,
    refill.for_another_number_of_nickel_cells,
    refill.slow_end_of_nickel,
    refill.float_tolerance,
    refill.resistor_out_of_range,
    refill.too_little_port_voltage,
    refill.timer_trips,
    refill.no_gentle_start,
    refill.timer_overcharges,
    windows.charger_above_its_input,
    refill.no_resistors,
    refill.bank_ends_the_charge,
    refill.leaks_when_unplugged,
    refill.led_from_the_cell,
    refill.not_balanced,
    refill.cut_while_charging,
    sun.too_little_sun,
    sun.dark_days,
    sun.panel_too_strong,
    protection.none_at_all,
    protection.trips_on_the_peak,
    protection.wants_a_charger,
    protection.cuts_below_the_cell,
    protection.cuts_too_early,
    protection.emptied_too_far,
    protection.trips_too_late,
    protection.fuse_never_blows,
    protection.strings_without_diodes,
    protection.joined_at_different_voltages,
    cells.holds_too_much,
    cells.named_otherwise,
    cells.colder_than_it_works,
    cold.fails_in_the_cold,
    protection.wrong_way_round,
    pack.sleepy_cell,
    pack.beyond_what_was_measured,
    pack.kept_full_in_the_warm,
    pack.loses_more_than_it_gives,
    heat.too_warm_in_use,
    heat.too_warm_to_charge,
    heat.folds_back,
    heat.too_hot_to_touch,
    heat.part_too_hot,
    heat.warm_neighbour,
    heat.wall_spot,
    heat.vents_let_water_in,
    awake.seconds_awake,
    awake.short_interval,
    awake.boot_or_sleep,
    awake.accidents,
    awake.unsaved,
    awake.restart_loop,
    bodies.process_clearance,
    bodies.pouch_swelling,
    bodies.gaps,
    bodies.copies_of_a_part,
    bodies.no_way_through,
    case.blocked,
    inside.outside,
    inside.closed_in,
    inside.open_case,
    inside.off_its_board,
    inside.short_of_its_wall,
    case.bezel,
    case.no_inside,
    case.thin_walls,
    case.thin_in_its_file,
    case.radio_shielded,
    charger.coil_shielded,
    case.wide_gap,
    ratings.snap_strain,
    ratings.coin_in_reach,
    ratings.left_in_the_heat,
    case.seal_squeeze,
    case.unsealed,
    webs.thin_webs,
    boards.loose_board,
    boards.post_off_hole,
    boards.back_to_back,
    boards.spare_blocks,
    holding.nothing_holds,
    holding.loose_lid,
    holding.no_groove,
    holding.gives_way,
    holding.thin_posts,
    labels.labels,
    posts.posts_apart,
    posts.posts_in_one_another,
    posts.heads_through_the_lid,
    posts.snaps_not_made,
    posts.vents_not_made,
    holding.sharp_near_pouch,
    bodies.outer_size,
    bodies.openings,
    newer.newer_figures,
    left_out.no_socket,
    left_out.no_holder,
    left_out.no_antenna,
)

CHECKS_BUT_OF_FIT = tuple(check for check in CHECKS if not check.__module__.startswith(f"{__name__}.fit."))

__all__ = ["CHECKS", "CHECKS_BUT_OF_FIT", "Found", "find", "named"]


def find(bench: TrialBench, checks: tuple[Check, ...] = CHECKS) -> list[Found]:
    """All findings of a design, the gravest first, otherwise in the order of the checks."""
    found = [finding for check in checks for finding in check(bench)]
    return sorted(found, key=lambda f: SEVERITIES.index(f.severity))


def named(found: list[Found]) -> list[Finding]:
    """The findings as results, each with a key of its own."""
    counts: Counter[str] = Counter()
    rows = []
    for one in found:
        key = f"{one.code}:{one.where}"
        counts[key] += 1
        rows.append(
            Finding(
                key=key if counts[key] == 1 else f"{key}:{counts[key]}",
                code=one.code,
                severity=one.severity,
                step=one.step,
                where=one.where,
                title=one.title,
                sentence=one.sentence,
                facts=[Fact(name=name, value=float(value), unit=unit) for name, (value, unit) in one.figures.items()],
                has_ways=one.ways is not None,
            )
        )
    return rows
