"""A cell's own curves from one to three measured discharges.

Two discharges at different currents give the open-circuit voltage and a resistance over the charge taken, the
resistance as seen by a steady current (ohmic, charge transfer and diffusion together). Along most of the discharge they
follow from the voltages at the same charge. Towards the end, where only the gentler discharge still runs, they follow
from the charge at which each reaches the cut-off: what stays inside grows nearly in proportion to the current, which holds up
to a few times the larger current (G. Plett, *Battery Management Systems* vol. 1 (2015), ch. 2, for the voltage;
validated in docs/VALIDATION.md against physics-based models). Discharges that did not begin at the same charge are moved to each
other before.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ..design import CellCurve, Chemistry
from ..numeric import Array
from .chemistry import resistance_factor, spared_v, thermal_v

GRID = 101
EARLY_S = (0.5, 12.0)  # between these the fast part has settled and the slow one has hardly begun
USUAL_FAST = 0.6  # of the steady resistance is there within seconds, where nobody measured it; a rule of thumb
TRUSTED = 1.5  # times the largest measured current: a curve holds up to there (docs/VALIDATION.md)
LEAST_RATIO = 2.0  # of the two currents
SAME_REST_V = 0.005  # resting voltages that differ by less are the same
MIDDLE = (0.3, 0.7)  # of a discharge
MEASURED_C = 25.0
USUAL_UNAVAILABLE_H = 0.035  # of lithium-ion cells that began full (docs/VALIDATION.md)
MOST_MISSING = 0.15  # of the charge; what began later than that is another cell
MOST_UNAVAILABLE_H = 0.24  # real lithium cells leave 0.006 to 0.034 Ah inside per ampere at 1 C, thick electrodes 0.08 to 0.16; at more than 1 C in proportion


class CalibrationError(ValueError):
    """The discharges cannot be used together; the message says why."""


@dataclass(frozen=True)
class Discharge:
    """A discharge from full to the cut-off: time under load [s], voltage [V], mean current [A], and the current at each point [A]
    where a resistor or a constant power drew it; None: the same all along. `pause_ohm` is the resistance that its voltage jumped
    by where the load paused [ohm], `rest_v` the voltage at rest before it began [V], each None where nobody recorded it.
    `missing_ah` is the charge that was gone already when it began [A h]."""

    time_s: Array
    voltage_v: Array
    current_a: float
    amps_a: Array | None = None
    pause_ohm: float | None = None
    rest_v: float | None = None
    missing_ah: float = 0.0

    @property
    def current(self) -> Array:
        """The current at each point [A], shape (N,)."""
        return np.full(self.time_s.shape, self.current_a) if self.amps_a is None else self.amps_a

    @property
    def charge_ah(self) -> Array:
        """Charge taken at each point since the cell was full [A h]."""
        steps = np.diff(self.time_s) * (self.current[1:] + self.current[:-1]) / 2
        return self.missing_ah + np.concatenate([[0.0], np.cumsum(steps)]) / 3600

    @property
    def total_ah(self) -> float:
        return float(self.charge_ah[-1])


@dataclass(frozen=True)
class Calibration:
    """A cell's curve and capacity [A h] down to its cut-off without load, and how well it gives the discharges back.

    `worst_v` and `mean_v` are the differences in voltage over all discharges, `runtime_error` the largest relative
    error of their durations, `cut` the discharges down to the cut-off, the gentlest first.
    """

    curve: CellCurve
    capacity_ah: float
    worst_v: float
    mean_v: float
    runtime_error: float
    cut: tuple[Discharge, ...]

    @property
    def half_ohm(self) -> float:
        """Steady resistance at half charge [ohm]."""
        return float(np.interp(0.5, self.curve.soc, self.curve.resistance_ohm))


def calibrate(discharges: list[Discharge], cutoff_v: float, chemistry: Chemistry, resistance_ohm: float) -> Calibration:
    """The curves behind one to three discharges down to a cut-off [V].

    One discharge gives the open-circuit voltage only; the resistance is then the datasheet's [ohm] with the
    chemistry's usual course. A third one, at the largest current, tells by how much more of the charge is unavailable there
    than in proportion, as where the electrolyte runs short, and how much of the resistance is charge transfer, which drops less at
    large currents. Raises CalibrationError.

    >>> import numpy as np
    >>> taken = np.linspace(0, 2.6, 200)
    >>> discharges = [Discharge(taken / amps * 3600, 4.1 - 0.5 * taken - 0.08 * amps, amps) for amps in (0.2, 1.0)]
    >>> found = calibrate(discharges, 2.9, "lithium-ion", 0.05)
    >>> [round(found.curve.resistance_ohm[k], 3) for k in (5, 15)], round(found.capacity_ah, 2)
    ([0.08, 0.08], 2.4)
    """
    cut = [until_cutoff(d, cutoff_v) for d in sorted(discharges, key=lambda d: d.current_a)]
    if len(cut) == 1:
        capacity, charge, ocv, ohm = _from_one(cut[0], chemistry, resistance_ohm)
        fast, left_behind = None, 0.0
    else:
        _far_apart(cut[0], cut[1])
        cut = _from_one_start(cut, chemistry)
        capacity, charge, ocv, ohm = _from_two(cut[0], cut[1], cutoff_v)
        fast = _fast_ohm(cut[0], cut[1], ohm, charge)
        left_behind = (capacity - cut[0].total_ah) / cut[0].current_a
    rise = _rise(cut[1], cut[2], capacity, left_behind) if len(cut) > 2 else 0.0
    transfer = _transfer(cut, fast) if len(cut) > 2 else 0.0
    if transfer > 0:
        ocv, ohm, fast = _at_small_currents(cut[0].current_a, cut[1].current_a, transfer, ocv, ohm, fast)
    order = np.argsort(charge)
    soc = [float(f"{x:.6g}") for x in charge[order]]
    order = order[np.diff(soc, prepend=-1.0) > 0]  # what is the same once it is rounded, once
    curve = CellCurve(
        soc=sorted(set(soc)),
        open_circuit_v=[float(f"{x:.6g}") for x in ocv[order]],
        resistance_ohm=[float(f"{x:.5g}") for x in ohm[order]],
        r0_ohm=fast,
        unavailable_h=float(f"{left_behind:.5g}"),
        unavailable_rise=float(f"{rise:.5g}"),
        transfer_ohm=float(f"{transfer:.5g}"),
        measured_a=[float(f"{one.current_a:.4g}") for one in cut],
    )
    return _quality(curve, capacity, cut, cutoff_v)


def until_cutoff(discharge: Discharge, cutoff_v: float) -> Discharge:
    """The discharge up to where it first reaches the cut-off.

    >>> import numpy as np
    >>> discharge = Discharge(np.arange(0, 3600.0, 60), np.linspace(4.2, 2.9, 60), 2.0)
    >>> cut = until_cutoff(discharge, 3.0)
    >>> round(cut.total_ah, 2)
    1.82
    """
    below = np.flatnonzero(discharge.voltage_v <= cutoff_v)
    if not below.size:
        lowest = float(discharge.voltage_v.min())
        if lowest > cutoff_v + 0.02:
            raise CalibrationError(
                f"the discharge at {discharge.current_a:.3g} A ends at {lowest:.2f} V, above the cut-off of {cutoff_v:g} V"
            )
        return discharge
    k = int(below[0])
    if k == 0:
        raise CalibrationError(
            f"the discharge at {discharge.current_a:.3g} A begins below the cut-off of {cutoff_v:g} V"
        )
    t, v = discharge.time_s, discharge.voltage_v
    end = float(np.interp(cutoff_v, [v[k], v[k - 1]], [t[k], t[k - 1]]))
    amps = discharge.amps_a
    if amps is not None:
        amps = np.append(amps[:k], np.interp(end, t, amps))
    times = np.append(t[:k], end)
    mean = discharge.current_a if amps is None else float(np.trapezoid(amps, times) / (times[-1] - times[0]))
    return replace(discharge, time_s=times, voltage_v=np.append(v[:k], cutoff_v), current_a=mean, amps_a=amps)


def _far_apart(gentle: Discharge, strong: Discharge) -> None:
    if strong.current_a < LEAST_RATIO * gentle.current_a:
        raise CalibrationError(
            f"the two currents, {gentle.current_a:.3g} A and {strong.current_a:.3g} A, are too close: one should be twice the other at least"
        )


def _from_one_start(cut: list[Discharge], chemistry: Chemistry) -> list[Discharge]:
    """The discharges moved so that all count from the fullest start: one of a lithium-ion cell that gave less than such cells do, beside the other, began so much
    later that it has what they usually give; else the voltages at rest before them tell, where all are known."""
    gentle, strong = cut[:2]
    rests = [d.rest_v for d in cut if d.rest_v is not None]
    apart = strong.current_a - gentle.current_a
    left = (gentle.total_ah - strong.total_ah) / apart  # inside, per ampere, were both full
    usual_ah = USUAL_UNAVAILABLE_H * apart
    if chemistry == "lithium-ion" and left <= 0:
        missing = [strong.total_ah + usual_ah - gentle.total_ah, *[0.0] * (len(cut) - 1)]
    elif chemistry == "lithium-ion" and left > most_unavailable_h(strong, gentle) and len(rests) < len(cut):
        missing = [0.0, gentle.total_ah - usual_ah - strong.total_ah, *[0.0] * (len(cut) - 2)]
    elif len(rests) == len(cut):
        fullest = max(range(len(cut)), key=lambda i: (rests[i], -i))
        missing = [_missing_ah(cut[i], cut[fullest], _middle_ohm(gentle, strong)) for i in range(len(cut))]
    else:
        return cut
    return [replace(d, missing_ah=gone) for d, gone in zip(cut, missing, strict=True)]


def most_unavailable_h(strong: Discharge, gentle: Discharge) -> float:
    """The most that a real lithium-ion cell leaves inside per ampere at the stronger of two currents [h].

    >>> import numpy as np
    >>> taken = np.linspace(0, 2.6, 200)
    >>> discharges = [Discharge(taken / amps * 3600, 4.1 - 0.5 * taken - 0.08 * amps, amps) for amps in (0.2, 1.0)]
    >>> round(most_unavailable_h(discharges[1], discharges[0]), 3)
    0.24
    """
    return MOST_UNAVAILABLE_H * max(1.0, strong.current_a / gentle.total_ah)


def _missing_ah(late: Discharge, full: Discharge, ohm: float) -> float:
    """What was missing when a discharge began, by the voltages at rest before it and before one that began full [A h]: the charge at
    which that one, without its load, was as low."""
    rest, top = late.rest_v or 0.0, full.rest_v or 0.0
    if top - rest < SAME_REST_V:
        return 0.0
    unloaded = full.voltage_v + full.current * ohm
    unloaded[0] = max(unloaded[0], top)
    return float(np.interp(-rest, -np.minimum.accumulate(unloaded), full.charge_ah))


def _middle_ohm(gentle: Discharge, strong: Discharge) -> float:
    """The resistance around half charge [ohm], from the voltages at the same charge."""
    taken = np.linspace(*MIDDLE, 41) * strong.total_ah
    volts1, volts2 = (np.interp(taken, d.charge_ah, d.voltage_v) for d in (gentle, strong))
    return max(float(np.median(volts1 - volts2)) / (strong.current_a - gentle.current_a), 0.0)


def _from_one(one: Discharge, chemistry: Chemistry, resistance_ohm: float) -> tuple[float, Array, Array, Array]:
    charge = np.linspace(1.0, 0.0, GRID)
    ohm = resistance_ohm * resistance_factor(chemistry, charge)
    taken = (1 - charge) * one.total_ah
    volts, amps = (np.interp(taken, one.charge_ah, x) for x in (one.voltage_v, one.current))
    return one.total_ah, charge, volts + amps * ohm, ohm


def _from_two(gentle: Discharge, strong: Discharge, cutoff_v: float) -> tuple[float, Array, Array, Array]:
    i1, i2 = gentle.current_a, strong.current_a
    q1, q2 = gentle.total_ah, strong.total_ah
    if strong.missing_ah > MOST_MISSING * q1:
        raise CalibrationError(
            f"at {i2:.3g} A it gave {strong.missing_ah / q1 * 100:.0f} % less than such cells do beside the {q1:.3g} Ah at {i1:.3g} A: it was not full, a meter is "
            "that far off, or it is another cell. Repeat that discharge with a cell that is surely full"
        )
    if q2 >= q1 or gentle.missing_ah > MOST_MISSING * q1:
        raise CalibrationError(
            f"the larger current gave more charge ({q2:.3g} Ah at {i2:.3g} A, {q1:.3g} Ah at {i1:.3g} A): not the same cell, "
            "or not the same temperature"
        )
    slope = (q1 - q2) / (i2 - i1)  # charge lost per ampere at the cut-off
    whole = q1 + i1 * slope
    taken = _grid(whole, q2, q1)
    volts1 = np.interp(taken, gentle.charge_ah, gentle.voltage_v)
    volts2 = np.interp(taken, strong.charge_ah, strong.voltage_v)
    amps1, amps2 = (np.interp(taken, x.charge_ah, x.current) for x in (gentle, strong))
    ohm = np.zeros_like(taken)
    begun = max(gentle.missing_ah, strong.missing_ah)
    both = (taken <= q2) & (taken >= begun)
    ohm[both] = (volts1[both] - volts2[both]) / np.maximum(amps2 - amps1, 1e-3 * i2)[both]
    tail = (taken > q2) & (taken < q1 * (1 - 1e-9))
    relaxed = i1 + (q1 - taken[tail]) / slope  # the current that reaches the cut-off at this charge
    ohm[tail] = (volts1[tail] - cutoff_v) / (relaxed - i1)
    last = np.flatnonzero(both | tail)[-1]
    ohm[last + 1 :] = ohm[last]
    ohm[taken < begun] = ohm[np.flatnonzero(both)[0]]
    ohm = np.maximum(ohm, 0.0)
    ocv = volts1 + amps1 * ohm
    early = taken < gentle.missing_ah
    ocv[early] = (volts2 + amps2 * ohm)[early]
    beyond = taken > q1 * (1 - 1e-9)
    ocv[beyond] = cutoff_v + (whole - taken[beyond]) / slope * ohm[last]
    return whole, 1 - taken / whole, np.minimum.accumulate(ocv), ohm


def _rise(second: Discharge, third: Discharge, whole_ah: float, per_ampere_h: float) -> float:
    """By how much the unavailable charge per ampere grows with the current [h / A]."""
    if third.total_ah >= second.total_ah:
        raise CalibrationError(
            f"three discharges that contradict each other: {third.total_ah:.3g} Ah at {third.current_a:.3g} A is not less than "
            f"{second.total_ah:.3g} Ah at {second.current_a:.3g} A"
        )
    more = whole_ah - per_ampere_h * third.current_a - third.total_ah
    return max(more, 0.0) / third.current_a**2


def _transfer(cut: list[Discharge], fast: float | None) -> float:
    """The charge transfer's resistance at small currents [ohm], from how much less the voltage falls from the second current to the third, per
    ampere, than from the first to the second, in the middle; 0 where that is not so all along. Its drop is part of what is there within
    seconds."""
    first, second, third = (d.current_a for d in cut)
    taken = np.linspace(*MIDDLE, 41) * cut[2].total_ah
    volts = [np.interp(taken, d.charge_ah, d.voltage_v) for d in cut]
    low, high = (volts[0] - volts[1]) / (second - first), (volts[1] - volts[2]) / (third - second)
    less = low - high
    if float(np.percentile(less, 25)) <= 0:
        return 0.0
    wanted = float(np.median(less))
    most = float(np.median(low)) if fast is None else min(fast, float(np.median(low)))

    def between(ohm: float, one: float, other: float) -> float:
        return (_transfer_v(ohm, other) - _transfer_v(ohm, one)) / (other - one)

    small, large = 0.0, 4 * most
    for _ in range(60):
        ohm = (small + large) / 2
        drops = between(ohm, first, second)
        if drops > most or drops - between(ohm, second, third) > wanted:
            large = ohm
        else:
            small = ohm
    return small


def _transfer_v(ohm: float, amps: float) -> float:
    """The drop of a charge transfer [V]: Butler and Volmer's law for equal transfer coefficients."""
    linear = ohm * amps
    return linear - float(spared_v(np.asarray(linear), thermal_v(MEASURED_C)))


