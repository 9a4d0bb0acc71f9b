"""Batch as a random effect: means and intervals that hold beyond the prints that were tested (METHODS 15)."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from assayer.core.errors import EntryError
from assayer.core.stats.groups import GroupSummary, MeanError, interval_of_mean, summarise

FEW_BATCHES = 4
"""Below so many degrees of freedom between batches the intervals cover 92–97 % instead of 94–97 % (simulated)."""


@dataclass(frozen=True, slots=True)
class BatchScatter:
    """The sums of one group that its batch and within-batch scatter follow from.

    Attributes
    ----------
    n, batches : int
        Values N, and batches b that they come from.
    sizes_squared : float
        Σ n_j² over the batches.
    within, between : float
        Sums of squares about the batch means, and of the batch means about the mean; in the unit squared.
    """

    n: int
    batches: int
    sizes_squared: float
    within: float
    between: float

    @property
    def df_within(self) -> int:
        return self.n - self.batches

    @property
    def df_between(self) -> int:
        return self.batches - 1

    def within_variance(self, reading_step: float = 0.0) -> float | None:
        """s², at least r²/12; None where no batch has two values."""
        return max(self.within / self.df_within, reading_step**2 / 12) if self.df_within else None


@dataclass(frozen=True, slots=True)
class BatchRatio:
    """Batch-to-within scatter, pooled over the groups of two batches and more.

    Attributes
    ----------
    phi : float
        Φ: mean square between batches over the variance within, pooled.
    n0 : float
        Mean size of a batch, as the variance components need it.
    df_between, df_within : float
        Σ (b − 1) and Σ (N − b) over those groups.
    """

    phi: float
    n0: float
    df_between: float
    df_within: float

    @property
    def ratio(self) -> float:
        """Standard deviation of the batches over that within them; 0 where the batches differ no more than chance makes them."""
        return math.sqrt(max(0.0, (self.phi - 1) / self.n0))

    @property
    def df(self) -> float:
        """1/df_Φ = 1/df_B + 1/df_W."""
        return 1 / (1 / self.df_between + 1 / self.df_within)

    @property
    def few(self) -> bool:
        return self.df_between < FEW_BATCHES


def pool_of_tests(ratios: Iterable[BatchRatio]) -> BatchRatio | None:
    """The usual ratio of a method, from those of several tests; None without any."""
    parts = list(ratios)
    df = sum(r.df_between for r in parts)
    if not df:
        return None
    phi = sum(r.phi * r.df_between for r in parts) / df
    n0 = sum(r.n0 * r.df_between for r in parts) / df
    return BatchRatio(phi, n0, df, sum(r.df_within for r in parts))


@dataclass(frozen=True, slots=True)
class BatchedGroups:
    """Summaries by group; `batch_ratio` is None where no group has two batches that can be told apart from scatter."""

    groups: dict[str, GroupSummary]
    batch_ratio: BatchRatio | None


def batch_scatter(values: Sequence[float], batches: Sequence[str]) -> BatchScatter:
    """The sums of one group.

    Parameters
    ----------
    values : sequence of float, shape (n,)
    batches : sequence of str, shape (n,)
        The batch of each value.

    Raises
    ------
    EntryError
        If the two are not equally long.
    """
    if len(values) != len(batches):
        raise EntryError(f"values and batches must be equally long, but got {len(values)} and {len(batches)}", "batches")
    data = np.asarray(values, float)
    _, index = np.unique(np.asarray(batches, dtype=str), return_inverse=True)
    sizes = np.bincount(index)
    means = np.bincount(index, data) / sizes
    within = float(((data - means[index]) ** 2).sum())
    between = float((sizes * (means - data.mean()) ** 2).sum())
    return BatchScatter(data.size, sizes.size, float((sizes.astype(float) ** 2).sum()), within, between)


def pooled_batch_ratio(scatters: Sequence[tuple[BatchScatter, float]]) -> BatchRatio | None:
    """Pool the ratio of batch to within scatter over groups that may scatter unequally.

    Parameters
    ----------
    scatters : sequence of (BatchScatter, reading step)

    Returns
    -------
    BatchRatio or None
        None where no group has two batches, scatter within them and a batch of two values.

    Notes
    -----
    METHODS 15: Φ = Σ_i [SS_Bi/s_i² · (N − b − 2)/(N − b)] / df_B (the correction, of the mean of 1/χ², only where
    N − b > 2), n₀ = Σ_i (N − Σ n_j²/N)/df_B. What is pooled is the ratio, not the scatters: those of the groups differ.
    """
    phi = n0 = 0.0
    df_between = df_within = 0
    for scatter, step in scatters:
        variance = scatter.within_variance(step)
        if scatter.df_between == 0 or not variance:
            continue
        correction = (scatter.df_within - 2) / scatter.df_within if scatter.df_within > 2 else 1.0
        phi += scatter.between / variance * correction
        n0 += scatter.n - scatter.sizes_squared / scatter.n
        df_between += scatter.df_between
        df_within += scatter.df_within
    return BatchRatio(phi / df_between, n0 / df_between, df_between, df_within) if df_between else None


def summarise_batched(
    values: Mapping[str, Sequence[float]],
    batches: Mapping[str, Sequence[str]],
    reading_steps: Mapping[str, float] | None = None,
    ratio_scale: bool = True,
    pool: str = "test",
) -> BatchedGroups:
    """Summaries of the groups of one test, with batch as a random effect where a group has two batches.

    Parameters
    ----------
    values, batches : mapping of group to sequence, shape (n,)
        Values, and the batch of each.
    reading_steps : mapping of group to float, optional
        r; the variance within batches is taken as at least r²/12.
    ratio_scale : bool
        Whether 0 means "none of it".
    pool : str
        Names the pooled ratio; errors of groups of other tests must have another name.

    Notes
    -----
    A group of one batch keeps the interval of these prints; `ci95_new_batch` is the one that the batch scatter of
    the other groups gives it. A group whose batches have one value each has its batches as replicates already.
    """
    steps = {name: (reading_steps or {}).get(name, 0.0) for name in values}
    scatters = {name: batch_scatter(own, batches[name]) for name, own in values.items()}
    ratio = pooled_batch_ratio([(scatters[name], steps[name]) for name in values])
    groups = {}
    for name, own in values.items():
        plain = summarise(own, steps[name], ratio_scale)
        scatter = scatters[name]
        variance = scatter.within_variance(steps[name])
        group = replace(plain, batches=scatter.batches, within_sd=None if variance is None else math.sqrt(variance))
        error = _error(scatter, variance, ratio, pool)
        if error is not None:
            if scatter.batches > 1:
                # cv stays that of the specimens: few batches widen the interval, they do not make a mean of nothing
                group = replace(group, error=error, ci95=interval_of_mean(plain.mean, error))
            else:
                group = replace(group, ci95_new_batch=interval_of_mean(plain.mean, error))
        groups[name] = group
    return BatchedGroups(groups, ratio)


def _error(scatter: BatchScatter, variance: float | None, ratio: BatchRatio | None, pool: str) -> MeanError | None:
    """METHODS 15: v = s² (a Φ + 1/N − a) with a = Σ n_j²/(N² n₀); None where the plain s²/N stands."""
    if variance == 0 and scatter.between > 0:
        # batches that differ and have no scatter in themselves: the batch means are the replicates
        n0 = (scatter.n - scatter.sizes_squared / scatter.n) / scatter.df_between
        mean_square = scatter.between / scatter.df_between
        return MeanError(mean_square * scatter.sizes_squared / (scatter.n**2 * n0), float(scatter.df_between))
    if not variance or ratio is None or ratio.phi <= 1:
        return None
    a = scatter.sizes_squared / (scatter.n**2 * ratio.n0)
    shared = variance * a * ratio.phi
    return MeanError(shared + variance * (1 / scatter.n - a), float(scatter.df_within), shared, ratio.df, pool)


def batch_notes(groups: Mapping[str, GroupSummary], ratio: BatchRatio | None) -> list[str]:
    """What a reader must know of the batches behind the intervals of one test."""
    notes = []
    once = [name for name, g in groups.items() if g.batches == 1]
    if once:
        notes.append(f"one batch of {', '.join(once)}: valid for these prints")
    if ratio is not None and ratio.few:
        notes.append("few batches: the intervals cover 92–97 % instead of 95 %")
    return notes
