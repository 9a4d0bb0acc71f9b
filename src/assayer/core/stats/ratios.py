"""The ratio of two group means with an interval on the log scale (METHODS 2)."""

from __future__ import annotations

import math
from dataclasses import dataclass

from assayer.core.errors import EntryError
from assayer.core.stats.groups import GroupSummary, Interval, MeanError, combined_error, t_quantile


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
    above, below : MeanError or None
        Of the logarithms of the two means.
    denominator : str
        Names the mean below the line, so that two ratios that share it can be told; "" where that is not known.
    """

    ratio: float
    ci95: Interval | None
    log_se: float | None
    df: float | None
    above: MeanError | None = None
    below: MeanError | None = None
    denominator: str = ""


def ratio_of_means(first: GroupSummary, second: GroupSummary, denominator: str = "") -> RatioOfMeans:
    """first / second, with var(ln ratio) = v1/m1² + v2/m2², v being the variances of the means.

    Parameters
    ----------
    first, second : GroupSummary
    denominator : str
        Name of the second group, the same in every ratio over it.

    Raises
    ------
    EntryError
        If a mean is not positive: a ratio needs a ratio scale.
    """
    if first.mean <= 0 or second.mean <= 0:
        raise EntryError("a ratio needs two means above 0")
    ratio = first.mean / second.mean
    if first.error is None or second.error is None or first.error.variance + second.error.variance == 0:
        return RatioOfMeans(ratio, None, None, None)
    above, below = first.error.scaled(first.mean**-2), second.error.scaled(second.mean**-2)
    variance, df = combined_error([above, below])
    log_se = math.sqrt(variance)
    half = t_quantile(0.975, df) * log_se
    interval = Interval(ratio * math.exp(-half), ratio * math.exp(half))
    return RatioOfMeans(ratio, interval, log_se, df, above, below, denominator)


def errors_of_difference(first: RatioOfMeans, second: RatioOfMeans) -> list[MeanError] | None:
    """What the difference of the logarithms of two ratios is in error by; None where one has no error.

    Two treatments held against one control: ln(A/C) − ln(B/C) = ln A − ln B, so that the control cancels (METHODS 11).
    """
    if first.above is None or first.below is None or second.above is None or second.below is None:
        return None
    if first.denominator and first.denominator == second.denominator:
        shared_control = [first.above, second.above]
        return shared_control if sum(e.variance for e in shared_control) > 0 else None
    return [first.above, first.below, second.above, second.below]
