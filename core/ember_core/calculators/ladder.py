"""Keys on one analogue pin: a chain of resistors, each key taking the pin to a level of its own."""

from __future__ import annotations

from ..figures import record
from ..quantities.preferred import next_e24

PULL_OHM = 10_000.0  # to the supply
TOLERANCE = 0.01  # of each resistor
CONVERTER = 0.02  # of full scale: what a controller's own converter is off


@record
class Ladder:
    """`chain_ohm` lies between neighbouring keys, the first of which is at ground [ohm]; `levels` are the keys' shares of the supply, 0..1; `gap` is
    what is left between the nearest two after tolerances and converter, as a share of the supply (below 0: they can be mistaken); `held_a` is drawn while
    the first key is held [A]."""

    pull_ohm: float
    chain_ohm: list[float]
    levels: list[float]
    gap: float
    held_a: float


def ladder(keys: int, supply_v: float, tolerance: float = TOLERANCE) -> Ladder:
    """The ladder for 1 to 24 keys at a supply [V], its levels as even as the E24 series allows. Without a key the pin is at the supply.

    Key i of n (from 0) is at S/(R + S) with S the chain below it; even levels i/n ask for S = R i/(n - i). A level s is off by 2 t s (1 - s).

    >>> found = ladder(3, 3.3, 0.01)
    >>> [round(level, 2) for level in found.levels]
    [0.0, 0.34, 0.67]
    """
    if not 1 <= keys <= 24:
        raise ValueError("a ladder has 1 to 24 keys")
    chain, sums = list[float](), [0.0]
    for i in range(1, keys):
        chain.append(next_e24(max(PULL_OHM * i / (keys - i) - sums[-1], 1.0)))
        sums.append(sums[-1] + chain[-1])
    levels = [s / (PULL_OHM + s) for s in sums]
    ends = [*levels, 1.0]
    off = [2 * tolerance * s * (1 - s) + CONVERTER / 2 for s in ends]
    gap = min(ends[i + 1] - off[i + 1] - ends[i] - off[i] for i in range(keys))
    return Ladder(pull_ohm=PULL_OHM, chain_ohm=chain, levels=levels, gap=gap, held_a=supply_v / PULL_OHM)
