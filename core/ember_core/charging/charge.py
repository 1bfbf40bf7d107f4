"""Refilling the battery, step after step: a gentle start, constant current, constant voltage; or a nickel charger's constant current.

The charger's current is the least of what is set, what the port has left beside the gadget, what its own temperature lets through (a
linear charger burns (Vport - Vcell) I and folds its current back to hold its junction), and from its float voltage on what the
pack still takes, (Vfloat - OCV(z) - slow part) / R: G. Plett, *Battery Management Systems* vol. 1 (2015), ch. 2, with the
resistances of `battery.pack`. The state of charge goes in fixed steps, the time follows; the slow part of the resistance and the air
in the case follow with their own time constants, so that heat and foldback are those of the moment.
"""

from __future__ import annotations

import math
from bisect import bisect_right
from dataclasses import dataclass
from statistics import median
from typing import Literal

import numpy as np

from ..battery.chemistry import CHEMISTRIES, arrhenius, full_v
from ..battery.pack import MEASURED_RESISTANCE, RESISTANCE, Pack, pack_at
from ..design import Battery, Charger, Chemistry
from ..numeric import Array
from ..quantities.preferred import next_e24
from ..thermal.shell import Shell

STEPS = 1 - (1 - np.linspace(0.0, 1.0, 61)) ** 1.7  # states of charge, denser where it tapers
CHARGING_C = (0.0, 45.0)  # between these a lithium cell may be charged
INDOORS_C = (10.0, 30.0)
FULL_ENOUGH = 0.7  # charged to less than this, the charger took the pack for full far too early
FAR_BELOW = 0.9  # of the float voltage that the pack is made for: a charger for another pack
TYPICAL_SLOW = {
    "power": 0.3,
    "energy": 1.2,
}  # slow resistance of lithium-ion cells that nobody measured, times the fast one (docs/VALIDATION.md)
SLOW_KNOWN = (
    0.3,
    0.8,
)  # states of charge: above, a discharge has not run for long enough to tell the slow part; below, it is what stays inside
MOST_SLOW = 1.5  # times its median between these: more is a step of the curve
RELAXES_S = 900.0  # of lithium-ion cells that nobody measured, however they are built
FELT_SOONER = 0.4  # of the relaxation's time: what tapers is felt by its faster terms (both from docs/VALIDATION.md)
NICKEL_TAKES = (
    (0.0, 0.95),
    (0.8, 0.95),
    (1.0, 0.7),
)  # (state of charge, share of the current that is stored) at half the capacity an hour and above; the rest is heat
NICKEL_SLOW = (
    (0.1, 0.73),
    (0.5, 1.0),
)  # (C-rate, factor on that): slowly charged it takes 1.4 to 1.6 times its capacity
RECEIVER_EFFICIENCY = 0.75  # of a wireless receiver, the rest is heat in the case; a rule of thumb
ADAPTER_EFFICIENCY = 0.8  # from the wall to the port; a rule of thumb
FELT_BY_THEN = 0.99  # of a gentle current, after hours of it
MOST = 0.8  # of a full charge: what it is told by when most of it is in
TAPERS_BY = 0.6  # of what the temperature does to resistances, as a power: so much shows in a taper (docs/VALIDATION.md, seven sets at 10 and 40 degC)
CURRENT_SPREAD = 0.10  # resistor, reference and port together
NEWTON, LEAST_OHM = 12, 1e-6
MOST_DAYS = 60.0  # a charge that takes longer is none

LITHIUM = frozenset[Chemistry](("lithium-ion", "lithium-iron-phosphate"))
Limit = Literal["set", "port", "fold-back", "gentle", "voltage"]
Never = Literal["", "load", "port", "voltage", "early", "timer"]


@dataclass(frozen=True)
class Meanwhile:
    """What the gadget does while it charges. Currents in A, power in W.

    `cell_a` is drawn from the cell (nothing with a power path), `port_a` from the port beside the charger on average,
    `port_peak_a` at its worst; `port_limit_a` is what the port gives in all. `heat_w` burns in the case besides the
    charger, `ambient_c` is around it; `before_w` burnt in it before it was plugged in.
    """

    cell_a: float
    port_a: float
    port_peak_a: float
    port_limit_a: float
    heat_w: float
    ambient_c: float
    before_w: float = 0.0