def _at_small_currents(
    gentle_a: float, strong_a: float, transfer: float, ocv: Array, ohm: Array, fast: float | None
) -> tuple[Array, Array, float | None]:
    """The curves of two discharges with a charge transfer that they see less of than small currents do: (open-circuit voltage, resistance, its
    fast part). Both discharges are given back as before."""
    seen = (_transfer_v(transfer, strong_a) - _transfer_v(transfer, gentle_a)) / (strong_a - gentle_a)
    more = transfer - seen
    raised = _transfer_v(transfer, gentle_a) - gentle_a * seen
    return ocv + raised, ohm + more, None if fast is None else float(f"{fast + more:.4g}")


def _grid(whole: float, q2: float, q1: float) -> Array:
    """Charges taken, denser where only one discharge runs."""
    plain = np.linspace(0, whole, GRID)
    return np.unique(np.concatenate([plain, np.linspace(q2, q1, 25), [q1, whole]]))


def _fast_ohm(gentle: Discharge, strong: Discharge, ohm: Array, charge: Array) -> float | None:
    """The resistance that is there within seconds [ohm]: from a pause of the load, else from the first seconds of the two discharges, and not more
    than a steady current sees in the middle; the usual share of that where the first seconds are missing. It hardly
    changes along the discharge; what grows towards the end is slow.
    """
    jumps = [d.pause_ohm for d in (strong, gentle) if d.pause_ohm is not None]
    if jumps:
        return float(f"{jumps[0]:.4g}")
    early = _early(strong)
    settled = (charge >= 0.3) & (charge <= 0.7)
    steady = float(np.median(ohm[settled])) if settled.any() else 0.0
    if not early.any() or not settled.any():
        return float(f"{USUAL_FAST * steady:.4g}") if settled.any() else None
    if gentle.missing_ah or strong.missing_ah:
        return _own_jump(strong, early, steady)
    at = float(np.mean(strong.charge_ah[early]))
    begun = float(np.interp(at, gentle.charge_ah, gentle.voltage_v)) - float(np.mean(strong.voltage_v[early]))
    fast = begun / float(np.mean(strong.current[early]) - np.interp(at, gentle.charge_ah, gentle.current))
    return float(f"{min(max(fast, 0.0), steady):.4g}")


