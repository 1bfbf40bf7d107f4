"""Stages as Vout(Vin, Iout) and Iin(Vin, Vout, Iout), over arrays of any shape.

Linear regulators and the quadratic loss of switching converters follow R. Erickson & D. Maksimovic,
*Fundamentals of Power Electronics*, 3rd ed. (2020), ch. 3 and 4: fixed (gate drive, control), proportional
(diode drops, switching) and resistive losses, over the current in the coil and the voltage that is switched; what lies between fixed and
proportional is a converter that skips pulses at light load. Charge pumps as ideal transformers with an output resistance:
M. Seeman & S. Sanders, *IEEE Trans. Power Electron.* 23 (2008) 841. The rest is Kirchhoff's and Ohm's.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from typing import Protocol

import numpy as np

from ..design import (
    ChargePumpStage,
    DiodeStage,
    EfficiencyPoint,
    LinearStage,
    PassStage,
    PowerOrStage,
    ShuntRegulatorStage,
    Stage,
    SwitchingStage,
)
from ..numeric import Array, at_least

LEAST_INPUT_V = 0.05  # below this an input is treated as this, so that powers stay finite
LEAST_COIL_A = 1e-9
POWERS = (
    0.0,
    0.5,
    0.75,
    1.0,
    2.0,
    3.0,
)  # of the current in the coil: control and pulses at light load, switching, resistance, saturation
USUAL_DROPOUT_V = 0.2  # of a buck at full duty and its limit: switch and coil; a rule of thumb
BODY_DIODE_V = 0.4  # what a boost without true disconnect drops while it is switched off


class ConverterModel(Protocol):
    """What a stage does while it is switched on. Voltages >= 0 [V], currents [A]."""

    @property
    def gives_way(self) -> bool:
        """Whether the output voltage follows the output current anywhere."""

    def output_voltage(self, input_v: Array, output_a: Array) -> Array:
        """Output voltage; a stage that can't regulate passes on what is left of its input.

        The shape is that of the inputs or (), where it is the same for all of them.
        """

    def input_current(self, input_v: Array, output_v: Array, output_a: Array) -> Array:
        """Input current for an output current, the stage's own consumption included."""

    def marginal_current(self, input_v: Array, output_v: Array, output_a: Array) -> Array | float:
        """d Iin / d Iout: what one more ampere on the output costs at the input."""


def _at_most(ceiling: float, volts: Array) -> Array:
    """min(ceiling, volts), never negative; a single value where the ceiling is reached everywhere."""
    lowest = volts.min() if volts.size else np.inf
    if lowest >= ceiling:
        return np.asarray(ceiling)
    return np.minimum(volts, ceiling) if lowest >= 0 else np.clip(volts, 0.0, ceiling)


def _left(input_v: Array, ohm: float, amps: Array, dropped_v: float = 0.0) -> Array:
    """What a resistance and a fixed drop leave of a voltage; one table of the full size, not three."""
    drop = np.multiply(amps, ohm)
    if dropped_v:
        drop = drop + dropped_v
    return np.asarray(np.subtract(input_v, drop))


def _scaled(amps: Array, times: float, more: float) -> Array:
    """amps times a factor, and something more."""
    taken = np.asarray(amps * times)
    taken += more
    return taken


@dataclass(frozen=True)
class LinearModel:
    """In dropout the output follows the input down."""

    output_v: float
    dropout_ohm: float
    ground_share: float
    quiescent_a: float

    @property
    def gives_way(self) -> bool:
        return self.dropout_ohm > 0

    def output_voltage(self, input_v: Array, output_a: Array) -> Array:
        return _at_most(self.output_v, _left(input_v, self.dropout_ohm, output_a))

    def input_current(self, input_v: Array, output_v: Array, output_a: Array) -> Array:
        return _scaled(output_a, 1 + self.ground_share, self.quiescent_a)

    def marginal_current(self, input_v: Array, output_v: Array, output_a: Array) -> Array | float:
        return 1 + self.ground_share