@dataclass(frozen=True)
class Course:
    """A charge over time, arrays of shape (steps,): s, state of charge 0..1, A out of the charger, V at the pack, degC, W."""

    time_s: Array
    charge: Array
    current_a: Array
    voltage_v: Array
    inside_c: Array
    junction_c: Array
    heat_w: Array


@dataclass(frozen=True)
class Charge:
    """A charge. Times in s, currents in A, power in W, temperatures in degC, energy in W h.

    `current_a` is what the charger gives at the start of the constant current, `limit` what decides it. `peak_heat_w` is
    the charger's heat at the worst, `heat_w` its mean at constant current. `seconds` is None where it never gets
    full; `never` says why: the load on the cell, a port with nothing left, a float voltage below what the pack needs, a
    pack whose resistance lets the current fall to the termination far too early, or a timer that gives up before. `hottest_c` is
    the air inside and `junction_c` the charger's junction at their worst.
    """

    set_a: float
    current_a: float
    limit: Limit
    gentle_a: float
    gentle_ohm: float
    highest_a: float
    c_rate: float
    termination_a: float
    load_a: float
    port_left_a: float
    constant_current_s: float
    most_s: float | None
    seconds: float | None
    never: Never
    full_share: float
    peak_heat_w: float
    heat_w: float
    case_heat_w: float
    junction_c: float
    hottest_c: float
    wall_wh: float
    capacity_ah: float
    course: Course


def gentle_current(battery: Battery) -> float:
    """The charge current to plan for the pack [A]: half its capacity per hour, or the datasheet's limit if lower.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.design import Battery
    >>> battery = Battery(cell=built_in().by_key["cell-cyl-18650"].cell, series=1)
    >>> round(gentle_current(battery), 2)
    1.3
    """
    cell = battery.cell
    gentle = CHEMISTRIES[cell.chemistry].charge_rate * cell.capacity_ah
    return battery.parallel * (gentle if cell.charge_max_a is None else min(gentle, cell.charge_max_a))


def highest_current(battery: Battery) -> float:
    """The most charge current for the pack [A]: the datasheet's limit, or the whole capacity per hour.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.design import Battery
    >>> battery = Battery(cell=built_in().by_key["cell-cyl-18650"].cell, series=1)
    >>> round(highest_current(battery), 2)
    1.3
    """
    cell = battery.cell
    usual = CHEMISTRIES[cell.chemistry].charge_rate_max * cell.capacity_ah
    return battery.parallel * (usual if cell.charge_max_a is None else cell.charge_max_a)


def resistance_span(battery: Battery, temperature_c: float) -> tuple[float, float]:
    """The factors on its resistance that one pack in ten is below, and one above: between makes 1.4, measured 1.1; away from 25 degC makes differ in what the temperature
    does to it from nothing to twice as much.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.design import Battery
    >>> battery = Battery(cell=built_in().by_key["cell-cyl-18650"].cell, series=1)
    >>> [round(factor, 2) for factor in resistance_span(battery, 25.0)]
    [0.71, 1.4]
    """
    measured = battery.cell.curve is not None or battery.cell.measured_ohm is not None
    makes = math.log(MEASURED_RESISTANCE if measured else RESISTANCE)
    most = math.exp(math.hypot(makes, math.log(arrhenius(battery.cell.chemistry, temperature_c))))
    return 1 / most, most