def _own_jump(strong: Discharge, early: Array, steady: float) -> float:
    """The same of discharges that did not begin at one charge: from the strong one's own rest, or the usual share."""
    if strong.rest_v is None:
        return float(f"{USUAL_FAST * steady:.4g}")
    fast = (strong.rest_v - float(np.mean(strong.voltage_v[early]))) / float(np.mean(strong.current[early]))
    return float(f"{min(max(fast, 0.0), steady):.4g}")


def has_early_seconds(discharge: Discharge) -> bool:
    """Whether a discharge tells what is there within seconds: from one point a minute nobody can know.

    >>> import numpy as np
    >>> discharge = Discharge(np.arange(0, 3600.0, 60), np.linspace(4.2, 2.9, 60), 2.0)
    >>> has_early_seconds(discharge)
    False
    """
    return bool(_early(discharge).any())


def _early(discharge: Discharge) -> Array:
    """Which points lie within the first seconds, shape (N,)."""
    since = discharge.time_s - discharge.time_s[0]
    return np.asarray((since >= EARLY_S[0]) & (since <= EARLY_S[1]))


def given_back(curve: CellCurve, capacity_ah: float, discharge: Discharge) -> Array:
    """The voltage that a fitted cell has at each point of a discharge [V], shape (N,).

    >>> import numpy as np
    >>> taken = np.linspace(0, 2.6, 200)
    >>> discharges = [Discharge(taken / amps * 3600, 4.1 - 0.5 * taken - 0.08 * amps, amps) for amps in (0.2, 1.0)]
    >>> found = calibrate(discharges, 2.9, "lithium-ion", 0.05)
    >>> volts = given_back(found.curve, found.capacity_ah, discharges[1])
    >>> bool(np.abs(volts - discharges[1].voltage_v)[:180].max() < 0.01)
    True
    """
    at = 1 - discharge.charge_ah / capacity_ah
    ocv, ohm = (np.interp(at, curve.soc, x) for x in (curve.open_circuit_v, curve.resistance_ohm))
    return np.asarray(ocv - discharge.current * ohm + _spared(curve, discharge.current))


