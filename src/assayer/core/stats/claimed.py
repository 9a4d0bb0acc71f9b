"""A claimed value or factor held against what was measured (METHODS 15)."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

from assayer.core.errors import EntryError
from assayer.core.stats.groups import GroupSummary, Interval, interval_of_mean, t_quantile
from assayer.core.stats.ratios import ratio_of_means
from assayer.core.stats.verdicts import GoodSide, Margin

FACTOR_BAND = 1.1
"""A measured factor between f/1.1 and 1.1 f is the claimed one."""


class ClaimVerdict(StrEnum):
    AS_CLAIMED = "as claimed"
    BETTER = "better than claimed"
    CONTRADICTED = "contradicted"
    OTHER = "not as claimed"
    """Of a quantity without a good side: certainly another value."""
    UNDECIDED = "undecided"
    NOT_TESTABLE = "not testable"


@dataclass(frozen=True, slots=True)
class ClaimJudgement:
    """`measured` is the mean in the quantity's unit, or the ratio of the means of a claimed factor; `ci95` belongs to it."""

    verdict: ClaimVerdict
    measured: float
    ci95: Interval | None
    reason: str = ""


def judge_value(claimed: float, measured: GroupSummary, margin: Margin, good_side: GoodSide) -> ClaimJudgement:
    """A claimed value, judged as an arm is against a constant.

    *As claimed* where the 90 % interval lies inside claimed ± margin; *better than claimed* or *contradicted* where
    the 95 % interval excludes the claimed value, on the good or the bad side; *undecided* otherwise.

    Parameters
    ----------
    claimed : float
        In the unit of the measured values.
    measured : GroupSummary
    margin : Margin
        A share is of the claimed value.
    good_side : GoodSide
    """
    allowed = margin.value * abs(claimed) if margin.relative else margin.value
    if allowed == 0:
        raise EntryError("a share of a claimed 0 is no margin: give it in the unit of the quantity", "margin")
    if measured.error is None or measured.ci95 is None:
        return ClaimJudgement(ClaimVerdict.NOT_TESTABLE, measured.mean, None, "one specimen alone has no interval")
    if measured.error.variance == 0:
        return ClaimJudgement(ClaimVerdict.NOT_TESTABLE, measured.mean, measured.ci95, "no scatter: enter the reading step of the quantity")
    ci90 = interval_of_mean(measured.mean, measured.error, 0.90)
    alike = ci90.inside(claimed - allowed, claimed + allowed)
    return ClaimJudgement(_verdict(alike, measured.ci95, claimed, good_side), measured.mean, measured.ci95)


def judge_factor(factor: float, measured: GroupSummary, against: GroupSummary, good_side: GoodSide) -> ClaimJudgement:
    """A claimed factor over another material, on the log scale, within the band f/1.1 … 1.1 f.

    Parameters
    ----------
    factor : float
        Above 0; 3 for "three times".
    measured, against : GroupSummary
        Means above 0.
    """
    if not (math.isfinite(factor) and factor > 0):
        raise EntryError(f"a factor is above 0, but got {factor:g}", "claimed_factor")
    ratio = ratio_of_means(measured, against)
    if ratio.ci95 is None or ratio.log_se is None or ratio.df is None:
        return ClaimJudgement(ClaimVerdict.NOT_TESTABLE, ratio.ratio, None, "both need at least two specimens that scatter")
    half = t_quantile(0.95, ratio.df) * ratio.log_se
    ci90 = Interval(ratio.ratio * math.exp(-half), ratio.ratio * math.exp(half))
    alike = ci90.inside(factor / FACTOR_BAND, factor * FACTOR_BAND)
    return ClaimJudgement(_verdict(alike, ratio.ci95, factor, good_side), ratio.ratio, ratio.ci95)


def judge_order(measured: GroupSummary, against: GroupSummary, higher: bool) -> ClaimJudgement:
    """A claim of more, or of less, without a number: as claimed or contradicted where the 95 % interval of the ratio excludes 1.

    Parameters
    ----------
    measured, against : GroupSummary
        Means above 0.
    higher : bool
        Whether more is claimed.
    """
    ratio = ratio_of_means(measured, against)
    if ratio.ci95 is None:
        return ClaimJudgement(ClaimVerdict.NOT_TESTABLE, ratio.ratio, None, "both need at least two specimens that scatter")
    if ratio.ci95.low <= 1 <= ratio.ci95.high:
        return ClaimJudgement(ClaimVerdict.UNDECIDED, ratio.ratio, ratio.ci95)
    return ClaimJudgement(ClaimVerdict.AS_CLAIMED if (ratio.ratio > 1) == higher else ClaimVerdict.CONTRADICTED, ratio.ratio, ratio.ci95)


def _verdict(alike: bool, ci95: Interval, claimed: float, good_side: GoodSide) -> ClaimVerdict:
    if alike:
        return ClaimVerdict.AS_CLAIMED
    if ci95.low <= claimed <= ci95.high:
        return ClaimVerdict.UNDECIDED
    if good_side not in (GoodSide.HIGHER, GoodSide.LOWER):
        return ClaimVerdict.OTHER
    is_better = (ci95.low > claimed) == (good_side is GoodSide.HIGHER)
    return ClaimVerdict.BETTER if is_better else ClaimVerdict.CONTRADICTED
