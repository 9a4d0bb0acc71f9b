"""Verdicts against one reference: better, worse, equivalent or undecided (METHODS 13)."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum

import numpy as np

from assayer.core.errors import EntryError
from assayer.core.stats import special
from assayer.core.stats.groups import GroupSummary, Interval
from assayer.core.stats.ratios import RatioOfMeans

MOST_ADDED = 50
"""More specimens are not proposed beyond this many in each arm."""


class GoodSide(StrEnum):
    """Which way a quantity is good."""

    HIGHER = "higher"
    LOWER = "lower"
    NEAR = "near"
    """Near a target: what is less far off, on either side, is better."""
    NONE = "none"


class VerdictWord(StrEnum):
    BETTER = "better"
    WORSE = "worse"
    HIGHER = "higher"
    LOWER = "lower"
    EQUIVALENT = "equivalent"
    UNDECIDED = "undecided"
    NONE = "no verdict"


@dataclass(frozen=True, slots=True)
class Margin:
    """The smallest difference that matters: absolute, or a share of the reference mean."""

    value: float
    relative: bool = True

    def __post_init__(self) -> None:
        if not (math.isfinite(self.value) and self.value > 0):
            raise EntryError(f"the margin must be greater than 0, but got {self.value:g}", "margin")

    @classmethod
    def parse(cls, text: str | float) -> Margin:
        """Read "10%" as relative and "1.8" as absolute; a number is a relative share."""
        from assayer.core.quantities.units import parse_number

        if isinstance(text, str):
            stripped = text.strip()
            if stripped.endswith("%"):
                return cls(parse_number(stripped[:-1], "margin") / 100)
            return cls(parse_number(stripped, "margin"), relative=False)
        return cls(float(text))

    def absolute(self, reference: GroupSummary) -> float | None:
        """The margin in the unit of the quantity; None if a percentage makes no sense for it."""
        if not self.relative:
            return self.value
        if reference.mean == 0 or (reference.ci95 is not None and reference.cv is None):
            return None
        return self.value * abs(reference.mean)


@dataclass(frozen=True, slots=True)
class GroupBounds:
    """How many values of a group are bounds that were taken at face value."""

    at_least: int = 0
    at_most: int = 0


@dataclass(frozen=True, slots=True)
class Verdict:
    """The verdict on one group against the reference.

    Attributes
    ----------
    difference : float
        Mean of the group − mean of the reference.
    ci95, ci90 : Interval or None
        Welch intervals of the difference at 1 − 0.05/k and 1 − 0.10/k for k groups against one
        reference; None where a side has n = 1.
    margin : float or None
        Smallest difference that matters, in the quantity's unit.
    p_equivalence : float or None
        The larger of the two one-sided p (not adjusted for k).
    more_specimens : int or None
        Least equal addition to both arms that decides if means and sds stay; None if decided, or if
        more than 50 would be needed.
    notes : list of str
        Why there is no verdict, or what stands beside it.
    """

    group: str
    difference: float
    ci95: Interval | None
    ci90: Interval | None
    word: VerdictWord
    margin: float | None
    p_equivalence: float | None = None
    more_specimens: int | None = None
    notes: list[str] = field(default_factory=list)


def decide(
    reference: GroupSummary,
    groups: Mapping[str, GroupSummary],
    margin: Margin | None = None,
    good_side: GoodSide = GoodSide.HIGHER,
    bounds: Mapping[str, GroupBounds] | None = None,
    reference_bounds: GroupBounds | None = None,
    target: float = 0.0,
) -> list[Verdict]:
    """Compare each group with the reference.

    Tried in this order: *equivalent* if the 90 % interval of the difference lies inside ± margin;
    *better* or *worse* if the 95 % interval is clear of 0; *undecided* otherwise. All intervals are
    Welch's, widened for the k groups compared with the one reference (Bonferroni), without a pretest.

    Parameters
    ----------
    reference : GroupSummary
    groups : mapping of name to GroupSummary
        The k groups that are compared with it.
    margin : Margin, optional
        Default: 10 % of the reference mean.
    good_side : GoodSide
        With NONE the verdicts read "higher" and "lower".
    bounds, reference_bounds
        Where values are "at least" or "at most": a verdict that truer values could overturn is withdrawn.
    target : float
        With NEAR: what the means should be near. Better is what is nearer than the reference on either side
        of it: mean and mirrored mean of the reference both clear of the group's.

    Returns
    -------
    list of Verdict
        In the order of `groups`.
    """
    used_margin = margin or Margin(0.10)
    k = sum(1 for g in groups.values() if g.n >= 2) or 1
    return [
        _decide_one(name, reference, group, used_margin, (good_side, target), k, (bounds or {}).get(name, GroupBounds()), reference_bounds or GroupBounds())
        for name, group in groups.items()
    ]


def _decide_one(
    name: str,
    reference: GroupSummary,
    group: GroupSummary,
    margin: Margin,
    good: tuple[GoodSide, float],
    k: int,
    bounds: GroupBounds,
    reference_bounds: GroupBounds,
) -> Verdict:
    good_side, target = good
    difference = group.mean - reference.mean
    absolute = margin.absolute(reference)
    if group.sd is None or reference.sd is None:
        which = "the reference" if reference.sd is None else "this arm"
        return Verdict(name, difference, None, None, VerdictWord.NONE, absolute, notes=[f"one value alone has no interval: {which} needs at least two"])
    if group.sd == 0 and reference.sd == 0:
        return Verdict(name, difference, None, None, VerdictWord.NONE, absolute, notes=["no scatter in either arm: enter the reading step of the quantity"])
    if absolute is None:
        return Verdict(name, difference, None, None, VerdictWord.NONE, None, notes=["a percentage has no meaning here: set an absolute margin"])

    variances = np.array([[reference.sd**2], [group.sd**2]])
    counts = np.array([[reference.n], [group.n]], float)
    half95, half90, se, df = _half_widths(variances, counts, k)
    ci95 = Interval(difference - float(half95[0]), difference + float(half95[0]))
    ci90 = Interval(difference - float(half90[0]), difference + float(half90[0]))
    p_equivalence = float(special.stdtr(df[0], (abs(difference) - absolute) / se[0]))
    found = Verdict(name, difference, ci95, ci90, VerdictWord.UNDECIDED, absolute, p_equivalence)

    if ci90.inside(-absolute, absolute):
        notes = ["real, but smaller than matters"] if ci95.clear_of_zero else []
        found = replace(found, word=VerdictWord.EQUIVALENT, notes=notes)
    elif good_side is GoodSide.NEAR:
        found = _nearer(found, reference.mean - target, group.mean - target, float(half95[0]))
        if found.word is VerdictWord.UNDECIDED:
            return found
    elif ci95.clear_of_zero:
        found = replace(found, word=_named(difference > 0, good_side))
    else:
        return replace(found, more_specimens=_more_specimens(difference, variances, counts, absolute, k))
    return _withdraw_if_bounds_could_overturn(found, bounds, reference_bounds, good_side)


def decide_ratios(
    reference: RatioOfMeans,
    groups: Mapping[str, RatioOfMeans],
    margin: Margin | None = None,
    good_side: GoodSide = GoodSide.HIGHER,
    bounds: Mapping[str, GroupBounds] | None = None,
    reference_bounds: GroupBounds | None = None,
) -> list[Verdict]:
    """Compare ratios with a reference ratio, as logs: in the same order as `decide`, with the margin ln(1 + share).

    Differences and intervals of the verdicts are of the logarithm; `exp` of one is how many times the
    reference it is. Each ratio brings its own standard error and degrees of freedom; those of the
    difference follow Welch–Satterthwaite.
    """
    used = margin or Margin(0.10)
    log_margin = math.log1p(used.value)
    k = sum(1 for g in groups.values() if g.log_se is not None) or 1
    found = []
    for name, group in groups.items():
        difference = math.log(group.ratio / reference.ratio)
        if group.log_se is None or reference.log_se is None or group.df is None or reference.df is None:
            found.append(Verdict(name, difference, None, None, VerdictWord.NONE, log_margin, notes=["a ratio needs two specimens on either side of its line"]))
            continue
        terms = (group.log_se**2, reference.log_se**2)
        se = math.sqrt(sum(terms))
        df = sum(terms) ** 2 / (terms[0] ** 2 / group.df + terms[1] ** 2 / reference.df)
        half95, half90 = float(special.stdtrit(df, 1 - 0.025 / k)) * se, float(special.stdtrit(df, 1 - 0.05 / k)) * se
        ci95 = Interval(difference - half95, difference + half95)
        ci90 = Interval(difference - half90, difference + half90)
        verdict = Verdict(name, difference, ci95, ci90, VerdictWord.UNDECIDED, log_margin)
        if ci90.inside(-log_margin, log_margin):
            notes = ["real, but smaller than matters"] if ci95.clear_of_zero else []
            verdict = replace(verdict, word=VerdictWord.EQUIVALENT, notes=notes)
        elif ci95.clear_of_zero:
            verdict = replace(verdict, word=_named(difference > 0, good_side))
        else:
            found.append(verdict)
            continue
        found.append(_withdraw_if_bounds_could_overturn(verdict, (bounds or {}).get(name, GroupBounds()), reference_bounds or GroupBounds(), good_side))
    return found


def _nearer(found: Verdict, reference: float, group: float, half95: float) -> Verdict:
    """Better where the group is nearer to the target than the reference and than its mirror image, worse where it is further off than both."""
    gap = abs(group) - abs(reference)
    if abs(gap) > half95:
        return replace(found, word=VerdictWord.BETTER if gap < 0 else VerdictWord.WORSE)
    other_side = reference * group < 0 and abs(group - reference) > half95
    return replace(found, notes=["off to the other side of the target, about as far"] if other_side else [])


def _named(is_higher: bool, good_side: GoodSide) -> VerdictWord:
    if good_side is GoodSide.NONE:
        return VerdictWord.HIGHER if is_higher else VerdictWord.LOWER
    return VerdictWord.BETTER if is_higher == (good_side is GoodSide.HIGHER) else VerdictWord.WORSE


def _withdraw_if_bounds_could_overturn(found: Verdict, bounds: GroupBounds, reference: GroupBounds, good_side: GoodSide) -> Verdict:
    """True values beyond their bounds move the difference one way; a verdict that lies that way stands."""
    may_rise = bounds.at_least > 0 or reference.at_most > 0
    may_fall = bounds.at_most > 0 or reference.at_least > 0
    if good_side is GoodSide.NEAR:
        # what is nearer now may pass the target and be further off in truth
        may_rise = may_fall = may_rise or may_fall
    rests_on_bounds = found.word is VerdictWord.EQUIVALENT and (may_rise or may_fall)
    wrong_way = may_fall if found.difference > 0 else may_rise
    if rests_on_bounds or (found.word is not VerdictWord.EQUIVALENT and wrong_way):
        note = f"taken at face value: {found.word}, but some values are only bounds, and the true ones could overturn it"
        return replace(found, word=VerdictWord.UNDECIDED, notes=[note])
    return found


def _half_widths(variances: np.ndarray, counts: np.ndarray, k: int) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Half-widths at 1 − 0.05/k and 1 − 0.10/k, standard error and df; columns are designs to compare."""
    parts = variances / counts
    total = parts.sum(axis=0)
    # Welch–Satterthwaite
    df = total**2 / (parts**2 / (counts - 1)).sum(axis=0)
    se = np.sqrt(total)
    return special.stdtrit(df, 1 - 0.025 / k) * se, special.stdtrit(df, 1 - 0.05 / k) * se, se, df


def _more_specimens(difference: float, variances: np.ndarray, counts: np.ndarray, margin: float, k: int) -> int | None:
    added = np.arange(1, MOST_ADDED + 1)
    half95, half90, _, _ = _half_widths(variances, counts + added, k)
    decided = (np.abs(difference) + half90 < margin) | (np.abs(difference) > half95)
    return int(added[np.argmax(decided)]) if decided.any() else None