def _spared(curve: CellCurve, amps: Array) -> Array:
    return spared_v(curve.transfer_ohm * amps, thermal_v(MEASURED_C))


def _quality(curve: CellCurve, capacity: float, cut: list[Discharge], cutoff_v: float) -> Calibration:
    worst, total, count, late = 0.0, 0.0, 0, 0.0
    z, ocv, ohm = (np.asarray(x) for x in (curve.soc, curve.open_circuit_v, curve.resistance_ohm))
    for one in cut:
        off = np.abs(given_back(curve, capacity, one) - one.voltage_v)
        worst, total, count = max(worst, float(off.max())), total + float(off.sum()), count + off.size
        fine = np.linspace(1, 0, 2001)
        amps = np.interp((1 - fine) * capacity, one.charge_ah, one.current)
        volts = np.interp(fine, z, ocv) - amps * np.interp(fine, z, ohm) + _spared(curve, amps)
        below = np.flatnonzero(volts < cutoff_v)
        end = capacity * (1 - float(fine[below[0]])) if below.size else capacity
        end = min(end, capacity - (curve.unavailable_h + curve.unavailable_rise * one.current_a) * one.current_a)
        late = max(late, abs(end / one.total_ah - 1))
    return Calibration(curve, capacity, worst, total / max(count, 1), late, tuple(cut))
