"""One group of values: its summary and the interval of its mean."""

from __future__ import annotations

import math
import statistics
from collections.abc import Sequence
from dataclasses import dataclass

from assayer.core.errors import EntryError
from assayer.core.stats import special


@dataclass(frozen=True, slots=True)
class Interval:
    """A closed interval; in the unit of the quantity it belongs to."""

    low: float
    high: float

    def inside(self, low: float, high: float) -> bool:
        return low < self.low and self.high < high

    @property
    def clear_of_zero(self) -> bool:
        return self.low > 0 or self.high < 0


@dataclass(frozen=True, slots=True)
class GroupSummary:
    """Summary of one group.

    Attributes
    ----------
    n : int
        Number of values.
    mean, sd, median, minimum, maximum : float
        In the unit of the values; `sd` is None for n = 1.
    cv : float or None
        sd / mean; None without a ratio scale or where the 95 % interval is not clear of 0.
    ci95 : Interval or None
        Student's t interval of the mean; None for n = 1.
    """

    n: int
    mean: float
    sd: float | None
    cv: float | None
    ci95: Interval | None
    median: float
    minimum: float
    maximum: float

    @property
    def variance_of_mean(self) -> float:
        """s²/n; only for n ≥ 2."""
        assert self.sd is not None
        return self.sd**2 / self.n


def t_quantile(probability: float, df: float) -> float:
    """Quantile of Student's t; `scipy.stats` is not needed for it and takes long to load."""
    return float(special.stdtrit(df, probability))


def mean_of(values: Sequence[float]) -> float:
    """The mean of at least one value, also where their sum is beyond the largest number."""
    try:
        return statistics.fmean(values)
    except OverflowError:
        return math.fsum(v / len(values) for v in values)


def summarise(values: Sequence[float], reading_step: float = 0.0, ratio_scale: bool = True) -> GroupSummary:
    """Summarise one group of values.

    Parameters
    ----------
    values : sequence of float, shape (n,)
        n ≥ 1 finite values.
    reading_step : float
        r, the step in which the quantity is read; s² is taken as at least r²/12, the variance of a
        reading that may lie anywhere within its step.
    ratio_scale : bool
        Whether 0 means "none of it"; only then is there a coefficient of variation.

    Raises
    ------
    EntryError
        If there is no value, or one is not finite.
    """
    # groups are small and there are many: what NumPy does before it reckons takes longer than to reckon
    ordered = sorted(map(float, values))
    if not ordered:
        raise EntryError("a group needs at least one value", "values")
    if not all(map(math.isfinite, ordered)):
        wrong = next(i for i, v in enumerate(values, 1) if not math.isfinite(v))
        raise EntryError(f"value {wrong} of the group is not a finite number", "values")
    n, mean = len(ordered), mean_of(ordered)
    common = {"median": statistics.median(ordered), "minimum": ordered[0], "maximum": ordered[-1]}
    if n == 1:
        return GroupSummary(n, mean, None, None, None, **common)
    # a product may become infinite, a power would raise
    variance = math.fsum((v - mean) * (v - mean) for v in ordered) / (n - 1)
    sd = math.sqrt(max(variance, reading_step**2 / 12))
    half = t_quantile(0.975, n - 1) * sd / math.sqrt(n)
    ci95 = Interval(mean - half, mean + half)
    cv = sd / abs(mean) if ratio_scale and ci95.clear_of_zero else None
    return GroupSummary(n, mean, sd, cv, ci95, **common)
