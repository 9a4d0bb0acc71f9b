"""Differences in multiples of what matters, so that unlike tests can be set side by side (METHODS 15)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from assayer.core.stats.grades import Agreement, kendall_w, mid_ranks
from assayer.core.stats.groups import Interval
from assayer.core.stats.verdicts import GoodSide, VerdictWord


class Change(StrEnum):
    """What changing from the reference to another arm brings in one test."""

    GAIN = "gains"
    LOSS = "gives up"
    ALIKE = "alike"
    DIFFERS = "differs"
    OPEN = "open"


_CHANGES = {
    VerdictWord.BETTER: Change.GAIN,
    VerdictWord.WORSE: Change.LOSS,
    VerdictWord.EQUIVALENT: Change.ALIKE,
    VerdictWord.HIGHER: Change.DIFFERS,
    VerdictWord.LOWER: Change.DIFFERS,
}


def change_of(word: VerdictWord | None) -> Change:
    """The change that a verdict stands for; open where nothing is decided."""
    return _CHANGES.get(word, Change.OPEN) if word is not None else Change.OPEN


@dataclass(frozen=True, slots=True)
class Place:
    """Where an arm lies against the reference, in multiples of the margin, the good side positive."""

    at: float
    interval: Interval | None


def in_margins(difference: float, interval: Interval | None, margin: float, good_side: GoodSide, offset: float = 0.0) -> Place:
    """A difference from the reference as a multiple of the margin, turned so that the good side is positive.

    Parameters
    ----------
    difference : float
        Mean of the arm − mean of the reference.
    interval : Interval or None
        Of the difference.
    margin : float
        Smallest difference that matters, > 0, in the unit of the difference.
    good_side : GoodSide
        NONE keeps the sign of the difference.
    offset : float
        With NEAR, the reference's mean − target: what is nearer to the target than the reference is positive.
    """
    if good_side is GoodSide.NEAR:
        return _nearer(difference, interval, margin, offset)
    sign = -1.0 if good_side is GoodSide.LOWER else 1.0
    at = sign * difference / margin
    if interval is None:
        return Place(at, None)
    ends = sorted((sign * interval.low / margin, sign * interval.high / margin))
    return Place(at, Interval(*ends))


def _nearer(difference: float, interval: Interval | None, margin: float, offset: float) -> Place:
    """How much nearer to the target; the target itself is the best that an interval about it can hold."""

    def gain(d: float) -> float:
        return (abs(offset) - abs(offset + d)) / margin

    if interval is None:
        return Place(gain(difference), None)
    ends = [gain(interval.low), gain(interval.high)]
    holds_target = interval.low <= -offset <= interval.high
    return Place(gain(difference), Interval(min(ends), abs(offset) / margin if holds_target else max(ends)))


def agreement_of_tests(means: Sequence[Mapping[str, float]], good_sides: Sequence[GoodSide]) -> Agreement | None:
    """Kendall's W of how several tests rank the arms that all of them measured.

    Parameters
    ----------
    means : sequence of mapping of arm to mean
        One for each test.
    good_sides : sequence of GoodSide
        Of each test: the best arm has rank 1.

    Returns
    -------
    Agreement or None
        `graders` counts the tests and `prints` the arms; None with fewer than two tests or three arms in common.
    """
    common = [arm for arm in means[0] if all(arm in of for of in means)] if means else []
    if len(means) < 2 or len(common) < 3:
        return None
    orders = [mid_ranks([of[a] if side is GoodSide.LOWER else -of[a] for a in common]) for of, side in zip(means, good_sides, strict=True)]
    return Agreement(kendall_w(orders), len(means), len(common))
