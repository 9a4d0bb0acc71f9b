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
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import ArrayLike, NDArray

from assayer.core.stats import special

if TYPE_CHECKING:
    from scipy.interpolate import CubicHermiteSpline

Floats = NDArray[np.float64]

_STEP = 0.02
_W_MAX = 18.0
"""Beyond this, 1 − W_k < k² · 10⁻³⁵: nothing is left."""
_TAIL = 1e-13


_LEAST = 1e-300
"""What is smaller has no logarithm."""

_FEW_DF = 3.0
"""Fewer degrees of freedom than this spread ln s over a long range, which needs more nodes."""


@lru_cache(maxsize=64)
def _range_tail(k: int) -> CubicHermiteSpline:
    """1 − W_k on a grid of width `_STEP` from 0, with its derivative."""
    # loaded when first needed, as in stats/special.py
    from scipy.interpolate import CubicHermiteSpline

    w = np.arange(0.0, _W_MAX + _STEP, _STEP)[:, None]
    # W_k(w) = k ∫ φ(z) [Φ(z) − Φ(z − w)]^(k−1) dz   (Harter eq. 1, z the greatest of the k values)
    z = np.linspace(-8.5, 8.5, 161)[None, :]
    density = np.exp(-(z**2) / 2) / np.sqrt(2 * np.pi) * (z[0, 1] - z[0, 0])
    within = special.ndtr(z) - special.ndtr(z - w)
    distribution = k * (density * within ** (k - 1)).sum(axis=1)
    # d/dw: φ(z − w) is the density of the smallest value
    lower = np.exp(-((z - w) ** 2) / 2) / np.sqrt(2 * np.pi)
    slope = k * (k - 1) * (density * lower * within ** (k - 2)).sum(axis=1)
    return CubicHermiteSpline(w[:, 0], 1.0 - distribution, -slope)


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
        result[chosen] = (weight * _range_tail(k)(np.minimum(q_[chosen, None] * s, _W_MAX))).sum(axis=1)
    return np.clip(result, 0.0, 1.0)


def upper_quantile(alpha: float, k: int, df: ArrayLike) -> Floats:
    """q with P(Q > q) = alpha, for each df, by the root of ln P against ln q.

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
    """By Chandrupatla's method between far bounds, ln P against ln q, for all pairs at once."""
    tail = _range_tail(k)

    def gap(log_q: Floats, pair: NDArray[np.intp]) -> Floats:
        above = (weight[pair] * tail(np.minimum(np.exp(log_q)[:, None] * s[pair], _W_MAX))).sum(axis=1)
        found: Floats = np.log(np.maximum(above, _LEAST)) - np.log(alpha)
        return found

    pairs = np.arange(weight.shape[0])
    from scipy.optimize.elementwise import find_root

    found = find_root(gap, (np.full(pairs.shape, np.log(1e-4)), np.full(pairs.shape, np.log(1e6))), args=(pairs,), tolerances={"xatol": 1e-12, "xrtol": 0})
    result: Floats = np.exp(found.x)
    return result
