"""A mean as a multiple of the reference's, and what the usual scatter says of too few specimens (METHODS 2, 13, 15)."""

from __future__ import annotations

import math
from dataclasses import dataclass

from assayer.core.stats.groups import GroupSummary, Interval, combined_error, t_quantile
from assayer.core.stats.ratios import ratio_of_means

FEW = 2
"""Up to this many specimens a group's own scatter says next to nothing."""


@dataclass(frozen=True, slots=True)
class Relative:
    """How many times the reference a mean is; `ci95` None where there is no scatter to judge by."""

    factor: float
    ci95: Interval | None


@dataclass(frozen=True, slots=True)
class Provisional:
    """A difference with the interval that the usual scatter of the test gives it; never a verdict.

    `relative` is None where a factor has no meaning.
    """

    difference: float
    ci95: Interval
    relative: Relative | None


def relative_to(reference: GroupSummary, group: GroupSummary, comparisons: int = 1) -> Relative | None:
    """The factor between two means, on the log scale, at the level that is left by several comparisons with one reference.

    Parameters
    ----------
    reference, group : GroupSummary
        Of a quantity with a ratio scale.
    comparisons : int
        How many groups are compared with the reference: the interval is at 1 − 0.05/k.

    Returns
    -------
    Relative or None
        None where a mean is not above 0.
    """
    if reference.mean <= 0 or group.mean <= 0:
        return None
    ratio = ratio_of_means(group, reference)
    if ratio.log_se is None or ratio.df is None:
        return Relative(ratio.ratio, None)
    return Relative(ratio.ratio, _about(ratio.ratio, t_quantile(1 - 0.025 / comparisons, ratio.df) * ratio.log_se))


def provisional(reference: GroupSummary, group: GroupSummary, scatter: float, ratio_scale: bool, comparisons: int = 1) -> Provisional:
    """A difference of means where a group is too small to show its own scatter.

    Parameters
    ----------
    reference, group : GroupSummary
        A group of more than two specimens keeps its own error.
    scatter : float
        Usual standard deviation of the test: a share of the mean with a ratio scale, else in the quantity's unit.
    ratio_scale : bool
    comparisons : int
    """
    terms = []
    for g in (reference, group):
        if g.n > FEW and g.error is not None:
            terms.append(combined_error([g.error]))
        else:
            terms.append(((scatter * (abs(g.mean) if ratio_scale else 1.0)) ** 2 / g.n, math.inf))
    variance = math.fsum(v for v, _ in terms)
    spread = math.fsum(v**2 / df for v, df in terms)
    difference = group.mean - reference.mean
    level = 1 - 0.025 / comparisons
    half = t_quantile(level, variance**2 / spread if spread else math.inf) * math.sqrt(variance)
    relative = None
    if ratio_scale and reference.mean > 0 and group.mean > 0:
        shares = [(v / g.mean**2, df) for (v, df), g in zip(terms, (reference, group), strict=True)]
        total, spread = math.fsum(v for v, _ in shares), math.fsum(v**2 / df for v, df in shares)
        factor = group.mean / reference.mean
        relative = Relative(factor, _about(factor, t_quantile(level, total**2 / spread if spread else math.inf) * math.sqrt(total)))
    return Provisional(difference, Interval(difference - half, difference + half), relative)


def _about(factor: float, half: float) -> Interval:
    """The interval of a factor from the half-width of its logarithm."""
    return Interval(factor * math.exp(-half), factor * math.exp(half))
