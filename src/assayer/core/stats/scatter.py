"""Scatter within groups, pooled over all of them (METHODS 13); in parts, so that a group that did not change is not reckoned again."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from assayer.core.stats import special


@dataclass(frozen=True, slots=True)
class ScatterPart:
    """What some groups add to a pooled scatter.

    Attributes
    ----------
    groups, n : int
        How many groups, and values in them.
    df : int
        Σ(n−1).
    squares : float
        Σ(n−1)s², in the unit of the values squared.
    clear_df : int
        Σ(n−1) of the groups whose 95 % interval is clear of zero; 0 off a ratio scale.
    clear_squares : float
        Σ(n−1)(s/mean)² of those.
    """

    groups: int
    n: int
    df: int
    squares: float
    clear_df: int
    clear_squares: float


@dataclass(frozen=True, slots=True)
class PooledScatter:
    """How far the values of all groups lie about the means of their own.

    Attributes
    ----------
    groups, n : int
        How many groups, and values in them; groups of one value are counted but say nothing.
    sd : float or None
        √(Σ(n−1)s² / Σ(n−1)), in the unit of the values; None if no group has two values.
    cv : float or None
        The same of s/|mean|; None without a group whose 95 % interval is clear of zero, or off a ratio scale.
    """

    groups: int
    n: int
    sd: float | None
    cv: float | None


def scatter_part(values: Sequence[float], group: Sequence[int], ratio_scale: bool = True) -> ScatterPart:
    """What the groups of some values add, in two passes, so that values far from zero lose nothing.

    Parameters
    ----------
    values : sequence of float, shape (n,)
        At least one.
    group : sequence of int, shape (n,)
        The group of each value: 0, 1 … without a gap.
    ratio_scale : bool
        Whether 0 means "none of it".
    """
    data, of = np.asarray(values, dtype=float), np.asarray(group, dtype=np.intp)
    counts = np.bincount(of)
    means = np.bincount(of, data) / counts
    squares = np.bincount(of, (data - means[of]) ** 2)
    several = counts > 1
    df, means, squares = counts[several] - 1, means[several], squares[several]
    half = special.stdtrit(df, 0.975) * np.sqrt(squares / df / (df + 1))
    clear = (np.abs(means) > half) & ratio_scale
    # the root first: the square of a tiny mean would be nothing
    relative = float(((np.sqrt(squares[clear]) / means[clear]) ** 2).sum())
    return ScatterPart(counts.size, data.size, int(df.sum()), float(squares.sum()), int(df[clear].sum()), relative)


def pooled_scatter(parts: Iterable[ScatterPart]) -> PooledScatter:
    """Pool parts as variances are."""
    own = list(parts)
    df, clear = sum(p.df for p in own), sum(p.clear_df for p in own)
    sd = math.sqrt(math.fsum(p.squares for p in own) / df) if df else None
    cv = math.sqrt(math.fsum(p.clear_squares for p in own) / clear) if clear else None
    return PooledScatter(sum(p.groups for p in own), sum(p.n for p in own), sd, cv)
