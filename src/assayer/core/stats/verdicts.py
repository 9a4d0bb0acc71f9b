"""Verdicts against one reference: better, worse, equivalent or undecided (METHODS 13)."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum

from assayer.core.errors import EntryError
from assayer.core.stats import special
from assayer.core.stats.groups import GroupSummary, Interval, MeanError, combined_error
from assayer.core.stats.ratios import RatioOfMeans, errors_of_difference

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
    """How many values of a group are bounds treated as exact."""

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
        Why there is no verdict, or what qualifies it.
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


SMALL = "real, but smaller than matters"
LARGE = "certainly above the difference that matters"
MAYBE_SMALL = "real, possibly below the difference that matters"
DIRECTION_ONLY = "some values are bounds: the direction cannot be overturned, the size can"


def decide(
    reference: GroupSummary,
    groups: Mapping[str, GroupSummary],
    margin: Margin | None = None,
    good_side: GoodSide = GoodSide.HIGHER,
    bounds: Mapping[str, GroupBounds] | None = None,
    reference_bounds: GroupBounds | None = None,
    target: float = 0.0,
    further: bool = True,
) -> list[Verdict]:
    """Compare each group with the reference.

    Tried in this order: *equivalent* if the 90 % interval of the difference lies inside ± margin;
    *better* or *worse* if the 95 % interval is clear of 0; *undecided* otherwise. The intervals are Welch's, or
    those of METHODS 15 where batch is a random effect, widened for the k groups compared with the one reference
    (Bonferroni), without a pretest.

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
        Where values are "at least" or "at most": a verdict whose direction the true values could overturn is withdrawn.
    target : float
        With NEAR: what the means should be near. Better is what is nearer than the reference on either side
        of it: mean and mirrored mean of the reference both clear of the group's.
    further : bool
        Whether to work out how many more specimens would decide what is undecided.

    Returns
    -------
    list of Verdict
        In the order of `groups`.
    """
    used_margin = margin or Margin(0.10)
    k = sum(1 for g in groups.values() if g.n >= 2) or 1
    return [
        _decide_one(
            name, reference, group, used_margin, (good_side, target), k, (bounds or {}).get(name, GroupBounds()), reference_bounds or GroupBounds(), further
        )
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
    further: bool,
) -> Verdict:
    good_side, target = good
    difference = group.mean - reference.mean
    absolute = margin.absolute(reference)
    if group.error is None or reference.error is None:
        which = "the reference" if reference.error is None else "this arm"
        return Verdict(name, difference, None, None, VerdictWord.NONE, absolute, notes=[f"one value alone has no interval: {which} needs at least two"])
    if group.error.variance == 0 and reference.error.variance == 0:
        return Verdict(name, difference, None, None, VerdictWord.NONE, absolute, notes=["no scatter in either arm: enter the reading step of the quantity"])
    if absolute is None:
        return Verdict(name, difference, None, None, VerdictWord.NONE, None, notes=["a percentage has no meaning here: set an absolute margin"])

    errors = [reference.error, group.error]
    measured = _measured(name, difference, errors, absolute, k)
    if good_side is GoodSide.NEAR and measured.word is not VerdictWord.EQUIVALENT:
        measured = _nearer(measured, reference.mean - target, group.mean - target)
    else:
        measured = _with_direction(measured, good_side)
        if measured.word is VerdictWord.UNDECIDED:
            counts = (reference.n, group.n)
            if not further:
                return measured
            return replace(measured, more_specimens=_more_specimens(difference, errors, counts, absolute, k))
    return _withdraw_if_bounds_could_overturn(measured, bounds, reference_bounds, good_side)


def _measured(name: str, difference: float, errors: Sequence[MeanError], margin: float, k: int) -> Verdict:
    """The intervals of a difference, and whether it is equivalent; undecided otherwise."""
    half95, half90, se, df = _half_widths(errors, k)
    ci95, ci90 = Interval(difference - half95, difference + half95), Interval(difference - half90, difference + half90)
    p_equivalence = float(special.stdtr(df, (abs(difference) - margin) / se))
    if ci90.inside(-margin, margin):
        notes = [SMALL] if ci95.clear_of_zero else []
        return Verdict(name, difference, ci95, ci90, VerdictWord.EQUIVALENT, margin, p_equivalence, notes=notes)
    return Verdict(name, difference, ci95, ci90, VerdictWord.UNDECIDED, margin, p_equivalence)


def _with_direction(measured: Verdict, good_side: GoodSide) -> Verdict:
    """Better or worse where the 95 % interval is clear of 0 and the difference is not equivalent, with how large it certainly is."""
    ci95, margin = measured.ci95, measured.margin
    if measured.word is not VerdictWord.UNDECIDED or ci95 is None or margin is None or not ci95.clear_of_zero:
        return measured
    size = LARGE if ci95.low >= margin or ci95.high <= -margin else MAYBE_SMALL
    return replace(measured, word=_named(measured.difference > 0, good_side), notes=[size])


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
    reference it is. Each ratio brings the errors of its two means; a mean that both ratios stand on cancels.
    """
    used = margin or Margin(0.10)
    log_margin = math.log1p(used.value)
    k = sum(1 for g in groups.values() if g.log_se is not None) or 1
    verdicts = []
    for name, group in groups.items():
        difference = math.log(group.ratio / reference.ratio)
        errors = errors_of_difference(group, reference)
        if errors is None:
            notes = ["a ratio needs two specimens on either side of its line"]
            verdicts.append(Verdict(name, difference, None, None, VerdictWord.NONE, log_margin, notes=notes))
            continue
        verdict = _with_direction(_measured(name, difference, errors, log_margin, k), good_side)
        if verdict.word is not VerdictWord.UNDECIDED:
            verdict = _withdraw_if_bounds_could_overturn(verdict, (bounds or {}).get(name, GroupBounds()), reference_bounds or GroupBounds(), good_side)
        verdicts.append(verdict)
    return verdicts


