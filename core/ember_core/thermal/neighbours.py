"""Where a part sits: what warms each other across a narrow gap, and the spot on the wall over something hot.

Each body gives its heat to the air inside from the surface that it shows to nothing near, to bodies that it faces, and to the
wall that it faces. Between two faces the air conducts as long as the gap is too narrow for it to move (some millimetres: Incropera &
DeWitt (2007), ch. 9.8); across a wide one it carries the heat away instead, and they only radiate, as much as they see of each
other (table 13.2). The spot on the wall is a disc of the same area on an endless plate that loses heat on its outer side: a
disc in the middle of an annular fin (ch. 3.6), exact for that.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..numeric import Array
from .films import air, radiation

USUAL_C = 45.0  # at which the gaps' air and radiation are taken
EMISSIVITY = 0.8
OUTSIDE_FILM = 10.0  # W/(m2 K): still air and radiation on the outer side; a rule of thumb
NARROW_M, WIDE_M = (
    0.010,
    0.020,
)  # up to where the air between two faces stands still, and from where on it moves; rules of thumb
BARE = 0.2  # of its surface that a body gives to the air at least: edges, leads, what boxes do not show


_RADIATES = radiation(EMISSIVITY, USUAL_C + 5, USUAL_C - 5)


def stands_still(gap_m: Array) -> Array:
    """How much of the air in a gap stands still, 0..1.

    >>> import numpy as np
    >>> stands_still(np.array([0.002, 0.05])).round(3).tolist()
    [1.0, 0.0]
    """
    return np.clip((WIDE_M - gap_m) / (WIDE_M - NARROW_M), 0.0, 1.0)


def view_factor(area_m2: Array, gap_m: Array) -> Array:
    """What one of two equal squares that face each other sees of the other, 0..1: Incropera & DeWitt (2007), table 13.2.

    >>> import numpy as np
    >>> view_factor(np.array([1e-4]), np.array([0.005])).round(3).tolist()
    [0.415]
    """
    x = np.sqrt(np.maximum(area_m2, 1e-12)) / gap_m
    root = np.sqrt(1 + x * x)
    seen = np.log((1 + x * x) / np.sqrt(1 + 2 * x * x)) + 2 * x * root * np.arctan(x / root) - 2 * x * np.arctan(x)
    return np.asarray(2 / (np.pi * x * x) * seen)


def between_w_per_k(area_m2: Array, gap_m: Array) -> Array:
    """From one body to another that it faces [W/K], any shape.

    >>> import numpy as np
    >>> between_w_per_k(np.array([1e-4]), np.array([0.005])).round(5).tolist()
    [0.0008]
    """
    conducts = air(USUAL_C).conductivity / gap_m * stands_still(gap_m)
    return np.asarray(area_m2 * (conducts + view_factor(area_m2, gap_m) * _RADIATES))


SPOT_PEAK = 1.35  # times the mean of a spot is its middle; from `validation/heat.py`
NOTHING = 37.0  # exp(-37) is nothing beside 1
_PARTS = np.linspace(0.0, 1.0, 49)


def to_wall_w_per_k(area_m2: Array, gap_m: Array) -> Array:
    """From a body to the wall that it faces [W/K], any shape. What it radiates to a wall far away is in its film to the air.

    >>> import numpy as np
    >>> to_wall_w_per_k(np.array([1e-4]), np.array([1e-3])).round(4).tolist()
    [0.0033]
    """
    return np.asarray(area_m2 * (air(USUAL_C).conductivity / gap_m + _RADIATES) * stands_still(gap_m))


def spreading_k_per_w(area_m2: Array, wall_m: float, conductivity: float, film: float = OUTSIDE_FILM) -> Array:
    """What a wall warms by over a spot of an area, per watt that goes into it there, above what it is elsewhere [K/W].

    >>> import numpy as np
    >>> spreading_k_per_w(np.array([1e-4]), 0.002, 0.2).round(0).tolist()
    [232.0]
    """
    radius = np.sqrt(np.maximum(area_m2, 1e-12) / np.pi)
    x = np.sqrt(film / (conductivity * wall_m)) * radius
    fin = bessel_ratio(x)
    return np.asarray(1 / (film * np.pi * radius**2 + 2 * np.pi * radius * wall_m * conductivity * fin * x / radius))


def bessel_ratio(x: Array) -> Array:
    """K1(x) / K0(x) for x from 1e-4 on, any shape; what is beyond 300 is taken there. Of both K_v(x) = the integral of exp(-x cosh t) cosh(v t)
    over t from 0 on (Abramowitz & Stegun (1964), 9.6.24), by the trapezoidal rule, which is exact to ten digits for it, up to where the integrand is nothing
    any more. (SciPy's functions take longer to import than an evaluation takes.)

    >>> import numpy as np
    >>> bessel_ratio(np.array([0.1, 1.0])).round(4).tolist()
    [4.06, 1.4296]
    """
    x = np.clip(x, 1e-4, 300.0)[..., None]
    cosh = np.cosh(np.arccosh(1 + NOTHING / x) * _PARTS)
    weights = np.exp(-x * (cosh - 1))
    weights[..., 0] /= 2
    return np.asarray((weights * cosh).sum(axis=-1) / weights.sum(axis=-1))


@dataclass(frozen=True)
class Neighbours:
    """The heat between bodies and the air inside, solved for unit powers. `per_w` is what each body warms by above the air per watt in
    each [K/W], (bodies, bodies); `by_wall` by how much it follows the wall [K/K], (bodies,); `into_wall` what goes into each wall per
    kelvin above it [W/K], (bodies, walls), and `spot_k_per_w` what the wall warms by there [K/W], of the same shape; `bare_w_per_k` what each
    gives to the air [W/K], (bodies,)."""

    per_w: Array
    by_wall: Array
    into_wall: Array
    spot_k_per_w: Array
    bare_w_per_k: Array

    def above_air_k(self, power_w: Array, wall_k: Array) -> Array:
        """Each body above the air inside [K] at powers of shape (bodies, cases); `wall_k` the wall above the air, (cases,)."""
        return np.asarray(self.per_w @ power_w + self.by_wall[:, None] * wall_k)

    def spots_k(self, above_air_k: Array, wall_k: Array) -> Array:
        """The warmest spot on the wall that each body makes, above the wall elsewhere [K], (bodies, cases)."""
        through = SPOT_PEAK * self.into_wall * self.spot_k_per_w
        return np.asarray(through.max(axis=1, initial=0.0)[:, None] * np.maximum(above_air_k - wall_k, 0.0))


def neighbours(
    own_w_per_k: Array, surface_m2: Array, first: np.ndarray, second: np.ndarray, pair_w_per_k: Array, pair_m2: Array,
    wall_w_per_k: Array, wall_m2: Array, spot_k_per_w: Array,
) -> Neighbours:  # fmt: skip
    """`own_w_per_k` is what each body gives to the air if it faces nothing [W/K], `surface_m2` its surface, (bodies,); pairs `first`,
    `second` with what goes between them and the area that they cover of each other, (pairs,); and the same from each body to each
    wall, (bodies, walls).

    >>> import numpy as np
    >>> none = np.zeros(0, dtype=int)
    >>> alone = neighbours(
    ...     np.array([0.01]), np.array([1e-3]), none, none, np.zeros(0), np.zeros(0), np.zeros((1, 6)), np.zeros((1, 6)), np.zeros((1, 6))
    ... )
    >>> alone.above_air_k(np.array([[0.5]]), np.zeros(1)).round(3).tolist()
    [[50.0]]
    """
    count = own_w_per_k.size
    covered = wall_m2.sum(axis=1)
    np.add.at(covered, first, pair_m2)
    np.add.at(covered, second, pair_m2)
    bare = np.maximum(1 - covered / np.maximum(surface_m2, 1e-12), BARE)
    into_wall = wall_w_per_k / (1 + wall_w_per_k * spot_k_per_w)
    matrix = np.diag(own_w_per_k * bare + into_wall.sum(axis=1))
    np.add.at(matrix, (first, first), pair_w_per_k)
    np.add.at(matrix, (second, second), pair_w_per_k)
    np.add.at(matrix, (first, second), -pair_w_per_k)
    np.add.at(matrix, (second, first), -pair_w_per_k)
    per_w = np.linalg.inv(matrix) if count else matrix
    return Neighbours(per_w, per_w @ into_wall.sum(axis=1), into_wall, spot_k_per_w, own_w_per_k * bare)