@dataclass(frozen=True)
class DropModel:
    """Resistances, diodes and either-or inputs: a drop, and the same current in as out."""

    forward_v: float
    resistance_ohm: float
    own_a: float

    @property
    def gives_way(self) -> bool:
        return self.resistance_ohm > 0

    def output_voltage(self, input_v: Array, output_a: Array) -> Array:
        return at_least(_left(input_v, self.resistance_ohm, output_a, self.forward_v), 0.0)

    def input_current(self, input_v: Array, output_v: Array, output_a: Array) -> Array:
        return output_a + self.own_a

    def marginal_current(self, input_v: Array, output_v: Array, output_a: Array) -> Array | float:
        return 1.0


@dataclass(frozen=True)
class SwitchingModel:
    """Loss = Vin Iq + s (c0 + c1 x^0.5 + c2 x^0.75 + c3 x) + c4 x^2 + c5 x^3 [W], all coefficients >= 0.

    x is the current that the switch and the coil carry while it conducts [A], s how much is switched in units of the output voltage; both follow the
    input: a boost from a low input draws more current, a buck from a high one switches more. A buck at full duty follows its input down, less what
    its resistance drops; a boost whose input is above its setting lets it through.
    """

    topology: str
    output_v: float
    terms: tuple[float, ...]
    quiescent_a: float
    dropout_ohm: float = 0.0

    @property
    def gives_way(self) -> bool:
        return self.topology == "buck" and self.dropout_ohm > 0

    def coil_share(self, input_v: Array) -> Array | float:
        """x for an ampere of output."""
        if self.topology == "buck":
            return 1.0
        step_up = self.output_v / at_least(input_v, LEAST_INPUT_V)
        return 1.0 + step_up if self.topology == "inverting" else np.maximum(step_up, 1.0)

    def switched(self, input_v: Array) -> Array | float:
        """s: 1 where a boost works."""
        step_down = input_v / self.output_v
        if self.topology == "buck":
            return step_down
        return 1.0 + step_down if self.topology == "inverting" else np.maximum(step_down, 1.0)

    def loss_w(self, input_v: Array, output_a: Array) -> Array:
        x = np.multiply(output_a, self.coil_share(input_v))
        root = np.sqrt(x)
        c0, c1, c2, c3, c4, c5 = self.terms
        switching = root * (c1 + c2 * np.sqrt(root) + c3 * root) + c0
        return np.asarray(input_v * self.quiescent_a + self.switched(input_v) * switching + (c4 + c5 * x) * x * x)

    def output_voltage(self, input_v: Array, output_a: Array) -> Array:
        if self.topology == "buck":
            left = _left(input_v, self.dropout_ohm, output_a) if self.dropout_ohm else input_v
            return _at_most(self.output_v, left)
        if self.topology == "boost" and input_v.size and input_v.max() > self.output_v:
            return np.maximum(self.output_v, input_v)
        return np.asarray(self.output_v)

    def input_current(self, input_v: Array, output_v: Array, output_a: Array) -> Array:
        power = output_v * output_a + self.loss_w(input_v, output_a)
        return np.asarray(power / at_least(input_v, LEAST_INPUT_V))

    def marginal_current(self, input_v: Array, output_v: Array, output_a: Array) -> Array | float:
        share = self.coil_share(input_v)
        x = at_least(np.multiply(output_a, share), LEAST_COIL_A)
        root = np.sqrt(x)
        _, c1, c2, c3, c4, c5 = self.terms
        switching = 0.5 * c1 / root + 0.75 * c2 / np.sqrt(root) + c3
        slope = self.switched(input_v) * switching + (2 * c4 + 3 * c5 * x) * x
        return np.asarray((output_v + share * slope) / at_least(input_v, LEAST_INPUT_V))


