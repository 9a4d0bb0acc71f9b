"""Verdicts against one reference: better, worse, equivalent or undecided (METHODS 13)."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum

import numpy as np
from scipy import special

from assayer.core.errors import EntryError
from assayer.core.stats.groups import GroupSummary, Interval

MOST_ADDED = 50
"""More specimens are not proposed beyond this many in each arm."""


class GoodSide(StrEnum):
    """Which way a quantity is good."""

    HIGHER = "higher"
    LOWER = "lower"
    NONE = "none"


class Verdict(StrEnum):
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
class Decision:
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
    verdict: Verdict
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
) -> list[Decision]:
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

    Returns
    -------
    list of Decision
        In the order of `groups`.
    """
    used_margin = margin or Margin(0.10)
    k = sum(1 for g in groups.values() if g.n >= 2) or 1
    return [
        _decide_one(name, reference, group, used_margin, good_side, k, (bounds or {}).get(name, GroupBounds()), reference_bounds or GroupBounds())
        for name, group in groups.items()
    ]


def _decide_one(
    name: str, reference: GroupSummary, group: GroupSummary, margin: Margin, good_side: GoodSide, k: int, bounds: GroupBounds, reference_bounds: GroupBounds
) -> Decision:
    difference = group.mean - reference.mean
    absolute = margin.absolute(reference)
    if group.sd is None or reference.sd is None:
        which = "the reference" if reference.sd is None else "this arm"
        return Decision(name, difference, None, None, Verdict.NONE, absolute, notes=[f"one value alone has no interval: {which} needs at least two"])
    if group.sd == 0 and reference.sd == 0:
        return Decision(name, difference, None, None, Verdict.NONE, absolute, notes=["no scatter in either arm: enter the reading step of the quantity"])
    if absolute is None:
        return Decision(name, difference, None, None, Verdict.NONE, None, notes=["a percentage has no meaning here: set an absolute margin"])

    variances = np.array([[reference.sd**2], [group.sd**2]])
    counts = np.array([[reference.n], [group.n]], float)
    half95, half90, se, df = _half_widths(variances, counts, k)
    ci95 = Interval(difference - float(half95[0]), difference + float(half95[0]))
    ci90 = Interval(difference - float(half90[0]), difference + float(half90[0]))
    p_equivalence = float(special.stdtr(df[0], (abs(difference) - absolute) / se[0]))
    decision = Decision(name, difference, ci95, ci90, Verdict.UNDECIDED, absolute, p_equivalence)

    if ci90.inside(-absolute, absolute):
        notes = ["real, but smaller than matters"] if ci95.clear_of_zero else []
        decision = replace(decision, verdict=Verdict.EQUIVALENT, notes=notes)
    elif ci95.clear_of_zero:
        decision = replace(decision, verdict=_named(difference > 0, good_side))
    else:
        return replace(decision, more_specimens=_more_specimens(difference, variances, counts, absolute, k))
    return _withdraw_if_bounds_could_overturn(decision, bounds, reference_bounds)


def _named(is_higher: bool, good_side: GoodSide) -> Verdict:
    if good_side is GoodSide.NONE:
        return Verdict.HIGHER if is_higher else Verdict.LOWER
    return Verdict.BETTER if is_higher == (good_side is GoodSide.HIGHER) else Verdict.WORSE


def _withdraw_if_bounds_could_overturn(decision: Decision, bounds: GroupBounds, reference: GroupBounds) -> Decision:
    """True values beyond their bounds move the difference one way; a verdict that lies that way stands."""
    may_rise = bounds.at_least > 0 or reference.at_most > 0
    may_fall = bounds.at_most > 0 or reference.at_least > 0
    rests_on_bounds = decision.verdict is Verdict.EQUIVALENT and (may_rise or may_fall)
    wrong_way = may_fall if decision.difference > 0 else may_rise
    if rests_on_bounds or (decision.verdict is not Verdict.EQUIVALENT and wrong_way):
        note = f"taken at face value: {decision.verdict}, but some values are only bounds, and the true ones could overturn it"
        return replace(decision, verdict=Verdict.UNDECIDED, notes=[note])
    return decision


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