def charge(
    charger: Charger,
    battery: Battery,
    shell: Shell,
    meanwhile: Meanwhile,
    begins_at: float = 0.0,
    current_factor: float = 1.0,
    resistance_factor: float = 1.0,
) -> Charge:
    """The charge of a pack from a state of charge (0..1). `current_factor` is one on the current that is set, `resistance_factor` on all that
    the pack's voltage is above its open-circuit voltage by.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> warm = bench.warmth
    >>> found = charge(design.charger, design.battery, warm.charging_usual_shell, warm.meanwhile)
    >>> found.limit, found.never
    ('set', '')
    """
    celsius = min(max(meanwhile.ambient_c, CHARGING_C[0]), CHARGING_C[1])
    pack = pack_at(battery, celsius, STEPS[::-1])
    if battery.cell.chemistry in LITHIUM:
        resistance_factor *= arrhenius(battery.cell.chemistry, celsius) ** (TAPERS_BY - 1)
    left = max(min(charger.source_a, meanwhile.port_limit_a - meanwhile.port_a), 0.0)
    unmeasured = battery.cell.curve is None and battery.cell.chemistry == "lithium-ion"
    typical_slow = TYPICAL_SLOW[battery.cell.built_for] if unmeasured else None
    walk = _Walk(charger, pack, shell, meanwhile, left, current_factor, resistance_factor, typical_slow=typical_slow)
    walk.run(begins_at)
    set_a, termination = charger.set_a, charger.termination_share * charger.set_a
    never = _voltage_too_low(charger, battery) or walk.never
    if not never and walk.charge[-1] < FULL_ENOUGH:
        never = "early"
    if not never and charger.timer_h is not None and walk.time[-1] > charger.timer_h * 3600:
        never = "timer"
    gentle = gentle_current(battery)
    course = walk.course()
    constant = walk.constant_s
    if constant is None:
        constant = course.time_s[walk.tapers] if walk.tapers < course.time_s.size else course.time_s[-1]
    main = slice(walk.begins, max(walk.tapers, walk.begins + 1))
    start, limit = float(course.current_a[walk.begins]), walk.limits[walk.begins]
    return Charge(
        set_a=set_a,
        current_a=start,
        limit=limit,
        gentle_a=gentle,
        gentle_ohm=next_e24(charger.program_constant_v / gentle) if gentle > 0 else 0.0,
        highest_a=highest_current(battery),
        c_rate=start / battery.parallel / battery.cell.capacity_ah,
        termination_a=termination,
        load_a=meanwhile.cell_a,
        port_left_a=left,
        constant_current_s=float(constant),
        most_s=float(np.interp(MOST, course.charge, course.time_s)) if course.charge[-1] >= MOST else None,
        seconds=None if never else float(course.time_s[-1]),
        never=never,
        full_share=float(course.charge[-1]),
        peak_heat_w=max(walk.charger_w),
        heat_w=float(np.mean(walk.charger_w[main])),
        case_heat_w=float(np.mean(course.heat_w[main])),
        junction_c=float(course.junction_c.max()),
        hottest_c=float(course.inside_c.max()),
        wall_wh=walk.port_wh() / ADAPTER_EFFICIENCY,
        capacity_ah=pack.capacity_ah,
        course=course,
    )


def _voltage_too_low(charger: Charger, battery: Battery) -> Never:
    wanted = full_v(battery.cell)
    too_low = charger.method == "cc-cv" and wanted is not None and charger.float_v < battery.series * wanted * FAR_BELOW
    return "voltage" if too_low else ""


def _foldback_a(watts: float, drop_v: float, ohm: float) -> float:
    """The current at which a linear charger burns so much: (drop - I R) I = watts, the smaller root; none where it never does."""
    if ohm <= 0:
        return watts / drop_v if drop_v > 0 else math.inf
    under_root = drop_v * drop_v - 4 * ohm * watts
    return (drop_v - math.sqrt(under_root)) / (2 * ohm) if drop_v > 0 and under_root > 0 else math.inf