@dataclass(frozen=True)
class ChargePumpModel:
    ratio: float
    output_v: float
    resistance_ohm: float
    quiescent_a: float

    @property
    def gives_way(self) -> bool:
        return self.resistance_ohm > 0

    def output_voltage(self, input_v: Array, output_a: Array) -> Array:
        return _at_most(self.output_v, _left(self.ratio * input_v, self.resistance_ohm, output_a))

    def input_current(self, input_v: Array, output_v: Array, output_a: Array) -> Array:
        return _scaled(output_a, self.ratio, self.quiescent_a)

    def marginal_current(self, input_v: Array, output_v: Array, output_a: Array) -> Array | float:
        return self.ratio


@dataclass(frozen=True)
class ShuntModel:
    """The clamp takes what the load leaves, so that in regulation a load costs nothing more."""

    output_v: float
    resistance_ohm: float

    @property
    def gives_way(self) -> bool:
        return self.resistance_ohm > 0

    def output_voltage(self, input_v: Array, output_a: Array) -> Array:
        return _at_most(self.output_v, _left(input_v, self.resistance_ohm, output_a))

    def input_current(self, input_v: Array, output_v: Array, output_a: Array) -> Array:
        return np.maximum((input_v - output_v) / self.resistance_ohm, output_a)

    def marginal_current(self, input_v: Array, output_v: Array, output_a: Array) -> Array | float:
        return np.where(output_v < self.output_v, 1.0, 0.0)


@lru_cache(maxsize=512)
def _fit(
    points: tuple[tuple[float, float, float], ...], output_v: float, quiescent_a: float, topology: str
) -> tuple[float, ...]:
    from scipy.optimize import nnls  # as long in coming as all of this core

    current, efficiency, input_v = np.array(points).T
    power_out = output_v * current
    loss = power_out * (1 / efficiency - 1)
    weight = efficiency / power_out  # 1 / input power: the efficiency counts alike from light to full load
    bare = SwitchingModel(topology, output_v, (0.0,) * len(POWERS), 0.0)
    x, switched = current * bare.coil_share(input_v), np.broadcast_to(bare.switched(input_v), current.shape)
    columns = np.stack([x**p * (switched if p <= 1 else 1.0) for p in POWERS], axis=1) * weight[:, None]
    target = np.maximum(loss - input_v * quiescent_a, 0.0) * weight
    known = [
        POWERS.index(p) for p in {1: (1.0,), 2: (0.0, 1.0), 3: (0.0, 1.0, 2.0)}.get(np.unique(current).size, POWERS)
    ]
    scale = np.linalg.norm(columns[:, known], axis=0)
    solution, _ = nnls(columns[:, known] / scale, target)
    found = np.zeros(len(POWERS))
    found[known] = solution / scale
    return tuple(float(x) for x in found)


def fit_switching(
    points: Iterable[EfficiencyPoint],
    output_v: float,
    quiescent_a: float,
    topology: str = "buck-boost",
    dropout_ohm: float = 0.0,
) -> SwitchingModel:
    """Non-negative least squares of the loss on the datasheet's efficiency points, weighted by 1 / input power.

    Light-load and full-load efficiency both come out right, within two hundredths of consistent points at four currents or more; the loss is never below
    Vin Iq. Points at one current only say nothing of light loads: the loss beyond the quiescent power is then taken as proportional, with points
    at two currents as fixed and proportional, at three with a resistance.

    >>> from ember_core.design import EfficiencyPoint
    >>> points = [EfficiencyPoint(input_v=3.7, current_a=a, efficiency=e) for a, e in ((0.001, 0.7), (0.1, 0.92), (0.5, 0.88))]
    >>> model = fit_switching(points, 5.0, 20e-6, "boost", 0.0)
    >>> import numpy as np
    >>> lost = model.loss_w(np.array(3.7), np.array([0.1]))[0]
    >>> round(0.5 / (0.5 + float(lost)), 2)
    0.92
    """
    terms = _fit(tuple((p.current_a, p.efficiency, p.input_v) for p in points), output_v, quiescent_a, topology)
    return SwitchingModel(topology, output_v, terms, quiescent_a, dropout_ohm)


