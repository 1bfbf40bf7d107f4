"""The 10th, 50th and 90th percentile of runtimes from few samples: what of their scatter a simple model explains is taken out.

A regression of the logarithm on the inputs that matter most is solved for the samples and, as it costs nothing, for many more points; what it gives
for these less what it gives for the samples corrects the samples' own percentile (a control variate for quantiles: J. Hsu, B. Nelson, *Management
Science* 36 (1990) 835). Both are smoothed over their neighbours (S. Sheather, J. Marron, *J. Am. Stat. Assoc.* 85 (1990) 410). The percentiles of 256
samples are then as near to those of many as those of a thousand alone (docs/MODELS.md, "The estimate").
"""

from __future__ import annotations

import math
from functools import lru_cache
from statistics import NormalDist

import numpy as np

from ..numeric import Array, percentiles

PERCENT = (10.0, 50.0, 90.0)
MANY, LATTICE = (
    8191,
    4874,
)  # points that the regression is looked at; the generator whose sums of eight inputs have the percentiles nearest to the true ones
STEERING, BENT, TOGETHER = (
    8,
    6,
    3,
)  # inputs that count; of these with a bend at their median; of these that go with each other and bend further out
FURTHER = 0.8  # standard deviations
BENDS = (-1.6, -1.2, -0.4, 0.4, 1.2, 1.6)  # of the one that counts most: cells on a flat curve end in steps
AROUND = 20.0  # times the median and a twentieth of it: what lies beyond has no logarithm to be fitted
OUTLYING = 4 * 1.4826  # median deviations: samples that end in another way than the rest do not steer the regression
FITS = 3


def deciles(seconds: Array, normal: Array) -> tuple[float, float, float]:
    """(10th, 50th, 90th percentile) of positive `seconds` of shape (samples,) whose inputs stand at `normal`, standard normal, shape (samples, inputs).

    >>> import numpy as np
    >>> normal = np.random.default_rng(1).standard_normal((256, 2))
    >>> low, median, high = deciles(np.exp(0.3 * normal[:, 0]), normal)
    >>> round(low, 2), round(median, 2), round(high, 2)
    (0.68, 1.0, 1.47)
    """
    median = float(percentiles(seconds, [50])[0])
    if not 0 < median < math.inf:
        low, median, high = percentiles(seconds, PERCENT)
        return float(low), float(median), float(high)
    logs = np.log(np.clip(seconds, median / AROUND, median * AROUND))
    ranks = np.argsort(np.argsort(seconds)) - seconds.size / 2
    steering = np.argsort(-np.abs(ranks @ normal), kind="stable")[:STEERING]
    terms = _terms(normal[:, steering])
    slope = _fitted(terms, logs)
    rising, explained = np.sort(logs), np.sort(terms @ slope)
    wide = percentiles(_many(steering.size) @ slope, PERCENT)
    found = [
        float(np.exp(np.clip(wide[i] + _around(logs.size, p) @ (rising - explained), rising[0], rising[-1])))
        for i, p in enumerate(PERCENT)
    ]
    low, median, high = sorted(found)
    return low, median, high


def _terms(normal: Array) -> Array:
    """What the regression is linear in, shape (points, terms)."""
    bent, few = normal[:, :BENT], normal[:, :TOGETHER]
    pairs = [few[:, i] * few[:, j] for i in range(few.shape[1]) for j in range(i)]
    columns = [
        np.ones((normal.shape[0], 1)),
        normal,
        np.abs(bent),
        np.maximum(few - FURTHER, 0.0),
        np.minimum(few + FURTHER, 0.0),
    ]
    columns += [np.maximum(normal[:, :1] - at, 0.0) for at in BENDS]
    return np.concatenate([*columns, *(p[:, None] for p in pairs)], axis=1)


def _fitted(terms: Array, logs: Array) -> Array:
    """Least squares over all samples but those that lie apart from the rest."""
    among = np.ones(logs.size, dtype=bool)
    slope: Array = np.zeros(terms.shape[1])
    for _ in range(FITS):
        slope = np.asarray(np.linalg.lstsq(terms[among], logs[among], rcond=None)[0], dtype=float)
        off = logs - terms @ slope
        off -= np.median(off)
        before, among = among, np.abs(off) <= OUTLYING * np.median(np.abs(off)) + 1e-9
        if np.array_equal(before, among):
            break
    return slope


@lru_cache(maxsize=STEERING + 1)
def _many(inputs: int) -> Array:
    """The terms at the points of a rank-1 lattice (I. Sloan, S. Joe, *Lattice Methods for Multiple Integration* (1994))."""
    normal = np.array([NormalDist().inv_cdf((i + 0.5) / MANY) for i in range(MANY)])
    generator = np.array([pow(LATTICE, j, MANY) for j in range(inputs)], dtype=int)
    return _terms(normal[np.arange(MANY)[:, None] * generator % MANY])


@lru_cache(maxsize=64)
def _around(count: int, percent: float) -> Array:
    """Weights of the values in rising order around a percentile: as wide as the percentile of so many is uncertain."""
    share = percent / 100
    spread = NormalDist(share, math.sqrt(share * (1 - share) / (count + 2)))
    weights = np.diff([spread.cdf(i / count) for i in range(count + 1)])
    return np.asarray(weights / weights.sum())