class _Walk:
    """The steps of one charge, in plain numbers: some hundred of them are faster than arrays for each."""

    def __init__(
        self,
        charger: Charger,
        pack: Pack,
        shell: Shell,
        meanwhile: Meanwhile,
        left_a: float,
        current_factor: float,
        resistance_factor: float,
        *,
        typical_slow: float | None,
    ) -> None:
        self.charger, self.shell, self.meanwhile, self.left_a = charger, shell, meanwhile, left_a
        self.set_a = charger.set_a * current_factor
        self.capacity_as = pack.capacity_ah * 3600
        self.z: list[float] = STEPS.tolist()
        self.ends_a = charger.termination_share * charger.set_a
        self.ocv: list[float]
        self.fast: list[float]
        self.slow: list[float]
        self.ocv, self.fast, self.slow = (
            x[::-1].tolist() for x in (pack.open_circuit_v, pack.resistance_ohm, pack.polarization_ohm)
        )
        self.transfer: list[float] = pack.transfer_ohm[::-1].tolist()
        self.transfer_v = pack.transfer_v
        if typical_slow is not None:
            self.slow = [typical_slow * x for x in self.fast]
        else:  # a discharge begins before its slow part is there, and a charge ends with it; at the other end it is the other way round
            low, high = bisect_right(self.z, SLOW_KNOWN[0]), bisect_right(self.z, SLOW_KNOWN[1]) - 1
            full = min(self.slow[high], MOST_SLOW * median(self.slow[low : high + 1]))
            self.slow = [max(x, full) if i > high else x for i, x in enumerate(self.slow)]
            self.slow = [min(x, self.slow[low]) if i < low else x for i, x in enumerate(self.slow)]
        if resistance_factor != 1.0:
            self.fast, self.slow = ([resistance_factor * x for x in values] for values in (self.fast, self.slow))
        self._split_where_the_gentle_start_ends()
        if typical_slow is not None:
            self.tau = RELAXES_S * arrhenius("lithium-ion", min(max(meanwhile.ambient_c, CHARGING_C[0]), CHARGING_C[1]))
        else:
            self.tau = FELT_SOONER * float(pack.relaxation.time_s[0]) if pack.relaxation.time_s.size else 1.0
        self.watts: list[float]
        self.rises: list[float]
        self.watts, self.rises, self.walls = shell.power_w.tolist(), shell.inside_k.tolist(), shell.wall_k.tolist()
        self.nickel = charger.method != "cc-cv"
        rates, factors = zip(*NICKEL_SLOW, strict=True)
        self.takes = float(np.interp(min(self.set_a, left_a) * 3600 / self.capacity_as, rates, factors))
        self.float_v, self.linear = charger.float_v, charger.topology == "linear"
        self.lamp_w = charger.lamp_a * charger.port_v
        self.wireless = charger.port is not None and charger.port.kind == "wireless"
        self.time: list[float] = []
        self.charge: list[float] = []
        self.rows: list[tuple[float, float, float, float, float]] = []
        self.charger_w: list[float] = []
        self.limits: list[Limit] = []
        self.never: Never = ""
        self.port_w: list[float] = []
        self.constant_s: float | None = None  # at the end of the constant current, where it lies within a step
        self.begins = self.tapers = 0
        self.begun = self.tapering = False
        self.falls = 1.0  # of the current in the last step of a taper: a first guess for the next

    def _split_where_the_gentle_start_ends(self) -> None:
        """Puts steps there, as the current rises tenfold: for a slow part that is there by then, and for none."""
        threshold, gentle = self.charger.precharge_v_per_cell, self.set_a * self.charger.precharge_share
        if threshold is None:
            return
        ends_v = threshold * self.charger.cells_in_series * (1 + 1e-9)
        for felt in (FELT_BY_THEN * gentle, 0.0):
            volts = [o + s * felt + gentle * f for o, s, f in zip(self.ocv, self.slow, self.fast, strict=True)]
            k = next((i for i, v in enumerate(volts) if v >= ends_v), 0)
            if k > 0:
                part = (ends_v - volts[k - 1]) / (volts[k] - volts[k - 1])
                for values in (self.z, self.ocv, self.fast, self.slow, self.transfer):
                    values.insert(k, values[k - 1] + part * (values[k] - values[k - 1]))

    def run(self, begins_at: float) -> None:
        meanwhile = self.meanwhile
        k = min(max(bisect_right(self.z, begins_at) - 1, 0), len(self.z) - 2)
        z, now, felt = self.z[k], 0.0, 0.0
        watts = max(meanwhile.heat_w, meanwhile.before_w)
        wall, air = self._rise(watts, self.walls), self._rise(watts, self.rises)
        volts = self.ocv[k]
        while True:
            given, limit = self._given(volts, self.ocv[k] + self.slow[k] * felt, self.fast[k], air)
            net, volts, holds = self._at_float(k, given, felt)
            given = min(given, net + meanwhile.cell_a)
            heat_w = self._note(now, z, given, net, volts, "voltage" if holds else limit, air, k)
            stored = net * self._takes(z)
            if self._over(k, given, stored, holds=holds):
                break
            ahead = 0.0 if self.nickel else self.ocv[k + 1] + self._fast_v(k + 1, net) + self.slow[k + 1] * felt
            if holds or ahead > self.float_v:  # the current falls within the step
                if not holds and self.constant_s is None:
                    constant = (self.float_v - volts) / (ahead - volts)
                    self.constant_s = now + constant * self.capacity_as * (self.z[k + 1] - z) / net
                step, felt, last = self._taper(k, z, net, felt)
            else:
                step, last = self.capacity_as * (self.z[k + 1] - z) / stored, 1.0
                felt += (net - felt) * -math.expm1(-step / self.tau)
            wall += self._warmer(wall, heat_w, step)
            air = wall + self._rise(heat_w, self.rises) - self._rise(heat_w, self.walls)
            now += step
            z += (self.z[k + 1] - z) * last
            k += 1
            if last < 1.0:
                self._end(now, z)
                break
        if not self.tapering:
            self.tapers = len(self.time) - 1

    def _note(
        self, now: float, z: float, given: float, net: float, volts: float, limit: Limit, air: float, k: int
    ) -> float:
        """Writes a step down; what burns in the case in all [W]."""
        if limit == "voltage" and not self.tapering:
            self.tapering, self.tapers = True, len(self.time)
        if limit != "gentle" and not self.begun:
            self.begun, self.begins = True, len(self.time)
        charger_w, port_w, heat_w = self._heat(volts, given, net, k, z)
        inside = self.meanwhile.ambient_c + air
        self.time.append(now)
        self.charge.append(z)
        self.limits.append(limit)
        self.charger_w.append(charger_w)
        self.port_w.append(port_w)
        around = self.meanwhile.ambient_c if self.charger.outside else inside
        self.rows.append((given, volts, inside, around + self.charger.rth_ja_c_per_w * charger_w, heat_w))
        return heat_w

    def _over(self, k: int, given: float, stored: float, *, holds: bool) -> bool:
        """Whether the charge is at its end, or never gets there."""
        if stored <= 1e-9 or (self.begun and not holds and given <= self.ends_a and not self.nickel):
            self.never = "port" if given <= self.ends_a else "load"
            return True
        if holds and given <= self.ends_a * (1 + 1e-9):
            return True
        if holds and self.meanwhile.cell_a >= self.ends_a:
            self.never = "load"
        if k + 1 >= len(self.z):
            return True
        if self.time[-1] > MOST_DAYS * 86400:
            self.never = "port" if given < self.ends_a * 1.01 else "load"
            return True
        return self.never == "load" and self.charge[-1] > 0.995

    def _given(self, volts: float, unloaded: float, ohm: float, air: float) -> tuple[float, Limit]:
        """(what the charger would give [A], what decides it), at the pack's voltage with and without the charge current [V]."""
        charger = self.charger
        given, limit = self.set_a, "set"
        gentle = given * charger.precharge_share
        threshold = charger.precharge_v_per_cell
        if threshold is not None and unloaded + gentle * ohm < threshold * charger.cells_in_series:
            given, limit = gentle, "gentle"
        left = self.left_a
        if not self.linear:
            left *= charger.efficiency * charger.port_v / max(volts, 0.1)
        if left < given:
            given, limit = left, "port"
        if self.linear and charger.foldback_c is not None:
            room = charger.foldback_c - self.meanwhile.ambient_c - (0.0 if charger.outside else air)
            most = _foldback_a(max(room, 0.0) / charger.rth_ja_c_per_w, charger.port_v - unloaded, ohm)
            if most < given:
                given, limit = most, "fold-back"
        return given, limit  # type: ignore[return-value]

    def _at_float(self, k: int, given: float, felt: float) -> tuple[float, float, bool]:
        """(into the pack [A], voltage at the pack [V], whether the float voltage decides)."""
        net = given - self.meanwhile.cell_a
        slow = self.slow[k] * felt
        volts = self.ocv[k] + self._fast_v(k, net) + slow
        if self.nickel or volts <= self.float_v:
            return net, volts, False
        return min(self._fast_a(k, self.float_v - self.ocv[k] - slow), net), self.float_v, True

    def _fast_v(self, k: int, amps: float) -> float:
        """What is there at once of a current [V]: the charge transfer rises less than in proportion."""
        return self._fast(k, amps)[0] if self.transfer_v else amps * self.fast[k]

    def _fast(self, k: int, amps: float) -> tuple[float, float]:
        """(that [V], what one ampere more adds to it [ohm])."""
        transfer, twice = self.transfer[k], 2 * self.transfer_v
        if not twice:
            return amps * self.fast[k], self.fast[k]
        rest, inner = self.fast[k] - transfer, amps * transfer / twice
        return amps * rest + twice * math.asinh(inner), rest + transfer / math.sqrt(1 + inner * inner)

    def _fast_a(self, k: int, volts: float) -> float:
        """The current that has so much there at once [A]; none below 0 V."""
        amps = max(volts, 0.0) / max(self.fast[k], LEAST_OHM)
        if not self.transfer_v or volts <= 0:
            return amps
        for _ in range(NEWTON):  # rises ever less steeply: from below, each step stays below
            there, ohm = self._fast(k, amps)
            step = (volts - there) / max(ohm, LEAST_OHM)
            amps += step
            if abs(step) < 1e-7 * amps:
                break
        return amps

    def _taper(self, k: int, z: float, net: float, felt: float) -> tuple[float, float, float]:
        """A step at the float voltage: (how long [s], what the slow part feels then [A], how much of it is left until the current has
        fallen to the end, 0..1). The current at its end follows from what the slow part feels by then, and that from the current: by
        Newton's method on the voltage there."""
        whole = self.capacity_as * (self.z[k + 1] - z)
        room, slow, tau = self.float_v - self.ocv[k + 1], self.slow[k + 1], self.tau
        step, after, following = whole / net, felt, net * self.falls
        for _ in range(NEWTON):
            mean = max((net + following) / 2, 1e-9)
            step = whole / mean
            fades = math.exp(-step / tau)
            after = mean + (felt - mean) * fades
            fast_v, ohm = self._fast(k + 1, following)
            ohm += slow / 2 * (1 - fades + (felt - mean) * fades * step / (tau * mean))
            now = min(max(following - (fast_v + slow * after - room) / max(ohm, LEAST_OHM), 0.0), net)
            if abs(now - following) < 1e-4 * net:
                break
            following = now
        self.falls = following / net
        ends_a = self.ends_a - self.meanwhile.cell_a
        if following >= ends_a or net <= ends_a or self.never:
            return step, after, 1.0
        part = (net - ends_a) / (net - following)
        mean = (net + ends_a) / 2
        return whole * part / max(mean, 1e-9), after, part

    def _end(self, now: float, z: float) -> None:
        _, volts, inside, junction, heat = self.rows[-1]
        self.time.append(now)
        self.charge.append(z)
        self.limits.append("voltage")
        self.charger_w.append(self.charger_w[-1])
        self.port_w.append(self.port_w[-1] * self.ends_a / max(self.rows[-1][0], self.ends_a))
        self.rows.append((self.ends_a, volts, inside, junction, heat))

    def _heat(self, volts: float, given: float, net: float, k: int, z: float) -> tuple[float, float, float]:
        """(in the charger, out of the port, in the case in all) [W]."""
        port_v, meanwhile = self.charger.port_v, self.meanwhile
        if self.linear:
            own, port_w = max(port_v - volts, 0.0) * given, port_v * given
        else:
            port_w = volts * given / self.charger.efficiency
            own = port_w - volts * given
        cell = net * (self._fast_v(k, net) + net * self.slow[k])
        if self.nickel:
            cell += volts * net * (1 - self._takes(z))
        port_w += self.lamp_w + meanwhile.port_a * port_v
        received = port_w * (1 / RECEIVER_EFFICIENCY - 1) if self.wireless else 0.0
        stays = 0.0 if self.charger.outside else own + self.lamp_w + received
        return own, port_w + received, stays + cell + meanwhile.heat_w

    def _takes(self, z: float) -> float:
        if not self.nickel:
            return 1.0
        (_, most), (from_, _), (full, least) = NICKEL_TAKES
        return self.takes * (most if z <= from_ else most + (least - most) * (z - from_) / (full - from_))

    def _rise(self, watts: float, rises: list[float]) -> float:
        """A steady rise of the case [K]: of the air inside, or of its walls."""
        scale = self.watts
        k = min(max(bisect_right(scale, watts) - 1, 0), len(scale) - 2)
        span = scale[k + 1] - scale[k]
        part = (watts - scale[k]) / span if span > 0 else 1.0
        return min(rises[k] + part * (rises[k + 1] - rises[k]), 150.0)

    def _warmer(self, wall: float, watts: float, step: float) -> float:
        """By how much the walls get warmer in a step [K]: on the way to their steady rise with the time constant of the case; the air follows
        what burns at once."""
        steady = self._rise(watts, self.walls)
        settles_s = self.shell.capacity_j_per_k * (steady - self.walls[0]) / max(watts, 1e-3)
        return (steady - wall) * -math.expm1(-step / max(settles_s, 1.0))

    def port_wh(self) -> float:
        """The energy out of the port [W h]: between two steps their mean power, in the gentle start that at the step's begin."""
        watts = np.array(self.port_w)
        gentle = np.array([x == "gentle" for x in self.limits[:-1]], dtype=bool)
        means = np.where(gentle, watts[:-1], (watts[:-1] + watts[1:]) / 2)
        return float(means @ np.diff(self.time)) / 3600

    def course(self) -> Course:
        given, volts, inside, junction, heat = np.array(self.rows).T
        return Course(np.array(self.time), np.array(self.charge), given, volts, inside, junction, heat)