def converter_model(stage: Stage) -> ConverterModel:
    """What a stage does while it is switched on.

    >>> from ember_core.catalogue import built_in
    >>> stage = built_in().by_key["stage-buck-33"].stage
    >>> import numpy as np
    >>> float(converter_model(stage).input_current(np.array(3.9), np.array(3.3), np.array(0.1)).round(4))
    0.09
    """
    match stage:
        case LinearStage():
            dropout_ohm = stage.dropout_v / stage.dropout_at_a
            return LinearModel(stage.output_v, dropout_ohm, stage.ground_share, stage.quiescent_a)
        case SwitchingStage():
            full = USUAL_DROPOUT_V if stage.dropout_v is None else stage.dropout_v
            return fit_switching(stage.points, stage.output_v, stage.quiescent_a, stage.topology, full / stage.limit_a)
        case PassStage():
            return DropModel(0.0, stage.resistance_ohm, stage.leakage_a)
        case DiodeStage() | PowerOrStage():
            return DropModel(stage.forward_v, stage.resistance_ohm, stage.quiescent_a)
        case ChargePumpStage():
            ceiling = np.inf if stage.output_v is None else stage.output_v
            return ChargePumpModel(stage.ratio, ceiling, stage.resistance_ohm, stage.quiescent_a)
        case ShuntRegulatorStage():
            return ShuntModel(stage.output_v, stage.resistance_ohm)


def passes_when_off(stage: Stage) -> bool:
    """Whether the output is still fed through a diode while the stage is switched off.

    >>> from ember_core.catalogue import built_in
    >>> stage = built_in().by_key["stage-boost-50"].stage
    >>> passes_when_off(stage)
    True
    """
    return isinstance(stage, SwitchingStage) and not stage.load_disconnect


def limits_current(stage: Stage) -> bool:
    """Whether the stage gives no more than its limit. A switch, a wire, a diode or a fuse passes more than its rating:
    that is an overload, not a limit.

    >>> from ember_core.catalogue import built_in
    >>> stage = built_in().by_key["stage-buck-33"].stage
    >>> limits_current(stage)
    True
    """
    if isinstance(stage, PassStage):
        return stage.role == "protection"
    return isinstance(stage, LinearStage | SwitchingStage | ChargePumpStage)


def least_input_v(stage: Stage) -> float:
    """Input below which the stage stops working [V]; 0 where it only follows its input.

    >>> from ember_core.catalogue import built_in
    >>> stage = built_in().by_key["stage-linear-33"].stage
    >>> least_input_v(stage)
    0.0
    """
    if isinstance(stage, SwitchingStage):
        return stage.undervoltage_lockout_v
    return (stage.input_min_v or 0.0) if isinstance(stage, LinearStage) else 0.0


def set_output_v(stage: Stage) -> float | None:
    """The output voltage that the stage regulates to [V]; None where it follows its input.

    >>> from ember_core.catalogue import built_in
    >>> stage = built_in().by_key["stage-buck-33"].stage
    >>> set_output_v(stage)
    3.3
    """
    return None if isinstance(stage, PassStage | DiodeStage | PowerOrStage) else stage.output_v


def is_negative(stage: Stage) -> bool:
    """Whether the output lies below ground.

    >>> from ember_core.catalogue import built_in
    >>> stage = built_in().by_key["stage-pump-negative"].stage
    >>> is_negative(stage)
    True
    """
    return (isinstance(stage, SwitchingStage) and stage.topology == "inverting") or (
        isinstance(stage, ChargePumpStage) and stage.inverting
    )


def nominal_output_v(stage: Stage, input_v: float) -> float:
    """Output voltage without load [V], for labels and for the first guess.

    >>> from ember_core.catalogue import built_in
    >>> stage = built_in().by_key["stage-linear-33"].stage
    >>> nominal_output_v(stage, 4.2), nominal_output_v(stage, 3.1)
    (3.3, 3.1)
    """
    return float(converter_model(stage).output_voltage(np.asarray(input_v, dtype=float), np.asarray(0.0)))
