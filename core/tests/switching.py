"""What a switching stage loses, term by term and without arrays: what the simulations reckon with."""

from __future__ import annotations

from ember_core.supply.converters import SwitchingModel


def switching_loss_w(fit: SwitchingModel, source: float, load: float) -> float:
    """What a switching stage loses at one input voltage and one load, term by term."""
    up, down = fit.output_v / source, source / fit.output_v
    coil, switched = {"buck": (1.0, down), "boost": (max(up, 1.0), max(down, 1.0)), "buck-boost": (max(up, 1.0), max(down, 1.0)),
                      "inverting": (1 + up, 1 + down)}[fit.topology]  # fmt: skip
    x, loss = coil * load, source * fit.quiescent_a
    for factor, power in zip(fit.terms, (0, 0.5, 0.75, 1, 2, 3), strict=True):
        loss += factor * x**power * (switched if power <= 1 else 1.0)
    return loss