def _nearer(measured: Verdict, reference: float, group: float) -> Verdict:
    """Better where the group is nearer to the target than the reference and than its mirror image, worse where it is further off than both."""
    assert measured.ci95 is not None
    assert measured.margin is not None
    half95 = (measured.ci95.high - measured.ci95.low) / 2
    gap = abs(group) - abs(reference)
    if abs(gap) > half95:
        size = LARGE if abs(gap) - half95 >= measured.margin else MAYBE_SMALL
        return replace(measured, word=VerdictWord.BETTER if gap < 0 else VerdictWord.WORSE, notes=[size])
    other_side = reference * group < 0 and abs(group - reference) > half95
    return replace(measured, notes=["off to the other side of the target, about as far"] if other_side else [])


def _named(is_higher: bool, good_side: GoodSide) -> VerdictWord:
    if good_side is GoodSide.NONE:
        return VerdictWord.HIGHER if is_higher else VerdictWord.LOWER
    return VerdictWord.BETTER if is_higher == (good_side is GoodSide.HIGHER) else VerdictWord.WORSE


def _withdraw_if_bounds_could_overturn(verdict: Verdict, bounds: GroupBounds, reference: GroupBounds, good_side: GoodSide) -> Verdict:
    """True values beyond their bounds move the difference one way; a verdict that lies that way keeps its direction, not its size."""
    may_rise = bounds.at_least > 0 or reference.at_most > 0
    may_fall = bounds.at_most > 0 or reference.at_least > 0
    if verdict.word is VerdictWord.UNDECIDED or not (may_rise or may_fall):
        return verdict
    if good_side is GoodSide.NEAR:
        # what is nearer now may pass the target and be further off in truth
        may_rise = may_fall = True
    wrong_way = may_fall if verdict.difference > 0 else may_rise
    if verdict.word is VerdictWord.EQUIVALENT or wrong_way:
        note = f"bounds treated as exact: {verdict.word}, but the true values could overturn it"
        return replace(verdict, word=VerdictWord.UNDECIDED, notes=[note])
    return replace(verdict, notes=[DIRECTION_ONLY])


def _half_widths(errors: Sequence[MeanError], k: int) -> tuple[float, float, float, float]:
    """Half-widths at 1 − 0.05/k and 1 − 0.10/k, standard error and df of a difference."""
    variance, df = combined_error(errors)
    se = math.sqrt(variance)
    return float(special.stdtrit(df, 1 - 0.025 / k)) * se, float(special.stdtrit(df, 1 - 0.05 / k)) * se, se, df


def _more_specimens(difference: float, errors: Sequence[MeanError], counts: Sequence[int], margin: float, k: int) -> int | None:
    for added in range(1, MOST_ADDED + 1):
        larger = [e.with_added(n, added) for e, n in zip(errors, counts, strict=True)]
        half95, half90, _, _ = _half_widths(larger, k)
        if abs(difference) + half90 < margin or abs(difference) > half95:
            return added
    return None
