"""The studentized range distribution, integrated for many (q, df) at once.

For k groups, P(Q ≤ q) = ∫ f_ν(s) W_k(q·s) ds, where W_k is the distribution function of the range of k
standard normal values and f_ν the density of s, ν·s² ~ χ²_ν. For one k, W_k depends on a single variable:
it is tabulated once with its derivative and read by cubic Hermite interpolation, which leaves one
one-dimensional integral a pair. That integral is taken over y = ln s by the trapezoidal rule, which
converges exponentially for a smooth integrand that vanishes at both ends.

References
----------
1. H. L. Harter, Ann. Math. Statist. 31 (1960) 1122, eq. (1) and (2).
2. L. N. Trefethen, J. A. C. Weideman, SIAM Review 56 (2014) 385 (trapezoidal rule).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy import special

Floats = NDArray[np.float64]

_STEP = 0.02
_W_MAX = 18.0
"""Beyond this, 1 − W_k < k² · 10⁻³⁵: nothing is left."""
_TAIL = 1e-13


_FEW_DF = 3.0
"""Fewer degrees of freedom than this spread ln s over a long range, which needs more nodes."""


@dataclass(frozen=True)
class _RangeTable:
    """1 − W_k and its derivative on a grid of width `_STEP` from 0."""

    tail: Floats
    slope: Floats

    def read(self, w: Floats) -> tuple[Floats, Floats]:
        """1 − W_k(w) and its derivative by cubic Hermite interpolation."""
        position = np.minimum(w, _W_MAX - 1e-9) / _STEP
        i = position.astype(np.intp)
        t = position - i
        f0, f1 = self.tail[i], self.tail[i + 1]
        d0, d1 = self.slope[i] * _STEP, self.slope[i + 1] * _STEP
        a = 2 * (f0 - f1) + d0 + d1
        b = -3 * (f0 - f1) - 2 * d0 - d1
        value = f0 + t * (d0 + t * (b + t * a))
        slope = (d0 + t * (2 * b + t * 3 * a)) / _STEP
        return value, slope


@lru_cache(maxsize=64)
def _range_table(k: int) -> _RangeTable:
    w = np.arange(0.0, _W_MAX + _STEP, _STEP)[:, None]
    # W_k(w) = k ∫ φ(z) [Φ(z) − Φ(z − w)]^(k−1) dz   (Harter eq. 1, z the greatest of the k values)
    z = np.linspace(-8.5, 8.5, 161)[None, :]
    density = np.exp(-(z**2) / 2) / np.sqrt(2 * np.pi) * (z[0, 1] - z[0, 0])
    within = special.ndtr(z) - special.ndtr(z - w)
    distribution = k * (density * within ** (k - 1)).sum(axis=1)
    # d/dw: φ(z − w) is the density of the smallest value
    lower = np.exp(-((z - w) ** 2) / 2) / np.sqrt(2 * np.pi)
    slope = k * (k - 1) * (density * lower * within ** (k - 2)).sum(axis=1)
    return _RangeTable(1.0 - distribution, -slope)


def _by_spread(df: Floats) -> Iterator[tuple[NDArray[np.intp], Floats, Floats]]:
    """Index sets of few and of many degrees of freedom, each with its nodes s and weights."""
    for few in (True, False):
        chosen = np.flatnonzero((df < _FEW_DF) == few)
        if chosen.size:
            yield chosen, *_scale_nodes(df[chosen], 256 if few else 96)


def _scale_nodes(df: Floats, nodes: int) -> tuple[Floats, Floats]:
    """Nodes s and weights, shape (m, nodes), of the integral over the distribution of s for each df."""
    # y = ln s between the far quantiles of χ²_ν
    low = 0.5 * np.log(np.maximum(2 * special.gammaincinv(df / 2, _TAIL), 1e-280) / df)
    high = 0.5 * np.log(2 * special.gammainccinv(df / 2, _TAIL) / df)
    y = low[:, None] + (high - low)[:, None] * np.linspace(0.0, 1.0, nodes)[None, :]
    # log of f_ν(s)·s up to a constant: ν·y − ν·e^(2y)/2; weights are normalised, so the constant drops out
    exponent = df[:, None] * (y - np.exp(2 * y) / 2)
    weight = np.exp(exponent - exponent.max(axis=1, keepdims=True))
    return np.exp(y), weight / weight.sum(axis=1, keepdims=True)


def survival(q: ArrayLike, k: int, df: ArrayLike) -> Floats:
    """P(Q > q) for k groups.

    Parameters
    ----------
    q, df : array_like, broadcast to shape (m,)
        Studentized range (≥ 0) and degrees of freedom (≥ 1, need not be whole).
    k : int
        Number of groups, at least 2.

    Returns
    -------
    ndarray, shape (m,)
        Absolute error below 1e-9 (checked against SciPy in the tests).
    """
    q_, df_ = np.broadcast_arrays(np.atleast_1d(np.asarray(q, float)), np.atleast_1d(np.asarray(df, float)))
    result = np.empty(df_.shape)
    for chosen, s, weight in _by_spread(df_):
        tail, _ = _range_table(k).read(q_[chosen, None] * s)
        result[chosen] = (weight * tail).sum(axis=1)
    return np.clip(result, 0.0, 1.0)


def upper_quantile(alpha: float, k: int, df: ArrayLike) -> Floats:
    """q with P(Q > q) = alpha, for each df, by Newton's method on ln P against ln q.

    Parameters
    ----------
    alpha : float
        Upper tail probability, 0 < alpha < 1.
    k : int
        Number of groups.
    df : array_like, shape (m,)
        Degrees of freedom, ≥ 1.
    """
    df_ = np.atleast_1d(np.asarray(df, float))
    result = np.empty(df_.shape)
    for chosen, s, weight in _by_spread(df_):
        result[chosen] = _solve(alpha, k, s, weight)
    return result


def _solve(alpha: float, k: int, s: Floats, weight: Floats) -> Floats:
    """Newton's method on ln P against ln q within a bracket, on the pairs that still move."""
    table, pairs = _range_table(k), weight.shape[0]
    low, high = np.full(pairs, np.log(1e-4)), np.full(pairs, np.log(1e6))
    log_q = np.full(pairs, np.log(3.0 + 0.5 * np.log(k)))
    active = np.arange(pairs)
    for _ in range(100):
        at = log_q[active]
        w = np.exp(at)[:, None] * s[active]
        tail, slope = table.read(w)
        p = np.maximum((weight[active] * tail).sum(axis=1), 1e-300)
        low[active], high[active] = np.where(p > alpha, at, low[active]), np.where(p > alpha, high[active], at)
        derivative = (weight[active] * slope * w).sum(axis=1) / p
        newton = at + (np.log(alpha) - np.log(p)) / np.minimum(derivative, -1e-12)
        # outside the bracket Newton's step is not to be trusted: halve instead
        trusted = (newton > low[active]) & (newton < high[active])
        log_q[active] = np.where(trusted, newton, (low[active] + high[active]) / 2)
        # convergence is quadratic: what moved by less than 1e-6 is right to 1e-11
        active = active[~(trusted & (np.abs(newton - at) < 1e-6))]
        if not active.size:
            break
    result: Floats = np.exp(log_q)
    return result
