"""Converters and other stages as Vout(Vin, Iout) and Iin(Vin, Vout, Iout), over arrays of any shape.

Linear regulators and the quadratic loss of switching converters follow R. Erickson & D. Maksimovic,
*Fundamentals of Power Electronics*, 3rd ed. (2020), ch. 3 and 4: fixed (gate drive, control), proportional
(diode drops, switching) and resistive losses.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.optimize import nnls

from .chemistry import Array
from .design import EfficiencyPoint, LinearStage, SeriesStage, Stage, SwitchingStage

LEAST_INPUT_V = 0.05  # below this an input is treated as this, so that powers stay finite


@dataclass(frozen=True)
class SwitchingLoss:
    """Loss = Vin Iq + p0 + a Iout + b Iout^2 [W]; all coefficients >= 0."""

    p0_w: float
    a_v: float
    b_ohm: float
    quiescent_a: float

    def loss_w(self, input_v: Array, output_a: Array) -> Array:
        return input_v * self.quiescent_a + self.p0_w + self.a_v * output_a + self.b_ohm * output_a**2


@lru_cache(maxsize=512)
def _fit(points: tuple[tuple[float, float, float], ...], output_v: float, quiescent_a: float) -> SwitchingLoss:
    current = np.array([p[0] for p in points])
    efficiency = np.array([p[1] for p in points])
    input_v = np.array([p[2] for p in points])
    power_out = output_v * current
    loss = power_out * (1 / efficiency - 1)
    weight = efficiency / power_out  # 1 / input power: the efficiency counts alike from light to full load
    columns = np.stack([np.ones_like(current), current, current**2], axis=1) * weight[:, None]
    target = np.maximum(loss - input_v * quiescent_a, 0.0) * weight
    scale = np.linalg.norm(columns, axis=0)
    solution, _ = nnls(columns / scale, target)
    p0, a, b = solution / scale
    return SwitchingLoss(float(p0), float(a), float(b), quiescent_a)


def fit_switching(points: list[EfficiencyPoint], output_v: float, quiescent_a: float) -> SwitchingLoss:
    """Non-negative least squares of the loss on the datasheet's efficiency points, weighted by 1 / input power.

    Light-load and full-load efficiency both come out right; p0 + Vin Iq is never below Vin Iq.
    """
    return _fit(tuple((p.current_a, p.efficiency, p.input_v) for p in points), output_v, quiescent_a)


def output_voltage(stage: Stage, input_v: Array, output_a: Array) -> Array:
    """Output voltage [V]; never negative. A stage that can't regulate passes on what is left of its input.

    A linear stage in dropout and a buck at full duty follow the input down; a boost whose input is above its
    setting lets it through.
    """
    if isinstance(stage, LinearStage):
        drop = stage.dropout_v / stage.dropout_at_a * output_a
        return np.maximum(np.minimum(stage.output_v, input_v - drop), 0.0)
    if isinstance(stage, SeriesStage):
        return np.maximum(input_v - stage.resistance_ohm * output_a, 0.0)
    if stage.topology == "buck":
        return np.minimum(stage.output_v, input_v)
    if stage.topology == "boost":
        return np.maximum(stage.output_v, input_v)
    return np.full(np.broadcast(input_v, output_a).shape, stage.output_v)


def input_current(stage: Stage, input_v: Array, output_v: Array, output_a: Array) -> Array:
    """Input current [A] for an output current [A], the stage's own consumption included."""
    if isinstance(stage, LinearStage):
        return output_a * (1 + stage.ground_share) + stage.quiescent_a
    if isinstance(stage, SeriesStage):
        return output_a + stage.leakage_a
    volts = np.maximum(input_v, LEAST_INPUT_V)
    loss = fit_switching(stage.points, stage.output_v, stage.quiescent_a).loss_w(volts, output_a)
    return np.asarray((output_v * output_a + loss) / volts)


def marginal_current(stage: Stage, input_v: Array, output_v: Array, output_a: Array) -> Array:
    """d Iin / d Iout at a working point: what one more ampere on the output costs at the input."""
    if isinstance(stage, LinearStage):
        return np.full(np.shape(output_a), 1 + stage.ground_share)
    if isinstance(stage, SeriesStage):
        return np.ones(np.shape(output_a))
    fit = fit_switching(stage.points, stage.output_v, stage.quiescent_a)
    return np.asarray((output_v + fit.a_v + 2 * fit.b_ohm * output_a) / np.maximum(input_v, LEAST_INPUT_V))


def least_input_v(stage: Stage) -> float:
    """Input below which the stage stops working [V]; 0 where it only follows its input."""
    return stage.running_min_v if isinstance(stage, SwitchingStage) else 0.0


def nominal_output_v(stage: Stage, input_v: float) -> float:
    """Output voltage without load [V], for labels and for the first guess."""
    return float(output_voltage(stage, np.asarray(input_v, dtype=float), np.asarray(0.0)))
