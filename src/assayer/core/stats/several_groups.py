"""Several groups with unequal variances: Welch's ANOVA and all pairs by Games–Howell.

References
----------
1. B. L. Welch, Biometrika 38 (1951) 330.
2. P. A. Games, J. F. Howell, J. Educ. Stat. 1 (1976) 113.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from assayer.core.errors import EntryError
from assayer.core.stats import special, studentized_range
from assayer.core.stats.groups import GroupSummary, Interval, summarise


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


def _spread(groups: Mapping[str, GroupSummary]) -> dict[str, GroupSummary]:
    return {name: g for name, g in groups.items() if g.n >= 2 and g.sd}


def welch_anova(groups: Mapping[str, GroupSummary]) -> Anova | None:
    """Welch's test that all means are equal; groups of one value or without scatter are left out.

    Returns None where fewer than two groups remain.
    """
    usable = _spread(groups)
    k = len(usable)
    if k < 2:
        return None
    n = np.array([g.n for g in usable.values()], float)
    mean = np.array([g.mean for g in usable.values()])
    weight = 1 / np.array([g.variance_of_mean for g in usable.values()])
    share = weight / weight.sum()
    grand = (share * mean).sum()
    # [1] eq. (27): λ = Σ (1 − w_i/Σw)² / (n_i − 1)
    lam = ((1 - share) ** 2 / (n - 1)).sum()
    f = (weight * (mean - grand) ** 2).sum() / (k - 1) / (1 + 2 * (k - 2) / (k**2 - 1) * lam)
    df1, df2 = k - 1.0, (k**2 - 1) / (3 * lam)
    return Anova(float(f), df1, float(df2), float(special.fdtrc(df1, df2, f)))


def games_howell(groups: Mapping[str, GroupSummary]) -> list[Pair]:
    """All pairs with intervals and p that hold jointly, without equal variances.

    Parameters
    ----------
    groups : mapping of name to GroupSummary
        Groups of one value, or without any scatter, are left out.

    Returns
    -------
    list of Pair
        In the order of the mapping, (1, 2), (1, 3) … (k − 1, k).
    """
    usable = _spread(groups)
    names = list(usable)
    k = len(names)
    if k < 2:
        return []
    i, j = np.triu_indices(k, 1)
    n = np.array([usable[x].n for x in names], float)
    mean = np.array([usable[x].mean for x in names])
    variance = np.array([usable[x].variance_of_mean for x in names])
    difference = mean[j] - mean[i]
    total = variance[i] + variance[j]
    df = total**2 / (variance[i] ** 2 / (n[i] - 1) + variance[j] ** 2 / (n[j] - 1))
    # [2]: the range is studentized with sqrt((s_i²/n_i + s_j²/n_j) / 2)
    scale = np.sqrt(total / 2)
    p = studentized_range.survival(np.abs(difference) / scale, k, df)
    half = studentized_range.upper_quantile(0.05, k, df) * scale
    return [
        Pair(names[a], names[b], d, Interval(d - h, d + h), q)
        for a, b, d, h, q in zip(i.tolist(), j.tolist(), difference.tolist(), half.tolist(), p.tolist(), strict=True)
    ]


def group_values(values: Sequence[float], groups: Sequence[str], reading_step: float = 0.0, ratio_scale: bool = True) -> dict[str, GroupSummary]:
    """Summaries by group, in order of first appearance."""
    if len(values) != len(groups):
        raise EntryError(f"values and groups must be equally long, but got {len(values)} and {len(groups)}", "groups")
    sorted_values: dict[str, list[float]] = {}
    for value, group in zip(values, groups, strict=True):
        sorted_values.setdefault(group, []).append(value)
    return {name: summarise(v, reading_step, ratio_scale) for name, v in sorted_values.items()}
