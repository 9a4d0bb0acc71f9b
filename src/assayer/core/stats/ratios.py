"""The ratio of two group means with an interval on the log scale (METHODS 2)."""

from __future__ import annotations

import math
from dataclasses import dataclass

from assayer.core.errors import EntryError
from assayer.core.stats.groups import GroupSummary, Interval, t_quantile


@dataclass(frozen=True, slots=True)
class RatioOfMeans:
    """Ratio of two means.

    Attributes
    ----------
    ratio : float
        mean of the first / mean of the second.
    ci95 : Interval or None
        From the log ratio; None where either n = 1.
    log_se, df : float or None
        Standard error of ln ratio and its Welch–Satterthwaite degrees of freedom.
    """

    ratio: float
    ci95: Interval | None
    log_se: float | None
    df: float | None


def ratio_of_means(first: GroupSummary, second: GroupSummary) -> RatioOfMeans:
    """first / second, with var(ln ratio) = s1²/(n1 m1²) + s2²/(n2 m2²).

    Raises
    ------
    EntryError
        If a mean is not positive: a ratio needs a ratio scale.
    """
    if first.mean <= 0 or second.mean <= 0:
        raise EntryError("a ratio needs two means above 0")
    ratio = first.mean / second.mean
    if first.sd is None or second.sd is None or (first.sd == 0 and second.sd == 0):
        return RatioOfMeans(ratio, None, None, None)
    terms = [g.variance_of_mean / g.mean**2 for g in (first, second)]
    variance = sum(terms)
    df = variance**2 / sum(t**2 / (g.n - 1) for t, g in zip(terms, (first, second), strict=True))
    log_se = math.sqrt(variance)
    half = t_quantile(0.975, df) * log_se
    return RatioOfMeans(ratio, Interval(ratio * math.exp(-half), ratio * math.exp(half)), log_se, df)
