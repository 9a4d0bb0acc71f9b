"""Several groups with unequal variances: Welch's ANOVA and all pairs by Games–Howell.

References
----------
1. B. L. Welch, Biometrika 38 (1951) 330.
2. P. A. Games, J. F. Howell, J. Educ. Stat. 1 (1976) 113.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from assayer.core.stats import special, studentized_range
from assayer.core.stats.groups import GroupSummary, Interval, MeanError, combined_error


@dataclass(frozen=True, slots=True)
class Anova:
    """Welch's ANOVA: F, its two degrees of freedom, and the probability of a greater F."""

    f: float
    df1: float
    df2: float
    p: float


@dataclass(frozen=True, slots=True)
class Pair:
    """One pair of groups: `difference` = mean of b − mean of a, its joint 95 % interval and p."""

    a: str
    b: str
    difference: float
    ci95: Interval
    p: float


def _with_scatter(groups: Mapping[str, GroupSummary]) -> dict[str, tuple[float, MeanError]]:
    """Mean and error of the groups that have one."""
    return {name: (g.mean, g.error) for name, g in groups.items() if g.error is not None and g.error.variance > 0}


def welch_anova(groups: Mapping[str, GroupSummary]) -> Anova | None:
    """Welch's test that all means are equal; groups of one value or without scatter are excluded.

    Where batch is a random effect in the groups, each mean enters with its own variance and degrees of freedom.
    Returns None where fewer than two groups remain.
    """
    usable = _with_scatter(groups)
    k = len(usable)
    if k < 2:
        return None
    mean = np.array([mean for mean, _ in usable.values()])
    errors = [combined_error([error]) for _, error in usable.values()]
    weight = 1 / np.array([variance for variance, _ in errors])
    df = np.array([df for _, df in errors])
    share = weight / weight.sum()
    grand = (share * mean).sum()
    # [1] eq. (27): λ = Σ (1 − w_i/Σw)² / (n_i − 1)
    lam = ((1 - share) ** 2 / df).sum()
    f = (weight * (mean - grand) ** 2).sum() / (k - 1) / (1 + 2 * (k - 2) / (k**2 - 1) * lam)
    df1, df2 = k - 1.0, (k**2 - 1) / (3 * lam)
    return Anova(float(f), df1, float(df2), float(special.fdtrc(df1, df2, f)))


def games_howell(groups: Mapping[str, GroupSummary]) -> list[Pair]:
    """All pairs with intervals and p that hold jointly, without equal variances.

    Parameters
    ----------
    groups : mapping of name to GroupSummary
        Groups of one value, or without any scatter, are excluded.

    Returns
    -------
    list of Pair
        In the order of the mapping, (1, 2), (1, 3) … (k − 1, k).
    """
    usable = _with_scatter(groups)
    names = list(usable)
    k = len(names)
    if k < 2:
        return []
    i, j = np.triu_indices(k, 1)
    mean = np.array([usable[x][0] for x in names])
    errors = [usable[x][1] for x in names]
    difference = mean[j] - mean[i]
    pairs = [combined_error([errors[a], errors[b]]) for a, b in zip(i, j, strict=True)]
    total, df = (np.array(column) for column in zip(*pairs, strict=True))
    # [2]: the range is studentized with sqrt((s_i²/n_i + s_j²/n_j) / 2)
    scale = np.sqrt(total / 2)
    p = studentized_range.survival(np.abs(difference) / scale, k, df)
    half = studentized_range.upper_quantile(0.05, k, df) * scale
    return [
        Pair(names[a], names[b], d, Interval(d - h, d + h), q)
        for a, b, d, h, q in zip(i.tolist(), j.tolist(), difference.tolist(), half.tolist(), p.tolist(), strict=True)
    ]
