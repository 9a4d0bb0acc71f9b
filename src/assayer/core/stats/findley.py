"""Findley's power law of creep, d = d0 + A·tⁿ, by least squares (METHODS 6).

References
----------
1. W. N. Findley, J. S. Lai, K. Onaran, Creep and Relaxation of Nonlinear Viscoelastic Materials, 1976, ch. 7.
2. G. A. F. Seber, C. J. Wild, Nonlinear Regression, 1989, sections 2.1 (linearised covariance) and 5.1 (prediction).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from assayer.core.errors import EntryError
from assayer.core.stats.groups import Interval, t_quantile

_LIMITS = (0.01, 0.999)
"""Between which n is looked for; 0 < n < 1."""
_OFF = 1e-3
"""Nearer to a limit than this, n is taken as standing on it."""


@dataclass(frozen=True, slots=True)
class Findley:
    """A fitted power law; t in days, d in the unit of the readings.

    Attributes
    ----------
    d0, a, n : float
    readings : int
    sd : float
        Of the residuals, on readings − 3 degrees of freedom.
    covariance : ndarray, shape (3, 3)
        Of (d0, a, n), linearised.
    at_limit : bool
        Whether n stands at a limit: the law does not describe these readings.
    """

    d0: float
    a: float
    n: float
    readings: int
    sd: float
    covariance: NDArray[np.float64]
    at_limit: bool

    def at(self, days: float) -> float:
        return self.d0 + self.a * math.pow(days, self.n)

    def change(self, start: float, end: float, level: float = 0.95) -> Interval:
        """Confidence interval of d(end) − d(start) of the fitted law, times in days; d0 and its uncertainty cancel."""
        powers = [(math.pow(t, self.n), math.log(t)) for t in (start, end)]
        gradient = np.array([0.0, powers[1][0] - powers[0][0], self.a * (powers[1][0] * powers[1][1] - powers[0][0] * powers[0][1])])
        half = t_quantile(0.5 + level / 2, self.readings - 3) * math.sqrt(max(0.0, float(gradient @ self.covariance @ gradient)))
        middle = self.at(end) - self.at(start)
        return Interval(middle - half, middle + half)

    def prediction(self, days: float, level: float = 0.95) -> Interval:
        """Prediction interval of one reading at `days`: s²·(1 + gᵀCg), Student's t on readings − 3."""
        gradient = np.array([1.0, days**self.n, self.a * days**self.n * math.log(days)])
        variance = self.sd**2 + float(gradient @ self.covariance @ gradient)
        half = t_quantile(0.5 + level / 2, self.readings - 3) * math.sqrt(variance)
        middle = self.at(days)
        return Interval(middle - half, middle + half)


def fit_findley(days: Sequence[float], values: Sequence[float]) -> Findley:
    """Fit d0 + A·tⁿ; d0 and A are linear, so that only n is searched for.

    Parameters
    ----------
    days : sequence of float, shape (m,)
        Times above 0, in days; m ≥ 4.
    values : sequence of float, shape (m,)

    Raises
    ------
    EntryError
        If there are fewer than 4 readings, a time is not above 0, or all times are one.
    """
    # loading it takes longer than everything else here, and most runs have no fit
    from scipy.optimize import minimize_scalar

    t, d = np.asarray(days, float), np.asarray(values, float)
    if t.size < 4 or t.size != d.size:
        raise EntryError(f"the fit needs at least 4 readings with their times, but has {t.size}", "gap")
    if not (t > 0).all() or np.ptp(t) == 0:
        raise EntryError("the fit needs different times above 0", "gap")
    log_t = np.log(t)

    def linear(n: float) -> tuple[NDArray[np.float64], float]:
        design = np.column_stack([np.ones_like(t), np.exp(n * log_t)])
        beta = np.linalg.lstsq(design, d, rcond=None)[0]
        return beta, float(np.sum((d - design @ beta) ** 2))

    # the sum of squares over n may have a flat stretch: the best of a coarse grid is refined
    grid = np.linspace(*_LIMITS, 41)
    best = int(np.argmin([linear(float(n))[1] for n in grid]))
    low, high = grid[max(0, best - 1)], grid[min(grid.size - 1, best + 1)]
    n = float(minimize_scalar(lambda x: linear(float(x))[1], bounds=(low, high), method="bounded", options={"xatol": 1e-10}).x)
    (d0, a), squares = linear(n)
    at_limit = n - _LIMITS[0] < _OFF or _LIMITS[1] - n < _OFF
    free = t.size - 3
    sd = math.sqrt(squares / free)
    power = np.exp(n * log_t)
    jacobian = np.column_stack([np.ones_like(t), power, a * power * log_t])
    covariance = np.linalg.pinv(jacobian.T @ jacobian) * sd**2
    return Findley(float(d0), float(a), n, int(t.size), sd, covariance, at_limit)
