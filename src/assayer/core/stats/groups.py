"""One group of values: its summary and the interval of its mean."""

from __future__ import annotations

import math
import statistics
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

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
class MeanError:
    """How precisely a mean is known, in a form in which the errors of several means can be added (METHODS 13, 15).

    Attributes
    ----------
    variance : float
        Of the mean, in its unit squared (of its logarithm: relative).
    df : float
        Degrees of freedom of the group's own scatter.
    shared : float
        Part of `variance` that rests on a batch-to-within ratio pooled over several groups; 0 without one.
    shared_df : float
        Degrees of freedom of that ratio.
    pool : str
        Which pooled ratio it is; parts of one pool are not independent of each other.
    """

    variance: float
    df: float
    shared: float = 0.0
    shared_df: float = math.inf
    pool: str = ""

    def scaled(self, factor: float) -> MeanError:
        """The error of a multiple of the mean, given the square of the multiplier."""
        return replace(self, variance=self.variance * factor, shared=self.shared * factor)

    def with_added(self, n: int, added: int) -> MeanError:
        """The same scatter with `added` more values than the `n` there are; in batches, of the same size as before."""
        factor = (n + added) / n
        df = self.df * factor if self.pool else self.df + added
        return replace(self, variance=self.variance / factor, df=df, shared=self.shared / factor, shared_df=self.shared_df * factor)


def combined_error(errors: Iterable[MeanError]) -> tuple[float, float]:
    """Variance of a sum or difference of means, and its degrees of freedom (Welch–Satterthwaite).

    Notes
    -----
    METHODS 15: df = (Σ v)² / [Σ v²/df + Σ over pools (Σ shared)²/df_Φ], since a ratio pooled over groups is in
    error in all of them at once. Without pools this is Welch's formula.
    """
    terms = list(errors)
    total = math.fsum(e.variance for e in terms)
    pools: dict[tuple[str, float], float] = defaultdict(float)
    for e in terms:
        pools[e.pool, e.shared_df] += e.shared
    spread = math.fsum(e.variance**2 / e.df for e in terms) + math.fsum(part**2 / df for (_, df), part in pools.items())
    return total, total**2 / spread if spread else math.inf


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
    error : MeanError or None
        What `ci95` and comparisons rest on: s²/n with n − 1 df, or that of METHODS 15 where batch is a random
        effect; None for n = 1.
    batches : int
        How many batches the values come from, where that was taken into account; 0 where it was not.
    within_sd : float or None
        Scatter within batches, where it was taken into account and a batch has two values.
    ci95_new_batch : Interval or None
        For a group of one batch: the interval of the mean over batches, by the batch scatter of the other groups.
    """

    n: int
    mean: float
    sd: float | None
    cv: float | None
    ci95: Interval | None
    median: float
    minimum: float
    maximum: float
    error: MeanError | None = None
    batches: int = 0
    within_sd: float | None = None
    ci95_new_batch: Interval | None = None


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
    order = (statistics.median(ordered), ordered[0], ordered[-1])
    if n == 1:
        return GroupSummary(n, mean, None, None, None, *order)
    # a product may become infinite, a power would raise
    variance = math.fsum((v - mean) * (v - mean) for v in ordered) / (n - 1)
    sd = math.sqrt(max(variance, reading_step**2 / 12))
    error = MeanError(sd**2 / n, n - 1.0)
    ci95 = interval_of_mean(mean, error)
    cv = sd / abs(mean) if ratio_scale and ci95.clear_of_zero else None
    return GroupSummary(n, mean, sd, cv, ci95, *order, error)


def summarise_reported(mean: float, sd: float, n: int) -> Interval | None:
    """The 95 % t interval of a mean that somebody reports with its scatter; None for fewer than two specimens."""
    return interval_of_mean(mean, MeanError(sd**2 / n, n - 1.0)) if n > 1 else None


def interval_of_mean(mean: float, error: MeanError, level: float = 0.95) -> Interval:
    """The two-sided t interval of one mean."""
    variance, df = combined_error([error])
    half = t_quantile((1 + level) / 2, df) * math.sqrt(variance)
    return Interval(mean - half, mean + half)
