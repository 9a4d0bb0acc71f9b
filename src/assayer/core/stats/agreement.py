"""Agreement of two rigs: Deming regression, jackknife errors, and the prediction of one more value (METHODS 13, 15).

References
----------
1. W. E. Deming, Statistical Adjustment of Data (1943).
2. K. Linnet, Clin. Chem. 39 (1993) 424.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from assayer.core.errors import EntryError
from assayer.core.stats.groups import Interval, t_quantile

Floats = NDArray[np.float64]

FEWEST = 5
"""Materials that a line between two rigs needs."""


@dataclass(frozen=True, slots=True)
class Agreement:
    """The line y = intercept + slope·x between the readings of two rigs.

    Attributes
    ----------
    se_slope, se_intercept, covariance : float
        By the jackknife.
    s : float
        Residual scatter about the line, n − 2 degrees of freedom.
    n : int
    low, high : float
        The range of x in which it holds.
    """

    slope: float
    intercept: float
    se_slope: float
    se_intercept: float
    covariance: float
    s: float
    n: int
    low: float
    high: float

    def predicted(self, x: float) -> tuple[float, Interval]:
        """One more value of y at `x`, with its 95 % prediction interval.

        Raises
        ------
        EntryError
            Outside the range of the materials that the line rests on.
        """
        if not self.low <= x <= self.high:
            raise EntryError(f"{x:g} lies outside {self.low:g} … {self.high:g}, where the two were held against each other: it cannot be converted", "at")
        value = self.intercept + self.slope * x
        variance = self.se_intercept**2 + x * x * self.se_slope**2 + 2 * x * self.covariance + self.s**2
        half = t_quantile(0.975, self.n - 2) * math.sqrt(max(variance, 0.0))
        return value, Interval(value - half, value + half)


def agreement(x: Sequence[float], y: Sequence[float], error_ratio: float = 1.0) -> Agreement:
    """Deming's line through pairs of readings, both in error.

    Parameters
    ----------
    x, y : sequence of float, shape (n,)
        Mean of each material on the one rig and on the other; n ≥ 5.
    error_ratio : float
        Error variance of y over that of x; 1 where it is not known.

    Raises
    ------
    EntryError
        With fewer than five materials, or where they do not differ.
    """
    xs, ys = np.asarray(x, np.float64), np.asarray(y, np.float64)
    n = len(xs)
    if n < FEWEST:
        raise EntryError(f"a line between two rigs needs at least {FEWEST} materials, but there are {n}", "x")
    slope, intercept = _line(xs, ys, error_ratio)
    keep = ~np.eye(n, dtype=bool)
    left_out = np.array([_line(xs[k], ys[k], error_ratio) for k in keep])
    pseudo = n * np.array([slope, intercept]) - (n - 1) * left_out
    variance = np.cov(pseudo, rowvar=False) / n
    residuals = ys - intercept - slope * xs
    s = math.sqrt(float(residuals @ residuals) / (n - 2))
    errors = np.sqrt(np.diag(variance)).tolist()
    return Agreement(slope, intercept, errors[0], errors[1], float(variance[0, 1]), s, n, float(xs.min()), float(xs.max()))


def _line(x: Floats, y: Floats, ratio: float) -> tuple[float, float]:
    """Slope and intercept [1]."""
    dx, dy = x - x.mean(), y - y.mean()
    sxx, syy, sxy = float(dx @ dx), float(dy @ dy), float(dx @ dy)
    if sxx == 0 or sxy == 0:
        raise EntryError("the materials do not differ enough on the two rigs to lay a line through them", "x")
    slope = (syy - ratio * sxx + math.sqrt((syy - ratio * sxx) ** 2 + 4 * ratio * sxy * sxy)) / (2 * sxy)
    return slope, float(y.mean()) - slope * float(x.mean())
