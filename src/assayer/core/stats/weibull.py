"""Two-parameter Weibull by maximum likelihood, lower bounds right-censored (METHODS 13)."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from assayer.core.errors import EntryError
from assayer.core.stats.groups import Interval

LEAST_BREAKS = 3
_CHI2_95 = 3.841458820694124
"""Upper 5 % point of χ² with one degree of freedom."""
_SHAPES = (0.05, 500.0)


@dataclass(frozen=True, slots=True)
class Weibull:
    """Shape and scale (in the unit of the values), the mean scale·Γ(1 + 1/shape), and its 95 % profile-likelihood interval."""

    shape: float
    scale: float
    mean: float
    ci95: Interval


def fit_weibull(exact: Sequence[float], at_least: Sequence[float] = ()) -> Weibull:
    """Fit exact values and lower bounds together.

    Parameters
    ----------
    exact : sequence of float
        Values as they broke, at least three, above 0.
    at_least : sequence of float
        Values that the true ones reach or exceed.

    Raises
    ------
    EntryError
        If there are fewer than three breaks, a value is not above 0, or all are one.

    Notes
    -----
    ln L = Σ_exact (ln k − k ln λ + (k − 1) ln x − (x/λ)^k) − Σ_bounds (x/λ)^k. The shape solves the one
    equation that is left once λ^k = Σ x^k / r. The interval of the mean m holds all m with
    2 (ln L_max − max_k ln L(k, λ = m/Γ(1 + 1/k))) ≤ χ²₁.
    """
    x, c = np.asarray(exact, float), np.asarray(at_least, float)
    if x.size < LEAST_BREAKS:
        raise EntryError(f"a Weibull fit needs at least {LEAST_BREAKS} breaks, but there are {x.size}", "values")
    every = np.concatenate([x, c])
    if not np.all(np.isfinite(every)) or not np.all(every > 0):
        raise EntryError("a Weibull fit needs values above 0", "values")
    if np.ptp(x) == 0 and not np.any(c > x[0]):
        raise EntryError("all values are one: nothing tells their spread", "values")
    logs, all_logs, top = np.log(x), np.log(every), float(np.log(every).max())

    def slope(k: float) -> float:
        weights = np.exp(k * (all_logs - top))
        return float((weights * all_logs).sum() / weights.sum() - 1 / k - logs.mean())

    shape = _root(slope)
    scale = math.exp(top + (math.log(np.exp(shape * (all_logs - top)).sum()) - math.log(x.size)) / shape)
    mean = scale * math.gamma(1 + 1 / shape)

    def log_likelihood(k: float, log_scale: float) -> float:
        return float(x.size * (math.log(k) - k * log_scale) + (k - 1) * logs.sum() - np.exp(np.minimum(k * (all_logs - log_scale), 700.0)).sum())

    best = log_likelihood(shape, math.log(scale))

    # fetched at the first fit: loading it takes longer than the rest of a start
    from scipy.optimize import minimize_scalar

    def profile(m: float) -> float:
        def negative(log_k: float) -> float:
            k = math.exp(log_k)
            return -log_likelihood(k, math.log(m) - math.lgamma(1 + 1 / k))

        found = minimize_scalar(negative, bounds=(math.log(shape / 30), math.log(shape * 30)), method="bounded", options={"xatol": 1e-9})
        return 2 * (best + float(found.fun)) - _CHI2_95

    return Weibull(shape, scale, mean, Interval(_end(profile, mean, -1), _end(profile, mean, 1)))


def _root(slope: Callable[[float], float]) -> float:
    from scipy.optimize import brentq

    low, high = _SHAPES
    if slope(high) < 0:
        raise EntryError("the values are too alike for a Weibull fit", "values")
    return float(brentq(slope, low, high, xtol=1e-12))


def _end(profile: Callable[[float], float], mean: float, side: int) -> float:
    """Where the profile leaves the interval on one side of the mean."""
    from scipy.optimize import brentq

    step = 0.02
    while step < 20:
        at = mean * (1 + step) if side > 0 else mean / (1 + step)
        if profile(at) > 0:
            return float(brentq(profile, min(mean, at), max(mean, at), xtol=1e-9 * mean))
        step *= 1.6
    return math.inf if side > 0 else 0.0


def plotting_positions(exact: Sequence[float], at_least: Sequence[float] = ()) -> list[tuple[float, float]]:
    """The share of specimens that broke up to each break, in ascending order.

    Parameters
    ----------
    exact, at_least : sequence of float
        Breaks, and lower bounds.

    Returns
    -------
    list of (value, share)
        Benard's approximation of the median rank; where bounds lie below a break, Johnson's adjusted rank.

    References
    ----------
    1. L. G. Johnson, The Statistical Treatment of Fatigue Experiments (1964).
    2. A. Benard, E. C. Bos-Levenbach, Statistica Neerlandica 7 (1953) 163.
    """
    # a bound at the value of a break lies beyond it
    every = sorted([(v, False) for v in exact] + [(v, True) for v in at_least])
    n, rank, points = len(every), 0.0, []
    for i, (value, is_bound) in enumerate(every):
        if is_bound:
            continue
        rank += (n + 1 - rank) / (1 + n - i)
        points.append((value, (rank - 0.3) / (n + 0.4)))
    return points
